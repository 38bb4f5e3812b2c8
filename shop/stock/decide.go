package stock

import (
	"context"
	"errors"
	"math"
	"strings"

	"gorm.io/gorm"

	"juxta/shop/book"
)

func (t AcceptanceTest) met() bool { return t.Value != nil && t.off() == 0 }

// off is how far a value lies above, or below, its limits; 0 between them.
func (t AcceptanceTest) off() float64 {
	switch {
	case t.Least != nil && *t.Value < *t.Least:
		return *t.Value - *t.Least
	case t.Most != nil && *t.Value > *t.Most:
		return *t.Value - *t.Most
	}
	return 0
}

// TestValue is what an acceptance test found.
type TestValue struct {
	Test  int64   `json:"test"`
	Value float64 `json:"value"`
}

// RecordTest writes down what an acceptance test found. Until the batch is
// decided it may be written again; the log keeps both.
func (s *Room) RecordTest(ctx context.Context, by book.By, code string, in TestValue) (BatchView, error) {
	return s.changeBatch(ctx, by, book.RecordTests, "record test", code, in, func(tx *book.Tx, b *Batch) error {
		if b.State != "pending" {
			return book.Done.Errorf("batch %s is decided already: %s", b.Lot, b.State)
		}
		var t AcceptanceTest
		if err := tx.Where("batch_id = ?", b.ID).Take(&t, in.Test).Error; errors.Is(err, gorm.ErrRecordNotFound) {
			return book.NoSuch.Errorf("there is no such test of this batch")
		} else if err != nil {
			return err
		}
		if math.IsNaN(in.Value) || math.IsInf(in.Value, 0) {
			return book.Wrong.At("value", "the value must be a number")
		}
		before := t.Value
		t.Value, t.PersonID, t.At = &in.Value, tx.By.ID(), &tx.Now
		if err := tx.Save(&t).Error; err != nil {
			return err
		}
		return tx.Log(
			"acceptance test recorded",
			b.Code,
			"",
			map[string]any{"what": t.What, "value": in.Value, "before": before},
		)
	})
}

// BatchDecision is what a quality person signs about a batch.
type BatchDecision struct {
	Do     string `json:"do" enum:"accept,reject,quarantine,lift,override" doc:"lift ends a quarantine; override lets it be cut although it is blocked"`
	Reason string `json:"reason,omitempty" maxLength:"400"`
	PIN    string `json:"pin" doc:"Of who signs" maxLength:"12"`
}

// DecideBatch signs a decision about a batch.
func (s *Room) DecideBatch(ctx context.Context, by book.By, code string, in BatchDecision) (BatchView, error) {
	by, err := s.Signed(ctx, by, book.DecideBatch, in.PIN)
	if err != nil {
		return BatchView{}, err
	}
	in.PIN = ""
	return s.changeBatch(ctx, by, book.DecideBatch, "decide batch", code, in, func(tx *book.Tx, b *Batch) error {
		reason := strings.TrimSpace(in.Reason)
		if reason == "" && in.Do != "accept" {
			return book.Needed.At("reason", "say why")
		}
		// Taking material out of use is never a matter of two persons.
		if in.Do != "reject" && in.Do != "quarantine" && by.Person != nil && b.ReceivedBy != nil &&
			*b.ReceivedBy == by.Person.ID {
			return book.Second.Errorf("you received this batch: another quality person has to sign")
		}
		said := ""
		switch in.Do {
		case "accept":
			var tests []AcceptanceTest
			if err := tx.Where("batch_id = ?", b.ID).Order("id").Find(&tests).Error; err != nil {
				return err
			}
			if b.State == "passed" {
				return book.Done.Errorf("batch %s is accepted already", b.Lot)
			}
			for _, t := range tests {
				if t.Value == nil {
					return book.First.Errorf("%s is not tested yet", t.What)
				}
				if !t.met() {
					return book.Limit.Errorf(
						"%s is outside its limits: reject the batch, or override with a reason",
						t.What,
					)
				}
			}
			b.State, b.Decision, said = "passed", reason, "batch accepted"
		case "reject":
			b.State, b.Decision, said = "failed", reason, "batch rejected"
			b.OverrideAt, b.OverrideBy, b.OverrideWhy = nil, nil, ""
		case "quarantine":
			b.Quarantine, said = reason, "batch put into quarantine"
			b.OverrideAt, b.OverrideBy, b.OverrideWhy = nil, nil, ""
		case "lift":
			if b.Quarantine == "" {
				return book.NotNow.Errorf("batch %s is not in quarantine", b.Lot)
			}
			b.Quarantine, said = "", "quarantine lifted"
		case "override":
			if b.Blocked() == "" {
				return book.NotNow.Errorf("batch %s is not blocked", b.Lot)
			}
			b.OverrideAt, b.OverrideBy, b.OverrideWhy, said = &tx.Now, tx.By.ID(), reason, "batch released by override"
		default:
			return book.Wrong.At("do", "%q is no decision", in.Do)
		}
		if in.Do == "accept" || in.Do == "reject" {
			b.DecidedAt, b.DecidedBy = &tx.Now, tx.By.ID()
		}
		return tx.Log(said, b.Code, reason, map[string]any{"meaning": in.Do, "lot": b.Lot, "role": tx.Role()})
	})
}
