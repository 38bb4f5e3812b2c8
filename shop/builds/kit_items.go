package builds

import (
	"context"
	"slices"
	"strings"
	"time"

	"gorm.io/gorm"

	"juxta/core/ident"
	"juxta/core/master"
	"juxta/core/route"
	"juxta/core/unit"
	"juxta/shop/book"
	"juxta/shop/parts"
	"juxta/shop/stock"
)

// KitItem is what a kit holds besides its plies: film, core, peel ply, inserts, fillets.
type KitItem struct {
	Key       string     `json:"key" doc:"Of the item in the document"`
	Label     string     `json:"label" doc:"What it is"`
	Material  string     `json:"material,omitempty"`
	From      string     `json:"from,omitempty" doc:"What it is taken from, as counted: a roll, a batch, what stands on a bought part"`
	CountedAt *time.Time `json:"countedAt,omitempty"`
	CountedBy string     `json:"countedBy,omitempty"`

	family int64
}

// ItemCount is the count of one of them.
type ItemCount struct {
	BuildID   int64  `gorm:"primaryKey"`
	Operation string `gorm:"primaryKey"`
	ItemKey   string `gorm:"primaryKey"`
	TakenFrom string
	CountedAt time.Time
	CountedBy int64
}

func (ItemCount) TableName() string { return "kit_items" }

// kitItems are what the kit of an operation holds besides its plies; the one pass counts
// plies alone.
func (s *Room) kitItems(db *gorm.DB, b buildRow, k int) ([]KitItem, error) {
	if b.progress == nil {
		return nil, nil
	}
	return s.itemsOf(db, b, []int{k})
}

// itemsOf are the items of some kits of a build, in their order.
func (s *Room) itemsOf(db *gorm.DB, b buildRow, kits []int) ([]KitItem, error) {
	var r parts.Revision
	if err := db.Take(&r, b.RevisionID).Error; err != nil {
		return nil, err
	}
	m, err := s.Master(db, r)
	if err != nil {
		return nil, err
	}
	var rows []struct {
		ItemCount `gorm:"embedded"`
		Person    string
	}
	if err := db.Raw(`select k.*, p.name as person from kit_items k join people p on p.id = k.counted_by
		where k.build_id = ?`, b.ID).Scan(&rows).Error; err != nil {
		return nil, err
	}
	var out []KitItem
	labels := m.Doc.Labels()
	for _, k := range kits {
		for _, stage := range m.Doc.Stages {
			if !slices.Contains(b.progress.Operations[k].Stages, stage.Key) {
				continue
			}
			for _, i := range stage.Items {
				if i.Kind == master.Ply {
					continue
				}
				v := kitItem(i, labels[i.Key], m.Records[i.MaterialID])
				for _, c := range rows {
					if c.ItemKey == i.Key && c.Operation == b.progress.key(k) {
						v.From, v.CountedAt, v.CountedBy = c.TakenFrom, &c.CountedAt, c.Person
					}
				}
				out = append(out, v)
			}
		}
	}
	return out, nil
}

// kitItem is an item of the master as a kit holds it.
func kitItem(i master.Item, label string, of stock.Material) KitItem {
	v := KitItem{Key: i.Key, Label: label, Material: of.Name, family: of.Family}
	if i.Name != "" {
		v.Label += ", " + i.Name
	}
	if i.Mass > 0 {
		v.Label += ", " + unit.Mass(i.Mass, 3).String()
	}
	return v
}

// CountItem is an item that lies in a kit, or does not after all.
type CountItem struct {
	Item  string `json:"item" doc:"Its key" maxLength:"24"`
	From  string `json:"from,omitempty" doc:"What it is taken from: the id of a roll or a batch, or what stands on it" maxLength:"60"`
	Aside bool   `json:"aside,omitempty" doc:"It does not lie in the kit after all"`
}

// CountItemOf counts an item into the kit of an operation. A roll or a batch that it is
// taken from has to be of its material, and one that may be used.
func (s *Room) CountItemOf(ctx context.Context, by book.By, code, operation string, in CountItem) (KitView, error) {
	input, named := []any{in, operation}, kitNamed(operation)
	return s.changeKit(ctx, by, "count item", code, input, named, func(tx *book.Tx, b buildRow, k int) error {
		if b.progress == nil {
			return book.NotNow.Errorf("%s has no route: its kit is counted by its plies", b.Number)
		}
		if b.counted(k) || b.progress.Progress.Counted(k) {
			return book.Done.Errorf("this kit is already counted and closed")
		}
		all, err := s.kitItems(tx.DB, b, k)
		if err != nil {
			return err
		}
		n := slices.IndexFunc(all, func(i KitItem) bool { return i.Key == in.Item })
		if n < 0 {
			return book.NotHere.At("item", "this kit holds no item %q", in.Item)
		}
		item := all[n]
		row := ItemCount{
			BuildID:   b.ID,
			Operation: b.progress.key(k),
			ItemKey:   in.Item,
			CountedAt: tx.Now,
			CountedBy: tx.By.Person.ID,
		}
		if in.Aside {
			if item.CountedAt == nil {
				return book.NotNow.Errorf("%s is not counted into this kit", item.Label)
			}
			if err := tx.Delete(&row).Error; err != nil {
				return err
			}
			return tx.Log(
				"item set aside",
				b.Code,
				"",
				map[string]any{"item": in.Item, "says": item.Label, "from": item.From},
			)
		}
		if item.CountedAt != nil {
			return book.Done.Errorf("%s is already counted, by %s", item.Label, item.CountedBy)
		}
		if row.TakenFrom, err = s.takenFrom(tx, item, strings.TrimSpace(in.From)); err != nil {
			return err
		}
		if err := tx.Create(&row).Error; err != nil {
			return err
		}
		return tx.Log("item counted", b.Code, "", map[string]any{
			"item": in.Item, "says": item.Label, "from": row.TakenFrom, "operation": b.progress.key(k),
		})
	})
}

// takenFrom is what an item is taken from, as it is kept. What carries an id of a roll or a
// batch is held against the item; anything else is what stands on it.
func (s *Room) takenFrom(tx *book.Tx, item KitItem, from string) (string, error) {
	kind, id, err := ident.Parse(from)
	if err != nil || kind != ident.Roll && kind != ident.Batch {
		return from, nil
	}
	var material, batch int64
	if kind == ident.Roll {
		roll, err := book.Find[stock.Roll](tx.DB, ident.Roll, id, "roll")
		if err != nil {
			return "", err
		}
		view, err := s.RollView(tx, roll)
		if err != nil {
			return "", err
		}
		if view.Refusal != "" {
			return "", book.Life.At("from", "%s must not be used: %s", roll.Code, view.Refusal)
		}
		material, batch = roll.MaterialID, roll.BatchID
	} else {
		found, err := book.Find[stock.Batch](tx.DB, ident.Batch, id, "batch")
		if err != nil {
			return "", err
		}
		material, batch = found.MaterialID, found.ID
	}
	var b stock.Batch
	if err := tx.Take(&b, batch).Error; err != nil {
		return "", err
	}
	if why := b.Blocked(); why != "" {
		return "", book.Life.At("from", "%s must not be used: %s", id, why)
	}
	var m stock.Material
	if err := tx.Take(&m, material).Error; err != nil {
		return "", err
	}
	if m.Family != item.family {
		return "", book.Wrong.At("from", "%s is %s, and this is %s", id, m.Name, item.Label)
	}
	return id, nil
}

// uncounted are the items of a kit that nobody has counted, in words.
func (v KitView) uncounted() []string {
	var out []string
	for _, i := range v.Items {
		if i.CountedAt == nil {
			out = append(out, i.Label)
		}
	}
	return out
}

// allItems are the items of all kits of a build, in the order of its route.
func (s *Room) allItems(db *gorm.DB, b buildRow) ([]KitItem, error) {
	var kits []int
	for _, k := range b.progress.Order() {
		if b.progress.Operations[k].Kind == route.Kitting {
			kits = append(kits, k)
		}
	}
	return s.itemsOf(db, b, kits)
}
