package demo_test

import (
	"context"
	"os"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"juxta/core/unit"
	"juxta/demo"
	"juxta/demo/demotest"
	"juxta/shop"
	"juxta/shop/book"
	"juxta/shop/builds"
	"juxta/shop/parts"
	"juxta/shop/stock"
	"juxta/store"
	"juxta/store/storetest"
)

func TestMain(m *testing.M) { os.Exit(demotest.Run(m)) }

func TestTheDemoGivesEveryPageSomethingToShow(t *testing.T) {
	everyPage(t, storetest.Open(t, demotest.Shop), storetest.Now)
}

// The demo tells the same story on any day, also when its last night, or its 44 days,
// hold a change of the clocks.
func TestTheDemoIsTheSameWhenTheClocksAreChanged(t *testing.T) {
	zone, err := time.LoadLocation("Europe/Vienna")
	require.NoError(t, err)
	local := time.Local
	time.Local = zone
	defer func() { time.Local = local }()
	for _, end := range []time.Time{
		time.Date(2026, 10, 25, 2, 30, 0, 0, zone), // the first of the two 02:30 of this night
		time.Date(2027, 3, 28, 3, 0, 0, 0, zone),   // one second after 01:59:59
	} {
		t.Run(end.Format(time.RFC3339), func(t *testing.T) {
			db := storetest.Open(t, storetest.Empty)
			require.NoError(t, demo.Load(t.Context(), db, demo.Secrets{PIN: "246813", Password: "twelve letters"}, end))
			everyPage(t, db, end)
		})
	}
}

func everyPage(t *testing.T, db *store.DB, end time.Time) {
	ctx := context.Background()
	s := shop.New(&book.Book{DB: db, Now: func() time.Time { return end }, Altitude: demo.Altitude})

	stock, err := s.Rolls(ctx, stock.RollQuery{})
	require.NoError(t, err)
	assert.Equal(t, 1, stock.Out)
	assert.Equal(t, 8, stock.Frozen)
	ages, refused := map[float64]bool{}, map[string]string{}
	for _, r := range stock.Rolls {
		ages[r.OutTime.Spent] = true
		refused[r.Batch] = r.Refusal
		assert.Positive(t, r.Length)
	}
	assert.Greater(t, len(ages), 4, "rolls of differing age")
	assert.Contains(t, refused["SU-2304"], "not accepted yet")
	assert.Contains(t, unit.InMetric(refused["ST-0460"]), "quarantine: it arrived at -11.5 °C")
	assert.Empty(t, refused["SU-2291"])
	n, err := s.VerifyClocks(ctx)
	require.NoError(t, err)
	assert.Equal(t, 9, n)

	alarms, err := s.Alarms(ctx, false)
	require.NoError(t, err)
	require.Len(t, alarms, 1)
	assert.Equal(t, "Freezer 1", alarms[0].Freezer)
	assert.NotNil(t, alarms[0].EndedAt, "the door was closed again")
	sensors, err := s.Sensors(ctx)
	require.NoError(t, err)
	require.Len(t, sensors, 3)
	for _, n := range sensors {
		assert.Greater(t, len(n.Readings), 280)
		assert.False(t, n.Silent)
	}
	short, err := s.Scarcity(ctx)
	require.NoError(t, err)
	assert.Len(t, short, 2)

	builds, err := s.Builds(ctx, builds.BuildQuery{Room: "", Limit: 200})
	require.NoError(t, err)
	require.Len(t, builds.Builds, 3)
	assert.Equal(t, "cut", builds.Builds[0].Room)
	assert.Equal(t, "layup", builds.Builds[1].Room)
	assert.Equal(t, 6, builds.Builds[1].Laid)
	assert.Equal(t, "release", builds.Builds[2].Room)

	run, err := s.Run(ctx, builds.Builds[2].Run)
	require.NoError(t, err)
	require.NotNil(t, run.Verdict)
	assert.True(t, run.Verdict.Met, "%+v", run.Verdict)
	assert.Greater(t, len(run.Samples), 150)

	allParts, err := s.Parts(ctx)
	require.NoError(t, err)
	require.Len(t, allParts, 11)
	a, err := s.Revision(ctx, allParts[0].Code, "A")
	require.NoError(t, err)
	assert.Empty(t, a.Worked.Findings, "revision A is symmetric and balanced")
	for _, z := range a.Worked.Zones {
		assert.Zero(t, z.Analysis.Bow)
	}
	b, err := s.Revision(ctx, allParts[0].Code, "B")
	require.NoError(t, err)
	assert.Equal(t, "draft", b.State)
	assert.NotEmpty(t, b.Changed)
	assert.Greater(t, b.Worked.Zones[1].Analysis.Bow, 0.0, "the added pad ply has no partner")

	// The masters of the other parts: what the rules say of each, and of which
	// outlines they say that they are placeholders.
	findings, placeholders, tools := map[string][]string{}, []string{}, 0
	for _, p := range allParts[1:] {
		v, err := s.Revision(ctx, p.Code, "")
		require.NoError(t, err)
		require.NotNil(t, v.Worked, p.Number)
		for _, f := range v.Worked.Findings {
			findings[p.Number] = append(findings[p.Number], f.Message)
		}
		drawing, err := s.Drawing(ctx, p.Code, parts.DrawingQuestion{})
		require.NoError(t, err)
		if drawing.Tool != nil {
			tools++
			assert.Empty(t, drawing.Tool.Beyond, "%s lies on its tool", p.Number)
		}
		for _, o := range v.Document.Outlines {
			if o.Placeholder != "" {
				placeholders = append(placeholders, p.Number+" "+o.Name)
			}
		}
	}
	assert.Equal(t, map[string][]string{
		"SP-28": {
			"insert 1 is of metal and touches what conducts: isolate it from ply 6",
			"insert 2 is of metal and touches what conducts: isolate it from ply 6",
		},
	}, findings, "one deliberate fault")
	assert.ElementsMatch(t, []string{"SP-27 half shell"}, placeholders, "what is rolled or draped has its true flats")
	assert.GreaterOrEqual(t, tools, 3, "flat tools and the petal's are drawn")

	entries, err := s.VerifyLog(ctx)
	require.NoError(t, err)
	assert.Greater(t, entries, int64(60))
}

// Every other part has a build at a place of its own on its route, so that every room has
// something of several kinds to show.
func TestTheBuildsOfTheOtherPartsStandAtDifferentPlaces(t *testing.T) {
	ctx, db, end := context.Background(), storetest.Open(t, demotest.Works), storetest.Now
	s := shop.New(&book.Book{DB: db, Now: func() time.Time { return end }, Altitude: demo.Altitude})
	page, err := s.Builds(ctx, builds.BuildQuery{Limit: 200})
	require.NoError(t, err)
	open := map[string][]string{}
	for _, b := range page.Builds {
		for _, o := range b.Open {
			open[b.Number] = append(open[b.Number], o.Label+": "+o.State)
		}
	}
	assert.Equal(t, map[string][]string{
		"SP-21-600": {"Mandrel cleaned and released: ready", "Kit: ready"},
		"SP-22":     {"Pores filled and sanded: ready"},
		"SP-23":     {"Cure: ready", "Coated black at the coater’s: in work"},
		"SP-25":     {"Lay up: in work"},
		"SP-26":     {"Lay up Core: ready"},
		"SP-27":     {"Prepare tool: ready", "Join: ready"},
		"SP-29": {
			"Bond Fittings: in work", "Kit Over-wraps: ready", "Bond Fittings: ready",
			"Kit Over-wraps: ready",
		},
	}, open)
	for _, b := range page.Builds {
		if b.Number == "SP-24" {
			assert.Equal(t, "cure", b.Room, "the ring waits for the autoclave")
		}
		if b.Number+b.Serial != "SP-270002" {
			continue
		}
		work, err := s.Work(ctx, b.Code)
		require.NoError(t, err)
		for _, o := range work.Operations {
			for _, f := range o.Forms {
				if f.Name == "Inner web" {
					old := f.OutTime.Core().TooOldToJoin()
					require.Error(t, old)
					assert.Contains(t, old.Error(), "its out-life of 240 h is spent")
				}
			}
		}
	}
	draft, err := s.Parts(ctx)
	require.NoError(t, err)
	for _, p := range draft {
		if p.Number == "SP-25" {
			assert.Equal(t, []string{"A", "B"}, []string{p.Released, p.Draft}, "what comes next is written already")
		}
	}
	_, err = s.VerifyLog(ctx)
	require.NoError(t, err)
}
