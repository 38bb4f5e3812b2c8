package builds

import (
	"context"
	"slices"
	"strings"
	"time"

	"gorm.io/gorm"

	"juxta/core/ident"
	"juxta/core/material"
	"juxta/core/route"
	"juxta/shop/book"
	"juxta/shop/climate"
	"juxta/shop/parts"
	"juxta/shop/stock"
)

// KitPly is one ply of a kit beside what was cut and counted for it.
type KitPly struct {
	parts.PlyView
	Cut     []CutView `json:"cut"`
	Missing bool      `json:"missing" doc:"None counted"`
	Doubled bool      `json:"doubled" doc:"More than one counted"`
}

// CutView is one cut ply.
type CutView struct {
	Code    string    `json:"code"`
	Roll    string    `json:"roll"`
	Nest    string    `json:"nest"`
	CutAt   time.Time `json:"cutAt"`
	Counted bool      `json:"counted"`
}

// KitView is the kit of a build.
type KitView struct {
	Build     BuildLine      `json:"build"`
	Plies     []KitPly       `json:"plies"`
	Items     []KitItem      `json:"items,omitempty" doc:"Besides the plies, of a kit on a route"`
	Container string         `json:"container,omitempty" doc:"What the kit lies in"`
	Missing   []int          `json:"missing" doc:"Ply numbers"`
	Doubled   []int          `json:"doubled" doc:"Ply numbers"`
	CountedAt *time.Time     `json:"countedAt,omitempty"`
	CountedBy string         `json:"countedBy,omitempty"`
	InFreezer bool           `json:"inFreezer"`
	At        *RouteStep     `json:"at,omitempty" doc:"The operation that the kit is for, of a build with a route"`
	Others    []RouteStep    `json:"others,omitempty" doc:"The kits of this build"`
	Waits     []string       `json:"waits,omitempty" doc:"What the count waits for, in words"`
	Log       []book.LogLine `json:"log"`
}

// Kit is the kit of a build as counted so far; of one with a route that of an
// operation, without a key the one whose turn it is.
func (s *Room) Kit(ctx context.Context, code, operation string) (KitView, error) {
	return book.View(ctx, s.Book, func(db *gorm.DB) (KitView, error) {
		b, err := s.Build(db, code)
		if err != nil {
			return KitView{}, err
		}
		k, err := b.progress.at(b.Number, operation, route.Kitting)
		if err != nil {
			return KitView{}, err
		}
		return s.kitView(db, b, k)
	})
}

// kitView is the kit of an operation; k is -1 for the one pass.
func (s *Room) kitView(db *gorm.DB, b buildRow, k int) (KitView, error) {
	v := KitView{Plies: []KitPly{}, Missing: []int{}, Doubled: []int{}}
	var stages []string
	if b.progress != nil {
		v.At, v.Others, v.Waits = b.progress.here(k, route.Kitting)
		stages = b.progress.Operations[k].Stages
	}
	var err error
	if b.OutTime, err = s.KitOutTime(db, b, stages...); err != nil {
		return KitView{}, err
	}
	v.Build = b.BuildLine
	plies, materials, err := parts.LoadPlies(db, b.RevisionID)
	if err != nil {
		return KitView{}, err
	}
	var cut []struct {
		CutView
		PlyID int64
	}
	if err := db.Raw(`select c.code, r.code as roll, n.code as nest, c.cut_at, c.counted_at is not null as counted,
		c.ply_id
		from cut_plies c join rolls r on r.id = c.roll_id join nests n on n.id = c.nest_id
		where c.build_id = ? and c.void_at is null
		order by c.id`, b.ID).Scan(&cut).Error; err != nil {
		return KitView{}, err
	}
	for i, view := range parts.PlyViews(plies, materials) {
		if b.progress != nil && !slices.Contains(stages, b.progress.stageOf(view.Number)) {
			continue
		}
		k := KitPly{PlyView: view, Cut: []CutView{}}
		counted := 0
		for _, c := range cut {
			if c.PlyID == plies[i].ID {
				k.Cut = append(k.Cut, c.CutView)
				if c.Counted {
					counted++
				}
			}
		}
		if k.Missing = counted == 0; k.Missing {
			v.Missing = append(v.Missing, view.Number)
		}
		if k.Doubled = counted > 1; k.Doubled {
			v.Doubled = append(v.Doubled, view.Number)
		}
		v.Plies = append(v.Plies, k)
	}
	if v.Items, err = s.kitItems(db, b, k); err != nil {
		return KitView{}, err
	}
	if err := db.Raw(`select container from kit_counts where build_id = ? and operation = ?
		order by id desc limit 1`, b.ID, b.progress.key(k)).
		Scan(&v.Container).Error; err != nil {
		return KitView{}, err
	}
	if v.CountedAt, v.CountedBy, err = s.countedBy(db, b, b.progress.key(k)); err != nil {
		return KitView{}, err
	}
	var last stock.FreezerEvent
	if err := db.Where("build_id = ? and operation = ?", b.ID, b.progress.key(k)).Order("at desc, id desc").Limit(1).
		Find(&last).Error; err != nil {
		return KitView{}, err
	}
	v.InFreezer = last.Kind == string(material.In)
	v.Log, err = s.LogOf(db, b.Code)
	return v, err
}

// countedBy is when a kit was counted, and by whom.
func (s *Room) countedBy(db *gorm.DB, b buildRow, operation string) (*time.Time, string, error) {
	// One that lost a ply since is to be counted again.
	if b.progress != nil && operation != "" && !b.progress.Progress.Counted(b.progress.Index(operation)) {
		return nil, "", nil
	}
	var found []struct {
		At     time.Time
		Person string
	}
	err := db.Raw(`select b.kit_counted_at as at, p.name as person from builds b
		join people p on p.id = b.kit_counted_by
			where b.id = @b and @op = ''
		union all select k.counted_at, p.name from kit_counts k join people p on p.id = k.counted_by
			where k.build_id = @b and k.operation = @op order by at desc`, map[string]any{"b": b.ID, "op": operation}).
		Scan(&found).
		Error
	if err != nil || len(found) == 0 {
		return nil, "", err
	}
	return &found[0].At, found[0].Person, nil
}

// changeKit holds a build, does one thing to a kit of it and gives the kit as it then is.
// which finds the operation that the kit is for.
func (s *Room) changeKit(
	ctx context.Context,
	by book.By,
	what, code string,
	input any,
	which func(tx *book.Tx, b buildRow) (int, error),
	do func(tx *book.Tx, b buildRow, k int) error,
) (KitView, error) {
	return book.Write(ctx, s.Book, by, book.CountKit, what+" "+code, input, func(tx *book.Tx) (KitView, error) {
		b, err := s.Held(tx, code)
		if err != nil {
			return KitView{}, err
		}
		k, err := which(tx, b)
		if err != nil {
			return KitView{}, err
		}
		if err := b.progress.Asks(tx, k); err != nil {
			return KitView{}, err
		}
		if err := do(tx, b, k); err != nil {
			return KitView{}, err
		}
		if b, err = s.Build(tx.DB, code); err != nil {
			return KitView{}, err
		}
		return s.kitView(tx.DB, b, k)
	})
}

// counted says whether the kit of an operation is counted and closed.
func (b buildRow) counted(k int) bool {
	if b.progress == nil {
		return b.KitCounted
	}
	return b.progress.Statuses[k].State == route.Done
}

// kitNamed is the kit of the operation that was named.
func kitNamed(operation string) func(tx *book.Tx, b buildRow) (int, error) {
	return func(_ *book.Tx, b buildRow) (int, error) { return b.progress.at(b.Number, operation, route.Kitting) }
}

// kitOfLabel is the kit that a cut ply belongs into.
func kitOfLabel(label string) func(tx *book.Tx, b buildRow) (int, error) {
	return func(tx *book.Tx, b buildRow) (int, error) {
		_, number, err := cutPlyOf(tx, b, label)
		if err != nil || b.progress == nil {
			return -1, err
		}
		k := b.progress.first(route.Kitting, b.progress.stageOf(number))
		if k < 0 {
			return k, book.NotHere.Errorf("no operation of the route counts a kit with ply %d", number)
		}
		return k, nil
	}
}

// CountPly counts one cut ply into the kit by its label. A ply of another kit
// and a label already counted are refused by name.
func (s *Room) CountPly(ctx context.Context, by book.By, code, label string) (KitView, error) {
	return s.changeKit(
		ctx,
		by,
		"count ply",
		code,
		label,
		kitOfLabel(label),
		func(tx *book.Tx, b buildRow, k int) error {
			c, number, err := cutPlyOf(tx, b, label)
			if err != nil {
				return err
			}
			if b.counted(k) {
				return book.Done.Errorf("this kit is already counted and closed")
			}
			if c.CountedAt != nil {
				return book.Done.Errorf(
					"%s, ply %d, is already counted: one label lies twice, or was scanned twice",
					c.Code,
					number,
				)
			}
			c.CountedAt, c.CountedBy = &tx.Now, tx.By.ID()
			if err := tx.Save(&c).Error; err != nil {
				return err
			}
			return tx.Log("ply counted", b.Code, "", map[string]any{"ply": number, "cutPly": c.Code})
		},
	)
}

// SetAside takes a counted ply out of the kit again, as when it was doubled.
func (s *Room) SetAside(ctx context.Context, by book.By, code, label string) (KitView, error) {
	return s.changeKit(
		ctx,
		by,
		"set aside",
		code,
		label,
		kitOfLabel(label),
		func(tx *book.Tx, b buildRow, k int) error {
			c, number, err := cutPlyOf(tx, b, label)
			if err != nil {
				return err
			}
			if b.counted(k) {
				return book.Done.Errorf("this kit is already counted and closed")
			}
			if c.CountedAt == nil {
				return book.NotNow.Errorf("%s is not counted into this kit", c.Code)
			}
			c.CountedAt, c.CountedBy = nil, nil
			if err := tx.Save(&c).Error; err != nil {
				return err
			}
			return tx.Log("ply set aside", b.Code, "", map[string]any{"ply": number, "cutPly": c.Code})
		},
	)
}

// cutPlyOf finds a cut ply by its label and makes sure it is this build's.
func cutPlyOf(tx *book.Tx, b buildRow, label string) (CutPly, int, error) {
	c, err := book.Find[CutPly](tx.DB, ident.CutPly, label, "cut ply")
	if err != nil {
		return c, 0, err
	}
	var at struct {
		Number              int
		Part, Serial, Build string
	}
	if err := tx.Raw(`select p.number, t.number as part, b.serial, b.code as build from plies p
		join revisions r on r.id = p.revision_id
		join parts t on t.id = r.part_id join builds b on b.id = ?
		where p.id = ?`, c.BuildID, c.PlyID).Scan(&at).Error; err != nil {
		return c, 0, err
	}
	if c.VoidAt != nil {
		return c, 0, book.NotNow.Errorf("%s, ply %d, was voided: %s. It is cut again", c.Code, at.Number, c.VoidWhy)
	}
	if c.BuildID != b.ID {
		return c, 0, book.NotNow.Errorf(
			"%s is ply %d of %s · %s, not of this kit",
			c.Code,
			at.Number,
			at.Part,
			at.Serial,
		)
	}
	return c, at.Number, nil
}

// CloseKit signs the count: every ply there, none twice, and every item besides. What the
// kit lies in may be said.
func (s *Room) CloseKit(ctx context.Context, by book.By, code, operation, container string) (KitView, error) {
	input, named := []string{operation, container}, kitNamed(operation)
	return s.changeKit(ctx, by, "close kit", code, input, named, func(tx *book.Tx, b buildRow, k int) error {
		if b.counted(k) {
			return book.Done.Errorf("this kit is already counted and closed")
		}
		v, err := s.kitView(tx.DB, b, k)
		if err != nil {
			return err
		}
		if len(v.Missing) > 0 {
			return book.Incomplete.Errorf("%s missing: find it or cut it again", PlyList(v.Missing))
		}
		if len(v.Doubled) > 0 {
			return book.Incomplete.Errorf("%s doubled: set one aside", PlyList(v.Doubled))
		}
		if left := v.uncounted(); len(left) > 0 {
			return book.Incomplete.Errorf("not counted yet: %s", strings.Join(left, "; "))
		}
		if b.progress != nil {
			if err := b.progress.turn(k); err != nil {
				return err
			}
			if err := tx.Create(&KitCount{
				BuildID: b.ID, Operation: b.progress.key(k), CountedAt: tx.Now, CountedBy: tx.By.Person.ID,
				Container: strings.TrimSpace(container),
			}).Error; err != nil {
				return err
			}
			return tx.Log("kit counted", b.Code, "", map[string]any{
				"plies": len(v.Plies), "items": len(v.Items), "container": container, "operation": b.progress.key(k),
				"says": v.At.Label,
			})
		}
		if err := tx.Model(&Build{ID: b.ID}).Updates(map[string]any{
			"kit_counted_at": tx.Now, "kit_counted_by": tx.By.ID(),
		}).Error; err != nil {
			return err
		}
		return tx.Log("kit counted", b.Code, "", map[string]any{"plies": len(v.Plies)})
	})
}

// MoveKit puts a kit into a freezer or takes it out. freezer may be 0 where
// there is only one.
func (s *Room) MoveKit(
	ctx context.Context,
	by book.By,
	code string,
	kind material.EventKind,
	freezer int64,
	operation string,
) (KitView, error) {
	input := []any{freezer, operation}
	named := kitNamed(operation)
	return s.changeKit(
		ctx,
		by,
		"move kit "+string(kind),
		code,
		input,
		named,
		func(tx *book.Tx, b buildRow, k int) error {
			v, err := s.kitView(tx.DB, b, k)
			if err != nil {
				return err
			}
			if !slices.ContainsFunc(v.Plies, func(p KitPly) bool { return len(p.Cut) > 0 }) {
				return book.NotNow.Errorf("nothing of this kit is cut yet")
			}
			if b.begunOn(v) {
				return book.Done.Errorf("plies of this kit are already on the tool")
			}
			if v.InFreezer == (kind == material.In) {
				return book.Done.Errorf("the kit is already there")
			}
			event := stock.FreezerEvent{
				BuildID:   &b.ID,
				Operation: b.progress.key(k),
				Kind:      string(kind),
				At:        tx.Now,
				EnteredAt: tx.Now,
				PersonID:  tx.By.Person.ID,
			}
			if kind == material.In {
				if err := climate.KnowsFreezer(tx, freezer); err != nil {
					return err
				}
				var all []climate.Freezer
				if err := tx.Select("id").Find(&all).Error; err != nil {
					return err
				}
				switch {
				case freezer != 0:
					event.FreezerID = &freezer
				case len(all) == 1:
					event.FreezerID = &all[0].ID
				case len(all) > 1:
					return book.Needed.At("freezerId", "say in which freezer the kit lies")
				}
			}
			if err := tx.Create(&event).Error; err != nil {
				return err
			}
			said := "kit taken out"
			if kind == material.In {
				said = "kit put back"
			}
			return tx.Log(said, b.Code, "", nil)
		},
	)
}

// carried is what a cut ply brought along of its roll.
func (c CutPly) carried() material.CarriedLife { return stock.Carried(c.Spent, c.More, c.Until) }

// begunOn says whether plies of a kit are on the tool already, or past it.
func (b buildRow) begunOn(v KitView) bool {
	if b.progress == nil {
		return !slices.Contains([]string{"cut", "kits", "layup"}, b.Room) || b.Laid > 0
	}
	return slices.ContainsFunc(v.Plies, func(p KitPly) bool { return b.progress.Progress.Done.Laid[p.Number] })
}
