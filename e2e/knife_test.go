package e2e

import (
	"context"
	"fmt"
	"net/url"
	"path/filepath"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"juxta/shop/builds"
	"juxta/shop/stock"
)

// One operation of a route from the knife to the bench: its plies alone are nested and cut,
// its kit is counted by scans, item by item, and laid; the others of the build wait.
func TestOneOperationIsCutCountedAndLaid(t *testing.T) {
	t.Parallel()
	h, _ := openWorks(t)
	ctx, orde, brandl := context.Background(), h.as(t, "Marek Orde"), h.as(t, "Tilda Brandl")
	roll := h.roll(t, "ST-0455").Code // it lies on the table and thaws
	h.putForward(7 * time.Hour)
	start := func(number string) builds.BuildLine {
		t.Helper()
		b, err := h.shop.StartBuild(ctx, orde, h.named(t, number).Part.Code, builds.NewBuild{
			Serial: "0009", CureAt: h.shop.Now().Add(70 * time.Hour),
		})
		require.NoError(t, err)
		return b
	}
	yoke, panel := start("SP-27"), start("SP-26")
	air, humidity := 294.15, 0.45
	_, err := h.shop.Open(ctx, brandl, roll, stock.OpenBag{Room: &air, Humidity: &humidity})
	require.NoError(t, err)
	p := openPage(t, h)
	p.visit("/cut")
	p.signIn("Tilda Brandl", pin)
	p.click("Sable twill 200")
	p.see("Cut Tip")
	p.axe("the cuts of builds on their routes")
	// Only the tip of the new arm; by keyboard.
	rows := `[...document.querySelectorAll("main tbody tr")].filter((r) => r.querySelector("input[type=checkbox]"))`
	n, err := evaluate[int](p, rows+`.length`)
	require.NoError(t, err)
	require.Greater(t, n, 3)
	for k := range n {
		row := fmt.Sprintf(`%s[%d]`, rows, k)
		wanted, err := evaluate[bool](p, fmt.Sprintf(
			`((r) => (r.innerText.includes("SP-27 · 0009") && r.innerText.includes("Cut Tip"))
				!== r.querySelector("input").checked)(%s)`, row))
		require.NoError(t, err)
		if wanted {
			p.do(chromedp.Evaluate[chromedp.Void](row + `.querySelector("input").focus()`))
			p.press(" ")
		}
	}
	p.click(roll)
	p.see("Nest 3 plies on " + roll)
	p.set("Search time, s", "1")
	p.click("Nest 3 plies")
	p.see("Yield")
	p.see("All ")
	nest, err := h.shop.Nest(ctx, filepath.Base(p.path()))
	require.NoError(t, err)
	assert.Equal(t, 3, nest.Pieces)
	p.press("k")
	p.see("carry the clock of")
	assert.Equal(t, "done", h.called(t, yoke.Code, "Cut Tip").State)
	assert.Equal(t, "ready", h.called(t, yoke.Code, "Cut Lower half").State)
	// Its kit: scanned, twice by mistake, and signed with what it lies in.
	operation := h.called(t, yoke.Code, "Kit Tip").Operation
	p.visit("/kits/" + yoke.Code + "?operation=" + url.QueryEscape(operation))
	p.see("Scan each label")
	kit, err := h.shop.Kit(ctx, yoke.Code, operation)
	require.NoError(t, err)
	require.Len(t, kit.Plies, 3)
	for _, ply := range kit.Plies {
		p.scan(ply.Cut[0].Code)
		p.see("✓ " + ply.Cut[0].Code)
	}
	p.fill("It lies in", "tray 4")
	p.do(chromedp.KeyEvent(kb.Tab))
	p.click("Sign: 3 plies, none missing")
	p.see("Counted by Tilda Brandl")
	p.see("tray 4")
	// And its bench, with a pre-form's own label.
	p.become("Ines Falk", pin)
	lay := h.called(t, yoke.Code, "Lay up Tip")
	p.visit("/layup/" + yoke.Code + "?operation=" + url.QueryEscape(lay.Operation))
	for range 3 {
		v, err := h.shop.Layup(ctx, yoke.Code, lay.Operation)
		require.NoError(t, err)
		require.NotNil(t, v.Next)
		if v.Next.Debulk {
			break
		}
		p.see(fmt.Sprintf("Lay ply %d", v.Next.Ply))
		p.scan(v.NextCut)
		p.see("(scanned)")
		p.press("\r")
		was := *v.Next
		require.Eventually(t, func() bool {
			v, err := h.shop.Layup(ctx, yoke.Code, lay.Operation)
			return err == nil && (v.Next == nil || *v.Next != was)
		}, patience, 20*time.Millisecond)
	}
	assert.Contains(t, []string{"in work", "done"}, h.called(t, yoke.Code, "Lay up Tip").State)
	assert.Equal(t, "waiting", h.called(t, yoke.Code, "Join").State)

	// A kit of more than plies: item by item, with what each is taken from.
	core := h.called(t, panel.Code, "Kit Core").Operation
	p.become("Tilda Brandl", pin)
	p.visit("/kits/" + panel.Code + "?operation=" + url.QueryEscape(core))
	p.see("Besides the plies")
	p.axe("a kit of more than plies")
	p.see("Not counted yet: 6 besides the plies")
	p.fill("core 1: roll, batch or lot", roll)
	p.click("Count core 1")
	p.see("is Sable twill 200, and this is core 1")
	p.fill("core 1: roll, batch or lot", "block 7")
	for _, item := range []string{
		"core 1", "film adhesive 1", "insert 1, hinge insert, glass-filled, 0.018 kg",
		"insert 2, hinge insert, glass-filled, 0.018 kg",
		"potting 1, 0.030 kg", "film adhesive 2",
	} {
		p.click("Count " + item)
		p.until(item+" counted", fmt.Sprintf(
			`[...document.querySelectorAll("tr")]
				.some((r) => r.innerText.startsWith(%q) && r.innerText.includes("counted"))`,
			item,
		))
	}
	p.see("counted, from block 7, Tilda Brandl")
	p.click("Not counted: film adhesive 2")
	p.see("Not counted yet: 1 besides the plies")
	p.click("Count film adhesive 2")
	p.see("Sign: 6 items, none missing")
	p.press("k")
	p.see("Counted by Tilda Brandl")
	assert.Equal(t, "done", h.called(t, panel.Code, "Kit Core").State)
}
