package api_test

import (
	"encoding/json"
	"io/fs"
	"net/http"
	"os"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"juxta/api"
	"juxta/format/pdf/pdftest"
	"juxta/shop/book"
	"juxta/shop/people"
)

// somebodyOf is a person of the demo with each role.
var somebodyOf = map[string]string{
	"technician":    "Ines Falk",
	"planner":       "Marek Orde",
	"quality":       "Jonas Quist",
	"administrator": "Ada Wren",
	"viewer":        "Hedda Solm",
}

// acts are the acts of the contract's routes that change something.
func acts(t *testing.T) map[string]book.Act {
	t.Helper()
	raw, err := api.OpenAPI()
	require.NoError(t, err)
	var contract struct {
		Paths map[string]map[string]struct {
			Act book.Act `json:"x-act"`
		}
	}
	require.NoError(t, json.Unmarshal(raw, &contract))
	out := map[string]book.Act{}
	for path, methods := range contract.Paths {
		for method, operation := range methods {
			if method == "get" {
				assert.Empty(t, operation.Act, path)
				continue
			}
			assert.NotEmpty(t, operation.Act, "%s %s has no act of the matrix", method, path)
			if method == "post" {
				out[path] = operation.Act
			}
		}
	}
	return out
}

// Every role on every route: refused exactly where the matrix refuses, before
// the input is looked at; and what reads is open to everybody.
func TestEveryRouteAsEveryRole(t *testing.T) {
	routes, used := acts(t), map[book.Act]bool{}
	require.Greater(t, len(routes), 50)
	for _, role := range book.Roles {
		t.Run(role, func(t *testing.T) {
			b := open(t)
			b.signIn(somebodyOf[role])
			refusals := 0
			for path, act := range routes {
				if path == "/api/session" || path == "/api/first" || path == "/api/sign-out" {
					continue
				}
				used[act] = true
				i := slices.IndexFunc(book.Matrix, func(p book.Permit) bool { return p.Act == act })
				require.GreaterOrEqual(t, i, 0, "%s: %q stands in no line of the matrix", path, act)
				got := b.send("POST", somewhere(path), "{}", key, "role-"+role+"-"+path[len(path)-6:])
				denied := got.StatusCode == http.StatusForbidden && strings.Contains(string(got.body), `"only `)
				assert.Equal(
					t,
					!slices.Contains(book.Matrix[i].Roles, role),
					denied,
					"%s as %s: %d %s",
					path,
					role,
					got.StatusCode,
					got.body,
				)
				if denied {
					refusals++
				} else {
					assert.Less(t, got.StatusCode, 500, "%s: %s", path, got.body)
				}
			}
			if role == "viewer" {
				assert.Greater(t, refusals, 45, "a viewer changes nothing but what is their own")
			}
			for path, methods := range routesOf(t) {
				if slices.Contains(methods, "GET") && !strings.HasSuffix(path, "/events") {
					got := b.send("GET", somewhere(path), "")
					assert.NotContains(
						t,
						[]int{http.StatusUnauthorized, http.StatusForbidden},
						got.StatusCode,
						"%s as %s",
						path,
						role,
					)
				}
			}
		})
	}
	for _, p := range book.Matrix {
		assert.True(t, used[p.Act], "no route does %q", p.Act)
		assert.NotEmpty(t, p.Roles)
	}
}

// The pages ask the matrix by the names of its acts: a slip of the pen would
// offer something to nobody.
func TestThePagesAskForActsOfTheMatrix(t *testing.T) {
	asks := regexp.MustCompile(`(?:\b(?:may|mayNot)\(|<Offer act=)"([^"]+)"`)
	named := map[string]bool{}
	for _, p := range book.Matrix {
		named[string(p.Act)] = true
	}
	asked := 0
	require.NoError(t, filepath.WalkDir("../web/src", func(path string, d fs.DirEntry, err error) error {
		if err != nil || filepath.Ext(path) != ".tsx" {
			return err
		}
		page, err := os.ReadFile(path)
		for _, m := range asks.FindAllSubmatch(page, -1) {
			asked++
			assert.True(t, named[string(m[1])], "%s asks for %q", path, m[1])
		}
		return err
	}))
	assert.Greater(t, asked, 40)
}

func TestSignedOutEverywhereIsSignedOutHere(t *testing.T) {
	b := open(t)
	b.signIn("Ines Falk")
	var session struct {
		Person people.PersonView
		Acts   []book.Permitted
	}
	b.send("GET", "/api/session", "").into(t, &session)
	assert.Equal(t, "Ines Falk", session.Person.Name)
	assert.Contains(t, session.Acts, book.Permitted{Act: book.LayPlies})
	assert.Contains(
		t,
		session.Acts,
		book.Permitted{
			Act: book.DecideBatch,
			Not: "only a quality person can decide on batches",
		},
	)
	assert.Equal(t, http.StatusOK, b.send("POST", "/api/sign-out", "", key, "sign-out-1").StatusCode)
	assert.Equal(
		t,
		http.StatusUnauthorized,
		b.send("GET", "/api/rolls", "").StatusCode,
		"the cookie is worth nothing any more",
	)
}

// Who is at the screen stays signed in for a shift; a page that only looks for
// news keeps nobody signed in.
func TestASessionLivesByWhoIsThere(t *testing.T) {
	b, s := serve(t)
	b.signIn("Ines Falk")
	res := b.send("POST", "/api/session", `{"personId":1,"secret":"`+pin+`"}`)
	require.NotEmpty(t, res.Cookies())
	assert.WithinDuration(
		t,
		time.Now().Add(12*time.Hour),
		res.Cookies()[0].Expires,
		time.Minute,
		"the cookie outlives a short pause",
	)
	expiry := func() (at time.Time) {
		require.NoError(t, s.DB.Gorm.Raw(`select max(expiry) from sessions`).Scan(&at).Error)
		return at
	}
	first := expiry()
	assert.WithinDuration(t, time.Now().Add(20*time.Minute), first, time.Minute)
	now := s.Now
	s.Now = func() time.Time { return now().Add(3 * time.Minute) }
	require.Equal(t, http.StatusOK, b.send("GET", "/api/rolls", "").StatusCode)
	assert.Equal(t, first, expiry(), "polling is nobody")
	require.Equal(t, http.StatusOK, b.send("GET", "/api/rolls", "", "Juxta-Present", "yes").StatusCode)
	assert.True(t, expiry().After(first), "somebody was there")
	require.NoError(t, s.DB.Gorm.Exec(`update sessions set expiry = now() - interval '1 second'`).Error)
	assert.Equal(t, http.StatusUnauthorized, b.send("GET", "/api/rolls", "").StatusCode)
}

func TestABadgeSignsInTogetherWithItsPIN(t *testing.T) {
	b := open(t)
	b.signIn("Ada Wren")
	var everyone []people.PersonView
	b.send("GET", "/api/people", "").into(t, &everyone)
	id := slices.IndexFunc(everyone, func(p people.PersonView) bool { return p.Name == "Tilda Brandl" })
	raw, _ := json.Marshal(everyone[id].ID)
	got := b.send("POST", "/api/people/"+string(raw)+"/badge", `{"pin":"`+pin+`"}`, key, "badge-1234")
	require.Equal(t, http.StatusOK, got.StatusCode, string(got.body))
	assert.Equal(t, "application/pdf", got.Header.Get("Content-Type"))
	_, text := pdftest.Read(t, got.body)
	// The reader may put a space between two letters that stand apart.
	text = strings.ReplaceAll(text, " ", "")
	badge := text[strings.Index(text, "W-"):][:len("W-")+8]
	b.send("DELETE", "/api/session", "")
	var whose people.PersonView
	b.send("POST", "/api/badge", `{"badge":"`+badge+`"}`).into(t, &whose)
	assert.Equal(t, "Tilda Brandl", whose.Name)
	assert.Equal(
		t,
		http.StatusForbidden,
		b.send("POST", "/api/session", `{"badge":"`+badge+`","secret":"000000"}`).StatusCode,
	)
	assert.Equal(
		t,
		http.StatusOK,
		b.send("POST", "/api/session", `{"badge":"`+badge+`","secret":"`+pin+`"}`).StatusCode,
	)
	assert.Equal(t, http.StatusOK, b.send("GET", "/api/rolls", "").StatusCode)
}

// The matrix says which acts ask for the PIN again, and the contract of every
// route says the same: those carry it, and no others but where one's own secret
// is the matter.
func TestTheMatrixSaysWhichRoutesAskForThePIN(t *testing.T) {
	raw, err := api.OpenAPI()
	require.NoError(t, err)
	var contract struct {
		Paths map[string]map[string]struct {
			Act         book.Act `json:"x-act"`
			RequestBody struct {
				Content map[string]struct {
					Schema struct {
						Ref string `json:"$ref"`
					}
				}
			}
		}
		Components struct {
			Schemas map[string]struct {
				Properties map[string]any
				Required   []string
			}
		}
	}
	require.NoError(t, json.Unmarshal(raw, &contract))
	asking := 0
	for path, methods := range contract.Paths {
		for method, operation := range methods {
			if method == "get" || operation.Act == book.OwnAccount {
				continue
			}
			body := contract.Components.Schemas[strings.TrimPrefix(
				operation.RequestBody.Content["application/json"].Schema.Ref, "#/components/schemas/",
			)]
			asks := slices.Contains(body.Required, "pin") || slices.Contains(body.Required, "sign")
			permit, known := book.PermitFor(operation.Act)
			require.True(t, known, "%s: %q stands in no line of the matrix", path, operation.Act)
			assert.Equal(t, permit.PIN, asks, "%s: %s", path, operation.Act)
			if asks {
				asking++
			}
		}
	}
	assert.Greater(t, asking, 8)
}
