package heat

import (
	"juxta/core/unit"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
)

// A tool of 20 kg of aluminium, 875 J/(kg K), under half a square metre is 20/(2770·0.5) m = 14.4 mm thick.
func TestAToolIsALayerByItsHeat(t *testing.T) {
	tool, notes := ToolLayer("Aluminium 5083, milled", 20*875, 0.5)
	assert.Empty(t, notes)
	assert.Equal(t, "aluminium", tool.Name)
	assert.InDelta(t, 0.0144, tool.Thickness, 1e-9)

	steel, notes := ToolLayer("steel", 1e9, 0.5)
	assert.Equal(t, []any{"steel", 0.1}, []any{steel.Name, steel.Thickness}, "no thicker than a layer may tell")
	assert.Empty(t, notes)

	usual, notes := ToolLayer("", 0, 0.5)
	assert.Equal(t, []any{"aluminium", 0.01}, []any{usual.Name, usual.Thickness})
	assert.Equal(t, "tool of aluminium, its material is not known here; "+
		"tool 10 mm thick, its thermal mass is not entered", unit.InMetric(strings.Join(notes, "; ")))
}

func TestASheetIsALayer(t *testing.T) {
	ply := Sheet{Name: "UD", Thickness: 2e-4, ArealMass: 0.32, Resin: 0.4, Cures: true}
	l, resin, note := ply.Layer()
	assert.InDelta(t, 1600, l.Density, 1e-9)
	assert.Equal(t, []any{0.4, "", LayerOf(Laminate).Specific}, []any{resin, note, l.Specific})

	ply.Resin = 0
	_, resin, note = ply.Layer()
	assert.Equal(t, LaminateResin, resin)
	assert.Equal(t, "resin content of 36 % for UD, none is entered", note)

	ply.Cures = false
	_, resin, note = ply.Layer()
	assert.Equal(t, []any{0.0, ""}, []any{resin, note}, "what is cured before cures no more")

	core, _, _ := Sheet{Name: "C", Core: true, Thickness: 0.01, ArealMass: 0.5}.Layer()
	assert.InDelta(t, 50, core.Density, 1e-9)
	assert.Equal(t, LayerOf("honeycomb core").Conductivity, core.Conductivity)
	assert.InDelta(t, 0.004, Bagging().Thickness, 1e-12)
}

func TestThePlacesThatTell(t *testing.T) {
	assert.Equal(t, []int{1, 3, 0}, Telling([]float64{2, 4, 3, 1}))
	assert.Equal(t, []int{0, 2}, Telling([]float64{4, 4, 1}), "the largest is the thickest")
	assert.Equal(t, []int{0}, Telling([]float64{4}))
	assert.Empty(t, Telling(nil))
}
