package parts

import (
	"context"
	"slices"

	"gorm.io/gorm"

	"juxta/calc"
	"juxta/core/master"
	"juxta/core/rolled"
	"juxta/core/unit"
	"juxta/shop/book"
)

// RolledQuestion asks what comes of a stage that is rolled on a mandrel.
type RolledQuestion struct {
	Document *master.Document `json:"document,omitempty" doc:"As it stands on the page; missing: as kept"`
	Letter   string           `json:"letter,omitempty"`
	Stage    string           `json:"stage" doc:"Key" minLength:"1" maxLength:"24"`
	Sweep    []string         `json:"sweep,omitempty" doc:"Keys of sheets whose angle is sought: both ways round where they lie so" maxItems:"400"`
	Bending  float64          `json:"bending,omitempty" doc:"EI about the width that is wanted, N m²" minimum:"0"`
	Torsion  float64          `json:"torsion,omitempty" doc:"GJ that is wanted, N m²" minimum:"0"`
}

// RolledReply is what comes of it.
type RolledReply struct {
	Keys    []string             `json:"keys" doc:"Of the sheets, in their turn"`
	Faults  []master.Fault       `json:"faults" doc:"Of this stage; while there are any, nothing is worked out"`
	Rolled  *calc.RolledAnalysis `json:"rolled,omitempty"`
	Bending []float64            `json:"bending" doc:"Angles that give the wanted EI, degrees"`
	Torsion []float64            `json:"torsion" doc:"Angles that give the wanted GJ, degrees"`
	Message string               `json:"message,omitempty" doc:"Why there is nothing to say of the mandrel's pull, or of the tape"`
}

// sweepSteps is how finely an angle is sought: whole degrees.
const sweepSteps = 90

// Rolled works a rolled stage out, kept or as it stands on a page. It stores nothing. Of a
// family, its first variant is shown.
func (s *Room) Rolled(ctx context.Context, partCode string, q RolledQuestion) (RolledReply, error) {
	return book.View(ctx, s.Book, func(db *gorm.DB) (RolledReply, error) {
		m, _, err := s.asked(db, partCode, q.Letter, q.Document)
		if err != nil {
			return RolledReply{}, err
		}
		out := RolledReply{Keys: []string{}, Bending: []float64{}, Torsion: []float64{}}
		c, stage, faults, err := m.stage(q.Stage)
		out.Faults = faults
		if err != nil || len(faults) > 0 {
			return out, err
		}
		if stage.Rolled == nil {
			return out, book.NotHere.At("stage", "there is no stage %q that is rolled on a mandrel", q.Stage)
		}
		r, items := stage.Roll(c.Doc.Labels(), c.Materials)
		var sweep []int
		for n, i := range items {
			out.Keys = append(out.Keys, i.Key)
			if slices.Contains(q.Sweep, i.Key) {
				sweep = append(sweep, n)
			}
		}
		if faults := r.Check(); len(faults) > 0 {
			out.Faults = append(out.Faults, master.Fault{Key: stage.Key, Field: "rolled", Message: faults[0].Message})
			return out, nil
		}
		w := r.Analyse()
		v := calc.FromRolled(w)
		if len(sweep) > 0 {
			swept := r.Sweep(sweep, sweepSteps)
			v.Swept = calc.FromSweepPoint(swept)
			out.Bending = wanted(swept, q.Bending, func(s rolled.SweepPoint) float64 { return s.Bending[0] })
			out.Torsion = wanted(swept, q.Torsion, func(s rolled.SweepPoint) float64 { return s.Torsion })
		}
		if t := stage.Rolled.Tape; t != nil {
			taped, err := r.Tape(t.Taped(*stage.Rolled), w)
			if err != nil {
				out.Message = err.Error()
			} else {
				v.Tape = calc.FromTapeWinding(taped)
			}
		}
		if p := stage.Rolled.Pull; p != nil {
			pulled, err := r.Pull(p.Core(), w)
			if err != nil {
				out.Message = err.Error()
			} else {
				v.Pull = calc.FromPullEstimate(pulled)
			}
		}
		out.Rolled = &v
		return out, nil
	})
}

// wanted are the angles at which a stiffness comes to what is wanted, in degrees.
func wanted(swept []rolled.SweepPoint, want float64, of func(rolled.SweepPoint) float64) []float64 {
	out := []float64{}
	if want > 0 {
		for _, a := range rolled.AnglesFor(swept, want, of) {
			out = append(out, unit.Deg(a))
		}
	}
	return out
}
