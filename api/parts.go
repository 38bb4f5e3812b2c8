package api

import (
	"context"

	"juxta/format/dxf"
	"juxta/format/plytable"
	"juxta/shop"
	"juxta/wire"
)

// importBody carries the two files as text.
type importBody struct {
	Number   string `json:"number" minLength:"1" maxLength:"40" doc:"Drawing number"`
	Name     string `json:"name" maxLength:"80"`
	PlyTable string `json:"plyTable" maxLength:"1000000" doc:"CSV"`
	Drawing  string `json:"drawing" maxLength:"20000000" doc:"DXF in text form"`
	Unit     string `json:"unit,omitempty" enum:"mm,inch" doc:"Of a drawing that does not say its own"`
}

func (r *routes) parts() {
	get(r, "/api/parts", "parts", "Parts", func(ctx context.Context, _ *none) ([]shop.PartLine, error) {
		return r.shop.Parts(ctx)
	})
	type revision struct {
		ByCode
		Letter string `query:"letter" doc:"Empty for the newest"`
	}
	get(r, "/api/parts/{code}", "part", "A revision with what is worked out from it", func(ctx context.Context, in *revision) (shop.RevisionView, error) {
		return r.shop.Revision(ctx, in.Code, in.Letter)
	})
	type importing struct{ Body importBody }
	post(r, shop.WriteMaster, "/api/parts", "importPart", "Import a part from a ply table and a drawing", func(ctx context.Context, by shop.By, in *importing) (shop.RevisionView, error) {
		read, err := readPart(in.Body)
		if err != nil {
			return shop.RevisionView{}, err
		}
		return r.shop.ImportPart(ctx, by, read)
	})
	post(r, shop.WriteMaster, "/api/parts/{code}/draft", "changeDraft", "Change the draft of a part", func(ctx context.Context, by shop.By, in *with[shop.DraftChange]) (shop.RevisionView, error) {
		return r.shop.ChangeDraft(ctx, by, in.Code, in.Body)
	})
	post(r, shop.ReleaseMaster, "/api/parts/{code}/release", "releaseRevision", "Release the draft: it is frozen", func(ctx context.Context, by shop.By, in *with[shop.ReleaseSign]) (shop.RevisionView, error) {
		return r.shop.ReleaseRevision(ctx, by, in.Code, in.Body)
	})
	post(r, shop.WriteMaster, "/api/parts/{code}/revisions", "newRevision", "Start a new revision as a copy", func(ctx context.Context, by shop.By, in *ByCode) (shop.RevisionView, error) {
		return r.shop.NewRevision(ctx, by, in.Code)
	})
	post(r, shop.OpenBuild, "/api/parts/{code}/builds", "startBuild", "Start a build", func(ctx context.Context, by shop.By, in *with[shop.NewBuild]) (shop.BuildLine, error) {
		return r.shop.StartBuild(ctx, by, in.Code, in.Body)
	})
	type byStage struct {
		Stage string `query:"stage" enum:"cut,kits,layup,bag,cure,release,finished,"`
	}
	get(r, "/api/builds", "builds", "Builds, newest first", func(ctx context.Context, in *byStage) ([]shop.BuildLine, error) {
		return r.shop.Builds(ctx, in.Stage)
	})
}

// readPart reads both files; the faults of both come together, each with the
// file it is in.
func readPart(in importBody) (shop.Import, error) {
	rows, faults := plytable.Read([]byte(in.PlyTable))
	for i := range faults {
		faults[i] = "ply table, " + faults[i]
	}
	drawing, wrong := dxf.Read([]byte(in.Drawing), map[string]float64{"mm": 1e-3, "inch": 0.0254}[in.Unit])
	for _, w := range wrong {
		faults = append(faults, "drawing, "+w)
	}
	if len(faults) > 0 {
		return shop.Import{}, &shop.Error{Kind: shop.Invalid, Field: "files", Says: "the files have faults: nothing was stored", Details: faults}
	}
	out := shop.Import{Number: in.Number, Name: in.Name, Outlines: map[string]wire.Outline{}}
	for _, row := range rows {
		out.Plies = append(out.Plies, shop.ImportPly{Row: row.Line, Material: row.Material, AngleDeg: row.AngleDeg, Layer: row.Outline, FaceUp: row.FaceUp, X: row.X, Y: row.Y})
	}
	for layer, ring := range drawing.Outlines {
		out.Outlines[layer] = wire.FromRing(ring)
	}
	return out, nil
}
