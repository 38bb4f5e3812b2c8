package cutpath

import (
	"fmt"
	"math"

	"juxta/core/geom"
)

// PlacedPiece is a ply as it lies on the sheet, m.
type PlacedPiece struct {
	ID      string
	Kit     string
	Outline geom.Ring
	Holes   []geom.Ring
	Lines   [][]geom.Point // drawn by the pen: notches, datum, seams
	Label   string         // written by the pen; empty: none
	Cut     bool           // it is cut already: only kept clear of
	Zero    *float64       // direction of the part's 0° on the sheet, rad, drawn as an arrow; nil: none
}

// Sheet is the cloth on the table, m: Length is where it is cut off.
type Sheet struct{ Length, Width float64 }

// Cutter is what a table with a knife and a pen does, SI.
type Cutter struct {
	Feed         float64 // knife or pen down, m/s
	Rapid        float64 // lifted, m/s
	Acceleration float64 // m/s²
	Jump         float64 // by how much the velocity may change at once at a corner, m/s
	Lift, Lower  float64 // s
	Turn         float64 // of the lifted knife, rad/s
	ToolChange   float64 // from pen to knife, s
	Table        float64 // its length, m: the cloth advances by it when all on it is cut; 0: it is long enough
	Advance      float64 // how long that takes, s
	Corner       float64 // sharper than this the knife is lifted and turned, rad
	LeadIn       float64 // how far before a line the knife comes down, in the waste, m
	Overcut      float64 // how far it goes on beyond its end, m
}

// Usual is a cutter of middling speed (invented; a shop enters its own table's).
func Usual() Cutter {
	return Cutter{
		Feed: 0.5, Rapid: 1, Acceleration: 2, Jump: 0.02, Lift: 0.15, Lower: 0.15, Turn: 2 * math.Pi,
		ToolChange: 4, Advance: 15, Corner: 30 * math.Pi / 180, LeadIn: 0.003, Overcut: 0.001,
	}
}

// Options say how it is cut.
type Options struct {
	ByKit  bool // one kit after the other, so that a person picks it while the next is cut
	Across bool // the sheet is cut off at its end
}

// Tool is what is down.
type Tool int

const (
	Pen Tool = iota
	Knife
)

// Stroke is one way of a tool without a lift, m. Piece is the index of its piece, −1 for the cut across the
// sheet; Frees says that after it the piece is free.
type Stroke struct {
	Tool     Tool
	Piece    int
	Advanced int
	Points   []geom.Point
	Frees    bool
}

// Path is the way over a sheet.
type Path struct {
	Strokes  []Stroke
	Drawn    float64  // by the pen, m
	Cut      float64  // m
	Lifted   float64  // m
	Seconds  float64  // of all
	Unmarked []string // pieces too small for their label
}

// FieldError names what of a cutter or a sheet cannot be.
type FieldError struct{ Field, Message string }

func (e *FieldError) Error() string { return e.Field + ": " + e.Message }

// Check says what of a cutter cannot be.
func (c Cutter) Check() error {
	for _, v := range []struct {
		field string
		value float64
		least bool // zero is none
	}{
		{"feed", c.Feed, true}, {"rapid", c.Rapid, true}, {"acceleration", c.Acceleration, true},
		{"jump", c.Jump, true},
		{"turn", c.Turn, true}, {"lift", c.Lift, false}, {"lower", c.Lower, false}, {"toolChange", c.ToolChange, false},
		{"table", c.Table, false}, {"advance", c.Advance, false}, {"leadIn", c.LeadIn, false},
		{"overcut", c.Overcut, false},
	} {
		if !(v.value >= 0) || v.least && v.value == 0 || math.IsInf(v.value, 0) {
			return &FieldError{v.field, fmt.Sprintf("%g is no value that a cutter can have", v.value)}
		}
	}
	if !(c.Corner > 0 && c.Corner <= math.Pi) {
		return &FieldError{"corner", "the angle from which the knife is lifted is above 0° and at most 180°"}
	}
	return nil
}

// Plan is the way over pieces that lie clear of one another.
func Plan(sheet Sheet, pieces []PlacedPiece, c Cutter, o Options) (Path, error) {
	if err := c.Check(); err != nil {
		return Path{}, err
	}
	for i, p := range pieces {
		for _, r := range append([]geom.Ring{p.Outline}, p.Holes...) {
			if err := r.Check(); err != nil {
				return Path{}, &FieldError{fmt.Sprintf("pieces[%d]", i), fmt.Sprintf("piece %s: %v", p.ID, err)}
			}
		}
	}
	w := newWay(sheet, pieces, c)
	at := geom.Point{}
	for advanced := range w.lengths {
		at = w.draw(advanced, at)
		for _, group := range w.groups(advanced, o.ByKit) {
			at = w.cut(advanced, group, at)
		}
		at.X += c.Table // of the next: the cloth has advanced
	}
	if o.Across {
		w.across()
	}
	w.free()
	w.Seconds = Seconds(w.Strokes, c)
	w.measure()
	return w.Path, nil
}

// measure adds up the lengths.
func (w *way) measure() {
	at, advanced := geom.Point{}, 0
	for _, s := range w.Strokes {
		at.X += float64(s.Advanced-advanced) * w.c.Table
		advanced = s.Advanced
		w.Lifted += apart(at, s.Points[0])
		long := 0.0
		for k := 1; k < len(s.Points); k++ {
			long += apart(s.Points[k-1], s.Points[k])
		}
		if s.Tool == Pen {
			w.Drawn += long
		} else {
			w.Cut += long
		}
		at = s.Points[len(s.Points)-1]
	}
}

// free marks the last stroke of every piece.
func (w *way) free() {
	seen := map[int]bool{}
	for k := len(w.Strokes) - 1; k >= 0; k-- {
		if s := &w.Strokes[k]; s.Tool == Knife && s.Piece >= 0 && !seen[s.Piece] {
			s.Frees, seen[s.Piece] = true, true
		}
	}
}

func apart(a, b geom.Point) float64 { return math.Hypot(a.X-b.X, a.Y-b.Y) }
