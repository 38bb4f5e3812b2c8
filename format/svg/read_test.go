package svg

import (
	"bytes"
	"fmt"
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"juxta/core/geom"
)

func TestOutlinesComeBackAsTheyWere(t *testing.T) {
	all := []Outline{
		{Name: "full", Ring: geom.Rect(0.4, 0.3)},
		{Name: "pad <1>", Ring: geom.Rect(0.1, 0.05).Move(0.05, -0.2)},
		{Name: "nose", Ring: geom.Ring{{X: 0.123456}, {X: 0.2, Y: 0.01}, {X: 0.15, Y: 0.0777}}},
	}
	var out bytes.Buffer
	require.NoError(t, WriteOutlines(&out, "SP-1 & more", all))
	got, faults := Read(out.Bytes(), 0)
	require.Empty(t, faults)
	require.Len(t, got.Outlines, 3)
	for k, o := range got.Outlines {
		assert.Equal(t, all[k].Name, o.Name)
		require.Len(t, o.Ring, len(all[k].Ring))
		for i, p := range o.Ring {
			assert.InDelta(t, all[k].Ring[i].X, p.X, 1e-6, "to a micrometre")
			assert.InDelta(t, all[k].Ring[i].Y, p.Y, 1e-6)
		}
	}
}

func TestElementsHaveTheirAreas(t *testing.T) {
	in := func(body string) []byte {
		return []byte(`<svg xmlns="http://www.w3.org/2000/svg" width="20cm" viewBox="0 0 100 100">` + body + `</svg>`)
	}
	// A unit is 2 mm: areas are 4 mm² a square unit.
	for body, area := range map[string]float64{
		`<rect width="50" height="20" id="r"/>`:                                       1000,
		`<g><circle cx="50" cy="50" r="10"/></g>`:                                     math.Pi * 100,
		`<ellipse cx="50" cy="50" rx="20" ry="10"/>`:                                  math.Pi * 200,
		`<polygon points="0,0 10,0 10,10"/>`:                                          50,
		`<polyline points="0 0 10 0 10 10 0 10 0 0"/>`:                                100,
		`<path d="M0 0h10v10H0z"/>`:                                                   100,
		`<path d="m10,10 l10,0 0,10 -10,0Z"/>`:                                        100,
		`<path d="M0-.5L10-.5 10.5.5.0.5z"/>`:                                         10.25,
		`<path d="M0 0A10 10 0 0 1 20 0Z"/>`:                                          math.Pi * 50,
		`<path d="M0 0a10 10 0 1 1 20 0 10 10 0 1 1-20 0z"/>`:                         math.Pi * 100,
		`<path d="M0 0A20 10 0 0 1 40 0Z"/><text>ignored</text><line x1="0" x2="1"/>`: math.Pi * 100,
	} {
		got, faults := Read(in(body), 0)
		if assert.Empty(t, faults, body) && assert.Len(t, got.Outlines, 1, body) {
			assert.InEpsilon(t, area*4e-6, got.Outlines[0].Ring.Area(), 1e-3, body)
		}
	}
	two, faults := Read(in(`<path id="a" d="M0 0h10v10z M20 20h5v5z"/>`), 0)
	require.Empty(t, faults)
	assert.Equal(t, []string{"a", "a 2"}, []string{two.Outlines[0].Name, two.Outlines[1].Name})
	hole, faults := Read(in(`<path d="M0 0h30v30H0z M5 5v10h10V5z"/><text x="20" y="25">ply <tspan>4</tspan></text>`+
		`<line x1="1" y1="1" x2="9" y2="1" stroke="black"/>`), 0)
	require.Empty(t, faults)
	require.Len(t, hole.Outlines, 1)
	require.Len(t, hole.Outlines[0].Marks, 3)
	assert.True(t, hole.Outlines[0].Marks[0].Closed)
	assert.Equal(t, "ply 4", hole.Outlines[0].Marks[1].Text)
}

// Curves, transforms, nested drawings, uses, units: each area in closed form. A cubic quarter of
// a circle is off by 0.03 %.
func TestDrawingsOfPrograms(t *testing.T) {
	const k = "5.5228475"
	disc := `<path d="M10 0C10 ` + k + ` ` + k + ` 10 0 10S-10 ` + k + `-10 0-` + k + `-10 0-10 10-` + k + ` 10 0z"/>`
	px := 25.4 / 96
	for _, drawing := range []struct {
		raw  string
		area float64 // mm²
	}{
		{`<svg width="100mm" viewBox="0 0 100 100">` + disc + `</svg>`, math.Pi * 100},
		{`<svg width="100mm" viewBox="0 0 100 100"><path d="M0 0q10 20 20 0z"/></svg>`, 200.0 / 1.5},
		{`<svg width="100mm" viewBox="0 0 100 100"><path d="M0 0Q5 10 10 0T20 0V-20H0z"/></svg>`, 400},
		{`<svg width="100mm" viewBox="0 0 100 100"><path d="M0 0a10 10 0 0120 0 10 10 0 01-20 0"/>` +
			`</svg>`, math.Pi * 100},
		{`<svg width="96px" viewBox="0 0 10 10"><rect width="10" height="10"/></svg>`, 25.4 * 25.4},
		{`<svg width="72pt" viewBox="0 0 10 10"><rect width="10" height="10"/></svg>`, 25.4 * 25.4},
		{`<svg width="50" height="50" viewBox="0 0 100 100"><rect width="100" height="100"/></svg>`, 2500 * px * px},
		{`<svg width="100mm" viewBox="0 0 100 100"><g transform="translate(5,5) rotate(30)">` +
			`<rect width="9" height="4"/></g></svg>`, 36},
		{`<svg width="100mm" viewBox="0 0 100 100"><rect width="9" height="4" transform="matrix(2 0 0 -3 0 0)"/>` +
			`</svg>`, 216},
		{`<svg width="100mm" viewBox="0 0 100 100"><rect width="9" height="4" style="transform: scale(2)"/>` +
			`</svg>`, 144},
		{`<svg width="100mm" viewBox="0 0 100 100"><svg width="20" height="20" viewBox="0 0 2 2">` +
			`<rect width="1" height="1"/></svg></svg>`, 100},
		{`<svg width="100mm" viewBox="0 0 100 100"><defs>` +
			`<rect id="r" width="3" height="3"/></defs><use href="#r" x="5" transform="scale(2)"/></svg>`, 36},
		{`<svg width="100mm" viewBox="0 0 100 100"><symbol id="s" viewBox="0 0 1 1">` +
			`<rect width="1" height="1"/></symbol><use href="#s" width="7" height="7"/></svg>`, 49},
		{`<svg width="100mm" viewBox="0 0 100 100"><rect width="20" height="10" rx="5"/></svg>`, 100 + math.Pi*25},
		{`<svg width="100mm" viewBox="0 0 100 100"><style>.a,.b{fill:none}</style>` +
			`<path class="a" d="M0 0h90v90z"/><rect width="6" height="6"/></svg>`, 36},
		{`<svg width="100mm" viewBox="0 0 100 100"><path d="M0 0h24v24H0z" fill="none"/>` +
			`<g display="none">` + disc + `</g><rect width="6" height="6"/></svg>`, 36},
		{`<svg width="100mm" viewBox="0 0 100 100"><clipPath id="c">` +
			`<rect width="50" height="50"/></clipPath><rect width="6" height="6" visibility="visible"/></svg>`, 36},
	} {
		got, faults := Read([]byte(drawing.raw), 0)
		if assert.Empty(t, faults, drawing.raw) && assert.Len(t, got.Outlines, 1, drawing.raw) {
			assert.InEpsilon(t, drawing.area*1e-6, got.Outlines[0].Ring.Area(), 1e-3, drawing.raw)
		}
	}
	// What is open is never closed without a word.
	open, faults := Read([]byte(`<svg width="10mm" viewBox="0 0 10 10"><path id="p" d="M0 0h5v5"/></svg>`), 0)
	require.Empty(t, faults)
	require.Len(t, open.Notes, 1)
	assert.Contains(t, open.Notes[0], `path "p" is open: it was closed by a straight line of 7.1 mm`)
	lined, faults := Read([]byte(`<svg width="90mm" viewBox="0 0 90 90"><rect width="80" height="80"/>`+
		`<path fill="none" stroke="red" d="M10 10h9v9"/></svg>`), 0)
	require.Empty(t, faults)
	require.Len(t, lined.Outlines, 1)
	assert.Len(t, lined.Outlines[0].Marks, 1)
	// A drawing that says no size is asked for its unit.
	square := `<svg viewBox="0 0 9 9"><rect width="6" height="6"/></svg>`
	_, faults = Read([]byte(square), 0)
	assert.Contains(t, faults[0], "does not say its size: choose mm or inch")
	inch, faults := Read([]byte(square), 0.0254)
	require.Empty(t, faults)
	assert.InEpsilon(t, 36*0.0254*0.0254, inch.Outlines[0].Ring.Area(), 1e-9)
}

func TestADrawingThatIsNoneSaysWhy(t *testing.T) {
	for says, raw := range map[string]string{
		"this is not an SVG drawing": `PK\x03\x04`,
		"not an SVG drawing":         `<html/>`,
		"no closed outline":          `<svg/>`,
		"cannot be read":             `<svg><rect width="1" height="1" transform="twist(2)"/></svg>`,
		"turns about a place": `<svg><rect width="1" height="1"
			style="transform:scale(2);transform-origin:50% 50%"/></svg>`,
		"cannot be read at character":        `<svg><path d="M0 0 L 1 x"/></svg>`,
		"crosses itself at (5.00, -5.00) mm": `<svg><polygon points="0,0 10,10 10,0 0,10"/></svg>`,
		"encloses no area":                   `<svg><polygon points="0,0 10,0 20,0"/></svg>`,
		"do not say how large":               `<svg width="20mm"/>`,
		"not pairs of numbers":               `<svg><polygon points="0,0 10"/></svg>`,
		"is no figure":                       `<svg><circle r="big"/></svg>`,
		"its ends lie 0.100 mm apart":        `<svg><path fill="none" stroke="red" d="M0 0h50v50H0V.1"/></svg>`,
		"deep":                               `<svg><g id="a"><use href="#a"/></g></svg>`,
	} {
		_, faults := Read([]byte(raw), 1e-3)
		if assert.NotEmpty(t, faults, says) {
			assert.Contains(t, fmt.Sprint(faults), says)
		}
	}
}

func FuzzRead(f *testing.F) {
	for _, seed := range []string{
		`<svg><path d="M0 0h10v10z"/></svg>`, `<svg width="1in" viewBox="0 0 1 1"><circle r="5"/></svg>`,
		`<svg><path d="M0 0A1 2 3 0 1 4 5z"/></svg>`,
		`<svg><path d="M0 0c1 1 2 2 3 0t4 4s1 1 2 2z" transform="rotate(5)"/></svg>`,
		`<svg><style>.a{fill:none}</style><symbol id="s" viewBox="0 0 1 1">` +
			`<rect rx="1" width="4" height="5"/></symbol><use href="#s"/></svg>`,
	} {
		f.Add([]byte(seed))
	}
	f.Fuzz(func(t *testing.T, raw []byte) {
		got, faults := Read(raw, 1e-3)
		require.True(t, (got == nil) != (len(faults) == 0), "a drawing or faults")
		if got == nil {
			return
		}
		for _, o := range got.Outlines {
			require.NoError(t, o.Ring.Check())
		}
	})
}
