package stock

import (
	"context"
	"errors"
	"fmt"
	"strings"
	"time"

	"gorm.io/gorm"

	"juxta/core/material"
	"juxta/shop/book"
	"juxta/shop/climate"
)

// FreezerView is a freezer with what is in it and how cold it is.
type FreezerView struct {
	ID        int64      `json:"id"`
	Name      string     `json:"name"`
	LimitTemp float64    `json:"limitTemp" doc:"Warmest that it may be, K"`
	Places    []string   `json:"places"`
	Rolls     int        `json:"rolls" doc:"In it now"`
	Now       *float64   `json:"now,omitempty" doc:"K, as last measured"`
	At        *time.Time `json:"at,omitempty" doc:"When that was"`
	Sensor    string     `json:"sensor,omitempty"`
	Failing   bool       `json:"failing" doc:"A failure is entered and goes on"`
}

// FreezerIn is a freezer as entered.
type FreezerIn struct {
	Name      string   `json:"name" minLength:"1" maxLength:"60"`
	LimitTemp float64  `json:"limitTemp" doc:"K" exclusiveMinimum:"0" maximum:"300"`
	Places    []string `json:"places" maxItems:"100"`
}

// Freezers lists the freezers by name.
func (s *Room) Freezers(ctx context.Context) ([]FreezerView, error) {
	return book.View(ctx, s.Book, func(db *gorm.DB) ([]FreezerView, error) { return s.freezerViews(db) })
}

func (s *Room) freezerViews(db *gorm.DB) ([]FreezerView, error) {
	var rows []struct {
		climate.Freezer
		Rolls       int
		Failing     bool
		Sensor      string
		Temperature *float64
		At          *time.Time
	}
	err := db.Raw(`select f.*, (select count(*) from rolls r where r.freezer_id = f.id and r.length > 0
		and not r.out) as rolls,
		exists (select from freezer_failures x where x.freezer_id = f.id and x.to_at is null
		and x.withdrawn_at is null) as failing,
		coalesce(n.name, '') as sensor, g.temperature, g.at from freezers f
		left join sensors n on n.freezer_id = f.id
		left join lateral (select * from sensor_readings g where g.sensor_id = n.id and g.temperature is not null
		and g.at <= ? order by g.at desc limit 1) g on true
		order by f.name, n.id`, s.Now()).
		Scan(&rows).
		Error
	if err != nil {
		return nil, err
	}
	views := []FreezerView{}
	for _, r := range rows {
		if n := len(views); n > 0 && views[n-1].ID == r.ID {
			// Two sensors in one freezer: the warmer one counts.
			if last := &views[n-1]; r.Temperature != nil && (last.Now == nil || *r.Temperature > *last.Now) {
				last.Now, last.At, last.Sensor = r.Temperature, r.At, r.Sensor
			}
			continue
		}
		v := FreezerView{
			ID:        r.ID,
			Name:      r.Name,
			LimitTemp: r.LimitTemp,
			Places:    r.Places,
			Rolls:     r.Rolls,
			Now:       r.Temperature,
			At:        r.At,
			Sensor:    r.Sensor,
			Failing:   r.Failing,
		}
		if v.Places == nil {
			v.Places = []string{}
		}
		views = append(views, v)
	}
	return views, nil
}

func (s *Room) FreezerNames(db *gorm.DB) (map[int64]string, error) {
	var all []climate.Freezer
	if err := db.Select("id", "name").Find(&all).Error; err != nil {
		return nil, err
	}
	out := map[int64]string{}
	for _, f := range all {
		out[f.ID] = f.Name
	}
	return out, nil
}

// SaveFreezer enters a freezer, or changes the one with this id.
func (s *Room) SaveFreezer(ctx context.Context, by book.By, id int64, in FreezerIn) (FreezerView, error) {
	return book.Write(
		ctx,
		s.Book,
		by,
		book.KeepFreezers,
		"save freezer",
		[]any{id, in},
		func(tx *book.Tx) (FreezerView, error) {
			if in.Name = strings.TrimSpace(in.Name); in.Name == "" {
				return FreezerView{}, book.Needed.At("name", "the freezer needs a name")
			}
			if in.Places == nil {
				in.Places = []string{}
			}
			f := climate.Freezer{ID: id}
			detail := map[string]any{"to": in}
			if id != 0 {
				if err := book.Locked(tx.DB).Take(&f, id).Error; errors.Is(err, gorm.ErrRecordNotFound) {
					return FreezerView{}, book.NoSuch.Errorf("there is no such freezer")
				} else if err != nil {
					return FreezerView{}, err
				}
				detail["from"] = FreezerIn{f.Name, f.LimitTemp, f.Places}
			}
			f.Name, f.LimitTemp, f.Places = in.Name, in.LimitTemp, in.Places
			if err := tx.Save(&f).Error; err != nil {
				if errors.Is(err, gorm.ErrDuplicatedKey) {
					return FreezerView{}, book.Taken.Errorf("there is already a freezer called %s", in.Name)
				}
				return FreezerView{}, err
			}
			if err := tx.Log("freezer saved", f.Name, "", detail); err != nil {
				return FreezerView{}, err
			}
			views, err := s.freezerViews(tx.DB)
			if err != nil {
				return FreezerView{}, err
			}
			for _, v := range views {
				if v.ID == f.ID {
					return v, nil
				}
			}
			return FreezerView{}, fmt.Errorf("freezer %d is gone", f.ID)
		},
	)
}

// FailureView is a time in which a freezer was too warm.
type FailureView struct {
	ID        int64      `json:"id"`
	Freezer   string     `json:"freezer"`
	FreezerID int64      `json:"freezerId"`
	FromAt    time.Time  `json:"fromAt"`
	ToAt      *time.Time `json:"toAt,omitempty" doc:"Missing: it goes on"`
	Reason    string     `json:"reason"`
	Person    string     `json:"person"`
	EnteredAt time.Time  `json:"enteredAt"`
	Withdrawn bool       `json:"withdrawn"`
	Rolls     int        `json:"rolls" doc:"On hand that aged by it"`
}

// Failures lists the failures of freezers, newest first.
func (s *Room) Failures(ctx context.Context) ([]FailureView, error) {
	return book.View(ctx, s.Book, func(db *gorm.DB) ([]FailureView, error) { return s.failures(db, "true") })
}

func (s *Room) failures(db *gorm.DB, where string, args ...any) ([]FailureView, error) {
	out := []FailureView{}
	err := db.Raw(`select f.id, z.name as freezer, f.freezer_id, f.from_at, f.to_at, f.reason, p.name as person,
		f.entered_at, f.withdrawn_at is not null as withdrawn,
		(select count(*) from rolls r where r.freezer_id = f.freezer_id and r.length > 0 and r.warm > 0) as rolls
		from freezer_failures f join freezers z on z.id = f.freezer_id join people p on p.id = f.person_id
		where `+where+`
		order by f.from_at desc limit 200`, args...).
		Scan(&out).
		Error
	return out, err
}

// Warm are the failures that count, as the core reads them.
func (s *Room) Warm(db *gorm.DB) ([]material.Warm, error) {
	var all []FreezerFailure
	if err := db.Where("withdrawn_at is null").Order("id").Find(&all).Error; err != nil {
		return nil, err
	}
	out := make([]material.Warm, len(all))
	for i, f := range all {
		out[i] = material.Warm{Freezer: f.FreezerID, From: f.FromAt}
		if f.ToAt != nil {
			out[i].To = *f.ToAt
		}
	}
	return out, nil
}

// NewFailure says that a freezer was too warm.
type NewFailure struct {
	From   time.Time  `json:"from"`
	To     *time.Time `json:"to,omitempty" doc:"Missing: it still is"`
	Reason string     `json:"reason" minLength:"1" maxLength:"300"`
}

// ReportFailure enters a freezer failure: everything that lay inside ages by
// the time that it did.
func (s *Room) ReportFailure(ctx context.Context, by book.By, freezer int64, in NewFailure) (FailureView, error) {
	return book.Write(
		ctx,
		s.Book,
		by,
		book.TellFailure,
		"report failure",
		[]any{freezer, in},
		func(tx *book.Tx) (FailureView, error) {
			if err := climate.KnowsFreezer(tx, freezer); err != nil {
				return FailureView{}, err
			}
			if in.Reason = strings.TrimSpace(in.Reason); in.Reason == "" {
				return FailureView{}, book.Needed.At("reason", "say what happened to the freezer")
			}
			switch {
			case in.From.After(tx.Now):
				return FailureView{}, book.WrongTime.At("from", "it cannot have begun in the future")
			case in.To != nil && in.To.After(tx.Now):
				return FailureView{}, book.WrongTime.At("to", "it cannot have ended in the future: leave the end open")
			case in.To != nil && !in.To.After(in.From):
				return FailureView{}, book.WrongTime.At("to", "it must have ended after it began")
			}
			f := FreezerFailure{
				FreezerID: freezer,
				FromAt:    in.From,
				ToAt:      in.To,
				Reason:    in.Reason,
				PersonID:  tx.By.Person.ID,
				EnteredAt: tx.Now,
			}
			if err := tx.Create(&f).Error; err != nil {
				return FailureView{}, err
			}
			return s.failed(tx, f, "freezer failure", in.Reason)
		},
	)
}

// FailureChange ends a failure that goes on, or withdraws one that was none.
type FailureChange struct {
	To       *time.Time `json:"to,omitempty" doc:"When it ended"`
	Withdraw bool       `json:"withdraw,omitempty" doc:"It was none"`
	Reason   string     `json:"reason,omitempty" maxLength:"300"`
}

// ChangeFailure ends or withdraws a failure.
func (s *Room) ChangeFailure(ctx context.Context, by book.By, id int64, in FailureChange) (FailureView, error) {
	return book.Write(
		ctx,
		s.Book,
		by,
		book.TellFailure,
		"change failure",
		[]any{id, in},
		func(tx *book.Tx) (FailureView, error) {
			var f FreezerFailure
			if err := book.Locked(tx.DB).Take(&f, id).Error; errors.Is(err, gorm.ErrRecordNotFound) {
				return FailureView{}, book.NoSuch.Errorf("there is no such failure")
			} else if err != nil {
				return FailureView{}, err
			}
			said := "freezer cold again"
			switch {
			case f.WithdrawnAt != nil:
				return FailureView{}, book.Done.Errorf("this failure was withdrawn")
			case in.Withdraw:
				// It gives life back, so it is a quality person's to decide.
				if by.Person != nil && by.Person.Role != "quality" {
					return FailureView{}, book.NotTheirs.Errorf(
						"withdrawing a failure gives material life back: ask a quality person",
					)
				}
				if strings.TrimSpace(in.Reason) == "" {
					return FailureView{}, book.Needed.At("reason", "say why it was no failure")
				}
				f.WithdrawnAt, f.WithdrawnBy, said = &tx.Now, tx.By.ID(), "freezer failure withdrawn"
			case f.ToAt != nil:
				return FailureView{}, book.Done.Errorf("this failure has ended already")
			default:
				end := when(tx, in.To)
				if end.After(tx.Now) || !end.After(f.FromAt) {
					return FailureView{}, book.WrongTime.At("to", "it ended after it began, and not in the future")
				}
				f.ToAt = &end
			}
			if err := tx.Save(&f).Error; err != nil {
				return FailureView{}, err
			}
			return s.failed(tx, f, said, in.Reason)
		},
	)
}

// failed adds up the clocks of all rolls that a failure may have touched.
func (s *Room) failed(tx *book.Tx, f FreezerFailure, said, why string) (FailureView, error) {
	var rolls []Roll
	if err := book.Locked(tx.DB).Where(`length > 0 and (freezer_id = ? or exists (select from freezer_events e
		where e.roll_id = rolls.id
		and e.freezer_id = ?))`, f.FreezerID, f.FreezerID).Order("id").Find(&rolls).Error; err != nil {
		return FailureView{}, err
	}
	for _, r := range rolls {
		if err := s.settle(tx, &r); err != nil {
			return FailureView{}, err
		}
	}
	views, err := s.failures(tx.DB, "f.id = ?", f.ID)
	if err != nil {
		return FailureView{}, err
	}
	return views[0], tx.Log(
		said,
		views[0].Freezer,
		why,
		map[string]any{"from": f.FromAt, "to": f.ToAt, "rolls": len(rolls)},
	)
}
