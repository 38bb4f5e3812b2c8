package route

// Records are what the rooms have recorded of a build that walks its route, by the keys
// of the operations.
type Records struct {
	Signed   map[string]Mark  // operations that are signed each for itself, and what was left out
	Stages   map[string]Plies // by stage; a stage without plies may be missing
	Counted  map[string]bool  // kits
	Benches  map[string]Bench // lays and joins that have steps at the bench
	Closed   map[string]bool  // what is closed, and whether it was found tight, or need not be
	Runs     map[string]Run   // the last run of what is heated
	Released bool
}

// Plies of a stage, and how many of them are cut.
type Plies struct{ Plies, Cut int }

// Bench is how far the steps of a lay have come.
type Bench struct{ Begun, Done bool }

// Run is how a run of a cure stands.
type Run string

// The states of a run that its build's route sees; one that was stopped or failed is as
// if there were none.
const (
	Running  Run = "running"
	Complete Run = "finished"
)

// Marks are the marks that follow from what was recorded. A lay without a step at the
// bench is signed for itself ([Route.Single]).
func (r *Route) Marks(rec Records) map[string]Mark {
	marks := map[string]Mark{}
	set := func(key string, begun, done bool) {
		switch {
		case done:
			marks[key] = Mark{State: Done}
		case begun:
			marks[key] = Mark{State: InWork}
		}
	}
	for k, o := range r.Operations {
		if m, signed := rec.Signed[o.Key]; signed && (r.Single(k, rec) || m.State == LeftOut) {
			marks[o.Key] = m
			continue
		}
		if o.Heats() {
			set(o.Key, rec.Runs[o.Key] == Running, rec.Runs[o.Key] == Complete)
			continue
		}
		switch o.Kind {
		case Cutting:
			cut, plies := 0, 0
			for _, stage := range o.Stages {
				cut += rec.Stages[stage].Cut
				plies += rec.Stages[stage].Plies
			}
			set(o.Key, cut > 0, cut >= plies)
		case Kitting:
			set(o.Key, false, rec.Counted[o.Key])
		case Laying:
			set(o.Key, rec.Benches[o.Key].Begun, rec.Benches[o.Key].Done)
		case Closing:
			tight, closed := rec.Closed[o.Key]
			set(o.Key, closed, tight)
		case Releasing:
			set(o.Key, false, rec.Released)
		}
	}
	return marks
}

// Single says whether an operation is signed for itself: by its kind, or because a lay has
// no step at the bench, as that of a core alone.
func (r *Route) Single(k int, rec Records) bool {
	o := r.Operations[k]
	if o.Kind != Laying {
		return o.Single()
	}
	_, steps := rec.Benches[o.Key]
	return !steps
}
