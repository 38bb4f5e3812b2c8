package drape

import (
	"context"
	"fmt"
	"math"
	"slices"

	"juxta/core/geom"
	"juxta/core/unit"
)

// Ply is what is laid on a surface, and how.
type Ply struct {
	Outline geom.Ring // in plan; empty: the whole surface
	At      *Vec      // where it is laid on first; nil: in the middle of each piece
	Warp    float64   // from the surface's 0°
	Strip   float64   // width of the strips that it is laid of, m; 0: of whole fabric
	Cuts    []Cut
}

// Cut is a cut through a ply in plan: a dart from its tip to the edge, or a split from edge to edge
// along the line through two places.
type Cut struct {
	Split    bool
	From, To geom.Point // of a dart: its tip, its mouth
	Overlap  float64    // m; 0: butt
}

// mostPieces is into how many a ply is split.
const mostPieces = 24

// Pieces lays a ply piece by piece: split where it is split, each piece from its own start, with
// its darts, or of strips.
func (m *Mesh) Pieces(ctx context.Context, p Ply, o Options) ([]*DrapedPiece, error) {
	step := o.Cell / 2
	var edges [][]Vec
	outlines := []geom.Ring{p.Outline}
	if len(p.Outline) == 0 {
		whole, err := m.Boundary(step)
		if err != nil {
			return nil, err
		}
		ring := inPlan(whole)
		if len(p.Cuts) > 0 && ring.Check() != nil {
			return nil, fmt.Errorf(
				"a ply over a whole surface that hangs over itself is not cut: give it an outline in plan",
			)
		}
		edges, outlines = [][]Vec{whole}, []geom.Ring{ring}
	}
	if parts, err := p.split(outlines); err != nil {
		return nil, err
	} else if len(parts) > len(outlines) {
		outlines, edges = parts, nil
	}
	if edges == nil {
		for _, r := range outlines {
			edge, err := m.Project(r, step)
			if err != nil {
				return nil, err
			}
			edges = append(edges, edge)
		}
	}
	darts, err := m.darts(p, outlines)
	if err != nil {
		return nil, err
	}
	var out []*DrapedPiece
	for k, edge := range edges {
		s := Start{At: m.Middle(edge), Warp: p.Warp}
		if p.At != nil && (len(edges) == 1 || outlines[k].Contains(geom.Point{X: p.At.X, Y: p.At.Y})) {
			s.At = *p.At
		}
		if p.Strip > 0 {
			strips, err := m.Strips(ctx, edge, s, p.Strip, o)
			if err != nil {
				return nil, err
			}
			out = append(out, strips...)
			continue
		}
		own := o
		own.Darts = darts[k]
		d, err := m.Drape(ctx, edge, s, own)
		if err != nil {
			return nil, err
		}
		out = append(out, d)
	}
	if len(out) == 0 {
		return nil, fmt.Errorf("nothing is left of the ply: it is narrower than a strip can be")
	}
	return out, nil
}

// split cuts outlines along the ply's cuts from edge to edge.
func (p Ply) split(outlines []geom.Ring) ([]geom.Ring, error) {
	for _, c := range p.Cuts {
		if !c.Split {
			continue
		}
		var parts []geom.Ring
		for _, r := range outlines {
			sides, err := Split(r, c.From, c.To, c.Overlap)
			if err != nil {
				return nil, err
			}
			if len(sides) > 1 {
				if least := thinnest(sides); c.Overlap > 0 && least <= c.Overlap {
					return nil, fmt.Errorf("an overlap of %s is wider than the piece beside the split, %s",
						unit.Size(c.Overlap, 1), unit.Size(least, 1))
				}
			}
			parts = append(parts, sides...)
		}
		if len(parts) == len(outlines) {
			return nil, fmt.Errorf("a split at x %s, y %s passes by the ply: draw it from edge to edge",
				unit.Size(c.From.X, 0), unit.Size(c.From.Y, 0))
		}
		if outlines = parts; len(outlines) > mostPieces {
			return nil, fmt.Errorf("a ply is split into at most %d pieces", mostPieces)
		}
	}
	return outlines, nil
}

// thinnest is the least extent of outlines.
func thinnest(all []geom.Ring) float64 {
	least := math.Inf(1)
	for _, r := range all {
		box := r.Bounds()
		least = min(least, box.Width(), box.Height())
	}
	return least
}

// darts are those of each piece, on the surface.
func (m *Mesh) darts(p Ply, outlines []geom.Ring) ([][]Dart, error) {
	out := make([][]Dart, len(outlines))
	lift := func(q geom.Point) (Vec, error) {
		v, err := m.Project(geom.Ring{q}, 1)
		if err != nil {
			return Vec{}, err
		}
		return v[0], nil
	}
	for _, c := range p.Cuts {
		if c.Split {
			continue
		}
		if p.Strip > 0 {
			return nil, fmt.Errorf("strips need no darts: they are steered")
		}
		k := slices.IndexFunc(outlines, func(r geom.Ring) bool { return r.Contains(c.From) })
		if k < 0 {
			return nil, fmt.Errorf("the tip of a dart at x %s, y %s lies off the ply",
				unit.Size(c.From.X, 0), unit.Size(c.From.Y, 0))
		}
		if box := outlines[k].Bounds(); c.Overlap >= min(box.Width(), box.Height()) {
			return nil, fmt.Errorf("an overlap of %s is wider than the ply", unit.Size(c.Overlap, 1))
		}
		tip, err := lift(c.From)
		if err != nil {
			return nil, err
		}
		// The mouth lies on the edge; drawn beyond it, where the way there leaves the ply.
		mouth, err := lift(mouthOf(outlines[k], c))
		if err != nil {
			return nil, err
		}
		out[k] = append(out[k], Dart{Tip: tip, Mouth: mouth, Overlap: c.Overlap})
	}
	return out, nil
}

// mouthOf is where a dart leaves an outline, from its tip towards its mouth and on.
func mouthOf(ring geom.Ring, c Cut) geom.Point {
	dx, dy := c.To.X-c.From.X, c.To.Y-c.From.Y
	best, at := math.Inf(1), c.To
	for i, a := range ring {
		b := ring[(i+1)%len(ring)]
		ex, ey := b.X-a.X, b.Y-a.Y
		det := dx*ey - dy*ex
		if det == 0 {
			continue
		}
		t := ((a.X-c.From.X)*ey - (a.Y-c.From.Y)*ex) / det
		s := ((a.X-c.From.X)*dy - (a.Y-c.From.Y)*dx) / det
		if t > 1e-9 && s >= 0 && s <= 1 && t < best {
			// A hair within, so that it lies on the surface.
			best, at = t, geom.Point{X: c.From.X + dx*t, Y: c.From.Y + dy*t}
		}
	}
	return at
}

func inPlan(edge []Vec) geom.Ring {
	ring := make(geom.Ring, len(edge))
	for k, p := range edge {
		ring[k] = geom.Point{X: p.X, Y: p.Y}
	}
	return ring
}

// Summary is what is known of all pieces of a ply together.
type Summary struct {
	Area, Surface float64 // of the flats, of what they cover, m²
	Peak          float64
	PeakAt        Vec
	Mean          float64
	Off           float64
	Radius        float64 // of strips: the tightest that one is steered along; +Inf: straight, or none
	Gap, Lap      float64 // of strips: the widest
}

// Summarise sums up the pieces of a ply.
func Summarise(all []*DrapedPiece) Summary {
	w := Summary{Radius: math.Inf(1)}
	for _, d := range all {
		w.Area += d.Area
		w.Surface += d.Surface
		w.Mean += d.Mean * d.Surface
		if d.Peak > w.Peak {
			w.Peak, w.PeakAt = d.Peak, d.PeakAt
		}
		w.Off = max(w.Off, d.Off)
		if s := d.Steered; s != nil {
			w.Radius, w.Gap, w.Lap = min(w.Radius, s.Radius), max(w.Gap, s.Gap), max(w.Lap, s.Lap)
		}
	}
	if w.Surface > 0 {
		w.Mean /= w.Surface
	}
	return w
}

// Scale is how shear is told on a drawing: four steps, from none to what locks, or to 45° where
// that is not said.
func Scale(lock float64) [4]float64 {
	if lock <= 0 {
		lock = math.Pi / 4
	}
	return [4]float64{0, lock / 3, lock * 2 / 3, lock}
}

// Messages is what a planner should know of how a ply lies, in words.
func Messages(all []*DrapedPiece, o Options) []string {
	var out []string
	w := Summarise(all)
	for _, d := range all {
		out = append(out, d.says(o)...)
	}
	if o.Steer > 0 && w.Radius < o.Steer*0.9 {
		out = append(
			out,
			fmt.Sprintf("strips are steered along %s where %s is the least: narrower strips, or another start",
				unit.RollLength(w.Radius, 2), unit.RollLength(o.Steer, 2)),
		)
	}
	if w.Gap > 5e-4 || w.Lap > 5e-4 {
		out = append(
			out,
			fmt.Sprintf(
				"so that no strip is steered tighter than its limit, strips lie up to %s apart and up to %s over "+
					"one another",
				unit.Size(w.Gap, 1),
				unit.Size(w.Lap, 1),
			),
		)
	}
	return out
}
