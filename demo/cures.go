package demo

import (
	"slices"

	"juxta/calc"
	"juxta/core/cure"
	"juxta/core/cure/forecast"
	"juxta/core/cure/heat"
	"juxta/core/master"
	"juxta/core/unit"
	"juxta/shop/parts"
	"juxta/shop/recipes"
)

// What the demo shop cures in, and its recipes. All figures are invented.

// tarn is a resin that hardens at 80 °C, and wet one that is mixed at the bench.
func tarn() recipes.ResinIn {
	return recipes.ResinIn{
		Name: "Tarn 80", Alpha0: 0.02,
		Kinetics:   cure.Kinetics{Terms: []cure.Term{{A: 1.1e7, E: 70e3, N: 1.3}}},
		Viscosity:  &cure.Viscosity{Mu: 4e-8, U: 5.6e4, Gel: 0.5, A: 1.5, B: 0.9},
		ResinFacts: facts(-25, 118, 0.55, 380e3, 110),
		Recipe: cure.Recipe{Name: "Tarn 80, oven", Start: unit.Kelvin(21), Tolerance: 5, Segments: []cure.Segment{
			{Target: unit.Kelvin(80), Rate: 1.0 / 60, Hold: 8 * 3600, WaitPart: unit.Kelvin(77)},
			{Target: unit.Kelvin(45), Rate: 1.0 / 60},
		}},
	}
}

func wet() recipes.ResinIn {
	return recipes.ResinIn{
		Name: "Tarn wet", Alpha0: 0.01,
		Kinetics:   cure.Kinetics{Terms: []cure.Term{{A: 2.2e5, E: 55e3, N: 1.5}, {A: 6e5, E: 55e3, M: 1, N: 1.5}}},
		Viscosity:  &cure.Viscosity{Mu: 2e-9, U: 4.8e4, Gel: 0.6, A: 1.5, B: 0.5},
		ResinFacts: facts(-30, 98, 0.5, 450e3, 100),
		Recipe: cure.Recipe{
			Name:      "Tarn wet, overnight",
			Start:     unit.Kelvin(21),
			Tolerance: 5,
			Segments: []cure.Segment{
				{Target: unit.Kelvin(22), Rate: 1.0 / 60, Hold: 14 * 3600},
			},
		},
	}
}

func facts(raw, cured, lambda, heat, hottest float64) cure.ResinFacts {
	return cure.ResinFacts{
		Glass: &cure.Glass{Raw: unit.Kelvin(raw), Cured: unit.Kelvin(cured), Lambda: lambda}, Heat: heat,
		Coldest: unit.Kelvin(15), Hottest: unit.Kelvin(hottest), Source: "made up for the demo",
	}
}

func equipment() []forecast.Equipment {
	return []forecast.Equipment{
		{
			Name: "Oven 1", Kind: "oven", Film: 45, Lag: 60, HeatUp: 5.0 / 60, CoolDown: 4.0 / 60, Power: 18e3,
			Capacity: 120e3,
			Hottest:  unit.Kelvin(200), Vacuum: 88e3, Sensors: 8, Ports: 4,
		},
		{
			Name: "Autoclave 1", Kind: "autoclave", Film: 25, ByPressure: true, Lag: 180, HeatUp: 4.0 / 60,
			CoolDown: 4.0 / 60,
			Power:    90e3, Capacity: 400e3, Hottest: unit.Kelvin(230), Pressure: 800e3, Vacuum: 88e3, PressureUp: 500,
			Sensors: 12, Ports: 6,
		},
		{
			Name: "Press 1", Kind: "press", Contact: 900, Film: 8, Lag: 60, HeatUp: 12.0 / 60, CoolDown: 10.0 / 60,
			Hottest:  unit.Kelvin(220),
			Pressure: 1e6, Vacuum: 88e3, PressureUp: 10e3, Sensors: 4, Ports: 1,
		},
	}
}

// plies are a laminate of so many of 0.2 mm.
func plies(name string, n int) calc.CureLayer {
	of := heat.LayerOf(heat.Laminate)
	return calc.CureLayer{
		Name: name, Thickness: 2e-4 * float64(n), Density: of.Density, Specific: of.Specific,
		Conductivity: of.Conductivity, Resin: 0.34,
	}
}

// takeRecipe makes the first released version of a recipe that of a process, with its limits.
func takeRecipe(p *parts.Process, of planned) {
	of.plan.Recipe.Name = of.name
	h := recipes.Recipe{Name: of.name, Version: 1, Equipment: of.in, Plan: of.plan}.Taken(p.Heat())
	*p = p.Of(master.Operation{Heat: &h})
}

func layer(name string, thick, density, specific, conductivity float64) calc.CureLayer {
	return calc.CureLayer{
		Name:         name,
		Thickness:    thick,
		Density:      density,
		Specific:     specific,
		Conductivity: conductivity,
	}
}

var (
	steel12    = layer("steel", 0.012, 7854, 434, 60.5)
	aluminium8 = layer("aluminium", 0.008, 2770, 875, 177)
	breather   = layer("breather and bag", 0.004, 200, 1300, 0.07)
)

type planned struct {
	name, resin, in string
	plan            recipes.RecipePlan
}

// c turns degrees Celsius into kelvin.
var c = unit.Kelvin

func start(control string, segments ...cure.Segment) cure.Recipe {
	return cure.Recipe{Start: c(21), Tolerance: 5, Control: cure.Control(control), Segments: segments}
}

func section(name string, layers ...calc.CureLayer) calc.CureSection {
	return calc.CureSection{Name: name, Layers: layers}
}

func pressed(name string, layers ...calc.CureLayer) calc.CureSection {
	return calc.CureSection{Name: name, Layers: layers, Below: "platen", Above: "platen"}
}

func cures() []planned { return slices.Concat(ringCures(), panelCures(), coolCures()) }

// ringCures are those of the thick ring.
func ringCures() []planned {
	return []planned{
		{"Ring, two dwells", "Kiln 180", "Autoclave 1", recipes.RecipePlan{
			Recipe: start(
				"",
				cure.Segment{Target: c(105), Rate: 1.5 / 60, Hold: 900, WaitPart: c(100), Vacuum: 80e3},
				cure.Segment{
					Target:   c(118),
					Rate:     0.5 / 60,
					Hold:     7200,
					WaitPart: c(114),
					Pressure: 620e3,
					Vacuum:   80e3,
					Vent:     100e3,
				},
				cure.Segment{Target: c(177), Rate: 0.8 / 60, Hold: 7200, WaitPart: c(173), Pressure: 620e3},
				cure.Segment{Target: c(45), Rate: 2.0 / 60, WaitCool: c(60), Pressure: 620e3},
			),
			Sections: []calc.CureSection{section("72 plies", steel12, plies("72 plies", 72), breather)},
			Limits: forecast.CureLimits{
				MaxPart: c(
					190,
				), MaxOvershoot: 12, MaxSpread: 15, MinCure: 0.9, MinGlass: c(175), Thin: 100, Humidity: 0.5,
				OpenBelow: c(60),
			},
			Reasons: []string{
				"Under vacuum alone until all seventy-two plies are thin enough to flow: the air between them leaves " +
					"before pressure shuts the ways out.",
				"Pressure while the resin flows, so that water vapour is held shut; the bag is vented as soon as " +
					"the pressure holds it. " +
					"The dwell lets the thick stack give off part of its heat where it is slow, and it gels here.",
				"The rest of the cure, hot enough for the glass transition that is asked for. With half of the heat " +
					"gone the centre stays near the air.",
				"Cooled slowly and under pressure: tool and part shrink differently, and the door opens only when " +
					"the part is cool.",
			},
		}},
	}
}

// panelCures are those of panels, in the oven and under little pressure.
func panelCures() []planned {
	return []planned{
		{"Panel, vacuum oven", "Ember 120", "Oven 1", recipes.RecipePlan{
			Recipe: start("",
				cure.Segment{Target: c(80), Rate: 1.5 / 60, Hold: 1800, WaitPart: c(77), Vacuum: 80e3},
				cure.Segment{Target: c(120), Rate: 1.5 / 60, Hold: 5400, WaitPart: c(117), Vacuum: 80e3},
				cure.Segment{Target: c(45), Rate: 2.0 / 60, WaitCool: c(55), Vacuum: 80e3},
			),
			Sections: []calc.CureSection{
				section("flange", aluminium8, plies("8 plies", 8), breather),
				section("root", aluminium8, plies("20 plies", 20), breather),
			},
			Limits: forecast.CureLimits{
				MaxPart:      c(130),
				MaxOvershoot: 8,
				MaxSpread:    10,
				MinCure:      0.9,
				OpenBelow:    c(60),
			},
			Reasons: []string{
				"The resin thins while it hardly cures: air and what evaporates leave through the bag before it gels.",
				"The cure itself. It is counted from when the coldest place is warm, which is that on the thickest " +
					"plies.",
				"Cooled under vacuum, so that nothing lifts from the tool before it is stiff.",
			},
		}},
		{"Shutter panel, low pressure", "Ember 120", "Autoclave 1", recipes.RecipePlan{
			Recipe: start(
				"lagging",
				cure.Segment{
					Target:   c(120),
					Rate:     1.5 / 60,
					Hold:     5400,
					WaitPart: c(117),
					Pressure: 100e3,
					Vacuum:   60e3,
					Vent:     80e3,
				},
				cure.Segment{Target: c(45), Rate: 2.0 / 60, WaitCool: c(55), Pressure: 100e3},
			),
			Sections: []calc.CureSection{
				section(
					"sandwich",
					aluminium8,
					plies("3 plies", 3),
					layer("honeycomb core", 0.02, 48, 1300, 0.07),
					plies("3 plies above", 3),
					breather,
				),
				section("edge", aluminium8, plies("10 plies", 10), breather),
			},
			Limits: forecast.CureLimits{
				MaxPart:      c(130),
				MaxOvershoot: 10,
				MinCure:      0.9,
				MaxPressure:  240e3,
				OpenBelow:    c(60),
			},
			Reasons: []string{
				"Low pressure from the start, no more than the core bears. The sensor that lags rules the air: the " +
					"edge is solid and slow.",
				"Cooled under pressure, as slowly as skins and core come down together.",
			},
		}},
	}
}

// coolCures are those of the press, and of resins that cure at little heat.
func coolCures() []planned {
	return []planned{
		{"Yoke arm, press", "Ember 120", "Press 1", recipes.RecipePlan{
			Recipe: start(
				"",
				cure.Segment{
					Target:               c(122),
					Rate:                 10.0 / 60,
					WaitViscosityMinimum: true,
					Pressure:             200e3,
					RampWithPart:         true,
				},
				cure.Segment{Target: c(130), Rate: 10.0 / 60, Hold: 1380, WaitPart: c(126), Pressure: 600e3},
				cure.Segment{Target: c(45), Rate: 8.0 / 60, WaitCool: c(60), Pressure: 600e3},
			),
			Sections: []calc.CureSection{
				pressed("wall", steel12, plies("10 plies", 10), layer("bladder", 0.001, 1150, 1300, 0.25)),
			},
			Limits: forecast.CureLimits{MaxPart: c(145), MaxOvershoot: 12, MinCure: 0.85, OpenBelow: c(60)},
			Reasons: []string{
				"The bladder is filled as the tool warms: the plies follow the wall, and fold nowhere. It goes on " +
					"when the resin is thinnest.",
				"Full pressure while the resin flows, then minutes at the temperature that it cures quickly at.",
				"Cooled in the closed mould: the part is stiff before the pressure is let off.",
			},
		}},
		{"Petal, 80 °C", "Tarn 80", "Oven 1", recipes.RecipePlan{
			Recipe: start("",
				cure.Segment{Target: c(80), Rate: 1.0 / 60, Hold: 8 * 3600, WaitPart: c(77), Vacuum: 80e3},
				cure.Segment{Target: c(40), Rate: 1.0 / 60, WaitCool: c(50)},
			),
			Sections: []calc.CureSection{
				section("shell", layer("glass tool", 0.008, 1900, 900, 0.4), plies("6 plies", 6), breather),
			},
			Limits: forecast.CureLimits{MaxPart: c(95), MaxOvershoot: 8, MinCure: 0.8, OpenBelow: c(50)},
			Reasons: []string{
				"As warm as the master and the tool bear. It takes hours, and the resin has gelled long before they " +
					"are over.",
				"Stiff enough to leave the tool, not yet for the sun: the rest of the cure is done standing free.",
			},
		}},
		{"Petal, post-cure standing free", "Tarn 80", "Oven 1", recipes.RecipePlan{
			Recipe: start("",
				cure.Segment{Target: c(70), Rate: 0.5 / 60, Hold: 1800},
				cure.Segment{Target: c(105), Rate: 0.15 / 60, Hold: 4 * 3600},
				cure.Segment{Target: c(40), Rate: 1.0 / 60, WaitCool: c(50)},
			),
			Sections: []calc.CureSection{section("shell", plies("6 plies", 6))},
			Limits:   forecast.CureLimits{MaxPart: c(110), MinGlass: c(100), Free: true},
			Reasons: []string{
				"Below the glass transition that the first cure has left: the shell stands by itself.",
				"So slowly that the glass transition stays ahead of the part. Faster, it would sag.",
				"Nothing holds it: it cools in still air and is not touched before it is cool.",
			},
		}},
		{"Repair, wet overnight", "Tarn wet", "Oven 1", recipes.RecipePlan{
			Recipe: start("",
				cure.Segment{Target: c(23), Rate: 0.5 / 60, Hold: 14 * 3600, Vacuum: 60e3},
				cure.Segment{Target: c(60), Rate: 0.25 / 60, Hold: 6 * 3600, WaitPart: c(57)},
				cure.Segment{Target: c(35), Rate: 1.0 / 60, WaitCool: c(45)},
			),
			Sections: []calc.CureSection{section("patch", plies("5 plies", 5), breather)},
			Limits:   forecast.CureLimits{MaxPart: c(70), MaxOvershoot: 8, MinCure: 0.8, OpenBelow: c(50)},
			Reasons: []string{
				"Overnight at the room's warmth under vacuum: a patch that gels slowly does not heat itself.",
				"Warm once it has gelled, for the rest of the cure.",
				"Cool before the bag comes off.",
			},
		}},
	}
}

// cureRoom enters what cures are done in, the resins that no roll here has, and the recipes.
func (s *script) cureRoom() {
	for _, e := range equipment() {
		try(s, func() (recipes.EquipmentView, error) {
			return s.shop.SaveEquipment(s.ctx, s.who[orde], recipes.EquipmentIn{Facts: e, Why: "made up for the demo"})
		})
	}
	for _, in := range []recipes.ResinIn{kiln(), tarn(), wet()} {
		try(s, func() (recipes.ResinView, error) {
			return s.shop.SaveResin(s.ctx, s.who[orde], 0, recipes.ResinChange{ResinIn: in})
		})
	}
	resins := map[string]int64{}
	for _, r := range try(s, func() ([]recipes.ResinView, error) { return s.shop.Resins(s.ctx) }) {
		resins[r.Name] = r.ID
	}
	for k, c := range cures() {
		v := try(s, func() (recipes.RecipeView, error) {
			return s.shop.SaveRecipe(s.ctx, s.who[orde], recipes.RecipeIn{
				Name: c.name, ResinID: resins[c.resin], Equipment: c.in, Plan: c.plan,
			})
		})
		try(s, func() (recipes.RecipeView, error) { return s.shop.ReleaseRecipe(s.ctx, s.who[quist], v.ID, s.pin) })
		if k > 0 {
			continue
		}
		// The next version of the first is still being planned.
		next := c.plan
		next.Recipe.Segments = slices.Clone(next.Recipe.Segments)
		next.Recipe.Segments[1].Hold = 6600
		try(s, func() (recipes.RecipeView, error) {
			return s.shop.SaveRecipe(s.ctx, s.who[orde], recipes.RecipeIn{
				Name: c.name, Version: 1, ResinID: resins[c.resin], Equipment: c.in, Plan: next,
			})
		})
	}
}
