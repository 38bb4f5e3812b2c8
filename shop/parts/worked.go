package parts

import (
	"fmt"
	"runtime"
	"runtime/debug"
	"slices"
	"strconv"

	"golang.org/x/sync/errgroup"

	"juxta/calc"
	"juxta/core/laminate"
	"juxta/core/master"
	"juxta/shop/book"
	"juxta/wire"
)

// Worked is what the core makes of a master.
type Worked struct {
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
	Items  []string          `json:"-"` // keys in lay order
	Says   string            `json:"says" doc:"Its layers, such as plies 1 to 4, core 1"`
	Area   float64           `json:"area"`
	X      float64           `json:"x" doc:"A place inside it, m"`
	Y      float64           `json:"y"`
	Beside []int             `json:"beside"`
	Worked *calc.LaminateOut `json:"worked,omitempty"`
}

// FindingView is a broken rule with the items that it is about.
type FindingView struct {
	Rule   string `json:"rule"`
	Says   string `json:"says"`
	Items  []int  `json:"items" doc:"Among the labels: a stack of hundreds has findings about hundreds"`
	Zones  []int  `json:"zones" doc:"Among the zones listed; empty: in plan"`
	Waived string `json:"waived,omitempty" doc:"Who lets it stand, and why"`
}

// LabelView is what an item is called.
type LabelView struct {
	Key   string `json:"key"`
	Label string `json:"label"`
}

// shownZones is how many zones are listed.
const shownZones = 60

// shown is the master that is worked out: of a family, its first variant.
func (m MasterOf) shown() (MasterOf, error) {
	if !m.Doc.Family() {
		return m, nil
	}
	one, err := m.Doc.Of(m.Doc.Variants[0])
	if err != nil {
		return m, book.Invalidf("document", "%s", err)
	}
	m.Doc = one
	return m, nil
}

// Work asks the core about a master; nil for one without layers. changed are
// layers that a question turns over, drops or turns, before they are worked
// out.
func (m MasterOf) Work(change func([]master.Layer) []master.Layer) (*Worked, error) {
	m, err := m.shown()
	if err != nil {
		return nil, err
	}
	layers, err := m.Doc.Layers(m.materials)
	if err != nil {
		return nil, book.Invalidf("document", "%s", err)
	}
	if change != nil {
		layers = change(layers)
	}
	if len(layers) == 0 {
		return nil, nil
	}
	w := &Worked{Span: bowSpan, Delta: room - m.hottest(), Zones: []ZoneView{}, Findings: []FindingView{}}
	labels, at := m.Doc.Labels(), map[string]int{} // the place of each label
	for k, i := range m.Doc.Items() {
		w.Labels = append(w.Labels, LabelView{i.Key, labels[i.Key]})
		at[labels[i.Key]] = k
	}
	placed := master.Placed(layers)
	plan := m.plans.of(placed)
	// What needs the plan alone is looked at while it is cut into zones, and zones
	// know nothing of each other: each processor takes some.
	var all errgroup.Group
	var inPlan []wire.Finding
	all.Go(calmly(func() {
		inPlan = wire.FromFindings(append(m.Doc.Inspect(layers, plan, m.rules), m.Doc.Widths(layers, m.materials)...))
	}))
	defer func() { _ = all.Wait() }()
	zones, err := plan.Zones(placed)
	if err != nil {
		return nil, book.Invalidf("document", "%s", err)
	}
	trim, err := m.trim()
	if err != nil {
		return nil, book.Invalidf("document/trim", "%s", err)
	}
	mass, err := laminate.Weigh(placed, m.Doc.Lumps(), m.process.Bleed, trim)
	if err != nil {
		return nil, book.Invalidf("document", "%s", err)
	}
	w.Mass = mass.Laid
	w.Scale = ScaleView{mass.Laid, mass.Cured, mass.Trimmed, mass.Resin, mass.Lumps, mass.Centre.X, mass.Centre.Y}
	apart := map[string]bool{} // stages laid on what is cured already
	for _, s := range m.Doc.Stages {
		apart[s.Key] = s.Kind == "over-wrap" || s.Kind == "bond"
	}
	worked, found := make([]*calc.LaminateOut, len(zones)), make([][]wire.Finding, len(zones))
	workers := runtime.GOMAXPROCS(0) // asked once: it may change meanwhile
	for first := range workers {
		all.Go(calmly(func() {
			var stack []laminate.Ply // one for all: hundreds of plies are much to fetch for each zone
			for n := first; n < len(zones); n += workers {
				stack = zones[n].Stack(stack[:0], placed)
				if worked[n] = stacked(stack, w.Delta); worked[n] != nil {
					found[n] = wire.FromFindings(laminate.Inspect(together(zones[n], stack, layers, apart), m.rules))
				}
			}
		}))
	}
	if err := all.Wait(); err != nil {
		return nil, err
	}
	for n, z := range zones {
		w.Area += z.Area
		if w.Thickness == 0 && worked[n] != nil {
			w.Thickness = worked[n].Thickness
		}
		shown := []int{}
		if n < shownZones {
			shown = []int{n}
			w.Zones = append(w.Zones, zoneView(z, layers, worked[n]))
		} else {
			w.More++
		}
		for _, f := range found[n] {
			w.find(m, f, at, shown)
		}
	}
	for _, f := range inPlan {
		w.find(m, f, at, []int{})
	}
	return w, nil
}

// calmly makes a panic an error of its group: nobody else would catch it beside
// the request's own goroutine, and it would take the server with it.
func calmly(do func()) func() error {
	return func() (err error) {
		defer func() {
			if p := recover(); p != nil {
				err = fmt.Errorf("panic: %v\n%s", p, debug.Stack())
			}
		}()
		do()
		return nil
	}
}

func zoneView(z laminate.Zone, layers []master.Layer, worked *calc.LaminateOut) ZoneView {
	v := ZoneView{Items: make([]string, len(z.Plies)), Area: z.Area, X: z.At.X, Y: z.At.Y, Beside: []int{}, Worked: worked}
	names := make([]string, len(z.Plies))
	for i, k := range z.Plies {
		v.Items[i], names[i] = layers[k].Key, layers[k].Name
	}
	v.Says = layersSaid(names)
	for _, b := range z.Beside {
		if b < shownZones {
			v.Beside = append(v.Beside, b)
		}
	}
	return v
}

// together is the part of a zone's stack that cools together from one cure: the
// rules of a stack are not for what is laid over it later.
func together(z laminate.Zone, stack []laminate.Ply, layers []master.Layer, apart map[string]bool) []laminate.Ply {
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

// find adds a finding; the same one in several zones is told once.
func (w *Worked) find(m MasterOf, f wire.Finding, at map[string]int, zones []int) {
	k := slices.IndexFunc(w.Findings, func(v FindingView) bool { return v.Rule == f.Rule && v.Says == f.Says })
	if k >= 0 {
		w.Findings[k].Zones = append(w.Findings[k].Zones, zones...)
		return
	}
	v := FindingView{Rule: f.Rule, Says: f.Says, Items: make([]int, len(f.Plies)), Zones: zones}
	for i, label := range f.Plies {
		v.Items[i] = at[label]
	}
	for _, waiver := range m.waivers {
		if waiver.Rule == f.Rule && waiver.Says == f.Says {
			v.Waived = waiver.Reason
		}
	}
	w.Findings = append(w.Findings, v)
}

// layersSaid names layers shortly: runs of ply numbers, and the others.
func layersSaid(names []string) string {
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
