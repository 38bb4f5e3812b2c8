package pdf

import (
	"bytes"
	"fmt"
	stdimage "image"
	"image/draw"
	"image/png"
	"math"
	"testing"

	"github.com/makiuchi-d/gozxing"
	"github.com/makiuchi-d/gozxing/qrcode"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"juxta/format/pdf/pdftest"
)

// Read by a reader that is not ours (a port of a general barcode library).
func TestAnotherReaderReadsTheCodes(t *testing.T) {
	for _, id := range []string{"R-4KD7Q", "W-7Q4KD7QX", "M-00000"} {
		image, err := code(id)
		require.NoError(t, err)
		bare, err := png.Decode(image)
		require.NoError(t, err)
		// The label leaves white around the code.
		picture := stdimage.NewGray(stdimage.Rect(0, 0, bare.Bounds().Dx()+96, bare.Bounds().Dy()+96))
		draw.Draw(picture, picture.Bounds(), stdimage.White, stdimage.Point{}, draw.Src)
		draw.Draw(picture, bare.Bounds().Add(stdimage.Pt(48, 48)), bare, stdimage.Point{}, draw.Src)
		bits, err := gozxing.NewBinaryBitmapFromImage(picture)
		require.NoError(t, err)
		read, err := qrcode.NewQRCodeReader().
			Decode(bits, map[gozxing.DecodeHintType]interface{}{gozxing.DecodeHintType_PURE_BARCODE: true})
		require.NoError(t, err)
		assert.Equal(t, id, read.GetText())
	}
}

func TestLabelsFillSheetsOfTenOrPagesOfTheirOwn(t *testing.T) {
	labels := []Label{}
	for i := range 13 {
		labels = append(
			labels,
			Label{
				ID:    fmt.Sprintf("R-%05d", i),
				Big:   "Sable UD 150 with a name that is far too long for one line of it",
				Lines: []string{"lot Żółć", "62.00 m"},
			},
		)
	}
	for sheet, pages := range map[bool]int{true: 2, false: 13} {
		var file bytes.Buffer
		require.NoError(t, Labels(&file, labels, sheet))
		n, text := pdftest.Read(t, file.Bytes())
		assert.Equal(t, pages, n)
		for _, l := range labels {
			assert.Contains(t, text, l.ID)
		}
		assert.Contains(t, text, "lot Żółć")
		assert.Contains(t, text, "far too long for one line of it", "made smaller, not cut short")
	}
}

// A sheet of small labels as it is printed, at 8 pixels a mm: every code of 20 mm is read by the other reader.
func TestSmallLabelsAreReadFromThePrintedPage(t *testing.T) {
	angle := 45.0
	var labels []Label
	for i := range 26 {
		labels = append(labels, Label{
			ID: fmt.Sprintf("C-%05dQ", i), Big: "SP-11 · 0003 · ply 4", Angle: &angle,
			Lines: []string{
				"+45°, face up, 1 film, rev B",
				"Sable UD 150",
				"roll R-FGG17, lot SU-2291",
				"kept out: out-life ends 8 Dec 22:14",
			},
		})
	}
	var file bytes.Buffer
	require.NoError(t, LabelsOf(&file, Small, labels, true))
	pages := pdftest.Draw(t, file.Bytes(), 2, 8)
	require.Len(t, pages, 2)
	for i, l := range labels {
		k := i % 24
		x, y := Small.left+float64(k%3)*Small.wide, Small.top+float64(k/3)*Small.high
		at := stdimage.Rect(int((x+0.5)*8), int((y+(37-20)/2.0-3)*8), int((x+3.5+20+3)*8), int((y+(37+20)/2.0+3)*8))
		// A code of 20 mm, with its quiet zone.
		picture := stdimage.NewGray(stdimage.Rect(0, 0, at.Dx(), at.Dy()))
		draw.Draw(picture, picture.Bounds(), pages[i/24], at.Min, draw.Src)
		bits, err := gozxing.NewBinaryBitmapFromImage(picture)
		require.NoError(t, err)
		read, err := qrcode.NewQRCodeReader().Decode(bits, nil)
		require.NoError(t, err, l.ID)
		assert.Equal(t, l.ID, read.GetText())
	}
	// Nothing of a label runs over its edge: between the columns there is white.
	for y := 1.5; y < 295; y++ {
		if math.Mod(y-Small.top, Small.high) < 1 {
			continue // the line between two labels
		}
		for _, x := range []float64{69, 139, 208.5} {
			assert.False(t, pages[0].Ink(x, y), "%g, %g", x, y)
		}
	}
	require.NoError(t, LabelsOf(&file, Small, labels[:2], false))
}
