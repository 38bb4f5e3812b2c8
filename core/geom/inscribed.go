package geom

import (
	"cmp"
	"slices"
)

// levels is into how many heights a ring is cut besides those of its corners
// when the largest rectangle in it is looked for.
const levels = 24

// Inscribed is a large rectangle, its sides along x and y, that lies inside
// the ring: the largest of those whose lower and upper sides lie at the height
// of a corner or at one of 24 heights between. It is exact for rectangles and
// never sticks out. Time is O(m² n) for m heights and n corners.
func (r Ring) Inscribed() Box {
	box := r.Bounds()
	heights := []float64{}
	for _, p := range r {
		heights = append(heights, p.Y)
	}
	for k := range levels + 1 {
		heights = append(heights, box.Min.Y+box.Height()*float64(k)/levels)
	}
	slices.Sort(heights)
	heights = slices.Compact(heights)
	best := Box{}
	for i, low := range heights {
		for _, high := range heights[i+1:] {
			from, to := r.clearBetween(low, high)
			if (to-from)*(high-low) > best.Width()*best.Height() {
				best = Box{Point{from, low}, Point{to, high}}
			}
		}
	}
	return best
}

// clearBetween is the longest stretch of x over which everything between two
// heights lies inside the ring.
func (r Ring) clearBetween(low, high float64) (from, to float64) {
	type span struct{ from, to float64 }
	walls := []span{}
	for i, a := range r {
		b := r[(i+1)%len(r)]
		if a.Y > b.Y {
			a, b = b, a
		}
		if a.Y == b.Y && low < a.Y && a.Y < high {
			walls = append(walls, span{min(a.X, b.X), max(a.X, b.X)})
		}
		if b.Y <= low || a.Y >= high || a.Y == b.Y {
			continue
		}
		at := func(y float64) float64 { return a.X + (b.X-a.X)*(y-a.Y)/(b.Y-a.Y) }
		x0, x1 := at(max(low, a.Y)), at(min(high, b.Y))
		walls = append(walls, span{min(x0, x1), max(x0, x1)})
	}
	slices.SortFunc(walls, func(a, b span) int { return cmp.Compare(a.from, b.from) })
	crossings := r.Crossings((low + high) / 2)
	reach := 0.0
	for i, w := range walls {
		if i > 0 && w.from-reach > to-from {
			// Inside where an odd number of walls lies to the left at mid-height.
			mid, left := (reach+w.from)/2, 0
			for _, x := range crossings {
				if x < mid {
					left++
				}
			}
			if left%2 == 1 {
				from, to = reach, w.from
			}
		}
		if i == 0 {
			reach = w.to
		}
		reach = max(reach, w.to)
	}
	return from, to
}
