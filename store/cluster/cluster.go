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
	"regexp"
	"slices"
	"strconv"
	"strings"
	"sync"
	"syscall"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgconn"
)

// Cluster is a running server.
type Cluster struct {
	dir     string
	port    int
	secrets map[string]string // by role
	data    string
	bin     string
	owner   *syscall.Credential
	options Options

	mu       sync.Mutex
	stopping bool
	process  *exec.Cmd     // nil when a server from before was found running
	exited   chan struct{} // closed when the process has ended, exit then says how
	exit     error
}

// Options for a server. Throwaway trades durability for speed, for tests.
type Options struct {
	Dir       string // holds data, password and log
	Throwaway bool
}

// The roles, each with a secret of its own: the superuser makes databases and
// nothing else; the owner of the tables migrates them; the application works
// with what it is granted, which is no update and no delete on logs and ledgers.
const superuser, owner, app = "juxta_admin", "juxta_owner", "juxta"

// files are where the secrets of the roles are kept.
var files = map[string]string{superuser: "password", owner: "password-owner", app: "password-app"}

// App is the role that the application connects as.
const App = app

// Start makes the cluster if dir holds none, starts it, and makes the roles and
// the database "juxta" if they are not there. A server of this cluster that
// survived its juxta is taken over.
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
	c := &Cluster{dir: dir, bin: bin, options: o, secrets: map[string]string{}}
	for role, file := range files {
		if c.secrets[role], err = secret(filepath.Join(dir, file)); err != nil {
			return nil, err
		}
	}
	if c.data, c.owner, err = c.dataDir(); err != nil {
		return nil, err
	}
	if _, err := os.Stat(filepath.Join(c.data, "PG_VERSION")); errors.Is(err, os.ErrNotExist) {
		if err := c.initialise(ctx); err != nil {
			return nil, err
		}
	}
	if err := c.run(ctx); err != nil {
		return nil, err
	}
	if err := c.ensureDatabase(ctx); err != nil {
		c.Stop()
		return nil, err
	}
	return c, nil
}

// URL is the address of a database of the cluster, as the application's role.
func (c *Cluster) URL(database string) string { return c.address(app, database) }

// OwnerURL is the address of a database as the role that owns its tables.
func (c *Cluster) OwnerURL(database string) string { return c.address(owner, database) }

// Create makes another database, as a copy of a template or empty, that belongs
// to the owner of the tables. Like what follows it is for tests.
func (c *Cluster) Create(ctx context.Context, name, template string) error {
	how := ""
	if template != "" {
		// Files are copied faster than a log of them is written.
		how = "template " + pgx.Identifier{template}.Sanitize() + " strategy file_copy"
	}
	return c.exec(ctx, fmt.Sprintf(`create database %s owner %s %s`, pgx.Identifier{name}.Sanitize(), owner, how))
}

// Drop removes a database, if it is there, whoever is still connected to it.
func (c *Cluster) Drop(ctx context.Context, name string) error {
	return c.exec(ctx, fmt.Sprintf(`drop database if exists %s with (force)`, pgx.Identifier{name}.Sanitize()))
}

// Rename gives a database to which nobody is connected another name.
func (c *Cluster) Rename(ctx context.Context, name, to string) error {
	return c.exec(ctx, fmt.Sprintf(
		`alter database %s rename to %s`, pgx.Identifier{name}.Sanitize(), pgx.Identifier{to}.Sanitize(),
	))
}

// Databases are the names of those that begin so.
func (c *Cluster) Databases(ctx context.Context, prefix string) (names []string, err error) {
	err = c.admin(ctx, func(conn *pgx.Conn) error {
		rows, err := conn.Query(ctx, `select datname from pg_database where starts_with(datname, $1)`, prefix)
		if err != nil {
			return err
		}
		names, err = pgx.CollectRows(rows, pgx.RowTo[string])
		return err
	})
	return names, err
}

// Alone does something while nobody else, in whatever process, does what has the
// same name.
func (c *Cluster) Alone(ctx context.Context, name string, do func() error) error {
	return c.admin(ctx, func(conn *pgx.Conn) error {
		if _, err := conn.Exec(ctx, `select pg_advisory_lock(hashtext($1))`, name); err != nil {
			return err
		}
		return do()
	})
}

func (c *Cluster) exec(ctx context.Context, sql string) error {
	return c.admin(ctx, func(conn *pgx.Conn) error {
		_, err := conn.Exec(ctx, sql)
		return err
	})
}

// admin connects as the superuser for as long as do takes.
func (c *Cluster) admin(ctx context.Context, do func(conn *pgx.Conn) error) error {
	conn, err := pgx.Connect(ctx, c.address(superuser, "postgres"))
	if err != nil {
		return fmt.Errorf("the database does not answer: %w", err)
	}
	defer func() { _ = conn.Close(context.WithoutCancel(ctx)) }()
	return do(conn)
}

func (c *Cluster) address(role, database string) string {
	u := url.URL{
		Scheme:   "postgres",
		User:     url.UserPassword(role, c.secrets[role]),
		Host:     net.JoinHostPort("127.0.0.1", strconv.Itoa(c.port)),
		Path:     database,
		RawQuery: "sslmode=disable",
	}
	return u.String()
}

// Leave stops a server that this one started, and lets one go on that ran before.
func (c *Cluster) Leave() {
	c.mu.Lock()
	started := c.process != nil
	c.mu.Unlock()
	if started {
		c.Stop()
	}
}

// Stop shuts the server down in order and waits for it.
func (c *Cluster) Stop() {
	c.mu.Lock()
	c.stopping = true
	process, exited := c.process, c.exited
	c.mu.Unlock()
	pid := c.pid()
	if pid == 0 {
		return
	}
	if process != nil {
		select {
		case <-exited:
			return
		default:
		}
	}
	_ = syscall.Kill(pid, syscall.SIGINT) // fast shutdown: clients are let go
	if process != nil {
		select {
		case <-exited:
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

// Tool is the path of a program of PostgreSQL, such as pg_dump: the newest of
// Debian's packages, or the one in PATH.
func Tool(name string) (string, error) {
	found, _ := filepath.Glob("/usr/lib/postgresql/*/bin/" + name)
	if len(found) > 0 {
		version := func(path string) int {
			n, _ := strconv.Atoi(strings.Split(path, "/")[4])
			return n
		}
		return slices.MaxFunc(found, func(a, b string) int { return version(a) - version(b) }), nil
	}
	path, err := exec.LookPath(name)
	if err != nil {
		return "", fmt.Errorf(
			"PostgreSQL's %s is not installed: run apt-get install postgresql, then start again",
			name,
		)
	}
	return path, nil
}

// binaries is the folder of PostgreSQL's programs.
func binaries() (string, error) {
	initdb, err := Tool("initdb")
	return filepath.Dir(initdb), err
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

func (c *Cluster) initialise(ctx context.Context) error {
	bin, data, owner := c.bin, c.data, c.owner
	// initdb runs as the server's user and reads the password from a file of
	// its own, gone right after.
	file, err := os.CreateTemp("", "juxta-initdb-")
	if err != nil {
		return err
	}
	defer os.Remove(file.Name())
	if _, err := file.WriteString(c.secrets[superuser] + "\n"); err != nil {
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
	cmd := c.command(
		ctx,
		owner,
		filepath.Join(bin, "initdb"),
		"-D",
		data,
		"-U",
		superuser,
		"--auth=scram-sha-256",
		"--pwfile="+file.Name(),
		"--encoding=UTF8",
		"--locale=C.UTF-8",
		"--no-instructions",
		"--no-sync",
		"--data-checksums",
	)
	if out, err := cmd.CombinedOutput(); err != nil {
		_ = os.RemoveAll(filepath.Join(data, "PG_VERSION"))
		return fmt.Errorf("the database cluster could not be made: %s", reason(string(out), err))
	}
	return nil
}

// run starts the server, or takes over one that survived. What passes by itself
// is tried again: a port that somebody else took a moment before, and memory
// that the dying processes of a killed server still hold.
func (c *Cluster) run(ctx context.Context) error {
	if running, err := c.survivor(ctx, c.data); running || err != nil {
		return err
	}
	c.checksums(ctx)
	for tries := 20; ; tries-- {
		err := c.launch(ctx, 0)
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

// checksums turns the checksums of data pages on where an older Juxta made the
// cluster without them. What was not shut down in order has to recover first, and
// gets them at the next start.
func (c *Cluster) checksums(ctx context.Context) {
	out, err := c.command(ctx, c.owner, filepath.Join(c.bin, "pg_controldata"), "-D", c.data).Output()
	if err == nil && regexp.MustCompile(`checksum version:\s+0\b`).Match(out) {
		_ = c.command(ctx, c.owner, filepath.Join(c.bin, "pg_checksums"), "--enable", "-D", c.data).Run()
	}
}

// errPassword says that the server runs and does not take our password: no
// waiting mends that.
var errPassword = errors.New(
	"the database refuses the password kept beside it: put the old file back, or use --fresh, which makes a new " +
		"database and discards what is there",
)

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
	for _, role := range []string{owner, app} {
		var there bool
		if err := conn.QueryRow(ctx, `select exists (select from pg_roles
			where rolname = $1)`, role).Scan(&there); err != nil {
			return err
		}
		how := "alter"
		if !there {
			how = "create"
		}
		// A role is no parameter; the secret is hex of our own making. A role of
		// before, which could make databases and knew the superuser's secret, is
		// put right.
		if _, err := conn.Exec(
			ctx, fmt.Sprintf(`%s role %s login nosuperuser nocreatedb nocreaterole password '%s'`, how, role,
				c.secrets[role]),
		); err != nil {
			return fmt.Errorf("make the database role: %w", err)
		}
	}
	var of string
	switch err := conn.QueryRow(ctx, `select pg_get_userbyid(datdba) from pg_database
		where datname = $1`, app).Scan(&of); {
	case errors.Is(err, pgx.ErrNoRows):
		_, err := conn.Exec(ctx, fmt.Sprintf(`create database %s owner %s`, app, owner))
		return err
	case err != nil:
		return err
	case of == owner:
		return nil
	}
	// Until now the application owned its tables.
	in, err := pgx.Connect(ctx, c.address(superuser, app))
	if err != nil {
		return err
	}
	defer func() { _ = in.Close(context.WithoutCancel(ctx)) }()
	for _, do := range []string{`reassign owned by %s to %s`, `alter database %s owner to %s`} {
		if _, err := in.Exec(ctx, fmt.Sprintf(do, app, owner)); err != nil {
			return fmt.Errorf("give the tables to their owner: %w", err)
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
