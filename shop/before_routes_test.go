package shop_test

import (
	"compress/gzip"
	"context"
	"encoding/json"
	"fmt"
	"io"
	"maps"
	"os"
	"regexp"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"juxta/demo"
	"juxta/shop"
	"juxta/shop/book"
	"juxta/shop/builds"
	"juxta/store"
	"juxta/store/storetest"
)

func unzipped(t *testing.T, name string) []byte {
	t.Helper()
	f, err := os.Open("testdata/" + name)
	require.NoError(t, err)
	defer f.Close()
	z, err := gzip.NewReader(f)
	require.NoError(t, err)
	raw, err := io.ReadAll(z)
	require.NoError(t, err)
	return raw
}

// calledNow are other names that what was said by one has now.
var calledNow = map[string][]string{
	"says": {"message", "label", "text", "reasons"}, "fuse": {"outTime"}, "rollFuse": {"rollOutTime"},
	"foreseen": {"simulation"}, "marks": {"signedDemands"},
}

// holds says that everything that was said is said now as well; more may be said besides.
func holds(t *testing.T, at string, was, is any) {
	t.Helper()
	switch w := was.(type) {
	case map[string]any:
		v, ok := is.(map[string]any)
		if !assert.True(t, ok, "%s: %v", at, is) {
			return
		}
		for key, x := range w {
			now, there := v[key]
			for _, name := range calledNow[key] {
				if !there {
					now, there = v[name]
				}
			}
			holds(t, at+"/"+key, x, now)
		}
	case []any:
		v, _ := is.([]any)
		if assert.Len(t, v, len(w), at) {
			for k := range w {
				holds(t, fmt.Sprintf("%s/%d", at, k), w[k], v[k])
			}
		}
	case float64:
		v, ok := is.(float64)
		if assert.True(t, ok, "%s: %v, was %v", at, is, was) {
			assert.InDelta(t, w, v, 1e-6*max(1, w, -w), at)
		}
	default:
		assert.Equal(t, was, is, at)
	}
}

// A database of the last version before there were routes, with builds in every room, one in
// its run, one that is signed off and one that ended, comes forward: every page of every build
// says what it said then. The facts were written down by that version.
func TestABuildOfBeforeRoutesSaysWhatItSaid(t *testing.T) {
	ctx := context.Background()
	url := storetest.Bare(t)
	conn, err := pgx.Connect(ctx, url)
	require.NoError(t, err)
	dump := regexp.MustCompile(`(?m)^(\\.*|CREATE SCHEMA public;|COMMENT ON SCHEMA .*)$`).
		ReplaceAll(unzipped(t, "before-routes.sql.gz"), nil)
	_, err = conn.PgConn().Exec(ctx, string(dump)).ReadAll()
	require.NoError(t, err)
	require.NoError(t, conn.Close(ctx))
	db, err := store.Open(ctx, url)
	require.NoError(t, err)
	t.Cleanup(db.Close)
	require.NoError(t, db.Migrate(ctx))
	var facts map[string]any
	require.NoError(t, json.Unmarshal(unzipped(t, "before-routes.json.gz"), &facts))
	at, err := time.Parse(time.RFC3339Nano, facts["at"].(string))
	require.NoError(t, err)
	s := shop.New(&book.Book{DB: db, Now: func() time.Time { return at }, Altitude: demo.Altitude})
	same := func(what string, was, is any, err error) {
		t.Helper()
		require.NoError(t, err, what)
		raw, err := json.Marshal(is)
		require.NoError(t, err)
		var now any
		require.NoError(t, json.Unmarshal(raw, &now))
		holds(t, what, was, now)
	}
	page, err := s.Builds(ctx, builds.BuildQuery{Limit: 200})
	same("builds", facts["builds"], page, err)
	for _, room := range []string{"cut", "kits", "layup", "bag", "cure", "release", "finished"} {
		waits, err := s.Builds(ctx, builds.BuildQuery{Room: room})
		same("in "+room, facts["in "+room], waits, err)
		passed, err := s.Builds(ctx, builds.BuildQuery{Room: room, Passed: true})
		same("passed "+room, facts["passed "+room], passed, err)
	}
	rooms := map[string]bool{}
	for _, b := range page.Builds {
		rooms[b.Room] = true
		assert.Empty(t, b.Open, "it has no route")
		was, _ := facts[b.Code].(map[string]any)
		require.NotNil(t, was, b.Code)
		layup, err := s.Layup(ctx, b.Code, "")
		same(b.Code+" layup", was["layup"], layup, err)
		kit, err := s.Kit(ctx, b.Code, "")
		same(b.Code+" kit", was["kit"], kit, err)
		bag, err := s.Bag(ctx, b.Code, "")
		same(b.Code+" bag", was["bag"], bag, err)
		sheet, err := s.ReleaseOf(ctx, b.Code)
		same(b.Code+" release", was["release"], sheet, err)
		thread, err := s.ThreadOfBuild(ctx, b.Code)
		same(b.Code+" people", was["people"], thread.People, err)
		same(b.Code+" rolls", was["rolls"], thread.Rolls, err)
		// What was said of its runs is in its log besides, since then.
		log := slices.DeleteFunc(thread.Log, func(l book.LogLine) bool { return strings.HasPrefix(l.What, "run ") })
		same(b.Code+" log", was["log"], log, err)
		same(b.Code+" revision", was["revision"], thread.Revision, err)
	}
	assert.ElementsMatch(t, []string{"cut", "kits", "layup", "bag", "cure", "release", "finished", "ended"},
		slices.Collect(maps.Keys(rooms)))
	runs, err := s.Runs(ctx)
	same("runs", facts["runs"], runs, err)
	n, err := s.VerifyLog(ctx)
	require.NoError(t, err)
	assert.Greater(t, n, int64(60))
}
