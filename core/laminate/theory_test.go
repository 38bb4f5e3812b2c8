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

// turned is a stiffness matrix turned by angle, by the transformation of a
// plane fourth-order tensor written out index by index: a second method beside
// the closed forms of [Lamina.Turned].
func turned(q [3][3]float64, angle float64) [3][3]float64 {
	s, c := math.Sincos(angle)
	r := [2][2]float64{{c, -s}, {s, c}}
	full := func(m [3][3]float64, i, j, k, l int) float64 {
		voigt := [2][2]int{{0, 2}, {2, 1}}
		return m[voigt[i][j]][voigt[k][l]]
	}
	var out [3][3]float64
	pairs := [3][2]int{{0, 0}, {1, 1}, {0, 1}}
	for a, ij := range pairs {
		for b, kl := range pairs {
			sum := 0.0
			for n := range 16 {
				p, q1, r1, s1 := n&1, n>>1&1, n>>2&1, n>>3&1
				sum += r[ij[0]][p] * r[ij[1]][q1] * r[kl[0]][r1] * r[kl[1]][s1] * full(q, p, q1, r1, s1)
			}
			out[a][b] = sum
		}
	}
	return out
}

func TestTurningAPlyIsTheTensorTransformation(t *testing.T) {
	rapid.Check(t, func(rt *rapid.T) {
		angle := rapid.Float64Range(-math.Pi, math.Pi).Draw(rt, "angle")
		want, got := turned(graphiteEpoxy.Reduced(), angle), graphiteEpoxy.Turned(angle)
		for i := range 3 {
			for j := range 3 {
				assert.InDelta(rt, want[i][j], got[i][j], 1e-9*graphiteEpoxy.E1)
			}
		}
	})
}

func TestTurningTheWholeStackTurnsItsStiffness(t *testing.T) {
	rapid.Check(t, func(rt *rapid.T) {
		stack := randomStack(rt)
		by := rapid.Float64Range(-math.Pi, math.Pi).Draw(rt, "by")
		before, err := StiffnessOf(stack)
		require.NoError(rt, err)
		for i := range stack {
			stack[i].Angle += by
		}
		after, err := StiffnessOf(stack)
		require.NoError(rt, err)
		for name, m := range map[string][2][3][3]float64{
			"A": {before.A, after.A}, "B": {before.B, after.B}, "D": {before.D, after.D},
		} {
			want := turned(m[0], by)
			scale := before.A[0][0] * math.Pow(before.Thickness, float64(map[string]int{"A": 0, "B": 1, "D": 2}[name]))
			for i := range 3 {
				for j := range 3 {
					assert.InDelta(rt, want[i][j], m[1][i][j], 1e-9*scale, name)
				}
			}
		}
	})
}

// The mirror image of a stack in its own mid-plane has the same A and D, and B
// with its sign turned round.
func TestTheMirrorImageOfAStack(t *testing.T) {
	rapid.Check(t, func(rt *rapid.T) {
		stack := randomStack(rt)
		mirror := make([]Ply, len(stack))
		for i, p := range stack {
			p.FaceUp = !p.FaceUp
			mirror[len(stack)-1-i] = p
		}
		a, err := StiffnessOf(stack)
		require.NoError(rt, err)
		b, err := StiffnessOf(mirror)
		require.NoError(rt, err)
		h := a.Thickness
		for i := range 3 {
			for j := range 3 {
				assert.InDelta(rt, a.A[i][j], b.A[i][j], 1e-9*a.A[0][0]+1)
				assert.InDelta(rt, a.B[i][j], -b.B[i][j], 1e-9*a.A[0][0]*h+1e-3)
				assert.InDelta(rt, a.D[i][j], b.D[i][j], 1e-9*a.A[0][0]*h*h+1e-6)
			}
			assert.InDelta(rt, a.MT[i], -b.MT[i], 1e-6)
		}
	})
}

func TestResponseBalancesTheLoad(t *testing.T) {
	rapid.Check(t, func(rt *rapid.T) {
		s, err := StiffnessOf(randomStack(rt))
		require.NoError(rt, err)
		var force, moment [3]float64
		for i := range 3 {
			force[i], moment[i] = rapid.Float64Range(-1e4, 1e4).Draw(rt, "N"), rapid.Float64Range(-10, 10).Draw(rt, "M")
		}
		inverse, err := s.Invert()
		require.NoError(rt, err)
		strain, k := inverse.Response(force, moment)
		require.NoError(rt, err)
		for i := range 3 {
			n, m := 0.0, 0.0
			for j := range 3 {
				n += s.A[i][j]*strain[j] + s.B[i][j]*k[j]
				m += s.B[i][j]*strain[j] + s.D[i][j]*k[j]
			}
			assert.InDelta(rt, force[i], n, 1e-4)
			assert.InDelta(rt, moment[i], m, 1e-7)
		}
	})
}

// An isotropic plate: D = E h³ / 12(1-ν²), Timoshenko & Woinowsky-Krieger,
// Theory of Plates and Shells, 2nd ed., eq. 3 (number from memory).
func TestBendingStiffnessOfAnIsotropicPlate(t *testing.T) {
	const e, nu = 70e9, 0.33
	sheet := Lamina{E1: e, E2: e, Nu12: nu, G12: e / 2 / (1 + nu), Thickness: 0.5e-3}
	for _, n := range []int{1, 2, 7} {
		var angles []float64
		for i := range n {
			angles = append(angles, float64(17*i)) // an isotropic sheet has no angle
		}
		s, err := StiffnessOf(stackOf(sheet, angles...))
		require.NoError(t, err)
		h := 0.5e-3 * float64(n)
		assert.InEpsilon(t, e*h*h*h/12/(1-nu*nu), s.D[0][0], 1e-9)
		assert.InDelta(t, 0, s.B[0][0], 1e-9*s.A[0][0]*h)
		inverse, err := s.Invert()
		require.NoError(t, err)
		c := s.Engineering(inverse)
		require.NoError(t, err)
		assert.InEpsilon(t, e, c.Ex, 1e-9)
		assert.InEpsilon(t, nu, c.Nuxy, 1e-9)
	}
}

// A sandwich: D11 = Q_s (h³ - c³)/12 + Q_c c³/12 with skins to h and core to c.
func TestBendingStiffnessOfASandwich(t *testing.T) {
	core := Lamina{E1: 1e8, E2: 1e8, Nu12: 0.3, G12: 4e7, Thickness: 12e-3}
	skin := graphiteEpoxy
	skin.Thickness = 0.3e-3
	stack := []Ply{{Name: "1", Lamina: skin}, {Name: "K", Lamina: core}, {Name: "2", Lamina: skin}}
	s, err := StiffnessOf(stack)
	require.NoError(t, err)
	c, h := 12e-3, 12.6e-3
	want := skin.Reduced()[0][0]*(h*h*h-c*c*c)/12 + core.Reduced()[0][0]*c*c*c/12
	assert.InEpsilon(t, want, s.D[0][0], 1e-12)
	// Parallel axes, the way a handbook estimates it: two thin skins at ±(h+c)/4.
	arm := (h + c) / 4
	assert.InEpsilon(t, 2*skin.Reduced()[0][0]*0.3e-3*arm*arm, s.D[0][0], 0.01)
}

// Rules of mixture for a thin 0/90: Ex lies close to the mean of E1 and E2.
func TestEngineeringConstantsOfACrossPly(t *testing.T) {
	s, err := StiffnessOf(stackOf(graphiteEpoxy, 0, 90, 90, 0))
	require.NoError(t, err)
	inverse, err := s.Invert()
	require.NoError(t, err)
	c := s.Engineering(inverse)
	require.NoError(t, err)
	assert.InEpsilon(t, (graphiteEpoxy.E1+graphiteEpoxy.E2)/2, c.Ex, 0.01)
	assert.InEpsilon(t, c.Ex, c.Ey, 1e-12)
	assert.InEpsilon(t, graphiteEpoxy.G12, c.Gxy, 1e-12)
}

func TestAWeaveTurnedOverBreaksTheSymmetry(t *testing.T) {
	twill := Lamina{
		E1:              58e9,
		E2:              58e9,
		Nu12:            0.05,
		G12:             4e9,
		Alpha1:          3e-6,
		Alpha2:          3e-6,
		Thickness:       0.21e-3,
		AsymmetricWeave: true,
	}
	stack := []Ply{
		{Name: "1", Material: "twill", Lamina: twill},
		{Name: "2", Material: "twill", Lamina: twill, FaceUp: true},
	}
	assert.Empty(t, Inspect(stack, DefaultRules()), "face to face")
	stack[1].FaceUp = false
	found := Inspect(stack, DefaultRules())
	require.NotEmpty(t, found)
	assert.Equal(t, "symmetry", found[0].Rule)
	assert.Contains(t, found[0].Message, "unpaired")
}

func TestSharesOfAWeaveLieInBothItsDirections(t *testing.T) {
	twill := graphiteEpoxy
	twill.E2 = twill.E1
	assert.Equal(
		t,
		[]Share{{-45, 0.25}, {0, 0.5}, {45, 0.25}},
		Shares(append(stackOf(twill, 45), stackOf(graphiteEpoxy, 0)...)),
	)
	assert.Equal(t, []Share{{0, 0.5}, {90, 0.5}}, Shares(stackOf(twill, 90)))
	rapid.Check(t, func(rt *rapid.T) {
		sum, last := 0.0, math.Inf(-1)
		for _, s := range Shares(randomStack(rt)) {
			assert.Greater(rt, s.AngleDeg, last)
			sum, last = sum+s.Part, s.AngleDeg
		}
		assert.InDelta(rt, 1, sum, 1e-9)
	})
}

func TestZonesDoNotDependOnWhereThePartLies(t *testing.T) {
	rapid.Check(t, func(rt *rapid.T) {
		var here, there []PlacedPly
		dx, dy := float64(
			rapid.IntRange(-50, 50).Draw(rt, "dx"),
		)/100, float64(
			rapid.IntRange(-50, 50).Draw(rt, "dy"),
		)/100
		for i := range rapid.IntRange(1, 5).Draw(rt, "plies") {
			ring := geom.Rect(float64(rapid.IntRange(1, 9).Draw(rt, "w"))/10,
				float64(rapid.IntRange(1, 9).Draw(rt, "h"))/10).
				Move(float64(i)/20, 0)
			ply := Ply{Name: fmt.Sprint(i), Lamina: graphiteEpoxy, Angle: unit.Rad(float64(15 * i))}
			here, there = append(
				here,
				PlacedPly{Ply: ply, Outline: ring},
			), append(
				there,
				PlacedPly{Ply: ply, Outline: ring.Move(dx, dy)},
			)
		}
		a, err := Zones(here)
		require.NoError(rt, err)
		b, err := Zones(there)
		require.NoError(rt, err)
		require.Len(rt, b, len(a))
		area := func(zones []Zone) (sum float64) {
			for _, z := range zones {
				sum += z.Area
			}
			return sum
		}
		assert.InDelta(rt, area(a), area(b), 1e-9)
	})
}

// Two hundred plies: stiffness, constants and thermal warp, as every keystroke
// in the editor of a part asks for them.
func BenchmarkStackOf200Plies(b *testing.B) {
	var angles []float64
	for i := range 200 {
		angles = append(angles, float64(i*45%180))
	}
	stack := stackOf(graphiteEpoxy, angles...)
	for b.Loop() {
		s, err := StiffnessOf(stack)
		require.NoError(b, err)
		inverse, err := s.Invert()
		require.NoError(b, err)
		s.Engineering(inverse)
		s.Warp(inverse, -100, 1)
	}
}

func BenchmarkZonesOf60Plies(b *testing.B) {
	var plies []PlacedPly
	for i := range 60 {
		var ring geom.Ring
		for k := range 60 {
			s, c := math.Sincos(2 * math.Pi * float64(k) / 60)
			r := 0.3 - 0.004*float64(i%20)
			ring = append(ring, geom.Point{X: r * c, Y: r * s})
		}
		plies = append(plies, PlacedPly{Ply: Ply{Name: fmt.Sprint(i), Lamina: graphiteEpoxy}, Outline: ring})
	}
	for b.Loop() {
		_, err := Zones(plies)
		require.NoError(b, err)
	}
}
