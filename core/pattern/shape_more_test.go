package pattern

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// random dimensions of a kind that make a shape.
func random(t *rapid.T, kind string) Shape {
	s := Shape{Kind: kind, Dims: map[string]float64{}}
	for _, k := range Library {
		if k.Kind != kind {
			continue
		}
		for _, d := range k.Dims {
			s.Dims[d.Name] = rapid.Float64Range(0.05, 2).Draw(t, d.Name)
		}
	}
	switch kind {
	case "strip":
		s.Dims["width"] = min(s.Dims["width"], s.Dims["length"])
	case "ring sector":
		s.Dims["outer"] = s.Dims["inner"] + 0.1
	case "patch":
		s.Dims["radius"] = min(s.Dims["radius"], s.Dims["length"]/2, s.Dims["width"]/2)
	case "regular":
		s.Dims["sides"] = float64(rapid.IntRange(3, 12).Draw(t, "sides"))
	}
	return s
}

// Every shape of the library is an outline, drawn anticlockwise; twice as large
// it has four times the area, but for what straight pieces cut off an arc.
func TestShapesGrowWithTheirDimensions(t *testing.T) {
	for _, k := range Library {
		rapid.Check(t, func(rt *rapid.T) {
			s := random(rt, k.Kind)
			ring, err := s.Outline()
			require.NoError(rt, err, "%v", s)
			require.NoError(rt, ring.Check(), "%v", s)
			assert.Positive(rt, ring.SignedArea(), k.Kind)
			twice := Shape{Kind: s.Kind, Dims: map[string]float64{}}
			for name, v := range s.Dims {
				if name != "angle" && name != "sides" {
					v *= 2
				}
				twice.Dims[name] = v
			}
			large, err := twice.Outline()
			require.NoError(rt, err)
			assert.InDelta(rt, 4*ring.Area(), large.Area(), 5e-5*(4*ring.Perimeter()+large.Perimeter()), k.Kind)
		})
	}
}

// A shape that is begun from the library can be drawn as it is.
func TestNewShapesCanBeDrawn(t *testing.T) {
	for _, k := range Library {
		s := Shape{Kind: k.Kind, Dims: map[string]float64{}}
		for _, d := range k.Dims {
			s.Dims[d.Name] = d.Usual
		}
		ring, err := s.Outline()
		require.NoError(t, err, k.Kind)
		assert.Greater(t, ring.Area(), 0.01, k.Kind)
		for _, d := range k.Dims {
			for v, says := range map[float64]string{
				0: "must be above zero", -1: "must be above zero", 101: "no more than 100 m",
			} {
				if d.Unit != "m" && v > 0 {
					continue
				}
				s.Dims[d.Name] = v
				_, err := s.Outline()
				assert.ErrorContains(t, err, says, "%s of %s", d.Name, k.Kind)
			}
			s.Dims[d.Name] = d.Usual
		}
	}
}

// An arc by its bulge ends where it should and keeps its distance from its
// middle, for arcs of any size either way round.
func TestArcsByTheirBulge(t *testing.T) {
	rapid.Check(t, func(rt *rapid.T) {
		bulge := rapid.Float64Range(0.05, 3).Draw(rt, "bulge")
		s := Shape{Kind: Points, Points: []Corner{{X: 0, Y: 0, Bulge: bulge}, {X: 1, Y: 0}}}
		ring, err := s.Outline()
		require.NoError(rt, err)
		// The sagitta is bulge times half the chord, below it for a positive one.
		assert.InDelta(rt, -bulge/2, ring.Bounds().Min.Y, 1e-4+2e-4*bulge)
		// By the sweep θ = 4 atan(b): r = chord / (2 sin(θ/2)), area = r² (θ − sin θ)/2.
		sweep := 4 * math.Atan(bulge)
		r := math.Abs(1 / (2 * math.Sin(sweep/2)))
		assert.InDelta(rt, r*r*(sweep-math.Sin(sweep))/2, ring.Area(), 1e-4*ring.Perimeter())
		s.Points[0].Bulge = -bulge
		other, err := s.Outline()
		require.NoError(rt, err)
		assert.InDelta(rt, ring.Area(), other.Area(), 1e-9, "the same on the other side")
		assert.InDelta(rt, bulge/2, other.Bounds().Max.Y, 1e-4+2e-4*bulge)
	})
}
