package api_test

import (
	"bytes"
	"context"
	"encoding/base64"
	"encoding/csv"
	"encoding/json"
	"fmt"
	"io"
	"log/slog"
	"math"
	"net/http"
	"net/http/cookiejar"
	"net/http/httptest"
	"os"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"juxta/api"
	"juxta/core/cutpath"
	"juxta/core/geom"
	"juxta/demo/demotest"
	"juxta/format/dxf"
	"juxta/format/gcode"
	"juxta/format/pdf/pdftest"
	"juxta/format/sheet"
	"juxta/shop"
	"juxta/shop/book"
	"juxta/shop/builds"
	"juxta/shop/cutting"
	"juxta/shop/people"
	"juxta/shop/stock"
	"juxta/store"
	"juxta/store/storetest"
	"juxta/work"
)

const pin, password = demotest.PIN, demotest.Password

func TestMain(m *testing.M) {
	slog.SetLogLoggerLevel(slog.LevelWarn)
	os.Exit(demotest.Run(m))
}

// browser is a client with a cookie jar against a server of its own.
type browser struct {
	*http.Client
	t   testing.TB
	url string
}

func open(t *testing.T) *browser {
	t.Helper()
	b, _ := serve(t)
	return b
}

func serve(t testing.TB) (*browser, *shop.Shop) {
	t.Helper()
	return serveOn(t, storetest.Open(t, demotest.Shop), api.Options{})
}

func serveOn(t testing.TB, db *store.DB, o api.Options) (*browser, *shop.Shop) {
	t.Helper()
	queue, err := work.NewInserter(db)
	require.NoError(t, err)
	s := shop.New(&book.Book{DB: db, Queue: queue, Oven: "127.0.0.1:1", Now: storetest.Clock()})
	server, err := api.New(s, o)
	require.NoError(t, err)
	t.Cleanup(server.Close)
	web := httptest.NewServer(server.Handler)
	t.Cleanup(web.Close)
	jar, err := cookiejar.New(nil)
	require.NoError(t, err)
	return &browser{&http.Client{Jar: jar}, t, web.URL}, s
}

func (b *browser) builds() (all []builds.BuildLine) {
	b.t.Helper()
	b.signIn("Ines Falk")
	var page builds.BuildPage
	b.send("GET", "/api/builds", "").into(b.t, &page)
	return page.Builds
}

func discard(res *http.Response) (int64, error) {
	defer res.Body.Close()
	return io.Copy(io.Discard, res.Body)
}

type answer struct {
	*http.Response
	body []byte
}

func (b *browser) send(method, path, body string, headers ...string) answer {
	b.t.Helper()
	req, err := http.NewRequest(method, b.url+path, strings.NewReader(body))
	require.NoError(b.t, err)
	if body != "" {
		req.Header.Set("Content-Type", "application/json")
	}
	for i := 0; i+1 < len(headers); i += 2 {
		req.Header.Set(headers[i], headers[i+1])
	}
	res, err := b.Do(req)
	require.NoError(b.t, err)
	defer res.Body.Close()
	raw, err := io.ReadAll(res.Body)
	require.NoError(b.t, err)
	return answer{res, raw}
}

func (a answer) into(t testing.TB, v any) {
	t.Helper()
	require.Equal(t, http.StatusOK, a.StatusCode, string(a.body))
	require.NoError(t, json.Unmarshal(a.body, v))
}

func (b *browser) signIn(name string) {
	b.t.Helper()
	var everyone []people.PersonView
	b.send("GET", "/api/people", "").into(b.t, &everyone)
	for _, p := range everyone {
		if p.Name == name {
			raw, _ := json.Marshal(
				people.Credentials{
					PersonID: p.ID,
					Secret:   map[string]string{"PIN": pin, "password": password}[p.Secret],
				},
			)
			require.Equal(b.t, http.StatusOK, b.send("POST", "/api/session", string(raw)).StatusCode)
			return
		}
	}
	b.t.Fatalf("nobody is called %s", name)
}

const key = "Idempotency-Key"

// somewhere fills a path of the contract with ids that are nobody's.
func somewhere(path string) string {
	return strings.NewReplacer("{code}", "B-00000", "{id}", "999", "{table}", "life").Replace(path)
}

func (b *browser) rolls() []stock.RollView {
	b.t.Helper()
	var stock stock.Stock
	b.send("GET", "/api/rolls", "").into(b.t, &stock)
	return stock.Rolls
}

func TestNothingIsToldOrChangedWithoutASession(t *testing.T) {
	b := open(t)
	raw, err := api.OpenAPI()
	require.NoError(t, err)
	var contract struct {
		Paths map[string]map[string]any
	}
	require.NoError(t, json.Unmarshal(raw, &contract))
	require.Greater(t, len(contract.Paths), 40)
	for path, methods := range contract.Paths {
		for method := range methods {
			if path == "/api/session" || path == "/api/badge" || path == "/api/first" ||
				path == "/api/people" && method == "get" {
				continue
			}
			if path == "/api/wall" { // told to the shop's own devices, and to nobody from elsewhere
				got := b.send("GET", path, "", "X-Forwarded-For", "203.0.113.9")
				assert.Equal(t, http.StatusForbidden, got.StatusCode)
				continue
			}
			got := b.send(strings.ToUpper(method), somewhere(path), "", key, "12345678")
			assert.Equal(t, http.StatusUnauthorized, got.StatusCode, "%s %s", method, path)
		}
	}
}

func TestAChangeNeedsAKeyAndItsOwnOrigin(t *testing.T) {
	b := open(t)
	b.signIn("Ines Falk")
	path, in := "/api/rolls/in", `{"rolls":["`+b.rolls()[0].Code+`"]}`
	got := b.send("POST", path, in)
	assert.Equal(t, http.StatusBadRequest, got.StatusCode)
	assert.Contains(t, string(got.body), "Idempotency-Key")
	got = b.send("POST", path, in, key, "12345678", "Sec-Fetch-Site", "cross-site")
	assert.Equal(t, http.StatusForbidden, got.StatusCode, "another site cannot use our cookie")
	first := b.send("POST", path, in, key, "12345678")
	again := b.send("POST", path, in, key, "12345678")
	var a, c []stock.RollView
	first.into(t, &a)
	again.into(t, &c)
	assert.Equal(t, a, c)
	got = b.send("POST", path, in, key, "87654321")
	assert.Equal(t, http.StatusConflict, got.StatusCode, "a new key is a new change, which the ledger refuses")
	assert.Equal(t, "application/problem+json", got.Header.Get("Content-Type"))
}

// What a refusal follows from is told as the type of the problem (RFC 9457), so that
// no program has to read the sentence.
func TestARefusalTellsTheRuleItFollowsFrom(t *testing.T) {
	b := open(t)
	b.signIn("Ines Falk")
	inFreezer := `{"rolls":["` + b.rolls()[0].Code + `"]}`
	b.send("POST", "/api/rolls/in", inFreezer, key, "first-time")
	var kit string
	for _, line := range b.builds() {
		kit = line.Code
	}
	for _, c := range []struct {
		method, path, body string
		status             int
		rule               string
	}{
		{"POST", "/api/rolls/in", inFreezer, 409, "not-now"},
		{"GET", "/api/layup/B-00000", "", 422, "unreadable"},
		{"GET", "/api/files/999", "", 404, "no-such"},
		{"POST", "/api/rolls/in", `{"rolls":"all"}`, 422, "wrong"},
		{"POST", "/api/builds/" + kit + "/end", `{"reason":"cracked","pin":"` + pin + `"}`, 403, "not-theirs"},
		{"POST", "/api/session", `{"personId":1,"secret":"000000"}`, 403, "secret"},
	} {
		got := b.send(c.method, c.path, c.body, key, "key of "+c.path+c.rule)
		var problem struct{ Type, Detail string }
		require.NoError(t, json.Unmarshal(got.body, &problem))
		assert.Equal(t, c.status, got.StatusCode, problem.Detail)
		assert.Equal(t, "juxta:"+c.rule, problem.Type, problem.Detail)
	}
}

func TestSessionsEndAndCookiesAreStrict(t *testing.T) {
	b := open(t)
	var people []people.PersonView
	b.send("GET", "/api/people", "").into(t, &people)
	got := b.send("POST", "/api/session", `{"personId":1,"secret":"000000"}`)
	assert.Equal(t, http.StatusForbidden, got.StatusCode)
	assert.Empty(t, got.Cookies())
	b.signIn("Jonas Quist")
	res := b.send("POST", "/api/session", `{"personId":`+"4"+`,"secret":"`+pin+`"}`)
	require.NotEmpty(t, res.Cookies())
	cookie := res.Cookies()[0]
	assert.True(t, cookie.HttpOnly)
	assert.Equal(t, http.SameSiteStrictMode, cookie.SameSite)
	assert.Equal(t, http.StatusOK, b.send("GET", "/api/rolls", "").StatusCode)
	assert.Equal(t, http.StatusOK, b.send("DELETE", "/api/session", "").StatusCode)
	assert.Equal(t, http.StatusUnauthorized, b.send("GET", "/api/rolls", "").StatusCode)
	// The old token is dead on the server, not only forgotten here.
	req, _ := http.NewRequest("GET", b.url+"/api/rolls", nil)
	req.AddCookie(cookie)
	old, err := http.DefaultClient.Do(req)
	require.NoError(t, err)
	old.Body.Close()
	assert.Equal(t, http.StatusUnauthorized, old.StatusCode)
}

func TestHeadersAreStrictAndEveryRequestHasAnID(t *testing.T) {
	b := open(t)
	got := b.send("GET", "/healthz", "")
	assert.Equal(t, http.StatusOK, got.StatusCode)
	assert.Contains(t, got.Header.Get("Content-Security-Policy"), "default-src 'none'")
	assert.NotContains(t, got.Header.Get("Content-Security-Policy"), "unsafe")
	assert.Equal(t, "nosniff", got.Header.Get("X-Content-Type-Options"))
	assert.NotEqual(t, got.Header.Get("X-Request-Id"), b.send("GET", "/healthz", "").Header.Get("X-Request-Id"))
	assert.Equal(t, http.StatusOK, b.send("GET", "/readyz", "").StatusCode)
	assert.NotContains(
		t,
		string(b.send("GET", "/metrics", "").body),
		"juxta_http_seconds",
		"metrics have a listener of their own",
	)
	assert.Equal(t, http.StatusNotFound, b.send("GET", "/api/nothing", "").StatusCode)
}

func TestBadInputNamesItsPlace(t *testing.T) {
	b := open(t)
	b.signIn("Ines Falk")
	for _, c := range []struct {
		path, body, says string
		status           int
	}{
		{"/api/batches", `{"materialId":1,"lot":"x","rolls":[{"length":-1}]}`, "body.rolls[0].length", 422},
		{"/api/batches", `{"materialId":1}`, "lot", 422},
		{"/api/batches", `{`, "", 400},
		{"/api/rolls/out", `{"rolls":["R-4KD7Q"]}`, "wrong check character", 422},
		{"/api/stock-list", `{"name":"x","content":"TVqQAAMAAAAEAAAA"}`, "neither a CSV text file nor an XLSX", 200},
		{"/api/bag/B-00000/leak", `{"start":200000,"end":1,"seconds":60}`, "body.start", 422},
	} {
		got := b.send("POST", c.path, c.body, key, "0123456789")
		assert.Equal(t, c.status, got.StatusCode, "%s %s", c.path, got.body)
		assert.Contains(t, string(got.body), c.says)
	}
	b.send("DELETE", "/api/session", "")
	b.signIn("Marek Orde")
	got := b.send(
		"POST",
		"/api/parts",
		`{"number":"X","name":"Y","plyTable":"material,angle,outline\nA,north,f\n","drawing":"no"}`,
		key,
		"0123456780",
	)
	assert.Equal(t, 422, got.StatusCode)
	assert.Contains(t, string(got.body), "row 2")
	large := `{"number":"X","name":"Y","plyTable":"","drawing":"` + strings.Repeat("0\\n", 14<<20) + `"}`
	got = b.send("POST", "/api/parts", large, key, "0123456789")
	assert.Contains(t, []int{413, 422}, got.StatusCode, "a body over the bound is refused")
}

// A nest goes out as a drawing and comes back: as it was it is taken, with a ply on another it is refused, and so is
// what is no drawing.
func TestANestDrawnElsewhereIsTakenIfItVerifies(t *testing.T) {
	b, house := serve(t)
	worker, err := work.Start(context.Background(), house.DB, house)
	require.NoError(t, err)
	defer worker.Stop()
	b.signIn("Ines Falk")
	var queue []cutting.CutDemand
	b.send("GET", "/api/cut", "").into(t, &queue)
	i := slices.IndexFunc(queue, func(d cutting.CutDemand) bool { return d.Material == "Sable UD 150" })
	require.GreaterOrEqual(t, i, 0)
	var line cutting.NestLine
	b.send(
		"POST",
		"/api/nests",
		fmt.Sprintf(`{"roll":%q,"builds":[%q],"steps":60}`, queue[i].Rolls[0].Code, queue[i].Builds[0].Code),
		key,
		"drawn-0001",
	).into(t, &line)
	var nest cutting.NestView
	require.Eventually(t, func() bool {
		b.send("GET", "/api/nests/"+line.Code, "").into(t, &nest)
		return nest.State == "done"
	}, time.Minute, 50*time.Millisecond)
	file := b.send("GET", "/api/nests/"+line.Code+"/cut.dxf", "").body
	send := func(raw []byte, name string) answer {
		body := fmt.Sprintf(`{"drawing":%q}`, base64.StdEncoding.EncodeToString(raw))
		return b.send("POST", "/api/nests/"+line.Code+"/drawing", body, key, name)
	}
	var back cutting.NestView
	send(file, "drawn-0002").into(t, &back)
	assert.InDelta(t, nest.Length, back.Length, 1e-5)
	assert.True(t, back.Again)
	large := append(bytes.Repeat([]byte("999\nwhat another program writes beside it\n"), 300_000), file...)
	require.Greater(t, len(large), 12_000_000)
	send(large, "drawn-0005").into(t, &back)
	assert.InDelta(t, nest.Length, back.Length, 1e-5)
	bad := send([]byte("no drawing"), "drawn-0003")
	assert.Equal(t, http.StatusUnprocessableEntity, bad.StatusCode)
	// All plies at one place.
	moved := make([]dxf.LabelledOutline, len(nest.Placed))
	for k, p := range nest.Placed {
		ring := p.Outline
		low := ring.Bounds().Min
		moved[k] = dxf.LabelledOutline{Outline: ring.Move(0.01-low.X, 0.01-low.Y), Layer: fmt.Sprintf("PLY %d", k)}
	}
	var over bytes.Buffer
	require.NoError(t, dxf.Write(&over, moved))
	bad = send(over.Bytes(), "drawn-0004")
	assert.Equal(t, http.StatusUnprocessableEntity, bad.StatusCode)
	assert.Contains(t, string(bad.body), "cannot be cut")
}

func TestTheContractDocumentFitsTheGoTypes(t *testing.T) {
	kept, err := os.ReadFile("openapi.json")
	require.NoError(t, err)
	now, err := api.OpenAPI()
	require.NoError(t, err)
	assert.True(t, bytes.Equal(bytes.TrimSpace(kept), bytes.TrimSpace(now)), "run scripts/contract")
}

func TestDownloadsOpenInOtherHands(t *testing.T) {
	b := open(t)
	b.signIn("Ines Falk")
	var nests []cutting.NestLine
	b.send("GET", "/api/nests", "").into(t, &nests)
	require.NotEmpty(t, nests)
	dxf := b.send("GET", "/api/nests/"+nests[0].Code+"/cut.dxf", "")
	assert.Equal(t, http.StatusOK, dxf.StatusCode)
	assert.Contains(t, dxf.Header.Get("Content-Disposition"), nests[0].Code+".dxf")
	assert.Contains(t, string(dxf.body), "SP-11")
	svg := b.send("GET", "/api/nests/"+nests[0].Code+"/cut.svg", "")
	assert.Equal(t, "image/svg+xml", svg.Header.Get("Content-Type"))
	var nest cutting.NestView
	b.send("GET", "/api/nests/"+nests[0].Code, "").into(t, &nest)
	for _, turned := range []string{"", "?tangential=true&byKit=true"} {
		moves, err := gcode.Read(bytes.NewReader(b.send("GET", "/api/nests/"+nests[0].Code+"/cut.nc"+turned, "").body))
		require.NoError(t, err)
		strokes, ids := gcode.Strokes(moves, 0)
		assert.Len(t, ids, len(nest.Placed))
		// Every outline is cut, within 0.05 mm, by what is read again.
		for _, p := range nest.Placed {
			for _, corner := range p.Outline {
				off := math.Inf(1)
				for _, s := range strokes {
					for k := 1; s.Tool == cutpath.Knife && k < len(s.Points); k++ {
						off = min(off, geom.Point{X: corner.X, Y: corner.Y}.To(s.Points[k-1], s.Points[k]))
					}
				}
				assert.Less(t, off, 5e-5)
			}
		}
	}
	rows, err := csv.NewReader(bytes.NewReader(b.send("GET", "/api/nests/"+nests[0].Code+"/cut.csv", "").body)).
		ReadAll()
	require.NoError(t, err)
	assert.Len(t, rows, len(nest.Placed)+1)
	for _, name := range []string{"labels", "label", "template", "tiles"} {
		_, text := pdftest.Read(t, b.send("GET", "/api/nests/"+nests[0].Code+"/"+name+".pdf", "").body)
		assert.Contains(t, text, nest.Roll, name)
	}
	roll := b.rolls()[0]
	for _, path := range []string{
		"/api/rolls/" + roll.Code + "/label.pdf", "/api/batches/" + roll.BatchCode + "/labels.pdf",
	} {
		pages, text := pdftest.Read(t, b.send("GET", path, "").body)
		assert.Equal(t, 1, pages)
		assert.Contains(t, text, roll.Code)
		assert.Contains(t, text, roll.Material)
	}
	for _, table := range []string{"expiring", "life", "scrap"} {
		read, err := sheet.Read(b.send("GET", "/api/usage/"+table, "").body)
		require.NoError(t, err)
		assert.Greater(t, len(read), 1, table)
	}
	whole, err := sheet.Read(b.send("GET", "/api/usage/all", "").body)
	require.NoError(t, err)
	assert.Equal(t, "roll", whole[0][0])
	nothing, err := sheet.Read(
		b.send("GET", "/api/usage/scrap?from=2001-01-01T00:00:00Z&to=2001-02-01T00:00:00Z", "").body,
	)
	require.NoError(t, err)
	assert.Len(t, nothing, 1, "another time, another report")
	var page []book.LogEntry
	b.send("GET", "/api/log?what=roll+received&before=120", "").into(t, &page)
	require.NotEmpty(t, page)
	for _, e := range page {
		assert.Equal(t, "roll received", e.What)
		assert.Less(t, e.Seq, int64(120))
	}
	log, err := sheet.Read(b.send("GET", "/api/log/entries.csv?what=roll+received", "").body)
	require.NoError(t, err)
	require.Len(t, log, 10)
	assert.Equal(t, "roll received", log[9][3])
	var builds builds.BuildPage
	b.send("GET", "/api/builds", "").into(t, &builds)
	for _, each := range builds.Builds { // one finished run, one without
		pdf := b.send("GET", "/api/thread/builds/"+each.Code+"/record.pdf", "")
		assert.Equal(t, http.StatusOK, pdf.StatusCode)
		assert.True(t, bytes.HasPrefix(pdf.body, []byte("%PDF-")))
	}
}
