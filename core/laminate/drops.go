package laminate

import (
	"fmt"
	"slices"

	"github.com/peterstace/simplefeatures/rtree"

	"juxta/core/geom"
)

// Drops holds the ends of plies in plan against the rules of drops: two ends
// keep a distance of DropSlope times the thickness of the ply that ends, and
// not more than MaxDrop plies end at one line. What ends at the part's own edge
// is no drop.
func Drops(layers []Placed, r Rules) []Finding {
	type end struct {
		ring  geom.Ring
		plies []int
	}
	var ends []end
	var edge geom.Ring // of the part: the largest outline
	for i, p := range layers {
		if !p.laminated() {
			continue
		}
		if p.Outline.Area() > edge.Area() {
			edge = p.Outline
		}
		k := slices.IndexFunc(ends, func(e end) bool { return slices.Equal(e.ring, p.Outline) })
		if k < 0 {
			k, ends = len(ends), append(ends, end{ring: p.Outline})
		}
		ends[k].plies = append(ends[k].plies, i)
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
	thickness := func(k int) (t float64) {
		for _, i := range ends[k].plies {
			t += layers[i].Lamina.Thickness
		}
		return t
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
	var items []rtree.BulkItem
	type piece struct {
		of   int
		a, b geom.Point
	}
	var pieces []piece
	for k, e := range ends {
		for i, a := range e.ring {
			b := e.ring[(i+1)%len(e.ring)]
			items = append(items, rtree.BulkItem{Box: rtree.Box{MinX: min(a.X, b.X), MinY: min(a.Y, b.Y), MaxX: max(a.X, b.X), MaxY: max(a.Y, b.Y)}, RecordID: len(pieces)})
			pieces = append(pieces, piece{k, a, b})
		}
	}
	tree := rtree.BulkLoad(items)
	type pair struct{ a, b int }
	nearest := map[pair]float64{}
	for _, p := range pieces {
		reach := r.DropSlope * thickness(p.of)
		for _, at := range []geom.Point{p.a, {X: (p.a.X + p.b.X) / 2, Y: (p.a.Y + p.b.Y) / 2}} {
			onEdge := 0 // not known yet: it is looked at only where something is near
			_ = tree.RangeSearch(rtree.Box{MinX: at.X - reach, MinY: at.Y - reach, MaxX: at.X + reach, MaxY: at.Y + reach}, func(i int) error {
				q := pieces[i]
				if q.of == p.of {
					return nil
				}
				d := at.To(q.a, q.b)
				// Under 1 µm they end together, which the other rule counts.
				key := pair{min(p.of, q.of), max(p.of, q.of)}
				if old, seen := nearest[key]; d <= 1e-6 || d >= reach || seen && d >= old {
					return nil
				}
				if onEdge == 0 {
					onEdge = 1
					if edge.Distance(at) > 1e-6 {
						onEdge = 2
					}
				}
				if onEdge == 2 && edge.Distance(at.Nearest(q.a, q.b)) > 1e-6 {
					nearest[key] = d
				}
				return nil
			})
		}
	}
	keys := make([]pair, 0, len(nearest))
	for k := range nearest {
		keys = append(keys, k)
	}
	slices.SortFunc(keys, func(a, b pair) int { return (a.a-b.a)*len(ends) + a.b - b.b })
	for _, k := range keys {
		need := r.DropSlope * max(thickness(k.a), thickness(k.b))
		n := names(k.a, k.b)
		found = append(found, Finding{"drop", fmt.Sprintf("%s end %.1f mm apart, at least %.1f mm", plies(n), nearest[k]*1e3, need*1e3), n})
	}
	return found
}
