package dxf

import (
	"fmt"
	"maps"
	"math"
	"slices"
	"strings"

	"juxta/core/geom"
)

// Drawing is what was read, in m.
type Drawing struct {
	Outlines []Outline
	Marks    []Detail       // outside every outline
	Left     map[string]int // kinds of entity that draw no outline, and how many
}

// Outline is a closed outline with what lies in it: holes and lines and texts are marks.
type Outline struct {
	Name  string // of its layer, and a number where that has several
	Layer string
	Ring  geom.Ring
	Marks []Detail
}

// Detail is a text, a place, or a line: a hole is a closed one.
type Detail struct {
	Layer  string
	Text   string
	At     geom.Point
	Line   []geom.Point
	Closed bool
}

// Limits on what is read.
const (
	maxSize     = 64 << 20
	maxEntities = 200_000
	maxPoints   = 5000
	maxAll      = 400_000 // points of all lines
	maxOutlines = 500
	maxFaults   = 50
	maxMarks    = 2000
	// sag is how far an arc's chords may lie inside it, m.
	sag = 50e-6
	// joint is how far apart two ends may lie and still be one corner, m.
	joint = 20e-6
	// gap is how far apart the ends of what is meant to be closed may lie to be told so, over
	// its length.
	gap = 0.02
)

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
	file, fault := sections(pairs)
	if fault != "" {
		return nil, []string{fault}
	}
	if file.unit != 0 {
		unit = file.unit
	}
	if unit == 0 {
		return nil, []string{"the drawing does not say its unit ($INSUNITS): choose mm or inch"}
	}
	p := pen{file: file, paths: map[string][]path{}, left: map[string]int{}}
	p.draw(file.entities, affine{unit, 0, 0, unit, 0, 0}, "", 0)
	if p.points > maxAll {
		return nil, []string{fmt.Sprintf("the drawing has more than %d points: leave out what is no outline", maxAll)}
	}
	d, open := p.arrange()
	if len(p.faults) > 0 {
		if len(p.faults) >= maxFaults {
			p.faults = append(p.faults[:maxFaults], "and more: put these right first")
		}
		return nil, p.faults
	}
	if len(d.Outlines) == 0 {
		return nil, []string{none(d, open)}
	}
	return d, nil
}

// none says why a drawing has no outline, and what to do about it.
func none(d *Drawing, open []path) string {
	if len(open) > 0 {
		o := open[0]
		a, b := o.points[0], o.points[len(o.points)-1]
		return fmt.Sprintf(
			"%s: the outline does not close: it goes from (%.3f, %.3f) to (%.3f, %.3f) mm. Join its ends "+
				"in the drawing",
			o.from.name(),
			a.X*1e3,
			a.Y*1e3,
			b.X*1e3,
			b.Y*1e3,
		)
	}
	if len(d.Left) > 0 {
		var kinds []string
		for _, k := range slices.Sorted(maps.Keys(d.Left)) {
			kinds = append(kinds, fmt.Sprintf("%d %s", d.Left[k], k))
		}
		return "the drawing has no outline, only " + strings.Join(
			kinds,
			", ",
		) + ": explode these, or draw round them with a polyline"
	}
	return "the drawing has no outline"
}

func near(a, b geom.Point) bool { return math.Hypot(a.X-b.X, a.Y-b.Y) <= joint }
