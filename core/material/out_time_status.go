package material

import (
	"cmp"
	"fmt"
	"slices"
	"time"
)

// OutTimeStatus is what is left of a material's life, and what the plan will still
// burn. Spent + Planned + Left = Life; a negative Left is how far the plan
// passes the end.
type OutTimeStatus struct {
	Life, Spent, Planned, Left time.Duration
	// RunsOut is when the out-life ends if the material stays out from now
	// on: for material in the freezer, if it were taken out now.
	RunsOut time.Time
	// Tack is the tack life left; meaningless unless HasTack.
	Tack    time.Duration
	HasTack bool
	// ShelfEnd is when the shelf life in the freezer ends; zero if not entered.
	ShelfEnd time.Time
	Out      bool
	// Ages says that the material has an out-life at all: core, dry fabric and
	// consumables have none, and their Life, Left and RunsOut mean nothing.
	Ages bool
}

// NewOutTimeStatus draws up the out-time of a clock against its limits. planned is how long
// the plan will still keep the material warm, from now to the start of cure. A
// re-test adds to the life and moves the end of shelf life.
func NewOutTimeStatus(c Clock, l Limits, planned time.Duration, now time.Time) OutTimeStatus {
	planned = max(planned, 0)
	life := l.OutLife + c.More
	f := OutTimeStatus{Life: life, Spent: c.Spent, Planned: planned, Left: life - c.Spent - planned,
		RunsOut: now.Add(life - c.Spent), ShelfEnd: l.ShelfEnd, Out: c.Out, Ages: l.OutLife > 0}
	if !c.Until.IsZero() {
		f.ShelfEnd = c.Until
	}
	if l.TackLife > 0 {
		f.Tack, f.HasTack = l.TackLife-c.Spent, true
	}
	return f
}

// ClockEnds is when the clock of a part's material stops, and how long the plan still keeps the material warm: at the
// start of its cure; without one when the part was signed off; else it runs until now and on to the planned cure.
func ClockEnds(cured, signed *time.Time, planned, now time.Time) (until time.Time, more time.Duration) {
	switch {
	case cured != nil:
		return *cured, 0
	case signed != nil:
		return *signed, 0
	}
	return now, planned.Sub(now)
}

// WorstOfPart is the out-time that decides of a part: the worst of what is not cured yet, of all where all is cured.
// False where there is none.
func WorstOfPart(uncured, cured []OutTimeStatus) (OutTimeStatus, bool) {
	if len(uncured) == 0 {
		uncured = cured
	}
	return WorstOutTime(uncured), len(uncured) > 0
}

// Ends is when the material expires at the latest: by its out-life if it were
// out from now on, or by its shelf life; zero if it never does.
func (f OutTimeStatus) Ends() time.Time {
	if !f.Ages {
		return f.ShelfEnd
	}
	if !f.ShelfEnd.IsZero() && f.ShelfEnd.Before(f.RunsOut) {
		return f.ShelfEnd
	}
	return f.RunsOut
}

// LifeSpent says whether its out-life is spent.
func (f OutTimeStatus) LifeSpent() bool { return f.Ages && f.Spent >= f.Life }

// RanOut says whether material that has been out since at had run out at that moment, as it stands now.
func (f OutTimeStatus) RanOut(at, now time.Time) bool {
	return f.Ages && f.Spent-now.Sub(at) >= f.Life || !f.ShelfEnd.IsZero() && at.After(f.ShelfEnd)
}

// TooOldToJoin says why what is laid already must not be joined to other plies any more, or nil.
func (f OutTimeStatus) TooOldToJoin() error {
	switch {
	case f.LifeSpent():
		return fmt.Errorf("its out-life of %s is spent", Hours(f.Life))
	case f.HasTack && f.Tack <= 0:
		return fmt.Errorf("its tack life ended %s ago", Hours(-f.Tack))
	}
	return nil
}

// Refusal says why material with this out-time must not be used now, or nil.
func (f OutTimeStatus) Refusal(now time.Time) error {
	switch {
	case f.LifeSpent():
		return fmt.Errorf("its out-life of %s is spent", Hours(f.Life))
	case !f.ShelfEnd.IsZero() && now.After(f.ShelfEnd):
		return fmt.Errorf("its shelf life ended on %s", f.ShelfEnd.Format("2 Jan 2006"))
	case f.Ages && f.Left < 0:
		return fmt.Errorf("the plan would pass the end of its out-life by %s", Hours(-f.Left))
	case f.HasTack && f.Tack <= 0:
		return fmt.Errorf("its tack life ended %s ago", Hours(-f.Tack))
	}
	return nil
}

// Warning says what to keep an eye on although the material may be used, or "".
func (f OutTimeStatus) Warning() string {
	if f.HasTack && f.Tack < f.Planned {
		return fmt.Sprintf("tack ends %s before the planned cure: lay it in time", Hours(f.Planned-f.Tack))
	}
	return ""
}

// Hours writes a duration as people in the shop say it: "2 h 40", "35 min".
func Hours(d time.Duration) string {
	m := int(d.Round(time.Minute) / time.Minute)
	if m < 60 {
		return fmt.Sprintf("%d min", m)
	}
	if m%60 == 0 || m >= 100*60 {
		return fmt.Sprintf("%d h", m/60)
	}
	return fmt.Sprintf("%d h %02d", m/60, m%60)
}

// WorstOutTime is the out-time that ends first: the clock of a kit is that of its worst
// ply that ages. The zero one if there is none.
func WorstOutTime(outTimes []OutTimeStatus) OutTimeStatus {
	outTimes = slices.DeleteFunc(slices.Clone(outTimes), func(f OutTimeStatus) bool { return !f.Ages })
	if len(outTimes) == 0 {
		return OutTimeStatus{}
	}
	return slices.MinFunc(outTimes, func(a, b OutTimeStatus) int { return cmp.Compare(a.Left, b.Left) })
}
