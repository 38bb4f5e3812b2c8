package nest

import (
	"cmp"
	"math"
	"slices"
	"sync"
	"sync/atomic"

	"juxta/core/geom"
)

// A solid is a shape in one turn: its convex parts and its box, about the origin of its points.
type solid struct {
	parts []part
	sides [][]facing // of each part
	box   geom.Box
	area  float64
	gap   float64 // that others keep from it
}

func newSolid(parts []part, gap float64) solid {
	s := solid{parts: parts, box: geom.Ring(parts[0]).Bounds(), gap: gap}
	for _, p := range parts {
		b := geom.Ring(p).Bounds()
		s.sides = append(s.sides, sidesOf(p))
		s.box.Min.X, s.box.Min.Y = min(s.box.Min.X, b.Min.X), min(s.box.Min.Y, b.Min.Y)
		s.box.Max.X, s.box.Max.Y = max(s.box.Max.X, b.Max.X), max(s.box.Max.Y, b.Max.Y)
		s.area += geom.Ring(p).Area()
	}
	return s
}

// facing is the outward normal of a side of a part.
type facing struct {
	angle, nx, ny float64
	at            geom.Point // of the side
}

// sidesOf are the sides of a convex part by their angles.
func sidesOf(p part) []facing {
	var out []facing
	for k, from := range p {
		to := p[(k+1)%len(p)]
		dx, dy := to.X-from.X, to.Y-from.Y
		if l := math.Hypot(dx, dy); l > 0 {
			out = append(out, facing{math.Atan2(-dx, dy), dy / l, -dx / l, from})
		}
	}
	slices.SortFunc(out, byAngle)
	return out
}

func byAngle(a, b facing) int { return cmp.Compare(a.angle, b.angle) }

// back are sides turned about, by their angles.
func back(sides []facing) []facing {
	out := make([]facing, len(sides))
	for k, s := range sides {
		s.nx, s.ny = -s.nx, -s.ny
		if s.angle += math.Pi; s.angle > math.Pi {
			s.angle -= 2 * math.Pi
		}
		out[k] = s
	}
	slices.SortFunc(out, byAngle)
	return out
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
	for m, q := range b.parts {
		theirs := back(b.sides[m])
		for n, p := range a.parts {
			out = append(out, newHull(p, q, a.sides[n], theirs, gap))
		}
	}
	return out
}

// newHull is the no-fit polygon of two convex parts, of the sides of one and those of the other turned
// about: their Minkowski sum.
func newHull(p, q part, own, theirs []facing, gap float64) hull {
	h := hull{
		axes: make([]axis, 0, len(own)+len(theirs)+4),
		size: math.Sqrt(min(geom.Ring(p).Area(), geom.Ring(q).Area())),
	}
	first, last := math.Inf(-1), math.Inf(-1)
	// A gap goes round a sharp corner as an arc does, in steps that leave it by a few hundredths.
	between := func(from, to float64) {
		const most = math.Pi / 4
		turn := to - from
		for k, n := 1, int(turn/most-1e-9); gap > 0 && k <= n; k++ {
			sin, cos := math.Sincos(from + turn*float64(k)/float64(n+1))
			h.axes = append(h.axes, axis{cos, sin, highest(p, cos, sin) - lowest(q, cos, sin) + gap + slant})
		}
	}
	for i, j := 0, 0; i < len(own) || j < len(theirs); {
		mine := j == len(theirs) || i < len(own) && own[i].angle <= theirs[j].angle
		var s facing
		if mine {
			s = own[i]
			i++
		} else {
			s = theirs[j]
			j++
		}
		if s.angle-last < 1e-9 {
			continue
		}
		if math.IsInf(last, -1) {
			first = s.angle
		} else {
			between(last, s.angle)
		}
		last = s.angle
		x := axis{nx: s.nx, ny: s.ny, c: gap}
		if mine {
			x.c += s.nx*s.at.X + s.ny*s.at.Y - lowest(q, s.nx, s.ny)
		} else {
			x.c += highest(p, s.nx, s.ny) - s.nx*s.at.X - s.ny*s.at.Y
		}
		if math.Abs(s.nx) > 1e-9 && math.Abs(s.ny) > 1e-9 {
			x.c += slant
		}
		h.axes = append(h.axes, x)
	}
	between(last, first+2*math.Pi)
	bp, bq := geom.Ring(p).Bounds(), geom.Ring(q).Bounds()
	h.lo = geom.Point{X: bp.Min.X - bq.Max.X - gap, Y: bp.Min.Y - bq.Max.Y - gap}
	h.hi = geom.Point{X: bp.Max.X - bq.Min.X + gap, Y: bp.Max.Y - bq.Min.Y + gap}
	return h
}

// highest and lowest are the extent of a part along a direction.
func highest(p part, nx, ny float64) float64 {
	far := math.Inf(-1)
	for _, v := range p {
		far = max(far, nx*v.X+ny*v.Y)
	}
	return far
}

func lowest(p part, nx, ny float64) float64 { return -highest(p, -nx, -ny) }

// depth is how deep the second solid lies in the first at a shift: the sum over their parts of the
// shortest way out.
func (f fit) depth(dx, dy float64) float64 {
	sum := 0.0
	for k := range f {
		sum += f[k].wayOut(dx, dy)
	}
	return sum
}

// bulk is how deep by how large: the sum over their parts of the shortest way out by the size of the
// smaller one, m².
func (f fit) bulk(dx, dy float64) float64 {
	sum := 0.0
	for k := range f {
		if d := f[k].wayOut(dx, dy); d > tight {
			sum += d * f[k].size
		}
	}
	return sum
}

// wayOut is the shortest way out of a hull; 0 outside.
func (h *hull) wayOut(dx, dy float64) float64 {
	if dx <= h.lo.X || dx >= h.hi.X || dy <= h.lo.Y || dy >= h.hi.Y {
		return 0
	}
	least := math.MaxFloat64
	for _, a := range h.axes {
		d := a.c - a.nx*dx - a.ny*dy
		if d < least {
			if d <= 0 {
				return 0
			}
			least = d
		}
	}
	return least
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
	clear  sync.Mutex
}

// mostAxes is how many sides of no-fit polygons are kept, some 300 MB.
const mostAxes = 12_000_000

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
	cell.Store(&f)
	if t.room.Add(-size) < 0 {
		t.empty()
	}
	return f
}

// empty forgets all fits, so that there is room for others.
func (t *tables) empty() {
	t.clear.Lock()
	defer t.clear.Unlock()
	if t.room.Load() >= 0 {
		return // somebody did
	}
	for k := range t.cells {
		t.cells[k].Store(nil)
	}
	t.room.Store(mostAxes)
}
