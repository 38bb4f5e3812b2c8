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
		assert.Equal(t, shared > 1e-12, overlap(lattice(a), lattice(b)), "%v %v share %g", a, b, shared)
		assert.Equal(t, overlap(lattice(a), lattice(b)), overlap(lattice(b), lattice(a)))
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
		assert.Equal(t, c.want, overlap(lattice(square), lattice(c.other)), name)
	}
}

func TestDistanceOfKnownShapes(t *testing.T) {
	square := geom.Rect(1, 1)
	assert.InDelta(t, 0.5, distance(square, square.Move(1.5, 0.2)), 1e-12)
	assert.InDelta(t, math.Hypot(0.3, 0.4), distance(square, square.Move(1.3, 1.4)), 1e-12)
	assert.InDelta(
		t,
		0.1/math.Sqrt2,
		distance(
			geom.Ring{{X: 0, Y: 0}, {X: 1, Y: 0}, {X: 0, Y: 1}},
			geom.Ring{{X: 1.1, Y: 0}, {X: 1.1, Y: 1}, {X: 0.1, Y: 1}},
		),
		1e-12,
	)
}

func TestLayPutsTheLowerLeftCornerWhereThePlacementSays(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		ring := latticeShape(t, "a")
		at := Placement{
			X:      rapid.Float64Range(0, 5).Draw(t, "x"),
			Y:      rapid.Float64Range(0, 1).Draw(t, "y"),
			Turned: rapid.Bool().Draw(t, "turned"),
		}
		laid := Lay(ring, at)
		assert.InDelta(t, at.X, laid.Bounds().Min.X, 1e-6)
		assert.InDelta(t, at.Y, laid.Bounds().Min.Y, 1e-6)
		assert.InDelta(t, ring.Area(), laid.Area(), 1e-9)
		for _, p := range laid {
			assert.InDelta(t, math.Round(p.X*1e6), p.X*1e6, 1e-6, "whole micrometres")
		}
	})
}

func TestRowsCoverTheShape(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		outline := turn(latticeShape(t, "a"), false)
		h := 0.0007
		s := newShape(outline, false, 0.0004, h)
		for r := range s.body {
			for _, f := range []float64{0.01, 0.5, 0.99} {
				xs := outline.Crossings((float64(r) + f) * h)
				for i := 0; i+1 < len(xs); i += 2 {
					covered := false
					for _, iv := range s.body[r] {
						covered = covered || metres(iv.lo) <= xs[i]+1e-13 && metres(iv.hi) >= xs[i+1]-1e-13
					}
					require.True(t, covered, "row %d does not cover %g to %g", r, xs[i], xs[i+1])
				}
			}
		}
		require.Len(t, s.grown, len(s.body)+2*s.pad)
	})
}

func TestMergeKeepsIntervalsSortedAndApart(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		var list []interval
		inside := map[int64]bool{}
		for range rapid.IntRange(0, 12).Draw(t, "n") {
			lo := rapid.Int64Range(0, 40).Draw(t, "lo")
			hi := lo + rapid.Int64Range(1, 9).Draw(t, "len")
			list = merge(list, interval{lo, hi})
			for k := lo; k < hi; k++ {
				inside[k] = true
			}
		}
		total := int64(0)
		for i, iv := range list {
			total += iv.hi - iv.lo
			if i > 0 {
				require.Greater(t, iv.lo, list[i-1].hi)
			}
		}
		assert.EqualValues(t, len(inside), total)
	})
}

// Marks of a piece lie on the sheet where its outline does.
func TestMarksAreLaidWithTheirPiece(t *testing.T) {
	ring := geom.Ring{{X: 0.1, Y: 0.2}, {X: 0.5, Y: 0.25}, {X: 0.2, Y: 0.6}}
	for _, at := range []Placement{{X: 0.3, Y: 0.1}, {X: 0.3, Y: 0.1, Turned: true}} {
		laid := Lay(ring, at)
		for k, p := range Carry(ring, ring, at) {
			assert.InDelta(t, laid[k].X, p.X, 1e-6)
			assert.InDelta(t, laid[k].Y, p.Y, 1e-6)
		}
	}
}
