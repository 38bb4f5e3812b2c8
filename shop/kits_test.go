package shop_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"juxta/shop/book"
	"juxta/shop/builds"
	"juxta/shop/stock"
)

func TestAKitNamesMissingAndDoubledPlies(t *testing.T) {
	h := open(t)
	by := h.as("Tilda Brandl")
	b := h.newBuild("0030")
	for _, r := range []stock.RollView{h.roll("SU-2291"), h.roll("SU-2207"), h.roll("ST-0455")} {
		h.ready(r.Code)
	}
	// Two nests of the same plies, both cut: every unidirectional ply is there twice.
	first, second := h.nested(b.Code, h.roll("SU-2291").Code), h.nested(b.Code, h.roll("SU-2207").Code)
	for _, n := range []string{first, second, h.nested(b.Code, h.roll("ST-0455").Code)} {
		_, err := h.ConfirmCut(h.ctx, by, n)
		require.NoError(t, err)
	}
	kit, err := h.Kit(h.ctx, b.Code, "")
	require.NoError(t, err)
	for _, p := range kit.Plies {
		if p.Number == 5 {
			continue
		}
		_, err := h.CountPly(h.ctx, by, b.Code, p.Cut[0].Code)
		require.NoError(t, err)
	}
	_, err = h.CloseKit(h.ctx, by, b.Code, "", "")
	refusal(t, err, book.Refused, "ply 5 missing")
	_, err = h.CountPly(h.ctx, by, b.Code, kit.Plies[1].Cut[0].Code)
	refusal(t, err, book.Conflict, "already counted")
	_, err = h.CountPly(h.ctx, by, b.Code, kit.Plies[4].Cut[1].Code)
	require.NoError(t, err)
	_, err = h.CountPly(h.ctx, by, b.Code, kit.Plies[1].Cut[1].Code)
	require.NoError(t, err)
	_, err = h.CloseKit(h.ctx, by, b.Code, "", "")
	refusal(t, err, book.Refused, "ply 2 doubled")
	_, err = h.Sign(h.ctx, by, b.Code, builds.SignPly{Ply: 1, CutPly: kit.Plies[0].Cut[0].Code})
	refusal(t, err, book.Refused, "count the kit first")
	_, err = h.SetAside(h.ctx, by, b.Code, kit.Plies[1].Cut[0].Code)
	require.NoError(t, err)
	done, err := h.CloseKit(h.ctx, by, b.Code, "", "")
	require.NoError(t, err)
	assert.Equal(t, "layup", done.Build.Room)
}

func TestAKitsClockStopsInTheFreezer(t *testing.T) {
	h := open(t)
	by := h.as("Tilda Brandl")
	b := h.newBuild("0030")
	_, err := h.MoveKit(h.ctx, by, b.Code, "in", 1, "")
	refusal(t, err, book.Conflict, "nothing of this kit is cut")
	ud := h.roll("SU-2291").Code
	h.ready(ud)
	_, err = h.ConfirmCut(h.ctx, by, h.nested(b.Code, ud))
	require.NoError(t, err)
	h.at = h.at.Add(time.Hour)
	_, err = h.MoveKit(h.ctx, by, b.Code, "in", 0, "")
	refusal(t, err, book.Invalid, "say in which freezer")
	kit, err := h.MoveKit(h.ctx, by, b.Code, "in", 2, "")
	require.NoError(t, err)
	assert.InDelta(t, 3600, kit.Build.OutTime.Spent, 1)
	h.at = h.at.Add(10 * time.Hour)
	kit, err = h.MoveKit(h.ctx, by, b.Code, "out", 0, "")
	require.NoError(t, err)
	assert.InDelta(t, 3600, kit.Build.OutTime.Spent, 1, "ten hours in the freezer cost nothing")
	h.at = h.at.Add(time.Hour)
	kit, err = h.Kit(h.ctx, b.Code, "")
	require.NoError(t, err)
	assert.InDelta(t, 2*3600, kit.Build.OutTime.Spent, 1)
	// The freezer was too warm for half an hour while the kit lay in it.
	from, to := h.at.Add(-3*time.Hour), h.at.Add(-150*time.Minute)
	_, err = h.ReportFailure(h.ctx, by, 2, stock.NewFailure{From: from, To: &to, Reason: "fuse blown"})
	require.NoError(t, err)
	kit, err = h.Kit(h.ctx, b.Code, "")
	require.NoError(t, err)
	assert.InDelta(t, 2.5*3600, kit.Build.OutTime.Spent, 1)
}
