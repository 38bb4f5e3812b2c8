package e2e

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// The first page after sign-in is the person's day: one press starts what presses most, a
// note goes to the next shift, and the wall shows it to everybody.
func TestTheDayOfAPerson(t *testing.T) {
	t.Parallel()
	h, of := openWorks(t)
	p := openPage(t, h)
	p.visit("/")
	p.signIn("Ines Falk", pin)
	p.see("Join: SP-27 · 0002")
	p.see("Cure · SP-23 Spider vane, tapered · 0002")
	p.see("is out at coater in the valley")
	p.axe("the day, with builds on their routes")
	p.fill("For the next shift", "hose 3 hisses")
	p.click("Leave the note")
	p.see("hose 3 hisses")
	// The one press takes up what is signed for itself.
	p.click("Start: Prepare tool, SP-27 0001")
	require.Eventually(t, func() bool {
		return h.called(t, of["SP-27 0001"], "Prepare tool").State == "in work"
	}, patience, 20*time.Millisecond)
	p.see("Sign: done") // the page has followed
	// The logo and 0 lead back; Enter starts the first: a join, whose oldest pre-form no
	// technician may take.
	p.press("0")
	p.see("Go on")
	p.press("\r")
	p.see("scan each label")
	var web string
	for _, f := range h.called(t, of["SP-27 0002"], "Join").Forms {
		if f.Name == "Inner web" {
			web = f.Code
		}
	}
	p.see("past its life: its out-life of 240 h is spent")
	p.scan(web)
	p.see("is past its life: its out-life of 240 h is spent")
	p.click("Juxta, to the day")
	p.see("For the next shift")
	p.become("Jonas Quist", pin)
	p.visit("/today")
	p.see("Inspect and sign")
	p.see("decide about lot SU-2304 of Sable UD 150")
	p.notSee("Cure · SP-23 Spider vane, tapered · 0002")
	// The wall: nobody signed in, nothing to press.
	p.visit("/wall")
	p.see("The shop today")
	p.see("Prepare tool")
	p.see("hose 3 hisses")
	pressed, err := evaluate[float64](p, `document.querySelectorAll("button, a, input").length`)
	require.NoError(t, err)
	assert.Zero(t, pressed)
}

// Quality adds a rework to one build, with a second person; it is there in the way of that
// build, and what comes next waits for it.
func TestAReworkIsAddedOnTheWayOfABuild(t *testing.T) {
	t.Parallel()
	h, works := openWorks(t)
	code := works["SP-29 0001"]
	p := openPage(t, h)
	p.visit("/finish/" + code)
	p.signIn("Jonas Quist", pin)
	p.see("Bond Fittings")
	p.click("Add a rework")
	p.set("Kind", "sand")
	p.fill("What is to be done", "End sanded square")
	p.set("After", "8 Cut to length")
	p.set("Before", "9 Bond Fittings")
	p.fill("Why it is reworked", "the cut is 0.4° off")
	p.set("Second person", "Ines Falk")
	p.fill("Their PIN", "000000")
	p.fill("Your PIN again", pin)
	p.axe("a rework")
	p.click("Sign: add the rework")
	p.see("this is not")
	p.fill("Their PIN", pin)
	p.fill("Your PIN again", pin)
	p.click("Sign: add the rework")
	p.see("End sanded square")
	p.see("waits for End sanded square")
	p.visit("/finish/" + code + "?operation=rework%201")
	p.click("Sign: done")
	p.see("done, Jonas Quist")
	assert.Equal(t, "ready", h.called(t, code, "Bond Fittings").State)
}
