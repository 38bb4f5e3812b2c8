package master

import (
	"fmt"
	"runtime"
	"slices"
	"strconv"

	"juxta/core/geom"
	"juxta/core/laminate"
	"juxta/core/parallel"
	"juxta/core/unit"
)

// Span is the length over which a bow is told, m.
const Span = 1.0

// AnalysisInput is a document with all that it is worked out from.
type AnalysisInput struct {
	Doc       Document
	Materials map[int64]Material
	Rules     laminate.Rules
	Bleed     float64 // share of the plies' resin that the bag takes out
	Hottest   float64 // hold of the cure, K
	// Outlines says what the outlines of layers are; nil: as [laminate.NewOutlines] does. It may
	// give a plan that was worked out before.
	Outlines func([]laminate.PlacedPly) *laminate.Outlines
	Lay      Draper // lays the plies of curved stages; nil: they have no flats
}

// Analysis is what the core makes of an [AnalysisInput].
type Analysis struct {
	Zones    []Zone // largest first
	Area     float64
	Weighed  laminate.MassProperties
	DeltaT   float64 // from the hottest hold to the room, K
	Findings []ZoneFinding
	// Thickness of the largest zone in which something is stiff, m: a film that
	// reaches beyond the plies is not what a caliper measures.
	Thickness float64
}

// Zone is a region with one stack all over. Worked is nil where nothing in it is
// stiff.
type Zone struct {
	laminate.Zone
	Keys     []string // of its layers, in lay order
	Label    string   // its layers, such as 1 to 4, core 1
	Analysis *laminate.Analysis
	// Angles of its layers as they lie at its place, degrees, where a stage is curved; nil: as drawn.
	// What a zone works out to follows from them; the rules of a stack are held against what is
	// drawn, for they are the plan's.
	Angles []float64
}

// ZoneFinding is a broken rule and the zones in which it is, none for one of the plan.
// The same one in several zones is told once.
type ZoneFinding struct {
	laminate.Finding
	Zones []int
}

// Shown is the case that is worked out: of a family, its first variant.
func (c AnalysisInput) Shown() (AnalysisInput, error) {
	if !c.Doc.Family() {
		return c, nil
	}
	one, err := c.Doc.Of(c.Doc.Variants[0])
	c.Doc = one.Derived(c.Materials, c.Lay)
	return c, err
}

// Layers lays the items that cover an area on the tool.
func (c AnalysisInput) Layers() ([]Layer, error) { return c.Doc.Layers(c.Materials) }

// TrimLine is the outline that the part is trimmed to, or nil.
func (c AnalysisInput) TrimLine() (geom.Ring, error) {
	if c.Doc.Trim == "" {
		return nil, nil
	}
	return c.Doc.Ring(c.Doc.Trim)
}

// Analyse works a case out; nil for one without layers. The question changes layers
// before they are worked out; the zero one changes nothing. It expects a
// document that [Document.Check] finds no fault with.
func (c AnalysisInput) Analyse(question WhatIf) (*Analysis, error) {
	c, err := c.Shown()
	if err != nil {
		return nil, err
	}
	layers, err := c.Layers()
	if err != nil {
		return nil, err
	}
	if layers = question.Apply(layers); len(layers) == 0 {
		return nil, nil
	}
	if c.Outlines == nil {
		c.Outlines = laminate.NewOutlines
	}
	w := &Analysis{DeltaT: unit.Room - max(unit.Room, c.Hottest)}
	placed := PlacedPlies(layers)
	plan := c.Outlines(placed)
	// What needs the plan alone is looked at while it is cut into zones, and zones
	// know nothing of each other: each processor takes some.
	var all parallel.Group
	defer func() { _ = all.Wait() }()
	var inPlan []laminate.Finding
	all.Run(func() {
		inPlan = append(c.Doc.Inspect(layers, plan, c.Rules), c.Doc.Widths(layers, c.Materials)...)
		inPlan = append(inPlan, c.Doc.warnings()...)
	})
	zones, err := plan.Zones(placed)
	if err != nil {
		return nil, err
	}
	trim, err := c.TrimLine()
	if err != nil {
		return nil, err
	}
	if w.Weighed, err = laminate.MassOf(placed, c.Doc.Lumps(), c.Bleed, trim); err != nil {
		return nil, err
	}
	apart := c.Doc.laidOnCured()
	found := make([][]laminate.Finding, len(zones))
	lies := c.lie()
	w.Zones = make([]Zone, len(zones))
	workers := runtime.GOMAXPROCS(0) // asked once: it may change meanwhile
	for first := range workers {
		all.Run(func() {
			var stack []laminate.Ply // one for all: hundreds of plies are much to fetch for each zone
			for n := first; n < len(zones); n += workers {
				stack = zones[n].Stack(stack[:0], placed)
				if w.Zones[n] = zoneOf(zones[n], layers, stack, lies, w.DeltaT); w.Zones[n].Analysis != nil {
					found[n] = laminate.Inspect(together(zones[n], stack, layers, apart), c.Rules)
				}
			}
		})
	}
	if err := all.Wait(); err != nil {
		return nil, err
	}
	for n, z := range w.Zones {
		w.Area += z.Area
		if w.Thickness == 0 && z.Analysis != nil {
			w.Thickness = z.Analysis.Stiffness.Thickness
		}
		for _, f := range found[n] {
			w.find(f, n)
		}
	}
	for _, f := range inPlan {
		w.find(f)
	}
	return w, nil
}

// zoneOf works the stack of a zone out.
func zoneOf(z laminate.Zone, layers []Layer, stack []laminate.Ply, lies lying, deltaT float64) Zone {
	out := Zone{Zone: z, Keys: make([]string, len(z.Plies)), Angles: lies.angles(z, layers)}
	names := make([]string, len(z.Plies))
	for i, k := range z.Plies {
		out.Keys[i], names[i] = layers[k].Key, layers[k].Name
	}
	out.Label = JoinNames(names)
	if slices.ContainsFunc(stack, func(p laminate.Ply) bool { return !p.Lamina.Soft() }) {
		if worked, err := laminate.Analyse(PliesAsLaid(stack, out.Angles), deltaT, Span); err == nil {
			out.Analysis = &worked
		}
	}
	return out
}

// laidOnCured are the keys of the stages that are laid on what is cured already.
func (d Document) laidOnCured() map[string]bool {
	apart := map[string]bool{}
	for _, s := range d.Stages {
		apart[s.Key] = s.Kind == "over-wrap" || s.Kind == "bond"
	}
	return apart
}

// together is the part of a zone's stack that cools together from one cure: the
// rules of a stack are not for what is laid over it later.
func together(z laminate.Zone, stack []laminate.Ply, layers []Layer, apart map[string]bool) []laminate.Ply {
	if !slices.ContainsFunc(z.Plies, func(k int) bool { return apart[layers[k].Stage] }) {
		return stack
	}
	var out []laminate.Ply
	for i, k := range z.Plies {
		if !apart[layers[k].Stage] {
			out = append(out, stack[i])
		}
	}
	return out
}

func (w *Analysis) find(f laminate.Finding, zones ...int) {
	k := slices.IndexFunc(w.Findings, func(v ZoneFinding) bool { return v.Rule == f.Rule && v.Message == f.Message })
	if k >= 0 {
		w.Findings[k].Zones = append(w.Findings[k].Zones, zones...)
		return
	}
	w.Findings = append(w.Findings, ZoneFinding{f, zones})
}

// JoinNames names layers shortly: runs of ply numbers, and the others by their names.
func JoinNames(names []string) string {
	said, from, last := "", 0, 0
	flush := func() {
		if from == 0 {
			return
		}
		if said != "" {
			said += ", "
		}
		switch {
		case from == last:
			said += strconv.Itoa(from)
		default:
			said += fmt.Sprintf("%d to %d", from, last)
		}
		from = 0
	}
	for _, name := range names {
		if n, err := strconv.Atoi(name); err == nil {
			if from > 0 && n == last {
				continue // a turn more of the same sheet
			}
			if from == 0 || n != last+1 {
				flush()
				from = n
			}
			last = n
			continue
		}
		flush()
		if said != "" {
			said += ", "
		}
		said += name
	}
	flush()
	return said
}

// warnings are what the flats of plies say of themselves.
func (d Document) warnings() []laminate.Finding {
	var out []laminate.Finding
	labels := d.Labels()
	for _, i := range d.Items() {
		if i.Flat == nil {
			continue
		}
		for _, says := range i.Flat.Warnings {
			out = append(out, laminate.Finding{
				Rule: "flat", Plies: []string{labels[i.Key]}, Message: fmt.Sprintf("ply %s: %s", labels[i.Key], says),
			})
		}
	}
	return out
}
