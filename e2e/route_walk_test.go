package e2e

import (
	"context"
	"fmt"
	"net/url"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"juxta/format/pdf/pdftest"
	"juxta/shop/builds"
	"juxta/shop/finish"
)

// called is the operation with a name.
func (h *house) called(t *testing.T, code, says string) finish.WorkStep {
	t.Helper()
	v, err := h.shop.Work(context.Background(), code)
	require.NoError(t, err)
	for _, o := range v.Operations {
		if o.Says == says {
			return o
		}
	}
	t.Fatalf("no operation %q", says)
	return finish.WorkStep{}
}

// ran waits until an operation is done: signed, or its run ended by the recorder at the
// simulated oven.
func (h *house) ran(t *testing.T, code, says string) {
	t.Helper()
	require.Eventually(t, func() bool { return h.called(t, code, says).State == "done" }, 4*patience, 50*time.Millisecond)
}

// The shutter panel from between its first skin and its core to the inspection, in two more
// cures, by the right people, by keys, typed scans and pointer.
func TestASandwichIsWalkedThroughItsCures(t *testing.T) {
	t.Parallel()
	h, works := openWorks(t)
	ctx := context.Background()
	code := works["SP-26 0001"]
	p := openPage(t, h)
	p.visit("/today")
	p.signIn("Ines Falk", pin)
	p.see("Lay of Core")
	// The core: what goes where, and the hold point that stops the work.
	p.visit("/layup/" + code)
	p.see("Lattice 48 core")
	p.see("Hold point: work stops until")
	p.axe("the bench of a core")
	p.press("k")
	p.see("every debulk made")
	// Its bag, reached from the room.
	p.press("6")
	p.see("close of Core: ready")
	p.press("\r")
	p.see("Which stack lies over the part?")
	p.axe("what is closed on a route")
	p.press("k")
	p.fill("Vacuum at start, kPa", "90")
	p.fill("Vacuum at end, kPa", "89.2")
	p.click("Record the leak check")
	p.see("limit met")
	p.press("7")
	p.see("cure of Core")
	// Two vanes and panels may wait: this panel alone is loaded.
	h.onlyLoads(t, p, code)
	h.ran(t, code, "cure of Core")
	// The second skin: scanned ply by ply.
	p.visit("/layup/" + code)
	p.see("lay of Bag skin")
	lay, end := h.called(t, code, "lay of Bag skin").Operation, h.called(t, code, "close of Bag skin").Operation
	for {
		v, err := h.shop.Layup(ctx, code, lay)
		require.NoError(t, err)
		if v.Next == nil {
			break
		}
		switch {
		case v.Next.Debulk:
			p.see("Vacuum is on: start the debulk")
			p.click("Vacuum is on: start the debulk")
			p.see("Vacuum read at the end")
			h.putForward(16 * time.Minute)
			p.visit("/layup/" + code) // with the shop's clock of now
			p.fill("Vacuum read at the end, kPa", "88")
			p.click("Debulk done")
		case v.Next.Demand == "second":
			p.set("Who looked", "Jonas Quist")
			p.fill("Their PIN", pin)
			p.click("I looked at it")
		default:
			p.see(fmt.Sprintf("Lay ply %d", v.Next.Ply)) // the page has asked again
			p.scan(v.NextCut)
			p.see("(scanned)")
			p.press("\r")
		}
		was := *v.Next
		require.Eventually(t, func() bool {
			v, err := h.shop.Layup(ctx, code, lay)
			return err == nil && (v.Next == nil || *v.Next != was)
		}, patience, 20*time.Millisecond, "%+v", was)
	}
	_, err := h.shop.CloseBag(ctx, h.as(t, "Ines Falk"), code, end, "no bleed")
	require.NoError(t, err)
	_, err = h.shop.CheckLeak(ctx, h.as(t, "Ines Falk"), code, end, builds.NewLeakCheck{
		Start: 90e3, End: 89e3, Seconds: 300,
	})
	require.NoError(t, err)
	p.visit("/cure")
	p.see("cure of Bag skin")
	h.onlyLoads(t, p, code)
	h.ran(t, code, "cure of Bag skin")
	// Out of the tool, trimmed, inspected: the way of the build, one after the other.
	p.visit("/finish/" + code + "?operation=demould")
	p.fill("The part reads, °C", "75")
	p.click("Sign: done")
	p.see("the part reads 75 °C, and is opened below 60 °C")
	p.fill("The part reads, °C", "41")
	p.click("Sign: done")
	h.ran(t, code, "demould")
	p.visit("/finish/" + code + "?operation=trim")
	p.click("Sign: done")
	h.ran(t, code, "trim")
	p.visit("/finish/" + code + "?operation=inspect")
	p.set("dry spots, bridging, folds", "none")
	p.click("Sign: done")
	h.ran(t, code, "inspect")
	p.become("Jonas Quist", pin)
	p.visit("/release/" + code)
	p.see("Weigh it")
	p.visit("/thread/" + code)
	p.see("19 of 20 operations done")
	p.axe("the thread of a build on its route")
	assert.Equal(t, "ready", h.called(t, code, "release").State)
}

// onlyLoads leaves every other build out of the oven, and starts the run.
func (h *house) onlyLoads(t *testing.T, p *page, code string) {
	t.Helper()
	page, err := h.shop.Builds(context.Background(), builds.BuildQuery{Room: "cure"})
	require.NoError(t, err)
	for _, b := range page.Builds {
		box := fmt.Sprintf(
			`[...document.querySelectorAll("label")].find((l) => l.innerText.includes(%q))?.querySelector("input")`,
			b.Number+" · "+b.Serial,
		)
		p.until("the box of "+b.Number, box)
		p.do(chromedp.Evaluate[chromedp.Void](
			fmt.Sprintf(`(() => { const b = %s; if (b.checked !== %t) b.click(); })()`, box, b.Code == code),
		))
	}
	p.click("Start run with 1 part")
	p.see("Segment 1 of")
}

// The hollow yoke arm from its laid pre-form to the press: the tool prepared, a pre-form of
// another build refused by name, the closing plies laid at the join, closed round a bladder
// without a leak check, pressed warm, and loaded.
func TestAHollowPartIsJoinedClosedAndLoaded(t *testing.T) {
	t.Parallel()
	h, works := openWorks(t)
	ctx := context.Background()
	code := works["SP-27 0001"]
	orde := h.as(t, "Marek Orde")
	v, err := h.shop.Revision(ctx, h.named(t, "SP-27").Part.Code, "")
	require.NoError(t, err)
	other, err := h.shop.StartBuild(ctx, orde, v.Part.Code, builds.NewBuild{
		Serial: "0003", CureAt: h.shop.Now().Add(90 * time.Hour),
	})
	require.NoError(t, err)
	label := func(code, form string) string {
		t.Helper()
		bench, err := h.shop.Layup(ctx, code, h.called(t, code, "lay of "+form).Operation)
		require.NoError(t, err)
		require.Len(t, bench.Preforms, 1)
		return bench.Preforms[0].Code
	}
	p := openPage(t, h)
	p.visit("/finish/" + code + "?operation=" + url.QueryEscape(h.called(t, code, "prepare tool").Operation))
	p.signIn("Ines Falk", pin)
	p.click("Sign: done")
	h.ran(t, code, "prepare tool")
	join := h.called(t, code, "join")
	p.visit("/finish/" + code + "?operation=" + url.QueryEscape(join.Operation))
	p.see("scan each label")
	p.axe("a join")
	// Of another build, and the right one: typed, then scanned.
	p.fill("Label of a pre-form", label(other.Code, "Lower half"))
	p.click("Take it")
	p.see("is a pre-form of SP-27 · 0003")
	for _, form := range []string{"Tip", "Lower half", "Inner web"} {
		p.scan(label(code, form))
		p.see(label(code, form) + " is " + form)
	}
	p.scan(label(code, "Tip"))
	p.see("is scanned already")
	p.click("Sign: done")
	p.see("lay the plies that close the joint first")
	p.click("the bench")
	for {
		bench, err := h.shop.Layup(ctx, code, join.Operation)
		require.NoError(t, err)
		if bench.Next == nil {
			break
		}
		if bench.Next.Debulk {
			_, err = h.shop.StartDebulk(ctx, h.as(t, "Ines Falk"), code, join.Operation)
			require.NoError(t, err)
			h.putForward(16 * time.Minute)
			_, err = h.shop.EndDebulk(ctx, h.as(t, "Ines Falk"), code, join.Operation, builds.DebulkEnd{Vacuum: 88e3})
			require.NoError(t, err)
			p.visit("/layup/" + code + "?operation=" + url.QueryEscape(join.Operation))
			continue
		}
		p.see(fmt.Sprintf("Lay ply %d", bench.Next.Ply))
		p.scan(bench.NextCut)
		p.see("(scanned)")
		p.press("\r")
		was := *bench.Next
		require.Eventually(t, func() bool {
			bench, err := h.shop.Layup(ctx, code, join.Operation)
			return err == nil && (bench.Next == nil || *bench.Next != was)
		}, patience, 20*time.Millisecond)
	}
	p.visit("/finish/" + code + "?operation=" + url.QueryEscape(join.Operation))
	p.see("✓ scanned") // kept on the device while the plies were laid
	p.click("Sign: done")
	h.ran(t, code, "join")
	p.press("6")
	p.see("Bladder in, tool closed: ready")
	p.press("\r")
	p.click("mould and bladder")
	p.click("It is closed")
	p.see("there is nothing to check for leaks")
	// The warm debulk has a recipe of its own: it is a run.
	p.visit("/cure")
	p.see("Yoke arm, hollow: Warm debulk in the closed tool")
	p.see("warm debulk, 60 °C")
	h.onlyLoads(t, p, code)
	h.ran(t, code, "Warm debulk in the closed tool")
	p.visit("/cure")
	p.see("Yoke arm, hollow: cure")
	h.onlyLoads(t, p, code)
	h.ran(t, code, "cure")
	// Out of the press, finished, looked at: one after the other on the way of the build.
	next := func(says string, fill func()) {
		t.Helper()
		p.visit("/finish/" + code + "?operation=" + url.QueryEscape(h.called(t, code, says).Operation))
		p.see(says)
		if fill != nil {
			fill()
		}
		p.click("Sign: done")
		h.ran(t, code, says)
	}
	next("demould", func() { p.fill("The part reads, °C", "38") })
	next("Flash taken off", nil)
	next("drill", nil)
	next("inspect", func() { p.set("dry spots, bridging, folds", "none") })
	// The technician measures, quality signs.
	p.become("Jonas Quist", pin)
	p.visit("/release/" + code)
	p.see("Mass on the scale")
	sheet, err := h.shop.ReleaseOf(ctx, code)
	require.NoError(t, err)
	p.fill("Mass on the scale", fmt.Sprintf("%.4f", sheet.Mass.Expected))
	p.fill("Thickness 1", fmt.Sprintf("%.3f", sheet.Thickness.Expected*1e3))
	p.fill("Your PIN again", pin)
	p.click("Sign: good")
	p.see("signed by Jonas Quist")
	require.Equal(t, "done", h.called(t, code, "release").State)
	_, text := pdftest.Read(t, []byte(p.fetched("/api/thread/builds/"+code+"/record.pdf")))
	for _, says := range []string{
		"warm debulk, 60 °C", label(code, "Inner web"), "Bladder in, tool closed", "Disposition: good",
	} {
		assert.Contains(t, text, says)
	}
}
