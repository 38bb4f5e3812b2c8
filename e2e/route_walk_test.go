package e2e

import (
	"context"
	"fmt"
	"net/url"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/require"

	"juxta/shop/builds"
	"juxta/shop/finish"
)

// called is the operation with a name.
func (h *house) called(t *testing.T, code, says string) finish.WorkStep {
	t.Helper()
	v, err := h.shop.Work(context.Background(), code)
	require.NoError(t, err)
	for _, o := range v.Operations {
		if o.Label == says {
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
	require.Eventually(
		t,
		func() bool { return h.called(t, code, says).State == "done" },
		4*patience,
		50*time.Millisecond,
	)
}

// The core of the shutter panel between two cures of its skins: at the bench, in its bag and
// through the oven, by keys and pointer. The whole way is walked in the tests of the shop.
func TestTheCoreOfASandwichIsLaidClosedAndCured(t *testing.T) {
	t.Parallel()
	h, works := openWorks(t)
	code := works["SP-26 0001"]
	p := openPage(t, h)
	p.visit("/today")
	p.signIn("Ines Falk", pin)
	p.see("Lay up Core")
	// The core: what goes where, and the hold point that stops the work.
	p.visit("/layup/" + code)
	p.see("Lattice 48 core")
	p.see("Hold point: work stops until")
	p.axe("the bench of a core")
	p.press("k")
	p.see("every debulk made")
	// Its bag, reached from the room.
	p.press("6")
	p.see("Bag Core: ready")
	p.press("\r")
	p.see("Bag stack")
	p.axe("what is closed on a route")
	p.press("k")
	p.fill("Vacuum at start, kPa", "90")
	p.fill("Vacuum at end, kPa", "89.2")
	p.click("Record the leak check")
	p.see("limit met")
	p.press("7")
	p.see("Cure Core")
	// Two vanes and panels may wait: this panel alone is loaded.
	h.onlyLoads(t, p, code)
	h.ran(t, code, "Cure Core")
	p.visit("/thread/" + code)
	p.see("of 20 operations done")
	p.axe("the thread of a build on its route")
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

// The pre-forms of the hollow yoke arm are scanned at the join, one of another build refused
// by name, and its closing plies laid at the bench. How it goes on from there, round its
// bladder and through the press to its release, is walked in the tests of the shop.
func TestAHollowPartIsJoined(t *testing.T) {
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
		bench, err := h.shop.Layup(ctx, code, h.called(t, code, "Lay up "+form).Operation)
		require.NoError(t, err)
		require.Len(t, bench.Preforms, 1)
		return bench.Preforms[0].Code
	}
	p := openPage(t, h)
	p.visit("/finish/" + code + "?operation=" + url.QueryEscape(h.called(t, code, "Prepare tool").Operation))
	p.signIn("Ines Falk", pin)
	p.click("Sign: done")
	h.ran(t, code, "Prepare tool")
	join := h.called(t, code, "Join")
	p.visit("/finish/" + code + "?operation=" + url.QueryEscape(join.Operation))
	p.see("scan each label")
	p.axe("a join")
	// Of another build, and the right one: typed, then scanned.
	p.fill("Label of a pre-form", label(other.Code, "Lower half"))
	p.click("Add")
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
	bench, err := h.shop.Layup(ctx, code, join.Operation)
	require.NoError(t, err)
	p.see(fmt.Sprintf("Lay ply %d", bench.Next.Ply))
	p.scan(bench.NextCut)
	p.see("(scanned)")
	p.press("\r")
	require.Eventually(t, func() bool {
		now, err := h.shop.Layup(ctx, code, join.Operation)
		return err == nil && (now.Next == nil || *now.Next != *bench.Next)
	}, patience, 20*time.Millisecond)
	p.visit("/finish/" + code + "?operation=" + url.QueryEscape(join.Operation))
	p.see("✓ scanned") // kept on the device while the ply was laid
}
