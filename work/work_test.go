package work_test

import (
	"context"
	"os"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"juxta/demo/demotest"
	"juxta/device/sim"
	"juxta/shop"
	"juxta/shop/book"
	"juxta/shop/builds"
	"juxta/shop/curing"
	"juxta/shop/cutting"
	"juxta/shop/parts"
	"juxta/store/storetest"
	"juxta/work"
)

func TestMain(m *testing.M) { os.Exit(demotest.Run(m)) }

func open(t *testing.T, oven string) *shop.Shop {
	t.Helper()
	db := storetest.Open(t, demotest.Shop)
	queue, err := work.NewInserter(db)
	require.NoError(t, err)
	return shop.New(&book.Book{DB: db, Queue: queue, Oven: oven, Now: storetest.Clock()})
}

func start(t *testing.T, s *shop.Shop) *work.Worker {
	t.Helper()
	w, err := work.Start(context.Background(), s.DB, s)
	require.NoError(t, err)
	return w
}

func somebody(t *testing.T, s *shop.Shop) book.By {
	t.Helper()
	p, err := s.PersonByID(context.Background(), 1)
	require.NoError(t, err)
	return book.By{Person: p}
}

// eventually waits for a state, never for a time.
func eventually(t *testing.T, what string, state func() bool) {
	t.Helper()
	require.Eventually(t, state, 60*time.Second, 50*time.Millisecond, what)
}

// oven is a simulated one that leaves no gap in a record on a busy machine.
func oven(t *testing.T, seed uint64) *sim.Server {
	t.Helper()
	oven, err := sim.Serve("127.0.0.1:0", 600, seed)
	require.NoError(t, err)
	require.NoError(t, oven.WaitForReader(2*time.Minute, 1500))
	return oven
}

func TestANestIsSearchedStoppedAndItsBestKept(t *testing.T) {
	ctx := context.Background()
	s := open(t, "")
	w := start(t, s)
	defer w.Stop()
	by := somebody(t, s)
	d := toCut(t, s)
	line, err := s.StartNest(
		ctx,
		by,
		cutting.NewNest{Roll: d.Rolls[0].Code, Builds: []string{d.Builds[0].Code}, Steps: 100_000_000},
	)
	require.NoError(t, err)
	var v cutting.NestView
	eventually(t, "a first nest while it is searched", func() bool {
		v, err = s.Nest(ctx, line.Code)
		return err == nil && v.State == "running" && v.Length > 0 && v.Step > 0
	})
	assert.Len(t, v.Placed, 8)
	_, err = s.StopNest(ctx, by, line.Code)
	require.NoError(t, err)
	eventually(t, "the stopped nest", func() bool {
		v, err = s.Nest(ctx, line.Code)
		return err == nil && v.State == "done"
	})
	assert.Positive(t, v.Length)
	assert.Less(t, v.Step, 100_000_000)
	_, err = s.StopNest(ctx, by, line.Code)
	assert.ErrorContains(t, err, "not being searched")
}

// toCut is what the demo's third build waits for from the unidirectional
// material: eight plies.
func toCut(t *testing.T, s *shop.Shop) cutting.CutDemand {
	t.Helper()
	queue, err := s.CutQueue(context.Background())
	require.NoError(t, err)
	i := slices.IndexFunc(queue, func(d cutting.CutDemand) bool { return d.Material == "Sable UD 150" })
	require.GreaterOrEqual(t, i, 0)
	return queue[i]
}

// ready makes the demo's second build wait for the oven, by its records alone.
func ready(t *testing.T, s *shop.Shop) string {
	t.Helper()
	ctx := context.Background()
	builds, err := s.Builds(ctx, builds.BuildQuery{Room: "layup", Limit: 200})
	require.NoError(t, err)
	require.Len(t, builds.Builds, 1)
	code := builds.Builds[0].Code
	for _, q := range []string{
		`insert into ply_records (build_id, ply_id, cut_ply_id, person_id, at, films_off)
			select c.build_id, c.ply_id, c.id, 1, now(), 0 from cut_plies c join builds b on b.id = c.build_id
			where b.code = ? on conflict do nothing`,
		`insert into bags (build_id, stack, closed_at, closed_by) select id, '[]', now(), 1 from builds where code = ?`,
		`insert into leak_checks (build_id, at, person_id, start_vacuum, end_vacuum, seconds, pass, says) select id,
			now(),
			1, 9e4, 9e4, 300, true, '' from builds where code = ?`,
	} {
		require.NoError(t, s.DB.Gorm.Exec(q, code).Error)
	}
	return code
}

func TestARunIsPickedUpWhereItsRecorderLeftIt(t *testing.T) {
	ctx := context.Background()
	oven := oven(t, 3)
	defer oven.Close()
	s := open(t, oven.Address)
	by := somebody(t, s)
	code := ready(t, s)
	first := start(t, s)
	line, err := s.StartRun(ctx, by, []curing.OvenLoad{{Build: code}})
	require.NoError(t, err)
	_, err = s.StartRun(ctx, by, []curing.OvenLoad{{Build: code}})
	assert.ErrorContains(t, err, "running already")
	samples := func() int {
		v, err := s.Run(ctx, line.Code)
		require.NoError(t, err)
		return len(v.Samples)
	}
	eventually(t, "samples of the first recorder", func() bool { return samples() >= 8 })
	first.Stop()
	left := samples()

	// A sensor fails while nobody looks, and heals.
	oven.FailLagSensor(true)
	second := start(t, s)
	defer second.Stop()
	eventually(t, "samples of the second recorder", func() bool { return samples() >= left+4 })
	oven.FailLagSensor(false)
	var v curing.RunView
	eventually(t, "the end of the run", func() bool {
		v, err = s.Run(ctx, line.Code)
		return err == nil && v.State == "finished"
	})
	last, failed := -1.0, 0
	for _, x := range v.Samples {
		assert.Greater(t, x.T, last)
		last = x.T
		if x.Lag == nil {
			failed++
		}
	}
	assert.Positive(t, failed, "a failed reading is kept as failed")
	require.NotNil(t, v.Verdict)
	assert.Contains(t, v.Verdict.Notes[0], "lagging sensor were left out as failed")
	assert.Greater(t, v.Verdict.Cure, 0.9)
}

func TestARunCanBeStoppedWithAReason(t *testing.T) {
	ctx := context.Background()
	oven := oven(t, 4)
	defer oven.Close()
	s := open(t, oven.Address)
	by := somebody(t, s)
	line := func() curing.RunLine {
		l, err := s.StartRun(ctx, by, []curing.OvenLoad{{Build: ready(t, s)}})
		require.NoError(t, err)
		return l
	}()
	w := start(t, s)
	defer w.Stop()
	eventually(t, "the first samples", func() bool {
		u, err := s.RunSince(ctx, line.Code, -1)
		return err == nil && len(u.Samples) >= 4
	})
	_, err := s.StopRun(ctx, by, line.Code, "")
	assert.ErrorContains(t, err, "say why")
	_, err = s.StopRun(ctx, by, line.Code, "vacuum line burst")
	require.NoError(t, err)
	var v curing.RunView
	eventually(t, "the stopped run", func() bool {
		v, err = s.Run(ctx, line.Code)
		return err == nil && v.State == "stopped"
	})
	require.NotNil(t, v.Verdict)
	assert.False(t, v.Verdict.Met)
}

// A search for a start is done by the worker, and one that is stopped keeps its best.
func TestAStartIsSearchedAndCutsAreProposed(t *testing.T) {
	ctx := context.Background()
	s := open(t, "")
	w := start(t, s)
	defer w.Stop()
	by := somebody(t, s)
	planner := *by.Person
	planner.Role = "planner"
	by.Person = &planner
	all, err := s.Parts(ctx)
	require.NoError(t, err)
	i := slices.IndexFunc(all, func(p parts.PartLine) bool { return p.Number == "SP-25" })
	require.GreaterOrEqual(t, i, 0)
	v, err := s.Revision(ctx, all[i].Code, "")
	require.NoError(t, err)
	stage := v.Document.Stages[0]
	seek := func(ply int, what string) parts.DrapeSearchView {
		line, err := s.SeekDrape(ctx, by, v.Part.Code, parts.NewDrapeSearch{
			Document: &v.Document, Stage: stage.Key, Ply: stage.Items[ply].Key, What: what,
		})
		require.NoError(t, err)
		return line
	}
	over := func(id int64) parts.DrapeSearchView {
		var out parts.DrapeSearchView
		eventually(t, "the end of the search", func() bool {
			out, err = s.SeenDrape(ctx, id)
			return err == nil && (out.State == "done" || out.State == "failed")
		})
		return out
	}
	one := over(seek(0, "start").ID)
	assert.Empty(t, one.Message)
	assert.True(t, one.Best.Found)
	assert.Equal(t, one.Best.Of, one.Best.Tried)
	assert.Less(t, one.Best.Peak, stage.Items[0].Flat.Peak+0.5)
	two := seek(7, "start")
	_, err = s.StopDrape(ctx, by, two.ID)
	require.NoError(t, err)
	assert.Less(t, over(two.ID).Best.Tried, one.Best.Of)
	// It locks nowhere: there is nothing to cut.
	none := over(seek(0, "cuts").ID)
	assert.Empty(t, none.Message)
	assert.False(t, none.Best.Found)
}
