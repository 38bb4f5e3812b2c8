// Package dxf reads and writes the part of DXF that outlines need: LINE,
// LWPOLYLINE with bulges, ARC and CIRCLE, in text form, the units header
// honoured. Group codes as in the published DXF reference (from memory; the
// writer is checked by independent readers).
package dxf

import (
	"bufio"
	"bytes"
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"

	"juxta/core/geom"
)

// Drawing is what was read: for every layer its one closed outline, in m.
type Drawing struct{ Outlines map[string]geom.Ring }

// Limits on what is read.
const (
	maxSize     = 8 << 20
	maxEntities = 20000
	maxPoints   = 5000
	maxAll      = 60000 // points of all outlines
	maxFaults   = 50
	// sag is how far an arc's chords may lie inside it, m.
	sag = 50e-6
	// joint is how far apart two ends may lie and still be one corner, m.
	joint = 20e-6
)

// unitsOf are the values of $INSUNITS that say a length, in m.
var unitsOf = map[int]float64{1: 0.0254, 2: 0.3048, 4: 1e-3, 5: 1e-2, 6: 1, 13: 1e-6, 14: 0.1}

type pair struct {
	code  int
	value string
	line  int
}

type entity struct {
	kind, layer string
	line        int
	pairs       []pair
}

func (e entity) name() string {
	return fmt.Sprintf("%s on layer %q (line %d)", e.kind, e.layer, e.line)
}

// Read reads a drawing. unit is the length of one drawing unit in m for files
// that do not say theirs; 0 means that such a file is a fault. The faults name
// the entity and its line; there is a drawing only if there are none.
func Read(raw []byte, unit float64) (*Drawing, []string) {
	if len(raw) > maxSize {
		return nil, []string{
			fmt.Sprintf(
				"the drawing has %.1f MB, at most %d MB are read: leave out what is no outline",
				float64(len(raw))/(1<<20),
				maxSize>>20,
			),
		}
	}
	pairs, fault := tokens(raw)
	if fault != "" {
		return nil, []string{fault}
	}
	said, entities, faults := sections(pairs)
	if said != 0 {
		unit = said
	}
	if unit == 0 && len(faults) == 0 {
		faults = append(faults, "the drawing does not say its unit ($INSUNITS): choose mm or inch")
	}
	if len(faults) > 0 {
		return nil, faults
	}
	layers := map[string][]path{}
	first := map[string]entity{}
	var order []string
	points := 0
	for _, e := range entities {
		if len(faults) >= maxFaults {
			return nil, append(faults[:maxFaults], "and more: put these right first")
		}
		p, fault := e.path(unit)
		if points += len(p); points > maxAll {
			return nil, []string{fmt.Sprintf("the drawing has more than %d points", maxAll)}
		}
		if fault != "" {
			faults = append(faults, e.name()+": "+fault)
			continue
		}
		if p == nil {
			continue
		}
		if _, seen := first[e.layer]; !seen {
			first[e.layer] = e
			order = append(order, e.layer)
		}
		layers[e.layer] = append(layers[e.layer], path{points: p, from: e})
	}
	d := &Drawing{Outlines: map[string]geom.Ring{}}
	for _, layer := range order {
		ring, fault := chain(layers[layer])
		if fault != "" {
			faults = append(faults, fault)
			continue
		}
		if err := ring.Check(); err != nil {
			faults = append(faults, first[layer].name()+": "+err.Error())
			continue
		}
		d.Outlines[layer] = ring
	}
	if len(faults) == 0 && len(d.Outlines) == 0 {
		faults = append(faults, "the drawing has no outline: LINE, LWPOLYLINE, ARC and CIRCLE are read")
	}
	if len(faults) > 0 {
		return nil, faults
	}
	return d, nil
}

func tokens(raw []byte) ([]pair, string) {
	if bytes.IndexByte(raw, 0) >= 0 {
		return nil, "this is not a text DXF file: save it as text (ASCII) DXF"
	}
	scan := bufio.NewScanner(bytes.NewReader(raw))
	scan.Buffer(make([]byte, 0, 64<<10), 1<<20)
	var pairs []pair
	line := 0
	for scan.Scan() {
		line++
		text := strings.TrimSpace(strings.TrimPrefix(scan.Text(), "\xef\xbb\xbf"))
		code, err := strconv.Atoi(text)
		if err != nil {
			if text == "" && !scan.Scan() {
				break // an empty last line
			}
			return nil, fmt.Sprintf("line %d: %.20q is not a group code: this is not a DXF file", line, text)
		}
		if !scan.Scan() {
			return nil, fmt.Sprintf("line %d: the file ends in the middle of an entry", line)
		}
		line++
		pairs = append(pairs, pair{code, strings.TrimSpace(scan.Text()), line})
	}
	if err := scan.Err(); err != nil {
		return nil, fmt.Sprintf("line %d: %v", line, err)
	}
	if len(pairs) == 0 || !slices.ContainsFunc(pairs, func(p pair) bool { return p.code == 0 && p.value == "SECTION" }) {
		return nil, "line 1: the file has no section: this is not a DXF file"
	}
	return pairs, ""
}

// sections finds the unit in the header and the entities.
func sections(pairs []pair) (unit float64, entities []entity, faults []string) {
	section := ""
	for i := 0; i < len(pairs); i++ {
		p := pairs[i]
		switch {
		case p.code == 0 && p.value == "SECTION":
			section = ""
			if i+1 < len(pairs) && pairs[i+1].code == 2 {
				section = pairs[i+1].value
			}
		case p.code == 0 && p.value == "ENDSEC":
			section = ""
		case section == "HEADER" && p.code == 9 && p.value == "$INSUNITS" && i+1 < len(pairs):
			n, err := strconv.Atoi(pairs[i+1].value)
			if length, known := unitsOf[n]; err == nil && known {
				unit = length
			} else if n != 0 {
				faults = append(faults, fmt.Sprintf("line %d: the unit %s of $INSUNITS is not read: mm, cm, m, inch and "+
					"foot are", pairs[i+1].line, pairs[i+1].value))
			}
		case section == "ENTITIES" && p.code == 0:
			if len(entities) == maxEntities {
				return unit, nil, append(faults, fmt.Sprintf("line %d: more than %d entities", p.line, maxEntities))
			}
			entities = append(entities, entity{kind: p.value, layer: "0", line: p.line})
		case section == "ENTITIES" && len(entities) > 0:
			e := &entities[len(entities)-1]
			if p.code == 8 {
				e.layer = p.value
			}
			e.pairs = append(e.pairs, p)
		}
	}
	return unit, entities, faults
}

// number is the last value of a group code, or missing.
func (e entity) number(code int) (float64, bool) {
	for _, p := range slices.Backward(e.pairs) {
		if p.code == code {
			v, err := strconv.ParseFloat(p.value, 64)
			return v, err == nil && !math.IsNaN(v) && math.Abs(v) < 1e9
		}
	}
	return 0, false
}

// ignored are entities that draw no outline.
var ignored = []string{"TEXT", "MTEXT", "POINT", "DIMENSION", "ATTDEF", "VIEWPORT", "LEADER", "MLEADER"}

// path flattens an entity into points in m; a closed one ends where it began.
// nil without a fault means that it draws no outline.
func (e entity) path(unit float64) ([]geom.Point, string) {
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
	// A drawing seen from the back carries an extrusion of -z: its x would be
	// mirrored.
	if z, ok := e.number(230); ok && z < 0 && !slices.Contains(ignored, e.kind) {
		return nil, "it is drawn on the back (extrusion -z): flatten it first"
	}
	switch e.kind {
	case "LINE":
		v, fault := need(10, 20, 11, 21)
		if fault != "" {
			return nil, fault
		}
		a, b := geom.Point{X: v[0] * unit, Y: v[1] * unit}, geom.Point{X: v[2] * unit, Y: v[3] * unit}
		if near(a, b) {
			return nil, "its ends coincide"
		}
		return []geom.Point{a, b}, ""
	case "CIRCLE", "ARC":
		v, fault := need(10, 20, 40)
		if fault != "" {
			return nil, fault
		}
		centre, r := geom.Point{X: v[0] * unit, Y: v[1] * unit}, v[2]*unit
		if r <= 0 {
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
		return arc(centre, r, from, sweep)
	case "LWPOLYLINE":
		return e.polyline(unit)
	}
	if slices.Contains(ignored, e.kind) {
		return nil, ""
	}
	return nil, "this entity is not read: LINE, LWPOLYLINE, ARC and CIRCLE are. Explode or convert it"
}

// arc is a circular arc as chords that lie at most sag inside it.
func arc(centre geom.Point, r, from, sweep float64) ([]geom.Point, string) {
	step := math.Pi / 4
	if sag < r {
		step = math.Min(step, 2*math.Acos(1-sag/r))
	}
	n := int(math.Ceil(math.Abs(sweep)/step)) + 1
	if n > maxPoints {
		return nil, "its radius is too large"
	}
	points := make([]geom.Point, n+1)
	for i := range points {
		s, c := math.Sincos(from + sweep*float64(i)/float64(n))
		points[i] = geom.Point{X: centre.X + r*c, Y: centre.Y + r*s}
	}
	return points, ""
}

// polyline reads vertices (10, 20) with bulges (42): the tangent of a quarter
// of the arc's angle, positive when it turns left.
func (e entity) polyline(unit float64) ([]geom.Point, string) {
	type vertex struct {
		geom.Point
		bulge float64
	}
	var vertices []vertex
	closed := false
	for _, p := range e.pairs {
		if !slices.Contains([]int{10, 20, 42, 70}, p.code) {
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
			vertices = append(vertices, vertex{Point: geom.Point{X: v * unit}})
		case len(vertices) == 0:
			return nil, fmt.Sprintf("line %d: a value before the first vertex", p.line)
		case p.code == 20:
			vertices[len(vertices)-1].Y = v * unit
		case p.code == 42:
			vertices[len(vertices)-1].bulge = v
		}
	}
	if len(vertices) < 2 {
		return nil, "it has fewer than two vertices"
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
		if near(a.Point, b) {
			continue
		}
		if a.bulge != 0 {
			bow, fault := bulged(a.Point, b, a.bulge)
			if fault != "" {
				return nil, fault
			}
			points = append(points, bow...)
		}
		points = append(points, b)
		if len(points) > 4*maxPoints {
			return nil, "its arcs have too many points"
		}
	}
	return points, ""
}

// bulged are the inner points of the arc from a to b.
func bulged(a, b geom.Point, bulge float64) ([]geom.Point, string) {
	if math.Abs(bulge) > 1e3 || math.Abs(bulge) < 1e-9 {
		return nil, ""
	}
	sweep := 4 * math.Atan(bulge)
	dx, dy := b.X-a.X, b.Y-a.Y
	// The centre lies left of the chord for a left turn of less than half.
	k := (1 - bulge*bulge) / (4 * bulge)
	centre := geom.Point{X: (a.X+b.X)/2 - dy*k, Y: (a.Y+b.Y)/2 + dx*k}
	r := math.Hypot(a.X-centre.X, a.Y-centre.Y)
	points, fault := arc(centre, r, math.Atan2(a.Y-centre.Y, a.X-centre.X), sweep)
	if fault != "" {
		return nil, fault
	}
	return points[1 : len(points)-1], ""
}

func near(a, b geom.Point) bool { return math.Hypot(a.X-b.X, a.Y-b.Y) <= joint }

type path struct {
	points []geom.Point
	from   entity
}

// chain joins the open paths of one layer end to end into one closed outline.
func chain(paths []path) (geom.Ring, string) {
	var closed []path
	var open []path
	for _, p := range paths {
		if near(p.points[0], p.points[len(p.points)-1]) {
			closed = append(closed, p)
		} else {
			open = append(open, p)
		}
	}
	for len(open) > 0 {
		run := open[0]
		open = open[1:]
		for !near(run.points[0], run.points[len(run.points)-1]) {
			end := run.points[len(run.points)-1]
			i := slices.IndexFunc(
				open,
				func(p path) bool { return near(p.points[0], end) || near(p.points[len(p.points)-1], end) },
			)
			if i < 0 {
				return nil, fmt.Sprintf(
					"%s: the outline does not close: it ends at (%.3f, %.3f) mm",
					run.from.name(),
					end.X*1e3,
					end.Y*1e3,
				)
			}
			next := open[i].points
			if !near(next[0], end) {
				next = slices.Clone(next)
				slices.Reverse(next)
			}
			run.points = append(run.points[:len(run.points):len(run.points)], next[1:]...)
			open = slices.Delete(open, i, i+1)
		}
		closed = append(closed, run)
	}
	if len(closed) > 1 {
		return nil, fmt.Sprintf(
			"%s: this layer already has an outline: give each outline a layer of its own",
			closed[1].from.name(),
		)
	}
	points := closed[0].points
	ring := geom.Ring(points[:len(points)-1])
	if len(ring) > maxPoints {
		return nil, fmt.Sprintf("%s: the outline has more than %d points", closed[0].from.name(), maxPoints)
	}
	if ring.SignedArea() < 0 {
		ring = slices.Clone(ring)
		slices.Reverse(ring)
	}
	return ring, ""
}
