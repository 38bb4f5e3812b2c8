package geom

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

func TestAreaAndPerimeterOfKnownShapes(t *testing.T) {
	assert.InDelta(t, 6, Rect(2, 3).Area(), 1e-12)
	assert.InDelta(t, 10, Rect(2, 3).Perimeter(), 1e-12)
	// Regular hexagon of side a: area 3√3/2 a² (Euclid).
	var hex Ring
	for i := range 6 {
		s, c := math.Sincos(float64(i) * math.Pi / 3)
		hex = append(hex, Point{c, s})
	}
	assert.InDelta(t, 3*math.Sqrt(3)/2, hex.Area(), 1e-12)
	assert.InDelta(t, 6, hex.Perimeter(), 1e-12)
}

func TestRigidMotionsKeepAreaAndPerimeter(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		r := Ring{
			{0, 0},
			{rapid.Float64Range(0.1, 3).Draw(t, "w"), 0.1},
			{0.5, rapid.Float64Range(0.2, 2).Draw(t, "h")},
		}
		moved := r.Rotate(rapid.Float64Range(-7, 7).Draw(t, "turn")).
			Move(rapid.Float64Range(-5, 5).Draw(t, "dx"), 2).
			Flip()
		assert.InDelta(t, r.Area(), moved.Area(), 1e-9)
		assert.InDelta(t, r.Perimeter(), moved.Perimeter(), 1e-9)
		assert.Equal(t, r.SignedArea() > 0, moved.SignedArea() > 0)
	})
}

func TestQuarterTurnIsExact(t *testing.T) {
	assert.Equal(t, Ring{{0, 0}, {0, 2}, {-3, 2}, {-3, 0}}, Rect(2, 3).Rotate(math.Pi/2))
}

func TestCheckNamesTheFault(t *testing.T) {
	for name, c := range map[string]struct {
		ring Ring
		says string
	}{
		"too few":  {Ring{{0, 0}, {1, 1}}, "2 points"},
		"bow tie":  {Ring{{0, 0}, {1, 1}, {1, 0}, {0, 0.9}}, "crosses itself"},
		"even bow": {Ring{{0, 0}, {1, 1}, {1, 0}, {0, 1}}, "crosses itself"},
		"slanted":  {Ring{{0, 0}, {1, 1}, {3, 3}, {2, 2}}, "no area"},
		"flat":     {Ring{{0, 0}, {1, 0}, {2, 0}}, "no area"},
		"infinite": {Ring{{0, 0}, {math.Inf(1), 0}, {2, 1}}, "point 2"},
	} {
		assert.ErrorContains(t, c.ring.Check(), c.says, name)
	}
	require.NoError(t, Rect(1, 1).Check())
}

func TestOverlapOfShiftedSquares(t *testing.T) {
	area, err := Overlap(Rect(1, 1), Rect(1, 1).Move(0.75, 0.5))
	require.NoError(t, err)
	assert.InDelta(t, 0.125, area, 1e-12)
}

func TestCrossingsAndTheWidestStretch(t *testing.T) {
	// A U: two legs of 1 and 2 wide over a common foot.
	u := Ring{{0, 0}, {6, 0}, {6, 5}, {4, 5}, {4, 1}, {1, 1}, {1, 5}, {0, 5}}
	assert.Equal(t, []float64{0, 1, 4, 6}, u.Crossings(3))
	lo, hi := u.WidestAt(3)
	assert.Equal(t, [2]float64{4, 6}, [2]float64{lo, hi})
	lo, hi = u.WidestAt(0.5)
	assert.Equal(t, [2]float64{0, 6}, [2]float64{lo, hi})
	lo, hi = u.WidestAt(9)
	assert.Equal(t, [2]float64{0, 0}, [2]float64{lo, hi})
	assert.Empty(t, u.Crossings(-1))
}

func TestBoundsOfNothingAndOfAShape(t *testing.T) {
	assert.Equal(t, Box{}, Ring(nil).Bounds())
	b := Ring{{1, -2}, {3, 4}, {-5, 0}}.Bounds()
	assert.Equal(t, 8.0, b.Width())
	assert.Equal(t, 6.0, b.Height())
}

func TestFlippingTwiceGivesTheShapeBack(t *testing.T) {
	r := Ring{{0, 0}, {3, 0}, {1, 2}}
	assert.Equal(t, r, r.Flip().Flip())
	assert.Greater(t, r.Flip().SignedArea(), 0.0, "the sense of rotation is kept")
}
