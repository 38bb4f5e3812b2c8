package pdf

import (
	"bytes"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"juxta/core/geom"
	"juxta/format/dxf"
	"juxta/format/pdf/pdftest"
)

// A template as it is printed, held against a rule: the ply is as long as it is, on one page and over two, whose
// marks lie over one another.
func TestATemplateIsAsLargeAsThePly(t *testing.T) {
	c := Cloth{Title: "Nest N-1", Width: 0.2, Length: 0.33, Pieces: []dxf.LabelledOutline{{
		Outline: geom.Rect(0.3, 0.08).
			Move(0.02, 0.1),
		Label: "SP-1 · 7", At: geom.Point{X: 0.05, Y: 0.12}, Height: 0.01,
		Marks: []dxf.Detail{{Line: []geom.Point{{X: 0.1, Y: 0.15}, {X: 0.16, Y: 0.15}}}},
	}}}
	var file bytes.Buffer
	require.NoError(t, Template(&file, c, false))
	pages := pdftest.Draw(t, file.Bytes(), 2, 5)
	require.Len(t, pages, 1)
	lengths := pages[0].Level(55)
	for _, want := range []float64{330, 300, 60, 300, 330, 100} {
		require.NotEmpty(t, lengths)
		assert.InDelta(t, want, lengths[0], 0.7)
		lengths = lengths[1:]
	}
	_, text := pdftest.Read(t, file.Bytes())
	assert.Contains(t, text, "SP-1 · 7")
	assert.Contains(t, text, "row 1 of 1, column 1 of 1")

	file.Reset()
	require.NoError(t, Template(&file, c, true))
	pages = pdftest.Draw(t, file.Bytes(), 3, 5)
	require.Len(t, pages, 2)
	// From 20 mm to the end of the first, and on from where the second begins, 180 mm further: 10 mm twice.
	first, second := pages[0].Level(55), pages[1].Level(55)
	assert.InDelta(t, 170, first[1], 0.7)
	assert.InDelta(t, 140, second[1], 0.7)
	assert.InDelta(t, 300+10, first[1]+second[1], 1)
}

// Cloth longer than a page may be goes on on the next.
func TestALongTemplateHasSeveralPages(t *testing.T) {
	var file bytes.Buffer
	require.NoError(t, Template(&file, Cloth{Title: "long", Width: 0.3, Length: 11}, false))
	pages, text := pdftest.Read(t, file.Bytes())
	assert.Equal(t, 3, pages)
	assert.Contains(t, text, "column 3 of 3")
	file.Reset()
	require.NoError(t, Template(&file, Cloth{Title: "long", Width: 0.6, Length: 2}, true))
	pages, _ = pdftest.Read(t, file.Bytes())
	assert.Equal(t, 12*3, pages)
}
