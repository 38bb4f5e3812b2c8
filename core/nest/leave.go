package nest

import (
	"cmp"
	"fmt"
	"math"
	"slices"

	"juxta/core/unit"
)

// kitOf is what a piece is left out with.
func kitOf(q Piece) string {
	if q.Kit == "" {
		return "piece " + q.ID
	}
	return q.Kit
}

// kits are those of a problem, the most important first.
func kits(p Problem) []string {
	var out []string
	for _, k := range p.First {
		if slices.ContainsFunc(p.Pieces, func(q Piece) bool { return q.Kit == k }) {
			out = append(out, k)
		}
	}
	for _, q := range p.Pieces {
		if k := kitOf(q); !slices.Contains(out, k) {
			out = append(out, k)
		}
	}
	return out
}

// out are the pieces that are left out next: those that fit nowhere with their kits, else the least
// important kit.
func (f *field) out() []string {
	var gone []string
	for _, i := range f.lost {
		gone = append(gone, kitOf(f.p.Pieces[i]))
	}
	if len(gone) == 0 {
		all := kits(f.p)
		gone = all[len(all)-1:]
	}
	var out []string
	for _, q := range f.p.Pieces {
		if slices.Contains(gone, kitOf(q)) {
			out = append(out, q.ID)
		}
	}
	return out
}

// tooShort says by how much the sheets are too short, and which kit could be left out.
func (f *field) tooShort() error {
	if len(f.lost) > 0 || f.best == nil {
		id := ""
		if len(f.lost) > 0 {
			id = f.p.Pieces[f.lost[0]].ID
		}
		return &FieldError{
			"sheets",
			fmt.Sprintf("piece %s fits on none of the sheets beside what must lie there as well", id),
		}
	}
	there := 0.0
	for _, s := range f.p.Sheets {
		there += s.Length
	}
	over := f.best.end - f.whole
	room := 0.0
	for _, t := range f.p.Sheets {
		room += t.Length * (t.Width - 2*t.EdgeTrim)
	}
	if f.ctx.Err() != nil && f.share() < patience && f.area <= room {
		return &FieldError{"sheets", fmt.Sprintf(
			"the search was stopped while the shortest layout was %s too long: with more time all may fit",
			unit.RollLength(hundredth(over), 2),
		)}
	}
	says := fmt.Sprintf(
		"%s are left and %s are needed: %s too short",
		unit.RollLength(there, 2),
		unit.RollLength(hundredth(there+over), 2),
		unit.RollLength(hundredth(over), 2),
	)
	// By their areas: the smallest kit that makes up for it.
	need := over / (there + over) * f.area
	best, least := "", math.Inf(1)
	for _, k := range kits(f.p) {
		area := 0.0
		for _, q := range f.p.Pieces {
			if kitOf(q) == k {
				area += q.Area()
			}
		}
		if area >= need && area < least && area < f.area {
			best, least = k, area
		}
	}
	if best != "" {
		says += fmt.Sprintf("; without %s it would fit, by the areas", best)
	}
	return &FieldError{"sheets", says}
}

// hundredth is a length rounded up to the centimetre.
func hundredth(v float64) float64 { return math.Ceil(v*100-0.01) / 100 }

// gather exchanges pieces that are as one another, so that those of a kit lie close together (along the
// sheets the first places go to the most important kit), or are spread: the kits take turns.
func (g *ground) gather(r *Layout) {
	rank := map[string]int{}
	for k, kit := range kits(g.p) {
		rank[kit] = k
	}
	type group struct{ pieces, places []int }
	groups := map[string]*group{}
	var keys []string
	at := map[string]int{}
	for k, p := range r.Placements {
		at[p.ID] = k
	}
	for i, q := range g.p.Pieces {
		k, laid := at[q.ID]
		if !laid || q.At != nil {
			continue
		}
		key := fmt.Sprint(g.things[i].kind, g.things[i].turns, q.Sheets, q.Batch)
		if groups[key] == nil {
			groups[key] = &group{}
			keys = append(keys, key)
		}
		groups[key].pieces = append(groups[key].pieces, i)
		groups[key].places = append(groups[key].places, k)
	}
	for _, key := range keys {
		own := groups[key]
		turn, count := map[int]int{}, map[string]int{}
		for _, i := range own.pieces {
			kit := kitOf(g.p.Pieces[i])
			if g.p.Spread {
				turn[i] = count[kit]
			}
			count[kit]++
		}
		slices.SortStableFunc(own.pieces, func(a, b int) int {
			return cmp.Or(
				cmp.Compare(turn[a], turn[b]),
				cmp.Compare(rank[kitOf(g.p.Pieces[a])], rank[kitOf(g.p.Pieces[b])]),
			)
		})
		places := make([]Placement, len(own.places))
		for k, n := range own.places {
			places[k] = r.Placements[n]
		}
		slices.SortFunc(places, func(a, b Placement) int {
			return cmp.Or(cmp.Compare(a.Sheet, b.Sheet), cmp.Compare(a.X, b.X), cmp.Compare(a.Y, b.Y))
		})
		for k, i := range own.pieces {
			places[k].ID = g.p.Pieces[i].ID
			r.Placements[own.places[k]] = places[k]
		}
	}
}
