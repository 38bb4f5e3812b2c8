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

// PlanPoint is one point of a plan: the set point with the band of the air, and the part as it is expected, in K.
type PlanPoint struct {
	T        float64 `json:"t" doc:"s"`
	SetPoint float64 `json:"setPoint"`
	Low      float64 `json:"low" doc:"Of the air's band"`
	High     float64 `json:"high"`
	Part     float64 `json:"part" doc:"Coldest place of what cures, as simulated"`
	Lead     float64 `json:"lead,omitempty" doc:"And the hottest; missing: recorded before cures were simulated"`
}

// Plan is a forecast as the plan of a run, with the air's tolerance about its set point in K.
func (f Forecast) Plan(tolerance float64) []PlanPoint {
	out := make([]PlanPoint, len(f.Points))
	for i, x := range f.Log() {
		out[i] = PlanPoint{x.T, x.SetPoint, x.SetPoint - tolerance, x.SetPoint + tolerance, x.Lag, x.Lead}
	}
	return out
}

// Log is a forecast as the log that a run leaves which goes as simulated: its sensors are where the load leads and
// lags.
func (f Forecast) Log() []cure.Sample {
	out := make([]cure.Sample, len(f.Points))
	for i, p := range f.Points {
		x := cure.Sample{
			T:        p.T,
			SetPoint: p.SetPoint,
			Air:      p.Air,
			Lead:     math.Inf(-1),
			Lag:      math.Inf(1),
			Vacuum:   p.Vacuum,
			Pressure: p.Pressure,
		}
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
