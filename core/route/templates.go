package route

import (
	"fmt"
	"slices"
	"time"
)

// Template turns the stages of a master into a route. It
// explains itself; a planner may change every operation afterwards.
type Template struct {
	Key, Name string
	Why       string // why this order
	Differs   string // where shops differ
	Life      string // what it asks of the material's life

	fits func([]Stage) string
	make func(*making)
}

// Fits is empty, or says why a master's stages cannot be made this way.
func (t Template) Fits(stages []Stage) string {
	if len(stages) == 0 {
		return "the master has no stage yet"
	}
	if t.fits == nil {
		return ""
	}
	return t.fits(stages)
}

// Route is the operations that the template makes of the stages.
func (t Template) Route(stages []Stage) []Operation {
	m := &making{stages: stages, keys: map[string]int{}}
	t.make(m)
	return m.operations
}

// usual are set-up, attended and unattended minutes with which an operation of a kind is
// proposed (common practice, no source): a planner puts in the shop's own.
var usual = map[Kind][3]float64{
	Cutting: {10, 15, 0}, Kitting: {0, 10, 0}, Preparing: {5, 20, 30}, Laying: {5, 60, 0}, Joining: {5, 40, 0},
	Closing: {
		5,
		30,
		0,
	}, Debulking: {5, 10, 120}, Curing: {10, 10, 240}, PostCuring: {10, 10, 480}, Demoulding: {5, 20, 0},
	Trimming: {
		10,
		30,
		0,
	}, Drilling: {15, 20, 0}, Machining: {20, 40, 0}, Bonding: {15, 30, 720}, Injecting: {20, 40, 60},
	Sanding: {5, 30, 0}, Coating: {10, 20, 480}, Marking: {0, 5, 0}, Outside: {0, 15, 5 * 24 * 60},
	Inspecting: {5, 20, 0}, Releasing: {0, 10, 0},
}

// making is a route as a way writes it down.
type making struct {
	stages     []Stage
	operations []Operation
	keys       map[string]int
}

// add writes an operation down and gives its key, which follows from what it is: the lay
// of a stage has the same key in every way.
func (m *making) add(kind Kind, name string, stages []Stage, after ...string) string {
	o := Operation{Kind: kind, Name: name, Key: string(kind)}
	for _, s := range stages {
		o.Stages = append(o.Stages, s.Key)
	}
	if len(stages) > 0 && len(stages) < len(m.stages) {
		o.Key += " " + stages[0].Key
	}
	if m.keys[o.Key]++; m.keys[o.Key] > 1 {
		o.Key = fmt.Sprintf("%s %d", o.Key, m.keys[o.Key])
	}
	for _, key := range after {
		if key != "" && !slices.Contains(o.After, key) {
			o.After = append(o.After, key)
		}
	}
	t := usual[kind]
	minutes := func(v float64) time.Duration { return time.Duration(v * float64(time.Minute)) }
	o.SetUp, o.Attended, o.Unattended = minutes(t[0]), minutes(t[1]), minutes(t[2])
	m.operations = append(m.operations, o)
	return o.Key
}

// laid cuts, kits and lays stages as one; the lay waits for others besides.
func (m *making) laid(stages []Stage, after ...string) string {
	kit := m.add(Kitting, "", stages, m.add(Cutting, "", stages))
	return m.add(Laying, "", stages, append([]string{kit}, after...)...)
}

// cured closes stages and cures them, after what lays them.
func (m *making) cured(stages []Stage, after ...string) string {
	return m.add(Curing, "", stages, m.add(Closing, "", stages, after...))
}

// trimmed takes stages out of their tool and trims them, and ends the route.
func (m *making) trimmed(stages []Stage, after ...string) {
	m.end(m.add(Trimming, "", nil, m.add(Demoulding, "", stages, after...)))
}

// end lets a part be inspected and released once all else is done.
func (m *making) end(after ...string) {
	m.add(Releasing, "", nil, m.add(Inspecting, "", nil, after...))
}

// of are the stages of some kinds, and the others.
func (m *making) of(kinds ...StageKind) (of, others []Stage) {
	for _, s := range m.stages {
		if slices.Contains(kinds, s.Kind) {
			of = append(of, s)
		} else {
			others = append(others, s)
		}
	}
	return of, others
}

func asks(kinds []StageKind, says string) func([]Stage) string {
	return func(stages []Stage) string {
		for _, s := range stages {
			if slices.Contains(kinds, s.Kind) {
				return ""
			}
		}
		return says
	}
}

func several(says string) func([]Stage) string {
	return func(stages []Stage) string {
		if len(stages) > 1 {
			return ""
		}
		return says
	}
}

// onePass is the plain order of a part that is laid as one and cured once.
func onePass(m *making) {
	tool := m.add(Preparing, "", nil)
	lay := m.laid(m.stages, tool)
	m.trimmed(m.stages, m.cured(m.stages, lay))
}

// OnePass is the key of the way by which documents without a route are read.
const OnePass = "open shell"

// Templates are all templates, the plainest first. Their reasons are common practice,
// no source; what a supplier's data sheet says goes before them.
var Templates = []Template{
	{
		Key: OnePass, Name: "Flat or open shell, one cure",
		Why: "Everything is laid on one tool, closed once and cured once; each step rests on the one before.",
		Differs: "Some shops trim before the part leaves its tool, to keep its shape; some count the kit at the " +
			"cutter.",
		Life: "Out-time of the oldest ply from the cut to the cure, and tack until the last ply is laid.",
		make: onePass,
	},
	{
		Key: "sandwich, one cure", Name: "Sandwich in one cure",
		Why: "Skin, core and second skin are laid on each other and cured together: one run, but the bag presses the " +
			"second skin into the cells of the core.",
		Differs: "Film adhesive is left out where the skins are rich enough in resin; the pressure is often lowered " +
			"for the core.",
		Life: "The first skin waits on the bench while the core is fitted: its tack counts until the last skin " +
			"is laid.",
		fits: asks([]StageKind{"core"}, "no stage is a core"),
		make: func(m *making) {
			last := m.add(Preparing, "", nil)
			for _, s := range m.stages {
				last = m.laid([]Stage{s}, last)
			}
			m.trimmed(m.stages, m.cured(m.stages, last))
		},
	},
	{
		Key: "sandwich, three cures", Name: "Sandwich in three cures",
		Why: "The first skin is cured against the tool and looked at, the core is bonded to it, then the second skin " +
			"is cured on the core: each skin is laid against something firm.",
		Differs: "Core and second skin are often cured together, which saves a run; some cure the second skin apart " +
			"and bond it.",
		Life: "Each stage is cut and kitted when its turn comes, so that no material waits out of the freezer " +
			"for days.",
		fits: asks([]StageKind{"core"}, "no stage is a core"),
		make: func(m *making) {
			last := m.add(Preparing, "", nil)
			for _, s := range m.stages {
				one := []Stage{s}
				last = m.cured(one, m.laid(one, last))
			}
			m.trimmed(m.stages, last)
		},
	},
	{
		Key: "rolled tube", Name: "Rolled tube under tape",
		Why: "Plies are rolled onto a mandrel and pressed by shrinking tape, so the tube needs no bag; it hangs in " +
			"the oven, and the mandrel is pulled when it has shrunk from the wall.",
		Differs: "Number of tape layers, and whether the ends are cut before or after the mandrel is pulled.",
		Life:    "Tack matters most: a stiff ply springs open while it is rolled.",
		make: func(m *making) {
			lay := m.laid(m.stages, m.add(Preparing, "Mandrel cleaned and released", nil))
			cure := m.add(Curing, "", m.stages, m.add(Closing, "Tape wound", m.stages, lay))
			out := m.add(Demoulding, "Mandrel pulled, tape stripped", m.stages, cure)
			m.end(m.add(Trimming, "Ends cut to length", nil, out))
		},
	},
	{
		Key: "long section", Name: "Long section on a mandrel, debulked and bagged",
		Why: "A long section is laid stage by stage and debulked between, or it wrinkles when the whole of it is " +
			"pressed at once.",
		Differs: "Every how many plies it is debulked, cold or warm; some shops use tape over the bag's breather.",
		Life:    "Long lays eat tack: each stage is kitted for itself.",
		make: func(m *making) {
			last := m.add(Preparing, "Mandrel cleaned and released", nil)
			for _, s := range m.stages {
				last = m.add(Debulking, "", []Stage{s}, m.laid([]Stage{s}, last))
			}
			m.trimmed(m.stages, m.cured(m.stages, last))
		},
	},
	{
		Key: "half tools", Name: "Half tools cured apart, then bonded",
		Why: "Each half is cured on a tool of its own and trimmed to the joint, then both are bonded in a jig: every " +
			"face is seen before the part is closed.",
		Differs: "Bonded to a lip that was laid in, or with an over-wrap across the joint.",
		Life:    "Halves do not wait for each other's material; the adhesive's pot life is the one clock of the bond.",
		fits:    several("there is one stage: two halves are two stages"),
		make: func(m *making) {
			bonds, halves := m.of(Bond)
			var ready []string
			for _, s := range halves {
				one := []Stage{s}
				cure := m.cured(one, m.laid(one, m.add(Preparing, "", one)))
				ready = append(ready, m.add(Trimming, "", one, m.add(Demoulding, "", one, cure)))
			}
			m.end(m.add(Sanding, "", nil, m.bond(bonds, 0, ready...)))
		},
	},
	{
		Key: "hollow part", Name: "Hollow part: pre-forms, bladder, closed tool, press",
		Why: "Pre-forms are laid apart, by several people at once, joined in the cure tool round a bladder, closed, " +
			"and pressed warm until all air is out; then the press cures them in minutes.",
		Differs: "A core that is washed or melted out in place of the bladder; debulk in the open half tools.",
		Life: "The oldest pre-form decides: its tack must last until the join is done, and its clock goes on with " +
			"the part.",
		fits: asks([]StageKind{Preform}, "no stage is a pre-form"),
		make: func(m *making) {
			var laid []string
			forms, others := m.of(Preform)
			for _, s := range forms {
				laid = append(laid, m.laid([]Stage{s}))
			}
			for _, s := range others {
				laid = append(laid, m.add(Kitting, "", []Stage{s}, m.add(Cutting, "", []Stage{s})))
			}
			join := m.add(Joining, "", m.stages, append(laid, m.add(Preparing, "", nil))...)
			warm := m.add(
				Debulking,
				"Warm debulk in the closed tool",
				m.stages,
				m.add(Closing, "Bladder in, tool closed", m.stages, join),
			)
			out := m.add(Demoulding, "", m.stages, m.add(Curing, "", m.stages, warm))
			m.end(m.add(Drilling, "", nil, m.add(Trimming, "Flash taken off", nil, out)))
		},
	},
	{
		Key: "bonded joints", Name: "Joints bonded, over-wrapped, cured again",
		Why: "The body is cured and cut to length first, fittings are bonded to it, and an over-wrap across the " +
			"joint is cured on what is firm already.",
		Differs: "Over-wrap in the same cure as the adhesive; wedge or tape pressure over it.",
		Life:    "The over-wrap's material comes out of the freezer when the bond can be handled, not before.",
		fits:    asks([]StageKind{Bond, "over-wrap"}, "no stage is a bond or an over-wrap"),
		make: func(m *making) {
			late, body := m.of(Bond, "over-wrap")
			if len(body) == 0 {
				late, body = late[1:], late[:1]
			}
			cure := m.cured(body, m.laid(body, m.add(Preparing, "", nil)))
			last := m.add(Trimming, "Cut to length", nil, m.add(Demoulding, "", body, cure))
			for _, s := range late {
				one := []Stage{s}
				if s.Kind == Bond {
					last = m.bond(one, 1, last)
					continue
				}
				last = m.cured(one, m.laid(one, last))
			}
			m.end(m.add(Marking, "", nil, m.add(Coating, "", nil, m.add(Sanding, "", nil, last))))
		},
	},
	{
		Key: "injected", Name: "Braid or sleeve over a cured core, injected",
		Why: "A dry sleeve is pulled over a core that is cured already, closed in a mould, and resin is pressed " +
			"through it until the mass in the cavity is right.",
		Differs: "Vacuum alone, or a pump; where the vent is and how long it runs over.",
		Life:    "The resin's pot life is the clock from the mix to the end of the injection; dry fibre has none.",
		fits:    asks([]StageKind{Injection}, "no stage is an injection"),
		make: func(m *making) {
			wet, core := m.of(Injection)
			last := ""
			if len(core) > 0 {
				cure := m.cured(core, m.laid(core, m.add(Preparing, "", core)))
				last = m.add(Demoulding, "", core, cure)
			}
			dry := m.laid(wet, m.add(Preparing, "Mould cleaned and released", nil), last)
			shot := m.add(Injecting, "", wet, m.add(Closing, "", wet, dry))
			m.trimmed(wet, m.add(Curing, "", wet, shot))
		},
	},
	{
		Key: "wet layup", Name: "Wet layup, cold cure, demould, post-cure",
		Why: "Resin is mixed and brought in by hand, hardens over night at the room's temperature, and reaches its " +
			"service temperature in a post-cure without the tool.",
		Differs: "With or without a bag; post-cure in the tool where the part is thin.",
		Life:    "The pot of each mix; fabric has no clock.",
		make: func(m *making) {
			lay := m.laid(m.stages, m.add(Preparing, "", nil))
			cold := m.add(Curing, "Cold cure over night", m.stages, m.add(Closing, "", m.stages, lay))
			m.end(m.add(Trimming, "", nil, m.add(PostCuring, "", m.stages, m.add(Demoulding, "", m.stages, cold))))
		},
	},
	{
		Key: "trial panel", Name: "Trial panel with coupons",
		Why: "A panel is made as the part will be, cut into coupons, and tested elsewhere; what comes back decides " +
			"on the way and the material.",
		Differs: "Tabs bonded on before the coupons are cut, or after.",
		Life:    "As the part's own, or the panel says nothing about it.",
		make: func(m *making) {
			lay := m.laid(m.stages, m.add(Preparing, "", nil))
			cure := m.cured(m.stages, lay)
			coupons := m.add(Machining, "Coupons cut and marked", nil, m.add(Demoulding, "", m.stages, cure))
			m.end(m.add(Outside, "Coupons tested", nil, coupons))
		},
	},
}

// bond is a bond of what was made before, with a number of things from elsewhere.
func (m *making) bond(stages []Stage, adherends int, after ...string) string {
	key := m.add(Bonding, "", stages, after...)
	m.operations[len(m.operations)-1].Adherends = adherends
	return key
}

// FindTemplate is the template with a key.
func FindTemplate(key string) (Template, bool) {
	k := slices.IndexFunc(Templates, func(t Template) bool { return t.Key == key })
	if k < 0 {
		return Template{}, false
	}
	return Templates[k], true
}
