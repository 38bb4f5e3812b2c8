package cure

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"juxta/core/unit"
)

// A reaction of first order in closed form: 1-α = (1-α₀) exp(-k t).
func TestAResinAgesAtTheWarmthOfTheShop(t *testing.T) {
	k := Kinetics{Terms: []Term{{A: 2e5, E: 70e3, N: 1}}}
	rate := 2e5 * math.Exp(-70e3/(unit.GasConstant*294.15))
	const month = 30 * 86400.0
	got, err := k.Aged(0.02, month)
	require.NoError(t, err)
	assert.InDelta(t, 1-0.98*math.Exp(-rate*month), got, 1e-6)
	assert.Greater(t, got, 0.1, "else nothing was held")
	got, err = k.Aged(0.02, 0)
	require.NoError(t, err)
	assert.InDelta(t, 0.02, got, 0, "what was never out is as received")
	got, err = k.Aged(0.02, 1e12)
	require.NoError(t, err)
	assert.InDelta(t, 0.99, got, 0)
	_, err = Kinetics{}.Aged(0.02, month)
	assert.Error(t, err)
}
