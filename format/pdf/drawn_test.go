package pdf

import (
	"bytes"
	"math"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"juxta/core/geom"
	"juxta/format/pdf/pdftest"
)

// What another reader prints is what a hand cuts and lays by: templates at
// their size, fibres at their angle, nothing beyond what printers reach.
func TestAPlyBookIsPrintedTrue(t *testing.T) {
	const perMM = 5
	b := sample(0)
	full, angle := geom.Rect(0.4, 0.3), 30.0
	b.Items = []BookItem{
		{
			Title:   "Ply 1",
			Outline: full,
			Angle:   &angle,
			Fill:    Fill{Kind: "ply", AngleDeg: 30, Thickness: 0.2e-3},
			Signs:   []string{"Laid", "Checked"},
		},
		{Title: "Insert 1", At: geom.Point{X: 0.1, Y: 0.1}, Ghosts: []geom.Ring{full}, Signs: []string{"Placed"}},
	}
	b.Cuts = []BookCut{
		{
			Title:  "Section A",
			Length: 0.4,
			Height: 0.001,
			Courses: []BookCourse{
				{[][3]float64{{0, 0, 0.001}, {0.2, 0, 0.001}, {0.2, 0, 0.0005}, {0.4, 0, 0.0005}}, Fill{Kind: "core"}},
			},
			Names: []string{"1 · +30°"},
		},
	}
	b.Templates = []BookTemplate{{"Ply 1 pad", geom.Rect(0.1, 0.06)}, {"Ply 2 full", full}}
	for _, letter := range []bool{false, true} {
		b.Letterpaper = letter
		var out bytes.Buffer
		require.NoError(t, WriteBook(&out, b))
		pages, _ := pdftest.Read(t, out.Bytes())
		require.Equal(t, 1+2+1+1+6, pages)
		wide, high := 210.0, 297.0
		if letter {
			wide, high = 215.9, 279.4
		}
		drawn := pdftest.Draw(t, out.Bytes(), 5, perMM)
		require.Len(t, drawn, 5)
		for k, p := range drawn {
			n := k + 1
			assert.InDelta(t, wide, float64(p.Bounds().Dx())/perMM, 0.2)
			left, top, right, bottom := p.Printed()
			assert.Greater(
				t,
				min(left, top, wide-right, high-bottom),
				5.0,
				"page %d: what printers do not reach stays free",
				n,
			)
			assert.Greater(t, right-left, 120.0, "page %d carries something", n)
			switch n {
			case 2:
				along, across := follows(p, 30), follows(p, -30)
				assert.Greater(t, along, 0.75, "the hatch runs at +30°, seen from above")
				assert.Less(t, across, 0.5)
			case 4: // the two heights of the step, and the tool with the lower face
				assert.GreaterOrEqual(t, len(p.Level(60)), 2)
			case 5: // the check scale, the pad's two long sides, the foot's rule
				long := p.Level(50)
				require.GreaterOrEqual(t, len(long), 3)
				for _, l := range long[:3] {
					assert.InDelta(t, 100, l, 0.5, "1:1")
				}
			}
		}
	}
}

// follows is how much of a hatch is found again 2 mm along an angle.
func follows(p pdftest.Page, deg float64) float64 {
	s, c := math.Sincos(deg * math.Pi / 180)
	inked, again := 0, 0
	for x := 60.0; x < 140; x += 0.1 {
		for y := 70.0; y < 130; y += 0.1 {
			if p.Ink(x, y) {
				inked++
				if p.Ink(x+2*c, y-2*s) {
					again++
				}
			}
		}
	}
	return float64(again) / float64(max(1, inked))
}

// Curves are told apart by their dashes, however close their points lie.
func TestACurveOfManyPointsKeepsItsDashes(t *testing.T) {
	const perMM, n = 8, 2000
	level := func(at float64, dash ...float64) Curve {
		c := Curve{Name: "c", Dash: dash, X: make([]float64, n), Y: make([]float64, n)}
		for i := range c.X {
			c.X[i], c.Y[i] = float64(i)/n, at
		}
		return c
	}
	var out bytes.Buffer
	require.NoError(
		t,
		Write(
			&out,
			Record{
				Sections: []Section{
					{
						Heading: "Run",
						Charts: []Chart{
							{X: "h", Y: "K", Lines: []Curve{level(0), level(1), level(0.37), level(0.63, 3, 3)}},
						},
					},
				},
			},
		),
	)
	page := pdftest.Draw(t, out.Bytes(), 1, perMM)[0]
	var shares []float64 // of ink in the rows between 60 and 120 mm, where the curves run
	for y := range page.Bounds().Dy() {
		dark := 0
		for x := 60 * perMM; x < 120*perMM; x++ {
			if page.GrayAt(x, y).Y < 160 {
				dark++
			}
		}
		if share := float64(dark) / (60 * perMM); share > 0.2 {
			shares = append(shares, share)
		}
	}
	assert.Contains(t, shares, 1.0, "a whole line")
	slices.Sort(shares)
	assert.InDelta(t, 0.5, shares[0], 0.1, "3 mm on, 3 mm off")
}
