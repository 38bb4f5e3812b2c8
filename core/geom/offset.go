package geom

import (
	"cmp"
	"fmt"
	"math"
	"slices"
)

// arcStep is how far the chords of arcs leave them at most, m.
const arcStep = 2e-5

// Offset is the outline moved outwards by a distance, inwards if it is below zero: corners that it goes
// round become arcs. Every side is moved by itself; of the line that this gives stays what lies no nearer
// to the outline than the distance, joined where it crosses itself. An outline that vanishes or falls
// apart is an error. It takes the square of the number of corners.
func (r Ring) Offset(by float64) (Ring, error) {
	if by == 0 || len(r) < 3 {
		return r, nil
	}
	r = r.Thin(arcStep / 2)
	if r.SignedArea() < 0 {
		r = slices.Clone(r)
		slices.Reverse(r)
	}
	step := min(arcStep, math.Abs(by)/20)
	raw := r.moved(by, step)
	loops := chained(r.apart(split(raw), math.Abs(by)-2*step))
	loops = slices.DeleteFunc(loops, func(l Ring) bool { return l.SignedArea() < 1e-8 })
	switch {
	case len(loops) == 0:
		return nil, fmt.Errorf("nothing is left of the outline %.1f mm inwards", -by*1e3)
	case by < 0 && len(loops) > 1:
		return nil, fmt.Errorf("the outline falls apart into %d pieces %.1f mm inwards", len(loops), -by*1e3)
	}
	out := slices.MaxFunc(loops, func(a, b Ring) int { return cmp.Compare(a.Area(), b.Area()) })
	return out.Thin(step / 4), nil
}

// moved is every side moved outwards by a distance, with arcs round the corners that open, and straight
// ways over those that close.
func (r Ring) moved(by, step float64) []Point {
	var out []Point
	n := len(r)
	normal := func(i int) (Point, float64) {
		a, b := r[i%n], r[(i+1)%n]
		l := math.Hypot(b.X-a.X, b.Y-a.Y)
		return Point{(b.Y - a.Y) / l, (a.X - b.X) / l}, math.Atan2(b.Y-a.Y, b.X-a.X)
	}
	for i := range n {
		before, from := normal(i + n - 1)
		after, to := normal(i)
		p := r[i]
		out = append(out, Point{p.X + before.X*by, p.Y + before.Y*by})
		if turn := math.Remainder(to-from, 2*math.Pi); turn*by > 0 {
			steps := int(math.Ceil(math.Abs(turn) / 2 / math.Acos(1-step/math.Abs(by))))
			for k := 1; k < steps; k++ {
				sin, cos := math.Sincos(turn * float64(k) / float64(steps))
				out = append(out, Point{p.X + (before.X*cos-before.Y*sin)*by, p.Y + (before.X*sin+before.Y*cos)*by})
			}
		}
		out = append(out, Point{p.X + after.X*by, p.Y + after.Y*by})
	}
	return out
}

// split is a closed line in ways between the places where it crosses itself.
func split(line []Point) [][2]Point {
	n := len(line)
	cuts := make([][]float64, n)
	places := make([][]Point, n)
	for i := range n {
		a, b := line[i], line[(i+1)%n]
		for k := i + 2; k < n; k++ {
			if i == 0 && k == n-1 {
				continue
			}
			c, d := line[k], line[(k+1)%n]
			if max(a.X, b.X) < min(c.X, d.X) || max(c.X, d.X) < min(a.X, b.X) || max(a.Y, b.Y) < min(c.Y, d.Y) ||
				max(c.Y, d.Y) < min(a.Y, b.Y) {
				continue
			}
			det := (b.X-a.X)*(d.Y-c.Y) - (b.Y-a.Y)*(d.X-c.X)
			if det == 0 {
				continue
			}
			t := ((c.X-a.X)*(d.Y-c.Y) - (c.Y-a.Y)*(d.X-c.X)) / det
			s := ((c.X-a.X)*(b.Y-a.Y) - (c.Y-a.Y)*(b.X-a.X)) / det
			if t < 0 || t > 1 || s < 0 || s > 1 {
				continue
			}
			p := Point{a.X + t*(b.X-a.X), a.Y + t*(b.Y-a.Y)}
			cuts[i], places[i] = append(cuts[i], t), append(places[i], p)
			cuts[k], places[k] = append(cuts[k], s), append(places[k], p)
		}
	}
	var out [][2]Point
	for i := range n {
		order := make([]int, len(cuts[i]))
		for k := range order {
			order[k] = k
		}
		slices.SortFunc(order, func(a, b int) int { return cmp.Compare(cuts[i][a], cuts[i][b]) })
		from := line[i]
		for _, k := range order {
			out = append(out, [2]Point{from, places[i][k]})
			from = places[i][k]
		}
		out = append(out, [2]Point{from, line[(i+1)%n]})
	}
	return out
}

// apart keeps the ways whose middle lies at least so far from an outline.
func (r Ring) apart(ways [][2]Point, least float64) [][2]Point {
	return slices.DeleteFunc(ways, func(w [2]Point) bool {
		return w[0] == w[1] || r.Distance(w[0].Middle(w[1])) < least
	})
}

// chained joins ways end to end to closed lines; what does not close is left out.
func chained(ways [][2]Point) []Ring {
	at := map[Point][]int{}
	for k, w := range ways {
		at[w[0]] = append(at[w[0]], k)
	}
	used := make([]bool, len(ways))
	var out []Ring
	for k := range ways {
		if used[k] {
			continue
		}
		var line Ring
		for here := k; ; {
			used[here] = true
			line = append(line, ways[here][0])
			next := slices.IndexFunc(at[ways[here][1]], func(n int) bool { return !used[n] })
			if next < 0 {
				if ways[here][1] == line[0] && len(line) > 2 {
					out = append(out, line)
				}
				break
			}
			here = at[ways[here][1]][next]
		}
	}
	return out
}

// smooth is the turn below which a corner is one of an arc's chords and stays, radians.
const smooth = 0.2

// Rounded is the outline with every corner, outer ones and inner ones, replaced by an arc of a radius
// that touches both its sides. A side that is too short for the arcs at its ends is an error with its
// place.
func (r Ring) Rounded(radius float64) (Ring, error) {
	if radius == 0 {
		return r, nil
	}
	n := len(r)
	turn, cut := make([]float64, n), make([]float64, n)
	for i, b := range r {
		a, c := r[(i+n-1)%n], r[(i+1)%n]
		turn[i] = math.Remainder(math.Atan2(c.Y-b.Y, c.X-b.X)-math.Atan2(b.Y-a.Y, b.X-a.X), 2*math.Pi)
		if math.Abs(turn[i]) > smooth {
			cut[i] = radius * math.Tan(math.Abs(turn[i])/2)
		}
	}
	var out Ring
	for i, b := range r {
		a, c := r[(i+n-1)%n], r[(i+1)%n]
		long := math.Hypot(c.X-b.X, c.Y-b.Y)
		if cut[i]+cut[(i+1)%n] > long*(1+1e-9) {
			return nil, fmt.Errorf("corners cannot be rounded by %.1f mm: the side from (%.1f, %.1f) mm is %.1f mm long, and "+
				"their arcs need %.1f mm of it", radius*1e3, b.X*1e3, b.Y*1e3, long*1e3, (cut[i]+cut[(i+1)%n])*1e3)
		}
		if cut[i] == 0 {
			out = append(out, b)
			continue
		}
		in, on := Point{b.X - a.X, b.Y - a.Y}, Point{c.X - b.X, c.Y - b.Y}
		before := math.Hypot(in.X, in.Y)
		from := Point{b.X - in.X/before*cut[i], b.Y - in.Y/before*cut[i]}
		// From the tangent place the centre lies to the side that it turns to.
		side := math.Copysign(radius, turn[i])
		centre := Point{from.X - in.Y/before*side, from.Y + in.X/before*side}
		steps := max(2, int(math.Ceil(math.Abs(turn[i])/2/math.Acos(max(0, 1-arcStep/radius)))))
		for k := range steps {
			sin, cos := math.Sincos(turn[i] * float64(k) / float64(steps))
			dx, dy := from.X-centre.X, from.Y-centre.Y
			out = append(out, Point{centre.X + dx*cos - dy*sin, centre.Y + dx*sin + dy*cos})
		}
		out = append(out, Point{b.X + on.X/long*cut[i], b.Y + on.Y/long*cut[i]})
	}
	return out, nil
}
