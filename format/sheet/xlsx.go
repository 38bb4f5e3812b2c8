package sheet

import (
	"archive/zip"
	"bytes"
	"encoding/xml"
	"errors"
	"fmt"
	"io"
	"math"
	"path"
	"slices"
	"strconv"
	"strings"
	"time"
)

// A workbook is read part by part as a stream, with a bound on everything: a
// small file may name one long text from hundreds of thousands of cells, which a
// reader that hands out cells by the row pays for with gigabytes. Values are
// read as they are stored and not as they are displayed: 22.5 that is shown as
// 23 is 22.5, and a date is a date in whatever order it is shown. Parts and
// names as in ECMA-376, part 1, section 18 (from memory; the tests hold it
// against a general-purpose library that writes workbooks).

const (
	maxPart  = 48 << 20 // bytes of one unpacked part
	maxText  = 12 << 20 // bytes of text in all cells
	maxCell  = 32_767   // characters in one, as the format allows
	maxParts = 2_000
)

var errTooMuch = errors.New(
	"the workbook holds more text than is read: save the sheet alone, without pictures and long texts",
)

type workbook struct {
	parts  map[string]*zip.File
	shared []string
	dated  []bool // by style: whether it shows a date
	since  time.Time
	read   int // bytes of text so far
}

func readXLSX(raw []byte) ([][]string, error) {
	archive, err := zip.NewReader(bytes.NewReader(raw), int64(len(raw)))
	if err != nil || len(archive.File) > maxParts {
		return nil, ErrNotATable
	}
	b := &workbook{parts: map[string]*zip.File{}, since: time.Date(1899, 12, 30, 0, 0, 0, 0, time.UTC)}
	for _, f := range archive.File {
		b.parts[strings.TrimPrefix(f.Name, "/")] = f
	}
	sheet, err := b.first()
	if err != nil {
		return nil, err
	}
	if err := b.strings(); err != nil {
		return nil, err
	}
	if err := b.styles(); err != nil {
		return nil, err
	}
	return b.rows(sheet)
}

// each walks the elements of a part; do says false to stop.
func (b *workbook) each(name string, do func(d *xml.Decoder, e xml.StartElement) (bool, error)) error {
	part, ok := b.parts[name]
	if !ok {
		return nil
	}
	if part.UncompressedSize64 > maxPart {
		return errTooMuch
	}
	in, err := part.Open()
	if err != nil {
		return ErrNotATable
	}
	defer in.Close()
	bound := &io.LimitedReader{R: in, N: maxPart + 1}
	d := xml.NewDecoder(bound)
	for {
		token, err := d.Token()
		switch {
		case errors.Is(err, io.EOF):
			return nil
		case bound.N <= 0:
			return errTooMuch // whatever the archive said of its size
		case err != nil:
			return ErrNotATable
		}
		if e, ok := token.(xml.StartElement); ok {
			if more, err := do(d, e); err != nil || !more {
				return err
			}
		}
	}
}

func attribute(e xml.StartElement, name string) string {
	for _, a := range e.Attr {
		if a.Name.Local == name {
			return a.Value
		}
	}
	return ""
}

// first finds the first sheet.
func (b *workbook) first() (string, error) {
	id, sheet := "", ""
	err := b.each("xl/workbook.xml", func(_ *xml.Decoder, e xml.StartElement) (bool, error) {
		switch e.Name.Local {
		case "workbookPr":
			if v := attribute(e, "date1904"); v == "1" || v == "true" {
				b.since = time.Date(1904, 1, 1, 0, 0, 0, 0, time.UTC)
			}
		case "sheet":
			for _, a := range e.Attr {
				if a.Name.Local == "id" && strings.Contains(a.Name.Space, "relationships") {
					id = a.Value
				}
			}
			return false, nil
		}
		return true, nil
	})
	if err != nil {
		return "", err
	}
	err = b.each("xl/_rels/workbook.xml.rels", func(_ *xml.Decoder, e xml.StartElement) (bool, error) {
		if e.Name.Local == "Relationship" && attribute(e, "Id") == id {
			target := attribute(e, "Target")
			if rooted, ok := strings.CutPrefix(target, "/"); ok {
				sheet = path.Clean(rooted)
			} else {
				sheet = path.Join("xl", target)
			}
		}
		return true, nil
	})
	if err == nil && (id == "" || b.parts[sheet] == nil) {
		err = ErrNotATable
	}
	return sheet, err
}

// text is all text of the elements t below an element, without phonetic runs.
func (b *workbook) text(d *xml.Decoder, end string) (string, error) {
	var out strings.Builder
	in, skip := 0, 0
	for {
		token, err := d.Token()
		if err != nil {
			return "", ErrNotATable
		}
		switch t := token.(type) {
		case xml.StartElement:
			switch {
			case t.Name.Local == "rPh":
				skip++
			case t.Name.Local == "t":
				in++
			}
		case xml.EndElement:
			switch t.Name.Local {
			case "rPh":
				skip--
			case "t":
				in--
			case end:
				return out.String(), nil
			}
		case xml.CharData:
			if in > 0 && skip == 0 {
				if out.Len()+len(t) > 4*maxCell {
					return "", errTooMuch
				}
				out.Write(t)
			}
		}
	}
}

func (b *workbook) strings() error {
	total := 0
	return b.each("xl/sharedStrings.xml", func(d *xml.Decoder, e xml.StartElement) (bool, error) {
		if e.Name.Local != "si" {
			return true, nil
		}
		text, err := b.text(d, "si")
		if err != nil {
			return false, err
		}
		if total += len(text) + 16; total > maxText {
			return false, errTooMuch
		}
		b.shared = append(b.shared, text)
		return true, nil
	})
}

// styles finds which styles show a date.
func (b *workbook) styles() error {
	custom, inCells := map[int]bool{}, false
	return b.each("xl/styles.xml", func(_ *xml.Decoder, e xml.StartElement) (bool, error) {
		switch e.Name.Local {
		case "numFmt":
			id, _ := strconv.Atoi(attribute(e, "numFmtId"))
			custom[id] = showsDate(attribute(e, "formatCode"))
		case "cellXfs":
			inCells = true
		case "cellStyles", "dxfs":
			inCells = false
		case "xf":
			if !inCells || len(b.dated) > 100_000 {
				break
			}
			id, _ := strconv.Atoi(attribute(e, "numFmtId"))
			dated, own := custom[id]
			b.dated = append(
				b.dated,
				own && dated ||
					!own &&
						(id >= 14 && id <= 22 || id >= 27 && id <= 36 || id >= 45 && id <= 47 || id >= 50 && id <= 58),
			)
		}
		return true, nil
	})
}

// showsDate says whether a number format shows a date or a time: it has a day,
// month, year, hour or second outside quotes and brackets.
func showsDate(code string) bool {
	quoted, bracket, escaped := false, false, false
	for _, r := range strings.ToLower(code) {
		switch {
		case escaped:
			escaped = false
		case r == '\\' || r == '_' || r == '*':
			escaped = true
		case r == '"':
			quoted = !quoted
		case quoted:
		case r == '[':
			bracket = true
		case r == ']':
			bracket = false
		case !bracket && strings.ContainsRune("dmyhs", r):
			return true
		}
	}
	return false
}

func (b *workbook) rows(sheet string) ([][]string, error) {
	rows := [][]string{}
	var row []string
	err := b.each(sheet, func(d *xml.Decoder, e xml.StartElement) (bool, error) {
		switch e.Name.Local {
		case "row":
			number, err := strconv.Atoi(attribute(e, "r"))
			if err != nil {
				number = len(rows) + 1
			}
			if number > MaxRows {
				return false, fmt.Errorf("the table is larger than %d rows of %d columns", MaxRows, maxCols)
			}
			for len(rows) < number-1 {
				rows = append(rows, nil)
			}
			row = nil
			rows = append(rows, nil)
		case "c":
			if len(rows) == 0 {
				return false, ErrNotATable
			}
			column := len(row)
			if at, ok := columnOf(attribute(e, "r")); ok {
				column = at
			}
			if column >= maxCols {
				return false, fmt.Errorf("the table is larger than %d rows of %d columns", MaxRows, maxCols)
			}
			text, err := b.cell(d, e)
			if err != nil {
				return false, err
			}
			if b.read += len(text); b.read > maxText {
				return false, errTooMuch
			}
			for len(row) <= column {
				row = append(row, "")
			}
			row[column] = text
			rows[len(rows)-1] = row
		}
		return true, nil
	})
	if err != nil {
		return nil, err
	}
	// Rows that are only formatted come after the last one that says something.
	for len(rows) > 0 && !slices.ContainsFunc(rows[len(rows)-1], func(c string) bool { return c != "" }) {
		rows = rows[:len(rows)-1]
	}
	return rows, nil
}

// columnOf is the column of a reference such as AB12, from 0.
func columnOf(ref string) (int, bool) {
	n := 0
	for i := range len(ref) {
		c := ref[i]
		if c < 'A' || c > 'Z' {
			return n - 1, n > 0
		}
		if n = n*26 + int(c-'A') + 1; n > 20_000 {
			return n, true
		}
	}
	return 0, false
}

// cell is the value of a cell as it is stored.
func (b *workbook) cell(d *xml.Decoder, e xml.StartElement) (string, error) {
	kind, value, inline := attribute(e, "t"), "", ""
	style, _ := strconv.Atoi(attribute(e, "s"))
	for {
		token, err := d.Token()
		if err != nil {
			return "", ErrNotATable
		}
		switch t := token.(type) {
		case xml.StartElement:
			switch t.Name.Local {
			case "v":
				for {
					inner, err := d.Token()
					if err != nil {
						return "", ErrNotATable
					}
					if text, ok := inner.(xml.CharData); ok {
						if value += string(text); len(value) > 4*maxCell {
							return "", errTooMuch
						}
						continue
					}
					break
				}
			case "is":
				if inline, err = b.text(d, "is"); err != nil {
					return "", err
				}
			}
		case xml.EndElement:
			if t.Name.Local == "c" {
				return b.stored(kind, value, inline, style), nil
			}
		}
	}
}

func (b *workbook) stored(kind, value, inline string, style int) string {
	switch kind {
	case "s":
		if k, err := strconv.Atoi(strings.TrimSpace(value)); err == nil && k >= 0 && k < len(b.shared) {
			return b.shared[k]
		}
		return ""
	case "inlineStr":
		return inline
	case "str", "e", "d":
		return value
	case "b":
		return map[string]string{"1": "yes", "0": "no"}[strings.TrimSpace(value)]
	}
	v, err := strconv.ParseFloat(strings.TrimSpace(value), 64)
	if err != nil || math.IsNaN(v) || math.IsInf(v, 0) {
		return value
	}
	if style >= 0 && style < len(b.dated) && b.dated[style] && v >= 0 && v < 2_958_466 {
		t := b.since.Add(time.Duration(math.Round(v*86400)) * time.Second)
		if t.Hour() == 0 && t.Minute() == 0 && t.Second() == 0 {
			return t.Format("2006-01-02")
		}
		return t.Format("2006-01-02 15:04:05")
	}
	// Fifteen digits are what a spreadsheet keeps: the rest is binary dust.
	return strconv.FormatFloat(rounded(v), 'f', -1, 64)
}

func rounded(v float64) float64 {
	out, err := strconv.ParseFloat(strconv.FormatFloat(v, 'g', 15, 64), 64)
	if err != nil {
		return v
	}
	return out
}
