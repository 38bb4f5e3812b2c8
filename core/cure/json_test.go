package cure

import (
	"encoding/json"
	"math"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// through sends a value the way a JSON column or the HTTP contract does.
func through[T any](t require.TestingT, v T) T {
	raw, err := json.Marshal(v)
	require.NoError(t, err)
	var back T
	require.NoError(t, json.Unmarshal(raw, &back))
	return back
}

func TestNothingOfAResinIsLostOnTheWayThroughJSON(t *testing.T) {
	r := Resin{
		Kinetics: Kinetics{
			Terms:     []Term{{A: 1.2e5, E: 6.6e4, M: 0.8, N: 2.2, B: 0.9, P: 1.1, From: 0.1, To: 0.7}},
			Diffusion: Diffusion{C: 30, Alpha0: -1.5, AlphaT: 5.5e-3},
		},
		Viscosity: &Viscosity{Mu: 3.5e-10, U: 7.65e4, Kappa: 1, Gel: 0.47, A: 3.8, B: 2.5}, Alpha0: 0.02,
		ResinFacts: ResinFacts{
			Glass: &Glass{
				Raw:    268,
				Cured:  483,
				Lambda: 0.78,
			}, Gel: 0.47, Heat: 450e3, Coldest: 293, Hottest: 473, Source: "a sheet",
		},
	}
	assert.Equal(t, r, through(t, r))
	raw, err := json.Marshal(Kinetics{Terms: []Term{{A: 1, N: 1}}})
	require.NoError(t, err)
	assert.JSONEq(t, `{"terms":[{"a":1,"e":0,"m":0,"n":1}]}`, string(raw), "a law without diffusion does not name it")
}

func TestAVerdictCanAlwaysBeWritten(t *testing.T) {
	recipe := Recipe{
		Start:     293,
		Tolerance: 5,
		Segments:  []Segment{{Target: 393, Rate: 0.03, Hold: 60, WaitPart: 390}},
	}
	log := []Sample{
		{T: 0, Lead: 293, Lag: 293, Vacuum: math.NaN()},
		{T: 60, Lead: 294, Lag: math.NaN(), Vacuum: math.NaN()},
		{T: 120, Lead: 294, Lag: 294, Vacuum: math.NaN()},
	}
	v, err := Judge(
		log,
		recipe,
		Limits{MaxPart: 400, MaxRamp: 1, MinVacuum: 8e4, MinCure: 0.9, MaxGap: 300},
		Kinetics{Terms: []Term{{A: 1e5, E: 6e4, N: 1}}},
		0,
	)
	require.NoError(t, err)
	w := through(t, v)
	assert.False(t, w.Met)
	assert.Len(t, w.Checks, len(v.Checks))
	assert.NotEmpty(t, w.Notes)
	for i, c := range w.Checks {
		assert.Equal(t, v.Checks[i].AtLeast, c.AtLeast)
		if c.Unit == "Pa" || c.Unit == "" || c.Unit == "s" && !strings.HasPrefix(c.What, "longest ") {
			assert.True(t, c.AtLeast, c.What)
		} else {
			assert.False(t, c.AtLeast, c.What)
		}
		within := c.AtLeast && c.Found >= c.Limit || !c.AtLeast && c.Found <= c.Limit
		assert.Equal(t, c.Met, within && c.NotProven == "", c.What)
	}
	plan, err := JudgePlan(
		[]Sample{
			{T: 0, Lead: 293, Lag: 293},
			{T: 60, Lead: 294, Lag: 294},
		},
		recipe,
		Limits{MaxPart: 400},
		Kinetics{Terms: []Term{{A: 1, N: 1}}},
		0,
	)
	require.NoError(t, err)
	assert.NotNil(t, plan.Notes, "no note is an empty list")
}

// Verdicts that runs kept before call the sentence of a check by its old name.
func TestAVerdictOfBeforeIsRead(t *testing.T) {
	var v Verdict
	require.NoError(t, json.Unmarshal([]byte(`{"met":true,"checks":[{"what":"a","met":true,"says":"as kept before"},
		{"what":"b","limit":2,"message":"as kept now"}]}`), &v))
	require.Len(t, v.Checks, 2)
	assert.Equal(t, RunCheck{What: "a", Met: true, Message: "as kept before"}, v.Checks[0])
	assert.Equal(t, RunCheck{What: "b", Limit: 2, Message: "as kept now"}, v.Checks[1])
	again, err := json.Marshal(v)
	require.NoError(t, err)
	assert.NotContains(t, string(again), "says")
	require.Error(t, json.Unmarshal([]byte(`{"checks":[{"says":3}]}`), &v))
}
