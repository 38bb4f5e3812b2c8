package laminate

import (
	"cmp"
	"fmt"
	"math"
	"slices"

	"juxta/core/geom"
)

// The overlay of many outlines by Green's theorem. Every outline is cut where
// it crosses another; on each piece it is known which outlines lie to its left
// and to its right, and the piece adds ½ p × q to the area of the one region
// and takes it from the other. No region is ever built, so that the cost goes
// with the crossings: edges sorted along x to find them, then one walk round
// every outline.
//
// Outlines that share an edge, as most of a part's do, would make crossings
// that are none. Each is therefore moved by some 1e-11 m, differently, before
// it is cut; what that tears open is a sliver far below anything that is cut
// or drawn, and is given to its neighbour.

// nudge is how far an outline is moved, in m: 1e-9 of a drawing's micrometre
// would be lost in the coordinates' own rounding, 1e-9 m would show in the sum
// of areas.
const nudge = 1e-11

// set is a set of outlines: its members, and a hash that changes with each.
type set []uint64

func (s set) flip(i int)     { s[i/64] ^= 1 << (i % 64) }
func (s set) has(i int) bool { return s[i/64]>>(i%64)&1 == 1 }

// region is all of the plane that lies in the same outlines.
type region struct {
	in        set
	area      float64
	sx, sy    float64 // area times centroid
	perimeter float64
	sides     []side             // its longest pieces of edge, some of which may be those of slivers
	beside    map[uint64]float64 // length shared with other regions
}

// side is the middle of a piece of edge, and the way inside.
type side struct {
	long     float64
	mid, way geom.Point
}

const sidesKept = 6

type edge struct {
	ring int
	a, b geom.Point
	cuts []cut
}

type cut struct {
	t    float64
	ring int
}

// overlay cuts the plane by outlines of at least three points each that do not
// cross themselves. Regions are keyed by a hash of the outlines over them; the
// region outside of all is not among them.
func overlay(outlines []geom.Ring) (map[uint64]*region, error) {
	for try := range 4 {
		regions, ok, err := overlayed(outlines, try)
		if ok || err != nil {
			return regions, err
		}
	}
	return nil, fmt.Errorf(
		"two outlines run too close to each other's edge to tell them apart; let them coincide or lie apart",
	)
}

// member is the outline's part of a hash (SplitMix64, Steele et al. 2014).
func member(i int) uint64 {
	z := uint64(i+1) * 0x9e3779b97f4a7c15
	z = (z ^ z>>30) * 0xbf58476d1ce4e5b9
	z = (z ^ z>>27) * 0x94d049bb133111eb
	return z ^ z>>31
}

// Bounds of one overlay: far beyond any part that is made of plies, and so that
// a drawing that is a tangle is refused before it keeps a processor busy.
const (
	mostRegions   = 20_000
	mostCrossings = 200_000
)

var errTangle = fmt.Errorf(
	"the outlines cross each other so often that they cut the part into more than %d regions of different stacks: "+
		"let edges that are meant to be one lie on each other",
	mostRegions,
)

func overlayed(outlines []geom.Ring, try int) (map[uint64]*region, bool, error) {
	// From a place among them, so that nothing is lost to far coordinates.
	all := geom.Box{Min: geom.Point{X: math.Inf(1), Y: math.Inf(1)}, Max: geom.Point{X: math.Inf(-1), Y: math.Inf(-1)}}
	for _, o := range outlines {
		b := o.Bounds()
		all.Min.X, all.Min.Y = min(all.Min.X, b.Min.X), min(all.Min.Y, b.Min.Y)
		all.Max.X, all.Max.Y = max(all.Max.X, b.Max.X), max(all.Max.Y, b.Max.Y)
	}
	from := geom.Point{X: (all.Min.X + all.Max.X) / 2, Y: (all.Min.Y + all.Max.Y) / 2}
	const golden = 0.6180339887498949
	rings, boxes := make([]geom.Ring, len(outlines)), make([]geom.Box, len(outlines))
	for i, o := range outlines {
		k := float64(i+1) + float64(try)*0.3717
		s, c := math.Sincos(2 * math.Pi * k * golden)
		far := nudge * (1 + math.Mod(k*math.Sqrt2, 1))
		ring := make(geom.Ring, 0, len(o))
		for _, p := range o {
			q := geom.Point{X: p.X - from.X + far*c, Y: p.Y - from.Y + far*s}
			if len(ring) == 0 || ring[len(ring)-1] != q {
				ring = append(ring, q)
			}
		}
		if ring.SignedArea() < 0 {
			slices.Reverse(ring)
		}
		rings[i], boxes[i] = ring, ring.Bounds()
	}
	edges, first, err := crossings(rings)
	if err != nil {
		return nil, false, err
	}
	regions := map[uint64]*region{}
	words := (len(rings) + 63) / 64
	for i, ring := range rings {
		// What else lies over the ring's first point.
		in, key := make(set, words), uint64(0)
		for j := range rings {
			if j != i && boxes[j].Contains(ring[0]) && rings[j].Contains(ring[0]) {
				in.flip(j)
				key ^= member(j)
			}
		}
		start := key
		for e := first[i]; e < first[i]+len(ring); e++ {
			edge := &edges[e]
			slices.SortFunc(edge.cuts, func(a, b cut) int { return cmp.Compare(a.t, b.t) })
			at := edge.a
			for k := 0; k <= len(edge.cuts); k++ {
				to := edge.b
				if k < len(edge.cuts) {
					t := edge.cuts[k].t
					to = geom.Point{X: edge.a.X + t*(edge.b.X-edge.a.X), Y: edge.a.Y + t*(edge.b.Y-edge.a.Y)}
				}
				right := in
				add(regions, key, right, at, to, -1, key^member(i), from)
				in.flip(i)
				add(regions, key^member(i), in, at, to, 1, key, from)
				in.flip(i)
				if k < len(edge.cuts) {
					in.flip(edge.cuts[k].ring)
					key ^= member(edge.cuts[k].ring)
				}
				at = to
			}
		}
		if key != start {
			return nil, false, nil // a crossing was missed or counted twice
		}
		if len(regions) > mostRegions {
			return nil, false, errTangle
		}
	}
	delete(regions, 0)
	return regions, true, nil
}

// add counts a piece of an edge for the region to its left (1) or right (-1).
func add(
	regions map[uint64]*region,
	key uint64,
	in set,
	p, q geom.Point,
	left float64,
	beside uint64,
	from geom.Point,
) {
	r := regions[key]
	if r == nil {
		r = &region{in: slices.Clone(in), beside: map[uint64]float64{}}
		regions[key] = r
	}
	cross, long := left*(p.X*q.Y-q.X*p.Y)/2, math.Hypot(q.X-p.X, q.Y-p.Y)
	r.area += cross
	r.sx += cross * ((p.X+q.X)/3 + from.X)
	r.sy += cross * ((p.Y+q.Y)/3 + from.Y)
	r.perimeter += long
	r.beside[beside] += long
	if len(r.sides) == sidesKept && long <= r.sides[sidesKept-1].long {
		return
	}
	if len(r.sides) == sidesKept {
		r.sides = r.sides[:sidesKept-1]
	}
	r.sides = append(
		r.sides,
		side{
			long,
			geom.Point{X: (p.X+q.X)/2 + from.X, Y: (p.Y+q.Y)/2 + from.Y},
			geom.Point{X: -left * (q.Y - p.Y) / long, Y: left * (q.X - p.X) / long},
		},
	)
	for i := len(r.sides) - 1; i > 0 && r.sides[i].long > r.sides[i-1].long; i-- {
		r.sides[i], r.sides[i-1] = r.sides[i-1], r.sides[i]
	}
}

// place is somewhere inside the region: the middle of the widest stretch that
// level lines beside its longest edges have in it. Two edges have to do: it
// carries a number on a drawing.
func (r *region) place(outlines []geom.Ring) geom.Point {
	best, widest, tried := r.sides[0].mid, 0.0, 0
	for _, s := range r.sides {
		for _, away := range []float64{5e-3, 4e-4, 3e-5} {
			at, wide := r.stretch(outlines, s.mid.Y+away*s.way.Y)
			if wide > widest {
				best, widest = at, wide
			}
			if wide > 10*thin { // else it may be between two edges that coincide
				tried++
				break
			}
		}
		if tried == 2 {
			break
		}
	}
	return best
}

// stretch is the middle of the widest stretch of a level line that lies in the
// region, and its width; 0 where none does.
func (r *region) stretch(outlines []geom.Ring, y float64) (at geom.Point, wide float64) {
	type crossing struct {
		x  float64
		of int
	}
	var all []crossing
	for i, o := range outlines {
		for _, x := range o.Crossings(y) {
			all = append(all, crossing{x, i})
		}
	}
	slices.SortFunc(all, func(a, b crossing) int { return cmp.Compare(a.x, b.x) })
	in := make(set, len(r.in))
	for k, c := range all {
		if k > 0 && c.x-all[k-1].x > wide && slices.Equal(in, r.in) {
			wide, at = c.x-all[k-1].x, geom.Point{X: (c.x + all[k-1].x) / 2, Y: y}
		}
		in.flip(c.of)
	}
	return at, wide
}

// crossings are all edges, cut where those of different rings cross, and the
// place of each ring's first edge among them.
func crossings(rings []geom.Ring) (edges []edge, first []int, err error) {
	for i, ring := range rings {
		first = append(first, len(edges))
		for k, p := range ring {
			edges = append(edges, edge{ring: i, a: p, b: ring[(k+1)%len(ring)]})
		}
	}
	type span struct {
		lo, hi, bottom, top float64
		edge                int
	}
	spans := make([]span, len(edges))
	for i, e := range edges {
		spans[i] = span{min(e.a.X, e.b.X), max(e.a.X, e.b.X), min(e.a.Y, e.b.Y), max(e.a.Y, e.b.Y), i}
	}
	slices.SortFunc(spans, func(a, b span) int { return cmp.Compare(a.lo, b.lo) })
	var open []span
	found := 0
	for _, s := range spans {
		kept := open[:0]
		for _, o := range open {
			if o.hi < s.lo {
				continue
			}
			kept = append(kept, o)
			if o.bottom > s.top || o.top < s.bottom || edges[o.edge].ring == edges[s.edge].ring {
				continue
			}
			e, f := &edges[s.edge], &edges[o.edge]
			// Each pair in the same order of rings, so that all signs agree.
			if e.ring > f.ring {
				e, f = f, e
			}
			a0, a1 := orient(f.a, f.b, e.a), orient(f.a, f.b, e.b)
			b0, b1 := orient(e.a, e.b, f.a), orient(e.a, e.b, f.b)
			if (a0 > 0) != (a1 > 0) && (b0 > 0) != (b1 > 0) {
				e.cuts = append(e.cuts, cut{a0 / (a0 - a1), f.ring})
				f.cuts = append(f.cuts, cut{b0 / (b0 - b1), e.ring})
				if found++; found > mostCrossings {
					return nil, nil, errTangle
				}
			}
		}
		open = append(kept, s)
	}
	return edges, first, nil
}

// orient is positive where p lies to the left of a → b.
func orient(a, b, p geom.Point) float64 { return (b.X-a.X)*(p.Y-a.Y) - (b.Y-a.Y)*(p.X-a.X) }
