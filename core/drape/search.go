package drape

import (
	"context"
	"errors"
	"fmt"
	"math"

	"juxta/core/geom"
)

// FoundStart is the best start so far of a search.
type FoundStart struct {
	Start  Start
	Found  bool
	Peak   float64 // +Inf: none lay the ply yet
	Radius float64 // of strips
	Tried  int
	Of     int
}

// Search tries starts all over a ply, each with every direction, and keeps that of the least peak
// shear; of a ply of strips, that whose tightest strip is steered along the largest radius. It tells
// of every try; stopped by its context it keeps the best so far. Nets of the search are coarser than
// that which is cut by: the winner is laid again by whoever asked.
func (m *Mesh) Search(
	ctx context.Context, p Ply, directions []float64, starts int, o Options, tell func(FoundStart),
) (FoundStart, error) {
	if len(directions) == 0 || starts < 1 {
		return FoundStart{}, fmt.Errorf("a search needs a start and a direction at least")
	}
	o.Cell = max(o.Cell, m.size/60)
	ring := p.Outline
	if len(ring) == 0 {
		whole, err := m.Boundary(o.Cell)
		if err != nil {
			return FoundStart{}, err
		}
		ring = inPlan(whole)
	}
	best := FoundStart{Peak: math.Inf(1)}
	least := math.Inf(1)
	places := m.spread(ring, starts)
	best.Of = len(places) * len(directions)
	var last error
	for _, at := range places {
		for _, warp := range directions {
			if ctx.Err() != nil {
				break
			}
			best.Tried++
			p.At, p.Warp = &at, warp
			all, err := m.Pieces(ctx, p, o)
			if err == nil {
				w := Summarise(all)
				bad := w.Peak
				if p.Strip > 0 {
					bad = 1 / w.Radius
				}
				if bad < least {
					least, best.Peak, best.Radius, best.Start, best.Found = bad, w.Peak, w.Radius, Start{at, warp}, true
				}
			}
			if err != nil && !errors.Is(err, context.Canceled) {
				last = err
			}
			if tell != nil {
				tell(best)
			}
		}
	}
	if math.IsInf(least, 1) {
		if last == nil {
			last = ctx.Err()
		}
		return best, fmt.Errorf("no start lays the whole ply: %w", last)
	}
	return best, nil
}

// spread is about so many places all over a ply, on a grid in plan, those near the middle first.
func (m *Mesh) spread(ring geom.Ring, n int) []Vec {
	box := ring.Bounds()
	p := m.plan()
	step := math.Sqrt(box.Width() * box.Height() / float64(n))
	var out []Vec
	for tries := 0; tries < 6; tries++ {
		out = out[:0]
		for y := box.Min.Y + step/2; y < box.Max.Y; y += step {
			for x := box.Min.X + step/2; x < box.Max.X; x += step {
				q := geom.Point{X: x, Y: y}
				if !ring.Contains(q) {
					continue
				}
				if v, _, found := p.lift(q); found {
					out = append(out, v)
				}
			}
		}
		if len(out) >= n*9/10 {
			break
		}
		step *= math.Sqrt(max(0.3, float64(len(out)+1)/float64(n)))
	}
	return out
}
