package unit

import (
	"encoding/json"
	"fmt"
	"os"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

var us = System{
	Length:      "in",
	Temperature: "F",
	Pressure:    "psi",
	Vacuum:      "inHg",
	Mass:        "lb",
	Area:        "ft2",
	Decimal:     "comma",
}

// The page says the same of the same sentences (web/src/ui/units.test.ts).
func TestASentenceIsSaidInTheReadersUnits(t *testing.T) {
	raw, err := os.ReadFile("testdata/sentences.json")
	require.NoError(t, err)
	var examples []struct{ Sentence, Metric, US string }
	require.NoError(t, json.Unmarshal(raw, &examples))
	require.Greater(t, len(examples), 8)
	for _, e := range examples {
		assert.Equal(t, e.Metric, System{}.Say(e.Sentence))
		assert.Equal(t, e.US, us.Say(e.Sentence), e.Sentence)
	}
}

// Fixed points that are defined: the freezing and boiling point of water by the
// Fahrenheit scale, a foot of twelve inches, the standard atmosphere of 101325 Pa
// (29.92 inHg and 14.696 psi, as in the US Standard Atmosphere, 1976).
func TestUnitsAgainstTheirDefinitions(t *testing.T) {
	assert.Equal(t, "32,0 °F", us.Shown(Temperature(273.15, 1)))
	assert.Equal(t, "212,0 °F", us.Shown(Temperature(373.15, 1)))
	assert.Equal(t, "12,0000 in", us.Shown(Size(0.3048, 2)))
	assert.Equal(t, "1,000 ft", us.Shown(RollLength(0.3048, 3)))
	assert.Equal(t, "29,92 inHg", us.Shown(Vacuum(101325, 1)))
	assert.Equal(t, "14,696 psi", us.Shown(Quantity{KindPressure, 101325, 3}))
	assert.Equal(t, "1013 mbar", System{Vacuum: "mbar"}.Shown(Vacuum(101325, 1)))
	assert.Equal(t, "1,000 lb", us.Shown(Quantity{KindMass, 0.45359237, 3}))
	assert.Equal(t, "1,0 ft²", us.Shown(Quantity{KindArea, 0.09290304, 2}))
}

func TestAQuantityComesOutOfItsSentenceAsItWentIn(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		q := Quantity{
			rapid.SampledFrom([]Kind{KindSize, KindRun, KindTemperature, KindVacuum, KindMass}).Draw(t, "kind"),
			rapid.Float64Range(-1e5, 1e5).Draw(t, "value"),
			rapid.IntRange(0, 4).Draw(t, "digits"),
		}
		said := System{}.Say("before " + fmt.Sprint(q) + " after")
		if said != "before "+(System{}).Shown(q)+" after" {
			t.Fatalf("%s became %q", q, said)
		}
	})
}
