package cure

import (
	"fmt"
	"math"

	"juxta/core/unit"
)

// Segment is one leg of a recipe: the set point ramps to Target at Rate (K/s),
// then waits until the lagging part sensor reaches WaitPart (0: does not
// wait), then holds for Hold seconds.
type Segment struct {
	Target, Rate, Hold, WaitPart float64
}

// Recipe is a cure cycle for an oven under vacuum.
type Recipe struct {
	Name      string
	Start     float64 // set point at the start, K
	Tolerance float64 // of the air about its set point, K
	Segments  []Segment
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
		case s.Hold < 0:
			return fmt.Errorf("segment %d: the hold cannot be below zero", i+1)
		case s.WaitPart > s.Target:
			return fmt.Errorf("segment %d: the part cannot be waited for above the target", i+1)
		}
	}
	return nil
}

// Controller walks a recipe. Its zero value with SetPoint at the recipe's
// start is the beginning; it is plain data, so that a run can be picked up
// after a restart where it was left.
type Controller struct {
	Segment  int     // index of the present segment
	SetPoint float64 // K
	Waiting  bool    // for the lagging part sensor
	Held     float64 // s of the present hold
	Done     bool
}

// Begin is a controller at the start of a recipe.
func Begin(r Recipe) Controller { return Controller{SetPoint: r.Start} }

// Step moves on by dt seconds with the lagging part sensor at lag kelvin. Time
// left over by one leg is spent on the next.
func (c Controller) Step(r Recipe, lag, dt float64) Controller {
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
		if c.Held == 0 && s.WaitPart > 0 && lag < s.WaitPart {
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
		c.Held = 0
		if c.Segment+1 == len(r.Segments) {
			c.Done = true
		} else {
			c.Segment++
		}
	}
	return c
}

// Planned is one point of the plan: the set point with its band, and the part
// as it is expected to follow.
type Planned struct{ T, SetPoint, Low, High, Part float64 }

// PlanStep is how often a plan is told, and PlanMost how long a recipe is followed
// at most, in s.
const (
	PlanStep = 60.0
	PlanMost = 3 * 24 * 3600.0
)

// Plan walks the recipe with a part that follows the set point with a time
// constant of lag seconds, for at most longest seconds, and tells every dt
// seconds where both are. Ramps, waits and holds are integrated exactly (a first-
// order lag has a closed form on each), so that dt changes nothing but how many
// points there are; where a wait ends in between stands a point of its own, for
// that is where its hold begins. It needs a recipe that passes [Recipe.Check].
func Plan(r Recipe, lag, dt, longest float64) []Planned {
	c, part := Begin(r), r.Start
	var out []Planned
	tell := func(t float64) {
		out = append(out, Planned{t, c.SetPoint, c.SetPoint - r.Tolerance, c.SetPoint + r.Tolerance, part})
	}
	for t := 0.0; ; t += dt {
		tell(t)
		if c.Done || t >= longest {
			return out
		}
		for left := dt; left > 0 && !c.Done; {
			c, part, left = c.glide(r, part, math.Max(lag, 1e-9), left)
			if left > 0 && !c.Done {
				tell(t + dt - left)
			}
		}
	}
}

// glide moves on by dt seconds with a part that follows the set point with a time
// constant, or to the end of a wait: what is left of dt then comes back.
func (c Controller) glide(r Recipe, part, lag, dt float64) (Controller, float64, float64) {
	for dt > 0 && !c.Done {
		s := r.Segments[c.Segment]
		if gap := s.Target - c.SetPoint; gap != 0 {
			whole := math.Abs(gap) / s.Rate
			slope, move := math.Copysign(s.Rate, gap), math.Min(dt, whole)
			part = follow(part, c.SetPoint, slope, lag, move)
			if c.SetPoint += slope * move; move == whole {
				c.SetPoint = s.Target
			}
			dt -= move
			continue
		}
		if c.Held == 0 && s.WaitPart > 0 && part < s.WaitPart {
			c.Waiting = true
			until := math.Inf(1)
			if c.SetPoint > s.WaitPart {
				until = lag * math.Log((c.SetPoint-part)/(c.SetPoint-s.WaitPart))
			}
			if until > dt {
				return c, follow(part, c.SetPoint, 0, lag, dt), 0
			}
			part = s.WaitPart
			c.Waiting = false
			return c, part, dt - until
		}
		c.Waiting = false
		hold := math.Min(dt, s.Hold-c.Held)
		part = follow(part, c.SetPoint, 0, lag, hold)
		c.Held += hold
		dt -= hold
		if c.Held < s.Hold {
			return c, part, 0
		}
		c.Held = 0
		if c.Segment+1 == len(r.Segments) {
			c.Done = true
		} else {
			c.Segment++
		}
	}
	return c, part, dt
}

// follow is where a first-order lag is after t seconds behind a set point that
// begins at from and moves by slope: the solution of lag·dp/dt = s(t) − p.
func follow(p, from, slope, lag, t float64) float64 {
	behind := slope * lag
	return from + slope*t - behind + (p-from+behind)*math.Exp(-t/lag)
}
