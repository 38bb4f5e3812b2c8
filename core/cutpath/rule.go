package cutpath

import (
	"cmp"
	"math"
	"slices"

	"juxta/core/geom"
)

// HandCut is a cut along a straight edge: sides of pieces that lie in one line, with the waste between them.
type HandCut struct {
	From, To geom.Point
	Pieces   []int // whose sides it cuts
}

// Length of the cut, m.
func (r HandCut) Length() float64 { return apart(r.From, r.To) }

// What is cut along a straight edge: sides from this length on, that lie in one line to within so much, with no
// more than this between them, m.
const (
	ruledLeast  = 0.05
	ruledOff    = 2e-4
	ruledBridge = 0.02
)

// HandCuts are the straight cuts of pieces for a person with a knife and a straight edge, the longest first (common
// practice, no source): sides in one line are one cut where it comes into no ply between them. What is bent or
// short is cut after them, round a template.
func HandCuts(sheet Sheet, pieces []PlacedPiece) []HandCut {
	w := newWay(sheet, pieces, Usual())
	type side struct {
		from, to geom.Point
		piece    int
	}
	var sides []side
	for i, p := range pieces {
		for _, ring := range append([]geom.Ring{p.Outline}, p.Holes...) {
			for k, a := range ring {
				b := ring[(k+1)%len(ring)]
				if apart(a, b) < ruledLeast {
					continue
				}
				if b.X < a.X || b.X == a.X && b.Y < a.Y { // all go one way
					a, b = b, a
				}
				sides = append(sides, side{a, b, i})
			}
		}
	}
	slices.SortStableFunc(sides, func(a, b side) int { return cmp.Compare(a.from.X+a.from.Y, b.from.X+b.from.Y) })
	var out []HandCut
	taken := make([]bool, len(sides))
	for i, s := range sides {
		if taken[i] {
			continue
		}
		taken[i] = true
		cut := HandCut{s.from, s.to, []int{s.piece}}
		for grown := true; grown; {
			grown = false
			for j, o := range sides {
				if taken[j] || !inLine(cut.From, cut.To, o.from, o.to) {
					continue
				}
				if from, to, joined := w.join(cut.From, cut.To, o.from, o.to); joined {
					cut.From, cut.To, taken[j], grown = from, to, true, true
					if !slices.Contains(cut.Pieces, o.piece) {
						cut.Pieces = append(cut.Pieces, o.piece)
					}
				}
			}
		}
		slices.Sort(cut.Pieces)
		out = append(out, cut)
	}
	slices.SortStableFunc(out, func(a, b HandCut) int { return cmp.Compare(b.Length(), a.Length()) })
	return out
}

// inLine says whether both ends of a side lie on the line through two points.
func inLine(a, b, c, d geom.Point) bool {
	long := apart(a, b)
	off := func(p geom.Point) float64 { return math.Abs((b.X-a.X)*(p.Y-a.Y)-(b.Y-a.Y)*(p.X-a.X)) / long }
	return off(c) < ruledOff && off(d) < ruledOff
}

// join is one side of two in a line, if what lies between them is short and no ply.
func (w *way) join(a, b, c, d geom.Point) (from, to geom.Point, joined bool) {
	long := apart(a, b)
	along := func(p geom.Point) float64 { return ((p.X-a.X)*(b.X-a.X) + (p.Y-a.Y)*(b.Y-a.Y)) / long }
	x, y := along(c), along(d)
	if x > y {
		x, y, c, d = y, x, d, c
	}
	bridge := [2]geom.Point{b, c}
	if y < 0 {
		bridge = [2]geom.Point{d, a}
	}
	apartBy := max(x-long, -y)
	if apartBy > ruledBridge {
		return a, b, false
	}
	const off = 1e-6 // the two that are joined are touched at their ends
	if apartBy > 3*off && !w.clear(toward(bridge[0], bridge[1], off), toward(bridge[1], bridge[0], off)) {
		return a, b, false
	}
	from, to = a, b
	if x < 0 {
		from = c
	}
	if y > long {
		to = d
	}
	return from, to, true
}
