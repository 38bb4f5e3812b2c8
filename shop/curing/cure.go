// Package curing is the oven: runs, what they recorded, and what is made of it.
package curing

import (
	"context"
	"encoding/json"
	"fmt"
	"math"
	"slices"
	"time"

	"gorm.io/gorm"

	"juxta/core/cure"
	"juxta/core/ident"
	"juxta/shop/book"
	"juxta/shop/builds"
	"juxta/shop/parts"
	"juxta/wire"
)

// Room of the oven.
type Room struct{ *builds.Room }

// RunLine is a run in the list.
type RunLine struct {
	Code    string     `json:"code"`
	State   string     `json:"state" enum:"queued,running,finished,stopped,failed"`
	Recipe  string     `json:"recipe"`
	Builds  []string   `gorm:"-" json:"builds" doc:"Part and serial"`
	At      time.Time  `json:"at"`
	EndedAt *time.Time `json:"endedAt,omitempty"`
	Met     *bool      `json:"met,omitempty" doc:"Every limit met"`
}

// RunView is a run: plan, record and verdict.
type RunView struct {
	RunLine
	Oven      string           `json:"oven" doc:"What people call it"`
	Process   parts.Process    `json:"process"`
	Loaded    []LoadedBuild    `json:"loaded"`
	Plan      []wire.PlanPoint `json:"plan"`
	Samples   []Sample         `json:"samples"`
	Cure      []wire.CurePoint `json:"cure" doc:"Degree of cure so far, by the lagging sensor"`
	Segment   int              `json:"segment" doc:"Present segment, from 1"`
	Waiting   bool             `json:"waiting" doc:"For the lagging part sensor"`
	Verdict   *wire.Verdict    `json:"verdict,omitempty"`
	Says      string           `json:"says,omitempty"`
	StartedBy string           `json:"startedBy"`
}

// LoadedBuild is a build in a run.
type LoadedBuild struct {
	builds.BuildLine
	Operations []string `json:"operations,omitempty" doc:"What the run does to it, of a build that walks a route"`
}

// loaded are the builds of a run, each with its operations as its route calls them.
func (s *Room) loaded(db *gorm.DB, run int64) ([]LoadedBuild, error) {
	lines, err := s.BuildLines(db, "b.id in (select build_id from run_builds where run_id = ?)", run)
	if err != nil {
		return nil, err
	}
	out := make([]LoadedBuild, len(lines))
	for k, b := range lines {
		out[k].BuildLine = b
		var keys []string
		if err := db.Raw(`select operation from run_builds rb join builds b on b.id = rb.build_id
			where rb.run_id = ? and b.code = ? and operation <> '' order by operation`, run, b.Code).
			Scan(&keys).Error; err != nil {
			return nil, err
		}
		row, err := s.Build(db, b.Code)
		if err != nil {
			return nil, err
		}
		for _, key := range keys {
			out[k].Operations = append(out[k].Operations, row.Walk().Called(key))
		}
	}
	return out, nil
}

// oven is what people call the oven of a run; early runs know its address only.
func (r Run) oven() string {
	if r.OvenName != "" {
		return r.OvenName
	}
	return "oven at " + r.Oven
}

// RunUpdate is what a page hears while a run goes on.
type RunUpdate struct {
	State   string           `json:"state"`
	Samples []Sample         `json:"samples" doc:"New since the last update"`
	Cure    []wire.CurePoint `json:"cure"`
	Segment int              `json:"segment"`
	Waiting bool             `json:"waiting"`
	Says    string           `json:"says,omitempty"`
}

// Runs lists the newest runs.
func (s *Room) Runs(ctx context.Context) ([]RunLine, error) {
	return book.View(ctx, s.Book, func(db *gorm.DB) ([]RunLine, error) { return s.RunLines(db, "true") })
}

func (s *Room) RunLines(db *gorm.DB, where string, args ...any) ([]RunLine, error) {
	var rows []struct {
		RunLine
		Loaded string
	}
	err := db.Raw(`select h.code, h.state, h.process->'recipe'->>'name' as recipe, h.created_at as at, h.ended_at,
		(h.verdict->>'met')::boolean as met,
		(select coalesce(json_agg(t.number || ' · ' || b.serial order by b.id), '[]') from run_builds rb
		join builds b on b.id = rb.build_id
		 join revisions r on r.id = b.revision_id join parts t on t.id = r.part_id where rb.run_id = h.id) as loaded
		from runs h where `+where+` order by h.id desc limit 50`, args...).
		Scan(&rows).
		Error
	if err != nil {
		return nil, err
	}
	out := make([]RunLine, len(rows))
	for i, r := range rows {
		out[i] = r.RunLine
		if err := json.Unmarshal([]byte(r.Loaded), &out[i].Builds); err != nil {
			return nil, err
		}
	}
	return out, nil
}

// Run is one run with all that was recorded.
func (s *Room) Run(ctx context.Context, code string) (RunView, error) {
	return book.View(ctx, s.Book, func(db *gorm.DB) (RunView, error) { return s.runView(db, code) })
}

func (s *Room) runView(db *gorm.DB, code string) (RunView, error) {
	run, err := book.Find[Run](db, ident.Run, code, "run")
	if err != nil {
		return RunView{}, err
	}
	lines, err := s.RunLines(db, "h.id = ?", run.ID)
	if err != nil {
		return RunView{}, err
	}
	names, err := s.Names(db)
	if err != nil {
		return RunView{}, err
	}
	v := RunView{
		RunLine:   lines[0],
		Oven:      run.oven(),
		Process:   run.Process,
		Samples:   []Sample{},
		Verdict:   run.Verdict,
		Says:      run.Says,
		StartedBy: names[run.StartedBy],
		Segment:   run.Controller.Segment + 1,
		Waiting:   run.Controller.Waiting,
		Plan:      wire.FromPlan(cure.Plan(run.Process.Recipe.Core(), run.Process.PartLag, cure.PlanStep, cure.PlanMost)),
	}
	if v.Loaded, err = s.loaded(db, run.ID); err != nil {
		return RunView{}, err
	}
	if err := db.Where("run_id = ?", run.ID).Order("t").Find(&v.Samples).Error; err != nil {
		return RunView{}, err
	}
	v.Cure, err = run.degree(v.Samples)
	return v, err
}

// degree integrates the degree of cure from the lagging sensor's readings.
func (run Run) degree(samples []Sample) ([]wire.CurePoint, error) {
	var history []cure.Point
	for _, x := range samples {
		if x.Lag != nil {
			history = append(history, cure.Point{T: x.T, Temperature: *x.Lag})
		}
	}
	alpha, err := run.Kinetics.Core().Integrate(run.Alpha0, history)
	if err != nil {
		return nil, err
	}
	out := make([]wire.CurePoint, len(alpha))
	for i, a := range alpha {
		out[i] = wire.CurePoint{T: history[i].T, Alpha: a}
	}
	return out, nil
}

// RunSince is what is new in a run after time t.
func (s *Room) RunSince(ctx context.Context, code string, t float64) (RunUpdate, error) {
	return book.View(ctx, s.Book, func(db *gorm.DB) (RunUpdate, error) { return s.runSince(db, code, t) })
}

func (s *Room) runSince(db *gorm.DB, code string, t float64) (RunUpdate, error) {
	run, err := book.Find[Run](db, ident.Run, code, "run")
	if err != nil {
		return RunUpdate{}, err
	}
	var all []Sample
	if err := db.Where("run_id = ?", run.ID).Order("t").Find(&all).Error; err != nil {
		return RunUpdate{}, err
	}
	degree, err := run.degree(all)
	if err != nil {
		return RunUpdate{}, err
	}
	u := RunUpdate{
		State:   run.State,
		Segment: run.Controller.Segment + 1,
		Waiting: run.Controller.Waiting,
		Says:    run.Says,
		Samples: []Sample{},
		Cure:    []wire.CurePoint{},
	}
	for _, x := range all {
		if x.T > t {
			u.Samples = append(u.Samples, x)
		}
	}
	for _, d := range degree {
		if d.T > t {
			u.Cure = append(u.Cure, d)
		}
	}
	return u, nil
}

// OvenLoad is what is put into the oven: a build, and of one that walks a route the operation
// that the run completes.
type OvenLoad struct {
	Build     string `json:"build"`
	Operation string `json:"operation,omitempty" doc:"Missing: the one whose turn it is"`
}

// StartRun loads builds into the oven and asks for the run to be recorded.
func (s *Room) StartRun(ctx context.Context, by book.By, loads []OvenLoad) (RunLine, error) {
	return book.Write(ctx, s.Book, by, book.RunOven, "start run", loads, func(tx *book.Tx) (RunLine, error) {
		if len(loads) == 0 {
			return RunLine{}, book.Needed.At("builds", "choose what goes into the oven")
		}
		var busy int64
		if err := tx.Exec(`select pg_advisory_xact_lock(hashtext(?))`, "oven "+s.Oven).Error; err != nil {
			return RunLine{}, err
		}
		if err := tx.Model(&Run{}).Where("oven = ? and state in ('queued', 'running')", s.Oven).Count(&busy).
			Error; err != nil {
			return RunLine{}, err
		}
		if busy > 0 {
			return RunLine{}, book.Done.Errorf("the oven is running already")
		}
		var run Run
		var first string
		var loaded []RunBuild
		codes := make([]string, len(loads))
		for k, load := range loads {
			codes[k] = load.Build
			b, err := s.Held(tx, load.Build)
			if err != nil {
				return RunLine{}, err
			}
			heated, err := b.ToHeat(tx, load.Operation)
			if err != nil {
				return RunLine{}, err
			}
			if slices.Contains(loaded, RunBuild{BuildID: b.ID, Operation: heated.Operation}) {
				return RunLine{}, book.Wrong.Errorf("%s · %s is named twice for this run", b.Number, b.Serial)
			}
			resin, err := s.ResinOf(tx.DB, heated.Revision, heated.Stages)
			if err != nil {
				return RunLine{}, err
			}
			same, _ := json.Marshal([]any{heated.Process.Heat(), resin.ID})
			begun := max(resin.Alpha0, heated.Begun)
			if first == "" {
				first = string(same)
				run.Process, run.Kinetics, run.Alpha0 = heated.Process, resin.Kinetics, begun
			} else if first != string(same) {
				return RunLine{}, book.Limit.Errorf("%s · %s has another recipe or other limits: it needs a run of its "+
					"own", b.Number, b.Serial)
			}
			// The run is judged by what has come the least way yet.
			run.Alpha0 = min(run.Alpha0, begun)
			loaded = append(loaded, RunBuild{BuildID: b.ID, Operation: heated.Operation})
		}
		id, code, err := book.NextCode(tx.DB, "runs", ident.Run)
		if err != nil {
			return RunLine{}, err
		}
		run.ID, run.Code, run.State, run.Oven, run.OvenName = id, code, "queued", s.Oven, s.OvenName
		run.CreatedAt, run.StartedBy = tx.Now, tx.By.Person.ID
		asked := time.Now().UTC() // leases live on the wall clock, also in tests
		run.Heartbeat = &asked
		run.Controller = cure.Begin(run.Process.Recipe.Core())
		if err := tx.Create(&run).Error; err != nil {
			return RunLine{}, err
		}
		for _, b := range loaded {
			b.RunID = id
			if err := tx.Create(&b).Error; err != nil {
				return RunLine{}, err
			}
		}
		if err := s.Queue.Record(tx.Ctx, tx.SQL(), id); err != nil {
			return RunLine{}, fmt.Errorf("queue the run: %w", err)
		}
		if err := tx.Log("run started", code, "", map[string]any{
			"builds": codes, "recipe": run.Process.Recipe.Name,
		}); err != nil {
			return RunLine{}, err
		}
		lines, err := s.RunLines(tx.DB, "h.id = ?", id)
		if err != nil {
			return RunLine{}, err
		}
		return lines[0], nil
	})
}

// StopRun asks the recorder to turn the heat off and end the run.
func (s *Room) StopRun(ctx context.Context, by book.By, code, reason string) (RunLine, error) {
	return book.Write(ctx, s.Book, by, book.StopOven, "stop run "+code, reason, func(tx *book.Tx) (RunLine, error) {
		run, err := book.Find[Run](book.Locked(tx.DB), ident.Run, code, "run")
		if err != nil {
			return RunLine{}, err
		}
		if run.State != "queued" && run.State != "running" {
			return RunLine{}, book.Done.Errorf("this run is over")
		}
		if reason == "" {
			return RunLine{}, book.Needed.At("reason", "say why the run is stopped")
		}
		if err := tx.Model(&Run{ID: run.ID}).Update("stop", true).Error; err != nil {
			return RunLine{}, err
		}
		if err := tx.Log("run stopped", run.Code, reason, nil); err != nil {
			return RunLine{}, err
		}
		lines, err := s.RunLines(tx.DB, "h.id = ?", run.ID)
		if err != nil {
			return RunLine{}, err
		}
		return lines[0], nil
	})
}

// The recorder's side.

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

// AddSample stores one reading with the controller's state; stop says that
// somebody asked the run to end. A recorder that lost its lease is refused.
func (s *Room) AddSample(
	ctx context.Context,
	id int64,
	recorder string,
	x cure.Sample,
	c cure.Controller,
) (stop bool, err error) {
	state, err := json.Marshal(c)
	if err != nil {
		return false, err
	}
	err = s.DB.Gorm.WithContext(ctx).Transaction(func(g *gorm.DB) error {
		got := g.Exec(
			`update runs set controller = ?, heartbeat = ? where id = ? and recorder = ? and state = 'running'`,
			string(state),
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
		var samples []Sample
		if err := tx.Where("run_id = ?", id).Order("t").Find(&samples).Error; err != nil {
			return struct{}{}, err
		}
		log := make([]cure.Sample, len(samples))
		value := func(v *float64) float64 {
			if v == nil {
				return math.NaN()
			}
			return *v
		}
		for i, x := range samples {
			log[i] = cure.Sample{
				T:        x.T,
				SetPoint: x.SetPoint,
				Air:      value(x.Air),
				Tool:     value(x.Tool),
				Lead:     value(x.Lead),
				Lag:      value(x.Lag),
				Vacuum:   value(x.Vacuum),
			}
		}
		verdict, err := cure.Judge(
			log,
			run.Process.Recipe.Core(),
			run.Process.RunLimits.Core(),
			run.Kinetics.Core(),
			run.Alpha0,
		)
		if err != nil {
			state, says = "failed", err.Error()
		} else {
			w := wire.FromVerdict(verdict)
			run.Verdict = &w
		}
		run.State, run.Says, run.EndedAt = state, says, &tx.Now
		if err := tx.Save(&run).Error; err != nil {
			return struct{}{}, err
		}
		return struct{}{}, tx.Log(
			"run "+state,
			run.Code,
			says,
			map[string]any{"samples": len(samples), "verdict": run.Verdict},
		)
	})
	return err
}
