package parts

import (
	"fmt"

	"juxta/core/layup"
	"juxta/core/master"
	"juxta/core/unit"
	"juxta/shop/book"
)

// The process of a revision says how its operations are done; one with settings of its
// own goes by these.

// Debulks is how plies are debulked.
func (p Process) Debulks() master.Debulks {
	return master.Debulks{First: p.DebulkFirst, Every: p.DebulkEvery, Seconds: p.DebulkSeconds, Vacuum: p.DebulkVacuum}
}

// Closing is what parts are closed with.
func (p Process) Closing() master.Closing {
	return master.Closing{Stack: p.BagStack, LeakStart: p.LeakStart, LeakDrop: p.LeakDrop, LeakSeconds: p.LeakSeconds}
}

// Heat is the run of the cure.
func (p Process) Heat() master.Heat {
	return master.Heat{
		Recipe: p.Recipe, From: p.From, Equipment: p.Equipment, PartLag: p.PartLag, Limits: p.RunLimits,
		PressureMax: p.PressureMax,
		PressForce:  p.PressForce,
	}
}

// Of is the process as it holds for an operation.
func (p Process) Of(o master.Operation) Process {
	if d := o.Debulks; d != nil {
		p.DebulkFirst, p.DebulkEvery, p.DebulkSeconds, p.DebulkVacuum = d.First, d.Every, d.Seconds, d.Vacuum
	}
	if c := o.Closing; c != nil {
		p.BagStack, p.LeakStart, p.LeakDrop, p.LeakSeconds = c.Stack, c.LeakStart, c.LeakDrop, c.LeakSeconds
	}
	if h := o.Heat; h != nil {
		p.Recipe, p.From, p.Equipment, p.PartLag, p.RunLimits = h.Recipe, h.From, h.Equipment, h.PartLag, h.Limits
		p.PressureMax, p.PressForce = h.PressureMax, h.PressForce
	}
	if o.Tool != "" {
		p.Tool = o.Tool
	}
	return p
}

// fields of the process by those of an operation's settings.
var fields = map[string]string{
	"debulks.vacuum": "debulkVacuum", "closing.stack": "bagStack", "closing.leakDrop": "leakDrop",
	"closing.leakStart": "leakStart", "heat.recipe": "recipe",
	"heat.limits.maxPart": "runLimits.maxPart", "heat.limits.minVacuum": "runLimits.minVacuum",
}

// check says whether parts can be made by this process in a shop at an altitude
// in m.
func (p Process) check(altitude float64) error {
	d, c, h := p.Debulks(), p.Closing(), p.Heat()
	as := master.Operation{Debulks: &d, Closing: &c, Heat: &h}
	for _, f := range as.SettingFaults(altitude) {
		return book.Wrong.At("process."+fields[f.Field], "%s", f.Message)
	}
	for i, x := range p.Inspections {
		if err := unit.Between(x.Least, x.Target, x.Most); err != nil {
			return book.Wrong.At(fmt.Sprintf("process.inspections[%d]", i), "%s: %s", x.What, err)
		}
	}
	return nil
}

// Debulked tells after which plies the stack is debulked, by the keys of the items, and how:
// of the one pass, or at each bench of the route.
func (v RevisionView) Debulked() (map[string]master.Debulks, error) {
	routed, err := routedOf(&v.Document)
	if err != nil {
		return nil, err
	}
	benches := map[int][]string{}
	for _, i := range v.Document.Items() {
		at, laid := 0, true
		if routed != nil {
			at, laid = routed.Benches[i.Key] // what no operation lays is no bench's
		}
		if laid && i.Kind == master.Ply {
			benches[at] = append(benches[at], i.Key)
		}
	}
	out := map[string]master.Debulks{}
	for at, plies := range benches {
		d := v.Process.Debulks()
		if routed != nil {
			d = v.Process.Of(routed.Planned[at]).Debulks()
		}
		for _, s := range layup.Steps(len(plies), d.Policy()) {
			if s.Debulk {
				out[plies[s.Ply-1]] = d
			}
		}
	}
	return out, nil
}
