package rolled

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

var everySection = []Section{
	{Round, 0.04, 0, 0},
	{Ellipse, 0.06, 0.03, 0},
	{Stadium, 0.05, 0.012, 0},
	{Square, 0.05, 0, 0.004},
	{Rectangle, 0.03, 0.07, 0.005},
	{Hexagon, 0.06, 0, 0.006},
	{Octagon, 0.08, 0, 0},
}

// Perimeters in closed form; that of an ellipse by Ramanujan's second approximation (1914),
// whose error is below 1e-9 for such ones.
func TestPerimeters(t *testing.T) {
	a, b := 0.03, 0.015
	h := (a - b) * (a - b) / (a + b) / (a + b)
	for k, want := range []float64{
		math.Pi * 0.04,
		math.Pi * (a + b) * (1 + 3*h/(10+math.Sqrt(4-3*h))),
		2*(0.05-0.012) + math.Pi*0.012,
		4*(0.05-0.008) + 2*math.Pi*0.004,
		2*(0.03-0.01) + 2*(0.07-0.01) + 2*math.Pi*0.005,
		6*(0.06-0.012)*math.Tan(math.Pi/6) + 2*math.Pi*0.006,
		8 * 0.08 * math.Tan(math.Pi/8),
	} {
		s := everySection[k]
		require.NoError(t, s.Check(), s.Kind)
		assert.InDelta(t, want, s.Perimeter(0), 1e-8, s.Kind)
		for _, d := range []float64{0, 0.0003, 0.004} {
			// Steiner's formulas against the curve as it is drawn.
			ring := s.Drawn(d)
			assert.InDelta(t, s.Perimeter(d), ring.Perimeter(), 1e-5*s.Perimeter(d), "%s, %g out", s.Kind, d)
			assert.InDelta(t, s.Area(d), ring.Area(), 3e-4*s.Area(d), "%s, %g out", s.Kind, d)
		}
	}
}

func TestAPlaceRoundASectionIsFoundAgain(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		s := rapid.SampledFrom(everySection).Draw(t, "section")
		d := rapid.Float64Range(0, 0.01).Draw(t, "depth")
		l := rapid.Float64Range(0, 0.999).Draw(t, "length") * s.Perimeter(d)
		p, normal := s.Place(d, l)
		angle := math.Atan2(p.Y, p.X)
		assert.InDelta(t, l, s.At(d, angle), 2e-4*s.Perimeter(d), "%s", s.Kind)
		// It lies as deep as it should: back along the normal it is on the mandrel.
		sin, cos := math.Sincos(normal)
		p.X, p.Y = p.X-d*cos, p.Y-d*sin
		assert.Less(t, s.Drawn(0).Distance(p), 2e-5, "%s", s.Kind)
	})
}

func TestASectionThatCannotBeIsRefused(t *testing.T) {
	for _, c := range []struct {
		says string
		s    Section
	}{
		{"no section that is known", Section{Kind: "star", Width: 1}},
		{"larger than zero", Section{Kind: Round}},
		{"larger than zero", Section{Kind: Rectangle, Width: 1}},
		{"larger than zero", Section{Kind: Round, Width: math.NaN()}},
		{"corner radius of", Section{Kind: Hexagon, Width: 0.05, Radius: 0.03}},
		{"below zero", Section{Kind: Square, Width: 0.05, Radius: -0.001}},
		{"50 times", Section{Kind: Stadium, Width: 1, Height: 0.001}},
		{"10 m", Section{Kind: Round, Width: 11}},
	} {
		assert.ErrorContains(t, c.s.Check(), c.says)
	}
	m := Mandrel{First: Section{Kind: Round, Width: 0.04}, Last: Section{Kind: Round, Width: 0.001}, Length: 0.5}
	assert.NoError(t, m.Check(0, 0.5))
	assert.ErrorContains(t, m.Check(-0.03, 0.53), "the taper crosses zero")
	m.Last.Kind = Square
	assert.ErrorContains(t, m.Check(0, 0.5), "the same kind")
}
