package paper

import (
	"bytes"
	"fmt"

	"juxta/core/unit"
	"juxta/format/pdf"
	"juxta/shop/builds"
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
	if v.Fuse.ShelfEnd != nil {
		lines = append(lines, "shelf life until "+v.Fuse.ShelfEnd.Local().Format("2 Jan 2006"))
	}
	if v.Fuse.Ages {
		lines = append(lines, fmt.Sprintf("out-life %.0f h, spent %.1f h", v.Fuse.Life/3600, v.Fuse.Spent/3600))
	}
	if v.Kind == "off-cut" {
		lines = append(lines, "off-cut of "+v.Parent)
	}
	return pdf.Label{ID: v.Code, Big: v.Material, Lines: lines}
}

// PreformLabel is what goes with a pre-form from its bench to the join.
func PreformLabel(f builds.PreformView) pdf.Label {
	lines := []string{"pre-form of " + f.Number + ", serial " + f.Serial}
	if f.Fuse != nil && f.Fuse.Ages {
		lines = append(lines, fmt.Sprintf("out-life %.0f h, spent %.1f h", f.Fuse.Life/3600, f.Fuse.Spent/3600))
	}
	return pdf.Label{ID: f.Code, Big: f.Name, Lines: lines}
}

// Badge is what somebody wears and scans.
func Badge(b people.IssuedBadge) pdf.Label {
	return pdf.Label{ID: b.Badge, Big: b.Person.Name, Lines: []string{b.Person.Role, "opens nothing without the PIN"}}
}
