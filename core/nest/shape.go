package nest

import (
	"cmp"
	"math"
	"slices"

	"juxta/core/geom"
)

// A part is a convex part of a piece, anticlockwise.
type part []geom.Point

// convex gives convex parts that cover a piece: its outline a little outside itself where arcs of many
// points would make many parts of it, then cut into triangles, which are joined again while they stay
// convex (Hertel and Mehlhorn 1983).
func convex(outline geom.Ring, holes []geom.Ring) []part {
	area := outline.Area()
	// A two-hundredth of a small piece's size, a tenth of a millimetre at most.
	within := min(1e-4, math.Sqrt(area)/2000)
	around := turned(slim(turned(outline, true), within), true)
	for _, h := range sortedHoles(holes) {
		// A hole may only shrink: its own outside grows into it.
		around = bridged(around, turned(slim(turned(h, false), within), false))
	}
	return joined(triangles(around))
}

// turned is a ring anticlockwise, or clockwise.
func turned(r geom.Ring, anticlockwise bool) geom.Ring {
	if (r.SignedArea() > 0) == anticlockwise {
		return r
	}
	r = slices.Clone(r)
	slices.Reverse(r)
	return r
}

func sortedHoles(holes []geom.Ring) []geom.Ring {
	out := slices.Clone(holes)
	slices.SortFunc(out, func(a, b geom.Ring) int { return cmp.Compare(b.Bounds().Max.X, a.Bounds().Max.X) })
	return out
}

// cross is twice the area of a triangle, positive anticlockwise.
func cross(a, b, c geom.Point) float64 { return (b.X-a.X)*(c.Y-a.Y) - (b.Y-a.Y)*(c.X-a.X) }

// hollow is by how much farther hollow corners may be filled: each of them is a part.
const hollow = 2.5

// slim is a ring of fewer points that holds all of it (the left of every side) and leaves it by a distance
// at most: hollow corners are filled, and short sides between bulging ones are replaced by the corner of
// those beside them.
func slim(r geom.Ring, within float64) geom.Ring {
	r = slices.Clone(r)
	for again := true; again && len(r) > 4; {
		again = false
		for i := 0; i < len(r) && len(r) > 4; i++ {
			n := len(r)
			a, b, c, d := r[(i+n-1)%n], r[i], r[(i+1)%n], r[(i+2)%n]
			if turn := cross(a, b, c); turn <= 0 {
				// A hollow corner: the way from a to c.
				if b.To(a, c) <= hollow*within && free(r, a, c, (i+n-1)%n, (i+1)%n) && filled(r, a, b, c) {
					r, again = slices.Delete(r, i, i+1), true
				}
				continue
			}
			if cross(b, c, d) <= 0 {
				continue
			}
			q, ok := meet(a, b, d, c)
			if !ok || q.To(b, c) > within {
				continue
			}
			if free(r, b, q, (i+n-1)%n, (i+1)%n) && free(r, q, c, i, (i+2)%n) && filled(r, b, q, c) {
				r[i] = q
				r, again = slices.Delete(r, (i+1)%n, (i+1)%n+1), true
			}
		}
	}
	return r
}

// meet is where the line from a through b meets that from d through c, beyond both.
func meet(a, b, d, c geom.Point) (geom.Point, bool) {
	ux, uy, vx, vy := b.X-a.X, b.Y-a.Y, c.X-d.X, c.Y-d.Y
	det := ux*vy - uy*vx
	if math.Abs(det) < 1e-6*math.Hypot(ux, uy)*math.Hypot(vx, vy) {
		return geom.Point{}, false
	}
	t := ((d.X-b.X)*vy - (d.Y-b.Y)*vx) / det
	s := ((b.X-c.X)*uy - (b.Y-c.Y)*ux) / -det
	if t < 0 || s < 0 {
		return geom.Point{}, false
	}
	return geom.Point{X: b.X + t*ux, Y: b.Y + t*uy}, true
}

// free says whether a way from p to q crosses none of a ring's sides, but those that begin at two of its
// points or end there.
func free(r geom.Ring, p, q geom.Point, from, to int) bool {
	n := len(r)
	for k, a := range r {
		b := r[(k+1)%n]
		if k == from || k == to || (k+1)%n == from || (k+1)%n == to {
			continue
		}
		if a == p || b == p || a == q || b == q {
			continue
		}
		if cross(p, q, a)*cross(p, q, b) <= 0 && cross(a, b, p)*cross(a, b, q) <= 0 {
			return false
		}
	}
	return true
}

// filled says whether no other point of a ring lies in a triangle.
func filled(r geom.Ring, a, b, c geom.Point) bool {
	return !slices.ContainsFunc(r, func(p geom.Point) bool { return p != a && p != b && p != c && holds(a, b, c, p) })
}

// holds says whether a triangle of either sense holds a point, its edge included.
func holds(a, b, c, p geom.Point) bool {
	x, y, z := cross(a, b, p), cross(b, c, p), cross(c, a, p)
	return x >= 0 && y >= 0 && z >= 0 || x <= 0 && y <= 0 && z <= 0
}

// bridged is a ring with a hole joined to it by a cut there and back, from the hole's rightmost point to
// the point of the ring that it sees.
func bridged(r, hole geom.Ring) geom.Ring {
	k := 0
	for i, p := range hole {
		if p.X > hole[k].X {
			k = i
		}
	}
	from := hole[k]
	best, at := math.Inf(1), -1
	for i, p := range r {
		d := math.Hypot(p.X-from.X, p.Y-from.Y)
		if d < best && sees(r, hole, from, p) {
			best, at = d, i
		}
	}
	if at < 0 {
		return r // then the hole counts as cloth
	}
	out := slices.Clone(r[:at+1])
	out = append(out, hole[k:]...)
	out = append(out, hole[:k+1]...)
	return append(out, r[at:]...)
}

// sees says whether no side of either ring lies between two points.
func sees(r, hole geom.Ring, p, q geom.Point) bool {
	for _, ring := range []geom.Ring{r, hole} {
		for k, a := range ring {
			b := ring[(k+1)%len(ring)]
			if a == p || b == p || a == q || b == q {
				continue
			}
			if cross(p, q, a)*cross(p, q, b) <= 0 && cross(a, b, p)*cross(a, b, q) <= 0 {
				return false
			}
		}
	}
	return true
}

// triangles cuts an anticlockwise ring by its ears (Meisters 1975), the roundest first of those there are.
func triangles(r geom.Ring) []part {
	left := slices.Clone(r)
	var out []part
	for len(left) > 3 {
		n := len(left)
		best, at := -1.0, -1
		for i := range left {
			a, b, c := left[(i+n-1)%n], left[i], left[(i+1)%n]
			area := cross(a, b, c)
			if area <= 0 || slices.ContainsFunc(left, func(p geom.Point) bool {
				return p != a && p != b && p != c && holds(a, b, c, p)
			}) {
				continue
			}
			long := max(math.Hypot(b.X-a.X, b.Y-a.Y), math.Hypot(c.X-b.X, c.Y-b.Y), math.Hypot(a.X-c.X, a.Y-c.Y))
			if round := area / (long * long); round > best {
				best, at = round, i
			}
		}
		if at < 0 {
			// Only corners of no area are left: they hold nothing.
			at = 0
			for i := range left {
				a, b, c := left[(i+n-1)%n], left[i], left[(i+1)%n]
				if v := math.Abs(cross(a, b, c)); i == 0 || v < best {
					best, at = v, i
				}
			}
			left = slices.Delete(left, at, at+1)
			continue
		}
		out = append(out, part{left[(at+n-1)%n], left[at], left[(at+1)%n]})
		left = slices.Delete(left, at, at+1)
	}
	if cross(left[0], left[1], left[2]) > 0 {
		out = append(out, part(left))
	}
	return out
}

// joined joins parts over common sides while they stay convex, over long sides first.
func joined(parts []part) []part {
	type side struct {
		long float64
		a, b geom.Point
	}
	var sides []side
	for _, p := range parts {
		for k, a := range p {
			b := p[(k+1)%len(p)]
			if a.X < b.X || a.X == b.X && a.Y < b.Y {
				sides = append(sides, side{math.Hypot(b.X-a.X, b.Y-a.Y), a, b})
			}
		}
	}
	slices.SortFunc(sides, func(a, b side) int {
		return cmp.Or(cmp.Compare(b.long, a.long), cmp.Compare(a.a.X, b.a.X), cmp.Compare(a.a.Y, b.a.Y))
	})
	for _, s := range sides {
		i, ki := of(parts, s.a, s.b)
		j, kj := of(parts, s.b, s.a)
		if i < 0 || j < 0 || i == j {
			continue
		}
		p, q := parts[i], parts[j]
		// All of p from the side's end round to its start, then q the same way.
		whole := append(append(part{}, p[ki+1:]...), p[:ki+1]...)
		rest := append(append(part{}, q[kj+1:]...), q[:kj+1]...)
		whole = append(whole, rest[1:len(rest)-1]...)
		if !bulging(whole) {
			continue
		}
		parts[i] = whole
		parts = slices.Delete(parts, j, j+1)
	}
	for k := range parts {
		parts[k] = straightened(parts[k])
	}
	return parts
}

// of finds the part that has a side, and where.
func of(parts []part, a, b geom.Point) (int, int) {
	for i, p := range parts {
		for k := range p {
			if p[k] == a && p[(k+1)%len(p)] == b {
				return i, k
			}
		}
	}
	return -1, -1
}

func bulging(p part) bool {
	n := len(p)
	for k := range p {
		a, b, c := p[k], p[(k+1)%n], p[(k+2)%n]
		if cross(a, b, c) < -1e-12*(1+math.Hypot(c.X-a.X, c.Y-a.Y)) {
			return false
		}
	}
	return true
}

// straightened leaves out points on the line between their neighbours.
func straightened(p part) part {
	out := p[:0:0]
	n := len(p)
	for k := range p {
		a, b, c := p[(k+n-1)%n], p[k], p[(k+1)%n]
		if cross(a, b, c) > 1e-9*math.Hypot(c.X-a.X, c.Y-a.Y)*1e-3 {
			out = append(out, b)
		}
	}
	if len(out) < 3 {
		return p
	}
	return out
}
