package cutting

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"juxta/calc"
	"juxta/core/ident"
	"juxta/core/master"
	"juxta/core/nest"
	"juxta/shop/book"
	"juxta/shop/stock"
)

// NewNest asks for a nest of some builds' plies not cut yet on a roll, or on several.
type NewNest struct {
	Roll     string   `json:"roll"`
	Also     []string `json:"also,omitempty" doc:"Rolls and off-cuts that are used after it, in their order" maxItems:"7"`
	Builds   []string `json:"builds" minItems:"1" maxItems:"50" doc:"By their codes; of one on a route also one operation, its key after a space"`
	Whole    []string `json:"whole,omitempty" doc:"Builds that must be complete from the first roll" maxItems:"50"`
	OneBatch bool     `json:"oneBatch,omitempty" doc:"All plies of a build come from one batch"`
	Kits     string   `json:"kits,omitempty" enum:"together,spread" doc:"Keep like plies of a kit close together, or spread them; missing: shortest length"`
	Leave    bool     `json:"leave,omitempty" doc:"Leave out what does not fit: kits that must be complete last, then those due last first"`
	Gap      *float64 `json:"gap,omitempty" doc:"For the knife, m; missing: 2 mm; with 0 sides that lie on each other are cut once" minimum:"0" maximum:"0.05"`
	EdgeTrim *float64 `json:"edgeTrim,omitempty" doc:"m; missing: 5 mm" minimum:"0" maximum:"0.2"`
	Seed     uint64   `json:"seed,omitempty"`
	Steps    int      `json:"steps,omitempty" doc:"Places to seek for a ply; 0: as long as the seconds" minimum:"0" maximum:"100000000"`
	Seconds  float64  `json:"seconds,omitempty" doc:"To search for at most; both 0: 10 s" minimum:"0" maximum:"1200"`
}

// StartNest puts a nest into the queue.
func (s *Room) StartNest(ctx context.Context, by book.By, in NewNest) (NestLine, error) {
	return book.Write(ctx, s.Book, by, book.CutPlies, "start nest", in, func(tx *book.Tx) (NestLine, error) {
		rolls, m, err := s.rollsFor(tx, in)
		if err != nil {
			return NestLine{}, err
		}
		open, err := s.uncut(tx.DB, in.Builds, "p.material_id in (select id from materials where family = ?)", m.Family)
		if err != nil {
			return NestLine{}, err
		}
		if len(open) == 0 {
			return NestLine{}, book.Wrong.At("builds", "nothing of these builds is left to cut from %s", m.Name)
		}
		if err := s.inTurn(tx.DB, open); err != nil {
			return NestLine{}, err
		}
		latest := slices.MaxFunc(open, func(a, b uncutPly) int { return a.CureAt.Compare(b.CureAt) })
		for _, roll := range rolls {
			if err := s.Lasts(tx.DB, roll, latest.Part+" · "+latest.Serial, latest.CureAt); err != nil {
				return NestLine{}, err
			}
		}
		problem := calc.NestIn{
			Problem: nest.Problem{
				Gap: usually(in.Gap, 0.002), Leave: in.Leave, Together: in.Kits == "together",
				Spread: in.Kits == "spread",
			},
			Seed: in.Seed, Steps: in.Steps, Seconds: in.Seconds,
		}
		if in.Steps == 0 && in.Seconds == 0 {
			problem.Seconds = s.SearchSeconds()
		}
		if problem.Sheets, err = s.sheetsOf(tx, rolls, usually(in.EdgeTrim, 0.005)); err != nil {
			return NestLine{}, err
		}
		id, code, err := book.NextCode(tx.DB, "nests", ident.Nest)
		if err != nil {
			return NestLine{}, err
		}
		whole, err := wholeOf(in, open)
		if err != nil {
			return NestLine{}, err
		}
		problem.First = inOrder(open, whole)
		pieces := piecesOf(&problem, open, whole, m, in.OneBatch && len(rolls) > 1, id)
		n := Nest{
			ID: id, Code: code, RollID: rolls[0].ID, State: "queued", Problem: problem, CreatedAt: tx.Now,
			SeenAt: time.Now().UTC(),
		}
		if err := tx.Create(&n).Error; err != nil {
			return NestLine{}, err
		}
		if err := tx.Create(&pieces).Error; err != nil {
			return NestLine{}, err
		}
		if err := s.Queue.Nest(tx.Ctx, tx.SQL(), n.ID); err != nil {
			return NestLine{}, fmt.Errorf("queue the nest: %w", err)
		}
		line := NestLine{
			Code:     code,
			Roll:     rolls[0].Code,
			Material: m.Name,
			State:    n.State,
			Pieces:   len(pieces),
			At:       tx.Now,
		}
		return line, tx.Log("nest requested", code, "", map[string]any{
			"roll": rolls[0].Code, "also": in.Also, "builds": in.Builds, "whole": in.Whole, "seed": in.Seed,
			"steps": in.Steps,
		})
	})
}

// piecesOf puts what is to be cut into a nest's problem: plies of the whole builds on the first roll, the pieces of a
// ply on one roll, those of a build of one batch if asked.
func piecesOf(
	problem *calc.NestIn, open []uncutPly, whole []string, m stock.Material, oneBatch bool, id int64,
) []NestPiece {
	var pieces []NestPiece
	for _, p := range open {
		flats, marks := p.OnRoll(), p.MarksOnRoll()
		sheets := nest.OneSheet(flats, problem.Sheets)
		if slices.Contains(whole, p.Build) {
			sheets = []int{0}
		}
		for k, flat := range flats {
			piece := fmt.Sprintf("%s/%d%s", p.Build, p.Number, letter(k, len(flats)))
			one := nest.Piece{
				ID: piece, Kit: p.Build, Outline: flat, HalfTurn: m.HalfTurn, QuarterTurn: m.QuarterTurn(),
				Sheets: sheets,
			}
			if oneBatch {
				one.Batch = p.Build
			}
			if k < len(marks) {
				one.Holes = master.HolesIn(flat, marks[k])
			}
			problem.Pieces = append(problem.Pieces, one)
			pieces = append(pieces, NestPiece{NestID: id, Piece: piece, BuildID: p.BuildID, PlyID: p.ID})
		}
	}
	return pieces
}

func usually(v *float64, usual float64) float64 {
	if v == nil {
		return usual
	}
	return *v
}

// rollsFor are the rolls of a nest, and their material.
func (s *Room) rollsFor(tx *book.Tx, in NewNest) (rolls []stock.Roll, m stock.Material, err error) {
	for k, code := range append([]string{in.Roll}, in.Also...) {
		field := "roll"
		if k > 0 {
			field = fmt.Sprintf("also[%d]", k-1)
		}
		roll, err := book.Find[stock.Roll](tx.DB, ident.Roll, code, "roll")
		if err != nil {
			return nil, m, err
		}
		if slices.ContainsFunc(rolls, func(r stock.Roll) bool { return r.ID == roll.ID }) {
			return nil, m, book.Wrong.At(field, "%s is named twice", roll.Code)
		}
		var own stock.Material
		if err := tx.Take(&own, roll.MaterialID).Error; err != nil {
			return nil, m, err
		}
		switch {
		case k == 0:
			m = own
		case own.Family != m.Family:
			return nil, m, book.Wrong.At(field, "%s is %s, not %s", roll.Code, own.Name, m.Name)
		}
		rolls = append(rolls, roll)
	}
	return rolls, m, nil
}

// sheetsOf are rolls as sheets of a nest, as they are now.
func (s *Room) sheetsOf(tx *book.Tx, rolls []stock.Roll, trim float64) ([]nest.Sheet, error) {
	cutter, err := cutterOf(tx.DB)
	if err != nil {
		return nil, err
	}
	views, err := s.RollViews(tx.DB, rolls)
	if err != nil {
		return nil, err
	}
	out := make([]nest.Sheet, len(rolls))
	for k, r := range rolls {
		out[k] = nest.Sheet{
			Name: r.Code, Width: r.Width, Length: views[k].Length, EdgeTrim: trim, Flaws: views[k].Flaws,
			TableLength: cutter.Cutter.Table, Batch: views[k].Batch,
		}
	}
	return out, nil
}

// wholeOf are the builds that must be complete from the first roll; others than those nested are refused.
func wholeOf(in NewNest, open []uncutPly) (codes []string, err error) {
	for k, code := range in.Whole {
		code, _, _ = strings.Cut(strings.TrimSpace(code), " ")
		if !slices.ContainsFunc(open, func(p uncutPly) bool { return p.Build == code }) {
			return nil, book.Wrong.At(fmt.Sprintf("whole[%d]", k), "%s is not among what is nested", code)
		}
		codes = append(codes, code)
	}
	return codes, nil
}

// inOrder are the builds of plies by importance: those that must be complete, then as they are due.
func inOrder(open []uncutPly, whole []string) (codes []string) {
	codes = slices.Clone(whole)
	byDue := slices.Clone(open)
	slices.SortStableFunc(byDue, func(a, b uncutPly) int { return a.CureAt.Compare(b.CureAt) })
	for _, p := range byDue {
		if !slices.Contains(codes, p.Build) {
			codes = append(codes, p.Build)
		}
	}
	return codes
}

// letter names a piece of a ply that is cut of several.
func letter(k, of int) string {
	switch {
	case of == 1:
		return ""
	case k < 26:
		return string(rune('a' + k))
	}
	return letter(k/26-1, of) + letter(k%26, of)
}
