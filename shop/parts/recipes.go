package parts

import (
	"errors"
	"time"

	"gorm.io/gorm"

	"juxta/calc"
	"juxta/core/master"
	"juxta/shop/book"
)

// RecipePlan is a recipe with the stacks that it is planned for and the limits that it is held against.
type RecipePlan struct {
	Recipe   master.Recipe      `json:"recipe"`
	Sections []calc.CureSection `json:"sections" minItems:"1" maxItems:"12"`
	Limits   calc.CureLimits    `json:"limits"`
	Reasons  []string           `json:"reasons,omitempty" doc:"Why each segment is there" maxItems:"40"`
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

// release is the version of a recipe that a cure names, and whether there is one that was released.
func release(db *gorm.DB, of master.Released) (r Recipe, ok bool, err error) {
	var found []Recipe
	err = db.Where("name = ? and version = ? and state <> 'draft'", of.Name, of.Version).Find(&found).Error
	if err != nil || len(found) == 0 {
		return r, false, err
	}
	return found[0], true, nil
}

// knownHere says whether what a cure names is kept in this shop and is what the cure has.
func knownHere(db *gorm.DB, h master.Heat) error {
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
	case !same(r.Plan.Recipe, h.Recipe):
		return book.Changed.At("from", "this recipe is not what version %d of %s says any more: take that one anew, or call this one "+
			"something else", h.From.Version, h.From.Name)
	}
	return nil
}

// allKnown says whether what the cures of a process and of a document name is kept here.
func allKnown(db *gorm.DB, p *Process, doc *master.Document) error {
	for _, h := range heats(p, doc) {
		if err := knownHere(db, *h); err != nil {
			return err
		}
	}
	return nil
}

// heats are the cures of a process and of a document, either of which may be missing.
func heats(p *Process, doc *master.Document) (out []*master.Heat) {
	if p != nil {
		h := p.Heat()
		out = append(out, &h)
	}
	if doc != nil {
		for _, o := range doc.Route {
			if o.Heat != nil {
				out = append(out, o.Heat)
			}
		}
	}
	return out
}

// unnamed takes out of a master that comes from elsewhere what its cures name there and this shop does not keep: what
// they do stays as it is.
func unnamed(db *gorm.DB, p *Process, doc *master.Document) error {
	strange := func(h master.Heat) (bool, error) {
		err := knownHere(db, h)
		var refused *book.Error
		if errors.As(err, &refused) {
			return true, nil
		}
		return false, err
	}
	if is, err := strange(p.Heat()); err != nil {
		return err
	} else if is {
		p.From, p.Equipment = nil, ""
	}
	for k, o := range doc.Route {
		if o.Heat == nil {
			continue
		}
		if is, err := strange(*o.Heat); err != nil {
			return err
		} else if is {
			own := *o.Heat
			own.From, own.Equipment = nil, ""
			doc.Route[k].Heat = &own
		}
	}
	return nil
}
