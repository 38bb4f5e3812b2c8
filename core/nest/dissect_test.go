package nest

import (
	"cmp"
	"fmt"
	"math"
	"math/rand/v2"
	"slices"

	"juxta/core/geom"
)

// dissection cuts a rectangle exactly into pieces: the largest is cut again and again by a line through it,
// or by a bent one, until there are so many. They are shuffled and half of them turned. The shortest
// strip is the rectangle itself.
func dissection(seed uint64, n int, bent bool) (pieces []Piece, width, length float64) {
	rng := rand.New(rand.NewPCG(seed, 7))
	width = 0.6
	length = 0.6 * (0.8 + rng.Float64()*1.4)
	all := []geom.Ring{geom.Rect(length, width)}
	for tries := 0; len(all) < n; tries++ {
		slices.SortStableFunc(all, func(a, b geom.Ring) int { return cmp.Compare(b.Area(), a.Area()) })
		// One that will not be cut is left, and the next one is.
		k := min(tries/50, len(all)-1)
		if a, b, ok := cutApart(rng, all[k], bent); ok {
			all[k], tries = a, 0
			all = append(all, b)
		}
	}
	rng.Shuffle(len(all), func(i, j int) { all[i], all[j] = all[j], all[i] })
	for i, r := range all {
		if i%2 == 0 {
			r = r.Rotate(math.Pi)
		}
		low := r.Bounds().Min
		pieces = append(pieces, Piece{ID: fmt.Sprint(i), Outline: r.Move(-low.X, -low.Y), HalfTurn: true})
	}
	return pieces, width, length
}

// cutApart cuts a ring between places of two of its sides, over a bend if it is to be.
func cutApart(rng *rand.Rand, r geom.Ring, bent bool) (a, b geom.Ring, ok bool) {
	n := len(r)
	i := rng.IntN(n)
	j := rng.IntN(n)
	if i == j {
		return nil, nil, false
	}
	if i > j {
		i, j = j, i
	}
	on := func(k int) geom.Point {
		p, q, t := r[k], r[(k+1)%n], 0.25+0.5*rng.Float64()
		return geom.Point{X: micron(p.X + t*(q.X-p.X)), Y: micron(p.Y + t*(q.Y-p.Y))}
	}
	p, q := on(i), on(j)
	way := []geom.Point{p, q}
	if bent {
		off := (rng.Float64() - 0.5) * 0.5
		way = []geom.Point{p, {X: micron((p.X+q.X)/2 - off*(q.Y-p.Y)), Y: micron((p.Y+q.Y)/2 + off*(q.X-p.X))}, q}
	}
	a = append(slices.Clone(r[:i+1]), way...)
	a = append(a, r[j+1:]...)
	slices.Reverse(way)
	b = append(slices.Clone(r[i+1:j+1]), way...)
	for _, s := range []geom.Ring{a, b} {
		box := s.Bounds()
		if s.Check() != nil || s.Area() < 0.3*r.Area() || s.Area() < 0.25*box.Width()*box.Height() {
			return nil, nil, false
		}
		// All of it is of the ring: the cut does not leave it on its way.
		if shared, err := geom.Overlap(s, r); err != nil || math.Abs(shared-s.Area()) > 1e-6 {
			return nil, nil, false
		}
	}
	return a, b, true
}
