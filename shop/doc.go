// Package shop is the door to the rooms of the shop: what each of them keeps and does is asked of it.
//
// The rooms stand in an order: book, people, climate, recipes, stock, parts, builds, then cutting, curing and finish,
// and inspect; each knows those before it, and a test holds the arrows (arrows_test.go).
//
// [Shop] embeds the rooms, so that callers say s.Sign(…) of all of them. Besides it answers what spans the rooms: the
// day of a person (today.go), the day by place (places.go: what was recorded, and what comes next laid after it, each
// place one thing after another; a projection, no schedule), a search and the thread of a part or a roll (thread.go).
//
// Every write is one transaction with its entry in the log, safe to repeat by its key (shop/book).
package shop
