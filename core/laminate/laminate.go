package laminate

import (
	"fmt"
	"math"
)

// Lamina is the cured material of one ply: plane-stress stiffness in its own
// axes (1 along the fibre or warp) in Pa, expansion in 1/K, thickness in m and
// prepreg areal mass in kg/m².
//
// A lamina without any moduli is soft: it has thickness and mass, and carries
// nothing in its plane, as honeycomb and film adhesive nearly do.
type Lamina struct {
	E1              float64 `json:"e1" doc:"Stiffness along the fibre or warp, Pa" exclusiveMinimum:"0"`
	E2              float64 `json:"e2" doc:"Stiffness across, Pa" exclusiveMinimum:"0"`
	Nu12            float64 `json:"nu12" doc:"Poisson's ratio"`
	G12             float64 `json:"g12" doc:"Shear stiffness, Pa" exclusiveMinimum:"0"`
	Alpha1          float64 `json:"alpha1,omitempty" doc:"Expansion along, 1/K"`
	Alpha2          float64 `json:"alpha2,omitempty" doc:"Expansion across, 1/K"`
	Thickness       float64 `json:"thickness" doc:"Cured ply thickness, m" exclusiveMinimum:"0"`
	ArealMass       float64 `json:"arealMass,omitempty" doc:"Of the prepreg, kg/m²" minimum:"0"`
	AsymmetricWeave bool    `json:"asymmetricWeave,omitempty" doc:"Warp face and weft face differ"` // so a flip matters
	// FaceShift is told at [Lamina.lean].
	FaceShift  float64 `json:"faceShift,omitempty" doc:"Asymmetric weave: share by which warp prevails on the warp face" minimum:"0" maximum:"1"`
	G13        float64 `json:"g13,omitempty" doc:"Core: shear stiffness through its thickness, Pa"` // 0: stiff
	G23        float64 `json:"g23,omitempty"`
	ResinShare float64 `json:"resinShare,omitempty" doc:"Of the prepreg's mass"`
	Conducts   bool    `json:"conducts,omitempty" doc:"Carbon"` // it eats metal that it touches
}

// Kinds of layer in a stack.
const (
	KindPly  = "ply"
	KindFilm = "film adhesive"
	KindCore = "core"
	KindPeel = "peel ply" // that stays on the part
)

// Ply is one layer of a stack: its material, the fibre angle in radians and,
// for an asymmetric weave, whether the warp face looks up (to the bag). An
// empty Kind is a ply.
type Ply struct {
	Name     string
	Material string
	Kind     string
	Lamina   Lamina
	Angle    float64
	FaceUp   bool
}

// laminated says whether the layer is one of fibres.
func (p Ply) laminated() bool { return p.Kind == "" || p.Kind == KindPly }

// Soft says whether the lamina carries nothing in its plane.
func (l Lamina) Soft() bool { return l.E1 == 0 && l.E2 == 0 && l.G12 == 0 }

// Check says whether the lamina's numbers can be those of a material: all
// moduli positive and ν12 within what keeps the compliance positive definite
// (Jones, eq. 2.32: |ν12| < √(E1/E2)), or none of them for a soft one.
func (l Lamina) Check() error {
	switch {
	case l.Soft() && l.Thickness > 0:
		return nil
	case l.E1 <= 0 || l.E2 <= 0 || l.G12 <= 0:
		return fmt.Errorf("E1, E2 and G12 must be above zero")
	case math.Abs(l.Nu12) >= math.Sqrt(l.E1/l.E2):
		return fmt.Errorf("nu12 %.3g is impossible: it must stay below √(E1/E2) = %.3g", l.Nu12, math.Sqrt(l.E1/l.E2))
	case l.Thickness <= 0:
		return fmt.Errorf("the cured ply thickness must be above zero")
	}
	return nil
}

// Reduced is the plane-stress stiffness Q in the material's axes, in Pa
// (Jones, eq. 2.67).
func (l Lamina) Reduced() [3][3]float64 {
	if l.Soft() {
		return [3][3]float64{}
	}
	nu21 := l.Nu12 * l.E2 / l.E1
	d := 1 - l.Nu12*nu21
	return [3][3]float64{
		{l.E1 / d, l.Nu12 * l.E2 / d, 0},
		{l.Nu12 * l.E2 / d, l.E2 / d, 0},
		{0, 0, l.G12},
	}
}

// Turned is Q̄, the stiffness of the lamina turned by angle radians, in Pa.
func (l Lamina) Turned(angle float64) [3][3]float64 {
	q := l.Reduced()
	s, c := math.Sincos(angle)
	return turn(q[0][0], q[0][1], q[1][1], q[2][2], s, c)
}

// lean is how much stiffer the warp-face half of an asymmetric weave is than
// the mean, in its own axes: the warp-face half holds the share (1+FaceShift)/2
// of the warp and (1-FaceShift)/2 of the weft, the weft-face half the rest. The
// two halves make the ply a small B of its own, which a flip turns round; A is
// that of the even ply. (A model of two half layers; common practice, no
// source.)
func (l Lamina) lean() (q11, q22 float64) {
	q := l.Reduced()
	return l.FaceShift * q[0][0], -l.FaceShift * q[1][1]
}

// turn turns an orthotropic plane stiffness by the angle of this sine and
// cosine (Jones, eq. 2.85).
func turn(q11, q12, q22, q66, s, c float64) [3][3]float64 {
	s2, c2, sc := s*s, c*c, s*c
	b11 := q11*c2*c2 + 2*(q12+2*q66)*s2*c2 + q22*s2*s2
	b12 := (q11+q22-4*q66)*s2*c2 + q12*(s2*s2+c2*c2)
	b22 := q11*s2*s2 + 2*(q12+2*q66)*s2*c2 + q22*c2*c2
	b16 := (q11-q12-2*q66)*sc*c2 + (q12-q22+2*q66)*sc*s2
	b26 := (q11-q12-2*q66)*sc*s2 + (q12-q22+2*q66)*sc*c2
	b66 := (q11+q22-2*q12-2*q66)*s2*c2 + q66*(s2*s2+c2*c2)
	return [3][3]float64{{b11, b12, b16}, {b12, b22, b26}, {b16, b26, b66}}
}

// Expansion is the lamina's thermal expansion turned by angle: (αx, αy, αxy)
// in 1/K with αxy the engineering shear (Jones, eq. 4.68).
func (l Lamina) Expansion(angle float64) [3]float64 {
	s, c := math.Sincos(angle)
	return l.expansion(s, c)
}

func (l Lamina) expansion(s, c float64) [3]float64 {
	return [3]float64{
		l.Alpha1*c*c + l.Alpha2*s*s,
		l.Alpha1*s*s + l.Alpha2*c*c,
		2 * (l.Alpha1 - l.Alpha2) * s * c,
	}
}
