package master

import (
	"fmt"
	"slices"
	"strings"
	"time"

	"juxta/core/bag"
	"juxta/core/cure"
	"juxta/core/layup"
	"juxta/core/material"
	"juxta/core/route"
	"juxta/core/unit"
)

// What an operation does in its own way, where the process of the revision does not
// decide for it.

// Debulks is how often the plies of a lay or a join are debulked, and by what.
type Debulks struct {
	First   bool    `json:"first,omitempty" doc:"Debulk after the first ply"`
	Every   int     `json:"every" doc:"Plies between debulks; 0: never" minimum:"0" maximum:"100"`
	Seconds float64 `json:"seconds" minimum:"0" maximum:"86400"`
	Vacuum  float64 `json:"vacuum" doc:"Least vacuum, Pa" minimum:"0" maximum:"101325"`
}

// Closing is what a part is closed with, and how much vacuum it may lose.
type Closing struct {
	Stack       string  `json:"stack" maxLength:"60"`
	LeakStart   float64 `json:"leakStart" doc:"Least vacuum at the start, Pa" minimum:"0" maximum:"101325"`
	LeakDrop    float64 `json:"leakDrop" doc:"Vacuum that may be lost, Pa" minimum:"0" maximum:"101325"`
	LeakSeconds float64 `json:"leakSeconds" doc:"Over this time, s" minimum:"0" maximum:"86400"`
}

// Heat is a run in an oven or a press, and the limits that it is held against.
type Heat struct {
	Recipe      cure.Recipe     `json:"recipe"`
	From        *ReleasedRecipe `json:"from,omitempty" doc:"The released recipe that it is"`
	Equipment   string          `json:"equipment,omitempty" doc:"What it is cured in, by its name; missing: as is usual" maxLength:"60"`
	PartLag     float64         `json:"partLag,omitempty" doc:"Of documents that were signed before cures were simulated; used by nothing" minimum:"0"`
	Limits      RunLimits       `json:"limits"`
	PressureMax float64         `json:"pressureMax,omitempty" doc:"Most pressure, Pa; 0: vacuum alone" minimum:"0" maximum:"10000000"`
	PressForce  float64         `json:"pressForce,omitempty" doc:"Press: closing force, N" minimum:"0"`
}

// ReleasedRecipe names a version of a recipe of the shop's.
type ReleasedRecipe struct {
	Name    string `json:"name" minLength:"1" maxLength:"80"`
	Version int    `json:"version" minimum:"1"`
}

// RunLimits are what a run is judged by.
type RunLimits struct {
	SoakBelow float64 `json:"soakBelow" doc:"The lagging sensor may hold this far below the target, K"`
	MaxPart   float64 `json:"maxPart" doc:"Hottest that the leading sensor may get, K"`
	MaxRamp   float64 `json:"maxRamp" doc:"Steepest heating of the part, K/s over 5 min"`
	MinVacuum float64 `json:"minVacuum" doc:"Pa below the air outside; 0: none is asked for"`
	MinCure   float64 `json:"minCure" doc:"Degree of cure at the end, 0 to 1"`
	MaxGap    float64 `json:"maxGap" doc:"Longest silence in the log, s"`
	MaxAirOut float64 `json:"maxAirOut,omitempty" doc:"How long the air may lie outside its band at a stretch while the set point stands, s; 0: 600" minimum:"0"`
}

// Core is the limits as the core's value.
func (l RunLimits) Core() cure.Limits {
	return cure.Limits{
		SoakBelow: l.SoakBelow, MaxPart: l.MaxPart, MaxRamp: l.MaxRamp, MinVacuum: l.MinVacuum, MinCure: l.MinCure,
		MaxGap:    l.MaxGap,
		MaxAirOut: l.MaxAirOut,
	}
}

// Policy is the debulks as the bench knows them.
func (d Debulks) Policy() layup.Policy {
	return layup.Policy{First: d.First, Every: d.Every, Duration: seconds(d.Seconds), Vacuum: d.Vacuum}
}

// Leak is what a leak check must meet.
func (c Closing) Leak() bag.Limit {
	return bag.Limit{Start: c.LeakStart, Drop: c.LeakDrop, Over: seconds(c.LeakSeconds)}
}

// SettingFaults are what no shop at an altitude in m could do of an operation's own
// settings.
func (o Operation) SettingFaults(altitude float64) []Fault {
	faults := []Fault{}
	add := func(of string, found []Fault) {
		for _, f := range found {
			faults = append(faults, Fault{o.Key, of + "." + f.Field, f.Message})
		}
	}
	if o.Debulks != nil {
		add("debulks", o.Debulks.Check(altitude))
	}
	if o.Closing != nil {
		add("closing", o.Closing.Check(altitude))
	}
	if o.Heat != nil {
		add("heat", o.Heat.Check(altitude))
	}
	return faults
}

// Check finds what no shop at an altitude in m could do; its fields are those of
// the settings.
func (d Debulks) Check(altitude float64) (faults []Fault) {
	return drawn(faults, "vacuum", "the debulk needs", d.Vacuum, altitude)
}

// Check finds what no shop at an altitude in m could do.
func (c Closing) Check(altitude float64) (faults []Fault) {
	if _, known := bag.Stacks[c.Stack]; !known {
		faults = append(faults, Fault{Field: "stack", Message: fmt.Sprintf("there is no bag stack %q", c.Stack)})
	}
	if c.LeakDrop >= c.LeakStart && c.LeakStart > 0 {
		faults = append(
			faults,
			Fault{Field: "leakDrop", Message: fmt.Sprintf("a leak check that starts at %s cannot lose %s",
				unit.Vacuum(c.LeakStart, 1), unit.Vacuum(c.LeakDrop, 1))},
		)
	}
	if bag.Vacuum(c.Stack) && (c.LeakDrop <= 0 || c.LeakSeconds <= 0) {
		faults = append(faults, Fault{Field: "leakDrop",
			Message: "a leak check needs the vacuum that may be lost, and over what time"})
	}
	return drawn(faults, "leakStart", "the leak check starts at", c.LeakStart, altitude)
}

// Check finds what no oven could do, or no shop at an altitude in m.
func (h Heat) Check(altitude float64) (faults []Fault) {
	if err := h.Recipe.Check(); err != nil {
		return append(faults, Fault{Field: "recipe", Message: err.Error()})
	}
	for i, s := range h.Recipe.Segments {
		if s.Hold > 0 && h.Limits.MaxPart > 0 && s.Target > h.Limits.MaxPart {
			faults = append(faults, Fault{Field: "limits.maxPart", Message: fmt.Sprintf(
				"segment %d holds at %s, and the part may have %s at most",
				i+1, unit.Temperature(s.Target, 1), unit.Temperature(h.Limits.MaxPart, 1))})
		}
	}
	if h.Recipe.Least() >= longestRun {
		faults = append(faults, Fault{Field: "recipe", Message: "the recipe takes longer than three days"})
	}
	return drawn(faults, "limits.minVacuum", "the run needs", h.Limits.MinVacuum, altitude)
}

// longestRun is what no run takes, s.
const longestRun = 3 * 24 * 3600

// OperationFindings are what a planner should look at in the operations themselves: a
// recipe that takes longer than its planned time, a post-cure that no run records, and what
// a release asks for, which has signatures of its own.
func (d Document) OperationFindings() []route.Finding {
	var found []route.Finding
	for _, o := range d.Route {
		c := o.Core()
		says := c.Label(d.RouteStages())
		switch {
		case o.Heat != nil && len(o.Heat.Check(0)) == 0:
			// A quarter of an hour is nobody's worry.
			if runs := seconds(o.Heat.Recipe.Least()); runs > c.Takes()+15*time.Minute {
				found = append(found, route.Finding{Rule: "longer than planned", Key: o.Key, Message: fmt.Sprintf(
					"%s: its recipe runs %s without its waits, and %s are planned for it", says, material.Hours(runs),
					material.Hours(c.Takes()))})
			}
		case c.Kind == route.Injecting && d.unweighed(o):
			found = append(found, route.Finding{Rule: "resin not weighed", Key: o.Key, Message: says +
				": no field of it holds the resin that went in against what the cavity takes"})
		case c.Kind == route.Releasing && (len(o.Fields) > 0 || o.Second || o.Hold != ""):
			found = append(found, route.Finding{Rule: "not asked", Key: o.Key, Message: says +
				": the disposition has only its own signature; record these in an inspect before it"})
		case o.Heat == nil && c.Kind == route.PostCuring:
			found = append(found, route.Finding{Rule: "no recipe", Key: o.Key, Message: says +
				": it has no recipe of its own: it is signed, and no run records it"})
		}
	}
	return found
}

// PlaceFindings are the operations whose place is none of those that a shop has, as people
// write them; outside work is done where it is sent. No places: any will do.
func (d Document) PlaceFindings(places []string) []route.Finding {
	var found []route.Finding
	for _, o := range d.Route {
		here := func(p string) bool { return strings.EqualFold(strings.TrimSpace(p), strings.TrimSpace(o.Place)) }
		if len(places) == 0 || o.Place == "" || o.Kind == string(route.Outside) || slices.ContainsFunc(places, here) {
			continue
		}
		found = append(found, route.Finding{Rule: "no such place", Key: o.Key, Message: fmt.Sprintf(
			"%s: the shop has no place %q; it has %s",
			o.Core().Label(d.RouteStages()),
			o.Place,
			strings.Join(places, ", "),
		)})
	}
	return found
}

// unweighed says whether an injection whose resin is planned records no mass whose limits
// hold that amount.
func (d Document) unweighed(o Operation) bool {
	kg := 0.0
	for _, s := range d.Stages {
		if slices.Contains(o.Stages, s.Key) {
			kg += s.Resin
		}
	}
	per := map[string]float64{"kg": 1, "g": 1000}
	return kg > 0 && !slices.ContainsFunc(o.Fields, func(f Field) bool {
		n, weight := per[f.Unit]
		return f.Kind == "value" && weight && f.Least != nil && f.Most != nil && *f.Least <= kg*n && kg*n <= *f.Most
	})
}

// drawn adds the fault of a vacuum that no pump can draw at an altitude in m.
func drawn(faults []Fault, field, says string, vacuum, altitude float64) []Fault {
	if err := bag.Possible(vacuum, altitude); err != nil {
		faults = append(
			faults,
			Fault{Field: field, Message: fmt.Sprintf("%s %s of vacuum: %s", says, unit.Vacuum(vacuum, 1), err)},
		)
	}
	return faults
}

// InWords is how plies are debulked, in words.
func (d Debulks) InWords() string {
	var when []string
	if d.First {
		when = append(when, "after the first ply")
	}
	if d.Every > 0 {
		when = append(when, fmt.Sprintf("every %d plies", d.Every))
	}
	if len(when) == 0 {
		return "no debulk"
	}
	return fmt.Sprintf("debulk %s, %s", strings.Join(when, ", then "), d.How())
}

// How is one debulk in words.
func (d Debulks) How() string {
	return fmt.Sprintf("for %s at %s or more", material.Hours(seconds(d.Seconds)), unit.Vacuum(d.Vacuum, 0))
}

// InWords is what a part is closed with, in words.
func (c Closing) InWords() string {
	if !bag.Vacuum(c.Stack) {
		return fmt.Sprintf("closed with %s, no leak check", c.Stack)
	}
	return fmt.Sprintf("closed with %s; from %s or more at most %s lost in %s", c.Stack,
		unit.Vacuum(c.LeakStart, 0), unit.Vacuum(c.LeakDrop, 1), material.Hours(seconds(c.LeakSeconds)))
}

// InWords is the run in words.
func (h Heat) InWords() string {
	says := "run " + h.Recipe.Name
	if h.From != nil {
		says += fmt.Sprintf(", version %d as released", h.From.Version)
	}
	if h.Equipment != "" {
		says += " in " + h.Equipment
	}
	says += ": " + strings.Join(h.Recipe.InWords(), "; ")
	if h.PressureMax > 0 {
		says += "; pressure at most " + unit.Pressure(h.PressureMax, 0).String()
	}
	if h.PressForce > 0 {
		says += fmt.Sprintf("; the press closes with %.0f kN", h.PressForce/1000)
	}
	return says
}

// Own are the settings of its own that an operation has, in words.
func (o Operation) Own() (says []string) {
	if o.Debulks != nil {
		says = append(says, o.Debulks.InWords())
	}
	if o.Closing != nil {
		says = append(says, o.Closing.InWords())
	}
	if o.Heat != nil {
		says = append(says, o.Heat.InWords())
	}
	return says
}
