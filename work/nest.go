package work

import (
	"context"
	"errors"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/riverqueue/river"

	"juxta/core/nest"
	"juxta/shop"
)

type pgxTx = pgx.Tx

type nestWorker struct {
	river.WorkerDefaults[nestArgs]
	shop *shop.Shop
}

// Timeout: a search ends by its number of steps or by being stopped.
func (*nestWorker) Timeout(*river.Job[nestArgs]) time.Duration { return 30 * time.Minute }

// reportEvery spaces the writes of a search that finds better nests quickly.
const reportEvery = 250 * time.Millisecond

func (w *nestWorker) Work(ctx context.Context, job *river.Job[nestArgs]) error {
	turn, problem, ok, err := w.shop.BeginNest(ctx, job.Args.NestID)
	if err != nil || !ok {
		return err
	}
	search, stop := attend(ctx, w.shop, turn)
	defer stop()
	var last time.Time
	result, err := problem.Search(search, func(best nest.Layout, step int) {
		if now := time.Now(); now.Sub(last) >= reportEvery {
			last = now
			told(stop, func() (bool, error) { return w.shop.NestProgress(ctx, turn, best, step) })
		}
	})
	if ctx.Err() != nil {
		// Shutting down: the job comes back.
		return errors.Join(ctx.Err(), w.shop.Abandon(context.WithoutCancel(ctx), turn))
	}
	if err != nil {
		return ended(w.shop.EndNest(ctx, turn, nil, err.Error()))
	}
	best := result
	return ended(w.shop.EndNest(ctx, turn, &best, ""))
}
