package master

import (
	"fmt"
	"math"
	"slices"

	"juxta/core/geom"
	"juxta/core/laminate"
	"juxta/core/rolled"
	"juxta/core/unit"
)

// Rolled is how a stage is rolled on a mandrel. Its items are sheets in their turn; each says
// itself how it is put on ([Wrap]), and its flat follows from both.
type Rolled struct {
	Section    string            `json:"section" enum:"round,ellipse,stadium,square,rectangle,hexagon,octagon"`
	Width      float64           `json:"width" doc:"Of the mandrel at the first end: diameter, or across flats, m" minimum:"0" maximum:"10"`
	Height     float64           `json:"height,omitempty" doc:"Of an ellipse, stadium or rectangle" minimum:"0" maximum:"10"`
	Radius     float64           `json:"radius,omitempty" doc:"Of its corners" minimum:"0" maximum:"10"`
	LastWidth  float64           `json:"lastWidth,omitempty" doc:"At the last end of a taper; 0: as at the first" minimum:"0" maximum:"10"`
	LastHeight float64           `json:"lastHeight,omitempty" minimum:"0" maximum:"10"`
	LastRadius float64           `json:"lastRadius,omitempty" minimum:"0" maximum:"10"`
	Length     float64           `json:"length" doc:"Of the part, m" minimum:"0" maximum:"100"`
	Trim       float64           `json:"trim,omitempty" doc:"Left over at either end, cut off later, m" minimum:"0" maximum:"1"`
	TapeEnds   float64           `json:"tapeEnds,omitempty" doc:"Beyond it at either end, for the tape to begin and end on, m" minimum:"0" maximum:"1"`
	StepDeg    float64           `json:"stepDeg,omitempty" doc:"From seam to seam, degrees round the section" minimum:"0" maximum:"360"`
	StepLength float64           `json:"stepLength,omitempty" doc:"From seam to seam along the way round, m; it goes before the angle" minimum:"0" maximum:"10"`
	AsLaid     bool              `json:"asLaid,omitempty" doc:"Layers lie as thick as laid when the next is put on, not as cured"`
	Outside    float64           `json:"outside,omitempty" doc:"Wanted across the outside at the first end, m" minimum:"0" maximum:"10"`
	OutHeight  float64           `json:"outHeight,omitempty" doc:"Wanted height of an ellipse, stadium or rectangle" minimum:"0" maximum:"10"`
	Tolerance  float64           `json:"tolerance,omitempty" doc:"Of the outside, either way, m" minimum:"0" maximum:"1"`
	Tape       *TapePlan         `json:"tape,omitempty"`
	Pull       *MandrelPull      `json:"pull,omitempty"`
	Expr       map[string]string `json:"expr,omitempty" doc:"Family: expressions for width, height, radius, lastWidth, lastHeight, lastRadius, length and outside, in mm"`
}

// TapePlan is how the wall is taped for its cure; the first layer releases.
type TapePlan struct {
	Width   float64 `json:"width" doc:"m" minimum:"0" maximum:"1"`
	Pitch   float64 `json:"pitch" doc:"Advance a turn, m" minimum:"0" maximum:"10"`
	Layers  int     `json:"layers" minimum:"1" maximum:"50"`
	Tension float64 `json:"tension,omitempty" doc:"N" minimum:"0" maximum:"100000"`
}

// MandrelPull is what a mandrel is made of and how it is pulled.
type MandrelPull struct {
	Expands  float64 `json:"expands" doc:"1/K"`
	Modulus  float64 `json:"modulus" doc:"Pa" minimum:"0"`
	Poisson  float64 `json:"poisson" minimum:"-0.5" maximum:"0.5"`
	Bore     float64 `json:"bore,omitempty" doc:"Of a hollow one, m" minimum:"0" maximum:"10"`
	Cools    float64 `json:"cools" doc:"From the cure to the pull, K" minimum:"0" maximum:"600"`
	Friction float64 `json:"friction" minimum:"0" maximum:"2"`
	Limit    float64 `json:"limit,omitempty" doc:"Of the puller, N" minimum:"0"`
}

// Wrap is how an item of a rolled stage is put on.
type Wrap struct {
	How     string  `json:"how,omitempty" doc:"Missing: wrapped, its seam along the mandrel" enum:"wrap,spiral,strips,braid"`
	Turns   int     `json:"turns,omitempty" doc:"Of one sheet" minimum:"0" maximum:"200"`
	From    float64 `json:"from,omitempty" doc:"Where it begins, from the first end, m" minimum:"0" maximum:"100"`
	To      float64 `json:"to,omitempty" doc:"Where it ends; 0: at the last end" minimum:"0" maximum:"100"`
	Helix   float64 `json:"helixDeg,omitempty" doc:"Spiral: of its edges from the axis; 0: along its fibre" minimum:"-85" maximum:"85"`
	Strip   float64 `json:"strip,omitempty" doc:"Strips: their width, m" minimum:"0" maximum:"1"`
	Starts  int     `json:"starts,omitempty" doc:"Strips side by side" minimum:"0" maximum:"500"`
	Crossed bool    `json:"crossed,omitempty" doc:"Tacked to the next at its seam, and rolled with it"`
}

// Flat is an item's shape on the table, in pieces that are cut each for itself.
type Flat struct {
	By          string      `json:"by" doc:"What it was derived by" enum:"rolled,draped,spliced"`
	Description string      `json:"says,omitempty" doc:"How it is put on, its quantities as data" maxLength:"400"`
	Hand        bool        `json:"hand,omitempty" doc:"Changed by hand: it stays as it is when what it was derived from changes"`
	Pieces      []FlatPiece `json:"pieces" maxItems:"600"`
	Warnings    []string    `json:"warnings,omitempty" doc:"What to look at, quantities as data" maxItems:"200"`
	Peak        float64     `json:"peakDeg,omitempty" doc:"Draped: its largest shear, degrees"`
	Off         float64     `json:"offDeg,omitempty" doc:"Draped: by how much its warp leaves its angle at most, degrees"`
}

// FlatPiece is one piece of a flat, as it is seen from the bag side. Its fibre lies at an angle
// from x.
type FlatPiece struct {
	Points   []Corner   `json:"points" maxItems:"5000"`
	FibreDeg float64    `json:"fibreDeg" minimum:"-360" maximum:"360"`
	Marks    []FlatMark `json:"marks,omitempty" doc:"That are drawn on it" maxItems:"200"`
}

// FlatMark is a notch at the edge of a piece, or a mark within it.
type FlatMark struct {
	At   Corner   `json:"at"`
	Text string   `json:"says" maxLength:"40"`
	Line []Corner `json:"line,omitempty" doc:"It is a cut along a line" maxItems:"2000"`
}

// Ring is the piece's outline.
func (p FlatPiece) Ring() geom.Ring {
	ring := make(geom.Ring, len(p.Points))
	for k, c := range p.Points {
		ring[k] = geom.Point{X: c.X, Y: c.Y}
	}
	return ring
}

// Area of all pieces, m².
func (f Flat) Area() float64 {
	sum := 0.0
	for _, p := range f.Pieces {
		sum += p.Ring().Area()
	}
	return sum
}

// sheeted says whether an item is one that a rolled stage puts on as a sheet.
func (i Item) sheeted() bool { return i.Layer() && i.Kind != Core }

// Roll is a rolled stage as it is worked out, and the items that are its sheets.
func (s Stage) Roll(labels map[string]string, materials map[int64]Material) (rolled.Roll, []Item) {
	m := s.Rolled
	orFirst := func(last, first float64) float64 {
		if last == 0 {
			return first
		}
		return last
	}
	first := rolled.Section{Kind: m.Section, Width: m.Width, Height: m.Height, Radius: m.Radius}
	r := rolled.Roll{
		Mandrel: rolled.Mandrel{First: first, Last: rolled.Section{
			Kind: m.Section, Width: orFirst(m.LastWidth, m.Width), Height: orFirst(m.LastHeight, m.Height),
			Radius: orFirst(m.LastRadius, m.Radius),
		}, Length: m.Length},
		Trim: m.Trim, TapeEnds: m.TapeEnds, StepAngle: unit.Rad(m.StepDeg), StepLength: m.StepLength, AsLaid: m.AsLaid,
		Outside: m.Outside, OutsideHigh: m.OutHeight, Tolerance: m.Tolerance,
	}
	var items []Item
	for _, i := range s.Items {
		if !i.sheeted() {
			continue
		}
		w := Wrap{}
		if i.Wrap != nil {
			w = *i.Wrap
		}
		mat := materials[i.MaterialID]
		lamina := mat.Lamina
		name := labels[i.Key]
		if i.Kind == Ply {
			name = "ply " + name
		} else {
			lamina.E1, lamina.E2, lamina.G12, lamina.Nu12 = 0, 0, 0, 0
		}
		r.Sheets = append(r.Sheets, rolled.Sheet{
			Name: name, Angle: unit.Rad(unit.FoldAngle(s.Rosette + i.AngleDeg)),
			Material: rolled.Material{
				Name: mat.Name, Lamina: lamina, Bulk: mat.BulkFactor, Tolerance: mat.Tolerance, Sleeve: mat.Sleeve,
			},
			How: w.How, Turns: w.Turns, Join: i.Join, Width: i.JoinWidth, From: w.From, To: w.To,
			Helix: unit.Rad(w.Helix),
			Strip: w.Strip, Starts: w.Starts, Crossed: w.Crossed, Step: i.Stagger,
		})
		items = append(items, i)
	}
	return r, items
}

// Taped is the stage's tape plan in the core's terms.
func (t TapePlan) Taped(m Rolled) rolled.Tape {
	return rolled.Tape{
		Width:   t.Width,
		Pitch:   t.Pitch,
		Layers:  t.Layers,
		Tension: t.Tension,
		Beyond:  m.Trim + m.TapeEnds,
	}
}

// Derived is the document with the flats of its rolled and its curved stages, and of plies that
// are spliced, as they follow from it. Those
// changed by hand stay as they are, and so do all of a stage that cannot be rolled as it
// stands: [Document.Check] says why.
func (d Document) Derived(materials map[int64]Material, lay Draper) Document {
	labels := d.Labels()
	d.Stages = slices.Clone(d.Stages)
	for k, s := range d.Stages {
		d.Stages[k].Items = slices.Clone(s.Items)
		made := map[string]*Flat{}
		if s.Rolled != nil && len(s.Rolled.Expr) == 0 {
			r, items := s.Roll(labels, materials)
			if len(r.Check()) > 0 {
				continue
			}
			for n, m := range r.Analyse().Made {
				made[items[n].Key] = flatOf(m)
			}
		}
		if s.Surface != nil && s.Rolled == nil && lay != nil {
			made = d.draped(s, materials, lay)
		}
		if s.Surface == nil && s.Rolled == nil {
			made = d.spliced(s, materials)
		}
		for n, i := range s.Items {
			if i.Flat == nil || !i.Flat.Hand {
				d.Stages[k].Items[n].Flat = made[i.Key]
			} else if m := made[i.Key]; m != nil {
				kept := *i.Flat
				kept.Description, kept.Warnings = m.Description, m.Warnings
				d.Stages[k].Items[n].Flat = &kept
			}
		}
	}
	return d
}

// Bare is the document without what it derives.
func (d Document) Bare() Document {
	d.Stages = slices.Clone(d.Stages)
	for k, s := range d.Stages {
		d.Stages[k].Items = slices.Clone(s.Items)
		for n, i := range s.Items {
			if i.Flat != nil && !i.Flat.Hand {
				d.Stages[k].Items[n].Flat = nil
			}
		}
	}
	return d
}

// tenth of a micrometre: finer than any knife, and short to write.
func tenth(v float64) float64 { return math.Round(v*1e7) / 1e7 }

func flatOf(m rolled.FlatSheet) *Flat {
	p := FlatPiece{FibreDeg: math.Round(unit.Deg(m.Fibre)*1e4) / 1e4}
	for _, c := range m.Flat {
		p.Points = append(p.Points, Corner{X: tenth(c.X), Y: tenth(c.Y)})
	}
	f := &Flat{By: "rolled", Description: m.Instruction()}
	for range m.Pieces {
		f.Pieces = append(f.Pieces, p)
	}
	return f
}

// checkRolled finds what cannot be right about what is rolled.
func (d Document) checkRolled(materials map[int64]Material, add func(key, field, format string, args ...any)) {
	labels := d.Labels()
	for _, s := range d.Stages {
		for _, i := range s.Items {
			if i.Wrap != nil && s.Rolled == nil {
				add(i.Key, "wrap", "%s: only a stage that is rolled on a mandrel has wraps", labels[i.Key])
			}
			if i.Flat != nil && i.Flat.Hand {
				i.checkFlat(labels[i.Key], add)
			}
		}
		s.checkSurface(add)
		if s.Rolled == nil {
			continue
		}
		m := *s.Rolled
		for _, v := range []float64{
			m.Width, m.Height, m.Radius, m.LastWidth, m.LastHeight, m.LastRadius, m.Length, m.Trim, m.TapeEnds,
			m.StepDeg,
			m.StepLength, m.Outside, m.OutHeight, m.Tolerance,
		} {
			if math.IsNaN(v) || math.IsInf(v, 0) || v < 0 {
				add(s.Key, "rolled", "%s: every figure of the mandrel must be a number, not below zero", s.Name)
				break
			}
		}
		if len(m.Expr) > 0 {
			continue // its variants are rolled
		}
		for _, i := range s.Items {
			if i.Kind == Core {
				add(i.Key, "kind", "%s: a core is not rolled: it belongs to a stage of its own", labels[i.Key])
			}
		}
		r, items := s.Roll(labels, materials)
		for _, f := range r.Check() {
			if f.Sheet < 0 {
				add(s.Key, "rolled", "%s: %s", s.Name, f.Message)
				continue
			}
			i := items[f.Sheet]
			if materials[i.MaterialID].Name == "" {
				continue // that it has none is said already
			}
			add(i.Key, "wrap", "%s: %s", r.Sheets[f.Sheet].Name, f.Message)
		}
		if m.Tape != nil {
			if err := m.Tape.Taped(m).Check(); err != nil {
				add(s.Key, "tape", "%s: %s", s.Name, err)
			}
		}
		if m.Pull != nil {
			if err := m.Pull.Core().Check(); err != nil {
				add(s.Key, "pull", "%s: %s", s.Name, err)
			}
		}
	}
}

// Core is the pull in the core's terms.
func (p MandrelPull) Core() rolled.Pull {
	return rolled.Pull{
		Expands: p.Expands, Modulus: p.Modulus, Poisson: p.Poisson, Bore: p.Bore, Cools: p.Cools, Friction: p.Friction,
		Limit: p.Limit,
	}
}

func (i Item) checkFlat(label string, add func(key, field, format string, args ...any)) {
	if len(i.Flat.Pieces) == 0 {
		add(i.Key, "flat", "%s: a flat changed by hand needs at least one piece", label)
	}
	for k, p := range i.Flat.Pieces {
		if err := p.Ring().Check(); err != nil {
			add(i.Key, "flat", "%s: piece %d of its flat: %s", label, k+1, err)
		}
	}
}

// round is how far it is round what is rolled, in plan: all stages as the first of them
// halfway along, so that what lies on each other lies on each other in plan as well.
func (d Document) round() float64 {
	for _, s := range d.Stages {
		if s.Rolled != nil {
			r, _ := s.Roll(nil, nil)
			return r.Mandrel.At(r.Mandrel.Length / 2).Perimeter(0)
		}
	}
	return 0
}

// rolledLayers lays the sheets of a rolled stage on its mandrel, unrolled: x along the part, y
// once round. A sheet of several turns is as many layers; what is rolled together lies in
// between each other.
func (s Stage) rolledLayers(labels map[string]string, materials map[int64]Material, round float64) ([]Layer, error) {
	r, items := s.Roll(labels, materials)
	if faults := r.Check(); len(faults) > 0 {
		return nil, fmt.Errorf("%s: %s", s.Name, faults[0].Message)
	}
	var out []Layer
	for _, t := range r.Order() {
		i, sheet := items[t.Sheet], r.Sheets[t.Sheet]
		from, to := r.Part(sheet)
		ring := geom.Rect(to-from, round).Move(from, 0)
		plies := r.Plies(t.Sheet)
		share, kept := 1.0, 1.0
		if i.Flat != nil {
			// What is cut, over all that it is laid on.
			lies := 0.0
			for _, p := range plies {
				lies += p.Lamina.ArealMass * ring.Area() * float64(max(1, sheet.Turns))
			}
			if lies > 0 {
				share = r.Cut(t.Sheet, i.Flat.Area()) / lies
			}
			kept = r.Kept(sheet)
		}
		for _, p := range plies {
			p.Name, p.Kind, p.FaceUp = labels[i.Key], i.Kind, i.FaceUp
			angle := math.Mod(s.Rosette+i.AngleDeg, 360)
			if sheet.How == rolled.Braid {
				angle = unit.Deg(p.Angle)
			}
			out = append(out, Layer{
				Key: i.Key, Stage: s.Key, Item: i, AngleDeg: angle,
				PlacedPly: laminate.PlacedPly{Ply: p, Outline: ring, Share: share, Kept: kept},
			})
		}
	}
	return out, nil
}
