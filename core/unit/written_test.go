package unit

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

// What was written in a metric unit is read in one's own; any other unit stays as it is.
func TestWrittenIsReadInOnesOwnUnits(t *testing.T) {
	inches := System{Length: "in", Temperature: "F", Pressure: "psi", Vacuum: "inHg", Mass: "lb", Area: "ft2"}
	for _, x := range []struct {
		of           string
		v            float64
		in           string
		metric, ours string
	}{
		{"bond line", 0.254, "mm", "0.254 mm", "0.01000 in"},
		{"cord", 3.048, "m", "3.048 m", "10.000 ft"},
		{"part", 40, "°C", "40 °C", "104 °F"},
		{"overshoot", 5, "K", "5 K", "9 °F"},
		{"heating", 2, "K/min", "2 K/min", "4 °F/min"},
		{"clamp pressure", 689.5, "kPa", "689.5 kPa", "100.0 psi"},
		{"vacuum", 84.66, "kPa", "84.66 kPa", "25.000 inHg"},
		{"mass", 0.4536, "kg", "0.4536 kg", "1.0000 lb"},
		{"skin", 0.93, "m²", "0.93 m²", "10.0 ft²"},
		{"pull", 1250.5, "N", "1250.5 N", "1250.5 N"},
		{"coats", 2, "", "2", "2"},
		{"bond line", -0.5, "mm", "-0.5 mm", "-0.020 in"},
	} {
		says := Written(x.of, x.v, x.in)
		assert.Equal(t, x.metric, InMetric(says), x.of)
		assert.Equal(t, x.ours, inches.Say(says), x.of)
	}
}
