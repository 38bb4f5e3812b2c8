// Package bag judges a vacuum bag: the leak check before a cure, and the vacuum that a place allows.
//
// [Limit] is what a check must meet: with the pump shut off, the vacuum may fall by so much in so long, from so much at
// the start. [Judge] gives a [LeakResult] with the rate and why it is not met. A check that was too short, or began too
// high, is not met, whatever it lost.
//
// No pump draws more than the air outside: [Atmosphere] is the standard one at an altitude (ICAO Doc 7488), and
// [Possible] refuses what cannot be. Vacuum is in Pa below the air outside.
//
// The stacks that a part can be closed with stand here as well, from the part outwards, with which of them are drawn
// down by vacuum. Common practice, no source.
package bag
