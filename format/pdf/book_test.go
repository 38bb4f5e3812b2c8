package pdf

import (
	"bytes"
	"fmt"
	"image"
	"image/png"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"juxta/core/geom"
	"juxta/format/pdf/pdftest"
)

func sample(items int) Book {
	b := Book{
		Number: "SP-99",
		Name:   "Test panel",
		Letter: "C",
		State:  "released",
		Hash:   "0123456789abcdef",
		Cover:  []Section{{Heading: "Materials", Notes: []string{"Sable twill"}}},
	}
	full := geom.Rect(0.4, 0.3)
	angle, place := 45.0, geom.Point{X: 0.05, Y: 0.05}
	for k := range items {
		b.Items = append(
			b.Items,
			BookItem{
				Title:   fmt.Sprintf("Ply %d", k+1),
				Outline: full,
				Angle:   &angle,
				Place:   &place,
				Fill:    Fill{Kind: "ply", AngleDeg: 45, Woven: k%2 == 0, Thickness: 0.2e-3},
				Ghosts: []geom.Ring{
					full,
				},
				Facts:    [][2]string{{"Material", "Sable twill"}, {"Running", "0.40 mm"}},
				Warnings: []string{"Gloves"},
				Signs:    []string{"Laid", "Checked"},
			},
		)
	}
	return b
}

func TestAPlyBookIsReadByAnotherReader(t *testing.T) {
	b := sample(3)
	b.Items = append(b.Items, BookItem{Title: "Insert 1", At: geom.Point{X: 0.1, Y: 0.1}, Signs: []string{"Placed"}})
	b.Cuts = []BookCut{
		{
			Title:   "Section A",
			Length:  0.4,
			Height:  0.001,
			Courses: []BookCourse{{[][3]float64{{0, 0, 0.001}, {0.4, 0, 0.001}}, Fill{Kind: "core"}}},
			Names:   []string{"1 · +45°"},
		},
	}
	b.Templates = []BookTemplate{{"Ply 1 full", geom.Rect(0.4, 0.3)}, {"Ply 2 pad", geom.Rect(0.1, 0.1)}}
	for _, letter := range []bool{false, true} {
		b.Letterpaper = letter
		var out bytes.Buffer
		require.NoError(t, WriteBook(&out, b))
		pages, text := pdftest.Read(t, out.Bytes())
		// By hand: cover, 4 items, 1 section; 400 x 300 mm on 178 (184) x 247 (229)
		// mm with 10 mm lapped is 3 columns by 2 rows; the pad is one sheet.
		assert.Equal(t, 1+4+1+6+1, pages)
		for _, says := range []string{
			"SP-99 Test panel", "Ply book, revision C", "Sable twill", "Ply 3", "+45°", "50.0", "datum", "Insert 1",
			"Section A", "1:1 · sheet 6 of 6 (column 3, row 2)", "100 mm", "Gloves", "Laid",
		} {
			assert.Contains(t, text, says)
		}
		assert.GreaterOrEqual(t, bytes.Count([]byte(text), []byte("0123456789abcdef")), pages, "the hash on every page")
		assert.NotContains(t, text, "do not build from it")
	}
	// A picture is set; one that is none is left out and spoils nothing.
	var photo bytes.Buffer
	require.NoError(t, png.Encode(&photo, image.NewGray16(image.Rect(0, 0, 60, 40))))
	size := func(picture []byte) int {
		b.Items[0].Picture = picture
		var out bytes.Buffer
		require.NoError(t, WriteBook(&out, b))
		return bytes.Count(out.Bytes(), []byte("/Subtype /Image"))
	}
	assert.Equal(t, 1, size(photo.Bytes()))
	assert.Equal(t, 0, size(photo.Bytes()[:40]))
	assert.Equal(t, 0, size([]byte("no picture")))
	b.State = "draft"
	var out bytes.Buffer
	require.NoError(t, WriteBook(&out, b))
	_, text := pdftest.Read(t, out.Bytes())
	assert.Contains(t, text, "This revision is draft: do not build from it.")
}

func BenchmarkPlyBookOf200Plies(b *testing.B) {
	book := sample(200)
	for b.Loop() {
		var out bytes.Buffer
		require.NoError(b, WriteBook(&out, book))
	}
}
