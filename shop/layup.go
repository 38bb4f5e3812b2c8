package shop

import (
	"context"
	"errors"
	"fmt"
	"strings"
	"time"

	"gorm.io/gorm"

	"juxta/core/layup"
	"juxta/core/master"
	"juxta/core/material"
)

// LaidPly is a signature beside its ply.
type LaidPly struct {
	Ply         int        `json:"ply"`
	AngleDeg    float64    `json:"angleDeg"`
	CutPly      string     `json:"cutPly"`
	Roll        string     `json:"roll"`
	FilmsOff    int        `json:"filmsOff"`
	Films       int        `json:"films" doc:"That there are to take off"`
	Person      string     `json:"person"`
	At          time.Time  `json:"at"`
	TakenBackAt *time.Time `json:"takenBackAt,omitempty"`
	TakenBackBy string     `json:"takenBackBy,omitempty"`
	Reason      string     `json:"reason,omitempty"`
}

// DebulkView is a debulk as recorded.
type DebulkView struct {
	AfterPly  int        `json:"afterPly"`
	StartedAt time.Time  `json:"startedAt"`
	StartedBy string     `json:"startedBy"`
	EndedAt   *time.Time `json:"endedAt,omitempty"`
	EndedBy   string     `json:"endedBy,omitempty"`
	Vacuum    *float64   `json:"vacuum,omitempty"`
	Counts    bool       `json:"counts"`
	Says      string     `json:"says,omitempty"`
}

// StepView is one step of the plan.
type StepView struct {
	Ply    int  `json:"ply"`
	Debulk bool `json:"debulk"`
}

// LayupView is the bench: what to do next, and what was done.
type LayupView struct {
	Build       BuildLine    `json:"build"`
	Process     Process      `json:"process"`
	Plies       []PlyView    `json:"plies"`
	Steps       []StepView   `json:"steps"`
	Next        *StepView    `json:"next,omitempty" doc:"Nothing when the layup is complete"`
	NextCut     string       `json:"nextCut,omitempty" doc:"Label of the counted ply that comes next"`
	Laid        []LaidPly    `json:"laid" doc:"In order, without those taken back"`
	TakenBack   []LaidPly    `json:"takenBack"`
	Debulks     []DebulkView `json:"debulks"`
	Running     *DebulkView  `json:"running,omitempty"`
	SinceDebulk int          `json:"sinceDebulk"`
	FilmsShort  []int        `json:"filmsShort" doc:"Plies with a film unaccounted for"`
	Notes       []BenchNote  `json:"notes" doc:"Of the master, by the ply that they stand before"`
}

// BenchNote is what the master says at a ply besides the ply itself.
type BenchNote struct {
	Ply  int    `json:"ply" doc:"That it stands before, or is about; one more than there are: after the last"`
	Kind string `json:"kind" enum:"first,note,caution,hold,second,picture"`
	Says string `json:"says"`

	Picture int64 `json:"picture,omitempty" doc:"File"`
}

// benchNotes are the items between the plies, which come first, and what the
// plies' own items say.
func (m masterOf) benchNotes() []BenchNote {
	out, ply, labels := []BenchNote{}, 1, m.doc.Labels()
	for _, i := range m.doc.Items() {
		add := func(kind, says string) {
			if says != "" {
				out = append(out, BenchNote{Ply: ply, Kind: kind, Says: says})
			}
		}
		if i.Kind != master.Ply {
			says := labels[i.Key]
			for _, part := range []string{i.Name, m.records[i.MaterialID].Name} {
				if part != "" {
					says += ", " + part
				}
			}
			add("first", fmt.Sprintf("%s at x %.1f, y %.1f mm", says, i.X*1e3, i.Y*1e3))
		}
		add("note", i.Note)
		add("caution", i.Caution)
		add("hold", i.Hold)
		if i.Second {
			add("second", "a second person checks it")
		}
		if i.PictureID != 0 {
			out = append(out, BenchNote{ply, "picture", labels[i.Key], i.PictureID})
		}
		if i.Kind == master.Ply {
			ply++
		}
	}
	return out
}

// layupState is the plan of a build's layup and what counts as done.
func (s *Shop) layupState(db *gorm.DB, buildID, revisionID int64) ([]layup.Step, layup.Done, error) {
	var r Revision
	if err := db.Take(&r, revisionID).Error; err != nil {
		return nil, layup.Done{}, err
	}
	var n int64
	if err := db.Model(&Ply{}).Where("revision_id = ?", revisionID).Count(&n).Error; err != nil {
		return nil, layup.Done{}, err
	}
	done := layup.Done{Laid: map[int]bool{}, Debulks: map[int]bool{}}
	var laid, debulked []int
	if err := db.Raw(`select p.number from ply_records l join plies p on p.id = l.ply_id where l.build_id = ? and l.taken_back_at is null`, buildID).Scan(&laid).Error; err != nil {
		return nil, done, err
	}
	if err := db.Raw(`select after_ply from debulks where build_id = ? and counts`, buildID).Scan(&debulked).Error; err != nil {
		return nil, done, err
	}
	for _, ply := range laid {
		done.Laid[ply] = true
	}
	for _, ply := range debulked {
		done.Debulks[ply] = true
	}
	return layup.Steps(int(n), r.Process.policy()), done, nil
}

func (p Process) policy() layup.Policy {
	return layup.Policy{First: p.DebulkFirst, Every: p.DebulkEvery, Duration: seconds(p.DebulkSeconds), Vacuum: p.DebulkVacuum}
}

// Layup is the bench view of a build.
func (s *Shop) Layup(ctx context.Context, code string) (LayupView, error) {
	return view(ctx, s, func(db *gorm.DB) (LayupView, error) { return s.layupView(db, code) })
}

func (s *Shop) layupView(db *gorm.DB, code string) (LayupView, error) {
	b, err := s.build(db, code)
	if err != nil {
		return LayupView{}, err
	}
	if b.Fuse, err = s.kitFuse(db, b); err != nil {
		return LayupView{}, err
	}
	var r Revision
	if err := db.Take(&r, b.RevisionID).Error; err != nil {
		return LayupView{}, err
	}
	plies, materials, err := loadPlies(db, b.RevisionID)
	if err != nil {
		return LayupView{}, err
	}
	steps, done, err := s.layupState(db, b.ID, b.RevisionID)
	if err != nil {
		return LayupView{}, err
	}
	v := LayupView{Build: b.BuildLine, Process: r.Process, Plies: plyViews(plies, materials), Laid: []LaidPly{}, TakenBack: []LaidPly{},
		Debulks: []DebulkView{}, FilmsShort: []int{}, SinceDebulk: layup.Since(done)}
	m, err := s.master(db, r)
	if err != nil {
		return LayupView{}, err
	}
	v.Notes = m.benchNotes()
	for _, st := range steps {
		v.Steps = append(v.Steps, StepView(st))
	}
	if next, open := layup.Next(steps, done); open {
		v.Next = &StepView{next.Ply, next.Debulk}
		if !next.Debulk {
			if err := db.Raw(`select coalesce((select c.code from cut_plies c join plies p on p.id = c.ply_id
				where c.build_id = ? and p.number = ? and c.counted_at is not null order by c.id limit 1), '')`, b.ID, next.Ply).Scan(&v.NextCut).Error; err != nil {
				return LayupView{}, err
			}
		}
	}
	var laid []LaidPly
	if err := db.Raw(`select p.number as ply, p.angle_deg, c.code as cut_ply, r.code as roll, l.films_off, m.films, w.name as person, l.at,
		l.taken_back_at, coalesce(x.name, '') as taken_back_by, l.reason
		from ply_records l join plies p on p.id = l.ply_id join materials m on m.id = p.material_id join cut_plies c on c.id = l.cut_ply_id
		join rolls r on r.id = c.roll_id join people w on w.id = l.person_id left join people x on x.id = l.taken_back_by
		where l.build_id = ? order by p.number, l.id`, b.ID).Scan(&laid).Error; err != nil {
		return LayupView{}, err
	}
	for _, l := range laid {
		if l.TakenBackAt != nil {
			v.TakenBack = append(v.TakenBack, l)
			continue
		}
		v.Laid = append(v.Laid, l)
		if l.FilmsOff < l.Films {
			v.FilmsShort = append(v.FilmsShort, l.Ply)
		}
	}
	if err := db.Raw(`select d.after_ply, d.started_at, s.name as started_by, d.ended_at, coalesce(e.name, '') as ended_by, d.vacuum, d.counts, d.says
		from debulks d join people s on s.id = d.started_by left join people e on e.id = d.ended_by where d.build_id = ? order by d.id`, b.ID).Scan(&v.Debulks).Error; err != nil {
		return LayupView{}, err
	}
	for i := range v.Debulks {
		if v.Debulks[i].EndedAt == nil {
			v.Running = &v.Debulks[i]
		}
	}
	return v, nil
}

func (s *Shop) changeLayup(ctx context.Context, by By, act Act, what, code string, input any, do func(tx *Tx, v LayupView, b buildRow) error) (LayupView, error) {
	return write(ctx, s, by, act, what+" "+code, input, func(tx *Tx) (LayupView, error) {
		b, err := tx.held(code)
		if err != nil {
			return LayupView{}, err
		}
		v, err := s.layupView(tx.DB, b.Code)
		if err != nil {
			return LayupView{}, err
		}
		if !b.KitCounted {
			return LayupView{}, refused("count the kit first: nothing may be laid from a kit that is not whole")
		}
		if b.BagClosed {
			return LayupView{}, conflict("the bag of this part is already closed")
		}
		if err := do(tx, v, b); err != nil {
			return LayupView{}, err
		}
		return s.layupView(tx.DB, b.Code)
	})
}

// SignPly is a signature for one ply laid.
type SignPly struct {
	Ply      int    `json:"ply" doc:"Number that the person saw" minimum:"1"`
	CutPly   string `json:"cutPly" doc:"Label as scanned"`
	FilmsOff int    `json:"filmsOff" minimum:"0" maximum:"2"`
}

// Sign records that a ply was laid. Only the next ply can be signed, only from
// its own label, and only by one person.
func (s *Shop) Sign(ctx context.Context, by By, code string, in SignPly) (LayupView, error) {
	return s.changeLayup(ctx, by, LayPlies, "sign ply", code, in, func(tx *Tx, v LayupView, b buildRow) error {
		for _, l := range v.Laid {
			if l.Ply == in.Ply {
				return conflict("ply %d is already signed, by %s at %s", l.Ply, l.Person, clock(l.At))
			}
		}
		if v.Next == nil {
			return conflict("every ply of this part is laid")
		}
		if v.Next.Debulk {
			return refused("debulk first: it falls due after ply %d", v.Next.Ply)
		}
		if in.Ply != v.Next.Ply {
			return conflict("ply %d comes next, not ply %d", v.Next.Ply, in.Ply)
		}
		c, number, err := tx.cutPlyOf(b, in.CutPly)
		if err != nil {
			return err
		}
		if number != v.Next.Ply {
			return conflict("expecting ply %d: you scanned ply %d", v.Next.Ply, number)
		}
		if c.CountedAt == nil {
			return refused("%s was not counted into this kit", c.Code)
		}
		ply := v.Plies[number-1]
		if in.FilmsOff > ply.Films {
			return invalid("filmsOff", "this material has %d films, not %d", ply.Films, in.FilmsOff)
		}
		if last := lastEvent(tx.DB, b.ID); last == string(material.In) {
			return refused("the kit is in the freezer: take it out first")
		}
		if v.Build.Fuse != nil {
			if f := v.Build.Fuse.Core(); f.Spent >= f.Life {
				return refused("the kit's out-life of %s is spent: a quality person has to decide", material.Hours(f.Life))
			}
		}
		record := PlyRecord{BuildID: b.ID, PlyID: c.PlyID, CutPlyID: c.ID, PersonID: tx.by.Person.ID, At: tx.now, FilmsOff: in.FilmsOff}
		if err := tx.Create(&record).Error; err != nil {
			if errors.Is(err, gorm.ErrDuplicatedKey) {
				return conflict("ply %d was signed by somebody else at the same moment", number)
			}
			return err
		}
		return tx.log("ply signed", b.Code, "", map[string]any{"ply": number, "cutPly": c.Code, "filmsOff": in.FilmsOff, "meaning": "laid", "role": tx.role()})
	})
}

func lastEvent(db *gorm.DB, buildID int64) string {
	var kind string
	db.Raw(`select kind from freezer_events where build_id = ? order by at desc, id desc limit 1`, buildID).Scan(&kind)
	return kind
}

// TakeBack undoes the last signature, with a reason; both stay on record. A
// debulk made on the ply counts no more.
func (s *Shop) TakeBack(ctx context.Context, by By, code string, ply int, reason string) (LayupView, error) {
	return s.changeLayup(ctx, by, LayPlies, "take back", code, []any{ply, reason}, func(tx *Tx, v LayupView, b buildRow) error {
		if len(v.Laid) == 0 {
			return conflict("no ply is laid yet")
		}
		if reason = strings.TrimSpace(reason); reason == "" {
			return invalid("reason", "say why the ply comes off")
		}
		if v.Running != nil {
			return conflict("a debulk is running: end it first")
		}
		last := v.Laid[len(v.Laid)-1]
		if ply != last.Ply {
			return conflict("only the last ply laid can be taken back: that is ply %d", last.Ply)
		}
		if err := tx.Exec(`update ply_records set taken_back_at = ?, taken_back_by = ?, reason = ? where build_id = ? and taken_back_at is null
			and ply_id = (select id from plies where revision_id = ? and number = ?)`, tx.now, tx.by.Person.ID, reason, b.ID, b.RevisionID, ply).Error; err != nil {
			return err
		}
		if err := tx.Exec(`update debulks set counts = false, says = ? where build_id = ? and after_ply >= ? and counts`,
			fmt.Sprintf("ply %d was taken back afterwards", ply), b.ID, ply).Error; err != nil {
			return err
		}
		return tx.log("ply taken back", b.Code, reason, map[string]any{"ply": ply})
	})
}

// FoundFilm accounts for one film that was missing from the tally of a ply.
func (s *Shop) FoundFilm(ctx context.Context, by By, code string, ply int) (LayupView, error) {
	return s.changeLayup(ctx, by, LayPlies, "found film", code, ply, func(tx *Tx, v LayupView, b buildRow) error {
		for _, l := range v.Laid {
			if l.Ply != ply {
				continue
			}
			if l.FilmsOff >= l.Films {
				return conflict("every film of ply %d is accounted for", ply)
			}
			if err := tx.Exec(`update ply_records set films_off = films_off + 1 where build_id = ? and taken_back_at is null
				and ply_id = (select id from plies where revision_id = ? and number = ?)`, b.ID, b.RevisionID, ply).Error; err != nil {
				return err
			}
			return tx.log("film found", b.Code, "", map[string]any{"ply": ply})
		}
		return conflict("ply %d is not laid", ply)
	})
}

// StartDebulk starts the debulk that is due. A film unaccounted for stops it:
// it may lie under the plies.
func (s *Shop) StartDebulk(ctx context.Context, by By, code string) (LayupView, error) {
	return s.changeLayup(ctx, by, LayPlies, "start debulk", code, nil, func(tx *Tx, v LayupView, b buildRow) error {
		switch {
		case v.Running != nil:
			return conflict("a debulk is already running, started by %s", v.Running.StartedBy)
		case v.Next == nil || !v.Next.Debulk:
			return conflict("no debulk is due")
		case len(v.FilmsShort) > 0:
			return refused("%s: a film is unaccounted for. Find it before the debulk", plyList(v.FilmsShort))
		}
		d := Debulk{BuildID: b.ID, AfterPly: v.Next.Ply, StartedAt: tx.now, StartedBy: tx.by.Person.ID}
		if err := tx.Create(&d).Error; err != nil {
			return err
		}
		return tx.log("debulk started", b.Code, "", map[string]any{"afterPly": d.AfterPly})
	})
}

// EndDebulk ends the running debulk with the vacuum read, in Pa. One that was
// too short or too weak stays on record and does not count.
func (s *Shop) EndDebulk(ctx context.Context, by By, code string, vacuum float64) (LayupView, error) {
	return s.changeLayup(ctx, by, LayPlies, "end debulk", code, vacuum, func(tx *Tx, v LayupView, b buildRow) error {
		if v.Running == nil {
			return conflict("no debulk is running")
		}
		if vacuum < 0 || vacuum > 101325 {
			return invalid("vacuum", "a vacuum of %.0f kPa is not possible", vacuum/1e3)
		}
		counts, says := true, ""
		if err := v.Process.policy().ShortOfPolicy(tx.now.Sub(v.Running.StartedAt), vacuum); err != nil {
			counts, says = false, err.Error()
		}
		if err := tx.Model(&Debulk{}).Where("build_id = ? and ended_at is null", b.ID).
			Updates(map[string]any{"ended_at": tx.now, "ended_by": tx.by.Person.ID, "vacuum": vacuum, "counts": counts, "says": says}).Error; err != nil {
			return err
		}
		return tx.log("debulk ended", b.Code, says, map[string]any{"afterPly": v.Running.AfterPly, "vacuum": vacuum, "counts": counts})
	})
}

// ReferBuild writes into the record of a build that somebody has to look at
// it, and why. It stays visible with the build; it forbids nothing.
func (s *Shop) ReferBuild(ctx context.Context, by By, code, reason string) (LayupView, error) {
	return s.changeLayup(ctx, by, ReferPart, "refer", code, reason, func(tx *Tx, v LayupView, b buildRow) error {
		if strings.TrimSpace(reason) == "" {
			return invalid("reason", "say what is to be looked at")
		}
		return tx.log("referred at the bench", b.Code, strings.TrimSpace(reason), map[string]any{"plies": len(v.Laid)})
	})
}

func plyList(numbers []int) string {
	parts := make([]string, len(numbers))
	for i, n := range numbers {
		parts[i] = fmt.Sprint(n)
	}
	switch len(parts) {
	case 0:
		return "no ply"
	case 1:
		return "ply " + parts[0]
	}
	return "plies " + strings.Join(parts[:len(parts)-1], ", ") + " and " + parts[len(parts)-1]
}
