package master

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"

	"juxta/core/unit"
)

func TestWhatIsRecordedIsHeldAgainstItsFields(t *testing.T) {
	now := time.Date(2026, 3, 2, 8, 0, 0, 0, time.UTC)
	ago := func(d time.Duration) *time.Time { at := now.Add(-d); return &at }
	o := Operation{Fields: []Field{
		{Key: "line", Name: "bond line", Kind: "value", Unit: "mm", Least: number(0.15), Most: number(0.6)},
		{Key: "look", Name: "voids", Kind: "choice", Choices: []string{"none", "marked"}},
		{Key: "paste", Name: "adhesive", Kind: "product", Pot: 45 * 60},
		{Key: "note", Name: "remark", Kind: "text", Free: true},
		{Key: "shot", Name: "the joint", Kind: "picture"},
		{Key: "jig", Name: "jig", Kind: "scan"},
	}}
	says := func(values map[string]Value) []string {
		var out []string
		for _, v := range o.Judge(values, now) {
			if v.Message != "" {
				out = append(out, unit.InMetric(v.Message))
				assert.False(t, v.Met)
			}
		}
		return out
	}
	assert.Equal(t, []string{
		"bond line: measure it", "voids: choose one", "adhesive: scan its batch, and say when it was mixed",
		"the joint: take a picture", "jig: scan it",
	}, says(nil))
	good := func() map[string]Value {
		return map[string]Value{
			"line": {Number: number(0.3)}, "look": {Text: "none"}, "paste": {Text: "EP-12", At: ago(44 * time.Minute)},
			"shot": {FileID: 3}, "jig": {Text: "J-3"},
		}
	}
	assert.Empty(t, says(good()))
	for _, v := range o.Judge(good(), now) {
		assert.Equal(t, v.Key != "note", v.Met, "what is empty meets nothing")
		assert.False(t, v.Missing)
	}
	for key, c := range map[string]struct {
		v    Value
		says string
	}{
		"line": {Value{Number: number(0.65)}, "bond line: 0.65 mm is above the maximum, 0.6 mm"},
		"look": {Value{Text: "some"}, "voids is one of none, marked"},
		"paste": {Value{Text: "EP-12", At: ago(50 * time.Minute)}, "adhesive: its pot life of 45 min was over 5 min " +
			"ago, mix anew"},
		"jig": {Value{Text: "  "}, "jig: scan it"},
	} {
		values := good()
		values[key] = c.v
		assert.Equal(t, []string{c.says}, says(values))
	}
	values := good()
	values["line"] = Value{Number: number(0.1)}
	values["paste"] = Value{Text: "EP-12", At: ago(-time.Minute)}
	assert.Equal(t, []string{
		"bond line: 0.1 mm is below the minimum, 0.15 mm", "adhesive cannot have been mixed in the future",
	}, says(values))
}
