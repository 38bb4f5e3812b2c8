package cutting

import (
	"context"
	"errors"
	"fmt"
	"math"
	"slices"
	"time"

	"gorm.io/gorm"

	"juxta/calc"
	"juxta/core/geom"
	"juxta/core/ident"
	"juxta/core/nest"
	"juxta/shop/book"
	"juxta/shop/stock"
)

// Arrangement asks for a nest to be searched again round what stays.
type Arrangement struct {
	Held    []string         `json:"held,omitempty" doc:"Pieces that stay where they lie" maxItems:"3000"`
	Moved   []nest.Placement `json:"moved,omitempty" doc:"Pieces that were put elsewhere by hand, and stay there" maxItems:"3000"`
	Spoiled []string         `json:"spoiled,omitempty" doc:"Pieces that are spoiled: nothing lies where they lay, and they are cut elsewhere" maxItems:"3000"`
	EndsAt  float64          `json:"endsAt,omitempty" doc:"The cloth is spoiled from here on, m; 0: it is not" minimum:"0"`
	Seconds float64          `json:"seconds,omitempty" doc:"To search for; 0: 10 s" minimum:"0" maximum:"1200"`
	Seed    uint64           `json:"seed,omitempty"`
}

// ArrangeNest searches a nest again: what is held, moved by hand or already cut free stays, the rest is laid anew.
// What no longer fits beside what is cut is left out, and waits to be cut.
func (s *Room) ArrangeNest(ctx context.Context, by book.By, code string, in Arrangement) (NestView, error) {
	return book.Write(ctx, s.Book, by, book.CutPlies, "arrange nest "+code, in, func(tx *book.Tx) (NestView, error) {
		n, jobs, err := arrangeable(tx, code)
		if err != nil {
			return NestView{}, err
		}
		before := StoredNest{Problem: n.Problem, Best: *n.Best}
		var roll stock.Roll
		if err := tx.Take(&roll, n.RollID).Error; err != nil {
			return NestView{}, err
		}
		asked := in // what is logged is what was asked for
		if asked.Seconds == 0 {
			asked.Seconds = s.SearchSeconds()
		}
		problem, err := arranged(n, roll, freed(jobs), asked)
		if err != nil {
			return NestView{}, err
		}
		var wrong *nest.FieldError
		if err := nest.Check(problem.Problem); errors.As(err, &wrong) {
			said, err := inWords(tx.DB, n.ID, wrong.Message)
			if err != nil {
				return NestView{}, err
			}
			return NestView{}, book.Wrong.At("moved", "%s", said)
		}
		n.Problem, n.Before, n.State, n.Stop, n.Message, n.StepsDone = problem, &before, "queued", false, "", 0
		n.StartedAt, n.EndedAt, n.SeenAt = nil, nil, time.Now().UTC()
		if err := tx.Save(&n).Error; err != nil {
			return NestView{}, err
		}
		if err := s.Queue.Nest(tx.Ctx, tx.SQL(), n.ID); err != nil {
			return NestView{}, fmt.Errorf("queue the nest: %w", err)
		}
		if err := tx.Log("nest arranged again", n.Code, "", in); err != nil {
			return NestView{}, err
		}
		return s.nestView(tx.DB, n.Code)
	})
}

// arrangeable is a nest that is found and not cut, and not on the table, held.
func arrangeable(tx *book.Tx, code string) (n Nest, jobs []CutJob, err error) {
	if n, err = book.Find[Nest](book.Locked(tx.DB), ident.Nest, code, "nest"); err != nil {
		return n, nil, err
	}
	if jobs, err = cutJobs(tx.DB, n.ID); err != nil {
		return n, nil, err
	}
	switch {
	case n.State == "cut":
		return n, nil, book.Done.Errorf("this nest is already cut")
	case n.State != "done" || n.Best == nil:
		return n, nil, book.NotNow.Errorf("this nest is not finished: stop it first, or wait")
	case len(jobs) > 0 && jobs[0].open():
		return n, nil, book.NotNow.Errorf("the knife is at this nest: wait for it, or stop it")
	}
	return n, jobs, nil
}

// arranged is the problem of a nest round what stays.
func arranged(n Nest, roll stock.Roll, cut []string, in Arrangement) (calc.NestIn, error) {
	p := n.Problem
	p.Pieces, p.Sheets = slices.Clone(p.Pieces), slices.Clone(p.Sheets)
	sheet := &p.Sheets[0]
	sheet.Flaws = flawsOf(n, roll)
	p.Seed, p.Steps, p.Seconds = in.Seed, 0, in.Seconds
	at := map[string]nest.Placement{}
	for _, one := range n.Best.Placements {
		at[one.ID] = one
	}
	held := map[string]nest.Placement{}
	for _, id := range append(slices.Clone(in.Held), cut...) {
		if one, laid := at[id]; laid {
			held[id] = one
		}
	}
	for _, m := range in.Moved {
		if slices.Contains(cut, m.ID) {
			return p, book.Done.At("moved", "a ply that is cut free cannot be put elsewhere")
		}
		held[m.ID] = m
	}
	known := map[string]bool{}
	for k := range p.Pieces {
		one := &p.Pieces[k]
		known[one.ID] = true
		one.At, one.Cut = nil, slices.Contains(cut, one.ID)
		if slices.Contains(in.Spoiled, one.ID) {
			if slices.Contains(cut, one.ID) {
				return p, book.Done.At("spoiled", "a ply that is cut free is named when the cut is recorded")
			}
			if lay, laid := at[one.ID]; laid {
				sheet.Spoiled = append(
					slices.Clip(sheet.Spoiled), nest.PlaceOutline(one.Outline, lay),
				)
			}
		} else if lay, stays := held[one.ID]; stays {
			one.At = &lay
		}
		if len(cut) > 0 {
			one.Kit = one.ID // what no longer fits is left out ply by ply
		}
	}
	for id := range held {
		if !known[id] {
			return p, book.Wrong.At("moved", "this nest has no piece %s", id)
		}
	}
	if in.EndsAt > 0 && in.EndsAt < sheet.Length {
		end := geom.Rect(sheet.Length-in.EndsAt, sheet.Width).Move(in.EndsAt, 0)
		sheet.Spoiled = append(slices.Clip(sheet.Spoiled), end)
	}
	p.Leave, p.First = len(cut) > 0, cut
	return p, nil
}

// flawsOf are the flaws under a nest: those mapped on its roll by now.
func flawsOf(n Nest, roll stock.Roll) []nest.Flaw {
	if sheet := n.Problem.Sheets[0]; math.Abs(roll.Length-sheet.Length) > 1e-6 { // cut since
		return slices.Clone(sheet.Flaws)
	}
	return roll.FlawsLeft()
}

// sameCloth says whether a roll is as it was when a nest was made for it.
func sameCloth(roll stock.Roll, n Nest) bool {
	return roll.Width == n.Problem.Sheets[0].Width && slices.Equal(flawsOf(n, roll), n.Problem.Sheets[0].Flaws)
}

// inWords says a sentence of the core with the plies as people call them.
func inWords(db *gorm.DB, nestID int64, says string) (string, error) {
	all, err := called(db, nestID)
	for id, v := range all {
		says = replaceWord(says, id, v.Label)
	}
	return says, err
}

// TakeDrawing takes a nest of the same plies that was made elsewhere: the outlines of its drawing are found again,
// and it is taken if it passes the exact check.
func (s *Room) TakeDrawing(ctx context.Context, by book.By, code string, all []nest.DrawnOutline) (NestView, error) {
	return book.Write(ctx, s.Book, by, book.CutPlies, "take drawing "+code, all, func(tx *book.Tx) (NestView, error) {
		n, jobs, err := arrangeable(tx, code)
		if err != nil {
			return NestView{}, err
		}
		if len(freed(jobs)) > 0 {
			return NestView{}, book.NotNow.Errorf("some of this nest is cut: it stays as it is")
		}
		views, err := called(tx.DB, n.ID)
		if err != nil {
			return NestView{}, err
		}
		names := map[string]string{}
		for id, v := range views {
			names[id] = v.Label
		}
		problem := n.Problem
		problem.Pieces = slices.Clone(problem.Pieces)
		for k := range problem.Pieces {
			problem.Pieces[k].At = nil
		}
		p := problem.Problem
		r, err := nest.Recognise(p, names, all)
		var wrong *nest.FieldError
		if errors.As(err, &wrong) {
			return NestView{}, book.Wrong.At("drawing", "%s", wrong.Message)
		}
		if err != nil {
			return NestView{}, err
		}
		if err := nest.Verify(p, r); err != nil {
			says, wrong := inWords(tx.DB, n.ID, err.Error())
			if wrong != nil {
				return NestView{}, wrong
			}
			return NestView{}, book.Wrong.At("drawing", "this nest cannot be cut: %s", says)
		}
		best := nest.Measure(p, r)
		n.Before = &StoredNest{Problem: n.Problem, Best: *n.Best}
		n.Problem, n.Best, n.Message = problem, &best, ""
		if err := tx.Save(&n).Error; err != nil {
			return NestView{}, err
		}
		if err := tx.Log("nest imported", n.Code, "", map[string]any{"length": best.Length}); err != nil {
			return NestView{}, err
		}
		return s.nestView(tx.DB, n.Code)
	})
}

// TakeNestBack undoes the last arrangement of a nest, unless something was cut of it since.
func (s *Room) TakeNestBack(ctx context.Context, by book.By, code string) (NestView, error) {
	return book.Write(ctx, s.Book, by, book.CutPlies, "take back "+code, nil, func(tx *book.Tx) (NestView, error) {
		n, jobs, err := arrangeable(tx, code)
		if err != nil {
			return NestView{}, err
		}
		if n.Before == nil {
			return NestView{}, book.NotNow.Errorf("this nest was not arranged again")
		}
		if n.EndedAt != nil && len(jobs) > 0 && jobs[0].CreatedAt.After(*n.EndedAt) {
			return NestView{}, book.NotNow.Errorf("the knife was at this nest since it was arranged")
		}
		n.Problem, n.Best, n.Before = n.Before.Problem, &n.Before.Best, nil
		if err := tx.Save(&n).Error; err != nil {
			return NestView{}, err
		}
		if err := tx.Log("nest arrangement undone", n.Code, "", nil); err != nil {
			return NestView{}, err
		}
		return s.nestView(tx.DB, n.Code)
	})
}

// HandPlacement is where a piece would lie.
type HandPlacement struct {
	nest.Placement
	Over    []string  `json:"over" doc:"What it does not lie clear of, in words"`
	Outline geom.Ring `json:"outline"`
}

// PutPiece says where a piece may lie near where it is wanted: pushed out of others, and drawn against them by at
// most reach; turned about its middle first where a turn is given. Others are pieces that were moved before. Nothing
// is stored.
func (s *Room) PutPiece(
	ctx context.Context, code string, want nest.Placement, others []nest.Placement, reach float64, about *int,
) (HandPlacement, error) {
	return book.View(ctx, s.Book, func(db *gorm.DB) (HandPlacement, error) {
		n, err := book.Find[Nest](db, ident.Nest, code, "nest")
		if err != nil {
			return HandPlacement{}, err
		}
		if n.Best == nil {
			return HandPlacement{}, book.NotNow.Errorf("there is no nest yet")
		}
		p, r := n.Problem.Problem, n.Best
		for k := range p.Pieces {
			p.Pieces[k].At = nil
		}
		for _, o := range others {
			for k := range r.Placements {
				if r.Placements[k].ID == o.ID {
					r.Placements[k] = o
				}
			}
		}
		wanted := want
		if about != nil {
			k := slices.IndexFunc(p.Pieces, func(q nest.Piece) bool { return q.ID == want.ID })
			if k < 0 {
				return HandPlacement{}, book.Wrong.At("piece", "this nest has no piece %s", want.ID)
			}
			wanted = nest.TurnedTo(p.Pieces[k].Outline, wanted, *about)
		}
		at, over, err := nest.Snap(p, *r, wanted, reach)
		var wrong *nest.FieldError
		if errors.As(err, &wrong) {
			return HandPlacement{}, book.Wrong.At("piece", "%s", wrong.Message)
		}
		if err != nil {
			return HandPlacement{}, err
		}
		put := HandPlacement{Placement: at, Over: []string{}}
		for _, o := range n.Problem.Pieces {
			if o.ID == at.ID {
				put.Outline = nest.PlaceOutline(o.Outline, at)
			}
		}
		all, err := called(db, n.ID)
		for _, id := range over {
			if v, ply := all[id]; ply {
				id = v.Label
			}
			put.Over = append(put.Over, id)
		}
		return put, err
	})
}
