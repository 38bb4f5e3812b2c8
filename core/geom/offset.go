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
	loops := chained(snapped(r.apart(split(r.moved(by, step)), math.Abs(by)-step*0.8)), 10*step)
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
		turn := math.Remainder(to-from, 2*math.Pi)
		last, next := r[(i+n-1)%n], r[(i+1)%n]
		short := min(math.Hypot(p.X-last.X, p.Y-last.Y), math.Hypot(next.X-p.X, next.Y-p.Y))
		if turn*by <= 0 && math.Abs(by)*math.Tan(math.Abs(turn)/2) < short/4 {
			// The sides still meet, where their bisector says.
			k := by / (1 + before.X*after.X + before.Y*after.Y)
			out = append(out, Point{p.X + (before.X+after.X)*k, p.Y + (before.Y+after.Y)*k})
			continue
		}
		out = append(out, Point{p.X + before.X*by, p.Y + before.Y*by})
		if turn*by > 0 {
			steps := max(2, int(math.Ceil(math.Abs(turn)/2/math.Acos(1-step/math.Abs(by)))))
			for k := 1; k < steps; k++ {
				sin, cos := math.Sincos(turn * float64(k) / float64(steps))
				// A little outside, so that its chords lie as far within.
				far := by + math.Copysign(step*0.7, by)
				out = append(out, Point{p.X + (before.X*cos-before.Y*sin)*far, p.Y + (before.X*sin+before.Y*cos)*far})
			}
		}
		out = append(out, Point{p.X + after.X*by, p.Y + after.Y*by})
	}
	// An arc that shrinks to a point is one: its chords would lie crosswise.
	last := Point{math.Inf(1), 0}
	return slices.DeleteFunc(out, func(p Point) bool {
		if math.Hypot(p.X-last.X, p.Y-last.Y) < 4*step {
			return true
		}
		last = p
		return false
	})
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

// snapped is the ways on whole micrometres without those that come to nothing.
func snapped(ways [][2]Point) [][2]Point {
	whole := func(v float64) float64 { return math.Round(v*1e6) / 1e6 }
	for k, w := range ways {
		for i, p := range w {
			ways[k][i] = Point{whole(p.X), whole(p.Y)}
		}
	}
	return slices.DeleteFunc(ways, func(w [2]Point) bool { return w[0] == w[1] })
}

// chained joins ways end to end to closed lines, each from where it comes back to, over gaps of at most a
// distance; what does not close is left out.
func chained(ways [][2]Point, gap float64) []Ring {
	used := make([]bool, len(ways))
	// next is the way that begins nearest to a place.
	next := func(p Point) int {
		best, at := gap, -1
		for k, w := range ways {
			if d := math.Hypot(w[0].X-p.X, w[0].Y-p.Y); !used[k] && d <= best {
				best, at = d, k
			}
		}
		return at
	}
	var out []Ring
	for k := range ways {
		if used[k] {
			continue
		}
		var line Ring
		for here := k; here >= 0; {
			used[here] = true
			w := ways[here]
			// It comes back to where it was: that is a loop of its own.
			if from := slices.IndexFunc(line, func(q Point) bool {
				return math.Hypot(q.X-w[0].X,
					q.Y-w[0].Y) < 1e-9
			}); from >= 0 {
				out = append(out, slices.Clone(line[from:]))
				line = line[:from]
			}
			line = append(line, w[0])
			if here = next(w[1]); here < 0 || len(line) > 2 && near(w[1], line[0]) < near(w[1], ways[here][0]) {
				if near(w[1], line[0]) <= gap {
					out = append(out, line)
				}
				break
			}
		}
	}
	return slices.DeleteFunc(out, func(r Ring) bool { return len(r) < 3 })
}

func near(a, b Point) float64 { return math.Hypot(a.X-b.X, a.Y-b.Y) }

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
			return nil, fmt.Errorf(
				"corners cannot be rounded by %.1f mm: the side from (%.1f, %.1f) mm is %.1f mm long, and "+
					"their arcs need %.1f mm of it",
				radius*1e3,
				b.X*1e3,
				b.Y*1e3,
				long*1e3,
				(cut[i]+cut[(i+1)%n])*1e3,
			)
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
