package master

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"juxta/core/unit"
)

// rolledTube is a tube of four sheets on a mandrel of 40 mm, 600 long, 20 over at either end.
func rolledTube() Document {
	sheet := func(key string, angle float64, w *Wrap) Item {
		return Item{Key: key, Kind: Ply, MaterialID: 1, AngleDeg: angle, FaceUp: true, Join: "butt", Wrap: w}
	}
	return Document{Format: Format, Outlines: []Outline{}, Stages: []Stage{{
		Key: "t", Name: "Tube", Kind: "pre-form",
		Rolled: &Rolled{Section: "round", Width: 0.04, Length: 0.6, Trim: 0.02, StepDeg: 90},
		Items: []Item{
			sheet("a", 0, &Wrap{Turns: 2}), sheet("b", 45, &Wrap{How: "spiral"}),
			sheet("c", -45, &Wrap{How: "strips", Strip: 0.02, Starts: 4}), sheet("d", 0, &Wrap{To: 0.1}),
		},
	}}}
}

func TestARolledStageIsDerived(t *testing.T) {
	d := rolledTube()
	require.Empty(t, d.Check(materials))
	d = d.Derived(materials, nil)
	a, b, c, local := d.Stages[0].Items[0].Flat, d.Stages[0].Items[1].Flat, d.Stages[0].Items[2].Flat,
		d.Stages[0].Items[3].Flat
	const thick = 0.15e-3
	box := a.Pieces[0].Ring().Bounds()
	assert.InDelta(t, 0.64, box.Width(), 1e-6)
	assert.InDelta(t, 2*math.Pi*(0.04+2*thick), box.Height(), 1e-5, "two turns, one middle each")
	assert.Equal(
		t,
		"2 times round, seam 0° round, 0.0 mm from the middle of the right side, butt",
		unit.InMetric(a.Description),
	)
	assert.InDelta(t, math.Pi*(0.04+5*thick)*0.64, b.Area(), 1e-5)
	assert.Equal(t, 45.0, b.Pieces[0].FibreDeg)
	assert.Contains(t, unit.InMetric(b.Description), "wound as a spiral at 45.0°, pitch 128.")
	assert.Len(t, c.Pieces, 4)
	assert.Contains(t, unit.InMetric(c.Description), "4 strips of 20.0 mm side by side")
	assert.InDelta(t, 0.12, local.Pieces[0].Ring().Bounds().Width(), 1e-6)
	assert.Contains(t, unit.InMetric(local.Description), "from 0 mm to 100 mm along")
	// Nothing is left of what was derived in the bare document; what was changed by hand stays.
	assert.Equal(t, rolledTube(), d.Bare())
	hand := *a
	hand.Hand, hand.Pieces = true, []FlatPiece{{Points: []Corner{{X: 0}, {X: 0.6}, {X: 0.6, Y: 0.2}}, FibreDeg: 3}}
	d.Stages[0].Items[0].Flat = &hand
	d.Stages[0].Rolled.Width = 0.05
	again := d.Derived(materials, nil)
	assert.Equal(t, hand.Pieces, again.Stages[0].Items[0].Flat.Pieces)
	assert.Greater(t, again.Stages[0].Items[1].Flat.Area(), b.Area())
	assert.True(t, again.Bare().Stages[0].Items[0].Flat.Hand)
}

// In plan a roll is unrolled: every turn is a layer, and what it weighs is what is cut.
func TestARolledStageIsWorkedOut(t *testing.T) {
	d := rolledTube().Derived(materials, nil)
	w, err := AnalysisInput{Doc: d, Materials: materials}.Analyse(WhatIf{})
	require.NoError(t, err)
	require.Len(t, w.Zones, 2, "with the local sheet and without")
	assert.Len(t, w.Zones[0].Plies, 4, "two turns, a spiral, strips")
	assert.Equal(t, "1 to 3", w.Zones[0].Label)
	assert.Equal(t, "1 to 4", w.Zones[1].Label)
	cut := 0.0
	for _, i := range d.Stages[0].Items {
		cut += i.Flat.Area() * 0.23
	}
	assert.InEpsilon(t, cut, w.Weighed.Laid, 1e-6)
	assert.InEpsilon(t, cut*600/640, w.Weighed.Trimmed, 0.02, "the local sheet is trimmed at one end only")
	// Strips of 20 mm at 45°, four side by side, cover a little less than once.
	covers := 4 * 0.02 / (math.Pi * 0.04 * math.Sqrt(0.5))
	assert.InEpsilon(t, (3+covers)*0.15e-3, w.Zones[0].Analysis.Stiffness.Thickness, 0.01)
	assert.InEpsilon(t, math.Pi*0.04*0.6, w.Area, 1e-6)
}

func TestWhatCannotBeRolledIsSaid(t *testing.T) {
	says := func(change func(s *Stage)) Fault {
		d := rolledTube()
		change(&d.Stages[0])
		faults := d.Check(materials)
		require.NotEmpty(t, faults)
		assert.NotPanics(t, func() { d.Derived(materials, nil) })
		return Fault{faults[0].Key, faults[0].Field, unit.InMetric(faults[0].Message)}
	}
	assert.Equal(
		t,
		Fault{"t", "rolled", "Tube: the taper crosses zero before 620 mm from the first end, where a sheet " +
			"still reaches"},
		says(func(s *Stage) { s.Rolled.LastWidth = 0.0001 }),
	)
	assert.Equal(t, Fault{"b", "wrap", "ply 2: an overlap of 200 mm is wider than the ply, which goes 126 mm round"},
		says(func(s *Stage) { s.Items[1].Join, s.Items[1].JoinWidth = "overlap", 0.2 }))
	assert.Equal(t, Fault{"t", "rolled", "Tube: every figure of the mandrel must be a number, not below zero"},
		says(func(s *Stage) { s.Rolled.Trim = math.Inf(1) }))
	assert.Equal(t, Fault{"t", "tape", "Tube: the tape width must be above zero and at most 1 m"},
		says(func(s *Stage) { s.Rolled.Tape = &TapePlan{Layers: 1} }))
	assert.Equal(t, "pull", says(func(s *Stage) { s.Rolled.Pull = &MandrelPull{} }).Field)
	assert.Equal(t, Fault{"k", "kind", "core 1: a core is not rolled: it belongs to a stage of its own"},
		says(func(s *Stage) { s.Items = append(s.Items, Item{Key: "k", Kind: Core, MaterialID: 3, Chamfer: 20}) }))
	flat := rolledTube()
	flat.Stages[0].Rolled = nil
	said := []string{}
	for _, f := range flat.Check(materials) {
		said = append(said, f.Message)
	}
	assert.Contains(t, said, "1: only a stage that is rolled on a mandrel has wraps")
	assert.Equal(t, Fault{"a", "flat", "1: a flat changed by hand needs at least one piece"},
		says(func(s *Stage) { s.Items[0].Flat = &Flat{By: "rolled", Hand: true} }))
}

// Two who change different sheets of one roll do not meet in what follows from both.
func TestFlatsAreNobodysChange(t *testing.T) {
	base := rolledTube().Derived(materials, nil)
	mine, theirs := rolledTube(), rolledTube()
	mine.Stages[0].Items[0].AngleDeg = 5
	theirs.Stages[0].Items[1].AngleDeg = 30
	merged, conflicts := Merge(base, theirs.Derived(materials, nil), mine.Derived(materials, nil))
	require.Empty(t, conflicts)
	assert.Equal(t, 5.0, merged.Stages[0].Items[0].AngleDeg)
	assert.Equal(t, 30.0, merged.Stages[0].Items[1].AngleDeg)
	// A change of the mandrel is told by its fields, and of every flat that follows.
	wide := rolledTube()
	wide.Stages[0].Rolled.Width = 0.05
	assert.Equal(
		t,
		[]StageChange{{"Tube", []string{"rolled.width"}}},
		StageDifference(base, wide.Derived(materials, nil)),
	)
	lines := Difference(base, wide.Derived(materials, nil))
	assert.Equal(t, []string{"flat"}, lines[0].Fields)
	other := wide
	other.Stages = append(other.Stages, Stage{Key: "n", Name: "New", Kind: "skin"})
	assert.Contains(t, StageDifference(base, other), StageChange{"New", []string{}})
	assert.Contains(t, StageDifference(other, base), StageChange{"New", []string{}})
}

// A family's mandrel follows its parameters; its variants have their own flats.
func TestAFamilyOfTubes(t *testing.T) {
	d := rolledTube()
	d.Parameters = []Parameter{{Name: "D", Unit: "mm", Value: 40}, {Name: "L", Unit: "mm", Value: 600}}
	d.Variants = []Variant{{Name: "thick", Values: map[string]float64{"D": 60}}}
	d.Stages[0].Rolled.Expr = map[string]string{"width": "D", "length": "L/2"}
	require.Empty(t, d.Check(materials))
	one, err := d.Of(d.Variants[0])
	require.NoError(t, err)
	assert.Equal(t, 0.06, one.Stages[0].Rolled.Width)
	assert.Equal(t, 0.3, one.Stages[0].Rolled.Length)
	w, err := AnalysisInput{Doc: d, Materials: materials}.Analyse(WhatIf{})
	require.NoError(t, err)
	assert.InEpsilon(t, math.Pi*0.06*0.3, w.Area, 1e-6)
	d.Stages[0].Rolled.Expr["hue"] = "D"
	faults := d.Check(materials)
	require.NotEmpty(t, faults)
	assert.Contains(t, faults[0].Message, "hue takes no expression")
}
