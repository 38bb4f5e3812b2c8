package nest

import (
	"math"
	"math/rand/v2"
	"slices"

	"juxta/core/geom"
)

// layout says where all pieces lie on the common axis; band is below zero for one that lies nowhere yet.
type layout struct {
	x, y []float64
	turn []uint8
	band []int16
	end  float64 // of the axis
}

func newLayout(n int) *layout {
	l := &layout{x: make([]float64, n), y: make([]float64, n), turn: make([]uint8, n), band: make([]int16, n)}
	for i := range l.band {
		l.band[i] = -1
	}
	return l
}

func (l *layout) copyFrom(o *layout) {
	copy(l.x, o.x)
	copy(l.y, o.y)
	copy(l.turn, o.turn)
	copy(l.band, o.band)
	l.end = o.end
}

func (l *layout) clone() *layout {
	out := newLayout(len(l.x))
	out.copyFrom(l)
	return out
}

// searcher moves the pieces of one layout. It allocates nothing while it does.
type searcher struct {
	*ground
	*layout
	rng    *rand.Rand
	steps  int
	lo, hi []geom.Point // boxes of the pieces where they lie
	weight []float32    // of every two pieces that went on overlapping
	fixed  []float32    // of a piece and what does not move
	index  buckets
	relaxs relaxer
	away   int       // a piece that does not count for now; −1: none
	size   []float64 // of pieces, against the others': what overlaps them costs as much more
	atAll  float64   // the root of the bulk that any overlap costs, m
}

func newSearcher(g *ground, seed, stream uint64) *searcher {
	n := len(g.things)
	s := &searcher{
		ground: g, layout: newLayout(n), rng: rand.New(rand.NewPCG(seed, stream)), lo: make([]geom.Point, n),
		hi:     make([]geom.Point, n),
		weight: make([]float32, n*n), fixed: make([]float32, n*len(g.still)),
	}
	s.index.init(g)
	s.away = -1
	for _, t := range g.things {
		s.size = append(s.size, math.Sqrt(math.Sqrt(t.area/(g.area/float64(n)))))
	}
	s.atAll = 0.02 * math.Sqrt(g.area/float64(n))
	s.forget()
	return s
}

// forget makes all weights one again.
func (s *searcher) forget() {
	for k := range s.weight {
		s.weight[k] = 1
	}
	for k := range s.fixed {
		s.fixed[k] = 1
	}
}

func (s *searcher) solid(i int) int { return s.things[i].solids[s.turn[i]] }

// put lays a piece.
func (s *searcher) put(i int, turn uint8, b int16, x, y float64) {
	s.turn[i], s.band[i], s.x[i], s.y[i] = turn, b, x, y
	box := s.tables.solids[s.solid(i)].box
	s.lo[i] = geom.Point{X: x + box.Min.X, Y: y + box.Min.Y}
	s.hi[i] = geom.Point{X: x + box.Max.X, Y: y + box.Max.Y}
	s.index.put(i, s.lo[i].X, s.hi[i].X)
}

// load takes a layout over.
func (s *searcher) load(l *layout) {
	s.layout.copyFrom(l)
	for i := range s.things {
		if s.band[i] >= 0 {
			s.put(i, s.turn[i], s.band[i], s.x[i], s.y[i])
		} else {
			s.index.drop(i)
		}
	}
}

// rate is how much a piece would overlap the others at a place, by their weights; beyond bound it is not
// told to the end.
func (s *searcher) rate(i, solid int, x, y, bound float64) float64 {
	box := s.tables.solids[solid].box
	gap := s.p.Gap
	ax, ay, bx, by := x+box.Min.X-gap, y+box.Min.Y-gap, x+box.Max.X+gap, y+box.Max.Y+gap
	sum := 0.0
	n := len(s.things)
	row := s.weight[i*n : i*n+n]
	for _, j := range s.index.near(ax, bx) {
		if int(j) == i || int(j) == s.away || s.lo[j].X >= bx || s.hi[j].X <= ax || s.lo[j].Y >= by || s.hi[j].Y <= ay {
			continue
		}
		k := float64(row[j]) * s.size[i] * s.size[j]
		if d := s.tables.of(s.things[j].solids[s.turn[j]], solid).bulk(x-s.x[j], y-s.y[j],
			s.worth((bound-sum)/k)); d > 0 {
			if sum += s.cost(d) * k; sum >= bound {
				return sum
			}
		}
	}
	for k, o := range s.still {
		w := float64(s.fixed[i*len(s.still)+k]) * s.size[i]
		if d := s.tables.of(o.solid, solid).bulk(x-o.x, y-o.y, s.worth((bound-sum)/w)); d > 0 {
			if sum += s.cost(d) * w; sum >= bound {
				return sum
			}
		}
	}
	return sum
}

// pair is how deep two pieces lie in each other.
func (s *searcher) pair(i, j int) float64 {
	if s.lo[j].X >= s.hi[i].X+s.p.Gap || s.hi[j].X <= s.lo[i].X-s.p.Gap || s.lo[j].Y >= s.hi[i].Y+s.p.Gap ||
		s.hi[j].Y <= s.lo[i].Y-s.p.Gap {
		return 0
	}
	return s.tables.of(s.solid(j), s.solid(i)).depth(s.x[i]-s.x[j], s.y[i]-s.y[j])
}

// tight is the overlap that counts as none, m: relaxed and rounded it is.
const tight = 2e-8

// total is the overlap of all, and of each piece into own.
func (s *searcher) total(own []float64) float64 {
	clear(own)
	sum := 0.0
	for i := range s.things {
		for _, j := range s.index.near(s.lo[i].X-s.p.Gap, s.hi[i].X+s.p.Gap) {
			if int(j) >= i {
				continue
			}
			if d := s.pair(i, int(j)); d > tight {
				own[i] += d
				own[j] += d
				sum += d
			}
		}
		solid := s.solid(i)
		for _, o := range s.still {
			if s.things[i].held {
				break // it was held against them when it was asked for
			}
			if d := s.tables.of(o.solid, solid).depth(s.x[i]-o.x, s.y[i]-o.y); d > tight {
				own[i] += d
				sum += d
			}
		}
		if s.outside(i) {
			own[i] += s.things[i].long
			sum += s.things[i].long
		}
	}
	return sum
}

// outside says whether a piece is longer than what is left to it of the last sheet that is used: it has to go
// to another.
func (s *searcher) outside(i int) bool {
	if len(s.bands) == 1 || s.things[i].held {
		return false
	}
	_, _, fits := s.domain(s.solid(i), int(s.band[i]), s.end)
	return !fits
}

// reweigh raises the weights of what overlaps, the more the deeper, and lets the others fade.
func (s *searcher) reweigh() {
	n := len(s.things)
	deepest := 0.0
	for i := range s.things {
		for _, j := range s.index.near(s.lo[i].X-s.p.Gap, s.hi[i].X+s.p.Gap) {
			if int(j) < i {
				deepest = max(deepest, s.pair(i, int(j)))
			}
		}
	}
	const least, most, fade = 1.02, 1.1, 0.99
	for k, w := range s.weight {
		if w > 1 {
			s.weight[k] = max(1, w*fade)
		}
	}
	raise := func(w *float32, d float64) {
		*w = float32(min(1e6, float64(*w)/fade*(least+(most-least)*min(1, d/max(deepest, 1e-12)))))
	}
	for i := range s.things {
		for _, j := range s.index.near(s.lo[i].X-s.p.Gap, s.hi[i].X+s.p.Gap) {
			if int(j) >= i {
				continue
			}
			if d := s.pair(i, int(j)); d > tight {
				raise(&s.weight[i*n+int(j)], d)
				s.weight[int(j)*n+i] = s.weight[i*n+int(j)]
			}
		}
		for k, o := range s.still {
			w := &s.fixed[i*len(s.still)+k]
			if d := s.tables.of(o.solid, s.solid(i)).depth(s.x[i]-o.x, s.y[i]-o.y); d > tight {
				raise(w, d)
			} else {
				*w = max(1, *w*fade)
			}
		}
	}
}

// spot is a place for a piece and what it costs.
type spot struct {
	turn  uint8
	band  int16
	x, y  float64
	costs float64
}

const kept = 3 // places that are polished

// move seeks a better place for a piece and lays it there.
func (s *searcher) move(i int) bool {
	s.steps++
	t := &s.things[i]
	here := spot{s.turn[i], s.band[i], s.x[i], s.y[i], 0}
	here.costs = s.rate(i, s.solid(i), here.x, here.y, math.Inf(1))
	if s.outside(i) {
		here.costs = math.Inf(1)
	}
	if here.costs <= tight {
		return false
	}
	best := [kept]spot{}
	for k := range best {
		best[k].costs = math.Inf(1)
	}
	keep := func(p spot) {
		k := kept - 1
		if p.costs >= best[k].costs {
			return
		}
		for k > 0 && best[k-1].costs > p.costs {
			best[k] = best[k-1]
			k--
		}
		best[k] = p
	}
	keep(here)
	try := func(turn uint8, b int, x, y float64) {
		lo, hi, fits := s.domain(t.solids[turn], b, s.end)
		if !fits {
			return
		}
		x, y = min(hi.X, max(lo.X, x)), min(hi.Y, max(lo.Y, y))
		c := s.rate(i, t.solids[turn], x, y, best[kept-1].costs)
		keep(spot{turn, int16(b), x, y, c})
	}
	const wide, close = 32, 16
	for range wide {
		turn := uint8(s.rng.IntN(len(t.turns)))
		b := s.anyBand(t)
		lo, hi, fits := s.domain(t.solids[turn], b, s.end)
		if !fits {
			continue
		}
		try(turn, b, lo.X+s.rng.Float64()*(hi.X-lo.X), lo.Y+s.rng.Float64()*(hi.Y-lo.Y))
	}
	for range close {
		turn := here.turn
		x, y := here.x+(s.rng.Float64()*2-1)*t.long*0.5, here.y+(s.rng.Float64()*2-1)*t.long*0.5
		if len(t.turns) > 1 && s.rng.IntN(3) == 0 {
			turn = uint8(s.rng.IntN(len(t.turns)))
			// The other way round where it lies: middle on middle.
			a, b := s.tables.solids[t.solids[here.turn]].box, s.tables.solids[t.solids[turn]].box
			x += (a.Min.X + a.Max.X - b.Min.X - b.Max.X) / 2
			y += (a.Min.Y + a.Max.Y - b.Min.Y - b.Max.Y) / 2
		}
		try(turn, int(here.band), x, y)
	}
	for k := range best {
		if !math.IsInf(best[k].costs, 1) && best[k] != here {
			s.polish(i, &best[k], t.long*0.1, t.long*0.005)
		} else if best[k] == here {
			s.polish(i, &best[k], t.long*0.02, t.long*0.002)
		}
	}
	won := slices.MinFunc(best[:], func(a, b spot) int {
		switch {
		case a.costs < b.costs:
			return -1
		case a.costs > b.costs:
			return 1
		}
		return 0
	})
	if !math.IsInf(won.costs, 1) && won.costs > 0 {
		s.polish(i, &won, t.long*0.004, t.long*1e-4)
	}
	if won.costs >= here.costs {
		return false
	}
	s.put(i, won.turn, won.band, won.x, won.y)
	return true
}

// anyBand is a sheet for a piece, by chance as long as they are.
func (s *searcher) anyBand(t *thing) int {
	if len(t.bands) == 1 {
		return t.bands[0]
	}
	sum := 0.0
	for _, b := range t.bands {
		sum += max(0, min(s.bands[b].end(), s.end)-s.bands[b].start)
	}
	at := s.rng.Float64() * sum
	for _, b := range t.bands {
		if at -= max(0, min(s.bands[b].end(), s.end)-s.bands[b].start); at <= 0 {
			return b
		}
	}
	return t.bands[0]
}

// polish goes downhill from a place by steps along, across and aslant, that grow where they help and
// shrink where they do not.
func (s *searcher) polish(i int, p *spot, step, least float64) {
	solid := s.things[i].solids[p.turn]
	lo, hi, _ := s.domain(solid, int(p.band), s.end)
	for step > least && p.costs > 0 {
		dx, dy := step, step
		switch s.rng.IntN(4) {
		case 0:
			dy = 0
		case 1:
			dx = 0
		case 2:
			dy = -dy
		}
		better := false
		for range 2 {
			x, y := min(hi.X, max(lo.X, p.x+dx)), min(hi.Y, max(lo.Y, p.y+dy))
			if x != p.x || y != p.y {
				if c := s.rate(i, solid, x, y, p.costs); c < p.costs {
					p.x, p.y, p.costs, better = x, y, c, true
					break
				}
			}
			dx, dy = -dx, -dy
		}
		if better {
			step *= 1.1
		} else {
			step *= 0.6
		}
	}
}

// costOf is what two pieces cost where they lie.
func (s *searcher) costOf(i, j int) float64 {
	bulk := s.tables.of(s.solid(j), s.solid(i)).bulk(s.x[i]-s.x[j], s.y[i]-s.y[j], math.Inf(1))
	return s.cost(bulk) * float64(s.weight[i*len(s.things)+j]) * s.size[i] * s.size[j]
}

// cost is of an overlap: by its root, so that one deep overlap is dearer than few, but cheaper than many
// slight ones, and of any at all a little, so that there are few.
func (s *searcher) cost(bulk float64) float64 {
	if bulk <= 0 {
		return 0
	}
	return math.Sqrt(bulk + s.atAll*s.atAll)
}

// worth is the bulk that has a cost; a hair more, so that what is not told to the end is dearer for sure.
func (s *searcher) worth(cost float64) float64 { return cost*cost*(1+1e-9) - s.atAll*s.atAll }
