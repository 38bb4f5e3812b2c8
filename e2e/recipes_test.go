package e2e

import (
	"context"
	"fmt"
	"strings"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"juxta/shop/curing"
)

func (h *house) recipe(t *testing.T, name string) curing.RecipeView {
	t.Helper()
	all, err := h.shop.Recipes(context.Background())
	require.NoError(t, err)
	for _, r := range all {
		if strings.HasPrefix(r.Name, name) {
			return r
		}
	}
	require.Fail(t, "there is no recipe "+name)
	return curing.RecipeView{}
}

// A cure is planned: wrong entries are said at their place, the curves follow what is typed and what is moved on the
// handles, what goes wrong is laid beside it, and what is saved is released by a second person.
func TestACureIsPlanned(t *testing.T) {
	t.Parallel()
	h := openHouse(t)
	ring := h.recipe(t, "Ring")
	p := openPage(t, h.url)
	p.visit("/cure/recipes")
	p.signIn("Marek Orde", "twelve letters")
	p.click("Ring, two dwells")
	p.see("every limit entered is met")
	p.axe("a cure is planned")
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
	p.do(chromedp.Evaluate[chromedp.Void](`document.querySelector("[role=slider][aria-label^='Segment 3: temperature']").focus()`))
	for range 5 {
		p.press(kb.ArrowUp)
	}
	p.until("the field follows the handle", `[...document.querySelectorAll("input")].some((i) => i.value === "182")`)
	p.set("Something goes wrong", "the door is opened")
	p.see("planned")
	p.see("The responsible engineer decides")
	p.click("Keep this one to compare")
	p.see("Degree of cure, least")
	p.click("Save as version 2")
	p.see("version 2, draft")
	p.see("Type the PIN.")
	p.fill("Your PIN again", pin)
	p.click("Release it")
	p.see("a second person has to look at it")
	two := h.recipe(t, "Ring")
	assert.Equal(t, 2, two.Version)
	assert.InDelta(t, 455.15, two.Plan.Recipe.Segments[2].Target, 1e-9)
	assert.InDelta(t, 120, two.Plan.Recipe.Segments[2].Hold, 1e-9)
	assert.NotEqual(t, ring.ID, two.ID)

	q := openPage(t, h.url)
	q.visit(fmt.Sprint("/cure/recipes/", two.ID))
	q.signIn("Jonas Quist", pin)
	q.see("version 2, draft")
	q.fill("Your PIN again", pin)
	q.click("Release it")
	q.see("version 2, released")
}

// The shortest cycle is looked for, stopped with the best so far, and taken; the map is drawn row by row.
func TestTheShortestCycleIsLookedFor(t *testing.T) {
	t.Parallel()
	h := openHouse(t)
	p := openPage(t, h.url)
	p.visit(fmt.Sprint("/cure/recipes/", h.recipe(t, "Panel").ID))
	p.signIn("Marek Orde", "twelve letters")
	p.click("Look for it")
	p.see("cycles tried")
	p.see("every limit entered is met")
	p.click("Stop, the best so far stays")
	p.click("Take it:")
	p.see("as changed")
	p.click("Draw it")
	p.see("1 of 12 rows")
	p.click("Stop")
	p.axe("map and shortest cycle")
}

// A new colleague steps through the ring's cure.
func TestACureIsStepped(t *testing.T) {
	t.Parallel()
	h := openHouse(t)
	p := openPage(t, h.url)
	p.visit(fmt.Sprint("/cure/recipes/", h.recipe(t, "Ring").ID, "/steps"))
	p.signIn("Ines Falk", pin)
	p.see("Under vacuum alone until all seventy-two plies")
	p.axe("a cure is stepped through")
	p.click("Next")
	p.see("Pressure while the resin flows")
	p.press(kb.ArrowRight)
	p.see("The rest of the cure")
	p.see("gelled: it keeps its shape")
}
