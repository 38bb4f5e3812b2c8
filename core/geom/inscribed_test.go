package geom

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

func TestInscribed(t *testing.T) {
	got := Rect(2, 1).Move(3, 4).Inscribed()
	assert.InDelta(t, 2, got.Width(), 1e-12)
	assert.InDelta(t, 1, got.Height(), 1e-12)
	// The largest rectangle in a right triangle has half its area.
	got = Ring{{0, 0}, {4, 0}, {0, 3}}.Inscribed()
	assert.InDelta(t, 3, got.Width()*got.Height(), 1e-9)
	// An L: the longer leg, not the box around it.
	got = Ring{{0, 0}, {5, 0}, {5, 1}, {1, 1}, {1, 3}, {0, 3}}.Inscribed()
	assert.InDelta(t, 5, got.Width()*got.Height(), 1e-12)
	// In a circle the square of the diameter, of area 2r².
	circle := Ring{}
	for k := range 120 {
		a := 2 * math.Pi * float64(k) / 120
		circle = append(circle, Point{math.Cos(a), math.Sin(a)})
	}
	got = circle.Inscribed()
	assert.InDelta(t, 2, got.Width()*got.Height(), 0.03)
}

func TestAnInscribedRectangleNeverSticksOut(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		n := rapid.IntRange(3, 14).Draw(t, "n")
		star := Ring{} // corners round the origin make a simple ring
		for k := range n {
			a := 2 * math.Pi * (float64(k) + rapid.Float64Range(0, 0.9).Draw(t, "turn")) / float64(n)
			d := rapid.Float64Range(0.2, 2).Draw(t, "far")
			star = append(star, Point{d * math.Cos(a), d * math.Sin(a)})
		}
		if star.Check() != nil {
			return
		}
		box := star.Inscribed()
		if box.Width() < 1e-3 || box.Height() < 1e-3 {
			return
		}
		inside := Rect(box.Width(), box.Height()).Move(box.Min.X, box.Min.Y)
		both, err := Overlap(inside, star)
		require.NoError(t, err)
		// The overlay works on whole micrometres.
		assert.InDelta(t, inside.Area(), both, 2e-6*inside.Perimeter())
	})
}
