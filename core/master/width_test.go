package master

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"juxta/core/unit"
)

// A square of 500 mm laid at 45° is 500·√2 = 707.1 mm across the fibre.
func TestAPlyThatNoWidthCanBeCutForIsFound(t *testing.T) {
	d := Document{
		Format:   Format,
		Outlines: []Outline{{Name: "square", Kind: "rectangle", Dims: map[string]float64{"length": 0.5, "width": 0.5}}},
		Stages: []Stage{{Key: "s", Kind: "skin", Items: []Item{
			{Key: "a", Kind: Ply, MaterialID: 1, Outline: "square", AngleDeg: 45, FaceUp: true},
			{Key: "b", Kind: Ply, MaterialID: 1, Outline: "square", AngleDeg: 0, FaceUp: true},
			{Key: "c", Kind: Ply, MaterialID: 1, Outline: "square", AngleDeg: -45},
			{Key: "d", Kind: Ply, MaterialID: 2, Outline: "square", AngleDeg: 45},
			{Key: "e", Kind: Ply, MaterialID: 1, Outline: "square", AngleDeg: 45, TurnDeg: 45},
		}}},
	}
	materials := map[int64]Material{1: {Name: "Sable", Widths: []float64{0.6, 0.3}}, 2: {Name: "Not said"}}
	layers, err := d.Layers(materials)
	require.NoError(t, err)
	found := d.Widths(layers, materials)
	require.Len(t, found, 1)
	assert.Equal(t, "width", found[0].Rule)
	assert.Equal(
		t,
		"plies 1, 3 of Sable: needs 718 mm across the fibre with its edges, sold in 300 mm, 600 mm",
		unit.InMetric(found[0].Message),
	)
	assert.Equal(t, []string{"1", "3"}, found[0].Plies)
	materials[1] = Material{Name: "Sable", Widths: []float64{0.3, 1}}
	assert.Empty(t, d.Widths(layers, materials))
}
