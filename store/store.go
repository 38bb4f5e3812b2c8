package store

import (
	"context"
	"database/sql"
	"database/sql/driver"
	"embed"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"log/slog"
	"net"
	"strings"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgconn"
	"github.com/jackc/pgx/v5/pgxpool"
	"github.com/jackc/pgx/v5/stdlib"
	"github.com/pressly/goose/v3"
	"github.com/riverqueue/river/riverdriver/riverpgxv5"
	"github.com/riverqueue/river/rivermigrate"
	"gorm.io/driver/postgres"
	"gorm.io/gorm"
	"gorm.io/gorm/logger"
)

//go:embed migrations/*.sql
var migrations embed.FS

// DB is one pool of connections, seen three ways: by GORM for the records, as
// database/sql for the session store, and as a pgx pool for the job queue,
// which listens for notifications.
type DB struct {
	Gorm *gorm.DB
	SQL  *sql.DB
	Pool *pgxpool.Pool
}

// Open connects to PostgreSQL at url.
func Open(ctx context.Context, url string) (*DB, error) {
	config, err := pgxpool.ParseConfig(url)
	if err != nil {
		return nil, fmt.Errorf("the database address cannot be read: %w", err)
	}
	if !strings.Contains(url, "pool_max_conns") {
		config.MaxConns = max(config.MaxConns, 12)
	}
	pool, err := pgxpool.NewWithConfig(ctx, config)
	if err != nil {
		return nil, fmt.Errorf("open the database: %w", err)
	}
	if err := pool.Ping(ctx); err != nil {
		pool.Close()
		return nil, fmt.Errorf("the database does not answer: %w", err)
	}
	conn := stdlib.OpenDBFromPool(pool)
	g, err := gorm.Open(postgres.New(postgres.Config{Conn: conn}), &gorm.Config{
		Logger: patient{
			logger.NewSlogLogger(
				slog.Default(),
				logger.Config{LogLevel: logger.Error, IgnoreRecordNotFoundError: true, ParameterizedQueries: true},
			),
		},
		SkipDefaultTransaction: true,
		TranslateError:         true,
		NowFunc:                func() time.Time { return time.Now().UTC() },
	})
	if err != nil {
		pool.Close()
		return nil, fmt.Errorf("open the database: %w", err)
	}
	return &DB{Gorm: g, SQL: conn, Pool: pool}, nil
}

// patient does not call it a fault that somebody went away before the answer.
type patient struct{ logger.Interface }

// ParamsFilter keeps parameters out of the log, as what it wraps does: it must be
// seen to.
func (p patient) ParamsFilter(ctx context.Context, sql string, params ...any) (string, []any) {
	return p.Interface.(gorm.ParamsFilter).ParamsFilter(ctx, sql, params...)
}

func (p patient) Trace(ctx context.Context, begin time.Time, about func() (string, int64), err error) {
	if !errors.Is(err, context.Canceled) {
		p.Interface.Trace(ctx, begin, about, err)
	}
}

// LogMode keeps it patient.
func (p patient) LogMode(level logger.LogLevel) logger.Interface {
	return patient{p.Interface.LogMode(level)}
}

// Close gives all connections back.
func (db *DB) Close() {
	_ = db.SQL.Close()
	db.Pool.Close()
}

// Down says that an error is of a database that does not answer, and not of what
// it was asked.
func Down(err error) bool {
	var connect *pgconn.ConnectError
	var said *pgconn.PgError
	var network net.Error
	switch {
	case errors.As(err, &said):
		// Shut down by somebody, crashed, starting up; too many connections.
		return strings.HasPrefix(said.Code, "57P") || strings.HasPrefix(said.Code, "08") || said.Code == "53300"
	case errors.As(err, &connect),
		errors.As(err, &network),
		errors.Is(err, io.ErrUnexpectedEOF),
		errors.Is(err, io.EOF),
		errors.Is(err, driver.ErrBadConn),
		errors.Is(err, sql.ErrConnDone):
		return true
	}
	return err != nil && strings.Contains(err.Error(), "conn closed")
}

// Role is who an address connects as.
func Role(url string) (string, error) {
	config, err := pgx.ParseConfig(url)
	if err != nil {
		return "", fmt.Errorf("the database address cannot be read: %w", err)
	}
	return config.User, nil
}

// kept are the tables whose rows are written once: nobody who works with them, the
// application included, may change or remove one.
var kept = []string{"entries", "freezer_events", "tool_events", "leak_checks", "releases", "samples", "operation_lines",
	"kit_counts", "handovers", "reworks", "surfaces", "cut_misses", "equipment", "resin_versions"}

// Grant lets a role work with the tables, and with those of logs and ledgers only
// by reading and adding. It is asked by the owner of the tables, after every
// migration; the owner itself needs no grant.
func (db *DB) Grant(ctx context.Context, role string) error {
	var owns bool
	if err := db.Pool.QueryRow(ctx, `select current_user = $1`, role).Scan(&owns); err != nil || owns {
		return err
	}
	to := pgx.Identifier{role}.Sanitize()
	for _, do := range []string{
		`grant usage on schema public to ` + to,
		`grant select, insert, update, delete on all tables in schema public to ` + to,
		`grant usage, select on all sequences in schema public to ` + to,
		`grant execute on all functions in schema public to ` + to,
		`revoke update, delete, truncate on ` + strings.Join(kept, ", ") + ` from ` + to,
		`revoke insert, update, delete on goose_db_version from ` + to,
	} {
		if _, err := db.Pool.Exec(ctx, do); err != nil {
			return fmt.Errorf("grant what the application needs: %w", err)
		}
	}
	return nil
}

// Migrate brings the schema forward: ours with goose, the queue's with its own
// migrations. It is safe to run again and from several processes.
func (db *DB) Migrate(ctx context.Context) error {
	lock, err := db.Pool.Acquire(ctx)
	if err != nil {
		return fmt.Errorf("migrate: %w", err)
	}
	defer lock.Release()
	const key = 0x6a757874 // "juxt"
	if _, err := lock.Exec(ctx, "select pg_advisory_lock($1)", key); err != nil {
		return fmt.Errorf("migrate: %w", err)
	}
	defer func() { _, _ = lock.Exec(context.WithoutCancel(ctx), "select pg_advisory_unlock($1)", key) }()

	files, err := fs.Sub(migrations, "migrations")
	if err != nil {
		return err
	}
	provider, err := goose.NewProvider(goose.DialectPostgres, db.SQL, files)
	if err != nil {
		return fmt.Errorf("migrate: %w", err)
	}
	if _, err := provider.Up(ctx); err != nil {
		return fmt.Errorf("migrate: %w", err)
	}
	queue, err := rivermigrate.New(riverpgxv5.New(db.Pool), &rivermigrate.Config{Logger: slog.New(slog.DiscardHandler)})
	if err != nil {
		return fmt.Errorf("migrate the queue: %w", err)
	}
	if _, err := queue.Migrate(ctx, rivermigrate.DirectionUp, nil); err != nil {
		return fmt.Errorf("migrate the queue: %w", err)
	}
	return nil
}
