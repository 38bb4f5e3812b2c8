package cure

import (
	"math"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"gonum.org/v1/gonum/integrate/quad"
	"pgregory.net/rapid"

	"juxta/core/unit"
)

func isothermal(temperature float64, until float64, steps int) []Point {
	var h []Point
	for i := range steps + 1 {
		h = append(h, Point{until * float64(i) / float64(steps), temperature})
	}
	return h
}

// Closed forms of dα/dt = k αᵐ(1-α)ⁿ at constant temperature: first order, second
// order, and the logistic curve for m = n = 1.
func TestDegreeOfCureAgainstClosedForms(t *testing.T) {
	const temp, until = 400.0, 5400.0
	for name, c := range map[string]struct {
		term   Term
		alpha0 float64
		want   func(kt, a0 float64) float64
	}{
		"first order": {Term{A: 1e5, E: 6e4, M: 0, N: 1}, 0, func(kt,
			a0 float64) float64 {
			return 1 - (1-a0)*math.Exp(-kt)
		}},
		"second order": {Term{A: 3e5, E: 6e4, M: 0, N: 2}, 0.05, func(kt,
			a0 float64) float64 {
			return 1 - 1/(1/(1-a0)+kt)
		}},
		"autocatalytic": {Term{A: 2e5, E: 6e4, M: 1, N: 1}, 0.02, func(kt,
			a0 float64) float64 {
			return 1 / (1 + (1-a0)/a0*math.Exp(-kt))
		}},
	} {
		k := Kinetics{Terms: []Term{c.term}}
		rate := c.term.A * math.Exp(-c.term.E/(unit.GasConstant*temp))
		for _, steps := range []int{3, 540} {
			alpha, err := k.Integrate(c.alpha0, isothermal(temp, until, steps))
			require.NoError(t, err)
			assert.InDelta(t, c.want(rate*until, c.alpha0), alpha[steps], 1e-8, "%s in %d steps", name, steps)
		}
	}
}

// A second method for a ramp: first-order cure is 1 - exp(-∫k dt), the integral
// by Gauss-Legendre quadrature.
func TestDegreeOfCureOnARampAgainstQuadrature(t *testing.T) {
	term := Term{A: 1e5, E: 6e4, M: 0, N: 1}
	var ramp []Point
	for i := range 121 {
		ramp = append(ramp, Point{float64(i) * 60, 293 + float64(i)})
	}
	alpha, err := Kinetics{Terms: []Term{term}}.Integrate(0, ramp)
	require.NoError(t, err)
	integral := quad.Fixed(func(s float64) float64 {
		return term.A * math.Exp(-term.E/(unit.GasConstant*(293+s/60)))
	}, 0, 7200, 60, nil, 0)
	assert.InDelta(t, 1-math.Exp(-integral), alpha[120], 1e-6)
}

func TestCureNeverGoesBackNorPastOne(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		k := Kinetics{
			Terms: []Term{
				{A: rapid.Float64Range(1, 1e7).Draw(t, "A"), E: rapid.Float64Range(3e4, 8e4).Draw(t, "E"), N: 1.3},
				{A: 1e5, E: 5.5e4, M: 0.8, N: 1.7},
			},
		}
		var h []Point
		for i := range 30 {
			h = append(h, Point{float64(i) * 120, rapid.Float64Range(280, 480).Draw(t, "T")})
		}
		alpha, err := k.Integrate(0.01, h)
		require.NoError(t, err)
		last := 0.01
		for _, a := range alpha {
			require.GreaterOrEqual(t, a, last)
			require.LessOrEqual(t, a, 1.0)
			last = a
		}
	})
}

var oven = Recipe{Name: "121", Start: 295, Tolerance: 5, Segments: []Segment{
	{Target: 353, Rate: 2.0 / 60, Hold: 1800, WaitPart: 350},
	{Target: 394, Rate: 2.0 / 60, Hold: 3600, WaitPart: 391},
	{Target: 323, Rate: 3.0 / 60},
}}

func TestControllerTakesAsLongAsTheRecipeSays(t *testing.T) {
	// Ramps (353-295) and (394-353) at 2 K/min, (394-323) at 3 K/min, two holds.
	want := (58+41)*30.0 + 71*20 + 1800 + 3600
	for _, dt := range []float64{1, 7, 600, 20000} {
		c, elapsed := Begin(oven), 0.0
		for !c.Done {
			c = c.Step(oven, PartState{Lag: 1000, Lead: 1000}, dt)
			elapsed += dt
		}
		assert.InDelta(t, want, elapsed, dt, "in steps of %g s", dt)
		assert.Equal(t, 323.0, c.SetPoint)
	}
}

func TestHoldWaitsForTheLaggingSensor(t *testing.T) {
	c := Begin(oven)
	for range 5 {
		c = c.Step(oven, PartState{Lag: 300, Lead: 310}, 3600)
		assert.True(t, c.Waiting)
		assert.Equal(t, 353.0, c.SetPoint)
	}
	c = c.Step(oven, PartState{Lag: 350, Lead: 360}, 100)
	assert.False(t, c.Waiting)
	assert.Equal(t, 100.0, c.Held)
	c = c.Step(oven, PartState{Lag: 340, Lead: 350}, 100)
	assert.Equal(t, 200.0, c.Held, "a hold that has begun goes on; the judgement sees the dip")
}

// What leads while it heats is the first to be cold again: below is asked of the hottest sensor, above of the
// coldest, and one that is blind ends no wait that it may be the hottest of.
func TestTheHottestIsAskedWhetherAllHasCooled(t *testing.T) {
	r := Recipe{Name: "cool", Start: 400, Tolerance: 5, Segments: []Segment{
		{Target: 300, Rate: 1, WaitCool: 333}, {Target: 340, Rate: 1, WaitPart: 338, Hold: 60},
	}}
	c := Begin(r)
	for _, part := range []PartState{
		{Lag: 339, Lead: 330}, {Lag: 330, Lead: 339}, {Lag: math.NaN(), Lead: 330}, {Lag: 330, Lead: math.NaN()},
	} {
		c = c.Step(r, part, 1000)
		require.True(t, c.Waiting && c.Segment == 0, "%+v", part)
	}
	c = c.Step(r, PartState{Lag: 332, Lead: 333}, 1)
	require.Equal(t, 1, c.Segment)
	for _, part := range []PartState{{Lag: 339, Lead: 337}, {Lag: 337, Lead: 339}, {Lag: math.NaN(), Lead: 339}} {
		c = c.Step(r, part, 1000)
		require.True(t, c.Waiting && c.Segment == 1, "%+v", part)
	}
	c = c.Step(r, PartState{Lag: 338, Lead: math.NaN()}, 1000)
	assert.True(t, c.Done, "what lags is the coldest while it heats")
}

// followed is a moment of a part that follows the set point.
type followed struct{ T, SetPoint, Part float64 }

// follow is a recipe run by a part that follows the set point with a time constant, told every dt seconds and where a
// hold begins.
func follow(r Recipe, tau, dt, longest float64) []followed {
	c, part, told := Begin(r), r.Start, math.Inf(-1)
	var out []followed
	for t := 0.0; ; t++ {
		if t >= told+dt || c.Held > 0 && c.Held <= 1 || c.Done {
			out, told = append(out, followed{t, c.SetPoint, part}), t
		}
		if c.Done || t >= longest {
			return out
		}
		part += (c.SetPoint - part) * (1 - math.Exp(-1/tau))
		c = c.Step(r, PartState{Lag: part, Lead: part}, 1)
	}
}

func TestARunIsLongerForASlowerPart(t *testing.T) {
	quick, slow := follow(oven, 60, 30, 1e6), follow(oven, 1200, 30, 1e6)
	assert.Greater(t, slow[len(slow)-1].T, quick[len(quick)-1].T+1000)
	assert.GreaterOrEqual(t, quick[len(quick)-1].T, oven.Least()-1)
	assert.Greater(t, oven.Hottest(), 390.0)
}

// The air leads a part that controls it, by no more than it may, and follows a blind sensor nowhere.
func TestTheAirLeadsWhatControlsIt(t *testing.T) {
	part := PartState{Lag: 350, Lead: 362}
	for control, want := range map[Control]float64{ByAir: 360, ByLagging: 375, ByLeading: 352} {
		r := oven
		r.Control = control
		assert.Equal(t, want, r.Aim(360, part, 15), string(control))
		assert.Equal(t, 360.0, r.Aim(360, PartState{Lag: math.NaN(), Lead: math.NaN()}, 15))
	}
}

// Pressure goes on at its rate, with the part where it is to, and the bag is vented once it holds.
func TestPressureIsRaised(t *testing.T) {
	r := Recipe{Start: 300, Tolerance: 5, Segments: []Segment{
		{
			Target:       400,
			Rate:         1,
			Hold:         3600,
			Pressure:     6e5,
			RampWithPart: true,
			Vacuum:       8e4,
			Vent:         2e5,
		}, {Target: 320, Rate: 1},
	}}
	assert.True(t, r.Pressed())
	assert.False(t, oven.Pressed())
	c, vacuum := Begin(r).Presses(r, 300, 1e4, 10)
	assert.Equal(t, []float64{0, 8e4}, []float64{c.Pressure, vacuum}, "it is as warm as it was")
	c, vacuum = c.Presses(r, 325, 1e4, 100)
	assert.InDelta(t, 1.5e5, c.Pressure, 1e-6, "a quarter of the way")
	assert.Equal(t, 8e4, vacuum)
	c, vacuum = c.Presses(r, 350, 1e4, 5)
	assert.InDelta(t, 2e5, c.Pressure, 1e-6, "no faster than it can")
	assert.Zero(t, vacuum, "the bag is vented")
	c, _ = c.Presses(r, math.NaN(), 1e4, 100)
	assert.InDelta(t, 6e5, c.Pressure, 1e-6, "a sensor that nobody reads holds nothing up")
	c.Segment = 1
	c, _ = c.Presses(r, 390, 1e4, 1000)
	assert.Zero(t, c.Pressure)
	assert.True(t, c.Vented)
}

func TestRecipeNamesTheBadSegment(t *testing.T) {
	for says, s := range map[string]Segment{
		"segment 2: a target of 727": {Target: 1000, Rate: 1},
		"segment 2: the ramp":        {Target: 350},
		"segment 2: the hold":        {Target: 350, Rate: 1, Hold: -1},
		"segment 2: a dwell at 12":   {Target: 285, Rate: 1, Hold: 60},
		"segment 2: the part":        {Target: 350, Rate: 1, WaitPart: 360},
		"segment 2: no equipment":    {Target: 350, Rate: 2},
		"segment 2: it waits":        {Target: 350, Rate: 1, WaitCool: 350},
		"segment 2: a degree":        {Target: 350, Rate: 1, WaitCure: 1},
		"segment 2: a viscosity":     {Target: 350, Rate: 1, WaitThin: -1},
		"segment 2: a pressure of 5": {Target: 350, Rate: 1, Pressure: 500e5},
		"segment 2: a vacuum":        {Target: 350, Rate: 1, Vacuum: 200e3},
		"segment 2: the bag cannot":  {Target: 350, Rate: 1, Pressure: 1e5, Vent: 2e5},
	} {
		r := oven
		r.Segments = []Segment{oven.Segments[0], s}
		err := r.Check()
		require.Error(t, err, says)
		assert.Contains(t, unit.InMetric(err.Error()), says)
	}
	assert.ErrorContains(t, Recipe{}.Check(), "has no segment")
	cold := oven
	cold.Tolerance = 0
	assert.ErrorContains(t, cold.Check(), "a tolerance above zero")
	led := oven
	led.Control = "the cook"
	assert.ErrorContains(t, led.Check(), "controlled by the air")
}

var (
	limits   = Limits{SoakBelow: 4, MaxPart: 403, MaxRamp: 3.0 / 60, MinVacuum: 80e3, MinCure: 0.9, MaxGap: 120}
	kinetics = Kinetics{Terms: []Term{{A: 2e6, E: 7e4, M: 0, N: 1.2}}}
)

// goodRun is a log that meets every limit.
func goodRun() []Sample {
	var log []Sample
	for _, p := range follow(oven, 240, 30, 1e6) {
		log = append(
			log,
			Sample{
				T:        p.T,
				SetPoint: p.SetPoint,
				Air:      p.SetPoint,
				Tool:     p.Part,
				Lead:     p.Part + 1,
				Lag:      p.Part,
				Vacuum:   92e3,
			},
		)
	}
	return log
}

func TestARunIsJudgedByEachLimit(t *testing.T) {
	v, err := Judge(goodRun(), oven, limits, kinetics, 0.02)
	require.NoError(t, err)
	assert.True(t, v.Met, "%+v", v.Checks)
	assert.Empty(t, v.Notes)
	for what, spoil := range map[string]func([]Sample){
		"hold 2 at 117 °C or above by the lagging sensor": func(log []Sample) {
			for i := range log {
				log[i].Lag = math.Min(log[i].Lag, 388)
			}
		},
		"hottest reading of the leading sensor": func(log []Sample) {
			for i := 200; i < 210; i++ {
				log[i].Lead = 405
			}
		},
		"least vacuum": func(log []Sample) { log[100].Vacuum = 70e3 },
		"steepest heating of the part over 5 min": func(log []Sample) {
			for i := range log {
				log[i].Lead = 295 + math.Min(float64(i)*2.1, 90)
			}
		},
		"degree of cure by the lagging sensor": func(log []Sample) {
			for i := range log {
				log[i].Lag = math.Min(log[i].Lag, 330)
			}
		},
		"longest silence of a sensor": func(log []Sample) {
			for i := 50; i < 60; i++ {
				log[i].Lag = math.NaN()
			}
		},
	} {
		log := goodRun()
		spoil(log)
		v, err := Judge(log, oven, limits, kinetics, 0.02)
		require.NoError(t, err, what)
		assert.False(t, v.Met, what)
		failed := ""
		for _, c := range v.Checks {
			if !c.Met && unit.InMetric(c.What) == what {
				failed = unit.InMetric(c.What)
			}
		}
		assert.Equal(t, what, failed)
	}
}

func TestASpikeAndADeadSensorAreSaid(t *testing.T) {
	log := goodRun()
	log[150].Lead = 800
	v, err := Judge(log, oven, limits, kinetics, 0.02)
	require.NoError(t, err)
	assert.True(t, v.Met)
	assert.Contains(t, v.Notes[0], "1 of")
	for i := range log {
		log[i].Lag = math.NaN()
	}
	_, err = Judge(log, oven, limits, kinetics, 0.02)
	assert.ErrorContains(t, err, "cannot be judged")
}

func TestASilentGaugeMeetsNothing(t *testing.T) {
	log := goodRun()
	for i := range log {
		log[i].Vacuum = math.NaN()
	}
	v, err := Judge(log, oven, limits, kinetics, 0.02)
	require.NoError(t, err)
	assert.False(t, v.Met)
	for _, c := range v.Checks {
		assert.False(t, math.IsInf(c.Found, 0) || math.IsNaN(c.Found), c.What)
		assert.Equal(t, c.What != "least vacuum" && c.What != silenceCheck, c.Met, c.What)
	}
}

// A limit moved past what was found turns its verdict and no other.
func TestEachLimitTurnsItsOwnVerdict(t *testing.T) {
	v, err := Judge(goodRun(), oven, limits, kinetics, 0.02)
	require.NoError(t, err)
	found := map[string]float64{}
	for _, c := range v.Checks {
		found[c.What] = c.Found
	}
	for what, move := range map[string]func(*Limits, float64){
		"hottest reading of the leading sensor":   func(l *Limits, f float64) { l.MaxPart = f - 0.1 },
		"steepest heating of the part over 5 min": func(l *Limits, f float64) { l.MaxRamp = f * 0.99 },
		"least vacuum":                         func(l *Limits, f float64) { l.MinVacuum = f + 1 },
		"degree of cure by the lagging sensor": func(l *Limits, f float64) { l.MinCure = f + 1e-6 },
	} {
		l := limits
		move(&l, found[what])
		v, err := Judge(goodRun(), oven, l, kinetics, 0.02)
		require.NoError(t, err)
		for _, c := range v.Checks {
			assert.Equal(t, c.What != what, c.Met, "%s, with the limit of %s moved", c.What, what)
		}
	}
}

func TestKineticsThatCannotBeAreNamed(t *testing.T) {
	for _, k := range []Kinetics{
		{},
		{Terms: []Term{{A: 0, E: 1, N: 1}}},
		{Terms: []Term{{A: -1, E: 1, N: 1}}},
		{Terms: []Term{{A: 1, E: -1, N: 1}}},
		{Terms: []Term{{A: 1, E: 1, N: 0}}},
		{Terms: []Term{{A: 1, E: 1, N: 1}, {A: 1, E: 1, M: -1, N: 1}}},
		{Terms: []Term{{A: 1, E: 1, N: 1, B: 1.2, P: 1}}},
		{Terms: []Term{{A: 1, E: 1, N: 1, P: 1}}},
		{Terms: []Term{{A: 1, E: 1, N: 1, From: 0.4, To: 0.3}}},
		{Terms: []Term{{A: math.NaN(), E: 1, N: 1}}},
	} {
		_, err := k.Integrate(0, isothermal(400, 60, 2))
		assert.Error(t, err)
	}
	_, err := kinetics.Integrate(1, isothermal(400, 60, 2))
	assert.ErrorContains(t, err, "from 0 to below 1")
	_, err = kinetics.Integrate(0, []Point{{60, 400}, {0, 400}})
	assert.ErrorContains(t, err, "goes back in time")
}

// Eight hours of log, a sample every 15 s: what ends a run, and what a page
// that follows one asks for.
func BenchmarkJudgeEightHours(b *testing.B) {
	var log []Sample
	for i := range 8 * 240 {
		temp := 293 + math.Min(101, float64(i)*0.2)
		log = append(
			log,
			Sample{T: float64(i) * 15, SetPoint: temp, Air: temp, Tool: temp, Lead: temp, Lag: temp, Vacuum: 9e4},
		)
	}
	for b.Loop() {
		_, err := Judge(log, oven, limits, kinetics, 0.02)
		require.NoError(b, err)
	}
}

// Where no vacuum is asked for, as of a press or a post-cure, none is judged.
func TestNoVacuumIsJudgedWhereNoneIsAskedFor(t *testing.T) {
	free := limits
	free.MinVacuum = 0
	log := []Sample{{T: 0, Lag: 300, Lead: 300, Vacuum: math.NaN()}, {T: 60, Lag: 301, Lead: 301, Vacuum: math.NaN()}}
	asked := func(l Limits) (out []string) {
		v, err := Judge(log, oven, l, kinetics, 0.01)
		require.NoError(t, err)
		for _, c := range v.Checks {
			out = append(out, c.What)
		}
		return out
	}
	assert.Contains(t, asked(limits), "least vacuum")
	assert.NotContains(t, asked(free), "least vacuum")
}

// Air that is led for a part sensor is held against what it was told for it, not against the set point.
func TestLedAirIsHeldAgainstWhatItWasTold(t *testing.T) {
	log := make([]Sample, 0, 400)
	for k := range 400 { // a thick part: an hour behind its set point, and its air 15 K above it so long
		at := float64(k) * 30
		part := 393 - 60*math.Exp(-at/2400)
		log = append(
			log,
			Sample{T: at, SetPoint: 393, Air: 393 + math.Min(15, 4*(393-part)), Lead: part, Lag: part, Vacuum: 92e3},
		)
	}
	r := Recipe{Start: 393, Tolerance: 5, Control: ByLagging, Segments: []Segment{{Target: 393, Rate: 1, Hold: 7200}}}
	l := limits
	l.Lead, l.MinCure, l.MaxPart = 15, 0, 500
	air := func(r Recipe) RunCheck {
		v, err := Judge(log, r, l, kinetics, 0.02)
		require.NoError(t, err)
		k := slices.IndexFunc(
			v.Checks,
			func(c RunCheck) bool { return strings.Contains(unit.InMetric(c.What), "of the air outside ±5 K") },
		)
		return v.Checks[k]
	}
	assert.True(t, air(r).Met, "%+v", air(r))
	assert.Contains(t, air(r).What, "of the set point during holds")
	for k := 150; k < 200; k++ {
		log[k].Air -= 8 // and for 25 min it was not
	}
	assert.False(t, air(r).Met)
	r.Control = ByAir
	assert.False(t, air(r).Met, "nobody led it: it was too hot")
	assert.NotContains(t, air(r).What, "told")
}
