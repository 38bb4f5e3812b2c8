package unit

import (
	"regexp"
	"strconv"
	"strings"
)

// written are the metric units that people write beside a value of their own, such as a
// limit of an inspection: the kind, and how many make the SI unit.
var written = map[string]struct {
	kind    Kind
	si, add float64
}{
	"mm": {KindSize, 1e-3, 0},
	"m":  {KindRun, 1, 0},
	"°C": {KindTemperature, 1, ZeroCelsius},
	"K":  {KindRise, 1, 0},
	"kg": {KindMass, 1, 0},
	"m²": {KindArea, 1, 0},
}

// pressed tells a pressure from a vacuum, which are both written in kPa.
var pressed = regexp.MustCompile(`(?i)pressure`)

// Written is a value that was written down in a unit of its own, as a sentence holds it:
// a quantity where the unit is one of those that readers choose, and the figure with its
// unit as it stands where it is any other (N, dB, g). The name of what was measured tells
// a pressure from a vacuum. It is said with as many digits as it was written with.
func Written(of string, v float64, in string) string {
	figure := strconv.FormatFloat(v, 'f', -1, 64)
	head, tail := in, ""
	if rate, is := strings.CutSuffix(in, "/min"); is && rate == "K" {
		head, tail = rate, "/min"
	}
	as, known := written[head]
	if head == "kPa" {
		as.kind, as.si, known = KindVacuum, 1e3, true
		if pressed.MatchString(of) {
			as.kind = KindPressure
		}
	}
	if !known {
		return strings.TrimSpace(figure + " " + in)
	}
	_, after, _ := strings.Cut(figure, ".")
	return Quantity{as.kind, v*as.si + as.add, min(len(after), 9)}.String() + tail
}
