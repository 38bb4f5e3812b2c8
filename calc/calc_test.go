package calc

import (
	"context"
	"encoding/json"
	"math"
	"strings"
	"testing"
	"time"

	"github.com/santhosh-tekuri/jsonschema/v6"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"juxta/calc/calctest"
)

func run(t *testing.T, name, input string) (map[string]any, error) {
	t.Helper()
	c, err := Find(name)
	require.NoError(t, err)
	if input == "" {
		input = string(c.Example())
	}
	raw, err := c.Run(context.Background(), []byte(input))
	if err != nil {
		return nil, err
	}
	var out map[string]any
	require.NoError(t, json.Unmarshal(raw, &out))
	return out, nil
}

func example(t *testing.T, name string) string {
	t.Helper()
	c, err := Find(name)
	require.NoError(t, err)
	return string(c.Example())
}

func TestEveryExampleRunsAndEverySchemaIsJSON(t *testing.T) {
	for _, c := range All() {
		out, err := run(t, c.Name, "")
		require.NoError(t, err, c.Name)
		assert.NotEmpty(t, out, c.Name)
		assert.NoError(t, calctest.Against(c.Schema(), c.Example()), c.Name)
		named := strings.Replace(string(c.Example()), "{", `{"$schema": "http://localhost/schema",`, 1)
		assert.NoError(t, calctest.Against(c.Schema(), []byte(named)), "a file names its schema")
		_, err = run(t, c.Name, named)
		require.NoError(t, err, c.Name)
	}
}

// What a schema refuses is refused here and by another reader of it.
func TestASchemaRefusesInOtherHandsToo(t *testing.T) {
	for says, c := range map[string][3]string{
		"a member that is not known": {"cure", `"recipe": {`, `"recipy": 1, "recipe": {`},
		"words for a number":         {"nest", `"width": 0.6`, `"width": "wide"`},
		"too few":                    {"outtime", `864000`, `-1`},
		"no such thing":              {"laminate", `"plies": [`, `"plies": [], "other": [`},
	} {
		bad := strings.Replace(example(t, c[0]), c[1], c[2], 1)
		require.NotEqual(t, example(t, c[0]), bad, says)
		_, err := run(t, c[0], bad)
		require.Error(t, err, says)
		calculation, err := Find(c[0])
		require.NoError(t, err)
		var broken *jsonschema.ValidationError
		assert.ErrorAs(t, calctest.Against(calculation.Schema(), []byte(bad)), &broken, says)
	}
}

func TestExamplesGiveWhatTheyShould(t *testing.T) {
	out, err := run(t, "outtime", "")
	require.NoError(t, err)
	outTime := out["outTime"].(map[string]any)
	assert.EqualValues(t, 3.5*3600, outTime["spent"], "07:10 to 10:40")
	assert.InDelta(t, 33.38, out["length"], 1e-9)

	out, err = run(t, "laminate", "")
	require.NoError(t, err)
	assert.InDelta(t, 4*140e-6, out["thickness"], 1e-12)
	assert.Greater(t, out["bow"], 1e-3, "0/45/-45/90 is not symmetric and bows")

	out, err = run(t, "nest", "")
	require.NoError(t, err)
	assert.Less(t, out["length"], 1.1)
	assert.Len(t, out["placements"], 4)

	out, err = run(t, "cure", "")
	require.NoError(t, err)
	assert.Equal(t, true, out["met"])
	assert.Greater(t, out["duration"], 5*3600.0)
	assert.NotEmpty(t, out["points"])

	before := out["duration"].(float64)
	out, err = run(t, "recipe", "")
	require.NoError(t, err)
	assert.Less(t, out["duration"], before)
	assert.Zero(t, out["misses"])

	// 120 psi on 0.11 m² open a mould with some ten short tons; a press of twenty holds it (common practice).
	out, err = run(t, "press", "")
	require.NoError(t, err)
	assert.InDelta(t, 10*8896.44, out["opening"], 0.05*10*8896.44)
	assert.Equal(t, true, out["held"])
	out, err = run(t, "press", `{"pressure": 827371, "area": 0.11, "bolts": 4, "each": 20e3, "margin": 0}`)
	require.NoError(t, err)
	assert.Equal(t, false, out["held"])

	out, err = run(t, "drape", "")
	require.NoError(t, err)
	assert.EqualValues(t, 18, out["tried"])
	assert.InEpsilon(t, 2*math.Pi*0.16*(1-math.Cos(50*math.Pi/180)), out["surface"], 0.01, "2πR²(1 − cos)")
	piece := out["pieces"].([]any)[0].(map[string]any)
	assert.Len(t, piece["locks"], 4)
	drapes := example(t, "drape")
	// With the darts that are proposed it shears less; of strips not at all.
	out, err = run(t, "drape", strings.Replace(drapes, `"starts": 9`, `"propose": true`, 1))
	require.NoError(t, err)
	assert.NotEmpty(t, out["proposed"])
	assert.Less(t, out["peakDeg"], piece["peakDeg"])
	out, err = run(t, "drape", strings.Replace(drapes, `"starts": 9`, `"strip": 0.1`, 1))
	require.NoError(t, err)
	assert.Greater(t, len(out["pieces"].([]any)), 5)
	assert.Zero(t, out["peakDeg"])

	out, err = run(t, "tube", "")
	require.NoError(t, err)
	assert.Len(t, out["sheets"], 7, "three of one entry")
	assert.InDelta(t, 0.06252, out["outside"].([]any)[0].(map[string]any)["width"], 1e-5)
	remedies := out["fits"].(map[string]any)["remedies"].([]any)
	assert.Equal(t, "a mandrel of 59.68 mm across", remedies[0].(map[string]any)["message"])
}

func TestBadInputNamesTheField(t *testing.T) {
	example := func(name string) string { return example(t, name) }
	for says, c := range map[string]struct{ name, input string }{
		"not JSON":          {"laminate", "{"},
		"plies":             {"laminate", `{"materials":{},"plies":[]}`},
		"plies[0].material": {"laminate", `{"materials":{},"plies":[{"material":"x","angleDeg":0}]}`},
		"outLife":           {"outtime", strings.Replace(example("outtime"), "864000", "-1", 1)},
		"events[2]":         {"outtime", strings.Replace(example("outtime"), "8.62", "99", 1)},
		"pieces[1].outline": {"nest", strings.Replace(example("nest"), "0.15,", "0.15, 7,", 1)},
		"width": {"nest", strings.Replace(example("nest"), `"width": 0.6`,
			`"width": "wide"`, 1)},
		"first: the corner radius of 33.0 mm": {"tube", strings.Replace(example("tube"), `"radius": 0.006`,
			`"radius": 0.033`, 1)},
		"first: the taper crosses zero": {"tube", strings.NewReplacer(`"width": 0.04,`, `"width": 0.0001,`,
			`"radius": 0.004`, `"radius": 0`).Replace(example("tube"))},
		"sheets[1].joinWidth: an overlap of": {"tube", strings.Replace(example("tube"), `"joinWidth": 0.01`,
			`"joinWidth": 0.9`, 1)},
		"sheets[0].material": {"tube", strings.Replace(example("tube"), `"material": "ud"`,
			`"material": "x"`, 1)},
		"tape: a tape plan has": {"tube", strings.Replace(example("tube"), `"layers": 2`, `"layers": 0`,
			1)},
		"pull: friction": {"tube", strings.Replace(example("tube"), `"friction": 0.2`,
			`"friction": 9`, 1)},
		"surface: the radius of a sphere cap": {"drape", strings.Replace(example("drape"), `"radius": 0.4`,
			`"radius": -1`, 1)},
		"start: the start lies": {"drape",
			`{"surface":{"kind":"saddle","dims":{"radius":0.5,"length":0.5,"width":0.4}},"start":[3,0,0],"warpDeg":0}`},
		"surface: three triangles share": {"drape",
			`{"surface":{"points":[[0,0,0],[1,0,0],[0,1,0],[0,0,1],[0,-1,0]],
				"triangles":[[0,1,2],[0,1,3],[0,1,4]]},"warpDeg":0}`},
		"outline: the ply reaches over": {"drape",
			`{"surface":{"kind":"saddle","dims":{"radius":0.5,"length":0.5,"width":0.4}},
				"outline":[[0,0],[2,0],[0,0.1]],"warpDeg":0}`},
		"recipe: segment 2":              {"cure", strings.Replace(example("cure"), "450.15", "1450.15", 1)},
		"recipe: segment 1: the ramp":    {"cure", strings.Replace(example("cure"), "0.025", "-1", 1)},
		"force: enter the closing force": {"press", `{"pressure": 1e5, "area": 1}`},
	} {
		_, err := run(t, c.name, c.input)
		var wrong *InputError
		require.ErrorAs(t, err, &wrong, says)
		assert.Contains(t, wrong.Error(), says)
		assert.NotContains(t, wrong.Error(), "\n", "one line")
	}
	_, err := Find("tarot")
	assert.ErrorContains(t, err, "there are cure, drape, laminate, nest, outtime, press, progress, recipe, tube")
}

// The whole ledger from the command line: a bag opened, a line taken back, a
// freezer that failed, a re-test.
func TestOutTimeOfAWholeLedger(t *testing.T) {
	at := func(h int) time.Time { return time.Date(2026, 3, 2, h, 0, 0, 0, time.UTC) }
	until, to := at(0).AddDate(0, 6, 0), at(9)
	in := OutTimeIn{
		OutLife: 100 * 3600,
		Spent:   3600,
		Now:     at(20),
		Warm:    []OutTimeWarm{{Freezer: 1, From: at(7), To: &to}},
		Events: []OutTimeEvent{
			{
				Kind:    "received",
				At:      at(1),
				Length:  40,
				Freezer: 1,
				ID:      1,
			}, {Kind: "out", At: at(10), ID: 2}, {Kind: "opened", At: at(11), ID: 3},
			{Kind: "used", At: at(12), Length: 5,
				ID: 4},
			{
				Kind:   "scrapped",
				At:     at(12),
				Length: 30,
				ID:     5,
			}, {Kind: "counter", At: at(13), ID: 6, Cancels: 5}, {Kind: "sealed", At: at(14), ID: 7},
			{Kind: "in", At: at(14),
				Freezer: 1, ID: 8},
			{Kind: "retested", At: at(15), Until: &until, More: 7200, ID: 9},
		},
	}
	out, err := OutTime(context.Background(), in)
	require.NoError(t, err)
	assert.InDelta(t, (1+2+4)*3600, out.OutTime.Spent, 1e-6, "before, in the warm freezer, on the bench")
	assert.InDelta(t, 35, out.Length, 1e-12)
	assert.InDelta(t, 102*3600, out.OutTime.Life, 1e-6)
	assert.True(t, out.OutTime.ShelfEnd.Equal(until))
	in.Events[5].Cancels = 77
	_, err = OutTime(context.Background(), in)
	var wrong *InputError
	require.ErrorAs(t, err, &wrong)
	assert.Equal(t, "events[5]", wrong.Field)
}

// A nest of before gave the length of the table by another name.
func TestTheLengthOfTheTableIsReadByItsOldName(t *testing.T) {
	for _, key := range []string{"tableLength", "bite"} {
		var in NestIn
		require.NoError(t, json.Unmarshal([]byte(`{"sheets":[{"width":1,"length":5,"`+key+`":1.5}]}`), &in))
		assert.Equal(t, 1.5, in.Problem.Sheets[0].TableLength, key)
	}
}
