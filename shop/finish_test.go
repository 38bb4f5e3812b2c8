package shop_test

import (
	"slices"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"juxta/core/master"
	"juxta/shop/book"
	"juxta/shop/builds"
	"juxta/shop/finish"
	"juxta/shop/parts"
	"juxta/shop/people"
)

// routed is a build of the bonded strut, whose route has a demould, a bond with what it
// records, and more that is signed for itself.
func (h *house) routed() string {
	h.t.Helper()
	v := h.named("SP-28")
	doc := copied(v.Document)
	doc.Stages[1].Items = doc.Stages[1].Items[2:] // without the metal that the draft forgets to isolate
	for k, o := range doc.Route {
		if o.Kind == "bond" {
			doc.Route[k].Second = true
		}
		if o.Kind == "trim" {
			doc.Route[k].Fields = []master.Field{
				{
					Key:  "shot",
					Name: "the cut",
					Kind: "picture",
					Free: true,
				}, {Key: "cert", Name: "saw check", Kind: "paper", Free: true},
			}
		}
	}
	v, err := h.ChangeDraft(
		h.ctx,
		h.as("Marek Orde"),
		v.Part.Code,
		parts.DraftChange{Version: v.Version, Document: doc},
	)
	require.NoError(h.t, err)
	v = h.release(v)
	b, err := h.StartBuild(
		h.ctx,
		h.as("Marek Orde"),
		v.Part.Code,
		builds.NewBuild{Serial: "0001", CureAt: h.at.Add(time.Hour)},
	)
	require.NoError(h.t, err)
	return b.Code
}

// cured makes a build one whose tube is out of the oven, as far as its records say: what
// comes before is left out by quality.
func (h *house) cured(code string) {
	h.t.Helper()
	for _, key := range []string{"prepare tool", "cut s1", "kit s1", "lay s1", "close s1"} {
		if o := step(h.work(code), key); o.Planned.Key == key && o.State != "done" {
			_, err := h.LeaveOut(h.ctx, h.as("Jonas Quist"), code, finish.LeaveStepOut{
				Operation: key, Reason: "as an example", PIN: pin,
			})
			require.NoError(h.t, err)
		}
	}
	require.NoError(h.t, h.DB.Gorm.Exec(`with r as (insert into runs (code, state, oven, process, kinetics, controller,
		alpha0, created_at, started_by)
		select 'H-TEST', 'finished', 'oven', r.process, '{}', '{}', 0, now(), 1
		from builds b join revisions r on r.id = b.revision_id
		where b.code = $1 returning id)
		insert into run_builds (run_id, build_id, operation) select r.id, b.id, 'cure s1' from r, builds b
		where b.code = $1`, code).Error)
}

func step(v finish.WorkView, key string) finish.WorkStep {
	for _, o := range v.Operations {
		if o.Planned.Key == key {
			return o
		}
	}
	return finish.WorkStep{}
}

func TestAnOperationIsSignedInItsTurnWithWhatItRecords(t *testing.T) {
	h := open(t)
	code := h.routed()
	falk, brandl := h.as("Ines Falk"), h.as("Tilda Brandl")
	v, err := h.Work(h.ctx, code)
	require.NoError(t, err)
	assert.Equal(t, "ready", step(v, "prepare tool").State)
	assert.Equal(t, "waiting", step(v, "trim").State)
	assert.False(t, step(v, "lay s1").Single, "it is signed at the bench")
	todo, err := h.ToFinish(h.ctx)
	require.NoError(t, err)
	assert.Empty(t, todo, "the tool is prepared in the room of the layup")
	here, err := h.Builds(h.ctx, builds.BuildQuery{Room: "layup", Find: code})
	require.NoError(t, err)
	require.Len(t, here.Builds, 1)
	assert.Equal(
		t,
		[]string{"prepare tool", "ready"},
		[]string{here.Builds[0].Open[0].Operation, here.Builds[0].Open[0].State},
	)

	v, err = h.StartStep(h.ctx, falk, code, finish.Step{Operation: "prepare tool"})
	require.NoError(t, err)
	assert.Equal(t, "in work", step(v, "prepare tool").State)
	_, err = h.StartStep(h.ctx, brandl, code, finish.Step{Operation: "prepare tool"})
	refusal(t, err, book.Conflict, "Prepare tool is in work already, since")
	_, err = h.StartStep(h.ctx, falk, code, finish.Step{Operation: "lay s1"})
	refusal(t, err, book.Refused, "is signed in its own room")
	_, err = h.StartStep(h.ctx, falk, code, finish.Step{Operation: "polish"})
	refusal(t, err, book.Invalid, `has no operation "polish"`)
	demould := "demould s1"
	_, err = h.SignStepDone(h.ctx, falk, code, finish.SignStep{Operation: demould})
	refusal(t, err, book.Refused, "Demould Tube waits for Cure Tube")
	_, err = h.LeaveOut(
		h.ctx,
		h.as("Jonas Quist"),
		code,
		finish.LeaveStepOut{Operation: "release", Reason: "x", PIN: pin},
	)
	refusal(t, err, book.Refused, "is signed in its own room")
	v, err = h.SignStepDone(h.ctx, falk, code, finish.SignStep{Operation: "prepare tool"})
	require.NoError(t, err)
	assert.Equal(t, "Ines Falk", step(v, "prepare tool").By)

	// Out of the oven: the part is opened below its temperature, and not before.
	h.cured(code)
	hot, cool := 360.0, 320.0
	_, err = h.SignStepDone(h.ctx, falk, code, finish.SignStep{Operation: demould})
	refusal(t, err, book.Invalid, "say what the part reads now: it is opened below 60 °C")
	_, err = h.SignStepDone(h.ctx, falk, code, finish.SignStep{Operation: demould, Part: &hot})
	refusal(t, err, book.Refused, "the part reads 87 °C, and is opened below 60 °C: let it cool")
	_, err = h.SignStepDone(h.ctx, falk, code, finish.SignStep{Operation: demould, Part: &cool})
	require.NoError(t, err)
	_, err = h.SignStepDone(h.ctx, falk, code, finish.SignStep{
		Operation: "trim", Fields: map[string]master.Value{"shot": {FileID: 999}},
	})
	refusal(t, err, book.Invalid, "the cut: this picture is not here, or is no PNG or JPEG")
	// A paper may be a PDF, a picture may not.
	paper, err := h.KeepFile(h.ctx, falk, book.NewFile{Name: "check.pdf", Content: []byte("%PDF-1.7\n%%EOF\n")})
	require.NoError(t, err)
	_, err = h.SignStepDone(h.ctx, falk, code, finish.SignStep{
		Operation: "trim", Fields: map[string]master.Value{"shot": {FileID: paper.ID}},
	})
	refusal(t, err, book.Invalid, "the cut: this picture is not here, or is no PNG or JPEG")
	_, err = h.SignStepDone(h.ctx, falk, code, finish.SignStep{
		Operation: "trim", Fields: map[string]master.Value{"cert": {FileID: paper.ID, Text: "check.pdf"}},
	})
	require.NoError(t, err)
	assert.Equal(t, paper.ID, step(h.work(code), "trim").Fields["cert"].FileID)

	// The bond: a qualification, a pot that is over, a value outside its limits, a second person.
	ratio, line := 2.0, 0.9
	mixed := h.at.Add(-50 * time.Minute)
	bonds := slices.IndexFunc(v.Operations, func(o finish.WorkStep) bool { return o.Planned.Kind == "bond" })
	key := v.Operations[bonds].Planned.Key
	bond := finish.SignStep{Operation: key, Fields: map[string]master.Value{
		"paste": {Text: "EP-12", At: &mixed}, "ratio": {Number: &ratio}, "line": {Number: &line}, "stray": {Text: "x"},
	}, Adherends: []string{"FIT-12"}}
	require.Equal(t, "ready", step(h.work(code), key).State)
	_, err = h.SignStepDone(h.ctx, brandl, code, bond)
	refusal(t, err, book.Refused, `the qualification "bonding" of Tilda Brandl ended on`)
	_, err = h.Qualify(h.ctx, h.as("Jonas Quist"), brandl.Person.ID, people.NewQualification{
		Kind: "bonding", ValidFrom: h.at.Add(-time.Hour), ValidUntil: h.at.Add(1000 * time.Hour), Evidence: "course",
	})
	require.NoError(t, err)
	_, err = h.SignStepDone(h.ctx, brandl, code, bond)
	refusal(t, err, book.Refused, "a second person signs")
	bond.SecondID, bond.SecondPIN = brandl.Person.ID, pin
	_, err = h.SignStepDone(h.ctx, brandl, code, bond)
	refusal(t, err, book.Refused, "the second person is somebody else")
	bond.SecondID, bond.SecondPIN = falk.Person.ID, "271829"
	_, err = h.SignStepDone(h.ctx, brandl, code, bond)
	refusal(t, err, book.Refused, "this is not your PIN")
	bond.SecondPIN = pin
	_, err = h.SignStepDone(h.ctx, brandl, code, bond)
	refusal(t, err, book.Refused, "adhesive: its pot life of 45 min was over 5 min ago, mix anew")
	mixed = h.at.Add(-20 * time.Minute)
	_, err = h.SignStepDone(h.ctx, brandl, code, bond)
	refusal(t, err, book.Refused, "bond line: 0.9 mm is above the maximum, 0.6 mm")
	judged, err := h.Judge(h.ctx, code, bond)
	require.NoError(t, err)
	assert.Equal(t, []bool{true, true, false}, []bool{judged[0].Met, judged[1].Met, judged[2].Met})
	line = 0.3
	bond.Adherends = []string{" "}
	_, err = h.SignStepDone(h.ctx, brandl, code, bond)
	refusal(t, err, book.Invalid, "end fitting, aluminium, bought: scan it, or type its marking")
	bond.Adherends = []string{code}
	_, err = h.SignStepDone(h.ctx, brandl, code, bond)
	refusal(t, err, book.Invalid, "is this part itself")
	bond.Adherends = []string{h.build("0002").Code}
	_, err = h.SignStepDone(h.ctx, brandl, code, bond)
	refusal(t, err, book.Refused, "is not signed off as good: it waits at layup")
	bond.Adherends = []string{"FIT-12"}
	v, err = h.SignStepDone(h.ctx, brandl, code, bond)
	require.NoError(t, err)
	signed := step(v, key)
	assert.Equal(t, []string{"done", "Tilda Brandl", "Ines Falk"}, []string{signed.State, signed.By, signed.Second})
	assert.Len(t, signed.Fields, 4, "what the plan does not ask is not kept")
	assert.Equal(t, "FIT-12", signed.Fields["adherend 1"].Text)
	n, err := h.VerifyLog(h.ctx)
	require.NoError(t, err)
	assert.Positive(t, n)
}

func (h *house) work(code string) finish.WorkView {
	h.t.Helper()
	v, err := h.Work(h.ctx, code)
	require.NoError(h.t, err)
	return v
}

func TestAnOperationIsHeldTakenBackOrLeftOut(t *testing.T) {
	h := open(t)
	code := h.routed()
	falk, quist := h.as("Ines Falk"), h.as("Jonas Quist")
	h.cured(code)
	assert.Equal(t, "left out", step(h.work(code), "prepare tool").State)
	cool := 300.0
	_, err := h.SignStepDone(h.ctx, falk, code, finish.SignStep{Operation: "demould s1", Part: &cool})
	require.NoError(t, err)
	_, err = h.HoldStep(h.ctx, falk, code, finish.StepReason{Operation: "trim"})
	refusal(t, err, book.Invalid, "say why it is held")
	_, err = h.HoldStep(h.ctx, falk, code, finish.StepReason{Operation: "trim", Reason: "a crack at the end"})
	require.NoError(t, err)
	_, err = h.SignStepDone(h.ctx, falk, code, finish.SignStep{Operation: "trim"})
	refusal(t, err, book.Refused, "is held, by Ines Falk: a crack at the end. Resume it first")
	_, err = h.StartStep(h.ctx, h.as("Tilda Brandl"), code, finish.Step{Operation: "trim"})
	require.NoError(t, err)
	_, err = h.SignStepDone(h.ctx, h.as("Tilda Brandl"), code, finish.SignStep{Operation: "trim"})
	require.NoError(t, err)
	// What rests on what is taken back is to be signed again.
	_, err = h.TakeBackStep(
		h.ctx,
		h.as("Tilda Brandl"),
		code,
		finish.StepReason{Operation: "demould s1", Reason: "wrong part"},
	)
	refusal(t, err, book.Refused, "was signed by Ines Falk: ask them or a quality person")
	v, err := h.TakeBackStep(h.ctx, quist, code, finish.StepReason{Operation: "demould s1", Reason: "wrong part"})
	require.NoError(t, err)
	assert.Equal(t, "ready", step(v, "demould s1").State)
	trim := step(v, "trim")
	assert.Equal(t, "waiting", trim.State)
	assert.True(t, trim.Again)
	_, err = h.TakeBackStep(h.ctx, quist, code, finish.StepReason{Operation: "demould s1", Reason: "again"})
	refusal(t, err, book.Conflict, "nothing is recorded of")
	// Quality alone leaves one out, with a reason and the PIN; the release asks for all others.
	_, err = h.LeaveOut(h.ctx, falk, code, finish.LeaveStepOut{Operation: "demould s1", Reason: "x", PIN: pin})
	refusal(t, err, book.Refused, "can leave an operation out")
	_, err = h.LeaveOut(h.ctx, quist, code, finish.LeaveStepOut{Operation: "demould s1", PIN: pin})
	refusal(t, err, book.Invalid, "say why it is left out")
	_, err = h.LeaveOut(h.ctx, quist, code, finish.LeaveStepOut{Operation: "demould s1", Reason: "it fell off by " +
		"itself", PIN: pin})
	require.NoError(t, err)
	sheet, err := h.ReleaseOf(h.ctx, code)
	require.NoError(t, err)
	var missing []string
	for _, m := range sheet.Missing {
		if len(m) > 10 && m[:10] == "operation " {
			missing = append(missing, m)
		}
	}
	assert.Contains(t, missing, "operation 9, Bond Fittings, is ready")
	for _, m := range missing {
		assert.NotContains(t, m, "demould")
		assert.NotContains(t, m, "Cut to length")
	}
}

func TestTwoPeopleStartOneOperationAtOnce(t *testing.T) {
	h := open(t)
	code := h.routed()
	falk, brandl := h.as("Ines Falk"), h.as("Tilda Brandl")
	errs := make([]error, 2)
	var both sync.WaitGroup
	for k, by := range []book.By{falk, brandl} {
		both.Go(func() { _, errs[k] = h.StartStep(h.ctx, by, code, finish.Step{Operation: "prepare tool"}) })
	}
	both.Wait()
	first := slices.Index(errs, nil)
	require.GreaterOrEqual(t, first, 0, "%v", errs)
	refusal(t, errs[1-first], book.Conflict, "Prepare tool is in work already")
	// A press that is sent twice under its key is one.
	falk.Key = "the same press"
	once, err := h.HoldStep(h.ctx, falk, code, finish.StepReason{Operation: "prepare tool", Reason: "dust"})
	require.NoError(t, err)
	again, err := h.HoldStep(h.ctx, falk, code, finish.StepReason{Operation: "prepare tool", Reason: "dust"})
	require.NoError(t, err)
	assert.Equal(t, step(once, "prepare tool").Reason, step(again, "prepare tool").Reason)
	var lines int64
	require.NoError(t, h.DB.Gorm.Model(&builds.OperationLine{}).Count(&lines).Error)
	assert.Equal(t, int64(2), lines)
	// A line of the record can be added, and not changed or taken away.
	assert.ErrorContains(t, h.DB.Gorm.Exec(`update operation_lines set reason = ''`).Error, "permission denied")
	assert.ErrorContains(t, h.DB.Gorm.Exec(`delete from operation_lines`).Error, "permission denied")
}
