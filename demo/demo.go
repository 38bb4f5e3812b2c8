package demo

import (
	"context"
	"database/sql"
	"embed"
	"fmt"
	"math"
	"slices"
	"time"

	"juxta/core/cure"
	"juxta/core/geom"
	"juxta/core/unit"
	"juxta/device/sim"
	"juxta/format/dxf"
	"juxta/format/plytable"
	"juxta/shop"
	"juxta/shop/book"
	"juxta/shop/builds"
	"juxta/shop/curing"
	"juxta/shop/cutting"
	"juxta/shop/parts"
	"juxta/shop/stock"
	"juxta/store"
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
func (noQueue) Drape(context.Context, *sql.Tx, int64) error  { return nil }
func (noQueue) Cut(context.Context, *sql.Tx, int64) error    { return nil }

// script plays the shop's last weeks; its first error stops everything.
type script struct {
	places int // that a nest seeks for its plies
	ctx    context.Context
	shop   *shop.Shop
	now    time.Time
	who    map[string]book.By
	pin    string
	err    error
}

// Secrets are what the demo's people sign in with: all with the same PIN,
// planners and administrators with the same password.
type Secrets struct{ PIN, Password string }

// begin is a script of an open shop.
func begin(ctx context.Context, db *store.DB, secrets Secrets) *script {
	s := &script{ctx: ctx, who: map[string]book.By{}, pin: secrets.PIN, places: 4000}
	s.shop = shop.New(
		&book.Book{
			DB:       db,
			Queue:    noQueue{},
			Oven:     "the simulated oven",
			OvenName: "Oven 1, simulated",
			Altitude: Altitude,
			Now:      func() time.Time { return s.now },
		},
	)
	return s
}

// Load fills an empty shop with the demo. end is the shop's present.
func Load(ctx context.Context, db *store.DB, secrets Secrets, end time.Time) error {
	s := begin(ctx, db, secrets)
	s.now = end.Add(-44 * 24 * time.Hour)
	s.people(secrets.Password)
	s.qualifications(end)
	stock := s.materials()
	s.freezers()
	rolls := s.rolls(end, stock)
	s.cureRoom()
	part := s.part()
	s.masters(stock)
	s.firstBuild(end, part, rolls)
	s.readings(end)
	s.secondBuild(end, part, rolls)
	s.thirdBuild(end, part)
	s.lateStock(end, stock, rolls)
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
	solm   = "Hedda Solm"
	vold   = "Hanne Vold"
)

func (s *script) part() parts.RevisionView {
	in := try(s, Panel)
	v := try(s, func() (parts.RevisionView, error) { return s.shop.ImportPart(s.ctx, s.who[orde], in) })
	process := v.Process
	process.Tool, process.Equipment = "flat tool T-18", "Oven 1"
	process.DebulkEvery = 4
	process.Inspections = []parts.Inspection{
		{What: "flatness", Unit: "mm", Most: number(0.3), Instrument: "plate and feeler"},
	}
	v = try(s, func() (parts.RevisionView, error) {
		return s.shop.ChangeDraft(
			s.ctx,
			s.who[orde],
			v.Part.Code,
			parts.DraftChange{Version: v.Version, Process: &process},
		)
	})
	return s.release(v)
}

// release lets two look at a draft and sign it.
func (s *script) release(v parts.RevisionView) parts.RevisionView {
	s.wait(40 * time.Minute)
	sign := parts.RevisionSign{Version: v.Version, PIN: s.pin}
	try(s, func() (parts.RevisionView, error) {
		return s.shop.CheckRevision(s.ctx, s.who[vold], v.Part.Code, sign)
	})
	s.wait(20 * time.Minute)
	return try(s, func() (parts.RevisionView, error) {
		return s.shop.ReleaseRevision(s.ctx, s.who[quist], v.Part.Code, sign)
	})
}

// Panel reads the demo's panel from its files.
func Panel() (parts.Import, error) {
	table, err := Files.ReadFile("files/hinge-panel-plies.csv")
	if err != nil {
		return parts.Import{}, err
	}
	drawing, err := Files.ReadFile("files/hinge-panel.dxf")
	if err != nil {
		return parts.Import{}, err
	}
	rows, faults := plytable.Read(table)
	read, wrong := dxf.Read(drawing, 0)
	if faults = append(faults, wrong...); len(faults) > 0 {
		return parts.Import{}, fmt.Errorf("the demo's files: %v", faults)
	}
	in := parts.Import{Number: "SP-11", Name: "Shutter hinge panel", Outlines: map[string]geom.Ring{}}
	for _, r := range rows {
		in.Plies = append(
			in.Plies,
			parts.ImportPly{
				Row:      r.Line,
				Material: r.Material,
				AngleDeg: r.AngleDeg,
				Layer:    r.Outline,
				FaceUp:   r.FaceUp,
				X:        r.X,
				Y:        r.Y,
			},
		)
	}
	for _, o := range read.Outlines {
		in.Outlines[o.Name] = o.Ring
	}
	return in, nil
}

// cut nests a build on each of its rolls and cuts it. The rolls are out from
// some hours before, until they are thawed, to a quarter after.
func (s *script) cut(of []string, rolls ...stock.RollView) {
	s.take(rolls...)
	s.wait(thawed)
	for _, r := range rolls {
		s.open(r)
		line := try(s, func() (cutting.NestLine, error) {
			return s.shop.StartNest(
				s.ctx,
				s.who[brandl],
				cutting.NewNest{Roll: r.Code, Builds: of, Seed: 7, Steps: s.places},
			)
		})
		if s.err == nil {
			s.err = s.search(line.Code)
		}
		s.wait(20 * time.Minute)
		try(s, func() (cutting.NestView, error) { return s.shop.ConfirmCut(s.ctx, s.who[brandl], line.Code) })
	}
	s.wait(15 * time.Minute)
	s.back(rolls...)
}

func (s *script) search(code string) error {
	var n cutting.Nest
	if err := s.shop.DB.Gorm.Where("code = ?", code).Take(&n).Error; err != nil {
		return err
	}
	turn, problem, _, err := s.shop.BeginNest(s.ctx, n.ID)
	if err != nil {
		return err
	}
	s.wait(9 * time.Second)
	found, err := problem.Search(s.ctx, nil)
	if err != nil {
		return err
	}
	best := found
	return s.shop.EndNest(s.ctx, turn, &best, "")
}

// lay cuts, counts and lays a build up to and with ply last.
func (s *script) lay(build string, from time.Time, rolls []stock.RollView, last int) {
	s.at(from)
	s.cut([]string{build}, rolls[0], rolls[2])
	kit := try(s, func() (builds.KitView, error) { return s.shop.Kit(s.ctx, build, "") })
	for _, p := range kit.Plies {
		s.wait(8 * time.Second)
		try(s, func() (builds.KitView, error) { return s.shop.CountPly(s.ctx, s.who[brandl], build, p.Cut[0].Code) })
	}
	try(s, func() (builds.KitView, error) { return s.shop.CloseKit(s.ctx, s.who[brandl], build, "", "") })
	s.wait(25 * time.Minute)
	for s.err == nil {
		v := try(s, func() (builds.LayupView, error) { return s.shop.Layup(s.ctx, build, "") })
		if v.Next == nil || v.Next.Ply > last {
			return
		}
		if v.Next.Debulk {
			try(s, func() (builds.LayupView, error) { return s.shop.StartDebulk(s.ctx, s.who[falk], build, "") })
			s.wait(16 * time.Minute)
			try(s, func() (builds.LayupView, error) {
				return s.shop.EndDebulk(s.ctx, s.who[falk], build, "", builds.DebulkEnd{Vacuum: 88.2e3})
			})
			continue
		}
		s.wait(7 * time.Minute)
		films := v.Plies[v.Next.Ply-1].Films
		try(s, func() (builds.SignResult, error) {
			return s.shop.Sign(
				s.ctx,
				s.who[falk],
				build,
				builds.SignPly{Ply: v.Next.Ply, CutPly: v.NextCut, How: "scanned", FilmsOff: films},
			)
		})
	}
}

// firstBuild goes all the way to a finished cure run.
func (s *script) firstBuild(end time.Time, part parts.RevisionView, rolls []stock.RollView) {
	day := 24 * time.Hour
	s.at(end.Add(-5 * day))
	b := try(s, func() (builds.BuildLine, error) {
		return s.shop.StartBuild(
			s.ctx,
			s.who[orde],
			part.Part.Code,
			builds.NewBuild{Serial: "0001", CureAt: end.Add(-40 * time.Hour)},
		)
	})
	s.lay(b.Code, end.Add(-3*day), rolls, len(part.Plies))
	s.wait(20 * time.Minute)
	try(s, func() (builds.BagView, error) { return s.shop.CloseBag(s.ctx, s.who[falk], b.Code, "", "no bleed") })
	for _, c := range []builds.NewLeakCheck{
		{Start: 88.4e3, End: 81.6e3, Seconds: 300}, {Start: 90.1e3, End: 89.2e3, Seconds: 300},
	} {
		s.wait(12 * time.Minute)
		try(s, func() (builds.BagView, error) { return s.shop.CheckLeak(s.ctx, s.who[falk], b.Code, "", c) })
	}
	s.at(end.Add(-40 * time.Hour))
	run := try(s, func() (curing.RunLine, error) {
		return s.shop.StartRun(s.ctx, s.who[falk], []curing.OvenLoad{{Build: b.Code}})
	})
	if s.err == nil {
		s.err = s.cure(run.Code)
	}
}

// cure runs the simulated oven's heat under the recipe and stores its log.
func (s *script) cure(code string) error {
	const every = 60.0
	var record curing.Run
	if err := s.shop.DB.Gorm.Where("code = ?", code).Take(&record).Error; err != nil {
		return err
	}
	run, _, err := s.shop.LeaseRun(s.ctx, record.ID, "demo")
	if err != nil {
		return err
	}
	oven, c, recipe := sim.NewOven(unit.Kelvin(21), 11), run.Controller, run.Process.Recipe
	for t := 0.0; !c.Done; t += every {
		oven.Step(c.SetPoint, true, every)
		lag, lead := oven.Noisy(oven.Lag), oven.Noisy(oven.Lead)
		c = c.Step(recipe, cure.PartState{Lag: lag, Lead: lead}, every)
		sample := cure.Sample{
			T:        t,
			SetPoint: c.SetPoint,
			Air:      oven.Noisy(oven.Air),
			Tool:     oven.Noisy(oven.Tool),
			Lead:     lead,
			Lag:      lag,
			Vacuum:   oven.NoisyVacuum(),
			Pressure: math.NaN(), // an oven has none
		}
		if _, err := s.shop.AddSample(s.ctx, run.ID, "demo", sample, c, ""); err != nil {
			return err
		}
		s.wait(time.Duration(every) * time.Second)
	}
	return s.shop.EndRun(s.ctx, run.ID, "finished", "")
}

// secondBuild is half laid; its twill roll still lies on the table.
func (s *script) secondBuild(end time.Time, part parts.RevisionView, rolls []stock.RollView) {
	s.at(end.Add(-26 * time.Hour))
	b := try(s, func() (builds.BuildLine, error) {
		return s.shop.StartBuild(
			s.ctx,
			s.who[orde],
			part.Part.Code,
			builds.NewBuild{Serial: "0002", CureAt: end.Add(22 * time.Hour)},
		)
	})
	s.lay(b.Code, end.Add(-7*time.Hour), rolls, 6)
	s.at(end.Add(-35 * time.Minute))
	s.take(rolls[2])
}

// thirdBuild waits to be cut.
func (s *script) thirdBuild(end time.Time, part parts.RevisionView) {
	s.at(end.Add(-2 * time.Hour))
	try(s, func() (builds.BuildLine, error) {
		return s.shop.StartBuild(
			s.ctx,
			s.who[orde],
			part.Part.Code,
			builds.NewBuild{Serial: "0003", CureAt: end.Add(70 * time.Hour)},
		)
	})
}

// draft starts revision B with one more pad ply, which nobody has mirrored yet.
func (s *script) draft(end time.Time, part parts.RevisionView) {
	s.at(end.Add(-30 * time.Minute))
	v := try(s, func() (parts.RevisionView, error) { return s.shop.NewRevision(s.ctx, s.who[orde], part.Part.Code) })
	if s.err == nil {
		items := v.Document.Stages[0].Items
		more := items[6]
		more.Key, more.AngleDeg = "pad-more", 0
		v.Document.Stages[0].Items = slices.Insert(items, 7, more)
	}
	try(s, func() (parts.RevisionView, error) {
		return s.shop.ChangeDraft(
			s.ctx,
			s.who[orde],
			v.Part.Code,
			parts.DraftChange{Version: v.Version, Document: &v.Document},
		)
	})
	s.at(end)
}
