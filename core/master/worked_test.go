package master

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"juxta/core/geom"
	"juxta/core/laminate"
	"juxta/core/unit"
)

func panelCase() AnalysisInput {
	return AnalysisInput{
		Doc:       panel(),
		Materials: materials,
		Rules:     laminate.DefaultRules(),
		Bleed:     0.1,
		Hottest:   393.15,
	}
}

// What a case is follows from areas, areal masses and thicknesses alone where it
// can be reckoned by hand.
func TestAPanelIsWorkedOut(t *testing.T) {
	w, err := panelCase().Analyse(WhatIf{})
	require.NoError(t, err)
	plies, core := 0.4*0.3, 0.3*0.2 // m²
	assert.InDelta(t, 4*0.23*plies+(2*0.25+0.19)*core+0.02, w.Weighed.Laid, 1e-9)
	assert.InDelta(t, plies, w.Area, 1e-9)
	assert.InDelta(t, unit.Room-393.15, w.DeltaT, 1e-12)
	require.Len(t, w.Zones, 2)
	// The core's zone and the rim around it are equally large: both are told.
	says := map[string]Zone{}
	for _, z := range w.Zones {
		says[z.Label] = z
		assert.InDelta(t, 0.06, z.Area, 1e-9)
	}
	rim, cored := says["1 to 4"], says["1 to 2, film adhesive 1, core 1, film adhesive 2, 3 to 4"]
	require.NotNil(t, rim.Analysis)
	require.NotNil(t, cored.Analysis)
	assert.Equal(t, []string{"a", "b", "c", "d"}, rim.Keys)
	assert.InDelta(t, 4*0.15e-3, rim.Analysis.Stiffness.Thickness, 1e-12)
	assert.InDelta(t, 4*0.15e-3+2*0.2e-3+4e-3, cored.Analysis.Stiffness.Thickness, 1e-12)
	assert.Nil(t, rim.Analysis.Sandwich)
	require.NotNil(t, cored.Analysis.Sandwich)
	assert.Equal(t, "core 1", cored.Analysis.Sandwich.Core)
	assert.InDelta(t, w.Zones[0].Analysis.Stiffness.Thickness, w.Thickness, 1e-12)
	// The stage is turned by 45°: its ±45° plies run along and across the tool.
	assert.Equal(t, []laminate.Share{{AngleDeg: 0, Part: 0.5}, {AngleDeg: 90, Part: 0.5}}, rim.Analysis.Shares)
	assert.Empty(t, w.Findings, "0/90/core/90/0 breaks no rule")
}

func TestOneFindingInSeveralZonesIsToldOnce(t *testing.T) {
	c := panelCase()
	c.Doc.Stages[2].Rosette = 0
	w, err := c.Analyse(WhatIf{})
	require.NoError(t, err)
	seen, zoned := map[string]bool{}, 0
	for _, f := range w.Findings {
		require.False(t, seen[f.Rule+f.Message], "%s told twice", f.Message)
		seen[f.Rule+f.Message] = true
		for _, z := range f.Zones {
			assert.Less(t, z, len(w.Zones))
			zoned++
		}
	}
	assert.Positive(t, zoned)
	quiet := c
	quiet.Rules = laminate.Rules{}
	w, err = quiet.Analyse(WhatIf{})
	require.NoError(t, err)
	assert.Empty(t, w.Findings, "no rule is asked")
}

func TestAQuestionChangesLayersAndNotTheDocument(t *testing.T) {
	c := panelCase()
	kept, err := c.Analyse(WhatIf{})
	require.NoError(t, err)
	dropped, err := c.Analyse(WhatIf{Drop: []string{"a", "b"}})
	require.NoError(t, err)
	assert.InDelta(t, kept.Weighed.Laid-2*0.23*0.12, dropped.Weighed.Laid, 1e-9)
	layers, err := c.Layers()
	require.NoError(t, err)
	turned := WhatIf{Turn: map[string]float64{"a": 30}, Flip: []string{"c"}}.Apply(layers)
	assert.InDelta(t, 30, turned[0].AngleDeg, 1e-12)
	assert.InDelta(t, math.Pi/6, turned[0].Angle, 1e-12)
	assert.InDelta(t, 0, layers[0].AngleDeg, 1e-12, "the layers that were asked about are as they were")
	last := len(layers) - 2
	assert.Equal(t, "c", layers[last].Key)
	assert.NotEqual(t, layers[last].FaceUp, turned[last].FaceUp)
	assert.InDelta(t, -layers[last].Angle, turned[last].Angle, 1e-12)
	none, err := c.Analyse(WhatIf{Drop: []string{"a", "b", "f", "k", "g", "c", "d"}})
	require.NoError(t, err)
	assert.Nil(t, none, "without layers nothing is worked out")
}

func TestWhatIsNotBuiltFromIsNamed(t *testing.T) {
	resins := func(ids ...int64) AnalysisInput {
		c := AnalysisInput{
			Materials: map[int64]Material{},
			Doc:       Document{Format: Format, Stages: []Stage{{Key: "s", Kind: "skin"}}},
		}
		for k, id := range ids {
			m := int64(k + 1)
			c.Materials[m] = Material{Name: "cloth", Kind: "woven", Resin: id}
			c.Doc.Stages[0].Items = append(
				c.Doc.Stages[0].Items,
				Item{Key: string(rune('a' + k)), Kind: Ply, MaterialID: m},
			)
		}
		return c
	}
	assert.Nil(t, resins(7, 7).Releasable())
	assert.Equal(
		t,
		&Fault{"a", "materialId", "ply 1 is of cloth, which has no resin: it cannot be cured"},
		resins(0, 7).Releasable(),
	)
	assert.Equal(
		t,
		&Fault{"b", "materialId", "ply 2 has another resin than ply 1: one cure needs one resin"},
		resins(7, 8).Releasable(),
	)
	assert.Equal(t, "a revision without plies cannot be released", resins().Releasable().Message)
	family := resins()
	family.Doc.Variants = []Variant{{Name: "60"}}
	assert.Nil(t, family.Releasable(), "its variants are built from")
}

func TestLettersOfRevisions(t *testing.T) {
	for letter, next := range map[string]string{
		"A": "B", "H": "J", "N": "P", "P": "R", "Z": "AA", "AZ": "BA", "ZZ": "AAA",
	} {
		assert.Equal(t, next, NextLetter(letter), letter)
	}
}

func TestLayersAreSaidShortly(t *testing.T) {
	assert.Equal(t, "1 to 4, core 1, 5, 7 to 8", JoinNames([]string{"1", "2", "3", "4", "core 1", "5", "7", "8"}))
	assert.Empty(t, JoinNames(nil))
}

func TestWhatReachesBeyondTheTool(t *testing.T) {
	layers, err := panelCase().Layers()
	require.NoError(t, err)
	assert.Empty(t, LayersBeyond(layers, geom.Rect(0.4, 0.3)))
	assert.Equal(t, []string{"1", "2", "3", "4"}, LayersBeyond(layers, geom.Rect(0.39, 0.3)))
	shapes, of := Shapes(layers)
	assert.Equal(t, []int{0, 0, 1, 1, 1, 0, 0}, of)
	assert.InDelta(t, 0.06, shapes[1].Area(), 1e-9)
	p, q := Middle(layers)
	cut, err := Cut(layers, p, q)
	require.NoError(t, err)
	assert.InDelta(t, 0.4*1.04, cut.Length, 1e-9)
	assert.Len(t, cut.Courses, len(layers), "the line meets every layer once")
}

func TestTheFirstPlyToFailIsPointedAt(t *testing.T) {
	c := panelCase()
	layers, err := c.Layers()
	require.NoError(t, err)
	stack := Stack(layers, []string{"a", "b", "c", "d"})
	require.Len(t, stack, 4)
	_, first, err := c.Stresses(stack, Load{N: [3]float64{1e5}})
	require.NoError(t, err)
	assert.Equal(t, -1, first, "no strength is known")
	c.Materials = map[int64]Material{1: materials[1]}
	strong := c.Materials[1]
	strong.Strength = laminate.Strength{XT: 1500e6, XC: 1200e6, YT: 40e6, YC: 200e6, S: 70e6}
	c.Materials[1] = strong
	all, first, err := c.Stresses(stack, Load{N: [3]float64{1e5}})
	require.NoError(t, err)
	assert.Equal(t, "2", all[first].Ply, "pulled along x, the ply that runs across it tears first")
}
