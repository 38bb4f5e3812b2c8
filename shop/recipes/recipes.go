package recipes

import (
	"context"
	"errors"
	"strings"
	"time"

	"gorm.io/gorm"

	"juxta/shop/book"
)

// RecipeIn saves a version of a recipe.
type RecipeIn struct {
	Name      string     `json:"name" minLength:"1" maxLength:"80"`
	Version   int        `json:"version" doc:"Newest that was looked at; 0: it is new" minimum:"0"`
	ResinID   int64      `json:"resinId"`
	Equipment string     `json:"equipment" minLength:"1" maxLength:"60" doc:"Name"`
	Plan      RecipePlan `json:"plan"`
}

// RecipeView is a version of a recipe.
type RecipeView struct {
	RecipeIn
	ID         int64      `json:"id"`
	State      string     `json:"state" enum:"draft,released,superseded"`
	Resin      string     `json:"resin"`
	WrittenBy  string     `json:"writtenBy,omitempty"`
	WrittenAt  time.Time  `json:"writtenAt"`
	ReleasedBy string     `json:"releasedBy,omitempty"`
	ReleasedAt *time.Time `json:"releasedAt,omitempty"`

	Since    []string        `json:"since,omitempty" doc:"Figures of its resin and its equipment that are newer than its release, or than a draft"`
	Versions []RecipeVersion `json:"versions,omitempty" doc:"All of them, newest first"`
	UsedBy   []RecipeUse     `json:"usedBy,omitempty" doc:"Revisions that are cured by it"`
}

// RecipeVersion is a version beside others.
type RecipeVersion struct {
	ID      int64  `json:"id"`
	Version int    `json:"version"`
	State   string `json:"state"`
}

// RecipeUse is a revision that is cured by a version of a recipe.
type RecipeUse struct {
	Code    string `json:"code" doc:"Of the part"`
	Number  string `json:"number"`
	Letter  string `json:"letter"`
	State   string `json:"state"`
	Version int    `json:"version" doc:"Of the recipe"`
}

// Recipes lists the newest version of every recipe, by name; released: the newest that was released.
func (s *Room) Recipes(ctx context.Context, released bool) ([]RecipeView, error) {
	return book.View(ctx, s.Book, func(db *gorm.DB) ([]RecipeView, error) {
		return s.recipes(db, `select distinct on (name) * from recipes where not @released or state = 'released'
			order by name, version desc`, map[string]any{"released": released})
	})
}

// RecipeByID is one version of a recipe.
func (s *Room) RecipeByID(ctx context.Context, id int64) (RecipeView, error) {
	return book.View(ctx, s.Book, func(db *gorm.DB) (RecipeView, error) { return s.recipe(db, id) })
}

// RecipeBeside is a version of a recipe held against another one.
type RecipeBeside struct {
	PlanDifference
	Version int `json:"version" doc:"Of the other one"`
}

// RecipeSince is what a recipe says otherwise than another one.
func (s *Room) RecipeSince(ctx context.Context, id, other int64) (RecipeBeside, error) {
	return book.View(ctx, s.Book, func(db *gorm.DB) (RecipeBeside, error) {
		both, err := book.ByID(db, []int64{id, other}, func(r Recipe) int64 { return r.ID })
		if err != nil {
			return RecipeBeside{}, err
		}
		is, found := both[id]
		was, there := both[other]
		if !found || !there {
			return RecipeBeside{}, book.NoSuch.Errorf("there is no such recipe")
		}
		out := RecipeBeside{is.Plan.Difference(was.Plan), was.Version}
		if is.Equipment != was.Equipment {
			out.Changes = append(out.Changes, "cured in "+is.Equipment+", was "+was.Equipment)
		}
		if is.ResinID != was.ResinID {
			out.Changes = append(out.Changes, "it cures another resin")
		}
		return out, nil
	})
}

// recipe is a version with the others beside it, and with what is made by it.
func (s *Room) recipe(db *gorm.DB, id int64) (RecipeView, error) {
	all, err := s.recipes(db, `select * from recipes where id = ?`, id)
	if err == nil && len(all) == 0 {
		err = book.NoSuch.Errorf("there is no such recipe")
	}
	if err != nil {
		return RecipeView{}, err
	}
	v := all[0]
	v.Versions = []RecipeVersion{}
	if err := db.Raw(`select id, version, state from recipes where name = ? order by version desc`,
		v.Name).Scan(&v.Versions).
		Error; err != nil {
		return v, err
	}
	v.UsedBy = []RecipeUse{}
	err = db.Raw(`select distinct p.code, p.number, r.letter, r.state, (used.released->>'version')::int as version
		from revisions r join parts p on p.id = r.part_id cross join lateral (
			select r.process->'from' as released
			union all select o->'heat'->'from' from jsonb_array_elements(r.doc->'route') o
		) used where used.released->>'name' = ? and r.state <> 'superseded'
		order by p.number, r.letter`, v.Name).Scan(&v.UsedBy).Error
	return v, err
}

func (s *Room) recipes(db *gorm.DB, query string, args ...any) ([]RecipeView, error) {
	var all []Recipe
	if err := db.Raw(query, args...).Scan(&all).Error; err != nil {
		return nil, err
	}
	names, err := s.Names(db)
	if err != nil {
		return nil, err
	}
	var ids []int64
	for _, r := range all {
		ids = append(ids, r.ResinID)
	}
	resins, err := book.ByID(db, ids, func(r Resin) int64 { return r.ID })
	if err != nil {
		return nil, err
	}
	since, err := NewerFigures(db, all)
	if err != nil {
		return nil, err
	}
	name := func(id *int64) string {
		if id == nil {
			return ""
		}
		return names[*id]
	}
	out := make([]RecipeView, len(all))
	for i, r := range all {
		out[i] = RecipeView{
			RecipeIn: RecipeIn{
				r.Name,
				r.Version,
				r.ResinID,
				r.Equipment,
				r.Plan,
			}, ID: r.ID, State: r.State, Resin: resins[r.ResinID].Name,
			WrittenBy: name(
				r.WrittenBy,
			), WrittenAt: r.WrittenAt, ReleasedBy: name(r.ReleasedBy), ReleasedAt: r.ReleasedAt,
			Since: since[r.ID],
		}
	}
	return out, nil
}

// SaveRecipe saves a recipe as a new version, a draft.
func (s *Room) SaveRecipe(ctx context.Context, by book.By, in RecipeIn) (RecipeView, error) {
	return book.Write(ctx, s.Book, by, book.WriteMaster, "save recipe", in, func(tx *book.Tx) (RecipeView, error) {
		if in.Name = strings.TrimSpace(in.Name); in.Name == "" {
			return RecipeView{}, book.Needed.At("name", "the recipe needs a name")
		}
		in.Plan.Recipe.Name = in.Name
		if _, _, err := s.CureOf(tx.DB, ForecastIn{ResinID: in.ResinID, Equipment: in.Equipment,
			Plan: in.Plan}); err != nil {
			return RecipeView{}, err
		}
		if err := in.Plan.Recipe.Check(); err != nil {
			return RecipeView{}, book.Wrong.At("recipe", "%s", err)
		}
		var last int
		if err := tx.Raw(`select coalesce(max(version), 0) from recipes where name = ?`,
			in.Name).Scan(&last).Error; err != nil {
			return RecipeView{}, err
		}
		if last != in.Version {
			if in.Version == 0 {
				return RecipeView{}, book.Taken.At("name", "there is already a recipe called %s", in.Name)
			}
			return RecipeView{}, book.Changed.Errorf(
				"somebody else has saved version %d of %s in the meantime: look at it first",
				last,
				in.Name,
			)
		}
		r := Recipe{
			Name: in.Name, Version: last + 1, State: "draft", ResinID: in.ResinID, Equipment: in.Equipment,
			Plan:      in.Plan,
			WrittenBy: tx.By.ID(), WrittenAt: tx.Now,
		}
		if err := tx.Create(&r).Error; errors.Is(err, gorm.ErrDuplicatedKey) {
			return RecipeView{}, book.Changed.Errorf(
				"somebody else has saved %s at the same moment: look at it first",
				in.Name,
			)
		} else if err != nil {
			return RecipeView{}, err
		}
		if err := tx.Log("recipe saved", r.Name, "", map[string]any{"version": r.Version, "plan": r.Plan}); err != nil {
			return RecipeView{}, err
		}
		return s.recipe(tx.DB, r.ID)
	})
}

// ReleaseRecipe releases a draft; who wrote it does not. The version that was released before is superseded.
func (s *Room) ReleaseRecipe(ctx context.Context, by book.By, id int64, pin string) (RecipeView, error) {
	by, err := s.Signed(ctx, by, book.ReleaseMaster, pin)
	if err != nil {
		return RecipeView{}, err
	}
	return book.Write(ctx, s.Book, by, book.ReleaseMaster, "release recipe", id, func(tx *book.Tx) (RecipeView, error) {
		var r Recipe
		if err := book.Locked(tx.DB).Take(&r, id).Error; errors.Is(err, gorm.ErrRecordNotFound) {
			return RecipeView{}, book.NoSuch.Errorf("there is no such recipe")
		} else if err != nil {
			return RecipeView{}, err
		}
		var last int
		if err := tx.Raw(`select max(version) from recipes where name = ?`, r.Name).Scan(&last).Error; err != nil {
			return RecipeView{}, err
		}
		switch {
		case r.State != "draft":
			return RecipeView{}, book.Done.Errorf("version %d of %s is %s already", r.Version, r.Name, r.State)
		case r.Version != last:
			return RecipeView{}, book.Changed.Errorf("there is a version %d of %s: release that one", last, r.Name)
		case by.Person != nil && r.WrittenBy != nil && *r.WrittenBy == by.Person.ID:
			return RecipeView{}, book.Second.Errorf(
				"you wrote this recipe: a second person has to look at it and release it",
			)
		}
		if err := tx.Exec(`update recipes set state = 'superseded' where name = ? and state = 'released'`,
			r.Name).Error; err != nil {
			return RecipeView{}, err
		}
		if err := tx.Exec(`update recipes set state = 'released', released_by = ?, released_at = ? where id = ?`,
			tx.By.ID(), tx.Now, id).
			Error; err != nil {
			return RecipeView{}, err
		}
		if err := tx.Log("recipe released", r.Name, "", map[string]any{
			"version": r.Version, "meaning": "released", "role": tx.Role(),
		}); err != nil {
			return RecipeView{}, err
		}
		return s.recipe(tx.DB, id)
	})
}
