package nest

import (
	"cmp"
	"math"
	"slices"
	"sync/atomic"

	"juxta/core/geom"
)

// A solid is a shape in one turn: its convex parts and its box, about the origin of its points.
type solid struct {
	parts []part
	boxes []geom.Box
	box   geom.Box
	area  float64
	gap   float64 // that others keep from it
}

func newSolid(parts []part, gap float64) solid {
	s := solid{parts: parts, box: geom.Ring(parts[0]).Bounds(), gap: gap}
	for _, p := range parts {
		b := geom.Ring(p).Bounds()
		s.boxes = append(s.boxes, b)
		s.box.Min.X, s.box.Min.Y = min(s.box.Min.X, b.Min.X), min(s.box.Min.Y, b.Min.Y)
		s.box.Max.X, s.box.Max.Y = max(s.box.Max.X, b.Max.X), max(s.box.Max.Y, b.Max.Y)
		s.area += geom.Ring(p).Area()
	}
	return s
}

// turned is the solid turned by quarters.
func (s solid) turned(quarters int) solid {
	out := make([]part, len(s.parts))
	for k, p := range s.parts {
		out[k] = part(geom.Ring(p).Rotate(float64(quarters) * math.Pi / 2))
	}
	return newSolid(out, s.gap)
}

// An axis is a side of a convex no-fit polygon: the moving part is in the other one while
// nx·dx + ny·dy < c for all of them, and by c − n·d deep along this one.
type axis struct{ nx, ny, c float64 }

// hull is the no-fit polygon of two convex parts.
type hull struct {
	lo, hi geom.Point // its box
	axes   []axis
	size   float64 // of the smaller part, m
}

// fit holds the no-fit polygons of the parts of two solids: where the second may not lie from the first.
type fit []hull

// slant is by how much slanted sides are kept apart beyond the gap, for placements are rounded to whole
// micrometres; upright ones fit to the last.
const slant = 2e-6

// newFit is the no-fit polygon of two solids, the lesser of their gaps kept.
func newFit(a, b *solid) fit {
	gap := min(a.gap, b.gap)
	out := make(fit, 0, len(a.parts)*len(b.parts))
	for _, p := range a.parts {
		for _, q := range b.parts {
			out = append(out, newHull(p, q, gap))
		}
	}
	return out
}

func newHull(p, q part, gap float64) hull {
	axes := make([]axis, 0, len(p)+len(q))
	add := func(from, to geom.Point, sign float64) {
		dx, dy := to.X-from.X, to.Y-from.Y
		l := math.Hypot(dx, dy)
		if l == 0 {
			return
		}
		axes = append(axes, axis{nx: sign * dy / l, ny: -sign * dx / l})
	}
	for k := range p {
		add(p[k], p[(k+1)%len(p)], 1)
	}
	for k := range q {
		add(q[k], q[(k+1)%len(q)], -1)
	}
	slices.SortFunc(axes, func(a, b axis) int { return cmp.Compare(math.Atan2(a.ny, a.nx), math.Atan2(b.ny, b.nx)) })
	axes = slices.CompactFunc(axes, func(a, b axis) bool { return math.Abs(a.nx-b.nx)+math.Abs(a.ny-b.ny) < 1e-9 })
	if gap > 0 {
		axes = bevelled(axes)
	}
	h := hull{lo: geom.Point{X: math.Inf(-1), Y: math.Inf(-1)}, hi: geom.Point{X: math.Inf(1), Y: math.Inf(1)}}
	for k := range axes {
		x := &axes[k]
		far, near := math.Inf(-1), math.Inf(1)
		for _, v := range p {
			far = max(far, x.nx*v.X+x.ny*v.Y)
		}
		for _, v := range q {
			near = min(near, x.nx*v.X+x.ny*v.Y)
		}
		x.c = far - near + gap
		if math.Abs(x.nx) > 1e-9 && math.Abs(x.ny) > 1e-9 {
			x.c += slant
		}
	}
	bp, bq := geom.Ring(p).Bounds(), geom.Ring(q).Bounds()
	h.lo = geom.Point{X: bp.Min.X - bq.Max.X - gap, Y: bp.Min.Y - bq.Max.Y - gap}
	h.hi = geom.Point{X: bp.Max.X - bq.Min.X + gap, Y: bp.Max.Y - bq.Min.Y + gap}
	h.axes = axes
	h.size = math.Sqrt(min(geom.Ring(p).Area(), geom.Ring(q).Area()))
	return h
}

// bevelled puts sides between those that turn sharply, so that a gap goes round a corner as an arc does,
// and no farther out than by a few hundredths.
func bevelled(axes []axis) []axis {
	const most = math.Pi / 4
	out := make([]axis, 0, 2*len(axes))
	for k, a := range axes {
		b := axes[(k+1)%len(axes)]
		out = append(out, a)
		from := math.Atan2(a.ny, a.nx)
		turn := math.Mod(math.Atan2(b.ny, b.nx)-from+4*math.Pi, 2*math.Pi)
		for n, between := 1, int(turn/most-1e-9); n <= between; n++ {
			sin, cos := math.Sincos(from + turn*float64(n)/float64(between+1))
			out = append(out, axis{nx: cos, ny: sin})
		}
	}
	return out
}

// depth is how deep the second solid lies in the first at a shift: the sum over their parts of the
// shortest way out.
func (f fit) depth(dx, dy float64) float64 {
	sum := 0.0
	for k := range f {
		h := &f[k]
		if dx <= h.lo.X || dx >= h.hi.X || dy <= h.lo.Y || dy >= h.hi.Y {
			continue
		}
		least := math.MaxFloat64
		for _, a := range h.axes {
			d := a.c - a.nx*dx - a.ny*dy
			if d < least {
				if d <= 0 {
					least = 0
					break
				}
				least = d
			}
		}
		sum += least
	}
	return sum
}

// bulk is how deep by how large: the sum over their parts of the shortest way out by the size of the
// smaller one, m².
func (f fit) bulk(dx, dy float64) float64 {
	sum := 0.0
	for k := range f {
		h := &f[k]
		if dx <= h.lo.X || dx >= h.hi.X || dy <= h.lo.Y || dy >= h.hi.Y {
			continue
		}
		least := math.MaxFloat64
		for _, a := range h.axes {
			d := a.c - a.nx*dx - a.ny*dy
			if d < least {
				if d <= tight {
					least = 0
					break
				}
				least = d
			}
		}
		sum += least * h.size
	}
	return sum
}

// span is where along x the second solid overlaps a part of the first, at a shift across of dy.
func (h *hull) span(dy float64) (from, to float64, any bool) {
	if dy <= h.lo.Y || dy >= h.hi.Y {
		return 0, 0, false
	}
	from, to = h.lo.X, h.hi.X
	for _, a := range h.axes {
		rest := a.c - a.ny*dy
		switch {
		case a.nx > 1e-12:
			to = min(to, rest/a.nx)
		case a.nx < -1e-12:
			from = max(from, rest/a.nx)
		case rest <= 0:
			return 0, 0, false
		}
	}
	return from, to, from < to
}

// tables are the fits of all solids with all, made when they are asked for first.
type tables struct {
	solids []solid
	cells  []atomic.Pointer[fit]
	room   atomic.Int64 // that is left for more, in axes
}

// mostAxes is how many sides of no-fit polygons are kept, some 400 MB.
const mostAxes = 16_000_000

func newTables(solids []solid) *tables {
	t := &tables{solids: solids, cells: make([]atomic.Pointer[fit], len(solids)*len(solids))}
	t.room.Store(mostAxes)
	return t
}

// of is the fit of solid b from solid a.
func (t *tables) of(a, b int) fit {
	cell := &t.cells[a*len(t.solids)+b]
	if f := cell.Load(); f != nil {
		return *f
	}
	f := newFit(&t.solids[a], &t.solids[b])
	size := int64(0)
	for _, h := range f {
		size += int64(len(h.axes)) + 4
	}
	if t.room.Add(-size) > 0 {
		cell.Store(&f)
	}
	return f
}
