package shop_test

import (
	"context"
	"database/sql"
	"fmt"
	"os"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"juxta/core/nest"
	"juxta/demo"
	"juxta/shop"
	"juxta/store"
	"juxta/store/storetest"
	"juxta/wire"
)

const pin = "314159"

var now = time.Now().UTC().Truncate(time.Second)

// Every test has a copy of the demo shop.
func TestMain(m *testing.M) {
	os.Exit(storetest.Run(m, func(ctx context.Context, db *store.DB) error { return demo.Load(ctx, db, pin, now) }))
}

type noQueue struct{}

func (noQueue) Nest(context.Context, *sql.Tx, int64) error   { return nil }
func (noQueue) Record(context.Context, *sql.Tx, int64) error { return nil }

// house is a shop for one test, with a clock it may move.
type house struct {
	*shop.Shop
	t   *testing.T
	ctx context.Context
	at  time.Time
}

func open(t *testing.T) *house {
	t.Helper()
	h := &house{t: t, ctx: context.Background(), at: now}
	h.Shop = &shop.Shop{DB: storetest.Open(t), Queue: noQueue{}, Oven: "test", Altitude: 640, Now: func() time.Time { return h.at }}
	return h
}

// as is somebody of the demo.
func (h *house) as(name string) shop.By {
	h.t.Helper()
	people, err := h.People(h.ctx)
	require.NoError(h.t, err)
	for _, p := range people {
		if p.Name == name {
			person, err := h.PersonByID(h.ctx, p.ID)
			require.NoError(h.t, err)
			return shop.By{Person: person}
		}
	}
	h.t.Fatalf("nobody is called %s", name)
	return shop.By{}
}

func (h *house) build(serial string) shop.BuildLine {
	h.t.Helper()
	builds, err := h.Builds(h.ctx, "")
	require.NoError(h.t, err)
	for _, b := range builds {
		if b.Serial == serial {
			return b
		}
	}
	h.t.Fatalf("no build %s", serial)
	return shop.BuildLine{}
}

func (h *house) roll(batch string) shop.RollView {
	h.t.Helper()
	rolls, err := h.Rolls(h.ctx)
	require.NoError(h.t, err)
	for _, r := range rolls {
		if r.Batch == batch {
			return r
		}
	}
	h.t.Fatalf("no roll of batch %s", batch)
	return shop.RollView{}
}

func (h *house) count(query string, args ...any) int {
	h.t.Helper()
	var n int
	require.NoError(h.t, h.DB.Gorm.Raw(query, args...).Scan(&n).Error)
	return n
}

// refusal asserts that an error is a refusal of a kind that says something.
func refusal(t *testing.T, err error, kind shop.Kind, says string) {
	t.Helper()
	var refused *shop.Error
	require.ErrorAs(t, err, &refused)
	assert.Equal(t, kind, refused.Kind, refused.Says)
	assert.Contains(t, refused.Says, says)
}

// nextPly is the signature that the bench of a build waits for.
func (h *house) nextPly(build string) shop.SignPly {
	h.t.Helper()
	v, err := h.Layup(h.ctx, build)
	require.NoError(h.t, err)
	require.NotNil(h.t, v.Next)
	require.False(h.t, v.Next.Debulk)
	return shop.SignPly{Ply: v.Next.Ply, CutPly: v.NextCut, FilmsOff: v.Plies[v.Next.Ply-1].Films}
}

func TestTwoPeopleSignTheSamePlyAtOnce(t *testing.T) {
	h := open(t)
	build := h.build("0002").Code
	in := h.nextPly(build)
	falk, brandl := h.as("Ines Falk"), h.as("Tilda Brandl")
	errs := make([]error, 2)
	var both sync.WaitGroup
	for i, by := range []shop.By{falk, brandl} {
		both.Go(func() { _, errs[i] = h.Sign(h.ctx, by, build, in) })
	}
	both.Wait()
	if errs[0] != nil {
		errs[0], errs[1] = errs[1], errs[0]
	}
	require.NoError(t, errs[0], "one wins")
	refusal(t, errs[1], shop.Conflict, "ply 7 is already signed, by ")
	assert.Equal(t, 1, h.count(`select count(*) from ply_records l join plies p on p.id = l.ply_id join builds b on b.id = l.build_id where b.code = ? and p.number = ?`, build, in.Ply))
}

func TestARepeatedRequestIsWrittenOnce(t *testing.T) {
	h := open(t)
	build := h.build("0002").Code
	in := h.nextPly(build)
	by := h.as("Ines Falk")
	by.Key = "a-key-of-the-tablet"
	entries := h.count(`select count(*) from entries`)
	var all sync.WaitGroup
	answers := make([]shop.LayupView, 8)
	for i := range answers {
		all.Go(func() {
			var err error
			answers[i], err = h.Sign(h.ctx, by, build, in)
			assert.NoError(t, err)
		})
	}
	all.Wait()
	for _, a := range answers {
		assert.Len(t, a.Laid, 7, "every try gets the first answer")
	}
	assert.Equal(t, entries+1, h.count(`select count(*) from entries`))
	assert.Equal(t, 1, h.count(`select count(*) from writes`))

	_, err := h.Sign(h.ctx, by, build, shop.SignPly{Ply: 8, CutPly: in.CutPly, FilmsOff: 1})
	refusal(t, err, shop.Conflict, "already used for something else")
	// Somebody else's key of the same letters is another key.
	other := h.as("Tilda Brandl")
	other.Key = by.Key
	_, err = h.Sign(h.ctx, other, build, in)
	refusal(t, err, shop.Conflict, "already signed, by Ines Falk")
}

func TestAFailedChangeStoresNothing(t *testing.T) {
	h := open(t)
	build := h.build("0002").Code
	by := h.as("Ines Falk")
	by.Key = "a-failing-key"
	before := h.count(`select count(*) from entries`)
	_, err := h.TakeBack(h.ctx, by, build, 3, "wrinkle")
	refusal(t, err, shop.Conflict, "only the last ply laid can be taken back: that is ply 6")
	assert.Equal(t, before, h.count(`select count(*) from entries`))
	assert.Zero(t, h.count(`select count(*) from writes`), "a refused key may be used again")
}

func TestTheLogChainFindsATamperedEntry(t *testing.T) {
	h := open(t)
	n, err := h.VerifyLog(h.ctx)
	require.NoError(t, err)
	require.Greater(t, n, int64(50))
	// Whoever owns the table can switch the guard off; the chain still tells.
	for _, q := range []string{`alter table entries disable trigger all`, `update entries set why = 'never mind' where seq = 40`} {
		if err := h.DB.Gorm.Exec(q).Error; err != nil {
			require.ErrorContains(t, err, "permission denied")
			require.NoError(t, h.DB.Gorm.Exec(`alter table entries disable trigger entries_append_only`).Error)
		}
	}
	require.NoError(t, h.DB.Gorm.Exec(`update entries set why = 'never mind' where seq = 40`).Error)
	_, err = h.VerifyLog(h.ctx)
	assert.ErrorContains(t, err, "broken at entry 40")
}

func TestRollsRefuseWhatCannotBe(t *testing.T) {
	h := open(t)
	by := h.as("Tilda Brandl")
	fresh, out := h.roll("SU-2291").Code, h.roll("ST-0455").Code
	_, err := h.PutBack(h.ctx, by, fresh, shop.Moved{})
	refusal(t, err, shop.Conflict, "put back without having been taken out")
	_, err = h.TakeOut(h.ctx, by, out, shop.Moved{})
	refusal(t, err, shop.Conflict, "already out")
	tomorrow := h.at.Add(24 * time.Hour)
	_, err = h.TakeOut(h.ctx, by, fresh, shop.Moved{At: &tomorrow})
	refusal(t, err, shop.Invalid, "future")
	_, err = h.TakeOut(h.ctx, by, "R-ZZZZZ", shop.Moved{})
	refusal(t, err, shop.Invalid, "wrong check character")
	_, err = h.Roll(h.ctx, h.build("0001").Code)
	refusal(t, err, shop.Invalid, "is not the id of a roll")
	_, err = h.ReceiveRoll(h.ctx, by, shop.NewRoll{MaterialID: 99, Batch: "x", Length: 1})
	refusal(t, err, shop.Invalid, "not known")
}

func TestALateEntryCountsFromWhenItHappened(t *testing.T) {
	h := open(t)
	code := h.roll("SU-2291").Code
	earlier := h.at.Add(-3 * time.Hour)
	v, err := h.TakeOut(h.ctx, h.as("Tilda Brandl"), code, shop.Moved{At: &earlier, Note: "forgot to write it down"})
	require.NoError(t, err)
	assert.InDelta(t, 3*3600, v.Fuse.Spent, 1)
	d, err := h.Roll(h.ctx, code)
	require.NoError(t, err)
	last := d.Ledger[len(d.Ledger)-1]
	assert.True(t, last.EnteredAt.After(last.At.Add(2*time.Hour)), "both times are kept")
}

func TestAReleasedRevisionIsFrozen(t *testing.T) {
	h := open(t)
	parts, err := h.Parts(h.ctx)
	require.NoError(t, err)
	part := parts[0].Code
	assert.ErrorContains(t, h.DB.Gorm.Exec(`update plies set angle_deg = 1 where revision_id = (select min(id) from revisions)`).Error, "frozen")
	assert.ErrorContains(t, h.DB.Gorm.Exec(`delete from plies where revision_id = (select min(id) from revisions)`).Error, "frozen")
	draft, err := h.Revision(h.ctx, part, "")
	require.NoError(t, err)
	_, err = h.ReleaseRevision(h.ctx, h.as("Ines Falk"), part, draft.Version)
	refusal(t, err, shop.Refused, "for planner or quality")
	_, err = h.ReleaseRevision(h.ctx, h.as("Marek Orde"), part, draft.Version-1)
	refusal(t, err, shop.Conflict, "in the meantime")
	_, err = h.ReleaseRevision(h.ctx, h.as("Marek Orde"), part, draft.Version)
	require.NoError(t, err)
	_, err = h.ChangeDraft(h.ctx, h.as("Marek Orde"), part, shop.DraftChange{Version: draft.Version + 1})
	refusal(t, err, shop.Conflict, "released and frozen")
	next, err := h.NewRevision(h.ctx, h.as("Marek Orde"), part)
	require.NoError(t, err)
	assert.Equal(t, "C", next.Letter)
	assert.Empty(t, next.Changed)
}

func TestDifferencesOfRevisionsNameOnlyWhatIsNew(t *testing.T) {
	h := open(t)
	parts, err := h.Parts(h.ctx)
	require.NoError(t, err)
	v, err := h.Revision(h.ctx, parts[0].Code, "B")
	require.NoError(t, err)
	assert.Equal(t, []int{8}, v.Changed, "one ply was put in; what it shifted is not new")
	assert.Zero(t, v.Gone)
	assert.Equal(t, "A", v.Against)
}

func TestAnImportWithAFaultNamesEveryRowAndStoresNothing(t *testing.T) {
	h := open(t)
	in, err := demo.Panel()
	require.NoError(t, err)
	in.Number, in.Name = "SP-30", "Copy"
	in.Plies[1].Material = "Sabel UD"
	in.Plies[6].Layer = "hinge"
	before := h.count(`select count(*) from parts`) + h.count(`select count(*) from plies`)
	_, err = h.ImportPart(h.ctx, h.as("Marek Orde"), in)
	var faults *shop.Error
	require.ErrorAs(t, err, &faults)
	require.Len(t, faults.Details, 2)
	assert.Contains(t, faults.Details[0], `row 3: no material is called "Sabel UD"`)
	assert.Contains(t, faults.Details[1], `row 8: the drawing has no outline on a layer "hinge"`)
	assert.Equal(t, before, h.count(`select count(*) from parts`)+h.count(`select count(*) from plies`))
}

// nested starts a build, nests its plies of one material on a roll and finds
// the nest.
func (h *house) nested(build, roll string) string {
	h.t.Helper()
	line, err := h.StartNest(h.ctx, h.as("Tilda Brandl"), shop.NewNest{Roll: roll, Builds: []string{build}, Steps: 3})
	require.NoError(h.t, err)
	var n shop.Nest
	require.NoError(h.t, h.DB.Gorm.Where("code = ?", line.Code).Take(&n).Error)
	problem, ok, err := h.BeginNest(h.ctx, n.ID)
	require.NoError(h.t, err)
	require.True(h.t, ok)
	found, err := nest.Nest(h.ctx, problem.Problem(), nest.Options{Steps: problem.Steps})
	require.NoError(h.t, err)
	best := wire.FromNest(found)
	require.NoError(h.t, h.EndNest(h.ctx, n.ID, &best, ""))
	return line.Code
}

func (h *house) newBuild(serial string) shop.BuildLine {
	h.t.Helper()
	parts, err := h.Parts(h.ctx)
	require.NoError(h.t, err)
	b, err := h.StartBuild(h.ctx, h.as("Marek Orde"), parts[0].Code, shop.NewBuild{Serial: serial, CureAt: h.at.Add(30 * time.Hour)})
	require.NoError(h.t, err)
	return b
}

func TestCuttingTakesTheLengthAndHandsOnTheClock(t *testing.T) {
	h := open(t)
	by := h.as("Tilda Brandl")
	b, roll := h.newBuild("0030"), h.roll("SU-2207").Code
	code := h.nested(b.Code, roll)
	_, err := h.ConfirmCut(h.ctx, by, code)
	refusal(t, err, shop.Refused, "in the freezer")
	out, err := h.TakeOut(h.ctx, by, roll, shop.Moved{})
	require.NoError(t, err)
	h.at = h.at.Add(2 * time.Hour)
	v, err := h.ConfirmCut(h.ctx, by, code)
	require.NoError(t, err)
	after := h.roll("SU-2207")
	assert.InDelta(t, out.Length-v.Length, after.Length, 1e-9)
	assert.Empty(t, after.Flaws, "the flaw was on the length that is gone")
	var spent []float64
	require.NoError(t, h.DB.Gorm.Raw(`select spent from cut_plies c join builds b on b.id = c.build_id where b.code = ?`, b.Code).Scan(&spent).Error)
	require.Len(t, spent, 8)
	for _, s := range spent {
		assert.InDelta(t, out.Fuse.Spent+2*3600, s, 1)
	}
	_, err = h.ConfirmCut(h.ctx, by, code)
	refusal(t, err, shop.Conflict, "already cut")
}

func TestFlawsMoveWithTheRoll(t *testing.T) {
	h := open(t)
	by := h.as("Tilda Brandl")
	var m struct{ ID int64 }
	require.NoError(t, h.DB.Gorm.Raw(`select id from materials where name = 'Sable UD 150'`).Scan(&m).Error)
	r, err := h.ReceiveRoll(h.ctx, by, shop.NewRoll{MaterialID: m.ID, Batch: "flawed", Length: 30, Flaws: []wire.Flaw{{From: 5, To: 5.2}}})
	require.NoError(t, err)
	_, err = h.TakeOut(h.ctx, by, r.Code, shop.Moved{})
	require.NoError(t, err)
	v, err := h.ConfirmCut(h.ctx, by, h.nested(h.newBuild("0040").Code, r.Code))
	require.NoError(t, err)
	left := h.roll("flawed").Flaws
	require.Len(t, left, 1)
	assert.InDelta(t, 5-v.Length, left[0].From, 1e-9)
}

func TestAnOldRollIsRefusedAtTheCut(t *testing.T) {
	h := open(t)
	by := h.as("Tilda Brandl")
	b, roll := h.newBuild("0030"), h.roll("ST-0418").Code
	code := h.nested(b.Code, roll)
	_, err := h.TakeOut(h.ctx, by, roll, shop.Moved{})
	require.NoError(t, err)
	_, err = h.ConfirmCut(h.ctx, by, code)
	refusal(t, err, shop.Refused, "pass the end of its out-life by")
	queue, err := h.CutQueue(h.ctx)
	require.NoError(t, err)
	for _, d := range queue {
		if d.Material == "Sable twill 200" {
			assert.Equal(t, h.roll("ST-0455").Code, d.Rolls[0].Code, "the fresher roll is proposed")
			assert.Contains(t, d.Rolls[1].Passed, "out-life")
		}
	}
}

func TestANestIsStaleOnceItsRollWasCut(t *testing.T) {
	h := open(t)
	by := h.as("Tilda Brandl")
	roll := h.roll("SU-2207").Code
	_, err := h.TakeOut(h.ctx, by, roll, shop.Moved{})
	require.NoError(t, err)
	first, second := h.nested(h.newBuild("0030").Code, roll), h.nested(h.newBuild("0031").Code, roll)
	_, err = h.ConfirmCut(h.ctx, by, first)
	require.NoError(t, err)
	before := h.roll("SU-2207").Length
	_, err = h.ConfirmCut(h.ctx, by, second)
	refusal(t, err, shop.Conflict, "has been cut since this nest was made")
	assert.Equal(t, before, h.roll("SU-2207").Length, "nothing is taken off for a refused cut")
	_, err = h.ConfirmCut(h.ctx, by, h.nested(h.build("0031").Code, roll))
	assert.NoError(t, err, "a nest of what is left can be cut")
}

func TestAKitNamesMissingAndDoubledPlies(t *testing.T) {
	h := open(t)
	by := h.as("Tilda Brandl")
	b := h.newBuild("0030")
	for _, r := range []shop.RollView{h.roll("SU-2291"), h.roll("SU-2207"), h.roll("ST-0455")} {
		if !r.Fuse.Out {
			_, err := h.TakeOut(h.ctx, by, r.Code, shop.Moved{})
			require.NoError(t, err)
		}
	}
	// Two nests of the same plies, both cut: every unidirectional ply is there twice.
	first, second := h.nested(b.Code, h.roll("SU-2291").Code), h.nested(b.Code, h.roll("SU-2207").Code)
	for _, n := range []string{first, second, h.nested(b.Code, h.roll("ST-0455").Code)} {
		_, err := h.ConfirmCut(h.ctx, by, n)
		require.NoError(t, err)
	}
	kit, err := h.Kit(h.ctx, b.Code)
	require.NoError(t, err)
	for _, p := range kit.Plies {
		if p.Number == 5 {
			continue
		}
		_, err := h.CountPly(h.ctx, by, b.Code, p.Cut[0].Code)
		require.NoError(t, err)
	}
	_, err = h.CloseKit(h.ctx, by, b.Code)
	refusal(t, err, shop.Refused, "ply 5 missing")
	_, err = h.CountPly(h.ctx, by, b.Code, kit.Plies[1].Cut[0].Code)
	refusal(t, err, shop.Conflict, "already counted")
	_, err = h.CountPly(h.ctx, by, b.Code, kit.Plies[4].Cut[1].Code)
	require.NoError(t, err)
	_, err = h.CountPly(h.ctx, by, b.Code, kit.Plies[1].Cut[1].Code)
	require.NoError(t, err)
	_, err = h.CloseKit(h.ctx, by, b.Code)
	refusal(t, err, shop.Refused, "ply 2 doubled")
	_, err = h.Sign(h.ctx, by, b.Code, shop.SignPly{Ply: 1, CutPly: kit.Plies[0].Cut[0].Code})
	refusal(t, err, shop.Refused, "count the kit first")
	_, err = h.SetAside(h.ctx, by, b.Code, kit.Plies[1].Cut[0].Code)
	require.NoError(t, err)
	done, err := h.CloseKit(h.ctx, by, b.Code)
	require.NoError(t, err)
	assert.Equal(t, "layup", done.Build.Stage)
}

func TestAKitsClockStopsInTheFreezer(t *testing.T) {
	h := open(t)
	by := h.as("Tilda Brandl")
	b := h.newBuild("0030")
	_, err := h.MoveKit(h.ctx, by, b.Code, "in")
	refusal(t, err, shop.Conflict, "nothing of this kit is cut")
	ud := h.roll("SU-2291").Code
	_, err = h.TakeOut(h.ctx, by, ud, shop.Moved{})
	require.NoError(t, err)
	_, err = h.ConfirmCut(h.ctx, by, h.nested(b.Code, ud))
	require.NoError(t, err)
	h.at = h.at.Add(time.Hour)
	kit, err := h.MoveKit(h.ctx, by, b.Code, "in")
	require.NoError(t, err)
	assert.InDelta(t, 3600, kit.Build.Fuse.Spent, 1)
	h.at = h.at.Add(10 * time.Hour)
	kit, err = h.MoveKit(h.ctx, by, b.Code, "out")
	require.NoError(t, err)
	assert.InDelta(t, 3600, kit.Build.Fuse.Spent, 1, "ten hours in the freezer cost nothing")
	h.at = h.at.Add(time.Hour)
	kit, err = h.Kit(h.ctx, b.Code)
	require.NoError(t, err)
	assert.InDelta(t, 2*3600, kit.Build.Fuse.Spent, 1)
}

func TestTheBenchRefusesTheWrongOrder(t *testing.T) {
	h := open(t)
	by := h.as("Ines Falk")
	build := h.build("0002").Code
	in := h.nextPly(build)
	kit, err := h.Kit(h.ctx, build)
	require.NoError(t, err)
	_, err = h.Sign(h.ctx, by, build, shop.SignPly{Ply: 7, CutPly: kit.Plies[7].Cut[0].Code, FilmsOff: 1})
	refusal(t, err, shop.Conflict, "expecting ply 7: you scanned ply 8")
	_, err = h.Sign(h.ctx, by, build, shop.SignPly{Ply: 9, CutPly: kit.Plies[8].Cut[0].Code, FilmsOff: 1})
	refusal(t, err, shop.Conflict, "ply 7 comes next, not ply 9")
	_, err = h.Sign(h.ctx, by, build, shop.SignPly{Ply: 7, CutPly: in.CutPly, FilmsOff: 2})
	refusal(t, err, shop.Invalid, "has 1 films")
	_, err = h.StartDebulk(h.ctx, by, build)
	refusal(t, err, shop.Conflict, "no debulk is due")
	for range 3 {
		_, err = h.Sign(h.ctx, by, build, h.nextPly(build))
		require.NoError(t, err)
	}
	_, err = h.Sign(h.ctx, by, build, shop.SignPly{Ply: 10, CutPly: kit.Plies[9].Cut[0].Code, FilmsOff: 2})
	refusal(t, err, shop.Refused, "debulk first: it falls due after ply 9")
}

func TestAShortDebulkStaysOnRecordAndDoesNotCount(t *testing.T) {
	h := open(t)
	by := h.as("Ines Falk")
	build := h.build("0002").Code
	for range 3 {
		_, err := h.Sign(h.ctx, by, build, h.nextPly(build))
		require.NoError(t, err)
	}
	debulk := func(d time.Duration, vacuum float64) shop.LayupView {
		_, err := h.StartDebulk(h.ctx, by, build)
		require.NoError(t, err)
		h.at = h.at.Add(d)
		v, err := h.EndDebulk(h.ctx, by, build, vacuum)
		require.NoError(t, err)
		return v
	}
	v := debulk(5*time.Minute, 90e3)
	assert.True(t, v.Next.Debulk, "still due")
	assert.Contains(t, v.Debulks[len(v.Debulks)-1].Says, "lasted 5.0 min")
	v = debulk(16*time.Minute, 70e3)
	assert.True(t, v.Next.Debulk)
	assert.Contains(t, v.Debulks[len(v.Debulks)-1].Says, "70 kPa")
	v = debulk(16*time.Minute, 88e3)
	assert.False(t, v.Next.Debulk)
	v, err := h.TakeBack(h.ctx, by, build, 9, "bridged in the corner")
	require.NoError(t, err)
	assert.False(t, v.Debulks[len(v.Debulks)-1].Counts, "a debulk on a ply that came off counts no more")
	assert.Len(t, v.TakenBack, 1)
}

func TestOnlyQualitySignsAPartOffAndOnlyWithinLimits(t *testing.T) {
	h := open(t)
	build := h.build("0001").Code
	v, err := h.ReleaseOf(h.ctx, build)
	require.NoError(t, err)
	good := shop.Disposition{Measured: shop.Measured{Mass: v.Expected.Mass, Thickness: []float64{v.Expected.Thickness}}, Disposition: "good"}
	_, err = h.Dispose(h.ctx, h.as("Ines Falk"), build, good)
	refusal(t, err, shop.Refused, "for quality")
	heavy := good
	heavy.Mass *= 1.05
	_, err = h.Dispose(h.ctx, h.as("Jonas Quist"), build, heavy)
	refusal(t, err, shop.Refused, "mass is outside its limits")
	_, err = h.Dispose(h.ctx, h.as("Jonas Quist"), h.build("0002").Code, good)
	refusal(t, err, shop.Refused, "waits at layup")
	done, err := h.Dispose(h.ctx, h.as("Jonas Quist"), build, good)
	require.NoError(t, err)
	assert.Equal(t, "finished", done.Build.Stage)
	_, err = h.Dispose(h.ctx, h.as("Ada Wren"), build, good)
	refusal(t, err, shop.Conflict, "Jonas Quist already signed")
}

func TestGuessingAPINIsSlowedAndNobodyIsLockedOutForLong(t *testing.T) {
	h := open(t)
	id := h.as("Ines Falk").Person.ID
	for range 5 {
		_, err := h.SignIn(h.ctx, id, "000000")
		refusal(t, err, shop.Refused, "do not belong together")
	}
	_, err := h.SignIn(h.ctx, id, pin)
	refusal(t, err, shop.Refused, "try again in 30s")
	h.at = h.at.Add(31 * time.Second)
	p, err := h.SignIn(h.ctx, id, pin)
	require.NoError(t, err)
	assert.Equal(t, "Ines Falk", p.Name)
	for range 40 {
		_, _ = h.SignIn(h.ctx, id, "000000")
		h.at = h.at.Add(10 * time.Second)
	}
	h.at = h.at.Add(5 * time.Minute)
	_, err = h.SignIn(h.ctx, id, pin)
	assert.NoError(t, err, "five minutes are the most")
	_, err = h.SignIn(h.ctx, 9999, pin)
	refusal(t, err, shop.Refused, "do not belong together")
}

func TestPeopleAreAddedByAdministratorsWithADecentPIN(t *testing.T) {
	h := open(t)
	_, err := h.AddPerson(h.ctx, h.as("Ines Falk"), "New Hand", "technician", "123456")
	refusal(t, err, shop.Refused, "administrator")
	for _, bad := range []string{"1234", "12345a", ""} {
		_, err = h.AddPerson(h.ctx, h.as("Ada Wren"), "New Hand", "technician", bad)
		refusal(t, err, shop.Invalid, "6 to 12 digits")
	}
	_, err = h.AddPerson(h.ctx, h.as("Ada Wren"), "New Hand", "technician", "123456")
	require.NoError(t, err)
	_, err = h.AddPerson(h.ctx, h.as("Ada Wren"), "New Hand", "technician", "123456")
	refusal(t, err, shop.Conflict, "already somebody called New Hand")
}

func TestFindAndScan(t *testing.T) {
	h := open(t)
	hits, err := h.Find(h.ctx, "SU-22")
	require.NoError(t, err)
	assert.Len(t, hits, 2)
	hits, err = h.Find(h.ctx, "100%_")
	require.NoError(t, err)
	assert.Empty(t, hits, "wildcards are letters")
	for serial, path := range map[string]string{"0001": "/release/", "0002": "/layup/"} {
		code := h.build(serial).Code
		hit, err := h.Scan(h.ctx, code)
		require.NoError(t, err)
		assert.Equal(t, path+code, hit.Path)
	}
	_, err = h.Scan(h.ctx, fmt.Sprintf("C-%s", "00000"))
	assert.Error(t, err)
}

func TestTheThreadRunsBothWays(t *testing.T) {
	h := open(t)
	build, roll := h.build("0001").Code, h.roll("SU-2207").Code
	back, err := h.ThreadOfBuild(h.ctx, build)
	require.NoError(t, err)
	rolls := map[string][]int{}
	for _, r := range back.Rolls {
		rolls[r.Code] = r.Plies
	}
	assert.Equal(t, []int{2, 3, 4, 5, 6, 7, 8, 9}, rolls[roll])
	forward, err := h.ThreadOfRoll(h.ctx, roll)
	require.NoError(t, err)
	require.Len(t, forward.Builds, 2)
	for _, b := range forward.Builds {
		assert.Len(t, b.FromRoll, 8, b.Serial)
	}
}
