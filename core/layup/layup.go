package layup

import (
	"fmt"
	"time"

	"juxta/core/unit"
)

// Policy says how often the stack is debulked while it is laid. First asks for
// one after ply 1, Every for one after each further so many plies (4 to 6 is
// usual: common practice, no source); Every 0 means never. Before the bag
// closes the stack is always debulked if plies were laid since the last.
type Policy struct {
	First    bool
	Every    int
	Duration time.Duration
	Vacuum   float64 // least vacuum below the air outside, Pa
}

// The demands of a master at an item.
const (
	Hold   = "hold"   // work stops until somebody signs that it is done
	Second = "second" // somebody else than who laid it checks it and signs
)

// Demand is what the master asks for at an item besides laying it. Ply is the
// item's number, or for what is no ply that of the ply that comes next (one more
// than there are: none).
type Demand struct {
	Kind string // Hold or Second
	Key  string // of the item
	Ply  int
	Laid bool // the item is that ply itself
}

// before says that the demand stands before its ply and not after it: a hold
// point always, a second look where the item is covered by the ply.
func (d Demand) before() bool { return d.Kind == Hold || !d.Laid }

// Step is one thing to do: lay ply number Ply (from 1), debulk after it, or meet
// a demand of the master there.
type Step struct {
	Ply    int
	Debulk bool
	Kind   string // of a demand; empty: none
	Key    string
}

// Steps is the whole order of work for a stack of n plies.
func Steps(n int, p Policy, demands ...Demand) []Step {
	var steps []Step
	since := 0
	meet := func(ply int, before bool) {
		for _, d := range demands {
			if d.Ply == ply && d.before() == before {
				steps = append(steps, Step{Ply: ply, Kind: d.Kind, Key: d.Key})
			}
		}
	}
	for ply := 1; ply <= n; ply++ {
		meet(ply, true)
		steps = append(steps, Step{Ply: ply})
		meet(ply, false)
		since++
		due := p.Every > 0 && since >= p.Every
		if p.First && ply == 1 {
			due = true
		}
		if p.Every > 0 && ply == n {
			due = true
		}
		if due {
			steps = append(steps, Step{Ply: ply, Debulk: true})
			since = 0
		}
	}
	meet(n+1, true)
	return steps
}

// MetDemand names a demand that was met.
type MetDemand struct{ Kind, Key string }

// Done is what the bench has recorded: the plies laid (by number), the debulks
// that met the policy, by the ply after which they were made, and the demands
// that were met.
type Done struct {
	Laid    map[int]bool
	Debulks map[int]bool
	Met     map[MetDemand]bool
}

// Did says whether a step is recorded.
func (d Done) Did(s Step) bool {
	switch {
	case s.Kind != "":
		return d.Met[MetDemand{s.Kind, s.Key}]
	case s.Debulk:
		return d.Debulks[s.Ply]
	}
	return d.Laid[s.Ply]
}

// Next is the first step not yet done; ok is false when the layup is complete.
func Next(steps []Step, done Done) (step Step, ok bool) {
	for _, s := range steps {
		if !done.Did(s) {
			return s, true
		}
	}
	return Step{}, false
}

// Unmet are the demands of the master that nobody has signed as met.
func Unmet(steps []Step, done Done) []Step {
	var open []Step
	for _, s := range steps {
		if s.Kind != "" && !done.Did(s) {
			open = append(open, s)
		}
	}
	return open
}

// PliesSinceDebulk counts the plies laid since the last debulk.
func PliesSinceDebulk(done Done) int {
	last, n := 0, 0
	for ply := range done.Debulks {
		last = max(last, ply)
	}
	for ply := range done.Laid {
		if ply > last {
			n++
		}
	}
	return n
}

// ShortOfPolicy says why a debulk does not count, or nil: too short or too
// little vacuum.
func (p Policy) ShortOfPolicy(d time.Duration, vacuum float64) error {
	switch {
	case d < p.Duration:
		return fmt.Errorf("it lasted %.1f min, %.1f min are asked for", d.Minutes(), p.Duration.Minutes())
	case vacuum < p.Vacuum:
		return fmt.Errorf(
			"the vacuum was %s, at least %s required",
			unit.Vacuum(vacuum, 0),
			unit.Vacuum(p.Vacuum, 0),
		)
	}
	return nil
}
