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
	"juxta/core/nest"
	"juxta/core/unit"
	"juxta/shop/book"
)

var place = regexp.MustCompile(`^[a-zA-Z]+(\[\d+\])?(\.[a-zA-Z]+)?: `)

// whyFailed says why there is no nest in the words of the shop, and what can be
// done about it.
func whyFailed(db *gorm.DB, n Nest) (says, advice string, err error) {
	says = place.ReplaceAllString(n.Message, "")
	called, err := called(db, n.ID)
	if err != nil {
		return "", "", err
	}
	for id, v := range called {
		says = strings.ReplaceAll(says, "piece "+id+" ", fmt.Sprintf("ply %d of %s · %s ", v.Ply, v.Number, v.Serial))
		says = strings.ReplaceAll(says, "without "+v.Build+" ", fmt.Sprintf("without %s · %s ", v.Number, v.Serial))
	}
	wide, needs, err := tooWide(db, n)
	if err != nil {
		return "", "", err
	}
	if len(wide) == 0 {
		return says, "Take a longer roll, or one with fewer flaws; nest on several rolls; or nest fewer kits at once.",
			nil
	}
	var kits []string
	for _, w := range wide {
		if kit := w.Number + " · " + w.Serial; !slices.Contains(kits, kit) {
			kits = append(kits, kit)
		}
	}
	return says, fmt.Sprintf(
		"Take a roll of %s or wider; or nest the other kits without %s; or let the planner splice the ply along the "+
			"fibre or turn it in the master.",
		unit.Size(math.Ceil(needs*1e3)/1e3, 0),
		strings.Join(kits, ", "),
	), nil
}

// WidePly is a ply that is wider than its roll.
type WidePly struct {
	Part   string `json:"part" doc:"Code"`
	Number string `json:"number"`
	Serial string `json:"serial"`
	Ply    int    `json:"ply"`
	Item   string `json:"item" doc:"Of the master: where a splice along the fibre is allowed"`
}

// tooWide are the plies of a nest that are wider than all its rolls, and how wide a roll would have to be.
func tooWide(db *gorm.DB, n Nest) (out []WidePly, needs float64, err error) {
	usable, trim := 0.0, 0.0
	for _, s := range n.Problem.Sheets {
		usable, trim = max(usable, s.Width-2*s.EdgeTrim), s.EdgeTrim
	}
	out = []WidePly{}
	for _, p := range n.Problem.Pieces {
		box := p.Outline.Bounds()
		h := box.Height()
		if p.QuarterTurn {
			h = min(h, box.Width())
		}
		if h <= usable+1e-9 {
			continue
		}
		needs = max(needs, h+2*trim)
		var one WidePly
		if err := db.Raw(`select t.code as part, t.number, b.serial, p.number as ply, p.item_key as item
			from nest_pieces np join builds b on b.id = np.build_id join plies p on p.id = np.ply_id
			join revisions r on r.id = p.revision_id join parts t on t.id = r.part_id
			where np.nest_id = ? and np.piece = ?`, n.ID, p.ID).Scan(&one).Error; err != nil {
			return nil, 0, err
		}
		if !slices.Contains(out, one) {
			out = append(out, one)
		}
	}
	return out, needs, nil
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

const nests = "nests"

// BeginNest takes a nest up and gives its problem; ok is false when it is already over, or another worker
// is at it. The turn is given up with Abandon.
func (s *Room) BeginNest(ctx context.Context, id int64) (turn book.SearchTurn, problem calc.NestIn, ok bool,
	err error) {
	turn, ok, err = s.TakeUp(ctx, nests, id)
	if err != nil || !ok {
		return turn, problem, false, err
	}
	db := s.DB.Gorm.WithContext(ctx)
	var n Nest
	if err := db.Take(&n, id).Error; err != nil {
		return turn, problem, false, err
	}
	err = db.Model(&n).Update("started_at", s.Now().UTC()).Error
	return turn, n.Problem, err == nil, err
}

// ForsakenNests puts nests whose worker has fallen silent back into the queue.
func (s *Room) ForsakenNests(ctx context.Context) error { return s.Forsaken(ctx, nests, s.Queue.Nest) }

// NestProgress keeps the best nest so far; stop says that somebody asked the search to end.
func (s *Room) NestProgress(ctx context.Context, turn book.SearchTurn, best nest.Layout, step int) (stop bool,
	err error) {
	return s.Progress(ctx, turn, &Nest{Best: &best, StepsDone: step}, "Best", "StepsDone")
}

// EndNest keeps the final nest, or why there is none.
func (s *Room) EndNest(ctx context.Context, turn book.SearchTurn, best *nest.Layout, says string) error {
	_, err := book.Write(ctx, s.Book, book.By{}, book.CutPlies, "end nest", turn, func(tx *book.Tx) (struct{}, error) {
		n, err := book.LockTurn[Nest](tx, turn)
		if err != nil {
			return struct{}{}, err
		}
		n.State, n.EndedAt, n.Message = "done", &tx.Now, says
		switch {
		case best == nil && n.Before != nil: // as it was stays
			n.Problem, n.Best, n.Before = n.Before.Problem, &n.Before.Best, nil
		case best == nil:
			n.State = "failed"
		default:
			n.Best, n.StepsDone = best, best.Step
		}
		if n.State == "done" {
			if err := apart(tx, &n); err != nil {
				return struct{}{}, err
			}
		}
		if err := tx.Save(&n).Error; err != nil {
			return struct{}{}, err
		}
		return struct{}{}, tx.Log("nest "+n.State, n.Code, says, nil)
	})
	return err
}
