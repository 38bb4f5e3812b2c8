package route

import (
	"fmt"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

func someStages(t *rapid.T) []Stage {
	var stages []Stage
	for k := range rapid.IntRange(1, 6).Draw(t, "stages") {
		kind := rapid.SampledFrom([]StageKind{
			"skin", "core", "second skin", Preform, "co-cure", Bond, "over-wrap", "wet layup", Injection,
		}).Draw(t, "kind")
		stages = append(stages, Stage{Key: fmt.Sprintf("s%d", k), Kind: kind})
	}
	return stages
}

// Whatever stages a way fits, the route that it makes can be walked, and has nothing that
// a planner would have to look at but what the stages themselves bring.
func TestEveryWayMakesASoundRouteOfStagesThatFit(t *testing.T) {
	for _, w := range Templates {
		fitted := 0
		rapid.Check(t, func(t *rapid.T) {
			stages := someStages(t)
			if w.Fits(stages) != "" {
				return
			}
			fitted++
			ops := w.Route(stages)
			r, faults := New(ops, stages)
			require.Empty(t, faults, w.Key)
			for _, o := range ops {
				assert.Positive(t, o.Takes(), "%s: %s takes no time", w.Key, o.Key)
				assert.LessOrEqual(t, len(o.Key), 40)
			}
			assert.Equal(t, Releasing, ops[r.order[len(r.order)-1]].Kind)
			assert.Equal(t, ops, w.Route(stages), "the same stages make the same route")
		})
		assert.Positive(t, fitted, w.Key)
		for _, says := range []string{w.Why, w.Differs, w.Life} {
			assert.Greater(t, len(says), 30, w.Key)
		}
	}
	assert.Len(t, Templates, 11)
}

// The stages that each way is meant for.
func TestTheWaysFindNothingWrongWithWhatTheyAreMeantFor(t *testing.T) {
	of := func(kinds ...StageKind) []Stage {
		var out []Stage
		for k, kind := range kinds {
			s := Stage{Key: fmt.Sprintf("s%d", k), Name: fmt.Sprintf("%s %d", kind, k), Kind: kind}
			if kind == Injection {
				s.Cavity, s.Resin = 1e-3, 0.4
			}
			out = append(out, s)
		}
		return out
	}
	for key, stages := range map[string][]Stage{
		OnePass:                 of("skin"),
		"sandwich, one cure":    of("skin", "core", "second skin"),
		"sandwich, three cures": of("skin", "core", "second skin"),
		"rolled tube":           of(Preform),
		"long section":          of("skin", "co-cure"),
		"half tools":            of("skin", "skin", Bond),
		"hollow part":           of(Preform, Preform, Preform, "co-cure"),
		"bonded joints":         of(Preform, Bond, "over-wrap"),
		"injected":              of("core", Injection),
		"wet layup":             of("wet layup"),
		"trial panel":           of("skin"),
	} {
		w, known := FindTemplate(key)
		require.True(t, known, key)
		require.Empty(t, w.Fits(stages), key)
		r, faults := New(w.Route(stages), stages)
		require.Empty(t, faults, key)
		assert.Empty(t, r.Check(), key)
		// Whoever does what is ready comes to the end.
		marks := map[string]RecordedStatus{}
		for range r.Operations {
			k := slices.IndexFunc(r.Statuses(marks), func(s Status) bool { return s.State == Ready })
			require.GreaterOrEqual(t, k, 0, key)
			marks[r.Operations[k].Key] = RecordedStatus{State: Done, At: day0}
		}
	}
	_, known := FindTemplate("by magic")
	assert.False(t, known)
	three, _ := FindTemplate("sandwich, three cures")
	assert.Equal(t, "no stage is a core", three.Fits(of("skin")))
	assert.Equal(t, "the master has no stage yet", three.Fits(nil))
}

// Pre-forms are laid by several people at once: none waits for another.
func TestPreformsWaitForNothingButTheirOwnKits(t *testing.T) {
	stages := []Stage{
		{Key: "a", Name: "Left", Kind: Preform},
		{Key: "b", Name: "Right", Kind: Preform},
		{Key: "c", Name: "Bridge", Kind: Preform},
	}
	w, _ := FindTemplate("hollow part")
	r, _ := New(w.Route(stages), stages)
	marks := map[string]RecordedStatus{}
	for _, s := range stages {
		marks["cut "+s.Key], marks["kit "+s.Key] = RecordedStatus{
			State: Done,
			At:    day0,
		}, RecordedStatus{
			State: Done,
			At:    day0,
		}
	}
	ready := 0
	for k, s := range r.Statuses(marks) {
		if r.Operations[k].Kind == Laying {
			assert.Equal(t, Ready, s.State)
			ready++
		}
	}
	assert.Equal(t, 3, ready)
	marks["lay a"] = RecordedStatus{State: Done, At: day0}
	join := r.Statuses(marks)[r.at["join"]]
	assert.Equal(
		t,
		[]string{"waits for Lay up Right", "waits for Lay up Bridge", "waits for Prepare tool"},
		join.Reasons,
	)
}

func TestWhatAPlannerShouldLookAt(t *testing.T) {
	stages := []Stage{
		{Key: "a", Name: "Left", Kind: Preform},
		{Key: "b", Name: "Right", Kind: Preform},
		{Key: "c", Name: "Joint", Kind: Bond},
	}
	all := []string{"a", "b"}
	op := func(kind Kind, of []string, after ...string) Operation {
		return Operation{Key: string(kind), Kind: kind, Stages: of, After: after, Attended: time.Minute}
	}
	for rule, c := range map[string]struct {
		ops  []Operation
		says string
	}{
		"no release": {[]Operation{op(Cutting, all)}, "no operation releases the part: a route ends with a release"},
		"never laid": {[]Operation{op(Releasing, nil)}, "no operation makes the stage Left"},
		"never cured": {[]Operation{op(Laying, all), op(Releasing, nil, "lay")},
			"the stage Left is never cured after it is laid"},
		"never joined": {
			[]Operation{op(Laying, all), op(Curing, all, "lay"), op(Releasing, nil, "cure")},
			"the pre-form Left is cured together with other stages and never joined to them",
		},
		"orphan": {[]Operation{op(Sanding, nil), op(Releasing, nil)}, "Sand: the release does not wait for it"},
		"kit before cut": {
			[]Operation{op(Kitting, all), op(Releasing, nil, "kit")},
			"Kit Left, Right: Cut Left, Right has to come first",
		},
		"lay before kit": {
			[]Operation{op(Cutting, all), op(Laying, all, "cut"), op(Releasing, nil, "lay")},
			"Lay up Left, Right: Kit Left, Right has to come first",
		},
		"cure before close": {
			[]Operation{op(Closing, []string{"a"}), op(Curing, all, "close"), op(Releasing, nil, "cure")},
			"Cure Left, Right: Bag Right has to come first",
		},
		"demould before cure": {
			[]Operation{op(Demoulding, nil), op(Releasing, nil, "demould")}, "Demould: Cure has to come first",
		},
		"bond without adherend": {
			[]Operation{op(Curing, all), op(Bonding, []string{"c"}, "cure"), op(Releasing, nil, "bond")},
			"Bond Joint: a bond joins two things; it has 1, of stages that are cured before it and what comes " +
				"from elsewhere",
		},
		"finish in the tool": {
			[]Operation{op(Curing, all), op(Trimming, nil, "cure"), op(Releasing, nil, "trim")},
			"Trim: the part is still in its tool",
		},
		"post-cure in the tool": {
			[]Operation{op(PostCuring, all), op(Releasing, nil, "post-cure")},
			"Post-cure Left, Right: Demould Left, Right has to come first",
		},
		"no stage": {[]Operation{op(Curing, nil), op(Releasing, nil, "cure")}, "Cure names no stage of the master"},
		"join before lay": {[]Operation{op(Joining, all), op(Releasing, nil, "join")},
			"Join Left, Right: Lay up Left, Right has to come first"},
		"inject before close": {
			[]Operation{op(Injecting, all), op(Releasing, nil, "inject")},
			"Inject Left, Right: Bag Left, Right has to come first",
		},
		"two releases": {
			[]Operation{op(Releasing, nil), {Key: "again", Kind: Releasing, After: []string{"release"}}},
			"2 operations release the part: one decides",
		},
	} {
		r, faults := New(c.ops, stages)
		require.Empty(t, faults, rule)
		var found []string
		for _, f := range r.Check() {
			if f.Rule == rule {
				found = append(found, f.Message)
			}
		}
		assert.Contains(t, found, c.says, rule)
	}
	r, _ := New(nil, stages)
	assert.Empty(t, r.Check(), "a route that is not begun is not faulty")
}

// The plies that close a joint are laid at the join; those of pre-forms at their own lay.
func TestWhatIsLaidWhere(t *testing.T) {
	stages := []Stage{
		{Key: "a", Name: "Top", Kind: Preform},
		{Key: "b", Name: "Bottom", Kind: Preform},
		{Key: "w", Name: "Closing wrap", Kind: "co-cure"},
	}
	w, _ := FindTemplate("hollow part")
	r, faults := New(w.Route(stages), stages)
	require.Empty(t, faults)
	for k, o := range r.Operations {
		switch o.Key {
		case "join":
			assert.Equal(t, []string{"w"}, r.Lays(k))
			assert.Equal(t, []string{"a", "b"}, r.Joins(k))
		case "lay a":
			assert.Equal(t, []string{"a"}, r.Lays(k))
			assert.Empty(t, r.Joins(k))
		case "close":
			assert.Empty(t, r.Lays(k))
		}
	}
}

// A run begins with the least degree of cure that any of its stages has from the runs
// before it.
func TestARunGoesOnFromTheRunsBeforeIt(t *testing.T) {
	stages := []Stage{{Key: "a"}, {Key: "b"}}
	r, faults := New([]Operation{
		{Key: "one", Kind: Curing, Stages: []string{"a"}},
		{Key: "two", Kind: Curing, Stages: []string{"a", "b"}, After: []string{"one"}},
		{Key: "post", Kind: PostCuring, Stages: []string{"a", "b"}, After: []string{"two"}, Heated: true},
		{Key: "signed", Kind: PostCuring, Stages: []string{"a"}, After: []string{"post"}},
		{Key: "late", Kind: PostCuring, Stages: []string{"a", "b"}, After: []string{"signed"}, Heated: true},
		{Key: "all", Kind: PostCuring, After: []string{"late"}, Heated: true},
	}, stages)
	require.Empty(t, faults)
	left := map[string]float64{"one": 0.9, "two": 0.8, "post": 0.95, "signed": 1}
	begun := func(k int) float64 { return r.Begun(k, func(k int) float64 { return left[r.Operations[k].Key] }) }
	assert.Zero(t, begun(0))
	assert.Zero(t, begun(1), "the second stage is fresh")
	assert.Equal(t, 0.8, begun(2))
	assert.Equal(t, 0.95, begun(4), "what is signed for itself has no run")
	assert.Equal(t, 0.95, begun(5), "it names no stage: it is about all")
	assert.True(t, r.Before(4, 0))
	assert.False(t, r.Before(0, 4))
	assert.Equal(t, []Room{Cure, Cure, Cure}, []Room{
		r.Operations[0].Room(), r.Operations[2].Room(), r.Operations[3].Room(),
	})
	assert.Equal(t, []bool{false, false, true}, []bool{
		r.Operations[0].Single(), r.Operations[2].Single(), r.Operations[3].Single(),
	})
	assert.Equal(t, Bag, Operation{Kind: Debulking}.Room())
	assert.Equal(t, Cure, Operation{Kind: Debulking, Heated: true}.Room())
}

// What operations before a run have hardened lies in it and cures no more: what was only debulked, hot or not, is not
// hard,
// and a bond that sets without heat is.
func TestWhatIsHardBeforeARun(t *testing.T) {
	r, faults := New([]Operation{
		{Key: "lay", Kind: Laying, Stages: []string{"skin", "rib"}},
		{Key: "warm", Kind: Debulking, Stages: []string{"skin", "rib"}, After: []string{"lay"}, Heated: true},
		{Key: "close", Kind: Closing, Stages: []string{"skin", "rib"}, After: []string{"warm"}},
		{Key: "skin", Kind: Curing, Stages: []string{"skin"}, After: []string{"close"}},
		{Key: "rib", Kind: Curing, Stages: []string{"rib"}, After: []string{"skin"}},
		{Key: "out", Kind: Demoulding, Stages: []string{"skin", "rib"}, After: []string{"rib"}},
		{Key: "joint", Kind: Bonding, Stages: []string{"joint"}, After: []string{"out"}},
		{Key: "post", Kind: PostCuring, After: []string{"joint"}, Heated: true},
		{Key: "apart", Kind: PostCuring, Stages: []string{"rib"}, After: []string{"out"}, Heated: true},
	}, []Stage{{Key: "skin"}, {Key: "rib"}, {Key: "joint", Kind: Bond}})
	require.Empty(t, faults)
	hard := map[string][]string{}
	for k, o := range r.Operations {
		hard[o.Key] = r.Cured(k)
	}
	assert.Empty(t, hard["warm"])
	assert.Empty(t, hard["skin"], "the rib was debulked hot, and is to be cured yet")
	assert.Equal(t, []string{"skin"}, hard["rib"])
	assert.Empty(t, hard["post"], "it is about all of it")
	assert.Equal(t, []string{"skin", "rib", "joint"}, r.hard(7), "the joint set without heat")
	left := map[string]float64{"warm": 0.1, "skin": 0.9, "rib": 0.8}
	assert.Equal(
		t,
		0.8,
		r.Begun(7, func(k int) float64 { return left[r.Operations[k].Key] }),
		"of the joint no run tells",
	)
	assert.Equal(t, 0.1, r.Begun(3, func(k int) float64 { return left[r.Operations[k].Key] }))
	assert.Equal(t, []string{"skin"}, hard["apart"], "it is not about the joint, nor after it")
}

// A cavity does not take more resin than its volume holds, and a planner says how much it
// takes.
func TestAnInjectionIsHeldAgainstItsCavity(t *testing.T) {
	found := func(cavity, resin float64) (rules []string) {
		stages := []Stage{{Key: "i", Name: "Sleeve", Kind: Injection, Cavity: cavity, Resin: resin}}
		r, faults := New([]Operation{
			{Key: "close", Kind: Closing, Stages: []string{"i"}},
			{Key: "inject", Kind: Injecting, Stages: []string{"i"}, After: []string{"close"}},
			{Key: "release", Kind: Releasing, After: []string{"inject"}},
		}, stages)
		require.Empty(t, faults)
		for _, f := range r.Check() {
			rules = append(rules, f.Rule)
		}
		return rules
	}
	assert.Empty(t, found(1e-3, 1.2))
	assert.Equal(t, []string{"more resin than room"}, found(1e-3, 1.4))
	assert.Equal(t, []string{"no resin amount"}, found(1e-3, 0))
}

func TestWhatIsWaitedForIsOneSentence(t *testing.T) {
	assert.Empty(t, WaitReason(nil))
	assert.Equal(t, "waits for Kit", WaitReason([]string{"waits for Kit"}))
	assert.Equal(
		t,
		"waits for Kit, tool and Join",
		WaitReason([]string{"waits for Kit", "waits for tool", "waits for Join"}),
	)
}
