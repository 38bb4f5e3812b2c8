package pattern

import (
	"fmt"
	"math"

	"juxta/core/geom"
	"juxta/core/unit"
)

// Splice is how a ply that is wider than its roll is laid of pieces.
type Splice struct {
	Usable  float64   // of the roll across, m
	Overlap float64   // at a splice; 0: butt
	Avoid   []float64 // levels of the splices of a neighbour that lies alike
	Stagger float64   // how far from these splices lie at the least
}

// SplicePieces are the pieces of an outline that lies as it is cut, with its fibre along x, and the
// levels of their splices: these run along the fibre and never across it. Pieces are equal, or
// shifted so far that the splices lie a stagger from a neighbour's; where the roll leaves no room
// for that, they are of a piece more. One that fits is one piece.
func SplicePieces(outline geom.Ring, s Splice) (pieces []geom.Ring, levels []float64, err error) {
	box := outline.Bounds()
	high := box.Height()
	if high <= s.Usable+1e-9 {
		return []geom.Ring{outline}, nil, nil
	}
	if !(s.Overlap >= 0) || !(s.Usable > 0) || s.Overlap >= s.Usable/2 {
		return nil, nil, fmt.Errorf(
			"an overlap of %s is too wide for pieces of %s",
			unit.Size(s.Overlap, 0),
			unit.Size(s.Usable, 0),
		)
	}
	least := int(math.Ceil((high-s.Overlap)/(s.Usable-s.Overlap) - 1e-9))
	if least > 200 {
		return nil, nil, fmt.Errorf("it would be spliced of %d pieces: a wider roll is needed", least)
	}
	best, n, shift := math.Inf(-1), least, 0.0
	for more := range 3 {
		for _, by := range s.shifts(high, least+more) {
			apart := s.apart(s.levels(box.Min.Y, high, least+more, by))
			if apart > best+1e-9 {
				best, n, shift = apart, least+more, by
			}
			if best >= s.Stagger {
				break
			}
		}
		if best >= s.Stagger {
			break
		}
	}
	levels = s.levels(box.Min.Y, high, n, shift)
	for k := range n {
		lo, hi := box.Min.Y, box.Max.Y
		if k > 0 {
			lo = levels[k-1] - s.Overlap/2
		}
		if k < n-1 {
			hi = levels[k] + s.Overlap/2
		}
		part, err := outline.Band(lo, hi)
		if err != nil {
			return nil, nil, err
		}
		pieces = append(pieces, part...)
	}
	return pieces, levels, nil
}

// levels are the middles of the splices of n pieces, equal but for a shift.
func (s Splice) levels(from, high float64, n int, shift float64) []float64 {
	w := (high + float64(n-1)*s.Overlap) / float64(n)
	out := make([]float64, n-1)
	for k := range out {
		out[k] = from + float64(k+1)*(w-s.Overlap) + s.Overlap/2 + shift
	}
	return out
}

// shifts are those that the roll's width allows, the smallest first.
func (s Splice) shifts(high float64, n int) []float64 {
	w := (high + float64(n-1)*s.Overlap) / float64(n)
	most := min(s.Usable-w, (w-s.Overlap)/2)
	out := []float64{0}
	const steps = 20
	for k := 1; k <= steps; k++ {
		by := most * float64(k) / steps
		out = append(out, by, -by)
	}
	return out
}

// apart is how far splices lie from those that they avoid.
func (s Splice) apart(levels []float64) float64 {
	least := math.Inf(1)
	for _, a := range levels {
		for _, b := range s.Avoid {
			least = min(least, math.Abs(a-b))
		}
	}
	return least
}
