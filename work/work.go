package work

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"log/slog"
	"time"

	"github.com/riverqueue/river"
	"github.com/riverqueue/river/riverdriver/riverdatabasesql"
	"github.com/riverqueue/river/riverdriver/riverpgxv5"

	"juxta/shop"
	"juxta/store"
)

type nestArgs struct {
	NestID int64 `json:"nest_id"`
}

func (nestArgs) Kind() string { return "nest" }

type recordArgs struct {
	RunID int64 `json:"run_id"`
}

func (recordArgs) Kind() string { return "record" }

type cutArgs struct {
	JobID int64 `json:"job_id"`
}

func (cutArgs) Kind() string { return "cut" }

// Inserter is the shop's side of the queue: it inserts within the caller's
// transaction and works nothing.
type Inserter struct{ client *river.Client[*sql.Tx] }

// NewInserter makes the shop's side of the queue.
func NewInserter(db *store.DB) (*Inserter, error) {
	client, err := river.NewClient(riverdatabasesql.New(db.SQL), &river.Config{Logger: quiet()})
	if err != nil {
		return nil, fmt.Errorf("queue: %w", err)
	}
	return &Inserter{client}, nil
}

// Nest queues the search for a nest.
func (q *Inserter) Nest(ctx context.Context, tx *sql.Tx, nestID int64) error {
	_, err := q.client.InsertTx(ctx, tx, nestArgs{nestID}, nil)
	return err
}

// Record queues the recording of a run.
func (q *Inserter) Record(ctx context.Context, tx *sql.Tx, runID int64) error {
	_, err := q.client.InsertTx(ctx, tx, recordArgs{runID}, &river.InsertOpts{Queue: "record"})
	return err
}

// Cut queues a nest for the table.
func (q *Inserter) Cut(ctx context.Context, tx *sql.Tx, jobID int64) error {
	_, err := q.client.InsertTx(ctx, tx, cutArgs{jobID}, &river.InsertOpts{Queue: "record"})
	return err
}

// Drape queues a search for how a ply is laid.
func (q *Inserter) Drape(ctx context.Context, tx *sql.Tx, searchID int64) error {
	_, err := q.client.InsertTx(ctx, tx, drapeArgs{searchID}, nil)
	return err
}

// Worker takes jobs and does them until it is stopped.
type Worker struct {
	client *river.Client[pgxTx]
	cancel context.CancelFunc
	done   chan struct{}
}

// Start begins to take jobs. Who follows an oven or a table has a queue of its own,
// so that no nest keeps them waiting.
func Start(ctx context.Context, db *store.DB, s *shop.Shop) (*Worker, error) {
	workers := river.NewWorkers()
	river.AddWorker(workers, &nestWorker{shop: s})
	river.AddWorker(workers, &drapeWorker{shop: s})
	river.AddWorker(workers, &recordWorker{shop: s})
	river.AddWorker(workers, &cutWorker{shop: s})
	client, err := river.NewClient(riverpgxv5.New(db.Pool), &river.Config{
		Logger:  quiet(),
		Workers: workers,
		Queues:  map[string]river.QueueConfig{river.QueueDefault: {MaxWorkers: 2}, "record": {MaxWorkers: 16}},
		// Indexes belong to the owner of the tables.
		ReindexerIndexNames: []string{},
		FetchCooldown:       50 * time.Millisecond,
		FetchPollInterval:   300 * time.Millisecond,
	})
	if err != nil {
		return nil, fmt.Errorf("queue: %w", err)
	}
	if err := client.Start(ctx); err != nil {
		return nil, fmt.Errorf("queue: %w", err)
	}
	ctx, cancel := context.WithCancel(ctx)
	w := &Worker{client: client, cancel: cancel, done: make(chan struct{})}
	go w.resume(ctx, s)
	return w, nil
}

// Stop lets go of all jobs: a nest keeps its best so far and is searched again
// from the start, a run is picked up where it was left.
func (w *Worker) Stop() {
	w.cancel()
	<-w.done
	ctx, cancel := context.WithTimeout(context.Background(), 10*time.Second)
	defer cancel()
	if err := w.client.StopAndCancel(ctx); err != nil {
		slog.Warn("the queue did not stop in order", "error", err)
	}
}

// resume looks for runs whose recorder has died, and searches whose worker has, and queues them again.
func (w *Worker) resume(ctx context.Context, s *shop.Shop) {
	defer close(w.done)
	ticker := time.NewTicker(3 * time.Second)
	defer ticker.Stop()
	for n := 0; ; n++ {
		// Every twenty minutes, and at the start.
		if n%400 == 0 {
			if _, err := s.Prune(ctx); err != nil && ctx.Err() == nil {
				slog.Warn("old keys could not be pruned", "error", err)
			}
		}
		ids, err := s.Abandoned(ctx)
		for _, id := range ids {
			if err == nil {
				err = s.ResumeRun(ctx, id)
			}
		}
		if err == nil {
			err = errors.Join(s.ForsakenDrapes(ctx), s.ForsakenNests(ctx), s.ForsakenCuts(ctx))
		}
		if err != nil && ctx.Err() == nil {
			slog.Warn("could not look for abandoned work", "error", err)
		}
		select {
		case <-ctx.Done():
			return
		case <-ticker.C:
		}
	}
}

// quiet keeps the queue's chatter out of the log, not its warnings.
func quiet() *slog.Logger {
	return slog.New(levelHandler{slog.Default().Handler()})
}

type levelHandler struct{ slog.Handler }

func (h levelHandler) Enabled(ctx context.Context, l slog.Level) bool {
	return l >= slog.LevelWarn && h.Handler.Enabled(ctx, l)
}
