package pdf

import (
	"bytes"
	"fmt"
	"image"
	"image/draw"
	"image/png"
	"io"

	"github.com/boombuler/barcode"
	"github.com/boombuler/barcode/qr"
	"github.com/go-pdf/fpdf"
	"golang.org/x/image/font/gofont/gobold"
	"golang.org/x/image/font/gofont/goregular"
)

// Label is a label with a QR code of its id: a big line and smaller ones.
type Label struct {
	ID    string
	Big   string
	Lines []string
}

// Size of a label in mm, and how a sheet of A4 holds them.
const (
	labelWide, labelHigh = 90.0, 50.0
	labelsAcross         = 2
	labelsDown           = 5
	sheetLeft, sheetTop  = 15.0, 22.0
)

// Labels sets labels: each on a page of its own size for a label printer, or
// as a sheet of ten on A4 to be cut apart.
func Labels(w io.Writer, labels []Label, sheet bool) error {
	size := fpdf.SizeType{Wd: labelWide, Ht: labelHigh}
	if sheet {
		size = fpdf.SizeType{Wd: 210, Ht: 297}
	}
	doc := fpdf.NewCustom(&fpdf.InitType{OrientationStr: "P", UnitStr: "mm", Size: size})
	doc.AddUTF8FontFromBytes(family, "", goregular.TTF)
	doc.AddUTF8FontFromBytes(family, "B", gobold.TTF)
	doc.SetCreator("Juxta", true)
	doc.SetAutoPageBreak(false, 0)
	for i, l := range labels {
		x, y := 0.0, 0.0
		if sheet {
			k := i % (labelsAcross * labelsDown)
			if k == 0 {
				doc.AddPage()
			}
			x, y = sheetLeft+float64(k%labelsAcross)*labelWide, sheetTop+float64(k/labelsAcross)*labelHigh
			doc.SetLineWidth(0.1)
			doc.Rect(x, y, labelWide, labelHigh, "D")
		} else {
			// A page wider than high is landscape to fpdf; the size says so already.
			doc.AddPageFormat("P", size)
		}
		if err := label(doc, l, x, y); err != nil {
			return err
		}
	}
	if err := doc.Output(w); err != nil {
		return fmt.Errorf("write labels: %w", err)
	}
	return nil
}

// code is a PNG of the QR code of an id, with medium error correction: a label
// lives in a freezer.
func code(id string) (*bytes.Buffer, error) {
	small, err := qr.Encode(id, qr.M, qr.Auto)
	if err != nil {
		return nil, fmt.Errorf("code of %s: %w", id, err)
	}
	big, err := barcode.Scale(small, 12*small.Bounds().Dx(), 12*small.Bounds().Dy())
	if err != nil {
		return nil, fmt.Errorf("code of %s: %w", id, err)
	}
	// Eight bits a pixel: a PDF holds no finer grey.
	grey := image.NewGray(big.Bounds())
	draw.Draw(grey, grey.Bounds(), big, image.Point{}, draw.Src)
	var out bytes.Buffer
	if err := png.Encode(&out, grey); err != nil {
		return nil, fmt.Errorf("code of %s: %w", id, err)
	}
	return &out, nil
}

func label(doc *fpdf.Fpdf, l Label, x, y float64) error {
	picture, err := code(l.ID)
	if err != nil {
		return err
	}
	name := "qr " + l.ID
	doc.RegisterImageOptionsReader(name, fpdf.ImageOptions{ImageType: "PNG"}, picture)
	// Four modules of quiet zone about the code, as ISO/IEC 18004 asks.
	doc.ImageOptions(name, x+7, y+9, 32, 32, false, fpdf.ImageOptions{ImageType: "PNG"}, 0, "")
	at := y + 13
	doc.SetFont(family, "B", 15)
	at = fit(doc, l.ID, x+46, at, 40, 15)
	at = fit(doc, l.Big, x+46, at+2, 40, 12)
	doc.SetFont(family, "", 8.5)
	for _, text := range l.Lines {
		at = fit(doc, text, x+46, at+0.8, 40, 8.5)
	}
	return nil
}

// least is the smallest letter of a label, pt.
const least = 7.0

// fit writes a text from a height on, in smaller letters where it would run
// over and on more lines where that is not enough. It gives the height of the
// next line.
func fit(doc *fpdf.Fpdf, text string, x, y, wide, size float64) float64 {
	for doc.SetFontSize(size); size > least && doc.GetStringWidth(text) > wide; doc.SetFontSize(size) {
		size -= 0.5
	}
	high := size * 0.42 // mm a line
	for _, line := range doc.SplitText(text, wide) {
		doc.Text(x, y, line)
		y += high
	}
	return y
}
