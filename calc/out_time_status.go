package calc

import (
	"time"

	"juxta/core/material"
)

// OutTimeStatus is what is left of a material's life; durations in s.
type OutTimeStatus struct {
	Life     float64    `json:"life" doc:"Out-life, s"`
	Spent    float64    `json:"spent" doc:"Out-time spent, s"`
	Planned  float64    `json:"planned" doc:"That the plan will still use, s"`
	Left     float64    `json:"left" doc:"What remains; negative: the plan passes the end, s"`
	RunsOut  time.Time  `json:"runsOut" doc:"End of out-life if kept out from now"`
	TackLeft *float64   `json:"tackLeft,omitempty" doc:"Tack life left, s"`
	ShelfEnd *time.Time `json:"shelfEnd,omitempty"`
	Out      bool       `json:"out" doc:"Outside the freezer now"`
	Ages     bool       `json:"ages" doc:"It has an out-life at all"`
	Ended    bool       `json:"ended,omitempty" doc:"Its out-life is spent"`
}

// FromOutTime is a status as it travels: the core counts in time.Duration, pages in seconds.
func FromOutTime(f material.OutTimeStatus) OutTimeStatus {
	w := OutTimeStatus{
		Life:    f.Life.Seconds(),
		Spent:   f.Spent.Seconds(),
		Planned: f.Planned.Seconds(),
		Left:    f.Left.Seconds(),
		RunsOut: f.RunsOut,
		Out:     f.Out,
		Ages:    f.Ages,
		Ended:   f.LifeSpent(),
	}
	if f.HasTack {
		tack := f.Tack.Seconds()
		w.TackLeft = &tack
	}
	if !f.ShelfEnd.IsZero() {
		w.ShelfEnd = &f.ShelfEnd
	}
	return w
}

// Core is the status as the core's value.
func (w OutTimeStatus) Core() material.OutTimeStatus {
	seconds := func(s float64) time.Duration { return time.Duration(s * float64(time.Second)) }
	f := material.OutTimeStatus{
		Life:    seconds(w.Life),
		Spent:   seconds(w.Spent),
		Planned: seconds(w.Planned),
		Left:    seconds(w.Left),
		RunsOut: w.RunsOut,
		Out:     w.Out,
		Ages:    w.Ages,
	}
	if w.TackLeft != nil {
		f.Tack, f.HasTack = seconds(*w.TackLeft), true
	}
	if w.ShelfEnd != nil {
		f.ShelfEnd = *w.ShelfEnd
	}
	return f
}
