package number

import (
	"encoding/json"
	"os"
	"strconv"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// The same table as the pages' field for numbers is held to.
func TestNumbersAreReadAsMeantOrRefused(t *testing.T) {
	raw, err := os.ReadFile("testdata/numbers.json")
	require.NoError(t, err)
	var table struct {
		Read               map[string]float64
		Ambiguous, Refused []string
	}
	require.NoError(t, json.Unmarshal(raw, &table))
	for text, want := range table.Read {
		got, err := Read(text)
		require.NoError(t, err, text)
		assert.InDelta(t, want, got, 1e-12, text)
	}
	for _, text := range table.Ambiguous {
		_, err := Read(text)
		assert.ErrorContains(t, err, "may mean", text)
	}
	for _, text := range table.Refused {
		_, err := Read(text)
		assert.ErrorContains(t, err, "is not a number", text)
	}
}

// What a computer writes is read back exactly.
func FuzzRead(f *testing.F) {
	f.Add(1.5)
	f.Add(-0.001)
	f.Fuzz(func(t *testing.T, v float64) {
		if v != v || v > 1e300 || v < -1e300 {
			return
		}
		got, err := Read(strconv.FormatFloat(v, 'g', -1, 64))
		require.NoError(t, err)
		assert.Equal(t, v, got)
	})
}
