package paper

import (
	"bytes"
	"fmt"

	"juxta/core/unit"
	"juxta/format/pdf"
	"juxta/shop/book"
	"juxta/shop/builds"
	"juxta/shop/cutting"
	"juxta/shop/people"
	"juxta/shop/stock"
)

// Labels sets labels one to a page, or many on a sheet.
func Labels(sheet bool, all ...pdf.Label) ([]byte, error) {
	var file bytes.Buffer
	err := pdf.Labels(&file, all, sheet)
	return file.Bytes(), err
}

// RollLabel is what stands on a roll.
func RollLabel(v stock.RollView, units unit.System) pdf.Label {
	lines := []string{
		"lot " + v.Batch,
		units.Say(fmt.Sprintf("%s wide, %s as printed", unit.Size(v.Width, 0), stock.Amount(v.Unit, v.Length))),
	}
	if v.OutTime.ShelfEnd != nil {
		lines = append(lines, "shelf life until "+v.OutTime.ShelfEnd.Local().Format("2 Jan 2006"))
	}
	if v.OutTime.Ages {
		lines = append(lines, fmt.Sprintf("out-life %.0f h, spent %.1f h", v.OutTime.Life/3600, v.OutTime.Spent/3600))
	}
	if v.Kind == "off-cut" {
		lines = append(lines, "off-cut of "+v.Parent)
	}
	return pdf.Label{ID: v.Code, Big: v.Material, Lines: lines}
}

// PreformLabel is what goes with a pre-form from its bench to the join.
func PreformLabel(f builds.PreformView) pdf.Label {
	lines := []string{"pre-form of " + f.Number + ", serial " + f.Serial}
	if f.OutTime != nil && f.OutTime.Ages {
		lines = append(lines, fmt.Sprintf("out-life %.0f h, spent %.1f h", f.OutTime.Life/3600, f.OutTime.Spent/3600))
	}
	return pdf.Label{ID: f.Code, Big: f.Name, Lines: lines}
}

// Badge is what somebody wears and scans.
func Badge(b people.IssuedBadge) pdf.Label {
	return pdf.Label{ID: b.Badge, Big: b.Person.Name, Lines: []string{b.Person.Role, "opens nothing without the PIN"}}
}

// PlyLabels set a label for every cut ply of a nest: one to a page, or twenty-four on a sheet.
func PlyLabels(v cutting.NestView, sheet bool) ([]byte, error) {
	var all []pdf.Label
	seen := map[string]bool{}
	for _, p := range v.Placed {
		if p.CutPly == "" || seen[p.CutPly] {
			continue
		}
		seen[p.CutPly] = true // a ply of several pieces is one ply
		letter := ""
		for _, b := range v.Builds {
			if b.Code == p.Build {
				letter = ", rev " + b.Letter
			}
		}
		face := "face up"
		if !p.FaceUp {
			face = "face down"
		}
		films := fmt.Sprintf("%d films", v.Films)
		if v.Films == 1 {
			films = "1 film"
		}
		angle := p.Angle
		l := pdf.Label{
			ID: p.CutPly, Big: fmt.Sprintf("%s · %s · ply %d", p.Number, p.Serial, p.Ply), Angle: &angle,
			Lines: []string{
				fmt.Sprintf("%s, %s, %s%s", pdf.Degrees(p.Angle), face, films, letter),
				v.Material, fmt.Sprintf("%s, lot %s", v.Roll, v.Batch),
			},
		}
		if v.RollOutTime.Ages {
			l.Lines = append(l.Lines, "out-life until "+v.RollOutTime.RunsOut.Local().Format("2 Jan 15:04"))
		}
		all = append(all, l)
	}
	if len(all) == 0 {
		return nil, &book.Error{Rule: book.NotNow, Message: "labels carry the ids of cut plies: record the cut first"}
	}
	var file bytes.Buffer
	err := pdf.LabelsOf(&file, pdf.Small, all, sheet)
	return file.Bytes(), err
}
