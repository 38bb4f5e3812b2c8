package calc

import (
	"context"
	"fmt"

	"juxta/core/laminate"
	"juxta/core/unit"
	"juxta/wire"
)

// LaminatePly is one ply of a stack; ply 1 lies on the tool.
type LaminatePly struct {
	Material string  `json:"material" doc:"Key into materials"`
	AngleDeg float64 `json:"angleDeg"`
	FaceUp   bool    `json:"faceUp,omitempty"`
}

// LaminateIn is a stack to work out.
type LaminateIn struct {
	Materials map[string]wire.Lamina `json:"materials"`
	Plies     []LaminatePly          `json:"plies" minItems:"1"`
	DeltaT    float64                `json:"deltaT,omitempty" doc:"Temperature change after cure, K; negative for cooling"`
	Span      float64                `json:"span,omitempty" doc:"Length over which the bow is told, m; 0 means 1 m"`
}

// LaminateOut is what the stack is.
type LaminateOut struct {
	Thickness float64        `json:"thickness"`
	ArealMass float64        `json:"arealMass"`
	A         [3][3]float64  `json:"a"`
	B         [3][3]float64  `json:"b"`
	D         [3][3]float64  `json:"d"`
	Ex        float64        `json:"ex"`
	Ey        float64        `json:"ey"`
	Gxy       float64        `json:"gxy"`
	Nuxy      float64        `json:"nuxy"`
	Shares    []wire.Share   `json:"shares"`
	Curvature [3]float64     `json:"curvature"`
	Bow       float64        `json:"bow" doc:"Worst bow over the span, m"`
	BowAlong  float64        `json:"bowAlongDeg"`
	Findings  []wire.Finding `json:"findings"`
}

var laminateCalc = define("laminate", "thickness, mass, stiffness, warp and rules of a stack", LaminateIn{
	Materials: map[string]wire.Lamina{"ud": {E1: 125e9, E2: 8.5e9, Nu12: 0.3, G12: 4.4e9, Alpha1: 0.1e-6, Alpha2: 30e-6, Thickness: 140e-6, ArealMass: 0.23}},
	Plies:     []LaminatePly{{Material: "ud", AngleDeg: 0}, {Material: "ud", AngleDeg: 45}, {Material: "ud", AngleDeg: -45}, {Material: "ud", AngleDeg: 90}},
	DeltaT:    -100, Span: 1,
}, Laminate)

// Laminate works out a stack.
func Laminate(_ context.Context, in LaminateIn) (LaminateOut, error) {
	stack := make([]laminate.Ply, len(in.Plies))
	mass := 0.0
	for i, p := range in.Plies {
		l, ok := in.Materials[p.Material]
		if !ok {
			return LaminateOut{}, &InputError{fmt.Sprintf("plies[%d].material", i), fmt.Sprintf("%q is not among the materials", p.Material)}
		}
		if err := l.Core().Check(); err != nil {
			return LaminateOut{}, &InputError{"materials." + p.Material, err.Error()}
		}
		stack[i] = laminate.Ply{Name: fmt.Sprint(i + 1), Material: p.Material, Lamina: l.Core(), Angle: wire.Degrees(p.AngleDeg), FaceUp: p.FaceUp}
		mass += l.ArealMass
	}
	out, err := Stack(stack, in.DeltaT, in.Span)
	out.ArealMass = mass
	return out, err
}

// Stack works out a stack of the core's plies: what Laminate does, for callers
// that have them already.
func Stack(stack []laminate.Ply, deltaT, span float64) (LaminateOut, error) {
	if span == 0 {
		span = 1
	}
	s, err := laminate.Stiff(stack)
	if err != nil {
		return LaminateOut{}, err
	}
	k, err := s.Engineering()
	if err != nil {
		return LaminateOut{}, err
	}
	w, err := laminate.Warped(stack, deltaT, span)
	if err != nil {
		return LaminateOut{}, err
	}
	return LaminateOut{Thickness: s.Thickness, A: s.A, B: s.B, D: s.D, Ex: k.Ex, Ey: k.Ey, Gxy: k.Gxy, Nuxy: k.Nuxy,
		Shares: wire.FromShares(laminate.Shares(stack)), Curvature: w.Curvature, Bow: w.Bow, BowAlong: unit.Deg(w.Along),
		Findings: wire.FromFindings(laminate.Inspect(stack, laminate.DefaultRules()))}, nil
}
