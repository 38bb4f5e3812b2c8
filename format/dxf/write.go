package dxf

import (
	"bufio"
	"fmt"
	"io"
	"slices"
	"strings"

	"juxta/core/geom"
)

// LabelledOutline is one outline to write, with the label that is marked inside it.
type LabelledOutline struct {
	Outline geom.Ring
	Label   string
	At      geom.Point // where the label starts
	Height  float64    // of its letters, m
	Layer   string     // of the outline; empty: CUT
	Marks   []Detail   // within it: lines on layer MARK, texts on layer TEXT, holes on layer HOLE
}

// Write writes outlines as closed LWPOLYLINEs, on layer CUT unless they say
// another, what the pen draws on layer MARK and what it writes as TEXT on layer TEXT, in mm.
func Write(w io.Writer, pieces []LabelledOutline) error {
	d := document{Writer: bufio.NewWriter(w), handle: 0x100}
	d.head(pieces)
	for _, p := range pieces {
		d.line(layerName(p.Layer), p.Outline, 1)
		if p.Label != "" {
			d.text(p.Label, p.At, p.Height)
		}
		for _, m := range p.Marks {
			switch {
			case m.Text != "":
				d.text(m.Text, m.At, markHeight)
			case m.Closed:
				d.line("HOLE", m.Line, 1)
			case len(m.Line) > 1:
				d.line("MARK", m.Line, 0)
			}
		}
	}
	d.put(0, "ENDSEC")
	d.put(0, "EOF")
	if err := d.Flush(); err != nil {
		return fmt.Errorf("write DXF: %w", err)
	}
	return nil
}

// document is a file as it is written, group after group.
type document struct {
	*bufio.Writer
	handle int // of the last entity
}

func (d *document) put(code int, value any) { fmt.Fprintf(d, "%3d\n%v\n", code, value) }

// head writes all before the first entity: the unit is mm.
func (d *document) head(pieces []LabelledOutline) {
	d.put(0, "SECTION")
	d.put(2, "HEADER")
	d.put(9, "$ACADVER") // the format's own name for its version
	d.put(1, "AC1015")
	d.put(9, "$INSUNITS")
	d.put(70, 4)
	d.put(0, "ENDSEC")
	d.put(0, "SECTION")
	d.put(2, "TABLES")
	d.put(0, "TABLE")
	d.put(2, "LAYER")
	layers := []string{"CUT", "MARK", "HOLE", "TEXT"}
	for _, p := range pieces {
		if l := layerName(p.Layer); !slices.Contains(layers, l) {
			layers = append(layers, l)
		}
	}
	d.put(70, len(layers))
	for _, layer := range layers {
		d.put(0, "LAYER")
		d.put(2, layer)
		d.put(70, 0)
		d.put(62, 7)
		d.put(6, "CONTINUOUS")
	}
	d.put(0, "ENDTAB")
	d.put(0, "ENDSEC")
	d.put(0, "SECTION")
	d.put(2, "ENTITIES")
}

func (d *document) begin(kind, layer string) {
	d.handle++
	d.put(0, kind)
	d.put(5, fmt.Sprintf("%X", d.handle))
	d.put(100, "AcDbEntity")
	d.put(8, layer)
}

// at is a length in m as the file says it, in mm.
func at(v float64) string { return fmt.Sprintf("%.3f", v*1e3) }

func (d *document) line(layer string, points []geom.Point, closed int) {
	d.begin("LWPOLYLINE", layer)
	d.put(100, "AcDbPolyline")
	d.put(90, len(points))
	d.put(70, closed)
	for _, c := range points {
		d.put(10, at(c.X))
		d.put(20, at(c.Y))
	}
}

func (d *document) text(label string, place geom.Point, height float64) {
	d.begin("TEXT", "TEXT")
	d.put(100, "AcDbText")
	d.put(10, at(place.X))
	d.put(20, at(place.Y))
	d.put(30, "0.0")
	d.put(40, at(height))
	d.put(1, oneLine(label))
	d.put(100, "AcDbText")
}

// markHeight is that of letters that a drawing held or that a piece is marked by, m.
const markHeight = 0.005

// layerName is a name that the format takes: without the characters that it
// keeps for itself.
func layerName(s string) string {
	if s == "" {
		return "CUT"
	}
	return oneLine(strings.Map(func(r rune) rune {
		if strings.ContainsRune("<>/\\\":;?*|=`,", r) {
			return '_'
		}
		return r
	}, s))
}

// oneLine keeps a label from breaking the file: controls become spaces, and
// what lies outside ASCII is written as the format's \U+XXXX.
func oneLine(s string) string {
	var b strings.Builder
	for _, r := range s {
		switch {
		case r < ' ':
			b.WriteByte(' ')
		case r < 127:
			b.WriteRune(r)
		default:
			fmt.Fprintf(&b, `\U+%04X`, r)
		}
	}
	return b.String()
}
