package cure

import (
	"fmt"
	"math"
	"slices"

	"juxta/core/unit"
)

// Segment is one leg of a recipe: the set point ramps to Target at Rate (K/s), waits until all that it asks for has
// come, then holds for Hold seconds. What is 0 is not asked for.
type Segment struct {
	Target   float64 `json:"target" doc:"Set point to reach, K"`
	Rate     float64 `json:"rate" doc:"Ramp, K/s"`
	Hold     float64 `json:"hold" doc:"s"`
	WaitPart float64 `json:"waitPart,omitempty" doc:"The hold starts when the coldest part sensor reads this, K; 0: at once"`

	WaitCure             float64 `json:"waitCure,omitempty" doc:"And what lags has this degree of cure" minimum:"0" exclusiveMaximum:"1"`
	WaitThin             float64 `json:"waitThin,omitempty" doc:"And its viscosity has fallen to this, Pa s" minimum:"0"`
	WaitThick            float64 `json:"waitThick,omitempty" doc:"And the viscosity of what leads has risen to this, Pa s" minimum:"0"`
	WaitViscosityMinimum bool    `json:"waitTurn,omitempty" doc:"And the viscosity of what lags has passed its least"`
	WaitCool             float64 `json:"waitCool,omitempty" doc:"And the hottest part sensor has fallen to this, K" minimum:"0"`
	Pressure             float64 `json:"pressure,omitempty" doc:"Above the air outside from the segment's start on, Pa" minimum:"0"`
	RampWithPart         bool    `json:"withTool,omitempty" doc:"The pressure is raised as the lagging sensor goes to the target, not at once"`
	Vacuum               float64 `json:"vacuum,omitempty" doc:"Drawn under the bag, Pa" minimum:"0"`
	Vent                 float64 `json:"vent,omitempty" doc:"Pressure at which the bag is vented, Pa; 0: it is not" minimum:"0"`
}

// Control says what follows the set point.
type Control string

// The controls: the air, or air that is led so that a part sensor follows.
const (
	ByAir     Control = ""
	ByLagging Control = "lagging"
	ByLeading Control = "leading"
)

// Recipe is a cure cycle.
type Recipe struct {
	Name      string    `json:"name"`
	Start     float64   `json:"start" doc:"Set point at the start, K"`
	Tolerance float64   `json:"tolerance" doc:"Band of the air about the set point, K"`
	Control   Control   `json:"control,omitempty" enum:",lagging,leading" doc:"What follows the set point: the air, or a part sensor by leading the air"`
	Segments  []Segment `json:"segments" minItems:"1" maxItems:"40"`
}

// Check names the segment that cannot be run.
func (r Recipe) Check() error {
	if len(r.Segments) == 0 {
		return fmt.Errorf("the recipe has no segment")
	}
	if r.Start <= 0 || r.Tolerance <= 0 {
		return fmt.Errorf("the recipe needs a start temperature and a tolerance above zero")
	}
	for i, s := range r.Segments {
		switch {
		case s.Target < 250 || s.Target > 800:
			return fmt.Errorf("segment %d: a target of %s is not possible here", i+1, unit.Temperature(s.Target, 0))
		case s.Rate <= 0:
			return fmt.Errorf("segment %d: the ramp must be above zero", i+1)
		case s.Rate > mostRate:
			return fmt.Errorf(
				"segment %d: no equipment ramps at %s/min",
				i+1,
				unit.TemperatureDifference(s.Rate*60, 0),
			)
		case s.Hold < 0:
			return fmt.Errorf("segment %d: the hold cannot be below zero", i+1)
		case s.Hold > 0 && s.Target < r.Start-r.Tolerance:
			return fmt.Errorf(
				"segment %d: a dwell at %s lies below the start of the cure at %s",
				i+1,
				unit.Temperature(s.Target, 0),
				unit.Temperature(r.Start, 0),
			)
		case s.WaitPart > s.Target:
			return fmt.Errorf("segment %d: the part temperature to wait for cannot be above the target", i+1)
		case s.WaitCool > 0 && s.WaitCool < s.Target+1:
			return fmt.Errorf(
				"segment %d: it waits for the part to cool to %s, and air of %s brings it there only in the end: "+
					"let the "+
					"air go lower",
				i+1,
				unit.Temperature(s.WaitCool, 0),
				unit.Temperature(s.Target, 0),
			)
		case s.WaitCure < 0 || s.WaitCure >= 1:
			return fmt.Errorf("segment %d: a degree of cure that is waited for lies between 0 and 1", i+1)
		case s.WaitThin < 0 || s.WaitThick < 0:
			return fmt.Errorf("segment %d: a viscosity cannot be below zero", i+1)
		case s.Pressure < 0 || s.Pressure > mostPressure:
			return fmt.Errorf("segment %d: a pressure of %s is not possible here", i+1, unit.Pressure(s.Pressure, 0))
		case s.Vacuum < 0 || s.Vacuum > 101_325:
			return fmt.Errorf("segment %d: a vacuum lies between none and the whole air", i+1)
		case s.Vent < 0 || s.Vent > s.Pressure:
			return fmt.Errorf("segment %d: the bag cannot be vented at more pressure than there is", i+1)
		}
	}
	switch r.Control {
	case ByAir, ByLagging, ByLeading:
		return nil
	}
	return fmt.Errorf("a recipe is controlled by the air, by the lagging or by the leading part sensor")
}

// mostRate is the steepest ramp that is taken for one, K/s, and mostPressure the highest pressure, Pa.
const (
	mostRate     = 100.0 / 60
	mostPressure = 20e6
)

// Controller follows a recipe. Its zero value with SetPoint at the recipe's
// start is the beginning; it is plain data, so that a run can be picked up
// after a restart where it was left.
type Controller struct {
	Segment  int     // index of the present segment
	SetPoint float64 // K
	Waiting  bool    // for what the segment asks for
	Held     float64 // s of the present hold
	Done     bool
	Lag      float64 // last reading of the lagging part sensor, K; 0: none yet
	Cure     float64 // degree of cure of what lags, by its readings
	Thinnest float64 `json:",omitempty"` // least viscosity of what lags in a segment that waits for its turn, Pa s; 0: none yet

	Pressure    float64 `json:",omitempty"` // that is told, Pa
	Vented      bool    `json:",omitempty"` // the bag
	Pressing    int     `json:",omitempty"` // segment that the next two belong to, from 1; 0: none yet
	PressedFrom float64 `json:",omitempty"` // pressure where it began, Pa
	LagFrom     float64 `json:",omitempty"` // lagging sensor where it began, K
}

// Begin is a controller at the start of a recipe.
func Begin(r Recipe) Controller { return Controller{SetPoint: r.Start} }

// Cured goes on with the degree of cure of what lags by a reading of its sensor in K, dt seconds after the one before.
// A reading that failed is NaN: what there was before stands for it.
func (c Controller) Cured(k Kinetics, alpha0, lag, dt float64) Controller {
	if math.IsNaN(lag) {
		lag = c.Lag
	}
	c.Cure = math.Max(c.Cure, alpha0)
	if c.Lag > 0 && lag > 0 && dt > 0 {
		c.Cure = k.advance(c.Cure, Point{0, c.Lag}, Point{dt, lag})
	}
	c.Lag = lag
	return c
}

// Presses moves the pressure that is told on by dt seconds, at most by rate Pa/s, and tells the vacuum under the bag in
// Pa that belongs to it.
func (c Controller) Presses(r Recipe, lag, rate, dt float64) (Controller, float64) {
	s := r.Segments[min(c.Segment, len(r.Segments)-1)]
	if math.IsNaN(lag) {
		lag = c.Lag
	}
	if c.Pressing != c.Segment+1 && !c.Done {
		c.Pressing, c.PressedFrom, c.LagFrom = c.Segment+1, c.Pressure, lag
		c.Vented = c.Vented && s.Vacuum == 0
	}
	want := s.Pressed(c.PressedFrom, c.LagFrom, lag)
	c.Pressure = math.Min(math.Max(want, c.Pressure-rate*dt), c.Pressure+rate*dt)
	c.Vented = c.Vented || s.Vent > 0 && c.Pressure >= s.Vent
	if c.Vented {
		return c, 0
	}
	return c, s.Vacuum
}

// Pressed says whether a recipe asks for pressure anywhere.
func (r Recipe) Pressed() bool {
	return slices.ContainsFunc(r.Segments, func(s Segment) bool { return s.Pressure > 0 })
}

// PartState is what a controller knows of the part. What is not known is NaN: a blind sensor never ends a wait.
type PartState struct {
	Lag, Lead   float64 // of the part sensors, K
	Cure        float64 // degree of cure of what lags
	Thick, Thin float64 // viscosity of what leads, and of what lags, Pa s
}

// Coldest is the least that a part sensor reads, K. What leads while it heats is the first to be cold again. NaN: the
// lagging one is blind.
func (p PartState) Coldest() float64 {
	if p.Lead < p.Lag {
		return p.Lead
	}
	return p.Lag
}

// Hottest is the most that a part sensor reads, K; NaN while one is blind: it may be the hotter.
func (p PartState) Hottest() float64 { return math.Max(p.Lag, p.Lead) }

// WaitsFlow says whether a segment waits for a viscosity.
func (s Segment) WaitsFlow() bool { return s.WaitThin > 0 || s.WaitThick > 0 || s.WaitViscosityMinimum }

// turn is by how much the viscosity has risen again where its least is taken to be over: more than what a sensor's
// noise of some tenths of a kelvin makes of it (common practice, no source).
const turn = 1.05

// Ready says whether all that the present segment waits for has come.
func (c Controller) Ready(r Recipe, part PartState) bool {
	s := r.Segments[c.Segment]
	return (s.WaitPart == 0 || part.Coldest() >= s.WaitPart) && (s.WaitCure == 0 || part.Cure >= s.WaitCure) &&
		(s.WaitThin == 0 || part.Thin <= s.WaitThin) && (s.WaitThick == 0 || part.Thick >= s.WaitThick) &&
		(!s.WaitViscosityMinimum || c.Thinnest > 0 && part.Thin >= turn*c.Thinnest || math.IsInf(part.Thin, 1)) &&
		(s.WaitCool == 0 || part.Hottest() <= s.WaitCool)
}

// Step moves on by dt seconds with the part as it is sensed. Time left over by one leg is spent on the next.
func (c Controller) Step(r Recipe, part PartState, dt float64) Controller {
	if !c.Done && r.Segments[c.Segment].WaitViscosityMinimum && part.Thin > 0 &&
		(c.Thinnest == 0 || part.Thin < c.Thinnest) &&
		!math.IsInf(part.Thin, 1) {
		c.Thinnest = part.Thin
	}
	for dt > 0 && !c.Done {
		s := r.Segments[c.Segment]
		if gap := s.Target - c.SetPoint; gap != 0 {
			move := s.Rate * dt
			if move < math.Abs(gap) {
				c.SetPoint += math.Copysign(move, gap)
				return c
			}
			dt -= math.Abs(gap) / s.Rate
			c.SetPoint = s.Target
		}
		if c.Held == 0 && !c.Ready(r, part) {
			c.Waiting = true
			return c
		}
		c.Waiting = false
		if left := s.Hold - c.Held; dt < left {
			c.Held += dt
			return c
		} else {
			dt -= left
		}
		c.Held, c.Thinnest = 0, 0
		if c.Segment+1 == len(r.Segments) {
			c.Done = true
		} else {
			c.Segment++
		}
	}
	return c
}

// Next is how long it is until a controller's set point changes its way by itself, s: the end of a ramp or of a hold;
// infinite while it waits for the part.
func (c Controller) Next(r Recipe, part PartState) float64 {
	if c.Done {
		return math.Inf(1)
	}
	s := r.Segments[c.Segment]
	switch gap := math.Abs(s.Target - c.SetPoint); {
	case gap > 0:
		return gap / s.Rate
	case c.Held == 0 && !c.Ready(r, part):
		return math.Inf(1)
	}
	return s.Hold - c.Held
}

// Slope is how a set point moves now, K/s.
func (c Controller) Slope(r Recipe) float64 {
	if c.Done {
		return 0
	}
	s := r.Segments[c.Segment]
	switch {
	case s.Target > c.SetPoint:
		return s.Rate
	case s.Target < c.SetPoint:
		return -s.Rate
	}
	return 0
}

// Least is how long a recipe takes at the least, s: its ramps and its holds, without what it waits for.
func (r Recipe) Least() float64 {
	sum, at := 0.0, r.Start
	for _, s := range r.Segments {
		sum += math.Abs(s.Target-at)/s.Rate + s.Hold
		at = s.Target
	}
	return sum
}

// Hottest is the highest temperature that a recipe asks for, K.
func (r Recipe) Hottest() (most float64) {
	for _, s := range r.Segments {
		most = math.Max(most, s.Target)
	}
	return most
}

// MixedUp says whether the highest temperature of a recipe is that of another with the number of the other unit: °F
// taken for °C, or the other way round.
func (r Recipe) MixedUp(with Recipe) bool {
	c, of := unit.Celsius(r.Hottest()), unit.Celsius(with.Hottest())
	fahrenheit := func(c float64) float64 { return c*1.8 + 32 }
	return math.Abs(fahrenheit(c)-of) < 1.5 || math.Abs(c-fahrenheit(of)) < 1.5
}

// aimGain is by how much more than a part sensor is off the air is led (common practice of a proportional loop, no
// source).
const aimGain = 4

// Aim is what air or platens are told, K: the set point, or what brings the part sensor to it that a recipe is
// controlled by, at most lead from it. A sensor that gives no reading leads nothing.
func (r Recipe) Aim(setPoint float64, part PartState, lead float64) float64 {
	sensor := part.Lag
	switch r.Control {
	case ByAir:
		return setPoint
	case ByLeading:
		sensor = part.Lead
	}
	if math.IsNaN(sensor) {
		return setPoint
	}
	return setPoint + math.Min(lead, math.Max(-lead, aimGain*(setPoint-sensor)))
}

// Pressed is what pressure a segment asks for, Pa, with what there was and the lagging sensor in K where it began.
func (s Segment) Pressed(from, lagFrom, lag float64) float64 {
	if !s.RampWithPart || s.Target == lagFrom || lag == 0 || lagFrom == 0 { // nobody knows how warm it is
		return s.Pressure
	}
	share := math.Min(1, math.Max(0, (lag-lagFrom)/(s.Target-lagFrom)))
	return from + (s.Pressure-from)*share
}
