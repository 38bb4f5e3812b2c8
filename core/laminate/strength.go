package laminate

import (
	"fmt"
	"math"
)

// Strength of a lamina in its own axes, all positive, in Pa: tension and
// compression along (XT, XC) and across (YT, YC), and shear in plane.
type Strength struct{ XT, XC, YT, YC, S float64 }

// Known says whether all five values are given.
func (s Strength) Known() bool { return s.XT > 0 && s.XC > 0 && s.YT > 0 && s.YC > 0 && s.S > 0 }

// Load is a load case: forces N in N/m and moments M in N per width, and a
// temperature change in K.
type Load struct {
	N, M   [3]float64
	DeltaT float64
}

// PlyStress is what a load does to one ply, at the face that fails first. Index is
// that of first ply failure: failure where it reaches 1. Both grow with the load,
// Tsai–Wu not in proportion to it; Reserve is the factor by which the forces and
// moments may grow until Tsai–Wu reaches 1, the temperature staying as it is.
type PlyStress struct {
	Ply       string
	Z         float64    // of that face, m from mid-plane
	Strain    [3]float64 // total, laminate axes
	Stress    [3]float64 // material axes: along, across, shear, Pa
	MaxStress float64    // index by maximum stress
	Mode      string     // that governs it
	TsaiWu    float64    // index
	Reserve   float64
}

// Stresses works out every ply's stress under a load (Jones, eq. 4.17) and
// holds it against its strength by maximum stress (Jones, §2.9.1) and by
// Tsai–Wu with F12 = −½√(F11 F22) (Tsai & Wu 1971; Tsai & Hahn, ch. 7). Plies
// without known strength carry no index. It is a check for the shop, not a
// certification: it knows neither impact, holes, free edges nor fatigue.
func Stresses(stack []Ply, strengths map[string]Strength, load Load) ([]PlyStress, error) {
	st, err := StiffnessOf(stack)
	if err != nil {
		return nil, err
	}
	s, err := st.Invert()
	if err != nil {
		return nil, err
	}
	var total [2][3]float64
	for i := range 3 {
		total[0][i] = load.N[i] + st.NT[i]*load.DeltaT
		total[1][i] = load.M[i] + st.MT[i]*load.DeltaT
	}
	strain, k := s.Response(total[0], total[1])
	thermal, thermalK := s.Response(scaled(st.NT, load.DeltaT), scaled(st.MT, load.DeltaT))
	out := make([]PlyStress, 0, len(stack))
	lo := -st.Thickness / 2
	for _, p := range stack {
		hi := lo + p.Lamina.Thickness
		if p.Lamina.Soft() {
			lo = hi
			continue
		}
		strength, worst := strengths[p.Material], PlyStress{}
		for _, z := range []float64{lo, hi} {
			at := PlyStress{Ply: p.Name, Z: z}
			var fixed [3]float64
			for i := range 3 {
				at.Strain[i] = strain[i] + z*k[i]
				fixed[i] = thermal[i] + z*thermalK[i]
			}
			at.Stress = p.stress(at.Strain, load.DeltaT)
			if strength.Known() {
				at.MaxStress, at.Mode = strength.maximum(at.Stress)
				at.TsaiWu, at.Reserve = strength.tsaiWu(at.Stress, p.stress(fixed, load.DeltaT))
			}
			if z == lo ||
				at.Mode != "" &&
					(at.Reserve < worst.Reserve || at.Reserve == worst.Reserve && at.TsaiWu > worst.TsaiWu) {
				worst = at
			}
		}
		out = append(out, worst)
		lo = hi
	}
	if len(out) == 0 {
		return nil, fmt.Errorf("nothing in the stack is stiff")
	}
	return out, nil
}

// stress is the ply's stress in its own axes under a strain in laminate axes
// and a temperature change.
func (p Ply) stress(strain [3]float64, deltaT float64) [3]float64 {
	s, c := math.Sincos(p.Angle)
	a := p.Lamina.expansion(s, c)
	var free [3]float64
	for i := range 3 {
		free[i] = strain[i] - a[i]*deltaT
	}
	// Strain turned into the ply's axes (Jones, eq. 2.79 for engineering shear).
	e1 := c*c*free[0] + s*s*free[1] + s*c*free[2]
	e2 := s*s*free[0] + c*c*free[1] - s*c*free[2]
	g := -2*s*c*free[0] + 2*s*c*free[1] + (c*c-s*s)*free[2]
	q := p.Lamina.Reduced()
	return [3]float64{q[0][0]*e1 + q[0][1]*e2, q[0][1]*e1 + q[1][1]*e2, q[2][2] * g}
}

func (s Strength) maximum(stress [3]float64) (index float64, mode string) {
	index = -1
	for _, m := range []struct {
		name  string
		value float64
	}{
		{"tension along", stress[0] / s.XT}, {"compression along", -stress[0] / s.XC},
		{"tension across", stress[1] / s.YT}, {"compression across", -stress[1] / s.YC},
		{"shear", math.Abs(stress[2]) / s.S},
	} {
		if m.value > index {
			index, mode = m.value, m.name
		}
	}
	return index, mode
}

// tsaiWu is the index of a stress, and the factor R on its part beyond fixed
// at which the index reaches 1: the positive root of a R² + b R + c = 1.
func (s Strength) tsaiWu(stress, fixed [3]float64) (index, reserve float64) {
	f1, f2 := 1/s.XT-1/s.XC, 1/s.YT-1/s.YC
	f11, f22, f66 := 1/(s.XT*s.XC), 1/(s.YT*s.YC), 1/(s.S*s.S)
	f12 := -math.Sqrt(f11*f22) / 2
	quad := func(a, b [3]float64) float64 {
		return f11*a[0]*b[0] + f22*a[1]*b[1] + f66*a[2]*b[2] + f12*(a[0]*b[1]+a[1]*b[0])
	}
	linear := func(a [3]float64) float64 { return f1*a[0] + f2*a[1] }
	index = linear(stress) + quad(stress, stress)
	var d [3]float64
	for i := range 3 {
		d[i] = stress[i] - fixed[i]
	}
	a, b, c := quad(d, d), linear(d)+2*quad(d, fixed), linear(fixed)+quad(fixed, fixed)-1
	switch disc := b*b - 4*a*c; {
	case a < 1e-300:
		return index, math.Inf(1) // no load beyond the temperature
	case c >= 0:
		return index, 0 // the temperature alone is too much
	default:
		return index, (-b + math.Sqrt(disc)) / (2 * a)
	}
}

// FirstPly is the ply that fails first under a load: the one with the least
// reserve. There is none where no strength is known.
func FirstPly(all []PlyStress) (PlyStress, bool) {
	var first PlyStress
	found := false
	for _, p := range all {
		if p.Mode != "" &&
			(!found || p.Reserve < first.Reserve || p.Reserve == first.Reserve && p.TsaiWu > first.TsaiWu) {
			first, found = p, true
		}
	}
	return first, found
}
