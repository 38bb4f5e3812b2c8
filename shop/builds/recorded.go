package builds

import (
	"fmt"
	"slices"
	"strconv"
	"strings"
	"time"

	"gorm.io/gorm"

	"juxta/core/layup"
	"juxta/core/master"
	"juxta/core/route"
	"juxta/shop/book"
	"juxta/shop/parts"
)

// LastRecorded is when something was recorded of an operation, and by whom.
type LastRecorded struct {
	At time.Time
	By string
}

// noteRecorded keeps what was recorded first and last of an operation.
func (w *RouteProgress) noteRecorded(key string, at *time.Time, by string) {
	if at == nil {
		return
	}
	if !at.Before(w.Last[key].At) {
		w.Last[key] = LastRecorded{*at, by}
	}
	if first, there := w.Records.Begun[key]; !there || at.Before(first) {
		w.Records.Begun[key] = *at
	}
}

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
	var ids []int64
	for _, r := range rows {
		way, there := routed[r.RevisionID]
		if !there {
			continue
		}
		ids = append(ids, r.ID)
		out[r.ID] = &RouteProgress{
			RevisionRoute: way, Lines: map[string]SignedLine{}, Runs: map[string]OperationRun{},
			Last: map[string]LastRecorded{},
			Done: layup.Done{Laid: map[int]bool{}, Debulks: map[int]bool{}, Met: map[layup.MetDemand]bool{}},
			Records: route.Records{
				Signed: map[string]route.RecordedStatus{}, Stages: map[string]route.Plies{}, Counted: map[string]bool{},
				Benches: map[string]route.Bench{}, Closed: map[string]bool{}, Runs: map[string]route.RunState{},
				Begun:    map[string]time.Time{},
				Released: r.Outcome != "",
			},
		}
	}
	if len(ids) == 0 {
		return out, nil
	}
	if err := loadRecorded(db, ids, out); err != nil {
		return nil, err
	}
	if err := reworked(db, ids, out); err != nil {
		return nil, err
	}
	rules, err := s.rulesOf(db, rows, out)
	if err != nil {
		return nil, err
	}
	for _, r := range rows {
		if w := out[r.ID]; w != nil {
			w.setStatuses(rules[r.RevisionID])
		}
	}
	return out, nil
}

// loadRecorded loads what the rooms recorded of builds.
func loadRecorded(db *gorm.DB, ids []int64, out map[int64]*RouteProgress) error {
	// Read row by row: there are some for every ply of every build.
	facts, err := db.Raw(`select c.build_id, 'cut' as what, string_agg(distinct p.number::text, ',') as key, 0 as ply,
			true as met, c.cut_at as at, '' as person
			from cut_plies c join plies p on p.id = c.ply_id where c.build_id = any(@ids) group by c.build_id, c.cut_at
		union all select l.build_id, 'laid', '', p.number, true, l.at, w.name from ply_records l
			join plies p on p.id = l.ply_id join people w on w.id = l.person_id
			where l.build_id = any(@ids) and l.taken_back_at is null
		union all select build_id, 'debulk', '', after_ply, true, null, '' from debulks where build_id = any(@ids)
		and counts
		union all select build_id, kind, item_key, ply, true, null, '' from marks
			where build_id = any(@ids) and void_at is null
		union all select k.build_id, 'counted', k.operation, 0, true, k.counted_at, w.name from kit_counts k
			join people w on w.id = k.counted_by where k.build_id = any(@ids)
		union all select g.build_id, 'closed', g.operation, 0, not g.needs_check or coalesce((select k.pass
		from leak_checks k
			where k.build_id = g.build_id and k.operation = g.operation order by k.id desc
			limit 1), false), g.closed_at, w.name
			from bags g join people w on w.id = g.closed_by
			where g.build_id = any(@ids)
		union all select k.build_id, 'checked', k.operation, 0, k.pass, k.at, w.name from leak_checks k
			join people w on w.id = k.person_id
			where k.build_id = any(@ids)`, map[string]any{"ids": book.IDs(ids)}).Rows()
	if err != nil {
		return err
	}
	defer facts.Close()
	cut := map[int64]map[int]bool{}
	for facts.Next() {
		var build int64
		var what, key, person string
		var ply int
		var met bool
		var at *time.Time
		if err := facts.Scan(&build, &what, &key, &ply, &met, &at, &person); err != nil {
			return err
		}
		w := out[build]
		switch what {
		case "cut":
			if cut[build] == nil {
				cut[build] = map[int]bool{}
			}
			for number := range strings.SplitSeq(key, ",") {
				n, err := strconv.Atoi(number)
				if err != nil {
					return err
				}
				cut[build][n] = true
				w.noteRecorded(w.key(w.first(route.Cutting, w.stageOf(n))), at, person)
			}
		case "laid":
			w.Done.Laid[ply] = true
			w.noteRecorded(w.key(w.benchOf(ply)), at, person)
		case "debulk":
			w.Done.Debulks[ply] = true
		case "counted":
			w.Records.Counted[key] = true
			w.noteRecorded(key, at, person)
		case "closed":
			w.Records.Closed[key] = met
			w.noteRecorded(key, at, person)
		case "checked":
			w.noteRecorded(key, at, person)
		default:
			w.Done.Met[layup.MetDemand{Kind: what, Key: key}] = true
		}
	}
	if err := facts.Err(); err != nil {
		return err
	}
	for build, plies := range cut {
		w := out[build]
		for n := range plies {
			if stage := w.stageOf(n); stage != "" {
				at := w.Records.Stages[stage]
				at.Cut++
				w.Records.Stages[stage] = at
			}
		}
	}
	var runs []struct {
		BuildID      int64
		Operation    string
		OperationRun `gorm:"embedded"`
	}
	if err := db.Raw(`select distinct on (rb.build_id, rb.operation) rb.build_id, rb.operation, h.code, h.state,
		h.started_at, coalesce((h.verdict->>'cure')::float8, 0) as cure
		from run_builds rb join runs h on h.id = rb.run_id where rb.build_id = any(?)
		order by rb.build_id, rb.operation, h.id desc`, book.IDs(ids)).Scan(&runs).Error; err != nil {
		return err
	}
	for _, r := range runs {
		w := out[r.BuildID]
		w.Runs[r.Operation] = r.OperationRun
		w.noteRecorded(r.Operation, r.StartedAt, "")
		if r.State == "queued" {
			r.State = string(route.Running)
		}
		w.Records.Runs[r.Operation] = route.RunState(r.State)
	}
	for _, w := range out {
		w.Records.Latest = map[string]time.Time{}
		for key, last := range w.Last {
			w.Records.Latest[key] = last.At
		}
	}
	var lines []SignedLine
	if err := db.Raw(`select distinct on (l.build_id, l.operation) l.*, p.name as person,
			coalesce(q.name, '') as second_name
		from operation_lines l join people p on p.id = l.person_id left join people q on q.id = l.second_id
		where l.build_id = any(?)
		order by l.build_id, l.operation, l.id desc`, book.IDs(ids)).Scan(&lines).Error; err != nil {
		return err
	}
	for _, l := range lines {
		if w := out[l.BuildID]; l.State != "taken back" {
			w.Lines[l.Operation] = l
			w.noteRecorded(l.Operation, &l.At, l.Person)
			w.Records.Signed[l.Operation] = route.RecordedStatus{
				State:  route.State(l.State),
				By:     l.Person,
				At:     l.At,
				Reason: l.Reason,
			}
		}
	}
	return nil
}

// demands of a revision's benches, and its process.
type benchRules struct {
	process parts.Process
	demands []stageDemand
}

// setStatuses works out where the operations stand from what was recorded.
func (w *RouteProgress) setStatuses(rules benchRules) {
	for _, p := range w.Plies {
		at := w.Records.Stages[p.Stage]
		at.Plies++
		w.Records.Stages[p.Stage] = at
	}
	for k, o := range w.Operations {
		if o.Kind != route.Laying && o.Kind != route.Joining {
			continue
		}
		steps := stepsOf(
			w.numbers(k),
			w.process(rules.process, k).Debulks().Policy(),
			ofStages(rules.demands, w.Lays(k)),
		)
		if len(steps) == 0 {
			continue
		}
		_, open := layup.Next(steps, w.Done)
		begun := slices.ContainsFunc(steps, func(s layup.Step) bool { return w.Done.Did(s) })
		w.Records.Benches[o.Key] = route.Bench{Begun: begun, Done: !open}
	}
	w.Recorded = w.Route.RecordedStatuses(w.Records)
	w.Statuses = w.Route.Statuses(w.Recorded)
	w.steps = make([]RouteStep, len(w.Operations))
	for n, k := range w.Order() {
		w.steps[k] = w.step(k, n+1)
		if w.Operations[k].Heats() {
			w.steps[k].Recipe = w.process(rules.process, k).Recipe.Name
		}
	}
}

// Rework is an operation that quality added to one build alone.
type Rework struct {
	ID        int64
	BuildID   int64
	Operation master.Operation `gorm:"serializer:json"`
	Before    []string         `gorm:"serializer:json"`
	Reason    string
	PersonID  int64
	SecondID  int64
	At        time.Time
}

// reworked adds the operations to the routes of builds that were added to these alone.
func reworked(db *gorm.DB, ids []int64, out map[int64]*RouteProgress) error {
	var all []Rework
	if err := db.Where("build_id = any(?)", book.IDs(ids)).Order("id").Find(&all).Error; err != nil {
		return err
	}
	added, before := map[int64][]master.Operation{}, map[int64]map[string][]string{}
	for _, r := range all {
		added[r.BuildID] = append(added[r.BuildID], r.Operation)
		if before[r.BuildID] == nil {
			before[r.BuildID] = map[string][]string{}
		}
		before[r.BuildID][r.Operation.Key] = r.Before
	}
	for id, operations := range added {
		with, faults := out[id].With(operations, before[id], nil)
		if len(faults) > 0 {
			return fmt.Errorf("the reworks of a build: %w", faults[0])
		}
		out[id].RevisionRoute, out[id].Reworked = with, len(operations)
	}
	return nil
}
