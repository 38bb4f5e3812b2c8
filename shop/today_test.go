package shop_test

import (
	"slices"
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

func (h *house) day(name string) shop.Day {
	h.t.Helper()
	d, err := h.Today(h.ctx, h.as(name).Person)
	require.NoError(h.t, err)
	return d
}

func jobs(d shop.Day, number string) (out []string) {
	for _, j := range d.Jobs {
		if j.Number == number {
			out = append(out, j.Step.Label+": "+j.Step.State)
		}
	}
	return out
}

// Everybody's day holds what they may do, in the order of what presses.
func TestTheDayHoldsWhatAPersonMayDo(t *testing.T) {
	h := open(t)
	falk := h.day("Ines Falk")
	assert.Equal(t, []string{"Lay up and debulk: in work", "Cut plies: ready"}, jobs(falk, "SP-11"))
	assert.Equal(t, 1, falk.Others, "the inspection is for quality")
	for k := 1; k < len(falk.Jobs); k++ {
		assert.False(t, falk.Jobs[k].Latest.Before(*falk.Jobs[k-1].Latest), "what presses comes first")
	}
	quist := h.day("Jonas Quist")
	assert.Equal(t, []string{"Inspect and sign: ready"}, jobs(quist, "SP-11"))
	says := func(d shop.Day) (out []string) {
		for _, a := range d.Asks {
			out = append(out, a.Label)
		}
		return out
	}
	assert.Contains(t, says(quist), "decide about lot SU-2304 of Sable UD 150")
	assert.Contains(t, says(quist), "Freezer 1 was too warm")
	assert.NotContains(t, says(falk), "decide about lot SU-2304 of Sable UD 150")
	assert.Contains(t, says(h.day("Marek Orde")), "go on with the draft SP-11 B")
	assert.Empty(t, h.day("Hedda Solm").Jobs)
	assert.Empty(t, h.day("Hedda Solm").Asks)
}

// What runs unattended says when it wants somebody; what is about to be too late says when.
func TestTheDayTellsWhatRunsAndWhatIsLate(t *testing.T) {
	h := open(t)
	build := h.build("0002").Code
	for range 3 {
		_, err := h.Sign(h.ctx, h.as("Ines Falk"), build, h.nextPly(build))
		require.NoError(t, err)
	}
	_, err := h.StartDebulk(h.ctx, h.as("Ines Falk"), build, "")
	require.NoError(t, err)
	d := h.day("Ines Falk")
	require.NotEmpty(t, d.Itself)
	assert.Equal(t, "debulk after ply 9, SP-11 · 0002", d.Itself[0].Label)
	require.NotNil(t, d.Itself[0].Until)
	assert.WithinDuration(t, h.at.Add(15*time.Minute), *d.Itself[0].Until, time.Second)
	assert.Empty(t, late(d, "SP-11 · 0003"))
	h.at = h.at.Add(71 * time.Hour)
	d = h.day("Ines Falk")
	assert.Contains(t, late(d, "SP-11 · 0003"), "its cure was planned to begin")
	for k := 1; k < len(d.Late); k++ {
		assert.False(t, d.Late[k].At.Before(d.Late[k-1].At))
	}
	_, err = h.EndDebulk(h.ctx, h.as("Ines Falk"), build, "", builds.DebulkEnd{Vacuum: 88e3})
	require.NoError(t, err)
	run := h.bagged()
	h.running(run, "one")
	d = h.day("Ines Falk")
	said := ""
	for _, x := range d.Itself {
		said += x.Label + "\n"
	}
	assert.Contains(t, said, "SP-11 · 0002")
	assert.NotContains(t, jobs(d, "SP-11"), "Load oven: ready", "the oven has it")
}

func late(d shop.Day, what string) (out []string) {
	for _, l := range d.Late {
		if l.What == what {
			out = append(out, l.Label)
		}
	}
	return out
}

// The day of a build on a route: what is ready, what comes next, why it is late, and a
// qualification that an operation asks for.
func TestTheDayOfABuildOnItsRoute(t *testing.T) {
	h := open(t)
	code := h.walking("sandwich, three cures",
		master.Stage{Key: "a", Name: "Tool skin", Kind: "skin"}, master.Stage{Key: "c", Name: "Core", Kind: "core"},
		master.Stage{Key: "b", Name: "Second skin", Kind: "skin"})
	assert.Equal(t, []string{
		"Prepare tool: ready", "Kit Tool skin: ready", "Lay up Tool skin: waiting", "Kit Core: ready",
		"Kit Second skin: ready",
	}, jobs(h.day("Ines Falk"), "SP-25"))
	h.kits(code, "kit a")
	h.signs(code, "prepare tool")
	var lay builds.Job
	for _, j := range h.day("Ines Falk").Jobs {
		if j.Step.Operation == "lay a" {
			lay = j
		}
	}
	require.NotNil(t, lay.Latest)
	before := *lay.Latest
	assert.Empty(t, lay.Tight)
	assert.False(t, lay.Late)
	h.at = before.Add(30 * time.Minute)
	d := h.day("Ines Falk")
	k := slices.IndexFunc(d.Jobs, func(j builds.Job) bool { return j.Step.Operation == "lay a" && j.Code == code })
	require.GreaterOrEqual(t, k, 0)
	assert.True(t, d.Jobs[k].Late)
	assert.NotEmpty(t, late(d, "SP-25 · 0400"), "it can no longer be cured when it was planned")
	// Held: quality sees why.
	_, err := h.HoldStep(h.ctx, h.as("Ines Falk"), code, finish.StepReason{Operation: "demould", Reason: "x"})
	refusal(t, err, book.Refused, "Demould waits for")
}

func TestTheShiftBeforeLeavesNotes(t *testing.T) {
	h := open(t)
	_, err := h.HandOver(h.ctx, h.as("Tilda Brandl"), shop.NewHandover{Text: "  "})
	refusal(t, err, book.Invalid, "write what the next shift should know")
	_, err = h.HandOver(h.ctx, h.as("Tilda Brandl"), shop.NewHandover{Text: "vacuum hose 3 hisses"})
	require.NoError(t, err)
	d := h.day("Ines Falk")
	require.Len(t, d.Notes, 1)
	assert.Equal(t, []string{"Tilda Brandl", "vacuum hose 3 hisses"}, []string{d.Notes[0].Person, d.Notes[0].Text})
	w, err := h.OnTheWall(h.ctx)
	require.NoError(t, err)
	assert.Len(t, w.Notes, 1)
	assert.NotEmpty(t, w.Jobs)
	assert.ErrorContains(t, h.DB.Gorm.Exec(`update handovers set says = 'x'`).Error, "permission denied")
	h.at = h.at.Add(49 * time.Hour)
	assert.Empty(t, h.day("Ines Falk").Notes)
}
