package master

import (
	"math"

	"juxta/core/bag"
	"juxta/core/cure"
)

// Usual is how parts are made unless a planner says otherwise.
type Usual struct {
	Tool                              string
	Debulks                           Debulks
	Closing                           Closing
	Heat                              Heat
	MassTolerance, ThicknessTolerance float64 // shares, either way
}

// UsualProcess debulks the first ply and every fourth for 15 minutes, bags without bleed, checks for leaks over 5
// minutes, and cures by the resin supplier's cycle, with limits that a shop would hold it against (common practice, no
// source). At an altitude in m it asks for no more vacuum than nine tenths of the air there.
func UsualProcess(supplier cure.Recipe, altitude float64) Usual {
	vacuum := min(80e3, math.Floor(0.9*bag.Atmosphere(altitude)/1e3)*1e3)
	hottest := 0.0
	for _, s := range supplier.Segments {
		hottest = max(hottest, s.Target)
	}
	return Usual{
		Tool:    "flat tool",
		Debulks: Debulks{First: true, Every: 4, Seconds: 900, Vacuum: vacuum},
		Closing: Closing{Stack: "no bleed", LeakStart: vacuum, LeakDrop: 3e3, LeakSeconds: 300},
		Heat: Heat{
			Recipe: supplier,
			Limits: RunLimits{
				SoakBelow: 4, MaxPart: hottest + 8, MaxRamp: 3.0 / 60, MinVacuum: vacuum, MinCure: 0.9, MaxGap: 300,
			},
		},
		MassTolerance: 0.04, ThicknessTolerance: 0.06,
	}
}
