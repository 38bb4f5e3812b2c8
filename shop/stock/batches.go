package stock

import (
	"context"
	"errors"
	"fmt"
	"strings"
	"time"

	"gorm.io/gorm"

	"juxta/core/ident"
	"juxta/core/nest"
	"juxta/shop/book"
)

// AcceptanceLine is one test of a batch: its limits and what was found.
type AcceptanceLine struct {
	ID     int64      `json:"id"`
	What   string     `json:"what"`
	Unit   string     `json:"unit"`
	Least  *float64   `json:"least,omitempty"`
	Most   *float64   `json:"most,omitempty"`
	Value  *float64   `json:"value,omitempty"`
	Met    *bool      `json:"met,omitempty" doc:"Missing: not tested yet"`
	Off    float64    `json:"off,omitempty" doc:"How far the value lies above (or, negative, below) its limits"`
	Person string     `json:"person,omitempty"`
	At     *time.Time `json:"at,omitempty"`
}

// BatchView is a batch as received beside what was decided about it.
type BatchView struct {
	Code        string           `json:"code"`
	Material    string           `json:"material"`
	MaterialID  int64            `json:"materialId"`
	Version     int              `json:"version" doc:"Of the material"`
	Unit        string           `json:"unit" doc:"What amounts of it are counted in"`
	Lot         string           `json:"lot"`
	MadeOn      *time.Time       `json:"madeOn,omitempty"`
	ReceivedAt  time.Time        `json:"receivedAt"`
	ReceivedBy  string           `json:"receivedBy,omitempty"`
	ArrivalTemp *float64         `json:"arrivalTemp,omitempty" doc:"K"`
	StorageMax  float64          `json:"storageMax,omitempty" doc:"Warmest storage by the data sheet, K"`
	TooWarm     float64          `json:"tooWarm,omitempty" doc:"How far above that it arrived, K"`
	ShelfEnd    *time.Time       `json:"shelfEnd,omitempty"`
	State       string           `json:"state" enum:"pending,passed,failed"`
	Decision    string           `json:"decision,omitempty"`
	DecidedBy   string           `json:"decidedBy,omitempty"`
	DecidedAt   *time.Time       `json:"decidedAt,omitempty"`
	Quarantine  string           `json:"quarantine,omitempty" doc:"Why it is in quarantine"`
	OverrideWhy string           `json:"overrideWhy,omitempty"`
	OverrideBy  string           `json:"overrideBy,omitempty"`
	OverrideAt  *time.Time       `json:"overrideAt,omitempty"`
	Blocked     string           `json:"blocked,omitempty" doc:"Why it must not be cut"`
	Certificate *book.FileView   `json:"certificate,omitempty"`
	Transport   *book.FileView   `json:"transport,omitempty"`
	Tests       []AcceptanceLine `json:"tests"`
	Rolls       []BatchRoll      `json:"rolls"`
	Log         []book.LogLine   `json:"log,omitempty"`
}

// BatchRoll is a roll of a batch.
type BatchRoll struct {
	Code   string  `json:"code"`
	Kind   string  `json:"kind"`
	Length float64 `json:"length"`
	Out    bool    `json:"out"`
}

// Blocked says why a batch must not be cut, "" if it may.
func (b Batch) Blocked() string {
	why := ""
	switch {
	case b.Quarantine != "":
		why = fmt.Sprintf("batch %s is in quarantine: %s", b.Lot, b.Quarantine)
	case b.State == "pending":
		why = fmt.Sprintf("batch %s is not accepted yet", b.Lot)
	case b.State == "failed":
		why = fmt.Sprintf("batch %s failed its acceptance", b.Lot)
	}
	if b.OverrideAt != nil {
		return ""
	}
	return why
}

// Batches lists batches that have something on hand or are not decided, those
// that wait for a decision first.
func (s *Room) Batches(ctx context.Context, all bool) ([]BatchView, error) {
	return book.View(ctx, s.Book, func(db *gorm.DB) ([]BatchView, error) {
		where := "b.state = 'pending' or b.quarantine <> '' or exists (select from rolls r where r.batch_id = b.id " +
			"and r.length > 0)"
		if all {
			where = "true"
		}
		return s.BatchViews(db, where)
	})
}

// Batch is one batch with its log.
func (s *Room) Batch(ctx context.Context, code string) (BatchView, error) {
	return book.View(ctx, s.Book, func(db *gorm.DB) (BatchView, error) { return s.batchView(db, code) })
}

func (s *Room) batchView(db *gorm.DB, code string) (BatchView, error) {
	b, err := book.Find[Batch](db, ident.Batch, code, "batch")
	if err != nil {
		return BatchView{}, err
	}
	views, err := s.BatchViews(db, "b.id = ?", b.ID)
	if err != nil {
		return BatchView{}, err
	}
	views[0].Log, err = s.LogOf(db, b.Code)
	return views[0], err
}

func (s *Room) BatchViews(db *gorm.DB, where string, args ...any) ([]BatchView, error) {
	var all []Batch
	if err := db.Raw(`select b.* from batches b where `+where+` order by b.quarantine = ''
		and b.state <> 'pending', b.received_at desc, b.id desc limit 500`, args...).Scan(&all).Error; err != nil {
		return nil, err
	}
	ids, materialIDs := make([]int64, len(all)), make([]int64, len(all))
	for i, b := range all {
		ids[i], materialIDs[i] = b.ID, b.MaterialID
	}
	materials, err := book.ByID(db, materialIDs, func(m Material) int64 { return m.ID })
	if err != nil {
		return nil, err
	}
	names, err := s.Names(db)
	if err != nil {
		return nil, err
	}
	called := func(id *int64) string {
		if id == nil {
			return ""
		}
		return names[*id]
	}
	var tests []AcceptanceTest
	if err := db.Where("batch_id in ?", ids).Order("id").Find(&tests).Error; err != nil {
		return nil, err
	}
	var rolls []Roll
	if err := db.Select("id", "code", "kind", "length", "out", "batch_id").Where("batch_id in ?", ids).Order("id").
		Find(&rolls).Error; err != nil {
		return nil, err
	}
	files, err := book.FileViews(
		db,
		"id in (select certificate_id from batches where id in ?) or id in (select transport_id from batches where "+
			"id in ?)",
		ids,
		ids,
	)
	if err != nil {
		return nil, err
	}
	views := make([]BatchView, len(all))
	at := map[int64]*BatchView{}
	for i, b := range all {
		m := materials[b.MaterialID]
		views[i] = b.view(m, called, files)
		at[b.ID] = &views[i]
	}
	for _, t := range tests {
		at[t.BatchID].Tests = append(at[t.BatchID].Tests, t.line(called(t.PersonID)))
	}
	for _, r := range rolls {
		at[r.BatchID].Rolls = append(at[r.BatchID].Rolls, BatchRoll{r.Code, r.Kind, r.Length, r.Out})
	}
	return views, nil
}

// view is a batch with what stands in its own row; called names who did a thing.
func (b Batch) view(m Material, called func(*int64) string, files map[int64]book.FileView) BatchView {
	v := BatchView{
		Code:        b.Code,
		Unit:        UnitOf(m.Kind),
		Material:    m.Name,
		MaterialID:  m.ID,
		Version:     m.Version,
		Lot:         b.Lot,
		MadeOn:      b.MadeOn,
		ReceivedAt:  b.ReceivedAt,
		ReceivedBy:  called(b.ReceivedBy),
		ArrivalTemp: b.ArrivalTemp,
		StorageMax:  m.Sheet.StorageMax,
		ShelfEnd:    b.ShelfEnd,
		State:       b.State,
		Decision:    b.Decision,
		DecidedBy:   called(b.DecidedBy),
		DecidedAt:   b.DecidedAt,
		Quarantine:  b.Quarantine,
		OverrideWhy: b.OverrideWhy,
		OverrideBy:  called(b.OverrideBy),
		OverrideAt:  b.OverrideAt,
		Blocked:     b.Blocked(),
		Tests:       []AcceptanceLine{},
		Rolls:       []BatchRoll{},
	}
	if b.ArrivalTemp != nil && m.Sheet.StorageMax > 0 {
		v.TooWarm = max(0, *b.ArrivalTemp-m.Sheet.StorageMax)
	}
	for _, paper := range []struct {
		id *int64
		to **book.FileView
	}{{b.CertificateID, &v.Certificate}, {b.TransportID, &v.Transport}} {
		if paper.id != nil {
			f := files[*paper.id]
			*paper.to = &f
		}
	}
	return v
}

// line is a test beside what it found.
func (t AcceptanceTest) line(person string) AcceptanceLine {
	line := AcceptanceLine{
		ID:     t.ID,
		What:   t.What,
		Unit:   t.Unit,
		Least:  t.Least,
		Most:   t.Most,
		Value:  t.Value,
		Person: person,
		At:     t.At,
	}
	if t.Value != nil {
		met := t.met()
		line.Met, line.Off = &met, t.off()
	}
	return line
}

// NewBatch is a delivery: one lot of a material with its rolls.
type NewBatch struct {
	MaterialID    int64      `json:"materialId"`
	Lot           string     `json:"lot" minLength:"1" maxLength:"60"`
	MadeOn        *time.Time `json:"madeOn,omitempty"`
	ReceivedAt    *time.Time `json:"receivedAt,omitempty" doc:"If not now"`
	ArrivalTemp   *float64   `json:"arrivalTemp,omitempty" doc:"Warmest that it had on arrival, K"`
	ShelfEnd      *time.Time `json:"shelfEnd,omitempty" doc:"By the label; without it from the day it was made"`
	CertificateID int64      `json:"certificateId,omitempty"`
	TransportID   int64      `json:"transportId,omitempty"`
	FreezerID     int64      `json:"freezerId,omitempty"`
	Place         string     `json:"place,omitempty" maxLength:"60"`
	Rolls         []NewRoll  `json:"rolls" minItems:"1" maxItems:"60"`
}

// NewRoll is one roll of a delivery.
type NewRoll struct {
	Length float64     `json:"length" doc:"m, or kg" exclusiveMinimum:"0" maximum:"5000"`
	Width  float64     `json:"width,omitempty" doc:"m; 0: the material's" minimum:"0" maximum:"10"`
	Place  string      `json:"place,omitempty" maxLength:"60" doc:"If not the delivery's"`
	Spent  float64     `json:"spent,omitempty" doc:"Out-time spent before it came, s" minimum:"0" maximum:"1000000000"`
	Flaws  []nest.Flaw `json:"flaws,omitempty" maxItems:"200"`
}

// ReceiveBatch takes a delivery into the freezer. It waits for its acceptance,
// and goes into quarantine at once if it arrived too warm.
func (s *Room) ReceiveBatch(ctx context.Context, by book.By, in NewBatch) (BatchView, error) {
	return book.Write(ctx, s.Book, by, book.ReceiveStock, "receive batch", in, func(tx *book.Tx) (BatchView, error) {
		b, err := s.receive(tx, in)
		if err != nil {
			return BatchView{}, err
		}
		return s.batchView(tx.DB, b.Code)
	})
}

func (s *Room) receive(tx *book.Tx, in NewBatch) (Batch, error) {
	var m Material
	if err := tx.Where("superseded_at is null").Take(&m, in.MaterialID).Error; errors.Is(err, gorm.ErrRecordNotFound) {
		return Batch{}, book.NotHere.At("materialId", "this material is not known here")
	} else if err != nil {
		return Batch{}, err
	}
	at, err := in.check(tx, m)
	if err != nil {
		return Batch{}, err
	}
	shelf := in.ShelfEnd
	if shelf == nil && in.MadeOn != nil && m.Sheet.ShelfLife > 0 {
		end := in.MadeOn.Add(Seconds(m.Sheet.ShelfLife))
		shelf = &end
	}
	id, code, err := book.NextCode(tx.DB, "batches", ident.Batch)
	if err != nil {
		return Batch{}, err
	}
	b := Batch{
		ID:          id,
		Code:        code,
		MaterialID:  m.ID,
		Lot:         in.Lot,
		MadeOn:      in.MadeOn,
		ReceivedAt:  at,
		ReceivedBy:  tx.By.ID(),
		ArrivalTemp: in.ArrivalTemp,
		ShelfEnd:    shelf,
		State:       "pending",
	}
	if in.CertificateID != 0 {
		b.CertificateID = &in.CertificateID
	}
	if in.TransportID != 0 {
		b.TransportID = &in.TransportID
	}
	if err := b.arrived(m); err != nil {
		return Batch{}, err
	}
	if err := tx.Create(&b).Error; err != nil {
		return Batch{}, err
	}
	for _, a := range m.Sheet.Acceptance {
		if err := tx.Create(&AcceptanceTest{
			BatchID: b.ID, What: a.What, Unit: a.Unit, Least: a.Least, Most: a.Most,
		}).Error; err != nil {
			return Batch{}, err
		}
	}
	if err := tx.Log("batch received", b.Code, b.Quarantine, map[string]any{
		"lot": b.Lot, "material": m.Name, "version": m.Version, "at": at, "rolls": len(in.Rolls),
	}); err != nil {
		return Batch{}, err
	}
	for i, r := range in.Rolls {
		if r.Place == "" {
			r.Place = in.Place
		}
		if _, err := s.receiveRoll(tx, b, m, in.FreezerID, r, at); err != nil {
			var wrong *book.Error
			if errors.As(err, &wrong) && wrong.Field != "" {
				wrong.Field = fmt.Sprintf("rolls[%d].%s", i, wrong.Field)
			}
			return Batch{}, err
		}
	}
	return b, nil
}

// check says what of a delivery cannot be, and when it came.
func (in *NewBatch) check(tx *book.Tx, m Material) (at time.Time, err error) {
	if in.Lot = strings.TrimSpace(in.Lot); in.Lot == "" {
		return at, book.Needed.At("lot", "the lot number from the label is needed")
	}
	at = tx.Now
	if in.ReceivedAt != nil {
		at = *in.ReceivedAt
	}
	if at.After(tx.Now) {
		return at, book.WrongTime.At("receivedAt", "it cannot have come in the future")
	}
	if err := lifeInOrder(in.MadeOn, in.ShelfEnd, at); err != nil {
		return at, err
	}
	if err := newLot(tx, m, in.Lot); err != nil {
		return at, err
	}
	if err := tx.KnowsFile("certificateId", in.CertificateID); err != nil {
		return at, err
	}
	if err := tx.KnowsFile("transportId", in.TransportID); err != nil {
		return at, err
	}
	return at, nil
}

// AddRoll takes one more roll of a batch into the freezer.
func (s *Room) AddRoll(ctx context.Context, by book.By, code string, freezer int64, in NewRoll) (RollView, error) {
	return book.Write(
		ctx,
		s.Book,
		by,
		book.ReceiveStock,
		"add roll "+code,
		[]any{freezer, in},
		func(tx *book.Tx) (RollView, error) {
			b, err := book.Find[Batch](book.Locked(tx.DB), ident.Batch, code, "batch")
			if err != nil {
				return RollView{}, err
			}
			var m Material
			if err := tx.Take(&m, b.MaterialID).Error; err != nil {
				return RollView{}, err
			}
			r, err := s.receiveRoll(tx, b, m, freezer, in, tx.Now)
			if err != nil {
				return RollView{}, err
			}
			return s.RollView(tx, r)
		},
	)
}

// changeBatch holds a batch, does one thing to it and gives it as it then is.
func (s *Room) changeBatch(
	ctx context.Context,
	by book.By,
	act book.Act,
	what, code string,
	input any,
	do func(tx *book.Tx, b *Batch) error,
) (BatchView, error) {
	return book.Write(ctx, s.Book, by, act, what+" "+code, input, func(tx *book.Tx) (BatchView, error) {
		b, err := book.Find[Batch](book.Locked(tx.DB), ident.Batch, code, "batch")
		if err != nil {
			return BatchView{}, err
		}
		if err := do(tx, &b); err != nil {
			return BatchView{}, err
		}
		if err := tx.Save(&b).Error; err != nil {
			return BatchView{}, err
		}
		return s.batchView(tx.DB, b.Code)
	})
}
