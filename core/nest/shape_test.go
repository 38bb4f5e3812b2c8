package nest

import (
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
		"L": {Outline: geom.Ring{{X: 0, Y: 0}, {X: 0.3, Y: 0}, {X: 0.3, Y: 0.1}, {X: 0.1, Y: 0.1}, {X: 0.1, Y: 0.3}, {X: 0, Y: 0.3}}},
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
				at := geom.Point{X: box.Min.X + box.Width()*(float64(i)+0.51)/40, Y: box.Min.Y + box.Height()*(float64(j)+0.49)/40}
				in := p.Outline.Holds(at)
				for _, h := range p.Holes {
					in = in && !h.Holds(at)
				}
				if in {
					held := false
					for _, q := range parts {
						held = held || geom.Ring(q).Holds(at)
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
		f := newFit(&sa, &sb)
		dx, dy := rapid.Float64Range(-0.01, 0.01).Draw(t, "dx"), rapid.Float64Range(-0.01, 0.01).Draw(t, "dy")
		shared, err := geom.Overlap(a, b.Move(dx, dy))
		require.NoError(t, err)
		depth := f.depth(dx, dy)
		if shared > 1e-9 {
			require.Positive(t, depth)
		}
		// Slanted sides are kept 2 µm apart.
		if depth > 3e-6*float64(len(f)) {
			require.Positive(t, shared, "depth %g", depth)
		}
		for k := range f {
			if d, nx, ny := f[k].eased(dx, dy, ease{}); d > 0 {
				again, _, _ := f[k].eased(dx+nx*(d+1e-9), dy+ny*(d+1e-9), ease{})
				require.Zero(t, again)
			}
			if from, to, any := f[k].span(dy); any {
				d, _, _ := f[k].eased((from+to)/2, dy, ease{})
				require.Positive(t, d)
				d, _, _ = f[k].eased(from-1e-9, dy, ease{})
				require.Zero(t, d)
			}
		}
	})
}

// What is left is empty, and nothing larger is.
func TestTheLargestRectangleThatIsLeft(t *testing.T) {
	p := Problem{Pieces: rectangles(2, 0.3, 0.2), Sheets: []Sheet{{Width: 0.6, Length: 5}}}
	r := Result{Placements: []Placement{{ID: "0"}, {ID: "1", X: 0.3, Y: 0.1}}, Used: []float64{0.6}}
	rest := restOf(p, r)
	assert.Equal(t, 0, rest.Sheet)
	assert.InDelta(t, 0.6, rest.Box.Width(), 1e-9)
	assert.InDelta(t, 0.3, rest.Box.Height(), 1e-9)
	assert.InDelta(t, 0.3, rest.Box.Min.Y, 1e-9)
	p.Gap = 0.002
	rest = restOf(p, r)
	assert.InDelta(t, 0.295, rest.Box.Height(), 1e-9, "clear of the gap, in steps of 5 mm")
}
