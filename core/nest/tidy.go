package nest

import (
	"cmp"
	"math"
	"slices"
)

// tidy looks at the end for a nest that is no longer than the one found and leaves more of use, by drawing
// its pieces towards the start of their sheets and to either edge; of those that leave as much, the one that
// the knife is through with first. It may turn out a little shorter.
func (f *field) tidy() {
	if len(f.things) > mostTidied {
		return
	}
	s := newSearcher(f.ground, f.o.Seed, 0)
	best := f.found
	seconds := math.NaN() // that the knife takes for the best, once it is asked
	for _, side := range []float64{0, -1, 1} {
		s.load(f.best)
		s.drawn(side)
		r := f.arranged(s.layout)
		r.Rest = restOf(f.p, r)
		if r.Length > best.Length+1e-9 {
			continue
		}
		const same = 0.01 // of what is left
		shorter, more := best.Length-r.Length, r.Rest.Area()-best.Rest.Area()
		won := shorter > 5e-4 || more > same*best.Rest.Area() // half a millimetre of roll is as long
		if !won && more >= -same*best.Rest.Area() && f.o.Knife != nil {
			if math.IsNaN(seconds) {
				seconds = f.o.Knife(best)
			}
			won = f.o.Knife(r) < seconds
		}
		if won && Verify(f.p, r) == nil {
			best, seconds = r, math.NaN()
		}
	}
	f.found = best
}

// mostTidied is how many pieces a nest has at the most that is tidied at the end: some tenths of a second.
const mostTidied = 400

// drawn draws every piece that is not held as far to the start as it goes, and to the lower edge (side −1),
// the upper one (1) or neither, those nearest to the start first.
func (s *searcher) drawn(side float64) {
	order := make([]int, 0, len(s.things))
	for i, t := range s.things {
		if !t.held {
			order = append(order, i)
		}
	}
	slices.SortStableFunc(order, func(a, b int) int { return cmp.Compare(s.lo[a].X, s.lo[b].X) })
	for _, i := range order {
		solid, b := s.solid(i), s.band[i]
		lo, hi, fits := s.domain(solid, int(b), s.end)
		if !fits {
			continue
		}
		free := func(x, y float64) bool {
			return x >= lo.X && y >= lo.Y && y <= hi.Y && s.rate(i, solid, x, y, math.Inf(1)) == 0
		}
		x, y := s.x[i], s.y[i]
		x = drawnBy(x, s.bands[b].length, func(v float64) bool { return free(v, y) })
		if side != 0 {
			y = -side * drawnBy(-side*y, hi.Y-lo.Y, func(v float64) bool { return free(x, -side*v) })
		}
		s.put(i, s.turn[i], b, x, y)
	}
}

// drawnBy goes back by at most reach while it is free.
func drawnBy(v, reach float64, free func(float64) bool) float64 {
	for step, left := reach/2, reach; step > 1e-6; {
		if step <= left && free(v-step) {
			v -= step
			left -= step
		} else {
			step /= 2
		}
	}
	return v
}
