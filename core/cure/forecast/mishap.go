package forecast

import (
	"cmp"
	"fmt"
	"math"
	"slices"
)

// Disturbance is something that goes wrong during a cure.
type Disturbance struct {
	Kind string  `json:"kind" enum:"door open,heater lost,power cut,sensor off,vacuum lost,neighbour"`
	At   float64 `json:"at" doc:"s from the start" minimum:"0"`
	For  float64 `json:"for" doc:"s; a neighbour is there all the time" minimum:"0"`
	Size float64 `json:"size,omitempty" doc:"Share of the heat that is lost, or how many times as thick a neighbour is" minimum:"0" maximum:"5"`
}

// The kinds of mishap.
const (
	DoorOpen   = "door open"   // the air is the room's
	HeaterLost = "heater lost" // a share of the power is gone
	PowerCut   = "power cut"   // nothing heats, and the air is left to cool
	SensorOff  = "sensor off"  // the lagging sensor has fallen off and reads the air
	VacuumLost = "vacuum lost" // the bag is at the pressure of the air outside
	Neighbour  = "neighbour"   // a part like the thickest of the load, and thicker, lies beside it all the time
)

func (m Disturbance) check() error {
	switch m.Kind {
	case Neighbour:
		if !(m.Size >= 1 && m.Size <= 5) {
			return fmt.Errorf("%s: enter how many times as thick it is, from 1 to 5", m.Kind)
		}
		return nil
	case DoorOpen, HeaterLost, PowerCut, SensorOff, VacuumLost:
	default:
		return fmt.Errorf("%q is no known disturbance", m.Kind)
	}
	if !(m.At >= 0) || !(m.For > 0) || math.IsInf(m.At+m.For, 0) ||
		m.Kind == HeaterLost && !(m.Size > 0 && m.Size <= 1) {
		return fmt.Errorf("%s: say when, for how long, and how much of the heat is lost", m.Kind)
	}
	return nil
}

// during says whether a mishap of a kind lasts at a time, and how large it is.
func (j *Job) during(kind string, t float64) (size float64, lasts bool) {
	for _, m := range j.Mishaps {
		if m.Kind == kind && t >= m.At && t < m.At+m.For {
			return m.Size, true
		}
	}
	return 0, false
}

// change is the next time after t at which a mishap begins or ends, s.
func (j *Job) change(t float64) float64 {
	next := math.Inf(1)
	for _, m := range j.Mishaps {
		for _, at := range []float64{m.At, m.At + m.For} {
			if at > t+1e-6 {
				next = math.Min(next, at)
			}
		}
	}
	return next
}

// crowded is the job with the neighbours that mishaps put beside it.
func (j Job) crowded() Job {
	thick := func(s Section) (sum float64) {
		for _, l := range s.Layers {
			if l.Reaction != nil {
				sum += l.Thickness
			}
		}
		return sum
	}
	for _, m := range j.Mishaps {
		if m.Kind != Neighbour {
			continue
		}
		like := slices.MaxFunc(j.Sections, func(a, b Section) int { return cmp.Compare(thick(a), thick(b)) })
		like.Layers = slices.Clone(like.Layers)
		for k := range like.Layers {
			if like.Layers[k].Reaction != nil {
				like.Layers[k].Thickness *= m.Size
			}
		}
		like.Count, like.Name, like.Part = 1, fmt.Sprintf("neighbour, %g times as thick", m.Size), "neighbour"
		j.Sections = append(slices.Clone(j.Sections), like)
	}
	return j
}
