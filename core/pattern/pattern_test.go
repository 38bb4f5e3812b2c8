package pattern

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"

	"juxta/core/geom"
)

func TestOnRollLaysTheFibreAlongTheRoll(t *testing.T) {
	// A strip 1 m × 0.1 m laid with its long side along 90°, fibre at 90°:
	// on the roll its long side runs along the roll.
	strip := geom.Rect(0.1, 1)
	flat := OnRoll(strip, math.Pi/2, true).Bounds()
	assert.InDelta(t, 1, flat.Width(), 1e-12)
	assert.InDelta(t, 0.1, flat.Height(), 1e-12)
	assert.Equal(t, geom.Point{}, flat.Min)
}

func TestFaceDownIsCutMirrored(t *testing.T) {
	flag := geom.Ring{{X: 0, Y: 0}, {X: 2, Y: 0}, {X: 0, Y: 1}}
	up, down := OnRoll(flag, 0, true), OnRoll(flag, 0, false)
	assert.InDelta(t, up.Area(), down.Area(), 1e-12)
	// The right angle sits at the bottom left face up, at the top left face down.
	assert.Contains(t, up, geom.Point{X: 0, Y: 0})
	assert.Contains(t, down, geom.Point{X: 0, Y: 1})
	assert.NotContains(t, down, geom.Point{X: 2, Y: 0})
	// Turning the mirror image over gives the ply that was drawn.
	back := OnRoll(down, 0, false)
	for _, p := range up {
		assert.Contains(t, back, p)
	}
}

// Marks go where their outline goes: a place halfway between two corners stays there.
func TestMarksAreCarriedWithTheirOutline(t *testing.T) {
	flag := geom.Ring{{X: 0.1, Y: 0.2}, {X: 2, Y: 0}, {X: 0, Y: 1}}
	middle := []geom.Point{flag[0].Middle(flag[1]), flag[1].Middle(flag[2])}
	for _, up := range []bool{true, false} {
		cut := OnRoll(flag, 0.7, up)
		carried := PlacePoints(flag, middle, 0.7, up)
		assert.Len(t, carried, 2)
		for k, p := range carried {
			a, b := cut[k], cut[k+1]
			if !up {
				a, b = cut[2-k], cut[1-k] // gone round the other way
			}
			assert.InDelta(t, a.Middle(b).X, p.X, 1e-12)
			assert.InDelta(t, a.Middle(b).Y, p.Y, 1e-12)
		}
	}
}
