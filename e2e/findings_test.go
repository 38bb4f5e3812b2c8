package e2e

import (
	"bytes"
	"context"
	"fmt"
	"image"
	"image/png"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"juxta/shop/book"
	"juxta/shop/builds"
	"juxta/shop/parts"
	"juxta/shop/shoptest"
)

// What a master says of its plies is read at the bench: demands, a caution, a
// picture that grows when it is pressed.
func TestTheBenchShowsWhatTheMasterSays(t *testing.T) {
	t.Parallel()
	h := openHouse(t)
	ctx, by := context.Background(), h.as(t, "Marek Orde")
	var picture bytes.Buffer
	require.NoError(t, png.Encode(&picture, image.NewGray(image.Rect(0, 0, 400, 300))))
	file, err := h.shop.KeepFile(ctx, by, book.NewFile{Name: "lip.png", Content: picture.Bytes()})
	require.NoError(t, err)
	v := h.named(t, "SP-25")
	doc, process := v.Document, v.Process
	first := &doc.Stages[0].Items[0]
	first.PictureID, first.Caution, first.Second = file.ID, "mind the lip", true
	process.Qualifications = []string{"bonding"}
	_, err = h.shop.ChangeDraft(
		ctx,
		by,
		v.Part.Code,
		parts.DraftChange{Version: v.Version, Document: &doc, Process: &process},
	)
	require.NoError(t, err)
	h.signAs(t, v.Part.Code)
	b, err := h.shop.StartBuild(
		ctx,
		by,
		v.Part.Code,
		builds.NewBuild{Serial: "0001", CureAt: h.shop.Now().Add(90 * time.Hour)},
	)
	require.NoError(t, err)
	p := openPage(t, h)
	p.visit("/layup/" + b.Code)
	p.signIn("Ines Falk", pin)
	p.see("bag this part: bonding")
	p.see("Caution: mind the lip")
	p.see("Two people: a second person checks it")
	const high = `document.querySelector('img[alt="Of ply 1"]').getBoundingClientRect().height`
	p.until("a small picture", high+` > 50 && `+high+` < 110`)
	p.axe("the bench with a picture")
	p.do(chromedp.Evaluate[chromedp.Void](`document.querySelector('img[alt="Of ply 1"]').closest("button").focus()`))
	p.press("\r")
	p.until("a large picture", high+` > 250`)
	p.press("\r")
	p.until("a small picture", high+` < 110`)
	laid, err := h.shop.Layup(ctx, b.Code, "")
	require.NoError(t, err)
	assert.Empty(t, laid.Laid, "Enter on the picture signs no ply")
}

// Of one rule that is broken in every zone four findings stand at once.
func TestManyFindingsOfOneRuleAreFolded(t *testing.T) {
	t.Parallel()
	h := openHouse(t)
	file, err := h.shop.ExportMaster(context.Background(), h.named(t, "SP-11").Part.Code, "A")
	require.NoError(t, err)
	v, err := h.shop.ImportMaster(context.Background(), h.as(t, "Marek Orde"), shoptest.Many(file, 100))
	require.NoError(t, err)
	rule := 0
	for _, f := range v.Worked.Findings {
		if f.Rule == "symmetry" {
			rule++
		}
	}
	require.Greater(t, rule, 4)
	p := openPage(t, h)
	p.visit("/parts/" + v.Part.Code)
	p.signIn("Jonas Quist", pin)
	shown := func(n int) {
		p.until(
			fmt.Sprintf("%d findings of symmetry", n),
			fmt.Sprintf(
				`[...document.querySelectorAll("[aria-label=Findings] li")]
				.filter((l) => l.innerText.includes("not symmetric")).length === %d`,
				n,
			),
		)
	}
	shown(4)
	p.click(fmt.Sprintf("%d more: unpaired", rule-4))
	shown(rule)
	// A reason that is being written keeps its line when the others are folded.
	p.click("Waive: " + v.Worked.Findings[rule-1].Message)
	p.fill("Reason for the waiver", "a trial part")
	p.click("Fewer: unpaired")
	shown(5)
	p.until(
		"the reason",
		`[...document.querySelectorAll("label")]
				.find((l) => l.textContent.includes("Reason for the waiver")).control.value === "a trial part"`,
	)
	// What is let stand does not take the place of what is not.
	p.click("Waive: " + v.Worked.Findings[0].Message)
	p.fill("Reason for the waiver", "for the first trial")
	p.fill("PIN, to waive it", pin)
	p.click("Waive the finding")
	p.until(
		"the waiver",
		`fetch("/api/parts/`+v.Part.Code+`").then((r) => r.json()).then((v) => v.waivers.length === 1)`,
	)
	shown(4)
	p.notSee("waived: for the first trial")
	p.click(fmt.Sprintf("%d more: unpaired", rule-4))
	p.see("waived: for the first trial")
}
