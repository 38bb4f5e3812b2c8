package nest

import (
	"fmt"
	"math"
	"slices"

	"juxta/core/geom"
)

// A block is some pieces laid against one another without waste, to be searched a place for as one (clusters
// of pieces as in Elkeran 2013): pieces whose sides fit whole, so that what they make together goes on
// straight at both ends of the joint, as what has been cut apart does.
type block struct {
	ring    geom.Ring // anticlockwise, on whole micrometres, without straight corners
	holes   []geom.Ring
	members []Placement // in the block's own frame
	like    Piece       // what all of them are allowed
}

// level is how far a corner may be off a straight line, and a side off the one that it fits, m: corners
// that lie on sides are whole micrometres too.
const level = 2.5e-6

// blocks joins the pieces of a problem that fit each other whole for as long as there are any: joints
// aslant first, for a side along or across may belong on the edge of the sheet, and then the longest.
// Pieces that are held stay as they are.
func blocks(p Problem) []block {
	var all []block
	for _, q := range p.Pieces {
		ring := whole(q.Outline)
		if ring.SignedArea() < 0 {
			slices.Reverse(ring)
		}
		b := block{ring: unbent(ring), members: []Placement{{ID: q.ID}}, like: q}
		for _, h := range q.Holes {
			b.holes = append(b.holes, whole(h))
		}
		all = append(all, b)
	}
	if len(all) > mostJoined {
		return all
	}
	for again := true; again; {
		again = false
		joints := jointsOf(all, p)
		used := make([]bool, len(all))
		var next []block
		for _, j := range joints {
			if used[j.a] || used[j.b] || again && !j.aslant && joints[0].aslant {
				continue
			}
			one, ok := j.joined(all, p)
			if !ok {
				continue
			}
			used[j.a], used[j.b], again = true, true, true
			next = append(next, one)
		}
		for k, b := range all {
			if !used[k] {
				next = append(next, b)
			}
		}
		all = next
	}
	return all
}

// mostJoined is how many pieces are tried to be joined at once.
const mostJoined = 1000

// unbent leaves out the corners of a ring that lie on the line between their neighbours.
func unbent(r geom.Ring) geom.Ring {
	out := slices.Clone(r)
	for k := 0; k < len(out) && len(out) > 3; {
		n := len(out)
		a, b, c := out[(k+n-1)%n], out[k], out[(k+1)%n]
		if b.To(a, c) <= level && (b.X-a.X)*(c.X-b.X)+(b.Y-a.Y)*(c.Y-b.Y) > 0 {
			out = slices.Delete(out, k, k+1)
			k = max(0, k-1)
			continue
		}
		k++
	}
	return out
}

// joint is where a side of block b, turned, fits whole on a side of block a.
type joint struct {
	a, b   int // blocks
	turn   int // of b, in quarters
	i, j   int // first of the sides of a that fit, and of b: a's i lies on b's j
	sides  int // that fit, one after another
	length float64
	aslant bool
}

type sideOf struct{ block, side int }

// jointsOf are all whole joints between two blocks, the longest first.
func jointsOf(all []block, p Problem) []joint {
	// Sides by their vectors, to a grain; a vector is looked for in the cells around its own.
	const grain = 4 * level
	type cell struct{ x, y int }
	at := func(v geom.Point) cell { return cell{int(math.Floor(v.X / grain)), int(math.Floor(v.Y / grain))} }
	sides := map[cell][]sideOf{}
	for k, b := range all {
		if b.like.At != nil {
			continue
		}
		for i := range b.ring {
			c := at(b.side(i))
			sides[c] = append(sides[c], sideOf{k, i})
		}
	}
	var out []joint
	for k := range all {
		a := &all[k]
		if a.like.At != nil {
			continue
		}
		for i := range a.ring {
			v := a.side(i)
			for _, turn := range a.like.turns() {
				// What of b, turned, is −v was so before it was turned.
				want := quarter(geom.Point{X: -v.X, Y: -v.Y}, 4-turn)
				c := at(want)
				for dx := -1; dx <= 1; dx++ {
					for dy := -1; dy <= 1; dy++ {
						for _, s := range sides[cell{c.x + dx, c.y + dy}] {
							b := &all[s.block]
							w := b.side(s.side)
							if s.block <= k || math.Hypot(w.X-want.X, w.Y-want.Y) > level || !a.like.alikeIn(b.like) {
								continue
							}
							if j, ok := jointAt(all, k, s.block, turn, i, s.side, p.Gap); ok &&
								!slices.Contains(out[max(0, len(out)-8):], j) {
								out = append(out, j)
							}
						}
					}
				}
			}
		}
	}
	slices.SortStableFunc(out, func(x, y joint) int {
		switch {
		case x.aslant != y.aslant && x.aslant:
			return -1
		case x.aslant != y.aslant:
			return 1
		case x.length > y.length+level:
			return -1
		case y.length > x.length+level:
			return 1
		}
		return 0
	})
	return out
}

// quarter is a vector turned by quarters.
func quarter(v geom.Point, turns int) geom.Point {
	switch turns % 4 {
	case 1:
		return geom.Point{X: -v.Y, Y: v.X}
	case 2:
		return geom.Point{X: -v.X, Y: -v.Y}
	case 3:
		return geom.Point{X: v.Y, Y: -v.X}
	}
	return v
}

// alikeIn says whether two pieces are allowed the same.
func (q Piece) alikeIn(o Piece) bool {
	return q.HalfTurn == o.HalfTurn && q.QuarterTurn == o.QuarterTurn && q.Kit == o.Kit && q.Batch == o.Batch &&
		slices.Equal(q.Sheets, o.Sheets)
}

// side is the vector of a side.
func (b *block) side(i int) geom.Point {
	p, q := b.ring[i], b.ring[(i+1)%len(b.ring)]
	return geom.Point{X: q.X - p.X, Y: q.Y - p.Y}
}

// jointAt is the joint of all sides on from one of a against one of b, if both its ends go on straight.
func jointAt(all []block, ka, kb, turn, i, j int, gap float64) (joint, bool) {
	a, b := &all[ka], &all[kb]
	n, m := len(a.ring), len(b.ring)
	theirs := func(k int) geom.Point {
		return quarter(b.side((k%m+m)%m), turn)
	}
	ours := func(k int) geom.Point { return a.side((k%n + n) % n) }
	fits := func(k, l int) bool {
		v, w := ours(k), theirs(l)
		return math.Hypot(v.X+w.X, v.Y+w.Y) <= level
	}
	// Along a forwards and along b backwards.
	count := 1
	for count < min(n, m)-1 && fits(i+count, j-count) {
		count++
	}
	for count < min(n, m)-1 && fits(i-1, j+1) {
		i, j, count = i-1, j+1, count+1
	}
	if gap > 0 && count > 1 {
		return joint{}, false // the knife's gap would have to go round a bend
	}
	if !ahead(ours(i-1), theirs(j+1)) || !ahead(theirs(j-count), ours(i+count)) {
		return joint{}, false
	}
	out := joint{a: ka, b: kb, turn: turn, i: (i%n + n) % n, j: (j%m + m) % m, sides: count}
	for k := range count {
		v := ours(i + k)
		out.length += math.Hypot(v.X, v.Y)
		out.aslant = out.aslant || math.Abs(v.X) > level && math.Abs(v.Y) > level
	}
	return out, true
}

// ahead says whether one side goes on in the direction of another.
func ahead(v, w geom.Point) bool {
	off := math.Abs(v.X*w.Y-v.Y*w.X) / max(math.Hypot(v.X, v.Y), math.Hypot(w.X, w.Y))
	return off <= 2*level && v.X*w.X+v.Y*w.Y > 0
}

// joined is the block that a joint makes of its two; not if it would be too large for a sheet.
func (j joint) joined(all []block, p Problem) (block, bool) {
	a, b := &all[j.a], &all[j.b]
	n, m := len(a.ring), len(b.ring)
	from, to := a.ring[j.i], a.ring[(j.i+j.sides)%n] // of the joint, on a
	place := Placement{Turn: j.turn * 90}
	turned := PlaceOutline(b.ring, place)
	// The end of b's first side lies on the beginning of a's.
	end := turned[(j.j+1)%m]
	place.X, place.Y = from.X-end.X, from.Y-end.Y
	if p.Gap > 0 {
		// Along a's side before the joint, until the gap is there.
		v, w := a.side((j.i+n-1)%n), a.side(j.i)
		long := math.Hypot(v.X, v.Y)
		across := (w.X*v.Y - w.Y*v.X) / (long * math.Hypot(w.X, w.Y))
		if math.Abs(across) < 0.2 {
			return block{}, false
		}
		by := (p.Gap + 2*slant) / math.Abs(across) / long
		place.X, place.Y = place.X+v.X*by, place.Y+v.Y*by
	}
	place.X, place.Y = micron(place.X), micron(place.Y)
	laid := PlaceOutline(b.ring, place)
	out := block{like: a.like, holes: slices.Clone(a.holes), members: slices.Clone(a.members)}
	for k := range n - j.sides + 1 {
		out.ring = append(out.ring, a.ring[(j.i+j.sides+k)%n])
	}
	for k := range m - j.sides + 1 {
		q := laid[(j.j+1+k)%m]
		if p.Gap == 0 && (k == 0 || k == m-j.sides) {
			continue // the ends of the joint: they are a's already
		}
		out.ring = append(out.ring, q)
	}
	out.ring = unbent(out.ring)
	if slices.ContainsFunc([]geom.Point{from, to}, func(q geom.Point) bool { return slices.Contains(out.ring, q) }) ||
		out.ring.Check() != nil {
		return block{}, false
	}
	for _, h := range b.holes {
		out.holes = append(out.holes, PlaceOutline(h, place))
	}
	for _, q := range b.members {
		out.members = append(out.members, onTop(q, place))
	}
	return out, out.lies(p)
}

// onTop is the placement of what lies at one place of what is laid at another.
func onTop(inner, outer Placement) Placement {
	at := PlacePoints([]geom.Point{{X: inner.X, Y: inner.Y}}, outer)[0]
	return Placement{
		ID:    inner.ID,
		Sheet: outer.Sheet,
		X:     micron(at.X),
		Y:     micron(at.Y),
		Turn:  (inner.Turn + outer.Turn) % 360,
	}
}

// lies says whether a block is not too large for any sheet that its pieces may lie on.
func (b *block) lies(p Problem) bool {
	box := b.ring.Bounds()
	for k, s := range p.Sheets {
		long := s.Length
		if s.TableLength > 0 {
			long = min(long, s.TableLength)
		}
		if b.like.may(k) && (box.Width() > long || box.Height() > s.Width-2*s.EdgeTrim) {
			return false
		}
	}
	return true
}

// inBlocks is a problem with what fits whole joined, and its blocks; false unless most of it does: a few
// joints more or less are better sought with all others (measured on kits, docs/performance.md).
func inBlocks(p Problem) (Problem, []block, bool) {
	all := blocks(p)
	if len(all) > len(p.Pieces)/3 {
		return p, nil, false
	}
	out := p
	out.Pieces, out.Together, out.Spread = nil, false, false
	for k, b := range all {
		q := b.like
		if len(b.members) > 1 {
			q.ID, q.Outline, q.Holes = fmt.Sprint("block ", k), b.ring, b.holes
		}
		all[k].like = q
		out.Pieces = append(out.Pieces, q)
	}
	return out, all, true
}

// blockSteps is how many steps the search in blocks has at the most, and blockShare how much of a search.
const (
	blockSteps = 3_000
	blockShare = 0.15
)

// startInBlocks searches a nest in blocks first and hands what it finds to a searcher, whose pieces go on
// from there one by one.
func (f *field) startInBlocks(w *worker) {
	p, all, any := inBlocks(f.p)
	if !any || !f.loose() {
		return
	}
	inner := &search{o: Options{Seed: f.o.Seed, Steps: blockSteps, Share: f.o.Share}}
	if f.o.Steps > 0 {
		inner.o.Steps = min(inner.o.Steps, max(1, int(blockShare*float64(f.o.Steps))))
	}
	found, err := inner.run(f.ctx, p, blockShare)
	f.steps += inner.steps
	if err != nil || !found.any {
		return
	}
	index := map[string]int{}
	for i, q := range f.p.Pieces {
		index[q.ID] = i
	}
	of := map[string]block{}
	for _, b := range all {
		of[b.like.ID] = b
	}
	was := w.best.clone()
	// Corners on sides are up to a micrometre off them: a little more room until all come apart.
	for room := 1.0; room < 100; room *= 4 {
		w.end = math.Inf(1)
		for _, at := range found.found.Placements {
			for _, member := range of[at.ID].members {
				q := onTop(member, at)
				q.ID = member.ID
				w.hold(index[q.ID], q)
			}
		}
		far := w.furthest()
		w.end = far + room*2e-6*float64(len(w.things)+5)
		for i, t := range w.things {
			if from := w.bands[w.band[i]].start; !t.held {
				w.put(i, w.turn[i], w.band[i], from+(w.x[i]-from)*w.end/far, w.y[i])
			}
		}
		if w.end < was.end && w.relaxed(600) {
			w.end = w.furthest()
			w.best.copyFrom(w.layout)
			w.shorter(w.best, w.stopped)
			return
		}
	}
	w.load(was)
}
