package laminate

import (
	"fmt"
	"math"
	"slices"
	"testing"

	sf "github.com/peterstace/simplefeatures/geom"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"juxta/core/geom"
)

// star is a ring round a place, on a coarse grid so that edges and corners of
// several often coincide.
func star(rt *rapid.T) geom.Ring {
	for {
		var r geom.Ring
		n := rapid.IntRange(3, 9).Draw(rt, "corners")
		for k := range n {
			a := 2 * math.Pi * float64(k) / float64(n)
			d := float64(rapid.IntRange(1, 6).Draw(rt, "far")) / 20
			r = append(r, geom.Point{X: math.Round(20*d*math.Cos(a)) / 20, Y: math.Round(20*d*math.Sin(a)) / 20})
		}
		r = r.Move(float64(rapid.IntRange(0, 4).Draw(rt, "x"))/20, float64(rapid.IntRange(0, 4).Draw(rt, "y"))/20)
		if r.Check() == nil {
			return r
		}
	}
}

// The geometry library's own overlay is the second method: the area that lies
// in exactly one set of outlines, by intersections and differences.
func TestZonesAgainstTheGeometryLibrary(t *testing.T) {
	rapid.Check(t, func(rt *rapid.T) {
		var plies []PlacedPly
		for i := range rapid.IntRange(1, 5).Draw(rt, "plies") {
			plies = append(plies, PlacedPly{Ply: Ply{Name: fmt.Sprint(i), Lamina: graphiteEpoxy}, Outline: star(rt)})
		}
		zones, err := Zones(plies)
		require.NoError(rt, err)
		var all sf.Geometry
		for _, p := range plies {
			all, err = sf.Union(all, p.Outline.Polygon())
			require.NoError(rt, err)
		}
		sum := 0.0
		for _, z := range zones {
			shape := plies[z.Plies[0]].Outline.Polygon()
			under := map[int]bool{}
			for _, i := range z.Plies {
				under[i] = true
				shape, err = sf.Intersection(shape, plies[i].Outline.Polygon())
				require.NoError(rt, err)
			}
			for i, p := range plies {
				if !under[i] {
					shape, err = sf.Difference(shape, p.Outline.Polygon())
					require.NoError(rt, err)
				}
			}
			// One in some thousand times the library loses a piece where edges of
			// three outlines meet: then a count over a fine grid decides.
			if want, off := shape.Area(), 1e-7; math.Abs(want-z.Area) > off {
				want, off = counted(plies, under), 4e-4
				assert.InDelta(rt, want, z.Area, off, "zone of plies %v", z.Plies)
			}
			for i, p := range plies {
				assert.Equal(rt, under[i], p.Outline.Contains(z.At), "the place of the zone lies in its plies alone")
			}
			sum += z.Area
		}
		assert.InEpsilon(rt, all.Area(), sum, 1e-9)
		// And under every ply lies what the ply covers.
		for i, p := range plies {
			covered := 0.0
			for _, z := range zones {
				for _, k := range z.Plies {
					if k == i {
						covered += z.Area
					}
				}
			}
			assert.InDelta(rt, p.Outline.Area(), covered, 1e-7+slivers(rt, plies))
		}
	})
}

// slivers is the area of what is given to neighbours: so much may lie under other
// plies than it is counted with, and no more.
func slivers(rt *rapid.T, plies []PlacedPly) (area float64) {
	var outlines []geom.Ring
	for _, p := range plies {
		if !slices.ContainsFunc(outlines, func(r geom.Ring) bool { return slices.Equal(r, p.Outline) }) {
			outlines = append(outlines, p.Outline)
		}
	}
	regions, err := overlay(outlines)
	require.NoError(rt, err)
	for k, into := range merged(regions) {
		if into != k {
			area += math.Abs(regions[k].area)
		}
	}
	return area
}

// counted is the area that lies under some plies and no others, by a grid of
// 1.5 mm.
func counted(plies []PlacedPly, under map[int]bool) float64 {
	const cell = 1.5e-3
	n := 0
	for x := -0.4; x < 0.8; x += cell {
		for y := -0.4; y < 0.8; y += cell {
			ok := true
			for i, p := range plies {
				ok = ok && p.Outline.Contains(geom.Point{X: x, Y: y}) == under[i]
			}
			if ok {
				n++
			}
		}
	}
	return float64(n) * cell * cell
}

func TestEdgesThatNearlyCoincideMakeNoZone(t *testing.T) {
	a := geom.Rect(0.4, 0.3)
	b := geom.Ring{{X: 0, Y: 0}, {X: 0.2, Y: 2e-6}, {X: 0.4, Y: 0}, {X: 0.4, Y: 0.3}, {X: 0, Y: 0.3}}
	zones, err := Zones(
		[]PlacedPly{
			{Ply: Ply{Name: "1", Lamina: graphiteEpoxy}, Outline: a},
			{Ply: Ply{Name: "2", Lamina: graphiteEpoxy}, Outline: b},
		},
	)
	require.NoError(t, err)
	require.Len(t, zones, 1)
	assert.Equal(t, []int{0, 1}, zones[0].Plies)
	assert.InEpsilon(t, a.Area(), zones[0].Area, 1e-9)
}

func TestARingWithinARingIsAZoneOfItsOwn(t *testing.T) {
	zones, err := Zones(
		[]PlacedPly{
			{Ply: Ply{Name: "1"}, Outline: geom.Rect(1, 1)},
			{Ply: Ply{Name: "2"}, Outline: geom.Rect(0.5, 0.5).Move(0.25, 0.25)},
			{Ply: Ply{Name: "3"}, Outline: geom.Rect(1, 1).Move(3, 0)},
		},
	)
	require.NoError(t, err)
	require.Len(t, zones, 3)
	assert.InDelta(t, 1, zones[0].Area, 1e-9, "the piece apart")
	assert.InDelta(t, 0.75, zones[1].Area, 1e-9)
	assert.InDelta(t, 0.5, zones[1].Centroid.X, 1e-9)
	_, err = Zones([]PlacedPly{{Ply: Ply{Name: "7"}, Outline: geom.Ring{{X: 0, Y: 0}, {X: 1, Y: 1}}}})
	assert.ErrorContains(t, err, "ply 7")
}

// Three hundred plies with 60 corners each, none like another: a stack that
// drops off in steps of 1 mm, with 100 patches spread over it.
func BenchmarkZonesOf300Plies(b *testing.B) {
	var plies []PlacedPly
	for i := range 300 {
		var ring geom.Ring
		for k := range 60 {
			s, c := math.Sincos(2 * math.Pi * float64(k) / 60)
			r := 0.5 - 0.001*float64(i)
			x, y := 0.0, 0.0
			if i >= 200 {
				r, x, y = 0.03, 0.08*float64(i%10)-0.36, 0.08*float64(i/10%10)-0.36
			}
			ring = append(ring, geom.Point{X: x + r*c, Y: y + r*s})
		}
		plies = append(plies, PlacedPly{Ply: Ply{Name: fmt.Sprint(i), Lamina: graphiteEpoxy}, Outline: ring})
	}
	n := 0
	for b.Loop() {
		zones, err := Zones(plies)
		require.NoError(b, err)
		n = len(zones)
	}
	b.ReportMetric(float64(n), "zones")
}

// A drawing that is a tangle is refused before it is worked out: two hundred
// outlines would make some 300,000 zones.
func TestATangleIsRefusedInWords(t *testing.T) {
	wavy := func(k int) geom.Ring {
		ring := make(geom.Ring, 100)
		for i := range ring {
			s, c := math.Sincos(2 * math.Pi * float64(i) / 100)
			r := 1 + 0.1*math.Sin(2*math.Pi*9*float64(i)/100+float64(k))
			ring[i] = geom.Point{X: r*c + 1e-3*float64(k), Y: r * s}
		}
		return ring
	}
	for _, n := range []int{120, 200} { // regions too many, crossings too many
		plies := make([]PlacedPly, n)
		for k := range plies {
			plies[k].Outline = wavy(k)
		}
		_, err := Zones(plies)
		require.ErrorIs(t, err, errTangle, n)
	}
	_, err := Zones([]PlacedPly{{Outline: wavy(0)}, {Outline: wavy(1)}})
	require.NoError(t, err)
}
