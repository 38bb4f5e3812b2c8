package calc

import (
	"context"

	"juxta/core/cure"
	"juxta/core/master"
	"juxta/wire"
)

// CureIn is a recipe to walk, with a part that follows the air with one time
// constant.
type CureIn struct {
	Recipe   master.Recipe `json:"recipe"`
	Kinetics wire.Kinetics `json:"kinetics"`
	Alpha0   float64       `json:"alpha0,omitempty" doc:"Degree of cure at the start" minimum:"0" exclusiveMaximum:"1"`
	PartLag  float64       `json:"partLag" doc:"Time constant of the part, s" exclusiveMinimum:"0"`
	Step     float64       `json:"step,omitempty" doc:"s; 0 means 60" minimum:"0"`
}

// CureOut is the plan with the degree of cure at each of its points.
type CureOut struct {
	Plan     []wire.PlanPoint `json:"plan"`
	Alpha    []float64        `json:"alpha"`
	Cure     float64          `json:"cure" doc:"Degree of cure at the end"`
	Duration float64          `json:"duration" doc:"s"`
}

var cureCalc = define("cure", "a recipe walked in time, with the degree of cure", CureIn{
	Recipe: master.Recipe{Name: "80 then 120", Start: 295, Tolerance: 5, Segments: []master.Segment{
		{Target: 353.15, Rate: 0.033, Hold: 1800, WaitPart: 350.15},
		{Target: 393.15, Rate: 0.033, Hold: 3600, WaitPart: 390.15},
		{Target: 323.15, Rate: 0.05},
	}},
	Kinetics: wire.Kinetics{Terms: []wire.Term{{A: 2.5e6, E: 70e3, M: 0, N: 1.2}}}, Alpha0: 0.02, PartLag: 600,
}, func(_ context.Context, in CureIn) (CureOut, error) {
	recipe := in.Recipe.Core()
	if err := recipe.Check(); err != nil {
		return CureOut{}, &InputError{"recipe", err.Error()}
	}
	if in.Step == 0 {
		in.Step = 60
	}
	const week = 7 * 24 * 3600
	plan := cure.Plan(recipe, in.PartLag, in.Step, week)
	if last := plan[len(plan)-1]; last.T >= week {
		return CureOut{}, &InputError{"partLag", "the part never reaches the temperature that a hold waits for within a week"}
	}
	history := make([]cure.Point, len(plan))
	for i, p := range plan {
		history[i] = cure.Point{T: p.T, Temperature: p.Part}
	}
	alpha, err := in.Kinetics.Core().Integrate(in.Alpha0, history)
	if err != nil {
		return CureOut{}, &InputError{"kinetics", err.Error()}
	}
	return CureOut{wire.FromPlan(plan), alpha, alpha[len(alpha)-1], plan[len(plan)-1].T}, nil
})
