package geom

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// Around a convex outline a parallel has the area A + P·d + π·d² (Steiner), and back again it is the
// outline; of any outline it holds the outline, and back again it holds it still.
func TestOffsetThenInset(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		n := rapid.IntRange(3, 9).Draw(t, "corners")
		convex := rapid.Bool().Draw(t, "convex")
		ring := make(Ring, n)
		for k := range ring {
			turn := 2 * math.Pi * (float64(k) + rapid.Float64Range(0, 0.8).Draw(t, "turn")) / float64(n)
			far := 0.2
			if !convex {
				far = rapid.Float64Range(0.08, 0.3).Draw(t, "far")
			}
			sin, cos := math.Sincos(turn)
			ring[k] = Point{far * cos, far * sin}
		}
		if ring.Check() != nil || ring.SignedArea() < 0.01 {
			t.Skip("no outline")
		}
		d := rapid.Float64Range(0.001, 0.03).Draw(t, "by")
		out, err := ring.Offset(d)
		require.NoError(t, err)
		back, err := out.Offset(-d)
		require.NoError(t, err)
		shared, err := Overlap(ring, back)
		require.NoError(t, err)
		assert.InEpsilon(t, ring.Area(), shared, 1e-3)
		if convex {
			assert.InEpsilon(t, ring.Area()+ring.Perimeter()*d+math.Pi*d*d, out.Area(), 1e-3)
			assert.InEpsilon(t, ring.Area(), back.Area(), 1e-3)
		} else {
			assert.GreaterOrEqual(t, back.Area(), ring.Area()*(1-1e-3))
		}
	})
}

// An L has five outer corners and an inner one: rounded, each outer one loses r²(1 − π/4), and the
// inner one gains it. Once rounded nothing is left to round.
func TestRoundedCorners(t *testing.T) {
	const r = 0.2
	round, err := ell.Rounded(r)
	require.NoError(t, err)
	assert.InDelta(t, 3-4*r*r*(1-math.Pi/4), round.Area(), 1e-4)
	again, err := round.Rounded(r / 2)
	require.NoError(t, err)
	assert.Equal(t, round, again)
	_, err = ell.Rounded(0.7)
	require.ErrorContains(
		t,
		err,
		"corners cannot be rounded by 700.0 mm: the side from (2000.0, 0.0) mm is 1000.0 mm long",
	)
	_, err = Rect(0.1, 0.02).Offset(-0.02)
	require.ErrorContains(t, err, "nothing is left")
	waist := Ring{{0, 0}, {1, 0}, {1, 1}, {0.55, 1}, {0.55, 0.9}, {0.45, 0.9}, {0.45, 1}, {0, 1}}
	dumbbell := Ring{
		{0, 0},
		{0.4, 0},
		{0.4, 0.45},
		{0.6, 0.45},
		{0.6, 0},
		{1, 0},
		{1, 1},
		{0.6, 1},
		{0.6, 0.55},
		{0.4, 0.55},
		{0.4, 1},
		{0, 1},
	}
	_, err = dumbbell.Offset(-0.06)
	require.ErrorContains(t, err, "falls apart into 2 pieces")
	same, err := waist.Offset(0)
	require.NoError(t, err)
	assert.Equal(t, waist, same)
}

// A hair within a circle of many chords: each corner is where its sides meet, and nothing is left over.
func TestAHairWithinACircle(t *testing.T) {
	circle := make(Ring, 492)
	for k := range circle {
		sin, cos := math.Sincos(2 * math.Pi * float64(k) / 492)
		circle[k] = Point{0.346 * cos, 0.346 * sin}
	}
	in, err := circle.Offset(-2e-4)
	require.NoError(t, err)
	require.NoError(t, in.Check())
	assert.InDelta(t, circle.Area()-circle.Perimeter()*2e-4, in.Area(), 3e-5)
}

// BenchmarkOffset moves an outline of 400 corners outwards.
func BenchmarkOffset(b *testing.B) {
	ring := make(Ring, 400)
	for k := range ring {
		sin, cos := math.Sincos(2 * math.Pi * float64(k) / 400)
		ring[k] = Point{(0.3 + 0.02*float64(k%2)) * cos, (0.3 + 0.02*float64(k%2)) * sin}
	}
	for b.Loop() {
		if _, err := ring.Offset(0.005); err != nil {
			b.Fatal(err)
		}
	}
}
