package route

import (
	"slices"
	"strings"
	"time"
)

// State of an operation of a build.
type State string

// The states of an operation.
const (
	Waiting State = "waiting"
	Ready   State = "ready"
	InWork  State = "in work"
	Held    State = "held"
	Done    State = "done"
	LeftOut State = "left out"
)

// RecordedStatus is what was recorded last of an operation: that it is in work, held, done or
// left out, by whom, when, and why.
type RecordedStatus struct {
	State  State
	By     string
	At     time.Time
	Reason string
	Until  time.Time // in work: when it will be over, if somebody knows: a run, or what is due back
}

// over says whether what waits for the operation may go on.
func (m RecordedStatus) over() bool { return m.State == Done || m.State == LeftOut }

// Status is where an operation of a build stands.
type Status struct {
	State    State
	Recorded *RecordedStatus // what was recorded of it, if anything
	Waits    []string        // keys of what it waits for itself
	Reasons  []string        // why it waits, in words
	// Again: it was begun or done, and what it rests on was taken back since.
	Again bool
}

// Statuses tells where every operation stands, in their order in the list. It follows
// from the marks alone, whatever order they were made in. An operation is ready when all
// that it waits for is done or left out. One that was recorded although what it rests on
// is open (because that was taken back) does not count as done.
//
// It takes O(operations + lines).
func (r *Route) Statuses(marks map[string]RecordedStatus) []Status {
	out := make([]Status, len(r.Operations))
	counts := make([]bool, len(r.Operations)) // over, and all that it rests on
	for _, k := range r.order {
		o := r.Operations[k]
		s := &out[k]
		for _, w := range r.after[k] {
			switch {
			case counts[w]:
			case out[w].State == LeftOut:
				// What was left out is not waited for; what it rests on is.
				for n, key := range out[w].Waits {
					if !slices.Contains(s.Waits, key) {
						s.Waits, s.Reasons = append(s.Waits, key), append(s.Reasons, out[w].Reasons[n])
					}
				}
			case !slices.Contains(s.Waits, r.Operations[w].Key):
				s.Waits = append(s.Waits, r.Operations[w].Key)
				s.Reasons = append(s.Reasons, "waits for "+r.says[w])
			}
		}
		mark, marked := marks[o.Key]
		if marked {
			s.Recorded = &mark
		}
		switch {
		case len(s.Waits) > 0 && marked && (mark.State == Held || mark.State == LeftOut):
			s.State = mark.State
		case len(s.Waits) > 0:
			s.State, s.Again = Waiting, marked
		case marked:
			s.State, counts[k] = mark.State, mark.over()
		default:
			s.State = Ready
		}
	}
	return out
}

// WaitReason is what an operation waits for, as one sentence of the reasons of its status.
func WaitReason(says []string) string {
	const words = "waits for "
	var of []string
	for _, s := range says {
		of = append(of, strings.TrimPrefix(s, words))
	}
	switch n := len(of); n {
	case 0:
		return ""
	case 1:
		return words + of[0]
	default:
		return words + strings.Join(of[:n-1], ", ") + " and " + of[n-1]
	}
}

// Reopens are the keys of the operations that rest on one and were begun or are done:
// what has to be looked at again if that one is taken back, none before what it waits for. What
// is left out rests on nothing, however far ahead.
func (r *Route) Reopens(key string, marks map[string]RecordedStatus) []string {
	k, there := r.at[key]
	if !there {
		return nil
	}
	behind := r.behind(k)
	var out []string
	for _, n := range r.order {
		if m, marked := marks[r.Operations[n].Key]; marked && m.State != LeftOut && behind[n] {
			out = append(out, r.Operations[n].Key)
		}
	}
	return out
}
