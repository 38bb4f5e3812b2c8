package material

import "time"

// Limits of the watch over sensors (common practice, no source).
const (
	// Grace is how long a freezer may read above its limit before it is an
	// alarm: a door that stands open for a roll, or one spike, is none.
	Grace = 10 * time.Minute
	// Silence is how long a sensor may say nothing.
	Silence = 15 * time.Minute
)

// SensorReading is what a sensor said at a time; T in K.
type SensorReading struct {
	At time.Time
	T  float64
}

// TooWarm looks at a freezer's readings of the last while, in the order of
// their times, and says since when it has been above its limit without a break
// for at least Grace, with the warmest reading of that time. A single reading
// below the limit breaks it, and so does a silence.
func TooWarm(log []SensorReading, limit float64) (since time.Time, worst float64, alarm bool) {
	var first, last time.Time
	for _, r := range log {
		if r.T <= limit {
			first, worst = time.Time{}, 0
			continue
		}
		if first.IsZero() || r.At.Sub(last) > Silence {
			first, worst = r.At, 0
		}
		last, worst = r.At, max(worst, r.T)
	}
	if first.IsZero() || last.Sub(first) < Grace {
		return time.Time{}, 0, false
	}
	return first, worst, true
}
