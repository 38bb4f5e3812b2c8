package master

import (
	"fmt"
	"math"
	"slices"
	"strings"
	"time"

	"juxta/core/route"
)

// Operation is one thing that is done to a build, as its revision plans it.
type Operation struct {
	Key    string   `json:"key" doc:"Its own for good" minLength:"1" maxLength:"48"`
	Kind   string   `json:"kind" enum:"cut,kit,prepare tool,lay,join,close,debulk,cure,demould,post-cure,trim,drill,machine,bond,inject,sand,prime,coat,mark,adjust,outside,inspect,release"`
	Name   string   `json:"name,omitempty" doc:"Empty: its kind and its stages" maxLength:"80"`
	Stages []string `json:"stages,omitempty" doc:"Keys of the stages that it is about" maxItems:"40"`
	After  []string `json:"after,omitempty" doc:"Keys of the operations that it waits for" maxItems:"60"`
	Place  string   `json:"place,omitempty" doc:"A bench, the cutter, an oven, a press, or a vendor" maxLength:"60"`
	Tool   string   `json:"tool,omitempty" maxLength:"60"`

	SetUp      float64 `json:"setUp,omitempty" doc:"s" minimum:"0" maximum:"31536000"`
	Attended   float64 `json:"attended,omitempty" doc:"s that somebody is at it" minimum:"0" maximum:"31536000"`
	Unattended float64 `json:"unattended,omitempty" doc:"s that it goes on by itself" minimum:"0" maximum:"31536000"`

	Qualification string   `json:"qualification,omitempty" maxLength:"40"`
	Second        bool     `json:"second,omitempty" doc:"A second person looks and signs"`
	Hold          string   `json:"hold,omitempty" doc:"Hold point: work stops until this is done" maxLength:"200"`
	Caution       string   `json:"caution,omitempty" maxLength:"600"`
	Note          string   `json:"note,omitempty" maxLength:"600"`
	Below         float64  `json:"below,omitempty" doc:"Demould: not before the part is below this, K" minimum:"0" maximum:"1000"`
	Adherends     []string `json:"adherends,omitempty" doc:"Bond: bought parts and parts of other builds that are bonded" maxItems:"20"`
	Fields        []Field  `json:"fields,omitempty" doc:"What is recorded besides the signature" maxItems:"60"`

	Debulks *Debulks `json:"debulks,omitempty" doc:"Lay and join: of its own; missing: as the process of the revision says"`
	Closing *Closing `json:"closing,omitempty" doc:"Close: of its own; missing: as the process of the revision says"`
	Heat    *Heat    `json:"heat,omitempty" doc:"Cure: of its own; missing: as the process says. A post-cure or a debulk has a run if it has this"`
}

// Field is one thing that an operation records.
type Field struct {
	Key     string   `json:"key" minLength:"1" maxLength:"24"`
	Name    string   `json:"name" minLength:"1" maxLength:"80"`
	Kind    string   `json:"kind" doc:"A product has a batch, and a pot that it is mixed in; a paper is what came with work from elsewhere" enum:"value,choice,text,picture,scan,product,paper"`
	Unit    string   `json:"unit,omitempty" doc:"Of a value and its limits" maxLength:"20"`
	Least   *float64 `json:"least,omitempty"`
	Most    *float64 `json:"most,omitempty"`
	From    *float64 `json:"from,omitempty" doc:"Value: the least that its gauge can show"`
	To      *float64 `json:"to,omitempty" doc:"Value: the most that its gauge can show"`
	Choices []string `json:"choices,omitempty" maxItems:"20"`
	Pot     float64  `json:"pot,omitempty" doc:"Product: s from the mix until it must not be used" minimum:"0" maximum:"31536000"`
	Caution string   `json:"caution,omitempty" maxLength:"600"`
	Free    bool     `json:"free,omitempty" doc:"May be left empty"`
}

// blind says whether a field's gauge cannot show one of its limits.
func (f Field) blind() bool {
	for _, limit := range []*float64{f.Least, f.Most} {
		if limit != nil && !f.shown(*limit) {
			return true
		}
	}
	return false
}

// shown says whether the field's gauge can show a value.
func (f Field) shown(v float64) bool {
	return (f.From == nil || v >= *f.From) && (f.To == nil || v <= *f.To)
}

// FieldKinds are the kinds of field.
var FieldKinds = []string{"value", "choice", "text", "picture", "scan", "product", "paper"}

func seconds(s float64) time.Duration { return time.Duration(s * float64(time.Second)) }

// Core is the operation as the route knows it.
func (o Operation) Core() route.Operation {
	return route.Operation{
		Key: o.Key, Kind: route.Kind(o.Kind), Name: o.Name, Stages: o.Stages, After: o.After,
		SetUp: seconds(o.SetUp), Attended: seconds(o.Attended), Unattended: seconds(o.Unattended),
		Adherends: len(o.Adherends), Heated: o.Heat != nil,
		Signs: route.Kind(o.Kind) != route.Releasing && (len(o.Fields) > 0 || o.Second || o.Hold != ""),
	}
}

// RouteStages are the stages as the route knows them.
func (d Document) RouteStages() []route.Stage {
	out := make([]route.Stage, len(d.Stages))
	for k, s := range d.Stages {
		out[k] = route.Stage{Key: s.Key, Name: s.Name, Kind: route.StageKind(s.Kind), Cavity: s.Cavity, Resin: s.Resin}
	}
	return out
}

// Made is the operations that a template makes of the document's stages.
func (d Document) Made(w route.Template) []Operation {
	made := w.Route(d.RouteStages())
	out := make([]Operation, len(made))
	for k, o := range made {
		out[k] = Operation{
			Key: o.Key, Kind: string(o.Kind), Name: o.Name, Stages: o.Stages, After: o.After,
			SetUp: o.SetUp.Seconds(), Attended: o.Attended.Seconds(), Unattended: o.Unattended.Seconds(),
		}
		for n := range o.Adherends {
			out[k].Adherends = append(out[k].Adherends, fmt.Sprintf("part %d, bought or of another build", n+1))
		}
		if o.Kind == route.Injecting {
			out[k].Fields = d.injection(o.Stages)
		}
	}
	return out
}

// injection is what an injection of some stages records: the mix, how much of it went in,
// held against the cavity, and how. A twentieth more or less than planned is common practice
// (no source); what the resin's data sheet says of pot and pressure goes first.
func (d Document) injection(stages []string) []Field {
	grams := 0.0
	for _, s := range d.Stages {
		if slices.Contains(stages, s.Key) {
			grams += s.Resin * 1000
		}
	}
	went := Field{Key: "mass", Name: "resin that went in", Kind: "value", Unit: "g"}
	if grams > 0 {
		least, most := math.Round(grams*0.95*10)/10, math.Round(grams*1.05*10)/10
		went.Least, went.Most = &least, &most
	}
	return []Field{
		{
			Key:     "mix",
			Name:    "resin mixed",
			Kind:    "product",
			Pot:     45 * 60,
			Caution: "Mix what is needed and no more: it heats itself.",
		},
		went,
		{Key: "pressure", Name: "max. pressure at the inlet", Kind: "value", Unit: "kPa"},
		{Key: "time", Name: "from the first resin to the full vent", Kind: "value", Unit: "min"},
	}
}

// Operations are those of the route. A document of before there were routes is read as
// the one pass that it was: everything laid as one, closed once, cured once.
func (d Document) Operations() []Operation {
	if len(d.Route) > 0 || len(d.Stages) == 0 {
		return d.Route
	}
	way, _ := route.FindTemplate(route.OnePass)
	return d.Made(way)
}

// Ordered is the document's route, or what cannot be right about it.
func (d Document) Ordered() (*route.Route, []route.Fault) {
	planned := d.Operations()
	all := make([]route.Operation, len(planned))
	for k, o := range planned {
		all[k] = o.Core()
	}
	return route.New(all, d.RouteStages())
}

// settings of an operation, each with the kinds that have it.
var settings = []struct {
	name  string
	there func(o Operation) bool
	kinds []route.Kind
}{
	{"debulks", func(o Operation) bool { return o.Debulks != nil }, []route.Kind{route.Laying, route.Joining}},
	{"closing", func(o Operation) bool { return o.Closing != nil }, []route.Kind{route.Closing}},
	{
		"heat",
		func(o Operation) bool { return o.Heat != nil },
		[]route.Kind{route.Curing, route.PostCuring, route.Debulking},
	},
}

// SettingFaults are those of all operations, in a shop at an altitude in m.
func (d Document) SettingFaults(altitude float64) (faults []Fault) {
	for _, o := range d.Route {
		for _, f := range o.SettingFaults(altitude) {
			f.Message = o.Core().Label(d.RouteStages()) + ": " + f.Message
			faults = append(faults, f)
		}
	}
	return faults
}

// RouteFaults are the faults of the operations alone.
func (d Document) RouteFaults() []Fault {
	faults := []Fault{}
	d.checkRoute(func(key, field, format string, args ...any) {
		faults = append(faults, Fault{key, field, fmt.Sprintf(format, args...)})
	})
	return faults
}

// checkRoute finds what cannot be right about the operations.
func (d Document) checkRoute(add func(key, field, format string, args ...any)) {
	if len(d.Route) == 0 {
		return
	}
	if _, faults := d.Ordered(); len(faults) > 0 {
		for _, f := range faults {
			add(f.Key, f.Field, "%s", f.Message)
		}
	}
	for _, o := range d.Route {
		says := o.Core().Label(d.RouteStages())
		for _, v := range []float64{o.SetUp, o.Attended, o.Unattended, o.Below} {
			if math.IsNaN(v) || math.IsInf(v, 0) {
				add(o.Key, "time", "%s: every figure must be a number", says)
			}
		}
		if o.Below > 0 && o.Kind != string(route.Demoulding) {
			add(o.Key, "below", "%s: only a demould waits for the part to cool", says)
		}
		if len(o.Adherends) > 0 && o.Kind != string(route.Bonding) {
			add(o.Key, "adherends", "%s: only a bond has parts from elsewhere", says)
		}
		for _, x := range settings {
			if x.there(o) && !slices.Contains(x.kinds, route.Kind(o.Kind)) {
				add(o.Key, x.name, "%s: only %s has settings of this kind", says, listed(x.kinds))
			}
		}
		keys := map[string]bool{}
		for k, f := range o.Fields {
			at := fmt.Sprintf("fields[%d]", k)
			switch {
			case f.Key == "" || keys[f.Key]:
				add(o.Key, at, "%s: two fields have the key %q", says, f.Key)
			case strings.TrimSpace(f.Name) == "":
				add(o.Key, at, "%s: say what field %d records", says, k+1)
			case !slices.Contains(FieldKinds, f.Kind):
				add(o.Key, at, "%s: a field is one of %s", says, strings.Join(FieldKinds, ", "))
			case f.Kind == "choice" && len(f.Choices) < 2:
				add(o.Key, at, "%s: %s needs two choices or more", says, f.Name)
			case f.Kind != "value" && (f.Least != nil || f.Most != nil || f.From != nil || f.To != nil):
				add(o.Key, at, "%s: %s is no value, so it has no limits", says, f.Name)
			case f.From != nil && f.To != nil && *f.From >= *f.To:
				add(o.Key, at, "%s: a gauge of %s shows more at its end than at its beginning", says, f.Name)
			case f.blind():
				add(o.Key, at, "%s: the gauge of %s cannot show what the limits ask for", says, f.Name)
			case f.Least != nil && f.Most != nil && *f.Least > *f.Most:
				add(o.Key, at, "%s: the minimum of %s is above its maximum", says, f.Name)
			case f.Pot > 0 && f.Kind != "product":
				add(o.Key, at, "%s: only a product has a pot life", says)
			}
			keys[f.Key] = true
		}
	}
}

// listed names kinds in a sentence.
func listed(kinds []route.Kind) string {
	out := make([]string, len(kinds))
	for k, x := range kinds {
		out[k] = "a " + string(x)
	}
	return strings.Join(out, " or ")
}

// OperationChange is one line of a difference of routes: an operation as it was, as it is,
// or both, with the fields that differ by their names in the document.
type OperationChange struct {
	Was, Is *Operation
	Fields  []string
}

// sorted is the operation with its sets in one order, so that two that say the same are
// the same.
func (o Operation) sorted() Operation {
	o.Stages, o.After = slices.Sorted(slices.Values(o.Stages)), slices.Sorted(slices.Values(o.After))
	return o
}

// RouteDifference lines the routes of two documents up by the keys of their operations,
// in the order of the newer one; what is gone comes last.
func RouteDifference(before, after Document) []OperationChange {
	was := map[string]Operation{}
	for _, o := range before.Operations() {
		was[o.Key] = o
	}
	var out []OperationChange
	for _, is := range after.Operations() {
		w, there := was[is.Key]
		if !there {
			out = append(out, OperationChange{Is: &is})
			continue
		}
		delete(was, is.Key)
		out = append(out, OperationChange{Was: &w, Is: &is, Fields: ChangedFields(w.sorted(), is.sorted())})
	}
	for _, o := range before.Operations() {
		if _, gone := was[o.Key]; gone {
			out = append(out, OperationChange{Was: &o})
		}
	}
	return out
}

// Differs says whether a line of a difference shows any.
func (c OperationChange) Differs() bool { return c.Was == nil || c.Is == nil || len(c.Fields) > 0 }
