package parts

import (
	"context"
	"errors"
	"fmt"
	"slices"

	"gorm.io/gorm"

	"juxta/core/ident"
	"juxta/core/master"
	"juxta/shop/book"
)

// VariantPart is a variant of a family and the part that it is built as.
type VariantPart struct {
	Variant  string `json:"variant"`
	Code     string `json:"code,omitempty" doc:"Missing: no part was made of it yet"`
	Number   string `json:"number"`
	Letter   string `json:"letter,omitempty"`
	State    string `json:"state,omitempty"`
	UpToDate bool   `json:"upToDate" doc:"Its newest revision says what the family says"`
}

func (s *Room) variantParts(db *gorm.DB, family Part, doc master.Document) ([]VariantPart, error) {
	out := []VariantPart{}
	if !doc.Family() {
		return out, nil
	}
	var parts []Part
	if err := db.Where("family_id = ?", family.ID).Find(&parts).Error; err != nil {
		return nil, err
	}
	var newest []Revision
	if err := db.Raw(`select distinct on (part_id) * from revisions where part_id in (select id from parts
		where family_id = ?) order by part_id, id desc`, family.ID).Scan(&newest).Error; err != nil {
		return nil, err
	}
	for _, v := range doc.Variants {
		line := VariantPart{Variant: v.Name, Number: family.Number + "-" + v.Name}
		k := slices.IndexFunc(parts, func(p Part) bool { return p.Variant == v.Name })
		if k >= 0 {
			last := newest[slices.IndexFunc(newest, func(r Revision) bool { return r.PartID == parts[k].ID })]
			line.Code, line.Number, line.Letter, line.State = parts[k].Code, parts[k].Number, last.Letter, last.State
			one, err := doc.Of(v)
			line.UpToDate = err == nil && last.Doc != nil && book.SameJSON(one.Bare(), last.Doc.Normal().Bare())
		}
		out = append(out, line)
	}
	return out, nil
}

// MakeVariants makes a part of every variant of a family that has none, and a
// new draft where the family says something else than a part's newest
// revision. A draft that somebody is at is replaced, and the log keeps that.
func (s *Room) MakeVariants(ctx context.Context, by book.By, partCode string) (RevisionView, error) {
	return book.Write(
		ctx,
		s.Book,
		by,
		book.WriteMaster,
		"make variants "+partCode,
		nil,
		func(tx *book.Tx) (RevisionView, error) {
			family, err := book.Find[Part](book.Locked(tx.DB), ident.Part, partCode, "part")
			if err != nil {
				return RevisionView{}, err
			}
			var from Revision
			if err := tx.Where("part_id = ?", family.ID).Order("id desc").Take(&from).Error; err != nil {
				return RevisionView{}, err
			}
			m, err := s.Master(tx.DB, from)
			if err != nil {
				return RevisionView{}, err
			}
			if !m.Doc.Family() {
				return RevisionView{}, book.NotNow.Errorf("%s is no family: it has no variants", family.Number)
			}
			made := []string{}
			for _, v := range m.Doc.Variants {
				doc, err := m.Doc.Of(v)
				if err != nil {
					return RevisionView{}, book.Wrong.At("document", "variant %s: %s", v.Name, err)
				}
				changed, err := s.makeVariant(tx, family, v, doc, from.Process)
				if err != nil {
					return RevisionView{}, err
				}
				if changed != "" {
					made = append(made, changed)
				}
			}
			if len(made) == 0 {
				return RevisionView{}, book.Done.Errorf("every variant of %s is up to date", family.Number)
			}
			if err := tx.Log("variants made", family.Code, "", map[string]any{
				"letter": from.Letter, "variants": made,
			}); err != nil {
				return RevisionView{}, err
			}
			return s.revisionView(tx.DB, family.Code, from.Letter)
		},
	)
}

// makeVariant brings the part of one variant up to date and says what it did.
func (s *Room) makeVariant(
	tx *book.Tx,
	family Part,
	v master.Variant,
	doc master.Document,
	process Process,
) (string, error) {
	var parts []Part
	if err := book.Locked(tx.DB).Where("family_id = ? and variant = ?", family.ID,
		v.Name).Find(&parts).Error; err != nil {
		return "", err
	}
	number := family.Number + "-" + v.Name
	r := Revision{Letter: "A", Process: process, ChangedBy: tx.By.ID(), CreatedAt: tx.Now}
	if len(parts) == 0 {
		var taken int64
		if err := tx.Model(&Part{}).Where("number = ?", number).Count(&taken).Error; err != nil {
			return "", err
		}
		if taken > 0 {
			return "", book.NotNow.Errorf("there is a part %s that is no variant of %s", number, family.Number)
		}
		id, code, err := book.NextCode(tx.DB, "parts", ident.Part)
		if err != nil {
			return "", err
		}
		part := Part{
			ID:        id,
			Code:      code,
			Number:    number,
			Name:      fmt.Sprintf("%s, %s", family.Name, v.Name),
			FamilyID:  &family.ID,
			Variant:   v.Name,
			CreatedAt: tx.Now,
		}
		if err := tx.Create(&part).Error; err != nil {
			return "", err
		}
		r.PartID = part.ID
		return number + " is new", s.storeDraft(tx, &r, &doc)
	}
	var last Revision
	if err := book.Locked(tx.DB).Where("part_id = ?", parts[0].ID).Order("id desc").Take(&last).Error; err != nil {
		return "", err
	}
	if last.Doc != nil && book.SameJSON(doc.Bare(), last.Doc.Normal().Bare()) && book.SameJSON(process, last.Process) {
		return "", nil
	}
	if last.State == "draft" || last.State == "checked" {
		last.Process, last.ChangedBy = process, tx.By.ID()
		if err := s.storeDraft(tx, &last, &doc); err != nil {
			return "", err
		}
		return fmt.Sprintf("%s %s is changed", number, last.Letter), nil
	}
	r.PartID, r.Letter = parts[0].ID, master.NextLetter(last.Letter)
	err := s.storeDraft(tx, &r, &doc)
	return fmt.Sprintf("%s %s is begun", number, r.Letter), err
}

// FollowInDrafts puts a material's new version into the documents of drafts.
func (s *Room) FollowInDrafts(tx *book.Tx, family, present int64) error {
	var versions []int64
	if err := tx.Raw(`select id from materials where family = ?`, family).Scan(&versions).Error; err != nil {
		return err
	}
	next := map[int64]int64{}
	for _, id := range versions {
		next[id] = present
	}
	var drafts []Revision
	if err := book.Locked(tx.DB).Where("state in ('draft', 'checked') and doc is not null").Find(&drafts).
		Error; err != nil {
		return err
	}
	for _, r := range drafts {
		doc := r.Doc.WithMaterials(next)
		if book.SameJSON(doc.Bare(), r.Doc.Bare()) {
			continue
		}
		// Also a check was of other material.
		if err := s.storeDraft(tx, &r, &doc); err != nil {
			return inDraft(tx, r, err)
		}
	}
	return nil
}

// inDraft says of a refusal which draft it is about.
func inDraft(tx *book.Tx, r Revision, err error) error {
	var says *book.Error
	if !errors.As(err, &says) {
		return err
	}
	var part Part
	if err := tx.Take(&part, r.PartID).Error; err != nil {
		return err
	}
	return book.NotNow.Errorf("revision %s of %s cannot follow: %s", r.Letter, part.Number, says.Message)
}

// ChangeView is one line of the difference between two revisions.
type ChangeView struct {
	Was      *master.Item `json:"was,omitempty"`
	Is       *master.Item `json:"is,omitempty"`
	WasLabel string       `json:"wasLabel,omitempty"`
	IsLabel  string       `json:"isLabel,omitempty"`
	Fields   []string     `json:"fields"`
}

// DifferenceView is two revisions of a part beside each other.
type DifferenceView struct {
	From       string        `json:"from"`
	To         string        `json:"to"`
	Lines      []ChangeView  `json:"lines"`
	Stages     []StageChange `json:"stages" doc:"Of both, that differ beside their items"`
	Route      []RouteChange `json:"route" doc:"Operations of both"`
	Process    []string      `json:"process" doc:"Fields of the process that differ"`
	FromWorked *AnalysisView `json:"fromWorked,omitempty"`
	ToWorked   *AnalysisView `json:"toWorked,omitempty"`
	FromDrawn  Drawing       `json:"fromDrawn" doc:"In plan"`
	ToDrawn    Drawing       `json:"toDrawn"`
}

// StageChange is a stage that differs beside its items.
type StageChange struct {
	Name   string   `json:"name"`
	Fields []string `json:"fields" doc:"That differ; none: it is new or gone"`
}

// Difference lines two revisions of a part up.
func (s *Room) Difference(ctx context.Context, partCode, from, to string) (DifferenceView, error) {
	return book.View(ctx, s.Book, func(db *gorm.DB) (DifferenceView, error) {
		v := DifferenceView{
			From:    from,
			To:      to,
			Lines:   []ChangeView{},
			Stages:  []StageChange{},
			Route:   []RouteChange{},
			Process: []string{},
		}
		part, err := book.Find[Part](db, ident.Part, partCode, "part")
		if err != nil {
			return v, err
		}
		var pair [2]MasterOf
		for k, letter := range []string{from, to} {
			var r []Revision
			if err := db.Where("part_id = ? and letter = ?", part.ID, letter).Find(&r).Error; err != nil {
				return v, err
			}
			if len(r) == 0 {
				return v, book.NoSuch.Errorf("%s has no revision %s", part.Number, letter)
			}
			if pair[k], err = s.Master(db, r[0]); err != nil {
				return v, err
			}

		}
		if v.FromWorked, err = pair[0].Analyse(master.WhatIf{}); err != nil {
			return v, err
		}
		if v.ToWorked, err = pair[1].Analyse(master.WhatIf{}); err != nil {
			return v, err
		}
		if v.FromDrawn, _, err = pair[0].drawn(); err != nil {
			return v, err
		}
		if v.ToDrawn, _, err = pair[1].drawn(); err != nil {
			return v, err
		}
		was, is := pair[0].Doc.Labels(), pair[1].Doc.Labels()
		for _, c := range master.Difference(pair[0].Doc, pair[1].Doc) {
			line := ChangeView{Was: c.Was, Is: c.Is, Fields: c.Fields}
			if line.Fields == nil {
				line.Fields = []string{}
			}
			if c.Was != nil {
				line.WasLabel = was[c.Was.Key]
			}
			if c.Is != nil {
				line.IsLabel = is[c.Is.Key]
			}
			v.Lines = append(v.Lines, line)
		}
		for _, c := range master.StageDifference(pair[0].Doc, pair[1].Doc) {
			v.Stages = append(v.Stages, StageChange(c))
		}
		v.Route = routeDifference(pair[0].Doc, pair[1].Doc)
		v.Process = append([]string{}, master.ChangedFields(pair[0].process, pair[1].process)...)
		return v, nil
	})
}
