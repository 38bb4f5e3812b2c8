package builds

import (
	"context"
	"maps"
	"slices"
	"time"

	"gorm.io/gorm"

	"juxta/calc"
	"juxta/core/route"
	"juxta/shop/book"
)

// Job is something to be done to one build: an operation of its route, or what its room
// does to a build of one pass.
type Job struct {
	Code    string              `json:"code" doc:"Of the build"`
	Number  string              `json:"number"`
	Serial  string              `json:"serial"`
	Name    string              `json:"name"`
	OutTime *calc.OutTimeStatus `json:"outTime,omitempty" doc:"Of what is not cured yet: its worst ply"`
	Step    RouteStep           `json:"step"`
	Waits   []string            `json:"waits,omitempty" doc:"What it waits for, in words; missing: it can be gone on with"`
	From    time.Time           `json:"from" doc:"When it can begin at the earliest: now if it waits for nothing"`
	Latest  *time.Time          `json:"latest,omitempty" doc:"When it must begin so that the cure is in time and no material is spent"`
	Tight   []string            `json:"tight,omitempty" doc:"Why it cannot be in time, in words"`
	Held    string              `json:"held,omitempty" doc:"Why it is held"`
	Sent    string              `json:"sent,omitempty" doc:"Where the work is that went out"`
	Due     *time.Time          `json:"due,omitempty" doc:"When it is due back"`
	Late    bool                `json:"late,omitempty" doc:"It cannot be in time any more, or is not back when it was due"`

	qualification string
}

// acts are what the kinds of operation are done by.
var acts = map[route.Kind]book.Act{
	route.Cutting: book.CutPlies, route.Kitting: book.CountKit, route.Laying: book.LayPlies,
	route.Closing:   book.BagPart,
	route.Releasing: book.InspectPart,
}

// At is the job with whether it is late at a moment: jobs are kept for a while, and clocks go on.
func (j Job) At(now time.Time) Job {
	before := func(t *time.Time) bool { return t != nil && t.Before(now) }
	j.Late = len(j.Tight) > 0 || before(j.Latest) || j.Sent != "" && before(j.Due)
	return j
}

// Asks are the act that the job is done by, and what whoever does it must hold besides;
// empty: nothing.
func (j Job) Asks() (act book.Act, qualification string) {
	act, own := acts[route.Kind(j.Step.Kind)]
	switch {
	case j.Step.Room == string(route.Cure) && !j.Step.Single:
		act = book.RunOven
	case !own || j.Step.Single:
		act = book.FinishPart
	}
	return act, j.qualification
}

// passes are what the rooms do to a build of one pass, by room.
var passes = map[string]struct {
	says string
	kind route.Kind
}{
	"cut": {"Cut plies", route.Cutting}, "kits": {"Count kit", route.Kitting},
	"layup": {"Lay up and debulk", route.Laying}, "bag": {"Bag and check for leaks", route.Closing},
	"cure": {"Load oven", route.Curing}, "release": {"Inspect and sign", route.Releasing},
}

// Jobs are what can be done to the builds under way, and what comes next of each, those
// that must begin first before others.
func (s *Room) Jobs(ctx context.Context) ([]Job, error) {
	return book.View(ctx, s.Book, s.JobsOf)
}

// JobsOf are the jobs of all builds under way. Those of a build are worked out anew when
// the log tells of it, and every minute or two, for its clock goes on.
func (s *Room) JobsOf(db *gorm.DB) ([]Job, error) {
	var open []int64
	if err := db.Raw(`select id from builds where done_at is null order by cure_at, id`).Scan(&open).Error; err != nil {
		return nil, err
	}
	now := s.Now()
	of, head, err := s.jobs.fresh(db, now)
	if err != nil {
		return nil, err
	}
	missing := slices.DeleteFunc(slices.Clone(open), func(id int64) bool { _, there := of[id]; return there })
	if len(missing) > 0 {
		anew, err := s.jobsAnew(db, missing, now)
		if err != nil {
			return nil, err
		}
		s.jobs.keep(anew, head, now)
		maps.Copy(of, anew)
	}
	jobs := []Job{}
	for _, id := range open {
		jobs = append(jobs, of[id]...)
	}
	slices.SortStableFunc(jobs, func(a, b Job) int { return a.order(now).Compare(b.order(now)) })
	return jobs, nil
}

// jobsAnew works the jobs of builds out.
func (s *Room) jobsAnew(db *gorm.DB, ids []int64, now time.Time) (map[int64][]Job, error) {
	rows, err := s.BuildRows(db, "b.id = any(?)", book.IDs(ids))
	if err != nil {
		return nil, err
	}
	outTimes, err := s.kitOutTimes(db, rows)
	if err != nil {
		return nil, err
	}
	out := map[int64][]Job{}
	for _, b := range rows {
		of := Job{Code: b.Code, Number: b.Number, Serial: b.Serial, Name: b.Name, OutTime: outTimes[b.ID], From: now}
		out[b.ID] = b.jobs(of, now)
	}
	return out, nil
}

// jobs are those of one build.
func (b buildRow) jobs(of Job, now time.Time) []Job {
	if b.progress != nil {
		return b.progress.jobs(of, b.CureAt, now)
	}
	does, known := passes[b.Room]
	if !known || b.RunState == "running" || b.RunState == "queued" {
		return nil // the oven has it
	}
	of.Step = RouteStep{Label: does.says, Kind: string(does.kind), Room: b.Room, State: "ready"}
	if b.Laid > 0 && b.Room == "layup" {
		of.Step.State = "in work"
	}
	if b.RunState != "finished" {
		of.Latest = &b.CureAt
		if f := of.OutTime; f != nil && f.Ages && f.RunsOut.Before(b.CureAt) {
			of.Latest = &f.RunsOut
		}
	}
	return []Job{of}
}

// order is when a job is to be looked at: at its latest begin, or, where nothing presses,
// a week after it can begin.
func (j Job) order(now time.Time) time.Time {
	if j.Latest != nil {
		return *j.Latest
	}
	if j.From.Before(now) {
		return now.Add(7 * 24 * time.Hour)
	}
	return j.From.Add(7 * 24 * time.Hour)
}

// jobs are the operations that can be gone on with, and those that wait for nothing but
// these.
func (w *RouteProgress) jobs(of Job, cureAt, now time.Time) []Job {
	limits := map[string]route.Limit{}
	if k := w.nextCure(); k >= 0 {
		key := w.Operations[k].Key
		takes := w.Operations[k].Takes()
		if !w.cured() {
			limits[key] = route.Limit{Until: cureAt.Add(takes), What: "the time planned for the cure"}
		}
		// The cure has to begin before the life of its material is over.
		if f := of.OutTime; f != nil && f.Ages {
			if l, planned := limits[key]; !planned || f.RunsOut.Add(takes).Before(l.Until) {
				limits[key] = route.Limit{Until: f.RunsOut.Add(takes), What: "the out-life of the kit"}
			}
		}
	}
	times, _ := w.Plan(now, time.Time{}, w.Progress.Recorded, limits)
	opens := func(key string) bool { return w.Step(w.Index(key)).open() }
	var out []Job
	for _, k := range w.Order() {
		j := of
		j.Step, j.qualification = w.Step(k), w.Planned[k].Qualification
		at := w.Statuses[k]
		if !j.Step.open() {
			soon := at.State == route.Waiting &&
				!slices.ContainsFunc(at.Waits, func(key string) bool { return !opens(key) })
			if !soon {
				continue
			}
			j.Waits = at.Reasons
		}
		if times[k].Start.After(now) {
			j.From = times[k].Start
		}
		if t := times[k].LatestStart; !t.IsZero() {
			j.Latest = &t
		}
		j.Tight = times[k].Tight
		if at.State == route.Held && at.Recorded != nil {
			j.Held = at.Recorded.Reason
		}
		if l, there := w.Lines[j.Step.Operation]; there && at.State == route.InWork {
			j.Sent, j.Due = l.Fields[SentTo].Text, l.Fields[SentDue].At
		}
		out = append(out, j)
	}
	return out
}

// nextCure is the first cure that is not over; -1: none.
func (w *RouteProgress) nextCure() int {
	for _, k := range w.Order() {
		if w.Operations[k].Kind == route.Curing &&
			!slices.Contains([]route.State{route.Done, route.LeftOut}, w.Statuses[k].State) {
			return k
		}
	}
	return -1
}

// cured says whether a first cure is over: the build's planned cure was that.
func (w *RouteProgress) cured() bool {
	for k, o := range w.Operations {
		if o.Kind == route.Curing && w.Statuses[k].State == route.Done {
			return true
		}
	}
	return false
}
