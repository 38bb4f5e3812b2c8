package material

import (
	"cmp"
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
	Opened   EventKind = "opened"   // its sealed bag was opened
	Sealed   EventKind = "sealed"   // its bag was sealed again
	Used     EventKind = "used"     // length cut off
	Scrapped EventKind = "scrapped" // length thrown away
	Retested EventKind = "retested" // a re-test extended its life
	Counter  EventKind = "counter"  // counter-entry: another line was wrong
)

// order in which events at the same moment are read where nobody numbered them.
var order = []EventKind{Received, Sealed, In, Out, Opened, Used, Scrapped, Retested, Counter}

// Event is one line of a ledger. At is when it happened, not when it was
// written down.
type Event struct {
	Kind EventKind
	At   time.Time
	// Length in m: what a received roll holds, or what was used or scrapped.
	Length float64
	// ID names the line for counter-entries; 0 if nothing refers to it.
	ID int64
	// Cancels is the ID of the line that a counter-entry takes back.
	Cancels int64
	// Freezer is where Received or In put it; 0 if nobody said.
	Freezer int64
	// Until is the new end of shelf life, More the added out-life of a re-test.
	Until time.Time
	More  time.Duration
}

// Warm is a time in which a freezer was above its limit: everything inside
// aged as if it had been out. A zero To means that it still is.
type Warm struct {
	Freezer  int64
	From, To time.Time
}

// History is all that is known of one piece of material. Base is what it
// brought along before its first event. Events may come in any order.
type History struct {
	Base   CarriedLife
	Events []Event
	Warm   []Warm
}

// Limits are the supplier's lives of a material, as entered from its data
// sheet. A zero OutLife is material that does not age outside the freezer; a
// zero TackLife or ShelfEnd means that none was entered.
type Limits struct {
	OutLife  time.Duration
	TackLife time.Duration
	ShelfEnd time.Time
}

// Clock is the state of a history at one moment. Spent = base + Bench + Warm.
type Clock struct {
	Spent time.Duration // out-time so far
	Bench time.Duration // of it: out of the freezer
	Warm  time.Duration // of it: in a freezer that was too warm
	// Ageing says that it ages now: it is out, or its freezer is too warm.
	Ageing  bool
	Out     bool          // outside the freezer now
	Open    bool          // its bag is open
	Since   time.Time     // of the present stay, out or in
	Freezer int64         // where it lies, if it is in
	Length  float64       // metres left on the roll
	Until   time.Time     // end of shelf life by the last re-test; zero: none
	More    time.Duration // out-life that re-tests added
	At      time.Time     // the moment of this state
}

// Later is the clock at a later moment if nothing happens in between.
func (c Clock) Later(now time.Time) Clock {
	d := now.Sub(c.At)
	if d <= 0 {
		return c
	}
	switch {
	case !c.Ageing:
	case c.Out:
		c.Spent, c.Bench = c.Spent+d, c.Bench+d
	default:
		c.Spent, c.Warm = c.Spent+d, c.Warm+d
	}
	c.At = now
	return c
}

// Error says which event cannot have happened as written.
type Error struct {
	Event   Event
	Message string
}

func (e *Error) Error() string { return e.Message }

// Clock adds up the events that happened up to now. Those at the same moment
// are read in the order of their IDs, and without IDs as received, sealed, in,
// out, opened, used, scrapped. A line taken back by a counter-entry counts as if it had never been written.
//
// It is an *[Error] when the events contradict each other: taken out twice,
// put back without having been out, used while frozen or before it was
// received, in the future, or more used than there was. Time is
// O(n log n + n w) for n events and w warm times.
func (h History) Clock(now time.Time) (Clock, error) {
	valid, err := counted(h.Events)
	if err != nil {
		return Clock{}, err
	}
	clock := Clock{Spent: h.Base.Spent, More: h.Base.More, Until: h.Base.Until, At: now}
	refuse := func(e Event, format string, args ...any) (Clock, error) {
		return Clock{}, &Error{e, fmt.Sprintf(format, args...)}
	}
	for i, e := range valid {
		if e.At.After(now) {
			return refuse(e, "%q is in the future", e.Kind)
		}
		if i == 0 {
			clock.Since = e.At
		}
		switch e.Kind {
		case Received:
			if i > 0 {
				return refuse(e, "it was received after something else had happened to it")
			}
			if e.Length < 0 {
				return refuse(e, "a length received must not be below zero")
			}
			clock.Length, clock.Freezer = e.Length, e.Freezer
		case Out:
			if clock.Out {
				return refuse(e, "it was already out of the freezer")
			}
			clock.Warm += h.warmth(clock.Freezer, clock.Since, e.At)
			clock.Out, clock.Since = true, e.At
		case In:
			if !clock.Out {
				return refuse(e, "it was put back without having been taken out")
			}
			clock.Bench += e.At.Sub(clock.Since)
			clock.Out, clock.Since, clock.Freezer = false, e.At, e.Freezer
		case Opened:
			if !clock.Out {
				return refuse(e, "its bag was opened inside the freezer")
			}
			if clock.Open {
				return refuse(e, "its bag was already open")
			}
			clock.Open = true
		case Sealed:
			if !clock.Open {
				return refuse(e, "its bag was sealed although it was not open")
			}
			clock.Open = false
		case Used, Scrapped:
			if e.Length <= 0 {
				return refuse(e, "a length taken off must be above zero")
			}
			if e.Kind == Used && !clock.Out {
				return refuse(e, "it was cut while it lay in the freezer")
			}
			if clock.Length -= e.Length; clock.Length < -1e-9 {
				return refuse(
					e,
					"%.2f m were taken off and only %.2f m were left",
					e.Length,
					max(0, clock.Length+e.Length),
				)
			}
			clock.Length = max(0, clock.Length)
		case Retested:
			if e.Until.IsZero() && e.More <= 0 {
				return refuse(e, "a re-test must give a new shelf life or more out-life")
			}
			if !e.Until.IsZero() && !e.Until.After(e.At) {
				return refuse(e, "a re-test must extend the shelf life beyond its own day")
			}
			if !e.Until.IsZero() {
				clock.Until = e.Until
			}
			clock.More += max(0, e.More)
		default:
			return refuse(e, "%q is not an event of a ledger", e.Kind)
		}
	}
	if clock.Out {
		clock.Bench += now.Sub(clock.Since)
		clock.Ageing = true
	} else {
		clock.Warm += h.warmth(clock.Freezer, clock.Since, now)
		clock.Ageing = slices.ContainsFunc(h.Warm, func(w Warm) bool {
			return w.To.IsZero() && w.Freezer == clock.Freezer && clock.Freezer != 0 && !w.From.After(now)
		})
	}
	clock.Spent += clock.Bench + clock.Warm
	return clock, nil
}

// spells are the times between two moments in which a freezer was too warm, in
// order; times that overlap are one.
func (h History) spells(freezer int64, from, to time.Time) []Warm {
	if freezer == 0 || !to.After(from) {
		return nil
	}
	found := []Warm{}
	for _, w := range h.Warm {
		if w.Freezer != freezer {
			continue
		}
		if w.To.IsZero() || w.To.After(to) {
			w.To = to
		}
		if w.From.Before(from) {
			w.From = from
		}
		if w.To.After(w.From) {
			found = append(found, w)
		}
	}
	slices.SortFunc(found, func(a, b Warm) int { return a.From.Compare(b.From) })
	joined := found[:0]
	for _, w := range found {
		if n := len(joined); n > 0 && !w.From.After(joined[n-1].To) {
			if w.To.After(joined[n-1].To) {
				joined[n-1].To = w.To
			}
			continue
		}
		joined = append(joined, w)
	}
	return joined
}

// warmth is how long a freezer was too warm between two moments.
func (h History) warmth(freezer int64, from, to time.Time) time.Duration {
	total := time.Duration(0)
	for _, w := range h.spells(freezer, from, to) {
		total += w.To.Sub(w.From)
	}
	return total
}

func first(e Event) int {
	if e.Kind == Received {
		return 0
	}
	return 1
}

// counted sorts events and drops those that a counter-entry took back,
// together with the counter-entries.
func counted(events []Event) ([]Event, error) {
	byID := map[int64]Event{}
	for _, e := range events {
		if e.ID != 0 {
			byID[e.ID] = e
		}
	}
	gone := map[int64]bool{}
	for _, e := range events {
		if e.Kind != Counter {
			continue
		}
		target, known := byID[e.Cancels]
		switch {
		case !known:
			return nil, &Error{e, "a counter-entry takes back a line that is not in this ledger"}
		case target.Kind == Counter:
			return nil, &Error{e, "a counter-entry cannot be taken back: enter the line again"}
		case gone[e.Cancels]:
			return nil, &Error{e, "this line was already taken back"}
		}
		gone[e.Cancels] = true
	}
	valid := make([]Event, 0, len(events))
	for _, e := range events {
		if e.Kind != Counter && (e.ID == 0 || !gone[e.ID]) {
			valid = append(valid, e)
		}
	}
	slices.SortStableFunc(valid, func(a, b Event) int {
		return cmp.Or(a.At.Compare(b.At), first(a)-first(b), cmp.Compare(a.ID, b.ID),
			cmp.Compare(slices.Index(order, a.Kind), slices.Index(order, b.Kind)), cmp.Compare(a.Length, b.Length))
	})
	return valid, nil
}

// Moment is a point of the line of a life: the out-time spent at a time. The
// line is straight between moments.
type Moment struct {
	At    time.Time
	Spent time.Duration
	Out   bool // from here on
}

// Line is the life of a history as a line, from its first event to now. Time
// is that of Clock.
func (h History) Line(now time.Time) ([]Moment, error) {
	if _, err := h.Clock(now); err != nil {
		return nil, err
	}
	valid, err := counted(h.Events)
	if err != nil || len(valid) == 0 {
		return nil, err
	}
	line := []Moment{{At: valid[0].At, Spent: h.Base.Spent, Out: valid[0].Kind == Out}}
	// to draws the present stay as far as a moment.
	freezer := int64(0)
	to := func(at time.Time, out bool) {
		last := &line[len(line)-1]
		if last.Out {
			line = append(line, Moment{at, last.Spent + at.Sub(last.At), out})
			return
		}
		spent := last.Spent
		for _, w := range h.spells(freezer, last.At, at) {
			line = append(line, Moment{At: w.From, Spent: spent})
			spent += w.To.Sub(w.From)
			line = append(line, Moment{At: w.To, Spent: spent})
		}
		line = append(line, Moment{at, spent, out})
	}
	for i, e := range valid {
		switch e.Kind {
		case Received:
			freezer = e.Freezer
		case Out:
			if i > 0 {
				to(e.At, true)
			}
		case In:
			to(e.At, false)
			freezer = e.Freezer
		}
	}
	to(now, line[len(line)-1].Out)
	return slices.CompactFunc(
		line,
		func(a, b Moment) bool { return a.At.Equal(b.At) && a.Spent == b.Spent && a.Out == b.Out },
	), nil
}
