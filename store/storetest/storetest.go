// Package storetest gives each test a database of its own: a throw-away
// PostgreSQL a test process, one migrated template in it, cloned for each test.
package storetest

import (
	"context"
	"fmt"
	"os"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"juxta/store"
	"juxta/store/cluster"
)

var (
	running *cluster.Cluster
	next    atomic.Int64
	began   = time.Now()
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

// Clock runs as the clock on the wall does, from [Now].
func Clock() time.Time { return Now.Add(time.Since(began)).Round(0) }

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
	if err := fillTemplate(ctx, fill); err != nil {
		fmt.Fprintln(os.Stderr, err)
		return 1
	}
	return m.Run()
}

func fillTemplate(ctx context.Context, fill []func(context.Context, *store.DB) error) error {
	if err := migrate(ctx, "juxta"); err != nil {
		return err
	}
	db, err := store.Open(ctx, running.URL("juxta"))
	if err != nil {
		return err
	}
	defer db.Close()
	for _, f := range fill {
		if err := f(ctx, db); err != nil {
			return err
		}
	}
	return nil
}

// migrate brings a database forward as its owner.
func migrate(ctx context.Context, name string) error {
	db, err := store.Open(ctx, running.OwnerURL(name))
	if err != nil {
		return err
	}
	defer db.Close()
	if err := db.Migrate(ctx); err != nil {
		return err
	}
	return db.Grant(ctx, cluster.App)
}

// Owner opens the database of a test as the role that owns its tables, for what
// the application itself may not do.
func Owner(t testing.TB, db *store.DB) *store.DB {
	t.Helper()
	owner, err := store.Open(context.Background(), running.OwnerURL(db.Pool.Config().ConnConfig.Database))
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(owner.Close)
	return owner
}

// URL clones the template and gives the address of the clone.
func URL(t testing.TB) string {
	t.Helper()
	return running.URL(create(t, "juxta"))
}

// Bare gives the address of an empty database, without any schema, as the role
// that owns it.
func Bare(t testing.TB) string {
	t.Helper()
	return running.OwnerURL(create(t, ""))
}

// OpenBare gives a test a migrated database without what fills the template.
func OpenBare(t testing.TB) *store.DB {
	t.Helper()
	name := create(t, "")
	err := migrate(context.Background(), name)
	if err != nil {
		t.Fatal(err)
	}
	return open(t, running.URL(name))
}

func create(t testing.TB, template string) string {
	t.Helper()
	name := fmt.Sprintf("test_%d", next.Add(1))
	if err := running.Create(context.Background(), name, template); err != nil {
		t.Fatal(err)
	}
	return name
}

// Open gives a test its own migrated database.
func Open(t testing.TB) *store.DB {
	t.Helper()
	return open(t, URL(t))
}

// more are templates that some tests share, each filled by whoever asks for it first.
var more sync.Map

// OpenMore gives a test its own database, filled as the template and with what else some
// tests share, by its name.
func OpenMore(t testing.TB, name string, fill func(context.Context, *store.DB) error) *store.DB {
	t.Helper()
	template := "more_" + name
	once, _ := more.LoadOrStore(template, sync.OnceValue(func() error {
		ctx := context.Background()
		if err := running.Create(ctx, template, "juxta"); err != nil {
			return err
		}
		db, err := store.Open(ctx, running.URL(template))
		if err != nil {
			return err
		}
		defer db.Close() // nothing may be open to a template
		return fill(ctx, db)
	}))
	if err := once.(func() error)(); err != nil {
		t.Fatal(err)
	}
	return open(t, running.URL(create(t, template)))
}

// OpenNarrow gives a test its own database, with what fills the template or bare,
// and a pool of one connection: whoever takes a second one waits for ever.
func OpenNarrow(t testing.TB, bare bool) *store.DB {
	t.Helper()
	name := create(t, map[bool]string{false: "juxta"}[bare])
	if bare {
		if err := migrate(context.Background(), name); err != nil {
			t.Fatal(err)
		}
	}
	return open(t, running.URL(name)+"&pool_max_conns=1")
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
