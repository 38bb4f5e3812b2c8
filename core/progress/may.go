package progress

import (
	"fmt"
	"slices"
	"strings"

	"juxta/core/layup"
	"juxta/core/route"
)

// Rule is the kind of a refusal.
type Rule string

// The rules that refuse.
const (
	First      Rule = "first"      // something else comes first
	Over       Rule = "over"       // it is done, signed, closed or over already
	NotNow     Rule = "not now"    // it is in no state for it
	Incomplete Rule = "incomplete" // plies or films are missing
	Needed     Rule = "needed"     // something has to be said
	Unknown    Rule = "unknown"    // there is no such thing
	Wrong      Rule = "wrong"      // it cannot be
)

// Refusal is why something cannot be recorded now: the rule, the field that it is about, and a sentence.
type Refusal struct {
	Rule    Rule   `json:"rule"`
	Field   string `json:"field,omitempty"`
	Message string `json:"message"`
}

func (r *Refusal) Error() string { return r.Message }

func (r Rule) because(format string, args ...any) *Refusal { return r.at("", format, args...) }

func (r Rule) at(field, format string, args ...any) *Refusal {
	return &Refusal{r, field, fmt.Sprintf(format, args...)}
}

// reasons are what is asked where a kind of event needs a reason.
var reasons = map[Kind]string{
	PlyVoided: "say what happened to the ply", PlyTakenBack: "say why the ply comes off",
	Held: "say why it is held", NotGood: "say what is not good", TakenBack: "say what was wrong",
	LeftOut: "say why it is left out", Reworked: "say what is reworked, and why",
	Referred: "say what is to be looked at", Ended: "say why the build ends",
}

// May says why an event cannot be recorded now, or nil. What the shop knows besides (who holds which qualification,
// whether material is spent, what a field asks for) is not asked here.
func (p *Progress) May(e Event) *Refusal {
	if p.End != nil {
		return Over.because("this build was ended: %s", p.End.Reason)
	}
	if ask, asks := reasons[e.Kind]; asks && strings.TrimSpace(e.Reason) == "" {
		return Needed.at("reason", "%s", ask)
	}
	if p.Release != nil && !slices.Contains([]Kind{RunStopped, RunFailed, RunEnded, FilmFound}, e.Kind) {
		return Over.because("this part is signed off already: %s", p.Release.Says)
	}
	switch e.Kind {
	case Referred:
		return nil
	case Ended:
		for _, r := range p.Runs {
			if r.Ended == nil {
				return NotNow.because("this part is in the oven: stop its run %s, or let it end", r.Code)
			}
		}
		return nil
	case Reworked:
		return p.mayRework(e)
	case Released:
		for k, o := range p.Route.Operations {
			if o.Kind == route.Releasing {
				return p.Turn(k)
			}
		}
		return nil
	}
	k := p.of(&e)
	switch {
	case k < 0 && e.Ply > 0:
		return p.noPly(e)
	case k < 0:
		return Unknown.at("operation", "there is no operation %q", e.Operation)
	}
	switch e.Kind {
	case PlyCut, PlyVoided, PlyCounted, PlySetAside, KitCounted:
		return p.mayKit(e, k)
	case PlyLaid, PlyTakenBack, FilmFound, DemandMet, DebulkBegun, DebulkEnded:
		return p.mayBench(e, k)
	case BagClosed, LeakBegun, LeakChecked:
		return p.mayBag(e, k)
	case RunBegun, RunStopped, RunFailed, RunEnded:
		return p.mayRun(e, k)
	case Begun, Resumed, Signed, NotGood, Held, TakenBack, LeftOut:
		return p.maySign(e, k)
	}
	return Unknown.because("%q is no kind of event", e.Kind)
}

// noPly says why a ply has no operation for an event.
func (p *Progress) noPly(e Event) *Refusal {
	if p.StageOf(e.Ply) == "" {
		return Unknown.because("there is no ply %d", e.Ply)
	}
	does := "laid"
	switch e.Kind {
	case PlyCut, PlyVoided:
		does = "cut"
	case PlyCounted, PlySetAside:
		does = "counted"
	}
	return NotNow.because("ply %d is not %s by this route", e.Ply, does)
}

// Turn refuses an operation that is not to be gone on with: it is neither ready nor in work.
func (p *Progress) Turn(k int) *Refusal { return p.stands(k, route.Ready, route.InWork) }

// stands refuses an operation that is in none of some states.
func (p *Progress) stands(k int, states ...route.State) *Refusal {
	says, at := p.Route.Called(k), p.Statuses[k]
	if slices.Contains(states, at.State) {
		return nil
	}
	switch at.State {
	case route.Waiting:
		return First.because("%s %s", says, route.WaitReason(at.Reasons))
	case route.Held:
		return First.because("%s is held, by %s: %s. Resume it first, on the page of the route", says, at.Recorded.By,
			at.Recorded.Reason)
	case route.Ready:
		return NotNow.because("%s is not begun", says)
	}
	by := ""
	if m, there := p.LastRecorded(k); there && m.By != "" {
		by = ", by " + m.By
		if at.State == route.InWork {
			by = ", since " + m.At.Format("Mon 15:04") + by[1:]
		}
	}
	return Over.because("%s is %s already%s", says, at.State, by)
}

// begun is what was recorded by people: a cut of no plies is over without anybody.
func (p *Progress) begun() map[string]route.RecordedStatus {
	out := map[string]route.RecordedStatus{}
	for key, m := range p.Recorded {
		if p.at[p.index(key)].recorded {
			out[key] = m
		}
	}
	return out
}

// BeganAfter says whether something was begun of what rests on an operation.
func (p *Progress) BeganAfter(k int) bool {
	says, _ := p.beganAfter(k)
	return says != ""
}

// beganAfter names the first that was begun of what rests on an operation; empty: nothing was.
func (p *Progress) beganAfter(k int) (says string, state route.State) {
	begun := p.Route.Reopens(p.Route.Operations[k].Key, p.begun())
	if len(begun) == 0 {
		return "", ""
	}
	return p.Route.Called(p.index(begun[0])), p.Recorded[begun[0]].State
}

// mayKit is about what is cut and counted.
func (p *Progress) mayKit(e Event, k int) *Refusal {
	if e.Kind == KitCounted {
		return p.mayClose(k)
	}
	y := p.plies[e.Ply]
	has, counted := slices.Contains(y.labels, e.Label), y.counted[e.Label]
	switch e.Kind {
	case PlyCut:
		if has {
			return Over.because("%s, ply %d, is cut already", e.Label, e.Ply)
		}
		if p.Statuses[k].State == route.Done {
			return Over.because("ply %d is cut already", e.Ply)
		}
		return p.Turn(k)
	case PlyVoided:
		switch {
		case !has:
			return Unknown.at("label", "%s is no cut ply of this build", e.Label)
		case p.Done.Laid[e.Ply]:
			return First.because("ply %d is laid: take it back first", e.Ply)
		}
		return nil
	}
	switch {
	case !has:
		return Unknown.at("label", "%s is no cut ply of this build", e.Label)
	case p.Statuses[k].State == route.Done:
		return Over.because("this kit is already counted and closed")
	case e.Kind == PlyCounted && counted:
		return Over.because(
			"%s, ply %d, is already counted: one label lies twice, or was scanned twice",
			e.Label,
			e.Ply,
		)
	case e.Kind == PlySetAside && !counted:
		return NotNow.because("%s is not counted into this kit", e.Label)
	}
	return nil
}

// mayClose is about the count of a whole kit: every ply of its stages there, none twice.
func (p *Progress) mayClose(k int) *Refusal {
	if p.Statuses[k].State == route.Done {
		return Over.because("this kit is already counted and closed")
	}
	for n, stage := range p.Plies {
		if p.kitting[stage] != k || !slices.Contains(p.Route.Operations[k].Stages, stage) {
			continue
		}
		switch counted := len(p.plies[n+1].counted); {
		case counted == 0:
			return Incomplete.because("ply %d missing: find it or cut it again", n+1)
		case counted > 1:
			return Incomplete.because("ply %d doubled: set one aside", n+1)
		}
	}
	return p.Turn(k)
}

// MayLay refuses work at the bench of an operation before its turn, or once what rests on it is begun. What is done may
// be opened again: its last ply may come off.
func (p *Progress) MayLay(k int) *Refusal {
	if says, state := p.beganAfter(k); says != "" {
		return NotNow.because("%s is %s already: it lies on this layup", says, state)
	}
	if p.Statuses[k].State == route.Done {
		return nil
	}
	return p.Turn(k)
}

// bench is what there is to do at the bench of an operation.
func (p *Progress) bench(k int) layup.Bench {
	b := p.Benches[p.Route.Operations[k].Key]
	return layup.Bench{Steps: b.Steps, Demands: b.Demands, Done: p.Done}
}

// refused is a refusal of the bench.
func refused(r *layup.Refusal) *Refusal {
	switch {
	case r == nil:
		return nil
	case r.Unknown:
		return Unknown.because("%s", r.Message)
	case r.Late:
		return NotNow.because("%s", r.Message)
	}
	return First.because("%s", r.Message)
}

// mayBench is about what is laid and pressed.
func (p *Progress) mayBench(e Event, k int) *Refusal {
	bench := p.bench(k)
	next, open := layup.Next(bench.Steps, bench.Done)
	if e.Kind == DemandMet {
		// What was passed over before it was asked for is signed afterwards, bag or none.
		_, not := bench.MayMeet(e.Point, e.Item)
		if not != nil && (not.Unknown || p.Done.Met[layup.MetDemand{Kind: e.Point, Key: e.Item}]) {
			return refused(not)
		}
		if p.Statuses[k].State == route.Waiting {
			return p.Turn(k)
		}
		return refused(not)
	}
	if r := p.MayLay(k); r != nil {
		return r
	}
	switch e.Kind {
	case PlyLaid:
		if p.Done.Laid[e.Ply] {
			return Over.because("ply %d is already signed, by %s", e.Ply, p.plies[e.Ply].by)
		}
		if _, not := bench.MaySign(e.Ply); not != nil {
			return refused(not)
		}
		if !slices.Contains(p.plies[e.Ply].labels, e.Label) {
			return Unknown.at("label", "%s is no cut ply of ply %d", e.Label, e.Ply)
		}
	case PlyTakenBack:
		last := p.lastLaid(bench.Steps)
		switch {
		case last == 0:
			return NotNow.because("no ply is laid yet")
		case p.at[k].debulk != nil:
			return NotNow.because("a debulk is running: end it first")
		case e.Ply != last:
			return NotNow.because("only the last ply laid can be taken back: that is ply %d", last)
		}
	case FilmFound:
		switch {
		case !p.Done.Laid[e.Ply]:
			return NotNow.because("ply %d is not laid", e.Ply)
		case p.plies[e.Ply].films == 0:
			return NotNow.because("every film of ply %d is accounted for", e.Ply)
		}
	case DebulkBegun:
		switch short := p.short(bench.Steps); {
		case p.at[k].debulk != nil:
			return Over.because("a debulk is already running, started by %s", p.at[k].debulk.Who)
		case !open || !next.Debulk:
			return NotNow.because("no debulk is due%s", bench.First(next))
		case short > 0:
			return Incomplete.because("ply %d: a film is unaccounted for. Find it before the debulk", short)
		}
	case DebulkEnded:
		if p.at[k].debulk == nil {
			return NotNow.because("no debulk is running")
		}
	}
	return nil
}

// lastLaid is the last ply of some steps that lies; 0: none does.
func (p *Progress) lastLaid(steps []layup.Step) int {
	for _, s := range slices.Backward(steps) {
		if !s.Debulk && s.Kind == "" && p.Done.Laid[s.Ply] {
			return s.Ply
		}
	}
	return 0
}

// short is the first ply of some steps with a film unaccounted for; 0: there is none.
func (p *Progress) short(steps []layup.Step) int {
	for _, s := range steps {
		if !s.Debulk && s.Kind == "" && p.Done.Laid[s.Ply] && p.plies[s.Ply].films > 0 {
			return s.Ply
		}
	}
	return 0
}

// mayBag is about what is closed and checked for leaks.
func (p *Progress) mayBag(e Event, k int) *Refusal {
	if p.Route.Operations[k].Kind != route.Closing {
		return Wrong.because("%s closes nothing", p.Route.Called(k))
	}
	at := p.at[k]
	if e.Kind == BagClosed {
		if at.bag != nil {
			return Over.because("the bag is already closed, by %s", at.bag.Who)
		}
		return p.Turn(k)
	}
	switch says, _ := p.beganAfter(k); {
	case at.bag == nil:
		return First.because("close the bag first")
	case !at.bag.Vacuum:
		return NotNow.because("nothing here is drawn down by vacuum: there is nothing to check for leaks")
	case says != "":
		return Over.because("%s was begun on this bag already", says)
	case e.Kind == LeakBegun && at.leak != nil:
		return Over.because("a leak check is going on already, begun by %s", at.leak.Who)
	}
	if p.Statuses[k].State == route.Held {
		return p.Turn(k)
	}
	return nil
}

// mayRun is about what is heated.
func (p *Progress) mayRun(e Event, k int) *Refusal {
	o := p.Route.Operations[k]
	if !o.Heats() {
		return Wrong.because("%s has no run", p.Route.Called(k))
	}
	run, there := p.LastRun(k)
	if e.Kind == RunBegun {
		if p.Statuses[k].State == route.InWork {
			return Over.because("this part is in its run already")
		}
		return p.stands(k, route.Ready)
	}
	if !there || run.Ended != nil || run.Code != e.Run {
		return NotNow.because("run %s is not going on", e.Run)
	}
	return nil
}

// maySign is about operations that are signed for themselves, and what quality and others say of any.
func (p *Progress) maySign(e Event, k int) *Refusal {
	o, state, says := p.Route.Operations[k], p.Statuses[k].State, p.Route.Called(k)
	if !p.Single(k) && !p.beside(e.Kind, k) {
		return First.because("%s is signed in its own room", says)
	}
	switch e.Kind {
	case Begun, Resumed:
		return p.stands(k, route.Ready, route.Held)
	case Signed, NotGood:
		if o.Kind == route.Outside && state == route.Ready {
			return First.because("send it out first, and say when it is due back")
		}
		_, done, there := p.Bench(k)
		if r := p.Turn(k); r != nil || e.Kind == NotGood || o.Kind != route.Joining || !there || done {
			return r
		}
		return First.because("lay the plies that close the joint first")
	case Held:
		return p.Turn(k)
	case TakenBack:
		if p.at[k].line == nil {
			return NotNow.because("nothing is recorded of %s", says)
		}
		if begun, _ := p.beganAfter(k); begun != "" && state == route.LeftOut {
			return NotNow.because("%s was begun without it: take that back first", begun)
		}
		return nil
	}
	may := []route.State{route.Ready, route.Waiting, route.Held} // left out
	if p.Single(k) {
		may = append(may, route.InWork) // a room that is at it, or a run, is stopped there first
	}
	return p.stands(k, may...)
}

// beside says whether something may be recorded of an operation beside what its room records: that it is left out or
// taken in again, that it is held, and that it is taken up again.
func (p *Progress) beside(kind Kind, k int) bool {
	o, state := p.Route.Operations[k], p.Statuses[k].State
	if o.Kind == route.Releasing {
		return false
	}
	running := o.Heats() && state == route.InWork // it is stopped at the oven
	switch kind {
	case LeftOut:
		return true
	case TakenBack:
		return state == route.LeftOut
	case Held:
		return !running
	case Begun, Resumed:
		return state == route.Held
	}
	return false
}

// mayRework is about an operation that is added to this build alone. What is begun is never made to wait for it.
func (p *Progress) mayRework(e Event) *Refusal {
	if e.Added == nil {
		return Needed.at("name", "say what is to be done")
	}
	if !e.Added.Kind.Single() || e.Added.Kind == route.Joining {
		return Wrong.at("kind", "a rework is something that is signed for itself, not %q", e.Added.Kind)
	}
	if _, faults := p.Route.With([]route.Operation{*e.Added}, map[string][]string{e.Added.Key: e.Before},
		p.begun()); len(faults) > 0 {
		return Wrong.at(faults[0].Field, "%s", faults[0].Message)
	}
	return nil
}
