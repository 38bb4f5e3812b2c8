package heat

import (
	"fmt"
	"math"

	"juxta/core/cure"
)

// Reference is the temperature at which the properties of a layer are given, K.
const Reference = 293.15

// Layer is one of a stack. Properties change in a straight line with the temperature about [Reference].
type Layer struct {
	Name            string
	Thickness       float64   // m
	Density         float64   // kg/m³
	Specific        float64   // heat at Reference, J/(kg K)
	SpecificByT     float64   // its relative change, 1/K
	Conductivity    float64   // through the thickness at Reference, W/(m K)
	ConductivityByT float64   // its relative change, 1/K
	Contact         float64   // resistance to heat on its lower side, m² K/W; 0: none
	Reaction        *Reaction // nil: it does not cure
}

// Reaction is the cure of a layer's resin.
type Reaction struct {
	Law    cure.Kinetics
	Alpha0 float64
	Heat   float64 // of the whole reaction, J/m³ of the layer
}

// Ribbed is a skin with ribs under it as one layer of the same mass: share is what the ribs add, as a part of the
// skin's own. Heat goes through it as through the skin, it is the mass that has to be warmed.
func Ribbed(skin Layer, share float64) Layer {
	skin.Density *= 1 + share
	return skin
}

// thickest is the thickness that a layer may have, m: one dimension tells nothing of a block.
const thickest = 0.3

// Check says what of a layer cannot be.
func (l Layer) Check() error {
	for _, x := range []float64{
		l.Thickness, l.Density, l.Specific, l.SpecificByT, l.Conductivity, l.ConductivityByT, l.Contact,
	} {
		if math.IsNaN(x) || math.IsInf(x, 0) {
			return fmt.Errorf("%s: every figure must be a number", l.Name)
		}
	}
	switch {
	case l.Thickness <= 0:
		return fmt.Errorf("%s: a layer has a thickness", l.Name)
	case l.Thickness > thickest:
		return fmt.Errorf(
			"%s: %.3g m thick: more than %.1f m is a block, not a layer, and heat goes through it in every direction",
			l.Name,
			l.Thickness,
			thickest,
		)
	case l.Density <= 0 || l.Specific <= 0 || l.Conductivity <= 0:
		return fmt.Errorf("%s: density, specific heat and conductivity must be above zero", l.Name)
	case l.Contact < 0:
		return fmt.Errorf("%s: a contact's resistance must not be below zero", l.Name)
	case math.Abs(l.SpecificByT) > 0.003 || math.Abs(l.ConductivityByT) > 0.003:
		return fmt.Errorf("%s: properties may change by 0.3 %% a kelvin at most", l.Name)
	}
	if r := l.Reaction; r != nil {
		if err := r.Law.Check(); err != nil {
			return fmt.Errorf("%s: %w", l.Name, err)
		}
		if err := r.Law.Starts(r.Alpha0); err != nil {
			return fmt.Errorf("%s: %w", l.Name, err)
		}
		if r.Heat < 0 || math.IsNaN(r.Heat) {
			return fmt.Errorf("%s: the heat of the reaction must not be below zero", l.Name)
		}
	}
	return nil
}

// cells is how many a layer is divided into; finer multiplies it.
func (l Layer) cells(finer int) int {
	least, most, width := 2.0, 12.0, 6e-3 // a metal is nearly of one temperature
	switch {
	case l.Reaction != nil:
		least, most, width = 6, 24, 0.9e-3
	case l.Conductivity < 5:
		most, width = 24, 1.8e-3
	}
	return int(math.Min(most, math.Max(least, math.Ceil(l.Thickness/width-1e-9)))) * max(1, finer)
}

// Face is what lies outside a face during a step: its temperature at the start and the end, and how it passes heat
// on, W/(m² K): 0 lets none through, infinite holds the face at the temperature.
type Face struct{ From, To, H float64 }
