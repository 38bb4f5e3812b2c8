package master

import (
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"juxta/core/cure"
	"juxta/core/route"
	"juxta/core/unit"
)

// recipe is a run of an hour at a temperature, in K.
func recipe(kelvin float64) *Heat {
	return &Heat{
		Recipe: cure.Recipe{
			Name:      "r",
			Start:     295,
			Tolerance: 5,
			Segments:  []cure.Segment{{Target: kelvin, Rate: 0.05, Hold: 3600}},
		},
		Limits: RunLimits{MaxPart: kelvin + 8},
	}
}

func TestSettingsThatCannotBeAreTold(t *testing.T) {
	// At 2000 m the standard atmosphere has 79.5 kPa (ICAO Doc 7488).
	const high = 2000
	tight := Closing{Stack: "no bleed", LeakStart: 70e3, LeakDrop: 2e3, LeakSeconds: 300}
	at := func(says, field string, o Operation) {
		t.Helper()
		o.Key = "x"
		faults := o.SettingFaults(high)
		require.Len(t, faults, 1, says)
		assert.Contains(t, faults[0].Message, says)
		assert.Equal(t, Fault{"x", field, faults[0].Message}, faults[0])
	}
	closing := func(change func(c *Closing)) Operation {
		c := tight
		change(&c)
		return Operation{Closing: &c}
	}
	heated := func(change func(h *Heat)) Operation {
		h := recipe(390)
		change(h)
		return Operation{Heat: h}
	}
	deep := Debulks{Every: 4, Seconds: 600, Vacuum: 85e3}
	at("no pump draws", "debulks.vacuum", Operation{Debulks: &deep})
	at(`no bag stack "foil"`, "closing.stack", closing(func(c *Closing) { c.Stack = "foil" }))
	at("no pump draws", "closing.leakStart", closing(func(c *Closing) { c.LeakStart = 85e3 }))
	at("cannot lose", "closing.leakDrop", closing(func(c *Closing) { c.LeakDrop = 71e3 }))
	at("over what time", "closing.leakDrop", closing(func(c *Closing) { c.LeakSeconds = 0 }))
	at("has no segment", "heat.recipe", heated(func(h *Heat) { h.Recipe.Segments = nil }))
	at("the part may have", "heat.limits.maxPart", heated(func(h *Heat) { h.Limits.MaxPart = 380 }))
	at("longer than three days", "heat.recipe", heated(func(h *Heat) { h.Recipe.Segments[0].Hold = 4 * 24 * 3600 }))
	at("no pump draws", "heat.limits.minVacuum", heated(func(h *Heat) { h.Limits.MinVacuum = 85e3 }))
	deep.Vacuum = 70e3
	whole := Operation{Debulks: &deep, Closing: &tight, Heat: recipe(390)}
	assert.Empty(t, whole.SettingFaults(high))
	// What is wound or closed in a mould has no vacuum to lose.
	assert.Empty(t, Operation{Closing: &Closing{Stack: "tape"}}.SettingFaults(high))
}

func TestSettingsBelongToTheirKinds(t *testing.T) {
	d := sandwich(t, "sandwich, three cures")
	for k := range d.Route {
		d.Route[k].Heat = recipe(390)
	}
	faults := d.RouteFaults()
	require.Len(t, faults, len(d.Route)-3, "all but the three cures")
	assert.Contains(t, faults[0].Message, "only a cure or a post-cure or a debulk has settings of this kind")
	assert.Equal(t, "heat", faults[0].Field)
}

func TestAPlannerIsToldOfARunLongerThanPlanned(t *testing.T) {
	d := sandwich(t, route.OnePass)
	for k, o := range d.Route {
		if o.Kind == "cure" {
			d.Route[k].Heat = recipe(390)
			d.Route[k].SetUp, d.Route[k].Attended, d.Route[k].Unattended = 0, 0, 3600
		}
	}
	found := d.OperationFindings()
	require.Len(t, found, 1, "the ramp takes half an hour besides")
	assert.Contains(t, found[0].Message, "Cure: its recipe runs 1 h 32 without its waits, and 1 h are planned for it")
	for k := range d.Route {
		d.Route[k].Unattended = 5400
	}
	assert.Empty(t, d.OperationFindings())
	d.Route = append(d.Route, Operation{Key: "post", Kind: "post-cure", After: []string{"demould"}})
	require.Len(t, d.OperationFindings(), 1)
	assert.Equal(t, "no recipe", d.OperationFindings()[0].Rule)
}

func TestSettingsInWords(t *testing.T) {
	h := recipe(390)
	h.PressureMax, h.PressForce = 600e3, 250e3
	o := Operation{
		Debulks: &Debulks{First: true, Every: 4, Seconds: 900, Vacuum: 80e3},
		Closing: &Closing{Stack: "caul", LeakStart: 80e3, LeakDrop: 3e3, LeakSeconds: 300},
		Heat:    h,
	}
	said := o.Own()
	require.Len(t, said, 3)
	assert.Equal(t, "debulk after the first ply, then every 4 plies, for 15 min at 80 kPa or more",
		unit.InMetric(said[0]))
	assert.Equal(t, "closed with caul; from 80 kPa or more at most 3.0 kPa lost in 5 min", unit.InMetric(said[1]))
	assert.Equal(t, "run r: to 117 °C at 3.0 K/min, hold 1 h; pressure at most 600 kPa; the press closes with 250 kN",
		unit.InMetric(said[2]))
	assert.Contains(t, said[2], unit.Pressure(600e3, 0).String(), "a pressure for every reader, not a vacuum")
	assert.Equal(t, "to 180 °C at 1.5 K/min, until the coldest part sensor has 177 °C, "+
		"until the lagging part is cured to "+
		"40 %, "+
		"until its viscosity is 20 Pa s or less, until the viscosity of the leading part is 5 Pa s or more, "+
		"until the hottest part sensor has cooled to 200 °C, hold 1 h, "+
		"pressure 620 kPa as the part warms, vacuum 80 kPa, "+
		"bag vented at 100 kPa",
		unit.InMetric(cure.Segment{
			Target: 453.15, Rate: 0.025, WaitPart: 450.15, WaitCure: 0.4, WaitThin: 20, WaitThick: 5, WaitCool: 473.15,
			Hold:     3600,
			Pressure: 620e3, RampWithPart: true, Vacuum: 80e3, Vent: 100e3,
		}.InWords()))
	h.From, h.Equipment = &ReleasedRecipe{"r", 2}, "Oven 1"
	assert.Contains(t, unit.InMetric(h.InWords()), "run r, version 2 as released in Oven 1: to 117 °C")
	assert.Equal(t, "no debulk", Debulks{}.InWords())
	assert.Equal(t, "closed with tape, no leak check", Closing{Stack: "tape"}.InWords())
	assert.Empty(t, Operation{}.Own())
}

// What an injection records comes from its stage: the resin that went in against what the
// cavity takes.
func TestAnInjectionRecordsItsResin(t *testing.T) {
	d := Document{Format: Format, Outlines: []Outline{}, Stages: []Stage{
		{Key: "i", Name: "Sleeve", Kind: "injection", Cavity: 500e-6, Resin: 0.2, Items: []Item{}},
	}}
	w, known := route.FindTemplate("injected")
	require.True(t, known)
	d.Route = d.Made(w)
	k := slices.IndexFunc(d.Route, func(o Operation) bool { return o.Kind == "inject" })
	inject := &d.Route[k]
	names := []string{}
	for _, f := range inject.Fields {
		names = append(names, f.Name)
	}
	assert.Equal(t, []string{
		"resin mixed", "resin that went in", "max. pressure at the inlet", "from the first resin to the full vent",
	}, names)
	now := time.Date(2026, 4, 1, 9, 0, 0, 0, time.UTC)
	mixed := now.Add(-10 * time.Minute)
	values := map[string]Value{
		"mix": {Text: "R-7", At: &mixed}, "mass": {Number: number(188)}, "pressure": {Number: number(150)},
		"time": {Number: number(6)},
	}
	says := func() (out []string) {
		for _, v := range inject.Judge(values, now) {
			if v.Message != "" {
				out = append(out, unit.InMetric(v.Message))
			}
		}
		return out
	}
	require.Len(t, says(), 1)
	assert.Contains(t, says()[0], "resin that went in: 188 g is below the minimum, 190 g")
	values["mass"] = Value{Number: number(200)}
	assert.Empty(t, says())
	assert.Empty(t, d.OperationFindings())
	inject.Fields[1].Least = number(201)
	require.Len(t, d.OperationFindings(), 1)
	assert.Equal(t, "resin not weighed", d.OperationFindings()[0].Rule)
}

// A value that its gauge cannot show was misread, whatever the limits are.
func TestAGaugeShowsWhatItCan(t *testing.T) {
	o := Operation{Fields: []Field{{
		Key: "d", Name: "wall", Kind: "value", Unit: "mm", Most: number(2), From: number(0), To: number(25),
	}}}
	says := func(v float64) string {
		return unit.InMetric(o.Judge(map[string]Value{"d": {Number: &v}}, time.Now())[0].Message)
	}
	assert.Empty(t, says(1.9))
	assert.Contains(t, says(2.1), "is above the maximum")
	assert.Contains(t, says(31), "wall: its gauge cannot show 31 mm: read it again, and its unit")
	assert.Contains(t, says(-0.1), "its gauge cannot show")
	d := sandwich(t, route.OnePass)
	fault := func(f Field) string {
		f.Key, f.Name = "d", "wall"
		d.Route[0].Fields = []Field{f}
		faults := d.RouteFaults()
		require.Len(t, faults, 1)
		return faults[0].Message
	}
	assert.Contains(
		t,
		fault(Field{Kind: "value", Most: number(30), From: number(0), To: number(25)}),
		"cannot show what the limits ask for",
	)
	assert.Contains(
		t,
		fault(Field{Kind: "value", From: number(25), To: number(0)}),
		"more at its end than at its beginning",
	)
	assert.Contains(t, fault(Field{Kind: "text", To: number(25)}), "is no value")
}

func TestAPlaceThatTheShopDoesNotHave(t *testing.T) {
	d := sandwich(t, route.OnePass)
	d.Route[0].Place, d.Route[1].Place = "Bench 1 ", "bench 9"
	d.Route = append(d.Route, Operation{Key: "out", Kind: "outside", Place: "coater in the valley"})
	assert.Empty(t, d.PlaceFindings(nil))
	found := d.PlaceFindings([]string{"bench 1", "oven 1"})
	require.Len(t, found, 1)
	assert.Equal(t, d.Route[1].Key, found[0].Key)
	assert.Contains(t, found[0].Message, `the shop has no place "bench 9"; it has bench 1, oven 1`)
}
