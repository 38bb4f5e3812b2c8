package parts

import (
	"context"
	"slices"
	"sync"
	"time"

	"gorm.io/gorm"

	"juxta/core/geom"
	"juxta/core/ident"
	"juxta/core/master"
	"juxta/shop/book"
	"juxta/shop/stock"
)

// Room of the parts. It keeps what the outlines of masters say of themselves while
// they are written, and the routes of released revisions.
type Room struct {
	*stock.Room
	outlines outlines
	drapes   drapes
	routed   sync.Map // *Routed by the revision's id, nil where it has no route
}

// PartLine is a part in the list of parts.
type PartLine struct {
	Code     string `json:"code"`
	Number   string `json:"number"`
	Name     string `json:"name"`
	Released string `json:"released,omitempty" doc:"Letter of the newest released revision"`
	Draft    string `json:"draft,omitempty" doc:"Letter of the draft, if there is one"`
	Plies    int    `json:"plies"`
	Builds   int    `json:"builds"`
	Family   string `json:"family,omitempty" doc:"Variant: number of its family"`
	Variant  string `json:"variant,omitempty"`
	Archived string `json:"archived,omitempty" doc:"Why it was archived"`
	// What waits for a signature, and who must not give it.
	Waits     string `json:"waits,omitempty" enum:"check,release" doc:"What the newest revision waits for"`
	WroteID   int64  `json:"wroteId,omitempty" doc:"Who wrote it last"`
	Wrote     string `json:"wrote,omitempty"`
	CheckedID int64  `json:"checkedId,omitempty" doc:"Who checked it"`
	Checked   string `json:"checked,omitempty" doc:"Who checked it"`
}

// PlyView is a ply as drawn; its outline is in place on the tool.
type PlyView struct {
	Number     int       `json:"number"`
	Shape      string    `json:"shape"`
	MaterialID int64     `json:"materialId"`
	Material   string    `json:"material"`
	Woven      bool      `json:"woven"`
	AngleDeg   float64   `json:"angleDeg"`
	Outline    geom.Ring `json:"outline" doc:"On the tool, m from the datum"`
	X          float64   `json:"x" doc:"Place on the tool, m"`
	Y          float64   `json:"y"`
	FaceUp     bool      `json:"faceUp" doc:"Warp face looks away from the tool"`
	Films      int       `json:"films"`
	Thickness  float64   `json:"thickness"`
	Area       float64   `json:"area" doc:"m²"`
	PutOn      string    `json:"putOn,omitempty" doc:"How it is put on, where it is not just laid; its quantities as data"`
}

// RevisionView is a revision with what is worked out from it.
type RevisionView struct {
	Part      PartLine        `json:"part"`
	Letter    string          `json:"letter"`
	State     string          `json:"state" enum:"draft,checked,released,superseded"`
	Version   int             `json:"version"`
	Hash      string          `json:"hash" doc:"Of the document and the process: SHA-256, hexadecimal"`
	Document  master.Document `json:"document"`
	Process   Process         `json:"process"`
	Plies     []PlyView       `json:"plies" doc:"Without their outlines: those are in the document, and worked out"`
	Worked    *AnalysisView   `json:"analysis,omitempty"`
	Against   string          `json:"against,omitempty" doc:"Letter of the revision before"`
	Before    *AnalysisView   `json:"before,omitempty"`
	Changed   []string        `json:"changed" doc:"Keys of items that differ from the revision before, or are new"`
	Gone      int             `json:"gone" doc:"Items of the revision before that are gone"`
	Letters   []RevisionLine  `json:"letters" doc:"All revisions, newest first"`
	ChangedBy string          `json:"changedBy,omitempty" doc:"Who wrote the draft last"`
	CheckedBy string          `json:"checkedBy,omitempty"`
	CheckedAt *time.Time      `json:"checkedAt,omitempty"`
	SignedBy  string          `json:"signedBy,omitempty"`
	SignedAt  *time.Time      `json:"signedAt,omitempty"`
	Waivers   []WaiverView    `json:"waivers"`
	Variants  []VariantPart   `json:"variants" doc:"Family: the parts of its variants"`
}

// RevisionLine is a revision in the list of a part's revisions.
type RevisionLine struct {
	Letter string `json:"letter"`
	State  string `json:"state"`
}

// Parts lists the parts by number.
func (s *Room) Parts(ctx context.Context) ([]PartLine, error) {
	return book.View(ctx, s.Book, func(db *gorm.DB) ([]PartLine, error) { return s.PartLines(db, "") })
}

func (s *Room) PartLines(db *gorm.DB, code string) ([]PartLine, error) {
	out := []PartLine{}
	err := db.Raw(`select p.code, p.number, p.name,
		coalesce((select letter from revisions r where r.part_id = p.id and r.state = 'released'
		order by r.id desc limit 1), '') as released,
		coalesce((select letter from revisions r where r.part_id = p.id and r.state in ('draft', 'checked')
		order by r.id desc limit 1), '') as draft,
		(select count(*) from plies y where y.revision_id = (select max(id) from revisions r
		where r.part_id = p.id)) as plies,
		(select count(*) from builds b join revisions r on r.id = b.revision_id where r.part_id = p.id) as builds,
		coalesce((select f.number from parts f where f.id = p.family_id), '') as family, p.variant,
		p.put_away_why as archived,
		case d.state when 'draft' then 'check' when 'checked' then 'release' else '' end as waits,
		coalesce(d.changed_by, 0) as wrote_id, coalesce(w.name, '') as wrote,
		coalesce(d.checked_by, 0) as checked_id, coalesce(k.name, '') as checked
		from parts p left join lateral (select state, changed_by, checked_by from revisions r where r.part_id = p.id
		and r.state in ('draft', 'checked') order by r.id desc limit 1) d on true
		left join people w on w.id = d.changed_by left join people k on k.id = d.checked_by where ? = '' or p.code = ?
		order by p.number`, code, code).Scan(&out).Error
	return out, err
}

// Revision is one revision of a part; an empty letter means the newest.
func (s *Room) Revision(ctx context.Context, partCode, letter string) (RevisionView, error) {
	return book.View(
		ctx,
		s.Book,
		func(db *gorm.DB) (RevisionView, error) { return s.revisionView(db, partCode, letter) },
	)
}

// Written is a revision as it is written, with nothing worked out: a page shows
// it at once and asks for the rest.
func (s *Room) Written(ctx context.Context, partCode, letter string) (RevisionView, error) {
	return book.View(ctx, s.Book, func(db *gorm.DB) (RevisionView, error) {
		v, _, _, err := s.written(db, partCode, letter)
		return v, err
	})
}

func (s *Room) revisionView(db *gorm.DB, partCode, letter string) (RevisionView, error) {
	v, m, before, err := s.written(db, partCode, letter)
	if err != nil {
		return v, err
	}
	if v.Worked, err = m.Analyse(master.WhatIf{}); err != nil {
		return v, err
	}
	if before != nil {
		v.Before, err = before.Analyse(master.WhatIf{})
	}
	return v, err
}

// written is a revision without what is worked out, its master, and that of the
// revision before it, if there is one.
func (s *Room) written(db *gorm.DB, partCode, letter string) (v RevisionView, m MasterOf, before *MasterOf, err error) {
	part, err := book.Find[Part](db, ident.Part, partCode, "part")
	if err != nil {
		return v, m, nil, err
	}
	var revisions []Revision
	if err := db.Where("part_id = ?", part.ID).Order("id desc").Find(&revisions).Error; err != nil {
		return v, m, nil, err
	}
	at := 0
	if letter != "" {
		if at = slices.IndexFunc(revisions, func(r Revision) bool { return r.Letter == letter }); at < 0 {
			return v, m, nil, book.NoSuch.Errorf("%s has no revision %s", part.Number, letter)
		}
	}
	r := revisions[at]
	lines, err := s.PartLines(db, part.Code)
	if err != nil {
		return v, m, nil, err
	}
	if m, err = s.Master(db, r); err != nil {
		return v, m, nil, err
	}
	plies, materials, err := LoadPlies(db, r.ID)
	if err != nil {
		return v, m, nil, err
	}
	v = RevisionView{
		Part:     lines[0],
		Letter:   r.Letter,
		State:    r.State,
		Version:  r.Version,
		Process:  r.Process,
		Document: m.Doc,
		Hash:     m.Hash(),
		Plies:    PlyViews(plies, materials),
		Changed:  []string{},
	}
	for k := range v.Plies {
		v.Plies[k].Outline = geom.Ring{}
	}
	for _, each := range revisions {
		v.Letters = append(v.Letters, RevisionLine{each.Letter, each.State})
	}
	if v.Waivers, err = s.waivers(db, r.ID); err != nil {
		return v, m, nil, err
	}
	if at+1 < len(revisions) {
		old, err := s.Master(db, revisions[at+1])
		if err != nil {
			return v, m, nil, err
		}
		v.Against, before = revisions[at+1].Letter, &old
		for _, c := range master.Difference(old.Doc, m.Doc) {
			switch {
			case c.Is == nil:
				v.Gone++
			case c.Differs():
				v.Changed = append(v.Changed, c.Is.Key)
			}
		}
	}
	if v.Variants, err = s.variantParts(db, part, m.Doc); err != nil {
		return v, m, nil, err
	}
	err = s.signers(db, &v, r)
	return v, m, before, err
}

// signers adds who wrote, checked and released a revision.
func (s *Room) signers(db *gorm.DB, v *RevisionView, r Revision) error {
	names, err := s.Names(db)
	if err != nil {
		return err
	}
	named := func(id *int64) string {
		if id == nil {
			return ""
		}
		return names[*id]
	}
	v.ChangedBy, v.CheckedBy, v.SignedBy = named(r.ChangedBy), named(r.CheckedBy), named(r.ReleasedBy)
	v.CheckedAt, v.SignedAt = r.CheckedAt, r.ReleasedAt
	return nil
}

func LoadPlies(db *gorm.DB, revisionID int64) ([]Ply, map[int64]stock.Material, error) {
	var plies []Ply
	if err := db.Where("revision_id = ?", revisionID).Order("number").Find(&plies).Error; err != nil {
		return nil, nil, err
	}
	var ids []int64
	for _, p := range plies {
		ids = append(ids, p.MaterialID)
	}
	materials, err := book.ByID(db, ids, func(m stock.Material) int64 { return m.ID })
	return plies, materials, err
}

// onTool is the ply's outline in place.
func (p Ply) onTool() geom.Ring { return p.Outline.Move(p.X, p.Y) }

func PlyViews(plies []Ply, materials map[int64]stock.Material) []PlyView {
	out := make([]PlyView, len(plies))
	for i, p := range plies {
		m := materials[p.MaterialID]
		out[i] = PlyView{
			Number:     p.Number,
			Shape:      p.Shape,
			MaterialID: m.ID,
			Material:   m.Name,
			Woven:      m.Kind == "woven",
			AngleDeg:   p.AngleDeg,
			Outline:    p.onTool(),
			X:          p.X,
			Y:          p.Y,
			FaceUp:     p.FaceUp,
			Films:      m.Films,
			Thickness:  m.Thickness,
			Area:       p.Outline.Area(),
		}
		if p.Flat != nil {
			out[i].PutOn = p.Flat.Description
		}
	}
	return out
}
