package calc

import (
	"context"
	"encoding/json"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
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

func TestEveryExampleRunsAndEverySchemaIsJSON(t *testing.T) {
	for _, c := range All() {
		out, err := run(t, c.Name, "")
		require.NoError(t, err, c.Name)
		assert.NotEmpty(t, out, c.Name)
		var schema map[string]any
		require.NoError(t, json.Unmarshal(c.Schema(), &schema), c.Name)
		assert.Contains(t, schema, "$defs")
	}
}

func TestExamplesGiveWhatTheyShould(t *testing.T) {
	out, err := run(t, "outtime", "")
	require.NoError(t, err)
	fuse := out["fuse"].(map[string]any)
	assert.EqualValues(t, 3.5*3600, fuse["spent"], "07:10 to 10:40")
	assert.InDelta(t, 33.38, out["length"], 1e-9)

	out, err = run(t, "laminate", "")
	require.NoError(t, err)
	assert.InDelta(t, 4*140e-6, out["thickness"], 1e-12)
	assert.Greater(t, out["bow"], 1e-3, "0/45/-45/90 is not symmetric and bows")

	out, err = run(t, "nest", "")
	require.NoError(t, err)
	assert.Less(t, out["length"], 0.9)

	out, err = run(t, "cure", "")
	require.NoError(t, err)
	assert.Greater(t, out["cure"], 0.5)
}

func TestBadInputNamesTheField(t *testing.T) {
	example := func(name string) string {
		c, _ := Find(name)
		return string(c.Example())
	}
	for says, c := range map[string]struct{ name, input string }{
		"not JSON":               {"laminate", "{"},
		"plies":                  {"laminate", `{"materials":{},"plies":[]}`},
		"plies[0].material":      {"laminate", `{"materials":{},"plies":[{"material":"x","angleDeg":0}]}`},
		"outLife":                {"outtime", strings.Replace(example("outtime"), "864000", "-1", 1)},
		"events[2]":              {"outtime", strings.Replace(example("outtime"), "8.62", "99", 1)},
		"pieces[1].outline":      {"nest", strings.Replace(example("nest"), "0.15,", "0.15, 7,", 1)},
		"width":                  {"nest", strings.Replace(example("nest"), `"width": 0.6`, `"width": "wide"`, 1)},
		"recipe: segment 2":      {"cure", strings.Replace(example("cure"), "393.15", "1393.15", 1)},
		"recipe.segments[0].rat": {"cure", strings.Replace(example("cure"), "0.033", "-1", 1)},
	} {
		_, err := run(t, c.name, c.input)
		var wrong *InputError
		require.ErrorAs(t, err, &wrong, says)
		assert.Contains(t, wrong.Error(), says)
		assert.NotContains(t, wrong.Error(), "\n", "one line")
	}
	_, err := Find("tarot")
	assert.ErrorContains(t, err, "there are cure, laminate, nest, outtime")
}
