package forecast

import (
	"context"
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"juxta/core/cure"
	"juxta/core/cure/heat"
	"juxta/core/unit"
)

func c(celsius float64) float64 { return unit.Kelvin(celsius) }

// kiln is an invented epoxy of 177 °C.
func kiln() cure.Resin {
	return cure.Resin{
		Kinetics: cure.Kinetics{
			Terms:     []cure.Term{{A: 1.2e5, E: 6.6e4, M: 0.8, N: 2.2}},
			Diffusion: cure.Diffusion{C: 30, Alpha0: -1.5, AlphaT: 5.5e-3},
		},
		Viscosity: &cure.Viscosity{Mu: 3.5e-10, U: 7.65e4, Gel: 0.47, A: 3.8, B: 2.5},
		Alpha0:    0.02,
		ResinFacts: cure.ResinFacts{
			Glass: &cure.Glass{
				Raw:    c(-5),
				Cured:  c(210),
				Lambda: 0.78,
			}, Gel: 0.47, Heat: 4.5e5, Coldest: c(20), Hottest: c(200),
		},
	}
}

func laminate(thick float64, r cure.Resin) heat.Layer {
	return heat.Layer{
		Name: "laminate", Thickness: thick, Density: 1580, Specific: 950, Conductivity: 0.65,
		Reaction: &heat.Reaction{Law: r.Kinetics, Alpha0: r.Alpha0, Heat: 1580 * 0.34 * r.Heat},
	}
}

// ring is the thick segment of 72 plies on steel in an autoclave, with two dwells in some ten hours.
func ring() Job {
	r := kiln()
	return Job{
		Recipe: cure.Recipe{Name: "two dwells", Start: c(20), Tolerance: 5, Segments: []cure.Segment{
			{Target: c(130), Rate: 1.5 / 60, Hold: 3600, WaitPart: c(125), Vacuum: 8e4},
			{Target: c(177), Rate: 1.0 / 60, Hold: 7200, WaitPart: c(172), Pressure: 6.2e5, Vent: 1e5, Vacuum: 8e4},
			{Target: c(50), Rate: 2.0 / 60, WaitCool: c(60), Pressure: 6.2e5},
		}},
		Equipment: Equipment{
			Name: "Autoclave 1", Film: 25, ByPressure: true, Lag: 180, HeatUp: 4.0 / 60, CoolDown: 4.0 / 60,
			Pressure: 8e5,
			Hottest:  c(230), Atmosphere: 94e3,
		},
		Sections: []Section{{Name: "segment", Resin: r, Layers: []heat.Layer{
			{Name: "tool", Thickness: 0.012, Density: 7850, Specific: 480, Conductivity: 45},
			laminate(0.0144, r),
			{Name: "breather", Thickness: 0.004, Density: 200, Specific: 1300, Conductivity: 0.07},
		}}},
		Limits: CureLimits{
			MaxPart:      c(190),
			MaxOvershoot: 12,
			MaxSpread:    15,
			MinCure:      0.85,
			MinGlass:     c(170),
			OpenBelow:    c(65),
			Thin:         50,
			Humidity:     0.5,
		},
	}
}

func simulate(t testing.TB, j Job) Forecast {
	t.Helper()
	f, err := Simulate(context.Background(), j)
	require.NoError(t, err)
	return f
}

func event(f Forecast, kind string) CureEvent {
	for _, e := range f.Events {
		if e.Kind == kind {
			return e
		}
	}
	return CureEvent{T: math.NaN()}
}

func finding(f Forecast, rule string) CureFinding {
	for _, x := range f.Findings {
		if x.Rule == rule {
			return x
		}
	}
	return CureFinding{}
}

func TestACureInOrder(t *testing.T) {
	f := simulate(t, ring())
	o := f.Sections[0]
	t.Logf(
		"%s, %d steps, hottest %.1f °C after %s, spread %.1f K, cure %.3f, Tg %.0f °C, window %s to %s, gel %s to %s",
		clock(f.Duration),
		f.Steps,
		unit.Celsius(o.Hottest),
		clock(o.HottestAt),
		o.Spread,
		o.Cure,
		unit.Celsius(o.Glass),
		clock(f.Window.From),
		clock(f.Window.To),
		clock(o.GelBegins),
		clock(o.Gelled),
	)
	for _, x := range f.Findings {
		t.Log(unit.InMetric(x.Message), x.Advice)
	}
	assert.Greater(t, f.Duration, 5*3600.0)
	assert.Less(t, f.Duration, 12*3600.0)
	last := 0.0
	for _, p := range f.Points {
		part := p.Parts[0]
		assert.GreaterOrEqual(t, part.Least, last, "the degree of cure never falls")
		assert.LessOrEqual(t, part.Most, 1.0)
		assert.LessOrEqual(t, part.Lag, part.Lead)
		last = part.Least
	}
	// In order: thin, gel, gelled, hottest or later, opened at the end.
	assert.Less(t, event(f, Thinnest).T, o.GelBegins)
	assert.LessOrEqual(t, o.GelBegins, o.Gelled)
	assert.InDelta(t, f.Duration, event(f, MayOpen).T, 900)
	assert.Less(t, f.Window.From, f.Window.To)
	assert.Equal(t, o.GelBegins, f.Window.To)
	assert.Equal(t, 2, count(f, Dwells))
	require.NotEmpty(t, o.Through.K)
	assert.Len(t, o.Through.K[0], len(o.Through.Shares))
}

func count(f Forecast, kind string) (n int) {
	for _, e := range f.Events {
		if e.Kind == kind {
			n++
		}
	}
	return n
}

// A hold that waits for the part begins when the part is there, to two seconds, and lasts as long as it is told.
func TestAHoldBeginsWhenThePartIsThere(t *testing.T) {
	j := ring()
	j.Recipe.Segments = j.Recipe.Segments[:1]
	j.Every = 1
	f := simulate(t, j)
	begins := event(f, Dwells)
	require.False(t, math.IsNaN(begins.T))
	at := 0
	for f.Points[at].T < begins.T {
		at++
	}
	assert.InDelta(t, c(125), f.Points[at].Parts[0].Lag, 0.1)
	assert.InDelta(t, 3600, f.Duration-begins.T, 4)
}

// A thin plate with no reaction in air that goes up in a straight line is behind it by C/h times the ramp: a first-
// order lag has that closed form. The sim's oven and the heat of a plate are told apart by nothing else.
func TestAThinPlateIsBehindByItsTimeConstant(t *testing.T) {
	j := ring()
	plate := heat.Layer{Name: "plate", Thickness: 0.002, Density: 2700, Specific: 900, Conductivity: 200}
	j.Sections = []Section{{Name: "plate", Layers: []heat.Layer{plate}, Above: Shut}}
	j.Recipe.Segments = []cure.Segment{{Target: c(140), Rate: 1.0 / 60}}
	j.Equipment.Lag, j.Limits = 0, CureLimits{}
	f := simulate(t, j)
	behind := plate.Thickness * plate.Density * plate.Specific / 25 / 60
	j.Limits.MinCure = 0.9
	for _, h := range simulate(t, j).Checks {
		assert.NotEqual(t, "min. degree of cure", h.What, "a blank has no cure that could be too little")
	}
	end := f.Points[len(f.Points)-1]
	assert.InDelta(t, behind, end.Air-end.Parts[0].Lag, 0.05)
	assert.InDelta(t, 7200, f.Duration, 1)
}

// Led by its lagging sensor the part is there sooner, and the air no further ahead than it may be.
func TestControlByAPartSensor(t *testing.T) {
	byAir := simulate(t, ring())
	j := ring()
	j.Recipe.Control = cure.ByLagging
	f := simulate(t, j)
	assert.Less(t, event(f, Dwells).T, event(byAir, Dwells).T)
	for _, p := range f.Points {
		assert.LessOrEqual(t, p.Air, p.SetPoint+UsualLead+0.1)
	}
}

// Several sections: the run waits for the slowest, and the thickest is the hottest.
func TestTheRunWaitsForTheSlowest(t *testing.T) {
	alone := ring()
	alone.Sections[0].Layers[1] = laminate(0.003, kiln())
	both := ring()
	thin := alone.Sections[0]
	thin.Name = "flange"
	both.Sections = append(both.Sections, thin)
	a, b := simulate(t, alone), simulate(t, both)
	assert.Less(t, event(a, Dwells).T, event(b, Dwells).T)
	assert.Greater(t, b.Sections[0].Hottest, b.Sections[1].Hottest)
	for _, h := range b.Checks {
		if h.What == "hottest" {
			assert.Zero(t, h.Section, "the thick one")
		}
	}
}

// Pressure makes the air of an autoclave heat better: at 6.2 bar above 0.94 by (7.14/0.94)^0.8.
func TestPressureHeatsBetter(t *testing.T) {
	e := ring().Equipment
	assert.InEpsilon(t, 25*math.Pow(7.14/0.94, 0.8), e.passes(Air, 6.2e5), 1e-9)
	e.ByPressure = false
	assert.Equal(t, 25.0, e.passes(Air, 6.2e5))
	assert.Zero(t, e.passes(Shut, 0))
}

// What the equipment takes is what warms it and goes into the parts.
func TestPowerLimitsTheRamp(t *testing.T) {
	j := ring()
	j.Equipment.Capacity, j.Equipment.Power, j.Sections[0].Area = 4e4, 1.8e3, 1
	slow := simulate(t, j)
	j.Equipment.Power = 0
	quick := simulate(t, j)
	assert.Greater(t, event(slow, Dwells).T, event(quick, Dwells).T+300)
	for i := 1; i < len(slow.Points); i++ {
		a, b := slow.Points[i-1], slow.Points[i]
		assert.LessOrEqual(t, (b.Air-a.Air)/(b.T-a.T), 1.8e3/4e4+1e-6)
	}
	assert.Greater(t, slow.Energy, 4e4*100, "the walls alone")
}

func TestPressureThatIsTooEarlyTooLateOrTooHigh(t *testing.T) {
	early := ring()
	early.Recipe.Segments[0].Pressure = 6.2e5
	assert.Contains(t, finding(simulate(t, early), "pressure").Message, "only after")
	late := ring()
	late.Recipe.Segments[1].Pressure, late.Recipe.Segments[1].Vent = 0, 0
	assert.Contains(t, finding(simulate(t, late), "pressure").Message, "not on when the part begins to gel")
	thick := ring()
	thick.Limits.Thin = 1e-6
	assert.Contains(t, finding(simulate(t, thick), "pressure").Message, "no window")
	// One place that never flows leaves no window, however well the others do; of what is not known none is told.
	stiff := ring()
	of := stiff.Sections[0]
	of.Name, of.Resin = "stiff", kiln()
	honey := *of.Resin.Viscosity
	honey.Mu *= 1e6
	of.Resin.Viscosity = &honey
	stiff.Sections = append(stiff.Sections, of)
	f := simulate(t, stiff)
	assert.Contains(t, finding(f, "pressure").Message, "no window")
	assert.True(t, math.IsNaN(f.Window.From) && math.IsNaN(f.Window.To))
	of.Resin.Viscosity = nil
	stiff.Sections[1] = of
	f = simulate(t, stiff)
	assert.Empty(t, finding(f, "pressure").Message)
	assert.Contains(t, finding(f, Unknown).Message, "the viscosity of the resin of stiff is not entered")
	assert.False(t, f.Met())
	core := ring()
	core.Limits.MaxPressure = 2.4e5
	f = simulate(t, core)
	assert.False(t, f.Met())
	h := f.Checks[len(f.Checks)-1]
	assert.Equal(t, "pressure on the core", h.What)
	assert.InDelta(t, 6.2e5, h.Found, 1e3)
}

// In the oven the resin has no more than the air on it: at 130 °C water of 50 % has 1.3 times as much.
func TestWaterIsNotHeldShutByTheAirAlone(t *testing.T) {
	j := ring()
	for i := range j.Recipe.Segments {
		j.Recipe.Segments[i].Pressure, j.Recipe.Segments[i].Vent = 0, 0
	}
	j.Limits.Thin = 0
	assert.Contains(t, unit.InMetric(finding(simulate(t, j), "water").Message), "voids may grow")
	// It is asked as long as any place can still give way, and no longer.
	set := j.Sections[0]
	set.Name, set.Resin = "set", kiln()
	set.Resin.Alpha0 = 0.9
	set.Layers = []heat.Layer{laminate(0.0144, set.Resin)}
	j.Sections = append(j.Sections, set)
	assert.Contains(t, unit.InMetric(finding(simulate(t, j), "water").Message), "voids may grow")
	j.Sections = j.Sections[1:]
	assert.Empty(t, finding(simulate(t, j), "water").Message)
	j = ring()
	j.Limits.Humidity = 0.02
	for i := range j.Recipe.Segments {
		j.Recipe.Segments[i].Pressure, j.Recipe.Segments[i].Vent = 0, 0
	}
	assert.Empty(t, finding(simulate(t, j), "water").Message)
}

// A part that was cured at 120 °C stands free: quickly it sags, slowly its glass keeps ahead.
func TestAPostCureStandingFree(t *testing.T) {
	j := ring()
	r := kiln()
	r.Alpha0 = 0.6
	j.Sections[0].Resin = r
	j.Sections[0].Layers = []heat.Layer{laminate(0.003, r)}
	j.Limits = CureLimits{Free: true, MinGlass: c(160)}
	j.Recipe.Segments = []cure.Segment{{Target: c(177), Rate: 5.0 / 60, Hold: 7200}}
	j.Equipment.HeatUp = 0
	quick := simulate(t, j)
	assert.Contains(t, unit.InMetric(finding(quick, "sag").Message), "stands free and would sag from")
	j.Recipe.Segments[0].Rate = 0.08 / 60
	slow := simulate(t, j)
	assert.Empty(t, finding(slow, "sag").Message)
}

// What is asked of a glass transition that nobody knows is not met.
func TestALimitThatCannotBeHeldIsNotMet(t *testing.T) {
	j := ring()
	require.True(t, simulate(t, j).Met())
	j.Sections[0].Resin.Glass = nil
	f := simulate(t, j)
	assert.False(t, f.Met())
	assert.Contains(t, finding(f, Unknown).Message, "is not known")
}

func TestMishaps(t *testing.T) {
	plain := simulate(t, ring())
	for kind, differs := range map[string]func(f Forecast) bool{
		DoorOpen:   func(f Forecast) bool { return f.Duration > plain.Duration+60 },
		PowerCut:   func(f Forecast) bool { return f.Duration > plain.Duration+60 },
		HeaterLost: func(f Forecast) bool { return f.Duration > plain.Duration+60 },
		// The air has the first dwell's temperature by then; the leading sensor has not, and holds the dwell back.
		SensorOff: func(f Forecast) bool { return event(f, Dwells).T == event(plain, Dwells).T },
		VacuumLost: func(f Forecast) bool {
			for _, p := range f.Points {
				if p.T > 2400 && p.T < 3000 && p.Vacuum > 0 {
					return false
				}
			}
			return true
		},
	} {
		j := ring()
		j.Mishaps = []Disturbance{{Kind: kind, At: 2400, For: 3600, Size: 0.9}}
		assert.True(t, differs(simulate(t, j)), kind)
	}
	j := ring()
	j.Mishaps = []Disturbance{{Kind: SensorOff, At: 2400, For: 7200}}
	assert.Less(t, event(simulate(t, j), Dwells).T, event(plain, Dwells).T, "what leads is hot before what lags")
	j.Mishaps = []Disturbance{{Kind: "flood", At: 1, For: 1}}
	_, err := Simulate(context.Background(), j)
	assert.ErrorContains(t, err, "no known disturbance")
	j = ring()
	j.Equipment.HeatUp, j.Equipment.Power = 0, 4e3
	j.Mishaps = []Disturbance{{Kind: HeaterLost, At: 2400, For: 3600, Size: 0.9}}
	_, err = Simulate(context.Background(), j)
	assert.ErrorContains(t, err, "enter the power and the heat capacity", "what air and walls take is not known")
}

func TestWhatNeverComesIsSaid(t *testing.T) {
	for says, change := range map[string]func(*Job, *cure.Segment){
		"it waits for 130.0": func(j *Job, s *cure.Segment) {
			s.WaitPart, j.Sections[0].Layers[1].Reaction = c(130),
				nil
		},
		"% of the cure": func(_ *Job, s *cure.Segment) { s.WaitPart, s.WaitCure = 0, 0.95 },
		"Pa s or less":  func(_ *Job, s *cure.Segment) { s.WaitPart, s.WaitThin = 0, 1e-6 },
		"Pa s or more":  func(_ *Job, s *cure.Segment) { s.Target, s.WaitPart, s.WaitThick = c(60), 0, 1e9 },
	} {
		j := ring()
		j.Recipe.Segments = j.Recipe.Segments[:1]
		j.Longest = 6 * 3600
		change(&j, &j.Recipe.Segments[0])
		_, err := Simulate(context.Background(), j)
		require.Error(t, err, says)
		assert.Contains(t, unit.InMetric(err.Error()), says)
	}
}

func TestJobsThatCannotBe(t *testing.T) {
	for says, change := range map[string]func(*Job){
		"no segment":            func(j *Job) { j.Recipe.Segments = nil },
		"ramp must be above":    func(j *Job) { j.Recipe.Segments[0].Rate = 0 },
		"500 K/min":             func(j *Job) { j.Recipe.Segments[0].Rate = 500.0 / 60 },
		"more than Autoclave 1": func(j *Job) { j.Recipe.Segments[1].Pressure = 9e5 },
		"goes up to 230": func(j *Job) {
			j.Recipe.Segments[1].Target, j.Recipe.Segments[2].WaitCool = c(250), 0
		},
		"is a block":             func(j *Job) { j.Sections[0].Layers[1].Thickness = 2 },
		"no term":                func(j *Job) { j.Sections[0].Resin.Kinetics = cure.Kinetics{} },
		"only in the end":        func(j *Job) { j.Recipe.Segments[2].WaitCool = c(50) },
		"the oven is empty":      func(j *Job) { j.Sections = nil },
		"neither face is heated": func(j *Job) { j.Sections[0].Above, j.Sections[0].Below = Shut, Shut },
		"heat transfer coefficient of the platens": func(j *Job) { j.Sections[0].Below = Platen },
		"not known": func(j *Job) { j.Sections[0].Resin.Viscosity = nil; j.Recipe.Segments[0].WaitThin = 5 },
	} {
		j := ring()
		change(&j)
		_, err := Simulate(context.Background(), j)
		require.Error(t, err, says)
		assert.Contains(t, unit.InMetric(err.Error()), says)
	}
	ctx, stop := context.WithCancel(context.Background())
	stop()
	_, err := Simulate(ctx, ring())
	assert.ErrorIs(t, err, context.Canceled)
}

// BenchmarkRing is the cure of the thick segment of 72 plies with all that is told of it.
func BenchmarkRing(b *testing.B) {
	for b.Loop() {
		f := simulate(b, ring())
		b.ReportMetric(float64(f.Steps), "steps")
	}
}
