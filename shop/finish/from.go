package finish

import (
	"context"
	"fmt"
	"maps"
	"strings"

	"gorm.io/gorm"

	"juxta/core/ident"
	"juxta/core/layup"
	"juxta/core/master"
	"juxta/core/route"
	"juxta/core/unit"
	"juxta/shop/book"
	"juxta/shop/builds"
)

// What comes to an operation from elsewhere: pre-forms, adherends, the reading of the part
// that leaves its tool, and what was said when work was sent out.

// The fields that the shop itself keeps of an operation, beside those of its plan.
const (
	due      = builds.SentDue
	sentTo   = builds.SentTo
	preform  = "pre-form "
	adherend = "adherend "
)

// sent is what was said when the work went out.
func (o WorkStep) sent() map[string]master.Value {
	out := maps.Clone(o.Fields)
	maps.DeleteFunc(out, func(key string, _ master.Value) bool { return key != due && key != sentTo })
	return out
}

// joins holds the labels that were scanned at a join against its pre-forms, and writes them
// down.
func (s *Room) joins(
	tx *book.Tx, code string, o WorkStep, labels []string, although string, fields map[string]master.Value,
) error {
	if o.Kind != string(route.Joining) {
		return nil
	}
	although = strings.TrimSpace(although)
	if although != "" && tx.By.Person.Role != "quality" {
		return book.NotTheirs.At("although", "whether a pre-form that is too old is joined, a quality person decides")
	}
	forms, views, err := s.formsOf(tx.DB, code, o.Operation, although != "")
	if err != nil {
		return err
	}
	var scanned []string
	for _, label := range labels {
		_, id, err := ident.Parse(label)
		if err != nil {
			return book.Unreadable.At("labels", "%s", err)
		}
		if err := s.elsewhere(tx.DB, forms, id); err != nil {
			return err
		}
		scanned = append(scanned, id)
	}
	if r := layup.CheckJoin(forms, scanned); r != nil {
		return book.Incomplete.At("labels", "%s", r.Message)
	}
	for _, v := range views {
		fields[preform+v.Stage] = master.Value{Text: v.Code}
	}
	for _, f := range forms {
		if f.Over != "" {
			fields["joined although "+f.Name+" is too old"] = master.Value{Text: although}
		}
	}
	return nil
}

// elsewhere refuses a label that is of another build's pre-form, by its name.
func (s *Room) elsewhere(db *gorm.DB, forms []layup.Form, label string) error {
	for _, f := range forms {
		if f.Code == label {
			return nil
		}
	}
	var of []struct{ Number, Serial string }
	if err := db.Raw(`select p.number, b.serial from preforms f join builds b on b.id = f.build_id
		join revisions r on r.id = b.revision_id join parts p on p.id = r.part_id where f.code = ?`, label).
		Scan(&of).Error; err != nil || len(of) == 0 {
		return err
	}
	return book.NotNow.At(
		"labels",
		"%s is a pre-form of %s · %s, or of another join",
		label,
		of[0].Number,
		of[0].Serial,
	)
}

// formsOf are the pre-forms of a join of a build.
func (s *Room) formsOf(db *gorm.DB, code, operation string, let bool) ([]layup.Form, []builds.PreformView, error) {
	b, err := s.Build(db, code)
	if err != nil {
		return nil, nil, err
	}
	views, err := s.PreformsFor(db, b, operation)
	if err != nil {
		return nil, nil, err
	}
	forms := make([]layup.Form, len(views))
	for k, v := range views {
		forms[k] = layup.Form{Code: v.Code, Name: v.Name, Laid: v.Laid, Over: v.Old, Let: let}
	}
	return forms, views, nil
}

// LabelAt is a label that somebody scanned at a join.
type LabelAt struct {
	Operation string   `json:"operation" minLength:"1" maxLength:"48"`
	Label     string   `json:"label" maxLength:"20"`
	Taken     []string `json:"taken,omitempty" doc:"Scanned before it" maxItems:"40"`
	Although  bool     `json:"although,omitempty" doc:"A quality person says why one that is too old is joined: it is signed so"`
}

// LabelCheck is what a label is to a join.
type LabelCheck struct {
	Code    string `json:"code" doc:"As it is written"`
	Fits    bool   `json:"fits"`
	Message string `json:"message"`
}

// Label says what a scanned label is to a join of a build; it stores nothing.
func (s *Room) Label(ctx context.Context, code string, in LabelAt) (LabelCheck, error) {
	return book.View(ctx, s.Book, func(db *gorm.DB) (LabelCheck, error) {
		_, id, err := ident.Parse(in.Label)
		if err != nil {
			return LabelCheck{}, book.Unreadable.At("label", "%s", err)
		}
		forms, _, err := s.formsOf(db, code, in.Operation, in.Although)
		if err != nil {
			return LabelCheck{}, err
		}
		if err := s.elsewhere(db, forms, id); err != nil {
			return LabelCheck{}, err
		}
		if r := layup.CheckLabel(forms, in.Taken, id); r != nil {
			return LabelCheck{Code: id, Message: r.Message}, nil
		}
		for _, f := range forms {
			if f.Code == id {
				return LabelCheck{Code: id, Fits: true, Message: fmt.Sprintf("%s is %s", id, f.Name)}, nil
			}
		}
		return LabelCheck{Code: id}, nil
	})
}

// bonds writes down what each adherend is that comes from elsewhere. One that carries an id
// of this shop has to be a build that is signed off, and not the part itself.
func (s *Room) bonds(
	tx *book.Tx, code string, o WorkStep, adherends []string, fields map[string]master.Value,
) error {
	_, self, _ := ident.Parse(code)
	for k, planned := range o.Planned.Adherends {
		at := fmt.Sprintf("adherends[%d]", k)
		text := ""
		if k < len(adherends) {
			text = strings.TrimSpace(adherends[k])
		}
		if text == "" {
			return book.Needed.At(at, "%s: scan it, or type its marking", planned)
		}
		if kind, id, err := ident.Parse(text); err == nil && kind == ident.Build {
			b, err := s.Build(tx.DB, id)
			switch {
			case err != nil:
				return err
			case b.Code == self:
				return book.Wrong.At(at, "%s is this part itself", id)
			case b.Outcome != "good":
				return book.First.At(
					at,
					"%s · %s is not signed off as good: it waits at %s",
					b.Number,
					b.Serial,
					b.Room,
				)
			}
			text = id
		}
		for n := range k {
			if fields[fmt.Sprintf("%s%d", adherend, n+1)].Text == text {
				return book.Done.At(at, "%s is scanned already", text)
			}
		}
		fields[fmt.Sprintf("%s%d", adherend, k+1)] = master.Value{Text: text}
	}
	return nil
}

// cool refuses a demould while the part is warmer than its route allows: by what was typed,
// or by the last reading of its last run.
func (s *Room) cool(tx *book.Tx, code string, o master.Operation, typed *float64) error {
	if o.Below == 0 {
		return nil
	}
	part, read := typed, "the part reads"
	if part == nil {
		last, err := s.LastReading(tx.DB, code)
		if err != nil {
			return err
		}
		part, read = last, "the last reading of its run is"
	}
	limit := unit.Temperature(o.Below, 0)
	switch {
	case part == nil:
		return book.Needed.At("part", "say what the part reads now: it is opened below %s", limit)
	case *part >= o.Below:
		return book.Limit.At("part", "%s %s, and is opened below %s: let it cool, and say what it reads",
			read, unit.Temperature(*part, 0), limit)
	}
	return nil
}
