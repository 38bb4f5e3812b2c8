package dxf

import (
	"cmp"
	"fmt"
	"math"
	"slices"

	"juxta/core/geom"
)

// arrange makes outlines of the lines of every layer: joined end to end, those that lie in
// another of their layer its holes, and texts and open lines marks of what they lie in. What
// stays open is given besides.
func (p *pen) arrange() (*Drawing, []path) {
	d := &Drawing{Outlines: []Outline{}, Left: p.left}
	marks := p.marks
	var open []path
	for _, layer := range p.order {
		closed, loose := chain(p.paths[layer])
		for _, o := range loose {
			a, b := o.points[0], o.points[len(o.points)-1]
			length := 0.0
			for k := 1; k < len(o.points); k++ {
				length += math.Hypot(o.points[k].X-o.points[k-1].X, o.points[k].Y-o.points[k-1].Y)
			}
			if far := math.Hypot(a.X-b.X, a.Y-b.Y); len(o.points) > 2 && far <= gap*length {
				p.fault(
					o.from,
					"the outline does not close: its ends lie %.3f mm apart at (%.3f, %.3f) mm. Join them in the "+
						"drawing",
					far*1e3,
					b.X*1e3,
					b.Y*1e3,
				)
				continue
			}
			marks = append(marks, Detail{Layer: layer, Line: o.points, At: a})
		}
		open = append(open, loose...)
		p.outlines(d, layer, closed, &marks)
	}
	for _, m := range marks {
		m.into(d)
	}
	return d, open
}

// outlines sorts the closed lines of a layer into outlines and their holes.
func (p *pen) outlines(d *Drawing, layer string, closed []path, marks *[]Detail) {
	type ringed struct {
		ring geom.Ring
		from entity
		area float64
	}
	var all []ringed
	for _, c := range closed {
		ring := geom.Ring(c.points[:len(c.points)-1])
		if len(ring) > maxPoints {
			p.fault(c.from, "the outline has more than %d points", maxPoints)
			continue
		}
		if err := ring.Check(); err != nil {
			if area := ring.Area(); area < 1e-10 {
				continue // a line there and back
			}
			if at, crosses := ring.Crossing(); crosses {
				p.fault(c.from, "the outline crosses itself at (%.3f, %.3f) mm: draw it round once", at.X*1e3, at.Y*1e3)
				continue
			}
			p.fault(c.from, "%s", err)
			continue
		}
		if ring.SignedArea() < 0 {
			ring = slices.Clone(ring)
			slices.Reverse(ring)
		}
		all = append(all, ringed{ring, c.from, ring.Area()})
	}
	slices.SortStableFunc(all, func(a, b ringed) int { return cmp.Compare(b.area, a.area) })
	depth := make([]int, len(all))
	first := len(d.Outlines)
	for k, r := range all {
		twice := false
		for j := range k {
			o := all[j]
			if math.Abs(o.area-r.area) <= 1e-6*o.area && same(o.ring, r.ring) {
				twice = true // drawn twice
			}
			if o.ring.Contains(inside(r.ring)) {
				depth[k] = max(depth[k], depth[j]+1)
			}
		}
		switch {
		case twice:
		case depth[k]%2 == 1:
			*marks = append(*marks, Detail{Layer: layer, Line: r.ring, At: r.ring[0], Closed: true})
		case len(d.Outlines) >= maxOutlines:
			p.fault(r.from, "the drawing has more than %d outlines: leave out what is no ply", maxOutlines)
			return
		default:
			d.Outlines = append(d.Outlines, Outline{Layer: layer, Name: layer, Ring: r.ring})
		}
	}
	if n := len(d.Outlines) - first; n > 1 {
		for k := range n {
			if k > 0 {
				d.Outlines[first+k].Name = fmt.Sprintf("%s %d", layer, k+1)
			}
		}
	}
}

// same says whether two outlines lie on each other.
func same(a, b geom.Ring) bool {
	x, y := a.Bounds(), b.Bounds()
	return near(x.Min, y.Min) && near(x.Max, y.Max) && near(a.Centroid(), b.Centroid())
}

// inside is a place within an outline.
func inside(ring geom.Ring) geom.Point {
	if c := ring.Centroid(); ring.Contains(c) {
		return c
	}
	box := ring.Bounds()
	for k := 1; k < 64; k++ {
		y := box.Min.Y + box.Height()*float64(k)/64.1
		if lo, hi := ring.WidestAt(y); hi > lo {
			return geom.Point{X: (lo + hi) / 2, Y: y}
		}
	}
	return ring[0]
}

// into gives a mark to the smallest outline that it lies in.
func (m Detail) into(d *Drawing) {
	best, at := math.Inf(1), -1
	place := m.At
	if len(m.Line) > 1 {
		place = m.Line[len(m.Line)/2]
		if !m.Closed {
			place = m.Line[0].Middle(m.Line[1])
		}
	}
	for k, o := range d.Outlines {
		if a := o.Ring.Area(); a < best && o.Ring.Contains(place) {
			best, at = a, k
		}
	}
	switch {
	case at >= 0 && len(d.Outlines[at].Marks) < maxMarks:
		d.Outlines[at].Marks = append(d.Outlines[at].Marks, m)
	case at < 0 && len(d.Marks) < maxMarks:
		d.Marks = append(d.Marks, m)
	}
}

// chain joins the open lines of a layer end to end; what is left open is given besides. A line
// that is drawn twice counts once.
func chain(paths []path) (closed, open []path) {
	type cell [2]int64
	at := func(p geom.Point) cell { return cell{int64(math.Floor(p.X / joint)), int64(math.Floor(p.Y / joint))} }
	type end struct{ k, side int }
	ends := map[cell][]end{}
	used := make([]bool, len(paths))
	tip := func(e end) geom.Point {
		if e.side == 0 {
			return paths[e.k].points[0]
		}
		return paths[e.k].points[len(paths[e.k].points)-1]
	}
	look := func(p geom.Point, not int) (end, bool) {
		c := at(p)
		for x := c[0] - 1; x <= c[0]+1; x++ {
			for y := c[1] - 1; y <= c[1]+1; y++ {
				for _, e := range ends[cell{x, y}] {
					if !used[e.k] && e.k != not && near(tip(e), p) {
						return e, true
					}
				}
			}
		}
		return end{}, false
	}
	lines := map[[4]int64]bool{}
	for k, p := range paths {
		a, b := p.points[0], p.points[len(p.points)-1]
		if near(a, b) && len(p.points) > 2 {
			used[k] = true
			points := slices.Clone(p.points)
			points[len(points)-1] = points[0]
			closed = append(closed, path{points, p.from})
			continue
		}
		if len(p.points) == 2 {
			if a.X > b.X || a.X == b.X && a.Y > b.Y {
				a, b = b, a
			}
			key := [4]int64{
				int64(math.Round(a.X / joint)), int64(math.Round(a.Y / joint)), int64(math.Round(b.X / joint)),
				int64(math.Round(b.Y / joint)),
			}
			if lines[key] {
				used[k] = true
				continue
			}
			lines[key] = true
		}
		for side := range 2 {
			e := end{k, side}
			c := at(tip(e))
			ends[c] = append(ends[c], e)
		}
	}
	for k := range paths {
		if used[k] {
			continue
		}
		used[k] = true
		run := path{slices.Clone(paths[k].points), paths[k].from}
		grow := func() {
			for !near(run.points[0], run.points[len(run.points)-1]) || len(run.points) < 3 {
				e, found := look(run.points[len(run.points)-1], k)
				if !found {
					return
				}
				used[e.k] = true
				next := paths[e.k].points
				if e.side == 1 {
					next = slices.Clone(next)
					slices.Reverse(next)
				}
				run.points = append(run.points, next[1:]...)
			}
		}
		grow()
		if !near(run.points[0], run.points[len(run.points)-1]) {
			slices.Reverse(run.points)
			grow()
			slices.Reverse(run.points)
		}
		if len(run.points) > 3 && near(run.points[0], run.points[len(run.points)-1]) {
			run.points[len(run.points)-1] = run.points[0]
			closed = append(closed, run)
		} else {
			open = append(open, run)
		}
	}
	return closed, open
}
