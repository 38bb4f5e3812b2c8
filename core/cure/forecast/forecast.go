package forecast

import (
	"errors"
	"fmt"
	"math"
	"slices"

	"juxta/core/cure"
	"juxta/core/cure/heat"
	"juxta/core/unit"
)

// Side is how heat comes to a face of a stack.
type Side string

// The sides.
const (
	Air    Side = ""       // the air of the oven or the vessel
	Platen Side = "platen" // a heated platen
	Shut   Side = "shut"   // no heat goes through
)

// Section is one place of a part as a stack of layers from the face below, the tool's usually, to the one above.
type Section struct {
	Name         string
	Layers       []heat.Layer
	Below, Above Side
	Resin        cure.Resin // of the layers that react
	Area         float64    // of all of it in the load, m²; 0: small against the equipment
	Part         string     // of the load that it belongs to; sections that name none are of one part
	Count        int        // of alike parts in the load; 0: one
}

// Equipment is what the cure is done in.
type Equipment struct {
	Name       string  `json:"name" minLength:"1" maxLength:"60"`
	Kind       string  `json:"kind" enum:"oven,autoclave,press"`
	Film       float64 `json:"film" doc:"Heat transfer of its air at no pressure, W/(m² K)" minimum:"0" maximum:"1000"`
	Contact    float64 `json:"contact,omitempty" doc:"Heat transfer of its platens, W/(m² K)" minimum:"0" maximum:"20000"`
	ByPressure bool    `json:"byPressure,omitempty" doc:"The air's grows with the pressure"`
	Lag        float64 `json:"lag,omitempty" doc:"By which it is behind its set point, s" minimum:"0" maximum:"86400"`
	HeatUp     float64 `json:"heatUp,omitempty" doc:"Steepest that it heats, K/s; 0: not said" minimum:"0"`
	CoolDown   float64 `json:"coolDown,omitempty" doc:"And cools, K/s" minimum:"0"`
	Power      float64 `json:"power,omitempty" doc:"W; 0: not said" minimum:"0"`
	Capacity   float64 `json:"capacity,omitempty" doc:"Of its air and walls, J/K" minimum:"0"`
	Hottest    float64 `json:"hottest,omitempty" doc:"K; 0: not said" minimum:"0"`
	Pressure   float64 `json:"pressure,omitempty" doc:"Most that it gives, Pa" minimum:"0"`
	Vacuum     float64 `json:"vacuum,omitempty" doc:"Deepest that it draws, Pa; 0: all of the air" minimum:"0"`
	PressureUp float64 `json:"pressureUp,omitempty" doc:"How fast pressure is put on, Pa/s; 0: 333" minimum:"0"`
	Lead       float64 `json:"lead,omitempty" doc:"By how much the air may lead a part that is controlled by its sensor, K; 0: 15" minimum:"0"`
	Force      float64 `json:"force,omitempty" doc:"With which it closes a mould, N" minimum:"0" maximum:"1000000000"`
	Bolts      int     `json:"bolts,omitempty" doc:"That hold a mould shut besides" minimum:"0" maximum:"1000"`
	Bolt       float64 `json:"bolt,omitempty" doc:"What one of them may bear, N" minimum:"0"`
	Sensors    int     `json:"sensors,omitempty" doc:"Part sensors that it reads" minimum:"0" maximum:"200"`
	Ports      int     `json:"ports,omitempty" doc:"Vacuum ports" minimum:"0" maximum:"200"`
	// Of the place where it stands: Atmosphere in Pa, 0 is 101,325; Temperature of the room in K, 0 is 293.15.
	Atmosphere  float64 `json:"-"`
	Temperature float64 `json:"-"`
}

// Where nobody entered others (common practice, no source).
const (
	UsualPressureUp = 2e4 / 60.0 // 0.2 bar a minute
	UsualLead       = 15.0
)

// Job is a cure to be simulated.
type Job struct {
	Recipe    cure.Recipe
	Equipment Equipment
	Sections  []Section
	Limits    CureLimits
	Mishaps   []Disturbance
	Accuracy  heat.Accuracy
	Every     float64 // time between the points that are told, s; 0: about 300 of them
	Longest   float64 // s; 0: three days
}

// Check says what of a job cannot be.
func (j Job) Check() error {
	if err := j.Recipe.Check(); err != nil {
		return err
	}
	e := j.Equipment
	for _, x := range []float64{e.Film, e.Contact, e.Lag, e.HeatUp, e.CoolDown, e.Power, e.Capacity, e.Hottest,
		e.Pressure, e.Vacuum, e.Force, e.Bolt} {
		if math.IsNaN(x) || math.IsInf(x, 0) || x < 0 {
			return errors.New("the figures of the equipment must be numbers, and not below zero")
		}
	}
	if len(j.Sections) == 0 {
		return errors.New("the oven is empty: a section of a part is needed")
	}
	for _, s := range j.Sections {
		if err := s.check(e); err != nil {
			return fmt.Errorf("%s: %w", s.Name, err)
		}
	}
	for i, s := range j.Recipe.Segments {
		switch {
		case e.Hottest > 0 && s.Target > e.Hottest:
			return fmt.Errorf("segment %d: %s goes up to %s only", i+1, e.Name, unit.Temperature(e.Hottest, 0))
		case s.Pressure > e.Pressure:
			return fmt.Errorf(
				"segment %d: %s is more than %s gives, which is %s",
				i+1,
				unit.Pressure(s.Pressure, 0),
				e.Name,
				unit.Pressure(e.Pressure, 0),
			)
		case s.Vacuum > 0 && s.Vacuum > e.vacuum():
			return fmt.Errorf(
				"segment %d: %s of vacuum is more than %s draws, which is %s",
				i+1,
				unit.Vacuum(s.Vacuum, 0),
				e.Name,
				unit.Vacuum(e.vacuum(), 0),
			)
		}
		for _, x := range j.Sections {
			if s.WaitsFlow() && x.cures() && x.Resin.Viscosity == nil {
				return fmt.Errorf(
					"segment %d waits for a viscosity, and that of the resin of %s is not known",
					i+1,
					x.Name,
				)
			}
		}
	}
	return nil
}

func (s Section) check(e Equipment) error {
	// Layers are checked where they are made into a column.
	for _, side := range []Side{s.Below, s.Above} {
		switch {
		case side == Air && e.Film <= 0:
			return errors.New("enter the heat transfer coefficient of the air")
		case side == Platen && e.Contact <= 0:
			return errors.New("enter the heat transfer coefficient of the platens")
		case side != Air && side != Platen && side != Shut:
			return fmt.Errorf("heat comes to a face from the air or a platen, or it is shut: not %q", side)
		}
	}
	if s.Below == Shut && s.Above == Shut {
		return errors.New("neither face is heated")
	}
	if s.Area < 0 || math.IsNaN(s.Area) {
		return errors.New("its area must not be below zero")
	}
	if s.cures() {
		return s.Resin.Check()
	}
	return nil
}

func (s Section) cures() bool {
	for _, l := range s.Layers {
		if l.Reaction != nil {
			return true
		}
	}
	return false
}

func (e Equipment) atmosphere() float64 {
	if e.Atmosphere > 0 {
		return e.Atmosphere
	}
	return 101_325
}

func (e Equipment) room() float64 {
	if e.Temperature > 0 {
		return e.Temperature
	}
	return 293.15
}

func (e Equipment) vacuum() float64 {
	if e.Vacuum > 0 {
		return e.Vacuum
	}
	return e.atmosphere()
}

// passes is the heat transfer to a side at a pressure, W/(m² K). That of turbulent air grows with its density to the
// power of 0.8 (Johnston, An integrated model of the development of process-induced deformation in autoclave
// processing of composite structures, thesis, University of British Columbia 1997; the exponent is that of turbulent
// convection on a plate, Incropera & DeWitt).
func (e Equipment) passes(s Side, pressure float64) float64 {
	switch s {
	case Shut:
		return 0
	case Platen:
		return e.Contact
	}
	if e.ByPressure {
		return e.Film * math.Pow(1+pressure/e.atmosphere(), 0.8)
	}
	return e.Film
}

// Part is what a section is like at one moment.
type Part struct {
	Lead, Lag, Middle float64 // hottest, coldest and middle of what cures, K
	Tool              float64 // of the face of the tool that the part lies on, K
	Least, Most       float64 // degree of cure
	Thin, Thick       float64 // viscosity where it is least and most, Pa s; NaN: not known
	Glass             float64 // least glass transition, K; NaN: not known
	Ahead             float64 // by how much the glass transition is above the temperature where it is so least, K
	At                float64 // where it is hottest, as a share of the thickness from below
}

// Point is a moment of a forecast.
type Point struct {
	T                float64 // s
	SetPoint, Air    float64 // K
	Pressure, Vacuum float64 // above the air outside and under the bag, Pa
	Segment          int
	Waiting          bool
	Parts            []Part  // a section each
	Resin            float64 // most pressure of the resin, Pa absolute
	Vapour           float64 // of the water taken up, where it is hottest, Pa absolute
	Asks             float64 // pressure above the air outside that holds this vapour shut, Pa
}

// CureEvent is something that happens at a time, in a section or in all.
type CureEvent struct {
	T       float64 `json:"t" doc:"s"`
	Kind    string  `json:"kind"`
	Section int     `json:"section" doc:"From 0; -1: all"`
	Value   float64 `json:"value" doc:"Its temperature in K, pressure in Pa, viscosity in Pa s or segment"`
}

// The kinds of event.
const (
	Gels      = "gel begins"
	Gelled    = "gelled"
	Thinnest  = "thinnest"
	Hottest   = "hottest"
	Dwells    = "dwell begins"
	MayOpen   = "may be opened"
	PressedOn = "pressure on"
	Vented    = "bag vented"
)

// Forecast is what a job comes to.
type Forecast struct {
	Points   []Point
	Events   []CureEvent
	Sections []Outcome
	Findings []CureFinding
	Checks   []LimitCheck
	Window   Window
	Duration float64 // s
	Energy   float64 // put into equipment and parts, J
	Steps    int
}

// Outcome is what a section has felt.
type Outcome struct {
	Name      string
	Hottest   float64 // K
	HottestAt float64 // s
	Overshoot float64 // above the highest set point so far, K
	Spread    float64 // most between hottest and coldest, K
	SpreadAt  float64
	Ramp      float64 // steepest over 5 min, K/s
	RampAt    float64
	Cures     bool    // something in it does
	Cure      float64 // least at the end
	Glass     float64 // least at the end, K; NaN: not known
	GelBegins float64 // s; NaN: never
	Gelled    float64 // s; NaN: never
	Outside   string  // why the law was used outside its range
	Through   Picture
}

// Picture is the temperature through what cures over time: a row a time.
type Picture struct {
	T      []float64   // s
	Shares []float64   // of the thickness from below
	K      [][]float64 // temperatures, a row a time
}

// Window is when pressure may go on: from where the resin is thin enough to flow until it begins to gel.
type Window struct {
	From, To float64 // s; NaN: there is none
}

// Unknown is the rule of a finding that a limit cannot be held, for the resin's figures are not known.
const Unknown = "unknown"

// CureFinding is something to be looked at, with what would change it.
type CureFinding struct {
	Rule    string  `json:"rule"`
	Section int     `json:"section"`
	T       float64 `json:"t"`
	Message string  `json:"message"`
	Advice  string  `json:"advice"`
	By      float64 `json:"-"` // how bad it is, about as a part of a limit
}

// UnmarshalJSON reads findings that were kept before their sentence was called a message, too.
func (f *CureFinding) UnmarshalJSON(raw []byte) error {
	type plain CureFinding
	return unit.WithOldMessage(raw, (*plain)(f), &f.Message)
}

// LimitCheck is one limit and what was found.
type LimitCheck struct {
	What         string
	Kind         unit.Kind
	Limit, Found float64
	AtLeast, Met bool
	Section      int // where it was found; -1: all
	T            float64
}

// Met says whether every limit is met.
func (f Forecast) Met() bool {
	for _, h := range f.Checks {
		if !h.Met {
			return false
		}
	}
	// A limit that cannot be held against anything is not met.
	return !slices.ContainsFunc(f.Findings, func(x CureFinding) bool { return x.Rule == Unknown })
}
