package nest

import (
	"fmt"
	"math"
	"math/rand/v2"

	"juxta/core/geom"
)

// kit is a kit of plies as shops cut them: rectangles, bias strips, sectors of cones and of rings, patches
// with notches, some of them several times.
func kit(seed uint64, n int) []Piece {
	rng := rand.New(rand.NewPCG(seed, 11))
	between := func(lo, hi float64) float64 { return micron(lo + (hi-lo)*rng.Float64()) }
	var out []Piece
	for len(out) < n {
		var r geom.Ring
		switch len(out) % 5 {
		case 0:
			r = geom.Rect(between(0.1, 0.5), between(0.06, 0.35))
		case 1: // a strip on the bias, cut along the fibre
			w, h := between(0.25, 0.7), between(0.05, 0.15)
			r = geom.Ring{{X: 0, Y: 0}, {X: w, Y: 0}, {X: w + h, Y: h}, {X: h, Y: h}}
		case 2: // of a cone, nearly a full sector
			outer := between(0.15, 0.3)
			r = ringSector(outer*between(0.2, 0.5), outer, between(0.8, 1.8))
		case 3:
			outer := between(0.2, 0.5)
			r = ringSector(outer*between(0.7, 0.85), outer, between(0.6, 1.3))
		case 4: // a patch with notches
			w, h := between(0.12, 0.35), between(0.12, 0.3)
			d := micron(h * 0.3)
			r = geom.Ring{
				{
					X: 0,
					Y: 0,
				}, {X: w * 0.4, Y: 0}, {X: w * 0.5, Y: d}, {X: w * 0.6, Y: 0}, {X: w, Y: 0}, {X: w, Y: h},
				{X: w * 0.7, Y: h},
				{X: w * 0.7, Y: h - d}, {X: w * 0.3, Y: h - d}, {X: w * 0.3, Y: h}, {X: 0, Y: h},
			}
		}
		turn := 0.0
		if rng.IntN(3) == 0 {
			turn = math.Pi
		}
		for range 1 + rng.IntN(3) {
			if len(out) < n {
				out = append(out, Piece{ID: fmt.Sprint(len(out)), Outline: whole(r.Rotate(turn)), HalfTurn: true})
			}
		}
	}
	return out
}
