package shop

import (
	"context"
	"strings"
	"time"

	"gorm.io/gorm"

	"juxta/core/ident"
	"juxta/core/layup"
	"juxta/core/material"
	"juxta/core/route"
	"juxta/wire"
)

// BuildLine is a build as listed at every stage.
type BuildLine struct {
	Code    string     `json:"code"`
	Part    string     `json:"part" doc:"Part code"`
	Number  string     `json:"number"`
	Name    string     `json:"name"`
	Serial  string     `json:"serial"`
	Letter  string     `json:"letter"`
	Stage   string     `json:"stage" enum:"cut,kits,layup,bag,cure,release,finished"`
	Plies   int        `json:"plies"`
	Cut     int        `json:"cut"`
	Counted int        `json:"counted"`
	Laid    int        `json:"laid"`
	CureAt  time.Time  `json:"cureAt" doc:"Planned start of cure"`
	Run     string     `json:"run,omitempty"`
	Outcome string     `json:"outcome,omitempty"`
	Fuse    *wire.Fuse `gorm:"-" json:"fuse,omitempty" doc:"Of the kit: its worst ply"`
}

type buildRow struct {
	BuildLine
	ID           int64
	RevisionID   int64
	KitCounted   bool
	LeakPassed   bool
	BagClosed    bool
	RunState     string
	RunStarted   *time.Time
	CountedPlies int
}

// buildRows loads builds with the sums of what is recorded, in one query.
func (s *Shop) buildRows(db *gorm.DB, where string, args ...any) ([]buildRow, error) {
	rows := []buildRow{}
	err := db.Raw(`select b.id, b.revision_id, b.code, p.code as part, p.number, p.name, b.serial, r.letter, b.cure_at,
		b.kit_counted_at is not null as kit_counted,
		(select count(*) from plies y where y.revision_id = b.revision_id) as plies,
		(select count(distinct c.ply_id) from cut_plies c where c.build_id = b.id) as cut,
		(select count(distinct c.ply_id) from cut_plies c where c.build_id = b.id and c.counted_at is not null) as counted,
		(select count(*) from ply_records l where l.build_id = b.id and l.taken_back_at is null) as laid,
		exists (select from bags g where g.build_id = b.id) as bag_closed,
		coalesce((select k.pass from leak_checks k where k.build_id = b.id order by k.id desc limit 1), false) as leak_passed,
		coalesce(h.code, '') as run, coalesce(h.state, '') as run_state, h.started_at as run_started,
		coalesce(x.disposition, '') as outcome
		from builds b join revisions r on r.id = b.revision_id join parts p on p.id = r.part_id
		left join lateral (select h.* from runs h join run_builds rb on rb.run_id = h.id where rb.build_id = b.id order by h.id desc limit 1) h on true
		left join releases x on x.build_id = b.id
		where `+where+` order by b.id desc`, args...).Scan(&rows).Error
	if err != nil {
		return nil, err
	}
	for i := range rows {
		r := &rows[i]
		done, err := s.layupDone(db, *r)
		if err != nil {
			return nil, err
		}
		progress := route.Progress{Plies: r.Plies, Cut: r.Cut, KitCounted: r.KitCounted, LayupDone: done, LeakPassed: r.LeakPassed, RunFinished: r.RunState == "finished"}
		if r.Outcome != "" {
			progress.Dispositions = 1
		}
		r.Stage = string(route.StageOf(progress))
	}
	return rows, nil
}

// layupDone says whether every step of the layup is recorded. Most builds are
// settled by their counts alone.
func (s *Shop) layupDone(db *gorm.DB, r buildRow) (bool, error) {
	if !r.KitCounted || r.Laid < r.Plies {
		return false, nil
	}
	if r.BagClosed {
		return true, nil
	}
	steps, done, err := s.layupState(db, r.ID, r.RevisionID)
	if err != nil {
		return false, err
	}
	_, open := layup.Next(steps, done)
	return !open, nil
}

func (s *Shop) buildLines(db *gorm.DB, where string, args ...any) ([]BuildLine, error) {
	rows, err := s.buildRows(db, where, args...)
	if err != nil {
		return nil, err
	}
	out := make([]BuildLine, len(rows))
	for i, r := range rows {
		fuse, err := s.kitFuse(db, r)
		if err != nil {
			return nil, err
		}
		out[i] = r.BuildLine
		out[i].Fuse = fuse
	}
	return out, nil
}

// build loads one build by its code.
func (s *Shop) build(db *gorm.DB, code string) (buildRow, error) {
	b, err := find[Build](db, ident.Build, code, "build")
	if err != nil {
		return buildRow{}, err
	}
	rows, err := s.buildRows(db, "b.id = ?", b.ID)
	if err != nil {
		return buildRow{}, err
	}
	return rows[0], nil
}

// held loads a build and holds it until the transaction ends: two people who
// sign for the same build wait for each other. It refuses it to somebody who
// does not hold what its master demands of this work.
func (tx *Tx) held(code string) (buildRow, error) {
	if _, err := find[Build](locked(tx.DB), ident.Build, code, "build"); err != nil {
		return buildRow{}, err
	}
	b, err := tx.s.build(tx.DB, code)
	if err != nil {
		return b, err
	}
	return b, tx.demanded(b)
}

// Builds lists builds, newest first; an empty stage means all.
func (s *Shop) Builds(ctx context.Context, stage string) ([]BuildLine, error) {
	lines, err := view(ctx, s, func(db *gorm.DB) ([]BuildLine, error) { return s.buildLines(db, "true") })
	if err != nil || stage == "" {
		return lines, err
	}
	out := []BuildLine{}
	for _, l := range lines {
		if l.Stage == stage {
			out = append(out, l)
		}
	}
	return out, nil
}

// kitFuse is the fuse of a build's kit, nil before anything is cut. Every ply
// carries its roll's clock from the cut, then the kit's own stays; cure ends
// it.
func (s *Shop) kitFuse(db *gorm.DB, b buildRow) (*wire.Fuse, error) {
	var cut []CutPly
	if err := db.Where("build_id = ?", b.ID).Find(&cut).Error; err != nil || len(cut) == 0 {
		return nil, err
	}
	var events []FreezerEvent
	if err := db.Where("build_id = ?", b.ID).Order("at, id").Find(&events).Error; err != nil {
		return nil, err
	}
	materialIDs := make([]int64, len(cut))
	for i, c := range cut {
		materialIDs[i] = c.MaterialID
	}
	materials, err := byID(db, materialIDs, func(m Material) int64 { return m.ID })
	if err != nil {
		return nil, err
	}
	warm, err := s.warm(db)
	if err != nil {
		return nil, err
	}
	now, planned := s.Now(), time.Duration(0)
	if b.RunStarted != nil {
		now = *b.RunStarted
	} else if b.Outcome == "" {
		planned = b.CureAt.Sub(now)
	}
	moves := coreEvents(events)
	var fuses []material.Fuse
	for _, c := range cut {
		clock, err := c.carried().Piece(c.CutAt, now, moves, warm).Clock(now)
		if err != nil {
			return nil, err
		}
		fuses = append(fuses, material.NewFuse(clock, materials[c.MaterialID].limits(nil), planned, now))
	}
	worst := wire.FromFuse(material.Worst(fuses))
	return &worst, nil
}

// NewBuild asks for one more of a released revision.
type NewBuild struct {
	Serial string    `json:"serial" minLength:"1" maxLength:"40"`
	CureAt time.Time `json:"cureAt" doc:"Planned start of cure"`
}

// StartBuild opens a build to the newest released revision of a part.
func (s *Shop) StartBuild(ctx context.Context, by By, partCode string, in NewBuild) (BuildLine, error) {
	return write(ctx, s, by, OpenBuild, "start build "+partCode, in, func(tx *Tx) (BuildLine, error) {
		part, err := find[Part](locked(tx.DB), ident.Part, partCode, "part")
		if err != nil {
			return BuildLine{}, err
		}
		var r Revision
		if err := tx.Where("part_id = ? and state = 'released'", part.ID).Order("id desc").Limit(1).Find(&r).Error; err != nil {
			return BuildLine{}, err
		}
		if r.ID == 0 {
			return BuildLine{}, conflict("%s has no released revision yet: release one first", part.Number)
		}
		if r.Doc != nil && r.Doc.Family() {
			return BuildLine{}, conflict("%s is a family: start a build of one of its variants", part.Number)
		}
		serial := strings.TrimSpace(in.Serial)
		var taken int64
		if err := tx.Raw(`select count(*) from builds b join revisions r on r.id = b.revision_id where r.part_id = ? and b.serial = ?`, part.ID, serial).Scan(&taken).Error; err != nil {
			return BuildLine{}, err
		}
		if taken > 0 {
			return BuildLine{}, conflict("%s already has a serial %s", part.Number, serial)
		}
		if in.CureAt.Before(tx.now) {
			return BuildLine{}, invalid("cureAt", "the planned cure lies in the past")
		}
		id, code, err := nextCode(tx.DB, "builds", ident.Build)
		if err != nil {
			return BuildLine{}, err
		}
		b := Build{ID: id, Code: code, RevisionID: r.ID, Serial: serial, CureAt: in.CureAt, CreatedAt: tx.now}
		if err := tx.Create(&b).Error; err != nil {
			return BuildLine{}, err
		}
		if err := tx.log("build started", code, "", map[string]any{"part": part.Number, "letter": r.Letter, "serial": serial}); err != nil {
			return BuildLine{}, err
		}
		return tx.line(code)
	})
}

func (tx *Tx) line(code string) (BuildLine, error) {
	lines, err := tx.s.buildLines(tx.DB, "b.code = ?", code)
	if err != nil {
		return BuildLine{}, err
	}
	return lines[0], nil
}
