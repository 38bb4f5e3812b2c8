package parts

import (
	"context"
	"errors"
	"slices"

	"gorm.io/gorm"

	"juxta/calc"
	"juxta/core/cure/heat"
	"juxta/core/master"
	"juxta/core/route"
	"juxta/shop/book"
	"juxta/shop/recipes"
)

// ProcessQuestion asks what a process makes of a part before it is kept.
type ProcessQuestion struct {
	Letter    string           `json:"letter,omitempty"`
	Process   *Process         `json:"process,omitempty" doc:"As it stands on the page; missing: as kept"`
	Document  *master.Document `json:"document,omitempty" doc:"As it stands on the page; missing: as kept"`
	Operation string           `json:"operation,omitempty" doc:"What an operation of the route makes of it: its own settings, after the runs before it"`
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

// SimulateCure walks a process's recipe with the part that it cures and holds it against the process's own limits. It
// stores
// nothing.
func (s *Room) SimulateCure(ctx context.Context, partCode string, in ProcessQuestion) (recipes.CureSimulation, error) {
	return book.View(ctx, s.Book, func(db *gorm.DB) (recipes.CureSimulation, error) {
		m, _, err := s.asked(db, partCode, in.Letter, in.Document)
		if err != nil {
			return recipes.CureSimulation{}, err
		}
		process := m.process
		if in.Process != nil {
			process = *in.Process
			if err := process.check(s.Altitude); err != nil {
				return recipes.CureSimulation{}, err
			}
		}
		if in.Operation == "" {
			return s.SimulateLoads(ctx, db, []Load{{Count: 1, Master: m, Process: process}})
		}
		ordered, faults := m.Doc.Ordered()
		if len(faults) > 0 {
			return recipes.CureSimulation{}, book.Wrong.At("document", "%s", faults[0].Message)
		}
		planned := m.Doc.Operations()
		at := slices.IndexFunc(planned, func(o master.Operation) bool { return o.Key == in.Operation })
		if at < 0 || !ordered.Operations[at].Heats() {
			return recipes.CureSimulation{}, book.NotHere.At(
				"operation",
				"there is no operation %q that has a run",
				in.Operation,
			)
		}
		// Each run goes on from what those before it left; the order has none twice.
		var out recipes.CureSimulation
		left := make([]float64, len(planned))
		for _, k := range ordered.Order() {
			o := planned[k]
			if !ordered.Operations[k].Heats() || k != at && !ordered.Before(at, k) {
				continue
			}
			begun := ordered.Begun(k, func(k int) float64 { return left[k] })
			if faults := o.SettingFaults(s.Altitude); len(faults) > 0 {
				return recipes.CureSimulation{}, book.Wrong.At(
					"document",
					"%s: %s",
					ordered.Operations[k].Label(ordered.Stages),
					faults[0].Message,
				)
			}
			out, err = s.SimulateLoads(ctx, db, []Load{{
				Count: 1, Master: m, Process: process.Of(o), Stages: o.Stages, Cured: ordered.Cured(k),
				Free: ordered.Operations[k].Kind == route.PostCuring, Begun: begun,
			}})
			if err != nil {
				return recipes.CureSimulation{}, err
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
	recipes.CureSimulation
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
func (s *Room) SimulateLoads(ctx context.Context, db *gorm.DB, loads []Load) (recipes.CureSimulation, error) {
	p := loads[0].Process.Heat()
	_, pressed, err := recipes.EquipmentFor(db, p)
	if err != nil {
		return recipes.CureSimulation{}, err
	}
	of := make([]recipes.Load, len(loads))
	for k, l := range loads {
		of[k] = recipes.Load{Name: l.Name, Count: l.Count, Begun: l.Begun, From: l.Process.From}
		resin, ok, err := l.Master.resin(db, l.Stages)
		if err != nil {
			return recipes.CureSimulation{}, err
		}
		if ok {
			of[k].Resin = &resin
		}
		if of[k].Stack, err = l.stack(db, pressed); err != nil {
			return recipes.CureSimulation{}, err
		}
	}
	return s.Simulate(ctx, db, p, of)
}

// stack is what of a load is simulated. Where it cannot be worked out yet, plies with what holds them stand for it, and
// that is said.
func (l Load) stack(db *gorm.DB, pressed bool) (recipes.PartStack, error) {
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
	plies := calc.FromLayer(heat.LayerOf(heat.Laminate))
	plies.Thickness, plies.Resin = standIn, heat.LaminateResin
	stack = recipes.PartStack{
		Notes: []string{"2 mm of plies, for its stack cannot be calculated yet (" + refused.Message + ")"},
	}
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

// Resin is what is cured in some stages of a master, or in all.
func (m MasterOf) Resin(db *gorm.DB, stages []string) (recipes.Resin, error) {
	resin, ok, err := m.resin(db, stages)
	if err == nil && !ok {
		err = book.Incomplete.Errorf("no ply says which resin is cured here: the run could not be judged")
	}
	return resin, err
}

// resin is that of the first ply of some stages, or of all plies where these have none; ok
// is false where no ply has one.
func (m MasterOf) resin(db *gorm.DB, stages []string) (r recipes.Resin, ok bool, err error) {
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
