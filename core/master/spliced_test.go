package master

import (
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"juxta/core/unit"
)

// A ply of 0.3 m across its fibre is laid of pieces of a roll of 125 mm where it may be; its splices
// lie elsewhere than those of the one before.
func TestAWidePlyIsLaidOfPieces(t *testing.T) {
	narrow := map[int64]Material{1: materials[1]}
	m := narrow[1]
	m.Widths = []float64{0.1, 0.125}
	narrow[1] = m
	d := panel()
	d.Stages = d.Stages[:1]
	items := d.Stages[0].Items
	items[0].AngleDeg, items[0].Splice, items[0].Join, items[0].Stagger = 0, true, "butt", 0.02
	second := items[0]
	second.Key, second.Join, second.JoinWidth = "second", "overlap", 0.01
	items[1].AngleDeg = 0
	d.Stages[0].Items = []Item{items[0], second, items[1]}
	d = d.Derived(narrow, nil)
	a, b, c := d.Stages[0].Items[0].Flat, d.Stages[0].Items[1].Flat, d.Stages[0].Items[2].Flat
	require.Len(t, a.Pieces, 3)
	assert.Nil(t, c, "it may not be spliced")
	assert.Equal(t, "3 pieces side by side along the fibre, butt", a.Description)
	assert.Contains(t, unit.InMetric(b.Description), "overlapping 10.0 mm")
	assert.InDelta(t, 0.4*0.3, a.Area(), 1e-6)
	assert.InDelta(t, 0.4*(0.3+0.01*float64(len(b.Pieces)-1)), b.Area(), 1e-6)
	for _, f := range []*Flat{a, b} {
		for _, p := range f.Pieces {
			assert.LessOrEqual(t, p.Ring().Bounds().Height(), 0.115+1e-6)
			assert.InDelta(t, 0.4, p.Ring().Bounds().Width(), 1e-6)
		}
	}
	// Between the middles of their overlaps and the splices of the one before.
	for _, p := range b.Pieces[:len(b.Pieces)-1] {
		for _, q := range a.Pieces[:2] {
			apart := p.Ring().Bounds().Max.Y - 0.005 - q.Ring().Bounds().Max.Y
			assert.True(t, apart > 0.0199 || apart < -0.0199, "%g", apart)
		}
	}
	w, err := AnalysisInput{Doc: d, Materials: narrow}.Analyse(WhatIf{})
	require.NoError(t, err)
	said := []string{}
	for _, f := range w.Findings {
		if f.Rule == "width" {
			said = append(said, f.Plies...)
		}
	}
	assert.Equal(t, []string{"3"}, said, "only what is not spliced is too wide")
	// A ply that does not say how its pieces meet is spliced as its material is.
	usual := narrow[1]
	usual.Splice = 0.012
	own := d
	own.Stages = slices.Clone(d.Stages)
	own.Stages[0].Items = slices.Clone(d.Stages[0].Items)
	own.Stages[0].Items[0].Join = ""
	own = own.Derived(map[int64]Material{1: usual}, nil)
	assert.Contains(t, unit.InMetric(own.Stages[0].Items[0].Flat.Description), "overlapping 12.0 mm")
	// One that no roll can make is told, and keeps the master from its release.
	d.Stages[0].Items[1].JoinWidth = 0.08
	d = d.Derived(narrow, nil)
	assert.Empty(t, d.Stages[0].Items[1].Flat.Pieces)
	assert.Contains(t, unit.InMetric(d.Stages[0].Items[1].Flat.Warnings[0]), "too wide for pieces of 115 mm")
}
