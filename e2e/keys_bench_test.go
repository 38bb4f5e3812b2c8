package e2e

import (
	"context"
	"fmt"
	"slices"
	"testing"

	"github.com/stretchr/testify/require"

	"juxta/core/master"
	"juxta/shop/shoptest"
)

// clock tells for each key how long it takes until other findings stand in the
// page, and until they are painted, ms.
const clock = `window.took = []; window.painted = [];
addEventListener("keydown", (e) => { if (e.key === "Enter" && e.target.closest("[data-cell]")) window.pressed = performance.now(); }, true);
new MutationObserver(() => {
	const now = [...document.querySelectorAll("[aria-label=Findings] li")].map((l) => l.textContent).join();
	if (now === window.told || !now) return;
	window.told = now;
	if (window.pressed === undefined) return;
	const from = window.pressed;
	window.pressed = undefined;
	window.took.push(performance.now() - from);
	requestAnimationFrame(() => { const c = new MessageChannel(); c.port1.onmessage = () => window.painted.push(performance.now() - from); c.port2.postMessage(0); });
}).observe(document, { subtree: true, childList: true, characterData: true });`

// atRest waits until the draft is kept and nothing else is to be done.
const atRest = `document.body.innerText.includes("Kept") && new Promise((done) => requestIdleCallback(() => requestIdleCallback(() => done(true))))`

// From the key that enters an angle to the changed findings on the page, with server,
// database and browser on this machine: masters of 100 plies on 11 outlines, of
// 500 on 51, and the demo's own. The first key after the page has opened is told
// apart, the median of the others as well.
//
//	go test ./e2e -run '^$' -bench KeyToFindings -benchtime 10x
func BenchmarkKeyToFindings(b *testing.B) {
	h := openHouse(b)
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
	for _, number := range parts {
		b.Run(number, func(b *testing.B) {
			v := h.named(b, number)
			items := v.Document.Items()
			one := items[slices.IndexFunc(items, func(i master.Item) bool { return i.Kind == master.Ply })]
			p := openPage(b, h.url)
			p.onEveryLoad(clock)
			p.visit("/parts/" + v.Part.Code)
			p.signIn("Marek Orde", password)
			p.until("the findings", `document.querySelector("[aria-label=Findings] li") || document.body.innerText.includes("no rule broken")`)
			p.until("the section", `document.querySelector("[aria-label^=Section]")`)
			p.until("rest", atRest)
			for n := 0; b.Loop(); n++ {
				p.cell(one.Key, "angleDeg")
				p.press(fmt.Sprint(11 + n%60)) // nothing balances it
				p.until("the frame", `new Promise((done) => requestAnimationFrame(() => requestAnimationFrame(() => done(true))))`)
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
