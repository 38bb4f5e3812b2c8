package progress

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"juxta/core/layup"
	"juxta/core/route"
)

// strip is a plan of one stage with two plies, a debulk after the first and a hold point before the second, and all
// that comes after; set changes its operations.
func strip(t testing.TB, set func(o *route.Operation)) Plan {
	t.Helper()
	stages := []route.Stage{{Key: "a", Name: "Skin"}, {Key: "c", Name: "Core"}}
	ops := []route.Operation{
		{Key: "cut", Kind: route.Cutting, Stages: []string{"a"}},
		{Key: "kit", Kind: route.Kitting, Stages: []string{"a"}, After: []string{"cut"}},
		{Key: "tool", Kind: route.Preparing},
		{Key: "lay", Kind: route.Laying, Stages: []string{"a"}, After: []string{"kit", "tool"}},
		{Key: "core", Kind: route.Laying, Stages: []string{"c"}, After: []string{"lay"}},
		{Key: "close", Kind: route.Closing, Stages: []string{"a"}, After: []string{"core"}},
		{Key: "cure", Kind: route.Curing, Stages: []string{"a"}, After: []string{"close"}},
		{Key: "out", Kind: route.Outside, After: []string{"cure"}},
		{Key: "look", Kind: route.Inspecting, After: []string{"out"}},
		{Key: "release", Kind: route.Releasing, After: []string{"look"}},
	}
	for k := range ops {
		if set != nil {
			set(&ops[k])
		}
	}
	r, faults := route.New(ops, stages)
	require.Empty(t, faults)
	hold := layup.Demand{Kind: layup.Hold, Key: "b", Ply: 2, Laid: true}
	return Plan{Route: r, Plies: []string{"a", "a"}, Benches: map[string]Bench{"lay": {
		Steps:   layup.Steps(2, layup.Policy{First: true}, hold),
		Demands: map[layup.MetDemand]string{{Kind: layup.Hold, Key: "b"}: "look at the edge"},
	}}}
}

// history is what happened, a word or a few an event: "cut 1", "sign tool", "run cure".
func history(t testing.TB, plan Plan, words ...string) *Progress {
	t.Helper()
	p, err := Fold(plan, nil)
	require.NoError(t, err)
	for n, w := range words {
		e := event(w, n)
		if not := p.May(e); not != nil {
			require.Nil(t, not, "%s: %s", w, not.Message)
		}
		p, err = p.With(e)
		require.NoError(t, err)
	}
	return p
}

func event(words string, n int) Event {
	e := Event{
		At:     day0.Add(time.Duration(n) * time.Minute),
		Who:    "Ines Falk",
		Reason: "so it is",
		Met:    true,
		Vacuum: true,
	}
	word, of, _ := strings.Cut(words, " ")
	e.Kind = map[string]Kind{
		"cut": PlyCut, "void": PlyVoided, "count": PlyCounted, "aside": PlySetAside, "kit": KitCounted, "lay": PlyLaid,
		"back": PlyTakenBack, "film": FilmFound, "met": DemandMet, "press": DebulkBegun, "pressed": DebulkEnded,
		"weak": DebulkEnded, "close": BagClosed, "check": LeakBegun, "tight": LeakChecked, "leaks": LeakChecked,
		"run": RunBegun, "stop": RunStopped, "fail": RunFailed, "ran": RunEnded, "begin": Begun, "resume": Resumed,
		"sign": Signed, "bad": NotGood, "hold": Held, "undo": TakenBack, "leave": LeftOut, "rework": Reworked,
		"refer": Referred, "dispose": Released, "end": Ended, "short": PlyLaid, "taped": BagClosed,
	}[word]
	e.Met = word != "weak" && word != "leaks"
	e.Vacuum = word != "taped"
	if word == "short" {
		e.Films = 1
	}
	if n, err := fmt.Sscanf(of, "%d", &e.Ply); n == 1 && err == nil {
		e.Label = "C-" + of
	} else {
		e.Operation, e.Run = of, "H-"+of
	}
	switch e.Kind {
	case DemandMet:
		e.Point, e.Item, e.Operation = layup.Hold, of, "lay"
	case Reworked:
		e.Added, e.Before = &route.Operation{Key: "rework", Kind: route.Sanding, Name: "Sand"}, []string{of}
	case Released:
		e.Says, e.Operation = of, ""
	}
	return e
}

func (p *Progress) state(key string) route.State { return p.Statuses[p.index(key)].State }

var laid = []string{
	"cut 1", "cut 2", "count 1", "count 2", "kit kit", "sign tool", "lay 1", "press 1", "pressed 1", "met b", "lay 2",
}

var cured = append(
	append([]string{}, laid...),
	"sign core",
	"close close",
	"check close",
	"tight close",
	"run cure",
	"ran cure",
)

func TestABuildGoesItsWay(t *testing.T) {
	plan := strip(t, nil)
	p := history(t, plan, laid...)
	assert.Equal(t, route.Done, p.state("lay"))
	assert.True(t, p.Single(p.index("core")), "it has no step at the bench, so it is signed")
	assert.False(t, p.Single(p.index("lay")))
	p = history(t, plan, append(laid, "sign core", "close close")...)
	assert.Equal(t, route.InWork, p.state("close"), "closed, and not found tight yet")
	p = history(t, plan, append(laid, "sign core", "close close", "tight close", "run cure")...)
	assert.Equal(t, route.InWork, p.state("cure"))
	run, clock := p.Cured("a")
	assert.True(t, clock, "while it runs the clock stands")
	assert.False(t, run.Complete())
	p = history(t, plan, append(laid, "sign core", "close close", "tight close", "run cure", "stop cure")...)
	assert.Equal(t, route.Ready, p.state("cure"), "a run that was stopped has to be done again")
	_, clock = p.Cured("a")
	assert.False(t, clock, "the clock has gone on")
	assert.Len(t, p.Runs, 1, "it keeps its place")
	p = history(t, plan, append(cured, "begin out", "sign out", "sign look", "dispose good")...)
	assert.Equal(t, route.Done, p.state("release"))
	refer := event("dispose refer", 60)
	refer.Reason = "too heavy"
	p, err := history(t, plan, append(cured, "begin out", "sign out", "sign look")...).With(refer)
	require.NoError(t, err)
	assert.Equal(t, route.Held, p.state("release"), "a part that was referred is not released")
	assert.Equal(t, "refer, too heavy", p.Recorded["release"].Reason)
	moment, there := p.LastRecorded(p.index("cure"))
	assert.True(t, there)
	assert.Equal(t, "Ines Falk", moment.By, "done is never by nobody")
	_, there = p.LastRun(p.index("lay"))
	assert.False(t, there)
	assert.Len(t, p.Events(), len(cured)+4)
}

// What asks for more than its room records is over once that is signed, and has to be signed again when its room
// recorded something since; what is held stays so whatever its room says.
func TestWhatAsksForMoreIsSignedOnceItsRoomIsDone(t *testing.T) {
	plan := strip(t, func(o *route.Operation) { o.Signs = o.Key == "kit" || o.Key == "close" })
	counted := []string{"cut 1", "cut 2", "count 1", "count 2", "kit kit"}
	p := history(t, plan, counted...)
	assert.Equal(t, route.InWork, p.state("kit"), "counted, and not signed")
	assert.True(t, p.Single(p.index("kit")))
	assert.False(t, p.Single(p.index("close")))
	assert.Equal(t, route.Done, history(t, plan, append(counted, "sign kit")...).state("kit"))
	p = history(t, plan, append(counted, "sign kit", "void 1", "cut 1", "count 1", "kit kit")...)
	assert.Equal(t, route.InWork, p.state("kit"), "it was counted anew after the signature")
	assert.Equal(t, route.Held, history(t, plan, append(counted, "hold kit")...).state("kit"))
	assert.Equal(t, route.InWork, history(t, plan, append(counted, "hold kit", "resume kit")...).state("kit"))
}

// A ply that was lost or spoiled is void, and cut and counted again before the lay goes on.
func TestAPlyIsVoidedAndCutAgain(t *testing.T) {
	plan := strip(t, nil)
	begun := []string{"cut 1", "cut 2", "count 1", "count 2", "kit kit", "sign tool", "lay 1", "press 1", "pressed 1"}
	p := history(t, plan, append(begun, "void 2")...)
	assert.Equal(t, []route.State{route.InWork, route.Waiting, route.Waiting},
		[]route.State{p.state("cut"), p.state("kit"), p.state("lay")})
	assert.True(t, p.Statuses[p.index("lay")].Again)
	assert.Contains(t, p.May(event("met b", 99)).Message, "waits for Kit")
	assert.Contains(t, p.May(event("kit kit", 99)).Message, "ply 2 missing")
	p = history(t, plan, append(begun, "void 2", "cut 2", "count 2", "kit kit", "met b", "lay 2")...)
	assert.Equal(t, route.Done, p.state("lay"))
}

// Not good is a hold. Taken back, it stays in the record.
func TestNotGoodIsAHold(t *testing.T) {
	plan := strip(t, nil)
	bad := append(cured, "begin out", "sign out", "bad look")
	p := history(t, plan, bad...)
	assert.Equal(t, []route.State{route.Held, route.Waiting}, []route.State{p.state("look"), p.state("release")})
	assert.NotNil(t, p.May(event("dispose good", 99)))
	p = history(t, plan, append(bad, "undo look")...)
	assert.Equal(t, route.Ready, p.state("look"))
	assert.Equal(t, NotGood, p.Events()[len(bad)-1].Kind)
	p = history(t, plan, append(bad, "undo look", "rework look", "sign rework", "sign look")...)
	assert.Equal(t, route.Ready, p.state("release"))
}

// What will end a run, and bring back what was sent out, is when the operation ends.
func TestWhatIsInWorkEndsWhenItWill(t *testing.T) {
	plan := strip(t, nil)
	p := history(t, plan, append(laid, "sign core", "close close", "tight close")...)
	until := day0.Add(9 * time.Hour)
	run := event("run cure", 60)
	run.Until = &until
	p, err := p.With(run)
	require.NoError(t, err)
	assert.Equal(t, until, p.Recorded["cure"].Until)
	out := event("begin out", 60)
	out.Until = &until
	p, err = history(t, plan, cured...).With(out)
	require.NoError(t, err)
	assert.Equal(t, until, p.Recorded["out"].Until)
}

// Every refusal, each with what leads to it.
func TestEveryRefusal(t *testing.T) {
	plan := strip(t, nil)
	for _, c := range []struct {
		after []string
		try   string
		rule  Rule
		says  string
	}{
		{[]string{"end x"}, "cut 1", Over, "this build was ended: so it is"},
		{append(cured, "begin out", "sign out", "sign look", "dispose good"), "sign look", Over, "signed off already: good"},
		{append(laid, "sign core", "taped close", "run cure"), "end x", NotNow, "in the oven: stop its run H-cure"},
		{nil, "cut 7", Unknown, "there is no ply 7"},
		{nil, "sign polish", Unknown, `there is no operation "polish"`},
		{[]string{"hold tool"}, "sign tool", First, "Prepare tool is held, by Ines Falk: so it is. Resume it first"},
		{nil, "lay 1", First, "Lay up Skin waits for Kit Skin and Prepare tool"},
		{[]string{"begin tool"}, "begin tool", Over, "Prepare tool is in work already, since Mon 08:00 by Ines Falk"},
		{[]string{"cut 1"}, "cut 1", Over, "C-1, ply 1, is cut already"},
		{nil, "void 1", Unknown, "C-1 is no cut ply"},
		{laid, "void 1", First, "ply 1 is laid: take it back first"},
		{nil, "count 1", Unknown, "C-1 is no cut ply"},
		{laid, "count 1", Over, "this kit is already counted and closed"},
		{[]string{"cut 1", "count 1"}, "count 1", Over, "C-1, ply 1, is already counted"},
		{[]string{"cut 1"}, "aside 1", NotNow, "C-1 is not counted into this kit"},
		{laid, "kit kit", Over, "this kit is already counted and closed"},
		{[]string{"cut 1", "cut 2", "count 1"}, "kit kit", Incomplete, "ply 2 missing"},
		{append(laid, "sign core"), "back 2", NotNow, "Lay up Core is done already: it lies on this layup"},
		{laid[:7], "lay 1", Over, "ply 1 is already signed, by Ines Falk"},
		{laid[:7], "lay 2", First, "debulk first"},
		{laid[:9], "lay 2", First, "the hold point at ply 2 is not signed as done (look at the edge)"},
		{laid, "met b", NotNow, "this is signed already"},
		{laid[:7], "met z", Unknown, "the master has no such point"},
		{laid[:6], "back 1", NotNow, "no ply is laid yet"},
		{laid[:8], "back 1", NotNow, "a debulk is running"},
		{laid, "back 1", NotNow, "only the last ply laid can be taken back: that is ply 2"},
		{laid[:6], "film 1", NotNow, "ply 1 is not laid"},
		{laid[:7], "film 1", NotNow, "every film of ply 1 is accounted for"},
		{laid[:8], "press 1", Over, "a debulk is already running, started by Ines Falk"},
		{laid[:6], "press 1", NotNow, "no debulk is due"},
		{append(laid[:6:6], "short 1"), "press 1", Incomplete, "a film is unaccounted for"},
		{laid, "pressed 1", NotNow, "no debulk is running"},
		{nil, "close lay", Wrong, "Lay up Skin closes nothing"},
		{append(laid, "sign core", "close close"), "close close", Over, "the bag is already closed, by Ines Falk"},
		{laid, "tight close", First, "close the bag first"},
		{append(laid, "sign core", "taped close"), "tight close", NotNow, "nothing here is drawn down by vacuum"},
		{cured, "tight close", Over, "Cure Skin was begun on this bag already"},
		{append(laid, "sign core", "close close", "check close"), "check close", Over, "a leak check is going on already"},
		{append(laid, "sign core", "close close", "hold close"), "tight close", First, "Bag Skin is held"},
		{nil, "run lay", Wrong, "Lay up Skin has no run"},
		{append(laid, "sign core", "taped close", "run cure"), "run cure", Over, "in its run already"},
		{nil, "run cure", First, "Cure Skin waits for Bag Skin"},
		{cured, "stop cure", NotNow, "run H-cure is not going on"},
		{nil, "sign lay", First, "Lay up Skin is signed in its own room"},
		{cured, "sign out", First, "send it out first"},
		{nil, "undo tool", NotNow, "nothing is recorded of Prepare tool"},
		{append([]string{"leave tool"}, append(laid[:5:5], "lay 1")...), "undo tool", NotNow, "Lay up Skin was begun without it"},
		{nil, "hold release", First, "Release is signed in its own room"},
		{laid, "leave lay", Over, "Lay up Skin is done already, by Ines Falk"},
		{laid, "rework lay", Wrong, "Lay up Skin is done already: take it back first"},
		{nil, "rework none", Wrong, `there is no operation "none"`},
		{nil, "dispose good", First, "Release waits for Inspect"},
	} {
		p := history(t, plan, c.after...)
		e := event(c.try, len(c.after))
		not := p.May(e)
		if assert.NotNil(t, not, "%v, then %s", c.after, c.try) {
			assert.Equal(t, c.rule, not.Rule, "%s: %s", c.try, not.Message)
			assert.Contains(t, not.Error(), c.says)
		}
	}
	p := history(t, plan, laid[:6]...)
	other := event("lay 1", 9)
	other.Label = "C-other"
	assert.Contains(t, p.May(other).Message, "C-other is no cut ply of ply 1")
	p = history(t, plan, "cut 1", "cut 2")
	assert.Equal(t, "ply 1 is cut already", p.May(Event{Kind: PlyCut, Ply: 1, Label: "C-9"}).Message)
	assert.Equal(t, Unknown, p.May(Event{Kind: "danced", Operation: "tool"}).Rule)
	for _, kind := range []Kind{
		PlyVoided, PlyTakenBack, Held, NotGood, TakenBack, LeftOut, Reworked, Referred, Ended,
	} {
		assert.Equal(t, Needed, p.May(Event{Kind: kind, Reason: " "}).Rule, "%s needs its reason", kind)
	}
	assert.Equal(t, Needed, p.May(Event{Kind: Reworked, Reason: "a pit"}).Rule)
	wrong := Event{Kind: Reworked, Reason: "a pit", Added: &route.Operation{Key: "r", Kind: route.Laying}}
	assert.Equal(t, Wrong, p.May(wrong).Rule)
	assert.Nil(t, p.May(event("refer x", 1)))
	_, err := p.With(Event{Kind: Reworked})
	require.Error(t, err)
	_, err = p.With(event("rework none", 1))
	require.ErrorContains(t, err, "the reworks of a build")
	// A route that cuts or lays no such ply.
	r, _ := route.New([]route.Operation{{Key: "tool", Kind: route.Preparing}}, []route.Stage{{Key: "a"}})
	bare := history(t, Plan{Route: r, Plies: []string{"a"}})
	for try, says := range map[string]string{
		"cut 1": "ply 1 is not cut by this route", "count 1": "is not counted by this", "lay 1": "is not laid by this",
	} {
		assert.Contains(t, bare.May(event(try, 0)).Message, says)
	}
}

func BenchmarkFold(b *testing.B) {
	var stages []route.Stage
	var ops []route.Operation
	plan := Plan{Benches: map[string]Bench{}}
	var events []Event
	for n := range 12 {
		s := fmt.Sprint("s", n)
		stages = append(stages, route.Stage{Key: s, Name: s})
		for k, kind := range []route.Kind{route.Cutting, route.Kitting, route.Laying, route.Closing, route.Curing} {
			o := route.Operation{Key: fmt.Sprint(kind, n), Kind: kind, Stages: []string{s}}
			if k > 0 {
				o.After = []string{ops[len(ops)-1].Key}
			}
			ops = append(ops, o)
		}
		first := len(plan.Plies)
		for k := range 25 {
			plan.Plies = append(plan.Plies, s)
			for _, kind := range []Kind{PlyCut, PlyCounted, PlyLaid} {
				events = append(
					events,
					Event{Kind: kind, At: day0, Ply: first + k + 1, Label: fmt.Sprint("C-", first+k)},
				)
			}
		}
		steps := layup.Steps(25, layup.Policy{Every: 4})
		for k := range steps {
			steps[k].Ply += first
		}
		plan.Benches[fmt.Sprint(route.Laying, n)] = Bench{Steps: steps}
		events = append(events, Event{Kind: KitCounted, At: day0, Operation: fmt.Sprint(route.Kitting, n)})
		for range 4 {
			events = append(events, Event{Kind: DebulkBegun, At: day0, Ply: first + 4},
				Event{Kind: DebulkEnded, At: day0, Ply: first + 4, Met: true})
		}
	}
	r, faults := route.New(ops, stages)
	require.Empty(b, faults)
	plan.Route = r
	require.Len(b, ops, 60)
	require.GreaterOrEqual(b, len(events), 1000)
	b.ReportAllocs()
	for b.Loop() {
		p, err := Fold(plan, events)
		if err != nil || len(p.Statuses) != 60 {
			b.Fatal(err)
		}
	}
}
