package api_test

import (
	"bufio"
	"context"
	"fmt"
	"net"
	"net/http"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"juxta/api"
	"juxta/demo"
	"juxta/demo/demotest"
	"juxta/format/pdf/pdftest"
	"juxta/shop"
	"juxta/shop/book"
	"juxta/shop/parts"
	"juxta/shop/people"
	"juxta/shop/recipes"
	"juxta/store/storetest"
)

// What use, reading and hostile hands found, so that it stays mended.

// What was sent is not sent back: it may be a secret, or 20 MB.
func TestAnInputIsNotEchoed(t *testing.T) {
	b := open(t)
	got := b.send("POST", "/api/session", `{"personId":1,"secret":"`+strings.Repeat("s3cret", 100)+`"}`)
	assert.Equal(t, http.StatusUnprocessableEntity, got.StatusCode)
	assert.NotContains(t, string(got.body), "s3cret")
	assert.Contains(t, string(got.body), "the PIN or password has more than 200 characters")
	got = b.send(
		"POST",
		"/api/first",
		`{"code":"`+strings.Repeat("x", 1<<20)+`","name":"A","pin":"314158","password":"twelve letters"}`,
	)
	assert.Equal(t, http.StatusRequestEntityTooLarge, got.StatusCode)
	assert.Less(t, len(got.body), 2000)
}

// No path takes a second connection inside a transaction: 40 strangers at
// /api/first stopped the shop for good that way. Every route with a pool of one,
// and a week of the whole shop.
func TestNoPathTakesASecondConnection(t *testing.T) {
	b, _ := serveOn(t, storetest.OpenNarrow(t, demotest.Shop), api.Options{})
	b.Timeout = 20 * time.Second
	first := `{"code":"aaaa-bbbb-cccc-dddd","name":"Somebody","pin":"135798","password":"a long password"}`
	assert.Equal(t, http.StatusConflict, b.send("POST", "/api/first", first).StatusCode)
	b.signIn("Ada Wren")
	for path, methods := range routesOf(t) {
		for _, method := range methods {
			if path == "/api/sign-out" || method == "DELETE" || strings.HasSuffix(path, "/events") {
				continue
			}
			got := b.send(
				method,
				somewhere(path),
				map[bool]string{true: "{}"}[method == "POST"],
				key,
				"narrow-"+path[max(0, len(path)-20):],
			)
			assert.NotContains(
				t,
				[]int{http.StatusInternalServerError, http.StatusServiceUnavailable},
				got.StatusCode,
				"%s %s: %s",
				method,
				path,
				got.body,
			)
		}
	}
	empty, _ := serveOn(t, storetest.OpenNarrow(t, storetest.Empty), api.Options{})
	empty.Timeout = 20 * time.Second
	assert.Equal(t, http.StatusForbidden, empty.send("POST", "/api/first", first).StatusCode, "no code was made")
	ctx, cancel := context.WithTimeout(context.Background(), 2*time.Minute)
	defer cancel()
	require.NoError(
		t,
		demo.Load(
			ctx,
			storetest.OpenNarrow(t, storetest.Empty),
			demo.Secrets{PIN: pin, Password: password},
			storetest.Now,
		),
	)
}

// Names are told to the shop's own devices, and to others where it has decided so.
func TestNamesAreToldToTheShopsTabletsOnly(t *testing.T) {
	b, s := serve(t)
	names := func(b *browser, headers ...string) int {
		t.Helper()
		var people []people.PersonView
		b.send("GET", "/api/people", "", headers...).into(t, &people)
		return len(people)
	}
	assert.Equal(t, 7, names(b), "the machine that the server runs on")
	outside := []string{"X-Forwarded-For", "203.0.113.9"}
	assert.Zero(t, names(b, outside...))
	got := b.send("POST", "/api/session", `{"name":"ines falk","secret":"`+pin+`"}`, outside...)
	assert.Equal(t, http.StatusOK, got.StatusCode, "a name may be typed: %s", got.body)
	got = b.send("POST", "/api/session", `{"name":"Nobody Here","secret":"`+pin+`"}`, outside...)
	assert.Contains(t, string(got.body), "do not match", "a stranger is not told who works here")
	b.signIn("Jonas Quist")
	got = b.send("POST", "/api/tablets", `{"name":"bench 2","pin":"000001"}`, key, "tablet-0001")
	assert.Equal(t, http.StatusForbidden, got.StatusCode)
	got = b.send("POST", "/api/tablets", `{"name":"bench 2","pin":"`+pin+`"}`, key, "tablet-0002")
	require.Equal(t, http.StatusOK, got.StatusCode, string(got.body))
	i := slices.IndexFunc(got.Cookies(), func(c *http.Cookie) bool { return c.Name == "juxta_tablet" })
	require.GreaterOrEqual(t, i, 0)
	token := got.Cookies()[i]
	assert.True(t, token.HttpOnly)
	b.send("DELETE", "/api/session", "")
	assert.Equal(t, 7, names(b, outside...), "a tablet of the shop")
	var tablets []people.TabletView
	b.signIn("Jonas Quist")
	b.send("GET", "/api/tablets", "").into(t, &tablets)
	require.Len(t, tablets, 1)
	assert.Equal(t, "bench 2", tablets[0].Name)
	require.Equal(
		t,
		http.StatusOK,
		b.send("POST", fmt.Sprintf("/api/tablets/%d/end", tablets[0].ID), "", key, "tablet-0003").StatusCode,
	)
	b.send("DELETE", "/api/session", "")
	assert.Zero(t, names(b, outside...))
	b.signIn("Jonas Quist")
	require.Equal(
		t,
		http.StatusOK,
		b.send(
			"POST",
			"/api/settings",
			`{"version":0,"settings":{"oneReleases":false,"namesToAll":true},"reason":"one hall, one network"}`,
			key,
			"settings-001",
		).StatusCode,
	)
	b.send("DELETE", "/api/session", "")
	assert.Equal(t, 7, names(b, outside...))
	_ = s
}

// Behind a proxy that is trusted people have addresses of their own, and wrong
// sign-ins of one do not keep another, nor anybody's signatures.
func TestWrongSignInsOfOneBlockNobodyElse(t *testing.T) {
	b, s := serveOn(t, storetest.Open(t, demotest.Shop), api.Options{Proxies: []string{"127.0.0.1"}})
	b.signIn("Jonas Quist")
	from := func(ip string) []string { return []string{"X-Forwarded-For", ip} }
	var quist int64
	require.NoError(t, s.DB.Gorm.Raw(`select id from people where name = 'Jonas Quist'`).Scan(&quist).Error)
	other := &browser{&http.Client{}, t, b.url}
	try := func(ip, secret string) answer {
		return other.send(
			"POST",
			"/api/session",
			fmt.Sprintf(`{"personId":%d,"secret":%q}`, quist, secret),
			from(ip)...)
	}
	for range 6 {
		assert.Equal(t, http.StatusForbidden, try("203.0.113.7", "000001").StatusCode)
	}
	assert.Contains(t, string(try("203.0.113.7", pin).body), "too many failed attempts")
	assert.Equal(t, http.StatusOK, try("203.0.113.8", pin).StatusCode, "elsewhere he signs in")
	// Also at the very same address his signatures count.
	got := b.send(
		"POST",
		"/api/tablets",
		`{"name":"bench 3","pin":"`+pin+`"}`,
		append(from("203.0.113.7"), key, "signs-0001")...)
	assert.Equal(t, http.StatusOK, got.StatusCode, string(got.body))
	// One address that tries everybody is slowed as a whole.
	for n := range 80 {
		got = other.send(
			"POST",
			"/api/session",
			fmt.Sprintf(`{"personId":%d,"secret":"000001"}`, 1+n%7),
			from("203.0.113.66")...)
	}
	require.NoError(t, s.DB.Gorm.Exec(`update sign_in_tries set until = null`).Error)
	require.NoError(t, s.DB.Gorm.Exec(`update sign_in_tries set failed = 10 where address = '203.0.113.66'`).Error)
	assert.Contains(t, string(try("203.0.113.66", pin).body), "too many failed attempts from this address")
}

// A name that is not the server's is answered by nothing, and behind TLS browsers
// come back by TLS only.
func TestTheServerKnowsItsNames(t *testing.T) {
	b, _ := serveOn(t, storetest.Open(t, demotest.Shop), api.Options{Hosts: []string{"juxta.example"}, Secure: true})
	ask := func(host string) *http.Response {
		req, err := http.NewRequest("GET", b.url+"/api/session", nil)
		require.NoError(t, err)
		req.Host = host
		res, err := b.Do(req)
		require.NoError(t, err)
		_, _ = discard(res)
		return res
	}
	assert.Equal(t, http.StatusMisdirectedRequest, ask("rebound.example").StatusCode)
	for _, host := range []string{"juxta.example", "JUXTA.example:443", "localhost:8080", "[::1]:1"} {
		assert.Equal(t, http.StatusOK, ask(host).StatusCode, host)
	}
	assert.Contains(t, ask("juxta.example").Header.Get("Strict-Transport-Security"), "max-age=")
	assert.Empty(t, open(t).send("GET", "/api/session", "").Header.Get("Strict-Transport-Security"))
	_, err := api.New(
		shop.New(&book.Book{DB: storetest.Open(t, demotest.Shop)}),
		api.Options{Proxies: []string{"somewhere"}},
	)
	assert.ErrorContains(t, err, "the proxy to trust")
}

// Clients that do not read hold nothing that others need, and are let go.
func TestWhoDoesNotReadHoldsNoConnection(t *testing.T) {
	b, s := serveOn(t, storetest.OpenNarrow(t, demotest.Shop), api.Options{})
	b.Timeout = 30 * time.Second
	b.signIn("Ada Wren")
	// More than any socket takes unread.
	require.NoError(
		t,
		storetest.Owner(t, s.DB).Gorm.Exec(`insert into entries (seq, at, what, subject, why, detail, prev, hash)
		select (select max(seq) from entries) + n, now(), 'filler', 'x', repeat('long ', 200), '{}', '', ''
		from generate_series(1, 20000) n`).Error,
	)
	address := strings.TrimPrefix(b.url, "http://")
	var cookie string
	for _, c := range b.Jar.Cookies(must(http.NewRequest("GET", b.url, nil)).URL) {
		cookie += c.Name + "=" + c.Value + "; "
	}
	for range 12 {
		conn, err := net.Dial("tcp", address)
		require.NoError(t, err)
		defer conn.Close()
		_, err = fmt.Fprintf(
			conn,
			"GET /api/log/entries.csv HTTP/1.1\r\nHost: %s\r\nCookie: %s\r\n\r\n",
			address,
			cookie,
		)
		require.NoError(t, err)
		line, err := bufio.NewReader(conn).ReadString('\n')
		require.NoError(t, err)
		require.Contains(t, line, "200")
	}
	assert.NotEmpty(t, b.rolls(), "with one connection for all, the shop goes on")
}

func must(r *http.Request, err error) *http.Request {
	if err != nil {
		panic(err)
	}
	return r
}

// A stream ends when its session does.
func TestAStreamEndsWithItsSession(t *testing.T) {
	b, s := serve(t)
	b.signIn("Ines Falk")
	var nest string
	require.NoError(t, s.DB.Gorm.Raw(`select code from nests limit 1`).Scan(&nest).Error)
	require.NoError(t, s.DB.Gorm.Exec(`update nests set state = 'running'`).Error)
	ctx, cancel := context.WithTimeout(context.Background(), time.Minute)
	defer cancel()
	req, err := http.NewRequestWithContext(ctx, "GET", b.url+"/api/nests/"+nest+"/events", nil)
	require.NoError(t, err)
	res, err := b.Do(req)
	require.NoError(t, err)
	lines := bufio.NewScanner(res.Body)
	require.True(t, lines.Scan())
	require.Equal(t, http.StatusOK, b.send("POST", "/api/sign-out", "", key, "stream-out-1").StatusCode)
	for lines.Scan() {
	}
	require.NoError(t, ctx.Err(), "it ended by itself")
}

// A part number cannot end the header that names a file.
func TestFileNamesStayInTheirHeader(t *testing.T) {
	b := open(t)
	b.signIn("Marek Orde")
	var resins []recipes.ResinView
	b.send("GET", "/api/resins", "").into(t, &resins)
	var v parts.RevisionView
	number := `X"; filename*=UTF-8''evil.exe; ü`
	b.send(
		"POST", "/api/parts/new", fmt.Sprintf(`{"number":%q,"name":"n","resinId":%d}`, number, resins[0].ID), key,
		"named-0001",
	).
		into(t, &v)
	got := b.send("GET", "/api/parts/"+v.Part.Code+"/master.json", "")
	require.Equal(t, http.StatusOK, got.StatusCode)
	header := got.Header.Get("Content-Disposition")
	assert.NotContains(t, header, "UTF-8''evil")
	assert.Equal(
		t,
		`attachment; filename="X__ filename_=UTF-8__evil.exe_ _-A.json"; `+
			`filename*=UTF-8''X%22%3B%20filename%2A%3DUTF-8%27%27evil.exe%3B%20%C3%BC-A.json`,
		header,
	)
}

// Pressed twice, with a key each: one part, and a sentence.
func TestTheSecondPressIsNoFault(t *testing.T) {
	b := open(t)
	b.signIn("Marek Orde")
	body := `{"number":"TWICE-1","name":"n","resinId":1}`
	codes := make(chan int)
	for n := range 4 {
		go func() {
			codes <- b.send("POST", "/api/parts/new", body, key, fmt.Sprintf("twice-000%d", n)).StatusCode
		}()
	}
	seen := map[int]int{}
	for range 4 {
		seen[<-codes]++
	}
	assert.Equal(t, map[int]int{http.StatusOK: 1, http.StatusConflict: 3}, seen)
}

// The record is what an auditor reads: everything that was signed, by whom, and
// the curves, in another reader's words.
func TestTheRecordIsWhole(t *testing.T) {
	b, s := serve(t)
	var build string
	require.NoError(t, s.DB.Gorm.Raw(`select code from builds where serial = '0001'`).Scan(&build).Error)
	b.signIn("Jonas Quist")
	got := b.send("GET", "/api/thread/builds/"+build+"/record.pdf", "")
	require.Equal(t, http.StatusOK, got.StatusCode)
	var thread shop.BuildThread
	b.send("GET", "/api/thread/builds/"+build, "").into(t, &thread)
	_, text := pdftest.Read(t, got.body)
	for _, says := range []string{
		thread.Revision.Hash, "Checked by Hanne Vold", "Released by Jonas Quist", "Made on flat tool",
		"Started by Ines Falk", "Batches and their tests", "Sable UD 150",
		"part, lagging", "vacuum, kPa", "the band of the air as planned", "Identified", "scanned",
		"Hold points and second persons", "ply signed, ply 3", thread.LogHead.Hash,
	} {
		assert.Contains(t, text, says)
	}
	require.NotEmpty(t, thread.Batches)
	require.NotEmpty(t, thread.Batches[0].Tests)
	assert.Contains(t, text, thread.Batches[0].Tests[0].What)
}
