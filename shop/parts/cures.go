package parts

import (
	"errors"

	"gorm.io/gorm"

	"juxta/core/master"
	"juxta/shop/book"
	"juxta/shop/recipes"
)

// allKnown says whether what the cures of a process and of a document name is kept here.
func allKnown(db *gorm.DB, p *Process, doc *master.Document) error {
	for _, h := range heats(p, doc) {
		if err := recipes.CheckHeat(db, *h); err != nil {
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
		err := recipes.CheckHeat(db, h)
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
