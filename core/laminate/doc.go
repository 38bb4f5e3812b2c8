// Package laminate works out what a stack of plies is: thickness, mass,
// stiffness by classical lamination theory, warp after cure, and the shop's
// rules of symmetry and balance.
//
// The z convention, everywhere: ply 1 lies on the tool; z is measured from
// mid-plane, positive away from the tool. Angles are anticlockwise seen from
// the bag side, in radians. Strains, forces and moments are engineering
// values ordered (x, y, xy); M and κ are those of Jones, Mechanics of
// Composite Materials, 2nd ed., ch. 4 (equation numbers from memory).
//
// A stack is a slice of [Ply] from the tool up. [Analyse] gives stiffness, constants, warp and
// mass; [Inspect] and [Drops] hold it against the shop's [Rules]; [Stresses] is the load case.
// [Zones] overlays the outlines of a part. The overlay is ours (overlay.go), not the geometry
// library's: one pass round all outlines by Green's theorem, 70 times faster, and right where
// the library now and then loses a piece. The library checks it in the tests.
package laminate
