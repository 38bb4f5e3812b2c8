package cure

import (
	"fmt"
	"strings"
	"time"

	"juxta/core/material"
	"juxta/core/unit"
)

// InWords is a recipe in words, a segment each.
func (r Recipe) InWords() []string {
	out := make([]string, len(r.Segments))
	for k, s := range r.Segments {
		out[k] = s.InWords()
	}
	return out
}

// InWords is a segment in words.
func (s Segment) InWords() string {
	says := []string{
		fmt.Sprintf("to %s at %s/min", unit.Temperature(s.Target, 0), unit.TemperatureDifference(s.Rate*60, 1)),
	}
	if s.WaitPart > 0 {
		says = append(says, fmt.Sprintf("until the coldest part sensor has %s", unit.Temperature(s.WaitPart, 0)))
	}
	if s.WaitCure > 0 {
		says = append(says, fmt.Sprintf("until the lagging part is cured to %.0f %%", s.WaitCure*100))
	}
	if s.WaitThin > 0 {
		says = append(says, fmt.Sprintf("until its viscosity is %g Pa s or less", s.WaitThin))
	}
	if s.WaitThick > 0 {
		says = append(says, fmt.Sprintf("until the viscosity of the leading part is %g Pa s or more", s.WaitThick))
	}
	if s.WaitViscosityMinimum {
		says = append(says, "until the viscosity of the lagging part has passed its minimum")
	}
	if s.WaitCool > 0 {
		cool := unit.Temperature(s.WaitCool, 0)
		says = append(says, fmt.Sprintf("until the hottest part sensor has cooled to %s", cool))
	}
	if s.Hold > 0 {
		says = append(says, "hold "+material.Hours(time.Duration(s.Hold*float64(time.Second))))
	}
	switch {
	case s.Pressure > 0 && s.RampWithPart:
		says = append(says, fmt.Sprintf("pressure %s as the part warms", unit.Pressure(s.Pressure, 0)))
	case s.Pressure > 0:
		says = append(says, fmt.Sprintf("pressure %s", unit.Pressure(s.Pressure, 0)))
	}
	if s.Vacuum > 0 {
		says = append(says, fmt.Sprintf("vacuum %s", unit.Vacuum(s.Vacuum, 0)))
	}
	if s.Vent > 0 {
		says = append(says, fmt.Sprintf("bag vented at %s", unit.Pressure(s.Vent, 0)))
	}
	return strings.Join(says, ", ")
}
