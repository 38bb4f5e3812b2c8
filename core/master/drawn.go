package master

import (
	"math"

	"juxta/core/geom"
)

// notch is how long the line of a notch is drawn, and half a datum mark, m.
const notch = 0.006

// Drawn are the marks of a piece as they are drawn on its backing: a datum as a cross, a notch as a
// short line inwards from the edge, a cut as its line, what stands on it as text.
func (p FlatPiece) Drawn() []DrawnMark {
	var out []DrawnMark
	line := func(says string, a, b Corner) { out = append(out, DrawnMark{Text: says, Points: []Corner{a, b}}) }
	var datum *Corner
	for _, m := range p.Marks {
		if m.Text == "start" {
			datum = &m.At
		}
	}
	for _, m := range p.Marks {
		a := m.At
		switch {
		case len(m.Line) > 1:
			out = append(out, DrawnMark{Text: m.Text, Points: m.Line})
		case m.Text == "start":
			line("", Corner{X: a.X - notch, Y: a.Y}, Corner{X: a.X + notch, Y: a.Y})
			line("", Corner{X: a.X, Y: a.Y - notch}, Corner{X: a.X, Y: a.Y + notch})
		case datum != nil && (m.Text == "warp" || m.Text == "weft"):
			long := math.Hypot(datum.X-a.X, datum.Y-a.Y)
			if long < notch {
				continue
			}
			line("", a, Corner{X: a.X + (datum.X-a.X)/long*notch, Y: a.Y + (datum.Y-a.Y)/long*notch})
		default:
			out = append(out, DrawnMark{Text: m.Text, Points: []Corner{a}})
		}
	}
	return out
}

// Turned are the points of a mark turned by an angle about the origin, radians.
func (d DrawnMark) Turned(angle float64) DrawnMark {
	points := d.Places()
	for k, p := range geom.Ring(points).Rotate(angle) {
		points[k] = p
	}
	return d.At(points)
}

// Places are the points of a mark.
func (d DrawnMark) Places() []geom.Point {
	out := make([]geom.Point, len(d.Points))
	for k, c := range d.Points {
		out[k] = geom.Point{X: c.X, Y: c.Y}
	}
	return out
}

// At is the mark at other points.
func (d DrawnMark) At(points []geom.Point) DrawnMark {
	d.Points = make([]Corner, len(points))
	for k, p := range points {
		d.Points[k] = Corner{X: tenth(p.X), Y: tenth(p.Y)}
	}
	return d
}
