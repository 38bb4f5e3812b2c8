package e2e

import (
	"context"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"juxta/core/master"
	"juxta/shop/builds"
	"juxta/shop/finish"
	"juxta/shop/parts"
)

// A technician finds what is ready in the room, takes it up, writes down what it asks, and
// signs; what cannot be is told at once.
func TestAnOperationIsWorkedInTheRoomOfTheFinish(t *testing.T) {
	t.Parallel()
	h := openHouse(t)
	ctx, orde := context.Background(), h.as(t, "Marek Orde")
	v := h.named(t, "SP-25")
	doc := v.Document
	most, least := 0.3, 0.1
	doc.Route[0].Fields = []master.Field{
		{Key: "gap", Name: "gap at the lip", Kind: "value", Unit: "mm", Least: &least, Most: &most},
		{Key: "wax", Name: "release agent", Kind: "product", Pot: 1800},
		{Key: "look", Name: "surface", Kind: "choice", Choices: []string{"clean", "scratched"}},
	}
	doc.Route[0].Caution = "Solvent: gloves, and air."
	_, err := h.shop.ChangeDraft(ctx, orde, v.Part.Code, parts.DraftChange{Version: v.Version, Document: &doc})
	require.NoError(t, err)
	h.signAs(t, v.Part.Code)
	b, err := h.shop.StartBuild(
		ctx,
		orde,
		v.Part.Code,
		builds.NewBuild{Serial: "0077", CureAt: h.shop.Now().Add(90 * time.Hour)},
	)
	require.NoError(t, err)
	p := openPage(t, h)
	p.visit("/freezer")
	p.signIn("Ines Falk", pin)
	p.press("8")
	p.see("Nothing waits here")
	p.press("5")
	p.see("Prepare tool: ready")
	p.click("Prepare tool: ready")
	p.see("Solvent: gloves, and air.")
	p.click("Start")
	p.see("in work, Ines Falk")
	// Wrong first, as a gauge and a hand would have it.
	p.fill("gap at the lip, mm", "0,5")
	p.see("gap at the lip: 0.5 mm is above the maximum, 0.3 mm")
	p.fill("gap at the lip, mm", "0.2 mm")
	p.see("release agent: scan its batch, and say when it was mixed")
	p.fill("release agent: its batch", "RA-7")
	p.set("Mixed or opened at", h.shop.Now().Add(-2*time.Hour).Format("2006-01-02T15:04"))
	p.see("its pot life of 30 min was over")
	p.set("Mixed or opened at", h.shop.Now().Add(-5*time.Minute).Format("2006-01-02T15:04"))
	p.see("left of the pot")
	p.see("surface: choose one")
	p.set("surface", "clean")
	p.notSee("surface: choose one")
	p.click("Sign: done")
	p.see("done, Ines Falk")
	work, err := h.shop.Work(ctx, b.Code)
	require.NoError(t, err)
	first := work.Operations[0]
	assert.Equal(t, "done", first.State)
	assert.InDelta(t, 0.2, *first.Fields["gap"].Number, 1e-9)
	assert.Equal(t, "RA-7", first.Fields["wax"].Text)
	// Taken back with a reason, it is ready again; another person holds it.
	p.click("Prepare tool")
	p.click("Take back")
	p.fill("What was wrong", "the wrong tool")
	p.click("Take it back")
	p.see("ready")
	p.click("Hold it, refer")
	p.fill("What to check", "a scratch in the tool")
	p.click("Hold it")
	p.see("held, Ines Falk")
	p.become("Jonas Quist", pin)
	p.visit("/finish/" + b.Code)
	p.see("a scratch in the tool")
	p.click("Resume")
	p.see("in work, Jonas Quist")
	// What waits says for what, and is not offered.
	p.click("Demould")
	p.see("waits for Cure")
	p.notSee("Sign: done")
	p.click("Omit from this build")
	p.fill("Why it is left out", "a trial")
	p.fill("Your PIN again", pin)
	p.click("Sign: leave it out")
	p.see("left out, Jonas Quist")
	// What is left out is not waited for, but for what it rests on itself; the trim is ready
	// once the rooms before it are out of the way.
	for _, key := range []string{"prepare tool", "cut", "kit", "lay", "close", "cure"} {
		_, err := h.shop.LeaveOut(ctx, h.as(t, "Jonas Quist"), b.Code, finish.LeaveStepOut{
			Operation: key, Reason: "an example", PIN: pin,
		})
		require.NoError(t, err)
	}
	p.visit("/finish")
	p.see("1 operation to go on with")
	p.click("Trim")
	p.see("Sign: done")
	// Who may not, reads.
	p.become("Hedda Solm", pin)
	p.visit("/finish/" + b.Code)
	p.see("can work on a part")
	p.notSee("Sign: done")
	_, err = h.shop.VerifyLog(ctx)
	require.NoError(t, err)
}
