package drape

import (
	"context"
	"fmt"
	"math"
	"slices"

	"juxta/core/geom"
	"juxta/core/unit"
)

// Dart is a cut from the edge of a ply to a place within it. Beyond it the fabric is laid anew:
// the thread that ends at its tip goes on straight, and what lies on its far side, the flap, is
// laid from there.
type Dart struct {
	Tip, Mouth Vec     // within the ply and on its edge, near the surface
	Overlap    float64 // of its lips, m; 0: butt
}

// DartEdge is a dart as it was cut.
type DartEdge struct {
	Line  []Vec        // on the surface, from the tip to the mouth
	Flat  []geom.Point // of the side that stays with the start
	Far   []geom.Point // of the flap
	Width float64      // at the mouth: what is cut away, m; below zero: by how much it opens on the tool
}

// cutting brings the edge of a ply back to the flat, with its darts.
type cutting struct {
	n    *Net
	main *finder
	edge []Vec
	d    *DrapedPiece

	of    []int // panel of a place of the edge
	flat  []geom.Point
	flaps []flap
}

// flap is what lies beyond a dart, laid by a net of its own.
type flap struct {
	panel
	lip   DartEdge
	mouth int  // place of the edge
	last  int  // the last place of the edge that is the flap's, from the mouth
	ahead bool // it lies ahead of the mouth on the way round
	turn  geom.Point
}

// panels lays the flaps and gives what is laid by which net; the flat and its darts are told.
func (c *cutting) panels(ctx context.Context, darts []Dart) ([]panel, error) {
	if len(darts) > mostDarts {
		return nil, fmt.Errorf("a ply has at most %d darts: split it", mostDarts)
	}
	mouths := make([]Vec, len(darts))
	for k, d := range darts {
		mouths[k] = c.insert(d.Mouth)
	}
	c.of = make([]int, len(c.edge))
	c.flat = make([]geom.Point, len(c.edge))
	far := make([]float64, len(c.edge))
	for k, p := range c.edge {
		c.flat[k], far[k] = c.main.flat(p)
	}
	for k, d := range darts {
		if err := c.lay(ctx, k+1, d, slices.Index(c.edge, mouths[k])); err != nil {
			return nil, err
		}
	}
	for k, p := range c.edge {
		if c.of[k] == 0 && far[k] > reaches {
			return nil, fault(p, "the fabric does not reach %s: its threads run off the surface before; lay it from "+
				"another start, or in pieces", p.said())
		}
	}
	return c.assemble()
}

const (
	mostDarts = 12
	reaches   = 2.5 // cells beyond the net to which it is told where a place lies
	beside    = 12  // threads that a flap's net goes on before its dart, so that this is told by both
)

// insert gives the edge a place, the nearest to one in space.
func (c *cutting) insert(p Vec) Vec {
	best, at, k := math.Inf(1), Vec{}, 0
	for i, a := range c.edge {
		b := c.edge[(i+1)%len(c.edge)]
		ab := b.Sub(a)
		t := min(1, max(0, p.Sub(a).Dot(ab)/max(ab.Dot(ab), 1e-30)))
		if q := a.along(b, t); q.Distance(p) < best {
			best, at, k = q.Distance(p), q, i+1
		}
	}
	if slices.Contains(c.edge, at) {
		return at
	}
	c.edge = slices.Insert(slices.Clone(c.edge), k, at)
	return at
}

// lay lays the flap of a dart and takes its part of the edge.
func (c *cutting) lay(ctx context.Context, which int, d Dart, mouth int) error {
	cell := c.n.Cell
	tip, far := c.main.flat(d.Tip)
	if far > reaches || !geom.Ring(c.flat).Contains(tip) {
		return fault(d.Tip, "the tip of the dart at %s lies off the ply", d.Tip.said())
	}
	to := c.flat[mouth]
	q := [2]int{1, 1}
	if to.X < 0 {
		q[0] = -1
	}
	if to.Y < 0 {
		q[1] = -1
	}
	at := [2]int{int(math.Round(tip.X / cell)), int(math.Round(tip.Y / cell))}
	along := 0 // the way of the thread that goes on: warp, or weft
	if math.Abs(to.Y-tip.Y) >= math.Abs(to.X-tip.X) {
		along = 1
	}
	across := 1 - along
	if at[across]*q[across] < 1 || at[along]*q[along] < 0 {
		return fault(
			d.Tip,
			"the dart at %s lies along or across the threads through the start, where nothing is sheared: "+
				"end it on the side where its mouth is",
			d.Tip.said(),
		)
	}
	f := flap{mouth: mouth}
	net, err := c.n.beyond(ctx, at, q, along)
	if err != nil {
		return err
	}
	if net == nil {
		return fault(d.Tip, "the tip of the dart at %s lies too near to the edge", d.Tip.said())
	}
	f.net = net
	f.own = func(c Cell) bool { return lies([2]int{c.I, c.J}, at, q, along) }
	on := net.finder(f.own)
	level := float64(at[along]) * cell
	over := func(p geom.Point) float64 { return (coordinate(p, along) - level) * float64(q[along]) }
	out := func(p geom.Point) float64 { return coordinate(p, across) * float64(q[across]) }
	// The flap lies on the side where the edge goes away from the start.
	n := len(c.edge)
	step := max(1, n/200)
	f.ahead = out(c.flat[(mouth+step)%n]) > out(c.flat[(mouth-step+n)%n])
	way := n - 1
	if f.ahead {
		way = 1
	}
	f.last = mouth
	for k := (mouth + way) % n; ; k = (k + way) % n {
		p, far := on.flat(c.edge[k])
		if over(p) <= 0 || far > reaches {
			before, _ := on.flat(c.edge[f.last])
			if far > reaches && over(before) > 3*cell {
				return fault(c.edge[k], "beyond the dart the fabric does not reach %s", c.edge[k].said())
			}
			break
		}
		if k == mouth || c.of[k] != 0 || slices.ContainsFunc(c.flaps, func(g flap) bool { return g.mouth == k }) {
			return fault(d.Tip, "the dart at %s meets another one: split the ply, or move them apart", d.Tip.said())
		}
		c.of[k], c.flat[k], f.last = which, p, k
	}
	if f.last == mouth {
		return fault(d.Tip, "beyond the dart at %s lies no fabric: its tip belongs further inside", d.Tip.said())
	}
	a, b := c.flat[f.last], c.flat[(f.last+way)%n]
	f.turn = a
	if x, y := over(a), over(b); x > 0 && y < 0 {
		t := x / (x - y)
		f.turn = geom.Point{X: a.X + t*(b.X-a.X), Y: a.Y + t*(b.Y-a.Y)}
	}
	if f.lip, err = c.lip(on, at, c.edge[mouth], d.Overlap, across, q[across]); err != nil {
		return err
	}
	c.flaps = append(c.flaps, f)
	return nil
}

func coordinate(p geom.Point, k int) float64 { return [2]float64{p.X, p.Y}[k] }

// lies says whether a cell is laid from a tip on.
func lies(c, tip, q [2]int, along int) bool {
	across := 1 - along
	lo, hi := c[along], c[along]+1
	if q[along] > 0 && lo < tip[along] || q[along] < 0 && hi > tip[along] {
		return false
	}
	return (c[across]-tip[across])*q[across] >= -beside+1
}

// lip brings the line of a dart back to the flat by both nets.
func (c *cutting) lip(on *finder, at [2]int, mouth Vec, overlap float64, across, sign int) (DartEdge, error) {
	node := c.n.at[c.n.index(at[0], at[1])]
	line, err := c.n.mesh.between(node, mouth, c.n.Cell/2)
	if err != nil {
		return DartEdge{}, err
	}
	cell := c.n.Cell
	tip := geom.Point{X: float64(at[0]) * cell, Y: float64(at[1]) * cell}
	l := DartEdge{Line: line}
	for k, p := range line {
		a, far := c.main.flat(p)
		b, more := on.flat(p)
		if far > reaches || more > reaches {
			return l, fault(p, "the fabric beside the dart does not reach %s", p.said())
		}
		if k == 0 {
			a, b = tip, tip
		}
		l.Flat, l.Far = append(l.Flat, a), append(l.Far, b)
	}
	last := len(line) - 1
	l.Width = (coordinate(l.Far[last], across) - coordinate(l.Flat[last], across)) * float64(sign)
	for k := 1; k <= last; k++ {
		a, b := l.Flat[k], l.Far[k]
		w := (coordinate(b, across) - coordinate(a, across)) * float64(sign)
		share := 0.0
		switch {
		case l.Width <= 0:
			continue // the flats lie over one another: they are joined
		case w < leastSlit:
			// A slit as wide as a knife.
			m := a.Middle(b)
			by := leastSlit / 2 * float64(sign)
			if across == 0 {
				a, b = geom.Point{X: m.X - by, Y: m.Y}, geom.Point{X: m.X + by, Y: m.Y}
			} else {
				a, b = geom.Point{X: m.X, Y: m.Y - by}, geom.Point{X: m.X, Y: m.Y + by}
			}
			l.Flat[k], l.Far[k] = a, b
			continue
		default:
			share = min(0.45, overlap/2/w)
		}
		l.Flat[k] = geom.Point{X: a.X + share*(b.X-a.X), Y: a.Y + share*(b.Y-a.Y)}
		l.Far[k] = geom.Point{X: b.X + share*(a.X-b.X), Y: b.Y + share*(a.Y-b.Y)}
	}
	return l, nil
}

// leastSlit is how wide a dart is cut at the least, m.
const leastSlit = 2e-4

// beyond is the net laid anew beyond a node: the thread through it goes on straight, what lies
// before it stays. It is nil where the surface ends at once.
func (n *Net) beyond(ctx context.Context, at, q [2]int, along int) (*Net, error) {
	f := *n
	f.at, f.t, f.on = slices.Clone(n.at), slices.Clone(n.t), slices.Clone(n.on)
	for x := range f.t {
		k := [2]int{x%n.n[0] + n.lo[0], x/n.n[0] + n.lo[1]}
		if (k[along]-at[along])*q[along] > 0 {
			f.t[x], f.on[x] = -1, false
		}
	}
	step := [2]int{}
	step[along] = q[along]
	from, over := [2]int{at[0] - step[0], at[1] - step[1]}, at
	laid := 0
	for {
		a, b := f.index(from[0], from[1]), f.index(over[0], over[1])
		to := [2]int{over[0] + step[0], over[1] + step[1]}
		x := f.index(to[0], to[1])
		if a < 0 || b < 0 || x < 0 || f.t[b] < 0 {
			break
		}
		p, on, ok := f.straight(b, a)
		if !ok {
			break
		}
		f.at[x], f.t[x], f.on[x] = p.at, p.t, on
		laid++
		from, over = over, to
	}
	if laid < 2 {
		return nil, nil
	}
	count := 0
	if err := f.quarter(ctx, at, q, noLimit, &count); err != nil {
		return nil, err
	}
	// Some threads on the other side as well, for the dart lies where it was drawn.
	back, most := q, noLimit
	back[1-along], most[1-along] = -q[1-along], beside
	return &f, f.quarter(ctx, at, back, most, &count)
}

// between is the way from one place to another over the surface, straight in plan, in steps of at
// most a length.
func (m *Mesh) between(a, b Vec, step float64) ([]Vec, error) {
	p := m.plan()
	n := max(2, int(math.Ceil(a.Distance(b)/step)))
	out := []Vec{a}
	for k := 1; k < n; k++ {
		q := a.along(b, float64(k)/float64(n))
		v, _, found := p.lift(geom.Point{X: q.X, Y: q.Y})
		if !found || v.Distance(q) > a.Distance(b) {
			return nil, fault(q, "the dart leaves the surface at %s", q.said())
		}
		out = append(out, v)
	}
	return append(out, b), nil
}

// assemble makes the flat of the whole ply, and that of each panel.
func (c *cutting) assemble() ([]panel, error) {
	n := len(c.edge)
	rings := make([]geom.Ring, len(c.flaps)+1)
	var whole geom.Ring
	opens := false
	from := slices.Index(c.of, 0)
	for from >= 0 && slices.ContainsFunc(c.flaps, func(f flap) bool { return f.mouth == from }) {
		from = (from + 1) % n
	}
	for step := range n {
		k := (from + step) % n
		at := slices.IndexFunc(c.flaps, func(f flap) bool { return f.mouth == k })
		turn := slices.IndexFunc(c.flaps, func(f flap) bool { return f.last == k })
		if turn >= 0 && !c.flaps[turn].ahead {
			// The flap begins here on this way round.
			f := c.flaps[turn]
			rings[0], rings[turn+1] = append(rings[0], f.turn), append(rings[turn+1], f.turn)
		}
		if at < 0 {
			rings[c.of[k]] = append(rings[c.of[k]], c.flat[k])
			whole = append(whole, c.flat[k])
		} else {
			f := &c.flaps[at]
			opens = opens || f.lip.Width < 0
			near, far := slices.Clone(f.lip.Flat), slices.Clone(f.lip.Far)
			if f.ahead {
				slices.Reverse(near)
				whole = append(append(whole, near...), far[1:]...)
			} else {
				slices.Reverse(far)
				whole = append(append(whole, far...), near[1:]...)
			}
			rings[0], rings[at+1] = append(rings[0], near...), append(rings[at+1], far...)
			c.d.Lips = append(c.d.Lips, f.lip)
		}
		if turn >= 0 && c.flaps[turn].ahead {
			f := c.flaps[turn]
			rings[0], rings[turn+1] = append(rings[0], f.turn), append(rings[turn+1], f.turn)
		}
	}
	if opens {
		joined, err := geom.Union(rings)
		if err != nil {
			return nil, err
		}
		if len(joined) != 1 {
			return nil, fmt.Errorf("the flat would come apart at a dart: split the ply there")
		}
		whole = joined[0]
	}
	c.d.Flat = whole.Thin(slimWithin)
	if c.d.Flat.SignedArea() < 0 {
		slices.Reverse(c.d.Flat)
	}
	panels := []panel{{net: c.n, ring: rings[0].Thin(slimWithin)}}
	for k, f := range c.flaps {
		f.ring = rings[k+1].Thin(slimWithin)
		panels = append(panels, f.panel)
	}
	return panels, nil
}

// slimWithin is how far the flat that is cut leaves the one that was computed, m.
const slimWithin = 5e-5

// says is what a planner should know of a dart.
func (l DartEdge) says() string {
	mouth := l.Line[len(l.Line)-1]
	if l.Width < 0 {
		return fmt.Sprintf(
			"the cut at %s opens by %s on the tool: lay a patch over it",
			mouth.said(),
			unit.Size(-l.Width, 1),
		)
	}
	return fmt.Sprintf("a dart of %s at %s", unit.Size(l.Width, 1), mouth.said())
}
