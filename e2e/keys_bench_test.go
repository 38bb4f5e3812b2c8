package e2e

import (
	"context"
	"fmt"
	"slices"
	"testing"

	"github.com/stretchr/testify/require"

	"juxta/core/master"
	"juxta/shop/shoptest"
	"juxta/store/storetest"
)

// clock tells for each key how long it takes until other findings stand in the
// page, and until they are painted, ms.
const clock = `window.took = []; window.painted = [];
addEventListener("keydown", (e) => { if (e.key === "Enter"
				&& e.target.closest("[data-cell]")) window.pressed = performance.now(); }, true);
new MutationObserver(() => {
	const now = [...document.querySelectorAll("[aria-label=Findings] li")].map((l) => l.textContent).join();
	if (now === window.told || !now) return;
	window.told = now;
	if (window.pressed === undefined) return;
	const from = window.pressed;
	window.pressed = undefined;
	window.took.push(performance.now() - from);
	requestAnimationFrame(() => { const c = new MessageChannel();
				c.port1.onmessage = () => window.painted.push(performance.now() - from); c.port2.postMessage(0); });
}).observe(document, { subtree: true, childList: true, characterData: true });`

// atRest waits until the draft is kept and nothing else is to be done.
const atRest = `document.body.innerText.includes("Kept")
				&& new Promise((done) => requestIdleCallback(() => requestIdleCallback(() => done(true))))`

// masters are those that are measured: two of the demo's, one of 100 plies on 11
// outlines, one of 500 on 51.
func masters(b *testing.B, h *house) []string {
	ctx := context.Background()
	file, err := h.shop.ExportMaster(ctx, h.named(b, "SP-11").Part.Code, "A")
	require.NoError(b, err)
	parts := []string{"SP-25", "SP-28"}
	for _, n := range []int{100, 500} {
		many := shoptest.Many(file, n)
		_, err := h.shop.ImportMaster(ctx, h.as(b, "Marek Orde"), many)
		require.NoError(b, err)
		parts = append(parts, many.Number)
	}
	return parts
}

const told = `(document.querySelector("[aria-label=Findings] li")
				|| document.body.innerText.includes("no rule broken"))`

// From the click on a part in the list until its rows stand and can be written
// in, and until its findings do.
//
//	go test ./e2e -run '^$' -bench OpenAMaster -benchtime 8x
func BenchmarkOpenAMaster(b *testing.B) {
	h := openHouse(b)
	for _, number := range masters(b, h) {
		b.Run(number, func(b *testing.B) {
			p := openPage(b, h)
			p.visit("/parts")
			p.signIn("Marek Orde", password)
			var rows, findings []float64
			for b.Loop() {
				link := `[...document.querySelectorAll("a")].find((a) => a.innerText.includes("` + number + `"))`
				p.until(
					"the list",
					link+` && new Promise((done) => requestIdleCallback(() => requestIdleCallback(() => done(true))))`,
				)
				took, err := evaluateAwait[[]float64](p, `new Promise((done) => {
					const from = performance.now(); let rows = 0;
					new MutationObserver((_, o) => {
						if (!rows && document.querySelector("[data-cell]")) rows = performance.now() - from;
						if (rows && `+told+`) { o.disconnect(); done([rows, performance.now() - from]); }
					}).observe(document, { subtree: true, childList: true });
					`+link+`.click();
				})`)
				require.NoError(b, err)
				rows, findings = append(rows, took[0]), append(findings, took[1])
				p.until("the section", `document.querySelector("[aria-label^=Section]")`)
				p.visit("/parts") // with nothing remembered
			}
			slices.Sort(rows)
			slices.Sort(findings)
			b.ReportMetric(rows[len(rows)/2], "ms/rows")
			b.ReportMetric(rows[len(rows)-1], "ms/slowest")
			b.ReportMetric(findings[len(findings)/2], "ms/findings")
			b.ReportMetric(0, "ns/op")
		})
	}
}

// From the key that enters an angle to the changed findings on the page, with
// server, database and browser on this machine. The first key after the page has
// opened is told apart, the median of the others as well.
//
//	go test ./e2e -run '^$' -bench KeyToFindings -benchtime 10x
func BenchmarkKeyToFindings(b *testing.B) {
	h := openHouse(b)
	for _, number := range masters(b, h) {
		b.Run(number, func(b *testing.B) {
			v := h.named(b, number)
			items := v.Document.Items()
			one := items[slices.IndexFunc(items, func(i master.Item) bool { return i.Kind == master.Ply })]
			p := openPage(b, h)
			p.onEveryLoad(clock)
			p.visit("/parts/" + v.Part.Code)
			p.signIn("Marek Orde", password)
			p.until("the findings", told)
			p.until("the section", `document.querySelector("[aria-label^=Section]")`)
			p.until("rest", atRest)
			for n := 0; b.Loop(); n++ {
				p.cell(one.Key, "angleDeg")
				p.press(fmt.Sprint(11 + n%60)) // nothing balances it
				p.until(
					"the frame",
					`new Promise((done) => requestAnimationFrame(() => requestAnimationFrame(() => done(true))))`,
				)
				p.press("\r")
				p.until(fmt.Sprintf("findings %d", n), fmt.Sprintf(`window.painted.length > %d`, n))
				p.until("rest", atRest)
			}
			took, err := evaluate[[]float64](p, `window.took`)
			require.NoError(b, err)
			painted, err := evaluate[[]float64](p, `window.painted`)
			require.NoError(b, err)
			b.ReportMetric(took[0], "ms/first")
			if took, painted = took[1:], painted[1:]; len(took) > 0 {
				slices.Sort(took)
				slices.Sort(painted)
				b.ReportMetric(took[len(took)/2], "ms/key")
				b.ReportMetric(took[len(took)-1], "ms/slowest")
				b.ReportMetric(painted[len(painted)/2], "ms/painted")
			}
			b.ReportMetric(0, "ns/op")
		})
	}
}

// From the address to the day of a shop of 200 open builds on the page, with what can be
// begun; nothing remembered but the scripts.
//
//	go test ./e2e -run '^$' -bench TodaysPage -benchtime 10x
func BenchmarkTodaysPage(b *testing.B) {
	h, _ := openWorks(b)
	n, err := shoptest.MoreBuilds(storetest.Owner(b, h.shop.DB).Gorm, 14)
	require.NoError(b, err)
	p := openPage(b, h)
	p.onEveryLoad(`new MutationObserver((_, o) => {
		if (window.usable !== undefined || !document.querySelector("li .when")) return;
		o.disconnect();
		requestAnimationFrame(() => { const c = new MessageChannel();
			c.port1.onmessage = () => { window.usable = performance.now() }; c.port2.postMessage(0); });
	}).observe(document, { subtree: true, childList: true })`)
	p.visit("/today")
	p.signIn("Ines Falk", pin)
	p.until("the first day", `window.usable > 0`)
	var took []float64
	for b.Loop() {
		p.visit("/today")
		p.until("the day", `window.usable > 0`)
		ms, err := evaluate[float64](p, `window.usable`)
		require.NoError(b, err)
		took = append(took, ms)
	}
	slices.Sort(took)
	b.ReportMetric(float64(n), "builds")
	b.ReportMetric(took[len(took)/2], "ms/median")
	b.ReportMetric(took[len(took)-1], "ms/slowest")
	b.ReportMetric(0, "ns/op")
}
