package release

import (
	"fmt"
	"math"

	"juxta/core/unit"
)

// Disposition is what becomes of a part.
type Disposition string

// The three dispositions.
const (
	Good  Disposition = "good"
	Refer Disposition = "refer" // to the engineer
	Scrap Disposition = "scrap"
)

// Expected is what the master says: mass in kg, thickness in m, how far each
// may be off, as a fraction of it, and the values that are measured besides.
type Expected struct {
	Mass, MassTolerance           float64
	Thickness, ThicknessTolerance float64
	Values                        []Value
}

// Value is something that is measured in a unit of its own. A limit that is nil
// is none.
type Value struct {
	What, Unit          string
	Least, Target, Most *float64
}

// Measured is what was found: mass in kg, thicknesses at each point in m, and
// the expected values in their order, nil where one was not measured.
type Measured struct {
	Mass      float64
	Thickness []float64
	Values    []*float64
}

// ReleaseLine compares one quantity: what was expected, the limits and what was
// found. Met says whether it lies within them. Value marks one that is neither
// mass nor thickness; its Unit is its own, and what is nil is not asked for.
type ReleaseLine struct {
	What     string   `json:"what"`
	Value    bool     `json:"value,omitempty" doc:"Neither mass, kg, nor a thickness, m: an inspection of the process"`
	Unit     string   `json:"unit,omitempty" doc:"Of a value"`
	Expected *float64 `json:"expected,omitempty"`
	Low      *float64 `json:"low,omitempty"`
	High     *float64 `json:"high,omitempty"`
	Found    float64  `json:"found"`
	Off      *float64 `json:"off,omitempty" doc:"Of mass and thickness: what was found over what is expected, less one; missing: nothing is expected"`
	Met      bool     `json:"met"`
}

// Compare gives one line for the mass, one for each thickness and one for each
// other value that was measured. The error says which measurement cannot be one.
func Compare(e Expected, m Measured) ([]ReleaseLine, error) {
	if m.Mass <= 0 || math.IsInf(m.Mass, 0) {
		return nil, fmt.Errorf("the mass must be above zero")
	}
	if len(m.Thickness) == 0 {
		return nil, fmt.Errorf("measure the thickness at one point at least")
	}
	mass, thickness := e.Limits()
	lines := []ReleaseLine{mass.hold("mass", m.Mass)}
	for i, t := range m.Thickness {
		if t <= 0 || t > 1 {
			return nil, fmt.Errorf("thickness %d of %s is not possible", i+1, unit.Size(t, 2))
		}
		lines = append(lines, thickness.hold(fmt.Sprintf("thickness %d", i+1), t))
	}
	if len(m.Values) > len(e.Values) {
		return nil, fmt.Errorf("%d values were measured, the master asks for %d", len(m.Values), len(e.Values))
	}
	for i, found := range m.Values {
		if found == nil {
			continue
		}
		v := e.Values[i]
		lines = append(
			lines,
			ReleaseLine{What: v.What, Value: true, Unit: v.Unit, Expected: v.Target, Low: v.Least, High: v.Most,
				Found: *found,
				Met:   (v.Least == nil || *found >= *v.Least-1e-12) && (v.Most == nil || *found <= *v.Most+1e-12)},
		)
	}
	return lines, nil
}

// Unmeasured are the values that the master asks for and nobody measured.
func (e Expected) Unmeasured(m Measured) (what []string) {
	for i, v := range e.Values {
		if i >= len(m.Values) || m.Values[i] == nil {
			what = append(what, v.What)
		}
	}
	return what
}

// Limit is what is expected of a quantity and how far it may be off.
type Limit struct {
	Expected float64 `json:"expected"`
	Low      float64 `json:"low"`
	High     float64 `json:"high"`
}

// Limits are those of the mass in kg and of the thickness in m.
func (e Expected) Limits() (mass, thickness Limit) {
	about := func(v, tolerance float64) Limit { return Limit{v, v * (1 - tolerance), v * (1 + tolerance)} }
	return about(e.Mass, e.MassTolerance), about(e.Thickness, e.ThicknessTolerance)
}

// WithOff sets how far found lies from expected in lines that were kept before it was kept with them.
func WithOff(lines []ReleaseLine) []ReleaseLine {
	for i, l := range lines {
		if !l.Value && l.Expected != nil {
			lines[i].Off = off(l.Found, *l.Expected)
		}
	}
	return lines
}

// off is how far found lies from expected, as a share of it; nil where none is expected.
func off(found, expected float64) *float64 {
	if expected == 0 {
		return nil
	}
	share := found/expected - 1
	return &share
}

func (l Limit) hold(what string, found float64) ReleaseLine {
	return ReleaseLine{
		What:     what,
		Expected: &l.Expected,
		Low:      &l.Low,
		High:     &l.High,
		Found:    found,
		Off:      off(found, l.Expected),
		Met:      found >= l.Low-1e-12 && found <= l.High+1e-12,
	}
}

// Refusal says why a disposition cannot stand, or nil: a part with a limit
// not met, or with something missing from its record, is not good, and refer
// and scrap need a reason.
func Refusal(d Disposition, lines []ReleaseLine, missing []string, reason string) error {
	switch d {
	case Good:
		for _, l := range lines {
			if !l.Met {
				return fmt.Errorf("the %s is outside its limits: refer it or scrap it", l.What)
			}
		}
		if len(missing) > 0 {
			return fmt.Errorf("the record is not complete: %s", missing[0])
		}
	case Refer, Scrap:
		if reason == "" {
			return fmt.Errorf("say why")
		}
	default:
		return fmt.Errorf("%q is not a disposition: good, refer or scrap", d)
	}
	return nil
}
