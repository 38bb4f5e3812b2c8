package forecast

import (
	"math"

	"juxta/core/cure"
)

// sight is what is remembered of a section on the way.
type sight struct {
	now     Part
	out     Outcome
	in      float64 // heat that came in so far, J/m²
	trail   []trace // of the last five minutes
	thin    float64 // least viscosity so far
	thinAt  float64
	thinned float64 // since when all of it is thin enough; NaN: not
	sags    float64 // since when its glass is behind; NaN: not
	least   float64 // by which it is ahead at the least
	leastAt float64
	leastK  float64
}

type trace struct{ t, lead, lag float64 }

// over is the time that a ramp is taken over, s.
const over = 300.0

func newSight(s Section) sight {
	nan := math.NaN()
	return sight{
		out:  Outcome{Name: s.Name, GelBegins: nan, Gelled: nan, Glass: nan},
		thin: math.Inf(1), thinAt: nan, thinned: nan, sags: nan, least: math.Inf(1),
	}
}

// see looks at all sections; with deep also at what is costly.
func (w *walker) see(deep bool) {
	w.sensed = cure.PartState{Lag: math.Inf(1), Lead: math.Inf(-1), Cure: 1, Thick: math.Inf(-1), Thin: math.NaN()}
	s := w.Recipe.Segments[min(w.c.Segment, len(w.Recipe.Segments)-1)]
	deep = deep || s.WaitsFlow()
	known := false
	for k := range w.columns {
		p := w.part(k, deep)
		w.states[k].now = p
		w.sensed.Lag, w.sensed.Lead = math.Min(w.sensed.Lag, p.Lag), math.Max(w.sensed.Lead, p.Lead)
		if !w.Sections[k].cures() {
			continue
		}
		w.sensed.Cure = math.Min(w.sensed.Cure, p.Least)
		if deep && w.Sections[k].Resin.Viscosity != nil {
			w.sensed.Thick = math.Max(w.sensed.Thick, p.Thick)
			if !known || p.Thick > w.sensed.Thin {
				w.sensed.Thin = p.Thick
			}
			known = true
		}
	}
	if !known {
		w.sensed.Thick = math.NaN()
	}
	if _, off := w.during(SensorOff, w.t); off {
		w.sensed.Lag = w.air
	}
}

// part is what a section is like now.
func (w *walker) part(k int, deep bool) Part {
	p := Part{
		Lead: math.Inf(
			-1,
		), Lag: math.Inf(1), Least: 1, Thin: math.NaN(), Thick: math.NaN(), Glass: math.NaN(), Ahead: math.NaN(),
	}
	c, layers := w.columns[k], w.curing[k]
	for n, layer := range layers {
		s := c.State(layer)
		p.Lag = math.Min(p.Lag, s.Least)
		if s.Most > p.Lead {
			p.Lead, p.At = s.Most, (float64(n)+s.At)/float64(len(layers))
		}
		p.Least, p.Most = math.Min(p.Least, s.LeastCure), math.Max(p.Most, s.MostCure)
		if n == len(layers)/2 {
			p.Middle = s.Middle
		}
		if n == 0 {
			p.Tool = s.Below
			if layer > 0 {
				p.Tool = c.State(layer - 1).Above
			}
		}
	}
	if !deep || !w.Sections[k].cures() {
		return p
	}
	r := w.Sections[k].Resin
	for _, layer := range layers {
		c.Each(layer, func(_, t, alpha float64) {
			if r.Viscosity != nil {
				v := r.Viscosity.At(t, alpha)
				if !(v >= p.Thin) {
					p.Thin = v
				}
				if !(v <= p.Thick) {
					p.Thick = v
				}
			}
			if r.Glass != nil {
				g := r.Glass.At(alpha)
				if !(g >= p.Glass) {
					p.Glass = g
				}
				if !(g-t >= p.Ahead) {
					p.Ahead = g - t
				}
			}
		})
	}
	return p
}

// note keeps what a step has brought.
func (w *walker) note() {
	s := w.Recipe.Segments[min(w.c.Segment, len(w.Recipe.Segments)-1)]
	if s.Vent > 0 && !w.vented && w.pressure >= s.Vent {
		w.vented = true
		w.event(Vented, -1, w.pressure)
	}
	w.vacuum = s.Vacuum
	if _, lost := w.during(VacuumLost, w.t); lost || w.vented {
		w.vacuum = 0
	}
	if w.Limits.Thin > 0 && w.thinning {
		w.see(true)
	}
	if math.IsNaN(w.pressed) && w.most > 0 && w.pressure >= 0.9*w.most {
		w.pressed = w.t
	}
	w.thinning = false
	lead, hottest := math.Inf(-1), 0.0
	for k := range w.states {
		w.states[k].note(w, k)
		lead, hottest = math.Max(lead, w.states[k].now.Lead), math.Max(hottest, w.states[k].out.Hottest)
	}
	if open := w.Limits.OpenBelow; open > 0 && math.IsNaN(w.opens) && lead <= open && hottest > open &&
		w.c.SetPoint <= open {
		w.opens = w.t
		w.event(MayOpen, -1, lead)
	}
	if w.t >= w.tell-1e-6 {
		w.point()
	}
}

func (s *sight) note(w *walker, k int) {
	p, o, r := s.now, &s.out, w.Sections[k].Resin
	if w.Limits.Thin > 0 && math.IsNaN(s.thinned) {
		if p.Thick <= w.Limits.Thin {
			s.thinned = w.t
		}
		w.thinning = true
	}
	if p.Lead > o.Hottest {
		o.Hottest, o.HottestAt = p.Lead, w.t
	}
	o.Overshoot = math.Max(o.Overshoot, p.Lead-w.highest())
	if d := p.Lead - p.Lag; d > o.Spread {
		o.Spread, o.SpreadAt = d, w.t
	}
	s.trail = append(s.trail, trace{w.t, p.Lead, p.Lag})
	for len(s.trail) > 2 && s.trail[1].t <= w.t-over {
		s.trail = s.trail[1:]
	}
	if first := s.trail[0]; w.t-first.t >= over {
		for _, ramp := range []float64{(p.Lead - first.lead) / (w.t - first.t), (p.Lag - first.lag) / (w.t - first.t)} {
			if ramp > o.Ramp {
				o.Ramp, o.RampAt = ramp, w.t
			}
		}
	}
	if o.Outside == "" && w.Sections[k].cures() && p.Least < 0.99 {
		hot, cold := r.Outside(p.Lead), ""
		if p.Lag > w.Equipment.room()+15 {
			cold = r.Outside(p.Lag)
		}
		if o.Outside = hot; hot == "" {
			o.Outside = cold
		}
	}
	gel := r.Gelled()
	if gel > 0 && math.IsNaN(o.GelBegins) && p.Most >= gel {
		o.GelBegins = w.t
		w.event(Gels, k, p.Lead)
	}
	if gel > 0 && math.IsNaN(o.Gelled) && p.Least >= gel {
		o.Gelled = w.t
		w.event(Gelled, k, p.Lag)
	}
}

// highest is the highest set point that the recipe has come to.
func (w *walker) highest() float64 {
	w.summit = math.Max(w.summit, w.c.SetPoint)
	return w.summit
}

// point tells of the moment, and looks at what is costly.
func (w *walker) point() {
	w.tell = w.t + w.Every
	w.see(true)
	p := Point{
		T: w.t, SetPoint: w.c.SetPoint, Air: w.air, Pressure: w.pressure, Vacuum: w.vacuum, Segment: w.c.Segment,
		Waiting: w.c.Waiting,
	}
	// The resin carries what is pressed on the laminate: the air outside, the pressure, less nothing of the fibre's.
	p.Resin = w.Equipment.atmosphere() + w.pressure
	for k := range w.states {
		s := &w.states[k]
		p.Parts = append(p.Parts, s.now)
		p.Vapour = math.Max(p.Vapour, cure.WaterVapour(s.now.Lead, w.Limits.Humidity))
		if s.now.Thin < s.thin {
			s.thin, s.thinAt = s.now.Thin, w.t
		}
		if s.now.Ahead < s.least {
			s.least, s.leastAt, s.leastK = s.now.Ahead, w.t, s.now.Lead
		}
		if s.now.Ahead < 0 && math.IsNaN(s.sags) {
			s.sags = w.t
		}
		s.picture(w, k)
	}
	p.Asks = math.Max(0, p.Vapour-w.Equipment.atmosphere())
	w.out.Points = append(w.out.Points, p)
}

// picture adds a row of temperatures through what cures.
func (s *sight) picture(w *walker, k int) {
	pic := &s.out.Through
	var row []float64
	first := len(pic.T) == 0
	layers := w.curing[k]
	for n, layer := range layers {
		w.columns[k].Each(layer, func(share, t, _ float64) {
			row = append(row, t)
			if first {
				pic.Shares = append(pic.Shares, (float64(n)+share)/float64(len(layers)))
			}
		})
	}
	pic.T, pic.K = append(pic.T, w.t), append(pic.K, row)
}

func (w *walker) event(kind string, section int, value float64) {
	w.out.Events = append(w.out.Events, CureEvent{w.t, kind, section, value})
}
