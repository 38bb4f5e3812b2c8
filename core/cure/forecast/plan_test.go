package forecast

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"juxta/core/cure"
	"juxta/core/cure/heat"
	"juxta/core/unit"
)

// panel is so much of an epoxy of 120 °C on aluminium in a usual oven.
func panel(thick float64) Job {
	r := cure.Resin{
		Kinetics:   cure.Kinetics{Terms: []cure.Term{{A: 2.2e8, E: 85e3, N: 1.2}}},
		Alpha0:     0.02,
		ResinFacts: cure.ResinFacts{Heat: 3e5},
	}
	return Job{
		Recipe: cure.Recipe{Name: "80 then 120", Start: 295, Tolerance: 5, Segments: []cure.Segment{
			{
				Target:   353.15,
				Rate:     0.033,
				Hold:     1800,
				WaitPart: 350.15,
			}, {Target: 393.15, Rate: 0.033, Hold: 3600, WaitPart: 389.15},
			{Target: 323.15, Rate: 0.05},
		}},
		Equipment: UsualOven,
		Sections: []Section{{Name: "panel", Resin: r, Layers: []heat.Layer{
			{Name: "tool", Thickness: 0.008, Density: 2770, Specific: 875, Conductivity: 177}, laminate(thick, r),
		}}},
		Every: PlanStep,
	}
}

// What a recipe is expected to do is what a run does that goes as simulated: the same log, judged by the other way.
func TestAPlanIsJudgedAsItsRun(t *testing.T) {
	j := panel(0.004)
	l := cure.Limits{SoakBelow: 4, MaxPart: 401, MaxRamp: 3.0 / 60, MinCure: 0.9, MaxGap: 300, MaxAirOut: 1200}
	law := j.Sections[0].Resin.Kinetics
	for _, every := range []float64{30, 60, 300} {
		j.Every = every
		f := simulate(t, j)
		v, err := cure.JudgePlan(f.Log(), j.Recipe, l, law, 0.02)
		require.NoError(t, err)
		assert.True(t, v.Met, "%+v", v.Checks)
		assert.InDelta(
			t,
			3600,
			v.Checks[1].Found,
			600,
			"a hold that waits for what its soak is counted from is held, however seldom it is told",
		)
		run, err := cure.Judge(f.Log(), j.Recipe, l, law, 0.02)
		require.NoError(t, err)
		assert.Equal(t, run.Alpha, v.Alpha)
		assert.Equal(t, run.Checks[:len(v.Checks)-1], v.Checks[:len(v.Checks)-1], "silence apart, which is not planned")
		plan := f.Plan(5)
		assert.Equal(t, f.Duration, plan[len(plan)-1].T)
		for _, p := range plan {
			assert.InDelta(t, 10, p.High-p.Low, 1e-9)
			assert.LessOrEqual(t, p.Part, p.Lead)
		}
	}
	f := simulate(t, j)
	l.MaxPart = 390
	v, err := cure.JudgePlan(f.Log(), j.Recipe, l, law, 0.02)
	require.NoError(t, err)
	assert.False(t, v.Met, "a tighter limit than the recipe keeps is told before anything is heated")
	_, err = cure.JudgePlan(nil, j.Recipe, l, law, 0.02)
	require.Error(t, err)
}

// A longer hold and a hotter one cure further, and a thicker part takes no less time.
func TestAPlanFollowsItsRecipe(t *testing.T) {
	rapid.Check(t, func(rt *rapid.T) {
		hold, thick := rapid.Float64Range(600, 7200).
			Draw(rt, "hold"),
			rapid.Float64Range(0.001, 0.008).
				Draw(rt, "thick")
		see := func(hold, hotter, thick float64) (float64, float64) {
			j := panel(thick)
			j.Recipe.Segments[1].Hold = hold
			j.Recipe.Segments[1].Target += hotter
			f := simulate(t, j)
			return f.Duration, f.Sections[0].Cure
		}
		took, cured := see(hold, 0, thick)
		longer, further := see(hold+1800, 0, thick)
		assert.Greater(rt, longer, took)
		assert.GreaterOrEqual(rt, further, cured-1e-9)
		_, hotter := see(hold, 6, thick)
		assert.GreaterOrEqual(rt, hotter, cured-1e-4)
		slow, _ := see(hold, 0, thick+0.006)
		assert.Greater(rt, slow, took-60)
	})
}

// What a load wants of sensors and of vacuum lines is counted, and a neighbour is one more place of it.
func TestALoadIsCounted(t *testing.T) {
	j := panel(0.004)
	j.Recipe.Segments[0].Vacuum = 8e4
	j.Equipment.Sensors, j.Equipment.Ports = 2, 1
	f := simulate(t, j)
	assert.Empty(t, finding(f, "sensors").Message)
	assert.Empty(t, finding(f, "ports").Message)
	j.Sections[0].Count = 3
	assert.Contains(t, finding(simulate(t, j), "ports").Message, "3 parts under vacuum need a line each")
	j.Mishaps = []Disturbance{{Kind: Neighbour, Size: 3}}
	crowd := simulate(t, j)
	require.Len(t, crowd.Sections, 2)
	assert.Len(t, j.Sections, 1, "the job that was asked about stays")
	assert.Greater(t, crowd.Duration, f.Duration, "the run waits for the thicker one")
	assert.Contains(t, finding(crowd, "sensors").Message, "in each of 2 places are 4")
	assert.Contains(t, finding(crowd, "ports").Message, "4 parts")
	for _, wrong := range []float64{0, 0.5, 9, math.NaN()} {
		assert.Error(t, Disturbance{Kind: Neighbour, Size: wrong}.check())
	}
}

// What is cured together is held against the tighter of each limit: neither gives one up, in whatever order.
func TestLimitsOfALoadAreTheTighterOfEach(t *testing.T) {
	one := CureLimits{
		MaxPart:   410,
		MaxSpread: 10,
		MinCure:   0.9,
		MaxApart:  0.001,
		Length:    2,
		ToolGrows: 23e-6,
		PartGrows: 3e-6,
	}
	two := CureLimits{
		MaxPart:   400,
		MaxRamp:   0.1,
		MinCure:   0.8,
		MinGlass:  380,
		Free:      true,
		MaxApart:  0.0005,
		Length:    2,
		ToolGrows: 12e-6,
	}
	both := CureLimits{
		MaxPart: 400, MaxSpread: 10, MaxRamp: 0.1, MinCure: 0.9, MinGlass: 380, Free: true, MaxApart: 0.0005, Length: 2,
		ToolGrows: 12e-6,
	}
	assert.Equal(t, both, one.With(two))
	assert.Equal(t, both, two.With(one))
	assert.Equal(t, one, one.With(CureLimits{}))
	assert.Equal(t, one, CureLimits{}.With(one))
	assert.Equal(t, one, one.With(one))
}

func held(f Forecast, what string) LimitCheck {
	for _, h := range f.Checks {
		if h.What == what {
			return h
		}
	}
	return LimitCheck{What: "none of " + what}
}

// A bladder of 120 psi in a mould of 1.2 square feet pushes it open with more than ten short tons, and a press of 20 of
// them holds it (common practice, no source; the ton of 2,000 lb and the pound-force are those of NIST SP 811).
func TestABladderIsHeldShut(t *testing.T) {
	const ton, psi = 2000 * 4.448222, 6894.757
	j := panel(0.002)
	j.Equipment.Pressure, j.Equipment.PressureUp = 1e6, 1e4
	for k := range j.Recipe.Segments {
		j.Recipe.Segments[k].Pressure = 120 * psi
	}
	j.Limits.Bladder = 1.2 * 0.3048 * 0.3048
	f := simulate(t, j)
	assert.Contains(t, finding(f, Unknown).Message, "the closing force of the mould is not entered")
	assert.False(t, f.Met())
	const what = "force of the bladder, a quarter less than what holds the mould"
	j.Equipment.Force = 20 * ton
	h := held(simulate(t, j), what)
	assert.True(t, h.Met)
	assert.Greater(t, h.Found, 10*ton)
	assert.InDelta(t, 16*ton, h.Limit, 1)
	j.Equipment.Force, j.Equipment.Bolts, j.Equipment.Bolt = 6*ton, 6, ton
	assert.False(t, held(simulate(t, j), what).Met, "six tons and six bolts of one leave no quarter")
}

// A core bears less near edges without pads, and tool and part that grow unlike are apart once they are cool.
func TestEdgesAndCoolDown(t *testing.T) {
	j := ring()
	j.Limits.EdgePressure, j.Limits.MaxPressure = 5e5, 8e5
	j.Limits.ToolGrows, j.Limits.PartGrows, j.Limits.Length, j.Limits.MaxApart = 12e-6, 2e-6, 0.8, 0.5e-3
	f := simulate(t, j)
	assert.True(t, held(f, "pressure on the core").Met)
	assert.False(t, held(f, "pressure on the core near edges without pads").Met)
	apart := held(f, "difference in length of tool and part once cool")
	assert.Equal(t, unit.KindSize, apart.Kind)
	end := f.Points[len(f.Points)-1].Parts[0].Middle
	gelled := f.Sections[0].Gelled
	require.False(t, math.IsNaN(gelled))
	for _, p := range f.Points {
		if p.T >= gelled {
			assert.InDelta(t, 10e-6*0.8*(p.Parts[0].Middle-end), apart.Found, 1e-9)
			break
		}
	}
	assert.False(t, apart.Met)
	// Of several places the one that is worst: this one is hard when it goes in.
	set := j.Sections[0]
	set.Name, set.Resin = "set", kiln()
	set.Resin.Alpha0 = 0.9
	set.Layers = []heat.Layer{laminate(0.0144, set.Resin)}
	j.Sections = []Section{set, j.Sections[0]}
	both := held(simulate(t, j), "difference in length of tool and part once cool")
	assert.Equal(t, 1, both.Section)
	assert.InDelta(t, apart.Found, both.Found, 2e-6)
}

// A press that waits for the turn of the viscosity puts its pressure on where the resin has just been thinnest: a few
// per cent
// above, and no place has gelled.
func TestThePressureIsBumpedWhereTheResinIsThinnest(t *testing.T) {
	for _, thick := range []float64{0.001, 0.002, 0.004} {
		j := panel(thick)
		j.Equipment = UsualPress
		j.Sections[0].Below, j.Sections[0].Above = Platen, Platen
		j.Sections[0].Resin.Viscosity = &cure.Viscosity{Mu: 3.5e-10, U: 76.5e3, Gel: 0.47, A: 3.8, B: 2.5}
		j.Recipe.Segments = []cure.Segment{
			{
				Target:               393.15,
				Rate:                 0.1,
				WaitViscosityMinimum: true,
				Pressure:             1e5,
			}, {Target: 403.15, Rate: 0.1, Hold: 1500, WaitPart: 399.15, Pressure: 6e5},
		}
		f := simulate(t, j)
		var on []CureEvent
		for _, e := range f.Events {
			if e.Kind == PressedOn {
				on = append(on, e)
			}
		}
		require.Len(t, on, 2)
		least := math.Inf(1) // by the curve that is drawn
		var at, then float64
		for _, p := range f.Points {
			if v := p.Parts[0].Thick; v < least {
				least, at = v, p.T
			}
			if p.T <= on[1].T {
				then = p.Parts[0].Thick
			}
		}
		assert.Greater(t, on[1].T, at-1)
		assert.Less(t, on[1].T, at+180, "%g m", thick)
		assert.InDelta(t, 1.05*least, then, 0.06*least)
		assert.Less(t, on[1].T, f.Sections[0].GelBegins)
	}
	j := panel(0.002)
	j.Recipe.Segments[0].WaitViscosityMinimum = true
	assert.ErrorContains(t, j.Check(), "waits for a viscosity, and that of the resin of panel is not known")
}
