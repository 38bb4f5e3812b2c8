package finish

import (
	"context"
	"fmt"
	"slices"

	"gorm.io/gorm"

	"juxta/core/master"
	"juxta/core/route"
	"juxta/shop/book"
	"juxta/shop/builds"
)

// Room of the finish.
type Room struct{ *builds.Room }

// WorkView is a build with the operations of its route.
type WorkView struct {
	Build      builds.BuildLine `json:"build"`
	OnePass    bool             `json:"onePass" doc:"Its revision has no route: nothing is signed here"`
	Operations []WorkStep       `json:"operations" doc:"None before what it waits for"`
}

// WorkStep is where an operation of a build stands.
type WorkStep struct {
	builds.RouteStep
	Waits   []string                `json:"waits" doc:"For what, in words"`
	Again   bool                    `json:"again" doc:"It was begun or done, and what it rests on was taken back since"`
	Second  string                  `json:"second,omitempty"`
	Reason  string                  `json:"reason,omitempty"`
	Fields  map[string]master.Value `json:"fields,omitempty"`
	Run     string                  `json:"run,omitempty" doc:"Of a cure: its last run"`
	Forms   []builds.PreformView    `json:"forms,omitempty" doc:"Join: the pre-forms that it takes"`
	Cavity  float64                 `json:"cavity,omitempty" doc:"Injection: what it fills, m³"`
	Resin   float64                 `json:"resin,omitempty" doc:"Injection: that it takes as planned, kg"`
	NotGood bool                    `json:"notGood,omitempty" doc:"It was signed as not good, and is held until quality disposes of it"`
	Signed  bool                    `json:"signed,omitempty" doc:"Something is recorded of it that can be taken back"`
	Lays    bool                    `json:"lays,omitempty" doc:"Join: plies that close the joint are laid at the bench first"`

	progress *builds.RouteProgress
	Planned  master.Operation `json:"planned"`
}

// Waiting is an operation that somebody can go on with.
type Waiting struct {
	Build     builds.BuildLine `json:"build"`
	Operation builds.RouteStep `json:"operation"`
}

// bench says whether the plies of a join that are laid at the bench are, if there are such plies.
func (o WorkStep) bench() (done, there bool) {
	_, done, there = o.progress.Progress.Bench(o.progress.Index(o.Operation))
	return done, there
}

// Work is a build with the operations of its route.
func (s *Room) Work(ctx context.Context, code string) (WorkView, error) {
	return book.View(ctx, s.Book, func(db *gorm.DB) (WorkView, error) { return s.WorkOf(db, code) })
}

// ToFinish are the operations of this room that are ready, in work or held, of all builds
// under way, those that were planned to be cured first before others.
func (s *Room) ToFinish(ctx context.Context) ([]Waiting, error) {
	return book.View(ctx, s.Book, func(db *gorm.DB) ([]Waiting, error) {
		lines, err := s.BuildLines(db, `b.done_at is null order by b.cure_at, b.id`)
		if err != nil {
			return nil, err
		}
		out := []Waiting{}
		for _, b := range lines {
			for _, o := range b.Open {
				if o.Room == string(route.Finish) {
					out = append(out, Waiting{Build: b, Operation: o})
				}
			}
		}
		return out, nil
	})
}

// WorkOf tells where the operations of a build stand.
func (s *Room) WorkOf(db *gorm.DB, code string) (WorkView, error) {
	b, err := s.Build(db, code)
	if err != nil {
		return WorkView{}, err
	}
	w := b.RouteProgress()
	v := WorkView{Build: b.BuildLine, OnePass: w == nil, Operations: []WorkStep{}}
	if w == nil {
		return v, nil
	}
	for _, k := range w.Order() {
		at, key := w.Statuses[k], w.Operations[k].Key
		view := WorkStep{RouteStep: w.Step(k), Waits: at.Reasons, Again: at.Again, Planned: w.Planned[k], progress: w}
		if view.Kind == string(route.Joining) {
			if view.Forms, err = s.PreformsFor(db, b, key); err != nil {
				return v, err
			}
			_, view.Lays = view.bench()
		}
		if view.Kind == string(route.Injecting) {
			view.Cavity, view.Resin = w.Fills(k)
		}
		if view.Waits == nil {
			view.Waits = []string{}
		}
		if at.Recorded != nil {
			view.Reason = at.Recorded.Reason
		}
		if l, there := w.Lines[key]; there {
			view.Second, view.Fields, view.Signed = l.SecondName, l.Fields, true
			view.NotGood = l.State == "not good"
		}
		if run, there := w.Progress.LastRun(k); there {
			view.Run = run.Code
		}
		v.Operations = append(v.Operations, view)
	}
	return v, nil
}

// Unsigned are the operations that a build's release still waits for, in words.
func (v WorkView) Unsigned() []string {
	var out []string
	for _, o := range v.Operations {
		if o.Kind != string(route.Releasing) && o.State != "done" && o.State != "left out" {
			out = append(out, fmt.Sprintf("operation %d, %s, is %s", o.Number, o.Label, o.State))
		}
	}
	return out
}

// FieldCheckView is what a field asks of what is typed.
type FieldCheckView struct {
	Key     string `json:"key"`
	Met     bool   `json:"met"`
	Message string `json:"message" doc:"Why not; empty: nothing speaks against it"`
}

// Judge holds what is typed into the fields of an operation against them; it stores
// nothing.
func (s *Room) Judge(ctx context.Context, code string, in SignStep) ([]FieldCheckView, error) {
	v, err := s.Work(ctx, code)
	if err != nil {
		return nil, err
	}
	k := slices.IndexFunc(v.Operations, func(o WorkStep) bool { return o.Planned.Key == in.Operation })
	if k < 0 {
		return nil, book.NotHere.At("operation", "%s has no operation %q", v.Build.Number, in.Operation)
	}
	out := []FieldCheckView{}
	for _, x := range v.Operations[k].Planned.Judge(in.Fields, s.Now()) {
		out = append(out, FieldCheckView{Key: x.Key, Met: x.Met, Message: x.Message})
	}
	return out, nil
}
