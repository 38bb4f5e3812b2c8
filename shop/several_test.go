package shop_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"juxta/core/nest"
	"juxta/shop/book"
	"juxta/shop/cutting"
)

// A nest on a short roll and the next one is one on each when it is found: both are cut and recorded by themselves,
// every ply once, and each roll gives its own length.
func TestANestOnSeveralRollsIsOneOnEach(t *testing.T) {
	h := open(t)
	by := h.as("Tilda Brandl")
	short, long := h.received("Sable UD 150", "S-1", 1.2), h.received("Sable UD 150", "S-2", 40)
	h.ready(short.Code)
	h.ready(long.Code)
	build := h.newBuild("0071")
	line, err := h.StartNest(h.ctx, by, cutting.NewNest{
		Roll: short.Code, Also: []string{long.Code}, Builds: []string{build.Code}, Steps: 300,
	})
	require.NoError(t, err)
	asked := line.Pieces

	// While it is searched the sheet of the first roll is drawn, and the other told of.
	var n cutting.Nest
	require.NoError(t, h.DB.Gorm.Where("code = ?", line.Code).Take(&n).Error)
	turn, problem, ok, err := h.BeginNest(h.ctx, n.ID)
	require.NoError(t, err)
	require.True(t, ok)
	found, err := problem.Search(h.ctx, nil)
	require.NoError(t, err)
	_, err = h.NestProgress(h.ctx, turn, found, 1)
	require.NoError(t, err)
	live, err := h.Nest(h.ctx, line.Code)
	require.NoError(t, err)
	require.Len(t, live.Others, 1)
	assert.Equal(t, long.Code, live.Others[0].Roll)
	assert.Empty(t, live.Others[0].Nest)
	assert.Equal(t, asked, len(live.Placed)+live.Others[0].Plies)
	assert.InDelta(t, found.Used[0], live.Length, 1e-9)

	// Its worker falls silent, another finds the nest, and what the first finds in the end changes nothing.
	h.silent("nests", n.ID)
	_, _, ok, err = h.BeginNest(h.ctx, n.ID)
	require.NoError(t, err)
	require.True(t, ok)
	require.ErrorIs(t, h.EndNest(h.ctx, turn, nil, "late"), book.ErrTurnOver)
	h.silent("nests", n.ID)
	v := h.searched(line.Code)
	best := found
	require.ErrorIs(t, h.EndNest(h.ctx, turn, &best, ""), book.ErrTurnOver)
	_, err = h.NestProgress(h.ctx, turn, best, 1)
	require.ErrorIs(t, err, book.ErrTurnOver)
	require.NoError(t, h.Abandon(h.ctx, turn))
	after, err := h.Nest(h.ctx, line.Code)
	require.NoError(t, err)
	assert.Equal(t, v, after)
	require.Len(t, v.Others, 1)
	other, err := h.Nest(h.ctx, v.Others[0].Nest)
	require.NoError(t, err)
	assert.Equal(t, short.Code, v.Roll)
	assert.Equal(t, long.Code, other.Roll)
	assert.Equal(t, v.Code, other.Others[0].Nest, "each names the other")
	assert.NotEmpty(t, v.Placed)
	assert.NotEmpty(t, other.Placed)
	assert.Equal(t, asked, v.Pieces+other.Pieces)
	assert.Less(t, v.Length, 1.2)

	for _, code := range []string{v.Code, other.Code} {
		var one cutting.Nest
		require.NoError(t, h.DB.Gorm.Where("code = ?", code).Take(&one).Error)
		require.NoError(t, nest.Verify(one.Problem.Problem, *one.Best))
		cut, err := h.ConfirmCut(h.ctx, by, code)
		require.NoError(t, err)
		for _, p := range cut.Placed {
			assert.NotEmpty(t, p.CutPly)
		}
	}
	var plies int64
	require.NoError(t, h.DB.Gorm.Table("cut_plies c").Joins("join builds b on b.id = c.build_id").
		Where("b.code = ?", build.Code).Count(&plies).Error)
	assert.EqualValues(t, asked, plies)
	for code, taken := range map[string]float64{short.Code: v.Length, long.Code: other.Length} {
		r, err := h.Roll(h.ctx, code)
		require.NoError(t, err)
		assert.InDelta(t, map[string]float64{short.Code: 1.2, long.Code: 40}[code]-taken, r.Length, 1e-6)
	}
}

// What must be complete from the first roll comes first; what then has no room is left out, waits, and is cut from
// the next.
func TestAKitThatMustBeCompleteComesFirst(t *testing.T) {
	h := open(t)
	by := h.as("Tilda Brandl")
	roll := h.received("Sable UD 150", "S-3", 40)
	a, b := h.newBuild("0072"), h.newBuild("0073")
	alone := func(of ...string) float64 {
		line, err := h.StartNest(h.ctx, by, cutting.NewNest{Roll: roll.Code, Builds: of, Steps: 300})
		require.NoError(t, err)
		return h.searched(line.Code).Length
	}
	one := alone(b.Code)
	short := h.received("Sable UD 150", "S-4", one*1.15)
	ask := cutting.NewNest{
		Roll: short.Code, Builds: []string{a.Code, b.Code}, Whole: []string{b.Code}, Leave: true, Steps: 400,
	}
	line, err := h.StartNest(h.ctx, by, ask)
	require.NoError(t, err)
	v := h.searched(line.Code)
	require.NotEmpty(t, v.Left)
	for _, p := range v.Placed {
		assert.Equal(t, b.Code, p.Build)
	}
	assert.Len(t, v.Left, line.Pieces/2)

	ask.Also, ask.Leave = []string{roll.Code}, false
	line, err = h.StartNest(h.ctx, by, ask)
	require.NoError(t, err)
	v = h.searched(line.Code)
	require.Len(t, v.Others, 1)
	own := 0
	for _, p := range v.Placed {
		if p.Build == b.Code {
			own++
		}
	}
	assert.Equal(t, line.Pieces/2, own, "complete from the first roll, whatever else has room there")
	assert.Empty(t, v.Left)
}

func TestRollsThatDoNotBelongTogetherAreRefused(t *testing.T) {
	h := open(t)
	by := h.as("Tilda Brandl")
	roll, weave := h.roll("SU-2207").Code, h.roll("ST-0455").Code
	build := h.newBuild("0074").Code
	for field, in := range map[string]cutting.NewNest{
		"also[0]": {Roll: roll, Also: []string{weave}, Builds: []string{build}},
		"also[1]": {Roll: roll, Also: []string{h.received("Sable UD 150", "S-5", 9).Code, roll},
			Builds: []string{build}},
		"whole[0]": {Roll: roll, Builds: []string{build}, Whole: []string{"B-9999"}},
	} {
		_, err := h.StartNest(h.ctx, by, in)
		var wrong *book.Error
		require.ErrorAs(t, err, &wrong, field)
		assert.Equal(t, field, wrong.Field)
	}
}
