package parts

import (
	"context"
	"encoding/hex"
	"fmt"
	"strings"

	"juxta/core/ident"
	"juxta/core/master"
	"juxta/shop/book"
)

// draft finds and holds the draft of a part, at the version the person saw.
func draft(tx *book.Tx, partCode string) (Part, Revision, error) {
	part, err := book.Find[Part](tx.DB, ident.Part, partCode, "part")
	if err != nil {
		return part, Revision{}, err
	}
	var r Revision
	if err := book.Locked(tx.DB).Where("part_id = ?", part.ID).Order("id desc").Take(&r).Error; err != nil {
		return part, r, err
	}
	if r.State != "draft" && r.State != "checked" {
		return part, r, book.Done.Errorf(
			"revision %s of %s is released and frozen: start a new revision",
			r.Letter,
			part.Number,
		)
	}
	return part, r, nil
}

// seen refuses a signature under something else than the person looked at.
func (r Revision) seen(part Part, version int) error {
	if r.Version != version {
		return book.Changed.Errorf("somebody changed revision %s of %s in the meantime: look at it "+
			"again", r.Letter, part.Number)
	}
	return nil
}

// DraftChange is a new document, a new process, or both, for a draft.
type DraftChange struct {
	Version  int              `json:"version" doc:"That the change was made from"`
	Base     *master.Document `json:"base,omitempty" doc:"The document that it was made from: what others changed meanwhile is merged from there"`
	Document *master.Document `json:"document,omitempty"`
	Process  *Process         `json:"process,omitempty"`
	Was      *Process         `json:"was,omitempty" doc:"The process that it was made from: with it, changes of the document meanwhile do not matter"`
}

// ChangeDraft stores a change to the draft of a part. A document made from an
// older version is merged with what others changed meanwhile, item by item;
// where both touched the same thing it is refused, and says which.
func (s *Room) ChangeDraft(ctx context.Context, by book.By, partCode string, in DraftChange) (RevisionView, error) {
	return book.Write(
		ctx,
		s.Book,
		by,
		book.WriteMaster,
		"change draft "+partCode,
		in,
		func(tx *book.Tx) (RevisionView, error) {
			part, r, err := draft(tx, partCode)
			if err != nil {
				return RevisionView{}, err
			}
			before, err := s.Master(tx.DB, r)
			if err != nil {
				return RevisionView{}, err
			}
			said := map[string]any{"letter": r.Letter, "version": r.Version + 1}
			var stored *master.Document
			if in.Document != nil {
				doc := in.Document.Normal()
				if doc, err = merged(part, r, before.Doc, doc, in); err != nil {
					return RevisionView{}, err
				}
				stored = &doc
				said["items"], said["hash"] = summary(before.Doc, doc), hex.EncodeToString(sha(doc))
			}
			if in.Process != nil {
				seen := in.Version == r.Version || in.Was != nil && book.SameJSON(*in.Was, r.Process)
				if !seen && !book.SameJSON(*in.Process, r.Process) {
					return RevisionView{}, book.Changed.Errorf(
						"somebody changed revision %s of %s in the meantime: look at its process again",
						r.Letter,
						part.Number,
					)
				}
				if err := in.Process.check(s.Altitude); err != nil {
					return RevisionView{}, err
				}
				r.Process = *in.Process
				said["process"] = *in.Process
			}
			if err := allKnown(tx.DB, in.Process, in.Document); err != nil {
				return RevisionView{}, err
			}
			r.ChangedBy = tx.By.ID()
			if err := s.storeDraft(tx, &r, stored); err != nil {
				return RevisionView{}, err
			}
			if err := tx.Log("draft changed", part.Code, "", said); err != nil {
				return RevisionView{}, err
			}
			return s.revisionView(tx.DB, part.Code, r.Letter)
		},
	)
}

// merged brings a change made from another document together with the present.
func merged(part Part, r Revision, present, mine master.Document, in DraftChange) (master.Document, error) {
	switch {
	case in.Base != nil && book.SameJSON(in.Base.Normal(), present):
		return mine, nil
	case in.Base == nil && in.Version == r.Version:
		return mine, nil
	case in.Base == nil:
		return mine, book.Changed.Errorf(
			"somebody changed revision %s of %s in the meantime: look at it again",
			r.Letter,
			part.Number,
		)
	}
	both, conflicts := master.Merge(in.Base.Normal(), present, mine)
	if len(conflicts) > 0 {
		return mine, &book.Error{
			Rule:  book.Changed,
			Field: "document",
			Message: fmt.Sprintf(
				"somebody changed the same things of revision %s of %s in the meantime: yours is still on this page, "+
					"compare it with theirs",
				r.Letter,
				part.Number,
			),
			Details: conflicts,
		}
	}
	return both, nil
}

// summary says in a few words what changed between two documents, for the log.
func summary(before, after master.Document) []string {
	was, is := before.Labels(), after.Labels()
	said := []string{}
	for _, c := range master.Difference(before, after) {
		switch {
		case !c.Differs():
			continue
		case len(said) == 20:
			return append(said, "and more")
		case c.Was == nil:
			said = append(said, is[c.Is.Key]+" is new")
		case c.Is == nil:
			said = append(said, was[c.Was.Key]+" is gone")
		default:
			said = append(said, is[c.Is.Key]+": "+strings.Join(c.Fields, ", "))
		}
	}
	return said
}

// RevisionSign signs a draft as checked or released.
type RevisionSign struct {
	Version int    `json:"version" doc:"That was looked at"`
	PIN     string `json:"pin" maxLength:"12" doc:"Of who signs"`
}

// signRevision lets a second person sign a draft.
func (s *Room) signRevision(
	ctx context.Context,
	by book.By,
	act book.Act,
	partCode string,
	in RevisionSign,
	from, to string,
	do func(tx *book.Tx, r *Revision) error,
) (RevisionView, error) {
	by, err := s.Signed(ctx, by, act, in.PIN)
	if err != nil {
		return RevisionView{}, err
	}
	return book.Write(
		ctx,
		s.Book,
		by,
		act,
		to+" revision "+partCode,
		in.Version,
		func(tx *book.Tx) (RevisionView, error) {
			part, r, err := draft(tx, partCode)
			if err != nil {
				return RevisionView{}, err
			}
			if err := r.seen(part, in.Version); err != nil {
				return RevisionView{}, err
			}
			if by.Person != nil && r.ChangedBy != nil && *r.ChangedBy == by.Person.ID {
				return RevisionView{}, book.Second.Errorf(
					"you wrote this draft: a second person has to check and sign",
				)
			}
			if r.State != from {
				if r.State == to {
					return RevisionView{}, book.Done.Errorf(
						"revision %s of %s is %s already",
						r.Letter,
						part.Number,
						to,
					)
				}
				return RevisionView{}, book.NotNow.Errorf(
					"revision %s of %s has to be checked before it is released",
					r.Letter,
					part.Number,
				)
			}
			m, err := s.Master(tx.DB, r)
			if err != nil {
				return RevisionView{}, err
			}
			if err := m.releasable(); err != nil {
				return RevisionView{}, err
			}
			// What is signed is what the document says now, also of a draft that an
			// older program left apart from its plies.
			if err := s.derivePlies(tx, r); err != nil {
				return RevisionView{}, err
			}
			if err := do(tx, &r); err != nil {
				return RevisionView{}, err
			}
			r.State = to
			if err := tx.Save(&r).Error; err != nil {
				return RevisionView{}, err
			}
			if err := tx.Log("revision "+to, part.Code, "", map[string]string{
				"letter": r.Letter, "meaning": to, "role": tx.Role(), "hash": m.Hash(),
			}); err != nil {
				return RevisionView{}, err
			}
			return s.revisionView(tx.DB, part.Code, r.Letter)
		},
	)
}

// CheckRevision signs that the draft of a part was checked. Who wrote it last
// does not sign it.
func (s *Room) CheckRevision(ctx context.Context, by book.By, partCode string, in RevisionSign) (RevisionView, error) {
	return s.signRevision(
		ctx,
		by,
		book.CheckMaster,
		partCode,
		in,
		"draft",
		"checked",
		func(tx *book.Tx, r *Revision) error {
			r.CheckedAt, r.CheckedBy = &tx.Now, tx.By.ID()
			return nil
		},
	)
}

// ReleaseRevision freezes a checked draft; the revision that was released
// before is superseded. Who wrote it last does not sign it.
func (s *Room) ReleaseRevision(
	ctx context.Context,
	by book.By,
	partCode string,
	in RevisionSign,
) (RevisionView, error) {
	return s.signRevision(
		ctx,
		by,
		book.ReleaseMaster,
		partCode,
		in,
		"checked",
		"released",
		func(tx *book.Tx, r *Revision) error {
			if by.Person != nil && r.CheckedBy != nil && *r.CheckedBy == by.Person.ID {
				v, err := book.ShopSettingsOf(tx.DB)
				if err != nil {
					return err
				}
				if !v.Settings.OneReleases {
					return book.Second.Errorf(
						"you checked this revision: somebody else has to release it, unless the shop decides otherwise",
					)
				}
			}
			r.ReleasedAt, r.ReleasedBy = &tx.Now, tx.By.ID()
			return tx.Exec(
				`update revisions set state = 'superseded' where part_id = ? and state = 'released'`,
				r.PartID,
			).Error
		},
	)
}

// NewRevision starts a draft as a copy of the newest released revision.
func (s *Room) NewRevision(ctx context.Context, by book.By, partCode string) (RevisionView, error) {
	return book.Write(
		ctx,
		s.Book,
		by,
		book.WriteMaster,
		"new revision "+partCode,
		nil,
		func(tx *book.Tx) (RevisionView, error) {
			part, err := book.Find[Part](book.Locked(tx.DB), ident.Part, partCode, "part")
			if err != nil {
				return RevisionView{}, err
			}
			var last Revision
			if err := tx.Where("part_id = ?", part.ID).Order("id desc").Take(&last).Error; err != nil {
				return RevisionView{}, err
			}
			if last.State == "draft" || last.State == "checked" {
				return RevisionView{}, book.Taken.Errorf(
					"%s already has a draft, revision %s",
					part.Number,
					last.Letter,
				)
			}
			old, err := s.Master(tx.DB, last)
			if err != nil {
				return RevisionView{}, err
			}
			// A new draft is made of what is bought today.
			doc, err := present(tx, old.Doc)
			if err != nil {
				return RevisionView{}, err
			}
			r := Revision{
				PartID:    part.ID,
				Letter:    master.NextLetter(last.Letter),
				Process:   last.Process,
				ChangedBy: tx.By.ID(),
				CreatedAt: tx.Now,
			}
			if err := s.storeDraft(tx, &r, &doc); err != nil {
				return RevisionView{}, err
			}
			if err := tx.Log("revision started", part.Code, "", map[string]string{
				"letter": r.Letter, "from": last.Letter,
			}); err != nil {
				return RevisionView{}, err
			}
			return s.revisionView(tx.DB, part.Code, r.Letter)
		},
	)
}
