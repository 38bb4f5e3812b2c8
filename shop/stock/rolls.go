package stock

import (
	"context"
	"fmt"
	"strings"
	"time"

	"gorm.io/gorm"

	"juxta/calc"
	"juxta/core/geom"
	"juxta/core/ident"
	"juxta/core/material"
	"juxta/core/nest"
	"juxta/shop/book"
	"juxta/shop/climate"
)

// RollView is a roll or an off-cut with its out-time.
type RollView struct {
	Code      string             `json:"code"`
	Kind      string             `json:"kind" enum:"roll,off-cut"`
	Parent    string             `json:"parent,omitempty" doc:"Off-cut: of which roll"`
	Outline   geom.Ring          `json:"outline,omitempty" doc:"Off-cut: m"`
	Material  string             `json:"material"`
	Family    int64              `json:"family" doc:"Of the material"`
	Version   int                `json:"version" doc:"Of the material"`
	Unit      string             `json:"unit" enum:"m,kg"`
	Batch     string             `json:"batch" doc:"Lot"`
	BatchCode string             `json:"batchCode"`
	FreezerID int64              `json:"freezerId,omitempty"`
	Place     string             `json:"place" doc:"Freezer and place where it lies, or belongs"`
	Width     float64            `json:"width" doc:"m"`
	Length    float64            `json:"length" doc:"Left, m or kg"`
	Flaws     []nest.Flaw        `json:"flaws" doc:"m from the present end of the roll"`
	OutTime   calc.OutTimeStatus `json:"outTime"`
	Open      bool               `json:"open" doc:"Its bag is open"`
	OutSince  *time.Time         `json:"outSince,omitempty"`
	DewAt     *time.Time         `json:"dewAt,omitempty" doc:"Sealed and thawing: when all of it is above the dew point"`
	RoomAt    *time.Time         `json:"roomAt,omitempty" doc:"Thawing: when all of it is at the room's temperature"`
	Refusal   string             `json:"refusal,omitempty" doc:"Why it must not be used now"`
	NeededFor []string           `json:"neededFor" doc:"Builds waiting to be cut from this material"`
}

// RollLine is one line of a roll's ledger.
type RollLine struct {
	ID        int64       `json:"id"`
	Kind      string      `json:"kind"`
	At        time.Time   `json:"at"`
	EnteredAt time.Time   `json:"enteredAt"`
	Length    float64     `json:"length"`
	Person    string      `json:"person"`
	PersonID  int64       `json:"personId"`
	Note      string      `json:"note,omitempty"`
	Until     *time.Time  `json:"until,omitempty" doc:"Re-test: new end of shelf life"`
	More      float64     `json:"more,omitempty" doc:"Re-test: added out-life, s"`
	Cancels   int64       `json:"cancels,omitempty" doc:"Counter-entry: the line that it takes back"`
	TakenBack bool        `json:"takenBack" doc:"A counter-entry took it back"`
	Stands    string      `json:"stands,omitempty" doc:"Why nobody can take it back; missing: who may correct it can"`
	Detail    EventDetail `json:"detail"`
}

// LifePoint is a point of the line of a life.
type LifePoint struct {
	At    time.Time `json:"at"`
	Spent float64   `json:"spent" doc:"Out-time, s"`
	Out   bool      `json:"out" doc:"Outside the freezer from here on"`
}

// RollDetail is a roll with its ledger and its life as a line.
type RollDetail struct {
	RollView
	Blocked string                  `json:"blocked,omitempty" doc:"Why its batch must not be cut"`
	Bench   float64                 `json:"bench" doc:"Out-time on the bench, s"`
	Warm    float64                 `json:"warm" doc:"Out-time in a freezer that was too warm, s"`
	Before  float64                 `json:"before" doc:"Out-time before its first event, s"`
	Ledger  []RollLine              `json:"ledger"`
	Life    []LifePoint             `json:"life"`
	Warmths []FailureView           `json:"warmths" doc:"Failures of freezers that it lay in"`
	OffCuts []RollView              `json:"offCuts"`
	Ageing  *EquivalentStay         `json:"ageing,omitempty" doc:"The present stay by the room's logged temperature"`
	Caution string                  `json:"caution,omitempty" doc:"Of the data sheet"`
	Room    *climate.RoomConditions `json:"room,omitempty" doc:"As measured now"`
	Coldest *float64                `json:"coldest,omitempty" doc:"Foretold temperature of its coldest place now, K"`
}

// RollQuery asks for a page of the stock.
type RollQuery struct {
	Find   string
	Family int64  // of a material; 0: any
	State  string // hand (the default), out, finished or all
	Kind   string // roll or off-cut; empty: both
	Offset int
	Limit  int // 0 means 60, at most 200
}

// Stock is a page of the rolls with the counts of all.
type Stock struct {
	Out    int        `json:"out"`
	Frozen int        `json:"frozen"`
	Total  int        `json:"total" doc:"That answer the question"`
	Rolls  []RollView `json:"rolls" doc:"What is out first, then what has least life left"`
}

// Rolls lists rolls with their out-times, a page at a time. It reads the clock of
// each roll as it was added up at its last event, so that its cost grows with
// the page and not with the ledgers.
func (s *Room) Rolls(ctx context.Context, q RollQuery) (Stock, error) {
	return book.Cached(
		ctx,
		s.Book,
		fmt.Sprintf("rolls %+v", q),
		func(ctx context.Context) (Stock, error) { return s.stockPage(ctx, q) },
	)
}

func (s *Room) stockPage(ctx context.Context, q RollQuery) (Stock, error) {
	return book.View(ctx, s.Book, func(db *gorm.DB) (Stock, error) {
		where, args := []string{}, []any{}
		switch q.State {
		case "", "hand":
			where = append(where, "r.length > 0")
		case "out":
			where = append(where, "r.length > 0 and r.out")
		case "finished":
			where = append(where, "r.length <= 0")
		case "all":
		default:
			return Stock{}, book.Wrong.At("state", "the state is hand, out, finished or all")
		}
		if q.Kind != "" {
			where, args = append(where, "r.kind = ?"), append(args, q.Kind)
		}
		if q.Family != 0 {
			where, args = append(
				where,
				"r.material_id in (select id from materials where family = ?)",
			), append(
				args,
				q.Family,
			)
		}
		if find := strings.TrimSpace(q.Find); find != "" {
			like := book.LikePattern(find)
			where = append(
				where,
				"(r.code ilike ? or r.place ilike ? or r.batch_id in (select id from batches where lot ilike ?) or "+
					"r.material_id in (select id from materials where name ilike ?))",
			)
			args = append(args, like, like, like, like)
		}
		if q.Limit <= 0 {
			q.Limit = 60
		}
		clause := strings.Join(append(where, "true"), " and ")
		var out Stock
		if err := db.Raw(`select count(*) filter (where out) as out, count(*) filter (where not out) as frozen
			from rolls
			where length > 0`).Row().Scan(&out.Out, &out.Frozen); err != nil {
			return out, err
		}
		// The whole stock is counted already; a part of it is counted as it is read.
		out.Total = out.Out + out.Frozen
		total, part := "0", len(args) > 0 || q.State != "" && q.State != "hand"
		if part {
			total = "count(*) over ()"
		}
		var rows []struct {
			Roll  `gorm:"embedded"`
			Found int
		}
		if err := db.Raw(`select r.*, `+total+` as found from rolls r where `+clause+`
			order by r.out desc, r.life_left, r.id offset ?
			limit ?`, append(args, max(0, q.Offset), min(q.Limit, 200))...).Scan(&rows).Error; err != nil {
			return out, err
		}
		rolls := make([]Roll, len(rows))
		for i, r := range rows {
			rolls[i] = r.Roll
		}
		if part {
			out.Total = 0
			if len(rows) > 0 {
				out.Total = rows[0].Found
			}
		}
		var err error
		out.Rolls, err = s.RollViews(db, rolls)
		return out, err
	})
}

// RollsOf lists all rolls of a batch.
func (s *Room) RollsOf(ctx context.Context, batch string) ([]RollView, error) {
	return book.View(ctx, s.Book, func(db *gorm.DB) ([]RollView, error) {
		b, err := book.Find[Batch](db, ident.Batch, batch, "batch")
		if err != nil {
			return nil, err
		}
		var rolls []Roll
		if err := db.Where("batch_id = ?", b.ID).Order("id").Find(&rolls).Error; err != nil {
			return nil, err
		}
		return s.RollViews(db, rolls)
	})
}

// demand is what is waiting to be cut from a material: the builds, and until
// when the plan keeps the plies of the nearest of them warm. A roll that lasts for one is not
// refused because of another: what is cut is held against its own build ([Room.Lasts]).
type demand struct {
	builds []string
	until  time.Time
}

// demands are the demands of all materials, by family.
func (s *Room) demands(db *gorm.DB) (map[int64]demand, error) {
	var rows []struct {
		Family int64
		Code   string
		CureAt time.Time
	}
	err := db.Raw(`select distinct m.family, b.code, b.cure_at from builds b
		join plies p on p.revision_id = b.revision_id join materials m on m.id = p.material_id
		where b.kit_counted_at is null and b.done_at is null and not exists (select from cut_plies c
		where c.build_id = b.id and c.ply_id = p.id and c.void_at is null) order by b.code`).
		Scan(&rows).
		Error
	if err != nil {
		return nil, err
	}
	out := map[int64]demand{}
	for _, r := range rows {
		d := out[r.Family]
		d.builds = append(d.builds, r.Code)
		if d.until.IsZero() || r.CureAt.Before(d.until) {
			d.until = r.CureAt
		}
		out[r.Family] = d
	}
	return out, nil
}

// RollViews draws up rolls in one query each for materials, batches, freezers
// and demand.
func (s *Room) RollViews(db *gorm.DB, rolls []Roll) ([]RollView, error) {
	return s.rollViews(db, rolls, nil)
}

// RollViewUntil draws a roll up by the time until which its plies are kept warm.
func (s *Room) RollViewUntil(db *gorm.DB, r Roll, until time.Time) (RollView, error) {
	views, err := s.rollViews(db, []Roll{r}, &until)
	if err != nil {
		return RollView{}, err
	}
	return views[0], nil
}

// Lasts refuses a roll for a build whose cure comes after the end of its life. What stands against the roll for
// whatever build is not told again.
func (s *Room) Lasts(db *gorm.DB, r Roll, build string, until time.Time) error {
	now, err := s.RollViewUntil(db, r, s.Now())
	if err != nil || now.Refusal != "" {
		return err
	}
	v, err := s.RollViewUntil(db, r, until)
	if err == nil && v.Refusal != "" {
		err = book.Life.At("builds", "%s must not be cut for %s: %s", r.Code, build, v.Refusal)
	}
	return err
}

func (s *Room) rollViews(db *gorm.DB, rolls []Roll, until *time.Time) ([]RollView, error) {
	now := s.Now()
	materialIDs, batchIDs, parents := make([]int64, len(rolls)), make([]int64, len(rolls)), []int64{}
	for i, r := range rolls {
		materialIDs[i], batchIDs[i] = r.MaterialID, r.BatchID
		if r.ParentID != nil {
			parents = append(parents, *r.ParentID)
		}
	}
	materials, err := book.ByID(db, materialIDs, func(m Material) int64 { return m.ID })
	if err != nil {
		return nil, err
	}
	batches, err := book.ByID(db, batchIDs, func(b Batch) int64 { return b.ID })
	if err != nil {
		return nil, err
	}
	parentRolls, err := book.ByID(db, parents, func(r Roll) int64 { return r.ID })
	if err != nil {
		return nil, err
	}
	freezers, err := s.FreezerNames(db)
	if err != nil {
		return nil, err
	}
	demands, err := s.demands(db)
	if err != nil {
		return nil, err
	}
	views := make([]RollView, 0, len(rolls))
	for _, r := range rolls {
		m, b := materials[r.MaterialID], batches[r.BatchID]
		d := demands[m.Family]
		planned := time.Duration(0)
		if until != nil {
			d.until = *until
		}
		if !d.until.IsZero() {
			planned = d.until.Sub(now)
		}
		f := material.NewOutTimeStatus(r.Clock().Later(now), m.Limits(b.ShelfEnd), planned, now)
		v := RollView{
			Code:      r.Code,
			Kind:      r.Kind,
			Outline:   r.Outline,
			Material:  m.Name,
			Family:    m.Family,
			Version:   m.Version,
			Unit:      UnitOf(m.Kind),
			Batch:     b.Lot,
			BatchCode: b.Code,
			Place:     r.Place,
			Width:     r.Width,
			Length:    r.Length,
			Flaws:     r.FlawsLeft(),
			OutTime:   calc.FromOutTime(f),
			Open:      r.Open,
			NeededFor: d.builds,
		}
		if r.ParentID != nil {
			v.Parent = parentRolls[*r.ParentID].Code
		}
		v.stands(r, b, freezers, now)
		views = append(views, v)
	}
	return views, nil
}

// stands says where a roll is, since when it is out, and why it must not be cut.
func (v *RollView) stands(r Roll, b Batch, freezers map[int64]string, now time.Time) {
	if r.FreezerID != nil {
		v.FreezerID = *r.FreezerID
		v.Place = strings.TrimSuffix(freezers[*r.FreezerID]+", "+r.Place, ", ")
	}
	if v.NeededFor == nil {
		v.NeededFor = []string{}
	}
	if c := r.Clock().Later(now); c.Out {
		v.OutSince = &c.Since
		v.RoomAt = r.RoomAt
		if !r.Open {
			v.DewAt = r.DewAt
		}
	}
	if v.Refusal = b.Blocked(); v.Refusal == "" {
		if err := v.OutTime.Core().Refusal(now); err != nil {
			v.Refusal = err.Error()
		}
	}
}

// FlawsLeft are a roll's flaws, kept from its end as received, counted from its
// end as it is now.
func (r Roll) FlawsLeft() []nest.Flaw {
	used := max(0, r.FullLength-r.Length)
	left := []nest.Flaw{}
	for _, f := range r.Flaws {
		if f.To > used+1e-9 {
			f.From, f.To = max(0, f.From-used), f.To-used
			left = append(left, f)
		}
	}
	return left
}

// Roll is one roll with its ledger.
func (s *Room) Roll(ctx context.Context, code string) (RollDetail, error) {
	return book.View(ctx, s.Book, func(db *gorm.DB) (RollDetail, error) { return s.DetailOf(db, code) })
}

// DetailOf is a roll with its ledger and its life.
func (s *Room) DetailOf(db *gorm.DB, code string) (RollDetail, error) {
	r, err := book.Find[Roll](db, ident.Roll, code, "roll")
	if err != nil {
		return RollDetail{}, err
	}
	views, err := s.RollViews(db, []Roll{r})
	if err != nil {
		return RollDetail{}, err
	}
	now := s.Now()
	c := r.Clock().Later(now)
	d := RollDetail{
		RollView: views[0],
		Bench:    c.Bench.Seconds(),
		Warm:     c.Warm.Seconds(),
		Before:   r.BaseSpent,
		Ledger:   []RollLine{},
		Life:     []LifePoint{},
		OffCuts:  []RollView{},
	}
	var b Batch
	if err := db.Take(&b, r.BatchID).Error; err != nil {
		return d, err
	}
	d.Blocked = b.Blocked()
	h, events, err := s.history(db, r)
	if err != nil {
		return d, err
	}
	names, err := s.Names(db)
	if err != nil {
		return d, err
	}
	d.Ledger = ledgerLines(events, names)
	life, err := h.Line(now)
	if err != nil {
		return d, fmt.Errorf("life of %s: %w", r.Code, err)
	}
	for _, m := range life {
		d.Life = append(d.Life, LifePoint{m.At, m.Spent.Seconds(), m.Out})
	}
	lain := map[int64]bool{}
	for _, e := range h.Events {
		lain[e.Freezer] = e.Freezer != 0 || lain[e.Freezer]
	}
	if d.Warmths, err = s.failures(db, "f.withdrawn_at is null and f.freezer_id in ?", keys(lain)); err != nil {
		return d, err
	}
	var offCuts []Roll
	if err := db.Where("parent_id = ?", r.ID).Order("id").Find(&offCuts).Error; err != nil {
		return d, err
	}
	if d.OffCuts, err = s.RollViews(db, offCuts); err != nil {
		return d, err
	}
	var m Material
	if err := db.Take(&m, r.MaterialID).Error; err != nil {
		return d, err
	}
	d.Caution = m.Sheet.Caution
	err = s.onBench(db, &d, r, m, now)
	return d, err
}

// onBench adds what the air of the room does to a roll that is out.
func (s *Room) onBench(db *gorm.DB, d *RollDetail, r Roll, m Material, now time.Time) (err error) {
	if d.Room, err = s.Measured(db, now); err != nil {
		return err
	}
	if c := r.Clock().Later(now); c.Out {
		if d.Ageing, err = s.equivalent(db, m, c.Since, now); err != nil {
			return err
		}
		if d.Room != nil && d.Room.Temperature != nil {
			if cold, ok := s.coldest(db, r, m, *d.Room.Temperature, now); ok {
				d.Coldest = &cold
			}
		}
	}
	return nil
}

// ledgerLines are the lines of a roll's ledger, those that were taken back marked.
func ledgerLines(events []FreezerEvent, names map[int64]string) []RollLine {
	out := []RollLine{}
	back := map[int64]bool{}
	for _, e := range events {
		if e.Cancels != nil {
			back[*e.Cancels] = true
		}
	}
	for _, e := range events {
		line := RollLine{
			ID:        e.ID,
			Kind:      e.Kind,
			At:        e.At,
			EnteredAt: e.EnteredAt,
			Length:    e.Length,
			Person:    names[e.PersonID],
			PersonID:  e.PersonID,
			Note:      e.Note,
			Until:     e.Until,
			More:      e.More,
			TakenBack: back[e.ID],
			Detail:    e.Detail,
		}
		if e.Cancels != nil {
			line.Cancels = *e.Cancels
		}
		if err := e.stands(line.TakenBack); err != nil {
			line.Stands = err.Error()
		}
		out = append(out, line)
	}
	return out
}

func keys(set map[int64]bool) []int64 {
	out := []int64{}
	for k, in := range set {
		if in {
			out = append(out, k)
		}
	}
	return out
}
