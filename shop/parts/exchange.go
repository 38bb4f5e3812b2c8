package parts

import (
	"context"
	"crypto/sha256"
	"errors"
	"fmt"
	"slices"
	"strings"

	"gorm.io/gorm"

	"juxta/core/ident"
	"juxta/core/master"
	"juxta/shop/book"
	"juxta/shop/recipes"
	"juxta/shop/stock"
)

// MasterFile is a whole master as one file: it says nothing that only this
// database knows. Items refer to the file's own list of materials.
type MasterFile struct {
	Schema    string          `json:"$schema,omitempty" doc:"That the file names" maxLength:"300"`
	Format    string          `json:"format" enum:"juxta master file 1"`
	Number    string          `json:"number" minLength:"1" maxLength:"40"`
	Name      string          `json:"name" maxLength:"80"`
	Letter    string          `json:"letter,omitempty" doc:"Of the revision that was written out" maxLength:"4"`
	Hash      string          `json:"hash,omitempty" doc:"Of the revision that was written out" maxLength:"80"`
	Materials []FileMaterial  `json:"materials" doc:"What the items' materialId refers to" maxItems:"500"`
	Document  master.Document `json:"document"`
	Process   *Process        `json:"process,omitempty"`
	Pictures  []FilePicture   `json:"pictures,omitempty" doc:"What the items' pictureId refers to" maxItems:"200"`
	Surfaces  []FileSurface   `json:"surfaces,omitempty" doc:"What the stages' meshId refers to" maxItems:"20"`
}

// FilePicture is a picture of a master file.
type FilePicture struct {
	ID      int64  `json:"id"`
	Name    string `json:"name" maxLength:"120"`
	Content []byte `json:"content" doc:"base64"`
}

// FileMaterial names a material of a master file.
type FileMaterial struct {
	ID      int64  `json:"id"`
	Name    string `json:"name" maxLength:"80"`
	Kind    string `json:"kind" maxLength:"40"`
	Version int    `json:"version,omitempty"`
}

const fileFormat = "juxta master file 1"

// ExportMaster writes a revision out as one file.
func (s *Room) ExportMaster(ctx context.Context, partCode, letter string) (MasterFile, error) {
	return book.View(ctx, s.Book, func(db *gorm.DB) (MasterFile, error) {
		v, m, _, err := s.written(db, partCode, letter)
		if err != nil {
			return MasterFile{}, err
		}
		out := MasterFile{
			Format:    fileFormat,
			Number:    v.Part.Number,
			Name:      v.Part.Name,
			Letter:    v.Letter,
			Hash:      v.Hash,
			Document:  v.Document,
			Process:   &v.Process,
			Materials: []FileMaterial{},
		}
		for _, r := range m.Records {
			out.Materials = append(out.Materials, FileMaterial{r.ID, r.Name, r.Kind, r.Version})
		}
		for _, id := range pictures(v.Document) {
			var f book.File
			if err := db.Take(&f, id).Error; err != nil {
				return out, err
			}
			out.Pictures = append(out.Pictures, FilePicture{f.ID, f.Name, f.Content})
		}
		if out.Surfaces, err = takeSurfaces(db, v.Document); err != nil {
			return out, err
		}
		slices.SortFunc(out.Materials, func(a, b FileMaterial) int { return strings.Compare(a.Name, b.Name) })
		return out, nil
	})
}

// ImportMaster stores a master file as a new part, or as a new draft of the part
// with this number. Materials are found by their names; every one that is not
// known here is named, and then nothing is stored.
func (s *Room) ImportMaster(ctx context.Context, by book.By, in MasterFile) (RevisionView, error) {
	return book.Write(ctx, s.Book, by, book.WriteMaster, "import master", in, func(tx *book.Tx) (RevisionView, error) {
		number, name := strings.TrimSpace(in.Number), strings.TrimSpace(in.Name)
		if number == "" {
			return RevisionView{}, book.Needed.At("number", "the part needs a number")
		}
		var known []stock.Material
		if err := tx.Where("superseded_at is null").Find(&known).Error; err != nil {
			return RevisionView{}, err
		}
		if n := len(in.Document.Items()); n > master.MaxItems {
			return RevisionView{}, book.TooMuch.At(
				"document/stages",
				"%d items are more than the %d that one master holds",
				n,
				master.MaxItems,
			)
		}
		next, err := in.matched(known)
		if err != nil {
			return RevisionView{}, err
		}
		doc := in.Document.WithMaterials(next)
		if err := bringPictures(tx, &doc, in.Pictures); err != nil {
			return RevisionView{}, err
		}
		if err := bringSurfaces(tx, &doc, in.Surfaces); err != nil {
			return RevisionView{}, err
		}
		process, err := s.processOf(tx, in, doc, known)
		if err != nil {
			return RevisionView{}, err
		}
		if err := process.check(s.Altitude); err != nil {
			return RevisionView{}, err
		}
		own := *process
		if err := unnamed(tx.DB, &own, &doc); err != nil {
			return RevisionView{}, err
		}
		process = &own
		part, letter, err := nextRevision(tx, number, name)
		if err != nil {
			return RevisionView{}, err
		}
		r := Revision{PartID: part.ID, Letter: letter, Process: *process, ChangedBy: tx.By.ID(), CreatedAt: tx.Now}
		if err := s.storeDraft(tx, &r, &doc); err != nil {
			return RevisionView{}, err
		}
		if err := tx.Log("master imported", part.Code, "", map[string]any{
			"letter": letter, "items": len(doc.Items()), "from": in.Hash,
		}); err != nil {
			return RevisionView{}, err
		}
		return s.revisionView(tx.DB, part.Code, letter)
	})
}

// matched are the materials here by those of a file, by their names.
func (in MasterFile) matched(known []stock.Material) (map[int64]int64, error) {
	next, faults := map[int64]int64{}, []string{}
	for _, f := range in.Materials {
		k := slices.IndexFunc(known, func(m stock.Material) bool { return strings.EqualFold(m.Name, f.Name) })
		if k < 0 {
			faults = append(faults, fmt.Sprintf("no material is called %q here", f.Name))
			continue
		}
		next[f.ID] = known[k].ID
	}
	labels := in.Document.Labels()
	for _, i := range in.Document.Items() {
		if i.MaterialID != 0 &&
			!slices.ContainsFunc(in.Materials, func(f FileMaterial) bool { return f.ID == i.MaterialID }) {
			faults = append(
				faults,
				fmt.Sprintf("%s is of material %d, which the file does not name", labels[i.Key], i.MaterialID),
			)
		}
	}
	if len(faults) > 0 {
		return nil, &book.Error{
			Rule:    book.Faults,
			Field:   "materials",
			Message: "the file and the materials here do not fit: nothing was stored",
			Details: faults,
		}
	}
	return next, nil
}

// processOf is the process of a file, or the usual one for the resin of its first ply.
func (s *Room) processOf(tx *book.Tx, in MasterFile, doc master.Document, known []stock.Material) (*Process, error) {
	if in.Process != nil {
		return in.Process, nil
	}
	var resin recipes.Resin
	for _, i := range doc.Items() {
		k := slices.IndexFunc(known, func(m stock.Material) bool { return m.ID == i.MaterialID })
		if i.Kind == master.Ply && k >= 0 && known[k].ResinID != nil && resin.ID == 0 {
			if err := tx.Take(&resin, *known[k].ResinID).Error; err != nil {
				return nil, err
			}
		}
	}
	if resin.ID == 0 {
		return nil, book.Needed.At("process", "the file has neither a process nor a ply whose resin suggests one")
	}
	usual := UsualProcess(resin, s.Altitude)
	return &usual, nil
}

// pictures are the ids of the pictures that a document refers to.
func pictures(d master.Document) []int64 {
	out := []int64{}
	for _, i := range d.Items() {
		if i.PictureID != 0 && !slices.Contains(out, i.PictureID) {
			out = append(out, i.PictureID)
		}
	}
	return out
}

// bringPictures keeps the pictures of a file, those that are here already as
// they are, and puts their ids into the document.
func bringPictures(tx *book.Tx, doc *master.Document, brought []FilePicture) error {
	next := map[int64]int64{}
	for _, p := range brought {
		is, err := book.Sniff(p.Name, p.Content)
		if err != nil {
			return err
		}
		sum := sha256.Sum256(p.Content)
		var here []book.File
		if err := tx.Omit("content").Where("sha256 = ? and name = ?", sum[:],
			p.Name).Limit(1).Find(&here).Error; err != nil {
			return err
		}
		if len(here) == 0 {
			f := book.File{
				Name:      p.Name,
				MediaType: is,
				Size:      int64(len(p.Content)),
				Sha256:    sum[:],
				Content:   p.Content,
				PersonID:  tx.By.ID(),
				At:        tx.Now,
			}
			if err := tx.Create(&f).Error; err != nil {
				return err
			}
			here = append(here, f)
		}
		next[p.ID] = here[0].ID
	}
	for k := range doc.Stages {
		for n := range doc.Stages[k].Items {
			i := &doc.Stages[k].Items[n]
			if i.PictureID == 0 {
				continue
			}
			id, ok := next[i.PictureID]
			if !ok {
				return book.Wrong.At(
					"pictures",
					"an item refers to picture %d, which the file does not hold",
					i.PictureID,
				)
			}
			i.PictureID = id
		}
	}
	return nil
}

// NewPart is a part that is begun from nothing.
type NewPart struct {
	Number  string `json:"number" minLength:"1" maxLength:"40"`
	Name    string `json:"name" minLength:"1" maxLength:"80"`
	ResinID int64  `json:"resinId" doc:"Its supplier's cycle begins the process"`
}

// BeginPart begins a part: an empty stack on one outline, and the shop's usual
// process with the resin's cycle.
func (s *Room) BeginPart(ctx context.Context, by book.By, in NewPart) (RevisionView, error) {
	return book.Write(ctx, s.Book, by, book.WriteMaster, "begin part", in, func(tx *book.Tx) (RevisionView, error) {
		number, name := strings.TrimSpace(in.Number), strings.TrimSpace(in.Name)
		if number == "" || name == "" {
			return RevisionView{}, book.Needed.At("number", "a new part needs a number and a name")
		}
		var taken int64
		if err := tx.Model(&Part{}).Where("number = ?", number).Count(&taken).Error; err != nil {
			return RevisionView{}, err
		}
		if taken > 0 {
			return RevisionView{}, book.Taken.Errorf("there is already a part %s: start a new revision of it", number)
		}
		var resin recipes.Resin
		err := tx.Take(&resin, in.ResinID).Error
		if errors.Is(err, gorm.ErrRecordNotFound) {
			return RevisionView{}, book.NotHere.At("resinId", "this resin is not known here")
		}
		if err != nil {
			return RevisionView{}, err
		}
		part, letter, err := nextRevision(tx, number, name)
		if err != nil {
			return RevisionView{}, err
		}
		doc := master.Document{
			Format: master.Format,
			Outlines: []master.Outline{
				{Name: "full", Kind: "rectangle", Dims: map[string]float64{"length": 0.3, "width": 0.2}},
			},
			Stages: []master.Stage{{Key: "skin", Name: "Skin", Kind: "skin"}},
		}
		r := Revision{
			PartID:    part.ID,
			Letter:    letter,
			Process:   UsualProcess(resin, s.Altitude),
			ChangedBy: tx.By.ID(),
			CreatedAt: tx.Now,
		}
		if err := s.storeDraft(tx, &r, &doc); err != nil {
			return RevisionView{}, err
		}
		if err := tx.Log("part created", part.Code, "", map[string]string{"letter": letter}); err != nil {
			return RevisionView{}, err
		}
		return s.revisionView(tx.DB, part.Code, letter)
	})
}

// nextRevision is the part with a number, made if there is none, and the letter
// of its next revision.
func nextRevision(tx *book.Tx, number, name string) (Part, string, error) {
	var part Part
	err := book.Locked(tx.DB).Where("number = ?", number).Take(&part).Error
	if errors.Is(err, gorm.ErrRecordNotFound) {
		if name == "" {
			return part, "", book.Needed.At("name", "a new part needs a name")
		}
		id, code, err := book.NextCode(tx.DB, "parts", ident.Part)
		if err != nil {
			return part, "", err
		}
		part = Part{ID: id, Code: code, Number: number, Name: name, CreatedAt: tx.Now}
		if err := tx.Create(&part).Error; errors.Is(err, gorm.ErrDuplicatedKey) {
			return part, "", book.Changed.Errorf("somebody entered %s a moment ago: look at it there", number)
		} else if err != nil {
			return part, "", err
		}
		return part, "A", nil
	}
	if err != nil {
		return part, "", err
	}
	var last Revision
	if err := tx.Where("part_id = ?", part.ID).Order("id desc").Take(&last).Error; err != nil {
		return part, "", err
	}
	if last.State == "draft" || last.State == "checked" {
		return part, "", book.Taken.Errorf("%s already has a draft, revision %s: release it first", number, last.Letter)
	}
	return part, master.NextLetter(last.Letter), nil
}
