package recipes

import (
	"cmp"
	"context"
	"fmt"
	"time"

	"gorm.io/gorm"

	"juxta/calc"
	"juxta/core/cure"
	"juxta/core/cure/forecast"
	"juxta/core/master"
	"juxta/shop/book"
)

// RecipePlan is a recipe with the stacks that it is planned for and the limits that it is held against.
type RecipePlan struct {
	Recipe   cure.Recipe         `json:"recipe"`
	Sections []calc.CureSection  `json:"sections" minItems:"1" maxItems:"12"`
	Limits   forecast.CureLimits `json:"limits"`
	Reasons  []string            `json:"reasons,omitempty" doc:"Why each segment is there" maxItems:"40"`
}

// Recipe is one version of a recipe.
type Recipe struct {
	ID         int64
	Name       string
	Version    int
	State      string
	ResinID    int64
	Equipment  string
	Plan       RecipePlan `gorm:"serializer:json"`
	WrittenBy  *int64
	WrittenAt  time.Time
	ReleasedBy *int64
	ReleasedAt *time.Time
}

// Taken is a cure that takes a released recipe: the recipe with its name and its equipment, and of the cure's limits
// those
// that the recipe was planned with.
func (r Recipe) Taken(h master.Heat) master.Heat {
	h.Recipe, h.From, h.Equipment = r.Plan.Recipe, &master.ReleasedRecipe{Name: r.Name, Version: r.Version}, r.Equipment
	h.PressureMax = 0
	of := r.Plan.Limits
	h.Limits.MaxPart = cmp.Or(of.MaxPart, h.Limits.MaxPart)
	h.Limits.MaxRamp = cmp.Or(of.MaxRamp, h.Limits.MaxRamp)
	h.Limits.MinCure = cmp.Or(of.MinCure, h.Limits.MinCure)
	for _, s := range r.Plan.Recipe.Segments {
		h.PressureMax = max(h.PressureMax, s.Pressure*pressureOver)
		if s.WaitPart > 0 { // what a hold waits for counts as held
			h.Limits.SoakBelow = max(h.Limits.SoakBelow, s.Target-s.WaitPart)
		}
		if s.Hold > 0 { // a bag that is vented, or that nobody draws, has no vacuum to hold
			h.Limits.MinVacuum = min(h.Limits.MinVacuum, s.Vacuum)
		}
	}
	return h
}

// pressureOver is what a run may have of the pressure that its recipe asks for (common practice, no source).
const pressureOver = 1.05

// TakeRecipe says what becomes of a cure that takes a released recipe; it stores nothing.
func (s *Room) TakeRecipe(ctx context.Context, id int64, h master.Heat) (master.Heat, error) {
	return book.View(ctx, s.Book, func(db *gorm.DB) (master.Heat, error) {
		var r Recipe
		if err := db.Where("id = ? and state <> 'draft'", id).Limit(1).Find(&r).Error; err != nil {
			return h, err
		}
		if r.ID == 0 {
			return h, book.NotHere.At("id", "there is no released recipe of this number")
		}
		return r.Taken(h), nil
	})
}

// release is the version of a recipe that a cure names, and whether there is one that was released.
func release(db *gorm.DB, of master.ReleasedRecipe) (r Recipe, ok bool, err error) {
	var found []Recipe
	err = db.Where("name = ? and version = ? and state <> 'draft'", of.Name, of.Version).Find(&found).Error
	if err != nil || len(found) == 0 {
		return r, false, err
	}
	return found[0], true, nil
}

// NewerFigures says by recipe which figures of its resin and its equipment are newer than its release, and of a draft
// than its writing.
func NewerFigures(db *gorm.DB, all []Recipe) (map[int64][]string, error) {
	if len(all) == 0 {
		return nil, nil
	}
	var ids []int64
	var names []string
	for _, r := range all {
		ids, names = append(ids, r.ResinID), append(names, r.Equipment)
	}
	var resins []ResinVersion
	if err := db.Where("resin_id in ? and version > 1", ids).Order("version").Find(&resins).Error; err != nil {
		return nil, err
	}
	var equipment []EquipmentVersion
	if err := db.Where("name in ? and version > 1", names).Order("version").Find(&equipment).Error; err != nil {
		return nil, err
	}
	out := map[int64][]string{}
	for _, r := range all {
		seen, when := r.WrittenAt, "it was written"
		if r.ReleasedAt != nil {
			seen, when = *r.ReleasedAt, "the release"
		}
		add := func(name string, version int, at time.Time, why string) {
			if at.After(seen) {
				out[r.ID] = append(
					out[r.ID],
					fmt.Sprintf("%s has come into version %d since %s: %s", name, version, when, why),
				)
			}
		}
		for _, v := range resins {
			if v.ResinID == r.ResinID {
				add(v.Facts.Name, v.Version, v.CreatedAt, v.Why)
			}
		}
		for _, e := range equipment {
			if e.Name == r.Equipment {
				add(e.Name, e.Version, e.CreatedAt, e.Why)
			}
		}
	}
	return out, nil
}

// CheckHeat says whether what a cure names is kept in this shop and is what the cure has.
func CheckHeat(db *gorm.DB, h master.Heat) error {
	if h.Equipment != "" {
		if _, err := EquipmentOf(db, h.Equipment); err != nil {
			return err
		}
	}
	if h.From == nil {
		return nil
	}
	r, ok, err := release(db, *h.From)
	switch {
	case err != nil:
		return err
	case !ok:
		return book.NotHere.At("from", "version %d of %s is not released here", h.From.Version, h.From.Name)
	case !book.SameJSON(r.Plan.Recipe, h.Recipe):
		return book.Changed.At(
			"from",
			"this recipe differs from version %d of %s by now: take that version again, or give this one another name",
			h.From.Version,
			h.From.Name,
		)
	}
	return nil
}
