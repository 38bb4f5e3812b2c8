package work_test

import (
	"context"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"juxta/core/cutpath"
	"juxta/device"
	"juxta/device/sim"
	"juxta/shop"
	"juxta/shop/book"
	"juxta/shop/cutting"
	"juxta/shop/stock"
)

// onTable is a nest of eight plies whose roll lies open at a simulated table.
func onTable(
	t *testing.T,
	speed float64,
	faults ...sim.TableFault,
) (s *shop.Shop, by book.By, table *sim.Table, code string) {
	t.Helper()
	ctx := context.Background()
	s = open(t, "")
	table, err := sim.ServeTable("127.0.0.1:0", cutpath.Usual(), speed)
	require.NoError(t, err)
	t.Cleanup(func() { _ = table.Close() })
	for _, f := range faults {
		table.Fail(f)
	}
	s.Table = table.Address
	by = somebody(t, s)
	d := toCut(t, s)
	roll := d.Rolls[0].Code
	_, err = s.TakeOut(ctx, by, stock.MoveRolls{Rolls: []string{roll}})
	require.NoError(t, err)
	room, humidity, cold := 294.15, 0.45, 290.0
	_, err = s.Open(ctx, by, roll, stock.OpenBag{Room: &room, Humidity: &humidity, Coldest: &cold})
	require.NoError(t, err)
	line, err := s.StartNest(ctx, by, cutting.NewNest{Roll: roll, Builds: []string{d.Builds[0].Code}, Steps: 100})
	require.NoError(t, err)
	w := start(t, s)
	seen(t, s, line.Code, "the nest", func(v cutting.NestView) bool { return v.State == "done" })
	w.Stop()
	return s, by, table, line.Code
}

func seen(t *testing.T, s *shop.Shop, code, what string, is func(cutting.NestView) bool) cutting.NestView {
	t.Helper()
	var v cutting.NestView
	eventually(t, what, func() bool {
		var err error
		v, err = s.Nest(context.Background(), code)
		return err == nil && is(v)
	})
	return v
}

func ended(v cutting.NestView) bool { return v.Job != nil && !v.Moving() }

// A corner lifts after two plies: the ply is spoiled, the others are cut by a second program, and the report takes
// the length off the roll once.
func TestATableStopsOnAFaultAndGoesOnWithTheRest(t *testing.T) {
	ctx := context.Background()
	s, by, _, code := onTable(t, 300, sim.TableFault{Kind: "corner", After: 2})
	w := start(t, s)
	defer w.Stop()
	_, err := s.CutOnTable(ctx, by, code, cutting.StartCut{})
	require.NoError(t, err)
	v := seen(t, s, code, "the fault", ended)
	assert.Equal(t, "fault", v.Job.State)
	assert.Contains(t, v.Job.Message, "a corner of "+v.Job.Label+" has lifted")
	assert.Len(t, v.Job.Freed, 2)
	assert.Len(t, v.Job.Left, 6)
	assert.NotEmpty(t, v.Job.Label)
	spoiled := v.Job.Piece
	_, err = s.CutOnTable(ctx, by, code, cutting.StartCut{Skip: []string{spoiled}})
	require.NoError(t, err)
	_, err = s.CutOnTable(ctx, by, code, cutting.StartCut{})
	assert.ErrorContains(t, err, "on the table already")
	_, err = s.ConfirmCut(ctx, by, code)
	assert.ErrorContains(t, err, "the knife is at this nest")
	v = seen(t, s, code, "the rest", ended)
	assert.Equal(t, "done", v.Job.State)
	assert.Len(t, v.Job.Freed, 7)
	assert.Equal(t, []string{spoiled}, v.Job.Left)
	before, err := s.Roll(ctx, v.Roll)
	require.NoError(t, err)
	done, err := s.ReportCut(
		ctx,
		by,
		code,
		cutting.CutReport{Missing: []cutting.MissingPly{{Piece: spoiled, Why: "damaged"}}},
	)
	require.NoError(t, err)
	good := slices.DeleteFunc(done.Placed, func(p cutting.PieceView) bool { return p.CutPly == "" })
	assert.Len(t, good, 7)
	after, err := s.Roll(ctx, v.Roll)
	require.NoError(t, err)
	assert.InDelta(t, before.Length-v.Length, after.Length, 1e-9)
}

// Whoever follows the table falls over; it cuts on by itself, and the next one takes up where it is.
func TestATableIsFollowedByAnotherWorkerAndNeverCutsTwice(t *testing.T) {
	ctx := context.Background()
	s, by, table, code := onTable(t, 20)
	w := start(t, s)
	_, err := s.CutOnTable(ctx, by, code, cutting.StartCut{ByKit: true})
	require.NoError(t, err)
	seen(t, s, code, "the first ply", func(v cutting.NestView) bool { return v.Job != nil && len(v.Job.Freed) > 0 })
	w.Stop()
	w = start(t, s)
	defer w.Stop()
	v := seen(t, s, code, "the end", ended)
	assert.Equal(t, "done", v.Job.State, v.Job.Message)
	assert.Len(t, v.Job.Freed, 8)
	assert.Empty(t, v.Job.Left)
	assert.InEpsilon(t, v.Job.Seconds, table.Clock(), 0.02, "one program, run once")
	_, err = s.CutOnTable(ctx, by, code, cutting.StartCut{})
	assert.ErrorContains(t, err, "nothing is left to cut")
	_, err = s.StopCut(ctx, by, code)
	assert.ErrorContains(t, err, "not on the table")
}

func TestTheKnifeIsStopped(t *testing.T) {
	ctx := context.Background()
	s, by, _, code := onTable(t, 5)
	w := start(t, s)
	defer w.Stop()
	_, err := s.CutOnTable(ctx, by, code, cutting.StartCut{})
	require.NoError(t, err)
	seen(t, s, code, "the knife at its work", func(v cutting.NestView) bool { return v.Job != nil && v.Job.Share > 0 })
	_, err = s.StopCut(ctx, by, code)
	require.NoError(t, err)
	assert.Equal(t, "stopped", seen(t, s, code, "the stop", ended).Job.State)
}

// A table that has lost its program is not given it again: it would cut twice.
func TestATableThatLostItsProgramIsNotGivenItAgain(t *testing.T) {
	ctx := context.Background()
	s, by, table, code := onTable(t, 5)
	w := start(t, s)
	defer w.Stop()
	_, err := s.CutOnTable(ctx, by, code, cutting.StartCut{})
	require.NoError(t, err)
	seen(t, s, code, "the knife at its work", func(v cutting.NestView) bool { return v.Job != nil && v.Job.Share > 0 })
	driver, err := device.DialTable(table.Address)
	require.NoError(t, err)
	defer driver.Close()
	require.NoError(t, driver.Stop())
	require.NoError(t, driver.Clear())
	v := seen(t, s, code, "what is said of it", ended)
	assert.Equal(t, "fault", v.Job.State)
	// Who looks in between hears that it was stopped; who does not, that it has lost its program.
	assert.Regexp(t, "lost its program|stopped from outside", v.Job.Message)
	s.Table = ""
	_, err = s.CutOnTable(ctx, by, code, cutting.StartCut{})
	assert.ErrorContains(t, err, "no cutting table is connected")
}
