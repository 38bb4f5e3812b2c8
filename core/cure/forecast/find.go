package forecast

import (
	"context"
	"math"
	"math/rand/v2"
	"slices"

	"juxta/core/cure"
	"juxta/core/cure/heat"
	"juxta/core/parallel"
	"juxta/core/unit"
)

// Search is how far a search for the shortest cycle has come: plain data, so that it can be gone on with.
type Search struct {
	Recipe   cure.Recipe // best so far
	Duration float64     // s
	Misses   float64     // by how much it misses its limits, added up as parts of them; 0: it meets all
	Scale    int         // steps of the search: 8, 4, 2, 1
	Round    int
	Tried    int
	Settled  bool
	Proved   cure.Recipe // best that has passed a check at a finer step and on a finer grid, after the first round
	Lasts    float64     // s
	Lacks    float64     // misses
	HeldBack LimitCheck  // settled: the limit that keeps it from being a minute shorter; no name: none does
	Shorter  string      // what a minute less would be taken from
}

// Steps of what is changed: people type whole kelvin, tenths of a kelvin a minute and whole minutes.
const (
	kelvinStep = 1.0
	rateStep   = 0.1 / 60
	holdStep   = 60.0
	widest     = 16
	settleds   = 3 // rounds without a shorter one after which a search is settled
)

// knob is one figure of a recipe that a search may turn.
type knob struct {
	segment int
	of      string // target, rate, hold
}

func (k knob) says() string {
	return map[string]string{"target": "the temperature", "rate": "the ramp", "hold": "the hold"}[k.of]
}

// knobs are what may be changed: ramps and holds of all segments, and targets of those that heat up to another dwell
// on the way; the last heated one may move as well, cooling targets stay.
func knobs(r cure.Recipe) (out []knob) {
	at := r.Start
	for k, s := range r.Segments {
		if s.Target > at {
			out = append(out, knob{k, "target"})
		}
		if s.Target != at {
			out = append(out, knob{k, "rate"})
		}
		if s.Hold > 0 {
			out = append(out, knob{k, "hold"})
		}
		at = s.Target
	}
	return out
}

// turned is a recipe with a figure moved by so many steps, within what the equipment and the resins can; false where
// it is not.
func (j *Job) turned(r cure.Recipe, k knob, steps float64) (cure.Recipe, bool) {
	r.Segments = slices.Clone(r.Segments)
	s := &r.Segments[k.segment]
	before := r.Start
	if k.segment > 0 {
		before = r.Segments[k.segment-1].Target
	}
	switch k.of {
	case "target":
		by := steps * kelvinStep
		s.Target += by
		if s.WaitPart > 0 {
			s.WaitPart += by
		}
		if s.Target <= before {
			return r, false
		}
		if k.segment+1 < len(r.Segments) && r.Segments[k.segment+1].Target > s.Target-by &&
			r.Segments[k.segment+1].Target <= s.Target {
			return r, false // it would pass the next dwell
		}
		for _, x := range j.Sections {
			if x.Resin.Hottest > 0 && s.Target > x.Resin.Hottest {
				return r, false
			}
		}
	case "rate":
		s.Rate = math.Round((s.Rate+steps*rateStep)/rateStep) * rateStep
		most := j.Equipment.HeatUp
		if s.Target < before {
			most = j.Equipment.CoolDown
		}
		if most == 0 {
			most = 10.0 / 60
		}
		if s.Rate < rateStep/2 || s.Rate > most+1e-9 {
			return r, false
		}
	case "hold":
		s.Hold += steps * holdStep
		if s.Hold < holdStep {
			return r, false
		}
	}
	return r, r.Check() == nil
}

// tried is what a recipe comes to.
type tried struct {
	recipe   cure.Recipe
	duration float64
	misses   float64
	f        Forecast
	err      error
}

func (t tried) better(o tried) bool {
	if math.Abs(t.misses-o.misses) > 1e-9 {
		return t.misses < o.misses
	}
	return t.duration < o.duration-1
}

// Misses is by how much a forecast misses its limits, as parts of them added up, and what no
// limit stands for by how bad it is.
func (f Forecast) Misses() float64 {
	sum := 0.0
	for _, h := range f.Checks {
		sum += h.Misses()
	}
	for _, x := range f.Findings {
		switch x.Rule {
		case "pressure", "water", "sag", "gel", "opening", Unknown:
			sum += x.By + 1e-6
		}
	}
	return sum
}

// Misses is by how much a limit is missed, as a part of it; of a temperature as a part of 100 K. 0: it is met.
func (h LimitCheck) Misses() float64 {
	if h.Met {
		return 0
	}
	by := math.Abs(h.Found-h.Limit) / math.Max(math.Abs(h.Limit), 1e-9)
	if h.Kind == unit.KindTemperature {
		by = math.Abs(h.Found-h.Limit) / 100
	}
	if math.IsNaN(by) {
		by = 1
	}
	return by + 1e-6
}

func (j Job) try(ctx context.Context, r cure.Recipe) tried {
	j.Recipe, j.Every, j.Mishaps = r, math.Max(60, j.roughly()/120), nil
	f, err := Simulate(ctx, j)
	if err != nil {
		return tried{recipe: r, misses: math.Inf(1), duration: math.Inf(1), err: err}
	}
	return tried{r, f.Duration, f.Misses(), f, nil}
}

// all tries several recipes on all cores; their order stays.
func (j Job) all(ctx context.Context, recipes []cure.Recipe) []tried {
	out := make([]tried, len(recipes))
	var g parallel.Group
	for i, r := range recipes {
		g.Run(func() { out[i] = j.try(ctx, r) })
	}
	_ = g.Wait()
	return out
}

// FindShortest goes on with a search for the shortest cycle that meets the limits, for at most so many tries. A search
// begins
// with its recipe and nothing else. It is the same for the same seed and tries, on any number of cores; what is found
// last has passed a check at a finer step and on a finer grid. It is a pattern search over the figures that people
// type:
// each is moved up and down by ever smaller steps while that helps; when nothing does, it begins again beside the best.
func FindShortest(ctx context.Context, j Job, s Search, seed uint64, tries int) (Search, error) {
	if s.Tried == 0 {
		first := j.try(ctx, s.Recipe)
		if first.err != nil {
			return s, first.err
		}
		s.Duration, s.Misses, s.Scale, s.Tried = first.duration, first.misses, widest, 1
	}
	best := tried{recipe: s.Recipe, duration: s.Duration, misses: s.Misses}
	rng := rand.New(rand.NewPCG(seed, uint64(s.Tried)))
	stop := s.Tried + tries
	for s.Tried < stop && !s.Settled && ctx.Err() == nil {
		from := best
		if s.Round > 0 && s.Scale == widest {
			from = j.beside(ctx, best, rng)
			s.Tried++
		}
		at := from
		for s.Scale >= 1 && s.Tried < stop && ctx.Err() == nil {
			moved := j.around(ctx, &at, &s, rng)
			if at.better(best) {
				best = at
			}
			if !moved {
				s.Scale /= 2
			}
		}
		if s.Scale < 1 {
			s.Scale = widest
			before := tried{recipe: s.Recipe, duration: s.Duration, misses: s.Misses}
			if s.Round > 0 {
				before = tried{recipe: s.Proved, duration: s.Lasts, misses: s.Lacks}
			}
			best = j.proved(ctx, best)
			if s.Round > 0 && !best.better(before) {
				best = before
				s.Settled = s.Round+1 >= settleds
			}
			s.Proved, s.Lasts, s.Lacks = best.recipe, best.duration, best.misses
			s.Round++
		}
		s.Recipe, s.Duration, s.Misses = best.recipe, best.duration, best.misses
	}
	if ctx.Err() != nil {
		return s, nil // the best so far
	}
	if s.Settled {
		j.heldBack(ctx, &s)
	}
	return s, nil
}

// around moves every figure up and down by the steps of the search, and where none of that helps one beside another
// that makes the cycle shorter: at a limit a hotter dwell is worth nothing until its hold is cut. It says whether
// anything helped.
func (j Job) around(ctx context.Context, at *tried, s *Search, rng *rand.Rand) (moved bool) {
	take := func(recipes []cure.Recipe) (helped bool) {
		for _, t := range j.all(ctx, recipes) {
			s.Tried++
			if t.err == nil && t.better(*at) {
				*at, helped = t, true
			}
		}
		return helped
	}
	all := knobs(at.recipe)
	rng.Shuffle(len(all), func(a, b int) { all[a], all[b] = all[b], all[a] })
	for _, k := range all {
		var two []cure.Recipe
		for _, way := range []float64{1, -1} {
			if r, may := j.turned(at.recipe, k, way*float64(s.Scale)); may {
				two = append(two, r)
			}
		}
		moved = take(two) || moved
	}
	if moved {
		return true
	}
	var pairs []cure.Recipe
	for _, k := range all {
		for _, o := range all {
			if o == k || o.of == "target" {
				continue
			}
			sooner := 1.0
			if o.of == "hold" {
				sooner = -1
			}
			for _, way := range []float64{1, -1} {
				for _, times := range []float64{1, 4} {
					r, may := j.turned(at.recipe, k, way*float64(s.Scale))
					if !may {
						continue
					}
					if r, may = j.turned(r, o, sooner*times*float64(s.Scale)); may {
						pairs = append(pairs, r)
					}
				}
			}
		}
	}
	rng.Shuffle(len(pairs), func(a, b int) { pairs[a], pairs[b] = pairs[b], pairs[a] })
	for most := 4 * len(all); len(pairs) > 1 && most > 0 && ctx.Err() == nil; most -= 2 {
		if take(pairs[:2]) {
			return true
		}
		pairs = pairs[2:]
	}
	return false
}

// beside is a recipe near the best: some of its figures moved by chance.
func (j Job) beside(ctx context.Context, best tried, rng *rand.Rand) tried {
	r := best.recipe
	for _, k := range knobs(r) {
		if rng.IntN(2) == 0 {
			continue
		}
		if to, may := j.turned(r, k, math.Round(rng.NormFloat64()*10)); may {
			r = to
		}
	}
	if t := j.try(ctx, r); t.err == nil {
		return t
	}
	return best
}

// proved checks a recipe at a finer step and on a finer grid, and moves it off its limits where it misses there by a
// hair; the misses are those of the finer check.
func (j Job) proved(ctx context.Context, best tried) tried {
	fine := j
	fine.Accuracy = heat.Accuracy{Step: heat.UsualStep / 10, Finer: 2}
	now := fine.try(ctx, best.recipe)
	for range 8 {
		if now.err != nil || now.misses <= best.misses+1e-9 {
			break
		}
		var near []cure.Recipe
		for _, k := range knobs(now.recipe) {
			for _, steps := range []float64{1, -1, 3, -3, 8, -8} {
				if r, may := j.turned(now.recipe, k, steps); may {
					near = append(near, r)
				}
			}
		}
		before := now.misses
		for _, t := range fine.all(ctx, near) {
			if t.err == nil && t.better(now) {
				now = t
			}
		}
		if now.misses >= before {
			break
		}
	}
	if now.err != nil {
		return best
	}
	now.f = Forecast{}
	return now
}

// heldBack says what keeps a settled search from a shorter cycle: of all ways to a shorter one the one that misses the
// least, as if it went on to a whole minute as it begins.
func (j Job) heldBack(ctx context.Context, s *Search) {
	least := math.Inf(1)
	for _, k := range knobs(s.Recipe) {
		for _, way := range []float64{1, -1} {
			r, may := j.turned(s.Recipe, k, way)
			if !may {
				continue
			}
			t := j.try(ctx, r)
			if t.err != nil || t.duration > s.Duration-20 || t.misses <= s.Misses {
				continue
			}
			for _, h := range t.f.Checks {
				// A minute less by each way, as if it went on as it begins.
				if by := t.misses * 60 / (s.Duration - t.duration); !h.Met && by < least {
					least, s.HeldBack, s.Shorter = by, h, k.says()
				}
			}
		}
	}
}
