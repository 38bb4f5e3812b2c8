package nest

import (
	"context"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"juxta/core/geom"
)

// A nest is drawn, its corners rounded and the order lost, as another program would write it: it is found again, by
// the names that are written in it or by its shapes alone.
func TestANestIsFoundAgainInItsDrawing(t *testing.T) {
	p := Problem{Pieces: kit(2, 20), Sheets: roll(1.27, 40), Gap: 0.002}
	r, err := Nest(context.Background(), p, Options{Seed: 1, Steps: 2000})
	require.NoError(t, err)
	names := map[string]string{}
	var all []DrawnOutline
	rng := rand.New(rand.NewPCG(1, 2))
	for k, at := range r.Placements {
		names[at.ID] = "ply " + at.ID
		var ring geom.Ring
		for _, q := range PlaceOutline(p.Pieces[k].Outline, at) {
			ring = append(ring, geom.Point{X: q.X + 1e-5*(rng.Float64()-0.5), Y: q.Y + 1e-5*(rng.Float64()-0.5)})
		}
		all = append(all, DrawnOutline{Outline: ring, Texts: []string{"a note", " ply " + at.ID + " "}})
	}
	rng.Shuffle(len(all), func(a, b int) { all[a], all[b] = all[b], all[a] })
	for _, named := range []bool{true, false} {
		got, err := Recognise(p, names, all)
		require.NoError(t, err)
		require.Len(t, got.Placements, 20)
		assert.InDelta(t, r.Length, got.Length, 1e-4)
		assert.InDelta(t, r.Yield, got.Yield, 1e-4)
		p.Gap = 0.00195 // the corners were rounded
		require.NoError(t, Verify(p, got))
		if named {
			for k, at := range got.Placements {
				assert.Equal(t, r.Placements[k].ID, at.ID)
				// Turned or not, where it is alike both ways.
				was, is := PlaceOutline(
					p.Pieces[k].Outline,
					r.Placements[k],
				).Bounds(),
					PlaceOutline(
						p.Pieces[k].Outline,
						at,
					).Bounds()
				assert.InDelta(t, was.Min.X, is.Min.X, 1e-4)
			}
			for k := range all {
				all[k].Texts = nil
			}
		}
	}
	_, err = Recognise(p, names, all[1:])
	assert.ErrorContains(t, err, "not in the drawing: ply ")
	_, err = Recognise(p, names, append(all[1:], DrawnOutline{Outline: geom.Rect(0.1, 0.123)}))
	assert.ErrorContains(t, err, "is none of the plies")
	// One that lies on another is found, and does not pass the check.
	for k := range all {
		all[k].Outline = all[k].Outline.Move(-all[k].Outline.Bounds().Min.X, 0)
	}
	got, err := Recognise(p, names, all)
	require.NoError(t, err)
	assert.Error(t, Verify(p, got))
}
