// Package material keeps the clock of ageing material: how long a roll, a cut
// ply or a kit has been outside the freezer and when its life runs out; when a
// thawing roll may be opened; and which roll serves a job.
//
// The resin and its hardener are already mixed, so it ages whenever it is
// warm. Out-time adds up from the moment the material leaves the freezer,
// thawing included, and never comes back (common practice, no source).
//
// The ledger of a roll is lines that are added and never changed; a wrong one is taken back by
// a line that names it. [History] adds them up to a [Clock]; [OutTimeStatus] holds a clock
// against the limits of its material: what is spent, what the plan will still use, what is
// left, and why it must not be used.
package material
