package book

import (
	"context"
	"crypto/sha256"
	"database/sql"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"time"

	"github.com/jackc/pgx/v5/pgconn"
	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"juxta/core/ident"
	"juxta/store"
)

// Queue puts long work into the queue, within the transaction that asks for it.
type Queue interface {
	Nest(ctx context.Context, tx *sql.Tx, nestID int64) error
	Record(ctx context.Context, tx *sql.Tx, runID int64) error
	Drape(ctx context.Context, tx *sql.Tx, searchID int64) error
	Cut(ctx context.Context, tx *sql.Tx, jobID int64) error
}

// Book is what everybody in the shop writes into: the database, the queue of long
// work, and the clock. Its log is the one that every change ends in.
type Book struct {
	DB       *store.DB
	Queue    Queue
	Table    string           // host:port of the cutting table; empty: there is none
	Oven     string           // host:port of the oven
	OvenName string           // what people call it
	Now      func() time.Time // the shop's clock
	// Altitude above sea level in m: it bounds the vacuum that can be drawn.
	Altitude float64
	// Search is how long a nest is searched where nobody says it; 0: ten seconds.
	Search time.Duration

	// PIN holds the PIN that somebody gives again with a signature against their own;
	// the people's room sets it.
	PIN func(ctx context.Context, by By, pin string) error

	memo memo
}

// SearchSeconds is how long a nest is searched where nobody says it.
func (b *Book) SearchSeconds() float64 {
	if b.Search == 0 {
		return 10
	}
	return b.Search.Seconds()
}

// By says who asks for a change, from where, and under which idempotency key. A
// nil Person is the system itself.
type By struct {
	Person  *Person
	Key     string
	Address string // of the tablet or desk

	signed Act // what the person gave their PIN for again
}

// ID is that of the person, nil for the system itself.
func (b By) ID() *int64 {
	if b.Person == nil {
		return nil
	}
	return &b.Person.ID
}

// Tx is one transaction in the making.
type Tx struct {
	*gorm.DB
	Ctx    context.Context
	By     By
	Act    Act
	Now    time.Time
	logged int
}

// SQL is the transaction as database/sql sees it, for the queue.
func (tx *Tx) SQL() *sql.Tx { return tx.Statement.ConnPool.(*sql.Tx) }

// Signed is who signs an act for which the matrix asks for the PIN again. The PIN
// is checked before the change begins, so that a wrong one is counted although
// nothing is signed; [Write] refuses such an act to whoever did not come through
// here.
func (b *Book) Signed(ctx context.Context, by By, act Act, pin string) (By, error) {
	if err := CheckRole(by.Person, act); err != nil {
		return by, err
	}
	if by.Person != nil {
		if err := b.PIN(ctx, by, pin); err != nil {
			return by, err
		}
	}
	by.signed = act
	return by, nil
}

// With is by whom something is entered that somebody else signed beside them.
func (b By) With(signs By) By {
	b.signed = signs.signed
	return b
}

// mayWrite says whether an act may be written without the PIN, or was given it. The
// work of the system itself signs nothing.
func (b By) mayWrite(act Act) bool {
	p, _ := PermitFor(act)
	return !p.PIN || b.Person == nil || b.signed == act
}

// Write runs one change: an act that the person may do. A repeated key gives the
// first answer again without doing anything; the same key with other input is a
// conflict. A change that wrote no log entry is a fault of ours and is rolled back.
func Write[T any](
	ctx context.Context,
	s *Book,
	by By,
	act Act,
	what string,
	input any,
	do func(tx *Tx) (T, error),
) (T, error) {
	var out T
	if err := CheckRole(by.Person, act); err != nil {
		return out, err
	}
	if !by.mayWrite(act) {
		return out, fmt.Errorf("%s: %s is signed with the PIN, and nobody was asked for it", what, act)
	}
	if err := DatesIn(input); err != nil {
		return out, err
	}
	asked, err := json.Marshal(input)
	if err != nil {
		return out, fmt.Errorf("%s: %w", what, err)
	}
	sum := sha256.Sum256(asked)
	label := what + ":" + hex.EncodeToString(sum[:8])
	whole := false
	err = s.DB.Gorm.WithContext(ctx).Transaction(func(g *gorm.DB) error {
		whole = false
		tx := &Tx{DB: g, Ctx: ctx, By: by, Act: act, Now: s.Now().UTC().Truncate(time.Microsecond)}
		keyed := by.Key != "" && by.Person != nil
		if keyed {
			if again, err := tx.again(label, &out); again || err != nil {
				return err
			}
		}
		if err := qualified(g, by.Person, act, tx.Now); err != nil {
			return err
		}
		result, err := do(tx)
		if err != nil {
			return err
		}
		if tx.logged == 0 {
			return fmt.Errorf("%s wrote no entry in the log", what)
		}
		if keyed {
			raw, err := json.Marshal(result)
			if err != nil {
				return err
			}
			if err := g.Exec(`update writes set result = ? where person_id = ?
				and key = ?`, string(raw), by.Person.ID, by.Key).Error; err != nil {
				return err
			}
		}
		out = result
		whole = true
		return nil
	})
	if err != nil && whole {
		// The connection broke at the very end: the database may have stored it.
		return out, &Unknown{err}
	}
	return out, TextError(err)
}

// again says whether a request with the key of this one was done before, and reads what came of it.
func (tx *Tx) again(label string, out any) (bool, error) {
	// A second request with the key waits here for the first to end.
	first := tx.Exec(
		`insert into writes (key, person_id, what, result, at) values (?, ?, ?, 'null', ?) on conflict do nothing`,
		tx.By.Key,
		tx.By.Person.ID,
		label,
		tx.Now,
	)
	if first.Error != nil {
		return false, first.Error
	}
	if first.RowsAffected == 0 {
		var done struct {
			What   string
			Result string
		}
		if err := tx.Raw(`select what, result::text as result from writes where person_id = ?
			and key = ?`, tx.By.Person.ID, tx.By.Key).Scan(&done).Error; err != nil {
			return false, err
		}
		if done.What != label {
			return false, Changed.Errorf(
				"this request key was already used for something else: send it again with a new one",
			)
		}
		return true, json.Unmarshal([]byte(done.Result), out)
	}
	return false, nil
}

// Unknown is a change of which nobody knows whether it was stored: the answer of
// the database to its commit was lost. Sent again under its key it is stored
// once, whatever happened.
type Unknown struct{ err error }

func (e *Unknown) Error() string { return "the answer to a commit was lost: " + e.err.Error() }
func (e *Unknown) Unwrap() error { return e.err }

// Unreachable says that an error is of a database that does not answer.
func Unreachable(err error) bool { return store.Down(err) }

// keptFor is how long the answer to a change may be asked for again.
const keptFor = 7 * 24 * time.Hour

// Prune forgets the keys of changes that nobody sends again.
func (s *Book) Prune(ctx context.Context) (int64, error) {
	done := s.DB.Gorm.WithContext(ctx).
		Exec(`delete from writes where ctid = any (array(select ctid from writes
			where at < ? limit 20000))`, s.Now().UTC().Add(-keptFor))
	return done.RowsAffected, done.Error
}

// View reads one consistent picture of the records, however many queries it
// takes: what somebody changes meanwhile is in all of it or in none.
func View[T any](ctx context.Context, s *Book, do func(db *gorm.DB) (T, error)) (T, error) {
	var out T
	err := s.DB.Gorm.WithContext(ctx).Transaction(func(db *gorm.DB) (err error) {
		out, err = do(db)
		return err
	}, &sql.TxOptions{Isolation: sql.LevelRepeatableRead, ReadOnly: true})
	return out, TextError(err)
}

// TextError says in a sentence what the database alone finds wrong with a text: it
// keeps every character but NUL.
func TextError(err error) error {
	var fault *pgconn.PgError
	if errors.As(err, &fault) && (fault.Code == "22021" || fault.Code == "22P05") {
		return Unreadable.Errorf("a text holds a character that cannot be kept: scan it again, or type it")
	}
	// Two who do the same at once, or one who presses twice: the second finds it done.
	if errors.Is(err, gorm.ErrDuplicatedKey) {
		return Changed.Errorf("somebody entered the same a moment ago: look at it again")
	}
	return err
}

// Find loads the one record with this id as written on its label.
func Find[T any](db *gorm.DB, kind ident.Kind, code, called string) (T, error) {
	var record T
	got, id, err := ident.Parse(code)
	if err != nil {
		return record, Unreadable.At("id", "%s", err)
	}
	if got != kind {
		return record, Unreadable.At("id", "%s is not the id of a %s", id, called)
	}
	err = db.Where("code = ?", id).Take(&record).Error
	if errors.Is(err, gorm.ErrRecordNotFound) {
		return record, NoSuch.Errorf("there is no %s %s here", called, id)
	}
	return record, err
}

// ByID loads records of any table by their ids, as a map.
func ByID[T any](db *gorm.DB, ids []int64, key func(T) int64) (map[int64]T, error) {
	out := map[int64]T{}
	if len(ids) == 0 {
		return out, nil
	}
	var all []T
	if err := db.Where("id in ?", ids).Find(&all).Error; err != nil {
		return nil, err
	}
	for _, r := range all {
		out[key(r)] = r
	}
	return out, nil
}

// Locked makes the query hold its rows until the transaction ends.
func Locked(db *gorm.DB) *gorm.DB { return db.Clauses(clause.Locking{Strength: "UPDATE"}) }

// alone makes whoever else changes the thing of this name wait until the
// transaction ends, also where there is no row yet that could be held.
func (tx *Tx) alone(name string) error {
	return tx.Exec(`select pg_advisory_xact_lock(hashtext(?))`, name).Error
}

// NextCode draws the next number of a table and its label.
func NextCode(db *gorm.DB, table string, kind ident.Kind) (int64, string, error) {
	var n int64
	if err := db.Raw(`select nextval(pg_get_serial_sequence(?, 'id'))`, table).Scan(&n).Error; err != nil {
		return 0, "", fmt.Errorf("next number of %s: %w", table, err)
	}
	return n, ident.Format(kind, n), nil
}

// Names are the names of all people, by id.
func (s *Book) Names(db *gorm.DB) (map[int64]string, error) {
	var all []Person
	if err := db.Select("id", "name").Find(&all).Error; err != nil {
		return nil, err
	}
	out := make(map[int64]string, len(all))
	for _, p := range all {
		out[p.ID] = p.Name
	}
	return out, nil
}

// Clock is a time as people in the shop say it, in the shop's zone.
func Clock(t time.Time) string { return t.Local().Format("Mon 15:04") }
