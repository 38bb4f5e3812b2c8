package api

import (
	"context"
	"fmt"
	"net/http"
	"slices"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/danielgtaylor/huma/v2/sse"

	"juxta/core/nest"
	"juxta/format/dxf"
	"juxta/shop/book"
	"juxta/shop/cutting"
)

// pollEvery is how often a page that follows long work hears of it.
const pollEvery = 400 * time.Millisecond

func (r *routes) cut() {
	r.cutters()
	r.nests()
	r.arrangements()
	r.table()
	r.nestEvents()
}

// cutters are what is to be cut, and the table that cuts.
func (r *routes) cutters() {
	type chosen struct {
		Builds []string `query:"builds" maxItems:"50" doc:"Only these; missing: all that wait"`
	}
	get(
		r,
		"/api/cut",
		"cutQueue",
		"What waits to be cut, with the rolls ranked for it",
		func(ctx context.Context, in *chosen) ([]cutting.CutDemand, error) {
			return r.shop.CutQueue(ctx, in.Builds...)
		},
	)
	get(r, "/api/cutter", "cutter", "The cutting table as it is entered",
		func(ctx context.Context, _ *none) (cutting.CutterView, error) { return r.shop.Cutter(ctx) })
	post(
		r,
		book.KeepRules,
		"/api/cutter",
		"changeCutter",
		"Enter what the cutting table does",
		func(ctx context.Context, by book.By, in *struct{ Body cutting.CutterIn }) (cutting.CutterView, error) {
			return r.shop.ChangeCutter(ctx, by, in.Body)
		},
	)
}

// nests are searched, stopped and cut.
func (r *routes) nests() {
	get(
		r,
		"/api/nests",
		"nests",
		"Nests, newest first",
		func(ctx context.Context, _ *none) ([]cutting.NestLine, error) {
			return r.shop.Nests(ctx)
		},
	)
	get(
		r,
		"/api/nests/{code}",
		"nest",
		"A nest as far as it has come",
		func(ctx context.Context, in *ByCode) (cutting.NestView, error) {
			return r.shop.Nest(ctx, in.Code)
		},
	)
	type newNest struct{ Body cutting.NewNest }
	post(
		r,
		book.CutPlies,
		"/api/nests",
		"startNest",
		"Search for a nest",
		func(ctx context.Context, by book.By, in *newNest) (cutting.NestLine, error) {
			return r.shop.StartNest(ctx, by, in.Body)
		},
	)
	post(
		r,
		book.CutPlies,
		"/api/nests/{code}/stop",
		"stopNest",
		"Stop and keep the best",
		func(ctx context.Context, by book.By, in *ByCode) (cutting.NestView, error) {
			return r.shop.StopNest(ctx, by, in.Code)
		},
	)
	type cutReport struct {
		ByCode
		Body cutting.CutReport
	}
	post(
		r,
		book.CutPlies,
		"/api/nests/{code}/cut",
		"confirmCut",
		"Record that the nest was cut, all of it or with exceptions",
		func(ctx context.Context, by book.By, in *cutReport) (cutting.NestView, error) {
			return r.shop.ReportCut(ctx, by, in.Code, in.Body)
		},
	)
}

// arrangements are what is done to a nest by hand.
func (r *routes) arrangements() {
	type arrangement struct {
		ByCode
		Body cutting.Arrangement
	}
	post(
		r,
		book.CutPlies,
		"/api/nests/{code}/arrange",
		"arrangeNest",
		"Search the nest again round what is held, moved by hand, or cut",
		func(ctx context.Context, by book.By, in *arrangement) (cutting.NestView, error) {
			return r.shop.ArrangeNest(ctx, by, in.Code, in.Body)
		},
	)
	post(
		r,
		book.CutPlies,
		"/api/nests/{code}/back",
		"takeNestBack",
		"Take the last arrangement back",
		func(ctx context.Context, by book.By, in *ByCode) (cutting.NestView, error) {
			return r.shop.TakeNestBack(ctx, by, in.Code)
		},
	)
	type nestDrawing struct {
		ByCode
		Body struct {
			Drawing []byte `json:"drawing" doc:"DXF; outlines on layer CUT, or all of them where there is no such layer" minLength:"1" maxLength:"24000000"`
			Unit    string `json:"unit,omitempty" doc:"Of a drawing that does not say its own" enum:"mm,inch"`
		}
	}
	post(
		r,
		book.CutPlies,
		"/api/nests/{code}/drawing",
		"takeNestDrawing",
		"Take a nest of the same plies that was drawn elsewhere, if it passes the check",
		func(ctx context.Context, by book.By, in *nestDrawing) (cutting.NestView, error) {
			all, err := seenIn(in.Body.Drawing, in.Body.Unit)
			if err != nil {
				return cutting.NestView{}, err
			}
			return r.shop.TakeDrawing(ctx, by, in.Code, all)
		},
	)
	type put struct {
		ByCode
		Body struct {
			Piece  nest.Placement   `json:"piece" doc:"Where it is wanted"`
			Others []nest.Placement `json:"others,omitempty" doc:"Pieces that were moved before" maxItems:"3000"`
			Reach  float64          `json:"reach,omitempty" doc:"By how much it is drawn against others, m" minimum:"0" maximum:"0.2"`
			About  *int             `json:"about,omitempty" doc:"Turn to which it is turned about its middle first, degrees" enum:"0,90,180,270"`
		}
	}
	post( // a question, though it is sent: what was moved before does not fit into an address
		r,
		book.CutPlies,
		"/api/nests/{code}/put",
		"putPiece",
		"Where a piece may lie near where it is wanted; stores nothing",
		func(ctx context.Context, _ book.By, in *put) (cutting.HandPlacement, error) {
			return r.shop.PutPiece(ctx, in.Code, in.Body.Piece, in.Body.Others, in.Body.Reach, in.Body.About)
		},
	)
}

// table is the knife on a nest.
func (r *routes) table() {
	type startCut struct {
		ByCode
		Body cutting.StartCut
	}
	post(
		r,
		book.CutPlies,
		"/api/nests/{code}/table",
		"cutOnTable",
		"Hand the nest, or what is left of it, to the cutting table",
		func(ctx context.Context, by book.By, in *startCut) (cutting.NestView, error) {
			return r.shop.CutOnTable(ctx, by, in.Code, in.Body)
		},
	)
	post(
		r,
		book.CutPlies,
		"/api/nests/{code}/table/stop",
		"stopCut",
		"Stop the knife",
		func(ctx context.Context, by book.By, in *ByCode) (cutting.NestView, error) {
			return r.shop.StopCut(ctx, by, in.Code)
		},
	)
	get(
		r,
		"/api/nests/{code}/way",
		"nestWay",
		"The way of pen and knife over the nest, and how long it takes",
		func(ctx context.Context, in *InOrder) (cutting.KnifePath, error) {
			w, err := r.shop.KnifePath(ctx, in.Code, in.ByKit)
			if err != nil {
				return cutting.KnifePath{}, err
			}
			return w.View(), nil
		},
	)
	get(
		r,
		"/api/nests/{code}/ruled",
		"nestRuled",
		"The straight cuts of the nest for who cuts by hand, the longest first",
		func(ctx context.Context, in *ByCode) ([]cutting.RuledView, error) {
			return r.shop.RuledOf(ctx, in.Code)
		},
	)
}

// nestEvents tells a nest as it is searched and cut.
func (r *routes) nestEvents() {
	sse.Register(
		r.api,
		huma.Operation{
			OperationID: "nestEvents",
			Method:      http.MethodGet,
			Path:        "/api/nests/{code}/events",
			Summary:     "A nest while it is searched or cut",
		},
		map[string]any{"nest": cutting.NestView{}},
		func(ctx context.Context, in *ByCode, send sse.Sender) {
			last, still := "", stillIn(ctx)
			for still() {
				v, err := r.shop.Nest(ctx, in.Code)
				if err != nil {
					return
				}
				over, now := !v.Moving(), fmt.Sprint(v.State, v.Step)
				if v.Job != nil {
					now += fmt.Sprint(v.Job.State, v.Job.Share, v.Job.X, v.Job.Y)
				}
				if now != last || over {
					last = now
					if send.Data(v) != nil {
						return
					}
				}
				if over || !wait(ctx) {
					return
				}
			}
		},
	)
}

// InOrder is the input of routes about the way of the knife.
type InOrder struct {
	ByCode
	ByKit bool `query:"byKit" doc:"One kit after the other"`
}

type program struct {
	InOrder
	Tangential bool `query:"tangential" doc:"C words turn the knife"`
}

// seenIn are the outlines of a drawing of a nest, with what is written in them.
func seenIn(raw []byte, unit string) ([]nest.DrawnOutline, error) {
	drawing, faults := dxf.Read(raw, unitOfDrawing(unit))
	if len(faults) > 0 {
		return nil, &book.Error{
			Rule: book.Faults, Field: "drawing", Message: "the drawing has faults: nothing was stored", Details: faults,
		}
	}
	layered := slices.ContainsFunc(drawing.Outlines, func(o dxf.Outline) bool { return o.Layer == "CUT" })
	var all []nest.DrawnOutline
	for _, o := range drawing.Outlines {
		if layered && o.Layer != "CUT" {
			continue
		}
		one := nest.DrawnOutline{Outline: o.Ring}
		for _, m := range o.Marks {
			if m.Text != "" {
				one.Texts = append(one.Texts, m.Text)
			}
		}
		all = append(all, one)
	}
	return all, nil
}

// wait pauses a stream; false when its reader has gone.
func wait(ctx context.Context) bool {
	select {
	case <-ctx.Done():
		return false
	case <-time.After(pollEvery):
		return true
	}
}
