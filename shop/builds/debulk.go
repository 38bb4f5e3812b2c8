package builds

import (
	"context"
	"time"

	"juxta/core/layup"
	"juxta/core/progress"
	"juxta/core/unit"
	"juxta/shop/book"
)

// DebulkView is a debulk as recorded.
type DebulkView struct {
	AfterPly  int        `json:"afterPly"`
	StartedAt time.Time  `json:"startedAt"`
	StartedBy string     `json:"startedBy"`
	EndedAt   *time.Time `json:"endedAt,omitempty"`
	EndedBy   string     `json:"endedBy,omitempty"`
	Vacuum    *float64   `json:"vacuum,omitempty"`
	Counts    bool       `json:"counts"`
	Message   string     `gorm:"column:says" json:"message,omitempty"`
}

// waitsFor says what has to be done before anything else, as the end of a refusal.
func waitsFor(s *StepView) string {
	if s == nil {
		return ""
	}
	says := map[layup.MetDemand]string{{Kind: s.Demand, Key: s.Key}: s.Text}
	return layup.Bench{Demands: says}.First(layup.Step{Ply: s.Ply, Kind: s.Demand, Key: s.Key})
}

// StartDebulk starts the debulk that is due. A film unaccounted for stops it:
// it may lie under the plies.
func (s *Room) StartDebulk(ctx context.Context, by book.By, code, operation string) (LayupView, error) {
	return s.changeLayup(
		ctx,
		by,
		book.LayPlies,
		"start debulk",
		code,
		operation,
		benchNamed(operation),
		func(tx *book.Tx, v LayupView, b buildRow) error {
			if b.progress != nil {
				ply := 0
				if v.Next != nil {
					ply = v.Next.Ply
				} else if len(v.Plies) > 0 {
					ply = v.Plies[len(v.Plies)-1].Number
				}
				if err := b.progress.May(progress.Event{Kind: progress.DebulkBegun, Ply: ply}); err != nil {
					return err
				}
			}
			switch {
			case v.Running != nil:
				return book.Done.Errorf("a debulk is already running, started by %s", v.Running.StartedBy)
			case v.Next == nil || !v.Next.Debulk:
				return book.NotNow.Errorf("no debulk is due%s", waitsFor(v.Next))
			case len(v.FilmsShort) > 0:
				return book.Incomplete.Errorf(
					"%s: a film is unaccounted for. Find it before the debulk",
					PlyList(v.FilmsShort),
				)
			}
			d := Debulk{BuildID: b.ID, AfterPly: v.Next.Ply, StartedAt: tx.Now, StartedBy: tx.By.Person.ID}
			if v.At != nil {
				d.Operation = v.At.Operation
			}
			if err := tx.Create(&d).Error; err != nil {
				return err
			}
			return tx.Log("debulk started", b.Code, "", map[string]any{"afterPly": d.AfterPly})
		},
	)
}

// DebulkEnd is what was read when a debulk ended.
type DebulkEnd struct {
	Vacuum float64 `json:"vacuum" doc:"Pa below the air outside" minimum:"0" maximum:"101325"`
	Sure   bool    `json:"sure,omitempty" doc:"It was read so, although no pump can draw it at this altitude"`
}

// EndDebulk ends the running debulk with the vacuum read, in Pa. One that was
// too short or too weak stays on record and does not count.
func (s *Room) EndDebulk(ctx context.Context, by book.By, code, operation string, in DebulkEnd) (LayupView, error) {
	vacuum, input, named := in.Vacuum, []any{in, operation}, benchNamed(operation)
	return s.changeLayup(ctx, by, book.LayPlies, "end debulk", code, input, named, func(
		tx *book.Tx, v LayupView, b buildRow,
	) error {
		if v.Running == nil {
			return book.NotNow.Errorf("no debulk is running")
		}
		if vacuum < 0 || vacuum > 101325 {
			return book.Wrong.At("vacuum", "a vacuum of %s is not possible", unit.Vacuum(vacuum, 0))
		}
		if err := s.drawn(vacuum, in.Sure); err != nil {
			return err
		}
		counts, says := true, ""
		if err := v.Process.Debulks().Policy().ShortOfPolicy(tx.Now.Sub(v.Running.StartedAt), vacuum); err != nil {
			counts, says = false, err.Error()
		}
		if err := tx.Model(&Debulk{}).
			Where("build_id = ? and after_ply = ? and ended_at is null", b.ID, v.Running.AfterPly).
			Updates(map[string]any{
				"ended_at": tx.Now, "ended_by": tx.By.Person.ID, "vacuum": vacuum, "counts": counts, "says": says,
			}).Error; err != nil {
			return err
		}
		return tx.Log(
			"debulk ended",
			b.Code,
			says,
			map[string]any{"afterPly": v.Running.AfterPly, "vacuum": vacuum, "counts": counts, "sure": in.Sure},
		)
	})
}
