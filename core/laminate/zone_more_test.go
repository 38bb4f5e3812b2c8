package laminate

import (
	"fmt"
	"math"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"juxta/core/geom"
)

// sums are the areas of zones by the names of their plies.
func sums(t *rapid.T, plies []PlacedPly) map[string]float64 {
	zones, err := Zones(plies)
	require.NoError(t, err)
	out := map[string]float64{}
	for _, z := range zones {
		var names []string
		for _, p := range z.Stack(nil, plies) {
			names = append(names, p.Name)
		}
		slices.Sort(names)
		out[fmt.Sprint(names)] += z.Area
	}
	return out
}

// alike compares areas. Only a zone that is just as thin as [thin] may be told by
// one and be given to its neighbour by the other: on these parts it has at most
// thin times 0.4 m, and the others may be off by what was given, no more.
func alike(t *rapid.T, want, got map[string]float64, says string) {
	given := 0.0
	for _, pair := range [][2]map[string]float64{{want, got}, {got, want}} {
		for k, v := range pair[0] {
			if _, there := pair[1][k]; !there {
				assert.Less(t, v, thin*0.4, "%s: %s", says, k)
				given += v
			}
		}
	}
	for k, v := range want {
		if other, there := got[k]; there {
			assert.InDelta(t, v, other, 2e-7+given, "%s: %s", says, k)
		}
	}
}

// Zones do not depend on the order in which plies are laid, on the sense in
// which an outline is drawn, on its first corner, or on where the part lies.
func TestZonesDependOnTheOutlinesAlone(t *testing.T) {
	rapid.Check(t, func(rt *rapid.T) {
		var plies []PlacedPly
		for i := range rapid.IntRange(1, 6).Draw(rt, "plies") {
			plies = append(plies, PlacedPly{Ply: Ply{Name: fmt.Sprint(i), Lamina: graphiteEpoxy}, Outline: star(rt)})
		}
		want := sums(rt, plies)
		backwards := slices.Clone(plies)
		slices.Reverse(backwards)
		alike(rt, want, sums(rt, backwards), "laid the other way round")
		other := slices.Clone(plies)
		for i, p := range other {
			ring := slices.Clone(p.Outline)
			ring = append(ring[1:], ring[0])
			slices.Reverse(ring)
			other[i].Outline = ring
		}
		alike(rt, want, sums(rt, other), "drawn the other way round")
		turned := slices.Clone(plies)
		for i, p := range turned {
			turned[i].Outline = p.Outline.Rotate(math.Pi/2).Move(3, -2)
		}
		alike(rt, want, sums(rt, turned), "turned and moved")
	})
}

// A ply twice over is in the same zones twice.
func TestAPlyLaidTwiceMakesNoNewZone(t *testing.T) {
	rapid.Check(t, func(rt *rapid.T) {
		a, b := star(rt), star(rt)
		once, err := Zones([]PlacedPly{{Ply: Ply{Name: "a"}, Outline: a}, {Ply: Ply{Name: "b"}, Outline: b}})
		require.NoError(rt, err)
		twice, err := Zones(
			[]PlacedPly{
				{Ply: Ply{Name: "a"}, Outline: a},
				{Ply: Ply{Name: "b"}, Outline: b},
				{Ply: Ply{Name: "c"}, Outline: slices.Clone(a)},
			},
		)
		require.NoError(rt, err)
		require.Len(rt, twice, len(once))
		for i := range once {
			assert.InDelta(rt, once[i].Area, twice[i].Area, 1e-9)
			assert.Equal(rt, slices.Contains(twice[i].Plies, 0), slices.Contains(twice[i].Plies, 2))
		}
	})
}

// Which zones touch is the same seen from either.
func TestNeighboursKnowEachOther(t *testing.T) {
	rapid.Check(t, func(rt *rapid.T) {
		var plies []PlacedPly
		for i := range rapid.IntRange(2, 5).Draw(rt, "plies") {
			plies = append(plies, PlacedPly{Ply: Ply{Name: fmt.Sprint(i)}, Outline: star(rt)})
		}
		zones, err := Zones(plies)
		require.NoError(rt, err)
		for i, z := range zones {
			for _, j := range z.Beside {
				assert.NotEqual(rt, i, j)
				assert.Contains(rt, zones[j].Beside, i)
			}
		}
	})
}

// A pad in the middle of a panel shares its whole edge with the field.
func TestAPadLiesBesideTheField(t *testing.T) {
	zones, err := Zones(
		[]PlacedPly{
			{Ply: Ply{Name: "1"}, Outline: geom.Rect(0.4, 0.3)},
			{Ply: Ply{Name: "2"}, Outline: geom.Rect(0.1, 0.1).Move(0.1, 0.1)},
			{Ply: Ply{Name: "3"}, Outline: geom.Rect(0.05, 0.05).Move(0.12, 0.12)},
		},
	)
	require.NoError(t, err)
	require.Len(t, zones, 3)
	assert.Equal(t, [][]int{{1}, {0, 2}, {1}}, [][]int{zones[0].Beside, zones[1].Beside, zones[2].Beside})
}
