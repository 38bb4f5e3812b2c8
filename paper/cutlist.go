package paper

import (
	"bytes"
	"fmt"
	"math"

	"juxta/core/geom"
	"juxta/format/sheet"
	"juxta/shop/cutting"
)

// CutList is what is cut of a nest, a line a piece, along the roll: CSV, metric.
func CutList(v cutting.NestView) ([]byte, error) {
	var file bytes.Buffer
	out := sheet.NewCSV(&file, "piece", "part", "serial", "build", "ply", "cut ply", "missing", "material", "roll",
		"angle deg", "face", "turn deg", "along from mm", "along to mm", "across from mm", "across to mm", "area m2")
	mm := func(v float64) float64 { return math.Round(v*1e4) / 10 }
	for _, p := range v.Placed {
		ring := p.Outline
		box, area := ring.Bounds(), ring.Area()
		for _, m := range p.Marks {
			if m.Closed { // a hole
				area -= geom.Ring(m.Places()).Area()
			}
		}
		face := "up"
		if !p.FaceUp {
			face = "down"
		}
		if err := out.Row(
			p.ID, p.Number, p.Serial, p.Build, p.Ply, p.CutPly, p.Missing, v.Material, v.Roll, p.Angle, face, p.Turn,
			mm(box.Min.X), mm(box.Max.X), mm(box.Min.Y), mm(box.Max.Y), math.Round(area*1e6)/1e6,
		); err != nil {
			return nil, fmt.Errorf("write the cut list: %w", err)
		}
	}
	if err := out.Close(); err != nil {
		return nil, fmt.Errorf("write the cut list: %w", err)
	}
	return file.Bytes(), nil
}
