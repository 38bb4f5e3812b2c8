package master

import (
	"fmt"
	"math"
	"slices"

	"juxta/core/geom"
	"juxta/core/laminate"
	"juxta/core/unit"
)

// Material is what a master needs to know of a version of a material.
type Material struct {
	Name, Kind string
	Lamina     laminate.Lamina
	Strength   laminate.Strength
	Films      int
	BulkFactor float64
}

// Layer is an item that covers an area, as it lies on the tool.
type Layer struct {
	laminate.Placed
	Key      string
	Stage    string // its key
	Item     Item
	AngleDeg float64 // from the tool's rosette
}

// Layers lays the document's items that cover an area on the tool. Their names
// are their labels. It expects a document that [Document.Check] finds no fault
// with; an error names the item.
func (d Document) Layers(materials map[int64]Material) ([]Layer, error) {
	labels, rings := d.Labels(), map[string]geom.Ring{}
	type place struct {
		outline    string
		x, y, turn float64
	}
	placed := map[place]geom.Ring{} // what lies alike is one ring, and cut once
	var out []Layer
	for _, s := range d.Stages {
		for _, i := range s.Items {
			if !i.Layer() {
				continue
			}
			own, ok := rings[i.Outline]
			if !ok {
				var err error
				if own, err = d.Ring(i.Outline); err != nil {
					return nil, fmt.Errorf("%s: %w", labels[i.Key], err)
				}
				rings[i.Outline] = own
			}
			at := place{i.Outline, i.X, i.Y, i.TurnDeg}
			ring, angle := s.OnTool(i, own)
			if same, ok := placed[at]; ok {
				ring = same
			}
			placed[at] = ring
			m := materials[i.MaterialID]
			lamina := m.Lamina
			if i.Kind != Ply {
				// Core, film and peel ply carry next to nothing in their plane.
				lamina.E1, lamina.E2, lamina.G12, lamina.Nu12 = 0, 0, 0, 0
			}
			out = append(out, Layer{Key: i.Key, Stage: s.Key, Item: i, AngleDeg: angle, Placed: laminate.Placed{
				Ply: laminate.Ply{Name: labels[i.Key], Material: m.Name, Kind: i.Kind, Lamina: lamina, Angle: unit.Rad(unit.FoldAngle(angle)), FaceUp: i.FaceUp}, Outline: ring}})
		}
	}
	return out, nil
}

// Lumps are the items that have a mass at a place.
func (d Document) Lumps() []laminate.Lump {
	var out []laminate.Lump
	for _, i := range d.Items() {
		if !i.Layer() && i.Mass > 0 {
			out = append(out, laminate.Lump{Mass: i.Mass, At: geom.Point{X: i.X, Y: i.Y}})
		}
	}
	return out
}

// Inspect holds the items against the rules that need more than a stack: drops
// in plan, chamfers of cores, metal beside what conducts.
func (d Document) Inspect(layers []Layer, rules laminate.Rules) []laminate.Finding {
	plan := make([]laminate.Placed, len(layers))
	for k, l := range layers {
		plan[k] = l.Placed
	}
	found := laminate.Drops(plan, rules)
	labels := d.Labels()
	var largest float64
	for _, l := range layers {
		if l.Item.Kind == Ply {
			largest = max(largest, l.Outline.Area())
		}
	}
	for _, l := range layers {
		if l.Item.Kind != Core || rules.MaxRamp <= 0 || l.Outline.Area() > largest*(1-1e-9) {
			continue // a core that reaches the edge has none of its own
		}
		if a := l.Item.Chamfer; a == 0 || unit.Rad(a) > rules.MaxRamp+1e-9 {
			says := fmt.Sprintf("%s has a square edge, a chamfer of at most %.0f° is the rule", l.Name, unit.Deg(rules.MaxRamp))
			if a > 0 {
				says = fmt.Sprintf("%s is chamfered at %g°, at most %.0f° is the rule", l.Name, a, unit.Deg(rules.MaxRamp))
			}
			found = append(found, laminate.Finding{Rule: "ramp", Says: says, Plies: []string{l.Name}})
		}
	}
	if rules.Galvanic {
		found = append(found, d.galvanic(layers, labels)...)
	}
	return found
}

// galvanic finds metal that lies on a layer that conducts: the nearest layer
// below it and the nearest above it at its place.
func (d Document) galvanic(layers []Layer, labels map[string]string) []laminate.Finding {
	var found []laminate.Finding
	byKey := map[string]Layer{}
	for _, l := range layers {
		byKey[l.Key] = l
	}
	items := d.Items()
	for at, i := range items {
		if !i.Metal || i.Layer() {
			continue
		}
		var beside []string
		for _, step := range []int{-1, 1} {
			for k := at + step; k >= 0 && k < len(items); k += step {
				l, ok := byKey[items[k].Key]
				if !ok || !l.Outline.Holds(geom.Point{X: i.X, Y: i.Y}) {
					continue
				}
				if l.Lamina.Conducts {
					beside = append(beside, l.Name)
				}
				break
			}
		}
		if len(beside) > 0 {
			name := labels[i.Key]
			found = append(found, laminate.Finding{Rule: "galvanic", Says: fmt.Sprintf("%s is of metal and touches what conducts: isolate it from ply %s", name, beside[0]), Plies: append([]string{name}, beside...)})
		}
	}
	return found
}

// Section is the stack along a line from P to Q: the pieces of each layer, and
// how far up the whole reaches.
type Section struct {
	P, Q   geom.Point
	Length float64
	Height float64
	Pieces []Piece
}

// Piece is a layer between two places of a section: its lower and upper face
// at both ends, m from the tool, in between straight.
type Piece struct {
	Key       string
	From, To  float64    // m along the line
	Low, High [2]float64 // at From and at To
}

// Cut cuts the layers along a line: what lies above a layer that ends comes
// down behind it, cores have their chamfer. Stations lie where the line meets
// an outline and where a chamfer reaches full height; between them everything
// is straight but the foot of a chamfer that the line meets at a slant, which
// is drawn straight as well.
func Cut(layers []Layer, p, q geom.Point) (Section, error) {
	s := Section{P: p, Q: q, Length: math.Hypot(q.X-p.X, q.Y-p.Y)}
	if s.Length < 1e-4 {
		return s, fmt.Errorf("the line of the section needs a length")
	}
	turn := math.Atan2(q.Y-p.Y, q.X-p.X)
	flat := make([]geom.Ring, len(layers)) // the line along x from the origin
	stations := []float64{0, s.Length}
	for k, l := range layers {
		flat[k] = l.Outline.Move(-p.X, -p.Y).Rotate(-turn)
		cross := flat[k].Crossings(0)
		for _, x := range cross {
			stations = append(stations, x)
			if ramp := l.ramp(); ramp > 0 {
				stations = append(stations, x-ramp, x+ramp)
			}
		}
	}
	slices.Sort(stations)
	kept := stations[:0]
	for _, x := range stations {
		if x >= 0 && x <= s.Length && (len(kept) == 0 || x > kept[len(kept)-1]+1e-7) {
			kept = append(kept, x)
		}
	}
	low := make([][2]float64, len(kept))
	for k, l := range layers {
		for i := 0; i+1 < len(kept); i++ {
			a, b := kept[i], kept[i+1]
			if !flat[k].Holds(geom.Point{X: (a + b) / 2}) {
				continue
			}
			piece := Piece{Key: l.Key, From: a, To: b, Low: low[i]}
			for end, x := range []float64{a, b} {
				piece.High[end] = piece.Low[end] + l.thickAt(flat[k], x)
				s.Height = max(s.Height, piece.High[end])
			}
			low[i] = piece.High
			s.Pieces = append(s.Pieces, piece)
		}
	}
	return s, nil
}

// ramp is how far a core's chamfer reaches in from its edge, m.
func (l Layer) ramp() float64 {
	if l.Item.Kind != Core || l.Item.Chamfer <= 0 || l.Item.Chamfer >= 90 {
		return 0
	}
	return l.Lamina.Thickness / math.Tan(unit.Rad(l.Item.Chamfer))
}

// thickAt is the layer's thickness at a place on the line.
func (l Layer) thickAt(ring geom.Ring, x float64) float64 {
	ramp := l.ramp()
	if ramp == 0 {
		return l.Lamina.Thickness
	}
	return l.Lamina.Thickness * min(1, ring.Distance(geom.Point{X: x})/ramp)
}
