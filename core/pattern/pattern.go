// Package pattern makes flat patterns: the shape that is cut off the roll for
// a ply as it lies on the tool.
package pattern

import "juxta/core/geom"

// OnRoll turns a ply's outline, drawn as it lies on the tool seen from the bag
// side, into the outline as it is cut, with the fibre (or warp) along x, the
// length of the roll. angle is the fibre angle on the tool in radians.
//
// The roll lies on the table with its face up. A ply laid face up is cut as
// it is seen; a ply laid face down is cut as its mirror image, which is why
// the nest itself never mirrors anything.
func OnRoll(outline geom.Ring, angle float64, faceUp bool) geom.Ring {
	flat := outline.Rotate(-angle)
	if !faceUp {
		flat = flat.Flip()
	}
	low := flat.Bounds().Min
	return flat.Move(-low.X, -low.Y)
}
