package e2e

import (
	"fmt"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
)

// The sheet by keyboard: a choice is kept by Enter and not by the first arrow,
// Tab leaves the sheet, a field below it goes to all chosen rows, and a wrong
// entry stays where it is and holds the save.
func TestTheSheetByKeyboard(t *testing.T) {
	t.Parallel()
	h := openHouse(t)
	p := openPage(t, h)
	v := h.named(t, "SP-25")
	first := v.Document.Stages[0].Items[0]
	p.visit("/parts/" + v.Part.Code)
	p.signIn("Marek Orde", password)
	p.until("the page has the focus", `document.activeElement.tagName === "MAIN"`)
	cell := func(field string) string {
		return fmt.Sprintf(`document.querySelector('[data-cell="%s/%s"]')`, first.Key, field)
	}
	p.cell(first.Key, "faceUp")
	p.press("\r")
	p.until("the choice is open", cell("faceUp")+`.querySelector("select") === document.activeElement`)
	// As browsers tell it whose lists open, and those whose do not.
	walk := fmt.Sprintf(
		`(() => { const s = %s.querySelector("select"); s.dispatchEvent(new KeyboardEvent("keydown", { key: "ArrowDown",
			bubbles: true }));
		Object.getOwnPropertyDescriptor(HTMLSelectElement.prototype, "value").set.call(s, %q);
				s.dispatchEvent(new Event("change", { bubbles: true })); })()`,
		cell("faceUp"),
		map[bool]string{true: "down", false: "up"}[first.FaceUp],
	)
	key := func(k string) string {
		return cell(
			"faceUp",
		) + `.querySelector("select").dispatchEvent(new KeyboardEvent("keydown", { key: "` + k + `", bubbles: true,
			cancelable: true }))`
	}
	p.do(chromedp.Evaluate[chromedp.Void](walk), chromedp.Evaluate[chromedp.Void](key("Escape")))
	p.until("the editor is gone", cell("faceUp")+`.querySelector("select") === null`)
	assert.Equal(
		t,
		first.FaceUp,
		h.named(t, "SP-25").Document.Stages[0].Items[0].FaceUp,
		"an arrow only walks through the choices",
	)
	p.cell(first.Key, "faceUp")
	p.press("\r")
	p.until("the choice is open", cell("faceUp")+`.querySelector("select") === document.activeElement`)
	p.do(chromedp.Evaluate[chromedp.Void](walk), chromedp.Evaluate[chromedp.Void](key("Enter")))
	p.until(
		"the face is kept",
		fmt.Sprintf(
			`fetch("/api/parts/%s").then((r) => r.json()).then((v) => v.document.stages[0].items[0].faceUp === %v)`,
			v.Part.Code,
			!first.FaceUp,
		),
	)

	p.cell(first.Key, "x")
	p.press("\t")
	p.until(
		"Tab left the sheet",
		`document.activeElement !== document.body && !document.activeElement.closest("[role=grid]")`,
	)
	// From a cell that is written, at the end of its row.
	p.cell(first.Key, "y")
	p.press("3\t")
	p.until("the next cell", cell("faceUp")+` === document.activeElement`)
	p.press("\r")
	p.press("\t") // closes the list, where the browser opened it
	p.press("\t")
	p.until("Tab left the sheet", `!document.activeElement.closest("[role=grid]")`)

	p.cell(first.Key, "angleDeg")
	p.do(chromedp.KeyEvent(kb.ArrowDown, chromedp.KeyModifiers(8)))
	p.see("All 2 chosen: 1, 2")
	p.fill("Note", "mind the edge")
	p.until(
		"both have the note",
		fmt.Sprintf(
			`fetch("/api/parts/%s").then((r) => r.json()).then((v) => v.document.stages[0].items
				.filter((i) => i.note === "mind the edge").length === 2)`,
			v.Part.Code,
		),
	)

	p.fill("Outline turned, °", "12O")
	p.see("“12O” is not a number")
	p.fill("Caution", "hot")
	p.fill("Outline turned, °", "12,5°")
	p.until(
		"the turn is kept",
		fmt.Sprintf(
			`fetch("/api/parts/%s").then((r) => r.json()).then((v) => v.document.stages[0].items
				.filter((i) => i.turnDeg === 12.5).length === 2)`,
			v.Part.Code,
		),
	)
}
