package nest

import (
	"slices"

	"juxta/core/geom"
)

// OneSheet is the sheet that a ply of several pieces is cut from: it is one ply, with one clock, and lies on the first
// that is wide enough for all of it. A ply of one piece may lie anywhere: nil.
func OneSheet(flats []geom.Ring, sheets []Sheet) []int {
	if len(flats) < 2 || len(sheets) < 2 {
		return nil
	}
	for k, s := range sheets {
		if !slices.ContainsFunc(flats, func(r geom.Ring) bool { return r.Bounds().Height() > s.Width-2*s.EdgeTrim }) {
			return []int{k}
		}
	}
	return []int{0}
}
