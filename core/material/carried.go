package material

import "time"

// CarriedLife is what a piece takes along of the roll that it is cut from, be it a
// ply or an off-cut: the out-time that is spent, and what re-tests gave the roll
// until then. What a later re-test gives the roll is not the piece's: it lay
// elsewhere meanwhile.
type CarriedLife struct {
	Spent time.Duration
	More  time.Duration // out-life that re-tests added
	Until time.Time     // end of shelf life by the last re-test; zero: none
}

// Carry is what a piece takes along that is cut off at the clock's moment.
func (c Clock) Carry() CarriedLife { return CarriedLife{c.Spent, c.More, c.Until} }

// Piece is the history of a piece that was cut, and so out of the freezer, at
// cut, and was moved together with others since. Moves (in and out) in the order
// of their time: those before the cut are not its own, nor is one that finds it
// where it leads; and what came after the end counts no more.
func (c CarriedLife) Piece(cut, end time.Time, moves []Event, warm []Warm) History {
	events, out := []Event{{Kind: Out, At: cut}}, true
	for _, e := range moves {
		if e.At.Before(cut) || e.At.After(end) || (e.Kind == Out) == out {
			continue
		}
		out = e.Kind == Out
		events = append(events, e)
	}
	return History{Base: c, Events: events, Warm: warm}
}
