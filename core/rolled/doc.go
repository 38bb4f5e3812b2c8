// Package rolled develops the flat outlines of what is rolled on a mandrel: tubes, poles,
// tapered vanes. A section is convex, the mandrel straight, its size constant or changing
// linearly along its length.
//
// x runs along the mandrel from its first end. A section is seen from the first end, and
// lengths round it are counted anticlockwise from the middle of its side at the right. A flat
// sheet is seen from outside: x along the mandrel, y the way round. Lengths in m, angles in
// radians, masses in kg.
//
// A [Roll] is a mandrel, its sheets in their turn and what it is wanted to come to; Analyse
// gives the flat of each sheet, the wall, the outside, seams, mass and stiffness, and what to
// look at. In plan a roll is unrolled: x along the part, y once round.
package rolled
