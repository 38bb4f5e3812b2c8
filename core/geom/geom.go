package geom

import (
	"cmp"
	"fmt"
	"math"
	"slices"

	sf "github.com/peterstace/simplefeatures/geom"

	"juxta/core/unit"
)

// Point is a place in the plane, in metres.
type Point struct{ X, Y float64 }

// Ring is a closed outline: at least three points, not crossing itself.
type Ring []Point

// Fine is a ring for a picture, to the tenth of a micrometre: a third of the digits to send. What is cut or kept is
// never made so.
func (r Ring) Fine() Ring {
	out := make(Ring, len(r))
	for i, p := range r {
		out[i] = Point{unit.RoundLength(p.X), unit.RoundLength(p.Y)}
	}
	return out
}

// Box is an axis-parallel rectangle.
type Box struct{ Min, Max Point }

// Width is the extent of the box along x, in metres.
func (b Box) Width() float64 { return b.Max.X - b.Min.X }

// Height is the extent of the box along y, in metres.
func (b Box) Height() float64 { return b.Max.Y - b.Min.Y }

// Contains says whether a place lies in the box.
func (b Box) Contains(p Point) bool {
	return b.Min.X <= p.X && p.X <= b.Max.X && b.Min.Y <= p.Y && p.Y <= b.Max.Y
}

// Rect is the outline of a rectangle from the origin.
func Rect(width, height float64) Ring {
	return Ring{{0, 0}, {width, 0}, {width, height}, {0, height}}
}

// SignedArea is positive for an anticlockwise outline, in m².
func (r Ring) SignedArea() float64 {
	sum := 0.0
	for i, p := range r {
		q := r[(i+1)%len(r)]
		sum += p.X*q.Y - q.X*p.Y
	}
	return sum / 2
}

// Area in m².
func (r Ring) Area() float64 { return math.Abs(r.SignedArea()) }

// Perimeter in m.
func (r Ring) Perimeter() float64 {
	sum := 0.0
	for i, p := range r {
		q := r[(i+1)%len(r)]
		sum += math.Hypot(q.X-p.X, q.Y-p.Y)
	}
	return sum
}

// Bounds is the smallest box round the outline. An empty outline has the zero
// box.
func (r Ring) Bounds() Box {
	if len(r) == 0 {
		return Box{}
	}
	b := Box{r[0], r[0]}
	for _, p := range r {
		b.Min.X, b.Min.Y = math.Min(b.Min.X, p.X), math.Min(b.Min.Y, p.Y)
		b.Max.X, b.Max.Y = math.Max(b.Max.X, p.X), math.Max(b.Max.Y, p.Y)
	}
	return b
}

// Rotate turns the outline about the origin by angle radians, anticlockwise.
func (r Ring) Rotate(angle float64) Ring {
	// Quarter turns are exact, so that a rectangle stays one to the last bit.
	s, c := math.Sincos(angle)
	if k := angle / (math.Pi / 2); math.Abs(k-math.Round(k)) < 1e-12 {
		s, c = math.Round(s), math.Round(c)
	}
	return r.each(func(p Point) Point { return Point{c*p.X - s*p.Y, s*p.X + c*p.Y} })
}

// Move shifts the outline.
func (r Ring) Move(dx, dy float64) Ring {
	return r.each(func(p Point) Point { return Point{p.X + dx, p.Y + dy} })
}

// Flip mirrors the outline in the x axis and keeps its sense of rotation.
func (r Ring) Flip() Ring {
	out := make(Ring, len(r))
	for i, p := range r {
		out[len(r)-1-i] = Point{p.X, -p.Y}
	}
	return out
}

func (r Ring) each(f func(Point) Point) Ring {
	out := make(Ring, len(r))
	for i, p := range r {
		out[i] = f(p)
	}
	return out
}

// Contains says whether a place lies inside the outline (even-odd).
func (r Ring) Contains(p Point) bool {
	in := false
	for i, a := range r {
		b := r[(i+1)%len(r)]
		if (a.Y <= p.Y) != (b.Y <= p.Y) && p.X < a.X+(p.Y-a.Y)/(b.Y-a.Y)*(b.X-a.X) {
			in = !in
		}
	}
	return in
}

// ContainsAll says whether all points of a line lie within the ring.
func (r Ring) ContainsAll(line []Point) bool {
	for _, p := range line {
		if !r.Contains(p) {
			return false
		}
	}
	return true
}

// Distance is how far a place lies from the outline's edge, in m.
func (r Ring) Distance(p Point) float64 {
	d := math.Inf(1)
	for i, a := range r {
		d = min(d, p.To(a, r[(i+1)%len(r)]))
	}
	return d
}

// Nearest is the place on the straight line from a to b that lies nearest.
func (p Point) Nearest(a, b Point) Point {
	dx, dy := b.X-a.X, b.Y-a.Y
	t := 0.0
	if l := dx*dx + dy*dy; l > 0 {
		t = min(1, max(0, ((p.X-a.X)*dx+(p.Y-a.Y)*dy)/l))
	}
	return Point{a.X + t*dx, a.Y + t*dy}
}

// Middle is halfway to another place.
func (p Point) Middle(q Point) Point { return Point{(p.X + q.X) / 2, (p.Y + q.Y) / 2} }

// To is how far the straight line from a to b is, in m.
func (p Point) To(a, b Point) float64 {
	n := p.Nearest(a, b)
	// No place on a part overflows when squared: Hypot's care is not needed.
	return math.Sqrt((n.X-p.X)*(n.X-p.X) + (n.Y-p.Y)*(n.Y-p.Y))
}

// Centroid is the centre of the area.
func (r Ring) Centroid() Point {
	// From the first point, so that nothing is lost to far coordinates.
	var sx, sy, sum float64
	for i, a := range r {
		b := r[(i+1)%len(r)]
		ax, ay, bx, by := a.X-r[0].X, a.Y-r[0].Y, b.X-r[0].X, b.Y-r[0].Y
		cross := ax*by - bx*ay
		sum += cross
		sx, sy = sx+cross*(ax+bx), sy+cross*(ay+by)
	}
	return Point{r[0].X + sx/sum/3, r[0].Y + sy/sum/3}
}

// WidestAt is the widest stretch of a horizontal line that lies inside the
// outline (even-odd); both ends are zero if none does.
func (r Ring) WidestAt(y float64) (lo, hi float64) {
	xs := r.Crossings(y)
	for i := 0; i+1 < len(xs); i += 2 {
		if xs[i+1]-xs[i] > hi-lo {
			lo, hi = xs[i], xs[i+1]
		}
	}
	return lo, hi
}

// Crossings are the x at which a horizontal line crosses the outline, sorted:
// inside lies between the first and second, third and fourth, and so on.
func (r Ring) Crossings(y float64) []float64 {
	var xs []float64
	for i, a := range r {
		b := r[(i+1)%len(r)]
		if (a.Y <= y) != (b.Y <= y) {
			xs = append(xs, a.X+(y-a.Y)/(b.Y-a.Y)*(b.X-a.X))
		}
	}
	slices.Sort(xs)
	return xs
}

// Check says whether the outline encloses an area without crossing itself,
// in a sentence that a drawing's author understands.
func (r Ring) Check() error {
	if len(r) < 3 {
		return fmt.Errorf("the outline has %d points: it needs at least 3", len(r))
	}
	for i, p := range r {
		if math.IsNaN(p.X+p.Y) || math.IsInf(p.X+p.Y, 0) {
			return fmt.Errorf("point %d of the outline is not a number", i+1)
		}
	}
	if r.straight() {
		return fmt.Errorf("the outline encloses no area")
	}
	if err := r.polygon().Validate(); err != nil {
		return fmt.Errorf("the outline touches or crosses itself: %w", err)
	}
	return nil
}

// straight says whether all points lie on one line, but for triangles of
// 1e-8 m² with the two that lie far apart.
func (r Ring) straight() bool {
	far := slices.MaxFunc(r, func(a, b Point) int {
		return cmp.Compare(math.Hypot(a.X-r[0].X, a.Y-r[0].Y), math.Hypot(b.X-r[0].X, b.Y-r[0].Y))
	})
	return !slices.ContainsFunc(r, func(p Point) bool { return Ring{r[0], far, p}.Area() > 1e-8 })
}

// Overlap is the area that two outlines share, in m², by the overlay of the
// geometry library.
func Overlap(a, b Ring) (float64, error) {
	shared, err := sf.Intersection(a.polygon().AsGeometry(), b.polygon().AsGeometry())
	if err != nil {
		return 0, fmt.Errorf("overlay of two outlines: %w", err)
	}
	return shared.Area(), nil
}

// Polygon is the outline as the geometry library's value.
func (r Ring) Polygon() sf.Geometry { return r.polygon().AsGeometry() }

func (r Ring) polygon() sf.Polygon {
	if len(r) == 0 {
		return sf.Polygon{}
	}
	flat := make([]float64, 0, 2*len(r)+2)
	for _, p := range append(r[:len(r):len(r)], r[0]) {
		// On whole micrometres: edges drawn to coincide then do, to the last
		// bit, which the overlay needs.
		flat = append(flat, math.Round(p.X*1e6)/1e6, math.Round(p.Y*1e6)/1e6)
	}
	return sf.NewPolygon([]sf.LineString{sf.NewLineString(sf.NewSequence(flat, sf.DimXY))})
}
