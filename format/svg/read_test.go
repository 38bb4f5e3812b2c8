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
		{"full", geom.Rect(0.4, 0.3)},
		{"pad <1>", geom.Rect(0.1, 0.05).Move(0.05, -0.2)},
		{"nose", geom.Ring{{X: 0.123456}, {X: 0.2, Y: 0.01}, {X: 0.15, Y: 0.0777}}},
	}
	var out bytes.Buffer
	require.NoError(t, WriteOutlines(&out, "SP-1 & more", all))
	got, faults := ReadOutlines(out.Bytes())
	require.Empty(t, faults)
	require.Len(t, got, 3)
	for k, o := range got {
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
		got, faults := ReadOutlines(in(body))
		if assert.Empty(t, faults, body) && assert.Len(t, got, 1, body) {
			assert.InEpsilon(t, area*4e-6, got[0].Ring.Area(), 1e-3, body)
		}
	}
	two, faults := ReadOutlines(in(`<path id="a" d="M0 0h10v10z M20 20h5v5z"/>`))
	require.Empty(t, faults)
	assert.Equal(t, []string{"a", "a 2"}, []string{two[0].Name, two[1].Name})
}

func TestADrawingThatIsNoneSaysWhy(t *testing.T) {
	for says, raw := range map[string]string{
		"this is not an SVG drawing":  `PK\x03\x04`,
		"not an SVG drawing":          `<html/>`,
		"no closed outline":           `<svg/>`,
		"has a transform":             `<svg><rect width="1" height="1" transform="scale(2)"/></svg>`,
		"a curve that is not read":    `<svg><path id="q" d="M0 0C1 1 2 2 3 3z"/></svg>`,
		"cannot be read at character": `<svg><path d="M0 0 L 1 x"/></svg>`,
		"crosses itself":              `<svg><polygon points="0,0 10,10 10,0 0,10"/></svg>`,
		"encloses no area":            `<svg><polygon points="0,0 10,0 20,0"/></svg>`,
		"do not say how large":        `<svg width="20mm"/>`,
		"not pairs of numbers":        `<svg><polygon points="0,0 10"/></svg>`,
		"rounded corners":             `<svg><rect width="9" height="9" rx="2"/></svg>`,
		"is not a number":             `<svg><circle r="big"/></svg>`,
	} {
		_, faults := ReadOutlines([]byte(raw))
		if assert.NotEmpty(t, faults, says) {
			assert.Contains(t, fmt.Sprint(faults), says)
		}
	}
}

func FuzzReadOutlines(f *testing.F) {
	for _, seed := range []string{
		`<svg><path d="M0 0h10v10z"/></svg>`, `<svg width="1in" viewBox="0 0 1 1"><circle r="5"/></svg>`,
		`<svg><path d="M0 0A1 2 3 0 1 4 5z"/></svg>`,
	} {
		f.Add([]byte(seed))
	}
	f.Fuzz(func(t *testing.T, raw []byte) {
		all, faults := ReadOutlines(raw)
		require.True(t, (len(all) == 0) != (len(faults) == 0), "outlines or faults")
		for _, o := range all {
			require.NoError(t, o.Ring.Check())
		}
	})
}
