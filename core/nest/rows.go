package nest

import (
	"fmt"
	"math"

	"juxta/core/geom"
	"juxta/core/unit"
)

// A shape is a piece in one turn, cut into scan rows: for every row the
// intervals of x that cover the piece, so shapes whose intervals stay apart
// cannot overlap. The moving piece is tried grown by the gap and then stored as
// it is: growing both neighbours would leave twice the gap.
//
// All along the roll is counted in whole micrometres, and the intervals are
// rounded outwards to them: no sum or comparison of theirs is ever off, so two
// pieces that the rows keep apart are apart to the exact check as well.
type shape struct {
	turned bool
	width  int64
	body   [][]interval // row r covers y from r·h to (r+1)·h
	grown  [][]interval // row r covers y from (r-pad)·h to (r-pad+1)·h
	pad    int          // rows below the piece that the gap reaches into
}

type interval struct{ lo, hi int64 } // µm

// table is the roll with its pieces prepared; place may be called again and
// again with different orders.
type table struct {
	p      Problem
	h      float64
	rows   int
	length int64     // left on the roll, µm
	shapes [][]shape // per piece: one or two turns
}

func newTable(p Problem) (*table, error) {
	if err := checkProblem(p); err != nil {
		return nil, err
	}
	h := p.Precision
	if h <= 0 {
		h = 0.002
	}
	h = math.Max(micron(h), 1e-6)
	t := &table{p: p, h: h, rows: int(math.Floor((p.Width-2*p.EdgeTrim)/h + 1e-9)), length: inward(p.Length)}
	for _, piece := range p.Pieces {
		turns := []bool{false}
		if piece.HalfTurn {
			turns = append(turns, true)
		}
		var shapes []shape
		for _, turned := range turns {
			shapes = append(shapes, newShape(turn(piece.Outline, turned), turned, p.Gap, h))
		}
		t.shapes = append(t.shapes, shapes)
	}
	return t, nil
}

// Lay is a piece's outline as its placement puts it on the sheet, on whole
// micrometres: the engine, the check and the cut file all speak of the same
// points.
func Lay(outline geom.Ring, at Placement) geom.Ring {
	return turn(outline, at.Turned).Move(micron(at.X), micron(at.Y))
}

// Carry lays points of a piece, such as its marks, as [Lay] lays its outline.
func Carry(outline geom.Ring, points []geom.Point, at Placement) []geom.Point {
	r, own := outline, geom.Ring(points)
	if at.Turned {
		r, own = r.Rotate(math.Pi), own.Rotate(math.Pi)
	}
	low := r.Bounds().Min
	return own.Move(micron(at.X)-low.X, micron(at.Y)-low.Y)
}

// turn gives the outline turned, its box at the origin, on whole micrometres.
func turn(outline geom.Ring, turned bool) geom.Ring {
	if turned {
		outline = outline.Rotate(math.Pi)
	}
	low := outline.Bounds().Min
	out := make(geom.Ring, len(outline))
	for i, p := range outline {
		out[i] = geom.Point{X: micron(p.X - low.X), Y: micron(p.Y - low.Y)}
	}
	return out
}

func micron(v float64) float64 { return math.Round(v*1e6) / 1e6 }

// noise is what may be left of a whole number of micrometres by arithmetic in
// metres over the size of a piece; a hundredth of what the exact check can see.
const noise = 1e-8

func inward(v float64) int64  { return int64(math.Floor(v*1e6 + noise)) }
func outward(v float64) int64 { return int64(math.Ceil(v*1e6 - noise)) }

// span is the interval from a to b, rounded outwards.
func span(a, b float64) interval { return interval{inward(math.Min(a, b)), outward(math.Max(a, b))} }

func metres(µm int64) float64 { return float64(µm) / 1e6 }

func newShape(outline geom.Ring, turned bool, gap, h float64) shape {
	box := outline.Bounds()
	n := max(1, int(math.Ceil(box.Height()/h-1e-9)))
	body := make([][]interval, n)
	for r := range n {
		body[r] = slab(outline, float64(r)*h, float64(r+1)*h)
	}
	pad := int(math.Ceil(gap/h - 1e-9))
	s := shape{turned: turned, width: outward(box.Width()), pad: pad, body: body, grown: make([][]interval, n+2*pad)}
	for r := range s.grown {
		for k := max(0, r-2*pad); k <= min(n-1, r); k++ {
			for _, iv := range body[k] {
				s.grown[r] = merge(s.grown[r], interval{iv.lo - outward(gap), iv.hi + outward(gap)})
			}
		}
	}
	return s
}

// slab is the outline's extent within a band of y: the union of the x-ranges
// of its edges there and of the inside between them.
func slab(r geom.Ring, lo, hi float64) []interval {
	var out []interval
	for i, a := range r {
		b := r[(i+1)%len(r)]
		if math.Max(a.Y, b.Y) < lo || math.Min(a.Y, b.Y) > hi {
			continue
		}
		x0, x1 := a.X, b.X
		if a.Y != b.Y {
			at := func(y float64) float64 {
				f := math.Min(1, math.Max(0, (y-a.Y)/(b.Y-a.Y)))
				return a.X + f*(b.X-a.X)
			}
			x0, x1 = at(lo), at(hi)
		}
		out = merge(out, span(x0, x1))
	}
	// Between the edges, what lies inside on either face of the band.
	for _, y := range []float64{lo, (lo + hi) / 2, hi} {
		for _, iv := range inside(r, y) {
			out = merge(out, iv)
		}
	}
	return out
}

// inside is where a horizontal line lies within the outline (even-odd).
func inside(r geom.Ring, y float64) []interval {
	xs := r.Crossings(y)
	var out []interval
	for i := 0; i+1 < len(xs); i += 2 {
		out = append(out, span(xs[i], xs[i+1]))
	}
	return out
}

// merge adds an interval to a sorted list of disjoint ones.
func merge(list []interval, iv interval) []interval {
	i := 0
	for i < len(list) && list[i].hi < iv.lo {
		i++
	}
	j := i
	for j < len(list) && list[j].lo <= iv.hi {
		iv.lo, iv.hi = min(iv.lo, list[j].lo), max(iv.hi, list[j].hi)
		j++
	}
	return append(list[:i:i], append([]interval{iv}, list[j:]...)...)
}

// place lays the pieces one by one, each as far left as it goes over all rows
// and turns, the lowest of equals.
func (t *table) place(order []int) (candidate, error) {
	taken := make([][]interval, t.rows)
	for r := range taken {
		for _, f := range t.p.Flaws {
			taken[r] = merge(taken[r], span(f.From, f.To))
		}
	}
	c := candidate{placements: make([]Placement, len(order))}
	for _, i := range order {
		bestRight, bestX, bestRow, bestShape := int64(math.MaxInt64), int64(0), -1, 0
		for k := range t.shapes[i] {
			s := &t.shapes[i][k]
			// A piece may be up to one row higher than the rows hold when the
			// usable width is no multiple of the row: it then starts at row 0.
			last := max(0, t.rows-len(s.body))
			for row := 0; row <= last; row++ {
				x := leftmost(taken, s, row, bestRight-s.width)
				if x+s.width < bestRight {
					bestRight, bestX, bestRow, bestShape = x+s.width, x, row, k
				}
			}
		}
		s := &t.shapes[i][bestShape]
		if bestRight > t.length {
			return c, &FieldError{"length", fmt.Sprintf("%s are left on the roll and piece %s would end at %s",
				unit.Run(t.p.Length, 2), t.p.Pieces[i].ID, unit.Run(metres(bestRight), 2))}
		}
		for r, row := range s.body {
			if y := bestRow + r; y < t.rows {
				for _, iv := range row {
					taken[y] = merge(taken[y], interval{iv.lo + bestX, iv.hi + bestX})
				}
			}
		}
		c.placements[i] = Placement{
			ID:     t.p.Pieces[i].ID,
			X:      metres(bestX),
			Y:      micron(t.p.EdgeTrim + float64(bestRow)*t.h),
			Turned: s.turned,
		}
		c.length = math.Max(c.length, metres(bestRight))
		// The sheet's length rules; how far left all pieces lie breaks ties.
		c.score += 1e-4 * metres(bestRight) / float64(len(order))
	}
	c.score += c.length
	return c, nil
}

// leftmost is the least x ≥ 0 at which the grown shape starting at row lies over
// nothing taken; it gives up once x passes limit. Every step jumps past a piece
// in the way, so no free place is missed.
func leftmost(taken [][]interval, s *shape, row int, limit int64) int64 {
	x := int64(0)
	for moved := true; moved && x < limit; {
		moved = false
		for r, ivs := range s.grown {
			y := row + r - s.pad
			if y < 0 || y >= len(taken) {
				continue
			}
			for _, iv := range ivs {
				for _, t := range taken[y] {
					if iv.hi+x <= t.lo {
						break
					}
					if iv.lo+x < t.hi {
						if x, moved = t.hi-iv.lo, true; x >= limit {
							return x
						}
					}
				}
			}
		}
	}
	return x
}
