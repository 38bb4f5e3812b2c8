package material

import (
	"cmp"
	"fmt"
	"slices"
	"time"

	"juxta/core/unit"
)

// Stretch is a length along a roll, in m from its present end.
type Stretch struct{ From, To float64 }

// Job is what is to be cut: its whole area in m², the longest piece along the
// roll and the widest across, in m.
type Job struct {
	Area, Longest, Widest float64
}

// Choice is one roll or off-cut weighed for a job.
type Choice struct {
	ID            string
	OutTime       OutTimeStatus
	Length, Width float64 // m
	Left          []Stretch
	OffCut        bool
	Blocked       string // why its batch must not be cut, if so
	Passed        string // why it was passed over; empty if it fits
	Warns         string // what to keep an eye on
}

// ClearLengths are the stretches of a roll of some length that hold none of its flaws.
func ClearLengths(length float64, flaws []Stretch) []Stretch {
	sorted := slices.Clone(flaws)
	slices.SortFunc(sorted, func(a, b Stretch) int { return cmp.Compare(a.From, b.From) })
	clear, from := []Stretch{}, 0.0
	for _, f := range sorted {
		if f.From > from {
			clear = append(clear, Stretch{from, min(f.From, length)})
		}
		if from = max(from, f.To); from >= length {
			return clear
		}
	}
	return append(clear, Stretch{from, length})
}

// Choose ranks rolls for a job: those that fit first, off-cuts before rolls,
// then the first to expire; then the rest with the reason why not. No nest is
// shorter than its area over the roll's width, so a roll that is passed over
// for its length could not have served; one that fits may still prove short.
func Choose(rolls []Choice, job Job, now time.Time) []Choice {
	// Sorted by small keys: there may be hundreds of rolls, and a Choice is large.
	type key struct {
		rank, at int
		ends     time.Time
	}
	keys := make([]key, len(rolls))
	passed := make([]string, len(rolls))
	for i := range rolls {
		c := &rolls[i]
		passed[i] = c.passed(job, now)
		keys[i] = key{rank: 1, at: i, ends: c.OutTime.Ends()}
		switch {
		case passed[i] != "":
			keys[i].rank = 2
		case c.OffCut:
			keys[i].rank = 0
		}
	}
	slices.SortFunc(keys, func(a, b key) int {
		return cmp.Or(a.rank-b.rank, sooner(a.ends, b.ends), cmp.Compare(rolls[a.at].ID, rolls[b.at].ID))
	})
	out := make([]Choice, len(rolls))
	for i, k := range keys {
		out[i] = rolls[k.at]
		out[i].Passed, out[i].Warns = passed[k.at], rolls[k.at].OutTime.Warning()
	}
	return out
}

// Due is a roll or off-cut with the time at which it expires at the latest, as
// [OutTimeStatus.Ends] tells it.
type Due struct {
	ID     string
	OffCut bool
	Ends   time.Time
}

// FirstToExpire puts rolls into the order in which they should be used: off-cuts
// before rolls, then the first to expire, then by id.
func FirstToExpire(dues []Due) {
	slices.SortFunc(dues, func(a, b Due) int {
		if a.OffCut != b.OffCut {
			if a.OffCut {
				return -1
			}
			return 1
		}
		return cmp.Or(sooner(a.Ends, b.Ends), cmp.Compare(a.ID, b.ID))
	})
}

// sooner compares ends, of which a zero one never comes.
func sooner(a, b time.Time) int {
	if a.IsZero() != b.IsZero() {
		if a.IsZero() {
			return 1
		}
		return -1
	}
	return a.Compare(b)
}

func (c *Choice) passed(job Job, now time.Time) string {
	if c.Blocked != "" {
		return c.Blocked
	}
	if err := c.OutTime.Refusal(now); err != nil {
		return err.Error()
	}
	if c.Width < job.Widest-1e-9 {
		return fmt.Sprintf("%s wide, the widest piece needs %s", unit.Size(c.Width, 0), unit.Size(job.Widest, 0))
	}
	usable, longest := 0.0, 0.0
	for _, s := range ClearLengths(c.Length, c.Left) {
		usable += s.To - s.From
		longest = max(longest, s.To-s.From)
	}
	if need := job.Area / max(c.Width, 1e-9); usable < need {
		if usable < c.Length-1e-9 {
			return fmt.Sprintf("%s left, %s of it clear of flaws, at least %s needed",
				unit.RollLength(c.Length, 2), unit.RollLength(usable, 2), unit.RollLength(need, 2))
		}
		return fmt.Sprintf("%s left, at least %s needed", unit.RollLength(c.Length, 2), unit.RollLength(need, 2))
	}
	if longest < job.Longest-1e-9 {
		return fmt.Sprintf("its longest stretch without a flaw is %s, the longest piece needs %s",
			unit.RollLength(longest, 2), unit.RollLength(job.Longest, 2))
	}
	return ""
}

// UsualYield is the area of plies from an area of roll where the shop has cut nothing of a material yet (common
// practice, no source).
const UsualYield = 0.7

// Need is area of one material that a build wants by its planned cure.
type Need struct {
	Build string
	By    time.Time
	Area  float64 // m² of plies
}

// Stock is area of the material on hand and when it expires; zero is never.
type Stock struct {
	ID   string
	Area float64 // m²
	Ends time.Time
}

// Shortage is the first need that the stock does not cover.
type Shortage struct {
	Need
	Short float64 // m² of roll that are missing for it
}

// Shortages says which needs the stock cannot cover, in the order of their dates.
// Each need takes from what expires first and still lives on its day; an area
// of plies takes area/yield of roll (0 < yield ≤ 1).
func Shortages(needs []Need, stock []Stock, yield float64) []Shortage {
	byDate := slices.Clone(needs)
	slices.SortStableFunc(
		byDate,
		func(a, b Need) int { return cmp.Or(a.By.Compare(b.By), cmp.Compare(a.Build, b.Build)) },
	)
	left := slices.Clone(stock)
	slices.SortStableFunc(left, func(a, b Stock) int { return cmp.Or(sooner(a.Ends, b.Ends), cmp.Compare(a.ID, b.ID)) })
	short := []Shortage{}
	for _, n := range byDate {
		want := n.Area / yield
		for i := range left {
			if !left[i].Ends.IsZero() && left[i].Ends.Before(n.By) {
				continue
			}
			took := min(want, left[i].Area)
			left[i].Area -= took
			if want -= took; want <= 1e-12 {
				break
			}
		}
		if want > 1e-9 {
			short = append(short, Shortage{n, want})
		}
	}
	return short
}
