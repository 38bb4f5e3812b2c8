package e2e

import (
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"juxta/core/master"
)

// A planner rolls a tube: what does not fit is told with what would, a wrong figure is told at
// its place and stored nowhere, a sheet is put on another way and changed by hand, and the flats
// are those of the revision.
func TestAPlannerDevelopsATube(t *testing.T) {
	t.Parallel()
	h := openHouse(t)
	p := openPage(t, h)
	v := h.named(t, "SP-28")
	tube := func() master.Stage { return h.named(t, "SP-28").Document.Stages[0] }
	kept := func(what string, is func(s master.Stage) bool) {
		t.Helper()
		require.Eventually(t, func() bool { return is(tube()) }, patience, 30*time.Millisecond, what)
	}
	before := tube().Items[0].Flat.Area()
	p.visit("/parts/" + v.Part.Code + "?view=patterns")
	p.signIn("Marek Orde", password)
	p.see("round, 40.0 mm")
	p.see("rectangle, 800.0 × 141.1 mm")
	p.see("The outside is within tolerance, also at the limits of all materials.")
	open := `document.querySelectorAll("details").forEach((d) => (d.open = true))`
	p.do(chromedp.Evaluate[chromedp.Void](open))
	p.axe("a rolled stage, its forms open")
	// A thicker mandrel does not fit: what would is told, and every flat grows.
	p.fill("Diameter, mm", "40,5")
	p.see("The outside is 0.52 mm too large.")
	p.see("a mandrel of 39.98 mm across: meets it")
	p.see("2 wraps fewer of Sable UD 150")
	p.see("Kept")
	kept(
		"a wider flat",
		func(s master.Stage) bool { return s.Rolled.Width == 0.0405 && s.Items[0].Flat.Area() > before },
	)
	// Letters, nothing, and what cannot be: told at the place, stored nowhere.
	p.fill("Diameter, mm", "forty")
	p.see("is not a number")
	p.fill("Diameter, mm", "40")
	p.set("Section", "hexagon")
	p.fill("Corner radius, mm", "30")
	p.see("the corner radius of 30.0 mm exceeds half of the section's shorter side")
	p.see("Not kept: correct the faults first")
	assert.Equal(t, "round", tube().Rolled.Section)
	p.fill("Corner radius, mm", "4")
	p.see("hexagon, 40.0 mm")
	p.set("Section", "round")
	p.see("round, 40.0 mm")
	// Another way to put a sheet on.
	p.click("Show ply 2")
	p.see("overlapping")
	p.set("Method", "one long sheet wound as a spiral")
	p.see("parallelogram")
	kept("a spiral", func(s master.Stage) bool { return s.Items[1].Wrap != nil && s.Items[1].Wrap.How == "spiral" })
	p.set("Method", "strips or tape at a pitch")
	p.fill("Strip width, mm", "500")
	p.see("a strip of 500 mm is wider than the way round")
	p.fill("Strip width, mm", "20")
	p.fill("Strips side by side", "6")
	p.see("strip, ")
	p.see("6, overlapping 0.5 %")
	kept("six strips", func(s master.Stage) bool {
		return s.Items[1].Flat != nil && len(s.Items[1].Flat.Pieces) == 6 && s.Items[1].Wrap.Starts == 6
	})
	// By hand: it stays, and says so.
	p.click("Show ply 1")
	p.click("Edit by hand")
	p.see("Changed by hand: it stays as it is")
	kept("by hand", func(s master.Stage) bool { return s.Items[0].Flat.Hand })
	p.click("Derive again")
	kept("derived again", func(s master.Stage) bool { return !s.Items[0].Flat.Hand })
	// Angle for a stiffness.
	p.do(chromedp.Evaluate[chromedp.Void](open))
	p.do(chromedp.Evaluate[chromedp.Void](
		`[...document.querySelectorAll("fieldset label")].find((l) => l.textContent.trim() === "ply 3").click()`))
	p.see("GJ, at most")
	p.fill("Torsion GJ wanted, N m²", "1")
	p.see("No angle of these sheets gives that GJ.")
	// What lies flat says so.
	p.set("Stage", "Fittings")
	p.see("Its plies lie flat")
}

// A planner looks at how a petal lies on its tool, walks the threads by keyboard, lays it on first
// somewhere else, and is told what cannot be.
func TestAPlannerDrapesAPetal(t *testing.T) {
	t.Parallel()
	h := openHouse(t)
	p := openPage(t, h)
	v := h.named(t, "SP-25")
	ply := func() master.Item { return h.named(t, "SP-25").Document.Stages[0].Items[0] }
	p.visit("/parts/" + v.Part.Code + "?view=patterns")
	p.signIn("Marek Orde", password)
	p.see("Covers on the tool")
	p.see("Point at a place")
	before := ply().Flat.Pieces[0].Points
	p.click("From above")
	p.do(chromedp.Evaluate[chromedp.Void](`document.querySelector("svg[role=application]").focus()`))
	for range 12 {
		p.press(kb.ArrowRight)
	}
	p.press(kb.ArrowUp)
	p.see("Here: sheared by")
	p.click("Start here")
	require.Eventually(t, func() bool {
		i := ply()
		return i.Laid != nil && i.Laid.X != nil && *i.Laid.X > 0.02 && len(i.Flat.Pieces) == 1 &&
			!assert.ObjectsAreEqual(before, i.Flat.Pieces[0].Points)
	}, patience, 30*time.Millisecond)
	p.see("Kept")
	// Off the surface: told, and the ply has no flat to be cut by.
	p.fill("Start x, mm", "3000")
	p.see("the start lies off the surface: choose a place on it")
	p.see("cannot be laid")
	p.fill("Start x, mm", "0")
	p.fill("y, mm", "350")
	p.notSee("cannot be laid")
	// Another surface, one that cannot be, and what is too small for the ply.
	p.do(chromedp.Evaluate[chromedp.Void](`document.querySelectorAll("details").forEach((d) => (d.open = true))`))
	p.fill("Focal length, mm", "letters")
	p.see("is not a number")
	p.fill("Focal length, mm", "350")
	p.fill("Inner radius, mm", "700")
	p.see("a paraboloid's inner radius lies below its outer one")
	p.see("Not kept: correct the faults first")
	p.fill("Inner radius, mm", "200")
	p.see("the ply reaches over the edge of the surface at")
	p.click("Show ply 4")
	p.see("ply 4, Sable twill 200")
	p.see("Flat, 0.012 m²")
}
