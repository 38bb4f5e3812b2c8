package master

import (
	"context"
	"fmt"
	"math"

	"juxta/core/geom"
	"juxta/core/pattern/drape"
	"juxta/core/unit"
)

// Surface is what the plies of a stage lie on where it is curved.
type Surface struct {
	Kind   string             `json:"kind" enum:"cylinder,cone,sphere cap,paraboloid,torus segment,saddle,ramped box corner"`
	Dims   map[string]float64 `json:"dims" doc:"By name: m; angles in degrees"`
	Turned bool               `json:"turned,omitempty" doc:"The bag lies on the other side than it would"`
}

// Laid is how a ply of a curved stage is laid on.
type Laid struct {
	X    *float64 `json:"x,omitempty" doc:"Where it is laid on first, in plan from the datum, m; missing: in the middle of the ply" minimum:"-100" maximum:"100"`
	Y    *float64 `json:"y,omitempty" minimum:"-100" maximum:"100"`
	Cell float64  `json:"cell,omitempty" doc:"Side of a cell of its net, m; 0: a hundredth of the surface" minimum:"0" maximum:"1"`
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
}

// Draper lays plies over surfaces. It may keep what it laid before.
type Draper func(DrapeOf) (*drape.Draped, error)

// surfaceTriangles is how finely a built-in surface is made.
const surfaceTriangles = 40_000

// Built is a built-in surface as a mesh.
func (s Surface) Built() (*drape.Mesh, error) {
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
	m, err := drape.Built(s.Kind, dims, surfaceTriangles)
	if err == nil && s.Turned {
		m.Turn()
	}
	return m, err
}

// Lay lays a ply on its surface as it is given, as a mesh without what lies under the ply.
func (o DrapeOf) Lay(ctx context.Context, m *drape.Mesh) (*drape.Draped, error) {
	m = m.Offset(o.Lift)
	opts := o.Options(m)
	boundary, err := m.Project(o.Outline, opts.Cell/2)
	if err != nil {
		return nil, err
	}
	at := m.Middle(boundary)
	if o.X != nil && o.Y != nil {
		from, err := m.Project(geom.Ring{{X: *o.X, Y: *o.Y}}, 1)
		if err != nil {
			return nil, fmt.Errorf("the start lies off the surface: choose a place on it")
		}
		at = from[0]
	}
	return m.Drape(ctx, boundary, drape.Start{At: at, Warp: o.Warp}, opts)
}

// Options of its net on a surface.
func (o DrapeOf) Options(m *drape.Mesh) drape.Options {
	cell := o.Cell
	if cell == 0 {
		cell = m.Size() / 100
	}
	return drape.Options{Cell: cell, Lock: o.Lock, Round: o.Round}
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
			Surface: *s.Surface, Lift: math.Round(lift*1e7) / 1e7, Outline: ring, Warp: unit.Rad(angle), Lock: m.Lock, Round: m.Round,
		}
		if i.Laid != nil {
			out.X, out.Y, out.Cell = i.Laid.X, i.Laid.Y, i.Laid.Cell
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
		one, err := lay(of)
		if err != nil {
			made[i.Key] = &Flat{By: "draped", Pieces: []Piece{}, Warnings: []string{err.Error()}}
			continue
		}
		made[i.Key] = flatOfDraped(one, of)
	}
	return made
}

func flatOfDraped(one *drape.Draped, of DrapeOf) *Flat {
	p := Piece{Points: []Corner{}}
	box := one.Flat.Bounds()
	place := func(q geom.Point) Corner { return Corner{X: tenth(q.X - box.Min.X), Y: tenth(q.Y - box.Min.Y)} }
	for _, q := range one.Flat {
		p.Points = append(p.Points, place(q))
	}
	p.Marks = append(p.Marks, Mark{At: place(geom.Point{}), Says: "start"})
	for _, n := range one.Notches {
		p.Marks = append(p.Marks, Mark{At: place(n.At), Says: n.Says})
	}
	at := one.Start
	return &Flat{
		By: "draped", Pieces: []Piece{p},
		Says: fmt.Sprintf("laid on first at x %s, y %s, warp along its notches; sheared by %.0f° at most",
			unit.Size(at.X, 0), unit.Size(at.Y, 0), unit.Deg(one.Peak)),
		Warnings: one.Says(drape.Options{Lock: of.Lock, Round: of.Round}),
		Peak:     math.Round(unit.Deg(one.Peak)*100) / 100, Off: math.Round(unit.Deg(one.Off)*100) / 100,
	}
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
	if s.Rolled != nil {
		add(s.Key, "surface", "%s: a stage is rolled on a mandrel or laid on a surface, not both", s.Name)
	}
	if _, err := s.Surface.Built(); err != nil {
		add(s.Key, "surface", "%s: %s", s.Name, err)
	}
}
