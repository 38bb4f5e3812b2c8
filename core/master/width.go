package master

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"juxta/core/laminate"
	"juxta/core/pattern"
	"juxta/core/unit"
)

// edgeTrim is what is left at either edge of a roll (common practice, no source).
const edgeTrim = 0.005

// Widths finds plies that no width of their material can be cut for: across the
// fibre they are wider than the widest roll less its edges. Cut in pieces, a ply
// may still be made of it; that is for somebody to say, and not for the knife to
// find out. Lengths in m.
func (d Document) Widths(layers []Layer, materials map[int64]Material) []laminate.Finding {
	type kind struct {
		outline string
		turned  float64 // outline against the fibre, degrees
		up      bool
	}
	across := map[kind]float64{}
	type broken struct {
		material int64
		needs    int // mm
	}
	plies := map[broken][]string{}
	var order []broken
	for _, l := range layers {
		m := materials[l.Item.MaterialID]
		if l.Item.Kind != Ply || len(m.Widths) == 0 {
			continue
		}
		k := kind{l.Item.Outline, math.Mod(l.Item.TurnDeg-l.AngleDeg, 360), l.Item.FaceUp}
		w, known := across[k]
		if !known || l.Item.Flat != nil {
			w = l.across()
		}
		if l.Item.Flat == nil {
			across[k] = w
		}
		if w+2*edgeTrim <= slices.Max(m.Widths)+1e-9 {
			continue
		}
		b := broken{l.Item.MaterialID, int(math.Ceil((w+2*edgeTrim)*1e3 - 1e-6))}
		if plies[b] == nil {
			order = append(order, b)
		}
		if !slices.Contains(plies[b], l.Name) { // a sheet of several turns is several layers
			plies[b] = append(plies[b], l.Name)
		}
	}
	var found []laminate.Finding
	for _, b := range order {
		m := materials[b.material]
		var said []string
		for _, w := range slices.Compact(slices.Sorted(slices.Values(m.Widths))) {
			digits := 0
			if tenths := math.Round(w * 1e4); math.Mod(tenths, 10) != 0 {
				digits = 1
			}
			said = append(said, unit.Size(w, digits).String())
		}
		what := "ply " + plies[b][0]
		if len(plies[b]) > 1 {
			what = "plies " + strings.Join(plies[b], ", ")
		}
		found = append(found, laminate.Finding{Rule: "width", Plies: plies[b],
			Message: fmt.Sprintf(
				"%s of %s: needs %s across the fibre with its edges, sold in %s",
				what,
				m.Name,
				unit.Size(float64(b.needs)/1e3, 0),
				strings.Join(said, ", "),
			)})
	}
	return found
}

// across is how wide the layer lies on its roll, across the fibre: its widest piece.
func (l Layer) across() float64 {
	if l.Item.Flat == nil {
		return pattern.OnRoll(l.Outline, l.Angle, l.Item.FaceUp).Bounds().Height()
	}
	w := 0.0
	for _, p := range l.Item.Flat.Pieces {
		w = max(w, pattern.OnRoll(p.Ring(), unit.Rad(p.FibreDeg), l.Item.FaceUp).Bounds().Height())
	}
	return w
}
