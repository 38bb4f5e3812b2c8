package svg

import (
	"bytes"
	"encoding/xml"
	"errors"
	"fmt"
	"io"
	"math"
	"regexp"
	"strconv"
	"strings"

	"juxta/core/geom"
)

// node is an element of a drawing.
type node struct {
	kind     string
	a        map[string]string // attributes by local name
	text     string
	children []*node
}

// tree reads a drawing's elements; byID those that have an id, css the declarations of classes.
func tree(raw []byte) (root *node, byID map[string]*node, css map[string]map[string]string, fault string) {
	byID, css = map[string]*node{}, map[string]map[string]string{}
	dec := xml.NewDecoder(bytes.NewReader(raw))
	dec.Entity = map[string]string{}
	dec.CharsetReader = func(_ string, in io.Reader) (io.Reader, error) { return in, nil }
	var open []*node
	elements := 0
	for {
		token, err := dec.Token()
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil {
			return nil, nil, nil, "this is not an SVG drawing: " + err.Error()
		}
		switch t := token.(type) {
		case xml.StartElement:
			if elements++; elements > MaxElements {
				return nil, nil, nil, fmt.Sprintf("the drawing has more than %d elements", MaxElements)
			}
			n := &node{kind: t.Name.Local, a: map[string]string{}}
			for _, at := range t.Attr {
				n.a[at.Name.Local] = at.Value
			}
			if root == nil {
				if n.kind != "svg" {
					return nil, nil, nil, "this is not an SVG drawing"
				}
				root = n
			} else if len(open) > 0 {
				up := open[len(open)-1]
				up.children = append(up.children, n)
			}
			if id := n.a["id"]; id != "" && byID[id] == nil {
				byID[id] = n
			}
			if open = append(open, n); len(open) > 200 {
				return nil, nil, nil, "the drawing's groups lie in each other more than 200 deep"
			}
		case xml.EndElement:
			if n := open[len(open)-1]; n.kind == "style" {
				classes(n.text, css)
			}
			open = open[:len(open)-1]
		case xml.CharData:
			if len(open) > 0 {
				if n := open[len(open)-1]; len(n.text) < 1<<20 {
					n.text += string(t)
				}
			}
		}
	}
	if root == nil {
		return nil, nil, nil, "this is not an SVG drawing"
	}
	return root, byID, css, ""
}

var (
	rule   = regexp.MustCompile(`([^{}]+)\{([^{}]*)\}`)
	simple = regexp.MustCompile(`^\s*\.([\w-]+)\s*$`)
)

// classes reads the declarations of plain classes of a style sheet.
func classes(sheet string, into map[string]map[string]string) {
	for _, m := range rule.FindAllStringSubmatch(sheet, -1) {
		for _, selector := range strings.Split(m[1], ",") {
			if s := simple.FindStringSubmatch(selector); s != nil {
				if into[s[1]] == nil {
					into[s[1]] = map[string]string{}
				}
				declared(m[2], into[s[1]])
			}
		}
	}
}

func declared(text string, into map[string]string) {
	for _, d := range strings.Split(text, ";") {
		if k, v, ok := strings.Cut(d, ":"); ok {
			into[strings.ToLower(strings.TrimSpace(k))] = strings.TrimSpace(v)
		}
	}
}

// styled is a property of an element: its style goes before its classes, those before its
// attribute. Empty: it says nothing.
func (n *node) styled(name string, css map[string]map[string]string) string {
	own := map[string]string{}
	declared(n.a["style"], own)
	if v := own[name]; v != "" {
		return strings.TrimSuffix(v, " !important")
	}
	for _, c := range strings.Fields(n.a["class"]) {
		if v := css[c][name]; v != "" {
			return v
		}
	}
	return strings.TrimSpace(n.a[name])
}

// affine is p → (a·x + c·y + e, b·x + d·y + f), as the format writes it.
type affine struct{ a, b, c, d, e, f float64 }

var identity = affine{a: 1, d: 1}

func (t affine) at(p geom.Point) geom.Point {
	return geom.Point{X: t.a*p.X + t.c*p.Y + t.e, Y: t.b*p.X + t.d*p.Y + t.f}
}

// then is first u, then t.
func (t affine) then(u affine) affine {
	return affine{
		t.a*u.a + t.c*u.b, t.b*u.a + t.d*u.b, t.a*u.c + t.c*u.d, t.b*u.c + t.d*u.d,
		t.a*u.e + t.c*u.f + t.e, t.b*u.e + t.d*u.f + t.f,
	}
}

func (t affine) scale() float64 { return max(math.Hypot(t.a, t.b), math.Hypot(t.c, t.d)) }

var (
	function = regexp.MustCompile(`([a-zA-Z]+)\s*\(([^()]*)\)`)
	figure   = regexp.MustCompile(`[-+]?(?:\d+\.?\d*|\.\d+)(?:[eE][-+]?\d+)?`)
)

// transform reads a list of transforms, of an attribute or a style.
func transform(text string) (affine, error) {
	t := identity
	if text == "" || text == "none" {
		return t, nil
	}
	rest := function.ReplaceAllString(text, "")
	if strings.Trim(rest, " ,\t\r\n") != "" {
		return t, fmt.Errorf("its transform %.40q cannot be read", text)
	}
	for _, m := range function.FindAllStringSubmatch(text, -1) {
		var v []float64
		for _, f := range figure.FindAllString(m[2], -1) {
			n, err := strconv.ParseFloat(f, 64)
			if err != nil || math.IsInf(n, 0) {
				return t, fmt.Errorf("its transform %.40q cannot be read", text)
			}
			v = append(v, n)
		}
		turn := 1.0
		switch {
		case strings.Contains(m[2], "grad"):
			turn = 0.9
		case strings.Contains(m[2], "rad"):
			turn = 180 / math.Pi
		case strings.Contains(m[2], "turn"):
			turn = 360
		}
		u, ok := step(strings.ToLower(m[1]), v, turn*math.Pi/180)
		if !ok {
			return t, fmt.Errorf("its transform %.40q cannot be read", text)
		}
		t = t.then(u)
	}
	return t, nil
}

// step is one function of a list of transforms.
func step(name string, v []float64, turn float64) (affine, bool) {
	n := len(v)
	switch {
	case name == "translate" && (n == 1 || n == 2):
		return affine{1, 0, 0, 1, v[0], or(v, 1, 0)}, true
	case name == "translatex" && n == 1:
		return affine{1, 0, 0, 1, v[0], 0}, true
	case name == "translatey" && n == 1:
		return affine{1, 0, 0, 1, 0, v[0]}, true
	case name == "scale" && (n == 1 || n == 2):
		return affine{v[0], 0, 0, or(v, 1, v[0]), 0, 0}, true
	case name == "scalex" && n == 1:
		return affine{v[0], 0, 0, 1, 0, 0}, true
	case name == "scaley" && n == 1:
		return affine{1, 0, 0, v[0], 0, 0}, true
	case name == "rotate" && (n == 1 || n == 3):
		s, c := math.Sincos(v[0] * turn)
		x, y := or(v, 1, 0), or(v, 2, 0)
		return affine{c, s, -s, c, x - c*x + s*y, y - s*x - c*y}, true
	case name == "skewx" && n == 1:
		return affine{1, 0, math.Tan(v[0] * turn), 1, 0, 0}, true
	case name == "skewy" && n == 1:
		return affine{1, math.Tan(v[0] * turn), 0, 1, 0, 0}, true
	case name == "matrix" && n == 6:
		return affine{v[0], v[1], v[2], v[3], v[4], v[5]}, true
	}
	return identity, false
}

func or(v []float64, k int, usual float64) float64 {
	if k < len(v) {
		return v[k]
	}
	return usual
}

// units of lengths, m; a pixel is a 96th of an inch (CSS Values 3, §6.2).
var units = map[string]float64{
	"mm": 1e-3, "cm": 1e-2, "q": 0.25e-3, "in": 0.0254, "pt": 0.0254 / 72, "pc": 0.0254 / 6, "px": 0.0254 / 96, "m": 1,
}

// length is a length and its unit, which may be empty or %.
func length(text string) (float64, string, bool) {
	text = strings.TrimSpace(text)
	k := len(text)
	for k > 0 && (text[k-1] == '%' || text[k-1]|0x20 >= 'a' && text[k-1]|0x20 <= 'z') {
		k--
	}
	v, err := strconv.ParseFloat(strings.TrimSpace(text[:k]), 64)
	return v, strings.ToLower(text[k:]), err == nil && !math.IsNaN(v) && !math.IsInf(v, 0)
}

// window is how what a viewBox shows lies in a place of the drawing (preserveAspectRatio as it is
// without one: as large as fits, in the middle).
func (n *node) window(x, y, w, h float64) affine {
	box := numbers(n.a["viewBox"])
	if len(box) != 4 || !(box[2] > 0) || !(box[3] > 0) {
		return affine{1, 0, 0, 1, x, y}
	}
	sx, sy := w/box[2], h/box[3]
	if !strings.HasPrefix(n.a["preserveAspectRatio"], "none") {
		s := min(sx, sy)
		x, y = x+(w-s*box[2])/2, y+(h-s*box[3])/2
		sx, sy = s, s
	}
	return affine{sx, 0, 0, sy, x - sx*box[0], y - sy*box[1]}
}
