package parts

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"slices"

	"gorm.io/gorm"

	"juxta/calc"
	"juxta/core/bag"
	"juxta/core/cure"
	"juxta/core/cure/forecast"
	"juxta/core/cure/heat"
	"juxta/core/master"
	"juxta/core/route"
	"juxta/shop/book"
	"juxta/shop/stock"
	"juxta/wire"
)

// ProcessQuestion asks what a process makes of a part before it is kept.
type ProcessQuestion struct {
	Letter    string           `json:"letter,omitempty"`
	Process   *Process         `json:"process,omitempty" doc:"As it stands on the page; missing: as kept"`
	Document  *master.Document `json:"document,omitempty" doc:"As it stands on the page; missing: as kept"`
	Operation string           `json:"operation,omitempty" doc:"What an operation of the route makes of it: its own settings, after the runs before it"`
}

// CureSimulation is a cure as it is expected to run.
type CureSimulation struct {
	Plan      []wire.PlanPoint   `json:"plan"`
	Duration  float64            `json:"duration" doc:"s"`
	Equipment string             `json:"equipment" doc:"That it is simulated in"`
	Lead      float64            `json:"lead" doc:"By how much the air may lead a part that controls it, K"`
	PressUp   float64            `json:"pressUp" doc:"How fast pressure is put on, Pa/s"`
	Begun     float64            `json:"begun" doc:"Degree of cure that it begins with"`
	Cure      []wire.CurePoint   `json:"cure" doc:"Degree of cure along the plan, by the lagging sensor"`
	Verdict   *wire.Verdict      `json:"verdict,omitempty" doc:"The plan held against the limits of a run; missing: no ply says which resin it is"`
	Places    []SimulatedPlace   `json:"places" doc:"What each place of the load feels"`
	Findings  []calc.CureFinding `json:"findings" doc:"What should be looked at"`
	Notes     []string           `json:"notes" doc:"What was assumed"`
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

// Load is what a part brings to a cure that is simulated.
type Load struct {
	Name    string
	Count   int // of alike parts
	Master  MasterOf
	Process Process  // as it holds for the operation
	Stages  []string // that it cures; none: all of the master
	Cured   []string // that operations before have hardened, and that lie there as well
	Free    bool     // it stands without its tool
	Begun   float64  // degree of cure; 0: as received
}

// SimulateCure walks a process's recipe with the part that it cures and holds it against the process's own limits. It stores
// nothing.
func (s *Room) SimulateCure(ctx context.Context, partCode string, in ProcessQuestion) (CureSimulation, error) {
	return book.View(ctx, s.Book, func(db *gorm.DB) (CureSimulation, error) {
		m, _, err := s.asked(db, partCode, in.Letter, in.Document)
		if err != nil {
			return CureSimulation{}, err
		}
		process := m.process
		if in.Process != nil {
			process = *in.Process
			if err := process.check(s.Altitude); err != nil {
				return CureSimulation{}, err
			}
		}
		if in.Operation == "" {
			return s.SimulateLoads(ctx, db, []Load{{Count: 1, Master: m, Process: process}})
		}
		ordered, faults := m.Doc.Ordered()
		if len(faults) > 0 {
			return CureSimulation{}, book.Wrong.At("document", "%s", faults[0].Message)
		}
		planned := m.Doc.Operations()
		at := slices.IndexFunc(planned, func(o master.Operation) bool { return o.Key == in.Operation })
		if at < 0 || !ordered.Operations[at].Heats() {
			return CureSimulation{}, book.NotHere.At("operation", "there is no operation %q that has a run", in.Operation)
		}
		// Each run goes on from what those before it left; the order has none twice.
		var out CureSimulation
		left := make([]float64, len(planned))
		for _, k := range ordered.Order() {
			o := planned[k]
			if !ordered.Operations[k].Heats() || k != at && !ordered.Before(at, k) {
				continue
			}
			begun := ordered.Begun(k, func(k int) float64 { return left[k] })
			if faults := o.SettingFaults(s.Altitude); len(faults) > 0 {
				return CureSimulation{}, book.Wrong.At("document", "%s: %s", ordered.Operations[k].Label(ordered.Stages), faults[0].Message)
			}
			out, err = s.SimulateLoads(ctx, db, []Load{{
				Count: 1, Master: m, Process: process.Of(o), Stages: o.Stages, Cured: ordered.Cured(k), Free: ordered.Operations[k].Kind == route.PostCuring, Begun: begun,
			}})
			if err != nil {
				return CureSimulation{}, err
			}
			if n := len(out.Cure); n > 0 {
				left[k] = out.Cure[n-1].Alpha
			}
		}
		return out, nil
	})
}

// SimulatedCure is a cure of a revision as it is simulated, or why it is not.
type SimulatedCure struct {
	Label string // what its route calls it
	CureSimulation
	Why string
}

// SimulateCures simulates all cures of a revision, in the order of its route.
func (s *Room) SimulateCures(ctx context.Context, v RevisionView) ([]SimulatedCure, error) {
	one := func(says, operation string) (SimulatedCure, error) {
		f, err := s.SimulateCure(ctx, v.Part.Code, ProcessQuestion{Letter: v.Letter, Operation: operation})
		var refused *book.Error
		if errors.As(err, &refused) {
			return SimulatedCure{Label: says, Why: refused.Message}, nil
		}
		return SimulatedCure{Label: says, CureSimulation: f}, err
	}
	if len(v.Document.Route) == 0 {
		f, err := one("Cure", "")
		return []SimulatedCure{f}, err
	}
	var out []SimulatedCure
	for _, o := range v.Document.Route {
		if c := o.Core(); c.Heats() {
			f, err := one(c.Label(v.Document.RouteStages()), o.Key)
			if err != nil {
				return nil, err
			}
			out = append(out, f)
		}
	}
	return out, nil
}

// SimulateLoads walks the recipe that all of a load have in common.
func (s *Room) SimulateLoads(ctx context.Context, db *gorm.DB, loads []Load) (CureSimulation, error) {
	p := loads[0].Process
	out := CureSimulation{Plan: []wire.PlanPoint{}, Cure: []wire.CurePoint{}, Places: []SimulatedPlace{}, Notes: []string{}}
	in := calc.CureIn{Recipe: p.Recipe, Atmosphere: bag.Atmosphere(s.Altitude), Every: forecast.PlanStep}
	released, err := releasedFor(db, loads)
	if err != nil {
		return out, err
	}
	in.Limits = calc.CureLimits(limitsOf(p, released))
	equipment, pressed, err := equipmentFor(db, p)
	if err != nil {
		return out, err
	}
	out.Equipment, out.Begun = equipment.Name, 1
	out.Lead, out.PressUp = cmp.Or(equipment.Lead, forecast.UsualLead), cmp.Or(equipment.PressureUp, forecast.UsualPressureUp)
	var law *wire.Kinetics
	for _, l := range loads {
		resin, ok, err := l.Master.resin(db, l.Stages)
		if err != nil {
			return out, err
		}
		stack, err := l.stack(db, pressed)
		if err != nil {
			return out, err
		}
		cures := resin.Cures()
		cures.Alpha0 = max(cures.Alpha0, l.Begun)
		if ok {
			out.Begun = min(out.Begun, cures.Alpha0)
			if law == nil {
				law = &cures.Kinetics
			}
		}
		for _, note := range stack.Notes {
			if !slices.Contains(out.Notes, note) {
				out.Notes = append(out.Notes, note)
			}
		}
		for _, section := range stack.Sections[:min(len(stack.Sections), max(1, mostSections/len(loads)))] {
			section.Part, section.Count = l.Name, l.Count
			if len(loads) > 1 {
				section.Name = short(l.Name + ": " + section.Name)
			}
			section.Resin = &cures
			if !ok {
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
	since, err := Since(db, released)
	for _, r := range released {
		for _, says := range since[r.ID] {
			out.Findings = append(out.Findings, calc.CureFinding{
				Rule: "figures since", Section: -1, Message: r.Name + ": " + says,
				Advice: "Who answers for the recipe looks at it with the new figures, and releases it anew.",
			})
		}
	}
	return err
}

// mostSections is how many places are simulated at once.
const mostSections = 12

// fill puts in what a forecast says.
func (out *CureSimulation) fill(f forecast.Forecast, in calc.CureIn, p Process, law *wire.Kinetics) error {
	out.Plan, out.Duration = wire.FromPlan(f.Plan(p.Recipe.Tolerance)), f.Duration
	seen := calc.FromForecast(f, 1)
	out.Findings = seen.Findings
	for k, o := range seen.Sections {
		place := SimulatedPlace{
			Name: o.Name, Hottest: o.Hottest, HottestAt: o.HottestAt, Overshoot: o.Overshoot, Cure: o.Cure, Glass: o.Glass, Gelled: o.Gelled,
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
	limits := p.RunLimits.Core()
	limits.Lead = out.Lead
	verdict, err := cure.JudgePlan(f.Log(), p.Recipe.Core(), limits, law.Core(), out.Begun)
	if err != nil {
		return book.Wrong.At("process.recipe", "%s", err)
	}
	judged := wire.FromVerdict(verdict)
	out.Verdict = &judged
	for i, a := range verdict.Alpha {
		out.Cure = append(out.Cure, wire.CurePoint{T: out.Plan[i].T, Alpha: a})
	}
	return nil
}

// stack is what of a load is simulated. Where it cannot be worked out yet, plies with what holds them stand for it, and
// that is said.
func (l Load) stack(db *gorm.DB, pressed bool) (PartStack, error) {
	how := onTool
	switch {
	case l.Free:
		how = standsFree
	case pressed:
		how = inMould
	}
	stack, err := l.Master.stack(db, l.Process.Tool, how, l.lies)
	var refused *book.Error
	if !errors.As(err, &refused) {
		return stack, err
	}
	plies := usualLayer(heat.Laminate, standIn)
	plies.Resin = heat.LaminateResin
	stack = PartStack{Notes: []string{"its stack cannot be worked out yet (" + refused.Message + "): 2 mm of plies stand for it"}}
	held, err := heldBy(db, l.Process.Tool, how, &stack)
	stack.Sections = []calc.CureSection{held.section("2 mm of plies", []calc.CureLayer{plies})}
	return stack, err
}

// lies says whether the layers of a stage lie in the run, and whether they cure in it.
func (l Load) lies(stage string) (there, cures bool) {
	cures = len(l.Stages) == 0 || slices.Contains(l.Stages, stage)
	return cures || slices.Contains(l.Cured, stage), cures
}

// standIn is the thickness of the plies that stand for a stack that is not known, m.
const standIn = 2e-3

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
	seen := map[master.Released]bool{}
	for _, l := range loads {
		from := l.Process.From
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

// limitsOf are what a forecast is held against: the process's own, which all of a load have in common, and those of the
// released recipes that they are, the tighter of each.
func limitsOf(own Process, released []Recipe) (out forecast.Limits) {
	for _, r := range released {
		out = out.With(forecast.Limits(r.Plan.Limits))
	}
	out.MaxPart, out.MaxRamp, out.MinCure = own.RunLimits.MaxPart, own.RunLimits.MaxRamp, own.RunLimits.MinCure
	return out
}

// equipmentFor is what a process is cured in, and whether that is a press.
func equipmentFor(db *gorm.DB, p Process) (e forecast.Equipment, pressed bool, err error) {
	if p.Equipment != "" {
		own, err := EquipmentOf(db, p.Equipment)
		return own.Facts.Core(), own.Facts.Kind == "press", err
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

// Resin is what is cured in some stages of a master, or in all.
func (m MasterOf) Resin(db *gorm.DB, stages []string) (stock.Resin, error) {
	resin, ok, err := m.resin(db, stages)
	if err == nil && !ok {
		err = book.Incomplete.Errorf("no ply says which resin is cured here: the run could not be judged")
	}
	return resin, err
}

// resin is that of the first ply of some stages, or of all plies where these have none; ok
// is false where no ply has one.
func (m MasterOf) resin(db *gorm.DB, stages []string) (r stock.Resin, ok bool, err error) {
	var first *int64
	for _, s := range m.Doc.Stages {
		for _, i := range s.Items {
			id := m.Records[i.MaterialID].ResinID
			if i.Kind != master.Ply || id == nil {
				continue
			}
			if first == nil {
				first = id
			}
			if slices.Contains(stages, s.Key) {
				err := db.Take(&r, *id).Error
				return r, true, err
			}
		}
	}
	if first == nil {
		return r, false, nil
	}
	err = db.Take(&r, *first).Error
	return r, true, err
}
