package nest

import (
	"encoding/json"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

func TestALayoutIsKeptAsItWasFound(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		number := rapid.Float64Range(-1e12, 1e12)
		found := Layout{
			Placements: []Placement{}, Used: []float64{number.Draw(t, "used")}, Length: number.Draw(t, "l"),
			Yield: number.Draw(t, "y"),
			Rest:  Remnant{Sheet: 1, X: number.Draw(t, "x"), Width: 0.3, Height: 0.2}, Step: rapid.Int().Draw(t, "s"),
		}
		for range rapid.IntRange(0, 6).Draw(t, "n") {
			found.Placements = append(found.Placements, Placement{
				ID: rapid.String().Draw(t, "id"), Sheet: rapid.IntRange(0, 5).Draw(t, "sheet"), X: number.Draw(t, "x"),
				Y: number.Draw(t, "y"), Turn: 90 * rapid.IntRange(0, 3).Draw(t, "turn"),
			})
		}
		raw, err := json.Marshal(found)
		require.NoError(t, err)
		var back Layout
		require.NoError(t, json.Unmarshal(raw, &back))
		assert.Equal(t, found, back)
	})
	raw, err := json.Marshal(Measure(Problem{Sheets: []Sheet{{Width: 1, Length: 1}}}, Layout{}))
	require.NoError(t, err)
	assert.JSONEq(
		t,
		`{"placements":[],"used":[0],"length":0,"yield":0,"step":0}`,
		string(raw),
		"what there is nothing of",
	)
}

// Problems that were kept before call the length of the table its bite.
func TestASheetOfBeforeIsRead(t *testing.T) {
	var s Sheet
	require.NoError(
		t,
		json.Unmarshal([]byte(`{"width":0.6,"length":2,"bite":1.5,"flaws":[{"from":0.1,"to":0.2}]}`), &s),
	)
	assert.Equal(t, Sheet{Width: 0.6, Length: 2, TableLength: 1.5, Flaws: []Flaw{{From: 0.1, To: 0.2}}}, s)
	assert.Error(t, json.Unmarshal([]byte(`{"bite":"long"}`), &s))
}
