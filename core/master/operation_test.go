package master

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"juxta/core/route"
)

func number(v float64) *float64 { return &v }

// sandwich is a document of three stages with the route of a way.
func sandwich(t *testing.T, way string) Document {
	t.Helper()
	d := Document{Format: Format, Outlines: []Outline{}, Stages: []Stage{
		{
			Key:   "a",
			Name:  "First skin",
			Kind:  "skin",
			Items: []Item{},
		}, {Key: "b", Name: "Core", Kind: "core", Items: []Item{}},
		{Key: "c", Name: "Second skin", Kind: "second skin", Items: []Item{}},
	}}
	w, known := route.FindTemplate(way)
	require.True(t, known)
	d.Route = d.Made(w)
	return d
}

func TestADocumentWithoutARouteIsReadAsOnePass(t *testing.T) {
	d := sandwich(t, route.OnePass)
	plain := d.Route
	d.Route, d.Format = nil, FormatOne
	assert.Equal(t, plain, d.Operations())
	assert.Empty(t, d.Check(nil), "edition 1 still reads")
	kinds := []string{}
	r, faults := d.Ordered()
	require.Empty(t, faults)
	for _, k := range r.Order() {
		kinds = append(kinds, string(r.Operations[k].Kind))
	}
	assert.Equal(t, []string{
		"prepare tool", "cut", "kit", "lay", "close", "cure", "demould", "trim", "inspect", "release",
	}, kinds)
	assert.Equal(t, Format, d.Normal().Format, "what is written is of the present edition")
	d.Route = plain
	require.Len(t, d.Check(nil), 1)
	assert.Contains(t, d.Check(nil)[0].Message, `"juxta master 1" has no route`)
	assert.Empty(t, Document{}.Operations(), "nothing is done to nothing")
}

func TestFaultsOfARouteAreToldAtTheirOperation(t *testing.T) {
	for says, spoil := range map[string]func(o *Operation){
		"a time is below zero":                         func(o *Operation) { o.Attended = -60 },
		"every figure must be a number":                func(o *Operation) { o.Below = math.NaN() },
		`"dance" is no kind of operation`:              func(o *Operation) { o.Kind = "dance" },
		`there is no stage "z"`:                        func(o *Operation) { o.Stages = []string{"z"} },
		"waits for an operation that is not there (z)": func(o *Operation) { o.After = []string{"z"} },
		"these wait for each other, so none can begin": func(o *Operation) { o.After = append(o.After, "release") },
		"only a demould waits for the part to cool":    func(o *Operation) { o.Below = 330 },
		"only a bond has parts from elsewhere":         func(o *Operation) { o.Adherends = []string{"fitting"} },
		`two fields have the key "f"`: func(o *Operation) {
			o.Fields = []Field{{Key: "f", Name: "a", Kind: "text"}, {Key: "f", Name: "b", Kind: "text"}}
		},
		"say what field 1 records": func(o *Operation) { o.Fields = []Field{{Key: "f", Name: " ", Kind: "text"}} },
		"a field is one of value, choice, " +
			"text": func(o *Operation) { o.Fields = []Field{{Key: "f", Name: "a", Kind: "song"}} },
		"a needs two choices or more": func(o *Operation) {
			o.Fields = []Field{{Key: "f", Name: "a", Kind: "choice", Choices: []string{"yes"}}}
		},
		"a is no value, so it has no " +
			"limits": func(o *Operation) { o.Fields = []Field{{Key: "f", Name: "a", Kind: "text", Most: number(1)}} },
		"the minimum of a is above its maximum": func(o *Operation) {
			o.Fields = []Field{{Key: "f", Name: "a", Kind: "value", Least: number(2), Most: number(1)}}
		},
		"only a product has a pot " +
			"life": func(o *Operation) { o.Fields = []Field{{Key: "f", Name: "a", Kind: "value", Pot: 60}} },
	} {
		d := sandwich(t, "sandwich, three cures")
		require.Empty(t, d.Check(nil))
		spoil(&d.Route[2])
		faults := d.Check(nil)
		require.Len(t, faults, 1, says)
		assert.Contains(t, faults[0].Message, says)
		assert.Equal(t, faults, d.RouteFaults())
		if d.Route[2].Kind != "dance" && says[:4] != "thes" {
			assert.Equal(t, d.Route[2].Key, faults[0].Key, says)
		}
	}
	d := sandwich(t, route.OnePass)
	d.Stages[0].Cavity = 1e-3
	require.Len(t, d.Check(nil), 1)
	assert.Equal(t, "only an injection has a cavity and an amount of resin", d.Check(nil)[0].Message)
}

func TestRoutesAreHeldAgainstEachOther(t *testing.T) {
	before, after := sandwich(t, "sandwich, one cure"), sandwich(t, "sandwich, one cure")
	for _, c := range RouteDifference(before, after) {
		assert.False(t, c.Differs())
	}
	// The order of a set says nothing.
	k := len(after.Route) - 5 // the cure
	after.Route[k].Stages = []string{"c", "b", "a"}
	after.Route[0].Name, after.Route[0].Attended = "Tool waxed", 1800
	after.Route = append(after.Route[:1], after.Route[2:]...) // the first cut is gone
	after.Route = append(after.Route, Operation{Key: "mark", Kind: "mark", After: []string{"trim"}})
	changes := map[string][]string{}
	for _, c := range RouteDifference(before, after) {
		switch {
		case c.Was == nil:
			changes[c.Is.Key] = []string{"new"}
		case c.Is == nil:
			changes[c.Was.Key] = []string{"gone"}
		case c.Differs():
			changes[c.Is.Key] = c.Fields
		}
	}
	assert.Equal(t, map[string][]string{
		"prepare tool": {"attended", "name"}, "cut a": {"gone"}, "mark": {"new"},
	}, changes)
	// Against a document that had none: the one pass that it was read as.
	before.Route = nil
	gone := 0
	for _, c := range RouteDifference(before, sandwich(t, "sandwich, three cures")) {
		if c.Is == nil {
			gone++
		}
	}
	assert.Equal(t, 5, gone, "cut, kit, lay, close and cure of all as one")
}

func TestTwoPlannersChangeOneRoute(t *testing.T) {
	base := sandwich(t, "sandwich, three cures")
	mine, theirs := sandwich(t, "sandwich, three cures"), sandwich(t, "sandwich, three cures")
	mine.Route[0].Place, theirs.Route[3].Attended = "bench 2", 7200
	both, conflicts := Merge(base, theirs, mine)
	require.Empty(t, conflicts)
	assert.Equal(t, "bench 2", both.Route[0].Place)
	assert.Equal(t, 7200.0, both.Route[3].Attended)
	theirs.Route[0].Place = "bench 3"
	_, conflicts = Merge(base, theirs, mine)
	require.Len(t, conflicts, 1)
	assert.Contains(t, conflicts[0], `operation "prepare tool"`)
}
