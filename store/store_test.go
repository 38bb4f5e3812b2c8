package store_test

import (
	"context"
	"os"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"juxta/store"
	"juxta/store/storetest"
)

func TestMain(m *testing.M) { os.Exit(storetest.Run(m)) }

func TestMigratingTwiceChangesNothing(t *testing.T) {
	db := storetest.Open(t)
	require.NoError(t, db.Migrate(context.Background()))
	var tables int64
	require.NoError(t, db.Gorm.Raw(`select count(*) from information_schema.tables where table_schema = 'public'`).Scan(&tables).Error)
	assert.Greater(t, tables, int64(20))
}

func TestTestsDoNotShareADatabase(t *testing.T) {
	a, b := storetest.Open(t), storetest.Open(t)
	require.NoError(t, a.Gorm.Exec(`create table only_here (x int)`).Error)
	assert.Error(t, b.Gorm.Exec(`select * from only_here`).Error)
}

func TestTheDatabaseRefusesToChangeTheLog(t *testing.T) {
	db := storetest.Open(t)
	insert := `insert into entries (seq, at, what, subject, why, detail, prev, hash) values (1, now(), 'x', 'y', '', '{}', '', '')`
	require.NoError(t, db.Gorm.Exec(insert).Error)
	for _, change := range []string{`update entries set why = 'better'`, `delete from entries`, `truncate entries`} {
		assert.ErrorContains(t, db.Gorm.Exec(change).Error, "append-only", change)
	}
}

func TestTheServerRunsUnprivileged(t *testing.T) {
	db := storetest.Open(t)
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
