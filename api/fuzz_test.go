package api_test

import (
	"encoding/json"
	"fmt"
	"maps"
	"math/rand/v2"
	"net/http"
	"net/url"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"juxta/api"
	"juxta/core/ident"
	"juxta/demo/demotest"
	"juxta/shop"
	"juxta/shop/parts"
	"juxta/store/storetest"
)

// schema is as much of JSON Schema as the contract uses.
type schema struct {
	Ref        string            `json:"$ref"`
	Type       any               `json:"type"`
	Enum       []any             `json:"enum"`
	Properties map[string]schema `json:"properties"`
	Required   []string          `json:"required"`
	Items      *schema           `json:"items"`
	Minimum    *float64          `json:"minimum"`
	Maximum    *float64          `json:"maximum"`
	MaxLength  *int              `json:"maxLength"`
	MaxItems   *int              `json:"maxItems"`
	Additional any               `json:"additionalProperties"`
}

type operation struct {
	method, path string
	Parameters   []struct {
		Name, In string
		Schema   schema
	} `json:"parameters"`
	RequestBody struct {
		Content map[string]struct {
			Schema schema `json:"schema"`
		} `json:"content"`
	} `json:"requestBody"`
}

type contract struct {
	operations []operation
	schemas    map[string]schema
}

func readContract(t testing.TB) contract {
	t.Helper()
	raw, err := api.OpenAPI()
	require.NoError(t, err)
	var doc struct {
		Paths      map[string]map[string]operation `json:"paths"`
		Components struct {
			Schemas map[string]schema `json:"schemas"`
		} `json:"components"`
	}
	require.NoError(t, json.Unmarshal(raw, &doc))
	c := contract{schemas: doc.Components.Schemas}
	for _, path := range slices.Sorted(maps.Keys(doc.Paths)) {
		for _, method := range slices.Sorted(maps.Keys(doc.Paths[path])) {
			o := doc.Paths[path][method]
			o.method, o.path = strings.ToUpper(method), path
			c.operations = append(c.operations, o)
		}
	}
	return c
}

// asking makes up inputs for the routes from what their schema says of them:
// mostly what it allows, at its edges too, and now and then something else.
type asking struct {
	contract
	rng *rand.Rand
}

var texts = []string{
	"",
	" ",
	"SP-11",
	"a",
	"=1+1",
	"'; drop table people; --",
	"<b>x</b>",
	"ß\u202eé\u0000",
	strings.Repeat("long ", 60),
	"NaN",
	"1,234",
	"2026-02-30",
	"2026-06-10T08:00:00Z",
	pin,
	password,
	"../../etc/passwd",
}

func (a asking) value(s schema, depth int) any {
	if s.Ref != "" {
		s = a.schemas[s.Ref[strings.LastIndex(s.Ref, "/")+1:]]
	}
	odd := a.rng.IntN(12) == 0
	if odd {
		return []any{nil, true, -1, 1e308, "x", []any{}, map[string]any{}, 0.5}[a.rng.IntN(8)]
	}
	if len(s.Enum) > 0 {
		return s.Enum[a.rng.IntN(len(s.Enum))]
	}
	kind, _ := s.Type.(string)
	if kinds, several := s.Type.([]any); several {
		kind, _ = kinds[0].(string)
	}
	switch kind {
	case "boolean":
		return a.rng.IntN(2) == 0
	case "integer":
		return []int64{0, 1, 2, 3, 7, -1, 1 << 40, 1<<53 + 1}[a.rng.IntN(8)]
	case "number":
		edges := []float64{0, 1, 0.3, 273.15, 400, 1e5, -1, 1e-9, 1e300}
		if s.Minimum != nil {
			edges = append(edges, *s.Minimum)
		}
		if s.Maximum != nil {
			edges = append(edges, *s.Maximum)
		}
		return edges[a.rng.IntN(len(edges))]
	case "string":
		if s.MaxLength != nil && a.rng.IntN(8) == 0 {
			return strings.Repeat("m", min(*s.MaxLength+a.rng.IntN(2), 5000))
		}
		if a.rng.IntN(3) == 0 {
			return a.code()
		}
		return texts[a.rng.IntN(len(texts))]
	case "array":
		out := []any{}
		for range a.rng.IntN(4) {
			if s.Items != nil && depth < 6 {
				out = append(out, a.value(*s.Items, depth+1))
			}
		}
		return out
	}
	out := map[string]any{}
	for _, name := range slices.Sorted(maps.Keys(s.Properties)) {
		needed := slices.Contains(s.Required, name)
		if name != "$schema" && (needed && a.rng.IntN(30) > 0 || !needed && a.rng.IntN(2) == 0) && depth < 8 {
			out[name] = a.value(s.Properties[name], depth+1)
		}
	}
	return out
}

// code is the id of something that may be there.
func (a asking) code() string {
	kinds := []ident.Kind{ident.Roll, ident.Part, ident.Build, ident.CutPly, ident.Nest, ident.Run}
	return ident.Format(kinds[a.rng.IntN(len(kinds))], 1+a.rng.Int64N(12))
}

func (a asking) request(o operation) (path, body string) {
	path = o.path
	query := url.Values{}
	for _, p := range o.Parameters {
		v := a.value(p.Schema, 0)
		if p.Name == "code" || p.Name == "id" && a.rng.IntN(4) > 0 {
			v = map[bool]any{true: a.code(), false: 1 + a.rng.IntN(9)}[p.Name == "code"]
		}
		text := fmt.Sprint(v)
		switch p.In {
		case "path":
			if text == "" || text == "." || text == ".." {
				text = "x"
			}
			path = strings.ReplaceAll(path, "{"+p.Name+"}", url.PathEscape(text))
		case "query":
			query.Set(p.Name, text)
		}
	}
	if len(query) > 0 {
		path += "?" + query.Encode()
	}
	for _, content := range o.RequestBody.Content {
		raw, err := json.Marshal(a.value(content.Schema, 0))
		if err != nil {
			panic(err)
		}
		body = string(raw)
	}
	return path, body
}

// Whatever is asked, by whoever works here: an answer, or a refusal in words that
// echoes nothing and names no code of ours; never a fault of the server.
func FuzzRoutes(f *testing.F) {
	c := readContract(f)
	require.Greater(f, len(c.operations), 100)
	for k := range c.operations {
		f.Add(uint(k), uint64(k))
		f.Add(uint(k), uint64(1_000_000+k))
	}
	b, s := serveOn(f, storetest.Open(f, demotest.Shop), api.Options{})
	people := []string{"Ada Wren", "Marek Orde", "Jonas Quist", "Ines Falk"}
	at := ""
	f.Fuzz(func(t *testing.T, which uint, seed uint64) {
		o := c.operations[which%uint(len(c.operations))]
		if strings.HasSuffix(o.path, "/events") || o.method == http.MethodDelete && o.path == "/api/session" {
			t.Skip("a stream, and the end of the session")
		}
		a := asking{c, rand.New(rand.NewPCG(seed, 1))}
		b.t = t
		if who := people[a.rng.IntN(len(people))]; who != at {
			// Somebody may have been sent away, or got another secret.
			require.NoError(t, s.DB.Gorm.Exec(`update people set left_at = null`).Error)
			b.signIn(who)
			at = who
		}
		path, body := a.request(o)
		got := b.send(o.method, path, body, key, fmt.Sprintf("fuzz-%d-%d", which, seed))
		if got.StatusCode == http.StatusUnauthorized {
			at = ""
		}
		require.Less(t, got.StatusCode, 500, "%s %s %s: %s", o.method, path, body, got.body)
		if got.StatusCode < 400 {
			return
		}
		var told struct {
			Detail string `json:"detail"`
		}
		require.NoError(t, json.Unmarshal(got.body, &told), "%s %s: %s", o.method, path, got.body)
		require.NotEmpty(t, told.Detail, "%s %s", o.method, path)
		for _, ours := range []string{"SQLSTATE", "panic", "runtime error", "gorm", "expected ", "validation failed"} {
			assert.NotContains(t, string(got.body), ours, "%s %s %s", o.method, path, body)
		}
	})
}

// Whatever a master file holds: it is refused and nothing of it is stored, or
// what was stored is written out and comes in again as the same.
func FuzzMasterFile(f *testing.F) {
	b, s := serveOn(f, storetest.Open(f, demotest.Shop), api.Options{})
	b.t = f
	b.signIn("Marek Orde")
	allParts, err := s.Parts(f.Context())
	require.NoError(f, err)
	for _, p := range allParts {
		file, err := s.ExportMaster(f.Context(), p.Code, "")
		require.NoError(f, err)
		raw, err := json.Marshal(file)
		require.NoError(f, err)
		f.Add(raw)
		f.Add([]byte(strings.Replace(string(raw), `"angleDeg":45`, `"angleDeg":1e300`, 1)))
		f.Add([]byte(strings.ReplaceAll(string(raw), `"outline":"`, `"outline":"no `)))
		f.Add([]byte(strings.Replace(string(raw), `"kind":"ply"`, `"kind":"core"`, 2)))
	}
	n := 0
	f.Fuzz(func(t *testing.T, raw []byte) {
		b.t = t
		n++
		before := counted(t, s)
		got := b.send("POST", "/api/masters", string(raw), key, fmt.Sprintf("master-%d-%d", n, len(raw)))
		require.Less(t, got.StatusCode, 500, string(got.body))
		if got.StatusCode != http.StatusOK {
			require.Equal(t, before, counted(t, s), "nothing is stored of what is refused: %s", got.body)
			return
		}
		var v parts.RevisionView
		require.NoError(t, json.Unmarshal(got.body, &v))
		out, err := s.ExportMaster(t.Context(), v.Part.Code, v.Letter)
		require.NoError(t, err)
		again, err := json.Marshal(out)
		require.NoError(t, err)
		second := b.send("POST", "/api/masters", string(again), key, fmt.Sprintf("again-%d-%d", n, len(raw)))
		require.Less(t, second.StatusCode, 500, string(second.body))
		if second.StatusCode == http.StatusOK {
			var w parts.RevisionView
			require.NoError(t, json.Unmarshal(second.body, &w))
			require.Equal(t, v.Document, w.Document)
		}
	})
}

func counted(t testing.TB, s *shop.Shop) (n [3]int) {
	t.Helper()
	for k, table := range []string{"parts", "revisions", "entries"} {
		require.NoError(t, s.DB.Gorm.Raw(`select count(*) from `+table).Scan(&n[k]).Error)
	}
	return n
}
