package nest

import (
	"context"
	"fmt"
	"math"
	"slices"

	"juxta/core/parallel"
)

// searchers is how many search at once, each with its own chance: fixed, so that the same seed gives the
// same nest on any machine.
const searchers = 2

// between is how many steps a searcher does before it hears of what the others found.
const between = 1500

// Nest searches for the nest of the least roll length. It is anytime: when ctx is done it gives the best so
// far with a nil error. Where not all fits it is an error that says by how much, or what is left out is
// named. The result has passed [Verify].
func Nest(ctx context.Context, p Problem, o Options) (Layout, error) {
	if err := checkProblem(p); err != nil {
		return Layout{}, err
	}
	s := &search{o: o}
	rest := settled(p)
	for {
		f, err := s.run(ctx, rest, 1)
		if err != nil {
			return Layout{}, err
		}
		if f.any {
			f.tidy()
			f.tell()
			return s.finish(f), nil
		}
		if f.best == nil && s.dropped > 0 {
			return Layout{}, fmt.Errorf("no layout passed the exact check: %d were dropped", s.dropped)
		}
		out := f.out()
		if !p.Leave || len(out) == 0 {
			return Layout{}, f.tooShort()
		}
		s.left = append(s.left, out...)
		rest.Pieces = slices.DeleteFunc(
			slices.Clone(rest.Pieces),
			func(q Piece) bool { return slices.Contains(out, q.ID) },
		)
		if len(rest.Pieces) == 0 {
			return Layout{}, f.tooShort()
		}
	}
}

// search is one call of Nest.
type search struct {
	o       Options
	steps   int
	dropped int
	left    []string // pieces that were left out
	plain   bool     // never in blocks
}

// field is what the searchers of a problem share.
type field struct {
	*ground
	*search
	ctx   context.Context
	meet  *meeting
	best  *layout
	found Layout // of the best that passed the exact check
	any   bool
	lost  []int // pieces that lie nowhere
	bound float64
	until float64 // the share of the search at which it is over
	begun bool
}

// run searches until a share of the time is over.
func (s *search) run(ctx context.Context, p Problem, until float64) (*field, error) {
	g := newGround(p)
	f := &field{ground: g, search: s, ctx: ctx, meet: newMeeting(searchers), bound: g.least(), until: until}
	var all parallel.Group
	for k := range searchers {
		all.Run(func() {
			defer f.meet.leave()
			f.work(k)
		})
	}
	return f, all.Wait()
}

// finish is the result of a search as it is given.
func (s *search) finish(f *field) Layout {
	r := f.found
	r.Dropped, r.Step, r.Left = s.dropped, s.steps, s.left
	return r
}

// shortest says whether none can be shorter than a layout, by more than a fifth of a millimetre a metre.
func (f *field) shortest(l *layout) bool { return l.end <= f.bound*(1+2e-4) }

// loose says whether any piece may be moved.
func (g *ground) loose() bool {
	return slices.ContainsFunc(g.things, func(t thing) bool { return !t.held })
}

// least is an end that no layout of the pieces can be before.
func (g *ground) least() float64 {
	if len(g.bands) > 1 {
		return 0
	}
	b := g.bands[0]
	least := g.area / (b.high - b.low)
	for i, t := range g.things {
		if at := g.p.Pieces[i].At; at != nil {
			solid := t.solids[max(0, slices.Index(t.turns, at.Turn/90))]
			least = max(least, at.X+g.tables.solids[solid].box.Max.X)
			continue
		}
		own := math.Inf(1)
		for _, k := range t.solids {
			own = min(own, g.tables.solids[k].box.Width())
		}
		least = max(least, own)
	}
	return least
}

// stretch is how many steps a searcher does before the next meeting.
func (f *field) stretch() int {
	// With many pieces a step takes longer.
	most := max(20, min(between, 60_000/len(f.things)))
	if f.o.Steps > 0 {
		return min(most, 1+(f.o.Steps-f.steps)/searchers)
	}
	return most
}

// accept takes a layout as the best, which is told if it passes the exact check; the searchers are at
// their meeting.
func (f *field) accept(l *layout) bool {
	if l.end <= f.whole+tolerance {
		r := f.arranged(l)
		if err := Verify(f.p, r); err != nil {
			f.dropped++
			return false
		}
		r.Rest = restOf(f.p, r)
		f.found, f.any = r, true
	}
	f.best = l.clone()
	return true
}

// arranged is a layout with like pieces exchanged as is asked for.
func (f *field) arranged(l *layout) Layout {
	r := f.result(l)
	if f.p.Together || f.p.Spread {
		f.gather(&r)
	}
	return r
}

// tell says what is found so far.
func (f *field) tell() {
	if f.any && f.o.Progress != nil {
		told := f.found
		told.Step, told.Left = f.steps, f.left
		f.o.Progress(told, f.steps)
	}
}

// patience is the share of a search within which all is to fit; then something is left out.
const patience = 0.6

// share is how much of the search is over, 0 to 1.
func (f *field) share() float64 {
	share := 0.0
	if f.o.Steps > 0 {
		share = float64(f.steps) / float64(f.o.Steps)
	}
	if f.o.Share != nil {
		share = max(share, f.o.Share())
	}
	return share
}
