package parts

import (
	"fmt"
	"slices"

	"gorm.io/gorm"

	"juxta/core/master"
	"juxta/core/route"
)

// RevisionRoute is a released revision whose builds walk the operations of its route.
type RevisionRoute struct {
	*route.Route
	Planned []master.Operation // in the order of the route's own
	Plies   []RoutePly         // by number
	Benches map[string]int     // places of the operations that lay the items, by their keys
}

// RoutePly is a ply and the stage that it belongs to.
type RoutePly struct {
	Number int
	Stage  string
	Bench  int // place in the list of the operation that lays it; -1: none
}

// Label is what an operation is called.
func (r *RevisionRoute) Label(k int) string { return r.Operations[k].Label(r.Stages) }

// Along is the route of one build, to which operations of its own were added.
func (r *RevisionRoute) Along(with *route.Route, added []master.Operation) *RevisionRoute {
	if len(added) == 0 {
		return r
	}
	out := *r // what is added lays nothing, and stands behind all others
	out.Route, out.Planned = with, append(slices.Clone(r.Planned), added...)
	return &out
}

// routedOf reads the route of a document; nil if it has none, or none that can be walked
// (a release checks that).
func routedOf(d *master.Document) (*RevisionRoute, error) {
	if d == nil || len(d.Route) == 0 {
		return nil, nil
	}
	ordered, faults := d.Ordered()
	if len(faults) > 0 {
		return nil, fmt.Errorf("its route: %w", faults[0])
	}
	out := &RevisionRoute{Route: ordered, Planned: d.Route, Benches: map[string]int{}}
	bench := map[string]int{}
	for k := range ordered.Operations {
		for _, stage := range ordered.Lays(k) {
			if _, first := bench[stage]; !first {
				bench[stage] = k
			}
		}
	}
	for _, s := range d.Stages {
		at, laid := bench[s.Key]
		if !laid {
			at = -1
		}
		for _, i := range s.Items {
			if laid {
				out.Benches[i.Key] = at
			}
			if i.Kind == master.Ply {
				out.Plies = append(out.Plies, RoutePly{Number: len(out.Plies) + 1, Stage: s.Key, Bench: at})
			}
		}
	}
	return out, nil
}

// RoutedOf are the routes of released revisions by their ids, without those that have
// none. A released revision stays as it is, so each is read once.
func (s *Room) RoutedOf(db *gorm.DB, ids []int64) (map[int64]*RevisionRoute, error) {
	out := map[int64]*RevisionRoute{}
	var missing []int64
	for _, id := range ids {
		if known, there := s.routed.Load(id); there {
			if r, _ := known.(*RevisionRoute); r != nil {
				out[id] = r
			}
			continue
		}
		missing = append(missing, id)
	}
	if len(missing) == 0 {
		return out, nil
	}
	var revisions []Revision
	if err := db.Select("id", "letter", "doc", "state").Find(&revisions, missing).Error; err != nil {
		return nil, err
	}
	for _, r := range revisions {
		routed, err := routedOf(r.Doc)
		if err != nil {
			return nil, fmt.Errorf("revision %d, %s: %w", r.ID, r.Letter, err)
		}
		if r.State == "released" || r.State == "superseded" {
			s.routed.Store(r.ID, routed)
		}
		if routed != nil {
			out[r.ID] = routed
		}
	}
	return out, nil
}
