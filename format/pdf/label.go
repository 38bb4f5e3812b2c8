package pdf

import (
	"bytes"
	"fmt"
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

func label(doc *fpdf.Fpdf, l Label, x, y float64) error {
	// Medium error correction: a label lives in a freezer.
	code, err := qr.Encode(l.ID, qr.M, qr.Auto)
	if err != nil {
		return fmt.Errorf("code of %s: %w", l.ID, err)
	}
	big, err := barcode.Scale(code, 12*code.Bounds().Dx(), 12*code.Bounds().Dy())
	if err != nil {
		return fmt.Errorf("code of %s: %w", l.ID, err)
	}
	var image bytes.Buffer
	if err := png.Encode(&image, big); err != nil {
		return fmt.Errorf("code of %s: %w", l.ID, err)
	}
	name := "qr " + l.ID
	doc.RegisterImageOptionsReader(name, fpdf.ImageOptions{ImageType: "PNG"}, &image)
	// Four modules of quiet zone about the code, as ISO/IEC 18004 asks.
	doc.ImageOptions(name, x+7, y+9, 32, 32, false, fpdf.ImageOptions{ImageType: "PNG"}, 0, "")
	doc.SetFont(family, "B", 15)
	fit(doc, l.ID, x+44, y+13, 42, 15)
	fit(doc, l.Big, x+44, y+21, 42, 12)
	doc.SetFont(family, "", 8.5)
	for k, text := range l.Lines {
		fit(doc, text, x+44, y+27+float64(k)*4.2, 42, 8.5)
	}
	return nil
}

// fit writes a line, in smaller letters where it would run over.
func fit(doc *fpdf.Fpdf, text string, x, y, wide, size float64) {
	doc.SetFontSize(size)
	for size > 5 && doc.GetStringWidth(text) > wide {
		size -= 0.5
		doc.SetFontSize(size)
	}
	doc.Text(x, y, text)
}
