package nest

import (
	"fmt"
	"math"
	"slices"
)

// Check says what of a problem cannot be nested, as [Nest] would: a [FieldError].
func Check(p Problem) error { return checkProblem(p) }

// Snap is a place for one piece among the others as they lie: where it is wanted if that is free, else pushed out
// of what it overlaps; then drawn to the start and to the lower edge by at most reach, m, until it touches. Over
// are the pieces that it still overlaps, or the flaw or edge in words.
func Snap(p Problem, r Layout, want Placement, reach float64) (at Placement, over []string, err error) {
	i := slices.IndexFunc(p.Pieces, func(q Piece) bool { return q.ID == want.ID })
	if i < 0 {
		return want, nil, &FieldError{"piece", fmt.Sprintf("there is no piece %s", want.ID)}
	}
	if want.Sheet < 0 || want.Sheet >= len(p.Sheets) || !p.Pieces[i].may(want.Sheet) ||
		want.Turn%90 != 0 || !slices.Contains(p.Pieces[i].turns(), want.Turn/90) {
		return want, nil, &FieldError{"piece", fmt.Sprintf("piece %s may not lie there at that angle", want.ID)}
	}
	s := newSearcher(newGround(p), 0, 0)
	s.end = s.bands[len(s.bands)-1].end()
	for _, q := range r.Placements {
		if k := slices.IndexFunc(p.Pieces, func(o Piece) bool { return o.ID == q.ID }); k >= 0 {
			s.hold(k, q)
		}
	}
	s.hold(i, want)
	solid, b := s.solid(i), int(s.band[i])
	lo, hi, fits := s.domain(solid, b, s.bands[b].start+p.Sheets[b].Length)
	if !fits {
		return want, nil, &FieldError{"piece", fmt.Sprintf("piece %s is larger than the sheet", want.ID)}
	}
	clampX := func(v float64) float64 { return min(hi.X, max(lo.X, v)) }
	clampY := func(v float64) float64 { return min(hi.Y, max(lo.Y, v)) }
	x, y := clampX(s.x[i]), clampY(s.y[i])
	for range 200 {
		w := s.wayFrom(i, x, y)
		if w.count == 0 {
			break
		}
		x, y = clampX(x+w.x*1.02/w.count), clampY(y+w.y*1.02/w.count)
	}
	if s.wayFrom(i, x, y).count == 0 && reach > 0 {
		x = drawnBy(x, reach, func(v float64) bool { return v >= lo.X && s.wayFrom(i, v, y).count == 0 })
		y = drawnBy(y, reach, func(v float64) bool { return v >= lo.Y && s.wayFrom(i, x, v).count == 0 })
	}
	at = Placement{ID: want.ID, Sheet: b, X: micron(x - s.bands[b].start), Y: micron(y), Turn: want.Turn}
	return at, s.over(p, r, i, at), nil
}

// wayFrom is the way of a piece out of all that it overlaps at a place.
func (s *searcher) wayFrom(i int, x, y float64) (sum way) {
	e := eases[0]
	add := func(w way) {
		sum.x, sum.y, sum.count = sum.x+w.x, sum.y+w.y, sum.count+w.count
		sum.deepest = max(sum.deepest, w.deepest)
	}
	solid := s.solid(i)
	for j := range s.things {
		if j != i && s.band[j] >= 0 && s.band[j] == s.band[i] {
			add(s.tables.of(s.solid(j), solid).ways(x-s.x[j], y-s.y[j], e))
		}
	}
	for _, o := range s.still {
		add(s.tables.of(o.solid, solid).ways(x-o.x, y-o.y, e))
	}
	return sum
}

// over says what a piece does not lie clear of, by the exact test.
func (s *searcher) over(p Problem, r Layout, i int, at Placement) []string {
	var out []string
	own := lie(p.Pieces[i], at)
	if err := own.within(p, p.Sheets[at.Sheet], p.Sheets[at.Sheet].Length); err != nil {
		out = append(out, "edge or flaw")
	}
	for _, q := range r.Placements {
		k := slices.IndexFunc(p.Pieces, func(o Piece) bool { return o.ID == q.ID })
		if q.ID == at.ID || q.Sheet != at.Sheet || k < 0 {
			continue
		}
		other := lie(p.Pieces[k], q)
		if math.Max(other.box.Min.X, own.box.Min.X)-math.Min(other.box.Max.X, own.box.Max.X) > p.Gap {
			continue
		}
		if other.apart(&own, p.Gap) != nil {
			out = append(out, q.ID)
		}
	}
	return out
}
