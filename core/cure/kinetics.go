package cure

import (
	"fmt"
	"math"

	"juxta/core/unit"
)

// Term is one Arrhenius term of the rate of cure:
//
//	A exp(-E/RT) αᵐ (1-α)ⁿ (B-α)ᵖ
//
// with A in 1/s and E in J/mol, for degrees of cure from From to below To. B = 0 leaves the last factor out, To = 0
// means to the end. A published law may have a constant below zero beside others: the sum counts.
type Term struct {
	A    float64 `json:"a" doc:"1/s; below zero only beside others"`
	E    float64 `json:"e" doc:"J/mol"`
	M    float64 `json:"m"`
	N    float64 `json:"n"`
	B    float64 `json:"b,omitempty" doc:"Degree of cure at which it ends; 0: without that factor"`
	P    float64 `json:"p,omitempty"`
	From float64 `json:"from,omitempty" doc:"Degree of cure that it holds from"`
	To   float64 `json:"to,omitempty" doc:"And to; 0: to the end"`
}

// holds says whether a term counts at a degree of cure.
func (t Term) holds(alpha float64) bool { return alpha >= t.From && (t.To == 0 || alpha < t.To) }

// Diffusion slows the reaction where the resin has turned to glass: the rate is divided by
//
//	1 + exp(C (α - α0 - αT T))
//
// C = 0: it does not. Source: Cole, Hechler & Noël, Macromolecules 24 (1991) 3098.
type Diffusion struct {
	C      float64 `json:"c"`
	Alpha0 float64 `json:"alpha0"`
	AlphaT float64 `json:"alphaT" doc:"1/K"`
}

// Kinetics is the rate of cure dα/dt as a sum of terms. One term with M = 0 is n-th order; two terms, the second
// with M > 0, are the autocatalytic form of Kamal & Sourour, Polymer Engineering & Science 13 (1973) 59; terms that
// end where others begin are a law in two ranges, as that of Lee, Loos & Springer, Journal of Composite Materials 16
// (1982) 510.
type Kinetics struct {
	Terms     []Term    `json:"terms" minItems:"1" maxItems:"12"`
	Diffusion Diffusion `json:"diffusion,omitzero"`
}

// Check says whether the model can be one.
func (k Kinetics) Check() error {
	if len(k.Terms) == 0 {
		return fmt.Errorf("the kinetics have no term")
	}
	positive := false
	for i, t := range k.Terms {
		for _, x := range []float64{t.A, t.E, t.M, t.N, t.B, t.P, t.From, t.To} {
			if math.IsNaN(x) || math.IsInf(x, 0) {
				return fmt.Errorf("term %d: every figure must be a number", i+1)
			}
		}
		switch {
		case t.A == 0:
			return fmt.Errorf("term %d: A is zero, so it does nothing: leave it out", i+1)
		case t.E < 0 || t.M < 0 || t.N < 0 || t.P < 0:
			return fmt.Errorf("term %d: E and the exponents must not be below zero", i+1)
		case t.B < 0 || t.B > 1 || t.B == 0 && t.P > 0:
			return fmt.Errorf("term %d: the degree of cure at which it ends must lie above 0 and at 1 at most", i+1)
		case t.From < 0 || t.From >= 1 || t.To < 0 || t.To > 1 || t.To > 0 && t.To <= t.From:
			return fmt.Errorf("term %d: it must hold from a degree of cure to a higher one, between 0 and 1", i+1)
		case t.N == 0 && t.P == 0 && t.To == 0:
			return fmt.Errorf("term %d: nothing ends it: N must be above zero", i+1)
		}
		positive = positive || t.A > 0
	}
	if !positive {
		return fmt.Errorf("no term of the kinetics is above zero: nothing would cure")
	}
	return nil
}

// Starts says whether a cure can begin from a degree of cure: a purely autocatalytic law stands still at zero.
func (k Kinetics) Starts(alpha0 float64) error {
	if math.IsNaN(alpha0) || alpha0 < 0 || alpha0 >= 1 {
		return fmt.Errorf("the degree of cure to start from must lie from 0 to below 1")
	}
	moves := false
	for _, t := range k.Terms {
		moves = moves || t.A > 0 && t.holds(alpha0) && (t.M == 0 || alpha0 > 0)
	}
	if !moves {
		return fmt.Errorf(
			"this law never starts from a degree of cure of %g: every term that holds there asks for some "+
				"cure already; enter what the resin brings, such as 0.01",
			alpha0,
		)
	}
	return nil
}

// power is x to the p; those that most laws have are quicker by hand.
func power(x, p float64) float64 {
	switch p {
	case 0:
		return 1
	case 1:
		return x
	case 1.5:
		return x * math.Sqrt(x)
	case 2:
		return x * x
	}
	return math.Pow(x, p)
}

// Rate is dα/dt in 1/s at degree of cure alpha and temperature in K; never below zero.
func (k Kinetics) Rate(alpha, temperature float64) float64 {
	alpha = math.Min(1, math.Max(0, alpha))
	sum := 0.0
	for _, t := range k.Terms {
		if !t.holds(alpha) {
			continue
		}
		f := t.A * math.Exp(-t.E/(unit.GasConstant*temperature)) * power(alpha, t.M) * power(1-alpha, t.N)
		if t.P > 0 {
			f *= power(math.Max(0, t.B-alpha), t.P)
		}
		sum += f
	}
	if d := k.Diffusion; d.C != 0 {
		sum /= 1 + math.Exp(d.C*(alpha-d.Alpha0-d.AlphaT*temperature))
	}
	return math.Max(0, sum)
}

// Slopes is the rate with its derivatives by the degree of cure and by the temperature (1/s, 1/s, 1/(K s)).
func (k Kinetics) Slopes(alpha, temperature float64) (rate, byAlpha, byT float64) {
	// A hair off the ends, where a power has no slope.
	alpha = math.Min(1-1e-12, math.Max(1e-12, alpha))
	over := 1 / (unit.GasConstant * temperature)
	for _, t := range k.Terms {
		if !t.holds(alpha) {
			continue
		}
		f := t.A * math.Exp(-t.E*over) * power(alpha, t.M) * power(1-alpha, t.N)
		d := t.M/alpha - t.N/(1-alpha)
		if t.P > 0 {
			left := t.B - alpha
			if left <= 0 {
				continue
			}
			f *= power(left, t.P)
			d -= t.P / left
		}
		rate += f
		byAlpha += f * d
		byT += f * t.E * over / temperature
	}
	if d := k.Diffusion; d.C != 0 {
		e := math.Exp(d.C * (alpha - d.Alpha0 - d.AlphaT*temperature))
		slowed := 1 / (1 + e)
		// d(1/(1+e)) = -e/(1+e)² d(exponent)
		byAlpha = byAlpha*slowed - rate*e*slowed*slowed*d.C
		byT = byT*slowed + rate*e*slowed*slowed*d.C*d.AlphaT
		rate *= slowed
	}
	if rate <= 0 {
		return 0, 0, 0
	}
	return rate, byAlpha, byT
}

// Point is a temperature in K at a time in s.
type Point struct{ T, Temperature float64 }

// AlphaPoint is a degree of cure at a time in s.
type AlphaPoint struct {
	T     float64 `json:"t"`
	Alpha float64 `json:"alpha"`
}

// Integrate gives the degree of cure at every point of a temperature history,
// starting from alpha0, the temperature taken as straight between points.
// Runge-Kutta of 4th order, in substeps of at most a fiftieth of the fastest time
// constant, over which the temperature moves by at most 2 K. Times must not go back.
func (k Kinetics) Integrate(alpha0 float64, history []Point) ([]float64, error) {
	if err := k.Check(); err != nil {
		return nil, err
	}
	if err := k.Starts(alpha0); err != nil {
		return nil, err
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

// wholly is what out-time is taken to cure at most.
const wholly = 0.99

// Aged is the degree of cure that a resin of alpha0 has after an out-time in s, spent at the warmth of a room.
func (k Kinetics) Aged(alpha0, spent float64) (float64, error) {
	if spent <= 0 {
		return alpha0, nil
	}
	alpha, err := k.Integrate(alpha0, []Point{{T: 0, Temperature: unit.Room}, {T: spent, Temperature: unit.Room}})
	if err != nil {
		return alpha0, err
	}
	return min(alpha[1], wholly), nil
}

// constants is Σ |A| exp(-E/RT) in 1/s.
func (k Kinetics) constants(temperature float64) float64 {
	sum := 0.0
	for _, t := range k.Terms {
		sum += math.Abs(t.A) * math.Exp(-t.E/(unit.GasConstant*temperature))
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
			h = math.Min(h, math.Max(0.02/stiff, span*1e-4))
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
