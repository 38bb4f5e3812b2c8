package plytable

import (
	"bytes"
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"math"
	"slices"
	"strconv"
	"strings"

	"juxta/format/number"
	"juxta/format/sheet"
)

// Row is one ply. Line is its line in the file; X and Y are in m.
type Row struct {
	Line              int
	Material, Outline string
	AngleDeg          float64
	FaceUp            bool
	X, Y              float64
}

// Bounds of a table, and of the faults that are named.
const (
	MaxRows   = 500
	MaxFaults = 50
)

// Read reads a whole table, separated by commas, semicolons or tabs. The
// faults name their rows by line; there are rows only if there are no faults.
func Read(raw []byte) (rows []Row, faults []string) {
	raw, err := sheet.PlainText(raw)
	if err != nil {
		return nil, []string{err.Error()}
	}
	r := csv.NewReader(bytes.NewReader(raw))
	r.Comma = separator(raw)
	r.FieldsPerRecord = -1
	r.TrimLeadingSpace = true
	header, err := r.Read()
	if err != nil {
		return nil, []string{"row 1: the file has no header row"}
	}
	column := map[string]int{}
	for i, h := range header {
		name := strings.ToLower(strings.TrimSpace(h))
		if !slices.Contains([]string{"ply", "material", "angle", "outline", "face", "x", "y"}, name) {
			faults = append(
				faults,
				fmt.Sprintf("row 1: column %q is not known: ply, material, angle, outline, face, x and y are", h),
			)
			continue
		}
		if _, twice := column[name]; twice {
			faults = append(faults, fmt.Sprintf("row 1: column %q is there twice", name))
		}
		column[name] = i
	}
	for _, name := range []string{"material", "angle", "outline"} {
		if _, ok := column[name]; !ok {
			faults = append(faults, fmt.Sprintf("row 1: the column %q is missing", name))
		}
	}
	if len(faults) > 0 {
		return nil, faults
	}
	for {
		record, err := r.Read()
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil {
			var parse *csv.ParseError
			if errors.As(err, &parse) {
				return nil, append(faults, fmt.Sprintf("row %d: %v", parse.Line, parse.Err))
			}
			return nil, append(faults, err.Error())
		}
		line, _ := r.FieldPos(0)
		if len(rows) == MaxRows {
			return nil, append(faults, fmt.Sprintf("row %d: more than %d plies", line, MaxRows))
		}
		cell := func(name string) string {
			i, ok := column[name]
			if !ok || i >= len(record) {
				return ""
			}
			return strings.TrimSpace(record[i])
		}
		row, wrong := read(line, len(rows)+1, cell)
		for _, w := range wrong {
			faults = append(faults, fmt.Sprintf("row %d: %s", line, w))
		}
		if len(faults) > MaxFaults {
			return nil, append(faults[:MaxFaults], "and more: put these right first")
		}
		rows = append(rows, row)
	}
	if len(rows) == 0 {
		faults = append(faults, "row 2: the table has no plies")
	}
	if len(faults) > 0 {
		return nil, faults
	}
	return rows, nil
}

func read(line, ply int, cell func(string) string) (row Row, wrong []string) {
	row = Row{Line: line, Material: cell("material"), Outline: cell("outline"), FaceUp: true}
	fault := func(format string, args ...any) { wrong = append(wrong, fmt.Sprintf(format, args...)) }
	if row.Material == "" {
		fault("no material")
	}
	if row.Outline == "" {
		fault("no outline")
	}
	if p := cell("ply"); p != "" && p != strconv.Itoa(ply) {
		fault("this is ply %d, the table calls it %q", ply, p)
	}
	angle, err := number.Read(strings.TrimSuffix(cell("angle"), "°"))
	switch {
	case err != nil:
		fault("angle: %s", err)
	case math.Abs(angle) > 360:
		fault("%q is not an angle in degrees", cell("angle"))
	}
	row.AngleDeg = angle
	switch face := strings.ToLower(cell("face")); face {
	case "", "up":
	case "down":
		row.FaceUp = false
	default:
		fault("face is up or down, not %q", face)
	}
	for name, v := range map[string]*float64{"x": &row.X, "y": &row.Y} {
		if cell(name) == "" {
			continue
		}
		mm, err := number.Read(cell(name))
		switch {
		case err != nil:
			fault("%s: %s", name, err)
		case math.Abs(mm) > 100e3:
			fault("%s %q is not a place in mm", name, cell(name))
		}
		*v = mm / 1e3
	}
	slices.Sort(wrong)
	return row, wrong
}

// separator is the one that the header uses most.
func separator(raw []byte) rune {
	head, _, _ := bytes.Cut(raw, []byte("\n"))
	best, most := ',', 0
	for _, c := range []rune{',', ';', '\t'} {
		if n := bytes.Count(head, []byte(string(c))); n > most {
			best, most = c, n
		}
	}
	return best
}
