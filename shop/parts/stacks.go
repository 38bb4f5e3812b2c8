package parts

import (
	"context"
	"slices"

	"gorm.io/gorm"

	"juxta/calc"
	"juxta/core/cure/heat"
	"juxta/core/master"
	"juxta/shop/book"
	"juxta/shop/recipes"
	"juxta/shop/stock"
)

// StackLayer is a layer of a zone, uncured thickness as its material says.
type StackLayer struct {
	Kind     string // of its item
	Stage    string // its key
	Material stock.Material
}

// StackZone is what lies over one place of a part, from the tool up.
type StackZone struct {
	Label  string
	Area   float64 // m²
	Layers []StackLayer
}

// zones are those of a master, the largest first.
func (m MasterOf) zones() ([]StackZone, error) {
	if faults := m.Doc.Check(m.Materials); len(faults) > 0 {
		return nil, book.NotNow.Errorf("the master has a fault that has to be put right first: %s", faults[0].Message)
	}
	var err error
	if m.AnalysisInput, err = m.Shown(); err != nil {
		return nil, undrawn(err)
	}
	worked, err := m.AnalysisInput.Analyse(master.WhatIf{})
	if err != nil {
		return nil, undrawn(err)
	}
	if worked == nil || len(worked.Zones) == 0 {
		return nil, book.NotNow.Errorf("no layer of this part covers an area yet")
	}
	layers, err := m.Layers()
	if err != nil {
		return nil, undrawn(err)
	}
	out := make([]StackZone, len(worked.Zones))
	for n, z := range worked.Zones {
		out[n] = StackZone{Label: z.Label, Area: z.Area}
		for _, key := range z.Keys {
			k := slices.IndexFunc(layers, func(l master.Layer) bool { return l.Key == key })
			if k >= 0 {
				out[n].Layers = append(
					out[n].Layers,
					StackLayer{layers[k].Item.Kind, layers[k].Stage, m.Records[layers[k].Item.MaterialID]},
				)
			}
		}
	}
	return out, nil
}

// What is told of a part: no layer thinner than this, m, and no stack of more layers.
const (
	thinnestOfALayer = 1e-5
	mostLayers       = 24
)

// StackOfPart takes the stacks of a part's newest revision.
func (s *Room) StackOfPart(ctx context.Context, partCode string) (recipes.PartStack, error) {
	return book.View(ctx, s.Book, func(db *gorm.DB) (recipes.PartStack, error) {
		m, _, err := s.asked(db, partCode, "", nil)
		if err != nil {
			return recipes.PartStack{}, err
		}
		return m.stack(db, m.process.Tool, onTool, func(string) (there, cures bool) { return true, true })
	})
}

// standing is how a part stands in a cure: on its tool in a bag, in a closed mould, or free.
type standing int

const (
	onTool standing = iota
	inMould
	standsFree
)

// mandrel is the kind of tool that a part goes round.
const mandrel = "male mandrel"

// stack is what of a master is to be simulated on a tool of a name: the layers of those stages that lie there.
func (m MasterOf) stack(
	db *gorm.DB,
	toolName string,
	how standing,
	lies func(stage string) (there, cures bool),
) (recipes.PartStack, error) {
	out := recipes.PartStack{Sections: []calc.CureSection{}, Notes: []string{}}
	zones, err := m.zones()
	if err != nil {
		return out, err
	}
	held, err := heldBy(db, toolName, how, &out)
	if err != nil {
		return out, err
	}
	for _, z := range telling(lying(zones, lies)) {
		var layers []calc.CureLayer
		for _, l := range z.Layers {
			_, cures := lies(l.Stage)
			layers = stacked(layers, l, cures, &out)
		}
		section := held.section(recipes.SectionName(z.Label), layers)
		if len(layers) > 0 && len(section.Layers) <= mostLayers {
			out.Sections = append(out.Sections, section)
		}
	}
	if len(out.Sections) == 0 {
		return out, book.NotNow.Errorf("no place of this part has a stack of 1 to 22 different layers")
	}
	return out, nil
}

// lying are the zones with what lies there: those in which something cures, or all where nothing does.
func lying(zones []StackZone, lies func(stage string) (there, cures bool)) (out []StackZone) {
	var blank []StackZone
	for _, z := range zones {
		cure := false
		z.Layers = slices.DeleteFunc(slices.Clone(z.Layers), func(l StackLayer) bool {
			there, cures := lies(l.Stage)
			cure = cure || cures && l.Material.ResinID != nil
			return !there
		})
		switch {
		case cure:
			out = append(out, z)
		case len(z.Layers) > 0:
			blank = append(blank, z)
		}
	}
	if len(out) == 0 {
		return blank
	}
	return out
}

// holding is what a part lies on and under in a cure, and how heat comes to both faces.
type holding struct {
	below, above []calc.CureLayer
	under, over  string
}

// heldBy is what holds a part on a tool of a name; a name that nobody knows is a usual tool.
func heldBy(db *gorm.DB, toolName string, how standing, out *recipes.PartStack) (h holding, err error) {
	var tool Tool
	if toolName != "" {
		if err := db.Where("name = ?", toolName).Limit(1).Find(&tool).Error; err != nil {
			return h, err
		}
	}
	switch how {
	case onTool:
		h.below = []calc.CureLayer{toolLayer(tool, out)}
		h.above = []calc.CureLayer{calc.FromLayer(heat.Bagging())}
		if tool.Kind == mandrel {
			h.under = "shut" // its middle
		}
	case inMould:
		// The mould's mass is that of both halves.
		half := toolLayer(tool, out)
		half.Thickness /= 2
		h.below, h.above = []calc.CureLayer{half}, []calc.CureLayer{half}
		h.under, h.over = "platen", "platen"
	case standsFree:
	}
	return h, nil
}

// section is a place of a part with what holds it.
func (h holding) section(name string, layers []calc.CureLayer) calc.CureSection {
	return calc.CureSection{Name: name, Layers: slices.Concat(h.below, layers, h.above), Below: h.under, Above: h.over}
}

// telling are the thickest, the thinnest and the largest of zones, each once.
func telling(zones []StackZone) (out []StackZone) {
	thickness := make([]float64, len(zones))
	for i, z := range zones {
		for _, l := range z.Layers {
			thickness[i] += l.Material.Thickness
		}
	}
	for _, i := range heat.Telling(thickness) {
		out = append(out, zones[i])
	}
	return out
}

// stacked puts a layer of a zone on those under it; plies of one material on one another are one layer, but for those
// that have cured before.
func stacked(on []calc.CureLayer, l StackLayer, cures bool, out *recipes.PartStack) []calc.CureLayer {
	m := l.Material
	if m.Thickness < thinnestOfALayer {
		return on
	}
	sheet := heat.Sheet{
		Name: m.Name, Core: l.Kind == "core", Thickness: m.Thickness, ArealMass: m.ArealMass,
		Resin: m.Sheet.ResinShare, Cures: m.ResinID != nil && cures,
	}
	layer, resin, note := sheet.Layer()
	one := calc.FromLayer(layer)
	one.Resin = resin
	if note != "" {
		out.Note(note)
	}
	if !cures {
		one.Name += ", cured"
	}
	if sheet.Cures {
		switch out.ResinID {
		case 0:
			out.ResinID = *m.ResinID
		case *m.ResinID:
		default:
			out.Note(m.Name + " cures like the first resin, though it has another")
		}
	}
	if n := len(on); n > 0 && on[n-1].Name == one.Name {
		on[n-1].Thickness += one.Thickness
		return on
	}
	return append(on, one)
}

// toolLayer is a tool as a layer.
func toolLayer(tool Tool, out *recipes.PartStack) calc.CureLayer {
	face := tool.Sheet.Length * tool.Sheet.Width
	if tool.Kind == mandrel { // the part goes round it
		face = 2 * (tool.Sheet.Width + tool.Sheet.Height) * tool.Sheet.Length
	}
	layer, notes := heat.ToolLayer(tool.Sheet.Material, tool.Sheet.ThermalMass, face)
	for _, n := range notes {
		out.Note(n)
	}
	return calc.FromLayer(layer)
}
