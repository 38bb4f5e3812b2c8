package cure

import (
	"errors"
	"math"

	"juxta/core/unit"
)

// Glass is the glass transition temperature of a resin by its degree of cure:
//
//	(Tg - Tg0) / (Tg1 - Tg0) = λ α / (1 - (1-λ) α)
//
// Source: DiBenedetto, Journal of Polymer Science B 25 (1987) 1949; Pascault & Williams, Journal of Polymer Science B
// 28 (1990) 85.
type Glass struct {
	// Raw is Tg0, Cured Tg1, Lambda λ.
	Raw    float64 `json:"raw" doc:"Of the uncured resin, K" exclusiveMinimum:"0"`
	Cured  float64 `json:"cured" doc:"Of the fully cured, K" exclusiveMinimum:"0"`
	Lambda float64 `json:"lambda" exclusiveMinimum:"0" maximum:"1"`
}

// Check says whether the figures can belong to a resin.
func (g Glass) Check() error {
	switch {
	case !(g.Raw > 0) || !(g.Cured > g.Raw) || math.IsInf(g.Cured, 0):
		return errors.New("the glass transition must rise with the cure, from above absolute zero")
	case !(g.Lambda > 0) || g.Lambda > 1:
		return errors.New("λ of the glass transition lies above 0 and at 1 at most")
	}
	return nil
}

// At is the glass transition temperature in K at a degree of cure.
func (g Glass) At(alpha float64) float64 {
	return g.Raw + (g.Cured-g.Raw)*g.Lambda*alpha/(1-(1-g.Lambda)*alpha)
}

// Resin is what is known of how a resin system cures. The figures of a real one are its supplier's or published, and
// hold in the range that they were measured in.
type Resin struct {
	Kinetics  Kinetics   `json:"kinetics"`
	Viscosity *Viscosity `json:"viscosity,omitempty"`
	Alpha0    float64    `json:"alpha0,omitempty" doc:"Degree of cure as it begins" minimum:"0" exclusiveMaximum:"1"`
	ResinFacts
}

// ResinFacts are what is known of how a resin hardens besides its laws, and where that comes from.
type ResinFacts struct {
	Glass   *Glass  `json:"glass,omitempty"`
	Gel     float64 `json:"gel,omitempty" doc:"Degree of cure at gelation; 0: where its viscosity ends" minimum:"0" exclusiveMaximum:"1"`
	Heat    float64 `json:"heat,omitempty" doc:"Of the whole reaction, J/kg of resin; 0: not known" minimum:"0" maximum:"2000000"`
	Coldest float64 `json:"coldest,omitempty" doc:"That the laws hold from, K; 0: not said" minimum:"0"`
	Hottest float64 `json:"hottest,omitempty" doc:"And to, K; 0: not said" minimum:"0"`
	Source  string  `json:"source,omitempty" doc:"Where the figures come from" maxLength:"300"`
}

// Check says what of a resin cannot be.
func (r Resin) Check() error {
	if err := r.Kinetics.Check(); err != nil {
		return err
	}
	if err := r.Kinetics.Starts(r.Alpha0); err != nil {
		return err
	}
	if r.Viscosity != nil {
		if err := r.Viscosity.Check(); err != nil {
			return err
		}
	}
	if r.Glass != nil {
		if err := r.Glass.Check(); err != nil {
			return err
		}
	}
	switch {
	case r.Gel < 0 || r.Gel >= 1 || math.IsNaN(r.Gel):
		return errors.New("gelation lies between a degree of cure of 0 and 1")
	case r.Heat < 0 || r.Heat > 2e6 || math.IsNaN(r.Heat):
		return errors.New("the heat of the reaction lies between 0 and 2,000 kJ a kilogram of resin")
	case r.Coldest < 0 || r.Hottest < 0 || r.Hottest > 0 && r.Hottest <= r.Coldest:
		return errors.New("the range that the laws hold in must go from one temperature to a higher one")
	}
	return nil
}

// Gelled is the degree of cure at gelation: as entered, or where the law of its viscosity ends; 0: not known.
func (r Resin) Gelled() float64 {
	if r.Gel == 0 && r.Viscosity != nil {
		return r.Viscosity.Gel
	}
	return r.Gel
}

// GelTime is how long a resin takes to gel at one temperature in K, s; infinite where it does not within a year.
func (r Resin) GelTime(temperature float64) float64 {
	const year = 365 * 24 * 3600
	gel := r.Gelled()
	if gel <= r.Alpha0 {
		return 0
	}
	// dt = dα / rate, which has no bad end short of the gel; Simpson's rule over more and more intervals.
	last := math.Inf(1)
	for n := 64; n <= 1<<20; n *= 2 {
		h := (gel - r.Alpha0) / float64(n)
		sum := 0.0
		for i := range n + 1 {
			rate := r.Kinetics.Rate(r.Alpha0+float64(i)*h, temperature)
			if rate*year < 1e-6 {
				return math.Inf(1)
			}
			weight := 2.0
			switch {
			case i == 0 || i == n:
				weight = 1
			case i%2 == 1:
				weight = 4
			}
			sum += weight / rate
		}
		sum *= h / 3
		if math.Abs(sum-last) <= 1e-9*sum {
			return sum
		}
		last = sum
	}
	return last
}

// Outside says why a temperature in K is outside the range that a resin's laws hold in; empty where it is not.
func (r Resin) Outside(temperature float64) string {
	switch {
	case r.Hottest > 0 && temperature > r.Hottest+1e-9:
		return "hotter than " + unit.Temperature(r.Hottest, 0).String() + ", to which its laws hold"
	case r.Coldest > 0 && temperature < r.Coldest-1e-9:
		return "colder than " + unit.Temperature(r.Coldest, 0).String() + ", from which its laws hold"
	}
	return ""
}
