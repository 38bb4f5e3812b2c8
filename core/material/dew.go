package material

import (
	"errors"
	"fmt"
	"math"

	"juxta/core/unit"
)

// DewPoint is the temperature in K below which water condenses from air of
// temperature t in K and relative humidity rh from 0 to 1: the Magnus form
// with the coefficients of Alduchov & Eskridge 1996 (eq. 25, "AERK"), good to
// 0.4 % of the vapour pressure from -40 °C to 50 °C.
func DewPoint(t, rh float64) (float64, error) {
	c := unit.Celsius(t)
	if math.IsNaN(c) || c < -40 || c > 50 {
		return 0, fmt.Errorf(
			"the dew point is known for air from %s to %s",
			unit.Temperature(unit.Kelvin(-40), 0),
			unit.Temperature(unit.Kelvin(50), 0),
		)
	}
	if math.IsNaN(rh) || rh <= 0 || rh > 1 {
		return 0, errors.New("the relative humidity lies above 0 % and up to 100 %")
	}
	const a, b = 17.625, 243.04
	g := math.Log(rh) + a*c/(b+c)
	return unit.Kelvin(b * g / (a - g)), nil
}

// Bag is a roll in its bag that somebody wants to open, and the air about it; nil
// is what nobody knows. Temperatures in K, Humidity from 0 to 1.
type Bag struct {
	Roll           string
	Room, Humidity *float64
	Coldest        *float64 // place of the roll
}

// Refusal says why the bag should stay shut, empty where it may be opened, with
// the dew point of the room where that is known; err is about the air as entered.
func (b Bag) Refusal() (says string, dew *float64, err error) {
	if b.Room == nil || b.Humidity == nil {
		return "the temperature and humidity of the room are not known: enter them from a gauge", nil, nil
	}
	point, err := DewPoint(*b.Room, *b.Humidity)
	if err != nil {
		return "", nil, err
	}
	switch {
	case b.Coldest == nil:
		says = "the temperature of the roll is not known: measure it at its core tube and enter it"
	case *b.Coldest <= point:
		says = fmt.Sprintf("%s is at %s inside and the dew point of the room is %s: water would condense on it",
			b.Roll, unit.Temperature(*b.Coldest, 1), unit.Temperature(point, 1))
	}
	return says, &point, nil
}

// Reading is a logged temperature: T in K at so many seconds.
type Reading struct{ At, T float64 }

// Equivalent is the time in s at the reference temperature ref in K that ages
// material as much as its logged temperatures did: ∫exp(-E/R(1/T-1/ref))dt
// with activation energy e in J/mol, straight lines between readings. It is 0
// for fewer than two readings.
func Equivalent(log []Reading, e, ref float64) float64 {
	rate := func(t float64) float64 { return math.Exp(-e / unit.GasConstant * (1/t - 1/ref)) }
	age := 0.0
	for i := 1; i < len(log); i++ {
		a, b := log[i-1], log[i]
		// Simpson's rule on pieces of at most 2 K: its error is far below
		// that of any sensor.
		n := 2 * (1 + int(math.Abs(b.T-a.T)/2))
		h := (b.At - a.At) / float64(n)
		sum := rate(a.T) + rate(b.T)
		for k := 1; k < n; k++ {
			w := 2.0
			if k%2 == 1 {
				w = 4
			}
			sum += w * rate(a.T+(b.T-a.T)*float64(k)/float64(n))
		}
		age += sum * h / 3
	}
	return age
}
