package cutting

import (
	"context"
	"errors"
	"fmt"
	"math"
	"slices"
	"strings"
	"time"

	"juxta/core/geom"
	"juxta/core/ident"
	"juxta/core/material"
	"juxta/core/nest"
	"juxta/shop/book"
	"juxta/shop/builds"
	"juxta/shop/stock"
)

// CutReport says how a nest came off the table: all as planned where it says nothing.
type CutReport struct {
	Missing []MissingPly `json:"missing,omitempty" doc:"Pieces that are not good: their plies wait to be cut again" maxItems:"3000"`
	Keep    *OffCutPlace `json:"keep,omitempty" doc:"Keep the largest rectangle that is left as an off-cut"`
	Began   *time.Time   `json:"began,omitempty" doc:"Cut by hand from a roll that has run out since: when the knife began"`
}

// MissingPly is a piece that did not come off the table good. A ply of several pieces is cut again whole.
type MissingPly struct {
	Piece string `json:"piece" maxLength:"80"`
	Why   string `json:"why" enum:"damaged,lost,flawed,not cut"`
	Note  string `json:"note,omitempty" maxLength:"200"`
}

// OffCutPlace says where an off-cut is kept.
type OffCutPlace struct {
	FreezerID int64  `json:"freezerId,omitempty"`
	Place     string `json:"place,omitempty" maxLength:"60"`
}

// ConfirmCut records that all of a nest was cut, as planned.
func (s *Room) ConfirmCut(ctx context.Context, by book.By, code string) (NestView, error) {
	return s.ReportCut(ctx, by, code, CutReport{})
}

// ReportCut records that a nest was cut: the length comes off the roll, and every ply that is good gets its id
// and the roll's clock; the others wait to be cut again.
func (s *Room) ReportCut(ctx context.Context, by book.By, code string, in CutReport) (NestView, error) {
	return book.Write(ctx, s.Book, by, book.CutPlies, "confirm cut "+code, in, func(tx *book.Tx) (NestView, error) {
		n, err := book.Find[Nest](book.Locked(tx.DB), ident.Nest, code, "nest")
		if err != nil {
			return NestView{}, err
		}
		switch {
		case n.State == "cut":
			return NestView{}, book.Done.Errorf("this nest is already cut")
		case n.State != "done" && n.State != "released": // what was released and cut all the same is told
			return NestView{}, book.NotNow.Errorf("this nest is not finished: stop it first, or wait")
		}
		if err := nest.Verify(n.Problem.Problem, *n.Best); err != nil {
			return NestView{}, fmt.Errorf("the stored nest of %s: %w", n.Code, err)
		}
		var roll stock.Roll
		if err := book.Locked(tx.DB).Take(&roll, n.RollID).Error; err != nil {
			return NestView{}, err
		}
		if err := s.mayReport(tx, roll, n, in); err != nil {
			return NestView{}, err
		}
		var pieces []NestPiece
		if err := tx.Where("nest_id = ?", n.ID).Order("build_id, ply_id").Find(&pieces).Error; err != nil {
			return NestView{}, err
		}
		if err := underWay(tx, n); err != nil {
			return NestView{}, err
		}
		missing, err := misses(n, pieces, in.Missing)
		if err != nil {
			return NestView{}, err
		}
		if len(missing) > 0 {
			if err := tx.Create(&missing).Error; err != nil {
				return NestView{}, err
			}
		}
		// The pieces of a ply are cut together: they are one ply, with one id.
		pieces = slices.CompactFunc(pieces, func(a, b NestPiece) bool {
			return a.BuildID == b.BuildID && a.PlyID == b.PlyID
		})
		pieces = slices.DeleteFunc(pieces, func(p NestPiece) bool {
			return slices.ContainsFunc(
				missing,
				func(m CutMiss) bool { return m.BuildID == p.BuildID && m.PlyID == p.PlyID },
			)
		})
		if err := cutPlies(tx, roll, n, pieces); err != nil {
			return NestView{}, err
		}
		if err := s.RollEvent(tx, &roll, stock.FreezerEvent{
			Kind: string(material.Used), At: tx.Now, Length: n.Best.Length, Note: stock.CutForNest(n.Code),
		}); err != nil {
			return NestView{}, err
		}
		kept := ""
		if in.Keep != nil {
			if kept, err = s.keepRest(tx, roll, n, *in.Keep); err != nil {
				return NestView{}, err
			}
		}
		released, err := s.release(tx, n)
		if err != nil {
			return NestView{}, err
		}
		n.State, n.CutAt = "cut", &tx.Now
		if err := tx.Save(&n).Error; err != nil {
			return NestView{}, err
		}
		if err := tx.Log("nest cut", n.Code, "", map[string]any{
			"roll": roll.Code, "length": n.Best.Length, "plies": len(pieces), "missing": in.Missing, "offCut": kept,
			"released": released,
			"began":    in.Began,
		}); err != nil {
			return NestView{}, err
		}
		return s.nestView(tx.DB, n.Code)
	})
}

// mayReport says why a nest cannot be told as cut now.
func (s *Room) mayReport(tx *book.Tx, roll stock.Roll, n Nest, in CutReport) error {
	jobs, err := cutJobs(tx.DB, n.ID)
	if err != nil {
		return err
	}
	if len(jobs) > 0 && jobs[0].open() {
		return book.NotNow.Errorf("the knife is at this nest: wait for it, or stop it")
	}
	err = s.current(tx, roll, n)
	var refused *book.Error
	if errors.As(err, &refused) && refused.Rule == book.Life && (len(jobs) > 0 || in.Began != nil) {
		// It ran out while the knife was at it: that is recorded, and every ply carries its clock.
		if len(jobs) == 0 {
			err = s.beganInTime(tx, roll, n, *in.Began, err)
		} else {
			err = nil
		}
		if err == nil {
			err = stillFits(roll, n, jobs)
		}
	}
	return err
}

// underWay refuses a nest of builds that were ended since.
func underWay(tx *book.Tx, n Nest) error {
	var given []string
	if err := tx.Raw(`select distinct b.code from nest_pieces p join builds b on b.id = p.build_id where p.nest_id = ?
		and b.done_at is not null`, n.ID).Scan(&given).Error; err != nil {
		return err
	}
	if len(given) > 0 {
		return book.NotNow.Errorf(
			"build %s is not under way any more: nest again without it",
			strings.Join(given, ", "),
		)
	}
	return nil
}

// cutPlies makes what was cut of a nest plies with ids, each with the roll's clock.
func cutPlies(tx *book.Tx, roll stock.Roll, n Nest, pieces []NestPiece) error {
	along := roll.Clock().Later(tx.Now).Carry()
	for _, p := range pieces {
		id, label, err := book.NextCode(tx.DB, "cut_plies", ident.CutPly)
		if err != nil {
			return err
		}
		c := builds.CutPly{
			ID:         id,
			Code:       label,
			BuildID:    p.BuildID,
			PlyID:      p.PlyID,
			NestID:     n.ID,
			RollID:     roll.ID,
			MaterialID: roll.MaterialID,
			CutAt:      tx.Now,
			CutBy:      tx.By.ID(),
		}
		c.Spent, c.More, c.Until = stock.CarriedColumns(along)
		if err := tx.Create(&c).Error; err != nil {
			return err
		}
	}
	return nil
}

// release gives up plans that hold plies which are cut now: others were better.
func (s *Room) release(tx *book.Tx, n Nest) (codes []string, err error) {
	var others []Nest
	if err := book.Locked(tx.DB).Where(`id <> ? and state = 'done' and id in (select p.nest_id from nest_pieces p
		join cut_plies c on c.build_id = p.build_id and c.ply_id = p.ply_id where c.nest_id = ?)`, n.ID, n.ID).
		Find(&others).Error; err != nil {
		return nil, err
	}
	for _, o := range others {
		jobs, err := cutJobs(tx.DB, o.ID)
		if err != nil {
			return nil, err
		}
		if len(freed(jobs)) > 0 {
			continue // some of it is cut: that is to be reported
		}
		codes = append(codes, o.Code)
		err = tx.Model(&o).
			Select("State", "Message").
			Updates(Nest{State: "released", Message: "its plies were cut by " + n.Code}).
			Error
		if err != nil {
			return nil, err
		}
	}
	return codes, nil
}

// misses are the plies whose pieces are not good.
func misses(n Nest, pieces []NestPiece, named []MissingPly) ([]CutMiss, error) {
	var out []CutMiss
	for _, id := range n.Best.Left {
		named = append(slices.Clip(named), MissingPly{Piece: id, Why: "not cut"})
	}
	for k, m := range named {
		i := slices.IndexFunc(pieces, func(p NestPiece) bool { return p.Piece == m.Piece })
		if i < 0 {
			return nil, book.Wrong.At(fmt.Sprintf("missing[%d].piece", k), "this nest has no piece %s", m.Piece)
		}
		one := CutMiss{
			NestID: n.ID, BuildID: pieces[i].BuildID, PlyID: pieces[i].PlyID, Why: m.Why,
			Note: strings.TrimSpace(m.Note),
		}
		if !slices.ContainsFunc(out, func(o CutMiss) bool { return o.BuildID == one.BuildID && o.PlyID == one.PlyID }) {
			out = append(out, one)
		}
	}
	return out, nil
}

// keepRest keeps what is left of a nest as an off-cut, and gives its code.
func (s *Room) keepRest(tx *book.Tx, roll stock.Roll, n Nest, in OffCutPlace) (string, error) {
	rest := n.Best.Rest
	if rest.Width <= 0 {
		return "", book.Wrong.At("keep", "nothing is left of this nest that is worth keeping")
	}
	off, err := s.OffCut(tx, &roll, stock.NewOffCut{
		Outline: geom.Rect(rest.Width, rest.Height), FreezerID: in.FreezerID, Place: in.Place,
	})
	return off.Code, err
}

// current refuses a nest that is not of its roll as it is now, or a roll that must not be cut.
func (s *Room) current(tx *book.Tx, roll stock.Roll, n Nest) error {
	// Another cut since has moved the roll's end, and the flaws with it.
	if math.Abs(roll.Length-n.Problem.Sheets[0].Length) > 1e-6 {
		return book.NotNow.Errorf("%s has been cut since this nest was made: nest again on what is left", roll.Code)
	}
	if err := s.MayCut(tx, roll); err != nil {
		return err
	}
	if err := s.lasts(tx, roll, n); err != nil {
		return err
	}
	jobs, err := cutJobs(tx.DB, n.ID)
	if err != nil {
		return err
	}
	return stillFits(roll, n, jobs)
}

// lasts refuses a roll whose life ends before the last cure of the builds that a nest is cut for.
func (s *Room) lasts(tx *book.Tx, roll stock.Roll, n Nest) error {
	var latest struct {
		Build  string
		CureAt time.Time
	}
	if err := tx.Raw(`select t.number || ' · ' || b.serial as build, b.cure_at from nest_pieces np
		join builds b on b.id = np.build_id join revisions r on r.id = b.revision_id join parts t on t.id = r.part_id
		where np.nest_id = ? order by b.cure_at desc limit 1`, n.ID).Scan(&latest).Error; err != nil {
		return err
	}
	return s.Lasts(tx.DB, roll, latest.Build, latest.CureAt)
}

// beganInTime holds the moment at which somebody began to cut against a roll that has run out since. It refuses as
// it was refused where anything else stands against the roll.
func (s *Room) beganInTime(tx *book.Tx, roll stock.Roll, n Nest, began time.Time, refused error) error {
	v, err := s.RollView(tx, roll)
	if err != nil {
		return err
	}
	var batch stock.Batch
	if err := tx.Take(&batch, roll.BatchID).Error; err != nil {
		return err
	}
	clock := v.OutTime.Core()
	switch {
	case batch.Blocked() != "" || !clock.RanOut(tx.Now, tx.Now):
		return refused
	case began.After(tx.Now):
		return book.Wrong.At("began", "that is still to come")
	case began.Before(n.CreatedAt) || roll.Since != nil && began.Before(*roll.Since):
		return book.Wrong.At("began", "the nest was made, or the roll taken out, only after that")
	case clock.RanOut(began, tx.Now):
		return book.Life.At("began", "%s had run out by then", roll.Code)
	}
	return nil
}

// stillFits holds a nest against the roll as it is now: what was mapped or put
// right since the nest was made lies on the table all the same. What a table has cut free is cut.
func stillFits(r stock.Roll, n Nest, jobs []CutJob) error {
	p := n.Problem
	sheet := p.Sheets[0]
	sheet.Width, sheet.Flaws = r.Width, flawsOf(n, r)
	p.Sheets = []nest.Sheet{sheet}
	p.Pieces = slices.Clone(p.Pieces)
	for _, id := range freed(jobs) {
		for k := range p.Pieces {
			p.Pieces[k].Cut = p.Pieces[k].Cut || p.Pieces[k].ID == id
		}
	}
	if err := nest.Verify(p.Problem, *n.Best); err != nil {
		return book.NotNow.Errorf("this nest does not fit %s as it is now (%s): nest again", r.Code, err)
	}
	return nil
}
