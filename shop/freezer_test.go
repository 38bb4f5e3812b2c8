package shop_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"juxta/core/geom"
	"juxta/core/ident"
	"juxta/core/nest"
	"juxta/shop/book"
	"juxta/shop/stock"
)

func TestRollsRefuseWhatCannotBe(t *testing.T) {
	h := open(t)
	by := h.as("Tilda Brandl")
	fresh, out := h.roll("SU-2291").Code, h.roll("ST-0455").Code
	_, err := h.PutBack(h.ctx, by, moved(fresh))
	refusal(t, err, book.Conflict, "put back without having been taken out")
	_, err = h.TakeOut(h.ctx, by, moved(out))
	refusal(t, err, book.Conflict, "already out")
	in := moved(fresh)
	tomorrow, past := h.at.Add(24*time.Hour), h.at.Add(-1000*24*time.Hour)
	in.At = &tomorrow
	_, err = h.TakeOut(h.ctx, by, in)
	refusal(t, err, book.Invalid, "future")
	in.At = &past
	_, err = h.TakeOut(h.ctx, by, in)
	refusal(t, err, book.Conflict, "received after something else had happened")
	_, err = h.TakeOut(h.ctx, by, moved("R-ZZZZZ"))
	refusal(t, err, book.Invalid, "wrong check character")
	_, err = h.TakeOut(h.ctx, by, moved(ident.Format(ident.Roll, 9999)))
	refusal(t, err, book.Missing, "there is no roll")
	_, err = h.TakeOut(h.ctx, by, moved())
	refusal(t, err, book.Invalid, "scan or choose the rolls first")
	_, err = h.Roll(h.ctx, h.build("0001").Code)
	refusal(t, err, book.Invalid, "is not the id of a roll")
	_, err = h.TakeOut(h.ctx, h.as("Hedda Solm"), moved(fresh))
	refusal(t, err, book.Refused, "can handle material")
	h.ready(fresh)
	_, err = h.UseLength(h.ctx, by, fresh, stock.TakeLength{Length: 1000, Note: "test piece"})
	refusal(t, err, book.Conflict, "1000.00 m were taken off and only 80.00 m were left")
	_, err = h.UseLength(h.ctx, by, fresh, stock.TakeLength{Length: -1, Note: "test piece"})
	refusal(t, err, book.Conflict, "above zero")
}

func TestSeveralRollsGoOutTogetherOrNotAtAll(t *testing.T) {
	h := open(t)
	by := h.as("Tilda Brandl")
	one, two, out := h.roll("SU-2291").Code, h.roll("SU-2207").Code, h.roll("ST-0455").Code
	entries := h.count(`select count(*) from entries`)
	_, err := h.TakeOut(h.ctx, by, moved(one, out, two))
	refusal(t, err, book.Conflict, "already out")
	assert.False(t, h.roll("SU-2291").OutTime.Out, "one that cannot go keeps all in")
	assert.Equal(t, entries, h.count(`select count(*) from entries`))
	views, err := h.TakeOut(h.ctx, by, moved(one, two, one))
	require.NoError(t, err)
	require.Len(t, views, 2, "scanned twice is once")
	for _, v := range views {
		require.NotNil(t, v.DewAt, "the room is measured")
		require.NotNil(t, v.RoomAt)
		assert.True(
			t,
			v.DewAt.After(h.at.Add(30*time.Minute)) && v.DewAt.Before(*v.RoomAt),
			"first past the dew point, then warm",
		)
		assert.True(t, v.RoomAt.Before(h.at.Add(24*time.Hour)))
	}
}

func TestABagIsOpenedOnlyAboveTheDewPoint(t *testing.T) {
	h := open(t)
	by := h.as("Tilda Brandl")
	code := h.roll("SU-2291").Code
	_, err := h.Open(h.ctx, by, code, gauge())
	refusal(t, err, book.Conflict, "opened inside the freezer")
	v, err := h.TakeOut(h.ctx, by, moved(code))
	require.NoError(t, err)
	_, err = h.Open(h.ctx, by, code, stock.OpenBag{})
	refusal(t, err, book.Refused, "water would condense on it. It should be past it at")
	cold := gauge()
	*cold.Coldest = 275
	_, err = h.Open(h.ctx, by, code, cold)
	refusal(t, err, book.Refused, "is at 1.9 °C inside and the dew point of the room is 8.6 °C")
	// The sensor of the room has fallen silent: somebody has to read a gauge,
	// which finds it a little more humid than the sensor did.
	h.at = v[0].DewAt.Add(30 * time.Minute)
	_, err = h.Open(h.ctx, by, code, stock.OpenBag{})
	refusal(t, err, book.Refused, "temperature and humidity of the room are not known")
	room, humidity := gauge().Room, gauge().Humidity
	opened, err := h.Open(h.ctx, by, code, stock.OpenBag{Room: room, Humidity: humidity})
	require.NoError(t, err, "as calculated it is warm enough now")
	assert.True(t, opened.Open)
	_, err = h.Open(h.ctx, by, code, gauge())
	refusal(t, err, book.Conflict, "already open")
	d, err := h.Roll(h.ctx, code)
	require.NoError(t, err)
	last := d.Ledger[len(d.Ledger)-1]
	assert.Equal(t, "opened", last.Kind)
	assert.InDelta(t, 281.8, *last.Detail.DewPoint, 0.1)
	assert.Contains(t, last.Detail.Source, "as calculated")
	// An open roll is sealed before it goes back.
	_, err = h.PutBack(h.ctx, by, moved(code))
	refusal(t, err, book.Refused, "is open: seal it")
	_, err = h.Seal(h.ctx, by, code, stock.EventTime{})
	require.NoError(t, err)
	_, err = h.Seal(h.ctx, by, code, stock.EventTime{})
	refusal(t, err, book.Conflict, "although it was not open")
	back := moved(code)
	back.FreezerID, back.Place = 1, "shelf 3"
	views, err := h.PutBack(h.ctx, by, back)
	require.NoError(t, err)
	assert.Equal(t, "Freezer 1, shelf 3", views[0].Place)
	assert.Nil(t, views[0].DewAt)
}

func TestAnOverrideIsKeptWithItsReason(t *testing.T) {
	h := open(t)
	by := h.as("Tilda Brandl")
	code := h.roll("SU-2291").Code
	_, err := h.TakeOut(h.ctx, by, moved(code))
	require.NoError(t, err)
	cold := gauge()
	*cold.Coldest = 275
	cold.Override = "only the outer metre is used, for a test piece"
	_, err = h.Open(h.ctx, by, code, cold)
	require.NoError(t, err)
	d, err := h.Roll(h.ctx, code)
	require.NoError(t, err)
	last := d.Ledger[len(d.Ledger)-1]
	assert.Contains(t, last.Note, "water would condense on it: only the outer metre")
	assert.Equal(t, cold.Override, last.Detail.Override)
}

func TestALateEntryCountsFromWhenItHappened(t *testing.T) {
	h := open(t)
	code := h.roll("SU-2291").Code
	earlier := h.at.Add(-3 * time.Hour)
	v, err := h.TakeOut(
		h.ctx,
		h.as("Tilda Brandl"),
		stock.MoveRolls{Rolls: []string{code}, At: &earlier, Note: "forgot to write it down"},
	)
	require.NoError(t, err)
	assert.InDelta(t, 3*3600, v[0].OutTime.Spent, 1)
	d, err := h.Roll(h.ctx, code)
	require.NoError(t, err)
	last := d.Ledger[len(d.Ledger)-1]
	assert.True(t, last.EnteredAt.After(last.At.Add(2*time.Hour)), "both times are kept")
	require.Len(t, d.Life, 3)
	assert.InDelta(t, 3*3600, d.Life[2].Spent, 1)
}

func TestAWrongLineIsTakenBackByACounterEntry(t *testing.T) {
	h := open(t)
	brandl, falk, quist := h.as("Tilda Brandl"), h.as("Ines Falk"), h.as("Jonas Quist")
	code := h.roll("SU-2291").Code
	before := h.roll("SU-2291").OutTime.Spent
	_, err := h.TakeOut(h.ctx, brandl, moved(code))
	require.NoError(t, err)
	h.at = h.at.Add(5 * time.Hour)
	d, err := h.Roll(h.ctx, code)
	require.NoError(t, err)
	line := d.Ledger[len(d.Ledger)-1]
	in := stock.Correction{Line: line.ID, Reason: "it was SU-2207 that went out"}
	_, err = h.Correct(h.ctx, falk, code, in)
	refusal(t, err, book.Refused, "this line is not yours")
	_, err = h.Correct(h.ctx, brandl, code, stock.Correction{Line: line.ID, Reason: " "})
	refusal(t, err, book.Invalid, "say what was wrong")
	_, err = h.Correct(h.ctx, brandl, code, stock.Correction{Line: 99999, Reason: "x"})
	refusal(t, err, book.Missing, "no such line")
	v, err := h.Correct(h.ctx, brandl, code, in)
	require.NoError(t, err)
	assert.False(t, v.OutTime.Out)
	assert.InDelta(t, before, v.OutTime.Spent, 1, "as if it had never been written")
	_, err = h.Correct(h.ctx, quist, code, in)
	refusal(t, err, book.Conflict, "already taken back")
	d, err = h.Roll(h.ctx, code)
	require.NoError(t, err)
	var wrong, counter *stock.RollLine
	for i := range d.Ledger {
		if d.Ledger[i].ID == line.ID {
			wrong = &d.Ledger[i]
		}
		if d.Ledger[i].Kind == "counter" {
			counter = &d.Ledger[i]
		}
	}
	require.NotNil(t, wrong, "the wrong line stays")
	assert.True(t, wrong.TakenBack)
	require.NotNil(t, counter)
	assert.Equal(t, line.ID, counter.Cancels)
	_, err = h.Correct(h.ctx, quist, code, stock.Correction{Line: counter.ID, Reason: "x"})
	refusal(t, err, book.Refused, "cannot be taken back")
	// How it really was, in its place.
	_, err = h.Correct(h.ctx, quist, code, stock.Correction{Line: d.Ledger[0].ID, Reason: "x"})
	refusal(t, err, book.Refused, "never received is no roll")
	v, err = h.Correct(
		h.ctx,
		quist,
		code,
		stock.Correction{
			Line:    d.Ledger[0].ID,
			Reason:  "label misread",
			Instead: &stock.CorrectEvent{At: d.Ledger[0].At, Length: 75},
		},
	)
	require.NoError(t, err)
	assert.InDelta(t, 75, v.Length, 1e-9)
	// A correction that the rest contradicts changes nothing.
	used := h.roll("SU-2207")
	d, err = h.Roll(h.ctx, used.Code)
	require.NoError(t, err)
	_, err = h.Correct(
		h.ctx,
		quist,
		used.Code,
		stock.Correction{
			Line:    d.Ledger[0].ID,
			Reason:  "x",
			Instead: &stock.CorrectEvent{At: d.Ledger[0].At, Length: 1},
		},
	)
	refusal(t, err, book.Conflict, "only 1.00 m were left")
	for _, l := range d.Ledger {
		if l.Kind == "used" {
			_, err = h.Correct(h.ctx, quist, used.Code, stock.Correction{Line: l.ID, Reason: "x"})
			refusal(t, err, book.Refused, "what was cut cannot be uncut")
			break
		}
	}
	assert.InDelta(t, used.Length, h.roll("SU-2207").Length, 1e-9)

	// What was cut by hand can be, whatever its note begins with.
	out := h.roll("SU-2291").Code
	h.ready(out)
	_, err = h.UseLength(h.ctx, brandl, out, stock.TakeLength{Length: 0.2, Note: "nest trial"})
	require.NoError(t, err)
	byHand, err := h.Roll(h.ctx, out)
	require.NoError(t, err)
	last := byHand.Ledger[len(byHand.Ledger)-1]
	assert.Empty(t, last.Stands)
	_, err = h.Correct(h.ctx, brandl, out, stock.Correction{Line: last.ID, Reason: "x"})
	require.NoError(t, err)
	stands := map[string]string{}
	for _, l := range d.Ledger {
		stands[l.Kind] = l.Stands
	}
	assert.Contains(t, stands["used"], "cannot be uncut", "as it is refused above")
	assert.Empty(t, stands["received"])
}

func TestAFreezerFailureAgesEverythingInsideAndCanBeWithdrawn(t *testing.T) {
	h := open(t)
	brandl := h.as("Tilda Brandl")
	one, two := h.roll("SU-2207"), h.roll("SU-2291") // freezers 1 and 2
	from := h.at.Add(-4 * time.Hour)
	f, err := h.ReportFailure(h.ctx, brandl, 2, stock.NewFailure{From: from, Reason: "compressor dead"})
	require.NoError(t, err)
	assert.InDelta(t, two.OutTime.Spent+4*3600, h.roll("SU-2291").OutTime.Spent, 1)
	assert.InDelta(t, one.OutTime.Spent, h.roll("SU-2207").OutTime.Spent, 1, "the other freezer stayed cold")
	h.at = h.at.Add(time.Hour)
	assert.InDelta(t, two.OutTime.Spent+5*3600, h.roll("SU-2291").OutTime.Spent, 1, "it goes on")
	d, err := h.Roll(h.ctx, two.Code)
	require.NoError(t, err)
	assert.InDelta(t, 5*3600, d.Warm, 1)
	assert.Zero(t, d.Bench)
	require.Len(t, d.Warmths, 1)
	end := h.at.Add(-30 * time.Minute)
	_, err = h.ChangeFailure(h.ctx, brandl, f.ID, stock.FailureChange{To: &end})
	require.NoError(t, err)
	h.at = h.at.Add(time.Hour)
	assert.InDelta(t, two.OutTime.Spent+4.5*3600, h.roll("SU-2291").OutTime.Spent, 1)
	_, err = h.ChangeFailure(h.ctx, brandl, f.ID, stock.FailureChange{To: &end})
	refusal(t, err, book.Conflict, "has ended already")
	_, err = h.ChangeFailure(h.ctx, brandl, f.ID, stock.FailureChange{Withdraw: true, Reason: "x"})
	refusal(t, err, book.Refused, "ask a quality person")
	_, err = h.ChangeFailure(
		h.ctx,
		h.as("Jonas Quist"),
		f.ID,
		stock.FailureChange{Withdraw: true, Reason: "the probe hung in the door"},
	)
	require.NoError(t, err)
	assert.InDelta(t, two.OutTime.Spent, h.roll("SU-2291").OutTime.Spent, 1)
	for says, in := range map[string]stock.NewFailure{
		"begun in the future":  {From: h.at.Add(time.Hour), Reason: "x"},
		"ended after it began": {From: from, To: &from, Reason: "x"}, "say what happened": {From: from, Reason: " "},
	} {
		_, err = h.ReportFailure(h.ctx, brandl, 1, in)
		refusal(t, err, book.Invalid, says)
	}
	_, err = h.ReportFailure(h.ctx, brandl, 77, stock.NewFailure{From: from, Reason: "x"})
	refusal(t, err, book.Invalid, "not known here")
	n, err := h.VerifyClocks(h.ctx)
	require.NoError(t, err)
	assert.Equal(t, 9, n)
}

func TestScrapAndOffCuts(t *testing.T) {
	h := open(t)
	by := h.as("Tilda Brandl")
	code := h.roll("SU-2207").Code
	_, err := h.Scrap(h.ctx, by, code, stock.ScrapLength{Length: 1, Reason: "lost"})
	refusal(t, err, book.Invalid, "the reason is one of")
	_, err = h.Scrap(h.ctx, by, code, stock.ScrapLength{Length: 1, Reason: "other"})
	refusal(t, err, book.Invalid, "say what happened")
	square := geom.Ring{{X: 1, Y: 1}, {X: 1.5, Y: 1}, {X: 1.5, Y: 1.3}, {X: 1, Y: 1.3}}
	_, err = h.KeepOffCut(h.ctx, by, code, stock.NewOffCut{Outline: square})
	refusal(t, err, book.Refused, "in the freezer")
	roll := h.ready(code)
	off, err := h.KeepOffCut(
		h.ctx,
		by,
		code,
		stock.NewOffCut{Outline: square, Take: 0.5, FreezerID: 2, Place: "kit box"},
	)
	require.NoError(t, err)
	assert.Equal(t, "off-cut", off.Kind)
	assert.Equal(t, roll.Code, off.Parent)
	assert.InDelta(t, 0.5, off.Length, 1e-9)
	assert.InDelta(t, 0.3, off.Width, 1e-9)
	assert.InDelta(t, roll.OutTime.Spent, off.OutTime.Spent, 1, "never fresher than its roll")
	assert.InDeltaSlice(
		t,
		[]float64{0.5, 0.3},
		[]float64{off.Outline[2].X, off.Outline[2].Y},
		1e-9,
		"drawn from its own corner",
	)
	assert.InDelta(t, roll.Length-0.5, h.roll("SU-2207").Length, 1e-9)
	_, err = h.KeepOffCut(
		h.ctx,
		by,
		code,
		stock.NewOffCut{Outline: geom.Ring{{X: 0, Y: 0}, {X: 1, Y: 0}, {X: 1, Y: 0.9}, {X: 0, Y: 0.9}}},
	)
	refusal(t, err, book.Invalid, "900 mm across does not come from a roll of 600 mm")
	_, err = h.KeepOffCut(h.ctx, by, code, stock.NewOffCut{Outline: square, Take: 0.1})
	refusal(t, err, book.Invalid, "takes at least that length")
	_, err = h.KeepOffCut(
		h.ctx,
		by,
		code,
		stock.NewOffCut{Outline: geom.Ring{{X: 0, Y: 0}, {X: 1, Y: 1}, {X: 1, Y: 0}, {X: 0, Y: 1}}},
	)
	refusal(t, err, book.Invalid, "outline of the off-cut")
	gone, err := h.Scrap(h.ctx, by, off.Code, stock.ScrapLength{Reason: "contaminated"})
	require.NoError(t, err)
	assert.Zero(t, gone.Length)
	for _, r := range h.rolls() {
		assert.NotEqual(t, off.Code, r.Code, "what is used up is not on hand")
	}
	finished, err := h.Rolls(h.ctx, stock.RollQuery{State: "finished"})
	require.NoError(t, err)
	require.Len(t, finished.Rolls, 1)
	u, err := h.Usage(h.ctx, h.at.Add(-90*24*time.Hour), h.at.Add(time.Second))
	require.NoError(t, err)
	scrapped := map[string]float64{}
	for _, s := range u.Scrap {
		scrapped[s.Material+" "+s.Reason] = s.Area
	}
	assert.InDelta(t, 0.15, scrapped["Sable UD 150 contaminated"], 1e-9)
	assert.InDelta(t, 1.2, scrapped["Sable twill 200 damaged"], 1e-9)
	assert.Greater(t, scrapped["Sable UD 150 used"], 1.0)
	require.NotEmpty(t, u.Expiring)
	assert.Equal(t, "ST-0418", u.Expiring[0].Lot, "less than a fifth of its out-life is left")
	assert.False(t, u.Expiring[0].Expired)
	h.at = h.at.AddDate(2, 0, 0)
	later, err := h.Usage(h.ctx, h.at.Add(-90*24*time.Hour), h.at)
	require.NoError(t, err)
	require.NotEmpty(t, later.Expiring)
	for _, e := range later.Expiring {
		assert.True(t, e.Expired, "%s: %s", e.Code, e.Message)
	}
	h.at = h.at.AddDate(-2, 0, 0)
	life := map[string]stock.LifeUse{}
	for _, l := range u.Life {
		life[l.Material] = l
	}
	assert.Greater(t, life["Sable twill 200"].Bench, 3600.0)
}

func TestTheFlawMapFollowsTheRoll(t *testing.T) {
	h := open(t)
	by := h.as("Tilda Brandl")
	r := h.received("Sable UD 150", "mapped", 30, nest.Flaw{From: 5, To: 5.2})
	h.ready(r.Code)
	_, err := h.UseLength(h.ctx, by, r.Code, stock.TakeLength{Length: 2, Note: "test pieces"})
	require.NoError(t, err)
	v := h.roll("mapped")
	assert.InDelta(t, 3, v.Flaws[0].From, 1e-9)
	_, err = h.SetFlaws(
		h.ctx,
		by,
		r.Code,
		append(v.Flaws, nest.Flaw{From: 10, To: 10.05, Kind: "splice", Note: "joined"}),
	)
	require.NoError(t, err)
	_, err = h.UseLength(h.ctx, by, r.Code, stock.TakeLength{Length: 3.1, Note: "test pieces"})
	require.NoError(t, err)
	v = h.roll("mapped")
	require.Len(t, v.Flaws, 2)
	assert.Zero(t, v.Flaws[0].From)
	assert.InDelta(t, 0.1, v.Flaws[0].To, 1e-9)
	assert.InDelta(t, 6.9, v.Flaws[1].From, 1e-9)
	_, err = h.SetFlaws(h.ctx, by, r.Code, []nest.Flaw{{From: 3, To: 2}})
	refusal(t, err, book.Invalid, "does not lie on a roll of 24.90 m")
}

func TestTheRouteCountsWhatWaits(t *testing.T) {
	h := open(t)
	says := func() map[string]string {
		rooms, err := h.Rooms(h.ctx)
		require.NoError(t, err)
		out := map[string]string{}
		for _, s := range rooms {
			out[s.Room] = s.Summary
		}
		return out
	}
	assert.Equal(
		t,
		map[string]string{
			"freezer": "1 roll is out",
			"parts":   "8 drafts",
			"cut":     "1 to cut",
			"kits":    "nothing waits",
			"layup":   "1 on a bench",
			"bag":     "nothing waits",
			"cure":    "nothing waits",
			"finish":  "nothing waits",
			"release": "1 to inspect",
			"thread":  "find anything",
		},
		says(),
	)
	by := h.as("Tilda Brandl")
	_, err := h.PutBack(h.ctx, by, moved(h.roll("ST-0455").Code))
	require.NoError(t, err)
	h.newBuild("0050")
	build := h.bagged()
	now := says()
	assert.Equal(t, "all put away", now["freezer"])
	assert.Equal(t, "2 to cut", now["cut"])
	assert.Equal(t, "nothing waits", now["layup"])
	assert.Equal(t, "1 to load", now["cure"])
	h.running(build, "one")
	assert.Equal(t, "1 running", says()["cure"])
}

func TestARollLeadsByWhatWaitsForIt(t *testing.T) {
	h := open(t)
	waits := h.build("0003")
	for _, lot := range []string{"SU-2207", "SU-2291", "ST-0455", "ST-0418"} {
		r := h.roll(lot)
		assert.Equal(t, []string{waits.Code}, r.NeededFor, lot)
		assert.InDelta(
			t,
			waits.CureAt.Sub(h.at).Seconds(),
			r.OutTime.Planned,
			1,
			"the plan burns until the planned cure",
		)
	}
	assert.Contains(t, h.roll("ST-0418").Refusal, "pass the end of its out-life by 46 h")
	assert.Empty(t, h.roll("SU-2291").Refusal)
	assert.False(t, h.roll("LC-9").OutTime.Ages, "core does not age")
	// A shelf life that ends while it lies there.
	h.at = h.at.Add(61 * 24 * time.Hour)
	assert.Contains(t, h.roll("ST-0418").Refusal, "shelf life ended on")
}

func TestAPageOfTheStockAndWhatIsFoundInIt(t *testing.T) {
	h := open(t)
	page, err := h.Rolls(h.ctx, stock.RollQuery{Limit: 4})
	require.NoError(t, err)
	assert.Equal(t, 9, page.Total)
	require.Len(t, page.Rolls, 4)
	assert.Equal(t, "ST-0455", page.Rolls[0].Batch, "what is out comes first")
	rest, err := h.Rolls(h.ctx, stock.RollQuery{Offset: 4, Limit: 60})
	require.NoError(t, err)
	assert.Len(t, rest.Rolls, 5)
	for find, n := range map[string]int{"su-22": 2, "twill": 4, "kit box": 1, "100%": 0, "R-": 9, " SU-2304 ": 1} {
		found, err := h.Rolls(h.ctx, stock.RollQuery{Find: find})
		require.NoError(t, err)
		assert.Equal(t, n, found.Total, find)
		assert.Len(t, found.Rolls, n, find)
	}
	out, err := h.Rolls(h.ctx, stock.RollQuery{State: "out"})
	require.NoError(t, err)
	assert.Equal(t, 1, out.Total)
	_, err = h.Rolls(h.ctx, stock.RollQuery{State: "melted"})
	refusal(t, err, book.Invalid, "the state is hand")
}
