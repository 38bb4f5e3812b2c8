package calc

import (
	"context"
	"math"

	"juxta/core/cure"
	"juxta/core/cure/forecast"
	"juxta/core/cure/heat"
)

// CureLayer is a layer of a stack. Properties are those at 20 °C and change in a straight line with the temperature.
type CureLayer struct {
	Name            string  `json:"name" minLength:"1" maxLength:"60"`
	Thickness       float64 `json:"thickness" doc:"m" exclusiveMinimum:"0"`
	Density         float64 `json:"density" doc:"kg/m³" exclusiveMinimum:"0"`
	Specific        float64 `json:"specific" doc:"Heat, J/(kg K)" exclusiveMinimum:"0"`
	Conductivity    float64 `json:"conductivity" doc:"Through the thickness, W/(m K)" exclusiveMinimum:"0"`
	SpecificByT     float64 `json:"specificByT,omitempty" doc:"Its relative change, 1/K"`
	ConductivityByT float64 `json:"conductivityByT,omitempty" doc:"Its relative change, 1/K"`
	Contact         float64 `json:"contact,omitempty" doc:"Resistance to heat on its lower side, m² K/W" minimum:"0"`
	Ribs            float64 `json:"ribs,omitempty" doc:"Mass that ribs add, as a part of its own" minimum:"0" maximum:"20"`
	Resin           float64 `json:"resin,omitempty" doc:"Share of its mass that is resin and cures; 0: it does not" minimum:"0" maximum:"1"`
}

// CureSection is one place of a part: layers from the face below to the one above.
type CureSection struct {
	Name   string      `json:"name" minLength:"1" maxLength:"60"`
	Layers []CureLayer `json:"layers" minItems:"1" maxItems:"24"`
	Below  string      `json:"below,omitempty" enum:",platen,shut" doc:"How heat comes to it; empty: from the air"`
	Above  string      `json:"above,omitempty" enum:",platen,shut"`
	Area   float64     `json:"area,omitempty" doc:"Of all of it in the load, m²" minimum:"0"`
	Resin  *cure.Resin `json:"resin,omitempty" doc:"Of this section; missing: the resin of all"`
	Part   string      `json:"part,omitempty" doc:"Of a load that it belongs to; sections that name none are of one part" maxLength:"80"`
	Count  int         `json:"count,omitempty" doc:"Of alike parts in the load; 0: one" minimum:"0" maximum:"1000"`
}

// CureIn is a cure to be simulated.
type CureIn struct {
	Recipe     cure.Recipe            `json:"recipe"`
	Equipment  forecast.Equipment     `json:"equipment"`
	Resin      cure.Resin             `json:"resin"`
	Sections   []CureSection          `json:"sections" minItems:"1" maxItems:"12"`
	Limits     forecast.CureLimits    `json:"limits"`
	Mishaps    []forecast.Disturbance `json:"mishaps,omitempty" maxItems:"6"`
	Atmosphere float64                `json:"atmosphere,omitempty" doc:"Of the place, Pa; 0: 101,325" minimum:"0"`
	Room       float64                `json:"room,omitempty" doc:"K; 0: 293.15" minimum:"0"`
	Every      float64                `json:"every,omitempty" doc:"Time between points, s; 0: some 300 points" minimum:"0"`
}

// FromLayer is a layer of the core that does not cure.
func FromLayer(l heat.Layer) CureLayer {
	return CureLayer{
		Name: l.Name, Thickness: l.Thickness, Density: l.Density, Specific: l.Specific, Conductivity: l.Conductivity,
		SpecificByT: l.SpecificByT, ConductivityByT: l.ConductivityByT, Contact: l.Contact,
	}
}

func (l CureLayer) core(r cure.Resin) heat.Layer {
	out := heat.Layer{
		Name: l.Name, Thickness: l.Thickness, Density: l.Density, Specific: l.Specific, Conductivity: l.Conductivity,
		SpecificByT: l.SpecificByT, ConductivityByT: l.ConductivityByT, Contact: l.Contact,
	}
	if l.Resin > 0 {
		out.Reaction = &heat.Reaction{Law: r.Kinetics, Alpha0: r.Alpha0, Heat: l.Density * l.Resin * r.Heat}
	}
	return heat.Ribbed(out, l.Ribs)
}

// Job is the cure as the core's value.
func (in CureIn) Job() forecast.Job {
	j := forecast.Job{
		Recipe: in.Recipe, Equipment: in.Equipment, Limits: in.Limits, Every: in.Every,
	}
	j.Equipment.Atmosphere, j.Equipment.Temperature = in.Atmosphere, in.Room
	for _, s := range in.Sections {
		r := in.Resin
		if s.Resin != nil {
			r = *s.Resin
		}
		one := forecast.Section{
			Name: s.Name, Below: forecast.Side(s.Below), Above: forecast.Side(s.Above), Resin: r, Area: s.Area,
			Part: s.Part, Count: s.Count,
		}
		for _, l := range s.Layers {
			one.Layers = append(one.Layers, l.core(r))
		}
		j.Sections = append(j.Sections, one)
	}
	j.Mishaps = append(j.Mishaps, in.Mishaps...)
	return j
}

// CurePart is what a section is like at one moment.
type CurePart struct {
	Lead   float64  `json:"lead" doc:"Hottest of what cures, K"`
	Lag    float64  `json:"lag" doc:"Coldest, K"`
	Middle float64  `json:"middle" doc:"K"`
	Tool   float64  `json:"tool" doc:"Face of the tool under the part, K"`
	Least  float64  `json:"least" doc:"Degree of cure"`
	Most   float64  `json:"most"`
	Thin   *float64 `json:"thin,omitempty" doc:"Least viscosity, Pa s; missing: not known, or gelled"`
	Thick  *float64 `json:"thick,omitempty" doc:"Most viscosity, Pa s"`
	Glass  *float64 `json:"glass,omitempty" doc:"Least glass transition, K"`
	Ahead  *float64 `json:"ahead,omitempty" doc:"By how much the glass transition is above the temperature, where it is so least, K"`
}

// ForecastPoint is a moment of a forecast.
type ForecastPoint struct {
	T        float64    `json:"t" doc:"s"`
	SetPoint float64    `json:"setPoint" doc:"K"`
	Air      float64    `json:"air" doc:"K"`
	Pressure float64    `json:"pressure" doc:"Above the air outside, Pa"`
	Vacuum   float64    `json:"vacuum" doc:"Under the bag, Pa"`
	Resin    float64    `json:"resin" doc:"Most pressure of the resin, Pa absolute"`
	Vapour   float64    `json:"vapour" doc:"Of the water taken up, Pa absolute"`
	Asks     float64    `json:"asks" doc:"Pressure above the air outside that holds this vapour shut, Pa"`
	Segment  int        `json:"segment" doc:"From 0"`
	Waiting  bool       `json:"waiting"`
	Parts    []CurePart `json:"parts" doc:"A section each"`
}

// CureHeld is one limit and what was found.
type CureHeld struct {
	What    string  `json:"what"`
	Kind    string  `json:"kind" doc:"temperature, rise, pressure, rate (K/s) or share"`
	Limit   float64 `json:"limit"`
	Found   float64 `json:"found"`
	AtLeast bool    `json:"atLeast"`
	Met     bool    `json:"met"`
	Section int     `json:"section"`
	T       float64 `json:"t"`
}

// CureOutcome is what a section has felt.
type CureOutcome struct {
	Name      string      `json:"name"`
	Hottest   float64     `json:"hottest" doc:"K"`
	HottestAt float64     `json:"hottestAt" doc:"s"`
	Overshoot float64     `json:"overshoot" doc:"K"`
	Spread    float64     `json:"spread" doc:"K"`
	SpreadAt  float64     `json:"spreadAt"`
	Ramp      float64     `json:"ramp" doc:"K/s"`
	Cure      float64     `json:"cure" doc:"Least at the end"`
	Glass     *float64    `json:"glass,omitempty" doc:"Least at the end, K"`
	GelBegins *float64    `json:"gelBegins,omitempty" doc:"s"`
	Gelled    *float64    `json:"gelled,omitempty" doc:"s"`
	Shares    []float64   `json:"shares" doc:"Places through the thickness, from below"`
	Times     []float64   `json:"times" doc:"s"`
	Through   [][]float64 `json:"through" doc:"Temperatures there, a row a time, K"`
}

// CureOut is what a cure comes to.
type CureOut struct {
	Points   []ForecastPoint        `json:"points"`
	Events   []forecast.CureEvent   `json:"events"`
	Sections []CureOutcome          `json:"sections"`
	Findings []forecast.CureFinding `json:"findings"`
	Held     []CureHeld             `json:"held"`
	Met      bool                   `json:"met" doc:"Every limit that was entered is met"`
	From     *float64               `json:"from,omitempty" doc:"Pressure may go on from, s"`
	To       *float64               `json:"to,omitempty" doc:"And to"`
	Duration float64                `json:"duration" doc:"s"`
	Energy   float64                `json:"energy" doc:"Put into equipment and parts, J"`
}

// known is a figure, or nothing where it is none.
func known(v float64) *float64 {
	if math.IsNaN(v) || math.IsInf(v, 0) {
		return nil
	}
	return &v
}

// FromForecast is the JSON form of a forecast, with at most so many rows of temperatures through the thickness.
func FromForecast(f forecast.Forecast, rows int) CureOut {
	out := CureOut{
		Points: make(
			[]ForecastPoint,
			len(f.Points),
		), Events: []forecast.CureEvent{}, Findings: []forecast.CureFinding{}, Held: []CureHeld{}, Met: f.Met(),
		From: known(f.Window.From), To: known(f.Window.To), Duration: f.Duration, Energy: f.Energy,
	}
	for i, p := range f.Points {
		one := ForecastPoint{
			T: p.T, SetPoint: p.SetPoint, Air: p.Air, Pressure: p.Pressure, Vacuum: p.Vacuum, Resin: p.Resin,
			Vapour: p.Vapour, Asks: p.Asks,
			Segment: p.Segment, Waiting: p.Waiting,
		}
		for _, x := range p.Parts {
			one.Parts = append(one.Parts, CurePart{
				Lead: x.Lead, Lag: x.Lag, Middle: x.Middle, Tool: x.Tool, Least: x.Least, Most: x.Most,
				Thin:  known(x.Thin),
				Thick: known(x.Thick), Glass: known(x.Glass), Ahead: known(x.Ahead),
			})
		}
		out.Points[i] = one
	}
	out.Events = append(out.Events, f.Events...)
	out.Findings = append(out.Findings, f.Findings...)
	for _, h := range f.Checks {
		if !math.IsNaN(h.Found) {
			out.Held = append(
				out.Held,
				CureHeld{h.What, string(h.Kind), h.Limit, h.Found, h.AtLeast, h.Met, h.Section, h.T},
			)
		}
	}
	for _, o := range f.Sections {
		one := CureOutcome{
			Name: o.Name, Hottest: o.Hottest, HottestAt: o.HottestAt, Overshoot: o.Overshoot, Spread: o.Spread,
			SpreadAt: o.SpreadAt,
			Ramp:     o.Ramp, Cure: o.Cure, Glass: known(o.Glass), GelBegins: known(o.GelBegins),
			Gelled: known(o.Gelled),
			Shares: o.Through.Shares,
		}
		every := max(1, (len(o.Through.T)+rows-1)/max(1, rows))
		for i := 0; i < len(o.Through.T); i += every {
			one.Times, one.Through = append(one.Times, o.Through.T[i]), append(one.Through, o.Through.K[i])
		}
		out.Sections = append(out.Sections, one)
	}
	return out
}

// ExampleCure is the thick segment of 72 plies on steel in an autoclave; all figures are invented.
func ExampleCure() CureIn {
	return CureIn{
		Recipe: cure.Recipe{Name: "two dwells", Start: 293.15, Tolerance: 5, Segments: []cure.Segment{
			{Target: 403.15, Rate: 0.025, Hold: 3600, WaitPart: 398.15, Vacuum: 80e3},
			{Target: 450.15, Rate: 0.0167, Hold: 7200, WaitPart: 445.15, Pressure: 620e3, Vacuum: 80e3, Vent: 100e3},
			{Target: 323.15, Rate: 0.033, WaitCool: 333.15, Pressure: 620e3},
		}},
		Equipment: forecast.Equipment{
			Name: "Autoclave 1", Kind: "autoclave", Film: 25, ByPressure: true, Lag: 180, HeatUp: 0.067,
			CoolDown: 0.067, Hottest: 503.15,
			Pressure: 800e3, Sensors: 12, Ports: 6,
		},
		Resin: cure.Resin{
			Kinetics: cure.Kinetics{
				Terms:     []cure.Term{{A: 1.2e5, E: 66e3, M: 0.8, N: 2.2}},
				Diffusion: cure.Diffusion{C: 30, Alpha0: -1.5, AlphaT: 5.5e-3},
			},
			Viscosity: &cure.Viscosity{Mu: 3.5e-10, U: 76.5e3, Gel: 0.47, A: 3.8, B: 2.5}, Alpha0: 0.02,
			ResinFacts: cure.ResinFacts{
				Glass: &cure.Glass{
					Raw:    268,
					Cured:  483,
					Lambda: 0.78,
				}, Gel: 0.47, Heat: 450e3, Coldest: 293, Hottest: 473,
			},
		},
		Sections: []CureSection{{Name: "segment", Layers: []CureLayer{
			{Name: "steel tool", Thickness: 0.012, Density: 7854, Specific: 434, Conductivity: 60.5},
			{Name: "72 plies", Thickness: 0.0144, Density: 1580, Specific: 950, Conductivity: 0.65, Resin: 0.34},
			{Name: "breather and bag", Thickness: 0.004, Density: 200, Specific: 1300, Conductivity: 0.07},
		}}},
		Limits: forecast.CureLimits{
			MaxOvershoot: 12,
			MaxSpread:    15,
			MinCure:      0.9,
			MinGlass:     453.15,
			Thin:         50,
			Humidity:     0.5,
			OpenBelow:    338.15,
		},
	}
}

var cureCalc = define(
	"cure",
	"what a part feels in a cure: temperatures, cure, viscosity, pressure window",
	ExampleCure(),
	func(ctx context.Context, in CureIn) (CureOut, error) { return in.Simulate(ctx, 60) },
)

// Simulate works a cure out. Bad input is an *[InputError].
func (in CureIn) Simulate(ctx context.Context, rows int) (CureOut, error) {
	f, err := forecast.Simulate(ctx, in.Job())
	if err != nil {
		if ctx.Err() != nil {
			return CureOut{}, ctx.Err()
		}
		return CureOut{}, &InputError{"recipe", err.Error()}
	}
	return FromForecast(f, rows), nil
}

// PressIn is a bladder mould in a press.
type PressIn struct {
	Pressure float64  `json:"pressure" doc:"Of the bladder, Pa" exclusiveMinimum:"0"`
	Area     float64  `json:"area" doc:"Projected, m²" exclusiveMinimum:"0"`
	Force    float64  `json:"force,omitempty" doc:"Of the press, N" minimum:"0"`
	Bolts    int      `json:"bolts,omitempty" minimum:"0" maximum:"1000"`
	Each     float64  `json:"each,omitempty" doc:"What a bolt may bear, N" minimum:"0"`
	Margin   *float64 `json:"margin,omitempty" doc:"More than the opening force that is to be there; missing: 0.25" minimum:"0" maximum:"5"`
}

// PressOut says whether a mould is held shut.
type PressOut struct {
	Opening float64 `json:"opening" doc:"Force that opens it, N"`
	There   float64 `json:"there" doc:"Force that holds it, N"`
	Left    float64 `json:"left" doc:"Beyond what is asked for with the margin, N; below zero: it is not held"`
	Held    bool    `json:"held"`
	Most    float64 `json:"most" doc:"Pressure that it holds with the margin, Pa"`
}

var pressCalc = define("press", "the force with which a bladder opens its mould, against press and bolts", PressIn{
	Pressure: 827371, Area: 0.11, Force: 178e3,
}, func(_ context.Context, in PressIn) (PressOut, error) {
	margin := 0.25
	if in.Margin != nil {
		margin = *in.Margin
	}
	p := cure.Press{Force: in.Force, Bolts: in.Bolts, Each: in.Each, Margin: margin}
	if err := p.Check(); err != nil {
		return PressOut{}, &InputError{"force", err.Error()}
	}
	left := p.ClampingMargin(in.Pressure, in.Area)
	there := left + cure.OpeningForce(in.Pressure, in.Area)*(1+margin)
	return PressOut{
		Opening: cure.OpeningForce(
			in.Pressure,
			in.Area,
		), There: there, Left: left, Held: left >= 0, Most: there / (in.Area * (1 + margin)),
	}, nil
})
