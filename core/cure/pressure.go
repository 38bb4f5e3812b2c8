package cure

import (
	"errors"
	"math"
)

// WaterVapour is the pressure of the water vapour in a void, Pa absolute, in a laminate at t in K that took up water at
// a relative humidity from 0 to 1: where the resin's pressure is less, the void grows. Source: Kardos, Dudukovic &
// Dave,
// Advances in Polymer Science 80 (1986) 101, from memory: 4.962e5 exp(-4892/T) atmospheres at full humidity.
func WaterVapour(t, humidity float64) float64 {
	return 101_325 * 4.962e5 * math.Exp(-4892/t) * humidity
}

// OpeningForce is the force with which a pressure pushes a closed mould open over its projected area, N.
func OpeningForce(pressure, area float64) float64 { return pressure * area }

// Press is what holds a mould shut.
type Press struct {
	Force  float64 // of the press, N; 0: none
	Bolts  int     // that hold it besides
	Each   float64 // what one bolt may bear, N
	Margin float64 // by how much more than the opening force is to be there, such as 0.25
}

// Check says what cannot be.
func (p Press) Check() error {
	if p.Force < 0 || p.Bolts < 0 || p.Each < 0 || p.Margin < 0 || p.Force == 0 && float64(p.Bolts)*p.Each == 0 {
		return errors.New("enter the closing force of the press or of the bolts")
	}
	return nil
}

// ClampingMargin says by how much force a mould is held shut beyond what a pressure over an area asks for with the
// margin, N;
// below zero it opens.
func (p Press) ClampingMargin(pressure, area float64) float64 {
	return p.Force + float64(p.Bolts)*p.Each - OpeningForce(pressure, area)*(1+p.Margin)
}

// Shut is the most opening force that a mould is held shut against with the margin, N.
func (p Press) Shut() float64 { return (p.Force + float64(p.Bolts)*p.Each) / (1 + p.Margin) }

// ThermalMismatch is by how much a part and its tool differ in length after a change of temperature in K, for a length
// in m;
// above zero the tool has become longer than the part. Expansions in 1/K.
func ThermalMismatch(tool, part, length, change float64) float64 {
	return (tool - part) * length * change
}
