package demo

import (
	"math"
	"slices"
	"time"

	"juxta/core/cure"
	"juxta/core/master"
	"juxta/core/route"
	"juxta/core/unit"
	"juxta/shop/builds"
	"juxta/shop/finish"
	"juxta/shop/parts"
	"juxta/shop/stock"
)

// The yoke arm is joined of three pre-forms, laid by two people, and pressed warm in its
// closed tool before the cure.
func (s *script) yokes(end time.Time, glass int64) parts.RevisionView {
	s.at(end.Add(-11 * day))
	return s.released("SP-27", func(d *master.Document) {
		twill := d.Stages[0].Items[0].MaterialID
		for _, stage := range d.Stages {
			for k, i := range stage.Items {
				if math.Abs(i.AngleDeg) == 45 && i.MaterialID != twill {
					stage.Items[k].AngleDeg = i.AngleDeg / 1.5 // or no roll is wide enough
				}
			}
		}
		for n, form := range []struct {
			key, name string
			material  int64
		}{{"web", "Inner web", glass}, {"tip", "Tip", twill}} {
			stage := master.Stage{Key: form.key, Name: form.name, Kind: "pre-form"}
			for _, ply := range []string{"a", "b", "c"} {
				stage.Items = append(stage.Items, master.Item{
					Key: form.key + ply, Kind: master.Ply, MaterialID: form.material, Outline: "web",
					FaceUp: ply == "c",
				})
			}
			d.Stages = slices.Insert(d.Stages, 1+n, stage)
		}
		d.Outlines = append(d.Outlines, stands(box("web", 0.32, 0.12), "the developed web"))
		k := &sketch{Document: *d}
		made := k.made("hollow part")
		for n, o := range made.Route {
			if o.Kind == string(route.Debulking) {
				made.Route[n].Heat = &master.Heat{
					Recipe: cure.Recipe{Name: "warm debulk, 60 °C", Start: unit.Kelvin(21), Tolerance: 5,
						Segments: []cure.Segment{{Target: unit.Kelvin(60), Rate: 2.0 / 60, Hold: 1200}}},
					Limits: master.RunLimits{SoakBelow: 6, MaxPart: unit.Kelvin(70), MaxRamp: 4.0 / 60, MaxGap: 300},
				}
			}
			if o.Kind == string(route.Closing) {
				made.Route[n].Closing = &master.Closing{Stack: "mould and bladder"}
			}
		}
		*d = made
	})
}

// named is the first operation that is called something.
func (w buildOnRoute) named(says string) finish.WorkStep {
	v := try(w.script, func() (finish.WorkView, error) { return w.shop.Work(w.ctx, w.code) })
	for _, o := range v.Operations {
		if o.Label == says {
			return o
		}
	}
	return finish.WorkStep{}
}

// oldYoke has one pre-form laid, ten days ago.
func (s *script) oldYoke(end time.Time, glass int64, roll stock.RollView) buildOnRoute {
	v := s.yokes(end, glass)
	w := s.begun(end.Add(-10*day-9*time.Hour), v, "0002", end.Add(-7*day))
	w.cutting(w.named("Cut Inner web").Operation, roll)
	w.kit(w.named("Kit Inner web").Operation)
	w.lays(w.named("Lay up Inner web").Operation, brandl, math.MaxInt)
	return w
}

// forms counts and lays pre-forms, each by somebody, and counts what closes the joint.
func (w buildOnRoute) forms(by [][2]string) {
	for _, form := range by {
		w.wait(10 * time.Minute)
		w.kit(w.named("Kit " + form[0]).Operation)
		w.lays(w.named("Lay up "+form[0]).Operation, form[1], math.MaxInt)
	}
	w.kit(w.named("Kit Upper half, over the bladder").Operation)
}

// yoke has its three pre-forms laid, by two people; what closes the joint is not begun. The
// other one stands at its join, where its oldest pre-form is too old.
func (s *script) yoke(end time.Time, old buildOnRoute, rolls []stock.RollView) {
	w := s.begun(end.Add(-17*time.Hour), s.master("SP-27"), "0001", end.Add(9*time.Hour))
	if s.err == nil {
		s.cut([]string{w.code, old.code}, rolls...)
	}
	w.forms([][2]string{{"Lower half", falk}, {"Inner web", brandl}, {"Tip", brandl}})
	old.forms([][2]string{{"Lower half", falk}, {"Tip", falk}})
	old.do(old.named("Prepare tool"))
}

// pole is in rework: quality lets its surface be filled before it is looked at again.
func (s *script) pole(end time.Time, rolls []stock.RollView) {
	s.at(end.Add(-6 * day))
	v := s.master("SP-22")
	w := s.startBuild(end.Add(-5*day), v, "0001", end.Add(-4*day), rolls[0]).until("trim")
	s.at(end.Add(-26 * time.Hour))
	in := finish.NewRework{
		Kind: "sand", Name: "Pores filled and sanded", After: []string{"trim"}, Before: []string{"inspect"},
		Note:   "Fill with the paste, sand through 400 when it is hard.",
		Reason: "pores along one edge, 0.2 mm deep, no fibre open",
		PIN:    s.pin, SecondID: s.who[brandl].Person.ID, SecondPIN: s.pin,
	}
	try(s, func() (finish.WorkView, error) { return s.shop.AddRework(s.ctx, s.who[quist], w.code, in) })
}

// truss is a variant of the strut's family, cut and not counted yet.
func (s *script) truss(end time.Time, rolls []stock.RollView) {
	s.at(end.Add(-41 * time.Hour))
	v := s.released("SP-21-600", func(*master.Document) {})
	s.startBuild(end.Add(-40*time.Hour), v, "0001", end.Add(20*time.Hour), rolls[0])
}

// petal is on the bench, three plies laid; the next revision is a draft already.
func (s *script) petal(end time.Time, rolls []stock.RollView) {
	s.at(end.Add(-26 * time.Hour))
	v := s.released("SP-25", func(d *master.Document) {
		for k, o := range d.Outlines {
			if o.Name == "shell" {
				// Narrower, for a roll of 600 mm.
				d.Outlines[k].Dims = map[string]float64{"inner": 0.12, "outer": 0.5, "angle": 44}
			}
		}
	})
	w := s.startBuild(end.Add(-29*time.Hour), v, "0001", end.Add(7*time.Hour), rolls...)
	for _, says := range []string{"Kit", "Prepare tool"} {
		w.do(w.named(says))
	}
	s.at(end.Add(-2 * time.Hour))
	w.lays("lay", falk, 3)
	try(s, func() (parts.RevisionView, error) { return s.shop.NewRevision(s.ctx, s.who[orde], v.Part.Code) })
}

// ring is bagged and tight, and waits for the autoclave.
func (s *script) ring(end time.Time, material int64) {
	s.at(end.Add(-4 * day))
	v := s.master("SP-24")
	try(s, func() (parts.RevisionView, error) { return s.shop.NewRevision(s.ctx, s.who[orde], v.Part.Code) })
	// A trial segment of sixteen plies: the whole one takes a day to lay.
	v = s.released("SP-24", func(d *master.Document) {
		items := d.Stages[0].Items
		d.Stages[0].Items = slices.Concat(items[:8], items[len(items)-8:])
	})
	cold, until := unit.Kelvin(-20), end.Add(300*day)
	batch := try(s, func() (stock.BatchView, error) {
		return s.shop.ReceiveBatch(s.ctx, s.who[brandl], stock.NewBatch{
			MaterialID: material, Lot: "SK-0071", ArrivalTemp: &cold, ShelfEnd: &until, FreezerID: freezerTwo,
			Place: "shelf 5",
			Rolls: []stock.NewRoll{{Length: 40, Width: 1.2}},
		})
	})
	if s.err != nil {
		return
	}
	s.accepted(batch)
	roll := try(s, func() (stock.RollDetail, error) { return s.shop.Roll(s.ctx, batch.Rolls[0].Code) })
	w := s.startBuild(end.Add(-22*time.Hour), v, "0001", end.Add(26*time.Hour), roll.RollView)
	w.kit("")
	w.bench("")
	s.at(end.Add(-5 * time.Hour))
	try(s, func() (builds.BagView, error) { return s.shop.CloseBag(s.ctx, s.who[falk], w.code, "", "no bleed") })
	w.wait(20 * time.Minute)
	tight := builds.NewLeakCheck{Start: 90.4e3, End: 89.6e3, Seconds: 300}
	try(s, func() (builds.BagView, error) { return s.shop.CheckLeak(s.ctx, s.who[falk], w.code, "", tight) })
}
