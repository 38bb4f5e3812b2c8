package rolled

import (
	"cmp"
	"fmt"
	"math"
	"slices"

	"juxta/core/unit"
)

// Fits is whether the outside comes to what is wanted at the first end.
type Fits struct {
	Off      float64 // outside across less the target
	OffHigh  float64 // of the height, where a target was given for it
	Met      bool    // within the tolerance, as nominal
	Spread   float64 // of the outside from the tolerances of the materials, either way
	Surely   bool    // also with all materials off at once
	Remedies []Remedy
}

// Remedy is a change that would bring the outside nearer, in words, and how far off it is
// then.
type Remedy struct {
	Message string
	Off     float64
}

// mostRemedies are told.
const mostRemedies = 6

func (r Roll) fits(w Analysis) *Fits {
	slope := r.Mandrel.slope()
	f := &Fits{Off: w.Outside[0].Width - r.Outside, Spread: 2 * w.WallOff / slope}
	if r.OutsideHigh > 0 && Oblong(r.Mandrel.First.Kind) {
		f.OffHigh = w.Outside[0].Height - r.OutsideHigh
	}
	worst := max(math.Abs(f.Off), math.Abs(f.OffHigh))
	f.Met = worst <= r.Tolerance+1e-9
	f.Surely = worst+f.Spread <= r.Tolerance+1e-9
	if f.Met {
		return f
	}
	f.Remedies = append(f.Remedies, r.mandrels(*f)...)
	f.Remedies = append(f.Remedies, r.plies(*f)...)
	slices.SortStableFunc(f.Remedies, func(a, b Remedy) int {
		return cmp.Compare(math.Round(math.Abs(a.Off)*1e6), math.Round(math.Abs(b.Off)*1e6))
	})
	f.Remedies = f.Remedies[:min(len(f.Remedies), mostRemedies)]
	return f
}

// mandrels is the mandrel that would meet the target.
func (r Roll) mandrels(f Fits) []Remedy {
	width := r.Mandrel.First.Width - f.Off
	if width <= 0 {
		return nil
	}
	says := fmt.Sprintf("a mandrel of %s across", unit.Size(width, 2))
	if f.OffHigh != 0 {
		says = fmt.Sprintf(
			"a mandrel of %s by %s",
			unit.Size(width, 2),
			unit.Size(r.Mandrel.First.height()-f.OffHigh, 2),
		)
	}
	return []Remedy{{says, 0}}
}

// plies are wraps more or fewer of one material, and a material for another.
func (r Roll) plies(f Fits) []Remedy {
	if f.OffHigh != 0 && math.Abs(f.Off-f.OffHigh) > 1e-9 {
		return nil // a wrap adds to both alike
	}
	slope := r.Mandrel.slope()
	type used struct {
		m     Material
		times int
	}
	var all []used
	for _, t := range r.turns(0) {
		s := r.Sheets[t.Sheet]
		if s.how() != Wrapped {
			continue
		}
		k := slices.IndexFunc(all, func(u used) bool { return u.m.Name == s.Material.Name })
		if k < 0 {
			all = append(all, used{s.Material, 0})
			k = len(all) - 1
		}
		all[k].times++
	}
	var out []Remedy
	tell := func(off float64, format string, args ...any) {
		if math.Abs(off) < math.Abs(f.Off)-1e-9 {
			out = append(out, Remedy{fmt.Sprintf(format, args...), off})
		}
	}
	for _, u := range all {
		a := 2 * u.m.Lamina.Thickness / slope
		n := int(math.Round(-f.Off / a))
		switch {
		case n > 0 && n <= MostSheets:
			tell(f.Off+float64(n)*a, "%s more of %s", wraps(n), u.m.Name)
		case n < 0 && -n <= u.times:
			tell(f.Off+float64(n)*a, "%s fewer of %s", wraps(-n), u.m.Name)
		}
		for _, v := range all {
			by := 2 * (v.m.Lamina.Thickness - u.m.Lamina.Thickness) / slope
			if v.m.Name == u.m.Name || math.Abs(by) < 1e-9 {
				continue
			}
			if n := int(math.Round(-f.Off / by)); n > 0 && n <= u.times {
				tell(f.Off+float64(n)*by, "%s of %s in place of %s", wraps(n), v.m.Name, u.m.Name)
			}
		}
	}
	return out
}

func wraps(n int) string {
	if n == 1 {
		return "1 wrap"
	}
	return fmt.Sprintf("%d wraps", n)
}
