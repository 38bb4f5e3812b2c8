package stock

import (
	"context"
	"errors"
	"slices"
	"strings"
	"time"

	"juxta/core/ident"
	"juxta/core/material"
	"juxta/core/nest"
	"juxta/core/unit"
	"juxta/shop/book"
	"juxta/shop/climate"
)

// What is written into the ledgers of rolls.

// MoveRolls says that rolls left the freezer or came back, several at once. At is
// when it happened; nil means now.
type MoveRolls struct {
	Rolls     []string   `json:"rolls" minItems:"1" maxItems:"60"`
	At        *time.Time `json:"at,omitempty" doc:"When it happened, if not now"`
	Note      string     `json:"note,omitempty" maxLength:"200"`
	FreezerID int64      `json:"freezerId,omitempty" doc:"Putting back: into which freezer; 0: where it belongs"`
	Place     string     `json:"place,omitempty" maxLength:"60"`
	Sealed    bool       `json:"sealed,omitempty" doc:"Putting back: its bag was sealed again"`
}

// TakeOut takes rolls out of the freezer.
func (s *Room) TakeOut(ctx context.Context, by book.By, in MoveRolls) ([]RollView, error) {
	return s.moveRolls(ctx, by, material.Out, in)
}

// PutBack puts rolls back into a freezer. One whose bag is open must be sealed
// first: frost would settle on it.
func (s *Room) PutBack(ctx context.Context, by book.By, in MoveRolls) ([]RollView, error) {
	return s.moveRolls(ctx, by, material.In, in)
}

func (s *Room) moveRolls(ctx context.Context, by book.By, kind material.EventKind, in MoveRolls) ([]RollView, error) {
	return book.Write(
		ctx,
		s.Book,
		by,
		book.HandleMaterial,
		"move rolls "+string(kind),
		in,
		func(tx *book.Tx) ([]RollView, error) {
			// Always in the same order, so that two people with the same rolls wait
			// for each other instead of for ever.
			codes := slices.Clone(in.Rolls)
			slices.Sort(codes)
			codes = slices.Compact(codes)
			if len(codes) == 0 {
				return nil, book.Needed.At("rolls", "scan or choose the rolls first")
			}
			if err := climate.KnowsFreezer(tx, in.FreezerID); err != nil {
				return nil, err
			}
			rolls := make([]Roll, 0, len(codes))
			for _, code := range codes {
				r, err := book.Find[Roll](book.Locked(tx.DB), ident.Roll, code, "roll")
				if err != nil {
					return nil, err
				}
				if err := s.moveRoll(tx, &r, kind, in); err != nil {
					return nil, err
				}
				rolls = append(rolls, r)
			}
			return s.RollViews(tx.DB, rolls)
		},
	)
}

func (s *Room) moveRoll(tx *book.Tx, r *Roll, kind material.EventKind, in MoveRolls) error {
	event := FreezerEvent{Kind: string(kind), At: when(tx, in.At), Note: in.Note}
	if kind == material.Out {
		if err := s.foretell(tx, r, event.At); err != nil {
			return err
		}
		return s.RollEvent(tx, r, event)
	}
	if in.FreezerID != 0 {
		r.FreezerID = &in.FreezerID
	}
	if in.Place != "" {
		r.Place = in.Place
	}
	event.FreezerID = r.FreezerID
	if r.Open {
		if !in.Sealed {
			return book.Cold.Errorf("the bag of %s is open: seal it, then put it back", r.Code)
		}
		if err := s.RollEvent(tx, r, FreezerEvent{Kind: string(material.Sealed), At: event.At}); err != nil {
			return err
		}
	}
	r.DewAt, r.RoomAt = nil, nil
	return s.RollEvent(tx, r, event)
}

func when(tx *book.Tx, at *time.Time) time.Time {
	if at == nil {
		return tx.Now
	}
	return at.UTC().Truncate(time.Microsecond)
}

// receiveRoll takes one roll of a batch into a freezer.
func (s *Room) receiveRoll(tx *book.Tx, b Batch, m Material, freezer int64, in NewRoll, at time.Time) (Roll, error) {
	if !(in.Length > 0) || in.Length > 5000 {
		return Roll{}, book.Wrong.At("length", "the length on the roll is above 0 and up to 5000 %s", UnitOf(m.Kind))
	}
	if !(in.Spent >= 0 && in.Spent <= 1e9) {
		return Roll{}, book.Wrong.At("spent", "the out-time spent before it came is not possible")
	}
	if err := climate.KnowsFreezer(tx, freezer); err != nil {
		return Roll{}, err
	}
	width := in.Width
	if width == 0 {
		width = m.Width
	} else if err := m.sells(width); err != nil {
		return Roll{}, err
	}
	flaws, err := checkFlaws(in.Flaws, in.Length, width)
	if err != nil {
		return Roll{}, err
	}
	id, code, err := book.NextCode(tx.DB, "rolls", ident.Roll)
	if err != nil {
		return Roll{}, err
	}
	r := Roll{
		ID:         id,
		Code:       code,
		MaterialID: m.ID,
		BatchID:    b.ID,
		Kind:       "roll",
		Width:      width,
		Place:      strings.TrimSpace(in.Place),
		Flaws:      flaws,
		BaseSpent:  in.Spent,
	}
	if freezer != 0 {
		r.FreezerID = &freezer
	}
	if err := tx.Create(&r).Error; err != nil {
		return Roll{}, err
	}
	err = s.RollEvent(
		tx,
		&r,
		FreezerEvent{Kind: string(material.Received), At: at, Length: in.Length, FreezerID: r.FreezerID},
	)
	return r, err
}

func checkFlaws(flaws []nest.Flaw, length, width float64) ([]nest.Flaw, error) {
	out := []nest.Flaw{}
	for _, f := range flaws {
		if !(f.From >= 0 && f.To > f.From && f.To <= length+1e-9) {
			return nil, book.Wrong.At(
				"flaws",
				"a flaw from %s to %s does not lie on a roll of %s",
				unit.RollLength(f.From, 2),
				unit.RollLength(f.To, 2),
				unit.RollLength(length, 2),
			)
		}
		if (f.Low != 0 || f.High != 0) && !(f.Low >= 0 && f.High > f.Low && f.High <= width+1e-9) {
			return nil, book.Wrong.At(
				"flaws",
				"a flaw from %s to %s across does not lie on a roll %s wide",
				unit.Size(f.Low, 0),
				unit.Size(f.High, 0),
				unit.Size(width, 0),
			)
		}
		if f.Kind == "" {
			f.Kind = "flaw"
		}
		out = append(out, f)
	}
	return out, nil
}

// SetFlaws writes the flaw map of a roll anew, in m from its present end. What
// was cut off keeps its own.
func (s *Room) SetFlaws(ctx context.Context, by book.By, code string, flaws []nest.Flaw) (RollView, error) {
	return s.changeRoll(ctx, by, book.HandleMaterial, "set flaws", code, flaws, func(tx *book.Tx, r *Roll) error {
		checked, err := checkFlaws(flaws, r.Length, r.Width)
		if err != nil {
			return err
		}
		used := r.FullLength - r.Length
		next := []nest.Flaw{}
		for _, f := range r.Flaws {
			if f.To <= used+1e-9 {
				next = append(next, f)
			}
		}
		for _, f := range checked {
			f.From, f.To = f.From+used, f.To+used
			next = append(next, f)
		}
		before := r.FlawsLeft()
		r.Flaws = next
		if err := tx.Save(r).Error; err != nil {
			return err
		}
		return tx.Log("flaw map changed", r.Code, "", map[string]any{"from": before, "to": checked})
	})
}

// changeRoll holds a roll, does one thing to it and gives it as it then is.
func (s *Room) changeRoll(
	ctx context.Context,
	by book.By,
	act book.Act,
	what, code string,
	input any,
	do func(tx *book.Tx, r *Roll) error,
) (RollView, error) {
	return book.Write(ctx, s.Book, by, act, what+" "+code, input, func(tx *book.Tx) (RollView, error) {
		r, err := book.Find[Roll](book.Locked(tx.DB), ident.Roll, code, "roll")
		if err != nil {
			return RollView{}, err
		}
		if err := do(tx, &r); err != nil {
			return RollView{}, err
		}
		return s.RollView(tx, r)
	})
}

// OpenBag says that the sealed bag of a roll was opened, and what was known of
// room and roll. What is missing comes from the room's sensor and from the
// thaw as calculated.
type OpenBag struct {
	At       *time.Time `json:"at,omitempty"`
	Room     *float64   `json:"room,omitempty" doc:"Of the air, K"`
	Humidity *float64   `json:"humidity,omitempty" doc:"Of the air, 0 to 1" exclusiveMinimum:"0" maximum:"1"`
	Coldest  *float64   `json:"coldest,omitempty" doc:"Measured at the coldest place of the roll, K"`
	Override string     `json:"override,omitempty" doc:"Why it is opened although it is too cold, or nobody knows" maxLength:"300"`
	Note     string     `json:"note,omitempty" maxLength:"200"`
}

// Open opens the bag of a roll, above the dew point of the room.
func (s *Room) Open(ctx context.Context, by book.By, code string, in OpenBag) (RollView, error) {
	return s.changeRoll(ctx, by, book.HandleMaterial, "open bag", code, in, func(tx *book.Tx, r *Roll) error {
		at := when(tx, in.At)
		var m Material
		if err := tx.Take(&m, r.MaterialID).Error; err != nil {
			return err
		}
		detail := EventDetail{
			Room:     in.Room,
			Humidity: in.Humidity,
			Coldest:  in.Coldest,
			Override: strings.TrimSpace(in.Override),
			Source:   "entered",
		}
		if in.Room == nil || in.Humidity == nil {
			room, err := s.Measured(tx.DB, at)
			if err != nil {
				return err
			}
			if room != nil {
				detail.Room, detail.Humidity, detail.Source = room.Temperature, room.Humidity, "sensor "+room.Sensor
			}
		}
		if detail.Coldest == nil && detail.Room != nil && r.Out {
			if cold, ok := s.coldest(tx.DB, *r, m, *detail.Room, at); ok {
				detail.Coldest = &cold
				detail.Source += ", roll as calculated"
			}
		}
		refusal, dew, err := material.Bag{
			Roll:     r.Code,
			Room:     detail.Room,
			Humidity: detail.Humidity,
			Coldest:  detail.Coldest,
		}.Refusal()
		if err != nil {
			return book.Wrong.At("room", "%s", err)
		}
		detail.DewPoint = dew
		if refusal != "" && detail.Coldest != nil && r.DewAt != nil && in.Coldest == nil {
			refusal += ". It should be past it at " + book.Clock(*r.DewAt)
		}
		if refusal != "" && detail.Override == "" {
			return book.Cold.Errorf("%s. Wait, or open it with a reason", refusal)
		}
		if refusal == "" {
			detail.Override = ""
		}
		note := in.Note
		if detail.Override != "" {
			note = strings.TrimSuffix("although "+refusal+": "+detail.Override+". "+note, " ")
		}
		return s.RollEvent(tx, r, FreezerEvent{Kind: string(material.Opened), At: at, Note: note, Detail: detail})
	})
}

// Seal says that an open bag was sealed again.
func (s *Room) Seal(ctx context.Context, by book.By, code string, in EventTime) (RollView, error) {
	return s.changeRoll(ctx, by, book.HandleMaterial, "seal bag", code, in, func(tx *book.Tx, r *Roll) error {
		return s.RollEvent(tx, r, FreezerEvent{Kind: string(material.Sealed), At: when(tx, in.At), Note: in.Note})
	})
}

// EventTime is when something happened, with a note.
type EventTime struct {
	At   *time.Time `json:"at,omitempty" doc:"When it happened, if not now"`
	Note string     `json:"note,omitempty" maxLength:"200"`
}

// TakeLength is length taken off a roll without a nest, as for a test piece.
type TakeLength struct {
	At     *time.Time `json:"at,omitempty"`
	Length float64    `json:"length" doc:"m, or kg" exclusiveMinimum:"0"`
	Note   string     `json:"note" minLength:"1" maxLength:"200" doc:"What for"`
}

// UseLength takes length off a roll by hand. The batch and the clock are held
// to what holds for a nest.
func (s *Room) UseLength(ctx context.Context, by book.By, code string, in TakeLength) (RollView, error) {
	return s.changeRoll(ctx, by, book.CutPlies, "use length", code, in, func(tx *book.Tx, r *Roll) error {
		if strings.TrimSpace(in.Note) == "" {
			return book.Needed.At("note", "say what it was used for")
		}
		if err := s.MayCut(tx, *r); err != nil {
			return err
		}
		return s.RollEvent(
			tx,
			r,
			FreezerEvent{Kind: string(material.Used), At: when(tx, in.At), Length: in.Length, Note: in.Note},
		)
	})
}

// MayCut refuses to cut a roll that is frozen, sealed, blocked or spent.
func (s *Room) MayCut(tx *book.Tx, r Roll) error {
	v, err := s.RollView(tx, r)
	switch {
	case err != nil:
		return err
	case !r.Out:
		return book.Cold.Errorf("%s is in the freezer: take it out before it is cut", r.Code)
	case !r.Open:
		return book.Cold.Errorf("the bag of %s is sealed: open it, above the dew point, before it is cut", r.Code)
	case v.Refusal != "":
		return book.Life.Errorf("%s must not be cut: %s", r.Code, v.Refusal)
	}
	return nil
}

// ScrapReasons are why material is thrown away.
var ScrapReasons = []string{
	"expired",
	"contaminated",
	"damaged",
	"wrongly cut",
	"too short to use",
	"failed test",
	"other",
}

// ScrapLength is length of a roll that is thrown away.
type ScrapLength struct {
	At     *time.Time `json:"at,omitempty"`
	Length float64    `json:"length,omitempty" doc:"m, or kg; 0: all that is left" minimum:"0"`
	Reason string     `json:"reason" enum:"expired,contaminated,damaged,wrongly cut,too short to use,failed test,other"`
	Note   string     `json:"note,omitempty" maxLength:"200"`
}

// Scrap throws length away, with its reason.
func (s *Room) Scrap(ctx context.Context, by book.By, code string, in ScrapLength) (RollView, error) {
	return s.changeRoll(ctx, by, book.ScrapMaterial, "scrap", code, in, func(tx *book.Tx, r *Roll) error {
		if !slices.Contains(ScrapReasons, in.Reason) {
			return book.Wrong.At("reason", "the reason is one of %s", strings.Join(ScrapReasons, ", "))
		}
		if in.Reason == "other" && strings.TrimSpace(in.Note) == "" {
			return book.Needed.At("note", "say what happened to it")
		}
		if in.Length == 0 {
			in.Length = r.Length
		}
		note := in.Reason
		if in.Note != "" {
			note += ": " + strings.TrimSpace(in.Note)
		}
		return s.RollEvent(
			tx,
			r,
			FreezerEvent{Kind: string(material.Scrapped), At: when(tx, in.At), Length: in.Length, Note: note},
		)
	})
}

// RollEvent adds a line to a roll's ledger. The roll must be held.
func (s *Room) RollEvent(tx *book.Tx, r *Roll, e FreezerEvent) error { return s.rollEvents(tx, r, e) }

// said is what an event is called in the log.
var said = map[material.EventKind]string{
	material.Received: "roll received",
	material.Out:      "roll taken out",
	material.In:       "roll put back",
	material.Opened:   "bag opened",
	material.Sealed:   "bag sealed",
	material.Used:     "length taken off",
	material.Scrapped: "length scrapped",
	material.Retested: "roll re-tested",
	material.Counter:  "line taken back",
}

// rollEvents adds lines to a roll's ledger, if the ledger still adds up with
// all of them, and logs each.
func (s *Room) rollEvents(tx *book.Tx, r *Roll, events ...FreezerEvent) error {
	for _, e := range events {
		if e.At.After(tx.Now) {
			return book.WrongTime.At("at", "it cannot have happened in the future")
		}
		e.RollID, e.EnteredAt, e.PersonID = &r.ID, tx.Now, tx.By.Person.ID
		if err := tx.Create(&e).Error; err != nil {
			return err
		}
		if err := tx.Log(said[material.EventKind(e.Kind)], r.Code, e.Note, map[string]any{
			"at": e.At, "length": e.Length, "line": e.ID, "cancels": e.Cancels,
		}); err != nil {
			return err
		}
	}
	return s.settle(tx, r)
}

// refusedBy turns what the core says of a ledger into a refusal.
func refusedBy(code string, err error) error {
	var wrong *material.Error
	if errors.As(err, &wrong) {
		return book.NotNow.Errorf("%s: %s", code, wrong.Message)
	}
	return err
}

func (s *Room) RollView(tx *book.Tx, r Roll) (RollView, error) {
	views, err := s.RollViews(tx.DB, []Roll{r})
	if err != nil {
		return RollView{}, err
	}
	return views[0], nil
}
