package wire

import "juxta/core/cure"

// Term is one Arrhenius term A exp(-E/RT) αᵐ (1-α)ⁿ (B-α)ᵖ.
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

// Diffusion slows the reaction in the glass: the rate is divided by 1 + exp(C (α - α0 - αT T)).
type Diffusion struct {
	C      float64 `json:"c"`
	Alpha0 float64 `json:"alpha0"`
	AlphaT float64 `json:"alphaT" doc:"1/K"`
}

// Kinetics is the rate of cure as a sum of terms.
type Kinetics struct {
	Terms     []Term     `json:"terms" minItems:"1" maxItems:"12"`
	Diffusion *Diffusion `json:"diffusion,omitempty"`
}

// Core is the kinetics as the core's value.
func (k Kinetics) Core() cure.Kinetics {
	var c cure.Kinetics
	for _, t := range k.Terms {
		c.Terms = append(c.Terms, cure.Term(t))
	}
	if k.Diffusion != nil {
		c.Diffusion = cure.Diffusion(*k.Diffusion)
	}
	return c
}

// Viscosity of a resin: Arrhenius with cure, or Castro–Macosko when Gel > 0.
type Viscosity struct {
	Mu    float64 `json:"mu" doc:"At infinite temperature, Pa s" exclusiveMinimum:"0"`
	U     float64 `json:"u" doc:"J/mol" minimum:"0"`
	Kappa float64 `json:"kappa,omitempty"`
	Gel   float64 `json:"gel,omitempty" doc:"Degree of cure at gelation; 0: Arrhenius with cure" minimum:"0" maximum:"1"`
	A     float64 `json:"a,omitempty"`
	B     float64 `json:"b,omitempty"`
}

// Core is the viscosity as the core's value.
func (v Viscosity) Core() cure.Viscosity { return cure.Viscosity(v) }

// Glass is the glass transition by the degree of cure (DiBenedetto).
type Glass struct {
	Raw    float64 `json:"raw" doc:"Of the uncured resin, K" exclusiveMinimum:"0"`
	Cured  float64 `json:"cured" doc:"Of the fully cured, K" exclusiveMinimum:"0"`
	Lambda float64 `json:"lambda" exclusiveMinimum:"0" maximum:"1"`
}

// ResinFacts are what is known of how a resin hardens besides its law, and where that comes from.
type ResinFacts struct {
	Glass   *Glass  `json:"glass,omitempty"`
	Gel     float64 `json:"gel,omitempty" doc:"Degree of cure at gelation; 0: where its viscosity ends" minimum:"0" exclusiveMaximum:"1"`
	Heat    float64 `json:"heat,omitempty" doc:"Of the whole reaction, J/kg of resin; 0: not known" minimum:"0" maximum:"2000000"`
	Coldest float64 `json:"coldest,omitempty" doc:"That the laws hold from, K; 0: not said" minimum:"0"`
	Hottest float64 `json:"hottest,omitempty" doc:"And to, K; 0: not said" minimum:"0"`
	Source  string  `json:"source,omitempty" doc:"Where the figures come from" maxLength:"300"`
}

// Resin is a resin system as it cures.
type Resin struct {
	Kinetics  Kinetics   `json:"kinetics"`
	Viscosity *Viscosity `json:"viscosity,omitempty"`
	Alpha0    float64    `json:"alpha0,omitempty" doc:"Degree of cure as it begins" minimum:"0" exclusiveMaximum:"1"`
	ResinFacts
}

// Core is the resin as the core's value.
func (r Resin) Core() cure.Resin {
	c := cure.Resin{
		Kinetics: r.Kinetics.Core(), Gel: r.Gel, Heat: r.Heat, Alpha0: r.Alpha0, Coldest: r.Coldest, Hottest: r.Hottest,
	}
	if r.Viscosity != nil {
		v := r.Viscosity.Core()
		c.Viscosity = &v
	}
	if r.Glass != nil {
		g := cure.Glass(*r.Glass)
		c.Glass = &g
	}
	return c
}
