package parts

import (
	"juxta/calc"
	"juxta/core/master"
	"juxta/shop/book"
)

// AnalysisView is what the core makes of a master.
type AnalysisView struct {
	Mass     float64       `json:"mass" doc:"As laid, kg"`
	Scale    ScaleView     `json:"scale"`
	Zones    []ZoneView    `json:"zones" doc:"Largest first"`
	More     int           `json:"more" doc:"Smaller zones that are not listed; their findings are"`
	Area     float64       `json:"area" doc:"Of all zones, m²"`
	Findings []FindingView `json:"findings"`
	Span     float64       `json:"span" doc:"Over which the bow is told, m"`
	Delta    float64       `json:"deltaT" doc:"From the hottest hold to the room, K"`
	Labels   []LabelView   `json:"labels" doc:"Of all items in lay order"`

	// Thickness of the largest zone in which something is stiff, m: a film that
	// reaches beyond the plies is not what a caliper measures.
	Thickness float64 `json:"-"`
}

// ScaleView is what a scale should say at each stage, kg.
type ScaleView struct {
	Laid    float64 `json:"laid" doc:"Films off"`
	Cured   float64 `json:"cured" doc:"Less the resin that is bled"`
	Trimmed float64 `json:"trimmed" doc:"Less what lies outside the trim line"`
	Resin   float64 `json:"resin" doc:"In what is laid"`
	Lumps   float64 `json:"lumps" doc:"Inserts and the like"`
	X       float64 `json:"x" doc:"Centre of mass from the datum, m"`
	Y       float64 `json:"y"`
}

// ZoneView is a region with one stack all over. Worked is missing where
// nothing in the stack is stiff.
type ZoneView struct {
	Items    []string          `json:"-"` // keys in lay order
	Label    string            `json:"label" doc:"Its layers, such as plies 1 to 4, core 1"`
	Area     float64           `json:"area"`
	X        float64           `json:"x" doc:"A place inside it, m"`
	Y        float64           `json:"y"`
	Beside   []int             `json:"beside"`
	Angles   []float64         `json:"anglesDeg,omitempty" doc:"Of its layers as they lie at its place, where a stage is curved; missing: as drawn"`
	Analysis *calc.LaminateOut `json:"analysis,omitempty"`
}

// FindingView is a broken rule with the items that it is about.
type FindingView struct {
	Rule    string `json:"rule"`
	Message string `json:"message"`
	Items   []int  `json:"items" doc:"Among the labels: a stack of hundreds has findings about hundreds"`
	Zones   []int  `json:"zones" doc:"Among the zones listed; empty: in plan"`
	Waived  string `json:"waived,omitempty" doc:"Who lets it stand, and why"`
}

// LabelView is what an item is called.
type LabelView struct {
	Key   string `json:"key"`
	Label string `json:"label"`
}

// shownZones is how many zones are listed.
const shownZones = 60

// Analyse asks the core about a master; nil for one without layers.
func (m MasterOf) Analyse(question master.WhatIf) (*AnalysisView, error) {
	w, err := m.AnalysisInput.Analyse(question)
	if err != nil || w == nil {
		return nil, undrawn(err)
	}
	mass := w.Weighed
	v := &AnalysisView{
		Mass: mass.Laid, Zones: []ZoneView{}, Area: w.Area, Findings: []FindingView{}, Span: master.Span,
		Delta:     w.DeltaT,
		Scale:     ScaleView{mass.Laid, mass.Cured, mass.Trimmed, mass.Resin, mass.Lumps, mass.Centre.X, mass.Centre.Y},
		Thickness: w.Thickness,
	}
	shown, err := m.Shown()
	if err != nil {
		return nil, undrawn(err)
	}
	labels, at := shown.Doc.Labels(), map[string]int{} // the place of each label
	for k, i := range shown.Doc.Items() {
		v.Labels = append(v.Labels, LabelView{i.Key, labels[i.Key]})
		at[labels[i.Key]] = k
	}
	for n, z := range w.Zones {
		if n == shownZones {
			v.More = len(w.Zones) - n
			break
		}
		v.Zones = append(v.Zones, zoneView(z))
	}
	for _, f := range w.Findings {
		v.Findings = append(v.Findings, m.findingView(f, at))
	}
	return v, nil
}

// undrawn is the refusal of a document that cannot be worked out.
func undrawn(err error) error {
	if err == nil {
		return nil
	}
	return book.Wrong.At("document", "%s", err)
}

func zoneView(z master.Zone) ZoneView {
	v := ZoneView{Items: z.Keys, Label: z.Label, Area: z.Area, X: z.At.X, Y: z.At.Y, Beside: []int{}, Angles: z.Angles}
	if z.Analysis != nil {
		out := calc.FromAnalysis(*z.Analysis)
		v.Analysis = &out
	}
	for _, b := range z.Beside {
		if b < shownZones {
			v.Beside = append(v.Beside, b)
		}
	}
	return v
}

// findingView is a finding with the places of its items among the labels, and
// who lets it stand.
func (m MasterOf) findingView(f master.ZoneFinding, at map[string]int) FindingView {
	v := FindingView{Rule: f.Rule, Message: f.Message, Items: make([]int, len(f.Plies)), Zones: []int{}}
	for i, label := range f.Plies {
		v.Items[i] = at[label]
	}
	for _, z := range f.Zones {
		if z < shownZones {
			v.Zones = append(v.Zones, z)
		}
	}
	for _, waiver := range m.waivers {
		if waiver.about(f.Rule, f.Message) {
			v.Waived = waiver.Reason
		}
	}
	return v
}
