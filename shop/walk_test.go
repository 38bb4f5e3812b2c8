package shop_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"juxta/core/master"
	"juxta/core/material"
	"juxta/core/route"
	"juxta/shop/book"
	"juxta/shop/builds"
	"juxta/shop/curing"
	"juxta/shop/finish"
	"juxta/shop/inspect"
	"juxta/shop/parts"
	"juxta/shop/people"
)

// walking starts a build of stages of square plies, made a way, with all of it cut. A core
// has none.
func (h *house) walking(way string, stages ...master.Stage) string {
	h.t.Helper()
	v := h.named("SP-25")
	if v.State != "draft" {
		var err error
		v, err = h.NewRevision(h.ctx, h.as("Marek Orde"), v.Part.Code)
		require.NoError(h.t, err)
	}
	ply := master.Item{Kind: master.Ply, MaterialID: h.material("Sable twill 200"), Outline: "square", FaceUp: true}
	doc := h.squares()
	for k, n := 0, 0; k < len(stages); k++ {
		for range 2 {
			if n++; stages[k].Kind != "core" {
				ply.Key = "q" + string(rune('a'+n))
				stages[k].Items = append(stages[k].Items, ply)
			}
		}
		if stages[k].Kind == "core" {
			stages[k].Items = []master.Item{{
				Key: "core", Kind: master.Core, MaterialID: h.material("Lattice 48 core, 4 mm"), Outline: "square",
			}}
		}
	}
	doc.Stages = stages
	w, there := route.FindTemplate(way)
	require.True(h.t, there)
	require.Empty(h.t, w.Fits(doc.RouteStages()))
	doc.Route = doc.Made(w)
	for k := range doc.Route {
		doc.Route[k].Qualification = h.asks
		if doc.Route[k].Kind == "demould" {
			doc.Route[k].Below = 320
		}
		if h.sets != nil {
			h.sets(&doc.Route[k])
		}
	}
	process := v.Process
	process.DebulkFirst, process.DebulkEvery, process.Qualifications = false, 0, nil
	v, err := h.ChangeDraft(h.ctx, h.as("Marek Orde"), v.Part.Code, parts.DraftChange{
		Version: v.Version, Document: doc, Process: &process,
	})
	require.NoError(h.t, err)
	v = h.release(v)
	b, err := h.StartBuild(h.ctx, h.as("Marek Orde"), v.Part.Code, builds.NewBuild{
		Serial: "0400", CureAt: h.at.Add(60 * time.Hour),
	})
	require.NoError(h.t, err)
	if h.uncut {
		return b.Code
	}
	roll := h.received("Sable twill 200", "LOT-400", 60).Code
	h.ready(roll)
	_, err = h.ConfirmCut(h.ctx, h.as("Tilda Brandl"), h.nested(b.Code, roll))
	require.NoError(h.t, err)
	return b.Code
}

// kits counts the kit of an operation.
func (h *house) kits(code, operation string) {
	h.t.Helper()
	kit, err := h.Kit(h.ctx, code, operation)
	require.NoError(h.t, err)
	for _, p := range kit.Plies {
		_, err := h.CountPly(h.ctx, h.as("Tilda Brandl"), code, p.Cut[0].Code)
		require.NoError(h.t, err)
	}
	for _, i := range kit.Items {
		_, err = h.CountItemOf(h.ctx, h.as("Tilda Brandl"), code, operation, builds.CountItem{Item: i.Key})
		require.NoError(h.t, err)
	}
	_, err = h.CloseKit(h.ctx, h.as("Tilda Brandl"), code, operation, "")
	require.NoError(h.t, err)
}

// lays lays every ply of an operation.
func (h *house) lays(code, operation string) {
	h.t.Helper()
	for {
		v, err := h.Layup(h.ctx, code, operation)
		require.NoError(h.t, err)
		if v.Next == nil {
			return
		}
		films := 0
		for _, p := range v.Plies {
			if p.Number == v.Next.Ply {
				films = p.Films
			}
		}
		_, err = h.Sign(h.ctx, h.as("Ines Falk"), code, builds.SignPly{
			Ply: v.Next.Ply, CutPly: v.NextCut, FilmsOff: films,
		})
		require.NoError(h.t, err)
	}
}

// bags closes an operation and finds it tight.
func (h *house) bags(code, operation string) {
	h.t.Helper()
	_, err := h.CloseBag(h.ctx, h.as("Ines Falk"), code, operation, "no bleed")
	require.NoError(h.t, err)
	_, err = h.CheckLeak(h.ctx, h.as("Ines Falk"), code, operation, builds.NewLeakCheck{
		Start: 90e3, End: 89e3, Seconds: 300,
	})
	require.NoError(h.t, err)
}

// bakes runs the oven with builds in it, to an end of some state.
func (h *house) bakes(state string, codes ...string) string {
	h.t.Helper()
	loads := make([]curing.OvenLoad, len(codes))
	for k, code := range codes {
		loads[k].Build = code
	}
	return h.heats(state, loads...)
}

// heats is the same for chosen operations.
func (h *house) heats(state string, loads ...curing.OvenLoad) string {
	h.t.Helper()
	line, err := h.StartRun(h.ctx, h.as("Ines Falk"), loads)
	require.NoError(h.t, err)
	var run curing.Run
	require.NoError(h.t, h.DB.Gorm.Where("code = ?", line.Code).Take(&run).Error)
	run, ok, err := h.LeaseRun(h.ctx, run.ID, "test")
	require.NoError(h.t, err)
	require.True(h.t, ok)
	for k := range 3 {
		_, err = h.AddSample(h.ctx, run.ID, "test", sample(float64(60*k), 390, 9e4), run.Controller, "")
		require.NoError(h.t, err)
	}
	require.NoError(h.t, h.EndRun(h.ctx, run.ID, state, ""))
	return line.Code
}

// signs signs an operation that records nothing.
func (h *house) signs(code, operation string) {
	h.t.Helper()
	cool := 300.0
	_, err := h.SignStepDone(h.ctx, h.as("Ines Falk"), code, finish.SignStep{Operation: operation, Part: &cool})
	require.NoError(h.t, err)
}

func (h *house) stands(code string) map[string]string {
	h.t.Helper()
	out := map[string]string{}
	for _, o := range h.work(code).Operations {
		out[o.Operation] = o.State
	}
	return out
}

// A pre-form that is too old is not joined, unless quality says why; that stands in the record.
func TestAPreFormThatIsTooOldIsForQualityToDecide(t *testing.T) {
	h := open(t)
	code := h.walking("hollow part", master.Stage{Key: "t", Name: "Top", Kind: "pre-form"},
		master.Stage{Key: "u", Name: "Bottom", Kind: "pre-form"})
	h.signs(code, "prepare tool")
	for _, stage := range []string{"t", "u"} {
		h.kits(code, "kit "+stage)
		h.lays(code, "lay "+stage)
	}
	join := finish.SignStep{Operation: "join"}
	for _, f := range step(h.work(code), "join").Forms {
		join.Labels = append(join.Labels, f.Code)
	}
	h.at = h.at.Add(200 * time.Hour)
	assert.Equal(t, "its tack life ended 8 h ago", step(h.work(code), "join").Forms[0].Old)
	label := finish.LabelAt{Operation: "join", Label: join.Labels[0]}
	says, err := h.Label(h.ctx, code, label)
	require.NoError(t, err)
	assert.False(t, says.Fits)
	assert.Contains(
		t,
		says.Message,
		", Top, is past its life: its tack life ended 8 h ago. A quality person has to decide",
	)
	_, err = h.SignStepDone(h.ctx, h.as("Ines Falk"), code, join)
	refusal(t, err, book.Refused, "is past its life")
	join.Although = "pressed and looked at: it still lies"
	_, err = h.SignStepDone(h.ctx, h.as("Ines Falk"), code, join)
	refusal(t, err, book.Refused, "a quality person decides")
	label.Although = true
	says, err = h.Label(h.ctx, code, label)
	require.NoError(t, err)
	assert.True(t, says.Fits)
	_, err = h.SignStepDone(h.ctx, h.as("Jonas Quist"), code, join)
	require.NoError(t, err)
	joined := step(h.work(code), "join")
	assert.Equal(t, "done", joined.State)
	assert.Equal(t, join.Although, joined.Fields["joined although Top is too old"].Text)
}

// A sandwich in three cures: each stage has its kit, its bench, its bag and its run.
func TestASandwichWalksThreeCures(t *testing.T) {
	h := open(t)
	code := h.walking("sandwich, three cures",
		master.Stage{Key: "a", Name: "Tool skin", Kind: "skin"}, master.Stage{Key: "c", Name: "Core", Kind: "core"},
		master.Stage{Key: "b", Name: "Second skin", Kind: "skin"})
	falk, brandl := h.as("Ines Falk"), h.as("Tilda Brandl")
	at := h.stands(code)
	assert.Equal(t, []string{"ready", "done", "ready", "waiting", "ready", "ready"},
		[]string{at["prepare tool"], at["cut a"], at["kit a"], at["lay a"], at["kit c"], at["kit b"]}, "%v", at)
	// The rooms show it where something can be done, and nowhere else.
	rooms := func() []string {
		var out []string
		for _, room := range []string{"cut", "kits", "layup", "bag", "cure", "release"} {
			page, err := h.Builds(h.ctx, builds.BuildQuery{Room: room, Find: code})
			require.NoError(t, err)
			if len(page.Builds) > 0 {
				out = append(out, room)
			}
		}
		return out
	}
	assert.Equal(t, []string{"kits", "layup"}, rooms())
	// Out of turn, at each room.
	_, err := h.CloseKit(h.ctx, brandl, code, "kit a", "")
	refusal(t, err, book.Refused, "plies 1 and 2 missing")
	kit, err := h.Kit(h.ctx, code, "kit a")
	require.NoError(t, err)
	require.Len(t, kit.Plies, 2, "the kit of a stage has that stage's plies")
	_, err = h.Sign(h.ctx, falk, code, builds.SignPly{Ply: 1, CutPly: kit.Plies[0].Cut[0].Code})
	refusal(t, err, book.Refused, "Lay up Tool skin waits for Kit Tool skin and Prepare tool")
	_, err = h.CloseBag(h.ctx, falk, code, "close a", "no bleed")
	refusal(t, err, book.Refused, "Bag Tool skin waits for Lay up Tool skin")
	_, err = h.StartRun(h.ctx, falk, []curing.OvenLoad{{Build: code}})
	refusal(t, err, book.Refused, "is not ready for the oven: Cure Tool skin waits for Bag Tool skin")
	_, err = h.Kit(h.ctx, code, "kit z")
	refusal(t, err, book.Invalid, `no such operation "kit z"`)
	_, err = h.Kit(h.ctx, h.build("0002").Code, "kit a")
	refusal(t, err, book.Invalid, "has no route")

	h.kits(code, "kit a")
	h.kits(code, "kit b")
	_, err = h.CloseKit(h.ctx, brandl, code, "kit a", "")
	refusal(t, err, book.Conflict, "already counted")
	// The second skin's kit goes into the freezer while the first is laid.
	_, err = h.MoveKit(h.ctx, brandl, code, material.In, 1, "kit b")
	require.NoError(t, err)
	h.signs(code, "prepare tool")
	h.lays(code, "lay a")
	assert.Equal(t, "done", h.stands(code)["lay a"])
	layup, err := h.Layup(h.ctx, code, "lay a")
	require.NoError(t, err)
	assert.Len(t, layup.Laid, 2)
	h.bags(code, "close a")
	_, err = h.TakeBack(h.ctx, falk, code, 2, "too late")
	refusal(t, err, book.Conflict, "Bag Tool skin is done already: it lies on this layup")
	failed := h.bakes("failed", code)
	assert.Equal(t, "ready", h.stands(code)["cure a"], "a run that failed is to be run again")
	h.bakes("finished", code)
	assert.Equal(t, "done", h.stands(code)["cure a"])
	_, err = h.CheckLeak(h.ctx, falk, code, "close a", builds.NewLeakCheck{Start: 90e3, End: 89e3, Seconds: 300})
	refusal(t, err, book.Conflict, "Cure Tool skin was begun on this bag already")
	// The core: no ply, a kit all the same, and a lay that is signed.
	assert.Equal(t, "ready", h.stands(code)["kit c"])
	h.kits(code, "kit c")
	assert.True(t, step(h.work(code), "lay c").Single)
	h.signs(code, "lay c")
	h.bags(code, "close c")
	h.bakes("finished", code)
	// The second skin lies in the freezer.
	bench, err := h.Layup(h.ctx, code, "lay b")
	require.NoError(t, err)
	require.NotNil(t, bench.Next)
	assert.Equal(t, 3, bench.Next.Ply)
	_, err = h.Sign(h.ctx, falk, code, builds.SignPly{Ply: 3, CutPly: bench.NextCut})
	refusal(t, err, book.Refused, "the kit is in the freezer")
	_, err = h.MoveKit(h.ctx, brandl, code, material.Out, 0, "kit b")
	require.NoError(t, err)
	h.lays(code, "lay b")
	h.bags(code, "close b")
	last := h.bakes("finished", code)
	_, err = h.SignStepDone(h.ctx, falk, code, finish.SignStep{Operation: "demould"})
	refusal(t, err, book.Refused, "the last reading of its run is 117 °C, and is opened below 47 °C")
	h.signs(code, "demould")
	h.signs(code, "trim")
	sheet, err := h.ReleaseOf(h.ctx, code)
	require.NoError(t, err)
	assert.Contains(t, sheet.Missing, "operation 19, Inspect, is ready")
	_, err = h.Dispose(h.ctx, h.as("Jonas Quist"), code, disposed(sheet))
	refusal(t, err, book.Refused, "Release waits for Inspect")
	h.signs(code, "inspect")
	assert.Equal(t, []string{"release"}, rooms())
	_, err = h.Dispose(h.ctx, h.as("Jonas Quist"), code, disposed(sheet))
	require.NoError(t, err)
	assert.Equal(t, "held", h.stands(code)["release"], "a part that was scrapped is not released")
	// The thread has every run, one that failed too, and every bag.
	thread, err := h.ThreadOfBuild(h.ctx, code)
	require.NoError(t, err)
	require.Len(t, thread.Runs, 4)
	assert.Equal(t, []string{failed, "failed"}, []string{thread.Runs[0].Code, thread.Runs[0].State})
	assert.Equal(t, last, thread.Runs[3].Code)
	require.Len(t, thread.Bags, 3)
	assert.Len(t, thread.Layup.Laid, 4)
	assert.Len(t, thread.Operations, len(at))
}

func disposed(sheet inspect.ReleaseView) inspect.Disposition {
	return inspect.Disposition{
		Measured:    inspect.Measured{Mass: sheet.Mass.Expected, Thickness: []float64{sheet.Thickness.Expected}},
		Disposition: "scrap", Reason: "as an example", PIN: pin,
	}
}

// Pre-forms are laid apart by several people at once, carry labels and clocks of their own,
// and are joined by their labels; the tool is closed without a vacuum.
func TestPreFormsAreJoinedByTheirLabels(t *testing.T) {
	h := open(t)
	forms := func() []master.Stage {
		return []master.Stage{
			{Key: "t", Name: "Top", Kind: "pre-form"}, {Key: "u", Name: "Bottom", Kind: "pre-form"},
			{Key: "w", Name: "Closing wrap", Kind: "co-cure"},
		}
	}
	code := h.walking("hollow part", forms()...)
	falk, brandl := h.as("Ines Falk"), h.as("Tilda Brandl")
	for _, kit := range []string{"kit t", "kit u", "kit w"} {
		h.kits(code, kit)
	}
	// Two benches at once, each with a ply of its own.
	top, err := h.Layup(h.ctx, code, "lay t")
	require.NoError(t, err)
	bottom, err := h.Layup(h.ctx, code, "lay u")
	require.NoError(t, err)
	require.Len(t, top.Preforms, 1)
	require.Len(t, bottom.Preforms, 1)
	label := func(v builds.LayupView) string { return v.Preforms[0].Code }
	assert.NotEqual(t, label(top), label(bottom))
	films := func(v builds.LayupView) int { return v.Plies[0].Films }
	_, err = h.Sign(h.ctx, falk, code, builds.SignPly{Ply: 3, CutPly: bottom.NextCut, FilmsOff: films(bottom)})
	require.NoError(t, err)
	_, err = h.Sign(h.ctx, brandl, code, builds.SignPly{Ply: 1, CutPly: top.NextCut, FilmsOff: films(top)})
	require.NoError(t, err)
	h.lays(code, "lay t")
	h.signs(code, "prepare tool")
	says := func(in finish.LabelAt) string {
		in.Operation = "join"
		v, err := h.Label(h.ctx, code, in)
		require.NoError(t, err)
		return v.Message
	}
	assert.Equal(t, label(top)+" is Top", says(finish.LabelAt{Label: " " + label(top) + " "}))
	assert.Contains(t, says(finish.LabelAt{Label: label(bottom)}), "Bottom, is not laid yet")
	h.lays(code, "lay u")
	assert.Contains(t, says(finish.LabelAt{Label: label(top), Taken: []string{label(top)}}), "is scanned already")
	scanned, err := h.Scan(h.ctx, label(top))
	require.NoError(t, err)
	assert.Equal(t, "preform", scanned.Kind)
	// A pre-form of another build of the part.
	other, err := h.StartBuild(h.ctx, h.as("Marek Orde"), h.named("SP-25").Part.Code, builds.NewBuild{
		Serial: "0401", CureAt: h.at.Add(60 * time.Hour),
	})
	require.NoError(t, err)
	theirs, err := h.Layup(h.ctx, other.Code, "lay t")
	require.NoError(t, err)
	_, err = h.Label(h.ctx, code, finish.LabelAt{Operation: "join", Label: label(theirs)})
	refusal(t, err, book.Conflict, label(theirs)+" is a pre-form of SP-25 · 0401")
	join := finish.SignStep{Operation: "join", Labels: []string{label(top)}}
	_, err = h.SignStepDone(h.ctx, falk, code, join)
	refusal(t, err, book.Refused, "lay the plies that close the joint first")
	h.lays(code, "join")
	_, err = h.SignStepDone(h.ctx, falk, code, join)
	refusal(t, err, book.Refused, "scan the label of Bottom ("+label(bottom)+")")
	join.Labels = append(join.Labels, label(theirs))
	_, err = h.SignStepDone(h.ctx, falk, code, join)
	refusal(t, err, book.Conflict, "is a pre-form of SP-25 · 0401")
	join.Labels[1] = label(bottom)
	_, err = h.SignStepDone(h.ctx, falk, code, join)
	require.NoError(t, err)
	joined := step(h.work(code), "join")
	assert.Equal(t, []string{"done", label(bottom)}, []string{joined.State, joined.Fields["pre-form u"].Text})
	// Closed round a bladder: nothing to check for leaks; pressed warm, then cured.
	v, err := h.CloseBag(h.ctx, falk, code, "close", "mould and bladder")
	require.NoError(t, err)
	assert.False(t, v.Vacuum)
	_, err = h.CheckLeak(h.ctx, falk, code, "close", builds.NewLeakCheck{Start: 90e3, End: 89e3, Seconds: 300})
	refusal(t, err, book.Conflict, "nothing here is drawn down by vacuum")
	assert.Equal(t, []string{"done", "ready", "waiting"},
		[]string{h.stands(code)["close"], h.stands(code)["debulk"], h.stands(code)["cure"]})
	h.signs(code, "debulk")
	run := h.bakes("finished", code)
	thread, err := h.ThreadOfBuild(h.ctx, code)
	require.NoError(t, err)
	assert.Equal(t, run, thread.Runs[0].Code)
	require.Len(t, thread.Preforms, 2)
	assert.True(t, thread.Preforms[0].Joined)
	// One pass has no such way to close.
	_, err = h.CloseBag(h.ctx, falk, h.build("0002").Code, "", "tape")
	refusal(t, err, book.Invalid, "this build has no route")
}

// The clock of a pre-form stops when its own stage is cured; the worst of what is still
// open goes on with the part.
func TestTheClockOfAStageEndsWithItsOwnCure(t *testing.T) {
	h := open(t)
	code := h.walking("sandwich, three cures",
		master.Stage{Key: "a", Name: "Tool skin", Kind: "skin"}, master.Stage{Key: "c", Name: "Core", Kind: "core"},
		master.Stage{Key: "b", Name: "Second skin", Kind: "skin"})
	for _, kit := range []string{"kit a", "kit b"} {
		h.kits(code, kit)
	}
	_, err := h.MoveKit(h.ctx, h.as("Tilda Brandl"), code, material.In, 1, "kit b")
	require.NoError(t, err)
	h.signs(code, "prepare tool")
	h.lays(code, "lay a")
	h.bags(code, "close a")
	h.at = h.at.Add(10 * time.Hour)
	h.bakes("finished", code)
	spent := func(kit string) float64 {
		v, err := h.Kit(h.ctx, code, kit)
		require.NoError(t, err)
		require.NotNil(t, v.Build.OutTime)
		return v.Build.OutTime.Spent
	}
	first, second := spent("kit a"), spent("kit b")
	assert.Greater(t, first-second, 9*3600.0, "the second skin lay in the freezer")
	h.at = h.at.Add(10 * time.Hour)
	assert.InDelta(t, first, spent("kit a"), 1, "its stage is cured")
	page, err := h.Builds(h.ctx, builds.BuildQuery{Find: code})
	require.NoError(t, err)
	assert.InDelta(t, spent("kit b"), page.Builds[0].OutTime.Spent, 1, "what is not cured decides")
	thread, err := h.ThreadOfBuild(h.ctx, code)
	require.NoError(t, err)
	assert.InDelta(t, spent("kit b"), thread.Build.OutTime.Spent, 1, "and its record says the same")
}

// Work that goes out is sent with a date, and comes back on record.
func TestWorkThatGoesOutComesBackOnRecord(t *testing.T) {
	h := open(t)
	code := h.walking("trial panel", master.Stage{Key: "a", Name: "Panel", Kind: "skin"})
	quist, falk := h.as("Jonas Quist"), h.as("Ines Falk")
	for _, o := range h.work(code).Operations {
		if o.Kind == "outside" {
			break
		}
		if o.State != "done" {
			_, err := h.LeaveOut(
				h.ctx,
				quist,
				code,
				finish.LeaveStepOut{Operation: o.Operation, Reason: "an example", PIN: pin},
			)
			require.NoError(t, err)
		}
	}
	_, err := h.SignStepDone(h.ctx, falk, code, finish.SignStep{Operation: "outside"})
	refusal(t, err, book.Refused, "send it out first")
	_, err = h.StartStep(h.ctx, falk, code, finish.Step{Operation: "outside", Vendor: "Testing house"})
	refusal(t, err, book.Invalid, "say when it is due back")
	past, due := h.at.Add(-time.Hour), h.at.Add(72*time.Hour)
	_, err = h.StartStep(h.ctx, falk, code, finish.Step{Operation: "outside", Vendor: "Testing house", Due: &past})
	refusal(t, err, book.Invalid, "cannot be due back in the past")
	_, err = h.StartStep(h.ctx, falk, code, finish.Step{Operation: "outside", Due: &due})
	refusal(t, err, book.Invalid, "say where it goes")
	v, err := h.StartStep(h.ctx, falk, code, finish.Step{Operation: "outside", Vendor: "Testing house", Due: &due})
	require.NoError(t, err)
	assert.Equal(t, "Testing house", step(v, "outside").Fields["sent: to"].Text)
	v, err = h.SignStepDone(h.ctx, falk, code, finish.SignStep{Operation: "outside"})
	require.NoError(t, err)
	back := step(v, "outside")
	assert.Equal(t, "done", back.State)
	require.NotNil(t, back.Fields["sent: due back"].At)
	assert.WithinDuration(t, due, *back.Fields["sent: due back"].At, time.Second, "what was said when it went stays")
}

// A rework is added to one build alone, by quality and a second person; it reopens nothing
// silently, and the release waits for it.
func TestAReworkIsAddedToOneBuild(t *testing.T) {
	h := open(t)
	code := h.walking("open shell", master.Stage{Key: "a", Name: "Panel", Kind: "skin"})
	quist, falk := h.as("Jonas Quist"), h.as("Ines Falk")
	h.kits(code, "kit")
	h.signs(code, "prepare tool")
	h.lays(code, "lay")
	h.bags(code, "close")
	h.bakes("finished", code)
	h.signs(code, "demould")
	good := finish.NewRework{
		Kind: "sand", Name: "Pit filled and sanded flush", After: []string{"demould"}, Before: []string{"trim"},
		Reason: "a pit of 2 mm at the lip", PIN: pin, SecondID: falk.Person.ID, SecondPIN: pin,
	}
	for says, change := range map[string]func(in *finish.NewRework){
		"the second person is somebody else":       func(in *finish.NewRework) { in.SecondID = quist.Person.ID },
		"a second person signs a rework":           func(in *finish.NewRework) { in.SecondID = 0 },
		"this is not your PIN":                     func(in *finish.NewRework) { in.SecondPIN = "000000" },
		"say what is reworked, and why":            func(in *finish.NewRework) { in.Reason = " " },
		"say what is to be done":                   func(in *finish.NewRework) { in.Name = "" },
		"a rework is one of prepare tool":          func(in *finish.NewRework) { in.Kind = "lay" },
		"Demould is done already: take it back":    func(in *finish.NewRework) { in.Before = []string{"demould"} },
		`there is no operation "polish" to wait`:   func(in *finish.NewRework) { in.Before = []string{"polish"} },
		"waits for an operation that is not there": func(in *finish.NewRework) { in.After = []string{"polish"} },
		"these wait for each other":                func(in *finish.NewRework) { in.After = []string{"release"} },
	} {
		in := good
		change(&in)
		_, err := h.AddRework(h.ctx, quist, code, in)
		var refused *book.Error
		require.ErrorAs(t, err, &refused, says)
		assert.Contains(t, refused.Message, says)
	}
	_, err := h.AddRework(h.ctx, falk, code, good)
	refusal(t, err, book.Refused, "can rework a part")
	_, err = h.AddRework(h.ctx, quist, h.build("0002").Code, good)
	refusal(t, err, book.Conflict, "has no route")
	v, err := h.AddRework(h.ctx, quist, code, good)
	require.NoError(t, err)
	assert.Equal(t, "ready", step(v, "rework 1").State)
	assert.Equal(t, []string{"waits for Pit filled and sanded flush"}, step(v, "trim").Waits)
	other, err := h.StartBuild(h.ctx, h.as("Marek Orde"), h.named("SP-25").Part.Code, builds.NewBuild{
		Serial: "0402", CureAt: h.at.Add(60 * time.Hour),
	})
	require.NoError(t, err)
	assert.NotContains(t, h.stands(other.Code), "rework 1", "of this build alone")
	h.signs(code, "rework 1")
	assert.Equal(t, "ready", h.stands(code)["trim"])
	thread, err := h.ThreadOfBuild(h.ctx, code)
	require.NoError(t, err)
	assert.Equal(t, "rework added", thread.Log[len(thread.Log)-2].What)
}

// A run that fails with several builds in it: the route of each says what now.
func TestARunThatFailsLeavesEveryBuildBeforeItsCure(t *testing.T) {
	h := open(t)
	first := h.walking("open shell", master.Stage{Key: "a", Name: "Panel", Kind: "skin"})
	codes := []string{first}
	for _, serial := range []string{"0501", "0502"} {
		b, err := h.StartBuild(h.ctx, h.as("Marek Orde"), h.named("SP-25").Part.Code, builds.NewBuild{
			Serial: serial, CureAt: h.at.Add(60 * time.Hour),
		})
		require.NoError(t, err)
		roll := h.received("Sable twill 200", "LOT-"+serial, 60).Code
		h.ready(roll)
		_, err = h.ConfirmCut(h.ctx, h.as("Tilda Brandl"), h.nested(b.Code, roll))
		require.NoError(t, err)
		codes = append(codes, b.Code)
	}
	for _, code := range codes {
		h.kits(code, "kit")
		h.signs(code, "prepare tool")
		h.lays(code, "lay")
		h.bags(code, "close")
	}
	h.bakes("failed", codes...)
	for _, code := range codes {
		at := h.stands(code)
		assert.Equal(t, []string{"ready", "waiting"}, []string{at["cure"], at["demould"]})
	}
	h.bakes("finished", codes[0], codes[1])
	assert.Equal(t, "done", h.stands(codes[1])["cure"])
	assert.Equal(t, "ready", h.stands(codes[2])["cure"])
}

// A route that a new revision changes stays what it was for the builds that run.
func TestABuildGoesOnByTheRouteOfItsRevision(t *testing.T) {
	h := open(t)
	code := h.walking("open shell", master.Stage{Key: "a", Name: "Panel", Kind: "skin"})
	before := h.stands(code)
	v, err := h.NewRevision(h.ctx, h.as("Marek Orde"), h.named("SP-25").Part.Code)
	require.NoError(t, err)
	doc := copied(v.Document)
	for k := range doc.Route {
		if doc.Route[k].Key == "release" {
			doc.Route[k].After = append(doc.Route[k].After, "weigh")
		}
	}
	doc.Route = append(
		doc.Route,
		master.Operation{Key: "weigh", Kind: "inspect", Name: "Weighed", After: []string{"trim"}},
	)
	v, err = h.ChangeDraft(h.ctx, h.as("Marek Orde"), v.Part.Code, parts.DraftChange{Version: v.Version, Document: doc})
	require.NoError(t, err)
	h.release(v)
	assert.Equal(t, before, h.stands(code))
	next, err := h.StartBuild(h.ctx, h.as("Marek Orde"), v.Part.Code, builds.NewBuild{
		Serial: "0403", CureAt: h.at.Add(60 * time.Hour),
	})
	require.NoError(t, err)
	assert.Contains(t, h.stands(next.Code), "weigh")
}

// What an operation asks whoever does it to hold is asked in the room where it is done, and
// of nobody who holds it, refers it or leaves it out.
func TestAnOperationAsksForItsQualificationInEveryRoom(t *testing.T) {
	h := open(t)
	h.asks = "bonding"
	code := h.walking("open shell", master.Stage{Key: "a", Name: "Panel", Kind: "skin"})
	falk, brandl := h.as("Ines Falk"), h.as("Tilda Brandl")
	says := `needs the qualification "bonding"`
	_, err := h.CloseKit(h.ctx, falk, code, "kit", "")
	refusal(t, err, book.Refused, "count a kit: Kit "+says)
	_, err = h.StartStep(h.ctx, falk, code, finish.Step{Operation: "prepare tool"})
	refusal(t, err, book.Refused, "work on a part: Prepare tool "+says)
	_, err = h.HoldStep(h.ctx, falk, code, finish.StepReason{Operation: "prepare tool", Reason: "a scratch"})
	require.NoError(t, err, "whoever sees it holds it")
	for _, key := range []string{"kit", "prepare tool"} {
		_, err = h.LeaveOut(
			h.ctx,
			h.as("Jonas Quist"),
			code,
			finish.LeaveStepOut{Operation: key, Reason: "x", PIN: pin},
		)
		require.NoError(t, err)
	}
	kit, err := h.Kit(h.ctx, code, "kit")
	require.NoError(t, err)
	_, err = h.Sign(h.ctx, falk, code, builds.SignPly{Ply: 1, CutPly: kit.Plies[0].Cut[0].Code})
	refusal(t, err, book.Refused, "lay and debulk: Lay up "+says)
	_, err = h.Qualify(h.ctx, h.as("Jonas Quist"), falk.Person.ID, people.NewQualification{
		Kind: "bonding", ValidFrom: h.at.Add(-time.Hour), ValidUntil: h.at.Add(1000 * time.Hour), Evidence: "course",
	})
	require.NoError(t, err)
	_, err = h.Sign(h.ctx, falk, code, builds.SignPly{Ply: 1, CutPly: kit.Plies[0].Cut[0].Code})
	refusal(t, err, book.Refused, "was not counted into this kit")
	_, err = h.LeaveOut(h.ctx, h.as("Jonas Quist"), code, finish.LeaveStepOut{Operation: "lay", Reason: "x", PIN: pin})
	require.NoError(t, err)
	_, err = h.CloseBag(h.ctx, brandl, code, "close", "no bleed")
	refusal(t, err, book.Refused, `the qualification "bagging"`)
	h.bags(code, "close")
	_, err = h.StartRun(h.ctx, falk, []curing.OvenLoad{{Build: code}})
	require.NoError(t, err)
	_, err = h.LeaveOut(h.ctx, h.as("Jonas Quist"), code, finish.LeaveStepOut{Operation: "cure", Reason: "x", PIN: pin})
	refusal(t, err, book.Conflict, "Cure is in work already")
}
