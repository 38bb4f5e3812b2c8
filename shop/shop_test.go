package shop_test

import (
	"context"
	"database/sql"
	"os"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"juxta/core/master"
	"juxta/core/nest"
	"juxta/core/unit"
	"juxta/demo/demotest"
	"juxta/shop"
	"juxta/shop/book"
	"juxta/shop/builds"
	"juxta/shop/stock"
	"juxta/store/storetest"
)

const pin, password = demotest.PIN, demotest.Password

var now = storetest.Now

// Every test has a copy of the demo shop.
func TestMain(m *testing.M) { os.Exit(demotest.Run(m)) }

type noQueue struct{}

func (noQueue) Nest(context.Context, *sql.Tx, int64) error   { return nil }
func (noQueue) Record(context.Context, *sql.Tx, int64) error { return nil }
func (noQueue) Drape(context.Context, *sql.Tx, int64) error  { return nil }
func (noQueue) Cut(context.Context, *sql.Tx, int64) error    { return nil }

// house is a shop for one test, with a clock it may move.
type house struct {
	*shop.Shop
	t   *testing.T
	ctx context.Context
	at  time.Time

	asks  string                    // qualification that every operation of a walking build asks for
	sets  func(o *master.Operation) // writes settings of a walking build's operations
	uncut bool                      // a walking build is not cut
}

// all are the newest 200 builds.
func (h *house) all() []builds.BuildLine {
	h.t.Helper()
	page, err := h.Builds(h.ctx, builds.BuildQuery{Limit: 200})
	require.NoError(h.t, err)
	return page.Builds
}

func open(t *testing.T) *house {
	t.Helper()
	h := &house{t: t, ctx: context.Background(), at: now}
	h.Shop = shop.New(
		&book.Book{
			DB:       storetest.Open(t, demotest.Shop),
			Queue:    noQueue{},
			Oven:     "test",
			OvenName: "Oven 1",
			Altitude: 640,
			Now:      func() time.Time { return h.at },
		},
	)
	return h
}

// as is somebody of the demo.
func (h *house) as(name string) book.By {
	h.t.Helper()
	people, err := h.People(h.ctx)
	require.NoError(h.t, err)
	for _, p := range people {
		if p.Name == name {
			person, err := h.PersonByID(h.ctx, p.ID)
			require.NoError(h.t, err)
			return book.By{Person: person}
		}
	}
	h.t.Fatalf("nobody is called %s", name)
	return book.By{}
}

func (h *house) build(serial string) builds.BuildLine {
	h.t.Helper()
	for _, b := range h.all() {
		if b.Serial == serial {
			return b
		}
	}
	h.t.Fatalf("no build %s", serial)
	return builds.BuildLine{}
}

// rolls are all that are on hand.
func (h *house) rolls() []stock.RollView {
	h.t.Helper()
	stock, err := h.Rolls(h.ctx, stock.RollQuery{Limit: 200})
	require.NoError(h.t, err)
	require.Equal(h.t, stock.Total, len(stock.Rolls))
	return stock.Rolls
}

// roll is the roll of a lot; not an off-cut of it.
func (h *house) roll(lot string) stock.RollView {
	h.t.Helper()
	for _, r := range h.rolls() {
		if r.Batch == lot && r.Kind == "roll" {
			return r
		}
	}
	h.t.Fatalf("no roll of lot %s", lot)
	return stock.RollView{}
}

func moved(codes ...string) stock.MoveRolls { return stock.MoveRolls{Rolls: codes} }

// gauge is a room and a roll that is warm enough to be opened.
func gauge() stock.OpenBag {
	room, humidity, cold := 294.15, 0.45, 290.0
	return stock.OpenBag{Room: &room, Humidity: &humidity, Coldest: &cold}
}

// ready takes a roll out and opens its bag, as far as that is still to do.
func (h *house) ready(code string) stock.RollView {
	h.t.Helper()
	by := h.as("Tilda Brandl")
	d, err := h.Roll(h.ctx, code)
	require.NoError(h.t, err)
	v := d.RollView
	if !v.OutTime.Out {
		all, err := h.TakeOut(h.ctx, by, moved(code))
		require.NoError(h.t, err)
		v = all[0]
	}
	if !v.Open {
		v, err = h.Open(h.ctx, by, code, gauge())
		require.NoError(h.t, err)
	}
	return v
}

// received takes a delivery of one roll in and accepts it.
func (h *house) received(material, lot string, length float64, flaws ...nest.Flaw) stock.RollView {
	h.t.Helper()
	b, err := h.ReceiveBatch(
		h.ctx,
		h.as("Tilda Brandl"),
		stock.NewBatch{
			MaterialID: h.material(material),
			Lot:        lot,
			FreezerID:  1,
			Rolls:      []stock.NewRoll{{Length: length, Flaws: flaws}},
		},
	)
	require.NoError(h.t, err)
	h.accept(b)
	d, err := h.Roll(h.ctx, b.Rolls[0].Code)
	require.NoError(h.t, err)
	return d.RollView
}

func (h *house) accept(b stock.BatchView) {
	h.t.Helper()
	for _, t := range b.Tests {
		_, err := h.RecordTest(
			h.ctx,
			h.as("Tilda Brandl"),
			b.Code,
			stock.TestValue{Test: t.ID, Value: (*t.Least + *t.Most) / 2},
		)
		require.NoError(h.t, err)
	}
	_, err := h.DecideBatch(h.ctx, h.as("Jonas Quist"), b.Code, stock.BatchDecision{Do: "accept", PIN: pin})
	require.NoError(h.t, err)
}

func (h *house) count(query string, args ...any) int {
	h.t.Helper()
	var n int
	require.NoError(h.t, h.DB.Gorm.Raw(query, args...).Scan(&n).Error)
	return n
}

// refusal asserts that an error is a refusal of a kind that says something.
func refusal(t *testing.T, err error, kind book.Kind, says string) {
	t.Helper()
	var refused *book.Error
	require.ErrorAs(t, err, &refused)
	assert.Equal(t, kind, refused.Kind, refused.Message)
	assert.NotEmpty(t, refused.Code, refused.Message)
	assert.Contains(t, unit.InMetric(refused.Message), says)
}

func TestTwoPeopleSignTheSamePlyAtOnce(t *testing.T) {
	h := open(t)
	build := h.build("0002").Code
	in := h.nextPly(build)
	falk, brandl := h.as("Ines Falk"), h.as("Tilda Brandl")
	errs := make([]error, 2)
	var both sync.WaitGroup
	for i, by := range []book.By{falk, brandl} {
		both.Go(func() { _, errs[i] = h.Sign(h.ctx, by, build, in) })
	}
	both.Wait()
	if errs[0] != nil {
		errs[0], errs[1] = errs[1], errs[0]
	}
	require.NoError(t, errs[0], "one wins")
	refusal(t, errs[1], book.Conflict, "ply 7 is already signed, by ")
	assert.Equal(
		t,
		1,
		h.count(
			`select count(*) from ply_records l join plies p on p.id = l.ply_id join builds b on b.id = l.build_id
				where b.code = ? and p.number = ?`,
			build,
			in.Ply,
		),
	)
}

func TestARepeatedRequestIsWrittenOnce(t *testing.T) {
	h := open(t)
	build := h.build("0002").Code
	in := h.nextPly(build)
	by := h.as("Ines Falk")
	by.Key = "a-key-of-the-tablet"
	entries := h.count(`select count(*) from entries`)
	var all sync.WaitGroup
	answers := make([]builds.SignResult, 8)
	for i := range answers {
		all.Go(func() {
			var err error
			answers[i], err = h.Sign(h.ctx, by, build, in)
			assert.NoError(t, err)
		})
	}
	all.Wait()
	for _, a := range answers {
		assert.Equal(t, 7, a.Ply, "every try gets the first answer")
		require.NotNil(t, a.Next)
		assert.Equal(t, 8, a.Next.Ply)
	}
	assert.Equal(t, entries+1, h.count(`select count(*) from entries`))
	assert.Equal(t, 1, h.count(`select count(*) from writes`))

	_, err := h.Sign(h.ctx, by, build, builds.SignPly{Ply: 8, CutPly: in.CutPly, FilmsOff: 1})
	refusal(t, err, book.Conflict, "already used for something else")
	// Somebody else's key of the same letters is another key.
	other := h.as("Tilda Brandl")
	other.Key = by.Key
	_, err = h.Sign(h.ctx, other, build, in)
	refusal(t, err, book.Conflict, "already signed, by Ines Falk")
}

func TestAFailedChangeStoresNothing(t *testing.T) {
	h := open(t)
	build := h.build("0002").Code
	by := h.as("Ines Falk")
	by.Key = "a-failing-key"
	before := h.count(`select count(*) from entries`)
	_, err := h.TakeBack(h.ctx, by, build, 3, "wrinkle")
	refusal(t, err, book.Conflict, "only the last ply laid can be taken back: that is ply 6")
	assert.Equal(t, before, h.count(`select count(*) from entries`))
	assert.Zero(t, h.count(`select count(*) from writes`), "a refused key may be used again")
}

func TestTheLogChainFindsATamperedEntry(t *testing.T) {
	h := open(t)
	n, err := h.VerifyLog(h.ctx)
	require.NoError(t, err)
	require.Greater(t, n, int64(50))
	head, err := h.Head(h.ctx)
	require.NoError(t, err)
	require.NoError(t, h.VerifyHeads(h.ctx, []book.Head{head}))
	// Whoever owns the table can switch the guard off; the chain still tells.
	owner := storetest.Owner(t, h.DB).Gorm
	require.NoError(t, owner.Exec(`alter table entries disable trigger entries_append_only`).Error)
	require.NoError(t, owner.Exec(`update entries set why = 'never mind' where seq = 40`).Error)
	_, err = h.VerifyLog(h.ctx)
	assert.ErrorContains(t, err, "broken at entry 40")
	// A tail that is rewritten with its hashes is a chain that holds: what was kept
	// outside tells.
	require.NoError(t, owner.Exec(`delete from entries where seq >= 40`).Error)
	_, err = h.EndBuild(h.ctx, h.as("Marek Orde"), h.build("0003").Code, builds.Ending{Reason: "so the log goes on"})
	require.NoError(t, err)
	_, err = h.VerifyLog(h.ctx)
	require.NoError(t, err)
	var rewritten *book.RewrittenLog
	require.ErrorAs(t, h.VerifyHeads(h.ctx, []book.Head{head}), &rewritten)
	assert.Equal(t, head.Entry, rewritten.Head.Entry)
}
