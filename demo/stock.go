package demo

import (
	"context"
	"time"

	"juxta/core/cure"
	"juxta/core/geom"
	"juxta/core/nest"
	"juxta/core/unit"
	"juxta/device/sim"
	"juxta/shop"
	"juxta/shop/book"
	"juxta/shop/climate"
	"juxta/shop/people"
	"juxta/shop/recipes"
	"juxta/shop/stock"
)

const day = 24 * time.Hour

func (s *script) people(password string) {
	for _, p := range [][2]string{
		{falk, "technician"}, {brandl, "technician"}, {orde, "planner"}, {quist, "quality"}, {wren, "administrator"},
		{solm, "viewer"}, {vold, "planner"},
	} {
		in := people.NewPerson{Name: p[0], Role: p[1], PIN: s.pin, Password: password}
		view := try(s, func() (people.PersonView, error) { return s.shop.AddPerson(s.ctx, book.By{}, in) })
		person := try(s, func() (*book.Person, error) { return s.shop.PersonByID(s.ctx, view.ID) })
		s.who[p[0]] = book.By{Person: person}
	}
}

// qualifications of the demo's people; one of them ends soon, one has ended.
func (s *script) qualifications(end time.Time) {
	for _, q := range []struct {
		who, kind, evidence string
		until               time.Duration
	}{
		{falk, "laminating", "course L2, paper 118", 410 * day}, {falk, "bagging", "course L2, paper 118", 410 * day},
		{falk, "oven", "trained on the oven by A. Wren", 300 * day},
		{brandl, "laminating", "course L2, paper 131", 19 * day}, {brandl, "bonding", "course B1, paper 92", -4 * day},
		{quist, "inspection", "course Q3, paper 77", 520 * day},
	} {
		in := people.NewQualification{
			Kind:       q.kind,
			ValidFrom:  s.now,
			ValidUntil: end.Add(q.until),
			Evidence:   q.evidence,
		}
		try(s, func() (people.QualificationView, error) {
			return s.shop.Qualify(s.ctx, s.who[wren], s.who[q.who].Person.ID, in)
		})
	}
}

// Ember is the demo's resin; its cycle, kinetics and viscosity are invented.
func Ember() recipes.ResinIn {
	return recipes.ResinIn{Name: "Ember 120", Alpha0: 0.02,
		Kinetics:  cure.Kinetics{Terms: []cure.Term{{A: 2.2e8, E: 85e3, M: 0, N: 1.2}}},
		Viscosity: &cure.Viscosity{Mu: 1.1e-9, U: 6.4e4, Gel: 0.55, A: 1.4, B: 0.8},

		ResinFacts: facts(-10, 135, 0.6, 400e3, 150),
		Recipe: cure.Recipe{
			Name:      "Ember 120, vacuum oven",
			Start:     unit.Kelvin(21),
			Tolerance: 5,
			Segments: []cure.Segment{
				{Target: unit.Kelvin(80), Rate: 1.5 / 60, Hold: 1800, WaitPart: unit.Kelvin(77)},
				{Target: unit.Kelvin(120), Rate: 1.5 / 60, Hold: 5400, WaitPart: unit.Kelvin(117)},
				{Target: unit.Kelvin(55), Rate: 2.0 / 60},
			},
		}}
}

// Sable are the demo's two prepregs; their figures are invented.
func Sable(resin int64) []stock.MaterialIn {
	return []stock.MaterialIn{sableUD(resin), sableTwill(resin)}
}

const skinCaution = "Resin sensitises skin: wear nitrile gloves, also to keep skin oil off the ply. The supplier's " +
	"safety data sheet rules."

// acceptance is what a prepreg is tested for when it comes, its fibre's areal mass in g/m².
func acceptance(least, most float64) []stock.AcceptanceLimit {
	return []stock.AcceptanceLimit{
		{What: "resin share", Unit: "%", Least: number(33), Most: number(39)},
		{What: "areal mass of the fibre", Unit: "g/m²", Least: number(least), Most: number(most)},
		{What: "flow", Unit: "%", Least: number(4), Most: number(14)},
	}
}

func sableUD(resin int64) stock.MaterialIn {
	return stock.MaterialIn{
		Name:      "Sable UD 150",
		Kind:      "unidirectional",
		ResinID:   resin,
		Width:     0.6,
		E1:        125e9,
		E2:        8.5e9,
		Nu12:      0.3,
		G12:       4.4e9,
		Alpha1:    0.1e-6,
		Alpha2:    30e-6,
		Thickness: 143e-6,
		ArealMass: 0.234,
		HalfTurn:  true,
		Films:     1,
		OutLife:   240 * 3600,
		TackLife:  192 * 3600,
		Sheet: stock.MaterialSheet{
			FibreMass:  0.15,
			ResinShare: 0.36,
			Fibre:      "carbon",
			XT:         1900e6,
			XC:         1100e6,
			YT:         48e6,
			YC:         190e6,
			S:          80e6,
			FilmDown:   "white paper",
			Widths:     []float64{0.3, 0.6, 1.2},
			BulkFactor: 1.15, ThicknessTolerance: 0.03, SteerRadius: 0.8,
			StorageMax: unit.Kelvin(-18),
			ShelfLife:  365 * 86400,
			CoreTube:   0.038,
			Caution:    skinCaution,
			Acceptance: acceptance(145, 155),
		},
	}
}

func sableTwill(resin int64) stock.MaterialIn {
	return stock.MaterialIn{
		Name:            "Sable twill 200",
		Kind:            "woven",
		ResinID:         resin,
		Width:           1.0,
		E1:              58e9,
		E2:              58e9,
		Nu12:            0.05,
		G12:             4e9,
		Alpha1:          3e-6,
		Alpha2:          3e-6,
		Thickness:       210e-6,
		ArealMass:       0.345,
		AsymmetricWeave: true,
		HalfTurn:        true,
		Films:           2,
		OutLife:         240 * 3600,
		TackLife:        192 * 3600,
		Sheet: stock.MaterialSheet{
			FibreMass:      0.2,
			ResinShare:     0.42,
			Fibre:          "carbon",
			FaceShift:      0.06,
			XT:             720e6,
			XC:             560e6,
			YT:             720e6,
			YC:             560e6,
			S:              95e6,
			Weave:          "2/2 twill",
			WarpEqualsWeft: true,
			FilmUp:         "blue film",
			FilmDown:       "white paper",
			Widths:         []float64{1.0, 1.27},
			BulkFactor:     1.2, ThicknessTolerance: 0.04, LockDeg: 42,
			StorageMax: unit.Kelvin(-18),
			ShelfLife:  365 * 86400,
			CoreTube:   0.038,
			Caution:    skinCaution,
			Acceptance: acceptance(194, 206),
		},
	}
}

// besides are the materials that the demo's panel does not use.
func besides(resin int64) []stock.MaterialIn {
	return []stock.MaterialIn{
		{
			Name:      "Ember film 250",
			Kind:      "film adhesive",
			ResinID:   resin,
			Width:     0.6,
			Thickness: 200e-6,
			ArealMass: 0.25,
			Films:     2,
			OutLife:   360 * 3600,
			Sheet: stock.MaterialSheet{
				FilmUp:     "blue film",
				FilmDown:   "white paper",
				StorageMax: unit.Kelvin(-18),
				ShelfLife:  270 * 86400,
				CoreTube:   0.038,
				BulkFactor: 1,
				Caution:    "Resin sensitises skin: wear nitrile gloves. The supplier's safety data sheet rules.",
			},
		},
		{Name: "Lattice 48 core, 4 mm", Kind: "core", Width: 1.2, Thickness: 4e-3, ArealMass: 0.192,
			Sheet: stock.MaterialSheet{
				Density:          48,
				Fibre:            "aramid",
				G13:              38e6,
				G23:              24e6,
				CompressionLimit: 240e3,
				Caution:          "Dust irritates: extraction and a mask when it is cut. Keep it dry.",
			}},
	}
}

// Materials enters the demo's resin and prepregs.
func Materials(ctx context.Context, s *shop.Shop, by book.By) ([]stock.MaterialView, error) {
	resin, err := s.SaveResin(ctx, by, 0, recipes.ResinChange{ResinIn: Ember()})
	if err != nil {
		return nil, err
	}
	var views []stock.MaterialView
	for _, in := range append(Sable(resin.ID), besides(resin.ID)...) {
		v, err := s.AddMaterial(ctx, by, in)
		if err != nil {
			return nil, err
		}
		views = append(views, v)
	}
	return views, nil
}

func (s *script) materials() map[string]int64 {
	views := try(s, func() ([]stock.MaterialView, error) { return Materials(s.ctx, s.shop, s.who[orde]) })
	ids := map[string]int64{}
	for _, v := range views {
		ids[v.Name] = v.ID
	}
	return ids
}

// Topics of the demo's sensors, which the simulated logger speaks on.
const (
	topicRoom  = "juxta/room"
	topicOne   = "juxta/freezer-1"
	topicTwo   = "juxta/freezer-2"
	freezerOne = 1
	freezerTwo = 2
)

func (s *script) freezers() {
	for _, f := range []stock.FreezerIn{
		{Name: "Freezer 1", LimitTemp: unit.Kelvin(-15), Places: []string{"shelf 1", "shelf 2", "shelf 3"}},
		{Name: "Freezer 2", LimitTemp: unit.Kelvin(-15), Places: []string{"shelf 1", "shelf 2", "shelf 3", "kit box"}},
	} {
		try(s, func() (stock.FreezerView, error) { return s.shop.SaveFreezer(s.ctx, s.who[wren], 0, f) })
	}
	for _, n := range []climate.SensorIn{
		{Topic: topicRoom, Name: "Clean room"}, {Topic: topicOne, Name: "Freezer 1", FreezerID: freezerOne},
		{Topic: topicTwo, Name: "Freezer 2", FreezerID: freezerTwo},
	} {
		try(s, func() (climate.SensorIn, error) { return s.shop.SaveSensor(s.ctx, s.who[wren], 0, n) })
	}
}

// thawed is how long the demo's people let a roll lie before they open it.
const thawed = 3 * time.Hour

func (s *script) take(rolls ...stock.RollView) {
	try(s, func() ([]stock.RollView, error) {
		return s.shop.TakeOut(s.ctx, s.who[brandl], stock.MoveRolls{Rolls: codes(rolls)})
	})
}

func (s *script) back(rolls ...stock.RollView) {
	try(s, func() ([]stock.RollView, error) {
		return s.shop.PutBack(s.ctx, s.who[brandl], stock.MoveRolls{Rolls: codes(rolls), Sealed: true})
	})
}

func codes(rolls []stock.RollView) []string {
	out := []string{}
	for _, r := range rolls {
		out = append(out, r.Code)
	}
	return out
}

// open opens a bag at the readings of a wall gauge.
func (s *script) open(r stock.RollView) {
	room, humidity, cold := unit.Kelvin(21.4), 0.44, unit.Kelvin(17.5)
	try(s, func() (stock.RollView, error) {
		return s.shop.Open(
			s.ctx,
			s.who[brandl],
			r.Code,
			stock.OpenBag{Room: &room, Humidity: &humidity, Coldest: &cold},
		)
	})
}

// delivery takes a batch of one roll in.
func (s *script) delivery(
	material int64,
	lot string,
	length float64,
	freezer int64,
	place string,
	until *time.Time,
	arrived float64,
	flaws ...nest.Flaw,
) (stock.BatchView, stock.RollView) {
	cold := unit.Kelvin(arrived)
	b := try(s, func() (stock.BatchView, error) {
		return s.shop.ReceiveBatch(
			s.ctx,
			s.who[brandl],
			stock.NewBatch{
				MaterialID:  material,
				Lot:         lot,
				ArrivalTemp: &cold,
				ShelfEnd:    until,
				FreezerID:   freezer,
				Place:       place,
				Rolls:       []stock.NewRoll{{Length: length, Flaws: flaws}},
			},
		)
	})
	if s.err != nil {
		return b, stock.RollView{}
	}
	d := try(s, func() (stock.RollDetail, error) { return s.shop.Roll(s.ctx, b.Rolls[0].Code) })
	return b, d.RollView
}

// accepted records the acceptance tests of a batch and signs it.
func (s *script) accepted(b stock.BatchView) {
	values := map[string]float64{"resin share": 35.8, "flow": 9.2}
	for _, t := range b.Tests {
		v, known := values[t.What]
		if !known {
			v = (*t.Least + *t.Most) / 2
		}
		s.wait(11 * time.Minute)
		try(s, func() (stock.BatchView, error) {
			return s.shop.RecordTest(s.ctx, s.who[brandl], b.Code, stock.TestValue{Test: t.ID, Value: v})
		})
	}
	s.wait(20 * time.Minute)
	try(s, func() (stock.BatchView, error) {
		return s.shop.DecideBatch(
			s.ctx,
			s.who[quist],
			b.Code,
			stock.BatchDecision{Do: "accept", Reason: "certificate and tests in order", PIN: s.pin},
		)
	})
}

// rolls receives the four rolls that the panel is cut from and gives them a
// past.
func (s *script) rolls(end time.Time, goods map[string]int64) []stock.RollView {
	shelf := func(d time.Duration) *time.Time { t := end.Add(d); return &t }
	receive := func(
		material, lot string, length float64, freezer int64, place string, until *time.Time, flaws ...nest.Flaw,
	) stock.RollView {
		b, r := s.delivery(goods[material], lot, length, freezer, place, until, -21, flaws...)
		s.accepted(b)
		return r
	}
	stay := func(r stock.RollView, from time.Time, d time.Duration) {
		s.at(from)
		s.take(r)
		s.wait(d)
		s.back(r)
	}
	old := receive(
		"Sable UD 150",
		"SU-2207",
		62,
		freezerOne,
		"shelf 2",
		shelf(96*day),
		nest.Flaw{From: 0.62, To: 0.7, Note: "gap between tows"},
		nest.Flaw{From: 31.4, To: 31.5, Kind: "splice"},
	)
	worn := receive("Sable twill 200", "ST-0418", 35, freezerOne, "shelf 1", shelf(60*day))
	for k := range 6 {
		stay(old, end.Add(-time.Duration(40-5*k)*day), 11*time.Hour)
		stay(worn, end.Add(-time.Duration(39-5*k)*day), 36*time.Hour)
	}
	s.at(end.Add(-9 * day))
	fresh := receive("Sable UD 150", "SU-2291", 80, freezerTwo, "shelf 1", shelf(340*day))
	mid := receive("Sable twill 200", "ST-0455", 48, freezerTwo, "shelf 3", shelf(200*day))
	stay(mid, end.Add(-8*day), 30*time.Hour)
	return []stock.RollView{old, fresh, mid, worn}
}

// lateStock is what came and what became of it beside the panel: a film that
// is accepted, a delivery that waits for its tests, one that came too warm,
// core, and an off-cut.
func (s *script) lateStock(end time.Time, goods map[string]int64, rolls []stock.RollView) {
	shelf := func(d time.Duration) *time.Time { t := end.Add(d); return &t }
	s.at(end.Add(-7 * day))
	film, _ := s.delivery(goods["Ember film 250"], "EF-031", 30, freezerTwo, "shelf 2", shelf(21*day), -20)
	s.accepted(film)
	core, _ := s.delivery(goods["Lattice 48 core, 4 mm"], "LC-9", 9.6, 0, "rack by the saw", nil, 18)
	s.accepted(core)
	s.at(end.Add(-5*day + 2*time.Hour))
	s.delivery(goods["Sable twill 200"], "ST-0460", 50, freezerTwo, "shelf 3", shelf(330*day), -11.5)
	s.at(end.Add(-20 * time.Hour))
	waits, _ := s.delivery(goods["Sable UD 150"], "SU-2304", 75, freezerOne, "shelf 3", shelf(364*day), -22)
	if s.err == nil {
		s.wait(2 * time.Hour)
		try(s, func() (stock.BatchView, error) {
			return s.shop.RecordTest(
				s.ctx,
				s.who[brandl],
				waits.Code,
				stock.TestValue{Test: waits.Tests[0].ID, Value: 36.4},
			)
		})
	}
	// The end of the worn roll was damaged; a piece beside the last cut was kept.
	s.at(end.Add(-50 * time.Minute))
	try(s, func() (stock.RollView, error) {
		return s.shop.Scrap(
			s.ctx,
			s.who[brandl],
			rolls[3].Code,
			stock.ScrapLength{Length: 1.2, Reason: "damaged", Note: "crushed edge"},
		)
	})
	s.at(end.Add(-33 * time.Minute))
	off := try(s, func() (stock.RollView, error) {
		return s.shop.KeepOffCut(
			s.ctx,
			s.who[brandl],
			rolls[2].Code,
			stock.NewOffCut{
				Outline: geom.Ring{
					{X: 0, Y: 0},
					{X: 0.3, Y: 0},
					{X: 0.3, Y: 0.2},
					{X: 0.1, Y: 0.35},
					{X: 0, Y: 0.35},
				},
				FreezerID: freezerTwo,
				Place:     "kit box",
			},
		)
	})
	if s.err == nil {
		s.wait(time.Minute)
		s.back(off)
	}
}

// readings are a day of the demo's sensors; early this morning the door of
// freezer 1 stood open.
func (s *script) readings(end time.Time) {
	room, one, two := sim.NewClimate(3), sim.NewFreezer(-20.5, 5), sim.NewFreezer(-19.2, 6)
	for t := end.Add(-day); !t.After(end) && s.err == nil; t = t.Add(5 * time.Minute) {
		s.at(t)
		open := end.Sub(t) > 5*time.Hour && end.Sub(t) < 5*time.Hour+35*time.Minute
		airT, airH := room.Step(t)
		for topic, sensed := range map[string]climate.LoggerReading{
			topicRoom: {At: t, Temperature: &airT, Humidity: &airH},
			topicOne:  {At: t, Temperature: pointer(one.Step(5*time.Minute, open))},
			topicTwo:  {At: t, Temperature: pointer(two.Step(5*time.Minute, false))},
		} {
			_, s.err = s.shop.Sense(s.ctx, topic, sensed)
			if s.err != nil {
				return
			}
		}
	}
	s.at(end)
}

func pointer(v float64) *float64 { return &v }
