package laminate

// Analysis is what lamination theory makes of a stack.
type Analysis struct {
	Stiffness Stiffness
	Constants Constants
	Warp      Warp
	ArealMass float64 // kg/m²
	Shares    []Share
	Sandwich  *Sandwich // nil: it is none
}

// Analyse works a stack out that cools by deltaT in K, negative for cooling; its
// warp, and the shear of a sandwich, are told over a span in m. It needs at least
// one ply that is stiff.
func Analyse(stack []Ply, deltaT, span float64) (Analysis, error) {
	st, err := StiffnessOf(stack)
	if err != nil {
		return Analysis{}, err
	}
	inverse, err := st.Invert()
	if err != nil {
		return Analysis{}, err
	}
	w := Analysis{
		Stiffness: st,
		Constants: st.Engineering(inverse),
		Warp:      st.Warp(inverse, deltaT, span),
		Shares:    Shares(stack),
	}
	if s, ok := SandwichOf(stack, st, inverse, span); ok {
		w.Sandwich = &s
	}
	for _, p := range stack {
		w.ArealMass += p.Lamina.ArealMass
	}
	return w, nil
}
