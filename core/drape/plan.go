package drape

import (
	"math"
	"sync"

	"juxta/core/geom"
	"juxta/core/unit"
)

// plan finds what of a surface lies above a place in plan.
type plan struct {
	m      *Mesh
	lo     geom.Point
	step   float64
	nx, ny int
	in     [][]int32
}

// seenInPlan keeps a mesh's plan, for it is asked often and never changes.
type seenInPlan struct {
	once sync.Once
	plan *plan
}

func (m *Mesh) plan() *plan {
	m.seen.once.Do(func() { m.seen.plan = m.inPlan() })
	return m.seen.plan
}

func (m *Mesh) inPlan() *plan {
	lo, hi := m.Box()
	n := max(1, int(math.Sqrt(float64(len(m.Triangles))/2)))
	step := max(hi.X-lo.X, hi.Y-lo.Y) / float64(n)
	p := &plan{m: m, lo: geom.Point{X: lo.X, Y: lo.Y}, step: step}
	p.nx, p.ny = int((hi.X-lo.X)/step)+1, int((hi.Y-lo.Y)/step)+1
	p.in = make([][]int32, p.nx*p.ny)
	for t, c := range m.Triangles {
		a, b, d := m.Points[c[0]], m.Points[c[1]], m.Points[c[2]]
		x0, y0 := p.at(min(a.X, b.X, d.X), min(a.Y, b.Y, d.Y))
		x1, y1 := p.at(max(a.X, b.X, d.X), max(a.Y, b.Y, d.Y))
		for y := y0; y <= y1; y++ {
			for x := x0; x <= x1; x++ {
				p.in[x+p.nx*y] = append(p.in[x+p.nx*y], int32(t))
			}
		}
	}
	return p
}

func (p *plan) at(x, y float64) (int, int) {
	i, j := int((x-p.lo.X)/p.step), int((y-p.lo.Y)/p.step)
	return min(max(i, 0), p.nx-1), min(max(j, 0), p.ny-1)
}

// lift is the place of the surface over a place in plan, the highest where there are several.
func (p *plan) lift(q geom.Point) (Vec, int32, bool) {
	i, j := p.at(q.X, q.Y)
	best, found, of := Vec{Z: math.Inf(-1)}, false, int32(0)
	for _, t := range p.in[i+p.nx*j] {
		c := p.m.Triangles[t]
		a, b, d := p.m.Points[c[0]], p.m.Points[c[1]], p.m.Points[c[2]]
		det := (b.X-a.X)*(d.Y-a.Y) - (d.X-a.X)*(b.Y-a.Y)
		if math.Abs(det) < 1e-18 {
			continue
		}
		s := ((q.X-a.X)*(d.Y-a.Y) - (d.X-a.X)*(q.Y-a.Y)) / det
		r := ((b.X-a.X)*(q.Y-a.Y) - (q.X-a.X)*(b.Y-a.Y)) / det
		const slack = 1e-9
		if s < -slack || r < -slack || s+r > 1+slack {
			continue
		}
		if z := a.Z + s*(b.Z-a.Z) + r*(d.Z-a.Z); z > best.Z {
			best, of, found = Vec{q.X, q.Y, z}, t, true
		}
	}
	return best, of, found
}

// Project lays an outline that is drawn in plan onto the surface, in steps of at most a length.
// The fault names the first place that lies beyond the surface.
func (m *Mesh) Project(outline geom.Ring, step float64) ([]Vec, error) {
	p := m.plan()
	var out []Vec
	for i, a := range outline {
		b := outline[(i+1)%len(outline)]
		n := max(1, int(math.Ceil(math.Hypot(b.X-a.X, b.Y-a.Y)/step)))
		for k := range n {
			t := float64(k) / float64(n)
			q := geom.Point{X: a.X + t*(b.X-a.X), Y: a.Y + t*(b.Y-a.Y)}
			v, _, found := p.lift(q)
			if !found {
				return nil, fault(Vec{X: q.X, Y: q.Y}, "the ply reaches over the edge of the surface at x %s, y %s",
					unit.Size(q.X, 1), unit.Size(q.Y, 1))
			}
			out = append(out, v)
		}
	}
	return out, nil
}

// Boundary is the edge of the surface in steps of at most a length; that of a closed surface is a
// fault.
func (m *Mesh) Boundary(step float64) ([]Vec, error) {
	edge := m.Edge()
	if len(edge) == 0 {
		return nil, fault(Vec{}, "the surface is closed all round: a ply needs an outline of its own on it")
	}
	var out []Vec
	for i, a := range edge {
		b := edge[(i+1)%len(edge)]
		n := max(1, int(math.Ceil(a.Distance(b)/step)))
		for k := range n {
			out = append(out, a.along(b, float64(k)/float64(n)))
		}
	}
	return out, nil
}

// Size is how long the longest side of the surface's box is.
func (m *Mesh) Size() float64 { return m.size }

// Middle is the place of the surface nearest to the middle of a ply's edge.
func (m *Mesh) Middle(boundary []Vec) Vec {
	var ring geom.Ring
	for _, p := range boundary {
		ring = append(ring, geom.Point{X: p.X, Y: p.Y})
	}
	if math.Abs(ring.SignedArea()) > 1e-9 {
		c := ring.Centroid()
		if v, _, found := m.plan().lift(c); found && ring.Contains(c) {
			return v
		}
	}
	sum := Vec{}
	for _, p := range boundary {
		sum = sum.Add(p.Times(1 / float64(len(boundary))))
	}
	at, _ := m.Locate(sum)
	return at
}
