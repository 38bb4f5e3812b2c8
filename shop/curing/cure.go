package curing

import (
	"context"
	"encoding/json"
	"time"

	"gorm.io/gorm"

	"juxta/core/cure"
	"juxta/core/cure/forecast"
	"juxta/core/ident"
	"juxta/shop/book"
	"juxta/shop/builds"
	"juxta/shop/parts"
	"juxta/shop/recipes"
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
	// NotProven is of a run that missed no limit, with one or more that nobody can judge.
	NotProven bool `json:"notProven,omitempty" doc:"No limit was missed, but one or more could not be judged"`
}

// RunView is a run: plan, record and verdict.
type RunView struct {
	RunLine
	Oven       string                  `json:"oven" doc:"What people call it"`
	Process    parts.Process           `json:"process"`
	Loaded     []LoadedBuild           `json:"loaded"`
	Plan       []forecast.PlanPoint    `json:"plan"`
	Simulation *recipes.CureSimulation `json:"simulation,omitempty" doc:"What was expected when it was started, without the plan; missing: it was not simulated"`
	Samples    []Sample                `json:"samples"`
	Cure       []cure.AlphaPoint       `json:"cure" doc:"Degree of cure so far, by the lagging sensor"`
	Segment    int                     `json:"segment" doc:"Present segment, from 1"`
	Waiting    bool                    `json:"waiting" doc:"For the lagging part sensor"`
	Verdict    *cure.Verdict           `json:"verdict,omitempty"`
	Message    string                  `json:"message,omitempty"`
	StartedBy  string                  `json:"startedBy"`
}

// LoadedBuild is a build in a run.
type LoadedBuild struct {
	builds.BuildLine
	Operations []string `json:"operations,omitempty" doc:"What the run does to it, of a build with a route"`
}

// loaded are the builds of a run, each with its operations as its route calls them.
func (s *Room) loaded(db *gorm.DB, run int64) ([]LoadedBuild, error) {
	lines, err := s.BuildLines(db, "b.id in (select build_id from run_builds where run_id = ?)", run)
	if err != nil {
		return nil, err
	}
	var heated []struct {
		Code, Operation string
		RevisionID      int64
	}
	if err := db.Raw(`select b.code, rb.operation, b.revision_id from run_builds rb join builds b on b.id = rb.build_id
		where rb.run_id = ? and rb.operation <> '' order by rb.operation`, run).Scan(&heated).Error; err != nil {
		return nil, err
	}
	var revisions []int64
	for _, h := range heated {
		revisions = append(revisions, h.RevisionID)
	}
	routed, err := s.RoutedOf(db, revisions)
	if err != nil {
		return nil, err
	}
	out := make([]LoadedBuild, len(lines))
	for k, b := range lines {
		out[k].BuildLine = b
		for _, h := range heated {
			if way := routed[h.RevisionID]; h.Code == b.Code && way != nil && way.Index(h.Operation) >= 0 {
				out[k].Operations = append(out[k].Operations, way.Label(way.Index(h.Operation)))
			}
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
	State   string            `json:"state"`
	Samples []Sample          `json:"samples" doc:"New since the last update"`
	Cure    []cure.AlphaPoint `json:"cure"`
	Segment int               `json:"segment"`
	Waiting bool              `json:"waiting"`
	Message string            `json:"message,omitempty"`
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
		(h.verdict->>'met')::boolean as met, coalesce((h.verdict->>'notProven')::boolean, false) as not_proven,
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
		Message:   run.Message,
		StartedBy: names[run.StartedBy],
		Segment:   run.Controller.Segment + 1,
		Waiting:   run.Controller.Waiting,
	}
	if v.Loaded, err = s.loaded(db, run.ID); err != nil {
		return RunView{}, err
	}
	if err := db.Where("run_id = ?", run.ID).Order("t").Find(&v.Samples).Error; err != nil {
		return RunView{}, err
	}
	v.Plan = run.plan(v.Samples)
	if run.Simulation != nil { // its plan stands there already
		f := *run.Simulation
		f.Plan, f.Cure = []forecast.PlanPoint{}, []cure.AlphaPoint{}
		v.Simulation = &f
	}
	v.Cure, err = run.degree(v.Samples)
	return v, err
}

// plan is the run as simulated; of one of before, the band about the set points that it was told.
func (run Run) plan(samples []Sample) []forecast.PlanPoint {
	if run.Simulation != nil {
		return run.Simulation.Plan
	}
	out := make([]forecast.PlanPoint, len(samples))
	within := run.Process.Recipe.Tolerance
	for i, x := range samples {
		out[i] = forecast.PlanPoint{T: x.T, SetPoint: x.SetPoint, Low: x.SetPoint - within, High: x.SetPoint + within}
	}
	return out
}

// degree integrates the degree of cure from the lagging sensor's readings.
func (run Run) degree(samples []Sample) ([]cure.AlphaPoint, error) {
	var history []cure.Point
	for _, x := range samples {
		if x.Lag != nil {
			history = append(history, cure.Point{T: x.T, Temperature: *x.Lag})
		}
	}
	alpha, err := run.Kinetics.Integrate(run.Alpha0, history)
	if err != nil {
		return nil, err
	}
	out := make([]cure.AlphaPoint, len(alpha))
	for i, a := range alpha {
		out[i] = cure.AlphaPoint{T: history[i].T, Alpha: a}
	}
	return out, nil
}

// RunSince is what is new in a run after time t.
func (s *Room) RunSince(ctx context.Context, code string, t float64) (RunUpdate, error) {
	return book.View(ctx, s.Book, func(db *gorm.DB) (RunUpdate, error) { return s.runSince(db, code, t) })
}

func (s *Room) runSince(db *gorm.DB, code string, t float64) (RunUpdate, error) {
	run, err := book.Find[Run](db.Omit("foreseen"), ident.Run, code, "run")
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
		Message: run.Message,
		Samples: []Sample{},
		Cure:    []cure.AlphaPoint{},
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
