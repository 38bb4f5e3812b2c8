package material

import (
	"fmt"
	"math"

	"juxta/core/unit"
)

// Facts are what a material's data sheet says of it, in SI units, as far as one figure can contradict another. Zero:
// not said.
type Facts struct {
	Kind           string
	Prepreg        bool // plies are cut from it, with the resin that cures in them
	HasResin       bool // its resin system is named
	Width          float64
	E1, E2, G12    float64
	Nu12           float64
	Alpha1, Alpha2 float64
	Thickness      float64 // cured
	ArealMass      float64
	FibreMass      float64 // of its areal mass
	ResinShare     float64 // of its areal mass
	BulkFactor     float64
	OutLife, Tack  float64 // s
}

// FactFault is what cannot be right about a material.
type FactFault struct {
	Field   string // as entered
	Missing bool
	Message string
}

// roundedOff is by how much the areal mass may differ from that of fibre and resin: data sheets round each (common
// practice, no source).
const roundedOff = 0.05

// Check is the first fault of the facts, or nil: figures that are none, what a ply cannot be worked out without, a
// Poisson's ratio that these stiffnesses do not allow (Jones, eq. 2.32), a tack life beyond the out-life, and an areal
// mass that is not that of its fibre and resin.
func (f Facts) Check() *FactFault {
	for _, x := range []float64{
		f.Width, f.E1, f.E2, f.Nu12, f.G12, f.Alpha1, f.Alpha2, f.Thickness, f.ArealMass, f.OutLife, f.Tack,
		f.FibreMass, f.ResinShare, f.BulkFactor,
	} {
		if math.IsNaN(x) || math.IsInf(x, 0) {
			return &FactFault{Message: "every figure of a material must be a number"}
		}
	}
	if f.Prepreg {
		if fault := f.checkPly(); fault != nil {
			return fault
		}
	}
	if f.Tack > f.OutLife && f.OutLife > 0 {
		return &FactFault{Field: "tackLife", Message: "tack life is part of out-life: it cannot be longer"}
	}
	if f.FibreMass > 0 && f.ResinShare > 0 && f.ArealMass > 0 {
		// The three say the same thing twice.
		if implied := f.FibreMass / (1 - f.ResinShare); math.Abs(implied-f.ArealMass) > roundedOff*f.ArealMass {
			return &FactFault{Field: "sheet.resinShare", Message: fmt.Sprintf(
				"%s of fibre with %.0f %% resin makes %s, not %s: check which is right", unit.Areal(f.FibreMass, 0),
				f.ResinShare*100, unit.Areal(implied, 0), unit.Areal(f.ArealMass, 0))}
		}
	}
	if f.BulkFactor != 0 && f.BulkFactor < 1 {
		return &FactFault{Field: "sheet.bulkFactor",
			Message: "a stack is never thinner before cure than after: the bulk factor is at least 1"}
	}
	return nil
}

func (f Facts) checkPly() *FactFault {
	for _, need := range []struct {
		field, called string
		have          bool
	}{
		{"resinId", "its resin", f.HasResin},
		{"width", "its width", f.Width > 0},
		{"e1", "E1", f.E1 > 0},
		{"e2", "E2", f.E2 > 0},
		{"g12", "G12", f.G12 > 0},
		{"thickness", "its cured ply thickness", f.Thickness > 0},
		{"arealMass", "its areal mass", f.ArealMass > 0},
		{"outLife", "its out-life", f.OutLife > 0},
	} {
		if !need.have {
			return &FactFault{need.field, true, fmt.Sprintf(
				"%s material needs %s: a ply of it cannot be calculated without it", f.Kind, need.called)}
		}
	}
	if f.Nu12*f.Nu12 >= f.E1/f.E2 {
		return &FactFault{Field: "nu12",
			Message: fmt.Sprintf("Poisson's ratio %g is not possible with these stiffnesses", f.Nu12)}
	}
	return nil
}
