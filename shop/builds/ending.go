package builds

import (
	"context"
	"strings"

	"juxta/core/ident"
	"juxta/shop/book"
	"juxta/shop/parts"
)

// What is given up before its time: a build, a part begun by mistake. Both stay
// in the record with their reason, and leave every queue and demand.

// Ending is why something is given up.
type Ending struct {
	Reason string `json:"reason" minLength:"1" maxLength:"400"`
}

// EndBuild ends a build before its time, wherever it stands. What was cut for it
// stays cut; a run that it lies in goes on.
func (s *Room) EndBuild(ctx context.Context, by book.By, code string, in Ending) (BuildLine, error) {
	return book.Write(ctx, s.Book, by, book.GiveUpBuild, "end build "+code, in, func(tx *book.Tx) (BuildLine, error) {
		b, err := s.Held(tx, code)
		if err != nil {
			return BuildLine{}, err
		}
		reason := strings.TrimSpace(in.Reason)
		switch {
		case reason == "":
			return BuildLine{}, book.Needed.At("reason", "say why the build ends")
		case b.Outcome != "":
			return BuildLine{}, book.Done.Errorf("this part is signed off already: %s", b.Outcome)
		case b.RunState == "queued" || b.RunState == "running":
			return BuildLine{}, book.NotNow.Errorf("this part is in the oven: stop its run %s, or let it end", b.Run)
		}
		if err := tx.Model(&Build{ID: b.ID}).Updates(map[string]any{
			"ended_at": tx.Now, "ended_by": tx.By.ID(), "ended_why": reason, "done_at": tx.Now,
		}).Error; err != nil {
			return BuildLine{}, err
		}
		if err := tx.Log("build ended", b.Code, reason, map[string]any{
			"room": b.Room, "laid": b.Laid, "role": tx.Role(), "meaning": "ended",
		}); err != nil {
			return BuildLine{}, err
		}
		return s.line(tx, b.Code)
	})
}

// ArchivePart archives a part that was begun by mistake: it leaves the list of
// parts, and may be restored. One that has builds under way stays.
func (s *Room) ArchivePart(ctx context.Context, by book.By, code string, in Ending) (parts.PartLine, error) {
	return s.keepPart(ctx, by, code, "archive", in, func(tx *book.Tx, p *parts.Part) error {
		reason := strings.TrimSpace(in.Reason)
		if reason == "" {
			return book.Needed.At("reason", "say why the part is archived")
		}
		if p.ArchivedAt != nil {
			return book.Done.Errorf("%s is already archived", p.Number)
		}
		var open int64
		if err := tx.Raw(`select count(*) from builds b join revisions r on r.id = b.revision_id where r.part_id = ?
			and b.done_at is null`, p.ID).Scan(&open).Error; err != nil {
			return err
		}
		if open > 0 {
			return book.NotNow.Errorf("%s has builds under way: end them first", p.Number)
		}
		p.ArchivedAt, p.ArchivedBy, p.ArchivedWhy = &tx.Now, tx.By.ID(), reason
		return tx.Log("part archived", p.Code, reason, nil)
	})
}

// RestorePart restores an archived part.
func (s *Room) RestorePart(ctx context.Context, by book.By, code string) (parts.PartLine, error) {
	return s.keepPart(ctx, by, code, "restore", nil, func(tx *book.Tx, p *parts.Part) error {
		if p.ArchivedAt == nil {
			return book.NotNow.Errorf("%s is not archived", p.Number)
		}
		p.ArchivedAt, p.ArchivedBy, p.ArchivedWhy = nil, nil, ""
		return tx.Log("part restored", p.Code, "", nil)
	})
}

func (s *Room) keepPart(
	ctx context.Context,
	by book.By,
	code, what string,
	in any,
	do func(tx *book.Tx, p *parts.Part) error,
) (parts.PartLine, error) {
	return book.Write(ctx, s.Book, by, book.WriteMaster, what+" "+code, in, func(tx *book.Tx) (parts.PartLine, error) {
		p, err := book.Find[parts.Part](book.Locked(tx.DB), ident.Part, code, "part")
		if err != nil {
			return parts.PartLine{}, err
		}
		if err := do(tx, &p); err != nil {
			return parts.PartLine{}, err
		}
		if err := tx.Save(&p).Error; err != nil {
			return parts.PartLine{}, err
		}
		lines, err := s.PartLines(tx.DB, p.Code)
		if err != nil {
			return parts.PartLine{}, err
		}
		return lines[0], nil
	})
}
