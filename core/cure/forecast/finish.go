package forecast

import (
	"cmp"
	"fmt"
	"math"
	"slices"

	"juxta/core/cure"
	"juxta/core/unit"
)

// finish holds what was seen against the limits, and says what to look at.
func (w *walker) finish() Forecast {
	f := &w.out
	f.Duration = w.t
	f.Window = Window{math.NaN(), math.NaN()}
	for k := range w.states {
		s := &w.states[k]
		s.out.Cure, s.out.Glass, s.out.Cures = s.now.Least, s.now.Glass, w.Sections[k].cures()
		f.Sections = append(f.Sections, s.out)
		if !w.Sections[k].cures() {
			continue
		}
		if !math.IsNaN(s.thinAt) {
			f.Events = append(f.Events, CureEvent{s.thinAt, Thinnest, k, s.thin})
		}
		f.Events = append(f.Events, CureEvent{s.out.HottestAt, Hottest, k, s.out.Hottest})
		w.windowOf(k)
	}
	if math.IsInf(f.Window.From, 1) {
		f.Window = Window{math.NaN(), math.NaN()}
	}
	slices.SortStableFunc(f.Events, func(a, b CureEvent) int { return cmp.Compare(a.T, b.T) })
	w.hold()
	w.press()
	w.connect()
	for k := range w.states {
		w.look(k)
	}
	if w.Limits.OpenBelow > 0 && math.IsNaN(w.opens) {
		w.find("opening", -1, w.t, 1, fmt.Sprintf("at the end the part has not cooled to %s, at which it may be opened",
			unit.Temperature(w.Limits.OpenBelow, 0)), "Let the last segment wait for the part to cool.")
	}
	slices.SortStableFunc(f.Findings, func(a, b CureFinding) int { return cmp.Compare(a.T, b.T) })
	return *f
}

// windowOf narrows the window for pressure to that of one more section: to nothing by one that never flows.
func (w *walker) windowOf(k int) {
	s, win := &w.states[k], &w.out.Window
	if w.Limits.Thin == 0 || w.Sections[k].Resin.Viscosity == nil {
		return
	}
	from := s.thinned
	if math.IsNaN(from) {
		from = math.Inf(1)
	}
	win.From = math.Max(from, zero(win.From))
	to := s.out.GelBegins
	if math.IsNaN(to) {
		to = w.t
	}
	if math.IsNaN(win.To) || to < win.To {
		win.To = to
	}
}

func zero(v float64) float64 {
	if math.IsNaN(v) {
		return 0
	}
	return v
}

// hold holds the outcome against every limit that was entered, at the worst section.
func (w *walker) hold() {
	l, f := w.Limits, &w.out
	worst := func(what string, kind unit.Kind, limit float64, atLeast bool, of func(Outcome) (found, at float64)) {
		if limit == 0 {
			return
		}
		h := LimitCheck{What: what, Kind: kind, Limit: limit, AtLeast: atLeast, Found: math.NaN(), Section: -1}
		for k, o := range f.Sections {
			found, at := of(o)
			if math.IsNaN(found) {
				continue
			}
			if math.IsNaN(h.Found) || atLeast && found < h.Found || !atLeast && found > h.Found {
				h.Found, h.Section, h.T = found, k, at
			}
		}
		if math.IsNaN(h.Found) {
			return // nothing in the load has it
		}
		h.Met = atLeast && h.Found >= limit || !atLeast && h.Found <= limit
		f.Checks = append(f.Checks, h)
	}
	worst(
		"hottest",
		unit.KindTemperature,
		l.MaxPart,
		false,
		func(o Outcome) (float64, float64) { return o.Hottest, o.HottestAt },
	)
	worst(
		"overshoot",
		unit.KindRise,
		l.MaxOvershoot,
		false,
		func(o Outcome) (float64, float64) { return o.Overshoot, o.HottestAt },
	)
	worst(
		"spread through the thickness",
		unit.KindRise,
		l.MaxSpread,
		false,
		func(o Outcome) (float64, float64) { return o.Spread, o.SpreadAt },
	)
	worst("steepest heating", "rate", l.MaxRamp, false, func(o Outcome) (float64, float64) { return o.Ramp, o.RampAt })
	worst("min. degree of cure", "share", l.MinCure, true, func(o Outcome) (float64, float64) {
		if !o.Cures {
			return math.NaN(), 0 // a blank has none
		}
		return o.Cure, f.Duration
	})
	worst(
		"min. glass transition",
		unit.KindTemperature,
		l.MinGlass,
		true,
		func(o Outcome) (float64, float64) { return o.Glass, f.Duration },
	)
	on := LimitCheck{Kind: unit.KindPressure, Section: -1}
	for _, p := range f.Points {
		// What presses on a core is the pressure and what the bag draws.
		if both := p.Pressure + p.Vacuum; both > on.Found {
			on.Found, on.T = both, p.T
		}
	}
	w.atMost("pressure on the core", l.MaxPressure, on)
	w.atMost("pressure on the core near edges without pads", l.EdgePressure, on)
	w.shut()
	w.apart()
}

// atMost holds what was found against the most that is allowed; 0: nobody asks.
func (w *walker) atMost(what string, limit float64, h LimitCheck) {
	if limit > 0 {
		h.What, h.Limit, h.Met = what, limit, h.Found <= limit
		w.out.Checks = append(w.out.Checks, h)
	}
}

// shutMargin is by how much more than a bladder's opening force holds a mould shut (common practice, no source).
const shutMargin = 0.25

// shut holds the force of a bladder against what closes its mould.
func (w *walker) shut() {
	e := w.Equipment
	if w.Limits.Bladder == 0 {
		return
	}
	press := cure.Press{Force: e.Force, Bolts: e.Bolts, Each: e.Bolt, Margin: shutMargin}
	if err := press.Check(); err != nil {
		w.find(
			Unknown,
			-1,
			0,
			1,
			"the closing force of the mould is not entered: the pressure of its bladder cannot be checked",
			"Enter the closing force or the bolts of "+e.Name+".",
		)
		return
	}
	h := LimitCheck{Kind: "force", Section: -1}
	for _, p := range w.out.Points {
		if force := cure.OpeningForce(p.Pressure, w.Limits.Bladder); force > h.Found {
			h.Found, h.T = force, p.T
		}
	}
	w.atMost("force of the bladder, a quarter less than what holds the mould", press.Shut(), h)
}

// apart holds by how much tool and part differ in length at the end against what is allowed: they part where the last
// of
// a section has gelled.
func (w *walker) apart() {
	l, p := w.Limits, w.out.Points
	worst := LimitCheck{Kind: unit.KindSize, Section: -1, T: w.t}
	for k, o := range w.out.Sections {
		if math.IsNaN(o.Gelled) {
			continue
		}
		at := p[slices.IndexFunc(p, func(p Point) bool { return p.T >= math.Min(o.Gelled, w.t) })].Parts[k]
		cool := w.states[k].now.Middle - at.Middle
		if by := math.Abs(cure.ThermalMismatch(l.ToolGrows, l.PartGrows, l.Length, cool)); worst.Section < 0 ||
			by > worst.Found {
			worst.Found, worst.Section = by, k
		}
	}
	if worst.Section >= 0 {
		w.atMost("difference in length of tool and part once cool", l.MaxApart, worst)
	}
}

// find notes a finding; by is how bad it is, about as a part of a limit.
func (w *walker) find(rule string, section int, t, by float64, says, advice string) {
	w.out.Findings = append(w.out.Findings, CureFinding{rule, section, t, says, advice, math.Min(1, math.Max(0, by))})
}

// press looks at when the pressure goes on, and whether it holds water vapour shut.
func (w *walker) press() {
	f := &w.out
	win := f.Window
	if w.most > 0 && w.Limits.Thin > 0 && w.flows() {
		on := w.pressed
		switch {
		case math.IsNaN(win.From) || win.From >= win.To:
			w.find(
				"pressure",
				-1,
				0,
				1,
				fmt.Sprintf("nowhere is all of the part thinner than %g Pa s before it begins to gel: there is no "+
					"window for the pressure", w.Limits.Thin),
				"Heat more slowly, or dwell below, so that all of it flows before the hottest place gels.",
			)
		case math.IsNaN(on) || on > win.To:
			late := 1.0
			if !math.IsNaN(on) {
				late = (on - win.To) / 3600
			}
			w.find(
				"pressure",
				-1,
				win.To,
				late,
				fmt.Sprintf("the pressure is not on when the part begins to gel after %s", clock(win.To)),
				fmt.Sprintf("Put it on from %s on: a segment that waits for the viscosity does.", clock(win.From)),
			)
		case on < win.From-60:
			w.find(
				"pressure",
				-1,
				on,
				(win.From-on)/3600,
				fmt.Sprintf("the pressure is on after %s, and all of the part is thinner than %g Pa s only after %s",
					clock(on), w.Limits.Thin, clock(win.From)),
				"Let the segment wait for the viscosity before it.",
			)
		}
	}
	if w.Limits.Humidity > 0 {
		w.vapour()
	}
}

// flows says whether the viscosity of all that cures is known, and notes of what it is not.
func (w *walker) flows() bool {
	known := true
	for k, s := range w.Sections {
		if s.cures() && s.Resin.Viscosity == nil {
			known = false
			w.find(
				Unknown,
				k,
				0,
				1,
				"the viscosity of the resin of "+s.Name+" is not entered: flow under pressure cannot be checked",
				"Enter it with the resin.",
			)
		}
	}
	return known
}

// connect looks whether there are sensors and vacuum lines for all of the load: a leading and a lagging sensor for each
// section, and a line for each part (common practice, no source).
func (w *walker) connect() {
	e := w.Equipment
	if want := 2 * len(w.Sections); e.Sensors > 0 && want > e.Sensors {
		w.find(
			"sensors",
			-1,
			0,
			0,
			fmt.Sprintf("a leading and a lagging sensor in each of %d places are %d, and %s reads %d", len(w.Sections),
				want, e.Name, e.Sensors),
			"Choose which places lead and lag, or load fewer parts.",
		)
	}
	parts, of := 0, map[string]bool{}
	for _, s := range w.Sections {
		if !of[s.Part] {
			of[s.Part], parts = true, parts+max(1, s.Count)
		}
	}
	drawn := slices.ContainsFunc(w.Recipe.Segments, func(s cure.Segment) bool { return s.Vacuum > 0 })
	if drawn && e.Ports > 0 && parts > e.Ports {
		w.find(
			"ports",
			-1,
			0,
			0,
			fmt.Sprintf("%d parts under vacuum need a line each, and %s has %d", parts, e.Name, e.Ports),
			"Load fewer parts, or put several under one bag.",
		)
	}
}

// vapour looks for the time in which water vapour is not held shut, where the resin can still give way.
func (w *walker) vapour() {
	from, to := math.NaN(), math.NaN()
	most, resin := 0.0, 0.0
	for _, p := range w.out.Points {
		steam := 0.0
		for k, o := range w.out.Sections {
			if o.Cures && !(p.T > o.Gelled) {
				steam = math.Max(steam, cure.WaterVapour(p.Parts[k].Lead, w.Limits.Humidity))
			}
		}
		if steam <= p.Resin {
			continue
		}
		if math.IsNaN(from) {
			from = p.T
		}
		if to = p.T; steam-p.Resin > most-resin {
			most, resin = steam, p.Resin
		}
	}
	if !math.IsNaN(from) {
		w.find(
			"water",
			-1,
			from,
			(most-resin)/1e5,
			fmt.Sprintf("from %s to %s water that was taken up at %.0f %% has a vapour pressure of up to %s, and the "+
				"resin %s at the most: voids may grow", clock(from), clock(to), w.Limits.Humidity*100,
				unit.Pressure(most, 0),
				unit.Pressure(resin, 0)),
			"Put pressure on before, dry the kit, or gel it colder.",
		)
	}
}

// look says what is to be looked at in a section.
func (w *walker) look(k int) {
	s, l := &w.states[k], w.Limits
	o := s.out
	if !w.Sections[k].cures() {
		return
	}
	if l.MaxOvershoot > 0 && o.Overshoot > l.MaxOvershoot || l.MaxPart > 0 && o.Hottest > l.MaxPart {
		w.find("overshoot", k, o.HottestAt, 0, fmt.Sprintf(
			"%s comes to %s after %s, %s above the set point",
			o.Name,
			unit.Temperature(
				o.Hottest,
				0,
			),
			clock(o.HottestAt),
			unit.TemperatureDifference(math.Max(0, o.Overshoot), 0),
		),
			"A dwell lower down lets it give off part of its heat before; so does a slower ramp.")
	}
	if l.MaxSpread > 0 && o.Spread > l.MaxSpread {
		w.find(
			"spread",
			k,
			o.SpreadAt,
			0,
			fmt.Sprintf("%s: %s between its hottest and its coldest place after %s", o.Name,
				unit.TemperatureDifference(o.Spread, 0), clock(o.SpreadAt)),
			"Ramp more slowly, or dwell before.",
		)
	}
	if l.MaxRamp > 0 && o.Ramp > l.MaxRamp {
		w.find(
			"ramp",
			k,
			o.RampAt,
			0,
			fmt.Sprintf(
				"%s heats by %s a minute after %s",
				o.Name,
				unit.TemperatureDifference(o.Ramp*60, 1),
				clock(o.RampAt),
			),
			"Ramp more slowly.",
		)
	}
	w.lookAtResin(k)
}

// lookAtResin says what of a section's resin is not as it is asked for at the end.
func (w *walker) lookAtResin(k int) {
	s, l := &w.states[k], w.Limits
	o := s.out
	if l.MinCure > 0 && o.Cure < l.MinCure {
		w.find(
			"cure",
			k,
			w.t,
			0,
			fmt.Sprintf("%s is cured to %.1f %% where it is so least", o.Name, o.Cure*100),
			"Hold longer or hotter.",
		)
	}
	if (l.MinGlass > 0 || l.Free) && w.Sections[k].Resin.Glass == nil {
		w.find(
			Unknown,
			k,
			w.t,
			1,
			"how the glass transition of the resin of "+o.Name+" rises is not known: what is asked of it cannot "+
				"be held",
			"Enter it with the resin.",
		)
	}
	if l.MinGlass > 0 && o.Glass < l.MinGlass {
		w.find(
			"glass",
			k,
			w.t,
			0,
			fmt.Sprintf("%s has a glass transition of %s where it is lowest", o.Name, unit.Temperature(o.Glass, 0)),
			"Hold hotter, or add a post-cure.",
		)
	}
	if l.Free && !math.IsNaN(s.sags) {
		w.find(
			"sag",
			k,
			s.sags,
			-s.least/100,
			fmt.Sprintf("%s stands free and would sag from %s on: its glass transition is up to %s behind its "+
				"temperature, at %s", o.Name, clock(s.sags), unit.TemperatureDifference(-s.least, 0),
				unit.Temperature(s.leastK, 0)),
			"Ramp more slowly, or in steps, so that the cure keeps ahead; or leave it on its tool.",
		)
	}
	if w.Sections[k].Resin.Gelled() > 0 && math.IsNaN(o.Gelled) {
		w.find("gel", k, w.t, 1, o.Name+" has not gelled everywhere at the end", "Hold longer or hotter.")
	}
	if o.Outside != "" {
		w.find("range", k, 0, 0, fmt.Sprintf("%s gets %s: its simulation is a guess there", o.Name, o.Outside),
			"Ask the resin's supplier.")
	}
}
