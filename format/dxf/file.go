package dxf

import (
	"fmt"
	"math"
	"slices"
	"strconv"
)

// entity is one thing that a drawing holds, with what follows it (the vertices of an old
// polyline, the attributes of an insert).
type entity struct {
	kind, layer string
	line        int
	pairs       []pair
	parts       []entity
}

func (e entity) name() string {
	return fmt.Sprintf("%s on layer %q (line %d)", e.kind, e.layer, e.line)
}

// block is a drawing within the drawing.
type block struct {
	x, y     float64 // its base
	entities []entity
}

// contents is what a file holds.
type contents struct {
	unit     float64 // 0: it does not say
	hidden   map[string]bool
	blocks   map[string]*block
	entities []entity
}

// unitsOf are the values of $INSUNITS that say a length, in m.
var unitsOf = map[int]float64{
	1: 0.0254, 2: 0.3048, 4: 1e-3, 5: 1e-2, 6: 1, 8: 0.0254e-6, 9: 0.0254e-3, 10: 0.9144, 12: 1e-9, 13: 1e-6, 14: 0.1,
	15: 10, 16: 100,
}

// sections reads the header's unit, the layers that are not shown, the blocks and the entities.
func sections(pairs []pair) (c contents, fault string) {
	c.hidden, c.blocks = map[string]bool{}, map[string]*block{}
	section := ""
	var into *[]entity
	var current *block
	total := 0
	var table layerTable
	for i := 0; i < len(pairs); i++ {
		p := pairs[i]
		if p.code == 0 && p.value == "SECTION" {
			section = ""
			if i+1 < len(pairs) && pairs[i+1].code == 2 {
				section = pairs[i+1].value
				i++
			}
			into = nil
			if section == "ENTITIES" {
				into = &c.entities
			}
			continue
		}
		if p.code == 0 && p.value == "ENDSEC" {
			section, into = "", nil
			continue
		}
		switch section {
		case "HEADER":
			if p.code == 9 && p.value == "$INSUNITS" && i+1 < len(pairs) {
				n, err := strconv.Atoi(pairs[i+1].value)
				if length, known := unitsOf[n]; err == nil && known {
					c.unit = length
				} else if n != 0 {
					return c, fmt.Sprintf("line %d: the unit %s of $INSUNITS is not read: mm, cm, m, inch, foot and "+
						"yard are",
						pairs[i+1].line, pairs[i+1].value)
				}
			}
		case "TABLES":
			table.read(p, c.hidden)
		case "BLOCKS":
			switch {
			case p.code == 0 && p.value == "BLOCK":
				current, into = &block{}, nil
			case p.code == 0 && p.value == "ENDBLK":
				current, into = nil, nil
			case p.code == 0 && current != nil:
				into = &current.entities
			case into == nil && current != nil:
				switch p.code {
				case 2:
					c.blocks[p.value] = current
				case 10:
					current.x, _ = strconv.ParseFloat(p.value, 64)
				case 20:
					current.y, _ = strconv.ParseFloat(p.value, 64)
				}
				continue
			}
		}
		if into == nil {
			continue
		}
		if p.code != 0 {
			belongs(*into, p)
			continue
		}
		if total++; total > maxEntities {
			return c, fmt.Sprintf("line %d: more than %d entities: leave out what is no outline", p.line, maxEntities)
		}
		begin(into, p)
	}
	return c, ""
}

// layerTable is the table of layers as far as it was read.
type layerTable struct {
	inLayer bool
	layer   string
}

// read takes a pair of the table; hidden are the layers that are not seen.
func (t *layerTable) read(p pair, hidden map[string]bool) {
	if p.code == 0 {
		t.inLayer, t.layer = p.value == "LAYER", ""
	}
	if !t.inLayer {
		return
	}
	n, _ := strconv.Atoi(p.value)
	switch p.code {
	case 2:
		t.layer = p.value
	case 70:
		if n&1 == 1 {
			hidden[t.layer] = true // frozen
		}
	case 62:
		if n < 0 {
			hidden[t.layer] = true // switched off
		}
	}
}

// belongs adds a pair to the entity that it is of.
func belongs(all []entity, p pair) {
	if n := len(all); n > 0 {
		e := &all[n-1]
		if k := len(e.parts); k > 0 {
			e = &e.parts[k-1]
		}
		if p.code == 8 {
			e.layer = p.value
		}
		e.pairs = append(e.pairs, p)
	}
}

// begin begins an entity.
func begin(into *[]entity, p pair) {
	next := entity{kind: p.value, layer: "0", line: p.line}
	// Vertices belong to the polyline before them, attributes to the insert.
	if n := len(*into); n > 0 {
		if last := &(*into)[n-1]; p.value == "VERTEX" && last.kind == "POLYLINE" ||
			p.value == "ATTRIB" && last.kind == "INSERT" {
			last.parts = append(last.parts, next)
			return
		}
	}
	if p.value != "SEQEND" {
		*into = append(*into, next)
	}
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

// or is a value, or another one where it is missing.
func (e entity) or(code int, usual float64) float64 {
	if v, ok := e.number(code); ok {
		return v
	}
	return usual
}

func (e entity) text(code int) string {
	for _, p := range slices.Backward(e.pairs) {
		if p.code == code {
			return p.value
		}
	}
	return ""
}

// all are the values of a group code in turn.
func (e entity) all(code int) ([]float64, bool) {
	var out []float64
	for _, p := range e.pairs {
		if p.code != code {
			continue
		}
		v, err := strconv.ParseFloat(p.value, 64)
		if err != nil || math.IsNaN(v) || math.Abs(v) > 1e9 {
			return nil, false
		}
		out = append(out, v)
	}
	return out, true
}

// shown says whether the entity is seen in the model, not on paper and not hidden.
func (e entity) shown() bool { return e.or(67, 0) == 0 && e.or(60, 0) == 0 }
