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
	out := bufio.NewWriter(w)
	put := func(code int, value any) { fmt.Fprintf(out, "%3d\n%v\n", code, value) }
	mm := func(v float64) string { return fmt.Sprintf("%.3f", v*1e3) }
	put(0, "SECTION")
	put(2, "HEADER")
	put(9, "$ACADVER") // the format's own name for its version
	put(1, "AC1015")
	put(9, "$INSUNITS")
	put(70, 4)
	put(0, "ENDSEC")
	put(0, "SECTION")
	put(2, "TABLES")
	put(0, "TABLE")
	put(2, "LAYER")
	layers := []string{"CUT", "MARK", "HOLE", "TEXT"}
	for _, p := range pieces {
		if l := layerName(p.Layer); !slices.Contains(layers, l) {
			layers = append(layers, l)
		}
	}
	put(70, len(layers))
	for _, layer := range layers {
		put(0, "LAYER")
		put(2, layer)
		put(70, 0)
		put(62, 7)
		put(6, "CONTINUOUS")
	}
	put(0, "ENDTAB")
	put(0, "ENDSEC")
	put(0, "SECTION")
	put(2, "ENTITIES")
	handle := 0x100
	begin := func(kind, layer string) {
		handle++
		put(0, kind)
		put(5, fmt.Sprintf("%X", handle))
		put(100, "AcDbEntity")
		put(8, layer)
	}
	line := func(layer string, points []geom.Point, closed int) {
		begin("LWPOLYLINE", layer)
		put(100, "AcDbPolyline")
		put(90, len(points))
		put(70, closed)
		for _, c := range points {
			put(10, mm(c.X))
			put(20, mm(c.Y))
		}
	}
	text := func(says string, at geom.Point, height float64) {
		begin("TEXT", "TEXT")
		put(100, "AcDbText")
		put(10, mm(at.X))
		put(20, mm(at.Y))
		put(30, "0.0")
		put(40, mm(height))
		put(1, oneLine(says))
		put(100, "AcDbText")
	}
	for _, p := range pieces {
		line(layerName(p.Layer), p.Outline, 1)
		if p.Label != "" {
			text(p.Label, p.At, p.Height)
		}
		for _, m := range p.Marks {
			switch {
			case m.Text != "":
				text(m.Text, m.At, markHeight)
			case m.Closed:
				line("HOLE", m.Line, 1)
			case len(m.Line) > 1:
				line("MARK", m.Line, 0)
			}
		}
	}
	put(0, "ENDSEC")
	put(0, "EOF")
	if err := out.Flush(); err != nil {
		return fmt.Errorf("write DXF: %w", err)
	}
	return nil
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
