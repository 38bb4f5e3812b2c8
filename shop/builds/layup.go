package builds

import (
	"context"
	"fmt"
	"maps"
	"slices"
	"strings"
	"time"

	"gorm.io/gorm"

	"juxta/core/layup"
	"juxta/core/progress"
	"juxta/core/route"
	"juxta/shop/book"
	"juxta/shop/parts"
)

// LaidPly is a signature beside its ply.
type LaidPly struct {
	Ply         int        `json:"ply"`
	AngleDeg    float64    `json:"angleDeg"`
	Material    string     `json:"material" doc:"As cut"`
	FaceUp      bool       `json:"faceUp"`
	CutPly      string     `json:"cutPly"`
	Roll        string     `json:"roll"`
	FilmsOff    int        `json:"filmsOff"`
	Films       int        `json:"films" doc:"That there are to take off"`
	How         string     `json:"how,omitempty" enum:"scanned,chosen" doc:"How its label was identified; missing: not recorded"`
	Person      string     `json:"person"`
	At          time.Time  `json:"at"`
	TakenBackAt *time.Time `json:"takenBackAt,omitempty"`
	TakenBackBy string     `json:"takenBackBy,omitempty"`
	Reason      string     `json:"reason,omitempty"`
	FilmFoundAt *time.Time `gorm:"-" json:"filmFoundAt,omitempty" doc:"A film of it was missing until then"`
	FilmFoundBy string     `gorm:"-" json:"filmFoundBy,omitempty"`
}

// StepView is one step of the plan: a ply, a debulk after it, or a demand of the
// master that stands there.
type StepView struct {
	Ply    int    `json:"ply"`
	Debulk bool   `json:"debulk"`
	Demand string `json:"demand,omitempty" enum:"hold,second"`
	Key    string `json:"key,omitempty" doc:"Demand: of the item"`
	Text   string `json:"text,omitempty" doc:"Demand: what is to be done"`
}

// SignedDemandView is a demand of the master that somebody signed as met.
type SignedDemandView struct {
	Kind   string    `json:"kind" enum:"hold,second"`
	Ply    int       `json:"ply"`
	Text   string    `gorm:"column:says" json:"text"`
	Person string    `json:"person"`
	At     time.Time `json:"at"`
	Void   bool      `json:"void,omitempty" doc:"Its ply came off afterwards"`
	Key    string    `json:"-"` // of the item
}

// LayupView is the bench: what to do next, and what was done.
type LayupView struct {
	Build         BuildLine          `json:"build"`
	Process       parts.Process      `json:"process"`
	Plies         []parts.PlyView    `json:"plies"`
	Steps         []StepView         `json:"steps"`
	Next          *StepView          `json:"next,omitempty" doc:"Nothing when the layup is complete"`
	NextCut       string             `json:"nextCut,omitempty" doc:"Label of the counted ply that comes next"`
	Laid          []LaidPly          `json:"laid" doc:"In order, without those taken back"`
	TakenBack     []LaidPly          `json:"takenBack"`
	Debulks       []DebulkView       `json:"debulks"`
	Running       *DebulkView        `json:"running,omitempty"`
	SinceDebulk   int                `json:"sinceDebulk"`
	FilmsShort    []int              `json:"filmsShort" doc:"Plies with a film unaccounted for"`
	SignedDemands []SignedDemandView `json:"signedDemands" doc:"Hold points and second looks, as signed"`
	Unmet         []StepView         `json:"unmet" doc:"Those that nobody has signed"`
	Seconds       []NamedPerson      `json:"seconds" doc:"Who may sign as second person"`
	Notes         []BenchNote        `json:"notes" doc:"Of the master, by the ply that they stand before"`
	At            *RouteStep         `json:"at,omitempty" doc:"The operation that is laid, of a build with a route"`
	Others        []RouteStep        `json:"others,omitempty" doc:"What else is laid or joined for this build"`
	Waits         []string           `json:"waits,omitempty" doc:"What the operation waits for, in words"`
	Preforms      []PreformView      `json:"preforms,omitempty" doc:"Pre-forms that are laid here, with their labels"`
}

// NamedPerson is a person by name.
type NamedPerson struct {
	ID   int64  `json:"id"`
	Name string `json:"name"`
}

// Layup is the bench view of a build; of one with a route that of an operation,
// without a key the one whose turn it is.
func (s *Room) Layup(ctx context.Context, code, operation string) (LayupView, error) {
	return book.View(ctx, s.Book, func(db *gorm.DB) (LayupView, error) {
		b, err := s.Build(db, code)
		if err != nil {
			return LayupView{}, err
		}
		k, err := b.progress.at(b.Number, operation, route.Laying, route.Joining)
		if err != nil {
			return LayupView{}, err
		}
		return s.layupView(db, b, k)
	})
}

// layupView is the bench of an operation; k is -1 for the one pass.
func (s *Room) layupView(db *gorm.DB, b buildRow, k int) (LayupView, error) {
	var stages []string
	here := func(int) bool { return true }
	if b.progress != nil {
		stages = b.progress.Lays(k)
		numbers := b.progress.numbers(k)
		here = func(ply int) bool { return slices.Contains(numbers, ply) }
	}
	var err error
	if b.OutTime, err = s.KitOutTime(db, b, stages...); err != nil {
		return LayupView{}, err
	}
	var r parts.Revision
	if err := db.Take(&r, b.RevisionID).Error; err != nil {
		return LayupView{}, err
	}
	plies, materials, err := parts.LoadPlies(db, b.RevisionID)
	if err != nil {
		return LayupView{}, err
	}
	plan := planOf(r, len(plies), b.progress, k)
	done, err := layupDone(db, b.ID)
	if err != nil {
		return LayupView{}, err
	}
	for _, of := range []map[int]bool{done.Laid, done.Debulks} {
		maps.DeleteFunc(of, func(ply int, _ bool) bool { return !here(ply) })
	}
	plies = slices.DeleteFunc(plies, func(p parts.Ply) bool { return !here(p.Number) })
	v := LayupView{
		Build:         b.BuildLine,
		Process:       b.progress.process(r.Process, k),
		Plies:         parts.PlyViews(plies, materials),
		Laid:          []LaidPly{},
		TakenBack:     []LaidPly{},
		Debulks:       []DebulkView{},
		FilmsShort:    []int{},
		SinceDebulk:   layup.PliesSinceDebulk(done),
		SignedDemands: []SignedDemandView{},
		Unmet:         []StepView{},
		Seconds:       []NamedPerson{},
	}
	m, err := s.Master(db, r)
	if err != nil {
		return LayupView{}, err
	}
	v.Notes = benchNotes(m, func(stage string) bool { return b.progress == nil || slices.Contains(stages, stage) })
	if b.progress != nil {
		v.At, v.Others, v.Waits = b.progress.here(k, route.Laying, route.Joining)
		if v.Preforms, err = s.preforms(db, b, stages); err != nil {
			return LayupView{}, err
		}
	}
	for _, st := range plan.Steps {
		v.Steps = append(v.Steps, plan.view(st))
	}
	for _, st := range layup.Unmet(plan.Steps, done) {
		v.Unmet = append(v.Unmet, plan.view(st))
	}
	if next, open := layup.Next(plan.Steps, done); open {
		step := plan.view(next)
		v.Next = &step
		if !next.Debulk && next.Kind == "" {
			if err := db.Raw(`select coalesce((select c.code from cut_plies c join plies p on p.id = c.ply_id
				where c.build_id = ? and p.number = ? and c.counted_at is not null
				and c.void_at is null
				order by c.id limit 1), '')`, b.ID, next.Ply).Scan(&v.NextCut).Error; err != nil {
				return LayupView{}, err
			}
		}
	}
	var laid []LaidPly
	found, err := filmsFound(db, b.Code)
	if err != nil {
		return LayupView{}, err
	}
	if err := db.Raw(`select p.number as ply, p.angle_deg, p.face_up, k.name as material, c.code as cut_ply,
		r.code as roll, l.films_off, m.films, l.how, w.name as person, l.at,
		l.taken_back_at, coalesce(x.name, '') as taken_back_by, l.reason
		from ply_records l join plies p on p.id = l.ply_id join materials m on m.id = p.material_id
		join cut_plies c on c.id = l.cut_ply_id join materials k on k.id = c.material_id
		join rolls r on r.id = c.roll_id join people w on w.id = l.person_id
		left join people x on x.id = l.taken_back_by
		where l.build_id = ? order by p.number, l.id`, b.ID).Scan(&laid).Error; err != nil {
		return LayupView{}, err
	}
	for _, l := range laid {
		if !here(l.Ply) {
			continue
		}
		if l.TakenBackAt != nil {
			v.TakenBack = append(v.TakenBack, l)
			continue
		}
		if f, was := found[l.Ply]; was && f.At.After(l.At) {
			l.FilmFoundAt, l.FilmFoundBy = &f.At, f.Person
		}
		v.Laid = append(v.Laid, l)
		if l.FilmsOff < l.Films {
			v.FilmsShort = append(v.FilmsShort, l.Ply)
		}
	}
	if err := db.Raw(`select d.after_ply, d.started_at, s.name as started_by, d.ended_at, coalesce(e.name,
		'') as ended_by, d.vacuum, d.counts, d.says
		from debulks d join people s on s.id = d.started_by left join people e on e.id = d.ended_by where d.build_id = ?
		order by d.id`, b.ID).Scan(&v.Debulks).Error; err != nil {
		return LayupView{}, err
	}
	if err := db.Raw(`select k.kind, k.item_key as key, k.ply, k.says, p.name as person, k.at,
		k.void_at is not null as void
		from marks k join people p on p.id = k.person_id where k.build_id = ?
		order by k.id`, b.ID).Scan(&v.SignedDemands).Error; err != nil {
		return LayupView{}, err
	}
	if slices.ContainsFunc(v.Unmet, func(u StepView) bool { return u.Demand == layup.Second }) {
		if v.Seconds, err = mayBe(db, book.SecondLook); err != nil {
			return LayupView{}, err
		}
	}
	v.Debulks = slices.DeleteFunc(v.Debulks, func(d DebulkView) bool { return !here(d.AfterPly) })
	v.SignedDemands = slices.DeleteFunc(v.SignedDemands, func(m SignedDemandView) bool {
		return b.progress != nil &&
			!slices.ContainsFunc(v.Steps, func(s StepView) bool { return s.Demand == m.Kind && s.Key == m.Key })
	})
	for i := range v.Debulks {
		if v.Debulks[i].EndedAt == nil {
			v.Running = &v.Debulks[i]
		}
	}
	return v, nil
}

// filmsFound are the films that were missing for a while, by ply: when the last of
// them was found, as the log says.
func filmsFound(db *gorm.DB, code string) (map[int]book.LogLine, error) {
	var rows []book.LogLine
	err := db.Raw(`select e.at, p.name as person, (e.detail->>'ply')::int as ply from entries e
		join people p on p.id = e.person_id
		where e.subject = ? and e.what = 'film found' order by e.seq`, code).
		Scan(&rows).
		Error
	out := map[int]book.LogLine{}
	for _, r := range rows {
		out[r.Ply] = r
	}
	return out, err
}

// benchNamed is the bench of the operation that was named.
func benchNamed(operation string) func(b buildRow) (int, error) {
	return func(b buildRow) (int, error) {
		return b.progress.at(b.Number, operation, route.Laying, route.Joining)
	}
}

// benchOfPly is the bench at which a ply is laid.
func benchOfPly(ply int) func(b buildRow) (int, error) {
	return func(b buildRow) (int, error) {
		if b.progress == nil {
			return -1, nil
		}
		k := b.progress.benchOf(ply)
		if k < 0 {
			return k, book.NotNow.Errorf("ply %d is not laid by this route", ply)
		}
		return k, nil
	}
}

// mayLay refuses work at a bench before its turn, or once what comes next is begun.
func (b buildRow) mayLay(k int) error {
	if b.progress == nil {
		return refusalOf(layup.CheckKit(b.KitCounted, b.BagClosed))
	}
	return b.progress.mayLay(k)
}

func (w *RouteProgress) mayLay(k int) error { return Refused(w.Progress.MayLay(k)) }

func (s *Room) changeLayup(
	ctx context.Context,
	by book.By,
	act book.Act,
	what, code string,
	input any,
	which func(b buildRow) (int, error),
	do func(tx *book.Tx, v LayupView, b buildRow) error,
) (LayupView, error) {
	return book.Write(ctx, s.Book, by, act, what+" "+code, input, func(tx *book.Tx) (LayupView, error) {
		b, err := s.Held(tx, code)
		if err != nil {
			return LayupView{}, err
		}
		k, err := which(b)
		if err != nil {
			return LayupView{}, err
		}
		v, err := s.layupView(tx.DB, b, k)
		if err != nil {
			return LayupView{}, err
		}
		if err := b.mayLay(k); err != nil {
			return LayupView{}, err
		}
		if err := b.progress.Asks(tx, k); err != nil {
			return LayupView{}, err
		}
		if err := do(tx, v, b); err != nil {
			return LayupView{}, err
		}
		if b, err = s.Build(tx.DB, code); err != nil {
			return LayupView{}, err
		}
		return s.layupView(tx.DB, b, k)
	})
}

// TakeBack undoes the last signature, with a reason; both stay on record. A
// debulk made on the ply counts no more.
func (s *Room) TakeBack(ctx context.Context, by book.By, code string, ply int, reason string) (LayupView, error) {
	return s.changeLayup(
		ctx,
		by,
		book.LayPlies,
		"take back",
		code,
		[]any{ply, reason},
		benchOfPly(ply),
		func(tx *book.Tx, v LayupView, b buildRow) error {
			if b.progress != nil {
				back := progress.Event{Kind: progress.PlyTakenBack, Ply: ply, Reason: reason}
				if err := b.progress.May(back); err != nil {
					return err
				}
			}
			if len(v.Laid) == 0 {
				return book.NotNow.Errorf("no ply is laid yet")
			}
			if reason = strings.TrimSpace(reason); reason == "" {
				return book.Needed.At("reason", "say why the ply comes off")
			}
			if v.Running != nil {
				return book.NotNow.Errorf("a debulk is running: end it first")
			}
			last := v.Laid[len(v.Laid)-1]
			if ply != last.Ply {
				return book.NotNow.Errorf("only the last ply laid can be taken back: that is ply %d", last.Ply)
			}
			if err := tx.Exec(`update ply_records set taken_back_at = ?, taken_back_by = ?, reason = ?
				where build_id = ?
				and taken_back_at is null
			and ply_id = (select id from plies where revision_id = ?
			and number = ?)`, tx.Now, tx.By.Person.ID, reason, b.ID, b.RevisionID, ply).Error; err != nil {
				return err
			}
			// What was debulked at another bench did not lie on it.
			bench := ""
			if v.At != nil {
				bench = v.At.Operation
			}
			if err := tx.Exec(`update debulks set counts = false, says = ? where build_id = ? and operation = ?
				and after_ply >= ? and counts`,
				fmt.Sprintf("ply %d was taken back afterwards", ply), b.ID, bench, ply).Error; err != nil {
				return err
			}
			// Who looked at it looked at what is no longer there.
			if err := tx.Exec(`update marks set void_at = ? where build_id = ? and kind = 'second' and ply = ?
				and void_at is null
			and item_key = (select item_key from plies where revision_id = ?
			and number = ?)`, tx.Now, b.ID, ply, b.RevisionID, ply).Error; err != nil {
				return err
			}
			return tx.Log("ply taken back", b.Code, reason, map[string]any{"ply": ply})
		},
	)
}

// FoundFilm accounts for one film that was missing from the tally of a ply.
func (s *Room) FoundFilm(ctx context.Context, by book.By, code string, ply int) (LayupView, error) {
	return s.changeLayup(
		ctx,
		by,
		book.LayPlies,
		"found film",
		code,
		ply,
		benchOfPly(ply),
		func(tx *book.Tx, v LayupView, b buildRow) error {
			for _, l := range v.Laid {
				if l.Ply != ply {
					continue
				}
				if l.FilmsOff >= l.Films {
					return book.NotNow.Errorf("every film of ply %d is accounted for", ply)
				}
				if err := tx.Exec(`update ply_records set films_off = films_off + 1 where build_id = ?
					and taken_back_at is null
				and ply_id = (select id from plies where revision_id = ?
				and number = ?)`, b.ID, b.RevisionID, ply).Error; err != nil {
					return err
				}
				return tx.Log("film found", b.Code, "", map[string]any{"ply": ply})
			}
			return book.NotNow.Errorf("ply %d is not laid", ply)
		},
	)
}

// ReferBuild writes into the record of a build that somebody has to look at
// it, and why. It stays visible with the build; it forbids nothing.
func (s *Room) ReferBuild(ctx context.Context, by book.By, code, operation, reason string) (LayupView, error) {
	input, named := []any{reason, operation}, benchNamed(operation)
	return s.changeLayup(ctx, by, book.ReferPart, "refer", code, input, named, func(
		tx *book.Tx, v LayupView, b buildRow,
	) error {
		if strings.TrimSpace(reason) == "" {
			return book.Needed.At("reason", "say what is to be looked at")
		}
		return tx.Log("referred at the bench", b.Code, strings.TrimSpace(reason), map[string]any{"plies": len(v.Laid)})
	})
}
