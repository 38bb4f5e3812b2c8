package shop_test

import (
	"runtime"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"juxta/core/master"
	"juxta/core/nest"
	"juxta/core/unit"
	"juxta/shop/book"
	"juxta/shop/builds"
	"juxta/shop/parts"
	"juxta/shop/shoptest"
	"juxta/shop/stock"
)

// What use and reading found, so that it stays mended.

// A film wider than the plies makes a zone in which nothing is stiff, and it is
// the largest.
func TestReleaseWhereTheLargestZoneIsSoft(t *testing.T) {
	h := open(t)
	by := h.as("Marek Orde")
	v := h.named("SP-25")
	doc := v.Document
	plies := v.Worked.Zones[0].Analysis.Thickness
	doc.Outlines = append(
		doc.Outlines,
		master.Outline{Name: "wide", Kind: "rectangle", Dims: map[string]float64{"length": 3, "width": 3}},
	)
	last := len(doc.Stages) - 1
	doc.Stages[last].Items = append(
		doc.Stages[last].Items,
		master.Item{
			Key:        "wide-film",
			Kind:       master.Film,
			MaterialID: h.material("Ember film 250"),
			Outline:    "wide",
			X:          -1,
			Y:          -1,
		},
	)
	v, err := h.ChangeDraft(h.ctx, by, v.Part.Code, parts.DraftChange{Version: v.Version, Document: &doc})
	require.NoError(t, err)
	require.Nil(t, v.Worked.Zones[0].Analysis, "the largest zone is film alone")
	h.release(v)
	b, err := h.StartBuild(h.ctx, by, v.Part.Code, builds.NewBuild{Serial: "0001", CureAt: h.at.Add(30 * time.Hour)})
	require.NoError(t, err)
	r, err := h.ReleaseOf(h.ctx, b.Code)
	require.NoError(t, err)
	assert.Greater(t, r.Thickness.Expected, plies*0.99, "of plies, with the film in it")
	_, err = h.ThreadOfBuild(h.ctx, b.Code)
	assert.NoError(t, err)
}

// A checked draft follows its material: its document and its plies say the same,
// its check is undone, and so it is released.
func TestACheckedDraftFollowsItsMaterialWithItsPlies(t *testing.T) {
	h := open(t)
	v := h.named("SP-25")
	quist := h.as("Jonas Quist")
	_, err := h.CheckRevision(h.ctx, h.as("Hanne Vold"), v.Part.Code, parts.RevisionSign{Version: v.Version, PIN: pin})
	require.NoError(t, err)
	all, err := h.Materials(h.ctx)
	require.NoError(t, err)
	old := v.Plies[0].MaterialID
	for _, m := range all {
		if m.ID == old {
			in := m.MaterialIn
			in.Thickness *= 1.1
			_, err := h.ChangeMaterial(
				h.ctx,
				h.as("Marek Orde"),
				m.Family,
				stock.MaterialChange{MaterialIn: in, Version: m.Version, Stock: true},
			)
			require.NoError(t, err)
		}
	}
	agree := func(v parts.RevisionView) {
		t.Helper()
		n := 0
		for _, i := range v.Document.Items() {
			if i.Kind == master.Ply {
				assert.Equal(t, i.MaterialID, v.Plies[n].MaterialID, "ply %d", n+1)
				n++
			}
		}
		assert.NotEqual(t, old, v.Plies[0].MaterialID)
	}
	after := h.named("SP-25")
	assert.Equal(t, "draft", after.State)
	assert.Greater(t, after.Version, v.Version)
	agree(after)
	// A database in which an older program left the two apart.
	require.NoError(
		t,
		h.DB.Gorm.Exec(
			`update plies set material_id = ? where revision_id = (select max(id) from revisions
				where part_id = (select id
				from parts where number = 'SP-25'))`,
			old,
		).Error,
	)
	_, err = h.CheckRevision(
		h.ctx,
		h.as("Hanne Vold"),
		v.Part.Code,
		parts.RevisionSign{Version: after.Version, PIN: pin},
	)
	require.NoError(t, err)
	r, err := h.ReleaseRevision(h.ctx, quist, v.Part.Code, parts.RevisionSign{Version: after.Version, PIN: pin})
	require.NoError(t, err)
	agree(r)
}

// What a re-test gave the roll reaches the kit, and the bench.
func TestARetestReachesTheKit(t *testing.T) {
	h := open(t)
	by, quist := h.as("Tilda Brandl"), h.as("Jonas Quist")
	require.NoError(t, h.DB.Gorm.Exec(`update materials set tack_life = 0`).Error)
	b := h.batch("ST-0418")
	until := b.ShelfEnd.Add(120 * 24 * time.Hour)
	_, err := h.RetestBatch(
		h.ctx,
		quist,
		b.Code,
		stock.Retest{Until: &until, More: 200 * 3600, Evidence: "report 55", PIN: pin},
	)
	require.NoError(t, err)
	build := h.newBuild("0030")
	old, ud := h.roll("ST-0418"), h.roll("SU-2291")
	h.ready(old.Code)
	h.at = h.at.Add(40 * time.Hour)
	life := h.roll("ST-0418").OutTime.Life
	_, err = h.ConfirmCut(h.ctx, by, h.nested(build.Code, old.Code))
	require.NoError(t, err, "the roll may be cut after its re-test")
	h.ready(ud.Code)
	_, err = h.ConfirmCut(h.ctx, by, h.nested(build.Code, ud.Code))
	require.NoError(t, err)
	kit, err := h.Kit(h.ctx, build.Code, "")
	require.NoError(t, err)
	for _, p := range kit.Plies {
		_, err := h.CountPly(h.ctx, by, build.Code, p.Cut[0].Code)
		require.NoError(t, err)
	}
	kit, err = h.CloseKit(h.ctx, by, build.Code, "", "")
	require.NoError(t, err)
	assert.InDelta(t, life, kit.Build.OutTime.Life, 1)
	assert.Greater(t, kit.Build.OutTime.Spent, 40*3600.0)
	_, err = h.Sign(h.ctx, h.as("Ines Falk"), build.Code, h.nextPly(build.Code))
	assert.NoError(t, err)
}

// Findings are the same whatever becomes of the processors meanwhile.
func TestFindingsWhileProcessorsComeAndGo(t *testing.T) {
	h := open(t)
	file, err := h.ExportMaster(h.ctx, h.named("SP-11").Part.Code, "A")
	require.NoError(t, err)
	v, err := h.ImportMaster(h.ctx, h.as("Marek Orde"), shoptest.Many(file, 100))
	require.NoError(t, err)
	want := len(v.Worked.Findings)
	before := runtime.GOMAXPROCS(0)
	stop, stopped := make(chan struct{}), make(chan struct{})
	go func() {
		defer close(stopped)
		for n := 0; ; n++ {
			select {
			case <-stop:
				return
			default:
				runtime.GOMAXPROCS(2 + n%2*2)
			}
		}
	}()
	defer func() {
		close(stop)
		<-stopped
		runtime.GOMAXPROCS(before)
	}()
	for range 40 {
		r, err := h.Ask(h.ctx, v.Part.Code, parts.Question{})
		require.NoError(t, err)
		require.Len(t, r.Worked.Findings, want)
	}
}

// The route counts what is out as the stock does: after a counter-entry, and
// after a roll was scrapped that was out.
func TestTheRouteCountsRollsAsTheStockDoes(t *testing.T) {
	h := open(t)
	by := h.as("Tilda Brandl")
	out := func() int {
		t.Helper()
		h.at = h.at.Add(2 * time.Second)
		route, err := h.Rooms(h.ctx)
		require.NoError(t, err)
		stock, err := h.Rolls(h.ctx, stock.RollQuery{Limit: 200})
		require.NoError(t, err)
		assert.Equal(t, stock.Out, route[0].Count)
		return route[0].Count
	}
	roll, before := h.roll("SU-2291").Code, out()
	_, err := h.TakeOut(h.ctx, by, moved(roll))
	require.NoError(t, err)
	assert.Equal(t, before+1, out())
	d, err := h.Roll(h.ctx, roll)
	require.NoError(t, err)
	_, err = h.Correct(h.ctx, by, roll, stock.Correction{Line: d.Ledger[len(d.Ledger)-1].ID, Reason: "wrong roll"})
	require.NoError(t, err)
	assert.Equal(t, before, out())
	other := h.ready(h.roll("SU-2207").Code)
	was := out()
	_, err = h.Scrap(h.ctx, h.as("Ines Falk"), other.Code, stock.ScrapLength{Reason: "damaged"})
	require.NoError(t, err)
	assert.Equal(t, was-1, out())
}

// A flaw that was mapped after the nest lies on the table when it is cut.
func TestANestOverAFlawMappedAfterItIsNotConfirmed(t *testing.T) {
	h := open(t)
	by := h.as("Tilda Brandl")
	roll := h.roll("SU-2291").Code
	h.ready(roll)
	nested := h.nested(h.newBuild("0030").Code, roll)
	_, err := h.SetFlaws(h.ctx, by, roll, []nest.Flaw{{From: 0.05, To: 0.6, Kind: "wrinkle"}})
	require.NoError(t, err)
	_, err = h.ConfirmCut(h.ctx, by, nested)
	var refusal *book.Error
	require.ErrorAs(t, err, &refusal)
	assert.Equal(t, book.Conflict, refusal.Kind)
	assert.Contains(t, unit.InMetric(refusal.Message), "lies on the flaw at 0.05 m")
	assert.Contains(t, refusal.Message, "nest again")
	_, err = h.SetFlaws(h.ctx, by, roll, nil)
	require.NoError(t, err)
	_, err = h.ConfirmCut(h.ctx, by, nested)
	assert.NoError(t, err, "the flaw was mapped on the wrong roll")
}

// Of two people who change the rules at once one is told to look again, whether
// or not anybody had changed them before.
func TestTwoWhoChangeTheRulesAtOnce(t *testing.T) {
	h := open(t)
	people := []book.By{h.as("Jonas Quist"), h.as("Ada Wren")}
	for round := range 6 {
		v, err := h.Rules(h.ctx)
		require.NoError(t, err)
		require.Equal(t, round, v.Version)
		var wait sync.WaitGroup
		errs := make([]error, 2)
		for k, by := range people {
			wait.Go(func() {
				limits := v.Limits
				limits.MaxRun = 10*round + k + 1
				_, errs[k] = h.ChangeRules(
					h.ctx,
					by,
					parts.RulesIn{Version: v.Version, Limits: limits, Reason: "trial"},
				)
			})
		}
		wait.Wait()
		lost := 0
		for _, err := range errs {
			var refusal *book.Error
			if err != nil {
				require.ErrorAs(t, err, &refusal)
				assert.Contains(t, refusal.Message, "somebody changed the rules in the meantime")
				lost++
			}
		}
		assert.Equal(t, 1, lost)
	}
}
