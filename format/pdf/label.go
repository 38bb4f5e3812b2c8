package pdf

import (
	"bytes"
	"fmt"
	"image"
	"image/draw"
	"image/png"
	"io"
	"math"

	"github.com/boombuler/barcode"
	"github.com/boombuler/barcode/qr"
	"github.com/go-pdf/fpdf"
	"golang.org/x/image/font/gofont/gobold"
	"golang.org/x/image/font/gofont/goregular"
)

// Label is a label with a QR code of its id: a big line and smaller ones. Angle is drawn as an arrow where it is
// given: of the fibre, with the part's 0° level, degrees.
type Label struct {
	ID    string
	Big   string
	Lines []string
	Angle *float64
}

// Size of labels, and how a sheet of A4 holds them, mm.
type Size struct {
	wide, high   float64
	across, down int
	left, top    float64
	code         float64 // side of the code
	edge         float64 // white left of it and right of it
	text         float64 // first line from the top
	big          float64 // letters of the id, pt
}

// Sizes that sheets of labels are sold in (common practice, no source): ten or twenty-four to a page of A4.
var (
	Large = Size{90, 50, 2, 5, 15, 22, 32, 7, 13, 15}
	Small = Size{70, 37, 3, 8, 0, 0.5, 20, 3.5, 6.5, 11}
)

// Labels sets labels: each on a page of its own size for a label printer, or as sheets of A4 to be cut apart.
func Labels(w io.Writer, labels []Label, sheet bool) error { return LabelsOf(w, Large, labels, sheet) }

// LabelsOf sets labels of a size.
func LabelsOf(w io.Writer, s Size, labels []Label, sheet bool) error {
	size := fpdf.SizeType{Wd: s.wide, Ht: s.high}
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
			k := i % (s.across * s.down)
			if k == 0 {
				doc.AddPage()
			}
			x, y = s.left+float64(k%s.across)*s.wide, s.top+float64(k/s.across)*s.high
			doc.SetLineWidth(0.1)
			doc.Rect(x, y, s.wide, s.high, "D")
		} else {
			// A page wider than high is landscape to fpdf; the size says so already.
			doc.AddPageFormat("P", size)
		}
		if err := label(doc, s, l, x, y); err != nil {
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

func label(doc *fpdf.Fpdf, s Size, l Label, x, y float64) error {
	picture, err := code(l.ID)
	if err != nil {
		return err
	}
	name := "qr " + l.ID
	doc.RegisterImageOptionsReader(name, fpdf.ImageOptions{ImageType: "PNG"}, picture)
	// Four modules of quiet zone about the code, as ISO/IEC 18004 asks.
	doc.ImageOptions(
		name,
		x+s.edge,
		y+(s.high-s.code)/2,
		s.code,
		s.code,
		false,
		fpdf.ImageOptions{ImageType: "PNG"},
		0,
		"",
	)
	left := x + s.code + 2*s.edge
	wide, at := s.wide-(left-x)-4, y+s.text
	doc.SetFont(family, "B", s.big)
	at = fit(doc, l.ID, left, at, wide, s.big)
	if l.Angle != nil {
		arrow(doc, left+wide-5, y+6, *l.Angle)
	}
	at = fit(doc, l.Big, left, at+s.big*0.12, wide, s.big*0.8)
	doc.SetFont(family, "", 8.5)
	for _, text := range l.Lines {
		at = fit(doc, text, left, at+0.8, wide, 8.5)
	}
	return nil
}

// arrow draws the way the fibre lies against a level line, 9 mm about a middle.
func arrow(doc *fpdf.Fpdf, x, y, angle float64) {
	sin, cos := math.Sincos(angle * math.Pi / 180)
	to := func(a, b float64) (float64, float64) { return x + a*cos - b*sin, y - a*sin - b*cos }
	line := func(a, b, c, d float64) {
		x0, y0 := to(a, b)
		x1, y1 := to(c, d)
		doc.Line(x0, y0, x1, y1)
	}
	doc.SetLineWidth(0.1)
	doc.Line(x-4, y, x+4, y)
	doc.SetLineWidth(0.6)
	line(-4, 0, 4, 0)
	line(2.2, 1, 4, 0)
	line(2.2, -1, 4, 0)
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
