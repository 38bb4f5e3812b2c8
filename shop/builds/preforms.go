package builds

import (
	"context"
	"slices"

	"gorm.io/gorm"

	"juxta/calc"
	"juxta/core/ident"
	"juxta/core/route"
	"juxta/shop/book"
)

// Preform is a pre-form of a build: a thing with a label of its own from the start of the
// build, laid apart and joined with others.
type Preform struct {
	ID      int64
	Code    string
	BuildID int64
	Stage   string // its key in the document
}

// PreformView is a pre-form as the bench shows it.
type PreformView struct {
	Code    string              `json:"code" doc:"Its label"`
	Stage   string              `json:"stage" doc:"Its key"`
	Name    string              `json:"name"`
	Laid    bool                `json:"laid"`
	Joined  bool                `json:"joined"`
	OutTime *calc.OutTimeStatus `json:"outTime,omitempty" doc:"Its worst ply"`
	Old     string              `json:"old,omitempty" doc:"Why it is too old to be joined"`
	Serial  string              `json:"serial"`
	Number  string              `json:"number" doc:"Of the part"`
}

// preformsOf gives every pre-form of a new build that is joined to others its label.
func (s *Room) preformsOf(tx *book.Tx, buildID, revisionID int64) error {
	routed, err := s.RoutedOf(tx.DB, []int64{revisionID})
	if err != nil || routed[revisionID] == nil {
		return err
	}
	way := routed[revisionID]
	for k := range way.Operations {
		for _, stage := range way.Joins(k) {
			id, code, err := book.NextCode(tx.DB, "preforms", ident.Preform)
			if err != nil {
				return err
			}
			if err := tx.Create(&Preform{ID: id, Code: code, BuildID: buildID, Stage: stage}).Error; err != nil {
				return err
			}
		}
	}
	return nil
}

// preforms are the pre-forms of some stages of a build.
func (s *Room) preforms(db *gorm.DB, b buildRow, stages []string) ([]PreformView, error) {
	if len(stages) == 0 {
		return nil, nil
	}
	var found []Preform
	if err := db.Where("build_id = ? and stage in ?", b.ID, stages).Order("id").Find(&found).Error; err != nil {
		return nil, err
	}
	var out []PreformView
	for _, f := range found {
		v := PreformView{
			Code: f.Code, Stage: f.Stage, Name: b.progress.stageName(f.Stage), Serial: b.Serial, Number: b.Number,
			Laid: b.progress.laid(f.Stage), Joined: b.progress.joined(f.Stage),
		}
		var err error
		if v.OutTime, err = s.KitOutTime(db, b, f.Stage); err != nil {
			return nil, err
		}
		if v.OutTime != nil && !v.Joined {
			if old := v.OutTime.Core().TooOldToJoin(); old != nil {
				v.Old = old.Error()
			}
		}
		out = append(out, v)
	}
	return out, nil
}

// PreformOf is a pre-form by its label.
func (s *Room) PreformOf(ctx context.Context, code string) (PreformView, error) {
	return book.View(ctx, s.Book, func(db *gorm.DB) (PreformView, error) {
		f, err := book.Find[Preform](db, ident.Preform, code, "pre-form")
		if err != nil {
			return PreformView{}, err
		}
		var of Build
		if err := db.Select("code").Take(&of, f.BuildID).Error; err != nil {
			return PreformView{}, err
		}
		b, err := s.Build(db, of.Code)
		if err != nil {
			return PreformView{}, err
		}
		all, err := s.preforms(db, b, []string{f.Stage})
		if err != nil {
			return PreformView{}, err
		}
		return all[0], nil
	})
}

// PreformsFor are the pre-forms that a join of a build brings together.
func (s *Room) PreformsFor(db *gorm.DB, b buildRow, operation string) ([]PreformView, error) {
	if b.progress == nil || b.progress.Index(operation) < 0 {
		return nil, book.NotHere.At("operation", "%s has no operation %q", b.Number, operation)
	}
	return s.preforms(db, b, b.progress.Joins(b.progress.Index(operation)))
}

// LastReading is what the part read last in its last run, K: by its lagging sensor, or by
// whichever was left; nil if there was none.
func (s *Room) LastReading(db *gorm.DB, code string) (*float64, error) {
	var found []*float64
	err := db.Raw(`select coalesce(x.lag, x.lead, x.tool) from samples x
		where x.run_id = (select max(rb.run_id) from run_builds rb join builds b on b.id = rb.build_id where b.code = ?)
		order by x.t desc limit 1`, code).Scan(&found).Error
	if err != nil || len(found) == 0 {
		return nil, err
	}
	return found[0], nil
}

// stageName is what a stage is called.
func (w *RouteProgress) stageName(key string) string {
	for _, s := range w.Stages {
		if s.Key == key {
			return s.Called()
		}
	}
	return key
}

// laid says whether every lay of a stage is done.
func (w *RouteProgress) laid(stage string) bool {
	k := w.first(route.Laying, stage)
	return k >= 0 && slices.Contains([]route.State{route.Done, route.LeftOut}, w.Statuses[k].State)
}

// joined says whether a stage is joined to others already.
func (w *RouteProgress) joined(stage string) bool {
	k := w.first(route.Joining, stage)
	return k >= 0 && w.Statuses[k].State == route.Done
}
