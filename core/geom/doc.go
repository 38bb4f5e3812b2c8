// Package geom is the plane geometry that every room shares: closed outlines in metres.
//
// A [Ring] is a simple polygon without holes, its last point joined to its first, not repeated; its JSON is [[x, y],
// …]. It is the one outline from the drawing to the knife. geom.go has its measures, boxes and moves; unions, overlaps
// and differences are the geometry library's.
//
// The rest is a file an idea: crossing.go finds where an outline crosses itself, offset.go moves and rounds it, thin.go
// leaves points out, inscribed.go finds a large rectangle within it (what an off-cut is good for), json.go writes it to
// the last bit, for what is kept is what was signed.
//
// Distances of a tenth of a micrometre count as none.
package geom
