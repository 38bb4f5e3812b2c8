package forecast

import (
	"context"
	"fmt"
	"math"

	"juxta/core/cure"
	"juxta/core/cure/heat"
	"juxta/core/unit"
)

// Simulate walks a job. It is an error where a figure cannot be, where the recipe waits for what does not come, and
// where a step cannot be worked out to its accuracy; ctx ends it with its own.
func Simulate(ctx context.Context, j Job) (Forecast, error) {
	if err := j.Check(); err != nil {
		return Forecast{}, err
	}
	for _, m := range j.Mishaps {
		if err := m.check(); err != nil {
			return Forecast{}, err
		}
		if e := j.Equipment; m.Kind == HeaterLost && (e.Power == 0 || e.Capacity == 0) && e.HeatUp == 0 {
			return Forecast{}, fmt.Errorf(
				"%s: enter the power and the heat capacity of %s, or how fast it heats",
				m.Kind,
				e.Name,
			)
		}
	}
	w, err := newWalker(j.crowded())
	if err != nil {
		return Forecast{}, err
	}
	if err := w.walk(ctx); err != nil {
		return Forecast{}, err
	}
	return w.finish(), nil
}

// longest is how long a cure is followed where nobody says otherwise, s, and leastStep the shortest step that is
// tried before the walk is given up as one that cannot meet its accuracy.
const (
	longest    = 3 * 24 * 3600.0
	leastStep  = 1e-6
	points     = 300.0
	mostPoints = 50_000.0
)

type walker struct {
	Job
	columns []*heat.Column
	curing  [][]int // layers of each that react
	c       cure.Controller
	sensed  cure.PartState

	t, air, pressure, vacuum float64
	vented                   bool
	summit                   float64 // highest set point so far
	opens                    float64 // when it may be opened, s; NaN: not yet
	most, pressed            float64 // highest pressure of the recipe, and when nearly all of it is on, s; NaN: not yet
	thinning                 bool    // some section is not thin enough to flow yet
	pressedFrom              float64 // pressure when the segment began
	lagFrom                  float64 // lagging sensor when it began
	segment                  int

	out    Forecast
	tell   float64
	states []sight
	into   []float64 // heat that went into each section, J/m²
	step   float64
}

func newWalker(j Job) (*walker, error) {
	w := &walker{
		Job: j, c: cure.Begin(j.Recipe), air: j.Equipment.room(), step: 1, segment: -1, opens: math.NaN(),
		pressed:  math.NaN(),
		thinning: true,
	}
	if w.Longest == 0 {
		w.Longest = longest
	}
	for _, s := range j.Recipe.Segments {
		w.most = math.Max(w.most, s.Pressure)
	}
	if w.Every == 0 {
		w.Every = math.Max(10, j.roughly()/points)
	}
	w.Every = math.Max(w.Every, j.roughly()/mostPoints)
	if j.Recipe.Control != cure.ByAir && w.Equipment.Lead == 0 {
		w.Equipment.Lead = UsualLead
	}
	for _, s := range j.Sections {
		c, err := heat.NewColumn(s.Layers, w.air, j.Accuracy)
		if err != nil {
			return nil, fmt.Errorf("%s: %w", s.Name, err)
		}
		w.columns, w.curing = append(w.columns, c), append(w.curing, curingOf(s.Layers))
		w.states = append(w.states, newSight(s))
		w.into = append(w.into, 0)
	}
	w.see(true)
	return w, nil
}

// curingOf are the layers that cure; a blank, in which none does, is watched whole.
func curingOf(layers []heat.Layer) (cures []int) {
	for k, l := range layers {
		if l.Reaction != nil {
			cures = append(cures, k)
		}
	}
	if len(cures) == 0 {
		for k := range layers {
			cures = append(cures, k)
		}
	}
	return cures
}

// roughly is about how long a recipe takes, s.
func (j *Job) roughly() float64 { return j.Recipe.Least() * 1.15 }

func (w *walker) walk(ctx context.Context) error {
	w.point()
	for !w.c.Done {
		if w.out.Steps%64 == 0 && ctx.Err() != nil {
			return ctx.Err()
		}
		if w.t >= w.Longest {
			return w.never()
		}
		if w.c.Segment != w.segment {
			w.begin()
		}
		next := w.c.Next(w.Recipe, w.sensed)
		if next <= 1e-9 {
			w.c = w.c.Step(w.Recipe, w.sensed, 1e-9)
			continue
		}
		if err := w.forward(next); err != nil {
			return err
		}
	}
	w.point()
	return nil
}

// begin is at the start of a segment.
func (w *walker) begin() {
	w.segment = w.c.Segment
	w.pressedFrom, w.lagFrom = w.pressure, w.sensed.Lag
	s := w.Recipe.Segments[w.segment]
	if s.Pressure > w.pressure {
		w.event(PressedOn, -1, s.Pressure)
	}
	w.vented = w.vented && s.Vacuum == 0
}

// forward does one step, of at most so long.
func (w *walker) forward(most float64) error {
	free := w.step
	waiting := w.c.SetPoint == w.Recipe.Segments[w.c.Segment].Target && math.IsInf(most, 1)
	h := math.Min(most, math.Min(w.step, w.tell-w.t))
	h = math.Min(h, math.Min(w.change(w.t)-w.t, w.airStep()))
	if waiting {
		h = math.Min(h, 120)
	}
	for {
		from, to := w.air, w.airAfter(h)
		pressure := w.pressureAfter(h)
		film := (w.pressure + pressure) / 2
		worst := 0.0
		for k, c := range w.columns {
			s := w.Sections[k]
			face := func(side Side) heat.Face {
				return heat.Face{From: from, To: to,
					H: w.Equipment.passes(side, film)}
			}
			worst = math.Max(worst, c.Try(h, face(s.Below), face(s.Above)))
		}
		next := h * math.Min(5, math.Max(0.2, 0.9*math.Pow(math.Max(worst, 1e-9), -1.0/3)))
		if worst > 1 {
			free = 0
			if h = math.Min(next, h/2); h < leastStep {
				return fmt.Errorf(
					"after %s the cure runs too fast to be calculated to %g K: a runaway, or a law outside its range",
					clock(w.t),
					w.accuracy(),
				)
			}
			continue
		}
		for _, c := range w.columns {
			c.Accept()
		}
		before, pressed := w.sensed, w.pressure
		w.t, w.air, w.pressure = w.t+h, to, pressure
		w.see(false)
		if waiting && h > 0.5 && w.c.Ready(w.Recipe, w.sensed) {
			// What it waits for has come within the step: its moment is sought.
			for _, c := range w.columns {
				c.Undo()
			}
			w.t, w.air, w.pressure, w.sensed = w.t-h, from, pressed, before
			h /= 2
			continue
		}
		w.spent(h, from, to)
		held := w.c.Held
		w.c = w.c.Step(w.Recipe, w.sensed, h)
		if held == 0 && w.c.Held > 0 {
			w.event(Dwells, -1, float64(w.c.Segment+1))
			w.point() // a hold is counted from here
		}
		if w.step = next; free > h { // cut short by something else than its error
			w.step = math.Max(next, free)
		}
		w.out.Steps++
		w.note()
		return nil
	}
}

func (w *walker) accuracy() float64 {
	if w.Accuracy.Step > 0 {
		return w.Accuracy.Step
	}
	return heat.UsualStep
}

// airStep is how long a step may be while the air is on its way, for it is told in straight pieces.
func (w *walker) airStep() float64 {
	if lag := w.Equipment.Lag; lag > 0 && math.Abs(w.aim(0)-w.air) > 0.05 {
		return math.Max(5, lag/3)
	}
	return math.Inf(1)
}

// aim is where the air is told to go, ahead by h seconds.
func (w *walker) aim(h float64) float64 {
	set := w.c.SetPoint + w.c.Slope(w.Recipe)*h
	return w.Recipe.Aim(set, w.sensed, w.Equipment.Lead)
}

// airAfter is where the air is after h seconds.
func (w *walker) airAfter(h float64) float64 {
	e := w.Equipment
	from, to, lag := w.aim(0), w.aim(h), e.Lag
	heatUp := e.HeatUp
	power := e.Power
	cool := e.CoolDown
	if _, open := w.during(DoorOpen, w.t); open {
		from, to, lag, cool = e.room(), e.room(), 90, 0 // however quickly that is
	} else if _, cut := w.during(PowerCut, w.t); cut {
		from, to, lag = e.room(), e.room(), math.Max(3600, e.Lag)
	} else if share, lost := w.during(HeaterLost, w.t); lost {
		heatUp, power = heatUp*(1-share), power*(1-share)
		if power == 0 && e.Power > 0 || heatUp == 0 && e.HeatUp > 0 {
			from, to, lag = e.room(), e.room(), math.Max(3600, e.Lag)
		}
	}
	at := to
	if lag > 0 {
		slope := (to - from) / h
		behind := slope * lag
		at = to - behind + (w.air-from+behind)*math.Exp(-h/lag)
	}
	if heatUp > 0 {
		at = math.Min(at, w.air+heatUp*h)
	}
	if cool > 0 {
		at = math.Max(at, w.air-cool*h)
	}
	if power > 0 && e.Capacity > 0 {
		taken := 0.0
		for k, s := range w.Sections {
			taken += s.Area * w.into[k]
		}
		at = math.Min(at, w.air+(power-taken)*h/e.Capacity)
	}
	return at
}

// pressureAfter is the pressure after h seconds.
func (w *walker) pressureAfter(h float64) float64 {
	s := w.Recipe.Segments[w.c.Segment]
	rate := w.Equipment.PressureUp
	if rate == 0 {
		rate = UsualPressureUp
	}
	want := s.Pressed(w.pressedFrom, w.lagFrom, w.sensed.Lag)
	return math.Min(math.Max(want, w.pressure-rate*h), w.pressure+rate*h)
}

// spent counts the heat of a step.
func (w *walker) spent(h, from, to float64) {
	joule := w.Equipment.Capacity * (to - from)
	for k, c := range w.columns {
		in, _, _ := c.Energy(w.Equipment.room())
		w.into[k] = (in - w.states[k].in) / h
		joule += w.Sections[k].Area * (in - w.states[k].in)
		w.states[k].in = in
	}
	w.out.Energy += math.Max(0, joule)
}

// never says what a recipe waits for that does not come.
func (w *walker) never() error {
	s := w.Recipe.Segments[w.c.Segment]
	of := fmt.Sprintf("segment %d is not over within %s", w.c.Segment+1, clock(w.Longest))
	switch {
	case s.WaitPart > 0 && !(w.sensed.Coldest() >= s.WaitPart):
		return fmt.Errorf("%s: it waits for %s, and the lagging part reaches %s", of, unit.Temperature(s.WaitPart, 1),
			unit.Temperature(w.sensed.Coldest(), 1))
	case s.WaitCure > 0 && !(w.sensed.Cure >= s.WaitCure):
		return fmt.Errorf(
			"%s: it waits for %.1f %% of the cure, and the lagging part reaches %.1f %%",
			of,
			s.WaitCure*100,
			w.sensed.Cure*100,
		)
	case s.WaitThin > 0 && !(w.sensed.Thin <= s.WaitThin):
		return fmt.Errorf("%s: it waits for a viscosity of %g Pa s or less, which does not come", of, s.WaitThin)
	case s.WaitThick > 0 && !(w.sensed.Thick >= s.WaitThick):
		return fmt.Errorf("%s: it waits for a viscosity of %g Pa s or more, which does not come", of, s.WaitThick)
	case s.WaitViscosityMinimum && !math.IsInf(w.sensed.Thin, 1):
		return fmt.Errorf("%s: it waits until the viscosity has passed its minimum, and it is still falling", of)
	case s.WaitCool > 0 && !(w.sensed.Hottest() <= s.WaitCool):
		return fmt.Errorf(
			"%s: it waits for the part to cool to %s, and it comes to %s",
			of,
			unit.Temperature(s.WaitCool, 1),
			unit.Temperature(w.sensed.Hottest(), 1),
		)
	}
	return fmt.Errorf("%s", of)
}

// clock is a time as people say it.
func clock(s float64) string {
	m := int(math.Round(s / 60))
	if m < 60 {
		return fmt.Sprintf("%d min", m)
	}
	return fmt.Sprintf("%d h %02d", m/60, m%60)
}
