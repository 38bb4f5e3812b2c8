package laminate

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"sync"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"juxta/core/geom"
	"juxta/core/unit"
)

// A plan that was asked before answers for plies laid otherwise on the same
// outlines as a new one does.
func TestAPlanAnswersForPliesLaidAnew(t *testing.T) {
	rapid.Check(t, func(rt *rapid.T) {
		rings := []geom.Ring{geom.Rect(0.4, 0.3)}
		for range rapid.IntRange(1, 5).Draw(rt, "outlines") {
			w, x := rapid.Float64Range(0.05, 0.3).Draw(rt, "w"), rapid.Float64Range(0, 0.09).Draw(rt, "x")
			rings = append(rings, geom.Rect(w, w/2).Move(x, x/2))
		}
		var plies []PlacedPly
		for k := range rapid.IntRange(len(rings), 14).Draw(rt, "plies") {
			p := Ply{
				Name:     fmt.Sprint(k + 1),
				Material: "ud",
				Lamina:   graphiteEpoxy,
				Angle:    unit.Rad(float64(45 * (k % 4))),
			}
			p.Lamina.Thickness = 0.15e-3
			plies = append(plies, PlacedPly{Ply: p, Outline: rings[k%len(rings)]})
		}
		plan := NewOutlines(plies)
		answers := func(p *Outlines, plies []PlacedPly) (zones []Zone, found []Finding) {
			zones, err := p.Zones(plies)
			require.NoError(rt, err)
			return zones, p.Drops(plies, DefaultRules())
		}
		answers(plan, plies)
		// Others in their places, some thicker, one on another outline.
		r := rand.New(rand.NewPCG(rapid.Uint64().Draw(rt, "seed"), 1))
		for range 3 {
			r.Shuffle(len(plies), func(i, j int) { plies[i], plies[j] = plies[j], plies[i] })
			for k := range plies {
				plies[k].Name = fmt.Sprint(k + 1)
				plies[k].Lamina.Thickness = 0.15e-3 * float64(1+r.IntN(2))
				plies[k].Outline = slices.Clone(plies[k].Outline) // the same, elsewhere in memory
			}
			fresh := NewOutlines(plies)
			assert.Equal(rt, fresh.Key(), plan.Key())
			zones, found := answers(fresh, plies)
			again, told := answers(plan, plies)
			assert.Equal(rt, zones, again)
			assert.Equal(rt, found, told)
		}
		plies[0].Outline = plies[0].Outline.Move(1e-6, 0)
		assert.NotEqual(rt, NewOutlines(plies).Key(), plan.Key())
	})
}

// Many may ask one plan at once, and what is wrong with an outline is told to all.
func TestAPlanIsAskedByMany(t *testing.T) {
	good := []PlacedPly{
		{Ply: Ply{Name: "1", Lamina: graphiteEpoxy}, Outline: geom.Rect(0.4, 0.3)},
		{Ply: Ply{Name: "2", Lamina: graphiteEpoxy}, Outline: geom.Rect(0.2, 0.1).Move(0.1, 0.1)},
		{Ply: Ply{Name: "3", Lamina: graphiteEpoxy}, Outline: geom.Rect(0.1985, 0.1).Move(0.1, 0.1)},
	}
	bad := []PlacedPly{
		good[0],
		{
			Ply:     Ply{Name: "7", Lamina: graphiteEpoxy},
			Outline: geom.Ring{{X: 0, Y: 0}, {X: 1, Y: 1}, {X: 1, Y: 0}, {X: 0, Y: 1}},
		},
	}
	plan, faulty := NewOutlines(good), NewOutlines(bad)
	var all sync.WaitGroup
	for range 8 {
		all.Go(func() {
			zones, err := plan.Zones(good)
			assert.NoError(t, err)
			assert.Len(t, zones, 3)
			assert.Len(t, plan.Drops(good, DefaultRules()), 1)
			_, err = faulty.Zones(bad)
			assert.ErrorContains(t, err, "ply 7: ")
		})
	}
	all.Wait()
}
