package cure

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"gonum.org/v1/gonum/integrate/quad"
	"pgregory.net/rapid"

	"juxta/core/unit"
)

// twoRanges is the law in two ranges of Lee, Loos & Springer, Journal of Composite Materials 16 (1982) 510, as Loos &
// Springer, Journal of Composite Materials 17 (1983) 135 give its figures for an epoxy of 177 °C; from memory, per
// minute turned into per second:
//
//	dα/dt = (k1 + k2 α)(1-α)(0.47-α)  to α = 0.3, then  k3 (1-α)
var twoRanges = Kinetics{Terms: []Term{
	{A: 2.101e9 / 60, E: 8.07e4, N: 1, B: 0.47, P: 1, To: 0.3},
	{A: -2.014e9 / 60, E: 7.78e4, M: 1, N: 1, B: 0.47, P: 1, To: 0.3},
	{A: 1.960e5 / 60, E: 5.66e4, N: 1, From: 0.3},
}}

// slowed is the law with diffusion of Hubert, Johnston, Poursartip & Nelson, 46th International SAMPE Symposium
// (2001), for an epoxy of 177 °C; figures from memory.
var slowed = Kinetics{
	Terms:     []Term{{A: 1.53e5, E: 6.65e4, M: 0.813, N: 2.74}},
	Diffusion: Diffusion{C: 43.1, Alpha0: -1.684, AlphaT: 5.475e-3},
}

// bySecondMethod integrates a law at a temperature that changes in a straight line by the method of Bulirsch and
// Stoer's kind: the midpoint rule extrapolated to steps of no length, in many pieces. It shares nothing with
// [Kinetics.Integrate] but the law as a function, which is written out again by the caller.
func bySecondMethod(
	rate func(alpha, temperature float64) float64,
	alpha, from, slope, span float64,
	pieces int,
) float64 {
	h := span / float64(pieces)
	for piece := range pieces {
		t0 := float64(piece) * h
		f := func(a, t float64) float64 { return rate(a, from+slope*t) }
		var table [4][4]float64
		for k, n := range []int{2, 4, 8, 16} {
			d := h / float64(n)
			before, at := alpha, alpha+d*f(alpha, t0)
			for m := 1; m < n; m++ {
				before, at = at, before+2*d*f(at, t0+float64(m)*d)
			}
			table[k][0] = (at + before + d*f(at, t0+h)) / 2
			for j := 1; j <= k; j++ {
				r := math.Pow(4, float64(j))
				table[k][j] = table[k][j-1] + (table[k][j-1]-table[k-1][j-1])/(r-1)
			}
		}
		alpha = table[3][3]
	}
	return alpha
}

// Both published laws, each written out once more, at one temperature and on a ramp.
func TestPublishedLawsByASecondMethod(t *testing.T) {
	arrhenius := func(a, e, t float64) float64 { return a * math.Exp(-e/(8.31446261815324*t)) }
	two := func(a, t float64) float64 {
		if a < 0.3 {
			return (arrhenius(2.101e9, 8.07e4, t) - arrhenius(2.014e9, 7.78e4, t)*a) * (1 - a) * (0.47 - a) / 60
		}
		return arrhenius(1.960e5, 5.66e4, t) * (1 - a) / 60
	}
	slow := func(a, t float64) float64 {
		return arrhenius(1.53e5, 6.65e4, t) * math.Pow(a, 0.813) * math.Pow(1-a, 2.74) /
			(1 + math.Exp(43.1*(a-(-1.684+5.475e-3*t))))
	}
	for _, c := range []struct {
		name             string
		law              Kinetics
		again            func(a, t float64) float64
		alpha0, from, to float64
		span             float64
		within           float64
	}{
		{"two ranges at 177 °C", twoRanges, two, 0, 450.15, 450.15, 3600, 2e-5},
		{"two ranges, 2 K/min", twoRanges, two, 0, 300, 450, 4500, 2e-5},
		{"slowed at 180 °C", slowed, slow, 0.01, 453.15, 453.15, 7200, 1e-7},
		{"slowed at 120 °C", slowed, slow, 0.01, 393.15, 393.15, 36000, 1e-7},
		{"slowed, 2 K/min", slowed, slow, 0.01, 300, 450, 4500, 1e-7},
	} {
		slope := (c.to - c.from) / c.span
		want := bySecondMethod(c.again, c.alpha0, c.from, slope, c.span, 20_000)
		var h []Point
		for i := range 61 {
			s := c.span * float64(i) / 60
			h = append(h, Point{s, c.from + slope*s})
		}
		got, err := c.law.Integrate(c.alpha0, h)
		require.NoError(t, err, c.name)
		assert.InDelta(t, want, got[60], c.within, c.name) // where the law jumps, a step's worth
		assert.Greater(t, got[60], 0.15, c.name)
	}
}

// What the papers say of their laws: at 177 °C two hours cure the first all but whole; the second stops where its
// denominator grows, near αT T + α0, and goes no further at 120 °C in ten hours.
func TestPublishedLawsEndWhereTheirPapersSay(t *testing.T) {
	a, err := twoRanges.Integrate(0, isothermal(450.15, 7200, 10))
	require.NoError(t, err)
	assert.Greater(t, a[10], 0.98)
	a, err = slowed.Integrate(0.01, isothermal(393.15, 36000, 10))
	require.NoError(t, err)
	limit := -1.684 + 5.475e-3*393.15
	assert.InDelta(t, limit, a[10], 0.08)
	assert.Less(t, a[10], 0.55)
}

// The slopes of every law against differences.
func TestTheSlopesOfALaw(t *testing.T) {
	for name, k := range map[string]Kinetics{"two ranges": twoRanges, "slowed": slowed, "n-th": kinetics} {
		for _, a := range []float64{0.05, 0.2, 0.45, 0.8} {
			for _, temp := range []float64{350.0, 400, 450} {
				r, byA, byT := k.Slopes(a, temp)
				assert.InEpsilon(t, k.Rate(a, temp), r, 1e-12, name)
				const d = 1e-6
				scale := math.Max(math.Abs(byA), r)
				assert.InDelta(
					t,
					(k.Rate(a+d, temp)-k.Rate(a-d, temp))/(2*d),
					byA,
					1e-5*scale,
					"%s at %g, %g",
					name,
					a,
					temp,
				)
				assert.InDelta(
					t,
					(k.Rate(a, temp+d*100)-k.Rate(a, temp-d*100))/(2*d*100),
					byT,
					1e-5*r,
					"%s at %g, %g",
					name,
					a,
					temp,
				)
			}
		}
	}
}

// An autocatalytic law never starts from nothing, and says so.
func TestALawThatNeverStartsSaysSo(t *testing.T) {
	_, err := slowed.Integrate(0, isothermal(450, 3600, 2))
	assert.ErrorContains(t, err, "never starts from a degree of cure of 0")
	_, err = Kinetics{Terms: []Term{{A: 1e5, E: 6e4, N: 1, From: 0.3}}}.Integrate(0.1, isothermal(450, 3600, 2))
	assert.ErrorContains(t, err, "never starts")
	assert.NoError(t, Kinetics{Terms: []Term{{A: 1e5, E: 6e4, N: 1}}}.Starts(0))
}

// Hotter never cures slower within the range that a law is for.
func TestHotterNeverCuresSlower(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		law := rapid.SampledFrom([]Kinetics{twoRanges, slowed, kinetics}).Draw(t, "law")
		// The law in two ranges has a constant below zero, which wins above some 210 °C.
		cold := rapid.Float64Range(330, 450).Draw(t, "T")
		hot := rapid.Float64Range(cold, 453).Draw(t, "hotter")
		span := rapid.Float64Range(60, 20000).Draw(t, "s")
		a, err := law.Integrate(0.01, isothermal(cold, span, 1))
		require.NoError(t, err)
		b, err := law.Integrate(0.01, isothermal(hot, span, 1))
		require.NoError(t, err)
		if b[1] < a[1]-1e-6 {
			t.Fatalf("%g at %g K, %g at %g K", a[1], cold, b[1], hot)
		}
	})
}

// First order: t = -ln(1-α)/k. Second: t = (1/(1-α) - 1)/k. And the integral of dα/rate by Gauss and Legendre's
// quadrature for the published one.
func TestGelTimeAgainstClosedForms(t *testing.T) {
	const temp = 400.0
	k := 1e5 * math.Exp(-6e4/(unit.GasConstant*temp))
	first := Resin{Kinetics: Kinetics{Terms: []Term{{A: 1e5, E: 6e4, N: 1}}}, ResinFacts: ResinFacts{Gel: 0.6}}
	assert.InEpsilon(t, -math.Log(1-0.6)/k, first.GelTime(temp), 1e-9)
	second := Resin{Kinetics: Kinetics{Terms: []Term{{A: 1e5, E: 6e4, N: 2}}}, ResinFacts: ResinFacts{Gel: 0.6}}
	assert.InEpsilon(t, (1/(1-0.6)-1)/k, second.GelTime(temp), 1e-9)
	published := Resin{Kinetics: slowed, Alpha0: 0.01, Viscosity: &Viscosity{Mu: 1, Gel: 0.47}}
	assert.Equal(t, 0.47, published.Gelled(), "where its viscosity ends")
	want := quad.Fixed(func(a float64) float64 { return 1 / slowed.Rate(a, 430) }, 0.01, 0.47, 200, nil, 0)
	assert.InEpsilon(t, want, published.GelTime(430), 1e-8)
	assert.True(t, math.IsInf(published.GelTime(320), 1), "it turns to glass before it gels")
	assert.Zero(t, Resin{ResinFacts: ResinFacts{Gel: 0.1}, Alpha0: 0.2}.GelTime(400), "it is gelled already")
}

// DiBenedetto: the ends, and λ = 1 is a straight line; half way with λ = 0.5 lies at a third.
func TestGlassTransition(t *testing.T) {
	g := Glass{Raw: 263, Cured: 463, Lambda: 0.5}
	require.NoError(t, g.Check())
	assert.Equal(t, 263.0, g.At(0))
	assert.InDelta(t, 463, g.At(1), 1e-9)
	assert.InDelta(t, 263+200.0/3, g.At(0.5), 1e-9)
	assert.InDelta(t, 363, Glass{Raw: 263, Cured: 463, Lambda: 1}.At(0.5), 1e-9)
	for _, g := range []Glass{{}, {Raw: 300, Cured: 290, Lambda: 0.5}, {Raw: 263, Cured: 463},
		{Raw: 263, Cured: 463, Lambda: 1.1}} {
		assert.Error(t, g.Check())
	}
}

func TestAResinThatCannotBe(t *testing.T) {
	good := Resin{
		Kinetics:   kinetics,
		Alpha0:     0.01,
		ResinFacts: ResinFacts{Gel: 0.5, Heat: 4e5, Coldest: 300, Hottest: 460},
	}
	require.NoError(t, good.Check())
	assert.Contains(t, unit.InMetric(good.Outside(470)), "hotter than 187")
	assert.Contains(t, unit.InMetric(good.Outside(290)), "colder than 27")
	assert.Empty(t, good.Outside(400))
	for says, change := range map[string]func(*Resin){
		"no term":         func(r *Resin) { r.Kinetics = Kinetics{} },
		"start from":      func(r *Resin) { r.Alpha0 = 1 },
		"gelation":        func(r *Resin) { r.Gel = 1.2 },
		"heat of the":     func(r *Resin) { r.Heat = -1 },
		"range":           func(r *Resin) { r.Hottest = 200 },
		"infinite temper": func(r *Resin) { r.Viscosity = &Viscosity{} },
		"glass":           func(r *Resin) { r.Glass = &Glass{} },
	} {
		r := good
		change(&r)
		assert.ErrorContains(t, r.Check(), says)
	}
}
