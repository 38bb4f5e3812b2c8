package nest

import (
	"math"

	"juxta/core/geom"
)

// relaxer moves all pieces of a layout at once until none overlaps: the sum of the squares of all depths
// goes downhill by an accelerated gradient (Nesterov 1983; started anew where it rises, as in O'Donoghue
// and Candès 2015), each piece's step by how many others press on it.
type relaxer struct {
	x, y, lastX, lastY []float64
	gx, gy, press      []float64
	was, to            []geom.Point // where the list of neighbours was made, and the domains
	lo                 []geom.Point
	deepest            float64 // that it came to
	solids             []int
	pairs              [][2]int32
	fits               []fit
	stills             [][2]int32
}

// ease is by how much more than they must pieces are kept apart along and across, so that whole
// micrometres do not make them overlap.
type ease struct{ x, y float64 }

// eases are tried in turn: where there is no room for any the sum of whole numbers is whole.
var eases = []ease{{1e-6, 1e-6}, {1e-6, 0}, {0, 1e-6}, {}}

// relax moves pieces apart and says whether none overlaps any more; then they lie as they do after it,
// else as before.
func (s *searcher) relax(most int, e ease) bool {
	if s.apart(most, e) {
		return true
	}
	for i := range s.things {
		s.put(i, s.turn[i], s.band[i], s.x[i], s.y[i])
	}
	return false
}

func (s *searcher) apart(most int, e ease) bool {
	r := &s.relaxs
	n := len(s.things)
	if r.x == nil {
		r.x, r.y, r.lastX, r.lastY = make([]float64, n), make([]float64, n), make([]float64, n), make([]float64, n)
		r.gx, r.gy, r.press = make([]float64, n), make([]float64, n), make([]float64, n)
		r.was, r.to, r.lo = make([]geom.Point, n), make([]geom.Point, n), make([]geom.Point, n)
	}
	copy(r.x, s.x)
	copy(r.y, s.y)
	copy(r.lastX, s.x)
	copy(r.lastY, s.y)
	least := math.Inf(1)
	for i := range s.things {
		lo, hi, fits := s.domain(s.solid(i), int(s.band[i]), s.end)
		if !fits {
			r.deepest = math.Inf(1)
			return false
		}
		if s.things[i].held {
			lo = geom.Point{X: s.x[i], Y: s.y[i]}
			hi = lo
		}
		r.lo[i], r.to[i] = lo, hi
		least = min(least, s.things[i].long)
	}
	margin := least * 0.05
	s.neighbours(margin)
	last, rate := math.Inf(1), 1.0
	began := 0.0
	for round := range most {
		for i := range s.things {
			if math.Abs(r.x[i]-r.was[i].X)+math.Abs(r.y[i]-r.was[i].Y) > margin/2 {
				s.neighbours(margin)
				break
			}
		}
		sum, deepest := s.pressed(e)
		r.deepest = deepest
		if deepest <= tight {
			for i := range s.things {
				s.put(i, s.turn[i], s.band[i], r.x[i], r.y[i])
			}
			return true
		}
		if round == 0 {
			began = sum
		}
		// What does not come down by far will not within this.
		if round == most/4 && sum > began*0.25 || round == most/2 && sum > began*0.02 {
			return false
		}
		if sum > last {
			rate = 1
		}
		last = sum
		next := (1 + math.Sqrt(1+4*rate*rate)) / 2
		ahead := (rate - 1) / next
		rate = next
		for i := range s.things {
			x, y := r.x[i], r.y[i]
			if r.press[i] > 0 {
				k := 1 / (1.4 * r.press[i])
				x, y = x+r.gx[i]*k, y+r.gy[i]*k
			}
			x, y = min(r.to[i].X, max(r.lo[i].X, x)), min(r.to[i].Y, max(r.lo[i].Y, y))
			nx, ny := x+ahead*(x-r.lastX[i]), y+ahead*(y-r.lastY[i])
			r.lastX[i], r.lastY[i] = x, y
			r.x[i], r.y[i] = min(r.to[i].X, max(r.lo[i].X, nx)), min(r.to[i].Y, max(r.lo[i].Y, ny))
		}
	}
	return false
}

// neighbours lists who may press on whom while nobody moves farther than a margin.
func (s *searcher) neighbours(margin float64) {
	r := &s.relaxs
	r.pairs, r.fits, r.stills, r.solids = r.pairs[:0], r.fits[:0], r.stills[:0], r.solids[:0]
	gap := s.p.Gap + margin
	for i := range s.things {
		box := s.tables.solids[s.solid(i)].box
		r.was[i] = geom.Point{X: r.x[i], Y: r.y[i]}
		r.solids = append(r.solids, s.solid(i))
		s.lo[i] = geom.Point{X: r.x[i] + box.Min.X, Y: r.y[i] + box.Min.Y}
		s.hi[i] = geom.Point{X: r.x[i] + box.Max.X, Y: r.y[i] + box.Max.Y}
		s.index.put(i, s.lo[i].X, s.hi[i].X)
	}
	for i := range s.things {
		for _, j := range s.index.near(s.lo[i].X-gap, s.hi[i].X+gap) {
			if int(j) >= i || s.lo[j].X >= s.hi[i].X+gap || s.hi[j].X <= s.lo[i].X-gap || s.lo[j].Y >= s.hi[i].Y+gap ||
				s.hi[j].Y <= s.lo[i].Y-gap {
				continue
			}
			r.pairs = append(r.pairs, [2]int32{int32(i), j})
			r.fits = append(r.fits, s.tables.of(s.solid(int(j)), s.solid(i)))
		}
		for k, o := range s.still {
			box := s.tables.solids[o.solid].box
			if !s.things[i].held && o.x+box.Min.X < s.hi[i].X+gap && o.x+box.Max.X > s.lo[i].X-gap {
				r.stills = append(r.stills, [2]int32{int32(i), int32(k)})
			}
		}
	}
}

// pressed is the sum of the squares of all depths, the deepest, and which way each piece is pressed.
func (s *searcher) pressed(e ease) (sum, deepest float64) {
	r := &s.relaxs
	clear(r.gx)
	clear(r.gy)
	clear(r.press)
	for k, p := range r.pairs {
		i, j := p[0], p[1]
		// Boxes first.
		a, b := &s.tables.solids[r.solids[i]].box, &s.tables.solids[r.solids[j]].box
		dx, dy, gap := r.x[i]-r.x[j], r.y[i]-r.y[j], s.p.Gap+2e-6
		if dx+a.Min.X > b.Max.X+gap || dx+a.Max.X < b.Min.X-gap || dy+a.Min.Y > b.Max.Y+gap ||
			dy+a.Max.Y < b.Min.Y-gap {
			continue
		}
		way := r.fits[k].ways(dx, dy, e)
		sum, deepest = sum+way.squares, max(deepest, way.deepest)
		r.gx[i] += way.x
		r.gy[i] += way.y
		r.gx[j] -= way.x
		r.gy[j] -= way.y
		r.press[i] += way.count
		r.press[j] += way.count
	}
	for _, p := range r.stills {
		i, o := p[0], s.still[p[1]]
		way := s.tables.of(o.solid, s.solid(int(i))).ways(r.x[i]-o.x, r.y[i]-o.y, ease{})
		sum, deepest = sum+way.squares, max(deepest, way.deepest)
		r.gx[i] += way.x
		r.gy[i] += way.y
		r.press[i] += way.count / 2
	}
	return sum, deepest
}

// way is out of all hulls of a fit at once.
type way struct{ x, y, squares, deepest, count float64 }

func (f fit) ways(dx, dy float64, e ease) (w way) {
	dx, dy = dx*f.sign, dy*f.sign
	more := max(e.x, e.y)
	for n := range f.rows {
		r := &f.rows[n]
		if !r.holds(dx, dy, more) {
			continue
		}
		for k := r.from; k < r.to; k++ {
			if d, nx, ny := f.hulls[k].eased(dx, dy, e); d > 0 {
				w.x += d * nx * f.sign
				w.y += d * ny * f.sign
				w.squares += d * d
				w.deepest = max(w.deepest, d)
				w.count++
			}
		}
	}
	return w
}

// eased is the shortest way out of a hull that is grown a little.
func (h *hull) eased(dx, dy float64, e ease) (least, nx, ny float64) {
	if dx <= h.lo.X-e.x || dx >= h.hi.X+e.x || dy <= h.lo.Y-e.y || dy >= h.hi.Y+e.y {
		return 0, 0, 0
	}
	least = math.MaxFloat64
	for k := range h.axes {
		a := &h.axes[k]
		d := a.c - a.nx*dx - a.ny*dy + math.Abs(a.nx)*e.x + math.Abs(a.ny)*e.y
		if d < least {
			if d <= 0 {
				return 0, 0, 0
			}
			least, nx, ny = d, a.nx, a.ny
		}
	}
	return least, nx, ny
}

// nearly is the depth from which it is the ease that does not fit, m.
const nearly = 2e-5

// relaxed relaxes with as much ease as there is.
func (s *searcher) relaxed(most int) bool {
	for _, e := range eases {
		if s.relax(most, e) {
			return true
		}
		if s.relaxs.deepest > nearly {
			return false
		}
	}
	return false
}

// shorter squeezes a layout without overlap towards the start for as long as it relaxes, and it is not to stop.
func (s *searcher) shorter(best *layout, stop func() bool) {
	for step := 0.01; step > 2e-5 && !stop(); {
		s.load(best)
		base := s.base()
		if s.squeeze(s.end-(s.end-base)*step, base) && s.relaxed(300) {
			s.end = min(s.end, s.furthest())
			best.copyFrom(s.layout)
			step = min(step*1.5, 0.05)
		} else {
			step /= 3
		}
	}
	s.load(best)
}

// base is where the last sheet that is used starts.
func (s *searcher) base() float64 {
	base := 0.0
	for _, b := range s.bands {
		if b.start < s.end {
			base = b.start
		}
	}
	return base
}

// squeeze sets a new end and brings the pieces of its sheet nearer to the sheet's start by as much.
func (s *searcher) squeeze(to, base float64) bool {
	k := (to - base) / (s.end - base)
	s.end = to
	for i := range s.things {
		if s.things[i].held {
			continue
		}
		lo, hi, fits := s.domain(s.solid(i), int(s.band[i]), to)
		if !fits {
			return false
		}
		x := s.x[i]
		if lo.X >= base-1 && s.bands[s.band[i]].start == base {
			x = base + (x-base)*k
		}
		s.put(i, s.turn[i], s.band[i], min(hi.X, max(lo.X, x)), s.y[i])
	}
	return true
}
