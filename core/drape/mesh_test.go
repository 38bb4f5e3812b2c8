package drape

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"juxta/core/unit"
)

func usual(t testing.TB, kind string, triangles int, change ...func(d map[string]float64)) *Mesh {
	t.Helper()
	d := map[string]float64{}
	for _, k := range Library {
		if k.Kind == kind {
			for _, dim := range k.Dims {
				d[dim.Name] = dim.Usual
			}
		}
	}
	for _, c := range change {
		c(d)
	}
	m, err := NewSurface(kind, d, triangles)
	require.NoError(t, err, kind)
	return m
}

// Areas of the built-in surfaces in closed form.
func TestAreasOfSurfaces(t *testing.T) {
	parabola := func(r float64) float64 { // of revolution, from its vertex, focal length 0.35
		f := 0.35
		return 8 * math.Pi / 3 * f * f * (math.Pow(1+r*r/4/f/f, 1.5) - 1)
	}
	for kind, want := range map[string]float64{
		Cylinder:   0.3 * math.Pi / 2 * 0.6,
		Cone:       math.Pi / 2 * (0.3 + 0.15) / 2 * math.Hypot(0.6, 0.15),
		SphereCap:  2 * math.Pi * 0.4 * 0.4 * (1 - math.Cos(math.Pi/3)),
		Paraboloid: (parabola(0.62) - parabola(0.1)) / 6,
		Torus:      math.Pi / 3 * (0.5*0.15*2*math.Pi/3 + 2*0.15*0.15*math.Sin(math.Pi/3)),
	} {
		m := usual(t, kind, 20_000)
		assert.InEpsilon(t, want, m.Area(), 2e-3, kind)
		assert.NotEmpty(t, m.Edge(), kind)
		assert.Zero(t, m.Mended.Left+m.Mended.Flipped, kind)
	}
	for _, kind := range []string{Saddle, BoxCorner} {
		assert.NotZero(t, usual(t, kind, 5000).Area())
	}
}

func square() ([]Vec, [][3]int32) {
	return []Vec{{0, 0, 0}, {1, 0, 0}, {1, 1, 0}, {0, 1, 0}}, [][3]int32{{0, 1, 2}, {0, 2, 3}}
}

func TestAMeshIsMended(t *testing.T) {
	p, tri := square()
	// Each triangle with points of its own, one looking the other way, one of no area.
	points := []Vec{p[0], p[1], p[2], p[0], p[2], {3e-8, 1, 0}, p[0], p[0], p[1]}
	m, err := NewMesh(points, [][3]int32{{0, 1, 2}, {3, 5, 4}, {6, 7, 8}})
	require.NoError(t, err)
	assert.Len(t, m.Points, 4)
	assert.Equal(t, RepairReport{Merged: 5, Flipped: 1, Left: 1}, m.Mended)
	assert.InDelta(t, 1, m.Area(), 1e-6)
	for _, n := range m.normals {
		assert.InDelta(t, 1, n.Z, 1e-9, "the bag lies above")
	}
	assert.Len(t, m.Edge(), 4)
	m.Turn()
	assert.InDelta(t, -1, m.normals[0].Z, 1e-9)
	_ = tri
}

func TestAMeshThatCannotBeIsRefusedWithItsPlace(t *testing.T) {
	p, tri := square()
	for _, c := range []struct {
		says      string
		points    []Vec
		triangles [][3]int32
	}{
		{"no triangles", p, nil},
		{"three triangles share one edge at x 500.0 mm, y 500.0 mm, z 0.0 mm", append(p[:4:4], Vec{0.5, 0.5, 1}),
			append(tri[:2:2], [3]int32{0, 2, 4})},
		{"no area though its corners lie apart", append(p[:4:4], Vec{2, 0, 0}), append(tri[:2:2], [3]int32{0, 1, 4})},
		{"several pieces", append(p[:4:4], Vec{5, 0, 0}, Vec{6, 0, 0}, Vec{5, 1, 0}),
			append(tri[:2:2], [3]int32{4, 5, 6})},
		{"names a point that there is not", p, [][3]int32{{0, 1, 9}}},
		{"is no place", []Vec{{math.NaN(), 0, 0}, {1, 0, 0}, {0, 1, 0}}, [][3]int32{{0, 1, 2}}},
		{"was the right unit chosen", []Vec{{0, 0, 0}, {1e-4, 0, 0}, {0, 1e-4, 0}}, [][3]int32{{0, 1, 2}}},
	} {
		_, err := NewMesh(c.points, c.triangles)
		require.Error(t, err, c.says)
		assert.Contains(t, unit.InMetric(err.Error()), c.says)
	}
	// A ring has a hole.
	var ring []Vec
	var all [][3]int32
	for k := range int32(12) {
		s, co := math.Sincos(2 * math.Pi * float64(k) / 12)
		ring = append(ring, Vec{co, s, 0}, Vec{co / 2, s / 2, 0})
		a, b, c, d := 2*k, 2*k+1, (2*k+2)%24, (2*k+3)%24
		all = append(all, [3]int32{a, c, d}, [3]int32{a, d, b})
	}
	_, err := NewMesh(ring, all)
	require.ErrorContains(t, err, "the surface is open at")
	// A strip that is joined after half a twist has one side.
	var strip []Vec
	all = nil
	const n = 20
	for k := range n {
		a := 2 * math.Pi * float64(k) / n
		sin, cos := math.Sincos(a)
		s2, c2 := math.Sincos(a / 2)
		for _, w := range []float64{-0.2, 0.2} {
			strip = append(strip, Vec{(1 + w*c2) * cos, (1 + w*c2) * sin, w * s2})
		}
	}
	for k := range int32(n) {
		a, b, c, d := 2*k, 2*k+1, 2*k+2, 2*k+3
		if k == n-1 {
			c, d = 1, 0
		}
		all = append(all, [3]int32{a, c, b}, [3]int32{b, c, d})
	}
	_, err = NewMesh(strip, all)
	require.ErrorContains(t, err, "one side only")
}

func TestAPlaceIsFoundDownhill(t *testing.T) {
	m := usual(t, SphereCap, 5000)
	for k := range 50 {
		a, l := float64(k), 0.3*math.Sqrt(float64(k)/50)
		p := Vec{l * math.Cos(a), l * math.Sin(a), math.Sqrt(0.16-l*l) - 0.4 + 0.01}
		far, _ := m.Locate(p)
		near, inside := m.find(0, p)
		assert.True(t, inside)
		assert.InDelta(t, 0, far.Distance(near.at), 1e-9)
	}
	_, inside := m.find(0, Vec{1, 0, -0.2})
	assert.False(t, inside, "beyond the edge")
}

func TestSurfacesThatCannotBe(t *testing.T) {
	for _, c := range []struct {
		kind, says string
		dims       map[string]float64
	}{
		{"egg", "no surface that is known", nil},
		{Cylinder, "radius of a cylinder must be above zero", nil},
		{SphereCap, "at most 162°", map[string]float64{"radius": 1, "angle": 3}},
		{Paraboloid, "inner radius lies below", map[string]float64{"focal": 1, "inner": 2, "outer": 1, "angle": 1}},
		{Torus, "thinner than its ring", map[string]float64{"ring": 0.1, "tube": 0.2, "angle": 1, "round": 1}},
		{BoxCorner, "leaves nothing flat", map[string]float64{"length": 0.1, "width": 0.1, "height": 0.05, "ramp": 1,
			"radius": 0.5}},
		{Saddle, "no more than 50 m", map[string]float64{"radius": 60, "length": 1, "width": 1}},
		{Cone, "below a full turn", map[string]float64{"first": 1, "last": 0.5, "length": 1, "angle": 6.25}},
	} {
		_, err := NewSurface(c.kind, c.dims, 1000)
		require.ErrorContains(t, err, c.says)
	}
}

// A cap offset by a depth is a larger cap; a hollow, a smaller one.
func TestAnOffsetSurface(t *testing.T) {
	m := usual(t, SphereCap, 20_000)
	for _, d := range []float64{0.01, -0.01} {
		assert.InEpsilon(t, m.Area()*math.Pow((0.4+d)/0.4, 2), m.Offset(d).Area(), 1e-3)
	}
	assert.Same(t, m, m.Offset(0))
}
