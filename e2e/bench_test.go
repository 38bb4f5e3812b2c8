package e2e

import (
	"context"
	"fmt"
	"slices"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"juxta/core/master"
	"juxta/shop/builds"
	"juxta/shop/cutting"
	"juxta/shop/finish"
	"juxta/shop/parts"
	"juxta/shop/stock"
)

// readied is a build of two plies of twill, cut and counted: it waits at the
// bench. change writes into its first ply.
func (h *house) readied(t *testing.T, change func(first *master.Item)) string {
	t.Helper()
	ctx, orde, brandl := context.Background(), h.as(t, "Marek Orde"), h.as(t, "Tilda Brandl")
	v := h.named(t, "SP-25")
	doc := v.Document
	of := doc.Stages[0].Items
	doc.Stages[0].Items = []master.Item{of[0], of[len(of)-1]}
	change(&doc.Stages[0].Items[0])
	doc.Stages[0].Items[1].Second = false
	_, err := h.shop.ChangeDraft(ctx, orde, v.Part.Code, parts.DraftChange{Version: v.Version, Document: &doc})
	require.NoError(t, err)
	h.signAs(t, v.Part.Code)
	b, err := h.shop.StartBuild(
		ctx,
		orde,
		v.Part.Code,
		builds.NewBuild{Serial: "0009", CureAt: h.shop.Now().Add(90 * time.Hour)},
	)
	require.NoError(t, err)
	roll := h.roll(t, "ST-0455").Code // it lies on the table and thaws
	h.putForward(5 * time.Hour)
	room, humidity := 294.15, 0.45
	_, err = h.shop.Open(ctx, brandl, roll, stock.OpenBag{Room: &room, Humidity: &humidity})
	require.NoError(t, err)
	line, err := h.shop.StartNest(ctx, brandl, cutting.NewNest{Roll: roll, Builds: []string{b.Code}, Seed: 7, Steps: 2})
	require.NoError(t, err)
	require.Eventually(t, func() bool {
		n, err := h.shop.Nest(ctx, line.Code)
		return err == nil && n.State == "done"
	}, patience, 50*time.Millisecond)
	_, err = h.shop.ConfirmCut(ctx, brandl, line.Code)
	require.NoError(t, err)
	kit, err := h.shop.Kit(ctx, b.Code, "")
	require.NoError(t, err)
	for _, ply := range kit.Plies {
		_, err = h.shop.CountPly(ctx, brandl, b.Code, ply.Cut[0].Code)
		require.NoError(t, err)
	}
	_, err = h.shop.CloseKit(ctx, brandl, b.Code, "", "")
	require.NoError(t, err)
	_, err = h.shop.SignStepDone(ctx, brandl, b.Code, finish.SignStep{Operation: "prepare tool"})
	require.NoError(t, err)
	return b.Code
}

// laid lays what is left of a build, and closes its bag.
func (h *house) laid(t *testing.T, code string) {
	t.Helper()
	ctx, falk := context.Background(), h.as(t, "Ines Falk")
	for {
		v, err := h.shop.Layup(ctx, code, "")
		require.NoError(t, err)
		if v.Next == nil {
			break
		}
		if v.Next.Debulk {
			_, err = h.shop.StartDebulk(ctx, falk, code, "")
			require.NoError(t, err)
			h.putForward(16 * time.Minute)
			_, err = h.shop.EndDebulk(ctx, falk, code, "", builds.DebulkEnd{Vacuum: 88e3})
		} else {
			_, err = h.shop.Sign(ctx, falk, code, builds.SignPly{
				Ply: v.Next.Ply, CutPly: v.NextCut, How: "chosen", FilmsOff: v.Plies[v.Next.Ply-1].Films,
			})
		}
		require.NoError(t, err)
	}
	_, err := h.shop.CloseBag(ctx, falk, code, "", "no bleed")
	require.NoError(t, err)
}

// typed is the text that stands in the field with this label.
func typed(label string) string {
	return fmt.Sprintf(
		`[...document.querySelectorAll("label")].find((l) => l.textContent.includes(%q))?.control?.value`,
		label,
	)
}

// A demand of the master stops the bench until it is met: a second person looks
// before the work goes on, and a hold point is signed.
func TestAHoldPointAndASecondPersonStopTheBench(t *testing.T) {
	t.Parallel()
	h := openHouse(t)
	code := h.readied(t, func(first *master.Item) {
		first.Second, first.Hold = true, "the lip is measured"
	})
	p := openPage(t, h)
	p.visit("/layup/" + code)
	p.signIn("Ines Falk", pin)
	p.see("Hold point at ply 1: work stops until")
	p.see("the lip is measured")
	p.axe("a hold point at the bench")
	p.press("\r")
	p.notSee("Writing in")
	p.press("k")
	p.see("✓ signed")
	p.see("Lay ply 1")
	p.press("\r")
	p.see("Writing in")
	p.press("\r")
	p.see("Two people")
	p.axe("a second person at the bench")
	people, err := evaluate[[]string](p, `[...document.querySelectorAll("select option")].map((o) => o.text)`)
	require.NoError(t, err)
	assert.NotContains(t, people, "Ines Falk", "who laid it is not the second person")
	p.set("Checked by", "Tilda Brandl")
	p.fill("Their PIN", "111119")
	p.click("Sign as second person")
	p.see("this is not")
	p.fill("Their PIN", pin)
	p.click("Sign as second person")
	p.see("Debulk after ply 1")
	v, err := h.shop.Layup(context.Background(), code, "")
	require.NoError(t, err)
	assert.Len(t, v.SignedDemands, 2)
}

// What a gauge says is stored as it was read, in whatever unit, or it is refused
// in words and stays where it was typed.
func TestWhatAGaugeSaysIsStoredOrRefused(t *testing.T) {
	t.Parallel()
	h := openHouse(t)
	ctx, code := context.Background(), h.build(t, "0002").Code
	h.laid(t, code)
	p := openPage(t, h)
	p.visit("/bag/" + code)
	p.signIn("Ines Falk", pin)
	p.see("Type the vacuum at start.")
	checks := func() []builds.LeakView {
		v, err := h.shop.Bag(ctx, code, "")
		require.NoError(t, err)
		return v.Checks
	}
	p.fill("Vacuum at start", "950")
	p.see(
		"950 kPa is above 101.325 kPa, the maximum here. If it was read in another unit, type the unit with it",
	)
	p.fill("Vacuum at end", "9O")
	p.see("“9O” is not a number")
	p.until(
		"both stay as they were typed",
		typed("Vacuum at start")+` === "950" && `+typed("Vacuum at end")+` === "9O"`,
	)
	p.fill("Vacuum at end", "1,234")
	p.see("“1,234” may mean 1234 or 1.234: write one of these")
	require.Empty(t, checks(), "nothing is stored while an entry is wrong")

	// Deeper than a pump can draw here: asked about, and stored when it is so.
	p.fill("Vacuum at start", "950 mbar")
	p.fill("Vacuum at end", "94,2")
	p.until("in the field's unit", typed("Vacuum at start")+` === "95" && `+typed("Vacuum at end")+` === "94.2"`)
	p.click("Record the leak check")
	p.see("no pump draws")
	require.Empty(t, checks())
	p.axe("a reading that can hardly be")
	p.click("The gauge reads so: record it")
	p.see("limit met")
	got := checks()
	require.Len(t, got, 1)
	assert.Equal(t, [2]float64{95e3, 94.2e3}, [2]float64{got[0].Start, got[0].End})

	// It can be done again: the last check decides.
	p.click("Check again: the last check decides")
	p.fill("Vacuum at start", "88.4")
	p.fill("Vacuum at end", "81,6")
	p.click("Record the leak check")
	p.see("6.8 kPa")
	assert.Equal(t, "bag", h.build(t, "0002").Room, "a check that failed later counts")
}

// What was typed and not stored is there again after leaving, for whoever typed
// it: measurements, a delivery, a draft with a fault in it.
func TestEntriesOutliveTheirPage(t *testing.T) {
	t.Parallel()
	h := openHouse(t)
	p := openPage(t, h)
	release := "/release/" + h.build(t, "0001").Code
	p.visit(release)
	p.signIn("Jonas Quist", pin)
	p.fill("Mass on the scale", "345 g")
	p.fill("Thickness 2", "0,985")
	p.scan(h.roll(t, "SU-2207").Code)
	p.see("As recorded")
	p.visit(release)
	p.see("are restored: nothing of them is stored yet")
	p.until("both are here", typed("Mass on the scale")+` === "0.345" && `+typed("Thickness 2")+` === "0.985"`)
	p.axe("entries that are restored")
	p.become("Hedda Solm", pin)
	p.visit(release)
	p.see("You may measure; quality signs.")
	p.notSee("are restored")
	p.become("Jonas Quist", pin)
	p.visit(release)
	p.click("Begin anew")
	p.until("nothing of it is left", typed("Mass on the scale")+` === ""`)

	p.visit("/freezer/receive")
	p.fill("Lot", "SX-1")
	p.scan(h.roll(t, "SU-2207").Code)
	p.see("As recorded")
	p.visit("/freezer/receive")
	p.see("are restored")
	p.until("the lot is here", typed("Lot")+` === "SX-1"`)

	p.become("Marek Orde", password)
	v := h.named(t, "SP-27")
	p.visit("/parts/" + v.Part.Code)
	p.see("Yoke arm, hollow")
	p.cell(v.Document.Stages[0].Items[0].Key, "angleDeg")
	p.set("Seams between pieces", "overlap")
	p.fill("Seams stagger, mm", "5")
	p.see("seams 5 mm apart that overlap by 15 mm lie on each other")
	p.do(chromedp.Evaluate[chromedp.Void](`document.activeElement.blur()`))
	p.press("3")
	p.see("From which roll?")
	p.visit("/parts/" + v.Part.Code)
	p.see("are restored: they are not saved yet")
	p.see("lie on each other")
	assert.Equal(t, v.Version, h.named(t, "SP-27").Version, "a draft with a fault is not kept by the shop")
	p.cell(v.Document.Stages[0].Items[0].Key, "angleDeg")
	p.fill("Seams stagger, mm", "2,5 cm")
	p.see("Kept")
	p.notSee("are restored")
	assert.InDelta(t, 0.025, h.named(t, "SP-27").Document.Stages[0].Items[0].Stagger, 1e-12)
}

// Whoever may not do a thing is offered no button for it, and reads who may.
func TestWhoMayNotIsOfferedNothing(t *testing.T) {
	t.Parallel()
	h := openHouse(t)
	ctx := context.Background()
	nests, err := h.shop.Nests(ctx)
	require.NoError(t, err)
	laying, done, waiting := h.build(t, "0002").Code, h.build(t, "0001").Code, h.build(t, "0003")
	entries := func() (n int64) {
		require.NoError(t, h.shop.DB.Gorm.Raw(`select count(*) from entries`).Scan(&n).Error)
		return n
	}
	p := openPage(t, h)
	p.visit("/freezer")
	p.signIn("Hedda Solm", pin)
	p.see("To take out for the cut")
	before := entries()
	for _, page := range []struct{ path, sees, says, key string }{
		{"/today", "Nothing waits for you", "can leave a note to the next shift", "\r"},
		{"/freezer", "To take out for the cut", "", "t"},
		{"/freezer/" + h.roll(t, "SU-2207").Code, "As recorded", "", "t"},
		{"/freezer/receive", "What the data sheet asks", "Only a technician, a planner, a quality person or an " +
			"administrator can receive material.", "a"},
		{"/freezer/list", "Import a stock list", "", ""},
		{"/freezer/climate", "Freezer 1", "", ""},
		{"/freezer/materials", "Resin systems", "", ""},
		{"/parts", "Masters", "Only a planner or an administrator can edit the master.", ""},
		{"/parts/" + waiting.Part, "Calculated", "", "s"},
		{"/parts/rules", "Laminate rules", "", ""},
		{"/parts/tools", "Tool log", "", ""},
		{"/cut", "From which roll?", "can nest and cut", "\r"},
		{"/cut/" + nests[0].Code, "As cut", "", "k"},
		{"/kits/" + laying, "Counted by", "", "u"},
		{"/kits/" + waiting.Code, "As counted", "can count a kit", "k"},
		{"/layup/" + laying, "Lay ply 7", "Only a technician or an administrator can lay and debulk.", "\r"},
		{"/bag/" + done, "limit met", "", "k"},
		{"/cure", "To load", "", "s"},
		{"/release/" + done, "Weigh it", "Only a quality person can inspect and sign off.", ""},
		{"/thread/" + done, "From the log", "", ""},
		{"/shop", "work here", "", ""},
	} {
		p.visit(page.path)
		p.see(page.sees)
		if page.says != "" {
			p.see(page.says)
		}
		offered, err := evaluate[[]string](
			p,
			`[...document.querySelectorAll("main button, main input[type=submit]")]
				.filter((b) => b.getClientRects().length > 0 && !b.hasAttribute("aria-pressed")).map((b) => b.innerText
				|| b.getAttribute("aria-label"))`,
		)
		require.NoError(t, err)
		// What only looks, and there at once or when the drawing has come.
		looks := []string{"Show", "One more point", "Whole tool", "Compare\nTick two to four nests."}
		offered = slices.DeleteFunc(offered, func(b string) bool { return slices.Contains(looks, b) })
		assert.Empty(t, offered, "%s offers what only looks, and no more", page.path)
		if page.key != "" {
			p.press(page.key)
		}
	}
	p.visit("/layup/" + laying)
	p.see("Lay ply 7")
	v, err := h.shop.Layup(ctx, laying, "")
	require.NoError(t, err)
	p.scan(v.NextCut)
	p.see("can lay and debulk")
	assert.Equal(t, before, entries(), "a viewer leaves no entry")

	// With a qualification the button goes as well.
	files, err := h.shop.PeopleFiles(ctx)
	require.NoError(t, err)
	for _, f := range files {
		for _, q := range f.Qualifications {
			if f.Name == "Ines Falk" && q.Kind == "laminating" {
				_, err := h.shop.WithdrawQualification(ctx, h.as(t, "Jonas Quist"), q.ID, "eyes")
				require.NoError(t, err)
			}
		}
	}
	p.become("Ines Falk", pin)
	p.see("Lay and debulk needs the qualification \"laminating\", which Ines Falk does not hold")
	p.see("Stop, refer")
	p.notSee("Sign ply 7")
}

// Without a network a signature is not written and says so; once it is there
// again, the same press writes it once.
func TestWithoutANetworkTheBenchSaysSo(t *testing.T) {
	t.Parallel()
	h := openHouse(t)
	code := h.build(t, "0002").Code
	way := openGate(t, h)
	p := openPageAt(t, way.url, h.shop.Now)
	p.visit("/layup/" + code)
	p.signIn("Ines Falk", pin)
	p.see("Sign ply 7")
	laid := func() int {
		v, err := h.shop.Layup(context.Background(), code, "")
		require.NoError(t, err)
		return len(v.Laid)
	}
	way.close("/")
	p.press("\r")
	p.see("Writing in")
	p.press("\r")
	p.see("Writing ply 7 …")
	p.see("The server cannot be reached. Nothing is lost: try again in a moment.")
	p.see("Lay ply 7")
	assert.Equal(t, 6, laid())
	way.open()
	p.press("\r")
	p.see("Writing in")
	p.press("\r")
	p.see("Lay ply 8")
	assert.Equal(t, 7, laid())
}
