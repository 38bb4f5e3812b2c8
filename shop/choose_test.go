package shop_test

import (
	"fmt"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"juxta/shop/book"
	"juxta/shop/climate"
	"juxta/shop/cutting"
	"juxta/shop/stock"
)

func TestWhichRollForABuildOrSomeOfItsPlies(t *testing.T) {
	h := open(t)
	build := h.build("0003").Code
	demands, err := h.WhichRoll(h.ctx, build, nil)
	require.NoError(t, err)
	require.Len(t, demands, 2)
	byMaterial := map[string]cutting.CutDemand{}
	for _, d := range demands {
		byMaterial[d.Material] = d
	}
	ud := byMaterial["Sable UD 150"]
	assert.Equal(t, 8, ud.Plies)
	assert.Equal(t, "SU-2207", ud.Rolls[0].Batch, "the first to expire that fits")
	assert.Empty(t, ud.Rolls[0].Passed)
	assert.Equal(t, "SU-2291", ud.Rolls[1].Batch)
	assert.Contains(t, ud.Rolls[2].Passed, "SU-2304 is not accepted yet")
	twill := byMaterial["Sable twill 200"]
	assert.InDelta(t, 0.63, twill.Widest, 1e-3)
	for _, r := range twill.Rolls[1:] {
		assert.NotEmpty(t, r.Passed, "%s has its reason", r.Code)
	}
	some, err := h.WhichRoll(h.ctx, build, []int{2, 3})
	require.NoError(t, err)
	require.Len(t, some, 1)
	assert.Equal(t, 2, some[0].Plies)
	none, err := h.WhichRoll(h.ctx, build, []int{99})
	require.NoError(t, err)
	assert.Empty(t, none)
	_, err = h.WhichRoll(h.ctx, "B-00000", nil)
	refusal(t, err, book.Invalid, "check character")
	// With a large stock the best are told of, and how many more there are.
	rows := []stock.StockRow{}
	for i := range 40 {
		rows = append(
			rows,
			stock.StockRow{
				Line:     i + 2,
				Material: "Sable UD 150",
				Lot:      fmt.Sprintf("SU-4%03d", i),
				Length:   30 + float64(i),
				Accepted: true,
			},
		)
	}
	_, err = h.StoreStock(h.ctx, h.as("Jonas Quist"), rows, nil)
	require.NoError(t, err)
	demands, err = h.WhichRoll(h.ctx, build, []int{2, 3})
	require.NoError(t, err)
	assert.Equal(t, 42-12, demands[0].MoreFit)
	assert.Len(t, demands[0].Rolls, 12+1)
	assert.Equal(t, "SU-2207", demands[0].Rolls[0].Batch)
}

func TestWhatRunsShortAndWhen(t *testing.T) {
	h := open(t)
	by := h.as("Tilda Brandl")
	short := func() cutting.ScarceView {
		all, err := h.Scarcity(h.ctx)
		require.NoError(t, err)
		for _, s := range all {
			if s.Material == "Sable twill 200" {
				return s
			}
		}
		t.Fatal("nobody needs twill")
		return cutting.ScarceView{}
	}
	before := short()
	assert.Empty(t, before.Short)
	assert.True(t, before.Measured)
	assert.InDelta(t, 50, before.Waiting, 1e-6, "what is in quarantine is not on hand")
	// All but a metre of the only good roll is thrown away.
	roll := h.roll("ST-0455")
	_, err := h.Scrap(h.ctx, by, roll.Code, stock.ScrapLength{Length: roll.Length - 1, Reason: "contaminated"})
	require.NoError(t, err)
	h.newBuild("0099")
	after := short()
	require.NotEmpty(t, after.Short)
	first := after.Short[0]
	require.Equal(t, "0003", first.Serial, "it alone needs more than all that is left")
	assert.Positive(t, first.Short)
	assert.Less(t, after.OnHand, before.OnHand)
	// The quarantine is lifted and the batch accepted: nothing is short any more.
	b := h.batch("ST-0460")
	_, err = h.DecideBatch(
		h.ctx,
		h.as("Jonas Quist"),
		b.Code,
		stock.BatchDecision{Do: "override", Reason: "arrived at -11.5 °C for an hour by its log", PIN: pin},
	)
	require.NoError(t, err)
	assert.Empty(t, short().Short)
}

func TestAStayIsAlsoCountedByTheRoomsTemperature(t *testing.T) {
	h := open(t)
	h.at = h.at.Add(time.Minute)
	code := h.roll("SU-2291").Code
	_, err := h.TakeOut(h.ctx, h.as("Tilda Brandl"), moved(code))
	require.NoError(t, err)
	start := h.at
	for k := range 13 {
		warm := 31.0
		h.at = start.Add(time.Duration(k) * 10 * time.Minute)
		_, err := h.Sense(h.ctx, "juxta/room", climate.LoggerReading{At: h.at, Temperature: &warm})
		require.NoError(t, err)
	}
	d, err := h.Roll(h.ctx, code)
	require.NoError(t, err)
	require.NotNil(t, d.Ageing)
	assert.InDelta(t, 7200, d.Ageing.Out, 1)
	// By hand: exp(-85000/8.3145 (1/304.15 - 1/294.15)) = 3.137 times as fast.
	assert.InEpsilon(t, 7200*3.137, d.Ageing.Equivalent, 0.02)
	assert.InDelta(t, 1, d.Ageing.Covered, 0.01)
	assert.InDelta(t, d.OutTime.Spent, d.Bench, 1, "the clock of the ledger counts hours, not degrees")
}
