package book

import (
	"context"
	"database/sql"
	"errors"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"
)

// Searches are rows of long work that a worker is at: state queued, running, and others once it is over;
// seen_at is when its worker was last at it, by the wall's clock.

// silentFor is how long a search may be out of sight before another worker takes it up.
const silentFor = 20 * time.Second

// SearchTurn is the time from which a worker is at a search until it is over or another takes it up.
type SearchTurn struct {
	Table string
	ID    int64 // of the search
	No    int
}

// ErrTurnOver: the search is over or another worker runs it. What the late one found is not kept.
var ErrTurnOver = errors.New("the search is over, or another worker runs it")

// TakeUp takes a search of a table up; false when it is over, or another worker runs it.
func (b *Book) TakeUp(ctx context.Context, table string, id int64) (turn SearchTurn, ok bool, err error) {
	now := time.Now().UTC()
	var no []int
	err = b.DB.Gorm.WithContext(ctx).Raw(`update ? set state = 'running', seen_at = ?, turn = turn + 1
		where id = ? and (state = 'queued' or state = 'running' and seen_at < ?) returning turn`,
		clause.Table{Name: table}, now, id, now.Add(-silentFor)).Scan(&no).Error
	if err != nil || len(no) == 0 {
		return turn, false, err
	}
	return SearchTurn{Table: table, ID: id, No: no[0]}, true, nil
}

// of is the row of a turn, while it lasts.
func (t SearchTurn) of(db *gorm.DB) *gorm.DB {
	return db.Table(t.Table).Where("id = ? and turn = ? and state = 'running'", t.ID, t.No)
}

// Abandon leaves a search that is not over to whoever takes it up next.
func (b *Book) Abandon(ctx context.Context, t SearchTurn) error {
	return t.of(b.DB.Gorm.WithContext(ctx)).Update("state", "queued").Error
}

// Progress keeps fields of a search, and that its worker is at it; stop says that somebody asked it to end. It is
// [ErrTurnOver] when it is not its turn.
func (b *Book) Progress(ctx context.Context, t SearchTurn, row any, fields ...string) (stop bool, err error) {
	db := b.DB.Gorm.WithContext(ctx)
	var stops []bool
	err = db.Transaction(func(tx *gorm.DB) error {
		if err := t.of(Locked(tx)).Pluck("stop", &stops).Error; err != nil {
			return err
		}
		if len(stops) == 0 {
			return ErrTurnOver
		}
		if len(fields) > 0 {
			if err := t.of(tx).Select(fields).Updates(row).Error; err != nil {
				return err
			}
		}
		return t.of(tx).Update("seen_at", time.Now().UTC()).Error
	})
	return err == nil && stops[0], err
}

// LockTurn is the row of a search that its worker ends, held; [ErrTurnOver] when it is not its turn.
func LockTurn[T any](tx *Tx, t SearchTurn) (T, error) {
	var row T
	err := t.of(Locked(tx.DB)).Take(&row).Error
	if errors.Is(err, gorm.ErrRecordNotFound) {
		err = ErrTurnOver
	}
	return row, err
}

// Forsaken puts the searches of a table whose worker has fallen silent back into the queue.
func (b *Book) Forsaken(ctx context.Context, table string, queue func(context.Context, *sql.Tx, int64) error) error {
	return b.DB.Gorm.WithContext(ctx).Transaction(func(g *gorm.DB) error {
		tx := &Tx{DB: g}
		now := time.Now().UTC()
		var ids []int64
		if err := g.Table(table).Where("state in ('queued', 'running') and seen_at < ?", now.Add(-silentFor)).
			Clauses(clause.Locking{Strength: "UPDATE", Options: clause.LockingOptionsSkipLocked}).Pluck("id",
			&ids).Error; err != nil || len(ids) == 0 {
			return err
		}
		for _, id := range ids {
			if err := queue(ctx, tx.SQL(), id); err != nil {
				return err
			}
		}
		return g.Table(table).Where("id in ?", ids).Updates(map[string]any{"state": "queued", "seen_at": now}).Error
	})
}
