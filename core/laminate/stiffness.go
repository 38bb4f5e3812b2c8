package laminate

import (
	"fmt"
	"math"

	"gonum.org/v1/gonum/mat"
)

// Stiffness of a laminate: N = A ε + B κ − N_T ΔT and M = B ε + D κ − M_T ΔT.
// A in N/m, B in N, D in N m; NT in N/(m K) and MT in N/K are what a kelvin
// does to a stack that is held.
type Stiffness struct {
	A, B, D   [3][3]float64
	NT, MT    [3]float64
	Thickness float64
}

// StiffnessOf integrates the stack's A, B and D (Jones, eq. 4.22 to 4.24) and its
// thermal forces (§4.6) in one pass. The stack must not be empty, something in
// it must be stiff, and every lamina must pass [Lamina.Check]; the error names
// the ply.
func StiffnessOf(stack []Ply) (Stiffness, error) {
	if len(stack) == 0 {
		return Stiffness{}, fmt.Errorf("the stack has no plies")
	}
	var st Stiffness
	for i := range stack {
		st.Thickness += stack[i].Lamina.Thickness
	}
	lo, soft := -st.Thickness/2, true
	for i := range stack {
		p := &stack[i]
		if err := p.Lamina.Check(); err != nil {
			return Stiffness{}, fmt.Errorf("ply %s: %w", p.Name, err)
		}
		hi := lo + p.Lamina.Thickness
		if p.Lamina.Soft() {
			lo = hi
			continue
		}
		soft = false
		q := p.Lamina.Reduced()
		s, c := math.Sincos(p.Angle)
		turned, a := turn(q[0][0], q[0][1], q[1][1], q[2][2], s, c), p.Lamina.expansion(s, c)
		st.add(turned, a, hi-lo, (hi*hi-lo*lo)/2, (hi*hi*hi-lo*lo*lo)/3)
		if p.Lamina.AsymmetricWeave && p.Lamina.FaceShift != 0 {
			// Above the ply's middle the warp half if its warp face looks up:
			// nothing in A, ±t²/4 in B, ±z t²/2 in D. The fibre that makes the
			// difference hardly expands, so that the thermal force does not lean.
			q11, q22 := p.Lamina.lean()
			t, mid := hi-lo, (hi+lo)/2
			if !p.FaceUp {
				t = -t
			}
			st.add(turn(q11, 0, q22, 0, s, c), [3]float64{}, 0, math.Abs(t)*t/4, math.Abs(t)*t/2*mid)
		}
		lo = hi
	}
	if soft {
		return Stiffness{}, fmt.Errorf("nothing in the stack is stiff: it has no plies of fibre")
	}
	return st, nil
}

// add adds a layer by the zeroth, first and second moment of its thickness.
func (st *Stiffness) add(q [3][3]float64, alpha [3]float64, t, t2, t3 float64) {
	for r := range 3 {
		sum := 0.0
		for c := range 3 {
			st.A[r][c] += q[r][c] * t
			st.B[r][c] += q[r][c] * t2
			st.D[r][c] += q[r][c] * t3
			sum += q[r][c] * alpha[c]
		}
		st.NT[r] += sum * t
		st.MT[r] += sum * t2
	}
}

// Compliance is the inverse of [A B; B D].
type Compliance [6][6]float64

// Invert gives the compliance; the error says that nothing holds the laminate
// in some direction.
func (st Stiffness) Invert() (Compliance, error) {
	// Scaled by the thickness, so that the parts are of one size and a thin
	// stack is not taken for a singular one.
	h := st.Thickness
	flat := make([]float64, 36)
	for r := range 3 {
		for c := range 3 {
			flat[6*r+c] = st.A[r][c]
			flat[6*r+c+3] = st.B[r][c] / h
			flat[6*(r+3)+c] = st.B[r][c] / h
			flat[6*(r+3)+c+3] = st.D[r][c] / h / h
		}
	}
	var inv mat.Dense
	if err := inv.Inverse(mat.NewDense(6, 6, flat)); err != nil {
		return Compliance{}, fmt.Errorf("the stack's stiffness cannot be inverted: %w", err)
	}
	var s Compliance
	for r := range 6 {
		for c := range 6 {
			scale := 1.0
			if r > 2 {
				scale /= h
			}
			if c > 2 {
				scale /= h
			}
			s[r][c] = inv.At(r, c) * scale
		}
	}
	return s, nil
}

// Response is the mid-plane strain and curvature (1/m) under forces N (N/m)
// and moments M (N).
func (s Compliance) Response(force, moment [3]float64) (strain, curvature [3]float64) {
	for r := range 3 {
		for c := range 3 {
			strain[r] += s[r][c]*force[c] + s[r][c+3]*moment[c]
			curvature[r] += s[r+3][c]*force[c] + s[r+3][c+3]*moment[c]
		}
	}
	return strain, curvature
}

// Constants are the engineering constants of the laminate with its coupling
// left free: in-plane Ex, Ey, Gxy in Pa, νxy, expansion in 1/K; and in bending
// Efx and Efy in Pa.
type Constants struct {
	Ex, Ey, Gxy, Nuxy float64
	Efx, Efy          float64
	Alphax, Alphay    float64
}

// Engineering reads the constants off the compliance (Jones, §4.3; for a
// symmetric stack the in-plane ones are those of A alone).
func (st Stiffness) Engineering(s Compliance) Constants {
	h := st.Thickness
	strain, _ := s.Response(st.NT, st.MT)
	return Constants{
		Ex: 1 / (s[0][0] * h), Ey: 1 / (s[1][1] * h), Gxy: 1 / (s[2][2] * h), Nuxy: -s[0][1] / s[0][0],
		Efx: 12 / (s[3][3] * h * h * h), Efy: 12 / (s[4][4] * h * h * h),
		Alphax: strain[0], Alphay: strain[1],
	}
}

// Warp is the shape that a stack takes, free of the tool, after a temperature
// change (negative for cooling from cure): curvatures κx, κy, κxy in 1/m, and
// the bow in m over a span, taken along the direction in which it is worst
// (shallow arc: κ L²/8).
type Warp struct {
	Curvature [3]float64
	Bow       float64
	Along     float64 // direction of the worst bow, radians
}

// Warp works the warp out from the thermal forces and moments of a temperature
// change deltaT in K (Jones, §4.6).
func (st Stiffness) Warp(s Compliance, deltaT, span float64) Warp {
	_, k := s.Response(scaled(st.NT, deltaT), scaled(st.MT, deltaT))
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
		return Warp{}
	}
	return w
}

// WarpOf is the warp of a stack; see [Stiffness.Warp].
func WarpOf(stack []Ply, deltaT, span float64) (Warp, error) {
	st, err := StiffnessOf(stack)
	if err != nil {
		return Warp{}, err
	}
	s, err := st.Invert()
	if err != nil {
		return Warp{}, err
	}
	return st.Warp(s, deltaT, span), nil
}

func scaled(v [3]float64, k float64) [3]float64 { return [3]float64{v[0] * k, v[1] * k, v[2] * k} }
