package calc

import (
	"math"

	"juxta/core/cutpath"
)

// Cutter is what a table with a knife and a pen does.
type Cutter struct {
	Feed         float64 `json:"feed" doc:"Knife or pen down, m/s" maximum:"10"`
	Rapid        float64 `json:"rapid" doc:"Lifted, m/s" maximum:"20"`
	Acceleration float64 `json:"acceleration" doc:"m/s²" maximum:"100"`
	Jump         float64 `json:"jump" doc:"By how much the velocity may change at once at a corner, m/s" maximum:"1"`
	Lift         float64 `json:"lift" doc:"s" maximum:"60"`
	Lower        float64 `json:"lower" doc:"s" maximum:"60"`
	TurnDeg      float64 `json:"turnDeg" doc:"Of the lifted knife, degrees/s" maximum:"36000"`
	ToolChange   float64 `json:"toolChange" doc:"From pen to knife, s" maximum:"600"`
	Table        float64 `json:"table" doc:"Its length, m: the cloth advances by it; 0: it is long enough" maximum:"100"`
	Advance      float64 `json:"advance" doc:"How long that takes, s" maximum:"3600"`
	CornerDeg    float64 `json:"cornerDeg" doc:"Sharper than this the knife is lifted and turned, degrees" maximum:"180"`
	LeadIn       float64 `json:"leadIn" doc:"How far before a line the knife comes down, m" maximum:"0.05"`
	Overcut      float64 `json:"overcut" doc:"How far it goes on beyond its end, m" maximum:"0.05"`
}

// FromCutter is the JSON form of a cutter.
func FromCutter(c cutpath.Cutter) Cutter {
	return Cutter{
		Feed: c.Feed, Rapid: c.Rapid, Acceleration: c.Acceleration, Jump: c.Jump, Lift: c.Lift, Lower: c.Lower,
		TurnDeg: c.Turn * 180 / math.Pi, ToolChange: c.ToolChange, Table: c.Table, Advance: c.Advance,
		CornerDeg: c.Corner * 180 / math.Pi, LeadIn: c.LeadIn, Overcut: c.Overcut,
	}
}

// Core is the cutter as the core's value.
func (c Cutter) Core() cutpath.Cutter {
	return cutpath.Cutter{
		Feed: c.Feed, Rapid: c.Rapid, Acceleration: c.Acceleration, Jump: c.Jump, Lift: c.Lift, Lower: c.Lower,
		Turn: c.TurnDeg * math.Pi / 180, ToolChange: c.ToolChange, Table: c.Table, Advance: c.Advance,
		Corner: c.CornerDeg * math.Pi / 180,
		LeadIn: c.LeadIn, Overcut: c.Overcut,
	}
}
