package e2e

import (
	"context"
	"encoding/json"
	"fmt"
	"os"
	"path/filepath"
	"strconv"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/chromedp/cdproto/emulation"
	"github.com/chromedp/cdproto/input"
	cdp "github.com/chromedp/cdproto/page"
	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/require"
)

// page drives one browser tab the way a person does: real key events, real
// pointer clicks on what can be seen, and waiting for words to appear.
type page struct {
	t    testing.TB
	ctx  context.Context
	base string
}

// patience is how long a test waits for what must come: long enough for a slow machine.
const patience = 90 * time.Second

// browser is the one that all tests drive, begun by the first: a start of its own would take each of them longer than
// most
// of what they look at.
var browser = sync.OnceValues(func() (context.Context, error) {
	// The same engine without a window's frame takes a quarter less of the processor than the whole browser.
	options := append(chromedp.DefaultExecAllocatorOptions[:], chromedp.NoSandbox, chromedp.WindowSize(1280, 800),
		chromedp.ExecPath("chromium-headless-shell"))
	ctx, _ := chromedp.NewExecAllocator(context.Background(), options...)
	ctx, closeBrowser = chromedp.NewContext(ctx)
	return ctx, chromedp.Do(ctx)
})

var closeBrowser = func() {}

// openPage opens a window that shares nothing with the others: no cookie, no store.
func openPage(t testing.TB, h *house) *page {
	t.Helper()
	return openPageAt(t, h.url, h.shop.Now)
}

// openPageAt opens a window on an address, with a tablet that goes by a clock.
func openPageAt(t testing.TB, base string, now func() time.Time) *page {
	t.Helper()
	all, err := browser()
	require.NoError(t, err)
	ctx, cancel := chromedp.NewContext(all, chromedp.WithNewBrowserContext())
	t.Cleanup(cancel)
	// The first call opens the window, which lives as long as its context:
	// it must not be one with a deadline of a single step.
	require.NoError(t, chromedp.Do(ctx, chromedp.EmulateViewport(1280, 800)))
	// To its page each window is the one that is looked at.
	_, err = chromedp.Call(
		ctx,
		emulation.SetFocusEmulationEnabled,
		emulation.SetFocusEmulationEnabledParams{Enabled: true},
	)
	require.NoError(t, err)
	p := &page{t, ctx, base}
	p.onEveryLoad(patient)
	p.onEveryLoad(fmt.Sprintf(byTheShop, time.Until(now()).Milliseconds()))
	return p
}

// patient makes the seconds in which a signature can be called back last
// longer, so that a slow machine sees what a person sees. window.pace = 1 gives
// them their own length again.
const patient = `const timeout = window.setTimeout;
window.setTimeout = (f, ms, ...more) => timeout(f, ms === 1000 ? ms * (window.pace ?? 30) : ms, ...more);`

// byTheShop sets the tablet's clock by the shop's, which is not that of the wall.
const byTheShop = `window.Date = class extends Date {
	constructor(...of) { if (of.length) super(...of); else super(window.Date.now()); }
	static now() { return super.now() + %d; }
};`

// onEveryLoad runs a script in every page before its own.
func (p *page) onEveryLoad(script string) {
	p.t.Helper()
	_, err := chromedp.Call(
		p.ctx,
		cdp.AddScriptToEvaluateOnNewDocument,
		cdp.AddScriptToEvaluateOnNewDocumentParams{Source: script},
	)
	require.NoError(p.t, err)
}

func (p *page) do(steps ...chromedp.Action[chromedp.Void]) {
	p.t.Helper()
	ctx, cancel := context.WithTimeout(p.ctx, patience)
	defer cancel()
	if err := chromedp.Do(ctx, steps...); err != nil {
		p.fail(err.Error())
	}
}

// fail stops the test with what can be seen, as words and as a picture.
func (p *page) fail(why string) {
	p.t.Helper()
	text, _ := chromedp.Run(p.ctx, chromedp.Evaluate[string](`location.pathname + "\n" + document.body.innerText`))
	where := ""
	if dir := os.Getenv("JUXTA_E2E_SHOTS"); dir != "" {
		if png, err := chromedp.Run(p.ctx, chromedp.CaptureScreenshot()); err == nil {
			where = filepath.Join(dir, strings.ReplaceAll(p.t.Name(), "/", "_")+".png")
			_ = os.WriteFile(where, png, 0o644)
		}
	}
	require.FailNow(p.t, why, "%s\nThe page says:\n%s", where, text)
}

// until waits for a JavaScript condition.
func (p *page) until(what, condition string) {
	p.t.Helper()
	ctx, cancel := context.WithTimeout(p.ctx, patience)
	defer cancel()
	// What is not there at once is asked for less and less often: asking costs the page time as well.
	for pause := 20 * time.Millisecond; ; pause = min(2*pause, 160*time.Millisecond) {
		ok, err := chromedp.Run(
			ctx,
			chromedp.Evaluate[bool](`Promise.resolve(`+condition+`).then(Boolean)`, chromedp.EvalAwaitPromise),
		)
		if err == nil && ok {
			return
		}
		if ctx.Err() != nil {
			p.fail("waited in vain for " + what)
		}
		_ = chromedp.Do(ctx, chromedp.Sleep(pause))
	}
}

func (p *page) see(words string) {
	p.t.Helper()
	p.until(fmt.Sprintf("%q", words), fmt.Sprintf(`document.body.innerText.replace(/\s+/g, " ").includes(%q)`, words))
}

func (p *page) notSee(words string) {
	p.t.Helper()
	p.until(
		fmt.Sprintf("%q to go", words),
		fmt.Sprintf(`!document.body.innerText.replace(/\s+/g, " ").includes(%q)`, words),
	)
}

func (p *page) visit(path string) {
	p.t.Helper()
	p.do(chromedp.Navigate(p.base + path))
}

// goTo leads to another page of the application as a link does: nothing is loaded anew.
func (p *page) goTo(path string) {
	p.t.Helper()
	p.do(chromedp.Evaluate[chromedp.Void](fmt.Sprintf(
		`history.pushState(null, "", %q); dispatchEvent(new PopStateEvent("popstate", { state: null }))`, path,
	)))
}

// press types keys to whatever has the focus.
func (p *page) press(keys string) {
	p.t.Helper()
	p.do(chromedp.KeyEvent(keys))
}

// scan types an id and Enter, as a keyboard-wedge scanner does. A scanner needs
// no field, so nothing has the focus.
func (p *page) scan(id string) {
	p.t.Helper()
	p.do(chromedp.Evaluate[chromedp.Void](`document.activeElement?.blur()`))
	p.press(id + "\r")
}

// find is JavaScript that gives the first visible, enabled control with these
// words in its text or its accessible name.
func find(words string) string {
	return fmt.Sprintf(
		`[...document.querySelectorAll("button, a, label, summary, [role=button], input[type=radio]")].find((e) =>
		((e.innerText || "").replace(/\s+/g, " ").includes(%q) || (e.getAttribute("aria-label") || "").includes(%q)) &&
		e.getClientRects().length > 0 && !e.disabled && !e.hasAttribute("data-disabled"))`,
		words,
		words,
	)
}

// click presses the control with these words by pointer, once it has come to
// rest: it lies where it lay a frame ago, and nothing lies over it. Where the
// page moved under the pointer all the same it is pressed again, as a hand does.
func (p *page) click(words string) {
	p.t.Helper()
	again := false
	for until := time.Now().Add(patience); ; again = true {
		p.pressAt(words, again)
		// undefined, or no answer while it loads: the press led to another page.
		hit, err := evaluate[bool](p, `window.hit !== false`)
		if elsewhere(err) {
			return
		}
		require.NoError(p.t, err)
		if hit {
			return
		}
		if time.Now().After(until) {
			p.fail("pressed " + words + " in vain: it moves")
		}
	}
}

// elsewhere says that the page was left before it could answer.
func elsewhere(err error) bool { return err != nil && strings.Contains(err.Error(), "navigated") }

// pressAt presses a control at rest. A control that was drawn anew under the pointer is not the one that was pressed,
// although the press was heard: when it is pressed again and has gone away, nothing is left to do.
func (p *page) pressAt(words string, again bool) {
	p.t.Helper()
	p.until("the control "+words+" at rest", `(async () => {
		const e = `+find(words)+`;
		if (!e) {
			window.hit = window.target = undefined;
			return `+strconv.FormatBool(again)+`;
		}
		e.scrollIntoView({ block: "center" });
		const place = () => { const r = e.getBoundingClientRect(); return [r.x + r.width / 2, r.y + r.height / 2]; };
		const before = place();
		await new Promise((next) => requestAnimationFrame(() => requestAnimationFrame(next)));
		const [x, y] = (window.target = place());
		if (!e.isConnected || x !== before[0] || y !== before[1]
				|| !e.contains(document.elementFromPoint(x, y))) return false;
		window.hit = false;
		const heard = { once: true, capture: true };
		window.addEventListener("pointerdown", (down) => window.addEventListener("pointerup",
			(up) => (window.hit = e.contains(down.target) && e.contains(up.target)), heard), heard);
		return true;
	})()`)
	at, err := evaluate[[]float64](p, `window.target ?? []`)
	if again && elsewhere(err) {
		return
	}
	require.NoError(p.t, err)
	if len(at) == 2 {
		p.do(chromedp.MouseClickXY(at[0], at[1]))
	}
}

// fill types into the field with this label, or with this accessible name.
func (p *page) fill(label, text string) {
	p.t.Helper()
	field := fmt.Sprintf(
		`(() => { const l = [...document.querySelectorAll("label")].find((l) => l.textContent.includes(%[1]q)); return l
				? (l.control ?? document.getElementById(l.htmlFor))
				: document.querySelector("input[aria-label*=" + JSON.stringify(%[1]q) + "]"); })()`,
		label,
	)
	p.until("the field "+label, field)
	p.do(
		chromedp.Evaluate[chromedp.Void](`(() => { const f = ` + field + `; f.focus(); f.select?.(); })()`),
	)
	p.types(text)
	p.press("\t")
}

// types writes a text in place of what is chosen in the field that has the focus, in one
// go: key by key a page is drawn anew for each, which is tried where keys matter.
func (p *page) types(text string) {
	p.t.Helper()
	if text == "" {
		p.press(kb.Delete)
		return
	}
	_, err := chromedp.Call(p.ctx, input.InsertText, input.InsertTextParams{Text: text})
	require.NoError(p.t, err)
}

// set puts a value into a field that takes no typing in one row everywhere, such
// as a date, or chooses the option with this text. The field is found by its
// label, its accessible name or, for a choice, by the option.
func (p *page) set(label, value string) {
	p.t.Helper()
	field := fmt.Sprintf(
		`(() => { const l = [...document.querySelectorAll("label")].find((l) => l.textContent.includes(%[1]q));
		return document.querySelector('[aria-label=' + JSON.stringify(%[1]q) + ']') ?? (l
				&& (l.control ?? document.getElementById(l.htmlFor))); })()`,
		label,
	)
	// What a choice offers may come after the field.
	p.until(value+" in the field "+label, fmt.Sprintf(
		`(() => { const f = %s;
			return f && (!(f instanceof HTMLSelectElement) || [...f.options].some((o) => o.text === %q)); })()`,
		field,
		value,
	))
	p.do(
		chromedp.Evaluate[chromedp.Void](
			fmt.Sprintf(
				`(() => { const f = %s, choice = f instanceof HTMLSelectElement, value = choice ? [...f.options]
				.find((o) => o.text === %[2]q).value : %[2]q;
		Object.getOwnPropertyDescriptor(Object.getPrototypeOf(f), "value").set.call(f, value);
				f.dispatchEvent(new Event(choice ? "change" : "input", { bubbles: true })); })()`,
				field,
				value,
			),
		),
	)
}

// upload gives a file to the n-th file chooser of the page.
func (p *page) upload(n int, file string) {
	p.t.Helper()
	p.until("a file chooser", fmt.Sprintf(`document.querySelectorAll("input[type=file]").length > %d`, n))
	p.do(
		chromedp.SetUploadFiles(
			chromedp.JSPath(fmt.Sprintf(`document.querySelectorAll("input[type=file]")[%d]`, n)),
			[]string{file},
		),
	)
}

// keeps waits until the shop keeps a draft of which something holds, asked of v.
func (p *page) keeps(what, part, holds string) {
	p.t.Helper()
	p.until(what, `fetch("/api/parts/`+part+`").then((r) => r.json()).then((v) => `+holds+`)`)
}

// axe runs the accessibility checks on the page as it stands, or these of them alone:
// nothing serious or critical may be found.
func (p *page) axe(name string, rules ...string) {
	p.t.Helper()
	// What is still fetched is no page yet.
	p.until("the page", `document.querySelector("main") && !document.body.innerText.includes("Fetching …")`)
	there, err := evaluate[bool](p, `"axe" in window`)
	require.NoError(p.t, err)
	if !there {
		source, err := os.ReadFile("../web/node_modules/axe-core/axe.min.js")
		require.NoError(p.t, err, "run npm ci in web first, as ./test does")
		p.do(chromedp.Evaluate[chromedp.Void](string(source) + `; undefined`))
	}
	only, err := json.Marshal(rules)
	require.NoError(p.t, err)
	found, err := chromedp.Run(
		p.ctx,
		chromedp.Evaluate[[]string](
			`axe.run(document, { runOnly: `+string(
				only,
			)+` ?? undefined, resultTypes: ["violations"], selectors: false, iframes: false }).then((r) =>
		r.violations.filter((v) => ["serious",
		"critical"].includes(v.impact) || v.id.startsWith("landmark")).map((v) => v.id + ": " + v.nodes
				.map((n) => n.html).slice(0, 3).join(" ")))`,
			chromedp.EvalAwaitPromise,
		),
	)
	require.NoError(p.t, err)
	require.Empty(p.t, found, "axe on %s", name)
}

// fetched is the body of a download, asked for by the page itself with its own
// session, as base64 would be wasteful for text: binary comes as latin-1.
func (p *page) fetched(path string) string {
	p.t.Helper()
	s, err := chromedp.Run(
		p.ctx,
		chromedp.Evaluate[string](
			fmt.Sprintf(`fetch(%q).then((r) => r.ok ? r.arrayBuffer() : Promise.reject(new Error(String(r.status))))
		.then((b) => { let s = ""; for (const c of new Uint8Array(b)) s += String.fromCharCode(c); return s; })`, path),
			chromedp.EvalAwaitPromise,
		),
	)
	require.NoError(p.t, err)
	raw := make([]byte, 0, len(s))
	for _, r := range s {
		raw = append(raw, byte(r))
	}
	return string(raw)
}

// signIn signs in on the sign-in page.
func (p *page) signIn(name, secret string) {
	p.t.Helper()
	p.click(name)
	field := "PIN"
	if secret == password {
		field = "password"
	}
	p.fill(field, secret)
	p.press("\r")
	p.until("the route", `document.querySelector("nav")`)
}

// become hands the tablet to somebody else.
func (p *page) become(name, secret string) {
	p.t.Helper()
	p.click("change person")
	p.see("Who are you?")
	p.signIn(name, secret)
}

func evaluate[T any](p *page, js string) (T, error) {
	return chromedp.Run(p.ctx, chromedp.Evaluate[T](js))
}

func evaluateAwait[T any](p *page, js string) (T, error) {
	return chromedp.Run(p.ctx, chromedp.Evaluate[T](js, chromedp.EvalAwaitPromise))
}

func itoa(n int) string { return fmt.Sprint(n) }
