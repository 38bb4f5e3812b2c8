package bag

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"juxta/core/unit"
)

var limit = Limit{Start: 85e3, Drop: 3e3, Over: 5 * time.Minute}

func TestLeakCheckAgainstItsLimit(t *testing.T) {
	for name, c := range map[string]struct {
		check LeakCheck
		pass  bool
		says  string
	}{
		"tight":            {LeakCheck{92e3, 91e3, 5 * time.Minute}, true, "1.0 kPa lost over 5 min, limit 3.0 kPa"},
		"at the limit":     {LeakCheck{92e3, 89e3, 5 * time.Minute}, true, "3.0 kPa"},
		"leaks":            {LeakCheck{92e3, 87e3, 5 * time.Minute}, false, "5.0 kPa"},
		"longer, tight":    {LeakCheck{92e3, 88e3, 10 * time.Minute}, true, "2.0 kPa lost over 5 min"},
		"too short":        {LeakCheck{92e3, 92e3, 2 * time.Minute}, false, "lasted 2.0 min"},
		"too little to go": {LeakCheck{80e3, 80e3, 5 * time.Minute}, false, "started at 80.0 kPa"},
	} {
		v, err := Judge(c.check, limit)
		require.NoError(t, err, name)
		assert.Equal(t, c.pass, v.Pass, name)
		assert.Contains(t, unit.InMetric(v.Message), c.says, name)
	}
}

func TestImpossibleMeasurementsAreRefused(t *testing.T) {
	for _, c := range []LeakCheck{
		{90e3, 91e3, time.Minute}, {90e3, 89e3, 0}, {0, 0, time.Minute}, {120e3, 1, time.Minute},
	} {
		_, err := Judge(c, limit)
		assert.Error(t, err, "%+v", c)
	}
}

// ICAO Standard Atmosphere, Doc 7488/3, table 1 (from memory): 0 m 1013.25 hPa,
// 1000 m 898.746 hPa, 5000 m 540.199 hPa.
func TestStandardAtmosphere(t *testing.T) {
	assert.InDelta(t, 101325, Atmosphere(0), 0.5)
	assert.InDelta(t, 89874.6, Atmosphere(1000), 20)
	assert.InDelta(t, 54019.9, Atmosphere(5000), 20)
}
