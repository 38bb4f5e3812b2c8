package stocklist

import (
	"fmt"
	"slices"
	"strings"
	"time"

	"juxta/format/number"
	"juxta/format/sheet"
)

// maxFaults is how many faults are named.
const maxFaults = 100

// Row is one roll. Line is its row in the file; lengths in m, times in s.
type Row struct {
	Line                          int
	Material, Lot, Freezer, Place string
	Length, Width, Spent          float64
	Made, ShelfEnd                *time.Time
	Accepted                      bool
}

// Fault is a row that cannot be read, and why.
type Fault struct {
	Line    int
	Message string
}

// columns that are known, with other names under which they come.
var columns = map[string][]string{
	"material": {
		"material",
	}, "lot": {"lot", "batch"}, "length": {"length", "length m", "amount"}, "width": {"width",
		"width mm"}, "freezer": {"freezer"}, "place": {"place", "shelf"},
	"made": {
		"made",
		"made on",
	}, "shelf end": {"shelf end", "shelf life until", "expires"}, "out time": {"out time", "out time h",
		"out-time"}, "accepted": {"accepted"},
}

// Read reads a list. Rows that are right come with the faults of those that
// are not; whether anything is stored then is for the caller to say.
func Read(raw []byte, zone *time.Location) ([]Row, []Fault) {
	cells, err := sheet.Read(raw)
	if err != nil {
		return nil, []Fault{{0, err.Error()}}
	}
	if len(cells) == 0 {
		return nil, []Fault{{0, "the file has no header row"}}
	}
	at, faults := header(cells[0])
	if len(faults) > 0 {
		return nil, faults
	}
	rows := []Row{}
	for n, record := range cells[1:] {
		p := parser{line: n + 2, zone: zone, cell: func(c string) string {
			if i, there := at[c]; there && i < len(record) {
				return strings.TrimSpace(record[i])
			}
			return ""
		}}
		if strings.TrimSpace(strings.Join(record, "")) == "" {
			continue
		}
		row := Row{
			Line:     p.line,
			Material: p.text("material"),
			Lot:      p.text("lot"),
			Freezer:  p.cell("freezer"),
			Place:    p.cell("place"),
			Length:   p.number("length", true),
			Width:    p.number("width", false) / 1e3,
			Spent:    p.number("out time", false) * 3600,
			Made:     p.date("made"),
			ShelfEnd: p.date("shelf end"),
			Accepted: p.yes("accepted"),
		}
		if p.fault != "" {
			if faults = append(faults, Fault{p.line, p.fault}); len(faults) >= maxFaults {
				return rows, append(faults, Fault{p.line, "and more: put these right first"})
			}
			continue
		}
		rows = append(rows, row)
	}
	if len(rows) == 0 && len(faults) == 0 {
		faults = append(faults, Fault{1, "the list has a header and no rows"})
	}
	return rows, faults
}

// header tells in which column of a list each of ours stands.
func header(cells []string) (map[string]int, []Fault) {
	faults := []Fault{}
	at := map[string]int{}
	for i, h := range cells {
		name := strings.ToLower(strings.TrimSpace(h))
		known := ""
		for c, names := range columns {
			if slices.Contains(names, name) {
				known = c
			}
		}
		switch _, twice := at[known]; {
		case name == "":
		case known == "":
			faults = append(
				faults,
				Fault{
					1,
					fmt.Sprintf(
						"column %q is not known: material, lot, length, width, freezer, place, made, shelf end, out "+
							"time and "+
							"accepted are",
						h,
					),
				},
			)
		case twice:
			faults = append(faults, Fault{1, fmt.Sprintf("column %q is there twice", h)})
		default:
			at[known] = i
		}
	}
	for _, c := range []string{"material", "lot", "length"} {
		if _, there := at[c]; !there {
			faults = append(faults, Fault{1, fmt.Sprintf("the column %q is missing", c)})
		}
	}
	return at, faults
}

// parser reads the cells of one row and keeps the first thing wrong with it.
type parser struct {
	line  int
	zone  *time.Location
	cell  func(string) string
	fault string
}

func (p *parser) wrong(format string, args ...any) {
	if p.fault == "" {
		p.fault = fmt.Sprintf(format, args...)
	}
}

func (p *parser) text(c string) string {
	v := p.cell(c)
	if v == "" {
		p.wrong("the %s is missing", c)
	}
	return v
}

func (p *parser) number(c string, needed bool) float64 {
	text := p.cell(c)
	if text == "" {
		if needed {
			p.wrong("the %s is missing", c)
		}
		return 0
	}
	v, err := number.Read(text)
	switch {
	case err != nil:
		p.wrong("%s: %s", c, err)
	case v < 0 || needed && v == 0:
		p.wrong("%s %q is not possible", c, text)
	}
	return v
}

func (p *parser) date(c string) *time.Time {
	text := p.cell(c)
	if text == "" {
		return nil
	}
	for _, layout := range []string{"2006-01-02", "2.1.2006", "2006-01-02 15:04:05", time.RFC3339} {
		if t, err := time.ParseInLocation(layout, text, p.zone); err == nil {
			return &t
		}
	}
	// 03/04/2026 is a day in March to one reader and in April to another.
	p.wrong("%s %q is not a date that can mean one day only: write it as 2026-11-25", c, text)
	return nil
}

func (p *parser) yes(c string) bool {
	switch strings.ToLower(p.cell(c)) {
	case "yes", "y", "true", "1", "x":
		return true
	case "", "no", "n", "false", "0":
		return false
	}
	p.wrong("%s %q is neither yes nor no", c, p.cell(c))
	return false
}
