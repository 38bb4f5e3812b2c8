package parts

import (
	"context"
	"math"
	"slices"

	"gorm.io/gorm"

	"juxta/calc"
	"juxta/core/master"
	"juxta/shop/book"
)

// DrapedQuestion asks how a ply of a curved stage lies.
type DrapedQuestion struct {
	Document *master.Document `json:"document,omitempty" doc:"As it stands on the page; missing: as kept"`
	Letter   string           `json:"letter,omitempty"`
	Stage    string           `json:"stage" doc:"Key" minLength:"1" maxLength:"24"`
	Ply      string           `json:"ply,omitempty" doc:"Key; missing: the first"`
}

// DrapedReply is how it lies, or why it cannot.
type DrapedReply struct {
	Ply     string              `json:"ply" doc:"Key; empty: the stage has none"`
	Faults  []master.Fault      `json:"faults" doc:"Of this stage; while there are any, nothing is laid"`
	Message string              `json:"message,omitempty" doc:"Why it cannot be laid"`
	Whole   *calc.DrapedSummary `json:"whole,omitempty" doc:"Of all pieces; missing: it cannot be laid"`
	Pieces  []calc.Draped       `json:"pieces"`
	Edge    []calc.Spot         `json:"edge" doc:"Of the surface"`
	Lines   [][]calc.Spot       `json:"lines" doc:"Sections of the surface across x and across y"`
	Step    float64             `json:"step" doc:"How far sections lie apart, m"`
	Lock    float64             `json:"lockDeg" doc:"Shear beyond which its material locks, degrees; 0: not said"`
	Kept    float64             `json:"keptArea,omitempty" doc:"Of the flat that is kept for it, m²; missing: none is"`
	Differs bool                `json:"keptDiffers,omitempty" doc:"The kept flat has another area than it would be laid with now"`
}

// sameArea is by how much flats of one area may differ, m²: a square of some 3 mm.
const sameArea = 1e-5

// Draped lays a ply of a curved stage, kept or as it stands on a page. It stores nothing.
func (s *Room) Draped(ctx context.Context, partCode string, q DrapedQuestion) (DrapedReply, error) {
	return book.View(ctx, s.Book, func(db *gorm.DB) (DrapedReply, error) {
		m, _, err := s.asked(db, partCode, q.Letter, q.Document)
		if err != nil {
			return DrapedReply{}, err
		}
		out := DrapedReply{Edge: []calc.Spot{}, Lines: [][]calc.Spot{}, Pieces: []calc.Draped{}}
		c, stage, faults, err := m.stage(q.Stage)
		out.Faults = faults
		if err != nil || len(faults) > 0 {
			return out, err
		}
		if stage.Surface == nil {
			return out, book.NotHere.At("stage", "there is no stage %q on a curved surface", q.Stage)
		}
		mesh, err := s.drapes.surface(*stage.Surface, meshes(db))
		if err != nil {
			out.Message = err.Error()
			return out, nil
		}
		for _, p := range mesh.Edge() {
			out.Edge = append(out.Edge, calc.FromSpot(p))
		}
		lines, step := mesh.Sections(8)
		out.Step = step
		for _, l := range lines {
			line := make([]calc.Spot, len(l))
			for k, p := range l {
				line[k] = calc.FromSpot(p)
			}
			out.Lines = append(out.Lines, line)
		}
		at := slices.IndexFunc(stage.Items, func(i master.Item) bool {
			return i.Kind == master.Ply && (q.Ply == "" || i.Key == q.Ply)
		})
		if at < 0 {
			return out, nil
		}
		out.Ply = stage.Items[at].Key
		if flat := stage.Items[at].Flat; flat != nil {
			out.Kept = flat.Area()
		}
		of, err := c.Doc.DrapeOf(stage, out.Ply, c.Materials)
		if err != nil {
			return out, undrawn(err)
		}
		out.Lock = calc.Rounded(of.Lock)
		all, err := m.Lay(of)
		if err != nil {
			out.Message = err.Error()
			return out, nil
		}
		whole := calc.FromDrapedPieces(all, of.Warp, of.Options(mesh))
		out.Whole = &whole
		out.Differs = out.Kept > 0 && math.Abs(out.Kept-whole.Area) > sameArea
		for _, d := range all {
			out.Pieces = append(out.Pieces, calc.FromDraped(d, true))
		}
		return out, nil
	})
}

// stage is a stage of the master as it is shown, or its faults.
func (m MasterOf) stage(key string) (master.AnalysisInput, master.Stage, []master.Fault, error) {
	if faults := faultsOf(m, key); len(faults) > 0 {
		return m.AnalysisInput, master.Stage{}, faults, nil
	}
	c, err := m.Shown()
	if err != nil {
		return c, master.Stage{}, []master.Fault{}, undrawn(err)
	}
	k := slices.IndexFunc(c.Doc.Stages, func(s master.Stage) bool { return s.Key == key })
	if k < 0 {
		return c, master.Stage{}, []master.Fault{}, book.NotHere.At("stage", "there is no stage %q", key)
	}
	return c, c.Doc.Stages[k], []master.Fault{}, nil
}

// faultsOf are the faults of a stage, and of what its variants follow from.
func faultsOf(m MasterOf, stage string) []master.Fault {
	out := []master.Fault{}
	for _, f := range m.Doc.Check(m.Materials) {
		inIt := slices.ContainsFunc(m.Doc.Stages, func(s master.Stage) bool {
			of := func(i master.Item) bool { return i.Key == f.Key }
			return s.Key == stage && (s.Key == f.Key || slices.ContainsFunc(s.Items, of))
		})
		if inIt || f.Field == "parameters" || f.Field == "variants" {
			out = append(out, f)
		}
	}
	return out
}
