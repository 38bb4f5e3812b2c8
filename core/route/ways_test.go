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
	for _, w := range Ways {
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
	assert.Len(t, Ways, 11)
}

// The stages that each way is meant for.
func TestTheWaysFindNothingWrongWithWhatTheyAreMeantFor(t *testing.T) {
	of := func(kinds ...StageKind) []Stage {
		var out []Stage
		for k, kind := range kinds {
			out = append(out, Stage{Key: fmt.Sprintf("s%d", k), Name: fmt.Sprintf("%s %d", kind, k), Kind: kind})
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
		w, known := FindWay(key)
		require.True(t, known, key)
		require.Empty(t, w.Fits(stages), key)
		r, faults := New(w.Route(stages), stages)
		require.Empty(t, faults, key)
		assert.Empty(t, r.Check(), key)
		// Whoever does what is ready comes to the end.
		marks := map[string]Mark{}
		for range r.Operations {
			k := slices.IndexFunc(r.Stand(marks), func(s Standing) bool { return s.State == Ready })
			require.GreaterOrEqual(t, k, 0, key)
			marks[r.Operations[k].Key] = Mark{State: Done, At: day0}
		}
	}
	_, known := FindWay("by magic")
	assert.False(t, known)
	three, _ := FindWay("sandwich, three cures")
	assert.Equal(t, "no stage is a core", three.Fits(of("skin")))
	assert.Equal(t, "the master has no stage yet", three.Fits(nil))
}

// Pre-forms are laid by several people at once: none waits for another.
func TestPreformsWaitForNothingButTheirOwnKits(t *testing.T) {
	stages := []Stage{{"a", "Left", Preform}, {"b", "Right", Preform}, {"c", "Bridge", Preform}}
	w, _ := FindWay("hollow part")
	r, _ := New(w.Route(stages), stages)
	marks := map[string]Mark{}
	for _, s := range stages {
		marks["cut "+s.Key], marks["kit "+s.Key] = Mark{State: Done, At: day0}, Mark{State: Done, At: day0}
	}
	ready := 0
	for k, s := range r.Stand(marks) {
		if r.Operations[k].Kind == Laying {
			assert.Equal(t, Ready, s.State)
			ready++
		}
	}
	assert.Equal(t, 3, ready)
	marks["lay a"] = Mark{State: Done, At: day0}
	join := r.Stand(marks)[r.at["join"]]
	assert.Equal(t, []string{"waits for lay of Right", "waits for lay of Bridge", "waits for prepare tool"}, join.Says)
}

func TestWhatAPlannerShouldLookAt(t *testing.T) {
	stages := []Stage{{"a", "Left", Preform}, {"b", "Right", Preform}, {"c", "Joint", Bond}}
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
		"never cured": {[]Operation{op(Laying, all), op(Releasing, nil, "lay")}, "the stage Left is never cured after " +
			"it is laid"},
		"never joined": {
			[]Operation{op(Laying, all), op(Curing, all, "lay"), op(Releasing, nil, "cure")},
			"the pre-form Left is cured together with other stages and never joined to them",
		},
		"orphan": {[]Operation{op(Sanding, nil), op(Releasing, nil)}, "sand: the release does not wait for it"},
		"kit before cut": {
			[]Operation{op(Kitting, all), op(Releasing, nil, "kit")}, "kit of Left, Right: the cut of Left, Right comes first",
		},
		"lay before kit": {
			[]Operation{op(Cutting, all), op(Laying, all, "cut"), op(Releasing, nil, "lay")},
			"lay of Left, Right: the kit of Left, Right comes first",
		},
		"cure before close": {
			[]Operation{op(Closing, []string{"a"}), op(Curing, all, "close"), op(Releasing, nil, "cure")},
			"cure of Left, Right: the close of Right comes first",
		},
		"demould before cure": {
			[]Operation{op(Demoulding, nil), op(Releasing, nil, "demould")}, "demould: a cure comes first",
		},
		"bond without adherend": {
			[]Operation{op(Curing, all), op(Bonding, []string{"c"}, "cure"), op(Releasing, nil, "bond")},
			"bond of Joint: a bond joins two things; it has 1, of stages that are cured before it and what comes from elsewhere",
		},
		"finish in the tool": {
			[]Operation{op(Curing, all), op(Trimming, nil, "cure"), op(Releasing, nil, "trim")}, "trim: the part is still " +
				"in its tool",
		},
		"post-cure in the tool": {
			[]Operation{op(PostCuring, all), op(Releasing, nil, "post-cure")},
			"post-cure of Left, Right: the demould of Left, Right comes first",
		},
		"no stage": {[]Operation{op(Curing, nil), op(Releasing, nil, "cure")}, "cure is about no stage of the master"},
		"join before " +
			"lay": {[]Operation{op(Joining, all), op(Releasing, nil, "join")}, "join of Left, Right: the lay of Left, Right " +
			"comes first"},
		"inject before close": {
			[]Operation{op(Injecting, all), op(Releasing, nil, "inject")},
			"inject of Left, Right: the close of Left, Right comes first",
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
				found = append(found, f.Says)
			}
		}
		assert.Contains(t, found, c.says, rule)
	}
	r, _ := New(nil, stages)
	assert.Empty(t, r.Check(), "a route that is not begun is not faulty")
}

// A build that walks one pass has done what the rooms before its own do.
func TestABuildInARoomHasDoneWhatTheRoomsBeforeItDo(t *testing.T) {
	stages := []Stage{{"s", "Skin", "skin"}}
	w, _ := FindWay(OnePass)
	r, _ := New(w.Route(stages), stages)
	states := func(at Room, signed map[string]Mark) map[State][]string {
		out := map[State][]string{}
		for k, s := range r.Stand(r.Walked(at, signed)) {
			out[s.State] = append(out[s.State], r.Operations[k].Key)
		}
		return out
	}
	assert.Equal(t, []string{"prepare tool", "cut"}, states(Cut, nil)[Ready])
	assert.Equal(t, []string{"cut", "kit"}, states(Layup, nil)[Done])
	assert.Equal(t, []string{"waits for prepare tool"}, r.Stand(r.Walked(Layup, nil))[r.at["lay"]].Says)
	inCure := states(Cure, nil)
	assert.Equal(t, []string{"prepare tool"}, inCure[LeftOut], "it was laid on")
	assert.Equal(t, []string{"cut", "kit", "lay", "close"}, inCure[Done])
	assert.Equal(t, []string{"cure"}, inCure[Ready])
	prepared := map[string]Mark{"prepare tool": {State: Done, By: "Ines", At: day0}}
	assert.Equal(t, []string{"demould"}, states(Release, prepared)[Ready])
	assert.Contains(t, states(Release, prepared)[Done], "prepare tool")
	assert.Equal(t, []string{"prepare tool", "cut"}, states(Ended, nil)[Ready], "nothing follows from where it ended")
}
