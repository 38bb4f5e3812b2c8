package svg

import (
	"bytes"
	"encoding/xml"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"juxta/core/geom"
	"juxta/format/dxf"
)

func TestASheetIsDrawnAtOneToOneWithItsLabels(t *testing.T) {
	var file bytes.Buffer
	sheet := Sheet{Width: 0.6, Length: 1.25, Flaws: [][2]float64{{0.3, 0.4}}, Title: `Nest <N> & "co"`}
	require.NoError(
		t,
		Write(
			&file,
			sheet,
			[]dxf.LabelledOutline{
				{Outline: geom.Rect(0.2, 0.1), Label: "a < b", At: geom.Point{X: 0.01, Y: 0.01}, Height: 0.012},
			},
		),
	)
	var doc struct {
		Width  string `xml:"width,attr"`
		Height string `xml:"height,attr"`
		Title  string `xml:"title"`
		Text   string `xml:"text"`
		Rects  []struct {
			Class string `xml:"class,attr"`
		} `xml:"rect"`
		Path struct {
			D string `xml:"d,attr"`
		} `xml:"path"`
	}
	require.NoError(t, xml.Unmarshal(file.Bytes(), &doc), "well-formed, whatever the label says")
	assert.Equal(t, "1250.00mm", doc.Width)
	assert.Equal(t, "600.00mm", doc.Height)
	assert.Equal(t, `Nest <N> & "co"`, doc.Title)
	assert.Equal(t, "a < b", doc.Text)
	assert.Len(t, doc.Rects, 2)
	// y points up in the shop: the lower left corner is at the foot of the sheet.
	assert.Equal(t, "M0.000,600.000L200.000,600.000L200.000,500.000L0.000,500.000Z", doc.Path.D)
}
