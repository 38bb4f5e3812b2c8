package svg

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
)

// A drawing of 14 MB took 49 s and gave an answer of 108 MB: everything of it has
// a bound now, and a sentence.
func TestADrawingHasBounds(t *testing.T) {
	many := func(n int, one string) string {
		var b strings.Builder
		b.WriteString(`<svg xmlns="http://www.w3.org/2000/svg">`)
		for k := range n {
			fmt.Fprintf(&b, one, k)
		}
		return b.String() + `</svg>`
	}
	zigzag := func(points int) string {
		var b strings.Builder
		for k := range points {
			fmt.Fprintf(&b, "%d,%d ", k, k%2)
		}
		return b.String()
	}
	for says, drawing := range map[string]string{
		"MB, at most 4 MB are read":     `<svg>` + strings.Repeat(" ", MaxSize) + `</svg>`,
		"more than 20000 elements":      many(MaxElements+1, `<g id="%d"/>`),
		"more than 500 outlines":        many(MaxOutlines+1, `<rect id="r%d" width="10" height="10"/>`),
		"points, at most 5000 are read": `<svg><polygon id="p" points="` + zigzag(MaxCorners+1) + `"/></svg>`,
		"it has more than 5000 points":  `<svg><path id="p" d="M0 0 L ` + zigzag(MaxCorners+1) + `z"/></svg>`,
		"cannot be read":                many(300, `<rect id="r%d" transform="x" width="10" height="10"/>`),
	} {
		all, faults := Read([]byte(drawing), 1e-3)
		assert.Nil(t, all)
		assert.Contains(t, strings.Join(faults, "\n"), says)
		assert.LessOrEqual(t, len(faults), MaxFaults+1)
	}
	_, faults := Read([]byte(`<svg><rect id="`+strings.Repeat("n", 5000)+`" transform="x"/></svg>`), 1e-3)
	assert.Less(t, len(faults[0]), 200, "a name is told as long as one can be")
}
