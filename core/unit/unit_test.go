package unit

import (
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
