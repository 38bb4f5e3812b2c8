package e2e

import (
	"context"
	"fmt"
	"math"
	"slices"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"juxta/core/master"
)

// at puts the focus onto an operation of the drawing.
func (p *page) at(key string) {
	p.t.Helper()
	box := fmt.Sprintf(`document.querySelector('[data-operation="%s"]')`, key)
	p.until("the operation "+key, box)
	p.do(chromedp.Evaluate[chromedp.Void](box+`.click()`), chromedp.Evaluate[chromedp.Void](box+`.focus()`))
}

const atKey = `document.activeElement.dataset.operation ?? ""`

// A planner lays a route by a template, walks it by keyboard, puts an operation in and
// says what it waits for; what cannot be is said at the place and nothing is lost.
func TestAPlannerWritesTheRoute(t *testing.T) {
	t.Parallel()
	h := openHouse(t)
	p := openPage(t, h)
	v := h.named(t, "SP-25")
	route := func() []master.Operation { return h.named(t, "SP-25").Document.Route }
	kept := func(what string, is func(all []master.Operation) bool) {
		t.Helper()
		require.Eventually(t, func() bool { return is(route()) }, patience, 30*time.Millisecond, what)
	}
	p.visit("/parts/" + v.Part.Code + "?view=route")
	p.signIn("Marek Orde", password)
	p.see("10 operations, critical path")
	p.see("No problems found")
	// By keyboard alone: along the lines, between the lanes, a new operation, another kind.
	p.at("cut")
	p.press(kb.ArrowRight)
	p.until("the kit", atKey+` === "kit"`)
	p.press(kb.ArrowRight)
	p.press(kb.ArrowRight)
	p.press(kb.ArrowRight)
	p.until("the cure", atKey+` === "cure"`)
	p.press("n")
	p.until("the new one", atKey+` === "cure 2"`)
	p.see("11 operations")
	kept("the new operation", func(all []master.Operation) bool {
		k := slices.IndexFunc(all, func(o master.Operation) bool { return o.Key == "demould" })
		return len(all) == 11 && slices.Equal(all[k].After, []string{"cure 2"})
	})
	p.set("Kind", "outside")
	p.fill("Name (empty", "Looked through by ultrasound")
	p.see("Looked through by ultrasound")
	p.fill("Running unattended, min", "2880")
	p.see("48 h")
	// Something to record, with a limit that cannot be.
	p.click("Add a record")
	p.fill("What is recorded", "largest flaw")
	p.fill("Unit", "mm")
	p.fill("min.", "3")
	p.fill("max.", "2")
	p.see("the minimum of largest flaw is above its maximum")
	p.see("Not kept: correct the faults first")
	p.fill("min.", "0")
	p.see("Kept")
	kept("the field", func(all []master.Operation) bool {
		k := slices.IndexFunc(all, func(o master.Operation) bool { return o.Key == "cure 2" })
		return len(all[k].Fields) == 1 && all[k].Fields[0].Most != nil && *all[k].Fields[0].Most == 2
	})
	// What waits for each other is said with its names, and is no route.
	p.at("cut")
	p.press("w")
	p.until("waits for", `document.activeElement.type === "checkbox"`)
	release := `[...document.querySelectorAll("fieldset label")].find((l) => l.textContent.endsWith("Release"))`
	p.do(chromedp.Evaluate[chromedp.Void](release + `.click()`))
	p.see("these wait for each other, so none can begin")
	p.see("Not kept")
	assert.Len(t, route(), 11)
	p.axe("a route that is faulty")
	p.do(chromedp.Evaluate[chromedp.Void](release + `.click()`))
	p.see("Kept")
	// Taken out, what waited for it waits for what it waited for.
	p.at("cure 2")
	p.press(kb.Delete)
	p.see("10 operations")
	kept("taken out", func(all []master.Operation) bool {
		k := slices.IndexFunc(all, func(o master.Operation) bool { return o.Key == "demould" })
		return len(all) == 10 && slices.Equal(all[k].After, []string{"cure"})
	})
	// A cure with a recipe of its own: what no oven could do is told, and nothing is lost.
	p.at("cure")
	p.see("as the process of the revision")
	p.set("Recipe of the run", "its own")
	p.fill("1: to, °C", "700")
	p.see("segment 1: a target of 700 °C is not possible here")
	p.see("Not kept")
	p.fill("1: to, °C", "90")
	p.fill("Name of the recipe", "skin, 90 first")
	p.see("Kept")
	p.do(chromedp.Evaluate[chromedp.Void](`document.querySelector("summary").click()`))
	p.see("If it runs as planned")
	kept("its own recipe", func(all []master.Operation) bool {
		h := all[slices.IndexFunc(all, func(o master.Operation) bool { return o.Key == "cure" })].Heat
		return h != nil && h.Recipe.Name == "skin, 90 first" && math.Abs(h.Recipe.Segments[0].Target-363.15) < 1e-9
	})
	p.axe("an operation with a recipe")
	p.at("close")
	p.set("Closing", "its own")
	p.set("Closed with", "tape")
	p.see("no leak check")
	kept("bag", func(all []master.Operation) bool {
		c := all[slices.IndexFunc(all, func(o master.Operation) bool { return o.Key == "close" })].Closing
		return c != nil && c.Stack == "tape"
	})
	// Of another kind it has nothing of the sort; and back to what the process says.
	p.set("Closing", "as the process of the revision")
	kept("as the process says", func(all []master.Operation) bool {
		return all[slices.IndexFunc(all, func(o master.Operation) bool { return o.Key == "close" })].Closing == nil
	})
	p.click("As a table")
	p.see("Duration, place")
	p.axe("the route as a table")
	// Ways explain themselves, and those that do not fit say why.
	p.set("Template", "Sandwich in three cures")
	p.see("no stage is a core")
	p.set("Template", "Wet layup, cold cure, demould, post-cure")
	p.see("The pot of each mix")
	p.click("Replace the route by this template")
	p.see("post-cure")
	kept("the way", func(all []master.Operation) bool {
		return slices.ContainsFunc(all, func(o master.Operation) bool { return o.Kind == "post-cure" })
	})
	assert.Equal(t, "juxta master 2", h.named(t, "SP-25").Document.Format)
	// Who may not write reads.
	p.become("Ines Falk", pin)
	p.visit("/parts/" + v.Part.Code + "?view=route")
	p.see("operations, critical path")
	p.notSee("Replace the route")
	p.notSee("New operation after it")
	p.at("cut")
	p.press("n")
	p.press(kb.Delete)
	n, err := h.shop.VerifyLog(context.Background())
	require.NoError(t, err)
	assert.Positive(t, n)
	assert.NotEmpty(t, route())
}
