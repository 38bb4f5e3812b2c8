package shop_test

import (
	"fmt"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"juxta/core/cure"
	"juxta/core/master"
	"juxta/core/unit"
	"juxta/shop"
	"juxta/shop/book"
	"juxta/shop/builds"
	"juxta/shop/curing"
	"juxta/shop/cutting"
	"juxta/shop/finish"
	"juxta/shop/parts"
)

// until is when something that runs by itself is over.
func until(d shop.Day, says string) *time.Time {
	for _, x := range d.Itself {
		if x.Label == says {
			return x.Until
		}
	}
	return nil
}

// heat is a run of an hour at a temperature, in K, that asks for no degree of cure.
func heat(name string, kelvin float64) *master.Heat {
	return &master.Heat{
		Recipe: cure.Recipe{
			Name: name, Start: 295, Tolerance: 5, Segments: []cure.Segment{{Target: kelvin, Rate: 0.05, Hold: 3600}},
		},
		Limits: master.RunLimits{SoakBelow: 4, MaxPart: kelvin + 8, MaxRamp: 0.1, MaxGap: 300},
	}
}

// An operation with settings of its own goes by these in every room, and the others by the
// process of the revision.
func TestEachOperationGoesByItsOwnSettings(t *testing.T) {
	h := open(t)
	h.sets = func(o *master.Operation) {
		switch o.Key {
		case "lay c":
			o.Debulks = &master.Debulks{First: true, Every: 5, Seconds: 60, Vacuum: 70e3}
		case "close c":
			o.Closing = &master.Closing{Stack: "caul", LeakStart: 60e3, LeakDrop: 1e3, LeakSeconds: 600}
		case "cure c":
			o.Heat = heat("second skin, 110", 383)
		}
	}
	code := h.walking(
		"sandwich, three cures",
		master.Stage{Key: "a", Name: "Skin", Kind: "skin"},
		master.Stage{
			Key:  "b",
			Name: "Core",
			Kind: "core",
		},
		master.Stage{Key: "c", Name: "Second skin", Kind: "second skin"},
	)
	process := h.named("SP-25").Process
	debulked, err := h.named("SP-25").Debulked()
	require.NoError(t, err)
	assert.Len(t, debulked, 2, "after both plies of the second skin, and none of the first")
	falk := h.as("Ines Falk")
	h.kits(code, "kit a")
	h.signs(code, "prepare tool")
	first, err := h.Layup(h.ctx, code, "lay a")
	require.NoError(t, err)
	assert.False(t, first.Process.DebulkFirst, "as the process of the revision says")
	assert.Len(t, first.Steps, 2)
	h.lays(code, "lay a")
	h.bags(code, "close a")
	bag, err := h.Bag(h.ctx, code, "close c")
	require.NoError(t, err)
	assert.Equal(t, []any{"caul", 1e3}, []any{bag.Process.BagStack, bag.Process.LeakDrop})
	one := h.bakes("finished", code)
	h.kits(code, "kit b")
	h.signs(code, "lay b")
	h.bags(code, "close b")
	h.bakes("finished", code)
	h.kits(code, "kit c")
	second, err := h.Layup(h.ctx, code, "lay c")
	require.NoError(t, err)
	require.Len(t, second.Steps, 4, "a debulk after each of the two plies")
	assert.True(t, second.Steps[1].Debulk)
	ply := builds.SignPly{Ply: 3, CutPly: second.NextCut, FilmsOff: second.Plies[0].Films}
	_, err = h.Sign(h.ctx, falk, code, ply)
	require.NoError(t, err)
	assert.Equal(t, "in work", h.stands(code)["lay c"])
	next, err := h.StartDebulk(h.ctx, falk, code, "lay c")
	require.NoError(t, err)
	day, err := h.Today(h.ctx, falk.Person)
	require.NoError(t, err)
	assert.WithinDuration(
		t,
		h.at.Add(time.Minute),
		*until(day, "debulk after ply 3, SP-25 · 0400"),
		time.Second,
		"one minute, as this lay asks",
	)
	h.at = h.at.Add(61e9)
	next, err = h.EndDebulk(h.ctx, falk, code, "lay c", builds.DebulkEnd{Vacuum: 72e3})
	require.NoError(t, err)
	assert.True(t, next.Debulks[0].Counts, next.Debulks[0].Message)
	_, err = h.Sign(h.ctx, falk, code, builds.SignPly{Ply: 4, CutPly: next.NextCut, FilmsOff: next.Plies[1].Films})
	require.NoError(t, err)
	_, err = h.StartDebulk(h.ctx, falk, code, "lay c")
	require.NoError(t, err)
	h.at = h.at.Add(61e9)
	_, err = h.EndDebulk(h.ctx, falk, code, "lay c", builds.DebulkEnd{Vacuum: 72e3})
	require.NoError(t, err)
	_, err = h.CloseBag(h.ctx, falk, code, "close c", "caul")
	require.NoError(t, err)
	leak := builds.NewLeakCheck{Start: 65e3, End: 63.8e3, Seconds: 600}
	v, err := h.CheckLeak(h.ctx, falk, code, "close c", leak)
	require.NoError(t, err)
	assert.False(t, v.Checks[0].Pass, "1.2 kPa are more than this bag may lose")
	leak.End = 64.5e3
	v, err = h.CheckLeak(h.ctx, falk, code, "close c", leak)
	require.NoError(t, err)
	assert.True(t, v.Checks[1].Pass, v.Checks[1].Message)
	three := h.bakes("finished", code)
	ran := func(code string) curing.RunView {
		run, err := h.Run(h.ctx, code)
		require.NoError(t, err)
		return run
	}
	assert.Equal(t, process.Recipe.Name, ran(one).Process.Recipe.Name)
	assert.Equal(t, "second skin, 110", ran(three).Process.Recipe.Name)
	assert.Equal(t, 391.0, ran(three).Process.RunLimits.MaxPart)
}

// Two halves of one build lie in one run, each of them named; what has a recipe of its own
// does not lie with others.
func TestTwoHalvesOfABuildInOneRun(t *testing.T) {
	h := open(t)
	code := h.walking("half tools", master.Stage{Key: "a", Name: "Left", Kind: "skin"},
		master.Stage{Key: "b", Name: "Right", Kind: "skin"})
	for _, stage := range []string{"a", "b"} {
		h.kits(code, "kit "+stage)
		h.signs(code, "prepare tool "+stage)
		h.lays(code, "lay "+stage)
		h.bags(code, "close "+stage)
	}
	falk := h.as("Ines Falk")
	left, right := curing.OvenLoad{Build: code, Operation: "cure a"}, curing.OvenLoad{Build: code, Operation: "cure b"}
	_, err := h.StartRun(h.ctx, falk, []curing.OvenLoad{left, left})
	refusal(t, err, book.Invalid, "is named twice for this run")
	_, err = h.StartRun(h.ctx, falk, []curing.OvenLoad{{Build: code, Operation: "trim a"}})
	refusal(t, err, book.Invalid, `has no such operation "trim a"`)
	run := h.heats("finished", left, right)
	at := h.stands(code)
	assert.Equal(t, []string{"done", "done", "ready", "ready"},
		[]string{at["cure a"], at["cure b"], at["demould a"], at["demould b"]})
	thread, err := h.ThreadOfBuild(h.ctx, code)
	require.NoError(t, err)
	require.Len(t, thread.Runs, 1, "one run, told once")
	view, err := h.Run(h.ctx, run)
	require.NoError(t, err)
	require.Len(t, view.Loaded, 1)
	assert.Equal(t, []string{"Cure Left", "Cure Right"}, view.Loaded[0].Operations)
	_, err = h.StartRun(h.ctx, falk, []curing.OvenLoad{left})
	refusal(t, err, book.Conflict, "is not ready for the oven: Cure Left is done already")
}

// A post-cure and a warm debulk with a recipe are runs of the oven; without one they are
// signed. A later run goes on from the degree of cure that the one before it left.
func TestAPostCureWithARecipeIsARun(t *testing.T) {
	h := open(t)
	h.sets = func(o *master.Operation) {
		if o.Kind == "post-cure" {
			o.Heat = heat("post-cure, 60", 333)
		}
	}
	code := h.walking("wet layup", master.Stage{Key: "a", Name: "Fairing", Kind: "wet layup"})
	h.kits(code, "kit")
	h.signs(code, "prepare tool")
	h.lays(code, "lay")
	h.bags(code, "close")
	h.bakes("finished", code)
	h.signs(code, "demould")
	post := step(h.work(code), "post-cure")
	assert.Equal(t, []any{"ready", "cure", false}, []any{post.State, post.Room, post.Single})
	_, err := h.SignStepDone(h.ctx, h.as("Ines Falk"), code, finish.SignStep{Operation: "post-cure"})
	refusal(t, err, book.Refused, "is signed in its own room")
	simulated, err := h.SimulateCure(h.ctx, h.named("SP-25").Part.Code, parts.ProcessQuestion{Operation: "post-cure"})
	require.NoError(t, err)
	cured, err := h.SimulateCure(h.ctx, h.named("SP-25").Part.Code, parts.ProcessQuestion{Operation: "cure"})
	require.NoError(t, err)
	end := cured.Cure[len(cured.Cure)-1].Alpha
	assert.Greater(t, end, 0.5)
	assert.Equal(t, end, simulated.Begun, "the plan of the post-cure goes on from the end of the cure")
	assert.Equal(t, end, simulated.Cure[0].Alpha)
	assert.Less(t, cured.Begun, 0.1)
	first, err := h.Run(h.ctx, step(h.work(code), "cure").Run)
	require.NoError(t, err)
	code2 := h.bakes("finished", code)
	second, err := h.Run(h.ctx, code2)
	require.NoError(t, err)
	assert.Equal(t, "post-cure, 60", second.Recipe)
	require.NotNil(t, second.Verdict)
	assert.Equal(t, first.Verdict.Cure, second.Cure[0].Alpha, "as its record does from the first run's")
	assert.Equal(t, "done", h.stands(code)["post-cure"])
	_, err = h.SimulateCure(h.ctx, h.named("SP-25").Part.Code, parts.ProcessQuestion{Operation: "demould"})
	refusal(t, err, book.Invalid, `there is no operation "demould" that has a run`)
}

// Settings that no shop can do are refused with the draft, at their operation.
func TestSettingsThatCannotBeAreNotKept(t *testing.T) {
	h := open(t)
	v := h.named("SP-25")
	doc := v.Document
	doc.Route = doc.Operations()
	for k := range doc.Route {
		switch o := &doc.Route[k]; o.Kind {
		case "close":
			o.Closing = &master.Closing{Stack: "no bleed", LeakStart: 97e3, LeakDrop: 1e3, LeakSeconds: 300}
		case "cure":
			o.Heat = heat("too hot", 900)
		}
	}
	_, err := h.ChangeDraft(
		h.ctx,
		h.as("Marek Orde"),
		v.Part.Code,
		parts.DraftChange{Version: v.Version, Document: &doc},
	)
	var e *book.Error
	require.ErrorAs(t, err, &e)
	require.Len(t, e.Details, 2)
	assert.Contains(t, unit.InMetric(e.Details[0]), "Bag: the leak check starts at 97.0 kPa of vacuum: no pump draws")
	reply, err := h.Route(h.ctx, v.Part.Code, parts.RouteQuestion{Document: &doc})
	require.NoError(t, err)
	require.Len(t, reply.Faults, 2)
	assert.Equal(t, []string{"close", "closing.leakStart"}, []string{reply.Faults[0].Key, reply.Faults[0].Field})
	assert.Contains(t, reply.Faults[1].Message, "Cure: segment 1: a target of")
}

// An operation of a room that asks for a second person, for a hold point or for something to
// be recorded is over when that is signed; it can be held in the middle of its work.
func TestARoomsOperationAsksForMore(t *testing.T) {
	h := open(t)
	h.sets = func(o *master.Operation) {
		switch o.Key {
		case "kit":
			o.Second = true
		case "lay":
			o.Fields = []master.Field{{Key: "air", Name: "humidity", Kind: "value", Unit: "%", Most: amount(60)}}
		case "cure":
			o.Hold = "the door seal is looked at"
		}
	}
	code := h.walking("open shell", master.Stage{Key: "a", Name: "Shell", Kind: "skin"})
	falk, brandl := h.as("Ines Falk"), h.as("Tilda Brandl")
	sign := func(in finish.SignStep) error {
		_, err := h.SignStepDone(h.ctx, falk, code, in)
		return err
	}
	h.signs(code, "prepare tool")
	refusal(t, sign(finish.SignStep{Operation: "kit"}), book.Refused, "Kit is signed in its own room")
	h.kits(code, "kit")
	at := step(h.work(code), "kit")
	assert.Equal(t, []any{"in work", true, false}, []any{at.State, at.Single, at.Signed})
	bench, err := h.Layup(h.ctx, code, "lay")
	require.NoError(t, err)
	_, err = h.Sign(h.ctx, falk, code, builds.SignPly{Ply: 1, CutPly: bench.NextCut, FilmsOff: bench.Plies[0].Films})
	refusal(t, err, book.Refused, "Lay up waits for Kit")
	refusal(t, sign(finish.SignStep{Operation: "kit"}), book.Refused, "a second person signs")
	require.NoError(t, sign(finish.SignStep{Operation: "kit", SecondID: brandl.Person.ID, SecondPIN: pin}))
	// In the middle of the lay: held, and taken up again.
	_, err = h.Sign(h.ctx, falk, code, builds.SignPly{Ply: 1, CutPly: bench.NextCut, FilmsOff: bench.Plies[0].Films})
	require.NoError(t, err)
	_, err = h.HoldStep(h.ctx, falk, code, finish.StepReason{Operation: "lay", Reason: "a fold in the corner"})
	require.NoError(t, err)
	bench, err = h.Layup(h.ctx, code, "lay")
	require.NoError(t, err)
	_, err = h.Sign(h.ctx, falk, code, builds.SignPly{Ply: 2, CutPly: bench.NextCut, FilmsOff: bench.Plies[0].Films})
	refusal(t, err, book.Refused, "Lay up is held, by Ines Falk: a fold in the corner. Resume it first")
	_, err = h.StartStep(h.ctx, falk, code, finish.Step{Operation: "lay"})
	require.NoError(t, err)
	h.lays(code, "lay")
	wet := 71.0
	damp := finish.SignStep{Operation: "lay", Fields: map[string]master.Value{"air": {Number: &wet}}}
	refusal(t, sign(damp), book.Refused, "humidity")
	*damp.Fields["air"].Number = 55
	require.NoError(t, sign(damp))
	h.bags(code, "close")
	// What was signed is signed anew when its room has recorded something since.
	assert.Equal(t, "done", h.stands(code)["lay"])
	run := h.bakes("finished", code)
	assert.Equal(t, []string{"in work", "waiting"}, []string{h.stands(code)["cure"], h.stands(code)["demould"]})
	_, err = h.HoldStep(h.ctx, falk, code, finish.StepReason{Operation: "release", Reason: "x"})
	refusal(t, err, book.Refused, "Release is signed in its own room")
	h.signs(code, "cure")
	view := h.work(code)
	assert.Equal(t, []string{"done", run}, []string{step(view, "cure").State, step(view, "cure").Run})
	assert.Equal(t, "ready", step(view, "demould").State)
	_, err = h.TakeBackStep(h.ctx, falk, code, finish.StepReason{Operation: "cure", Reason: "the wrong door"})
	require.NoError(t, err)
	assert.Equal(t, "in work", h.stands(code)["cure"], "its run is a run all the same")
}

func amount(v float64) *float64 { return &v }

// Each cut of a route is nested and cut for itself, in its turn; what quality left out is
// not cut.
func TestEachCutOfARouteIsCutForItself(t *testing.T) {
	h := open(t)
	h.uncut = true
	h.sets = func(o *master.Operation) {
		if o.Key == "cut c" {
			o.After = []string{"cure a"}
		}
	}
	code := h.walking(
		"sandwich, three cures",
		master.Stage{Key: "a", Name: "Skin", Kind: "skin"},
		master.Stage{
			Key:  "b",
			Name: "Core",
			Kind: "core",
		},
		master.Stage{Key: "c", Name: "Second skin", Kind: "second skin"},
		master.Stage{Key: "d", Name: "Lip", Kind: "second skin"},
	)
	lines := func(only ...string) (out []string) {
		queue, err := h.CutQueue(h.ctx, only...)
		require.NoError(t, err)
		for _, d := range queue {
			for _, b := range d.Builds {
				if b.Code == code {
					out = append(out, fmt.Sprintf("%s %d %s", b.Label, b.Plies, b.Waits))
				}
			}
		}
		return out
	}
	assert.Equal(t, []string{
		"Cut Skin 2 ", "Cut Second skin 2 waits for Cure Skin", "Cut Lip 2 ",
	}, lines())
	assert.Equal(t, []string{"Cut Lip 2 "}, lines(code+" cut d"))
	roll := h.received("Sable twill 200", "LOT-400", 60).Code
	h.ready(roll)
	_, err := h.StartNest(h.ctx, h.as("Tilda Brandl"), cutting.NewNest{Roll: roll, Builds: []string{code}})
	refusal(t, err, book.Refused, "Cut Second skin waits for Cure Skin")
	_, err = h.StartNest(h.ctx, h.as("Tilda Brandl"), cutting.NewNest{Roll: roll, Builds: []string{code + " cut x"}})
	refusal(t, err, book.Invalid, "nothing of these builds is left to cut from Sable twill 200")
	_, err = h.ConfirmCut(h.ctx, h.as("Tilda Brandl"), h.nested(code+" cut a", roll))
	require.NoError(t, err)
	at := h.stands(code)
	assert.Equal(t, []string{"done", "ready", "waiting"}, []string{at["cut a"], at["cut d"], at["cut c"]})
	_, err = h.LeaveOut(
		h.ctx,
		h.as("Jonas Quist"),
		code,
		finish.LeaveStepOut{Operation: "cut d", Reason: "no lip", PIN: pin},
	)
	require.NoError(t, err)
	assert.Equal(t, []string{"Cut Second skin 2 waits for Cure Skin"}, lines())
	h.kits(code, "kit a")
	h.signs(code, "prepare tool")
	h.lays(code, "lay a")
	h.bags(code, "close a")
	h.bakes("finished", code)
	assert.Equal(t, []string{"Cut Second skin 2 "}, lines())
	_, err = h.ConfirmCut(h.ctx, h.as("Tilda Brandl"), h.nested(code, roll))
	require.NoError(t, err)
	assert.Empty(t, lines())
	assert.Equal(t, "done", h.stands(code)["cut c"])
}

// A sleeve over a core that is cured already: laid dry, closed in its mould, injected with
// what its cavity takes, cured.
func TestASleeveIsInjected(t *testing.T) {
	h := open(t)
	code := h.walking("injected", master.Stage{Key: "b", Name: "Body", Kind: "skin"},
		master.Stage{Key: "i", Name: "Sleeve", Kind: "injection", Cavity: 500e-6, Resin: 0.2})
	falk := h.as("Ines Falk")
	h.kits(code, "kit b")
	h.signs(code, "prepare tool b")
	h.lays(code, "lay b")
	h.bags(code, "close b")
	h.bakes("finished", code)
	h.signs(code, "demould b")
	h.kits(code, "kit i")
	h.signs(code, "prepare tool")
	h.lays(code, "lay i")
	_, err := h.CloseBag(h.ctx, falk, code, "close i", "mould and bladder")
	require.NoError(t, err)
	at := step(h.work(code), "inject i")
	assert.Equal(t, []any{"ready", 500e-6, 0.2}, []any{at.State, at.Cavity, at.Resin})
	mixed := h.at.Add(-50 * time.Minute)
	in := finish.SignStep{Operation: "inject i", Fields: map[string]master.Value{
		"mix": {Text: "R-7", At: &mixed}, "mass": {Number: amount(212)}, "pressure": {Number: amount(180)},
		"time": {Number: amount(7)},
	}}
	sign := func() error {
		_, err := h.SignStepDone(h.ctx, falk, code, in)
		return err
	}
	refusal(t, sign(), book.Refused, "its pot life of 45 min was over 5 min ago, mix anew")
	mixed = h.at.Add(-20 * time.Minute)
	refusal(t, sign(), book.Refused, "resin that went in: 212 g is above the maximum, 210 g")
	in.Fields["mass"] = master.Value{Number: amount(204)}
	require.NoError(t, sign())
	h.bakes("finished", code)
	assert.Equal(t, "ready", h.stands(code)["demould i"])
	thread, err := h.ThreadOfBuild(h.ctx, code)
	require.NoError(t, err)
	assert.Len(t, thread.Runs, 2)
}

// The shop says which places it has; a route that names another is told so.
func TestTheShopsPlaces(t *testing.T) {
	h := open(t)
	by := h.as("Jonas Quist")
	decide := func(version int, places ...string) error {
		_, err := h.ChangeShopSettings(h.ctx, by, book.ShopSettingsIn{
			Version: version, Settings: book.ShopSettings{Places: places}, Reason: "as we are",
		})
		return err
	}
	refusal(t, decide(0, "bench 1", " Bench 1"), book.Invalid, "look at place 2")
	refusal(t, decide(0, " "), book.Invalid, "look at place 1")
	require.NoError(t, decide(0, " bench 1", "oven 1"))
	v := h.named("SP-25")
	doc := v.Document
	doc.Route = doc.Operations()
	doc.Route[0].Place = "bench 9"
	reply, err := h.Route(h.ctx, v.Part.Code, parts.RouteQuestion{Document: &doc})
	require.NoError(t, err)
	assert.Equal(t, []string{"bench 1", "oven 1"}, reply.Places)
	says := []string{}
	for _, f := range reply.Findings {
		if f.Rule == "no such place" {
			says = append(says, f.Key)
		}
	}
	assert.Contains(t, says, doc.Route[0].Key)
}
