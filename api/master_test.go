package api_test

import (
	"encoding/base64"
	"encoding/json"
	"fmt"
	"math"
	"net/http"
	"strings"
	"testing"

	"github.com/santhosh-tekuri/jsonschema/v6"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"juxta/calc/calctest"
	"juxta/core/master"
	"juxta/shop/parts"
	"juxta/shop/shoptest"
)

// partCode is the code of the part with a number.
func (b *browser) partCode(number string) string {
	b.t.Helper()
	var parts []parts.PartLine
	b.send("GET", "/api/parts", "").into(b.t, &parts)
	for _, p := range parts {
		if p.Number == number {
			return p.Code
		}
	}
	b.t.Fatalf("no part %s", number)
	return ""
}

// big brings a master of n plies in, with a patch on each tenth.
func (b *browser) big(n int) parts.RevisionView {
	b.t.Helper()
	var file parts.MasterFile
	b.send("GET", "/api/parts/"+b.partCode("SP-11")+"/master.json?letter=A", "").into(b.t, &file)
	raw, err := json.Marshal(shoptest.Many(file, n))
	require.NoError(b.t, err)
	var v parts.RevisionView
	got := b.send("POST", "/api/masters", string(raw), key, fmt.Sprintf("big-master-%d", n))
	require.Equal(b.t, http.StatusOK, got.StatusCode, string(got.body))
	got.into(b.t, &v)
	return v
}

func TestABadMasterIsRefusedAtItsPlace(t *testing.T) {
	b := open(t)
	b.signIn("Marek Orde")
	code := b.partCode("SP-25")
	var v parts.RevisionView
	b.send("GET", "/api/parts/"+code, "").into(t, &v)
	change := func(edit func(d map[string]any)) answer {
		raw, err := json.Marshal(v.Document)
		require.NoError(t, err)
		var d map[string]any
		require.NoError(t, json.Unmarshal(raw, &d))
		edit(d)
		body, err := json.Marshal(map[string]any{"version": v.Version, "document": d})
		require.NoError(t, err)
		return b.send("POST", "/api/parts/"+code+"/draft", string(body), key, "bad-master-"+fmt.Sprint(len(body)))
	}
	item := func(d map[string]any) map[string]any {
		return d["stages"].([]any)[0].(map[string]any)["items"].([]any)[0].(map[string]any)
	}
	for says, edit := range map[string]func(d map[string]any){
		"angleDeg":                          func(d map[string]any) { item(d)["angleDeg"] = "north" },
		"ply 1: this material is not known": func(d map[string]any) { item(d)["materialId"] = 999 },
		"ply 1: there is no outline":        func(d map[string]any) { item(d)["outline"] = "nowhere" },
		"crosses itself": func(d map[string]any) {
			d["outlines"].([]any)[0] = map[string]any{
				"name": "shell", "kind": "points",
				"points": []map[string]float64{{"x": 0, "y": 0}, {"x": 1, "y": 1}, {"x": 1, "y": 0}, {"x": 0, "y": 1}},
			}
		},
		"encloses no area": func(d map[string]any) {
			d["outlines"].([]any)[0] = map[string]any{
				"name": "shell", "kind": "points",
				"points": []map[string]float64{{"x": 0, "y": 0}, {"x": 1, "y": 0}, {"x": 2, "y": 0}},
			}
		},
		"more than the 500": func(d map[string]any) {
			all := []any{}
			for k := range 501 {
				i := map[string]any{}
				for f, x := range item(d) {
					i[f] = x
				}
				i["key"] = fmt.Sprint("many", k)
				all = append(all, i)
			}
			d["stages"].([]any)[0].(map[string]any)["items"] = all
		},
		"cross each other so often": func(d map[string]any) {
			// Laid flat: the 130 need not be draped to tell.
			delete(d["stages"].([]any)[0].(map[string]any), "surface")
			for _, i := range d["stages"].([]any)[0].(map[string]any)["items"].([]any) {
				delete(i.(map[string]any), "laid")
			}
			for k := range 130 {
				points := []map[string]float64{}
				for i := range 100 {
					s, c := math.Sincos(2 * math.Pi * float64(i) / 100)
					r := 1 + 0.1*math.Sin(2*math.Pi*9*float64(i)/100+float64(k))
					points = append(points, map[string]float64{"x": r*c + 1e-3*float64(k), "y": r * s})
				}
				name := fmt.Sprint("wave", k)
				d["outlines"] = append(d["outlines"].([]any), map[string]any{"name": name, "kind": "points",
					"points": points})
				i := map[string]any{}
				for f, x := range item(d) {
					i[f] = x
				}
				i["key"], i["outline"] = name, name
				d["stages"].([]any)[0].(map[string]any)["items"] = append(
					d["stages"].([]any)[0].(map[string]any)["items"].([]any), i,
				)
			}
		},
		"maxItems": func(d map[string]any) { d["stages"].([]any)[0].(map[string]any)["items"] = make([]any, 2001) },
	} {
		got := change(edit)
		assert.Equal(t, http.StatusUnprocessableEntity, got.StatusCode, says)
		if says != "maxItems" {
			assert.Contains(t, string(got.body), says)
		}
	}
	var after parts.RevisionView
	b.send("GET", "/api/parts/"+code, "").into(t, &after)
	assert.Equal(t, v, after, "nothing is stored")
	var read struct {
		Plies   []struct{ AngleDeg float64 }
		At      *int
		Message string
	}
	b.send("GET", "/api/stack?code=0/45s", "").into(t, &read)
	assert.Len(t, read.Plies, 4)
	b.send("GET", "/api/stack?code=0/x", "").into(t, &read)
	assert.Equal(t, 2, *read.At)
	assert.Contains(t, read.Message, "is not an angle")
}

// An outline of every kind of the library, as the page begins it, is one that can
// be drawn: in the units of a document.
func TestEveryShapeOfTheLibraryCanBeBegun(t *testing.T) {
	b := open(t)
	b.signIn("Marek Orde")
	var kinds []struct {
		Kind, Called string
		Dims         []struct {
			Name, Unit string
			Usual      float64
		}
	}
	b.send("GET", "/api/shapes", "").into(t, &kinds)
	require.Len(t, kinds, 8)
	d := master.Document{Format: master.Format, Stages: []master.Stage{}}
	for _, k := range kinds {
		o := master.Outline{Name: k.Called, Kind: k.Kind, Dims: map[string]float64{}}
		for _, dim := range k.Dims {
			assert.Contains(t, []string{"m", "°", "number"}, dim.Unit)
			o.Dims[dim.Name] = dim.Usual
		}
		d.Outlines = append(d.Outlines, o)
	}
	body, err := json.Marshal(parts.Question{Document: &d, Outlines: true})
	require.NoError(t, err)
	var reply parts.Reply
	b.send("POST", "/api/parts/"+b.partCode("SP-25")+"/ask", string(body), key, "all-shapes").into(t, &reply)
	assert.Empty(t, reply.Faults)
	assert.Len(t, reply.Outlines, 8)
}

// What goes out as files comes in again: table and outlines by DXF make the same
// plies, the schema names every member of the file.
func TestTablesAndOutlinesComeBack(t *testing.T) {
	b := open(t)
	b.signIn("Marek Orde")
	code := b.partCode("SP-11")
	var v, back parts.RevisionView
	b.send("GET", "/api/parts/"+code+"?letter=A", "").into(t, &v)
	table := b.send("GET", "/api/parts/"+code+"/plies.xlsx?letter=A", "").body
	drawing := b.send("GET", "/api/parts/"+code+"/outlines.dxf?letter=A", "").body
	body, err := json.Marshal(
		map[string]string{
			"number":       "SP-90",
			"name":         "Back again",
			"drawing":      string(drawing),
			"plyTableXlsx": base64.StdEncoding.EncodeToString(table),
		},
	)
	require.NoError(t, err)
	got := b.send("POST", "/api/parts", string(body), key, "back-again-xlsx")
	require.Equal(t, http.StatusOK, got.StatusCode, string(got.body))
	got.into(t, &back)
	require.Len(t, back.Plies, len(v.Plies))
	for i, p := range back.Plies {
		w := v.Plies[i]
		assert.Equal(
			t,
			[]any{w.Material, w.AngleDeg, w.Shape, w.FaceUp},
			[]any{p.Material, p.AngleDeg, p.Shape, p.FaceUp},
		)
		assert.InDelta(t, w.Area, p.Area, 1e-7)
	}
	svg := b.send("GET", "/api/parts/"+code+"/outlines.svg?letter=A", "").body
	body, err = json.Marshal(map[string]string{"name": "a.svg", "content": string(svg)})
	require.NoError(t, err)
	var drawn struct {
		Outlines []master.Outline
		Notes    []string
	}
	b.send("POST", "/api/parts/"+code+"/outlines", string(body), key, "outlines-svg").into(t, &drawn)
	assert.Empty(t, drawn.Notes)
	outlines := drawn.Outlines
	require.Len(t, outlines, len(v.Document.Outlines))
	for _, o := range outlines {
		ring, err := o.Ring()
		require.NoError(t, err)
		want, err := v.Document.Ring(o.Name)
		require.NoError(t, err)
		assert.InDelta(t, want.Area(), ring.Area(), 1e-7)
	}
	for name, content := range map[string]string{"a.txt": "x", "a.dxf": "x", "a.svg": "<html/>"} {
		body, _ = json.Marshal(map[string]string{"name": name, "content": content})
		assert.Equal(
			t,
			http.StatusUnprocessableEntity,
			b.send("POST", "/api/parts/"+code+"/outlines", string(body), key, "bad-"+name+"-drawing").StatusCode,
		)
	}
}

// The files of all masters of the demo are what the schema says, as others read it.
func TestMasterFilesAreWhatTheirSchemaSays(t *testing.T) {
	b := open(t)
	b.signIn("Marek Orde")
	schema := b.send("GET", "/api/master.schema.json", "").body
	var all []parts.PartLine
	b.send("GET", "/api/parts", "").into(t, &all)
	require.Greater(t, len(all), 5)
	for _, p := range all {
		file := b.send("GET", "/api/parts/"+p.Code+"/master.json", "")
		require.Equal(t, http.StatusOK, file.StatusCode, p.Number)
		assert.NoError(t, calctest.Against(schema, file.body), p.Number)
	}
	var broken *jsonschema.ValidationError
	assert.ErrorAs(t, calctest.Against(schema, []byte(`{"number": 7}`)), &broken)
	// One that names its schema, as other writers do, is taken.
	file := b.send("GET", "/api/parts/"+b.partCode("SP-11")+"/master.json?letter=A", "").body
	named := strings.Replace(
		string(file),
		`"number": "SP-11"`,
		`"$schema": "http://localhost/api/master.schema.json", "number": "CP-77"`,
		1,
	)
	assert.NoError(t, calctest.Against(schema, []byte(named)))
	got := b.send("POST", "/api/masters", named, key, "names-its-schema")
	assert.Equal(t, http.StatusOK, got.StatusCode, string(got.body))
}

// Masters of 100 plies on 11 outlines and of 500 plies on 51: what their page asks
// for when it is opened, what it asks at every key, and the drawing that follows.
// Over HTTP, JSON and all.
//
//	go test ./api -run '^$' -bench BigMaster
func BenchmarkBigMaster(b *testing.B) {
	web, _ := serve(b)
	web.signIn("Marek Orde")
	for _, n := range []int{100, 500} {
		v := web.big(n)
		require.Len(b, v.Plies, n)
		at := "/api/parts/" + v.Part.Code
		question, err := json.Marshal(parts.Question{Document: &v.Document})
		require.NoError(b, err)
		drawing, err := json.Marshal(parts.DrawingQuestion{Document: &v.Document})
		require.NoError(b, err)
		b.Run(fmt.Sprintf("open-%d", n), func(b *testing.B) {
			for b.Loop() {
				require.Equal(b, http.StatusOK, web.send("GET", at+"?only=written", "").StatusCode)
			}
		})
		for name, body := range map[string]string{"ask": string(question), "drawing": string(drawing)} {
			b.Run(fmt.Sprintf("%s-%d", name, n), func(b *testing.B) {
				for b.Loop() {
					got := web.send("POST", at+"/"+name, body, key, "every-key-asks-"+name)
					require.Equal(b, http.StatusOK, got.StatusCode, string(got.body))
				}
			})
		}
	}
}
