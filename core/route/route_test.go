package route

import (
	"fmt"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"gonum.org/v1/gonum/graph/path"
	"gonum.org/v1/gonum/graph/simple"
	"pgregory.net/rapid"
)

var day0 = time.Date(2026, 3, 2, 8, 0, 0, 0, time.UTC)

// someRoute is a random route: lines lead from a later operation to earlier ones of a
// shuffled order, so that there is no cycle.
func someRoute(t *rapid.T) *Route {
	n := rapid.IntRange(1, 30).Draw(t, "operations")
	ops := make([]Operation, n)
	order := rapid.Permutation(seq(n)).Draw(t, "order")
	for k := range ops {
		ops[k] = Operation{
			Key:      fmt.Sprint(k),
			Kind:     Laying,
			Attended: time.Duration(rapid.IntRange(0, 300).Draw(t, "takes")) * time.Minute,
		}
	}
	for at, k := range order {
		for range rapid.IntRange(0, min(at, 3)).Draw(t, "lines") {
			ops[k].After = append(ops[k].After, fmt.Sprint(order[rapid.IntRange(0, at-1).Draw(t, "to")]))
		}
	}
	r, faults := New(ops, nil)
	require.Empty(t, faults)
	return r
}

func seq(n int) []int {
	all := make([]int, n)
	for k := range all {
		all[k] = k
	}
	return all
}

func TestReadinessNeverSkipsAPredecessor(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		r := someRoute(t)
		marks := map[string]RecordedStatus{}
		for range rapid.IntRange(0, 2*len(r.Operations)).Draw(t, "steps") {
			stand := r.Statuses(marks)
			var open []int
			for k, s := range stand {
				over := func(key string) bool { return marks[key].over() }
				allOver := !slices.ContainsFunc(r.Operations[k].After, func(key string) bool { return !over(key) })
				switch s.State {
				case Ready:
					assert.True(t, allOver, "%s is ready before what it waits for", r.Operations[k].Key)
					assert.Empty(t, s.Reasons)
					open = append(open, k)
				case Waiting:
					assert.False(t, allOver)
					assert.Len(t, s.Reasons, len(s.Waits))
					assert.NotEmpty(t, s.Waits)
				}
			}
			if len(open) == 0 {
				for _, o := range r.Operations {
					assert.True(t, marks[o.Key].over(), "nothing is ready, and something is not done")
				}
				break
			}
			k := rapid.SampledFrom(open).Draw(t, "next")
			marks[r.Operations[k].Key] = RecordedStatus{
				State: rapid.SampledFrom([]State{Done, LeftOut}).Draw(t, "how"),
				At:    day0,
			}
		}
	})
}

func TestTakingBackReopensExactlyWhatRestsOnIt(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		r := someRoute(t)
		marks := map[string]RecordedStatus{}
		for _, k := range r.order[:rapid.IntRange(1, len(r.order)).Draw(t, "done")] {
			marks[r.Operations[k].Key] = RecordedStatus{State: Done, At: day0}
		}
		key := r.Operations[rapid.SampledFrom(r.order[:len(marks)]).Draw(t, "taken back")].Key
		reopened := r.Reopens(key, marks)
		// Rests on it: by the plain definition, along the lines.
		var rests func(k string) bool
		rests = func(k string) bool {
			o, _ := r.Find(k)
			return slices.ContainsFunc(o.After, func(w string) bool { return w == key || rests(w) })
		}
		delete(marks, key)
		for k, s := range r.Statuses(marks) {
			own := r.Operations[k].Key
			_, marked := marks[own]
			assert.Equal(t, marked && rests(own), slices.Contains(reopened, own), own)
			assert.Equal(t, slices.Contains(reopened, own), s.Again, own)
			assert.Equal(t, marked && !rests(own), s.State == Done, own)
		}
	})
}

func TestTheOrderOfRecordingDoesNotMatter(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		r := someRoute(t)
		stands := func(order []int) []Status {
			marks := map[string]RecordedStatus{}
			for _, k := range order {
				s := r.Statuses(marks)[k]
				require.Equal(t, Ready, s.State)
				marks[r.Operations[k].Key] = RecordedStatus{State: Done, At: day0}
			}
			return r.Statuses(marks)
		}
		// Two orders in which the same operations can be done.
		some := r.order[:rapid.IntRange(0, len(r.order)).Draw(t, "done")]
		var other []int
		for len(other) < len(some) {
			free := slices.DeleteFunc(slices.Clone(some), func(k int) bool {
				return slices.Contains(other, k) ||
					slices.ContainsFunc(r.after[k], func(w int) bool { return !slices.Contains(other, w) })
			})
			other = append(other, rapid.SampledFrom(free).Draw(t, "next"))
		}
		assert.Equal(t, stands(some), stands(other))
	})
}

func TestACycleIsAlwaysRefusedAndNamed(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		r := someRoute(t)
		ops := slices.Clone(r.Operations)
		k := rapid.SampledFrom(r.order).Draw(t, "from")
		behind := []int{k}
		for n, is := range r.behind(k) {
			if is {
				behind = append(behind, n)
			}
		}
		ops[k].Name = "the first"
		to := rapid.SampledFrom(behind).Draw(t, "to")
		ops[k].After = append(slices.Clone(ops[k].After), ops[to].Key)
		refused, faults := New(ops, nil)
		assert.Nil(t, refused)
		require.Len(t, faults, 1)
		assert.Equal(t, "after", faults[0].Field)
		assert.Contains(t, faults[0].Message, "wait for each other")
		assert.Contains(t, faults[0].Message, "the first", "the ring goes through what closed it")
	})
}

func TestWhatCannotBeARouteIsToldAtItsPlace(t *testing.T) {
	_, faults := New([]Operation{
		{Key: "a", Kind: Laying, Stages: []string{"s", "gone"}, Attended: -time.Minute},
		{Key: "a", Kind: Curing},
		{Key: "b", Kind: "polish", After: []string{"c", "a", "a"}},
	}, []Stage{{Key: "s", Name: "Skin"}})
	says := map[string]string{}
	for _, f := range faults {
		says[f.Key+"/"+f.Field] = f.Message
	}
	assert.Equal(t, map[string]string{
		"a/time":   "Lay up: a time is below zero",
		"a/stages": `Lay up: there is no stage "gone"`,
		"a/key":    `Cure: two operations have the key "a"`,
		"b/kind":   `"polish" is no kind of operation`,
		"b/after":  "polish waits for an operation that is not there (c)",
	}, says)
	_, faults = New(make([]Operation, MostOperations+1), nil)
	require.Len(t, faults, 1)
	assert.Contains(t, faults[0].Message, "301 operations are more than the 300")
}

// What is left out before its turn is not waited for; what it rests on is.
func TestWhatIsLeftOutPassesItsWaitingOn(t *testing.T) {
	r, faults := New([]Operation{
		{
			Key:  "a",
			Kind: Curing,
		}, {Key: "b", Kind: Demoulding, After: []string{"a"}}, {Key: "c", Kind: Trimming, After: []string{"b", "a"}},
	}, nil)
	require.Empty(t, faults)
	marks := map[string]RecordedStatus{"b": {State: LeftOut, Reason: "it has no tool"}}
	stand := r.Statuses(marks)
	assert.Equal(t, LeftOut, stand[1].State)
	assert.Equal(t, []string{"waits for Cure"}, stand[2].Reasons)
	marks["a"] = RecordedStatus{State: Done}
	assert.Equal(t, Ready, r.Statuses(marks)[2].State)
}

func TestAReworkWaitsAndReopensNothingSilently(t *testing.T) {
	w, _ := FindTemplate(OnePass)
	r, faults := New(w.Route([]Stage{{Key: "s", Kind: "skin"}}), []Stage{{Key: "s", Kind: "skin"}})
	require.Empty(t, faults)
	marks := map[string]RecordedStatus{}
	for _, key := range []string{"prepare tool", "cut", "kit", "lay", "close", "cure", "demould"} {
		marks[key] = RecordedStatus{State: Done, At: day0}
	}
	sand := Operation{Key: "rework 1", Kind: Sanding, Name: "Pit sanded and filled", After: []string{"demould"}}
	with, faults := r.With([]Operation{sand}, map[string][]string{"rework 1": {"trim"}}, marks)
	require.Empty(t, faults)
	stand := with.Statuses(marks)
	at := func(key string) Status { return stand[with.at[key]] }
	assert.Equal(t, Ready, at("rework 1").State)
	assert.Equal(t, []string{"waits for Pit sanded and filled"}, at("trim").Reasons)
	assert.Equal(t, Done, at("demould").State)
	assert.Len(t, r.Operations, 10, "the route of the others is as it was")
	_, faults = r.With([]Operation{sand}, map[string][]string{"rework 1": {"cure"}}, marks)
	require.Len(t, faults, 1)
	assert.Equal(t, "Cure is done already: take it back first, or let what comes next wait", faults[0].Message)
	sand.After = []string{"release"}
	_, faults = r.With([]Operation{sand}, map[string][]string{"rework 1": {"trim"}}, marks)
	require.Len(t, faults, 1)
	assert.Contains(t, faults[0].Message, "wait for each other")
}

// The critical path as general-purpose graph code finds it: a shortest path with the
// lengths negative (gonum.org/v1/gonum/graph/path, Bellman and Ford).
func TestTheLongestWayIsThatOfAGraphLibrary(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		r := someRoute(t)
		times, end := r.Plan(day0, time.Time{}, nil, nil)
		g := simple.NewWeightedDirectedGraph(0, 0)
		n := int64(len(r.Operations))
		g.AddNode(simple.Node(n))
		for k, o := range r.Operations {
			g.SetWeightedEdge(g.NewWeightedEdge(simple.Node(n), simple.Node(k), 0))
			g.SetWeightedEdge(g.NewWeightedEdge(simple.Node(k), simple.Node(n+1+int64(k)), -o.Takes().Minutes()))
			for _, w := range r.after[k] {
				g.SetWeightedEdge(g.NewWeightedEdge(simple.Node(n+1+int64(w)), simple.Node(k), 0))
			}
		}
		tree, ok := path.BellmanFordFrom(simple.Node(n), g)
		require.True(t, ok)
		longest := 0.0
		for k := range r.Operations {
			assert.InDelta(t, -tree.WeightTo(n+1+int64(k)), times[k].End.Sub(day0).Minutes(), 1e-9)
			longest = max(longest, -tree.WeightTo(n+1+int64(k)))
		}
		assert.InDelta(t, longest, end.Sub(day0).Minutes(), 1e-9)
		assert.True(t, slices.ContainsFunc(times, func(x Times) bool { return x.Longest }))
	})
}

// A worked example of the critical path method: the building contract in the chapter on
// project management of F. S. Hillier and G. J. Lieberman, Introduction to Operations
// Research; figures from memory. Weeks are hours here.
func TestAPublishedExampleOfTheCriticalPath(t *testing.T) {
	var ops []Operation
	for _, a := range []struct {
		key   string
		takes int
		after string
	}{
		{"A", 2, ""}, {"B", 4, "A"}, {"C", 10, "B"}, {"D", 6, "C"}, {"E", 4, "C"}, {"F", 5, "E"}, {"G", 7, "D"},
		{"H", 9, "EG"},
		{"I", 7, "C"}, {"J", 8, "FI"}, {"K", 4, "J"}, {"L", 5, "J"}, {"M", 2, "H"}, {"N", 6, "KL"},
	} {
		ops = append(ops, Operation{
			Key: a.key, Kind: Laying, Attended: time.Duration(a.takes) * time.Hour,
			After: strings.Split(a.after, "")[:len(a.after)],
		})
	}
	r, faults := New(ops, nil)
	require.Empty(t, faults)
	due := day0.Add(44 * time.Hour)
	times, end := r.Plan(day0, due, nil, nil)
	assert.Equal(t, due, end)
	longest, slack := "", map[string]float64{}
	for k, x := range times {
		if x.Longest {
			longest += ops[k].Key
		} else {
			slack[ops[k].Key] = x.LatestStart.Sub(x.Start).Hours()
		}
		assert.Empty(t, x.Tight)
	}
	assert.Equal(t, "ABCEFJLN", longest)
	assert.Equal(t, map[string]float64{"D": 4, "G": 4, "H": 4, "I": 2, "K": 1, "M": 4}, slack)
}

func TestTimesFollowWhatIsRecorded(t *testing.T) {
	r, faults := New([]Operation{
		{Key: "kit", Kind: Kitting, Attended: time.Hour, Stages: []string{"s"}},
		{Key: "lay", Kind: Laying, Attended: 4 * time.Hour, After: []string{"kit"}, Stages: []string{"s"}},
		{Key: "cure", Kind: Curing, Unattended: 5 * time.Hour, After: []string{"lay"}, Stages: []string{"s"}},
	}, []Stage{{Key: "s", Name: "Skin", Kind: "skin"}, {Key: "t", Name: "Other", Kind: "skin"}})
	require.Empty(t, faults)
	marks := map[string]RecordedStatus{
		"kit": {State: Done, At: day0.Add(-time.Hour)},
		"lay": {State: InWork, At: day0.Add(-90 * time.Minute)},
	}
	times, end := r.Plan(day0, time.Time{}, marks, nil)
	assert.Equal(t, day0.Add(-time.Hour), times[0].End)
	assert.Equal(t, day0.Add(150*time.Minute), times[1].End, "4 h, begun 1 h 30 ago")
	assert.Equal(t, day0.Add(450*time.Minute), end)
	assert.True(t, times[2].LatestStart.IsZero(), "no day is given")
	// The day, and a material that is spent before.
	delete(marks, "lay")
	times, _ = r.Plan(day0, day0.Add(8*time.Hour), marks, map[string]Limit{
		"lay": {Until: day0.Add(3 * time.Hour), What: "the tack of kit 2"},
	})
	assert.Equal(t, []string{"the tack of kit 2 ends 1 h before Lay up Skin can be over"}, times[1].Tight)
	assert.Equal(t, []string{"Cure Skin can start 1 h too late"}, times[2].Tight)
	// Long in work is over at once, not in the past.
	marks["lay"] = RecordedStatus{State: InWork, At: day0.Add(-9 * time.Hour)}
	times, _ = r.Plan(day0, time.Time{}, marks, nil)
	assert.Equal(t, day0, times[1].End)
	assert.Equal(t, day0, times[2].Start)
	// Held: it takes what it takes from now on.
	marks["lay"] = RecordedStatus{State: Held, At: day0.Add(-9 * time.Hour), Reason: "a fold"}
	assert.Equal(t, Held, r.Statuses(marks)[1].State)
	times, _ = r.Plan(day0, time.Time{}, marks, nil)
	assert.Equal(t, day0.Add(4*time.Hour), times[1].End)
}

// sixty is a route of 60 operations, half of them done, each waiting for the three before.
func sixty() ([]Operation, map[string]RecordedStatus) {
	ops := make([]Operation, 60)
	marks := map[string]RecordedStatus{}
	for k := range ops {
		ops[k] = Operation{Key: fmt.Sprint(k), Kind: Laying, Attended: time.Hour}
		for w := max(0, k-3); w < k; w++ {
			ops[k].After = append(ops[k].After, fmt.Sprint(w))
		}
		if k < 30 {
			marks[fmt.Sprint(k)] = RecordedStatus{State: Done, At: day0}
		}
	}
	return ops, marks
}

// Readiness of a build of 60 operations, from what its document and its records say.
func BenchmarkReadiness60(b *testing.B) {
	ops, marks := sixty()
	for b.Loop() {
		r, _ := New(ops, nil)
		r.Statuses(marks)
	}
}

func BenchmarkTimes60(b *testing.B) {
	ops, marks := sixty()
	r, _ := New(ops, nil)
	for b.Loop() {
		r.Plan(day0, day0.Add(100*time.Hour), marks, nil)
	}
}

// What is in work takes as long as is left of it: a lay of 8 h that began a minute ago has 7 h 59 left, a cure that
// runs is not over because it runs, and ends when its run will, where that is known.
func TestWhatIsInWorkHasTimeLeft(t *testing.T) {
	stages := []Stage{{Key: "a", Name: "A"}}
	r, faults := New([]Operation{
		{Key: "lay", Kind: Laying, Stages: []string{"a"}, Attended: 8 * time.Hour},
		{Key: "close", Kind: Closing, Stages: []string{"a"}, After: []string{"lay"}, Attended: time.Hour},
		{Key: "cure", Kind: Curing, Stages: []string{"a"}, After: []string{"close"}, Unattended: 5 * time.Hour},
	}, stages)
	require.Empty(t, faults)
	now := time.Date(2026, 5, 1, 8, 0, 0, 0, time.UTC)
	began := now.Add(-2 * time.Hour)
	times, end := r.Plan(now, time.Time{}, map[string]RecordedStatus{"lay": {State: InWork, At: began}}, nil)
	assert.Equal(t, began, times[0].Start)
	assert.Equal(t, 6*time.Hour, times[1].Start.Sub(now))
	assert.Equal(t, 12*time.Hour, end.Sub(now))
	times, _ = r.Plan(now, time.Time{}, map[string]RecordedStatus{
		"lay": {State: InWork, At: now.Add(-time.Minute)},
	}, nil)
	assert.Equal(t, 7*time.Hour+59*time.Minute, times[1].Start.Sub(now))
	times, _ = r.Plan(now, time.Time{}, map[string]RecordedStatus{"lay": {State: InWork}}, nil)
	assert.Equal(t, 8*time.Hour, times[1].Start.Sub(now), "nobody knows since when: all of it is left")

	cured := map[string]RecordedStatus{
		"lay": {State: Done, At: now.Add(-3 * time.Hour)}, "close": {State: Done, At: now.Add(-2 * time.Hour)},
		"cure": {State: InWork, At: now.Add(-time.Hour)},
	}
	times, end = r.Plan(now, time.Time{}, cured, nil)
	assert.Equal(t, 4*time.Hour, end.Sub(now))
	assert.Equal(t, now.Add(-2*time.Hour), times[1].End, "when it was done")
	cured["cure"] = RecordedStatus{State: InWork, At: now.Add(-time.Hour), Until: now.Add(7 * time.Hour)}
	_, end = r.Plan(now, time.Time{}, cured, nil)
	assert.Equal(t, 7*time.Hour, end.Sub(now), "as its run will")
	cured["cure"] = RecordedStatus{State: InWork, At: now.Add(-9 * time.Hour), Until: now.Add(-time.Hour)}
	_, end = r.Plan(now, time.Time{}, cured, nil)
	assert.Equal(t, now, end, "it should have ended by now")
}
