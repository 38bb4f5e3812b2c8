package calc

import (
	"context"
	"fmt"

	"juxta/core/laminate"
	"juxta/core/unit"
)

// LaminatePly is one ply of a stack; ply 1 lies on the tool.
type LaminatePly struct {
	Material string  `json:"material" doc:"Key into materials"`
	AngleDeg float64 `json:"angleDeg"`
	FaceUp   bool    `json:"faceUp,omitempty"`
}

// LaminateIn is a stack to work out.
type LaminateIn struct {
	Materials map[string]laminate.Lamina `json:"materials"`
	Plies     []LaminatePly              `json:"plies" minItems:"1"`
	DeltaT    float64                    `json:"deltaT,omitempty" doc:"Temperature change after cure, K; negative for cooling"`
	Span      float64                    `json:"span,omitempty" doc:"Length over which the bow is told, m; 0 means 1 m"`
}

// LaminateOut is what the stack is.
type LaminateOut struct {
	Thickness float64            `json:"thickness"`
	ArealMass float64            `json:"arealMass"`
	A         [3][3]float64      `json:"a"`
	B         [3][3]float64      `json:"b"`
	D         [3][3]float64      `json:"d"`
	Ex        float64            `json:"ex"`
	Ey        float64            `json:"ey"`
	Gxy       float64            `json:"gxy"`
	Nuxy      float64            `json:"nuxy"`
	Efx       float64            `json:"efx" doc:"In bending"`
	Efy       float64            `json:"efy"`
	AlphaX    float64            `json:"alphaX" doc:"Expansion, 1/K"`
	AlphaY    float64            `json:"alphaY"`
	Sandwich  *Sandwich          `json:"sandwich,omitempty"`
	Shares    []laminate.Share   `json:"shares"`
	Curvature [3]float64         `json:"curvature"`
	Bow       float64            `json:"bow" doc:"Worst bow over the span, m"`
	BowAlong  float64            `json:"bowAlongDeg"`
	Findings  []laminate.Finding `json:"findings"`
}

// Sandwich is the shear of a stack with one core.
type Sandwich struct {
	Core     string  `json:"core"`
	Apart    float64 `json:"apart" doc:"Distance of the skins' middles, m"`
	ShearX   float64 `json:"shearX" doc:"Shear stiffness, N/m"`
	ShearY   float64 `json:"shearY"`
	Deflects float64 `json:"deflects" doc:"Deflection from shear over that from bending, a strip along x over the span"`
}

var laminateCalc = define("laminate", "thickness, mass, stiffness, warp and rules of a stack", LaminateIn{
	Materials: map[string]laminate.Lamina{
		"ud": {
			E1:        125e9,
			E2:        8.5e9,
			Nu12:      0.3,
			G12:       4.4e9,
			Alpha1:    0.1e-6,
			Alpha2:    30e-6,
			Thickness: 140e-6,
			ArealMass: 0.23,
		},
	},
	Plies: []LaminatePly{
		{Material: "ud", AngleDeg: 0},
		{Material: "ud", AngleDeg: 45},
		{Material: "ud", AngleDeg: -45},
		{Material: "ud", AngleDeg: 90},
	},
	DeltaT: -100, Span: 1,
}, Laminate)

// Laminate works out a stack.
func Laminate(_ context.Context, in LaminateIn) (LaminateOut, error) {
	stack := make([]laminate.Ply, len(in.Plies))
	for i, p := range in.Plies {
		l, ok := in.Materials[p.Material]
		if !ok {
			return LaminateOut{}, &InputError{
				fmt.Sprintf("plies[%d].material", i),
				fmt.Sprintf("%q is not among the materials", p.Material),
			}
		}
		if err := l.Check(); err != nil {
			return LaminateOut{}, &InputError{"materials." + p.Material, err.Error()}
		}
		stack[i] = laminate.Ply{
			Name:     fmt.Sprint(i + 1),
			Material: p.Material,
			Lamina:   l,
			Angle:    unit.Fibre(p.AngleDeg),
			FaceUp:   p.FaceUp,
		}
	}
	span := in.Span
	if span == 0 {
		span = 1
	}
	w, err := laminate.Analyse(stack, in.DeltaT, span)
	if err != nil {
		return LaminateOut{}, err
	}
	out := FromAnalysis(w)
	out.Findings = laminate.Inspect(stack, laminate.DefaultRules())
	return out, nil
}

// FromAnalysis turns what the core makes of a stack into what travels, without
// findings.
func FromAnalysis(w laminate.Analysis) LaminateOut {
	st, k := w.Stiffness, w.Constants
	out := LaminateOut{
		Thickness: st.Thickness, ArealMass: w.ArealMass, A: st.A, B: st.B, D: st.D,
		Ex: k.Ex, Ey: k.Ey, Gxy: k.Gxy, Nuxy: k.Nuxy, Efx: k.Efx, Efy: k.Efy, AlphaX: k.Alphax, AlphaY: k.Alphay,
		Shares: w.Shares, Curvature: w.Warp.Curvature, Bow: w.Warp.Bow, BowAlong: unit.Deg(w.Warp.Along),
		Findings: []laminate.Finding{},
	}
	if s := w.Sandwich; s != nil {
		out.Sandwich = &Sandwich{s.Core, s.Apart, s.Shearx, s.Sheary, s.Deflects}
	}
	return out
}
