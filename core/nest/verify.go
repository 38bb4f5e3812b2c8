package nest

import (
	"fmt"
	"math"

	"juxta/core/geom"
	"juxta/core/unit"
)

// Verify holds a result against its problem by other means than the engine's:
// every piece placed once, turned only if it may be, inside the usable width
// and the length said, clear of flaws, overlapping no other (exact integer
// arithmetic on whole micrometres) and at least the gap away from it, less
// 2 µm of rounding. The error names the pieces.
func Verify(p Problem, r Result) error {
	if len(r.Placements) != len(p.Pieces) {
		return fmt.Errorf("%d pieces placed, %d asked for", len(r.Placements), len(p.Pieces))
	}
	const tol = 2e-6
	byID := map[string]Piece{}
	for _, piece := range p.Pieces {
		byID[piece.ID] = piece
	}
	laid := make([]geom.Ring, len(r.Placements))
	for i, at := range r.Placements {
		piece, ok := byID[at.ID]
		if !ok {
			return fmt.Errorf("piece %s is placed twice or was not asked for", at.ID)
		}
		delete(byID, at.ID)
		if at.Turned && !piece.HalfTurn {
			return fmt.Errorf("piece %s is turned and may not be", at.ID)
		}
		laid[i] = Lay(piece.Outline, at)
		box := laid[i].Bounds()
		switch {
		case box.Min.X < -tol || box.Max.X > r.Length+tol || r.Length > p.Length+tol:
			return fmt.Errorf("piece %s lies beyond the sheet", at.ID)
		case box.Min.Y < p.EdgeTrim-tol || box.Max.Y > p.Width-p.EdgeTrim+tol:
			return fmt.Errorf("piece %s lies in the edge trim", at.ID)
		}
		for _, f := range p.Flaws {
			// A flaw is left out over the whole width, and a piece is all of one piece.
			if box.Max.X > f.From+tol && box.Min.X < f.To-tol {
				return fmt.Errorf("piece %s lies on the flaw at %s", at.ID, unit.Run(f.From, 2))
			}
		}
	}
	for i := range laid {
		for j := range i {
			if !near(laid[i].Bounds(), laid[j].Bounds(), p.Gap) {
				continue
			}
			a, b := r.Placements[i].ID, r.Placements[j].ID
			if overlap(lattice(laid[i]), lattice(laid[j])) {
				return fmt.Errorf("pieces %s and %s overlap", a, b)
			}
			if d := distance(laid[i], laid[j]); d < p.Gap-tol {
				return fmt.Errorf("pieces %s and %s are %s apart, less than the gap", a, b, unit.Size(d, 2))
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

// overlap says exactly whether two anticlockwise outlines share inner points.
// They do if edges cross, if two edges run along each other in the same
// direction (both insides lie on their left), or if some stretch of one's edge
// lies inside the other. Stretches end at corners, which are lattice points.
func overlap(a, b []cell) bool {
	for i := range a {
		for j := range b {
			if clash(a[i], a[(i+1)%len(a)], b[j], b[(j+1)%len(b)]) {
				return true
			}
		}
	}
	return entersInside(a, b) || entersInside(b, a)
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
func entersInside(a, b []cell) bool {
	for i, p := range a {
		q := a[(i+1)%len(a)]
		stops := []cell{p, q}
		for _, c := range b {
			if c != p && c != q && onEdge(p, q, c) {
				stops = append(stops, c)
			}
		}
		if len(stops) > 2 {
			sortAlong(stops, p, q)
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
func strictlyInside(ring []cell, c cell) bool {
	in := false
	for i, p := range ring {
		q := ring[(i+1)%len(ring)]
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

// distance between two outlines that do not overlap, in m.
func distance(a, b geom.Ring) float64 {
	best := math.Inf(1)
	for i := range a {
		for j := range b {
			p, q, u, v := a[i], a[(i+1)%len(a)], b[j], b[(j+1)%len(b)]
			best = min(best, toSegment(p, u, v), toSegment(q, u, v), toSegment(u, p, q), toSegment(v, p, q))
		}
	}
	return best
}

func toSegment(c, p, q geom.Point) float64 {
	dx, dy := q.X-p.X, q.Y-p.Y
	f := ((c.X-p.X)*dx + (c.Y-p.Y)*dy) / (dx*dx + dy*dy)
	if math.IsNaN(f) {
		f = 0
	}
	f = math.Min(1, math.Max(0, f))
	return math.Hypot(c.X-p.X-f*dx, c.Y-p.Y-f*dy)
}
