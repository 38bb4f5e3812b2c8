package shop_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"juxta/core/unit"
	"juxta/shop/book"
	"juxta/shop/builds"
	"juxta/shop/cutting"
	"juxta/wire"
)

// nested starts a build, nests its plies of one material on a roll and finds
// the nest.
func (h *house) nested(build, roll string) string {
	h.t.Helper()
	line, err := h.StartNest(h.ctx, h.as("Tilda Brandl"), cutting.NewNest{Roll: roll, Builds: []string{build}, Steps: 3})
	require.NoError(h.t, err)
	var n cutting.Nest
	require.NoError(h.t, h.DB.Gorm.Where("code = ?", line.Code).Take(&n).Error)
	problem, ok, err := h.BeginNest(h.ctx, n.ID)
	require.NoError(h.t, err)
	require.True(h.t, ok)
	found, err := problem.Search(h.ctx, nil)
	require.NoError(h.t, err)
	best := wire.FromNest(found)
	require.NoError(h.t, h.EndNest(h.ctx, n.ID, &best, ""))
	return line.Code
}

func (h *house) newBuild(serial string) builds.BuildLine {
	h.t.Helper()
	parts, err := h.Parts(h.ctx)
	require.NoError(h.t, err)
	b, err := h.StartBuild(
		h.ctx,
		h.as("Marek Orde"),
		parts[0].Code,
		builds.NewBuild{Serial: serial, CureAt: h.at.Add(30 * time.Hour)},
	)
	require.NoError(h.t, err)
	return b
}

func TestCuttingTakesTheLengthAndHandsOnTheClock(t *testing.T) {
	h := open(t)
	by := h.as("Tilda Brandl")
	b, roll := h.newBuild("0030"), h.roll("SU-2207").Code
	code := h.nested(b.Code, roll)
	_, err := h.ConfirmCut(h.ctx, by, code)
	refusal(t, err, book.Refused, "in the freezer")
	all, err := h.TakeOut(h.ctx, by, moved(roll))
	require.NoError(t, err)
	out := all[0]
	_, err = h.ConfirmCut(h.ctx, by, code)
	refusal(t, err, book.Refused, "is sealed")
	h.at = h.at.Add(2 * time.Hour)
	h.ready(roll)
	v, err := h.ConfirmCut(h.ctx, by, code)
	require.NoError(t, err)
	after := h.roll("SU-2207")
	assert.InDelta(t, out.Length-v.Length, after.Length, 1e-9)
	require.Len(t, after.Flaws, 1, "the flaw was on the length that is gone, the splice is not")
	assert.Equal(t, "splice", after.Flaws[0].Kind)
	var spent []float64
	require.NoError(
		t,
		h.DB.Gorm.Raw(`select spent from cut_plies c join builds b on b.id = c.build_id where b.code = ?`, b.Code).
			Scan(&spent).
			Error,
	)
	require.Len(t, spent, 8)
	for _, s := range spent {
		assert.InDelta(t, out.Fuse.Spent+2*3600, s, 1)
	}
	_, err = h.ConfirmCut(h.ctx, by, code)
	refusal(t, err, book.Conflict, "already cut")
}

func TestFlawsMoveWithTheRoll(t *testing.T) {
	h := open(t)
	by := h.as("Tilda Brandl")
	r := h.received("Sable UD 150", "flawed", 30, wire.Flaw{From: 5, To: 5.2})
	h.ready(r.Code)
	v, err := h.ConfirmCut(h.ctx, by, h.nested(h.newBuild("0040").Code, r.Code))
	require.NoError(t, err)
	left := h.roll("flawed").Flaws
	require.Len(t, left, 1)
	assert.InDelta(t, 5-v.Length, left[0].From, 1e-9)
}

func TestAFlawAcrossLiesOnTheRoll(t *testing.T) {
	h := open(t)
	by := h.as("Tilda Brandl")
	r := h.received("Sable UD 150", "flawed across", 30, wire.Flaw{From: 5, To: 5.2, Low: 0.1, High: 0.2})
	for _, f := range []wire.Flaw{
		{From: 1, To: 2, Low: 0.3, High: 0.2}, {From: 1, To: 2, High: r.Width + 0.01}, {From: 1, To: 2, Low: -0.1, High: 0.2},
	} {
		_, err := h.SetFlaws(h.ctx, by, r.Code, []wire.Flaw{f})
		refusal(t, err, book.Invalid, "across does not lie on a roll")
	}
	assert.Equal(t, 0.2, h.roll("flawed across").Flaws[0].High, "nothing of it was kept")
}

func TestAnOldRollIsRefusedAtTheCut(t *testing.T) {
	h := open(t)
	by := h.as("Tilda Brandl")
	b, roll := h.newBuild("0030"), h.roll("ST-0418").Code
	code := h.nested(b.Code, roll)
	h.ready(roll)
	_, err := h.ConfirmCut(h.ctx, by, code)
	refusal(t, err, book.Refused, "pass the end of its out-life by")
	queue, err := h.CutQueue(h.ctx)
	require.NoError(t, err)
	for _, d := range queue {
		if d.Material == "Sable twill 200" {
			assert.Equal(t, h.roll("ST-0455").Code, d.Rolls[0].Code, "the fresher roll is proposed")
			passed := map[string]string{}
			for _, r := range d.Rolls[1:] {
				passed[r.Batch+" "+r.Kind] = r.Passed
			}
			assert.Contains(t, passed["ST-0418 roll"], "out-life")
			assert.Contains(t, passed["ST-0460 roll"], "quarantine")
			assert.Contains(t, unit.Said(passed["ST-0455 off-cut"]), "mm wide")
		}
	}
}

func TestANestIsStaleOnceItsRollWasCut(t *testing.T) {
	h := open(t)
	by := h.as("Tilda Brandl")
	roll := h.roll("SU-2207").Code
	h.ready(roll)
	first, second := h.nested(h.newBuild("0030").Code, roll), h.nested(h.newBuild("0031").Code, roll)
	_, err := h.ConfirmCut(h.ctx, by, first)
	require.NoError(t, err)
	before := h.roll("SU-2207").Length
	_, err = h.ConfirmCut(h.ctx, by, second)
	refusal(t, err, book.Conflict, "has been cut since this nest was made")
	assert.Equal(t, before, h.roll("SU-2207").Length, "nothing is taken off for a refused cut")
	_, err = h.ConfirmCut(h.ctx, by, h.nested(h.build("0031").Code, roll))
	assert.NoError(t, err, "a nest of what is left can be cut")
}
