package store_test

import (
	"bytes"
	"context"
	"log/slog"
	"os"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"juxta/store"
	"juxta/store/storetest"
)

func TestMain(m *testing.M) { os.Exit(storetest.Run(m)) }

func TestMigratingTwiceChangesNothing(t *testing.T) {
	db := storetest.Owner(t, storetest.Open(t, storetest.Empty))
	require.NoError(t, db.Migrate(context.Background()))
	var tables int64
	require.NoError(
		t,
		db.Gorm.Raw(`select count(*) from information_schema.tables where table_schema = 'public'`).Scan(&tables).Error,
	)
	assert.Greater(t, tables, int64(20))
}

func TestTestsDoNotShareADatabase(t *testing.T) {
	a, b := storetest.Open(t, storetest.Empty), storetest.Open(t, storetest.Empty)
	require.NoError(t, storetest.Owner(t, a).Gorm.Exec(`create table only_here (x int)`).Error)
	assert.Error(t, storetest.Owner(t, b).Gorm.Exec(`select * from only_here`).Error)
}

func TestTheDatabaseRefusesToChangeTheLog(t *testing.T) {
	db := storetest.Open(t, storetest.Empty)
	insert := `insert into entries (seq, at, what, subject, why, detail, prev, hash)
		values (1, now(), 'x', 'y', '', '{}', '', '')`
	require.NoError(t, db.Gorm.Exec(insert).Error)
	for _, change := range []string{`update entries set why = 'better'`, `delete from entries`, `truncate entries`} {
		assert.ErrorContains(t, db.Gorm.Exec(change).Error, "permission denied", change)
		assert.ErrorContains(t, storetest.Owner(t, db).Gorm.Exec(change).Error, "append-only", change+", as the owner")
	}
	// What is written once is not for the application to change.
	for _, change := range []string{
		`delete from freezer_events`,
		`update releases set mass = 1`,
		`update leak_checks set pass = true`,
		`delete from samples`,
		`alter table entries disable trigger all`,
		`drop table entries`,
		`delete from goose_db_version`,
	} {
		assert.ErrorContains(t, db.Gorm.Exec(change).Error, "SQLSTATE 42501", change)
	}
}

func TestTheServerRunsUnprivileged(t *testing.T) {
	db := storetest.Open(t, storetest.Empty)
	var super bool
	require.NoError(t, db.Gorm.Raw(`select rolsuper from pg_roles where rolname = current_user`).Scan(&super).Error)
	assert.False(t, super)
}

func TestABadAddressIsASentence(t *testing.T) {
	_, err := store.Open(context.Background(), "postgres://nobody@127.0.0.1:1/none?connect_timeout=1")
	assert.ErrorContains(t, err, "does not answer")
	_, err = store.Open(context.Background(), "::")
	assert.ErrorContains(t, err, "cannot be read")
}

// Whoever goes away before the answer leaves no fault in the log; a true fault
// is written there.
func TestSomebodyWhoGoesAwayIsNoFault(t *testing.T) {
	var log bytes.Buffer
	before := slog.Default()
	slog.SetDefault(slog.New(slog.NewTextHandler(&log, nil)))
	t.Cleanup(func() { slog.SetDefault(before) })
	db := storetest.Open(t, storetest.Empty)
	ctx, leave := context.WithCancel(context.Background())
	gone := make(chan error)
	go func() { gone <- db.Gorm.WithContext(ctx).Exec(`select pg_sleep(60)`).Error }()
	require.Eventually(t, func() bool {
		var asleep int
		return db.Gorm.Raw(`select count(*) from pg_stat_activity where datname = current_database()
			and state = 'active'
			and query like 'select pg_sleep%'`).
			Scan(&asleep).
			Error == nil &&
			asleep == 1
	}, 20*time.Second, 10*time.Millisecond)
	leave()
	require.ErrorIs(t, <-gone, context.Canceled)
	assert.Empty(t, log.String())
	require.Error(t, db.Gorm.Exec(`select * from nowhere where pin = ?`, "271828").Error)
	assert.Contains(t, log.String(), "nowhere")
	assert.NotContains(t, log.String(), "271828", "parameters are nobody's business")
}
