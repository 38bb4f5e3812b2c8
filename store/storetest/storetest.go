// Package storetest gives each test a database of its own: a throw-away
// PostgreSQL a test process, one migrated template in it, cloned for each test.
package storetest

import (
	"context"
	"fmt"
	"os"
	"sync/atomic"
	"testing"

	"github.com/jackc/pgx/v5"

	"juxta/store"
	"juxta/store/cluster"
)

var (
	running *cluster.Cluster
	next    atomic.Int64
)

// Run is a package's TestMain: it starts the server, fills the template with
// fill if there is one, runs the tests, and removes everything.
func Run(m *testing.M, fill ...func(context.Context, *store.DB) error) int {
	ctx := context.Background()
	dir, err := os.MkdirTemp("", "juxta-test-")
	if err != nil {
		panic(err)
	}
	defer os.RemoveAll(dir)
	running, err = cluster.Start(ctx, cluster.Options{Dir: dir, Throwaway: true})
	if err != nil {
		fmt.Fprintln(os.Stderr, err)
		return 1
	}
	defer running.Stop()
	db, err := store.Open(ctx, running.URL("juxta"))
	if err == nil {
		err = db.Migrate(ctx)
		for _, f := range fill {
			if err == nil {
				err = f(ctx, db)
			}
		}
		db.Close()
	}
	if err != nil {
		fmt.Fprintln(os.Stderr, err)
		return 1
	}
	return m.Run()
}

// URL clones the template and gives the address of the clone.
func URL(t testing.TB) string {
	t.Helper()
	return create(t, "template juxta")
}

// Bare gives the address of an empty database, without any schema.
func Bare(t testing.TB) string {
	t.Helper()
	return create(t, "")
}

// OpenBare gives a test a migrated database without what fills the template.
func OpenBare(t testing.TB) *store.DB {
	t.Helper()
	db, err := store.Open(context.Background(), Bare(t))
	if err == nil {
		err = db.Migrate(context.Background())
	}
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(db.Close)
	return db
}

func create(t testing.TB, how string) string {
	t.Helper()
	ctx := context.Background()
	name := fmt.Sprintf("test_%d", next.Add(1))
	conn, err := pgx.Connect(ctx, running.URL("postgres"))
	if err != nil {
		t.Fatal(err)
	}
	defer conn.Close(ctx)
	// Names are no parameters; this one is ours.
	if _, err := conn.Exec(ctx, fmt.Sprintf(`create database %s %s`, name, how)); err != nil {
		t.Fatal(err)
	}
	return running.URL(name)
}

// Open gives a test its own migrated, empty database.
func Open(t testing.TB) *store.DB {
	t.Helper()
	db, err := store.Open(context.Background(), URL(t))
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(db.Close)
	return db
}
