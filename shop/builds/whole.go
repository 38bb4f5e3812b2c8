package builds

import (
	"slices"

	"gorm.io/gorm"

	"juxta/core/route"
)

// Whole is a build as its record tells it: all of its plies, whatever operation they were
// counted and laid in, and everything that was closed, in the order of its route.
type Whole struct {
	Layup LayupView
	Kit   KitView
	Bags  []BagView
	Unmet []StepView  // demands of the master that nobody signed as met
	Lays  []RouteStep // of a build that walks a route
	Forms []PreformView
	Runs  []string // codes of the last run of all that was heated
}

// WholeOf is a build as its record tells it.
func (s *Room) WholeOf(db *gorm.DB, code string) (Whole, error) {
	b, err := s.Build(db, code)
	if err != nil {
		return Whole{}, err
	}
	// All plies at once, but by the clocks that the kits of its route have.
	one := b
	one.walk = nil
	var w Whole
	if w.Layup, err = s.layupView(db, one, -1); err != nil {
		return w, err
	}
	if w.Kit, err = s.kitView(db, one, -1); err != nil {
		return w, err
	}
	w.Unmet = w.Layup.Unmet
	if b.walk == nil {
		bag, err := s.bagView(db, b, -1)
		w.Bags = []BagView{bag}
		if b.Run != "" {
			w.Runs = []string{b.Run}
		}
		return w, err
	}
	fuse, err := s.KitFuse(db, b)
	if err != nil {
		return w, err
	}
	if w.Kit.Items, err = s.allItems(db, b); err != nil {
		return w, err
	}
	w.Layup.Build.Fuse, w.Kit.Build.Fuse = fuse, fuse
	// What no operation lays, nobody could have signed at a bench.
	w.Unmet = slices.DeleteFunc(slices.Clone(w.Unmet), func(u StepView) bool { return b.walk.benchOfItem(u.Key) < 0 })
	var stages []string
	for _, stage := range b.walk.Stages {
		stages = append(stages, stage.Key)
	}
	if w.Forms, err = s.preforms(db, b, stages); err != nil {
		return w, err
	}
	for _, k := range b.walk.Order() {
		switch b.walk.Operations[k].Kind {
		case route.Laying, route.Joining:
			w.Lays = append(w.Lays, b.walk.Step(k))
		case route.Closing:
			bag, err := s.bagView(db, b, k)
			if err != nil {
				return w, err
			}
			w.Bags = append(w.Bags, bag)
		}
		// Two halves may have lain in one run.
		run := b.walk.Runs[b.walk.Operations[k].Key]
		if b.walk.Operations[k].Heats() && run.Code != "" && !slices.Contains(w.Runs, run.Code) {
			w.Runs = append(w.Runs, run.Code)
		}
	}
	return w, nil
}
