package drape

import "math"

// place is a place on the surface: which triangle, and where.
type place struct {
	t  int32
	at Vec
}

// nearest is the place of a triangle that lies nearest (Ericson, Real-Time Collision Detection,
// §5.1.5); inside says whether it lies within the triangle's plane region.
func (m *Mesh) nearest(t int32, p Vec) (q Vec, inside bool) {
	c := &m.Triangles[t]
	a, b, d := m.Points[c[0]], m.Points[c[1]], m.Points[c[2]]
	ab, ac, ap := b.Sub(a), d.Sub(a), p.Sub(a)
	d1, d2 := ab.Dot(ap), ac.Dot(ap)
	if d1 <= 0 && d2 <= 0 {
		return a, false
	}
	bp := p.Sub(b)
	d3, d4 := ab.Dot(bp), ac.Dot(bp)
	if d3 >= 0 && d4 <= d3 {
		return b, false
	}
	vc := d1*d4 - d3*d2
	if vc <= 0 && d1 >= 0 && d3 <= 0 {
		return a.Add(ab.Times(d1 / (d1 - d3))), false
	}
	cp := p.Sub(d)
	d5, d6 := ab.Dot(cp), ac.Dot(cp)
	if d6 >= 0 && d5 <= d6 {
		return d, false
	}
	vb := d5*d2 - d1*d6
	if vb <= 0 && d2 >= 0 && d6 <= 0 {
		return a.Add(ac.Times(d2 / (d2 - d6))), false
	}
	va := d3*d6 - d5*d4
	if va <= 0 && d4-d3 >= 0 && d5-d6 >= 0 {
		return b.Add(d.Sub(b).Times((d4 - d3) / ((d4 - d3) + (d5 - d6)))), false
	}
	k := 1 / (va + vb + vc)
	return a.Add(ab.Times(vb * k)).Add(ac.Times(vc * k)), true
}

// find is the place of the surface nearest to one in space, going downhill from a triangle near
// it; inside says that it lies straight above or below, not beyond the edge.
func (m *Mesh) find(from int32, p Vec) (at place, inside bool) {
	q, in := m.nearest(from, p)
	best := q.Sub(p).Dot(q.Sub(p))
	at, inside = place{from, q}, in
	if in && best < 1e-30 {
		return at, in
	}
	for {
		here, better := at.t, false
		for _, c := range m.Triangles[here] {
			for _, t := range m.around[m.from[c]:m.from[c+1]] {
				if t == here {
					continue
				}
				q, in := m.nearest(t, p)
				d := q.Sub(p)
				if l := d.Dot(d); l < best*(1-1e-12) || l <= best && in && !inside {
					best, at, inside, better = l, place{t, q}, in, better || t != at.t
				}
			}
		}
		if !better {
			break
		}
	}
	// On an edge or corner within the surface it is inside as well.
	return at, inside || !m.atEdge(at)
}

// atEdge says whether a place lies on the edge of the surface.
func (m *Mesh) atEdge(p place) bool {
	for k := range 3 {
		if m.across[p.t][k] >= 0 {
			continue
		}
		a, b := m.Points[m.Triangles[p.t][k]], m.Points[m.Triangles[p.t][(k+1)%3]]
		ab := b.Sub(a)
		s := min(1, max(0, p.at.Sub(a).Dot(ab)/ab.Dot(ab)))
		if a.Add(ab.Times(s)).Distance(p.at) <= m.size*1e-9 {
			return true
		}
	}
	return false
}

// Locate is the place of the surface nearest to one in space, looking everywhere.
func (m *Mesh) Locate(p Vec) (Vec, int32) {
	best, at, in := math.Inf(1), int32(0), Vec{}
	for t := range m.Triangles {
		q, _ := m.nearest(int32(t), p)
		if d := q.Distance(p); d < best {
			best, at, in = d, int32(t), q
		}
	}
	return in, at
}
