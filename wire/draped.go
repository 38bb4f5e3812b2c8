package wire

import (
	"math"

	"juxta/core/pattern/drape"
	"juxta/core/unit"
)

// Draped is how a ply lies on a surface, and its flat: lengths in m, angles in degrees.
type Draped struct {
	Flat     Outline       `json:"flat" doc:"Warp along x, the start at the origin"`
	Boundary []Spot        `json:"boundary" doc:"On the surface, in turn"`
	Notches  []DrapeNotch  `json:"notches" doc:"Where the threads through the start meet the edge"`
	Area     float64       `json:"area" doc:"Of the flat, m²"`
	Surface  float64       `json:"surface" doc:"Of what it covers, m²"`
	Peak     float64       `json:"peakDeg" doc:"Largest shear, either way"`
	PeakAt   Spot          `json:"peakAt"`
	Mean     float64       `json:"meanDeg" doc:"Of shear without its sign, over the area"`
	Off      float64       `json:"offDeg" doc:"By how much the warp leaves its angle at most"`
	Locks    []DrapeRegion `json:"locks" doc:"Where it is sheared beyond what it takes, in degrees"`
	Bridges  []DrapeRegion `json:"bridges" doc:"Where a hollow is tighter than it goes into, in m"`
	Says     []string      `json:"says" doc:"What a planner should know of it"`
	Cell     float64       `json:"cell"`
	Nodes    []DrapeNode   `json:"nodes" doc:"Within the ply, row after row of weft"`
	Start    Spot          `json:"start" doc:"On the surface"`
	Warp     float64       `json:"warpDeg" doc:"At the start, from the surface's 0°"`
}

// Spot is a place in space, m.
type Spot [3]float64

// FromSpot is a place, to the tenth of a micrometre.
func FromSpot(v drape.Vec) Spot { return Spot{Fine(v.X), Fine(v.Y), Fine(v.Z)} }

// DrapeNotch is a mark at the edge.
type DrapeNotch struct {
	At   [2]float64 `json:"at" doc:"In the flat"`
	On   Spot       `json:"on" doc:"On the surface"`
	Says string     `json:"says" enum:"warp,weft"`
}

// DrapeRegion is where something is wrong.
type DrapeRegion struct {
	At    Spot    `json:"at" doc:"The worst of it"`
	Worst float64 `json:"worst"`
	Area  float64 `json:"area" doc:"m²"`
}

// DrapeNode is where two threads cross.
type DrapeNode struct {
	I     int     `json:"i" doc:"Warp cells from the start"`
	J     int     `json:"j" doc:"Weft cells from the start"`
	At    Spot    `json:"at"`
	Shear float64 `json:"shear" doc:"Degrees"`
	Warp  float64 `json:"warp" doc:"From the surface's 0°, degrees"`
	Weft  float64 `json:"weft"`
}

// FromDraped is how a ply lies, as it travels; its net only if asked for.
func FromDraped(d *drape.Draped, s drape.Start, o drape.Options, net bool) Draped {
	out := Draped{
		Flat: Drawn(d.Flat), Boundary: []Spot{}, Notches: []DrapeNotch{}, Area: d.Area, Surface: d.Surface,
		Peak: unit.Deg(d.Peak), PeakAt: FromSpot(d.PeakAt), Mean: unit.Deg(d.Mean), Off: unit.Deg(d.Off),
		Locks: []DrapeRegion{}, Bridges: []DrapeRegion{}, Says: d.Says(o), Cell: d.Cell, Nodes: []DrapeNode{},
		Start: FromSpot(d.Start), Warp: unit.Deg(s.Warp),
	}
	if out.Says == nil {
		out.Says = []string{}
	}
	for _, p := range d.Boundary {
		out.Boundary = append(out.Boundary, FromSpot(p))
	}
	for _, n := range d.Notches {
		out.Notches = append(out.Notches, DrapeNotch{[2]float64{Fine(n.At.X), Fine(n.At.Y)}, FromSpot(n.On), n.Says})
	}
	cell := d.Cell * d.Cell
	for _, r := range d.Locks {
		out.Locks = append(out.Locks, DrapeRegion{FromSpot(r.At), unit.Deg(r.Worst), float64(r.Cells) * cell})
	}
	for _, r := range d.Bridges {
		out.Bridges = append(out.Bridges, DrapeRegion{FromSpot(r.At), r.Worst, float64(r.Cells) * cell})
	}
	if !net {
		return out
	}
	for _, n := range d.Inside {
		out.Nodes = append(out.Nodes, DrapeNode{
			n.I, n.J, FromSpot(n.At), Rounded(n.Shear), Rounded(n.Warp), Rounded(n.Weft),
		})
	}
	return out
}

// Rounded is an angle in degrees, to a hundredth.
func Rounded(rad float64) float64 { return math.Round(unit.Deg(rad)*100) / 100 }
