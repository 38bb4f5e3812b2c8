// Package finish is the room of the operations that are signed each for itself: the tool
// prepared, the part demoulded, trimmed, drilled, bonded, coated, sent out and looked at. What
// they are and what they record stands in the route of the build's revision.
package finish

import (
	"context"
	"fmt"
	"slices"
	"time"

	"gorm.io/gorm"

	"juxta/core/master"
	"juxta/core/route"
	"juxta/core/unit"
	"juxta/shop/book"
	"juxta/shop/builds"
	"juxta/shop/parts"
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
	Number  int                     `json:"number"`
	Says    string                  `json:"says" doc:"What it is called"`
	Room    string                  `json:"room"`
	Single  bool                    `json:"single" doc:"It is signed here; the others in their rooms"`
	State   string                  `json:"state" enum:"waiting,ready,in work,held,done,left out"`
	Waits   []string                `json:"waits" doc:"For what, in words"`
	Again   bool                    `json:"again" doc:"It was begun or done, and what it rests on was taken back since"`
	By      string                  `json:"by,omitempty"`
	Second  string                  `json:"second,omitempty"`
	At      *time.Time              `json:"at,omitempty"`
	Reason  string                  `json:"reason,omitempty"`
	Fields  map[string]master.Value `json:"fields,omitempty"`
	Planned master.Operation        `json:"planned"`
}

// Waiting is an operation that somebody can go on with.
type Waiting struct {
	Build     builds.BuildLine `json:"build"`
	Operation WorkStep         `json:"operation"`
}

// Work is a build with the operations of its route.
func (s *Room) Work(ctx context.Context, code string) (WorkView, error) {
	return book.View(ctx, s.Book, func(db *gorm.DB) (WorkView, error) {
		b, err := s.Build(db, code)
		if err != nil {
			return WorkView{}, err
		}
		return s.work(db, b.ID, b.RevisionID, b.BuildLine)
	})
}

// ToFinish are the operations of this room that are ready, in work or held, of all builds
// under way, those that were planned to be cured first before others.
func (s *Room) ToFinish(ctx context.Context) ([]Waiting, error) {
	return book.View(ctx, s.Book, s.toFinish)
}

// FinishWaiting is how many operations of this room wait to be begun or signed.
func (s *Room) FinishWaiting(db *gorm.DB) (int, error) {
	all, err := s.toFinish(db)
	return len(all), err
}

func (s *Room) toFinish(db *gorm.DB) ([]Waiting, error) {
	// Only a revision with a route has something to sign here.
	rows, err := s.BuildRows(db, `b.done_at is null and b.revision_id in (select id from revisions
		where coalesce(jsonb_array_length(doc -> 'route'), 0) > 0) order by b.cure_at, b.id limit 500`)
	if err != nil {
		return nil, err
	}
	out := []Waiting{}
	for _, b := range rows {
		v, err := s.work(db, b.ID, b.RevisionID, b.BuildLine)
		if err != nil {
			return nil, err
		}
		for _, o := range v.Operations {
			if o.Single && slices.Contains([]string{"ready", "in work", "held"}, o.State) {
				out = append(out, Waiting{Build: b.BuildLine, Operation: o})
			}
		}
	}
	return out, nil
}

// work tells where the operations of a build stand.
func (s *Room) work(db *gorm.DB, id, revisionID int64, line builds.BuildLine) (WorkView, error) {
	v := WorkView{Build: line, Operations: []WorkStep{}}
	var r parts.Revision
	if err := db.Select("id", "doc").Take(&r, revisionID).Error; err != nil {
		return v, err
	}
	if v.OnePass = r.Doc == nil || len(r.Doc.Route) == 0; v.OnePass {
		return v, nil
	}
	ordered, faults := r.Doc.Ordered()
	if len(faults) > 0 {
		return v, fmt.Errorf("the route of %s %s: %w", line.Number, line.Letter, faults[0])
	}
	last, err := lastLines(db, id)
	if err != nil {
		return v, err
	}
	signed := map[string]route.Mark{}
	for key, l := range last {
		signed[key] = route.Mark{State: route.State(l.State), By: l.Person, At: l.At, Reason: l.Reason}
	}
	marks := ordered.Walked(route.Room(line.Room), signed)
	stand := ordered.Stand(marks)
	for n, k := range ordered.Order() {
		o, at := ordered.Operations[k], stand[k]
		view := WorkStep{
			Number: n + 1, Says: o.Says(ordered.Stages), Room: string(o.Kind.Room()), Single: o.Kind.Single(),
			State: string(at.State), Waits: at.Says, Again: at.Again, Planned: r.Doc.Route[k],
		}
		if mark, marked := marks[o.Key]; marked && !view.Single {
			view.State, view.Waits, view.Again = string(mark.State), nil, false // its room knows
		}
		if view.Waits == nil {
			view.Waits = []string{}
		}
		if at.Mark != nil {
			view.Reason = at.Mark.Reason
		}
		if l, there := last[o.Key]; there {
			view.By, view.Second, view.At, view.Fields = l.Person, l.SecondName, &l.At, l.Fields
		}
		v.Operations = append(v.Operations, view)
	}
	return v, nil
}

// signedLine is a line with the names of who signed.
type signedLine struct {
	OperationLine `gorm:"embedded"`
	Person        string
	SecondName    string
}

// lastLines are the last lines of a build's operations by their keys, without those that
// were taken back.
func lastLines(db *gorm.DB, buildID int64) (map[string]signedLine, error) {
	var lines []signedLine
	if err := db.Raw(`select distinct on (l.operation) l.*, p.name as person, coalesce(q.name, '') as second_name
		from operation_lines l join people p on p.id = l.person_id left join people q on q.id = l.second_id
		where l.build_id = ? order by l.operation, l.id desc`, buildID).Scan(&lines).Error; err != nil {
		return nil, err
	}
	out := map[string]signedLine{}
	for _, l := range lines {
		if l.State != "taken back" {
			out[l.Operation] = l
		}
	}
	return out, nil
}

// Unsigned are the operations that a build's release still waits for, in words.
func (s *Room) Unsigned(db *gorm.DB, id, revisionID int64, line builds.BuildLine) ([]string, error) {
	v, err := s.work(db, id, revisionID, line)
	if err != nil {
		return nil, err
	}
	var out []string
	for _, o := range v.Operations {
		if o.Single && o.State != "done" && o.State != "left out" {
			out = append(out, fmt.Sprintf("operation %d, %s, is %s", o.Number, o.Says, o.State))
		}
	}
	return out, nil
}

// VerdictView is what a field asks of what is typed.
type VerdictView struct {
	Key  string `json:"key"`
	Met  bool   `json:"met"`
	Says string `json:"says" doc:"Why not; empty: nothing speaks against it"`
}

// Judge holds what is typed into the fields of an operation against them; it stores
// nothing.
func (s *Room) Judge(ctx context.Context, code string, in SignStep) ([]VerdictView, error) {
	v, err := s.Work(ctx, code)
	if err != nil {
		return nil, err
	}
	k := slices.IndexFunc(v.Operations, func(o WorkStep) bool { return o.Planned.Key == in.Operation })
	if k < 0 {
		return nil, book.NotHere.At("operation", "%s has no operation %q", v.Build.Number, in.Operation)
	}
	out := []VerdictView{}
	for _, x := range v.Operations[k].Planned.Judge(in.Fields, s.Now()) {
		out = append(out, VerdictView{Key: x.Key, Met: x.Met, Says: x.Says})
	}
	return out, nil
}

// below refuses a demould while the part is warmer than its route allows.
func below(o master.Operation, part *float64) error {
	switch {
	case o.Below == 0:
		return nil
	case part == nil:
		return book.Needed.At("part", "say what the part reads now: it is opened below %s", unit.Temperature(o.Below, 0))
	case *part >= o.Below:
		return book.Limit.At("part", "the part reads %s, and is opened below %s: let it cool",
			unit.Temperature(*part, 0), unit.Temperature(o.Below, 0))
	}
	return nil
}
