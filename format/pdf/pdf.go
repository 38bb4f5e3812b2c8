package pdf

import (
	"fmt"
	"io"

	"github.com/go-pdf/fpdf"
	"golang.org/x/image/font/gofont/gobold"
	"golang.org/x/image/font/gofont/goregular"
)

// Record is a document to set.
type Record struct {
	Title    string
	Subtitle string
	Foot     string
	Sections []Section
}

// Degrees writes a fibre angle as the pages do: signed, but for 0° and 90°.
func Degrees(deg float64) string {
	switch {
	case deg == 0 || deg == 90:
		return fmt.Sprintf("%g°", deg)
	case deg < 0:
		return fmt.Sprintf("−%g°", -deg)
	}
	return fmt.Sprintf("+%g°", deg)
}

// Section is a heading with notes, charts and a table; each may be empty.
type Section struct {
	Heading string
	Notes   []string
	Charts  []Chart
	Columns []Column
	Rows    [][]string
	Page    bool // it begins a page of its own
}

// Column of a table; Share is its part of the width.
type Column struct {
	Name  string
	Share float64
	Right bool
}

const (
	margin, width = 16.0, 178.0
	line          = 4.4 // mm a line of a table
	lowest        = 275.0
	family        = "Go"
)

// Write sets the record on A4 pages.
func Write(w io.Writer, r Record) error {
	doc := fpdf.New("P", "mm", "A4", "")
	doc.AddUTF8FontFromBytes(family, "", goregular.TTF)
	doc.AddUTF8FontFromBytes(family, "B", gobold.TTF)
	doc.SetTitle(r.Title, true)
	doc.SetCreator("Juxta", true)
	doc.SetMargins(margin, margin, margin)
	doc.SetAutoPageBreak(true, 20)
	doc.AliasNbPages("")
	doc.SetFooterFunc(func() {
		doc.SetY(-14)
		doc.SetFont(family, "", 8)
		doc.CellFormat(width-30, 5, r.Foot, "T", 0, "L", false, 0, "")
		doc.CellFormat(30, 5, fmt.Sprintf("%d / {nb}", doc.PageNo()), "T", 0, "R", false, 0, "")
	})
	doc.AddPage()
	doc.SetFont(family, "B", 18)
	doc.MultiCell(width, 9, r.Title, "", "L", false)
	doc.SetFont(family, "", 10.5)
	doc.MultiCell(width, 5.5, r.Subtitle, "", "L", false)
	for _, s := range r.Sections {
		section(doc, s)
	}
	if err := doc.Output(w); err != nil {
		return fmt.Errorf("write PDF: %w", err)
	}
	return nil
}

func section(doc *fpdf.Fpdf, s Section) {
	if s.Page || doc.GetY() > 250 {
		doc.AddPage()
	}
	doc.Ln(3)
	doc.SetFont(family, "B", 11.5)
	doc.CellFormat(width, 7, s.Heading, "B", 1, "L", false, 0, "")
	doc.SetFont(family, "", 9.5)
	for _, n := range s.Notes {
		doc.MultiCell(width, 5, n, "", "L", false)
	}
	for _, c := range s.Charts {
		chart(doc, c)
	}
	if len(s.Columns) == 0 {
		return
	}
	head := func() {
		names := make([]string, len(s.Columns))
		for i, c := range s.Columns {
			names[i] = c.Name
		}
		doc.SetFont(family, "B", 8.5)
		row(doc, s.Columns, names)
		y := doc.GetY()
		doc.Line(margin, y, margin+width, y)
		doc.SetFont(family, "", 8.5)
	}
	head()
	for _, r := range s.Rows {
		if doc.GetY()+height(doc, s.Columns, r) > lowest {
			doc.AddPage()
			head()
		}
		row(doc, s.Columns, r)
	}
	if len(s.Rows) == 0 {
		doc.CellFormat(width, line+1.2, "nothing recorded", "", 1, "L", false, 0, "")
	}
}

// lines breaks each value of a row to the width of its column.
func lines(doc *fpdf.Fpdf, columns []Column, values []string) [][]string {
	out := make([][]string, len(columns))
	for i, c := range columns {
		out[i] = doc.SplitText(values[i], width*c.Share-2)
	}
	return out
}

func height(doc *fpdf.Fpdf, columns []Column, values []string) float64 {
	most := 1
	for _, l := range lines(doc, columns, values) {
		most = max(most, len(l))
	}
	return float64(most)*line + 1.2
}

// row sets one row from where the pen is and moves the pen below it.
func row(doc *fpdf.Fpdf, columns []Column, values []string) {
	x, y, h := margin, doc.GetY(), height(doc, columns, values)
	for i, text := range lines(doc, columns, values) {
		w, align := width*columns[i].Share, "L"
		if columns[i].Right {
			align = "R"
		}
		for k, l := range text {
			doc.SetXY(x, y+0.6+float64(k)*line)
			doc.CellFormat(w, line, l, "", 0, align, false, 0, "")
		}
		x += w
	}
	doc.SetXY(margin, y+h)
}
