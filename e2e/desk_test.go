package e2e

import (
	"context"
	"path/filepath"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"juxta/format/pdf/pdftest"
	"juxta/shop/book"
	"juxta/shop/builds"
	"juxta/shop/cutting"
	"juxta/shop/stock"
)

func (h *house) as(t testing.TB, name string) book.By {
	t.Helper()
	people, err := h.shop.People(context.Background())
	require.NoError(t, err)
	for _, p := range people {
		if p.Name == name {
			person, err := h.shop.PersonByID(context.Background(), p.ID)
			require.NoError(t, err)
			return book.By{Person: person}
		}
	}
	t.Fatalf("nobody is called %s", name)
	return book.By{}
}

func (h *house) build(t *testing.T, serial string) builds.BuildLine {
	t.Helper()
	begun, err := h.shop.Builds(context.Background(), builds.BuildQuery{Room: "", Limit: 200})
	require.NoError(t, err)
	for _, b := range begun.Builds {
		if b.Serial == serial && b.Number == "SP-11" {
			return b
		}
	}
	t.Fatalf("no build %s", serial)
	return builds.BuildLine{}
}

// roll is the roll of a lot.
func (h *house) roll(t *testing.T, lot string) stock.RollView {
	t.Helper()
	goods, err := h.shop.Rolls(context.Background(), stock.RollQuery{Limit: 200})
	require.NoError(t, err)
	for _, r := range goods.Rolls {
		if r.Batch == lot && r.Kind == "roll" {
			return r
		}
	}
	t.Fatalf("no roll of lot %s", lot)
	return stock.RollView{}
}

func TestTwoPeopleAtTwoTabletsSignTheSamePly(t *testing.T) {
	t.Parallel()
	h := openHouse(t)
	build := h.build(t, "0002").Code
	falk, brandl := openPage(t, h), openPage(t, h)
	// Brandl's tablet hears nothing new of the bench while it is held.
	brandl.onEveryLoad(`const ask = window.fetch;
window.fetch = async (r) => { while (window.held && r.method === "GET"
				&& r.url.includes("/api/layup/")) await new Promise((go) => timeout(go, 20)); return ask(r); };`)
	for p, name := range map[*page]string{falk: "Ines Falk", brandl: "Tilda Brandl"} {
		p.visit("/")
		p.signIn(name, pin)
		p.visit("/layup/" + build)
		p.see("Sign ply 7, film off")
	}
	brandl.do(chromedp.Evaluate[chromedp.Void](`window.held = true`))
	for p, name := range map[*page]string{falk: "Ines Falk", brandl: "Tilda Brandl"} {
		p.press("\r")
		p.see("Writing in")
		p.see("laid by " + name)
	}
	falk.press("\r")
	falk.see("Lay ply 8")
	brandl.press("\r")
	brandl.see("ply 7 is already signed, by Ines Falk at ")
	brandl.do(chromedp.Evaluate[chromedp.Void](`window.held = false`))
	brandl.see("Lay ply 8")
	laid := func() int {
		v, err := h.shop.Layup(context.Background(), build, "")
		require.NoError(t, err)
		return len(v.Laid)
	}
	assert.Equal(t, 7, laid())
	// Called back before it is written: nothing is.
	brandl.press("\r")
	brandl.see("Writing in")
	brandl.press("\x1b")
	brandl.notSee("Writing in")
	assert.Equal(t, 7, laid())
	// What somebody else has signed meanwhile is not written again either.
	brandl.press("\r")
	brandl.see("Writing in")
	falk.press("\r")
	falk.see("Writing in")
	falk.press("\r")
	falk.see("Lay ply 9")
	brandl.press("\x1b")
	brandl.visit("/layup/" + build)
	brandl.see("Lay ply 9")
	assert.Equal(t, 8, laid())
	// Left alone, it is written by itself.
	brandl.do(chromedp.Evaluate[chromedp.Void](`window.pace = 1`))
	brandl.press("\r")
	brandl.see("Vacuum is on: start the debulk")
	assert.Equal(t, 9, laid())
}

func TestAWrongPINIsToldAtItsPlaceAndKeepsThePageShut(t *testing.T) {
	t.Parallel()
	h := openHouse(t)
	p := openPage(t, h)
	p.visit("/release")
	p.click("Jonas Quist")
	p.fill("PIN", "000000")
	p.press("\r")
	p.see("name and PIN or password do not match")
	there, err := evaluate[bool](p, `document.querySelector("nav") !== null`)
	require.NoError(t, err)
	assert.False(t, there)
	p.fill("PIN", pin)
	p.press("\r")
	p.see("Shutter hinge panel")
}

func TestKeysLeadEverywhere(t *testing.T) {
	t.Parallel()
	h := openHouse(t)
	p := openPage(t, h)
	p.visit("/")
	p.signIn("Ines Falk", pin)
	// What each page must show is on no other page, or a key would be pressed on the page before.
	for _, k := range []struct{ key, sees string }{
		{"2", "Masters"}, {"0", "For the next shift"}, {"3", "From which roll?"}, {"4", "Counted kits"},
		{"6", "To bag"}, {"7", "To load"},
		{"8", "Nothing waits here"}, {"9", "To inspect"}, {"1", "1 out, 8 frozen"}, {"5", "On the benches"},
	} {
		p.press(k.key)
		p.see(k.sees)
	}
	p.press("\r")
	p.see("Lay ply 7")
	// Help shows this page's keys while ? is held.
	p.do(chromedp.Evaluate[chromedp.Void](`window.dispatchEvent(new KeyboardEvent("keydown", { key: "?" }))`))
	p.see("take back the last ply")
	p.see("find anything")
	p.do(chromedp.Evaluate[chromedp.Void](`window.dispatchEvent(new KeyboardEvent("keyup", { key: "?" }))`))
	p.notSee("scan open it")
	// Find by a batch, go with Enter.
	p.press("/")
	p.see("Find by id, number, name, serial or batch")
	p.axe("find")
	// The protocol sends the letter after the key that opened the field; a keyboard does not.
	p.do(chromedp.Evaluate[chromedp.Void](`document.activeElement.select()`))
	p.press("SU-2207")
	p.see("Sable UD 150, batch SU-2207")
	p.press("\r")
	p.see("Every part it went into")
	// An id is read letter by letter, and forgotten with Esc.
	p.press("b-6")
	p.see("Reading id B-6")
	p.press("\x1b")
	p.notSee("Reading id")
}

func TestANestIsWatchedWhileItIsSearchedAndStopped(t *testing.T) {
	t.Parallel()
	h := openHouse(t)
	p := openPage(t, h)
	roll := h.roll(t, "SU-2291").Code
	line, err := h.shop.StartNest(
		context.Background(),
		h.as(t, "Tilda Brandl"),
		cutting.NewNest{Roll: roll, Builds: []string{h.build(t, "0003").Code}, Steps: 100_000_000},
	)
	require.NoError(t, err)
	p.visit("/cut/" + line.Code)
	p.signIn("Tilda Brandl", pin)
	p.see("of 100000000 places sought")
	p.until("the best so far, drawn", `document.querySelectorAll("svg path[fill^='url']").length === 8`)
	p.click("Stop and keep")
	p.see("All 8 plies are cut")
	v, err := h.shop.Nest(context.Background(), line.Code)
	require.NoError(t, err)
	assert.Equal(t, "done", v.State)
	assert.Len(t, v.Placed, 8)
	assert.Less(t, v.Step, 100_000_000)
}

func TestARunIsFollowedAndStoppedWithAReason(t *testing.T) {
	t.Parallel()
	h := openHouse(t)
	ctx := context.Background()
	by, build := h.as(t, "Ines Falk"), h.build(t, "0002").Code
	h.laid(t, build)
	_, err := h.shop.CheckLeak(ctx, by, build, "", builds.NewLeakCheck{Start: 90e3, End: 89e3, Seconds: 300})
	require.NoError(t, err)
	p := openPage(t, h)
	p.visit("/cure")
	p.signIn("Ines Falk", pin)
	p.click("Start run with 1 part")
	p.see("segment 1 of 3")
	run := filepath.Base(p.path())
	p.until(
		"samples to arrive by themselves",
		`Number((document.body.innerText.match(/(\d+) min by the oven/) ?? [0, 0])[1]) >= 5`,
	)
	p.press("o")
	p.fill("Why is the run stopped?", "smoke from the fan")
	p.click("Turn the heat off")
	p.see("stopped")
	p.see("not met")
	v, err := h.shop.Run(ctx, run)
	require.NoError(t, err)
	assert.Equal(t, "stopped", v.State)
	assert.NotEmpty(t, v.Samples)
	p.axe("a stopped run")
	p.press("7")
	p.see("Start run with 1 part")
}

// A part is good when everything that its process asks for is measured and met.
func TestAPartIsMeasuredForAllThatIsAsked(t *testing.T) {
	t.Parallel()
	h := openHouse(t)
	p := openPage(t, h)
	build := h.build(t, "0001").Code
	p.visit("/release/" + build)
	p.signIn("Jonas Quist", pin)
	p.see("plate and feeler")
	p.fill("Mass on the scale", "0.342")
	p.fill("Thickness 1", "0.985")
	p.fill("Your PIN again", pin)
	p.see("Measure first: flatness.")
	p.fill("flatness, mm", "0.31")
	p.see("✕ not met")
	p.fill("flatness, mm", "0.3")
	p.notSee("not met")
	p.click("Sign: good")
	p.see("signed by Jonas Quist")
	p.see("0.3 mm")
	p.axe("release signed")
	_, text := pdftest.Read(t, []byte(p.fetched("/api/thread/builds/"+build+"/record.pdf")))
	assert.Contains(t, text, "flatness – – 0.3 mm 0.3 mm met")
}

// A page whose script does not come is not a blank screen: the route goes on
// working, and the page is loaded again by a press.
func TestAPageThatDoesNotComeSaysSo(t *testing.T) {
	t.Parallel()
	h := openHouse(t)
	way := openGate(t, h)
	way.close("/assets/parts-")
	p := openPageAt(t, way.url, h.shop.Now)
	p.visit("/freezer")
	p.signIn("Ines Falk", pin)
	p.see("To take out for the cut")
	p.press("2")
	p.see("This page could not be shown.")
	p.axe("a page that did not come")
	p.press("3")
	p.see("From which roll?")
	way.open()
	p.press("2")
	p.click("Reload")
	p.see("Masters")
}
