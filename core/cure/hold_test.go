package cure

import (
	"encoding/json"
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

var steady = Kinetics{Terms: []Term{{A: 2.2e8, E: 85e3, M: 0, N: 1.2}}}

func asked() Limits {
	return Limits{SoakBelow: 4, MaxPart: 420, MaxRamp: 1, MinVacuum: 8e4, MinCure: 0.01, MaxGap: 600}
}

// ran is a log of a recipe as planned, with what a change makes of each sample.
func ran(r Recipe, change func(s *Sample)) []Sample {
	var log []Sample
	for _, p := range follow(r, 300, 60, 1e6) {
		s := Sample{T: p.T, SetPoint: p.SetPoint, Air: p.SetPoint, Tool: p.Part, Lead: p.Part, Lag: p.Part, Vacuum: 9e4}
		change(&s)
		log = append(log, s)
	}
	return log
}

func check(t *testing.T, log []Sample, r Recipe, l Limits, n int) RunCheck {
	t.Helper()
	v, err := Judge(log, r, l, steady, 0.02)
	require.NoError(t, err)
	return v.Checks[n]
}

// What hold 1 lacks is not made up for by hold 2, which is hotter: a part that was
// too cold for 20 of its 30 minutes did not meet it, however long it was hot later.
func TestAHoldIsNotMadeUpForByAnother(t *testing.T) {
	whole := check(t, ran(oven, func(*Sample) {}), oven, asked(), 0)
	assert.True(t, whole.Met)
	// It counts from 4 K below the target; the hold itself from 3 K below, where its
	// 30 min begin: the time between the two comes on top.
	assert.InDelta(t, 1800, whole.Found, 600)
	begin := whole.At
	short := check(t, ran(oven, func(s *Sample) {
		if s.T > begin+300 && s.T < begin+1500 {
			s.Lag -= 10
		}
	}), oven, asked(), 0)
	assert.False(t, short.Met)
	assert.Less(t, short.Found, 1000.0)
	second := check(t, ran(oven, func(*Sample) {}), oven, asked(), 1)
	assert.InDelta(t, 3600, second.Found, 600)
	// A run that ended before its second hold has none of it.
	cut := ran(oven, func(*Sample) {})
	for i, s := range cut {
		if s.SetPoint > 360 {
			cut = cut[:i]
			break
		}
	}
	assert.Zero(t, check(t, cut, oven, asked(), 1).Found)
	// Two segments at one target have that time one after the other.
	twice := oven
	twice.Segments = []Segment{
		{Target: 353, Rate: 2.0 / 60, Hold: 1200, WaitPart: 350},
		{Target: 353, Rate: 1, Hold: 2400, WaitPart: 350},
		{Target: 323, Rate: 0.05},
	}
	log := ran(twice, func(*Sample) {})
	assert.True(t, check(t, log, twice, asked(), 0).Met)
	assert.InDelta(t, 2400, check(t, log, twice, asked(), 1).Found, 600)
}

// The air's band is judged while the set point stands.
func TestTheAirIsHeldToItsBand(t *testing.T) {
	good := check(t, ran(oven, func(*Sample) {}), oven, asked(), 6)
	assert.True(t, good.Met)
	assert.Zero(t, good.Found)
	begin := check(t, ran(oven, func(*Sample) {}), oven, asked(), 0).At
	off := ran(oven, func(s *Sample) {
		if s.T > begin+120 && s.T < begin+1080 {
			s.Air += 8
		}
	})
	bad := check(t, off, oven, asked(), 6)
	assert.False(t, bad.Met)
	assert.InDelta(t, 900, bad.Found, 121)
	assert.Contains(t, bad.Message, "at most 10 min")
	patient := asked()
	patient.MaxAirOut = 1200
	assert.True(t, check(t, off, oven, patient, 6).Met)
	silent := check(t, ran(oven, func(s *Sample) { s.Air = math.NaN() }), oven, asked(), 6)
	assert.False(t, silent.Met)
	assert.Equal(t, "the air sensor gave no reading", silent.Message)
}

// The turn of the viscosity is seen by whoever reads it now and then: the least is remembered, also by a controller
// that was
// stored on the way, noise is no turn, and a resin that has gelled does not keep anybody waiting.
func TestTheTurnOfTheViscosityIsWaitedFor(t *testing.T) {
	r := Recipe{
		Name:      "bump",
		Start:     300,
		Tolerance: 5,
		Segments:  []Segment{{Target: 300, Rate: 1, WaitViscosityMinimum: true}, {Target: 310, Rate: 1, Hold: 60}},
	}
	c := Begin(r)
	for _, v := range []float64{math.NaN(), 90, 40, 41, 20, 20.9, 19, 19.5} {
		c = c.Step(r, PartState{Thin: v}, 15)
		require.True(t, c.Waiting, "at %g Pa s", v)
		stored, err := json.Marshal(c)
		require.NoError(t, err)
		c = Controller{}
		require.NoError(t, json.Unmarshal(stored, &c))
	}
	assert.InDelta(t, 19, c.Thinnest, 0)
	c = c.Step(r, PartState{Thin: 19.96}, 15)
	assert.Equal(t, 1, c.Segment)
	assert.Zero(t, c.Thinnest, "another segment has another least")
	gelled := Begin(r).Step(r, PartState{Thin: math.Inf(1)}, 15)
	assert.Equal(t, 1, gelled.Segment)
	_, err := json.Marshal(gelled)
	assert.NoError(t, err)
}
