// Package nest places plies on the roll: irregular strip packing with the
// fibre direction held. Pieces come as they are cut, their fibre along x, the
// length of the roll; the engine may turn them only as each piece allows and
// never mirrors them.
package nest

import (
	"context"
	"fmt"
	"math"
	"math/rand/v2"
	"slices"

	"juxta/core/geom"
	"juxta/core/unit"
)

// Piece is one ply to cut. Outline lies with its fibre along x. HalfTurn says
// that it may also be cut turned by 180°.
type Piece struct {
	ID       string
	Outline  geom.Ring
	HalfTurn bool
}

// Flaw is a stretch of the roll that must stay empty, in metres from the start
// of the sheet.
type Flaw struct{ From, To float64 }

// Problem is a set of pieces and the roll they are cut from. All in metres.
type Problem struct {
	Pieces    []Piece
	Width     float64 // of the roll
	Length    float64 // that is left on the roll
	EdgeTrim  float64 // left unused along both edges
	Gap       float64 // between pieces, for the knife
	Flaws     []Flaw
	Precision float64 // height of a scan row; 0 means 2 mm
}

// Placement says where a piece lies: turned by 180° first if Turned, then its
// bounding box moved so that its lower left corner is at (X, Y).
type Placement struct {
	ID     string
	X, Y   float64
	Turned bool
}

// Result is a nest. Step counts the orders tried; Yield is the area of the
// pieces over that of the roll length they use.
type Result struct {
	Placements []Placement
	Length     float64
	Yield      float64
	Step       int
}

// Options steer the search: the same seed and number of steps give the same
// nest. Progress, if not nil, hears of every better nest and of every 50th
// step; its argument is the best so far.
type Options struct {
	Seed     uint64
	Steps    int
	Progress func(best Result, step int)
}

// FieldError names the part of the problem that cannot be nested.
type FieldError struct{ Field, Says string }

func (e *FieldError) Error() string { return e.Field + ": " + e.Says }

// Nest searches for the shortest sheet: a bottom-left placement on scan rows,
// whose order of pieces is improved by seeded swaps and moves that are kept
// when they shorten the sheet (or leave it equal). It is anytime: when ctx is
// done it gives the best so far with a nil error, provided a first nest was
// found. The result has passed [Verify].
//
// One step costs O(pieces² · rows · candidates): each piece is slid along
// every row against all that lie already.
func Nest(ctx context.Context, p Problem, o Options) (Result, error) {
	table, err := newTable(p)
	if err != nil {
		return Result{}, err
	}
	rng := rand.New(rand.NewPCG(o.Seed, 0x6a75787461))
	order := make([]int, len(p.Pieces))
	for i := range order {
		order[i] = i
	}
	// Largest first is the usual good start (common practice, no source).
	slices.SortStableFunc(order, func(a, b int) int {
		return -cmpFloat(p.Pieces[a].Outline.Area(), p.Pieces[b].Outline.Area())
	})
	best, err := table.place(order)
	if err != nil {
		return Result{}, err
	}
	report := func(step int) {
		if o.Progress != nil {
			o.Progress(best.result(p, step), step)
		}
	}
	report(0)
	step, current := 0, order
	for step < o.Steps && ctx.Err() == nil && len(order) > 1 {
		step++
		trial := vary(rng, current)
		got, err := table.place(trial)
		if err == nil && got.score <= best.score {
			better := got.score < best.score
			best, current = got, trial
			if better {
				report(step)
				continue
			}
		}
		if step%50 == 0 {
			report(step)
		}
	}
	result := best.result(p, step)
	if err := Verify(p, result); err != nil {
		return Result{}, fmt.Errorf("the nest did not pass its own check: %w", err)
	}
	return result, nil
}

func cmpFloat(a, b float64) int {
	switch {
	case a < b:
		return -1
	case a > b:
		return 1
	}
	return 0
}

// vary swaps two pieces or moves one to another turn.
func vary(rng *rand.Rand, order []int) []int {
	next := slices.Clone(order)
	i, j := rng.IntN(len(next)), rng.IntN(len(next))
	if rng.IntN(2) == 0 {
		next[i], next[j] = next[j], next[i]
		return next
	}
	moved := next[i]
	next = slices.Delete(next, i, i+1)
	return slices.Insert(next, min(j, len(next)), moved)
}

// candidate is a finished placement of all pieces in one order.
type candidate struct {
	placements []Placement
	length     float64
	score      float64
}

func (c candidate) result(p Problem, step int) Result {
	area := 0.0
	for _, piece := range p.Pieces {
		area += piece.Outline.Area()
	}
	return Result{Placements: c.placements, Length: c.length, Yield: area / (c.length * p.Width), Step: step}
}

func checkProblem(p Problem) error {
	positive := func(v float64) bool { return v > 0 && !math.IsInf(v, 0) }
	switch {
	case len(p.Pieces) == 0:
		return &FieldError{"pieces", "there is nothing to nest"}
	case !positive(p.Width):
		return &FieldError{"width", "the roll width must be above zero"}
	case !positive(p.Length):
		return &FieldError{"length", "the length left on the roll must be above zero"}
	case p.EdgeTrim < 0 || 2*p.EdgeTrim >= p.Width:
		return &FieldError{"edgeTrim", "the edge trim must leave some width"}
	case p.Gap < 0:
		return &FieldError{"gap", "the gap cannot be negative"}
	}
	for i, f := range p.Flaws {
		if f.To <= f.From || f.From < 0 {
			return &FieldError{fmt.Sprintf("flaws[%d]", i), "a flaw must end after it starts"}
		}
	}
	seen := map[string]bool{}
	for i, piece := range p.Pieces {
		field := fmt.Sprintf("pieces[%d]", i)
		if piece.ID == "" || seen[piece.ID] {
			return &FieldError{field + ".id", "every piece needs an id of its own"}
		}
		seen[piece.ID] = true
		if err := piece.Outline.Check(); err != nil {
			return &FieldError{field + ".outline", fmt.Sprintf("piece %s: %v", piece.ID, err)}
		}
		if h := piece.Outline.Bounds().Height(); h > p.Width-2*p.EdgeTrim+1e-9 {
			return &FieldError{
				field + ".outline",
				fmt.Sprintf("piece %s is %s across the roll, which has %s to use: it needs a splice or a wider roll",
					piece.ID, unit.Size(h, 0), unit.Size(p.Width-2*p.EdgeTrim, 0)),
			}
		}
	}
	return nil
}
