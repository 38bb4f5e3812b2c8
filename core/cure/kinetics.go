// Package cure knows recipes and what a run did: the set point as it should
// go, the degree of cure from the logged temperatures, and a run held against
// its limits by its leading and lagging sensors.
//
// Temperatures in kelvin, times in seconds, vacuum in pascal below the air
// outside.
package cure

import (
	"fmt"
	"math"

	"juxta/core/unit"
)

// Term is one Arrhenius term of the rate of cure: A exp(-E/RT) αᵐ (1-α)ⁿ with
// A in 1/s and E in J/mol.
type Term struct{ A, E, M, N float64 }

// Kinetics is the rate of cure dα/dt as a sum of terms. One term with M = 0 is
// n-th order; two terms, the second with M > 0, are the autocatalytic form of
// Kamal & Sourour, Polymer Engineering & Science 13 (1973) 59.
type Kinetics struct{ Terms []Term }

// Check says whether the model can be one.
func (k Kinetics) Check() error {
	if len(k.Terms) == 0 {
		return fmt.Errorf("the kinetics have no term")
	}
	for i, t := range k.Terms {
		if t.A <= 0 || t.E < 0 || t.M < 0 || t.N <= 0 {
			return fmt.Errorf("term %d: A and N must be above zero, E and M not below", i+1)
		}
	}
	return nil
}

// Rate is dα/dt in 1/s at degree of cure alpha and temperature in K.
func (k Kinetics) Rate(alpha, temperature float64) float64 {
	alpha = math.Min(1, math.Max(0, alpha))
	sum := 0.0
	for _, t := range k.Terms {
		sum += t.A * math.Exp(-t.E/(unit.GasConstant*temperature)) * math.Pow(alpha, t.M) * math.Pow(1-alpha, t.N)
	}
	return sum
}

// Point is a temperature in K at a time in s.
type Point struct{ T, Temperature float64 }

// Integrate gives the degree of cure at every point of a temperature history,
// starting from alpha0, the temperature taken as straight between points.
// Runge-Kutta of 4th order, in substeps of at most a tenth of the fastest time
// constant, over which the temperature moves by at most 2 K. Times must not go back.
func (k Kinetics) Integrate(alpha0 float64, history []Point) ([]float64, error) {
	if err := k.Check(); err != nil {
		return nil, err
	}
	if alpha0 < 0 || alpha0 >= 1 {
		return nil, fmt.Errorf("the degree of cure to start from must lie from 0 to below 1")
	}
	out := make([]float64, len(history))
	alpha := alpha0
	for i, p := range history {
		if i > 0 {
			prev := history[i-1]
			if p.T < prev.T {
				return nil, fmt.Errorf("the record goes back in time at %.0f s", p.T)
			}
			alpha = k.advance(alpha, prev, p)
		}
		out[i] = alpha
	}
	return out, nil
}

// constants is Σ A exp(-E/RT) in 1/s.
func (k Kinetics) constants(temperature float64) float64 {
	sum := 0.0
	for _, t := range k.Terms {
		sum += t.A * math.Exp(-t.E/(unit.GasConstant*temperature))
	}
	return sum
}

func (k Kinetics) advance(alpha float64, from, to Point) float64 {
	span := to.T - from.T
	if span == 0 {
		return alpha
	}
	slope := (to.Temperature - from.Temperature) / span
	temp := func(t float64) float64 { return from.Temperature + slope*t }
	longest := span
	if s := math.Abs(slope); s > 0 {
		longest = math.Min(longest, 2/s)
	}
	for t := 0.0; t < span; {
		h := math.Min(longest, span-t)
		// The sum of the rate constants bounds how stiff the equation is: near
		// the end the rate is small and the step must not grow with it.
		if stiff := k.constants(math.Max(temp(t), temp(t+h))); stiff > 0 {
			h = math.Min(h, math.Max(0.1/stiff, span*1e-3))
		}
		k1 := k.Rate(alpha, temp(t))
		k2 := k.Rate(alpha+h/2*k1, temp(t+h/2))
		k3 := k.Rate(alpha+h/2*k2, temp(t+h/2))
		k4 := k.Rate(alpha+h*k3, temp(t+h))
		alpha = math.Min(1, alpha+h/6*(k1+2*k2+2*k3+k4))
		t += h
	}
	return alpha
}
