package svg

import (
	"bufio"
	"encoding/xml"
	"fmt"
	"io"
	"strings"

	"juxta/core/geom"
	"juxta/format/dxf"
)

// Sheet is the roll as used: its outline, and flaws that stay empty.
type Sheet struct {
	Width, Length float64 // m
	Flaws         [][2]float64
	Title         string
}

// Write writes the sheet with its pieces. y points up in the shop and down in
// SVG, so all is flipped about the middle of the roll.
func Write(w io.Writer, sheet Sheet, pieces []dxf.LabelledOutline) error {
	out := bufio.NewWriter(w)
	length, width := sheet.Length*1e3, sheet.Width*1e3
	y := func(v float64) float64 { return width - v*1e3 }
	fmt.Fprintf(out, `<?xml version="1.0" encoding="UTF-8"?>
<svg xmlns="http://www.w3.org/2000/svg" width="%.2fmm" height="%.2fmm" viewBox="0 0 %.2f %.2f">
<title>%s</title>
<rect class="roll" width="%.2f" height="%.2f" fill="none" stroke="#17191B" stroke-width="1"/>
`, length, width, length, width, escape(sheet.Title), length, width)
	for _, f := range sheet.Flaws {
		fmt.Fprintf(
			out,
			`<rect class="flaw" x="%.2f" y="0" width="%.2f" height="%.2f" `+
				`fill="none" stroke="#A8321F" stroke-dasharray="6 4"/>`+"\n",
			f[0]*1e3,
			(f[1]-f[0])*1e3,
			width,
		)
	}
	for _, p := range pieces {
		fmt.Fprintf(
			out,
			`<path class="cut" fill="none" stroke="#17191B" stroke-width="0.5" d="%s"/>`+"\n",
			d(p.Outline, y),
		)
		for _, m := range p.Marks {
			switch {
			case m.Text != "":
				fmt.Fprintf(
					out,
					`<text class="mark" x="%.2f" y="%.2f" font-size="5" font-family="sans-serif">%s</text>`+"\n",
					m.At.X*1e3,
					y(m.At.Y),
					escape(m.Text),
				)
			case len(m.Line) > 1:
				class, end := "mark", ""
				if m.Closed {
					class, end = "hole", "Z"
				}
				fmt.Fprintf(
					out,
					`<path class="%s" fill="none" stroke="#17191B" stroke-width="0.3" d="%s%s"/>`+"\n",
					class,
					strings.TrimSuffix(d(m.Line, y), "Z"),
					end,
				)
			}
		}
		if p.Label != "" {
			fmt.Fprintf(
				out,
				`<text class="mark" x="%.2f" y="%.2f" font-size="%.2f" font-family="sans-serif">%s</text>`+"\n",
				p.At.X*1e3,
				y(p.At.Y),
				p.Height*1e3,
				escape(p.Label),
			)
		}
	}
	fmt.Fprintln(out, "</svg>")
	if err := out.Flush(); err != nil {
		return fmt.Errorf("write SVG: %w", err)
	}
	return nil
}

func d(ring geom.Ring, y func(float64) float64) string {
	var b strings.Builder
	for i, p := range ring {
		c := byte('L')
		if i == 0 {
			c = 'M'
		}
		fmt.Fprintf(&b, "%c%.3f,%.3f", c, p.X*1e3, y(p.Y))
	}
	b.WriteByte('Z')
	return b.String()
}

func escape(s string) string {
	var b strings.Builder
	_ = xml.EscapeText(&b, []byte(s)) // a builder never fails
	return b.String()
}
