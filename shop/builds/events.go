package builds

import (
	"cmp"
	"slices"
	"strconv"
	"strings"
	"time"

	"gorm.io/gorm"

	"juxta/core/master"
	"juxta/core/progress"
	"juxta/shop/book"
)

// recorded is what the tables keep of builds with routes, as events in their order, by build.
type recorded struct {
	events  map[int64][]progress.Event
	lines   map[int64]map[string]SignedLine // the last of an operation that was not taken back
	reworks map[int64][]master.Operation
}

// lineKinds are what the states of lines of operations are as events.
var lineKinds = map[string]progress.Kind{
	"in work": progress.Begun, "held": progress.Held, "not good": progress.NotGood, "done": progress.Signed,
	"left out": progress.LeftOut, "taken back": progress.TakenBack,
}

// runKinds are what the states of runs that are over are as events.
var runKinds = map[string]progress.Kind{
	"finished": progress.RunEnded, "stopped": progress.RunStopped, "failed": progress.RunFailed,
}

// factsQuery reads what the tables of the rooms keep. What there is some of for every ply of every build comes as one
// list a cut or a build, not row by row: there are a hundred of them for every other row.
const factsQuery = `select c.build_id, 'ply cut' as kind, 1 as rank, min(c.id) as n, c.cut_at as at, c.cut_by as who,
		'' as operation, string_agg(p.number || ' ' || c.code, ',' order by c.id) as key, 0 as ply, true as met,
		'' as reason
		from cut_plies c join plies p on p.id = c.ply_id where c.build_id = any(@ids)
		group by c.build_id, c.cut_at, c.cut_by
	union all select c.build_id, 'ply counted', 2, min(c.id), c.counted_at, c.counted_by, '',
		string_agg(p.number || ' ' || c.code, ',' order by c.id), 0, true, ''
		from cut_plies c join plies p on p.id = c.ply_id where c.build_id = any(@ids) and c.counted_at is not null
		group by c.build_id, c.counted_at, c.counted_by
	union all select c.build_id, 'ply voided', 4, c.id, c.void_at, c.void_by, '', c.code, p.number, true, c.void_why
		from cut_plies c join plies p on p.id = c.ply_id where c.build_id = any(@ids) and c.void_at is not null
	union all select k.build_id, 'kit counted', 3, k.id, k.counted_at, k.counted_by, k.operation, '', 0, true, ''
		from kit_counts k where k.build_id = any(@ids)
	union all select l.build_id, 'ply laid', 6, 0, min(l.at), null, '', string_agg(p.number || ' ' || c.code || ' ' ||
		(extract(epoch from l.at) * 1000000)::bigint || ' ' || l.person_id || ' ' ||
		greatest(0, m.films - l.films_off) || ' ' || l.id, ','), 0, true, ''
		from ply_records l join plies p on p.id = l.ply_id join cut_plies c on c.id = l.cut_ply_id
		join materials m on m.id = p.material_id where l.build_id = any(@ids) group by l.build_id
	union all select l.build_id, 'ply taken back', 6, 2 * l.id + 1, l.taken_back_at, l.taken_back_by, '', '', p.number,
		true, l.reason from ply_records l join plies p on p.id = l.ply_id
		where l.build_id = any(@ids) and l.taken_back_at is not null
	union all select build_id, 'demand met', 7, id, at, person_id, kind, item_key, ply, true, ''
		from marks where build_id = any(@ids) and (void_at is null or void_at > at)
	union all select build_id, 'debulk begun', 8, 2 * id, started_at, started_by, operation, '', after_ply, true, ''
		from debulks where build_id = any(@ids)
	union all select build_id, 'debulk ended', 8, 2 * id + 1, ended_at, ended_by, operation, '', after_ply, counts, says
		from debulks where build_id = any(@ids) and ended_at is not null
	union all select build_id, 'bag closed', 9, 0, closed_at, closed_by, operation, '', 0, needs_check, ''
		from bags where build_id = any(@ids)
	union all select build_id, 'leak checked', 11, id, at, person_id, operation, '', 0, pass, says
		from leak_checks where build_id = any(@ids)
	union all select build_id, 'released', 14, id, at, person_id, '', disposition, 0, true, reason
		from releases where build_id = any(@ids)
	union all select id, 'ended', 15, id, ended_at, ended_by, '', '', 0, true, ended_why
		from builds where id = any(@ids) and ended_at is not null`

// loadEvents reads what was recorded of builds, in as many queries for many as for one. What happened at one and the
// same moment stays in the order of the work.
func (s *Room) loadEvents(db *gorm.DB, ids []int64) (recorded, error) {
	out := recorded{
		events: map[int64][]progress.Event{}, lines: map[int64]map[string]SignedLine{},
		reworks: map[int64][]master.Operation{},
	}
	names, err := s.Names(db)
	if err != nil {
		return out, err
	}
	named := func(id *int64) string {
		if id == nil {
			return ""
		}
		return names[*id]
	}
	if err := out.loadReworks(db, ids, names); err != nil {
		return out, err
	}
	rows, err := db.Raw(factsQuery, map[string]any{"ids": book.IDs(ids)}).Rows()
	if err != nil {
		return out, err
	}
	defer rows.Close()
	facts := map[int64][]fact{}
	for rows.Next() {
		var build int64
		var who *int64
		var rank, n int64
		var key string
		var e progress.Event
		if err := rows.Scan(&build, &e.Kind, &rank, &n, &e.At, &who, &e.Operation, &key, &e.Ply, &e.Met,
			&e.Reason); err != nil {
			return out, err
		}
		e.At, e.Who = e.At.Local(), named(who) // a refusal says when, by the clock of the shop
		all, err := told(fact{e, rank, n}, key, names)
		if err != nil {
			return out, err
		}
		facts[build] = append(facts[build], all...)
	}
	if err := rows.Err(); err != nil {
		return out, err
	}
	for build, of := range facts {
		slices.SortFunc(of, func(a, b fact) int {
			return cmp.Or(a.At.Compare(b.At), cmp.Compare(a.rank, b.rank), cmp.Compare(a.n, b.n))
		})
		for _, f := range of {
			out.events[build] = append(out.events[build], f.Event)
		}
	}
	if err := out.loadRuns(db, ids, named); err != nil {
		return out, err
	}
	if err := out.loadLines(db, ids); err != nil {
		return out, err
	}
	for _, events := range out.events {
		slices.SortStableFunc(events, func(a, b progress.Event) int { return a.At.Compare(b.At) })
	}
	return out, nil
}

// fact is an event with what orders it among those of the same moment: the work that its table is of, and its number
// there.
type fact struct {
	progress.Event
	rank, n int64
}

// told are the events that a row tells; what key means goes by the kind.
func told(e fact, key string, names map[int64]string) ([]fact, error) {
	switch e.Kind {
	case progress.PlyCut, progress.PlyCounted, progress.PlyLaid:
		var out []fact
		for text := range strings.SplitSeq(key, ",") {
			one, words := e, strings.Fields(text)
			one.Met, one.Label = false, words[1]
			var err error
			if one.Ply, err = strconv.Atoi(words[0]); err != nil {
				return nil, err
			}
			if e.Kind == progress.PlyLaid {
				var v [4]int64 // when, by whom, films missing, number of the record
				for k := range v {
					if v[k], err = strconv.ParseInt(words[2+k], 10, 64); err != nil {
						return nil, err
					}
				}
				one.At, one.Who, one.Films, one.n = time.UnixMicro(v[0]), names[v[1]], int(v[2]), 2*v[3]
			}
			out = append(out, one)
		}
		return out, nil
	case progress.PlyVoided:
		e.Label = key
	case progress.DemandMet:
		e.Point, e.Item, e.Operation = e.Operation, key, ""
	case progress.BagClosed:
		e.Vacuum = e.Met
	case progress.Released:
		e.Says = key
	}
	if !slices.Contains([]progress.Kind{progress.DebulkEnded, progress.LeakChecked}, e.Kind) {
		e.Met = false
	}
	return []fact{e}, nil
}

// loadRuns adds the runs that builds were in. One that is queued has begun for its build.
func (r *recorded) loadRuns(db *gorm.DB, ids []int64, named func(id *int64) string) error {
	var runs []struct {
		BuildID     int64
		Operation   string
		Code, State string
		StartedBy   *int64
		Began       time.Time
		EndedAt     *time.Time
		Cure        float64
		Met         bool
		Lasts       *float64
		Message     string
	}
	if err := db.Raw(`select rb.build_id, rb.operation, h.code, h.state, h.started_by,
		coalesce(h.started_at, h.created_at) as began, h.ended_at, h.says as message,
		coalesce((h.verdict->>'cure')::float8, 0) as cure, coalesce((h.verdict->>'met')::boolean, false) as met,
		case when h.state in ('queued', 'running') then (h.foreseen->>'duration')::float8 end as lasts
		from run_builds rb join runs h on h.id = rb.run_id where rb.build_id = any(?) order by h.id`,
		book.IDs(ids)).Scan(&runs).Error; err != nil {
		return err
	}
	for _, h := range runs {
		e := progress.Event{
			Kind: progress.RunBegun, At: h.Began, Who: named(h.StartedBy), Operation: h.Operation, Run: h.Code,
		}
		if h.Lasts != nil {
			until := h.Began.Add(time.Duration(*h.Lasts * float64(time.Second)))
			e.Until = &until
		}
		r.events[h.BuildID] = append(r.events[h.BuildID], e)
		kind, over := runKinds[h.State]
		if !over {
			continue
		}
		if e.Kind, e.Until, e.Cure, e.Met, e.Reason = kind, nil, h.Cure, h.Met, h.Message; h.EndedAt != nil {
			e.At = *h.EndedAt
		}
		r.events[h.BuildID] = append(r.events[h.BuildID], e)
	}
	return nil
}

// loadLines adds what was signed of operations.
func (r *recorded) loadLines(db *gorm.DB, ids []int64) error {
	var lines []SignedLine
	if err := db.Raw(`select l.*, p.name as person, coalesce(q.name, '') as second_name
		from operation_lines l join people p on p.id = l.person_id left join people q on q.id = l.second_id
		where l.build_id = any(?) order by l.id`, book.IDs(ids)).Scan(&lines).Error; err != nil {
		return err
	}
	for _, l := range lines {
		e := progress.Event{
			Kind: lineKinds[l.State], At: l.At.Local(), Who: l.Person, Second: l.SecondName, Operation: l.Operation,
			Reason: l.Reason,
		}
		if due := l.Fields[SentDue].At; due != nil && l.State == "in work" {
			e.Until = due
		}
		r.events[l.BuildID] = append(r.events[l.BuildID], e)
		if r.lines[l.BuildID] == nil {
			r.lines[l.BuildID] = map[string]SignedLine{}
		}
		if l.State == "taken back" {
			delete(r.lines[l.BuildID], l.Operation)
			continue
		}
		r.lines[l.BuildID][l.Operation] = l
	}
	return nil
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

// loadReworks adds the operations that were added to builds alone.
func (r *recorded) loadReworks(db *gorm.DB, ids []int64, names map[int64]string) error {
	var all []Rework
	if err := db.Where("build_id = any(?)", book.IDs(ids)).Order("id").Find(&all).Error; err != nil {
		return err
	}
	for _, w := range all {
		core := w.Operation.Core()
		r.events[w.BuildID] = append(r.events[w.BuildID], progress.Event{
			Kind: progress.Reworked, At: w.At, Who: names[w.PersonID], Second: names[w.SecondID], Reason: w.Reason,
			Added: &core, Before: w.Before,
		})
		r.reworks[w.BuildID] = append(r.reworks[w.BuildID], w.Operation)
	}
	return nil
}
