package recipes

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"gorm.io/gorm"

	"juxta/core/cure"
	"juxta/core/master"
	"juxta/shop/book"
)

// Resin is a resin system with the supplier's cycle, its kinetics and, if
// known, its viscosity.
type Resin struct {
	ID        int64
	Name      string
	Kinetics  cure.Kinetics   `gorm:"serializer:json"`
	Viscosity *cure.Viscosity `gorm:"serializer:json"`
	Alpha0    float64         // degree of cure as received
	Recipe    cure.Recipe     `gorm:"serializer:json"`
	Facts     cure.ResinFacts `gorm:"serializer:json"`
	Version   int
}

// Cures is the resin as it cures.
func (r Resin) Cures() cure.Resin {
	return cure.Resin{Kinetics: r.Kinetics, Viscosity: r.Viscosity, Alpha0: r.Alpha0, ResinFacts: r.Facts}
}

// ResinIn is a resin system as entered.
type ResinIn struct {
	Name      string          `json:"name" minLength:"1" maxLength:"80"`
	Kinetics  cure.Kinetics   `json:"kinetics"`
	Viscosity *cure.Viscosity `json:"viscosity,omitempty"`
	Alpha0    float64         `json:"alpha0" doc:"Degree of cure as received" minimum:"0" exclusiveMaximum:"1"`
	Recipe    cure.Recipe     `json:"recipe" doc:"The supplier's cycle"`
	cure.ResinFacts
}

// cures is the resin as it cures.
func (in ResinIn) cures() cure.Resin {
	return cure.Resin{Kinetics: in.Kinetics, Viscosity: in.Viscosity, Alpha0: in.Alpha0, ResinFacts: in.ResinFacts}
}

func (r Resin) in() ResinIn {
	return ResinIn{r.Name, r.Kinetics, r.Viscosity, r.Alpha0, r.Recipe, r.Facts}
}

// ResinChange enters a resin system, or a new version of it.
type ResinChange struct {
	ResinIn
	Version int `json:"version" doc:"That was looked at; 0: it is new" minimum:"0"`
}

// ResinView is the newest version of a resin system.
type ResinView struct {
	ResinIn
	ID      int64 `json:"id"`
	Version int   `json:"version"`
}

func (r Resin) view() ResinView { return ResinView{r.in(), r.ID, r.Version} }

// Resins lists the resin systems by name.
func (s *Room) Resins(ctx context.Context) ([]ResinView, error) {
	var all []Resin
	if err := s.DB.Gorm.WithContext(ctx).Order("name").Find(&all).Error; err != nil {
		return nil, err
	}
	views := make([]ResinView, len(all))
	for i, r := range all {
		views[i] = r.view()
	}
	return views, nil
}

// SaveResin enters a resin system, or a new version of the one with this id. Runs and
// revisions keep their own copies of cycle and kinetics.
func (s *Room) SaveResin(ctx context.Context, by book.By, id int64, in ResinChange) (ResinView, error) {
	return book.Write(
		ctx,
		s.Book,
		by,
		book.KeepMaterials,
		"save resin",
		[]any{id, in},
		func(tx *book.Tx) (ResinView, error) {
			if in.Name = strings.TrimSpace(in.Name); in.Name == "" {
				return ResinView{}, book.Needed.At("name", "the resin needs a name")
			}
			if err := in.Kinetics.Check(); err != nil {
				return ResinView{}, book.Wrong.At("kinetics", "%s", err)
			}
			if err := in.Recipe.Check(); err != nil {
				return ResinView{}, book.Wrong.At("recipe", "%s", err)
			}
			if in.Viscosity != nil {
				if err := in.Viscosity.Check(); err != nil {
					return ResinView{}, book.Wrong.At("viscosity", "%s", err)
				}
			}
			if err := in.cures().Check(); err != nil {
				return ResinView{}, book.Wrong.At("resin", "%s", err)
			}
			r, err := toChange(tx, id, in.Version)
			if err != nil {
				return ResinView{}, err
			}
			before := r.in()
			r.Name, r.Kinetics, r.Viscosity, r.Alpha0, r.Recipe, r.Facts = in.Name, in.Kinetics, in.Viscosity,
				in.Alpha0, in.Recipe, in.ResinFacts
			return keepResin(tx, r, before, in.Source)
		},
	)
}

// ScaleResinRate makes all terms of a resin's law as many times as fast, and says why behind its source.
func ScaleResinRate(tx *book.Tx, id int64, version int, by float64, why string) (ResinView, error) {
	r, err := toChange(tx, id, version)
	if err != nil {
		return ResinView{}, err
	}
	before := r.in()
	r.Kinetics.Terms = slices.Clone(r.Kinetics.Terms)
	for k := range r.Kinetics.Terms {
		r.Kinetics.Terms[k].A *= by
	}
	says := fmt.Sprintf("rate × %.3g %s", by, why)
	source := strings.TrimPrefix(r.Facts.Source+"; "+says, "; ")
	if len(source) > mostSource {
		source = source[len(source)-mostSource:] // the newest of it: the versions have the rest
	}
	r.Facts.Source = strings.ToValidUTF8(source, "")
	return keepResin(tx, r, before, says)
}

// mostSource is how long the source of a resin's figures may be.
const mostSource = 300

// toChange is a resin that is held until the transaction ends, in the version that was looked at; id 0 is a new one.
func toChange(tx *book.Tx, id int64, version int) (r Resin, err error) {
	if id == 0 {
		return r, nil
	}
	if err := book.Locked(tx.DB).Take(&r, id).Error; errors.Is(err, gorm.ErrRecordNotFound) {
		return r, book.NoSuch.Errorf("there is no such resin")
	} else if err != nil {
		return r, err
	}
	if r.Version != version {
		return r, book.Changed.Errorf("%s is in version %d by now: look at it again", r.Name, r.Version)
	}
	return r, nil
}

// keepResin keeps a resin as a new version, with why it was changed.
func keepResin(tx *book.Tx, r Resin, before ResinIn, why string) (ResinView, error) {
	r.Version++
	if err := tx.Save(&r).Error; errors.Is(err, gorm.ErrDuplicatedKey) {
		return ResinView{}, book.Taken.Errorf("there is already a resin called %s", r.Name)
	} else if err != nil {
		return ResinView{}, err
	}
	if err := tx.Create(&ResinVersion{r.ID, r.Version, r.in(), why, tx.By.ID(), tx.Now}).Error; err != nil {
		return ResinView{}, err
	}
	detail := map[string]any{"to": r.in(), "version": r.Version}
	if r.Version > 1 {
		detail["from"] = before
	}
	return r.view(), tx.Log("resin saved", r.Name, why, detail)
}

// ResinVersion is what was said of a resin for a while.
type ResinVersion struct {
	ResinID   int64   `gorm:"primaryKey"`
	Version   int     `gorm:"primaryKey"`
	Facts     ResinIn `gorm:"serializer:json"`
	Why       string
	PersonID  *int64
	CreatedAt time.Time
}

// ResinVersionView is a version of a resin and what it says otherwise than the one before.
type ResinVersionView struct {
	Version int       `json:"version"`
	Facts   ResinIn   `json:"facts"`
	Why     string    `json:"why" doc:"Where its figures come from"`
	By      string    `json:"by,omitempty"`
	At      time.Time `json:"at"`
	Differs []string  `json:"differs" doc:"Names of what is otherwise than in the version before"`
}

// ResinVersions are all versions of a resin, newest first.
func (s *Room) ResinVersions(ctx context.Context, id int64) ([]ResinVersionView, error) {
	return book.View(ctx, s.Book, func(db *gorm.DB) ([]ResinVersionView, error) {
		var all []ResinVersion
		if err := db.Where("resin_id = ?", id).Order("version").Find(&all).Error; err != nil {
			return nil, err
		}
		if len(all) == 0 {
			return nil, book.NoSuch.Errorf("there is no such resin")
		}
		names, err := s.Names(db)
		if err != nil {
			return nil, err
		}
		out := make([]ResinVersionView, len(all))
		for k, v := range all {
			one := ResinVersionView{v.Version, v.Facts, v.Why, "", v.CreatedAt, []string{}}
			if v.PersonID != nil {
				one.By = names[*v.PersonID]
			}
			if k > 0 {
				one.Differs = append(one.Differs, master.ChangedFields(all[k-1].Facts, v.Facts)...)
			}
			out[len(all)-1-k] = one
		}
		return out, nil
	})
}
