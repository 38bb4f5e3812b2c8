package parts

import (
	"context"

	"gorm.io/gorm"

	"juxta/core/cure"
	"juxta/core/master"
	"juxta/shop/book"
	"juxta/shop/stock"
	"juxta/wire"
)

// ProcessQuestion asks what a process makes of a part before it is kept.
type ProcessQuestion struct {
	Letter  string  `json:"letter,omitempty"`
	Process Process `json:"process" doc:"As it stands on the page"`
}

// Foreseen is a recipe as it is expected to run.
type Foreseen struct {
	Plan     []wire.PlanPoint `json:"plan"`
	Duration float64          `json:"duration" doc:"s"`
	Cure     []wire.CurePoint `json:"cure" doc:"Degree of cure along the plan"`
	Verdict  *wire.Verdict    `json:"verdict,omitempty" doc:"The plan held against the limits of a run; missing: no ply says which resin it is"`
}

// Foresee walks a process's recipe with the resin of the part's first ply and
// holds it against the process's own limits. It stores nothing.
func (s *Room) Foresee(ctx context.Context, partCode string, in ProcessQuestion) (Foreseen, error) {
	return book.View(ctx, s.Book, func(db *gorm.DB) (Foreseen, error) {
		m, _, err := s.asked(db, partCode, in.Letter, nil)
		if err != nil {
			return Foreseen{}, err
		}
		if err := in.Process.check(s.Altitude); err != nil {
			return Foreseen{}, err
		}
		recipe, lag := in.Process.Recipe.Core(), in.Process.PartLag
		resin, ok, err := m.resin(db)
		if err != nil {
			return Foreseen{}, err
		}
		if !ok {
			plan := cure.Plan(recipe, lag, cure.PlanStep, cure.PlanMost)
			return Foreseen{Plan: wire.FromPlan(plan), Duration: plan[len(plan)-1].T, Cure: []wire.CurePoint{}}, nil
		}
		plan, verdict, err := cure.Foresee(
			recipe,
			in.Process.RunLimits.Core(),
			resin.Kinetics.Core(),
			resin.Alpha0,
			lag,
			cure.PlanStep,
			cure.PlanMost,
		)
		if err != nil {
			return Foreseen{}, book.Wrong.At("process.recipe", "%s", err)
		}
		judged := wire.FromVerdict(verdict)
		out := Foreseen{Plan: wire.FromPlan(plan), Duration: plan[len(plan)-1].T, Verdict: &judged}
		for i, a := range verdict.Alpha {
			out.Cure = append(out.Cure, wire.CurePoint{T: plan[i].T, Alpha: a})
		}
		return out, nil
	})
}

// resin is that of the first ply; ok is false where no ply has one.
func (m MasterOf) resin(db *gorm.DB) (r stock.Resin, ok bool, err error) {
	for _, i := range m.Doc.Items() {
		if id := m.Records[i.MaterialID].ResinID; i.Kind == master.Ply && id != nil {
			err := db.Take(&r, *id).Error
			return r, true, err
		}
	}
	return r, false, nil
}
