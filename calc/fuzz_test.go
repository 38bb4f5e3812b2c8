package calc

import (
	"context"
	"encoding/json"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
)

// Whatever is typed into juxta calc: a result that is JSON, or one line that
// says what is wrong with the input.
func FuzzRun(f *testing.F) {
	for i, c := range All() {
		f.Add(i, string(c.Example()))
		f.Add(i, strings.Replace(string(c.Example()), "0", "-0", 3))
		f.Add(i, strings.ReplaceAll(string(c.Example()), "1", "1e300"))
	}
	f.Add(0, "null")
	f.Add(1, `{"materials":{"":{}},"plies":[{"material":"","angleDeg":1e308}]}`)
	f.Fuzz(func(t *testing.T, which int, input string) {
		all := All()
		c := all[(which%len(all)+len(all))%len(all)]
		if c.Name == "nest" && hardNest(input) {
			return // says nothing more than a small one, and takes long
		}
		out, err := c.Run(context.Background(), []byte(input))
		if err != nil {
			var wrong *InputError
			require.ErrorAs(t, err, &wrong, "%s: %s", c.Name, input)
			require.NotContains(t, err.Error(), "\n")
			require.NotEmpty(t, err.Error())
			return
		}
		require.True(t, json.Valid(out))
	})
}

// hardNest keeps the fuzzer from asking for searches of hours.
func hardNest(input string) bool {
	var in NestIn
	if err := json.Unmarshal([]byte(input), &in); err != nil {
		return false
	}
	return in.Steps > 20 || in.Steps == 0 || in.Seconds > 1 || len(in.Pieces) > 6
}
