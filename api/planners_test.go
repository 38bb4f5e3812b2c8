package api_test

import (
	"encoding/json"
	"fmt"
	"net/http"
	"sync"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"juxta/core/master"
	"juxta/shop/parts"
)

// Eight planners change a ply each of one draft at once, all from the same
// version: all eight changes are there, whoever came first.
func TestManyPlannersAtOneDraftLoseNothing(t *testing.T) {
	b := open(t)
	b.signIn("Marek Orde")
	code := b.partCode("SP-23")
	var v parts.RevisionView
	b.send("GET", "/api/parts/"+code, "").into(t, &v)
	require.Len(t, v.Plies, 8)
	raw, err := json.Marshal(v.Document)
	require.NoError(t, err)
	var all sync.WaitGroup
	for k := range 8 {
		all.Go(func() {
			var mine master.Document
			if !assert.NoError(t, json.Unmarshal(raw, &mine)) {
				return
			}
			mine.Stages[0].Items[k].AngleDeg = float64(10 + k)
			body, err := json.Marshal(parts.DraftChange{Version: v.Version, Base: &v.Document, Document: &mine})
			assert.NoError(t, err)
			got := b.send(
				"POST",
				"/api/parts/"+code+"/draft",
				string(body),
				key,
				fmt.Sprintf("planner-%d-at-one-draft", k),
			)
			assert.Equal(t, http.StatusOK, got.StatusCode, string(got.body))
		})
	}
	all.Wait()
	var after parts.RevisionView
	b.send("GET", "/api/parts/"+code, "").into(t, &after)
	for k, p := range after.Plies {
		assert.Equal(t, float64(10+k), p.AngleDeg)
	}
	assert.Equal(t, v.Version+8, after.Version)
	// A ninth, who changed what two of them changed, is told of both.
	var mine master.Document
	require.NoError(t, json.Unmarshal(raw, &mine))
	mine.Stages[0].Items[2].AngleDeg, mine.Stages[0].Items[5].AngleDeg = 70, 71
	body, err := json.Marshal(parts.DraftChange{Version: v.Version, Base: &v.Document, Document: &mine})
	require.NoError(t, err)
	got := b.send("POST", "/api/parts/"+code+"/draft", string(body), key, "a-ninth-planner")
	assert.Equal(t, http.StatusConflict, got.StatusCode)
	assert.Contains(t, string(got.body), "item 3 was changed by both")
	assert.Contains(t, string(got.body), "item 6 was changed by both")
}
