package cutting

import (
	"context"
	"fmt"
	"math"
	"regexp"
	"slices"
	"strings"

	"gorm.io/gorm"

	"juxta/calc"
	"juxta/core/ident"
	"juxta/core/unit"
	"juxta/shop/book"
	"juxta/wire"
)

var place = regexp.MustCompile(`^[a-zA-Z]+(\[\d+\])?(\.[a-zA-Z]+)?: `)

// whyFailed says why there is no nest in the words of the shop, and what can be
// done about it.
func whyFailed(db *gorm.DB, n Nest) (says, advice string, err error) {
	says = place.ReplaceAllString(n.Says, "")
	called, err := called(db, n.ID)
	if err != nil {
		return "", "", err
	}
	for id, v := range called {
		says = strings.ReplaceAll(says, "piece "+id+" ", fmt.Sprintf("ply %d of %s · %s ", v.Ply, v.Number, v.Serial))
	}
	usable, needs := n.Problem.Width-2*n.Problem.EdgeTrim, 0.0
	var wide []string
	for _, p := range n.Problem.Pieces {
		if h := p.Outline.Ring().Bounds().Height(); h > usable+1e-9 {
			needs = max(needs, h+2*n.Problem.EdgeTrim)
			if kit := called[p.ID].Number + " · " + called[p.ID].Serial; !slices.Contains(wide, kit) {
				wide = append(wide, kit)
			}
		}
	}
	if needs > 0 {
		return says, fmt.Sprintf(
			"Take a roll of %s or wider; or nest the other kits without %s; or let the planner make the ply of pieces or "+
				"turn it in the master.",
			unit.Size(math.Ceil(needs*1e3)/1e3, 0),
			strings.Join(wide, ", "),
		), nil
	}
	return says, "Take a longer roll, or one with fewer flaws; or nest fewer kits at once.", nil
}

// StopNest asks a running nest to stop and keep its best.
func (s *Room) StopNest(ctx context.Context, by book.By, code string) (NestView, error) {
	return book.Write(ctx, s.Book, by, book.CutPlies, "stop nest "+code, nil, func(tx *book.Tx) (NestView, error) {
		n, err := book.Find[Nest](book.Locked(tx.DB), ident.Nest, code, "nest")
		if err != nil {
			return NestView{}, err
		}
		if n.State != "queued" && n.State != "running" {
			return NestView{}, book.NotNow.Errorf("this nest is not being searched any more")
		}
		if err := tx.Model(&n).Update("stop", true).Error; err != nil {
			return NestView{}, err
		}
		if err := tx.Log("nest stopped", n.Code, "", nil); err != nil {
			return NestView{}, err
		}
		return s.nestView(tx.DB, n.Code)
	})
}

// BeginNest marks a nest as being searched and gives its problem; ok is false
// when it is already over.
func (s *Room) BeginNest(ctx context.Context, id int64) (problem calc.NestIn, ok bool, err error) {
	db := s.DB.Gorm.WithContext(ctx)
	var n Nest
	if err := db.Take(&n, id).Error; err != nil {
		return problem, false, err
	}
	if n.State != "queued" && n.State != "running" {
		return problem, false, nil
	}
	now := s.Now().UTC()
	err = db.Model(&n).Updates(map[string]any{"state": "running", "started_at": now}).Error
	return n.Problem, true, err
}

// NestProgress keeps the best nest so far; stop says that somebody asked the
// search to end.
func (s *Room) NestProgress(ctx context.Context, id int64, best wire.NestResult, step int) (stop bool, err error) {
	var n Nest
	db := s.DB.Gorm.WithContext(ctx)
	if err := db.Model(&Nest{ID: id}).Select("Best", "StepsDone").Updates(Nest{
		Best: &best, StepsDone: step,
	}).Error; err != nil {
		return false, err
	}
	err = db.Select("stop").Take(&n, id).Error
	return n.Stop, err
}

// EndNest keeps the final nest, or why there is none.
func (s *Room) EndNest(ctx context.Context, id int64, best *wire.NestResult, says string) error {
	_, err := book.Write(ctx, s.Book, book.By{}, book.CutPlies, "end nest", id, func(tx *book.Tx) (struct{}, error) {
		var n Nest
		if err := book.Locked(tx.DB).Take(&n, id).Error; err != nil {
			return struct{}{}, err
		}
		n.State, n.EndedAt, n.Says = "done", &tx.Now, says
		if best == nil {
			n.State = "failed"
		} else {
			n.Best, n.StepsDone = best, best.Step
		}
		if err := tx.Save(&n).Error; err != nil {
			return struct{}{}, err
		}
		return struct{}{}, tx.Log("nest "+n.State, n.Code, says, nil)
	})
	return err
}
