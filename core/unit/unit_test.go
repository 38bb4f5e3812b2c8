package unit

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestFoldAngleGivesOneNamePerFibreDirection(t *testing.T) {
	for _, c := range []struct{ in, want float64 }{
		{0, 0}, {90, 90}, {-90, 90}, {135, -45}, {-135, 45}, {180, 0}, {270, 90}, {-45, -45}, {405, 45},
	} {
		assert.InDelta(t, c.want, FoldAngle(c.in), 1e-12, "%g", c.in)
	}
}

func TestConversionsRoundTrip(t *testing.T) {
	assert.InDelta(t, 37.5, Deg(Rad(37.5)), 1e-12)
	assert.InDelta(t, 121.0, Celsius(Kelvin(121)), 1e-12)
	assert.InDelta(t, 394.15, Kelvin(121), 1e-12)
}

func TestLimitsThatContradictEachOther(t *testing.T) {
	v := func(x float64) *float64 { return &x }
	for says, c := range map[string][3]*float64{
		"the minimum, 5, is above the maximum, 3":  {v(5), nil, v(3)},
		"the target, 1, is below the minimum, 2":   {v(2), v(1), nil},
		"the target, 9, is above the maximum, 8.5": {nil, v(9), v(8.5)},
	} {
		assert.EqualError(t, Between(c[0], c[1], c[2]), says)
	}
	for _, c := range [][3]*float64{{}, {v(1), nil, v(1)}, {v(1), v(2), v(3)}, {nil, v(2), nil}} {
		assert.NoError(t, Between(c[0], c[1], c[2]))
	}
}

func TestDegreesNameAFibreDirectionOnce(t *testing.T) {
	for deg, want := range map[float64]float64{
		0: 0, 180: 0, 45: math.Pi / 4, -135: math.Pi / 4, 90: math.Pi / 2, -90: math.Pi / 2, 270: math.Pi / 2,
	} {
		assert.InDelta(t, want, Fibre(deg), 1e-12, "%g°", deg)
	}
}
