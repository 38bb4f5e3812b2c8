package cure

import (
	"cmp"
	"errors"
	"fmt"
	"math"
	"slices"

	"juxta/core/unit"
)

// Sample is one line of a run's log. A sensor that failed reads NaN.
type Sample struct {
	T, SetPoint, Air, Tool, Lead, Lag, Vacuum float64
	Pressure                                  float64 // above the air outside, Pa; NaN: nobody recorded it
}

// Limits that a run is judged by, as entered in the revision.
type Limits struct {
	SoakBelow float64 // the lagging sensor may hold this far below the target, K
	MaxPart   float64 // hottest that the leading sensor may get, K
	MaxRamp   float64 // steepest heating of either part sensor, K/s over 5 min
	MinVacuum float64 // Pa; 0: none is asked for
	MinCure   float64 // degree of cure at the end, by the lagging sensor
	MaxGap    float64 // longest gap in the log, s
	// MaxAirOut is how long the air may lie outside its band at a stretch while the
	// set point stands, s; 0 means [UsualAirOut].
	MaxAirOut float64
	// Lead is by how much the air might be led from its set point for a part sensor that the recipe is controlled by,
	// K.
	Lead float64
	// MaxPressure is the most pressure that may be on, Pa; 0: it is not judged.
	MaxPressure float64
}

// UsualAirOut is how long the air may lie outside its band where nobody entered
// another time: a door that was opened for a look is over by then (common
// practice, no source).
const UsualAirOut = 600.0

func (l Limits) airOut() float64 {
	if l.MaxAirOut == 0 {
		return UsualAirOut
	}
	return l.MaxAirOut
}

// RunCheck is one limit and what the run did. AtLeast says which side of the
// limit is met. At is when, in s from the start.
type RunCheck struct {
	What    string  `json:"what"`
	Limit   float64 `json:"limit"`
	Found   float64 `json:"found"`
	Unit    string  `json:"unit" doc:"K, s, K/s, Pa, or empty for a ratio"`
	AtLeast bool    `json:"atLeast" doc:"The limit is met at or above it; else at or below"`
	Met     bool    `json:"met"`
	At      float64 `json:"at" doc:"s from the start"`
	Message string  `json:"message"`
}

// UnmarshalJSON reads checks that were kept before their sentence was called a message, too.
func (c *RunCheck) UnmarshalJSON(raw []byte) error {
	type plain RunCheck
	return unit.WithOldMessage(raw, (*plain)(c), &c.Message)
}

// Verdict is a run held against its limits. Met says that every check was met;
// it never says that a part is good.
type Verdict struct {
	Met    bool       `json:"met"`
	Checks []RunCheck `json:"checks"`
	Cure   float64    `json:"cure" doc:"Degree of cure at the end by the lagging sensor"`
	Alpha  []float64  `json:"-"`     // at every sample that counts
	Notes  []string   `json:"notes"` // failed readings and the like, said and left out
}

// Judge holds a log against the recipe and its limits. Readings that are NaN
// or lie outside -50 to 600 °C are left out and said; a spike of more than
// 30 K that is gone in the next reading as well.
func Judge(log []Sample, r Recipe, l Limits, k Kinetics, alpha0 float64) (Verdict, error) {
	if err := r.Check(); err != nil {
		return Verdict{}, err
	}
	if len(log) < 2 {
		return Verdict{}, fmt.Errorf("the log has %d samples: there is nothing to judge", len(log))
	}
	v := Verdict{Notes: []string{}}
	lag := clean(log, func(s Sample) float64 { return s.Lag })
	lead := clean(log, func(s Sample) float64 { return s.Lead })
	if n := len(log) - len(lag); n > 0 {
		v.Notes = append(
			v.Notes,
			fmt.Sprintf("%d of %d readings of the lagging sensor were left out as failed", n, len(log)),
		)
	}
	if n := len(log) - len(lead); n > 0 {
		v.Notes = append(
			v.Notes,
			fmt.Sprintf("%d of %d readings of the leading sensor were left out as failed", n, len(log)),
		)
	}
	if len(lag) < 2 || len(lead) < 2 {
		return Verdict{}, fmt.Errorf("a part sensor gave no reading that counts: the run cannot be judged")
	}
	set := make([]Point, len(log))
	for i, s := range log {
		set[i] = Point{s.T, s.SetPoint}
	}
	if err := v.heat(set, lead, lag, r, l, k, alpha0); err != nil {
		return Verdict{}, err
	}
	if l.MinVacuum > 0 { // a press draws none, and what stands free needs none
		v.add(vacuum(log, l.MinVacuum))
	}
	v.add(airBand(log, r, l))
	if l.MaxPressure > 0 {
		if c, read := pressure(log, l.MaxPressure); read {
			v.add(c)
		}
	}
	gap, at := longestGap(lag)
	v.add(RunCheck{"longest gap in the log", l.MaxGap, gap, "s", false, gap <= l.MaxGap, at,
		fmt.Sprintf("%.0f s, at most %.0f s", gap, l.MaxGap)})
	v.met()
	return v, nil
}

// JudgePlan holds a run as it is simulated against its limits: what [Judge] would say of it. Vacuum and silence are not
// simulated and not judged.
func JudgePlan(log []Sample, r Recipe, l Limits, k Kinetics, alpha0 float64) (Verdict, error) {
	if err := r.Check(); err != nil {
		return Verdict{}, err
	}
	if len(log) == 0 {
		return Verdict{}, errors.New("nothing is simulated")
	}
	lead, lag, set := make([]Point, len(log)), make([]Point, len(log)), make([]Point, len(log))
	for i, x := range log {
		lead[i], lag[i], set[i] = Point{x.T, x.Lead}, Point{x.T, x.Lag}, Point{x.T, x.SetPoint}
	}
	v := Verdict{Notes: []string{}}
	if err := v.heat(set, lead, lag, r, l, k, alpha0); err != nil {
		return Verdict{}, err
	}
	v.add(airBand(log, r, l))
	v.met()
	return v, nil
}

func (v *Verdict) add(c RunCheck) { v.Checks = append(v.Checks, c) }

func (v *Verdict) met() {
	v.Met = !slices.ContainsFunc(v.Checks, func(c RunCheck) bool { return !c.Met })
}

// heat judges what the part's temperatures did: holds, the hottest reading, the
// steepest heating, the degree of cure.
func (v *Verdict) heat(set, lead, lag []Point, r Recipe, l Limits, k Kinetics, alpha0 float64) error {
	for i, at := range holds(set, r) {
		s := r.Segments[i]
		if s.Hold > 0 && s.WaitPart > 0 {
			held, at := longestAbove(between(lag, at.from, at.to), s.Target-l.SoakBelow)
			floor := unit.Temperature(s.Target-l.SoakBelow, 0)
			v.add(
				RunCheck{
					fmt.Sprintf("hold %d at %s or above by the lagging sensor", i+1, floor),
					s.Hold,
					held,
					"s",
					true,
					held >= s.Hold-1,
					at,
					fmt.Sprintf("%.0f min at %s or above, %.0f min required", held/60, floor, s.Hold/60),
				},
			)
		}
	}
	hottest := lead[0]
	for _, p := range lead {
		if p.Temperature > hottest.Temperature {
			hottest = p
		}
	}
	v.add(
		RunCheck{
			"hottest reading of the leading sensor",
			l.MaxPart,
			hottest.Temperature,
			"K",
			false,
			hottest.Temperature <= l.MaxPart,
			hottest.T,
			fmt.Sprintf("%s, at most %s", unit.Temperature(hottest.Temperature, 1), unit.Temperature(l.MaxPart, 1)),
		},
	)
	ramp, at := steepest(lead, 300)
	if other, t := steepest(lag, 300); other > ramp {
		ramp, at = other, t
	}
	v.add(RunCheck{"steepest heating of the part over 5 min", l.MaxRamp, ramp, "K/s", false, ramp <= l.MaxRamp, at,
		fmt.Sprintf(
			"%s/min, at most %s/min",
			unit.TemperatureDifference(ramp*60, 2),
			unit.TemperatureDifference(l.MaxRamp*60, 2),
		)})
	alpha, err := k.Integrate(alpha0, lag)
	if err != nil {
		return err
	}
	v.Alpha, v.Cure = alpha, alpha[len(alpha)-1]
	v.add(
		RunCheck{
			"degree of cure by the lagging sensor",
			l.MinCure,
			v.Cure,
			"",
			true,
			v.Cure >= l.MinCure,
			lag[len(lag)-1].T,
			fmt.Sprintf("%.1f %%, at least %.1f %%", v.Cure*100, l.MinCure*100),
		},
	)
	return nil
}

// vacuum judges the least reading of the vacuum gauge. A gauge that was silent
// all the time has met nothing.
func vacuum(log []Sample, limit float64) RunCheck {
	c := RunCheck{
		What:    "least vacuum",
		Limit:   limit,
		Unit:    "Pa",
		AtLeast: true,
		Message: "the vacuum gauge gave no reading",
	}
	least := math.Inf(1)
	for _, s := range log {
		if s.Vacuum < least { // false for NaN
			least, c.At = s.Vacuum, s.T
		}
	}
	if !math.IsInf(least, 1) {
		c.Found, c.Met = least, least >= limit
		c.Message = fmt.Sprintf("%s, at least %s", unit.Vacuum(least, 1), unit.Vacuum(limit, 1))
	}
	return c
}

// clean keeps the readings of one sensor that can be true.
func clean(log []Sample, read func(Sample) float64) []Point {
	var all []Point
	for _, s := range log {
		if t := read(s); t > 223 && t < 873 {
			all = append(all, Point{s.T, t})
		}
	}
	var out []Point
	for i, p := range all {
		if i > 0 && i+1 < len(all) {
			a, b := p.Temperature-all[i-1].Temperature, p.Temperature-all[i+1].Temperature
			if math.Abs(a) > 30 && math.Abs(b) > 30 && a*b > 0 {
				continue
			}
		}
		out = append(out, p)
	}
	return out
}

// pressure judges the highest reading of the pressure; read is false where nobody recorded one, as in an oven.
func pressure(log []Sample, limit float64) (c RunCheck, read bool) {
	c = RunCheck{What: "highest pressure", Limit: limit, Unit: "Pa"}
	for _, s := range log {
		if !math.IsNaN(s.Pressure) {
			read = true
			if s.Pressure > c.Found {
				c.Found, c.At = s.Pressure, s.T
			}
		}
	}
	c.Met = c.Found <= limit
	c.Message = fmt.Sprintf("%s, at most %s", unit.Pressure(c.Found, 0), unit.Pressure(limit, 0))
	return c, read
}

// stay is the time in which the set point stands at a segment's target.
type stay struct{ from, to float64 }

// setPointWithin is how far the set point may lie from its target and stand at it:
// an oven takes it in tenths of a kelvin.
const setPointWithin = 0.06

// holds are the stays of a recipe's segments, so that what one hold lacks is not
// made up for by another that is hotter. When the set point comes and goes is told
// by the ramps before and after, between samples as well. Segments that follow
// each other at one target share its time: each has what those before it leave.
func holds(set []Point, r Recipe) []stay {
	out := make([]stay, len(r.Segments))
	next := 0
	for i, s := range r.Segments {
		if i > 0 && s.Target == r.Segments[i-1].Target {
			before := out[i-1]
			out[i] = stay{math.Min(before.from+r.Segments[i-1].Hold, before.to), before.to}
			continue
		}
		first := next
		for first < len(set) && math.Abs(set[first].Temperature-s.Target) > setPointWithin {
			first++
		}
		if first == len(set) {
			continue // the run ended before it, or passed it between two samples
		}
		last := first
		for last+1 < len(set) && math.Abs(set[last+1].Temperature-s.Target) <= setPointWithin {
			last++
		}
		out[i] = stay{set[first].T, set[last].T}
		if first > 0 {
			out[i].from = math.Min(set[first].T, set[first-1].T+math.Abs(s.Target-set[first-1].Temperature)/s.Rate)
		}
		// It leaves by the ramp of the next segment that leads elsewhere.
		for k := i + 1; k < len(r.Segments) && last+1 < len(set); k++ {
			if n := r.Segments[k]; n.Target != s.Target {
				out[i].to = math.Max(set[last].T, set[last+1].T-math.Abs(set[last+1].Temperature-s.Target)/n.Rate)
				break
			}
		}
		next = last + 1
	}
	return out
}

// between is the part of a history that lies in a time, with its ends put in.
func between(history []Point, from, to float64) []Point {
	at := func(t float64) (Point, bool) {
		k, exact := slices.BinarySearchFunc(history, t, func(p Point, t float64) int { return cmp.Compare(p.T, t) })
		switch {
		case exact:
			return history[k], true
		case k == 0 || k == len(history):
			return Point{}, false
		}
		a, b := history[k-1], history[k]
		return Point{t, a.Temperature + (b.Temperature-a.Temperature)*(t-a.T)/(b.T-a.T)}, true
	}
	var out []Point
	if p, ok := at(from); ok {
		out = append(out, p)
	}
	for _, p := range history {
		if p.T > from && p.T < to {
			out = append(out, p)
		}
	}
	if p, ok := at(to); ok && to > from {
		out = append(out, p)
	}
	return out
}

// airBand judges the air against the band about its set point that the plan draws,
// while the set point stands: on ramps the air lags, and the part is what counts.
// Where a part sensor controls, the band lies about what the air was told for it.
func airBand(log []Sample, r Recipe, l Limits) RunCheck {
	most := l.airOut()
	of := "while it holds"
	if r.Control != ByAir {
		of = "of the set point during holds"
	}
	c := RunCheck{
		What:    fmt.Sprintf("longest time of the air outside ±%.0f K %s", r.Tolerance, of),
		Limit:   most,
		Unit:    "s",
		Message: "the air sensor gave no reading",
	}
	air := clean(log, func(s Sample) float64 {
		return s.Air - (r.Aim(s.SetPoint, PartState{Lag: s.Lag, Lead: s.Lead}, l.Lead) - s.SetPoint)
	})
	if len(air) == 0 {
		// Nobody knows: it counts as outside all the time.
		c.Found = math.Max(log[len(log)-1].T-log[0].T, most+1)
		return c
	}
	set := make([]Point, len(log))
	for i, s := range log {
		set[i] = Point{s.T, s.SetPoint}
	}
	for i, at := range holds(set, r) {
		off := between(air, at.from, at.to)
		for k := range off {
			off[k].Temperature = math.Abs(off[k].Temperature - r.Segments[i].Target)
		}
		if out, from := longestAbove(off, r.Tolerance+1e-9); out > c.Found {
			c.Found, c.At = out, from
		}
	}
	c.Met = c.Found <= most
	c.Message = fmt.Sprintf("%.0f min, at most %.0f min", c.Found/60, most/60)
	return c
}

// longestAbove is the longest unbroken stretch at or above a temperature, and
// when it began.
func longestAbove(history []Point, limit float64) (longest, at float64) {
	start := math.NaN()
	for _, p := range history {
		if p.Temperature < limit {
			start = math.NaN()
			continue
		}
		if math.IsNaN(start) {
			start = p.T
		}
		if p.T-start > longest {
			longest, at = p.T-start, start
		}
	}
	return longest, at
}

// steepest is the fastest heating in K/s between readings at least window
// seconds apart, which keeps noise out of it.
func steepest(history []Point, window float64) (fastest, at float64) {
	j := 0
	for i, p := range history {
		for j+1 < i && history[j+1].T <= p.T-window {
			j++
		}
		if span := p.T - history[j].T; span >= window {
			if rate := (p.Temperature - history[j].Temperature) / span; rate > fastest {
				fastest, at = rate, history[j].T
			}
		}
	}
	return fastest, at
}

func longestGap(history []Point) (longest, at float64) {
	for i := 1; i < len(history); i++ {
		if d := history[i].T - history[i-1].T; d > longest {
			longest, at = d, history[i-1].T
		}
	}
	return longest, at
}
