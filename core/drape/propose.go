package drape

import (
	"cmp"
	"context"
	"math"
	"runtime"
	"slices"

	"juxta/core/geom"
	"juxta/core/parallel"
)

// CutProposal are cuts that bring shear below what locks, or as near to it as they do.
type CutProposal struct {
	Cuts  []Cut
	Peak  float64 // with them, on a coarser net than the ply is cut by
	Tried int     // ways of cutting that were laid
}

// Propose looks for cuts where a ply locks: darts, and where these do not help a split through the
// middle of the piece that locks. What is cut already stays. It tells of what it has; stopped by its
// context it gives that.
func (m *Mesh) Propose(ctx context.Context, p Ply, o Options, tell func(CutProposal)) (CutProposal, error) {
	o.Cell = max(o.Cell, m.size/50)
	all, err := m.Pieces(ctx, p, o)
	if err != nil {
		return CutProposal{}, err
	}
	worst := slices.MaxFunc(all, func(a, b *DrapedPiece) int { return cmp.Compare(a.Peak, b.Peak) })
	seek := proposing{m: m, o: o, tell: tell, out: CutProposal{Peak: worst.Peak}}
	if len(worst.Locks) == 0 || p.Strip > 0 {
		return seek.out, ctx.Err()
	}
	for _, l := range worst.Lips {
		seek.o.Darts = append(seek.o.Darts, Dart{Tip: l.Line[0], Mouth: l.Line[len(l.Line)-1]})
	}
	if err := seek.darts(ctx, worst.Boundary, Start{worst.Start, p.Warp}); err != nil {
		return seek.out, err
	}
	if len(seek.out.Cuts) == 0 && len(worst.Lips) == 0 {
		seek.split(ctx, p, inPlan(worst.Boundary))
	}
	return seek.out, ctx.Err()
}

// proposing is a search for cuts.
type proposing struct {
	m    *Mesh
	o    Options
	tell func(CutProposal)
	out  CutProposal
}

func (s *proposing) told() {
	if s.tell != nil {
		s.tell(s.out)
	}
}

// split looks for the best of some splits through the middle of a piece.
func (s *proposing) split(ctx context.Context, p Ply, ring geom.Ring) {
	o := s.o
	o.Darts = nil
	c := ring.Centroid()
	far := s.m.size
	for k := range 6 {
		sin, cos := math.Sincos(p.Warp + float64(k)*math.Pi/6)
		cut := Cut{
			Split: true, From: geom.Point{X: c.X - cos*far, Y: c.Y - sin*far},
			To: geom.Point{X: c.X + cos*far, Y: c.Y + sin*far},
		}
		next := p
		next.Cuts = append(slices.Clone(p.Cuts), cut)
		all, err := s.m.Pieces(ctx, next, o)
		s.out.Tried++
		if err != nil {
			continue // one that cannot be is none
		}
		if w := Summarise(all); w.Peak < s.out.Peak-worth {
			s.out.Peak, s.out.Cuts = w.Peak, []Cut{cut}
		}
		s.told()
	}
}

// darts looks for darts where a piece locks, the worst place first: of those that bring the peak of
// its quarter below the locking angle the shortest, else that of the least peak.
func (s *proposing) darts(ctx context.Context, boundary []Vec, at Start) error {
	s.o.Lock = max(s.o.Lock-finer, s.o.Lock/2)
	d, err := s.m.Drape(ctx, boundary, at, s.o)
	if err != nil {
		return err
	}
	for len(s.out.Cuts) < mostProposed && len(d.Locks) > 0 && ctx.Err() == nil {
		better := false
		for _, r := range d.Locks {
			next, with, err := s.dart(ctx, boundary, at, d, r)
			if err != nil {
				return err
			}
			s.told()
			if with != nil {
				s.o.Darts = append(slices.Clone(s.o.Darts), next)
				s.out.Cuts = append(s.out.Cuts, Cut{
					From: geom.Point{X: next.Tip.X, Y: next.Tip.Y}, To: geom.Point{X: next.Mouth.X, Y: next.Mouth.Y},
				})
				s.out.Peak, d, better = with.Peak, with, true
				s.told()
				break
			}
		}
		if !better {
			break
		}
	}
	return ctx.Err()
}

const (
	mostProposed = 6
	worth        = 0.02 // radians: a dart that gains less is not proposed
	finer        = 0.02 // radians: what the finer net that is cut by may lie above this one
)

// dart is the best for a place that locks, and how the piece lies with it; nil: none helps.
func (s *proposing) dart(ctx context.Context, boundary []Vec, start Start, d *DrapedPiece, r Region) (Dart,
	*DrapedPiece, error) {
	o := s.o
	at := slices.IndexFunc(d.Inside, func(n Node) bool {
		return n.Panel == r.Panel && n.At.Distance(r.At) < o.Cell
	})
	if at < 0 || r.Panel != 0 {
		return Dart{}, nil, nil // a flap is not cut once more
	}
	worst := d.Inside[at]
	nodes := map[[2]int]Vec{}
	for _, n := range d.Inside {
		if n.Panel == 0 {
			nodes[[2]int{n.I, n.J}] = n.At
		}
	}
	var all []Dart
	for along := range 2 {
		for _, a := range []float64{0.25, 0.4, 0.55, 0.7, 0.85} {
			for _, b := range []float64{0, 0.2, 0.45, 0.7} {
				share := [2]float64{a, b}
				if along == 0 {
					share = [2]float64{b, a}
				}
				tip := [2]int{
					int(math.Round(float64(worst.I) * share[0])),
					int(math.Round(float64(worst.J) * share[1])),
				}
				if tip[1-along] == 0 {
					continue
				}
				if dart, ok := thread(nodes, tip, [2]int{worst.I, worst.J}, along); ok && !slices.Contains(all, dart) {
					all = append(all, dart)
				}
			}
		}
	}
	tried := make([]*DrapedPiece, len(all))
	var some parallel.Group
	workers := runtime.GOMAXPROCS(0)
	for from := range workers {
		some.Run(func() {
			for k := from; k < len(all); k += workers {
				next := o
				next.Darts = append(slices.Clone(o.Darts), all[k])
				// One that cannot be is none.
				if laid, err := s.m.Drape(ctx, boundary, start, next); err == nil &&
					laid.Lips[len(laid.Lips)-1].Width >= 0 {
					tried[k] = laid
				}
			}
		})
	}
	if err := some.Wait(); err != nil {
		return Dart{}, nil, err
	}
	s.out.Tried += len(all)
	var best Dart
	var with *DrapedPiece
	least := math.Inf(1)
	for k, laid := range tried {
		if laid == nil {
			continue
		}
		// What still locks near it counts first, then how long it is.
		over := 0.0
		for _, l := range laid.Locks {
			if sameQuarter(l, worst) {
				over = max(over, l.Worst-o.Lock)
			}
		}
		if at := over*1e3 + all[k].Tip.Distance(all[k].Mouth); at < least {
			least, best, with = at, all[k], laid
		}
	}
	if with == nil || worstNear(d, worst) < worstNear(with, worst)+worth {
		return best, nil, nil
	}
	return best, with, nil
}

// worstNear is the largest shear in the quarter of a node.
func worstNear(d *DrapedPiece, of Node) float64 {
	most := 0.0
	for _, n := range d.Inside {
		if n.I*of.I >= 0 && n.J*of.J >= 0 {
			most = max(most, math.Abs(n.Shear))
		}
	}
	return most
}

func sameQuarter(r Region, of Node) bool { return r.I*of.I >= 0 && r.J*of.J >= 0 }

// thread is a dart along the thread from a node to the last node within the ply.
func thread(nodes map[[2]int]Vec, tip, toward [2]int, along int) (Dart, bool) {
	from, ok := nodes[tip]
	if !ok {
		return Dart{}, false
	}
	step := 1
	if toward[along] < 0 {
		step = -1
	}
	last, count := from, 0
	for k := tip; ; k[along] += step {
		p, there := nodes[k]
		if !there {
			break
		}
		last = p
		count++
	}
	return Dart{Tip: from, Mouth: last}, count > 2
}

// Split is the two sides of an outline in plan along the line through two places, each reaching
// over it by half an overlap.
func Split(outline geom.Ring, a, b geom.Point, overlap float64) ([]geom.Ring, error) {
	angle := math.Atan2(b.Y-a.Y, b.X-a.X)
	turned := outline.Rotate(-angle)
	level := geom.Ring{a}.Rotate(-angle)[0].Y
	box := turned.Bounds()
	below, err := turned.Band(box.Min.Y-1, level+overlap/2)
	if err != nil {
		return nil, err
	}
	above, err := turned.Band(level-overlap/2, box.Max.Y+1)
	if err != nil {
		return nil, err
	}
	out := slices.Concat(below, above)
	for k := range out {
		out[k] = out[k].Rotate(angle)
	}
	return out, nil
}
