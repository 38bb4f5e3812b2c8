package nest

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"juxta/core/geom"
	"juxta/core/unit"
)

// DrawnOutline is an outline of a drawing as it lies on the sheet, with what is written in it.
type DrawnOutline struct {
	Outline geom.Ring
	Texts   []string
}

// likeness is how far an outline of a drawing may be from a piece to be it, m: others round their numbers and their
// arcs.
const likeness = 1e-4

// Recognise finds the pieces of a problem in the outlines of a drawing of its first sheet and gives their
// placements: by what is written in them where that is one of the names of pieces, else by their shape alone. The
// result is not verified.
func Recognise(p Problem, names map[string]string, all []DrawnOutline) (Layout, error) {
	found := map[string]Placement{}
	take := func(s DrawnOutline, wanted func(q Piece) bool) bool {
		for _, q := range p.Pieces {
			if _, taken := found[q.ID]; taken || !wanted(q) {
				continue
			}
			if at, is := s.is(q); is {
				found[q.ID] = onto(p.Sheets[0], q, at)
				return true
			}
		}
		return false
	}
	var unnamed []DrawnOutline
	for _, s := range all {
		if !take(s, func(q Piece) bool { return s.names(names[q.ID]) }) {
			unnamed = append(unnamed, s)
		}
	}
	for _, s := range unnamed {
		if !take(s, func(Piece) bool { return true }) {
			box := s.Outline.Bounds()
			return Layout{}, &FieldError{"drawing", fmt.Sprintf(
				"the outline at %s along, %s across is none of the plies that are left, as large and turned as they "+
					"may be",
				unit.RollLength(box.Min.X, 3),
				unit.Size(box.Min.Y, 0),
			)}
		}
	}
	var places []Placement
	var missing []string
	for _, q := range p.Pieces {
		at, is := found[q.ID]
		if !is {
			missing = append(missing, names[q.ID])
		}
		places = append(places, at)
	}
	if len(missing) > 0 {
		return Layout{}, &FieldError{"drawing", "not in the drawing: " + strings.Join(missing, ", ")}
	}
	return summed(p, places), nil
}

// names says whether the name of a piece is written in an outline.
func (s DrawnOutline) names(name string) bool {
	return slices.ContainsFunc(s.Texts, func(says string) bool { return strings.TrimSpace(says) == name })
}

// is says whether an outline is a piece, and where it then lies.
func (s DrawnOutline) is(q Piece) (Placement, bool) {
	if math.Abs(s.Outline.Area()-q.Outline.Area()) > likeness*q.Outline.Perimeter() {
		return Placement{}, false
	}
	box := s.Outline.Bounds()
	for _, turn := range q.turns() {
		own := q.Outline.Rotate(float64(turn) * math.Pi / 2)
		low := own.Bounds().Min
		at := Placement{ID: q.ID, X: micron(box.Min.X - low.X), Y: micron(box.Min.Y - low.Y), Turn: turn * 90}
		own = own.Move(at.X, at.Y)
		if close(own, s.Outline) && close(s.Outline, own) {
			return at, true
		}
	}
	return Placement{}, false
}

// onto is a placement that rounding has moved off the sheet, back on it.
func onto(sheet Sheet, q Piece, at Placement) Placement {
	box := PlaceOutline(q.Outline, at).Bounds()
	by := func(over float64) float64 {
		if over > 0 && over <= likeness {
			return micron(over)
		}
		return 0
	}
	at.X = micron(at.X + by(-box.Min.X))
	at.Y = micron(at.Y + by(sheet.EdgeTrim-box.Min.Y) - by(box.Max.Y-sheet.Width+sheet.EdgeTrim))
	return at
}

// close says whether all corners of an outline lie on another.
func close(a, b geom.Ring) bool {
	return !slices.ContainsFunc(a, func(q geom.Point) bool { return b.Distance(q) > likeness })
}

// Measure is a result with its lengths, its yield and what is left of it, as a search gives it.
func Measure(p Problem, r Layout) Layout {
	out := summed(p, r.Placements)
	out.Left, out.Step, out.Dropped = r.Left, r.Step, r.Dropped
	out.Rest = restOf(p, out)
	return out
}
