package shop_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"juxta/shop"
	"juxta/shop/book"
	"juxta/shop/stock"
)

// Answers that are kept must never be older than the last change, whichever
// process made it.
func TestKeptAnswersEndWithTheNextChange(t *testing.T) {
	h := open(t)
	other := shop.New(&book.Book{DB: h.DB, Queue: noQueue{}, Oven: "test", Altitude: 640, Now: h.Now})
	var roll stock.RollView
	for _, r := range h.rolls() {
		if !r.OutTime.Out && r.OutTime.Ages {
			roll = r
		}
	}
	_, err := h.TakeOut(h.ctx, h.as("Tilda Brandl"), moved(roll.Code))
	require.NoError(t, err)
	page := func(s *shop.Shop) stock.RollView {
		t.Helper()
		stock, err := s.Rolls(h.ctx, stock.RollQuery{Find: roll.Code, State: "all"})
		require.NoError(t, err)
		require.Len(t, stock.Rolls, 1)
		return stock.Rolls[0]
	}
	before := page(h.Shop)
	require.Equal(t, before, page(h.Shop), "nothing happened")
	require.NoError(t, h.DB.Gorm.Exec(`update rolls set place = 'elsewhere' where code = ?`, roll.Code).Error)
	assert.Equal(t, before.Place, page(h.Shop).Place, "kept: a change that no entry tells of is not one of ours")

	require.NotNil(t, before.OutSince)
	h.at = h.at.Add(time.Hour)
	later := page(h.Shop)
	assert.InDelta(t, before.OutTime.Spent+3600, later.OutTime.Spent, 1, "the clock ends an answer, too")
	_, err = other.PutBack(h.ctx, h.as("Tilda Brandl"), moved(roll.Code))
	require.NoError(t, err)
	assert.Nil(t, page(h.Shop).OutSince, "another process put it back within the life of an answer")
}
