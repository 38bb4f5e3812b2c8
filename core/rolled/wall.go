package rolled

import (
	"slices"

	"juxta/core/laminate"
)

// Turn is one layer of the wall: a turn of a sheet.
type Turn struct{ Sheet, Of int }

// Order are the layers of the wall from the mandrel out: those of sheets that are rolled
// together lie in between each other.
func (r Roll) Order() []Turn {
	var out []Turn
	for k := 0; k < len(r.Sheets); {
		group := r.together(k)
		most := 0
		for _, s := range group {
			most = max(most, s.turns())
		}
		for of := range most {
			for i, s := range group {
				if of < s.turns() {
					out = append(out, Turn{k + i, of})
				}
			}
		}
		k += len(group)
	}
	return out
}

// together are the sheets that are rolled with the one of a number.
func (r Roll) together(k int) []Sheet {
	n := 1
	for k+n < len(r.Sheets) && r.Sheets[k+n-1].Crossed {
		n++
	}
	return r.Sheets[k : k+n]
}

// turns are the layers at a place along.
func (r Roll) turns(x float64) []Turn {
	return slices.DeleteFunc(r.Order(), func(t Turn) bool {
		from, to := r.reach(r.Sheets[t.Sheet])
		return x < from || x > to
	})
}

// Plies are what one turn of a sheet is to the laminate: as thick and as heavy as it comes to
// where it lies. A braid is half of its yarns either way.
func (r Roll) Plies(k int) []laminate.Ply {
	s := r.Sheets[k]
	lamina := s.Material.Lamina
	lamina.Thickness = r.thickness(s)
	lamina.ArealMass *= lamina.Thickness / s.Material.Lamina.Thickness
	ply := laminate.Ply{Name: s.Name, Material: s.Material.Name, Lamina: lamina, Angle: s.Angle}
	if s.how() != Braid {
		return []laminate.Ply{ply}
	}
	from, to := r.ends(s)
	ply.Angle, _ = s.Material.Sleeve.over(r.Mandrel.At((from + to) / 2).Perimeter(0))
	ply.Lamina.Thickness, ply.Lamina.ArealMass = lamina.Thickness/2, lamina.ArealMass/2
	other := ply
	other.Angle = -ply.Angle
	return []laminate.Ply{ply, other}
}

// Part is where a sheet lies on the part itself, without what is trimmed.
func (r Roll) Part(s Sheet) (from, to float64) {
	from, to = r.reach(s)
	return max(from, 0), min(to, r.Mandrel.Length)
}

// Kept is the share of a sheet's length that stays on the part.
func (r Roll) Kept(s Sheet) float64 {
	from, to := r.ends(s)
	first, last := r.Part(s)
	return (last - first) / (to - from)
}

// Cut is the mass of a sheet of which so large a flat is cut. A sleeve lies double.
func (r Roll) Cut(k int, area float64) float64 {
	if r.Sheets[k].how() == Braid {
		area *= 2
	}
	return area * r.Sheets[k].Material.Lamina.ArealMass
}
