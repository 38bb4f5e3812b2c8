package rolled

import (
	"fmt"
	"math"
	"slices"

	"gonum.org/v1/gonum/mathext"

	"juxta/core/geom"
	"juxta/core/unit"
)

// Kinds of section.
const (
	Round     = "round"
	Ellipse   = "ellipse"
	Stadium   = "stadium"
	Square    = "square"
	Rectangle = "rectangle"
	Hexagon   = "hexagon"
	Octagon   = "octagon"
)

// Sections are the kinds there are.
var Sections = []string{Round, Ellipse, Stadium, Square, Rectangle, Hexagon, Octagon}

// Section is the outside of a mandrel. Width is across: a diameter, or across flats; Height
// is asked for where it may differ (ellipse, stadium, rectangle); Radius is that of the
// corners where there are any.
type Section struct {
	Kind                  string
	Width, Height, Radius float64
}

// Oblong says whether a kind of section has a height of its own, Cornered whether it has
// corners to round.
func Oblong(kind string) bool { return kind == Ellipse || kind == Stadium || kind == Rectangle }

// Cornered says whether a kind of section has corners to round.
func Cornered(kind string) bool {
	return kind == Square || kind == Rectangle || kind == Hexagon || kind == Octagon
}

// Check says what cannot be right about a section.
func (s Section) Check() error {
	height := s.height()
	switch {
	case !slices.Contains(Sections, s.Kind):
		return fmt.Errorf("%q is no section that is known here", s.Kind)
	case !(s.Width > 0) || !(height > 0):
		return fmt.Errorf("a section must be larger than zero")
	case s.Width > 10 || height > 10:
		return fmt.Errorf("a section can be no larger than 10 m")
	case max(s.Width, height) > 50*min(s.Width, height):
		return fmt.Errorf("a section is at most 50 times as wide as it is high")
	case Cornered(s.Kind) && !(s.Radius >= 0):
		return fmt.Errorf("a corner radius cannot be below zero")
	case Cornered(s.Kind) && s.Radius > min(s.Width, height)/2*(1+1e-9):
		return fmt.Errorf("the corner radius of %s exceeds half of the section's shorter side, %s",
			unit.Size(s.Radius, 1), unit.Size(min(s.Width, height)/2, 1))
	}
	return nil
}

func (s Section) height() float64 {
	if Oblong(s.Kind) {
		return s.Height
	}
	return s.Width
}

// radius is the corner radius as it is drawn: round ends are corners as well.
func (s Section) radius() float64 {
	switch s.Kind {
	case Round:
		return s.Width / 2
	case Stadium:
		return min(s.Width, s.Height) / 2
	}
	return min(s.Radius, min(s.Width, s.height())/2)
}

// corners is how many a kind of section has; round ones have four, as large as can be.
func corners(kind string) int {
	switch kind {
	case Hexagon:
		return 6
	case Octagon:
		return 8
	}
	return 4
}

// sides are the outward normals of the section's flat sides and how far these lie from the
// middle; one of no length is none that is seen.
func (s Section) sides() (normals, apart []float64) {
	n := corners(s.Kind)
	for k := range n {
		normals = append(normals, 2*math.Pi*float64(k)/float64(n))
		across := s.Width
		if n == 4 && k%2 == 1 {
			across = s.height()
		}
		apart = append(apart, across/2)
	}
	return normals, apart
}

// Perimeter of the curve that runs a depth outside the section: P + 2πd, for every convex
// section (Steiner 1840).
func (s Section) Perimeter(depth float64) float64 {
	return s.perimeter() + 2*math.Pi*depth
}

func (s Section) perimeter() float64 {
	if s.Kind == Ellipse {
		a, b := max(s.Width, s.Height)/2, min(s.Width, s.Height)/2
		return 4 * a * mathext.CompleteE(1-b*b/(a*a))
	}
	r := s.radius()
	return s.straight(r) + 2*math.Pi*r
}

// straight is the length of the flat sides with corners of a radius.
func (s Section) straight(r float64) float64 {
	if n := corners(s.Kind); n > 4 {
		return float64(n) * (s.Width - 2*r) * math.Tan(math.Pi/float64(n))
	}
	return 2*(s.Width-2*r) + 2*(s.height()-2*r)
}

// Area inside the curve that runs a depth outside the section: A + Pd + πd² (Steiner).
func (s Section) Area(depth float64) float64 {
	return s.area() + s.perimeter()*depth + math.Pi*depth*depth
}

func (s Section) area() float64 {
	if s.Kind == Ellipse {
		return math.Pi * s.Width * s.Height / 4
	}
	normals, apart := s.sides()
	r := s.radius()
	var inner geom.Ring
	for k := range normals {
		inner = append(inner, corner(normals, apart, r, k))
	}
	return inner.Area() + inner.Perimeter()*r + math.Pi*r*r
}

// corner is the middle of the rounding between side k and the next.
func corner(normals, apart []float64, r float64, k int) geom.Point {
	n := (k + 1) % len(normals)
	s0, c0 := math.Sincos(normals[k])
	s1, c1 := math.Sincos(normals[n])
	det := c0*s1 - s0*c1
	a, b := apart[k]-r, apart[n]-r
	return geom.Point{X: (a*s1 - b*s0) / det, Y: (c0*b - c1*a) / det}
}

// station is a place on the section's curve: its outward normal, and the length round to it.
type station struct {
	at     geom.Point
	normal float64
	length float64
	dir    geom.Point // of the normal
}

// step is between stations where a curve turns. Stations stand outside their arc by as much as
// makes the chords between them as long as it: a part in 34,000 of its radius.
const step = math.Pi / 120

var outside = step / 2 / math.Sin(step/2)

// curve walks once round, from the middle of the right side to itself. Sections of one kind
// have stations of the same normals in the same order, whatever their size.
func (s Section) curve() []station {
	var out []station
	if s.Kind == Ellipse {
		a, b := s.Width/2, s.Height/2
		n := int(math.Round(2 * math.Pi / step))
		for k := 0; k <= n; k++ {
			sin, cos := math.Sincos(step * float64(k))
			d := math.Hypot(a*cos, b*sin)
			out = append(out, station{
				at: geom.Point{
					X: a * a * cos / d,
					Y: b * b * sin / d,
				}, normal: step * float64(k), dir: geom.Point{X: cos, Y: sin},
			})
			if k > 0 {
				p, q := out[k-1].at, out[k].at
				out[k].length = out[k-1].length + math.Hypot(p.X-q.X, p.Y-q.Y)
			}
		}
		exact := s.perimeter() / out[n].length
		for k := range out {
			out[k].length *= exact
			out[k].at.X, out[k].at.Y = out[k].at.X*exact, out[k].at.Y*exact
		}
		return out
	}
	normals, apart := s.sides()
	r, n := s.radius(), len(normals)
	length := 0.0
	put := func(at geom.Point, normal, by float64) {
		length += by
		sin, cos := math.Sincos(normal)
		out = append(out, station{at, normal, length, geom.Point{X: cos, Y: sin}})
	}
	first := geom.Point{X: apart[0]}
	put(first, 0, 0)
	for k := range n {
		c := corner(normals, apart, r, k)
		from, to := normals[k], normals[k]+2*math.Pi/float64(n)
		turns := int(math.Round((to - from) / step))
		last := out[len(out)-1].at
		for i := 0; i <= turns; i++ {
			at := from + (to-from)*float64(i)/float64(turns)
			sin, cos := math.Sincos(at)
			p := geom.Point{X: c.X + r*outside*cos, Y: c.Y + r*outside*sin}
			by := r * (to - from) / float64(turns)
			if i == 0 {
				by = math.Hypot(p.X-last.X, p.Y-last.Y)
			}
			put(p, at, by)
		}
	}
	last := out[len(out)-1].at
	put(first, 2*math.Pi, math.Hypot(first.X-last.X, first.Y-last.Y))
	return out
}

// off is a station's place a depth outside.
func (s station) off(depth float64) geom.Point {
	return geom.Point{X: s.at.X + depth*outside*s.dir.X, Y: s.at.Y + depth*outside*s.dir.Y}
}

// Drawn is the curve a depth outside the section.
func (s Section) Drawn(depth float64) geom.Ring { return drawn(s.curve(), depth) }

// Place is where a length round the curve at a depth lies, and the outward normal there.
func (s Section) Place(depth, length float64) (geom.Point, float64) {
	return place(s.curve(), depth, length)
}

// drawn is a curve a depth outside.
func drawn(curve []station, depth float64) geom.Ring {
	ring := make(geom.Ring, 0, len(curve))
	for _, p := range curve {
		q := p.off(depth)
		if n := len(ring); n == 0 || math.Abs(ring[n-1].X-q.X)+math.Abs(ring[n-1].Y-q.Y) > 1e-9 {
			ring = append(ring, q)
		}
	}
	if n := len(ring); n > 1 && math.Abs(ring[0].X-ring[n-1].X)+math.Abs(ring[0].Y-ring[n-1].Y) < 1e-9 {
		ring = ring[:n-1]
	}
	return ring
}

func place(curve []station, depth, length float64) (geom.Point, float64) {
	whole := curve[len(curve)-1].length + 2*math.Pi*depth
	length = math.Mod(math.Mod(length, whole)+whole, whole)
	k, _ := slices.BinarySearchFunc(curve, length, func(s station, l float64) int {
		if s.length+depth*s.normal < l {
			return -1
		}
		return 1
	})
	k = min(max(k, 1), len(curve)-1)
	a, b := curve[k-1], curve[k]
	from, to := a.length+depth*a.normal, b.length+depth*b.normal
	t := 0.0
	if to > from {
		t = (length - from) / (to - from)
	}
	p, q := a.off(depth), b.off(depth)
	return geom.Point{X: p.X + t*(q.X-p.X), Y: p.Y + t*(q.Y-p.Y)}, a.normal + t*(b.normal-a.normal)
}

// At is the length round the curve at a depth to where a ray from the middle at an angle
// meets it.
func (s Section) At(depth, angle float64) float64 { return around(s.curve(), depth, angle) }

func around(curve []station, depth, angle float64) float64 {
	sin, cos := math.Sincos(angle)
	a := curve[0].off(depth)
	left := a.X*sin - a.Y*cos // above 0: the ray passes it on the left
	for k := 1; k < len(curve); k++ {
		b := curve[k].off(depth)
		on := b.X*sin - b.Y*cos
		if t := left / (left - on); left >= 0 && on < 0 && (a.X+t*(b.X-a.X))*cos+(a.Y+t*(b.Y-a.Y))*sin > 0 {
			l0, l1 := curve[k-1].length+depth*curve[k-1].normal, curve[k].length+depth*curve[k].normal
			return l0 + t*(l1-l0)
		}
		a, left = b, on
	}
	return 0
}

// curves keeps the curves of sections that were walked: most sheets begin and end alike.
type curves map[Section][]station

func (c curves) of(s Section) []station {
	known, ok := c[s]
	if !ok {
		known = s.curve()
		c[s] = known
	}
	return known
}

// Mandrel is a straight mandrel with a section at either end of the part, of one kind.
type Mandrel struct {
	First, Last Section
	Length      float64 // of the part
}

// Tapered says whether its size changes along its length.
func (m Mandrel) Tapered() bool { return m.First != m.Last }

// At is the section at a place along; places beyond the ends go on the same way.
func (m Mandrel) At(x float64) Section {
	if !m.Tapered() || m.Length == 0 {
		return m.First
	}
	t := x / m.Length
	between := func(a, b float64) float64 { return a + t*(b-a) }
	return Section{
		Kind: m.First.Kind, Width: between(m.First.Width, m.Last.Width),
		Height: between(m.First.Height, m.Last.Height), Radius: between(m.First.Radius, m.Last.Radius),
	}
}

// slope is the cosine of the angle between the mandrel's surface and its axis, all round on
// average: exact for a cone. A thickness reaches out of the section by 1/slope of itself.
func (m Mandrel) slope() float64 {
	if m.Length == 0 {
		return 1
	}
	rise := (m.Last.perimeter() - m.First.perimeter()) / (2 * math.Pi * m.Length)
	return 1 / math.Hypot(1, rise)
}

// Check says what cannot be right about a mandrel that is wrapped from one place to another.
func (m Mandrel) Check(from, to float64) error {
	if m.First.Kind != m.Last.Kind {
		return fmt.Errorf("both ends of a mandrel have the same kind of section")
	}
	if !(m.Length > 0) || m.Length > 100 {
		return fmt.Errorf("the length of what is rolled lies above 0 and below 100 m")
	}
	for _, s := range []Section{m.First, m.Last} {
		if err := s.Check(); err != nil {
			return err
		}
	}
	for _, x := range []float64{from, to} {
		if s := m.At(x); s.Width <= 0 || s.height() <= 0 || s.Radius < 0 {
			return fmt.Errorf(
				"the taper crosses zero before %s from the first end, where a sheet still reaches",
				unit.Size(x, 0),
			)
		}
		if err := m.At(x).Check(); err != nil {
			return fmt.Errorf("%s from the first end: %w", unit.Size(x, 0), err)
		}
	}
	return nil
}
