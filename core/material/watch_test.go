package material

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
)

func TestTooWarmIsNeitherASpikeNorADoor(t *testing.T) {
	const limit = 258.15
	log := func(temps ...float64) []SensorReading { // one a minute
		out := []SensorReading{}
		for i, k := range temps {
			if k != 0 {
				out = append(out, SensorReading{day0.Add(time.Duration(i) * time.Minute), k})
			}
		}
		return out
	}
	cold, warm := 255.0, 262.0
	for name, c := range map[string]struct {
		log   []SensorReading
		alarm bool
		since int
	}{
		"cold all along":  {log(cold, cold, cold, cold), false, 0},
		"one spike":       {log(cold, cold, 300, cold, cold), false, 0},
		"a door for nine": {log(cold, warm, warm, warm, warm, warm, warm, warm, warm, warm, warm), false, 0},
		"ten minutes":     {log(cold, warm, warm, warm, warm, warm, warm, warm, warm, warm, warm, warm), true, 1},
		"cold again": {log(
			warm, warm, warm, warm, warm, warm, warm, warm, warm, warm, warm, warm, cold,
		), false, 0},
		"warm, silent, warm":     {append(log(warm, warm), SensorReading{day0.Add(40 * time.Minute), warm}), false, 0},
		"a lost reading between": {log(warm, warm, warm, warm, 0, 0, warm, warm, warm, warm, 263), true, 0},
		"nothing":                {nil, false, 0},
	} {
		since, worst, alarm := TooWarm(c.log, limit)
		assert.Equal(t, c.alarm, alarm, name)
		if alarm {
			assert.Equal(t, day0.Add(time.Duration(c.since)*time.Minute), since, name)
			assert.GreaterOrEqual(t, worst, warm, name)
		}
	}
}
