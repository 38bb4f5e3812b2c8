package drape

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// A plane cuts a sphere in a circle of √(R² − x²).
func TestASectionOfASphereIsACircle(t *testing.T) {
	m := usual(t, SphereCap, 20_000)
	lines := m.Section(0, 0.1)
	require.Len(t, lines, 1)
	for _, p := range lines[0] {
		assert.InDelta(t, 0.1, p.X, 1e-12)
		assert.InDelta(t, math.Sqrt(0.16-0.01), math.Hypot(p.Y, p.Z+0.4), 2e-4)
	}
	// From edge to edge: the edge lies at 60° from the pole.
	ends := []float64{lines[0][0].Y, lines[0][len(lines[0])-1].Y}
	far := math.Sqrt(0.16*0.75 - 0.01)
	assert.InDelta(t, 2*far, math.Abs(ends[0]-ends[1]), 1e-3)
	assert.InDelta(t, 0, ends[0]+ends[1], 1e-3)
	assert.Empty(t, m.Section(0, 3))
	// All over, at round places.
	all, step := m.Sections(8)
	assert.InDelta(t, 0.1, step, 1e-12)
	assert.GreaterOrEqual(t, len(all), 10)
	for _, l := range all {
		x, y := l[len(l)/2].X, l[len(l)/2].Y
		assert.True(t, off(x) < 1e-9 || off(y) < 1e-9, "%g, %g", x, y)
	}
}

func off(v float64) float64 { return math.Abs(v*10 - math.Round(v*10)) }

// A section that closes ends where it begins.
func TestASectionThatCloses(t *testing.T) {
	// An octahedron.
	m, err := NewMesh([]Vec{{1, 0, 0}, {-1, 0, 0}, {0, 1, 0}, {0, -1, 0}, {0, 0, 1}, {0, 0, -1}}, [][3]int32{
		{0, 2, 4}, {2, 1, 4}, {1, 3, 4}, {3, 0, 4}, {2, 0, 5}, {1, 2, 5}, {3, 1, 5}, {0, 3, 5},
	})
	require.NoError(t, err)
	lines := m.Section(0, 0.3)
	require.Len(t, lines, 1)
	assert.Equal(t, lines[0][0], lines[0][len(lines[0])-1])
}
