package progress

import (
	"fmt"
	"slices"
	"time"

	"juxta/core/layup"
	"juxta/core/route"
)

// Plan is what one build has to go through: the route of its revision, the stage of each ply, by its number, and the
// steps of each bench, by the operation. A lay without steps has no ply, as that of a core alone.
type Plan struct {
	Route   *route.Route
	Plies   []string // stage of ply 1, 2, …
	Benches map[string]Bench
}

// Bench is what is done at the bench of an operation, in order, and what its demands say.
type Bench struct {
	Steps   []layup.Step
	Demands map[layup.MetDemand]string
}

// Run is one run that the build was in.
type Run struct {
	Code, Operation string
	Began           time.Time
	Ended           *Event // how; nil: it goes on
	Cure            float64
}

// Complete says whether the run went to the end of its recipe.
func (r Run) Complete() bool { return r.Ended != nil && r.Ended.Kind == RunEnded }

// Moment is when something was recorded of an operation, and by whom.
type Moment struct {
	At time.Time
	By string
}

// operation is what was recorded of one.
type operation struct {
	first, last Moment
	recorded    bool

	line    *Event // the last that stands of those that are signed for itself
	counted bool
	bag     *Event
	tight   bool
	leak    *Event // a leak check that is going on
	debulk  *Event // a debulk that is going on
	run     int    // place of its last run; -1: none
}

// Progress is where a build stands.
type Progress struct {
	Plan
	Done     layup.Done                      // at all benches
	Recorded map[string]route.RecordedStatus // by operation, what is begun, held, done or left out
	Statuses []route.Status                  // in the order of the route's own list
	Runs     []Run                           // all, in the order they began
	Referred []Event
	Release  *Event // how it was disposed of
	End      *Event // why it was ended before its time

	events  []Event
	at      []operation // in the order of the route's own list
	cut     map[string]int
	plies   []ply // by number, from 1
	added   []route.Operation
	waiting map[string][]string // by added operation, what waits for it
	base    *route.Route
	cutting map[string]int // of a stage: place of the operation that cuts it
	kitting map[string]int
	laying  map[string]int
}

// ply is how far one has come.
type ply struct {
	labels  []string // that are cut, and not void
	counted map[string]bool
	films   int // missing from its tally
	by      string
}

// Fold reads the events of a build in their order, and keeps them: they must not be changed afterwards. It
// fails on what cannot be told of this plan: a rework that its route cannot hold.
func Fold(plan Plan, events []Event) (*Progress, error) {
	p := &Progress{
		Plan: plan, base: plan.Route,
		Done:   layup.Done{Laid: map[int]bool{}, Debulks: map[int]bool{}, Met: map[layup.MetDemand]bool{}},
		events: events, cut: map[string]int{}, plies: make([]ply, len(plan.Plies)+1), waiting: map[string][]string{},
	}
	p.route()
	for k := range events {
		if err := p.add(&events[k]); err != nil {
			return nil, err
		}
	}
	p.status()
	return p, nil
}

// With is the progress once an event has been recorded besides.
func (p *Progress) With(e Event) (*Progress, error) {
	return Fold(Plan{p.base, p.Plies, p.Benches}, append(slices.Clip(p.events), e))
}

// Events are all that were read, in their order.
func (p *Progress) Events() []Event { return p.events }

// route makes the tables of the plan's route; what was recorded of its operations is kept, as added ones come last.
func (p *Progress) route() {
	for len(p.at) < len(p.Route.Operations) {
		p.at = append(p.at, operation{run: -1})
	}
	p.cutting, p.kitting, p.laying = map[string]int{}, map[string]int{}, map[string]int{}
	for _, k := range p.Route.Order() {
		o := p.Route.Operations[k]
		first := func(of map[string]int, stages []string) {
			for _, stage := range stages {
				if _, there := of[stage]; !there {
					of[stage] = k
				}
			}
		}
		switch o.Kind {
		case route.Cutting:
			first(p.cutting, o.Stages)
		case route.Kitting:
			first(p.kitting, o.Stages)
		case route.Laying, route.Joining:
			first(p.laying, p.Route.Lays(k))
		}
	}
}

// index is the place of an operation in the list; -1: there is none.
func (p *Progress) index(key string) int { return p.Route.Index(key) }

// StageOf is the stage of a ply; empty: there is no such ply.
func (p *Progress) StageOf(number int) string {
	if number < 1 || number > len(p.Plies) {
		return ""
	}
	return p.Plies[number-1]
}

// of is the place of the operation that an event is about; -1: of the build as a whole, or of none that is there.
func (p *Progress) of(e *Event) int {
	by := func(of map[string]int) int {
		if k, there := of[p.StageOf(e.Ply)]; there {
			return k
		}
		return -1
	}
	switch e.Kind {
	case PlyCut, PlyVoided:
		return by(p.cutting)
	case PlyCounted, PlySetAside:
		return by(p.kitting)
	case PlyLaid, PlyTakenBack, FilmFound, DebulkBegun, DebulkEnded:
		return by(p.laying)
	case Reworked, Referred, Released, Ended:
		return -1
	}
	return p.index(e.Operation)
}

// add reads one event.
func (p *Progress) add(e *Event) error {
	k := p.of(e)
	if k < 0 {
		return p.addWhole(e)
	}
	o := &p.at[k]
	switch e.Kind {
	case PlyCut, PlyVoided, PlyCounted, PlySetAside, PlyLaid, PlyTakenBack, FilmFound:
		p.addPly(e, k)
	case KitCounted:
		o.counted = true
	case DemandMet:
		p.Done.Met[layup.MetDemand{Kind: e.Point, Key: e.Item}] = true
	case DebulkBegun:
		o.debulk = e
	case DebulkEnded:
		if o.debulk = nil; e.Met {
			p.Done.Debulks[e.Ply] = true
		}
	case BagClosed:
		o.bag, o.tight = e, !e.Vacuum
	case LeakBegun:
		o.leak = e
	case LeakChecked:
		o.leak, o.tight = nil, e.Met
	case RunBegun:
		o.run = len(p.Runs)
		p.Runs = append(p.Runs, Run{Code: e.Run, Operation: e.Operation, Began: e.At})
	case RunStopped, RunFailed, RunEnded:
		if o.run >= 0 {
			p.Runs[o.run].Ended, p.Runs[o.run].Cure = e, e.Cure
		}
	case TakenBack:
		o.line = nil
	default: // begun, resumed, signed, not good, held, left out
		o.line = e
	}
	if e.Kind != TakenBack {
		o.note(e)
	}
	return nil
}

// note keeps when something was recorded of an operation first and last.
func (o *operation) note(e *Event) {
	if at := (Moment{e.At, e.Who}); !o.recorded {
		o.first, o.last, o.recorded = at, at, true
	} else if !e.At.Before(o.last.At) {
		o.last = at
	} else if e.At.Before(o.first.At) {
		o.first = at
	}
}

// addWhole reads what is about the build, or about nothing that the route has.
func (p *Progress) addWhole(e *Event) error {
	switch e.Kind {
	case Referred:
		p.Referred = append(p.Referred, *e)
	case Released:
		p.Release = e
	case Ended:
		p.End = e
	case Reworked:
		if e.Added == nil {
			return fmt.Errorf("a rework without its operation")
		}
		p.added = append(p.added, *e.Added)
		p.waiting[e.Added.Key] = e.Before
		with, faults := p.base.With(p.added, p.waiting, nil)
		if len(faults) > 0 {
			return fmt.Errorf("the reworks of a build: %w", faults[0])
		}
		p.Route = with
		p.route()
	}
	return nil
}

// addPly reads what happened to a ply, at the operation that it follows to.
func (p *Progress) addPly(e *Event, k int) {
	y := &p.plies[e.Ply]
	switch e.Kind {
	case PlyCut:
		if y.labels = append(y.labels, e.Label); len(y.labels) == 1 {
			p.cut[p.StageOf(e.Ply)]++
		}
	case PlyVoided:
		at := slices.Index(y.labels, e.Label)
		if at < 0 {
			return
		}
		if y.labels = slices.Delete(y.labels, at, at+1); len(y.labels) == 0 {
			p.cut[p.StageOf(e.Ply)]--
		}
		delete(y.counted, e.Label)
		// A kit that lacks a ply is not whole any more.
		if kit, there := p.kitting[p.StageOf(e.Ply)]; there {
			p.at[kit].counted = false
		}
	case PlyCounted:
		if y.counted == nil {
			y.counted = map[string]bool{}
		}
		y.counted[e.Label] = true
	case PlySetAside:
		delete(y.counted, e.Label)
	case PlyLaid:
		p.Done.Laid[e.Ply], y.films, y.by = true, e.Films, e.Who
	case FilmFound:
		y.films = max(0, y.films-1)
	case PlyTakenBack:
		delete(p.Done.Laid, e.Ply)
		// What was pressed at its own bench lay on it; what another bench pressed did not. Who looked at it looked at
		// what is no longer there.
		lies := false // a second look that stands before the ply is about what it covers
		for _, s := range p.Benches[p.Route.Operations[k].Key].Steps {
			switch {
			case s.Debulk && s.Ply >= e.Ply:
				delete(p.Done.Debulks, s.Ply)
			case lies && s.Kind == layup.Second && s.Ply == e.Ply:
				delete(p.Done.Met, layup.MetDemand{Kind: s.Kind, Key: s.Key})
			case s.Kind == "" && s.Ply == e.Ply:
				lies = true
			}
		}
	}
}

// status works out where the operations stand.
func (p *Progress) status() {
	p.Recorded = map[string]route.RecordedStatus{}
	for k, o := range p.Route.Operations {
		if m, marked := p.mark(k); marked {
			p.Recorded[o.Key] = m
		}
	}
	p.Statuses = p.Route.Statuses(p.Recorded)
}

// states are the lines of an operation, and what they make of it.
var states = map[Kind]route.State{
	Begun: route.InWork, Resumed: route.InWork, Signed: route.Done, Held: route.Held, NotGood: route.Held,
	LeftOut: route.LeftOut,
}

// mark is what was recorded last of an operation. A lay without a step at the bench is signed for itself, and so is
// what asks for more than its room records, once the room is done with it ([Progress.Single]).
func (p *Progress) mark(k int) (route.RecordedStatus, bool) {
	o, at := p.Route.Operations[k], &p.at[k]
	var signed route.RecordedStatus
	if l := at.line; l != nil {
		signed = route.RecordedStatus{State: states[l.Kind], By: l.Who, At: l.At, Reason: l.Reason}
		if l.Until != nil {
			signed.Until = *l.Until
		}
	}
	room, begun := p.room(k)
	switch {
	case o.Kind == route.Releasing && p.Release != nil && p.Release.Says != Good:
		return route.RecordedStatus{
			State: route.Held, By: p.Release.Who, At: p.Release.At, Reason: p.Release.Says + ", " + p.Release.Reason,
		}, true
	case at.line != nil && (p.alone(k) || signed.State == route.LeftOut || signed.State == route.Held):
		return signed, true
	case !begun || p.alone(k):
		return signed, false
	case o.Signs && room == route.Done:
		// What was recorded after the signature was not signed.
		if at.line != nil && signed.State == route.Done && !signed.At.Before(at.last.At) {
			return signed, true
		}
		return route.RecordedStatus{State: route.InWork, At: at.first.At}, true
	case room == route.Done:
		return route.RecordedStatus{State: route.Done, By: at.last.By, At: at.last.At}, true
	}
	out := route.RecordedStatus{State: room, At: at.first.At}
	if at.run >= 0 && o.Heats() {
		out.At, out.Until = p.Runs[at.run].Began, p.until(at.run)
	}
	return out, true
}

// until is when a run that goes on will end, as it was said when it began.
func (p *Progress) until(run int) time.Time {
	for _, e := range slices.Backward(p.events) {
		if e.Kind == RunBegun && e.Run == p.Runs[run].Code && e.Until != nil {
			return *e.Until
		}
	}
	return time.Time{}
}

// room is how far the room of an operation has come with it, if it has begun.
func (p *Progress) room(k int) (route.State, bool) {
	o, at := p.Route.Operations[k], &p.at[k]
	far := func(begun, done bool) (route.State, bool) {
		if done {
			return route.Done, true
		}
		return route.InWork, begun
	}
	if o.Heats() {
		running := at.run >= 0 && p.Runs[at.run].Ended == nil
		return far(running, at.run >= 0 && p.Runs[at.run].Complete())
	}
	switch o.Kind {
	case route.Cutting:
		cut, plies := 0, 0
		for _, stage := range o.Stages {
			cut += p.cut[stage]
		}
		for _, stage := range p.Plies {
			if slices.Contains(o.Stages, stage) {
				plies++
			}
		}
		return far(cut > 0, cut >= plies)
	case route.Kitting:
		return far(false, at.counted)
	case route.Laying, route.Joining:
		steps := p.Benches[o.Key].Steps
		_, open := layup.Next(steps, p.Done)
		return far(slices.ContainsFunc(steps, p.Done.Did), len(steps) > 0 && !open)
	case route.Closing:
		return far(at.bag != nil, at.bag != nil && at.tight)
	case route.Releasing:
		return far(false, p.Release != nil && p.Release.Says == Good)
	}
	return route.InWork, false
}

// alone says whether an operation has nothing but its signature: by its kind, or because a lay has no step at the
// bench.
func (p *Progress) alone(k int) bool {
	o := p.Route.Operations[k]
	if o.Kind != route.Laying {
		return o.Single()
	}
	return len(p.Benches[o.Key].Steps) == 0
}

// Single says whether an operation is signed for itself as it stands.
func (p *Progress) Single(k int) bool {
	if p.alone(k) {
		return true
	}
	room, _ := p.room(k)
	return p.Route.Operations[k].Signs && room == route.Done
}

// Bench is how far the bench of a lay or a join has come; there is none where it has no step.
func (p *Progress) Bench(k int) (begun, done, there bool) {
	steps := p.Benches[p.Route.Operations[k].Key].Steps
	if len(steps) == 0 {
		return false, false, false
	}
	_, open := layup.Next(steps, p.Done)
	return slices.ContainsFunc(steps, p.Done.Did), !open, true
}

// LastRecorded is when something was recorded last of an operation, and by whom, if anything was.
func (p *Progress) LastRecorded(k int) (Moment, bool) { return p.at[k].last, p.at[k].recorded }

// LastRun is the last run of an operation, if it had one.
func (p *Progress) LastRun(k int) (Run, bool) {
	if at := p.at[k].run; at >= 0 {
		return p.Runs[at], true
	}
	return Run{}, false
}

// Counted says whether the kit of an operation is counted.
func (p *Progress) Counted(k int) bool { return p.at[k].counted }

// Cured is the run that stops a stage's clock: that of the first cure of the stage, while it goes on, and for good once
// it has ended as planned. After a run that was stopped or failed the clock has gone on, as if there had been none.
func (p *Progress) Cured(stage string) (run Run, there bool) {
	for _, k := range p.Route.Order() {
		o := p.Route.Operations[k]
		if o.Kind != route.Curing || !slices.Contains(o.Stages, stage) {
			continue
		}
		run, there = p.LastRun(k)
		return run, there && (run.Ended == nil || run.Complete())
	}
	return Run{}, false
}
