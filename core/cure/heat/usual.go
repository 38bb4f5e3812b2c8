package heat

import "slices"

// UsualLayers are layers of one millimetre of what stacks are made of, by name, for where nobody has entered a
// supplier's
// figures. Metals: Incropera & DeWitt, Fundamentals of Heat and Mass Transfer, table A.1 (plain carbon steel, AISI 304,
// aluminium 2024-T6), from memory; the nickel-iron alloy of low expansion: handbook values, from memory. Laminates,
// cores and bagging: common practice, no source.
var UsualLayers = []Layer{
	{Name: "steel", Density: 7854, Specific: 434, Conductivity: 60.5},
	{Name: "stainless steel", Density: 7900, Specific: 477, Conductivity: 14.9},
	{Name: "aluminium", Density: 2770, Specific: 875, Conductivity: 177},
	{Name: "nickel-iron alloy", Density: 8100, Specific: 515, Conductivity: 10.5},
	{Name: "carbon tool", Density: 1550, Specific: 950, Conductivity: 0.7},
	{Name: "glass tool", Density: 1900, Specific: 900, Conductivity: 0.4},
	{Name: "tooling block", Density: 700, Specific: 1100, Conductivity: 0.15},
	{Name: "silicone caul", Density: 1200, Specific: 1200, Conductivity: 0.25},
	{Name: "honeycomb core", Density: 48, Specific: 1300, Conductivity: 0.07},
	{Name: "foam core", Density: 75, Specific: 1300, Conductivity: 0.035},
	{Name: "breather and bag", Density: 200, Specific: 1300, Conductivity: 0.07},
	{Name: Laminate, Density: 1580, Specific: 950, Conductivity: 0.65},
	{Name: "bladder", Density: 1150, Specific: 1300, Conductivity: 0.25},
}

// Laminate is the name of plies in [Usual], and LaminateResin the share of their mass that is resin where it is not
// known (common practice, no source).
const (
	Laminate      = "laminate"
	LaminateResin = 0.36
)

// LayerOf is a usual layer by its name; one that is not there has no figures.
func LayerOf(name string) Layer {
	k := slices.IndexFunc(UsualLayers, func(l Layer) bool { return l.Name == name })
	if k < 0 {
		return Layer{Name: name}
	}
	return UsualLayers[k]
}
