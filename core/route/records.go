package route

import "time"

// Records are what the rooms have recorded of a build with a route, by the keys
// of the operations.
type Records struct {
	Signed   map[string]RecordedStatus // operations that are signed each for itself, and what was left out
	Stages   map[string]Plies          // by stage; a stage without plies may be missing
	Counted  map[string]bool           // kits
	Benches  map[string]Bench          // lays and joins that have steps at the bench
	Closed   map[string]bool           // what is closed, and whether it was found tight, or need not be
	Runs     map[string]RunState       // the last run of what is heated
	Released bool

	Begun  map[string]time.Time // when a room recorded something of an operation first
	Latest map[string]time.Time // and when last
}

// Plies of a stage, and how many of them are cut.
type Plies struct{ Plies, Cut int }

// Bench is how far the steps of a lay have come.
type Bench struct{ Begun, Done bool }

// RunState is how a run of a cure stands.
type RunState string

// The states of a run that its build's route sees; one that was stopped or failed is as
// if there were none.
const (
	Running  RunState = "running"
	Complete RunState = "finished"
)

// RecordedStatuses are the marks that follow from what was recorded. A lay without a step at the
// bench is signed for itself, and so is what asks for more than its room records, once the
// room is done with it ([Route.Single]).
func (r *Route) RecordedStatuses(rec Records) map[string]RecordedStatus {
	marks := map[string]RecordedStatus{}
	for k, o := range r.Operations {
		signed, there := rec.Signed[o.Key]
		room, begun := r.room(k, rec)
		switch {
		case there && (r.alone(k, rec) || signed.State == LeftOut || signed.State == Held):
			marks[o.Key] = signed
		case !begun || r.alone(k, rec):
		case o.Signs && room == Done:
			// What was recorded after the signature was not signed.
			if there && signed.State == Done && !signed.At.Before(rec.Latest[o.Key]) {
				marks[o.Key] = signed
			} else {
				marks[o.Key] = RecordedStatus{State: InWork, At: rec.Begun[o.Key]}
			}
		case room == Done:
			marks[o.Key] = RecordedStatus{State: Done, At: rec.Latest[o.Key]}
		default:
			marks[o.Key] = RecordedStatus{State: room, At: rec.Begun[o.Key]}
		}
	}
	return marks
}

// room is how far the room of an operation has come with it, if it has begun.
func (r *Route) room(k int, rec Records) (State, bool) {
	o := r.Operations[k]
	far := func(begun, done bool) (State, bool) {
		if done {
			return Done, true
		}
		return InWork, begun
	}
	if o.Heats() {
		return far(rec.Runs[o.Key] == Running, rec.Runs[o.Key] == Complete)
	}
	switch o.Kind {
	case Cutting:
		cut, plies := 0, 0
		for _, stage := range o.Stages {
			cut += rec.Stages[stage].Cut
			plies += rec.Stages[stage].Plies
		}
		return far(cut > 0, cut >= plies)
	case Kitting:
		return far(false, rec.Counted[o.Key])
	case Laying:
		return far(rec.Benches[o.Key].Begun, rec.Benches[o.Key].Done)
	case Closing:
		tight, closed := rec.Closed[o.Key]
		return far(closed, tight)
	case Releasing:
		return far(false, rec.Released)
	}
	return InWork, false
}

// alone says whether an operation has nothing but its signature: by its kind, or because
// a lay has no step at the bench, as that of a core alone.
func (r *Route) alone(k int, rec Records) bool {
	o := r.Operations[k]
	if o.Kind != Laying {
		return o.Single()
	}
	_, steps := rec.Benches[o.Key]
	return !steps
}

// Single says whether an operation is signed for itself as it stands.
func (r *Route) Single(k int, rec Records) bool {
	if r.alone(k, rec) {
		return true
	}
	room, _ := r.room(k, rec)
	return r.Operations[k].Signs && room == Done
}
