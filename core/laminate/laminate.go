// Package laminate works out what a stack of plies is: thickness, mass,
// stiffness by classical lamination theory, warp after cure, and the shop's
// rules of symmetry and balance.
//
// The z convention, everywhere: ply 1 lies on the tool; z is measured from
// mid-plane, positive away from the tool. Angles are anticlockwise seen from
// the bag side, in radians. Strains, forces and moments are engineering
// values ordered (x, y, xy); M and κ are those of Jones, Mechanics of
// Composite Materials, 2nd ed., ch. 4 (equation numbers from memory).
package laminate

import (
	"fmt"
	"math"

	"gonum.org/v1/gonum/mat"
)

// Lamina is the cured material of one ply: plane-stress stiffness in its own
// axes (1 along the fibre or warp) in Pa, expansion in 1/K, thickness in m and
// prepreg areal mass in kg/m².
type Lamina struct {
	E1, E2, Nu12, G12 float64
	Alpha1, Alpha2    float64
	Thickness         float64
	ArealMass         float64
	AsymmetricWeave   bool // warp and weft face differ, so a flip matters
}

// Ply is one layer of a stack: its material, the fibre angle in radians and,
// for an asymmetric weave, whether the warp face looks up (to the bag).
type Ply struct {
	Name     string
	Material string
	Lamina   Lamina
	Angle    float64
	FaceUp   bool
}

// Stiffness of a laminate: N = A ε + B κ, M = B ε + D κ.
// A in N/m, B in N, D in N m.
type Stiffness struct {
	A, B, D   [3][3]float64
	Thickness float64
}

// Check says whether the lamina's numbers can be those of a material: all
// moduli positive and ν12 within what keeps the compliance positive definite
// (Jones, eq. 2.32: |ν12| < √(E1/E2)).
func (l Lamina) Check() error {
	switch {
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
	nu21 := l.Nu12 * l.E2 / l.E1
	d := 1 - l.Nu12*nu21
	return [3][3]float64{
		{l.E1 / d, l.Nu12 * l.E2 / d, 0},
		{l.Nu12 * l.E2 / d, l.E2 / d, 0},
		{0, 0, l.G12},
	}
}

// Turned is Q̄, the stiffness of the lamina turned by angle radians, in Pa
// (Jones, eq. 2.85).
func (l Lamina) Turned(angle float64) [3][3]float64 {
	q := l.Reduced()
	s, c := math.Sincos(angle)
	s2, c2, sc := s*s, c*c, s*c
	q11, q12, q22, q66 := q[0][0], q[0][1], q[1][1], q[2][2]
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
	return [3]float64{
		l.Alpha1*c*c + l.Alpha2*s*s,
		l.Alpha1*s*s + l.Alpha2*c*c,
		2 * (l.Alpha1 - l.Alpha2) * s * c,
	}
}

// interfaces are the z of the n+1 ply faces, from the tool side, in m.
func interfaces(stack []Ply) []float64 {
	z := make([]float64, len(stack)+1)
	for i, p := range stack {
		z[i+1] = z[i] + p.Lamina.Thickness
	}
	half := z[len(stack)] / 2
	for i := range z {
		z[i] -= half
	}
	return z
}

// Stiff integrates the stack's A, B and D (Jones, eq. 4.22 to 4.24). The stack
// must not be empty and every lamina must pass [Lamina.Check]; the error names
// the ply.
func Stiff(stack []Ply) (Stiffness, error) {
	if len(stack) == 0 {
		return Stiffness{}, fmt.Errorf("the stack has no plies")
	}
	z := interfaces(stack)
	s := Stiffness{Thickness: z[len(stack)] - z[0]}
	for i, p := range stack {
		if err := p.Lamina.Check(); err != nil {
			return Stiffness{}, fmt.Errorf("ply %s: %w", p.Name, err)
		}
		q := p.Lamina.Turned(p.Angle)
		lo, hi := z[i], z[i+1]
		for r := range 3 {
			for c := range 3 {
				s.A[r][c] += q[r][c] * (hi - lo)
				s.B[r][c] += q[r][c] * (hi*hi - lo*lo) / 2
				s.D[r][c] += q[r][c] * (hi*hi*hi - lo*lo*lo) / 3
			}
		}
	}
	return s, nil
}

// matrix is the 6 × 6 of [A B; B D].
func (s Stiffness) matrix() *mat.Dense {
	m := mat.NewDense(6, 6, nil)
	for r := range 3 {
		for c := range 3 {
			m.Set(r, c, s.A[r][c])
			m.Set(r, c+3, s.B[r][c])
			m.Set(r+3, c, s.B[r][c])
			m.Set(r+3, c+3, s.D[r][c])
		}
	}
	return m
}

// Response is the mid-plane strain and curvature (1/m) under forces N (N/m)
// and moments M (N).
func (s Stiffness) Response(force, moment [3]float64) (strain, curvature [3]float64, err error) {
	load := mat.NewVecDense(6, append(force[:], moment[:]...))
	var x mat.VecDense
	if err := x.SolveVec(s.matrix(), load); err != nil {
		return strain, curvature, fmt.Errorf("the stack's stiffness cannot be inverted: %w", err)
	}
	for i := range 3 {
		strain[i], curvature[i] = x.AtVec(i), x.AtVec(i+3)
	}
	return strain, curvature, nil
}

// Constants are the in-plane engineering constants of the laminate, with its
// coupling left free: Ex, Ey, Gxy in Pa and νxy.
type Constants struct{ Ex, Ey, Gxy, Nuxy float64 }

// Engineering inverts [A B; B D] and reads the constants off its compliance
// (Jones, §4.3; for a symmetric stack they are those of A alone).
func (s Stiffness) Engineering() (Constants, error) {
	var inv mat.Dense
	if err := inv.Inverse(s.matrix()); err != nil {
		return Constants{}, fmt.Errorf("the stack's stiffness cannot be inverted: %w", err)
	}
	h := s.Thickness
	return Constants{
		Ex: 1 / (inv.At(0, 0) * h), Ey: 1 / (inv.At(1, 1) * h), Gxy: 1 / (inv.At(2, 2) * h),
		Nuxy: -inv.At(0, 1) / inv.At(0, 0),
	}, nil
}

// Warp is the shape that a stack takes, free of the tool, after a temperature
// change of deltaT kelvin (negative for cooling from cure): curvatures κx, κy,
// κxy in 1/m, and the bow in m over a span, taken along the direction in which
// it is worst (shallow arc: κ L²/8).
type Warp struct {
	Curvature [3]float64
	Bow       float64
	Along     float64 // direction of the worst bow, radians
}

// Warped works the warp out from the thermal forces and moments of each ply
// (Jones, §4.6).
func Warped(stack []Ply, deltaT, span float64) (Warp, error) {
	s, err := Stiff(stack)
	if err != nil {
		return Warp{}, err
	}
	var n, m [3]float64
	z := interfaces(stack)
	for i, p := range stack {
		q, a := p.Lamina.Turned(p.Angle), p.Lamina.Expansion(p.Angle)
		lo, hi := z[i], z[i+1]
		for r := range 3 {
			sigma := (q[r][0]*a[0] + q[r][1]*a[1] + q[r][2]*a[2]) * deltaT
			n[r] += sigma * (hi - lo)
			m[r] += sigma * (hi*hi - lo*lo) / 2
		}
	}
	_, k, err := s.Response(n, m)
	if err != nil {
		return Warp{}, err
	}
	// κ(θ) = κx cos²θ + κy sin²θ + κxy sinθ cosθ has its extremes on the
	// principal directions.
	mean, half, twist := (k[0]+k[1])/2, (k[0]-k[1])/2, k[2]/2
	radius := math.Hypot(half, twist)
	along, worst := math.Atan2(twist, half)/2, mean+radius
	if math.Abs(mean-radius) > math.Abs(worst) {
		along, worst = along+math.Pi/2, mean-radius
	}
	w := Warp{Curvature: k, Bow: math.Abs(worst) * span * span / 8, Along: along}
	// What is left of a symmetric stack is rounding: call it flat.
	if w.Bow < 1e-9*span {
		return Warp{}, nil
	}
	return w, nil
}
