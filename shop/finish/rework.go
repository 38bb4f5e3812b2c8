package finish

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"juxta/core/master"
	"juxta/core/progress"
	"juxta/core/route"
	"juxta/shop/book"
	"juxta/shop/builds"
)

// NewRework is an operation that quality adds to one build alone.
type NewRework struct {
	Kind      string   `json:"kind" doc:"One that is signed for itself" maxLength:"20"`
	Name      string   `json:"name" maxLength:"80"`
	After     []string `json:"after,omitempty" doc:"Keys of the operations that it waits for" maxItems:"60"`
	Before    []string `json:"before" doc:"Keys of the operations that wait for it" minItems:"1" maxItems:"60"`
	Note      string   `json:"note,omitempty" maxLength:"600"`
	Reason    string   `json:"reason" maxLength:"400"`
	PIN       string   `json:"pin" maxLength:"12"`
	SecondID  int64    `json:"secondId" doc:"Who looked as the second person"`
	SecondPIN string   `json:"secondPin" maxLength:"12"`
}

// AddRework adds an operation to one build alone, signed by quality and a second person.
// It reopens nothing silently: what is begun already cannot be made to wait for it.
func (s *Room) AddRework(ctx context.Context, by book.By, code string, in NewRework) (WorkView, error) {
	by, err := s.Signed(ctx, by, book.ReworkPart, in.PIN)
	if err != nil {
		return WorkView{}, err
	}
	second, err := s.second(ctx, by, SignStep{SecondID: in.SecondID, SecondPIN: in.SecondPIN})
	if err != nil {
		return WorkView{}, err
	}
	in.PIN, in.SecondPIN = "", ""
	return book.Write(ctx, s.Book, by, book.ReworkPart, "rework "+code, in, func(tx *book.Tx) (WorkView, error) {
		b, err := s.Held(tx, code)
		if err != nil {
			return WorkView{}, err
		}
		w := b.RouteProgress()
		switch kind := route.Kind(in.Kind); {
		case w == nil:
			return WorkView{}, book.NotNow.Errorf("%s has no route that a rework could be added to", b.Number)
		case second == nil:
			return WorkView{}, book.Second.At("secondId", "a second person signs a rework")
		case b.Outcome != "":
			return WorkView{}, book.Done.Errorf("this part is signed off already: %s", b.Outcome)
		case strings.TrimSpace(in.Reason) == "":
			return WorkView{}, book.Needed.At("reason", "say what is reworked, and why")
		case strings.TrimSpace(in.Name) == "":
			return WorkView{}, book.Needed.At("name", "say what is to be done")
		case !kind.Single() || kind == route.Joining:
			return WorkView{}, book.NotHere.At("kind", "a rework is one of %s", strings.Join(reworks(), ", "))
		}
		o := master.Operation{
			Key: fmt.Sprintf("rework %d", w.Reworked+1), Kind: in.Kind, Name: strings.TrimSpace(in.Name),
			After: in.After, Note: strings.TrimSpace(in.Note),
		}
		core := o.Core()
		if err := w.May(progress.Event{
			Kind: progress.Reworked, Added: &core, Before: in.Before, Reason: in.Reason,
		}); err != nil {
			return WorkView{}, err
		}
		record := builds.Rework{
			BuildID: b.ID, Operation: o, Before: in.Before, Reason: strings.TrimSpace(in.Reason),
			PersonID: tx.By.Person.ID, SecondID: *second, At: tx.Now,
		}
		if err := tx.Create(&record).Error; err != nil {
			return WorkView{}, err
		}
		if err := tx.Log("rework added", b.Code, record.Reason, map[string]any{
			"operation": o.Key, "says": o.Name, "kind": o.Kind, "before": in.Before, "second": *second,
			"role":    tx.Role(),
			"meaning": "added to this build alone",
		}); err != nil {
			return WorkView{}, err
		}
		return s.WorkOf(tx.DB, b.Code)
	})
}

// reworks are the kinds of operation that can be added to one build.
func reworks() []string {
	var out []string
	for _, k := range route.Kinds() {
		if k.Single() && k != route.Joining {
			out = append(out, string(k))
		}
	}
	return slices.Clip(out)
}
