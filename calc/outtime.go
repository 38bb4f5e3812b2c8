package calc

import (
	"context"
	"errors"
	"fmt"
	"time"

	"juxta/core/material"
)

// OutTimeEvent is one line of a ledger.
type OutTimeEvent struct {
	Kind    string     `json:"kind" enum:"received,out,in,opened,sealed,used,scrapped,retested,counter"`
	At      time.Time  `json:"at"`
	Length  float64    `json:"length,omitempty" doc:"Received, used or scrapped, m"`
	ID      int64      `json:"id,omitempty" doc:"For counter-entries"`
	Cancels int64      `json:"cancels,omitempty" doc:"Id of the line that a counter-entry takes back"`
	Freezer int64      `json:"freezer,omitempty" doc:"Received and in: where"`
	Until   *time.Time `json:"until,omitempty" doc:"Re-test: new end of shelf life"`
	More    float64    `json:"more,omitempty" doc:"Re-test: added out-life, s"`
}

// OutTimeWarm is a time in which a freezer was too warm.
type OutTimeWarm struct {
	Freezer int64      `json:"freezer"`
	From    time.Time  `json:"from"`
	To      *time.Time `json:"to,omitempty" doc:"Missing: it still is"`
}

// OutTimeIn is a ledger to add up.
type OutTimeIn struct {
	OutLife  float64        `json:"outLife" doc:"s" exclusiveMinimum:"0"`
	TackLife float64        `json:"tackLife,omitempty" doc:"s" minimum:"0"`
	ShelfEnd *time.Time     `json:"shelfEnd,omitempty"`
	Spent    float64        `json:"spent,omitempty" doc:"Out-time before the first event, s" minimum:"0"`
	Planned  float64        `json:"planned,omitempty" doc:"Time the plan will still keep it out, s" minimum:"0"`
	Events   []OutTimeEvent `json:"events"`
	Warm     []OutTimeWarm  `json:"warm,omitempty" doc:"Freezer failures"`
	Now      time.Time      `json:"now"`
}

// OutTimeOut is the out-time and the length left.
type OutTimeOut struct {
	OutTime OutTimeStatus `json:"outTime"`
	Length  float64       `json:"length" doc:"Left on the roll, m"`
	Refusal string        `json:"refusal,omitempty" doc:"Why it must not be used now"`
}

var outTimeCalc = define("outtime", "the clock of ageing material from its ledger", OutTimeIn{
	OutLife: 864000, TackLife: 432000, Planned: 36000,
	Events: []OutTimeEvent{
		{Kind: "received", At: time.Date(2026, 3, 2, 9, 0, 0, 0, time.UTC), Length: 42},
		{Kind: "out", At: time.Date(2026, 3, 3, 7, 10, 0, 0, time.UTC)},
		{Kind: "used", At: time.Date(2026, 3, 3, 9, 41, 0, 0, time.UTC), Length: 8.62},
		{Kind: "in", At: time.Date(2026, 3, 3, 10, 40, 0, 0, time.UTC)},
	},
	Now: time.Date(2026, 3, 4, 8, 0, 0, 0, time.UTC),
}, OutTime)

// OutTime adds up a ledger and draws its out-time.
func OutTime(_ context.Context, in OutTimeIn) (OutTimeOut, error) {
	seconds := func(s float64) time.Duration { return time.Duration(s * float64(time.Second)) }
	events := make([]material.Event, len(in.Events))
	for i, e := range in.Events {
		events[i] = material.Event{
			Kind:    material.EventKind(e.Kind),
			At:      e.At,
			Length:  e.Length,
			ID:      e.ID,
			Cancels: e.Cancels,
			Freezer: e.Freezer,
			More:    seconds(e.More),
		}
		if e.Until != nil {
			events[i].Until = *e.Until
		}
	}
	history := material.History{Base: material.CarriedLife{Spent: seconds(in.Spent)}, Events: events}
	for _, w := range in.Warm {
		warm := material.Warm{Freezer: w.Freezer, From: w.From}
		if w.To != nil {
			warm.To = *w.To
		}
		history.Warm = append(history.Warm, warm)
	}
	clock, err := history.Clock(in.Now)
	if err != nil {
		var wrong *material.Error
		if errors.As(err, &wrong) {
			for i, e := range events {
				if e == wrong.Event {
					return OutTimeOut{}, &InputError{fmt.Sprintf("events[%d]", i), wrong.Message}
				}
			}
		}
		return OutTimeOut{}, err
	}
	limits := material.Limits{OutLife: seconds(in.OutLife), TackLife: seconds(in.TackLife)}
	if in.ShelfEnd != nil {
		limits.ShelfEnd = *in.ShelfEnd
	}
	outTime := material.NewOutTimeStatus(clock, limits, seconds(in.Planned), in.Now)
	out := OutTimeOut{OutTime: FromOutTime(outTime), Length: clock.Length}
	if err := outTime.Refusal(in.Now); err != nil {
		out.Refusal = err.Error()
	}
	return out, nil
}
