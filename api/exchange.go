package api

import (
	"bytes"
	"cmp"
	"context"
	"encoding/base64"
	"encoding/csv"
	"encoding/json"
	"fmt"
	"maps"
	"math"
	"net/http"
	"reflect"
	"slices"
	"strings"

	"github.com/danielgtaylor/huma/v2"

	"juxta/calc"
	"juxta/core/geom"
	"juxta/core/master"
	"juxta/core/unit"
	"juxta/format/dxf"
	"juxta/format/plytable"
	"juxta/format/sheet"
	"juxta/format/svg"
	"juxta/shop/book"
	"juxta/shop/parts"
)

// drawingBody is a drawing as text.
type drawingBody struct {
	Name    string `json:"name" maxLength:"200" doc:"Of the file: its ending says what it is"`
	Content string `json:"content" maxLength:"20000000"`
	Unit    string `json:"unit,omitempty" enum:"mm,inch" doc:"Of a drawing that does not say its own"`
	Binary  bool   `json:"binary,omitempty" doc:"The content is base64: of a DXF that is not of UTF-8"`
}

// movedBody asks for an outline beside another one.
type movedBody struct {
	Outline master.Outline `json:"outline"`
	Name    string         `json:"name" minLength:"1" maxLength:"60"`
	Offset  float64        `json:"offset" doc:"Outwards, m; below zero: inwards" minimum:"-10" maximum:"10"`
	Radius  float64        `json:"radius" doc:"Of its corners, m; 0: as they are" minimum:"0" maximum:"10"`
}

// RevisionFile asks for a file about a revision.
type RevisionFile struct {
	ByCode
	Letter string `query:"letter" maxLength:"4" doc:"Empty for the newest"`
}

// exchange registers the ways in and out of a master.
func (r *routes) exchange() {
	r.filesIn()
	r.filesOut()
}

// filesIn is what is read from files.
func (r *routes) filesIn() {
	post(
		r,
		book.WriteMaster,
		"/api/masters",
		"importMaster",
		"Import a whole master from its file",
		func(ctx context.Context, by book.By, in *a[parts.MasterFile]) (parts.RevisionView, error) {
			return r.shop.ImportMaster(ctx, by, in.Body)
		},
	)
	post(
		r,
		book.WriteMaster,
		"/api/parts/new",
		"beginPart",
		"Begin a part with an empty stack",
		func(ctx context.Context, by book.By, in *a[parts.NewPart]) (parts.RevisionView, error) {
			return r.shop.BeginPart(ctx, by, in.Body)
		},
	)
	post(
		r,
		book.AskMaster,
		"/api/parts/{code}/outlines",
		"readOutlines",
		"Outlines of a drawing; stores nothing",
		func(_ context.Context, _ book.By, in *with[drawingBody]) (drawnOutlines, error) {
			return readOutlines(in.Body)
		},
	)
	post(
		r,
		book.AskMaster,
		"/api/outline",
		"movedOutline",
		"An outline outside or inside another one, its corners rounded; stores nothing",
		func(_ context.Context, _ book.By, in *a[movedBody]) (master.Outline, error) {
			out, err := in.Body.Outline.Moved(in.Body.Name, in.Body.Offset, in.Body.Radius)
			if err != nil {
				return out, book.Wrong.At("outline", "%s", err)
			}
			return out, nil
		},
	)
}

// filesOut is a revision as files.
func (r *routes) filesOut() {
	r.revisionFile(
		"/api/parts/{code}/master.json",
		"masterFile",
		"The whole master as one file",
		"application/json",
		func(ctx context.Context, code, letter string) (string, []byte, error) {
			m, err := r.shop.ExportMaster(ctx, code, letter)
			if err != nil {
				return "", nil, err
			}
			raw, err := json.MarshalIndent(m, "", "  ")
			return m.Number + "-" + m.Letter + ".json", append(raw, '\n'), err
		},
	)
	for ending, mime := range map[string]string{
		"csv": "text/csv", "xlsx": "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet",
	} {
		r.revisionFile(
			"/api/parts/{code}/plies."+ending,
			"plyTable"+ending,
			"The ply table, "+ending,
			mime,
			func(ctx context.Context, code, letter string) (string, []byte, error) {
				v, table, err := r.plyTable(ctx, code, letter)
				if err != nil {
					return "", nil, err
				}
				var out bytes.Buffer
				if ending == "csv" {
					err = sheet.WriteCSV(&out, table)
				} else {
					err = sheet.WriteXLSX(&out, table)
				}
				return v.Part.Number + "-" + v.Letter + "-plies." + ending, out.Bytes(), err
			},
		)
	}
	for ending, mime := range map[string]string{
		"csv": "text/csv", "xlsx": "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet",
	} {
		r.revisionFile(
			"/api/parts/{code}/operations."+ending,
			"operationTable"+ending,
			"The operations of the route, "+ending,
			mime,
			func(ctx context.Context, code, letter string) (string, []byte, error) {
				v, err := r.shop.Written(ctx, code, letter)
				if err != nil {
					return "", nil, err
				}
				var out bytes.Buffer
				if ending == "csv" {
					err = sheet.WriteCSV(&out, operationTable(v.Document))
				} else {
					err = sheet.WriteXLSX(&out, operationTable(v.Document))
				}
				return v.Part.Number + "-" + v.Letter + "-operations." + ending, out.Bytes(), err
			},
		)
	}
	r.shapesOut()
}

// shapesOut are the outlines of a revision, and the schema of its file.
func (r *routes) shapesOut() {
	for ending, mime := range map[string]string{"dxf": "image/vnd.dxf", "svg": "image/svg+xml"} {
		r.revisionFile(
			"/api/parts/{code}/outlines."+ending,
			"outlines"+ending,
			"The outlines in their own axes, "+ending,
			mime,
			func(ctx context.Context, code, letter string) (string, []byte, error) {
				v, err := r.shop.Written(ctx, code, letter)
				if err != nil {
					return "", nil, err
				}
				raw, err := drawn(v, ending)
				return v.Part.Number + "-" + v.Letter + "-outlines." + ending, raw, err
			},
		)
	}
	huma.Register(
		r.api,
		huma.Operation{
			OperationID: "masterSchema",
			Method:      http.MethodGet,
			Path:        "/api/master.schema.json",
			Summary:     "JSON Schema of a master file",
		},
		func(context.Context, *none) (*file, error) {
			schema := calc.SchemaOf(reflect.TypeFor[parts.MasterFile]())
			return &file{"application/schema+json", `inline; filename="master.schema.json"`, schema}, nil
		},
	)
}

// revisionFile registers a route that gives a file about a revision.
func (r *routes) revisionFile(
	path, id, summary, mime string,
	make func(ctx context.Context, code, letter string) (string, []byte, error),
) {
	huma.Register(r.api, huma.Operation{OperationID: id, Method: http.MethodGet, Path: path, Summary: summary,
		Responses: map[string]*huma.Response{
			"200": {Description: summary, Content: map[string]*huma.MediaType{mime: {}}},
		}},
		func(ctx context.Context, in *RevisionFile) (*file, error) {
			name, raw, err := make(ctx, in.Code, in.Letter)
			if err != nil {
				return nil, problem(ctx, err)
			}
			return &file{mime, attachment(name), raw}, nil
		})
}

// plyTable is a revision's plies as the import reads them.
func (r *routes) plyTable(ctx context.Context, code, letter string) (parts.RevisionView, sheet.Table, error) {
	v, err := r.shop.Written(ctx, code, letter)
	t := sheet.Table{Name: "plies", Columns: []string{"ply", "material", "angle", "outline", "face", "x", "y"}}
	for _, p := range v.Plies {
		face := "down"
		if p.FaceUp {
			face = "up"
		}
		t.Rows = append(t.Rows, []any{p.Number, p.Material, p.AngleDeg, p.Shape, face, exactMM(p.X), exactMM(p.Y)})
	}
	return v, t, err
}

// operationTable is a route as a table: what an operation waits for by its number, times
// in minutes.
func operationTable(doc master.Document) sheet.Table {
	route := parts.RouteOf(doc)
	t := sheet.Table{Name: "operations", Columns: []string{
		"number", "kind", "operation", "stages", "after", "room", "place", "tool", "set-up min", "attended min",
		"unattended min", "qualification", "second person", "hold point", "records", "settings of its own",
	}}
	numbers := map[string]string{}
	for _, v := range route.Operations {
		numbers[v.Key] = fmt.Sprint(v.Number)
	}
	for _, v := range route.Operations {
		o := route.Planned[slices.IndexFunc(route.Planned, func(o master.Operation) bool { return o.Key == v.Key })]
		var after, stages, records []string
		for _, key := range o.After {
			after = append(after, numbers[key])
		}
		for _, s := range doc.Stages {
			if slices.Contains(o.Stages, s.Key) {
				stages = append(stages, cmp.Or(s.Name, s.Kind))
			}
		}
		for _, f := range o.Fields {
			records = append(records, f.Name)
		}
		t.Rows = append(t.Rows, []any{
			v.Number, o.Kind, v.Label, strings.Join(stages, ", "), strings.Join(after, " "), v.Room, o.Place, o.Tool,
			o.SetUp / 60, o.Attended / 60, o.Unattended / 60, o.Qualification, map[bool]string{true: "yes"}[o.Second],
			o.Hold,
			strings.Join(records, ", "), unit.InMetric(strings.Join(o.Own(), "; ")),
		})
	}
	return t
}

// exactMM is a length in mm without what binary fractions add to it: a
// thousandth of a micrometre is kept.
func exactMM(m float64) float64 { return math.Round(m*1e9) / 1e6 }

func drawn(v parts.RevisionView, ending string) ([]byte, error) {
	var out bytes.Buffer
	var pieces []dxf.LabelledOutline
	var outlines []svg.Outline
	for _, o := range v.Document.Outlines {
		ring, err := o.Ring()
		if err != nil {
			continue // a family's outlines are drawn by its variants
		}
		pieces = append(pieces, dxf.LabelledOutline{Outline: ring, Layer: o.Name, Marks: marksOf(o.Marks)})
		outlines = append(outlines, svg.Outline{Name: o.Name, Ring: ring})
	}
	if len(outlines) == 0 {
		return nil, &book.Error{Rule: book.NotNow, Message: "there is no outline to write yet"}
	}
	if ending == "dxf" {
		err := dxf.Write(&out, pieces)
		return out.Bytes(), err
	}
	err := svg.WriteOutlines(&out, v.Part.Number+" "+v.Letter, outlines)
	return out.Bytes(), err
}

// drawnOutlines are the outlines of a drawing, and what was taken otherwise than it stands.
type drawnOutlines struct {
	Outlines []master.Outline `json:"outlines"`
	Notes    []string         `json:"notes"`
}

// unitOfDrawing is the unit of a drawing that does not say its own, m; 0: it was not chosen.
func unitOfDrawing(chosen string) float64 {
	return map[string]float64{"mm": 1e-3, "inch": 0.0254}[chosen]
}

func readOutlines(in drawingBody) (drawnOutlines, error) {
	out := drawnOutlines{[]master.Outline{}, []string{}}
	var faults []string
	taken := map[string]bool{}
	add := func(name string, ring geom.Ring, marks []master.DrawnMark) {
		o := master.Outline{Name: name, Kind: "points", Points: corners(ring), Marks: marks}
		for n := 2; taken[o.Name]; n++ {
			o.Name = fmt.Sprintf("%s %d", name, n)
		}
		taken[o.Name] = true
		out.Outlines = append(out.Outlines, o)
	}
	switch {
	case strings.HasSuffix(strings.ToLower(in.Name), ".svg"):
		read, wrong := svg.Read([]byte(in.Content), unitOfDrawing(in.Unit))
		if faults = wrong; read == nil {
			break
		}
		out.Notes = append(out.Notes, read.Notes...)
		for _, o := range read.Outlines {
			marks := make([]master.DrawnMark, len(o.Marks))
			for k, m := range o.Marks {
				marks[k] = drawnMark(m.Text, m.At, m.Line, m.Closed)
			}
			add(o.Name, o.Ring, marks)
		}
	case strings.HasSuffix(strings.ToLower(in.Name), ".dxf"):
		raw := []byte(in.Content)
		if in.Binary {
			var err error
			if raw, err = base64.StdEncoding.DecodeString(in.Content); err != nil {
				faults = []string{"the drawing did not arrive whole: choose it again"}
				break
			}
		}
		read, wrong := dxf.Read(raw, unitOfDrawing(in.Unit))
		if faults = wrong; read == nil {
			break
		}
		for _, o := range read.Outlines {
			marks := make([]master.DrawnMark, len(o.Marks))
			for k, m := range o.Marks {
				marks[k] = drawnMark(m.Text, m.At, m.Line, m.Closed)
			}
			add(o.Name, o.Ring, marks)
		}
		for _, kind := range slices.Sorted(maps.Keys(read.Left)) {
			out.Notes = append(out.Notes, fmt.Sprintf("left out, as it draws no outline: %d %s", read.Left[kind], kind))
		}
	default:
		faults = []string{"a drawing ends in .dxf or .svg"}
	}
	if len(faults) > 0 {
		return out, &book.Error{
			Rule:    book.Faults,
			Field:   "drawing",
			Message: "the drawing has faults: nothing was taken from it",
			Details: faults,
		}
	}
	return out, nil
}

func corners(points []geom.Point) []master.Corner {
	out := make([]master.Corner, len(points))
	for k, p := range points {
		out[k] = master.Corner{X: p.X, Y: p.Y}
	}
	return out
}

func drawnMark(says string, at geom.Point, line []geom.Point, closed bool) master.DrawnMark {
	if len(line) == 0 {
		line = []geom.Point{at}
	}
	return master.DrawnMark{Text: says, Points: corners(line), Closed: closed}
}

// tableOf is a ply table as CSV text, from CSV text or from an XLSX file in
// base64.
func tableOf(in importBody) ([]byte, error) {
	if in.PlyTableXLSX == "" {
		return []byte(in.PlyTable), nil
	}
	raw, err := base64.StdEncoding.DecodeString(in.PlyTableXLSX)
	if err != nil {
		return nil, &book.Error{
			Rule:    book.Unreadable,
			Field:   "plyTableXlsx",
			Message: "the ply table did not arrive whole: choose it again",
		}
	}
	rows, err := sheet.Read(raw)
	if err != nil {
		return nil, &book.Error{
			Rule:    book.Unreadable,
			Field:   "plyTableXlsx",
			Message: "the ply table cannot be read: " + err.Error(),
		}
	}
	if len(rows) > plytable.MaxRows+1 {
		return nil, &book.Error{
			Rule:    book.TooMuch,
			Field:   "plyTableXlsx",
			Message: fmt.Sprintf("the ply table has %d rows, at most %d plies are read", len(rows)-1, plytable.MaxRows),
		}
	}
	var out bytes.Buffer
	w := csv.NewWriter(&out)
	if err := w.WriteAll(rows); err != nil {
		return nil, err
	}
	return out.Bytes(), nil
}
