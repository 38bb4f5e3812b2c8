package calc

import (
	"context"
	"fmt"
	"time"

	"juxta/core/layup"
	"juxta/core/progress"
	"juxta/core/route"
)

// ProgressOperation is an operation of a route.
type ProgressOperation struct {
	Key     string   `json:"key" minLength:"1"`
	Kind    string   `json:"kind" enum:"cut,kit,prepare tool,lay,join,close,debulk,cure,demould,post-cure,trim,drill,machine,bond,inject,sand,prime,coat,mark,adjust,outside,inspect,release"`
	Name    string   `json:"name,omitempty"`
	Stages  []string `json:"stages,omitempty" doc:"Keys of the stages that it is about"`
	After   []string `json:"after,omitempty" doc:"Keys of the operations that it waits for"`
	Takes   float64  `json:"takes,omitempty" doc:"From its start to its end, s" minimum:"0" maximum:"31536000"`
	Heated  bool     `json:"heated,omitempty" doc:"It has a recipe of its own"`
	Signs   bool     `json:"signs,omitempty" doc:"It asks for more than its room records"`
	Debulks bool     `json:"debulks,omitempty" doc:"Lay and join: a debulk after the first ply of the bench"`
	Every   int      `json:"every,omitempty" doc:"Lay and join: a debulk after so many plies; 0: never" minimum:"0"`
}

// ProgressStage is a stage of a part, with its plies.
type ProgressStage struct {
	Key   string `json:"key" minLength:"1"`
	Name  string `json:"name,omitempty"`
	Kind  string `json:"kind,omitempty"`
	Plies int    `json:"plies,omitempty" doc:"They are numbered from 1, through all stages" minimum:"0" maximum:"3000"`
}

// ProgressEvent is something that happened to a build.
type ProgressEvent struct {
	progress.Event
	Added *ProgressOperation `json:"added,omitempty" doc:"Reworked: the operation"`
}

// ProgressIn is a route and what happened along it.
type ProgressIn struct {
	Stages     []ProgressStage     `json:"stages" minItems:"1"`
	Operations []ProgressOperation `json:"operations" minItems:"1"`
	Events     []ProgressEvent     `json:"events" maxItems:"5000"`
}

// ProgressStep is where a build stands after an event.
type ProgressStep struct {
	Event   string            `json:"event" doc:"What was to be recorded"`
	Refusal *progress.Refusal `json:"refusal,omitempty" doc:"Why it was not, by which rule: all stays as it was"`
	States  map[string]string `json:"states" doc:"Of every operation, by its key"`
	Waits   map[string]string `json:"waits,omitempty" doc:"For what, of those that wait"`
	Clocks  []ProgressClock   `json:"clocks,omitempty" doc:"Of the stages whose clock a run stops"`
}

// ProgressClock is a stage whose clock stands, and the run that stopped it.
type ProgressClock struct {
	Stage string    `json:"stage"`
	Run   string    `json:"run"`
	Began time.Time `json:"began"`
	Over  bool      `json:"over" doc:"For good: the run went to its end"`
}

// ProgressOut is where the build stood after each event, and its record.
type ProgressOut struct {
	Steps  []ProgressStep   `json:"steps" doc:"One an event"`
	Record []progress.Event `json:"record" doc:"What was recorded, in order"`
	Ready  []string         `json:"ready" doc:"Keys of the operations that somebody can go on with at the end"`
}

var progressCalc = define("progress", "where a build stands on its route after each event, or why it was refused",
	ProgressIn{
		Stages: []ProgressStage{{Key: "skin", Name: "Skin", Kind: "skin", Plies: 2}},
		Operations: []ProgressOperation{
			{Key: "cut", Kind: "cut", Stages: []string{"skin"}},
			{Key: "kit", Kind: "kit", Stages: []string{"skin"}, After: []string{"cut"}},
			{Key: "lay", Kind: "lay", Stages: []string{"skin"}, After: []string{"kit"}, Debulks: true},
			{Key: "cure", Kind: "cure", Stages: []string{"skin"}, After: []string{"lay"}, Takes: 18000},
			{Key: "release", Kind: "release", After: []string{"cure"}},
		},
		Events: []ProgressEvent{
			{Event: progress.Event{Kind: progress.PlyCut, At: exampleDay(0), Who: "cutter", Ply: 1, Label: "C-1"}},
			{Event: progress.Event{Kind: progress.PlyLaid, At: exampleDay(5), Who: "layer", Ply: 1, Label: "C-1"}},
			{Event: progress.Event{Kind: progress.PlyCut, At: exampleDay(9), Who: "cutter", Ply: 2, Label: "C-2"}},
		},
	}, Progress)

func exampleDay(minute int) time.Time { return time.Date(2026, 3, 2, 8, minute, 0, 0, time.UTC) }

func (o ProgressOperation) core() route.Operation {
	return route.Operation{
		Key: o.Key, Kind: route.Kind(o.Kind), Name: o.Name, Stages: o.Stages, After: o.After, Heated: o.Heated,
		Signs: o.Signs, Attended: time.Duration(o.Takes * float64(time.Second)),
	}
}

// plan is the route of the input with the steps of its benches.
func (in ProgressIn) plan() (progress.Plan, error) {
	plan := progress.Plan{Benches: map[string]progress.Bench{}}
	stages, first, plies := make([]route.Stage, len(in.Stages)), map[string]int{}, map[string]int{}
	for k, s := range in.Stages {
		stages[k] = route.Stage{Key: s.Key, Name: s.Name, Kind: route.StageKind(s.Kind)}
		first[s.Key], plies[s.Key] = len(plan.Plies), s.Plies
		for range s.Plies {
			plan.Plies = append(plan.Plies, s.Key)
		}
	}
	ops := make([]route.Operation, len(in.Operations))
	for k, o := range in.Operations {
		ops[k] = o.core()
	}
	r, faults := route.New(ops, stages)
	if len(faults) > 0 {
		return plan, &InputError{"operations", faults[0].Message}
	}
	plan.Route = r
	for k, o := range in.Operations {
		var numbers []int
		for _, stage := range r.Lays(k) {
			for n := range plies[stage] {
				numbers = append(numbers, first[stage]+n+1)
			}
		}
		steps := layup.Steps(len(numbers), layup.Policy{First: o.Debulks, Every: o.Every})
		for n := range steps {
			steps[n].Ply = numbers[steps[n].Ply-1]
		}
		plan.Benches[o.Key] = progress.Bench{Steps: steps}
	}
	return plan, nil
}

// Progress records event after event of a build as far as its rules let it, and tells where each leaves it.
func Progress(ctx context.Context, in ProgressIn) (ProgressOut, error) {
	out := ProgressOut{Steps: []ProgressStep{}, Record: []progress.Event{}, Ready: []string{}}
	plan, err := in.plan()
	if err != nil {
		return out, err
	}
	at, err := progress.Fold(plan, nil)
	if err != nil {
		return out, err
	}
	for n, e := range in.Events {
		if ctx.Err() != nil {
			return out, context.Cause(ctx)
		}
		if e.Added != nil {
			added := e.Added.core()
			e.Event.Added = &added
		}
		if e.Kind == "" {
			return out, &InputError{fmt.Sprintf("events[%d]", n), "say what happened"}
		}
		no := at.May(e.Event)
		if no == nil {
			next, err := at.With(e.Event)
			if err != nil {
				return out, &InputError{fmt.Sprintf("events[%d]", n), err.Error()}
			}
			at = next
			out.Record = append(out.Record, e.Event)
		}
		out.Steps = append(out.Steps, progressStep(at, string(e.Kind), no))
	}
	for k, o := range at.Route.Operations {
		if s := at.Statuses[k].State; s == route.Ready || s == route.InWork {
			out.Ready = append(out.Ready, o.Key)
		}
	}
	return out, nil
}

func progressStep(at *progress.Progress, what string, no *progress.Refusal) ProgressStep {
	s := ProgressStep{Event: what, Refusal: no, States: map[string]string{}, Waits: map[string]string{}}
	for k, o := range at.Route.Operations {
		s.States[o.Key] = string(at.Statuses[k].State)
		if w := route.WaitReason(at.Statuses[k].Reasons); w != "" {
			s.Waits[o.Key] = w
		}
	}
	for _, stage := range at.Route.Stages {
		if run, there := at.Cured(stage.Key); there {
			s.Clocks = append(s.Clocks, ProgressClock{stage.Key, run.Code, run.Began, run.Complete()})
		}
	}
	return s
}
