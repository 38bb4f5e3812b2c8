package e2e

import (
	"context"
	"encoding/json"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"juxta/calc"
	"juxta/core/cure/forecast"
	"juxta/core/ident"
	"juxta/shop/book"
	"juxta/shop/curing"
	"juxta/shop/recipes"
)

func (h *house) recipe(t testing.TB, name string) recipes.RecipeView {
	t.Helper()
	all, err := h.shop.Recipes(context.Background(), false)
	require.NoError(t, err)
	for _, r := range all {
		if strings.HasPrefix(r.Name, name) {
			return r
		}
	}
	require.Fail(t, "there is no recipe "+name)
	return recipes.RecipeView{}
}

// A cure is planned: wrong entries are said at their place, the curves follow what is typed and what is moved on the
// handles, what goes wrong is laid beside it, and what is saved is released by a second person.
func TestACureIsPlanned(t *testing.T) {
	t.Parallel()
	h := openHouse(t)
	ring := h.recipe(t, "Ring")
	p := openPage(t, h)
	p.visit("/cure/recipes")
	p.signIn("Marek Orde", "twelve letters")
	p.click("Ring, two dwells")
	p.see("every limit entered is met")
	p.fill("Segment 3: hold, min", "long")
	p.see("is not a number")
	p.see("The curves wait until every field is filled.")
	p.fill("Segment 3: hold, min", "2")
	p.notSee("The curves wait")
	p.fill("Segment 1: at, K/min", "0")
	p.see("the ramp must be above zero")
	p.notSee("every limit entered is met")
	p.fill("Segment 1: at, K/min", "1,5")
	p.see("as changed")
	// A handle is moved by keys: five kelvin hotter.
	p.do(
		chromedp.Evaluate[chromedp.Void](
			`document.querySelector("[role=slider][aria-label^='Segment 3: temperature']").focus()`,
		),
	)
	for range 5 {
		p.press(kb.ArrowUp)
	}
	p.until("the field follows the handle", `[...document.querySelectorAll("input")].some((i) => i.value === "182")`)
	p.set("Something goes wrong", "heaters are lost")
	p.see("Of them, %")
	p.fill("Of them, %", "80")
	p.see("It takes")
	p.click("Without: heaters are lost")
	p.set("Something goes wrong", "the door is opened")
	p.see("planned")
	p.see("The responsible engineer decides")
	p.click("Keep to compare")
	p.see("Min. degree of cure")
	p.click("Save as version 3")
	p.see("version 3, draft")
	p.see("Type the PIN.")
	p.fill("Your PIN again", pin)
	p.click("Release it")
	p.see("a second person has to look at it")
	two := h.recipe(t, "Ring")
	assert.Equal(t, 3, two.Version)
	assert.InDelta(t, 455.15, two.Plan.Recipe.Segments[2].Target, 1e-9)
	assert.InDelta(t, 120, two.Plan.Recipe.Segments[2].Hold, 1e-9)
	assert.NotEqual(t, ring.ID, two.ID)

	q := openPage(t, h)
	q.visit(fmt.Sprint("/cure/recipes/", two.ID))
	q.signIn("Jonas Quist", pin)
	q.see("version 3, draft")
	q.fill("Your PIN again", pin)
	q.click("Release it")
	q.see("version 3, released")
	// What the older one says otherwise, and what is cured by it.
	q.set("Compare with version", "1, superseded")
	q.see("changed")
	q.see("in both")
	q.see("Limits and stack are the same.")
	q.see("SP-24")
}

// The shortest cycle is looked for, stopped with the best so far, and taken; the map is drawn row by row.
func TestTheShortestCycleIsLookedFor(t *testing.T) {
	t.Parallel()
	h := openHouse(t)
	p := openPage(t, h)
	p.visit(fmt.Sprint("/cure/recipes/", h.recipe(t, "Panel").ID))
	p.signIn("Marek Orde", "twelve letters")
	p.click("Find it")
	p.see("cycles tried")
	p.see("every limit entered is met")
	p.click("Stop, keep the best")
	p.click("Take it:")
	p.see("as changed")
	p.click("Draw the map")
	p.see("1 of 12 rows")
	p.click("Stop")
	p.axe("map and shortest cycle")
}

// A new colleague steps through the ring's cure.
func TestACureIsStepped(t *testing.T) {
	t.Parallel()
	h := openHouse(t)
	p := openPage(t, h)
	p.visit(fmt.Sprint("/cure/recipes/", h.recipe(t, "Ring").ID, "/steps"))
	p.signIn("Ines Falk", pin)
	p.see("Under vacuum alone until all seventy-two plies")
	p.click("Next")
	p.see("Pressure while the resin flows")
	p.press(kb.ArrowRight)
	p.see("The rest of the cure")
	p.see("gelled: it keeps its shape")
	// What goes on is that of the place that is looked at.
	p.visit(fmt.Sprint("/cure/recipes/", h.recipe(t, "Panel").ID, "/steps"))
	p.click("Next")
	p.see("It is counted from when the coldest place is warm")
	p.see("2 h 06: hottest")
	p.set("Place", "root")
	p.see("2 h 03: hottest")
	p.notSee("2 h 06: hottest")
}

// A revision takes a recipe as it was released, is simulated by it, and is no longer called so once it is changed by
// hand.
func TestARevisionIsCuredByAReleasedRecipe(t *testing.T) {
	t.Parallel()
	h := openHouse(t)
	v := h.named(t, "SP-25")
	p := openPage(t, h)
	p.visit("/parts/" + v.Part.Code + "?view=process")
	p.signIn("Marek Orde", "twelve letters")
	p.see("no released one")
	p.set("Take a released recipe", "Panel, vacuum oven, version 1: Ember 120, Oven 1")
	p.see("version 1 of Panel, vacuum oven as released")
	p.see("If it runs as planned, in Oven 1")
	p.axe("a process with a released recipe")
	p.click("Keep the process")
	p.see("The process is kept.")
	p.keeps(
		"the recipe that it is",
		v.Part.Code,
		`v.process.from.name === "Panel, vacuum oven" && v.process.equipment === "Oven 1"`,
	)
	p.fill("2: hold, min", "95")
	p.see("no released one")
	p.click("Keep the process")
	p.keeps(
		"what was changed",
		v.Part.Code,
		`v.process.from === undefined && v.process.recipe.segments[1].hold === 5700`,
	)
}

// What cures are done in is entered with the source of its figures, and a change of it is a version.
func TestEquipmentIsEntered(t *testing.T) {
	t.Parallel()
	h := openHouse(t)
	p := openPage(t, h)
	p.visit("/cure/equipment")
	p.signIn("Marek Orde", "twelve letters")
	p.click("Press 1")
	p.see("Mould closing")
	p.fill("Closing force, kN", "a lot")
	p.see("is not a number")
	p.fill("Closing force, kN", "178")
	p.see("Enter the source of the figures.")
	p.fill("Source of the figures", "its plate")
	p.click("Keep as version 2")
	p.see("Version 2 of Press 1 is kept.")
	p.click("Add another")
	p.fill("Name", "Oven 2")
	p.fill("Max. temperature, °C", "180")
	p.fill("Source of the figures", "a run with thermocouples")
	p.click("Keep it")
	p.see("Version 1 of Oven 2 is kept.")
	all, err := h.shop.AllEquipment(context.Background())
	require.NoError(t, err)
	for _, e := range all {
		switch e.Facts.Name {
		case "Press 1":
			assert.InDelta(t, 178e3, e.Facts.Force, 1e-6)
		case "Oven 2":
			assert.InDelta(t, 453.15, e.Facts.Hottest, 1e-9)
		}
	}
}

// A recipe is begun from nothing, read from a curve and from a file; what is none says so and changes nothing.
func TestARecipeIsReadFromFiles(t *testing.T) {
	t.Parallel()
	h := openHouse(t)
	p := openPage(t, h)
	p.visit("/cure/recipes")
	p.signIn("Marek Orde", "twelve letters")
	p.click("Begin a recipe")
	p.see("Enter a name.")
	file := func(name, content string) string {
		path := filepath.Join(t.TempDir(), name)
		require.NoError(t, os.WriteFile(path, []byte(content), 0o600))
		return path
	}
	p.upload(1, file("curve.csv", "time min;set point °C;pressure kPa\n0;20;0\n60;80;0\n120;80;100\n180;20;0\n"))
	p.until("the curve as segments", `document.querySelectorAll("[aria-label='Segments'] tbody tr").length === 2`)
	p.upload(1, file("curve.csv", "time;temperature °C\n0;20\n60;80\n"))
	p.see("no column is a time with its unit")
	p.upload(0, file("recipe.json", `{"recipe":{"segments":[{"to":3}]},"sections":[{"layers":"none"}]}`))
	p.until(
		"a refusal of what is no recipe",
		`document.querySelector("[aria-label='Files'] :is([role=alert], p, li)") !== null`,
	)
	p.until("the segments of before", `document.querySelectorAll("[aria-label='Segments'] tbody tr").length === 2`)
	p.upload(0, file("recipe.json", "no"))
	p.see("This file is not JSON.")
	p.fill("Name (a new name starts a new recipe)", "From a curve")
	p.click("Save as a new recipe")
	p.see("From a curve · version 1, draft")
	made := h.recipe(t, "From a curve")
	require.Len(t, made.Plan.Recipe.Segments, 2)
	assert.InDelta(t, 353.15, made.Plan.Recipe.Segments[0].Target, 0.1)
	assert.InDelta(t, 3600, made.Plan.Recipe.Segments[0].Hold, 1)
	raw, err := json.Marshal(h.recipe(t, "Panel").Plan)
	require.NoError(t, err)
	p.upload(0, file("panel.json", string(raw)))
	p.until("the file's segments", `document.querySelectorAll("[aria-label='Segments'] tbody tr").length === 3`)
	p.see("every limit entered is met")
}

// runAsSimulated records one more finished run: that of a recipe in which the resin reacts so many times as fast as its
// law says.
func (h *house) runAsSimulated(t *testing.T, r recipes.RecipeView, faster float64) string {
	t.Helper()
	ctx := context.Background()
	ovens, err := h.shop.AllEquipment(ctx)
	require.NoError(t, err)
	oven := slices.IndexFunc(ovens, func(e recipes.EquipmentView) bool { return e.Facts.Name == r.Equipment })
	var resin recipes.Resin
	require.NoError(t, h.shop.DB.Gorm.Take(&resin, r.ResinID).Error)
	for k := range resin.Kinetics.Terms {
		resin.Kinetics.Terms[k].A *= faster
	}
	f, err := forecast.Simulate(ctx, calc.CureIn{
		Recipe: r.Plan.Recipe, Equipment: ovens[oven].Facts, Resin: resin.Cures(), Sections: r.Plan.Sections,
		Limits: r.Plan.Limits, Every: 60,
	}.Job())
	require.NoError(t, err)
	runs, err := h.shop.Runs(ctx)
	require.NoError(t, err)
	k := slices.IndexFunc(runs, func(r curing.RunLine) bool { return r.State == "finished" })
	require.GreaterOrEqual(t, k, 0)
	var run curing.Run
	require.NoError(t, h.shop.DB.Gorm.Where("code = ?", runs[k].Code).Take(&run).Error)
	run.ID, run.Code, err = book.NextCode(h.shop.DB.Gorm, "runs", ident.Run)
	require.NoError(t, err)
	run.Process.Recipe = r.Plan.Recipe
	require.NoError(t, h.shop.DB.Gorm.Create(&run).Error)
	var samples []curing.Sample
	for _, x := range f.Log() {
		samples = append(
			samples,
			curing.Sample{
				RunID:    run.ID,
				T:        x.T,
				SetPoint: x.SetPoint,
				Air:      &x.Air,
				Tool:     &x.Tool,
				Lead:     &x.Lead,
				Lag:      &x.Lag,
				Pressure: &x.Pressure,
			},
		)
	}
	require.NoError(t, h.shop.DB.Gorm.CreateInBatches(samples, 200).Error)
	return run.Code
}

// What a run tells is held beside what is kept; it is kept as a version of the vessel and of the resin, once.
func TestWhatARunTellsIsKept(t *testing.T) {
	t.Parallel()
	h := openHouse(t)
	ring := h.recipe(t, "Ring")
	run := h.runAsSimulated(t, ring, 1.2)
	p := openPage(t, h)
	p.visit(fmt.Sprint("/cure/recipes/", ring.ID))
	p.signIn("Marek Orde", "twelve letters")
	p.see("every limit entered is met")
	p.see("Choose a run.")
	of, err := evaluate[string](
		p,
		fmt.Sprintf(`[...document.querySelectorAll("option")].find((o) => o.value === %q).text`, run),
	)
	require.NoError(t, err)
	p.set("Run", of)
	p.click("Compare with model")
	p.see("rate of the reaction, to its law 1.00 1.2")
	p.click("Keep as a version of Autoclave 1")
	p.see("kept as version 2 of Autoclave 1")
	p.notSee("Keep as a version of Autoclave 1")
	p.click("Keep the rate for Kiln 180")
	p.see("kept as version 2 of Kiln 180")
	vessels, err := h.shop.AllEquipment(context.Background())
	require.NoError(t, err)
	k := slices.IndexFunc(vessels, func(e recipes.EquipmentView) bool { return e.Facts.Name == "Autoclave 1" })
	assert.Equal(t, 2, vessels[k].Version)
	assert.Contains(t, vessels[k].Why, "learned from run "+run)
	// A wait for the turn of the viscosity is put in and taken out, in words.
	p.set("Segment 1: wait for more", "after minimum viscosity")
	p.see("as changed")
	p.click("Segment 1: no longer wait until after minimum viscosity")
	p.see("as changed")
	p.visit("/freezer/materials")
	p.click("Version 2")
	p.see("learned from run " + run)
	p.see("changed: reactions, source of its figures")
	// What was released with the figures of before is looked at again.
	p.visit("/cure/recipes")
	p.see("figures are newer than this version")
	p.click("Shutter panel, low pressure")
	p.see("Autoclave 1 has come into version 2 since the release: learned from run " + run)
	p.see("every limit entered is met")
	p.axe("a recipe with newer figures")
	p.click("Save as version 2")
	p.see("Version 2 is saved")
	p.see("version 2, draft")
	p.notSee("since the release")
}

// A handle of the curve is dragged with the mouse; a thicker neighbour is put beside it.
func TestAHandleIsDragged(t *testing.T) {
	t.Parallel()
	h := openHouse(t)
	p := openPage(t, h)
	p.visit(fmt.Sprint("/cure/recipes/", h.recipe(t, "Panel").ID))
	p.signIn("Marek Orde", "twelve letters")
	p.see("every limit entered is met")
	at, err := evaluate[[]float64](
		p,
		`(() => { const h = document.querySelector("[role=slider][aria-label='Segment 2: temperature and ramp']");
		h.scrollIntoView({block: "center"}); const b = h.getBoundingClientRect();
		return [b.x + b.width / 2, b.y + b.height / 2]; })()`,
	)
	require.NoError(t, err)
	p.do(chromedp.MouseEvent(chromedp.MousePressed, at[0], at[1], chromedp.ButtonLeft, chromedp.ClickCount(1)),
		chromedp.MouseEvent(chromedp.MouseMoved, at[0], at[1]-10, chromedp.ButtonLeft),
		chromedp.MouseEvent(chromedp.MouseMoved, at[0], at[1]-20, chromedp.ButtonLeft),
		chromedp.MouseEvent(chromedp.MouseReleased, at[0], at[1]-20, chromedp.ButtonLeft, chromedp.ClickCount(1)))
	p.see("as changed")
	p.until("a hotter segment", `+document.querySelector("[aria-label^='Segment 2: to,']").value > 122`)
	p.click("Undo the changes")
	p.set("Something goes wrong", "a thicker part lies beside it")
	p.see("neighbour, 2 times as thick")
}
