package e2e

import (
	"context"
	"fmt"
	"os"
	"path/filepath"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/require"

	"juxta/core/cutpath"
	"juxta/device/sim"
	"juxta/shop/cutting"
	"juxta/shop/stock"
)

// A ply is drawn by the mouse beyond the others, moved by keys, locked, and the rest is searched anew round it; then
// all is as it was again.
func TestPliesArePutByHand(t *testing.T) {
	t.Parallel()
	h := openHouse(t)
	ctx := context.Background()
	line := h.asked(t, h.roll(t, "SU-2291").Code)
	p := openPage(t, h)
	p.visit("/cut/" + line.Code)
	p.signIn("Tilda Brandl", pin)
	p.click("Place plies by hand")
	p.see("Improve the rest")
	p.axe("plies put by hand")
	// The ply that lies last is drawn a hand's breadth on.
	at, err := evaluate[[]float64](p, `(() => {
		const all = [...document.querySelectorAll("svg g[role=button]")].map((g) => [g.getBoundingClientRect(), g]);
		all.sort((a, b) => b[0].right - a[0].right);
		all[0][1].scrollIntoView({ block: "center" });
		const box = all[0][1].getBoundingClientRect();
		return [box.left + box.width / 2, box.top + box.height / 2];
	})()`)
	require.NoError(t, err)
	p.do(
		chromedp.MouseEvent(chromedp.MousePressed, at[0], at[1], chromedp.ButtonLeft, chromedp.ClickCount(1)),
		chromedp.MouseEvent(chromedp.MouseMoved, at[0]+40, at[1], chromedp.ButtonLeft),
		chromedp.MouseEvent(chromedp.MouseMoved, at[0]+90, at[1], chromedp.ButtonLeft),
		chromedp.MouseEvent(chromedp.MouseReleased, at[0]+90, at[1], chromedp.ButtonLeft, chromedp.ClickCount(1)),
	)
	p.until("the ply lies elsewhere", fmt.Sprintf(`(() => {
		const box = document.activeElement.getBoundingClientRect();
		return document.activeElement.getAttribute("role") === "button"
			&& !document.activeElement.getAttribute("transform")
			&& box.left + box.width / 2 > %f;
	})()`, at[0]+60))
	p.see("along, ")
	p.press(kb.ArrowRight)
	p.press("l")
	p.see("locked")
	v, err := h.shop.Nest(ctx, line.Code)
	require.NoError(t, err)
	p.click("Improve the rest")
	p.see("Undo the last arrangement")
	w, err := h.shop.Nest(ctx, line.Code)
	require.NoError(t, err)
	require.Greater(t, w.Length, v.Length, "what was put beyond the end stays there")
	p.click("Undo the last arrangement")
	p.until("it is as it was", `!document.body.innerText.includes("Undo the last arrangement")`)
	w, err = h.shop.Nest(ctx, line.Code)
	require.NoError(t, err)
	require.Equal(t, v.Placed, w.Placed)
}

// Two plans for one kit stand beside each other.
func TestNestsStandBesideEachOther(t *testing.T) {
	t.Parallel()
	h := openHouse(t)
	ctx := context.Background()
	for _, steps := range []int{3, 3000} {
		_, err := h.shop.StartNest(ctx, h.as(t, "Tilda Brandl"), cutting.NewNest{
			Roll: h.roll(t, "SU-2291").Code, Builds: []string{h.build(t, "0003").Code}, Steps: steps,
		})
		require.NoError(t, err)
	}
	all, err := h.shop.Nests(ctx)
	require.NoError(t, err)
	p := openPage(t, h)
	p.visit("/cut")
	p.signIn("Tilda Brandl", pin)
	p.see("Tick two to four nests")
	for _, n := range all[:2] {
		p.do(chromedp.Click(fmt.Sprintf(`input[aria-label="Compare %s"]`, n.Code)))
	}
	p.click("Compare")
	p.see("Largest rectangle left")
	p.until("both are found", `[...document.querySelectorAll("svg[role=img]")].length === 2
		&& document.body.innerText.split("✓").length + document.body.innerText.split("to cut").length > 2`)
	p.axe("nests beside each other")
}

// Quality enters what the shop's table does, with letters first; a technician only looks.
func TestTheCuttersValuesAreEntered(t *testing.T) {
	t.Parallel()
	h := openHouse(t)
	p := openPage(t, h)
	p.visit("/cut/cutter")
	p.signIn("Jonas Quist", pin)
	p.see("Usual values")
	p.fill("Cutting speed, mm/s", "fast")
	p.fill("Reason", "the maker's papers")
	p.see("Fill every value.")
	v, err := h.shop.Cutter(context.Background())
	require.NoError(t, err)
	require.Zero(t, v.Version, "letters are no speed")
	p.fill("Cutting speed, mm/s", "300")
	p.fill("Length of the table, m", "1.5")
	p.click("Save")
	p.see("The cutting table is kept.")
	v, err = h.shop.Cutter(context.Background())
	require.NoError(t, err)
	require.Equal(t, 1, v.Version)
	require.InDelta(t, 1.5, v.Cutter.Table, 1e-9)
}

// A flaw is drawn over the cloth, written into the map of the roll, and the nest goes round it.
func TestAFlawIsDrawnOverTheCloth(t *testing.T) {
	t.Parallel()
	h := openHouse(t)
	ctx := context.Background()
	roll := h.roll(t, "SU-2291").Code
	line := h.asked(t, roll)
	p := openPage(t, h)
	p.visit("/cut/" + line.Code)
	p.signIn("Tilda Brandl", pin)
	p.click("Mark a flaw")
	p.see("Draw over the cloth")
	p.axe("a flaw that is marked")
	box, err := evaluate[[]float64](p, `(() => {
		const drawn = document.querySelector("svg rect[fill=transparent]");
		drawn.scrollIntoView({ block: "center" });
		const box = drawn.getBoundingClientRect();
		return [box.left, box.top, box.width, box.height];
	})()`)
	require.NoError(t, err)
	at := func(x, y float64) (float64, float64) { return box[0] + x*box[2], box[1] + y*box[3] }
	x, y := at(0.3, 0.3)
	p.do(chromedp.MouseEvent(chromedp.MousePressed, x, y, chromedp.ButtonLeft, chromedp.ClickCount(1)))
	x, y = at(0.35, 0.4)
	p.do(chromedp.MouseEvent(chromedp.MouseMoved, x, y, chromedp.ButtonLeft),
		chromedp.MouseEvent(chromedp.MouseReleased, x, y, chromedp.ButtonLeft, chromedp.ClickCount(1)))
	p.fill("Description", "dry fibres")
	p.click("Add to the roll’s flaw map")
	p.see("does not fit " + roll + " as it is now")
	now, err := h.shop.Roll(ctx, roll)
	require.NoError(t, err)
	flaw := now.Flaws[len(now.Flaws)-1]
	require.InDelta(t, 0.09, flaw.To-flaw.From, 0.02)
	require.InDelta(t, 0.06, flaw.High-flaw.Low, 0.02)
	p.click("Nest again round it")
	p.see("is left out.")
	p.until("the nest fits", `!document.body.innerText.includes("does not fit")`)
}

// opened is the roll of a lot, out of the freezer and out of its bag.
func (h *house) opened(t *testing.T, lot string) string {
	t.Helper()
	ctx, brandl, roll := context.Background(), h.as(t, "Tilda Brandl"), h.roll(t, lot).Code
	_, err := h.shop.TakeOut(ctx, brandl, stock.MoveRolls{Rolls: []string{roll}})
	require.NoError(t, err)
	room, humidity, cold := 294.15, 0.45, 290.0
	_, err = h.shop.Open(ctx, brandl, roll, stock.OpenBag{Room: &room, Humidity: &humidity, Coldest: &cold})
	require.NoError(t, err)
	return roll
}

// asked is a nest of the eight plies of a build on a roll, to be searched.
func (h *house) asked(t *testing.T, roll string) cutting.NestLine {
	t.Helper()
	line, err := h.shop.StartNest(context.Background(), h.as(t, "Tilda Brandl"), cutting.NewNest{
		Roll: roll, Builds: []string{h.build(t, "0003").Code}, Steps: 400,
	})
	require.NoError(t, err)
	return line
}

// atTable is a house with a simulated table, a fault, and a nest of eight plies whose roll lies open at it; the page
// shows the nest.
func atTable(t *testing.T, fault sim.TableFault) (*house, *page, cutting.NestLine) {
	t.Helper()
	h := openHouse(t)
	table, err := sim.ServeTable("127.0.0.1:0", cutpath.Usual(), 60)
	require.NoError(t, err)
	t.Cleanup(func() { _ = table.Close() })
	table.Fail(fault)
	h.shop.Table = table.Address
	line := h.asked(t, h.opened(t, "SU-2291"))
	p := openPage(t, h)
	p.visit("/cut/" + line.Code)
	p.signIn("Tilda Brandl", pin)
	p.see("Cut on the table")
	return h, p, line
}

// The rest is nested anew round what is cut free and what is spoiled, to be gone on with. How
// it is cut then is walked with the table's driver.
func TestTheRestIsNestedAnew(t *testing.T) {
	t.Parallel()
	h, p, line := atTable(t, sim.TableFault{Kind: "corner", After: 2})
	p.press("t")
	p.see("has lifted")
	p.click("Nest the rest anew round what is cut")
	p.see("Undo the last arrangement")
	p.see("Go on with all 6 that are left")
	p.axe("the rest nested anew")
	v, err := h.shop.Nest(context.Background(), line.Code)
	require.NoError(t, err)
	require.Len(t, v.Spoiled, 1)
}

// A nest is handed to the table; a corner lifts; the rest is cut without the spoiled ply, the report names it, the
// off-cut is kept and the missing ply is nested again.
func TestANestIsCutOnTheTableAndWhatFailedAgain(t *testing.T) {
	t.Parallel()
	_, p, line := atTable(t, sim.TableFault{Kind: "corner", After: 2})
	p.see("on the table: ")
	p.click("Show path")
	p.see("Hide path")
	p.axe("the knife's way")
	p.press("t")
	p.see("has lifted")
	p.see("2 of 8 plies are cut free")
	p.axe("a fault of the table")
	p.click("Large display")
	p.see("2 of 8 cut")
	p.axe("the table from afar")
	if into := os.Getenv("JUXTA_PICTURES"); into != "" {
		p.do(chromedp.Evaluate[chromedp.Void](`scrollTo(0, 0)`))
		p.picture(filepath.Join(into, "table.png"))
	}
	p.click("Back to the nest")
	p.click("Go on without")
	p.see("The knife is through")
	p.see("7 of 8 plies are cut free")
	p.click("Keep the ")
	p.fill("Its place", "shelf 2")
	p.click("7 of 8 plies are cut")
	p.see("carry the clock of")
	p.see("to be cut again")
	p.visit("/freezer/off-cuts")
	p.see("shelf 2")
	p.visit("/cut/" + line.Code)
	p.see("to be cut again")
	p.click("Nest what is missing again")
	p.see("The ply is cut")
}
