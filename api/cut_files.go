package api

import (
	"bytes"
	"context"
	"fmt"
	"net/http"
	"net/url"
	"strings"

	"github.com/danielgtaylor/huma/v2"

	"juxta/core/cutpath"
	"juxta/core/master"
	"juxta/format/dxf"
	"juxta/format/gcode"
	"juxta/format/pdf"
	"juxta/format/svg"
	"juxta/paper"
	"juxta/shop/book"
	"juxta/shop/cutting"
)

// cutFiles are what a nest is written to: programs, drawings, lists, templates and labels.
func (r *routes) cutFiles() {
	r.knifeFiles()
	r.cutPapers()
}

// knifeFiles are a nest as a cutting table reads it, and the labels of what it cuts.
func (r *routes) knifeFiles() {
	huma.Register(r.api, huma.Operation{
		OperationID: "nestGCode", Method: http.MethodGet, Path: "/api/nests/{code}/cut.nc",
		Summary: "The program of pen and knife, words of ISO 6983",
		Responses: map[string]*huma.Response{
			"200": {Description: "The program", Content: map[string]*huma.MediaType{"text/plain": {}}},
		},
	}, func(ctx context.Context, in *program) (*file, error) {
		w, err := r.shop.KnifePath(ctx, in.Code, in.ByKit)
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
}

// cutPapers are a nest for people and their tables.
func (r *routes) cutPapers() {
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
				err = pdf.Template(
					&file,
					pdf.Cloth{Title: title, Width: v.Width, Length: v.Length, Pieces: pieces},
					t.tiled,
				)
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

// sheet is a nest as the drawing formats want it: outlines with labels inside.
func (r *routes) sheet(ctx context.Context, code string) (cutting.NestView, []dxf.LabelledOutline, error) {
	v, err := r.shop.Nest(ctx, code)
	if err != nil {
		return v, nil, err
	}
	if len(v.Placed) == 0 {
		return v, nil, &book.Error{Rule: book.NotNow, Message: "there is no nest to export yet"}
	}
	pieces := make([]dxf.LabelledOutline, len(v.Placed))
	for i, p := range v.Placed {
		label := p.Label
		if p.CutPly != "" {
			label += " " + p.CutPly
		}
		ring := p.Outline
		at, height := cutpath.LabelPlace(ring, len([]rune(label)))
		pieces[i] = dxf.LabelledOutline{Outline: ring, Label: label, At: at, Height: height, Marks: marksOf(p.Marks)}
	}
	return v, pieces, nil
}

// marksOf are marks as the drawing formats want them.
func marksOf(all []master.DrawnMark) []dxf.Detail {
	out := make([]dxf.Detail, 0, len(all))
	for _, m := range all {
		if points := m.Places(); len(points) > 0 {
			mark := dxf.Detail{Text: m.Text, At: points[0], Line: points, Closed: m.Closed}
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
		Responses: map[string]*huma.Response{
			"200": {Description: summary, Content: map[string]*huma.MediaType{mime: {}}},
		}},
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
