package forecast

import "math"

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

// With is the tighter of each of two sets of limits, for what is cured together: nothing of either is given up.
func (l Limits) With(o Limits) Limits {
	least := func(a, b float64) float64 {
		if a == 0 || b == 0 {
			return math.Max(a, b)
		}
		return math.Min(a, b)
	}
	for _, most := range [][2]*float64{
		{&l.MaxPart, &o.MaxPart}, {&l.MaxOvershoot, &o.MaxOvershoot}, {&l.MaxSpread, &o.MaxSpread}, {&l.MaxRamp, &o.MaxRamp},
		{&l.MaxPressure, &o.MaxPressure}, {&l.EdgePressure, &o.EdgePressure}, {&l.Thin, &o.Thin}, {&l.OpenBelow, &o.OpenBelow},
	} {
		*most[0] = least(*most[0], *most[1])
	}
	l.MinCure, l.MinGlass = math.Max(l.MinCure, o.MinCure), math.Max(l.MinGlass, o.MinGlass)
	l.Humidity, l.Bladder = math.Max(l.Humidity, o.Humidity), math.Max(l.Bladder, o.Bladder)
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
