package shoptest

import (
	"fmt"
	"slices"

	"juxta/core/master"
	"juxta/shop/parts"
)

// Many makes a master of n plies of another one's file: like its second ply, but
// at angles that have no partners, every tenth on an outline of its own. That is
// the worst case for the rules of a stack.
func Many(file parts.MasterFile, n int) parts.MasterFile {
	like := file.Document.Stages[0].Items[1]
	file.Number, file.Name = fmt.Sprintf("BIG-%d", n), "Many plies"
	file.Document.Outlines = slices.Clone(file.Document.Outlines)
	file.Document.Stages = slices.Clone(file.Document.Stages)
	items := make([]master.Item, n)
	for k := range items {
		i := like
		i.Key, i.AngleDeg = fmt.Sprintf("big%d", k), float64(k*45%180)
		if k%10 == 9 {
			name := fmt.Sprintf("patch %d", k)
			file.Document.Outlines = append(
				file.Document.Outlines,
				master.Outline{
					Name: name,
					Kind: "patch",
					Dims: map[string]float64{"length": 0.2 - 0.0003*float64(k), "width": 0.1, "radius": 0.02},
				},
			)
			i.Outline, i.X, i.Y = name, 0.25, 0.18
		}
		items[k] = i
	}
	file.Document.Stages[0].Items = items
	return file
}
