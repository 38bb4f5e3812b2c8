package sim

import (
	"math"
	"math/rand/v2"
)

// Oven is the heat of an oven with a tool and a part in it: air driven by a
// heater, a tool heated by the air, and a part heated by both whose edge leads
// and whose middle lags. Lumped, first order, in kelvin and seconds. The
// numbers are invented for the demo shop.
type Oven struct {
	Air, Tool, Lead, Lag float64
	Vacuum, Pressure     float64
	room                 float64
	rng                  *rand.Rand
}

// Time constants in s and the heater's fastest ramps in K/s.
const (
	toolTau    = 720.0
	leadTau    = 420.0
	lagTau     = 660.0
	partToTool = 900.0
	heating    = 5.0 / 60
	cooling    = 4.0 / 60
	pressing   = 2000.0 // Pa/s
)

// NewOven is a cold oven at room temperature with its bag drawn down. The same
// seed gives the same noise.
func NewOven(room float64, seed uint64) *Oven {
	return &Oven{
		Air:    room,
		Tool:   room,
		Lead:   room,
		Lag:    room,
		Vacuum: 91e3,
		room:   room,
		rng:    rand.New(rand.NewPCG(seed, 7)),
	}
}

// Step moves the oven on by dt seconds towards the set point; a heater that is
// off lets it cool to the room.
func (o *Oven) Step(setPoint float64, on bool, dt float64) {
	for dt > 0 {
		h := math.Min(dt, 5)
		dt -= h
		want := o.room
		if on {
			want = setPoint
		}
		move := (want - o.Air) * (1 - math.Exp(-h/40))
		o.Air += math.Max(-cooling*h, math.Min(heating*h, move))
		o.Tool += (o.Air - o.Tool) * h / toolTau
		o.Lead += (o.Air-o.Lead)*h/leadTau + (o.Tool-o.Lead)*h/partToTool
		o.Lag += (o.Air-o.Lag)*h/lagTau + (o.Tool-o.Lag)*h/partToTool
	}
}

// Press moves pressure and vacuum on by dt seconds towards what they are told, Pa.
func (o *Oven) Press(pressure, vacuum, dt float64) {
	towards := func(v *float64, to float64) {
		*v += math.Max(-pressing*dt, math.Min(pressing*dt, to-*v))
	}
	towards(&o.Pressure, pressure)
	towards(&o.Vacuum, vacuum)
}

// Noisy is a sensor's reading of a true temperature: within about ±0.3 K.
func (o *Oven) Noisy(temperature float64) float64 { return temperature + 0.15*o.rng.NormFloat64() }

// NoisyVacuum is the gauge's reading in Pa.
func (o *Oven) NoisyVacuum() float64 { return o.Vacuum + 80*o.rng.NormFloat64() }
