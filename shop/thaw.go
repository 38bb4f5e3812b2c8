package shop

import (
	"time"

	"gorm.io/gorm"

	"juxta/core/material"
	"juxta/core/unit"
)

// foretell works out when a roll that was taken out is past the dew point and
// at the temperature of the room, if the room is measured.
func (s *Shop) foretell(tx *Tx, r *Roll, at time.Time) error {
	r.DewAt, r.RoomAt = nil, nil
	var m Material
	if err := tx.Take(&m, r.MaterialID).Error; err != nil {
		return err
	}
	room, err := s.room(tx.DB, tx.now)
	if err != nil || room == nil || room.Temperature == nil {
		return err
	}
	w, frozen, ok := s.body(tx.DB, *r, m)
	if !ok {
		return nil
	}
	if d, err := w.Thaw(frozen, *room.Temperature, *room.Temperature-workable); err == nil {
		at := at.Add(d)
		r.RoomAt = &at
	}
	if room.DewPoint != nil {
		// At the dew point itself water condenses still.
		if d, err := w.Thaw(frozen, *room.Temperature, *room.DewPoint+0.1); err == nil {
			at := at.Add(d)
			r.DewAt = &at
		}
	}
	return nil
}

// workable is how far below the room a roll may be to count as warm, K (common
// practice, no source).
const workable = 2.0

// usuallyFrozen is how cold a roll is taken to be if nobody measures (common
// practice, no source).
var usuallyFrozen = unit.Kelvin(-18)

// body is a roll as a body that warms, and how cold it was when it was taken
// out; ok is false for what is not wound, such as paste.
func (s *Shop) body(db *gorm.DB, r Roll, m Material) (w material.Wound, frozen float64, ok bool) {
	if m.Thickness <= 0 || m.ArealMass <= 0 || r.Length <= 0 {
		return w, 0, false
	}
	frozen = usuallyFrozen
	if r.FreezerID != nil {
		var f Freezer
		if db.Limit(1).Find(&f, *r.FreezerID).Error == nil && f.ID != 0 {
			// A freezer may be colder than its limit: a cold start errs towards waiting.
			frozen = min(frozen, f.LimitTemp)
		}
	}
	if r.Kind == "off-cut" {
		// It lies flat: one thickness that warms from one side.
		return material.Flat(m.Thickness*max(1, m.Sheet.BulkFactor), m.ArealMass), frozen, true
	}
	return m.wound(r.Length), frozen, true
}

// coldest is how cold the coldest place of a roll that is out should be.
func (s *Shop) coldest(db *gorm.DB, r Roll, m Material, room float64, at time.Time) (float64, bool) {
	w, frozen, ok := s.body(db, r, m)
	if !ok || r.Since == nil || !r.Out {
		return 0, false
	}
	share, err := w.Warmed(max(0, at.Sub(*r.Since)))
	if err != nil {
		return 0, false
	}
	return frozen + share*(room-frozen), true
}
