package laminate

// Sandwich is a stack with one core that shears: two skins at a distance.
type Sandwich struct {
	Core     string  // name of its layer
	Apart    float64 // distance of the skins' middles d, m
	Shearx   float64 // shear stiffness S = G d²/c across x and y, N/m
	Sheary   float64
	Deflects float64 // deflection of a strip from shear over that from bending, along x over the span
}

// SandwichOf finds the core of a stack and its shear stiffness over a span in
// m: a strip on two supports under uniform load bends by 5 q L⁴/(384 D) and
// shears by q L²/(8 S) (Zenkert, An Introduction to Sandwich Construction, ch.
// 3; equation numbers from memory, and the ratio 48 D/(5 S L²) follows). A
// stack without exactly one core whose shear stiffness is known is none.
func SandwichOf(stack []Ply, st Stiffness, s Compliance, span float64) (Sandwich, bool) {
	at, below, above, z := -1, 0.0, 0.0, 0.0
	for i, p := range stack {
		switch {
		case p.Kind == KindCore && (at >= 0 || p.Lamina.G13 <= 0 || p.Lamina.G23 <= 0):
			return Sandwich{}, false
		case p.Kind == KindCore:
			at, below = i, z
		}
		z += p.Lamina.Thickness
	}
	if at < 0 || at == 0 || at == len(stack)-1 {
		return Sandwich{}, false
	}
	core := stack[at].Lamina
	above = z - below - core.Thickness
	d := core.Thickness + (below+above)/2
	w := Sandwich{
		Core:   stack[at].Name,
		Apart:  d,
		Shearx: core.G13 * d * d / core.Thickness,
		Sheary: core.G23 * d * d / core.Thickness,
	}
	w.Deflects = 48 / (5 * s[3][3] * w.Shearx * span * span)
	return w, true
}
