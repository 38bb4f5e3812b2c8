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

func whole(t testing.TB, m *Mesh, step float64) []Vec {
	t.Helper()
	b, err := m.Boundary(step)
	require.NoError(t, err)
	return b
}

// What can be unrolled comes back as its development: the exact area and shape.
func TestTheFlatOfACylinderIsItsDevelopment(t *testing.T) {
	m := usual(t, Cylinder, 40_000)
	for _, warp := range []float64{0, 30} {
		d, err := m.Drape(context.Background(), whole(t, m, 0.005), Start{Vec{}, unit.Rad(warp)}, Options{Cell: 0.01})
		require.NoError(t, err)
		wide := 0.3 * math.Pi / 2
		assert.InEpsilon(t, 0.6*wide, d.Area, 1e-3)
		assert.InEpsilon(t, m.Area(), d.Area, 1e-3)
		assert.InEpsilon(t, d.Area, d.Surface, 5e-3)
		// Turned back, it is the rectangle.
		box := d.Flat.Rotate(unit.Rad(warp)).Bounds()
		assert.InDelta(t, 0.6, box.Width(), 5e-4)
		assert.InDelta(t, wide, box.Height(), 5e-4)
		assert.Less(t, unit.Deg(d.Peak), 0.05)
		assert.Less(t, unit.Deg(d.Off), 0.1)
		require.Len(t, d.Notches, 4)
		if warp == 0 {
			assert.InDelta(t, 0.3, d.Notches[0].Along, 1e-3)
			assert.InDelta(t, wide/2, d.Notches[1].Along, 1e-3)
			assert.InDelta(t, 0.3, d.Notches[0].On.X, 1e-3)
		}
	}
}

// A cap is flatter than its surface is large: cells that shear cover less. What the flat has
// more is what they lost, ∫(1 − cos γ).
func TestTheFlatOfACap(t *testing.T) {
	m := usual(t, SphereCap, 60_000)
	d, err := m.Drape(context.Background(), whole(t, m, 0.004), Start{}, Options{Cell: 0.008, Lock: unit.Rad(20)})
	require.NoError(t, err)
	assert.Greater(t, d.Area, m.Area())
	assert.InEpsilon(t, m.Area(), d.Surface, 5e-3)
	lost := 0.0
	for _, n := range d.Inside {
		lost += (1 - math.Cos(n.Shear)) * 0.008 * 0.008
	}
	assert.InEpsilon(t, d.Area-m.Area(), lost, 0.08)
	// It locks in four places, one a quarter, and says so.
	assert.Len(t, d.Locks, 4)
	says := d.says(Options{Lock: unit.Rad(20)})
	require.Len(t, says, 4)
	assert.Contains(t, unit.InMetric(says[0]), "where 20° are possible")
	// Symmetric: the flat turned by a quarter is the flat.
	turned := d.Flat.Rotate(math.Pi / 2)
	shared, err := geom.Overlap(d.Flat, turned)
	require.NoError(t, err)
	assert.InEpsilon(t, d.Area, shared, 2e-3)
}

// A ply drawn in plan lies on the surface; over its edge it is refused with the place.
func TestAPlyDrawnInPlan(t *testing.T) {
	m := usual(t, Paraboloid, 20_000)
	ring := geom.Rect(0.2, 0.2).Move(-0.1, 0.25)
	b, err := m.Project(ring, 0.005)
	require.NoError(t, err)
	for _, p := range b {
		assert.InDelta(t, (p.X*p.X+p.Y*p.Y)/4/0.35, p.Z, 2e-5)
	}
	at, _ := m.Locate(Vec{0, 0.35, 0.09})
	d, err := m.Drape(context.Background(), b, Start{at, math.Pi / 4}, Options{Cell: 0.006})
	require.NoError(t, err)
	assert.InEpsilon(t, 0.04*math.Sqrt(1+0.35*0.35/4/0.35/0.35), d.Surface, 0.02)
	_, err = m.Project(geom.Rect(2, 0.1).Move(-0.1, 0.3), 0.01)
	require.ErrorContains(t, err, "reaches over the edge of the surface")
	_, err = m.Drape(context.Background(), b, Start{At: Vec{0, 0.15, 0.016}}, Options{Cell: 0.006})
	require.ErrorContains(t, err, "the start lies outside the ply")
	_, err = m.Drape(context.Background(), b[:2], Start{}, Options{Cell: 0.006})
	require.ErrorContains(t, err, "at least 3 places")
}

// In the rounded foot of a corner a fabric bridges where the hollow is tighter than it takes.
func TestAHollowIsBridged(t *testing.T) {
	m := usual(t, BoxCorner, 60_000)
	at, _ := m.Locate(Vec{0.1, 0.08, 0})
	b := whole(t, m, 0.004)
	d, err := m.Drape(context.Background(), b, Start{At: at}, Options{Cell: 0.005, Round: 0.05})
	require.NoError(t, err)
	require.NotEmpty(t, d.Bridges)
	assert.InDelta(t, 0.025, d.Bridges[0].Worst, 0.006, "tightest in the very corner")
	assert.Contains(t, unit.InMetric(d.says(Options{Round: 0.05})[0]), "it may bridge at")
	d, err = m.Drape(context.Background(), b, Start{At: at}, Options{Cell: 0.005, Round: 0.02})
	require.NoError(t, err)
	assert.Empty(t, d.Bridges)
}

// The best start of a cap is near its pole; the search tells how far it is, and stopped keeps
// the best so far.
func TestTheBestStartIsSought(t *testing.T) {
	m := usual(t, SphereCap, 5_000)
	tried := 0
	best, err := m.Search(context.Background(), Ply{}, []float64{0}, 25, Options{Cell: 0.02}, func(f FoundStart) {
		assert.Greater(t, f.Tried, tried)
		tried = f.Tried
	})
	require.NoError(t, err)
	assert.Equal(t, best.Of, tried)
	assert.Less(t, math.Hypot(best.Start.At.X, best.Start.At.Y), 0.08)
	ctx, stop := context.WithCancel(context.Background())
	some, err := m.Search(ctx, Ply{}, []float64{0, 0.5}, 25, Options{Cell: 0.02}, func(f FoundStart) {
		if f.Tried == 12 {
			stop()
		}
	})
	require.NoError(t, err)
	assert.Equal(t, 12, some.Tried)
	assert.False(t, math.IsInf(some.Peak, 1))
	_, err = m.Search(context.Background(), Ply{}, nil, 5, Options{Cell: 0.02}, nil)
	require.Error(t, err)
}

// BenchmarkSearch seeks a start over a hundred candidates.
func BenchmarkSearch(b *testing.B) {
	m := usual(b, Paraboloid, 200_000)
	for b.Loop() {
		f, err := m.Search(context.Background(), Ply{}, []float64{math.Pi / 4}, 100, Options{Cell: 0.005}, nil)
		require.NoError(b, err)
		b.ReportMetric(float64(f.Tried), "candidates")
	}
}

// BenchmarkDrape lays 20,000 nodes over 200,000 triangles and brings the edge back.
func BenchmarkDrape(b *testing.B) {
	m := usual(b, Paraboloid, 200_000)
	edge := whole(b, m, 0.002)
	at, _ := m.Locate(Vec{0, 0.4, 0.1})
	b.ReportAllocs()
	for b.Loop() {
		d, err := m.Drape(context.Background(), edge, Start{at, math.Pi / 4}, Options{Cell: 0.0031, Lock: 0.7})
		require.NoError(b, err)
		b.ReportMetric(float64(len(d.Inside)), "nodes")
	}
}
