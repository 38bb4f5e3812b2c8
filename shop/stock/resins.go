package stock

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"

	"gorm.io/gorm"

	"juxta/core/master"
	"juxta/shop/book"
	"juxta/wire"
)

// ResinIn is a resin system as entered.
type ResinIn struct {
	Name      string          `json:"name" minLength:"1" maxLength:"80"`
	Kinetics  wire.Kinetics   `json:"kinetics"`
	Viscosity *wire.Viscosity `json:"viscosity,omitempty"`
	Alpha0    float64         `json:"alpha0" doc:"Degree of cure as received" minimum:"0" exclusiveMaximum:"1"`
	Recipe    master.Recipe   `json:"recipe" doc:"The supplier's cycle"`
	wire.ResinFacts
}

// cures is the resin as it cures.
func (in ResinIn) cures() wire.Resin {
	return wire.Resin{Kinetics: in.Kinetics, Viscosity: in.Viscosity, Alpha0: in.Alpha0, ResinFacts: in.ResinFacts}
}

func (r Resin) in() ResinIn {
	return ResinIn{r.Name, r.Kinetics, r.Viscosity, r.Alpha0, r.Recipe, r.Facts}
}

// ResinView is a resin system.
type ResinView struct {
	ResinIn
	ID int64 `json:"id"`
}

// Resins lists the resin systems by name.
func (s *Room) Resins(ctx context.Context) ([]ResinView, error) {
	var all []Resin
	if err := s.DB.Gorm.WithContext(ctx).Order("name").Find(&all).Error; err != nil {
		return nil, err
	}
	views := make([]ResinView, len(all))
	for i, r := range all {
		views[i] = ResinView{r.in(), r.ID}
	}
	return views, nil
}

// SaveResin enters a resin system, or changes the one with this id. Runs and
// revisions keep their own copies of cycle and kinetics.
func (s *Room) SaveResin(ctx context.Context, by book.By, id int64, in ResinIn) (ResinView, error) {
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
			if err := in.Kinetics.Core().Check(); err != nil {
				return ResinView{}, book.Wrong.At("kinetics", "%s", err)
			}
			if err := in.Recipe.Core().Check(); err != nil {
				return ResinView{}, book.Wrong.At("recipe", "%s", err)
			}
			if in.Viscosity != nil {
				if err := in.Viscosity.Core().Check(); err != nil {
					return ResinView{}, book.Wrong.At("viscosity", "%s", err)
				}
			}
			if err := in.cures().Core().Check(); err != nil {
				return ResinView{}, book.Wrong.At("resin", "%s", err)
			}
			r := Resin{ID: id}
			detail := map[string]any{"to": in}
			if id != 0 {
				if err := book.Locked(tx.DB).Take(&r, id).Error; errors.Is(err, gorm.ErrRecordNotFound) {
					return ResinView{}, book.NoSuch.Errorf("there is no such resin")
				} else if err != nil {
					return ResinView{}, err
				}
				detail["from"] = r.in()
			}
			r.Name, r.Kinetics, r.Viscosity, r.Alpha0, r.Recipe, r.Facts = in.Name, in.Kinetics, in.Viscosity, in.Alpha0,
				in.Recipe, in.ResinFacts
			if err := tx.Save(&r).Error; err != nil {
				if errors.Is(err, gorm.ErrDuplicatedKey) {
					return ResinView{}, book.Taken.Errorf("there is already a resin called %s", in.Name)
				}
				return ResinView{}, err
			}
			return ResinView{in, r.ID}, tx.Log("resin saved", r.Name, "", detail)
		},
	)
}

// Faster makes all terms of a resin's law as many times as fast, and says why behind its source.
func Faster(tx *book.Tx, id int64, by float64, why string) (ResinView, error) {
	var r Resin
	if err := book.Locked(tx.DB).Take(&r, id).Error; errors.Is(err, gorm.ErrRecordNotFound) {
		return ResinView{}, book.NoSuch.Errorf("there is no such resin")
	} else if err != nil {
		return ResinView{}, err
	}
	before := r.in()
	r.Kinetics.Terms = slices.Clone(r.Kinetics.Terms)
	for k := range r.Kinetics.Terms {
		r.Kinetics.Terms[k].A *= by
	}
	source := strings.TrimPrefix(fmt.Sprintf("%s; rate × %.3g %s", r.Facts.Source, by, why), "; ")
	if len(source) > mostSource {
		source = source[len(source)-mostSource:] // the newest of it: the log has the rest
	}
	r.Facts.Source = strings.ToValidUTF8(source, "")
	if err := tx.Save(&r).Error; err != nil {
		return ResinView{}, err
	}
	return ResinView{r.in(), r.ID}, tx.Log("resin saved", r.Name, why, map[string]any{"from": before, "to": r.in()})
}

// mostSource is how long the source of a resin's figures may be.
const mostSource = 300
