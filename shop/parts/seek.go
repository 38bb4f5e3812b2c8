package parts

import (
	"context"
	"math"
	"slices"
	"time"

	"gorm.io/gorm"

	"juxta/core/master"
	"juxta/core/unit"
	"juxta/shop/book"
)

// DrapeSearch is a search for how a ply is laid on a curved surface.
type DrapeSearch struct {
	ID        int64
	PartID    int64
	What      string         // start, cuts
	Problem   master.DrapeOf `gorm:"serializer:json"`
	State     string         // queued, running, done, failed
	Best      *DrapeBest     `gorm:"serializer:json"`
	Stop      bool
	Message   string `gorm:"column:says"`
	PersonID  *int64
	CreatedAt time.Time
	SeenAt    time.Time
	EndedAt   *time.Time
}

// DrapeBest is the best of a search so far.
type DrapeBest struct {
	X      float64            `json:"x" doc:"Where it is laid on first, from the datum, m"`
	Y      float64            `json:"y"`
	Peak   float64            `json:"peakDeg" doc:"Largest shear, degrees, on a coarser net than the ply is cut by"`
	Radius float64            `json:"radius,omitempty" doc:"Of strips: the tightest that one is steered along, m"`
	Cuts   []master.FabricCut `json:"cuts,omitempty" doc:"That it was laid with"`
	Found  bool               `json:"found" doc:"There is one"`
	Tried  int                `json:"tried"`
	Of     int                `json:"of" doc:"0: it is not known how many are tried"`
}

// NewDrapeSearch asks for a search.
type NewDrapeSearch struct {
	Document *master.Document `json:"document,omitempty" doc:"As it stands on the page; missing: as kept"`
	Letter   string           `json:"letter,omitempty"`
	Stage    string           `json:"stage" doc:"Key" minLength:"1" maxLength:"24"`
	Ply      string           `json:"ply" doc:"Key" minLength:"1" maxLength:"24"`
	What     string           `json:"what" enum:"start,cuts" doc:"Where it is laid on first, or by which cuts it no longer locks"`
}

// DrapeSearchView is a search as far as it has come.
type DrapeSearchView struct {
	ID      int64     `json:"id"`
	What    string    `json:"what" enum:"start,cuts"`
	State   string    `json:"state" enum:"queued,running,done,failed"`
	Best    DrapeBest `json:"best"`
	Message string    `json:"message,omitempty" doc:"Why it failed"`
}

func (d DrapeSearch) view() DrapeSearchView {
	v := DrapeSearchView{ID: d.ID, What: d.What, State: d.State, Message: d.Message}
	if d.Best != nil {
		v.Best = *d.Best
	}
	return v
}

// SeekDrape queues a search for how a ply is laid.
func (s *Room) SeekDrape(ctx context.Context, by book.By, partCode string, in NewDrapeSearch) (DrapeSearchView, error) {
	return book.Write(
		ctx,
		s.Book,
		by,
		book.WriteMaster,
		"seek drape "+partCode,
		in,
		func(tx *book.Tx) (DrapeSearchView, error) {
			m, r, err := s.asked(tx.DB, partCode, in.Letter, in.Document)
			if err != nil {
				return DrapeSearchView{}, err
			}
			c, stage, faults, err := m.stage(in.Stage)
			if err != nil {
				return DrapeSearchView{}, err
			}
			if len(faults) > 0 {
				return DrapeSearchView{}, book.NotNow.At("stage", "%s: put it right first", faults[0].Message)
			}
			if stage.Surface == nil || !slices.ContainsFunc(stage.Items, func(i master.Item) bool {
				return i.Kind == master.Ply && i.Key == in.Ply
			}) {
				return DrapeSearchView{}, book.NotHere.At("ply", "there is no such ply on a curved surface")
			}
			of, err := c.Doc.DrapeOf(stage, in.Ply, c.Materials)
			if err != nil {
				return DrapeSearchView{}, undrawn(err)
			}
			if in.What == "cuts" && of.Lock == 0 {
				return DrapeSearchView{}, book.NotNow.At(
					"what",
					"its material does not say where it locks: enter that with the material first",
				)
			}
			// Searches are work, no record.
			if err := tx.Exec(`delete from drape_searches where ended_at < ?`,
				tx.Now.AddDate(0, 0, -30)).Error; err != nil {
				return DrapeSearchView{}, err
			}
			row := DrapeSearch{
				PartID: r.PartID, What: in.What, Problem: of, State: "queued", PersonID: tx.By.ID(), CreatedAt: tx.Now,
				SeenAt: time.Now().UTC(),
			}
			if err := tx.Create(&row).Error; err != nil {
				return DrapeSearchView{}, err
			}
			if err := s.Queue.Drape(tx.Ctx, tx.SQL(), row.ID); err != nil {
				return DrapeSearchView{}, err
			}
			return row.view(), tx.Log("drape search started", partCode, "", map[string]any{
				"what": in.What, "ply": in.Ply,
			})
		},
	)
}

// SeenDrape is a search as far as it has come.
func (s *Room) SeenDrape(ctx context.Context, id int64) (DrapeSearchView, error) {
	return book.View(ctx, s.Book, func(db *gorm.DB) (DrapeSearchView, error) {
		row, err := drapeSearch(db, id)
		return row.view(), err
	})
}

func drapeSearch(db *gorm.DB, id int64) (DrapeSearch, error) {
	var row DrapeSearch
	if err := db.Where("id = ?", id).Limit(1).Find(&row).Error; err != nil {
		return row, err
	}
	if row.ID == 0 {
		return row, book.NotHere.Errorf("there is no search %d", id)
	}
	return row, nil
}

// StopDrape asks a search to stop and keep its best.
func (s *Room) StopDrape(ctx context.Context, by book.By, id int64) (DrapeSearchView, error) {
	return book.Write(ctx, s.Book, by, book.WriteMaster, "stop drape", id, func(tx *book.Tx) (DrapeSearchView, error) {
		row, err := drapeSearch(book.Locked(tx.DB), id)
		if err != nil {
			return DrapeSearchView{}, err
		}
		if row.State != "queued" && row.State != "running" {
			// That is what was wanted.
			return row.view(), tx.Log("drape search ended", "", "", map[string]any{"id": id})
		}
		if err := tx.Model(&row).Update("stop", true).Error; err != nil {
			return DrapeSearchView{}, err
		}
		return row.view(), tx.Log("drape search stopped", "", "", map[string]any{"id": id})
	})
}

const drapeSearches = "drape_searches"

// BeginDrape takes a search up; ok is false when it is over, or another worker runs it. The turn is given up with
// Abandon.
func (s *Room) BeginDrape(ctx context.Context, id int64) (turn book.SearchTurn, row DrapeSearch, ok bool, err error) {
	turn, ok, err = s.TakeUp(ctx, drapeSearches, id)
	if err != nil || !ok {
		return turn, row, false, err
	}
	row, err = drapeSearch(s.DB.Gorm.WithContext(ctx), id)
	return turn, row, err == nil, err
}

// DrapeProgress keeps the best so far; stop says that somebody asked the search to end.
func (s *Room) DrapeProgress(ctx context.Context, turn book.SearchTurn, best DrapeBest) (stop bool, err error) {
	best = best.finite()
	return s.Progress(ctx, turn, &DrapeSearch{Best: &best}, "Best")
}

// EndDrape keeps what a search found, or why it found nothing.
func (s *Room) EndDrape(ctx context.Context, turn book.SearchTurn, best DrapeBest, says string) error {
	_, err := book.Write(
		ctx,
		s.Book,
		book.By{},
		book.WriteMaster,
		"end drape",
		turn,
		func(tx *book.Tx) (struct{}, error) {
			row, err := book.LockTurn[DrapeSearch](tx, turn)
			if err != nil {
				return struct{}{}, err
			}
			best = best.finite()
			row.State, row.EndedAt, row.Message, row.Best = "done", &tx.Now, says, &best
			if says != "" {
				row.State = "failed"
			}
			if err := tx.Save(&row).Error; err != nil {
				return struct{}{}, err
			}
			return struct{}{}, tx.Log(
				"drape search "+row.State,
				"",
				says,
				map[string]any{"id": turn.ID, "tried": best.Tried},
			)
		},
	)
	return err
}

// finite is the best without what JSON cannot hold.
func (b DrapeBest) finite() DrapeBest {
	for _, v := range []*float64{&b.Peak, &b.Radius} {
		if math.IsInf(*v, 0) || math.IsNaN(*v) || *v > 1e6 {
			*v = 0
		}
	}
	b.Peak = math.Round(b.Peak*100) / 100
	b.X, b.Y = unit.RoundLength(b.X), unit.RoundLength(b.Y)
	return b
}

// ForsakenDrapes puts searches whose worker has fallen silent back into the queue.
func (s *Room) ForsakenDrapes(ctx context.Context) error {
	return s.Forsaken(ctx, drapeSearches, s.Queue.Drape)
}
