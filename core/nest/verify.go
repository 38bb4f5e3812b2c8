package nest

import (
	"cmp"
	"fmt"
	"math"
	"slices"

	"juxta/core/geom"
	"juxta/core/unit"
)

// tolerance is how far a gap or an edge may be missed by rounding, m.
const tolerance = 2e-6

// Verify holds a result against its problem by other means than the engine's: every piece placed once or
// left out, turned only as it may be, held where it is held, on a sheet that it may lie on, inside its
// usable width and the length said, clear of flaws and of table ends, overlapping no other (exact integer
// arithmetic on whole micrometres) and at least the gap away from it, less 2 µm of rounding. The error
// names the pieces.
func Verify(p Problem, r Layout) error {
	byID := make(map[string]Piece, len(p.Pieces))
	for _, piece := range p.Pieces {
		byID[piece.ID] = piece
	}
	for _, id := range r.Left {
		if _, ok := byID[id]; !ok {
			return fmt.Errorf("piece %s is left out twice or was not asked for", id)
		}
		delete(byID, id)
	}
	if len(r.Placements) != len(byID) {
		return fmt.Errorf("%d pieces placed, %d asked for", len(r.Placements), len(byID))
	}
	if len(r.Used) != len(p.Sheets) {
		return fmt.Errorf("lengths of %d sheets are given, there are %d", len(r.Used), len(p.Sheets))
	}
	batches := map[string]string{}
	laid := make([]lying, len(r.Placements))
	for i, at := range r.Placements {
		piece, ok := byID[at.ID]
		if !ok {
			return fmt.Errorf("piece %s is placed twice or was not asked for", at.ID)
		}
		delete(byID, at.ID)
		switch {
		case at.Turn%90 != 0 || !slices.Contains(piece.turns(), at.Turn/90):
			return fmt.Errorf("piece %s is turned and may not be", at.ID)
		case at.Sheet < 0 || at.Sheet >= len(p.Sheets) || !piece.may(at.Sheet):
			return fmt.Errorf("piece %s lies on a sheet that it may not lie on", at.ID)
		case piece.At != nil && *piece.At != at:
			return fmt.Errorf("piece %s is not where it is held", at.ID)
		}
		if piece.Batch != "" {
			if own, known := batches[piece.Batch]; known && own != p.Sheets[at.Sheet].Batch {
				return fmt.Errorf("piece %s is of another batch than those it belongs to", at.ID)
			}
			batches[piece.Batch] = p.Sheets[at.Sheet].Batch
		}
		laid[i] = lie(piece, at)
		if err := laid[i].within(p, p.Sheets[at.Sheet], r.Used[at.Sheet]); err != nil {
			return err
		}
	}
	order := make([]int, len(laid))
	for i := range order {
		order[i] = i
	}
	slices.SortFunc(order, func(a, b int) int {
		return cmp.Or(
			cmp.Compare(laid[a].at.Sheet, laid[b].at.Sheet),
			cmp.Compare(laid[a].box.Min.X, laid[b].box.Min.X),
		)
	})
	for n, i := range order {
		for _, j := range order[n+1:] {
			if laid[j].at.Sheet != laid[i].at.Sheet || laid[j].box.Min.X > laid[i].box.Max.X+p.Gap {
				break
			}
			if err := laid[i].apart(&laid[j], p.Gap); err != nil {
				return err
			}
		}
	}
	return nil
}

// lying is a piece as it lies: its outline and holes on the sheet.
type lying struct {
	at    Placement
	cut   bool
	box   geom.Box
	rings []geom.Ring
	edges []edge
}

// edge is a side on half micrometres, what is inside on its left.
type edge struct{ a, b cell }

func lie(piece Piece, at Placement) lying {
	l := lying{at: at, cut: piece.Cut}
	for k, r := range append([]geom.Ring{piece.Outline}, piece.Holes...) {
		ring := PlaceOutline(r, at)
		l.rings = append(l.rings, ring)
		cells := lattice(ring)
		if k > 0 {
			slices.Reverse(cells)
		}
		for i, a := range cells {
			if b := cells[(i+1)%len(cells)]; a != b {
				l.edges = append(l.edges, edge{a, b})
			}
		}
	}
	l.box = l.rings[0].Bounds()
	return l
}

// within says why a piece does not lie where its sheet lets it.
func (l *lying) within(p Problem, s Sheet, used float64) error {
	switch {
	case l.box.Min.X < -tolerance || l.box.Max.X > used+tolerance || used > s.Length+tolerance:
		return fmt.Errorf("piece %s lies beyond the sheet", l.at.ID)
	case l.box.Min.Y < s.EdgeTrim-tolerance || l.box.Max.Y > s.Width-s.EdgeTrim+tolerance:
		return fmt.Errorf("piece %s lies in the edge trim", l.at.ID)
	}
	if l.cut {
		return nil
	}
	for _, f := range s.Flaws {
		low, high := f.Low, f.High
		if low == 0 && high == 0 {
			high = s.Width
		}
		zone := lie(Piece{Outline: geom.Rect(f.To-f.From, high-low)}, Placement{ID: "the flaw", X: f.From, Y: low})
		if near(l.box, zone.box, p.Gap) && l.apart(&zone, p.Gap) != nil {
			return fmt.Errorf("piece %s lies on the flaw at %s", l.at.ID, unit.RollLength(f.From, 2))
		}
	}
	for _, r := range s.Spoiled {
		gone := lie(Piece{Outline: r}, Placement{})
		if gone.apart(l, p.Gap) != nil {
			return fmt.Errorf("piece %s lies where the cloth is spoiled", l.at.ID)
		}
	}
	if s.TableLength > 0 {
		if k := math.Floor((l.box.Max.X - tolerance) / s.TableLength); k > 0 && k*s.TableLength < s.Length &&
			k*s.TableLength > l.box.Min.X+tolerance {
			return fmt.Errorf(
				"piece %s lies across the end of the table at %s",
				l.at.ID,
				unit.RollLength(k*s.TableLength, 2),
			)
		}
	}
	return nil
}

// apart says why two pieces are not apart by a gap.
func (l *lying) apart(o *lying, gap float64) error {
	if !near(l.box, o.box, gap) {
		return nil
	}
	if overlap(l.edges, o.edges) {
		return fmt.Errorf("pieces %s and %s overlap", l.at.ID, o.at.ID)
	}
	if gap > 0 {
		for _, a := range l.rings {
			for _, b := range o.rings {
				if d := distance(a, b, gap); d < gap-tolerance {
					return fmt.Errorf(
						"pieces %s and %s are %s apart, less than the gap",
						l.at.ID,
						o.at.ID,
						unit.Size(d, 2),
					)
				}
			}
		}
	}
	return nil
}

func near(a, b geom.Box, gap float64) bool {
	return a.Min.X <= b.Max.X+gap && b.Min.X <= a.Max.X+gap && a.Min.Y <= b.Max.Y+gap && b.Min.Y <= a.Max.Y+gap
}

// cell is a point on half micrometres, so that midpoints of whole micrometres
// are exact. Up to 1 km of roll, cross products stay below 2^63.
type cell struct{ x, y int64 }

// lattice is the outline on half micrometres, anticlockwise.
func lattice(r geom.Ring) []cell {
	out := make([]cell, len(r))
	for i, p := range r {
		out[i] = cell{2 * int64(math.Round(p.X*1e6)), 2 * int64(math.Round(p.Y*1e6))}
	}
	if r.SignedArea() < 0 {
		for i, j := 0, len(out)-1; i < j; i, j = i+1, j-1 {
			out[i], out[j] = out[j], out[i]
		}
	}
	return out
}

// side is the sign of the area of triangle abc: 1 when c lies left of ab.
func side(a, b, c cell) int {
	d := (b.x-a.x)*(c.y-a.y) - (b.y-a.y)*(c.x-a.x)
	switch {
	case d > 0:
		return 1
	case d < 0:
		return -1
	}
	return 0
}

// overlap says exactly whether two shapes share inner points. They do if edges cross, if two edges run
// along each other in the same direction (both insides lie on their left), or if some stretch of one's
// edge lies inside the other. Stretches end at corners, which are lattice points.
func overlap(a, b []edge) bool {
	for _, x := range a {
		for _, y := range b {
			if apartBoxes(x, y) {
				continue
			}
			if clash(x.a, x.b, y.a, y.b) {
				return true
			}
		}
	}
	return entersInside(a, b) || entersInside(b, a)
}

func apartBoxes(x, y edge) bool {
	return max(x.a.x, x.b.x) < min(y.a.x, y.b.x) || max(y.a.x, y.b.x) < min(x.a.x, x.b.x) ||
		max(x.a.y, x.b.y) < min(y.a.y, y.b.y) || max(y.a.y, y.b.y) < min(x.a.y, x.b.y)
}

// clash: the edges cross properly, or overlap in the same direction.
func clash(p, q, u, v cell) bool {
	a, b, c, d := side(p, q, u), side(p, q, v), side(u, v, p), side(u, v, q)
	if a == 0 && b == 0 {
		along := (q.x-p.x)*(v.x-u.x) + (q.y-p.y)*(v.y-u.y)
		return along > 0 && shareStretch(p, q, u, v)
	}
	return a*b < 0 && c*d < 0
}

// shareStretch: two collinear edges have more than a point in common.
func shareStretch(p, q, u, v cell) bool {
	if p.x == q.x {
		return max(min(p.y, q.y), min(u.y, v.y)) < min(max(p.y, q.y), max(u.y, v.y))
	}
	return max(min(p.x, q.x), min(u.x, v.x)) < min(max(p.x, q.x), max(u.x, v.x))
}

// entersInside says whether any stretch of a's edges lies strictly inside b.
func entersInside(a, b []edge) bool {
	for _, e := range a {
		stops := []cell{e.a, e.b}
		for _, c := range b {
			if c.a != e.a && c.a != e.b && onEdge(e.a, e.b, c.a) {
				stops = append(stops, c.a)
			}
		}
		if len(stops) > 2 {
			sortAlong(stops, e.a, e.b)
		}
		for k := 1; k < len(stops); k++ {
			if strictlyInside(b, cell{(stops[k-1].x + stops[k].x) / 2, (stops[k-1].y + stops[k].y) / 2}) {
				return true
			}
		}
	}
	return false
}

func onEdge(p, q, c cell) bool {
	return side(p, q, c) == 0 && min(p.x, q.x) <= c.x && c.x <= max(p.x, q.x) && min(p.y, q.y) <= c.y &&
		c.y <= max(p.y, q.y)
}

func sortAlong(stops []cell, p, q cell) {
	at := func(c cell) int64 { return (c.x-p.x)*(q.x-p.x) + (c.y-p.y)*(q.y-p.y) }
	for i := 1; i < len(stops); i++ {
		for j := i; j > 0 && at(stops[j]) < at(stops[j-1]); j-- {
			stops[j], stops[j-1] = stops[j-1], stops[j]
		}
	}
}

// strictlyInside by crossing number; a point on the boundary is not inside.
func strictlyInside(shape []edge, c cell) bool {
	in := false
	for _, e := range shape {
		p, q := e.a, e.b
		if onEdge(p, q, c) {
			return false
		}
		if (p.y > c.y) != (q.y > c.y) {
			lower, upper := p, q
			if lower.y > upper.y {
				lower, upper = upper, lower
			}
			if side(lower, upper, c) > 0 {
				in = !in
			}
		}
	}
	return in
}

// distance between two outlines that do not overlap, in m; those farther apart than a length are that far.
func distance(a, b geom.Ring, length float64) float64 {
	best := length
	for i, p := range a {
		q := a[(i+1)%len(a)]
		for j, u := range b {
			v := b[(j+1)%len(b)]
			if min(p.X, q.X) > max(u.X, v.X)+best || min(u.X, v.X) > max(p.X, q.X)+best ||
				min(p.Y, q.Y) > max(u.Y, v.Y)+best || min(u.Y, v.Y) > max(p.Y, q.Y)+best {
				continue
			}
			best = min(best, p.To(u, v), q.To(u, v), u.To(p, q), v.To(p, q))
		}
	}
	return best
}
