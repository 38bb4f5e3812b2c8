package master

import (
	"fmt"
	"math"
	"slices"

	"juxta/core/geom"
	"juxta/core/unit"
)

// Section is the stack along a line from P to Q: the courses of each layer, in
// lay order, and how far up the whole reaches.
type Section struct {
	P, Q    geom.Point
	Length  float64
	Height  float64
	Courses []Course
}

// Course is a layer along a section without a gap: its lower and upper face
// from station to station, in between straight. Two stations at one place are
// a step.
type Course struct {
	Layer int // of those that were cut
	At    []Station
}

// Station is a place along a section and where a layer's faces lie there, m
// along the line and m from the tool.
type Station struct{ X, Low, High float64 }

// add lengthens a course by a stretch; what goes straight on is one stretch.
func (c *Course) add(from, to Station) {
	n := len(c.At)
	if n == 0 || c.At[n-1] != from {
		c.At = append(c.At, from, to)
		return
	}
	if n > 1 {
		a, run := c.At[n-2], to.X-from.X
		slope := 1 / max(from.X-a.X, 1e-12)
		if math.Abs((from.Low-a.Low)*slope*run-(to.Low-from.Low)) < 1e-10 &&
			math.Abs((from.High-a.High)*slope*run-(to.High-from.High)) < 1e-10 {
			c.At[n-1] = to
			return
		}
	}
	c.At = append(c.At, to)
}

// Cut cuts the layers along a line: what lies above a layer that ends comes
// down behind it, cores have their chamfer. Stations lie where the line meets
// an outline and where a chamfer reaches full height; between them everything
// is straight but the foot of a chamfer that the line meets at a slant, which
// is drawn straight as well. For l layers of o outlines that meet the line c
// times it takes O(c·(l + o·corners)).
func Cut(layers []Layer, p, q geom.Point) (Section, error) {
	s := Section{P: p, Q: q, Length: math.Hypot(q.X-p.X, q.Y-p.Y)}
	if s.Length < 1e-4 {
		return s, fmt.Errorf("the line of the section needs a length")
	}
	turn := math.Atan2(q.Y-p.Y, q.X-p.X)
	type lying struct {
		ring  geom.Ring // the line along x from the origin
		cross []float64
		holds []bool // of the stretch behind each station
	}
	of := make([]*lying, len(layers))
	alike := map[*geom.Point]*lying{} // layers that lie alike share one ring
	stations := []float64{0, s.Length}
	for k, l := range layers {
		f := alike[&l.Outline[0]]
		if f == nil {
			f = &lying{ring: l.Outline.Move(-p.X, -p.Y).Rotate(-turn)}
			f.cross = f.ring.Crossings(0)
			alike[&l.Outline[0]] = f
			stations = append(stations, f.cross...)
		}
		of[k] = f
		if ramp := l.ramp(); ramp > 0 {
			for _, x := range f.cross {
				stations = append(stations, x-ramp, x+ramp)
			}
		}
	}
	slices.Sort(stations)
	kept := stations[:0]
	for _, x := range stations {
		if x >= 0 && x <= s.Length && (len(kept) == 0 || x > kept[len(kept)-1]+1e-7) {
			kept = append(kept, x)
		}
	}
	for _, f := range alike {
		f.holds = make([]bool, len(kept))
		for i := 0; i+1 < len(kept); i++ {
			f.holds[i] = f.ring.Contains(geom.Point{X: (kept[i] + kept[i+1]) / 2})
		}
	}
	low := make([][2]float64, len(kept)) // of the next layer, at both ends of each stretch
	for k, l := range layers {
		course := Course{Layer: k}
		for i := 0; i+1 < len(kept); i++ {
			if !of[k].holds[i] {
				if len(course.At) > 0 {
					s.Courses, course = append(s.Courses, course), Course{Layer: k}
				}
				continue
			}
			ends := [2]Station{{X: kept[i]}, {X: kept[i+1]}}
			for e := range ends {
				ends[e].Low = low[i][e]
				ends[e].High = low[i][e] + l.thickAt(of[k].ring, ends[e].X)
				low[i][e] = ends[e].High
				s.Height = max(s.Height, ends[e].High)
			}
			course.add(ends[0], ends[1])
		}
		if len(course.At) > 0 {
			s.Courses = append(s.Courses, course)
		}
	}
	return s, nil
}

// ramp is how far a core's chamfer reaches in from its edge, m.
func (l Layer) ramp() float64 {
	if l.Item.Kind != Core || l.Item.Chamfer <= 0 || l.Item.Chamfer >= 90 {
		return 0
	}
	return l.Lamina.Thickness / math.Tan(unit.Rad(l.Item.Chamfer))
}

// thickAt is the layer's thickness at a place on the line.
func (l Layer) thickAt(ring geom.Ring, x float64) float64 {
	ramp := l.ramp()
	if ramp == 0 {
		return l.Lamina.Thickness
	}
	return l.Lamina.Thickness * min(1, ring.Distance(geom.Point{X: x})/ramp)
}

// Middle is the line along x through the smallest of layers, of which there is
// at least one, and a little beyond all of them.
func Middle(layers []Layer) (p, q geom.Point) {
	smallest, all := layers[0].Outline, geom.Ring{}
	for _, l := range layers {
		if l.Outline.Area() < smallest.Area() {
			smallest = l.Outline
		}
		all = append(all, l.Outline...)
	}
	// A little off the middle, where outlines like to have corners.
	in, b := smallest.Bounds(), all.Bounds()
	y := (in.Min.Y+in.Max.Y)/2 + in.Height()*1e-3
	if c := smallest.Crossings(y); len(c) == 0 {
		y = (in.Min.Y + in.Max.Y) / 2
	}
	pad := b.Width() * 0.02
	return geom.Point{X: b.Min.X - pad, Y: y}, geom.Point{X: b.Max.X + pad, Y: y}
}

// Shapes are the outlines of layers in plan, each once, and which of them each
// layer has.
func Shapes(layers []Layer) (shapes []geom.Ring, of []int) {
	at := map[*geom.Point]int{} // layers that lie alike share one ring
	of = make([]int, len(layers))
	for k, l := range layers {
		n, known := at[&l.Outline[0]]
		if !known {
			n = len(shapes)
			at[&l.Outline[0]], shapes = n, append(shapes, l.Outline)
		}
		of[k] = n
	}
	return shapes, of
}

// LayersBeyond names the layers that reach over the edge of a face of a tool: told by
// the boxes about them.
func LayersBeyond(layers []Layer, face geom.Ring) []string {
	const tight = 1e-6 // m
	on, beyond := face.Bounds(), []string{}
	for _, l := range layers {
		b := l.Outline.Bounds()
		if b.Min.X < on.Min.X-tight || b.Min.Y < on.Min.Y-tight || b.Max.X > on.Max.X+tight ||
			b.Max.Y > on.Max.Y+tight {
			beyond = append(beyond, l.Name)
		}
	}
	return beyond
}
