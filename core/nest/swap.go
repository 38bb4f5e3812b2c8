package nest

import (
	"math"
	"slices"

	"juxta/core/geom"
)

// swaps is how many pieces are tried in a place.
const swaps = 3

// swap seeks a piece that a piece could change places with, so that both overlap less.
func (s *searcher) swap(i int) bool {
	n := len(s.things)
	if n < 2 {
		return false
	}
	s.steps++
	was := spot{s.turn[i], s.band[i], s.x[i], s.y[i], 0}
	before := s.rate(i, s.solid(i), was.x, was.y, math.Inf(1))
	for range swaps {
		j := s.rng.IntN(n)
		for tries := 0; tries < 3 && !s.alike(i, j); tries++ {
			j = s.rng.IntN(n)
		}
		if !s.alike(i, j) {
			continue
		}
		theirs := spot{s.turn[j], s.band[j], s.x[j], s.y[j], 0}
		// What both cost now, their own overlap once.
		now := before + s.rate(j, s.solid(j), theirs.x, theirs.y, math.Inf(1)) -
			s.costOf(i, j)
		mi := geom.Point{X: (s.lo[i].X + s.hi[i].X) / 2, Y: (s.lo[i].Y + s.hi[i].Y) / 2}
		mj := geom.Point{X: (s.lo[j].X + s.hi[j].X) / 2, Y: (s.lo[j].Y + s.hi[j].Y) / 2}
		// j out of the way, i to its place, then j to what i has left.
		s.away = j
		a := s.fitIn(i, was.turn, int(theirs.band), mj, now)
		s.away = -1
		if a.costs >= now {
			continue
		}
		s.put(i, a.turn, a.band, a.x, a.y)
		b := s.fitIn(j, theirs.turn, int(was.band), mi, now-a.costs)
		if a.costs+b.costs < now*(1-1e-9) {
			s.put(j, b.turn, b.band, b.x, b.y)
			return true
		}
		s.put(i, was.turn, was.band, was.x, was.y)
	}
	return false
}

// alike says whether two pieces could change places: of another shape, but of about the same size.
func (s *searcher) alike(i, j int) bool {
	a, b := &s.things[i], &s.things[j]
	return i != j && !b.held && a.kind != b.kind && a.area < 3*b.area && b.area < 3*a.area &&
		slices.Contains(a.bands, int(s.band[j])) && slices.Contains(b.bands, int(s.band[i]))
}

// fitIn is the best place for a piece about a middle.
func (s *searcher) fitIn(i int, turn uint8, b int, middle geom.Point, bound float64) spot {
	t := &s.things[i]
	best := spot{costs: math.Inf(1)}
	for k := range t.turns {
		solid := t.solids[k]
		lo, hi, fits := s.domain(solid, b, s.end)
		if !fits {
			continue
		}
		box := s.tables.solids[solid].box
		for n := range 5 {
			x, y := middle.X-(box.Min.X+box.Max.X)/2, middle.Y-(box.Min.Y+box.Max.Y)/2
			if n > 0 {
				x += (s.rng.Float64()*2 - 1) * t.long * 0.25
				y += (s.rng.Float64()*2 - 1) * t.long * 0.25
			}
			x, y = min(hi.X, max(lo.X, x)), min(hi.Y, max(lo.Y, y))
			if c := s.rate(i, solid, x, y, best.costs); c < best.costs {
				best = spot{uint8(k), int16(b), x, y, c}
			}
		}
	}
	if best.costs < bound*4 {
		s.polish(i, &best, t.long*0.1, t.long*0.002)
	}
	return best
}
