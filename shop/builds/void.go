package builds

import (
	"context"
	"strings"

	"juxta/core/progress"
	"juxta/shop/book"
)

// VoidPly says which cut ply was lost or spoiled, and how.
type VoidPly struct {
	CutPly string `json:"cutPly" maxLength:"20" doc:"Its label"`
	Reason string `json:"reason" minLength:"1" maxLength:"400" doc:"What happened to it"`
}

// VoidPly takes a cut ply that was lost or spoiled out of its build: it is cut again, and a kit that was counted with
// it is counted again. One that is laid is taken back first.
func (s *Room) VoidPly(ctx context.Context, by book.By, code string, in VoidPly) (KitView, error) {
	in.Reason = strings.TrimSpace(in.Reason)
	return s.changeKit(
		ctx,
		by,
		"void ply",
		code,
		in,
		kitOfLabel(in.CutPly),
		func(tx *book.Tx, b buildRow, _ int) error {
			c, number, err := cutPlyOf(tx, b, in.CutPly)
			if err != nil {
				return err
			}
			if b.progress != nil {
				void := progress.Event{Kind: progress.PlyVoided, Ply: number, Label: c.Code, Reason: in.Reason}
				if err := b.progress.May(void); err != nil {
					return err
				}
			} else if err := b.mayVoid(tx, c, number, in.Reason); err != nil {
				return err
			}
			if err := tx.Model(&c).Updates(map[string]any{
				"void_at": tx.Now, "void_by": tx.By.ID(), "void_why": in.Reason,
			}).Error; err != nil {
				return err
			}
			if b.progress == nil && b.KitCounted {
				if err := tx.Model(&Build{ID: b.ID}).Updates(map[string]any{
					"kit_counted_at": nil, "kit_counted_by": nil,
				}).Error; err != nil {
					return err
				}
			}
			return tx.Log("ply voided", b.Code, in.Reason, map[string]any{"ply": number, "cutPly": c.Code})
		},
	)
}

// mayVoid is the same for a build of one pass.
func (b buildRow) mayVoid(tx *book.Tx, c CutPly, number int, reason string) error {
	var lies int64
	if err := tx.Model(&PlyRecord{}).Where("cut_ply_id = ? and taken_back_at is null", c.ID).Count(&lies).
		Error; err != nil {
		return err
	}
	switch {
	case reason == "":
		return book.Needed.At("reason", "say what happened to the ply")
	case b.Outcome != "":
		return book.Done.Errorf("this part is signed off already: %s", b.Outcome)
	case lies > 0:
		return book.First.Errorf("ply %d is laid: take it back first", number)
	}
	return nil
}
