package drape

import (
	"context"
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"juxta/core/geom"
	"juxta/core/unit"
)

// Strips beside a great circle are circles of latitude: at φ they are R cos φ/R as long, and their
// curvature in the sphere is tan φ/R (do Carmo, Differential Geometry of Curves and Surfaces, §4-4,
// from memory).
func TestStripsOnASphere(t *testing.T) {
	m := usual(t, SphereCap, 60_000)
	const r, w = 0.4, 0.05
	b, err := m.Project(geom.Rect(0.3, 0.35).Move(-0.15, -0.175), 0.004)
	require.NoError(t, err)
	all, err := m.Strips(context.Background(), b, Start{}, w, Options{Cell: 0.008})
	require.NoError(t, err)
	require.Len(t, all, 9, "one through the start, four beside it on either side, the last narrow")
	for _, d := range all {
		phi := math.Abs(float64(d.Steered.Number)) * w / r
		box := d.Flat.Bounds()
		if d.Steered.Number == 0 {
			assert.Greater(t, d.Steered.Radius, 20.0)
		} else {
			assert.InEpsilon(t, r/math.Tan(phi), d.Steered.Radius, 0.04, "strip %d", d.Steered.Number)
		}
		if a := math.Abs(float64(d.Steered.Number)); a < 4 {
			assert.InDelta(t, w, box.Height(), 1e-6)
			// Its edges at x = ±0.15 stand upright in plan: the way between them along the middle.
			long := 2 * r * math.Cos(phi) * math.Asin(0.15/r/math.Cos(phi))
			lo, hi := middle(d.Flat)
			assert.InDelta(t, long, hi-lo, 6e-4, "strip %d", d.Steered.Number)
		}
		assert.Zero(t, d.Peak)
		assert.Zero(t, d.Steered.Gap)
		assert.NotEmpty(t, d.Inside)
	}
}

// middle is from where to where an outline reaches at y = 0.
func middle(r geom.Ring) (lo, hi float64) {
	x := r.Crossings(1e-5)
	return x[0], x[len(x)-1]
}

// On a cylinder strips lie straight whatever their direction, and are the ply when they are put
// together again.
func TestStripsOnACylinderAreThePly(t *testing.T) {
	m := usual(t, Cylinder, 40_000)
	b, err := m.Project(geom.Rect(0.3, 0.3).Move(-0.15, -0.15), 0.003)
	require.NoError(t, err)
	for _, warp := range []float64{0, 35, 90} {
		o := Options{Cell: 0.01, Steer: 1}
		whole, err := m.Drape(context.Background(), b, Start{Warp: unit.Rad(warp)}, o)
		require.NoError(t, err)
		all, err := m.Strips(context.Background(), b, Start{Warp: unit.Rad(warp)}, 0.06, o)
		require.NoError(t, err)
		sum := 0.0
		var moved []geom.Ring
		for _, d := range all {
			sum += d.Area
			assert.Greater(t, d.Steered.Radius, 10.0, "%g°", warp)
			moved = append(moved, d.Flat.Move(0, float64(d.Steered.Number)*0.06))
		}
		assert.InEpsilon(t, whole.Area, sum, 2e-3, "%g°", warp)
		joined, err := geom.Union(moved)
		require.NoError(t, err)
		shared, err := geom.Overlap(joined[0], whole.Flat)
		require.NoError(t, err)
		assert.InEpsilon(t, whole.Area, shared, 4e-3, "%g°", warp)
	}
}

// A limit on the radius is kept, and what that leaves open is told.
func TestStripsKeepToTheirRadius(t *testing.T) {
	m := usual(t, SphereCap, 60_000)
	b, err := m.Project(geom.Rect(0.3, 0.35).Move(-0.15, -0.175), 0.004)
	require.NoError(t, err)
	all, err := m.Strips(context.Background(), b, Start{}, 0.05, Options{Cell: 0.008, Steer: 1.2})
	require.NoError(t, err)
	apart, area := 0.0, 0.0
	for _, d := range all {
		assert.Greater(t, d.Steered.Radius, 1.2*0.85, "strip %d", d.Steered.Number)
		apart = max(apart, d.Steered.Gap+d.Steered.Lap)
		area += d.Area
	}
	assert.Greater(t, apart, 0.001)
	assert.Less(t, apart, 0.05)
	assert.Greater(t, area, 0.105)
	ctx, stop := context.WithCancel(context.Background())
	stop()
	_, err = m.Strips(ctx, b, Start{}, 0.05, Options{Cell: 0.008})
	require.ErrorIs(t, err, context.Canceled)
}

func TestStripsThatCannotBe(t *testing.T) {
	m := usual(t, SphereCap, 10_000)
	b, err := m.Project(geom.Rect(0.2, 0.2).Move(-0.1, -0.1), 0.004)
	require.NoError(t, err)
	for says, c := range map[string]struct {
		s Start
		w float64
	}{
		"the width of strips": {Start{}, 0},
		"too narrow":          {Start{}, 1e-4},
		"off the surface":     {Start{At: Vec{2, 2, 0}}, 0.05},
		"outside the ply":     {Start{At: on(t, m, 0.2, 0.2)}, 0.05},
	} {
		_, err := m.Strips(context.Background(), b, c.s, c.w, Options{Cell: 0.01})
		require.ErrorContains(t, err, says)
	}
	// A thread of a ply, narrower than any strip.
	_, err = m.Pieces(
		context.Background(),
		Ply{Outline: geom.Rect(0.2, 4e-4).Move(-0.1, -2e-4), Strip: 0.05},
		Options{Cell: 0.01},
	)
	require.ErrorContains(t, err, "narrower than a strip")
}
