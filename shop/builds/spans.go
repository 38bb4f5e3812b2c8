package builds

import (
	"context"
	"fmt"
	"slices"
	"time"

	"gorm.io/gorm"

	"juxta/core/ident"
	"juxta/core/route"
	"juxta/shop/book"
	"juxta/shop/parts"
)

// Span is when an operation of a build was worked on, as its rooms recorded it.
type Span struct {
	Begun, Ended time.Time // of what was recorded first and last; the same: nobody said when it began
	Reasons      []string  // why it was held or taken back
}

// Spans are when the operations of builds on routes were worked on, by build and operation,
// as far as something was recorded of them since a time.
func (s *Room) Spans(db *gorm.DB, rows []buildRow, since time.Time) (map[int64]map[string]Span, error) {
	all, ids := map[int64]*RouteProgress{}, book.IDs{}
	for _, r := range rows {
		if r.progress != nil {
			all[r.ID] = r.progress
			ids = append(ids, r.ID)
		}
	}
	out := map[int64]map[string]Span{}
	if len(ids) == 0 {
		return out, nil
	}
	var events []struct {
		BuildID int64
		What    string // cut, kit and lay: of a ply, whose operation its number tells
		Key     string
		Ply     int
		At      time.Time
		Reason  string
	}
	err := db.Raw(`select * from (
			select build_id, 'line' as what, operation as key, 0 as ply, at,
				case when state in ('held', 'taken back') then reason else '' end as reason
				from operation_lines where build_id = any(@ids)
			union all select rb.build_id, 'run', rb.operation, 0, x.at, '' from run_builds rb
			join runs h on h.id = rb.run_id
				cross join lateral (values (h.started_at), (h.ended_at)) x(at) where rb.build_id = any(@ids)
			union all select build_id, 'bag', operation, 0, closed_at, '' from bags where build_id = any(@ids)
			union all select build_id, 'bag', operation, 0, at, case when pass then '' else says end
				from leak_checks where build_id = any(@ids)
			union all select build_id, 'count', operation, 0, counted_at, '' from kit_counts where build_id = any(@ids)
			union all select build_id, 'count', operation, 0, counted_at, '' from kit_items where build_id = any(@ids)
			union all select d.build_id, 'debulk', d.operation, 0, x.at, '' from debulks d
				cross join lateral (values (d.started_at), (d.ended_at)) x(at) where d.build_id = any(@ids)
			union all select l.build_id, 'lay', '', p.number, l.at, '' from ply_records l
			join plies p on p.id = l.ply_id
				where l.build_id = any(@ids)
			union all select c.build_id, 'kit', '', p.number, c.counted_at, '' from cut_plies c
			join plies p on p.id = c.ply_id
				where c.build_id = any(@ids)
			union all select c.build_id, 'cut', '', p.number, c.cut_at, '' from cut_plies c
			join plies p on p.id = c.ply_id
				where c.build_id = any(@ids)) e
		where at is not null and at >= @since order by at`,
		map[string]any{"ids": ids, "since": since}).Scan(&events).Error
	if err != nil {
		return nil, err
	}
	for _, e := range events {
		w, key := all[e.BuildID], e.Key
		switch e.What {
		case "lay":
			key = w.key(w.benchOf(e.Ply))
		case "kit":
			key = w.key(w.first(route.Kitting, w.stageOf(e.Ply)))
		case "cut":
			key = w.key(w.first(route.Cutting, w.stageOf(e.Ply)))
		}
		if key == "" {
			continue
		}
		if out[e.BuildID] == nil {
			out[e.BuildID] = map[string]Span{}
		}
		span, begun := out[e.BuildID][key]
		if !begun {
			span.Begun = e.At
		}
		span.Ended = e.At
		if e.Reason != "" {
			span.Reasons = append(span.Reasons, e.Reason)
		}
		out[e.BuildID][key] = span
	}
	return out, nil
}

// EarlierBuild is how an operation went on an earlier build.
type EarlierBuild struct {
	Build   string     `json:"build"`
	Serial  string     `json:"serial"`
	Letter  string     `json:"letter"`
	State   string     `json:"state" enum:"waiting,ready,in work,held,done,left out"`
	Took    *float64   `json:"took,omitempty" doc:"From what was recorded first to what was recorded last, s; missing: nobody said when it began"`
	At      *time.Time `json:"at,omitempty" doc:"When it was recorded last"`
	Reasons []string   `json:"reasons,omitempty" doc:"What was said when it was held, taken back or failed"`
}

// lastBuilds is how many builds an operation is told of.
const lastBuilds = 3

// OnLastBuilds tells how an operation went on the last builds of a part that have it.
func (s *Room) OnLastBuilds(ctx context.Context, partCode, operation string) ([]EarlierBuild, error) {
	return book.View(ctx, s.Book, func(db *gorm.DB) ([]EarlierBuild, error) {
		part, err := book.Find[parts.Part](db, ident.Part, partCode, "part")
		if err != nil {
			return nil, err
		}
		var ids []int64
		if err := db.Raw(`select b.id from builds b join revisions r on r.id = b.revision_id
			where r.part_id = ? and b.ended_at is null
			and r.doc->'route' @> jsonb_build_array(jsonb_build_object('key', ?::text))
			order by b.id desc limit ?`, part.ID, operation, lastBuilds).Scan(&ids).Error; err != nil {
			return nil, err
		}
		out := []EarlierBuild{}
		for _, id := range ids {
			rows, err := s.BuildRows(db, "b.id = ?", id)
			if err != nil {
				return nil, err
			}
			b := rows[0]
			if b.progress == nil {
				if b.progress, err = s.routeProgressOf(db, b); err != nil {
					return nil, err
				}
			}
			k := b.progress.Index(operation)
			if k < 0 {
				return nil, fmt.Errorf("build %s has no operation %q", b.Code, operation)
			}
			spans, err := s.Spans(db, []buildRow{b}, time.Time{})
			if err != nil {
				return nil, err
			}
			v := EarlierBuild{Build: b.Code, Serial: b.Serial, Letter: b.Letter, State: b.progress.Step(k).State}
			if span, there := spans[b.ID][operation]; there {
				v.At, v.Reasons = &span.Ended, slices.Compact(span.Reasons)
				if took := span.Ended.Sub(span.Begun).Seconds(); took > 0 && v.State == string(route.Done) {
					v.Took = &took
				}
			}
			out = append(out, v)
		}
		return out, nil
	})
}
