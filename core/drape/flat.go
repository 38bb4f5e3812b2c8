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

// DrapedPiece is a ply that lies on a surface, and its flat.
type DrapedPiece struct {
	Cell     float64   // of its net
	Start    Vec       // where it was laid on first
	Boundary []Vec     // on the surface
	Flat     geom.Ring // warp along x, the start at the origin
	Notches  []Notch   // where the threads through the start meet the edge
	Area     float64   // of the flat
	Surface  float64   // of what it covers
	Peak     float64   // largest shear, either way
	PeakAt   Vec
	Mean     float64 // of shear without its sign, over the area
	Off      float64 // by how much the warp leaves its angle at most
	Locks    []Region
	Bridges  []Region
	Inside   []Node        // nodes within the ply
	Lips     []DartEdge    // its darts
	Steered  *SteeredStrip // of a strip; its net does not shear

}

// Notch is a mark at the edge of the flat where a thread through the start ends.
type Notch struct {
	At     geom.Point
	On     Vec
	Thread string // warp, weft
	Along  float64
}

// Region is where something is wrong: how many cells, the worst of them and where.
type Region struct {
	At    Vec
	Worst float64 // shear, or radius of a hollow in m
	Cells int
	Panel int
	I, J  int // the cell of the worst
}

// Node is a place of the net within the ply.
type Node struct {
	Panel int // 0, or which flap beyond a dart
	I, J  int
	At    Vec
	Shear float64
	Warp  float64 // true direction from the surface's 0°
	Weft  float64
	Flat  geom.Point // of a strip's: where it lies in the flat; else its threads say so
}

// Drape lays a ply of a boundary on the surface from a start, and brings it back to the flat,
// with the darts of the options.
func (m *Mesh) Drape(ctx context.Context, boundary []Vec, s Start, o Options) (*DrapedPiece, error) {
	if len(boundary) < 3 {
		return nil, fmt.Errorf("the outline of a ply has at least 3 places")
	}
	n, err := m.Lay(ctx, s, o)
	if err != nil {
		return nil, err
	}
	d := &DrapedPiece{Cell: n.Cell, Start: n.start.at, Boundary: boundary}
	cut := cutting{n: n, main: n.finder(nil), edge: boundary, d: d}
	panels, err := cut.panels(ctx, o.Darts)
	if err != nil {
		return nil, err
	}
	if err := d.Flat.Check(); err != nil {
		return nil, fmt.Errorf("the flat would overlap itself: lay the ply in pieces (%w)", err)
	}
	if !d.Flat.Contains(geom.Point{}) {
		return nil, fmt.Errorf("the start lies outside the ply: choose a place within it")
	}
	d.Area = d.Flat.Area()
	for k, p := range panels {
		d.measure(k, p, s, o)
	}
	if d.Surface > 0 {
		d.Mean /= d.Surface
	}
	d.notches(n)
	return d, nil
}

// panel is what of a ply is laid by one net: all of it, or a flap beyond a dart.
type panel struct {
	net  *Net
	ring geom.Ring // of the flat
	own  func(Cell) bool
}

// finder finds where on the net a place of the surface lies.
type finder struct {
	n     *Net
	cells []Cell
	in    map[[3]int32][]int32
	step  float64
}

// finder over the cells of a net that are its own; nil: all of them.
func (n *Net) finder(own func(Cell) bool) *finder {
	f := &finder{n: n, cells: n.Cells(), in: map[[3]int32][]int32{}, step: 1.5 * n.Cell}
	if own != nil {
		f.cells = slices.DeleteFunc(f.cells, func(c Cell) bool { return !own(c) })
	}
	for k, c := range f.cells {
		middle := c.Corners[0].along(c.Corners[2], 0.5)
		key := f.key(middle)
		f.in[key] = append(f.in[key], int32(k))
	}
	return f
}

func (f *finder) key(p Vec) [3]int32 {
	return [3]int32{int32(math.Floor(p.X / f.step)), int32(math.Floor(p.Y / f.step)), int32(math.Floor(p.Z / f.step))}
}

// flat is where a place lies in the flat, and how many cells beyond the net that is.
func (f *finder) flat(p Vec) (geom.Point, float64) {
	best, at := math.Inf(1), geom.Point{}
	key := f.key(p)
	for reach := int32(1); reach <= 3 && math.IsInf(best, 1); reach++ {
		for x := -reach; x <= reach; x++ {
			for y := -reach; y <= reach; y++ {
				for z := -reach; z <= reach; z++ {
					for _, k := range f.in[[3]int32{key[0] + x, key[1] + y, key[2] + z}] {
						c := &f.cells[k]
						s, t, off := c.within(p)
						beyond := max(-s, s-1, -t, t-1, 0)
						// What lies off the cell's plane lies on another turn of the surface.
						if score := beyond + off/f.n.Cell; score < best {
							best = score
							at = geom.Point{X: (float64(c.I) + s) * f.n.Cell, Y: (float64(c.J) + t) * f.n.Cell}
						}
					}
				}
			}
		}
	}
	return at, best
}

// within is where in a cell a place lies: shares of its warp and its weft side, and how far off
// its face. The cell is the bilinear patch of its corners.
func (c *Cell) within(p Vec) (s, t, off float64) {
	s, t = 0.5, 0.5
	q := c.Corners
	for range 8 {
		x := q[0].Times((1 - s) * (1 - t)).
			Add(q[1].Times(s * (1 - t))).
			Add(q[2].Times(s * t)).
			Add(q[3].Times((1 - s) * t))
		du := q[1].Sub(q[0]).Times(1 - t).Add(q[2].Sub(q[3]).Times(t))
		dv := q[3].Sub(q[0]).Times(1 - s).Add(q[2].Sub(q[1]).Times(s))
		r := p.Sub(x)
		a, b, e := du.Dot(du), du.Dot(dv), dv.Dot(dv)
		det := a*e - b*b
		if det <= 1e-6*a*e {
			return s, t, math.Inf(1)
		}
		ds, dt := (e*du.Dot(r)-b*dv.Dot(r))/det, (a*dv.Dot(r)-b*du.Dot(r))/det
		s, t = s+ds, t+dt
		if math.Abs(ds)+math.Abs(dt) < 1e-10 || math.Abs(s)+math.Abs(t) > 20 {
			off = r.Sub(du.Times(ds)).Sub(dv.Times(dt)).Length()
			break
		}
	}
	return s, t, off
}

// measure goes over what lies within a panel of the ply.
func (d *DrapedPiece) measure(which int, on panel, s Start, o Options) {
	n, ring := on.net, on.ring
	box := ring.Bounds()
	inside := map[[2]int]bool{}
	holds := func(i, j int) bool {
		return ring.Contains(geom.Point{X: float64(i) * n.Cell, Y: float64(j) * n.Cell})
	}
	locked, hollow := map[[2]int]float64{}, map[[2]int]float64{}
	at := map[[2]int]Vec{}
	for _, c := range n.Cells() {
		if on.own != nil && !on.own(c) || beyond(box, c, n.Cell) {
			continue
		}
		corners := 0
		for _, k := range [4][2]int{{0, 0}, {1, 0}, {1, 1}, {0, 1}} {
			key := [2]int{c.I + k[0], c.J + k[1]}
			in, known := inside[key]
			if !known {
				in = holds(key[0], key[1])
				inside[key] = in
			}
			if in {
				corners++
			}
		}
		share := float64(corners) / 4
		if corners > 0 && corners < 4 || corners == 0 && near0(ring, c, n.Cell) {
			// Cut by the edge: by a grid of its own.
			const fine = 6
			hit := 0
			for a := range fine {
				for b := range fine {
					if ring.Contains(
						n.point(float64(c.I), float64(c.J), (float64(a)+0.5)/fine, (float64(b)+0.5)/fine),
					) {
						hit++
					}
				}
			}
			share = float64(hit) / fine / fine
		}
		if share == 0 {
			continue
		}
		p := c.Corners
		whole := (p[1].Sub(p[0]).Cross(p[3].Sub(p[0])).Length() + p[1].Sub(p[2]).Cross(p[3].Sub(p[2])).Length()) / 2
		d.Surface += whole * share
		d.Mean += math.Abs(c.Shear) * whole * share
		if share < 0.5 {
			continue
		}
		key := [2]int{c.I, c.J}
		at[key] = p[0].along(p[2], 0.5)
		if a := math.Abs(c.Shear); a > d.Peak {
			d.Peak, d.PeakAt = a, at[key]
		}
		if o.Lock > 0 && math.Abs(c.Shear) > o.Lock {
			locked[key] = math.Abs(c.Shear)
		}
		if r := n.hollow(c); o.Round > 0 && r < o.Round {
			hollow[key] = r
		}
	}
	d.Locks = append(d.Locks, regions(which, locked, at, func(a, b float64) bool { return a > b })...)
	d.Bridges = append(d.Bridges, regions(which, hollow, at, func(a, b float64) bool { return a < b })...)
	for key, in := range inside {
		if !in {
			continue
		}
		warp, weft, ok := n.threads(key[0], key[1])
		if !ok {
			continue
		}
		x := n.index(key[0], key[1])
		zero := n.mesh.zero(n.t[x])
		side := n.mesh.normals[n.t[x]].Cross(zero)
		node := Node{
			Panel: which, I: key[0], J: key[1], At: n.at[x], Warp: math.Atan2(warp.Dot(side), warp.Dot(zero)),
			Weft: math.Atan2(
				weft.Dot(side),
				weft.Dot(zero),
			), Shear: math.Pi/2 - math.Acos(max(-1, min(1, warp.Dot(weft)))),
		}
		d.Inside = append(d.Inside, node)
		d.Off = max(d.Off, math.Abs(near(node.Warp-s.Warp, 0)))
	}
	slices.SortFunc(d.Inside, func(a, b Node) int {
		return cmp.Or(cmp.Compare(a.Panel, b.Panel), cmp.Compare(a.J, b.J), cmp.Compare(a.I, b.I))
	})
}

// beyond says whether a cell lies outside a box of the flat.
func beyond(box geom.Box, c Cell, cell float64) bool {
	x, y := float64(c.I)*cell, float64(c.J)*cell
	return x > box.Max.X || y > box.Max.Y || x+cell < box.Min.X || y+cell < box.Min.Y
}

// near0 says whether the edge passes a cell none of whose corners lie within: a narrow tongue.
func near0(ring geom.Ring, c Cell, cell float64) bool {
	middle := geom.Point{X: (float64(c.I) + 0.5) * cell, Y: (float64(c.J) + 0.5) * cell}
	return ring.Contains(middle)
}

// hollow is the tightest radius along the threads of a cell whose middle lies on the bag side:
// where the fabric would rather bridge; without bound where there is none.
func (n *Net) hollow(c Cell) float64 {
	tight := math.Inf(1)
	look := func(i, j, di, dj int) {
		a, b, e := n.index(i-di, j-dj), n.index(i, j), n.index(i+di, j+dj)
		if a < 0 || e < 0 || n.t[a] < 0 || n.t[b] < 0 || n.t[e] < 0 || !n.on[a] || !n.on[b] || !n.on[e] {
			return
		}
		p, q, r := n.at[a], n.at[b], n.at[e]
		chord := r.Sub(p)
		sag := q.Sub(p.along(r, 0.5))
		if sag.Dot(n.mesh.normals[n.t[b]]) >= -1e-12 {
			return // straight, or a hill
		}
		// Three places a chord apart: R = c²/(2·sag) of the half chords.
		h := sag.Length()
		l := chord.Length() / 2
		tight = min(tight, (l*l+h*h)/2/h)
	}
	look(c.I, c.J, 1, 0)
	look(c.I, c.J, 0, 1)
	return tight
}

// regions gathers cells that touch.
func regions(
	panel int, cells map[[2]int]float64, at map[[2]int]Vec, worse func(a, b float64) bool,
) []Region {
	keys := make([][2]int, 0, len(cells))
	for k := range cells {
		keys = append(keys, k)
	}
	slices.SortFunc(keys, func(a, b [2]int) int { return cmp.Or(cmp.Compare(a[1], b[1]), cmp.Compare(a[0], b[0])) })
	var out []Region
	done := map[[2]int]bool{}
	for _, k := range keys {
		if done[k] {
			continue
		}
		r := Region{At: at[k], Worst: cells[k], Panel: panel, I: k[0], J: k[1]}
		queue := [][2]int{k}
		done[k] = true
		for len(queue) > 0 {
			c := queue[len(queue)-1]
			queue = queue[:len(queue)-1]
			r.Cells++
			if worse(cells[c], r.Worst) {
				r.Worst, r.At, r.I, r.J = cells[c], at[c], c[0], c[1]
			}
			for di := -1; di <= 1; di++ {
				for dj := -1; dj <= 1; dj++ {
					next := [2]int{c[0] + di, c[1] + dj}
					if _, there := cells[next]; there && !done[next] {
						done[next] = true
						queue = append(queue, next)
					}
				}
			}
		}
		out = append(out, r)
	}
	slices.SortStableFunc(out, func(a, b Region) int { return cmp.Compare(b.Cells, a.Cells) })
	return out
}

// notches marks where the threads through the start meet the edge.
func (d *DrapedPiece) notches(n *Net) {
	for _, way := range []struct {
		x, y float64
		says string
	}{{1, 0, "warp"}, {0, 1, "weft"}, {-1, 0, "warp"}, {0, -1, "weft"}} {
		far := math.Inf(1)
		for i, a := range d.Flat {
			b := d.Flat[(i+1)%len(d.Flat)]
			// A ray from the origin along ±x or ±y against a side.
			ca, cb := way.x*a.Y-way.y*a.X, way.x*b.Y-way.y*b.X
			if (ca > 0) == (cb > 0) {
				continue
			}
			t := ca / (ca - cb)
			l := way.x*(a.X+t*(b.X-a.X)) + way.y*(a.Y+t*(b.Y-a.Y))
			if l > 0 && l < far {
				far = l
			}
		}
		if math.IsInf(far, 1) {
			continue
		}
		notch := Notch{At: geom.Point{X: way.x * far, Y: way.y * far}, Thread: way.says, Along: far}
		i := far / d.Cell
		k := int(i)
		a := n.index(int(way.x)*k, int(way.y)*k)
		b := n.index(int(way.x)*(k+1), int(way.y)*(k+1))
		if a >= 0 && b >= 0 && n.t[a] >= 0 && n.t[b] >= 0 {
			notch.On = n.at[a].along(n.at[b], i-float64(k))
		}
		d.Notches = append(d.Notches, notch)
	}
}

// says is what a planner should know of how a piece lies, in words.
func (d *DrapedPiece) says(o Options) []string {
	var out []string
	for _, r := range d.Locks {
		over := "in one spot"
		if area := float64(r.Cells) * d.Cell * d.Cell; area >= 5e-5 {
			over = "over " + unit.Area(area, 4).String()
		}
		out = append(out, fmt.Sprintf("it locks at %s: sheared by %.0f° where %.0f° are possible, %s",
			r.At.said(), unit.Deg(r.Worst), unit.Deg(o.Lock), over))
	}
	for _, r := range d.Bridges {
		out = append(
			out,
			fmt.Sprintf("it may bridge at %s: a hollow of %s where %s is the tightest it goes into", r.At.said(),
				unit.Size(r.Worst, 1), unit.Size(o.Round, 1)),
		)
	}
	for _, l := range d.Lips {
		if l.Width < 0 {
			out = append(out, l.says())
		}
	}
	return out
}
