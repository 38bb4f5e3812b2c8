package pdf

import (
	"fmt"
	"io"
	"math"

	"github.com/go-pdf/fpdf"
	"golang.org/x/image/font/gofont/gobold"
	"golang.org/x/image/font/gofont/goregular"

	"juxta/core/geom"
	"juxta/format/dxf"
)

// Cloth is what a template is printed of at 1:1.
type Cloth struct {
	Title         string
	Width, Length float64 // m
	Pieces        []dxf.LabelledOutline
}

// Tiles of a template: what of a page of A4 is printed on, and by how much pages lie over one another, mm.
const (
	tileWide, tileHigh = 190.0, 270.0
	tileLap            = 10.0
	tileLeft, tileTop  = 10.0, 12.0
	longest            = 5000.0 // that a page may be, mm: the format knows no longer ones (ISO 32000-1, 14,400 units)
)

// Template prints the cloth at 1:1: tiled on A4, with marks at which the pages are laid over one another, or on one
// page as long as the cloth, several where it is longer than 5 m. Every page has a measure of 100 mm to hold a rule
// against.
func Template(w io.Writer, c Cloth, tiled bool) error {
	wide, high := c.Length*1e3, c.Width*1e3
	page := fpdf.SizeType{Wd: min(wide, longest-40) + 2*tileLeft, Ht: high + 2*tileTop + 8}
	stepX, stepY := min(wide, longest-40), high
	if tiled {
		page = fpdf.SizeType{Wd: 210, Ht: 297}
		stepX, stepY = tileWide-tileLap, tileHigh-tileLap
	}
	doc := fpdf.NewCustom(&fpdf.InitType{OrientationStr: "P", UnitStr: "mm", Size: page})
	doc.AddUTF8FontFromBytes(family, "", goregular.TTF)
	doc.AddUTF8FontFromBytes(family, "B", gobold.TTF)
	doc.SetTitle(c.Title, true)
	doc.SetCreator("Juxta", true)
	doc.SetAutoPageBreak(false, 0)
	across, down := int(math.Ceil((wide-1e-6)/stepX)), int(math.Ceil((high-1e-6)/stepY))
	for row := range down {
		for column := range across {
			doc.AddPageFormat("P", page)
			showW, showH := page.Wd-2*tileLeft, page.Ht-2*tileTop-8
			if tiled {
				showW, showH = tileWide, tileHigh
			}
			t := tile{
				doc:   doc,
				x0:    float64(column) * stepX,
				y0:    float64(row) * stepY,
				wide:  showW,
				high:  showH,
				sheet: high,
			}
			doc.ClipRect(tileLeft, tileTop, showW, showH, false)
			t.draw(c)
			doc.ClipEnd()
			t.frame(c, fmt.Sprintf("row %d of %d, column %d of %d", row+1, down, column+1, across), tiled)
		}
	}
	if err := doc.Output(w); err != nil {
		return fmt.Errorf("write the template: %w", err)
	}
	return nil
}

// tile is a page of a template: what begins at x0, y0 of the cloth, mm from its top left.
type tile struct {
	doc        *fpdf.Fpdf
	x0, y0     float64
	wide, high float64
	sheet      float64 // width of the cloth
}

func (t tile) at(p geom.Point) (x, y float64) {
	return tileLeft + p.X*1e3 - t.x0, tileTop + t.sheet - p.Y*1e3 - t.y0
}

func (t tile) line(points []geom.Point, closed bool) {
	for k := 1; k < len(points); k++ {
		t.side(points[k-1], points[k])
	}
	if closed && len(points) > 2 {
		t.side(points[len(points)-1], points[0])
	}
}

func (t tile) side(a, b geom.Point) {
	x0, y0 := t.at(a)
	x1, y1 := t.at(b)
	// What lies wholly off the page makes the file longer and prints nothing.
	if max(x0, x1) < 0 || max(y0, y1) < 0 || min(x0, x1) > t.wide+2*tileLeft || min(y0, y1) > t.high+2*tileTop {
		return
	}
	t.doc.Line(x0, y0, x1, y1)
}

func (t tile) text(says string, at geom.Point, height float64) {
	x, y := t.at(at)
	if x > -400 && y > -20 && x < t.wide+2*tileLeft && y < t.high+2*tileTop+20 {
		t.doc.SetFont(family, "", height*1e3/25.4*72/0.72) // letters as high as their capitals
		t.doc.Text(x, y, says)
	}
}

func (t tile) draw(c Cloth) {
	t.doc.SetLineWidth(0.2)
	t.line(geom.Rect(c.Length, c.Width), true)
	for _, p := range c.Pieces {
		t.doc.SetLineWidth(0.3)
		t.line(p.Outline, true)
		t.doc.SetLineWidth(0.15)
		for _, m := range p.Marks {
			if m.Text != "" {
				t.text(m.Text, m.At, 0.004)
			} else {
				t.line(m.Line, m.Closed)
			}
		}
		if p.Label != "" {
			t.text(p.Label, p.At, p.Height)
		}
	}
}

// frame is what stands round a page: where it belongs, where the next lies over it, and the measure.
func (t tile) frame(c Cloth, where string, tiled bool) {
	doc := t.doc
	doc.SetLineWidth(0.1)
	bottom := tileTop + t.high
	if tiled {
		for _, x := range []float64{tileLeft, tileLeft + t.wide - tileLap} {
			for _, y := range []float64{tileTop, tileTop + t.high - tileLap} {
				doc.Line(x-3, y, x+3, y)
				doc.Line(x, y-3, x, y+3)
			}
		}
	}
	doc.SetLineWidth(0.2)
	doc.Line(tileLeft, bottom+6, tileLeft+100, bottom+6)
	doc.Line(tileLeft, bottom+4, tileLeft, bottom+8)
	doc.Line(tileLeft+100, bottom+4, tileLeft+100, bottom+8)
	doc.SetFont(family, "", 8)
	doc.Text(tileLeft+103, bottom+7, "100 mm: measure it before you cut")
	doc.Text(tileLeft, tileTop-4, c.Title+", "+where)
}
