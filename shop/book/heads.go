package book

import (
	"context"
	"encoding/hex"
	"fmt"
	"time"

	"gorm.io/gorm"
)

// Head is the end of the log at a moment: the number and the hash of its last
// entry. Kept outside the database, on paper or in a file of the day, it tells
// whether what stood there then still stands there: whoever can write the table
// can rewrite its end with all hashes, and the chain alone would hold.
type Head struct {
	Entry int64     `json:"entry"`
	Hash  string    `json:"hash" doc:"SHA-256, hex"`
	At    time.Time `json:"at"`
}

// Head is the end of the log now; entry 0 of an empty one.
func (s *Book) Head(ctx context.Context) (Head, error) { return LogHead(s.DB.Gorm.WithContext(ctx)) }

func LogHead(db *gorm.DB) (Head, error) {
	var last Entry
	if err := db.Order("seq desc").Limit(1).Find(&last).Error; err != nil {
		return Head{}, err
	}
	return Head{last.Seq, hex.EncodeToString(last.Hash), last.At}, nil
}

// RewrittenLog is a log that does not say any more what it said.
type RewrittenLog struct{ Head Head }

func (e *RewrittenLog) Error() string {
	return fmt.Sprintf(
		"the log was rewritten: entry %d does not have the hash any more that it had on %s",
		e.Head.Entry,
		e.Head.At.Local().Format("2 Jan 2006 15:04"),
	)
}

// VerifyHeads holds the log against ends of it that were kept outside, and names
// the first that does not fit as a *[RewrittenLog].
func (s *Book) VerifyHeads(ctx context.Context, heads []Head) error {
	for _, h := range heads {
		if h.Entry == 0 {
			continue
		}
		var found []Entry
		if err := s.DB.Gorm.WithContext(ctx).Where("seq = ?", h.Entry).Find(&found).Error; err != nil {
			return err
		}
		if len(found) == 0 || hex.EncodeToString(found[0].Hash) != h.Hash {
			return &RewrittenLog{h}
		}
	}
	return nil
}
