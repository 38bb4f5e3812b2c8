package calc

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"juxta/core/laminate"
	"juxta/core/rolled"
	"juxta/core/unit"
)

// TubeIn is what is rolled on a mandrel: lengths in m, angles in degrees.
type TubeIn struct {
	Section    string                  `json:"section" enum:"round,ellipse,stadium,square,rectangle,hexagon,octagon"`
	First      TubeSize                `json:"first" doc:"The mandrel at the first end"`
	Last       *TubeSize               `json:"last,omitempty" doc:"At the last end; missing: as at the first"`
	Length     float64                 `json:"length" doc:"Of the part" exclusiveMinimum:"0" maximum:"100"`
	Trim       float64                 `json:"trim,omitempty" doc:"Left over at either end" minimum:"0" maximum:"1"`
	TapeEnds   float64                 `json:"tapeEnds,omitempty" doc:"Beyond it at either end, for the tape" minimum:"0" maximum:"1"`
	StepDeg    float64                 `json:"stepDeg,omitempty" doc:"From seam to seam, round the section" minimum:"0" maximum:"360"`
	StepLength float64                 `json:"stepLength,omitempty" doc:"From seam to seam, along the way round; it goes before the angle" minimum:"0"`
	AsLaid     bool                    `json:"asLaid,omitempty" doc:"Layers lie as thick as laid when the next is put on"`
	Materials  map[string]TubeMaterial `json:"materials"`
	Sheets     []TubeSheet             `json:"sheets" doc:"In their turn" minItems:"1" maxItems:"400"`
	Outside    float64                 `json:"outside,omitempty" doc:"Wanted across the first end" minimum:"0"`
	OutHeight  float64                 `json:"outHeight,omitempty" doc:"Wanted height" minimum:"0"`
	Tolerance  float64                 `json:"tolerance,omitempty" doc:"Of the outside, either way" minimum:"0"`
	SweepNames []string                `json:"sweep,omitempty" doc:"Names of sheets whose angle is sought"`
	Tape       *TubeTape               `json:"tape,omitempty"`
	Pull       *TubePull               `json:"pull,omitempty"`
}

// TubeSize is a section's size.
type TubeSize struct {
	Width  float64 `json:"width" doc:"A diameter, or across flats" exclusiveMinimum:"0" maximum:"10"`
	Height float64 `json:"height,omitempty" doc:"Of an ellipse, stadium or rectangle" minimum:"0" maximum:"10"`
	Radius float64 `json:"radius,omitempty" doc:"Of the corners" minimum:"0" maximum:"10"`
}

// TubeMaterial is a material that is rolled.
type TubeMaterial struct {
	laminate.Lamina
	Bulk      float64     `json:"bulk,omitempty" doc:"Thickness as laid over that as cured" minimum:"0" maximum:"10"`
	Tolerance float64     `json:"tolerance,omitempty" doc:"Of its thickness, a share" minimum:"0" maximum:"0.5"`
	Sleeve    *TubeSleeve `json:"sleeve,omitempty"`
}

// TubeSleeve is a braided sleeve as it is made.
type TubeSleeve struct {
	Diameter float64 `json:"diameter" exclusiveMinimum:"0"`
	AngleDeg float64 `json:"angleDeg" exclusiveMinimum:"0" exclusiveMaximum:"90"`
	LeastDeg float64 `json:"leastDeg,omitempty" minimum:"0" maximum:"90"`
	MostDeg  float64 `json:"mostDeg,omitempty" minimum:"0" maximum:"90"`
}

// TubeSheet is one sheet, or several alike.
type TubeSheet struct {
	Name      string  `json:"name,omitempty" maxLength:"40"`
	Material  string  `json:"material" doc:"Key into materials"`
	AngleDeg  float64 `json:"angleDeg" doc:"Of its fibre from the mandrel's axis" minimum:"-180" maximum:"180"`
	How       string  `json:"how,omitempty" enum:"wrap,spiral,strips,braid"`
	Turns     int     `json:"turns,omitempty" doc:"Of one sheet" minimum:"0" maximum:"200"`
	Join      string  `json:"join,omitempty" enum:"butt,overlap,gap"`
	JoinWidth float64 `json:"joinWidth,omitempty" minimum:"0"`
	From      float64 `json:"from,omitempty" minimum:"0"`
	To        float64 `json:"to,omitempty" doc:"0: at the last end" minimum:"0"`
	HelixDeg  float64 `json:"helixDeg,omitempty" doc:"Spiral: of its edges; 0: along its fibre"`
	Strip     float64 `json:"strip,omitempty" doc:"Strips: their width" minimum:"0"`
	Starts    int     `json:"starts,omitempty" minimum:"0"`
	Crossed   bool    `json:"crossed,omitempty" doc:"Tacked to the next, and rolled with it"`
	Repeat    int     `json:"repeat,omitempty" doc:"As many sheets alike" minimum:"0" maximum:"400"`
	Drop      float64 `json:"drop,omitempty" doc:"Each of them ends so much before the one below, where it ends on the part" minimum:"0"`
}

// TubeTape is a tape plan.
type TubeTape struct {
	Width   float64 `json:"width"`
	Pitch   float64 `json:"pitch" doc:"Advance a turn"`
	Layers  int     `json:"layers" doc:"The first releases"`
	Tension float64 `json:"tension,omitempty" doc:"N"`
}

// TubePull is a mandrel and how it is pulled.
type TubePull struct {
	Expands  float64 `json:"expands" doc:"1/K"`
	Modulus  float64 `json:"modulus" doc:"Pa"`
	Poisson  float64 `json:"poisson"`
	Bore     float64 `json:"bore,omitempty"`
	Cools    float64 `json:"cools" doc:"From the cure to the pull, K"`
	Friction float64 `json:"friction"`
	Limit    float64 `json:"limit,omitempty" doc:"Of the puller, N"`
}

var tubeCalc = define("tube", "flat outlines, size, stiffness and seams of what is rolled on a mandrel", TubeIn{
	Section: "hexagon", First: TubeSize{Width: 0.06, Radius: 0.006}, Last: &TubeSize{Width: 0.04, Radius: 0.004},
	Length: 1.2, Trim: 0.02, StepDeg: 60, Outside: 0.0622, Tolerance: 0.0002,
	Materials: map[string]TubeMaterial{"ud": {Lamina: laminate.Lamina{
		E1: 125e9, E2: 8.5e9, Nu12: 0.3, G12: 4.4e9, Alpha1: 0.1e-6, Alpha2: 30e-6, Thickness: 140e-6, ArealMass: 0.23,
	}, Bulk: 1.1, Tolerance: 0.04}},
	Sheets: []TubeSheet{
		{Material: "ud"},
		{Material: "ud", AngleDeg: 45, Join: "overlap", JoinWidth: 0.01},
		{Material: "ud", AngleDeg: -45, Join: "overlap", JoinWidth: 0.01},
		{Material: "ud", Turns: 3},
		{Material: "ud", To: 0.12, Repeat: 3, Drop: 0.01},
	},
	Tape: &TubeTape{Width: 0.02, Pitch: 0.01, Layers: 2, Tension: 40},
	Pull: &TubePull{Expands: 23e-6, Modulus: 70e9, Poisson: 0.33, Cools: 95, Friction: 0.2, Limit: 20e3},
}, Tube)

// TubeOut is what comes of it.
type TubeOut struct{ RolledAnalysis }

// say turns quantities in sentences into words.
func (o *TubeOut) say() {
	for k := range o.Findings {
		o.Findings[k].Message = unit.InMetric(o.Findings[k].Message)
	}
	for k := range o.Sheets {
		o.Sheets[k].Instruction = unit.InMetric(o.Sheets[k].Instruction)
	}
	if o.Fits != nil {
		for k := range o.Fits.Remedies {
			o.Fits.Remedies[k].Message = unit.InMetric(o.Fits.Remedies[k].Message)
		}
	}
	if o.Tape != nil {
		for k := range o.Tape.Findings {
			o.Tape.Findings[k] = unit.InMetric(o.Tape.Findings[k])
		}
	}
}

// Tube develops what is rolled.
func Tube(_ context.Context, in TubeIn) (TubeOut, error) {
	r, at, err := in.roll()
	if err != nil {
		return TubeOut{}, err
	}
	if faults := r.Check(); len(faults) > 0 {
		f := faults[0]
		field := map[string]string{"section": "first", "sheets": "sheets"}[f.Field]
		if field == "" {
			field = f.Field
		}
		if f.Sheet >= 0 {
			field = fmt.Sprintf("sheets[%d].%s", at[f.Sheet], map[string]string{"width": "joinWidth"}[f.Field])
			if strings.HasSuffix(field, ".") {
				field += f.Field
			}
		}
		return TubeOut{}, &InputError{field, unit.InMetric(f.Message)}
	}
	w := r.Analyse()
	out := TubeOut{FromRolled(w)}
	if len(in.SweepNames) > 0 {
		var sheets []int
		for k, s := range r.Sheets {
			if slices.Contains(in.SweepNames, s.Name) {
				sheets = append(sheets, k)
			}
		}
		out.Swept = FromSweepPoint(r.Sweep(sheets, 90))
	}
	if t := in.Tape; t != nil {
		taped, err := r.Tape(rolled.Tape{
			Width: t.Width, Pitch: t.Pitch, Layers: t.Layers, Tension: t.Tension, Beyond: in.Trim + in.TapeEnds,
		}, w)
		if err != nil {
			return out, &InputError{"tape", err.Error()}
		}
		out.Tape = FromTapeWinding(taped)
	}
	if p := in.Pull; p != nil {
		pulled, err := r.Pull(rolled.Pull(*p), w)
		if err != nil {
			return out, &InputError{"pull", unit.InMetric(err.Error())}
		}
		out.Pull = FromPullEstimate(pulled)
		out.Pull.Warning = unit.InMetric(out.Pull.Warning)
	}
	out.say()
	return out, nil
}

// roll is the input in the core's terms, and which of its sheets each of the core's is.
func (in TubeIn) roll() (rolled.Roll, []int, error) {
	size := func(s TubeSize) rolled.Section {
		return rolled.Section{Kind: in.Section, Width: s.Width, Height: s.Height, Radius: s.Radius}
	}
	m := rolled.Mandrel{First: size(in.First), Last: size(in.First), Length: in.Length}
	if in.Last != nil {
		m.Last = size(*in.Last)
	}
	r := rolled.Roll{
		Mandrel: m, Trim: in.Trim, TapeEnds: in.TapeEnds, StepAngle: unit.Rad(in.StepDeg), StepLength: in.StepLength,
		AsLaid: in.AsLaid, Outside: in.Outside, OutsideHigh: in.OutHeight, Tolerance: in.Tolerance,
	}
	var at []int
	for k, s := range in.Sheets {
		mat, known := in.Materials[s.Material]
		if !known {
			return r, nil, &InputError{
				fmt.Sprintf("sheets[%d].material", k), fmt.Sprintf("%q is not among the materials", s.Material),
			}
		}
		if err := mat.Check(); err != nil {
			return r, nil, &InputError{"materials." + s.Material, err.Error()}
		}
		core := rolled.Material{Name: s.Material, Lamina: mat.Lamina, Bulk: mat.Bulk, Tolerance: mat.Tolerance}
		if b := mat.Sleeve; b != nil {
			core.Sleeve = rolled.Sleeve{
				Diameter: b.Diameter, Angle: unit.Rad(b.AngleDeg), Least: unit.Rad(b.LeastDeg),
				Most: unit.Rad(b.MostDeg),
			}
		}
		for n := range max(1, s.Repeat) {
			sheet := rolled.Sheet{
				Name: s.Name, Material: core, Angle: unit.Rad(s.AngleDeg), How: s.How, Turns: s.Turns, Join: s.Join,
				Width: s.JoinWidth, From: s.From, To: s.To, Helix: unit.Rad(s.HelixDeg), Strip: s.Strip,
				Starts:  s.Starts,
				Crossed: s.Crossed,
			}
			if sheet.Name == "" {
				sheet.Name = fmt.Sprintf("sheet %d", len(r.Sheets)+1)
			}
			if sheet.From > 0 {
				sheet.From += s.Drop * float64(n)
			}
			if sheet.To > 0 && sheet.To < in.Length {
				sheet.To -= s.Drop * float64(n)
			}
			r.Sheets, at = append(r.Sheets, sheet), append(at, k)
		}
	}
	return r, at, nil
}
