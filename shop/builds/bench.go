package builds

import (
	"context"
	"errors"
	"fmt"
	"slices"

	"gorm.io/gorm"

	"juxta/core/ident"
	"juxta/core/layup"
	"juxta/core/material"
	"juxta/core/route"
	"juxta/shop/book"
	"juxta/shop/parts"
	"juxta/shop/stock"
)

// The signatures at the bench: what is done most often, by people with gloves
// on. Each loads what it needs and answers what changed.

// bench is a build as its bench needs it, held until the transaction ends.
type bench struct {
	ID             int64
	Code           string
	RevisionID     int64
	Number, Letter string
	KitCounted     bool
	BagClosed      bool
	EndedWhy       string
	Ended          bool
	Plies          int
	Revision       parts.Revision `gorm:"embedded;embeddedPrefix:r_"`

	progress *RouteProgress // nil: one pass
}

// mayLay refuses a signature at a bench before its turn, or once what comes next is begun.
func (b bench) mayLay(k int) error {
	if b.progress == nil {
		return refusalOf(layup.CheckKit(b.KitCounted, b.BagClosed))
	}
	return b.progress.mayLay(k)
}

// of is the bench at which a ply is laid, and what there is to do there.
func (b bench) of(ply int, done layup.Done) (int, layupPlan, error) {
	k := -1
	if b.progress != nil {
		if k = b.progress.benchOf(ply); k < 0 {
			return k, layupPlan{}, book.NotNow.Errorf("ply %d is not laid by this route", ply)
		}
	}
	plan := planOf(b.Revision, b.Plies, b.progress, k)
	plan.Done = done
	return k, plan, nil
}

// bench loads and holds a build, and refuses it to somebody who does not hold
// what its master demands.
func (s *Room) benchOf(tx *book.Tx, code string) (bench, error) {
	kind, id, err := ident.Parse(code)
	if err != nil {
		return bench{}, book.Unreadable.At("id", "%s", err)
	}
	if kind != ident.Build {
		return bench{}, book.Unreadable.At("id", "%s is not the id of a build", id)
	}
	var found []bench
	if err := tx.Raw(`select b.id, b.code, b.revision_id, t.number, r.letter, b.kit_counted_at is not null as
		kit_counted,
			exists (select from bags g
			where g.build_id = b.id) as bag_closed, b.ended_at is not null as ended, b.ended_why,
			(select count(*) from plies y
			where y.revision_id = b.revision_id) as plies, r.id as r_id, r.process as r_process,
			r.doc as r_doc
		from builds b join revisions r on r.id = b.revision_id join parts t on t.id = r.part_id
		where b.code = ? for update of b`, id).Scan(&found).Error; err != nil {
		return bench{}, err
	}
	if len(found) == 0 {
		return bench{}, book.NoSuch.Errorf("there is no build %s here", id)
	}
	b := found[0]
	if b.Ended {
		return b, book.Done.Errorf("this build was ended: %s", b.EndedWhy)
	}
	if b.progress, err = s.routeProgressOf(tx.DB, buildRow{ID: b.ID, RevisionID: b.RevisionID}); err != nil {
		return b, err
	}
	return b, book.HoldsAll(
		tx.DB,
		tx.By.Person,
		b.Revision.Process.Qualifications,
		fmt.Sprintf("%s of %s %s", tx.Act, b.Number, b.Letter),
		tx.Now,
	)
}

// benchPly is a cut ply of a build with what the bench asks of it.
type benchPly struct {
	CutPly   `gorm:"embedded"`
	Number   int
	Films    int
	OutLife  float64
	TackLife float64
}

func (c benchPly) label() layup.Label {
	return layup.Label{Code: c.Code, Ply: c.Number, Counted: c.CountedAt != nil, Films: c.Films}
}

// benchPlies are all cut plies of a build.
func benchPlies(db *gorm.DB, buildID int64) ([]benchPly, error) {
	var out []benchPly
	err := db.Raw(`select c.*, p.number, s.films, m.out_life, m.tack_life from cut_plies c
		join plies p on p.id = c.ply_id
		join materials s on s.id = p.material_id join materials m on m.id = c.material_id where c.build_id = ?
		and c.void_at is null
		order by c.id`, buildID).
		Scan(&out).
		Error
	return out, err
}

// SignPly is a signature for one ply laid.
type SignPly struct {
	Ply      int    `json:"ply" doc:"Number that the person saw" minimum:"1"`
	CutPly   string `json:"cutPly" doc:"Its label" maxLength:"20"`
	How      string `json:"how,omitempty" enum:"scanned,chosen" doc:"How the label was identified: scanned or typed from the backing, or the one that the page expected; missing: chosen"`
	FilmsOff int    `json:"filmsOff" minimum:"0" maximum:"2"`
}

// SignResult is what a signature changed.
type SignResult struct {
	Ply  int       `json:"ply"`
	Next *StepView `json:"next,omitempty" doc:"Nothing when the layup is complete"`
}

// Sign records that a ply was laid. Only the next ply can be signed, only from
// its own label, and only by one person.
func (s *Room) Sign(ctx context.Context, by book.By, code string, in SignPly) (SignResult, error) {
	return book.Write(ctx, s.Book, by, book.LayPlies, "sign ply "+code, in, func(tx *book.Tx) (SignResult, error) {
		b, err := s.benchOf(tx, code)
		if err != nil {
			return SignResult{}, err
		}
		done, err := layupDone(tx.DB, b.ID)
		if err != nil {
			return SignResult{}, err
		}
		k, plan, err := b.of(in.Ply, done)
		if err != nil {
			return SignResult{}, err
		}
		if err := b.mayLay(k); err != nil {
			return SignResult{}, err
		}
		if err := b.progress.Asks(tx, k); err != nil {
			return SignResult{}, err
		}
		if done.Laid[in.Ply] {
			return SignResult{}, alreadySigned(tx, b, in.Ply)
		}
		next, not := plan.MaySign(in.Ply)
		if not != nil {
			return SignResult{}, refusalOf(not)
		}
		all, err := benchPlies(tx.DB, b.ID)
		if err != nil {
			return SignResult{}, err
		}
		c, err := labelled(tx, b, all, in.CutPly, next.Ply)
		if err != nil {
			return SignResult{}, err
		}
		if err := c.label().Off(in.FilmsOff); err != nil {
			return SignResult{}, book.Unreadable.At("filmsOff", "%s", err)
		}
		if err := s.warmKit(tx, b, all, next.Ply); err != nil {
			return SignResult{}, err
		}
		how := in.How
		if how == "" {
			how = "chosen"
		}
		record := PlyRecord{
			BuildID:  b.ID,
			PlyID:    c.PlyID,
			CutPlyID: c.ID,
			PersonID: tx.By.Person.ID,
			At:       tx.Now,
			FilmsOff: in.FilmsOff,
			How:      how,
		}
		if err := tx.Create(&record).Error; err != nil {
			if errors.Is(err, gorm.ErrDuplicatedKey) {
				return SignResult{}, book.Changed.Errorf("ply %d was signed by somebody else at the same moment",
					next.Ply)
			}
			return SignResult{}, err
		}
		done.Laid[next.Ply] = true
		out := SignResult{Ply: next.Ply}
		if then, open := layup.Next(plan.Steps, done); open {
			step := plan.view(then)
			out.Next = &step
		}
		return out, tx.Log(
			"ply signed",
			b.Code,
			"",
			map[string]any{
				"ply":      next.Ply,
				"cutPly":   c.Code,
				"how":      how,
				"filmsOff": in.FilmsOff,
				"meaning":  "laid",
				"role":     tx.Role(),
			},
		)
	})
}

// labelled finds the cut ply with a label among those of a build, and refuses
// one that is not the next ply's.
func labelled(tx *book.Tx, b bench, all []benchPly, label string, next int) (benchPly, error) {
	_, id, err := ident.Parse(label)
	if err != nil {
		return benchPly{}, book.Unreadable.At("cutPly", "%s", err)
	}
	k := slices.IndexFunc(all, func(c benchPly) bool { return c.Code == id })
	if k < 0 {
		// Of another kit, or of none: say which.
		_, _, err := cutPlyOf(tx, buildRow{ID: b.ID}, label)
		if err == nil {
			err = fmt.Errorf("cut ply %s is of build %s and was not found there", id, b.Code)
		}
		return benchPly{}, err
	}
	c := all[k]
	if err := refusalOf(c.label().Fits(next)); err != nil {
		return c, err
	}
	return c, nil
}

// warmKit refuses the kit of a ply if it lies in the freezer, or its life is spent.
func (s *Room) warmKit(tx *book.Tx, b bench, all []benchPly, ply int) error {
	kit := ""
	if b.progress != nil {
		kit = b.progress.kitOf(b.progress.stageOf(ply))
		all = slices.DeleteFunc(slices.Clone(all), func(c benchPly) bool {
			return b.progress.kitOf(b.progress.stageOf(c.Number)) != kit
		})
	}
	var events []stock.FreezerEvent
	if err := tx.Where("build_id = ? and operation = ?", b.ID, kit).Order("at, id").Find(&events).Error; err != nil {
		return err
	}
	if n := len(events); n > 0 && events[n-1].Kind == string(material.In) {
		return book.Cold.Errorf("the kit is in the freezer: take it out first")
	}
	warm, err := s.Warm(tx.DB)
	if err != nil {
		return err
	}
	var outTimes []material.OutTimeStatus
	for _, c := range all {
		clock, err := c.carried().Piece(c.CutAt, tx.Now, stock.CoreEvents(events), warm).Clock(tx.Now)
		if err != nil {
			return err
		}
		outTimes = append(
			outTimes,
			material.NewOutTimeStatus(clock, material.Limits{OutLife: stock.Seconds(c.OutLife)}, 0, tx.Now),
		)
	}
	if f := material.WorstOutTime(outTimes); f.Ages && f.Spent >= f.Life {
		return book.Life.Errorf(
			"the kit's out-life of %s is spent: a quality person has to decide",
			material.Hours(f.Life),
		)
	}
	return nil
}

// alreadySigned says who was first.
func alreadySigned(tx *book.Tx, b bench, ply int) error {
	var first LaidPly
	if err := tx.Raw(`select p.name as person, l.at from ply_records l join people p on p.id = l.person_id
		join plies y on y.id = l.ply_id
		where l.build_id = ? and y.number = ? and l.taken_back_at is null`, b.ID, ply).Scan(&first).Error; err != nil {
		return err
	}
	return book.Done.Errorf("ply %d is already signed, by %s at %s", ply, first.Person, book.Clock(first.At))
}

// ScannedLabel is what the bench waits for, beside a label that somebody scanned.
type ScannedLabel struct {
	CutPly  string `json:"cutPly"`
	Ply     int    `json:"ply" doc:"That the label is of"`
	Next    int    `json:"next,omitempty" doc:"Ply that comes next; 0: something else, or nothing"`
	Fits    bool   `json:"fits" doc:"It is the next ply's label, and counted into this kit"`
	Message string `json:"message" doc:"What the label is, and why it does not fit"`
}

// Expecting says whose label was scanned at the bench of a build, and whether it
// is the one that comes next. It signs nothing.
func (s *Room) Expecting(ctx context.Context, code, label string) (ScannedLabel, error) {
	return book.View(ctx, s.Book, func(db *gorm.DB) (ScannedLabel, error) {
		tx := &book.Tx{DB: db, Ctx: ctx}
		row, err := s.Build(db, code)
		if err != nil {
			return ScannedLabel{}, err
		}
		c, number, err := cutPlyOf(tx, row, label)
		if err != nil {
			return ScannedLabel{}, err
		}
		var r parts.Revision
		if err := db.Take(&r, row.RevisionID).Error; err != nil {
			return ScannedLabel{}, err
		}
		done, err := layupDone(db, row.ID)
		if err != nil {
			return ScannedLabel{}, err
		}
		b := bench{Plies: row.Plies, Revision: r, progress: row.progress}
		_, plan, err := b.of(number, done)
		if err != nil {
			return ScannedLabel{}, err
		}
		out := ScannedLabel{CutPly: c.Code, Ply: number}
		next, open := layup.Next(plan.Steps, done)
		if open && !next.Debulk && next.Kind == "" {
			out.Next = next.Ply
		}
		label := layup.Label{Code: c.Code, Ply: number, Counted: c.CountedAt != nil, Laid: done.Laid[number]}
		out.Message, out.Fits = label.Scanned(out.Next)
		return out, nil
	})
}

// MeetDemand signs that a demand of the master is met: a hold point by whoever
// lays, a second look by the second person, with their own PIN.
type MeetDemand struct {
	Kind     string `json:"kind" enum:"hold,second"`
	Key      string `json:"key" maxLength:"24" doc:"Of the item, as the step says"`
	PersonID int64  `json:"personId,omitempty" doc:"Second look: who looked"`
	PIN      string `json:"pin,omitempty" maxLength:"12" doc:"Second look: their PIN"`
}

// Meet signs a demand of the master as met, in its turn, or afterwards where it
// was passed over before it was asked for at its step.
func (s *Room) Meet(ctx context.Context, by book.By, code string, in MeetDemand) (LayupView, error) {
	act, signs := book.LayPlies, by
	if in.Kind == layup.Second {
		act = book.SecondLook
		if by.Person != nil {
			p, err := s.PersonByID(ctx, in.PersonID)
			if err != nil {
				return LayupView{}, book.Needed.At("personId", "enter who checked")
			}
			signs.Person = p
			if signs, err = s.Signed(ctx, signs, act, in.PIN); err != nil {
				return LayupView{}, err
			}
			by = by.With(signs)
		}
	}
	in.PIN = ""
	return book.Write(ctx, s.Book, by, act, "meet demand "+code, in, func(tx *book.Tx) (LayupView, error) {
		b, err := s.benchOf(tx, code)
		if err != nil {
			return LayupView{}, err
		}
		done, err := layupDone(tx.DB, b.ID)
		if err != nil {
			return LayupView{}, err
		}
		k := -1
		if b.progress != nil {
			if k = b.progress.benchOfItem(in.Key); k < 0 {
				return LayupView{}, book.NoSuch.Errorf("the master has no such point there")
			}
		}
		plan := planOf(b.Revision, b.Plies, b.progress, k)
		plan.Done = done
		found, not := plan.MayMeet(in.Kind, in.Key)
		if not != nil && (not.Unknown || done.Met[layup.MetDemand{Kind: in.Kind, Key: in.Key}]) {
			return LayupView{}, refusalOf(not)
		}
		// What was passed over before it was asked for is signed afterwards, bag or none.
		if b.progress == nil {
			err = refusalOf(layup.CheckKit(b.KitCounted, false))
		} else if b.progress.Statuses[k].State == route.Waiting {
			err = b.progress.turn(k)
		} else if in.Kind == layup.Hold {
			err = b.progress.Asks(tx, k)
		}
		if err != nil {
			return LayupView{}, err
		}
		if not != nil {
			return LayupView{}, refusalOf(not)
		}
		step := plan.view(found)
		signer := tx.By.Person.ID
		if in.Kind == layup.Second {
			signer = signs.Person.ID
			var layer int64
			if err := tx.Raw(`select count(*) from ply_records l join plies p on p.id = l.ply_id where l.build_id = ?
				and p.item_key = ? and l.person_id = ? and l.taken_back_at is null`,
				b.ID, in.Key, signer).Scan(&layer).Error; err != nil {
				return LayupView{}, err
			}
			if layer > 0 {
				return LayupView{}, book.Second.Errorf("%s laid it: somebody else has to check", signs.Person.Name)
			}
		}
		mark := SignedDemand{
			BuildID:   b.ID,
			Kind:      in.Kind,
			ItemKey:   in.Key,
			Ply:       step.Ply,
			Text:      step.Text,
			PersonID:  signer,
			EnteredBy: tx.By.Person.ID,
			At:        tx.Now,
		}
		if err := tx.Create(&mark).Error; err != nil {
			if errors.Is(err, gorm.ErrDuplicatedKey) {
				return LayupView{}, book.Done.Errorf("this is signed already")
			}
			return LayupView{}, err
		}
		what := "hold point done"
		if in.Kind == layup.Second {
			what = "second person signed"
		}
		if err := tx.Log(what, b.Code, step.Text, map[string]any{
			"ply": step.Ply, "item": in.Key, "person": signs.Person.Name, "meaning": what, "role": signs.Person.Role,
		}); err != nil {
			return LayupView{}, err
		}
		row, err := s.Build(tx.DB, code)
		if err != nil {
			return LayupView{}, err
		}
		return s.layupView(tx.DB, row, k)
	})
}

// mayBe are the people who may do an act, by name.
func mayBe(db *gorm.DB, act book.Act) ([]NamedPerson, error) {
	p, _ := book.PermitFor(act)
	out := []NamedPerson{}
	err := db.Raw(`select id, name from people where left_at is null and role in ? order by name`, p.Roles).
		Scan(&out).
		Error
	return out, err
}
