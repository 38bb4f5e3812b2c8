package shop_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"gorm.io/gorm"

	"juxta/core/master"
	"juxta/shop/book"
	"juxta/shop/builds"
	"juxta/shop/parts"
)

// statements counts what the database is asked to do.
func (h *house) statements(do func()) int {
	h.t.Helper()
	n, counting := 0, true
	count := func(*gorm.DB) {
		if counting {
			n++
		}
	}
	cb := h.DB.Gorm.Callback()
	require.NoError(h.t, cb.Query().After("gorm:query").Register("count:query", count))
	require.NoError(h.t, cb.Row().After("gorm:row").Register("count:row", count))
	require.NoError(h.t, cb.Raw().After("gorm:raw").Register("count:raw", count))
	require.NoError(h.t, cb.Create().After("gorm:create").Register("count:create", count))
	require.NoError(h.t, cb.Update().After("gorm:update").Register("count:update", count))
	require.NoError(h.t, cb.Delete().After("gorm:delete").Register("count:delete", count))
	do()
	counting = false
	for _, r := range []interface{ Remove(string) error }{
		cb.Query(), cb.Row(), cb.Raw(), cb.Create(), cb.Update(), cb.Delete(),
	} {
		for _, name := range []string{
			"count:query", "count:row", "count:raw", "count:create", "count:update", "count:delete",
		} {
			_ = r.Remove(name)
		}
	}
	return n
}

// A signature loads what it needs: at most fifteen statements, its entry in the
// log and its key among them. A page of builds takes as many for one build as for
// all.
func TestASignatureRunsFewStatements(t *testing.T) {
	h := open(t)
	build := h.build("0002").Code
	by, in := h.as("Ines Falk"), h.nextPly(build)
	by.Key = "counted"
	n := h.statements(func() {
		_, err := h.Sign(h.ctx, by, build, in)
		require.NoError(t, err)
	})
	assert.LessOrEqual(t, n, 15)
	few := h.statements(func() { h.all() })
	for _, serial := range []string{"0030", "0031", "0032"} {
		roll := h.received(h.roll("SU-2291").Material, "LOT-"+serial, 20).Code
		h.ready(roll)
		_, err := h.ConfirmCut(h.ctx, h.as("Tilda Brandl"), h.nested(h.newBuild(serial).Code, roll))
		require.NoError(t, err)
	}
	assert.Equal(t, few, h.statements(func() { require.NotNil(t, h.all()[0].OutTime) }))
}

// How a ply was identified stands in its record: scanned, or chosen.
func TestHowAPlyWasIdentifiedIsRecorded(t *testing.T) {
	h := open(t)
	build, by := h.build("0002").Code, h.as("Ines Falk")
	in := h.nextPly(build)
	in.How = "scanned"
	_, err := h.Sign(h.ctx, by, build, in)
	require.NoError(t, err)
	_, err = h.Sign(h.ctx, by, build, h.nextPly(build))
	require.NoError(t, err)
	v, err := h.Layup(h.ctx, build, "")
	require.NoError(t, err)
	n := len(v.Laid)
	assert.Equal(t, []string{"scanned", "chosen"}, []string{v.Laid[n-2].How, v.Laid[n-1].How})
	require.NoError(t, h.DB.Gorm.Exec(`update ply_records set how = ''`).Error)
	v, err = h.Layup(h.ctx, build, "")
	require.NoError(t, err)
	assert.Empty(t, v.Laid[0].How, "of before it was recorded: nobody knows")
}

// A label that is scanned is looked up by asking, and asking signs nothing.
func TestAskingWhoseLabelItIsSignsNothing(t *testing.T) {
	h := open(t)
	build := h.build("0002").Code
	kit, err := h.Kit(h.ctx, build, "")
	require.NoError(t, err)
	before := h.count(`select count(*) from ply_records`) + h.count(`select count(*) from entries`)
	ask := func(label string) builds.ScannedLabel {
		t.Helper()
		v, err := h.Expecting(h.ctx, build, label)
		require.NoError(t, err)
		return v
	}
	next := ask(h.nextPly(build).CutPly)
	assert.True(t, next.Fits)
	other := ask(kit.Plies[8].Cut[0].Code)
	assert.False(t, other.Fits)
	assert.Equal(t, kit.Plies[8].Cut[0].Code+" is ply 9: ply 7 comes next", other.Message)
	assert.Contains(t, ask(kit.Plies[0].Cut[0].Code).Message, "laid already")
	of, err := h.Kit(h.ctx, h.build("0001").Code, "")
	require.NoError(t, err)
	_, err = h.Expecting(h.ctx, build, of.Plies[0].Cut[0].Code)
	refusal(t, err, book.Conflict, "not of this kit")
	_, err = h.Expecting(h.ctx, build, "C-NONSENSE")
	refusal(t, err, book.Invalid, "")
	assert.Equal(t, before, h.count(`select count(*) from ply_records`)+h.count(`select count(*) from entries`))
}

// demanding is a build of a part whose second ply has a hold point and whose
// first a second person looks at.
func (h *house) demanding() string {
	h.t.Helper()
	v, err := h.NewRevision(h.ctx, h.as("Marek Orde"), h.named("SP-25").Part.Code)
	if err != nil {
		v = h.named("SP-25")
	}
	doc := master.Document{
		Format:   master.Format,
		Outlines: v.Document.Outlines,
		Stages:   []master.Stage{{Key: "s", Kind: "skin"}},
	}
	for _, i := range v.Document.Items() {
		if first := doc.Stages[0].Items; i.Kind == master.Ply && len(first) < 3 &&
			(len(first) == 0 || first[0].MaterialID == i.MaterialID) {
			i.Second, i.Hold = false, ""
			doc.Stages[0].Items = append(doc.Stages[0].Items, i)
		}
	}
	doc.Stages[0].Items[0].Second = true
	doc.Stages[0].Items[1].Hold = "the datum is measured again"
	process := v.Process
	process.DebulkFirst, process.DebulkEvery = true, 4
	v, err = h.ChangeDraft(
		h.ctx,
		h.as("Marek Orde"),
		v.Part.Code,
		parts.DraftChange{Version: v.Version, Document: &doc, Process: &process},
	)
	require.NoError(h.t, err)
	h.release(v)
	b, err := h.StartBuild(
		h.ctx,
		h.as("Marek Orde"),
		v.Part.Code,
		builds.NewBuild{Serial: "0077", CureAt: h.at.Add(30 * time.Hour)},
	)
	require.NoError(h.t, err)
	roll := h.received(v.Plies[0].Material, "LOT-77", 60).Code
	h.ready(roll)
	_, err = h.ConfirmCut(h.ctx, h.as("Tilda Brandl"), h.nested(b.Code, roll))
	require.NoError(h.t, err)
	kit, err := h.Kit(h.ctx, b.Code, "")
	require.NoError(h.t, err)
	for _, p := range kit.Plies {
		require.NotEmpty(h.t, p.Cut, "ply %d of %s", p.Number, p.Material)
		_, err := h.CountPly(h.ctx, h.as("Tilda Brandl"), b.Code, p.Cut[0].Code)
		require.NoError(h.t, err)
	}
	_, err = h.CloseKit(h.ctx, h.as("Tilda Brandl"), b.Code, "", "")
	require.NoError(h.t, err)
	return b.Code
}

// A second person and a hold point stop the work at their step, and a record
// without them is not whole.
func TestHoldPointsAndSecondPersonsStopTheWork(t *testing.T) {
	h := open(t)
	code := h.demanding()
	falk := h.as("Ines Falk")
	step := func() builds.StepView {
		t.Helper()
		v, err := h.Layup(h.ctx, code, "")
		require.NoError(t, err)
		require.NotNil(t, v.Next)
		return *v.Next
	}
	r, err := h.ReleaseOf(h.ctx, code)
	require.NoError(t, err)
	assert.Contains(t, r.Missing, "the hold point at ply 2 is not signed as done (the datum is measured again)")
	assert.Contains(t, r.Missing, "a second person checks ply 1: nobody has signed that")

	hold := builds.MeetDemand{Kind: "hold", Key: step().Key}
	v, err := h.Layup(h.ctx, code, "")
	require.NoError(t, err)
	require.Len(t, v.Unmet, 2)
	look := builds.MeetDemand{Kind: "second", Key: v.Unmet[0].Key, PIN: pin}
	hold.Key = v.Unmet[1].Key
	_, err = h.Meet(h.ctx, falk, code, hold)
	refusal(t, err, book.Refused, "comes after ply 1")
	first := h.nextPly(code)
	_, err = h.Sign(h.ctx, falk, code, first)
	require.NoError(t, err)
	assert.Equal(t, "second", step().Demand)
	second := builds.SignPly{Ply: 2, CutPly: first.CutPly, FilmsOff: first.FilmsOff}
	_, err = h.Sign(h.ctx, falk, code, second)
	refusal(t, err, book.Refused, "ply 2 waits: a second person checks ply 1 first, and signs")
	_, err = h.StartDebulk(h.ctx, falk, code, "")
	refusal(t, err, book.Conflict, "no debulk is due: a second person checks ply 1 first")
	look.PersonID = falk.Person.ID
	_, err = h.Meet(h.ctx, falk, code, look)
	refusal(t, err, book.Refused, "Ines Falk laid it: somebody else has to check")
	look.PersonID = h.as("Hedda Solm").Person.ID
	_, err = h.Meet(h.ctx, falk, code, look)
	refusal(t, err, book.Refused, "can sign as second person")
	look.PersonID, look.PIN = h.as("Tilda Brandl").Person.ID, "111"
	_, err = h.Meet(h.ctx, falk, code, look)
	refusal(t, err, book.Refused, "not your PIN")
	look.PIN = pin
	_, err = h.Meet(h.ctx, falk, code, look)
	require.NoError(t, err)
	_, err = h.Meet(h.ctx, falk, code, look)
	refusal(t, err, book.Conflict, "signed already")

	// A ply that came off takes the second look with it.
	_, err = h.TakeBack(h.ctx, falk, code, 1, "wrinkle")
	require.NoError(t, err)
	_, err = h.Sign(h.ctx, falk, code, first)
	require.NoError(t, err)
	assert.Equal(t, "second", step().Demand)
	_, err = h.Meet(h.ctx, falk, code, look)
	require.NoError(t, err)
	_, err = h.StartDebulk(h.ctx, falk, code, "")
	require.NoError(t, err)
	h.at = h.at.Add(2 * time.Hour)
	_, err = h.EndDebulk(h.ctx, falk, code, "", builds.DebulkEnd{Vacuum: 90e3})
	require.NoError(t, err)
	assert.Equal(t, "hold", step().Demand)
	_, err = h.Sign(h.ctx, falk, code, second)
	refusal(t, err, book.Refused, "the hold point at ply 2 is not signed as done (the datum is measured again)")
	v, err = h.Meet(h.ctx, falk, code, hold)
	require.NoError(t, err)
	assert.Equal(t, 2, v.Next.Ply)
	require.Len(t, v.SignedDemands, 3)
	assert.Equal(t, "Tilda Brandl", v.SignedDemands[1].Person)
	assert.True(t, v.SignedDemands[0].Void)
	r, err = h.ReleaseOf(h.ctx, code)
	require.NoError(t, err)
	for _, m := range r.Missing {
		assert.NotContains(t, m, "hold point")
		assert.NotContains(t, m, "second person")
	}
}

// Who checked a revision does not release it, unless the shop decides otherwise.
func TestOneWhoChecksAndReleasesIsTheShopsDecision(t *testing.T) {
	h := open(t)
	quist, v := h.as("Jonas Quist"), h.named("SP-25")
	sign := parts.RevisionSign{Version: v.Version, PIN: pin}
	lines, err := h.Parts(h.ctx)
	require.NoError(t, err)
	waits := func(number string) string {
		for _, l := range lines {
			if l.Number == number {
				return l.Waits + " " + l.Wrote + " " + l.Checked
			}
		}
		return ""
	}
	assert.Equal(t, "check Marek Orde ", waits("SP-25"))
	_, err = h.CheckRevision(h.ctx, quist, v.Part.Code, sign)
	require.NoError(t, err)
	lines, err = h.Parts(h.ctx)
	require.NoError(t, err)
	assert.Equal(t, "release Marek Orde Jonas Quist", waits("SP-25"))
	_, err = h.ReleaseRevision(h.ctx, quist, v.Part.Code, sign)
	refusal(t, err, book.Refused, "you checked this revision")
	_, err = h.ChangeShopSettings(
		h.ctx,
		h.as("Marek Orde"),
		book.ShopSettingsIn{Settings: book.ShopSettings{OneReleases: true}, Reason: "small shop"},
	)
	refusal(t, err, book.Refused, "can change the shop's rules")
	_, err = h.ChangeShopSettings(
		h.ctx,
		quist,
		book.ShopSettingsIn{Settings: book.ShopSettings{OneReleases: true}, Reason: " "},
	)
	refusal(t, err, book.Invalid, "say why")
	set, err := h.ChangeShopSettings(
		h.ctx,
		quist,
		book.ShopSettingsIn{Settings: book.ShopSettings{OneReleases: true}, Reason: "small shop"},
	)
	require.NoError(t, err)
	assert.Equal(t, 1, set.Version)
	_, err = h.ChangeShopSettings(h.ctx, quist, book.ShopSettingsIn{Reason: "back"})
	refusal(t, err, book.Conflict, "somebody changed the shop settings")
	_, err = h.ReleaseRevision(h.ctx, quist, v.Part.Code, sign)
	assert.NoError(t, err)
}

// A build is ended with a reason, leaves queues and demand, and stays on record.
func TestABuildIsEndedBeforeItsTime(t *testing.T) {
	h := open(t)
	b, orde := h.newBuild("0040"), h.as("Marek Orde")
	waits := func() (out []string) {
		queue, err := h.CutQueue(h.ctx)
		require.NoError(t, err)
		for _, d := range queue {
			for _, b := range d.Builds {
				out = append(out, b.Serial)
			}
		}
		return out
	}
	roll := h.roll("SU-2291").Code
	h.ready(roll)
	nest := h.nested(b.Code, roll)
	assert.Contains(t, waits(), "0040")
	_, err := h.EndBuild(h.ctx, h.as("Ines Falk"), b.Code, builds.Ending{Reason: "x"})
	refusal(t, err, book.Refused, "can end a build")
	_, err = h.EndBuild(h.ctx, orde, b.Code, builds.Ending{Reason: "  "})
	refusal(t, err, book.Invalid, "say why")
	line, err := h.EndBuild(h.ctx, orde, b.Code, builds.Ending{Reason: "ordered twice"})
	require.NoError(t, err)
	assert.Equal(t, "ended", line.Room)
	assert.NotContains(t, waits(), "0040")
	_, err = h.EndBuild(h.ctx, orde, b.Code, builds.Ending{Reason: "again"})
	refusal(t, err, book.Conflict, "this build was ended: ordered twice")
	_, err = h.ConfirmCut(h.ctx, h.as("Tilda Brandl"), nest)
	refusal(t, err, book.Conflict, "is not under way any more")
	page, err := h.Builds(h.ctx, builds.BuildQuery{Room: "cut"})
	require.NoError(t, err)
	for _, x := range page.Builds {
		assert.NotEqual(t, b.Code, x.Code)
	}
	thread, err := h.ThreadOfBuild(h.ctx, b.Code)
	require.NoError(t, err)
	assert.Equal(t, "ordered twice", thread.Build.Ended)
	_, err = h.EndBuild(h.ctx, orde, h.build("0002").Code, builds.Ending{Reason: "tool is damaged"})
	require.NoError(t, err)
	_, err = h.Sign(h.ctx, h.as("Ines Falk"), h.build("0002").Code, builds.SignPly{Ply: 7, CutPly: "C-0"})
	refusal(t, err, book.Conflict, "this build was ended")
}

func TestAPartBegunByMistakeIsArchived(t *testing.T) {
	h := open(t)
	orde, v := h.as("Marek Orde"), h.named("SP-25")
	_, err := h.ArchivePart(h.ctx, orde, h.part(), builds.Ending{Reason: "x"})
	refusal(t, err, book.Conflict, "has builds under way")
	line, err := h.ArchivePart(h.ctx, orde, v.Part.Code, builds.Ending{Reason: "entered under the wrong number"})
	require.NoError(t, err)
	assert.Equal(t, "entered under the wrong number", line.Archived)
	h.release(v)
	_, err = h.StartBuild(h.ctx, orde, v.Part.Code, builds.NewBuild{Serial: "1", CureAt: h.at.Add(time.Hour)})
	refusal(t, err, book.Conflict, "is archived")
	_, err = h.ArchivePart(h.ctx, orde, v.Part.Code, builds.Ending{Reason: "again"})
	refusal(t, err, book.Conflict, "already archived")
	line, err = h.RestorePart(h.ctx, orde, v.Part.Code)
	require.NoError(t, err)
	assert.Empty(t, line.Archived)
	_, err = h.RestorePart(h.ctx, orde, v.Part.Code)
	refusal(t, err, book.Conflict, "is not archived")
}

// Builds are listed by room and in pages.
func TestBuildsAreListedInPages(t *testing.T) {
	h := open(t)
	for k := range 7 {
		b := h.newBuild("P" + string(rune('0'+k)))
		if k < 5 {
			_, err := h.EndBuild(h.ctx, h.as("Marek Orde"), b.Code, builds.Ending{Reason: "test"})
			require.NoError(t, err)
		}
	}
	var all []string
	for q := (builds.BuildQuery{Limit: 3}); ; {
		page, err := h.Builds(h.ctx, q)
		require.NoError(t, err)
		for _, b := range page.Builds {
			all = append(all, b.Serial)
		}
		if page.Next == 0 {
			break
		}
		q.Before = page.Next
	}
	assert.Equal(t, []string{"P6", "P5", "P4", "P3", "P2", "P1", "P0", "0003", "0002", "0001"}, all)
	page, err := h.Builds(h.ctx, builds.BuildQuery{Room: "kits", Passed: true, Limit: 2})
	require.NoError(t, err)
	assert.Len(t, page.Builds, 4, "those further on, and two that are done")
	page, err = h.Builds(h.ctx, builds.BuildQuery{Find: "P1"})
	require.NoError(t, err)
	assert.Len(t, page.Builds, 1)
}

// A vacuum that no pump draws at the shop's height is neither asked for nor
// recorded without a question.
func TestAVacuumThatNoPumpDrawsHere(t *testing.T) {
	h := open(t)
	v := h.named("SP-25")
	for _, c := range []struct {
		field string
		set   func(p *parts.Process)
	}{
		{"process.leakStart", func(p *parts.Process) { p.LeakStart = 95e3 }},
		{"process.debulkVacuum", func(p *parts.Process) { p.DebulkVacuum = 95e3 }},
		{"process.runLimits.minVacuum", func(p *parts.Process) { p.RunLimits.MinVacuum = 95e3 }},
	} {
		p := v.Process
		c.set(&p)
		_, err := h.ChangeDraft(
			h.ctx,
			h.as("Marek Orde"),
			v.Part.Code,
			parts.DraftChange{Version: v.Version, Process: &p},
		)
		refusal(t, err, book.Invalid, "no pump draws 95.0 kPa at 640 m")
		var e *book.Error
		require.ErrorAs(t, err, &e)
		assert.Equal(t, c.field, e.Field)
	}
	build, by := h.build("0002").Code, h.as("Ines Falk")
	h.layAll(build)
	_, err := h.CloseBag(h.ctx, by, build, "", "no bleed")
	require.NoError(t, err)
	_, err = h.CheckLeak(h.ctx, by, build, "", builds.NewLeakCheck{Start: 95e3, End: 94e3, Seconds: 300})
	refusal(t, err, book.Refused, "Look at the gauge and its unit again")
	bag, err := h.CheckLeak(h.ctx, by, build, "", builds.NewLeakCheck{Start: 95e3, End: 94e3, Seconds: 300, Sure: true})
	require.NoError(t, err)
	assert.True(t, bag.Checks[0].Pass)
	// It can be done again before the oven, and the last one decides.
	bag, err = h.CheckLeak(h.ctx, by, build, "", builds.NewLeakCheck{Start: 90e3, End: 80e3, Seconds: 300})
	require.NoError(t, err)
	assert.Equal(t, "bag", bag.Build.Room)
}
