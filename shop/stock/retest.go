package stock

import (
	"context"
	"strings"
	"time"

	"juxta/core/material"
	"juxta/shop/book"
)

// Retest is a re-test of a batch that extends the life of what is left of it.
type Retest struct {
	Until    *time.Time `json:"until,omitempty" doc:"New end of shelf life"`
	More     float64    `json:"more,omitempty" doc:"Added out-life, s" minimum:"0" maximum:"1000000000"`
	Evidence string     `json:"evidence" minLength:"1" maxLength:"200" doc:"Number of the report"`
	PIN      string     `json:"pin" maxLength:"12"`
}

// RetestBatch extends the life of every roll of a batch that has something
// left.
func (s *Room) RetestBatch(ctx context.Context, by book.By, code string, in Retest) (BatchView, error) {
	by, err := s.Signed(ctx, by, book.DecideBatch, in.PIN)
	if err != nil {
		return BatchView{}, err
	}
	in.PIN = ""
	return s.changeBatch(ctx, by, book.DecideBatch, "re-test batch", code, in, func(tx *book.Tx, b *Batch) error {
		if in.Evidence = strings.TrimSpace(in.Evidence); in.Evidence == "" {
			return book.Needed.At("evidence", "give the number of the test report")
		}
		if in.Until != nil && b.ShelfEnd != nil && !in.Until.After(*b.ShelfEnd) {
			return book.WrongTime.At("until", "the new shelf life ends no later than the old one")
		}
		var rolls []Roll
		if err := book.Locked(tx.DB).Where("batch_id = ? and length > 0",
			b.ID).Order("id").Find(&rolls).Error; err != nil {
			return err
		}
		if len(rolls) == 0 {
			return book.NotNow.Errorf("nothing of batch %s is left", b.Lot)
		}
		for _, r := range rolls {
			if err := s.RollEvent(tx, &r, FreezerEvent{
				Kind: string(material.Retested), At: tx.Now, Until: in.Until, More: in.More, Note: in.Evidence,
			}); err != nil {
				return err
			}
		}
		return tx.Log(
			"batch re-tested",
			b.Code,
			in.Evidence,
			map[string]any{
				"until":   in.Until,
				"more":    in.More,
				"rolls":   len(rolls),
				"meaning": "re-tested",
				"role":    tx.Role(),
			},
		)
	})
}
