package laminate

import (
	"math/rand/v2"
	"slices"
)

// Range is the middle 90 % of what may come out, and the worst seen.
type Range struct{ Low, Middle, High, Worst float64 }

// tolerances is how many stacks a sweep looks at.
const tolerances = 200

// BowRange lets every ply lie off its angle by up to off radians, each for
// itself and equally likely anywhere between, and gives the range of the bow
// in m: an estimate by chance, the same for the same seed.
func BowRange(stack []Ply, off, deltaT, span float64, seed uint64) (Range, error) {
	rng := rand.New(rand.NewPCG(seed, 0x6c61))
	laid, bows := slices.Clone(stack), make([]float64, tolerances)
	for i := range bows {
		for k := range laid {
			laid[k].Angle = stack[k].Angle + (2*rng.Float64()-1)*off
		}
		w, err := WarpOf(laid, deltaT, span)
		if err != nil {
			return Range{}, err
		}
		bows[i] = w.Bow
	}
	slices.Sort(bows)
	return Range{bows[tolerances/20], bows[tolerances/2], bows[tolerances-1-tolerances/20], bows[tolerances-1]}, nil
}
