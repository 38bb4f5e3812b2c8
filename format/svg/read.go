package svg

import (
	"cmp"
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"

	"juxta/core/geom"
)

// Outline is a closed outline of a drawing with its name, and what lies in it.
type Outline struct {
	Name  string
	Ring  geom.Ring
	Marks []Detail
}

// Detail is a text at a place, or a line: a hole is a closed one.
type Detail struct {
	Text   string
	At     geom.Point
	Line   []geom.Point
	Closed bool
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
	maxMarks    = 2_000
)

// sag is how far a chord may lie beside its curve, m; joint how far apart two ends may lie and
// still be one place; gap how near each other the ends of what is meant to be closed lie, over
// its length.
const (
	sag   = 5e-6
	joint = 2e-5
	gap   = 0.02
)

// Drawing is what was read, in m with y up.
type Drawing struct {
	Outlines []Outline
	Marks    []Detail // outside every outline
	Notes    []string // what was taken otherwise than it stands
}

// context is what an element has from those round it.
type context struct {
	t      affine
	fill   string
	stroke string
	hidden bool
	name   string
	depth  int // of uses
}

// reader reads the shapes of a drawing.
type reader struct {
	byID   map[string]*node
	css    map[string]map[string]string
	out    Drawing
	faults []string
	n      int // shapes so far, for names
	points int
	uses   int
}

// Read reads the closed outlines of a drawing: paths with all their curves, and the basic shapes,
// wherever transforms, nested drawings and uses put them. What is not seen is left out; open lines,
// texts and holes are marks of the outline that they lie in. unit is the length of a unit of a
// drawing that does not say its size, in m; 0 makes that a fault. y is turned up. The faults name
// elements; there is a drawing only without faults.
func Read(raw []byte, unit float64) (*Drawing, []string) {
	if len(raw) > MaxSize {
		return nil, []string{
			fmt.Sprintf(
				"the drawing has %.1f MB, at most %d MB are read: leave out what is no outline",
				float64(len(raw))/(1<<20),
				MaxSize>>20,
			),
		}
	}
	root, byID, css, fault := tree(raw)
	if fault != "" {
		return nil, []string{fault}
	}
	t, err := root.size(unit)
	if err != nil {
		return nil, []string{err.Error()}
	}
	r := &reader{byID: byID, css: css}
	c := context{t: t}
	r.inherit(root, &c)
	r.walk(root, c)
	r.holes()
	if len(r.out.Outlines) == 0 && len(r.faults) == 0 {
		r.faults = []string{"the drawing has no closed outline that is seen: join its lines in the drawing program"}
	}
	if len(r.faults) > 0 {
		if len(r.faults) >= MaxFaults {
			r.faults = append(r.faults[:MaxFaults], "and more: put these right first")
		}
		return nil, r.faults
	}
	return &r.out, nil
}

// size is how the root lies in the plane, in m with y up.
func (n *node) size(unit float64) (affine, error) {
	up := affine{1, 0, 0, -1, 0, 0}
	w, in, ok := length(n.a["width"])
	h, inH, okH := length(n.a["height"])
	box := numbers(n.a["viewBox"])
	framed := len(box) == 4 && box[2] > 0 && box[3] > 0
	if ok && in == "" {
		in = "px"
	}
	if okH && inH == "" {
		inH = "px"
	}
	scale := units[in]
	if !ok || scale == 0 || !(w > 0) {
		if n.a["width"] != "" && scale != 0 {
			return up, fmt.Errorf(
				"width %q and viewBox %q do not say how large the drawing is",
				n.a["width"],
				n.a["viewBox"],
			)
		}
		if unit == 0 {
			return up, fmt.Errorf("the drawing does not say its size: choose mm or inch")
		}
		return affine{unit, 0, 0, -unit, 0, 0}, nil
	}
	if in != "px" && !framed {
		return up, fmt.Errorf(
			"width %q and viewBox %q do not say how large the drawing is",
			n.a["width"],
			n.a["viewBox"],
		)
	}
	if !framed {
		return affine{scale, 0, 0, -scale, 0, 0}, nil
	}
	if in == "px" && unit > 0 && w == box[2] && n.a["width"] == strings.TrimSuffix(n.a["width"], "px") {
		// A number without a unit that is the frame's own says nothing: many programs write it.
		return affine{unit, 0, 0, -unit, 0, 0}, nil
	}
	s := w * scale / box[2]
	if okH && h > 0 && units[inH] > 0 {
		s = min(s, h*units[inH]/box[3])
	}
	return affine{s, 0, 0, -s, 0, 0}, nil
}

// unseen are elements that are not drawn where they stand.
var unseen = []string{
	"defs", "clipPath", "mask", "pattern", "marker", "symbol", "linearGradient", "radialGradient", "metadata", "title",
	"desc", "style", "script", "filter", "foreignObject", "image", "namedview", "font",
}

// inherit takes what an element says of itself and of what lies in it; false: nothing of it is seen.
func (r *reader) inherit(n *node, c *context) bool {
	if n.styled("display", r.css) == "none" {
		return false
	}
	if v := n.styled("visibility", r.css); v != "" {
		c.hidden = v == "hidden" || v == "collapse"
	}
	if v := n.styled("opacity", r.css); v != "" {
		if f, err := strconv.ParseFloat(v, 64); err == nil && f == 0 {
			return false
		}
	}
	if v := n.styled("fill", r.css); v != "" && v != "inherit" {
		c.fill = v
	}
	if v := n.styled("stroke", r.css); v != "" && v != "inherit" {
		c.stroke = v
	}
	if id := n.a["id"]; id != "" {
		c.name = short(id)
	}
	return true
}

func (r *reader) fault(n *node, name string, err any) {
	if len(r.faults) < MaxFaults {
		r.faults = append(r.faults, fmt.Sprintf("%s %q: %s", n.kind, name, err))
	}
}

func (r *reader) walk(n *node, c context) {
	for _, child := range n.children {
		if len(r.faults) >= MaxFaults || r.points > MaxPoints {
			return
		}
		if slices.Contains(unseen, child.kind) {
			continue
		}
		r.element(child, c)
	}
}

func (r *reader) element(n *node, c context) {
	if !r.inherit(n, &c) {
		return
	}
	name := short(n.a["id"])
	own := n.styled("transform", r.css)
	u, err := transform(own)
	if err != nil {
		r.fault(n, name, err)
		return
	}
	if origin := strings.Fields(n.styled("transform-origin", r.css)); own != "" && len(origin) >= 2 {
		x, inX, okX := length(origin[0])
		y, inY, okY := length(origin[1])
		if !okX || !okY || inX == "%" || inY == "%" {
			r.fault(n, name, "its transform turns about a place that is not read: draw it in place")
			return
		}
		u = affine{1, 0, 0, 1, x, y}.then(u).then(affine{1, 0, 0, 1, -x, -y})
	}
	c.t = c.t.then(u)
	switch n.kind {
	case "g", "a", "switch":
		r.walk(n, c)
	case "svg":
		x, _, _ := length(n.a["x"])
		y, _, _ := length(n.a["y"])
		w, inW, okW := length(n.a["width"])
		h, inH, okH := length(n.a["height"])
		if okW && okH && inW != "%" && inH != "%" && w > 0 && h > 0 {
			c.t = c.t.then(n.window(x, y, w, h))
		} else {
			c.t = c.t.then(affine{1, 0, 0, 1, x, y})
		}
		r.walk(n, c)
	case "use":
		r.use(n, c)
	case "text":
		r.text(n, c)
	default:
		r.shape(n, c)
	}
}

// use draws an element where another is told to.
func (r *reader) use(n *node, c context) {
	to := r.byID[strings.TrimPrefix(n.a["href"], "#")]
	if r.uses++; to == nil || c.depth > 8 || r.uses > MaxElements {
		if to != nil {
			r.fault(n, short(n.a["id"]), "elements use each other more than 8 deep: draw them in place")
		}
		return
	}
	x, _, _ := length(n.a["x"])
	y, _, _ := length(n.a["y"])
	c.depth++
	c.t = c.t.then(affine{1, 0, 0, 1, x, y})
	if to.kind == "symbol" || to.kind == "svg" {
		w, _, okW := length(cmp.Or(n.a["width"], to.a["width"]))
		h, _, okH := length(cmp.Or(n.a["height"], to.a["height"]))
		if okW && okH {
			c.t = c.t.then(to.window(0, 0, w, h))
		}
		if r.inherit(to, &c) {
			r.walk(to, c)
		}
		return
	}
	r.element(to, c)
}

// text is a mark.
func (r *reader) text(n *node, c context) {
	words := n.text
	for _, t := range n.children {
		words += " " + t.text
	}
	if words = strings.Join(strings.Fields(words), " "); words == "" || c.hidden || len(r.out.Marks) >= maxMarks {
		return
	}
	first := func(name string) float64 {
		v := numbers(n.a[name])
		if len(v) == 0 && len(n.children) > 0 {
			v = numbers(n.children[0].a[name])
		}
		return or(v, 0, 0)
	}
	r.out.Marks = append(r.out.Marks, Detail{Text: long(words), At: c.t.at(geom.Point{X: first("x"), Y: first("y")})})
}

// shape reads an element that draws lines.
func (r *reader) shape(n *node, c context) {
	lines, err := n.lines(sag / max(c.t.scale(), 1e-12))
	if lines == nil && err == nil {
		return
	}
	filled, lined := c.fill != "none" &&
		c.fill != "transparent", c.stroke != "" && c.stroke != "none" &&
		c.stroke != "transparent"
	if c.hidden || !filled && !lined {
		return // it is not seen
	}
	r.n++
	name := cmp.Or(short(n.a["id"]), c.name)
	if name == "" {
		name = fmt.Sprintf("%s %d", n.kind, r.n)
	}
	if err != nil {
		r.fault(n, name, err)
		return
	}
	k := 0
	for _, l := range lines {
		for i, p := range l.points {
			l.points[i] = c.t.at(p)
		}
		if r.points += len(l.points); r.points > MaxPoints || len(r.out.Outlines) >= MaxOutlines {
			r.faults = []string{
				fmt.Sprintf("the drawing has more than %d outlines or %d points", MaxOutlines, MaxPoints),
			}
			r.points = MaxPoints + 1
			return
		}
		if len(l.points) > MaxCorners {
			r.fault(n, name, fmt.Sprintf("it has %d points, at most %d are read", len(l.points), MaxCorners))
			continue
		}
		ring, mark := r.closed(n, name, l, filled)
		switch {
		case mark:
			if len(r.out.Marks) < maxMarks {
				r.out.Marks = append(r.out.Marks, Detail{Line: l.points, At: l.points[0]})
			}
		case ring != nil:
			called := name
			if k++; k > 1 {
				called = fmt.Sprintf("%s %d", name, k)
			}
			r.out.Outlines = append(r.out.Outlines, Outline{Name: called, Ring: ring})
		}
	}
}

// closed is the outline that a line goes round; mark says that it is an open one.
func (r *reader) closed(n *node, name string, l line, filled bool) (ring geom.Ring, mark bool) {
	first, last := l.points[0], l.points[len(l.points)-1]
	far := math.Hypot(first.X-last.X, first.Y-last.Y)
	if !l.closed && far > joint {
		length := 0.0
		for k := 1; k < len(l.points); k++ {
			length += math.Hypot(l.points[k].X-l.points[k-1].X, l.points[k].Y-l.points[k-1].Y)
		}
		switch {
		case len(l.points) < 3:
			return nil, true
		case filled:
			// It is seen as closed.
			if len(r.out.Notes) < MaxFaults {
				r.out.Notes = append(
					r.out.Notes,
					fmt.Sprintf("%s %q is open: it was closed by a straight line of %.1f mm, as its fill is",
						n.kind, name, far*1e3),
				)
			}
		case far <= gap*length:
			r.fault(
				n,
				name,
				fmt.Sprintf(
					"the outline does not close: its ends lie %.3f mm apart. Join them in the drawing",
					far*1e3,
				),
			)
			return nil, false
		default:
			return nil, true
		}
	}
	ring = make(geom.Ring, 0, len(l.points))
	for _, p := range l.points {
		if k := len(ring); k == 0 || math.Hypot(ring[k-1].X-p.X, ring[k-1].Y-p.Y) > 1e-7 {
			ring = append(ring, p)
		}
	}
	if k := len(ring); k > 1 && math.Hypot(ring[0].X-ring[k-1].X, ring[0].Y-ring[k-1].Y) <= joint {
		ring = ring[:k-1]
	}
	if err := ring.Check(); err != nil {
		if len(ring) < 3 && filled {
			return nil, false // a dot
		}
		if at, crosses := ring.Crossing(); crosses {
			r.fault(
				n,
				name,
				fmt.Sprintf("the outline crosses itself at (%.2f, %.2f) mm: draw it round once", at.X*1e3, at.Y*1e3),
			)
			return nil, false
		}
		r.fault(n, name, err)
		return nil, false
	}
	if ring.SignedArea() < 0 {
		slices.Reverse(ring)
	}
	return ring, false
}

// holes makes marks of what lies in an outline of the same element, and gives every mark to the
// outline that it lies in.
func (r *reader) holes() {
	all := r.out.Outlines
	order := make([]int, len(all))
	for k := range order {
		order[k] = k
	}
	slices.SortStableFunc(order, func(a, b int) int { return cmp.Compare(all[b].Ring.Area(), all[a].Ring.Area()) })
	base := func(k int) string { return strings.TrimRight(all[k].Name, " 0123456789") }
	depth := make([]int, len(all))
	var marks []Detail
	for i, k := range order {
		for _, j := range order[:i] {
			if base(j) == base(k) && all[j].Ring.Contains(all[k].Ring[0].Middle(all[k].Ring[1])) {
				depth[k] = max(depth[k], depth[j]+1)
			}
		}
		if depth[k]%2 == 1 {
			marks = append(marks, Detail{Line: all[k].Ring, At: all[k].Ring[0], Closed: true})
		}
	}
	var kept []Outline
	for k, o := range all {
		if depth[k]%2 == 0 {
			kept = append(kept, o)
		}
	}
	r.out.Outlines = kept
	marks = append(marks, r.out.Marks...)
	r.out.Marks = nil
	for _, m := range marks {
		at := m.At
		if len(m.Line) > 1 {
			at = m.Line[0].Middle(m.Line[1])
		}
		best, in := math.Inf(1), -1
		for k, o := range kept {
			if a := o.Ring.Area(); a < best && o.Ring.Contains(at) {
				best, in = a, k
			}
		}
		if in >= 0 {
			kept[in].Marks = append(kept[in].Marks, m)
		} else {
			r.out.Marks = append(r.out.Marks, m)
		}
	}
}

// short is a name as long as one can be, long a text.
func short(name string) string { return cut(name, 60) }

func long(text string) string { return cut(text, 120) }

func cut(text string, most int) string {
	if r := []rune(text); len(r) > most {
		return string(r[:most])
	}
	return text
}

func numbers(s string) []float64 {
	var out []float64
	for _, f := range strings.FieldsFunc(s, func(r rune) bool { return strings.ContainsRune(", \n\t\r", r) }) {
		v, err := strconv.ParseFloat(f, 64)
		if err != nil || math.IsNaN(v) || math.IsInf(v, 0) {
			return nil
		}
		out = append(out, v)
	}
	return out
}
