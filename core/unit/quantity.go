package unit

import (
	"fmt"
	"math"
	"regexp"
	"strconv"
	"strings"
)

// Kind of a quantity: its dimension, and how people in a shop speak of it. A
// place on a part is told in mm where a length on a roll is told in m.
type Kind string

// The kinds, with the SI unit of their values.
const (
	KindSize        Kind = "size"        // of a part, m
	KindRun         Kind = "run"         // along a roll, or a height above the sea, m
	KindTemperature Kind = "temperature" // K
	KindRise        Kind = "rise"        // difference of temperatures, K
	KindVacuum      Kind = "vacuum"      // Pa below the air outside
	KindPressure    Kind = "pressure"    // Pa
	KindMass        Kind = "mass"        // kg
	KindArea        Kind = "area"        // m²
	KindAreal       Kind = "areal"       // mass of an area, kg/m²
)

// Quantity is a value with its dimension as a sentence holds it: as data, until
// whoever shows the sentence turns it into words for its reader ([System.Say]).
type Quantity struct {
	Kind   Kind
	SI     float64
	Digits int // after the mark, in the kind's metric unit
}

// Size is a length on a part, in m.
func Size(m float64, digits int) Quantity { return Quantity{KindSize, m, digits} }

// RollLength is a length along a roll, in m.
func RollLength(m float64, digits int) Quantity { return Quantity{KindRun, m, digits} }

// Temperature in K.
func Temperature(kelvin float64, digits int) Quantity {
	return Quantity{KindTemperature, kelvin, digits}
}

// TemperatureDifference is a difference of temperatures in K.
func TemperatureDifference(kelvin float64, digits int) Quantity {
	return Quantity{KindRise, kelvin, digits}
}

// Vacuum in Pa below the air outside.
func Vacuum(pa float64, digits int) Quantity { return Quantity{KindVacuum, pa, digits} }

// Pressure in Pa.
func Pressure(pa float64, digits int) Quantity { return Quantity{KindPressure, pa, digits} }

// Mass in kg.
func Mass(kg float64, digits int) Quantity { return Quantity{KindMass, kg, digits} }

// Area in m².
func Area(m2 float64, digits int) Quantity { return Quantity{KindArea, m2, digits} }

// Areal is the mass of an area in kg/m².
func Areal(kg float64, digits int) Quantity { return Quantity{KindAreal, kg, digits} }

// String is the quantity as it stands in a sentence, such as ⟨size 0.0031 1⟩.
func (q Quantity) String() string {
	return fmt.Sprintf("⟨%s %s %d⟩", q.Kind, strconv.FormatFloat(q.SI, 'g', -1, 64), q.Digits)
}

// System is the units that somebody reads and types in; an empty choice is the
// first of its kind.
type System struct {
	Length      string `json:"length,omitempty" enum:"mm,in" doc:"On parts; along rolls m or ft"`
	Temperature string `json:"temperature,omitempty" enum:"C,F"`
	Pressure    string `json:"pressure,omitempty" enum:"kPa,bar,psi"`
	Vacuum      string `json:"vacuum,omitempty" enum:"kPa,mbar,inHg"`
	Mass        string `json:"mass,omitempty" enum:"kg,lb"`
	Area        string `json:"area,omitempty" enum:"m2,ft2"`
	Decimal     string `json:"decimal,omitempty" enum:"point,comma" doc:"Mark before the fraction"`
}

// scale is a unit: how many of it make the SI unit, what is added to it, and how
// many digits more than the metric one it is told with.
type scale struct {
	name     string
	per, add float64
	more     int
}

// Exact by definition: the inch, the pound and the degree Fahrenheit (NIST SP
// 811, appendix B); the inch of mercury at 0 °C is 3386.389 Pa there, the pound
// per square inch 6894.757.
var scales = map[Kind][]struct {
	choice string
	scale
}{
	KindSize:        {{"mm", scale{"mm", 1e3, 0, 0}}, {"in", scale{"in", 1 / 0.0254, 0, 2}}},
	KindRun:         {{"mm", scale{"m", 1, 0, 0}}, {"in", scale{"ft", 1 / 0.3048, 0, 0}}},
	KindTemperature: {{"C", scale{"°C", 1, -ZeroCelsius, 0}}, {"F", scale{"°F", 1.8, -459.67, 0}}},
	KindRise:        {{"C", scale{"K", 1, 0, 0}}, {"F", scale{"°F", 1.8, 0, 0}}},
	KindVacuum: {{"kPa", scale{"kPa", 1e-3, 0, 0}}, {"mbar", scale{"mbar", 1e-2, 0, -1}},
		{"inHg", scale{"inHg", 1 / 3386.389, 0, 1}}},
	KindPressure: {{"kPa", scale{"kPa", 1e-3, 0, 0}}, {"bar", scale{"bar", 1e-5, 0, 2}},
		{"psi", scale{"psi", 1 / 6894.757293168, 0, 0}}},
	KindMass:  {{"kg", scale{"kg", 1, 0, 0}}, {"lb", scale{"lb", 1 / 0.45359237, 0, 0}}},
	KindArea:  {{"m2", scale{"m²", 1, 0, 0}}, {"ft2", scale{"ft²", 1 / (0.3048 * 0.3048), 0, -1}}},
	KindAreal: {{"", scale{"g/m²", 1e3, 0, 0}}},
}

func (s System) choice(k Kind) string {
	switch k {
	case KindSize, KindRun:
		return s.Length
	case KindTemperature, KindRise:
		return s.Temperature
	case KindVacuum:
		return s.Vacuum
	case KindPressure:
		return s.Pressure
	case KindMass:
		return s.Mass
	case KindArea:
		return s.Area
	}
	return ""
}

func (s System) scale(k Kind) scale {
	all := scales[k]
	for _, c := range all {
		if c.choice == s.choice(k) {
			return c.scale
		}
	}
	return all[0].scale
}

// Number is a quantity's figure in the reader's unit, without the unit.
func (s System) Number(q Quantity) string {
	unit, v := s.scale(q.Kind), s.Value(q.Kind, q.SI)
	// What lies between two figures goes away from zero, as on the page.
	text := strconv.FormatFloat(v*(1+1e-12), 'f', max(0, q.Digits+unit.more), 64)
	if strings.Trim(text, "-0.") == "" {
		text = strings.TrimPrefix(text, "-")
	}
	if s.Decimal == "comma" {
		text = strings.Replace(text, ".", ",", 1)
	}
	return text
}

// Value is an SI value of a kind in the reader's unit.
func (s System) Value(k Kind, si float64) float64 {
	unit := s.scale(k)
	return si*unit.per + unit.add
}

// Unit is what the reader calls the unit of a kind.
func (s System) Unit(k Kind) string { return s.scale(k).name }

// Shown is a quantity in the reader's unit, with it.
func (s System) Shown(q Quantity) string { return s.Number(q) + " " + s.Unit(q.Kind) }

// InMetric is a sentence in metric units.
func InMetric(sentence string) string { return System{}.Say(sentence) }

// held finds the quantities in a sentence.
var held = regexp.MustCompile(`⟨([a-z]+) (-?[0-9.]+(?:e[+-]?[0-9]+)?) ([0-9])⟩`)

// Say turns a sentence with quantities into words for its reader. What is no
// quantity stays as it is, so that a sentence without any is its own words.
func (s System) Say(sentence string) string {
	if !strings.Contains(sentence, "⟨") {
		return sentence
	}
	return held.ReplaceAllStringFunc(sentence, func(token string) string {
		m := held.FindStringSubmatch(token)
		v, err := strconv.ParseFloat(m[2], 64)
		if _, known := scales[Kind(m[1])]; !known || err != nil || math.IsInf(v, 0) {
			return token
		}
		return s.Shown(Quantity{Kind(m[1]), v, int(m[3][0] - '0')})
	})
}
