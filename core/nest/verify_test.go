package nest

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"juxta/core/geom"
)

// shapes on a coarse lattice: edges and corners meet often, which is where an
// overlap test goes wrong.
func latticeShape(t *rapid.T, name string) geom.Ring {
	x, y := rapid.IntRange(0, 8).Draw(t, name+".x"), rapid.IntRange(0, 8).Draw(t, name+".y")
	w, h := rapid.IntRange(1, 6).Draw(t, name+".w"), rapid.IntRange(1, 6).Draw(t, name+".h")
	fx, fy := float64(w)*0.001, float64(h)*0.001
	ring := rapid.SampledFrom([]geom.Ring{
		geom.Rect(fx, fy),
		{{X: 0, Y: 0}, {X: fx, Y: 0}, {X: 0, Y: fy}},
		{{X: 0, Y: 0}, {X: fx, Y: 0}, {X: fx, Y: fy}, {X: fx / 2, Y: fy / 2}, {X: 0, Y: fy}},
		{{X: 0, Y: 0}, {X: 2 * fx, Y: 0}, {X: 2 * fx, Y: fy}, {X: fx, Y: fy}, {X: fx, Y: 2 * fy}, {X: 0, Y: 2 * fy}},
	}).Draw(t, name)
	if rapid.Bool().Draw(t, name+".flip") {
		ring = ring.Flip()
	}
	return ring.Move(float64(x)*0.001, float64(y)*0.001)
}

// The exact test against the overlay of the geometry library.
func TestExactOverlapAgreesWithTheGeometryLibrary(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		a, b := latticeShape(t, "a"), latticeShape(t, "b")
		shared, err := geom.Overlap(a, b)
		require.NoError(t, err)
		assert.Equal(t, shared > 1e-12, overlap(edgesOf(a), edgesOf(b)), "%v %v share %g", a, b, shared)
		assert.Equal(t, overlap(edgesOf(a), edgesOf(b)), overlap(edgesOf(b), edgesOf(a)))
	})
}

func TestTouchingIsNotOverlapping(t *testing.T) {
	square := geom.Rect(0.001, 0.001)
	for name, c := range map[string]struct {
		other geom.Ring
		want  bool
	}{
		"the same":           {square, true},
		"side by side":       {square.Move(0.001, 0), false},
		"corner to corner":   {square.Move(0.001, 0.001), false},
		"a micrometre over":  {square.Move(0.000999, 0), true},
		"inside":             {geom.Rect(0.0004, 0.0004).Move(0.0003, 0.0003), true},
		"inside, on an edge": {geom.Rect(0.0004, 0.0004).Move(0, 0.0003), true},
		"shifted along":      {square.Move(0.0005, 0), true},
		"half along an edge": {square.Move(0.001, 0.0005), false},
		"crossing as a plus": {geom.Rect(0.003, 0.0002).Move(-0.001, 0.0004), true},
	} {
		assert.Equal(t, c.want, overlap(edgesOf(square), edgesOf(c.other)), name)
	}
}

func TestDistanceOfKnownShapes(t *testing.T) {
	square := geom.Rect(1, 1)
	assert.InDelta(t, 0.5, distance(square, square.Move(1.5, 0.2), 9), 1e-12)
	assert.InDelta(t, math.Hypot(0.3, 0.4), distance(square, square.Move(1.3, 1.4), 9), 1e-12)
	assert.InDelta(
		t,
		0.1/math.Sqrt2,
		distance(
			geom.Ring{{X: 0, Y: 0}, {X: 1, Y: 0}, {X: 0, Y: 1}},
			geom.Ring{{X: 1.1, Y: 0}, {X: 1.1, Y: 1}, {X: 0.1, Y: 1}},
			9,
		),
		1e-12,
	)
}

// Turned about the origin of its own points, then moved.
func TestLayTurnsAboutTheOriginAndThenMoves(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		ring := latticeShape(t, "a")
		at := Placement{
			X: rapid.Float64Range(0, 5).Draw(t, "x"), Y: rapid.Float64Range(0, 1).Draw(t, "y"),
			Turn: 90 * rapid.IntRange(0, 3).Draw(t, "turn"),
		}
		laid := PlaceOutline(ring, at)
		sin, cos := math.Sincos(float64(at.Turn) * math.Pi / 180)
		for k, p := range laid {
			assert.InDelta(t, cos*ring[k].X-sin*ring[k].Y+at.X, p.X, 2e-6)
			assert.InDelta(t, sin*ring[k].X+cos*ring[k].Y+at.Y, p.Y, 2e-6)
			assert.InDelta(t, math.Round(p.X*1e6), p.X*1e6, 1e-6, "whole micrometres")
		}
	})
}

// Marks of a piece lie on the sheet where its outline does.
func TestMarksAreLaidWithTheirPiece(t *testing.T) {
	ring := geom.Ring{{X: 0.1, Y: 0.2}, {X: 0.5, Y: 0.25}, {X: 0.2, Y: 0.6}}
	for _, at := range []Placement{{X: 0.3, Y: 0.1}, {X: 0.3, Y: 0.1, Turn: 180}} {
		laid := PlaceOutline(ring, at)
		for k, p := range PlacePoints(ring, at) {
			assert.InDelta(t, laid[k].X, p.X, 1e-6)
			assert.InDelta(t, laid[k].Y, p.Y, 1e-6)
		}
	}
}

func edgesOf(r geom.Ring) []edge { return lie(Piece{Outline: r}, Placement{}).edges }

func TestVerifyFindsEachFault(t *testing.T) {
	p := Problem{
		Pieces: rectangles(2, 0.2, 0.1), Gap: 0.002,
		Sheets: []Sheet{
			{
				Width:       0.3,
				Length:      1,
				EdgeTrim:    0.01,
				Flaws:       []Flaw{{From: 0.6, To: 0.7, Low: 0, High: 0.1}},
				TableLength: 0.5,
			},
		},
	}
	p.Pieces[0].Batch, p.Pieces[1].Batch = "skin", "skin"
	p.Sheets = append(p.Sheets, Sheet{Width: 0.3, Length: 1, Batch: "other"})
	good := Layout{
		Placements: []Placement{{ID: "0", X: 0, Y: 0.01}, {ID: "1", X: 0.202, Y: 0.01}},
		Used:       []float64{0.402, 0.3},
	}
	require.NoError(t, Verify(p, good))
	for says, change := range map[string]func(*Layout){
		"overlap":           func(r *Layout) { r.Placements[1].X = 0.1 },
		"0 and 1 overlap":   func(r *Layout) { r.Placements[1] = Placement{ID: "1", X: 0, Y: 0.01} },
		"less than":         func(r *Layout) { r.Placements[1].X = 0.201 },
		"edge trim":         func(r *Layout) { r.Placements[1].Y = 0.2 },
		"beyond":            func(r *Layout) { r.Used[0] = 0.3 },
		"turned":            func(r *Layout) { r.Placements[0].Turn = 180 },
		"flaw":              func(r *Layout) { r.Placements[1].X, r.Used[0] = 0.55, 0.75 },
		"end of the table":  func(r *Layout) { r.Placements[1].X, r.Used[0] = 0.31, 0.75 },
		"twice":             func(r *Layout) { r.Placements[1].ID = "0" },
		"1 pieces":          func(r *Layout) { r.Placements = r.Placements[:1] },
		"another batch":     func(r *Layout) { r.Placements[1] = Placement{ID: "1", Sheet: 1} },
		"may not lie on":    func(r *Layout) { r.Placements[1].Sheet = 2 },
		"left out twice":    func(r *Layout) { r.Left = []string{"9"} },
		"lengths of 1 shee": func(r *Layout) { r.Used = r.Used[:1] },
	} {
		r := Layout{
			Placements: append([]Placement(nil), good.Placements...),
			Used:       append([]float64(nil), good.Used...),
		}
		change(&r)
		assert.ErrorContains(t, Verify(p, r), says)
	}
	held := p
	held.Pieces = append([]Piece(nil), p.Pieces...)
	held.Pieces[0].At = &Placement{ID: "0", X: 0.001, Y: 0.01}
	assert.ErrorContains(t, Verify(held, good), "held")
}
