package laminate

import (
	"cmp"
	"fmt"
	"math"
	"slices"

	sf "github.com/peterstace/simplefeatures/geom"

	"juxta/core/geom"
)

// Placed is a ply with its outline on the tool.
type Placed struct {
	Ply
	Outline geom.Ring
}

// Zone is a region of the part with one and the same stack all over.
type Zone struct {
	Stack []Ply
	Area  float64 // m²
}

// sliver is the area in m² below which a zone is a rounding of two edges that
// were meant to coincide.
const sliver = 1e-7

// Zones splits a part into its regions of equal stack, the largest first. The
// plies come in lay order and every stack keeps it. Each outline cuts every
// region found so far into what lies under it and what does not; plies of one
// outline, as most of a part are, cut once.
func Zones(plies []Placed) ([]Zone, error) {
	type region struct {
		shape    sf.Geometry
		outlines []int // indices of the outlines over it
	}
	var outlines []geom.Ring
	of := make([]int, len(plies)) // the outline of each ply
	var regions []region
	var covered sf.Geometry // all that some ply covers so far
	for i, p := range plies {
		of[i] = slices.IndexFunc(outlines, func(r geom.Ring) bool { return slices.Equal(r, p.Outline) })
		if of[i] >= 0 {
			continue
		}
		of[i] = len(outlines)
		outlines = append(outlines, p.Outline)
		if err := p.Outline.Check(); err != nil {
			return nil, fmt.Errorf("ply %s: %w", p.Name, err)
		}
		ply := p.Outline.Polygon()
		fresh, err := sf.Difference(ply, covered)
		if err != nil {
			return nil, fmt.Errorf("ply %s: %w", p.Name, err)
		}
		var next []region
		for _, r := range regions {
			under, err := sf.Intersection(r.shape, ply)
			if err != nil {
				return nil, fmt.Errorf("ply %s: %w", p.Name, err)
			}
			if under.Area() < sliver {
				next = append(next, r)
				continue
			}
			beside, err := sf.Difference(r.shape, ply)
			if err != nil {
				return nil, fmt.Errorf("ply %s: %w", p.Name, err)
			}
			// Nothing may be lost or made where the overlay meets nearly
			// coincident edges.
			if math.Abs(under.Area()+beside.Area()-r.shape.Area()) > sliver {
				return nil, fmt.Errorf("ply %s: its outline runs too close to another's edge to tell the two apart; let them coincide or lie apart", p.Name)
			}
			next = append(next, region{under, append(slices.Clone(r.outlines), of[i])})
			if beside.Area() >= sliver {
				next = append(next, region{beside, r.outlines})
			}
		}
		if fresh.Area() >= sliver {
			next = append(next, region{fresh, []int{of[i]}})
		}
		regions = next
		if covered, err = sf.Union(covered, ply); err != nil {
			return nil, fmt.Errorf("ply %s: %w", p.Name, err)
		}
	}
	var zones []Zone
	for _, r := range regions {
		var stack []Ply
		for i, p := range plies {
			if slices.Contains(r.outlines, of[i]) {
				stack = append(stack, p.Ply)
			}
		}
		same := slices.IndexFunc(zones, func(z Zone) bool {
			return slices.EqualFunc(z.Stack, stack, func(a, b Ply) bool { return a.Name == b.Name })
		})
		if same >= 0 {
			zones[same].Area += r.shape.Area()
			continue
		}
		zones = append(zones, Zone{stack, r.shape.Area()})
	}
	slices.SortStableFunc(zones, func(a, b Zone) int { return cmp.Compare(b.Area, a.Area) })
	return zones, nil
}

// Mass is that of the plies as laid, in kg: areal mass times area. No resin is
// bled, nothing is trimmed.
func Mass(plies []Placed) float64 {
	sum := 0.0
	for _, p := range plies {
		sum += p.Lamina.ArealMass * p.Outline.Area()
	}
	return sum
}
