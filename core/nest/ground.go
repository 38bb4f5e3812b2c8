package nest

import (
	"cmp"
	"fmt"
	"math"
	"slices"

	"juxta/core/geom"
)

// ground is a problem made ready: its pieces as solids, its sheets end to end along one axis. All
// searches share it; it does not change but for its tables.
type ground struct {
	p      Problem
	things []thing
	still  []still // what does not move: flaws, table ends
	bands  []band
	tables *tables
	area   float64
	whole  float64 // the true end of the last sheet
}

// thing is a piece as it is searched a place for.
type thing struct {
	turns  []int // in quarters
	solids []int // of each turn
	bands  []int // sheets that it may lie on
	area   float64
	long   float64 // of its box's longer side
	held   bool
	kind   int // those of one kind may be exchanged
}

// still is a solid that does not move.
type still struct {
	solid int
	x, y  float64
}

// band is a sheet on the common axis.
type band struct {
	start, length, low, high float64
}

func (b band) end() float64 { return b.start + b.length }

// newGround makes a problem ready. Which pieces of a batch lie on which sheets is settled already. The last
// sheet goes on beyond its end, so that what does not fit lies somewhere until it does.
func newGround(p Problem) *ground {
	g := &ground{p: p}
	var solids []solid
	known := map[string]int{}
	long := 0.0
	for i := range p.Pieces {
		piece := &p.Pieces[i]
		key := fmt.Sprint(piece.Outline, piece.Holes)
		first, seen := known[key]
		if !seen {
			first = len(solids)
			known[key] = first
			one := newSolid(convex(whole(piece.Outline), piece.Holes), p.Gap)
			for q := range 4 {
				solids = append(solids, one.turned(q))
			}
		}
		t := thing{area: piece.Area(), held: piece.At != nil, kind: first}
		for _, q := range piece.turns() {
			t.turns, t.solids = append(t.turns, q), append(t.solids, first+q)
		}
		box := solids[first].box
		t.long = max(box.Width(), box.Height())
		long = max(long, t.long)
		for k := range p.Sheets {
			if piece.may(k) {
				t.bands = append(t.bands, k)
			}
		}
		g.things = append(g.things, t)
		g.area += t.area
	}
	turned := len(solids)
	at := 0.0
	for k, s := range p.Sheets {
		b := band{at, s.Length, s.EdgeTrim, s.Width - s.EdgeTrim}
		g.bands = append(g.bands, b)
		add := func(parts []part, gap float64) {
			g.still = append(g.still, still{len(solids), at, 0})
			solids = append(solids, newSolid(parts, gap))
		}
		for _, r := range s.Spoiled {
			add(convex(whole(r), nil), p.Gap)
		}
		for _, f := range s.Flaws {
			low, high := f.Low, f.High
			if low == 0 && high == 0 {
				high = s.Width
			}
			add([]part{part(geom.Rect(f.To-f.From, high-low).Move(f.From, low))}, p.Gap)
		}
		g.whole = at + s.Length
		if k == len(p.Sheets)-1 {
			for _, t := range g.things {
				b.length += 1.5 * (t.long + p.Gap)
			}
			if s.TableLength > 0 {
				b.length += float64(len(g.things)) * s.TableLength
			}
			g.bands[k] = b
		}
		if s.TableLength > 0 {
			for x := s.TableLength; x < b.length; x += s.TableLength {
				add([]part{{{X: x, Y: 0}, {X: x, Y: s.Width}}}, 0)
			}
		}
		at = b.end() + 2*long + 1
	}
	g.tables = newTables(solids, turned)
	return g
}

// domain is where the origin of a solid may lie on a band that ends at end.
func (g *ground) domain(solid, b int, end float64) (lo, hi geom.Point, fits bool) {
	box, s := g.tables.solids[solid].box, g.bands[b]
	lo = geom.Point{X: s.start - box.Min.X, Y: s.low - box.Min.Y}
	hi = geom.Point{X: min(s.end(), end) - box.Max.X, Y: s.high - box.Max.Y}
	// Exactly as wide as the sheet still fits.
	if hi.Y < lo.Y && hi.Y > lo.Y-1e-9 {
		hi.Y = lo.Y
	}
	if hi.X < lo.X && hi.X > lo.X-1e-9 {
		hi.X = lo.X
	}
	return lo, hi, lo.X <= hi.X && lo.Y <= hi.Y
}

// sequence is the order pieces are first placed in: the largest first (common practice, no source).
func (g *ground) sequence() []int {
	order := make([]int, len(g.things))
	for i := range order {
		order[i] = i
	}
	slices.SortStableFunc(order, func(a, b int) int {
		x, y := g.things[a], g.things[b]
		return cmp.Or(cmp.Compare(y.area*y.long, x.area*x.long))
	})
	return order
}

// result is a layout as whole micrometres on its sheets.
func (g *ground) result(l *layout) Layout {
	places := make([]Placement, 0, len(g.things))
	for i, t := range g.things {
		if l.band[i] < 0 {
			continue
		}
		b := int(l.band[i])
		places = append(places, Placement{
			ID: g.p.Pieces[i].ID, Sheet: b, X: micron(l.x[i] - g.bands[b].start), Y: micron(l.y[i]),
			Turn: t.turns[l.turn[i]] * 90,
		})
	}
	return summed(g.p, places)
}

// summed is a result by its placements: what is used of each sheet, and the yield.
func summed(p Problem, places []Placement) Layout {
	byID := make(map[string]*Piece, len(p.Pieces))
	for i := range p.Pieces {
		byID[p.Pieces[i].ID] = &p.Pieces[i]
	}
	if places == nil {
		places = []Placement{}
	}
	r := Layout{Placements: places, Used: make([]float64, len(p.Sheets))}
	area, cloth := 0.0, 0.0
	for _, at := range places {
		q := byID[at.ID]
		r.Used[at.Sheet] = max(r.Used[at.Sheet], PlaceOutline(q.Outline, at).Bounds().Max.X)
		area += q.Area()
	}
	for b, used := range r.Used {
		used = math.Ceil(used*1e6-1e-3) / 1e6
		r.Used[b] = used
		r.Length += used
		cloth += used * p.Sheets[b].Width
	}
	if cloth > 0 {
		r.Yield = area / cloth
	}
	return r
}
