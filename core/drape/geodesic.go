package drape

import "math"

// walk goes straight ahead over the surface from a place, unfolding triangle after triangle, as
// a taut thread does (straightest geodesic), and gives nodes that lie a chord apart. Beyond the
// edge it goes on in the plane of the last triangle for one node more.
func (m *Mesh) walk(from place, dir Vec, chord float64, most int) (nodes []place, ends []Vec, out int) {
	at, t := from.at, from.t
	dir = m.inPlane(t, dir)
	last := at
	beyond := false
	for len(nodes) < most {
		// The next side that the way crosses.
		step, k := math.Inf(1), -1
		if !beyond {
			step, k = m.leaves(t, at, dir)
		}
		// Within this triangle the node may be reached: |at + s·dir − last| = chord.
		d := at.Sub(last)
		b := d.Dot(dir)
		s := -b + math.Sqrt(max(0, b*b-d.Dot(d)+chord*chord))
		if s <= step {
			at = at.Add(dir.Times(s))
			nodes = append(nodes, place{t, at})
			ends = append(ends, dir)
			last = at
			if beyond {
				return nodes, ends, len(nodes)
			}
			continue
		}
		at = at.Add(dir.Times(step))
		n := m.across[t][k]
		if n < 0 {
			beyond = true
			continue
		}
		dir = m.unfold(t, n, k, dir)
		t = n
	}
	return nodes, ends, len(nodes) + 1
}

// inPlane is a direction laid into the plane of a triangle.
func (m *Mesh) inPlane(t int32, dir Vec) Vec {
	n := m.normals[t]
	return dir.Sub(n.Times(dir.Dot(n))).Unit()
}

// leaves is how far a way in a triangle goes until it leaves it, and by which side.
func (m *Mesh) leaves(t int32, at, dir Vec) (float64, int) {
	n := m.normals[t]
	step, side := math.Inf(1), -1
	for k := range 3 {
		a := m.Points[m.Triangles[t][k]]
		b := m.Points[m.Triangles[t][(k+1)%3]]
		out := b.Sub(a).Cross(n) // outwards
		v := dir.Dot(out)
		if v <= 1e-15*out.Length() {
			continue
		}
		if s := max(0, a.Sub(at).Dot(out)/v); s < step {
			step, side = s, k
		}
	}
	return step, side
}

// unfold turns a direction about the side that it crosses into the plane beyond.
func (m *Mesh) unfold(t, n int32, k int, dir Vec) Vec {
	a, b := m.Points[m.Triangles[t][k]], m.Points[m.Triangles[t][(k+1)%3]]
	e := b.Sub(a).Unit()
	along, across := dir.Dot(e), dir.Dot(e.Cross(m.normals[t]))
	return e.Times(along).Add(e.Cross(m.normals[n]).Times(across)).Unit()
}
