package nest

import (
	"math"
	"slices"
)

// mostSettled is how many ways to share pieces out among batches are tried.
const mostSettled = 64

// settled is a problem whose pieces that must be of one batch may lie on the sheets of one batch only: of all
// ways to share them out, the one whose first layout loses the least and is the shortest.
func settled(p Problem) Problem {
	all := settlements(p)
	if len(all) == 1 {
		return all[0]
	}
	best, lostLeast, shortest := p, math.MaxInt, math.Inf(1)
	for _, q := range all {
		g := newGround(q)
		s := newSearcher(g, 0, 1)
		order := g.sequence()
		lost := len(s.start(order, max(6, min(24, 900/len(order)))))
		long := g.result(s.layout).Length
		if s.end > g.whole {
			long += s.end - g.whole // what lies beyond the end of the last sheet has no place
		}
		if lost < lostLeast || lost == lostLeast && long < shortest-1e-6 {
			best, lostLeast, shortest = q, lost, long
		}
	}
	return best
}

// settlements are the ways to give every batch that pieces ask for one of the sheets': all of them, up to a number.
func settlements(p Problem) []Problem {
	var asked []string
	for _, q := range p.Pieces {
		if q.Batch != "" && !slices.Contains(asked, q.Batch) {
			asked = append(asked, q.Batch)
		}
	}
	var batches []string
	for _, s := range p.Sheets {
		if !slices.Contains(batches, s.Batch) {
			batches = append(batches, s.Batch)
		}
	}
	if len(asked) == 0 {
		return []Problem{p}
	}
	var out []Problem
	for way, over := make([]int, len(asked)), false; !over && len(out) < mostSettled; {
		if q, any := p.settledAs(asked, batches, way); any {
			out = append(out, q)
		}
		// The next way, as a number is counted up.
		k := 0
		for ; k < len(way); k++ {
			if way[k]++; way[k] < len(batches) {
				break
			}
			way[k] = 0
		}
		over = k == len(way)
	}
	if len(out) == 0 {
		return []Problem{p}
	}
	return out
}

// settledAs gives every batch that is asked for one of the sheets'; false where a piece has no sheet then.
func (p Problem) settledAs(asked, batches []string, way []int) (Problem, bool) {
	out := p
	out.Pieces = slices.Clone(p.Pieces)
	for i, q := range out.Pieces {
		if q.Batch == "" {
			continue
		}
		own := batches[way[slices.Index(asked, q.Batch)]]
		var sheets []int
		for k, s := range p.Sheets {
			if s.Batch == own && q.may(k) {
				sheets = append(sheets, k)
			}
		}
		if len(sheets) == 0 || q.At != nil && !slices.Contains(sheets, q.At.Sheet) {
			return p, false
		}
		out.Pieces[i].Sheets = sheets
	}
	return out, true
}
