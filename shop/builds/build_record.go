package builds

import (
	"slices"

	"gorm.io/gorm"

	"juxta/core/route"
)

// BuildRecord is a build as its record tells it: all of its plies, whatever operation they were
// counted and laid in, and everything that was closed, in the order of its route.
type BuildRecord struct {
	Layup LayupView
	Kit   KitView
	Bags  []BagView
	Unmet []StepView  // demands of the master that nobody signed as met
	Lays  []RouteStep // of a build with a route
	Forms []PreformView
	Runs  []string // codes of the last run of all that was heated
	// AllRuns are the codes of every run that it was in, stopped and failed ones too, in the order they began.
	AllRuns []string
}

// BuildRecord is a build as its record tells it.
func (s *Room) BuildRecord(db *gorm.DB, code string) (BuildRecord, error) {
	b, err := s.Build(db, code)
	if err != nil {
		return BuildRecord{}, err
	}
	// All plies at once, but by the clocks that the kits of its route have.
	one := b
	one.progress = nil
	var w BuildRecord
	if w.Layup, err = s.layupView(db, one, -1); err != nil {
		return w, err
	}
	if w.Kit, err = s.kitView(db, one, -1); err != nil {
		return w, err
	}
	w.Unmet = w.Layup.Unmet
	if err := db.Raw(`select h.code from runs h where h.id in (select run_id from run_builds where build_id = ?)
		order by h.id`, b.ID).Scan(&w.AllRuns).Error; err != nil {
		return w, err
	}
	if b.progress == nil {
		bag, err := s.bagView(db, b, -1)
		w.Bags = []BagView{bag}
		if b.Run != "" {
			w.Runs = []string{b.Run}
		}
		return w, err
	}
	outTime, err := s.KitOutTime(db, b)
	if err != nil {
		return w, err
	}
	if w.Kit.Items, err = s.allItems(db, b); err != nil {
		return w, err
	}
	w.Layup.Build.OutTime, w.Kit.Build.OutTime = outTime, outTime
	// What no operation lays, nobody could have signed at a bench.
	w.Unmet = slices.DeleteFunc(
		slices.Clone(w.Unmet),
		func(u StepView) bool { return b.progress.benchOfItem(u.Key) < 0 },
	)
	var stages []string
	for _, stage := range b.progress.Stages {
		stages = append(stages, stage.Key)
	}
	if w.Forms, err = s.preforms(db, b, stages); err != nil {
		return w, err
	}
	for _, k := range b.progress.Order() {
		switch b.progress.Operations[k].Kind {
		case route.Laying, route.Joining:
			w.Lays = append(w.Lays, b.progress.Step(k))
		case route.Closing:
			bag, err := s.bagView(db, b, k)
			if err != nil {
				return w, err
			}
			w.Bags = append(w.Bags, bag)
		}
		// Two halves may have lain in one run.
		run, _ := b.progress.Progress.LastRun(k)
		if b.progress.Operations[k].Heats() && run.Code != "" && !slices.Contains(w.Runs, run.Code) {
			w.Runs = append(w.Runs, run.Code)
		}
	}
	return w, nil
}
