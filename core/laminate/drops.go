package laminate

import (
	"fmt"
	"maps"
	"math"
	"slices"

	"github.com/peterstace/simplefeatures/rtree"

	"juxta/core/geom"
)

// end is where plies end: those with one outline end together.
type end struct {
	ring      geom.Ring
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
func Drops(layers []Placed, r Rules) []Finding {
	var ends []end
	var edge geom.Ring // of the part: the largest outline
	for i, p := range layers {
		if !p.laminated() {
			continue
		}
		k := slices.IndexFunc(ends, func(e end) bool { return slices.Equal(e.ring, p.Outline) })
		if k < 0 {
			k, ends = len(ends), append(ends, end{ring: p.Outline})
			if p.Outline.Area() > edge.Area() {
				edge = p.Outline
			}
		}
		ends[k].plies = append(ends[k].plies, i)
		ends[k].thickness += p.Lamina.Thickness
	}
	names := func(k ...int) (out []string) {
		var all []int
		for _, e := range k {
			all = append(all, ends[e].plies...)
		}
		slices.Sort(all)
		for _, i := range all {
			out = append(out, layers[i].Name)
		}
		return out
	}
	var found []Finding
	for k, e := range ends {
		if r.MaxDrop > 0 && len(e.plies) > r.MaxDrop && !slices.Equal(e.ring, edge) {
			n := names(k)
			found = append(found, Finding{"drop", fmt.Sprintf("%d plies end at one line, at most %d: %s", len(n), r.MaxDrop, plies(n)), n})
		}
	}
	if r.DropSlope <= 0 {
		return found
	}
	near := neighbours(ends, edge, r.DropSlope)
	for _, k := range slices.SortedFunc(maps.Keys(near), func(a, b [2]int) int { return slices.Compare(a[:], b[:]) }) {
		need := r.DropSlope * max(ends[k[0]].thickness, ends[k[1]].thickness)
		n := names(k[0], k[1])
		found = append(found, Finding{"drop", fmt.Sprintf("%s end %.1f mm apart, at least %.1f mm", plies(n), near[k]*1e3, need*1e3), n})
	}
	return found
}

// neighbours are pairs of ends with the distance in m at which they lie beside
// each other, where that is less than slope times the thickness that ends: from
// every corner and middle of an end to the nearest other one outside of it and
// inside.
func neighbours(ends []end, edge geom.Ring, slope float64) map[[2]int]float64 {
	const touching = 1e-6 // so near they end together, or at the part's edge
	onEdge := along(edge, touching)
	var pieces []piece
	var items []rtree.BulkItem
	for k, e := range ends {
		ring := e.ring
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
		reach := slope * ends[p.of].thickness
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
