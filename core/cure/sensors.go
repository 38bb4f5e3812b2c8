package cure

import (
	"fmt"
	"math"
	"slices"

	"juxta/core/unit"
)

// provenBy is a check of the most that may be read: a sensor that was silent may have missed it.
func (c RunCheck) provenBy(by ...sensor) RunCheck {
	for _, s := range by {
		if silent := s.silent(); c.Met && silent != "" {
			c.Met, c.NotProven = false, silent
		}
	}
	return c
}

// sensor is a part sensor or a gauge with its readings that count, over a time in which it ought to read; a
// silence of more than most, s, proves nothing. 0: silence is not judged.
type sensor struct {
	name     string
	readings []Point // of a gauge: Pa
	from, to float64
	most     float64
}

// silence is the longest time without a reading and when it began, also before the first and after the last.
func (s sensor) silence() (longest, at float64) {
	last := s.from
	for _, p := range append(slices.Clone(s.readings), Point{T: s.to}) {
		if d := p.T - last; d > longest {
			longest, at = d, last
		}
		last = p.T
	}
	return longest, at
}

// silent is the sentence of a silence that is too long; empty: there is none.
func (s sensor) silent() string {
	longest, at := s.silence()
	switch {
	case s.most <= 0 || longest <= s.most:
		return ""
	case len(s.readings) == 0:
		return s.name + " gave no reading"
	}
	return fmt.Sprintf("%s was silent for %.0f min from minute %.0f on", s.name, longest/60, at/60)
}

const silenceCheck = "longest silence of a sensor"

// longestSilence judges all sensors that the limits need by the one that was silent longest.
func longestSilence(needed []sensor, most float64) RunCheck {
	c := RunCheck{What: silenceCheck, Limit: most, Unit: "s"}
	name := ""
	for _, s := range needed {
		if longest, at := s.silence(); longest > c.Found || name == "" {
			c.Found, c.At, name = longest, at, s.name
		}
	}
	c.Met = c.Found <= most
	c.Message = fmt.Sprintf("%s: %.0f s, at most %.0f s", name, c.Found, most)
	return c
}

// gauged are the readings of a gauge.
func gauged(log []Sample, read func(Sample) float64) (out []Point) {
	for _, s := range log {
		if p := read(s); !math.IsNaN(p) {
			out = append(out, Point{s.T, p})
		}
	}
	return out
}

// vacuum judges the least reading of the vacuum gauge.
func vacuum(gauge sensor, limit float64) RunCheck {
	c := RunCheck{What: "least vacuum", Limit: limit, Unit: "Pa", AtLeast: true}
	if len(gauge.readings) == 0 {
		c.Message = gauge.name + " gave no reading"
		c.NotProven = c.Message
		return c
	}
	c.Found = math.Inf(1)
	for _, p := range gauge.readings {
		if p.Temperature < c.Found {
			c.Found, c.At = p.Temperature, p.T
		}
	}
	c.Met = c.Found >= limit
	c.Message = fmt.Sprintf("%s, at least %s", unit.Vacuum(c.Found, 1), unit.Vacuum(limit, 1))
	return c.provenBy(gauge)
}

// clean keeps the readings of one sensor that can be true.
func clean(log []Sample, read func(Sample) float64) []Point {
	var all []Point
	for _, s := range log {
		if t := read(s); t > 223 && t < 873 {
			all = append(all, Point{s.T, t})
		}
	}
	var out []Point
	for i, p := range all {
		if i > 0 && i+1 < len(all) {
			a, b := p.Temperature-all[i-1].Temperature, p.Temperature-all[i+1].Temperature
			if math.Abs(a) > 30 && math.Abs(b) > 30 && a*b > 0 {
				continue
			}
		}
		out = append(out, p)
	}
	return out
}

// pressure judges the highest reading of the pressure gauge.
func pressure(gauge sensor, limit float64) RunCheck {
	c := RunCheck{What: "highest pressure", Limit: limit, Unit: "Pa"}
	if len(gauge.readings) == 0 {
		c.Message = gauge.name + " gave no reading"
		c.NotProven = c.Message
		return c
	}
	for _, p := range gauge.readings {
		if p.Temperature > c.Found {
			c.Found, c.At = p.Temperature, p.T
		}
	}
	c.Met = c.Found <= limit
	c.Message = fmt.Sprintf("%s, at most %s", unit.Pressure(c.Found, 0), unit.Pressure(limit, 0))
	return c.provenBy(gauge)
}
