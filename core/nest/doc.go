// Package nest places plies on rolls and off-cuts: irregular strip packing with the fibre direction held.
// Pieces come as they are cut, their fibre along x, the length of the roll; the engine turns them only as
// each piece allows and never mirrors them.
//
// The method is overlap minimisation on a shrinking strip by guided local search (Egeblad, Nielsen and
// Odgaard 2007; Umetani et al. 2009; Gardeyn, Wauters and Vanden Berghe 2025) over the no-fit polygons of
// convex parts, with a relaxation of all pieces at once where little overlap is left (as in Imamichi,
// Yagiura and Nagamochi 2009).
//
// Sheets lie end to end on one axis whose end shrinks. Two searchers, whatever the machine,
// meet every so many steps and share the best, so that a seed and a number of steps give the
// same nest anywhere. Where most pieces fit others whole they are joined to blocks first
// (join.go). One table of no-fit polygons serves two shapes in all their turns. At the end the
// pieces are drawn together, and of nests as long the one that leaves the larger rectangle is
// given (tidy.go). Nothing leaves the engine that [Verify] has not held against the problem in
// whole micrometres; a layout that fails is dropped and counted.
package nest
