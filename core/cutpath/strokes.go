package cutpath

import (
	"math"
	"slices"

	"juxta/core/geom"
)

// way is a path while it is made.
type way struct {
	Path
	sheet   Sheet
	pieces  []PlacedPiece
	c       Cutter
	boxes   []geom.Box
	lengths int
	inside  map[[2]int][]int // pieces that lie in a hole of a piece
	cutYet  []bool           // pieces
	sides   sides            // that are cut
}

func newWay(sheet Sheet, pieces []PlacedPiece, c Cutter) *way {
	w := &way{
		sheet:   sheet,
		pieces:  pieces,
		c:       c,
		lengths: 1,
		inside:  map[[2]int][]int{},
		cutYet:  make([]bool, len(pieces)),
	}
	for i, p := range pieces {
		w.boxes = append(w.boxes, p.Outline.Bounds())
		w.lengths = max(w.lengths, w.lengthOf(i)+1)
	}
	for i, p := range pieces {
		for h, hole := range p.Holes {
			box := hole.Bounds()
			for j, q := range pieces {
				if j != i && box.Contains(w.boxes[j].Min) && box.Contains(w.boxes[j].Max) &&
					hole.Contains(q.Outline.Centroid()) {
					w.inside[[2]int{i, h}] = append(w.inside[[2]int{i, h}], j)
				}
			}
		}
	}
	for i, p := range pieces {
		for _, ring := range append([]geom.Ring{p.Outline}, p.Holes...) {
			for k := 0; p.Cut && k < len(ring); k++ {
				w.sides.add(ring[k], ring[(k+1)%len(ring)])
			}
		}
		w.cutYet[i] = p.Cut
	}
	// The edges of the roll are cut already.
	w.sides.add(geom.Point{}, geom.Point{X: sheet.Length})
	w.sides.add(geom.Point{Y: sheet.Width}, geom.Point{X: sheet.Length, Y: sheet.Width})
	return w
}

// lengthOf is on which table's length a piece lies.
func (w *way) lengthOf(i int) int {
	if w.c.Table == 0 {
		return 0
	}
	return int((w.boxes[i].Min.X + 1e-6) / w.c.Table)
}

// draw draws the marks of a table length.
func (w *way) draw(advanced int, at geom.Point) geom.Point {
	var items []item
	var lines [][][]geom.Point
	var of []int
	for i, p := range w.pieces {
		if w.lengthOf(i) != advanced || p.Cut {
			continue
		}
		own, labelled := p.marked()
		if !labelled {
			w.Unmarked = append(w.Unmarked, p.ID)
		}
		if len(own) > 0 {
			last := own[len(own)-1]
			items = append(items, item{options: []option{{own[0][0], last[len(last)-1], 0}}})
			lines, of = append(lines, own), append(of, i)
		}
	}
	for _, k := range order(items, at).order {
		for _, l := range lines[k] {
			w.Strokes = append(w.Strokes, Stroke{Tool: Pen, Piece: of[k], Advanced: advanced, Points: l})
			at = l[len(l)-1]
		}
	}
	return at
}

// groups are the pieces of a table length that are cut in one go: all, or those of a kit.
func (w *way) groups(advanced int, byKit bool) [][]int {
	var out [][]int
	at := map[string]int{}
	for i, p := range w.pieces {
		if w.lengthOf(i) != advanced || p.Cut {
			continue
		}
		kit := ""
		if byKit {
			kit = p.Kit
		}
		k, known := at[kit]
		if !known {
			k = len(out)
			at[kit] = k
			out = append(out, nil)
		}
		out[k] = append(out[k], i)
	}
	return out
}

// line is a closed line that is cut: the outline of a piece, or a hole of it.
type line struct {
	piece  int
	ring   geom.Ring
	starts []int // of its options
}

// cut cuts a group of pieces, with what lies in their holes before the holes.
func (w *way) cut(advanced int, group []int, at geom.Point) geom.Point {
	var items []item
	var lines []line
	outline := map[int]int{}
	var add func(i int)
	add = func(i int) {
		if w.cutYet[i] {
			return
		}
		w.cutYet[i] = true
		p := w.pieces[i]
		var holes []int
		for h, ring := range p.Holes {
			var before []int
			for _, j := range w.inside[[2]int{i, h}] {
				add(j)
				if k, here := outline[j]; here {
					before = append(before, k)
				}
			}
			holes = append(holes, len(items))
			items, lines = w.with(items, lines, i, ring, before)
		}
		outline[i] = len(items)
		items, lines = w.with(items, lines, i, p.Outline, holes)
	}
	for _, i := range group {
		add(i)
	}
	t := order(items, at)
	for _, k := range t.order {
		l := lines[k]
		w.ring(advanced, l.piece, l.ring, l.starts[t.option[k]])
		at = w.last(at)
	}
	return at
}

func (w *way) last(at geom.Point) geom.Point {
	if len(w.Strokes) == 0 {
		return at
	}
	points := w.Strokes[len(w.Strokes)-1].Points
	return points[len(points)-1]
}

// mostStarts is from how many places a line without sharp corners may be begun.
const mostStarts = 32

// with adds a line: it begins at a sharp corner where it has one.
func (w *way) with(items []item, lines []line, piece int, ring geom.Ring, before []int) ([]item, []line) {
	l := line{piece: piece, ring: ring}
	for k := range ring {
		if w.sharp(ring, k) {
			l.starts = append(l.starts, k)
		}
	}
	if len(l.starts) == 0 {
		for k := 0; k < len(ring); k += 1 + (len(ring)-1)/mostStarts {
			l.starts = append(l.starts, k)
		}
	}
	one := item{before: before}
	for n, k := range l.starts {
		one.options = append(one.options, option{ring[k], ring[k], n})
	}
	return append(items, one), append(lines, l)
}

func (w *way) sharp(ring geom.Ring, k int) bool {
	n := len(ring)
	a, b, c := ring[(k+n-1)%n], ring[k], ring[(k+1)%n]
	return turned(Heading(a, b), Heading(b, c)) > w.c.Corner
}

// ring cuts a closed line from a corner on, but for what of it is cut already.
func (w *way) ring(advanced, piece int, ring geom.Ring, start int) {
	n := len(ring)
	var chain []geom.Point
	whole, smooth := true, true
	flush := func() {
		w.stroke(advanced, piece, chain, w.c.Overcut)
		chain = nil
	}
	for k := range n {
		a, b := ring[(start+k)%n], ring[(start+k+1)%n]
		if a == b {
			continue
		}
		if k > 0 && w.sharp(ring, (start+k)%n) {
			smooth = false
			flush()
		}
		left := w.sides.without(a, b)
		if len(left) != 1 || left[0] != [2]geom.Point{a, b} {
			whole = false
		}
		for _, part := range left {
			if len(chain) > 0 && chain[len(chain)-1] != part[0] {
				flush()
			}
			if len(chain) == 0 {
				chain = append(chain, part[0])
			}
			chain = append(chain, part[1])
		}
		if len(left) == 0 {
			flush()
		}
	}
	if whole && smooth && !w.sharp(ring, start) {
		w.stroke(advanced, piece, w.beyond(chain), 0)
	} else {
		flush()
	}
	for k := range n {
		w.sides.add(ring[k], ring[(k+1)%n])
	}
}

// beyond is a closed line that goes on along itself by the overcut.
func (w *way) beyond(chain []geom.Point) []geom.Point {
	out, left := chain, w.c.Overcut
	for k := 1; k < len(chain) && left > 0; k++ {
		long := apart(chain[k-1], chain[k])
		if long > left {
			return append(out, toward(chain[k-1], chain[k], left))
		}
		out = append(out, chain[k])
		left -= long
	}
	return out
}

// toward is the point so far from a on its way to b; it may be beyond b.
func toward(a, b geom.Point, far float64) geom.Point {
	long := apart(a, b)
	return geom.Point{X: a.X + (b.X-a.X)*far/long, Y: a.Y + (b.Y-a.Y)*far/long}
}

// stroke cuts along points, begun and ended in the waste where that is clear.
func (w *way) stroke(advanced, piece int, points []geom.Point, overcut float64) {
	if len(points) < 2 {
		return
	}
	out := slices.Clone(points)
	n := len(points)
	if from, ok := w.waste(points[1], points[0], w.c.LeadIn); ok {
		out = slices.Insert(out, 0, from)
	}
	if to, ok := w.waste(points[n-2], points[n-1], overcut); ok {
		out = append(out, to)
	}
	w.Strokes = append(w.Strokes, Stroke{Tool: Knife, Piece: piece, Advanced: advanced, Points: out})
}

// waste is a point beyond the end b of a side a–b, as far as the way there touches no piece.
func (w *way) waste(a, b geom.Point, far float64) (geom.Point, bool) {
	for _, share := range []float64{1, 0.5, 0.25} {
		if far*share < 1e-4 {
			return geom.Point{}, false
		}
		to := toward(b, geom.Point{X: 2*b.X - a.X, Y: 2*b.Y - a.Y}, far*share)
		if w.clear(b, to) {
			return to, true
		}
	}
	return geom.Point{}, false
}

// clear says whether a short way from a point of an outline stays on the sheet and off all pieces.
func (w *way) clear(a, b geom.Point) bool {
	if b.X < 0 || b.Y < 0 || b.X > w.sheet.Length || b.Y > w.sheet.Width {
		return false
	}
	lo := geom.Point{X: min(a.X, b.X), Y: min(a.Y, b.Y)}
	hi := geom.Point{X: max(a.X, b.X), Y: max(a.Y, b.Y)}
	for i, p := range w.pieces {
		box := w.boxes[i]
		if box.Min.X > hi.X || box.Max.X < lo.X || box.Min.Y > hi.Y || box.Max.Y < lo.Y {
			continue
		}
		if p.crossed(a, b) {
			return false
		}
	}
	return true
}

// grain is the distance below which points are one, m.
const grain = 1e-7

// crossed says whether a way that begins on an outline, or off the piece, comes into its cloth or along its edge.
func (p PlacedPiece) crossed(a, b geom.Point) bool {
	in := func(q geom.Point) bool {
		if p.Outline.Distance(q) < grain {
			return true
		}
		if !p.Outline.Contains(q) {
			return false
		}
		for _, h := range p.Holes {
			if h.Contains(q) && h.Distance(q) >= grain {
				return false
			}
		}
		return true
	}
	if in(b) || in(a.Middle(b)) || in(toward(a, b, apart(a, b)/20)) {
		return true
	}
	for _, ring := range append([]geom.Ring{p.Outline}, p.Holes...) {
		for k, c := range ring {
			if cross(a, b, c, ring[(k+1)%len(ring)]) {
				return true
			}
		}
	}
	return false
}

// cross says whether two segments cross within both of them.
func cross(a, b, c, d geom.Point) bool {
	side := func(p, q, r geom.Point) float64 {
		v := (q.X-p.X)*(r.Y-p.Y) - (q.Y-p.Y)*(r.X-p.X)
		if math.Abs(v) <= grain*apart(p, q) {
			return 0
		}
		return v
	}
	return side(a, b, c)*side(a, b, d) < 0 && side(c, d, a)*side(c, d, b) < 0
}

// across cuts the sheet off at its end, but for what of that is cut already.
func (w *way) across() {
	advanced := 0
	if w.c.Table > 0 {
		advanced = int((w.sheet.Length - 1e-6) / w.c.Table)
	}
	a, b := geom.Point{X: w.sheet.Length}, geom.Point{X: w.sheet.Length, Y: w.sheet.Width}
	if at := w.last(a); at.Y > w.sheet.Width/2 {
		a, b = b, a
	}
	for _, part := range w.sides.without(a, b) {
		w.Strokes = append(w.Strokes, Stroke{Tool: Knife, Piece: -1, Advanced: advanced, Points: part[:]})
	}
}
