package store_test

import (
	"context"
	"encoding/json"
	"os"
	"testing"

	"github.com/pressly/goose/v3"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"juxta/store"
	"juxta/store/storetest"
)

// Nests that were stored by earlier versions are brought forward: what was cut is drawn where it lay, what was only
// planned is to be nested again, and where the knife had spoiled the cloth to its end is an outline.
func TestStoredNestsAreBroughtForward(t *testing.T) {
	ctx := context.Background()
	db, err := store.Open(ctx, storetest.Bare(t))
	require.NoError(t, err)
	t.Cleanup(db.Close)
	steps, err := goose.NewProvider(goose.DialectPostgres, db.SQL, os.DirFS("migrations"))
	require.NoError(t, err)
	to := func(version int64) {
		t.Helper()
		_, err := steps.UpTo(ctx, version)
		require.NoError(t, err)
	}
	to(10)
	require.NoError(t, db.Gorm.Exec(`alter table nests drop constraint nests_roll_id_fkey`).Error)
	for code, state := range map[string]string{"N-1": "cut", "N-2": "done"} {
		require.NoError(
			t,
			db.Gorm.Exec(`insert into nests (code, roll_id, state, created_at, problem, best) values (?, 1, ?, now(),
			'{"width": 0.6, "length": 10, "edgeTrim": 0.005, "gap": 0.002, "flaws": [{"from": 1, "to": 2}], "pieces": [
				{"id": "a", "outline": [[0, 0], [0.4, 0.05], [0.1, 0.3]]},
				{"id": "b", "outline": [[-0.1, 0], [0.2, 0], [0.2, 0.1]]}]}',
			'{"length": 0.7, "yield": 0.5, "placements": [{"id": "a", "x": 0.1, "y": 0.2, "turned": true},
				{"id": "b", "x": 0.3, "y": 0.4}]}')`, code, state).Error,
		)
	}
	to(11)
	type stored struct {
		State, Says   string
		Problem, Best []byte
	}
	read := func(code string) (s stored) {
		t.Helper()
		require.NoError(
			t,
			db.Gorm.Raw(`select state, says, problem, best from nests where code = ?`, code).Scan(&s).Error,
		)
		return s
	}
	cut := read("N-1")
	var best struct {
		Used       []float64
		Placements []struct {
			ID          string
			Sheet, Turn int
			X, Y        float64
		}
	}
	require.NoError(t, json.Unmarshal(cut.Best, &best))
	assert.Equal(t, []float64{0.7}, best.Used)
	// Turned, its box went from −0.4 and −0.3 on; it lay with its box at 0.1 and 0.2.
	a, b := best.Placements[0], best.Placements[1]
	assert.Equal(t, 180, a.Turn)
	assert.InDelta(t, 0.5, a.X, 1e-12)
	assert.InDelta(t, 0.5, a.Y, 1e-12)
	assert.Equal(t, 0, b.Turn)
	assert.InDelta(t, 0.4, b.X, 1e-12)
	assert.InDelta(t, 0.4, b.Y, 1e-12)
	assert.JSONEq(t, `{"gap": 0.002, "pieces": [{"id": "a", "outline": [[0, 0], [0.4, 0.05], [0.1, 0.3]]},
		{"id": "b", "outline": [[-0.1, 0], [0.2, 0], [0.2, 0.1]]}],
		"sheets": [{"width": 0.6, "length": 10, "edgeTrim": 0.005, "flaws": [{"from": 1, "to": 2}]}]}`,
		string(cut.Problem))
	planned := read("N-2")
	assert.Equal(t, "failed", planned.State)
	assert.Contains(t, planned.Says, "nest again")

	to(12)
	require.NoError(t, db.Gorm.Exec(`update nests set state = 'done', problem = '{"sheets": [{"width": 0.6, "length": 9,
		"flaws": [{"from": 1, "to": 2, "note": "crease"}, {"from": 4, "to": 9, "note": "spoiled"}]}]}'
		where code = 'N-2'`).Error)
	before := read("N-1").Problem
	to(13)
	assert.JSONEq(t, `{"sheets": [{"width": 0.6, "length": 9, "flaws": [{"from": 1, "to": 2, "note": "crease"}],
		"spoiled": [[[4, 0], [9, 0], [9, 0.6], [4, 0.6]]]}]}`, string(read("N-2").Problem))
	assert.JSONEq(t, string(before), string(read("N-1").Problem), "nothing else changes")
}
