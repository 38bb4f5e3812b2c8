package master

import (
	"fmt"

	"juxta/core/geom"
	"juxta/core/laminate"
	"juxta/core/rolled"
	"juxta/core/unit"
)

// Material is what a master needs to know of a version of a material.
type Material struct {
	Name, Kind string
	Lamina     laminate.Lamina
	Strength   laminate.Strength
	Films      int
	BulkFactor float64
	Widths     []float64 // in which it is sold, m; none: not said
	Tolerance  float64   // of its thickness, a share
	Sleeve     rolled.Sleeve
	Lock       float64 // shear at which it locks, radians; 0: not said
	Round      float64 // tightest hollow that it goes into, m; 0: not said
	Steer      float64 // least radius that a strip is steered along, m; 0: not said
	Splice     float64 // overlap of pieces side by side where a ply does not say its own, m; 0: butt
	Resin      int64   // which; 0: none
}

// Layer is an item that covers an area, as it lies on the tool.
type Layer struct {
	laminate.PlacedPly
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
	round := d.round()
	for _, s := range d.Stages {
		if s.Rolled != nil {
			layers, err := s.rolledLayers(labels, materials, round)
			if err != nil {
				return nil, err
			}
			out = append(out, layers...)
			continue
		}
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
			share := 0.0
			if i.Flat != nil && len(i.Flat.Pieces) > 0 {
				share = i.Flat.Area() / ring.Area() // a surface that slopes is larger than its plan
			}
			out = append(out, Layer{Key: i.Key, Stage: s.Key, Item: i, AngleDeg: angle, PlacedPly: laminate.PlacedPly{
				Share: share,
				Ply: laminate.Ply{
					Name:     labels[i.Key],
					Material: m.Name,
					Kind:     i.Kind,
					Lamina:   lamina,
					Angle:    unit.Rad(unit.FoldAngle(angle)),
					FaceUp:   i.FaceUp,
				}, Outline: ring}})
		}
	}
	return out, nil
}

// Lumps are the items that have a mass at a place.
func (d Document) Lumps() []laminate.PointMass {
	var out []laminate.PointMass
	for _, i := range d.Items() {
		if !i.Layer() && i.Mass > 0 {
			out = append(out, laminate.PointMass{Mass: i.Mass, At: geom.Point{X: i.X, Y: i.Y}})
		}
	}
	return out
}

// PlacedPlies are layers as the laminate sees them.
func PlacedPlies(layers []Layer) []laminate.PlacedPly {
	placed := make([]laminate.PlacedPly, len(layers))
	for k, l := range layers {
		placed[k] = l.PlacedPly
	}
	return placed
}

// Inspect holds the items, with their layers and the plan of these, against the
// rules that need more than a stack: drops in plan, chamfers of cores, metal
// beside what conducts.
func (d Document) Inspect(layers []Layer, plan *laminate.Outlines, rules laminate.Rules) []laminate.Finding {
	found := plan.Drops(PlacedPlies(layers), rules)
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
			says := fmt.Sprintf(
				"%s has a square edge, a chamfer of at most %.0f° is the rule",
				l.Name,
				unit.Deg(rules.MaxRamp),
			)
			if a > 0 {
				says = fmt.Sprintf(
					"%s is chamfered at %g°, at most %.0f° is the rule",
					l.Name,
					a,
					unit.Deg(rules.MaxRamp),
				)
			}
			found = append(found, laminate.Finding{Rule: "ramp", Message: says, Plies: []string{l.Name}})
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
				if !ok || !l.Outline.Contains(geom.Point{X: i.X, Y: i.Y}) {
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
			found = append(
				found,
				laminate.Finding{
					Rule: "galvanic",
					Message: fmt.Sprintf(
						"%s is of metal and touches what conducts: isolate it from ply %s",
						name,
						beside[0],
					),
					Plies: append([]string{name}, beside...),
				},
			)
		}
	}
	return found
}
