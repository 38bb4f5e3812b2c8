package laminate

import (
	"fmt"
	"math"
	"testing"

	"juxta/core/geom"
)

// What is looked at when a master of 500 plies changes: one zone's stack, and
// the ends of 50 plies that keep too little distance.
func BenchmarkInspectOf500Plies(b *testing.B) {
	var angles []float64
	for i := range 500 {
		angles = append(angles, float64(i*45%180))
	}
	stack := stackOf(graphiteEpoxy, angles...)
	for b.Loop() {
		Inspect(stack, DefaultRules())
	}
}

func BenchmarkDropsOf50Ends(b *testing.B) {
	var layers []PlacedPly
	thin := graphiteEpoxy
	thin.Thickness = 0.14e-3
	for i := range 500 {
		ring := geom.Rect(0.5, 0.36)
		if i%10 == 9 {
			ring = nil
			for k := range 48 {
				y, x := math.Sincos(2 * math.Pi * float64(k) / 48)
				ring = append(
					ring,
					geom.Point{X: 0.25 + (0.1-0.00015*float64(i))*x, Y: 0.18 + (0.1-0.00015*float64(i))*y},
				)
			}
		}
		layers = append(layers, PlacedPly{Ply: Ply{Name: fmt.Sprint(i + 1), Lamina: thin}, Outline: ring})
	}
	for b.Loop() {
		Drops(layers, DefaultRules())
	}
}
