package forecast

import (
	"fmt"
	"math"
	"slices"
	"strconv"

	"juxta/core/unit"
)

// Limits are what a cure is held against; what is 0 is not asked for.
type Limits struct {
	MaxPart      float64 // hottest that the part may get, K
	MaxOvershoot float64 // above the highest set point, K
	MaxSpread    float64 // between the hottest and the coldest place of a section, K
	MaxRamp      float64 // steepest heating of the part, K/s over 5 min
	MinCure      float64 // degree of cure at the end, everywhere
	MinGlass     float64 // glass transition at the end, everywhere, K
	MaxPressure  float64 // that the core bears, Pa
	Thin         float64 // viscosity at or below which pressure is to be on, Pa s
	Humidity     float64 // of the room that it was laid in, 0 to 1
	OpenBelow    float64 // part temperature for opening, K
	Free         bool    // it stands free: its glass transition must stay ahead of it
	EdgePressure float64 // that the core bears near edges without pads, Pa
	Bladder      float64 // area over which a bladder presses its mould open, m²
	PartGrows    float64 // expansion of the part along its length, 1/K
	ToolGrows    float64 // and of its tool
	Length       float64 // over which they differ, m
	MaxApart     float64 // by which tool and part may differ in length once it is cool, m
}

// asked is a limit in words: what it asks, in which way, and where it stands.
type asked struct {
	says    string
	kind    unit.Kind // empty: a plain number, times by
	by      float64
	digits  int
	atLeast bool // the larger is the tighter
	of      func(*Limits) *float64
}

var asks = []asked{
	{"hottest", unit.KindTemperature, 1, 0, false, func(l *Limits) *float64 { return &l.MaxPart }},
	{"overshoot", unit.KindRise, 1, 1, false, func(l *Limits) *float64 { return &l.MaxOvershoot }},
	{"spread through the thickness", unit.KindRise, 1, 1, false, func(l *Limits) *float64 { return &l.MaxSpread }},
	{"heating in a minute", unit.KindRise, 60, 1, false, func(l *Limits) *float64 { return &l.MaxRamp }},
	{"degree of cure, %", "", 100, 1, true, func(l *Limits) *float64 { return &l.MinCure }},
	{"glass transition", unit.KindTemperature, 1, 0, true, func(l *Limits) *float64 { return &l.MinGlass }},
	{"pressure on the core", unit.KindPressure, 1, 0, false, func(l *Limits) *float64 { return &l.MaxPressure }},
	{"pressure near edges without pads", unit.KindPressure, 1, 0, false, func(l *Limits) *float64 { return &l.EdgePressure }},
	{"viscosity below which it flows, Pa s", "", 1, 1, false, func(l *Limits) *float64 { return &l.Thin }},
	{"humidity of the room, %", "", 100, 0, true, func(l *Limits) *float64 { return &l.Humidity }},
	{"opened below", unit.KindTemperature, 1, 0, false, func(l *Limits) *float64 { return &l.OpenBelow }},
	{"area of the bladder", unit.KindArea, 1, 3, true, func(l *Limits) *float64 { return &l.Bladder }},
}

// apart are those that say together by how much tool and part may differ.
var apart = []asked{
	{"expansion of the part, 1e-6/K", "", 1e6, 1, false, func(l *Limits) *float64 { return &l.PartGrows }},
	{"expansion of the tool, 1e-6/K", "", 1e6, 1, false, func(l *Limits) *float64 { return &l.ToolGrows }},
	{"length over which they differ", unit.KindRun, 1, 2, false, func(l *Limits) *float64 { return &l.Length }},
	{"apart once cool", unit.KindSize, 1, 2, false, func(l *Limits) *float64 { return &l.MaxApart }},
}

// told is a limit's value for a reader; 0 is none.
func (a asked) told(v float64) string {
	switch {
	case v == 0:
		return "none"
	case a.kind == "":
		return strconv.FormatFloat(v*a.by, 'f', a.digits, 64)
	}
	return unit.Quantity{Kind: a.kind, SI: v * a.by, Digits: a.digits}.String()
}

// Difference says each limit that is not what it was, a sentence each.
func (l Limits) Difference(was Limits) (out []string) {
	for _, a := range slices.Concat(asks, apart) {
		if is, before := *a.of(&l), *a.of(&was); is != before {
			out = append(out, fmt.Sprintf("%s: %s, was %s", a.says, a.told(is), a.told(before)))
		}
	}
	switch {
	case l.Free && !was.Free:
		out = append(out, "it stands free now: its glass transition is to stay ahead")
	case was.Free && !l.Free:
		out = append(out, "it no longer stands free")
	}
	return out
}

// With is the tighter of each of two sets of limits, for what is cured together: nothing of either is given up.
func (l Limits) With(o Limits) Limits {
	for _, a := range asks {
		mine, other := a.of(&l), *a.of(&o)
		if *mine == 0 || other != 0 && (other > *mine) == a.atLeast {
			*mine = other
		}
	}
	l.Free = l.Free || o.Free
	// Tool and part go by the pair that parts most for what is allowed.
	if o.strain() > l.strain() {
		l.PartGrows, l.ToolGrows, l.Length, l.MaxApart = o.PartGrows, o.ToolGrows, o.Length, o.MaxApart
	}
	return l
}

// strain is by how much tool and part differ per kelvin, as a share of what is allowed, 1/K; 0: nobody asks.
func (l Limits) strain() float64 {
	if l.MaxApart == 0 {
		return 0
	}
	return math.Abs(l.ToolGrows-l.PartGrows) * l.Length / l.MaxApart
}
