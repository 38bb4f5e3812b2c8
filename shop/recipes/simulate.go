package recipes

import (
	"cmp"
	"context"
	"fmt"
	"slices"

	"gorm.io/gorm"

	"juxta/calc"
	"juxta/core/bag"
	"juxta/core/cure"
	"juxta/core/cure/forecast"
	"juxta/core/master"
	"juxta/shop/book"
)

// CureSimulation is a cure as it is expected to run.
type CureSimulation struct {
	Plan      []forecast.PlanPoint   `json:"plan"`
	Duration  float64                `json:"duration" doc:"s"`
	Equipment string                 `json:"equipment" doc:"That it is simulated in"`
	Lead      float64                `json:"lead" doc:"By how much the air may lead a part that controls it, K"`
	PressUp   float64                `json:"pressUp" doc:"How fast pressure is put on, Pa/s"`
	Begun     float64                `json:"begun" doc:"Degree of cure that it begins with"`
	Cure      []cure.AlphaPoint      `json:"cure" doc:"Degree of cure along the plan, by the lagging sensor"`
	Verdict   *cure.Verdict          `json:"verdict,omitempty" doc:"The plan held against the limits of a run; missing: no ply says which resin it is"`
	Places    []SimulatedPlace       `json:"places" doc:"What each place of the load feels"`
	Findings  []forecast.CureFinding `json:"findings" doc:"What should be looked at"`
	Notes     []string               `json:"notes" doc:"What was assumed"`
}

// Told is by how much the air may lead a part that controls it, K, and how fast pressure is put on, Pa/s: as simulated,
// and as usual where nothing was.
func (f *CureSimulation) Told() (lead, pressUp float64) {
	if f == nil {
		return forecast.UsualLead, forecast.UsualPressureUp
	}
	return cmp.Or(f.Lead, forecast.UsualLead), cmp.Or(f.PressUp, forecast.UsualPressureUp)
}

// SimulatedPlace is what a place of a load is expected to feel.
type SimulatedPlace struct {
	Name      string   `json:"name"`
	Thickness float64  `json:"thickness" doc:"Of what cures, m"`
	Hottest   float64  `json:"hottest" doc:"K"`
	HottestAt float64  `json:"hottestAt" doc:"s"`
	Overshoot float64  `json:"overshoot" doc:"Above the highest set point, K"`
	Cure      float64  `json:"cure" doc:"Least degree of cure at the end"`
	Glass     *float64 `json:"glass,omitempty" doc:"Least glass transition at the end, K; missing: not known"`
	Gelled    *float64 `json:"gelled,omitempty" doc:"When all of it has gelled, s"`
}

// PartStack is what of a part is to be simulated: its thickest, its thinnest and its largest place as stacks on its
// tool.
type PartStack struct {
	Sections []calc.CureSection `json:"sections"`
	ResinID  int64              `json:"resinId,omitempty" doc:"Of its plies; missing: they have none"`
	Notes    []string           `json:"notes" doc:"What was assumed"`
}

// Note adds what was assumed, once.
func (p *PartStack) Note(says string) {
	if !slices.Contains(p.Notes, says) {
		p.Notes = append(p.Notes, says)
	}
}

// Load is what alike parts bring to a cure that is simulated.
type Load struct {
	Name  string
	Count int // of alike parts
	Stack PartStack
	Resin *Resin                 // of its plies; nil: nothing of it cures
	Begun float64                // degree of cure; 0: as received
	From  *master.ReleasedRecipe // the released recipe that its cure is
}

// Simulate walks the recipe of a cure with all that is loaded and holds it against the cure's own limits. It
// stores nothing.
func (s *Room) Simulate(ctx context.Context, db *gorm.DB, p master.Heat, loads []Load) (CureSimulation, error) {
	out := CureSimulation{
		Plan:   []forecast.PlanPoint{},
		Cure:   []cure.AlphaPoint{},
		Places: []SimulatedPlace{},
		Notes:  []string{},
	}
	in := calc.CureIn{Recipe: p.Recipe, Atmosphere: bag.Atmosphere(s.Altitude), Every: forecast.PlanStep}
	released, err := releasedFor(db, loads)
	if err != nil {
		return out, err
	}
	in.Limits = forecast.CureLimits(limitsOf(p, released))
	equipment, _, err := EquipmentFor(db, p)
	if err != nil {
		return out, err
	}
	out.Equipment, out.Begun = equipment.Name, 1
	out.Lead, out.PressUp = cmp.Or(
		equipment.Lead,
		forecast.UsualLead,
	), cmp.Or(
		equipment.PressureUp,
		forecast.UsualPressureUp,
	)
	var law *cure.Kinetics
	for _, l := range loads {
		var cures cure.Resin
		if l.Resin != nil {
			cures = l.Resin.Cures()
			cures.Alpha0 = max(cures.Alpha0, l.Begun)
			out.Begun = min(out.Begun, cures.Alpha0)
			if law == nil {
				law = &cures.Kinetics
			}
		}
		for _, note := range l.Stack.Notes {
			if !slices.Contains(out.Notes, note) {
				out.Notes = append(out.Notes, note)
			}
		}
		for _, section := range l.Stack.Sections[:min(len(l.Stack.Sections), max(1, mostSections/len(loads)))] {
			section.Part, section.Count = l.Name, l.Count
			if len(loads) > 1 {
				section.Name = SectionName(l.Name + ": " + section.Name)
			}
			section.Resin = &cures
			if l.Resin == nil {
				section.Resin, section.Layers = nil, blank(section.Layers)
			}
			in.Sections = append(in.Sections, section)
		}
	}
	if len(in.Sections) > mostSections {
		out.Notes = append(out.Notes, fmt.Sprintf("of the load the first %d are simulated", mostSections))
		in.Sections = in.Sections[:mostSections]
	}
	job := in.Job()
	atmosphere := job.Equipment.Atmosphere
	job.Equipment = equipment
	job.Equipment.Atmosphere = atmosphere
	f, err := forecast.Simulate(ctx, job)
	switch {
	case ctx.Err() != nil:
		return out, ctx.Err()
	case err != nil:
		return out, book.Wrong.At("process.recipe", "%s", err)
	}
	if err := out.fill(f, in, p, law); err != nil {
		return out, err
	}
	return out, out.since(db, released)
}

// since adds what of the figures has changed since the recipes were released.
func (out *CureSimulation) since(db *gorm.DB, released []Recipe) error {
	since, err := NewerFigures(db, released)
	for _, r := range released {
		for _, says := range since[r.ID] {
			out.Findings = append(out.Findings, forecast.CureFinding{
				Rule: "figures since", Section: -1, Message: r.Name + ": " + says,
				Advice: "The recipe has to be checked with the new figures and released again.",
			})
		}
	}
	return err
}

// mostSections is how many places are simulated at once.
const mostSections = 12

// fill puts in what a forecast says.
func (out *CureSimulation) fill(f forecast.Forecast, in calc.CureIn, p master.Heat, law *cure.Kinetics) error {
	out.Plan, out.Duration = f.Plan(p.Recipe.Tolerance), f.Duration
	seen := calc.FromForecast(f, 1)
	out.Findings = seen.Findings
	for k, o := range seen.Sections {
		place := SimulatedPlace{
			Name: o.Name, Hottest: o.Hottest, HottestAt: o.HottestAt, Overshoot: o.Overshoot, Cure: o.Cure,
			Glass: o.Glass, Gelled: o.Gelled,
		}
		for _, l := range in.Sections[k].Layers {
			if l.Resin > 0 {
				place.Thickness += l.Thickness
			}
		}
		out.Places = append(out.Places, place)
	}
	if law == nil {
		out.Begun = 0
		return nil
	}
	limits := p.Limits.Core()
	limits.Lead = out.Lead
	verdict, err := cure.JudgePlan(f.Log(), p.Recipe, limits, *law, out.Begun)
	if err != nil {
		return book.Wrong.At("process.recipe", "%s", err)
	}
	judged := verdict
	out.Verdict = &judged
	for i, a := range verdict.Alpha {
		out.Cure = append(out.Cure, cure.AlphaPoint{T: out.Plan[i].T, Alpha: a})
	}
	return nil
}

// blank is a stack in which nothing cures.
func blank(layers []calc.CureLayer) []calc.CureLayer {
	out := slices.Clone(layers)
	for k := range out {
		out[k].Resin = 0
	}
	return out
}

// releasedFor are the released recipes that the cures of a load are.
func releasedFor(db *gorm.DB, loads []Load) (out []Recipe, err error) {
	seen := map[master.ReleasedRecipe]bool{}
	for _, l := range loads {
		from := l.From
		if from == nil || seen[*from] {
			continue
		}
		seen[*from] = true
		r, ok, err := release(db, *from)
		if err != nil {
			return nil, err
		}
		if ok {
			out = append(out, r)
		}
	}
	return out, nil
}

// limitsOf are what a forecast is held against: the cure's own, which all of a load have in common, and those of the
// released recipes that they are, the tighter of each.
func limitsOf(own master.Heat, released []Recipe) (out forecast.CureLimits) {
	for _, r := range released {
		out = out.With(r.Plan.Limits)
	}
	out.MaxPart, out.MaxRamp, out.MinCure = own.Limits.MaxPart, own.Limits.MaxRamp, own.Limits.MinCure
	return out
}

// EquipmentFor is what a cure is done in, and whether that is a press.
func EquipmentFor(db *gorm.DB, p master.Heat) (e forecast.Equipment, pressed bool, err error) {
	if p.Equipment != "" {
		own, err := EquipmentOf(db, p.Equipment)
		return own.Facts, own.Facts.Kind == "press", err
	}
	under := p.PressureMax > 0
	for _, s := range p.Recipe.Segments {
		under = under || s.Pressure > 0
	}
	switch {
	case p.PressForce > 0:
		return forecast.UsualPress, true, nil
	case under:
		return forecast.UsualAutoclave, false, nil
	}
	return forecast.UsualOven, false, nil
}

// longestName is what the name of a section may have, in characters.
const longestName = 57

// SectionName is a name within what a section may be called.
func SectionName(name string) string {
	if r := []rune(name); len(r) > longestName {
		return string(r[:longestName-1]) + "…"
	}
	return name
}
