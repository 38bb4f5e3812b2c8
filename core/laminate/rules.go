package laminate

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"juxta/core/unit"
)

// Finding is one rule of the shop that a stack or a plan breaks, naming the
// plies.
type Finding struct {
	Rule    string   `json:"rule"` // one of the names of [RuleNames]
	Message string   `json:"message"`
	Plies   []string `json:"plies"`
}

// Rules are the limits that a part is held against; the zero value of a limit
// switches its rule off.
type Rules struct {
	Symmetry  bool
	Balance   bool
	MinShare  float64 // least share of each of 0, ±45 and 90, by thickness
	MaxRun    int     // most equal angles in a row
	MaxStep   float64 // largest angle between neighbours, radians
	Outer45   bool    // outer plies at ±45
	DropSlope float64 // least distance between two drops, over the thickness dropped
	MaxDrop   int     // most plies that end at one line
	MaxRamp   float64 // steepest chamfer of a core, radians
	CoreResin float64 // least resin share of a ply that bonds a core without film adhesive
	Galvanic  bool    // nothing that conducts touches metal
}

// RuleAbout says what a rule asks for and why.
type RuleAbout struct{ Name, Asks, Why, Source string }

// RuleNames are the rules in the order in which they are shown. All but the
// first two, which lamination theory gives, are the trade's.
var RuleNames = []RuleAbout{
	{
		"symmetry",
		"symmetric about mid-plane",
		"a stack that is not symmetric bends and twists as it cools",
		"lamination theory: B = 0",
	},
	{
		"balance",
		"balanced: as much at −θ as at +θ",
		"an unbalanced stack shears when it is pulled",
		"lamination theory: A16 = A26 = 0",
	},
	{
		"share",
		"a least share of 0°, ±45° and 90°",
		"without plies in a direction the resin carries the load there",
		"common practice, no source",
	},
	{
		"run",
		"few plies of one angle in a row",
		"thick blocks of one angle crack between themselves as they cool",
		"common practice, no source",
	},
	{
		"step",
		"small angle steps between neighbours",
		"large steps shear the resin between two plies",
		"common practice, no source",
	},
	{"outer", "outer plies at ±45°", "they resist impact and spread its load", "common practice, no source"},
	{
		"drop",
		"drops of plies apart from each other",
		"the load needs length to leave a ply that ends",
		"common practice, no source",
	},
	{
		"ramp",
		"a shallow chamfer at a core's edge",
		"a steep one lets skins bridge, and the pressure push the core in",
		"common practice, no source",
	},
	{
		"core bond",
		"film adhesive or a resin-rich ply at both faces of a core",
		"a dry core face does not bond",
		"common practice, no source",
	},
	{
		"width",
		"a roll that each ply can be cut from",
		"what is wider across the fibre than every roll has to be made of pieces",
		"geometry: the widths in which the material is sold",
	},
	{
		"galvanic",
		"carbon isolated from metal",
		"carbon corrodes metal that it touches",
		"common practice, no source",
	},
}

// DefaultRules are the shop's usual limits (common practice, no source).
func DefaultRules() Rules {
	return Rules{
		Symmetry:  true,
		Balance:   true,
		MaxRun:    4,
		DropSlope: 20,
		MaxDrop:   4,
		MaxRamp:   unit.Rad(30),
		CoreResin: 0.42,
		Galvanic:  true,
	}
}

// Share is the part of the thickness that lies at one angle.
type Share struct {
	AngleDeg float64 `json:"angleDeg"` // in (-90, 90]
	Part     float64 `json:"part"`
}

// even says whether warp and weft of a weave are alike: its two directions then
// carry half its thickness each.
func (l Lamina) even() bool { return math.Abs(l.E1-l.E2) < 1e-9*l.E1 }

// eachDirection walks the fibre directions of a stack, in degrees in (-90, 90],
// with the thickness that lies in each.
func eachDirection(stack []Ply, do func(deg, thickness float64)) {
	for i := range stack {
		p := &stack[i]
		if !p.laminated() {
			continue
		}
		t := p.Lamina.Thickness
		if p.Lamina.even() {
			do(direction(p.Angle), t/2)
			do(direction(p.Angle+math.Pi/2), t/2)
			continue
		}
		do(direction(p.Angle), t)
	}
}

// Shares lists the fibre directions of a stack with their share of its
// thickness, in order of angle.
func Shares(stack []Ply) []Share {
	var shares []Share
	total := 0.0
	eachDirection(stack, func(deg, thickness float64) {
		total += thickness
		i := slices.IndexFunc(shares, func(s Share) bool { return s.AngleDeg == deg })
		if i < 0 {
			shares, i = append(shares, Share{AngleDeg: deg}), len(shares)
		}
		shares[i].Part += thickness
	})
	for i := range shares {
		shares[i].Part /= total
	}
	slices.SortFunc(shares, func(a, b Share) int { return int(math.Copysign(1, a.AngleDeg-b.AngleDeg)) })
	return shares
}

// Inspect holds a stack against the rules. Each finding names its plies.
func Inspect(stack []Ply, r Rules) []Finding {
	var found []Finding
	if r.Symmetry {
		if odd := unpaired(stack); len(odd) > 0 {
			found = append(
				found,
				Finding{"symmetry", "not symmetric: " + plies(odd) + " unpaired", odd},
			)
		}
	}
	if r.Balance {
		found = append(found, unbalanced(stack)...)
	}
	if r.MinShare > 0 {
		found = append(found, scarce(stack, r.MinShare)...)
	}
	if r.MaxRun > 0 {
		found = append(found, runs(stack, r.MaxRun)...)
	}
	if r.MaxStep > 0 {
		found = append(found, steps(stack, r.MaxStep)...)
	}
	if r.Outer45 {
		found = append(found, outer(stack)...)
	}
	if r.CoreResin > 0 {
		found = append(found, bonds(stack, r.CoreResin)...)
	}
	return found
}

// unbalanced finds angles θ whose thickness differs from that at -θ, per
// material. 0° and 90° are balanced in themselves, and so is a weave whose two
// directions are equal at any 45°.
func unbalanced(stack []Ply) []Finding {
	type group struct {
		angle    float64 // without its sign
		material string
		more     float64 // thickness at +θ less that at −θ
		names    []string
	}
	var groups []group // a handful, however many plies
	for i := range stack {
		p := &stack[i]
		a := direction(p.Angle)
		if !p.laminated() || a == 0 || a == 90 || (p.Lamina.even() && math.Abs(a) == 45) {
			continue
		}
		k := slices.IndexFunc(groups, func(g group) bool { return g.angle == math.Abs(a) && g.material == p.Material })
		if k < 0 {
			k = len(groups)
			groups = append(groups, group{angle: math.Abs(a), material: p.Material})
		}
		groups[k].more += math.Copysign(p.Lamina.Thickness, a)
		groups[k].names = append(groups[k].names, p.Name)
	}
	var found []Finding
	for _, g := range groups {
		if math.Abs(g.more) > 1e-9 {
			sign := "+"
			if g.more < 0 {
				sign = "−"
			}
			found = append(found, Finding{"balance", fmt.Sprintf("not balanced: %s more %s at %s%g°",
				unit.Size(math.Abs(g.more), 2), g.material, sign, g.angle), g.names})
		}
	}
	return found
}

// scarce finds which of 0, ±45 and 90 has less than its least share.
func scarce(stack []Ply, least float64) []Finding {
	var part [3]float64
	total := 0.0
	eachDirection(stack, func(deg, t float64) {
		total += t
		switch a := math.Abs(deg); {
		case a < 15:
			part[0] += t
		case a > 75:
			part[2] += t
		case a > 30 && a < 60:
			part[1] += t
		}
	})
	var found []Finding
	for i, name := range []string{"0°", "±45°", "90°"} {
		if part[i] < least*total-1e-12 {
			found = append(
				found,
				Finding{
					"share",
					fmt.Sprintf("only %.0f %% at %s: at least %.0f %% is the rule", 100*part[i]/total, name, 100*least),
					nil,
				},
			)
		}
	}
	return found
}

func runs(stack []Ply, most int) []Finding {
	var found []Finding
	for i := 0; i < len(stack); {
		j := i + 1
		for j < len(stack) && stack[i].laminated() && stack[j].laminated() &&
			direction(stack[i].Angle) == direction(stack[j].Angle) {
			j++
		}
		if j-i > most {
			var names []string
			for _, p := range stack[i:j] {
				names = append(names, p.Name)
			}
			found = append(
				found,
				Finding{"run", fmt.Sprintf("%d equal angles in a row, at most %d: %s", j-i, most, plies(names)), names},
			)
		}
		i = j
	}
	return found
}

// spelled is how many plies a sentence names; the finding itself names all.
const spelled = 12

func plies(names []string) string {
	if len(names) == 1 {
		return "ply " + names[0]
	}
	if len(names) > spelled {
		return fmt.Sprintf("plies %s and %d more", strings.Join(names[:spelled], ", "), len(names)-spelled)
	}
	return "plies " + strings.Join(names[:len(names)-1], ", ") + " and " + names[len(names)-1]
}
