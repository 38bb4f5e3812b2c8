package builds

import (
	"fmt"
	"slices"

	"gorm.io/gorm"

	"juxta/core/layup"
	"juxta/core/progress"
	"juxta/core/route"
	"juxta/shop/parts"
)

// routeProgress are the builds among some with a route, by their ids. It takes as many
// queries for many builds as for one.
func (s *Room) routeProgress(db *gorm.DB, rows []buildRow) (map[int64]*RouteProgress, error) {
	out := map[int64]*RouteProgress{}
	var revisions []int64
	for _, r := range rows {
		if !slices.Contains(revisions, r.RevisionID) {
			revisions = append(revisions, r.RevisionID)
		}
	}
	routed, err := s.RoutedOf(db, revisions)
	if err != nil || len(routed) == 0 {
		return out, err
	}
	rules, err := s.rulesOf(db, routed)
	if err != nil {
		return nil, err
	}
	var ids []int64
	for _, r := range rows {
		if routed[r.RevisionID] != nil {
			ids = append(ids, r.ID)
		}
	}
	if len(ids) == 0 {
		return out, nil
	}
	happened, err := s.loadEvents(db, ids)
	if err != nil {
		return nil, err
	}
	for _, r := range rows {
		way := routed[r.RevisionID]
		if way == nil {
			continue
		}
		if out[r.ID], err = fold(way, rules[r.RevisionID], happened, r.ID); err != nil {
			return nil, fmt.Errorf("build %s: %w", r.Code, err)
		}
	}
	return out, nil
}

// fold reads the events of a build along the route of its revision.
func fold(way *parts.RevisionRoute, rules benchRules, happened recorded, id int64) (*RouteProgress, error) {
	plan := progress.Plan{Route: way.Route, Plies: make([]string, len(way.Plies)), Benches: rules.benches}
	for k, p := range way.Plies {
		plan.Plies[k] = p.Stage
	}
	events := happened.events[id]
	for k, e := range events {
		if at, laid := way.Benches[e.Item]; e.Kind == progress.DemandMet && laid {
			events[k].Operation = way.Operations[at].Key
		}
	}
	at, err := progress.Fold(plan, events)
	if err != nil {
		return nil, err
	}
	w := &RouteProgress{
		RevisionRoute: way.Along(at.Route, happened.reworks[id]), Progress: at, Statuses: at.Statuses,
		Lines: happened.lines[id], Reworked: len(happened.reworks[id]),
	}
	w.steps = make([]RouteStep, len(w.Operations))
	for n, k := range w.Order() {
		w.steps[k] = w.step(k, n+1)
		if w.Operations[k].Heats() {
			w.steps[k].Recipe = w.process(rules.process, k).Recipe.Name
		}
	}
	return w, nil
}

// benchRules are what the benches of a revision ask for, and its process.
type benchRules struct {
	process parts.Process
	benches map[string]progress.Bench
}

// rulesOf are the rules of the benches of revisions with a route.
func (s *Room) rulesOf(db *gorm.DB, routed map[int64]*parts.RevisionRoute) (map[int64]benchRules, error) {
	out := map[int64]benchRules{}
	var missing []int64
	for id := range routed {
		if known, there := s.rules.Load(id); there {
			out[id], _ = known.(benchRules)
			continue
		}
		missing = append(missing, id)
	}
	if len(missing) == 0 {
		return out, nil
	}
	var revisions []parts.Revision
	if err := db.Select("id", "process", "doc").Find(&revisions, missing).Error; err != nil {
		return nil, err
	}
	for _, r := range revisions {
		w := &RouteProgress{RevisionRoute: routed[r.ID]}
		rules := benchRules{process: r.Process, benches: map[string]progress.Bench{}}
		demands, says := demandsOf(*r.Doc)
		for k, o := range w.Operations {
			if o.Kind == route.Laying || o.Kind == route.Joining {
				rules.benches[o.Key] = w.benchPlan(r.Process, k, demands, says)
			}
		}
		s.rules.Store(r.ID, rules) // a build is to a released revision, which stays as it is
		out[r.ID] = rules
	}
	return out, nil
}

// benchPlan is what there is to do at the bench of an operation.
func (w *RouteProgress) benchPlan(
	of parts.Process, k int, demands []stageDemand, says map[layup.MetDemand]string,
) progress.Bench {
	return progress.Bench{
		Steps:   stepsOf(w.numbers(k), w.process(of, k).Debulks().Policy(), ofStages(demands, w.Lays(k))),
		Demands: says,
	}
}
