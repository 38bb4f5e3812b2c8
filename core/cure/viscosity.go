package cure

import (
	"errors"
	"math"

	"juxta/core/unit"
)

// Viscosity of a resin in Pa s at temperature T and degree of cure α:
//
//	µ(T, α) = µ∞ exp(U/RT + κ α)                        (Arrhenius with cure)
//	µ(T, α) = µ∞ exp(U/RT) (αg/(αg-α))^(a + b α)        (Castro–Macosko)
//
// The second holds when Gel > 0; past gelation it is +Inf. Sources: Loos &
// Springer 1983, J. Compos. Mater. 17, 135–169 (first form); Castro & Macosko
// 1982, AIChE J. 28, 250–260 (second).
type Viscosity struct {
	// Mu is µ∞, U the activation energy, Kappa κ of the first form, Gel αg (0: first form); A and B are of the second.
	Mu    float64 `json:"mu" doc:"At infinite temperature, Pa s" exclusiveMinimum:"0"`
	U     float64 `json:"u" doc:"J/mol" minimum:"0"`
	Kappa float64 `json:"kappa,omitempty"`
	Gel   float64 `json:"gel,omitempty" doc:"Degree of cure at gelation; 0: Arrhenius with cure" minimum:"0" maximum:"1"`
	A     float64 `json:"a,omitempty"`
	B     float64 `json:"b,omitempty"`
}

// Check says whether the figures can belong to a resin.
func (v Viscosity) Check() error {
	for _, x := range []float64{v.Mu, v.U, v.Kappa, v.Gel, v.A, v.B} {
		if math.IsNaN(x) || math.IsInf(x, 0) {
			return errors.New("every figure of the viscosity must be a number")
		}
	}
	switch {
	case v.Mu <= 0:
		return errors.New("the viscosity at infinite temperature must be above zero")
	case v.U < 0:
		return errors.New("the activation energy of flow must not be below zero")
	case v.Gel < 0 || v.Gel > 1:
		return errors.New("gelation lies between a degree of cure of 0 and 1")
	}
	return nil
}

// At is the viscosity in Pa s at t in K and degree of cure alpha.
func (v Viscosity) At(t, alpha float64) float64 {
	flow := v.Mu * math.Exp(v.U/(unit.GasConstant*t))
	if v.Gel == 0 {
		return flow * math.Exp(v.Kappa*alpha)
	}
	if alpha >= v.Gel {
		return math.Inf(1)
	}
	return flow * math.Pow(v.Gel/(v.Gel-alpha), v.A+v.B*alpha)
}
