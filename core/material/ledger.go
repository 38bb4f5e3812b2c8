// Package material keeps the clock of ageing material: how long a roll, a cut
// ply or a kit has been outside the freezer and when its life runs out.
//
// The resin and its hardener are already mixed, so it ages whenever it is
// warm. Out-time adds up from the moment the material leaves the freezer,
// thawing included, and never comes back (common practice, no source).
package material

import (
	"fmt"
	"slices"
	"time"
)

// EventKind is something that happened to ageing material.
type EventKind string

// The events of a ledger.
const (
	Received EventKind = "received" // into the freezer, frozen
	Out      EventKind = "out"      // left the freezer
	In       EventKind = "in"       // back in the freezer
	Used     EventKind = "used"     // length cut off, measured in metres
)

// Event is one line of a ledger. At is when it happened, not when it was
// written down. Length matters for Received (what the roll holds) and Used
// (what was taken off), in metres.
type Event struct {
	Kind   EventKind
	At     time.Time
	Length float64
}

// Limits are the supplier's lives of a material, as entered from its data
// sheet. A zero TackLife or ShelfEnd means that none was entered.
type Limits struct {
	OutLife  time.Duration
	TackLife time.Duration
	ShelfEnd time.Time
}

// Clock is the state of a ledger at one moment.
type Clock struct {
	Spent  time.Duration // outside the freezer so far
	Out    bool          // outside the freezer now
	Since  time.Time     // of the present stay, out or in
	Length float64       // metres left on the roll
}

// Error says which event cannot have happened as written.
type Error struct {
	Event Event
	Says  string
}

func (e *Error) Error() string { return e.Says }

// Ledger adds up the events that happened up to now. Events may come in any
// order; those at the same moment are read as received, in, out, used. base is
// out-time already spent before the first event, which is how a cut ply
// carries its roll's clock.
//
// It is an *[Error] when the events contradict each other: taken out twice,
// put back without having been out, used before received, in the future, or
// more used than there was.
func Ledger(base time.Duration, events []Event, now time.Time) (Clock, error) {
	sorted := slices.Clone(events)
	slices.SortStableFunc(sorted, func(a, b Event) int {
		if d := a.At.Compare(b.At); d != 0 {
			return d
		}
		return order(a.Kind) - order(b.Kind)
	})
	clock := Clock{Spent: base}
	refuse := func(e Event, format string, args ...any) (Clock, error) {
		return Clock{}, &Error{e, fmt.Sprintf(format, args...)}
	}
	for i, e := range sorted {
		if e.At.After(now) {
			return refuse(e, "%q lies in the future", e.Kind)
		}
		if i == 0 {
			clock.Since = e.At
		}
		switch e.Kind {
		case Received:
			if i > 0 {
				return refuse(e, "it was received after something else had happened to it")
			}
			clock.Length = e.Length
		case Out:
			if clock.Out {
				return refuse(e, "it was already out of the freezer")
			}
			clock.Out, clock.Since = true, e.At
		case In:
			if !clock.Out {
				return refuse(e, "it was put back without having been taken out")
			}
			clock.Spent += e.At.Sub(clock.Since)
			clock.Out, clock.Since = false, e.At
		case Used:
			if e.Length <= 0 {
				return refuse(e, "a length taken off must be above zero")
			}
			if clock.Length -= e.Length; clock.Length < -1e-9 {
				return refuse(e, "%.2f m were taken off and only %.2f m were left", e.Length, clock.Length+e.Length)
			}
		default:
			return refuse(e, "%q is not an event of a ledger", e.Kind)
		}
	}
	if clock.Out {
		clock.Spent += now.Sub(clock.Since)
	}
	return clock, nil
}

func order(k EventKind) int { return slices.Index([]EventKind{Received, In, Out, Used}, k) }
