package cure

import (
	"errors"
	"fmt"
	"math"
)

// CurvePoint is a moment of a curve that a recipe is read from.
type CurvePoint struct {
	T           float64 // s
	Temperature float64 // set point, K
	Pressure    float64 // above the air outside, Pa
}

// As near as a recipe follows a curve, K, the gentlest ramp that is not a hold, K/s, and how many segments there may be
// (as many as a recipe has at most).
const (
	nearCurve    = 1.0
	gentlest     = 0.1 / 60
	mostSegments = 40
)

// FromCurve is a recipe that follows a curve of set points within 1 K, or as near as 40 segments can: the fewest
// straight pieces (Ramer 1972, Douglas & Peucker 1973), those that hardly rise as holds. The pressure of a segment is
// the one at its end. It needs two points and times that rise.
func FromCurve(name string, curve []CurvePoint) (Recipe, error) {
	if len(curve) < 2 {
		return Recipe{}, errors.New("a curve needs at least two points")
	}
	for i, p := range curve {
		switch {
		case math.IsNaN(p.T+p.Temperature+p.Pressure) || math.IsInf(p.T+p.Temperature+p.Pressure, 0):
			return Recipe{}, fmt.Errorf("point %d: its figures must be numbers", i+1)
		case i > 0 && p.T <= curve[i-1].T:
			return Recipe{}, fmt.Errorf("point %d: its time is not after that of the one before", i+1)
		}
	}
	for near := nearCurve; ; near *= 1.5 {
		r := Recipe{Name: name, Start: curve[0].Temperature, Tolerance: 5}
		at := CurvePoint{}
		for i, p := range simpler(curve, near) {
			if i > 0 {
				r.Segments = follows(r.Segments, at, p, near)
			}
			at = p
		}
		if len(r.Segments) <= mostSegments {
			return r, r.Check()
		}
	}
}

// follows adds a straight piece of a curve to segments: a hold to the one before, a ramp as one more.
func follows(segments []Segment, from, to CurvePoint, near float64) []Segment {
	rise, long := to.Temperature-from.Temperature, to.T-from.T
	last := len(segments) - 1
	if math.Abs(rise) >= near && math.Abs(rise)/long >= gentlest {
		return append(segments, Segment{Target: to.Temperature, Rate: math.Abs(rise) / long, Pressure: to.Pressure})
	}
	if last < 0 || segments[last].Hold > 0 && segments[last].Pressure != to.Pressure {
		return append(segments, Segment{Target: from.Temperature, Rate: 1.0 / 60, Hold: long, Pressure: to.Pressure})
	}
	segments[last].Hold += long
	segments[last].Pressure = to.Pressure
	return segments
}

// simpler leaves out what lies within a distance in K of the straight line between others.
func simpler(curve []CurvePoint, near float64) []CurvePoint {
	first, last := curve[0], curve[len(curve)-1]
	most, at := 0.0, 0
	for i := 1; i < len(curve)-1; i++ {
		share := (curve[i].T - first.T) / (last.T - first.T)
		if off := math.Abs(first.Temperature +
			share*(last.Temperature-first.Temperature) - curve[i].Temperature); off > most {
			most, at = off, i
		}
	}
	if most <= near {
		return []CurvePoint{first, last}
	}
	return append(simpler(curve[:at+1], near), simpler(curve[at:], near)[1:]...)
}
