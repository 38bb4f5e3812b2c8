package e2e

import (
	"context"
	"encoding/json"
	"fmt"
	"regexp"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"juxta/core/unit"
	"juxta/shop/book"
)

var inches = unit.System{Length: "in", Temperature: "F", Pressure: "psi", Vacuum: "inHg", Mass: "lb", Area: "ft2"}

// fields are the labels of the number fields that a page shows, with their values.
func (p *page) fields() map[string]string {
	p.t.Helper()
	got, err := evaluate[map[string]string](
		p,
		`Object.fromEntries([...document.querySelectorAll("main input[inputmode=decimal]")]
		.map((f) => [f.labels?.[0]?.textContent ?? f.getAttribute("aria-label"), f.value]))`,
	)
	require.NoError(p.t, err)
	return got
}

// own is a metric label with the unit of inches and °F, and what a value in the
// metric unit is in it: written down here once more, apart from the page's table.
func own(label string) (string, func(v float64) float64) {
	vacuum := !regexp.MustCompile(`(?i)pressure|stands in cure`).MatchString(label)
	parts := regexp.MustCompile(`^(.*), (mm|m|m²|°C|K/min|K|kPa|kg)( below| \(.*\))?$`).FindStringSubmatch(label)
	if parts == nil {
		return label, func(v float64) float64 { return v }
	}
	of := map[string]struct {
		own string
		to  func(v float64) float64
	}{
		"mm":    {"in", func(v float64) float64 { return v / 25.4 }},
		"m":     {"ft", func(v float64) float64 { return v / 0.3048 }},
		"m²":    {"ft²", func(v float64) float64 { return v / (0.3048 * 0.3048) }},
		"°C":    {"°F", func(v float64) float64 { return v*9/5 + 32 }},
		"K/min": {"°F/min", func(v float64) float64 { return v * 9 / 5 }},
		"K":     {"°F", func(v float64) float64 { return v * 9 / 5 }},
		"kPa":   {"psi", func(v float64) float64 { return v / 6.894757293168 }},
		"kg":    {"lb", func(v float64) float64 { return v / 0.45359237 }},
	}[parts[2]]
	if parts[2] == "kPa" && vacuum {
		of.own, of.to = "inHg", func(v float64) float64 { return v / 3.386389 }
	}
	return parts[1] + ", " + of.own + parts[3], of.to
}

func (h *house) reads(t *testing.T, name string, units unit.System) {
	t.Helper()
	_, err := h.shop.ChangeWays(context.Background(), h.as(t, name), book.Ways{Units: units})
	require.NoError(t, err)
}

// Every field of the pages that keep numbers is shown in the person's units, and
// typed anew in them it makes the record that it was.
func TestEveryFieldIsTheSameInBothSystems(t *testing.T) {
	t.Parallel()
	h := openHouse(t)
	p := openPage(t, h)
	draft := h.build(t, "0003").Part
	pages := []struct{ path, sees, opens string }{
		{"/parts/" + draft + "?view=process", "Demould", ""},
		{"/freezer/materials", "Resin systems", "Change it"},
		{"/freezer/materials", "Resin systems", "Change Ember 120"},
		{fmt.Sprint("/cure/recipes/", h.recipe(t, "Ring").ID), "every limit entered is met", "All figures"},
		{"/cure/equipment", "How heat comes to the part", ""},
	}
	record := func() string {
		v, err := h.shop.Revision(context.Background(), draft, "")
		require.NoError(t, err)
		raw, err := json.Marshal(v.Process)
		require.NoError(t, err)
		return string(raw)
	}
	before := record()
	p.visit("/parts")
	p.signIn("Marek Orde", password)
	seen, typed := 0, 0
	for _, page := range pages {
		h.reads(t, "Marek Orde", unit.System{})
		p.visit(page.path)
		p.see(page.sees)
		if page.opens != "" {
			p.click(page.opens)
		}
		metric := p.fields()
		require.NotEmpty(t, metric, page.path)
		h.reads(t, "Marek Orde", inches)
		p.visit(page.path)
		p.see(page.sees)
		if page.opens != "" {
			p.click(page.opens)
		}
		shown := p.fields()
		headed, err := evaluate[[]string](p, `[...document.querySelectorAll("main th")].map((h) => h.textContent)
			.filter((h) => /, (mm|m|°C|K|K\/min|kPa|kg|m²)$/.test(h))`)
		require.NoError(t, err)
		assert.Empty(t, headed, "columns of %s that stay metric", page.path)
		for label, text := range metric {
			called, to := own(label)
			value, there := shown[called]
			if !assert.True(t, there, "%s of %s is not shown as %q", label, page.path, called) || text == "" {
				continue
			}
			seen++
			var v, got float64
			_, err := fmt.Sscan(text, &v)
			require.NoError(t, err, label)
			_, err = fmt.Sscan(value, &got)
			require.NoError(t, err, called)
			assert.InEpsilon(t, 1+to(v), 1+got, 1e-4, "%s: %s is shown as %s", called, text, value)
		}
	}
	assert.Greater(t, seen, 20)
	// Typed with a unit and without, in inches and in mm, the record is the same.
	h.reads(t, "Marek Orde", inches)
	p.visit(pages[0].path)
	p.see(pages[0].sees)
	for label, text := range p.fields() {
		metric := regexp.MustCompile(`^(.*), (inHg|°F|°F/min)$`).FindStringSubmatch(label)
		if metric == nil || text == "" {
			continue
		}
		typed++
		p.fill(label, text+" "+metric[2])
	}
	assert.Greater(t, typed, 6)
	p.fill("at least, inHg", "80 kPa")
	p.fill("Leak: starts at, inHg", "80 kPa")
	p.press("\t")
	p.press("\t")
	p.until(
		"what was typed in kPa",
		`[...document.querySelectorAll("main input")].filter((f) => f.value === "23.624").length > 0`,
	)
	p.click("Keep the process")
	p.notSee("not kept yet")
	close := regexp.MustCompile(`-?[0-9]+(\.[0-9]+)?(e[+-][0-9]+)?`)
	was, is := close.FindAllString(before, -1), close.FindAllString(record(), -1)
	require.Len(t, is, len(was))
	for k := range was {
		var a, b float64
		_, _ = fmt.Sscan(was[k], &a)
		_, _ = fmt.Sscan(is[k], &b)
		assert.InDelta(t, a, b, 1e-4*max(1, a), "number %d of the process", k)
	}
}

// Whoever switches single keys off is not surprised by one; whoever moves one
// presses it where it is now.
func TestKeysAreWherePeoplePutThem(t *testing.T) {
	t.Parallel()
	h := openHouse(t)
	p := openPage(t, h)
	p.visit("/shop/mine")
	p.signIn("Ines Falk", pin)
	p.see("What single keys do")
	p.axe("my units and keys")
	p.fill("A: receive a delivery", "x")
	p.click("Use these keys")
	p.until("the key is kept", `[...document.querySelectorAll("input")].some((f) => f.value === "x")`)
	p.visit("/freezer")
	p.see("To take out for the cut")
	p.press("a")
	p.press("x")
	p.until("the delivery", `location.pathname === "/freezer/receive"`)
	p.visit("/shop/mine")
	p.click("Single keys do nothing")
	p.notSee("Use these keys")
	p.visit("/freezer")
	p.see("To take out for the cut")
	p.press("x")
	p.press("2")
	p.until("it stayed where it was", `location.pathname === "/freezer"`)
	p.visit("/shop/mine")
	p.click("inches and feet")
	p.until("the focus stays on what was "+
		"chosen", `document.activeElement?.value === "in" && document.activeElement.checked`)
	require.Eventually(
		t, func() bool { return strings.Contains(p.fetched("/api/session"), `"length":"in"`) }, patience,
		50*time.Millisecond,
	)
	p.visit("/freezer")
	p.see("ft left")
	p.visit("/layup/" + h.build(t, "0002").Code)
	p.see("x 1.181")
	p.see("y 4.724 in")
	// The first stop of the keyboard leads past the route.
	p.press("\t")
	p.until("the way to the page", `document.activeElement.textContent === "To the page"`)
	p.press("\r")
	p.until("the page", `document.activeElement.id === "page" || location.hash === "#page"`)
}
