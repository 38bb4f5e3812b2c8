package rolled

import (
	"math"
	"slices"

	"juxta/core/geom"
)

// along is a place along the mandrel with what lies beneath a sheet there.
type along struct{ x, depth float64 }

// developed is the flat of one sheet: its outline with the middle of the sheet along x, and
// how much the way along the mandrel turns from x over the sheet.
type developed struct {
	ring     geom.Ring
	min, max float64 // of the direction of rulings in the flat
}

// develop unrolls what a sheet covers: from the first of places to the last, turns times
// round from a seam, with its depth growing by grows a turn. wider is what stands over on
// both sides together: an overlap, or less than nothing for a gap.
//
// The surface between two sections whose normals agree is developable: its rulings join
// places of equal normals. Between two rulings half a degree apart it is flat.
func (m Mandrel) develop(c curves, places []along, seam, turns, grows, wider float64) developed {
	first, last := places[0], places[len(places)-1]
	middle := places[len(places)/2].depth
	if !m.Tapered() {
		return m.straightOn(places, turns, grows, wider)
	}
	slope := m.slope()
	_, a, b := m.rulings(c, along{first.x, middle}, along{last.x, middle}, seam, turns, grows)
	out := developed{}
	out.min, out.max = ways(a, b)
	// Either edge stands out by half of what is wider, and where other layers lie below.
	edge := func(k int, side float64) []geom.Point {
		length := math.Hypot(b[k].X-a[k].X, b[k].Y-a[k].Y)
		nx, ny := -(b[k].Y-a[k].Y)/length*side, (b[k].X-a[k].X)/length*side
		var line []geom.Point
		for _, at := range places {
			t := 0.0
			if last.x > first.x {
				t = (at.x - first.x) / (last.x - first.x)
			}
			by := wider/2 + math.Pi*turns*(at.depth-middle)/slope
			line = append(line, geom.Point{
				X: a[k].X + t*(b[k].X-a[k].X) + nx*by, Y: a[k].Y + t*(b[k].Y-a[k].Y) + ny*by,
			})
		}
		return line
	}
	low, high := edge(0, -1), edge(len(a)-1, 1)
	slices.Reverse(high)
	slices.Reverse(a)
	ring := append(geom.Ring{}, low...)
	ring = append(ring, geom.Thin(b[1:len(b)-1], chord)...)
	ring = append(ring, high...)
	ring = append(ring, geom.Thin(a[1:len(a)-1], chord)...)
	out.ring = ring
	return out
}

// rulings unrolls so many turns from a seam at the first place: how many turns each ruling is
// from it, and its ends in the flat, with what lies halfway along x from the origin.
func (m Mandrel) rulings(
	known curves,
	first, last along,
	seam, turns, grows float64,
) (passed []float64, a, b []geom.Point) {
	c0, c1 := known.of(m.At(first.x)), known.of(m.At(last.x))
	slope, depth := m.slope(), first.depth
	if turns == 1 {
		grows = 0 // one sheet that meets itself lies at one depth
	}
	begin := seamAt(c0, depth/slope, seam)
	type space struct{ x, y, z float64 }
	n := int(math.Ceil(turns))*len(c0) + 2
	p, q := make([]space, 0, n), make([]space, 0, n)
	passed = make([]float64, 0, n)
	put := func(k int, t, turn float64) {
		a, b := c0[k-1], c0[k]
		c, d := c1[k-1], c1[k]
		depth := (depth + grows*(turn-0.5)) / slope
		if grows == 0 {
			depth = first.depth / slope
		}
		u, v, w, z := a.off(depth), b.off(depth), c.off(depth), d.off(depth)
		passed = append(passed, turn)
		p = append(p, space{first.x, u.X + t*(v.X-u.X), u.Y + t*(v.Y-u.Y)})
		q = append(q, space{last.x, w.X + t*(z.X-w.X), w.Y + t*(z.Y-w.Y)})
	}
	whole := c0[len(c0)-1].length + 2*math.Pi*depth/slope
	share := func(k int, t float64) float64 {
		at := func(s station) float64 { return s.length + s.normal*depth/slope }
		return (at(c0[k-1]) + t*(at(c0[k])-at(c0[k-1]))) / whole
	}
	from := share(begin.k, begin.t)
	put(begin.k, begin.t, 0)
	for whole, k := 0.0, begin.k; ; {
		next := whole + share(k, 1)
		if gone := next - from; gone >= turns-1e-12 {
			// The last ruling lies within this piece.
			lo := share(k, 0)
			t := 1.0
			if share(k, 1) > lo {
				t = min(1, max(0, (turns+from-whole-lo)/(share(k, 1)-lo)))
			}
			put(k, t, turns)
			break
		}
		put(k, 1, next-from)
		if k++; k == len(c0) {
			k, whole = 1, whole+1
		}
	}
	distance := func(a, b space) float64 { // no size here overflows when squared
		x, y, z := a.x-b.x, a.y-b.y, a.z-b.z
		return math.Sqrt(x*x + y*y + z*z)
	}
	a, b = make([]geom.Point, len(p)), make([]geom.Point, len(p))
	b[0] = geom.Point{X: distance(p[0], q[0])}
	for k := 1; k < len(p); k++ {
		a[k] = across(a[k-1], b[k-1], distance(p[k-1], p[k]), distance(q[k-1], p[k]))
		b[k] = across(a[k-1], b[k-1], distance(p[k-1], q[k]), distance(q[k-1], q[k]))
	}
	o, to := between(passed, a, turns/2), between(passed, b, turns/2)
	sin, cos := math.Sincos(-math.Atan2(to.Y-o.Y, to.X-o.X))
	lay := func(v geom.Point) geom.Point {
		x, y := v.X-o.X, v.Y-o.Y
		return geom.Point{X: cos*x - sin*y, Y: sin*x + cos*y}
	}
	for k := range a {
		a[k], b[k] = lay(a[k]), lay(b[k])
	}
	return passed, a, b
}

// between is a place so many turns on, of those at the ends of rulings.
func between(passed []float64, places []geom.Point, turn float64) geom.Point {
	k, _ := slices.BinarySearch(passed, turn)
	k = min(max(k, 1), len(passed)-1)
	t := 0.0
	if passed[k] > passed[k-1] {
		t = min(1, max(0, (turn-passed[k-1])/(passed[k]-passed[k-1])))
	}
	p, q := places[k-1], places[k]
	return geom.Point{X: p.X + t*(q.X-p.X), Y: p.Y + t*(q.Y-p.Y)}
}

// ways are the least and most directions of rulings in the flat.
func ways(a, b []geom.Point) (least, most float64) {
	least, most = math.Inf(1), math.Inf(-1)
	for k := range a {
		way := math.Atan2(b[k].Y-a[k].Y, b[k].X-a[k].X)
		least, most = min(least, way), max(most, way)
	}
	return least, most
}

// straightOn develops on a mandrel of one size: a rectangle, wider where more lies below.
func (m Mandrel) straightOn(places []along, turns, grows, wider float64) developed {
	var low, high []geom.Point
	for _, at := range places {
		half := (spiral(m.First.Perimeter(at.depth), turns, grows) + wider) / 2
		low = append(low, geom.Point{X: at.x - places[0].x, Y: -half})
		high = append(high, geom.Point{X: at.x - places[0].x, Y: half})
	}
	slices.Reverse(high)
	return developed{ring: append(geom.Ring(low), high...)}
}

// spiral is the length of so many turns of which the first has the perimeter p and which grow
// outwards by so much a turn: ∫√(v² + g²)du with v growing by 2πg a turn, the length of an
// Archimedean spiral where the section is round, in closed form. A turn lies on the one
// below and steps up where that began: its perimeter is the spiral's mean over the turn.
func spiral(p, turns, grows float64) float64 {
	if grows == 0 {
		return turns * p
	}
	k := 2 * math.Pi * grows
	p -= k / 2
	// ∫√(v²+g²)dv = (v√(v²+g²) + g²·asinh(v/g))/2 with v = p + ku.
	f := func(v float64) float64 {
		return (v*math.Hypot(v, grows) + grows*grows*math.Asinh(v/grows)) / 2
	}
	return (f(p+k*turns) - f(p)) / k
}

// across is where a place at given distances from two known ones lies, to the left.
func across(a, b geom.Point, fromA, fromB float64) geom.Point {
	dx, dy := b.X-a.X, b.Y-a.Y
	d := math.Sqrt(dx*dx + dy*dy)
	t := (fromA*fromA - fromB*fromB + d*d) / (2 * d)
	h := math.Sqrt(max(0, fromA*fromA-t*t))
	return geom.Point{X: a.X + (dx*t-dy*h)/d, Y: a.Y + (dy*t+dx*h)/d}
}

// on is a place between station k-1 and k.
type on struct {
	k int
	t float64
}

func seamAt(curve []station, depth, length float64) on {
	whole := curve[len(curve)-1].length + 2*math.Pi*depth
	length = math.Mod(math.Mod(length, whole)+whole, whole)
	for k := 1; k < len(curve); k++ {
		from := curve[k-1].length + depth*curve[k-1].normal
		to := curve[k].length + depth*curve[k].normal
		if length <= to && to > from {
			return on{k, (length - from) / (to - from)}
		}
	}
	return on{1, 0}
}

// finer than a knife cuts.
const chord = 2e-5
