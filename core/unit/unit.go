package unit

import "math"

// ZeroCelsius is 0 °C in kelvin (exact by definition of the Celsius scale).
const ZeroCelsius = 273.15

// GasConstant R in J/(mol K): CODATA 2018, exact since the 2019 SI.
const GasConstant = 8.31446261815324

// Room is the warmth of a shop, K: what out-lives are stated for, at which out-time is spent, and at which a part is
// measured after its cure (common practice, no source).
const Room = 294.15

// Rad turns degrees into radians.
func Rad(deg float64) float64 { return deg * math.Pi / 180 }

// Deg turns radians into degrees.
func Deg(rad float64) float64 { return rad * 180 / math.Pi }

// Kelvin turns degrees Celsius into kelvin.
func Kelvin(celsius float64) float64 { return celsius + ZeroCelsius }

// Celsius turns kelvin into degrees Celsius.
func Celsius(kelvin float64) float64 { return kelvin - ZeroCelsius }

// Fibre folds the angle of a fibre in degrees and turns it into radians.
func Fibre(deg float64) float64 { return Rad(FoldAngle(deg)) }

// RoundLength is a length in m to the tenth of a micrometre: finer than any knife, and short to write.
func RoundLength(metres float64) float64 { return math.Round(metres*1e7) / 1e7 }

// FoldAngle brings a fibre angle in degrees into (-90, 90]: a fibre has no
// front end, so 135° and -45° are the same direction.
func FoldAngle(deg float64) float64 {
	if deg > -90 && deg <= 90 {
		return deg // mostly, and at every ply of every zone
	}
	a := math.Mod(deg, 180)
	if a > 90 {
		a -= 180
	}
	if a <= -90 {
		a += 180
	}
	return a
}
