package release

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

var panel = Expected{Mass: 1.250, MassTolerance: 0.04, Thickness: 1.68e-3, ThicknessTolerance: 0.06}

func TestLimitsAreAsEntered(t *testing.T) {
	lines, err := Compare(panel, Measured{Mass: 1.300, Thickness: []float64{1.58e-3, 1.57e-3}})
	require.NoError(t, err)
	require.Len(t, lines, 3)
	assert.InDelta(t, 1.2, lines[0].Low, 1e-12)
	assert.InDelta(t, 1.3, lines[0].High, 1e-12)
	assert.True(t, lines[0].Met, "on the limit is within it")
	assert.True(t, lines[1].Met)
	assert.False(t, lines[2].Met)
}

func TestGoodNeedsEveryLimitAndAWholeRecord(t *testing.T) {
	met, missed := []Line{{What: "mass", Met: true}}, []Line{{What: "thickness 2"}}
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
