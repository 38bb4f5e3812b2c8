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

// Kaw, 2nd ed., table 2.1, graphite/epoxy.
var graphiteStrength = Strength{XT: 1500e6, XC: 1500e6, YT: 40e6, YC: 246e6, S: 68e6}

// Kaw, 2nd ed., examples 2.13 and 2.19: a 60° lamina under σx = 2S, σy = −3S,
// τxy = 4S carries S = 16.33 MPa by maximum stress and 22.39 MPa by Tsai–Wu
// with F12 after Mises–Hencky (figures from memory).
func TestStrengthOfKawLamina(t *testing.T) {
	stack := stackOf(graphiteEpoxy, 60)
	h := graphiteEpoxy.Thickness
	all, err := Stresses(
		stack,
		map[string]Strength{"m": graphiteStrength},
		Load{N: [3]float64{2e6 * h, -3e6 * h, 4e6 * h}},
	)
	require.NoError(t, err)
	assert.InEpsilon(t, 22.39, all[0].Reserve, 1e-3)
	assert.InEpsilon(t, 16.33, 1/all[0].MaxStress, 1e-3)
	assert.Equal(t, "shear", all[0].Mode)
}

// Kaw, 2nd ed., example 4.3, table 4.2: global stresses at the lower and the
// upper face of each ply of [0/30/−45] under Nx = Ny = 1000 N/m, four figures,
// from memory.
func TestStressesOfKawLaminate(t *testing.T) {
	stack := stackOf(graphiteEpoxy, 0, 30, -45)
	st, err := StiffnessOf(stack)
	require.NoError(t, err)
	inverse, err := st.Invert()
	require.NoError(t, err)
	strain, k := inverse.Response([3]float64{1000, 1000, 0}, [3]float64{})
	z := -st.Thickness / 2
	for i, want := range [][2][3]float64{
		{{3.351e4, 6.188e4, -2.750e4}, {5.577e4, 4.531e4, -1.280e4}},
		{{6.930e4, 7.391e4, 3.381e4}, {1.434e5, 8.102e4, 8.426e4}},
		{{1.235e5, 1.563e5, -1.187e5}, {-2.547e4, -1.840e4, 4.091e4}},
	} {
		for side := range 2 {
			var at [3]float64
			for r := range 3 {
				at[r] = strain[r] + z*k[r]
			}
			local := stack[i].stress(at, 0)
			// Back into the laminate's axes (Jones, eq. 2.79 reversed).
			s, c := math.Sincos(stack[i].Angle)
			got := [3]float64{
				c*c*local[0] + s*s*local[1] - 2*s*c*local[2],
				s*s*local[0] + c*c*local[1] + 2*s*c*local[2],
				s*c*(local[0]-local[1]) + (c*c-s*s)*local[2],
			}
			for r := range 3 {
				assert.InEpsilon(t, want[side][r], got[r], 3e-3, "ply %d side %d component %d", i+1, side, r)
			}
			if side == 0 {
				z += stack[i].Lamina.Thickness
			}
		}
	}
}

// Stresses of all plies add up to the forces and moments that made them.
func TestPlyStressesBalanceTheLoad(t *testing.T) {
	rapid.Check(t, func(rt *rapid.T) {
		stack := randomStack(rt)
		for i := range stack {
			stack[i].Material = "m"
		}
		load := Load{
			N: [3]float64{
				rapid.Float64Range(1e3, 1e5).Draw(rt, "Nx"),
				3e4,
				rapid.Float64Range(-1e4, 1e4).Draw(rt, "Nxy"),
			},
			DeltaT: rapid.Float64Range(-150, 0).Draw(rt, "dT"),
		}
		st, err := StiffnessOf(stack)
		require.NoError(rt, err)
		inverse, err := st.Invert()
		require.NoError(rt, err)
		var n [3]float64
		for i := range 3 {
			n[i] = load.N[i] + st.NT[i]*load.DeltaT
		}
		strain, k := inverse.Response(n, scaled(st.MT, load.DeltaT))
		var sum [3]float64
		z := -st.Thickness / 2
		for _, p := range stack {
			mid := z + p.Lamina.Thickness/2
			var at [3]float64
			for r := range 3 {
				at[r] = strain[r] + mid*k[r]
			}
			local := p.stress(at, load.DeltaT)
			s, c := math.Sincos(p.Angle)
			sum[0] += p.Lamina.Thickness * (c*c*local[0] + s*s*local[1] - 2*s*c*local[2])
			sum[2] += p.Lamina.Thickness * (s*c*(local[0]-local[1]) + (c*c-s*s)*local[2])
			z += p.Lamina.Thickness
		}
		assert.InDelta(rt, load.N[0], sum[0], 1e-3)
		assert.InDelta(rt, load.N[2], sum[2], 1e-3)
		// The reserve is what it says: the load times it puts the index to one.
		first, err := Stresses(stack, map[string]Strength{"m": graphiteStrength}, load)
		require.NoError(rt, err)
		ply, ok := FirstPly(first)
		require.True(rt, ok)
		if ply.Reserve == 0 || math.IsInf(ply.Reserve, 1) {
			return
		}
		at := Load{N: scaled(load.N, ply.Reserve), DeltaT: load.DeltaT}
		again, err := Stresses(stack, map[string]Strength{"m": graphiteStrength}, at)
		require.NoError(rt, err)
		worst := 0.0
		for _, p := range again {
			worst = max(worst, p.TsaiWu)
		}
		assert.InDelta(rt, 1, worst, 1e-6)
	})
}

// Tsai & Hahn, Introduction to Composite Materials (1980), T300/5208: the
// invariants U1, U4, U5 of table 3.1 are 76.37, 22.61 and 26.88 GPa, and a
// quasi-isotropic laminate has E = 69.68 GPa, G = 26.88 GPa, ν = 0.296
// (figures from memory; E and ν also follow from U1 and U4).
func TestQuasiIsotropicOfTsaiAndHahn(t *testing.T) {
	for _, angles := range [][]float64{{0, 60, -60, -60, 60, 0}, {0, 45, -45, 90, 90, -45, 45, 0}} {
		st, err := StiffnessOf(stackOf(graphiteEpoxy, angles...))
		require.NoError(t, err)
		inverse, err := st.Invert()
		require.NoError(t, err)
		k := st.Engineering(inverse)
		assert.InEpsilon(t, 76.37e9, st.A[0][0]/st.Thickness, 1e-3)
		assert.InEpsilon(t, 22.61e9, st.A[0][1]/st.Thickness, 1e-3)
		assert.InEpsilon(t, 26.88e9, st.A[2][2]/st.Thickness, 1e-3)
		assert.InEpsilon(t, 69.68e9, k.Ex, 1e-3)
		assert.InEpsilon(t, 69.68e9, k.Ey, 1e-3)
		assert.InEpsilon(t, 26.88e9, k.Gxy, 1e-3)
		assert.InEpsilon(t, 0.296, k.Nuxy, 2e-3)
		assert.InEpsilon(t, k.Alphax, k.Alphay, 1e-9, "expands alike in all directions")
	}
}

// Two weaves laid face to face have no B of their own; both warp faces up they
// warp into a saddle, the other way round when both are flipped.
func TestAFaceThatLeansWarps(t *testing.T) {
	twill := Lamina{
		E1:              58e9,
		E2:              58e9,
		Nu12:            0.05,
		G12:             4e9,
		Alpha1:          3e-6,
		Alpha2:          3e-6,
		Thickness:       0.2e-3,
		AsymmetricWeave: true,
		FaceShift:       0.1,
	}
	stack := func(faces ...bool) Stiffness {
		var s []Ply
		for _, up := range faces {
			s = append(s, Ply{Name: "t", Lamina: twill, FaceUp: up})
		}
		st, err := StiffnessOf(s)
		require.NoError(t, err)
		return st
	}
	even, up, down, one := stack(true, false), stack(true, true), stack(false, false), stack(true)
	q, h := twill.Reduced()[0][0], twill.Thickness
	// By hand: half a thickness with ±s Q makes s Q t²/4 a ply.
	assert.InEpsilon(t, 0.1*q*h*h/4, one.B[0][0], 1e-9)
	assert.InEpsilon(t, -0.1*q*h*h/4, one.B[1][1], 1e-9)
	assert.InDelta(t, 0, even.B[0][0], 1e-9*even.A[0][0]*h)
	assert.InEpsilon(t, 2*one.B[0][0], up.B[0][0], 1e-9)
	assert.InEpsilon(t, -up.B[0][0], down.B[0][0], 1e-9)
	assert.InEpsilon(t, 2*one.A[0][0], up.A[0][0], 1e-12, "A is that of the even ply")
	inverse, err := up.Invert()
	require.NoError(t, err)
	w := up.Warp(inverse, -100, 1)
	assert.Greater(t, w.Bow, 1e-5)
	assert.InEpsilon(t, -w.Curvature[0], w.Curvature[1], 1e-9, "a saddle")
}

// A strip of a sandwich: S = G d²/c, and the deflection from shear over that
// from bending is 48 D/(5 S L²).
func TestShearOfASandwich(t *testing.T) {
	core := Lamina{Thickness: 10e-3, G13: 30e6, G23: 18e6}
	skin := graphiteEpoxy
	skin.Thickness = 0.5e-3
	stack := []Ply{{Name: "1", Lamina: skin}, {Name: "K", Kind: KindCore, Lamina: core}, {Name: "2", Lamina: skin}}
	st, err := StiffnessOf(stack)
	require.NoError(t, err)
	inverse, err := st.Invert()
	require.NoError(t, err)
	w, ok := SandwichOf(stack, st, inverse, 0.5)
	require.True(t, ok)
	d := 10.5e-3
	assert.InEpsilon(t, 30e6*d*d/10e-3, w.Shearx, 1e-12)
	assert.InEpsilon(t, 18e6*d*d/10e-3, w.Sheary, 1e-12)
	bends := 1 / inverse[3][3]
	assert.InEpsilon(t, (0.5*0.5/8/w.Shearx)/(5*math.Pow(0.5, 4)/384/bends), w.Deflects, 1e-12)
	_, ok = SandwichOf(stack[:2], st, inverse, 0.5)
	assert.False(t, ok, "a core with one skin")
	_, err = StiffnessOf(stack[1:2])
	assert.ErrorContains(t, err, "nothing in the stack is stiff")
}

// A square foot of one light ply a side on 4 mm aramid honeycomb without film
// adhesive weighs about 80 g (common practice, no source): 193 g/m² of fibre
// with 45 % resin, core of 48 kg/m³.
func TestALightPanelWeighsWhatTheTradeSays(t *testing.T) {
	foot := geom.Rect(0.3048, 0.3048)
	ply := Lamina{ArealMass: 0.193 / 0.55, ResinShare: 0.45, Thickness: 0.2e-3}
	layers := []PlacedPly{
		{Ply: Ply{Lamina: ply}, Outline: foot},
		{Ply: Ply{Kind: KindCore, Lamina: Lamina{ArealMass: 48 * 4e-3, Thickness: 4e-3}}, Outline: foot},
		{Ply: Ply{Lamina: ply}, Outline: foot},
	}
	w, err := MassOf(layers, nil, 0, nil)
	require.NoError(t, err)
	assert.InDelta(t, 0.080, w.Laid, 0.008)
	// With an insert of 12 g in one corner, a tenth of the resin bled and the
	// rim of 5 mm trimmed off, by hand.
	w, err = MassOf(
		layers,
		[]PointMass{{0.012, geom.Point{X: 0.3, Y: 0.3}}},
		0.1,
		geom.Rect(0.2948, 0.2948).Move(0.005, 0.005),
	)
	require.NoError(t, err)
	a := 0.3048 * 0.3048
	assert.InDelta(t, 2*ply.ArealMass*0.45*a, w.Resin, 1e-12)
	assert.InDelta(t, w.Laid-0.1*w.Resin, w.Cured, 1e-12)
	assert.InDelta(t, 0.012+(w.Cured-0.012)*0.2948*0.2948/a, w.Trimmed, 1e-8)
	assert.InDelta(t, ((w.Laid-0.012)*0.1524+0.012*0.3)/w.Laid, w.Centre.X, 1e-9)
}

func TestASweepOfTolerances(t *testing.T) {
	flat := stackOf(graphiteEpoxy, 0, 45, -45, 90, 90, -45, 45, 0)
	for i := range flat {
		flat[i].Lamina.Thickness = 0.15e-3
	}
	none, err := BowRange(flat, 0, -100, 1, 1)
	require.NoError(t, err)
	assert.Zero(t, none.Worst, "nothing is off")
	two, err := BowRange(flat, unit.Rad(2), -100, 1, 1)
	require.NoError(t, err)
	four, err := BowRange(flat, unit.Rad(4), -100, 1, 1)
	require.NoError(t, err)
	assert.Greater(t, two.Low, 0.0)
	assert.True(t, two.Low < two.Middle && two.Middle < two.High && two.High <= two.Worst)
	assert.InEpsilon(t, 2*two.Middle, four.Middle, 0.1, "small angles: in proportion")
	again, err := BowRange(flat, unit.Rad(2), -100, 1, 1)
	require.NoError(t, err)
	assert.Equal(t, two, again)
}

func TestRulesOfNeighboursAndCores(t *testing.T) {
	fibre, rich := graphiteEpoxy, graphiteEpoxy
	fibre.ResinShare, rich.ResinShare = 0.35, 0.45
	core := Ply{Name: "K", Kind: KindCore, Material: "core", Lamina: Lamina{Thickness: 4e-3}}
	film := Ply{Name: "F", Kind: KindFilm, Material: "film", Lamina: Lamina{Thickness: 0.2e-3}}
	ply := func(name string, l Lamina, deg float64) Ply {
		return Ply{Name: name, Material: "m", Lamina: l, Angle: unit.Rad(deg)}
	}
	for name, c := range map[string]struct {
		stack []Ply
		rules Rules
		says  []string
	}{
		"large step": {[]Ply{
			ply("1", fibre, 0), ply("2", fibre, 90),
		}, Rules{MaxStep: unit.Rad(60)}, []string{"90° between plies 1 and 2, at most 60°"}},
		"step over the fold": {[]Ply{ply("1", fibre, 80), ply("2", fibre, -80)}, Rules{MaxStep: unit.Rad(30)}, nil},
		"film is no neighbour": {[]Ply{ply("1", fibre, 0), film, ply("2", fibre, 90)}, Rules{MaxStep: unit.Rad(60)},
			nil},
		"outer at 0": {[]Ply{
			ply("1", fibre, 0), ply("2", fibre, 0), ply("3", fibre, 45),
		}, Rules{Outer45: true}, []string{"ply 1 lies outermost and not at ±45°"}},
		"dry core": {[]Ply{
			ply("1", fibre, 0), core, film, ply("2", fibre, 0),
		}, Rules{CoreResin: 0.42}, []string{"core K has no bond on its tool side: ply 1 has 35 % resin"}},
		"rich enough": {[]Ply{ply("1", rich, 0), core, ply("2", rich, 0)}, Rules{CoreResin: 0.42}, nil},
		"bare core": {[]Ply{
			ply("1", rich, 0), core,
		}, Rules{CoreResin: 0.42}, []string{"no skin on its bag side"}},
		"sandwich is symmetric": {[]Ply{ply("1", rich, 30), core, ply("2", rich, 30)}, Rules{Symmetry: true}, nil},
	} {
		found := Inspect(c.stack, c.rules)
		require.Len(t, found, len(c.says), name)
		for i, says := range c.says {
			assert.Contains(t, found[i].Message, says, name)
			assert.NotEmpty(t, found[i].Plies, name)
		}
	}
}

func TestDropsKeepTheirDistance(t *testing.T) {
	thin := graphiteEpoxy
	thin.Thickness = 0.15e-3
	at := func(n int, r geom.Ring) PlacedPly {
		return PlacedPly{Ply: Ply{Name: fmt.Sprint(n), Material: "m", Lamina: thin}, Outline: r}
	}
	full, pad := geom.Rect(0.4, 0.3), geom.Rect(0.1, 0.1).Move(0.15, 0.1)
	close := geom.Rect(0.098, 0.098).Move(0.151, 0.101) // 1 mm inside the pad
	apart := geom.Rect(0.09, 0.09).Move(0.155, 0.105)   // 5 mm
	rules := Rules{DropSlope: 20, MaxDrop: 3}           // 20 · 0.15 mm = 3 mm
	assert.Empty(t, Drops([]PlacedPly{at(1, full), at(2, pad), at(3, apart), at(4, full)}, rules))
	found := Drops([]PlacedPly{at(1, full), at(2, pad), at(3, close), at(4, full)}, rules)
	require.Len(t, found, 1)
	assert.Equal(t, "plies 2 and 3 end 1.0 mm apart, at least 3.0 mm", unit.InMetric(found[0].Message))
	found = Drops([]PlacedPly{at(1, full), at(2, pad), at(3, pad), at(4, pad), at(5, pad), at(6, full)}, rules)
	require.Len(t, found, 1)
	assert.Contains(t, found[0].Message, "4 plies end at one line, at most 3")
	// A pad that reaches the part's edge does not end there.
	edge := geom.Rect(0.1, 0.1)
	assert.Empty(t, Drops([]PlacedPly{at(1, full), at(2, edge)}, rules))
}
