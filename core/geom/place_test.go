package geom

import (
	"math"
	"testing"

	sf "github.com/peterstace/simplefeatures/geom"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// ell is an L of three unit squares.
var ell = Ring{{0, 0}, {2, 0}, {2, 1}, {1, 1}, {1, 2}, {0, 2}}

func TestWhatLiesInside(t *testing.T) {
	for p, in := range map[Point]bool{
		{0.5, 0.5}: true, {1.5, 0.5}: true, {0.5, 1.5}: true, {1.5, 1.5}: false, {-0.1, 0.5}: false, {2.1, 0.5}: false,
		{0.5, 2.1}: false,
	} {
		assert.Equal(t, in, ell.Contains(p), "%v", p)
	}
	box := ell.Bounds()
	assert.True(t, box.Contains(Point{1.5, 1.5}), "the box does")
	assert.True(t, box.Contains(Point{2, 2}), "its edge as well")
	assert.False(t, box.Contains(Point{2.01, 1}))
}

// The centre of an L of three squares is the mean of theirs; a triangle's is
// the mean of its corners (Euclid).
func TestCentroids(t *testing.T) {
	c := ell.Centroid()
	assert.InDelta(t, (0.5+1.5+0.5)/3, c.X, 1e-12)
	assert.InDelta(t, (0.5+0.5+1.5)/3, c.Y, 1e-12)
	c = Ring{{0, 0}, {3, 0}, {0, 6}}.Centroid()
	assert.InDelta(t, 1, c.X, 1e-12)
	assert.InDelta(t, 2, c.Y, 1e-12)
	far := ell.Move(1e5, -1e5).Centroid()
	assert.InDelta(t, 1e5+2.5/3, far.X, 1e-9, "far from the origin as well")
}

func TestDistances(t *testing.T) {
	a, b := Point{0, 0}, Point{4, 0}
	assert.Equal(t, Point{1, 0}, Point{1, 3}.Nearest(a, b))
	assert.Equal(t, 3.0, Point{1, 3}.To(a, b))
	assert.Equal(t, 5.0, Point{-3, 4}.To(a, b), "beyond its end: from the end")
	assert.Equal(t, 5.0, Point{3, 4}.To(a, a), "a line without a length is a point")
	assert.InDelta(t, 0.5, ell.Distance(Point{0.5, 0.5}), 1e-12)
	assert.InDelta(t, math.Sqrt2/2, ell.Distance(Point{1.5, 1.5}), 0.21, "from the inner corner's sides")
	assert.InDelta(t, 0, ell.Distance(Point{2, 0.3}), 1e-12)
}

// The geometry library says the same of random places and stars.
func TestPlacesAgainstTheGeometryLibrary(t *testing.T) {
	rapid.Check(t, func(rt *rapid.T) {
		n := rapid.IntRange(3, 12).Draw(rt, "n")
		var star Ring
		for k := range n {
			s, c := math.Sincos(2 * math.Pi * float64(k) / float64(n))
			d := rapid.Float64Range(0.2, 2).Draw(rt, "far")
			star = append(star, Point{math.Round(d*c*1e6) / 1e6, math.Round(d*s*1e6) / 1e6})
		}
		if star.Check() != nil {
			return
		}
		p := Point{rapid.Float64Range(-2, 2).Draw(rt, "x"), rapid.Float64Range(-2, 2).Draw(rt, "y")}
		at := sf.NewPoint(sf.Coordinates{XY: sf.XY{X: p.X, Y: p.Y}}).AsGeometry()
		away := star.Distance(p)
		if away < 1e-6 {
			return // on the edge either answer is right
		}
		in, err := sf.Contains(star.Polygon(), at)
		require.NoError(rt, err)
		assert.Equal(rt, in, star.Contains(p))
		if want, ok := sf.Distance(star.Polygon(), at); ok && !in {
			assert.InDelta(rt, want, away, 1e-9)
		}
		c, ok := star.Polygon().Centroid().XY()
		require.True(rt, ok)
		assert.InDelta(rt, c.X, star.Centroid().X, 1e-7)
		assert.InDelta(rt, c.Y, star.Centroid().Y, 1e-7)
	})
}
