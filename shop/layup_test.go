package shop_test

import (
	"encoding/json"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"juxta/core/material"
	"juxta/core/unit"
	"juxta/shop/book"
	"juxta/shop/builds"
	"juxta/shop/people"
	"juxta/store/storetest"
)

// nextPly is the signature that the bench of a build waits for.
func (h *house) nextPly(build string) builds.SignPly {
	h.t.Helper()
	v, err := h.Layup(h.ctx, build, "")
	require.NoError(h.t, err)
	require.NotNil(h.t, v.Next)
	require.False(h.t, v.Next.Debulk)
	return builds.SignPly{Ply: v.Next.Ply, CutPly: v.NextCut, FilmsOff: v.Plies[v.Next.Ply-1].Films}
}

func TestTheBenchRefusesTheWrongOrder(t *testing.T) {
	h := open(t)
	by := h.as("Ines Falk")
	build := h.build("0002").Code
	in := h.nextPly(build)
	kit, err := h.Kit(h.ctx, build, "")
	require.NoError(t, err)
	_, err = h.Sign(h.ctx, by, build, builds.SignPly{Ply: 7, CutPly: kit.Plies[7].Cut[0].Code, FilmsOff: 1})
	refusal(t, err, book.Conflict, "is ply 8: ply 7 comes next")
	_, err = h.Sign(h.ctx, by, build, builds.SignPly{Ply: 9, CutPly: kit.Plies[8].Cut[0].Code, FilmsOff: 1})
	refusal(t, err, book.Conflict, "ply 7 comes next, not ply 9")
	_, err = h.Sign(h.ctx, by, build, builds.SignPly{Ply: 7, CutPly: in.CutPly, FilmsOff: 2})
	refusal(t, err, book.Invalid, "has 1 films")
	_, err = h.StartDebulk(h.ctx, by, build, "")
	refusal(t, err, book.Conflict, "no debulk is due")
	for range 3 {
		_, err = h.Sign(h.ctx, by, build, h.nextPly(build))
		require.NoError(t, err)
	}
	_, err = h.Sign(h.ctx, by, build, builds.SignPly{Ply: 10, CutPly: kit.Plies[9].Cut[0].Code, FilmsOff: 2})
	refusal(t, err, book.Refused, "debulk first: due after ply 9")
}

func TestAShortDebulkStaysOnRecordAndDoesNotCount(t *testing.T) {
	h := open(t)
	by := h.as("Ines Falk")
	build := h.build("0002").Code
	for range 3 {
		_, err := h.Sign(h.ctx, by, build, h.nextPly(build))
		require.NoError(t, err)
	}
	debulk := func(d time.Duration, vacuum float64) builds.LayupView {
		_, err := h.StartDebulk(h.ctx, by, build, "")
		require.NoError(t, err)
		h.at = h.at.Add(d)
		v, err := h.EndDebulk(h.ctx, by, build, "", builds.DebulkEnd{Vacuum: vacuum})
		require.NoError(t, err)
		return v
	}
	v := debulk(5*time.Minute, 90e3)
	assert.True(t, v.Next.Debulk, "still due")
	assert.Contains(t, v.Debulks[len(v.Debulks)-1].Message, "lasted 5.0 min")
	v = debulk(16*time.Minute, 70e3)
	assert.True(t, v.Next.Debulk)
	assert.Contains(t, unit.InMetric(v.Debulks[len(v.Debulks)-1].Message), "70 kPa")
	v = debulk(16*time.Minute, 88e3)
	assert.False(t, v.Next.Debulk)
	v, err := h.TakeBack(h.ctx, by, build, 9, "bridged in the corner")
	require.NoError(t, err)
	assert.False(t, v.Debulks[len(v.Debulks)-1].Counts, "a debulk on a ply that came off counts no more")
	assert.Len(t, v.TakenBack, 1)
}

func TestAFilmUnaccountedForStopsTheDebulkUntilItIsFound(t *testing.T) {
	h := open(t)
	by, build := h.as("Ines Falk"), h.build("0002").Code
	short := h.nextPly(build)
	short.FilmsOff--
	_, err := h.Sign(h.ctx, by, build, short)
	require.NoError(t, err)
	v, err := h.Layup(h.ctx, build, "")
	require.NoError(t, err)
	assert.Equal(t, []int{7}, v.FilmsShort)
	for range 2 {
		_, err = h.Sign(h.ctx, by, build, h.nextPly(build))
		require.NoError(t, err)
	}
	_, err = h.StartDebulk(h.ctx, by, build, "")
	refusal(t, err, book.Refused, "ply 7: a film is unaccounted for")
	_, err = h.FoundFilm(h.ctx, by, build, 8)
	refusal(t, err, book.Conflict, "every film of ply 8 is accounted for")
	_, err = h.FoundFilm(h.ctx, by, build, 10)
	refusal(t, err, book.Conflict, "ply 10 is not laid")
	v, err = h.FoundFilm(h.ctx, h.as("Tilda Brandl"), build, 7)
	require.NoError(t, err)
	assert.Empty(t, v.FilmsShort)
	_, err = h.StartDebulk(h.ctx, by, build, "")
	require.NoError(t, err)
	_, err = h.StartDebulk(h.ctx, h.as("Tilda Brandl"), build, "")
	refusal(t, err, book.Conflict, "already running, started by Ines Falk")
	_, err = h.TakeBack(h.ctx, by, build, 9, "bubble")
	refusal(t, err, book.Conflict, "a debulk is running")
	_, err = h.EndDebulk(h.ctx, by, build, "", builds.DebulkEnd{Vacuum: 200e3})
	refusal(t, err, book.Invalid, "a vacuum of 200 kPa is not possible")
}

func TestTakingBackNeedsAReasonAndTheLastPly(t *testing.T) {
	h := open(t)
	by, build := h.as("Ines Falk"), h.build("0002").Code
	_, err := h.TakeBack(h.ctx, by, build, 6, "   ")
	refusal(t, err, book.Invalid, "say why the ply comes off")
	for ply := 6; ply >= 1; ply-- {
		v, err := h.TakeBack(h.ctx, by, build, ply, "laid on the wrong tool")
		require.NoError(t, err)
		assert.Len(t, v.Laid, ply-1)
		assert.Equal(t, ply, v.Next.Ply, "it comes next again")
		assert.False(t, v.Next.Debulk)
	}
	_, err = h.TakeBack(h.ctx, by, build, 1, "again")
	refusal(t, err, book.Conflict, "no ply is laid yet")
	v, err := h.Layup(h.ctx, build, "")
	require.NoError(t, err)
	assert.Len(t, v.TakenBack, 6, "what came off stays on record")
	assert.Zero(t, v.SinceDebulk)
	h.layAll(build)
	assert.Equal(t, "bag", h.build("0002").Room)
}

func TestAReferralStaysWithThePartToItsRelease(t *testing.T) {
	h := open(t)
	by, build := h.as("Ines Falk"), h.build("0002").Code
	_, err := h.ReferBuild(h.ctx, by, build, "", " ")
	refusal(t, err, book.Invalid, "say what is to be looked at")
	_, err = h.ReferBuild(h.ctx, by, build, "", "fold near the hinge pad")
	require.NoError(t, err)
	_, err = h.Sign(h.ctx, by, build, h.nextPly(build))
	require.NoError(t, err, "it forbids nothing")
	v, err := h.ReleaseOf(h.ctx, build)
	require.NoError(t, err)
	require.Len(t, v.Referred, 1)
	assert.Equal(t, "fold near the hinge pad", v.Referred[0].Why)
	assert.Contains(t, v.Missing, "no finished cure run")
	assert.Contains(t, v.Missing, "no leak check that passed")
}

func TestAKitInTheFreezerOrSpentIsNotLaid(t *testing.T) {
	h := open(t)
	by, build := h.as("Ines Falk"), h.build("0002").Code
	for ply := 6; ply >= 1; ply-- {
		_, err := h.TakeBack(h.ctx, by, build, ply, "start again tomorrow")
		require.NoError(t, err)
	}
	_, err := h.MoveKit(h.ctx, by, build, material.In, 2, "")
	require.NoError(t, err)
	_, err = h.Sign(h.ctx, by, build, h.nextPly(build))
	refusal(t, err, book.Refused, "the kit is in the freezer")
	_, err = h.MoveKit(h.ctx, by, build, material.In, 2, "")
	refusal(t, err, book.Conflict, "already there")
	_, err = h.MoveKit(h.ctx, by, build, material.Out, 0, "")
	require.NoError(t, err)
	h.at = h.at.Add(11 * 24 * time.Hour)
	_, err = h.Sign(h.ctx, by, build, h.nextPly(build))
	refusal(t, err, book.Refused, "out-life of 240 h is spent")
}

// A master that demands a qualification is laid and bagged by who holds it; cut,
// counted and inspected by others.
func TestAMasterDemandsItsQualifications(t *testing.T) {
	h := open(t)
	b := h.build("0002")
	v, err := h.Revision(h.ctx, b.Part, b.Letter)
	require.NoError(t, err)
	v.Process.Qualifications = []string{"bonding"}
	raw, err := json.Marshal(v.Process)
	require.NoError(t, err)
	// A released revision is frozen: the demand is put where it would have been.
	for _, do := range []string{`alter table revisions disable trigger user`, `update revisions
		set process = '` + string(raw) + `' where letter = 'A' and part_id = (select id from parts
		where number = 'SP-11')`, `alter table revisions enable trigger user`} {
		require.NoError(t, storetest.Owner(t, h.DB).Gorm.Exec(do).Error)
	}
	sign := h.nextPly(b.Code)
	_, err = h.Sign(h.ctx, h.as("Ines Falk"), b.Code, sign)
	refusal(
		t,
		err,
		book.Refused,
		`lay and debulk of SP-11 A needs the qualification "bonding", which Ines Falk does not hold`,
	)
	_, err = h.Sign(h.ctx, h.as("Tilda Brandl"), b.Code, sign)
	refusal(t, err, book.Refused, `the qualification "bonding" of Tilda Brandl ended on`)
	_, err = h.Qualify(
		h.ctx,
		h.as("Jonas Quist"),
		h.as("Ines Falk").Person.ID,
		people.NewQualification{
			Kind:       "bonding",
			ValidFrom:  h.at.Add(-time.Hour),
			ValidUntil: h.at.Add(time.Hour),
			Evidence:   "course B1, paper 140",
		},
	)
	require.NoError(t, err)
	_, err = h.Sign(h.ctx, h.as("Ines Falk"), b.Code, sign)
	require.NoError(t, err)
	h.at = h.at.Add(2 * time.Hour)
	_, err = h.Sign(h.ctx, h.as("Ines Falk"), b.Code, h.nextPly(b.Code))
	refusal(t, err, book.Refused, `"bonding" of Ines Falk ended on`)
}
