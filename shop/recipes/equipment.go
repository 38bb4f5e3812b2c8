package recipes

import (
	"context"
	"errors"
	"strings"
	"time"

	"gorm.io/gorm"

	"juxta/core/cure/forecast"
	"juxta/shop/book"
)

// EquipmentVersion is one version of what cures are done in.
type EquipmentVersion struct {
	ID        int64
	Name      string
	Version   int
	Facts     forecast.Equipment `gorm:"serializer:json"`
	Why       string
	PersonID  *int64
	CreatedAt time.Time
}

// TableName is that of the database.
func (EquipmentVersion) TableName() string { return "equipment" }

// EquipmentIn enters what a cure is done in, or a new version of it.
type EquipmentIn struct {
	Facts   forecast.Equipment `json:"facts"`
	Version int                `json:"version" doc:"That was looked at; 0: it is new" minimum:"0"`
	Why     string             `json:"why" doc:"Where the figures come from" maxLength:"300"`
}

// EquipmentView is the newest version of what a cure is done in.
type EquipmentView struct {
	EquipmentIn
	At time.Time `json:"at"`
	By string    `json:"by,omitempty"`
}

// AllEquipment lists the newest versions by name.
func (s *Room) AllEquipment(ctx context.Context) ([]EquipmentView, error) {
	return book.View(ctx, s.Book, func(db *gorm.DB) ([]EquipmentView, error) {
		var all []EquipmentVersion
		if err := db.Raw(`select distinct on (name) * from equipment
			order by name, version desc`).Scan(&all).Error; err != nil {
			return nil, err
		}
		names, err := s.Names(db)
		if err != nil {
			return nil, err
		}
		out := make([]EquipmentView, len(all))
		for i, e := range all {
			out[i] = EquipmentView{EquipmentIn: EquipmentIn{e.Facts, e.Version, e.Why}, At: e.CreatedAt}
			if e.PersonID != nil {
				out[i].By = names[*e.PersonID]
			}
		}
		return out, nil
	})
}

// EquipmentOf is the newest version of a name.
func EquipmentOf(db *gorm.DB, name string) (e EquipmentVersion, err error) {
	var found []EquipmentVersion
	if err := db.Where("name = ?", name).Order("version desc").Limit(1).Find(&found).Error; err != nil {
		return e, err
	}
	if len(found) == 0 {
		return e, book.NotHere.At("equipment", "there is no equipment called %q here", name)
	}
	return found[0], nil
}

// SaveEquipment enters a version of what cures are done in.
func (s *Room) SaveEquipment(ctx context.Context, by book.By, in EquipmentIn) (EquipmentView, error) {
	return book.Write(ctx, s.Book, by, book.KeepTools, "save equipment", in, func(tx *book.Tx) (EquipmentView, error) {
		f := in.Facts
		f.Name = strings.TrimSpace(f.Name)
		switch {
		case f.Name == "":
			return EquipmentView{}, book.Needed.At("facts.name", "the equipment needs a name")
		case strings.TrimSpace(in.Why) == "":
			return EquipmentView{}, book.Needed.At("why", "say where the figures come from")
		case f.Kind == "press" && f.Contact == 0:
			return EquipmentView{}, book.Needed.At("facts.contact",
				"enter the heat transfer coefficient of the platens")
		case f.Kind != "press" && f.Film == 0:
			return EquipmentView{}, book.Needed.At("facts.film", "enter the heat transfer coefficient of the air")
		}
		var last int
		if err := tx.Raw(`select coalesce(max(version), 0) from equipment where name = ?`,
			f.Name).Scan(&last).Error; err != nil {
			return EquipmentView{}, err
		}
		if last != in.Version {
			return EquipmentView{}, book.Changed.Errorf(
				"somebody else has changed %s in the meantime: look at it again",
				f.Name,
			)
		}
		e := EquipmentVersion{
			Name:      f.Name,
			Version:   last + 1,
			Facts:     f,
			Why:       strings.TrimSpace(in.Why),
			PersonID:  tx.By.ID(),
			CreatedAt: tx.Now,
		}
		if err := tx.Create(&e).Error; errors.Is(err, gorm.ErrDuplicatedKey) {
			return EquipmentView{}, book.Changed.Errorf(
				"somebody else has changed %s at the same moment: look at it again",
				f.Name,
			)
		} else if err != nil {
			return EquipmentView{}, err
		}
		out := EquipmentView{EquipmentIn: EquipmentIn{e.Facts, e.Version, e.Why}, At: e.CreatedAt}
		if tx.By.Person != nil {
			out.By = tx.By.Person.Name
		}
		return out, tx.Log("equipment saved", f.Name, e.Why, out.EquipmentIn)
	})
}
