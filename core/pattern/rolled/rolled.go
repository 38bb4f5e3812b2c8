package rolled

import (
	"cmp"
	"fmt"
	"math"
	"slices"

	"juxta/core/geom"
	"juxta/core/laminate"
	"juxta/core/unit"
)

// Ways in which a sheet is put on.
const (
	Wrapped = "wrap"   // round and round, its seam along the mandrel
	Spiral  = "spiral" // one long sheet wound at its angle, its edges meeting in a helix
	Strips  = "strips" // tape or strips of a width, at a pitch
	Braid   = "braid"  // a sleeve pulled over
)

// Ways are all of them.
var Ways = []string{Wrapped, Spiral, Strips, Braid}

// Seams: what happens where a sheet meets itself.
const (
	Butt    = "butt"
	Overlap = "overlap"
	Gap     = "gap"
)

// ramp is over how many times its height a layer comes down beyond the end of one below
// (common practice, no source).
const ramp = 20

// seamsApart is how far the seams of neighbours lie apart at the least, beside their overlaps
// (common practice, no source).
const seamsApart = 0.01

// Material is what is rolled.
type Material struct {
	Name      string
	Lamina    laminate.Lamina
	Bulk      float64 // thickness as laid over that as cured; 0 and 1: the same
	Tolerance float64 // of its thickness, a share
	Sleeve    Sleeve  // of a braid
}

// Sleeve is a braided sleeve as it is made: its diameter, the angle of its yarns from the
// axis there, and the range of angles between which it neither jams nor gapes (0: not said).
type Sleeve struct{ Diameter, Angle, Least, Most float64 }

// Sheet is one piece that is put on, in its turn.
type Sheet struct {
	Name     string
	Material Material
	Angle    float64 // of its fibre from the mandrel's axis
	How      string  // "": wrapped
	Turns    int     // of one sheet; 0: 1
	Join     string  // "": butt
	Width    float64 // of its overlap or gap
	From, To float64 // along; To 0: to the end
	Helix    float64 // spiral: of its edges from the axis; 0: along the fibre
	Strip    float64 // strips: their width
	Starts   int     // strips side by side; 0: 1
	Step     float64 // of its seam from the one before, along the way round; 0: as the roll says
	Crossed  bool    // tacked to the next at its seam, and rolled with it
}

// Roll is what is rolled on a mandrel.
type Roll struct {
	Mandrel     Mandrel
	Sheets      []Sheet // in their turn
	Trim        float64 // left over at either end of the part, cut off later
	TapeEnds    float64 // beyond it at either end, for the tape to begin and end on
	StepAngle   float64 // from seam to seam, round the section; used where StepLength is 0
	StepLength  float64 // from seam to seam, along the way round
	AsLaid      bool    // layers lie as thick as laid until the cure, not as cured
	Tolerance   float64 // target: of the outside, either way
	Outside     float64 // target: across the first end; 0: none
	OutsideHigh float64 // target of an oblong section's height; 0: none
}

// Made is a sheet as it is cut and put on.
type Made struct {
	Sheet      Sheet
	Shape      string // rectangle, parallelogram, cone sector, facet chain, strip, sleeve
	Flat       geom.Ring
	Fibre      float64    // its direction in the flat, from x
	Angles     [2]float64 // of the fibre from the mandrel over the sheet, least and most
	Depth      float64    // of its first turn's middle outside the mandrel, at its middle along
	Perimeter  [2]float64 // at that depth, at either end of the sheet
	Across     float64    // width cut: of all turns, with what is wider
	Length     float64    // along the flat
	Seam       [2]float64 // its place round, from the right side's middle, at either end
	SeamAngle  float64    // where that is round the section's middle, at its first end
	Pieces     int        // of this shape: strips that go side by side
	Area, Mass float64    // of what is cut, all pieces
	ArealMass  float64    // as it lies
	Thickness  float64    // of one turn, cured
	Outside    [2]float64 // across the first end as cured, once it lies: width, height
	// Strips and spirals.
	Pitch   float64    // advance a turn
	Covered [2]float64 // strips: share by which they overlap, at either end of the sheet; below 0: a gap
}

// Size is a section's size across.
type Size struct{ Width, Height float64 }

// Worked is what comes of a roll.
type Worked struct {
	Made         []Made
	Inside       [2]Size // at either end of the part
	Outside      [2]Size
	Wall         [2]float64 // at either end
	WallOff      float64    // the wall's tolerance, all materials off at once
	WallLikely   float64    // each for itself: root of the sum of squares
	MassPerMetre float64    // of the part, without what is trimmed
	OverSeams    float64    // by how much it stands out where most overlaps lie on each other, across one side
	OverSeamsAt  float64    // where that is, an angle round
	Stiff        [2]Stiffness
	Findings     []Finding
	Fits         *Fits
	Section      [2][]Ring // at either end, from the mandrel out
}

// Ring is the outside of a layer in the section, and its seam there.
type Ring struct {
	Outline geom.Ring
	Sheet   int
	Turn    int
	Seamed  bool // it meets itself here: the last turn of a wrap
	Seam    geom.Point
	Normal  float64 // outwards at the seam
	Half    float64 // of the overlap, along the way round; below 0: of a gap
}

// Finding is something to look at: which sheets, in words.
type Finding struct {
	Sheets []int
	Says   string
}

func (s Sheet) turns() int   { return max(1, s.Turns) }
func (s Sheet) starts() int  { return max(1, s.Starts) }
func (s Sheet) how() string  { return cmp.Or(s.How, Wrapped) }
func (s Sheet) join() string { return cmp.Or(s.Join, Butt) }
func (s Sheet) helix() float64 {
	if s.how() == Spiral && s.Helix != 0 {
		return s.Helix
	}
	return s.Angle
}

// wider is what a sheet stands over where it meets itself.
func (s Sheet) wider() float64 {
	switch s.join() {
	case Overlap:
		return s.Width
	case Gap:
		return -s.Width
	}
	return 0
}

// ends are where the sheet begins and ends on the mandrel, what is trimmed and taped with it.
func (r Roll) ends(s Sheet) (from, to float64) {
	beyond := r.Trim + r.TapeEnds
	from, to = s.From, s.To
	if from <= 0 {
		from = -beyond
	}
	if to <= 0 || to >= r.Mandrel.Length {
		to = r.Mandrel.Length + beyond
	}
	return from, to
}

// Fault is what cannot be right about a roll: the sheet it is about, -1 for the whole, and
// the field.
type Fault struct {
	Sheet int
	Field string
	Says  string
}

// Check says what cannot be right about a roll.
func (r Roll) Check() []Fault {
	var faults []Fault
	add := func(sheet int, field, format string, args ...any) {
		faults = append(faults, Fault{sheet, field, fmt.Sprintf(format, args...)})
	}
	for field, v := range map[string]float64{
		"trim": r.Trim, "tapeEnds": r.TapeEnds, "stepAngle": r.StepAngle, "stepLength": r.StepLength,
		"outside": r.Outside, "tolerance": r.Tolerance,
	} {
		if !(v >= 0) || math.IsInf(v, 0) {
			add(-1, field, "this cannot be below nothing")
		}
	}
	if len(faults) > 0 {
		slices.SortFunc(faults, func(a, b Fault) int { return cmp.Compare(a.Field, b.Field) })
		return faults
	}
	beyond := r.Trim + r.TapeEnds
	if err := r.Mandrel.Check(-beyond, r.Mandrel.Length+beyond); err != nil {
		add(-1, "section", "%s", err)
		return faults
	}
	if len(r.Sheets) > MostSheets {
		add(-1, "sheets", "%d sheets are more than the %d that one roll has", len(r.Sheets), MostSheets)
		return faults
	}
	for k, s := range r.Sheets {
		r.checkSheet(s, func(field, format string, args ...any) { add(k, field, format, args...) })
	}
	if n := len(r.Sheets); n > 0 && r.Sheets[n-1].Crossed {
		add(n-1, "crossed", "the last sheet has no next to be tacked to")
	}
	return faults
}

// MostSheets is how many sheets one roll may have.
const MostSheets = 400

func (r Roll) checkSheet(s Sheet, add func(field, format string, args ...any)) {
	from, to := r.ends(s)
	perimeter := min(r.Mandrel.At(from).Perimeter(0), r.Mandrel.At(to).Perimeter(0))
	t := s.Material.Lamina.Thickness
	switch {
	case !slices.Contains(Ways, s.how()):
		add("how", "%q is no way of putting a sheet on", s.How)
	case !(t > 0):
		add("material", "its material has no thickness")
	case math.IsNaN(s.Angle) || math.Abs(s.Angle) > 2*math.Pi+1e-9:
		add("angle", "the angle of its fibre is no angle")
	case s.turns() > 200:
		add("turns", "one sheet goes round 200 times at most")
	case s.how() != Wrapped && s.turns() > 1:
		add("turns", "only a wrapped sheet goes round more than once")
	case !(s.From >= 0) || s.To < 0 || s.To > 0 && s.To <= s.From || s.From >= r.Mandrel.Length:
		add("from", "a sheet begins before it ends, both within the length of %s", unit.Size(r.Mandrel.Length, 0))
	case s.join() == Overlap && !(s.Width > 0) && s.how() != Braid && s.how() != Strips:
		add("width", "an overlap needs a width")
	case s.join() == Overlap && s.Width >= perimeter:
		add(
			"width",
			"an overlap of %s is wider than the ply, which goes %s round",
			unit.Size(s.Width, 0),
			unit.Size(perimeter, 0),
		)
	case s.join() == Gap && s.Width >= perimeter:
		add("width", "a gap of %s leaves nothing of a ply that goes %s round", unit.Size(s.Width, 0), unit.Size(perimeter, 0))
	case s.how() == Spiral:
		r.checkSpiral(s, perimeter, add)
	case s.how() == Strips:
		r.checkStrips(s, perimeter, add)
	case s.how() == Braid:
		s.checkBraid(max(r.Mandrel.At(from).Perimeter(0), r.Mandrel.At(to).Perimeter(0)), add)
	}
	if s.Crossed && (s.how() != Wrapped) {
		add("crossed", "only wrapped sheets are tacked to each other and rolled together")
	}
}

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

// Work develops a roll. It expects one that [Roll.Check] finds no fault with.
func (r Roll) Work() Worked {
	w, c := Worked{}, curves{}
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
func (r Roll) make(c curves, s Sheet, laid []layer, inner, turn, seam float64) Made {
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
	m := Made{Sheet: s, Depth: middle, Thickness: r.thickness(s), Pieces: 1,
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
func (r Roll) wrapped(c curves, m *Made, places []along, turn float64) {
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
func (r Roll) sizes(w *Worked, cured []layer) {
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

// Turn is one layer of the wall: a turn of a sheet.
type Turn struct{ Sheet, Of int }

// Order are the layers of the wall from the mandrel out: those of sheets that are rolled
// together lie in between each other.
func (r Roll) Order() []Turn {
	var out []Turn
	for k := 0; k < len(r.Sheets); {
		group := r.together(k)
		most := 0
		for _, s := range group {
			most = max(most, s.turns())
		}
		for of := range most {
			for i, s := range group {
				if of < s.turns() {
					out = append(out, Turn{k + i, of})
				}
			}
		}
		k += len(group)
	}
	return out
}

// together are the sheets that are rolled with the one of a number.
func (r Roll) together(k int) []Sheet {
	n := 1
	for k+n < len(r.Sheets) && r.Sheets[k+n-1].Crossed {
		n++
	}
	return r.Sheets[k : k+n]
}

// turns are the layers at a place along.
func (r Roll) turns(x float64) []Turn {
	return slices.DeleteFunc(r.Order(), func(t Turn) bool {
		from, to := r.reach(r.Sheets[t.Sheet])
		return x < from || x > to
	})
}

// Plies are what one turn of a sheet is to the laminate: as thick and as heavy as it comes to
// where it lies. A braid is half of its yarns either way.
func (r Roll) Plies(k int) []laminate.Ply {
	s := r.Sheets[k]
	lamina := s.Material.Lamina
	lamina.Thickness = r.thickness(s)
	lamina.ArealMass *= lamina.Thickness / s.Material.Lamina.Thickness
	ply := laminate.Ply{Name: s.Name, Material: s.Material.Name, Lamina: lamina, Angle: s.Angle}
	if s.how() != Braid {
		return []laminate.Ply{ply}
	}
	from, to := r.ends(s)
	ply.Angle, _ = s.Material.Sleeve.over(r.Mandrel.At((from + to) / 2).Perimeter(0))
	ply.Lamina.Thickness, ply.Lamina.ArealMass = lamina.Thickness/2, lamina.ArealMass/2
	other := ply
	other.Angle = -ply.Angle
	return []laminate.Ply{ply, other}
}

// Part is where a sheet lies on the part itself, without what is trimmed.
func (r Roll) Part(s Sheet) (from, to float64) {
	from, to = r.reach(s)
	return max(from, 0), min(to, r.Mandrel.Length)
}

// Kept is the share of a sheet's length that stays on the part.
func (r Roll) Kept(s Sheet) float64 {
	from, to := r.ends(s)
	first, last := r.Part(s)
	return (last - first) / (to - from)
}

// Cut is the mass of a sheet of which so large a flat is cut. A sleeve lies double.
func (r Roll) Cut(k int, area float64) float64 {
	if r.Sheets[k].how() == Braid {
		area *= 2
	}
	return area * r.Sheets[k].Material.Lamina.ArealMass
}

// section is every turn's outside at a place along, with its seam.
func (r Roll) section(c curves, w Worked, x float64) []Ring {
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
func (r Roll) seams(w *Worked) {
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

// Says tells whoever puts a sheet on how: with its quantities as data.
func (m Made) Says() string {
	s, says := m.Sheet, ""
	switch s.how() {
	case Spiral:
		says = fmt.Sprintf("wound as a spiral at %.1f°", unit.Deg(s.helix()))
		if m.Pitch > 0 && !math.IsInf(m.Pitch, 0) {
			says += fmt.Sprintf(", advancing %s a turn", unit.Size(m.Pitch, 1))
		}
	case Strips:
		says = fmt.Sprintf("%d strips of %s side by side", s.starts(), unit.Size(s.Strip, 1))
		if s.starts() == 1 {
			says = fmt.Sprintf("one strip of %s", unit.Size(s.Strip, 1))
		}
		if m.Pitch > 0 && !math.IsInf(m.Pitch, 0) {
			says += fmt.Sprintf(", advancing %s a turn", unit.Size(m.Pitch, 1))
		}
	case Braid:
		says = fmt.Sprintf("sleeve pulled over, %s of it as made", unit.Size(m.Length, 0))
	default:
		says = "once round"
		if s.turns() > 1 {
			says = fmt.Sprintf("%d times round", s.turns())
		}
		says += fmt.Sprintf(", seam %.0f° round, %s from the middle of the right side", unit.Deg(m.SeamAngle),
			unit.Size(m.Seam[0], 1))
	}
	if s.how() == Wrapped || s.how() == Spiral {
		switch s.join() {
		case Overlap:
			says += fmt.Sprintf(", overlapping %s", unit.Size(s.Width, 1))
		case Gap:
			says += fmt.Sprintf(", a gap of %s", unit.Size(s.Width, 1))
		default:
			says += ", butt"
		}
	}
	if s.From > 0 || s.To > 0 {
		says += fmt.Sprintf("; from %s", unit.Size(s.From, 0))
		if s.To > 0 {
			says += fmt.Sprintf(" to %s", unit.Size(s.To, 0))
		}
		says += " along"
	}
	if s.Crossed {
		says += "; tacked to the next at its seam, and rolled with it"
	}
	return says
}
