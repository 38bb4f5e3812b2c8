package laminate

import (
	"fmt"
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"juxta/core/geom"
	"juxta/core/unit"
)

// graphiteEpoxy is the unidirectional material of the worked examples in Kaw,
// Mechanics of Composite Materials, 2nd ed., table 2.1.
var graphiteEpoxy = Lamina{
	E1:        181e9,
	E2:        10.3e9,
	Nu12:      0.28,
	G12:       7.17e9,
	Alpha1:    0.02e-6,
	Alpha2:    22.5e-6,
	Thickness: 5e-3,
	ArealMass: 8,
}

func stackOf(l Lamina, degrees ...float64) []Ply {
	var s []Ply
	for i, d := range degrees {
		s = append(s, Ply{Name: fmt.Sprint(i + 1), Material: "m", Lamina: l, Angle: unit.Rad(d)})
	}
	return s
}

func within(t *testing.T, want, got [3][3]float64, relative float64) {
	t.Helper()
	scale := 0.0
	for r := range 3 {
		for c := range 3 {
			scale = math.Max(scale, math.Abs(want[r][c]))
		}
	}
	for r := range 3 {
		for c := range 3 {
			assert.InDelta(
				t,
				want[r][c],
				got[r][c],
				relative*math.Max(math.Abs(want[r][c]), scale*1e-3),
				"row %d column %d",
				r+1,
				c+1,
			)
		}
	}
}

// Kaw, 2nd ed., example 2.6 (Q) and 2.7 (Q̄ at 60°), four figures, from memory.
func TestReducedAndTurnedStiffnessOfKawExample(t *testing.T) {
	within(
		t,
		[3][3]float64{{181.8e9, 2.897e9, 0}, {2.897e9, 10.35e9, 0}, {0, 0, 7.17e9}},
		graphiteEpoxy.Reduced(),
		1e-3,
	)
	within(t, [3][3]float64{{23.65e9, 32.46e9, 20.05e9}, {32.46e9, 109.4e9, 54.19e9}, {20.05e9, 54.19e9, 36.74e9}},
		graphiteEpoxy.Turned(unit.Rad(60)), 1e-3)
}

// Kaw, 2nd ed., example 4.2: [0/30/-45], each ply 5 mm, four figures, from
// memory. Ply 1 lies at negative z, as ours does.
func TestStiffnessOfKawExample(t *testing.T) {
	s, err := StiffnessOf(stackOf(graphiteEpoxy, 0, 30, -45))
	require.NoError(t, err)
	within(
		t,
		[3][3]float64{{1.739e9, 3.884e8, 5.663e7}, {3.884e8, 4.533e8, -1.141e8}, {5.663e7, -1.141e8, 4.525e8}},
		s.A,
		1e-3,
	)
	within(
		t,
		[3][3]float64{{-3.129e6, 9.855e5, -1.072e6}, {9.855e5, 1.158e6, -1.072e6}, {-1.072e6, -1.072e6, 9.855e5}},
		s.B,
		1e-3,
	)
	within(
		t,
		[3][3]float64{{3.343e4, 6.461e3, -5.240e3}, {6.461e3, 9.320e3, -5.596e3}, {-5.240e3, -5.596e3, 7.663e3}},
		s.D,
		1e-3,
	)
	// Example 4.3: Nx = Ny = 1000 N/m.
	inverse, err := s.Invert()
	require.NoError(t, err)
	strain, k := inverse.Response([3]float64{1000, 1000, 0}, [3]float64{})
	require.NoError(t, err)
	for i, want := range []float64{3.123e-7, 3.492e-6, -7.598e-7} {
		assert.InEpsilon(t, want, strain[i], 2e-3)
	}
	for i, want := range []float64{2.971e-5, -3.285e-4, 4.101e-4} {
		assert.InEpsilon(t, want, k[i], 2e-3)
	}
}

func randomStack(t *rapid.T) []Ply {
	var s []Ply
	for i := range rapid.IntRange(1, 9).Draw(t, "plies") {
		l := graphiteEpoxy
		l.Thickness = rapid.Float64Range(1e-4, 4e-4).Draw(t, "t")
		s = append(
			s,
			Ply{Name: fmt.Sprint(i), Lamina: l, Angle: rapid.Float64Range(-math.Pi, math.Pi).Draw(t, "angle")},
		)
	}
	return s
}

func TestSymmetricStackHasNoCouplingAndStaysFlat(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		half := randomStack(t)
		full := append([]Ply(nil), half...)
		for i := len(half) - 1; i >= 0; i-- {
			full = append(full, half[i])
		}
		s, err := StiffnessOf(full)
		require.NoError(t, err)
		for r := range 3 {
			for c := range 3 {
				assert.InDelta(t, 0, s.B[r][c], 1e-9*s.A[0][0]*s.Thickness)
			}
		}
		w, err := WarpOf(full, -100, 1)
		require.NoError(t, err)
		assert.Zero(t, w.Bow)
	})
}

func TestBalancedStackHasNoShearCoupling(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		stack := randomStack(t)
		for _, p := range stack {
			p.Angle = -p.Angle
			stack = append(stack, p)
		}
		s, err := StiffnessOf(stack)
		require.NoError(t, err)
		assert.InDelta(t, 0, s.A[0][2], 1e-9*s.A[0][0])
		assert.InDelta(t, 0, s.A[1][2], 1e-9*s.A[0][0])
	})
}

func TestQuasiIsotropicInPlane(t *testing.T) {
	for _, angles := range [][]float64{{0, 60, -60}, {0, 45, 90, -45}, {10, 46, 82, 118, 154}} {
		s, err := StiffnessOf(stackOf(graphiteEpoxy, angles...))
		require.NoError(t, err)
		assert.InEpsilon(t, s.A[0][0], s.A[1][1], 1e-12)
		assert.InEpsilon(t, (s.A[0][0]-s.A[0][1])/2, s.A[2][2], 1e-12)
	}
}

// Q̄11 + Q̄22 + 2 Q̄12 and Q̄66 − Q̄12 do not change with angle (Tsai & Hahn,
// Introduction to Composite Materials, §3.3).
func TestInvariantsOfTheTurnedStiffness(t *testing.T) {
	q0 := graphiteEpoxy.Reduced()
	rapid.Check(t, func(t *rapid.T) {
		q := graphiteEpoxy.Turned(rapid.Float64Range(-4, 4).Draw(t, "angle"))
		assert.InEpsilon(t, q0[0][0]+q0[1][1]+2*q0[0][1], q[0][0]+q[1][1]+2*q[0][1], 1e-12)
		assert.InEpsilon(t, q0[2][2]-q0[0][1], q[2][2]-q[0][1], 1e-12)
	})
}

// A two-layer strip bends as Timoshenko's bimetal: κ = 6 Δα ΔT (1+m)² / (h (3(1+m)²
// + (1+mn)(m² + 1/(mn)))) (Timoshenko 1925). With ν = 0 lamination theory is
// that strip, so the two must agree.
func TestWarpAgainstTimoshenkoBimetal(t *testing.T) {
	strip := func(name string, e, alpha, h float64) Ply {
		return Ply{
			Name:   name,
			Lamina: Lamina{E1: e, E2: e, Nu12: 0, G12: e / 2, Alpha1: alpha, Alpha2: alpha, Thickness: h},
		}
	}
	e1, e2, h1, h2, a1, a2, dT := 70e9, 200e9, 0.3e-3, 0.5e-3, 23e-6, 12e-6, -80.0
	m, n, h := h1/h2, e1/e2, h1+h2
	want := 6 * (a2 - a1) * dT * (1 + m) * (1 + m) / (h * (3*(1+m)*(1+m) + (1+m*n)*(m*m+1/(m*n))))
	w, err := WarpOf([]Ply{strip("1", e1, a1, h1), strip("2", e2, a2, h2)}, dT, 1)
	require.NoError(t, err)
	assert.InEpsilon(t, want, w.Curvature[0], 1e-9)
	assert.InEpsilon(t, math.Abs(want)/8, w.Bow, 1e-9)
}

func TestCrossPlyWarpsEquallyAndOppositely(t *testing.T) {
	w, err := WarpOf(stackOf(graphiteEpoxy, 0, 90), -100, 1)
	require.NoError(t, err)
	assert.InEpsilon(t, w.Curvature[0], -w.Curvature[1], 1e-9)
	turned, err := WarpOf(stackOf(graphiteEpoxy, 30, 120), -100, 1)
	require.NoError(t, err)
	assert.InEpsilon(t, w.Bow, turned.Bow, 1e-9, "turning the stack turns the warp and does not change it")
}

func TestEngineeringConstantsOfOnePly(t *testing.T) {
	s, err := StiffnessOf(stackOf(graphiteEpoxy, 0))
	require.NoError(t, err)
	inverse, err := s.Invert()
	require.NoError(t, err)
	k := s.Engineering(inverse)
	require.NoError(t, err)
	assert.InEpsilon(t, 181e9, k.Ex, 1e-9)
	assert.InEpsilon(t, 10.3e9, k.Ey, 1e-9)
	assert.InEpsilon(t, 7.17e9, k.Gxy, 1e-9)
	assert.InEpsilon(t, 0.28, k.Nuxy, 1e-9)
}

func TestImpossibleLaminaIsNamed(t *testing.T) {
	bad := graphiteEpoxy
	bad.Nu12 = 5
	_, err := StiffnessOf(stackOf(bad, 0))
	assert.ErrorContains(t, err, "ply 1: nu12 5 is impossible")
	_, err = StiffnessOf(nil)
	assert.ErrorContains(t, err, "no plies")
}

func TestInspectNamesThePlies(t *testing.T) {
	weave := graphiteEpoxy
	weave.E2, weave.AsymmetricWeave = weave.E1, true
	withFaces := stackOf(weave, 0, 0)
	flipped := stackOf(weave, 0, 0)
	flipped[1].FaceUp = true
	for name, c := range map[string]struct {
		stack []Ply
		want  []string
	}{
		"symmetric and balanced": {stackOf(graphiteEpoxy, 45, -45, 0, 90, 0, -45, 45), nil},
		"one added ply": {stackOf(graphiteEpoxy, 45, 30, -45, 0, 90, 0, -45, 45), []string{
			"not symmetric: ply 2 unpaired", "not balanced: 5.00 mm more m at +30°",
		}},
		"reinforcement on top":  {stackOf(graphiteEpoxy, 0, 90, 0, 90, 0, 90), []string{"not symmetric: ply 6"}},
		"weave, same face up":   {withFaces, []string{"not symmetric"}},
		"weave, faces mirrored": {flipped, nil},
		"too many in a row": {stackOf(
			graphiteEpoxy, 0, 0, 0, 0, 0,
		), []string{"5 equal angles in a row, at most 4: plies 1, 2, 3, 4 and 5"}},
	} {
		found := Inspect(c.stack, DefaultRules())
		require.Len(t, found, len(c.want), "%s: %v", name, found)
		for i, f := range found {
			assert.Contains(t, unit.InMetric(f.Message), c.want[i], name)
		}
	}
	found := Inspect(stackOf(graphiteEpoxy, 0, 0, 90, 0, 0), Rules{MinShare: 0.1})
	require.Len(t, found, 1)
	assert.Contains(t, found[0].Message, "only 0 % at ±45°")
}

func TestSharesAreByThickness(t *testing.T) {
	thick := graphiteEpoxy
	thick.Thickness *= 2
	stack := append(stackOf(graphiteEpoxy, 0, 135), stackOf(thick, 90)...)
	assert.Equal(t, []Share{{-45, 0.25}, {0, 0.25}, {90, 0.5}}, Shares(stack))
}

func TestZonesOfAPanelWithALocalPatch(t *testing.T) {
	s := stackOf(graphiteEpoxy, 0, 90, 0)
	zones, err := Zones([]PlacedPly{
		{Ply: s[0], Outline: geom.Rect(1, 0.5)},
		{Ply: s[1], Outline: geom.Rect(0.2, 0.1).Move(0.4, 0.2)},
		{Ply: s[2], Outline: geom.Rect(1, 0.5)},
	})
	require.NoError(t, err)
	require.Len(t, zones, 2)
	assert.InDelta(t, 0.48, zones[0].Area, 1e-9)
	assert.InDelta(t, 0.02, zones[1].Area, 1e-9)
	assert.Equal(t, []int{0, 2}, zones[0].Plies)
	assert.Equal(t, []int{1}, zones[0].Beside)
	assert.InDelta(t, 0.5, zones[1].Centroid.X, 1e-9)
	assert.True(t, geom.Rect(0.2, 0.1).Move(0.4, 0.2).Contains(zones[1].At))
}

func TestZoneAreasTimesStacksMakeTheMass(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		var plies []PlacedPly
		for i := range rapid.IntRange(1, 6).Draw(t, "plies") {
			w, h := rapid.IntRange(1, 9).Draw(t, "w"), rapid.IntRange(1, 9).Draw(t, "h")
			x, y := rapid.IntRange(0, 6).Draw(t, "x"), rapid.IntRange(0, 6).Draw(t, "y")
			plies = append(plies, PlacedPly{Ply: Ply{Name: fmt.Sprint(i), Lamina: graphiteEpoxy},
				Outline: geom.Rect(float64(w)/10, float64(h)/10).Move(float64(x)/10, float64(y)/10)})
		}
		zones, err := Zones(plies)
		require.NoError(t, err)
		sum := 0.0
		for _, z := range zones {
			for _, p := range z.Stack(nil, plies) {
				sum += z.Area * p.Lamina.ArealMass
			}
		}
		w, err := MassOf(plies, nil, 0, nil)
		require.NoError(t, err)
		assert.InEpsilon(t, w.Laid, sum, 1e-9)
	})
}
