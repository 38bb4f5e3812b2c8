// Package demo loads the made-up shop "Quillmere Observatory Works", 640 m
// above sea level: one flat panel with a local reinforcement, two materials,
// four rolls of differing age, and builds at the oven's far end, at the bench
// and before the knife, so that every page has something to show. It is written as a script of what the shop's people did in the last weeks, and runs
// through the same verbs as the real shop. All names and figures are invented.
package demo

import (
	"context"
	"database/sql"
	"embed"
	"fmt"
	"time"

	"juxta/core/cure"
	"juxta/core/nest"
	"juxta/core/unit"
	"juxta/device/sim"
	"juxta/format/dxf"
	"juxta/format/plytable"
	"juxta/shop"
	"juxta/store"
	"juxta/wire"
)

// Files are the ply table and the drawing of the demo's panel, also to try the
// import with.
//
//go:embed files
var Files embed.FS

// Altitude of the shop in m.
const Altitude = 640

// noQueue lets the script do the long work itself, at once.
type noQueue struct{}

func (noQueue) Nest(context.Context, *sql.Tx, int64) error   { return nil }
func (noQueue) Record(context.Context, *sql.Tx, int64) error { return nil }

// script plays the shop's last weeks; its first error stops everything.
type script struct {
	ctx  context.Context
	shop *shop.Shop
	now  time.Time
	who  map[string]shop.By
	err  error
}

// Load fills an empty shop with the demo. Everybody signs in with pin. end is
// the shop's present.
func Load(ctx context.Context, db *store.DB, pin string, end time.Time) error {
	s := &script{ctx: ctx, who: map[string]shop.By{}}
	s.shop = &shop.Shop{DB: db, Queue: noQueue{}, Oven: "the simulated oven", Altitude: Altitude, Now: func() time.Time { return s.now }}
	s.now = end.Add(-44 * 24 * time.Hour)
	s.people(pin)
	s.materials()
	rolls := s.rolls(end)
	part := s.part()
	s.firstBuild(end, part, rolls)
	s.secondBuild(end, part, rolls)
	s.thirdBuild(end, part)
	s.draft(end, part)
	if s.err != nil {
		return fmt.Errorf("load the demo: %w", s.err)
	}
	return nil
}

// at moves the script's clock.
func (s *script) at(t time.Time) { s.now = t }

func (s *script) wait(d time.Duration) { s.now = s.now.Add(d) }

// try runs a verb unless something failed before.
func try[T any](s *script, do func() (T, error)) T {
	var out T
	if s.err == nil {
		out, s.err = do()
	}
	return out
}

// The demo's people.
const (
	falk   = "Ines Falk"
	brandl = "Tilda Brandl"
	orde   = "Marek Orde"
	quist  = "Jonas Quist"
	wren   = "Ada Wren"
)

func (s *script) people(pin string) {
	for _, p := range [][2]string{{falk, "technician"}, {brandl, "technician"}, {orde, "planner"}, {quist, "quality"}, {wren, "administrator"}} {
		view := try(s, func() (shop.PersonView, error) { return s.shop.AddPerson(s.ctx, shop.By{}, p[0], p[1], pin) })
		person := try(s, func() (*shop.Person, error) { return s.shop.PersonByID(s.ctx, view.ID) })
		s.who[p[0]] = shop.By{Person: person}
	}
}

// Ember is the demo's resin; its cycle and kinetics are invented.
func Ember() shop.Resin {
	return shop.Resin{Name: "Ember 120", Alpha0: 0.02,
		Kinetics: wire.Kinetics{Terms: []wire.Term{{A: 2.2e8, E: 85e3, M: 0, N: 1.2}}},
		Recipe: wire.Recipe{Name: "Ember 120, vacuum oven", Start: unit.Kelvin(21), Tolerance: 5, Segments: []wire.Segment{
			{Target: unit.Kelvin(80), Rate: 1.5 / 60, Hold: 1800, WaitPart: unit.Kelvin(77)},
			{Target: unit.Kelvin(120), Rate: 1.5 / 60, Hold: 5400, WaitPart: unit.Kelvin(117)},
			{Target: unit.Kelvin(55), Rate: 2.0 / 60},
		}}}
}

// Sable are the demo's two prepregs; their figures are invented.
func Sable(resin int64) []shop.Material {
	return []shop.Material{
		{Name: "Sable UD 150", Kind: "unidirectional", ResinID: resin, Width: 0.6, E1: 125e9, E2: 8.5e9, Nu12: 0.3, G12: 4.4e9, Alpha1: 0.1e-6, Alpha2: 30e-6,
			Thickness: 143e-6, ArealMass: 0.234, HalfTurn: true, Films: 1, OutLife: 240 * 3600, TackLife: 120 * 3600},
		{Name: "Sable twill 200", Kind: "woven", ResinID: resin, Width: 1.0, E1: 58e9, E2: 58e9, Nu12: 0.05, G12: 4e9, Alpha1: 3e-6, Alpha2: 3e-6,
			Thickness: 210e-6, ArealMass: 0.345, AsymmetricWeave: true, HalfTurn: true, Films: 2, OutLife: 240 * 3600, TackLife: 120 * 3600},
	}
}

func (s *script) materials() {
	if s.err == nil {
		s.err = Materials(s.ctx, s.shop)
	}
}

// Materials stores the demo's resin and prepregs.
func Materials(ctx context.Context, s *shop.Shop) error {
	resin := Ember()
	if err := s.DB.Gorm.WithContext(ctx).Create(&resin).Error; err != nil {
		return err
	}
	materials := Sable(resin.ID)
	return s.DB.Gorm.WithContext(ctx).Create(&materials).Error
}

// rolls receives four rolls and gives them a past.
func (s *script) rolls(end time.Time) []shop.RollView {
	day := 24 * time.Hour
	shelf := func(d time.Duration) *time.Time { t := end.Add(d); return &t }
	var ud, twill shop.Material
	if s.err == nil {
		s.err = s.shop.DB.Gorm.Where("name = ?", "Sable UD 150").Take(&ud).Error
	}
	if s.err == nil {
		s.err = s.shop.DB.Gorm.Where("name = ?", "Sable twill 200").Take(&twill).Error
	}
	receive := func(material int64, batch string, length float64, place string, until *time.Time, flaws ...wire.Flaw) shop.RollView {
		return try(s, func() (shop.RollView, error) {
			return s.shop.ReceiveRoll(s.ctx, s.who[brandl], shop.NewRoll{MaterialID: material, Batch: batch, Length: length, Place: place, ShelfEnd: until, Flaws: flaws})
		})
	}
	stay := func(r shop.RollView, from time.Time, d time.Duration) {
		s.at(from)
		try(s, func() (shop.RollView, error) { return s.shop.TakeOut(s.ctx, s.who[brandl], r.Code, shop.Moved{}) })
		s.wait(d)
		try(s, func() (shop.RollView, error) { return s.shop.PutBack(s.ctx, s.who[brandl], r.Code, shop.Moved{}) })
	}
	old := receive(ud.ID, "SU-2207", 62, "Freezer 1, shelf 2", shelf(96*day), wire.Flaw{From: 0.62, To: 0.7})
	worn := receive(twill.ID, "ST-0418", 35, "Freezer 1, shelf 1", shelf(60*day))
	for k := range 6 {
		stay(old, end.Add(-time.Duration(40-5*k)*day), 11*time.Hour)
		stay(worn, end.Add(-time.Duration(39-5*k)*day), 36*time.Hour)
	}
	s.at(end.Add(-9 * day))
	fresh := receive(ud.ID, "SU-2291", 80, "Freezer 2, shelf 1", shelf(340*day))
	mid := receive(twill.ID, "ST-0455", 48, "Freezer 2, shelf 3", shelf(200*day))
	stay(mid, end.Add(-8*day), 30*time.Hour)
	return []shop.RollView{old, fresh, mid, worn}
}

func (s *script) part() shop.RevisionView {
	in := try(s, Panel)
	v := try(s, func() (shop.RevisionView, error) { return s.shop.ImportPart(s.ctx, s.who[orde], in) })
	process := v.Process
	process.Tool = "flat tool T-18"
	process.DebulkEvery = 4
	v = try(s, func() (shop.RevisionView, error) {
		return s.shop.ChangeDraft(s.ctx, s.who[orde], v.Part.Code, shop.DraftChange{Version: v.Version, Process: &process})
	})
	s.wait(time.Hour)
	return try(s, func() (shop.RevisionView, error) {
		return s.shop.ReleaseRevision(s.ctx, s.who[orde], v.Part.Code, v.Version)
	})
}

// Panel reads the demo's panel from its files.
func Panel() (shop.Import, error) {
	table, err := Files.ReadFile("files/hinge-panel-plies.csv")
	if err != nil {
		return shop.Import{}, err
	}
	drawing, err := Files.ReadFile("files/hinge-panel.dxf")
	if err != nil {
		return shop.Import{}, err
	}
	rows, faults := plytable.Read(table)
	read, wrong := dxf.Read(drawing, 0)
	if faults = append(faults, wrong...); len(faults) > 0 {
		return shop.Import{}, fmt.Errorf("the demo's files: %v", faults)
	}
	in := shop.Import{Number: "SP-11", Name: "Shutter hinge panel", Outlines: map[string]wire.Outline{}}
	for _, r := range rows {
		in.Plies = append(in.Plies, shop.ImportPly{Row: r.Line, Material: r.Material, AngleDeg: r.AngleDeg, Layer: r.Outline, FaceUp: r.FaceUp, X: r.X, Y: r.Y})
	}
	for layer, ring := range read.Outlines {
		in.Outlines[layer] = wire.FromRing(ring)
	}
	return in, nil
}

// cut nests a build on a roll and cuts it: the roll is out from an hour before
// to a quarter after.
func (s *script) cut(build string, r shop.RollView) {
	try(s, func() (shop.RollView, error) { return s.shop.TakeOut(s.ctx, s.who[brandl], r.Code, shop.Moved{}) })
	s.wait(70 * time.Minute)
	line := try(s, func() (shop.NestLine, error) {
		return s.shop.StartNest(s.ctx, s.who[brandl], shop.NewNest{Roll: r.Code, Builds: []string{build}, Seed: 7, Steps: 40})
	})
	if s.err == nil {
		s.err = s.search(line.Code)
	}
	s.wait(20 * time.Minute)
	try(s, func() (shop.NestView, error) { return s.shop.ConfirmCut(s.ctx, s.who[brandl], line.Code) })
	s.wait(15 * time.Minute)
	try(s, func() (shop.RollView, error) { return s.shop.PutBack(s.ctx, s.who[brandl], r.Code, shop.Moved{}) })
}

func (s *script) search(code string) error {
	var n shop.Nest
	if err := s.shop.DB.Gorm.Where("code = ?", code).Take(&n).Error; err != nil {
		return err
	}
	problem, _, err := s.shop.BeginNest(s.ctx, n.ID)
	if err != nil {
		return err
	}
	s.wait(9 * time.Second)
	found, err := nest.Nest(s.ctx, problem.Problem(), nest.Options{Seed: problem.Seed, Steps: problem.Steps})
	if err != nil {
		return err
	}
	best := wire.FromNest(found)
	return s.shop.EndNest(s.ctx, n.ID, &best, "")
}

// lay cuts, counts and lays a build up to and with ply last.
func (s *script) lay(build string, from time.Time, rolls []shop.RollView, last int) {
	s.at(from)
	s.cut(build, rolls[0])
	s.cut(build, rolls[2])
	kit := try(s, func() (shop.KitView, error) { return s.shop.Kit(s.ctx, build) })
	for _, p := range kit.Plies {
		s.wait(8 * time.Second)
		try(s, func() (shop.KitView, error) { return s.shop.CountPly(s.ctx, s.who[brandl], build, p.Cut[0].Code) })
	}
	try(s, func() (shop.KitView, error) { return s.shop.CloseKit(s.ctx, s.who[brandl], build) })
	s.wait(25 * time.Minute)
	for s.err == nil {
		v := try(s, func() (shop.LayupView, error) { return s.shop.Layup(s.ctx, build) })
		if v.Next == nil || v.Next.Ply > last {
			return
		}
		if v.Next.Debulk {
			try(s, func() (shop.LayupView, error) { return s.shop.StartDebulk(s.ctx, s.who[falk], build) })
			s.wait(16 * time.Minute)
			try(s, func() (shop.LayupView, error) { return s.shop.EndDebulk(s.ctx, s.who[falk], build, 88.2e3) })
			continue
		}
		s.wait(7 * time.Minute)
		films := v.Plies[v.Next.Ply-1].Films
		try(s, func() (shop.LayupView, error) {
			return s.shop.Sign(s.ctx, s.who[falk], build, shop.SignPly{Ply: v.Next.Ply, CutPly: v.NextCut, FilmsOff: films})
		})
	}
}

// firstBuild goes all the way to a finished cure run.
func (s *script) firstBuild(end time.Time, part shop.RevisionView, rolls []shop.RollView) {
	day := 24 * time.Hour
	s.at(end.Add(-5 * day))
	b := try(s, func() (shop.BuildLine, error) {
		return s.shop.StartBuild(s.ctx, s.who[orde], part.Part.Code, shop.NewBuild{Serial: "0001", CureAt: end.Add(-40 * time.Hour)})
	})
	s.lay(b.Code, end.Add(-3*day), rolls, len(part.Plies))
	s.wait(20 * time.Minute)
	try(s, func() (shop.BagView, error) { return s.shop.CloseBag(s.ctx, s.who[falk], b.Code, "no bleed") })
	for _, c := range []shop.NewLeakCheck{{Start: 88.4e3, End: 81.6e3, Seconds: 300}, {Start: 90.1e3, End: 89.2e3, Seconds: 300}} {
		s.wait(12 * time.Minute)
		try(s, func() (shop.BagView, error) { return s.shop.CheckLeak(s.ctx, s.who[falk], b.Code, c) })
	}
	s.at(end.Add(-40 * time.Hour))
	run := try(s, func() (shop.RunLine, error) { return s.shop.StartRun(s.ctx, s.who[falk], []string{b.Code}) })
	if s.err == nil {
		s.err = s.cure(run.Code)
	}
}

// cure runs the simulated oven's heat under the recipe and stores its log.
func (s *script) cure(code string) error {
	const every = 60.0
	var record shop.Run
	if err := s.shop.DB.Gorm.Where("code = ?", code).Take(&record).Error; err != nil {
		return err
	}
	run, _, err := s.shop.LeaseRun(s.ctx, record.ID, "demo")
	if err != nil {
		return err
	}
	oven, c, recipe := sim.NewOven(unit.Kelvin(21), 11), run.Controller, run.Process.Recipe.Core()
	for t := 0.0; !c.Done; t += every {
		oven.Step(c.SetPoint, true, every)
		lag := oven.Noisy(oven.Lag)
		c = c.Step(recipe, lag, every)
		sample := cure.Sample{T: t, SetPoint: c.SetPoint, Air: oven.Noisy(oven.Air), Tool: oven.Noisy(oven.Tool), Lead: oven.Noisy(oven.Lead), Lag: lag, Vacuum: oven.NoisyVacuum()}
		if _, err := s.shop.AddSample(s.ctx, run.ID, "demo", sample, c); err != nil {
			return err
		}
		s.wait(time.Duration(every) * time.Second)
	}
	return s.shop.EndRun(s.ctx, run.ID, "finished", "")
}

// secondBuild is half laid; its twill roll still lies on the table.
func (s *script) secondBuild(end time.Time, part shop.RevisionView, rolls []shop.RollView) {
	s.at(end.Add(-26 * time.Hour))
	b := try(s, func() (shop.BuildLine, error) {
		return s.shop.StartBuild(s.ctx, s.who[orde], part.Part.Code, shop.NewBuild{Serial: "0002", CureAt: end.Add(22 * time.Hour)})
	})
	s.lay(b.Code, end.Add(-6*time.Hour), rolls, 6)
	s.at(end.Add(-35 * time.Minute))
	try(s, func() (shop.RollView, error) {
		return s.shop.TakeOut(s.ctx, s.who[brandl], rolls[2].Code, shop.Moved{})
	})
}

// thirdBuild waits to be cut.
func (s *script) thirdBuild(end time.Time, part shop.RevisionView) {
	s.at(end.Add(-2 * time.Hour))
	try(s, func() (shop.BuildLine, error) {
		return s.shop.StartBuild(s.ctx, s.who[orde], part.Part.Code, shop.NewBuild{Serial: "0003", CureAt: end.Add(70 * time.Hour)})
	})
}

// draft starts revision B with one more pad ply, which nobody has mirrored yet.
func (s *script) draft(end time.Time, part shop.RevisionView) {
	s.at(end.Add(-30 * time.Minute))
	v := try(s, func() (shop.RevisionView, error) { return s.shop.NewRevision(s.ctx, s.who[orde], part.Part.Code) })
	in := try(s, Panel)
	var plies []shop.NewPly
	for i, p := range v.Plies {
		plies = append(plies, shop.NewPly{Shape: p.Shape, MaterialID: p.MaterialID, AngleDeg: p.AngleDeg, Outline: in.Outlines[p.Shape], X: p.X, Y: p.Y, FaceUp: p.FaceUp})
		if i == 6 {
			more := plies[i]
			more.AngleDeg = 0
			plies = append(plies, more)
		}
	}
	try(s, func() (shop.RevisionView, error) {
		return s.shop.ChangeDraft(s.ctx, s.who[orde], v.Part.Code, shop.DraftChange{Version: v.Version, Plies: &plies})
	})
	s.at(end)
}
