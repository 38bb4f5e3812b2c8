package demo

import (
	"context"
	"fmt"
	"math"
	"slices"
	"time"

	"juxta/core/master"
	"juxta/core/route"
	"juxta/core/unit"
	"juxta/shop"
	"juxta/shop/book"
	"juxta/shop/builds"
	"juxta/shop/curing"
	"juxta/shop/finish"
	"juxta/shop/parts"
	"juxta/shop/people"
	"juxta/shop/stock"
	"juxta/store"
)

// Works adds builds of the other parts to a loaded demo, each at a place of its own on its
// way: a shutter panel between its first skin and its core, a yoke arm whose pre-forms are
// laid and one with a pre-form too old to join, a vane that is out at the coater's and
// another that hangs in its tape before its run, a strut before the bond of its fittings and
// one whose adhesive hardens, a ring before its autoclave run, a petal on the bench, a pole
// in rework, a truss strut before its kit is counted.
func Works(ctx context.Context, db *store.DB, secrets Secrets, end time.Time) error {
	s := begin(ctx, db, secrets)
	s.now, s.places = end.Add(-12*day), 600
	s.known()
	all := try(s, func() ([]stock.MaterialView, error) { return s.shop.Materials(s.ctx) })
	ids := map[string]int64{}
	for _, m := range all {
		ids[m.Name] = m.ID
	}
	until := end.Add(300 * day)
	var rolls []stock.RollView
	for _, m := range []struct {
		name, lot string
		length    float64
	}{{"Sable UD 150", "SU-2310", 120}, {"Sable twill 200", "ST-0461", 90}, {"Frost glass 80", "FG-0112", 30}} {
		b, r := s.delivery(ids[m.name], m.lot, m.length, freezerTwo, "shelf 4", &until, -20)
		s.accepted(b)
		rolls = append(rolls, r)
	}
	// In the order in which they are cut: a roll's ledger goes forward.
	at := []string{
		"cutter",
		"bench 1",
		"bench 2",
		"bench 3",
		"oven 1",
		"press",
		"saw and drill",
		"bonding bench",
		"finishing bench",
	}
	try(s, func() (book.ShopSettingsView, error) {
		return s.shop.ChangeShopSettings(s.ctx, s.who[wren], book.ShopSettingsIn{
			Settings: book.ShopSettings{Places: at}, Reason: "the places that we have",
		})
	})
	yokes := s.oldYoke(end, ids["Frost glass 80"], rolls[2])
	vanes := s.vane(end, rolls)
	s.pole(end, rolls)
	s.shutter(end, rolls)
	s.strut(end, rolls)
	s.bonded(end, rolls)
	s.taped(end, vanes, rolls)
	s.truss(end, rolls)
	s.petal(end, rolls)
	s.yoke(end, yokes, rolls)
	s.ring(end, ids["Sable UD 200 K"])
	s.at(end.Add(-9 * time.Hour))
	try(s, func() (shop.Handover, error) {
		return s.shop.HandOver(s.ctx, s.who[brandl], shop.NewHandover{
			Text: "SP-11 0002: a corner of ply 6 wanted to bridge, warmed and pressed twice. Look again before the " +
				"debulk.",
		})
	})
	s.at(end)
	if s.err != nil {
		return fmt.Errorf("load the demo's builds: %w", s.err)
	}
	return nil
}

// known are the people of a shop that is loaded.
func (s *script) known() {
	for _, v := range try(s, func() ([]people.PersonView, error) { return s.shop.People(s.ctx) }) {
		p := try(s, func() (*book.Person, error) { return s.shop.PersonByID(s.ctx, v.ID) })
		s.who[v.Name] = book.By{Person: p}
	}
}

// master is the newest revision of a part.
func (s *script) master(number string) parts.RevisionView {
	for _, p := range try(s, func() ([]parts.PartLine, error) { return s.shop.Parts(s.ctx) }) {
		if p.Number == number {
			return try(s, func() (parts.RevisionView, error) { return s.shop.Revision(s.ctx, p.Code, "") })
		}
	}
	if s.err == nil {
		s.err = fmt.Errorf("no part %s in the demo", number)
	}
	return parts.RevisionView{}
}

// released has a draft changed and released.
func (s *script) released(number string, change func(d *master.Document)) parts.RevisionView {
	v := s.master(number)
	if s.err != nil || v.State == "released" {
		return v
	}
	doc := v.Document
	change(&doc)
	v = try(s, func() (parts.RevisionView, error) {
		return s.shop.ChangeDraft(
			s.ctx,
			s.who[orde],
			v.Part.Code,
			parts.DraftChange{Version: v.Version, Document: &doc},
		)
	})
	return s.release(v)
}

// buildOnRoute is a build on its route, as the script builds it.
type buildOnRoute struct {
	*script
	code string
}

// startBuild starts a build and has all of its plies cut.
func (s *script) startBuild(
	from time.Time,
	v parts.RevisionView,
	serial string,
	cureAt time.Time,
	rolls ...stock.RollView,
) buildOnRoute {
	w := s.begun(from, v, serial, cureAt)
	w.cutting("", rolls...)
	return w
}

// begun starts a build.
func (s *script) begun(from time.Time, v parts.RevisionView, serial string, cureAt time.Time) buildOnRoute {
	s.at(from)
	b := try(s, func() (builds.BuildLine, error) {
		return s.shop.StartBuild(s.ctx, s.who[orde], v.Part.Code, builds.NewBuild{Serial: serial, CureAt: cureAt})
	})
	if s.err != nil {
		s.err = fmt.Errorf("%s · %s: %w", v.Part.Number, serial, s.err)
	}
	return buildOnRoute{s, b.Code}
}

// cutting cuts the plies of one operation, or all.
func (w buildOnRoute) cutting(operation string, rolls ...stock.RollView) {
	of := w.code
	if operation != "" {
		of += " " + operation
	}
	if w.err == nil {
		w.cut([]string{of}, rolls...)
	}
	if w.err != nil {
		w.err = fmt.Errorf("cut %s: %w", of, w.err)
	}
}

// ready is the first operation that can be gone on with, of some kinds.
func (w buildOnRoute) ready(kinds ...route.Kind) (finish.WorkStep, bool) {
	v := try(w.script, func() (finish.WorkView, error) { return w.shop.Work(w.ctx, w.code) })
	for _, o := range v.Operations {
		if (o.State == "ready" || o.State == "in work") && slices.Contains(kinds, route.Kind(o.Kind)) {
			return o, true
		}
	}
	return finish.WorkStep{}, false
}

// until walks the build until an operation is done, each in its own time.
func (w buildOnRoute) until(key string) buildOnRoute {
	kinds := slices.DeleteFunc(route.Kinds(), func(k route.Kind) bool { return k == route.Releasing })
	for w.err == nil {
		o, there := w.ready(kinds...)
		if !there {
			w.err = fmt.Errorf("%s of %s is never reached", key, w.code)
			return w
		}
		w.do(o)
		if o.Operation == key {
			return w
		}
	}
	return w
}

// do does one operation.
func (w buildOnRoute) do(o finish.WorkStep) {
	w.wait(20 * time.Minute)
	switch kind := route.Kind(o.Kind); {
	case kind == route.Kitting:
		w.kit(o.Operation)
	case kind == route.Laying && !o.Single:
		w.bench(o.Operation)
	case kind == route.Closing:
		w.close(o)
	case o.Room == string(route.Cure) && !o.Single:
		run := try(w.script, func() (curing.RunLine, error) {
			return w.shop.StartRun(w.ctx, w.who[falk], []curing.OvenLoad{{Build: w.code, Operation: o.Operation}})
		})
		if w.err == nil {
			w.err = w.cure(run.Code)
		}
	default:
		w.sign(o)
	}
}

func (w buildOnRoute) kit(operation string) {
	kit := try(w.script, func() (builds.KitView, error) { return w.shop.Kit(w.ctx, w.code, operation) })
	for _, p := range kit.Plies {
		w.wait(8 * time.Second)
		if len(p.Cut) == 0 {
			w.err = fmt.Errorf("ply %d of %s is not cut", p.Number, w.code)
			return
		}
		try(w.script, func() (builds.KitView, error) {
			return w.shop.CountPly(w.ctx, w.who[brandl], w.code, p.Cut[0].Code)
		})
	}
	for _, i := range kit.Items {
		w.wait(20 * time.Second)
		try(w.script, func() (builds.KitView, error) {
			return w.shop.CountItemOf(w.ctx, w.who[brandl], w.code, operation, builds.CountItem{Item: i.Key})
		})
	}
	try(w.script, func() (builds.KitView, error) {
		return w.shop.CloseKit(w.ctx, w.who[brandl], w.code, operation, "")
	})
}

// bench lays all plies of an operation, with its debulks, second looks and hold points.
func (w buildOnRoute) bench(operation string) { w.lays(operation, falk, math.MaxInt) }

// lays has somebody lay so many plies of an operation.
func (w buildOnRoute) lays(operation, who string, plies int) {
	for w.err == nil {
		v := try(w.script, func() (builds.LayupView, error) { return w.shop.Layup(w.ctx, w.code, operation) })
		switch {
		case v.Next == nil:
			return
		case v.Next.Debulk:
			try(w.script, func() (builds.LayupView, error) {
				return w.shop.StartDebulk(w.ctx, w.who[falk], w.code, operation)
			})
			w.wait(16 * time.Minute)
			end := builds.DebulkEnd{Vacuum: 88.4e3}
			try(w.script, func() (builds.LayupView, error) {
				return w.shop.EndDebulk(w.ctx, w.who[falk], w.code, operation, end)
			})
		case v.Next.Demand != "":
			meet := builds.MeetDemand{Kind: v.Next.Demand, Key: v.Next.Key}
			if meet.Kind == "second" {
				meet.PersonID, meet.PIN = w.who[quist].Person.ID, w.pin
			}
			try(w.script, func() (builds.LayupView, error) { return w.shop.Meet(w.ctx, w.who[falk], w.code, meet) })
		default:
			if plies--; plies < 0 {
				return
			}
			w.wait(6 * time.Minute)
			films := 0
			for _, p := range v.Plies {
				if p.Number == v.Next.Ply {
					films = p.Films
				}
			}
			try(w.script, func() (builds.SignResult, error) {
				return w.shop.Sign(w.ctx, w.who[who], w.code, builds.SignPly{
					Ply: v.Next.Ply, CutPly: v.NextCut, How: "scanned", FilmsOff: films,
				})
			})
		}
	}
}

func (w buildOnRoute) close(o finish.WorkStep) {
	stack := "no bleed"
	switch o.Label {
	case "Tape wound":
		stack = "tape"
	case "Bladder in, tool closed":
		stack = "mould and bladder"
	}
	v := try(w.script, func() (builds.BagView, error) {
		return w.shop.CloseBag(w.ctx, w.who[falk], w.code, o.Operation, stack)
	})
	if v.Vacuum {
		w.wait(15 * time.Minute)
		tight := builds.NewLeakCheck{Start: 90.2e3, End: 89.1e3, Seconds: 300}
		try(w.script, func() (builds.BagView, error) {
			return w.shop.CheckLeak(w.ctx, w.who[falk], w.code, o.Operation, tight)
		})
	}
}

// sign signs an operation with what it asks, as it would be found.
func (w buildOnRoute) sign(o finish.WorkStep) {
	in := finish.SignStep{Operation: o.Operation, Fields: map[string]master.Value{}}
	for _, f := range o.Planned.Fields {
		switch f.Kind {
		case "value":
			v := (*f.Least + *f.Most) / 2
			in.Fields[f.Key] = master.Value{Number: &v}
		case "choice":
			in.Fields[f.Key] = master.Value{Text: f.Choices[0]}
		}
	}
	if o.Planned.Below > 0 {
		in.Part = number(unit.Kelvin(38))
		w.wait(5 * time.Hour)
	}
	for _, f := range o.Forms {
		in.Labels = append(in.Labels, f.Code)
	}
	try(w.script, func() (finish.WorkView, error) {
		return w.shop.SignStepDone(w.ctx, w.who[falk], w.code, in)
	})
}

// shutter stands between its first skin, which is cured, and its core.
func (s *script) shutter(end time.Time, rolls []stock.RollView) {
	s.at(end.Add(-5 * day))
	v := s.master("SP-26")
	try(s, func() (parts.RevisionView, error) { return s.shop.NewRevision(s.ctx, s.who[orde], v.Part.Code) })
	// Shorter, and of fabric alone: no roll is wide enough for the first one's plies.
	v = s.released("SP-26", func(d *master.Document) {
		fabric := d.Stages[0].Items[0].MaterialID
		for _, stage := range d.Stages {
			for k, i := range stage.Items {
				if i.Kind == master.Insert && i.X > 0.7 {
					stage.Items[k].X = 0.7
				}
				if i.Kind == master.Ply && i.MaterialID != fabric {
					stage.Items[k].MaterialID, stage.Items[k].AngleDeg, stage.Items[k].FaceUp = fabric, 0,
						stage.Key != "s1"
				}
			}
		}
		for k, o := range d.Outlines {
			switch o.Name {
			case "full":
				d.Outlines[k].Dims = map[string]float64{"length": 0.8, "width": 0.57}
			case "core":
				d.Outlines[k].Dims = map[string]float64{"length": 0.74, "width": 0.51}
			case "net":
				d.Outlines[k].Points = []master.Corner{
					{X: 0.01, Y: 0.01}, {X: 0.79, Y: 0.01}, {X: 0.79, Y: 0.56}, {X: 0.01, Y: 0.56},
				}
			}
		}
	})
	w := s.startBuild(end.Add(-4*day), v, "0001", end.Add(-2*day), rolls[1])
	w.until("cure s1")
	for o, there := w.ready(route.Kitting); there; o, there = w.ready(route.Kitting) {
		w.do(o)
	}
}

// vane is out at the coater's.
func (s *script) vane(end time.Time, rolls []stock.RollView) parts.RevisionView {
	s.at(end.Add(-9 * day))
	v := s.released("SP-23", func(d *master.Document) {
		k := slices.IndexFunc(d.Route, func(o master.Operation) bool { return o.Kind == "inspect" })
		d.Route = slices.Insert(d.Route, k, master.Operation{
			Key: "coat outside", Kind: "outside", Name: "Coated black at the coater’s", Place: "coater in the valley",
			After: d.Route[k].After, Attended: 1800, Unattended: 5 * 86400,
			Fields: []master.Field{{Key: "paper", Name: "certificate of the coating", Kind: "paper", Free: true}},
		})
		d.Route[k+1].After = []string{"coat outside"}
	})
	w := s.startBuild(end.Add(-6*day), v, "0001", end.Add(-5*day), rolls[0]).until("trim")
	due := end.Add(26 * time.Hour)
	s.at(end.Add(-3 * day))
	try(s, func() (finish.WorkView, error) {
		return s.shop.StartStep(s.ctx, s.who[brandl], w.code, finish.Step{Operation: "coat outside", Due: &due})
	})
	return v
}

// taped is a second vane, which hangs in its tape and waits for the oven.
func (s *script) taped(end time.Time, v parts.RevisionView, rolls []stock.RollView) {
	s.startBuild(end.Add(-50*time.Hour), v, "0002", end.Add(3*time.Hour), rolls[0]).until("close")
}

// strut is cut to length; its fittings are to be bonded next. The revision isolates the
// metal, which its draft forgot.
func (s *script) strut(end time.Time, rolls []stock.RollView) {
	s.at(end.Add(-6 * day))
	draft := s.master("SP-28")
	if s.err != nil {
		return
	}
	// The draft with its fault stays what it is: the strut that is built is another part.
	doc := draft.Document
	doc.Stages = slices.Clone(doc.Stages)
	doc.Stages[1].Items = slices.DeleteFunc(
		slices.Clone(doc.Stages[1].Items),
		func(i master.Item) bool { return i.Metal },
	)
	doc.Route = slices.Clone(doc.Route)
	for k, o := range doc.Route {
		if o.Kind == string(route.Bonding) {
			doc.Route[k].Adherends = []string{"end fitting, glass-filled, bought"}
		}
	}
	process := draft.Process
	process.Qualifications = nil // its bond alone asks for one
	s.enter("SP-29", "Bonded strut, fittings of glass", doc, process, true)
	s.startBuild(end.Add(-3*day), s.master("SP-29"), "0001", end.Add(-day), rolls[0]).until("trim")
}

// bonded is a second strut, whose adhesive hardens: its over-wrap is next.
func (s *script) bonded(end time.Time, rolls []stock.RollView) {
	s.at(end.Add(-2 * day))
	again := people.NewQualification{
		Kind: "bonding", ValidFrom: s.now, ValidUntil: end.Add(360 * day), Evidence: "course B1 again, paper 140",
	}
	try(s, func() (people.QualificationView, error) {
		return s.shop.Qualify(s.ctx, s.who[wren], s.who[brandl].Person.ID, again)
	})
	w := s.startBuild(end.Add(-61*time.Hour), s.master("SP-29"), "0002", end.Add(-26*time.Hour), rolls[0]).until("trim")
	o, there := w.ready(route.Bonding)
	if !there && s.err == nil {
		s.err = fmt.Errorf("the bond of %s is not ready", w.code)
	}
	s.at(end.Add(-70 * time.Minute))
	try(s, func() (finish.WorkView, error) {
		return s.shop.StartStep(s.ctx, s.who[brandl], w.code, finish.Step{Operation: o.Operation})
	})
}
