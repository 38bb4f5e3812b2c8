package ident

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

func TestEveryIdReadsBackAsItself(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		n := rapid.Int64Range(1, 1<<33).Draw(t, "n")
		id := Format(Roll, n)
		kind, back, err := Parse(strings.ToLower(" " + id + " "))
		require.NoError(t, err)
		assert.Equal(t, Roll, kind)
		assert.Equal(t, id, back)
	})
}

func TestIdsAreDistinct(t *testing.T) {
	seen := map[string]int64{}
	for n := int64(1); n < 60000; n++ {
		id := Format(CutPly, n)
		require.Zero(t, seen[id], "%d and %d share %s", seen[id], n, id)
		seen[id] = n
	}
	assert.NotEqual(t, Format(Roll, 1<<20-1), Format(Roll, 1<<20))
}

// ISO 7064 states that its hybrid systems find every single substitution.
func TestOneWrongCharacterIsAlwaysFound(t *testing.T) {
	for n := int64(1); n < 400; n++ {
		id := Format(Build, n*37)
		for pos := 2; pos < len(id); pos++ {
			for _, r := range alphabet {
				wrong := id[:pos] + string(r) + id[pos+1:]
				if wrong == id {
					continue
				}
				_, _, err := Parse(wrong)
				require.Error(t, err, "%s passed for %s", wrong, id)
			}
		}
	}
}

func TestThingsOfOtherKindsDoNotShareTheirDigits(t *testing.T) {
	for n := int64(1); n < 3000; n++ {
		digits := map[string]Kind{}
		for _, k := range []Kind{Roll, Part, Build, CutPly, Nest, Run} {
			id := Format(k, n)
			require.Zero(t, digits[id[2:6]], id)
			digits[id[2:6]] = k
			_, _, err := Parse("H" + id[1:])
			assert.Equal(t, k == Run, err == nil, "a wrong kind letter is found: %s", id)
		}
	}
}

func TestParseSaysWhatIsWrong(t *testing.T) {
	for in, says := range map[string]string{
		"":         "should look like",
		"X-4KD7Q":  "should start with",
		"R-4KD":    "5 characters",
		"R-4KD!Q":  "never used",
		"R-0000\n": "5 characters",
	} {
		_, _, err := Parse(in)
		assert.ErrorContains(t, err, says, "%q", in)
	}
}

func FuzzParse(f *testing.F) {
	f.Add("R-4KD7Q")
	for k, n := range []Kind{Roll, Part, Build, CutPly, Nest, Run} {
		id := Format(n, int64(k*k*997+1))
		_, _, err := Parse(id)
		require.NoError(f, err, "a seed that is an id")
		f.Add(id)
		f.Add(strings.ToLower(id))
		f.Add(id[:1] + id[2:])
	}
	f.Fuzz(func(t *testing.T, s string) {
		kind, id, err := Parse(s)
		if err != nil {
			return
		}
		again, same, err := Parse(id)
		require.NoError(t, err)
		assert.Equal(t, kind, again)
		assert.Equal(t, id, same)
	})
}
