package rolled

import (
	"fmt"
	"math"

	"juxta/core/geom"
	"juxta/core/unit"
)

// Steepest is how far a helix may lie from the mandrel's axis.
const steepest = 85 * math.Pi / 180

func (r Roll) checkSpiral(s Sheet, perimeter float64, add func(field, format string, args ...any)) {
	h := math.Abs(s.helix())
	if h > steepest {
		add("helix", "a spiral's edges lie at most 85° from the axis: nearer to a hoop it is tape")
		return
	}
	from, to := r.ends(s)
	if turns := (to - from) * math.Tan(h) / perimeter; turns > 200 {
		add("helix", "a spiral goes round 200 times at most")
	}
	if s.wider() <= -perimeter*math.Cos(h) {
		add("width", "a gap of %s leaves nothing of the ply", unit.Size(s.Width, 0))
	}
}

func (r Roll) checkStrips(s Sheet, perimeter float64, add func(field, format string, args ...any)) {
	switch {
	case !(s.Strip > 0):
		add("strip", "strips need a width")
	case s.Strip > perimeter:
		add("strip", "a strip of %s is wider than the way round, %s", unit.Size(s.Strip, 0), unit.Size(perimeter, 0))
	case math.Abs(s.Angle) > 89.5*math.Pi/180:
		add("angle", "strips advance: they lie at most 89.5° from the axis")
	case s.starts() > 500:
		add("starts", "at most 500 strips go side by side")
	}
}

// layersOf is how many layers strips come to on average where the way round is p.
func (s Sheet) layersOf(p float64) float64 {
	return s.Strip * float64(s.starts()) / (p * math.Cos(s.Angle))
}

// helical develops a spiral, or strips.
func (r Roll) helical(c curves, m *FlatSheet, places []along) {
	s, slope := m.Sheet, r.Mandrel.slope()
	from, to := places[0].x, places[len(places)-1].x
	middle := r.Mandrel.At((from + to) / 2).Perimeter(m.Depth / slope)
	h := s.helix()
	m.Pitch = math.Inf(1)
	if h != 0 {
		m.Pitch = middle / math.Abs(math.Tan(h))
	}
	// The pitch stays, the angle follows the way round.
	at := func(perimeter float64) float64 {
		if h == 0 {
			return 0
		}
		return math.Copysign(math.Atan(perimeter/m.Pitch), h)
	}
	if s.how() == Spiral {
		r.spiralled(c, m, places, h)
		return
	}
	ends := [2]float64{at(m.Perimeter[0]), at(m.Perimeter[1])}
	m.Angles = [2]float64{min(ends[0], ends[1]), max(ends[0], ends[1])}
	for e, p := range m.Perimeter {
		m.Covered[e] = 1 - p*math.Cos(ends[e])/float64(s.starts())/s.Strip
	}
	// Along the strip: the way of its middle on the surface, by Simpson's rule.
	const n = 64
	sum := 0.0
	for k := range n + 1 {
		x := from + (to-from)*float64(k)/n
		weight := 2.0
		if k%2 == 1 {
			weight = 4
		}
		if k == 0 || k == n {
			weight = 1
		}
		sum += weight / math.Cos(at(r.Mandrel.At(x).Perimeter(m.Depth/slope)))
	}
	m.Length = sum * (to - from) / n / 3 / slope
	m.Across, m.Shape, m.Pieces = s.Strip, "strip", s.starts()
	m.Flat = geom.Rect(m.Length, m.Across)
	m.Area = m.Flat.Area() * float64(m.Pieces)
	m.Mass = m.Area * s.Material.Lamina.ArealMass
	m.ArealMass = s.Material.Lamina.ArealMass * s.layersOf(middle)
}

// spiralled develops one sheet whose edges run round in a helix and meet: what lies between
// the helix and itself a turn on, unrolled.
func (r Roll) spiralled(c curves, m *FlatSheet, places []along, h float64) {
	s := m.Sheet
	from, to := places[0].x, places[len(places)-1].x
	m.Shape = "parallelogram"
	wider := s.wider() / math.Cos(h) // along the way round
	if !r.Mandrel.Tapered() {
		p := r.Mandrel.First.Perimeter(m.Depth)
		half, rise := (p+wider)/2, (to-from)*math.Tan(h)
		m.Flat = geom.Ring{
			{X: 0, Y: -half},
			{X: to - from, Y: rise - half},
			{X: to - from, Y: rise + half},
			{X: 0, Y: half},
		}
		m.Across = (p + wider) * math.Cos(h)
	} else {
		m.Shape = "facet chain"
		turns := (to - from) / m.Pitch
		if math.IsInf(m.Pitch, 1) {
			turns = 0
		}
		d, low, high := r.Mandrel.unrolled(c, along{from, m.Depth}, along{to, m.Depth}, math.Copysign(turns, h), wider)
		m.Flat = d.ring
		m.Angles = [2]float64{s.Angle - d.max, s.Angle - d.min}
		m.Across = geom.Ring(append(low, high...)).Rotate(-h).Bounds().Height()
	}
	box := m.Flat.Bounds()
	m.Flat = m.Flat.Move(-box.Min.X, -box.Min.Y)
	m.Fibre = s.Angle
	m.Length = (to - from) / math.Cos(h) / r.Mandrel.slope()
	m.Area = m.Flat.Area()
	m.Mass = m.Area * s.Material.Lamina.ArealMass
}

// unrolled develops, on a taper, what lies between a helix of so many turns (below 0: the
// other way round) and the same a turn on; low and high are its edges.
func (m Mandrel) unrolled(c curves, first, last along, turns, wider float64) (d developed, low, high []geom.Point) {
	// As many rulings as the helix and one turn more pass, and the sheet between them.
	all := math.Abs(turns) + 1
	passed, a, b := m.rulings(c, first, last, 0, all, 0)
	at := func(turn, t float64) geom.Point { // a share of the way along
		p, q := between(passed, a, turn), between(passed, b, turn)
		return geom.Point{X: p.X + t*(q.X-p.X), Y: p.Y + t*(q.Y-p.Y)}
	}
	const steps = 200
	begin := 0.0
	if turns < 0 {
		begin = -turns
	}
	line := func(turn, side float64) []geom.Point {
		var out []geom.Point
		for i := range steps + 1 {
			t := float64(i) / steps
			f := begin + turns*t + turn
			p := at(f, t)
			// Wider along the way round: across the ruling.
			q, o := at(f, 1), at(f, 0)
			l := math.Hypot(q.X-o.X, q.Y-o.Y)
			out = append(out, geom.Point{X: p.X - (q.Y-o.Y)/l*side*wider/2, Y: p.Y + (q.X-o.X)/l*side*wider/2})
		}
		return geom.Thin(out, chord)
	}
	low, high = line(0, -1), line(1, 1)
	end := func(t, from, to float64) []geom.Point {
		var out []geom.Point
		for i := 1; i < steps; i++ {
			out = append(out, at(begin+from+(to-from)*float64(i)/steps, t))
		}
		return geom.Thin(out, chord)
	}
	ring := append(geom.Ring{}, low...)
	ring = append(ring, end(1, turns, turns+1)...)
	for k := len(high) - 1; k >= 0; k-- {
		ring = append(ring, high[k])
	}
	d.ring = append(ring, end(0, 1, 0)...)
	d.min, d.max = ways(a, b)
	return d, low, high
}

// over is what a sleeve comes to where the way round is p: the angle of its yarns and its
// areal mass over that as made. A yarn's length a turn stays, so that the sine of its angle
// goes with the diameter; its mass spreads over what it covers (the usual kinematics of a
// biaxial braid: every yarn a helix of constant length).
func (b Sleeve) over(p float64) (angle, dense float64) {
	if !(b.Diameter > 0) || !(b.Angle > 0) {
		return 0, 1
	}
	sin := math.Sin(b.Angle) * p / math.Pi / b.Diameter
	if sin >= 1 {
		return math.Pi / 2, math.Inf(1)
	}
	angle = math.Asin(sin)
	return angle, b.Diameter * math.Pi * math.Cos(b.Angle) / (p * math.Cos(angle))
}

func (s Sheet) checkBraid(perimeter float64, add func(field, format string, args ...any)) {
	b := s.Material.Sleeve
	if !(b.Diameter > 0) || !(b.Angle > 0) || b.Angle >= math.Pi/2 {
		add("material", "the sleeve's data lack its diameter as made, or the angle of its yarns there")
		return
	}
	if angle, _ := b.over(perimeter); angle > 88*math.Pi/180 {
		add("material", "the sleeve cannot be pulled over %s: its yarns would lie all round",
			unit.Size(perimeter/math.Pi, 0))
	}
}

// braided is a sleeve pulled over: what it comes to at either end, and the length that is cut
// of it as made.
func (r Roll) braided(m *FlatSheet, places []along) {
	s, b, slope := m.Sheet, m.Sheet.Material.Sleeve, r.Mandrel.slope()
	from, to := places[0].x, places[len(places)-1].x
	first, _ := b.over(m.Perimeter[0])
	last, _ := b.over(m.Perimeter[1])
	m.Angles = [2]float64{min(first, last), max(first, last)}
	const n = 32
	var length, mass float64
	for k := range n {
		x := from + (to-from)*(float64(k)+0.5)/n
		p := r.Mandrel.At(x).Perimeter(m.Depth / slope)
		angle, dense := b.over(p)
		by := (to - from) / n / slope
		length += by * math.Cos(b.Angle) / math.Cos(angle)
		mass += by * p * dense * s.Material.Lamina.ArealMass
	}
	m.Length, m.Across, m.Shape, m.Mass = length, math.Pi*b.Diameter/2, "sleeve", mass
	m.Flat, m.Area = geom.Rect(m.Length, m.Across), m.Length*math.Pi*b.Diameter
	_, dense := b.over(r.Mandrel.At((from + to) / 2).Perimeter(m.Depth / slope))
	m.ArealMass, m.Fibre = s.Material.Lamina.ArealMass*dense, 0
}

// braidFindings are sleeves that jam or gape where they are pulled over.
func (w *Analysis) braidFindings() {
	for k, m := range w.Made {
		b := m.Sheet.Material.Sleeve
		if m.Sheet.how() != Braid {
			continue
		}
		if b.Most > 0 && m.Angles[1] > b.Most+1e-9 {
			w.Findings = append(w.Findings, Finding{[]int{k}, fmt.Sprintf(
				"%s lies at ±%.0f° where it is widest: it jams beyond ±%.0f°",
				m.Sheet.Name,
				unit.Deg(m.Angles[1]),
				unit.Deg(b.Most),
			)})
		}
		if b.Least > 0 && m.Angles[0] < b.Least-1e-9 {
			w.Findings = append(w.Findings, Finding{[]int{k}, fmt.Sprintf(
				"%s lies at ±%.0f° where it is narrowest: its yarns gape below ±%.0f°",
				m.Sheet.Name,
				unit.Deg(m.Angles[0]),
				unit.Deg(b.Least),
			)})
		}
	}
}
