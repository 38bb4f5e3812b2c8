package book

import (
	"context"
	"database/sql"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"
)

// Searches are rows of long work that a worker is at: state queued, running, and others once it is over;
// seen_at is when its worker was last at it, by the wall's clock.

// silentFor is how long a search may be out of sight before another worker takes it up.
const silentFor = 20 * time.Second

// TakeUp takes a search of a table up; false when it is over, or another worker is at it.
func (b *Book) TakeUp(ctx context.Context, table string, id int64) (bool, error) {
	now := time.Now().UTC()
	got := b.DB.Gorm.WithContext(ctx).Table(table).
		Where("id = ? and (state = 'queued' or state = 'running' and seen_at < ?)", id, now.Add(-silentFor)).
		Updates(map[string]any{"state": "running", "seen_at": now})
	return got.RowsAffected > 0, got.Error
}

// Abandon leaves a search that is not over to whoever takes it up next.
func (b *Book) Abandon(ctx context.Context, table string, id int64) error {
	return b.DB.Gorm.WithContext(ctx).
		Table(table).
		Where("id = ? and state = 'running'", id).
		Update("state", "queued").
		Error
}

// Forsaken puts the searches of a table whose worker has fallen silent back into the queue.
func (b *Book) Forsaken(ctx context.Context, table string, queue func(context.Context, *sql.Tx, int64) error) error {
	return b.DB.Gorm.WithContext(ctx).Transaction(func(g *gorm.DB) error {
		tx := &Tx{DB: g}
		now := time.Now().UTC()
		var ids []int64
		if err := g.Table(table).Where("state in ('queued', 'running') and seen_at < ?", now.Add(-silentFor)).
			Clauses(clause.Locking{Strength: "UPDATE", Options: clause.LockingOptionsSkipLocked}).Pluck("id", &ids).Error; err != nil || len(ids) == 0 {
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
