package finish

import (
	"context"
	"maps"
	"slices"
	"strings"
	"time"

	"juxta/core/master"
	"juxta/core/progress"
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
	NotGood   string                  `json:"notGood,omitempty" doc:"Why it is not good: it is held, with whatever was found, and quality disposes of it" maxLength:"400"`
	Adherends []string                `json:"adherends,omitempty" doc:"Bond: what each that comes from elsewhere is: the id of a build, or what stands on a bought part" maxItems:"20"`
}

// step records something of one operation of a build: an event that its progress lets be ([progress.Progress.May]). do
// says what is kept of it besides, or refuses.
func (s *Room) step(
	ctx context.Context, by book.By, act book.Act, what, code string, e progress.Event, input any,
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
		k := slices.IndexFunc(v.Operations, func(o WorkStep) bool { return o.Planned.Key == e.Operation })
		if k < 0 {
			return v, book.NotHere.At("operation", "%s %s has no operation %q", b.Number, b.Letter, e.Operation)
		}
		o := v.Operations[k]
		if err := o.progress.May(e); err != nil {
			return v, err
		}
		line, err := do(tx, o)
		if err != nil {
			return v, err
		}
		line.BuildID, line.Operation, line.At, line.PersonID = b.ID, e.Operation, tx.Now, tx.By.Person.ID
		line.State, line.Reason = lineStates[e.Kind], strings.TrimSpace(e.Reason)
		if line.Fields == nil {
			line.Fields = map[string]master.Value{}
		}
		if err := tx.Create(&line).Error; err != nil {
			return v, err
		}
		if err := tx.Log("operation "+line.State, b.Code, line.Reason, map[string]any{
			"operation": e.Operation, "says": o.Label, "fields": line.Fields, "role": tx.Role(),
			"second": line.SecondID,
		}); err != nil {
			return v, err
		}
		return s.WorkOf(tx.DB, code)
	})
}

// lineStates are what the lines of operations are called that keep events.
var lineStates = map[progress.Kind]string{
	progress.Begun: "in work", progress.Signed: "done", progress.NotGood: "not good", progress.Held: "held",
	progress.TakenBack: "taken back", progress.LeftOut: "left out",
}

// asks refuses an operation to somebody who does not hold what it asks for. Who holds,
// refers or leaves it out does not do it, and is not asked.
func (o WorkStep) asks(tx *book.Tx) error { return o.progress.Asks(tx, o.progress.Index(o.Operation)) }

// StartStep takes an operation up, for the first time or after it was held. What was found not good is quality's to
// take up again.
func (s *Room) StartStep(ctx context.Context, by book.By, code string, in Step) (WorkView, error) {
	begun := progress.Event{Kind: progress.Begun, Operation: in.Operation}
	return s.step(ctx, by, book.FinishPart, "start", code, begun, in,
		func(tx *book.Tx, o WorkStep) (builds.OperationLine, error) {
			line := builds.OperationLine{Fields: map[string]master.Value{}}
			if o.NotGood && tx.By.Person.Role != "quality" {
				return line, book.NotTheirs.Errorf(
					"%s was found not good: a quality person decides how it goes on",
					o.Label,
				)
			}
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
			return line, o.asks(tx)
		})
}

// SignStepDone signs an operation as done, with everything that it records within its limits; or as not good, with
// whatever was found: it is held then, and quality disposes of it.
func (s *Room) SignStepDone(ctx context.Context, by book.By, code string, in SignStep) (WorkView, error) {
	second, err := s.second(ctx, by, in)
	if err != nil {
		return WorkView{}, err
	}
	in.SecondPIN = ""
	signed := progress.Event{Kind: progress.Signed, Operation: in.Operation}
	if in.NotGood != "" {
		signed.Kind, signed.Reason = progress.NotGood, in.NotGood
	}
	return s.step(ctx, by, book.FinishPart, "sign", code, signed, in,
		func(tx *book.Tx, o WorkStep) (builds.OperationLine, error) {
			if err := o.asks(tx); err != nil {
				return builds.OperationLine{}, err
			}
			if signed.Kind == progress.NotGood {
				fields, err := s.found(tx, o, in)
				maps.Copy(fields, o.sent())
				return builds.OperationLine{Fields: fields, SecondID: second}, err
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
			fields, err := s.found(tx, o, in)
			if err != nil {
				return builds.OperationLine{}, err
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
			return builds.OperationLine{Fields: fields, SecondID: second}, nil
		})
}

// found is what was entered into the fields of an operation; files that are not kept here are refused.
func (s *Room) found(tx *book.Tx, o WorkStep, in SignStep) (map[string]master.Value, error) {
	fields := map[string]master.Value{}
	for _, f := range o.Planned.Fields {
		v, there := in.Fields[f.Key]
		if !there {
			continue
		}
		if _, keeps := papers[f.Kind]; keeps && v.FileID != 0 {
			if err := pictured(tx, f, v.FileID); err != nil {
				return fields, err
			}
		}
		fields[f.Key] = v
	}
	return fields, nil
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
	held := progress.Event{Kind: progress.Held, Operation: in.Operation, Reason: in.Reason}
	return s.step(
		ctx,
		by,
		book.FinishPart,
		"hold",
		code,
		held,
		in,
		func(*book.Tx, WorkStep) (builds.OperationLine, error) {
			return builds.OperationLine{}, nil
		},
	)
}

// TakeBackStep takes the last signature of an operation back: both stay on record. What
// rests on it has to be signed again.
func (s *Room) TakeBackStep(ctx context.Context, by book.By, code string, in StepReason) (WorkView, error) {
	back := progress.Event{Kind: progress.TakenBack, Operation: in.Operation, Reason: in.Reason}
	return s.step(ctx, by, book.FinishPart, "take back", code, back, in,
		func(tx *book.Tx, o WorkStep) (builds.OperationLine, error) {
			if o.By != tx.By.Person.Name && tx.By.Person.Role != "quality" {
				return builds.OperationLine{}, book.NotTheirs.Errorf(
					"%s was signed by %s: ask them or a quality person",
					o.Label,
					o.By,
				)
			}
			return builds.OperationLine{}, nil
		})
}

// LeaveOut leaves an operation out of one build, for a reason and with the PIN.
func (s *Room) LeaveOut(ctx context.Context, by book.By, code string, in LeaveStepOut) (WorkView, error) {
	by, err := s.Signed(ctx, by, book.LeaveOutStep, in.PIN)
	if err != nil {
		return WorkView{}, err
	}
	in.PIN = ""
	out := progress.Event{Kind: progress.LeftOut, Operation: in.Operation, Reason: in.Reason}
	return s.step(ctx, by, book.LeaveOutStep, "leave out", code, out, in,
		func(*book.Tx, WorkStep) (builds.OperationLine, error) { return builds.OperationLine{}, nil })
}
