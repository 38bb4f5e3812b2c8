package master

import (
	"juxta/core/cure"
	"testing"

	"github.com/stretchr/testify/assert"
)

// The usual process has no fault, wherever the shop stands, and its limits fit the cycle.
func TestTheUsualProcessHasNoFault(t *testing.T) {
	cycle := cure.Recipe{Name: "supplier's", Start: 295, Tolerance: 5, Segments: []cure.Segment{
		{Target: 383, Rate: 1.5 / 60, Hold: 3600}, {Target: 408, Rate: 1.5 / 60, Hold: 7200},
		{Target: 330, Rate: 2.0 / 60},
	}}
	for altitude, vacuum := range map[float64]float64{0: 80e3, 1500: 76e3, 4000: 55e3} {
		u := UsualProcess(cycle, altitude)
		assert.Empty(t, Operation{Debulks: &u.Debulks, Closing: &u.Closing, Heat: &u.Heat}.SettingFaults(altitude))
		assert.Equal(t, []float64{vacuum, vacuum, vacuum},
			[]float64{u.Debulks.Vacuum, u.Closing.LeakStart, u.Heat.Limits.MinVacuum}, "at %g m", altitude)
		assert.InDelta(t, 416, u.Heat.Limits.MaxPart, 1e-9, "8 K above its hottest dwell")
	}
}
