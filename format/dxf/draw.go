package dxf

import (
	"fmt"
	"math"
	"strconv"
	"strings"

	"juxta/core/geom"
)

// affine is how a block lies in the drawing: p → (a·x + c·y + e, b·x + d·y + f), in m.
type affine struct{ a, b, c, d, e, f float64 }

func (t affine) at(x, y float64) geom.Point {
	return geom.Point{X: t.a*x + t.c*y + t.e, Y: t.b*x + t.d*y + t.f}
}

// then is first u, then t.
func (t affine) then(u affine) affine {
	return affine{
		t.a*u.a + t.c*u.b, t.b*u.a + t.d*u.b, t.a*u.c + t.c*u.d, t.b*u.c + t.d*u.d,
		t.a*u.e + t.c*u.f + t.e, t.b*u.e + t.d*u.f + t.f,
	}
}

// scale is by how much lengths grow at the most.
func (t affine) scale() float64 { return max(math.Hypot(t.a, t.b), math.Hypot(t.c, t.d)) }

// path is a line of points in m; a closed one ends where it began.
type path struct {
	points []geom.Point
	from   entity
}

// pen draws the entities of a file.
type pen struct {
	file   contents
	paths  map[string][]path // by layer
	order  []string
	marks  []Detail
	left   map[string]int
	faults []string
	points int
}

func (p *pen) fault(e entity, format string, args ...any) {
	if len(p.faults) < maxFaults {
		p.faults = append(p.faults, e.name()+": "+fmt.Sprintf(format, args...))
	}
}

// mostNested is how deep blocks may lie in each other.
const mostNested = 12

// draw draws entities; on is the layer of the insert that holds them, which those on layer 0 take.
func (p *pen) draw(entities []entity, t affine, on string, depth int) {
	for _, e := range entities {
		if p.points > maxAll || len(p.faults) >= maxFaults {
			return
		}
		if e.layer == "0" && on != "" {
			e.layer = on
		}
		if !e.shown() || p.file.hidden[e.layer] {
			continue
		}
		if e.kind == "INSERT" {
			p.insert(e, t, depth)
			continue
		}
		p.one(e, t)
	}
}

// insert draws a block where it is put, as often as it is put there.
func (p *pen) insert(e entity, t affine, depth int) {
	for _, a := range e.parts {
		p.write(a, t)
	}
	b := p.file.blocks[e.text(2)]
	if b == nil {
		p.left["INSERT of a block that there is not"]++
		return
	}
	if depth >= mostNested {
		p.fault(e, "blocks lie in each other more than %d deep: explode them", mostNested)
		return
	}
	sx, sy := e.or(41, 1), e.or(42, 1)
	sin, cos := math.Sincos(e.or(50, 0) * math.Pi / 180)
	columns, rows := int(e.or(70, 1)), int(e.or(71, 1))
	if columns < 1 || rows < 1 || columns*rows > maxEntities {
		columns, rows = 1, 1
	}
	for row := range rows {
		for column := range columns {
			dx, dy := float64(column)*e.or(44, 0), float64(row)*e.or(45, 0)
			put := affine{
				cos * sx, sin * sx, -sin * sy, cos * sy,
				e.or(10, 0) + cos*dx - sin*dy, e.or(20, 0) + sin*dx + cos*dy,
			}
			put = put.then(affine{1, 0, 0, 1, -b.x, -b.y})
			p.draw(b.entities, t.then(e.seen()).then(put), e.layer, depth+1)
		}
	}
}

// seen is how an entity's own plane lies in the drawing: one that is drawn on the back has its
// x turned over (the published reference's arbitrary axes, for ±z alone).
func (e entity) seen() affine {
	if e.or(230, 1) < 0 {
		return affine{-1, 0, 0, 1, 0, 0}
	}
	return affine{1, 0, 0, 1, 0, 0}
}

// tilted says whether an entity lies in a plane of its own that is seen at a slant.
func (e entity) tilted() bool { return math.Abs(e.or(210, 0)) > 1e-6 || math.Abs(e.or(220, 0)) > 1e-6 }

// one draws a single entity, or keeps it as a mark, or counts it among what is left out.
func (p *pen) one(e entity, t affine) {
	switch e.kind {
	case "TEXT", "MTEXT", "ATTDEF", "ATTRIB":
		p.write(e, t)
		return
	case "POINT":
		p.marks = append(p.marks, Detail{Layer: e.layer, At: t.at(e.or(10, 0), e.or(20, 0))})
		return
	case "LINE", "LWPOLYLINE", "POLYLINE", "ARC", "CIRCLE", "ELLIPSE", "SPLINE":
	default:
		p.left[e.kind]++
		return
	}
	if e.tilted() && e.kind != "LINE" && e.kind != "SPLINE" && e.kind != "ELLIPSE" {
		p.left[e.kind+" in a plane of its own"]++
		return
	}
	points, fault := e.points(t)
	if fault != "" {
		p.fault(e, "%s", fault)
		return
	}
	if len(points) < 2 {
		return
	}
	if p.points += len(points); p.points > maxAll {
		return
	}
	if _, seen := p.paths[e.layer]; !seen {
		p.order = append(p.order, e.layer)
	}
	p.paths[e.layer] = append(p.paths[e.layer], path{points, e})
}

// codes of formatted text that are no words of it.
var formats = strings.NewReplacer(`\P`, " ", `\~`, " ", `{`, "", `}`, "", "%%d", "°", "%%p", "±", "%%c", "⌀")

// write keeps a text as a mark.
func (p *pen) write(e entity, t affine) {
	text := e.text(1)
	if e.kind == "MTEXT" {
		for text != "" {
			// \f…; \H…; and such stand before the words.
			k := strings.IndexByte(text, '\\')
			end := strings.IndexByte(text, ';')
			if k != 0 || end < 0 || len(text) < 2 || !strings.ContainsRune("fFHWTACQp", rune(text[1])) {
				break
			}
			text = text[end+1:]
		}
	}
	if text = strings.TrimSpace(formats.Replace(text)); text == "" {
		return
	}
	if r := []rune(text); len(r) > 120 {
		text = string(r[:120])
	}
	u := t.then(e.seen())
	p.marks = append(p.marks, Detail{Layer: e.layer, At: u.at(e.or(10, 0), e.or(20, 0)), Text: text})
}

// points flattens an entity into points in m.
func (e entity) points(t affine) ([]geom.Point, string) {
	need := func(codes ...int) ([]float64, string) {
		out := make([]float64, len(codes))
		for i, c := range codes {
			v, ok := e.number(c)
			if !ok {
				return nil, fmt.Sprintf("group %d is missing or no number", c)
			}
			out[i] = v
		}
		return out, ""
	}
	fine := sag / max(t.scale(), 1e-12) // in the entity's own units
	switch e.kind {
	case "LINE":
		v, fault := need(10, 20, 11, 21)
		if fault != "" {
			return nil, fault
		}
		a, b := t.at(v[0], v[1]), t.at(v[2], v[3])
		if near(a, b) {
			return nil, "" // a dot, or a line that stands upright
		}
		return []geom.Point{a, b}, ""
	case "CIRCLE", "ARC":
		v, fault := need(10, 20, 40)
		if fault != "" {
			return nil, fault
		}
		if v[2] <= 0 {
			return nil, "its radius is not above zero"
		}
		from, sweep := 0.0, 2*math.Pi
		if e.kind == "ARC" {
			angles, fault := need(50, 51)
			if fault != "" {
				return nil, fault
			}
			from = angles[0] * math.Pi / 180
			if sweep = math.Mod((angles[1]-angles[0])*math.Pi/180, 2*math.Pi); sweep <= 0 {
				sweep += 2 * math.Pi
			}
		}
		return laid(arc(v[0], v[1], v[2], from, sweep, fine), t.then(e.seen()))
	case "ELLIPSE":
		v, fault := need(10, 20, 11, 21, 40)
		if fault != "" {
			return nil, fault
		}
		return laid(e.ellipse(v, fine), t)
	case "SPLINE":
		points, fault := e.spline(fine)
		if fault != "" {
			return nil, fault
		}
		return laid(points, t)
	case "POLYLINE":
		if flags := int(e.or(70, 0)); flags&(16|64) != 0 {
			return nil, "" // a mesh
		}
		return e.old(fine, t.then(e.seen()))
	}
	return e.polyline(fine, t.then(e.seen()))
}

func laid(points []geom.Point, t affine) ([]geom.Point, string) {
	if points == nil {
		return nil, "it is too large to be drawn finely enough"
	}
	for k, p := range points {
		points[k] = t.at(p.X, p.Y)
	}
	return points, ""
}

type vertex struct {
	geom.Point
	bulge float64
}

// polyline reads vertices (10, 20) with bulges (42): the tangent of a quarter
// of the arc's angle, positive when it turns left.
func (e entity) polyline(fine float64, t affine) ([]geom.Point, string) {
	var vertices []vertex
	closed := false
	for _, p := range e.pairs {
		if p.code != 10 && p.code != 20 && p.code != 42 && p.code != 70 {
			continue
		}
		v, err := strconv.ParseFloat(p.value, 64)
		if err != nil || math.IsNaN(v) || math.Abs(v) > 1e9 {
			return nil, fmt.Sprintf("line %d: %q is no number", p.line, p.value)
		}
		switch {
		case p.code == 70:
			closed = int(v)&1 == 1
		case p.code == 10:
			vertices = append(vertices, vertex{Point: geom.Point{X: v}})
		case len(vertices) == 0:
			return nil, fmt.Sprintf("line %d: a value before the first vertex", p.line)
		case p.code == 20:
			vertices[len(vertices)-1].Y = v
		case p.code == 42:
			vertices[len(vertices)-1].bulge = v
		}
	}
	return joined(vertices, closed, fine, t)
}

// old reads a polyline of vertices that stand as entities of their own. Those of a curve that was
// fitted are drawn, its frame is not.
func (e entity) old(fine float64, t affine) ([]geom.Point, string) {
	var vertices []vertex
	for _, v := range e.parts {
		if int(v.or(70, 0))&16 != 0 {
			continue
		}
		x, okX := v.number(10)
		y, okY := v.number(20)
		if !okX || !okY {
			return nil, fmt.Sprintf("line %d: a vertex without a place", v.line)
		}
		vertices = append(vertices, vertex{geom.Point{X: x, Y: y}, v.or(42, 0)})
	}
	return joined(vertices, int(e.or(70, 0))&1 == 1, fine, t)
}

func joined(vertices []vertex, closed bool, fine float64, t affine) ([]geom.Point, string) {
	if len(vertices) < 2 {
		return nil, "" // a dot
	}
	if len(vertices) > maxPoints {
		return nil, fmt.Sprintf("it has more than %d vertices", maxPoints)
	}
	if closed {
		vertices = append(vertices, vertex{Point: vertices[0].Point})
	}
	points := []geom.Point{vertices[0].Point}
	for i := 1; i < len(vertices); i++ {
		a, b := vertices[i-1], vertices[i].Point
		if a.Point == b {
			continue
		}
		if a.bulge != 0 {
			bow := bulged(a.Point, b, a.bulge, fine)
			points = append(points, bow...)
		}
		points = append(points, b)
		if len(points) > 4*maxPoints {
			return nil, "its arcs have too many points"
		}
	}
	return laid(points, t)
}
