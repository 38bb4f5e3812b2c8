package stock

import (
	"context"

	"juxta/core/geom"
	"juxta/core/ident"
	"juxta/core/material"
	"juxta/core/nest"
	"juxta/core/unit"
	"juxta/shop/book"
	"juxta/shop/climate"
)

// NewOffCut is a piece worth keeping.
type NewOffCut struct {
	Outline   geom.Ring `json:"outline" doc:"m, x along the roll" minItems:"3" maxItems:"200"`
	Take      float64   `json:"take,omitempty" doc:"Length that it takes off the roll; 0: it lay beside plies already cut, m" minimum:"0"`
	FreezerID int64     `json:"freezerId,omitempty"`
	Place     string    `json:"place,omitempty" maxLength:"60"`
}

// KeepOffCut keeps a piece of a roll with an id of its own. It is out, open,
// and carries its roll's clock.
func (s *Room) KeepOffCut(ctx context.Context, by book.By, code string, in NewOffCut) (RollView, error) {
	return s.changeRoll(ctx, by, book.CutPlies, "keep off-cut", code, in, func(tx *book.Tx, r *Roll) error {
		off, err := s.OffCut(tx, r, in)
		if err == nil {
			*r = off
		}
		return err
	})
}

// OffCut keeps a piece of a roll that is held, and says so in the log.
func (s *Room) OffCut(tx *book.Tx, r *Roll, in NewOffCut) (Roll, error) {
	if err := s.checkOffCut(tx, *r, &in); err != nil {
		return Roll{}, err
	}
	id, label, err := book.NextCode(tx.DB, "rolls", ident.Roll)
	if err != nil {
		return Roll{}, err
	}
	usable, parent := in.Outline.Inscribed(), r.ID
	off := Roll{
		ID:         id,
		Code:       label,
		MaterialID: r.MaterialID,
		BatchID:    r.BatchID,
		Kind:       "off-cut",
		ParentID:   &parent,
		Outline:    in.Outline,
		Width:      usable.Height(),
		Place:      in.Place,
		FreezerID:  r.FreezerID,
		Flaws:      []nest.Flaw{},
	}
	off.BaseSpent, off.BaseMore, off.BaseUntil = CarriedColumns(r.Clock().Later(tx.Now).Carry())
	if in.FreezerID != 0 {
		off.FreezerID = &in.FreezerID
	}
	if err := tx.Create(&off).Error; err != nil {
		return Roll{}, err
	}
	lines := []FreezerEvent{
		{
			Kind:      string(material.Received),
			At:        tx.Now,
			Length:    usable.Width(),
			FreezerID: off.FreezerID,
			Note:      "off-cut of " + r.Code,
		},
		{Kind: string(material.Out), At: tx.Now},
		{Kind: string(material.Opened), At: tx.Now},
	}
	if err := s.rollEvents(tx, &off, lines...); err != nil {
		return Roll{}, err
	}
	if in.Take > 0 {
		if err := s.RollEvent(tx, r, FreezerEvent{
			Kind: string(material.Used), At: tx.Now, Length: in.Take, Note: "off-cut " + off.Code,
		}); err != nil {
			return Roll{}, err
		}
	}
	if err := tx.Log("off-cut kept", r.Code, "", map[string]any{"offCut": off.Code, "take": in.Take}); err != nil {
		return Roll{}, err
	}
	return off, nil
}

// checkOffCut says why an off-cut cannot be kept, and lays its outline into its own frame.
func (s *Room) checkOffCut(tx *book.Tx, r Roll, in *NewOffCut) error {
	if err := in.Outline.Check(); err != nil {
		return book.Wrong.At("outline", "the outline of the off-cut: %s", err)
	}
	// Its own frame: x along from 0, y across from 0.
	box := in.Outline.Bounds()
	in.Outline = in.Outline.Move(-box.Min.X, -box.Min.Y)
	if box.Height() > r.Width+1e-6 {
		return book.Wrong.At(
			"outline",
			"an off-cut %s across does not come from a roll of %s",
			unit.Size(box.Height(), 0),
			unit.Size(r.Width, 0),
		)
	}
	if !r.Out {
		return book.Cold.Errorf("%s is in the freezer: take it out before it is cut", r.Code)
	}
	if in.Take > 0 {
		if err := s.MayCut(tx, r); err != nil {
			return err
		}
		if box.Width() > in.Take+1e-6 {
			return book.Wrong.At(
				"take",
				"an off-cut of %s takes at least that length off the roll",
				unit.RollLength(box.Width(), 2),
			)
		}
	}
	return climate.KnowsFreezer(tx, in.FreezerID)
}
