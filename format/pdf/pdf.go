// Package pdf sets records as PDF pages: headings, tables and notes on ruled
// paper, with a running foot on every page.
package pdf

import (
	"fmt"
	"io"

	"github.com/go-pdf/fpdf"
)

// Record is a document to set.
type Record struct {
	Title    string
	Subtitle string
	Foot     string
	Sections []Section
}

// Section is a heading with notes and a table; either may be empty.
type Section struct {
	Heading string
	Notes   []string
	Columns []Column
	Rows    [][]string
}

// Column of a table; Share is its part of the width.
type Column struct {
	Name  string
	Share float64
	Right bool
}

const margin, width, row = 16.0, 178.0, 5.6

// Write sets the record on A4 pages.
func Write(w io.Writer, r Record) error {
	doc := fpdf.New("P", "mm", "A4", "")
	text := doc.UnicodeTranslatorFromDescriptor("") // cp1252, which the built-in fonts carry
	doc.SetTitle(r.Title, true)
	doc.SetCreator("Juxta", true)
	doc.SetMargins(margin, margin, margin)
	doc.SetAutoPageBreak(true, 20)
	doc.AliasNbPages("")
	doc.SetFooterFunc(func() {
		doc.SetY(-14)
		doc.SetFont("Helvetica", "", 8)
		doc.CellFormat(width-30, 5, text(r.Foot), "T", 0, "L", false, 0, "")
		doc.CellFormat(30, 5, fmt.Sprintf("%d / {nb}", doc.PageNo()), "T", 0, "R", false, 0, "")
	})
	doc.AddPage()
	doc.SetFont("Helvetica", "B", 18)
	doc.CellFormat(width, 9, text(r.Title), "", 1, "L", false, 0, "")
	doc.SetFont("Helvetica", "", 10.5)
	doc.MultiCell(width, 5.5, text(r.Subtitle), "", "L", false)
	for _, s := range r.Sections {
		section(doc, text, s)
	}
	if err := doc.Output(w); err != nil {
		return fmt.Errorf("write PDF: %w", err)
	}
	return nil
}

func section(doc *fpdf.Fpdf, text func(string) string, s Section) {
	if doc.GetY() > 250 {
		doc.AddPage()
	}
	doc.Ln(3)
	doc.SetFont("Helvetica", "B", 11.5)
	doc.CellFormat(width, 7, text(s.Heading), "B", 1, "L", false, 0, "")
	doc.SetFont("Helvetica", "", 9.5)
	for _, n := range s.Notes {
		doc.MultiCell(width, 5, text(n), "", "L", false)
	}
	if len(s.Columns) == 0 {
		return
	}
	head := func() {
		doc.SetFont("Helvetica", "B", 8.5)
		cells(doc, text, s.Columns, names(s.Columns), "B")
		doc.SetFont("Helvetica", "", 9)
	}
	head()
	for _, r := range s.Rows {
		if doc.GetY()+row > 275 {
			doc.AddPage()
			head()
		}
		cells(doc, text, s.Columns, r, "")
	}
	if len(s.Rows) == 0 {
		doc.CellFormat(width, row, "nothing recorded", "", 1, "L", false, 0, "")
	}
}

func names(columns []Column) []string {
	out := make([]string, len(columns))
	for i, c := range columns {
		out[i] = c.Name
	}
	return out
}

// cells sets one row; text too wide for its column is cut with an ellipsis.
func cells(doc *fpdf.Fpdf, text func(string) string, columns []Column, values []string, border string) {
	for i, c := range columns {
		w, align := width*c.Share, "L"
		if c.Right {
			align = "R"
		}
		v := []rune(values[i])
		for len(v) > 1 && doc.GetStringWidth(text(string(v))) > w-2 {
			v = append(v[:len(v)-2], '…')
		}
		ln := 0
		if i == len(columns)-1 {
			ln = 1
		}
		doc.CellFormat(w, row, text(string(v)), border, ln, align, false, 0, "")
	}
}
