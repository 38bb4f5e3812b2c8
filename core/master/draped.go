package master

import (
	"context"
	"fmt"
	"math"

	"juxta/core/drape"
	"juxta/core/geom"
	"juxta/core/unit"
)

// Surface is what the plies of a stage lie on where it is curved.
type Surface struct {
	Kind   string             `json:"kind" enum:"cylinder,cone,sphere cap,paraboloid,torus segment,saddle,ramped box corner,mesh"`
	Dims   map[string]float64 `json:"dims" doc:"By name: m; angles in degrees"`
	MeshID int64              `json:"meshId,omitempty" doc:"Of a mesh: the surface that was brought in; a file names it in its surfaces"`
	Turned bool               `json:"turned,omitempty" doc:"The bag lies on the other side than it would"`
}

// MeshSurface is the kind of a surface that was brought in from a file.
const MeshSurface = "mesh"

// DrapeSettings is how a ply of a curved stage is laid on.
type DrapeSettings struct {
	X    *float64 `json:"x,omitempty" doc:"Where it is laid on first, in plan from the datum, m; missing: in the middle of the ply" minimum:"-100" maximum:"100"`
	Y    *float64 `json:"y,omitempty" minimum:"-100" maximum:"100"`
	Cell float64  `json:"cell,omitempty" doc:"Side of a cell of its net, m; 0: a hundredth of the surface" minimum:"0" maximum:"1"`
	// Unidirectional fabric does not shear.
	Strip float64     `json:"strip,omitempty" doc:"Width of the strips that it is laid of, m; 0: of whole fabric" minimum:"0" maximum:"2"`
	Cuts  []FabricCut `json:"cuts,omitempty" doc:"Darts and splits" maxItems:"40"`
}

// Kinds of cut.
const (
	DartCut  = "dart"
	SplitCut = "split"
)

// FabricCut goes through a ply on its surface: a dart from its tip to the edge, or a split from edge to
// edge, along the line through two places in plan.
type FabricCut struct {
	Kind    string  `json:"kind" enum:"dart,split"`
	X       float64 `json:"x" doc:"Its tip, or one place of the line, from the datum, m" minimum:"-100" maximum:"100"`
	Y       float64 `json:"y" minimum:"-100" maximum:"100"`
	ToX     float64 `json:"toX" doc:"Its mouth, or another place of the line" minimum:"-100" maximum:"100"`
	ToY     float64 `json:"toY" minimum:"-100" maximum:"100"`
	Overlap float64 `json:"overlap,omitempty" doc:"Of its sides, m; 0: butt" minimum:"0" maximum:"1"`
}

// Core is the cut in the core's terms.
func (c FabricCut) Core() drape.Cut {
	return drape.Cut{
		Split: c.Kind == SplitCut, From: geom.Point{X: c.X, Y: c.Y}, To: geom.Point{X: c.ToX, Y: c.ToY},
		Overlap: c.Overlap,
	}
}

// CutOf is a cut of the core's, to the tenth of a millimetre.
func CutOf(c drape.Cut) FabricCut {
	fine := func(v float64) float64 { return math.Round(v*1e4) / 1e4 }
	out := FabricCut{
		Kind:    DartCut,
		X:       fine(c.From.X),
		Y:       fine(c.From.Y),
		ToX:     fine(c.To.X),
		ToY:     fine(c.To.Y),
		Overlap: c.Overlap,
	}
	if c.Split {
		out.Kind = SplitCut
	}
	return out
}

// DrapeOf is all that how a ply lies on a surface follows from.
type DrapeOf struct {
	Surface Surface
	Lift    float64   // thickness of what lies under it, m
	Outline geom.Ring // in plan
	X, Y    *float64  // where it is laid on first
	Warp    float64   // from the surface's 0°, radians
	Cell    float64
	Lock    float64 // radians
	Round   float64 // m
	Steer   float64 // m
	Strip   float64 // m
	Cuts    []FabricCut
}

// Draper lays plies over surfaces. It may keep what it laid before.
type Draper func(DrapeOf) ([]*drape.DrapedPiece, error)

// surfaceTriangles is how finely a built-in surface is made.
const surfaceTriangles = 40_000

// checkTriangles make the mesh whose faults are those of a finer one as well.
const checkTriangles = 400

// Built is a built-in surface as a mesh.
func (s Surface) Built() (*drape.Mesh, error) { return s.built(surfaceTriangles) }

func (s Surface) built(triangles int) (*drape.Mesh, error) {
	dims := map[string]float64{}
	for name, v := range s.Dims {
		dims[name] = v
		for _, k := range drape.Library {
			for _, d := range k.Dims {
				if k.Kind == s.Kind && d.Name == name && d.Unit == "rad" {
					dims[name] = unit.Rad(v)
				}
			}
		}
	}
	m, err := drape.NewSurface(s.Kind, dims, triangles)
	if err == nil && s.Turned {
		m.Turn()
	}
	return m, err
}

// Lay lays a ply on its surface piece by piece, as a mesh without what lies under the ply.
func (o DrapeOf) Lay(ctx context.Context, m *drape.Mesh) ([]*drape.DrapedPiece, error) {
	if least := m.Size() / finest; o.Cell > 0 && o.Cell < least {
		return nil, fmt.Errorf("a cell of %s is too fine for this surface: at least %s, so that a page need not wait",
			unit.Size(o.Cell, 1), unit.Size(least, 1))
	}
	m = m.Offset(o.Lift)
	p, err := o.Ply(m)
	if err != nil {
		return nil, err
	}
	return m.Pieces(ctx, p, o.Options(m))
}

// finest is how many cells go along a surface at the most: a ply is laid while somebody types.
const finest = 250

// Ply is what is laid, in the core's terms.
func (o DrapeOf) Ply(m *drape.Mesh) (drape.Ply, error) {
	p := drape.Ply{Outline: o.Outline, Warp: o.Warp, Strip: o.Strip}
	for _, c := range o.Cuts {
		p.Cuts = append(p.Cuts, c.Core())
	}
	if o.X != nil && o.Y != nil {
		from, err := m.Project(geom.Ring{{X: *o.X, Y: *o.Y}}, 1)
		if err != nil {
			return p, fmt.Errorf("the start lies off the surface: choose a place on it")
		}
		p.At = &from[0]
	}
	return p, nil
}

// Options of its net on a surface.
func (o DrapeOf) Options(m *drape.Mesh) drape.Options {
	cell := o.Cell
	if cell == 0 {
		cell = m.Size() / 100
	}
	return drape.Options{Cell: cell, Lock: o.Lock, Round: o.Round, Steer: o.Steer}
}

// DrapeOf is what how an item of a curved stage lies follows from. The thickness of what lies
// under it is that of all plies before it in its stage.
func (d Document) DrapeOf(s Stage, key string, materials map[int64]Material) (DrapeOf, error) {
	lift := 0.0
	for _, i := range s.Items {
		if !i.Layer() {
			continue
		}
		m := materials[i.MaterialID]
		if i.Key != key {
			lift += m.Lamina.Thickness
			continue
		}
		own, err := d.Ring(i.Outline)
		if err != nil {
			return DrapeOf{}, err
		}
		ring, angle := s.OnTool(i, own)
		out := DrapeOf{
			Surface: *s.Surface, Lift: math.Round(lift*1e7) / 1e7, Outline: ring, Warp: unit.Rad(angle), Lock: m.Lock,
			Round: m.Round,
			Steer: m.Steer,
		}
		if i.Laid != nil {
			out.X, out.Y, out.Cell, out.Strip, out.Cuts = i.Laid.X, i.Laid.Y, i.Laid.Cell, i.Laid.Strip, i.Laid.Cuts
		}
		return out, nil
	}
	return DrapeOf{}, fmt.Errorf("there is no item %q in this stage", key)
}

// draped are the flats of a curved stage, by item. A ply that cannot be laid as it stands has
// one without pieces that says why.
func (d Document) draped(s Stage, materials map[int64]Material, lay Draper) map[string]*Flat {
	made := map[string]*Flat{}
	for _, i := range s.Items {
		if i.Kind != Ply {
			continue
		}
		of, err := d.DrapeOf(s, i.Key, materials)
		if err != nil {
			continue // that is told already
		}
		all, err := lay(of)
		if err != nil {
			made[i.Key] = &Flat{By: "draped", Pieces: []FlatPiece{}, Warnings: []string{err.Error()}}
			continue
		}
		made[i.Key] = flatOfDraped(all, of)
	}
	return made
}

func flatOfDraped(all []*drape.DrapedPiece, of DrapeOf) *Flat {
	w := drape.Summarise(all)
	f := &Flat{
		By: "draped", Pieces: []FlatPiece{}, Warnings: drape.Messages(all,
			drape.Options{Lock: of.Lock, Round: of.Round, Steer: of.Steer}),
		Peak: math.Round(unit.Deg(w.Peak)*100) / 100, Off: math.Round(unit.Deg(w.Off)*100) / 100,
	}
	darts := 0
	for _, d := range all {
		f.Pieces = append(f.Pieces, pieceOf(d))
		darts += len(d.Lips)
	}
	at := all[0].Start
	switch {
	case of.Strip > 0:
		f.Description = fmt.Sprintf("%d strips of %s side by side along the fibre", len(all), unit.Size(of.Strip, 0))
		if !math.IsInf(w.Radius, 1) && w.Radius < 50 {
			f.Description += fmt.Sprintf(", steered along %s at the tightest", unit.RollLength(w.Radius, 2))
		}
	case len(all) > 1:
		f.Description = fmt.Sprintf(
			"%d pieces, each from its own start, warp along its notches; sheared by %.0f° at most",
			len(all),
			unit.Deg(w.Peak),
		)
	default:
		f.Description = fmt.Sprintf("laid on first at x %s, y %s, warp along its notches; sheared by %.0f° at most",
			unit.Size(at.X, 0), unit.Size(at.Y, 0), unit.Deg(w.Peak))
	}
	if darts == 1 {
		f.Description += "; one dart"
	} else if darts > 1 {
		f.Description += fmt.Sprintf("; %d darts", darts)
	}
	return f
}

// pieceOf is one piece as it is cut, in the corner of its box, with its marks.
func pieceOf(d *drape.DrapedPiece) FlatPiece {
	p := FlatPiece{Points: []Corner{}}
	box := d.Flat.Bounds()
	place := func(q geom.Point) Corner { return Corner{X: tenth(q.X - box.Min.X), Y: tenth(q.Y - box.Min.Y)} }
	for _, q := range d.Flat {
		p.Points = append(p.Points, place(q))
	}
	if s := d.Steered; s != nil {
		at := geom.Point{X: (box.Min.X + box.Max.X) / 2}
		p.Marks = append(p.Marks, FlatMark{At: place(at), Text: fmt.Sprintf("strip %+d", s.Number)})
		return p
	}
	p.Marks = append(p.Marks, FlatMark{At: place(geom.Point{}), Text: "start"})
	for _, n := range d.Notches {
		p.Marks = append(p.Marks, FlatMark{At: place(n.At), Text: n.Thread})
	}
	for _, l := range d.Lips {
		if l.Width >= 0 {
			continue // it is in the outline
		}
		m := FlatMark{At: place(l.Flat[0]), Text: "cut"}
		for _, q := range l.Flat {
			m.Line = append(m.Line, place(q))
		}
		p.Marks = append(p.Marks, m)
	}
	return p
}

// checkSurface finds what cannot be right about a curved stage.
func (s Stage) checkSurface(add func(key, field, format string, args ...any)) {
	if s.Surface == nil {
		for _, i := range s.Items {
			if i.Laid != nil {
				add(i.Key, "laid", "%s: only a stage on a curved surface says where a ply is laid on first", s.Name)
			}
		}
		return
	}
	for _, i := range s.Items {
		if i.Laid != nil {
			i.checkLaid(add)
		}
	}
	if s.Rolled != nil {
		add(s.Key, "surface", "%s: a stage is rolled on a mandrel or laid on a surface, not both", s.Name)
	}
	if s.Surface.Kind == MeshSurface {
		if s.Surface.MeshID == 0 {
			add(s.Key, "surface", "%s: choose which surface it lies on, or bring one in", s.Name)
		}
		return // whether it is kept here is told where it is laid
	}
	if _, err := s.Surface.built(checkTriangles); err != nil {
		add(s.Key, "surface", "%s: %s", s.Name, err)
	}
}

// checkLaid finds what cannot be right about how a ply is laid on.
func (i Item) checkLaid(add func(key, field, format string, args ...any)) {
	odd := func(v float64) bool { return math.IsNaN(v) || math.IsInf(v, 0) }
	if l := i.Laid; odd(l.Strip) || odd(l.Cell) || l.Strip < 0 || l.Cell < 0 {
		add(i.Key, "laid", "the width of strips and the cell of a net are numbers, not below zero")
	}
	for k, c := range i.Laid.Cuts {
		switch {
		case c.Kind != DartCut && c.Kind != SplitCut:
			add(i.Key, "laid", "cut %d: %q is neither a dart nor a split", k+1, c.Kind)
		case odd(c.X+c.Y+c.ToX+c.ToY+c.Overlap) || c.Overlap < 0:
			add(i.Key, "laid", "cut %d: its places are numbers, its overlap is not below zero", k+1)
		case math.Hypot(c.ToX-c.X, c.ToY-c.Y) < 1e-3:
			add(i.Key, "laid", "cut %d begins where it ends", k+1)
		}
	}
}
