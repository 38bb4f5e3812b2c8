package cure

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"
)

func TestViscosity(t *testing.T) {
	// Loos & Springer 1983 for a 177 °C epoxy (from memory): µ∞ 7.93e-14 Pa s,
	// U 9.08e4 J/mol, κ 14.1. At 400 K uncured that is 7.93e-14 exp(27.30) = 0.0571.
	loos := Viscosity{Mu: 7.93e-14, U: 9.08e4, Kappa: 14.1}
	assert.InEpsilon(t, 7.93e-14*math.Exp(9.08e4/(8.31446261815324*400)), loos.At(400, 0), 1e-12)
	assert.InEpsilon(t, 0.0571, loos.At(400, 0), 5e-3)
	assert.InEpsilon(t, math.Exp(14.1*0.3), loos.At(400, 0.3)/loos.At(400, 0), 1e-12)

	castro := Viscosity{Mu: 1e-9, U: 6e4, Gel: 0.6, A: 1.5, B: 1}
	assert.Equal(t, castro.At(380, 0), Viscosity{Mu: 1e-9, U: 6e4}.At(380, 0), "uncured, both forms flow alike")
	assert.True(t, math.IsInf(castro.At(380, 0.6), 1), "nothing flows past gelation")
	// Worked by hand: (0.6/0.3)^(1.5+0.3) = 2^1.8 = 3.482.
	assert.InEpsilon(t, 3.4822, castro.At(380, 0.3)/castro.At(380, 0), 1e-4)
	rapid.Check(t, func(t *rapid.T) {
		v := rapid.SampledFrom([]Viscosity{loos, castro}).Draw(t, "resin")
		temp, a := rapid.Float64Range(300, 450).Draw(t, "T"), rapid.Float64Range(0, 0.55).Draw(t, "α")
		assert.Greater(t, v.At(temp, a), v.At(temp+5, a), "warmer flows better")
		assert.Less(t, v.At(temp, a), v.At(temp, a+0.04), "cure thickens")
	})
	for _, bad := range []Viscosity{{}, {Mu: 1, U: -1}, {Mu: 1, Gel: 1.2}, {Mu: math.NaN()}} {
		assert.Error(t, bad.Check())
	}
	assert.NoError(t, castro.Check())
}
