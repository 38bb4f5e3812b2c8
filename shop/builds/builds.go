package builds

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"sync"
	"time"

	"gorm.io/gorm"

	"juxta/calc"
	"juxta/core/ident"
	"juxta/core/layup"
	"juxta/core/route"
	"juxta/shop/book"
	"juxta/shop/parts"
)

// Room of the builds. It keeps what the benches of released revisions ask for.
type Room struct {
	*parts.Room
	rules sync.Map // benchRules by the revision's id
	jobs  keptJobs
}

// BuildLine is a build as listed in every room.
type BuildLine struct {
	Code    string              `json:"code"`
	Part    string              `json:"part" doc:"Part code"`
	Number  string              `json:"number"`
	Name    string              `json:"name"`
	Serial  string              `json:"serial"`
	Letter  string              `json:"letter"`
	Room    string              `json:"room" doc:"Where it is to be found; a build on a route may be in several, as open says" enum:"cut,kits,layup,bag,cure,finish,release,finished,ended"`
	Plies   int                 `json:"plies"`
	Cut     int                 `json:"cut"`
	Counted int                 `json:"counted"`
	Laid    int                 `json:"laid"`
	CureAt  time.Time           `json:"cureAt" doc:"Planned start of cure"`
	Recipe  string              `json:"recipe" doc:"Of its cure, where no operation has its own"`
	Run     string              `json:"run,omitempty"`
	Outcome string              `json:"outcome,omitempty"`
	Ended   string              `json:"ended,omitempty" doc:"Why it was ended before its time"`
	OutTime *calc.OutTimeStatus `gorm:"-" json:"outTime,omitempty" doc:"Of the kit: its worst ply"`

	Open []RouteStep `gorm:"-" json:"open,omitempty" doc:"Of a build with a route: the operations that somebody can go on with"`
}

type buildRow struct {
	BuildLine
	ID         int64
	RevisionID int64
	KitCounted bool
	LeakPassed bool
	BagClosed  bool
	RunState   string
	RunStarted *time.Time
	EndedAt    *time.Time
	DoneAt     *time.Time

	progress *RouteProgress // nil: one pass; or, in a list, over
}

// BuildRows loads builds with the sums of what is recorded, in one query, newest
// first. The condition may end in an order and a limit of its own.
func (s *Room) BuildRows(db *gorm.DB, where string, args ...any) ([]buildRow, error) {
	if !strings.Contains(where, "order by") {
		where += " order by b.id desc"
	}
	rows := []buildRow{}
	// What is counted is counted once for all of them, not for each.
	err := db.Raw(`with b as materialized (select *, row_number() over () as n from (
			select b.id, b.revision_id, b.code, p.code as part, p.number, p.name, b.serial, r.letter, b.cure_at,
			coalesce(r.process->'recipe'->>'name', '') as recipe,
	b.kit_counted_at is not null as kit_counted, b.ended_at,
			b.ended_why as ended, b.done_at
			from builds b join revisions r on r.id = b.revision_id join parts p on p.id = r.part_id where `+where+`) b)
		select b.*, coalesce(y.plies, 0) as plies, coalesce(c.cut, 0) as cut, coalesce(c.counted, 0) as counted,
			coalesce(l.laid, 0) as laid, g.build_id is not null as bag_closed, coalesce(k.pass, false) as leak_passed,
			coalesce(h.code, '') as run, coalesce(h.state, '') as run_state, h.started_at as run_started,
			coalesce(x.disposition, '') as outcome
		from b
		left join (select revision_id, count(*) as plies from plies where revision_id in (select revision_id from b)
			group by 1) y on y.revision_id = b.revision_id
		left join (select build_id, count(distinct ply_id) as cut,
			count(distinct ply_id) filter (where counted_at is not null) as counted
			from cut_plies where build_id in (select id from b) and void_at is null group by 1) c on c.build_id = b.id
		left join (select build_id, count(*) as laid from ply_records
			where build_id in (select id from b) and taken_back_at is null group by 1) l on l.build_id = b.id
		left join (select distinct build_id from bags where build_id in (select id from b)) g on g.build_id = b.id
		left join (select distinct on (build_id) build_id, pass from leak_checks where build_id in (select id from b)
			order by build_id, id desc) k on k.build_id = b.id
		left join (select distinct on (rb.build_id) rb.build_id, h.code, h.state, h.started_at
			from run_builds rb join runs h on h.id = rb.run_id where rb.build_id in (select id from b)
			order by rb.build_id, h.id desc) h on h.build_id = b.id
		left join releases x on x.build_id = b.id
		order by b.n`, args...).Scan(&rows).Error
	if err != nil {
		return nil, err
	}
	progress, err := s.routeProgress(
		db,
		slices.DeleteFunc(slices.Clone(rows), func(r buildRow) bool { return r.DoneAt != nil }),
	)
	if err != nil {
		return nil, err
	}
	for i := range rows {
		r := &rows[i]
		if r.progress = progress[r.ID]; r.progress != nil {
			r.Room, r.Open = r.progress.room(), r.progress.open()
			continue
		}
		done, err := s.wholeLayup(db, *r)
		if err != nil {
			return nil, err
		}
		progress := route.Progress{
			Plies:       r.Plies,
			Cut:         r.Cut,
			KitCounted:  r.KitCounted,
			LayupDone:   done,
			LeakPassed:  r.LeakPassed,
			RunFinished: r.RunState == "finished",
			Ended:       r.EndedAt != nil,
		}
		if r.Outcome != "" {
			progress.Dispositions = 1
		}
		r.Room = string(route.RoomOf(progress))
	}
	return rows, nil
}

// wholeLayup says whether every step of the layup is recorded. Most builds are
// settled by their counts alone.
func (s *Room) wholeLayup(db *gorm.DB, r buildRow) (bool, error) {
	if !r.KitCounted || r.Laid < r.Plies {
		return false, nil
	}
	if r.BagClosed {
		return true, nil
	}
	var revision parts.Revision
	if err := db.Select("process", "doc").Take(&revision, r.RevisionID).Error; err != nil {
		return false, err
	}
	done, err := layupDone(db, r.ID)
	if err != nil {
		return false, err
	}
	_, open := layup.Next(planOf(revision, r.Plies, nil, -1).Steps, done)
	return !open, nil
}

func (s *Room) BuildLines(db *gorm.DB, where string, args ...any) ([]BuildLine, error) {
	rows, err := s.BuildRows(db, where, args...)
	if err != nil {
		return nil, err
	}
	return s.loadOutTimes(db, rows)
}

// Build loads one build by its code.
func (s *Room) Build(db *gorm.DB, code string) (buildRow, error) {
	b, err := book.Find[Build](db, ident.Build, code, "build")
	if err != nil {
		return buildRow{}, err
	}
	rows, err := s.BuildRows(db, "b.id = ?", b.ID)
	if err != nil {
		return buildRow{}, err
	}
	if rows[0].DoneAt != nil {
		rows[0].progress, err = s.routeProgressOf(db, rows[0])
	}
	return rows[0], err
}

// Held loads a build and holds it until the transaction ends: two people who
// sign for the same build wait for each other. It refuses it to somebody who
// does not hold what its master demands of this work.
func (s *Room) Held(tx *book.Tx, code string) (buildRow, error) {
	record, err := book.Find[Build](book.Locked(tx.DB), ident.Build, code, "build")
	if err != nil {
		return buildRow{}, err
	}
	if record.EndedAt != nil {
		return buildRow{}, book.Done.Errorf("this build was ended: %s", record.EndedWhy)
	}
	b, err := s.Build(tx.DB, code)
	if err != nil {
		return b, err
	}
	return b, demanded(tx, b)
}

// BuildQuery asks for a page of builds.
type BuildQuery struct {
	Room   string // where they wait; "" for all, wherever
	Passed bool   // those that have passed the room instead
	Find   string // part of number, serial or id
	Before int64  // builds before this one, as the last page said; 0: from the newest
	Limit  int    // 0 means 60, at most 200
}

// BuildPage is a page of builds, newest first.
type BuildPage struct {
	Builds []BuildLine `json:"builds"`
	Next   int64       `json:"next,omitempty" doc:"Ask for those before this one; missing: there are no more"`
}

// Builds lists a page of builds. What waits somewhere is found among the builds
// that are not done, however many were made before.
func (s *Room) Builds(ctx context.Context, q BuildQuery) (BuildPage, error) {
	return book.Cached(ctx, s.Book, fmt.Sprintf("builds %+v", q), func(ctx context.Context) (BuildPage, error) {
		return book.View(ctx, s.Book, func(db *gorm.DB) (BuildPage, error) { return s.buildPage(db, q) })
	})
}

func (s *Room) buildPage(db *gorm.DB, q BuildQuery) (BuildPage, error) {
	limit := q.Limit
	if limit <= 0 {
		limit = 60
	}
	limit = min(limit, 200)
	where, args := "true", []any{}
	add := func(clause string, arg ...any) { where, args = where+" and "+clause, append(args, arg...) }
	if find := strings.TrimSpace(q.Find); find != "" {
		add(
			"(b.code ilike ? or b.serial ilike ? or p.number ilike ?)",
			book.LikePattern(find),
			book.LikePattern(find),
			book.LikePattern(find),
		)
	}
	var rows []buildRow
	at := slices.Index(route.Order, route.Room(q.Room))
	if at >= 0 && (q.Room != string(route.Finished)) && q.Before == 0 {
		open, err := s.BuildRows(db, where+" and b.done_at is null", args...)
		if err != nil {
			return BuildPage{}, err
		}
		for _, r := range open {
			if r.waits(route.Room(q.Room)) && !q.Passed || r.passed(route.Room(q.Room)) && q.Passed {
				rows = append(rows, r)
			}
		}
	}
	page := BuildPage{}
	if at < 0 || q.Passed || q.Room == string(route.Finished) {
		if at >= 0 {
			add("b.done_at is not null")
		}
		if q.Before > 0 {
			add("b.id < ?", q.Before)
		}
		// The page first, then what each of it needs: the database would work out
		// the state of every build there ever was otherwise.
		ids := []int64{}
		if err := db.Raw(`select b.id from builds b join revisions r on r.id = b.revision_id
			join parts p on p.id = r.part_id where `+where+`
			order by b.id desc limit ?`, append(args, limit+1)...).Scan(&ids).Error; err != nil {
			return page, err
		}
		more, err := s.BuildRows(db, "b.id in ? order by b.id desc", ids)
		if err != nil {
			return page, err
		}
		if len(more) > limit {
			more = more[:limit]
			page.Next = more[limit-1].ID
		}
		rows = append(rows, more...)
	}
	// What the kit of a finished build had spent stands in its thread.
	outTimes, err := s.kitOutTimes(
		db,
		slices.DeleteFunc(slices.Clone(rows), func(r buildRow) bool { return r.DoneAt != nil }),
	)
	if err != nil {
		return page, err
	}
	page.Builds = withOutTimes(rows, outTimes)
	return page, nil
}

// waits says whether somebody can go on with a build in a room.
func (r buildRow) waits(room route.Room) bool {
	if r.progress == nil {
		return r.Room == string(room)
	}
	return slices.ContainsFunc(r.Open, func(s RouteStep) bool { return s.Room == string(room) })
}

// Rooms are those in which somebody can go on with a build, each once.
func (r buildRow) Rooms() []string {
	if r.progress == nil {
		return []string{r.Room}
	}
	var out []string
	for _, s := range r.Open {
		if !slices.Contains(out, s.Room) {
			out = append(out, s.Room)
		}
	}
	return out
}

// passed says whether a build was in a room, and is there no more.
func (r buildRow) passed(room route.Room) bool {
	if r.progress == nil {
		return slices.Index(route.Order, route.Room(r.Room)) > slices.Index(route.Order, room)
	}
	return !r.waits(room) && slices.ContainsFunc(r.progress.Steps(), func(s RouteStep) bool {
		return s.Room == string(room) && s.State == "done"
	})
}

// NewBuild asks for one more of a released revision.
type NewBuild struct {
	Serial string    `json:"serial" minLength:"1" maxLength:"40"`
	CureAt time.Time `json:"cureAt" doc:"Planned start of cure"`
}

// StartBuild opens a build to the newest released revision of a part.
func (s *Room) StartBuild(ctx context.Context, by book.By, partCode string, in NewBuild) (BuildLine, error) {
	return book.Write(
		ctx,
		s.Book,
		by,
		book.OpenBuild,
		"start build "+partCode,
		in,
		func(tx *book.Tx) (BuildLine, error) {
			part, err := book.Find[parts.Part](book.Locked(tx.DB), ident.Part, partCode, "part")
			if err != nil {
				return BuildLine{}, err
			}
			var r parts.Revision
			if err := tx.Where("part_id = ? and state = 'released'", part.ID).Order("id desc").Limit(1).Find(&r).
				Error; err != nil {
				return BuildLine{}, err
			}
			if r.ID == 0 {
				return BuildLine{}, book.NotNow.Errorf(
					"%s has no released revision yet: release one first",
					part.Number,
				)
			}
			if part.ArchivedAt != nil {
				return BuildLine{}, book.NotNow.Errorf("%s is archived: restore it first", part.Number)
			}
			if r.Doc != nil && r.Doc.Family() {
				return BuildLine{}, book.NotNow.Errorf(
					"%s is a family: start a build of one of its variants",
					part.Number,
				)
			}
			serial := strings.TrimSpace(in.Serial)
			var taken int64
			if err := tx.Raw(`select count(*) from builds b join revisions r on r.id = b.revision_id where r.part_id = ?
			and b.serial = ?`, part.ID, serial).Scan(&taken).Error; err != nil {
				return BuildLine{}, err
			}
			if taken > 0 {
				return BuildLine{}, book.Taken.Errorf("%s already has a serial %s", part.Number, serial)
			}
			if in.CureAt.Before(tx.Now) {
				return BuildLine{}, book.WrongTime.At("cureAt", "the planned cure lies in the past")
			}
			id, code, err := book.NextCode(tx.DB, "builds", ident.Build)
			if err != nil {
				return BuildLine{}, err
			}
			b := Build{ID: id, Code: code, RevisionID: r.ID, Serial: serial, CureAt: in.CureAt, CreatedAt: tx.Now}
			if err := tx.Create(&b).Error; err != nil {
				return BuildLine{}, err
			}
			if err := s.preformsOf(tx, b.ID, b.RevisionID); err != nil {
				return BuildLine{}, err
			}
			if err := tx.Log("build started", code, "", map[string]any{
				"part": part.Number, "letter": r.Letter, "serial": serial,
			}); err != nil {
				return BuildLine{}, err
			}
			return s.line(tx, code)
		},
	)
}

func (s *Room) line(tx *book.Tx, code string) (BuildLine, error) {
	lines, err := s.BuildLines(tx.DB, "b.code = ?", code)
	if err != nil {
		return BuildLine{}, err
	}
	return lines[0], nil
}

// demanded refuses work on a part to somebody who does not hold what its master
// demands besides the step's own qualification: whoever lays it or bags it.
func demanded(tx *book.Tx, b buildRow) error {
	if tx.Act != book.LayPlies && tx.Act != book.BagPart {
		return nil
	}
	var r parts.Revision
	if err := tx.Select("process").Take(&r, b.RevisionID).Error; err != nil {
		return err
	}
	return book.HoldsAll(
		tx.DB,
		tx.By.Person,
		r.Process.Qualifications,
		fmt.Sprintf("%s of %s %s", tx.Act, b.Number, b.Letter),
		tx.Now,
	)
}

// BuildsOf lists the builds to a revision of a part, newest first; with open,
// those that are neither signed off nor ended: a change of the master does not
// reach them any more.
func (s *Room) BuildsOf(ctx context.Context, partCode, letter string, open bool) ([]BuildLine, error) {
	return book.View(ctx, s.Book, func(db *gorm.DB) ([]BuildLine, error) {
		part, err := book.Find[parts.Part](db, ident.Part, partCode, "part")
		if err != nil {
			return nil, err
		}
		return s.BuildLines(db, "p.id = ? and r.letter = ? and (b.done_at is null or not ?)", part.ID, letter, open)
	})
}
