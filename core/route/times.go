package route

import (
	"fmt"
	"time"

	"juxta/core/material"
)

// Limit is a time by which an operation has to be over, for the sake of its material:
// the end of a kit's tack, of an adhesive's pot.
type Limit struct {
	Until time.Time
	What  string // "the tack of kit 2"
}

// Times are when an operation can be done.
type Times struct {
	Start, End             time.Time // at the earliest
	LatestStart, LatestEnd time.Time // zero: nothing presses
	// Longest: it lies on the critical path to the end; what it loses, the build loses.
	Longest bool
	Tight   []string // why it cannot be in time, in words
}

// Plan tells when every operation can begin at the earliest, from now on and what is
// recorded, and when it must at the latest so that the build is ready when it is due (zero:
// no day is given) and no material is spent. Operations that are over take no time; one in
// work goes on from when it began. It is work and waiting alone: shifts and free places
// are not looked at.
//
// It takes O(operations + lines).
func (r *Route) Plan(
	now, due time.Time,
	marks map[string]RecordedStatus,
	limits map[string]Limit,
) (times []Times, end time.Time) {
	times = make([]Times, len(r.Operations))
	stand := r.Statuses(marks)
	left := make([]time.Duration, len(r.Operations))
	end = now
	for _, k := range r.order {
		o, t := r.Operations[k], &times[k]
		t.Start = now
		for _, w := range r.after[k] {
			if times[w].End.After(t.Start) {
				t.Start = times[w].End
			}
		}
		left[k] = o.Takes()
		switch s := stand[k]; {
		case s.State == Done || s.State == LeftOut:
			t.Start, left[k] = s.Recorded.At, 0
		case s.State == InWork:
			// Nobody knows since when: none of it is behind us.
			if !s.Recorded.At.IsZero() {
				t.Start = s.Recorded.At
				left[k] = max(0, o.Takes()-max(0, now.Sub(s.Recorded.At)))
			}
			if until := s.Recorded.Until; !until.IsZero() {
				left[k] = max(0, until.Sub(now))
			}
		}
		switch t.End = t.Start.Add(left[k]); stand[k].State {
		case InWork:
			t.End = now.Add(left[k])
		case Done, LeftOut:
		default:
			if t.End.After(end) {
				end = t.End
			}
			continue
		}
		if t.End.After(end) && stand[k].State == InWork {
			end = t.End
		}
	}
	r.backwards(times, stand, left, due, end, limits)
	return times, end
}

// backwards goes from the end to the beginning: the latest times, the critical path, and
// what cannot be in time.
func (r *Route) backwards(
	times []Times, stand []Status, left []time.Duration, due, end time.Time, limits map[string]Limit,
) {
	spare := make([]time.Time, len(r.Operations)) // latest end that does not move the end of all
	for n := len(r.order) - 1; n >= 0; n-- {
		k := r.order[n]
		t := &times[k]
		if s := stand[k].State; s == Done || s == LeftOut {
			continue
		}
		latest, free := due, end
		for _, x := range r.next[k] {
			if at := times[x].LatestStart; !at.IsZero() && (latest.IsZero() || at.Before(latest)) {
				latest = at
			}
			if at := spare[x].Add(-left[x]); at.Before(free) {
				free = at
			}
		}
		says := r.says[k]
		if l, limited := limits[r.Operations[k].Key]; limited {
			if latest.IsZero() || l.Until.Before(latest) {
				latest = l.Until
			}
			if t.End.After(l.Until) {
				t.Tight = append(t.Tight, fmt.Sprintf("%s ends %s before %s can be over",
					l.What, material.Hours(t.End.Sub(l.Until)), says))
			}
		}
		if spare[k] = free; !latest.IsZero() {
			t.LatestEnd, t.LatestStart = latest, latest.Add(-left[k])
			if t.Tight == nil && t.End.After(latest) {
				t.Tight = append(t.Tight, fmt.Sprintf("%s can start %s too late",
					says, material.Hours(t.End.Sub(latest))))
			}
		}
		t.Longest = !t.End.Before(free)
	}
}
