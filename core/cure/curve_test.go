package cure

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"juxta/core/unit"
)

// drawn is the set point of a recipe, a point every so many seconds.
func drawn(r Recipe, every float64) (out []CurvePoint) {
	c := Begin(r)
	for t := 0.0; ; t += every {
		out = append(
			out,
			CurvePoint{T: t, Temperature: c.SetPoint, Pressure: r.Segments[min(c.Segment, len(r.Segments)-1)].Pressure},
		)
		if c.Done {
			return out
		}
		c = c.Step(r, PartState{}, every)
	}
}

// What is read from the curve of a recipe's set points is that recipe: its temperatures within a kelvin or two, and as
// long.
func TestARecipeIsReadFromItsCurve(t *testing.T) {
	rapid.Check(t, func(rt *rapid.T) {
		r := Recipe{Name: "x", Start: 295, Tolerance: 5}
		at := r.Start
		for k := range rapid.IntRange(1, 4).Draw(rt, "segments") {
			up := rapid.Float64Range(15, 60).Draw(rt, "up")
			if k == 3 {
				up = math.Max(-up, r.Start-at) // nothing holds it colder than it began
			}
			at += up
			r.Segments = append(r.Segments, Segment{
				Target: at, Rate: rapid.Float64Range(0.5, 4).Draw(rt, "rate") / 60,
				Hold: rapid.Float64Range(1200, 7200).Draw(rt, "hold"),
			})
		}
		read, err := FromCurve("x", drawn(r, 30))
		require.NoError(rt, err)
		require.Len(rt, read.Segments, len(r.Segments))
		for k, s := range read.Segments {
			assert.InDelta(rt, r.Segments[k].Target, s.Target, 2)
			assert.InEpsilon(rt, r.Segments[k].Rate, s.Rate, 0.25)
		}
		// Both corners of a ramp may be missed by as many kelvins as it is followed to, and by a point of the curve.
		off := 0.0
		for _, s := range r.Segments {
			off += 2*nearCurve/s.Rate + 30
		}
		assert.InDelta(rt, r.Least(), read.Least(), off)
	})
}

func TestCurvesThatAreNone(t *testing.T) {
	for says, curve := range map[string][]CurvePoint{
		"two points":    {{T: 0, Temperature: 300}},
		"is not after":  {{T: 0, Temperature: 300}, {T: 60, Temperature: 310}, {T: 60, Temperature: 320}},
		"be numbers":    {{T: 0, Temperature: 300}, {T: 60, Temperature: math.NaN()}},
		"not possible":  {{T: 0, Temperature: 300}, {T: 60000, Temperature: 3000}},
		"ramps at 3000": {{T: 0, Temperature: 300}, {T: 1, Temperature: 350}},
	} {
		_, err := FromCurve("x", curve)
		require.Error(t, err)
		assert.Contains(t, unit.InMetric(err.Error()), says)
	}
	// A noisy log has more pieces than a recipe may: it is followed less nearly.
	var noisy []CurvePoint
	for i := range 2000 {
		noisy = append(noisy, CurvePoint{T: float64(i) * 10, Temperature: 350 + 30*math.Sin(float64(i)*0.7)})
	}
	r, err := FromCurve("x", noisy)
	require.NoError(t, err)
	assert.LessOrEqual(t, len(r.Segments), 40)
}
