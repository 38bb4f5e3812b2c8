package nest

import (
	"math"
	"slices"
)

// start lays the pieces one by one, each as far to the start as it goes over some levels across its sheets:
// on a level the places that are taken are stretches of the no-fit polygons, and the first place beside
// them is free. What fits on no sheet is told.
func (s *searcher) start(order []int, levels int) (lost []int) {
	for i := range s.things {
		s.band[i] = -1
		s.index.drop(i)
	}
	s.end = math.Inf(1)
	for i := range s.things {
		if p := s.p.Pieces[i].At; p != nil {
			s.hold(i, *p)
		}
	}
	// What may lie on few sheets takes its room there first.
	slices.SortStableFunc(order, func(a, b int) int { return len(s.things[a].bands) - len(s.things[b].bands) })
	laid := make([]int, 0, len(order))
	for _, i := range order {
		if s.things[i].held {
			laid = append(laid, i)
		}
	}
	var taken []stretch
	// Of many pieces a new one looks at the end and at one stretch by chance: what lies far away is not asked.
	many, reach, end := len(order) > manyPieces, 0.0, 0.0
	for _, i := range order {
		if s.things[i].held {
			continue
		}
		if many {
			reach = 6 * s.things[i].long
		}
		best, found := spot{}, false
		bestEnd := math.Inf(1)
		t := &s.things[i]
		for _, b := range t.bands {
			if found {
				break // sheets are used up in their order
			}
			for turn := range t.turns {
				solid := t.solids[turn]
				lo, hi, fits := s.domain(solid, b, s.end)
				if !fits {
					continue
				}
				box := s.tables.solids[solid].box
				for k := range levels {
					y := lo.Y
					switch {
					case k == 1:
						y = hi.Y
					case k > 1 && k%2 == 0 && len(laid) > 0:
						// Beside one that lies already.
						j := laid[s.rng.IntN(len(laid))]
						if s.rng.IntN(2) == 0 {
							y = s.hi[j].Y + s.p.Gap - box.Min.Y
						} else {
							y = s.lo[j].Y - s.p.Gap - box.Max.Y
						}
						if y < lo.Y || y > hi.Y {
							continue
						}
					case k > 1:
						y = lo.Y + s.rng.Float64()*(hi.Y-lo.Y)
					}
					x, ok := 0.0, false
					// Only a place before the best so far is of use.
					from, to := lo.X, min(hi.X, bestEnd-box.Max.X)
					if many && k%2 == 0 {
						from = max(lo.X, end-reach/2)
					} else if many {
						from = lo.X + s.rng.Float64()*max(0, end-lo.X)
						to = min(to, from+reach)
					}
					if x, taken, ok = s.first(solid, from, to, y, taken); ok && x+box.Max.X < bestEnd {
						best, found, bestEnd = spot{uint8(turn), int16(b), x, y, 0}, true, x+box.Max.X
					}
				}
			}
		}
		if !found {
			lost = append(lost, i)
			continue
		}
		s.put(i, best.turn, best.band, best.x, best.y)
		laid = append(laid, i)
		end = max(end, s.hi[i].X)
	}
	s.end = s.furthest()
	return lost
}

// hold lays a piece where it is held.
func (s *searcher) hold(i int, at Placement) {
	t := &s.things[i]
	turn := max(0, slices.Index(t.turns, at.Turn/90))
	s.put(i, uint8(turn), int16(at.Sheet), s.bands[at.Sheet].start+at.X, at.Y)
}

// furthest is where the last piece ends.
func (s *searcher) furthest() float64 {
	end := 0.0
	for i := range s.things {
		if s.band[i] >= 0 {
			end = max(end, s.hi[i].X)
		}
	}
	return end
}

// manyPieces is from how many on a new piece no longer looks everywhere.
const manyPieces = 200

type stretch struct{ from, to float64 }

// first is the first free place of a solid on a level between two ends.
func (s *searcher) first(solid int, from, to, y float64, taken []stretch) (float64, []stretch, bool) {
	taken = taken[:0]
	add := func(f fit, x0, y0 float64) {
		own := len(taken)
		for k := range f.hulls {
			a, b, any := f.span(k, y-y0)
			if a, b = a+x0, b+x0; !any || b <= from {
				continue
			}
			// The parts of one piece mostly make one stretch.
			if n := len(taken); n > own && a <= taken[n-1].to && b >= taken[n-1].from {
				taken[n-1] = stretch{min(a, taken[n-1].from), max(b, taken[n-1].to)}
			} else {
				taken = append(taken, stretch{a, b})
			}
		}
	}
	box := s.tables.solids[solid].box
	low, high := y+box.Min.Y-s.p.Gap, y+box.Max.Y+s.p.Gap
	for _, k := range s.index.near(from+box.Min.X-s.p.Gap, to+box.Max.X+s.p.Gap) {
		if j := int(k); s.hi[j].Y > low && s.lo[j].Y < high {
			add(s.tables.of(s.solid(j), solid), s.x[j], s.y[j])
		}
	}
	for _, o := range s.still {
		add(s.tables.of(o.solid, solid), o.x, o.y)
	}
	slices.SortFunc(taken, func(a, b stretch) int {
		switch {
		case a.from < b.from:
			return -1
		case a.from > b.from:
			return 1
		}
		return 0
	})
	x := from
	for _, t := range taken {
		if t.from >= x {
			break
		}
		x = max(x, t.to)
	}
	return x, taken, x <= to
}
