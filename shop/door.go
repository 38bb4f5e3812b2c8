package shop

// Shop is the door to all rooms: what a room does is asked of it.
type Shop struct {
	*Book
	plans plans
	// Follow puts a material's new version into the drafts of masters.
	Follow func(tx *Tx, family, present int64) error
}

// New opens the rooms of a shop that keeps one book.
func New(b *Book) *Shop {
	s := &Shop{Book: b}
	s.Follow = s.followInDrafts
	return s
}
