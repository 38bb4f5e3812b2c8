package builds

import (
	"slices"
	"time"

	"gorm.io/gorm"

	"juxta/core/master"
	"juxta/core/progress"
	"juxta/core/route"
	"juxta/shop/book"
	"juxta/shop/parts"
)

// OperationLine is what was recorded of an operation of a build: a line each time it is
// begun, signed, held, left out or taken back. The last line is how it stands.
type OperationLine struct {
	ID        int64
	BuildID   int64
	Operation string // its key in the document
	State     string
	At        time.Time
	PersonID  int64
	SecondID  *int64
	Reason    string
	Fields    map[string]master.Value `gorm:"serializer:json"`
}

// The fields in which a line keeps where work was sent, and when it is due back.
const (
	SentTo  = "sent: to"
	SentDue = "sent: due back"
)

// SignedLine is a line with the names of who signed.
type SignedLine struct {
	OperationLine `gorm:"embedded"`
	Person        string
	SecondName    string
}

// KitCount is the count of a kit of one operation.
type KitCount struct {
	ID        int64
	BuildID   int64
	Operation string
	CountedAt time.Time
	CountedBy int64
	Container string
}

// RouteProgress is a build on its way along the route of its revision: where its events leave it ([progress.Fold]),
// with what the route plans.
type RouteProgress struct {
	*parts.RevisionRoute
	Progress *progress.Progress
	Statuses []route.Status        // of that, in the order of the route's own list
	Lines    map[string]SignedLine // the last of each operation that is signed for itself
	Reworked int                   // operations that were added to this build alone, the last of the list

	steps []RouteStep // in the order of the list
}

// RouteStep is an operation of a build's route as rooms list it.
type RouteStep struct {
	Operation string `json:"operation" doc:"Its key"`
	Number    int    `json:"number" doc:"In the order of the route"`
	Label     string `json:"label" doc:"What it is called"`
	Kind      string `json:"kind"`
	Room      string `json:"room"`
	State     string `json:"state" enum:"waiting,ready,in work,held,done,left out"`
	Single    bool   `json:"single,omitempty" doc:"It is signed for itself, on the page of the route"`

	Place string  `json:"place,omitempty"`
	Takes float64 `json:"takes" doc:"From its start to its end, as planned, s"`

	Recipe string `json:"recipe,omitempty" doc:"Of what has a run"`

	Unattended float64 `json:"unattended,omitempty" doc:"Of that, what goes on by itself, s"`

	By    string     `json:"by,omitempty" doc:"Who took it up or signed it last"`
	Since *time.Time `json:"since,omitempty"`
}

// open says that somebody can go on with it.
func (s RouteStep) open() bool { return slices.Contains([]string{"ready", "in work", "held"}, s.State) }

// Step is an operation of the route as rooms list it; k is its place in the route's list.
func (w *RouteProgress) Step(k int) RouteStep { return w.steps[k] }

// step works out how rooms list an operation; number is its place in the order.
func (w *RouteProgress) step(k, number int) RouteStep {
	o := w.Operations[k]
	s := RouteStep{
		Operation: o.Key, Number: number, Label: w.Label(k), Kind: string(o.Kind),
		Room: string(o.Room()), State: string(w.Statuses[k].State), Single: w.Progress.Single(k),
		Place: w.Planned[k].Place, Takes: o.Takes().Seconds(), Unattended: o.Unattended.Seconds(),
	}
	if l, there := w.Progress.LastRecorded(k); there && (w.Statuses[k].Again ||
		s.State != string(route.Waiting) && s.State != string(route.Ready)) {
		s.By, s.Since = l.By, &l.At
	}
	return s
}

// Steps are all operations, none before what it waits for.
func (w *RouteProgress) Steps() []RouteStep {
	out := make([]RouteStep, 0, len(w.Operations))
	for _, k := range w.Order() {
		out = append(out, w.steps[k])
	}
	return out
}

// open are the operations that somebody can go on with.
func (w *RouteProgress) open() []RouteStep {
	var out []RouteStep
	for _, k := range w.Order() {
		if w.steps[k].open() {
			out = append(out, w.steps[k])
		}
	}
	return out
}

// room is where the build is to be found: the room of the first operation that somebody
// can go on with.
func (w *RouteProgress) room() string {
	if open := w.open(); len(open) > 0 {
		return open[0].Room
	}
	return string(route.Release)
}

// stageOf is the stage of a ply.
func (w *RouteProgress) stageOf(number int) string {
	if number < 1 || number > len(w.Plies) {
		return ""
	}
	return w.Plies[number-1].Stage
}

// first is the first operation of a kind about a stage, in the order of the route; -1: none.
func (w *RouteProgress) first(kind route.Kind, stage string) int {
	for _, k := range w.Order() {
		if o := w.Operations[k]; o.Kind == kind && slices.Contains(o.Stages, stage) {
			return k
		}
	}
	return -1
}

// kitOf is the kit of a stage, by its operation.
func (w *RouteProgress) kitOf(stage string) string { return w.key(w.first(route.Kitting, stage)) }

// curedAt is when the cure that stops the clock of a stage began, if one did, and whether it is over.
func (w *RouteProgress) curedAt(stage string) (*time.Time, bool) {
	run, there := w.Progress.Cured(stage)
	if !there {
		return nil, false
	}
	return &run.Began, run.Complete()
}

// benchOf is the operation in which a ply is laid; -1: none.
func (w *RouteProgress) benchOf(number int) int {
	if number < 1 || number > len(w.Plies) {
		return -1
	}
	return w.Plies[number-1].Bench
}

// benchOfItem is the operation in whose stages an item is laid; -1: none.
func (w *RouteProgress) benchOfItem(key string) int {
	if k, laid := w.Benches[key]; laid {
		return k
	}
	return -1
}

// numbers are the plies that are laid in an operation.
func (w *RouteProgress) numbers(k int) []int { return w.of(w.Lays(k)) }

// of are the plies of some stages.
func (w *RouteProgress) of(stages []string) []int {
	var out []int
	for _, p := range w.Plies {
		if slices.Contains(stages, p.Stage) {
			out = append(out, p.Number)
		}
	}
	return out
}

// process is that of the revision as it holds for an operation of the route.
func (w *RouteProgress) process(of parts.Process, k int) parts.Process {
	if w == nil || k < 0 {
		return of
	}
	return of.Of(w.Planned[k])
}

// RouteProgress is the build on its route, as [Room.Build] loads it; nil if its revision has none.
func (r buildRow) RouteProgress() *RouteProgress { return r.progress }

// routeProgressOf is a build on its route; nil if its revision has none.
func (s *Room) routeProgressOf(db *gorm.DB, b buildRow) (*RouteProgress, error) {
	all, err := s.routeProgress(db, []buildRow{b})
	return all[b.ID], err
}

// at is the operation that a room is asked for by its key; without one the first that
// somebody can go on with, or the last that is done. It is -1 for a build of one pass,
// which has none.
func (w *RouteProgress) at(number, key string, kinds ...route.Kind) (int, error) {
	return w.find(number, key, func(o route.Operation) bool { return slices.Contains(kinds, o.Kind) })
}

// find is the same for operations that a room knows by something else than their kind.
func (w *RouteProgress) find(number, key string, here func(o route.Operation) bool) (int, error) {
	if w == nil {
		if key != "" {
			return -1, book.NotHere.At("operation", "%s has no route, so no operations", number)
		}
		return -1, nil
	}
	last := -1
	for _, k := range w.Order() {
		o := w.Operations[k]
		if !here(o) {
			continue
		}
		if key != "" {
			if o.Key == key {
				return k, nil
			}
			continue
		}
		if w.Step(k).open() {
			return k, nil
		}
		if last < 0 || w.Statuses[k].State == route.Done {
			last = k
		}
	}
	switch {
	case key != "":
		return -1, book.NotHere.At("operation", "%s has no such operation %q", number, key)
	case last < 0:
		return -1, book.NotHere.Errorf("the route of %s has nothing to do here", number)
	}
	return last, nil
}

// turn refuses an operation that is not to be gone on with now.
func (w *RouteProgress) turn(k int) error { return Refused(w.Progress.Turn(k)) }

// May refuses an event that cannot be recorded of the build now.
func (w *RouteProgress) May(e progress.Event) error { return Refused(w.Progress.May(e)) }

// rules are those of the shop that the rules of a build's progress are.
var rules = map[progress.Rule]book.Rule{
	progress.First: book.First, progress.Over: book.Done, progress.NotNow: book.NotNow,
	progress.Incomplete: book.Incomplete, progress.Needed: book.Needed, progress.Unknown: book.NoSuch,
	progress.Wrong: book.Wrong,
}

// Refused is a refusal of a build's progress as the shop tells it.
func Refused(r *progress.Refusal) error {
	if r == nil {
		return nil
	}
	return rules[r.Rule].At(r.Field, "%s", r.Message)
}

// Asks refuses an operation to somebody who does not hold what it asks for. Nothing is
// asked of the one pass but what its process does.
func (w *RouteProgress) Asks(tx *book.Tx, k int) error {
	if w == nil || k < 0 || w.Planned[k].Qualification == "" {
		return nil
	}
	return book.HoldsAll(tx.DB, tx.By.Person, []string{w.Planned[k].Qualification},
		string(tx.Act)+": "+w.Label(k), tx.Now)
}

// key of an operation; empty for the one pass.
func (w *RouteProgress) key(k int) string {
	if w == nil || k < 0 {
		return ""
	}
	return w.Operations[k].Key
}

// here is an operation as its room shows it, beside those of the same kinds, and what it
// waits for.
func (w *RouteProgress) here(k int, kinds ...route.Kind) (at *RouteStep, others []RouteStep, waits []string) {
	step := w.Step(k)
	for _, n := range w.Order() {
		if slices.Contains(kinds, w.Operations[n].Kind) {
			others = append(others, w.Step(n))
		}
	}
	if step.State == string(route.Waiting) {
		waits = w.Statuses[k].Reasons
	}
	return &step, others, waits
}

// CureLoad is what a build brings to a run: the operation that it completes, by its key
// (empty for a build of one pass), the process as it holds for it, and the stages.
type CureLoad struct {
	Operation string
	Revision  parts.Revision
	Process   parts.Process
	Stages    []string // none: all of the master
	Cured     []string // stages besides, that operations before have hardened
	Free      bool     // it stands without its tool
	Begun     float64  // degree of cure that earlier runs left in all of them; 0: none
}

// CureLoad is the operation that a build is ready for in an oven or a press, without a key
// the one whose turn it is. It refuses a build that is not ready for it.
func (b buildRow) CureLoad(tx *book.Tx, operation string) (CureLoad, error) {
	var h CureLoad
	k, err := b.readyToCure(tx, operation)
	if err != nil {
		return h, err
	}
	if err := tx.Take(&h.Revision, b.RevisionID).Error; err != nil {
		return h, err
	}
	h.Operation, h.Process = b.progress.key(k), b.progress.process(h.Revision.Process, k)
	if b.progress == nil {
		return h, nil
	}
	h.Stages, h.Free = b.progress.Operations[k].Stages, b.progress.Operations[k].Kind == route.PostCuring
	h.Cured = b.progress.Cured(k)
	h.Begun = b.progress.Begun(k, func(k int) float64 {
		run, _ := b.progress.Progress.LastRun(k)
		return run.Cure
	})
	return h, nil
}

func (b buildRow) readyToCure(tx *book.Tx, operation string) (int, error) {
	if b.progress == nil {
		if operation != "" {
			return -1, book.NotHere.At("operation", "%s has no route, so no operations", b.Number)
		}
		if b.Room != string(route.Cure) {
			return -1, book.First.Errorf(
				"%s · %s is not ready for the oven: it waits at %s",
				b.Number,
				b.Serial,
				b.Room,
			)
		}
		return -1, nil
	}
	k, err := b.progress.find(b.Number, operation, route.Operation.Heats)
	if err != nil {
		return -1, err
	}
	no := b.progress.Progress.May(progress.Event{Kind: progress.RunBegun, Operation: b.progress.key(k)})
	if no != nil {
		return -1, rules[no.Rule].Errorf("%s · %s is not ready for the oven: %s", b.Number, b.Serial, no.Message)
	}
	return k, b.progress.Asks(tx, k)
}

// ToRelease refuses the release of a build whose route has not come to it.
func (b buildRow) ToRelease() error {
	if b.progress == nil {
		return nil
	}
	k, err := b.progress.at(b.Number, "", route.Releasing)
	if err != nil {
		return err
	}
	return b.progress.May(progress.Event{Kind: progress.Released, Operation: b.progress.key(k)})
}
