package rolled

import (
	"cmp"
	"fmt"
	"math"
	"slices"

	"juxta/core/unit"
)

// layer is a sheet as it lies: how thick each of its turns is, and over what.
type layer struct {
	from, to float64
	thick    float64 // of all its turns
}

// under is how thick what lies under a place is.
func under(laid []layer, x float64) float64 {
	depth := 0.0
	for _, l := range laid {
		reach := ramp * l.thick / 2
		switch {
		case x < l.from-reach || x > l.to+reach:
		case x < l.from+reach && l.from > math.Inf(-1):
			depth += l.thick * (x - l.from + reach) / (2 * reach)
		case x > l.to-reach:
			depth += l.thick * (l.to + reach - x) / (2 * reach)
		default:
			depth += l.thick
		}
	}
	return depth
}

// Analyse develops a roll. It expects one that [Roll.Check] finds no fault with.
func (r Roll) Analyse() Analysis {
	w, c := Analysis{}, curves{}
	var laid, cured []layer // as they lie when the next is put on, and as cured
	seam := -1.0            // where the last one lies, an angle round; below 0: there is none
	for k := 0; k < len(r.Sheets); {
		// Sheets that are tacked to each other are rolled together.
		group := r.together(k)
		turn := 0.0 // thickness of one turn of all of them
		for _, s := range group {
			turn += r.lies(s)
		}
		inner := 0.0
		for _, s := range group {
			m := r.make(c, s, laid, inner, turn, seam)
			w.Made = append(w.Made, m)
			inner += r.lies(s)
			if s.how() == Wrapped {
				seam = m.SeamAngle
			}
		}
		for _, s := range group {
			from, to := r.reach(s)
			laid = append(laid, layer{from, to, r.lies(s) * float64(s.turns())})
			cured = append(cured, layer{from, to, r.thickness(s) * float64(s.turns())})
		}
		k += len(group)
	}
	r.sizes(&w, cured)
	r.seams(&w)
	w.braidFindings()
	for e, x := range []float64{0, r.Mandrel.Length} {
		w.Section[e] = r.section(c, w, x)
		w.Stiff[e] = r.stiffness(x, w.Wall[e])
	}
	if r.Outside > 0 {
		w.Fits = r.fits(w)
	}
	return w
}

// reach is where a sheet lies, without bound at the ends of the part.
func (r Roll) reach(s Sheet) (from, to float64) {
	from, to = math.Inf(-1), math.Inf(1)
	if s.From > 0 {
		from = s.From
	}
	if s.To > 0 && s.To < r.Mandrel.Length {
		to = s.To
	}
	return from, to
}

// thickness of a turn of a sheet once cured: what a sleeve or strips come to is theirs at
// the middle of where they lie.
func (r Roll) thickness(s Sheet) float64 {
	t := s.Material.Lamina.Thickness
	from, to := r.ends(s)
	p := r.Mandrel.At((from + to) / 2).Perimeter(0)
	switch s.how() {
	case Braid:
		_, dense := s.Material.Sleeve.over(p)
		return t * dense
	case Strips:
		return t * s.layersOf(p)
	}
	return t
}

// lies is how thick a turn of a sheet is when the next is put on.
func (r Roll) lies(s Sheet) float64 {
	if r.AsLaid && s.Material.Bulk > 0 {
		return r.thickness(s) * s.Material.Bulk
	}
	return r.thickness(s)
}

// make develops one sheet over what is laid; inner is how thick what is tacked under it is,
// turn how much a turn of all that is rolled with it grows.
func (r Roll) make(c curves, s Sheet, laid []layer, inner, turn, seam float64) FlatSheet {
	from, to := r.ends(s)
	t := r.lies(s)
	places := []along{{x: from}, {x: to}}
	for _, l := range laid {
		half := ramp * l.thick / 2
		for _, x := range []float64{l.from - half, l.from + half, l.to - half, l.to + half} {
			if x > from && x < to {
				places = append(places, along{x: x})
			}
		}
	}
	places = append(places, along{x: (from + to) / 2})
	slices.SortFunc(places, func(a, b along) int { return cmp.Compare(a.x, b.x) })
	places = slices.CompactFunc(places, func(a, b along) bool { return math.Abs(b.x-a.x) < 1e-9 })
	for k := range places {
		places[k].depth = under(laid, places[k].x) + inner + t/2
	}
	middle := under(laid, (from+to)/2) + inner + t/2
	slope := r.Mandrel.slope()
	perimeter := func(k int) float64 { return r.Mandrel.At(places[k].x).Perimeter(places[k].depth / slope) }
	m := FlatSheet{Sheet: s, Depth: middle, Thickness: r.thickness(s), Pieces: 1,
		ArealMass: s.Material.Lamina.ArealMass}
	m.Perimeter = [2]float64{perimeter(0), perimeter(len(places) - 1)}
	m.Angles = [2]float64{s.Angle, s.Angle}
	switch s.how() {
	case Spiral, Strips:
		r.helical(c, &m, places)
	case Braid:
		r.braided(&m, places)
	default:
		m.SeamAngle, m.Seam = r.seamPlace(c, s, seam, places, slope)
		r.wrapped(c, &m, places, turn)
	}
	return m
}

// wrapped develops a sheet that goes round and round.
func (r Roll) wrapped(c curves, m *FlatSheet, places []along, turn float64) {
	s := m.Sheet
	turns := float64(s.turns())
	grows := 0.0
	if s.turns() > 1 {
		grows = turn
	}
	d := r.Mandrel.develop(c, straighten(places), m.Seam[0], turns, grows, s.wider())
	box := d.ring.Bounds()
	m.Flat, m.Fibre = d.ring.Move(-box.Min.X, -box.Min.Y), s.Angle
	m.Angles = [2]float64{s.Angle - d.max, s.Angle - d.min}
	m.Shape = "rectangle"
	if r.Mandrel.Tapered() {
		m.Shape = "facet chain"
		if r.Mandrel.First.Kind == Round {
			m.Shape = "cone sector"
		}
	}
	m.Length, m.Across = box.Width(), box.Height()
	m.Area = m.Flat.Area()
	m.Mass = m.Area * s.Material.Lamina.ArealMass
}

// straighten leaves out places at which nothing changes.
func straighten(places []along) []along {
	var out []along
	for k, p := range places {
		if k > 0 && k < len(places)-1 {
			a, b := out[len(out)-1], places[k+1]
			on := a.depth + (b.depth-a.depth)*(p.x-a.x)/(b.x-a.x)
			if math.Abs(on-p.depth) < 1e-9 {
				continue
			}
		}
		out = append(out, p)
	}
	return out
}

// seamPlace is where a sheet's seam lies, a step on from the one before.
func (r Roll) seamPlace(c curves, s Sheet, before float64, places []along, slope float64) (float64, [2]float64) {
	first, last := places[0], places[len(places)-1]
	curve, depth := c.of(r.Mandrel.At(first.x)), first.depth/slope
	angle, length := 0.0, [2]float64{}
	if before >= 0 {
		step := s.Step
		if step == 0 {
			step = r.StepLength
		}
		angle = before
		if step == 0 {
			angle = before + r.StepAngle
			if angle > 2*math.Pi-1e-9 {
				angle = max(0, angle-2*math.Pi)
			}
		}
		length[0] = around(curve, depth, angle)
		if step > 0 {
			length[0] = math.Mod(length[0]+step, curve[len(curve)-1].length+2*math.Pi*depth)
			at, _ := place(curve, depth, length[0])
			angle = math.Mod(math.Atan2(at.Y, at.X)+2*math.Pi, 2*math.Pi)
		}
	}
	// A seam is a ruling: at the far end it lies where that leads.
	far, deep := c.of(r.Mandrel.At(last.x)), last.depth/slope
	at := seamAt(curve, depth, length[0])
	a, b := far[at.k-1], far[at.k]
	from, to := a.length+a.normal*deep, b.length+b.normal*deep
	length[1] = from + at.t*(to-from)
	return angle, length
}

// sizes adds the walls up.
func (r Roll) sizes(w *Analysis, cured []layer) {
	slope := r.Mandrel.slope()
	for e, x := range []float64{0, r.Mandrel.Length} {
		s := r.Mandrel.At(x)
		w.Inside[e] = Size{s.Width, s.height()}
		w.Wall[e] = under(cured, x)
		w.Outside[e] = Size{s.Width + 2*w.Wall[e]/slope, s.height() + 2*w.Wall[e]/slope}
	}
	// What each material may be off, at the first end.
	off, of := map[string]float64{}, []string{}
	for k := range w.Made {
		m := &w.Made[k]
		wall := under(cured[:k+1], 0)
		m.Outside = [2]float64{w.Inside[0].Width + 2*wall/slope, w.Inside[0].Height + 2*wall/slope}
		l := cured[k]
		name := m.Sheet.Material.Name
		if _, known := off[name]; !known {
			of = append(of, name)
		}
		if l.from == math.Inf(-1) {
			off[name] += l.thick * m.Sheet.Material.Tolerance
		}
		w.MassPerMetre += m.Mass * r.Kept(m.Sheet) / r.Mandrel.Length
	}
	for _, name := range of {
		w.WallOff += off[name]
		w.WallLikely = math.Hypot(w.WallLikely, off[name])
	}
}

// section is every turn's outside at a place along, with its seam.
func (r Roll) section(c curves, w Analysis, x float64) []Ring {
	s, slope := r.Mandrel.At(x), r.Mandrel.slope()
	depth := 0.0
	e := 0
	if x > 0 {
		e = 1
	}
	curve := c.of(s)
	out := []Ring{{Outline: drawn(curve, 0), Sheet: -1}}
	for _, t := range r.turns(x) {
		m := w.Made[t.Sheet]
		depth += m.Thickness / slope
		ring := Ring{Outline: drawn(curve, depth), Sheet: t.Sheet, Turn: t.Of}
		if m.Sheet.how() == Wrapped && t.Of == m.Sheet.turns()-1 {
			ring.Seamed = true
			ring.Seam, ring.Normal = place(curve, depth, m.Seam[e])
			ring.Half = m.Sheet.wider() / 2
		}
		out = append(out, ring)
	}
	return out
}

// seams finds seams that lie too near each other, and how high overlaps pile up.
func (r Roll) seams(w *Analysis) {
	type lap struct {
		sheet          int
		at, half, high float64 // along the way round at the outside, of a whole of 1
	}
	var laps []lap
	last := -1
	for k, m := range w.Made {
		if m.Sheet.how() != Wrapped {
			continue
		}
		p := m.Perimeter[0]
		if last >= 0 && r.meet(m.Sheet, w.Made[last].Sheet) {
			b := w.Made[last]
			apart := math.Abs(m.Seam[0]/p - b.Seam[0]/b.Perimeter[0])
			apart = min(apart, 1-apart) * p
			need := seamsApart + (max(0, m.Sheet.wider())+max(0, b.Sheet.wider()))/2
			if apart < need {
				w.Findings = append(w.Findings, Finding{[]int{last, k}, fmt.Sprintf(
					"the seams of %s and %s lie %s apart, where their overlaps ask for %s", b.Sheet.Name, m.Sheet.Name,
					unit.Size(apart, 0), unit.Size(need, 0))})
			}
		}
		last = k
		if wide := m.Sheet.wider(); wide > 0 {
			laps = append(laps, lap{k, m.Seam[0] / p, wide / 2 / p, m.Thickness})
		}
	}
	for _, l := range laps {
		high := 0.0
		for _, o := range laps {
			apart := math.Abs(l.at - o.at)
			if min(apart, 1-apart) <= o.half+1e-9 {
				high += o.high
			}
		}
		if high > w.OverSeams+1e-12 {
			w.OverSeams, w.OverSeamsAt = high, w.Made[l.sheet].SeamAngle
		}
	}
}

// meet says whether two sheets lie over each other somewhere.
func (r Roll) meet(a, b Sheet) bool {
	af, at := r.ends(a)
	bf, bt := r.ends(b)
	return af < bt && bf < at
}
