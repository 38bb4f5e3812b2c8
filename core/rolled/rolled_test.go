package rolled

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"juxta/core/laminate"
	"juxta/core/unit"
)

const thick = 0.00014

func ud() Material {
	return Material{Name: "UD", Tolerance: 0.04, Lamina: laminate.Lamina{
		E1: 125e9, E2: 8.5e9, Nu12: 0.3, G12: 4.4e9, Alpha1: 0.1e-6, Alpha2: 30e-6, Thickness: thick, ArealMass: 0.23,
	}}
}

// isotropic is a wall like a metal's, for checks in closed form.
func isotropic(t float64) Material {
	return Material{Name: "even", Lamina: laminate.Lamina{
		E1: 70e9, E2: 70e9, Nu12: 0.3, G12: 70e9 / 2.6, Alpha1: 5e-6, Alpha2: 5e-6, Thickness: t, ArealMass: 2700 * t,
	}}
}

func tube(s Section, sheets ...Sheet) Roll {
	for k := range sheets {
		if sheets[k].Name == "" {
			sheets[k].Name = "ply " + string(rune('1'+k))
		}
	}
	return Roll{Mandrel: Mandrel{s, s, 0.6}, Sheets: sheets, StepAngle: math.Pi / 2}
}

func worked(t testing.TB, r Roll) Analysis {
	require.Empty(t, r.Check())
	return r.Analyse()
}

// A wrap's width is the perimeter at its own depth (Steiner), whatever the section.
func TestWrapsGrow(t *testing.T) {
	for _, s := range everySection {
		r := tube(s, Sheet{Material: ud()}, Sheet{Material: ud(), Join: Overlap, Width: 0.012},
			Sheet{Material: ud(), Join: Gap, Width: 0.001})
		r.Trim, r.TapeEnds = 0.01, 0.005
		w := worked(t, r)
		p := s.Perimeter(0)
		for k, want := range []float64{
			p + math.Pi*thick, p + 3*math.Pi*thick + 0.012, p + 5*math.Pi*thick - 0.001,
		} {
			m := w.Made[k]
			assert.Equal(t, "rectangle", m.Shape)
			assert.InDelta(t, want, m.Across, 1e-9, s.Kind)
			assert.InDelta(t, 0.63, m.Length, 1e-9)
			assert.InDelta(t, want*0.63, m.Area, 1e-9)
			assert.Len(t, m.Flat, 4)
			assert.InDelta(t, s.Width+2*float64(k+1)*thick, m.Outside[0], 1e-12)
		}
		assert.InDelta(t, 3*thick, w.Wall[0], 1e-12)
		assert.InDelta(t, 0.04*3*thick, w.WallOff, 1e-12)
		// What the part weighs a metre, without what is trimmed.
		assert.InDelta(t, 0.23*(3*p+9*math.Pi*thick+0.011), w.MassPerMetre, 1e-9, s.Kind)
		require.Len(t, w.Section[0], 4)
		assert.InDelta(t, s.Perimeter(3*thick), w.Section[0][3].Outline.Perimeter(), 1e-5*p)
	}
}

// A laid thickness of 1.2 of that cured makes the second wrap wider; the part is as cured.
func TestLayersMayLieAsThickAsLaid(t *testing.T) {
	bulky := ud()
	bulky.Bulk = 1.2
	r := tube(everySection[0], Sheet{Material: bulky}, Sheet{Material: bulky})
	assert.InDelta(t, math.Pi*(0.04+3*thick), worked(t, r).Made[1].Across, 1e-9)
	r.AsLaid = true
	w := worked(t, r)
	assert.InDelta(t, math.Pi*(0.04+3*1.2*thick), w.Made[1].Across, 1e-9)
	assert.InDelta(t, 2*thick, w.Wall[0], 1e-12)
}

// One sheet for n turns is as long as an Archimedean spiral r = a + bθ whose first turn's mean
// is that of its middle: b/2 (φ√(1+φ²) + asinh φ) between its ends, with φ = r/b.
func TestASheetOfManyTurnsIsASpiral(t *testing.T) {
	const n = 12
	w := worked(t, tube(everySection[0], Sheet{Material: ud(), Turns: n}))
	b := thick / 2 / math.Pi
	f := func(r float64) float64 { p := r / b; return b / 2 * (p*math.Hypot(1, p) + math.Asinh(p)) }
	assert.InEpsilon(t, f(0.02+n*thick)-f(0.02), w.Made[0].Across, 1e-12)
	// Turn by turn after Steiner it is shorter by what a turn climbs alone: less than a micrometre.
	sum := 0.0
	for k := range n {
		sum += math.Pi * (0.04 + (2*float64(k)+1)*thick)
	}
	assert.InDelta(t, sum, w.Made[0].Across, 1e-6)
	assert.InDelta(t, n*thick, w.Wall[0], 1e-12)
	assert.Len(t, w.Section[0], n+1)
}

// Two sheets tacked to each other and rolled together lie in between each other: each grows
// by both a turn.
func TestCrossedSheetsRollTogether(t *testing.T) {
	thin := ud()
	thin.Name, thin.Lamina.Thickness = "thin", 0.0001
	r := tube(everySection[0], Sheet{Material: ud(), Angle: 0.8, Turns: 3, Crossed: true},
		Sheet{Material: thin, Angle: -0.8, Turns: 3}, Sheet{Material: ud()})
	w := worked(t, r)
	both := thick + 0.0001
	assert.InDelta(t, 3*math.Pi*0.04+2*math.Pi*(3*thick/2+3*both), w.Made[0].Across, 1e-6)
	assert.InDelta(t, 3*math.Pi*0.04+2*math.Pi*(3*(thick+0.00005)+3*both), w.Made[1].Across, 1e-6)
	assert.InDelta(t, 3*both+thick/2, w.Made[2].Depth, 1e-12)
	assert.Equal(t, []Turn{{0, 0}, {1, 0}, {0, 1}, {1, 1}, {0, 2}, {1, 2}, {2, 0}}, r.turns(0))
}

// A round taper is a cone sector: its radii from the slant, its angle from the widths.
func TestAConeSector(t *testing.T) {
	r := tube(everySection[0], Sheet{Material: ud(), Angle: 0.5})
	r.Mandrel.Last.Width = 0.03
	w := worked(t, r)
	m := w.Made[0]
	assert.Equal(t, "cone sector", m.Shape)
	slant := math.Hypot(0.6, 0.005)
	cos := 0.6 / slant
	r0, r1 := 0.02+thick/2/cos, 0.015+thick/2/cos
	outer, inner := slant*r0/(r0-r1), slant*r1/(r0-r1)
	angle := 2 * math.Pi * r0 / outer
	assert.InEpsilon(t, angle/2*(outer*outer-inner*inner), m.Area, 2e-5)
	assert.InDelta(t, 2*outer*math.Sin(angle/2), m.Across, 3e-6)
	assert.InDelta(t, outer-inner*math.Cos(angle/2), m.Length, 1e-6)
	assert.InDelta(t, 0.5-angle/2, m.Angles[0], 1e-5)
	assert.InDelta(t, 0.5+angle/2, m.Angles[1], 1e-5)
	// Its edges are as long as the slant, as its arcs are as long as the ways round.
	assert.InDelta(t, 2*math.Pi*r0, m.Perimeter[0], 1e-9)
	assert.InEpsilon(t, 2*slant+2*math.Pi*(r0+r1), m.Flat.Perimeter(), 1e-5)
}

// A tapered prism with sharp corners is its facets side by side: trapezoids in closed form.
func TestATaperedPrismIsItsFacets(t *testing.T) {
	r := Roll{Mandrel: Mandrel{Section{Square, 0.06, 0, 0}, Section{Square, 0.04, 0, 0}, 0.5}}
	r.Sheets = []Sheet{{Name: "1", Material: ud()}}
	d := r.Mandrel.develop(curves{}, []along{{0, 0}, {0.5, 0}}, 0, 1, 0, 0)
	high := math.Hypot(0.5, 0.01) // of a facet
	assert.InEpsilon(t, 4*(0.06+0.04)/2*high, d.ring.Area(), 1e-9)
	// Between the outermost edges, half a facet from either side: the facets turn by the
	// angle between a trapezoid's legs, four times.
	legs := 2 * math.Atan(0.01/high)
	assert.InDelta(t, 2*legs, d.max, 1e-6)
	assert.InDelta(t, -2*legs, d.min, 1e-6)
	// Rounded corners, a stadium, an ellipse: the flat is as large as the surface between the
	// two sections, added up in strips.
	for _, s := range everySection {
		last := s
		last.Width, last.Height, last.Radius = s.Width*0.7, s.Height*0.7, s.Radius*0.7
		m := Mandrel{s, last, 0.5}
		d := m.develop(curves{}, []along{{0, 0.001}, {0.5, 0.001}}, 0.01, 1, 0, 0)
		assert.InEpsilon(t, surface(m, 0.001), d.ring.Area(), 2e-5, s.Kind)
	}
}

// surface adds the triangles between two ends of a mandrel up.
func surface(m Mandrel, depth float64) float64 {
	a, b := m.First.curve(), m.Last.curve()
	depth /= m.slope()
	sum := 0.0
	triangle := func(x, y, z [3]float64) float64 {
		var u, v [3]float64
		for k := range 3 {
			u[k], v[k] = y[k]-x[k], z[k]-x[k]
		}
		c := [3]float64{u[1]*v[2] - u[2]*v[1], u[2]*v[0] - u[0]*v[2], u[0]*v[1] - u[1]*v[0]}
		return math.Sqrt(c[0]*c[0]+c[1]*c[1]+c[2]*c[2]) / 2
	}
	at := func(s station, x float64) [3]float64 { p := s.off(depth); return [3]float64{x, p.X, p.Y} }
	for k := 1; k < len(a); k++ {
		p, q, r, s := at(a[k-1], 0), at(a[k], 0), at(b[k-1], m.Length), at(b[k], m.Length)
		sum += triangle(p, q, r) + triangle(q, s, r)
	}
	return sum
}

// A sleeve beneath makes what goes over it wider there, and no wider elsewhere.
func TestWhatLiesOverALocalSleeve(t *testing.T) {
	r := tube(everySection[0], Sheet{Material: ud(), To: 0.1}, Sheet{Material: ud(), To: 0.08}, Sheet{Material: ud()})
	w := worked(t, r)
	assert.InDelta(t, 0.1, w.Made[0].Length, 1e-9)
	m := w.Made[2]
	assert.InDelta(t, math.Pi*(0.04+5*thick), m.Across, 1e-9)
	narrow := math.Inf(1)
	for _, p := range m.Flat {
		if p.X > 0.3 {
			narrow = min(narrow, math.Abs(p.Y-m.Across/2))
		}
	}
	assert.InDelta(t, math.Pi*(0.04+thick)/2, narrow, 1e-9)
	assert.InDelta(t, 3*thick, w.Wall[0], 1e-12)
	assert.InDelta(t, thick, w.Wall[1], 1e-12)
	assert.InDelta(t, 0.04+2*thick, w.Outside[1].Width, 1e-12)
}

// A spiral's sheet is a parallelogram of the area of the tube, whose edges meet: the end of
// one turned once round is where the other begins.
func TestASpiralIsAParallelogram(t *testing.T) {
	r := tube(everySection[5], Sheet{Material: ud(), Angle: unit.Rad(40), How: Spiral})
	w := worked(t, r)
	m, p := w.Made[0], everySection[5].Perimeter(thick/2)
	assert.InDelta(t, p*0.6, m.Area, 1e-9)
	assert.InDelta(t, p*math.Cos(unit.Rad(40)), m.Across, 1e-9)
	assert.InDelta(t, p/math.Tan(unit.Rad(40)), m.Pitch, 1e-9)
	require.Len(t, m.Flat, 4)
	assert.InDelta(t, 0.6*math.Tan(unit.Rad(40)), m.Flat[1].Y-m.Flat[0].Y, 1e-9)
	// On a taper it covers what a plain wrap covers.
	r.Mandrel.Last.Width, r.Mandrel.Last.Radius = 0.05, 0.005
	m = worked(t, r).Made[0]
	r.Sheets[0].How = Wrapped
	assert.InEpsilon(t, worked(t, r).Made[0].Area, m.Area, 1e-3)
	assert.NoError(t, m.Flat.Check())
}

// Strips of a width at an angle: w = P cos α/m covers once (helical winding, closed form).
func TestStripsAtAPitch(t *testing.T) {
	p := math.Pi * (0.04 + thick)
	wide := p * math.Cos(unit.Rad(60)) / 3
	r := tube(everySection[0], Sheet{Material: ud(), Angle: unit.Rad(60), How: Strips, Strip: wide, Starts: 3})
	m := worked(t, r).Made[0]
	assert.InDelta(t, 0, m.Covered[0], 1e-4)
	assert.InDelta(t, 0.6/math.Cos(unit.Rad(60)), m.Length, 1e-9)
	assert.InDelta(t, p*0.6, m.Area, 1e-9)
	assert.Equal(t, 3, m.Pieces)
	r.Sheets[0].Strip = wide * 1.25
	m = worked(t, r).Made[0]
	assert.InDelta(t, 0.2, m.Covered[0], 1e-3)
	assert.InDelta(t, 1.25*thick, m.Thickness, 1e-6)
	// A steady pitch on a taper: steeper where it is wide.
	r.Mandrel.Last.Width = 0.03
	m = worked(t, r).Made[0]
	assert.Less(t, m.Angles[0], unit.Rad(60))
	assert.Greater(t, m.Angles[1], unit.Rad(60))
	assert.InDelta(t, math.Tan(m.Angles[1])/math.Tan(m.Angles[0]), m.Perimeter[0]/m.Perimeter[1], 1e-9)
}

// A braid of constant yarn length a turn: its angle's sine goes with the diameter; yarn is
// neither made nor lost, so that mass a yarn length stays (closed form).
func TestABraidPulledOver(t *testing.T) {
	sleeve := ud()
	sleeve.Sleeve = Sleeve{Diameter: 0.04, Angle: math.Pi / 4, Least: unit.Rad(25), Most: unit.Rad(65)}
	r := tube(Section{Kind: Round, Width: 0.05}, Sheet{Material: sleeve, How: Braid})
	w := worked(t, r)
	m := w.Made[0]
	d := 0.05 + m.Thickness // at its middle; its own thickness as at the mandrel
	sin := math.Sqrt(0.5) * d / 0.04
	assert.InDelta(t, math.Asin(sin), m.Angles[0], 2e-3)
	// The same yarns: as much mass in what is cut as in what it covers.
	assert.InEpsilon(t, m.Length*math.Pi*0.04*0.23, m.Mass, 1e-9)
	assert.Greater(t, m.ArealMass, 0.23*0.04/0.05)
	r.Mandrel.First.Width, r.Mandrel.Last.Width = 0.0548, 0.0548
	w = worked(t, r)
	require.Len(t, w.Findings, 1)
	assert.Contains(t, w.Findings[0].Message, "jams beyond ±65°")
	r.Mandrel.First.Width, r.Mandrel.Last.Width = 0.06, 0.06
	assert.Contains(t, r.Check()[0].Message, "cannot be pulled over")
}

func TestSeamsStepRound(t *testing.T) {
	sheets := []Sheet{}
	for range 4 {
		sheets = append(sheets, Sheet{Material: ud(), Join: Overlap, Width: 0.01})
	}
	r := tube(everySection[5], sheets...)
	r.StepAngle = unit.Rad(60)
	w := worked(t, r)
	assert.Empty(t, w.Findings)
	for k, m := range w.Made {
		assert.InDelta(t, unit.Rad(60)*float64(k), m.SeamAngle, 1e-6)
	}
	assert.InDelta(t, thick, w.OverSeams, 1e-12)
	// By length, and too little of it.
	r.StepAngle, r.StepLength = 0, 0.015
	w = worked(t, r)
	assert.Len(t, w.Findings, 3)
	assert.InDelta(t, 0.03, w.Made[2].Seam[0], 1e-4)
	r.StepLength, r.Sheets[3].Step = 0, 0.05
	assert.InDelta(t, 0.05, worked(t, r).Made[3].Seam[0], 1e-9)
	r.Sheets[3].Step = 0
	w = worked(t, r)
	assert.InDelta(t, 4*thick, w.OverSeams, 1e-12)
}

// Every section, any wraps: what is cut covers the part once, with its overlaps; nothing is
// wider than it should be; the outside is the mandrel and twice the wall.
func TestAnyRoll(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		s := rapid.SampledFrom(everySection).Draw(t, "section")
		last := s
		if rapid.Bool().Draw(t, "tapered") {
			k := rapid.Float64Range(0.6, 1.4).Draw(t, "taper")
			last.Width, last.Height, last.Radius = s.Width*k, s.Height*k, s.Radius*k
		}
		r := Roll{Mandrel: Mandrel{s, last, rapid.Float64Range(0.2, 2).Draw(t, "length")}}
		r.StepAngle = rapid.Float64Range(0, 3).Draw(t, "step")
		for range rapid.IntRange(1, 6).Draw(t, "sheets") {
			r.Sheets = append(r.Sheets, Sheet{
				Name: "ply", Material: ud(), Angle: rapid.Float64Range(-1.2, 1.2).Draw(t, "angle"),
				Turns: rapid.IntRange(1, 4).Draw(t, "turns"),
				How:   rapid.SampledFrom([]string{Wrapped, Wrapped, Strips, Spiral}).Draw(t, "how"),
				Strip: 0.01, Crossed: false,
			})
			if q := &r.Sheets[len(r.Sheets)-1]; q.How != Wrapped {
				q.Turns = 1
			}
		}
		require.Empty(t, r.Check())
		w := r.Analyse()
		slope := r.Mandrel.slope()
		assert.InDelta(t, s.Width+2*w.Wall[0]/slope, w.Outside[0].Width, 1e-12)
		for _, m := range w.Made {
			assert.NoError(t, m.Flat.Check())
			assert.False(t, math.IsNaN(m.Area))
			if m.Sheet.How == Strips {
				continue
			}
			grown := m.Depth + float64(m.Sheet.turns()-1)*thick/2
			mean := (r.Mandrel.First.Perimeter(grown/slope) + r.Mandrel.Last.Perimeter(grown/slope)) / 2
			want := mean * r.Mandrel.Length * float64(m.Sheet.turns())
			assert.InEpsilon(t, want, m.Area, 0.02, "%s %s", m.Shape, s.Kind)
		}
	})
}
