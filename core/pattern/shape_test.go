package pattern

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Areas by the formulas of plane geometry; straight pieces run inside an arc by
// at most 0.05 mm.
func TestShapesHaveTheirAreas(t *testing.T) {
	dims := func(kv ...any) map[string]float64 {
		m := map[string]float64{}
		for i := 0; i < len(kv); i += 2 {
			m[kv[i].(string)] = kv[i+1].(float64)
		}
		return m
	}
	for name, c := range map[string]struct {
		shape Shape
		area  float64
	}{
		"rectangle": {Shape{Kind: "rectangle", Dims: dims("length", 0.4, "width", 0.3)}, 0.12},
		"strip":     {Shape{Kind: "strip", Dims: dims("length", 0.4, "width", 0.1)}, 0.3*0.1 + math.Pi*0.05*0.05},
		"ring sector": {Shape{
			Kind: "ring sector", Dims: dims("inner", 0.8, "outer", 1.0, "angle", math.Pi/6),
		}, math.Pi / 12 * (1 - 0.64)},
		"circle":  {Shape{Kind: "circle", Dims: dims("diameter", 0.2)}, math.Pi * 0.01},
		"ellipse": {Shape{Kind: "ellipse", Dims: dims("length", 0.4, "width", 0.2)}, math.Pi * 0.2 * 0.1},
		"patch": {Shape{
			Kind: "patch", Dims: dims("length", 0.4, "width", 0.3, "radius", 0.05),
		}, 0.12 - (4-math.Pi)*0.0025},
		"round patch": {Shape{Kind: "patch", Dims: dims("length", 0.3, "width", 0.3, "radius", 0.15)},
			math.Pi * 0.0225},
		"taper":   {Shape{Kind: "taper", Dims: dims("length", 1.0, "first", 0.3, "last", 0.1)}, 0.2},
		"hexagon": {Shape{Kind: "regular", Dims: dims("sides", 6.0, "across", 0.2)}, 3 * math.Sqrt(3) / 2 * 0.01},
		"half circle": {Shape{Kind: Points, Points: []Corner{{X: -0.1, Y: 0, Bulge: -1}, {X: 0.1, Y: 0}}},
			math.Pi * 0.005},
		"lens": {Shape{
			Kind: Points, Points: []Corner{{X: 0, Y: 0, Bulge: 1}, {X: 0.2, Y: 0, Bulge: 1}},
		}, math.Pi * 0.01},
		"L": {Shape{
			Kind: Points, Points: []Corner{{X: 0, Y: 0}, {X: 3, Y: 0}, {X: 3, Y: 1}, {X: 1, Y: 1}, {X: 1, Y: 2},
				{X: 0, Y: 2}},
		}, 4},
	} {
		ring, err := c.shape.Outline()
		require.NoError(t, err, name)
		require.NoError(t, ring.Check(), name)
		assert.InDelta(t, c.area, ring.Area(), 5.1e-5*ring.Perimeter(), name)
		assert.LessOrEqual(t, ring.Area(), c.area*(1+1e-9)+5.1e-5*ring.Perimeter(), name)
	}
}

func TestAShapeThatCannotBeSaysWhy(t *testing.T) {
	for says, s := range map[string]Shape{
		"no shape that is known": {Kind: "heptagram"},
		"the width along y":      {Kind: "rectangle", Dims: map[string]float64{"length": 1}},
		"no more than 100 m":     {Kind: "circle", Dims: map[string]float64{"diameter": 1e6}},
		"at least as long":       {Kind: "strip", Dims: map[string]float64{"length": 0.1, "width": 0.2}},
		"inner radius lies below": {Kind: "ring sector", Dims: map[string]float64{"inner": 1, "outer": 0.5,
			"angle": 1}},
		"at most half": {Kind: "patch", Dims: map[string]float64{"length": 1, "width": 0.5,
			"radius": 0.3}},
		"3 to 360 sides":            {Kind: "regular", Dims: map[string]float64{"sides": 2.5, "across": 1}},
		"needs at least 3":          {Kind: Points, Points: []Corner{{X: 1}}},
		"point 2":                   {Kind: Points, Points: []Corner{{}, {X: math.NaN()}, {Y: 1}}},
		"leads nowhere":             {Kind: Points, Points: []Corner{{Bulge: 1}, {}}},
		"touches or crosses itself": {Kind: Points, Points: []Corner{{}, {X: 1, Y: 1}, {X: 1}, {Y: 1}}},
		"outline has 2 points":      {Kind: Points, Points: []Corner{{}, {X: 1}}},
	} {
		_, err := s.Outline()
		assert.ErrorContains(t, err, says)
	}
}
