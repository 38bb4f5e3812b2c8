package heat

import (
	"cmp"
	"fmt"
	"juxta/core/unit"
	"math"
	"slices"
	"strings"
)

// What a part lies on and under where nobody has entered it (common practice, no source).
const (
	usualTool     = "aluminium"
	usualToolFace = 0.01 // thickness, m
	thickestTool  = 0.1
	thinnestTool  = 1e-3
	bagging       = "breather and bag"
	baggingThick  = 0.004
)

// Bagging is breather and bag over a part.
func Bagging() Layer {
	l := LayerOf(bagging)
	l.Thickness = baggingThick
	return l
}

// ToolLayer is a tool as a layer: by what it is made of, as thick as its thermal mass in J/K over its face in m² asks
// for. Notes say what is assumed where material, thermal mass or face (0) are not known.
func ToolLayer(material string, thermalMass, face float64) (tool Layer, notes []string) {
	tool = LayerOf(usualTool)
	called := strings.ToLower(material)
	known := false
	for _, l := range UsualLayers {
		if called != "" && strings.Contains(called, l.Name) {
			tool, known = l, true
		}
	}
	if !known {
		notes = append(notes, "tool of "+usualTool+", its material is not known here")
	}
	tool.Thickness = usualToolFace
	if thermalMass > 0 && face > 0 {
		thick := thermalMass / (tool.Density * tool.Specific * face)
		tool.Thickness = min(thickestTool, max(thinnestTool, math.Round(thick*1e4)/1e4))
	} else {
		thick := unit.Size(usualToolFace, 0)
		notes = append(notes, fmt.Sprintf("tool %s thick, its thermal mass is not entered", thick))
	}
	return tool, notes
}

// Sheet is a layer of a part as its material says.
type Sheet struct {
	Name      string
	Core      bool    // honeycomb or foam, not plies
	Thickness float64 // m
	ArealMass float64 // kg/m²
	Resin     float64 // share of its mass that is resin; 0: not said
	Cures     bool    // its resin cures in this run
}

// Layer is the sheet as heat goes through it, and the share of its mass that is resin and cures. The note says what is
// assumed where the resin's share is not entered; "" for nothing.
func (s Sheet) Layer() (l Layer, resin float64, note string) {
	l = LayerOf(Laminate)
	if s.Core {
		l = LayerOf("honeycomb core")
	}
	l.Name, l.Thickness, l.Density = s.Name, s.Thickness, s.ArealMass/s.Thickness
	switch {
	case !s.Cures:
	case s.Resin == 0:
		resin = LaminateResin
		note = fmt.Sprintf("resin content of %.0f %% for %s, none is entered", resin*100, s.Name)
	default:
		resin = s.Resin
	}
	return l, resin, note
}

// Telling are the places that tell what a part feels in a cure, each once: the thickest, the thinnest, and the largest,
// which is the first of thicknesses.
func Telling(thickness []float64) (places []int) {
	if len(thickness) == 0 {
		return nil
	}
	order := make([]int, len(thickness))
	for i := range order {
		order[i] = i
	}
	slices.SortStableFunc(order, func(a, b int) int { return cmp.Compare(thickness[b], thickness[a]) })
	for _, i := range []int{order[0], order[len(order)-1], 0} {
		if !slices.Contains(places, i) {
			places = append(places, i)
		}
	}
	return places
}
