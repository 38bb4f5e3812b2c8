package calc

import (
	"math"

	"juxta/core/geom"
	"juxta/core/rolled"
	"juxta/core/unit"
)

// RolledAnalysis is what comes of what is rolled on a mandrel: lengths in m, angles in degrees.
type RolledAnalysis struct {
	Sheets       []RolledSheet      `json:"sheets" doc:"In their turn"`
	Inside       [2]RolledSize      `json:"inside" doc:"At either end of the part"`
	Outside      [2]RolledSize      `json:"outside"`
	Wall         [2]float64         `json:"wall" doc:"At either end, m"`
	WallOff      float64            `json:"wallOff" doc:"The wall at the first end with all materials off at once, either way"`
	WallLikely   float64            `json:"wallLikely" doc:"With each off for itself: root of the sum of squares"`
	MassPerMetre float64            `json:"massPerMetre" doc:"Of the part, kg/m"`
	OverSeams    float64            `json:"overSeams" doc:"By how much it stands out on one side where most overlaps lie on each other, m"`
	OverSeamsDeg float64            `json:"overSeamsDeg" doc:"Where that is, round the section"`
	Stiffness    [2]RolledStiffness `json:"stiffness" doc:"At either end"`
	Findings     []RolledFinding    `json:"findings"`
	Fits         *RolledFits        `json:"fits,omitempty" doc:"Missing: no size is asked for"`
	Section      [2][]RolledRing    `json:"section" doc:"At either end: the mandrel, and the outside of every turn, from the first end seen"`
	Tape         *RolledTape        `json:"tape,omitempty"`
	Pull         *RolledPull        `json:"pull,omitempty"`
	Swept        []RolledSwept      `json:"swept,omitempty" doc:"What other angles of the sheets that were asked about would make of it"`
}

// RolledSize is a section's size across.
type RolledSize struct {
	Width  float64 `json:"width"`
	Height float64 `json:"height"`
}

// RolledSheet is a sheet as it is cut and put on.
type RolledSheet struct {
	Name        string     `json:"name"`
	Material    string     `json:"material"`
	Instruction string     `json:"instruction" doc:"How it is put on, its quantities as data"`
	How         string     `json:"how" enum:"wrap,spiral,strips,braid"`
	Shape       string     `json:"shape" enum:"rectangle,parallelogram,cone sector,facet chain,strip,sleeve"`
	Turns       int        `json:"turns"`
	Flat        geom.Ring  `json:"flat" doc:"Seen from outside: x along the mandrel, y the way round; strips and sleeves lie along x"`
	FibreDeg    float64    `json:"fibreDeg" doc:"In the flat, from x"`
	AngleDeg    [2]float64 `json:"angleDeg" doc:"Of the fibre from the mandrel over the sheet, least and most"`
	Depth       float64    `json:"depth" doc:"Of its first turn's middle outside the mandrel"`
	Perimeter   [2]float64 `json:"perimeter" doc:"At that depth, at either end of the sheet"`
	Across      float64    `json:"across" doc:"Width of the flat"`
	Length      float64    `json:"length" doc:"Of the flat"`
	Pieces      int        `json:"pieces"`
	Area        float64    `json:"area" doc:"Of all that is cut, m²"`
	Mass        float64    `json:"mass" doc:"Of all that is cut, kg"`
	ArealMass   float64    `json:"arealMass" doc:"As it lies, kg/m²"`
	Thickness   float64    `json:"thickness" doc:"Of a turn, cured"`
	Seam        [2]float64 `json:"seam" doc:"Its place round at either end, from the middle of the right side"`
	SeamDeg     float64    `json:"seamDeg" doc:"Where that is, round the section at the first end"`
	Outside     [2]float64 `json:"outside" doc:"Of the first end once it lies: width, height"`
	Pitch       float64    `json:"pitch,omitempty" doc:"Advance a turn, of a spiral or strips; 0: straight along"`
	Covered     [2]float64 `json:"covered" doc:"Strips: share by which they overlap at either end of the sheet; below 0: a gap"`
}

// RolledStiffness is that of the tube from its laminate.
type RolledStiffness struct {
	Ex      float64    `json:"ex" doc:"Of the wall, Pa"`
	Gxy     float64    `json:"gxy"`
	Hoop    float64    `json:"hoop" doc:"Of the wall round, Pa"`
	Expands float64    `json:"expands" doc:"Of the wall round, 1/K"`
	Axial   float64    `json:"axial" doc:"EA, N"`
	Bending [2]float64 `json:"bending" doc:"EI about the section's width and about its height, N m²"`
	Torsion float64    `json:"torsion" doc:"GJ, N m²"`
}

// RolledFinding is something to look at.
type RolledFinding struct {
	Sheets  []int  `json:"sheets" doc:"Which, from 0"`
	Message string `json:"message"`
}

// RolledFits is whether the outside comes to what is wanted.
type RolledFits struct {
	Off      float64        `json:"off" doc:"Outside across the first end less the wanted one, m"`
	OffHigh  float64        `json:"offHigh" doc:"Of its height"`
	Met      bool           `json:"met" doc:"Within the tolerance, as nominal"`
	Surely   bool           `json:"surely" doc:"Also with all materials off at once"`
	Spread   float64        `json:"spread" doc:"Of the outside from the tolerances of the materials, either way"`
	Remedies []RolledRemedy `json:"remedies" doc:"What would bring it nearer, nearest first"`
}

// RolledRemedy is a change and how far off the outside is then.
type RolledRemedy struct {
	Message string  `json:"message"`
	Off     float64 `json:"off"`
}

// RolledRing is the outside of a turn in the section.
type RolledRing struct {
	Outline geom.Ring   `json:"outline"`
	Sheet   int         `json:"sheet" doc:"Which, from 0; -1: the mandrel"`
	Turn    int         `json:"turn"`
	Seam    *RolledSeam `json:"seam,omitempty" doc:"Where it meets itself"`
}

// RolledSeam is a seam in the section.
type RolledSeam struct {
	At   [2]float64 `json:"at" doc:"m"`
	Out  [2]float64 `json:"out" doc:"Direction outwards there"`
	Half float64    `json:"half" doc:"Half of its overlap along the way round, m; below 0: of a gap"`
}

// RolledTape is what a tape plan comes to. Pressures are estimates.
type RolledTape struct {
	Overlap  float64  `json:"overlap" doc:"Share of its width that lies on the turn before; below 0: a gap"`
	Turns    float64  `json:"turns" doc:"Of one layer"`
	Length   float64  `json:"length" doc:"Of one layer, m"`
	Whole    float64  `json:"whole" doc:"Of all layers, m"`
	Covers   float64  `json:"covers" doc:"Layers over a place, on average"`
	Pressure float64  `json:"pressure" doc:"Where the section is roundest, Pa"`
	Least    float64  `json:"least" doc:"Where it is flattest, Pa"`
	Findings []string `json:"findings"`
}

// RolledPull is how the mandrel comes out. Forces are estimates.
type RolledPull struct {
	Hoop     float64 `json:"hoop" doc:"Free expansion of the wall round, 1/K"`
	Gap      float64 `json:"gap" doc:"Across, between mandrel and wall once cool, m; below 0: it grips"`
	Pressure float64 `json:"pressure" doc:"Of the grip, Pa"`
	Force    float64 `json:"force" doc:"To break it loose, N"`
	Free     float64 `json:"free" doc:"On a taper: how far it is pulled until it is free, m"`
	Warning  string  `json:"warning,omitempty"`
}

// RolledSwept is what an angle would make of the tube at its first end.
type RolledSwept struct {
	AngleDeg float64    `json:"angleDeg"`
	Bending  [2]float64 `json:"bending"`
	Torsion  float64    `json:"torsion"`
}

// FromRolled is what was worked out, as it travels.
func FromRolled(w rolled.Analysis) RolledAnalysis {
	deg := func(v [2]float64) [2]float64 { return [2]float64{unit.Deg(v[0]), unit.Deg(v[1])} }
	out := RolledAnalysis{
		Sheets: []RolledSheet{}, Wall: w.Wall, WallOff: w.WallOff, WallLikely: w.WallLikely,
		MassPerMetre: w.MassPerMetre,
		OverSeams:    w.OverSeams, OverSeamsDeg: unit.Deg(w.OverSeamsAt), Findings: []RolledFinding{},
	}
	for _, m := range w.Made {
		s := RolledSheet{
			Name: m.Sheet.Name, Material: m.Sheet.Material.Name, Instruction: m.Instruction(), How: m.Sheet.How,
			Shape: m.Shape, Turns: max(1, m.Sheet.Turns),
			Flat: m.Flat.Fine(), FibreDeg: unit.Deg(m.Fibre), AngleDeg: deg(m.Angles), Depth: m.Depth,
			Perimeter: m.Perimeter,
			Across:    m.Across, Length: m.Length, Pieces: m.Pieces, Area: m.Area, Mass: m.Mass, ArealMass: m.ArealMass,
			Thickness: m.Thickness, Seam: m.Seam, SeamDeg: unit.Deg(m.SeamAngle), Outside: m.Outside,
			Covered: m.Covered,
		}
		if s.How == "" {
			s.How = rolled.Wrapped
		}
		if !math.IsInf(m.Pitch, 0) {
			s.Pitch = m.Pitch
		}
		out.Sheets = append(out.Sheets, s)
	}
	for e := range 2 {
		out.Inside[e], out.Outside[e] = RolledSize(w.Inside[e]), RolledSize(w.Outside[e])
		st := w.Stiff[e]
		out.Stiffness[e] = RolledStiffness{
			Ex: st.Ex, Gxy: st.Gxy, Hoop: st.Hoop, Expands: st.Expands, Axial: st.Axial, Bending: st.Bending,
			Torsion: st.Torsion,
		}
		out.Section[e] = []RolledRing{}
		for _, r := range w.Section[e] {
			ring := RolledRing{Outline: r.Outline.Fine(), Sheet: r.Sheet, Turn: r.Turn}
			if r.Seamed {
				sin, cos := math.Sincos(r.Normal)
				ring.Seam = &RolledSeam{
					[2]float64{unit.RoundLength(r.Seam.X), unit.RoundLength(r.Seam.Y)},
					[2]float64{cos, sin},
					r.Half,
				}
			}
			out.Section[e] = append(out.Section[e], ring)
		}
	}
	for _, f := range w.Findings {
		out.Findings = append(out.Findings, RolledFinding(f))
	}
	if f := w.Fits; f != nil {
		out.Fits = &RolledFits{f.Off, f.OffHigh, f.Met, f.Surely, f.Spread, []RolledRemedy{}}
		for _, r := range f.Remedies {
			out.Fits.Remedies = append(out.Fits.Remedies, RolledRemedy(r))
		}
	}
	return out
}

// FromTapeWinding is a tape plan worked out, as it travels.
func FromTapeWinding(t rolled.TapeWinding) *RolledTape {
	out := &RolledTape{t.Overlap, t.Turns, t.Length, t.Total, t.Covers, t.Pressure, t.Least, t.Findings}
	if out.Findings == nil {
		out.Findings = []string{}
	}
	return out
}

// FromPullEstimate is how a mandrel comes out, as it travels.
func FromPullEstimate(p rolled.PullEstimate) *RolledPull {
	return &RolledPull{p.Hoop, p.Gap, p.Pressure, p.Force, p.Free, p.Warning}
}

// FromSweepPoint is a sweep, as it travels.
func FromSweepPoint(all []rolled.SweepPoint) []RolledSwept {
	out := []RolledSwept{}
	for _, s := range all {
		out = append(out, RolledSwept{unit.Deg(s.Angle), s.Bending, s.Torsion})
	}
	return out
}
