package parts

import (
	"context"
	"slices"

	"gorm.io/gorm"

	"juxta/core/cure"
	"juxta/core/master"
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

// Foreseen is a recipe as it is expected to run.
type Foreseen struct {
	Plan     []wire.PlanPoint `json:"plan"`
	Duration float64          `json:"duration" doc:"s"`
	Begun    float64          `json:"begun" doc:"Degree of cure that it begins with"`
	Cure     []wire.CurePoint `json:"cure" doc:"Degree of cure along the plan"`
	Verdict  *wire.Verdict    `json:"verdict,omitempty" doc:"The plan held against the limits of a run; missing: no ply says which resin it is"`
}

// Foresee walks a process's recipe with the resin that it cures and holds it against the
// process's own limits. It stores nothing.
func (s *Room) Foresee(ctx context.Context, partCode string, in ProcessQuestion) (Foreseen, error) {
	return book.View(ctx, s.Book, func(db *gorm.DB) (Foreseen, error) {
		m, _, err := s.asked(db, partCode, in.Letter, in.Document)
		if err != nil {
			return Foreseen{}, err
		}
		process := m.process
		if in.Process != nil {
			process = *in.Process
			if err := process.check(s.Altitude); err != nil {
				return Foreseen{}, err
			}
		}
		if in.Operation == "" {
			return m.foresee(db, process, nil, 0)
		}
		ordered, faults := m.Doc.Ordered()
		if len(faults) > 0 {
			return Foreseen{}, book.Wrong.At("document", "%s", faults[0].Says)
		}
		planned := m.Doc.Operations()
		at := slices.IndexFunc(planned, func(o master.Operation) bool { return o.Key == in.Operation })
		if at < 0 || !ordered.Operations[at].Heats() {
			return Foreseen{}, book.NotHere.At("operation", "there is no operation %q that has a run", in.Operation)
		}
		// Each run goes on from what those before it left; the order has none twice.
		var out Foreseen
		left := make([]float64, len(planned))
		for _, k := range ordered.Order() {
			o := planned[k]
			if !ordered.Operations[k].Heats() || k != at && !ordered.Before(at, k) {
				continue
			}
			begun := ordered.Begun(k, func(k int) float64 { return left[k] })
			if faults := o.SettingFaults(s.Altitude); len(faults) > 0 {
				return Foreseen{}, book.Wrong.At("document", "%s: %s", ordered.Operations[k].Says(ordered.Stages), faults[0].Says)
			}
			if out, err = m.foresee(db, process.Of(o), o.Stages, begun); err != nil {
				return Foreseen{}, err
			}
			if n := len(out.Cure); n > 0 {
				left[k] = out.Cure[n-1].Alpha
			}
		}
		return out, nil
	})
}

// foresee walks the recipe of some stages, from the degree of cure that they have.
func (m MasterOf) foresee(db *gorm.DB, p Process, stages []string, begun float64) (Foreseen, error) {
	heat := p.Heat()
	resin, ok, err := m.resin(db, stages)
	if err != nil {
		return Foreseen{}, err
	}
	if !ok {
		plan := heat.Plan()
		return Foreseen{Plan: wire.FromPlan(plan), Duration: plan[len(plan)-1].T, Cure: []wire.CurePoint{}}, nil
	}
	begun = max(begun, resin.Alpha0)
	plan, verdict, err := cure.Foresee(
		heat.Recipe.Core(), heat.Limits.Core(), resin.Kinetics.Core(), begun, heat.PartLag, cure.PlanStep, cure.PlanMost,
	)
	if err != nil {
		return Foreseen{}, book.Wrong.At("process.recipe", "%s", err)
	}
	judged := wire.FromVerdict(verdict)
	out := Foreseen{
		Plan: wire.FromPlan(plan), Duration: plan[len(plan)-1].T, Verdict: &judged, Begun: begun,
		Cure: make([]wire.CurePoint, len(verdict.Alpha)),
	}
	for i, a := range verdict.Alpha {
		out.Cure[i] = wire.CurePoint{T: plan[i].T, Alpha: a}
	}
	return out, nil
}

// ResinOf is the resin that is cured in some stages of a revision, or in all.
func (s *Room) ResinOf(db *gorm.DB, r Revision, stages []string) (stock.Resin, error) {
	m, err := s.Master(db, r)
	if err != nil {
		return stock.Resin{}, err
	}
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
