package master

import (
	"fmt"
	"slices"

	"juxta/core/pattern"
	"juxta/core/unit"
)

// spliced are the flats of a flat stage's plies that may be spliced and are wider than the widest
// roll of their material. Splices of one after the other lie a stagger apart.
func (d Document) spliced(s Stage, materials map[int64]Material) map[string]*Flat {
	made := map[string]*Flat{}
	before := map[float64][]float64{} // levels of the last splices, by the direction of their fibre
	for _, i := range s.Items {
		m := materials[i.MaterialID]
		if i.Kind != Ply || !i.Splice || len(m.Widths) == 0 {
			continue
		}
		own, err := d.Ring(i.Outline)
		if err != nil {
			continue // that is told already
		}
		ring, angle := s.OnTool(i, own)
		angle = unit.FoldAngle(angle)
		flat := ring.Rotate(-unit.Rad(angle))
		how := pattern.Splice{
			Usable: slices.Max(m.Widths) - 2*edgeTrim, Avoid: before[angle], Stagger: max(i.Stagger, i.JoinWidth),
		}
		switch i.Join {
		case "overlap":
			how.Overlap = i.JoinWidth
		case "":
			how.Overlap = m.Splice // as its material is spliced
		}
		pieces, levels, err := pattern.SplicePieces(flat, how)
		if err != nil {
			made[i.Key] = &Flat{By: "spliced", Pieces: []FlatPiece{}, Warnings: []string{err.Error()}}
			continue
		}
		if len(pieces) < 2 {
			continue
		}
		before[angle] = levels
		f := &Flat{By: "spliced", Description: fmt.Sprintf("%d pieces side by side along the fibre, butt", len(pieces))}
		if how.Overlap > 0 {
			f.Description = fmt.Sprintf(
				"%d pieces side by side along the fibre, overlapping %s",
				len(pieces),
				unit.Size(how.Overlap, 1),
			)
		}
		box := flat.Bounds()
		for _, ring := range pieces {
			p := FlatPiece{}
			for _, q := range ring {
				p.Points = append(p.Points, Corner{X: tenth(q.X - box.Min.X), Y: tenth(q.Y - box.Min.Y)})
			}
			f.Pieces = append(f.Pieces, p)
		}
		made[i.Key] = f
	}
	return made
}
