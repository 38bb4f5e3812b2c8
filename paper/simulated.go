package paper

import (
	"fmt"
	"time"

	"juxta/core/cure/forecast"
	"juxta/core/material"
	"juxta/core/unit"
	"juxta/format/pdf"
	"juxta/shop/parts"
)

func asTime(s float64) time.Duration { return time.Duration(s * float64(time.Second)) }

// bandOf is the band of the air of a plan, over hours.
func bandOf(plan []forecast.PlanPoint, degrees func(float64) float64) pdf.Band {
	band := pdf.Band{Name: "the band of the air as planned"}
	for _, p := range plan {
		band.X, band.Low, band.Up = append(
			band.X,
			p.T/3600,
		), append(
			band.Low,
			degrees(p.Low),
		), append(
			band.Up,
			degrees(p.High),
		)
	}
	return band
}

// simulated are the cures of a revision as they are expected, a section each.
func simulated(cures []parts.SimulatedCure, units unit.System) (out []pdf.Section) {
	degrees := func(k float64) float64 { return units.Value(unit.KindTemperature, k) }
	for _, c := range cures {
		s := pdf.Section{Heading: c.Label + " as simulated"}
		if c.Why != "" {
			s.Notes = []string{"It cannot be simulated: " + c.Why + "."}
			out = append(out, s)
			continue
		}
		s.Notes = []string{
			fmt.Sprintf("In %s, %s from cold to open. Simulated from the figures entered; a run is judged by its "+
				"sensors.",
				c.Equipment, material.Hours(asTime(c.Duration))),
		}
		for _, x := range c.Findings {
			s.Notes = append(s.Notes, "To check: "+x.Message+". "+x.Advice)
		}
		for _, n := range c.Notes {
			s.Notes = append(s.Notes, "Assumed: "+n+".")
		}
		lag, lead := pdf.Curve{Name: "part, coldest"}, pdf.Curve{Name: "part, hottest", Dash: []float64{1, 0.5}}
		for _, p := range c.Plan {
			lag.X, lag.Y = append(lag.X, p.T/3600), append(lag.Y, degrees(p.Part))
			lead.X, lead.Y = append(lead.X, p.T/3600), append(lead.Y, degrees(p.Lead))
		}
		band := bandOf(c.Plan, degrees)
		s.Charts = []pdf.Chart{
			{X: "h", Y: units.Unit(unit.KindTemperature), Band: &band, Lines: []pdf.Curve{lead, lag}},
		}
		s.Columns = []pdf.Column{
			{
				Name:  "Place",
				Share: .34,
			}, {Name: "Thick", Share: .12, Right: true}, {Name: "Hottest", Share: .14, Right: true},
			{
				Name:  "Gelled after",
				Share: .16,
				Right: true,
			}, {Name: "Cured", Share: .12, Right: true}, {Name: "Tg", Share: .12, Right: true},
		}
		for _, p := range c.Places {
			gelled, glass := "–", "–"
			if p.Gelled != nil {
				gelled = material.Hours(asTime(*p.Gelled))
			}
			if p.Glass != nil {
				glass = unit.Temperature(*p.Glass, 0).String()
			}
			s.Rows = append(s.Rows, []string{
				p.Name, unit.Size(p.Thickness, 1).String(), unit.Temperature(p.Hottest, 0).String(), gelled,
				fmt.Sprintf("%.1f %%", p.Cure*100), glass,
			})
		}
		out = append(out, s)
	}
	return out
}
