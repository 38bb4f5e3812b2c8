package calc

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// The example tells after each event where the build stands, and which rule refused what came too early.
func TestProgressTellsEachStep(t *testing.T) {
	out, err := run(t, "progress", "")
	require.NoError(t, err)
	steps := out["steps"].([]any)
	require.Len(t, steps, 3)
	states := func(k int) map[string]any { return steps[k].(map[string]any)["states"].(map[string]any) }
	assert.Equal(t, []any{"in work", "waiting"}, []any{states(0)["cut"], states(0)["kit"]})
	refusal := steps[1].(map[string]any)["refusal"].(map[string]any)
	assert.Equal(t, []any{"first", "Lay up waits for Kit"}, []any{refusal["rule"], refusal["message"]})
	assert.Equal(t, []any{"done", "ready"}, []any{states(2)["cut"], states(2)["kit"]})
	assert.Len(t, out["record"], 2)
	assert.Equal(t, []any{"kit"}, out["ready"])
}

func TestProgressGoesToTheRelease(t *testing.T) {
	input := `{"stages": [{"key": "a", "plies": 1}], "operations": [
		{"key": "cut", "kind": "cut", "stages": ["a"]}, {"key": "kit", "kind": "kit", "stages": ["a"], "after": ["cut"]},
		{"key": "lay", "kind": "lay", "stages": ["a"], "after": ["kit"]},
		{"key": "cure", "kind": "cure", "stages": ["a"], "after": ["lay"]},
		{"key": "release", "kind": "release", "after": ["cure"]}], "events": [`
	for _, e := range []string{
		`"kind": "ply cut", "ply": 1, "label": "C-1"`, `"kind": "ply counted", "ply": 1, "label": "C-1"`,
		`"kind": "kit counted", "operation": "kit"`, `"kind": "ply laid", "ply": 1, "label": "C-1"`,
		`"kind": "run begun", "operation": "cure", "run": "H-1"`, `"kind": "run ended", "operation": "cure", "run": "H-1", "met": true`,
		`"kind": "reworked", "reason": "a pit", "added": {"key": "sand", "kind": "sand", "after": ["cure"]}, "before": ["release"]`,
		`"kind": "signed", "operation": "sand"`, `"kind": "released", "says": "good"`,
	} {
		input += `{"at": "2026-03-02T08:00:00Z", "who": "somebody", ` + e + `},`
	}
	out, err := run(t, "progress", strings.TrimSuffix(input, ",")+"]}")
	require.NoError(t, err)
	steps := out["steps"].([]any)
	last := steps[len(steps)-1].(map[string]any)
	assert.Nil(t, last["refusal"])
	assert.Equal(t, map[string]any{
		"cut": "done", "kit": "done", "lay": "done", "cure": "done", "release": "done", "sand": "done",
	}, last["states"])
	clock := last["clocks"].([]any)[0].(map[string]any)
	assert.Equal(t, []any{"a", "H-1", true}, []any{clock["stage"], clock["run"], clock["over"]})

	for wrong, says := range map[string]string{
		`"after": ["lay"]}`:  "waits for an operation that is not there",
		`"kind": "ply cut"`:  "expected",
		`"stages": ["a"], "`: "there is no stage",
	} {
		bad := strings.Replace(strings.TrimSuffix(input, ",")+"]}", wrong, map[string]string{
			`"after": ["lay"]}`: `"after": ["nothing"]}`, `"kind": "ply cut"`: `"kind": "ply eaten"`, `"stages": ["a"], "`: `"stages": ["z"], "`,
		}[wrong], 1)
		_, err = run(t, "progress", bad)
		require.ErrorContains(t, err, says)
	}
}
