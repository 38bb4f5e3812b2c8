package stock

import (
	"time"

	"gorm.io/gorm"

	"juxta/core/material"
	"juxta/core/unit"
	"juxta/shop/book"
	"juxta/shop/climate"
	"juxta/shop/recipes"
)

// foretell works out when a roll that was taken out is past the dew point and
// at the temperature of the room, if the room is measured.
func (s *Room) foretell(tx *book.Tx, r *Roll, at time.Time) error {
	r.DewAt, r.RoomAt = nil, nil
	var m Material
	if err := tx.Take(&m, r.MaterialID).Error; err != nil {
		return err
	}
	room, err := s.Measured(tx.DB, tx.Now)
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
func (s *Room) body(db *gorm.DB, r Roll, m Material) (w material.RollGeometry, frozen float64, ok bool) {
	if m.Thickness <= 0 || m.ArealMass <= 0 || r.Length <= 0 {
		return w, 0, false
	}
	frozen = usuallyFrozen
	if r.FreezerID != nil {
		var f climate.Freezer
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
func (s *Room) coldest(db *gorm.DB, r Roll, m Material, room float64, at time.Time) (float64, bool) {
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

// EquivalentStay is the present stay of a roll on the bench by the room's
// logged temperature.
type EquivalentStay struct {
	Out        float64 `json:"out" doc:"By the clock, s"`
	Equivalent float64 `json:"equivalent" doc:"At the reference temperature, s"`
	Reference  float64 `json:"reference" doc:"K"`
	Energy     float64 `json:"energy" doc:"Activation energy of the resin's first reaction, J/mol"`
	Covered    float64 `json:"covered" doc:"Part of the stay that was logged, 0 to 1"`
}

func (s *Room) equivalent(db *gorm.DB, m Material, since, now time.Time) (*EquivalentStay, error) {
	if m.ResinID == nil || !now.After(since) {
		return nil, nil
	}
	var resin recipes.Resin
	if err := db.Take(&resin, *m.ResinID).Error; err != nil {
		return nil, err
	}
	var log []struct {
		At          time.Time
		Temperature float64
	}
	if err := db.Raw(`select g.at, avg(g.temperature) as temperature from sensor_readings g
		join sensors n on n.id = g.sensor_id
		where n.freezer_id is null and g.temperature is not null and g.at between ? and ? group by g.at
		order by g.at`, since, now).Scan(&log).Error; err != nil ||
		len(log) < 2 {
		return nil, err
	}
	readings := make([]material.Reading, len(log))
	for i, l := range log {
		readings[i] = material.Reading{At: l.At.Sub(since).Seconds(), T: l.Temperature}
	}
	e := resin.Kinetics.Terms[0].E
	span := readings[len(readings)-1].At - readings[0].At
	return &EquivalentStay{
		Out:        now.Sub(since).Seconds(),
		Equivalent: material.Equivalent(readings, e, unit.Room),
		Reference:  unit.Room,
		Energy:     e,
		Covered:    span / now.Sub(since).Seconds(),
	}, nil
}
