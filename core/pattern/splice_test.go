package pattern

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"juxta/core/geom"
)

// A rectangle of 1.4 m on a roll of 0.59 usable: three pieces, side by side or overlapping.
func TestAWidePlyIsSplicedAlongTheFibre(t *testing.T) {
	ring := geom.Rect(2, 1.4)
	butt, levels, err := SplicePieces(ring, Splice{Usable: 0.59})
	require.NoError(t, err)
	require.Len(t, butt, 3)
	for _, p := range butt {
		assert.InDelta(t, 1.4/3, p.Bounds().Height(), 1e-6)
		assert.InDelta(t, 2, p.Bounds().Width(), 1e-6, "never across")
	}
	lapped, _, err := SplicePieces(ring, Splice{Usable: 0.59, Overlap: 0.02})
	require.NoError(t, err)
	assert.InDelta(t, 2*(1.4+2*0.02), area(lapped), 1e-5)
	// The next ply's splices lie elsewhere.
	_, next, err := SplicePieces(ring, Splice{Usable: 0.59, Avoid: levels, Stagger: 0.05})
	require.NoError(t, err)
	require.Len(t, next, 2)
	for k := range next {
		assert.GreaterOrEqual(t, math.Abs(next[k]-levels[k]), 0.05)
	}
	// Where the roll leaves no room for it, of a piece more.
	tight, levels, err := SplicePieces(geom.Rect(2, 1.17), Splice{Usable: 0.59})
	require.NoError(t, err)
	assert.Len(t, tight, 2)
	more, next, err := SplicePieces(geom.Rect(2, 1.17), Splice{Usable: 0.59, Avoid: levels, Stagger: 0.05})
	require.NoError(t, err)
	assert.Len(t, more, 3)
	assert.GreaterOrEqual(t, math.Abs(next[0]-levels[0]), 0.05)
	one, _, err := SplicePieces(geom.Rect(5, 0.5), Splice{Usable: 0.59})
	require.NoError(t, err)
	assert.Len(t, one, 1)
	_, _, err = SplicePieces(ring, Splice{Usable: 0.59, Overlap: 0.4})
	require.ErrorContains(t, err, "too wide")
	_, _, err = SplicePieces(geom.Rect(1, 100), Splice{Usable: 0.1})
	require.ErrorContains(t, err, "a wider roll is needed")
}

// Put together again the pieces are the ply: nothing lacks, nothing lies double but the overlaps,
// and none is wider than the roll.
func TestPiecesMakeThePly(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		n := rapid.IntRange(5, 14).Draw(t, "corners")
		var ring geom.Ring
		for k := range n {
			s, c := math.Sincos(2 * math.Pi * float64(k) / float64(n))
			r := rapid.Float64Range(0.3, 1.2).Draw(t, "radius")
			ring = append(ring, geom.Point{X: r * c, Y: r * s})
		}
		s := Splice{
			Usable: rapid.Float64Range(0.2, 0.9).
				Draw(t, "usable"),
			Stagger: rapid.Float64Range(0, 0.1).Draw(t, "stagger"),
			Avoid:   []float64{rapid.Float64Range(-1, 1).Draw(t, "avoid")},
		}
		pieces, _, err := SplicePieces(ring, s)
		require.NoError(t, err)
		assert.InDelta(t, ring.Area(), area(pieces), 1e-4)
		for i, p := range pieces {
			assert.LessOrEqual(t, p.Bounds().Height(), s.Usable+1e-5)
			inside, err := geom.Overlap(p, ring)
			require.NoError(t, err)
			assert.InDelta(t, p.Area(), inside, 1e-5)
			for _, q := range pieces[:i] {
				double, err := geom.Overlap(p, q)
				require.NoError(t, err)
				assert.Less(t, double, 1e-5)
			}
		}
	})
}

func area(pieces []geom.Ring) float64 {
	sum := 0.0
	for _, p := range pieces {
		sum += p.Area()
	}
	return sum
}
