package e2e

import (
	"context"
	"regexp"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"juxta/core/unit"
	"juxta/shop/book"
)

var inches = unit.System{Length: "in", Temperature: "F", Pressure: "psi", Vacuum: "inHg", Mass: "lb", Area: "ft2"}

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

func (h *house) reads(t testing.TB, name string, units unit.System) {
	t.Helper()
	_, err := h.shop.ChangePreferences(context.Background(), h.as(t, name), book.Preferences{Units: units})
	require.NoError(t, err)
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
