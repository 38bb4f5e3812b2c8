package release

import (
	"encoding/json"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

var panel = Expected{Mass: 1.250, MassTolerance: 0.04, Thickness: 1.68e-3, ThicknessTolerance: 0.06}

func TestLimitsAreAsEntered(t *testing.T) {
	lines, err := Compare(panel, Measured{Mass: 1.300, Thickness: []float64{1.58e-3, 1.57e-3}})
	require.NoError(t, err)
	require.Len(t, lines, 3)
	assert.InDelta(t, 1.2, *lines[0].Low, 1e-12)
	assert.InDelta(t, 1.3, *lines[0].High, 1e-12)
	assert.True(t, lines[0].Met, "on the limit is within it")
	assert.InDelta(t, 0.04, *lines[0].Off, 1e-12)
	assert.InDelta(t, -0.0595, *lines[1].Off, 1e-4)
	assert.True(t, lines[1].Met)
	assert.False(t, lines[2].Met)

	// As it was kept before that was kept.
	for i := range lines {
		lines[i].Off = nil
	}
	lines = append(lines, ReleaseLine{What: "hardness", Value: true, Expected: lines[0].Expected, Found: 3})
	lines = WithOff(lines)
	assert.InDelta(t, 0.04, *lines[0].Off, 1e-12)
	assert.Nil(t, lines[3].Off, "a value of its own has no such share")
}

func TestNothingExpectedHasNoShare(t *testing.T) {
	lines, err := Compare(Expected{Mass: 1, MassTolerance: 0.1}, Measured{Mass: 1, Thickness: []float64{1e-3}})
	require.NoError(t, err)
	require.Len(t, lines, 2)
	assert.Zero(t, *lines[0].Off, "as expected is 0, not missing")
	assert.Nil(t, lines[1].Off)
	assert.False(t, lines[1].Met, "what nothing is expected of meets no limit")
	_, err = json.Marshal(WithOff(lines))
	assert.NoError(t, err, "as it is sent")
}

func TestGoodNeedsEveryLimitAndAWholeRecord(t *testing.T) {
	met, missed := []ReleaseLine{{What: "mass", Met: true}}, []ReleaseLine{{What: "thickness 2"}}
	assert.NoError(t, Refusal(Good, met, nil, ""))
	assert.ErrorContains(t, Refusal(Good, missed, nil, ""), "thickness 2 is outside")
	assert.ErrorContains(t, Refusal(Good, met, []string{"no leak check"}, ""), "no leak check")
	assert.NoError(t, Refusal(Refer, missed, []string{"x"}, "thin at the edge"))
	assert.ErrorContains(t, Refusal(Scrap, missed, nil, ""), "say why")
	assert.ErrorContains(t, Refusal("airworthy", met, nil, ""), "not a disposition")
}

func TestImpossibleMeasurements(t *testing.T) {
	_, err := Compare(panel, Measured{Mass: 0, Thickness: []float64{1e-3}})
	assert.ErrorContains(t, err, "mass")
	_, err = Compare(panel, Measured{Mass: 1})
	assert.ErrorContains(t, err, "one point")
	_, err = Compare(panel, Measured{Mass: 1, Thickness: []float64{1e-3, -1}})
	assert.ErrorContains(t, err, "thickness 2")
}

func TestValuesHaveTheLimitsOfTheirOwn(t *testing.T) {
	n := func(v float64) *float64 { return &v }
	e := panel
	e.Values = []Value{
		{What: "length", Unit: "mm", Least: n(599.7), Target: n(600), Most: n(600.3)},
		{What: "flatness", Unit: "mm", Most: n(0.15)},
		{What: "hardness", Unit: "Barcol", Least: n(45)},
		{What: "colour", Target: n(3)},
	}
	found := func(values ...*float64) []bool {
		lines, err := Compare(e, Measured{Mass: 1.25, Thickness: []float64{1.68e-3}, Values: values})
		require.NoError(t, err)
		var met []bool
		for _, l := range lines[2:] {
			assert.True(t, l.Value)
			met = append(met, l.Met)
		}
		return met
	}
	assert.Equal(
		t,
		[]bool{true, true, true, true},
		found(n(600.3), n(0.15), n(45), n(9)),
		"on a limit is within it; a target alone is no limit",
	)
	assert.Equal(t, []bool{false, false, false}, found(n(599.69), n(0.16), n(44.9)))
	assert.Equal(t, []bool{true}, found(nil, n(-0.1)), "what was not measured has no line")
	assert.Equal(t, []string{"length", "hardness", "colour"}, e.Unmeasured(Measured{Values: []*float64{nil, n(0.1)}}))
	_, err := Compare(e, Measured{Mass: 1, Thickness: []float64{1e-3}, Values: make([]*float64, 5)})
	assert.ErrorContains(t, err, "the master asks for 4")
}
