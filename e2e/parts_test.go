package e2e

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"juxta/core/master"
	"juxta/format/pdf/pdftest"
	"juxta/shop/parts"
)

// with types a key together with a modifier.
func (p *page) with(m chromedp.Modifier, key string) {
	p.t.Helper()
	p.do(chromedp.KeyEvent(key, chromedp.KeyModifiers(m)))
}

// cell puts the focus into a cell of the sheet.
func (p *page) cell(key, field string) {
	p.t.Helper()
	at := fmt.Sprintf(`document.querySelector('[data-cell="%s/%s"]')`, key, field)
	p.until("the cell", at)
	p.do(chromedp.Evaluate[chromedp.Void](at+`.click()`), chromedp.Evaluate[chromedp.Void](at+`.focus()`))
}

// named is the newest revision of the part with a number.
func (h *house) named(t testing.TB, number string) parts.RevisionView {
	t.Helper()
	allParts, err := h.shop.Parts(context.Background())
	require.NoError(t, err)
	for _, p := range allParts {
		if p.Number == number {
			v, err := h.shop.Revision(context.Background(), p.Code, "")
			require.NoError(t, err)
			return v
		}
	}
	t.Fatalf("no part %s", number)
	return parts.RevisionView{}
}

func TestAPlannerWritesTheStackByKeyboard(t *testing.T) {
	t.Parallel()
	h := openHouse(t)
	p := openPage(t, h)
	p.visit("/parts")
	p.signIn("Marek Orde", password)
	p.click("SP-11")
	p.see("not symmetric: ply 8 unpaired")
	p.see("± ply 8")
	p.axe("the stack")
	// A wrong text stays in its cell with a sentence; a wrong code points at its character.
	p.cell("p4", "angleDeg")
	p.press("north\r")
	p.see("“north” is not a number")
	p.press("\x1b")
	p.cell("p4", "angleDeg")
	p.press("0/4x\r")
	p.see("0/4▸x")
	p.press("\x1b")
	p.notSee("0/4▸x")
	// A repeat, and undone.
	p.cell("p4", "angleDeg")
	p.with(chromedp.ModifierCtrl, "e")
	p.see("12 layers")
	p.with(chromedp.ModifierCtrl, "z")
	p.see("11 layers")
	// By typing a code into the cell: 0 and +45 take the place of ply 4.
	p.cell("p4", "angleDeg")
	p.press("0/45\r")
	p.see("12 layers")
	p.notSee("not symmetric")
	p.see("6 plies end at one line, at most 4")
	p.see("Kept")
	v := h.named(t, "SP-11")
	require.Len(t, v.Plies, 12)
	assert.Equal(t, 0.0, v.Plies[3].AngleDeg)
	assert.Equal(t, 45.0, v.Plies[4].AngleDeg)
	// Undone and kept again; then the rule is let stand by quality, and two sign.
	p.click("Undo")
	p.see("not symmetric: ply 8")
	p.click("Redo")
	p.notSee("not symmetric")
	p.see("Kept")
	p.keeps("the draft kept with 12 plies", v.Part.Code, `v.plies.length === 12 && v.plies[3].angleDeg === 0`)
	p.become("Jonas Quist", pin)
	p.visit("/parts/" + v.Part.Code)
	p.click("Waive: 6 plies end at one line")
	p.fill("Reason for the waiver", "pad tested, report 31")
	p.fill("PIN, to waive it", pin)
	p.click("Waive the finding")
	p.see("waived: pad tested, report 31")
	h.signAs(t, v.Part.Code)
	p.visit("/parts/" + v.Part.Code)
	p.see("Released by Jonas Quist")
	p.visit("/parts/" + v.Part.Code + "?revision=A")
	p.see("superseded")
}

// signAs has quality check and release the draft of a part.
func (h *house) signAs(t *testing.T, code string) {
	t.Helper()
	v, err := h.shop.Revision(context.Background(), code, "")
	require.NoError(t, err)
	sign := parts.RevisionSign{Version: v.Version, PIN: pin}
	_, err = h.shop.CheckRevision(context.Background(), h.as(t, "Hanne Vold"), code, sign)
	require.NoError(t, err)
	_, err = h.shop.ReleaseRevision(context.Background(), h.as(t, "Jonas Quist"), code, sign)
	require.NoError(t, err)
}

// By mouse as by keys: the section's line is drawn by its end, the plan zooms and
// moves, a row is dropped on another.
func TestTheStackIsWorkedByMouse(t *testing.T) {
	t.Parallel()
	h := openHouse(t)
	p := openPage(t, h)
	v := h.named(t, "SP-11")
	p.visit("/parts/" + v.Part.Code)
	p.signIn("Marek Orde", password)
	p.see("not symmetric: ply 8")
	places := func(js string) []float64 {
		p.until("the drawing at rest", js)
		at, err := evaluate[[]float64](p, js)
		require.NoError(t, err)
		return at
	}
	middle := func(e string) string {
		return `(() => { const e = ` + e + `; if (!e) return null; const r = e.getBoundingClientRect();
				return [r.x + r.width / 2, r.y + r.height / 2]; })()`
	}
	drag := func(from, to []float64) {
		p.do(chromedp.MouseEvent(chromedp.MousePressed, from[0], from[1], chromedp.ButtonLeft, chromedp.ClickCount(1)),
			chromedp.MouseEvent(chromedp.MouseMoved, (from[0]+to[0])/2, (from[1]+to[1])/2, chromedp.ButtonLeft),
			chromedp.MouseEvent(chromedp.MouseMoved, to[0], to[1], chromedp.ButtonLeft),
			chromedp.MouseEvent(chromedp.MouseReleased, to[0], to[1], chromedp.ButtonLeft, chromedp.ClickCount(1)))
	}
	const end = `document.querySelectorAll("svg circle[r='8']")[1]`
	const line = `[...document.querySelectorAll("label")]
				.find((l) => l.textContent.includes("Line of the section")).control.value`
	p.until("the line", `document.querySelectorAll("svg circle[r='8']").length === 2`)
	before, err := evaluate[string](p, line)
	require.NoError(t, err)
	from := places(middle(end))
	drag(from, []float64{from[0] - 60, from[1] + 30})
	p.until(
		"the end where it was let go",
		fmt.Sprintf(
			`Math.abs(%s.getBoundingClientRect().x + %[1]s.getBoundingClientRect().width / 2 - %g) < 2`,
			end,
			from[0]-60,
		),
	)
	now := places(middle(end))
	assert.InDelta(t, from[0]-60, now[0], 2, "the end lies where it was let go")
	assert.InDelta(t, from[1]+30, now[1], 2)
	after, err := evaluate[string](p, line)
	require.NoError(t, err)
	assert.NotEqual(t, before, after)
	assert.Equal(
		t,
		strings.Join(strings.Split(before, ";")[:2], ";"),
		strings.Join(strings.Split(after, ";")[:2], ";"),
		"the other end stays",
	)
	// A line without a length is told at the line, and the drawing stays.
	p.fill("Line of the section", "10, 10, 10, 10")
	p.see("the line of the section needs a length")
	p.notSee("Save again")
	p.fill("Line of the section", after)
	p.notSee("needs a length")
	// The field that was written in has scrolled the page.
	now, other := places(middle(end)), places(middle(`document.querySelector("svg circle[r='8']")`))
	// The wheel zooms about the pointer: what lies under it stays there.
	wheel := func(focus string) {
		p.do(
			chromedp.Evaluate[chromedp.Void](
				`(() => { const svg = ` + end + `.closest("svg"); ` + focus + `;
				svg.dispatchEvent(new WheelEvent("wheel", { deltaY: -400, clientX: ` + fmt.Sprint(
					now[0],
				) + `, clientY: ` + fmt.Sprint(
					now[1],
				) + `, bubbles: true, cancelable: true })); })()`,
			),
		)
	}
	wheel("document.activeElement?.blur()")
	assert.Equal(t, now, places(middle(end)), "without the focus the wheel is the page's")
	wheel("svg.focus({ preventScroll: true })")
	p.until(
		"larger",
		`document.querySelector("svg circle[r='8']").getBoundingClientRect().x < `+fmt.Sprint(other[0]-100),
	)
	zoomed := places(middle(end))
	assert.InDelta(t, now[0], zoomed[0], 2)
	assert.InDelta(t, now[1], zoomed[1], 2)
	// The tool that the part is made on; the section zoomed until its courses carry
	// their names, and back.
	p.click("Whole tool")
	p.until("the tool", `[...document.querySelectorAll("svg text")].some((e) => e.textContent === "flat tool T-18")`)
	p.click("Part alone")
	p.cell("p8", "x")
	p.press("900\r")
	p.see("Layers beyond the edge of flat tool T-18: 9")
	p.with(chromedp.ModifierCtrl, "z")
	p.notSee("Layers beyond the edge")
	const cut = `document.querySelector("svg[aria-label^=Section]")`
	const names = `[...` + cut + `.querySelectorAll("text[text-anchor=middle]")]
				.filter((e) => e.textContent.includes("Sable")).length`
	p.until("no names within", names+` === 0`)
	p.do(chromedp.Evaluate[chromedp.Void](cut + `.focus()`))
	p.press("++++")
	p.until("names within", names+` > 0`)
	p.axe("the section zoomed")
	p.press("0")
	p.until("all of it", names+` === 0`)
	// A row takes the place of the one that it is dropped on: by its grip with the mouse,
	// and with keys alone, where the focus stays on what was moved.
	first := h.named(t, "SP-11").Document.Stages[0].Items
	p.do(chromedp.Evaluate[chromedp.Void](`(() => {
		const rows = [...document.querySelectorAll("[role=grid] tbody tr")], data = new DataTransfer();
		const over = { bubbles: true, cancelable: true, dataTransfer: data, clientX: 300, clientY: 300 };
		const from = rows[3].querySelector("[draggable=true]");
		from.dispatchEvent(new DragEvent("dragstart", { bubbles: true, cancelable: true, dataTransfer: data }));
		for (const what of ["dragenter", "dragover", "drop"]) rows[0].dispatchEvent(new DragEvent(what, over));
		from.dispatchEvent(new DragEvent("dragend", { bubbles: true, dataTransfer: data }));
	})()`))
	p.until(
		"the row moved",
		fmt.Sprintf(`document.querySelector("[data-cell$='/angleDeg']").dataset.cell === "%s/angleDeg"`, first[3].Key),
	)
	p.see("Kept")
	p.until(
		"kept so",
		fmt.Sprintf(
			`fetch("/api/parts/%s").then((r) => r.json()).then((v) => v.document.stages[0].items[0].key === %q)`,
			v.Part.Code,
			first[3].Key,
		),
	)
	at := `(document.activeElement.dataset.cell ?? "")`
	p.until("the focus on the row", at+fmt.Sprintf(`.startsWith("%s/")`, first[3].Key))
	p.with(chromedp.ModifierShift, kb.Tab)
	p.until("its grip", `document.activeElement.getAttribute("aria-label")?.startsWith("Drag ")`)
	p.press(kb.Enter)
	p.until("a row to drop on", `document.activeElement.tagName === "TR"`)
	p.until("told how",
		`!!document.querySelector("#" + CSS.escape(document.activeElement.getAttribute("aria-describedby")))`)
	for on := ""; on != first[1].Key+"/kind"; {
		p.press(kb.Tab)
		var err error
		on, err = evaluate[string](p, `document.activeElement.querySelector("[data-cell]")?.dataset.cell ?? ""`)
		require.NoError(t, err)
	}
	p.press(kb.Enter)
	p.until("moved down two", fmt.Sprintf(`[...document.querySelectorAll("[data-cell$='/angleDeg']")].findIndex((e) =>
		e.dataset.cell === "%s/angleDeg") === 2`, first[3].Key))
	p.until("the focus on it again", at+fmt.Sprintf(`.startsWith("%s/")`, first[3].Key))
	p.see("moved")
	p.axe("the stack after a drag")
	// A drag that is given up changes nothing.
	p.with(chromedp.ModifierShift, kb.Tab)
	p.press(kb.Enter)
	p.until("a row to drop on", `document.activeElement.tagName === "TR"`)
	p.press(kb.Escape)
	p.until("given up", `document.activeElement.getAttribute("aria-label")?.startsWith("Drag ")`)
	p.until("still there", fmt.Sprintf(`[...document.querySelectorAll("[data-cell$='/angleDeg']")].findIndex((e) =>
		e.dataset.cell === "%s/angleDeg") === 2`, first[3].Key))
}

func TestTwoPlannersDoNotOverwriteEachOther(t *testing.T) {
	t.Parallel()
	h := openHouse(t)
	p := openPage(t, h)
	v := h.named(t, "SP-27")
	keys := v.Document.Stages[0].Items
	p.visit("/parts/" + v.Part.Code)
	p.signIn("Marek Orde", password)
	p.see("Yoke arm, hollow")
	p.cell(keys[1].Key, "angleDeg")
	// Somebody else turns ply 1 while the page is open.
	theirs := v.Document
	theirs.Stages = append([]master.Stage{}, v.Document.Stages...)
	theirs.Stages[0].Items = append([]master.Item{}, keys...)
	theirs.Stages[0].Items[0].AngleDeg = 40
	_, err := h.shop.ChangeDraft(
		context.Background(),
		h.as(t, "Ada Wren"),
		v.Part.Code,
		parts.DraftChange{Version: v.Version, Document: &theirs},
	)
	require.NoError(t, err)
	p.press("10\r")
	p.see("Kept")
	p.keeps("both changes kept", v.Part.Code, `v.plies[0].angleDeg === 40 && v.plies[1].angleDeg === 10`)
	p.until(
		"theirs on the page",
		fmt.Sprintf(`document.querySelector('[data-cell="%s/angleDeg"]').innerText === "+40°"`, keys[0].Key),
	)
}

func TestTheLaminateIsAskedAndTheDraftDrawn(t *testing.T) {
	t.Parallel()
	h := openHouse(t)
	p := openPage(t, h)
	panel := h.named(t, "SP-26")
	p.visit("/parts/" + panel.Part.Code + "?view=laminate")
	p.signIn("Hedda Solm", pin)
	p.see("1 to 3, film adhesive 1, core 1, film adhesive 2, 4 to 6")
	p.see("Sandwich.")
	p.click("Turn over")
	p.see("ply 1 turned over. Nothing is changed by it.")
	p.see("not symmetric")
	p.fill("Mx, N", "60")
	p.click("Calculate")
	p.see("would fail first")
	// A case of the master fills the fields and is worked out.
	p.set("Load cases of the master", panel.Document.Loads[0].Name)
	p.until(
		"the case in the fields",
		fmt.Sprintf(
			`[...document.querySelectorAll("label")]
				.find((l) => l.textContent.includes("Ny, N/mm")).control.value === "%g"`,
			panel.Document.Loads[0].N[1]/1e3,
		),
	)
	p.see("would fail first")
	p.see("A check for the shop, not a certification")
	p.click("Warp tolerance")
	p.see("the worst of 200 layups")
	p.visit("/parts/" + panel.Part.Code + "?view=difference")
	p.see("Same stack")
	p.visit("/parts/" + panel.Part.Code + "?view=process")
	p.see("pressure at most 170 kPa")

	p.become("Marek Orde", password)
	yoke := h.named(t, "SP-27")
	p.visit("/parts/" + yoke.Part.Code + "?view=outlines")
	p.see("stands for: the developed half shell")
	p.see("circle, from its middle")
	p.set("New outline", "circle, from its middle")
	p.fill("Diameter, mm", "80")
	p.see("Kept")
	p.axe("outlines")
	path := filepath.Join(t.TempDir(), "lug.svg")
	require.NoError(
		t,
		os.WriteFile(
			path,
			[]byte(`<svg width="40mm" viewBox="0 0 40 20"><path id="lug" d="M0 0h40v20h-40z"/></svg>`),
			0o600,
		),
	)
	p.upload(0, path)
	p.see("lug")
	p.see("40.0 × 20.0 mm")
	path = filepath.Join(t.TempDir(), "bent.svg")
	require.NoError(t, os.WriteFile(path, []byte(`<svg><path id="bent" d="M0 0C1 1 2 2 3 3z"/></svg>`), 0o600))
	p.upload(0, path)
	p.see("the drawing does not say its size: choose mm or inch")
	p.set("Unit of a drawing that says none", "mm")
	path = filepath.Join(t.TempDir(), "straight.svg")
	require.NoError(t, os.WriteFile(path, []byte(`<svg><path id="straight" d="M0 0C1 1 2 2 3 3z"/></svg>`), 0o600))
	p.upload(0, path)
	p.see("no closed outline that is seen")
	path = filepath.Join(t.TempDir(), "bow.svg")
	require.NoError(t, os.WriteFile(path, []byte(`<svg><path id="bow" d="M0 0C0 9 9 9 9 0"/></svg>`), 0o600))
	p.upload(0, path)
	p.see("is open: it was closed by a straight line of 9.0 mm")
	p.keeps("the outlines kept", yoke.Part.Code,
		`v.document.outlines.some((o) => o.name === "lug") &&
		v.document.outlines.some((o) => o.dims?.diameter === 0.08)`)

	// A load that is needed again is kept in the master.
	p.visit("/parts/" + yoke.Part.Code + "?view=laminate")
	p.see("none yet")
	p.fill("Nxy, N/mm", "12.5")
	p.fill("Name of the case", "wind from the side")
	p.click("Save in the master")
	p.see("Save the case as it is now")
	p.see("Kept")
	p.keeps("the case kept", yoke.Part.Code,
		`v.document.loads?.[0].name === "wind from the side" && v.document.loads[0].n[2] === 12500`)

	p.visit("/parts/" + yoke.Part.Code + "?view=process")
	p.fill("then every … plies", "3")
	p.fill("Demould", "cool first")
	// A recipe is written segment by segment, and simulated before it is kept.
	p.see("If it runs as planned, in Press 1")
	p.fill("2: hold, min", "5")
	p.fill("2: part has, °C", "117")
	p.fill("Name of the recipe", "Too short")
	p.see("✕ degree of cure by the lagging sensor")
	p.click("Insert a segment below 2")
	p.fill("3: to, °C", "135")
	p.fill("3: hold, min", "40")
	p.fill("3: part has, °C", "131")
	p.fill("Name of the recipe", "Two steps and a last one")
	p.see("segment 3 holds at 135.0 °C, and the part may have 128.0 °C at most")
	p.fill("Max. part temperature, °C", "140")
	p.fill("3: at, K/min", "0")
	p.fill("Name of the recipe", "Two steps and a last")
	p.see("segment 3: the ramp must be above zero")
	p.fill("3: at, K/min", "2")
	p.until(
		"who lays it is asked for a qualification",
		`(() => { const box = [...document.querySelectorAll("label")]
				.find((l) => l.innerText.trim() === "bonding").control;
			if (!box.checked) box.click(); return box.checked; })()`,
	)
	p.until(
		"every limit met as planned",
		`(() => { const all = [...document.querySelectorAll("[aria-label='Limits as planned'] li")]
				.map((li) => li.innerText); return all.length === 7 && all.every((says) => says.startsWith("✓")); })()`,
	)
	p.click("Keep the process")
	p.see("The process is kept.")
	p.visit("/parts/" + yoke.Part.Code)
	p.see("Qualifications to lay or bag it: bonding")
	kept := h.named(t, "SP-27").Process
	assert.Equal(t, 3, kept.DebulkEvery)
	require.Len(t, kept.Recipe.Segments, 4)
	assert.InDelta(t, 408.15, kept.Recipe.Segments[2].Target, 1e-9)
	assert.InDelta(t, 2.0/60, kept.Recipe.Segments[2].Rate, 1e-12)
	assert.Equal(t, 2400.0, kept.Recipe.Segments[2].Hold)
	assert.InDelta(t, 404.15, kept.Recipe.Segments[2].WaitPart, 1e-9)
	assert.Equal(t, []string{"bonding"}, kept.Qualifications)

	family := h.named(t, "SP-21")
	p.visit("/parts/" + family.Part.Code + "?view=family")
	p.see("as the family")
	p.axe("family")
	p.fill("L =", "700")
	p.see("not as the family")
	p.click("Make parts of its variants")
	p.notSee("not as the family")
	small := h.named(t, "SP-21-600")
	assert.InDelta(t, 0.7, small.Document.Stages[0].Rolled.Length, 1e-9)

	p.visit("/parts/rules")
	p.see("common practice, no source")
	p.visit("/parts/tools")
	p.click("mandrel M-40")
	p.click("cured")
	p.see("1 cures")
}

func TestThePlyBookAndTheFilesOfAMaster(t *testing.T) {
	t.Parallel()
	h := openHouse(t)
	p := openPage(t, h)
	v := h.named(t, "SP-26")
	p.visit("/parts/" + v.Part.Code)
	p.signIn("Tilda Brandl", pin)
	p.see("Ply book (PDF)")
	base := "/api/parts/" + v.Part.Code
	pages, text := pdftest.Read(t, []byte(p.fetched(base+"/book?letter=A")))
	assert.Equal(t, 3+12+1, pages, "a cover, its way, its cures as simulated, a page an item, a section")
	for _, says := range []string{
		"Dome-shutter panel", "Ply book, revision A", "Ply 6", "Core 1", "Insert 2", "Hold point: potting is hard",
		"Route of this part", "Cure Tool skin as simulated", "Gelled after", "Cure Tool skin",
		"not before the part is below 60 °C", "dry spots, bridging, folds",
		"warp face down, to the tool", "Checked by a second person", v.Hash[:40], "flat tool, 1600",
	} {
		assert.Contains(t, text, says)
	}
	pages, _ = pdftest.Read(t, []byte(p.fetched(base+"/book?letter=A&templates=yes&paper=letter")))
	assert.Greater(t, pages, 40, "900 mm plies tiled over letter pages")
	var file parts.MasterFile
	require.NoError(t, json.Unmarshal([]byte(p.fetched(base+"/master.json")), &file))
	assert.Equal(t, v.Document, file.Document)
	assert.Contains(t, p.fetched(base+"/plies.csv"), "1,Sable twill 200,45,full,down,0,0")
	assert.True(t, bytes.HasPrefix([]byte(p.fetched(base+"/plies.xlsx")), []byte("PK")))
	assert.Contains(t, p.fetched(base+"/operations.csv"),
		"6,cure,Cure Tool skin,Tool skin,5,cure,oven 1,,10,10,240,,,,")
	assert.True(t, bytes.HasPrefix([]byte(p.fetched(base+"/operations.xlsx")), []byte("PK")))
	assert.Contains(t, p.fetched("/api/master.schema.json"), "post-cure")
	assert.Contains(t, p.fetched(base+"/outlines.dxf"), "net")
	assert.Contains(t, p.fetched(base+"/outlines.svg"), `id="core"`)
	assert.Contains(t, p.fetched("/api/master.schema.json"), `"$schema"`)
}

func TestAPartIsBegunWrittenAndCopied(t *testing.T) {
	t.Parallel()
	h := openHouse(t)
	p := openPage(t, h)
	p.visit("/parts")
	p.signIn("Marek Orde", password)
	p.see("Begin a part")
	p.fill("Part number", "SP-60")
	p.fill("Name", "Sensor bracket")
	p.set("Resin", "Ember 120")
	p.click("Begin")
	p.see("An empty stack: type a stacking code above, or add an item.")
	p.axe("an empty stack")
	// A code that is wrong points at its character; the right one fills the stack.
	p.fill("Stacking code", "[0/45/x]s")
	p.click("Lay the code")
	p.see("[0/45/▸x]s: 'x' is not an angle")
	p.fill("Stacking code", "[0/±45/90]s")
	p.set("of", "Sable UD 150")
	p.click("Lay the code")
	p.see("8 layers")
	p.see("symmetric, balanced, no rule broken")
	p.see("Kept")
	v := h.named(t, "SP-60")
	require.Len(t, v.Plies, 8)
	assert.Equal(
		t,
		[]float64{0, 45, -45, 90, 90, -45, 45, 0},
		[]float64{
			v.Plies[0].AngleDeg,
			v.Plies[1].AngleDeg,
			v.Plies[2].AngleDeg,
			v.Plies[3].AngleDeg,
			v.Plies[4].AngleDeg,
			v.Plies[5].AngleDeg,
			v.Plies[6].AngleDeg,
			v.Plies[7].AngleDeg,
		},
	)
	// The place of a ply is typed into the drawing, the section's line under it.
	first := v.Document.Stages[0].Items[0].Key
	p.cell(first, "angleDeg")
	p.until("the dimension", `document.querySelector('[aria-label^="x of ply 1 from"]')`)
	p.do(
		chromedp.Evaluate[chromedp.Void](
			`(() => { const f = document.querySelector('[aria-label^="x of ply 1 from"]'); f.focus(); f.select(); })()`,
		),
		chromedp.KeyEvent("12.5"),
		chromedp.KeyEvent("\r"),
	)
	p.keeps("the place kept", v.Part.Code, `v.document.stages[0].items[0].x === 0.0125`)
	p.see("not symmetric")
	p.click("Undo")
	p.see("symmetric, balanced, no rule broken")
	p.fill("Line of the section", "0, 100, 300, 100")
	p.see("300 mm long")
	// Rows move by key, and a stage begins where it is asked to.
	p.cell(first, "angleDeg")
	p.do(
		chromedp.Evaluate[chromedp.Void](
			`document.activeElement.dispatchEvent(
				new KeyboardEvent("keydown", { key: "ArrowDown", altKey: true, bubbles: true }))`,
		),
	)
	p.until(
		"the row moved",
		fmt.Sprintf(`document.querySelectorAll("[data-cell$='/angleDeg']")[1].dataset.cell === "%s/angleDeg"`, first),
	)
	p.see("not symmetric")
	p.click("Undo")
	p.see("symmetric, balanced, no rule broken")
	p.cell(v.Document.Stages[0].Items[4].Key, "angleDeg")
	p.click("Begin a stage here")
	p.see("Join with the stage before")
	p.see("Kept")
	// Pasted from another sheet: a column of angles takes the place of a row.
	p.cell(v.Document.Stages[0].Items[7].Key, "angleDeg")
	p.do(
		chromedp.Evaluate[chromedp.Void](
			`(() => { const d = new DataTransfer(); d.setData("text", "10\t1\n20\t2\n30\t3\n");
				document.activeElement.dispatchEvent(
					new ClipboardEvent("paste", { clipboardData: d, bubbles: true, cancelable: true })); })()`,
		),
	)
	p.see("10 layers")
	p.see("3 plies laid")
	p.keeps("kept", v.Part.Code, `v.plies.length === 10 && v.plies[9].angleDeg === 30`)
	// The whole master out as a file, and in again under another number.
	var file parts.MasterFile
	require.NoError(t, json.Unmarshal([]byte(p.fetched("/api/parts/"+v.Part.Code+"/master.json")), &file))
	file.Number, file.Name = "SP-61", "Sensor bracket, copied"
	raw, err := json.Marshal(file)
	require.NoError(t, err)
	path := filepath.Join(t.TempDir(), "master.json")
	require.NoError(t, os.WriteFile(path, raw, 0o600))
	p.visit("/parts")
	p.upload(2, path)
	p.see("Sensor bracket, copied")
	p.see("10 layers")
	assert.Equal(t, file.Document, h.named(t, "SP-61").Document)
	// A file that is none says so, and nothing is stored.
	path = filepath.Join(t.TempDir(), "none.json")
	require.NoError(t, os.WriteFile(path, []byte("not JSON"), 0o600))
	p.visit("/parts")
	p.upload(2, path)
	p.see("none.json is not a master file")
}
