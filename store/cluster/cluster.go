// Package cluster makes and runs a PostgreSQL server of its own on loopback,
// from Debian's packages, for juxta start and for the tests. The server never
// runs as root: started by root it runs as the system user postgres.
package cluster

import (
	"context"
	"crypto/rand"
	"encoding/hex"
	"errors"
	"fmt"
	"net"
	"net/url"
	"os"
	"os/exec"
	"os/user"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"syscall"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgconn"
)

// Cluster is a running server.
type Cluster struct {
	dir     string
	port    int
	secret  string
	process *exec.Cmd     // nil when a server from before was found running
	exited  chan struct{} // closed when the process has ended, exit then says how
	exit    error
}

// Options for a server. Throwaway trades durability for speed, for tests.
type Options struct {
	Dir       string // holds data, password and log
	Throwaway bool
}

const superuser, app = "juxta_admin", "juxta"

// Start makes the cluster if dir holds none, starts it, and makes the
// database "juxta" owned by the unprivileged role "juxta" if it is not there.
// A server of this cluster that survived its juxta is taken over.
func Start(ctx context.Context, o Options) (*Cluster, error) {
	bin, err := binaries()
	if err != nil {
		return nil, err
	}
	dir, err := filepath.Abs(o.Dir)
	if err != nil {
		return nil, err
	}
	if err := os.MkdirAll(dir, 0o700); err != nil {
		return nil, fmt.Errorf("the state folder cannot be made: %w", err)
	}
	c := &Cluster{dir: dir}
	if c.secret, err = secret(filepath.Join(dir, "password")); err != nil {
		return nil, err
	}
	data, owner, err := c.dataDir()
	if err != nil {
		return nil, err
	}
	if _, err := os.Stat(filepath.Join(data, "PG_VERSION")); errors.Is(err, os.ErrNotExist) {
		if err := c.initialise(ctx, bin, data, owner); err != nil {
			return nil, err
		}
	}
	if err := c.run(ctx, bin, data, owner, o.Throwaway); err != nil {
		return nil, err
	}
	if err := c.ensureDatabase(ctx); err != nil {
		c.Stop()
		return nil, err
	}
	return c, nil
}

// URL is the address of a database of the cluster, as the unprivileged role.
func (c *Cluster) URL(database string) string { return c.address(app, database) }

func (c *Cluster) address(role, database string) string {
	u := url.URL{Scheme: "postgres", User: url.UserPassword(role, c.secret), Host: net.JoinHostPort("127.0.0.1", strconv.Itoa(c.port)), Path: database, RawQuery: "sslmode=disable"}
	return u.String()
}

// Stop shuts the server down in order and waits for it.
func (c *Cluster) Stop() {
	pid := c.pid()
	if pid == 0 {
		return
	}
	if c.process != nil {
		select {
		case <-c.exited:
			return
		default:
		}
	}
	_ = syscall.Kill(pid, syscall.SIGINT) // fast shutdown: clients are let go
	if c.process != nil {
		select {
		case <-c.exited:
		case <-time.After(20 * time.Second):
			_ = syscall.Kill(pid, syscall.SIGQUIT)
		}
		return
	}
	for range 200 {
		if !Alive(pid) {
			return
		}
		time.Sleep(50 * time.Millisecond)
	}
}

// binaries finds the newest PostgreSQL of Debian's packages, or one in PATH.
func binaries() (string, error) {
	found, _ := filepath.Glob("/usr/lib/postgresql/*/bin/initdb")
	if len(found) > 0 {
		version := func(path string) int {
			n, _ := strconv.Atoi(strings.Split(path, "/")[4])
			return n
		}
		return filepath.Dir(slices.MaxFunc(found, func(a, b string) int { return version(a) - version(b) })), nil
	}
	path, err := exec.LookPath("initdb")
	if err != nil {
		return "", errors.New("PostgreSQL is not installed: run apt-get install postgresql, then start again")
	}
	return filepath.Dir(path), nil
}

func secret(path string) (string, error) {
	raw, err := os.ReadFile(path)
	if err == nil && len(raw) >= 32 {
		return strings.TrimSpace(string(raw)), nil
	}
	if err != nil && !errors.Is(err, os.ErrNotExist) {
		return "", fmt.Errorf("the database password cannot be read: %w", err)
	}
	b := make([]byte, 24)
	_, _ = rand.Read(b) // never fails
	s := hex.EncodeToString(b)
	if err := os.WriteFile(path, []byte(s+"\n"), 0o600); err != nil {
		return "", fmt.Errorf("the database password cannot be written: %w", err)
	}
	return s, nil
}

// dataDir gives the folder for the data and whom it belongs to. The server's
// user must be able to reach it: a checkout below /root cannot be, so the data
// then lies below /var/lib with a link from here.
func (c *Cluster) dataDir() (string, *syscall.Credential, error) {
	data := filepath.Join(c.dir, "data")
	if os.Getuid() != 0 {
		return data, nil, os.MkdirAll(data, 0o700)
	}
	u, err := user.Lookup("postgres")
	if err != nil {
		return "", nil, errors.New("the system user postgres is missing: reinstall Debian's postgresql package")
	}
	uid, _ := strconv.Atoi(u.Uid)
	gid, _ := strconv.Atoi(u.Gid)
	owner := &syscall.Credential{Uid: uint32(uid), Gid: uint32(gid)}
	if real, err := filepath.EvalSymlinks(data); err == nil {
		return real, owner, nil
	}
	_ = os.Remove(data) // a link that leads nowhere
	// The state folder itself may be passed through, not read, by others.
	if err := os.Chmod(c.dir, 0o711); err != nil {
		return "", nil, err
	}
	place := data
	if !reachable(c.dir, owner) {
		b := make([]byte, 6)
		_, _ = rand.Read(b)
		place = filepath.Join("/var/lib/juxta", hex.EncodeToString(b))
		if err := os.MkdirAll(filepath.Dir(place), 0o755); err != nil {
			return "", nil, fmt.Errorf("no place for the database that its user can reach: %w", err)
		}
		if err := os.Symlink(place, data); err != nil {
			return "", nil, err
		}
	}
	if err := os.MkdirAll(place, 0o700); err != nil {
		return "", nil, err
	}
	return place, owner, os.Chown(place, uid, gid)
}

func reachable(dir string, as *syscall.Credential) bool {
	cmd := exec.Command("/usr/bin/test", "-x", dir)
	cmd.Dir = "/"
	cmd.SysProcAttr = &syscall.SysProcAttr{Credential: as}
	return cmd.Run() == nil
}

func (c *Cluster) command(ctx context.Context, owner *syscall.Credential, path string, args ...string) *exec.Cmd {
	cmd := exec.CommandContext(ctx, path, args...)
	cmd.Dir = "/"
	// A group of its own: Ctrl-C reaches juxta, which stops the server in order.
	cmd.SysProcAttr = &syscall.SysProcAttr{Setpgid: true, Credential: owner}
	cmd.Env = append(os.Environ(), "LC_ALL=C.UTF-8")
	return cmd
}

func (c *Cluster) initialise(ctx context.Context, bin, data string, owner *syscall.Credential) error {
	// initdb runs as the server's user and reads the password from a file of
	// its own, gone right after.
	file, err := os.CreateTemp("", "juxta-initdb-")
	if err != nil {
		return err
	}
	defer os.Remove(file.Name())
	if _, err := file.WriteString(c.secret + "\n"); err != nil {
		return err
	}
	if err := file.Close(); err != nil {
		return err
	}
	if owner != nil {
		if err := os.Chown(file.Name(), int(owner.Uid), int(owner.Gid)); err != nil {
			return err
		}
	}
	cmd := c.command(ctx, owner, filepath.Join(bin, "initdb"), "-D", data, "-U", superuser,
		"--auth=scram-sha-256", "--pwfile="+file.Name(), "--encoding=UTF8", "--locale=C.UTF-8", "--no-instructions", "--no-sync")
	if out, err := cmd.CombinedOutput(); err != nil {
		_ = os.RemoveAll(filepath.Join(data, "PG_VERSION"))
		return fmt.Errorf("the database cluster could not be made: %s", reason(string(out), err))
	}
	return nil
}

// run starts the server, or takes over one that survived. What passes by itself
// is tried again: a port that somebody else took a moment before, and memory
// that the dying processes of a killed server still hold.
func (c *Cluster) run(ctx context.Context, bin, data string, owner *syscall.Credential, throwaway bool) error {
	if running, err := c.survivor(ctx, data); running || err != nil {
		return err
	}
	for tries := 20; ; tries-- {
		err := c.launch(ctx, bin, data, owner, throwaway)
		var failed *startError
		if err == nil || tries == 0 || !errors.As(err, &failed) || !failed.passes() {
			return err
		}
		select {
		case <-ctx.Done():
			return ctx.Err()
		case <-time.After(150 * time.Millisecond):
		}
	}
}

// startError is a server that ended before it answered, with its log.
type startError struct {
	log, path string
	exit      error
}

func (e *startError) Error() string {
	return fmt.Sprintf("the database server does not start: %s (see %s; --fresh makes a new one and discards what is there)", reason(e.log, e.exit), e.path)
}

func (e *startError) passes() bool {
	return strings.Contains(e.log, "Address already in use") || strings.Contains(e.log, "is still in use")
}

// launch starts a server on a free port and waits until it answers.
func (c *Cluster) launch(ctx context.Context, bin, data string, owner *syscall.Credential, throwaway bool) error {
	port, err := freePort()
	if err != nil {
		return err
	}
	c.port = port
	log, err := os.OpenFile(filepath.Join(c.dir, "postgres.log"), os.O_CREATE|os.O_WRONLY|os.O_TRUNC, 0o600)
	if err != nil {
		return err
	}
	defer log.Close()
	args := []string{"-D", data, "-p", strconv.Itoa(port), "-h", "127.0.0.1", "-c", "unix_socket_directories=", "-c", "max_connections=120"}
	if throwaway {
		args = append(args, "-c", "fsync=off", "-c", "synchronous_commit=off", "-c", "full_page_writes=off", "-c", "shared_buffers=64MB")
	}
	cmd := c.command(context.WithoutCancel(ctx), owner, filepath.Join(bin, "postgres"), args...)
	cmd.Stdout, cmd.Stderr = log, log
	if err := cmd.Start(); err != nil {
		return fmt.Errorf("the database server could not be started: %w", err)
	}
	exited := make(chan struct{})
	c.process, c.exited = cmd, exited
	go func() {
		c.exit = cmd.Wait()
		close(exited)
	}()
	for {
		switch err := c.ping(ctx, superuser); {
		case err == nil:
			return nil
		case errors.Is(err, errPassword):
			// Is it ours that answers? One that found its port taken ends at once.
			select {
			case <-exited:
			case <-time.After(2 * time.Second):
				c.Stop()
				return err
			}
		}
		select {
		case <-exited:
			raw, _ := os.ReadFile(log.Name())
			return &startError{string(raw), log.Name(), c.exit}
		case <-ctx.Done():
			c.Stop()
			return ctx.Err()
		case <-time.After(30 * time.Millisecond):
		}
	}
}

// survivor says whether a server of this data folder still runs and answers;
// it is then ours. One that is going down is waited for. The lock file of one
// that was killed is removed: where nobody reaps the dead, its number lives on
// as a zombie, and PostgreSQL would take that for a running server.
func (c *Cluster) survivor(ctx context.Context, data string) (bool, error) {
	lock := filepath.Join(data, "postmaster.pid")
	for range 200 {
		raw, err := os.ReadFile(lock)
		if err != nil {
			return false, nil
		}
		lines := strings.Split(string(raw), "\n")
		pid, _ := strconv.Atoi(lines[0])
		if !Alive(pid) {
			_ = os.Remove(lock)
			return false, nil
		}
		if len(lines) > 3 {
			c.port, _ = strconv.Atoi(lines[3])
			if c.port != 0 {
				if err := c.ping(ctx, superuser); err == nil || errors.Is(err, errPassword) {
					return err == nil, err
				}
			}
		}
		time.Sleep(50 * time.Millisecond)
	}
	return false, nil
}

// Alive says whether a process number is a living PostgreSQL server.
func Alive(pid int) bool {
	stat, err := os.ReadFile(fmt.Sprintf("/proc/%d/stat", pid))
	if err != nil {
		return false
	}
	// pid (name) state …
	_, rest, _ := strings.Cut(string(stat), "(")
	name, rest, _ := strings.Cut(rest, ") ")
	return strings.HasPrefix(name, "postgres") && !strings.HasPrefix(rest, "Z")
}

func (c *Cluster) pid() int {
	if c.process != nil {
		return c.process.Process.Pid
	}
	data, err := filepath.EvalSymlinks(filepath.Join(c.dir, "data"))
	if err != nil {
		return 0
	}
	raw, err := os.ReadFile(filepath.Join(data, "postmaster.pid"))
	if err != nil {
		return 0
	}
	pid, _ := strconv.Atoi(strings.SplitN(string(raw), "\n", 2)[0])
	return pid
}

// errPassword says that the server runs and does not take our password: no
// waiting mends that.
var errPassword = errors.New("the database refuses the password kept beside it: put the old file back, or use --fresh, which makes a new database and discards what is there")

func (c *Cluster) ping(ctx context.Context, role string) error {
	ctx, cancel := context.WithTimeout(ctx, 2*time.Second)
	defer cancel()
	conn, err := pgx.Connect(ctx, c.address(role, "postgres"))
	if err != nil {
		var refusal *pgconn.PgError
		if errors.As(err, &refusal) && strings.HasPrefix(refusal.Code, "28") { // invalid authorization
			return errPassword
		}
		return err
	}
	return conn.Close(ctx)
}

func (c *Cluster) ensureDatabase(ctx context.Context) error {
	conn, err := pgx.Connect(ctx, c.address(superuser, "postgres"))
	if err != nil {
		return fmt.Errorf("the database does not answer: %w", err)
	}
	defer func() { _ = conn.Close(context.WithoutCancel(ctx)) }()
	var role, database bool
	if err := conn.QueryRow(ctx, `select exists(select from pg_roles where rolname = $1), exists(select from pg_database where datname = $1)`, app).Scan(&role, &database); err != nil {
		return err
	}
	if !role {
		// A role is no parameter; the secret is hex of our own making.
		if _, err := conn.Exec(ctx, fmt.Sprintf(`create role %s login createdb password '%s'`, app, c.secret)); err != nil {
			return fmt.Errorf("make the database role: %w", err)
		}
	}
	if !database {
		if _, err := conn.Exec(ctx, fmt.Sprintf(`create database %s owner %s`, app, app)); err != nil {
			return fmt.Errorf("make the database: %w", err)
		}
	}
	return nil
}

func freePort() (int, error) {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		return 0, fmt.Errorf("no free port on loopback: %w", err)
	}
	defer l.Close()
	return l.Addr().(*net.TCPAddr).Port, nil
}

// reason is the line of a program's words that says why it ended: its last
// fatal one, or its last.
func reason(words string, err error) string {
	lines := strings.Split(strings.TrimSpace(words), "\n")
	for _, l := range slices.Backward(lines) {
		if strings.Contains(l, "FATAL") {
			return strings.TrimSpace(l)
		}
	}
	if last := strings.TrimSpace(lines[len(lines)-1]); last != "" {
		return last
	}
	return err.Error()
}
