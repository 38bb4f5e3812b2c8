package shop

import (
	"context"
	"fmt"

	"gorm.io/gorm"

	"juxta/core/ident"
	"juxta/shop/book"
	"juxta/shop/builds"
)

// RoomCount is one room with what waits there.
type RoomCount struct {
	Room    string `json:"room"`
	Summary string `json:"summary" doc:"What waits, in a few words"`
	Count   int    `json:"count"`
}

// Rooms is the state of the shop in one line: every room with what waits.
func (s *Shop) Rooms(ctx context.Context) ([]RoomCount, error) {
	return book.Cached(
		ctx,
		s.Book,
		"rooms",
		func(ctx context.Context) ([]RoomCount, error) { return book.View(ctx, s.Book, s.rooms) },
	)
}

func (s *Shop) rooms(db *gorm.DB) ([]RoomCount, error) {
	rows, err := s.BuildRows(db, "b.done_at is null")
	if err != nil {
		return nil, err
	}
	at := map[string]int{}
	finishing := 0
	for _, r := range rows {
		for _, room := range r.Rooms() {
			at[room]++
		}
		for _, o := range r.Open {
			if o.Room == "finish" {
				finishing++
			}
		}
	}
	var sums struct{ Out, Drafts, Running int }
	if err := db.Raw(`select
		(select count(*) from rolls where length > 0 and out) as out,
		(select count(*) from revisions where state = 'draft') as drafts,
		(select count(*) from runs where state in ('queued', 'running')) as running`).Scan(&sums).Error; err != nil {
		return nil, err
	}
	say := func(n int, one, many string) string {
		switch n {
		case 0:
			return "nothing waits"
		case 1:
			return "1 " + one
		}
		return fmt.Sprintf("%d %s", n, many)
	}
	cure := say(at["cure"]-sums.Running, "to load", "to load")
	if sums.Running > 0 {
		cure = say(sums.Running, "running", "running")
	}
	freezer := "all put away"
	if sums.Out > 0 {
		freezer = say(sums.Out, "roll is out", "rolls are out")
	}
	return []RoomCount{
		{"freezer", freezer, sums.Out},
		{"parts", say(sums.Drafts, "draft", "drafts"), sums.Drafts},
		{"cut", say(at["cut"], "to cut", "to cut"), at["cut"]},
		{"kits", say(at["kits"], "to count", "to count"), at["kits"]},
		{"layup", say(at["layup"], "on a bench", "on benches"), at["layup"]},
		{"bag", say(at["bag"], "to bag", "to bag"), at["bag"]},
		{"cure", cure, at["cure"]},
		{"finish", say(finishing, "to do", "to do"), finishing},
		{"release", say(at["release"], "to inspect", "to inspect"), at["release"]},
		{"thread", "find anything", 0},
	}, nil
}

// ScanResult says what an id is and where it leads.
type ScanResult struct {
	Kind string `json:"kind" enum:"roll,part,build,cutPly,nest,run,batch,badge,preform"`
	ID   string `json:"id"`
	Path string `json:"path" doc:"Page that shows it"`
}

// pages are the things whose page follows from their id alone.
var pages = map[ident.Kind]struct{ exists, kind, called, path string }{
	ident.Roll:  {`select exists (select from rolls where code = $1)`, "roll", "roll", "/freezer/"},
	ident.Batch: {`select exists (select from batches where code = $1)`, "batch", "batch", "/freezer/batches/"},
	ident.Part:  {`select exists (select from parts where code = $1)`, "part", "part", "/parts/"},
	ident.Nest:  {`select exists (select from nests where code = $1)`, "nest", "nest", "/cut/"},
	ident.Run:   {`select exists (select from runs where code = $1)`, "run", "run", "/cure/"},
}

// Scan finds the thing with this id. A scan is what people wait for most often:
// it costs one look at an index.
func (s *Shop) Scan(ctx context.Context, id string) (ScanResult, error) {
	kind, code, err := ident.Parse(id)
	if err != nil {
		return ScanResult{}, book.Unreadable.At("id", "%s", err)
	}
	if page, ok := pages[kind]; ok {
		var there bool
		if err := s.DB.Pool.QueryRow(ctx, page.exists, code).Scan(&there); err != nil {
			return ScanResult{}, err
		}
		if !there {
			return ScanResult{}, book.NoSuch.Errorf("there is no %s %s here", page.called, code)
		}
		return ScanResult{page.kind, code, page.path + code}, nil
	}
	db := s.DB.Gorm.WithContext(ctx)
	switch kind {
	case ident.Badge:
		// Whoever scans a badge wants to sign in; the page sees to it.
		_, err = s.WhoseBadge(ctx, code)
		return ScanResult{"badge", code, ""}, err
	case ident.Preform:
		f, err := book.Find[builds.Preform](db, kind, code, "pre-form")
		if err != nil {
			return ScanResult{}, err
		}
		var b builds.Build
		err = db.Take(&b, f.BuildID).Error
		return ScanResult{"preform", code, "/finish/" + b.Code}, err
	case ident.CutPly:
		c, err := book.Find[builds.CutPly](db, kind, code, "cut ply")
		if err != nil {
			return ScanResult{}, err
		}
		var b builds.Build
		err = db.Take(&b, c.BuildID).Error
		return ScanResult{"cutPly", code, "/kits/" + b.Code}, err
	}
	b, err := s.Build(db, code)
	if err != nil {
		return ScanResult{}, err
	}
	path := b.Room + "/" + code
	if len(b.Open) > 0 {
		path = "finish/" + code // its way, with what can be done now
	}
	if b.Room == "finished" {
		path = "thread/" + code
	}
	if b.Room == "cut" || b.Room == "cure" && len(b.Open) == 0 {
		path = b.Room
	}
	return ScanResult{"build", code, "/" + path}, nil
}
