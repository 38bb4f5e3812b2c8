package laminate

import (
	"errors"
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func inWords(plies []CodedPly) string {
	var parts []string
	for _, p := range plies {
		s := fmt.Sprint(p.AngleDeg)
		if p.Mirrored {
			s += "'"
		}
		parts = append(parts, s)
	}
	return strings.Join(parts, " ")
}

func TestStackingCodes(t *testing.T) {
	for code, want := range map[string]string{
		"0/45/-45/90 s":   "0 45 -45 90 90' -45' 45' 0'",
		"[(0/90)2/±45]s":  "0 90 0 90 45 -45 -45' 45' 90' 0' 90' 0'",
		"[0/45/90~]s":     "0 45 90 45' 0'",
		"[0/90]2":         "0 90 0 90",
		"[0/90]2s":        "0 90 0 90 90' 0' 90' 0'",
		"0_3, 30.5":       "0 0 0 30.5",
		" −45° / +-30 ":   "-45 30 -30",
		"∓60":             "-60 60",
		"-0":              "0",
		"((±45)2/0_2)2/9": "45 -45 45 -45 0 0 45 -45 45 -45 0 0 9",
	} {
		got, err := ReadCode(code)
		if assert.NoError(t, err, code) {
			assert.Equal(t, want, inWords(got), code)
		}
	}
}

func TestACodeThatMeansNothingPointsAtTheCharacter(t *testing.T) {
	for code, want := range map[string]CodeError{
		"":                               {0, "the code is empty"},
		"0/":                             {2, "an angle is missing"},
		"0/x/90":                         {2, `'x' is not an angle`},
		"[0/90":                          {0, "this bracket is not closed"},
		"0/(90/45":                       {2, "this bracket is not closed"},
		"0/90]":                          {4, "does not belong here"},
		"0/90 s2":                        {6, "does not belong here"},
		"0/400":                          {2, "is not an angle of at most 360°"},
		"0/90~":                          {4, "a ply lies on mid-plane only"},
		"[0~/90]s":                       {3, "nothing may follow"},
		"[0/90~]2s":                      {5, "a ply lies on mid-plane only"},
		"[(0/90)600]s":                   {7, "once to 500 times"},
		"((0/90)20)20":                   {0, "more than 500 plies"},
		"0_0":                            {2, "once to 500 times"},
		"1.2.3":                          {0, "is not an angle"},
		strings.Repeat("(", 40):          {20, "too deep"},
		strings.Repeat("0/", 2000) + "0": {1001, "more than 500 plies"},
		"[(0/90)150]s":                   {0, "600 plies, at most 500"},
	} {
		_, err := ReadCode(code)
		var fault *CodeError
		require.True(t, errors.As(err, &fault), code)
		assert.Contains(t, fault.Message, want.Message, code)
		assert.Equal(t, want.At, fault.At, "%s: %s", code, fault.Message)
	}
}

func FuzzReadCode(f *testing.F) {
	for _, seed := range []string{"0/45/-45/90 s", "[(0/90)2/±45]s", "[0/45/90~]s", "+-30", "((", "]", "0_", "∓\x00"} {
		f.Add(seed)
	}
	f.Fuzz(func(t *testing.T, code string) {
		plies, err := ReadCode(code)
		if err != nil {
			var fault *CodeError
			require.True(t, errors.As(err, &fault))
			require.True(t, fault.At >= 0 && fault.At <= len([]rune(code)), "points into the code")
			return
		}
		require.NotEmpty(t, plies)
		require.LessOrEqual(t, len(plies), MaxCoded)
		mirrored := 0
		for _, p := range plies {
			require.LessOrEqual(t, p.AngleDeg, 360.0)
			if p.Mirrored {
				mirrored++
			}
		}
		require.LessOrEqual(t, 2*mirrored, len(plies))
	})
}
