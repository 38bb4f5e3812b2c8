package drape

import (
	"math"
	"slices"
)

// Sections are the lines in which planes across x, and then across y, cut the surface, about so many
// of each at round places; step is how far they lie apart.
func (m *Mesh) Sections(about int) (lines [][]Vec, step float64) {
	lo, hi := m.Box()
	step = roundStep(max(hi.X-lo.X, hi.Y-lo.Y) / float64(about))
	for axis := range 2 {
		from, to := along(lo, axis), along(hi, axis)
		for k := math.Ceil(from/step + 1e-6); k*step < to-step*1e-6; k++ {
			lines = append(lines, m.Section(axis, k*step)...)
		}
	}
	return lines, step
}

// roundStep is a step of 1, 2 or 5 times a power of ten near to one.
func roundStep(v float64) float64 {
	p := math.Pow(10, math.Floor(math.Log10(v)))
	for _, k := range []float64{1, 2, 5} {
		if v <= k*p*1.4 {
			return k * p
		}
	}
	return 10 * p
}

func along(p Vec, axis int) float64 { return [3]float64{p.X, p.Y, p.Z}[axis] }

// Section is where the plane across an axis (0: x, 1: y) at a place cuts the surface: lines from
// edge to edge, a closed one with its first place again at its end.
func (m *Mesh) Section(axis int, at float64) [][]Vec {
	// Every triangle that is cut has two sides that are: a way from side to side. A corner that lies
	// on the plane counts to one side of it.
	type side [2]int32
	beyond := func(p int32) bool { return along(m.Points[p], axis) >= at }
	where := func(s side) Vec {
		a, b := m.Points[s[0]], m.Points[s[1]]
		u, v := along(a, axis), along(b, axis)
		return a.along(b, (at-u)/(v-u))
	}
	next := map[side][]side{}
	var order []side
	for _, t := range m.Triangles {
		var cut []side
		for k := range 3 {
			a, b := t[k], t[(k+1)%3]
			if beyond(a) != beyond(b) {
				cut = append(cut, side{min(a, b), max(a, b)})
			}
		}
		if len(cut) == 2 {
			for k, s := range cut {
				if len(next[s]) == 0 {
					order = append(order, s)
				}
				next[s] = append(next[s], cut[1-k])
			}
		}
	}
	done := map[side]bool{}
	var out [][]Vec
	walk := func(from side) {
		line := []Vec{where(from)}
		done[from] = true
		for s := from; ; {
			k := slices.IndexFunc(next[s], func(n side) bool { return !done[n] })
			if k < 0 {
				if len(line) > 2 && slices.Contains(next[s], from) && len(next[from]) == 2 {
					line = append(line, line[0])
				}
				break
			}
			s = next[s][k]
			done[s] = true
			line = append(line, where(s))
		}
		if len(line) > 1 {
			out = append(out, line)
		}
	}
	for _, s := range order {
		if !done[s] && len(next[s]) == 1 {
			walk(s)
		}
	}
	for _, s := range order {
		if !done[s] {
			walk(s)
		}
	}
	return out
}
