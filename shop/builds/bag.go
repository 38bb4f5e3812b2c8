package builds

import (
	"context"
	"fmt"
	"slices"
	"time"

	"gorm.io/gorm"

	"juxta/core/bag"
	"juxta/shop/book"
	"juxta/shop/parts"
	"juxta/shop/stock"
)

// BagView is the bag of a build: planned stack and limit beside what was done.
type BagView struct {
	Build    BuildLine     `json:"build"`
	Process  parts.Process `json:"process"`
	Planned  []string      `json:"planned" doc:"From the part outwards"`
	Stacks   []BagStack    `json:"stacks" doc:"To choose from"`
	Closed   []string      `json:"closed,omitempty" doc:"The stack as closed"`
	ClosedAt *time.Time    `json:"closedAt,omitempty"`
	ClosedBy string        `json:"closedBy,omitempty"`
	Checks   []LeakView    `json:"checks"`
	Deepest  float64       `json:"deepest" doc:"Deepest vacuum at this altitude in the standard atmosphere, Pa"`
	Altitude float64       `json:"altitude" doc:"m"`
}

// BagStack is one order of consumables.
type BagStack struct {
	Name   string   `json:"name"`
	Layers []string `json:"layers"`
}

// LeakView is a leak check as recorded.
type LeakView struct {
	At      time.Time `json:"at"`
	Person  string    `json:"person"`
	Start   float64   `json:"start" doc:"Pa below the air outside"`
	End     float64   `json:"end"`
	Seconds float64   `json:"seconds"`
	Lost    float64   `gorm:"-" json:"lost" doc:"Over the time of the limit, Pa"`
	Pass    bool      `json:"pass"`
	Says    string    `json:"says"`
}

// Bag is the bag of a build.
func (s *Room) Bag(ctx context.Context, code string) (BagView, error) {
	return book.View(ctx, s.Book, func(db *gorm.DB) (BagView, error) { return s.BagView(db, code) })
}

func (s *Room) BagView(db *gorm.DB, code string) (BagView, error) {
	b, err := s.Build(db, code)
	if err != nil {
		return BagView{}, err
	}
	if b.Fuse, err = s.KitFuse(db, b); err != nil {
		return BagView{}, err
	}
	var r parts.Revision
	if err := db.Take(&r, b.RevisionID).Error; err != nil {
		return BagView{}, err
	}
	v := BagView{
		Build:    b.BuildLine,
		Process:  r.Process,
		Planned:  bag.Stacks[r.Process.BagStack],
		Checks:   []LeakView{},
		Deepest:  bag.Atmosphere(s.Altitude),
		Altitude: s.Altitude,
	}
	for name, layers := range bag.Stacks {
		v.Stacks = append(v.Stacks, BagStack{name, layers})
	}
	slices.SortFunc(v.Stacks, func(a, b BagStack) int { return len(a.Layers) - len(b.Layers) })
	var closed Bag
	if err := db.Where("build_id = ?", b.ID).Limit(1).Find(&closed).Error; err != nil {
		return BagView{}, err
	}
	if closed.BuildID != 0 {
		names, err := s.Names(db)
		if err != nil {
			return BagView{}, err
		}
		v.Closed, v.ClosedAt, v.ClosedBy = closed.Stack, &closed.ClosedAt, names[closed.ClosedBy]
	}
	if err := db.Raw(`select c.at, p.name as person, c.start_vacuum as start, c.end_vacuum as "end", c.seconds, c.pass,
		c.says
		from leak_checks c join people p on p.id = c.person_id where c.build_id = ?
		order by c.id`, b.ID).Scan(&v.Checks).Error; err != nil {
		return BagView{}, err
	}
	for i := range v.Checks {
		c := &v.Checks[i]
		verdict, err := bag.Judge(
			bag.LeakCheck{Start: c.Start, End: c.End, Took: stock.Seconds(c.Seconds)},
			leakLimit(v.Process),
		)
		if err != nil {
			return BagView{}, err
		}
		c.Lost = verdict.Lost
	}
	return v, nil
}

func leakLimit(p parts.Process) bag.Limit {
	return bag.Limit{Start: p.LeakStart, Drop: p.LeakDrop, Over: stock.Seconds(p.LeakSeconds)}
}

func (s *Room) changeBag(
	ctx context.Context,
	by book.By,
	what, code string,
	input any,
	do func(tx *book.Tx, v BagView, b buildRow) error,
) (BagView, error) {
	return book.Write(ctx, s.Book, by, book.BagPart, what+" "+code, input, func(tx *book.Tx) (BagView, error) {
		b, err := s.Held(tx, code)
		if err != nil {
			return BagView{}, err
		}
		v, err := s.BagView(tx.DB, b.Code)
		if err != nil {
			return BagView{}, err
		}
		if err := do(tx, v, b); err != nil {
			return BagView{}, err
		}
		return s.BagView(tx.DB, b.Code)
	})
}

// CloseBag records the bag with the stack that was laid over the part.
func (s *Room) CloseBag(ctx context.Context, by book.By, code, stack string) (BagView, error) {
	return s.changeBag(ctx, by, "close bag", code, stack, func(tx *book.Tx, v BagView, b buildRow) error {
		layers, ok := bag.Stacks[stack]
		switch {
		case !ok:
			return book.NotHere.At("stack", "there is no bag stack %q", stack)
		case v.ClosedAt != nil:
			return book.Done.Errorf("the bag is already closed, by %s", v.ClosedBy)
		case b.Room != "bag":
			return book.Incomplete.Errorf("the layup of this part is not complete")
		}
		if err := tx.Create(&Bag{
			BuildID: b.ID, Stack: layers, ClosedAt: tx.Now, ClosedBy: tx.By.Person.ID,
		}).Error; err != nil {
			return err
		}
		return tx.Log("bag closed", b.Code, "", map[string]any{"stack": stack, "planned": v.Process.BagStack})
	})
}

// NewLeakCheck is a leak check as read off the gauge.
type NewLeakCheck struct {
	Start   float64 `json:"start" doc:"Vacuum at the start, Pa below the air outside" minimum:"0" maximum:"101325"`
	End     float64 `json:"end" doc:"Vacuum at the end" minimum:"0" maximum:"101325"`
	Seconds float64 `json:"seconds" exclusiveMinimum:"0" maximum:"86400"`
	Sure    bool    `json:"sure,omitempty" doc:"It was read so, although no pump can draw it at this altitude"`
}

// drawn asks whether a vacuum was read right that no pump can draw here: a
// slip of the unit is likelier than a gauge that reads deeper.
func (s *Room) drawn(vacuum float64, sure bool) error {
	if err := bag.Possible(vacuum, s.Altitude); err != nil && !sure {
		return &book.Error{
			Rule:  book.Unlikely,
			Field: "sure",
			Says:  fmt.Sprintf("%s. Look at the gauge and its unit again; if it really reads so, say that it does", err),
		}
	}
	return nil
}

// CheckLeak records a leak check and judges it by the revision's limit.
func (s *Room) CheckLeak(ctx context.Context, by book.By, code string, in NewLeakCheck) (BagView, error) {
	return s.changeBag(ctx, by, "leak check", code, in, func(tx *book.Tx, v BagView, b buildRow) error {
		if v.ClosedAt == nil {
			return book.First.Errorf("close the bag first")
		}
		if b.RunState == "running" || b.RunState == "finished" {
			return book.Done.Errorf("this part is already in its cure run")
		}
		if err := s.drawn(in.Start, in.Sure); err != nil {
			return err
		}
		verdict, err := bag.Judge(bag.LeakCheck{Start: in.Start, End: in.End, Took: stock.Seconds(in.Seconds)},
			leakLimit(v.Process))
		if err != nil {
			return book.Unreadable.At("end", "%s", err)
		}
		check := LeakCheck{
			BuildID:     b.ID,
			At:          tx.Now,
			PersonID:    tx.By.Person.ID,
			StartVacuum: in.Start,
			EndVacuum:   in.End,
			Seconds:     in.Seconds,
			Pass:        verdict.Pass,
			Says:        verdict.Says,
		}
		if err := tx.Create(&check).Error; err != nil {
			return err
		}
		return tx.Log(
			"leak check",
			b.Code,
			verdict.Says,
			map[string]any{"pass": verdict.Pass, "start": in.Start, "end": in.End, "seconds": in.Seconds, "sure": in.Sure},
		)
	})
}
