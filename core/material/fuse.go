package material

import (
	"cmp"
	"fmt"
	"slices"
	"time"
)

// Fuse is what is left of a material's life, and what the plan will still
// burn. Spent + Planned + Left = Life; a negative Left is how far the plan
// passes the end.
type Fuse struct {
	Life, Spent, Planned, Left time.Duration
	// RunsOut is when the out-life ends if the material stays out from now
	// on: for material in the freezer, if it were taken out now.
	RunsOut time.Time
	// Tack is the tack life left, if one was entered.
	Tack time.Duration
	// ShelfEnd is when the shelf life in the freezer ends; zero if not entered.
	ShelfEnd time.Time
	Out      bool
}

// NewFuse draws up the fuse of a clock against its limits. planned is how long
// the plan will still keep the material warm, from now to the start of cure.
func NewFuse(c Clock, l Limits, planned time.Duration, now time.Time) Fuse {
	planned = max(planned, 0)
	f := Fuse{Life: l.OutLife, Spent: c.Spent, Planned: planned, Left: l.OutLife - c.Spent - planned,
		RunsOut: now.Add(l.OutLife - c.Spent), ShelfEnd: l.ShelfEnd, Out: c.Out}
	if l.TackLife > 0 {
		f.Tack = l.TackLife - c.Spent
	}
	return f
}

// Refusal says why material with this fuse must not be used now, or nil.
func (f Fuse) Refusal(now time.Time) error {
	switch {
	case f.Spent >= f.Life:
		return fmt.Errorf("its out-life of %s is spent", Hours(f.Life))
	case !f.ShelfEnd.IsZero() && now.After(f.ShelfEnd):
		return fmt.Errorf("its shelf life ended on %s", f.ShelfEnd.Format("2 Jan 2006"))
	case f.Left < 0:
		return fmt.Errorf("the plan would pass the end of its out-life by %s", Hours(-f.Left))
	}
	return nil
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

// Worst is the fuse that ends first: the clock of a kit is that of its worst
// ply. The zero Fuse for no plies.
func Worst(fuses []Fuse) Fuse {
	if len(fuses) == 0 {
		return Fuse{}
	}
	return slices.MinFunc(fuses, func(a, b Fuse) int { return cmp.Compare(a.Left, b.Left) })
}

// Choice is one roll weighed for a job.
type Choice struct {
	ID      string
	Fuse    Fuse
	Length  float64 // metres left
	Passed  string  // why it was passed over; empty if it fits
	expires time.Time
}

// Choose ranks rolls for a job that needs length metres: those that fit first,
// the first to expire at the front; then the rest with the reason why not.
func Choose(rolls []Choice, length float64, now time.Time) []Choice {
	out := slices.Clone(rolls)
	for i := range out {
		c := &out[i]
		c.expires = c.Fuse.RunsOut
		if !c.Fuse.ShelfEnd.IsZero() && c.Fuse.ShelfEnd.Before(c.expires) {
			c.expires = c.Fuse.ShelfEnd
		}
		if err := c.Fuse.Refusal(now); err != nil {
			c.Passed = err.Error()
		} else if c.Length < length {
			c.Passed = fmt.Sprintf("%.2f m left, at least %.2f m needed", c.Length, length)
		}
	}
	slices.SortStableFunc(out, func(a, b Choice) int {
		if (a.Passed == "") != (b.Passed == "") {
			if a.Passed == "" {
				return -1
			}
			return 1
		}
		return a.expires.Compare(b.expires)
	})
	return out
}
