package progress

import (
	"fmt"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"juxta/core/layup"
	"juxta/core/route"
)

var day0 = time.Date(2026, 3, 2, 8, 0, 0, 0, time.UTC)

// somePlan is a random route of some stages, each cut, counted, laid, closed and cured, with operations of all other
// kinds between and behind, and lines that were drawn besides.
func somePlan(t *rapid.T) Plan {
	plan := Plan{Benches: map[string]Bench{}}
	var stages []route.Stage
	var ops []route.Operation
	add := func(kind route.Kind, stage string, after ...string) string {
		o := route.Operation{Key: fmt.Sprintf("%d %s %s", len(ops), kind, stage), Kind: kind, After: after}
		if stage != "" {
			o.Stages = []string{stage}
		}
		o.Signs = kind != route.Releasing && rapid.IntRange(0, 4).Draw(t, "signs") == 0
		o.Heated = kind == route.PostCuring && rapid.Bool().Draw(t, "heated")
		if n := len(ops); n > 0 && rapid.IntRange(0, 5).Draw(t, "line") == 0 {
			o.After = append(o.After, ops[rapid.IntRange(0, n-1).Draw(t, "to")].Key)
		}
		ops = append(ops, o)
		return o.Key
	}
	var last []string
	for n := range rapid.IntRange(1, 3).Draw(t, "stages") {
		stage := string(rune('a' + n))
		stages = append(stages, route.Stage{Key: stage, Name: stage})
		first, plies := len(plan.Plies), rapid.IntRange(0, 4).Draw(t, "plies")
		var demands []layup.Demand
		for k := range plies {
			plan.Plies = append(plan.Plies, stage)
			for _, kind := range []string{layup.Hold, layup.Second} {
				if rapid.IntRange(0, 5).Draw(t, "demand") == 0 {
					demands = append(demands, layup.Demand{
						Kind: kind, Key: fmt.Sprintf("%s %d", stage, k), Ply: k + 1, Laid: rapid.Bool().Draw(t, "laid"),
					})
				}
			}
		}
		steps := layup.Steps(plies, layup.Policy{
			First: rapid.Bool().Draw(t, "first"), Every: rapid.IntRange(0, 2).Draw(t, "every"),
		}, demands...)
		for k := range steps {
			steps[k].Ply += first
		}
		tool := add(route.Preparing, stage)
		at := add(route.Laying, stage, tool, add(route.Kitting, stage, add(route.Cutting, stage)))
		plan.Benches[at] = Bench{Steps: steps}
		last = append(last, add(route.Curing, stage, add(route.Closing, stage, at)))
	}
	for _, kind := range []route.Kind{
		route.Demoulding, route.PostCuring, route.Outside, route.Inspecting, route.Releasing,
	} {
		last = []string{add(kind, "", last...)}
	}
	r, faults := route.New(ops, stages)
	require.Empty(t, faults)
	plan.Route = r
	return plan
}

// someEvent is anything that somebody might try.
func someEvent(t *rapid.T, p *Progress, n int) Event {
	e := Event{
		Kind: rapid.SampledFrom(slices.DeleteFunc(Kinds(), func(k Kind) bool { return k == Ended })).Draw(t, "kind"),
		At: day0.Add(
			time.Duration(n) * time.Minute,
		), Who: rapid.SampledFrom([]string{"Ines", "Tilda"}).Draw(t, "who"),
		Reason: rapid.SampledFrom([]string{"so it is", "so it is", "so it is", ""}).Draw(t, "reason"),
		Met:    rapid.Bool().Draw(t, "met"), Vacuum: rapid.Bool().Draw(t, "vacuum"),
		Films: rapid.IntRange(0, 1).Draw(t, "films"), Cure: 0.5, Says: "good",
	}
	e.Operation = rapid.SampledFrom(p.Route.Operations).Draw(t, "operation").Key
	if len(p.Plies) > 0 {
		e.Ply = rapid.IntRange(1, len(p.Plies)).Draw(t, "ply")
		e.Label = fmt.Sprintf("C-%d-%d", e.Ply, n)
		if labels := p.plies[e.Ply].labels; len(labels) > 0 && e.Kind != PlyCut {
			e.Label = labels[0]
		}
	}
	bench := p.bench(p.index(e.Operation))
	if next, open := layup.Next(bench.Steps, bench.Done); open && next.Kind != "" {
		e.Point, e.Item = next.Kind, next.Key
	}
	if run, there := p.LastRun(p.index(e.Operation)); there && e.Kind != RunBegun {
		e.Run = run.Code
	} else {
		e.Run = fmt.Sprint("H-", n)
	}
	if e.Kind == Reworked {
		e.Added = &route.Operation{
			Key: fmt.Sprint(
				"rework ",
				n,
			), Kind: rapid.SampledFrom(route.Kinds()).Draw(t, "rework"), After: []string{e.Operation},
		}
		e.Before = []string{rapid.SampledFrom(p.Route.Operations).Draw(t, "before").Key}
	}
	return e
}

// someHistory is a random history, nudged forward now and then so that some of it comes far; see looks at each step.
func someHistory(t *rapid.T, see func(before, after *Progress, e Event, not *Refusal)) *Progress {
	p, err := Fold(somePlan(t), nil)
	require.NoError(t, err)
	for n := range rapid.IntRange(0, 90).Draw(t, "events") {
		e := someEvent(t, p, n)
		if rapid.IntRange(0, 2).Draw(t, "forward") > 0 {
			if next, there := forward(p, n); there {
				e = next
			}
		}
		not := p.May(e)
		after := p
		if not == nil {
			if after, err = p.With(e); err != nil {
				require.NoError(t, err, "%+v", e)
			}
		}
		see(p, after, e, not)
		p = after
	}
	return p
}

// forward is the next event of a person who wants the build done, if there is one but the release.
func forward(p *Progress, n int) (Event, bool) {
	e := Event{
		At:     day0.Add(time.Duration(n) * time.Minute),
		Who:    "Jonas",
		Reason: "on",
		Met:    true,
		Run:    fmt.Sprint("H-", n),
	}
	for _, k := range p.Route.Order() {
		o := p.Route.Operations[k]
		switch e.Operation = o.Key; p.Statuses[k].State {
		case route.Held:
			if e.Kind = Resumed; p.Recorded[o.Key].Reason == stuck {
				e.Kind = LeftOut
			}
			return e, true
		case route.Ready, route.InWork:
		default:
			continue
		}
		if o.Kind == route.Releasing {
			continue
		}
		if p.Single(k) {
			if e.Kind = Signed; o.Kind == route.Outside && p.Statuses[k].State == route.Ready {
				e.Kind = Begun
			}
			return e, true
		}
		if !forwardInRoom(p, k, &e) {
			// Its plies are left out: so is it. What is in work is held first.
			if e.Kind, e.Reason = LeftOut, stuck; p.Statuses[k].State == route.InWork {
				e.Kind = Held
			}
		}
		return e, true
	}
	return e, false
}

const stuck = "its plies are left out"

// forwardInRoom is what the room of an operation does next, if there is something.
func forwardInRoom(p *Progress, k int, e *Event) bool {
	o, at := p.Route.Operations[k], &p.at[k]
	here := func(is func(y ply) bool) bool {
		for n, stage := range p.Plies {
			if slices.Contains(o.Stages, stage) && is(p.plies[n+1]) {
				e.Ply = n + 1
				return true
			}
		}
		return false
	}
	switch {
	case o.Heats():
		if e.Kind = RunBegun; at.run >= 0 && p.Runs[at.run].Ended == nil {
			e.Kind, e.Run = RunEnded, p.Runs[at.run].Code
		}
	case o.Kind == route.Cutting:
		e.Kind = PlyCut
		if !here(func(y ply) bool { return len(y.labels) == 0 }) {
			return false
		}
		e.Label = fmt.Sprintf("C-%d-%s", e.Ply, e.Run)
	case o.Kind == route.Kitting:
		switch {
		case here(func(y ply) bool { return len(y.counted) > 1 }):
			e.Kind = PlySetAside
			for label := range p.plies[e.Ply].counted {
				e.Label = label
			}
		case here(func(y ply) bool { return len(y.counted)+len(y.labels) == 0 }):
			return false
		case here(func(y ply) bool { return len(y.counted) == 0 }):
			e.Kind, e.Label = PlyCounted, p.plies[e.Ply].labels[0]
		default:
			e.Kind = KitCounted
		}
	case o.Kind == route.Laying:
		bench := p.bench(k)
		next, open := layup.Next(bench.Steps, bench.Done)
		e.Ply = next.Ply
		switch short := p.short(bench.Steps); {
		case at.debulk != nil:
			e.Kind, e.Ply = DebulkEnded, at.debulk.Ply
		case !open:
			return false
		case next.Kind != "":
			e.Kind, e.Point, e.Item = DemandMet, next.Kind, next.Key
		case next.Debulk && short > 0:
			e.Kind, e.Ply = FilmFound, short
		case next.Debulk:
			e.Kind = DebulkBegun
		case len(p.plies[next.Ply].labels) == 0:
			return false
		default:
			e.Kind, e.Label = PlyLaid, p.plies[next.Ply].labels[0]
		}
	case o.Kind == route.Closing:
		if e.Kind, e.Vacuum = BagClosed, true; at.bag != nil {
			e.Kind = LeakChecked
		}
	}
	return true
}

// The fold says of every operation what a second, slow reader of the same papers says.
func TestTheFoldSaysWhatASlowReaderSays(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		p := someHistory(t, func(*Progress, *Progress, Event, *Refusal) {})
		s := slow{p.Route, p.Plan, p.Events()}
		for k, o := range p.Route.Operations {
			assert.Equal(t, s.state(o), p.Statuses[k].State, "%s after %d events", o.Key, len(s.events))
		}
	})
}

// What may be recorded keeps the rules: nothing is begun before what it waits for, nothing that was done is undone but
// by what says so, and what was cured stays cured.
func TestWhatMayBeRecordedKeepsTheRules(t *testing.T) {
	undo := []Kind{
		PlyVoided,
		PlyTakenBack,
		TakenBack,
		LeakBegun,
		LeakChecked,
		Reworked,
		KitCounted,
		Signed,
		Held,
		NotGood,
	}
	rapid.Check(t, func(t *rapid.T) {
		someHistory(t, func(before, after *Progress, e Event, not *Refusal) {
			if not != nil {
				assert.NotEmpty(t, not.Message)
				assert.NotContains(t, not.Message, "%!")
				return
			}
			for k := range before.Route.Operations {
				was, is := before.Statuses[k].State, after.Statuses[k].State
				if was == route.Waiting && (is == route.InWork || is == route.Done) {
					assert.True(t, before.Statuses[k].Again || slices.Contains(
						[]Kind{
							PlyCut,
							KitCounted,
							Signed,
							LeakChecked,
							RunEnded,
							LeftOut,
							DebulkEnded,
							DemandMet,
							PlyLaid,
							BagClosed,
						},
						e.Kind,
					),
						"%s: %s to %s by %s", before.Route.Called(k), was, is, e.Kind)
					_, again := before.Recorded[before.Route.Operations[k].Key]
					assert.True(t, again, "it was recorded before: what it rests on is whole again")
				}
				if was == route.Done && is != route.Done {
					assert.Contains(t, undo, e.Kind, "%s was done", before.Route.Called(k))
				}
			}
			for n, r := range before.Runs {
				if r.Complete() {
					assert.True(t, after.Runs[n].Complete(), "nothing un-cures")
				}
			}
			if e.Kind == PlyTakenBack {
				own := after.Benches[after.Route.Operations[after.of(&e)].Key].Steps
				for n := range before.Done.Debulks {
					if !slices.Contains(own, layup.Step{Ply: n, Debulk: true}) {
						assert.True(t, after.Done.Debulks[n], "a debulk of another bench is left alone")
					}
				}
			}
		})
	})
}

// No history leads to a build that nobody can finish, or end.
func TestEveryBuildCanBeFinishedOrEnded(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		p := someHistory(t, func(*Progress, *Progress, Event, *Refusal) {})
		if p.Release != nil {
			return
		}
		for _, r := range p.Runs {
			if r.Ended == nil {
				require.Nil(t, p.May(Event{Kind: RunStopped, Operation: r.Operation, Run: r.Code}))
			}
		}
		n := 1000
		for ; n < 2000; n++ {
			e, there := forward(p, n)
			if !there {
				break
			}
			require.Nil(t, p.May(e), "%+v", e)
			var err error
			p, err = p.With(e)
			require.NoError(t, err)
		}
		require.Less(t, n, 2000, "it comes to an end")
		require.Nil(t, p.May(Event{Kind: Ended, Reason: "no more is wanted"}))
		require.Nil(t, p.May(Event{Kind: Released, Says: "good"}))
	})
}
