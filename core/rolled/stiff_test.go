package rolled

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"juxta/core/unit"
)

// A wall like a metal's: EI, GJ and EA of textbook sections (Young and Budynas, Roark's
// Formulas for Stress and Strain, tables A.1 and 10.7, from memory; all are closed forms).
func TestStiffnessOfAnEvenTube(t *testing.T) {
	e, g := 70e9, 70e9/2.6
	round := worked(t, tube(Section{Kind: Round, Width: 0.04}, Sheet{Material: isotropic(0.002)})).Stiff[0]
	assert.InEpsilon(t, e, round.Ex, 1e-9)
	assert.InEpsilon(t, g, round.Gxy, 1e-9)
	i := math.Pi / 64 * (math.Pow(0.044, 4) - math.Pow(0.04, 4))
	assert.InEpsilon(t, e*i, round.Bending[0], 1e-9)
	assert.InEpsilon(t, g*2*i, round.Torsion, 1e-9)
	assert.InEpsilon(t, e*math.Pi/4*(0.044*0.044-0.04*0.04), round.Axial, 1e-9)
	assert.InDelta(t, 5e-6, round.Expands, 1e-12)
	// A box of 60 by 40 inside with its corners rounded by the wall alone: near a box of thin
	// sides, 4A²t/P round the middle of the wall.
	box := worked(t, tube(Section{Rectangle, 0.06, 0.04, 0}, Sheet{Material: isotropic(0.001)})).Stiff[0]
	solid := func(w, h float64) float64 { return w * h * h * h / 12 }
	assert.InEpsilon(t, e*(solid(0.062, 0.042)-solid(0.06, 0.04)), box.Bending[0], 0.01)
	assert.InEpsilon(t, e*(solid(0.042, 0.062)-solid(0.04, 0.06)), box.Bending[1], 0.01)
	area, p := 0.061*0.041, 2*(0.061+0.041)
	assert.InEpsilon(t, g*4*area*area*0.001/p, box.Torsion, 0.02)
}

// Turning the fibre loses bending and wins torsion, most near 45°; a pair of ± angles of one
// material is as stiff as lamination theory's symmetric angle-ply.
func TestAnAngleIsChosenForAStiffness(t *testing.T) {
	r := tube(Section{Kind: Round, Width: 0.04}, Sheet{Material: ud()}, Sheet{Material: ud(), Angle: 0.5},
		Sheet{Material: ud(), Angle: -0.5})
	swept := r.Sweep([]int{1, 2}, 90)
	require.Len(t, swept, 91)
	w := worked(t, r)
	best := 0
	for k, s := range swept {
		if s.Torsion > swept[best].Torsion {
			best = k
		}
		if k > 0 && k < 60 {
			assert.Less(t, s.Bending[0], swept[k-1].Bending[0])
		}
	}
	assert.InDelta(t, 45, best, 1)
	deg := unit.Deg(0.5)
	at := int(deg)
	assert.Greater(t, swept[at].Bending[0], w.Stiff[0].Bending[0])
	assert.Less(t, swept[at+1].Bending[0], w.Stiff[0].Bending[0])
	// What is wanted back from what it gives.
	bends := func(s SweepPoint) float64 { return s.Bending[0] }
	found := AnglesFor(swept, w.Stiff[0].Bending[0], bends)
	require.Len(t, found, 1)
	assert.InDelta(t, 0.5, found[0], 1e-3)
	assert.Len(t, AnglesFor(swept, w.Stiff[0].Torsion, func(s SweepPoint) float64 { return s.Torsion }), 2)
	assert.Empty(t, AnglesFor(swept, 10*swept[0].Bending[0], bends))
}

// The target of the outside against mandrel and wraps, by hand.
func TestWhatWouldFit(t *testing.T) {
	heavy := ud()
	heavy.Name, heavy.Lamina.Thickness = "heavy", 0.0003
	r := tube(Section{Kind: Round, Width: 0.04}, Sheet{Material: ud()}, Sheet{Material: ud()}, Sheet{Material: heavy})
	r.Outside, r.Tolerance = 0.04144, 0.0001
	f := worked(t, r).Fits
	require.NotNil(t, f)
	assert.False(t, f.Met)
	assert.InDelta(t, 0.04+2*(2*thick+0.0003)-0.04144, f.Off, 1e-12) // 0.28 mm small
	assert.InDelta(t, 2*0.04*(2*thick+0.0003), f.Spread, 1e-12)
	var said []string
	for _, m := range f.Remedies {
		said = append(said, unit.InMetric(m.Message))
	}
	assert.Contains(t, said, "1 wrap more of UD")
	assert.Contains(t, said, "a mandrel of 40.28 mm across")
	assert.Contains(t, said, "1 wrap of heavy in place of UD")
	for _, m := range f.Remedies {
		assert.Less(t, math.Abs(m.Off), math.Abs(f.Off))
	}
	// What is advised does it.
	r.Sheets = append(r.Sheets, Sheet{Name: "4", Material: ud()})
	f = worked(t, r).Fits
	assert.True(t, f.Met)
	assert.InDelta(t, 0, f.Off, 1e-12)
	assert.True(t, f.Surely)
	assert.Empty(t, f.Remedies)
	r.Tolerance = 0.00005
	assert.False(t, worked(t, r).Fits.Surely)
	// Too large: fewer.
	r.Outside = 0.04116
	said = nil
	for _, m := range worked(t, r).Fits.Remedies {
		said = append(said, m.Message)
	}
	assert.Contains(t, said, "1 wrap fewer of UD")
}

// Tape round a cylinder: turns, length of a helix, pressure T/(wR) in closed form.
func TestATapePlan(t *testing.T) {
	r := tube(Section{Kind: Round, Width: 0.04}, Sheet{Material: isotropic(0.001)})
	w := worked(t, r)
	plan, err := r.Tape(Tape{Width: 0.025, Pitch: 0.0125, Layers: 2, Tension: 50, Beyond: 0.02}, w)
	require.NoError(t, err)
	assert.InDelta(t, 0.5, plan.Overlap, 1e-12)
	assert.InDelta(t, 0.64/0.0125+1, plan.Turns, 1e-9)
	assert.InEpsilon(t, plan.Turns*math.Hypot(math.Pi*0.042, 0.0125), plan.Length, 1e-9)
	assert.InEpsilon(t, 2*plan.Length, plan.Total, 1e-12)
	assert.InDelta(t, 4, plan.Covers, 1e-12)
	assert.InEpsilon(t, 50/0.025/0.021*4, plan.Pressure, 1e-9)
	assert.InDelta(t, plan.Pressure, plan.Least, 1e-6)
	assert.Empty(t, plan.Findings)
	r = tube(everySection[5], Sheet{Material: isotropic(0.001)})
	plan, err = r.Tape(Tape{Width: 0.025, Pitch: 0.03, Layers: 1, Tension: 50}, worked(t, r))
	require.NoError(t, err)
	assert.Zero(t, plan.Least)
	require.Len(t, plan.Findings, 2)
	assert.Contains(t, unit.InMetric(plan.Findings[0]), "gaps of 5.0 mm")
	for _, bad := range []Tape{{}, {Width: 0.02}, {Width: 0.02, Pitch: 0.01},
		{Width: 0.02, Pitch: 0.01, Layers: 1, Tension: -1}} {
		_, err := r.Tape(bad, w)
		assert.Error(t, err)
	}
}

// Clearance in closed form for an isotropic tube: D(αm − αt)ΔT. Where it grips: the pressure
// of a thin ring shrunk on a solid shaft, δ/D / ((1−ν)/E + R/(E t)).
func TestTheMandrelComesOff(t *testing.T) {
	r := tube(Section{Kind: Round, Width: 0.04}, Sheet{Material: isotropic(0.001)})
	w := worked(t, r)
	steel := Pull{Expands: 12e-6, Modulus: 200e9, Poisson: 0.3, Cools: 100, Friction: 0.2, Limit: 5e3}
	out, err := r.Pull(steel, w)
	require.NoError(t, err)
	assert.InDelta(t, 5e-6, out.Hoop, 1e-12)
	assert.InEpsilon(t, 0.04*7e-6*100, out.Gap, 1e-9)
	assert.Zero(t, out.Force)
	assert.Empty(t, out.Warning)
	// One that shrinks less than the wall is gripped.
	steel.Expands = 1e-6
	out, err = r.Pull(steel, w)
	require.NoError(t, err)
	assert.InEpsilon(t, 0.04*-4e-6*100, out.Gap, 1e-9)
	p := 4e-4 / (0.7/200e9 + 0.0205/(70e9*0.001))
	assert.InEpsilon(t, p, out.Pressure, 1e-9)
	assert.InEpsilon(t, 0.2*p*math.Pi*0.04*0.6, out.Force, 1e-9)
	assert.Contains(t, out.Warning, "will not come off")
	steel.Limit = 1.5 * out.Force
	out, _ = r.Pull(steel, w)
	assert.Contains(t, out.Warning, "may not come off")
	// A hollow one gives way more; a tapered one is free after a little way.
	steel.Bore = 0.036
	hollow, _ := r.Pull(steel, w)
	assert.Less(t, hollow.Pressure, out.Pressure)
	r.Mandrel.Last.Width = 0.034
	out, err = r.Pull(steel, worked(t, r))
	require.NoError(t, err)
	assert.InEpsilon(t, -out.Gap/0.01, out.Free, 1e-9)
	for _, bad := range []Pull{{}, {Modulus: 1, Poisson: 0.7}, {Modulus: 1, Cools: -1}, {Modulus: 1, Friction: 9}} {
		_, err := r.Pull(bad, w)
		assert.Error(t, err)
	}
	steel.Bore = 0.05
	_, err = r.Pull(steel, w)
	assert.ErrorContains(t, err, "as wide as the mandrel")
}

func TestARollThatCannotBeIsRefused(t *testing.T) {
	good := Sheet{Name: "1", Material: ud()}
	for _, c := range []struct {
		says   string
		change func(*Sheet)
	}{
		{"an overlap of 200 mm is wider than the ply", func(s *Sheet) { s.Join, s.Width = Overlap, 0.2 }},
		{"an overlap needs a width", func(s *Sheet) { s.Join = Overlap }},
		{"a gap of 200 mm leaves nothing", func(s *Sheet) { s.Join, s.Width = Gap, 0.2 }},
		{"no way of putting", func(s *Sheet) { s.How = "thrown" }},
		{"has no thickness", func(s *Sheet) { s.Material.Lamina.Thickness = 0 }},
		{"is no angle", func(s *Sheet) { s.Angle = math.NaN() }},
		{"200 times", func(s *Sheet) { s.Turns = 300 }},
		{"begins before it ends", func(s *Sheet) { s.From, s.To = 0.3, 0.2 }},
		{"begins before it ends", func(s *Sheet) { s.From = 0.7 }},
		{"at most 85°", func(s *Sheet) { s.How, s.Angle = Spiral, 1.55 }},
		{"strips need a width", func(s *Sheet) { s.How = Strips }},
		{"wider than the way round", func(s *Sheet) { s.How, s.Strip = Strips, 0.2 }},
		{"lack its diameter", func(s *Sheet) { s.How = Braid }},
		{"no next to be tacked to", func(s *Sheet) { s.Crossed = true }},
		{"only a wrapped sheet goes round", func(s *Sheet) { s.How, s.Strip, s.Turns = Strips, 0.02, 2 }},
	} {
		s := good
		c.change(&s)
		faults := tube(everySection[0], s).Check()
		require.NotEmpty(t, faults, c.says)
		assert.Contains(t, unit.InMetric(faults[0].Message), c.says)
		assert.Equal(t, 0, faults[0].Sheet)
	}
	r := tube(everySection[0], good)
	r.Trim = math.NaN()
	assert.Equal(t, "trim", r.Check()[0].Field)
	r = tube(everySection[0])
	r.Mandrel.Length = 0
	assert.Equal(t, "section", r.Check()[0].Field)
}

// BenchmarkTube is a tapered tube of 40 wraps, of a section that is unrolled facet by facet.
func BenchmarkTube(b *testing.B) {
	r := Roll{Mandrel: Mandrel{Section{Hexagon, 0.06, 0, 0.006}, Section{Hexagon, 0.04, 0, 0.004}, 1.2}}
	r.StepAngle, r.Trim, r.Outside, r.Tolerance = unit.Rad(60), 0.02, 0.08, 0.0002
	for k := range 40 {
		r.Sheets = append(
			r.Sheets,
			Sheet{Name: "ply", Material: ud(), Angle: unit.Rad(float64(k%4) * 15), Join: Overlap, Width: 0.01},
		)
	}
	require.Empty(b, r.Check())
	b.ReportAllocs()
	for b.Loop() {
		if w := r.Analyse(); len(w.Made) != 40 {
			b.Fatal("not all made")
		}
	}
}
