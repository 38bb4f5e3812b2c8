package curve

import (
	"errors"
	"fmt"
	"slices"
	"strings"

	"juxta/core/cure"
	"juxta/core/unit"
	"juxta/format/number"
	"juxta/format/sheet"
)

// units are what makes SI of a column's figures, by its unit's name; pressures by the international definition of the
// pound and the inch (NIST SP 811).
var units = map[string]struct {
	of        string
	per, zero float64
}{
	"s": {"time", 1, 0}, "min": {"time", 60, 0}, "h": {"time", 3600, 0},
	"k": {"temperature", 1, 0}, "°c": {"temperature", 1, unit.ZeroCelsius}, "c": {"temperature", 1, unit.ZeroCelsius},
	"°f": {
		"temperature",
		5.0 / 9,
		unit.ZeroCelsius - 32*5.0/9,
	}, "f": {"temperature", 5.0 / 9, unit.ZeroCelsius - 32*5.0/9},
	"pa": {"pressure", 1, 0}, "kpa": {"pressure", 1e3, 0}, "mpa": {"pressure", 1e6, 0}, "bar": {"pressure", 1e5, 0},
	"psi": {"pressure", 6894.757, 0},
}

// mostFaults is how many faults are named.
const mostFaults = 20

// Read reads a whole table. The faults name their rows; there is a curve only if there are no faults.
func Read(raw []byte) (out []cure.CurvePoint, faults []string) {
	rows, err := sheet.Read(raw)
	if err != nil {
		return nil, []string{err.Error()}
	}
	if len(rows) < 2 {
		return nil, []string{"the table has a header row and two points at least"}
	}
	columns := map[string]int{}
	kind := make([]string, len(rows[0]))
	for i, h := range rows[0] {
		words := strings.FieldsFunc(
			strings.ToLower(h),
			func(r rune) bool { return strings.ContainsRune(" ,()[]/\t", r) },
		)
		if len(words) == 0 {
			continue
		}
		name := words[len(words)-1]
		u, known := units[name]
		if !known || slices.Contains(words, "vacuum") {
			continue
		}
		kind[i] = name
		_, twice := columns[u.of]
		if !twice || u.of == "temperature" && slices.Contains(words, "set") {
			columns[u.of] = i
		}
	}
	for _, of := range []string{"time", "temperature"} {
		if _, ok := columns[of]; !ok {
			faults = append(
				faults,
				fmt.Sprintf(
					"row 1: no column is a %s with its unit behind it, as in \"time, min\" or \"set point °C\"",
					of,
				),
			)
		}
	}
	if len(faults) > 0 {
		return nil, faults
	}
	for n, row := range rows[1:] {
		var p cure.CurvePoint
		for of, into := range map[string]*float64{"time": &p.T, "temperature": &p.Temperature,
			"pressure": &p.Pressure} {
			k, ok := columns[of]
			if !ok {
				continue
			}
			v, err := figure(row, k)
			if err != nil {
				faults = append(faults, fmt.Sprintf("row %d: %s: %s", n+2, of, err))
				continue
			}
			u := units[kind[k]]
			*into = v*u.per + u.zero
		}
		out = append(out, p)
		if len(faults) > mostFaults {
			return nil, append(faults[:mostFaults], "and more: put these right first")
		}
	}
	if len(faults) > 0 {
		slices.Sort(faults)
		return nil, faults
	}
	return out, nil
}

func figure(row []string, k int) (float64, error) {
	if k >= len(row) || strings.TrimSpace(row[k]) == "" {
		return 0, errors.New("is missing")
	}
	return number.Read(row[k])
}
