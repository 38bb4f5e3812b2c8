package work

import (
	"context"
	"errors"
	"log/slog"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/riverqueue/river"

	"juxta/core/nest"
	"juxta/shop"
	"juxta/wire"
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
	id := job.Args.NestID
	problem, ok, err := w.shop.BeginNest(ctx, id)
	if err != nil || !ok {
		return err
	}
	search, stop := context.WithCancel(ctx)
	defer stop()
	var last time.Time
	result, err := problem.Search(search, func(best nest.Result, step int) {
		if now := time.Now(); now.Sub(last) >= reportEvery {
			last = now
			asked, err := w.shop.NestProgress(ctx, id, wire.FromNest(best), step)
			if err != nil && ctx.Err() == nil {
				slog.Warn("nest progress was not kept", "nest", id, "error", err)
			}
			if asked {
				stop()
			}
		}
	})
	if ctx.Err() != nil {
		// Shutting down: the job comes back.
		return errors.Join(ctx.Err(), w.shop.LeaveNest(context.WithoutCancel(ctx), id))
	}
	if err != nil {
		return w.shop.EndNest(ctx, id, nil, err.Error())
	}
	best := wire.FromNest(result)
	return w.shop.EndNest(ctx, id, &best, "")
}
