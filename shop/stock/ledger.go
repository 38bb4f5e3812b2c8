package stock

import (
	"context"
	"fmt"
	"math"
	"time"

	"gorm.io/gorm"

	"juxta/core/ident"
	"juxta/core/material"
	"juxta/shop/book"
)

// The ledger of a roll, and the clock that is kept beside it.

// Clock is the roll's ledger as added up at its last event.
func (r Roll) Clock() material.Clock {
	c := material.Clock{
		Spent:  Seconds(r.Spent),
		Bench:  Seconds(r.Bench),
		Warm:   Seconds(r.Warm),
		Ageing: r.Ageing,
		Out:    r.Out,
		Open:   r.Open,
		Length: r.Length,
		More:   Seconds(r.ExtMore),
	}
	if r.Since != nil {
		c.Since = *r.Since
	}
	if r.FreezerID != nil {
		c.Freezer = *r.FreezerID
	}
	if r.ExtUntil != nil {
		c.Until = *r.ExtUntil
	}
	if r.ClockAt != nil {
		c.At = *r.ClockAt
	}
	return c
}

// carried is what an off-cut brought along of its roll, or a roll of before it
// came here.
func (r Roll) carried() material.CarriedLife { return Carried(r.BaseSpent, r.BaseMore, r.BaseUntil) }

func Carried(spent, more float64, until *time.Time) material.CarriedLife {
	c := material.CarriedLife{Spent: Seconds(spent), More: Seconds(more)}
	if until != nil {
		c.Until = *until
	}
	return c
}

// CarriedColumns are what a piece takes along, in s.
func CarriedColumns(c material.CarriedLife) (spent, more float64, until *time.Time) {
	if !c.Until.IsZero() {
		until = &c.Until
	}
	return c.Spent.Seconds(), c.More.Seconds(), until
}

func CoreEvents(events []FreezerEvent) []material.Event {
	out := make([]material.Event, len(events))
	for i, e := range events {
		out[i] = material.Event{
			Kind:   material.EventKind(e.Kind),
			At:     e.At,
			Length: e.Length,
			ID:     e.ID,
			More:   Seconds(e.More),
		}
		if e.Cancels != nil {
			out[i].Cancels = *e.Cancels
		}
		if e.FreezerID != nil {
			out[i].Freezer = *e.FreezerID
		}
		if e.Until != nil {
			out[i].Until = *e.Until
		}
	}
	return out
}

func Seconds(s float64) time.Duration { return time.Duration(math.Round(s * float64(time.Second))) }

// history is all that is recorded of a roll.
func (s *Room) history(db *gorm.DB, r Roll) (material.History, []FreezerEvent, error) {
	var events []FreezerEvent
	if err := db.Where("roll_id = ?", r.ID).Order("at, id").Find(&events).Error; err != nil {
		return material.History{}, nil, err
	}
	warm, err := s.Warm(db)
	return material.History{Base: r.carried(), Events: CoreEvents(events), Warm: warm}, events, err
}

// settle adds a roll's ledger up and keeps the result beside it. The roll must
// be held. It refuses, with the sentence of the core, a ledger that cannot be.
func (s *Room) settle(tx *book.Tx, r *Roll) error {
	h, _, err := s.history(tx.DB, *r)
	if err != nil {
		return err
	}
	c, err := h.Clock(tx.Now)
	if err != nil {
		return refusedBy(r.Code, err)
	}
	for _, e := range h.Events {
		if e.Kind == material.Received {
			r.FullLength = e.Length
		}
	}
	var m Material
	if err := tx.Take(&m, r.MaterialID).Error; err != nil {
		return err
	}
	r.Spent, r.Bench, r.Warm = c.Spent.Seconds(), c.Bench.Seconds(), c.Warm.Seconds()
	r.Ageing, r.Out, r.Open, r.Since, r.Length, r.ClockAt = c.Ageing, c.Out, c.Open, &c.Since, c.Length, &tx.Now
	r.ExtUntil, r.ExtMore, r.Life, r.LifeLeft = nil, c.More.Seconds(), m.OutLife+c.More.Seconds(), 1e12
	if !c.Until.IsZero() {
		r.ExtUntil = &c.Until
	}
	if m.OutLife > 0 {
		r.LifeLeft = r.Life - r.Spent
	}
	if !c.Out && c.Freezer != 0 {
		r.FreezerID = &c.Freezer
	}
	return tx.Save(r).Error
}

// Settle adds up the ledgers of rolls that have none yet, as after a change of
// the schema, and gives batches of before their labels.
func (s *Room) Settle(ctx context.Context) error {
	var waiting []Roll
	db := s.DB.Gorm.WithContext(ctx)
	if err := db.Where("clock_at is null").Find(&waiting).Error; err != nil || len(waiting) == 0 {
		return err
	}
	return db.Transaction(func(g *gorm.DB) error {
		tx := &book.Tx{DB: g, Ctx: ctx, Now: s.Now().UTC().Truncate(time.Microsecond)}
		for _, r := range waiting {
			if err := s.settle(tx, &r); err != nil {
				return err
			}
		}
		var old []Batch
		if err := g.Where("code like 'old-%'").Find(&old).Error; err != nil {
			return err
		}
		for _, b := range old {
			if err := g.Model(&b).Update("code", ident.Format(ident.Batch, b.ID)).Error; err != nil {
				return err
			}
		}
		return nil
	})
}

// VerifyClocks adds up every ledger anew and names the first roll whose kept
// clock says something else.
func (s *Room) VerifyClocks(ctx context.Context) (int, error) {
	return book.View(ctx, s.Book, func(db *gorm.DB) (int, error) {
		var rolls []Roll
		if err := db.Order("id").Find(&rolls).Error; err != nil {
			return 0, err
		}
		now := s.Now() // one moment for all: clocks run on while they are compared
		for i, r := range rolls {
			h, _, err := s.history(db, r)
			if err != nil {
				return i, err
			}
			want, err := h.Clock(now)
			if err != nil {
				return i, fmt.Errorf("the ledger of %s does not add up: %w", r.Code, err)
			}
			got := r.Clock().Later(now)
			if (got.Spent-want.Spent).Abs() > time.Millisecond || math.Abs(got.Length-want.Length) > 1e-6 ||
				got.Out != want.Out ||
				got.Open != want.Open ||
				got.Ageing != want.Ageing {
				return i, fmt.Errorf(
					"the kept clock of %s differs from its ledger: %s spent instead of %s",
					r.Code,
					material.Hours(got.Spent),
					material.Hours(want.Spent),
				)
			}
		}
		return len(rolls), nil
	})
}

// followMaterial makes the rolls on hand of a family follow a version of it.
func (s *Room) followMaterial(tx *book.Tx, family, version int64) error {
	var rolls []Roll
	if err := book.Locked(tx.DB).
		Where("length > 0 and material_id in (select id from materials where family = ?)", family).Order("id").
		Find(&rolls).Error; err != nil {
		return err
	}
	for _, r := range rolls {
		r.MaterialID = version
		if err := s.settle(tx, &r); err != nil {
			return err
		}
	}
	return nil
}
