package shop_test

import (
	"encoding/json"
	"math"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"juxta/core/cure"
	"juxta/shop/book"
	"juxta/shop/builds"
	"juxta/shop/curing"
	"juxta/shop/parts"
)

// bagged brings the half-laid build to the oven's door.
func (h *house) bagged() string {
	h.t.Helper()
	by, build := h.as("Ines Falk"), h.build("0002").Code
	h.layAll(build)
	_, err := h.CloseBag(h.ctx, by, build, "", "no bleed")
	require.NoError(h.t, err)
	_, err = h.CheckLeak(h.ctx, by, build, "", builds.NewLeakCheck{Start: 90e3, End: 89e3, Seconds: 300})
	require.NoError(h.t, err)
	return build
}

// running starts a run and leases it for a recorder.
func (h *house) running(build, recorder string) curing.Run {
	h.t.Helper()
	line, err := h.StartRun(h.ctx, h.as("Ines Falk"), []curing.OvenLoad{{Build: build}})
	require.NoError(h.t, err)
	var run curing.Run
	require.NoError(h.t, h.DB.Gorm.Where("code = ?", line.Code).Take(&run).Error)
	run, ok, err := h.LeaseRun(h.ctx, run.ID, recorder)
	require.NoError(h.t, err)
	require.True(h.t, ok)
	return run
}

// sample is a reading of a part that is at temp kelvin all through.
func sample(t, temp, vacuum float64) cure.Sample {
	return cure.Sample{T: t, SetPoint: temp, Air: temp, Tool: temp, Lead: temp, Lag: temp, Vacuum: vacuum}
}

func TestOnlyPartsThatAreReadyGoIntoTheOven(t *testing.T) {
	h := open(t)
	by := h.as("Ines Falk")
	_, err := h.StartRun(h.ctx, by, nil)
	refusal(t, err, book.Invalid, "choose what goes into the oven")
	_, err = h.StartRun(h.ctx, by, []curing.OvenLoad{{Build: h.build("0003").Code}})
	refusal(t, err, book.Refused, "not ready for the oven: it waits at cut")
	_, err = h.StartRun(h.ctx, by, []curing.OvenLoad{{Build: h.build("0001").Code}})
	refusal(t, err, book.Refused, "it waits at release")
	build := h.bagged()
	_, err = h.StartRun(h.ctx, by, []curing.OvenLoad{{Build: build}, {Build: h.build("0001").Code}})
	refusal(t, err, book.Refused, "it waits at release")
	assert.Zero(
		t,
		h.count(`select count(*) from run_builds rb join builds b on b.id = rb.build_id where b.code = ?`, build),
		"nothing of a refused load is stored",
	)
	h.running(build, "one")
	_, err = h.StartRun(h.ctx, by, []curing.OvenLoad{{Build: build}})
	refusal(t, err, book.Conflict, "the oven is running already")
	_, err = h.CheckLeak(h.ctx, by, build, "", builds.NewLeakCheck{Start: 90e3, End: 89e3, Seconds: 300})
	refusal(t, err, book.Conflict, "already in its cure run")
	assert.InDelta(t, 0, h.build("0002").OutTime.Planned, 1e-9, "the clock stops at the start of cure")
}

func TestOneRecorderAtATime(t *testing.T) {
	h := open(t)
	run := h.running(h.bagged(), "one")
	_, ok, err := h.LeaseRun(h.ctx, run.ID, "two")
	require.NoError(t, err)
	assert.False(t, ok, "while one records, two does not")
	_, err = h.AddSample(h.ctx, run.ID, "two", sample(0, 300, 9e4), run.Controller, "")
	refusal(t, err, book.Conflict, "another recorder")
	refusal(t, h.KeepLease(h.ctx, run.ID, "two"), book.Conflict, "another recorder")
	require.NoError(t, h.KeepLease(h.ctx, run.ID, "one"))
	_, err = h.AddSample(h.ctx, run.ID, "one", sample(0, 300, 9e4), run.Controller, "")
	require.NoError(t, err)
	abandoned := func() []int64 {
		ids, err := h.Abandoned(h.ctx)
		require.NoError(t, err)
		return ids
	}
	assert.Empty(t, abandoned())
	// One falls silent.
	require.NoError(
		t,
		h.DB.Gorm.Exec(`update runs set heartbeat = ? where id = ?`, time.Now().Add(-time.Minute), run.ID).Error,
	)
	assert.Equal(t, []int64{run.ID}, abandoned())
	_, ok, err = h.LeaseRun(h.ctx, run.ID, "two")
	require.NoError(t, err)
	assert.True(t, ok)
	_, err = h.AddSample(h.ctx, run.ID, "one", sample(15, 300, 9e4), run.Controller, "")
	refusal(t, err, book.Conflict, "another recorder")
	last, err := h.LastSample(h.ctx, run.ID)
	require.NoError(t, err)
	assert.Zero(t, last, "what the old one wrote too late is not there")
	// Two ends in order: its lease is free at once.
	require.NoError(t, h.LetGo(h.ctx, run.ID, "two"))
	assert.Equal(t, []int64{run.ID}, abandoned())
}

func TestAPageHearsOnlyWhatIsNew(t *testing.T) {
	h := open(t)
	run := h.running(h.bagged(), "one")
	for i := range 5 {
		x := sample(float64(15*i), 330, 9e4)
		if i == 3 {
			x.Lag = math.NaN()
		}
		_, err := h.AddSample(h.ctx, run.ID, "one", x, run.Controller, "")
		require.NoError(t, err)
	}
	u, err := h.RunSince(h.ctx, run.Code, 15)
	require.NoError(t, err)
	require.Len(t, u.Samples, 3)
	assert.Equal(t, 30.0, u.Samples[0].T)
	assert.Nil(t, u.Samples[1].Lag, "a failed reading is told as none")
	assert.Len(t, u.Cure, 2, "and no degree of cure is made up for it")
	whole, err := h.Run(h.ctx, run.Code)
	require.NoError(t, err)
	assert.Len(t, whole.Samples, 5)
	assert.Equal(t, whole.Cure[len(whole.Cure)-1], u.Cure[len(u.Cure)-1], "both tell the same degree of cure")
	lines, err := h.Runs(h.ctx)
	require.NoError(t, err)
	assert.Equal(t, []string{"SP-11 · 0002"}, lines[0].Builds)
	assert.Equal(t, "running", lines[0].State)
}

func TestARunThatCannotBeJudgedHasFailedAndSaysWhy(t *testing.T) {
	h := open(t)
	build := h.bagged()
	run := h.running(build, "one")
	_, err := h.AddSample(h.ctx, run.ID, "one", sample(0, 300, 9e4), run.Controller, "")
	require.NoError(t, err)
	require.NoError(t, h.EndRun(h.ctx, run.ID, "finished", ""))
	v, err := h.Run(h.ctx, run.Code)
	require.NoError(t, err)
	assert.Equal(t, "failed", v.State)
	assert.Contains(t, v.Message, "there is nothing to judge")
	assert.Nil(t, v.Verdict)
	assert.Equal(t, "cure", h.build("0002").Room, "the part still waits for its cure")
	again, err := h.StartRun(h.ctx, h.as("Ines Falk"), []curing.OvenLoad{{Build: build}})
	require.NoError(t, err, "and may be loaded again")
	assert.NotEqual(t, run.Code, again.Code)
}

func TestASilentVacuumGaugeMeetsNothingAndIsStored(t *testing.T) {
	h := open(t)
	run := h.running(h.bagged(), "one")
	for i := range 4 {
		_, err := h.AddSample(h.ctx, run.ID, "one", sample(float64(60*i), 300, math.NaN()), run.Controller, "")
		require.NoError(t, err)
	}
	require.NoError(t, h.EndRun(h.ctx, run.ID, "stopped", "somebody stopped it"))
	v, err := h.Run(h.ctx, run.Code)
	require.NoError(t, err)
	require.NotNil(t, v.Verdict)
	assert.False(t, v.Verdict.Met)
	for _, c := range v.Verdict.Checks {
		if c.What == "least vacuum" {
			assert.Equal(t, "the vacuum gauge gave no reading", c.Message)
			assert.False(t, c.Met)
		}
	}
	raw, err := json.Marshal(v)
	require.NoError(t, err, "no reading is no number, not an endless one")
	assert.Contains(t, string(raw), `"vacuum":null`)
	_, err = h.StopRun(h.ctx, h.as("Ines Falk"), run.Code, "again")
	refusal(t, err, book.Conflict, "this run is over")
}

func TestAProcessIsSimulatedBeforeItIsKept(t *testing.T) {
	h := open(t)
	v := h.named("SP-25")
	entries := h.count(`select count(*) from entries`)
	seen, err := h.SimulateCure(h.ctx, v.Part.Code, parts.ProcessQuestion{Process: &v.Process})
	require.NoError(t, err)
	require.NotNil(t, seen.Verdict)
	assert.True(t, seen.Verdict.Met, "%+v", seen.Verdict.Checks)
	assert.Len(t, seen.Cure, len(seen.Plan))
	assert.Equal(t, seen.Plan[len(seen.Plan)-1].T, seen.Duration)
	assert.InDelta(t, seen.Verdict.Cure, seen.Cure[len(seen.Cure)-1].Alpha, 1e-15)
	require.NotEmpty(t, seen.Places)
	assert.Positive(t, seen.Places[0].Thickness)
	assert.Equal(t, "Oven 1", seen.Equipment)
	// A minute's hold does not cure it, and the page is told so.
	p := v.Process
	p.Recipe.Segments = slices.Clone(p.Recipe.Segments)
	for i := range p.Recipe.Segments {
		p.Recipe.Segments[i].Hold = min(p.Recipe.Segments[i].Hold, 60)
	}
	seen, err = h.SimulateCure(h.ctx, v.Part.Code, parts.ProcessQuestion{Process: &p})
	require.NoError(t, err)
	assert.False(t, seen.Verdict.Met)
	assert.Less(t, seen.Verdict.Cure, 0.9)
	p.Recipe.Segments[0].Rate = 0
	_, err = h.SimulateCure(h.ctx, v.Part.Code, parts.ProcessQuestion{Process: &p})
	refusal(t, err, book.Invalid, "segment 1: the ramp must be above zero")
	// Without a ply nobody knows the resin: the plan is drawn, nothing is judged.
	begun, err := h.BeginPart(h.ctx, h.as("Marek Orde"), parts.NewPart{Number: "SP-70", Name: "Empty yet", ResinID: 1})
	require.NoError(t, err)
	seen, err = h.SimulateCure(h.ctx, begun.Part.Code, parts.ProcessQuestion{Process: &begun.Process})
	require.NoError(t, err)
	assert.Nil(t, seen.Verdict)
	assert.NotEmpty(t, seen.Plan)
	require.Contains(t, seen.Notes[0], "2 mm of plies, for its stack")
	// What stands for a stack lies as the stack would: between the halves of a mould in a press, which heats it sooner.
	pressed := begun.Process
	pressed.Equipment = "Press 1"
	mould, err := h.SimulateCure(h.ctx, begun.Part.Code, parts.ProcessQuestion{Process: &pressed})
	require.NoError(t, err)
	assert.Equal(t, "Press 1", mould.Equipment)
	assert.Less(t, mould.Duration, seen.Duration)
	assert.Less(t, mould.Duration, pressed.Recipe.Least()+1200)
	assert.Equal(t, entries+1, h.count(`select count(*) from entries`), "the part that was begun, and nothing else")
}

// A run whose recorder died before it began is taken up by another after a while.
func TestARunThatNobodyTookUpIsAbandoned(t *testing.T) {
	h := open(t)
	build := h.bagged()
	line, err := h.StartRun(h.ctx, h.as("Ines Falk"), []curing.OvenLoad{{Build: build}})
	require.NoError(t, err)
	run := func() (r curing.Run) {
		require.NoError(t, h.DB.Gorm.Where("code = ?", line.Code).Take(&r).Error)
		return r
	}
	ids, err := h.Abandoned(h.ctx)
	require.NoError(t, err)
	assert.NotContains(t, ids, run().ID, "it was asked for a moment ago")
	long := time.Now().Add(-time.Minute)
	require.NoError(t, h.DB.Gorm.Model(&curing.Run{ID: run().ID}).Update("heartbeat", long).Error)
	ids, err = h.Abandoned(h.ctx)
	require.NoError(t, err)
	assert.Contains(t, ids, run().ID)
	_, ok, err := h.LeaseRun(h.ctx, run().ID, "another")
	require.NoError(t, err)
	assert.True(t, ok)
	ids, err = h.Abandoned(h.ctx)
	require.NoError(t, err)
	assert.NotContains(t, ids, run().ID)
}
