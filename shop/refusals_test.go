package shop_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"juxta/core/ident"
	"juxta/core/master"
	"juxta/core/unit"
	"juxta/shop/book"
	"juxta/shop/builds"
	"juxta/shop/cutting"
	"juxta/shop/inspect"
	"juxta/shop/parts"
	"juxta/shop/people"
	"juxta/shop/recipes"
	"juxta/shop/stock"
)

// What is refused is refused in words that say what is in the way. These are the
// sentences that no other test asserts.

func second[T any](_ T, err error) error { return err }

func TestRefusalsOfBatches(t *testing.T) {
	h := open(t)
	by, quist := h.as("Tilda Brandl"), h.as("Jonas Quist")
	accepted, waiting, held := h.batch("SU-2291"), h.batch("SU-2304"), h.batch("ST-0460")
	receive := func(in stock.NewBatch) error {
		in.MaterialID, in.FreezerID, in.Rolls = h.material("Sable UD 150"), 1, []stock.NewRoll{{Length: 20}}
		return second(h.ReceiveBatch(h.ctx, by, in))
	}
	made, early, soon := h.at.Add(-48*time.Hour), h.at.Add(-72*time.Hour), h.at.Add(time.Hour)
	refusal(
		t,
		receive(stock.NewBatch{Lot: "su-2291"}),
		book.Conflict,
		"lot su-2291 of Sable UD 150 was received already: add its roll to that batch",
	)
	refusal(
		t,
		receive(stock.NewBatch{Lot: "L", MadeOn: &made, ShelfEnd: &early}),
		book.Invalid,
		"its shelf life cannot end before it was made, on "+made.Local().Format("2 Jan 2006"),
	)
	refusal(t, receive(stock.NewBatch{Lot: "L", MadeOn: &soon}), book.Invalid, "it cannot have been made after it came")
	wide := stock.NewBatch{
		MaterialID: h.material("Sable UD 150"),
		FreezerID:  1,
		Lot:        "L",
		Rolls:      []stock.NewRoll{{Length: 20, Width: 0.5}},
	}
	refusal(
		t,
		second(h.ReceiveBatch(h.ctx, by, wide)),
		book.Invalid,
		"Sable UD 150 is sold 300 mm, 600 mm, 1200 mm wide, not 500 mm: change the material if there is another "+
			"width now",
	)

	refusal(
		t,
		second(h.RecordTest(h.ctx, by, accepted.Code, stock.TestValue{Test: 1, Value: 1})),
		book.Conflict,
		"batch SU-2291 is decided already: passed",
	)
	refusal(
		t,
		second(h.RecordTest(h.ctx, by, waiting.Code, stock.TestValue{Test: 99999, Value: 1})),
		book.Missing,
		"there is no such test of this batch",
	)
	decide := func(code, do string) error {
		return second(h.DecideBatch(h.ctx, quist, code, stock.BatchDecision{Do: do, Reason: "as it is", PIN: pin}))
	}
	refusal(t, decide(accepted.Code, "accept"), book.Conflict, "batch SU-2291 is accepted already")
	refusal(t, decide(accepted.Code, "lift"), book.Conflict, "batch SU-2291 is not in quarantine")
	refusal(t, decide(accepted.Code, "override"), book.Conflict, "batch SU-2291 is not blocked")
	refusal(t, decide(accepted.Code, "wave through"), book.Invalid, `"wave through" is no decision`)
	require.NoError(t, decide(held.Code, "lift"))

	retest := stock.Retest{More: 3600, Evidence: " ", PIN: pin}
	refusal(
		t,
		second(h.RetestBatch(h.ctx, quist, accepted.Code, retest)),
		book.Invalid,
		"give the number of the test report",
	)
	retest.Evidence = "report 7"
	require.NoError(
		t,
		h.DB.Gorm.Exec(
			`update rolls set length = 0 where batch_id = (select id from batches where lot = 'SU-2291')`,
		).Error,
	)
	refusal(
		t,
		second(h.RetestBatch(h.ctx, quist, accepted.Code, retest)),
		book.Conflict,
		"nothing of batch SU-2291 is left",
	)
	roll := h.received("Sable UD 150", "L-9", 20)
	h.ready(roll.Code)
	refusal(
		t,
		second(h.UseLength(h.ctx, by, roll.Code, stock.TakeLength{Length: 1, Note: " "})),
		book.Invalid,
		"say what it was used for",
	)
}

// A receipt is put right, once and for all its rolls, and what stood there first
// stays in the log.
func TestAReceiptIsCorrected(t *testing.T) {
	h := open(t)
	by, falk, quist := h.as("Tilda Brandl"), h.as("Ines Falk"), h.as("Jonas Quist")
	b, err := h.ReceiveBatch(
		h.ctx,
		by,
		stock.NewBatch{
			MaterialID: h.material("Sable UD 150"),
			Lot:        "L-1",
			FreezerID:  1,
			Rolls:      []stock.NewRoll{{Length: 20, Width: 0.3}, {Length: 30, Width: 0.3}},
		},
	)
	require.NoError(t, err)
	made, end := h.at.AddDate(0, -1, 0), h.at.AddDate(0, 11, 0)
	warm := 273.15 - 11
	v, err := h.CorrectReceipt(
		h.ctx,
		by,
		b.Code,
		stock.ReceiptChange{
			Lot:         "L-2",
			MadeOn:      &made,
			ShelfEnd:    &end,
			ArrivalTemp: &warm,
			Widths:      map[string]float64{b.Rolls[1].Code: 0.6},
			Reason:      "read from the wrong label",
		},
	)
	require.NoError(t, err)
	assert.Equal(t, "L-2", v.Lot)
	for k, width := range []float64{0.3, 0.6} {
		d, err := h.Roll(h.ctx, b.Rolls[k].Code)
		require.NoError(t, err)
		assert.InDelta(t, width, d.Width, 1e-9)
	}
	assert.Contains(t, unit.InMetric(v.Quarantine), "it arrived at -11.0 °C")
	assert.True(t, end.Equal(*v.ShelfEnd))
	assert.True(t, end.Equal(*h.roll("L-2").OutTime.ShelfEnd), "its rolls have it from the batch")
	cold := 273.15 - 20
	v, err = h.CorrectReceipt(h.ctx, by, b.Code, stock.ReceiptChange{ArrivalTemp: &cold, Reason: "the other probe"})
	require.NoError(t, err)
	assert.Empty(t, v.Quarantine, "only the wrong reading had put it there")
	log, err := h.Log(h.ctx, book.LogQuery{Limit: 1})
	require.NoError(t, err)
	assert.Equal(t, "receipt corrected", log[0].What)
	assert.Equal(t, "the other probe", log[0].Why)
	assert.Contains(t, log[0].Detail, `"arrivalTemp"`)

	change := func(as book.By, in stock.ReceiptChange) error {
		if in.Reason == "" {
			in.Reason = "a slip"
		}
		return second(h.CorrectReceipt(h.ctx, as, b.Code, in))
	}
	before := made.Add(-time.Hour)
	refusal(t, change(by, stock.ReceiptChange{Reason: " "}), book.Invalid, "say what was wrong")
	refusal(
		t,
		change(by, stock.ReceiptChange{ShelfEnd: &before}),
		book.Invalid,
		"its shelf life cannot end before it was made",
	)
	refusal(t, change(by, stock.ReceiptChange{Lot: "SU-2291"}), book.Conflict, "was received already")
	refusal(
		t,
		change(by, stock.ReceiptChange{Widths: map[string]float64{h.roll("SU-2291").Code: 0.6}}),
		book.Invalid,
		"is no roll of this batch",
	)
	refusal(
		t,
		change(by, stock.ReceiptChange{Widths: map[string]float64{b.Rolls[0].Code: 0.5}}),
		book.Invalid,
		"sold 300 mm, 600 mm, 1200 mm wide, not 500 mm",
	)
	zero := 0.0
	refusal(
		t,
		change(by, stock.ReceiptChange{ArrivalTemp: &zero}),
		book.Invalid,
		"the temperature on arrival is not possible",
	)
	refusal(t, change(falk, stock.ReceiptChange{Lot: "L-3"}), book.Refused, "this receipt is not yours")
	h.accept(v)
	refusal(
		t,
		change(by, stock.ReceiptChange{Lot: "L-3"}),
		book.Refused,
		"or its batch is decided on: ask a quality person",
	)
	require.NoError(t, change(quist, stock.ReceiptChange{Lot: "l-2"}), "its own lot in other letters")
}

func TestRefusalsOfKits(t *testing.T) {
	h := open(t)
	by := h.as("Tilda Brandl")
	build := h.newBuild("0050").Code
	for _, lot := range []string{"SU-2291", "ST-0455"} {
		roll := h.roll(lot).Code
		h.ready(roll)
		_, err := h.ConfirmCut(h.ctx, by, h.nested(build, roll))
		require.NoError(t, err)
	}
	kit, err := h.Kit(h.ctx, build, "")
	require.NoError(t, err)
	first := kit.Plies[0].Cut[0].Code
	refusal(t, second(h.SetAside(h.ctx, by, build, first)), book.Conflict, first+" is not counted into this kit")
	require.NoError(t, second(h.CountPly(h.ctx, by, build, first)))
	refusal(
		t,
		second(h.CountPly(h.ctx, by, build, first)),
		book.Conflict,
		first+", ply 1, is already counted: one label lies twice, or was scanned twice",
	)
	refusal(t, second(h.CloseKit(h.ctx, by, build, "", "")), book.Refused, "missing: find it or cut it again")
	for _, p := range kit.Plies[1:] {
		require.NoError(t, second(h.CountPly(h.ctx, by, build, p.Cut[0].Code)))
	}
	var twin builds.CutPly
	require.NoError(t, h.DB.Gorm.Where("code = ?", first).Take(&twin).Error)
	twin.ID, twin.Code = 0, ident.Format(ident.CutPly, 90210)
	require.NoError(t, h.DB.Gorm.Create(&twin).Error)
	refusal(t, second(h.CloseKit(h.ctx, by, build, "", "")), book.Refused, "ply 1 doubled: set one aside")
	require.NoError(t, second(h.SetAside(h.ctx, by, build, twin.Code)))
	require.NoError(t, second(h.CloseKit(h.ctx, by, build, "", "")))
	refusal(t, second(h.SetAside(h.ctx, by, build, first)), book.Conflict, "this kit is already counted and closed")
}

func TestRefusalsOfTheBench(t *testing.T) {
	h := open(t)
	falk := h.as("Ines Falk")
	code := h.build("0002").Code
	in := h.nextPly(code)
	in.FilmsOff = 9
	refusal(t, second(h.Sign(h.ctx, falk, code, in)), book.Invalid, "films, not 9")
	in = h.nextPly(code)
	require.NoError(t, h.DB.Gorm.Exec(`update cut_plies set counted_at = null where code = ?`, in.CutPly).Error)
	refusal(t, second(h.Sign(h.ctx, falk, code, in)), book.Refused, in.CutPly+" was not counted into this kit")

	code = h.demanding()
	v, err := h.Layup(h.ctx, code, "")
	require.NoError(t, err)
	look, hold := builds.MeetDemand{
		Kind: "second",
		Key:  v.Unmet[0].Key,
		PIN:  pin,
	}, builds.MeetDemand{
		Kind: "hold",
		Key:  v.Unmet[1].Key,
	}
	refusal(t, second(h.Meet(h.ctx, falk, code, look)), book.Invalid, "enter who checked")
	look.PersonID = h.as("Tilda Brandl").Person.ID
	refusal(t, second(h.Meet(h.ctx, falk, code, look)), book.Refused, "this comes after ply 1")
	require.NoError(t, second(h.Sign(h.ctx, falk, code, h.nextPly(code))))
	refusal(t, second(h.Meet(h.ctx, falk, code, hold)), book.Refused, "this comes later")
	require.NoError(t, second(h.Meet(h.ctx, falk, code, look)))
	refusal(t, second(h.Meet(h.ctx, falk, code, look)), book.Conflict, "this is signed already")
	refusal(
		t,
		second(h.Meet(h.ctx, falk, code, builds.MeetDemand{Kind: "hold", Key: "nowhere"})),
		book.Missing,
		"the master has no such point there",
	)
}

func TestRefusalsOfTheCut(t *testing.T) {
	h := open(t)
	by := h.as("Tilda Brandl")
	build, glue := h.newBuild("0050").Code, h.received("Ember film 250", "F-1", 20).Code
	refusal(
		t,
		second(h.StartNest(h.ctx, by, cutting.NewNest{Roll: glue, Builds: []string{build}})),
		book.Invalid,
		"nothing of these builds is left to cut from Ember film 250",
	)
	roll := h.roll("SU-2291").Code
	h.ready(roll)
	line, err := h.StartNest(h.ctx, by, cutting.NewNest{Roll: roll, Builds: []string{build}, Steps: 3})
	require.NoError(t, err)
	refusal(
		t,
		second(h.ConfirmCut(h.ctx, by, line.Code)),
		book.Conflict,
		"this nest is not finished: stop it first, or wait",
	)
	nested := h.nested(build, roll)
	require.NoError(t, second(h.ConfirmCut(h.ctx, by, nested)))
	refusal(t, second(h.ConfirmCut(h.ctx, by, nested)), book.Conflict, "this nest is already cut")
}

// One build that fits no roll spoils the advice for nobody else, and a nest that
// failed says of which ply, and what can be done.
func TestABuildThatFitsNoRollIsNamed(t *testing.T) {
	h := open(t)
	by := h.as("Tilda Brandl")
	narrow, err := h.ReceiveBatch(
		h.ctx,
		by,
		stock.NewBatch{
			MaterialID: h.material("Sable UD 150"),
			Lot:        "N-1",
			FreezerID:  1,
			Rolls:      []stock.NewRoll{{Length: 60, Width: 0.3}},
		},
	)
	require.NoError(t, err)
	h.accept(narrow)
	build := h.newBuild("0060")
	line, err := h.StartNest(
		h.ctx,
		by,
		cutting.NewNest{Roll: narrow.Rolls[0].Code, Builds: []string{build.Code}, Steps: 3},
	)
	require.NoError(t, err)
	var n cutting.Nest
	require.NoError(t, h.DB.Gorm.Where("code = ?", line.Code).Take(&n).Error)
	turn, problem, _, err := h.BeginNest(h.ctx, n.ID)
	require.NoError(t, err)
	wide, at := "", 0
	for k, p := range problem.Pieces {
		if p.Outline.Bounds().Height() > problem.Sheets[0].Width {
			wide, at = p.ID, k
		}
	}
	require.NotEmpty(t, wide, "a ply wider than 300 mm")
	require.NoError(
		t,
		h.EndNest(
			h.ctx,
			turn,
			nil,
			"pieces["+string(rune('0'+at%10))+"].outline: piece "+wide+" is wider than the roll",
		),
	)
	v, err := h.Nest(h.ctx, line.Code)
	require.NoError(t, err)
	assert.Equal(t, "failed", v.State)
	assert.NotContains(t, v.Message, "pieces[")
	assert.Regexp(t, `^ply \d+ of SP-11 · 0060 is wider than the roll`, v.Message)
	require.NotEmpty(t, v.Wide)
	assert.Equal(t, "SP-11", v.Wide[0].Number)
	assert.NotEmpty(t, v.Wide[0].Item, "where a splice is allowed")
	assert.Regexp(
		t,
		`^Take a roll of \d+ mm or wider; or nest the other kits without SP-11 · 0060; or let the planner`,
		unit.InMetric(v.Advice),
	)
}

func TestRefusalsOfPartsAndMasters(t *testing.T) {
	h := open(t)
	orde := h.as("Marek Orde")
	part := h.named("SP-11").Part.Code
	refusal(t, second(h.Revision(h.ctx, part, "Q")), book.Missing, "SP-11 has no revision Q")
	refusal(t, second(h.Ask(h.ctx, part, parts.Question{Letter: "Q"})), book.Missing, "SP-11 has no revision Q")
	refusal(t, second(h.Difference(h.ctx, part, "A", "Q")), book.Missing, "SP-11 has no revision Q")
	refusal(t, second(h.MakeVariants(h.ctx, orde, part)), book.Conflict, "SP-11 is no family: it has no variants")
	v := h.named("SP-25")
	doc := master.Document{
		Format:   master.Format,
		Outlines: v.Document.Outlines,
		Stages:   []master.Stage{{Key: "s", Kind: "skin"}},
	}
	v, err := h.ChangeDraft(h.ctx, orde, v.Part.Code, parts.DraftChange{Version: v.Version, Document: &doc})
	require.NoError(t, err)
	refusal(
		t,
		second(
			h.CheckRevision(h.ctx, h.as("Hanne Vold"), v.Part.Code, parts.RevisionSign{Version: v.Version, PIN: pin}),
		),
		book.Invalid,
		"a revision without plies cannot be released",
	)
	released := h.named("SP-22")
	require.NoError(t, second(h.ArchivePart(h.ctx, orde, released.Part.Code, builds.Ending{Reason: "a double"})))
	start := builds.NewBuild{Serial: "1", CureAt: h.at.Add(time.Hour)}
	refusal(
		t,
		second(h.StartBuild(h.ctx, orde, released.Part.Code, start)),
		book.Conflict,
		"SP-22 is archived: restore it first",
	)
	resins, err := h.Resins(h.ctx)
	require.NoError(t, err)
	twin := recipes.ResinIn{
		Name:     resins[1].Name,
		Kinetics: resins[0].Kinetics,
		Alpha0:   resins[0].Alpha0,
		Recipe:   resins[0].Recipe,
	}
	refusal(
		t,
		second(h.SaveResin(h.ctx, orde, resins[0].ID, recipes.ResinChange{ResinIn: twin, Version: resins[0].Version})),
		book.Conflict,
		"there is already a resin called "+resins[1].Name,
	)
}

func TestRefusalsOfPeopleAndFreezers(t *testing.T) {
	h := open(t)
	wren, quist, falk := h.as("Ada Wren"), h.as("Jonas Quist"), h.as("Ines Falk").Person
	refusal(
		t,
		second(h.AddPerson(h.ctx, wren, people.NewPerson{Name: " ", Role: "technician", PIN: "735291", Sign: pin})),
		book.Invalid,
		"a name of 1 to 80 letters is needed",
	)
	refusal(
		t,
		second(h.FirstAdministrator(h.ctx, people.FirstAdministrator{Name: " "})),
		book.Invalid,
		"a name of 1 to 80 letters is needed",
	)
	_, _, err := h.RegisterTablet(h.ctx, wren, people.NewTablet{Name: " ", PIN: pin})
	refusal(t, err, book.Invalid, "say what the shop calls it")
	q := people.NewQualification{Kind: "oven", ValidFrom: h.at, ValidUntil: h.at, Evidence: " "}
	give := func(id int64) error { return second(h.Qualify(h.ctx, quist, id, q)) }
	refusal(t, give(quist.Person.ID), book.Refused, "nobody qualifies themselves: ask another quality person")
	refusal(t, give(falk.ID), book.Invalid, "say what shows the qualification")
	q.Evidence = "paper 3"
	refusal(t, give(falk.ID), book.Invalid, "it must end after it begins")
	q.ValidUntil = h.at.Add(time.Hour)
	given, err := h.Qualify(h.ctx, quist, falk.ID, q)
	require.NoError(t, err)
	refusal(t, second(h.WithdrawQualification(h.ctx, quist, given.ID, " ")), book.Invalid, "say why it is withdrawn")
	require.NoError(t, second(h.WithdrawQualification(h.ctx, quist, given.ID, "a wrong paper")))
	refusal(
		t,
		second(h.WithdrawQualification(h.ctx, quist, given.ID, "a wrong paper")),
		book.Conflict,
		"it was already withdrawn",
	)
	left := h.as("Tilda Brandl").Person
	require.NoError(t, h.DB.Gorm.Exec(`update people set left_at = ? where id = ?`, h.at, left.ID).Error)
	refusal(t, second(h.IssueBadge(h.ctx, wren, left.ID, pin)), book.Conflict, "Tilda Brandl has left the shop")

	from, to := h.at.Add(-2*time.Hour), h.at.Add(time.Hour)
	report := func(in stock.NewFailure) error { return second(h.ReportFailure(h.ctx, quist, 1, in)) }
	refusal(t, report(stock.NewFailure{From: from, Reason: " "}), book.Invalid, "say what happened to the freezer")
	refusal(t, report(stock.NewFailure{From: to, Reason: "door"}), book.Invalid, "it cannot have begun in the future")
	refusal(
		t,
		report(stock.NewFailure{From: from, To: &to, Reason: "door"}),
		book.Invalid,
		"it cannot have ended in the future: leave the end open",
	)
	early := from.Add(-time.Hour)
	refusal(
		t,
		report(stock.NewFailure{From: from, To: &early, Reason: "door"}),
		book.Invalid,
		"it must have ended after it began",
	)
	f, err := h.ReportFailure(h.ctx, quist, 1, stock.NewFailure{From: from, Reason: "door"})
	require.NoError(t, err)
	withdraw := stock.FailureChange{Withdraw: true, Reason: "the sensor lay outside"}
	require.NoError(t, second(h.ChangeFailure(h.ctx, quist, f.ID, withdraw)))
	refusal(t, second(h.ChangeFailure(h.ctx, quist, f.ID, withdraw)), book.Conflict, "this failure was withdrawn")
}

// A slip of the hand in a year is asked about, wherever a date is entered.
func TestNoDateOutsideOfWhatAWorkshopCanMean(t *testing.T) {
	h := open(t)
	says := "9999 is no year for this: a date from 1970 to 2199 is needed"
	far := time.Date(9999, 12, 31, 23, 59, 59, 0, time.UTC)
	refusal(
		t,
		second(h.StartBuild(h.ctx, h.as("Marek Orde"), h.part(), builds.NewBuild{Serial: "1", CureAt: far})),
		book.Invalid,
		says,
	)
	refusal(
		t,
		second(
			h.ReceiveBatch(
				h.ctx,
				h.as("Tilda Brandl"),
				stock.NewBatch{
					MaterialID: h.material("Sable UD 150"),
					Lot:        "L",
					FreezerID:  1,
					ShelfEnd:   &far,
					Rolls:      []stock.NewRoll{{Length: 20}},
				},
			),
		),
		book.Invalid,
		says,
	)
	refusal(
		t,
		second(h.TakeOut(h.ctx, h.as("Tilda Brandl"), stock.MoveRolls{Rolls: []string{h.roll("SU-2291").Code},
			At: &far})),
		book.Invalid,
		says,
	)
	refusal(t, second(h.Usage(h.ctx, h.at, far)), book.Invalid, says)
	long := time.Date(1200, 1, 1, 0, 0, 0, 0, time.UTC)
	err := second(h.ReportFailure(h.ctx, h.as("Jonas Quist"), 1, stock.NewFailure{From: long, Reason: "door"}))
	refusal(t, err, book.Invalid, "1200 is no year for this")
	var told *book.Error
	require.ErrorAs(t, err, &told)
	assert.Equal(t, "from", told.Field)
}

func TestRefusalsOfRelease(t *testing.T) {
	h := open(t)
	quist := h.as("Jonas Quist")
	measured := inspect.Measured{Mass: 0.5, Thickness: []float64{1.5e-3}}
	sign := func(serial string) error {
		return second(
			h.Dispose(
				h.ctx,
				quist,
				h.build(serial).Code,
				inspect.Disposition{Measured: measured, Disposition: "scrap", Reason: "delaminated", PIN: pin},
			),
		)
	}
	refusal(t, sign("0002"), book.Refused, "this part waits at layup")
	code := h.build("0001").Code
	require.NoError(t, sign("0001"))
	refusal(
		t,
		second(h.Dispose(h.ctx, quist, code, inspect.Disposition{Measured: measured, Disposition: "good", PIN: pin})),
		book.Conflict,
		"Jonas Quist already signed this part: scrap",
	)
}
