package pattern

import (
	"fmt"
	"math"

	"juxta/core/geom"
)

// Shape is an outline from the library, or one of points with arcs between.
// Lengths are in m, angles in radians.
type Shape struct {
	Kind   string
	Dims   map[string]float64
	Points []Corner
}

// Corner is a point of an outline. Bulge makes the edge to the next point an
// arc: the tangent of a quarter of the angle that the arc sweeps, positive
// anticlockwise, as drawing files have it.
type Corner struct{ X, Y, Bulge float64 }

// Dim is a dimension of a shape: its name, what it is called, its unit, and what
// a new shape has.
type Dim struct {
	Name, Called string
	Unit         string // "m", "rad" or, for a number, none
	Usual        float64
}

// ShapeKind is a kind of shape that takes dimensions instead of points.
type ShapeKind struct {
	Kind, Called string
	Dims         []Dim
}

// Library is the kinds of shapes there are, each with its first corner, or its
// middle, at the origin.
var Library = []ShapeKind{
	{
		"rectangle",
		"rectangle, from its lower left corner",
		[]Dim{{"length", "length along x", "m", 0.3}, {"width", "width along y", "m", 0.2}},
	},
	{
		"strip",
		"strip with round ends, from its middle",
		[]Dim{{"length", "length over all", "m", 0.3}, {"width", "width", "m", 0.2}},
	},
	{
		"ring sector",
		"ring sector, from the ring's middle, either side of x",
		[]Dim{
			{"inner", "inner radius", "m", 0.2},
			{"outer", "outer radius", "m", 0.3},
			{"angle", "angle", "rad", math.Pi / 3},
		},
	},
	{"circle", "circle, from its middle", []Dim{{"diameter", "diameter", "m", 0.2}}},
	{
		"ellipse",
		"ellipse, from its middle",
		[]Dim{{"length", "length along x", "m", 0.3}, {"width", "width along y", "m", 0.2}},
	},
	{
		"patch",
		"patch with rounded corners, from its middle",
		[]Dim{
			{"length", "length along x", "m", 0.3},
			{"width", "width along y", "m", 0.2},
			{"radius", "corner radius", "m", 0.02},
		},
	},
	{
		"taper",
		"tapered strip, from the middle of its first end",
		[]Dim{
			{"length", "length along x", "m", 0.3},
			{"first", "first width", "m", 0.2},
			{"last", "last width", "m", 0.1},
		},
	},
	{
		"regular",
		"regular polygon, from its middle, a corner on x",
		[]Dim{{"sides", "number of sides", "", 6}, {"across", "across corners", "m", 0.2}},
	},
}

// Points is the kind of a shape that is given by its points.
const Points = "points"

// chord is how far a straight piece may run beside the arc that it stands for:
// finer than a knife cuts.
const chord = 5e-5

// Outline draws a shape. The error names the dimension or the point.
func (s Shape) Outline() (geom.Ring, error) {
	if s.Kind == Points {
		return s.drawn()
	}
	for _, known := range Library {
		if known.Kind != s.Kind {
			continue
		}
		d := map[string]float64{}
		for _, dim := range known.Dims {
			v := s.Dims[dim.Name]
			if !(v > 0) || math.IsInf(v, 0) {
				return nil, fmt.Errorf("the %s of a %s must be above zero", dim.Called, s.Kind)
			}
			if dim.Unit == "m" && v > 100 {
				return nil, fmt.Errorf("the %s of a %s can be no more than 100 m", dim.Called, s.Kind)
			}
			d[dim.Name] = v
		}
		return s.library(d)
	}
	return nil, fmt.Errorf("%q is no shape that is known here", s.Kind)
}

func (s Shape) library(d map[string]float64) (geom.Ring, error) {
	l, w := d["length"], d["width"]
	switch s.Kind {
	case "rectangle":
		return geom.Rect(l, w), nil
	case "strip":
		if w > l {
			return nil, fmt.Errorf("a strip with round ends is at least as long as it is wide")
		}
		return patch(l, w, w/2), nil
	case "ring sector":
		in, out, a := d["inner"], d["outer"], d["angle"]
		if in >= out || a > 1.999*math.Pi {
			return nil, fmt.Errorf(
				"a ring sector's inner radius lies below its outer one, and its angle below a full turn",
			)
		}
		ring := arc(geom.Point{}, out, -a/2, a)
		return append(ring, arc(geom.Point{}, in, a/2, -a)...), nil
	case "circle":
		ring := arc(geom.Point{}, d["diameter"]/2, 0, 2*math.Pi)
		return ring[:len(ring)-1], nil
	case "ellipse":
		ring := arc(geom.Point{}, max(l, w)/2, 0, 2*math.Pi)
		for i, p := range ring {
			ring[i] = geom.Point{X: p.X * l / max(l, w), Y: p.Y * w / max(l, w)}
		}
		return ring[:len(ring)-1], nil
	case "patch":
		if d["radius"] > min(l, w)/2*(1+1e-9) {
			return nil, fmt.Errorf("the corner radius is at most half the shorter side")
		}
		return patch(l, w, min(d["radius"], min(l, w)/2)), nil
	case "taper":
		a, b := d["first"]/2, d["last"]/2
		return geom.Ring{{X: 0, Y: -a}, {X: l, Y: -b}, {X: l, Y: b}, {X: 0, Y: a}}, nil
	case "regular":
		n := int(math.Round(d["sides"]))
		if n < 3 || n > 360 || math.Abs(d["sides"]-float64(n)) > 1e-9 {
			return nil, fmt.Errorf("a regular polygon has 3 to 360 sides")
		}
		var ring geom.Ring
		for k := range n {
			sin, cos := math.Sincos(2 * math.Pi * float64(k) / float64(n))
			ring = append(ring, geom.Point{X: d["across"] / 2 * cos, Y: d["across"] / 2 * sin})
		}
		return ring, nil
	}
	return nil, fmt.Errorf("%q is no shape that is known here", s.Kind)
}

// patch is a rectangle round the origin with rounded corners.
func patch(l, w, r float64) geom.Ring {
	var ring geom.Ring
	for k, c := range []geom.Point{
		{X: l/2 - r, Y: w/2 - r}, {X: r - l/2, Y: w/2 - r}, {X: r - l/2, Y: r - w/2}, {X: l/2 - r, Y: r - w/2},
	} {
		for _, p := range arc(c, r, float64(k)*math.Pi/2, math.Pi/2) {
			if n := len(ring); n == 0 || math.Hypot(ring[n-1].X-p.X, ring[n-1].Y-p.Y) > 1e-9 {
				ring = append(ring, p)
			}
		}
	}
	if n := len(ring); math.Hypot(ring[0].X-ring[n-1].X, ring[0].Y-ring[n-1].Y) < 1e-9 {
		ring = ring[:n-1]
	}
	return ring
}

// arc is an arc of points, both ends among them, in pieces that keep to within
// a chord of it.
func arc(c geom.Point, r, from, sweep float64) geom.Ring {
	n := 1
	if r > chord {
		n = int(math.Ceil(math.Abs(sweep) / (2 * math.Acos(1-chord/r))))
	}
	n = min(max(n, 4), 720)
	ring := make(geom.Ring, n+1)
	for k := range ring {
		sin, cos := math.Sincos(from + sweep*float64(k)/float64(n))
		ring[k] = geom.Point{X: c.X + r*cos, Y: c.Y + r*sin}
	}
	return ring
}

// MostPoints is how many points an outline may have once its arcs are drawn:
// what is worked out of it grows with them.
const MostPoints = 20_000

// drawn joins the points, arcs among them.
func (s Shape) drawn() (geom.Ring, error) {
	if len(s.Points) < 2 {
		return nil, fmt.Errorf("an outline of points needs at least 3, or 2 with an arc between")
	}
	var ring geom.Ring
	for i, p := range s.Points {
		if math.IsNaN(p.X+p.Y+p.Bulge) || math.Abs(p.X) > 100 || math.Abs(p.Y) > 100 || math.Abs(p.Bulge) > 20 {
			return nil, fmt.Errorf("point %d of the outline is not a place within 100 m", i+1)
		}
		q := s.Points[(i+1)%len(s.Points)]
		ring = append(ring, geom.Point{X: p.X, Y: p.Y})
		if p.Bulge == 0 {
			continue
		}
		dx, dy := q.X-p.X, q.Y-p.Y
		if dx == 0 && dy == 0 {
			return nil, fmt.Errorf("point %d of the outline starts an arc that leads nowhere", i+1)
		}
		// The arc's middle lies off the chord's by (1-b²)/(4b) chords.
		k := (1 - p.Bulge*p.Bulge) / (4 * p.Bulge)
		c := geom.Point{X: (p.X+q.X)/2 - k*dy, Y: (p.Y+q.Y)/2 + k*dx}
		pieces := arc(c, math.Hypot(p.X-c.X, p.Y-c.Y), math.Atan2(p.Y-c.Y, p.X-c.X), 4*math.Atan(p.Bulge))
		ring = append(ring, pieces[1:len(pieces)-1]...)
		if len(ring) > MostPoints {
			return nil, fmt.Errorf(
				"the outline has more than %d points once its arcs are drawn: leave out those that lie closer than "+
					"the knife cuts",
				MostPoints,
			)
		}
	}
	if err := ring.Check(); err != nil {
		return nil, err
	}
	return ring, nil
}
