package nest

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"juxta/core/geom"
)

// The convex parts of a piece are convex, share nothing, cover all of it and leave it by little.
func TestConvexPartsCoverAPiece(t *testing.T) {
	for name, p := range map[string]Piece{
		"sector": {Outline: ringSector(0.2, 0.3, 1.5)}, "rectangle": {Outline: geom.Rect(0.3, 0.2)},
		"frame": {Outline: geom.Rect(0.3, 0.3), Holes: []geom.Ring{
			geom.Rect(0.05, 0.05).Move(0.05, 0.05), geom.Rect(0.05, 0.08).Move(0.15, 0.12),
		}},
		"L": {Outline: geom.Ring{{X: 0, Y: 0}, {X: 0.3, Y: 0}, {X: 0.3, Y: 0.1}, {X: 0.1, Y: 0.1}, {X: 0.1, Y: 0.3},
			{X: 0, Y: 0.3}}},
	} {
		parts := convex(p.Outline, p.Holes)
		sum := 0.0
		for _, q := range parts {
			require.True(t, bulging(q), name)
			sum += geom.Ring(q).Area()
		}
		assert.InEpsilon(t, p.Area(), sum, 0.002, name)
		assert.GreaterOrEqual(t, sum, p.Area()*(1-1e-9), name)
		// A grid of places of the piece, each in a part.
		box := p.Outline.Bounds()
		for i := range 40 {
			for j := range 40 {
				at := geom.Point{
					X: box.Min.X + box.Width()*(float64(i)+0.51)/40,
					Y: box.Min.Y + box.Height()*(float64(j)+0.49)/40,
				}
				in := p.Outline.Contains(at)
				for _, h := range p.Holes {
					in = in && !h.Contains(at)
				}
				if in {
					held := false
					for _, q := range parts {
						held = held || geom.Ring(q).Contains(at)
					}
					require.True(t, held, "%s at %v", name, at)
				}
			}
		}
	}
}

func TestPiecesOfDissectionsAreCutIntoConvexParts(t *testing.T) {
	for seed := range uint64(30) {
		pieces, width, length := dissection(seed, 12, true)
		sum := 0.0
		for _, p := range pieces {
			for _, q := range convex(p.Outline, nil) {
				require.True(t, bulging(q))
				sum += geom.Ring(q).Area()
			}
		}
		assert.InDelta(t, width*length, sum, 1e-4)
	}
}

// Two solids overlap where the geometry library finds a shared area, and moved out by the depth along its
// side they do not.
func TestDepthAgreesWithTheGeometryLibrary(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		a, b := latticeShape(t, "a"), latticeShape(t, "b")
		sa, sb := newSolid(convex(a, nil), 0), newSolid(convex(b, nil), 0)
		f := fit{newTable(&sa, &sb), 1}
		dx, dy := rapid.Float64Range(-0.01, 0.01).Draw(t, "dx"), rapid.Float64Range(-0.01, 0.01).Draw(t, "dy")
		shared, err := geom.Overlap(a, b.Move(dx, dy))
		require.NoError(t, err)
		depth := f.depth(dx, dy)
		if shared > 1e-9 {
			require.Positive(t, depth)
		}
		// Slanted sides are kept 2 µm apart.
		if depth > 3e-6*float64(len(f.hulls)) {
			require.Positive(t, shared, "depth %g", depth)
		}
		for k := range f.hulls {
			if d, nx, ny := f.hulls[k].eased(dx, dy, ease{}); d > 0 {
				again, _, _ := f.hulls[k].eased(dx+nx*(d+1e-9), dy+ny*(d+1e-9), ease{})
				require.Zero(t, again)
			}
			if from, to, any := f.span(k, dy); any {
				d, _, _ := f.hulls[k].eased((from+to)/2, dy, ease{})
				require.Positive(t, d)
				d, _, _ = f.hulls[k].eased(from-1e-9, dy, ease{})
				require.Zero(t, d)
			}
		}
	})
}

// One table serves two shapes in all their turns, either of them first: it says what one of their own would.
func TestOneTableServesAllTurns(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		gap := rapid.SampledFrom([]float64{0, 0.001}).Draw(t, "gap")
		var solids []solid
		for _, name := range []string{"a", "b"} {
			one := newSolid(convex(latticeShape(t, name), nil), gap)
			for q := range 4 {
				solids = append(solids, one.turned(q))
			}
		}
		// What does not move has no turns.
		solids = append(solids, newSolid([]part{{{X: 0, Y: 0}, {X: 0.004, Y: 0}, {X: 0.001, Y: 0.005}}}, gap))
		all := newTables(solids, 8)
		dx, dy := rapid.Float64Range(-0.01, 0.01).Draw(t, "dx"), rapid.Float64Range(-0.01, 0.01).Draw(t, "dy")
		for a := range solids {
			for b := range solids {
				own, shared := fit{newTable(&solids[a], &solids[b]), 1}, all.of(a, b)
				require.InDelta(t, own.depth(dx, dy), shared.depth(dx, dy), 1e-12)
				require.InDelta(t, own.bulk(dx, dy, math.Inf(1)), shared.bulk(dx, dy, math.Inf(1)), 1e-12)
				x, y := own.ways(dx, dy, ease{}), shared.ways(dx, dy, ease{})
				// Where two sides are as near, either is the way out.
				require.InDelta(t, x.squares, y.squares, 1e-12)
				require.Len(t, shared.hulls, len(own.hulls))
				least, most := math.Inf(1), math.Inf(-1)
				leastToo, mostToo := least, most
				for k := range own.hulls {
					if from, to, any := own.span(k, dy); any {
						least, most = min(least, from), max(most, to)
					}
					if from, to, any := shared.span(k, dy); any {
						leastToo, mostToo = min(leastToo, from), max(mostToo, to)
					}
				}
				if least < most || leastToo < mostToo {
					require.InDelta(t, least, leastToo, 1e-9)
					require.InDelta(t, most, mostToo, 1e-9)
				}
			}
		}
	})
}

// What is left is empty, and nothing larger is.
func TestTheLargestRectangleThatIsLeft(t *testing.T) {
	p := Problem{Pieces: rectangles(2, 0.3, 0.2), Sheets: []Sheet{{Width: 0.6, Length: 5}}}
	r := Layout{Placements: []Placement{{ID: "0"}, {ID: "1", X: 0.3, Y: 0.1}}, Used: []float64{0.6}}
	rest := restOf(p, r)
	assert.Equal(t, 0, rest.Sheet)
	assert.InDelta(t, 0.6, rest.Width, 1e-9)
	assert.InDelta(t, 0.3, rest.Height, 1e-9)
	assert.InDelta(t, 0.3, rest.Y, 1e-9)
	p.Gap = 0.002
	rest = restOf(p, r)
	assert.InDelta(t, 0.295, rest.Height, 1e-9, "clear of the gap, in steps of 5 mm")
}
