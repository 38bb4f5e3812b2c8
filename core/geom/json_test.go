package geom

import (
	"encoding/json"
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

func TestAShapeThatIsKeptIsTheShapeThatWasDrawn(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		number := rapid.Float64Range(-1e12, 1e12)
		ring := Ring{}
		for range rapid.IntRange(0, 6).Draw(t, "n") {
			ring = append(ring, Point{X: number.Draw(t, "x"), Y: number.Draw(t, "y")})
		}
		raw, err := json.Marshal(ring)
		require.NoError(t, err)
		var back Ring
		require.NoError(t, json.Unmarshal(raw, &back))
		assert.Equal(t, ring, back, "to the last bit")
	})
	raw, err := json.Marshal(Ring(nil))
	require.NoError(t, err)
	assert.Equal(t, "[]", string(raw), "no points are an empty list")
	assert.Error(t, json.Unmarshal([]byte(`[["a",1]]`), &Ring{}))
}

// What is drawn is as short as it can be when it is sent and nowhere off by more than
// half a tenth of a micrometre; what is kept is untouched.
func TestDrawnOutlinesAreShort(t *testing.T) {
	ring := Ring{{X: 1.0 / 3, Y: -2.0 / 3}, {X: 0.1234567891, Y: 1e-9}, {X: math.Pi, Y: 0}}
	drawn := ring.Fine()
	for i, p := range ring {
		assert.InDelta(t, p.X, drawn[i].X, 0.5e-7+1e-15)
		assert.InDelta(t, p.Y, drawn[i].Y, 0.5e-7+1e-15)
	}
	raw, err := json.Marshal(drawn)
	require.NoError(t, err)
	assert.JSONEq(t, `[[0.3333333,-0.6666667],[0.1234568,0],[3.1415927,0]]`, string(raw))
	assert.Equal(t, 1.0/3, ring[0].X, "what it is made of stays")
}
