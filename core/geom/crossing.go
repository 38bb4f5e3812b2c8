package geom

import (
	"cmp"
	"math"
	"slices"
)

// Crossing is a place at which an outline crosses or touches itself, the leftmost that is found;
// false: there is none. Sides are held against those that lie beside them along x.
func (r Ring) Crossing() (Point, bool) {
	type side struct {
		a, b   Point
		lo, hi float64
		k      int
	}
	n := len(r)
	sides := make([]side, n)
	for k, a := range r {
		b := r[(k+1)%n]
		sides[k] = side{a, b, min(a.X, b.X), max(a.X, b.X), k}
	}
	slices.SortFunc(sides, func(a, b side) int { return cmp.Compare(a.lo, b.lo) })
	var open []side
	for _, s := range sides {
		open = slices.DeleteFunc(open, func(o side) bool { return o.hi < s.lo })
		for _, o := range open {
			if d := (s.k - o.k + n) % n; d == 1 || d == n-1 {
				continue // neighbours share a corner
			}
			if p, meet := meeting(s.a, s.b, o.a, o.b); meet {
				return p, true
			}
		}
		open = append(open, s)
	}
	return Point{}, false
}

// meeting is where two straight pieces meet.
func meeting(a, b, c, d Point) (Point, bool) {
	const slack = 1e-9
	ux, uy, vx, vy := b.X-a.X, b.Y-a.Y, d.X-c.X, d.Y-c.Y
	det := ux*vy - uy*vx
	if math.Abs(det) < 1e-18 {
		for _, p := range []Point{a, b} {
			if p.To(c, d) < slack {
				return p, true
			}
		}
		return c, c.To(a, b) < slack
	}
	t := ((c.X-a.X)*vy - (c.Y-a.Y)*vx) / det
	s := ((c.X-a.X)*uy - (c.Y-a.Y)*ux) / det
	if t < -slack || t > 1+slack || s < -slack || s > 1+slack {
		return Point{}, false
	}
	return Point{a.X + t*ux, a.Y + t*uy}, true
}
