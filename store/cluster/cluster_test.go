package cluster

import (
	"context"
	"errors"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"syscall"
	"testing"

	"github.com/jackc/pgx/v5"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func state(t *testing.T) string {
	t.Helper()
	dir, err := os.MkdirTemp("", "juxta-cluster-")
	require.NoError(t, err)
	require.NoError(t, os.Chmod(dir, 0o755))
	t.Cleanup(func() { _ = os.RemoveAll(dir) })
	return dir
}

func start(t *testing.T, dir string) *Cluster {
	t.Helper()
	c, err := Start(context.Background(), Options{Dir: dir, Throwaway: true})
	require.NoError(t, err)
	t.Cleanup(c.Stop)
	return c
}

func query(t *testing.T, c *Cluster, q string) string {
	t.Helper()
	ctx := context.Background()
	conn, err := pgx.Connect(ctx, c.URL("juxta"))
	require.NoError(t, err)
	defer conn.Close(ctx)
	var out string
	require.NoError(t, conn.QueryRow(ctx, q).Scan(&out))
	return out
}

func TestAClusterIsPrivateUnprivilegedAndOnLoopbackOnly(t *testing.T) {
	dir := state(t)
	c := start(t, dir)
	assert.Equal(t, "127.0.0.1", query(t, c, "show listen_addresses"))
	assert.Equal(t, "juxta", query(t, c, "select current_user::text"))
	assert.Equal(t, "off", query(t, c, "select setting from pg_settings where name = 'fsync'"), "a throw-away one")
	info, err := os.Stat(filepath.Join(dir, "password"))
	require.NoError(t, err)
	assert.Equal(t, os.FileMode(0o600), info.Mode().Perm())
	if os.Getuid() == 0 {
		status, err := os.ReadFile(fmt.Sprintf("/proc/%d/status", c.pid()))
		require.NoError(t, err)
		assert.NotContains(t, string(status), "Uid:\t0\t", "never as root")
	}
	ctx := context.Background()
	_, err = pgx.Connect(ctx, strings.Replace(c.URL("juxta"), c.secrets[app], "guess", 1))
	assert.ErrorContains(t, err, "password authentication failed")
}

// The application cannot make databases, does not own its tables, and its secret
// opens nothing else. Data pages have checksums.
func TestRolesHaveWhatTheyNeed(t *testing.T) {
	dir := state(t)
	c := start(t, dir)
	assert.Equal(t, "on", query(t, c, "show data_checksums"))
	assert.Equal(
		t,
		"false false false",
		query(
			t,
			c,
			"select concat_ws(' ', rolsuper::text, rolcreatedb::text, rolcreaterole::text) from pg_roles where "+
				"rolname = "+
				"current_user",
		),
	)
	assert.Equal(
		t,
		"juxta_owner",
		query(t, c, "select pg_get_userbyid(datdba)::text from pg_database where datname = 'juxta'"),
	)
	ctx := context.Background()
	for _, role := range []string{superuser, owner} {
		_, err := pgx.Connect(ctx, strings.Replace(c.URL("juxta"), "//"+app+":", "//"+role+":", 1))
		assert.ErrorContains(t, err, "password authentication failed", role)
	}
	conn, err := pgx.Connect(ctx, c.URL("juxta"))
	require.NoError(t, err)
	defer conn.Close(ctx)
	_, err = conn.Exec(ctx, `copy (select 1) to program 'true'`)
	assert.ErrorContains(t, err, "SQLSTATE 42501")
	_, err = conn.Exec(ctx, `create table mine (x int)`)
	assert.ErrorContains(t, err, "permission denied")
}

// A cluster of before, in which the application owned its tables and knew the
// superuser's secret, is put right at the next start.
func TestAnOlderClusterIsPutRight(t *testing.T) {
	dir := state(t)
	c := start(t, dir)
	ctx := context.Background()
	conn, err := pgx.Connect(ctx, c.address(superuser, "juxta"))
	require.NoError(t, err)
	for _, do := range []string{
		`alter database juxta owner to juxta`, `alter role juxta createdb password '` + c.secrets[superuser] + `'`,
		`set role juxta`, `create table old (x int)`,
	} {
		_, err := conn.Exec(ctx, do)
		require.NoError(t, err, do)
	}
	require.NoError(t, conn.Close(ctx))
	c.Stop()
	require.NoError(t, os.Remove(filepath.Join(dir, "password-app")))
	again := start(t, dir)
	assert.Equal(t, "juxta_owner", query(t, again, "select tableowner::text from pg_tables where tablename = 'old'"))
	_, err = pgx.Connect(ctx, strings.Replace(again.URL("juxta"), again.secrets[app], again.secrets[superuser], 1))
	assert.ErrorContains(t, err, "password authentication failed")
}

// A server that is killed is started again on its port; its log is kept.
func TestAServerThatDiesIsStartedAgain(t *testing.T) {
	dir := state(t)
	c := start(t, dir)
	ctx, cancel := context.WithCancel(context.Background())
	events, over := make(chan string, 20), make(chan struct{})
	go func() {
		defer close(over)
		c.Watch(ctx, func(event string, _ error) { events <- event })
	}()
	port := c.port
	for range 2 {
		require.NoError(t, syscall.Kill(-c.pid(), syscall.SIGKILL))
		assert.Equal(t, "the database server ended and is started again", <-events)
		for e := <-events; e != "the database server answers again"; e = <-events {
		}
		assert.Equal(t, "1", query(t, c, "select '1'"))
		assert.Equal(t, port, c.port)
	}
	raw, err := os.ReadFile(filepath.Join(dir, "postgres.log"))
	require.NoError(t, err)
	assert.GreaterOrEqual(t, strings.Count(string(raw), "ready to accept connections"), 3)
	cancel()
	<-over
	c.Stop()
	assert.False(t, Alive(c.pid()), "one that is told to stop is not started again")
}

func TestAServerThatSurvivedIsTakenOver(t *testing.T) {
	dir := state(t)
	first := start(t, dir)
	second := start(t, dir)
	assert.Equal(t, first.port, second.port)
	assert.Nil(t, second.process, "no second server was started")
	second.Stop()
	assert.False(t, Alive(first.pid()))
}

func TestALockFileOfTheDeadIsNoHindrance(t *testing.T) {
	dir := state(t)
	first := start(t, dir)
	require.NoError(t, syscall.Kill(-first.pid(), syscall.SIGKILL))
	<-first.exited
	lock := filepath.Join(dir, "data", "postmaster.pid")
	_, err := os.Stat(lock)
	require.NoError(t, err, "it died without cleaning up")
	second := start(t, dir)
	assert.Equal(t, "1", query(t, second, "select '1'"))
}

func TestAliveKnowsPostgresFromOthersAndFromTheDead(t *testing.T) {
	assert.False(t, Alive(os.Getpid()), "this is not a database server")
	assert.False(t, Alive(0))
	// A child that has ended and was not waited for is a zombie.
	child := exec.Command("true")
	require.NoError(t, child.Start())
	defer func() { _ = child.Wait() }()
	assert.False(t, Alive(child.Process.Pid))
}

func TestABrokenClusterIsASentenceThatSaysWhatToDo(t *testing.T) {
	dir := state(t)
	c := start(t, dir)
	c.Stop()
	require.NoError(
		t,
		os.WriteFile(filepath.Join(dir, "data", "postgresql.conf"), []byte("shared_buffers = 'a lot'\n"), 0o600),
	)
	_, err := Start(context.Background(), Options{Dir: dir})
	assert.ErrorContains(t, err, "--fresh")
	require.NoError(t, os.WriteFile(filepath.Join(dir, "data", "postgresql.conf"), nil, 0o600))
	require.NoError(t, os.WriteFile(filepath.Join(dir, "password"), []byte(strings.Repeat("0", 48)), 0o600))
	_, err = Start(context.Background(), Options{Dir: dir, Throwaway: true})
	assert.ErrorContains(t, err, "refuses the password kept beside it")
	_, err = os.Stat(filepath.Join(dir, "data", "postmaster.pid"))
	assert.ErrorIs(t, err, os.ErrNotExist, "the server that could not be used was stopped again")
}

func TestAServerThatSurvivedWithAnotherPasswordIsSaidSo(t *testing.T) {
	dir := state(t)
	start(t, dir)
	require.NoError(t, os.WriteFile(filepath.Join(dir, "password"), []byte(strings.Repeat("1", 48)), 0o600))
	_, err := Start(context.Background(), Options{Dir: dir, Throwaway: true})
	assert.ErrorContains(t, err, "refuses the password kept beside it")
}

func TestWhatPassesByItselfIsTriedAgainAndTheRestIsSaid(t *testing.T) {
	for log, want := range map[string]struct {
		passes bool
		says   string
	}{
		"LOG:  could not bind IPv4 address \"127.0.0.1\": Address already in use\nFATAL:  could not create any " +
			"TCP/IP " +
			"sockets\nLOG:  database system is shut down": {true, "could not create any TCP/IP sockets"},
		"FATAL:  pre-existing shared memory block (key 1, ID 2) is still in use\nHINT:  Terminate any old server " +
			"processes\nLOG:  shut down": {true, "pre-existing shared memory block"},
		"FATAL:  configuration file contains errors": {false, "configuration file contains errors"},
		"": {false, "exit status 2"},
	} {
		e := &startError{log, "postgres.log", errors.New("exit status 2")}
		assert.Equal(t, want.passes, e.passes(), log)
		assert.ErrorContains(t, e, want.says)
		assert.ErrorContains(t, e, "--fresh")
	}
}
