package shop_test

import (
	"bytes"
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"juxta/core/geom"
	"juxta/core/unit"
	"juxta/shop/book"
	"juxta/shop/recipes"
	"juxta/shop/stock"
)

func (h *house) batch(lot string) stock.BatchView {
	h.t.Helper()
	all, err := h.Batches(h.ctx, true)
	require.NoError(h.t, err)
	for _, b := range all {
		if b.Lot == lot {
			return b
		}
	}
	h.t.Fatalf("no batch %s", lot)
	return stock.BatchView{}
}

func TestABatchIsCutOnlyWhenAccepted(t *testing.T) {
	h := open(t)
	brandl, quist := h.as("Tilda Brandl"), h.as("Jonas Quist")
	b, roll := h.batch("SU-2304"), h.roll("SU-2304").Code
	nest := h.nested(h.newBuild("0030").Code, roll)
	h.ready(roll)
	_, err := h.ConfirmCut(h.ctx, brandl, nest)
	refusal(t, err, book.Refused, "batch SU-2304 is not accepted yet")
	decide := func(by book.By, do, reason string) error {
		_, err := h.DecideBatch(h.ctx, by, b.Code, stock.BatchDecision{Do: do, Reason: reason, PIN: pin})
		return err
	}
	refusal(t, decide(brandl, "accept", ""), book.Refused, "only a quality person can")
	refusal(t, decide(quist, "accept", ""), book.Refused, "areal mass of the fibre is not tested yet")
	record := func(k int, v float64) {
		_, err := h.RecordTest(h.ctx, brandl, b.Code, stock.TestValue{Test: b.Tests[k].ID, Value: v})
		require.NoError(t, err)
	}
	record(1, 150)
	record(2, 19)
	assert.InDelta(t, 5, h.batch("SU-2304").Tests[2].Off, 1e-9, "19 % where 14 are the most")
	refusal(t, decide(quist, "accept", ""), book.Refused, "flow is outside its limits: reject the batch, or override")
	refusal(t, decide(quist, "override", " "), book.Invalid, "say why")
	require.NoError(t, decide(quist, "override", "flow is high, the part bleeds by plan"))
	assert.Empty(t, h.batch("SU-2304").Blocked)
	_, err = h.ConfirmCut(h.ctx, brandl, nest)
	require.NoError(t, err, "a quality person let it be cut, with a reason")
	require.NoError(t, decide(quist, "reject", "flow 19 %"))
	assert.Contains(t, h.batch("SU-2304").Blocked, "failed its acceptance", "a new decision ends the override")
	_, err = h.RecordTest(h.ctx, brandl, b.Code, stock.TestValue{Test: b.Tests[0].ID, Value: 1})
	refusal(t, err, book.Conflict, "decided already")
}

func TestQuarantineBlocksAndWhoReceivedDoesNotDecide(t *testing.T) {
	h := open(t)
	quist := h.as("Jonas Quist")
	warm := h.batch("ST-0460")
	assert.InDelta(t, 6.5, warm.TooWarm, 1e-9)
	assert.Contains(t, unit.InMetric(warm.Blocked), "it arrived at -11.5 °C, its storage limit is -18.0 °C")
	_, err := h.DecideBatch(
		h.ctx,
		quist,
		h.batch("SU-2291").Code,
		stock.BatchDecision{Do: "quarantine", Reason: "pinholes seen", PIN: pin},
	)
	require.NoError(t, err)
	assert.Contains(t, h.roll("SU-2291").Refusal, "quarantine: pinholes seen")
	_, err = h.DecideBatch(
		h.ctx,
		quist,
		h.batch("SU-2291").Code,
		stock.BatchDecision{Do: "lift", Reason: "dust", PIN: pin},
	)
	require.NoError(t, err)
	assert.Empty(t, h.roll("SU-2291").Refusal)
	_, err = h.DecideBatch(
		h.ctx,
		quist,
		h.batch("SU-2291").Code,
		stock.BatchDecision{Do: "lift", Reason: "dust", PIN: pin},
	)
	refusal(t, err, book.Conflict, "not in quarantine")
	mine, err := h.ReceiveBatch(
		h.ctx,
		quist,
		stock.NewBatch{MaterialID: h.material("Ember film 250"), Lot: "EF-040", Rolls: []stock.NewRoll{{Length: 5}}},
	)
	require.NoError(t, err)
	_, err = h.DecideBatch(h.ctx, quist, mine.Code, stock.BatchDecision{Do: "accept", PIN: pin})
	refusal(t, err, book.Refused, "you received this batch")
	_, err = h.DecideBatch(h.ctx, quist, mine.Code, stock.BatchDecision{Do: "quarantine", Reason: "wet", PIN: pin})
	assert.NoError(t, err, "taking material out of use is never a matter of two persons")
}

func TestADeliveryIsCheckedAsItComes(t *testing.T) {
	h := open(t)
	by := h.as("Tilda Brandl")
	made := h.at.Add(-30 * 24 * time.Hour)
	in := stock.NewBatch{
		MaterialID: h.material("Sable twill 200"),
		Lot:        " ST-0501 ",
		MadeOn:     &made,
		FreezerID:  2,
		Place:      "shelf 1",
		Rolls:      []stock.NewRoll{{Length: 25.5}, {Length: 30, Place: "shelf 2", Spent: 7200}},
	}
	b, err := h.ReceiveBatch(h.ctx, by, in)
	require.NoError(t, err)
	assert.Equal(t, "ST-0501", b.Lot)
	assert.Equal(t, "pending", b.State)
	assert.WithinDuration(t, made.Add(365*24*time.Hour), *b.ShelfEnd, time.Second, "from the day it was made")
	require.Len(t, b.Tests, 3)
	require.Len(t, b.Rolls, 2)
	second, err := h.Roll(h.ctx, b.Rolls[1].Code)
	require.NoError(t, err)
	assert.Equal(t, "Freezer 2, shelf 2", second.Place)
	assert.InDelta(t, 7200, second.OutTime.Spent, 1)
	assert.Equal(t, 1.0, second.Width, "the width of its material")
	_, err = h.ReceiveBatch(h.ctx, by, in)
	refusal(t, err, book.Conflict, "was received already")
	more, err := h.AddRoll(h.ctx, by, b.Code, 2, stock.NewRoll{Length: 12})
	require.NoError(t, err)
	assert.Equal(t, "ST-0501", more.Batch)
	future := h.at.Add(time.Hour)
	for says, change := range map[string]func(*stock.NewBatch){
		"the lot number":         func(n *stock.NewBatch) { n.Lot = " " },
		"material is not known":  func(n *stock.NewBatch) { n.MaterialID = 999 },
		"come in the future":     func(n *stock.NewBatch) { n.ReceivedAt = &future },
		"made after it came":     func(n *stock.NewBatch) { n.MadeOn = &future },
		"freezer is not known":   func(n *stock.NewBatch) { n.FreezerID = 99 },
		"above 0 and up to 5000": func(n *stock.NewBatch) { n.Rolls = []stock.NewRoll{{Length: 1}, {Length: 0}} },
		"there is no such file":  func(n *stock.NewBatch) { n.CertificateID = 99 },
	} {
		bad := in
		bad.Lot = "other"
		change(&bad)
		rolls := h.count(`select count(*) from rolls`)
		_, err = h.ReceiveBatch(h.ctx, by, bad)
		refusal(t, err, book.Invalid, says)
		assert.Equal(t, rolls, h.count(`select count(*) from rolls`), "nothing is stored half")
	}
}

func TestARetestExtendsTheLifeOfWhatIsLeft(t *testing.T) {
	h := open(t)
	quist := h.as("Jonas Quist")
	b := h.batch("ST-0418")
	until := b.ShelfEnd.Add(120 * 24 * time.Hour)
	in := stock.Retest{Until: &until, More: 60 * 3600, Evidence: "report 55", PIN: pin}
	_, err := h.RetestBatch(h.ctx, h.as("Tilda Brandl"), b.Code, in)
	refusal(t, err, book.Refused, "only a quality person can")
	earlier := b.ShelfEnd.Add(-time.Hour)
	_, err = h.RetestBatch(h.ctx, quist, b.Code, stock.Retest{Until: &earlier, Evidence: "report 55", PIN: pin})
	refusal(t, err, book.Invalid, "no later than the old one")
	_, err = h.RetestBatch(h.ctx, quist, b.Code, in)
	require.NoError(t, err)
	r := h.roll("ST-0418")
	assert.Equal(t, 300*3600.0, r.OutTime.Life)
	assert.WithinDuration(t, until, *r.OutTime.ShelfEnd, time.Second)
	assert.NotContains(t, r.Refusal, "out-life")
	off, err := h.KeepOffCut(
		h.ctx,
		h.as("Tilda Brandl"),
		h.ready(r.Code).Code,
		stock.NewOffCut{Outline: geom.Ring{{X: 0, Y: 0}, {X: 1, Y: 0}, {X: 1, Y: 0.5}, {X: 0, Y: 0.5}}},
	)
	require.NoError(t, err)
	assert.Equal(t, 300*3600.0, off.OutTime.Life, "an off-cut inherits what the re-test gave its roll")
}

func TestPapersAreWhatTheySay(t *testing.T) {
	h := open(t)
	by := h.as("Tilda Brandl")
	pdf := append([]byte("%PDF-1.7\n"), bytes.Repeat([]byte("x"), 200)...)
	f, err := h.KeepFile(h.ctx, by, book.NewFile{Name: `C:\papers\certificate.pdf`, Content: pdf})
	require.NoError(t, err)
	assert.Equal(t, "certificate.pdf", f.Name)
	_, raw, err := h.File(h.ctx, f.ID)
	require.NoError(t, err)
	assert.Equal(t, pdf, raw)
	for says, in := range map[string]book.NewFile{
		"is empty":                      {Name: "a.pdf"},
		"at most 10 MB are kept":        {Name: "a.pdf", Content: append(pdf, make([]byte, book.FileMost)...)},
		"is not what its name says":     {Name: "a.png", Content: pdf},
		"is not a PDF, PNG, JPEG, text": {Name: "a.exe", Content: append([]byte("MZ\x90\x00"), make([]byte, 99)...)},
		"a.html is not a PDF":           {Name: "a.html", Content: []byte("<html><script>alert(1)</script>")},
	} {
		_, err := h.KeepFile(h.ctx, by, in)
		refusal(t, err, book.Invalid, says)
	}
	_, _, err = h.File(h.ctx, 99)
	refusal(t, err, book.Missing, "no such file")
}

func (h *house) view(name string) stock.MaterialView {
	h.t.Helper()
	all, err := h.Materials(h.ctx)
	require.NoError(h.t, err)
	for _, m := range all {
		if m.Name == name {
			return m
		}
	}
	h.t.Fatalf("no material %s", name)
	return stock.MaterialView{}
}

func TestAMaterialInUseIsChangedInANewVersion(t *testing.T) {
	h := open(t)
	orde := h.as("Marek Orde")
	ud := h.view("Sable UD 150")
	assert.Equal(t, "Ember 120", ud.Resin)
	assert.True(t, ud.InUse)
	change := stock.MaterialChange{MaterialIn: ud.MaterialIn, Version: ud.Version}
	change.OutLife = 200 * 3600
	_, err := h.ChangeMaterial(h.ctx, h.as("Tilda Brandl"), ud.Family, change)
	refusal(t, err, book.Refused, "only a planner or a quality person can")
	v, err := h.ChangeMaterial(h.ctx, orde, ud.Family, change)
	require.NoError(t, err)
	assert.Equal(t, 2, v.Version)
	assert.NotEqual(t, ud.ID, v.ID)
	assert.Equal(
		t,
		240*3600.0,
		h.roll("SU-2291").OutTime.Life,
		"what is on hand keeps its version unless it shall follow",
	)
	_, err = h.ChangeMaterial(h.ctx, orde, ud.Family, change)
	refusal(t, err, book.Conflict, "somebody changed Sable UD 150 in the meantime")
	change.Version, change.Stock = 2, true
	change.OutLife, change.TackLife = 190*3600, 150*3600
	change.Name = "Sable UD 150 B"
	_, err = h.ChangeMaterial(h.ctx, orde, ud.Family, change)
	require.NoError(t, err)
	assert.Equal(t, 190*3600.0, h.roll("SU-2291").OutTime.Life)
	a, err := h.Revision(h.ctx, h.part(), "A")
	require.NoError(t, err)
	assert.Equal(t, "Sable UD 150", a.Plies[1].Material, "what was released keeps the old one")
	b, err := h.Revision(h.ctx, h.part(), "B")
	require.NoError(t, err)
	assert.Equal(t, "Sable UD 150 B", b.Plies[1].Material, "a draft follows")
	queue, err := h.CutQueue(h.ctx)
	require.NoError(t, err)
	require.Len(t, queue, 2)
	for _, d := range queue {
		assert.NotEmpty(t, d.Rolls, "rolls of any version serve a build of any version")
	}
	versions, err := h.MaterialVersions(h.ctx, ud.Family)
	require.NoError(t, err)
	assert.Len(t, versions, 2, "the one in between was never in use")
	_, err = h.MaterialVersions(h.ctx, 999)
	refusal(t, err, book.Missing, "no such material")
	// A kit that was cut before keeps the limits that it was cut under.
	assert.Equal(t, 240*3600.0, h.build("0002").OutTime.Life)
}

func TestAMaterialSaysOnlyWhatCanBe(t *testing.T) {
	h := open(t)
	orde := h.as("Marek Orde")
	base := h.view("Sable UD 150").MaterialIn
	base.Name = "Sable UD 300"
	for says, change := range map[string]func(*stock.MaterialIn){
		"needs a name":                      func(m *stock.MaterialIn) { m.Name = " " },
		"the kind is one of":                func(m *stock.MaterialIn) { m.Kind = "cloth" },
		"needs its resin":                   func(m *stock.MaterialIn) { m.ResinID = 0 },
		"needs E1":                          func(m *stock.MaterialIn) { m.E1 = 0 },
		"Poisson's ratio":                   func(m *stock.MaterialIn) { m.Nu12, m.E2 = 1, m.E1*2 },
		"resin is not known":                func(m *stock.MaterialIn) { m.ResinID = 99 },
		"tack life is part of":              func(m *stock.MaterialIn) { m.TackLife = m.OutLife + 1 },
		"150 g/m² of fibre with 60 % resin": func(m *stock.MaterialIn) { m.Sheet.ResinShare = 0.6 },
		"bulk factor is at least 1":         func(m *stock.MaterialIn) { m.Sheet.BulkFactor = 0.9 },
		"needs a limit": func(m *stock.MaterialIn) {
			m.Sheet.Acceptance = []stock.AcceptanceLimit{{What: "flow"}}
		},
	} {
		in := base
		change(&in)
		_, err := h.AddMaterial(h.ctx, orde, in)
		refusal(t, err, book.Invalid, says)
	}
	v, err := h.AddMaterial(h.ctx, orde, base)
	require.NoError(t, err)
	assert.False(t, v.InUse)
	_, err = h.AddMaterial(h.ctx, orde, base)
	refusal(t, err, book.Conflict, "already a material called Sable UD 300")
	base.Kind, base.Width = "woven", 1.2
	same, err := h.ChangeMaterial(h.ctx, orde, v.Family, stock.MaterialChange{MaterialIn: base, Version: 1})
	require.NoError(t, err)
	assert.Equal(t, v.ID, same.ID, "one that nothing refers to is changed in place")
	resins, err := h.Resins(h.ctx)
	require.NoError(t, err)
	bad := resins[0].ResinIn
	bad.Viscosity.Gel = 2
	_, err = h.SaveResin(h.ctx, orde, resins[0].ID, recipes.ResinChange{ResinIn: bad, Version: 1})
	refusal(t, err, book.Invalid, "gelation lies between")
	bad.Viscosity, bad.Kinetics.Terms = nil, nil
	_, err = h.SaveResin(h.ctx, orde, resins[0].ID, recipes.ResinChange{ResinIn: bad, Version: 1})
	refusal(t, err, book.Invalid, "")
}

func stockRows(n int) []stock.StockRow {
	rows := make([]stock.StockRow, n)
	for i := range rows {
		rows[i] = stock.StockRow{
			Line:     i + 2,
			Material: "sable ud 150",
			Lot:      fmt.Sprintf("L-%04d", i/3),
			Freezer:  "freezer 1",
			Place:    "shelf 1",
			Length:   40,
			Spent:    float64(i % 50 * 3600),
		}
	}
	return rows
}

func TestAStockListComesInWholeOrNotAtAll(t *testing.T) {
	h := open(t)
	by := h.as("Tilda Brandl")
	rows := stockRows(10_000)
	rows[17].Material, rows[400].Lot, rows[9_000].Spent = "no such thing", "SU-2207", 241*3600
	plan, err := h.PlanStock(h.ctx, by, rows, nil)
	require.NoError(t, err)
	assert.Equal(t, 3, plan.Faults)
	require.Len(t, plan.Lines, 10_000)
	assert.Equal(t, `no material is called "no such thing" here: enter it first`, plan.Lines[17].Message)
	assert.Equal(t, "lot SU-2207 of Sable UD 150 is here already", plan.Lines[400].Message)
	assert.Equal(t, "its out-life of 240 h is spent already", plan.Lines[9_000].Message)
	assert.Equal(t, "new batch L-0000 of Sable UD 150, waits for acceptance; a roll of 40.00 m",
		unit.InMetric(plan.Lines[0].Message))
	before := h.count(`select count(*) from rolls`)
	_, err = h.StoreStock(h.ctx, by, rows, []stock.StockFault{{Line: 5, Message: "the lot is missing"}})
	refusal(t, err, book.Invalid, "4 rows are wrong: nothing was stored")
	assert.Equal(t, before, h.count(`select count(*) from rolls`))
	rows = stockRows(900)
	rows[3].Accepted = true
	_, err = h.StoreStock(h.ctx, by, rows, nil)
	refusal(t, err, book.Invalid, "1 rows are wrong")
	done, err := h.StoreStock(h.ctx, h.as("Jonas Quist"), rows, nil)
	require.NoError(t, err)
	assert.True(t, done.Stored)
	assert.Equal(t, 300, done.Batches)
	assert.Equal(t, before+900, h.count(`select count(*) from rolls`))
	d, err := h.Roll(h.ctx, done.Lines[7].Roll)
	require.NoError(t, err)
	assert.InDelta(t, 7*3600, d.OutTime.Spent, 1)
	assert.Equal(t, "passed", h.batch("L-0001").State)
	assert.Equal(t, "pending", h.batch("L-0002").State)
	assert.Len(t, h.batch("L-0002").Tests, 3)
	n, err := h.VerifyClocks(h.ctx)
	require.NoError(t, err)
	assert.Equal(t, before+900, n)
	_, err = h.VerifyLog(h.ctx)
	require.NoError(t, err)
	log, err := h.Log(h.ctx, book.LogQuery{What: "roll received", Subject: done.Lines[7].Roll})
	require.NoError(t, err)
	require.Len(t, log, 1)
	assert.True(t, strings.Contains(log[0].Detail, `"row":9`), log[0].Detail)
}
