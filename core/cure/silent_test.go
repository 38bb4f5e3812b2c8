package cure

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

var nan = math.NaN()

// results are the outcomes of a run by what was checked.
func results(t *testing.T, log []Sample, r Recipe, l Limits) (Verdict, map[string]RunCheck) {
	t.Helper()
	v, err := Judge(log, r, l, kinetics, 0.01)
	require.NoError(t, err)
	by := map[string]RunCheck{}
	for _, c := range v.Checks {
		require.False(t, c.Met && c.NotProven != "", "%s: what is not proven is not met", c.What)
		by[c.What] = c
	}
	return v, by
}

// dwell is a cure of an hour at 120 °C whose part follows its set point, a sample a minute.
func dwell() (Recipe, Limits, []Sample) {
	r := Recipe{Name: "dwell", Start: 293, Tolerance: 5, Segments: []Segment{
		{Target: 393, Rate: 2.0 / 60, WaitPart: 388, Hold: 3600},
		{Target: 313, Rate: 2.0 / 60},
	}}
	l := Limits{SoakBelow: 5, MaxPart: 410, MaxRamp: 1, MinVacuum: 80e3, MaxGap: 120}
	var log []Sample
	for ts := 0.0; ts <= 10800; ts += 60 {
		set := math.Min(293+ts*2/60, 393)
		if ts > 7200 {
			set = math.Max(313, 393-(ts-7200)*2/60)
		}
		log = append(log, Sample{
			T: ts, SetPoint: set, Air: set, Tool: set, Lead: set, Lag: set, Vacuum: 90e3, Pressure: nan,
		})
	}
	return r, l, log
}

const (
	holdCheck   = "hold 1 at 115 °C or above by the lagging sensor"
	hotCheck    = "hottest reading of the leading sensor"
	rampCheck   = "steepest heating of the part over 5 min"
	vacuumCheck = "least vacuum"
	cureCheck   = "degree of cure by the lagging sensor"
)

func TestASilentSensorProvesNothing(t *testing.T) {
	r, l, good := dwell()
	v, by := results(t, good, r, l)
	require.True(t, v.Met, "%+v", by)
	assert.False(t, v.NotProven)
	l.MinCure = v.Cure * 0.99

	for name, c := range map[string]struct {
		spoil    func(s *Sample)
		unproven []string
	}{
		"the leading sensor is dead at the top": {
			func(s *Sample) {
				if s.T > 2900 && s.T < 6700 {
					s.Lead = nan
				}
			},
			[]string{hotCheck, rampCheck},
		},
		"the lagging sensor is dead for the last 50 min": {
			func(s *Sample) {
				if s.T > 7800 {
					s.Lag = nan
				}
			},
			[]string{rampCheck},
		},
		"the lagging sensor is dead in the middle of the hold": {
			func(s *Sample) {
				if s.T > 4000 && s.T < 6000 {
					s.Lag = nan
				}
			},
			[]string{"hold", rampCheck, cureCheck},
		},
		"the vacuum was read once": {
			func(s *Sample) {
				if s.T >= 60 {
					s.Vacuum = nan
				}
			},
			[]string{vacuumCheck},
		},
		"the vacuum was never read": {func(s *Sample) { s.Vacuum = nan }, []string{vacuumCheck}},
		"the air was read on the ramps only": {
			func(s *Sample) {
				if s.SetPoint == 393 {
					s.Air = nan
				}
			},
			[]string{"air"},
		},
		"the leading sensor came on late": {
			func(s *Sample) {
				if s.T < 600 {
					s.Lead = nan
				}
			},
			[]string{hotCheck, rampCheck},
		},
	} {
		_, _, log := dwell()
		for i := range log {
			c.spoil(&log[i])
		}
		v, by := results(t, log, r, l)
		assert.False(t, v.Met, name)
		assert.True(t, v.NotProven, "%s: nothing else was missed", name)
		assert.False(t, by[silenceCheck].Met, name)
		var unproven []string
		for _, check := range v.Checks {
			if check.NotProven == "" {
				continue
			}
			switch {
			case check.What == hotCheck, check.What == rampCheck, check.What == vacuumCheck, check.What == cureCheck:
				unproven = append(unproven, check.What)
			case check.Limit == 3600:
				unproven = append(unproven, "hold")
			default:
				unproven = append(unproven, "air")
			}
			assert.Equal(t, "NOT PROVEN", check.Result())
		}
		assert.ElementsMatch(t, c.unproven, unproven, name)
	}

	// What was seen to be missed is missed, whatever was silent.
	_, _, log := dwell()
	for i := range log {
		if log[i].T > 5000 {
			log[i].Lead = nan
		} else if log[i].T == 4800 || log[i].T == 4860 {
			log[i].Lead = 415
		}
	}
	v, by = results(t, log, r, l)
	assert.Empty(t, by[hotCheck].NotProven)
	assert.Equal(t, "NOT met", by[hotCheck].Result())
	assert.False(t, v.NotProven)
}

// The pressure is judged wherever the recipe asks for it: a gauge that was silent has met nothing. An oven has none.
func TestASilentPressureGaugeProvesNothing(t *testing.T) {
	r, l, log := dwell()
	l.MaxPressure = 3e5
	v, by := results(t, log, r, l)
	assert.True(t, v.Met, "nothing is pressed in an oven")
	assert.NotContains(t, by, "highest pressure")
	r.Segments[0].Pressure = 2e5
	_, by = results(t, log, r, l)
	assert.Equal(t, "the pressure gauge gave no reading", by["highest pressure"].NotProven)
	for i := range log {
		log[i].Pressure = 2e5
	}
	v, by = results(t, log, r, l)
	assert.True(t, v.Met, "%+v", by)
	log[40].Pressure = 4e5
	_, by = results(t, log, r, l)
	assert.Equal(t, "NOT met", by["highest pressure"].Result())
}

// A hold that waits for nothing is a hold.
func TestAPartThatStaysColdDoesNotMeetAHoldThatWaitsForNothing(t *testing.T) {
	r, l, log := dwell()
	r.Segments[0].WaitPart = 0
	v, _ := results(t, log, r, l)
	require.True(t, v.Met)
	for i := range log {
		log[i].Lag, log[i].Lead = log[i].SetPoint-40, log[i].SetPoint-40
	}
	v, _ = results(t, log, r, l)
	assert.False(t, v.Met)
	assert.False(t, v.NotProven)
	assert.Zero(t, v.Checks[0].Found)
}

// A hold is met by what was read of it: a silence outside takes nothing away, and one inside breaks it.
func TestASilenceBreaksAHold(t *testing.T) {
	r, l, log := dwell()
	r.Segments[0].Hold = 1200
	for i := range log {
		if log[i].T > 3300 && log[i].T < 4000 {
			log[i].Lag = nan
		}
	}
	v, _ := results(t, log, r, l)
	assert.True(t, v.Checks[0].Met, "half an hour was read after it: %+v", v.Checks[0])
	l.MaxGap = 1200
	v, _ = results(t, log, r, l)
	assert.InDelta(t, 4200, v.Checks[0].Found, 120, "what the shop takes for read is")
}

// What a silent sensor did not read has cured nothing: the degree found is the least that there can be.
func TestTheCureOfASilenceIsNotCounted(t *testing.T) {
	r, l, log := dwell()
	full, _ := results(t, log, r, l)
	for i := range log {
		if log[i].T > 4000 && log[i].T < 6000 {
			log[i].Lag = nan
		}
	}
	part, _ := results(t, log, r, l)
	assert.Less(t, part.Cure, full.Cure-0.01)
	l.MinCure = (part.Cure + full.Cure) / 2
	_, by := results(t, log, r, l)
	assert.NotEmpty(t, by[cureCheck].NotProven)
	l.MinCure = part.Cure - 0.01
	_, by = results(t, log, r, l)
	assert.True(t, by[cureCheck].Met, "it is more than is asked for, even so")
}
