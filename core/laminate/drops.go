package laminate

import (
	"cmp"
	"fmt"
	"math"
	"slices"

	"github.com/peterstace/simplefeatures/rtree"

	"juxta/core/geom"
	"juxta/core/unit"
)

// end is where plies end: those with one outline end together.
type end struct {
	outline   int // of the plan
	plies     []int
	thickness float64 // of all of them, m
}

// Drops holds the ends of plies in plan against the rules of drops: two ends
// beside each other keep a distance of DropSlope times the thickness of the ply
// that ends, and not more than MaxDrop plies end at one line. What ends at the
// part's own edge is no drop. Ends with another between them are not beside
// each other: that one is told. With n corners in all it takes O(n log n), and
// for two ends that come near each other the corners of one times those of the
// other.
func Drops(layers []PlacedPly, r Rules) []Finding { return NewOutlines(layers).Drops(layers, r) }

// Drops are those of layers on the plan's outlines: see [Drops].
func (p *Outlines) Drops(layers []PlacedPly, r Rules) []Finding {
	var ends []end // in the order in which they are laid
	edge := -1     // of the part: the largest outline
	for o, over := range p.over(layers) {
		e := end{outline: o}
		for _, i := range over {
			if layers[i].laminated() {
				e.plies = append(e.plies, i)
				e.thickness += layers[i].Lamina.Thickness
			}
		}
		if len(e.plies) == 0 {
			continue
		}
		if edge < 0 || p.outlines[o].Area() > p.outlines[edge].Area() {
			edge = o
		}
		ends = append(ends, e)
	}
	slices.SortFunc(ends, func(a, b end) int { return cmp.Compare(a.plies[0], b.plies[0]) })
	names := func(all []int) (out []string) {
		for _, i := range slices.Sorted(slices.Values(all)) {
			out = append(out, layers[i].Name)
		}
		return out
	}
	var found []Finding
	at, reach := make([]int, len(p.outlines)), make([]float64, len(p.outlines))
	for k, e := range ends {
		at[e.outline], reach[e.outline] = k, r.DropSlope*e.thickness
		if r.MaxDrop > 0 && len(e.plies) > r.MaxDrop && e.outline != edge {
			n := names(e.plies)
			found = append(
				found,
				Finding{
					"drop",
					fmt.Sprintf("%d plies end at one line, at most %d: %s", len(n), r.MaxDrop, plies(n)),
					n,
				},
			)
		}
	}
	if r.DropSlope <= 0 || edge < 0 {
		return found
	}
	type pair struct {
		a, b  int
		apart float64
	}
	var pairs []pair
	for k, apart := range p.neighbours(reach, edge) {
		a, b := at[k[0]], at[k[1]]
		pairs = append(pairs, pair{min(a, b), max(a, b), apart})
	}
	slices.SortFunc(pairs, func(p, q pair) int { return cmp.Or(cmp.Compare(p.a, q.a), cmp.Compare(p.b, q.b)) })
	for _, k := range pairs {
		a, b := ends[k.a], ends[k.b]
		n := names(slices.Concat(a.plies, b.plies))
		found = append(
			found,
			Finding{
				"drop",
				fmt.Sprintf(
					"%s end %s apart, at least %s",
					plies(n),
					unit.Size(k.apart, 1),
					unit.Size(r.DropSlope*max(a.thickness, b.thickness), 1),
				),
				n,
			},
		)
	}
	return found
}

// neighbours are those of the last time where reach is the same.
func (p *Outlines) neighbours(reach []float64, edge int) map[[2]int]float64 {
	p.mu.Lock()
	defer p.mu.Unlock()
	same := func(a, b float64) bool { return math.Abs(a-b) < 1e-12 }
	if p.near == nil || !slices.EqualFunc(p.reach, reach, same) {
		p.reach, p.near = reach, neighbours(p.outlines, reach, p.outlines[edge])
	}
	return p.near
}

// neighbours are pairs of outlines with the distance in m at which they lie
// beside each other, where that is less than either reaches: from every corner
// and middle of an outline to the nearest other one outside of it and inside. An
// outline without reach is none at which plies end.
func neighbours(outlines []geom.Ring, reach []float64, edge geom.Ring) map[[2]int]float64 {
	const touching = 1e-6 // so near they end together, or at the part's edge
	onEdge := along(edge, touching)
	var pieces []piece
	var items []rtree.BulkItem
	for k, ring := range outlines {
		if reach[k] <= 0 {
			continue
		}
		if ring.SignedArea() < 0 {
			ring = slices.Clone(ring)
			slices.Reverse(ring)
		}
		for i, a := range ring {
			b := ring[(i+1)%len(ring)]
			if onEdge(a) && onEdge(b) && onEdge(a.Middle(b)) {
				continue
			}
			items = append(items, rtree.BulkItem{Box: boxed(a, b), RecordID: len(pieces)})
			pieces = append(pieces, piece{k, ring[(i+len(ring)-1)%len(ring)], a, b})
		}
	}
	tree := rtree.BulkLoad(items)
	// The nearest other end outside of a piece's own and inside of it.
	type found struct {
		of int
		d  float64
	}
	nearest := func(p piece, at geom.Point, within float64) (sides [2]found) {
		sides = [2]found{{-1, within}, {-1, within}}
		_ = tree.RangeSearch(around(at, within), func(i int) error {
			q := pieces[i]
			if q.of == p.of {
				return nil
			}
			away := at.To(q.a, q.b)
			if away <= touching || away >= max(sides[0].d, sides[1].d) {
				return nil
			}
			n, side := at.Nearest(q.a, q.b), 0
			if p.inside(at, n) {
				side = 1
			}
			// Where it lies on this end's own line they end together, or cross.
			if away < sides[side].d && n.To(p.before, p.a) > touching && n.To(p.a, p.b) > touching && !onEdge(n) {
				sides[side] = found{q.of, away}
			}
			return nil
		})
		return sides
	}
	near := map[[2]int]float64{}
	var last [2]found
	from, of := geom.Point{}, -1
	for _, p := range pieces {
		reach := reach[p.of]
		for _, at := range []geom.Point{p.a, p.a.Middle(p.b)} {
			if onEdge(at) {
				continue
			}
			// What was nearest a step before is at most a step farther now: so
			// far is looked first.
			within := reach
			if step := math.Hypot(at.X-from.X, at.Y-from.Y); of == p.of {
				within = min(reach, (max(last[0].d, last[1].d)+step)*(1+1e-9))
			}
			sides := nearest(p, at, within)
			if within < reach && (sides[0].of < 0 || sides[1].of < 0) {
				sides = nearest(p, at, reach)
			}
			last, from, of = sides, at, p.of
			for _, s := range sides {
				if s.of < 0 {
					continue
				}
				key := [2]int{min(p.of, s.of), max(p.of, s.of)}
				if old, seen := near[key]; !seen || s.d < old {
					near[key] = s.d
				}
			}
		}
	}
	return near
}

// piece is a side of an end from a to b, counter-clockwise; before is the corner
// before a.
type piece struct {
	of           int
	before, a, b geom.Point
}

// inside says whether one goes into the outline on the way from a place on the
// piece to n: at its corner a, or between its corners.
func (p piece) inside(at, n geom.Point) bool {
	left := orient(p.a, p.b, n) > 0
	if at != p.a {
		return left
	}
	if orient(p.before, p.a, p.b) > 0 {
		return left && orient(p.before, p.a, n) > 0
	}
	return left || orient(p.before, p.a, n) > 0
}

// along tells of places whether they lie within a distance of an outline.
func along(ring geom.Ring, within float64) func(geom.Point) bool {
	items := make([]rtree.BulkItem, len(ring))
	for i, a := range ring {
		items[i] = rtree.BulkItem{Box: boxed(a, ring[(i+1)%len(ring)]), RecordID: i}
	}
	tree := rtree.BulkLoad(items)
	return func(p geom.Point) (lies bool) {
		_ = tree.RangeSearch(around(p, within), func(i int) error {
			if lies = p.To(ring[i], ring[(i+1)%len(ring)]) <= within; lies {
				return rtree.Stop
			}
			return nil
		})
		return lies
	}
}

func boxed(a, b geom.Point) rtree.Box {
	return rtree.Box{MinX: min(a.X, b.X), MinY: min(a.Y, b.Y), MaxX: max(a.X, b.X), MaxY: max(a.Y, b.Y)}
}

func around(p geom.Point, within float64) rtree.Box {
	return rtree.Box{MinX: p.X - within, MinY: p.Y - within, MaxX: p.X + within, MaxY: p.Y + within}
}
