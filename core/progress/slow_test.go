package progress

import (
	"slices"

	"juxta/core/layup"
	"juxta/core/route"
)

// slow tells where operations stand in another way: it keeps nothing, and looks at all events anew for every question,
// as a person would who leafs through a folder of papers.
type slow struct {
	route  *route.Route
	plan   Plan
	events []Event
}

// last is the place of the last event that is one; -1: none is.
func (s slow) last(is func(e Event) bool) int {
	for k, e := range slices.Backward(s.events) {
		if is(e) {
			return k
		}
	}
	return -1
}

func (s slow) stage(ply int) string { return s.plan.Plies[ply-1] }

func (s slow) isCut(ply int) bool {
	for k, e := range s.events {
		if e.Kind == PlyCut && e.Ply == ply && !slices.ContainsFunc(s.events[k:], func(v Event) bool {
			return v.Kind == PlyVoided && v.Ply == ply && v.Label == e.Label
		}) {
			return true
		}
	}
	return false
}

func (s slow) lies(ply int) bool {
	laid := s.last(func(e Event) bool { return e.Kind == PlyLaid && e.Ply == ply })
	back := s.last(func(e Event) bool { return e.Kind == PlyTakenBack && e.Ply == ply })
	return laid > back
}

// did says whether a step of a bench is done, and was not undone since by a ply of that bench that came off.
func (s slow) did(bench []layup.Step, at int) bool {
	step := bench[at]
	if step.Kind == "" && !step.Debulk {
		return s.lies(step.Ply)
	}
	done := s.last(func(e Event) bool {
		if step.Debulk {
			return e.Kind == DebulkEnded && e.Ply == step.Ply && e.Met
		}
		return e.Kind == DemandMet && e.Point == step.Kind && e.Item == step.Key
	})
	undone := s.last(func(e Event) bool {
		lay := slices.IndexFunc(bench, func(x layup.Step) bool { return x.Kind == "" && !x.Debulk && x.Ply == e.Ply })
		if e.Kind != PlyTakenBack || lay < 0 {
			return false
		}
		if step.Debulk {
			return e.Ply <= step.Ply
		}
		return step.Kind == layup.Second && e.Ply == step.Ply && at > lay
	})
	return done > undone
}

// own is what was recorded of an operation itself; empty: nothing that counts.
func (s slow) own(o route.Operation) route.State {
	of := func(kinds ...Kind) int {
		return s.last(func(e Event) bool { return e.Operation == o.Key && slices.Contains(kinds, e.Kind) })
	}
	line := route.State("")
	at := of(Begun, Resumed, Signed, NotGood, Held, LeftOut, TakenBack)
	if at >= 0 {
		line = map[Kind]route.State{
			Begun: route.InWork, Resumed: route.InWork, Signed: route.Done, NotGood: route.Held, Held: route.Held,
			LeftOut: route.LeftOut,
		}[s.events[at].Kind]
	}
	bench := s.plan.Benches[o.Key].Steps
	if o.Kind != route.Laying && o.Single() || o.Kind == route.Laying && len(bench) == 0 {
		return line
	}
	if line == route.LeftOut || line == route.Held {
		return line
	}
	room := s.room(o, bench)
	if room == route.Done && o.Signs {
		// It counts when nothing of the room came after it.
		since := slices.ContainsFunc(s.events[at+1:], func(e Event) bool { return s.about(e, o) })
		if line != route.Done || since {
			return route.InWork
		}
	}
	return room
}

// about says whether an event was recorded of an operation, be it of its plies.
func (s slow) about(e Event, o route.Operation) bool {
	switch e.Kind {
	case TakenBack, Reworked, Referred, Released:
		return false
	case PlyCut, PlyVoided, PlyCounted, PlySetAside, PlyLaid, PlyTakenBack, FilmFound, DebulkBegun, DebulkEnded:
	default:
		return e.Operation == o.Key
	}
	kinds := map[route.Kind][]Kind{
		route.Cutting: {PlyCut, PlyVoided}, route.Kitting: {PlyCounted, PlySetAside},
		route.Laying: {PlyLaid, PlyTakenBack, FilmFound, DebulkBegun, DebulkEnded},
	}[o.Kind]
	return slices.Contains(kinds, e.Kind) && slices.Contains(o.Stages, s.stage(e.Ply))
}

func (s slow) room(o route.Operation, bench []layup.Step) route.State {
	of := func(kinds ...Kind) int {
		return s.last(func(e Event) bool { return e.Operation == o.Key && slices.Contains(kinds, e.Kind) })
	}
	if o.Heats() {
		switch at := of(RunBegun, RunStopped, RunFailed, RunEnded); {
		case at >= 0 && s.events[at].Kind == RunBegun:
			return route.InWork
		case at >= 0 && s.events[at].Kind == RunEnded:
			return route.Done
		}
		return ""
	}
	some, all := false, true
	tell := func(done bool) { some, all = some || done, all && done }
	switch o.Kind {
	case route.Cutting:
		for k, stage := range s.plan.Plies {
			if slices.Contains(o.Stages, stage) {
				tell(s.isCut(k + 1))
			}
		}
	case route.Kitting:
		void := s.last(func(e Event) bool { return e.Kind == PlyVoided && slices.Contains(o.Stages, s.stage(e.Ply)) })
		if of(KitCounted) > void {
			return route.Done
		}
		return ""
	case route.Laying:
		for k := range bench {
			tell(s.did(bench, k))
		}
	case route.Closing:
		closed := of(BagClosed)
		if closed < 0 {
			return ""
		}
		check := of(LeakChecked)
		some, all = true, !s.events[closed].Vacuum || check >= 0 && s.events[check].Met
	case route.Releasing:
		all = s.last(func(e Event) bool { return e.Kind == Released }) >= 0
	}
	switch {
	case all:
		return route.Done
	case some:
		return route.InWork
	}
	return ""
}

// blocked says whether something that an operation waits for is open, however far behind what was left out.
func (s slow) blocked(o route.Operation) bool {
	return slices.ContainsFunc(o.After, func(key string) bool {
		w, _ := s.route.Find(key)
		switch s.own(w) {
		case route.Done, route.LeftOut:
			return s.blocked(w)
		}
		return true
	})
}

func (s slow) state(o route.Operation) route.State {
	own := s.own(o)
	switch {
	case s.blocked(o) && own != route.Held && own != route.LeftOut:
		return route.Waiting
	case own == "":
		return route.Ready
	}
	return own
}
