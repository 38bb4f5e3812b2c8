package cutpath

import (
	"cmp"
	"math"
	"slices"

	"juxta/core/geom"
)

// sides are those that are cut, by where they lie along the sheet.
type sides struct{ cells map[int][][2]geom.Point }

const (
	cell    = 0.1  // m
	aligned = 2e-6 // sides no farther apart are one cut, m
	crumb   = 1e-5 // what is left of a side is not cut for itself below this, m
)

func cellsOf(a, b geom.Point) (from, to int) {
	return int(math.Floor((min(a.X, b.X) - aligned) / cell)), int(math.Floor((max(a.X, b.X) + aligned) / cell))
}

func (s *sides) add(a, b geom.Point) {
	if s.cells == nil {
		s.cells = map[int][][2]geom.Point{}
	}
	from, to := cellsOf(a, b)
	for k := from; k <= to; k++ {
		s.cells[k] = append(s.cells[k], [2]geom.Point{a, b})
	}
}

// without is what of a side is not cut yet.
func (s *sides) without(a, b geom.Point) [][2]geom.Point {
	long := apart(a, b)
	ux, uy := (b.X-a.X)/long, (b.Y-a.Y)/long
	type stretch struct{ from, to float64 }
	var taken []stretch
	from, to := cellsOf(a, b)
	for k := from; k <= to; k++ {
		for _, q := range s.cells[k] {
			c, d := q[0], q[1]
			// How far off the line of the side, and where along it.
			offC, offD := (c.X-a.X)*uy-(c.Y-a.Y)*ux, (d.X-a.X)*uy-(d.Y-a.Y)*ux
			if math.Abs(offC) > aligned || math.Abs(offD) > aligned {
				continue
			}
			x, y := (c.X-a.X)*ux+(c.Y-a.Y)*uy, (d.X-a.X)*ux+(d.Y-a.Y)*uy
			if lo, hi := max(0, min(x, y)), min(long, max(x, y)); hi > lo {
				taken = append(taken, stretch{lo, hi})
			}
		}
	}
	if len(taken) == 0 {
		return [][2]geom.Point{{a, b}}
	}
	slices.SortFunc(taken, func(p, q stretch) int { return cmp.Compare(p.from, q.from) })
	var out [][2]geom.Point
	at := func(x float64) geom.Point {
		switch {
		case x <= 0:
			return a
		case x >= long:
			return b
		}
		return geom.Point{X: a.X + ux*x, Y: a.Y + uy*x}
	}
	free := 0.0
	for _, t := range append(taken, stretch{long, long}) {
		if t.from-free > crumb {
			out = append(out, [2]geom.Point{at(free), at(t.from)})
		}
		free = max(free, t.to)
	}
	return out
}
