package geom

import (
	"fmt"
	"math"
	"slices"

	sf "github.com/peterstace/simplefeatures/geom"
)

// Thin leaves out points of a line that lie within a distance of it without them; its ends stay
// (Douglas and Peucker 1973).
func Thin(points []Point, within float64) []Point {
	if len(points) < 3 {
		return points
	}
	keep := make([]bool, len(points))
	keep[0], keep[len(points)-1] = true, true
	var look func(i, j int)
	look = func(i, j int) {
		far, at := within, -1
		for k := i + 1; k < j; k++ {
			if d := points[k].To(points[i], points[j]); d > far {
				far, at = d, k
			}
		}
		if at > 0 {
			keep[at] = true
			look(i, at)
			look(at, j)
		}
	}
	look(0, len(points)-1)
	out := make([]Point, 0, len(points))
	for k, p := range points {
		if keep[k] {
			out = append(out, p)
		}
	}
	return out
}

// Thin is the outline without points that lie within a distance of it without them, thinned
// between the two that lie farthest apart, so that no corner is lost.
func (r Ring) Thin(within float64) Ring {
	if len(r) < 4 {
		return r
	}
	farthest := func(from Point) int {
		best, at := -1.0, 0
		for k, p := range r {
			if d := math.Hypot(p.X-from.X, p.Y-from.Y); d > best {
				best, at = d, k
			}
		}
		return at
	}
	a := farthest(r[0])
	b := farthest(r[a])
	turned := slices.Concat(r[a:], r[:a], Ring{r[a]})
	half := (b - a + len(r)) % len(r)
	if half == 0 {
		return r // all in one place
	}
	there, back := Thin(turned[:half+1], within), Thin(turned[half:], within)
	return slices.Concat(Ring(there), Ring(back[1:len(back)-1]))
}

// Band is what of an outline lies between two levels of y, anticlockwise; of one that is hollow
// there may be several pieces, of one that lies elsewhere there is none.
func (r Ring) Band(lo, hi float64) ([]Ring, error) {
	box := r.Bounds()
	band := Rect(box.Width()+2, hi-lo).Move(box.Min.X-1, lo)
	shared, err := sf.Intersection(r.Polygon(), band.Polygon())
	if err != nil {
		return nil, fmt.Errorf("cut along a line: %w", err)
	}
	return rings(shared), nil
}

// Union is the outside of outlines that touch or lie over one another.
func Union(all []Ring) ([]Ring, error) {
	if len(all) == 0 {
		return nil, nil
	}
	sum := all[0].Polygon()
	for _, r := range all[1:] {
		var err error
		if sum, err = sf.Union(sum, r.Polygon()); err != nil {
			return nil, fmt.Errorf("join outlines: %w", err)
		}
	}
	return rings(sum), nil
}

// rings are the outsides of the polygons of a geometry without slivers, where two only touch.
func rings(g sf.Geometry) []Ring {
	var out []Ring
	for _, part := range g.Dump() {
		if part.Type() != sf.TypePolygon {
			continue
		}
		seq := part.MustAsPolygon().ExteriorRing().Coordinates()
		ring := make(Ring, 0, seq.Length())
		for k := range seq.Length() - 1 {
			p := seq.GetXY(k)
			ring = append(ring, Point{X: p.X, Y: p.Y})
		}
		if ring.Area() < 1e-7 {
			continue
		}
		if ring.SignedArea() < 0 {
			slices.Reverse(ring)
		}
		out = append(out, ring)
	}
	return out
}
