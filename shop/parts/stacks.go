package parts

import (
	"slices"

	"gorm.io/gorm"

	"juxta/core/master"
	"juxta/shop/book"
	"juxta/shop/stock"
)

// StackLayer is a layer of a zone, uncured thickness as its material says.
type StackLayer struct {
	Kind     string // of its item
	Material stock.Material
}

// StackZone is what lies over one place of a part, from the tool up.
type StackZone struct {
	Says   string
	Area   float64 // m²
	Layers []StackLayer
}

// Stacks are the zones of the newest revision of a part, the largest first, with the tool of its process; no tool:
// its sheet is empty.
func (s *Room) Stacks(db *gorm.DB, partCode string) (zones []StackZone, tool Tool, err error) {
	m, r, err := s.asked(db, partCode, "", nil)
	if err != nil {
		return nil, tool, err
	}
	if faults := m.Doc.Check(m.Materials); len(faults) > 0 {
		return nil, tool, book.NotNow.Errorf("the master has a fault that has to be put right first: %s", faults[0].Says)
	}
	if m.Case, err = m.Shown(); err != nil {
		return nil, tool, undrawn(err)
	}
	worked, err := m.Case.Work(master.WhatIf{})
	if err != nil {
		return nil, tool, undrawn(err)
	}
	if worked == nil || len(worked.Zones) == 0 {
		return nil, tool, book.NotNow.Errorf("no layer of this part covers an area yet")
	}
	layers, err := m.Layers()
	if err != nil {
		return nil, tool, undrawn(err)
	}
	for _, z := range worked.Zones {
		zone := StackZone{Says: z.Says, Area: z.Area}
		for _, key := range z.Keys {
			k := slices.IndexFunc(layers, func(l master.Layer) bool { return l.Key == key })
			if k >= 0 {
				zone.Layers = append(zone.Layers, StackLayer{layers[k].Item.Kind, m.Records[layers[k].Item.MaterialID]})
			}
		}
		zones = append(zones, zone)
	}
	if name := r.Process.Tool; name != "" {
		if err := db.Where("name = ?", name).Limit(1).Find(&tool).Error; err != nil {
			return nil, tool, err
		}
	}
	return zones, tool, nil
}
