package material

import (
	"errors"
	"math"
	"time"
)

// RollGeometry is a roll as a body that warms: a long cylinder wound on a core tube,
// with heat coming in through its outside only. The ends, which warm it
// faster, are left out: the prediction errs towards waiting.
type RollGeometry struct {
	Core, Outer  float64 // radii of the core tube and of the roll, m
	Conductivity float64 // across the layers, W/(m K)
	Density      float64 // kg/m³
	SpecificHeat float64 // J/(kg K)
	Film         float64 // heat transfer from the room, W/(m² K)
}

// Thermal data of a wound prepreg roll in its bag in still air, where the data
// sheet gives none (common practice, no source).
const (
	usualConductivity = 0.5
	usualSpecificHeat = 1100
	usualFilm         = 8
)

// Roll is a roll of length m as wound: layers of this thickness with their
// backing, of areal mass in kg/m², on a core tube of radius core in m.
func Roll(length, thickness, arealMass, core float64) RollGeometry {
	return RollGeometry{
		Core:         core,
		Outer:        math.Sqrt(core*core + max(length, 0)*thickness/math.Pi),
		Conductivity: usualConductivity,
		Density:      arealMass / thickness,
		SpecificHeat: usualSpecificHeat,
		Film:         usualFilm,
	}
}

func (w RollGeometry) check() error {
	for _, v := range []float64{w.Outer - w.Core, w.Conductivity, w.Density, w.SpecificHeat, w.Film} {
		if !(v > 0) || math.IsInf(v, 0) {
			return errors.New("a roll needs some thickness, and thermal data above zero")
		}
	}
	if w.Core < 0 {
		return errors.New("the radius of the core tube must not be below zero")
	}
	return nil
}

// Biot is the Biot number with the length of volume over warmed surface.
func (w RollGeometry) Biot() float64 { return w.Film * w.depth() / w.Conductivity }

func (w RollGeometry) depth() float64 { return (w.Outer*w.Outer - w.Core*w.Core) / (2 * w.Outer) }

// Warmed is how far the coldest place, at the core, has come after a time of
// t: 0 is frozen, 1 is the room.
func (w RollGeometry) Warmed(t time.Duration) (float64, error) {
	if err := w.check(); err != nil {
		return 0, err
	}
	at := 0.0
	err := w.warm(func(s, cold float64) bool {
		at = cold
		return s >= t.Seconds()
	}, t.Seconds())
	return at, err
}

// Thaw is the time until the coldest place of a roll that was taken out at
// frozen into air at room has come to until, all in K. It is 0 if it is there
// already, and an error if the room never gets it there.
func (w RollGeometry) Thaw(frozen, room, until float64) (time.Duration, error) {
	if err := w.check(); err != nil {
		return 0, err
	}
	if until <= frozen {
		return 0, nil
	}
	if !(until < room) {
		return 0, errors.New("the room is no warmer than what the roll has to reach")
	}
	want := (until - frozen) / (room - frozen)
	reached, lastS, lastC := 0.0, 0.0, 0.0
	err := w.warm(func(s, cold float64) bool {
		if cold >= want {
			reached = lastS + (s-lastS)*(want-lastC)/(cold-lastC)
			return true
		}
		lastS, lastC = s, cold
		return false
	}, 0)
	return time.Duration(reached * float64(time.Second)), err
}

// cells and fineness keep the result within 0.3 % of the series solution of
// Carslaw & Jaeger over Bi from 0.1 to 20 (thaw_test.go).
const (
	cells    = 60
	fineness = 2500
)

// warm steps the roll's temperature, as a share of the way from frozen to room,
// and tells see the time in s and the coldest place until it says enough. With
// exactly > 0 the steps end on that time.
//
// Thin rolls (Bi < 0.1) are one lump: 1-exp(-t/τ). Others: conduction in r by
// finite volumes, insulated at the core, convective outside, Crank–Nicolson.
func (w RollGeometry) warm(see func(s, cold float64) bool, exactly float64) error {
	const most = 400000 // steps, far beyond any thaw
	tau := w.Density * w.SpecificHeat * w.depth() / w.Film
	if w.Biot() < 0.1 {
		step := tau / 200
		if exactly > 0 {
			step = exactly / 200
		}
		for k := 1; k < most; k++ {
			if s := float64(k) * step; see(s, 1-math.Exp(-s/tau)) {
				return nil
			}
		}
		return errors.New("the roll takes too long to warm to be calculated")
	}
	dr := (w.Outer - w.Core) / cells
	heat, pass := make([]float64, cells), make([]float64, cells+1) // per radian and metre
	for i := range cells {
		r0 := w.Core + float64(i)*dr
		heat[i] = w.Density * w.SpecificHeat * ((r0+dr)*(r0+dr) - r0*r0) / 2
		if i > 0 {
			pass[i] = w.Conductivity * r0 / dr
		}
	}
	// Half a cell and the film, in a row.
	pass[cells] = w.Outer / (dr/2/w.Conductivity + 1/w.Film)
	slow := tau + w.Density*w.SpecificHeat*math.Pow(w.Outer-w.Core, 2)/w.Conductivity/4
	step := slow / fineness
	if exactly > 0 {
		step = exactly / math.Ceil(exactly/step)
	}
	t, next := make([]float64, cells), make([]float64, cells)
	c, d := make([]float64, cells), make([]float64, cells)
	for k := 1; k < most; k++ {
		// (C/dt + K/2) next = (C/dt - K/2) t + air, a tridiagonal system.
		for i := range cells {
			below, above := pass[i]/2, pass[i+1]/2
			left, right, air := 0.0, 0.0, 0.0
			if i > 0 {
				left = t[i-1]
			}
			if i < cells-1 {
				right = t[i+1]
			} else {
				air = 2 * above // the room is 1, now and then
			}
			rhs := heat[i]/step*t[i] + below*(left-t[i]) - above*t[i] + air
			if i < cells-1 {
				rhs += above * right
			}
			diag := heat[i]/step + below + above
			under, over := -below, -above
			if i == cells-1 {
				over = 0
			}
			if i == 0 {
				c[0], d[0] = over/diag, rhs/diag
				continue
			}
			m := diag - under*c[i-1]
			c[i], d[i] = over/m, (rhs-under*d[i-1])/m
		}
		next[cells-1] = d[cells-1]
		for i := cells - 2; i >= 0; i-- {
			next[i] = d[i] - c[i]*next[i+1]
		}
		t, next = next, t
		if see(float64(k)*step, min(1, max(0, t[0]))) {
			return nil
		}
	}
	return errors.New("the roll takes too long to warm to be calculated")
}

// Flat is a sheet of this thickness and areal mass that lies flat and warms
// from its upper face only.
func Flat(thickness, arealMass float64) RollGeometry {
	// A solid cylinder of radius 2t has the volume over surface of the sheet.
	return RollGeometry{
		Outer:        2 * thickness,
		Conductivity: usualConductivity,
		Density:      arealMass / thickness,
		SpecificHeat: usualSpecificHeat,
		Film:         usualFilm,
	}
}
