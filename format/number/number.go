package number

import (
	"fmt"
	"math"
	"regexp"
	"strconv"
	"strings"
)

var shape = regexp.MustCompile(`(?i)^([+-]?)(\d(?:[\d.,'’ ]*\d)?|[.,]\d+)(e[+-]?\d+)?$`)

// Read reads a number. A point, or a comma, parts off the fraction; marks that
// stand more than once, or before the other, part thousands. One comma with three
// digits after it may be either and is refused, as is what is no number. The
// pages read in the same way: testdata/numbers.json holds both to it.
func Read(text string) (float64, error) {
	clean := strings.Join(
		strings.Fields(strings.NewReplacer("\u00a0", " ", "\u202f", " ", "−", "-", "–", "-").Replace(text)),
		" ",
	)
	no := fmt.Errorf("%q is not a number", text)
	m := shape.FindStringSubmatch(clean)
	if m == nil {
		return 0, no
	}
	sign, bare, power := m[1], m[2], m[3]
	marks := strings.Map(func(r rune) rune {
		if r >= '0' && r <= '9' {
			return -1
		}
		return r
	}, bare)
	of := []rune(marks)
	made := func(plain string) (float64, error) {
		v, err := strconv.ParseFloat(sign+plain+power, 64)
		if err != nil || math.IsInf(v, 0) {
			return 0, no
		}
		return v, nil
	}
	if len(of) == 0 {
		return made(bare)
	}
	last := of[len(of)-1]
	fraction := last == '.' || last == ','
	if strings.Trim(marks, string(last)) == "" {
		thousands := strings.ReplaceAll(bare, string(last), "")
		if len(of) > 1 || !fraction {
			if !grouped(bare, last) {
				return 0, no
			}
			return made(thousands)
		}
		if last == ',' && grouped(bare, ',') && bare[0] != '0' {
			return 0, fmt.Errorf(
				"%q may mean %s or %s: write one of these",
				text,
				thousands,
				strings.Replace(bare, ",", ".", 1),
			)
		}
		return made(strings.Replace(bare, ",", ".", 1))
	}
	at := strings.LastIndex(bare, string(last))
	front, behind := bare[:at], bare[at+len(string(last)):]
	if !fraction || strings.ContainsRune(front, last) || !grouped(front, of[0]) ||
		strings.ContainsFunc(behind, func(r rune) bool { return r < '0' || r > '9' }) ||
		behind == "" {
		return 0, no
	}
	return made(strings.ReplaceAll(front, string(of[0]), "") + "." + behind)
}

// grouped says whether digits stand in threes between marks.
func grouped(text string, mark rune) bool {
	parts := strings.Split(text, string(mark))
	for i, p := range parts {
		if strings.ContainsFunc(p, func(r rune) bool { return r < '0' || r > '9' }) || i > 0 && len(p) != 3 ||
			i == 0 && (len(p) == 0 || len(p) > 3) {
			return false
		}
	}
	return len(parts) > 1
}
