package work

import (
	"context"
	"errors"
	"time"

	"github.com/riverqueue/river"

	"juxta/core/drape"
	"juxta/core/master"
	"juxta/core/unit"
	"juxta/shop"
	"juxta/shop/parts"
)

type drapeArgs struct {
	SearchID int64 `json:"search_id"`
}

func (drapeArgs) Kind() string { return "drape" }

type drapeWorker struct {
	river.WorkerDefaults[drapeArgs]
	shop *shop.Shop
}

// Timeout: a search ends by itself or by being stopped.
func (*drapeWorker) Timeout(*river.Job[drapeArgs]) time.Duration { return 30 * time.Minute }

// starts is how many places are tried.
const starts = 100

func (w *drapeWorker) Work(ctx context.Context, job *river.Job[drapeArgs]) error {
	turn, row, ok, err := w.shop.BeginDrape(ctx, job.Args.SearchID)
	if err != nil || !ok {
		return err
	}
	search, stop := attend(ctx, w.shop, turn)
	defer stop()
	var best parts.DrapeBest
	var last time.Time
	tell := func(now parts.DrapeBest) {
		best = now
		if time.Since(last) < reportEvery && now.Tried > 1 {
			return
		}
		last = time.Now()
		told(stop, func() (bool, error) { return w.shop.DrapeProgress(ctx, turn, best) })
	}
	err = w.seek(search, row, tell)
	if ctx.Err() != nil {
		// Shutting down: the job comes back.
		return errors.Join(ctx.Err(), w.shop.Abandon(context.WithoutCancel(ctx), turn))
	}
	if err != nil && search.Err() == nil {
		return ended(w.shop.EndDrape(ctx, turn, best, err.Error()))
	}
	return ended(w.shop.EndDrape(ctx, turn, best, ""))
}

// seek does a search, telling of the best so far.
func (w *drapeWorker) seek(ctx context.Context, row parts.DrapeSearch, tell func(parts.DrapeBest)) error {
	m, err := w.shop.SurfaceMesh(ctx, row.Problem.Surface)
	if err != nil {
		return err
	}
	m = m.Offset(row.Problem.Lift)
	p, err := row.Problem.Ply(m)
	if err != nil {
		return err
	}
	o := row.Problem.Options(m)
	if row.What == "cuts" {
		_, err := m.Propose(ctx, p, o, func(f drape.CutProposal) {
			b := parts.DrapeBest{Peak: unit.Deg(f.Peak), Tried: f.Tried, Found: len(f.Cuts) > 0}
			for _, c := range append(p.Cuts[:len(p.Cuts):len(p.Cuts)], f.Cuts...) {
				b.Cuts = append(b.Cuts, master.CutOf(c))
			}
			tell(b)
		})
		return err
	}
	_, err = m.Search(ctx, p, []float64{p.Warp}, starts, o, func(f drape.FoundStart) {
		tell(parts.DrapeBest{
			X: f.Start.At.X, Y: f.Start.At.Y, Peak: unit.Deg(f.Peak), Radius: f.Radius, Tried: f.Tried, Of: f.Of,
			Found: f.Found,
		})
	})
	return err
}
