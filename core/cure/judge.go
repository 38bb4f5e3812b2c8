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
	MaxGap    float64 // longest silence of a sensor that a limit needs, s
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
	// Why nobody can say whether it is met: a sensor was silent. What is not proven is not met.
	NotProven string `json:"notProven,omitempty" doc:"Why nobody can say whether it is met; missing: it is met or not"`
}

// Result is the outcome in words, as a record has it.
func (c RunCheck) Result() string {
	switch {
	case c.NotProven != "":
		return "NOT PROVEN"
	case c.Met:
		return "met"
	}
	return "NOT met"
}

// UnmarshalJSON reads checks that were kept before their sentence was called a message, too.
func (c *RunCheck) UnmarshalJSON(raw []byte) error {
	type plain RunCheck
	return unit.WithOldMessage(raw, (*plain)(c), &c.Message)
}

// Verdict is a run held against its limits. Met says that every check was met, which one that is not
// proven is not; it never says that a part is good.
type Verdict struct {
	Met bool `json:"met"`
	// NotProven says that no check was missed and one or more could not be judged.
	NotProven bool       `json:"notProven,omitempty" doc:"No limit was missed, but one or more could not be judged"`
	Checks    []RunCheck `json:"checks"`
	Cure      float64    `json:"cure" doc:"Degree of cure at the end by the lagging sensor"`
	Alpha     []float64  `json:"-"`     // at every sample that counts
	Notes     []string   `json:"notes"` // failed readings and the like, said and left out
}

// Judge holds a log against the recipe and its limits. Readings that are NaN
// or lie outside -50 to 600 °C are left out and said; a spike of more than
// 30 K that is gone in the next reading as well. A sensor or gauge that a limit needs and that was
// silent for longer than MaxGap, also before its first reading or after its last one, proves nothing of that time.
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
	from, to := log[0].T, log[len(log)-1].T
	part := partRecord{
		lead: sensor{"the leading sensor", lead, from, to, l.MaxGap},
		lag:  sensor{"the lagging sensor", lag, from, to, l.MaxGap},
	}
	if err := v.heat(set, part, r, l, k, alpha0); err != nil {
		return Verdict{}, err
	}
	needed := []sensor{part.lead, part.lag}
	if l.MinVacuum > 0 { // a press draws none, and what stands free needs none
		gauge := sensor{"the vacuum gauge", gauged(log, func(s Sample) float64 { return s.Vacuum }), from, to, l.MaxGap}
		v.add(vacuum(gauge, l.MinVacuum))
		needed = append(needed, gauge)
	}
	band, air := airBand(log, r, l)
	v.add(band)
	needed = append(needed, air)
	if l.MaxPressure > 0 {
		read := gauged(log, func(s Sample) float64 { return s.Pressure })
		gauge := sensor{"the pressure gauge", read, from, to, l.MaxGap}
		// An oven has none, and nothing is pressed in it.
		if len(gauge.readings) > 0 || r.Pressed() {
			v.add(pressure(gauge, l.MaxPressure))
			needed = append(needed, gauge)
		}
	}
	v.add(longestSilence(needed, l.MaxGap))
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
	l.MaxGap = 0
	part := partRecord{lead: sensor{readings: lead}, lag: sensor{readings: lag}}
	if err := v.heat(set, part, r, l, k, alpha0); err != nil {
		return Verdict{}, err
	}
	band, _ := airBand(log, r, l)
	v.add(band)
	v.met()
	return v, nil
}

func (v *Verdict) add(c RunCheck) { v.Checks = append(v.Checks, c) }

func (v *Verdict) met() {
	v.Met = !slices.ContainsFunc(v.Checks, func(c RunCheck) bool { return !c.Met })
	// A silence that is too long is itself a limit missed: of what it left open it says nothing more.
	missed := func(c RunCheck) bool { return !c.Met && c.NotProven == "" && c.What != silenceCheck }
	v.NotProven = !v.Met && !slices.ContainsFunc(v.Checks, missed)
}

// partRecord is what the part sensors read.
type partRecord struct{ lead, lag sensor }

// heat judges what the part's temperatures did: holds, the hottest reading, the
// steepest heating, the degree of cure.
func (v *Verdict) heat(set []Point, part partRecord, r Recipe, l Limits, k Kinetics, alpha0 float64) error {
	lead, lag := part.lead.readings, part.lag.readings
	for i, at := range holds(set, r) {
		s := r.Segments[i]
		if s.Hold == 0 {
			continue
		}
		during := sensor{part.lag.name, between(lag, at.from, at.to), at.from, at.to, l.MaxGap}
		held, since := longestAbove(during.readings, s.Target-l.SoakBelow, l.MaxGap)
		floor := unit.Temperature(s.Target-l.SoakBelow, 0)
		c := RunCheck{
			What:    fmt.Sprintf("hold %d at %s or above by the lagging sensor", i+1, floor),
			Limit:   s.Hold,
			Found:   held,
			Unit:    "s",
			AtLeast: true,
			Met:     held >= s.Hold-1,
			At:      since,
			Message: fmt.Sprintf("%.0f min at %s or above, %.0f min required", held/60, floor, s.Hold/60),
		}
		if !c.Met {
			c.NotProven = during.silent()
		}
		v.add(c)
	}
	hottest := lead[0]
	for _, p := range lead {
		if p.Temperature > hottest.Temperature {
			hottest = p
		}
	}
	v.add(RunCheck{
		What:  "hottest reading of the leading sensor",
		Limit: l.MaxPart,
		Found: hottest.Temperature,
		Unit:  "K",
		Met:   hottest.Temperature <= l.MaxPart,
		At:    hottest.T,
		Message: fmt.Sprintf(
			"%s, at most %s", unit.Temperature(hottest.Temperature, 1), unit.Temperature(l.MaxPart, 1),
		),
	}.provenBy(part.lead))
	ramp, at := steepest(lead, 300)
	if other, t := steepest(lag, 300); other > ramp {
		ramp, at = other, t
	}
	v.add(RunCheck{
		What:  "steepest heating of the part over 5 min",
		Limit: l.MaxRamp,
		Found: ramp,
		Unit:  "K/s",
		Met:   ramp <= l.MaxRamp,
		At:    at,
		Message: fmt.Sprintf(
			"%s/min, at most %s/min",
			unit.TemperatureDifference(ramp*60, 2),
			unit.TemperatureDifference(l.MaxRamp*60, 2),
		),
	}.provenBy(part.lead, part.lag))
	return v.cured(part.lag, l, k, alpha0)
}

// cured judges the degree of cure. What a silent sensor did not read cures nothing: the degree found is
// then one that the part has at least.
func (v *Verdict) cured(lag sensor, l Limits, k Kinetics, alpha0 float64) error {
	alpha := alpha0
	for history := lag.readings; len(history) > 0; {
		n := 1
		for n < len(history) && (l.MaxGap <= 0 || history[n].T-history[n-1].T <= l.MaxGap) {
			n++
		}
		piece, err := k.Integrate(alpha, history[:n])
		if err != nil {
			return err
		}
		v.Alpha = append(v.Alpha, piece...)
		alpha, history = piece[n-1], history[n:]
	}
	v.Cure = alpha
	c := RunCheck{
		What:    "degree of cure by the lagging sensor",
		Limit:   l.MinCure,
		Found:   v.Cure,
		AtLeast: true,
		Met:     v.Cure >= l.MinCure,
		At:      lag.readings[len(lag.readings)-1].T,
		Message: fmt.Sprintf("%.1f %%, at least %.1f %%", v.Cure*100, l.MinCure*100),
	}
	if !c.Met {
		c.NotProven = lag.silent()
	}
	v.add(c)
	return nil
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
func airBand(log []Sample, r Recipe, l Limits) (RunCheck, sensor) {
	most := l.airOut()
	of := "while it holds"
	if r.Control != ByAir {
		of = "of the set point during holds"
	}
	c := RunCheck{
		What:  fmt.Sprintf("longest time of the air outside ±%s %s", unit.TemperatureDifference(r.Tolerance, 0), of),
		Limit: most,
		Unit:  "s",
	}
	air := sensor{"the air sensor", clean(log, func(s Sample) float64 {
		return s.Air - (r.Aim(s.SetPoint, PartState{Lag: s.Lag, Lead: s.Lead}, l.Lead) - s.SetPoint)
	}), log[0].T, log[len(log)-1].T, l.MaxGap}
	if len(air.readings) == 0 {
		c.Message = air.name + " gave no reading"
		c.NotProven = c.Message
		return c, air
	}
	set := make([]Point, len(log))
	for i, s := range log {
		set[i] = Point{s.T, s.SetPoint}
	}
	silent := ""
	for i, at := range holds(set, r) {
		during := sensor{air.name, between(air.readings, at.from, at.to), at.from, at.to, l.MaxGap}
		if silent == "" {
			silent = during.silent()
		}
		off := slices.Clone(during.readings)
		for k := range off {
			off[k].Temperature = math.Abs(off[k].Temperature - r.Segments[i].Target)
		}
		if out, from := longestAbove(off, r.Tolerance+1e-9, 0); out > c.Found {
			c.Found, c.At = out, from
		}
	}
	c.Met = c.Found <= most
	c.Message = fmt.Sprintf("%.0f min, at most %.0f min", c.Found/60, most/60)
	if c.Met && silent != "" {
		c.Met, c.NotProven = false, silent
	}
	return c, air
}

// longestAbove is the longest unbroken stretch at or above a temperature, and
// when it began. A silence of more than gap breaks it; 0: none does.
func longestAbove(history []Point, limit, gap float64) (longest, at float64) {
	start := math.NaN()
	for i, p := range history {
		if p.Temperature < limit {
			start = math.NaN()
			continue
		}
		if i > 0 && gap > 0 && p.T-history[i-1].T > gap {
			start = math.NaN()
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
