// Package route knows the stages in the order of work and where a build
// stands among them.
package route

// Stage is one stage of the work.
type Stage string

// The stages that a build passes, in order.
const (
	Cut      Stage = "cut"
	Kit      Stage = "kits"
	Layup    Stage = "layup"
	Bag      Stage = "bag"
	Cure     Stage = "cure"
	Release  Stage = "release"
	Finished Stage = "finished"
	Ended    Stage = "ended" // before its time
)

// Order is the stages in the order of work.
var Order = []Stage{Cut, Kit, Layup, Bag, Cure, Release, Finished}

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

// StageOf is the stage at which the build waits: the first whose record is not
// complete.
func StageOf(p Progress) Stage {
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
