package e2e

import (
	"context"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// date fills a field for a date, which takes no typing in one row everywhere.
func (p *page) date(label, value string) {
	p.t.Helper()
	p.do(chromedp.Evaluate[chromedp.Void](`(() => { const l = [...document.querySelectorAll("label")].find((l) => l.textContent.includes("` + label + `")), f = l.control ?? document.getElementById(l.htmlFor);
		Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, "value").set.call(f, "` + value + `"); f.dispatchEvent(new Event("input", { bubbles: true })); })()`))
}

func TestPeopleAreQualifiedChangedAndSeenInTheLog(t *testing.T) {
	h := openHouse(t)
	ctx := context.Background()
	p := openPage(t, h.url)
	p.visit("/shop")
	p.signIn("Jonas Quist", pin)
	p.see("6 work here")
	p.axe("people")
	// A quality person gives and withdraws qualifications, not their own, and no roles.
	p.click("Change Ines Falk")
	p.see("Qualifications")
	p.notSee("Role and secret")
	p.do(chromedp.Evaluate[chromedp.Void](`(() => { const s = document.querySelector('[aria-label="Qualification"]'); Object.getOwnPropertyDescriptor(HTMLSelectElement.prototype, "value").set.call(s, "bonding"); s.dispatchEvent(new Event("change", { bubbles: true })); })()`))
	p.date("Valid until", "2031-05-01")
	p.fill("What shows it", "course B1, paper 201")
	p.click("Give it")
	p.see("bonding course B1, paper 201")
	p.fill("What shows it", "the paper belongs to somebody else")
	p.click("Withdraw bonding")
	p.see("withdrawn")
	p.axe("one person")
	p.visit("/shop/matrix")
	p.see("quality, you")
	p.see("not who laid a ply of the part")
	p.axe("the matrix")
	// An administrator changes a role, signed with the PIN; her sessions end.
	p.become("Ada Wren", password)
	p.visit("/shop")
	p.click("Change Tilda Brandl")
	p.see("Role and secret")
	p.see("Issue a badge, PDF")
	p.click("Issue a badge, PDF")
	p.see("Issue a new badge, PDF")
	p.fill("New PIN", "909192")
	p.fill("Reason", "she forgot it")
	p.fill("Your PIN again", "000000")
	p.click("Sign the change")
	p.see("this is not your PIN: nothing was signed")
	p.fill("Your PIN again", pin)
	p.click("Sign the change")
	p.notSee("Role and secret")
	p.become("Tilda Brandl", "909192")
	p.see("To take out for the cut")
	// All of it stands in the log, which anybody may read and filter.
	p.visit("/shop/log")
	p.fill("What", "qualification")
	p.see("qualification withdrawn")
	p.see("the paper belongs to somebody else")
	p.notSee("roll taken out")
	p.click("More of entry")
	p.see("hash ")
	p.axe("the log")
	p.fill("What", "person changed")
	p.see("she forgot it")
	p.click("Check the chain")
	p.see("entries holds")
	n, err := h.shop.VerifyLog(ctx)
	require.NoError(t, err)
	assert.Positive(t, n)
	// One's own PIN, and out everywhere.
	p.visit("/shop/mine")
	p.fill("Your present PIN", "909192")
	p.fill("New PIN, 6 to 12", "123456")
	p.click("Change it")
	p.see("one of the first that anybody tries")
	p.click("Sign me out everywhere")
	p.see("Who are you?")
}

func TestAPlannerKeepsMaterialsAndResins(t *testing.T) {
	h := openHouse(t)
	p := openPage(t, h.url)
	p.visit("/freezer/materials")
	p.signIn("Marek Orde", password)
	p.click("Sable UD 150")
	p.see("unidirectional, version 1")
	p.see("240 h")
	p.see("In use: a change makes a new version")
	p.click("Change it")
	p.see("Keep as version 2")
	p.axe("a material, changed")
	p.fill("Out-life, h", "100")
	p.click("Keep as version 2")
	p.see("tack life is part of out-life: it cannot be longer")
	p.fill("Tack life, h", "90")
	p.click("rolls on hand and drafts follow")
	p.click("Keep as version 2")
	p.see("unidirectional, version 2")
	p.see("present")
	assert.Equal(t, 100*3600.0, h.roll(t, "SU-2291").Fuse.Life)
	// A resin, and a material of another kind made with it.
	p.click("A new resin")
	p.fill("Name", "Tarn 80")
	p.click("Keep the resin")
	p.see("Tarn 80")
	p.click("A new material")
	p.see("Enter the material")
	p.fill("Name", "Tarn paste")
	p.click("Enter the material")
	p.see("needs ")
	p.do(chromedp.Evaluate[chromedp.Void](`(() => { const s = [...document.querySelectorAll("select")].find((s) => [...s.options].some((o) => o.text === "paste adhesive"));
		Object.getOwnPropertyDescriptor(HTMLSelectElement.prototype, "value").set.call(s, "paste adhesive"); s.dispatchEvent(new Event("change", { bubbles: true })); })()`))
	p.click("Enter the material")
	p.see("paste adhesive, version 1")
	// Which roll, for some plies of a build.
	p.visit("/freezer/which")
	p.see("take this one")
	p.axe("which roll")
	p.fill("Only plies", "2,3")
	p.see("2 plies, 0.")
	p.fill("Only plies", "two")
	p.visit("/freezer/usage")
	p.see("Expires soon")
	p.see("damaged, 1 time")
}
