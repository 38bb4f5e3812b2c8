package route

// Room is one room of the work.
type Room string

// The rooms that a build passes, in order.
const (
	Cut      Room = "cut"
	Kit      Room = "kits"
	Layup    Room = "layup"
	Bag      Room = "bag"
	Cure     Room = "cure"
	Release  Room = "release"
	Finished Room = "finished"
	Ended    Room = "ended" // before its time
)

// Order is the rooms in the order of work.
var Order = []Room{Cut, Kit, Layup, Bag, Cure, Release, Finished}

// Progress is what has been recorded of a build.
type Progress struct {
	Plies, Cut   int
	KitCounted   bool
	LayupDone    bool
	LeakPassed   bool
	RunFinished  bool
	Dispositions int
	Ended        bool
}

// RoomOf is the room at which the build waits: the first whose record is not
// complete.
func RoomOf(p Progress) Room {
	switch {
	case p.Ended:
		return Ended
	case p.Dispositions > 0:
		return Finished
	case p.RunFinished:
		return Release
	case p.LeakPassed:
		return Cure
	case p.LayupDone:
		return Bag
	case p.KitCounted:
		return Layup
	case p.Plies > 0 && p.Cut >= p.Plies:
		return Kit
	}
	return Cut
}
