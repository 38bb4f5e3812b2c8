package curing

import (
	"context"
	"math"
	"slices"
	"strings"

	"gorm.io/gorm"

	"juxta/calc"
	"juxta/core/cure/heat"
	"juxta/shop/book"
	"juxta/shop/parts"
)

// PartStack is what of a part is to be foreseen: its thickest, its thinnest and its largest place as stacks on its tool.
type PartStack struct {
	Sections []calc.CureSection `json:"sections"`
	ResinID  int64              `json:"resinId,omitempty" doc:"Of its plies; missing: they have none"`
	Notes    []string           `json:"notes" doc:"What was assumed"`
}

// Figures of layers that no record has (common practice, no source).
const (
	specificOfPly    = 950.0 // J/(kg K)
	throughPly       = 0.65  // W/(m K)
	usualTool        = "aluminium"
	usualToolThick   = 0.01
	thickestTool     = 0.1
	breatherAndBag   = "breather and bag"
	breatherThick    = 0.004
	sectionsOfAPart  = 3
	thinnestOfALayer = 1e-5
)

// StackOfPart takes the stacks of a part's newest revision.
func (s *Room) StackOfPart(ctx context.Context, partCode string) (PartStack, error) {
	return book.View(ctx, s.Book, func(db *gorm.DB) (PartStack, error) {
		zones, tool, err := s.Stacks(db, partCode)
		if err != nil {
			return PartStack{}, err
		}
		out := PartStack{Sections: []calc.CureSection{}, Notes: []string{}}
		below := toolLayer(tool, &out)
		for _, z := range telling(zones) {
			section := calc.CureSection{Name: short(z.Says), Layers: []calc.CureLayer{below}}
			for _, l := range z.Layers {
				section.Layers = laid(section.Layers, l, &out)
			}
			section.Layers = append(section.Layers, usualLayer(breatherAndBag, breatherThick))
			if len(section.Layers) <= 24 {
				out.Sections = append(out.Sections, section)
			}
		}
		if len(out.Sections) == 0 {
			return PartStack{}, book.NotNow.Errorf("no place of this part has a stack of 22 different layers or fewer")
		}
		return out, nil
	})
}

// telling are the thickest, the thinnest and the largest of zones, each once.
func telling(zones []parts.StackZone) (out []parts.StackZone) {
	thick := func(z parts.StackZone) (sum float64) {
		for _, l := range z.Layers {
			sum += l.Material.Thickness
		}
		return sum
	}
	byThickness := slices.Clone(zones)
	slices.SortStableFunc(byThickness, func(a, b parts.StackZone) int {
		switch {
		case thick(a) > thick(b):
			return -1
		case thick(a) < thick(b):
			return 1
		}
		return 0
	})
	for _, z := range []parts.StackZone{byThickness[0], byThickness[len(byThickness)-1], zones[0]} {
		if !slices.ContainsFunc(out, func(o parts.StackZone) bool { return o.Says == z.Says }) {
			out = append(out, z)
		}
	}
	return out[:min(len(out), sectionsOfAPart)]
}

// laid puts a layer of a zone on a stack; plies of one material on one another are one layer.
func laid(on []calc.CureLayer, l parts.StackLayer, out *PartStack) []calc.CureLayer {
	m := l.Material
	if m.Thickness < thinnestOfALayer {
		return on
	}
	one := calc.CureLayer{
		Name: m.Name, Thickness: m.Thickness, Density: m.ArealMass / m.Thickness, Specific: specificOfPly, Conductivity: throughPly,
	}
	if l.Kind == "core" {
		core := usualLayer("honeycomb core", m.Thickness)
		one.Specific, one.Conductivity = core.Specific, core.Conductivity
	}
	if m.ResinID != nil {
		one.Resin = m.Sheet.ResinShare
		if one.Resin == 0 {
			one.Resin = 0.36
			out.note(m.Name + " does not say its resin share: 36 % is taken")
		}
		switch out.ResinID {
		case 0:
			out.ResinID = *m.ResinID
		case *m.ResinID:
		default:
			out.note(m.Name + " has another resin: it is taken to cure like the first")
		}
	}
	if last := &on[len(on)-1]; last.Name == one.Name && len(on) > 1 {
		last.Thickness += one.Thickness
		return on
	}
	return append(on, one)
}

func (p *PartStack) note(says string) {
	if !slices.Contains(p.Notes, says) {
		p.Notes = append(p.Notes, says)
	}
}

func usualLayer(name string, thick float64) calc.CureLayer {
	k := slices.IndexFunc(heat.Usual, func(l heat.Layer) bool { return l.Name == name })
	l := heat.Usual[max(0, k)]
	return calc.CureLayer{
		Name: name, Thickness: thick, Density: l.Density, Specific: l.Specific, Conductivity: l.Conductivity,
	}
}

// toolLayer is a tool as a layer: by its material, as thick as its heat capacity over its face asks for.
func toolLayer(tool parts.Tool, out *PartStack) calc.CureLayer {
	name := usualTool
	for _, l := range heat.Usual {
		if tool.Sheet.Material != "" && strings.Contains(strings.ToLower(tool.Sheet.Material), l.Name) {
			name = l.Name
		}
	}
	if tool.Sheet.Material == "" || !strings.Contains(strings.ToLower(tool.Sheet.Material), name) {
		out.note("the tool's material is not known here: " + usualTool + " is taken")
	}
	one := usualLayer(name, usualToolThick)
	face := tool.Sheet.Length * tool.Sheet.Width
	if tool.Sheet.ThermalMass > 0 && face > 0 {
		thick := tool.Sheet.ThermalMass / (one.Density * one.Specific * face)
		one.Thickness = min(thickestTool, max(1e-3, math.Round(thick*1e4)/1e4))
	} else {
		out.note("the tool's thermal mass is not known: 10 mm are taken")
	}
	return one
}

// short is a zone's name within what a section may be called.
func short(says string) string {
	if r := []rune(says); len(r) > 57 {
		return string(r[:56]) + "…"
	}
	return says
}
