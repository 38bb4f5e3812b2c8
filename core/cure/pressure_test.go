package cure

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
)

// One atmosphere at 100 °C and full humidity (the boiling point of water); the law of Kardos is within half a per cent.
// At 130 °C steam tables have 270 kPa (from memory), it 3 % more or less.
func TestWaterVapour(t *testing.T) {
	assert.InEpsilon(t, 101_325, WaterVapour(373.15, 1), 0.01)
	assert.InEpsilon(t, 270.3e3, WaterVapour(403.15, 1), 0.04)
	assert.InEpsilon(t, WaterVapour(373.15, 1)/2, WaterVapour(373.15, 0.5), 1e-12)
}

// A bladder at 120 psi opens a hollow mould of a square foot and a fifth with some ten short tons; a 20-ton press holds
// it (common practice, no source).
func TestABladderOpensItsMould(t *testing.T) {
	const psi, ton, inch = 6894.757, 8896.443, 0.0254
	assert.InEpsilon(t, 10.2*ton, OpeningForce(120*psi, 170*inch*inch), 0.01)
	press := Press{Force: 20 * ton, Margin: 0.25}
	assert.NoError(t, press.Check())
	assert.Greater(t, press.ClampingMargin(120*psi, 170*inch*inch), 0.0)
	assert.Less(t, Press{Bolts: 8, Each: ton, Margin: 0.25}.ClampingMargin(120*psi, 170*inch*inch), 0.0)
	assert.Error(t, Press{}.Check())
	assert.Error(t, Press{Force: 1, Margin: -1}.Check())
}

// Aluminium (23.6e-6 1/K, handbook, from memory) under a carbon part of 1e-6: 1 m of it, cooled by 157 K, has become
// 3.5 mm shorter than the part.
func TestMismatchAtCoolDown(t *testing.T) {
	assert.InDelta(t, -3.55e-3, ThermalMismatch(23.6e-6, 1e-6, 1, -157), 1e-5)
	assert.Zero(t, math.Abs(ThermalMismatch(1e-6, 1e-6, 1, -157)))
}
