package parts

import (
	"context"

	"gorm.io/gorm"

	"juxta/core/geom"
	"juxta/core/ident"
	"juxta/core/laminate"
	"juxta/core/master"
	"juxta/core/unit"
	"juxta/shop/book"
)

// Question is what somebody wants to know of a master while they write it.
type Question struct {
	Document *master.Document `json:"document,omitempty" doc:"As it stands on the page; missing: as kept"`
	Letter   string           `json:"letter,omitempty"`
	WhatIf   *WhatIf          `json:"whatIf,omitempty"`
	Before   bool             `json:"before,omitempty" doc:"Also what the revision before is"`
	Outlines bool             `json:"outlines,omitempty" doc:"Also its outlines as drawn, faults or not"`
	Load     *master.Load     `json:"load,omitempty" doc:"To hold the largest zone's plies against"`
	Zone     int              `json:"zone,omitempty" doc:"That the load and the tolerance are about" minimum:"0"`
	Off      float64          `json:"off,omitempty" doc:"Tolerance of all angles for the range of the warp, degrees" minimum:"0" maximum:"20"`
}

// WhatIf is a change that is only asked about.
type WhatIf struct {
	Flip []string           `json:"flip,omitempty" doc:"Keys of layers turned over" maxItems:"500"`
	Drop []string           `json:"drop,omitempty" doc:"Left out" maxItems:"500"`
	Turn map[string]float64 `json:"turn,omitempty" doc:"Turned by degrees, by key"`
}

// Reply is what the core makes of the question.
type Reply struct {
	Faults   []master.Fault  `json:"faults" doc:"While there are any, nothing is worked out"`
	Outlines []OutlineView   `json:"outlines" doc:"In their own axes, those that can be drawn"`
	Worked   *AnalysisView   `json:"analysis,omitempty"`
	Before   *AnalysisView   `json:"before,omitempty" doc:"The revision before"`
	WhatIf   *AnalysisView   `json:"whatIf,omitempty"`
	Load     []PlyStressView `json:"load,omitempty"`
	Range    *RangeView      `json:"range,omitempty"`
}

// OutlineView is an outline as drawn.
type OutlineView struct {
	Name    string    `json:"name"`
	Outline geom.Ring `json:"outline" doc:"m"`
}

// PlyStressView is what a load does to a ply. The indices are missing where
// the material's strength is not known.
type PlyStressView struct {
	Key       string     `json:"key"`
	Ply       string     `json:"ply"`
	Stress    [3]float64 `json:"stress" doc:"Along, across, shear, Pa"`
	MaxStress *float64   `json:"maxStress,omitempty" doc:"Index by maximum stress: failure at 1"`
	Mode      string     `json:"mode,omitempty"`
	TsaiWu    *float64   `json:"tsaiWu,omitempty" doc:"Index after Tsai and Wu: failure at 1"`
	Reserve   *float64   `json:"reserve,omitempty" doc:"Factor on the load until Tsai–Wu reaches 1; missing: without bound"`
	First     bool       `json:"first" doc:"It fails first"`
}

// RangeView is a range of the bow, m: the middle 90 % and the worst seen.
type RangeView struct {
	Off    float64 `json:"off" doc:"Degrees"`
	Low    float64 `json:"low"`
	Middle float64 `json:"middle"`
	High   float64 `json:"high"`
	Worst  float64 `json:"worst"`
}

// Ask answers a question about a part's master, kept or as it stands on a page.
// It stores nothing.
func (s *Room) Ask(ctx context.Context, partCode string, q Question) (Reply, error) {
	return book.View(ctx, s.Book, func(db *gorm.DB) (Reply, error) {
		m, r, err := s.asked(db, partCode, q.Letter, q.Document)
		if err != nil {
			return Reply{}, err
		}
		out, err := m.reply(q)
		if err != nil || !q.Before {
			return out, err
		}
		var before []Revision
		if err := db.Where("part_id = ? and id < ?", r.PartID, r.ID).Order("id desc").Limit(1).Find(&before).
			Error; err != nil ||
			len(before) == 0 {
			return out, err
		}
		old, err := s.Master(db, before[0])
		if err != nil {
			return out, err
		}
		out.Before, err = old.Analyse(master.WhatIf{})
		return out, err
	})
}

// asked is the master that a question is about, with its revision: as kept, or
// as doc has it.
func (s *Room) asked(db *gorm.DB, partCode, letter string, doc *master.Document) (MasterOf, Revision, error) {
	var r Revision
	part, err := book.Find[Part](db, ident.Part, partCode, "part")
	if err != nil {
		return MasterOf{}, r, err
	}
	where := db.Where("part_id = ?", part.ID).Order("id desc")
	if letter != "" {
		where = where.Where("letter = ?", letter)
	}
	if doc != nil {
		where = where.Omit("doc")
	}
	if err := where.Limit(1).Find(&r).Error; err != nil {
		return MasterOf{}, r, err
	}
	if r.ID == 0 {
		return MasterOf{}, r, book.NoSuch.Errorf("%s has no revision %s", part.Number, letter)
	}
	if doc != nil {
		r.Doc = doc
	}
	m, err := s.Master(db, r)
	if err == nil && doc != nil {
		m.Doc = m.Doc.Derived(m.Materials, m.Lay)
	}
	return m, r, err
}

func (m MasterOf) reply(q Question) (Reply, error) {
	out := Reply{Faults: m.Doc.Check(m.Materials)}
	var err error
	if len(out.Faults) == 0 {
		if m.AnalysisInput, err = m.Shown(); err != nil {
			return out, undrawn(err)
		}
	}
	if q.Outlines {
		for _, o := range m.Doc.Outlines {
			if ring, err := o.Ring(); err == nil {
				out.Outlines = append(out.Outlines, OutlineView{o.Name, ring.Fine()})
			}
		}
	}
	if len(out.Faults) > 0 {
		return out, nil
	}
	if out.Worked, err = m.Analyse(master.WhatIf{}); err != nil || out.Worked == nil {
		return out, err
	}
	if q.WhatIf != nil {
		if out.WhatIf, err = m.Analyse(q.WhatIf.core()); err != nil {
			return out, err
		}
	}
	if q.Zone >= len(out.Worked.Zones) || q.Load == nil && q.Off == 0 {
		return out, nil
	}
	layers, err := m.Layers()
	if err != nil {
		return out, undrawn(err)
	}
	stack := master.PliesAsLaid(master.Stack(layers, out.Worked.Zones[q.Zone].Items), out.Worked.Zones[q.Zone].Angles)
	if out.Worked.Zones[q.Zone].Analysis == nil {
		return out, nil
	}
	if q.Load != nil {
		if out.Load, err = m.stresses(stack, *q.Load); err != nil {
			return out, book.Wrong.At("load", "%s", err)
		}
	}
	if q.Off > 0 {
		b, err := laminate.BowRange(stack, unit.Rad(q.Off), out.Worked.Delta, master.Span, 1)
		if err != nil {
			return out, book.Wrong.At("off", "%s", err)
		}
		out.Range = &RangeView{q.Off, b.Low, b.Middle, b.High, b.Worst}
	}
	return out, nil
}

func (w *WhatIf) core() master.WhatIf { return master.WhatIf{Flip: w.Flip, Drop: w.Drop, Turn: w.Turn} }

func (m MasterOf) stresses(stack []laminate.Ply, load master.Load) ([]PlyStressView, error) {
	all, first, err := m.Stresses(stack, load)
	if err != nil {
		return nil, err
	}
	keyOf := map[string]string{}
	for key, label := range m.Doc.Labels() {
		keyOf[label] = key
	}
	out := []PlyStressView{}
	for k, p := range all {
		v := PlyStressView{Key: keyOf[p.Ply], Ply: p.Ply, Stress: p.Stress, Mode: p.Mode, First: k == first}
		if p.Mode != "" {
			v.MaxStress, v.TsaiWu = &p.MaxStress, &p.TsaiWu
			if p.Reserve < 1e9 {
				v.Reserve = &p.Reserve
			}
		}
		out = append(out, v)
	}
	return out, nil
}
