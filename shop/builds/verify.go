package builds

import (
	"context"
	"fmt"
	"time"

	"gorm.io/gorm"

	"juxta/shop/book"
)

// VerifyBuilds folds the events of every build on a route anew and holds what is kept beside them against that: that a
// build is over, which debulks count and which points of the master are met. It gives the number of builds, or names
// the first that differs.
func (s *Room) VerifyBuilds(ctx context.Context) (int, error) {
	return book.View(ctx, s.Book, func(db *gorm.DB) (int, error) {
		n, last := 0, int64(0)
		for {
			ids := []int64{}
			if err := db.Raw(`select id from builds where id > ? order by id limit 200`, last).Scan(&ids).Error; err != nil {
				return n, err
			}
			if len(ids) == 0 {
				return n, nil
			}
			last = ids[len(ids)-1]
			checked, err := s.verifyBuilds(db, ids)
			if n += checked; err != nil {
				return n, err
			}
		}
	})
}

func (s *Room) verifyBuilds(db *gorm.DB, ids []int64) (int, error) {
	var rows []struct {
		ID, RevisionID  int64
		Code            string
		DoneAt          *time.Time
		Debulks, Points int
	}
	if err := db.Raw(`select b.id, b.code, b.revision_id, b.done_at,
		(select count(distinct after_ply) from debulks d where d.build_id = b.id and d.counts) as debulks,
		(select count(*) from marks m where m.build_id = b.id and m.void_at is null) as points
		from builds b where b.id = any(?) order by b.id`, book.IDs(ids)).Scan(&rows).Error; err != nil {
		return 0, err
	}
	builds := make([]buildRow, len(rows))
	for k, r := range rows {
		builds[k] = buildRow{ID: r.ID, RevisionID: r.RevisionID, BuildLine: BuildLine{Code: r.Code}}
	}
	all, err := s.routeProgress(db, builds)
	if err != nil {
		return 0, err
	}
	for _, r := range rows {
		w := all[r.ID]
		if w == nil {
			continue
		}
		at := w.Progress
		for what, differs := range map[string]bool{
			"that it is over":                    (r.DoneAt != nil) != (at.Release != nil || at.End != nil),
			"which of its debulks count":         r.Debulks != len(at.Done.Debulks),
			"which points of its master are met": r.Points != len(at.Done.Met),
		} {
			if differs {
				return 0, fmt.Errorf("build %s: %s is kept otherwise than its events say", r.Code, what)
			}
		}
	}
	return len(all), nil
}
