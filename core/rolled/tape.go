package rolled

import (
	"fmt"
	"math"

	"juxta/core/unit"
)

// Tape is how a wall is taped for its cure: the tape's width, its advance a turn, layers of
// it over each other (the first releases), and the tension that it is wound with.
type Tape struct {
	Width, Pitch float64
	Layers       int
	Tension      float64 // N
	Beyond       float64 // wound beyond the part at either end
}

// TapeWinding is what a tape plan comes to.
type TapeWinding struct {
	Overlap float64 // share of its width that lies on the turn before; below 0: a gap
	Turns   float64 // of one layer
	Length  float64 // of one layer, on the spool
	Total   float64 // of all layers
	Covers  float64 // layers over a place on average
	// Estimates in closed form, for tape that neither stretches nor slips: a tension T in a
	// band of width w over a radius R presses by T/(wR) (the boiler formula the other way round).
	Pressure float64 // where the section is roundest, all layers, Pa
	Least    float64 // where it is flattest: nothing on a flat
	Findings []string
}

// Check says what cannot be right about a tape plan.
func (t Tape) Check() error {
	switch {
	case !(t.Width > 0) || t.Width > 1:
		return fmt.Errorf("the tape width must be above zero and at most 1 m")
	case !(t.Pitch > 0) || t.Pitch > 10*t.Width:
		return fmt.Errorf("the tape's pitch must be above zero and below ten of its widths")
	case t.Layers < 1 || t.Layers > 50:
		return fmt.Errorf("a tape plan has 1 to 50 layers")
	case !(t.Tension >= 0) || t.Tension > 1e5 || !(t.Beyond >= 0) || t.Beyond > 10:
		return fmt.Errorf("tension, and what is wound beyond the part, cannot be below zero")
	}
	return nil
}

// Tape works a tape plan out over what is rolled.
func (r Roll) Tape(t Tape, w Analysis) (TapeWinding, error) {
	if err := t.Check(); err != nil {
		return TapeWinding{}, err
	}
	slope := r.Mandrel.slope()
	from, to := -t.Beyond, r.Mandrel.Length+t.Beyond
	out := TapeWinding{Overlap: 1 - t.Pitch/t.Width, Covers: t.Width / t.Pitch * float64(t.Layers)}
	out.Turns = (to-from)/slope/t.Pitch + 1 // the last turn closes
	wall := func(x float64) float64 {
		share := x / r.Mandrel.Length
		return w.Wall[0] + (w.Wall[1]-w.Wall[0])*min(1, max(0, share))
	}
	const n = 64
	sum := 0.0
	for k := range n {
		x := from + (to-from)*(float64(k)+0.5)/n
		sum += math.Hypot(r.Mandrel.At(x).Perimeter(wall(x)/slope), t.Pitch) / n
	}
	out.Length = sum * out.Turns
	out.Total = out.Length * float64(t.Layers)
	tight, flat := curvatures(r.Mandrel.First, w.Wall[0]/slope)
	out.Pressure = t.Tension / t.Width * tight * out.Covers
	out.Least = t.Tension / t.Width * flat * out.Covers
	if out.Overlap < 0 {
		out.Findings = append(out.Findings, fmt.Sprintf("the tape leaves gaps of %s: what lies there is not pressed",
			unit.Size(t.Pitch-t.Width, 1)))
	}
	if flat == 0 && t.Tension > 0 {
		out.Findings = append(
			out.Findings,
			"tape presses the corners and not the flats: lay pressure strips or a caul over these, by the shop's "+
				"own practice",
		)
	}
	return out, nil
}

// curvatures are the largest and the least of a section's outside at a depth, 1/m.
func curvatures(s Section, depth float64) (most, least float64) {
	switch s.Kind {
	case Round:
		c := 1 / (s.Width/2 + depth)
		return c, c
	case Ellipse:
		a, b := max(s.Width, s.Height)/2, min(s.Width, s.Height)/2
		return 1 / (b*b/a + depth), 1 / (a*a/b + depth)
	}
	return 1 / (s.radius() + depth), 0
}

// Pull is what a mandrel is and how it is pulled.
type Pull struct {
	Expands  float64 // of the mandrel, 1/K
	Modulus  float64 // Pa
	Poisson  float64
	Bore     float64 // of a hollow one, across; 0: solid
	Cools    float64 // from where the resin is hard to where it is pulled, K, above 0
	Friction float64
	Limit    float64 // of the puller, N; 0: not said
}

// PullEstimate is how a mandrel comes out.
type PullEstimate struct {
	Hoop     float64 // free expansion of the wall round, 1/K, from lamination theory
	Gap      float64 // across, between mandrel and wall; below 0: they would overlap, it grips
	Pressure float64 // of the grip, Pa
	Force    float64 // to break it loose, N
	Free     float64 // on a taper: how far it is pulled until it is free; 0: all along
	Warning  string  // when it will not come off, or may not
}

// Check says what cannot be right.
func (p Pull) Check() error {
	switch {
	case !(p.Modulus > 0) || p.Poisson < -0.5 || p.Poisson >= 0.5:
		return fmt.Errorf("the mandrel's modulus must be above zero, and its Poisson's ratio below a half")
	case !(p.Cools >= 0) || p.Cools > 600:
		return fmt.Errorf("from the cure to the pull it cools by 0 to 600 K")
	case !(p.Friction >= 0) || p.Friction > 2 || !(p.Limit >= 0) || !(p.Bore >= 0) || math.Abs(p.Expands) > 1e-3:
		return fmt.Errorf("friction lies between 0 and 2, the puller's limit and the bore not below zero")
	}
	return nil
}

// Pull estimates how the mandrel comes out once both have cooled: the clearance from free
// expansions, and where it grips, the pressure of a shrink fit of the wall as a thin ring of
// its hoop modulus on the mandrel as a cylinder in plane stress (Timoshenko, Strength of
// Materials II, shrink fits). A section that is not round is taken as a round one of its perimeter.
func (r Roll) Pull(p Pull, w Analysis) (PullEstimate, error) {
	if err := p.Check(); err != nil {
		return PullEstimate{}, err
	}
	st := w.Stiff[0]
	if !(st.Hoop > 0) {
		return PullEstimate{}, fmt.Errorf("nothing stiff is rolled: there is no wall that could grip")
	}
	d := r.Mandrel.At(r.Mandrel.Length/2).Perimeter(0) / math.Pi
	out := PullEstimate{Hoop: st.Expands, Gap: d * (p.Expands - st.Expands) * p.Cools}
	if p.Bore >= d {
		return PullEstimate{}, fmt.Errorf("the mandrel's bore of %s is as wide as the mandrel", unit.Size(p.Bore, 0))
	}
	if out.Gap >= 0 {
		return out, nil
	}
	// Strain of the mandrel by a pressure of 1 all round, plane stress.
	k := p.Bore / d
	mandrel := ((1+k*k)/(1-k*k) - p.Poisson) / p.Modulus
	wall := (d/2 + st.Thick/2) / (st.Hoop * st.Thick)
	out.Pressure = -out.Gap / d / (mandrel + wall)
	out.Force = p.Friction * out.Pressure * math.Pi * d * r.Mandrel.Length
	if r.Mandrel.Tapered() {
		rise := math.Abs(r.Mandrel.Last.perimeter()-r.Mandrel.First.perimeter()) / math.Pi / r.Mandrel.Length
		out.Free = -out.Gap / rise
	}
	switch {
	case p.Limit > 0 && out.Force > p.Limit:
		out.Warning = fmt.Sprintf("it will not come off: some %.1f kN are needed, the puller's limit is %.1f kN",
			out.Force/1e3, p.Limit/1e3)
	case p.Limit > 0 && out.Force > p.Limit/2:
		out.Warning = fmt.Sprintf(
			"it may not come off: some %.1f kN are needed, more than half of the puller's limit of %.1f kN",
			out.Force/1e3,
			p.Limit/1e3,
		)
	}
	return out, nil
}
