package demo

import (
	"time"

	"juxta/core/cure"
	"juxta/core/master"
	"juxta/core/unit"
	"juxta/shop/parts"
	"juxta/shop/recipes"
	"juxta/shop/stock"
)

// The masters of the shop's other parts. Where a flat outline is not derived yet (a
// draped shell) a placeholder stands for it and says so. All figures are invented.

// kiln is the demo's hotter resin, for the autoclave; its figures are invented.
func kiln() recipes.ResinIn {
	return recipes.ResinIn{Name: "Kiln 180", Alpha0: 0.02,
		Kinetics:   cure.Kinetics{Terms: []cure.Term{{A: 6.5e7, E: 86e3, M: 0, N: 1.3}}},
		Viscosity:  &cure.Viscosity{Mu: 3e-10, U: 7.4e4, Gel: 0.5, A: 2, B: 1.2},
		ResinFacts: facts(0, 208, 0.75, 450e3, 200),
		Recipe: cure.Recipe{
			Name:      "Kiln 180, autoclave",
			Start:     unit.Kelvin(21),
			Tolerance: 5,
			Segments: []cure.Segment{
				{Target: unit.Kelvin(130), Rate: 1.5 / 60, Hold: 3600, WaitPart: unit.Kelvin(127)},
				{Target: unit.Kelvin(177), Rate: 1.0 / 60, Hold: 7200, WaitPart: unit.Kelvin(174)},
				{Target: unit.Kelvin(60), Rate: 2.0 / 60},
			},
		}}
}

func more(ember, kiln int64) []stock.MaterialIn {
	caution := "Resin sensitises skin: wear nitrile gloves, also to keep skin oil off the ply. The supplier's " +
		"safety data sheet rules."
	return []stock.MaterialIn{
		{
			Name:      "Sable UD 200 K",
			Kind:      "unidirectional",
			ResinID:   kiln,
			Width:     0.6,
			E1:        138e9,
			E2:        8.9e9,
			Nu12:      0.31,
			G12:       4.7e9,
			Alpha1:    -0.1e-6,
			Alpha2:    29e-6,
			Thickness: 190e-6,
			ArealMass: 0.305,
			HalfTurn:  true,
			Films:     1,
			OutLife:   480 * 3600,
			TackLife:  360 * 3600,
			Sheet: stock.MaterialSheet{
				FibreMass:  0.2,
				ResinShare: 0.344,
				Fibre:      "carbon",
				Widths:     []float64{0.6, 1.2},
				BulkFactor: 1.12,
				StorageMax: unit.Kelvin(-18),
				ShelfLife:  365 * 86400,
				XT:         2100e6,
				XC:         1250e6,
				YT:         52e6,
				YC:         210e6,
				S:          88e6,
				Caution:    caution,
			},
		},
		{
			Name:      "Frost glass 80",
			Kind:      "woven",
			ResinID:   ember,
			Width:     1.0,
			E1:        21e9,
			E2:        21e9,
			Nu12:      0.12,
			G12:       3.6e9,
			Alpha1:    14e-6,
			Alpha2:    14e-6,
			Thickness: 80e-6,
			ArealMass: 0.148,
			HalfTurn:  true,
			Films:     2,
			OutLife:   240 * 3600,
			Sheet: stock.MaterialSheet{
				FibreMass:      0.08,
				ResinShare:     0.46,
				Fibre:          "glass",
				Weave:          "plain",
				WarpEqualsWeft: true,
				BulkFactor:     1.2,
				StorageMax:     unit.Kelvin(-18),
				Caution:        caution,
			},
		},
		{
			Name:    "Ember paste 20",
			Kind:    "paste adhesive",
			ResinID: ember,
			OutLife: 0,
			Sheet: stock.MaterialSheet{
				MixRatio: "100 : 40",
				PotLife:  2700,
				Caution:  caution + " A pot of mixed resin can run away: mix small amounts.",
			},
		},
	}
}

// masters enters the tools and the masters of the shop's other parts.
func (s *script) masters(ids map[string]int64) {
	resins := map[string]int64{}
	for _, r := range try(s, func() ([]recipes.ResinView, error) { return s.shop.Resins(s.ctx) }) {
		resins[r.Name] = r.ID
	}
	for _, in := range more(resins["Ember 120"], resins["Kiln 180"]) {
		v := try(s, func() (stock.MaterialView, error) { return s.shop.AddMaterial(s.ctx, s.who[orde], in) })
		ids[v.Name] = v.ID
	}
	for _, t := range tools() {
		v := try(s, func() (parts.ToolView, error) { return s.shop.SaveTool(s.ctx, s.who[orde], 0, t) })
		for _, kind := range []string{"cleaned", "release coat", "release coat", "release coat"} {
			s.wait(5 * time.Minute)
			try(s, func() (parts.ToolView, error) {
				return s.shop.LogToolWork(s.ctx, s.who[brandl], v.ID, parts.NewToolEvent{Kind: kind})
			})
		}
	}
	o := others{s, ids}
	for _, enter := range []func(){o.strut, o.pole, o.vane, o.ring, o.petal, o.panel, o.yoke, o.bondedStrut} {
		enter()
	}
}

// others are the shop's other parts, their materials by name.
type others struct {
	*script
	ids map[string]int64
}

// Materials of the other parts.
const (
	ud    = "Sable UD 150"
	twill = "Sable twill 200"
	glass = "Frost glass 80"
	film  = "Ember film 250"
	core  = "Lattice 48 core, 4 mm"
	paste = "Ember paste 20"
	udK   = "Sable UD 200 K"
)

// What is rolled is taped, and pulled off steel.
var (
	tape  = &master.TapePlan{Width: 0.02, Pitch: 0.01, Layers: 2, Tension: 40}
	steel = &master.MandrelPull{Expands: 12e-6, Modulus: 200e9, Poisson: 0.3, Cools: 95, Friction: 0.15, Limit: 15e3}
)

// process is the usual process of a resin on a tool.
func (s others) process(tool, of string) parts.Process {
	resin := map[string]recipes.ResinIn{"Ember 120": Ember(), "Kiln 180": kiln()}[of]
	p := parts.UsualProcess(recipes.Resin{Recipe: resin.Recipe}, Altitude)
	p.Tool, p.Equipment = tool, "Oven 1"
	return p
}

// strut is the truss strut, a family of two lengths.
func (s others) strut() {
	strut := s.sketch(s.ids)
	strut.Parameters = []master.Parameter{
		{Name: "L", Called: "length over all", Unit: "mm", Value: 600},
		{Name: "D", Called: "bore", Unit: "mm", Value: 40},
		{Name: "n", Called: "wraps of each ±15° group", Unit: "number", Value: 1},
	}
	strut.Variants = []master.Variant{
		{Name: "600", Values: map[string]float64{}},
		{Name: "900", Values: map[string]float64{"L": 900, "n": 2}},
	}
	strut.stage("Tube", "pre-form").rolled(master.Rolled{
		Section: "round", Width: 0.04, Length: 0.6, Trim: 0.02, StepDeg: 90, Tape: tape, Pull: steel,
		Expr: map[string]string{"width": "D", "length": "L"},
	}).lay("0", ud, master.Item{Join: "butt"})
	for _, angle := range []float64{15, -15, -15, 15} {
		strut.put(master.Item{
			Kind: master.Ply, AngleDeg: angle, FaceUp: true, Join: "overlap", JoinWidth: 0.015,
			Expr: map[string]string{"count": "n"},
		}, ud)
	}
	strut.lay("0", ud, master.Item{Join: "butt"})
	p := s.process("mandrel M-40", "Ember 120")
	p.DebulkEvery, p.Demould = 1, "Cool below 40 °C, then pull the mandrel along its axis."
	p.Trimming = "Cut to length with the diamond saw; the ends are within 0.3 mm."
	p.Inspections = []parts.Inspection{
		{
			What:       "length",
			Unit:       "mm",
			Least:      number(599.7),
			Target:     number(600),
			Most:       number(600.3),
			Instrument: "length gauge",
		},
	}
	s.enter("SP-21", "Truss strut", strut.made("rolled tube"), p, false)
}

// pole is the hexagonal baffle pole.
func (s others) pole() {
	// Its plies at 45° are wound as spirals along their fibre: no roll is wide enough for them
	// as rectangles, and no fibre is cut at their seams.
	pole := s.sketch(s.ids).stage("Pole", "pre-form").rolled(master.Rolled{
		Section: "hexagon", Width: 0.052, Radius: 0.005, Length: 1.25, Trim: 0.025, StepDeg: 60,
		Outside: 0.0542, Tolerance: 0.0002, Tape: tape,
		Pull: &master.MandrelPull{Expands: 23e-6, Modulus: 70e9, Poisson: 0.33, Cools: 95, Friction: 0.15, Limit: 15e3},
	})
	for _, angle := range []float64{0, 45, -45, 0, 0, -45, 45, 0} {
		i := master.Item{Kind: master.Ply, AngleDeg: angle, FaceUp: true, Join: "overlap", JoinWidth: 0.012}
		if angle != 0 {
			i.Join, i.JoinWidth, i.Wrap = "butt", 0, &master.Wrap{How: "spiral"}
		}
		pole.put(i, ud)
	}
	p := s.process("hexagon mandrel M-6", "Ember 120")
	p.DebulkEvery, p.Demould = 1, "Strip the shrink tape, cool, push the mandrel out."
	s.enter("SP-22", "Baffle pole, hexagonal", pole.made("rolled tube"), p, true)
}

// vane is the tapered spider vane.
func (s others) vane() {
	vane := s.sketch(s.ids).stage("Vane", "pre-form").rolled(master.Rolled{
		Section: "rectangle", Width: 0.046, Height: 0.012, Radius: 0.004, LastWidth: 0.024, LastHeight: 0.01,
		LastRadius: 0.003,
		Length:     0.81, Trim: 0.02, StepLength: 0.02, Tape: tape, Pull: steel,
	}).lay("[0_2/±30]s", ud, master.Item{Join: "butt"})
	s.enter(
		"SP-23",
		"Spider vane, tapered",
		vane.made("rolled tube"),
		s.process("vane mandrel M-9", "Ember 120"),
		false,
	)
}

// ring is the thick segment of the mirror cell.
func (s others) ring() {
	ring := s.sketch(s.ids, master.Outline{
		Name: "segment", Kind: "ring sector", Dims: map[string]float64{"inner": 0.55, "outer": 0.7, "angle": 60},
	}).
		stage("Segment", "skin").
		lay("[(0/45/-45/90)9]s", udK, master.Item{Outline: "segment", Splice: true})
	ring.Stages[0].Items[35].Hold = "thickness of the half stack is measured and entered"
	ring.Stages[0].Items[0].Caution = "A thick laminate can overheat itself in the cure: follow the recipe's " +
		"first hold."
	p := s.process("flat tool T-19", "Kiln 180")
	p.DebulkEvery = 6
	takeRecipe(&p, cures()[0])
	p.Inspections = []parts.Inspection{
		{What: "flatness", Unit: "mm", Most: number(0.15), Instrument: "granite and feeler"},
	}
	s.enter("SP-24", "Mirror-cell ring segment", ring.Document, p, true)
}

// petal is the dish petal, on a paraboloid.
func (s others) petal() {
	// In plan; its flat follows from how it lies on the paraboloid.
	shell := master.Outline{
		Name: "shell", Kind: "ring sector", Dims: map[string]float64{"inner": 0.12, "outer": 0.6, "angle": 52},
	}
	boss := master.Outline{Name: "boss", Kind: "circle", Dims: map[string]float64{"diameter": 0.12}}
	boss1 := master.Outline{Name: "boss small", Kind: "circle", Dims: map[string]float64{"diameter": 0.1}}
	petal := s.sketch(s.ids, shell, boss, boss1).stage("Shell", "skin").
		on(master.Surface{Kind: "paraboloid", Dims: map[string]float64{
			"focal": 0.25, "inner": 0.1, "outer": 0.62, "angle": 56,
		}}).
		put(master.Item{
			Kind: master.Ply, Outline: "shell", TurnDeg: 90, AngleDeg: 45,
			Note: "from the rib outwards, no bridging in the lip",
		}, twill).
		lay("0", ud, master.Item{Outline: "shell", TurnDeg: 90}).
		// Tape does not shear: along the rib it is laid of strips.
		lay("90", ud, master.Item{Outline: "shell", TurnDeg: 90, Laid: &master.DrapeSettings{Strip: 0.05}}).
		lay("45", twill, master.Item{Outline: "boss", Y: 0.3, Note: "round the fitting"}).
		lay("0", glass, master.Item{Outline: "boss small", Y: 0.3}).
		put(master.Item{Kind: master.Ply, Outline: "boss", Y: 0.3, AngleDeg: 45}, twill).
		lay("90", ud, master.Item{Outline: "shell", TurnDeg: 90}).
		lay("0", ud, master.Item{Outline: "shell", TurnDeg: 90}).
		put(master.Item{
			Kind: master.Ply, Outline: "shell", TurnDeg: 90, AngleDeg: 45, FaceUp: true, Second: true,
			Laid: &master.DrapeSettings{X: number(0), Y: number(0.37), Cuts: []master.FabricCut{
				{Kind: master.DartCut, X: 0, Y: 0.46, ToX: 0, ToY: 0.6},
				{Kind: master.DartCut, X: 0, Y: 0.27, ToX: 0, ToY: 0.12},
			}},
			Note: "darts in the rib: the seen face lies without pull",
		}, twill)
	s.enter("SP-25", "Dish petal", petal.made("open shell"), s.process("petal tool P-2", "Ember 120"), false)
}

// panel is the sandwich of the dome shutter.
func (s others) panel() {
	panel := s.sketch(s.ids, box("full", 0.9, 0.6), box("net", 0.88, 0.58), box("core", 0.84, 0.54)).
		stage("Tool skin", "skin").
		put(master.Item{Kind: master.Ply, Outline: "full", AngleDeg: 45}, twill).
		lay("0/90", ud, master.Item{Outline: "full"}).
		stage("Core", "core").
		put(master.Item{Kind: master.Film, Outline: "core", X: 0.03, Y: 0.03}, film).
		put(master.Item{
			Kind: master.Core, Outline: "core", X: 0.03, Y: 0.03, Chamfer: 25,
			Note: "ribbon along x; dry, dust blown off",
		}, core).
		put(master.Item{Kind: master.Insert, Name: "hinge insert, glass-filled", X: 0.1, Y: 0.3, Mass: 0.018}, "").
		put(master.Item{Kind: master.Insert, Name: "hinge insert, glass-filled", X: 0.8, Y: 0.3, Mass: 0.018}, "").
		put(master.Item{Kind: master.Potting, X: 0.45, Y: 0.3, Mass: 0.03, Hold: "potting is hard to the nail"}, paste).
		put(master.Item{Kind: master.Film, Outline: "core", X: 0.03, Y: 0.03}, film).
		stage("Bag skin", "second skin").
		lay("90/0", ud, master.Item{Outline: "full"}).
		put(master.Item{Kind: master.Ply, Outline: "full", AngleDeg: 45, FaceUp: true, Second: true}, twill)
	panel.Trim = "net"
	// The net outline lies 10 mm inside the full one.
	panel.Outlines[1] = master.Outline{
		Name:   "net",
		Kind:   "points",
		Points: []master.Corner{{X: 0.01, Y: 0.01}, {X: 0.89, Y: 0.01}, {X: 0.89, Y: 0.59}, {X: 0.01, Y: 0.59}},
	}
	panel.Loads = []master.Load{{Name: "wind on the open shutter", M: [3]float64{60, 0, 0}}}
	p := s.process("flat tool T-19", "Ember 120")
	p.PressureMax, p.Bleed = 170e3, 0.02
	s.enter("SP-26", "Dome-shutter panel", panel.made("sandwich, three cures"), p, true)
}

// yoke is the hollow arm of two halves.
func (s others) yoke() {
	half := master.Outline{
		Name:        "half shell",
		Kind:        "patch",
		Dims:        map[string]float64{"length": 0.62, "width": 0.3, "radius": 0.12},
		Placeholder: "the developed half shell",
	}
	yoke := s.sketch(s.ids, half, box("flange", 0.5, 0.03)).
		stage("Lower half", "pre-form").
		put(master.Item{Kind: master.Ply, Outline: "half shell", AngleDeg: 45}, twill).
		lay("[0/±45]s", ud, master.Item{Outline: "half shell"}).
		stage("Upper half, over the bladder", "co-cure").
		lay("[0/±45]s", ud, master.Item{Outline: "half shell"}).
		put(master.Item{Kind: master.Ply, Outline: "half shell", AngleDeg: 45, FaceUp: true}, twill)
	p := s.process("yoke tool Y-1", "Ember 120")
	p.PressureMax, p.PressForce, p.BagStack, p.Equipment = 620e3, 180e3, "no bleed", "Press 1"
	p.Demould = "Let the bladder down before the press opens. Never open under pressure."
	s.enter("SP-27", "Yoke arm, hollow", yoke.made("hollow part"), p, false)
}

// bondedStrut is a tube with fittings that are bonded in and over-wrapped.
func (s others) bondedStrut() {
	bonded := s.sketch(s.ids).stage("Tube", "pre-form").rolled(master.Rolled{
		Section: "round", Width: 0.04, Length: 0.8, StepDeg: 90, Outside: 0.0417, Tolerance: 0.00015, Tape: tape,
		Pull: steel,
	}).
		lay("[0/±20]s", ud, master.Item{Join: "overlap", JoinWidth: 0.015}).
		stage("Fittings", "bond").
		// The deliberate fault of this draft: nothing isolates the metal from the tube.
		put(master.Item{Kind: master.Insert, Name: "aluminium end fitting", X: 0.03, Y: 0.07, Mass: 0.085, Metal: true},
			"").
		put(master.Item{Kind: master.Insert, Name: "aluminium end fitting", X: 0.77, Y: 0.07, Mass: 0.085, Metal: true},
			"").
		put(master.Item{
			Kind: master.Fillet, X: 0.06, Y: 0.07, Mass: 0.008, Caution: "Pot life 45 min: mix small amounts.",
		}, paste).
		// The over-wraps go over the cured tube.
		stage("Over-wraps", "over-wrap").
		rolled(master.Rolled{Section: "round", Width: 0.0417, Length: 0.8, StepDeg: 90}).
		lay("45/-45", ud, master.Item{Join: "overlap", JoinWidth: 0.015, Wrap: &master.Wrap{To: 0.12}}).
		lay("45/-45", ud, master.Item{Join: "overlap", JoinWidth: 0.015, Wrap: &master.Wrap{From: 0.68}})
	p := s.process("bonding jig J-3", "Ember 120")
	p.Bonding, p.Qualifications = "Joint step 0.5 mm; handling strength after 30 min in the oven.", []string{"bonding"}
	s.enter("SP-28", "Bonded strut", bonded.made("bonded joints"), p, false)
}

// enter brings a master in as a planner does, from its file, and has it
// released if asked to.
func (s *script) enter(number, name string, doc master.Document, process parts.Process, release bool) {
	s.wait(25 * time.Minute)
	v := try(s, func() (parts.RevisionView, error) {
		file := parts.MasterFile{
			Format:   "juxta master file 1",
			Number:   number,
			Name:     name,
			Document: doc,
			Process:  &process,
		}
		all, err := s.shop.Materials(s.ctx)
		for _, m := range all {
			file.Materials = append(file.Materials, parts.FileMaterial{ID: m.ID, Name: m.Name, Kind: m.Kind})
		}
		if err != nil {
			return parts.RevisionView{}, err
		}
		return s.shop.ImportMaster(s.ctx, s.who[orde], file)
	})
	if release {
		s.release(v)
	}
	if s.err == nil && doc.Family() {
		try(s, func() (parts.RevisionView, error) { return s.shop.MakeVariants(s.ctx, s.who[orde], v.Part.Code) })
	}
}

// number is a limit that there is.
func number(v float64) *float64 { return &v }
