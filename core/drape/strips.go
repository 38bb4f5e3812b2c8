package drape

import (
	"cmp"
	"context"
	"fmt"
	"math"
	"slices"

	"juxta/core/geom"
	"juxta/core/unit"
)

// SteeredStrip is how a strip lies beside the one that was laid before it.
type SteeredStrip struct {
	Number int     // 0: the first, through the start; those to its left 1, 2 …, to its right −1, −2 …
	Radius float64 // tightest that it is steered along, m; +Inf: straight
	At     Vec     // where
	Gap    float64 // widest to its neighbour, m
	Lap    float64 // widest that it lies over its neighbour, m
}

// mostStrips is of how many a ply may be laid.
const mostStrips = 400

// Strips lays a ply of strips of one width, side by side along the fibre: unidirectional tape does
// not shear, it is steered. The first lies straight through the start; each other one lies along its
// neighbour as long as no place of it is steered tighter than the limit, else as near to that as the
// limit lets it, with gaps or laps that are told. Each strip is a Draped with its own flat, straight,
// its fibre along x.
func (m *Mesh) Strips(ctx context.Context, boundary []Vec, s Start, width float64, o Options) ([]*DrapedPiece, error) {
	if !(width > 0) || width > m.size {
		return nil, fmt.Errorf(
			"the width of strips must be above zero and below the size of the surface, %s",
			unit.Size(m.size, 0),
		)
	}
	if m.size/width > mostStrips {
		return nil, fmt.Errorf(
			"strips of %s are too narrow for this surface: at most %d are laid",
			unit.Size(width, 1),
			mostStrips,
		)
	}
	at, t := m.Locate(s.At)
	if d := at.Distance(s.At); d > max(2*o.Cell, m.size*0.02) {
		return nil, fmt.Errorf("the start lies %s off the surface: choose a place on it", unit.Size(d, 1))
	}
	zero := m.zero(t)
	sin, cos := math.Sincos(s.Warp)
	dir := zero.Times(cos).Add(m.normals[t].Cross(zero).Times(sin))
	work := strips{m: m, edge: boundary, width: width, o: o, warp: s.Warp}
	first, err := work.family(ctx, place{t, at}, dir, func(int) float64 { return 0 })
	if err != nil {
		return nil, err
	}
	if !first.ring.Contains(geom.Point{}) {
		return nil, fmt.Errorf("the start lies outside the ply: choose a place within it")
	}
	if err := work.lay(first, 0, neighbour{}); err != nil {
		return nil, err
	}
	for _, side := range []int{1, -1} {
		if err := work.side(ctx, first, side); err != nil {
			return nil, err
		}
	}
	slices.SortFunc(work.out, func(a, b *DrapedPiece) int { return cmp.Compare(b.Steered.Number, a.Steered.Number) })
	return work.out, nil
}

// side lays the strips to one side of the first, each along its neighbour, or a family of its own.
func (w *strips) side(ctx context.Context, f *family, side int) error {
	offset := 0 // number of the family's own line
	for k := side; f.any(k, side); k += side {
		if err := ctx.Err(); err != nil {
			return err
		}
		if len(w.out) >= mostStrips {
			return fmt.Errorf(
				"strips of %s are too narrow for this ply: at most %d are laid",
				unit.Size(w.width, 1),
				mostStrips,
			)
		}
		by := neighbour{number: offset + k}
		if w.o.Steer > 0 && f.radius(k) < w.o.Steer*(1-1e-6) {
			next, err := w.from(ctx, f, k)
			if err != nil {
				return err
			}
			if next != nil {
				by.f, by.k, by.side = f, k, side
				offset, f, k = offset+k, next, 0
			}
		}
		if err := w.lay(f, k, by); err != nil {
			return err
		}
	}
	return nil
}

// strips is the work of laying a ply of strips.
type strips struct {
	m     *Mesh
	edge  []Vec
	width float64
	o     Options
	warp  float64
	out   []*DrapedPiece
}

// neighbour is what a strip lies beside.
type neighbour struct {
	number int     // of the strip
	f      *family // of its neighbour, where it begins one of its own
	k      int     // where it would lie in that
	side   int
}

// family is a line over the surface with lines beside it: everywhere as far from it as at its
// start, so that strips along them leave no gaps. Its net has nodes along the line (i) and across
// (j), across on geodesics.
type family struct {
	n      *Net
	find   *finder
	across float64 // from node to node across, m
	half   int     // nodes across half a strip
	ring   geom.Ring
	width  float64
}

// family lays a line that turns as it is told, by the curvature at every node, and its lines beside.
func (w *strips) family(ctx context.Context, from place, dir Vec, bend func(i int) float64) (*family, error) {
	m, c := w.m, w.o.Cell
	f := &family{half: max(1, int(math.Ceil(w.width/2/c))), width: w.width}
	f.across = w.width / 2 / float64(f.half)
	most := int(2*m.size/c) + 4
	type node struct {
		at  place
		dir Vec
		on  bool
	}
	arm := func(dir Vec, way int) []node {
		var out []node
		at := from
		for k := 1; k <= most; k++ {
			// Half of the bend before the chord and half after it.
			dir = m.turned(at.t, dir, bend(way*(k-1))*c/2*float64(way))
			nodes, ends, on := m.walk(at, dir, c, 1)
			if len(nodes) == 0 {
				break
			}
			at, dir = nodes[0], m.turned(nodes[0].t, ends[0], bend(way*k)*c/2*float64(way))
			out = append(out, node{at, dir.Times(float64(way)), on > 1})
			if on <= 1 {
				break
			}
		}
		return out
	}
	there, back := arm(dir, 1), arm(dir.Times(-1), -1)
	line := make(map[int]node, len(there)+len(back)+1)
	line[0] = node{from, m.inPlane(from.t, dir), true}
	for k, p := range there {
		line[k+1] = p
	}
	for k, p := range back {
		line[-k-1] = p
	}
	wide := int(2*m.size/f.across) + 2
	n := &Net{Cell: c, mesh: m, start: from}
	left, right := map[int][]place{}, map[int][]place{}
	on := map[int][2]int{}
	reach := [2]int{}
	for i := -len(back); i <= len(there); i++ {
		if err := ctx.Err(); err != nil {
			return nil, err
		}
		p := line[i]
		if !p.on {
			continue // beyond the edge nothing lies across
		}
		across := m.normals[p.at.t].Cross(p.dir)
		a, _, onA := m.walk(p.at, across, f.across, wide)
		b, _, onB := m.walk(p.at, across.Times(-1), f.across, wide)
		left[i], right[i], on[i] = a, b, [2]int{onA, onB}
		reach[0], reach[1] = max(reach[0], len(b)), max(reach[1], len(a))
	}
	n.lo = [2]int{-len(back), -reach[0]}
	n.n = [2]int{len(there) + len(back) + 1, reach[0] + reach[1] + 1}
	size := n.n[0] * n.n[1]
	if size > 4*MostNodes {
		return nil, fmt.Errorf("a cell of %s is too fine for this surface", unit.Size(c, 1))
	}
	n.at, n.t, n.on = make([]Vec, size), make([]int32, size), make([]bool, size)
	for x := range n.t {
		n.t[x] = -1
	}
	for i := -len(back); i <= len(there); i++ {
		x := n.index(i, 0)
		n.at[x], n.t[x], n.on[x] = line[i].at.at, line[i].at.t, line[i].on
		for k, p := range left[i] {
			x := n.index(i, k+1)
			n.at[x], n.t[x], n.on[x] = p.at, p.t, k+1 < on[i][0]
		}
		for k, p := range right[i] {
			x := n.index(i, -k-1)
			n.at[x], n.t[x], n.on[x] = p.at, p.t, k+1 < on[i][1]
		}
	}
	f.n, f.find = n, n.finder(nil)
	for _, p := range w.edge {
		q, far := f.find.flat(p)
		if far > reaches {
			return nil, fault(
				p,
				"strips from this start do not reach %s: the surface ends before; choose another start or direction",
				p.said(),
			)
		}
		f.ring = append(f.ring, f.plane(q))
	}
	return f, nil
}

// plane is a place of a family's net in metres: along its line and across.
func (f *family) plane(q geom.Point) geom.Point {
	return geom.Point{X: q.X, Y: q.Y / f.n.Cell * f.across}
}

// turned is a direction turned in the plane of a triangle, by radians to the left.
func (m *Mesh) turned(t int32, dir Vec, by float64) Vec {
	if by == 0 {
		return dir
	}
	sin, cos := math.Sincos(by)
	return dir.Times(cos).Add(m.normals[t].Cross(dir).Times(sin)).Unit()
}

// any says whether any of the ply lies at a strip or beyond it.
func (f *family) any(k, side int) bool {
	box := f.ring.Bounds()
	if side > 0 {
		return box.Max.Y > (float64(k)-0.5)*f.width+leastStrip
	}
	return box.Min.Y < (float64(k)+0.5)*f.width-leastStrip
}

// leastStrip is the narrowest that is laid, m: what is narrower at the edge is left out.
const leastStrip = 1e-3

// bend is the curvature of a strip's middle in the surface at a node, by how much longer its left
// edge is than its right one, to the left positive; from nodes i−2 to i+2.
func (f *family) bend(i, k int) (float64, bool) {
	long := func(j int) (float64, bool) {
		a, b := f.n.index(i-2, j), f.n.index(i+2, j)
		if a < 0 || b < 0 || f.n.t[a] < 0 || f.n.t[b] < 0 {
			return 0, false
		}
		return f.n.at[a].Distance(f.n.at[b]), true
	}
	middle := 2 * f.half * k
	left, a := long(middle + f.half)
	right, b := long(middle - f.half)
	if !a || !b {
		return 0, false
	}
	// An edge at a distance h to the left of a line of curvature κ is 1 − κh times as long.
	return 2 * (right - left) / (right + left) / (2 * float64(f.half) * f.across), true
}

// span is which nodes along a strip's middle lie within the ply.
func (f *family) span(k int) (lo, hi int, any bool) {
	v := float64(k) * f.width
	lo, hi = math.MaxInt, math.MinInt
	for i := f.n.lo[0]; i < f.n.lo[0]+f.n.n[0]; i++ {
		p := geom.Point{X: float64(i) * f.n.Cell, Y: v}
		for _, dy := range []float64{0, -0.45 * f.width, 0.45 * f.width} {
			if f.ring.Contains(geom.Point{X: p.X, Y: p.Y + dy}) {
				lo, hi = min(lo, i), max(hi, i)
			}
		}
	}
	return lo, hi, lo <= hi
}

// radius is the tightest that a strip is steered along within the ply.
func (f *family) radius(k int) float64 {
	r, _ := f.tightest(k)
	return r
}

func (f *family) tightest(k int) (float64, Vec) {
	lo, hi, any := f.span(k)
	r, at := math.Inf(1), Vec{}
	if !any {
		return r, at
	}
	for i := lo; i <= hi; i++ {
		b, ok := f.bend(i, k)
		if ok && b != 0 && 1/math.Abs(b) < r {
			r, at = 1/math.Abs(b), f.n.at[f.n.index(i, 2*f.half*k)]
		}
	}
	return r, at
}

// from is a family of its own for a strip that would be steered too tight: its line turns as the
// strip would, but no tighter than the limit. It is nil where the strip has no middle on the surface.
func (w *strips) from(ctx context.Context, f *family, k int) (*family, error) {
	lo, hi, any := f.span(k)
	if !any {
		return nil, nil
	}
	j := 2 * f.half * k
	middle, best := 0, math.MaxInt
	for i := lo; i <= hi; i++ {
		x := f.n.index(i, j)
		if x < 0 || f.n.t[x] < 0 || !f.n.on[x] {
			continue
		}
		if d := max(i-(lo+hi)/2, (lo+hi)/2-i); d < best {
			middle, best = i, d
		}
	}
	if best == math.MaxInt {
		return nil, nil
	}
	way, _, ok := f.n.threads(middle, j)
	if !ok {
		return nil, nil
	}
	x := f.n.index(middle, j)
	limit := 1 / w.o.Steer
	next, err := w.family(ctx, place{f.n.t[x], f.n.at[x]}, way, func(i int) float64 {
		b, _ := f.bend(middle+i, k)
		return max(-limit, min(limit, b))
	})
	if err != nil {
		return nil, err
	}
	return next, nil
}

// lay lays one strip of a family.
func (w *strips) lay(f *family, k int, by neighbour) error {
	middle := float64(k) * f.width
	parts, err := f.ring.Band(middle-f.width/2, middle+f.width/2)
	if err != nil {
		return err
	}
	r, at := f.tightest(k)
	along := f.along(k)
	for _, ring := range parts {
		box := ring.Bounds()
		if box.Height() < leastStrip || box.Width() < leastStrip {
			continue
		}
		d := &DrapedPiece{Cell: f.n.Cell, Steered: &SteeredStrip{Number: by.number, Radius: r, At: at}}
		for _, p := range ring {
			d.Flat = append(d.Flat, geom.Point{X: along(p.X), Y: p.Y - middle})
			d.Boundary = append(d.Boundary, f.place(p))
		}
		d.Flat = d.Flat.Thin(slimWithin)
		d.Area = d.Flat.Area()
		d.Surface = d.Area
		d.Start = f.place(geom.Point{X: (box.Min.X + box.Max.X) / 2, Y: (box.Min.Y + box.Max.Y) / 2})
		w.nodes(f, ring, middle, along, d)
		if by.f != nil {
			w.apart(f, by, d)
		}
		w.out = append(w.out, d)
	}
	return nil
}

// along is how far along a strip's own middle a place of its family's line lies: the middle is
// longer or shorter than the line.
func (f *family) along(k int) func(x float64) float64 {
	n := f.n.n[0]
	sum := make([]float64, n)
	j := 2 * f.half * k
	toward := -1
	if k < 0 {
		toward = 1
	}
	side := func(i int) (Vec, Vec, bool) {
		// The nearest line that has both nodes, from the middle towards the family's own.
		for at := j; ; at += toward {
			a, b := f.n.index(i, at), f.n.index(i+1, at)
			if a >= 0 && b >= 0 && f.n.t[a] >= 0 && f.n.t[b] >= 0 {
				return f.n.at[a], f.n.at[b], true
			}
			if at == 0 {
				return Vec{}, Vec{}, false
			}
		}
	}
	for i := 1; i < n; i++ {
		step := f.n.Cell
		if a, b, ok := side(i - 1 + f.n.lo[0]); ok {
			step = a.Distance(b)
		}
		sum[i] = sum[i-1] + step
	}
	zero := sum[-f.n.lo[0]]
	return func(x float64) float64 {
		u := x/f.n.Cell - float64(f.n.lo[0])
		i := max(0, min(n-2, int(math.Floor(u))))
		return sum[i] + (u-float64(i))*(sum[i+1]-sum[i]) - zero
	}
}

// place is where a place of a family's plane lies on the surface.
func (f *family) place(p geom.Point) Vec {
	u, v := p.X/f.n.Cell, p.Y/f.across
	i, j := int(math.Floor(u)), int(math.Floor(v))
	u, v = u-float64(i), v-float64(j)
	// Beyond the net the nearest cell is gone on with.
	for _, d := range nearby {
		c, ok := f.n.cell(i+d[0], j+d[1])
		if !ok {
			continue
		}
		s, t := u-float64(d[0]), v-float64(d[1])
		q := c.Corners
		return q[0].Times((1 - s) * (1 - t)).
			Add(q[1].Times(s * (1 - t))).
			Add(q[2].Times(s * t)).
			Add(q[3].Times((1 - s) * t))
	}
	return f.n.start.at
}

// nearby are cells round one, the nearest first.
var nearby = func() (out [][2]int) {
	for i := -3; i <= 3; i++ {
		for j := -3; j <= 3; j++ {
			out = append(out, [2]int{i, j})
		}
	}
	slices.SortStableFunc(out, func(a, b [2]int) int { return cmp.Compare(a[0]*a[0]+a[1]*a[1], b[0]*b[0]+b[1]*b[1]) })
	return out
}()

// nodes are those of a strip within its outline.
func (w *strips) nodes(f *family, ring geom.Ring, middle float64, along func(float64) float64, d *DrapedPiece) {
	box := ring.Bounds()
	j0, j1 := int(math.Ceil(box.Min.Y/f.across-1e-9)), int(math.Floor(box.Max.Y/f.across+1e-9))
	i0, i1 := int(math.Floor(box.Min.X/f.n.Cell)), int(math.Ceil(box.Max.X/f.n.Cell))
	for j := j0; j <= j1; j++ {
		for i := i0; i <= i1; i++ {
			x := f.n.index(i, j)
			if x < 0 || f.n.t[x] < 0 {
				continue
			}
			// Nodes on the edge of a strip are its own as well.
			y := float64(j) * f.across
			y = max(box.Min.Y+1e-6, min(box.Max.Y-1e-6, y))
			if !ring.Contains(geom.Point{X: float64(i) * f.n.Cell, Y: y}) {
				continue
			}
			warp, weft, ok := f.n.threads(i, j)
			if !ok {
				continue
			}
			zero := w.m.zero(f.n.t[x])
			side := w.m.normals[f.n.t[x]].Cross(zero)
			node := Node{
				I: i, J: j, At: f.n.at[x], Warp: math.Atan2(warp.Dot(side), warp.Dot(zero)),
				Weft: math.Atan2(
					weft.Dot(side),
					weft.Dot(zero),
				), Flat: geom.Point{X: along(float64(i) * f.n.Cell), Y: float64(j)*f.across - middle},
			}
			d.Inside = append(d.Inside, node)
			d.Off = max(d.Off, math.Abs(near(node.Warp-w.warp, 0)))
		}
	}
}

// apart is how far the inner edge of a strip that begins a family lies from the outer edge of
// the strip before it.
func (w *strips) apart(f *family, by neighbour, d *DrapedPiece) {
	edge := (float64(by.k) - float64(by.side)*0.5) * by.f.width
	for _, n := range d.Inside {
		if n.J != -by.side*f.half {
			continue
		}
		q, far := by.f.find.flat(n.At)
		if far > reaches {
			continue
		}
		apart := (by.f.plane(q).Y - edge) * float64(by.side)
		d.Steered.Gap, d.Steered.Lap = max(d.Steered.Gap, apart), max(d.Steered.Lap, -apart)
	}
}
