package stock

import (
	"cmp"
	"context"
	"fmt"
	"strings"
	"time"

	"gorm.io/gorm"

	"juxta/core/ident"
	"juxta/core/material"
	"juxta/core/nest"
	"juxta/core/unit"
	"juxta/shop/book"
)

// StockRow is one roll of a stock list.
type StockRow struct {
	Line                          int
	Material, Lot, Freezer, Place string
	Length, Width, Spent          float64
	Made, ShelfEnd                *time.Time
	Accepted                      bool
}

// StockFault is a row that cannot be read.
type StockFault struct {
	Line    int    `json:"line"`
	Message string `json:"message"`
}

// StockLine says what becomes of a row of a stock list.
type StockLine struct {
	Line    int    `json:"line"`
	Message string `json:"message"`
	Fault   bool   `json:"fault"`
	Roll    string `json:"roll,omitempty" doc:"Its id, once stored"`
}

// StockImport is what an import would do, or did.
type StockImport struct {
	Stored  bool        `json:"stored"`
	Rolls   int         `json:"rolls"`
	Batches int         `json:"batches"`
	Faults  int         `json:"faults"`
	Lines   []StockLine `json:"lines"`
}

// lotKey names a batch within an import.
type lotKey struct {
	family int64
	lot    string
}

// plan works out what every row would do.
func (s *Room) planStock(
	db *gorm.DB,
	by book.By,
	rows []StockRow,
	faults []StockFault,
) (StockImport, map[lotKey]Material, error) {
	out := StockImport{Lines: []StockLine{}}
	lots := map[lotKey]Material{}
	var materials []Material
	if err := db.Where("superseded_at is null").Find(&materials).Error; err != nil {
		return out, nil, err
	}
	byName := map[string]Material{}
	for _, m := range materials {
		byName[strings.ToLower(m.Name)] = m
	}
	names, err := s.FreezerNames(db)
	if err != nil {
		return out, nil, err
	}
	here := freezerNames{"": true}
	for _, n := range names {
		here[strings.ToLower(n)] = true
	}
	var held []struct {
		Family int64
		Lot    string
	}
	if err := db.Raw(`select m.family, lower(b.lot) as lot from batches b
		join materials m on m.id = b.material_id`).Scan(&held).Error; err != nil {
		return out, nil, err
	}
	taken := map[lotKey]bool{}
	for _, h := range held {
		taken[lotKey{h.Family, h.Lot}] = true
	}
	for _, f := range faults {
		out.Lines = append(out.Lines, StockLine{Line: f.Line, Message: f.Message, Fault: true})
	}
	now := s.Now()
	for _, r := range rows {
		m, known := byName[strings.ToLower(r.Material)]
		key := lotKey{m.Family, strings.ToLower(r.Lot)}
		amount := Amount(UnitOf(m.Kind), r.Length)
		wrong := here.fault(r, m, known, taken[key], now)
		if r.Accepted && wrong == "" && by.Person != nil && by.Person.Role != "quality" {
			wrong = "only a quality person brings in what is accepted already"
		}
		if wrong != "" {
			out.Lines = append(out.Lines, StockLine{Line: r.Line, Message: wrong, Fault: true})
			continue
		}
		says := fmt.Sprintf("one more roll of lot %s: %s", r.Lot, amount)
		if _, seen := lots[key]; !seen {
			lots[key] = m
			state := "waits for acceptance"
			if r.Accepted {
				state = "accepted"
			}
			says = fmt.Sprintf("new batch %s of %s, %s; a roll of %s", r.Lot, m.Name, state, amount)
		}
		if r.Spent > 0 {
			says += fmt.Sprintf(", %s of its out-life spent", material.Hours(Seconds(r.Spent)))
		}
		out.Rolls++
		out.Lines = append(out.Lines, StockLine{Line: r.Line, Message: says})
	}
	for _, l := range out.Lines {
		if l.Fault {
			out.Faults++
		}
	}
	out.Batches = len(lots)
	return out, lots, nil
}

// freezerNames are the freezers of the shop in small letters, and the empty name of none.
type freezerNames map[string]bool

// fault says what of a row cannot be, or nothing.
func (f freezerNames) fault(r StockRow, m Material, known, taken bool, now time.Time) string {
	switch {
	case !known:
		return fmt.Sprintf("no material is called %q here: enter it first", r.Material)
	case len(r.Lot) > 60:
		return "the lot number is longer than 60 letters"
	case taken:
		return fmt.Sprintf("lot %s of %s is here already", r.Lot, m.Name)
	case !f[strings.ToLower(r.Freezer)]:
		return fmt.Sprintf("no freezer is called %q here", r.Freezer)
	case r.Length > 5000:
		return fmt.Sprintf("%s on one roll is not possible", Amount(UnitOf(m.Kind), r.Length))
	case r.Width > 10:
		return fmt.Sprintf("%s wide is not possible", unit.Size(r.Width, 0))
	case m.OutLife > 0 && r.Spent >= m.OutLife:
		return fmt.Sprintf("its out-life of %s is spent already", material.Hours(Seconds(m.OutLife)))
	case r.Made != nil && r.Made.After(now):
		return "it cannot have been made in the future"
	}
	return ""
}

// PlanStock is the dry run of a stock list: row by row what would happen.
func (s *Room) PlanStock(ctx context.Context, by book.By, rows []StockRow, faults []StockFault) (StockImport, error) {
	if err := book.CheckRole(by.Person, book.ReceiveStock); err != nil {
		return StockImport{}, err
	}
	return book.View(ctx, s.Book, func(db *gorm.DB) (StockImport, error) {
		plan, _, err := s.planStock(db, by, rows, faults)
		return plan, err
	})
}

// StoreStock brings a stock list in. One row that is wrong keeps all of it out.
// Every roll begins its ledger with the import; out-time of before counts from
// the list.
func (s *Room) StoreStock(ctx context.Context, by book.By, rows []StockRow, faults []StockFault) (StockImport, error) {
	return book.Write(
		ctx,
		s.Book,
		by,
		book.ReceiveStock,
		"import stock",
		[]any{rows, faults},
		func(tx *book.Tx) (StockImport, error) {
			// One import at a time: lots that two lists share must not come twice.
			if err := tx.Exec(`select pg_advisory_xact_lock(hashtext('import stock'))`).Error; err != nil {
				return StockImport{}, err
			}
			plan, lots, err := s.planStock(tx.DB, by, rows, faults)
			if err != nil {
				return StockImport{}, err
			}
			if plan.Faults > 0 {
				refusal := &book.Error{
					Rule:    book.Faults,
					Field:   "file",
					Message: fmt.Sprintf("%d rows are wrong: nothing was stored", plan.Faults),
				}
				for _, l := range plan.Lines {
					if l.Fault && len(refusal.Details) < 50 {
						refusal.Details = append(refusal.Details, fmt.Sprintf("row %d: %s", l.Line, l.Message))
					}
				}
				return StockImport{}, refusal
			}
			if err := s.bringIn(tx, rows, lots, &plan); err != nil {
				return StockImport{}, err
			}
			plan.Stored = true
			return plan, nil
		},
	)
}

// bringIn stores batches, rolls and their first lines, many at a time.
func (s *Room) bringIn(tx *book.Tx, rows []StockRow, lots map[lotKey]Material, plan *StockImport) error {
	names, err := s.FreezerNames(tx.DB)
	if err != nil {
		return err
	}
	freezers := map[string]int64{}
	for id, n := range names {
		freezers[strings.ToLower(n)] = id
	}
	byName := map[string]Material{}
	for _, m := range lots {
		byName[strings.ToLower(m.Name)] = m
	}
	batchIDs, err := numbers(tx, "batches", len(lots))
	if err != nil {
		return err
	}
	rollIDs, err := numbers(tx, "rolls", len(rows))
	if err != nil {
		return err
	}
	batches, tests, at := []Batch{}, []AcceptanceTest{}, map[lotKey]int{}
	rolls, events, said := make([]Roll, len(rows)), make([]FreezerEvent, len(rows)), []book.Pending{}
	for i, r := range rows {
		m := byName[strings.ToLower(r.Material)]
		key := lotKey{m.Family, strings.ToLower(r.Lot)}
		k, seen := at[key]
		if !seen {
			k = len(batches)
			at[key] = k
			b := r.batch(tx, batchIDs[k], m)
			batches = append(batches, b)
			if b.State == "pending" {
				for _, a := range m.Sheet.Acceptance {
					tests = append(
						tests,
						AcceptanceTest{BatchID: b.ID, What: a.What, Unit: a.Unit, Least: a.Least, Most: a.Most},
					)
				}
			}
			said = append(
				said,
				book.Pending{
					What:    "batch received",
					Subject: b.Code,
					Why:     "stock list",
					Detail:  map[string]any{"lot": b.Lot, "material": m.Name, "state": b.State},
				},
			)
		}
		roll := r.roll(tx, rollIDs[i], m, batches[k].ID)
		if f, in := freezers[strings.ToLower(r.Freezer)]; in {
			roll.FreezerID = &f
		}
		rolls[i] = roll
		events[i] = r.received(tx, &rolls[i])
		said = append(
			said,
			book.Pending{
				What:    "roll received",
				Subject: roll.Code,
				Why:     "stock list",
				Detail:  map[string]any{"length": r.Length, "spent": r.Spent, "row": r.Line},
			},
		)
		plan.Lines[i].Roll = roll.Code
	}
	const many = 400 // rows a statement: parameters are limited to 65535
	for _, step := range []func() error{
		func() error { return tx.CreateInBatches(&batches, many).Error },
		func() error { return tx.CreateInBatches(&tests, many).Error },
		func() error { return tx.CreateInBatches(&rolls, many).Error },
		func() error { return tx.CreateInBatches(&events, many).Error },
	} {
		if err := step(); err != nil {
			return err
		}
	}
	return tx.LogAll(said)
}

// batch is the batch of a row, if it is the first of its lot.
func (r StockRow) batch(tx *book.Tx, id int64, m Material) Batch {
	b := Batch{
		ID: id, Code: ident.Format(ident.Batch, id), MaterialID: m.ID, Lot: r.Lot, MadeOn: r.Made, ReceivedAt: tx.Now,
		ReceivedBy: tx.By.ID(), ShelfEnd: r.ShelfEnd, State: "pending",
	}
	if r.ShelfEnd == nil && r.Made != nil && m.Sheet.ShelfLife > 0 {
		end := r.Made.Add(Seconds(m.Sheet.ShelfLife))
		b.ShelfEnd = &end
	}
	if r.Accepted {
		b.State, b.DecidedAt, b.DecidedBy = "passed", &tx.Now, tx.By.ID()
		b.Decision = "accepted before it came into the list"
	}
	return b
}

// roll is the roll of a row, which has lain in no freezer yet.
func (r StockRow) roll(tx *book.Tx, id int64, m Material, batch int64) Roll {
	roll := Roll{
		ID: id, Code: ident.Format(ident.Roll, id), MaterialID: m.ID, BatchID: batch, Kind: "roll",
		Width: cmp.Or(r.Width, m.Width),
		Place: r.Place, Flaws: []nest.Flaw{}, BaseSpent: r.Spent, Spent: r.Spent, Since: &tx.Now, FullLength: r.Length,
		Length: r.Length, Life: m.OutLife, LifeLeft: 1e12, ClockAt: &tx.Now,
	}
	if m.OutLife > 0 {
		roll.LifeLeft = m.OutLife - r.Spent
	}
	return roll
}

// received is the first line of a roll's ledger.
func (r StockRow) received(tx *book.Tx, roll *Roll) FreezerEvent {
	return FreezerEvent{
		RollID: &roll.ID, Kind: string(material.Received), At: tx.Now, EnteredAt: tx.Now, Length: r.Length,
		PersonID: tx.By.Person.ID, Note: fmt.Sprintf("stock list, row %d", r.Line), FreezerID: roll.FreezerID,
	}
}

// numbers draws the next n numbers of a table.
func numbers(tx *book.Tx, table string, n int) ([]int64, error) {
	ids := []int64{}
	err := tx.Raw(`select nextval(pg_get_serial_sequence(?, 'id')) from generate_series(1, ?)`, table, n).
		Scan(&ids).
		Error
	return ids, err
}
