package finish

import (
	"context"
	"maps"
	"strings"
	"time"

	"juxta/core/master"
	"juxta/core/route"
	"juxta/shop/book"
	"juxta/shop/builds"
)

// Step takes an operation of a build up.
type Step struct {
	Operation string     `json:"operation" doc:"Its key" minLength:"1" maxLength:"48"`
	Due       *time.Time `json:"due,omitempty" doc:"Work that goes out: when it is due back"`
	Vendor    string     `json:"vendor,omitempty" doc:"Work that goes out: where to; empty: as planned" maxLength:"60"`
}

// StepReason names an operation and says why.
type StepReason struct {
	Operation string `json:"operation" minLength:"1" maxLength:"48"`
	Reason    string `json:"reason" maxLength:"400"`
}

// LeaveStepOut says why an operation is left out of one build.
type LeaveStepOut struct {
	Operation string `json:"operation" minLength:"1" maxLength:"48"`
	Reason    string `json:"reason" maxLength:"400"`
	PIN       string `json:"pin" maxLength:"12"`
}

// SignStep signs an operation as done, with what it records.
type SignStep struct {
	Operation string                  `json:"operation" minLength:"1" maxLength:"48"`
	Fields    map[string]master.Value `json:"fields,omitempty" doc:"By the keys of the operation's fields"`
	Part      *float64                `json:"part,omitempty" doc:"Demould: what the part reads, K" minimum:"0" maximum:"1000"`
	SecondID  int64                   `json:"secondId,omitempty" doc:"Who looked as the second person"`
	SecondPIN string                  `json:"secondPin,omitempty" maxLength:"12"`
	Labels    []string                `json:"labels,omitempty" doc:"Join: of the pre-forms, as scanned" maxItems:"40"`
	Although  string                  `json:"although,omitempty" doc:"Join: why a pre-form that is too old is joined all the same; a quality person says it" maxLength:"400"`
	Adherends []string                `json:"adherends,omitempty" doc:"Bond: what each that comes from elsewhere is: the id of a build, or what stands on a bought part" maxItems:"20"`
}

// step changes one operation of a build: do says what is recorded of it, or refuses.
func (s *Room) step(
	ctx context.Context, by book.By, act book.Act, what, code, key string, input any,
	do func(tx *book.Tx, o WorkStep) (builds.OperationLine, error),
) (WorkView, error) {
	return book.Write(ctx, s.Book, by, act, what+" "+code, input, func(tx *book.Tx) (WorkView, error) {
		b, err := s.Held(tx, code)
		if err != nil {
			return WorkView{}, err
		}
		v, err := s.WorkOf(tx.DB, code)
		if err != nil {
			return v, err
		}
		var o *WorkStep
		for k := range v.Operations {
			if v.Operations[k].Planned.Key == key {
				o = &v.Operations[k]
			}
		}
		switch {
		case o == nil:
			return v, book.NotHere.At("operation", "%s %s has no operation %q", b.Number, b.Letter, key)
		case !o.Single && !o.beside(act, what):
			return v, book.First.Errorf("%s is signed in its own room", o.Label)
		case b.Room == "finished":
			return v, book.Done.Errorf("this part is signed off already: %s", b.Outcome)
		}
		line, err := do(tx, *o)
		if err != nil {
			return v, err
		}
		line.BuildID, line.Operation, line.At, line.PersonID = b.ID, key, tx.Now, tx.By.Person.ID
		if line.Fields == nil {
			line.Fields = map[string]master.Value{}
		}
		if err := tx.Create(&line).Error; err != nil {
			return v, err
		}
		if err := tx.Log("operation "+line.State, b.Code, line.Reason, map[string]any{
			"operation": key, "says": o.Label, "fields": line.Fields, "role": tx.Role(), "second": line.SecondID,
		}); err != nil {
			return v, err
		}
		return s.WorkOf(tx.DB, code)
	})
}

// beside says whether something may be recorded of an operation beside what its room
// records: that it is left out or taken in again, that it is held, and that it is taken up again.
func (o WorkStep) beside(act book.Act, what string) bool {
	if o.Kind == string(route.Releasing) {
		return false
	}
	running := o.Room == string(route.Cure) && o.State == "in work" // it is stopped at the oven
	return act == book.LeaveOutStep || what == "take back" && o.State == "left out" ||
		what == "hold" && !running || what == "start" && o.State == "held"
}

// asks refuses an operation to somebody who does not hold what it asks for. Who holds,
// refers or leaves it out does not do it, and is not asked.
func (o WorkStep) asks(tx *book.Tx) error { return o.progress.Asks(tx, o.progress.Index(o.Operation)) }

// turn refuses an operation that is not to be begun or signed now.
func turn(o WorkStep, states ...string) error {
	for _, state := range states {
		if o.State == state {
			return nil
		}
	}
	switch o.State {
	case "waiting":
		return book.First.Errorf("%s %s", o.Label, route.WaitReason(o.Waits))
	case "held":
		return book.First.Errorf("%s is held, by %s: %s. Resume it first", o.Label, o.By, o.Reason)
	case "in work":
		if o.Since != nil && o.By != "" {
			return book.Done.Errorf("%s is in work already, since %s by %s", o.Label, book.Clock(*o.Since), o.By)
		}
		return book.Done.Errorf("%s is in work already", o.Label) // a run, which no one person is at
	}
	return book.Done.Errorf("%s is %s already, by %s", o.Label, o.State, o.By)
}

// StartStep takes an operation up, for the first time or after it was held.
func (s *Room) StartStep(ctx context.Context, by book.By, code string, in Step) (WorkView, error) {
	return s.step(ctx, by, book.FinishPart, "start", code, in.Operation, in,
		func(tx *book.Tx, o WorkStep) (builds.OperationLine, error) {
			line := builds.OperationLine{State: "in work", Fields: map[string]master.Value{}}
			if o.Kind == string(route.Outside) && o.State == "ready" {
				vendor := strings.TrimSpace(in.Vendor)
				if vendor == "" {
					vendor = o.Planned.Place
				}
				switch {
				case in.Due == nil:
					return line, book.Needed.At("due", "say when it is due back")
				case in.Due.Before(tx.Now):
					return line, book.WrongTime.At("due", "it cannot be due back in the past")
				case vendor == "":
					return line, book.Needed.At("vendor", "say where it goes")
				}
				line.Fields[due], line.Fields[sentTo] = master.Value{At: in.Due}, master.Value{Text: vendor}
			}
			if err := turn(o, "ready", "held"); err != nil {
				return line, err
			}
			return line, o.asks(tx)
		})
}

// SignStepDone signs an operation as done, with everything that it records within its
// limits.
func (s *Room) SignStepDone(ctx context.Context, by book.By, code string, in SignStep) (WorkView, error) {
	second, err := s.second(ctx, by, in)
	if err != nil {
		return WorkView{}, err
	}
	in.SecondPIN = ""
	return s.step(ctx, by, book.FinishPart, "sign", code, in.Operation, in,
		func(tx *book.Tx, o WorkStep) (builds.OperationLine, error) {
			if err := turn(o, "ready", "in work"); err != nil {
				return builds.OperationLine{}, err
			}
			if err := o.asks(tx); err != nil {
				return builds.OperationLine{}, err
			}
			if o.Kind == string(route.Outside) && o.State == "ready" {
				return builds.OperationLine{}, book.First.Errorf("send it out first, and say when it is due back")
			}
			if err := s.cool(tx, code, o.Planned, in.Part); err != nil {
				return builds.OperationLine{}, err
			}
			if o.Planned.Second && second == nil {
				return builds.OperationLine{}, book.Second.At(
					"secondId",
					"%s: a second person signs",
					o.Label,
				)
			}
			for _, v := range o.Planned.Judge(in.Fields, tx.Now) {
				if v.Message == "" {
					continue
				}
				rule := book.Limit
				if v.Missing {
					rule = book.Incomplete
				}
				return builds.OperationLine{}, rule.At("fields."+v.Key, "%s", v.Message)
			}
			fields := map[string]master.Value{}
			for _, f := range o.Planned.Fields {
				v, there := in.Fields[f.Key]
				if !there {
					continue
				}
				if _, keeps := papers[f.Kind]; keeps && v.FileID != 0 {
					if err := pictured(tx, f, v.FileID); err != nil {
						return builds.OperationLine{}, err
					}
				}
				fields[f.Key] = v
			}
			for _, more := range []func() error{
				func() error { return s.joins(tx, code, o, in.Labels, in.Although, fields) },
				func() error { return s.bonds(tx, code, o, in.Adherends, fields) },
			} {
				if err := more(); err != nil {
					return builds.OperationLine{}, err
				}
			}
			maps.Copy(fields, o.sent())
			return builds.OperationLine{State: "done", Fields: fields, SecondID: second}, nil
		})
}

// papers are the kinds of file that a field keeps, by its kind, and how that is said.
var papers = map[string]struct {
	types []string
	says  string
}{
	"picture": {[]string{"image/png", "image/jpeg"}, "this picture is not here, or is no PNG or JPEG"},
	"paper": {
		[]string{"application/pdf", "image/png", "image/jpeg"},
		"this paper is not here, or is no PDF, PNG or JPEG",
	},
}

// pictured refuses a file that is not kept here, or is not what the field keeps.
func pictured(tx *book.Tx, f master.Field, fileID int64) error {
	var here int64
	err := tx.Model(&book.File{}).Where("id = ? and media_type in ?", fileID, papers[f.Kind].types).Count(&here).Error
	if err == nil && here == 0 {
		err = book.NotHere.At("fields."+f.Key, "%s: %s", f.Name, papers[f.Kind].says)
	}
	return err
}

// second is who looked as the second person, once they gave their own PIN.
func (s *Room) second(ctx context.Context, by book.By, in SignStep) (*int64, error) {
	if in.SecondID == 0 {
		return nil, nil
	}
	if by.Person != nil && by.Person.ID == in.SecondID {
		return nil, book.Second.At("secondId", "the second person is somebody else")
	}
	person, err := s.PersonByID(ctx, in.SecondID)
	if err != nil {
		return nil, book.Needed.At("secondId", "enter who checked")
	}
	other := by
	other.Person = person
	if err := s.PIN(ctx, other, in.SecondPIN); err != nil {
		return nil, err
	}
	return &person.ID, nil
}

// HoldStep holds an operation, and refers it to quality.
func (s *Room) HoldStep(ctx context.Context, by book.By, code string, in StepReason) (WorkView, error) {
	return s.step(ctx, by, book.FinishPart, "hold", code, in.Operation, in,
		func(_ *book.Tx, o WorkStep) (builds.OperationLine, error) {
			if strings.TrimSpace(in.Reason) == "" {
				return builds.OperationLine{}, book.Needed.At("reason", "say why it is held")
			}
			return builds.OperationLine{State: "held", Reason: in.Reason}, turn(o, "ready", "in work")
		})
}

// TakeBackStep takes the last signature of an operation back: both stay on record. What
// rests on it has to be signed again.
func (s *Room) TakeBackStep(ctx context.Context, by book.By, code string, in StepReason) (WorkView, error) {
	return s.step(ctx, by, book.FinishPart, "take back", code, in.Operation, in,
		func(tx *book.Tx, o WorkStep) (builds.OperationLine, error) {
			switch {
			case !o.Signed:
				return builds.OperationLine{}, book.NotNow.Errorf("nothing is recorded of %s", o.Label)
			case strings.TrimSpace(in.Reason) == "":
				return builds.OperationLine{}, book.Needed.At("reason", "say what was wrong")
			case o.By != tx.By.Person.Name && tx.By.Person.Role != "quality":
				return builds.OperationLine{}, book.NotTheirs.Errorf(
					"%s was signed by %s: ask them or a quality person",
					o.Label,
					o.By,
				)
			}
			if begun := o.progress.Reopens(o.Operation, o.progress.Recorded); o.State == "left out" && len(begun) > 0 {
				k := o.progress.Index(begun[0])
				return builds.OperationLine{}, book.NotNow.Errorf(
					"%s was begun without it: take that back first",
					o.progress.Label(k),
				)
			}
			return builds.OperationLine{State: "taken back", Reason: in.Reason}, nil
		})
}

// LeaveOut leaves an operation out of one build, for a reason and with the PIN.
func (s *Room) LeaveOut(ctx context.Context, by book.By, code string, in LeaveStepOut) (WorkView, error) {
	by, err := s.Signed(ctx, by, book.LeaveOutStep, in.PIN)
	if err != nil {
		return WorkView{}, err
	}
	in.PIN = ""
	return s.step(ctx, by, book.LeaveOutStep, "leave out", code, in.Operation, in,
		func(_ *book.Tx, o WorkStep) (builds.OperationLine, error) {
			if strings.TrimSpace(in.Reason) == "" {
				return builds.OperationLine{}, book.Needed.At("reason", "say why it is left out")
			}
			states := []string{"ready", "waiting", "held"}
			if o.Single {
				states = append(states, "in work") // a room that is at it, or a run, is stopped there first
			}
			return builds.OperationLine{State: "left out", Reason: in.Reason}, turn(o, states...)
		})
}
