// Package store opens the database and brings it to the present schema.
package store

import (
	"context"
	"database/sql"
	"embed"
	"errors"
	"fmt"
	"io/fs"
	"log/slog"
	"time"

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
	config.MaxConns = max(config.MaxConns, 12)
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
		Logger:                 patient{logger.NewSlogLogger(slog.Default(), logger.Config{LogLevel: logger.Error, IgnoreRecordNotFoundError: true, ParameterizedQueries: true})},
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
