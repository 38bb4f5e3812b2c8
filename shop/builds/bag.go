package builds

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"gorm.io/gorm"

	"juxta/core/bag"
	"juxta/core/progress"
	"juxta/core/route"
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
	Vacuum   bool          `json:"vacuum" doc:"It is drawn down by vacuum, so it is checked for leaks; what is taped, or closed in a mould, is not"`
	At       *RouteStep    `json:"at,omitempty" doc:"The operation that closes it, of a build with a route"`
	Others   []RouteStep   `json:"others,omitempty" doc:"What else is closed or debulked of this build"`
	Waits    []string      `json:"waits,omitempty" doc:"What the operation waits for, in words"`
	Open     bool          `json:"open" doc:"It may be closed now"`
	Cured    bool          `json:"cured" doc:"Its cure is begun"`
}

// BagStack is one order of consumables.
type BagStack struct {
	Name   string   `json:"name"`
	Layers []string `json:"layers"`
	Vacuum bool     `json:"vacuum"`
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
	Message string    `gorm:"column:says" json:"message"`
}

// Bag is the bag of a build; of one with a route that of an operation, without a key
// the one whose turn it is.
func (s *Room) Bag(ctx context.Context, code, operation string) (BagView, error) {
	return book.View(ctx, s.Book, func(db *gorm.DB) (BagView, error) {
		b, err := s.Build(db, code)
		if err != nil {
			return BagView{}, err
		}
		k, err := b.progress.at(b.Number, operation, route.Closing)
		if err != nil {
			return BagView{}, err
		}
		return s.bagView(db, b, k)
	})
}

// bagView is the bag of an operation; k is -1 for the one pass.
func (s *Room) bagView(db *gorm.DB, b buildRow, k int) (BagView, error) {
	key := b.progress.key(k)
	var stages []string
	if b.progress != nil {
		stages = b.progress.Operations[k].Stages
	}
	var err error
	if b.OutTime, err = s.KitOutTime(db, b, stages...); err != nil {
		return BagView{}, err
	}
	var r parts.Revision
	if err := db.Take(&r, b.RevisionID).Error; err != nil {
		return BagView{}, err
	}
	process := b.progress.process(r.Process, k)
	v := BagView{
		Build:    b.BuildLine,
		Process:  process,
		Planned:  bag.Stacks[process.BagStack],
		Checks:   []LeakView{},
		Deepest:  bag.Atmosphere(s.Altitude),
		Altitude: s.Altitude,
	}
	for name, layers := range bag.Stacks {
		// A part of one pass is always drawn down.
		if b.progress != nil || bag.Vacuum(name) {
			v.Stacks = append(v.Stacks, BagStack{name, layers, bag.Vacuum(name)})
		}
	}
	v.Open, v.Cured = b.Room == "bag", b.RunState == "running" || b.RunState == "finished"
	if b.progress != nil {
		v.At, v.Others, v.Waits = b.progress.here(k, route.Closing, route.Debulking)
		v.Open = slices.Contains([]route.State{route.Ready, route.InWork}, b.progress.Statuses[k].State)
		v.Cured = b.progress.Progress.BeganAfter(k)
	}
	slices.SortFunc(v.Stacks, func(a, b BagStack) int {
		return cmp.Or(len(a.Layers)-len(b.Layers), strings.Compare(a.Name, b.Name))
	})
	var closed Bag
	if err := db.Where("build_id = ? and operation = ?", b.ID, key).Limit(1).Find(&closed).Error; err != nil {
		return BagView{}, err
	}
	v.Vacuum = bag.Vacuum(process.BagStack)
	if closed.BuildID != 0 {
		v.Vacuum = closed.NeedsCheck
		names, err := s.Names(db)
		if err != nil {
			return BagView{}, err
		}
		v.Closed, v.ClosedAt, v.ClosedBy = closed.Stack, &closed.ClosedAt, names[closed.ClosedBy]
	}
	if err := db.Raw(`select c.at, p.name as person, c.start_vacuum as start, c.end_vacuum as "end", c.seconds, c.pass,
		c.says
		from leak_checks c join people p on p.id = c.person_id
		where c.build_id = ? and c.operation = ? order by c.id`, b.ID, key).Scan(&v.Checks).Error; err != nil {
		return BagView{}, err
	}
	for i := range v.Checks {
		c := &v.Checks[i]
		verdict, err := bag.Judge(
			bag.LeakCheck{Start: c.Start, End: c.End, Took: stock.Seconds(c.Seconds)},
			v.Process.Closing().Leak(),
		)
		if err != nil {
			return BagView{}, err
		}
		c.Lost = verdict.Lost
	}
	return v, nil
}

func (s *Room) changeBag(
	ctx context.Context,
	by book.By,
	what, code, operation string,
	input any,
	do func(tx *book.Tx, v BagView, b buildRow, k int) error,
) (BagView, error) {
	input = []any{input, operation}
	return book.Write(ctx, s.Book, by, book.BagPart, what+" "+code, input, func(tx *book.Tx) (BagView, error) {
		b, err := s.Held(tx, code)
		if err != nil {
			return BagView{}, err
		}
		k, err := b.progress.at(b.Number, operation, route.Closing)
		if err != nil {
			return BagView{}, err
		}
		if err := b.progress.Asks(tx, k); err != nil {
			return BagView{}, err
		}
		v, err := s.bagView(tx.DB, b, k)
		if err != nil {
			return BagView{}, err
		}
		if err := do(tx, v, b, k); err != nil {
			return BagView{}, err
		}
		if b, err = s.Build(tx.DB, code); err != nil {
			return BagView{}, err
		}
		return s.bagView(tx.DB, b, k)
	})
}

// CloseBag records the bag with the stack that was laid over the part.
func (s *Room) CloseBag(ctx context.Context, by book.By, code, operation, stack string) (BagView, error) {
	return s.changeBag(
		ctx,
		by,
		"close bag",
		code,
		operation,
		stack,
		func(tx *book.Tx, v BagView, b buildRow, k int) error {
			layers, ok := bag.Stacks[stack]
			switch {
			case !ok:
				return book.NotHere.At("stack", "there is no bag stack %q", stack)
			case v.ClosedAt != nil:
				return book.Done.Errorf("the bag is already closed, by %s", v.ClosedBy)
			case b.progress == nil && !bag.Vacuum(stack):
				return book.NotHere.At(
					"stack",
					"this build has no route: %q is for builds on a route; bag it and check for leaks",
					stack,
				)
			case b.progress != nil:
				closed := progress.Event{Kind: progress.BagClosed, Operation: v.At.Operation}
				if err := b.progress.May(closed); err != nil {
					return err
				}
			case b.Room != "bag":
				return book.Incomplete.Errorf("the layup of this part is not complete")
			}
			if err := tx.Create(&Bag{
				BuildID: b.ID, Operation: b.progress.key(k), Stack: layers, NeedsCheck: bag.Vacuum(stack),
				ClosedAt: tx.Now,
				ClosedBy: tx.By.Person.ID,
			}).Error; err != nil {
				return err
			}
			return tx.Log("bag closed", b.Code, "", map[string]any{
				"stack": stack, "planned": v.Process.BagStack, "operation": b.progress.key(k),
			})
		},
	)
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
			Message: fmt.Sprintf(
				"%s. Look at the gauge and its unit again; if the reading is right, confirm it",
				err,
			),
		}
	}
	return nil
}

// mayCheckLeak refuses a leak check, or its start, of what is not closed, cannot leak, or was gone on with.
func (b buildRow) mayCheckLeak(v BagView, kind progress.Kind) error {
	switch {
	case b.progress != nil:
		return b.progress.May(progress.Event{Kind: kind, Operation: v.At.Operation})
	case v.ClosedAt == nil:
		return book.First.Errorf("close the bag first")
	case v.Cured:
		return book.Done.Errorf("this part is already in its cure run")
	}
	return nil
}

// CheckLeak records a leak check and judges it by the revision's limit.
func (s *Room) CheckLeak(
	ctx context.Context, by book.By, code, operation string, in NewLeakCheck,
) (BagView, error) {
	return s.changeBag(
		ctx,
		by,
		"leak check",
		code,
		operation,
		in,
		func(tx *book.Tx, v BagView, b buildRow, k int) error {
			if err := b.mayCheckLeak(v, progress.LeakChecked); err != nil {
				return err
			}
			if err := s.drawn(in.Start, in.Sure); err != nil {
				return err
			}
			verdict, err := bag.Judge(bag.LeakCheck{Start: in.Start, End: in.End, Took: stock.Seconds(in.Seconds)},
				v.Process.Closing().Leak())
			if err != nil {
				return book.Unreadable.At("end", "%s", err)
			}
			check := LeakCheck{
				BuildID:     b.ID,
				Operation:   b.progress.key(k),
				At:          tx.Now,
				PersonID:    tx.By.Person.ID,
				StartVacuum: in.Start,
				EndVacuum:   in.End,
				Seconds:     in.Seconds,
				Pass:        verdict.Pass,
				Message:     verdict.Message,
			}
			if err := tx.Create(&check).Error; err != nil {
				return err
			}
			return tx.Log(
				"leak check",
				b.Code,
				verdict.Message,
				map[string]any{
					"pass": verdict.Pass, "start": in.Start, "end": in.End, "seconds": in.Seconds, "sure": in.Sure,
					"operation": b.progress.key(k),
				},
			)
		},
	)
}
