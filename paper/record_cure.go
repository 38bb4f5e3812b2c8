package paper

import (
	"fmt"
	"math"

	"juxta/core/material"
	"juxta/core/unit"
	"juxta/format/pdf"
	"juxta/shop"
	"juxta/shop/curing"
)

func cureSection(run *curing.RunView, units unit.System) pdf.Section {
	s := pdf.Section{Heading: "Cure"}
	if run == nil {
		s.Notes = []string{"No cure run yet."}
		return s
	}
	s.Heading = "Cure run " + run.Code
	s.Columns = []pdf.Column{
		{Name: "Limit", Share: .4},
		{Name: "Finding", Share: .38},
		{Name: "At", Share: .1, Right: true},
		{Name: "  Verdict", Share: .12},
	}
	s.Notes = []string{
		fmt.Sprintf(
			"Recipe %s, %s, %s, %d samples. Times are the oven's clock from the start of the run.",
			run.Recipe,
			run.Oven,
			run.State,
			len(run.Samples),
		),
	}
	if n := len(run.Samples); n > 0 && run.Samples[n-1].Lag != nil {
		s.Notes = append(s.Notes, fmt.Sprintf("Recorded over %.1f h; last reading of the lagging sensor %s.",
			run.Samples[n-1].T/3600, unit.Temperature(*run.Samples[n-1].Lag, 1)))
	}
	s.Notes = append(s.Notes, fmt.Sprintf("Started by %s, %s.", run.StartedBy, stamp(run.At)))
	s.Charts = runCharts(run, units)
	if f := run.Simulation; f != nil {
		s.Notes = append(
			s.Notes,
			fmt.Sprintf("Simulated when it was started, in %s: %s.", f.Equipment, material.Hours(asTime(f.Duration))),
		)
	}
	if run.Message != "" {
		s.Notes = append(s.Notes, "Note: "+run.Message)
	}
	if run.Verdict == nil {
		return s
	}
	s.Notes = append(s.Notes, run.Verdict.Notes...)
	for _, c := range run.Verdict.Checks {
		s.Rows = append(s.Rows, []string{c.What, c.Message, fmt.Sprintf("%.0f min", c.At/60), "  " + c.Result()})
	}
	return s
}

// marksSection lists hold points and second looks, and what was not signed.
func marksSection(t shop.BuildThread) pdf.Section {
	s := pdf.Section{
		Heading: "Hold points and second persons",
		Columns: []pdf.Column{
			{Name: "At ply", Share: .08, Right: true},
			{Name: " What", Share: .5},
			{Name: "Signed by", Share: .18},
			{Name: "At", Share: .24},
		},
	}
	for _, m := range t.Layup.SignedDemands {
		says, at := m.Text, stamp(m.At)
		if m.Kind == "hold" {
			says = "hold until " + says
		}
		if m.Void {
			at += ", its ply came off again"
		}
		s.Rows = append(s.Rows, []string{fmt.Sprint(m.Ply), says, m.Person, at})
	}
	for _, u := range t.Layup.Unmet {
		s.Rows = append(s.Rows, []string{fmt.Sprint(u.Ply), u.Text, "NOT signed", ""})
	}
	return s
}

// runCharts draws a run beside its plan: temperatures, then vacuum and degree of
// cure. Long logs are thinned to what paper shows.
func runCharts(run *curing.RunView, units unit.System) []pdf.Chart {
	if len(run.Samples) < 2 {
		return nil
	}
	const most = 700
	step := 1 + len(run.Samples)/most
	var hours, set, air, tool, lead, lag, vacuum []float64
	read := func(v *float64, of func(float64) float64) float64 {
		if v == nil {
			return math.NaN()
		}
		return of(*v)
	}
	degrees := func(k float64) float64 { return units.Value(unit.KindTemperature, k) }
	deep := func(pa float64) float64 { return units.Value(unit.KindVacuum, pa) }
	for i := 0; i < len(run.Samples); i += step {
		x := run.Samples[i]
		hours, set = append(hours, x.T/3600), append(set, degrees(x.SetPoint))
		air, tool = append(air, read(x.Air, degrees)), append(tool, read(x.Tool, degrees))
		lead, lag = append(lead, read(x.Lead, degrees)), append(lag, read(x.Lag, degrees))
		vacuum = append(vacuum, read(x.Vacuum, deep))
	}
	band := bandOf(run.Plan, degrees)
	cured := pdf.Curve{Name: "cure, %", Dash: []float64{2, 1}}
	for i := 0; i < len(run.Cure); i += step {
		cured.X, cured.Y = append(cured.X, run.Cure[i].T/3600), append(cured.Y, run.Cure[i].Alpha*100)
	}
	vacuumUnit := units.Unit(unit.KindVacuum)
	charts := []pdf.Chart{
		{X: "h from the start of the run", Y: units.Unit(unit.KindTemperature), Band: &band, Lines: []pdf.Curve{
			{
				Name: "set point",
				X:    hours,
				Y:    set,
				Dash: []float64{0.4, 0.8},
			}, {Name: "air", X: hours, Y: air, Dash: []float64{2, 1}},
			{Name: "tool", X: hours, Y: tool, Dash: []float64{
				3, 1, 0.5, 1,
			}},
			{
				Name: "part, leading",
				X:    hours,
				Y:    lead,
				Dash: []float64{1, 0.5},
			}, {Name: "part, lagging", X: hours, Y: lag}}},
		{
			X:     "h from the start of the run",
			Y:     vacuumUnit + " of vacuum; degree of cure in %",
			Lines: []pdf.Curve{{Name: "vacuum, " + vacuumUnit, X: hours, Y: vacuum}, cured},
		},
	}
	pressure := pdf.Curve{Name: "pressure"}
	for i := 0; i < len(run.Samples); i += step {
		if p := run.Samples[i].Pressure; p != nil {
			pressure.X = append(pressure.X, run.Samples[i].T/3600)
			pressure.Y = append(pressure.Y, units.Value(unit.KindPressure, *p))
		}
	}
	if len(pressure.X) > 1 {
		charts = append(charts, pdf.Chart{
			X: "h from the start of the run", Y: units.Unit(unit.KindPressure) + " above the air outside",
			Lines: []pdf.Curve{pressure},
		})
	}
	return charts
}
