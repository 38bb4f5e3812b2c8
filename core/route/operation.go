package route

import (
	"slices"
	"strings"
	"time"
)

// Kind is what an operation does. Operations of a kind differ by their data.
type Kind string

// The kinds of operation.
const (
	Cutting    Kind = "cut"
	Kitting    Kind = "kit"
	Preparing  Kind = "prepare tool"
	Laying     Kind = "lay"
	Joining    Kind = "join"
	Closing    Kind = "close"
	Debulking  Kind = "debulk"
	Curing     Kind = "cure"
	PostCuring Kind = "post-cure"
	Demoulding Kind = "demould"
	Trimming   Kind = "trim"
	Drilling   Kind = "drill"
	Machining  Kind = "machine"
	Bonding    Kind = "bond"
	Injecting  Kind = "inject"
	Sanding    Kind = "sand"
	Priming    Kind = "prime"
	Coating    Kind = "coat"
	Marking    Kind = "mark"
	Adjusting  Kind = "adjust"
	Outside    Kind = "outside"
	Inspecting Kind = "inspect"
	Releasing  Kind = "release"
)

// Finish is the room of what is done to a part once it is out of its tool.
const Finish Room = "finish"

// kinds are all there are, each with the room in which it is done and what one tells people
// to do, in the order of a plain part's work.
var kinds = []struct {
	kind Kind
	room Room
	verb string
}{
	{Cutting, Cut, "Cut"},
	{Kitting, Kit, "Kit"},
	{Preparing, Layup, "Prepare tool"},
	{Laying, Layup, "Lay up"},
	{Joining, Layup, "Join"},
	{Closing, Bag, "Bag"},
	{Debulking, Bag, "Debulk"},
	{Curing, Cure, "Cure"},
	{Demoulding, Finish, "Demould"},
	{PostCuring, Cure, "Post-cure"},
	{Trimming, Finish, "Trim"},
	{Drilling, Finish, "Drill"},
	{Machining, Finish, "Machine"},
	{Bonding, Finish, "Bond"},
	{Injecting, Finish, "Inject"},
	{Sanding, Finish, "Sand"},
	{Priming, Finish, "Prime"},
	{Coating, Finish, "Coat"},
	{Marking, Finish, "Mark"},
	{Adjusting, Finish, "Adjust"},
	{Outside, Finish, "Send out"},
	{Inspecting, Release, "Inspect"},
	{Releasing, Release, "Release"},
}

// Kinds are all kinds of operation, in the order of a plain part's work.
func Kinds() []Kind {
	all := make([]Kind, len(kinds))
	for k, x := range kinds {
		all[k] = x.kind
	}
	return all
}

// Room is where an operation of the kind is done; empty if there is no such kind.
func (k Kind) Room() Room {
	for _, x := range kinds {
		if x.kind == k {
			return x.room
		}
	}
	return ""
}

// Verb is what an operation of the kind is called where no stage need be named: "Lay up";
// the kind itself if there is no such kind.
func (k Kind) Verb() string {
	for _, x := range kinds {
		if x.kind == k {
			return x.verb
		}
	}
	return string(k)
}

// finish says whether the kind works on the part once it is out of its tool.
func (k Kind) finish() bool {
	return k.Room() == Finish &&
		!slices.Contains([]Kind{Demoulding, Bonding, Injecting, Outside, Adjusting, Marking}, k)
}

// StageKind is what a stage of a master is.
type StageKind string

// The kinds of stage that a route treats in a way of their own.
const (
	Preform   StageKind = "pre-form"
	Bond      StageKind = "bond"
	Injection StageKind = "injection"
)

// Stage of a master, as far as its route goes.
type Stage struct {
	Key, Name string
	Kind      StageKind

	Cavity, Resin float64 // injection: of its mould, m³, and what fills it, kg; 0: not said
}

// Called is the stage's name, or its kind where it has none.
func (s Stage) Called() string {
	if s.Name != "" {
		return s.Name
	}
	return string(s.Kind)
}

// Operation is one thing done to one build, signed.
type Operation struct {
	Key    string
	Kind   Kind
	Name   string   // what people call it; empty: its kind and its stages
	Stages []string // keys of the stages that it is about
	After  []string // keys of the operations that it waits for

	SetUp, Attended, Unattended time.Duration
	Adherends                   int  // bond: how many things come from elsewhere
	Heated                      bool // it has a recipe of its own
	Signs                       bool // it asks for more than its room records: fields, a second person, a hold point
}

// Heats says whether the operation is a run of an oven or a press: every cure, and a
// post-cure or a debulk with a recipe of its own.
func (o Operation) Heats() bool { return o.Kind == Curing || o.Heated }

// Room is where the operation is done.
func (o Operation) Room() Room {
	if o.Heats() {
		return Cure
	}
	return o.Kind.Room()
}

// Takes is how long the operation takes from its start to its end.
func (o Operation) Takes() time.Duration { return o.SetUp + o.Attended + o.Unattended }

// Label is what an operation is called: its name, or what it does to which stages,
// "Cure Tool skin".
func (o Operation) Label(stages []Stage) string {
	if o.Name != "" {
		return o.Name
	}
	var of []string
	for _, s := range stages {
		if slices.Contains(o.Stages, s.Key) {
			of = append(of, s.Called())
		}
	}
	if len(of) == 0 || len(of) == len(stages) {
		return o.Kind.Verb()
	}
	return o.Kind.Verb() + " " + strings.Join(of, ", ")
}

// Single says whether operations of the kind are signed each for itself, as they stand in
// the route. The others are done in the rooms of plies, bags, runs and inspections, which
// know of themselves when they are done.
func (k Kind) Single() bool {
	return k.Room() == Finish ||
		slices.Contains([]Kind{Preparing, Joining, Debulking, PostCuring, Inspecting}, k)
}

// Single says whether the operation is signed for itself: not if a run completes it.
func (o Operation) Single() bool { return o.Kind.Single() && !o.Heats() }

// Lays are the stages whose plies are laid in an operation: all of a lay's, and of a join
// those that no lay lays, which close the joint.
func (r *Route) Lays(k int) []string {
	o := r.Operations[k]
	switch o.Kind {
	case Laying:
		return o.Stages
	case Joining:
		return slices.DeleteFunc(slices.Clone(o.Stages), func(stage string) bool {
			return slices.ContainsFunc(r.Operations, func(x Operation) bool {
				return x.Kind == Laying && slices.Contains(x.Stages, stage)
			})
		})
	}
	return nil
}

// Joins are the stages that a join brings together, each laid before it.
func (r *Route) Joins(k int) []string {
	if r.Operations[k].Kind != Joining {
		return nil
	}
	own := r.Lays(k)
	return slices.DeleteFunc(slices.Clone(r.Operations[k].Stages), func(stage string) bool {
		return slices.Contains(own, stage)
	})
}
