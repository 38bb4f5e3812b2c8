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
	"juxta/core/unit"
)

// mirrors says whether b is a's mirror image in mid-plane.
func mirrors(a, b Ply) bool {
	turned := math.Mod(unit.Deg(a.Angle-b.Angle)+720, 180)
	return a.Material == b.Material && (turned < 1e-6 || turned > 180-1e-6) &&
		(!a.Lamina.AsymmetricWeave || a.FaceUp != b.FaceUp)
}

func symmetric(stack []Ply) bool {
	for i := range stack {
		if !mirrors(stack[i], stack[len(stack)-1-i]) {
			return false
		}
	}
	return true
}

// Every way to leave plies out is tried: the fewest that make the rest its own
// mirror image are as many as the rule names, and without those it is one.
func TestUnpairedPliesAgainstEveryChoice(t *testing.T) {
	weave := graphiteEpoxy
	weave.AsymmetricWeave = true
	rapid.Check(t, func(rt *rapid.T) {
		var stack []Ply
		for k := range rapid.IntRange(1, 11).Draw(rt, "plies") {
			p := Ply{
				Name:     fmt.Sprint(k + 1),
				Material: "ud",
				Lamina:   graphiteEpoxy,
				Angle:    unit.Rad(float64(45 * rapid.IntRange(-1, 2).Draw(rt, "angle"))),
			}
			if rapid.IntRange(0, 3).Draw(rt, "weave") == 0 {
				p.Material, p.Lamina, p.FaceUp = "weave", weave, rapid.Bool().Draw(rt, "face")
			}
			stack = append(stack, p)
		}
		fewest := len(stack)
		for choice := range 1 << len(stack) {
			var rest []Ply
			for k, p := range stack {
				if choice>>k&1 == 1 {
					rest = append(rest, p)
				}
			}
			if symmetric(rest) {
				fewest = min(fewest, len(stack)-len(rest))
			}
		}
		odd := unpaired(stack)
		require.Len(rt, odd, fewest)
		var rest []Ply
		for _, p := range stack {
			if !slices.Contains(odd, p.Name) {
				rest = append(rest, p)
			}
		}
		assert.True(rt, symmetric(rest), "without %v it is symmetric", odd)
	})
}

// Long stacks, which are read 64 plies at a time, against the plain table of all
// intervals.
func TestUnpairedPliesOfLongStacks(t *testing.T) {
	rapid.Check(t, func(rt *rapid.T) {
		var stack []Ply
		angles := rapid.SliceOfN(rapid.SampledFrom([]float64{0, 45, 90, -45, 30}), 1, 120).Draw(rt, "half")
		for _, a := range angles {
			stack = append(stack, Ply{Material: "ud", Lamina: graphiteEpoxy, Angle: unit.Rad(a)})
		}
		if rapid.Bool().Draw(rt, "whole") {
			for k := len(angles) - 1; k >= 0; k-- {
				stack = append(stack, stack[k])
			}
		}
		// Some are taken away, some turned.
		for range rapid.IntRange(0, 6).Draw(rt, "faults") {
			k := rapid.IntRange(0, len(stack)-1).Draw(rt, "at")
			if rapid.Bool().Draw(rt, "gone") && len(stack) > 1 {
				stack = slices.Delete(stack, k, k+1)
				continue
			}
			stack[k].Angle += unit.Rad(15)
		}
		n := len(stack)
		for k := range stack {
			stack[k].Name = fmt.Sprint(k + 1)
		}
		most := make([][]int, n+1) // plies with partners in [i:j]
		for i := n; i >= 0; i-- {
			most[i] = make([]int, n+1)
			for j := i + 1; j <= n; j++ {
				if j == i+1 {
					most[i][j] = 1
					continue
				}
				most[i][j] = max(most[i+1][j], most[i][j-1])
				if mirrors(stack[i], stack[j-1]) {
					most[i][j] = max(most[i][j], most[i+1][j-1]+2)
				}
			}
		}
		odd := unpaired(stack)
		require.Len(rt, odd, n-most[0][n])
		rest := slices.DeleteFunc(stack, func(p Ply) bool { return slices.Contains(odd, p.Name) })
		assert.True(rt, symmetric(rest), "without %v it is symmetric", odd)
	})
}

// Squares within squares: two ends beside each other are told exactly where the
// gap between them, known by construction, is less than the rule asks for; ends
// with another between them are not told.
func TestDropsOfNestedSquares(t *testing.T) {
	thin := graphiteEpoxy
	thin.Thickness = 0.15e-3
	rules := Rules{DropSlope: 20} // 3 mm
	rapid.Check(t, func(rt *rapid.T) {
		layers := []PlacedPly{{Ply: Ply{Name: "0", Material: "m", Lamina: thin}, Outline: geom.Rect(0.4, 0.4)}}
		in, turn := 0.05, rapid.Float64Range(0, math.Pi/2).Draw(rt, "turn")
		var gaps []float64
		n := rapid.IntRange(2, 8).Draw(rt, "squares")
		for k := range n {
			// Between tenths of a millimetre, so that what is printed is plain.
			gap := 2 * (0.03e-3 + 0.1e-3*float64(rapid.IntRange(2, 40).Draw(rt, "tenths")))
			if k > 0 {
				in += gap
				gaps = append(gaps, gap)
			}
			side := 0.4 - 2*in
			ring := geom.Rect(side, side).Move(-side/2, -side/2).Rotate(turn).Move(0.2, 0.2)
			// The whole stays on the part whatever its turn.
			for i, p := range ring {
				ring[i] = geom.Point{X: 0.2 + (p.X-0.2)*0.5, Y: 0.2 + (p.Y-0.2)*0.5}
			}
			layers = append(
				layers,
				PlacedPly{Ply: Ply{Name: fmt.Sprint(k + 1), Material: "m", Lamina: thin}, Outline: ring},
			)
		}
		var want []string
		for k, gap := range gaps {
			if gap/2 < 3e-3-1e-9 {
				want = append(
					want,
					fmt.Sprintf("plies %d and %d end %.1f mm apart, at least 3.0 mm", k+1, k+2, gap/2*1e3),
				)
			}
		}
		var says []string
		for _, f := range Drops(layers, rules) {
			says = append(says, unit.InMetric(f.Message))
		}
		assert.Equal(rt, want, says)
		// Turning the whole part changes no answer.
		for i := range layers {
			layers[i].Outline = layers[i].Outline.Rotate(0.3).Move(1, -2)
		}
		assert.Len(rt, Drops(layers, rules), len(want))
	})
}

// Strips that lie on each other along three edges and end one before the other:
// told are neighbours along the fourth, by the gap between them, whichever way
// round their outlines run.
func TestDropsOfStripsWithSharedEdges(t *testing.T) {
	thin := graphiteEpoxy
	thin.Thickness = 0.15e-3
	rapid.Check(t, func(rt *rapid.T) {
		layers := []PlacedPly{{Ply: Ply{Name: "0", Material: "m", Lamina: thin}, Outline: geom.Rect(0.5, 0.4)}}
		long, turn := 0.3, rapid.Float64Range(0, math.Pi/2).Draw(rt, "turn")
		var want []string
		for k := range rapid.IntRange(2, 8).Draw(rt, "strips") {
			gap := 0.03e-3 + 0.1e-3*float64(rapid.IntRange(2, 60).Draw(rt, "tenths"))
			if long -= gap; k > 0 && gap < 3e-3 {
				want = append(want, fmt.Sprintf("plies %d and %d end %.1f mm apart, at least 3.0 mm", k, k+1, gap*1e3))
			}
			ring := geom.Rect(long, 0.06).Rotate(turn).Move(0.1, 0.05)
			if rapid.Bool().Draw(rt, "clockwise") {
				slices.Reverse(ring)
			}
			layers = append(
				layers,
				PlacedPly{Ply: Ply{Name: fmt.Sprint(k + 1), Material: "m", Lamina: thin}, Outline: ring},
			)
		}
		var says []string
		for _, f := range Drops(layers, Rules{DropSlope: 20}) {
			says = append(says, unit.InMetric(f.Message))
		}
		assert.Equal(rt, want, says)
	})
}

// A place inside each zone that is told one: an even-odd look at every outline
// says which plies lie over it.
func TestEveryZoneIsToldAPlaceInsideIt(t *testing.T) {
	rapid.Check(t, func(rt *rapid.T) {
		var plies []PlacedPly
		for k := range rapid.IntRange(1, 9).Draw(rt, "plies") {
			w, h := rapid.Float64Range(0.02, 0.3).Draw(rt, "w"), rapid.Float64Range(0.02, 0.3).Draw(rt, "h")
			ring := geom.Rect(w, h).
				Rotate(rapid.Float64Range(0, 3).Draw(rt, "turn")).
				Move(rapid.Float64Range(0, 0.2).Draw(rt, "x"), rapid.Float64Range(0, 0.2).Draw(rt, "y"))
			plies = append(plies, PlacedPly{Ply: Ply{Name: fmt.Sprint(k), Lamina: graphiteEpoxy}, Outline: ring})
		}
		zones, err := Zones(plies)
		require.NoError(rt, err)
		inside := 0
		for _, z := range zones[:min(named, len(zones))] {
			var over []int
			for k, p := range plies {
				if p.Outline.Contains(z.At) {
					over = append(over, k)
				}
			}
			if slices.Equal(z.Plies, over) {
				inside++
			} else {
				// Only a zone too thin for a level line beside its edges may miss.
				assert.Less(rt, z.Area, 1e-4, "zone of plies %v", z.Plies)
			}
		}
		assert.GreaterOrEqual(rt, inside, 1)
	})
}
