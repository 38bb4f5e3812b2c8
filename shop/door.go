// Package shop is the door to the rooms of the shop: what each of them keeps and
// does is asked of it. The rooms stand in an order: book, people, climate, stock,
// parts, builds, then cutting and curing, and inspect; each knows those before it.
package shop

import (
	"juxta/shop/book"
	"juxta/shop/climate"
	"juxta/shop/people"
)

// The rooms by name, for a struct cannot embed several of one.
type (
	peopleRoom  = people.Room
	climateRoom = climate.Room
)

// Shop is the door to all rooms: what a room does is asked of it.
type Shop struct {
	*book.Book
	*peopleRoom
	*climateRoom
	plans plans
	// Follow puts a material's new version into the drafts of masters.
	Follow func(tx *book.Tx, family, present int64) error
}

// New opens the rooms of a shop that keeps one book.
func New(b *book.Book) *Shop {
	folk := &people.Room{Book: b}
	air := &climate.Room{Room: folk}
	s := &Shop{Book: b, peopleRoom: folk, climateRoom: air}
	s.Follow = s.followInDrafts
	return s
}
