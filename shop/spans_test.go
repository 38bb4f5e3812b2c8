package shop_test

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"juxta/core/master"
	"juxta/shop"
	"juxta/shop/book"
	"juxta/shop/builds"
	"juxta/shop/finish"
)

// A kit holds more than plies: each item is counted, with what it is taken from, and what
// must not be used is refused by name.
func TestAKitIsCountedByItem(t *testing.T) {
	h := open(t)
	code := h.walking(
		"sandwich, three cures",
		master.Stage{Key: "a", Name: "Skin", Kind: "skin"},
		master.Stage{
			Key:  "b",
			Name: "Core",
			Kind: "core",
		},
		master.Stage{Key: "c", Name: "Second skin", Kind: "second skin"},
	)
	by := h.as("Tilda Brandl")
	count := func(in builds.CountItem) error {
		_, err := h.CountItemOf(h.ctx, by, code, "kit b", in)
		return err
	}
	kit, err := h.Kit(h.ctx, code, "kit b")
	require.NoError(t, err)
	require.Len(t, kit.Items, 1)
	assert.Equal(t, []string{"core", "core 1", "Lattice 48 core, 4 mm"},
		[]string{kit.Items[0].Key, kit.Items[0].Label, kit.Items[0].Material})
	_, err = h.CloseKit(h.ctx, by, code, "kit b", "")
	refusal(t, err, book.Refused, "not counted yet: core 1")
	refusal(t, count(builds.CountItem{Item: "qb"}), book.Invalid, `this kit holds no item "qb"`)
	refusal(t, count(builds.CountItem{Item: "core", Aside: true}), book.Conflict, "is not counted into this kit")
	// A roll of something else, a batch that nobody accepted, and what stands on a block.
	fabric := h.received("Sable twill 200", "LOT-401", 20)
	refusal(
		t,
		count(builds.CountItem{Item: "core", From: fabric.Code}),
		book.Invalid,
		"is Sable twill 200, and this is core 1",
	)
	pending := h.roll("SU-2304")
	refusal(t, count(builds.CountItem{Item: "core", From: pending.BatchCode}), book.Refused, "is not accepted yet")
	require.NoError(t, count(builds.CountItem{Item: "core", From: " block 7 "}))
	refusal(t, count(builds.CountItem{Item: "core"}), book.Conflict, "core 1 is already counted, by Tilda Brandl")
	require.NoError(t, count(builds.CountItem{Item: "core", Aside: true}))
	require.NoError(t, count(builds.CountItem{Item: "core", From: "block 8"}))
	kit, err = h.CloseKit(h.ctx, by, code, "kit b", "tray 12")
	require.NoError(t, err)
	assert.Equal(t, []string{"tray 12", "block 8", "Tilda Brandl"},
		[]string{kit.Container, kit.Items[0].From, kit.Items[0].CountedBy})
	refusal(t, count(builds.CountItem{Item: "core", Aside: true}), book.Conflict, "already counted and closed")
	thread, err := h.ThreadOfBuild(h.ctx, code)
	require.NoError(t, err)
	require.Len(t, thread.Kit.Items, 1)
	assert.Equal(t, "block 8", thread.Kit.Items[0].From)
	_, err = h.CountItemOf(h.ctx, by, h.build("0003").Code, "", builds.CountItem{Item: "core"})
	refusal(t, err, book.Conflict, "has no route: its kit is counted by its plies")
}

// How an operation went on the last builds stands beside its plan, and the day of the shop by
// place tells what was done, what goes on and what comes next.
func TestWhatWasDoneStandsBesideItsPlan(t *testing.T) {
	h := open(t)
	h.sets = func(o *master.Operation) {
		if o.Kind == "lay" {
			o.Place = "bench 2"
		}
	}
	code := h.walking("open shell", master.Stage{Key: "a", Name: "Shell", Kind: "skin"})
	part, falk := h.named("SP-25").Part.Code, h.as("Ines Falk")
	before := func(operation string) []builds.EarlierBuild {
		t.Helper()
		all, err := h.OnLastBuilds(h.ctx, part, operation)
		require.NoError(t, err)
		return all
	}
	assert.Equal(t, "ready", before("prepare tool")[0].State)
	assert.Nil(t, before("prepare tool")[0].At)
	_, err := h.StartStep(h.ctx, falk, code, finish.Step{Operation: "prepare tool"})
	require.NoError(t, err)
	h.at = h.at.Add(20 * time.Minute)
	_, err = h.HoldStep(h.ctx, falk, code, finish.StepReason{Operation: "prepare tool", Reason: "a scratch by the pin"})
	require.NoError(t, err)
	h.at = h.at.Add(5 * time.Minute)
	_, err = h.StartStep(h.ctx, falk, code, finish.Step{Operation: "prepare tool"})
	require.NoError(t, err)
	h.at = h.at.Add(10 * time.Minute)
	h.signs(code, "prepare tool")
	h.kits(code, "kit")
	bench, err := h.Layup(h.ctx, code, "lay")
	require.NoError(t, err)
	_, err = h.Sign(h.ctx, falk, code, builds.SignPly{Ply: 1, CutPly: bench.NextCut, FilmsOff: bench.Plies[0].Films})
	require.NoError(t, err)
	h.at = h.at.Add(30 * time.Minute)
	places, err := h.ShopPlaces(h.ctx)
	require.NoError(t, err)
	bars := map[string]string{}
	for _, p := range places.Places {
		for _, b := range p.Bars {
			if strings.HasSuffix(b.Label, "SP-25 · 0400") {
				bars[b.Label] = p.Name + " " + b.Kind
			}
			assert.False(t, b.To.Before(b.From))
		}
	}
	assert.Equal(t, "layup done", bars["Prepare tool, SP-25 · 0400"])
	assert.Equal(t, "bench 2 in work", bars["Lay up, SP-25 · 0400"])
	assert.Equal(t, "bag planned", bars["Bag, SP-25 · 0400"])
	for _, p := range places.Places {
		if p.Name == "bench 2" {
			assert.Equal(t, places.Now, p.Bars[0].To, "as far as now")
		}
	}
	h.lays(code, "lay")
	lay := before("lay")
	require.Len(t, lay, 1)
	assert.Equal(t, 1800.0, *lay[0].Took)
	tool := before("prepare tool")[0]
	assert.Equal(
		t,
		[]any{"done", 2100.0, []string{"a scratch by the pin"}},
		[]any{tool.State, *tool.Took, tool.Reasons},
	)
	assert.Empty(t, before("nothing of the kind"))
	wall, err := h.OnTheWall(h.ctx)
	require.NoError(t, err)
	assert.NotEmpty(t, wall.Places.Places)
}

// Jobs that are kept are those that a shop that keeps none would tell, whatever was recorded
// meanwhile and by whom.
func TestKeptJobsAreThoseOfNow(t *testing.T) {
	h := open(t)
	code := h.walking("open shell", master.Stage{Key: "a", Name: "Shell", Kind: "skin"})
	same := func(after string) {
		t.Helper()
		fresh := shop.New(&book.Book{DB: h.DB, Now: h.Book.Now, Altitude: h.Altitude})
		is, err := h.Jobs(h.ctx)
		require.NoError(t, err)
		ought, err := fresh.Jobs(h.ctx)
		require.NoError(t, err)
		told := func(all []builds.Job) (out []string) {
			for _, j := range all {
				out = append(
					out,
					fmt.Sprint(j.Code, " ", j.Step.Operation, " ", j.Step.State, " ", j.Step.By, " ", j.Waits, j.Held),
				)
			}
			return out
		}
		assert.ElementsMatch(t, told(ought), told(is), after)
	}
	same("at first")
	h.signs(code, "prepare tool")
	same("a signature")
	h.kits(code, "kit")
	same("a kit")
	h.lays(code, "lay")
	same("a lay")
	_, err := h.HoldStep(h.ctx, h.as("Ines Falk"), code, finish.StepReason{Operation: "close", Reason: "no film"})
	require.NoError(t, err)
	same("held")
	_, err = h.StartStep(h.ctx, h.as("Ines Falk"), code, finish.Step{Operation: "close"})
	require.NoError(t, err)
	h.bags(code, "close")
	same("a bag")
	h.bakes("failed", code)
	same("a run that failed, told under the run")
	h.bakes("finished", code)
	same("a run")
	roll := h.received("Sable UD 150", "LOT-402", 60).Code
	h.ready(roll)
	_, err = h.ConfirmCut(h.ctx, h.as("Tilda Brandl"), h.nested(h.build("0003").Code, roll))
	require.NoError(t, err)
	same("a cut, told under its nest")
	other := shop.New(&book.Book{DB: h.DB, Now: h.Book.Now, Altitude: h.Altitude, Queue: h.Queue})
	cool := 300.0
	_, err = other.SignStepDone(h.ctx, h.as("Ines Falk"), code, finish.SignStep{Operation: "demould", Part: &cool})
	require.NoError(t, err)
	same("recorded by another process")
	h.at = h.at.Add(3 * time.Hour)
	same("three hours later")
}
