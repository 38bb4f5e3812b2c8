package sim

import (
	"math"
	"math/rand/v2"
	"time"
)

// Climate is the air of a clean room over the day, in °C and % of relative
// humidity. The numbers are invented for the demo shop.
type Climate struct {
	rng  *rand.Rand
	t, h float64 // slow wander
}

// NewClimate is a clean room; the same seed gives the same noise.
func NewClimate(seed uint64) *Climate { return &Climate{rng: rand.New(rand.NewPCG(seed, 13))} }

// Step is what a logger reads at a time.
func (c *Climate) Step(at time.Time) (temperature, humidity float64) {
	c.t += -0.05*c.t + 0.08*c.rng.NormFloat64()
	c.h += -0.05*c.h + 0.5*c.rng.NormFloat64()
	day := 2 * math.Pi * (float64(at.Hour()) + float64(at.Minute())/60 - 15) / 24
	return 21.2 + 0.7*math.Cos(day) + c.t, 45 - 3*math.Cos(day) + c.h
}

// Freezer is the air in a freezer, in °C: a compressor that goes on and off
// about its set point, and a door.
type Freezer struct {
	rng      *rand.Rand
	air, set float64
	cooling  bool
}

// NewFreezer is a cold freezer; the same seed gives the same noise.
func NewFreezer(set float64, seed uint64) *Freezer {
	return &Freezer{rng: rand.New(rand.NewPCG(seed, 17)), air: set, set: set}
}

// Step moves the freezer on and gives what a logger reads. With the door open,
// or the compressor dead, it warms towards the room.
func (f *Freezer) Step(dt time.Duration, open bool) float64 {
	for s := dt.Seconds(); s > 0; s -= 10 {
		h := math.Min(s, 10)
		switch {
		case open:
			f.air += (21 - f.air) * h / 7200
			continue
		case f.air > f.set+1.2:
			f.cooling = true
		case f.air < f.set-1.2:
			f.cooling = false
		}
		f.air += (21 - f.air) * h / 90000
		if f.cooling {
			f.air += (f.set - 14 - f.air) * h / 2400
		}
	}
	return f.air + 0.08*f.rng.NormFloat64()
}
