package storetest

import (
	"context"
	"fmt"
	"os"
	"sync/atomic"
	"testing"
	"time"

	"juxta/store"
	"juxta/store/cluster"
)

var (
	running *cluster.Cluster
	next    atomic.Int64
)

// Now is the moment at which the tests of a process begin: the same at every
// run, so that none passes in the morning only. JUXTA_TEST_AT (RFC 3339) moves
// it, such as to a night in which the clocks are changed.
var Now = func() time.Time {
	at := time.Date(2026, 6, 10, 9, 30, 0, 0, time.UTC)
	if other := os.Getenv("JUXTA_TEST_AT"); other != "" {
		var err error
		if at, err = time.Parse(time.RFC3339, other); err != nil {
			panic("JUXTA_TEST_AT: " + err.Error())
		}
	}
	return at.UTC()
}()

// Clock is a clock that runs as the one on the wall does, from [Now]: a test that comes
// late finds what it begins with no older than one that comes early.
func Clock() func() time.Time {
	began := time.Now()
	return func() time.Time { return Now.Add(time.Since(began)).Round(0) }
}

// Run is a package's TestMain: it joins the server, runs the tests, and leaves it.
func Run(m *testing.M) int {
	leave, err := join(context.Background())
	if err != nil {
		fmt.Fprintln(os.Stderr, err)
		return 1
	}
	defer leave()
	return m.Run()
}

// Open gives a test its own database, as a copy of a template.
func Open(t testing.TB, of *Template) *store.DB {
	t.Helper()
	return open(t, running.URL(create(t, of)))
}

// OpenNarrow gives a test its own database with a pool of one connection: whoever
// takes a second one waits for ever.
func OpenNarrow(t testing.TB, of *Template) *store.DB {
	t.Helper()
	return open(t, running.URL(create(t, of))+"&pool_max_conns=1")
}

// Bare gives the address of an empty database, without any schema, as the role
// that owns it.
func Bare(t testing.TB) string {
	t.Helper()
	return running.OwnerURL(create(t, nil))
}

// Owner opens the database of a test as the role that owns its tables, for what
// the application itself may not do.
func Owner(t testing.TB, db *store.DB) *store.DB {
	t.Helper()
	return open(t, running.OwnerURL(db.Pool.Config().ConnConfig.Database))
}

// create makes a database that goes with its test.
func create(t testing.TB, of *Template) string {
	t.Helper()
	ctx, from := context.Background(), ""
	if of != nil {
		var err error
		if from, err = of.database(ctx); err != nil {
			t.Fatal(err)
		}
	}
	name := fmt.Sprintf("%s%d_%d", throwaway, os.Getpid(), next.Add(1))
	if err := running.Create(ctx, name, from); err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() {
		if err := running.Drop(ctx, name); err != nil {
			t.Error(err)
		}
	})
	return name
}

func open(t testing.TB, url string) *store.DB {
	t.Helper()
	db, err := store.Open(context.Background(), url)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(db.Close)
	return db
}
