package calc

import (
	"context"
	"errors"
	"fmt"
	"math"

	"juxta/core/drape"
	"juxta/core/geom"
	"juxta/core/unit"
)

// DrapeIn is a ply that is laid over a surface: lengths in m, angles in degrees.
type DrapeIn struct {
	Surface  DrapeSurface `json:"surface"`
	Outline  geom.Ring    `json:"outline,omitempty" doc:"Of the ply in plan, projected onto the surface; missing: the whole surface"`
	Start    *[3]float64  `json:"start,omitempty" doc:"Where it is laid on first; missing: the middle of the ply"`
	WarpDeg  float64      `json:"warpDeg" doc:"Of the warp at the start, from x laid into the surface" minimum:"-360" maximum:"360"`
	Cell     float64      `json:"cell,omitempty" doc:"Side of a cell of the net; 0: a hundredth of the surface" minimum:"0"`
	LockDeg  float64      `json:"lockDeg,omitempty" doc:"Shear beyond which the material locks; 0: not said" minimum:"0" maximum:"89"`
	Round    float64      `json:"round,omitempty" doc:"Tightest hollow that it goes into without bridging; 0: not said" minimum:"0"`
	Starts   int          `json:"starts,omitempty" doc:"Starts to try for the least peak shear; 0: as given" minimum:"0" maximum:"2000"`
	WarpsDeg []float64    `json:"warpsDeg,omitempty" doc:"Directions to try at each; missing: as given" maxItems:"90"`
	Net      bool         `json:"net,omitempty" doc:"Also the nodes of the net"`
	Cuts     []DrapeCut   `json:"cuts,omitempty" doc:"Darts and splits" maxItems:"40"`
	Propose  bool         `json:"propose,omitempty" doc:"Propose cuts where it locks, and lay it with them"`
	Strip    float64      `json:"strip,omitempty" doc:"Width of the strips that it is laid of; 0: of whole fabric" minimum:"0"`
	Steer    float64      `json:"steer,omitempty" doc:"Least radius that a strip is steered along; 0: not said" minimum:"0"`
}

// DrapeCut is a cut through a ply, in plan.
type DrapeCut struct {
	Kind    string     `json:"kind" enum:"dart,split"`
	From    [2]float64 `json:"from" doc:"Of a dart its tip; of a split one place of its line"`
	To      [2]float64 `json:"to" doc:"Of a dart its mouth; of a split another place of its line"`
	Overlap float64    `json:"overlap,omitempty" doc:"Of its sides; 0: butt" minimum:"0"`
}

// DrapeSurface is a built-in surface, or triangles.
type DrapeSurface struct {
	Kind      string             `json:"kind,omitempty" enum:"cylinder,cone,sphere cap,paraboloid,torus segment,saddle,ramped box corner"`
	Dims      map[string]float64 `json:"dims,omitempty" doc:"Of a built-in one, by name"`
	Points    [][3]float64       `json:"points,omitempty" doc:"Of triangles"`
	Triangles [][3]int32         `json:"triangles,omitempty" doc:"Points from 0, anticlockwise as seen from the bag"`
	Turned    bool               `json:"turned,omitempty" doc:"The bag lies on the other side"`
}

// DrapeOut is how it lies.
type DrapeOut struct {
	DrapedSummary
	Pieces   []Draped   `json:"pieces" doc:"One, or as it is cut or laid of strips"`
	Proposed []DrapeCut `json:"proposed,omitempty" doc:"Cuts that it was laid with as well"`
	Tried    int        `json:"tried,omitempty" doc:"Starts that were tried"`
}

var drapeCalc = define("drape", "shear, true fibre angles and flat outline of a ply over a curved surface", DrapeIn{
	Surface: DrapeSurface{Kind: "sphere cap", Dims: map[string]float64{"radius": 0.4, "angle": 50}},
	WarpDeg: 0, Cell: 0.02, LockDeg: 15, Starts: 9, WarpsDeg: []float64{0, 45},
}, Drape)

// dims turns the angles of a surface's dimensions, in degrees, into the core's.
func (s DrapeSurface) dims() map[string]float64 {
	out := map[string]float64{}
	for name, v := range s.Dims {
		out[name] = v
		for _, k := range drape.Library {
			for _, d := range k.Dims {
				if k.Kind == s.Kind && d.Name == name && d.Unit == "rad" {
					out[name] = unit.Rad(v)
				}
			}
		}
	}
	return out
}

// drapeTriangles is how finely a built-in surface is made.
const drapeTriangles = 60_000

func (s DrapeSurface) mesh() (*drape.Mesh, error) {
	var m *drape.Mesh
	var err error
	if s.Kind != "" {
		m, err = drape.NewSurface(s.Kind, s.dims(), drapeTriangles)
	} else {
		points := make([]drape.Vec, len(s.Points))
		for k, p := range s.Points {
			points[k] = drape.Vec{X: p[0], Y: p[1], Z: p[2]}
		}
		m, err = drape.NewMesh(points, s.Triangles)
	}
	if err != nil {
		return nil, &InputError{"surface", unit.InMetric(err.Error())}
	}
	if s.Turned {
		m.Turn()
	}
	return m, nil
}

// Drape lays a ply over a surface.
func Drape(ctx context.Context, in DrapeIn) (DrapeOut, error) {
	m, err := in.Surface.mesh()
	if err != nil {
		return DrapeOut{}, err
	}
	o := drape.Options{Cell: in.Cell, Lock: unit.Rad(in.LockDeg), Round: in.Round}
	if o.Cell == 0 {
		o.Cell = m.Size() / 100
	}
	o.Steer = in.Steer
	p := drape.Ply{Outline: in.Outline, Warp: unit.Rad(in.WarpDeg), Strip: in.Strip}
	if in.Start != nil {
		p.At = &drape.Vec{X: in.Start[0], Y: in.Start[1], Z: in.Start[2]}
	}
	for _, c := range in.Cuts {
		p.Cuts = append(p.Cuts, drape.Cut{
			Split: c.Kind == "split", From: geom.Point{X: c.From[0], Y: c.From[1]},
			To:      geom.Point{X: c.To[0], Y: c.To[1]},
			Overlap: c.Overlap,
		})
	}
	// What is wrong is told of the outline first, then of how it is laid.
	if len(p.Outline) > 0 {
		if _, err := m.Project(p.Outline, o.Cell/2); err != nil {
			return DrapeOut{}, &InputError{"outline", unit.InMetric(err.Error())}
		}
	} else if _, err := m.Boundary(o.Cell / 2); err != nil {
		return DrapeOut{}, &InputError{"outline", unit.InMetric(err.Error())}
	}
	out := DrapeOut{Pieces: []Draped{}}
	if in.Starts > 0 {
		warps := []float64{p.Warp}
		if len(in.WarpsDeg) > 0 {
			warps = warps[:0]
			for _, w := range in.WarpsDeg {
				warps = append(warps, unit.Rad(w))
			}
		}
		found, err := m.Search(ctx, p, warps, in.Starts, o, nil)
		if err != nil {
			return out, &InputError{"starts", unit.InMetric(err.Error())}
		}
		p.At, p.Warp, out.Tried = &found.Start.At, found.Start.Warp, found.Tried
	}
	if in.Propose {
		found, err := m.Propose(ctx, p, o, nil)
		if err != nil {
			return out, drapeError(err)
		}
		p.Cuts = append(p.Cuts, found.Cuts...)
		for _, c := range found.Cuts {
			kind := "dart"
			if c.Split {
				kind = "split"
			}
			out.Proposed = append(out.Proposed, DrapeCut{
				kind, [2]float64{c.From.X, c.From.Y}, [2]float64{c.To.X, c.To.Y}, c.Overlap,
			})
		}
	}
	all, err := m.Pieces(ctx, p, o)
	if err != nil {
		return out, drapeError(err)
	}
	out.DrapedSummary = FromDrapedPieces(all, p.Warp, o)
	if math.IsNaN(out.Area) {
		return out, fmt.Errorf("the flat has no area")
	}
	for _, d := range all {
		out.Pieces = append(out.Pieces, FromDraped(d, in.Net))
	}
	for k, s := range out.Messages {
		out.Messages[k] = unit.InMetric(s)
	}
	return out, nil
}

// drapeError is what is wrong with how a ply is laid.
func drapeError(err error) error {
	if errors.Is(err, context.Canceled) || errors.Is(err, context.DeadlineExceeded) {
		return err
	}
	return &InputError{"start", unit.InMetric(err.Error())}
}
