package shop_test

import (
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"juxta/calc"
	"juxta/core/cure"
	"juxta/core/cure/forecast"
	"juxta/core/master"
	"juxta/core/unit"
	"juxta/shop/book"
	"juxta/shop/curing"
	"juxta/shop/parts"
	"juxta/shop/recipes"
	"juxta/shop/stock"
)

func (h *house) oven(name string) recipes.EquipmentView {
	h.t.Helper()
	v, err := h.SaveEquipment(
		h.ctx,
		h.as("Marek Orde"),
		recipes.EquipmentIn{Why: "a run with thermocouples", Facts: forecast.Equipment{
			Name: name, Kind: "oven", Film: 20, Lag: 200, HeatUp: 0.05, CoolDown: 0.05, Hottest: unit.Kelvin(200),
		}},
	)
	require.NoError(h.t, err)
	return v
}

func (h *house) recipe(name string) recipes.RecipeIn {
	h.t.Helper()
	resins, err := h.Resins(h.ctx)
	require.NoError(h.t, err)
	return recipes.RecipeIn{Name: name, ResinID: resins[0].ID, Equipment: "Oven 9", Plan: recipes.RecipePlan{
		Recipe: cure.Recipe{Start: unit.Kelvin(21), Tolerance: 5, Segments: []cure.Segment{
			{Target: unit.Kelvin(120), Rate: 0.025, Hold: 5400, WaitPart: unit.Kelvin(116)},
			{Target: unit.Kelvin(40), Rate: 0.03, WaitCool: unit.Kelvin(55)},
		}},
		Sections: []calc.CureSection{{Name: "wall", Layers: []calc.CureLayer{
			{Name: "aluminium", Thickness: 0.008, Density: 2770, Specific: 875, Conductivity: 177},
			{Name: "plies", Thickness: 0.003, Density: 1580, Specific: 950, Conductivity: 0.65, Resin: 0.36},
		}}},
		Limits: forecast.CureLimits{MinCure: 0.85, MaxOvershoot: 10},
	}}
}

// A recipe is saved in versions and released by a second person; what was released stays, and is superseded by the
// next.
func TestARecipeIsReleasedByASecondPerson(t *testing.T) {
	h := open(t)
	orde, quist := func() book.By { return h.as("Marek Orde") }, func() book.By { return h.as("Jonas Quist") }
	h.oven("Oven 9")
	in := h.recipe("Wall")
	one, err := h.SaveRecipe(h.ctx, orde(), in)
	require.NoError(t, err)
	assert.Equal(t, 1, one.Version)
	assert.Equal(t, "draft", one.State)
	_, err = h.SaveRecipe(h.ctx, orde(), in)
	refusal(t, err, book.Conflict, "already a recipe called Wall")
	_, err = h.ReleaseRecipe(h.ctx, orde(), one.ID, pin)
	refusal(t, err, book.Refused, "a second person")
	_, err = h.ReleaseRecipe(h.ctx, quist(), one.ID, "000000")
	require.Error(t, err)
	done, err := h.ReleaseRecipe(h.ctx, quist(), one.ID, pin)
	require.NoError(t, err)
	assert.Equal(t, "released", done.State)
	assert.Equal(t, "Jonas Quist", done.ReleasedBy)
	_, err = h.ReleaseRecipe(h.ctx, quist(), one.ID, pin)
	refusal(t, err, book.Conflict, "released already")
	require.Error(
		t,
		h.DB.Gorm.Exec(`update recipes set plan = '{}' where id = ?`, one.ID).Error,
		"a version stays as it is",
	)

	in.Version, in.Plan.Recipe.Segments[0].Hold = 1, 6000
	two, err := h.SaveRecipe(h.ctx, orde(), in)
	require.NoError(t, err)
	assert.Equal(t, 2, two.Version)
	_, err = h.SaveRecipe(h.ctx, orde(), in)
	refusal(t, err, book.Conflict, "in the meantime")
	d, err := h.RecipeSince(h.ctx, two.ID, one.ID)
	require.NoError(t, err)
	assert.Equal(t, 1, d.Version)
	assert.Equal(t, []string{"hold"}, d.Segments[0].Fields)
	assert.Empty(t, d.Changes)
	_, err = h.RecipeSince(h.ctx, two.ID, 4711)
	refusal(t, err, book.Missing, "no such recipe")
	other := two.Plan
	other.Recipe.Control, other.Limits.MaxOvershoot, other.Limits.MinCure, other.Limits.Free = "lagging", 7, 0, true
	other.Sections = slices.Clone(other.Sections)
	other.Sections[0].Layers = slices.Clone(other.Sections[0].Layers)
	other.Sections[0].Layers[0].Thickness += 0.001
	other.Sections[0].Layers[0].Density += 10
	other.Sections[0].Above = "platen"
	other.Sections = append(other.Sections, calc.CureSection{Name: "root"})
	var says []string
	for _, s := range append(other.Difference(two.Plan).Changes, two.Plan.Difference(other).Changes...) {
		says = append(says, unit.InMetric(s))
	}
	layer := other.Sections[0].Name + ": " + other.Sections[0].Layers[0].Name
	for _, want := range []string{
		"another sensor follows the set point", "overshoot: 7.0 K, was", "degree of cure, %: none, was 85.0",
		"free-standing now",
		layer + " is ", layer + " has other figures", "heat comes to " + other.Sections[0].Name + " in another way",
		"root is new", "root is gone",
		"no longer free-standing",
	} {
		assert.True(
			t,
			slices.ContainsFunc(says, func(s string) bool { return strings.Contains(s, want) }),
			"%s in %q",
			want,
			says,
		)
	}
	_, err = h.ReleaseRecipe(h.ctx, quist(), two.ID, pin)
	require.NoError(t, err)
	one, err = h.RecipeByID(h.ctx, one.ID)
	require.NoError(t, err)
	assert.Equal(t, "superseded", one.State)
	all, err := h.Recipes(h.ctx, false)
	require.NoError(t, err)
	of := func(r recipes.RecipeView) bool { return r.Name == "Wall" }
	k := slices.IndexFunc(all, of)
	require.GreaterOrEqual(t, k, 0)
	assert.Equal(t, two.ID, all[k].ID)
	assert.False(t, slices.ContainsFunc(all[k+1:], of), "its newest version alone")
	_, err = h.RecipeByID(h.ctx, 4711)
	refusal(t, err, book.Missing, "no such recipe")
}

func TestRecipesThatCannotBeKept(t *testing.T) {
	h := open(t)
	by := func() book.By { return h.as("Marek Orde") }
	h.oven("Oven 9")
	for says, change := range map[string]func(*recipes.RecipeIn){
		"needs a name":        func(in *recipes.RecipeIn) { in.Name = " " },
		"no such resin":       func(in *recipes.RecipeIn) { in.ResinID = 4711 },
		"no equipment called": func(in *recipes.RecipeIn) { in.Equipment = "Oven 77" },
		"must be above zero":  func(in *recipes.RecipeIn) { in.Plan.Recipe.Segments[0].Rate = 0 },
		"no equipment ramps":  func(in *recipes.RecipeIn) { in.Plan.Recipe.Segments[0].Rate = 500.0 / 60 },
	} {
		in := h.recipe("Wall")
		change(&in)
		_, err := h.SaveRecipe(h.ctx, by(), in)
		require.Error(t, err, says)
		assert.Contains(t, unit.InMetric(err.Error()), says)
	}
	_, err := h.SaveRecipe(h.ctx, h.as("Tilda Brandl"), h.recipe("Wall"))
	require.Error(t, err, "a technician writes none")
}

func TestEquipmentIsKeptInVersions(t *testing.T) {
	h := open(t)
	by := func() book.By { return h.as("Marek Orde") }
	one := h.oven("Oven 9")
	assert.Equal(t, 1, one.Version)
	in := one.EquipmentIn
	in.Facts.Film = 24
	two, err := h.SaveEquipment(h.ctx, by(), in)
	require.NoError(t, err)
	assert.Equal(t, 2, two.Version)
	_, err = h.SaveEquipment(h.ctx, by(), in)
	refusal(t, err, book.Conflict, "in the meantime")
	all, err := h.AllEquipment(h.ctx)
	require.NoError(t, err)
	k := slices.IndexFunc(all, func(e recipes.EquipmentView) bool { return e.Facts.Name == "Oven 9" })
	require.GreaterOrEqual(t, k, 0)
	assert.Equal(t, 24.0, all[k].Facts.Film)
	for says, change := range map[string]func(*recipes.EquipmentIn){
		"needs a name":                             func(in *recipes.EquipmentIn) { in.Facts.Name = "" },
		"where the figures":                        func(in *recipes.EquipmentIn) { in.Why = " " },
		"heat transfer coefficient of the air":     func(in *recipes.EquipmentIn) { in.Facts.Film = 0 },
		"heat transfer coefficient of the platens": func(in *recipes.EquipmentIn) { in.Facts.Kind = "press" },
	} {
		bad := in
		change(&bad)
		_, err := h.SaveEquipment(h.ctx, by(), bad)
		refusal(t, err, book.Invalid, says)
	}
}

// What is simulated is of the resin and the oven as the shop keeps them, in the air of the place; the shortest cycle
// and
// the map are of the same.
func TestACureIsSimulated(t *testing.T) {
	h := open(t)
	h.oven("Oven 9")
	r := h.recipe("Wall")
	in := recipes.ForecastIn{ResinID: r.ResinID, Equipment: r.Equipment, Plan: r.Plan}
	f, err := h.Forecast(h.ctx, in)
	require.NoError(t, err)
	assert.True(t, f.Met)
	assert.Greater(t, f.Duration, 2*3600.0)
	later := in
	later.Alpha0 = 0.1
	g, err := h.Forecast(h.ctx, later)
	require.NoError(t, err)
	assert.Greater(t, g.Points[0].Parts[0].Least, f.Points[0].Parts[0].Least, "its out-time counts")

	later = in
	later.OutTime = 120 * 3600
	g, err = h.Forecast(h.ctx, later)
	require.NoError(t, err)
	assert.Greater(
		t,
		g.Points[0].Parts[0].Least,
		f.Points[0].Parts[0].Least,
		"five days in the shop have begun its cure",
	)

	found, err := h.ShortestCycle(h.ctx, recipes.FindCycle{ForecastIn: in, Tries: 40})
	require.NoError(t, err)
	more, err := h.ShortestCycle(h.ctx, recipes.FindCycle{ForecastIn: in, Tries: 40, Search: &found})
	require.NoError(t, err)
	assert.Greater(t, more.Tried, found.Tried)
	assert.LessOrEqual(t, more.Duration, found.Duration)
	assert.Less(t, more.Duration, f.Duration)

	cells, err := h.MapCure(h.ctx, recipes.CureMap{
		ForecastIn: in, Layer: 1, Thickness: []float64{0.002, 0.04}, Segment: 0, Holds: []float64{60, 5400},
	})
	require.NoError(t, err)
	require.Len(t, cells, 4)
	assert.Contains(t, cells[0].Why, "degree of cure", "a minute is not enough")
	assert.Empty(t, cells[1].Why)
	assert.NotEmpty(t, cells[3].Why, "40 mm overheat")
	_, err = h.MapCure(h.ctx, recipes.CureMap{ForecastIn: in, Layer: 9, Thickness: []float64{1}, Holds: []float64{1}})
	refusal(t, err, book.Invalid, "no such layer")

	// 248 where 120 °C is meant: the number of the other unit.
	mixed := in
	mixed.Plan.Recipe.Segments = []cure.Segment{{Target: unit.Kelvin(49), Rate: 0.025, Hold: 600}}
	f, err = h.Forecast(h.ctx, mixed)
	require.NoError(t, err)
	require.NotEmpty(t, f.Findings)
	assert.Equal(t, "units", f.Findings[0].Rule, "120 °F is 49 °C")
	mixed.Plan.Sections[0].Layers[1].Thickness = 2
	_, err = h.Forecast(h.ctx, mixed)
	refusal(t, err, book.Invalid, "is a block")
}

// The demo's run is held against the model; what is not over, or lies on another stack, says so.
func TestARunIsLearnedFrom(t *testing.T) {
	h := open(t)
	runs, err := h.Runs(h.ctx)
	require.NoError(t, err)
	require.NotEmpty(t, runs)
	h.oven("Oven 9")
	r := h.recipe("Wall")
	in := curing.LearnIn{ResinID: r.ResinID, Equipment: r.Equipment, Section: r.Plan.Sections[0]}
	l, err := h.LearnFrom(h.ctx, runs[0].Code, in)
	require.NoError(t, err)
	assert.Nil(t, l.Rate, "a thin panel heats itself too little to tell how quickly it cures")
	assert.Equal(t, 20.0, l.Film.Was)
	assert.Positive(t, l.Film.Value)
	assert.Positive(t, l.Film.Spread)
	assert.Positive(t, l.Lag.Value)
	assert.Less(t, l.Off, 15.0)
	assert.Greater(t, l.Used, 100)
	_, err = h.LearnFrom(h.ctx, "R-2X3AQ", in)
	require.Error(t, err)
	require.NoError(t, h.DB.Gorm.Exec(`update runs set state = 'running' where code = ?`, runs[0].Code).Error)
	_, err = h.LearnFrom(h.ctx, runs[0].Code, in)
	refusal(t, err, book.Conflict, "not over yet")
}

// What the air was told where a sensor controls it is that of the run, whatever the equipment allows by now.
func TestARunIsLearnedFromAsItWasTold(t *testing.T) {
	h := open(t)
	runs, err := h.Runs(h.ctx)
	require.NoError(t, err)
	oven := h.oven("Oven 9")
	r := h.recipe("Wall")
	in := curing.LearnIn{ResinID: r.ResinID, Equipment: r.Equipment, Section: r.Plan.Sections[0]}
	require.NoError(t, h.DB.Gorm.Exec(`update runs set foreseen = foreseen || '{"lead": 12}',
		process = jsonb_set(process::jsonb, '{recipe,control}', '"lagging"') where code = ?`, runs[0].Code).Error)
	lag := func() float64 {
		l, err := h.LearnFrom(h.ctx, runs[0].Code, in)
		require.NoError(t, err)
		return l.Lag.Value
	}
	told := lag()
	_, err = h.SaveEquipment(
		h.ctx,
		h.as("Marek Orde"),
		recipes.EquipmentIn{Version: oven.Version, Why: "a new blower", Facts: forecast.Equipment{
			Name: "Oven 9", Kind: "oven", Film: 20, Lag: 200, HeatUp: 0.05, CoolDown: 0.05, Hottest: unit.Kelvin(200),
			Lead: 60,
		}},
	)
	require.NoError(t, err)
	assert.Equal(t, told, lag())
	require.NoError(
		t,
		h.DB.Gorm.Exec(`update runs set foreseen = foreseen || '{"lead": 60}' where code = ?`, runs[0].Code).Error,
	)
	assert.NotEqual(t, told, lag(), "air that was told more came sooner to what it was told")
}

// The stacks of a part come from its master: plies in one layer with their resin, on the part's tool.
func TestTheStackOfAPart(t *testing.T) {
	h := open(t)
	all, err := h.Parts(h.ctx)
	require.NoError(t, err)
	seen := 0
	for _, p := range all {
		v, err := h.StackOfPart(h.ctx, p.Code)
		if err != nil {
			continue // a draft without a layer, or one with faults, says so
		}
		seen++
		require.NotEmpty(t, v.Sections, p.Number)
		for _, s := range v.Sections {
			assert.GreaterOrEqual(t, len(s.Layers), 3, "tool, part and bag")
			assert.Equal(t, "breather and bag", s.Layers[len(s.Layers)-1].Name)
			for _, l := range s.Layers {
				assert.Positive(t, l.Density, "%s: %s", p.Number, l.Name)
			}
		}
		if p.Number == "SP-11" {
			require.NotZero(t, v.ResinID)
			plies := v.Sections[0].Layers[1]
			assert.Positive(t, plies.Resin)
			h.oven("Oven 9")
			in := h.recipe("Wall")
			in.Plan.Sections, in.ResinID = v.Sections, v.ResinID
			f, err := h.Forecast(h.ctx, recipes.ForecastIn{ResinID: in.ResinID, Equipment: in.Equipment, Plan: in.Plan})
			require.NoError(t, err)
			assert.Len(t, f.Sections, len(v.Sections))
		}
	}
	assert.GreaterOrEqual(t, seen, 4)
	_, err = h.StackOfPart(h.ctx, "nothing")
	require.Error(t, err)
}

// A revision takes a recipe as it was released, and what is cured by it is known; what was changed by hand is not
// called so.
func TestARevisionTakesAReleasedRecipe(t *testing.T) {
	h := open(t)
	orde := func() book.By { return h.as("Marek Orde") }
	all, err := h.Recipes(h.ctx, true)
	require.NoError(t, err)
	k := slices.IndexFunc(all, func(r recipes.RecipeView) bool { return r.Name == "Panel, vacuum oven" })
	require.GreaterOrEqual(t, k, 0)
	r := all[k]
	v := h.named("SP-25")
	taken, err := h.TakeRecipe(h.ctx, r.ID, v.Process.Heat())
	require.NoError(t, err)
	assert.Equal(t, r.Plan.Limits.MaxPart, taken.Limits.MaxPart, "with the limits that it was planned with")
	assert.Equal(t, v.Process.RunLimits.MaxGap, taken.Limits.MaxGap, "and those that no recipe has")
	_, err = h.TakeRecipe(h.ctx, 999, taken)
	refusal(t, err, book.Invalid, "no released recipe")
	p := v.Process.Of(master.Operation{Heat: &taken})
	kept, err := h.ChangeDraft(h.ctx, orde(), v.Part.Code, parts.DraftChange{Version: v.Version, Process: &p})
	require.NoError(t, err)
	assert.Equal(t, r.Name, kept.Process.From.Name)
	seen, err := h.SimulateCure(h.ctx, v.Part.Code, parts.ProcessQuestion{})
	require.NoError(t, err)
	assert.Equal(t, "Oven 1", seen.Equipment)
	one, err := h.RecipeByID(h.ctx, r.ID)
	require.NoError(t, err)
	assert.Contains(
		t,
		one.UsedBy,
		recipes.RecipeUse{Code: v.Part.Code, Number: "SP-25", Letter: v.Letter, State: v.State, Version: r.Version},
	)
	require.NotEmpty(t, one.Versions)

	keep := func(change func(p *parts.Process)) error {
		mine := p
		mine.Recipe.Segments = slices.Clone(p.Recipe.Segments)
		change(&mine)
		_, err := h.ChangeDraft(h.ctx, orde(), v.Part.Code, parts.DraftChange{Version: kept.Version, Process: &mine})
		return err
	}
	refusal(
		t,
		keep(func(p *parts.Process) { p.Recipe.Segments[0].Hold++ }),
		book.Conflict,
		"differs from version 1 of Panel, vacuum oven",
	)
	refusal(
		t,
		keep(func(p *parts.Process) { p.From = &master.ReleasedRecipe{Name: r.Name, Version: 7} }),
		book.Invalid,
		"is not released here",
	)
	refusal(t, keep(func(p *parts.Process) { p.Equipment = "Oven 77" }), book.Invalid, `no equipment called "Oven 77"`)
	// So it is with an operation of its own.
	doc := v.Document
	doc.Route = []master.Operation{{Key: "cure", Kind: "cure", Stages: []string{doc.Stages[0].Key}, Heat: &master.Heat{
		Recipe: r.Plan.Recipe, From: &master.ReleasedRecipe{Name: "nobody's", Version: 1}, Limits: p.RunLimits,
	}}}
	_, err = h.ChangeDraft(h.ctx, orde(), v.Part.Code, parts.DraftChange{Version: kept.Version, Document: &doc})
	refusal(t, err, book.Invalid, "version 1 of nobody's is not released here")

	// A master that was written elsewhere keeps what it does and loses the names that mean nothing here.
	file, err := h.ExportMaster(h.ctx, v.Part.Code, v.Letter)
	require.NoError(t, err)
	file.Number = "CP-31"
	file.Process.From.Name, file.Process.Equipment = "theirs", "their oven"
	other, err := h.ImportMaster(h.ctx, orde(), file)
	require.NoError(t, err)
	assert.Nil(t, other.Process.From)
	assert.Empty(t, other.Process.Equipment)
	assert.Equal(t, kept.Process.Recipe, other.Process.Recipe)
}

// A load is simulated together before the door closes, and its run keeps what was expected of it.
func TestALoadIsSimulatedTogether(t *testing.T) {
	h := open(t)
	build := h.bagged()
	loads := []curing.OvenLoad{{Build: build}}
	entries := h.count(`select count(*) from entries`)
	seen, err := h.SimulateRun(h.ctx, h.as("Ines Falk"), loads)
	require.NoError(t, err)
	assert.NotEmpty(t, seen.Places)
	assert.NotEmpty(t, seen.Plan)
	other := func(v recipes.CureSimulation) bool {
		return slices.ContainsFunc(
			v.Notes,
			func(n string) bool { return strings.Contains(n, "it is planned for Oven 1") },
		)
	}
	assert.False(t, other(seen), "%v", seen.Notes)
	h.OvenName = "Vessel 7"
	moved, err := h.SimulateRun(h.ctx, h.as("Ines Falk"), loads)
	require.NoError(t, err)
	assert.True(t, other(moved), "what records it is another one: %v", moved.Notes)
	h.OvenName = "Oven 1"
	assert.Equal(t, entries, h.count(`select count(*) from entries`), "nothing is stored")
	_, err = h.SimulateRun(h.ctx, h.as("Ines Falk"), append(loads, loads[0]))
	refusal(t, err, book.Invalid, "named twice")
	_, err = h.SimulateRun(h.ctx, h.as("Ines Falk"), nil)
	refusal(t, err, book.Invalid, "choose what goes into the oven")
	line, err := h.StartRun(h.ctx, h.as("Ines Falk"), loads)
	require.NoError(t, err)
	v, err := h.Run(h.ctx, line.Code)
	require.NoError(t, err)
	require.NotNil(t, v.Simulation)
	assert.Equal(t, seen.Plan, v.Plan)
	assert.Equal(t, seen.Duration, v.Simulation.Duration)
	// A run of before cures were simulated has the band about what its air was told.
	require.NoError(t, h.DB.Gorm.Exec(`update runs set foreseen = null where code <> ?`, line.Code).Error)
	runs, err := h.Runs(h.ctx)
	require.NoError(t, err)
	old, err := h.Run(h.ctx, runs[len(runs)-1].Code)
	require.NoError(t, err)
	require.Nil(t, old.Simulation)
	require.Len(t, old.Plan, len(old.Samples))
	assert.Equal(t, old.Samples[3].SetPoint+old.Process.Recipe.Tolerance, old.Plan[3].High)
}

// What is learned after a recipe was released is told of it, and of whatever is cured by it, until it is released anew.
func TestFiguresThatAreNewerThanARelease(t *testing.T) {
	h := open(t)
	orde := func() book.By { return h.as("Marek Orde") }
	all, err := h.Recipes(h.ctx, true)
	require.NoError(t, err)
	k := slices.IndexFunc(all, func(r recipes.RecipeView) bool { return r.Name == "Panel, vacuum oven" })
	for _, r := range all {
		assert.Empty(t, r.Since, r.Name)
	}
	r := all[k]
	v := h.named("SP-25")
	taken, err := h.TakeRecipe(h.ctx, r.ID, v.Process.Heat())
	require.NoError(t, err)
	p := v.Process.Of(master.Operation{Heat: &taken})
	_, err = h.ChangeDraft(h.ctx, orde(), v.Part.Code, parts.DraftChange{Version: v.Version, Process: &p})
	require.NoError(t, err)
	newer := func() (out []forecast.CureFinding) {
		seen, err := h.SimulateCure(h.ctx, v.Part.Code, parts.ProcessQuestion{})
		require.NoError(t, err)
		for _, f := range seen.Findings {
			if f.Rule == "figures since" {
				out = append(out, f)
			}
		}
		return out
	}
	assert.Empty(t, newer())
	draft, err := h.SaveRecipe(h.ctx, orde(), r.RecipeIn)
	require.NoError(t, err)
	assert.Empty(t, draft.Since)

	h.at = h.at.Add(time.Hour)
	runs, err := h.Runs(h.ctx)
	require.NoError(t, err)
	resins, err := h.Resins(h.ctx)
	require.NoError(t, err)
	own := resins[slices.IndexFunc(resins, func(x recipes.ResinView) bool { return x.ID == r.ResinID })]
	_, err = h.KeepRate(
		h.ctx,
		orde(),
		runs[0].Code,
		curing.KeepLearned{ResinID: own.ID, Version: own.Version, Rate: 1.05},
	)
	require.NoError(t, err)
	ovens, err := h.AllEquipment(h.ctx)
	require.NoError(t, err)
	oven := ovens[slices.IndexFunc(ovens, func(e recipes.EquipmentView) bool { return e.Facts.Name == r.Equipment })]
	oven.Why = "a new blower"
	_, err = h.SaveEquipment(h.ctx, orde(), oven.EquipmentIn)
	require.NoError(t, err)
	found := newer()
	require.Len(t, found, 2)
	assert.Contains(
		t,
		found[0].Message,
		"Panel, vacuum oven: Ember 120 has come into version 2 since the release: rate × 1.05 learned from run",
	)
	assert.Contains(t, found[1].Message, "Oven 1 has come into version 2 since the release: a new blower")
	one, err := h.RecipeByID(h.ctx, r.ID)
	require.NoError(t, err)
	assert.Len(t, one.Since, 2)
	draft, err = h.RecipeByID(h.ctx, draft.ID)
	require.NoError(t, err)
	require.Len(t, draft.Since, 2)
	assert.Contains(t, draft.Since[0], "since it was written")

	h.at = h.at.Add(time.Hour)
	again, err := h.SaveRecipe(h.ctx, orde(), draft.RecipeIn)
	require.NoError(t, err)
	assert.Empty(t, again.Since, "it was written with them")
	again, err = h.ReleaseRecipe(h.ctx, h.as("Jonas Quist"), again.ID, pin)
	require.NoError(t, err)
	assert.Empty(t, again.Since)
	assert.Len(t, newer(), 2, "the part is still cured by the version of before")
}

// The rate that a run tells is kept with its source, once.
func TestALearnedRateIsKept(t *testing.T) {
	h := open(t)
	runs, err := h.Runs(h.ctx)
	require.NoError(t, err)
	resins, err := h.Resins(h.ctx)
	require.NoError(t, err)
	before := resins[0]
	by := h.as("Marek Orde")
	by.Key = "once"
	in := curing.KeepLearned{ResinID: before.ID, Version: before.Version, Rate: 1.1}
	after, err := h.KeepRate(h.ctx, by, runs[0].Code, in)
	require.NoError(t, err)
	for k, term := range before.Kinetics.Terms {
		assert.InEpsilon(t, term.A*1.1, after.Kinetics.Terms[k].A, 1e-12)
	}
	assert.Contains(t, after.Source, "rate × 1.1 learned from run "+runs[0].Code)
	again, err := h.KeepRate(h.ctx, by, runs[0].Code, in)
	require.NoError(t, err)
	assert.Equal(t, after, again, "the same change sent twice is one")
	_, err = h.KeepRate(h.ctx, h.as("Marek Orde"), runs[0].Code, curing.KeepLearned{ResinID: 999, Rate: 1.1})
	refusal(t, err, book.Missing, "no such resin")
	_, err = h.KeepRate(h.ctx, h.as("Marek Orde"), runs[0].Code, in)
	refusal(t, err, book.Conflict, "is in version 2 by now")
	for range 5 {
		in.Version = after.Version
		after, err = h.KeepRate(h.ctx, h.as("Marek Orde"), runs[0].Code, in)
		require.NoError(t, err)
	}
	assert.LessOrEqual(t, len(after.Source), 300)
	versions, err := h.ResinVersions(h.ctx, before.ID)
	require.NoError(t, err)
	require.Len(t, versions, 7)
	assert.Equal(t, before.ResinIn, versions[6].Facts, "what it was is not lost")
	assert.Empty(t, versions[6].Differs)
	assert.Equal(t, []string{"kinetics", "source"}, versions[0].Differs)
	assert.Equal(t, "Marek Orde", versions[0].By)
	assert.Contains(t, versions[0].Why, "learned from run "+runs[0].Code)
	_, err = h.SaveResin(h.ctx, h.as("Ada Wren"), before.ID, recipes.ResinChange{ResinIn: before.ResinIn, Version: 1})
	require.Error(t, err, "an administrator writes none")
	_, err = h.SaveResin(h.ctx, h.as("Hanne Vold"), before.ID, recipes.ResinChange{ResinIn: before.ResinIn, Version: 1})
	refusal(t, err, book.Conflict, "is in version 7 by now")
	_, err = h.ResinVersions(h.ctx, 4711)
	refusal(t, err, book.Missing, "no such resin")
}

// Of what is cured in several runs each is simulated with what lies there: what an earlier run has cured is heated and
// cures no
// more, and what is laid later is not there yet.
func TestACureOfSomeStagesIsSimulatedWithWhatLiesThere(t *testing.T) {
	h := open(t)
	v := h.named("SP-26")
	var places [][]recipes.SimulatedPlace
	for _, o := range v.Document.Route {
		if !o.Core().Heats() {
			continue
		}
		f, err := h.SimulateCure(h.ctx, v.Part.Code, parts.ProcessQuestion{Letter: v.Letter, Operation: o.Key})
		require.NoError(t, err)
		places = append(places, f.Places)
	}
	require.Len(t, places, 3)
	thick := func(stage int) (sum float64) {
		for _, i := range v.Document.Stages[stage].Items {
			if i.MaterialID == 0 {
				continue // a debulk
			}
			var m stock.Material
			require.NoError(t, h.DB.Gorm.Take(&m, i.MaterialID).Error)
			if m.ResinID != nil {
				sum += m.Thickness
			}
		}
		return sum
	}
	for stage, of := range places {
		assert.InDelta(t, thick(stage), of[0].Thickness, 1e-9, "stage %d: %v", stage, of)
	}
	whole, err := h.StackOfPart(h.ctx, v.Part.Code)
	require.NoError(t, err)
	assert.Greater(t, len(whole.Sections[0].Layers), 4, "a recipe is planned on all of it")
}
