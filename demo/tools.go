package demo

import (
	"slices"

	"juxta/shop/parts"
)

// tools are the shop's tools.
func tools() []parts.ToolIn { return slices.Concat(flatTools(), mandrels(), shapedTools()) }

func flatTools() []parts.ToolIn {
	datum := []parts.Datum{{Name: "corner pin", X: 0.12, Y: 0.12}} // room for the bag all round
	flat := []parts.Rosette{{Name: "edge", AngleDeg: 0}}
	return []parts.ToolIn{
		{
			Name: "flat tool T-18",
			Kind: "flat tool",
			Sheet: parts.ToolSheet{
				Length:      1.2,
				Width:       0.8,
				Height:      0.02,
				Material:    "tooling aluminium",
				Expansion:   23e-6,
				ThermalMass: 47e3,
				Rosettes:    flat,
				Datums:      datum,
				CoatsLast:   8,
			},
		},
		{
			Name: "flat tool T-19",
			Kind: "flat tool",
			Sheet: parts.ToolSheet{
				Length:      1.6,
				Width:       1.2,
				Height:      0.012,
				Material:    "steel",
				Expansion:   12e-6,
				ThermalMass: 85e3,
				Rosettes:    flat,
				Datums:      []parts.Datum{{Name: "pin", X: 0.3, Y: 0.5}},
				CoatsLast:   10,
			},
		},
	}
}

func mandrels() []parts.ToolIn {
	return []parts.ToolIn{
		{
			Name: "mandrel M-40",
			Kind: "male mandrel",
			Sheet: parts.ToolSheet{
				Length:      1.1,
				Width:       0.04,
				Height:      0.04,
				Material:    "steel",
				Expansion:   12e-6,
				ThermalMass: 4.9e3,
				CoatsLast:   3,
			},
		},
		{
			Name: "hexagon mandrel M-6",
			Kind: "male mandrel",
			Sheet: parts.ToolSheet{
				Length:      1.4,
				Width:       0.06,
				Height:      0.052,
				Material:    "aluminium",
				Expansion:   23e-6,
				ThermalMass: 9.8e3,
				CoatsLast:   3,
			},
		},
		{
			Name: "vane mandrel M-9",
			Kind: "male mandrel",
			Sheet: parts.ToolSheet{
				Length:      0.9,
				Width:       0.05,
				Height:      0.012,
				Material:    "steel",
				Expansion:   12e-6,
				ThermalMass: 1.9e3,
				CoatsLast:   3,
			},
		},
	}
}

func shapedTools() []parts.ToolIn {
	return []parts.ToolIn{
		{
			Name: "petal tool P-2",
			Kind: "female tool",
			Sheet: parts.ToolSheet{
				Length:      0.9,
				Width:       0.7,
				Height:      0.2,
				Material:    "carbon tooling",
				Expansion:   3e-6,
				ThermalMass: 14e3,
				Rosettes:    []parts.Rosette{{Name: "rib", AngleDeg: 0}},
				Datums:      []parts.Datum{{Name: "hub", X: 0.45, Y: 0.08}},
				CoatsLast:   6,
			},
		},
		{
			Name: "yoke tool Y-1",
			Kind: "split female tool",
			Sheet: parts.ToolSheet{
				Length:      0.7,
				Width:       0.4,
				Height:      0.18,
				Material:    "aluminium",
				Expansion:   23e-6,
				ThermalMass: 92e3,
				CoatsLast:   5,
			},
		},
		{
			Name: "bonding jig J-3",
			Kind: "press tool",
			Sheet: parts.ToolSheet{
				Length:      1.0,
				Width:       0.2,
				Height:      0.1,
				Material:    "steel",
				Expansion:   12e-6,
				ThermalMass: 30e3,
			},
		},
	}
}
