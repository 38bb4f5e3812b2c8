package master

import (
	"context"
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"juxta/core/drape"
	"juxta/core/laminate"
	"juxta/core/unit"
)

// laying lays a ply on its surface, without keeping anything.
func laying(of DrapeOf) ([]*drape.DrapedPiece, error) {
	m, err := of.Surface.Built()
	if err != nil {
		return nil, err
	}
	return of.Lay(context.Background(), m)
}

// curved is a cap of a sphere with two plies, round in plan.
func curved() Document {
	return Document{Format: Format,
		Outlines: []Outline{{Name: "round", Kind: "circle", Dims: map[string]float64{"diameter": 0.4}}},
		Stages: []Stage{{
			Key: "s", Name: "Shell", Kind: "skin",
			Surface: &Surface{Kind: "sphere cap", Dims: map[string]float64{"radius": 0.4, "angle": 50}},
			Items: []Item{
				{Key: "a", Kind: Ply, MaterialID: 1, Outline: "round", AngleDeg: 45},
				{Key: "b", Kind: Ply, MaterialID: 1, Outline: "round"},
			},
		}}}
}

func TestACurvedStageIsDerived(t *testing.T) {
	d := curved()
	require.Empty(t, d.Check(materials))
	d = d.Derived(materials, laying)
	a, b := d.Stages[0].Items[0].Flat, d.Stages[0].Items[1].Flat
	require.Len(t, a.Pieces, 1)
	// A cap of a sphere over a circle of 200 mm: 2πR(R − √(R² − 0.2²)); the flat is a little larger.
	cap := 2 * math.Pi * 0.4 * (0.4 - math.Sqrt(0.12))
	assert.Greater(t, a.Area(), cap)
	assert.InEpsilon(t, cap, a.Area(), 0.01)
	assert.InDelta(t, a.Area(), b.Area(), 1e-4, "whatever its direction; the second lies 0.15 mm farther out")
	assert.Zero(t, a.Pieces[0].FibreDeg)
	assert.Len(t, a.Pieces[0].Marks, 5, "the start, and a notch at either end of its threads")
	assert.Contains(t, unit.InMetric(a.Description), "laid on first at x 0 mm, y 0 mm, warp along its notches")
	assert.Greater(t, a.Peak, 5.0)
	// What is cut weighs what lies on the surface, not what its plan holds.
	w, err := AnalysisInput{Doc: d, Materials: materials}.Analyse(WhatIf{})
	require.NoError(t, err)
	assert.InEpsilon(t, 2*cap*0.23, w.Weighed.Laid, 0.01)
	assert.Empty(t, w.Findings)
	// A material that locks early says so of each ply.
	locks := map[int64]Material{1: materials[1]}
	m := locks[1]
	m.Lock, m.Resin = unit.Rad(5), 1
	locks[1] = m
	d = curved().Derived(locks, laying)
	w, err = AnalysisInput{Doc: d, Materials: locks}.Analyse(WhatIf{})
	require.NoError(t, err)
	require.NotEmpty(t, w.Findings)
	assert.Equal(t, "flat", w.Findings[0].Rule)
	assert.Contains(t, unit.InMetric(w.Findings[0].Message), "ply 1: it locks at")
	assert.Nil(t, AnalysisInput{Doc: d, Materials: locks}.Releasable())
	// One that reaches over the edge has no flat, says why, and keeps the master from its release.
	wide := curved()
	wide.Outlines[0].Dims["diameter"] = 0.9
	wide = wide.Derived(locks, laying)
	require.Empty(t, wide.Stages[0].Items[0].Flat.Pieces)
	fault := AnalysisInput{Doc: wide, Materials: locks}.Releasable()
	require.NotNil(t, fault)
	assert.Contains(
		t,
		unit.InMetric(fault.Message),
		"has no flat that could be cut: the ply reaches over the edge of the surface",
	)
}

// On a sphere the warp at a place off the axes is not what it was at the start: a zone works out to
// what lies there, and the rules are held against what is drawn.
func TestTrueAnglesFeedTheZones(t *testing.T) {
	d := curved()
	d.Outlines = append(d.Outlines, Outline{Name: "patch", Kind: "circle", Dims: map[string]float64{"diameter": 0.04}})
	d.Stages[0].Items = []Item{
		{Key: "a", Kind: Ply, MaterialID: 1, Outline: "round"},
		{Key: "b", Kind: Ply, MaterialID: 1, Outline: "patch", X: 0.12, Y: 0.12},
	}
	require.Empty(t, d.Check(materials))
	d = d.Derived(materials, laying)
	plain, err := AnalysisInput{Doc: d, Materials: materials}.Analyse(WhatIf{})
	require.NoError(t, err)
	w, err := AnalysisInput{Doc: d, Materials: materials, Lay: laying}.Analyse(WhatIf{})
	require.NoError(t, err)
	assert.Equal(t, plain.Findings, w.Findings)
	require.Len(t, w.Zones, 2)
	for _, z := range plain.Zones {
		assert.Nil(t, z.Angles)
	}
	// Under the patch: ply a by the net's own node there, ply b starts there with its own 0°.
	z := w.Zones[1]
	require.Len(t, z.Angles, 2)
	assert.Greater(t, math.Abs(z.Angles[0]), 1.0)
	assert.InDelta(t, 0, z.Angles[1], 1, "its place is not its start")
	of, err := d.DrapeOf(d.Stages[0], "a", materials)
	require.NoError(t, err)
	all, err := laying(of)
	require.NoError(t, err)
	near, best := 0.0, math.Inf(1)
	for _, n := range all[0].Inside {
		if off := math.Hypot(n.At.X-z.At.X, n.At.Y-z.At.Y); off < best {
			near, best = unit.Deg(n.Warp), off
		}
	}
	assert.InDelta(t, near, z.Angles[0], 0.06)
	// A stack at that angle is what it works out to.
	alone, err := laminate.Analyse([]laminate.Ply{
		{
			Kind:   Ply,
			Lamina: materials[1].Lamina,
			Angle:  unit.Rad(z.Angles[0]),
		}, {Kind: Ply, Lamina: materials[1].Lamina, Angle: unit.Rad(z.Angles[1])},
	}, w.DeltaT, Span)
	require.NoError(t, err)
	assert.InEpsilon(t, alone.Stiffness.A[0][0], z.Analysis.Stiffness.A[0][0], 1e-9)
	assert.NotEqual(t, plain.Zones[1].Analysis.Stiffness.A[0][2], z.Analysis.Stiffness.A[0][2])
	// What if that ply were turned: it is turned from where it lies.
	turned, err := AnalysisInput{
		Doc:       d,
		Materials: materials,
		Lay:       laying,
	}.Analyse(
		WhatIf{Turn: map[string]float64{"a": 10}},
	)
	require.NoError(t, err)
	assert.InDelta(t, z.Angles[0]+10, turned.Zones[1].Angles[0], 0.11)
}

func TestACurvedStageThatCannotBe(t *testing.T) {
	says := func(change func(s *Stage)) Fault {
		d := curved()
		change(&d.Stages[0])
		faults := d.Check(materials)
		require.NotEmpty(t, faults)
		return faults[0]
	}
	assert.Equal(t, Fault{"s", "surface", `Shell: "egg" is no surface that is known here`},
		says(func(s *Stage) { s.Surface.Kind = "egg" }))
	assert.Contains(t, says(func(s *Stage) { s.Surface.Dims["radius"] = math.NaN() }).Message, "must be above zero")
	assert.Contains(
		t,
		says(func(s *Stage) { s.Rolled = &Rolled{Section: "round", Width: 0.1, Length: 1} }).Message,
		"not both",
	)
	at := 0.1
	assert.Contains(
		t,
		says(func(s *Stage) { s.Surface, s.Items[0].Laid = nil, &DrapeSettings{X: &at} }).Message,
		"only a stage on a curved surface",
	)
	// Too fine a net is told when it is laid, and so is a start off the surface.
	d := curved()
	d.Stages[0].Items[0].Laid = &DrapeSettings{Cell: 0.001}
	d = d.Derived(materials, laying)
	assert.Contains(
		t,
		unit.InMetric(d.Stages[0].Items[0].Flat.Warnings[0]),
		"a cell of 1.0 mm is too fine for this surface: at least 2.5 mm",
	)
	d = curved()
	far := 3.0
	d.Stages[0].Items[0].Laid = &DrapeSettings{X: &far, Y: &at}
	d = d.Derived(materials, laying)
	assert.Equal(
		t,
		[]string{"the start lies off the surface: choose a place on it"},
		d.Stages[0].Items[0].Flat.Warnings,
	)
}
