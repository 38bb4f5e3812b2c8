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

// Methods are all of them.
var Methods = []string{Wrapped, Spiral, Strips, Braid}

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

// FlatSheet is a sheet as it is cut and put on.
type FlatSheet struct {
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

// Analysis is what comes of a roll.
type Analysis struct {
	Made         []FlatSheet
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
	Sheets  []int
	Message string
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
	Sheet   int
	Field   string
	Message string
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
			add(-1, field, "this cannot be below zero")
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
	case !slices.Contains(Methods, s.how()):
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
		add(
			"width",
			"a gap of %s leaves nothing of a ply that goes %s round",
			unit.Size(s.Width, 0),
			unit.Size(perimeter, 0),
		)
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
