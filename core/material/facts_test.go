package material

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"juxta/core/unit"
)

func TestFactsOfAMaterial(t *testing.T) {
	// Invented figures of a unidirectional prepreg: 150 g/m² of fibre with 36 % resin makes 234 g/m².
	good := Facts{
		Kind: "unidirectional", Prepreg: true, HasResin: true, Width: 0.6, E1: 135e9, E2: 9e9, G12: 5e9, Nu12: 0.3,
		Thickness: 1.5e-4, ArealMass: 0.234, FibreMass: 0.15, ResinShare: 0.36, BulkFactor: 1.1,
		OutLife: 30 * 86400, Tack: 10 * 86400,
	}
	require.Nil(t, good.Check())
	assert.Nil(t, Facts{Kind: "consumable"}.Check(), "what is no ply needs none of it")
	for says, c := range map[string]struct {
		field   string
		missing bool
		change  func(*Facts)
	}{
		"every figure of a material must be a number": {"", false,
			func(f *Facts) { f.Alpha2 = math.NaN() }},
		"unidirectional material needs its resin: a ply": {"resinId", true,
			func(f *Facts) { f.HasResin = false }},
		"unidirectional material needs E2: a ply":           {"e2", true, func(f *Facts) { f.E2 = 0 }},
		"unidirectional material needs its out-life: a ply": {"outLife", true, func(f *Facts) { f.OutLife = 0 }},
		"Poisson's ratio 3.9 is not possible":               {"nu12", false, func(f *Facts) { f.Nu12 = 3.9 }},
		"tack life is part of out-life": {"tackLife", false,
			func(f *Facts) { f.Tack = 31 * 86400 }},
		"150 g/m² of fibre with 50 % resin makes 300 g/m², not 2": {"sheet.resinShare", false,
			func(f *Facts) { f.ResinShare = 0.5 }},
		"the bulk factor is at least 1": {"sheet.bulkFactor", false,
			func(f *Facts) { f.BulkFactor = 0.9 }},
	} {
		f := good
		c.change(&f)
		fault := f.Check()
		require.NotNil(t, fault, says)
		assert.Equal(t, []any{c.field, c.missing}, []any{fault.Field, fault.Missing}, says)
		assert.Contains(t, unit.InMetric(fault.Message), says)
	}
	// √(135/9) is 3.87: just below is possible.
	f := good
	f.Nu12 = 3.87
	assert.Nil(t, f.Check())
}
