package calc

import (
	"context"
	"errors"
	"fmt"
	"time"

	"juxta/core/material"
	"juxta/wire"
)

// OutTimeEvent is one line of a ledger.
type OutTimeEvent struct {
	Kind   string    `json:"kind" enum:"received,out,in,used"`
	At     time.Time `json:"at"`
	Length float64   `json:"length,omitempty" doc:"Received or used, m"`
}

// OutTimeIn is a ledger to add up.
type OutTimeIn struct {
	OutLife  float64        `json:"outLife" doc:"s" exclusiveMinimum:"0"`
	TackLife float64        `json:"tackLife,omitempty" doc:"s" minimum:"0"`
	ShelfEnd *time.Time     `json:"shelfEnd,omitempty"`
	Spent    float64        `json:"spent,omitempty" doc:"Out-time before the first event, s" minimum:"0"`
	Planned  float64        `json:"planned,omitempty" doc:"Time the plan will still keep it out, s" minimum:"0"`
	Events   []OutTimeEvent `json:"events"`
	Now      time.Time      `json:"now"`
}

// OutTimeOut is the fuse and the length left.
type OutTimeOut struct {
	Fuse    wire.Fuse `json:"fuse"`
	Length  float64   `json:"length" doc:"Left on the roll, m"`
	Refusal string    `json:"refusal,omitempty" doc:"Why it must not be used now"`
}

var outTimeCalc = define("outtime", "the clock of ageing material from its ledger", OutTimeIn{
	OutLife: 864000, TackLife: 432000, Planned: 36000,
	Events: []OutTimeEvent{
		{"received", time.Date(2026, 3, 2, 9, 0, 0, 0, time.UTC), 42},
		{"out", time.Date(2026, 3, 3, 7, 10, 0, 0, time.UTC), 0},
		{"used", time.Date(2026, 3, 3, 9, 41, 0, 0, time.UTC), 8.62},
		{"in", time.Date(2026, 3, 3, 10, 40, 0, 0, time.UTC), 0},
	},
	Now: time.Date(2026, 3, 4, 8, 0, 0, 0, time.UTC),
}, OutTime)

// OutTime adds up a ledger and draws its fuse.
func OutTime(_ context.Context, in OutTimeIn) (OutTimeOut, error) {
	seconds := func(s float64) time.Duration { return time.Duration(s * float64(time.Second)) }
	events := make([]material.Event, len(in.Events))
	for i, e := range in.Events {
		events[i] = material.Event{Kind: material.EventKind(e.Kind), At: e.At, Length: e.Length}
	}
	clock, err := material.Ledger(seconds(in.Spent), events, in.Now)
	if err != nil {
		var wrong *material.Error
		if errors.As(err, &wrong) {
			for i, e := range events {
				if e == wrong.Event {
					return OutTimeOut{}, &InputError{fmt.Sprintf("events[%d]", i), wrong.Says}
				}
			}
		}
		return OutTimeOut{}, err
	}
	limits := material.Limits{OutLife: seconds(in.OutLife), TackLife: seconds(in.TackLife)}
	if in.ShelfEnd != nil {
		limits.ShelfEnd = *in.ShelfEnd
	}
	fuse := material.NewFuse(clock, limits, seconds(in.Planned), in.Now)
	out := OutTimeOut{Fuse: wire.FromFuse(fuse, in.TackLife > 0), Length: clock.Length}
	if err := fuse.Refusal(in.Now); err != nil {
		out.Refusal = err.Error()
	}
	return out, nil
}
