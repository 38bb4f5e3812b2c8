package calc

import (
	"math"

	"juxta/core/drape"
	"juxta/core/geom"
	"juxta/core/unit"
)

// Draped is how a piece of a ply lies on a surface, and its flat: lengths in m, angles in degrees.
type Draped struct {
	Flat     geom.Ring     `json:"flat" doc:"Warp along x, the start at the origin; of a strip, its middle along x"`
	Boundary []Spot        `json:"boundary" doc:"On the surface, in turn"`
	Notches  []DrapeNotch  `json:"notches" doc:"Where the threads through the start meet the edge"`
	Area     float64       `json:"area" doc:"Of the flat, m²"`
	Surface  float64       `json:"surface" doc:"Of what it covers, m²"`
	Peak     float64       `json:"peakDeg" doc:"Largest shear, either way"`
	Locks    []DrapeRegion `json:"locks" doc:"Where it is sheared beyond what it takes, in degrees"`
	Bridges  []DrapeRegion `json:"bridges" doc:"Where a hollow is tighter than it goes into, in m"`
	Lips     []DrapeLip    `json:"lips" doc:"Its darts"`
	Strip    *DrapeStrip   `json:"strip,omitempty"`
	Cell     float64       `json:"cell"`
	Nodes    []DrapeNode   `json:"nodes" doc:"Within the piece, row after row of weft"`
	Start    Spot          `json:"start" doc:"On the surface"`
}

// DrapeLip is a dart as it is cut.
type DrapeLip struct {
	Line  []Spot  `json:"line" doc:"On the surface, from its tip to the edge"`
	Width float64 `json:"width" doc:"Cut away at the edge, m; below zero: it opens on the tool by so much"`
}

// DrapeStrip is how a strip lies beside its neighbour.
type DrapeStrip struct {
	Number int     `json:"number" doc:"0: through the start; to its left 1, 2 …"`
	Radius float64 `json:"radius,omitempty" doc:"Tightest that it is steered along, m; missing: straight"`
	At     Spot    `json:"at" doc:"Where"`
	Gap    float64 `json:"gap" doc:"Widest to its neighbour, m"`
	Lap    float64 `json:"lap" doc:"Widest that it lies over its neighbour, m"`
}

// DrapedSummary is what is known of all pieces of a ply together.
type DrapedSummary struct {
	Area     float64    `json:"area" doc:"Of the flats, m²"`
	Surface  float64    `json:"surface" doc:"Of what they cover, m²"`
	More     *float64   `json:"more,omitempty" doc:"Of the flats over what they cover, less one; missing: they cover nothing"`
	Peak     float64    `json:"peakDeg" doc:"Largest shear, either way"`
	PeakAt   Spot       `json:"peakAt"`
	Mean     float64    `json:"meanDeg" doc:"Of shear without its sign, over the area"`
	Off      float64    `json:"offDeg" doc:"By how much the warp leaves its angle at most"`
	Radius   float64    `json:"radius,omitempty" doc:"Of strips: the tightest that one is steered along, m; missing: straight"`
	Messages []string   `json:"messages" doc:"What a planner should know of it"`
	Scale    [4]float64 `json:"scaleDeg" doc:"Shear from which on it is drawn as none, some, much, locked"`
	Warp     float64    `json:"warpDeg" doc:"At the start, from the surface's 0°"`
}

// Spot is a place in space, m.
type Spot [3]float64

// FromSpot is a place, to the tenth of a micrometre.
func FromSpot(v drape.Vec) Spot {
	return Spot{unit.RoundLength(v.X), unit.RoundLength(v.Y), unit.RoundLength(v.Z)}
}

// DrapeNotch is a mark at the edge.
type DrapeNotch struct {
	At     [2]float64 `json:"at" doc:"In the flat"`
	On     Spot       `json:"on" doc:"On the surface"`
	Thread string     `json:"thread" enum:"warp,weft"`
}

// DrapeRegion is where something is wrong.
type DrapeRegion struct {
	At    Spot    `json:"at" doc:"The worst of it"`
	Worst float64 `json:"worst"`
	Area  float64 `json:"area" doc:"m²"`
}

// DrapeNode is where two threads cross.
type DrapeNode struct {
	Panel int         `json:"p" doc:"0; beyond its darts 1, 2 …"`
	I     int         `json:"i" doc:"Warp cells from the start"`
	J     int         `json:"j" doc:"Weft cells from the start"`
	At    Spot        `json:"at"`
	Shear float64     `json:"shear" doc:"Degrees"`
	Warp  float64     `json:"warp" doc:"From the surface's 0°, degrees"`
	Weft  float64     `json:"weft"`
	Flat  *[2]float64 `json:"flat,omitempty" doc:"Of a strip: where it lies in the flat; else (i, j) cells from the origin"`
}

// FromDrapedPieces is what is known of all pieces, as it travels.
func FromDrapedPieces(all []*drape.DrapedPiece, warp float64, o drape.Options) DrapedSummary {
	w := drape.Summarise(all)
	out := DrapedSummary{
		Area: w.Area, Surface: w.Surface, Peak: unit.Deg(w.Peak),
		PeakAt: FromSpot(w.PeakAt), Mean: unit.Deg(w.Mean),
		Off: unit.Deg(w.Off), Radius: finite(w.Radius), Messages: drape.Messages(all, o), Warp: unit.Deg(warp),
	}
	if w.Surface > 0 {
		more := w.Area/w.Surface - 1
		out.More = &more
	}
	for k, v := range drape.Scale(o.Lock) {
		out.Scale[k] = Rounded(v)
	}
	if out.Messages == nil {
		out.Messages = []string{}
	}
	return out
}

// finite is a radius, or nothing where the way is straight.
func finite(r float64) float64 {
	if r > 1e4 {
		return 0
	}
	return r
}

// FromDraped is how a piece lies, as it travels; its net only if asked for.
func FromDraped(d *drape.DrapedPiece, net bool) Draped {
	out := Draped{
		Flat: d.Flat.Fine(), Boundary: []Spot{}, Notches: []DrapeNotch{}, Area: d.Area, Surface: d.Surface,
		Peak: unit.Deg(d.Peak), Locks: []DrapeRegion{}, Bridges: []DrapeRegion{}, Lips: []DrapeLip{}, Cell: d.Cell,
		Nodes: []DrapeNode{}, Start: FromSpot(d.Start),
	}
	for _, p := range d.Boundary {
		out.Boundary = append(out.Boundary, FromSpot(p))
	}
	for _, n := range d.Notches {
		out.Notches = append(
			out.Notches,
			DrapeNotch{[2]float64{unit.RoundLength(n.At.X), unit.RoundLength(n.At.Y)}, FromSpot(n.On), n.Thread},
		)
	}
	cell := d.Cell * d.Cell
	for _, r := range d.Locks {
		out.Locks = append(out.Locks, DrapeRegion{FromSpot(r.At), unit.Deg(r.Worst), float64(r.Cells) * cell})
	}
	for _, r := range d.Bridges {
		out.Bridges = append(out.Bridges, DrapeRegion{FromSpot(r.At), r.Worst, float64(r.Cells) * cell})
	}
	for _, l := range d.Lips {
		lip := DrapeLip{Line: []Spot{}, Width: unit.RoundLength(l.Width)}
		for _, p := range l.Line {
			lip.Line = append(lip.Line, FromSpot(p))
		}
		out.Lips = append(out.Lips, lip)
	}
	if s := d.Steered; s != nil {
		out.Strip = &DrapeStrip{s.Number, finite(s.Radius), FromSpot(s.At), unit.RoundLength(s.Gap),
			unit.RoundLength(s.Lap)}
	}
	if !net {
		return out
	}
	for _, n := range d.Inside {
		node := DrapeNode{n.Panel, n.I, n.J, FromSpot(n.At), Rounded(n.Shear), Rounded(n.Warp), Rounded(n.Weft), nil}
		if d.Steered != nil {
			node.Flat = &[2]float64{unit.RoundLength(n.Flat.X), unit.RoundLength(n.Flat.Y)}
		}
		out.Nodes = append(out.Nodes, node)
	}
	return out
}

// Rounded is an angle in degrees, to a hundredth.
func Rounded(rad float64) float64 { return math.Round(unit.Deg(rad)*100) / 100 }
