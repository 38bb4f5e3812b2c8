package cutpath

import (
	"math"

	"juxta/core/geom"
)

// Seconds is how long strokes take on a cutter: the tool stands at both ends of a stroke, gathers speed and
// slows down by its acceleration, and passes a corner no faster than its jump allows; lifted it goes straight,
// and the knife turns on its way.
func Seconds(strokes []Stroke, c Cutter) float64 {
	sum, advanced := 0.0, 0
	at, tool, heading := geom.Point{}, Pen, 0.0
	for k, s := range strokes {
		if s.Advanced != advanced {
			sum += float64(s.Advanced-advanced) * c.Advance
			at.X += float64(s.Advanced-advanced) * c.Table
			advanced = s.Advanced
		}
		if s.Tool != tool && k > 0 {
			sum += c.ToolChange
		}
		tool = s.Tool
		hop := ramps(apart(at, s.Points[0]), 0, 0, c.Rapid, c.Acceleration)
		if tool == Knife {
			first := Heading(s.Points[0], s.Points[1])
			hop = max(hop, turned(heading, first)/c.Turn)
			heading = Heading(s.Points[len(s.Points)-2], s.Points[len(s.Points)-1])
		}
		sum += hop + c.Lower + along(s.Points, c) + c.Lift
		at = s.Points[len(s.Points)-1]
	}
	return sum
}

// Heading is the direction from one point to another, rad.
func Heading(a, b geom.Point) float64 { return math.Atan2(b.Y-a.Y, b.X-a.X) }

// turned is the angle between two directions, 0 to π.
func turned(a, b float64) float64 { return math.Abs(math.Remainder(b-a, 2*math.Pi)) }

// Through is the speed at which a corner of an angle is passed, m/s.
func (c Cutter) Through(angle float64) float64 {
	return min(c.Feed, c.Jump/max(1e-12, 2*math.Sin(angle/2)))
}

// along is the time over a polyline from rest to rest.
func along(points []geom.Point, c Cutter) float64 {
	n := len(points)
	speed := make([]float64, n) // at most, at each point
	for k := 1; k < n-1; k++ {
		speed[k] = c.Through(turned(Heading(points[k-1], points[k]), Heading(points[k], points[k+1])))
	}
	for k := 1; k < n; k++ {
		speed[k] = min(speed[k], math.Sqrt(speed[k-1]*speed[k-1]+2*c.Acceleration*apart(points[k-1], points[k])))
	}
	for k := n - 2; k >= 0; k-- {
		speed[k] = min(speed[k], math.Sqrt(speed[k+1]*speed[k+1]+2*c.Acceleration*apart(points[k], points[k+1])))
	}
	sum := 0.0
	for k := 1; k < n; k++ {
		sum += ramps(apart(points[k-1], points[k]), speed[k-1], speed[k], c.Feed, c.Acceleration)
	}
	return sum
}

// ramps is the time over a length from one speed to another, at most at a top speed.
func ramps(length, from, to, top, a float64) float64 {
	if length <= 0 {
		return 0
	}
	peak := min(top, math.Sqrt((from*from+to*to)/2+a*length))
	up, down := (peak*peak-from*from)/(2*a), (peak*peak-to*to)/(2*a)
	return (peak-from)/a + (peak-to)/a + max(0, length-up-down)/peak
}
