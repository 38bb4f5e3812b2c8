// Package pattern makes flat patterns: the shape that is cut off the roll for a ply.
//
// An outline is drawn as it lies on the tool, seen from the bag. [OnRoll] turns it to the roll: its fibre along the
// roll, mirrored where the ply is laid with its face down. [PlacePoints] turns its marks alike.
//
// [Shape] is an outline from the library (rectangle, ring sector, ellipse, polygon …) or one of points with arcs, made
// into a ring of straight edges finer than any knife cuts. Kinds and their dimensions are data ([ShapeKind]), so that
// the pages and the files know them.
//
// [Splice] lays a ply that is wider than its roll of pieces side by side along the fibre, never across it, their seams
// staggered from those of its neighbours.
//
// Curved and rolled stages have packages of their own: core/drape and core/rolled.
package pattern
