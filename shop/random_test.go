package shop_test

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"juxta/core/material"
	"juxta/shop/book"
	"juxta/shop/builds"
	"juxta/shop/cutting"
	"juxta/shop/stock"
)

// A shop in which people do anything at all, in any order, right or wrong:
// whatever happens, the records stay possible, every refusal is a sentence, and
// nothing is written without its entry in the log.
func TestWhateverPeopleDoTheRecordsStayPossible(t *testing.T) {
	for _, seed := range []uint64{1, 2, 3} {
		t.Run(fmt.Sprint(seed), func(t *testing.T) {
			t.Parallel()
			w := &wanderer{
				house:  open(t),
				rng:    rand.New(rand.NewPCG(seed, 99)),
				length: map[string]float64{},
				may:    map[string]bool{},
			}
			w.look()
			done := 0
			for range 200 {
				if w.act() {
					done++
				}
				w.look()
			}
			assert.Greater(t, done, 25, "enough of it was possible")
			_, err := w.VerifyLog(w.ctx)
			assert.NoError(t, err)
		})
	}
}

type wanderer struct {
	*house
	rng    *rand.Rand
	length map[string]float64 // of every roll when it was last looked at
	may    map[string]bool    // rolls whose ledger was corrected since
}

func (w *wanderer) chance(part float64) bool { return w.rng.Float64() < part }

func one[T any](w *wanderer, of []T) T { return of[w.rng.IntN(len(of))] }

// act tries one thing and says whether it was done.
func (w *wanderer) act() bool {
	w.t.Helper()
	w.at = w.at.Add(time.Duration(w.rng.IntN(40)) * time.Minute)
	by := w.as(one(w, []string{"Ines Falk", "Ines Falk", "Ines Falk", "Tilda Brandl", "Jonas Quist", "Marek Orde"}))
	builds, err := w.Builds(w.ctx, builds.BuildQuery{Room: "", Limit: 200})
	require.NoError(w.t, err)
	build := one(w, builds.Builds).Code
	roll := one(w, w.rolls()).Code
	verb := w.choose(by, build, roll)
	entries := w.count(`select count(*) from entries`)
	err = verb()
	var refusal *book.Error
	if err != nil {
		require.ErrorAs(w.t, err, &refusal, "a refusal, not a fault")
		assert.NotEmpty(w.t, refusal.Message)
		assert.Equal(
			w.t,
			entries,
			w.count(`select count(*) from entries`),
			"a refusal writes nothing: %s",
			refusal.Message,
		)
		return false
	}
	assert.Greater(w.t, w.count(`select count(*) from entries`), entries, "a change has its entry")
	return true
}

// choose prepares one verb, sensible or not.
func (w *wanderer) choose(by book.By, build, roll string) func() error {
	kit, err := w.Kit(w.ctx, build, "")
	require.NoError(w.t, err)
	bench, err := w.Layup(w.ctx, build, "")
	require.NoError(w.t, err)
	switch w.rng.IntN(18) {
	case 0, 1:
		in := w.moved(roll)
		return func() error { _, err := w.TakeOut(w.ctx, by, in); return err }
	case 2:
		in := w.moved(roll)
		in.Sealed, in.FreezerID = w.chance(0.6), int64(w.rng.IntN(4))
		return func() error { _, err := w.PutBack(w.ctx, by, in); return err }
	case 14, 15:
		in := gauge()
		*in.Coldest -= 25 * w.rng.Float64()
		return func() error { _, err := w.Open(w.ctx, by, roll, in); return err }
	case 16:
		length, reason := 2*w.rng.Float64(), one(w, append(stock.ScrapReasons, "lost"))
		return func() error {
			_, err := w.Scrap(w.ctx, by, roll, stock.ScrapLength{Length: length, Reason: reason})
			return err
		}
	case 17:
		d, err := w.Roll(w.ctx, roll)
		require.NoError(w.t, err)
		wrong := one(w, d.Ledger)
		in := stock.Correction{Line: wrong.ID, Reason: one(w, []string{"", "misread"})}
		if w.chance(0.5) {
			in.Instead = &stock.CorrectEvent{
				At:     wrong.At.Add(time.Duration(w.rng.IntN(90)-45) * time.Minute),
				Length: wrong.Length,
			}
		}
		w.may[roll] = true
		return func() error { _, err := w.Correct(w.ctx, by, roll, in); return err }
	case 3, 4:
		queue, err := w.CutQueue(w.ctx)
		require.NoError(w.t, err)
		if len(queue) == 0 {
			w.newBuild(fmt.Sprintf("9%04d", w.rng.IntN(10000)))
			return func() error { _, err := w.SetAside(w.ctx, by, build, "C-00000"); return err }
		}
		d := one(w, queue)
		whole := slices.DeleteFunc(d.Rolls, func(r cutting.RollChoice) bool { return r.Kind != "roll" || r.Length < 4 })
		if len(whole) == 0 {
			return func() error { _, err := w.SetAside(w.ctx, by, build, "C-00000"); return err }
		}
		nest := w.nested(one(w, d.Builds).Code, one(w, whole).Code)
		return func() error { _, err := w.ConfirmCut(w.ctx, by, nest); return err }
	case 5, 6:
		label := "C-00000"
		for _, p := range kit.Plies {
			for _, c := range p.Cut {
				if !c.Counted || w.chance(0.05) {
					label = c.Code
				}
			}
		}
		return func() error { _, err := w.CountPly(w.ctx, by, build, label); return err }
	case 7:
		return func() error { _, err := w.CloseKit(w.ctx, by, build, "", ""); return err }
	case 8:
		kind, freezer := one(w, kinds), int64(w.rng.IntN(3))
		return func() error { _, err := w.MoveKit(w.ctx, by, build, kind, freezer, ""); return err }
	case 9, 10:
		in := builds.SignPly{Ply: 1 + w.rng.IntN(10), CutPly: bench.NextCut, FilmsOff: w.rng.IntN(3)}
		if bench.Next != nil && w.chance(0.8) {
			in.Ply, in.FilmsOff = bench.Next.Ply, bench.Plies[bench.Next.Ply-1].Films
		}
		return func() error { _, err := w.Sign(w.ctx, by, build, in); return err }
	case 11:
		ply, reason := w.rng.IntN(11), one(w, []string{"", "wrinkle"})
		return func() error { _, err := w.TakeBack(w.ctx, by, build, ply, reason); return err }
	case 12:
		if bench.Running != nil {
			return func() error {
				_, err := w.EndDebulk(w.ctx, by, build, "", builds.DebulkEnd{Vacuum: 75e3 + 20e3*w.rng.Float64()})
				return err
			}
		}
		return func() error { _, err := w.StartDebulk(w.ctx, by, build, ""); return err }
	default:
		stack, check := one(
			w,
			[]string{"no bleed", "bleed", "paper"},
		), builds.NewLeakCheck{
			Start:   90e3,
			End:     80e3 + 10e3*w.rng.Float64(),
			Seconds: 300,
		}
		return func() error {
			if _, err := w.CloseBag(w.ctx, by, build, "", stack); err == nil {
				return nil
			}
			_, err := w.CheckLeak(w.ctx, by, build, "", check)
			return err
		}
	}
}

var kinds = []material.EventKind{material.In, material.Out}

// moved is now, sometimes late, and sometimes impossible.
func (w *wanderer) moved(roll string) stock.MoveRolls {
	in := moved(roll)
	if w.chance(0.3) {
		at := w.at.Add(time.Duration(w.rng.IntN(600)-540) * time.Minute)
		in.At = &at
	}
	return in
}

// look holds the records against what must always be true.
func (w *wanderer) look() {
	w.t.Helper()
	for _, r := range w.rolls() {
		assert.GreaterOrEqual(w.t, r.Length, 0.0)
		if before, seen := w.length[r.Code]; seen && !w.may[r.Code] {
			assert.LessOrEqual(w.t, r.Length, before+1e-9, "length never comes back but by a counter-entry")
		}
		assert.InDelta(w.t, r.OutTime.Life, r.OutTime.Spent+r.OutTime.Planned+r.OutTime.Left, 1e-6)
		w.length[r.Code] = r.Length
	}
	w.may = map[string]bool{}
	_, err := w.VerifyClocks(w.ctx)
	require.NoError(w.t, err, "every ledger adds up, and the kept clock is that of the ledger")
	builds, err := w.Builds(w.ctx, builds.BuildQuery{Room: "", Limit: 200})
	require.NoError(w.t, err)
	for _, b := range builds.Builds {
		v, err := w.Layup(w.ctx, b.Code, "")
		require.NoError(w.t, err)
		for i, l := range v.Laid {
			assert.Equal(w.t, i+1, l.Ply, "plies lie in order with none left out")
			assert.LessOrEqual(w.t, l.FilmsOff, l.Films)
		}
		if b.Laid > 0 {
			assert.Equal(w.t, b.Plies, b.Counted, "nothing is laid from a kit that is not whole")
		}
		if slices.Contains([]string{"bag", "cure", "release", "finished"}, b.Room) {
			assert.Equal(w.t, b.Plies, b.Laid)
			assert.Nil(w.t, v.Next)
		}
	}
	assert.Zero(
		w.t,
		w.count(
			`select count(*) from (select cut_ply_id from ply_records where taken_back_at is null
				group by 1 having count(*) > 1) x`,
		),
		"one cut ply lies once",
	)
	assert.Equal(
		w.t,
		w.count(`select count(*) from nests where state = 'cut'`),
		w.count(`select count(*) from freezer_events where kind = 'used'`),
		"every cut takes its length off",
	)
}
