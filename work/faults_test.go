package work_test

import (
	"context"
	"net"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"juxta/core/cure"
	"juxta/core/nest"
	"juxta/core/unit"
	"juxta/device/sim"
	"juxta/shop/curing"
	"juxta/shop/cutting"
	"juxta/shop/stock"
)

func freeAddress(t *testing.T) string {
	t.Helper()
	l, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	defer l.Close()
	return l.Addr().String()
}

func TestANestThatCannotBeSaysWhy(t *testing.T) {
	ctx := context.Background()
	s := open(t, "")
	w := start(t, s)
	defer w.Stop()
	by := somebody(t, s)
	d := toCut(t, s)
	stub, err := s.ReceiveBatch(
		ctx,
		by,
		stock.NewBatch{
			MaterialID: d.MaterialID,
			Lot:        "a stub",
			Rolls:      []stock.NewRoll{{Length: 0.4, Flaws: []nest.Flaw{{From: 0.1, To: 0.2}}}},
		},
	)
	require.NoError(t, err)
	line, err := s.StartNest(ctx, by, cutting.NewNest{Roll: stub.Rolls[0].Code, Builds: []string{d.Builds[0].Code}})
	require.NoError(t, err)
	var v cutting.NestView
	eventually(t, "the nest that failed", func() bool {
		v, err = s.Nest(ctx, line.Code)
		return err == nil && v.State == "failed"
	})
	assert.Contains(t, unit.InMetric(v.Message), "0.40 m are left and ")
	assert.Empty(t, v.Placed)
	_, err = s.ConfirmCut(ctx, by, line.Code)
	assert.ErrorContains(t, err, "not finished")
}

func TestANestIsSearchedAgainByAnotherWorkerWhenItsOwnStops(t *testing.T) {
	ctx := context.Background()
	s := open(t, "")
	by := somebody(t, s)
	d := toCut(t, s)
	line, err := s.StartNest(
		ctx,
		by,
		cutting.NewNest{Roll: d.Rolls[0].Code, Builds: []string{d.Builds[0].Code}, Steps: 100_000_000, Seed: 5},
	)
	require.NoError(t, err)
	first := start(t, s)
	searched := func() int {
		v, err := s.Nest(ctx, line.Code)
		require.NoError(t, err)
		return v.Step
	}
	eventually(t, "the first worker to search", func() bool { return searched() > 0 })
	first.Stop()
	v, err := s.Nest(ctx, line.Code)
	require.NoError(t, err)
	assert.Equal(t, "queued", v.State, "another worker takes it up at once")
	assert.Len(t, v.Placed, 8, "its best so far stays to be seen")
	before := v.Step
	second := start(t, s)
	defer second.Stop()
	eventually(t, "the second worker to go on", func() bool { return searched() != before })
	_, err = s.StopNest(ctx, by, line.Code)
	require.NoError(t, err)
	eventually(t, "the end", func() bool {
		v, err = s.Nest(ctx, line.Code)
		return err == nil && v.State == "done"
	})
	assert.Positive(t, v.Length)
}

// Another has taken a nest up while its worker was out of sight: it lets go of it, and it is the other's to end.
func TestAWorkerThatLostItsTurnLetsGo(t *testing.T) {
	ctx := context.Background()
	s := open(t, "")
	by := somebody(t, s)
	d := toCut(t, s)
	line, err := s.StartNest(
		ctx,
		by,
		cutting.NewNest{Roll: d.Rolls[0].Code, Builds: []string{d.Builds[0].Code}, Steps: 100_000_000},
	)
	require.NoError(t, err)
	w := start(t, s)
	defer w.Stop()
	searched := func(v cutting.NestView) bool { return v.Step > 0 }
	before := seen(t, s, line.Code, "the search", searched)
	working := func() (n int64) {
		require.NoError(t, s.DB.Gorm.Table("river_job").Where("kind = 'nest' and state = 'running'").Count(&n).Error)
		return n
	}
	require.EqualValues(t, 1, working())
	require.NoError(
		t,
		s.DB.Gorm.Exec(`update nests set turn = turn + 1, best = null, steps_done = 0 where code = ?`, line.Code).Error,
	)
	eventually(t, "the worker to let go", func() bool { return working() == 0 })
	v, err := s.Nest(ctx, line.Code)
	require.NoError(t, err)
	assert.Equal(t, "running", v.State)
	assert.Zero(t, v.Step, "what the late one finds is not kept")
	assert.Positive(t, before.Length)
	// The other dies; whoever comes next ends it.
	require.NoError(
		t,
		s.DB.Gorm.Exec(`update nests set seen_at = now() - interval '1 minute' where code = ?`, line.Code).Error,
	)
	seen(t, s, line.Code, "another to search", searched)
	_, err = s.StopNest(ctx, by, line.Code)
	require.NoError(t, err)
	seen(t, s, line.Code, "the end", func(v cutting.NestView) bool { return v.State == "done" })
}

func TestARunWaitsForAnOvenThatIsSilentAndSaysWhenItLostTheRun(t *testing.T) {
	ctx := context.Background()
	address := freeAddress(t)
	s := open(t, address)
	by := somebody(t, s)
	line, err := s.StartRun(ctx, by, []curing.OvenLoad{{Build: ready(t, s)}})
	require.NoError(t, err)
	w := start(t, s)
	defer w.Stop()
	var v curing.RunView
	eventually(t, "the recorder that waits", func() bool {
		v, err = s.Run(ctx, line.Code)
		return err == nil && v.State == "running"
	})
	assert.Empty(t, v.Samples)
	serve := func(seed uint64) *sim.Server {
		var oven *sim.Server
		eventually(t, "the oven's port", func() bool {
			oven, err = sim.Serve(address, 600, seed)
			return err == nil
		})
		return oven
	}
	samples := func() int {
		v, err = s.Run(ctx, line.Code)
		require.NoError(t, err)
		return len(v.Samples)
	}
	oven := serve(1)
	eventually(t, "samples once the oven is there", func() bool { return samples() >= 6 })
	require.NoError(t, oven.Close())
	left := samples()
	oven = serve(2) // it has forgotten everything
	defer func() { _ = oven.Close() }()
	eventually(t, "samples after the oven came back", func() bool { return samples() >= left+4 })
	_, err = s.StopRun(ctx, by, line.Code, "seen enough")
	require.NoError(t, err)
	eventually(t, "the stopped run", func() bool {
		v, err = s.Run(ctx, line.Code)
		return err == nil && v.State == "stopped"
	})
	assert.Contains(t, v.Message, "had lost the run and was started again where it was left")
	last := -1.0
	for _, x := range v.Samples {
		assert.Greater(t, x.T, last, "time never goes back, whatever the oven's clock did")
		last = x.T
	}
	require.NotNil(t, v.Verdict)
}

// A recipe with pressure is told to the vessel segment by segment: the pressure rises, the bag is vented, and what was
// reached is held against the most that is allowed. An oven without pressure runs all the same, and proves none.
func TestPressureIsCommandedAndRecorded(t *testing.T) {
	ctx := context.Background()
	for _, airless := range []bool{false, true} {
		oven := oven(t, 5)
		if airless {
			oven.WithoutPressure()
		}
		s := open(t, oven.Address)
		line, err := s.StartRun(ctx, somebody(t, s), []curing.OvenLoad{{Build: ready(t, s)}})
		require.NoError(t, err)
		var run curing.Run
		require.NoError(t, s.DB.Gorm.Where("code = ?", line.Code).Take(&run).Error)
		require.NotNil(t, run.Simulation)
		run.Process.Recipe = cure.Recipe{
			Name:      "under pressure",
			Start:     295,
			Tolerance: 5,
			Control:   "lagging",
			Segments: []cure.Segment{
				{
					Target:   320,
					Rate:     0.05,
					Hold:     1800,
					WaitPart: 317,
					Pressure: 300e3,
					Vacuum:   80e3,
					Vent:     150e3,
				}, {Target: 300, Rate: 0.1},
			},
		}
		run.Process.PressureMax = 310e3
		run.Message = "noted before"
		require.NoError(t, s.DB.Gorm.Save(&run).Error)
		w := start(t, s)
		var v curing.RunView
		eventually(t, "the end of the run", func() bool {
			v, err = s.Run(ctx, line.Code)
			return err == nil && v.State == "finished"
		})
		w.Stop()
		require.NoError(t, oven.Close())
		require.NotNil(t, v.Verdict)
		k := slices.IndexFunc(v.Verdict.Checks, func(c cure.RunCheck) bool { return c.What == "highest pressure" })
		require.GreaterOrEqual(t, k, 0)
		if airless {
			assert.Equal(t, "NOT PROVEN", v.Verdict.Checks[k].Result(), "nobody read a pressure that was asked for")
			assert.Equal(
				t,
				"noted before; the recipe asks for pressure, and the oven takes none: it was put on by hand, or not "+
					"at all",
				v.Message,
				"one word does not push out another, and none is said twice",
			)
			assert.Nil(t, v.Samples[0].Pressure)
			continue
		}
		assert.True(t, v.Verdict.Checks[k].Met)
		assert.InDelta(t, 300e3, v.Verdict.Checks[k].Found, 2e3)
		last := v.Samples[len(v.Samples)-1]
		assert.Less(t, *last.Pressure, 280e3, "it goes off with the last segment, as fast as it may")
		vented := slices.IndexFunc(v.Samples, func(x curing.Sample) bool { return *x.Vacuum < 20e3 })
		assert.Positive(t, vented, "the bag is vented once the pressure holds it")
		led := slices.ContainsFunc(v.Samples, func(x curing.Sample) bool { return *x.Air > x.SetPoint+6 })
		assert.True(t, led, "the air leads the lagging sensor that rules")
	}
}
