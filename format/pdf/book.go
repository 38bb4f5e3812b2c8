package pdf

import (
	"bytes"
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"image"
	"image/jpeg"
	_ "image/png" // pictures of items may be
	"io"
	"math"
	"slices"

	"github.com/go-pdf/fpdf"
	"golang.org/x/image/font/gofont/gobold"
	"golang.org/x/image/font/gofont/goregular"

	"juxta/core/geom"
	"juxta/core/unit"
)

// Book is a ply book: a cover, a page an item, pages of sections, and, if asked
// for, templates at 1:1.
type Book struct {
	Number, Name, Letter, State, Hash string
	Letterpaper                       bool // US letter instead of A4
	Units                             unit.System
	Cover                             []Section
	Items                             []BookItem
	Cuts                              []BookCut
	Templates                         []BookTemplate
}

// BookItem is one page of the book.
type BookItem struct {
	Title    string // "Ply 7"
	Facts    [][2]string
	Outline  geom.Ring // nil for a lump; then At is its place
	At       geom.Point
	Fill     Fill
	Ghosts   []geom.Ring // what lies below already
	Angle    *float64    // degrees from the tool's 0°
	Place    *geom.Point // of its left and its lower edge from the datum, or of a lump; nil: at it
	Warnings []string
	Signs    []string // boxes to sign
	Picture  []byte   // PNG or JPEG; nil: none
}

// Fill is the true hatch of a layer.
type Fill struct {
	Kind      string // "ply", "film adhesive", "core", "peel ply"
	AngleDeg  float64
	Woven     bool
	FaceUp    bool
	Thickness float64
}

// BookCut is a section: polygons in m along the line and up from the tool.
type BookCut struct {
	Title   string
	Length  float64
	Height  float64
	Courses []BookCourse
	Names   []string // from the tool up
}

// BookCourse is a layer along a section without a gap: place along the line,
// lower and upper face, m, in between straight.
type BookCourse struct {
	At   [][3]float64
	Fill Fill
}

// BookTemplate is an outline to be cut by hand, as it is cut: fibre along the
// page.
type BookTemplate struct {
	Title   string
	Outline geom.Ring
}

type book struct {
	*fpdf.Fpdf
	b             Book
	width, height float64 // of the paper, mm
	wide          float64 // between the margins
}

// WriteBook sets a ply book.
func WriteBook(w io.Writer, b Book) error {
	size, width, height := "A4", 210.0, 297.0
	if b.Letterpaper {
		size, width, height = "Letter", 215.9, 279.4
	}
	d := &book{fpdf.New("P", "mm", size, ""), b, width, height, width - 2*margin}
	d.AddUTF8FontFromBytes(family, "", goregular.TTF)
	d.AddUTF8FontFromBytes(family, "B", gobold.TTF)
	d.SetTitle(fmt.Sprintf("Ply book %s %s", b.Number, b.Letter), true)
	d.SetCreator("Juxta", true)
	d.SetMargins(margin, margin, margin)
	d.SetAutoPageBreak(true, 22)
	d.AliasNbPages("")
	d.SetFooterFunc(func() {
		d.SetY(-16)
		d.SetFont(family, "", 8)
		d.CellFormat(
			d.wide-24,
			4,
			fmt.Sprintf("%s revision %s, %s · %s", b.Number, b.Letter, b.State, b.Hash),
			"T",
			0,
			"L",
			false,
			0,
			"",
		)
		d.CellFormat(24, 4, fmt.Sprintf("%d / {nb}", d.PageNo()), "T", 1, "R", false, 0, "")
		d.SetFont(family, "", 7)
		d.CellFormat(
			d.wide,
			4,
			"Suppliers’ data sheets and the engineer of record come first. Check the revision before use.",
			"",
			0,
			"L",
			false,
			0,
			"",
		)
	})
	d.cover()
	for _, i := range b.Items {
		d.item(i)
	}
	for _, c := range b.Cuts {
		d.cut(c)
	}
	for _, t := range b.Templates {
		d.template(t)
	}
	if err := d.Output(w); err != nil {
		return fmt.Errorf("write the ply book: %w", err)
	}
	return nil
}

func (d *book) cover() {
	d.AddPage()
	d.SetFont(family, "B", 24)
	d.MultiCell(d.wide, 11, d.b.Number+" "+d.b.Name, "", "L", false)
	d.SetFont(family, "B", 15)
	d.MultiCell(d.wide, 8, fmt.Sprintf("Ply book, revision %s", d.b.Letter), "", "L", false)
	if d.b.State != "released" {
		d.SetFont(family, "B", 13)
		d.MultiCell(d.wide, 8, "This revision is "+d.b.State+": do not build from it.", "1", "C", false)
	}
	for _, s := range d.b.Cover {
		section(d.Fpdf, s)
	}
}

// frame maps metres of a plan into a box on the page.
type frame struct{ x, y, scale, minX, maxY float64 }

func (f frame) at(p geom.Point) fpdf.PointType {
	return fpdf.PointType{X: f.x + (p.X-f.minX)*f.scale, Y: f.y + (f.maxY-p.Y)*f.scale}
}

func (f frame) ring(r geom.Ring) []fpdf.PointType {
	out := make([]fpdf.PointType, len(r))
	for i, p := range r {
		out[i] = f.at(p)
	}
	return out
}

func (d *book) item(i BookItem) {
	d.AddPage()
	d.SetFont(family, "B", 22)
	d.CellFormat(d.wide-40, 11, i.Title, "", 1, "L", false, 0, "")
	top, high := d.GetY()+2, d.height*0.46
	if i.Angle != nil {
		d.rosette(margin+d.wide-16, top, *i.Angle)
		top, high = top+14, high-14
	}
	all := append(geom.Ring{{X: 0, Y: 0}}, i.Outline...)
	for _, g := range i.Ghosts {
		all = append(all, g...)
	}
	if i.Outline == nil {
		all = append(all, i.At)
	}
	box := all.Bounds()
	scale := min((d.wide-8)/max(box.Width(), 1e-3), (high-12)/max(box.Height(), 1e-3))
	f := frame{margin + (d.wide-box.Width()*scale)/2, top + 6, scale, box.Min.X, box.Max.Y}
	d.SetDrawColor(150, 150, 150)
	d.SetLineWidth(0.2)
	for _, g := range i.Ghosts {
		d.Polygon(f.ring(g), "D")
	}
	d.SetDrawColor(0, 0, 0)
	if i.Outline != nil {
		d.hatch(f.ring(i.Outline), i.Fill)
		d.SetLineWidth(0.6)
		d.Polygon(f.ring(i.Outline), "D")
	} else {
		p := f.at(i.At)
		d.SetLineWidth(0.6)
		d.Circle(p.X, p.Y, 3, "D")
		d.Line(p.X-5, p.Y, p.X+5, p.Y)
		d.Line(p.X, p.Y-5, p.X, p.Y+5)
	}
	d.datum(f, i)
	d.scaleBar(margin, top+high+2, scale)
	d.SetY(top + high + 8)
	for _, w := range i.Warnings {
		d.SetFont(family, "B", 10.5)
		d.MultiCell(d.wide, 5.5, w, "1", "L", false)
		d.Ln(1)
	}
	for _, fact := range i.Facts {
		d.SetFont(family, "B", 10.5)
		y := d.GetY()
		d.CellFormat(42, 5.4, fact[0], "", 0, "L", false, 0, "")
		d.SetFont(family, "", 10.5)
		d.MultiCell(d.wide-42, 5.4, fact[1], "", "L", false)
		if d.GetY() < y {
			return // the page broke: the rest follows there
		}
	}
	if len(i.Picture) > 0 {
		d.picture(i.Picture)
	}
	d.Ln(2)
	d.SetFont(family, "", 9)
	wide := d.wide / float64(max(1, len(i.Signs)))
	x, y := margin, d.GetY()
	for _, s := range i.Signs {
		d.Rect(x, y, wide-2, 13, "D")
		d.Text(x+1.5, y+3.6, s)
		x += wide
	}
}

// mostPixels bounds a picture that is set: more would only cost memory.
const mostPixels = 40e6

// picture sets a picture under the facts, in what height is left over the
// boxes, as a JPEG, which every reader shows; one that cannot be read is left
// out.
func (d *book) picture(raw []byte) {
	config, _, err := image.DecodeConfig(bytes.NewReader(raw))
	high := d.height - 22 - 18 - d.GetY()
	if err != nil || high < 20 || config.Width == 0 || config.Height == 0 ||
		float64(config.Width)*float64(config.Height) > mostPixels {
		return
	}
	read, _, err := image.Decode(bytes.NewReader(raw))
	if err != nil {
		return
	}
	var out bytes.Buffer
	if err := jpeg.Encode(&out, read, &jpeg.Options{Quality: 85}); err != nil {
		return
	}
	sum := sha256.Sum256(raw)
	name, options := hex.EncodeToString(sum[:8]), fpdf.ImageOptions{ImageType: "JPG"}
	d.RegisterImageOptionsReader(name, options, &out)
	wide := min(d.wide, high*float64(config.Width)/float64(config.Height))
	d.ImageOptions(name, margin, d.GetY()+2, wide, 0, true, options, 0, "")
}

// hatch fills a polygon with lines at the fibre angle; weaves in both
// directions, film adhesive with dots, core with crosses.
func (d *book) hatch(points []fpdf.PointType, fill Fill) {
	if len(points) < 3 {
		return
	}
	d.ClipPolygon(points, false)
	defer d.ClipEnd()
	lo, hi := points[0], points[0]
	for _, p := range points {
		lo.X, lo.Y, hi.X, hi.Y = min(lo.X, p.X), min(lo.Y, p.Y), max(hi.X, p.X), max(hi.Y, p.Y)
	}
	d.SetLineWidth(0.12)
	if fill.FaceUp {
		d.SetLineWidth(0.28)
	}
	pitch := 1.6 + fill.Thickness*1e3*4
	switch fill.Kind {
	case "film adhesive", "peel ply":
		for x := lo.X; x <= hi.X; x += 3 {
			for y := lo.Y; y <= hi.Y; y += 3 {
				d.Circle(x, y, 0.25, "F")
			}
		}
	case "core":
		d.lines(lo, hi, 30, 4)
		d.lines(lo, hi, 90, 4)
		d.lines(lo, hi, 150, 4)
	default:
		d.lines(lo, hi, fill.AngleDeg, pitch)
		if fill.Woven {
			d.SetLineWidth(0.1)
			d.lines(lo, hi, fill.AngleDeg+90, pitch)
		}
	}
}

// lines covers a box with parallel lines; the page's y points down.
func (d *book) lines(lo, hi fpdf.PointType, deg, pitch float64) {
	s, c := math.Sincos(-deg * math.Pi / 180)
	cx, cy := (lo.X+hi.X)/2, (lo.Y+hi.Y)/2
	reach := math.Hypot(hi.X-lo.X, hi.Y-lo.Y)/2 + pitch
	for k := -reach; k <= reach; k += pitch {
		x, y := cx-s*k, cy+c*k
		d.Line(x-c*reach, y-s*reach, x+c*reach, y+s*reach)
	}
}

func (d *book) datum(f frame, i BookItem) {
	o := f.at(geom.Point{})
	d.SetDrawColor(31, 94, 140)
	d.SetTextColor(31, 94, 140)
	d.SetLineWidth(0.4)
	d.Circle(o.X, o.Y, 1.6, "D")
	d.Line(o.X-3, o.Y, o.X+3, o.Y)
	d.Line(o.X, o.Y-3, o.X, o.Y+3)
	d.SetFont(family, "", 8)
	d.Text(o.X+2, o.Y+4.5, "datum")
	if i.Place != nil {
		p := f.at(*i.Place)
		d.SetDashPattern([]float64{1.5, 1}, 0)
		d.Line(o.X, o.Y, p.X, o.Y)
		d.Line(p.X, o.Y, p.X, p.Y)
		d.SetDashPattern(nil, 0)
		d.Line(p.X-2, p.Y, p.X+2, p.Y)
		d.Line(p.X, p.Y-2, p.X, p.Y+2)
		d.SetFont(family, "B", 13)
		d.Text((o.X+p.X)/2-6, o.Y-1.5, "x "+d.b.Units.Number(unit.Size(i.Place.X, 1)))
		d.Text(p.X+1.5, (o.Y+p.Y)/2+2, "y "+d.b.Units.Number(unit.Size(i.Place.Y, 1)))
	}
	d.SetDrawColor(0, 0, 0)
	d.SetTextColor(0, 0, 0)
}

func (d *book) rosette(x, y, deg float64) {
	d.SetLineWidth(0.2)
	d.Circle(x, y, 9, "D")
	d.Line(x, y, x+9, y)
	d.SetFont(family, "", 7)
	d.Text(x+9.5, y+1, "0°")
	s, c := math.Sincos(-deg * math.Pi / 180)
	d.SetLineWidth(0.9)
	d.Line(x-9*c, y-9*s, x+9*c, y+9*s)
	d.SetFont(family, "B", 11)
	d.Text(x-9, y+14, Degrees(math.Round(deg*10)/10))
}

// scaleBar draws a round length.
func (d *book) scaleBar(x, y, perMetre float64) {
	size := d.b.Units.Value(unit.KindSize, 1) // round in the reader's unit
	want := d.wide / 4 / perMetre * size
	base := math.Pow(10, math.Floor(math.Log10(want)))
	length := base
	for _, k := range []float64{5, 2} {
		if k*base <= want {
			length = k * base
			break
		}
	}
	end := x + length/size*perMetre
	d.SetLineWidth(0.6)
	d.Line(x, y, end, y)
	d.SetFont(family, "", 8)
	d.Text(end+2, y+1, fmt.Sprintf("%g %s", math.Round(length*1e6)/1e6, d.b.Units.Unit(unit.KindSize)))
}

func (d *book) cut(c BookCut) {
	d.AddPage()
	d.SetFont(family, "B", 15)
	d.CellFormat(d.wide, 9, c.Title, "", 1, "L", false, 0, "")
	top, high, names := d.GetY()+4, d.height*0.5, 46.0
	x, y := (d.wide-names)/c.Length, high/max(c.Height, 1e-6)
	at := func(s, z float64) fpdf.PointType { return fpdf.PointType{X: margin + s*x, Y: top + high - z*y} }
	for _, l := range c.Courses {
		var poly []fpdf.PointType
		for _, a := range l.At {
			poly = append(poly, at(a[0], a[1]))
		}
		for _, a := range slices.Backward(l.At) {
			poly = append(poly, at(a[0], a[2]))
		}
		d.hatch(poly, l.Fill)
		d.SetLineWidth(0.15)
		d.Polygon(poly, "D")
	}
	d.SetLineWidth(0.8)
	d.Line(margin, top+high, margin+d.wide-names, top+high)
	d.SetFont(family, "", 7)
	step := min(3.6, high/float64(max(1, len(c.Names))))
	for k, n := range c.Names {
		d.Text(margin+d.wide-names+3, top+high-(float64(k)+0.3)*step, n)
	}
	d.SetY(top + high + 3)
	d.SetFont(family, "", 9)
	d.MultiCell(
		d.wide,
		5,
		fmt.Sprintf(
			"Tool at the foot, ply 1 on it. %s long; thickness drawn %.0f times larger than length.",
			d.b.Units.Shown(unit.Size(c.Length, 0)),
			y/x,
		),
		"",
		"L",
		false,
	)
}

// template tiles an outline at 1:1 over pages, 10 mm of each page repeated on
// the next, with marks to lay them on each other and a scale to check.
func (d *book) template(t BookTemplate) {
	const lap, head, foot = 10.0, 26.0, 24.0
	wide, high := d.width-2*margin, d.height-head-foot
	box := t.Outline.Bounds()
	columns := max(1, int(math.Ceil((box.Width()*1e3-lap)/(wide-lap))))
	rows := max(1, int(math.Ceil((box.Height()*1e3-lap)/(high-lap))))
	for row := range rows {
		for column := range columns {
			d.AddPage()
			d.SetFont(family, "B", 11)
			d.Text(
				margin,
				margin,
				fmt.Sprintf(
					"%s · 1:1 · sheet %d of %d (column %d, row %d)",
					t.Title,
					row*columns+column+1,
					rows*columns,
					column+1,
					row+1,
				),
			)
			d.SetFont(family, "", 8)
			d.SetLineWidth(0.3)
			d.Line(margin, margin+5, margin+100, margin+5)
			d.Line(margin, margin+3.5, margin, margin+6.5)
			d.Line(margin+100, margin+3.5, margin+100, margin+6.5)
			d.Text(margin+102, margin+6, "100 mm: measure it before you cut; print without scaling")
			f := frame{margin - float64(column)*(wide-lap), head - float64(row)*(high-lap), 1e3, box.Min.X, box.Max.Y}
			d.ClipRect(margin, head, wide, high, false)
			d.SetLineWidth(0.25)
			d.Polygon(f.ring(t.Outline), "D")
			d.SetLineWidth(0.15)
			c := f.at(geom.Point{X: (box.Min.X + box.Max.X) / 2, Y: (box.Min.Y + box.Max.Y) / 2})
			d.Line(c.X-20, c.Y, c.X+20, c.Y) // the fibre runs along the sheet
			d.ClipEnd()
			d.marks(margin, head, wide, high, lap)
		}
	}
}

// marks are crosses in the corners of what neighbouring sheets share.
func (d *book) marks(x, y, wide, high, lap float64) {
	d.SetLineWidth(0.15)
	for _, cx := range []float64{x + lap/2, x + wide - lap/2} {
		for _, cy := range []float64{y + lap/2, y + high - lap/2} {
			d.Line(cx-3, cy, cx+3, cy)
			d.Line(cx, cy-3, cx, cy+3)
			d.Circle(cx, cy, 2, "D")
		}
	}
}
