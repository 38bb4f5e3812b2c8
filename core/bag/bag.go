package bag

import (
	"fmt"
	"math"
	"time"

	"juxta/core/unit"
)

// Limit is what a leak check must meet: with the pump shut off, the vacuum may
// fall by no more than Drop (Pa) over Over, from a start of at least Start (Pa
// below the air outside).
type Limit struct {
	Start, Drop float64
	Over        time.Duration
}

// LeakCheck is one measurement: vacuum in Pa below the air outside at the
// start and at the end, and the time between.
type LeakCheck struct {
	Start, End float64
	Took       time.Duration
}

// LeakResult of a leak check. Rate is the fall in Pa per second, Lost what that
// makes over the time of the limit, in Pa.
type LeakResult struct {
	Pass       bool
	Rate, Lost float64
	Message    string
}

// Judge holds a leak check against its limit. A check that lasted longer than
// asked is judged by its rate, one that lasted shorter cannot pass. The error
// says what cannot be a measurement.
func Judge(c LeakCheck, l Limit) (LeakResult, error) {
	switch {
	case c.Took <= 0:
		return LeakResult{}, fmt.Errorf("the time between start and end must be above zero")
	case c.Start <= 0 || c.Start > 101325:
		return LeakResult{}, fmt.Errorf("the start vacuum of %s is not possible", unit.Vacuum(c.Start, 1))
	case c.End < 0 || c.End > c.Start:
		return LeakResult{}, fmt.Errorf(
			"the end vacuum cannot be above the start with the pump shut off: read both gauges again",
		)
	}
	v := LeakResult{Rate: (c.Start - c.End) / c.Took.Seconds()}
	v.Lost = v.Rate * l.Over.Seconds()
	say := fmt.Sprintf(
		"%s lost over %.0f min, limit %s",
		unit.Vacuum(v.Lost, 1),
		l.Over.Minutes(),
		unit.Vacuum(l.Drop, 1),
	)
	switch {
	case c.Took < l.Over:
		v.Message = fmt.Sprintf("it lasted %.1f min, %.0f min required", c.Took.Minutes(), l.Over.Minutes())
	case c.Start < l.Start:
		v.Message = fmt.Sprintf(
			"it started at %s, at least %s required",
			unit.Vacuum(c.Start, 1),
			unit.Vacuum(l.Start, 1),
		)
	case v.Lost > l.Drop+1e-9:
		v.Message = say
	default:
		v.Pass, v.Message = true, say
	}
	return v, nil
}

// Atmosphere is the standard air pressure in Pa at an altitude in m, up to
// 11 km: the deepest vacuum that any pump can draw there.
// Source: ICAO Standard Atmosphere (Doc 7488), troposphere.
func Atmosphere(altitude float64) float64 {
	return 101325 * math.Pow(1-0.0065*altitude/288.15, 9.80665*0.0289644/(8.31432*0.0065))
}

// Possible says why a vacuum in Pa below the air outside cannot be drawn at an
// altitude in m by any pump, or nil. A day of high pressure allows some three
// parts in a hundred more than the standard atmosphere (common practice, no
// source): nothing may be planned on that, and whoever reads it is asked.
func Possible(vacuum, altitude float64) error {
	if deepest := Atmosphere(altitude); vacuum > deepest {
		return fmt.Errorf("no pump draws %s at %s: the air outside has about %s there",
			unit.Vacuum(vacuum, 1), unit.RollLength(altitude, 0), unit.Vacuum(deepest, 1))
	}
	return nil
}

// Stacks are the usual orders of consumables over a laminate, from the part
// outwards (common practice, no source).
var Stacks = map[string][]string{
	"no bleed": {"peel ply", "solid release film", "breather", "bag film on sealant tape"},
	"bleed": {
		"peel ply",
		"perforated release film",
		"bleeder",
		"solid release film",
		"breather",
		"bag film on sealant tape",
	},
	"caul":              {"peel ply", "solid release film", "caul plate", "breather", "bag film on sealant tape"},
	"tape":              {"release film", "shrink tape"},
	"mould and bladder": {"bladder", "closed mould"},
}

// Vacuum says whether a stack is drawn down by vacuum, so that it can leak. What is
// wound with tape, or closed in a mould round a bladder, is not.
func Vacuum(stack string) bool { return stack != "tape" && stack != "mould and bladder" }
