package forecast

import (
	"math"

	"juxta/core/cure"
)

// Where nobody entered the equipment's own figures (common practice, no source).
var (
	UsualOven      = Equipment{Name: "a usual oven", Film: 20, Lag: 300}
	UsualAutoclave = Equipment{Name: "a usual autoclave", Film: 25, ByPressure: true, Lag: 240, Pressure: 2e6}
	UsualPress     = Equipment{Name: "a usual press", Film: 8, Contact: 800, Lag: 90, Pressure: 5e6}
)

// PlanStep is how often a plan is told, s.
const PlanStep = 60.0

// Planned is one point of a plan: the set point with the band of the air, and the part as it is expected, in K.
type Planned struct{ T, SetPoint, Low, High, Lag, Lead float64 }

// Plan is a forecast as the plan of a run, with the air's tolerance about its set point in K.
func (f Forecast) Plan(tolerance float64) []Planned {
	out := make([]Planned, len(f.Points))
	for i, x := range f.Log() {
		out[i] = Planned{x.T, x.SetPoint, x.SetPoint - tolerance, x.SetPoint + tolerance, x.Lag, x.Lead}
	}
	return out
}

// Log is a forecast as the log that a run leaves which goes as simulated: its sensors are where the load leads and lags.
func (f Forecast) Log() []cure.Sample {
	out := make([]cure.Sample, len(f.Points))
	for i, p := range f.Points {
		x := cure.Sample{T: p.T, SetPoint: p.SetPoint, Air: p.Air, Lead: math.Inf(-1), Lag: math.Inf(1), Vacuum: p.Vacuum, Pressure: p.Pressure}
		for _, part := range p.Parts {
			x.Lead = math.Max(x.Lead, part.Lead)
			if part.Lag < x.Lag {
				x.Lag, x.Tool = part.Lag, part.Tool
			}
		}
		out[i] = x
	}
	return out
}
