package e2e

import (
	"testing"

	"github.com/stretchr/testify/require"
)

// A ply that fell on the floor is voided where its kit is, with a reason, and the page says what comes next; an
// operation that is found not good is held until quality decides.
func TestALostPlyAndWorkThatIsNotGood(t *testing.T) {
	t.Parallel()
	h, works := openWorks(t)
	build := h.build(t, "0002")
	kit, err := h.shop.Kit(t.Context(), build.Code, "")
	require.NoError(t, err)
	last := kit.Plies[len(kit.Plies)-1].Cut[0].Code
	p := openPage(t, h)
	p.visit("/kits/" + build.Code)
	p.signIn("Tilda Brandl", pin)
	p.click("A ply is lost or spoiled")
	p.see("Choose the ply.")
	p.set("Which ply", "ply 10, "+last)
	p.fill("What happened to it", "fell on the floor")
	p.axe("a ply is voided")
	p.click("Void it: cut it again")
	p.see("not cut yet")
	p.notSee(last)

	p.become("Ines Falk", pin)
	p.visit("/finish/" + works["SP-27 0001"])
	p.see("Prepare tool")
	p.click("Not good")
	p.fill("What is not good", "a scratch across the datum")
	p.axe("not good")
	p.click("Sign: not good, hold it")
	p.see("a scratch across the datum")
	p.notSee("Resume")
	p.become("Jonas Quist", pin)
	p.see("Resume")
}
