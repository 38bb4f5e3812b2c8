package builds

import (
	"context"
	"fmt"

	"gorm.io/gorm"

	"juxta/core/ident"
	"juxta/shop/book"
	"juxta/shop/parts"
)

// NextSerial is the serial that a part's next build may have.
type NextSerial struct {
	Serial string `json:"serial"`
}

// ProposedSerial is one more than the highest number among the serials of a part's builds, to whatever revision, ended
// ones too, written as wide as that one was.
func (s *Room) ProposedSerial(ctx context.Context, partCode string) (NextSerial, error) {
	return book.View(ctx, s.Book, func(db *gorm.DB) (NextSerial, error) {
		part, err := book.Find[parts.Part](db, ident.Part, partCode, "part")
		if err != nil {
			return NextSerial{}, err
		}
		var last struct {
			Number int64
			Width  int
		}
		if err := db.Raw(`select b.serial::bigint as number, length(b.serial) as width from builds b
			join revisions r on r.id = b.revision_id where r.part_id = ? and b.serial ~ '^[0-9]{1,15}$'
			order by 1 desc limit 1`, part.ID).Scan(&last).Error; err != nil {
			return NextSerial{}, err
		}
		return NextSerial{fmt.Sprintf("%0*d", max(4, last.Width), last.Number+1)}, nil
	})
}
