package material

import (
	"math"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"gonum.org/v1/gonum/integrate/quad"
	"pgregory.net/rapid"

	"juxta/core/unit"
)

// Carslaw & Jaeger, Conduction of Heat in Solids, 2nd ed. 1959, §7.7 (in the
// usual form of heat transfer textbooks): a long solid cylinder, at first at
// one temperature, with convection outside. The share of the temperature step
// still missing on the axis after Fo = at/R² is
//
//	Σ 2 J1(β) / (β (J0(β)² + J1(β)²)) exp(-β² Fo),  β J1(β) = Bi J0(β), Bi = hR/k.
type series struct{ root, share []float64 }

func axis(bi float64) series {
	bisect := func(f func(float64) float64, lo, hi float64) float64 {
		for range 80 {
			if mid := (lo + hi) / 2; (f(lo) <= 0) == (f(mid) <= 0) {
				lo = mid
			} else {
				hi = mid
			}
		}
		return (lo + hi) / 2
	}
	var s series
	for k := range 12 {
		// The k-th root lies between the k-th zeros of J1 and of J0, which
		// lie near (k + 1/4)π and (k + 3/4)π.
		lo := 0.0
		if k > 0 {
			lo = bisect(math.J1, (float64(k)+0.25)*math.Pi-0.2, (float64(k)+0.25)*math.Pi+0.2)
		}
		hi := bisect(math.J0, (float64(k)+0.75)*math.Pi-0.2, (float64(k)+0.75)*math.Pi+0.2)
		b := bisect(func(b float64) float64 { return b*math.J1(b) - bi*math.J0(b) }, lo, hi)
		j0, j1 := math.J0(b), math.J1(b)
		s.root, s.share = append(s.root, b), append(s.share, 2*j1/(b*(j0*j0+j1*j1)))
	}
	return s
}

// missing is the share still missing at Fo, which must not be very small.
func (s series) missing(fo float64) float64 {
	sum := 0.0
	for k, b := range s.root {
		sum += s.share[k] * math.Exp(-b*b*fo)
	}
	return sum
}

func TestSeriesAgainstPrintedFigures(t *testing.T) {
	// First eigenvalue and coefficient for Bi = 1: 1.2558 and 1.2071, the table
	// in Incropera & DeWitt, Fundamentals of Heat and Mass Transfer (from
	// memory). One term rules from Fo = 0.2 on.
	assert.InDelta(t, 1.2071*math.Exp(-1.2558*1.2558*0.8), axis(1).missing(0.8), 2e-4)
	// Bi = 0.1: 0.4417 and 1.0246, the same table.
	assert.InDelta(t, 1.0246*math.Exp(-0.4417*0.4417*2), axis(0.1).missing(2), 2e-4)
}

func TestThawAgainstTheSeriesSolution(t *testing.T) {
	for _, bi := range []float64{0.25, 0.5, 1, 2, 5, 20} { // hR/k; the lumped form takes over below 0.2
		r := 0.12
		exact := axis(bi)
		w := RollGeometry{Outer: r, Conductivity: 0.5, Density: 1500, SpecificHeat: 1100, Film: bi * 0.5 / r}
		for _, missing := range []float64{0.7, 0.4, 0.2, 0.05} {
			got, err := w.Thaw(unit.Kelvin(-18), unit.Kelvin(22), unit.Kelvin(22-40*missing))
			require.NoError(t, err)
			lo, hi := 0.02, 200.0 // Fo of the series
			for range 200 {
				if mid := (lo + hi) / 2; exact.missing(mid) > missing {
					lo = mid
				} else {
					hi = mid
				}
			}
			want := lo * r * r * w.Density * w.SpecificHeat / w.Conductivity
			assert.InEpsilon(t, want, got.Seconds(), 0.01, "Bi %g, %g missing", bi, missing)
			back, err := w.Warmed(got)
			require.NoError(t, err)
			assert.InDelta(t, 1-missing, back, 2e-3, "the other way round")
		}
	}
}

func TestAThinRollIsOneLump(t *testing.T) {
	w := RollGeometry{Core: 0.04, Outer: 0.05, Conductivity: 0.5, Density: 1500, SpecificHeat: 1100, Film: 5}
	require.Less(t, w.Biot(), 0.1)
	tau := 1500 * 1100 * (0.05*0.05 - 0.04*0.04) / (2 * 0.05) / 5
	got, err := w.Thaw(255, 295, 275)
	require.NoError(t, err)
	assert.InEpsilon(t, tau*math.Ln2, got.Seconds(), 1e-4)
}

func TestThawOfARealRoll(t *testing.T) {
	// 62 m of a thin prepreg on a 3-inch tube: shops wait a few hours, up to
	// four for a full roll to be workable (common practice, no source).
	got, err := Roll(62, 0.00028, 0.34, 0.038).Thaw(unit.Kelvin(-18), unit.Kelvin(21), unit.Kelvin(10))
	require.NoError(t, err)
	assert.Greater(t, got, time.Hour)
	assert.Less(t, got, 12*time.Hour)
	longer, err := Roll(120, 0.00028, 0.34, 0.038).Thaw(unit.Kelvin(-18), unit.Kelvin(21), unit.Kelvin(10))
	require.NoError(t, err)
	assert.Greater(t, longer, got, "a thicker roll takes longer")
	already, err := Roll(62, 0.00028, 0.34, 0.038).Thaw(unit.Kelvin(12), unit.Kelvin(21), unit.Kelvin(10))
	require.NoError(t, err)
	assert.Zero(t, already)
	_, err = Roll(62, 0.00028, 0.34, 0.038).Thaw(unit.Kelvin(-18), unit.Kelvin(21), unit.Kelvin(21))
	assert.ErrorContains(t, err, "no warmer")
	_, err = Roll(0, 0.00028, 0.34, 0.038).Thaw(255, 295, 290)
	assert.ErrorContains(t, err, "some thickness")
}

// Alduchov & Eskridge 1996, Improved Magnus form approximation of saturation
// vapor pressure, J. Appl. Meteor. 35, 601–609.
func TestDewPoint(t *testing.T) {
	for _, c := range []struct{ air, rh, dew float64 }{
		{20, 0.50, 9.3}, // the figure in every psychrometric table
		{25, 0.60, 16.7},
		{30, 0.80, 26.2},
		{22, 1, 22},
	} {
		got, err := DewPoint(unit.Kelvin(c.air), c.rh)
		require.NoError(t, err)
		assert.InDelta(t, c.dew, unit.Celsius(got), 0.05, "%g °C, %g", c.air, c.rh)
	}
	for _, bad := range [][2]float64{
		{unit.Kelvin(20), 0}, {unit.Kelvin(20), 1.01}, {unit.Kelvin(80), 0.5}, {math.NaN(), 0.5},
		{unit.Kelvin(20), math.NaN()},
	} {
		_, err := DewPoint(bad[0], bad[1])
		assert.Error(t, err)
	}
	rapid.Check(t, func(t *rapid.T) {
		air, rh := rapid.Float64Range(-20, 40).Draw(t, "air"), rapid.Float64Range(0.05, 1).Draw(t, "rh")
		dew, err := DewPoint(unit.Kelvin(air), rh)
		require.NoError(t, err)
		assert.LessOrEqual(t, unit.Celsius(dew), air+1e-9, "never above the air")
	})
}

func TestEquivalentAgeing(t *testing.T) {
	const e, ref = 70e3, 293.15
	assert.InDelta(
		t,
		3600,
		Equivalent([]Reading{{0, ref}, {1800, ref}, {3600, ref}}, e, ref),
		1e-9,
		"at the reference an hour is an hour",
	)
	warm := math.Exp(-e / unit.GasConstant * (1/303.15 - 1/ref))
	assert.InEpsilon(t, 3600*warm, Equivalent([]Reading{{0, 303.15}, {3600, 303.15}}, e, ref), 1e-12)
	// A ramp, against Gauss–Legendre quadrature.
	ramp := []Reading{{0, 255}, {7200, 296}}
	want := quad.Fixed(func(s float64) float64 {
		return math.Exp(-e / unit.GasConstant * (1/(255+41*s/7200) - 1/ref))
	}, 0, 7200, 40, nil, 0)
	assert.InEpsilon(t, want, Equivalent(ramp, e, ref), 1e-6)
	assert.Zero(t, Equivalent(nil, e, ref))
	rapid.Check(t, func(t *rapid.T) { // sum of parts
		mid := rapid.Float64Range(1, 7199).Draw(t, "mid")
		at := 255 + 41*mid/7200
		parts := Equivalent(
			[]Reading{{0, 255}, {mid, at}},
			e,
			ref,
		) + Equivalent(
			[]Reading{{mid, at}, {7200, 296}},
			e,
			ref,
		)
		assert.InEpsilon(t, want, parts, 1e-5)
	})
}

// 21 °C and 50 % have their dew point at 10.2 °C (Lawrence 2005, Bull. Amer.
// Meteor. Soc. 86, table 1 gives 10.2 °C by the same formula; from memory).
func TestABagStaysShutBelowTheDewPoint(t *testing.T) {
	v := func(x float64) *float64 { return &x }
	bag := Bag{Roll: "R-1", Room: v(294.15), Humidity: v(0.5), Coldest: v(283)}
	says, dew, err := bag.Refusal()
	require.NoError(t, err)
	assert.InDelta(t, 273.15+10.2, *dew, 0.1)
	assert.Equal(
		t,
		"R-1 is at 9.9 °C inside and the dew point of the room is 10.2 °C: water would condense on it",
		unit.InMetric(says),
	)
	bag.Coldest = v(284)
	says, _, err = bag.Refusal()
	require.NoError(t, err)
	assert.Empty(t, says)
	bag.Coldest = nil
	says, dew, err = bag.Refusal()
	require.NoError(t, err)
	assert.NotNil(t, dew)
	assert.Contains(t, says, "measure it at its core tube")
	says, dew, err = Bag{Roll: "R-1", Room: v(294.15)}.Refusal()
	require.NoError(t, err)
	assert.Nil(t, dew)
	assert.Contains(t, says, "enter them from a gauge")
	_, _, err = Bag{Room: v(230), Humidity: v(0.5)}.Refusal()
	require.Error(t, err)
	assert.Equal(t, "the dew point is known for air from -40 °C to 50 °C", unit.InMetric(err.Error()))
}
