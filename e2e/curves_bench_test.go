package e2e

import (
	"fmt"
	"slices"
	"testing"

	"github.com/stretchr/testify/require"
)

// From a key in a field of a recipe until other curves stand in the page.
//
//	go test ./e2e -run '^$' -bench KeyToCurves -benchtime 30x
func BenchmarkKeyToCurves(b *testing.B) {
	h := openHouse(b)
	for _, name := range []string{"Ring", "Panel"} {
		b.Run(name, func(b *testing.B) {
			p := openPage(b, h)
			p.visit(fmt.Sprint("/cure/recipes/", h.recipe(b, name).ID))
			p.signIn("Marek Orde", password)
			p.see("every limit entered is met")
			var took, asked []float64
			hold := 100
			for b.Loop() {
				hold++ // what was asked before is remembered
				ms, err := evaluateAwait[[]float64](p, fmt.Sprintf(`new Promise((done) => {
					const field = document.querySelector("[aria-label='Segment 1: hold, min']");
					const curve = document.querySelector("svg path[stroke='var(--ink)']");
					const from = performance.now();
					new MutationObserver((_, o) => { o.disconnect(); done([performance.now() - from,
						performance.getEntriesByType("resource")
							.findLast((r) => r.name.endsWith("/api/forecast")).duration]);
					performance.clearResourceTimings(); })
						.observe(curve, { attributes: true, attributeFilter: ["d"] });
					Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, "value").set.call(field, "%d");
					field.dispatchEvent(new Event("input", { bubbles: true }));
				})`, hold))
				require.NoError(b, err)
				took, asked = append(took, ms[0]), append(asked, ms[1])
			}
			slices.Sort(took)
			slices.Sort(asked)
			b.ReportMetric(asked[len(asked)/2], "ms/answer")
			b.ReportMetric(took[len(took)/2], "ms/key")
			b.ReportMetric(took[len(took)-1], "ms/slowest")
		})
	}
}
