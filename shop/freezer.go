package shop

import (
	"context"
	"errors"
	"fmt"
	"strings"
	"time"

	"gorm.io/gorm"

	"juxta/core/ident"
	"juxta/core/material"
	"juxta/wire"
)

// RollView is a roll with its fuse.
type RollView struct {
	Code      string      `json:"code"`
	Material  string      `json:"material"`
	Batch     string      `json:"batch"`
	Place     string      `json:"place"`
	Width     float64     `json:"width" doc:"m"`
	Length    float64     `json:"length" doc:"Left, m"`
	Flaws     []wire.Flaw `json:"flaws" doc:"m from the present end of the roll"`
	Fuse      wire.Fuse   `json:"fuse"`
	OutSince  *time.Time  `json:"outSince,omitempty"`
	Refusal   string      `json:"refusal,omitempty" doc:"Why it must not be used now"`
	NeededFor []string    `json:"neededFor" doc:"Builds waiting to be cut from this material"`
}

// RollLine is one line of a roll's ledger.
type RollLine struct {
	Kind      string    `json:"kind"`
	At        time.Time `json:"at"`
	EnteredAt time.Time `json:"enteredAt"`
	Length    float64   `json:"length"`
	Person    string    `json:"person"`
	Note      string    `json:"note,omitempty"`
}

// RollDetail is a roll with its ledger.
type RollDetail struct {
	RollView
	Ledger []RollLine `json:"ledger"`
}

// MaterialView is a material as listed.
type MaterialView struct {
	ID       int64   `json:"id"`
	Name     string  `json:"name"`
	Kind     string  `json:"kind"`
	Resin    string  `json:"resin"`
	Width    float64 `json:"width"`
	Films    int     `json:"films"`
	OutLife  float64 `json:"outLife"`
	TackLife float64 `json:"tackLife"`
}

// Materials lists what the shop works with.
func (s *Shop) Materials(ctx context.Context) ([]MaterialView, error) {
	out := []MaterialView{}
	return out, s.DB.Gorm.WithContext(ctx).Raw(`select m.id, m.name, m.kind, r.name as resin, m.width, m.films, m.out_life, m.tack_life
		from materials m join resins r on r.id = m.resin_id order by m.name`).Scan(&out).Error
}

func (m Material) limits(shelfEnd *time.Time) material.Limits {
	l := material.Limits{OutLife: seconds(m.OutLife), TackLife: seconds(m.TackLife)}
	if shelfEnd != nil {
		l.ShelfEnd = *shelfEnd
	}
	return l
}

func seconds(s float64) time.Duration { return time.Duration(s * float64(time.Second)) }

func coreEvents(events []FreezerEvent) []material.Event {
	out := make([]material.Event, len(events))
	for i, e := range events {
		out[i] = material.Event{Kind: material.EventKind(e.Kind), At: e.At, Length: e.Length}
	}
	return out
}

// demand is what is waiting to be cut from a material: the builds, and until
// when the plan keeps their plies warm.
type demand struct {
	builds []string
	until  time.Time
}

func (s *Shop) demands(db *gorm.DB) (map[int64]demand, error) {
	var rows []struct {
		MaterialID int64
		Code       string
		CureAt     time.Time
	}
	err := db.Raw(`select distinct p.material_id, b.code, b.cure_at from builds b join plies p on p.revision_id = b.revision_id
		where not exists (select from cut_plies c where c.build_id = b.id and c.ply_id = p.id) order by b.code`).Scan(&rows).Error
	if err != nil {
		return nil, err
	}
	out := map[int64]demand{}
	for _, r := range rows {
		d := out[r.MaterialID]
		d.builds = append(d.builds, r.Code)
		if r.CureAt.After(d.until) {
			d.until = r.CureAt
		}
		out[r.MaterialID] = d
	}
	return out, nil
}

// Rolls lists the rolls with their fuses: what is out first, then the first to
// expire. One query each for rolls, events, materials and demand.
func (s *Shop) Rolls(ctx context.Context) ([]RollView, error) {
	return view(ctx, s, s.rolls)
}

func (s *Shop) rolls(db *gorm.DB) ([]RollView, error) {
	var rolls []Roll
	if err := db.Order("code").Find(&rolls).Error; err != nil {
		return nil, err
	}
	return s.rollViews(db, rolls)
}

func (s *Shop) rollViews(db *gorm.DB, rolls []Roll) ([]RollView, error) {
	now := s.Now()
	ids, materialIDs := make([]int64, len(rolls)), make([]int64, len(rolls))
	for i, r := range rolls {
		ids[i], materialIDs[i] = r.ID, r.MaterialID
	}
	materials, err := byID(db, materialIDs, func(m Material) int64 { return m.ID })
	if err != nil {
		return nil, err
	}
	var events []FreezerEvent
	if err := db.Where("roll_id in ?", ids).Order("at").Find(&events).Error; err != nil {
		return nil, err
	}
	ledgers := map[int64][]FreezerEvent{}
	for _, e := range events {
		ledgers[*e.RollID] = append(ledgers[*e.RollID], e)
	}
	demands, err := s.demands(db)
	if err != nil {
		return nil, err
	}
	views := make([]RollView, 0, len(rolls))
	for _, r := range rolls {
		c, err := material.Ledger(0, coreEvents(ledgers[r.ID]), now)
		if err != nil {
			return nil, fmt.Errorf("ledger of %s: %w", r.Code, err)
		}
		m, d := materials[r.MaterialID], demands[r.MaterialID]
		planned := time.Duration(0)
		if !d.until.IsZero() {
			planned = d.until.Sub(now)
		}
		f := material.NewFuse(c, m.limits(r.ShelfEnd), planned, now)
		v := RollView{Code: r.Code, Material: m.Name, Batch: r.Batch, Place: r.Place, Width: r.Width, Length: c.Length,
			Flaws: flawsLeft(r.Flaws, ledgers[r.ID]), Fuse: wire.FromFuse(f, m.TackLife > 0), NeededFor: d.builds}
		if v.NeededFor == nil {
			v.NeededFor = []string{}
		}
		if c.Out {
			v.OutSince = &c.Since
		}
		if err := f.Refusal(now); err != nil {
			v.Refusal = err.Error()
		}
		views = append(views, v)
	}
	return views, nil
}

// flawsLeft are a roll's flaws, written down from its end as received, counted
// from its end as it is now.
func flawsLeft(flaws []wire.Flaw, ledger []FreezerEvent) []wire.Flaw {
	used := 0.0
	for _, e := range ledger {
		if e.Kind == string(material.Used) {
			used += e.Length
		}
	}
	left := []wire.Flaw{}
	for _, f := range flaws {
		if f.To > used {
			left = append(left, wire.Flaw{From: max(0, f.From-used), To: f.To - used})
		}
	}
	return left
}

// Roll is one roll with its ledger.
func (s *Shop) Roll(ctx context.Context, code string) (RollDetail, error) {
	return view(ctx, s, func(db *gorm.DB) (RollDetail, error) { return s.roll(db, code) })
}

func (s *Shop) roll(db *gorm.DB, code string) (RollDetail, error) {
	r, err := find[Roll](db, ident.Roll, code, "roll")
	if err != nil {
		return RollDetail{}, err
	}
	views, err := s.rollViews(db, []Roll{r})
	if err != nil {
		return RollDetail{}, err
	}
	lines := []RollLine{}
	err = db.Raw(`select f.kind, f.at, f.entered_at, f.length, p.name as person, f.note from freezer_events f
		join people p on p.id = f.person_id where f.roll_id = ? order by f.at, f.id`, r.ID).Scan(&lines).Error
	return RollDetail{views[0], lines}, err
}

// NewRoll is a roll as received, frozen.
type NewRoll struct {
	MaterialID int64       `json:"materialId"`
	Batch      string      `json:"batch" minLength:"1" maxLength:"60"`
	Length     float64     `json:"length" doc:"m" exclusiveMinimum:"0" maximum:"2000"`
	Place      string      `json:"place" maxLength:"60"`
	ShelfEnd   *time.Time  `json:"shelfEnd,omitempty"`
	Flaws      []wire.Flaw `json:"flaws,omitempty"`
}

// ReceiveRoll puts a new roll into the freezer.
func (s *Shop) ReceiveRoll(ctx context.Context, by By, in NewRoll) (RollView, error) {
	return write(ctx, s, by, "receive roll", in, func(tx *Tx) (RollView, error) {
		var m Material
		if err := tx.Take(&m, in.MaterialID).Error; err != nil {
			return RollView{}, invalid("materialId", "this material is not known here")
		}
		if strings.TrimSpace(in.Batch) == "" || in.Length <= 0 {
			return RollView{}, invalid("batch", "the batch from the label and the length are needed")
		}
		if in.Flaws == nil {
			in.Flaws = []wire.Flaw{}
		}
		id, code, err := nextCode(tx.DB, "rolls", ident.Roll)
		if err != nil {
			return RollView{}, err
		}
		r := Roll{ID: id, Code: code, MaterialID: m.ID, Batch: strings.TrimSpace(in.Batch), Width: m.Width, ShelfEnd: in.ShelfEnd, Place: in.Place, Flaws: in.Flaws}
		if err := tx.Create(&r).Error; err != nil {
			return RollView{}, err
		}
		if err := tx.rollEvent(r, material.Received, tx.now, in.Length, ""); err != nil {
			return RollView{}, err
		}
		return tx.rollView(r)
	})
}

// Moved says that a roll left the freezer or came back. At is when it
// happened; nil means now.
type Moved struct {
	At   *time.Time `json:"at,omitempty" doc:"When it happened, if not now"`
	Note string     `json:"note,omitempty" maxLength:"200"`
}

// TakeOut takes a roll out of the freezer.
func (s *Shop) TakeOut(ctx context.Context, by By, code string, in Moved) (RollView, error) {
	return s.moveRoll(ctx, by, code, material.Out, in)
}

// PutBack puts a roll back into the freezer.
func (s *Shop) PutBack(ctx context.Context, by By, code string, in Moved) (RollView, error) {
	return s.moveRoll(ctx, by, code, material.In, in)
}

func (s *Shop) moveRoll(ctx context.Context, by By, code string, kind material.EventKind, in Moved) (RollView, error) {
	return write(ctx, s, by, string(kind)+" "+code, in, func(tx *Tx) (RollView, error) {
		r, err := find[Roll](locked(tx.DB), ident.Roll, code, "roll")
		if err != nil {
			return RollView{}, err
		}
		at := tx.now
		if in.At != nil {
			at = *in.At
		}
		if err := tx.rollEvent(r, kind, at, 0, in.Note); err != nil {
			return RollView{}, err
		}
		return tx.rollView(r)
	})
}

// rollEvent adds a line to a roll's ledger, if the ledger still adds up with
// it, and logs it. The roll must be held.
func (tx *Tx) rollEvent(r Roll, kind material.EventKind, at time.Time, length float64, note string) error {
	if at.After(tx.now) {
		return invalid("at", "it cannot have happened in the future")
	}
	var before []FreezerEvent
	if err := tx.Where("roll_id = ?", r.ID).Find(&before).Error; err != nil {
		return err
	}
	event := FreezerEvent{RollID: &r.ID, Kind: string(kind), At: at, EnteredAt: tx.now, Length: length, PersonID: tx.by.Person.ID, Note: note}
	if _, err := material.Ledger(0, coreEvents(append(before, event)), tx.now); err != nil {
		var wrong *material.Error
		if errors.As(err, &wrong) {
			return conflict("%s: %s", r.Code, wrong.Says)
		}
		return err
	}
	if err := tx.Create(&event).Error; err != nil {
		return err
	}
	said := map[material.EventKind]string{material.Received: "roll received", material.Out: "roll taken out", material.In: "roll put back", material.Used: "length taken off"}[kind]
	return tx.log(said, r.Code, note, map[string]any{"at": at, "length": length})
}

func (tx *Tx) rollView(r Roll) (RollView, error) {
	views, err := tx.s.rollViews(tx.DB, []Roll{r})
	if err != nil {
		return RollView{}, err
	}
	return views[0], nil
}
