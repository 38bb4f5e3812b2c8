package parts

import (
	"cmp"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"fmt"
	"slices"
	"strconv"

	"gorm.io/gorm"

	"juxta/core/drape"
	"juxta/core/geom"
	"juxta/core/laminate"
	"juxta/core/master"
	"juxta/core/rolled"
	"juxta/core/unit"
	"juxta/shop/book"
	"juxta/shop/stock"
)

// MasterOf is a revision's master with all that its computation needs.
type MasterOf struct {
	master.AnalysisInput
	Records map[int64]stock.Material
	process Process
	waivers []Waiver
}

// Master loads what a revision is worked out from.
func (s *Room) Master(db *gorm.DB, r Revision) (MasterOf, error) {
	m := ofProcess(r.Process)
	if r.Doc != nil {
		m.Doc = r.Doc.Normal()
	} else {
		// A revision of before there were documents has plies alone.
		plies, _, err := LoadPlies(db, r.ID)
		if err != nil {
			return m, err
		}
		m.Doc = documentOf(plies)
	}
	if err := db.Where("revision_id = ? and withdrawn_at is null",
		r.ID).Order("id").Find(&m.waivers).Error; err != nil {
		return m, err
	}
	err := s.equip(db, &m)
	return m, err
}

// ofProcess is a master without its document.
func ofProcess(p Process) MasterOf {
	m := MasterOf{process: p, AnalysisInput: master.AnalysisInput{Bleed: p.Bleed}}
	for _, s := range p.Recipe.Segments {
		m.Hottest = max(m.Hottest, s.Target)
	}
	return m
}

// equip loads the materials of a document and the shop's rules.
func (s *Room) equip(db *gorm.DB, m *MasterOf) error {
	load := meshes(db)
	m.Outlines = s.outlines.of
	m.Lay = func(of master.DrapeOf) ([]*drape.DrapedPiece, error) { return s.drapes.lay(of, load) }
	ids := []int64{}
	for _, i := range m.Doc.Items() {
		if i.MaterialID != 0 && !slices.Contains(ids, i.MaterialID) {
			ids = append(ids, i.MaterialID)
		}
	}
	var err error
	if m.Records, err = book.ByID(db, ids, func(m stock.Material) int64 { return m.ID }); err != nil {
		return err
	}
	m.Materials = map[int64]master.Material{}
	for id, r := range m.Records {
		m.Materials[id] = asMaster(r)
	}
	settings, err := s.rules(db)
	m.Rules = settings.Core()
	return err
}

// asMaster is the material as a master sees it.
func asMaster(m stock.Material) master.Material {
	lamina := m.Lamina()
	lamina.FaceShift, lamina.ResinShare = m.Sheet.FaceShift, m.Sheet.ResinShare
	lamina.G13, lamina.G23 = m.Sheet.G13, m.Sheet.G23
	lamina.Conducts = m.Sheet.Fibre == "carbon"
	var resin int64
	if m.ResinID != nil {
		resin = *m.ResinID
	}
	return master.Material{
		Resin:      resin,
		Name:       m.Name,
		Kind:       m.Kind,
		Lamina:     lamina,
		Films:      m.Films,
		BulkFactor: max(1, m.Sheet.BulkFactor),
		Tolerance:  m.Sheet.ThicknessTolerance,
		Lock:       unit.Rad(m.Sheet.LockDeg),
		Round:      m.Sheet.HollowRadius,
		Steer:      m.Sheet.SteerRadius,
		Splice:     m.Sheet.SpliceOverlap,
		Sleeve: rolled.Sleeve{
			Diameter: m.Sheet.SleeveDiameter, Angle: unit.Rad(m.Sheet.SleeveAngle),
			Least: unit.Rad(m.Sheet.SleeveLeast), Most: unit.Rad(m.Sheet.SleeveMost),
		},
		Widths:   m.SoldIn(),
		Strength: laminate.Strength{XT: m.Sheet.XT, XC: m.Sheet.XC, YT: m.Sheet.YT, YC: m.Sheet.YC, S: m.Sheet.S},
	}
}

// documentOf is the document of plies that were kept without one.
func documentOf(plies []Ply) master.Document {
	d := master.Document{Format: master.Format, Stages: []master.Stage{{Key: "stage", Name: "Skin", Kind: "skin"}}}
	at := func(name string, o geom.Ring) string {
		for n := 1; ; n++ {
			called := name
			if n > 1 {
				called = fmt.Sprintf("%s %d", name, n)
			}
			k := slices.IndexFunc(d.Outlines, func(x master.Outline) bool { return x.Name == called })
			if k < 0 {
				out := master.Outline{Name: called, Kind: "points"}
				for _, p := range o {
					out.Points = append(out.Points, master.Corner{X: p.X, Y: p.Y})
				}
				d.Outlines = append(d.Outlines, out)
				return called
			}
			if slices.EqualFunc(
				d.Outlines[k].Points,
				o,
				func(c master.Corner, p geom.Point) bool { return c.X == p.X && c.Y == p.Y },
			) {
				return called
			}
		}
	}
	for _, p := range plies {
		key := p.ItemKey
		if key == "" {
			key = fmt.Sprintf("p%d", p.Number)
		}
		d.Stages[0].Items = append(
			d.Stages[0].Items,
			master.Item{
				Key:        key,
				Kind:       master.Ply,
				MaterialID: p.MaterialID,
				Outline:    at(p.Shape, p.Outline),
				AngleDeg:   p.AngleDeg,
				X:          p.X,
				Y:          p.Y,
				FaceUp:     p.FaceUp,
			},
		)
	}
	return d.Normal()
}

// Hash is that of what the revision says: its document and its process.
func (m MasterOf) Hash() string {
	return hex.EncodeToString(sha([]any{m.Doc, m.process}))
}

func sha(v any) []byte {
	raw, _ := json.Marshal(v)
	sum := sha256.Sum256(raw)
	return sum[:]
}

// faulty is the refusal of a document with faults: the first one's place and
// sentence, and all of them in detail.
func faulty(faults []master.Fault) error {
	e := &book.Error{Rule: book.Faults, Field: faults[0].Key + "/" + faults[0].Field, Message: faults[0].Message}
	if len(faults) > 1 {
		e.Message = fmt.Sprintf("the master has %d faults: nothing was stored", len(faults))
		for _, f := range faults {
			e.Details = append(e.Details, f.Message)
		}
	}
	return e
}

// storeDraft is the one way in which a draft is written: its document, and with
// it the plies that kits, nests and the bench go by. It counts the version and
// undoes the check, for what is signed is what was looked at. A nil document
// leaves the one that there is; a revision without an id is a new one.
func (s *Room) storeDraft(tx *book.Tx, r *Revision, doc *master.Document) error {
	r.Version++
	r.State, r.CheckedAt, r.CheckedBy = "draft", nil, nil
	if doc != nil {
		m := ofProcess(r.Process)
		m.Doc = doc.Normal()
		if err := s.equip(tx.DB, &m); err != nil {
			return err
		}
		// What is refused is not draped first.
		if faults := m.Doc.Check(m.Materials); len(faults) > 0 {
			return faulty(faults)
		}
		derived := m.Doc.Derived(m.Materials, m.Lay)
		r.Doc = &derived
	}
	if err := tx.Save(r).Error; err != nil {
		return err
	}
	if doc == nil {
		return nil
	}
	return s.derivePlies(tx, *r)
}

// derivePlies makes the rows of plies those of a revision's document. Nothing
// else writes them.
func (s *Room) derivePlies(tx *book.Tx, r Revision) error {
	if r.Doc == nil {
		return nil // of before there were documents: its plies are all that there is
	}
	doc := *r.Doc
	m := ofProcess(r.Process)
	m.Doc = doc
	if err := s.equip(tx.DB, &m); err != nil {
		return err
	}
	faults := append(doc.Check(m.Materials), doc.SettingFaults(s.Altitude)...)
	if len(faults) > 0 {
		return faulty(faults)
	}
	if shown := pictures(doc); len(shown) > 0 {
		var here int64
		if err := tx.Model(&book.File{}).Where("id in ? and media_type in ('image/png', 'image/jpeg')", shown).
			Count(&here).Error; err != nil {
			return err
		}
		if int(here) < len(shown) {
			return book.NotHere.At("document", "a picture of an item is not here, or is no PNG or JPEG")
		}
	}
	// What cannot be worked out is not stored either.
	if _, err := m.Analyse(master.WhatIf{}); err != nil {
		return err
	}
	if err := tx.Where("revision_id = ?", r.ID).Delete(&Ply{}).Error; err != nil {
		return err
	}
	if doc.Family() {
		return nil // its variants have plies
	}
	layers, err := doc.Layers(m.Materials)
	if err != nil {
		return book.Wrong.At("document", "%s", err)
	}
	var plies []Ply
	for _, l := range layers {
		if l.Item.Kind != master.Ply || slices.ContainsFunc(plies, func(p Ply) bool { return p.ItemKey == l.Key }) {
			continue // a sheet of several turns is one ply to whoever cuts and lays it
		}
		p := Ply{
			RevisionID: r.ID,
			ItemKey:    l.Key,
			Shape:      l.Item.Outline,
			MaterialID: l.Item.MaterialID,
			AngleDeg:   unit.FoldAngle(l.AngleDeg),
			FaceUp:     l.Item.FaceUp,
			Flat:       l.Item.Flat,
		}
		if p.Number, err = strconv.Atoi(l.Name); err != nil {
			return fmt.Errorf("ply %q has no number: %w", l.Name, err)
		}
		if p.Shape == "" {
			p.Shape, p.Outline = "wrap", l.Outline
		} else {
			own, err := doc.Ring(l.Item.Outline)
			if err != nil {
				return book.Wrong.At("document", "%s", err)
			}
			p.Outline = own.Rotate(unit.Rad(l.Item.TurnDeg))
			p.X, p.Y = l.Item.X, l.Item.Y
			for _, o := range doc.Outlines {
				if o.Name != l.Item.Outline {
					continue
				}
				for _, m := range o.Marks {
					p.Marks = append(p.Marks, m.Turned(unit.Rad(l.Item.TurnDeg)))
				}
			}
		}
		plies = append(plies, p)
	}
	slices.SortFunc(plies, func(a, b Ply) int { return cmp.Compare(a.Number, b.Number) })
	return tx.CreateInBatches(&plies, 200).Error
}

// present is a document with the present version of every material.
func present(tx *book.Tx, doc master.Document) (master.Document, error) {
	var rows []struct{ ID, Present int64 }
	if err := tx.Raw(`select m.id, n.id as present from materials m join materials n on n.family = m.family
		and n.superseded_at is null`).Scan(&rows).Error; err != nil {
		return doc, err
	}
	next := map[int64]int64{}
	for _, r := range rows {
		next[r.ID] = r.Present
	}
	return doc.WithMaterials(next), nil
}

// releasable says whether parts can be built from the master.
func (m MasterOf) releasable() error {
	if faults := m.Doc.Check(m.Materials); len(faults) > 0 {
		return faulty(faults)
	}
	if f := m.AnalysisInput.Releasable(); f != nil {
		return faulty([]master.Fault{*f})
	}
	return nil
}
