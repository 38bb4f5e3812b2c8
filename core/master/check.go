package master

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"juxta/core/pattern"
	"juxta/core/unit"
)

// Fault is what cannot be right about a document, at its place: the key of an
// item or stage or the name of an outline, and the field.
type Fault struct {
	Key     string `json:"key"`
	Field   string `json:"field"`
	Message string `json:"message"`
}

// MaxItems is the most that one master holds, and MaxPoints how many points
// its outlines may have together once their arcs are drawn, each counted in
// every place where it lies.
const (
	MaxItems  = 500
	MaxPoints = 50_000
)

const tooMany = "the outlines have more than %d points together, in all places where they lie, once their arcs " +
	"are drawn: leave out points that lie closer than the knife cuts"

// Check finds what cannot be right about a document. Materials are those that
// are known, by id.
func (d Document) Check(materials map[int64]Material) []Fault {
	faults := []Fault{}
	add := func(key, field, format string, args ...any) {
		if len(faults) < 50 {
			faults = append(faults, Fault{key, field, fmt.Sprintf(format, args...)})
		}
	}
	switch {
	case d.Format != Format && d.Format != FormatOne:
		add("", "format", "the format is %q, this program reads %q and %q", d.Format, Format, FormatOne)
	case d.Format == FormatOne && len(d.Route) > 0:
		add("", "format", "%q has no route: a document with one is %q", FormatOne, Format)
	}
	shapes, sizes, points := d.checkOutlines(add)
	if d.Trim != "" && !shapes[d.Trim] {
		add("", "trim", "the trim line %q is none of the outlines", d.Trim)
	}
	keys, labels, n := map[string]bool{}, d.Labels(), 0
	type place struct {
		outline    string
		x, y, turn float64
	}
	places, placed := map[place]bool{}, 0
	for _, s := range d.Stages {
		if keys[s.Key] || s.Key == "" {
			add(s.Key, "key", "two stages or items have the key %q", s.Key)
		}
		keys[s.Key] = true
		if s.Kind != "injection" && (s.Cavity > 0 || s.Resin > 0) {
			add(s.Key, "cavity", "only an injection has a cavity and an amount of resin")
		}
		if !slices.Contains(StageKinds, s.Kind) {
			add(s.Key, "kind", "a stage is one of %s", strings.Join(StageKinds, ", "))
		}
		for _, i := range s.Items {
			n++
			if keys[i.Key] || i.Key == "" {
				add(i.Key, "key", "two stages or items have the key %q", i.Key)
			}
			keys[i.Key] = true
			if at := (place{i.Outline, i.X, i.Y, i.TurnDeg}); !places[at] {
				places[at] = true
				placed += sizes[i.Outline]
			}
			i.check(labels[i.Key], s.Rolled != nil, shapes, materials, add)
		}
	}
	if placed > MaxPoints && points <= MaxPoints {
		add("", "outlines", tooMany, MaxPoints)
	}
	if n > MaxItems {
		add("", "stages", "%d items are more than the %d that one master holds", n, MaxItems)
	}
	d.checkRolled(materials, add)
	d.checkFamily(add)
	d.checkRoute(add)
	d.checkLoads(add)
	return faults
}

// checkOutlines gives the outlines by name, how many points each has as it is drawn, and all of them together.
func (d Document) checkOutlines(
	add func(key, field, format string, args ...any),
) (shapes map[string]bool, sizes map[string]int, points int) {
	shapes, sizes = map[string]bool{}, map[string]int{}
	for _, o := range d.Outlines {
		switch {
		case strings.TrimSpace(o.Name) == "":
			add(o.Name, "name", "an outline needs a name")
		case shapes[o.Name]:
			add(o.Name, "name", "two outlines are called %q", o.Name)
		}
		shapes[o.Name] = true
		if len(o.Expr) > 0 {
			continue // its variants draw it
		}
		if points > MaxPoints {
			continue // each is looked at for some time: enough was said
		}
		ring, err := o.Ring()
		sizes[o.Name] = len(ring)
		if points += len(ring); points > MaxPoints {
			add("", "outlines", tooMany, MaxPoints)
			continue
		}
		if err == nil && o.Kind != pattern.Points {
			err = ring.Check() // one of points was looked at when it was drawn
		}
		if err != nil {
			add(o.Name, "outline", "outline %q: %s", o.Name, err)
		}
	}
	return shapes, sizes, points
}

// checkLoads finds load cases that are no figures.
func (d Document) checkLoads(add func(key, field, format string, args ...any)) {
	for k, l := range d.Loads {
		for _, v := range append(append([]float64{l.DeltaT}, l.N[:]...), l.M[:]...) {
			if math.IsNaN(v) || math.IsInf(v, 0) {
				add("", fmt.Sprintf("loads[%d]", k), "load case %q: every figure must be a number", l.Name)
				break
			}
		}
	}
}

// kindOf says which kinds of material an item may be made of.
var kindOf = map[string][]string{
	Ply: {
		"unidirectional",
		"woven",
		"dry fabric",
		"sleeve",
	}, Film: {"film adhesive"}, Core: {"core"}, PeelPly: {"consumable"},
	Potting: {"paste adhesive", "liquid resin"}, Fillet: {"paste adhesive", "unidirectional", "woven", "film adhesive"},
}

func (i Item) check(
	label string,
	isRolled bool,
	shapes map[string]bool,
	materials map[int64]Material,
	add func(key, field, format string, args ...any),
) {
	called := label
	if i.Kind == Ply {
		called = "ply " + label
	}
	fault := func(field, format string, args ...any) { add(i.Key, field, called+": "+format, args...) }
	for _, v := range []float64{i.AngleDeg, i.X, i.Y, i.TurnDeg, i.JoinWidth, i.Stagger, i.Chamfer, i.Mass} {
		if math.IsNaN(v) || math.IsInf(v, 0) {
			fault("angleDeg", "every figure must be a number")
		}
	}
	kinds, needs := kindOf[i.Kind]
	switch {
	case i.Kind != Insert && !needs:
		fault("kind", "%q is no kind of item", i.Kind)
		return
	case needs && i.MaterialID == 0 && i.Kind != PeelPly:
		fault("materialId", "no material is chosen")
	case i.MaterialID != 0:
		m, known := materials[i.MaterialID]
		if !known {
			fault("materialId", "this material is not known here")
		} else if needs && !slices.Contains(kinds, m.Kind) {
			fault("materialId", "%s is %s: a %s is made of %s", m.Name, m.Kind, i.Kind, strings.Join(kinds, " or "))
		}
	}
	switch {
	case !i.Layer(), isRolled && i.Outline == "":
	case i.Outline == "":
		fault("outline", "no outline is chosen")
	case !shapes[i.Outline]:
		fault("outline", "there is no outline %q", i.Outline)
	}
	switch {
	case i.Join != "" && i.Join != "butt" && i.Join != "overlap" && i.Join != "gap":
		fault("join", "seams are butt, overlap or gap, not %q", i.Join)
	case i.Join == "overlap" && i.JoinWidth <= 0:
		fault("joinWidth", "an overlap needs a width")
	case i.Join != "overlap" && i.Join != "gap" && i.JoinWidth > 0:
		fault("joinWidth", "an overlap width is given for a seam that does not overlap")
	case i.Stagger > 0 && i.Join == "":
		fault("stagger", "a stagger is given without a seam")
	case i.Stagger > 0 && i.Join == "overlap" && i.Stagger < i.JoinWidth:
		fault(
			"stagger",
			"seams %s apart that overlap by %s lie on each other",
			unit.Size(i.Stagger, 0),
			unit.Size(i.JoinWidth, 0),
		)
	}
	if i.Chamfer > 0 && i.Kind != Core {
		fault("chamfer", "only a core has a chamfer")
	}
	if i.Layer() && i.Mass > 0 {
		fault("mass", "the mass of a layer follows from its area")
	}
}
