package shop_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"juxta/core/master"
	"juxta/shop/book"
	"juxta/shop/builds"
	"juxta/shop/cutting"
	"juxta/shop/finish"
)

// A ply that was lost after its cut was reported is voided with a reason, cut again and counted again; the lay that had
// begun goes on where it was. All of it stays in the log.
func TestALostPlyIsCutAgain(t *testing.T) {
	h := open(t)
	code := h.walking("open shell", master.Stage{Key: "a", Name: "Shell", Kind: "skin"})
	brandl, falk := h.as("Tilda Brandl"), h.as("Ines Falk")
	h.signs(code, "prepare tool")
	h.kits(code, "kit")
	bench, err := h.Layup(h.ctx, code, "lay")
	require.NoError(t, err)
	first := builds.SignPly{Ply: 1, CutPly: bench.NextCut, FilmsOff: bench.Plies[0].Films}
	_, err = h.Sign(h.ctx, falk, code, first)
	require.NoError(t, err)
	kit, err := h.Kit(h.ctx, code, "kit")
	require.NoError(t, err)
	lost := kit.Plies[1].Cut[0].Code

	h.at = h.at.Add(time.Minute)
	_, err = h.VoidPly(h.ctx, brandl, code, builds.VoidPly{CutPly: lost, Reason: " "})
	refusal(t, err, book.Invalid, "say what happened to the ply")
	_, err = h.VoidPly(h.ctx, brandl, code, builds.VoidPly{CutPly: first.CutPly, Reason: "torn"})
	refusal(t, err, book.Refused, "ply 1 is laid: take it back first")
	kit, err = h.VoidPly(h.ctx, brandl, code, builds.VoidPly{CutPly: lost, Reason: "torn on the table"})
	require.NoError(t, err)
	assert.Empty(t, kit.Plies[1].Cut)
	assert.Nil(t, kit.CountedAt, "it is counted again")
	assert.Equal(t, []string{"in work", "waiting", "waiting"},
		[]string{h.stands(code)["cut"], h.stands(code)["kit"], h.stands(code)["lay"]})
	_, err = h.VoidPly(h.ctx, brandl, code, builds.VoidPly{CutPly: lost, Reason: "again"})
	refusal(t, err, book.Conflict, "was voided: torn on the table")
	_, err = h.CountPly(h.ctx, brandl, code, lost)
	refusal(t, err, book.Conflict, "was voided")
	_, err = h.CloseKit(h.ctx, brandl, code, "kit", "")
	refusal(t, err, book.Refused, "ply 2 missing")

	queue, err := h.CutQueue(h.ctx)
	require.NoError(t, err)
	again := false
	for _, d := range queue {
		for _, b := range d.Builds {
			again = again || b.Code == code
		}
	}
	assert.True(t, again, "the cut queue offers it")
	h.at = h.at.Add(time.Minute)
	roll := h.received("Sable twill 200", "LOT-401", 60).Code
	h.ready(roll)
	_, err = h.ConfirmCut(h.ctx, brandl, h.nested(code, roll))
	require.NoError(t, err)
	kit, err = h.Kit(h.ctx, code, "kit")
	require.NoError(t, err)
	require.Len(t, kit.Plies[1].Cut, 1)
	_, err = h.CountPly(h.ctx, brandl, code, kit.Plies[1].Cut[0].Code)
	require.NoError(t, err)
	h.at = h.at.Add(time.Minute)
	kit, err = h.CloseKit(h.ctx, brandl, code, "kit", "")
	require.NoError(t, err)
	assert.NotNil(t, kit.CountedAt)
	assert.Equal(t, "in work", h.stands(code)["lay"])
	h.lays(code, "lay")
	assert.Equal(t, "done", h.stands(code)["lay"])
	thread, err := h.ThreadOfBuild(h.ctx, code)
	require.NoError(t, err)
	said := map[string]int{}
	for _, l := range thread.Log {
		said[l.What]++
	}
	assert.Equal(t, []int{1, 2}, []int{said["ply voided"], said["kit counted"]})
}

// A build of one pass loses a ply in the same way.
func TestALostPlyOfOnePassIsCutAgain(t *testing.T) {
	h := open(t)
	b := h.build("0002")
	kit, err := h.Kit(h.ctx, b.Code, "")
	require.NoError(t, err)
	brandl := h.as("Tilda Brandl")
	var laid, open string
	bench, err := h.Layup(h.ctx, b.Code, "")
	require.NoError(t, err)
	for _, p := range kit.Plies {
		if p.Number <= len(bench.Laid) {
			laid = p.Cut[0].Code
		} else if open == "" && len(p.Cut) > 0 {
			open = p.Cut[0].Code
		}
	}
	require.NotEmpty(t, laid)
	_, err = h.VoidPly(h.ctx, brandl, b.Code, builds.VoidPly{CutPly: laid, Reason: "torn"})
	refusal(t, err, book.Refused, "is laid: take it back first")
	_, err = h.VoidPly(h.ctx, brandl, b.Code, builds.VoidPly{CutPly: open})
	refusal(t, err, book.Invalid, "say what happened to the ply")
	require.NotNil(t, kit.CountedAt)
	kit, err = h.VoidPly(h.ctx, brandl, b.Code, builds.VoidPly{CutPly: open, Reason: "fell on the floor"})
	require.NoError(t, err)
	assert.Nil(t, kit.CountedAt)
	assert.Len(t, kit.Missing, 1)
	assert.Equal(t, "cut", h.build("0002").Room)
}

// What is signed as not good is held with what was found; only quality takes it up again, and taking it back leaves it
// in the record.
func TestNotGoodIsAHoldThatQualityDisposesOf(t *testing.T) {
	h := open(t)
	code := h.walking("open shell", master.Stage{Key: "a", Name: "Shell", Kind: "skin"})
	falk, quist := h.as("Ines Falk"), h.as("Jonas Quist")
	bad := finish.SignStep{Operation: "prepare tool", NotGood: "a scratch across the datum"}
	v, err := h.SignStepDone(h.ctx, falk, code, bad)
	require.NoError(t, err)
	tool := step(v, "prepare tool")
	assert.Equal(t, []any{"held", true, "a scratch across the datum", "Ines Falk"},
		[]any{tool.State, tool.NotGood, tool.Reason, tool.By})
	_, err = h.StartStep(h.ctx, falk, code, finish.Step{Operation: "prepare tool"})
	refusal(t, err, book.Refused, "was found not good: a quality person decides")
	_, err = h.SignStepDone(h.ctx, quist, code, finish.SignStep{Operation: "prepare tool"})
	refusal(t, err, book.Refused, "is held, by Ines Falk: a scratch across the datum")
	_, err = h.TakeBackStep(h.ctx, quist, code, finish.StepReason{Operation: "prepare tool", Reason: "polished out"})
	require.NoError(t, err)
	h.signs(code, "prepare tool")
	assert.Equal(t, "done", h.stands(code)["prepare tool"])
	_, err = h.SignStepDone(h.ctx, falk, code, bad)
	refusal(t, err, book.Conflict, "Prepare tool is done already, by Ines Falk")
	thread, err := h.ThreadOfBuild(h.ctx, code)
	require.NoError(t, err)
	found := false
	for _, l := range thread.Log {
		found = found || l.What == "operation not good"
	}
	assert.True(t, found, "it stays in the record")
}

// The next serial follows from all builds of the part, those that were ended and those of other revisions too.
func TestTheNextSerialIsFree(t *testing.T) {
	h := open(t)
	code := h.walking("open shell", master.Stage{Key: "a", Name: "Shell", Kind: "skin"})
	part := h.named("SP-25").Part.Code
	next, err := h.ProposedSerial(h.ctx, part)
	require.NoError(t, err)
	assert.Equal(t, "0401", next.Serial)
	_, err = h.EndBuild(h.ctx, h.as("Jonas Quist"), code, builds.Ending{Reason: "begun by mistake"})
	require.NoError(t, err)
	next, err = h.ProposedSerial(h.ctx, part)
	require.NoError(t, err)
	assert.Equal(t, "0401", next.Serial, "an ended build keeps its serial")
	_, err = h.StartBuild(
		h.ctx,
		h.as("Marek Orde"),
		part,
		builds.NewBuild{Serial: next.Serial, CureAt: h.at.Add(time.Hour)},
	)
	require.NoError(t, err)
	_, err = h.ProposedSerial(h.ctx, "P-00000")
	require.Error(t, err)
}

// A roll is not refused to everybody because some build that uses its material cures late: what is cut is held against
// its own build.
func TestARollIsHeldAgainstTheBuildThatItIsCutFor(t *testing.T) {
	h := open(t)
	h.uncut = true
	near := h.walking("open shell", master.Stage{Key: "a", Name: "Shell", Kind: "skin"})
	late, err := h.StartBuild(h.ctx, h.as("Marek Orde"), h.named("SP-25").Part.Code, builds.NewBuild{
		Serial: "0402", CureAt: h.at.Add(40 * 24 * time.Hour),
	})
	require.NoError(t, err)
	roll := h.received("Sable twill 200", "LOT-402", 60).Code
	h.ready(roll)
	_, err = h.StartNest(
		h.ctx,
		h.as("Tilda Brandl"),
		cutting.NewNest{Roll: roll, Builds: []string{late.Code}, Steps: 5},
	)
	refusal(t, err, book.Refused, "must not be cut for SP-25 · 0402: the plan would pass the end of its out-life")
	_, err = h.ConfirmCut(h.ctx, h.as("Tilda Brandl"), h.nested(near, roll))
	require.NoError(t, err)
}

// What is kept of builds beside their events is what the events say; who changes it is found.
func TestWhatIsKeptOfBuildsFitsTheirEvents(t *testing.T) {
	h := open(t)
	h.sets = func(o *master.Operation) {
		if o.Key == "lay" {
			o.Debulks = &master.Debulks{First: true, Seconds: 600, Vacuum: 80e3}
		}
	}
	code := h.walking("open shell", master.Stage{Key: "a", Name: "Shell", Kind: "skin"})
	falk := h.as("Ines Falk")
	h.signs(code, "prepare tool")
	h.kits(code, "kit")
	v, err := h.Layup(h.ctx, code, "lay")
	require.NoError(t, err)
	_, err = h.Sign(h.ctx, falk, code, builds.SignPly{Ply: 1, CutPly: v.NextCut, FilmsOff: v.Plies[0].Films})
	require.NoError(t, err)
	h.debulks(code, "lay")
	n, err := h.VerifyBuilds(h.ctx)
	require.NoError(t, err)
	assert.Positive(t, n)
	_, err = h.TakeBack(h.ctx, falk, code, 1, "a fold")
	require.NoError(t, err)
	_, err = h.VerifyBuilds(h.ctx)
	require.NoError(t, err, "a ply that came off took its debulk with it, in both")
	require.NoError(t, h.DB.Gorm.Exec(`update builds set done_at = now() where code = ?`, code).Error)
	_, err = h.VerifyBuilds(h.ctx)
	assert.ErrorContains(t, err, "build "+code+": that it is over is kept otherwise than its events say")
}
