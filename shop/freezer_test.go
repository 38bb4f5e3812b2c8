package shop_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"juxta/shop"
)

func TestRollsRefuseWhatCannotBe(t *testing.T) {
	h := open(t)
	by := h.as("Tilda Brandl")
	fresh, out := h.roll("SU-2291").Code, h.roll("ST-0455").Code
	_, err := h.PutBack(h.ctx, by, fresh, shop.Moved{})
	refusal(t, err, shop.Conflict, "put back without having been taken out")
	_, err = h.TakeOut(h.ctx, by, out, shop.Moved{})
	refusal(t, err, shop.Conflict, "already out")
	tomorrow := h.at.Add(24 * time.Hour)
	_, err = h.TakeOut(h.ctx, by, fresh, shop.Moved{At: &tomorrow})
	refusal(t, err, shop.Invalid, "future")
	_, err = h.TakeOut(h.ctx, by, "R-ZZZZZ", shop.Moved{})
	refusal(t, err, shop.Invalid, "wrong check character")
	_, err = h.Roll(h.ctx, h.build("0001").Code)
	refusal(t, err, shop.Invalid, "is not the id of a roll")
	_, err = h.ReceiveRoll(h.ctx, by, shop.NewRoll{MaterialID: 99, Batch: "x", Length: 1})
	refusal(t, err, shop.Invalid, "not known")
}

func TestALateEntryCountsFromWhenItHappened(t *testing.T) {
	h := open(t)
	code := h.roll("SU-2291").Code
	earlier := h.at.Add(-3 * time.Hour)
	v, err := h.TakeOut(h.ctx, h.as("Tilda Brandl"), code, shop.Moved{At: &earlier, Note: "forgot to write it down"})
	require.NoError(t, err)
	assert.InDelta(t, 3*3600, v.Fuse.Spent, 1)
	d, err := h.Roll(h.ctx, code)
	require.NoError(t, err)
	last := d.Ledger[len(d.Ledger)-1]
	assert.True(t, last.EnteredAt.After(last.At.Add(2*time.Hour)), "both times are kept")
}

func TestTheRouteCountsWhatWaits(t *testing.T) {
	h := open(t)
	says := func() map[string]string {
		stages, err := h.Route(h.ctx)
		require.NoError(t, err)
		out := map[string]string{}
		for _, s := range stages {
			out[s.Stage] = s.Says
		}
		return out
	}
	assert.Equal(t, map[string]string{"freezer": "1 roll is out", "parts": "1 draft", "cut": "1 to cut", "kits": "nothing waits", "layup": "1 on a bench",
		"bag": "nothing waits", "cure": "nothing waits", "release": "1 to inspect", "thread": "find anything"}, says())
	by := h.as("Tilda Brandl")
	_, err := h.PutBack(h.ctx, by, h.roll("ST-0455").Code, shop.Moved{})
	require.NoError(t, err)
	h.newBuild("0050")
	build := h.bagged()
	now := says()
	assert.Equal(t, "all put away", now["freezer"])
	assert.Equal(t, "2 to cut", now["cut"])
	assert.Equal(t, "nothing waits", now["layup"])
	assert.Equal(t, "1 to load", now["cure"])
	h.running(build, "one")
	assert.Equal(t, "1 running", says()["cure"])
}

func TestARollLeadsByWhatWaitsForIt(t *testing.T) {
	h := open(t)
	waits := h.build("0003")
	for _, batch := range []string{"SU-2207", "SU-2291", "ST-0455", "ST-0418"} {
		r := h.roll(batch)
		assert.Equal(t, []string{waits.Code}, r.NeededFor, batch)
		assert.InDelta(t, waits.CureAt.Sub(h.at).Seconds(), r.Fuse.Planned, 1, "the plan burns until the planned cure")
	}
	assert.Contains(t, h.roll("ST-0418").Refusal, "pass the end of its out-life by 46 h")
	assert.Empty(t, h.roll("SU-2291").Refusal)
	// A shelf life that ends while it lies there.
	h.at = h.at.Add(61 * 24 * time.Hour)
	assert.Contains(t, h.roll("ST-0418").Refusal, "shelf life ended on")
	all, err := h.Materials(h.ctx)
	require.NoError(t, err)
	require.Len(t, all, 2)
	assert.Equal(t, "Ember 120", all[0].Resin)
}

func TestReceivingARollIsALineOfItsLedger(t *testing.T) {
	h := open(t)
	by := h.as("Tilda Brandl")
	end := h.at.Add(200 * 24 * time.Hour)
	v, err := h.ReceiveRoll(h.ctx, by, shop.NewRoll{MaterialID: h.material("Sable twill 200"), Batch: " ST-0501 ", Length: 25.5, Place: "Freezer 2, shelf 4", ShelfEnd: &end})
	require.NoError(t, err)
	assert.Equal(t, "ST-0501", v.Batch)
	assert.Equal(t, 1.0, v.Width, "the width of its material")
	assert.Zero(t, v.Fuse.Spent)
	d, err := h.Roll(h.ctx, v.Code)
	require.NoError(t, err)
	require.Len(t, d.Ledger, 1)
	assert.Equal(t, "received", d.Ledger[0].Kind)
	assert.Equal(t, "Tilda Brandl", d.Ledger[0].Person)
	// A line that would contradict an earlier one is refused whenever it is said to have happened.
	before := h.at.Add(-time.Hour)
	_, err = h.TakeOut(h.ctx, by, v.Code, shop.Moved{At: &before})
	refusal(t, err, shop.Conflict, "received after something else had happened")
	for _, bad := range []shop.NewRoll{{MaterialID: h.material("Sable twill 200"), Batch: "  ", Length: 5}, {MaterialID: h.material("Sable twill 200"), Batch: "x"}} {
		_, err = h.ReceiveRoll(h.ctx, by, bad)
		refusal(t, err, shop.Invalid, "the batch from the label and the length are needed")
	}
}
