package curing

import (
	"context"
	"encoding/json"
	"math"
	"time"

	"gorm.io/gorm"

	"juxta/core/cure"
	"juxta/shop/book"
)

// The recorder's side of a run: who records it, what is read, how it ends.

// leaseFor is how long a silent recorder keeps its run to itself.
const leaseFor = 10 * time.Second

// LeaseRun makes recorder the one that records a run, from where the oven
// answers now; ok is false while
// another one does, or when the run is over.
func (s *Room) LeaseRun(ctx context.Context, id int64, recorder string) (run Run, ok bool, err error) {
	db := s.DB.Gorm.WithContext(ctx)
	now := time.Now().UTC() // leases live on the wall clock, also in tests
	got := db.Exec(
		`update runs set recorder = ?, heartbeat = ?, oven = ?, started_at = coalesce(started_at, ?), state = 'running'
		where id = ? and state in ('queued', 'running') and (recorder = '' or recorder = ? or heartbeat < ?)`,
		recorder,
		now,
		s.Oven,
		s.Now().UTC(),
		id,
		recorder,
		now.Add(-leaseFor),
	)
	if got.Error != nil || got.RowsAffected == 0 {
		return run, false, got.Error
	}
	err = db.Take(&run, id).Error
	return run, true, err
}

// Abandoned lists runs whose recorder has fallen silent, and those that nobody took up since
// they were asked for: whoever was to record them died with the job in hand.
func (s *Room) Abandoned(ctx context.Context) ([]int64, error) {
	var ids []int64
	err := s.DB.Gorm.WithContext(ctx).
		Raw(`select id from runs where state = 'running' and (recorder = '' or heartbeat < @silent)
			or state = 'queued' and heartbeat < @silent`, map[string]any{"silent": time.Now().UTC().Add(-leaseFor)}).
		Scan(&ids).
		Error
	return ids, err
}

// ResumeRun puts a run back into the queue.
func (s *Room) ResumeRun(ctx context.Context, id int64) error {
	return s.DB.Gorm.WithContext(ctx).Transaction(func(g *gorm.DB) error {
		tx := &book.Tx{DB: g}
		return s.Queue.Record(ctx, tx.SQL(), id)
	})
}

// AddSample stores one reading with the controller's state and what is to be known of the run so far; stop says that
// somebody asked the run to end. A recorder that lost its lease is refused.
func (s *Room) AddSample(
	ctx context.Context,
	id int64,
	recorder string,
	x cure.Sample,
	c cure.Controller,
	says string,
) (stop bool, err error) {
	state, err := json.Marshal(c)
	if err != nil {
		return false, err
	}
	err = s.DB.Gorm.WithContext(ctx).Transaction(func(g *gorm.DB) error {
		got := g.Exec(
			`update runs set controller = ?, says = ?, heartbeat = ? where id = ? and recorder = ?
				and state = 'running'`,
			string(state),
			says,
			time.Now().UTC(),
			id,
			recorder,
		)
		if got.Error != nil {
			return got.Error
		}
		if got.RowsAffected == 0 {
			return book.Changed.Errorf("another recorder has taken over this run")
		}
		known := func(v float64) *float64 {
			if math.IsNaN(v) {
				return nil
			}
			return &v
		}
		sample := Sample{
			RunID:    id,
			T:        x.T,
			SetPoint: x.SetPoint,
			Air:      known(x.Air),
			Tool:     known(x.Tool),
			Lead:     known(x.Lead),
			Lag:      known(x.Lag),
			Vacuum:   known(x.Vacuum),
			Pressure: known(x.Pressure),
		}
		if err := g.Create(&sample).Error; err != nil {
			return err
		}
		return g.Raw(`select stop from runs where id = ?`, id).Scan(&stop).Error
	})
	return stop, err
}

// KeepLease says that a recorder is alive although it has nothing to store.
func (s *Room) KeepLease(ctx context.Context, id int64, recorder string) error {
	got := s.DB.Gorm.WithContext(ctx).
		Exec(`update runs set heartbeat = ? where id = ? and recorder = ?
			and state = 'running'`, time.Now().UTC(), id, recorder)
	if got.Error == nil && got.RowsAffected == 0 {
		return book.Changed.Errorf("another recorder has taken over this run")
	}
	return got.Error
}

// LetGo gives the lease of a run back, for another recorder to take at once.
func (s *Room) LetGo(ctx context.Context, id int64, recorder string) error {
	return s.DB.Gorm.WithContext(ctx).
		Exec(`update runs set recorder = '' where id = ? and recorder = ?`, id, recorder).
		Error
}

// LastSample is the time of the newest sample of a run, -1 for none.
func (s *Room) LastSample(ctx context.Context, id int64) (float64, error) {
	last := -1.0
	err := s.DB.Gorm.WithContext(ctx).
		Raw(`select coalesce(max(t), -1) from samples where run_id = ?`, id).
		Scan(&last).
		Error
	return last, err
}

// EndRun closes a run and judges it. state is finished, stopped or failed.
func (s *Room) EndRun(ctx context.Context, id int64, state, says string) error {
	_, err := book.Write(ctx, s.Book, book.By{}, book.RunOven, "end run", id, func(tx *book.Tx) (struct{}, error) {
		var run Run
		if err := book.Locked(tx.DB).Take(&run, id).Error; err != nil {
			return struct{}{}, err
		}
		log, err := logOf(tx.DB, id)
		if err != nil {
			return struct{}{}, err
		}
		limits := run.Process.RunLimits.Core()
		limits.MaxPressure = run.Process.PressureMax
		limits.Lead, _ = run.Simulation.Told()
		verdict, err := cure.Judge(
			log,
			run.Process.Recipe,
			limits,
			run.Kinetics,
			run.Alpha0,
		)
		if err != nil {
			state, says = "failed", err.Error()
		} else {
			w := verdict
			run.Verdict = &w
		}
		run.State, run.Message, run.EndedAt = state, says, &tx.Now
		if err := tx.Save(&run).Error; err != nil {
			return struct{}{}, err
		}
		return struct{}{}, tx.Log(
			"run "+state,
			run.Code,
			says,
			map[string]any{"samples": len(log), "verdict": run.Verdict},
		)
	})
	return err
}
