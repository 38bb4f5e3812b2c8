package pdf

import (
	"bytes"
	"fmt"
	stdimage "image"
	"image/draw"
	"image/png"
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
