package parts

import (
	"context"
	"maps"
	"slices"
	"time"

	"gorm.io/gorm"

	"juxta/core/bag"
	"juxta/core/master"
	"juxta/core/route"
	"juxta/shop/book"
)

// RouteQuestion is what somebody wants to know of a route while they write it.
type RouteQuestion struct {
	Document *master.Document `json:"document,omitempty" doc:"As it stands on the page; missing: as kept"`
	Letter   string           `json:"letter,omitempty"`
	Template string           `json:"template,omitempty" doc:"Key of a route template: also its operations"`
}

// RouteReply is what the core makes of a route.
type RouteReply struct {
	Faults     []master.Fault      `json:"faults" doc:"Of the route"`
	OnePass    bool                `json:"onePass" doc:"The document has no route: it is read as one pass"`
	Planned    []master.Operation  `json:"planned" doc:"The route; of a document without one, the one pass"`
	Labels     map[string]string   `json:"labels" doc:"What operations are called, by their key"`
	Operations []OperationView     `json:"operations" doc:"None before what it waits for; empty while that cannot be said"`
	Findings   []RouteFinding      `json:"findings"`
	Longest    float64             `json:"longest" doc:"Work and waiting on the critical path, s"`
	Work       float64             `json:"work" doc:"Of all operations, with somebody at them, s"`
	Templates  []RouteTemplateView `json:"templates"`
	Stacks     []StackView         `json:"stacks" doc:"That a part may be closed with"`
	Places     []string            `json:"places,omitempty" doc:"Of the shop, to choose from; empty: any"`
	Made       []master.Operation  `json:"made,omitempty" doc:"What the template makes of the stages"`
}

// OperationView is an operation as it stands in the order of the route.
type OperationView struct {
	Key     string   `json:"key"`
	Number  int      `json:"number"`
	Label   string   `json:"label" doc:"What it is called"`
	Short   string   `json:"short" doc:"And where its stage is seen: without it"`
	Room    string   `json:"room" doc:"Where it is done" enum:"cut,kits,layup,bag,cure,finish,release"`
	Waits   []string `json:"waits" doc:"What it waits for, in words"`
	Start   float64  `json:"start" doc:"From the beginning of the build at the earliest, s"`
	End     float64  `json:"end"`
	Longest bool     `json:"longest" doc:"On the critical path: what it loses, the build loses"`
}

// RouteFinding is what a planner should look at.
type RouteFinding struct {
	Rule    string `json:"rule"`
	Key     string `json:"key" doc:"Of an operation or a stage; empty: the whole route"`
	Message string `json:"message"`
}

// StackView is what a part may be closed with.
type StackView struct {
	Name   string `json:"name"`
	Vacuum bool   `json:"vacuum" doc:"It is drawn down, so it is checked for leaks"`
}

// RouteTemplateView is a route template with its explanation.
type RouteTemplateView struct {
	Key     string `json:"key"`
	Name    string `json:"name"`
	Why     string `json:"why" doc:"Why this order"`
	Differs string `json:"differs" doc:"Where shops differ"`
	Life    string `json:"life" doc:"What it asks of the material's life"`
	Not     string `json:"not,omitempty" doc:"Why the master's stages cannot be made so"`
}

// RouteChange is a line of a difference of routes.
type RouteChange struct {
	Was    *master.Operation `json:"was,omitempty"`
	Is     *master.Operation `json:"is,omitempty"`
	Fields []string          `json:"fields" doc:"That differ"`
}

// Route answers a question about a part's route, kept or as it stands on a page. It
// stores nothing.
func (s *Room) Route(ctx context.Context, partCode string, q RouteQuestion) (RouteReply, error) {
	return book.View(ctx, s.Book, func(db *gorm.DB) (RouteReply, error) {
		m, _, err := s.asked(db, partCode, q.Letter, q.Document)
		if err != nil {
			return RouteReply{}, err
		}
		out := RouteOf(m.Doc)
		out.Faults = append(out.Faults, m.Doc.SettingFaults(s.Altitude)...)
		shop, err := book.ShopSettingsOf(db)
		if err != nil {
			return out, err
		}
		out.Places = shop.Settings.Places
		for _, f := range m.Doc.PlaceFindings(out.Places) {
			out.Findings = append(out.Findings, RouteFinding(f))
		}
		if q.Template == "" {
			return out, nil
		}
		way, known := route.FindTemplate(q.Template)
		if !known {
			return out, book.NotHere.At("template", "there is no route template %q", q.Template)
		}
		if not := way.Fits(m.Doc.RouteStages()); not != "" {
			return out, book.Wrong.At("template", "%s: %s", way.Name, not)
		}
		out.Made = m.Doc.Made(way)
		return out, nil
	})
}

// RouteOf is the route of a document, ordered, timed and held against what such work asks.
func RouteOf(doc master.Document) RouteReply {
	out := RouteReply{
		Faults: doc.RouteFaults(), Operations: []OperationView{}, Findings: []RouteFinding{},
		Templates: []RouteTemplateView{},
		Planned:   doc.Operations(), OnePass: len(doc.Route) == 0,
	}
	if out.Planned == nil {
		out.Planned = []master.Operation{}
	}
	for _, name := range slices.Sorted(maps.Keys(bag.Stacks)) {
		out.Stacks = append(out.Stacks, StackView{name, bag.Vacuum(name)})
	}
	stages := doc.RouteStages()
	out.Labels = map[string]string{}
	for _, o := range out.Planned {
		out.Labels[o.Key] = o.Core().Label(stages)
	}
	for _, w := range route.Templates {
		out.Templates = append(out.Templates, RouteTemplateView{
			Key: w.Key, Name: w.Name, Why: w.Why, Differs: w.Differs, Life: w.Life, Not: w.Fits(stages),
		})
	}
	r, _ := doc.Ordered()
	if r == nil {
		return out
	}
	begins := time.Unix(0, 0)
	times, end := r.Plan(begins, time.Time{}, nil, nil)
	out.Longest = end.Sub(begins).Seconds()
	stand := r.Statuses(nil)
	for n, k := range r.Order() {
		o := r.Operations[k]
		v := OperationView{
			Key: o.Key, Number: n + 1, Label: o.Label(stages), Short: o.Label(nil), Room: string(o.Room()),
			Waits: stand[k].Reasons,
			Start: times[k].Start.Sub(begins).Seconds(),
			End:   times[k].End.Sub(begins).Seconds(), Longest: times[k].Longest,
		}
		if v.Waits == nil {
			v.Waits = []string{}
		}
		out.Operations = append(out.Operations, v)
		out.Work += (o.SetUp + o.Attended).Seconds()
	}
	for _, f := range append(r.Check(), doc.OperationFindings()...) {
		out.Findings = append(out.Findings, RouteFinding(f))
	}
	return out
}

func routeDifference(before, after master.Document) []RouteChange {
	out := []RouteChange{}
	for _, c := range master.RouteDifference(before, after) {
		v := RouteChange{Was: c.Was, Is: c.Is, Fields: c.Fields}
		if v.Fields == nil {
			v.Fields = []string{}
		}
		out = append(out, v)
	}
	return out
}
