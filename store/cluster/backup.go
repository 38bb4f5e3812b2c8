package cluster

import (
	"context"
	"errors"
	"fmt"
	"io"
	"os"
	"os/exec"
	"strconv"
	"strings"

	"github.com/jackc/pgx/v5"
)

// ErrNotEmpty says that a database holds something already.
var ErrNotEmpty = errors.New("this database is not empty: a backup is restored into an empty one")

// Dump writes everything in the database at url, as it was at one moment, in
// PostgreSQL's own archive format.
func Dump(ctx context.Context, url string, w io.Writer) error {
	cmd, said, err := tool(ctx, url, "pg_dump", "--format=custom", "--no-owner", "--no-privileges")
	if err != nil {
		return err
	}
	cmd.Stdout = w
	return ran(cmd, said)
}

// Restore reads what [Dump] wrote into an empty database, all of it or nothing.
func Restore(ctx context.Context, url string, r io.Reader) error {
	conn, err := pgx.Connect(ctx, url)
	if err != nil {
		return fmt.Errorf("the database does not answer: %w", err)
	}
	var tables int
	err = conn.QueryRow(ctx, `select count(*) from pg_tables where schemaname = 'public'`).Scan(&tables)
	if err = errors.Join(err, conn.Close(ctx)); err != nil {
		return err
	}
	if tables > 0 {
		return ErrNotEmpty
	}
	cmd, said, err := tool(
		ctx,
		url,
		"pg_restore",
		"--no-owner",
		"--no-privileges",
		"--single-transaction",
		"--exit-on-error",
	)
	if err != nil {
		return err
	}
	cmd.Stdin = r
	return ran(cmd, said)
}

// tool is a program of PostgreSQL that works on a database. The password goes
// through the environment: arguments are seen by everybody on the machine.
func tool(ctx context.Context, url, name string, args ...string) (*exec.Cmd, *strings.Builder, error) {
	config, err := pgx.ParseConfig(url)
	if err != nil {
		return nil, nil, fmt.Errorf("the database address cannot be read: %w", err)
	}
	path, err := Tool(name)
	if err != nil {
		return nil, nil, err
	}
	args = append(args, "--host", config.Host, "--port", strconv.Itoa(int(config.Port)), "--username", config.User,
		"--no-password", "--dbname", config.Database)
	cmd := exec.CommandContext(ctx, path, args...)
	cmd.Env = append(os.Environ(), "PGPASSWORD="+config.Password, "LC_ALL=C")
	said := &strings.Builder{}
	cmd.Stderr = said
	return cmd, said, nil
}

func ran(cmd *exec.Cmd, said *strings.Builder) error {
	if err := cmd.Run(); err != nil {
		return fmt.Errorf("%s: %w: %s", cmd.Args[0], err, strings.TrimSpace(said.String()))
	}
	return nil
}
