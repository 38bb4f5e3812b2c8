package forecast

import (
	"fmt"
	"math"
	"slices"
	"strconv"

	"juxta/core/unit"
)

// CureLimits are what a cure is held against; what is 0 is not asked for.
type CureLimits struct {
	MaxPart      float64 `json:"maxPart,omitempty" doc:"Hottest that the part may get, K" minimum:"0"`
	MaxOvershoot float64 `json:"maxOvershoot,omitempty" doc:"Above the highest set point so far, K" minimum:"0"`
	MaxSpread    float64 `json:"maxSpread,omitempty" doc:"Between hottest and coldest place of a section, K" minimum:"0"`
	MaxRamp      float64 `json:"maxRamp,omitempty" doc:"Steepest heating of the part, K/s over 5 min" minimum:"0"`
	MinCure      float64 `json:"minCure,omitempty" doc:"Degree of cure at the end, everywhere" minimum:"0" maximum:"1"`
	MinGlass     float64 `json:"minGlass,omitempty" doc:"Glass transition at the end, everywhere, K" minimum:"0"`
	MaxPressure  float64 `json:"maxPressure,omitempty" doc:"That a core bears, Pa" minimum:"0"`
	Thin         float64 `json:"thin,omitempty" doc:"Viscosity at or below which pressure is to be on, Pa s" minimum:"0"`
	Humidity     float64 `json:"humidity,omitempty" doc:"Of the room that it was laid in, 0 to 1" minimum:"0" maximum:"1"`
	OpenBelow    float64 `json:"openBelow,omitempty" doc:"Part temperature for opening, K" minimum:"0"`
	Free         bool    `json:"free,omitempty" doc:"It stands free: its glass transition must stay ahead of it"`
	EdgePressure float64 `json:"edgePressure,omitempty" doc:"That a core bears near edges without pads, Pa" minimum:"0"`
	Bladder      float64 `json:"bladder,omitempty" doc:"Area over which a bladder presses its mould open, m²" minimum:"0" maximum:"100"`
	PartGrows    float64 `json:"partGrows,omitempty" doc:"Expansion of the part along its length, 1/K" minimum:"-0.001" maximum:"0.001"`
	ToolGrows    float64 `json:"toolGrows,omitempty" doc:"And of its tool, 1/K" minimum:"-0.001" maximum:"0.001"`
	Length       float64 `json:"length,omitempty" doc:"Over which they differ, m" minimum:"0" maximum:"100"`
	MaxApart     float64 `json:"maxApart,omitempty" doc:"By which tool and part may differ in length once cool, m" minimum:"0" maximum:"1"`
}

// asked is a limit in words: what it asks, in which way, and where it stands.
type asked struct {
	says    string
	kind    unit.Kind // empty: a plain number, times by
	by      float64
	digits  int
	atLeast bool // the larger is the tighter
	of      func(*CureLimits) *float64
}

var asks = []asked{
	{"hottest", unit.KindTemperature, 1, 0, false, func(l *CureLimits) *float64 { return &l.MaxPart }},
	{"overshoot", unit.KindRise, 1, 1, false, func(l *CureLimits) *float64 { return &l.MaxOvershoot }},
	{"spread through the thickness", unit.KindRise, 1, 1, false, func(l *CureLimits) *float64 { return &l.MaxSpread }},
	{"heating in a minute", unit.KindRise, 60, 1, false, func(l *CureLimits) *float64 { return &l.MaxRamp }},
	{"degree of cure, %", "", 100, 1, true, func(l *CureLimits) *float64 { return &l.MinCure }},
	{"glass transition", unit.KindTemperature, 1, 0, true, func(l *CureLimits) *float64 { return &l.MinGlass }},
	{"pressure on the core", unit.KindPressure, 1, 0, false, func(l *CureLimits) *float64 { return &l.MaxPressure }},
	{
		"pressure near edges without pads",
		unit.KindPressure,
		1,
		0,
		false,
		func(l *CureLimits) *float64 { return &l.EdgePressure },
	},
	{"flow limit (viscosity), Pa s", "", 1, 1, false, func(l *CureLimits) *float64 { return &l.Thin }},
	{"humidity of the room, %", "", 100, 0, true, func(l *CureLimits) *float64 { return &l.Humidity }},
	{"opened below", unit.KindTemperature, 1, 0, false, func(l *CureLimits) *float64 { return &l.OpenBelow }},
	{"area of the bladder", unit.KindArea, 1, 3, true, func(l *CureLimits) *float64 { return &l.Bladder }},
}

// apart are those that say together by how much tool and part may differ.
var apart = []asked{
	{"expansion of the part, 1e-6/K", "", 1e6, 1, false, func(l *CureLimits) *float64 { return &l.PartGrows }},
	{"expansion of the tool, 1e-6/K", "", 1e6, 1, false, func(l *CureLimits) *float64 { return &l.ToolGrows }},
	{"length over which they differ", unit.KindRun, 1, 2, false, func(l *CureLimits) *float64 { return &l.Length }},
	{"apart once cool", unit.KindSize, 1, 2, false, func(l *CureLimits) *float64 { return &l.MaxApart }},
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
func (l CureLimits) Difference(was CureLimits) (out []string) {
	for _, a := range slices.Concat(asks, apart) {
		if is, before := *a.of(&l), *a.of(&was); is != before {
			out = append(out, fmt.Sprintf("%s: %s, was %s", a.says, a.told(is), a.told(before)))
		}
	}
	switch {
	case l.Free && !was.Free:
		out = append(out, "free-standing now: its glass transition must stay ahead")
	case was.Free && !l.Free:
		out = append(out, "no longer free-standing")
	}
	return out
}

// With is the tighter of each of two sets of limits, for what is cured together: nothing of either is given up.
func (l CureLimits) With(o CureLimits) CureLimits {
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
func (l CureLimits) strain() float64 {
	if l.MaxApart == 0 {
		return 0
	}
	return math.Abs(l.ToolGrows-l.PartGrows) * l.Length / l.MaxApart
}
