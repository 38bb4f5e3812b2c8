package master

import (
	"encoding/json"
	"math"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
)

// Whatever two people made of a document: the one who changed nothing changes
// nothing, and what is merged is whole or the conflicts say why not.
func FuzzMerge(f *testing.F) {
	seed := func(changes ...func(*Document)) []byte {
		d := panel()
		for _, c := range changes {
			c(&d)
		}
		raw, err := json.Marshal(d)
		require.NoError(f, err)
		return raw
	}
	turned := func(d *Document) { d.Stages[0].Items[1].AngleDeg = 30 }
	short := func(d *Document) { d.Stages[0].Items = d.Stages[0].Items[:1] }
	split := func(d *Document) {
		d.Stages = append(d.Stages, Stage{Key: "more", Kind: "skin", Items: d.Stages[0].Items[2:]})
		d.Stages[0].Items = d.Stages[0].Items[:2]
	}
	for _, theirs := range []func(*Document){turned, short, split} {
		for _, mine := range []func(*Document){turned, short, split} {
			f.Add(seed(), seed(theirs), seed(mine))
		}
	}
	f.Fuzz(func(t *testing.T, base, theirs, mine []byte) {
		var b, h, m Document
		if json.Unmarshal(base, &b) != nil || json.Unmarshal(theirs, &h) != nil || json.Unmarshal(mine, &m) != nil {
			return
		}
		for _, d := range []Document{b, h, m} {
			if len(d.Check(materials)) > 0 || len(d.Items()) > 60 {
				return
			}
		}
		out, conflicts := Merge(b, b, m)
		require.Empty(t, conflicts, "only mine was changed")
		require.True(t, same(m.Normal(), out), "only mine was changed")
		out, conflicts = Merge(b, h, b)
		require.Empty(t, conflicts, "only theirs was changed")
		require.True(t, same(h.Normal(), out), "only theirs was changed")
		both, here := Merge(b, h, m)
		_, there := Merge(b, m, h)
		require.Equal(t, len(here) == 0, len(there) == 0, "whoever comes first: %v, %v", here, there)
		for _, c := range here {
			require.NotEmpty(t, strings.TrimSpace(c))
		}
		if len(here) == 0 {
			keys := map[string]bool{}
			for _, i := range both.Items() {
				require.False(t, keys[i.Key], "item %s stands in it twice", i.Key)
				keys[i.Key] = true
			}
		}
	})
}

// Whatever is written as an expression: a number that is one, or one line that
// says what is wrong.
func FuzzExpression(f *testing.F) {
	for _, code := range []string{
		"n", "2*n + 1", "min(n, length) / 2", "n ^ 0.5", "-n", "1/0", "nope", `"ab"`, "[1,2][0]", "n ? 1 : 2",
		"map(1..9, #)", "len('a')", "1e308*10", "((((n))))", "n;n", "let x = 1; x",
		strings.Repeat("(", 200) + "n" + strings.Repeat(")", 200),
	} {
		f.Add(code, 3.0, 250.0)
	}
	f.Fuzz(func(t *testing.T, code string, n, length float64) {
		if len(code) > 400 {
			return // longer than a document may have them
		}
		value, err := evaluate(code, map[string]any{"n": n, "length": length})
		if err != nil {
			require.NotContains(t, err.Error(), "\n")
			return
		}
		require.False(t, math.IsNaN(value) || math.IsInf(value, 0))
		again, err := evaluate(code, map[string]any{"n": n, "length": length})
		require.NoError(t, err)
		require.InDelta(t, value, again, 0)
	})
}
