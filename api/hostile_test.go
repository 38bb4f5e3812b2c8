package api_test

import (
	"bufio"
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"log/slog"
	"math/rand/v2"
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"juxta/api"
	"juxta/core/ident"
	"juxta/demo/demotest"
	"juxta/shop"
	"juxta/shop/book"
	"juxta/shop/curing"
	"juxta/shop/cutting"
	"juxta/shop/parts"
	"juxta/store/storetest"
)

// routesOf lists the contract's paths with their methods.
func routesOf(t *testing.T) map[string][]string {
	t.Helper()
	raw, err := api.OpenAPI()
	require.NoError(t, err)
	var contract struct {
		Paths map[string]map[string]any
	}
	require.NoError(t, json.Unmarshal(raw, &contract))
	out := map[string][]string{}
	for path, methods := range contract.Paths {
		for m := range methods {
			out[path] = append(out[path], strings.ToUpper(m))
		}
	}
	return out
}

// Whatever is sent to whatever route: an answer below 500 that says something,
// and never an inside of ours.
func TestNothingThatIsSentMakesAFault(t *testing.T) {
	b := open(t)
	b.signIn("Ada Wren")
	codes := []string{
		"B-00000",
		ident.Format(ident.Build, 77),
		ident.Format(ident.Roll, 1),
		ident.Format(ident.Part, 1),
		ident.Format(ident.Nest, 1),
		"%00",
		"..%2f..%2fetc",
		"'; drop table rolls",
		"𝕏𝕏𝕏",
		strings.Repeat("9", 19),
	}
	bodies := []string{
		"",
		"null",
		"[]",
		`"text"`,
		"{}",
		"{",
		`{"x":1}`,
		`{"builds":[]}`,
		`{"builds":[null]}`,
		`{"builds":["'","` + ident.Format(ident.Build, 1) + `"],"roll":"R"}`,
		`{"ply":-1,"cutPly":"","filmsOff":99}`,
		`{"ply":1e99}`,
		`{"vacuum":"NaN"}`,
		`{"version":0,"plies":[{"shape":"","materialId":0,"angleDeg":1e9,
			"outline":[[0,0]],"x":0,"y":0,"faceUp":true}]}`,
		`{"version":1,"plies":[{"shape":"a","materialId":1,"angleDeg":0,
			"outline":[[1e300,0],[0,1e300],[-1e300,1]],"x":0,"y":0,"faceUp":true}]}`,
		`{"mass":1e308,"thickness":[1e308,-1],"disposition":"good"}`,
		`{"start":1,"end":1,"seconds":1e300}`,
		`{"materialId":-9,"lot":"\u0000","rolls":[{"length":1}]}`,
		`{"number":"\u0000","name":"n","plyTable":"material,angle,outline\nSable UD 150,0,f\n","drawing":"0\nSECTION"}`,
		`{"reason":"\u202e"}`,
		`{"serial":"x","cureAt":"9999-12-31T23:59:59Z"}`,
		`{"stack":"no bleed"}`,
		`{"personId":1,"secret":"1"}`,
		`{"rolls":["",null]}`,
		`{"rolls":[],"at":"0000-01-01T00:00:00Z"}`,
		`{"from":"2026-01-01T00:00:00Z","to":"1999-01-01T00:00:00Z","reason":"x"}`,
		`{"name":"x","kind":"woven","width":1e308,"sheet":{"resinShare":1,"fibreMass":1}}`,
		`{"name":"x","content":"AAAA"}`,
		`{"line":-1,"reason":"x","instead":{"at":"9999-12-31T23:59:59Z","length":1e308}}`,
		`{"outline":[[0,0],[1e300,0],[0,1e300]],"take":1e300}`,
		`{"do":"accept","pin":"161803"}`,
		`{"more":1e308,"evidence":"x","pin":"161803"}`,
		`{"flaws":[{"from":0,"to":1e308}]}`,
		`{"materialId":1,"lot":"x","rolls":[{"length":4999,"spent":1e308}]}`,
		`{"room":1e308,"humidity":1,"coldest":-1e308}`,
		`{"name":"f","limitTemp":1,"places":["\u0000"]}`,
	}
	rng := rand.New(rand.NewPCG(1, 1))
	tried := map[int]int{}
	for path, methods := range routesOf(t) {
		if strings.HasSuffix(path, "/events") || path == "/api/session" || path == "/api/sign-out" {
			continue
		}
		for _, method := range methods {
			for i, code := range codes {
				for _, body := range bodies {
					if method == "GET" && body != "" || method == "POST" && rng.IntN(3) > 0 {
						continue
					}
					url := strings.NewReplacer("{code}", code, "{id}", fmt.Sprint(i*i-2), "{table}", []string{
						"life", "scrap", "nothing",
					}[i%3]).
						Replace(path)
					req, err := http.NewRequest(
						method,
						b.url+strings.ReplaceAll(url, " ", "%20"),
						strings.NewReader(body),
					)
					if err != nil {
						continue // no client could send it
					}
					req.Header.Set("Content-Type", "application/json")
					req.Header.Set(key, fmt.Sprintf("hostile-%d-%d", i, rng.Uint64()))
					res, err := b.Do(req)
					require.NoError(t, err, "%s %s", method, url)
					var text bytes.Buffer
					_, err = text.ReadFrom(res.Body)
					require.NoError(t, err)
					res.Body.Close()
					tried[res.StatusCode/100]++
					assert.Less(t, res.StatusCode, 500, "%s %s %s: %s", method, url, body, text.String())
					assert.NotContains(t, text.String(), "SQLSTATE")
					if res.StatusCode >= 400 &&
						strings.HasPrefix(res.Header.Get("Content-Type"), "application/problem+json") {
						var problem struct{ Detail string }
						require.NoError(t, json.Unmarshal(text.Bytes(), &problem))
						assert.NotEmpty(t, problem.Detail)
					}
				}
			}
		}
	}
	assert.Greater(t, tried[4], 1000)
	for path, body := range map[string]string{
		"/api/batches": `{"materialId":1,"lot":"a\u0000b","rolls":[{"length":1}]}`,
		"/api/people":  `{"name":"a\u0000b","role":"viewer","pin":"135798","sign":"` + pin + `"}`,
	} {
		got := b.send("POST", path, body, key, "hostile-nul")
		assert.Equal(t, 422, got.StatusCode)
		assert.Contains(t, string(got.body), "a character that cannot be kept")
	}
	assert.Equal(t, 422, b.send("GET", "/api/find?q=%00", "").StatusCode)
	assert.NotEmpty(t, b.rolls(), "the shop is still there")
}

func TestAFaultOfOursTellsAnIDAndNothingElse(t *testing.T) {
	db := storetest.Open(t, demotest.Shop)
	server, err := api.New(shop.New(&book.Book{DB: db, Now: storetest.Clock()}), api.Options{})
	require.NoError(t, err)
	t.Cleanup(server.Close)
	web := httptest.NewServer(server.Handler)
	t.Cleanup(web.Close)
	var log bytes.Buffer
	before := slog.Default()
	slog.SetDefault(slog.New(slog.NewJSONHandler(&log, nil)))
	t.Cleanup(func() { slog.SetDefault(before) })
	require.NoError(t, storetest.Owner(t, db).Gorm.Exec(`alter table people rename to hidden`).Error)
	res, err := http.Get(web.URL + "/api/people")
	require.NoError(t, err)
	defer res.Body.Close()
	assert.Equal(t, http.StatusInternalServerError, res.StatusCode)
	var problem struct{ Detail string }
	require.NoError(t, json.NewDecoder(res.Body).Decode(&problem))
	id := res.Header.Get("X-Request-Id")
	assert.Equal(t, "Something failed on our side; nothing was stored. The log has it under "+id+".", problem.Detail)
	assert.Contains(t, log.String(), id, "whoever looks after the server finds it")
	assert.Contains(t, log.String(), "people")
}

func TestReadyzTellsWhenTheDatabaseIsGone(t *testing.T) {
	db := storetest.Open(t, demotest.Shop)
	server, err := api.New(shop.New(&book.Book{DB: db, Now: storetest.Clock()}), api.Options{})
	require.NoError(t, err)
	t.Cleanup(server.Close)
	web := httptest.NewServer(server.Handler)
	t.Cleanup(web.Close)
	db.Pool.Close()
	for path, status := range map[string]int{"/healthz": http.StatusOK, "/readyz": http.StatusServiceUnavailable} {
		res, err := http.Get(web.URL + path)
		require.NoError(t, err)
		res.Body.Close()
		assert.Equal(t, status, res.StatusCode, path)
	}
}

// events reads server-sent events until the stream ends.
func (b *browser) events(path string) []string {
	b.t.Helper()
	ctx, cancel := context.WithTimeout(context.Background(), 20*time.Second)
	defer cancel()
	req, err := http.NewRequestWithContext(ctx, "GET", b.url+path, nil)
	require.NoError(b.t, err)
	res, err := b.Do(req)
	require.NoError(b.t, err)
	defer res.Body.Close()
	assert.Equal(b.t, "text/event-stream", res.Header.Get("Content-Type"))
	var out []string
	for lines := bufio.NewScanner(res.Body); lines.Scan(); {
		if data, ok := strings.CutPrefix(lines.Text(), "data: "); ok {
			out = append(out, data)
		}
	}
	return out
}

func TestStreamsOfFinishedWorkTellItOnceAndEnd(t *testing.T) {
	b := open(t)
	b.signIn("Ines Falk")
	var runs []curing.RunLine
	b.send("GET", "/api/runs", "").into(t, &runs)
	told := b.events("/api/runs/" + runs[0].Code + "/events")
	require.Len(t, told, 1)
	var u curing.RunUpdate
	require.NoError(t, json.Unmarshal([]byte(told[0]), &u))
	assert.Equal(t, "finished", u.State)
	assert.Greater(t, len(u.Samples), 150)
	last := u.Samples[len(u.Samples)-1].T
	told = b.events(fmt.Sprintf("/api/runs/%s/events?from=%g", runs[0].Code, last-61))
	require.NoError(t, json.Unmarshal([]byte(told[0]), &u))
	assert.Len(t, u.Samples, 2, "only what a page that comes back has not heard")
	var nests []cutting.NestLine
	b.send("GET", "/api/nests", "").into(t, &nests)
	told = b.events("/api/nests/" + nests[0].Code + "/events")
	require.Len(t, told, 1)
	assert.Contains(t, told[0], `"state":"cut"`)
	assert.Empty(t, b.events("/api/nests/"+ident.Format(ident.Nest, 900)+"/events"), "what is not there has no stream")
}

func TestThePageIsServedForEveryPathOfItsOwn(t *testing.T) {
	b := open(t)
	first := b.send("GET", "/cure/H-KCM1Y", "")
	assert.Equal(t, http.StatusOK, first.StatusCode)
	assert.Contains(t, string(first.body), "<div id=\"root\">")
	assert.NotContains(t, string(first.body), "__NONCE__", "each answer has a nonce of its own")
	assert.NotContains(t, string(first.body), "http://", "nothing is loaded from outside")
	assert.NotContains(t, string(first.body), "https://")
	again := b.send("GET", "/", "")
	assert.NotEqual(t, first.Header.Get("Content-Security-Policy"), again.Header.Get("Content-Security-Policy"))
	_, asset, found := strings.Cut(string(first.body), `src="`)
	require.True(t, found)
	asset, _, _ = strings.Cut(asset, `"`)
	script := b.send("GET", asset, "")
	assert.Equal(t, http.StatusOK, script.StatusCode)
	assert.Contains(t, script.Header.Get("Cache-Control"), "immutable")
	for _, path := range []string{"/../go.mod", "/assets/../../go.mod", "/assets/"} {
		got := b.send("GET", path, "")
		assert.NotContains(t, string(got.body), "module juxta", path)
	}
}

func TestAPartIsImportedThroughTheContract(t *testing.T) {
	b := open(t)
	b.signIn("Marek Orde")
	square := "0\nSECTION\n2\nENTITIES\n" + strings.ReplaceAll(
		"0 LWPOLYLINE|8 full|70 1|10 0|20 0|10 4|20 0|10 4|20 2|10 0|20 2|0 ENDSEC|0 EOF",
		"|",
		"\n",
	)
	square = strings.NewReplacer(
		"0 LWPOLYLINE", "0\nLWPOLYLINE", "8 full", "8\nfull", "70 1", "70\n1", "10 ", "10\n", "20 ", "20\n", "0 ENDSEC",
		"0\nENDSEC", "0 EOF", "0\nEOF",
	).
		Replace(square) +
		"\n"
	send := func(unit, table, k string) answer {
		body := map[string]string{"number": "SP-90", "name": "Plate", "plyTable": table, "drawing": square}
		if unit != "" {
			body["unit"] = unit
		}
		raw, err := json.Marshal(body)
		require.NoError(t, err)
		return b.send("POST", "/api/parts", string(raw), key, k)
	}
	table := "material,angle,outline\nSable UD 150,0,full\nSable UD 150,0,full\n"
	got := send("", table, "first-try")
	assert.Equal(t, 422, got.StatusCode)
	var problem struct {
		Detail string
		Errors []struct{ Message string }
	}
	got = send("", "material,angle,outline\nSable UD 150,x,full\n", "second-try")
	assert.Equal(t, 422, got.StatusCode)
	require.NoError(t, json.Unmarshal(got.body, &problem))
	assert.Equal(t, "the files have faults: nothing was stored", problem.Detail)
	require.Len(t, problem.Errors, 2, "the faults of both files together: %s", got.body)
	assert.Contains(t, problem.Errors[0].Message, "ply table, row 2")
	assert.Contains(t, problem.Errors[1].Message, "drawing, ")
	var v parts.RevisionView
	send("inch", table, "third-try").into(t, &v)
	// By hand: 4 in × 2 in, two plies of 0.234 kg/m².
	assert.InDelta(t, 4*2*0.0254*0.0254*2*0.234, v.Worked.Mass, 1e-12)
	again := send("inch", table, "third-try")
	var same parts.RevisionView
	again.into(t, &same)
	assert.Equal(t, v, same, "a repeated request gives the first answer")
	got = send("inch", table, "fourth-try")
	assert.Equal(t, http.StatusConflict, got.StatusCode, "a new one would need a released revision first")
}
