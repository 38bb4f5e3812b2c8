package shop_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"juxta/core/master"
	"juxta/shop/book"
	"juxta/shop/builds"
	"juxta/shop/finish"
)

func (h *house) debulks(code, operation string) {
	h.t.Helper()
	_, err := h.StartDebulk(h.ctx, h.as("Ines Falk"), code, operation)
	require.NoError(h.t, err)
	h.at = h.at.Add(time.Hour)
	_, err = h.EndDebulk(h.ctx, h.as("Ines Falk"), code, operation, builds.DebulkEnd{Vacuum: 95e3, Sure: true})
	require.NoError(h.t, err)
}

// A ply taken back at one bench leaves the debulks of another.
func TestAPlyTakenBackLeavesOtherBenchesAlone(t *testing.T) {
	h := open(t)
	h.sets = func(o *master.Operation) {
		if o.Key == "lay u" {
			o.Debulks = &master.Debulks{First: true, Seconds: 600, Vacuum: 80e3}
		}
	}
	code := h.walking("hollow part", master.Stage{Key: "t", Name: "Top", Kind: "pre-form"},
		master.Stage{Key: "u", Name: "Bottom", Kind: "pre-form"})
	h.signs(code, "prepare tool")
	h.kits(code, "kit t")
	h.kits(code, "kit u")
	falk := h.as("Ines Falk")
	for range 10 {
		v, err := h.Layup(h.ctx, code, "lay u")
		require.NoError(t, err)
		if v.Next == nil {
			break
		}
		if v.Next.Debulk {
			h.debulks(code, "lay u")
			continue
		}
		_, err = h.Sign(
			h.ctx,
			falk,
			code,
			builds.SignPly{Ply: v.Next.Ply, CutPly: v.NextCut, FilmsOff: v.Plies[0].Films},
		)
		require.NoError(t, err)
	}
	assert.Equal(t, "done", h.stands(code)["lay u"])
	h.lays(code, "lay t")
	top, err := h.Layup(h.ctx, code, "lay t")
	require.NoError(t, err)
	_, err = h.TakeBack(h.ctx, falk, code, top.Laid[len(top.Laid)-1].Ply, "a fold")
	require.NoError(t, err)
	v, err := h.Layup(h.ctx, code, "lay u")
	require.NoError(t, err)
	for _, d := range v.Debulks {
		assert.True(t, d.Counts, "after ply %d: %s", d.AfterPly, d.Message)
	}
	assert.Equal(t, "done", h.stands(code)["lay u"], "bottom was not touched")
}

// A later operation that is left out in advance blocks nothing before it.
func TestWhatIsLeftOutAheadBlocksNothingBefore(t *testing.T) {
	h := open(t)
	code := h.walking("open shell", master.Stage{Key: "a", Name: "Shell", Kind: "skin"})
	h.signs(code, "prepare tool")
	h.kits(code, "kit")
	_, err := h.LeaveOut(
		h.ctx,
		h.as("Jonas Quist"),
		code,
		finish.LeaveStepOut{Operation: "trim", Reason: "net edge", PIN: pin},
	)
	require.NoError(t, err)
	v, err := h.Layup(h.ctx, code, "lay")
	require.NoError(t, err)
	_, err = h.Sign(
		h.ctx,
		h.as("Ines Falk"),
		code,
		builds.SignPly{Ply: 1, CutPly: v.NextCut, FilmsOff: v.Plies[0].Films},
	)
	assert.NoError(t, err)
	if err == nil {
		h.lays(code, "lay")
	}
	_, err = h.CloseBag(h.ctx, h.as("Ines Falk"), code, "close", "no bleed")
	assert.NoError(t, err)
	_, err = h.CheckLeak(
		h.ctx,
		h.as("Ines Falk"),
		code,
		"close",
		builds.NewLeakCheck{Start: 90e3, End: 89e3, Seconds: 300},
	)
	assert.NoError(t, err)
}

// What was left out of a room is taken in again, while nothing was begun without it.
func TestWhatWasLeftOutIsTakenInAgain(t *testing.T) {
	h := open(t)
	code := h.walking("open shell", master.Stage{Key: "a", Name: "Shell", Kind: "skin"})
	h.signs(code, "prepare tool")
	_, err := h.LeaveOut(
		h.ctx,
		h.as("Jonas Quist"),
		code,
		finish.LeaveStepOut{Operation: "kit", Reason: "slip", PIN: pin},
	)
	require.NoError(t, err)
	_, err = h.TakeBackStep(h.ctx, h.as("Jonas Quist"), code, finish.StepReason{Operation: "kit", Reason: "wrong one"})
	require.NoError(t, err)
	assert.Equal(t, "ready", h.stands(code)["kit"])

	// But not once something was begun without it.
	h.kits(code, "kit")
	leave := finish.LeaveStepOut{Operation: "prepare tool", Reason: "none is needed", PIN: pin}
	_, err = h.TakeBackStep(h.ctx, h.as("Jonas Quist"), code, finish.StepReason{Operation: "prepare tool", Reason: "x"})
	require.NoError(t, err)
	_, err = h.LeaveOut(h.ctx, h.as("Jonas Quist"), code, leave)
	require.NoError(t, err)
	h.lays(code, "lay")
	_, err = h.TakeBackStep(h.ctx, h.as("Jonas Quist"), code, finish.StepReason{Operation: "prepare tool", Reason: "x"})
	refusal(t, err, book.Conflict, "was begun without it: take that back first")
}

// A rework comes before another rework.
func TestAReworkBeforeAnother(t *testing.T) {
	h := open(t)
	code := h.walking("open shell", master.Stage{Key: "a", Name: "Shell", Kind: "skin"})
	quist, falk := h.as("Jonas Quist"), h.as("Ines Falk")
	first := finish.NewRework{Kind: "sand", Name: "Sand", After: []string{"demould"}, Before: []string{"trim"},
		Reason: "pit", PIN: pin, SecondID: falk.Person.ID, SecondPIN: pin}
	_, err := h.AddRework(h.ctx, quist, code, first)
	require.NoError(t, err)
	second := first
	second.Name, second.Before = "Fill", []string{"rework 1"}
	_, err = h.AddRework(h.ctx, quist, code, second)
	assert.NoError(t, err)
}

// Only a cure that ended stops the clock of its kit: after one that was stopped it has gone on.
func TestTheClockGoesOnAfterARunThatWasStopped(t *testing.T) {
	h := open(t)
	code := h.walking("open shell", master.Stage{Key: "a", Name: "Shell", Kind: "skin"})
	h.signs(code, "prepare tool")
	h.kits(code, "kit")
	h.lays(code, "lay")
	h.bags(code, "close")
	h.bakes("stopped", code)
	spent := func() float64 {
		v, err := h.Bag(h.ctx, code, "close")
		require.NoError(t, err)
		return v.Build.OutTime.Spent
	}
	before := spent()
	h.at = h.at.Add(20 * time.Hour)
	assert.InDelta(t, before+20*3600, spent(), 1)
	h.bakes("finished", code)
	ended := spent()
	h.at = h.at.Add(20 * time.Hour)
	assert.Equal(t, ended, spent(), "a cure that ended stops it")
}

// A leak check after the closing signature is not what was signed.
func TestALeakCheckAfterTheSignatureIsToBeSigned(t *testing.T) {
	h := open(t)
	h.sets = func(o *master.Operation) {
		if o.Kind == "close" || o.Kind == "lay" {
			o.Hold = "quality looks at it"
		}
	}
	code := h.walking("open shell", master.Stage{Key: "a", Name: "Shell", Kind: "skin"})
	h.signs(code, "prepare tool")
	h.kits(code, "kit")
	h.lays(code, "lay")
	h.signs(code, "lay")
	h.bags(code, "close")
	h.at = h.at.Add(time.Hour)
	h.signs(code, "close")
	assert.Equal(t, "done", h.stands(code)["close"])
	h.at = h.at.Add(time.Hour)
	_, err := h.CheckLeak(
		h.ctx,
		h.as("Ines Falk"),
		code,
		"close",
		builds.NewLeakCheck{Start: 90e3, End: 50e3, Seconds: 300},
	)
	require.NoError(t, err)
	_, err = h.CheckLeak(
		h.ctx,
		h.as("Ines Falk"),
		code,
		"close",
		builds.NewLeakCheck{Start: 90e3, End: 89e3, Seconds: 300},
	)
	require.NoError(t, err)
	assert.Equal(t, "in work", h.stands(code)["close"], "recorded after the signature: to be signed anew")
}

// Every run is in the record of its part, one that was stopped too.
func TestEveryRunIsInTheRecord(t *testing.T) {
	h := open(t)
	code := h.walking("open shell", master.Stage{Key: "a", Name: "Shell", Kind: "skin"})
	h.signs(code, "prepare tool")
	h.kits(code, "kit")
	h.lays(code, "lay")
	h.bags(code, "close")
	stopped := h.bakes("stopped", code)
	h.bakes("finished", code)
	v, err := h.ThreadOfBuild(h.ctx, code)
	require.NoError(t, err)
	require.Len(t, v.Runs, 2)
	assert.Equal(t, []string{stopped, "stopped"}, []string{v.Runs[0].Code, v.Runs[0].State})
	assert.Equal(t, "finished", v.Runs[1].State)
	log := map[string]bool{}
	for _, l := range v.Log {
		log[l.What] = true
	}
	assert.True(t, log["bag closed"] && log["run started"], "what was done to it and to its runs: %v", log)
}
