package cutting

import (
	"slices"
	"strings"
	"time"

	"gorm.io/gorm"

	"juxta/core/ident"
	"juxta/core/route"
	"juxta/shop/book"
	"juxta/shop/builds"
	"juxta/shop/parts"
)

// uncutPly is a ply of a build that is not cut yet, and what of its route cuts it.
type uncutPly struct {
	parts.Ply
	BuildID   int64
	Build     string
	Part      string
	Serial    string
	CureAt    time.Time
	Operation string `gorm:"-"` // key; empty: the one pass, or nothing cuts it
	Label     string `gorm:"-"`
	Waits     bool   `gorm:"-"` // the operation may have to wait for others
}

// chosen are builds by their codes, as people write them, and of those on a route perhaps
// one operation alone: its key after a space.
func chosen(db *gorm.DB, named []string) (codes []string, operations map[string][]string, err error) {
	operations = map[string][]string{}
	for _, one := range named {
		code, operation, only := strings.Cut(strings.TrimSpace(one), " ")
		b, err := book.Find[builds.Build](db, ident.Build, code, "build")
		if err != nil {
			return nil, nil, err
		}
		codes = append(codes, b.Code)
		if only {
			operations[b.Code] = append(operations[b.Code], operation)
		}
	}
	return codes, operations, nil
}

// uncut are the plies of builds under way that are not cut yet: of those chosen, or of all.
// What quality left out of a build is not cut either.
func (s *Room) uncut(db *gorm.DB, only []string, where string, args ...any) ([]uncutPly, error) {
	codes, operations, err := chosen(db, only)
	if err != nil {
		return nil, err
	}
	query := db.Table("plies p").
		Select("p.*, b.id as build_id, b.code as build, t.number as part, b.serial, b.cure_at").
		Joins("join builds b on b.revision_id = p.revision_id").
		Joins("join revisions r on r.id = b.revision_id").
		Joins("join parts t on t.id = r.part_id").
		Where(`b.done_at is null and not exists (select from cut_plies c where c.build_id = b.id and c.ply_id = p.id
			and c.void_at is null)`).
		Where(where, args...)
	if len(codes) > 0 {
		query = query.Where("b.code in ?", codes)
	}
	var rows []uncutPly
	if err := query.Order("b.id, p.number").Find(&rows).Error; err != nil || len(rows) == 0 {
		return rows, err
	}
	if err := s.cutBy(db, rows); err != nil {
		return nil, err
	}
	left, err := leftOut(db, rows)
	if err != nil {
		return nil, err
	}
	return slices.DeleteFunc(rows, func(p uncutPly) bool {
		of := operations[p.Build]
		return left[p.BuildID][p.Operation] || len(of) > 0 && !slices.Contains(of, p.Operation)
	}), nil
}

// cutBy tells of plies what operation of their build's route cuts them.
func (s *Room) cutBy(db *gorm.DB, rows []uncutPly) error {
	var revisions []int64
	for _, p := range rows {
		if !slices.Contains(revisions, p.RevisionID) {
			revisions = append(revisions, p.RevisionID)
		}
	}
	routed, err := s.RoutedOf(db, revisions)
	if err != nil {
		return err
	}
	for n := range rows {
		p := &rows[n]
		way := routed[p.RevisionID]
		if way == nil || p.Number > len(way.Plies) {
			continue
		}
		stage := way.Plies[p.Number-1].Stage
		for _, k := range way.Order() {
			if o := way.Operations[k]; o.Kind == route.Cutting && slices.Contains(o.Stages, stage) {
				p.Operation, p.Label, p.Waits = o.Key, way.Label(k), len(o.After) > 0
				break
			}
		}
	}
	return nil
}

// leftOut are the operations that quality left out of the builds of plies.
func leftOut(db *gorm.DB, rows []uncutPly) (map[int64]map[string]bool, error) {
	ids := idsOf(rows)
	var lines []struct {
		BuildID   int64
		Operation string
		State     string
	}
	if err := db.Raw(`select distinct on (build_id, operation) build_id, operation, state from operation_lines
		where build_id = any(?) order by build_id, operation, id desc`, book.IDs(ids)).Scan(&lines).Error; err != nil {
		return nil, err
	}
	out := map[int64]map[string]bool{}
	for _, l := range lines {
		if l.State != string(route.LeftOut) {
			continue
		}
		if out[l.BuildID] == nil {
			out[l.BuildID] = map[string]bool{}
		}
		out[l.BuildID][l.Operation] = true
	}
	return out, nil
}

func idsOf(rows []uncutPly) []int64 {
	var ids []int64
	for _, p := range rows {
		if len(ids) == 0 || ids[len(ids)-1] != p.BuildID {
			ids = append(ids, p.BuildID)
		}
	}
	return ids
}

// waits are what the cuts of plies still wait for, in words, by build and operation.
func (s *Room) waits(db *gorm.DB, rows []uncutPly) (map[int64]map[string]string, error) {
	out := map[int64]map[string]string{}
	waiting := slices.DeleteFunc(slices.Clone(rows), func(p uncutPly) bool { return !p.Waits })
	if len(waiting) == 0 {
		return out, nil
	}
	all, err := s.BuildRows(db, "b.id = any(?)", book.IDs(idsOf(waiting)))
	if err != nil {
		return nil, err
	}
	for _, b := range all {
		out[b.ID] = map[string]string{}
		w := b.RouteProgress()
		for k, o := range w.Operations {
			if at := w.Statuses[k]; o.Kind == route.Cutting && (at.State == route.Waiting || at.State == route.Held) {
				says := route.WaitReason(at.Reasons)
				if at.State == route.Held {
					says = "is held: " + at.Recorded.Reason
				}
				out[b.ID][o.Key] = says
			}
		}
	}
	return out, nil
}

// inTurn refuses plies whose cut waits for something else on the route of their build.
func (s *Room) inTurn(db *gorm.DB, rows []uncutPly) error {
	waits, err := s.waits(db, rows)
	if err != nil {
		return err
	}
	for _, p := range rows {
		if says := waits[p.BuildID][p.Operation]; says != "" {
			return book.First.At("builds", "%s · %s: %s %s", p.Part, p.Serial, p.Label, says)
		}
	}
	return nil
}
