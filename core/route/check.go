package route

import (
	"fmt"
	"slices"
	"strings"

	"juxta/core/unit"
)

// Finding is what a planner should look at in a route that can be followed: the rule that
// found it, the operation or stage that it is about, and a sentence. They are common
// practice, no source, but where the sentence follows from the words themselves.
type Finding struct {
	Rule, Key, Message string
}

// Check holds a route against what such work asks for: that every stage is laid and
// cured, that nothing is cured before it is closed or worked on before it is out of its
// tool, that pre-forms are joined and bonds have something to bond, and that all of it
// leads to one release.
func (r *Route) Check() []Finding {
	c := checking{Route: r}
	for k := range r.Operations {
		c.past = append(c.past, r.before(k))
	}
	c.release()
	c.stages()
	for k := range r.Operations {
		c.operation(k)
	}
	return c.found
}

type checking struct {
	*Route
	past  [][]bool // by operation: its predecessors of every degree
	found []Finding
}

func (c *checking) add(rule, key, format string, args ...any) {
	c.found = append(c.found, Finding{rule, key, fmt.Sprintf(format, args...)})
}

// has says whether an operation of a kind, about a stage if one is given, comes before k.
func (c *checking) has(k int, stage string, kinds ...Kind) bool {
	for w, o := range c.Operations {
		if c.past[k][w] && slices.Contains(kinds, o.Kind) && (stage == "" || slices.Contains(o.Stages, stage)) {
			return true
		}
	}
	return false
}

func (c *checking) release() {
	var ends []int
	for k, o := range c.Operations {
		if o.Kind == Releasing {
			ends = append(ends, k)
		}
	}
	switch {
	case len(c.Operations) == 0:
		return
	case len(ends) == 0:
		c.add("no release", "", "no operation releases the part: a route ends with a release")
		return
	case len(ends) > 1:
		c.add("two releases", c.Operations[ends[1]].Key, "%d operations release the part: one decides", len(ends))
	}
	for k, o := range c.Operations {
		if !slices.ContainsFunc(ends, func(e int) bool { return e == k || c.past[e][k] }) {
			c.add("orphan", o.Key, "%s: the release does not wait for it", c.says[k])
		}
	}
}

// makes says which kinds of operation make a stage, and which harden it.
func (s Stage) makes() []Kind {
	switch s.Kind {
	case Bond:
		return []Kind{Bonding, Laying, Joining}
	case Injection:
		return []Kind{Injecting}
	}
	return []Kind{Laying, Joining}
}

func (s Stage) hardens() []Kind {
	switch s.Kind {
	case Bond:
		return []Kind{Bonding, Curing}
	case Injection:
		return []Kind{Injecting, Curing}
	}
	return []Kind{Curing}
}

func (c *checking) stages() {
	if len(c.Operations) == 0 {
		return
	}
	for _, s := range c.Stages {
		made, hard := false, false
		for k, o := range c.Operations {
			if !slices.Contains(o.Stages, s.Key) {
				continue
			}
			made = made || slices.Contains(s.makes(), o.Kind)
			hard = hard || slices.Contains(s.hardens(), o.Kind) &&
				(slices.Contains(s.makes(), o.Kind) || c.has(k, s.Key, s.makes()...))
		}
		switch {
		case !made:
			c.add("never laid", s.Key, "no operation makes the stage %s", s.Called())
		case !hard:
			c.add("never cured", s.Key, "the stage %s is never cured after it is laid", s.Called())
		case s.Kind == Preform && len(c.Stages) > 1 && c.shared(s) && !c.joined(s):
			c.add(
				"never joined",
				s.Key,
				"the pre-form %s is cured together with other stages and never joined to them",
				s.Called(),
			)
		}
	}
}

// shared says whether a stage is cured with others in one run for the first time.
func (c *checking) shared(s Stage) bool {
	for k, o := range c.Operations {
		if o.Kind != Curing || !slices.Contains(o.Stages, s.Key) || c.has(k, s.Key, Curing) {
			continue
		}
		for _, other := range o.Stages {
			if other != s.Key && !c.has(k, other, Curing) {
				return true
			}
		}
	}
	return false
}

func (c *checking) joined(s Stage) bool {
	for k, o := range c.Operations {
		if o.Kind == Joining && slices.Contains(o.Stages, s.Key) && c.has(k, s.Key, Laying) {
			return true
		}
	}
	return false
}

func (c *checking) stage(key string) Stage {
	return c.Stages[slices.IndexFunc(c.Stages, func(s Stage) bool { return s.Key == key })]
}

func (c *checking) operation(k int) {
	o := c.Operations[k]
	says := c.says[k]
	// What has to come before an operation of its kind, for each of its stages: one of kinds,
	// as a rule the first.
	needs := func(rule string, kinds ...Kind) {
		var lack []string
		for _, s := range o.Stages {
			// Plies that close a joint are laid at the join itself, from their kit.
			closes := o.Kind == Joining && c.stage(s).Kind != Preform && c.has(k, s, Kitting)
			if !closes && !c.has(k, s, kinds...) {
				lack = append(lack, c.stage(s).Called())
			}
		}
		switch {
		case len(lack) > 0:
			c.add(rule, o.Key, "%s: %s %s has to come first", says, kinds[0].Verb(), strings.Join(lack, ", "))
		case len(o.Stages) == 0 && !c.has(k, "", kinds...):
			c.add(rule, o.Key, "%s: %s has to come first", says, kinds[0].Verb())
		}
	}
	if slices.Contains([]Kind{Cutting, Kitting, Laying, Joining, Closing, Curing}, o.Kind) && len(o.Stages) == 0 {
		c.add("no stage", o.Key, "%s names no stage of the master", says)
		return
	}
	switch o.Kind {
	case Kitting:
		needs("kit before cut", Cutting)
	case Laying:
		needs("lay before kit", Kitting)
	case Joining:
		needs("join before lay", Laying)
	case Curing:
		needs("cure before close", Closing, Injecting)
	case Demoulding:
		needs("demould before cure", Curing, Bonding, Injecting)
	case PostCuring:
		needs("post-cure in the tool", Demoulding)
	case Bonding:
		if parts := c.adherends(k); parts+o.Adherends < 2 {
			c.add(
				"bond without adherend",
				o.Key,
				"%s: a bond joins two things; it has %d, of stages that are cured before it and what comes from "+
					"elsewhere",
				says,
				parts+o.Adherends,
			)
		}
	case Injecting:
		needs("inject before close", Closing)
		cavity, resin := c.Fills(k)
		switch {
		case cavity == 0 || resin == 0:
			c.add("no resin amount", o.Key,
				"%s: its stage does not say how large the cavity is and how much resin fills it", says)
		case resin > cavity*heaviest:
			c.add("more resin than room", o.Key, "%s: %s do not fit into a cavity that holds %s of resin at most",
				says, unit.Mass(resin, 3), unit.Mass(cavity*heaviest, 3))
		}
	}
	if o.Kind.finish() && c.has(k, "", Curing) && !c.has(k, "", Demoulding) {
		c.add("finish in the tool", o.Key, "%s: the part is still in its tool", says)
	}
}

// heaviest is the density of a heavy resin without fillers, kg/m³ (from memory: epoxies lie
// between 1100 and 1250).
const heaviest = 1300

// Fills is the cavity that an injection fills, m³, and the resin that it takes, kg.
func (r *Route) Fills(k int) (cavity, resin float64) {
	for _, s := range r.Stages {
		if slices.Contains(r.Operations[k].Stages, s.Key) {
			cavity += s.Cavity
			resin += s.Resin
		}
	}
	return cavity, resin
}

// adherends are the pieces that lie there cured when an operation begins: the cures that
// come before it, but those that another one before it takes further.
func (c *checking) adherends(k int) int {
	n := 0
	for w, o := range c.Operations {
		if o.Kind != Curing || !c.past[k][w] {
			continue
		}
		further := false
		for x, y := range c.Operations {
			if x != w && y.Kind == Curing && c.past[k][x] && c.past[x][w] {
				further = true
			}
		}
		if !further {
			n++
		}
	}
	return n
}
