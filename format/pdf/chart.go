package pdf

import (
	"fmt"
	"math"

	"github.com/go-pdf/fpdf"
)

// Chart is a drawing of curves over time beside the table of a section. Curves are
// told apart by their dashes and by their names at their ends, not by colour.
type Chart struct {
	X, Y  string // what the axes carry, with their units
	Band  *Band  // behind the curves: as planned
	Lines []Curve
}

// Band lies between two curves with the same X.
type Band struct {
	Name    string
	X       []float64
	Low, Up []float64
}

// Curve is one line. Where a Y is NaN it has a gap.
type Curve struct {
	Name string
	X, Y []float64
	Dash []float64 // mm on and off; none: a whole line
}

const (
	chartHigh = 62.0
	chartWide = width - 42
)

// chart draws a chart where the pen is and moves the pen below it.
func chart(doc *fpdf.Fpdf, c Chart) {
	if doc.GetY()+chartHigh+14 > lowest {
		doc.AddPage()
	}
	f := plotted{left: margin + 12.0, top: doc.GetY() + 4}
	f.x0, f.x1, f.y0, f.y1 = c.bounds()
	f.grid(doc)
	f.band(doc, c.Band)
	doc.SetDrawColor(23, 25, 27)
	doc.SetLineWidth(0.1)
	doc.Rect(f.left, f.top, chartWide, chartHigh, "D")
	names := []float64{}
	for _, l := range c.Lines {
		last, ok := f.curve(doc, l)
		if !ok {
			continue
		}
		// Names stand at the ends of their curves, below each other where these meet.
		at := last
		for moved := true; moved; {
			moved = false
			for _, n := range names {
				if math.Abs(n-at) < 3 {
					at, moved = n+3, true
				}
			}
		}
		names = append(names, at)
		doc.SetDashPattern(l.Dash, 0)
		doc.Line(f.left+chartWide+1, at-0.9, f.left+chartWide+7, at-0.9)
		doc.SetDashPattern(nil, 0)
		doc.Text(f.left+chartWide+8, at, l.Name)
	}
	doc.SetLineWidth(0.2)
	doc.Text(f.left, f.top-1.2, c.Y)
	caption := c.X
	if c.Band != nil {
		caption += ". Grey: " + c.Band.Name
	}
	doc.Text(f.left, f.top+chartHigh+7, caption)
	doc.SetXY(margin, f.top+chartHigh+10)
}

// plotted is where a chart stands on the page, mm, and what its axes show.
type plotted struct {
	left, top      float64
	x0, x1, y0, y1 float64
}

func (f plotted) px(x float64) float64 { return f.left + (x-f.x0)/(f.x1-f.x0)*chartWide }

// py is the place of a value, one beyond the axis at its end.
func (f plotted) py(y float64) float64 {
	return f.top + chartHigh - (clamp(y, f.y0, f.y1)-f.y0)/(f.y1-f.y0)*chartHigh
}

func (f plotted) grid(doc *fpdf.Fpdf) {
	doc.SetFont(family, "", 7)
	doc.SetLineWidth(0.1)
	doc.SetDrawColor(190, 190, 190)
	for _, v := range ticks(f.y0, f.y1) {
		doc.Line(f.left, f.py(v), f.left+chartWide, f.py(v))
		doc.Text(f.left-2-doc.GetStringWidth(figure(v)), f.py(v)+0.9, figure(v))
	}
	for _, v := range ticks(f.x0, f.x1) {
		doc.Line(f.px(v), f.top, f.px(v), f.top+chartHigh)
		doc.Text(f.px(v)-doc.GetStringWidth(figure(v))/2, f.top+chartHigh+3.4, figure(v))
	}
}

func (f plotted) band(doc *fpdf.Fpdf, b *Band) {
	if b == nil || len(b.X) < 2 {
		return
	}
	var outline []fpdf.PointType
	for i := range b.X {
		outline = append(outline, fpdf.PointType{X: f.px(b.X[i]), Y: f.py(b.Up[i])})
	}
	for i := len(b.X) - 1; i >= 0; i-- {
		outline = append(outline, fpdf.PointType{X: f.px(b.X[i]), Y: f.py(b.Low[i])})
	}
	doc.SetFillColor(228, 228, 226)
	doc.Polygon(outline, "F")
}

// curve draws a line, and gives where it ends unless that is a gap.
func (f plotted) curve(doc *fpdf.Fpdf, l Curve) (end float64, ok bool) {
	doc.SetDashPattern(l.Dash, 0)
	doc.SetLineWidth(0.35)
	// One path: a dash goes on over the points, which lie closer than it is long.
	last := -1
	for i := range l.X {
		if math.IsNaN(l.Y[i]) {
			last = -1
			continue
		}
		x, y := f.px(l.X[i]), f.py(l.Y[i])
		if last < 0 {
			doc.MoveTo(x, y)
		} else {
			doc.LineTo(x, y)
		}
		last = i
	}
	doc.DrawPath("D")
	doc.SetDashPattern(nil, 0)
	if last < 0 {
		return 0, false
	}
	return f.py(l.Y[last]), true
}

func (c Chart) bounds() (x0, x1, y0, y1 float64) {
	x0, x1, y0, y1 = math.Inf(1), math.Inf(-1), math.Inf(1), math.Inf(-1)
	see := func(xs, ys []float64) {
		for i, x := range xs {
			if y := ys[i]; !math.IsNaN(y) && !math.IsInf(y, 0) {
				x0, x1, y0, y1 = min(x0, x), max(x1, x), min(y0, y), max(y1, y)
			}
		}
	}
	for _, l := range c.Lines {
		see(l.X, l.Y)
	}
	if c.Band != nil {
		see(c.Band.X, c.Band.Low)
		see(c.Band.X, c.Band.Up)
	}
	if math.IsInf(x0, 1) {
		return 0, 1, 0, 1
	}
	if x1 <= x0 {
		x1 = x0 + 1
	}
	if y1-y0 < 1e-9 {
		y0, y1 = y0-1, y1+1
	}
	return x0, x1, y0, y1
}

func clamp(v, lo, hi float64) float64 { return min(max(v, lo), hi) }

// ticks are round values between two bounds, five or so.
func ticks(lo, hi float64) []float64 {
	raw := (hi - lo) / 5
	step := math.Pow(10, math.Floor(math.Log10(raw)))
	for _, m := range []float64{1, 2, 5, 10} {
		if step*m >= raw {
			step *= m
			break
		}
	}
	var out []float64
	for v := math.Ceil(lo/step) * step; v <= hi+step*1e-6 && len(out) < 20; v += step {
		out = append(out, v)
	}
	return out
}

func figure(v float64) string { return fmt.Sprintf("%g", math.Round(v*1e6)/1e6) }
