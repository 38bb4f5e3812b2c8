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
	boxes []geom.Box // of each part
	sizes []float64  // roots of their areas, m
	box   geom.Box
	gap   float64 // that others keep from it
}

func newSolid(parts []part, gap float64) solid {
	s := solid{parts: parts, box: geom.Ring(parts[0]).Bounds(), gap: gap}
	for _, p := range parts {
		b := geom.Ring(p).Bounds()
		s.sides, s.boxes = append(s.sides, sidesOf(p)), append(s.boxes, b)
		s.sizes = append(s.sizes, math.Sqrt(geom.Ring(p).Area()))
		s.box.Min.X, s.box.Min.Y = min(s.box.Min.X, b.Min.X), min(s.box.Min.Y, b.Min.Y)
		s.box.Max.X, s.box.Max.Y = max(s.box.Max.X, b.Max.X), max(s.box.Max.Y, b.Max.Y)
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
// Those of the second from the first are those of the first from the second, turned about, and those of
// both turned by 180° are so too: one table serves all four, at a shift of the sign given.
type fit struct {
	*table
	sign float64
}

// table is what is known of two solids: the hulls of all parts of the first with a part of the second are a
// row, and most rows are out of reach at any shift.
type table struct {
	hulls []hull
	rows  []row
}

type row struct {
	lo, hi   geom.Point // of all its hulls
	from, to int32
}

// slant is by how much slanted sides are kept apart beyond the gap, for placements are rounded to whole
// micrometres; upright ones fit to the last.
const slant = 2e-6

// newTable has the no-fit polygons of two solids, the lesser of their gaps kept.
func newTable(a, b *solid) *table {
	gap := min(a.gap, b.gap)
	out := &table{hulls: make([]hull, 0, len(a.parts)*len(b.parts)), rows: make([]row, 0, len(b.parts))}
	for m := range b.parts {
		theirs := back(b.sides[m])
		bq := b.boxes[m]
		out.rows = append(out.rows, row{
			lo:   geom.Point{X: a.box.Min.X - bq.Max.X - gap, Y: a.box.Min.Y - bq.Max.Y - gap},
			hi:   geom.Point{X: a.box.Max.X - bq.Min.X + gap, Y: a.box.Max.Y - bq.Min.Y + gap},
			from: int32(len(out.hulls)), to: int32(len(out.hulls) + len(a.parts)),
		})
		for n := range a.parts {
			h := newHull(a.sides[n], theirs, gap)
			bp := a.boxes[n]
			h.lo = geom.Point{X: bp.Min.X - bq.Max.X - gap, Y: bp.Min.Y - bq.Max.Y - gap}
			h.hi = geom.Point{X: bp.Max.X - bq.Min.X + gap, Y: bp.Max.Y - bq.Min.Y + gap}
			h.size = min(a.sizes[n], b.sizes[m])
			out.hulls = append(out.hulls, h)
		}
	}
	return out
}

// newHull is the no-fit polygon of two convex parts, of the sides of one and those of the other turned
// about, both by their angles: their Minkowski sum. The corner of a part that is farthest along a
// direction is where its next side by angle begins.
func newHull(own, theirs []facing, gap float64) hull {
	h := hull{axes: make([]axis, 0, len(own)+len(theirs)+4)}
	i, j := 0, 0
	add := func(nx, ny, more float64) {
		p, q := own[i%len(own)].at, theirs[j%len(theirs)].at
		h.axes = append(h.axes, axis{nx, ny, nx*(p.X-q.X) + ny*(p.Y-q.Y) + gap + more})
	}
	first, last := math.Inf(-1), math.Inf(-1)
	// A gap goes round a sharp corner as an arc does, in steps that leave it by a few hundredths.
	between := func(from, to float64) {
		const most = math.Pi / 4
		turn := to - from
		for k, n := 1, int(turn/most-1e-9); gap > 0 && k <= n; k++ {
			sin, cos := math.Sincos(from + turn*float64(k)/float64(n+1))
			add(cos, sin, slant)
		}
	}
	for i < len(own) || j < len(theirs) {
		mine := j == len(theirs) || i < len(own) && own[i].angle <= theirs[j].angle
		s := &theirs[j%len(theirs)]
		if mine {
			s = &own[i]
		}
		if s.angle-last >= 1e-9 {
			if math.IsInf(last, -1) {
				first = s.angle
			} else {
				between(last, s.angle)
			}
			last = s.angle
			more := 0.0
			if math.Abs(s.nx) > 1e-9 && math.Abs(s.ny) > 1e-9 {
				more = slant
			}
			add(s.nx, s.ny, more)
		}
		if mine {
			i++
		} else {
			j++
		}
	}
	between(last, first+2*math.Pi)
	return h
}

// depth is how deep the second solid lies in the first at a shift: the sum over their parts of the
// shortest way out.
func (f fit) depth(dx, dy float64) float64 {
	dx, dy = dx*f.sign, dy*f.sign
	sum := 0.0
	for n := range f.rows {
		if r := &f.rows[n]; r.holds(dx, dy, 0) {
			for k := r.from; k < r.to; k++ {
				sum += f.hulls[k].wayOut(dx, dy)
			}
		}
	}
	return sum
}

// bulk is how deep by how large: the sum over their parts of the shortest way out by the size of the
// smaller one, m². Beyond most it is not told to the end.
func (f fit) bulk(dx, dy, most float64) float64 {
	dx, dy = dx*f.sign, dy*f.sign
	sum := 0.0
	for n := range f.rows {
		r := &f.rows[n]
		if !r.holds(dx, dy, 0) {
			continue
		}
		for k := r.from; k < r.to; k++ {
			if d := f.hulls[k].wayOut(dx, dy); d > tight {
				if sum += d * f.hulls[k].size; sum > most {
					return sum
				}
			}
		}
	}
	return sum
}

func (r *row) holds(dx, dy, e float64) bool {
	return dx > r.lo.X-e && dx < r.hi.X+e && dy > r.lo.Y-e && dy < r.hi.Y+e
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
func (f fit) span(k int, dy float64) (from, to float64, any bool) {
	from, to, any = f.hulls[k].span(dy * f.sign)
	if f.sign < 0 {
		from, to = -to, -from
	}
	return from, to, any
}

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
	turned int // so many of them are pieces, each in its four turns
	cells  []atomic.Pointer[table]
	room   atomic.Int64 // that is left for more, in axes
	clear  sync.Mutex
}

// mostAxes is how many sides of no-fit polygons are kept, some 300 MB.
const mostAxes = 12_000_000

func newTables(solids []solid, turned int) *tables {
	t := &tables{solids: solids, turned: turned, cells: make([]atomic.Pointer[table], len(solids)*len(solids))}
	t.room.Store(mostAxes)
	return t
}

// of is the fit of solid b from solid a.
func (t *tables) of(a, b int) fit {
	sign := 1.0
	if a > b {
		a, b, sign = b, a, -1
	}
	// The turns of a piece stand next to one another, that of 180° two on.
	if a < t.turned && b < t.turned && a&2 != 0 {
		a, b, sign = a&^2, b^2, -sign
		if a > b {
			a, b, sign = b, a, -sign
		}
	}
	cell := &t.cells[a*len(t.solids)+b]
	if f := cell.Load(); f != nil {
		return fit{f, sign}
	}
	f := newTable(&t.solids[a], &t.solids[b])
	size := int64(0)
	for _, h := range f.hulls {
		size += int64(len(h.axes)) + 4
	}
	cell.Store(f)
	if t.room.Add(-size) < 0 {
		t.empty()
	}
	return fit{f, sign}
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
