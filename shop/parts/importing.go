package parts

import (
	"context"
	"fmt"
	"strings"

	"juxta/core/geom"
	"juxta/core/master"
	"juxta/shop/book"
	"juxta/shop/recipes"
	"juxta/shop/stock"
)

// ImportPly is one row of a ply table: its outline is named by layer.
type ImportPly struct {
	Row      int
	Material string
	AngleDeg float64
	Layer    string
	FaceUp   bool
	X, Y     float64
}

// Import is a part read from files: a ply table and outlines by layer.
type Import struct {
	Number, Name string
	Plies        []ImportPly
	Outlines     map[string]geom.Ring
}

// ImportPart stores an imported part as a new part, or as a new draft of the
// part with this number. Every fault of the rows is named, and nothing is
// stored from files that have one.
func (s *Room) ImportPart(ctx context.Context, by book.By, in Import) (RevisionView, error) {
	return book.Write(ctx, s.Book, by, book.WriteMaster, "import part", in, func(tx *book.Tx) (RevisionView, error) {
		number, name := strings.TrimSpace(in.Number), strings.TrimSpace(in.Name)
		if number == "" {
			return RevisionView{}, book.Needed.At("number", "the part needs a number")
		}
		plies, resinID, err := matched(tx, in)
		if err != nil {
			return RevisionView{}, err
		}
		part, letter, err := nextRevision(tx, number, name)
		if err != nil {
			return RevisionView{}, err
		}
		var process Process
		if letter == "A" {
			var resin recipes.Resin
			if err := tx.Take(&resin, resinID).Error; err != nil {
				return RevisionView{}, err
			}
			process = UsualProcess(resin, s.Altitude)
		} else {
			var last Revision
			if err := tx.Where("part_id = ?", part.ID).Order("id desc").Take(&last).Error; err != nil {
				return RevisionView{}, err
			}
			process = last.Process
		}
		r := Revision{PartID: part.ID, Letter: letter, Process: process, ChangedBy: tx.By.ID(), CreatedAt: tx.Now}
		doc := documentOf(plies)
		if err := s.storeDraft(tx, &r, &doc); err != nil {
			return RevisionView{}, err
		}
		if err := tx.Log("part imported", part.Code, "", map[string]any{"letter": letter,
			"plies": len(plies)}); err != nil {
			return RevisionView{}, err
		}
		return s.revisionView(tx.DB, part.Code, letter)
	})
}

// matched puts rows, materials and outlines together, or names every row that
// does not fit.
func matched(tx *book.Tx, in Import) ([]Ply, int64, error) {
	var materials []stock.Material
	if err := tx.Where("superseded_at is null").Find(&materials).Error; err != nil {
		return nil, 0, err
	}
	byName := map[string]stock.Material{}
	for _, m := range materials {
		byName[strings.ToLower(m.Name)] = m
	}
	layers := map[string]string{}
	for layer := range in.Outlines {
		layers[strings.ToLower(layer)] = layer
	}
	var faults []string
	var plies []Ply
	var resinID int64
	for _, row := range in.Plies {
		m, ok := byName[strings.ToLower(row.Material)]
		switch {
		case !ok:
			faults = append(faults, fmt.Sprintf("row %d: no material is called %q here", row.Row, row.Material))
		case !stock.PlyKind(m.Kind):
			ok = false
			faults = append(
				faults,
				fmt.Sprintf("row %d: %s is %s: a ply is unidirectional or woven", row.Row, m.Name, m.Kind),
			)
		}
		layer, drawn := layers[strings.ToLower(row.Layer)]
		if !drawn {
			faults = append(faults, fmt.Sprintf("row %d: the drawing has no outline on a layer %q", row.Row, row.Layer))
		}
		if ok && drawn {
			resinID = *m.ResinID
			plies = append(
				plies,
				Ply{
					Number:     len(plies) + 1,
					Shape:      layer,
					MaterialID: m.ID,
					AngleDeg:   row.AngleDeg,
					Outline:    in.Outlines[layer],
					X:          row.X,
					Y:          row.Y,
					FaceUp:     row.FaceUp,
				},
			)
		}
	}
	if len(faults) > 0 {
		return nil, 0, &book.Error{
			Rule:    book.Faults,
			Field:   "plyTable",
			Message: "the ply table and the drawing do not fit: nothing was stored",
			Details: faults,
		}
	}
	if len(plies) == 0 {
		return nil, 0, book.Needed.At("plyTable", "the ply table has no rows")
	}
	return plies, resinID, nil
}

// UsualProcess is the process of a new part: the core's usual one, with the cycle of the resin's supplier.
func UsualProcess(r recipes.Resin, altitude float64) Process {
	u := master.UsualProcess(r.Recipe, altitude)
	p := Process{Tool: u.Tool, MassTolerance: u.MassTolerance, ThicknessTolerance: u.ThicknessTolerance}
	return p.Of(master.Operation{Debulks: &u.Debulks, Closing: &u.Closing, Heat: &u.Heat})
}
