package pattern

import (
	"slices"

	"juxta/core/geom"
)

// OnRoll turns a ply's outline, drawn as it lies on the tool seen from the bag
// side, into the outline as it is cut, with the fibre (or warp) along x, the
// length of the roll. angle is the fibre angle on the tool in radians.
//
// The roll lies on the table with its face up. A ply laid face up is cut as
// it is seen; a ply laid face down is cut as its mirror image, which is why
// the nest itself never mirrors anything.
func OnRoll(outline geom.Ring, angle float64, faceUp bool) geom.Ring {
	out := PlacePoints(outline, outline, angle, faceUp)
	if !faceUp {
		slices.Reverse(out) // a mirror image is gone round the other way
	}
	return out
}

// PlacePoints turns points of a ply, such as its marks, as [OnRoll] turns its outline.
func PlacePoints(outline geom.Ring, points []geom.Point, angle float64, faceUp bool) []geom.Point {
	turned := func(r geom.Ring) geom.Ring {
		r = r.Rotate(-angle)
		if !faceUp {
			for k, p := range r {
				r[k] = geom.Point{X: p.X, Y: -p.Y}
			}
		}
		return r
	}
	low := turned(outline).Bounds().Min
	return turned(points).Move(-low.X, -low.Y)
}
