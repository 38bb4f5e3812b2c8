package master

import (
	"math"

	"juxta/core/drape"
	"juxta/core/geom"
	"juxta/core/laminate"
	"juxta/core/unit"
)

// lying finds how plies of curved stages lie at a place in plan: on double curvature no fibre keeps the
// angle that it has at the start.
type lying struct {
	pieces map[string][]*drape.DrapedPiece // by item
	start  map[string]float64              // angle at their start, from the tool's 0°, radians
	woven  map[string]bool
}

// lie lays the plies of curved stages; a case without any, or without a draper, lies as it is drawn.
func (c AnalysisInput) lie() lying {
	l := lying{map[string][]*drape.DrapedPiece{}, map[string]float64{}, map[string]bool{}}
	if c.Lay == nil {
		return l
	}
	for _, s := range c.Doc.Stages {
		if s.Surface == nil || s.Rolled != nil {
			continue
		}
		for _, i := range s.Items {
			if i.Kind != Ply {
				continue
			}
			of, err := c.Doc.DrapeOf(s, i.Key, c.Materials)
			if err != nil {
				continue // that is told already
			}
			if all, err := c.Lay(of); err == nil {
				l.pieces[i.Key], l.start[i.Key], l.woven[i.Key] = all, of.Warp,
					c.Materials[i.MaterialID].Kind == "woven"
			}
		}
	}
	return l
}

// off is by how much the fibre of an item leaves its angle at a place in plan, radians: of a woven ply
// the mean of its warp and its weft, for that is how its lamina lies when it shears.
func (l lying) off(key string, p geom.Point) (by float64, found bool) {
	best := math.Inf(1)
	for _, d := range l.pieces[key] {
		for _, n := range d.Inside {
			if far := math.Hypot(n.At.X-p.X, n.At.Y-p.Y); far < best {
				best, found = far, true
				by = math.Remainder(n.Warp-l.start[key], 2*math.Pi)
				if l.woven[key] {
					by += math.Remainder(n.Weft-math.Pi/2-n.Warp, 2*math.Pi) / 2
				}
			}
		}
	}
	return by, found
}

// angles are those of a zone's layers at its place, degrees; nil where all lie as they are drawn.
func (l lying) angles(z laminate.Zone, layers []Layer) []float64 {
	if len(l.pieces) == 0 || z.At == (geom.Point{}) {
		return nil
	}
	out := make([]float64, len(z.Plies))
	any := false
	for i, k := range z.Plies {
		out[i] = unit.FoldAngle(layers[k].AngleDeg)
		if by, found := l.off(layers[k].Key, z.At); found {
			out[i], any = math.Round(unit.FoldAngle(layers[k].AngleDeg+unit.Deg(by))*10)/10, true
		}
	}
	if !any {
		return nil
	}
	return out
}

// PliesAsLaid is the stack of a zone with the angles of its layers as they lie; nil angles leave it as drawn.
func PliesAsLaid(stack []laminate.Ply, anglesDeg []float64) []laminate.Ply {
	if len(anglesDeg) != len(stack) {
		return stack
	}
	out := make([]laminate.Ply, len(stack))
	for k, p := range stack {
		out[k] = p
		out[k].Angle = unit.Rad(anglesDeg[k])
	}
	return out
}
