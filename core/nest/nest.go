package nest

import (
	"cmp"
	"encoding/json"
	"fmt"
	"math"
	"slices"

	"juxta/core/geom"
	"juxta/core/unit"
)

// Piece is one ply to cut. Outline and Holes lie with its fibre along x; what lies in a hole is free for
// others.
type Piece struct {
	ID          string      `json:"id"`
	Outline     geom.Ring   `json:"outline"`
	Holes       []geom.Ring `json:"holes,omitempty" doc:"What lies in a hole is free for others"`
	HalfTurn    bool        `json:"halfTurn,omitempty" doc:"May be cut turned by 180°"`
	QuarterTurn bool        `json:"quarterTurn,omitempty" doc:"May also be cut turned by 90° and 270°: only where warp and weft are declared equal"`
	Kit         string      `json:"kit,omitempty" doc:"What it is complete with"`
	Batch       string      `json:"batch,omitempty" doc:"Pieces that name the same lie on sheets of one batch"`
	Sheets      []int       `json:"sheets,omitempty" doc:"That it may lie on, from 0; missing: on any"`
	At          *Placement  `json:"at,omitempty" doc:"Where it is held; missing: it is free"`
	Cut         bool        `json:"cut,omitempty" doc:"It is cut free there already: flaws found under it since are no matter"`
}

// Flaw is a zone of a sheet that must stay empty, in metres: along from its start and across from its
// lower edge. Low and High both zero is the whole width.
type Flaw struct {
	From float64 `json:"from" minimum:"0"`
	To   float64 `json:"to" minimum:"0"`
	Low  float64 `json:"low,omitempty" doc:"Across the roll from its lower edge; low and high zero: the whole width" minimum:"0"`
	High float64 `json:"high,omitempty" minimum:"0"`
	Kind string  `json:"kind,omitempty" enum:"flaw,splice" doc:"Missing: flaw"`
	Note string  `json:"note,omitempty" maxLength:"120"`
}

// Sheet is a roll or an off-cut, in metres.
type Sheet struct {
	Name        string  `json:"name,omitempty"`
	Width       float64 `json:"width" doc:"m"`
	Length      float64 `json:"length" doc:"That is left of it, m"`
	EdgeTrim    float64 `json:"edgeTrim,omitempty" doc:"Left unused along both edges, m"`
	Flaws       []Flaw  `json:"flaws,omitempty"`
	TableLength float64 `json:"tableLength,omitempty" doc:"No piece lies across its multiples, m; 0: pieces may"`
	OldLength   float64 `json:"bite,omitempty" doc:"What tableLength was called before"`
	Batch       string  `json:"batch,omitempty"`

	Spoiled []geom.Ring `json:"spoiled,omitempty" doc:"What the knife has spoiled: nothing lies there"`
}

// UnmarshalJSON reads sheets that were kept when the length of the table was called their bite, too.
func (s *Sheet) UnmarshalJSON(raw []byte) error {
	type plain Sheet
	if err := json.Unmarshal(raw, (*plain)(s)); err != nil {
		return err
	}
	s.TableLength, s.OldLength = cmp.Or(s.TableLength, s.OldLength), 0
	return nil
}

// Problem is a set of pieces and the sheets they are cut from, which are used up in their order.
type Problem struct {
	Pieces   []Piece  `json:"pieces"`
	Sheets   []Sheet  `json:"sheets" doc:"In the order that they are used up in"`
	Gap      float64  `json:"gap,omitempty" doc:"For the knife, between pieces and from flaws, m"`
	Together bool     `json:"together,omitempty" doc:"Keep the pieces of a kit close together"`
	Spread   bool     `json:"spread,omitempty" doc:"Or spread them, so that one flaw does not take a whole kit"`
	Leave    bool     `json:"leave,omitempty" doc:"Leave out what does not fit, whole kits where it can be; else that is an error"`
	First    []string `json:"first,omitempty" doc:"Kits by importance: the last is left out first"` // those not named come after
}

// Placement says where a piece lies: the points of its outline are turned about their own origin by
// Turn degrees anticlockwise (0, 90, 180, 270), then moved by (X, Y) from the start of the sheet's lower
// edge, in metres.
type Placement struct {
	ID    string  `json:"id"`
	Sheet int     `json:"sheet" doc:"Which of the sheets, from 0"`
	X     float64 `json:"x" doc:"m"`
	Y     float64 `json:"y" doc:"m"`
	Turn  int     `json:"turn" doc:"Anticlockwise about the origin of the piece's own points, degrees" enum:"0,90,180,270"`
}

// Layout is a nest as found so far.
type Layout struct {
	Placements []Placement `json:"placements"`
	Left       []string    `json:"left,omitempty" doc:"Pieces that were left out"` // for nothing better fits
	Used       []float64   `json:"used" doc:"Of each sheet, m"`
	Length     float64     `json:"length" doc:"Used of all sheets, m"`
	Yield      float64     `json:"yield" doc:"Area of the pieces over that of what is used"`
	Rest       Remnant     `json:"rest,omitzero" doc:"The largest rectangle within what is used on which nothing lies"`
	Step       int         `json:"step" doc:"Places sought for a piece"`
	Dropped    int         `json:"dropped,omitempty" doc:"Layouts that did not pass the exact check and were dropped"`
}

// Remnant is a rectangle of a sheet on which nothing lies, m.
type Remnant struct {
	Sheet  int     `json:"sheet"`
	X      float64 `json:"x"`
	Y      float64 `json:"y"`
	Width  float64 `json:"width" doc:"Along the sheet"`
	Height float64 `json:"height" doc:"Across it"`
}

// Options steer the search: the same seed and number of steps give the same nest. A step is the search
// for a better place of one piece. Progress, if not nil, hears of the best every few hundred steps.
type Options struct {
	Seed     uint64
	Steps    int
	Progress func(best Layout, step int)
	Share    func() float64 // how much of the time is over, 0 to 1; nil: as many of the steps as are done
	// Knife says how long the knife takes for a nest, s: of those as long that leave as much the quickest is
	// given. nil: it is not asked.
	Knife func(Layout) float64
}

// FieldError names the part of the problem that cannot be nested.
type FieldError struct{ Field, Message string }

func (e *FieldError) Error() string { return e.Field + ": " + e.Message }

// turns are the allowed turns of a piece in quarters.
func (p Piece) turns() []int {
	switch {
	case p.QuarterTurn:
		return []int{0, 1, 2, 3}
	case p.HalfTurn:
		return []int{0, 2}
	}
	return []int{0}
}

// Area is what of the piece is cloth, m².
func (p Piece) Area() float64 {
	area := p.Outline.Area()
	for _, h := range p.Holes {
		area -= h.Area()
	}
	return area
}

// PlaceOutline is an outline of a piece as its placement puts it on the sheet, on whole micrometres: the engine,
// the check and the cut file all speak of the same points.
func PlaceOutline(outline geom.Ring, at Placement) geom.Ring {
	return whole(PlacePoints(whole(outline), at))
}

// whole is a ring on whole micrometres.
func whole(r geom.Ring) geom.Ring {
	out := make(geom.Ring, len(r))
	for k, p := range r {
		out[k] = geom.Point{X: micron(p.X), Y: micron(p.Y)}
	}
	return out
}

// PlacePoints lays points of a piece, such as its marks, as [Lay] lays its outline.
func PlacePoints(points []geom.Point, at Placement) []geom.Point {
	return geom.Ring(points).Rotate(float64(at.Turn)*math.Pi/180).Move(micron(at.X), micron(at.Y))
}

// TurnedTo is where an outline lies when it is turned about the middle of its box, from where it lies to a turn.
func TurnedTo(outline geom.Ring, at Placement, turn int) Placement {
	middle := func(at Placement) geom.Point {
		box := PlaceOutline(outline, at).Bounds()
		return box.Min.Middle(box.Max)
	}
	was := middle(at)
	at.Turn = turn
	now := middle(at)
	at.X, at.Y = at.X+was.X-now.X, at.Y+was.Y-now.Y
	return at
}

func micron(v float64) float64 { return math.Round(v*1e6) / 1e6 }

func checkProblem(p Problem) error {
	positive := func(v float64) bool { return v > 0 && !math.IsInf(v, 0) }
	switch {
	case len(p.Pieces) == 0:
		return &FieldError{"pieces", "there is nothing to nest"}
	case len(p.Pieces) > MostPieces:
		return &FieldError{"pieces", fmt.Sprintf("at most %d pieces are nested at once", MostPieces)}
	case len(p.Sheets) == 0:
		return &FieldError{"sheets", "there is no roll to nest on"}
	case !(p.Gap >= 0) || math.IsInf(p.Gap, 0):
		return &FieldError{"gap", "the gap cannot be negative"}
	case p.Together && p.Spread:
		return &FieldError{"spread", "the plies of a kit are kept together or spread, not both"}
	}
	for k, s := range p.Sheets {
		field := fmt.Sprintf("sheets[%d].", k)
		switch {
		case !positive(s.Width):
			return &FieldError{field + "width", "the roll width must be above zero"}
		case !positive(s.Length):
			return &FieldError{field + "length", "the length left on the roll must be above zero"}
		case !(s.EdgeTrim >= 0) || 2*s.EdgeTrim >= s.Width:
			return &FieldError{field + "edgeTrim", "the edge trim must leave some width"}
		case !(s.TableLength >= 0):
			return &FieldError{field + "tableLength", "the length of the table cannot be negative"}
		}
		for i, r := range s.Spoiled {
			if err := r.Check(); err != nil {
				return &FieldError{fmt.Sprintf("%sspoiled[%d]", field, i), err.Error()}
			}
		}
		for i, f := range s.Flaws {
			if !(f.To > f.From) || !(f.From >= 0) || f.High < f.Low || f.Low < 0 {
				return &FieldError{fmt.Sprintf("%sflaws[%d]", field, i), "a flaw must end after it starts"}
			}
		}
	}
	seen := map[string]bool{}
	var held []lying
	for i, piece := range p.Pieces {
		if err := piece.check(i, p, seen); err != nil {
			return err
		}
		if piece.At == nil {
			continue
		}
		l, err := piece.checkHeld(i, p)
		if err != nil {
			return err
		}
		for k := range held {
			if held[k].at.Sheet == l.at.Sheet {
				if err := held[k].apart(&l, p.Gap); err != nil {
					return &FieldError{fmt.Sprintf("pieces[%d].at", i), err.Error()}
				}
			}
		}
		held = append(held, l)
	}
	return nil
}

// checkHeld says why a piece cannot be held where it is.
func (piece Piece) checkHeld(i int, p Problem) (lying, error) {
	field := fmt.Sprintf("pieces[%d].at", i)
	at := *piece.At
	if at.ID != piece.ID || at.Sheet < 0 || at.Sheet >= len(p.Sheets) || !piece.may(at.Sheet) ||
		at.Turn%90 != 0 || !slices.Contains(piece.turns(), at.Turn/90) {
		return lying{}, &FieldError{field, fmt.Sprintf("piece %s may not be held there at that angle", piece.ID)}
	}
	l := lie(piece, at)
	if err := l.within(p, p.Sheets[at.Sheet], p.Sheets[at.Sheet].Length); err != nil {
		return l, &FieldError{field, err.Error()}
	}
	return l, nil
}

// MostPieces is how many pieces are nested at once.
const MostPieces = 3000

func (piece Piece) check(i int, p Problem, seen map[string]bool) error {
	field := fmt.Sprintf("pieces[%d]", i)
	if piece.ID == "" || seen[piece.ID] {
		return &FieldError{field + ".id", "every piece needs an id of its own"}
	}
	seen[piece.ID] = true
	if err := piece.Outline.Check(); err != nil {
		return &FieldError{field + ".outline", fmt.Sprintf("piece %s: %v", piece.ID, err)}
	}
	for k, h := range piece.Holes {
		at := fmt.Sprintf("%s.holes[%d]", field, k)
		if err := h.Check(); err != nil {
			return &FieldError{at, fmt.Sprintf("a hole of piece %s: %v", piece.ID, err)}
		}
		if slices.ContainsFunc(h, func(q geom.Point) bool { return !piece.Outline.Contains(q) }) {
			return &FieldError{at, fmt.Sprintf("a hole of piece %s is not within its outline", piece.ID)}
		}
	}
	least, most := math.Inf(1), 0.0
	for k, s := range p.Sheets {
		if !piece.may(k) {
			continue
		}
		usable := s.Width - 2*s.EdgeTrim
		most = max(most, usable)
		for _, t := range piece.turns() {
			box := piece.Outline.Rotate(float64(t) * math.Pi / 2).Bounds()
			least = min(least, max(box.Height()-usable, 0))
		}
	}
	if most == 0 {
		return &FieldError{field + ".sheets", fmt.Sprintf("piece %s may lie on none of the sheets", piece.ID)}
	}
	if least > 1e-9 {
		return &FieldError{
			field + ".outline",
			fmt.Sprintf("piece %s is %s across the roll, which has %s to use: it needs a splice or a wider roll",
				piece.ID, unit.Size(most+least, 0), unit.Size(most, 0)),
		}
	}
	return nil
}

// may says whether the piece may lie on a sheet.
func (piece Piece) may(sheet int) bool {
	return len(piece.Sheets) == 0 || slices.Contains(piece.Sheets, sheet)
}
