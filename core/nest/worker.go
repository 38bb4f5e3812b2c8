package nest

import (
	"cmp"
	"math"
	"math/rand/v2"
	"slices"
)

// worker is one searcher at its work.
type worker struct {
	*searcher
	k       int
	f       *field
	own     []float64
	order   []int
	best    *layout // shortest of its own or of the others' without overlap
	least   *layout // of least overlap
	pool    []pooled
	spare   []*layout
	next    int  // steps at which it meets the others
	over    bool // the search is
	changed bool // another found a shorter one
}

type pooled struct {
	l    *layout
	over float64
}

func (f *field) work(k int) {
	s := newSearcher(f.ground, f.o.Seed, uint64(k)+1)
	w := &worker{searcher: s, k: k, f: f, own: make([]float64, len(f.things)), next: f.stretch()}
	order := f.sequence()
	if k > 0 {
		stir(s.rng, order)
	}
	lost := s.start(order, max(6, min(24, 900/len(order))))
	if len(lost) > 0 {
		if k == 0 {
			f.lost = lost
		}
		return
	}
	// Some room for whole micrometres.
	s.end += 2e-6 * float64(len(s.things)+5)
	s.relaxed(300)
	w.best, w.least = s.clone(), s.clone()
	w.gather()
	for !w.over {
		w.shrink()
	}
}

// stir exchanges some neighbours of an order.
func stir(rng *rand.Rand, order []int) {
	for range len(order) / 2 {
		i := rng.IntN(len(order))
		j := min(len(order)-1, i+1+rng.IntN(3))
		order[i], order[j] = order[j], order[i]
	}
}

// gather meets the other searchers: the best of all is checked and shared, and whether it goes on.
func (w *worker) gather() {
	f := w.f
	f.meet.gather(w, func(all []*worker) {
		for _, o := range all {
			f.steps += o.steps
			o.steps = 0
		}
		slices.SortFunc(all, func(a, b *worker) int {
			return cmp.Or(cmp.Compare(a.best.end, b.best.end), cmp.Compare(a.k, b.k))
		})
		for _, o := range all {
			if f.best != nil && o.best.end >= f.best.end-1e-6 || f.accept(o.best) {
				break
			}
		}
		f.tell()
		if !f.begun && f.until == 1 && !f.plain {
			f.startInBlocks(all[0])
			if all[0].best.end < f.best.end-1e-6 && f.accept(all[0].best) {
				f.tell()
			}
		}
		f.begun = true
		over := f.ctx.Err() != nil || f.until < 1 && f.share() > f.until || f.o.Steps > 0 && f.steps >= f.o.Steps ||
			f.best != nil && (f.shortest(f.best) || !f.loose()) || !f.any && f.share() > patience
		for _, o := range all {
			o.over = over
			if f.best != nil && f.best.end < o.best.end-1e-7 {
				o.best.copyFrom(f.best)
				o.changed = true
			}
		}
	})
	w.next = f.stretch()
}

// shrink goes for a shorter strip than the best until there is one, another searcher has it, or it is over.
func (w *worker) shrink() {
	if w.f.shortest(w.best) || !w.f.loose() {
		w.gather()
		return
	}
	w.load(w.best)
	base := w.base()
	exploring := w.f.share() < 0.8
	by := 0.01
	if !exploring {
		by = 0.001 * math.Pow(0.1, w.rng.Float64())
	}
	w.changed = false
	w.squeezeAt(max(w.f.bound, w.end-(w.end-base)*by), base)
	w.pool = w.pool[:0]
	w.forget()
	for !w.over && !w.changed {
		// Few pieces are settled soon: rather begin again.
		idle, strikes := min(40, 5+len(w.things)), 1+min(1, len(w.things)/20)
		if !exploring {
			idle, strikes = 40, 1
		}
		if w.separate(idle, strikes) {
			w.best.copyFrom(w.layout)
			w.shorter(w.best, w.stopped)
			w.meetIfDue()
			return
		}
		if w.over || w.changed {
			return
		}
		if !exploring {
			return
		}
		w.keep()
		w.disturb()
	}
}

// squeezeAt sets a new end: what lies beyond a level by chance comes nearer by as much.
func (w *worker) squeezeAt(to, base float64) {
	by := w.end - to
	at := base + w.rng.Float64()*(w.end-base)
	w.end = to
	for i := range w.things {
		if w.things[i].held {
			continue
		}
		lo, hi, fits := w.domain(w.solid(i), int(w.band[i]), to)
		if !fits {
			continue
		}
		x := w.x[i]
		if (w.lo[i].X+w.hi[i].X)/2 > at {
			x -= by
		}
		w.put(i, w.turn[i], w.band[i], min(hi.X, max(lo.X, x)), w.y[i])
	}
}

// stopped says whether the time is over, or somebody has stopped the search.
func (w *worker) stopped() bool { return w.f.ctx.Err() != nil }

func (w *worker) meetIfDue() {
	if w.steps >= w.next || w.stopped() {
		w.gather()
	}
}

// separate moves what overlaps until nothing does.
func (w *worker) separate(idle, strikes int) bool {
	if w.relaxed(120) {
		return true
	}
	least := w.total(w.own)
	w.least.copyFrom(w.layout)
	tried := math.Inf(1) // to relax, and it did not
	for strike := 0; strike < strikes; strike++ {
		began := least
		for quiet := 0; quiet < idle; quiet++ {
			w.sweep()
			sum := w.total(w.own)
			if sum < least {
				if sum < least*0.98 {
					quiet = 0
				}
				least = sum
				w.least.copyFrom(w.layout)
				if sum < 0.8*tried {
					tried = sum
					if w.relaxed(120) {
						return true
					}
				}
			}
			w.reweigh()
			if w.meetIfDue(); w.over || w.changed {
				return false
			}
		}
		if least < began*0.98 {
			strike = -1
		}
		w.load(w.least)
	}
	return false
}

// sweep moves every piece that overlaps once, in an order by chance.
func (w *worker) sweep() {
	w.order = w.order[:0]
	for i, d := range w.own {
		if d > 0 && !w.things[i].held {
			w.order = append(w.order, i)
		}
	}
	w.steps++ // so that a sweep without a move counts as well
	w.rng.Shuffle(len(w.order), func(a, b int) { w.order[a], w.order[b] = w.order[b], w.order[a] })
	for _, i := range w.order {
		if w.stopped() {
			return
		}
		w.move(i)
		if w.rate(i, w.solid(i), w.x[i], w.y[i], math.Inf(1)) > tight {
			w.swap(i)
		}
	}
}

const mostPooled = 12

// keep puts the layout of the least overlap into the pool of those to go on from.
func (w *worker) keep() {
	w.load(w.least)
	p := pooled{over: w.total(w.own)}
	switch {
	case len(w.pool) < mostPooled && len(w.spare) > 0:
		p.l = w.spare[len(w.spare)-1]
		w.spare = w.spare[:len(w.spare)-1]
	case len(w.pool) < mostPooled:
		p.l = newLayout(len(w.things))
	default:
		worst := w.pool[len(w.pool)-1]
		if worst.over <= p.over {
			return
		}
		p.l = worst.l
		w.pool = w.pool[:len(w.pool)-1]
	}
	p.l.copyFrom(w.least)
	at, _ := slices.BinarySearchFunc(
		w.pool,
		p.over,
		func(q pooled, over float64) int { return cmp.Compare(q.over, over) },
	)
	w.pool = slices.Insert(w.pool, at, p)
}

// scatter lays all pieces anywhere.
func (w *worker) scatter() {
	for i := range w.things {
		t := &w.things[i]
		turn := uint8(w.rng.IntN(len(t.turns)))
		b := w.anyBand(t)
		lo, hi, fits := w.domain(t.solids[turn], b, w.end)
		if fits && !t.held {
			w.put(i, turn, int16(b), lo.X+w.rng.Float64()*(hi.X-lo.X), lo.Y+w.rng.Float64()*(hi.Y-lo.Y))
		}
	}
}

// anew is how often a search begins anywhere, in a hundred.
const anew = 15

// disturb goes back to a layout of little overlap and exchanges two of its large pieces, or begins anew.
func (w *worker) disturb() {
	if w.rng.IntN(100) < anew {
		w.forget()
		w.scatter()
		return
	}
	if len(w.pool) > 0 {
		// The first ones more often.
		k := int(math.Abs(w.rng.NormFloat64()) * 0.3 * float64(len(w.pool)))
		w.load(w.pool[min(k, len(w.pool)-1)].l)
	}
	w.forget()
	large := w.large()
	if len(large) < 2 {
		return
	}
	a := large[w.rng.IntN(len(large))]
	b := large[w.rng.IntN(len(large))]
	for tries := 0; tries < 8 && w.things[a].kind == w.things[b].kind; tries++ {
		b = large[w.rng.IntN(len(large))]
	}
	if a == b {
		return
	}
	w.exchange(a, b)
}

// large are the pieces that make three quarters of the area of convex boxes, by size.
func (w *worker) large() []int {
	order := w.sequence()
	order = slices.DeleteFunc(order, func(i int) bool { return w.things[i].held })
	sum := 0.0
	for _, i := range order {
		sum += w.things[i].area
	}
	part := 0.0
	for k, i := range order {
		if part += w.things[i].area; part > 0.8*sum {
			return order[:min(len(order), max(2, k+1))]
		}
	}
	return order
}

// exchange lays each of two pieces where the other was, middle on middle.
func (w *worker) exchange(a, b int) {
	mx, my := (w.lo[a].X+w.hi[a].X)/2, (w.lo[a].Y+w.hi[a].Y)/2
	nx, ny := (w.lo[b].X+w.hi[b].X)/2, (w.lo[b].Y+w.hi[b].Y)/2
	ba, bb := w.band[a], w.band[b]
	for _, to := range []struct {
		i    int
		b    int16
		x, y float64
	}{{a, bb, nx, ny}, {b, ba, mx, my}} {
		t := &w.things[to.i]
		if !slices.Contains(t.bands, int(to.b)) {
			continue
		}
		turn := uint8(w.rng.IntN(len(t.turns)))
		box := w.tables.solids[t.solids[turn]].box
		lo, hi, fits := w.domain(t.solids[turn], int(to.b), w.end)
		if !fits {
			continue
		}
		x, y := to.x-(box.Min.X+box.Max.X)/2, to.y-(box.Min.Y+box.Max.Y)/2
		w.put(to.i, turn, to.b, min(hi.X, max(lo.X, x)), min(hi.Y, max(lo.Y, y)))
	}
}
