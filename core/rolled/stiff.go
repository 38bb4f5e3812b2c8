package rolled

import (
	"math"

	"juxta/core/geom"
	"juxta/core/laminate"
)

// Stiffness of a tube from its laminate: the wall's engineering constants from lamination
// theory, over the section's own geometry. The wall is taken as one stack of those constants,
// which is what thin-walled beam theory does.
type Stiffness struct {
	Ex, Gxy float64    // of the wall, Pa
	Bending [2]float64 // EI about the section's width and about its height, N m²
	Torsion float64    // GJ, N m²: of a closed section by Bredt's second formula
	Axial   float64    // EA, N
	Expands float64    // hoop expansion of the free wall, 1/K
	Hoop    float64    // Ey of the wall, Pa
	Thick   float64    // wall, m
}

// stack is the wall at a place along, from the mandrel out.
func (r Roll) stack(x float64) []laminate.Ply {
	var stack []laminate.Ply
	for _, t := range r.turns(x) {
		stack = append(stack, r.Plies(t.Sheet)...)
	}
	return stack
}

// stiffness at a place along; the zero one where nothing stiff lies.
func (r Roll) stiffness(x, wall float64) Stiffness {
	stack := r.stack(x)
	if len(stack) == 0 || !(wall > 0) {
		return Stiffness{}
	}
	st, err := laminate.StiffnessOf(stack)
	if err != nil {
		return Stiffness{}
	}
	// A closed wall cannot bend or twist freely: its coupling is held, and its constants are
	// those of its plane alone.
	a := st.A
	h := st.Thickness
	inverse, ok := inverse3(a)
	if !ok {
		return Stiffness{}
	}
	out := Stiffness{Thick: h, Ex: 1 / (inverse[0][0] * h), Hoop: 1 / (inverse[1][1] * h), Gxy: 1 / (inverse[2][2] * h)}
	for k := range 3 {
		out.Expands += inverse[1][k] * st.NT[k]
	}
	s := r.Mandrel.At(x)
	slope := r.Mandrel.slope()
	depth := wall / slope
	ix0, iy0 := moments(s, 0)
	ix1, iy1 := moments(s, depth)
	area := s.Area(depth) - s.Area(0)
	out.Axial = out.Ex * area
	out.Bending = [2]float64{out.Ex * (ix1 - ix0), out.Ex * (iy1 - iy0)}
	if s.Kind == Round {
		// Exact for a round tube of any wall.
		out.Torsion = out.Gxy * (ix1 - ix0 + iy1 - iy0)
	} else {
		mid := s.Area(depth / 2)
		out.Torsion = out.Gxy * 4 * mid * mid * depth / s.Perimeter(depth/2)
	}
	return out
}

// moments are the second moments of the area inside a curve about its width and its height.
func moments(s Section, depth float64) (aboutWidth, aboutHeight float64) {
	switch s.Kind {
	case Round:
		i := math.Pi / 64 * math.Pow(s.Width+2*depth, 4)
		return i, i
	}
	return secondMoments(s.Drawn(depth))
}

// secondMoments of a polygon about the axes (Green's theorem).
func secondMoments(ring geom.Ring) (aboutX, aboutY float64) {
	for i, p := range ring {
		q := ring[(i+1)%len(ring)]
		cross := p.X*q.Y - q.X*p.Y
		aboutX += cross * (p.Y*p.Y + p.Y*q.Y + q.Y*q.Y) / 12
		aboutY += cross * (p.X*p.X + p.X*q.X + q.X*q.X) / 12
	}
	return aboutX, aboutY
}

func inverse3(a [3][3]float64) (out [3][3]float64, ok bool) {
	det := a[0][0]*(a[1][1]*a[2][2]-a[1][2]*a[2][1]) - a[0][1]*(a[1][0]*a[2][2]-a[1][2]*a[2][0]) +
		a[0][2]*(a[1][0]*a[2][1]-a[1][1]*a[2][0])
	if !(math.Abs(det) > 0) {
		return out, false
	}
	for i := range 3 {
		for j := range 3 {
			p, q, r, s := (j+1)%3, (j+2)%3, (i+1)%3, (i+2)%3
			out[i][j] = (a[p][r]*a[q][s] - a[p][s]*a[q][r]) / det
		}
	}
	return out, true
}

// SweepPoint is what an angle makes of a tube.
type SweepPoint struct {
	Angle   float64
	Bending [2]float64 // at the first end
	Torsion float64
}

// Sweep turns sheets, those at a positive angle one way and those at a negative the other,
// through all angles from 0 to 90° in so many steps, and gives the stiffness at the first end.
func (r Roll) Sweep(sheets []int, steps int) []SweepPoint {
	var out []SweepPoint
	try := r
	for k := range steps + 1 {
		angle := math.Pi / 2 * float64(k) / float64(steps)
		try.Sheets = append([]Sheet{}, r.Sheets...)
		for _, i := range sheets {
			try.Sheets[i].Angle = math.Copysign(angle, r.Sheets[i].Angle)
		}
		wall := 0.0
		for _, t := range try.turns(0) {
			wall += r.thickness(r.Sheets[t.Sheet])
		}
		s := try.stiffness(0, wall)
		out = append(out, SweepPoint{angle, s.Bending, s.Torsion})
	}
	return out
}

// AnglesFor are the angles of a sweep at which a stiffness comes to what is wanted, in between
// its steps along straight lines.
func AnglesFor(swept []SweepPoint, want float64, of func(SweepPoint) float64) []float64 {
	var out []float64
	for k := 1; k < len(swept); k++ {
		a, b := of(swept[k-1])-want, of(swept[k])-want
		if a == 0 && k == 1 {
			out = append(out, swept[0].Angle)
		}
		if b == 0 || a*b < 0 {
			out = append(out, swept[k-1].Angle+a/(a-b)*(swept[k].Angle-swept[k-1].Angle))
		}
	}
	return out
}
