package device

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"juxta/core/unit"
)

func TestTemperaturesSurviveTheRegistersToATenth(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		k := rapid.Float64Range(unit.Kelvin(-60), unit.Kelvin(900)).Draw(t, "K")
		assert.InDelta(t, k, kelvin(RegisterTemperature(k)), 0.051)
	})
	assert.Equal(t, uint16(1213), RegisterTemperature(unit.Kelvin(121.3)))
	assert.Equal(t, uint16(0xFF9C), RegisterTemperature(unit.Kelvin(-10)), "signed, in two's complement")
}

func TestAFailedSensorReadsAsNotANumber(t *testing.T) {
	assert.Equal(t, uint16(FailedSensor), RegisterTemperature(math.NaN()))
	assert.True(t, math.IsNaN(kelvin(FailedSensor)))
}
