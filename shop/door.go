package shop

import (
	"juxta/shop/book"
	"juxta/shop/builds"
	"juxta/shop/climate"
	"juxta/shop/curing"
	"juxta/shop/cutting"
	"juxta/shop/finish"
	"juxta/shop/inspect"
	"juxta/shop/parts"
	"juxta/shop/people"
	"juxta/shop/recipes"
	"juxta/shop/stock"
)

// The rooms by name, for a struct cannot embed several of one.
type (
	peopleRoom  = people.Room
	climateRoom = climate.Room
	recipesRoom = recipes.Room
	stockRoom   = stock.Room
	partsRoom   = parts.Room
	buildsRoom  = builds.Room
	cuttingRoom = cutting.Room
	curingRoom  = curing.Room
	finishRoom  = finish.Room
	inspectRoom = inspect.Room
)

// Shop is the door to all rooms: what a room does is asked of it.
type Shop struct {
	*book.Book
	*peopleRoom
	*climateRoom
	*recipesRoom
	*stockRoom
	*partsRoom
	*buildsRoom
	*cuttingRoom
	*curingRoom
	*finishRoom
	*inspectRoom
}

// New opens the rooms of a shop that keeps one book.
func New(b *book.Book) *Shop {
	folk := people.New(b)
	air := &climate.Room{Room: folk}
	cures := &recipes.Room{Room: air}
	goods := &stock.Room{Room: cures}
	masters := &parts.Room{Room: goods}
	making := &builds.Room{Room: masters}
	finishing := &finish.Room{Room: making}
	s := &Shop{
		Book: b, peopleRoom: folk, climateRoom: air, recipesRoom: cures, stockRoom: goods, partsRoom: masters,
		buildsRoom: making,
		cuttingRoom: &cutting.Room{
			Room: making,
		}, curingRoom: &curing.Room{Room: making}, finishRoom: finishing,
		inspectRoom: &inspect.Room{Room: finishing},
	}
	s.Follow = s.FollowInDrafts
	return s
}
