package shop_test

import (
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"juxta/shop/book"
	"juxta/shop/climate"
	"juxta/shop/stock"
	"juxta/store/storetest"
)

// hears lets a sensor say temperatures, one a minute, ending now.
func (h *house) hears(topic string, celsius ...float64) {
	h.t.Helper()
	for i := range celsius {
		h.at = h.at.Add(time.Minute)
		known, err := h.Sense(h.ctx, topic, climate.LoggerReading{At: h.at, Temperature: &celsius[i]})
		require.NoError(h.t, err)
		require.True(h.t, known)
	}
}

func (h *house) openAlarms() []climate.AlarmView {
	h.t.Helper()
	all, err := h.Alarms(h.ctx, false)
	require.NoError(h.t, err)
	out := []climate.AlarmView{}
	for _, a := range all {
		if a.EndedAt == nil {
			out = append(out, a)
		}
	}
	return out
}

func steady(c float64, n int) []float64 {
	out := make([]float64, n)
	for i := range out {
		out[i] = c
	}
	return out
}

func TestAWarmFreezerRaisesOneAlarmThatAPersonMustSee(t *testing.T) {
	h := open(t)
	h.hears("juxta/freezer-2", steady(-9, 10)...)
	assert.Empty(t, h.openAlarms(), "ten minutes are not over")
	h.hears("juxta/freezer-2", -8, -7, -6.5)
	alarms := h.openAlarms()
	require.Len(t, alarms, 1)
	assert.Equal(t, "too warm", alarms[0].Kind)
	assert.Equal(t, "Freezer 2", alarms[0].Freezer)
	assert.InDelta(t, 273.15-6.5, *alarms[0].Worst, 1e-9)
	assert.Equal(t, 4, alarms[0].Rolls)
	h.hears("juxta/freezer-2", -5)
	assert.InDelta(t, 273.15-5, *h.openAlarms()[0].Worst, 1e-9)
	h.hears("juxta/freezer-2", -19)
	assert.Empty(t, h.openAlarms(), "over")
	all, err := h.Alarms(h.ctx, false)
	require.NoError(t, err)
	require.Len(t, all, 2, "but nobody has seen it, nor the demo's")
	_, err = h.SeeAlarm(h.ctx, h.as("Ines Falk"), all[0].ID, " ")
	refusal(t, err, book.Invalid, "say what you found and did")
	_, err = h.SeeAlarm(h.ctx, h.as("Hedda Solm"), all[0].ID, "looked")
	refusal(t, err, book.Refused, "can acknowledge alarms")
	seen, err := h.SeeAlarm(h.ctx, h.as("Ines Falk"), all[0].ID, "door was ajar, closed it")
	require.NoError(t, err)
	assert.Equal(t, "Ines Falk", seen.SeenBy)
	_, err = h.SeeAlarm(h.ctx, h.as("Tilda Brandl"), all[0].ID, "x")
	refusal(t, err, book.Conflict, "acknowledged this alarm already")
	_, err = h.SeeAlarm(h.ctx, h.as("Tilda Brandl"), 999, "x")
	refusal(t, err, book.Missing, "no such alarm")
}

func TestFaultsOfASensorNeitherAlarmNorCalm(t *testing.T) {
	h := open(t)
	// Spikes, and values that no freezer can have.
	for range 8 {
		h.hears("juxta/freezer-1", -20, 45, -20, 400, -300)
	}
	assert.Empty(t, h.openAlarms())
	// A drift ends in an alarm, as it must: nobody can tell it from warming.
	for c := -20.0; c < -5; c += 0.5 {
		h.hears("juxta/freezer-1", c)
	}
	require.Len(t, h.openAlarms(), 1)
	// A silence is told as well.
	h.at = h.at.Add(16 * time.Minute)
	require.NoError(t, h.WatchSensors(h.ctx))
	kinds := map[string]int{}
	for _, a := range h.openAlarms() {
		kinds[a.Kind]++
	}
	assert.Equal(t, map[string]int{"too warm": 1, "silent": 3}, kinds)
	require.NoError(t, h.WatchSensors(h.ctx))
	assert.Len(t, h.openAlarms(), 4, "each is raised once")
	h.hears("juxta/freezer-2", -19)
	assert.Len(t, h.openAlarms(), 3, "who speaks again is not silent")
	// What nobody entered, and what lies in the future.
	known, err := h.Sense(h.ctx, "juxta/nowhere", climate.LoggerReading{At: h.at})
	require.NoError(t, err)
	assert.False(t, known)
	_, err = h.Sense(h.ctx, "juxta/room", climate.LoggerReading{At: h.at.Add(time.Hour)})
	assert.ErrorContains(t, err, "future")
}

func TestReadingsMayComeTwiceAndFromManyProcesses(t *testing.T) {
	h := open(t)
	var all sync.WaitGroup
	h.at = h.at.Add(time.Hour)
	at := h.at
	for range 6 {
		all.Go(func() {
			for k := range 14 {
				warm := -5.0
				_, err := h.Sense(
					h.ctx,
					"juxta/freezer-2",
					climate.LoggerReading{At: at.Add(time.Duration(k-13) * time.Minute), Temperature: &warm},
				)
				assert.NoError(t, err)
			}
		})
	}
	all.Wait()
	assert.Len(t, h.openAlarms(), 1, "one alarm, however many listen")
	assert.Equal(t, 1, h.count(`select count(*) from entries where what = 'alarm raised' and subject = 'Freezer 2'`))
}

func TestFreezersAndSensorsAreEnteredByThoseWhoKeepThem(t *testing.T) {
	h := open(t)
	quist := h.as("Jonas Quist")
	f, err := h.SaveFreezer(
		h.ctx,
		quist,
		0,
		stock.FreezerIn{Name: "Freezer 3", LimitTemp: 255, Places: []string{"door"}},
	)
	require.NoError(t, err)
	_, err = h.SaveFreezer(h.ctx, quist, 0, stock.FreezerIn{Name: "Freezer 3", LimitTemp: 255})
	refusal(t, err, book.Conflict, "already a freezer called Freezer 3")
	_, err = h.SaveFreezer(h.ctx, h.as("Ines Falk"), f.ID, stock.FreezerIn{Name: "x", LimitTemp: 255})
	refusal(t, err, book.Refused, "only a quality person or an administrator can")
	_, err = h.SaveFreezer(h.ctx, quist, 99, stock.FreezerIn{Name: "x", LimitTemp: 255})
	refusal(t, err, book.Missing, "no such freezer")
	_, err = h.SaveSensor(h.ctx, quist, 0, climate.SensorIn{Topic: "juxta/#", Name: "all"})
	refusal(t, err, book.Invalid, "no # and no +")
	_, err = h.SaveSensor(h.ctx, quist, 0, climate.SensorIn{Topic: "juxta/freezer-1", Name: "twice"})
	refusal(t, err, book.Conflict, "another sensor already speaks on juxta/freezer-1")
	_, err = h.SaveSensor(
		h.ctx,
		quist,
		0,
		climate.SensorIn{Topic: "juxta/freezer-3", Name: "Freezer 3", FreezerID: f.ID},
	)
	require.NoError(t, err)
	h.hears("juxta/freezer-3", -30)
	all, err := h.Freezers(h.ctx)
	require.NoError(t, err)
	require.Len(t, all, 3)
	assert.InDelta(t, 243.15, *all[2].Now, 1e-9)
}

func TestTheLogIsBrowsedFilteredAndChecked(t *testing.T) {
	h := open(t)
	falk := h.as("Ines Falk").Person.ID
	hers, err := h.Log(h.ctx, book.LogQuery{Person: falk, What: "ply signed", Limit: 5})
	require.NoError(t, err)
	require.Len(t, hers, 5)
	for _, e := range hers {
		assert.Equal(t, "Ines Falk", e.Person)
		assert.Contains(t, e.Detail, `"meaning":"laid"`)
		assert.Contains(t, e.Detail, `"role":"technician"`)
		assert.Len(t, e.Hash, 64)
	}
	next, err := h.Log(h.ctx, book.LogQuery{Person: falk, What: "ply signed", Limit: 5, Before: hers[4].Seq})
	require.NoError(t, err)
	assert.Less(t, next[0].Seq, hers[4].Seq)
	none, err := h.Log(h.ctx, book.LogQuery{From: h.at.Add(time.Hour)})
	require.NoError(t, err)
	assert.Empty(t, none)
	n, last := 0, int64(0)
	require.NoError(t, h.EachEntry(h.ctx, book.LogQuery{}, func(e book.LogEntry) error {
		assert.Equal(t, last+1, e.Seq, "oldest first, none left out")
		n, last = n+1, e.Seq
		return nil
	}))
	state, err := h.CheckLog(h.ctx)
	require.NoError(t, err)
	assert.True(t, state.Holds)
	assert.Equal(t, int64(n), state.Entries)
	owner := storetest.Owner(t, h.DB).Gorm
	require.NoError(t, owner.Exec(`alter table entries disable trigger entries_append_only`).Error)
	require.NoError(t, owner.Exec(`update entries set why = 'never mind' where seq = 40`).Error)
	state, err = h.CheckLog(h.ctx)
	require.NoError(t, err)
	assert.Equal(t, book.LogState{Entries: 40, Broken: 40}, state)
}
