package e2e

import (
	"bytes"
	"context"
	"fmt"
	"image/png"
	"os"
	"path/filepath"
	"testing"

	"github.com/chromedp/cdproto/emulation"
	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// watch collects what a browser would only whisper to its console: scripts that
// fail, promises nobody kept, and anything that the content policy refused.
const watch = `window.faults = [];
for (const kind of ["error", "unhandledrejection", "securitypolicyviolation"])
	addEventListener(kind, 
		(e) => faults.push(kind + ": " + (e.message ?? e.reason ?? e.violatedDirective + " " + e.blockedURI)), true);
const say = console.error;
console.error = (...words) => { faults.push("console: " + words.join(" ")); say(...words); };`

// view is a page as somebody of the demo sees it.
type view struct {
	name, path, sees string
	then             func(p *page) // what is done there before it is looked at; nil: nothing
	pictured         bool          // among the pictures of the README, which are fewer than twenty
}

// Every page is visited once: it is shown without a fault, loads nothing from outside, shows
// every quantity in units, and can be read in the light; on a 10-inch tablet held upright in
// the dark of the oven room nothing lies outside the screen, nothing that is pressed is too
// small, and axe is quiet. With JUXTA_PICTURES=../docs/screenshots the pictures of the README
// are taken anew.
func TestEveryPageIsShownAtTheDeskAndUprightInTheDark(t *testing.T) {
	t.Parallel()
	h, works := openWorks(t)
	p := openPage(t, h)
	p.onEveryLoad(watch)
	p.visit("/")
	p.see("Who are you?")
	p.looksRight(view{name: "sign-in"})
	p.signIn("Ines Falk", pin)
	for _, v := range viewsAtTheBench(t, h, works) {
		p.show(v)
	}
	// A draft as who writes it sees it.
	p.become("Marek Orde", password)
	for _, v := range viewsOfAPlanner(t, h) {
		p.show(v)
	}
}

func viewsAtTheBench(t *testing.T, h *house, works map[string]string) []view {
	roll, other, batch := h.roll(t, "SU-2207"), h.roll(t, "ST-0455"), h.roll(t, "SU-2304").BatchCode
	laying, done := h.build(t, "0002"), h.build(t, "0001")
	ring := fmt.Sprint("/cure/recipes/", h.recipe(t, "Ring").ID)
	measured := func(p *page) {
		p.fill("Mass on the scale", "0.345")
		p.fill("Thickness 1", "1.1")
		p.see("not met")
		p.fill("Thickness 2", "0.985")
		p.fill("flatness, mm", "0.21")
		p.until("a verdict on each", "document.body.innerText.match(/^✓ met$/gm)?.length === 3")
	}
	return []view{
		{"today", "/today", "For the next shift", nil, true},
		{"wall", "/wall", "The shop today", nil, false},
		{"freezer", "/freezer", "To take out for the cut", nil, true},
		{"roll", "/freezer/" + roll.Code, "As recorded", nil, true},
		{"roll-out", "/freezer/" + other.Code, "As recorded", nil, false},
		{"batches", "/freezer/batches", "Batches", nil, false},
		{"batch", "/freezer/batches/" + batch, "Must not be cut", nil, false},
		{"batch-accepted", "/freezer/batches/" + other.BatchCode, "accepted", nil, false},
		{"which-roll", "/freezer/which", "take this one", nil, false},
		{"climate", "/freezer/climate", "Findings and action", nil, false},
		{"materials", "/freezer/materials", "Resin systems", nil, false},
		{"usage", "/freezer/usage", "Expires soon", nil, false},
		{"list", "/freezer/list", "Import a stock list", nil, false},
		{"receive", "/freezer/receive", "Receive a delivery", nil, false},
		{"off-cuts", "/freezer/off-cuts", "In stock", nil, false},
		{"people", "/shop", "work here", nil, false},
		{"matrix", "/shop/matrix", "lay and debulk", nil, false},
		{"log", "/shop/log", "Append-only", nil, false},
		{"mine", "/shop/mine", "Current PIN", nil, false},
		{"tools", "/parts/tools", "Tool log", nil, false},
		{"rules", "/parts/rules", "Laminate rules", nil, false},
		{"cut", "/cut", "From which roll?", nil, true},
		{"nest", "/cut/" + flawed(t, h), "is left out", nil, true},
		{"cutter", "/cut/cutter", "Length of the table", nil, false},
		{"recipes", "/cure/recipes", "Yoke arm, press", nil, false},
		{"cure-plan", ring, "Cure of the part", nil, true},
		{"cure-steps", ring + "/steps", "After 0 min", nil, false},
		{"equipment", "/cure/equipment", "Heat transfer", nil, false},
		{"kits", "/kits", "Counted kits", nil, false},
		{"kit", "/kits/" + laying.Code, "Counted by", nil, true},
		{"benches", "/layup", "SP-11", nil, false},
		{"layup", "/layup/" + laying.Code, "Sign ply 7", nil, true},
		{"bags", "/bag", "SP-11", nil, false},
		{"bag", "/bag/" + done.Code, "limit met", nil, true},
		{"runs", "/cure", "every limit met", nil, false},
		{"cure", "/cure/" + done.Run, "every limit met", nil, true},
		{"releases", "/release", "SP-11", nil, false},
		{"release", "/release/" + done.Code, "Weigh it", measured, true},
		{"way", "/finish/" + works["SP-29 0001"], "Bond Fittings", nil, true},
		{"finish", "/finish", "to go on with", nil, false},
		{"way-of-one-pass", "/finish/" + done.Code, "Its revision has no route", nil, false},
		{"bench-of-a-core", "/layup/" + works["SP-26 0001"], "Route of this build", nil, false},
		{"threads", "/thread", "Follow the thread", nil, false},
		{"thread", "/thread/" + done.Code, "From the log", nil, true},
		{"thread-of-a-roll", "/thread/" + roll.Code, "Every part it went into", nil, false},
	}
}

func viewsOfAPlanner(t *testing.T, h *house) []view {
	draft := "/parts/" + h.build(t, "0003").Part
	of := func(number, tab string) string { return "/parts/" + h.named(t, number).Part.Code + "?view=" + tab }
	darted := func(p *page) {
		p.set("Ply", "9, +45°")
		p.see("Dart 1")
		p.until("the net in space", `document.querySelector("[data-drawn]") !== null`)
	}
	return []view{
		{"parts", "/parts", "A part from its files", nil, false},
		{"part", draft, "thickness drawn ×", nil, true},
		{"laminate", of("SP-26", "laminate"), "Sandwich.", nil, true},
		{"process", draft + "?view=process", "Demould", nil, false},
		{"tube", of("SP-23", "patterns"), "Outside after", nil, true},
		{"drape", of("SP-25", "patterns"), "Covers on the tool", darted, true},
		{"route", of("SP-28", "route"), "Route templates", nil, true},
		{"difference", draft + "?view=difference", "1 of 11 items differ", nil, false},
	}
}

// flawed is a nest on a roll with a flaw.
func flawed(t *testing.T, h *house) string {
	t.Helper()
	nests, err := h.shop.Nests(context.Background())
	require.NoError(t, err)
	for _, n := range nests {
		v, err := h.shop.Nest(context.Background(), n.Code)
		require.NoError(t, err)
		if len(v.Flaws) > 0 {
			return n.Code
		}
	}
	t.Fatal("the demo has no nest on a roll with a flaw")
	return ""
}

func (p *page) show(v view) {
	p.t.Helper()
	p.goTo(v.path)
	p.see(v.sees)
	if v.then != nil {
		v.then(p)
	}
	p.looksRight(v)
}

// looksRight says what is wrong with a page as it stands, at the desk and upright in the dark.
func (p *page) looksRight(v view) {
	p.t.Helper()
	for what, js := range map[string]string{
		"fails": `window.faults`,
		"loads something from outside": `performance.getEntriesByType("resource").map((r) => r.name)
			.filter((n) => !n.startsWith(location.origin) && !n.startsWith("data:"))`,
		"shows a quantity as data": `document.body.innerText.match(/⟨.*⟩?/g) ?? []`,
	} {
		found, err := evaluate[[]string](p, js)
		require.NoError(p.t, err)
		assert.Empty(p.t, found, "%s %s", v.name, what)
	}
	p.axe(v.name, "color-contrast")
	if into := os.Getenv("JUXTA_PICTURES"); into != "" && v.pictured {
		p.picture(filepath.Join(into, v.name+".png"))
	}
	p.upright(true)
	defer p.upright(false)
	wide, err := evaluate[float64](p, `document.documentElement.scrollWidth`)
	require.NoError(p.t, err)
	assert.LessOrEqual(p.t, wide, 800.0, "%s is wider than the tablet", v.name)
	small, err := evaluate[[]string](
		p,
		`[...document.querySelectorAll("button, nav a")].filter((b) => b.getClientRects().length > 0
				&& b.getBoundingClientRect().height < 31.5).map((b) => b.innerText)`,
	)
	require.NoError(p.t, err)
	assert.Empty(p.t, small, "%s has targets under 32 px", v.name)
	p.axe(v.name + ", dark, upright")
}

// upright holds the tablet upright in the dark, or lays it back on the desk in the light.
func (p *page) upright(is bool) {
	p.t.Helper()
	wide, high, colours := int64(1280), int64(800), "light"
	if is {
		wide, high, colours = 800, 1280, "dark"
	}
	p.do(chromedp.EmulateViewport(wide, high))
	_, err := chromedp.Call(
		p.ctx,
		emulation.SetEmulatedMedia,
		emulation.SetEmulatedMediaParams{
			Features: []*emulation.MediaFeature{{Name: "prefers-color-scheme", Value: colours}},
		},
	)
	require.NoError(p.t, err)
}

// picture takes one of the page as it stands, for the README.
func (p *page) picture(path string) {
	p.t.Helper()
	p.until("the fonts", `document.fonts.status === "loaded"`)
	shot, err := chromedp.Run(p.ctx, chromedp.CaptureScreenshot())
	require.NoError(p.t, err)
	picture, err := png.DecodeConfig(bytes.NewReader(shot))
	require.NoError(p.t, err)
	assert.Equal(p.t, [2]int{1280, 800}, [2]int{picture.Width, picture.Height})
	require.NoError(p.t, os.WriteFile(path, shot, 0o644))
}
