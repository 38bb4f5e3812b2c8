package drape

import (
	"fmt"
	"math"

	"juxta/core/unit"
)

// Vec is a place or a direction in space, m.
type Vec struct{ X, Y, Z float64 }

// Add, Sub, Times, Dot, Cross, Length and Unit are the usual operations.
func (a Vec) Add(b Vec) Vec          { return Vec{a.X + b.X, a.Y + b.Y, a.Z + b.Z} }
func (a Vec) Sub(b Vec) Vec          { return Vec{a.X - b.X, a.Y - b.Y, a.Z - b.Z} }
func (a Vec) Times(k float64) Vec    { return Vec{a.X * k, a.Y * k, a.Z * k} }
func (a Vec) Dot(b Vec) float64      { return a.X*b.X + a.Y*b.Y + a.Z*b.Z }
func (a Vec) Cross(b Vec) Vec        { return Vec{a.Y*b.Z - a.Z*b.Y, a.Z*b.X - a.X*b.Z, a.X*b.Y - a.Y*b.X} }
func (a Vec) Length() float64        { return math.Sqrt(a.Dot(a)) }
func (a Vec) Distance(b Vec) float64 { return a.Sub(b).Length() }
func (a Vec) finite() bool           { return !math.IsNaN(a.X+a.Y+a.Z) && !math.IsInf(a.X+a.Y+a.Z, 0) }
func (a Vec) along(b Vec, t float64) Vec {
	return Vec{a.X + t*(b.X-a.X), a.Y + t*(b.Y-a.Y), a.Z + t*(b.Z-a.Z)}
}

// Unit is the direction of a vector; that of no length stays as it is.
func (a Vec) Unit() Vec {
	if l := a.Length(); l > 0 {
		return a.Times(1 / l)
	}
	return a
}

// said is a place in words, its quantities as data.
func (a Vec) said() string {
	return fmt.Sprintf("x %s, y %s, z %s", unit.Size(a.X, 1), unit.Size(a.Y, 1), unit.Size(a.Z, 1))
}

// Mesh is a surface of triangles, of one piece with one edge or none, its normals on one side.
// It is made by [NewMesh], which mends what can be mended and refuses the rest.
type Mesh struct {
	Points    []Vec
	Triangles [][3]int32

	across  [][3]int32 // the triangle beyond the side from corner k to the next; -1: the edge
	normals []Vec
	around  []int32 // triangles round each point, one after the other
	from    []int32 // where those of a point begin
	edge    []int32 // the points of its edge in turn
	size    float64 // of the longest side of its box
	seen    *seenInPlan
	Mended  RepairReport
}

// RepairReport is what was put right about a mesh.
type RepairReport struct {
	Merged  int // points that stood at one place
	Flipped int // triangles that looked the other way
	Left    int // triangles of no area, left out
}

// Bounds on a mesh.
const (
	MostTriangles = 2_000_000
	// weld is how near points are one, over the size of the mesh.
	weld = 1e-7
)

// Fault is why a mesh cannot be draped over, and where.
type Fault struct {
	Message string
	At      Vec
}

func (f *Fault) Error() string { return f.Message }

func fault(at Vec, format string, args ...any) *Fault {
	return &Fault{fmt.Sprintf(format, args...), at}
}

// NewMesh makes a surface of points and triangles: points at one place are merged, triangles of
// no area left out, such as look the other way turned. An edge that three triangles share, a
// hole, or several pieces are refused with their place.
func NewMesh(points []Vec, triangles [][3]int32) (*Mesh, error) {
	if len(triangles) == 0 {
		return nil, fault(Vec{}, "the surface has no triangles")
	}
	if len(triangles) > MostTriangles {
		return nil, fault(
			Vec{},
			"the surface has %d triangles, at most %d are read: export it coarser",
			len(triangles),
			MostTriangles,
		)
	}
	lo, hi := points[0], points[0]
	for k, p := range points {
		if !p.finite() {
			return nil, fault(Vec{}, "point %d of the surface is no place", k+1)
		}
		lo = Vec{min(lo.X, p.X), min(lo.Y, p.Y), min(lo.Z, p.Z)}
		hi = Vec{max(hi.X, p.X), max(hi.Y, p.Y), max(hi.Z, p.Z)}
	}
	m := &Mesh{seen: &seenInPlan{}, size: max(hi.X-lo.X, hi.Y-lo.Y, hi.Z-lo.Z)}
	if m.size < 1e-3 || m.size > 100 {
		return nil, fault(
			lo,
			"the surface is %s large: it lies between 1 mm and 100 m; was the right unit chosen?",
			unit.Size(m.size, 3),
		)
	}
	if err := m.merge(points, triangles, lo); err != nil {
		return nil, err
	}
	if err := m.join(); err != nil {
		return nil, err
	}
	if err := m.edges(); err != nil {
		return nil, err
	}
	m.normals = make([]Vec, len(m.Triangles))
	up := 0.0
	for t := range m.Triangles {
		n := m.cross(t)
		up += n.Z
		m.normals[t] = n.Unit()
	}
	if up < 0 {
		m.Turn() // the bag lies above, unless somebody says otherwise
	}
	return m, nil
}

// merge makes points at one place one, and leaves triangles of no area out.
func (m *Mesh) merge(points []Vec, triangles [][3]int32, lo Vec) error {
	tolerance := m.size * weld
	type cell [3]int64
	at := func(p Vec) cell {
		return cell{
			int64((p.X - lo.X) / tolerance / 4),
			int64((p.Y - lo.Y) / tolerance / 4),
			int64((p.Z - lo.Z) / tolerance / 4),
		}
	}
	known := make(map[cell][]int32, len(points)/2)
	to := make([]int32, len(points))
	for k, p := range points {
		c, found := at(p), int32(-1)
		// A cell is four tolerances wide: neighbours are looked at only near its sides.
		look := func(c cell) {
			for _, q := range known[c] {
				if found < 0 && m.Points[q].Distance(p) <= tolerance {
					found = q
				}
			}
		}
		look(c)
		if found < 0 {
			side := func(v float64) (int64, int64) {
				f := v/tolerance/4 - math.Floor(v/tolerance/4)
				switch {
				case f < 0.25:
					return -1, 0
				case f > 0.75:
					return 0, 1
				}
				return 0, 0
			}
			x0, x1 := side(p.X - lo.X)
			y0, y1 := side(p.Y - lo.Y)
			z0, z1 := side(p.Z - lo.Z)
			for x := x0; x <= x1; x++ {
				for y := y0; y <= y1; y++ {
					for z := z0; z <= z1; z++ {
						if x != 0 || y != 0 || z != 0 {
							look(cell{c[0] + x, c[1] + y, c[2] + z})
						}
					}
				}
			}
		}
		if found < 0 {
			found = int32(len(m.Points))
			m.Points = append(m.Points, p)
			known[c] = append(known[c], found)
		} else {
			m.Mended.Merged++
		}
		to[k] = found
	}
	for k, t := range triangles {
		for _, c := range t {
			if c < 0 || int(c) >= len(points) {
				return fault(Vec{}, "triangle %d of the surface names a point that there is not", k+1)
			}
		}
		t = [3]int32{to[t[0]], to[t[1]], to[t[2]]}
		a, b, c := m.Points[t[0]], m.Points[t[1]], m.Points[t[2]]
		area := b.Sub(a).Cross(c.Sub(a)).Length()
		long := max(a.Distance(b), b.Distance(c), c.Distance(a))
		if t[0] == t[1] || t[1] == t[2] || t[2] == t[0] {
			m.Mended.Left++
			continue
		}
		if area <= long*tolerance {
			return fault(
				a,
				"a triangle has no area though its corners lie apart, at %s: mend the surface where it was drawn",
				a.said(),
			)
		}
		m.Triangles = append(m.Triangles, t)
	}
	if len(m.Triangles) == 0 {
		return fault(Vec{}, "no triangle of the surface has an area")
	}
	return nil
}

// join finds what lies beyond each side, turns triangles to look the way of their neighbours.
func (m *Mesh) join() error {
	type side struct{ a, b int32 }
	type half struct{ triangle, k int32 }
	m.across = make([][3]int32, len(m.Triangles))
	first := make(map[side]half, len(m.Triangles)*3/2)
	shared := make(map[side]bool)
	for t := range m.Triangles {
		m.across[t] = [3]int32{-1, -1, -1}
		for k := range 3 {
			a, b := m.Triangles[t][k], m.Triangles[t][(k+1)%3]
			s := side{min(a, b), max(a, b)}
			h, seen := first[s]
			switch {
			case !seen:
				first[s] = half{int32(t), int32(k)}
			case shared[s]:
				at := m.Points[a].along(m.Points[b], 0.5)
				return fault(
					at,
					"three triangles share one edge at %s: a surface for a ply has two at the most",
					at.said(),
				)
			default:
				shared[s] = true
				m.across[t][k], m.across[h.triangle][h.k] = h.triangle, int32(t)
			}
		}
	}
	// Everything looks the way the first triangle does; a way round that does not agree with
	// itself is no surface with two sides.
	done := make([]bool, len(m.Triangles))
	queue := []int32{0}
	done[0] = true
	for len(queue) > 0 {
		t := queue[len(queue)-1]
		queue = queue[:len(queue)-1]
		for k := range 3 {
			n := m.across[t][k]
			if n < 0 {
				continue
			}
			a, b := m.Triangles[t][k], m.Triangles[t][(k+1)%3]
			same := false // the neighbour walks the side the same way: it looks the other
			for j := range 3 {
				if m.Triangles[n][j] == a && m.Triangles[n][(j+1)%3] == b {
					same = true
				}
			}
			if done[n] {
				if same {
					at := m.Points[a]
					return fault(at, "the surface has one side only: it turns over at %s", at.said())
				}
				continue
			}
			if same {
				v := &m.Triangles[n]
				v[1], v[2] = v[2], v[1]
				x := &m.across[n]
				x[0], x[2] = x[2], x[0]
				m.Mended.Flipped++
			}
			done[n] = true
			queue = append(queue, n)
		}
	}
	for t, reached := range done {
		if !reached {
			at := m.Points[m.Triangles[t][0]]
			return fault(
				at,
				"the surface is of several pieces, one of them at %s: export the piece that the ply lies on alone",
				at.said(),
			)
		}
	}
	return nil
}

// edges walks the edge of the surface: there is one, or none.
func (m *Mesh) edges() error {
	count := make([]int32, len(m.Points)+1)
	for _, t := range m.Triangles {
		for _, p := range t {
			count[p+1]++
		}
	}
	for p := range m.Points {
		count[p+1] += count[p]
	}
	m.from = count
	m.around = make([]int32, len(m.Triangles)*3)
	fill := append([]int32{}, count...)
	for t, c := range m.Triangles {
		for _, p := range c {
			m.around[fill[p]] = int32(t)
			fill[p]++
		}
	}
	next := map[int32]int32{}
	begin := int32(-1)
	for t, c := range m.Triangles {
		for k := range 3 {
			if m.across[t][k] >= 0 {
				continue
			}
			if _, twice := next[c[k]]; twice {
				at := m.Points[c[k]]
				return fault(at, "the surface is connected at a single point only, %s", at.said())
			}
			next[c[k]] = c[(k+1)%3]
			if begin < 0 {
				begin = c[k]
			}
		}
	}
	if begin < 0 {
		return nil
	}
	// The longest way round is its edge; another is a hole.
	var longest []int32
	long, at := 0.0, Vec{}
	loops := 0
	for len(next) > 0 {
		var p int32
		for p = range next {
			break
		}
		var loop []int32
		length := 0.0
		for {
			q, there := next[p]
			if !there {
				break
			}
			delete(next, p)
			loop = append(loop, p)
			length += m.Points[p].Distance(m.Points[q])
			p = q
		}
		loops++
		if length > long {
			if longest != nil {
				at = m.Points[longest[0]]
			}
			longest, long = loop, length
		} else {
			at = m.Points[loop[0]]
		}
	}
	if loops > 1 {
		return fault(
			at,
			"the surface is open at %s as well as at its edge: close the hole where it was drawn",
			at.said(),
		)
	}
	m.edge = longest
	return nil
}

// Turn makes the other side that of the bag.
func (m *Mesh) Turn() {
	for t := range m.Triangles {
		v, x := &m.Triangles[t], &m.across[t]
		v[1], v[2] = v[2], v[1]
		x[0], x[2] = x[2], x[0]
		if m.normals != nil {
			m.normals[t] = m.normals[t].Times(-1)
		}
	}
	for i, j := 0, len(m.edge)-1; i < j; i, j = i+1, j-1 {
		m.edge[i], m.edge[j] = m.edge[j], m.edge[i]
	}
}

// cross is twice a triangle's area, along its normal.
func (m *Mesh) cross(t int) Vec {
	c := m.Triangles[t]
	a := m.Points[c[0]]
	return m.Points[c[1]].Sub(a).Cross(m.Points[c[2]].Sub(a))
}

// Area of the surface, m².
func (m *Mesh) Area() float64 {
	sum := 0.0
	for t := range m.Triangles {
		sum += m.cross(t).Length() / 2
	}
	return sum
}

// Box is the box that it lies in.
func (m *Mesh) Box() (lo, hi Vec) {
	lo, hi = m.Points[0], m.Points[0]
	for _, p := range m.Points {
		lo = Vec{min(lo.X, p.X), min(lo.Y, p.Y), min(lo.Z, p.Z)}
		hi = Vec{max(hi.X, p.X), max(hi.Y, p.Y), max(hi.Z, p.Z)}
	}
	return lo, hi
}

// Edge is the surface's edge in turn; none of a closed one.
func (m *Mesh) Edge() []Vec {
	out := make([]Vec, len(m.edge))
	for k, p := range m.edge {
		out[k] = m.Points[p]
	}
	return out
}

// Offset is the surface a depth off towards the bag, as it is once plies lie on it: every point
// along the mean of the normals round it, by their areas.
func (m *Mesh) Offset(depth float64) *Mesh {
	if depth == 0 {
		return m
	}
	o := *m
	o.seen = &seenInPlan{}
	o.Points = make([]Vec, len(m.Points))
	for p := range m.Points {
		n := Vec{}
		for _, t := range m.around[m.from[p]:m.from[p+1]] {
			n = n.Add(m.cross(int(t)))
		}
		n = n.Unit()
		// So far that the faces round it move by the depth: over an edge the point moves more.
		least := 1.0
		for _, t := range m.around[m.from[p]:m.from[p+1]] {
			least = min(least, max(0.5, n.Dot(m.normals[t])))
		}
		o.Points[p] = m.Points[p].Add(n.Times(depth / least))
	}
	o.normals = make([]Vec, len(m.normals))
	for t := range o.Triangles {
		o.normals[t] = o.cross(t).Unit()
	}
	return &o
}
