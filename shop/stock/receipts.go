package stock

import (
	"context"
	"fmt"
	"math"
	"slices"
	"strings"
	"time"

	"juxta/core/ident"
	"juxta/core/unit"
	"juxta/shop/book"
)

// lifeInOrder refuses dates of a batch that cannot follow each other.
func lifeInOrder(made, shelf *time.Time, received time.Time) error {
	switch {
	case made != nil && made.After(received):
		return book.WrongTime.At("madeOn", "it cannot have been made after it came")
	case made != nil && shelf != nil && !shelf.After(*made):
		return book.WrongTime.At(
			"shelfEnd",
			"its shelf life cannot end before it was made, on %s",
			made.Local().Format("2 Jan 2006"),
		)
	}
	return nil
}

// newLot refuses the lot of a material that is here already. Of two people at the
// same delivery the second sees the first one's lot.
func newLot(tx *book.Tx, m Material, lot string) error {
	if err := tx.Exec(`select pg_advisory_xact_lock(hashtext(?))`, "lot "+strings.ToLower(lot)).Error; err != nil {
		return err
	}
	var twins int64
	if err := tx.Raw(`select count(*) from batches b join materials m on m.id = b.material_id
		where lower(b.lot) = lower(?) and m.family = ?`, lot, m.Family).Scan(&twins).Error; err != nil {
		return err
	}
	if twins > 0 {
		return book.Taken.Errorf("lot %s of %s was received already: add its roll to that batch", lot, m.Name)
	}
	return nil
}

// ReceiptChange puts right what was entered when a batch came. What is missing
// stays as it is.
type ReceiptChange struct {
	Lot         string             `json:"lot,omitempty" maxLength:"60"`
	MadeOn      *time.Time         `json:"madeOn,omitempty"`
	ShelfEnd    *time.Time         `json:"shelfEnd,omitempty"`
	ArrivalTemp *float64           `json:"arrivalTemp,omitempty" doc:"K"`
	Widths      map[string]float64 `json:"widths,omitempty" doc:"Of rolls, by their id, m"`
	Reason      string             `json:"reason" minLength:"1" maxLength:"400"`
}

// CorrectReceipt puts a receipt right, with a reason; what was entered first stays
// in the log. A technician corrects what they received themselves, until the batch
// is decided on; then it is for quality. Lengths are corrected in the ledgers.
func (s *Room) CorrectReceipt(ctx context.Context, by book.By, code string, in ReceiptChange) (BatchView, error) {
	return s.changeBatch(ctx, by, book.CorrectLedger, "correct receipt", code, in, func(tx *book.Tx, b *Batch) error {
		if in.Reason = strings.TrimSpace(in.Reason); in.Reason == "" {
			return book.Needed.At("reason", "say what was wrong")
		}
		if p := by.Person; p != nil && p.Role == "technician" &&
			(b.State != "pending" || b.ReceivedBy == nil || *b.ReceivedBy != p.ID) {
			return book.NotTheirs.Errorf("this receipt is not yours, or its batch is decided on: ask a quality person")
		}
		was := map[string]any{"lot": b.Lot, "madeOn": b.MadeOn, "shelfEnd": b.ShelfEnd, "arrivalTemp": b.ArrivalTemp}
		var m Material
		if err := tx.Take(&m, b.MaterialID).Error; err != nil {
			return err
		}
		if lot := strings.TrimSpace(in.Lot); lot != "" && lot != b.Lot {
			if !strings.EqualFold(lot, b.Lot) {
				if err := newLot(tx, m, lot); err != nil {
					return err
				}
			}
			b.Lot = lot
		}
		if in.MadeOn != nil {
			b.MadeOn = in.MadeOn
		}
		if in.ShelfEnd != nil {
			b.ShelfEnd = in.ShelfEnd
		}
		if err := lifeInOrder(b.MadeOn, b.ShelfEnd, b.ReceivedAt); err != nil {
			return err
		}
		if in.ArrivalTemp != nil {
			b.ArrivalTemp = in.ArrivalTemp
			if err := b.arrived(m); err != nil {
				return err
			}
		}
		for code, width := range in.Widths {
			r, err := book.Find[Roll](book.Locked(tx.DB), ident.Roll, code, "roll")
			if err != nil {
				return err
			}
			if r.BatchID != b.ID || r.Kind != "roll" {
				return book.NotHere.At("widths", "%s is no roll of this batch", r.Code)
			}
			if err := m.sells(width); err != nil {
				return err
			}
			was["width of "+r.Code] = r.Width
			r.Width = width
			if err := tx.Save(&r).Error; err != nil {
				return err
			}
		}
		if err := tx.Save(b).Error; err != nil {
			return err
		}
		return tx.Log("receipt corrected", b.Code, in.Reason, map[string]any{"from": was, "to": in})
	})
}

// arrived puts a batch into quarantine that came too warm, and takes it out where
// only a wrong reading had put it there.
func (b *Batch) arrived(m Material) error {
	const warm = "it arrived at "
	t := b.ArrivalTemp
	if t == nil {
		return nil
	}
	if !(*t > 0) || math.IsInf(*t, 0) {
		return book.Wrong.At("arrivalTemp", "the temperature on arrival is not possible")
	}
	switch limit := m.Sheet.StorageMax; {
	case limit > 0 && *t > limit:
		if b.Quarantine == "" || strings.HasPrefix(b.Quarantine, warm) {
			b.Quarantine = fmt.Sprintf(
				"%s%s, its storage limit is %s",
				warm,
				unit.Temperature(*t, 1),
				unit.Temperature(limit, 1),
			)
		}
	case strings.HasPrefix(b.Quarantine, warm):
		b.Quarantine = ""
	}
	return nil
}

// sells refuses a width in which a material is not sold.
func (m Material) sells(width float64) error {
	sold := m.SoldIn()
	if len(sold) == 0 || slices.ContainsFunc(sold, func(w float64) bool { return math.Abs(w-width) < 5e-4 }) {
		return nil
	}
	said := make([]string, len(sold))
	for i, w := range sold {
		said[i] = unit.Size(w, 0).String()
	}
	return book.Wrong.At("width", "%s is sold %s wide, not %s: change the material if there is another width now",
		m.Name, strings.Join(said, ", "), unit.Size(width, 0))
}
