package cutting

import (
	"context"
	"time"

	"gorm.io/gorm"

	"juxta/core/material"
	"juxta/shop/book"
)

// ScarceView is what is on hand of a material against what open builds need.
type ScarceView struct {
	Family   int64          `json:"family"`
	Material string         `json:"material"`
	OnHand   float64        `json:"onHand" doc:"Area of roll that may be cut, m²"`
	Waiting  float64        `json:"waiting" doc:"Area of roll whose batch is not accepted, m²"`
	Needed   float64        `json:"needed" doc:"Area of plies that open builds still want, m²"`
	Roll     float64        `json:"roll" doc:"Area of roll that this takes at the yield, m²"`
	Yield    float64        `json:"yield" doc:"Area of plies from area of roll, by past nests"`
	Measured bool           `json:"measured" doc:"The yield is the shop's own"`
	Short    []ShortageView `json:"short"`
}

// ShortageView is a build that the stock does not reach.
type ShortageView struct {
	Build  string    `json:"build"`
	Number string    `json:"number"`
	Serial string    `json:"serial"`
	By     time.Time `json:"by"`
	Short  float64   `json:"short" doc:"Area of roll that is missing, m²"`
}

// Scarcity holds what is on hand against what open builds need, by date.
func (s *Room) Scarcity(ctx context.Context) ([]ScarceView, error) {
	return book.View(ctx, s.Book, func(db *gorm.DB) ([]ScarceView, error) {
		demands, err := s.cutAreas(db, nil, "true")
		if err != nil {
			return nil, err
		}
		out := []ScarceView{}
		for _, d := range demands {
			v, err := s.scarce(db, d)
			if err != nil {
				return nil, err
			}
			out = append(out, v)
		}
		return out, nil
	})
}

// scarce is what is on hand of a material beside what is to be cut of it.
func (s *Room) scarce(db *gorm.DB, d CutDemand) (ScarceView, error) {
	now := s.Now()
	rows, err := goods(
		db,
		"r.length > 0 and r.material_id in (select id from materials where family = ?)",
		d.MaterialID,
	)
	if err != nil {
		return ScarceView{}, err
	}
	materials, err := versions(db, d.MaterialID)
	if err != nil {
		return ScarceView{}, err
	}
	v := ScarceView{
		Family:   d.MaterialID,
		Material: d.Material,
		Yield:    material.UsualYield,
		Needed:   d.Area,
		Short:    []ShortageView{},
	}
	if err := v.measured(db); err != nil {
		return ScarceView{}, err
	}
	v.Roll = v.Needed / v.Yield
	var have []material.Stock
	for _, r := range rows {
		usable := 0.0
		flaws := []material.Stretch{}
		for _, f := range r.FlawsLeft() {
			flaws = append(flaws, material.Stretch{From: f.From, To: f.To})
		}
		for _, c := range material.ClearLengths(r.Length, flaws) {
			usable += c.To - c.From
		}
		f := material.NewOutTimeStatus(r.Clock().Later(now), materials[r.MaterialID].Limits(r.Batch.ShelfEnd), 0, now)
		switch {
		case f.Refusal(now) != nil:
			continue
		case r.Batch.Blocked() != "":
			v.Waiting += usable * r.Width
			continue
		}
		ends := f.ShelfEnd // frozen, it lives as long as its shelf life
		if r.Ageing {
			ends = f.Ends()
		}
		v.OnHand += usable * r.Width
		have = append(have, material.Stock{ID: r.Code, Area: usable * r.Width, Ends: ends})
	}
	var needs []material.Need
	called := map[string]CutBuild{}
	for _, b := range d.Builds {
		called[b.Code] = b
		// Of one build it is the same whatever operation cuts it.
		if n := len(needs); n > 0 && needs[n-1].Build == b.Code {
			needs[n-1].Area += b.Area
			continue
		}
		needs = append(needs, material.Need{Build: b.Code, By: b.CureAt, Area: b.Area})
	}
	for _, short := range material.Shortages(needs, have, v.Yield) {
		b := called[short.Build]
		v.Short = append(v.Short, ShortageView{b.Code, b.Number, b.Serial, short.By, short.Short})
	}
	return v, nil
}

// measured takes the yield of the nests that were cut of a material, where there are any.
func (v *ScarceView) measured(db *gorm.DB) error {
	var past struct{ Plies, Roll float64 }
	if err := db.Raw(`select
		coalesce(sum((n.best->>'length')::float8 * (n.problem->'sheets'->0->>'width')::float8
			* (n.best->>'yield')::float8), 0) as plies,
		coalesce(sum((n.best->>'length')::float8 * (n.problem->'sheets'->0->>'width')::float8), 0) as roll from nests n
		join rolls r on r.id = n.roll_id
		where n.state = 'cut' and r.material_id in (select id from materials
		where family = ?)`, v.Family).Scan(&past).Error; err != nil {
		return err
	}
	if past.Roll > 0 && past.Plies > 0 {
		v.Yield, v.Measured = past.Plies/past.Roll, true
	}
	return nil
}
