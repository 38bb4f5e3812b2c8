package svg

import (
	"fmt"
	"io"

	"juxta/core/geom"
)

// WriteOutlines writes outlines as paths with their names as ids, 1:1 in mm.
func WriteOutlines(w io.Writer, title string, all []Outline) error {
	box := geom.Box{}
	for k, o := range all {
		b := o.Ring.Bounds()
		if k == 0 {
			box = b
		}
		box.Min.X, box.Min.Y = min(box.Min.X, b.Min.X), min(box.Min.Y, b.Min.Y)
		box.Max.X, box.Max.Y = max(box.Max.X, b.Max.X), max(box.Max.Y, b.Max.Y)
	}
	// y points down in SVG: what lies at y stands at −y, as the reader knows.
	if _, err := fmt.Fprintf(w, `<?xml version="1.0" encoding="UTF-8"?>
<svg xmlns="http://www.w3.org/2000/svg" width="%.3fmm" height="%.3fmm" viewBox="%.3f %.3f %.3f %.3f">
<title>%s</title>
`, box.Width()*1e3, box.Height()*1e3,
		box.Min.X*1e3, -box.Max.Y*1e3, box.Width()*1e3, box.Height()*1e3, escape(title)); err != nil {
		return fmt.Errorf("write SVG: %w", err)
	}
	for _, o := range all {
		if _, err := fmt.Fprintf(
			w, `<path id="%s" fill="none" stroke="#17191B" stroke-width="0.5" d="%s"/>`+"\n", escape(o.Name),
			d(o.Ring, func(v float64) float64 { return -v * 1e3 }),
		); err != nil {
			return fmt.Errorf("write SVG: %w", err)
		}
	}
	if _, err := fmt.Fprintln(w, "</svg>"); err != nil {
		return fmt.Errorf("write SVG: %w", err)
	}
	return nil
}
