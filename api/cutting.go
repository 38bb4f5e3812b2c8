package api

import (
	"bytes"
	"context"
	"fmt"
	"net/http"
	"net/url"
	"slices"
	"strings"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/danielgtaylor/huma/v2/sse"

	"juxta/core/cutpath"
	"juxta/core/master"
	"juxta/core/nest"
	"juxta/format/dxf"
	"juxta/format/gcode"
	"juxta/format/pdf"
	"juxta/format/svg"
	"juxta/paper"
	"juxta/shop/book"
	"juxta/shop/cutting"
	"juxta/wire"
)

// pollEvery is how often a page that follows long work hears of it.
const pollEvery = 400 * time.Millisecond

func (r *routes) cut() {
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
	get(r, "/api/nests", "nests", "Nests, newest first", func(ctx context.Context, _ *none) ([]cutting.NestLine, error) {
		return r.shop.Nests(ctx)
	})
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
			Drawing []byte `json:"drawing" doc:"DXF; outlines on layer CUT, or all of them where there is no such layer" minLength:"1" maxLength:"20000000"`
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
			Piece  wire.Placement   `json:"piece" doc:"Where it is wanted"`
			Others []wire.Placement `json:"others,omitempty" doc:"Pieces that were moved before" maxItems:"3000"`
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
		func(ctx context.Context, _ book.By, in *put) (cutting.Put, error) {
			return r.shop.PutPiece(ctx, in.Code, in.Body.Piece, in.Body.Others, in.Body.Reach, in.Body.About)
		},
	)
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
		func(ctx context.Context, in *InOrder) (cutting.KnifeWay, error) {
			w, err := r.shop.WayOf(ctx, in.Code, in.ByKit)
			if err != nil {
				return cutting.KnifeWay{}, err
			}
			return w.View(), nil
		},
	)
	get(r, "/api/nests/{code}/ruled", "nestRuled", "The straight cuts of the nest for who cuts by hand, the longest first",
		func(ctx context.Context, in *ByCode) ([]cutting.RuledView, error) {
			return r.shop.RuledOf(ctx, in.Code)
		})
	huma.Register(r.api, huma.Operation{
		OperationID: "nestGCode", Method: http.MethodGet, Path: "/api/nests/{code}/cut.nc",
		Summary: "The program of pen and knife, words of ISO 6983",
		Responses: map[string]*huma.Response{
			"200": {Description: "The program", Content: map[string]*huma.MediaType{"text/plain": {}}},
		},
	}, func(ctx context.Context, in *program) (*file, error) {
		w, err := r.shop.WayOf(ctx, in.Code, in.ByKit)
		if err != nil {
			return nil, problem(ctx, err)
		}
		var out bytes.Buffer
		err = gcode.Write(&out, w.Path, gcode.Options{
			Name: w.Nest.Code + " ON " + w.Nest.Roll, IDs: w.IDs, Cutter: w.Cutter, Tangential: in.Tangential,
		})
		if err != nil {
			return nil, problem(ctx, err)
		}
		return &file{"text/plain; charset=us-ascii", attachment(w.Nest.Code + ".nc"), out.Bytes()}, nil
	})
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
	r.download(
		"/api/nests/{code}/cut.dxf",
		"nestDXF",
		"The cut file, DXF in mm",
		"image/vnd.dxf",
		func(ctx context.Context, code string) (string, []byte, error) {
			v, pieces, err := r.sheet(ctx, code)
			if err != nil {
				return "", nil, err
			}
			var file bytes.Buffer
			if err := dxf.Write(&file, pieces); err != nil {
				return "", nil, err
			}
			return v.Code + ".dxf", file.Bytes(), nil
		},
	)
	for _, l := range []struct {
		name, id, says string
		sheet          bool
	}{
		{"labels", "nestLabels", "The labels of the cut plies on sheets, PDF", true},
		{"label", "nestLabel", "The labels of the cut plies, one to a page, PDF", false},
	} {
		r.download(
			"/api/nests/{code}/"+l.name+".pdf",
			l.id,
			l.says,
			"application/pdf",
			func(ctx context.Context, code string) (string, []byte, error) {
				v, err := r.shop.Nest(ctx, code)
				if err != nil {
					return "", nil, err
				}
				raw, err := paper.PlyLabels(v, l.sheet)
				return v.Code + "-" + l.name + ".pdf", raw, err
			},
		)
	}
	for _, t := range []struct {
		name, id, says string
		tiled          bool
	}{
		{"template", "nestTemplate", "The nest at 1:1 on one page, PDF", false},
		{"tiles", "nestTiles", "The nest at 1:1 on pages of A4, PDF", true},
	} {
		r.download(
			"/api/nests/{code}/"+t.name+".pdf",
			t.id,
			t.says,
			"application/pdf",
			func(ctx context.Context, code string) (string, []byte, error) {
				v, pieces, err := r.sheet(ctx, code)
				if err != nil {
					return "", nil, err
				}
				var file bytes.Buffer
				title := fmt.Sprintf("Nest %s on roll %s, %s", v.Code, v.Roll, v.Material)
				err = pdf.Template(&file, pdf.Cloth{Title: title, Width: v.Width, Length: v.Length, Pieces: pieces}, t.tiled)
				return v.Code + "-" + t.name + ".pdf", file.Bytes(), err
			},
		)
	}
	r.download(
		"/api/nests/{code}/cut.csv",
		"nestCSV",
		"What is cut, a line a piece, CSV",
		"text/csv",
		func(ctx context.Context, code string) (string, []byte, error) {
			v, err := r.shop.Nest(ctx, code)
			if err != nil {
				return "", nil, err
			}
			raw, err := paper.CutList(v)
			return v.Code + ".csv", raw, err
		},
	)
	r.download(
		"/api/nests/{code}/cut.svg",
		"nestSVG",
		"The nest at 1:1, SVG",
		"image/svg+xml",
		func(ctx context.Context, code string) (string, []byte, error) {
			v, pieces, err := r.sheet(ctx, code)
			if err != nil {
				return "", nil, err
			}
			sheet := svg.Sheet{
				Width:  v.Width,
				Length: v.Length,
				Title:  fmt.Sprintf("Nest %s on roll %s, %s", v.Code, v.Roll, v.Material),
			}
			for _, f := range v.Flaws {
				if f.From < v.Length {
					sheet.Flaws = append(sheet.Flaws, [2]float64{f.From, min(f.To, v.Length)})
				}
			}
			var file bytes.Buffer
			if err := svg.Write(&file, sheet, pieces); err != nil {
				return "", nil, err
			}
			return v.Code + ".svg", file.Bytes(), nil
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
func seenIn(raw []byte, unit string) ([]nest.Seen, error) {
	drawing, faults := dxf.Read(raw, unitOfDrawing(unit))
	if len(faults) > 0 {
		return nil, &book.Error{
			Rule: book.Faults, Field: "drawing", Says: "the drawing has faults: nothing was stored", Details: faults,
		}
	}
	layered := slices.ContainsFunc(drawing.Outlines, func(o dxf.Outline) bool { return o.Layer == "CUT" })
	var all []nest.Seen
	for _, o := range drawing.Outlines {
		if layered && o.Layer != "CUT" {
			continue
		}
		one := nest.Seen{Outline: o.Ring}
		for _, m := range o.Marks {
			if m.Text != "" {
				one.Says = append(one.Says, m.Text)
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

// sheet is a nest as the drawing formats want it: outlines with labels inside.
func (r *routes) sheet(ctx context.Context, code string) (cutting.NestView, []dxf.Piece, error) {
	v, err := r.shop.Nest(ctx, code)
	if err != nil {
		return v, nil, err
	}
	if len(v.Placed) == 0 {
		return v, nil, &book.Error{Rule: book.NotNow, Says: "there is no nest to export yet"}
	}
	pieces := make([]dxf.Piece, len(v.Placed))
	for i, p := range v.Placed {
		label := p.Label
		if p.CutPly != "" {
			label += " " + p.CutPly
		}
		ring := p.Outline.Ring()
		at, height := cutpath.LabelPlace(ring, len([]rune(label)))
		pieces[i] = dxf.Piece{Outline: ring, Label: label, At: at, Height: height, Marks: marksOf(p.Marks)}
	}
	return v, pieces, nil
}

// marksOf are marks as the drawing formats want them.
func marksOf(all []master.Drawn) []dxf.Mark {
	out := make([]dxf.Mark, 0, len(all))
	for _, m := range all {
		if points := m.Places(); len(points) > 0 {
			mark := dxf.Mark{Text: m.Says, At: points[0], Line: points, Closed: m.Closed}
			if len(points) > 1 {
				mark.Text = "" // a line's name is not drawn
			}
			out = append(out, mark)
		}
	}
	return out
}

// download registers a route that gives a file.
func (r *routes) download(
	path, id, summary, mime string,
	make func(ctx context.Context, code string) (string, []byte, error),
) {
	huma.Register(r.api, huma.Operation{OperationID: id, Method: http.MethodGet, Path: path, Summary: summary,
		Responses: map[string]*huma.Response{"200": {Description: summary, Content: map[string]*huma.MediaType{mime: {}}}}},
		func(ctx context.Context, in *ByCode) (*file, error) {
			name, raw, err := make(ctx, in.Code)
			if err != nil {
				return nil, problem(ctx, err)
			}
			return &file{mime, attachment(name), raw}, nil
		})
}

// attachment and inline are how a file is named in its header: in plain letters,
// and in its own beside them (RFC 6266, RFC 8187), so that no name can end the
// header's text and begin another.
func attachment(name string) string { return disposed("attachment", name) }

func disposed(how, name string) string {
	name = strings.Map(func(r rune) rune {
		if r < ' ' || r == 0x7f || strings.ContainsRune(`/\\`, r) {
			return '_'
		}
		return r
	}, name)
	plain := strings.Map(func(r rune) rune {
		if r > '~' || strings.ContainsRune(`"'%;*`, r) {
			return '_'
		}
		return r
	}, name)
	header := how + `; filename="` + plain + `"`
	if plain != name {
		header += "; filename*=UTF-8''" + strings.ReplaceAll(url.QueryEscape(name), "+", "%20")
	}
	return header
}

type file struct {
	ContentType string `header:"Content-Type"`
	Disposition string `header:"Content-Disposition"`
	Body        []byte
}
