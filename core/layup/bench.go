package layup

import "fmt"

// Refusal is why something cannot be signed at the bench. Late says that it is
// not its turn, or that somebody was first; Unknown that there is no such thing;
// otherwise a rule of the shop forbids it.
type Refusal struct {
	Message string
	Late    bool
	Unknown bool
}

func late(format string, args ...any) *Refusal {
	return &Refusal{Message: fmt.Sprintf(format, args...), Late: true}
}

func forbidden(format string, args ...any) *Refusal {
	return &Refusal{Message: fmt.Sprintf(format, args...)}
}

// Bench is a layup as far as it has come, with what its demands ask for.
type Bench struct {
	Steps   []Step
	Done    Done
	Demands map[MetDemand]string // of the demands
}

// First says what has to be done before a step that waits for a demand, as the
// end of a refusal.
func (b Bench) First(s Step) string {
	says := b.Demands[MetDemand{Kind: s.Kind, Key: s.Key}]
	switch s.Kind {
	case Hold:
		return fmt.Sprintf(": the hold point at ply %d is not signed as done (%s)", s.Ply, says)
	case Second:
		return ": " + says + " first, and signs"
	}
	return ""
}

// MaySign is the step that a signature for a ply signs, or why it is not to be
// signed now: only the next ply is, and only where nothing else comes first.
func (b Bench) MaySign(ply int) (Step, *Refusal) {
	next, open := Next(b.Steps, b.Done)
	switch {
	case !open:
		return next, late("every ply of this part is laid")
	case next.Debulk:
		return next, forbidden("debulk first: due after ply %d", next.Ply)
	case next.Kind != "":
		return next, forbidden("ply %d waits%s", ply, b.First(next))
	case ply != next.Ply:
		return next, late("ply %d comes next, not ply %d", next.Ply, ply)
	}
	return next, nil
}

// MayMeet is a demand that may be signed as met, or why not: its turn comes when
// everything before it is done.
func (b Bench) MayMeet(kind, key string) (Step, *Refusal) {
	for k, s := range b.Steps {
		if s.Kind == "" || s.Kind != kind || s.Key != key {
			continue
		}
		if b.Done.Met[MetDemand{Kind: kind, Key: key}] {
			return s, late("this is signed already")
		}
		next, open := Next(b.Steps[:k], b.Done)
		switch {
		case open && next.Kind != "":
			return s, forbidden("this comes later%s", b.First(next))
		case open:
			return s, forbidden("this comes after ply %d", next.Ply)
		}
		return s, nil
	}
	return Step{}, &Refusal{Message: "the master has no such point there", Unknown: true}
}

// Label is that of a cut ply, as somebody brings it to the bench.
type Label struct {
	Code    string
	Ply     int
	Counted bool // into this kit
	Films   int  // that there are to take off
	Laid    bool
}

// Fits says why a label is not the one to be signed for the next ply, or nil.
func (l Label) Fits(next int) *Refusal {
	switch {
	case l.Ply != next:
		return late("%s is ply %d: ply %d comes next", l.Code, l.Ply, next)
	case !l.Counted:
		return forbidden("%s was not counted into this kit", l.Code)
	}
	return nil
}

// Off says why a tally of films cannot be one of this ply, or nil.
func (l Label) Off(films int) error {
	if films < 0 || films > l.Films {
		return fmt.Errorf("this material has %d films, not %d", l.Films, films)
	}
	return nil
}

// Scanned says what a label is beside the ply that comes next, 0 for none, and
// whether it fits.
func (l Label) Scanned(next int) (says string, fits bool) {
	switch {
	case l.Laid:
		return fmt.Sprintf("%s is ply %d, which is laid already", l.Code, l.Ply), false
	case !l.Counted:
		return fmt.Sprintf("%s is ply %d and was not counted into this kit", l.Code, l.Ply), false
	case next == 0:
		return fmt.Sprintf("%s is ply %d: no ply is expected now", l.Code, l.Ply), false
	case next != l.Ply:
		return fmt.Sprintf("%s is ply %d: ply %d comes next", l.Code, l.Ply, next), false
	}
	return fmt.Sprintf("%s is ply %d, which comes next", l.Code, l.Ply), true
}

// CheckKit says why nothing may be laid from a kit, or nil: it is not whole, or the bag
// of its part is closed.
func CheckKit(counted, bagClosed bool) *Refusal {
	switch {
	case !counted:
		return forbidden("count the kit first: nothing may be laid from a kit that is not whole")
	case bagClosed:
		return late("the bag of this part is already closed")
	}
	return nil
}
