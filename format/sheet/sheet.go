package sheet

import (
	"bytes"
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"regexp"
	"slices"
	"time"
	"unicode/utf8"

	"github.com/xuri/excelize/v2"

	"juxta/core/unit"
)

// Table is a table with a name, a header row and cells that are text, numbers
// or times.
type Table struct {
	Name    string
	Columns []string
	Rows    [][]any
}

// MaxRows and MaxCells bound what is read.
const (
	MaxRows = 20_000
	maxCols = 60
)

// CSV writes rows as they come, so that a long table is never in memory whole.
type CSV struct{ out *csv.Writer }

// NewCSV begins a CSV file with its header row: commas, UTF-8.
func NewCSV(w io.Writer, columns ...string) *CSV {
	c := &CSV{csv.NewWriter(w)}
	_ = c.out.Write(columns) // Close tells of it
	return c
}

// Row writes one row.
func (c *CSV) Row(cells ...any) error {
	row := make([]string, len(cells))
	for i, cell := range cells {
		row[i] = Text(cell)
	}
	if err := c.out.Write(row); err != nil {
		return fmt.Errorf("write CSV: %w", err)
	}
	return nil
}

// Close writes what is left.
func (c *CSV) Close() error {
	c.out.Flush()
	return c.out.Error()
}

// WriteCSV writes one table.
func WriteCSV(w io.Writer, t Table) error {
	c := NewCSV(w, t.Columns...)
	for _, cells := range t.Rows {
		if err := c.Row(cells...); err != nil {
			return err
		}
	}
	return c.Close()
}

// Text is a cell as CSV holds it.
func Text(cell any) string {
	switch v := cell.(type) {
	case nil:
		return ""
	case time.Time:
		return v.Format(time.RFC3339)
	case float64:
		return fmt.Sprintf("%g", v)
	case string:
		return inert(unit.InMetric(v))
	}
	return fmt.Sprint(cell)
}

// runs finds what a spreadsheet would run as a formula: at the begin of a cell,
// and after a mark that some take for the end of one.
var runs = regexp.MustCompile(`(^|[;,|\t\r\n][ "']*)([=+\-@\t\r])`)

// inert is a text that no spreadsheet runs: an apostrophe stands before what
// would.
func inert(v string) string { return runs.ReplaceAllString(v, "${1}'${2}") }

// WriteXLSX writes tables as the sheets of one workbook.
func WriteXLSX(w io.Writer, tables ...Table) error {
	book := excelize.NewFile()
	defer book.Close()
	bold, err := book.NewStyle(&excelize.Style{Font: &excelize.Font{Bold: true}})
	if err != nil {
		return fmt.Errorf("write XLSX: %w", err)
	}
	for i, t := range tables {
		if i == 0 {
			err = book.SetSheetName("Sheet1", t.Name)
		} else {
			_, err = book.NewSheet(t.Name)
		}
		if err != nil {
			return fmt.Errorf("write XLSX: %w", err)
		}
		out, err := book.NewStreamWriter(t.Name)
		if err != nil {
			return fmt.Errorf("write XLSX: %w", err)
		}
		header := make([]any, len(t.Columns))
		for k, c := range t.Columns {
			header[k] = excelize.Cell{StyleID: bold, Value: c}
		}
		if err := out.SetRow("A1", header); err != nil {
			return fmt.Errorf("write XLSX: %w", err)
		}
		for k, cells := range t.Rows {
			at, err := excelize.CoordinatesToCellName(1, k+2)
			if err != nil {
				return fmt.Errorf("write XLSX: %w", err)
			}
			said := slices.Clone(cells)
			for i, c := range said {
				if text, is := c.(string); is {
					said[i] = unit.InMetric(text)
				}
			}
			if err := out.SetRow(at, said); err != nil {
				return fmt.Errorf("write XLSX: %w", err)
			}
		}
		if err := out.Flush(); err != nil {
			return fmt.Errorf("write XLSX: %w", err)
		}
	}
	if err := book.Write(w); err != nil {
		return fmt.Errorf("write XLSX: %w", err)
	}
	return nil
}

// ErrNotATable says that a file is neither CSV nor XLSX.
var ErrNotATable = errors.New("this is neither a CSV text file nor an XLSX workbook")

// PlainText is a text file's content in UTF-8. What is another encoding, or a
// workbook that only a spreadsheet can open, is refused with its own sentence:
// read wrongly, names would change without a word.
func PlainText(raw []byte) ([]byte, error) {
	switch {
	case bytes.HasPrefix(raw, []byte{0xd0, 0xcf, 0x11, 0xe0, 0xa1, 0xb1, 0x1a, 0xe1}):
		return nil, errors.New(
			"this workbook is protected by a password, or of the old XLS kind: save it without one as XLSX",
		)
	case bytes.HasPrefix(raw, []byte{0xff, 0xfe}), bytes.HasPrefix(raw, []byte{0xfe, 0xff}):
		return nil, errors.New("this text is in UTF-16: save it as CSV in UTF-8")
	}
	raw = bytes.TrimPrefix(raw, []byte("\xef\xbb\xbf"))
	if len(raw) == 0 || bytes.IndexByte(raw, 0) >= 0 {
		return nil, ErrNotATable
	}
	if !utf8.Valid(raw) {
		return nil, errors.New(
			"this text is not in UTF-8, as where an older spreadsheet wrote it (Windows-1252): save it as CSV in " +
				"UTF-8, or its letters change",
		)
	}
	return raw, nil
}

// Read reads a CSV file (commas, semicolons or tabs) or the first sheet of an
// XLSX workbook as rows of text. Which of the two it is shows in its content.
func Read(raw []byte) ([][]string, error) {
	if bytes.HasPrefix(raw, []byte("PK\x03\x04")) {
		return readXLSX(raw)
	}
	raw, err := PlainText(raw)
	if err != nil {
		return nil, err
	}
	first, _, _ := bytes.Cut(raw, []byte("\n"))
	in := csv.NewReader(bytes.NewReader(raw))
	in.FieldsPerRecord, in.TrimLeadingSpace = -1, true
	for _, c := range []rune{';', '\t'} {
		if bytes.ContainsRune(first, c) && bytes.Count(first, []byte(string(c))) > bytes.Count(first, []byte(",")) {
			in.Comma = c
		}
	}
	rows := [][]string{}
	for {
		row, err := in.Read()
		if errors.Is(err, io.EOF) {
			return rows, nil
		}
		if err != nil {
			return nil, fmt.Errorf("the CSV breaks off: %w", err)
		}
		if rows = append(rows, row); len(rows) > MaxRows || len(row) > maxCols {
			return nil, fmt.Errorf("the table is larger than %d rows of %d columns", MaxRows, maxCols)
		}
	}
}
