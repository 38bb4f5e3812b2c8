package drape

import (
	"context"
	"fmt"
	"math"

	"juxta/core/geom"
	"juxta/core/unit"
)

// Start is where a ply is laid on first, and how it lies there.
type Start struct {
	At   Vec     // near the surface; its nearest place is taken
	Warp float64 // of the warp from the surface's 0°, which is x laid into its plane
}

// Options of a net.
type Options struct {
	Cell  float64 // side of a cell, m
	Lock  float64 // shear beyond which the material locks; 0: not said
	Round float64 // tightest hollow that it goes into without bridging, m; 0: not said
	Most  int     // cells along a thread from the start either way; 0: as the surface asks
	Steer float64 // least radius that a strip is steered along, m; 0: not said
	Darts []Dart  // by which the ply is cut
}

// MostNodes is how many nodes a net may have.
const MostNodes = 200_000

// Net is a ply as it lies: nodes where threads cross, by warp thread and weft thread from the
// start. What lies beyond the edge of the surface by less than a cell has nodes as well, so
// that the edge can be brought back to the flat.
type Net struct {
	Cell  float64
	mesh  *Mesh
	start place
	warp  Vec // direction at the start
	lo    [2]int
	n     [2]int // nodes along warp (i) and weft (j)
	at    []Vec
	t     []int32 // triangle of a node; -1: there is none
	on    []bool  // on the surface, not beyond its edge
}

// Nodes of the net, as many as lie on the surface.
func (n *Net) Nodes() int {
	sum := 0
	for _, on := range n.on {
		if on {
			sum++
		}
	}
	return sum
}

func (n *Net) index(i, j int) int {
	i, j = i-n.lo[0], j-n.lo[1]
	if i < 0 || j < 0 || i >= n.n[0] || j >= n.n[1] {
		return -1
	}
	return i + n.n[0]*j
}

// Lay lays a net from a start: along its warp and its weft threads go straight ahead, and every
// other node lies a cell from two that are laid already. It stops at the edge of the surface.
func (m *Mesh) Lay(ctx context.Context, s Start, o Options) (*Net, error) {
	if !(o.Cell > 0) || o.Cell > m.size {
		return nil, fmt.Errorf(
			"the cell of a net must be above zero and below the size of the surface, %s",
			unit.Size(m.size, 0),
		)
	}
	at, t := m.Locate(s.At)
	if d := at.Distance(s.At); d > max(2*o.Cell, m.size*0.02) || m.atEdge(place{t, at}) && d > m.size*1e-6 {
		return nil, fmt.Errorf("the start lies %s off the surface: choose a place on it", unit.Size(d, 1))
	}
	most := o.Most
	if most == 0 {
		most = int(3*m.size/o.Cell) + 4
	}
	n := &Net{Cell: o.Cell, mesh: m, start: place{t, at}}
	zero := m.zero(t)
	sin, cos := math.Sincos(s.Warp)
	n.warp = zero.Times(cos).Add(m.normals[t].Cross(zero).Times(sin))
	weft := m.normals[t].Cross(n.warp)
	var arms [4][]place
	var on [4]int
	for k, dir := range []Vec{n.warp, weft, n.warp.Times(-1), weft.Times(-1)} {
		arms[k], _, on[k] = m.walk(n.start, dir, o.Cell, most)
	}
	// The threads reach further than the axes where the surface goes round.
	far := [4]int{}
	for k := range far {
		far[k] = len(arms[k]) + 1
	}
	grow := max(far[0]+far[2], far[1]+far[3])
	n.lo = [2]int{-far[2] - grow, -far[3] - grow}
	n.n = [2]int{far[0] + far[2] + 1 + 2*grow, far[1] + far[3] + 1 + 2*grow}
	if n.n[0]*n.n[1] > 60*MostNodes {
		return nil, fmt.Errorf(
			"a cell of %s is too fine for this surface: at most %d nodes are laid",
			unit.Size(o.Cell, 1),
			MostNodes,
		)
	}
	size := n.n[0] * n.n[1]
	n.at, n.t, n.on = make([]Vec, size), make([]int32, size), make([]bool, size)
	for k := range n.t {
		n.t[k] = -1
	}
	put := func(i, j int, p place, on bool) {
		x := n.index(i, j)
		n.at[x], n.t[x], n.on[x] = p.at, p.t, on
	}
	put(0, 0, n.start, true)
	for k, dir := range [][2]int{{1, 0}, {0, 1}, {-1, 0}, {0, -1}} {
		for d, p := range arms[k] {
			put(dir[0]*(d+1), dir[1]*(d+1), p, d+1 < on[k])
		}
	}
	count := 1
	for _, q := range [][2]int{{1, 1}, {-1, 1}, {-1, -1}, {1, -1}} {
		if err := n.quarter(ctx, [2]int{}, q, noLimit, &count); err != nil {
			return nil, err
		}
	}
	return n, nil
}

// zero is the surface's 0° at a triangle: x laid into its plane; where that stands upright, y.
func (m *Mesh) zero(t int32) Vec {
	n := m.normals[t]
	if math.Abs(n.X) < 0.99 {
		return m.inPlane(t, Vec{X: 1})
	}
	return m.inPlane(t, Vec{Y: 1})
}

// noLimit is a quarter that goes as far as the surface does.
var noLimit = [2]int{math.MaxInt, math.MaxInt}

// quarter lays what lies between the two arms from a node, row after row, so many threads far at
// most. Where an arm has ended at the edge and the surface goes on beside it, the thread that lies
// nearest goes on straight, as an arm would.
func (n *Net) quarter(ctx context.Context, from, q, most [2]int, count *int) error {
	laid := func(x int) bool { return x >= 0 && n.t[x] >= 0 }
	at := func(i, j int) int { return n.index(from[0]+q[0]*i, from[1]+q[1]*j) }
	for j := 1; j <= most[1]; j++ {
		if err := ctx.Err(); err != nil {
			return err
		}
		any := false
		// A row ends where neither it nor the one below has anything more.
		last := 0
		for i := 0; ; i++ {
			x := at(i, j-1)
			if x < 0 {
				break
			}
			if n.t[x] >= 0 {
				last = i
			}
		}
		for i := 1; i <= most[0]; i++ {
			here, before := at(i, j), at(i-1, j-1)
			left, below := at(i-1, j), at(i, j-1)
			if here < 0 || i > last && !laid(left) {
				break
			}
			if laid(here) {
				continue
			}
			var to place
			var on, ok bool
			switch {
			case laid(left) && laid(below) && laid(before):
				if !n.on[left] && !n.on[below] && !n.on[before] {
					continue
				}
				to, on, ok = n.pin(left, below, before)
			case laid(left) && !laid(below):
				to, on, ok = n.straight(left, at(i-2, j))
			case laid(below) && !laid(left):
				to, on, ok = n.straight(below, at(i, j-2))
			}
			if !ok {
				continue
			}
			n.at[here], n.t[here], n.on[here] = to.at, to.t, on
			if *count++; *count > MostNodes {
				return fmt.Errorf(
					"a cell of %s is too fine for this surface: at most %d nodes are laid",
					unit.Size(n.Cell, 1),
					MostNodes,
				)
			}
			any = true
		}
		if !any {
			break
		}
	}
	return nil
}

// straight is where a thread that comes from one node over another goes on straight.
func (n *Net) straight(over, from int) (place, bool, bool) {
	if from < 0 || n.t[from] < 0 || !n.on[over] {
		return place{}, false, false
	}
	m := n.mesh
	dir := m.inPlane(n.t[from], n.at[over].Sub(n.at[from]))
	normal := m.normals[n.t[from]]
	first := place{n.t[from], n.at[from]}
	for range 2 {
		// Aimed so that the straight way passes over the second node.
		nodes, ends, _ := m.walk(first, dir, n.Cell, 1)
		if len(nodes) == 0 {
			return place{}, false, false
		}
		miss := n.at[over].Sub(nodes[0].at).Dot(m.normals[nodes[0].t].Cross(ends[0])) / n.Cell
		dir = dir.Add(normal.Cross(dir).Times(miss)).Unit()
	}
	nodes, _, on := m.walk(first, dir, n.Cell, 2)
	if len(nodes) < 2 {
		return place{}, false, false
	}
	return nodes[1], on > 2, true
}

// pin is the place on the surface a cell from two nodes, away from the one between them. on
// says that it lies on the surface, ok that there is one.
func (n *Net) pin(left, below, before int) (place, bool, bool) {
	m := n.mesh
	a, b := n.at[left], n.at[below]
	middle := a.along(b, 0.5)
	ab := b.Sub(a)
	half := ab.Length() / 2
	if half >= n.Cell*(1-1e-9) || half <= n.Cell*1e-6 {
		return place{}, false, false // the threads lie stretched out, or on each other
	}
	r := math.Sqrt(n.Cell*n.Cell - half*half)
	e := ab.Times(1 / (2 * half))
	// Around e: u away from the node between, v across.
	u := middle.Sub(n.at[before])
	u = u.Sub(e.Times(u.Dot(e)))
	if u.Length() < 1e-12 {
		return place{}, false, false
	}
	u = u.Unit()
	v := e.Cross(u)
	x := middle.Add(u.Times(r))
	t := n.t[left]
	angle := 0.0
	for range 30 {
		foot, _ := m.find(t, x)
		t = foot.t
		// The circle against the plane of that triangle: normal·(middle + r(cos u + sin v) − p) = 0.
		nrm := m.normals[t]
		p := m.Points[m.Triangles[t][0]]
		c0, cu, cv := nrm.Dot(middle.Sub(p)), r*nrm.Dot(u), r*nrm.Dot(v)
		amp := math.Hypot(cu, cv)
		if amp < 1e-15 || math.Abs(c0) > amp {
			return place{}, false, false
		}
		base := math.Atan2(cv, cu)
		off := math.Acos(-c0 / amp)
		next := near(base+off, angle)
		if other := near(base-off, angle); math.Abs(other-angle) < math.Abs(next-angle) {
			next = other
		}
		if math.Abs(next) > 2 {
			return place{}, false, false // it would fold back
		}
		sin, cos := math.Sincos(next)
		y := middle.Add(u.Times(r * cos)).Add(v.Times(r * sin))
		moved := y.Distance(x)
		x, angle = y, next
		if moved < n.Cell*1e-10 {
			break
		}
	}
	at, inside := m.find(t, x)
	if at.at.Distance(x) > n.Cell*0.2 && inside {
		return place{}, false, false // it found no place: the surface breaks off here
	}
	return place{at.t, x}, inside, true
}

// near is an angle brought within half a turn of another.
func near(a, of float64) float64 {
	for a-of > math.Pi {
		a -= 2 * math.Pi
	}
	for a-of < -math.Pi {
		a += 2 * math.Pi
	}
	return a
}

// Cell is one cell of a net: its corners as indices of warp and weft thread, and how it lies.
type Cell struct {
	I, J    int
	Corners [4]Vec  // from (i, j) round
	Shear   float64 // mean of its corners: a right angle less that between warp and weft
	On      bool    // all corners on the surface
}

// Cells are all cells whose corners are laid, of which one at least lies on the surface.
func (n *Net) Cells() []Cell {
	var out []Cell
	for j := range n.n[1] - 1 {
		for i := range n.n[0] - 1 {
			c, ok := n.cell(i+n.lo[0], j+n.lo[1])
			if ok {
				out = append(out, c)
			}
		}
	}
	return out
}

func (n *Net) cell(i, j int) (Cell, bool) {
	c := Cell{I: i, J: j, On: true}
	any := false
	for k, d := range [4][2]int{{0, 0}, {1, 0}, {1, 1}, {0, 1}} {
		x := n.index(i+d[0], j+d[1])
		if x < 0 || n.t[x] < 0 {
			return c, false
		}
		c.Corners[k] = n.at[x]
		c.On = c.On && n.on[x]
		any = any || n.on[x]
	}
	if !any {
		return c, false
	}
	// A skew rhombus: opposite corners have the same angle, or nearly.
	p := c.Corners
	open := angle(p[0], p[1], p[3]) + angle(p[2], p[3], p[1])
	shut := angle(p[1], p[0], p[2]) + angle(p[3], p[2], p[0])
	c.Shear = (shut - open) / 4
	return c, true
}

// angle at a between b and c.
func angle(a, b, c Vec) float64 {
	u, v := b.Sub(a), c.Sub(a)
	return math.Atan2(u.Cross(v).Length(), u.Dot(v))
}

// Warp and weft directions at a node, and whether it has both.
func (n *Net) threads(i, j int) (warp, weft Vec, ok bool) {
	way := func(di, dj int) (Vec, bool) {
		a, b := n.index(i-di, j-dj), n.index(i+di, j+dj)
		here := n.index(i, j)
		switch {
		case a >= 0 && n.t[a] >= 0 && b >= 0 && n.t[b] >= 0:
			return n.at[b].Sub(n.at[a]).Unit(), true
		case b >= 0 && n.t[b] >= 0:
			return n.at[b].Sub(n.at[here]).Unit(), true
		case a >= 0 && n.t[a] >= 0:
			return n.at[here].Sub(n.at[a]).Unit(), true
		}
		return Vec{}, false
	}
	warp, a := way(1, 0)
	weft, b := way(0, 1)
	return warp, weft, a && b
}

// point of the flat: a place in the net's own coordinates, m along warp and weft from the start.
func (n *Net) point(i, j, u, v float64) geom.Point {
	return geom.Point{X: (i + u) * n.Cell, Y: (j + v) * n.Cell}
}
