package svg

import (
	"bytes"
	"encoding/xml"
	"errors"
	"fmt"
	"io"
	"math"
	"strconv"
	"strings"

	"juxta/core/geom"
)

// Outline is a closed outline of a drawing with its name.
type Outline struct {
	Name string
	Ring geom.Ring
}

// Bounds of a drawing that is read: its size in bytes, elements, outlines, points
// of all of them and of one, and the faults that are named. Whether an outline
// crosses itself is asked of all pairs of its sides.
const (
	MaxSize     = 4 << 20
	MaxElements = 20_000
	MaxOutlines = 500
	MaxPoints   = 60_000
	MaxCorners  = 5_000
	MaxFaults   = 50
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

// ReadOutlines reads the closed outlines of a drawing: path (of straight lines
// and circular or elliptic arcs), polygon, polyline, rect, circle and ellipse.
// A unit of the drawing is a millimetre, unless width and viewBox say another.
// y is turned up. Transforms, and curves by control points, are refused by
// name. The faults name elements; there are outlines only without faults.
func ReadOutlines(raw []byte) (all []Outline, faults []string) {
	if len(raw) > MaxSize {
		return nil, []string{
			fmt.Sprintf(
				"the drawing has %.1f MB, at most %d MB are read: leave out what is no outline",
				float64(len(raw))/(1<<20),
				MaxSize>>20,
			),
		}
	}
	elements, points := 0, 0
	dec := xml.NewDecoder(bytes.NewReader(raw))
	dec.Entity = map[string]string{}
	scale, n, root := 1e-3, 0, false
	for {
		token, err := dec.Token()
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil {
			return nil, []string{"this is not an SVG drawing: " + err.Error()}
		}
		start, ok := token.(xml.StartElement)
		if !ok {
			continue
		}
		if elements++; elements > MaxElements {
			return nil, []string{fmt.Sprintf("the drawing has more than %d elements", MaxElements)}
		}
		if len(faults) >= MaxFaults {
			return nil, append(faults[:MaxFaults], "and more: put these right first")
		}
		a := map[string]string{}
		for _, at := range start.Attr {
			a[at.Name.Local] = at.Value
		}
		kind := start.Name.Local
		if !root {
			if kind != "svg" {
				return nil, []string{"this is not an SVG drawing"}
			}
			root = true
			if scale, err = unitOf(a); err != nil {
				return nil, []string{err.Error()}
			}
			continue
		}
		if a["transform"] != "" {
			faults = append(faults, fmt.Sprintf("%s %q has a transform: draw it in place", kind, short(a["id"])))
			continue
		}
		rings, err := element(kind, a)
		if rings == nil && err == nil {
			continue
		}
		n++
		name := short(a["id"])
		if name == "" {
			name = fmt.Sprintf("%s %d", kind, n)
		}
		if err != nil {
			faults = append(faults, fmt.Sprintf("%s %q: %s", kind, name, err))
			continue
		}
		for k, r := range rings {
			if points += len(r); points > MaxPoints || len(all) >= MaxOutlines {
				return nil, []string{fmt.Sprintf("the drawing has more than %d outlines or %d points", MaxOutlines, MaxPoints)}
			}
			if len(r) > MaxCorners {
				faults = append(faults, fmt.Sprintf("%s %q has %d points, at most %d are read", kind, name, len(r), MaxCorners))
				continue
			}
			for i, p := range r {
				r[i] = geom.Point{X: p.X * scale, Y: -p.Y * scale}
			}
			called := name
			if k > 0 {
				called = fmt.Sprintf("%s %d", name, k+1)
			}
			if err := r.Check(); err != nil {
				faults = append(faults, fmt.Sprintf("%s %q: %s", kind, called, err))
				continue
			}
			all = append(all, Outline{called, r})
		}
	}
	if !root {
		return nil, []string{"this is not an SVG drawing"}
	}
	if len(all) == 0 && len(faults) == 0 {
		faults = []string{"the drawing has no closed outline"}
	}
	if len(faults) > 0 {
		return nil, faults
	}
	return all, nil
}

// short is a name as long as one can be.
func short(name string) string {
	if r := []rune(name); len(r) > 60 {
		return string(r[:60])
	}
	return name
}

// unitOf is how many metres a unit of the drawing is.
func unitOf(a map[string]string) (float64, error) {
	box := numbers(a["viewBox"])
	w := strings.TrimSpace(a["width"])
	units := map[string]float64{"mm": 1e-3, "cm": 1e-2, "in": 0.0254, "m": 1}
	for _, suffix := range []string{"mm", "cm", "in", "m"} {
		text, ok := strings.CutSuffix(w, suffix)
		if !ok {
			continue
		}
		v, err := strconv.ParseFloat(strings.TrimSpace(text), 64)
		if err != nil || v <= 0 || len(box) != 4 || box[2] <= 0 {
			return 0, fmt.Errorf("width %q and viewBox %q do not say how large the drawing is", w, a["viewBox"])
		}
		return v * units[suffix] / box[2], nil
	}
	return 1e-3, nil
}

func numbers(s string) []float64 {
	var out []float64
	for _, f := range strings.FieldsFunc(s, func(r rune) bool {
		return r == ',' || r == ' ' || r == '\n' ||
			r == '\t' || r == '\r'
	}) {
		v, err := strconv.ParseFloat(f, 64)
		if err != nil || math.IsNaN(v) || math.IsInf(v, 0) {
			return nil
		}
		out = append(out, v)
	}
	return out
}

func element(kind string, a map[string]string) ([]geom.Ring, error) {
	get := func(name string) float64 {
		v, err := strconv.ParseFloat(strings.TrimSuffix(strings.TrimSpace(a[name]), "mm"), 64)
		if err != nil || math.IsInf(v, 0) {
			return math.NaN()
		}
		return v
	}
	or0 := func(name string) float64 {
		if a[name] == "" {
			return 0
		}
		return get(name)
	}
	switch kind {
	case "rect":
		x, y, w, h := or0("x"), or0("y"), get("width"), get("height")
		if a["rx"] != "" || a["ry"] != "" {
			return nil, fmt.Errorf("rounded corners are drawn as a path")
		}
		return []geom.Ring{{{X: x, Y: y}, {X: x + w, Y: y}, {X: x + w, Y: y + h}, {X: x, Y: y + h}}}, nil
	case "circle":
		return []geom.Ring{oval(or0("cx"), or0("cy"), get("r"), get("r"))}, nil
	case "ellipse":
		return []geom.Ring{oval(or0("cx"), or0("cy"), get("rx"), get("ry"))}, nil
	case "polygon", "polyline":
		v := numbers(a["points"])
		if len(v) < 6 || len(v)%2 != 0 {
			return nil, fmt.Errorf("its points are not pairs of numbers")
		}
		var r geom.Ring
		for i := 0; i < len(v); i += 2 {
			r = append(r, geom.Point{X: v[i], Y: v[i+1]})
		}
		return []geom.Ring{open(r)}, nil
	case "path":
		return paths(a["d"])
	}
	return nil, nil
}

func oval(cx, cy, rx, ry float64) geom.Ring {
	const n = 240
	r := make(geom.Ring, n)
	for k := range r {
		s, c := math.Sincos(2 * math.Pi * float64(k) / n)
		r[k] = geom.Point{X: cx + rx*c, Y: cy + ry*s}
	}
	return r
}

// open leaves out a last point that repeats the first.
func open(r geom.Ring) geom.Ring {
	if n := len(r); n > 1 && math.Hypot(r[0].X-r[n-1].X, r[0].Y-r[n-1].Y) < 1e-6 {
		return r[:n-1]
	}
	return r
}

// paths reads the data of a path: M L H V A Z and their small letters.
func paths(data string) ([]geom.Ring, error) {
	s := &scanner{text: data}
	var rings []geom.Ring
	var ring geom.Ring
	var at geom.Point
	command := byte(0)
	closed := func() {
		if len(ring) > 0 {
			rings, ring = append(rings, open(ring)), nil
		}
	}
	for {
		if c, ok := s.letter(); ok {
			command = c
		} else if s.end() {
			break
		} else if command == 0 || command == 'Z' || command == 'z' {
			return nil, fmt.Errorf("its data cannot be read at character %d", s.at+1)
		}
		relative := command >= 'a'
		from := at
		if !relative {
			from = geom.Point{}
		}
		switch command | 0x20 {
		case 'm', 'l':
			v, err := s.take(2)
			if err != nil {
				return nil, err
			}
			at = geom.Point{X: from.X + v[0], Y: from.Y + v[1]}
			if command|0x20 == 'm' {
				closed()
				command-- // what follows a move is a line
			}
			ring = append(ring, at)
		case 'h', 'v':
			v, err := s.take(1)
			if err != nil {
				return nil, err
			}
			if command|0x20 == 'h' {
				at.X = from.X + v[0]
			} else {
				at.Y = from.Y + v[0]
			}
			ring = append(ring, at)
		case 'a':
			v, err := s.take(7)
			if err != nil {
				return nil, err
			}
			to := geom.Point{X: from.X + v[5], Y: from.Y + v[6]}
			ring = append(ring, elliptic(at, to, v[0], v[1], v[2]*math.Pi/180, v[3] != 0, v[4] != 0)...)
			at = to
		case 'z':
			if len(ring) > 0 {
				at = ring[0]
			}
			closed()
		default:
			return nil, fmt.Errorf("%q is a curve that is not read: draw it with lines and arcs", string(command))
		}
		if len(ring) > MaxCorners || len(rings) > MaxOutlines {
			return nil, fmt.Errorf("it has more than %d points, or more than %d outlines", MaxCorners, MaxOutlines)
		}
	}
	closed()
	if len(rings) == 0 {
		return nil, fmt.Errorf("it has no points")
	}
	return rings, nil
}

type scanner struct {
	text string
	at   int
}

func (s *scanner) skip() {
	for s.at < len(s.text) && strings.IndexByte(" \t\r\n,", s.text[s.at]) >= 0 {
		s.at++
	}
}

func (s *scanner) end() bool { s.skip(); return s.at >= len(s.text) }

func (s *scanner) letter() (byte, bool) {
	if s.end() {
		return 0, false
	}
	c := s.text[s.at]
	if c|0x20 >= 'a' && c|0x20 <= 'z' && c|0x20 != 'e' {
		s.at++
		return c, true
	}
	return 0, false
}

func (s *scanner) take(n int) ([]float64, error) {
	out := make([]float64, n)
	for i := range out {
		s.skip()
		start := s.at
		for s.at < len(s.text) {
			c := s.text[s.at]
			sign := (c == '-' || c == '+') && s.at > start && s.text[s.at-1]|0x20 != 'e'
			if sign || strings.IndexByte("+-.0123456789eE", c) < 0 || c == '.' && strings.Contains(s.text[start:s.at], ".") {
				break
			}
			s.at++
		}
		v, err := strconv.ParseFloat(s.text[start:s.at], 64)
		if err != nil || math.IsNaN(v) || math.Abs(v) > 1e7 {
			return nil, fmt.Errorf("its data cannot be read at character %d", start+1)
		}
		out[i] = v
	}
	return out, nil
}

// elliptic is an arc by its ends, as the format gives it, without the first
// point (SVG 1.1, appendix F.6.5).
func elliptic(p, q geom.Point, rx, ry, turn float64, large, sweep bool) geom.Ring {
	rx, ry = math.Abs(rx), math.Abs(ry)
	if rx < 1e-9 || ry < 1e-9 || p == q {
		return geom.Ring{q}
	}
	sin, cos := math.Sincos(turn)
	dx, dy := (p.X-q.X)/2, (p.Y-q.Y)/2
	x1, y1 := cos*dx+sin*dy, -sin*dx+cos*dy
	if l := x1*x1/(rx*rx) + y1*y1/(ry*ry); l > 1 {
		rx, ry = rx*math.Sqrt(l), ry*math.Sqrt(l)
	}
	k := math.Sqrt(max(0, (rx*rx*ry*ry-rx*rx*y1*y1-ry*ry*x1*x1)/(rx*rx*y1*y1+ry*ry*x1*x1)))
	if large == sweep {
		k = -k
	}
	cx1, cy1 := k*rx*y1/ry, -k*ry*x1/rx
	cx, cy := cos*cx1-sin*cy1+(p.X+q.X)/2, sin*cx1+cos*cy1+(p.Y+q.Y)/2
	from := math.Atan2((y1-cy1)/ry, (x1-cx1)/rx)
	by := math.Atan2((-y1-cy1)/ry, (-x1-cx1)/rx) - from
	if sweep && by < 0 {
		by += 2 * math.Pi
	}
	if !sweep && by > 0 {
		by -= 2 * math.Pi
	}
	n := max(4, int(math.Ceil(math.Abs(by)/(math.Pi/120))))
	out := make(geom.Ring, 0, n)
	for i := 1; i < n; i++ {
		s, c := math.Sincos(from + by*float64(i)/float64(n))
		out = append(out, geom.Point{X: cx + rx*c*cos - ry*s*sin, Y: cy + rx*c*sin + ry*s*cos})
	}
	return append(out, q)
}
