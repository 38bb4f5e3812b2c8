package laminate

import (
	"cmp"
	"errors"
	"fmt"
	"maps"
	"slices"

	"juxta/core/geom"
)

// PlacedPly is a layer with its outline on the tool.
type PlacedPly struct {
	Ply
	Outline geom.Ring
	// Share is what is laid over what the outline holds in plan, in mass: overlaps, what is
	// trimmed, a surface that slopes; 0: the same. Kept is the share of that which stays on the
	// part whatever the trim line; 0: all.
	Share, Kept float64
}

// Zone is what of the part has one and the same stack, in one piece or more.
type Zone struct {
	Plies    []int // indices into the plies it was cut from, in lay order
	Area     float64
	Centroid geom.Point
	At       geom.Point // a place inside it, for the largest forty
	Beside   []int      // zones that share an edge with it
}

// thin is the mean width in m below which a zone is a rounding of two edges
// that were meant to coincide: it is given to the neighbour that it shares the
// longest edge with.
const thin = 5e-6

// named is how many zones are told a place inside: more are not drawn.
const named = 40

// Zones cuts a part into its regions of equal stack, the largest first. The
// plies come in lay order and every stack keeps it. The areas of all zones add
// up to that of the part to some 1e-10 of it; those under a ply to that of the
// ply, but for zones thinner than [thin], which are counted with a neighbour.
// The error names a ply whose outline is none.
func Zones(plies []PlacedPly) ([]Zone, error) { return NewOutlines(plies).Zones(plies) }

// Zones are those of plies on the plan's outlines: see [Zones].
func (p *Outlines) Zones(plies []PlacedPly) ([]Zone, error) {
	over := p.over(plies)
	covers, err := p.cut()
	if bad := (*badOutline)(nil); errors.As(err, &bad) {
		return nil, fmt.Errorf("ply %s: %w", plies[over[bad.outline][0]].Name, bad.err)
	}
	if err != nil {
		return nil, err
	}
	zones := make([]Zone, len(covers))
	for k, c := range covers {
		zones[k] = c.Zone
		zones[k].Plies = nil
		for _, o := range c.outlines {
			zones[k].Plies = append(zones[k].Plies, over[o]...)
		}
		slices.Sort(zones[k].Plies)
	}
	return zones, nil
}

// cover is a zone that knows its outlines, and no plies yet.
type cover struct {
	Zone
	outlines []int
}

// badOutline is what is wrong with an outline.
type badOutline struct {
	outline int
	err     error
}

func (b *badOutline) Error() string { return b.err.Error() }

// cutInto cuts the plane by outlines, the largest zone first.
func cutInto(outlines []geom.Ring) ([]cover, error) {
	for k, o := range outlines {
		if err := o.Check(); err != nil {
			return nil, &badOutline{k, err}
		}
	}
	regions, err := overlay(outlines)
	if err != nil {
		return nil, err
	}
	into := merged(regions)
	keys := slices.SortedFunc(maps.Keys(regions), func(a, b uint64) int {
		return cmp.Or(cmp.Compare(regions[b].area, regions[a].area), cmp.Compare(a, b))
	})
	at, zones := map[uint64]int{}, []cover{}
	for _, k := range keys {
		if into[k] != k {
			continue
		}
		at[k] = len(zones)
		r, z := regions[k], cover{}
		for o := range outlines {
			if r.in.has(o) {
				z.outlines = append(z.outlines, o)
			}
		}
		if len(zones) < named {
			z.At = r.place(outlines)
		}
		zones = append(zones, z)
	}
	sx, sy := make([]float64, len(zones)), make([]float64, len(zones))
	for _, k := range keys {
		if into[k] == 0 {
			continue
		}
		i, r := at[into[k]], regions[k]
		zones[i].Area += r.area
		sx[i], sy[i] = sx[i]+r.sx, sy[i]+r.sy
		for b := range r.beside {
			if b == 0 || into[b] == 0 || at[into[b]] == i {
				continue
			}
			if j := at[into[b]]; !slices.Contains(zones[i].Beside, j) {
				zones[i].Beside = append(zones[i].Beside, j)
			}
		}
	}
	for i := range zones {
		zones[i].Centroid = geom.Point{X: sx[i] / zones[i].Area, Y: sy[i] / zones[i].Area}
		slices.Sort(zones[i].Beside)
	}
	return zones, nil
}

// merged says which region each region is counted with: itself, or, for a
// sliver, the neighbour at its longest edge; 0 where a sliver borders nothing.
func merged(regions map[uint64]*region) map[uint64]uint64 {
	into := map[uint64]uint64{}
	// Where three edges meet nearly, what is left between them is so small that its
	// area is nothing but rounding, whatever its perimeter.
	sliver := func(k uint64) bool { return regions[k].area < max(thin*thin, thin*regions[k].perimeter/2) }
	for k := range regions {
		at := k
		// A sliver beside a sliver follows it, a few steps at most.
		for range 8 {
			if at == 0 || !sliver(at) {
				break
			}
			next, longest := uint64(0), 0.0
			for b, long := range regions[at].beside {
				if b != 0 && (long > longest || long == longest && b < next) &&
					(!sliver(b) || regions[b].area > regions[at].area) {
					next, longest = b, long
				}
			}
			at = next
		}
		if at != 0 && sliver(at) {
			at = 0
		}
		into[k] = at
	}
	return into
}

// Stack appends the stack of a zone.
func (z Zone) Stack(stack []Ply, plies []PlacedPly) []Ply {
	for _, k := range z.Plies {
		stack = append(stack, plies[k].Ply)
	}
	return stack
}
