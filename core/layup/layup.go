// Package layup works out the order of work at the bench: which ply next, and
// when a debulk falls due.
package layup

import (
	"fmt"
	"time"
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

// Step is one thing to do: lay ply number Ply (from 1), or debulk after it.
type Step struct {
	Ply    int
	Debulk bool
}

// Steps is the whole order of work for a stack of n plies.
func Steps(n int, p Policy) []Step {
	var steps []Step
	since := 0
	for ply := 1; ply <= n; ply++ {
		steps = append(steps, Step{Ply: ply})
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
	return steps
}

// Done is what the bench has recorded: the plies laid (by number) and the
// debulks that met the policy, by the ply after which they were made.
type Done struct {
	Laid    map[int]bool
	Debulks map[int]bool
}

// Next is the first step not yet done; ok is false when the layup is complete.
func Next(steps []Step, done Done) (step Step, ok bool) {
	for _, s := range steps {
		if s.Debulk && !done.Debulks[s.Ply] || !s.Debulk && !done.Laid[s.Ply] {
			return s, true
		}
	}
	return Step{}, false
}

// Since counts the plies laid since the last debulk.
func Since(done Done) int {
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
		return fmt.Errorf("the vacuum was %.0f kPa, at least %.0f kPa are asked for", vacuum/1e3, p.Vacuum/1e3)
	}
	return nil
}
