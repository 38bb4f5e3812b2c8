package route

import "time"

// QueuedWork is a piece of work that wants a place: from when on, and for how long.
type QueuedWork struct {
	Place string
	From  time.Time
	Takes time.Duration
}

// ExpectedStarts tells when each piece of work would begin if every place did one after another, in
// the order given, once it is free: what a day comes to, no promise.
func ExpectedStarts(free map[string]time.Time, turns []QueuedWork) []time.Time {
	out := make([]time.Time, len(turns))
	until := map[string]time.Time{}
	for place, at := range free {
		until[place] = at
	}
	for k, t := range turns {
		out[k] = t.From
		if at := until[t.Place]; at.After(t.From) {
			out[k] = at
		}
		until[t.Place] = out[k].Add(t.Takes)
	}
	return out
}
