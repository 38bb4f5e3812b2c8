package master

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"juxta/core/geom"
)

func TestHolesOfAPieceAreClosedAndWithinIt(t *testing.T) {
	square := func(x, y, size float64) []Corner {
		return []Corner{{X: x, Y: y}, {X: x + size, Y: y}, {X: x + size, Y: y + size}, {X: x, Y: y + size}}
	}
	got := HolesIn(geom.Rect(1, 1), []DrawnMark{
		{Points: square(0.2, 0.2, 0.3), Closed: true},
		{Points: square(0.2, 0.2, 0.3)},                                     // a line
		{Points: square(0.9, 0.9, 0.3), Closed: true},                       // a notch
		{Points: square(0.2, 0.2, 0.3)[:2], Closed: true},                   // no area
		{Text: "0°", Points: []Corner{{X: 0.5, Y: 0.5}}},                    // a word
		{Points: append(square(0.1, 0.1, 0.2), Corner{X: 2}), Closed: true}, // reaches over the edge
	})
	assert.Len(t, got, 1)
	assert.InDelta(t, 0.09, got[0].Area(), 1e-12)
}
