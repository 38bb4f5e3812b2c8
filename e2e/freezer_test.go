package e2e

import (
	"context"
	"fmt"
	"net/http/httptest"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"juxta/api"
	"juxta/shop"
	"juxta/shop/book"
	"juxta/shop/stock"
	"juxta/store/storetest"
)

func TestSeveralRollsGoOutByScanAndAWrongLineIsTakenBack(t *testing.T) {
	t.Parallel()
	h := openHouse(t)
	p := openPage(t, h)
	one, two := h.roll(t, "SU-2291"), h.roll(t, "SU-2207")
	p.visit("/freezer")
	p.signIn("Tilda Brandl", pin)
	p.see("1 out, 8 frozen")
	p.scan(one.Code)
	p.see("In your hands 1 roll")
	p.scan(two.Code)
	p.see("In your hands 2 rolls")
	p.scan(two.Code)
	p.see(two.Code + " is in your hands already")
	p.axe("two rolls in the hands")
	// A tick keeps the keys of the page working.
	p.do(
		chromedp.Evaluate[chromedp.Void](
			`(() => { const box = document.querySelector('[aria-label="` + two.Code + ` in my hands"]'); 
				box.focus(); box.click(); })()`,
		),
	)
	p.see("In your hands 1 roll")
	p.press("\x1b")
	p.see("To take out for the cut")
	p.scan(one.Code)
	p.scan(two.Code)
	p.see("In your hands 2 rolls")
	p.do(
		chromedp.Evaluate[chromedp.Void](
			`document.querySelector('[aria-label="` + two.Code + ` in my hands"]').focus()`,
		),
	)
	p.press("t")
	p.see("3 out, 6 frozen")
	p.see("To take out for the cut")
	// It was the wrong roll: a counter-entry, and both lines stay to be seen.
	p.visit("/freezer/" + one.Code)
	p.see("As recorded")
	p.click("Wrong? Taken out")
	p.fill("What was wrong", "it was the other one")
	p.axe("a correction")
	p.click("Take it back")
	p.see("taken back")
	p.see("Counter-entry it was the other one")
	assert.False(t, h.roll(t, "SU-2291").OutTime.Out)
	// A search over the stock, and what is used up.
	p.visit("/freezer")
	p.fill("Find id, lot", "twill")
	p.notSee("Sable UD 150 80.00")
	p.see("ST-0460")
	p.fill("Find id, lot", "no such lot")
	p.see("No match")
	// A piece is kept, a length thrown away.
	p.visit("/freezer/" + two.Code)
	p.see("As recorded")
	p.click("Keep an off-cut")
	p.fill("Along the roll, mm", "400")
	p.fill("Across, mm", "250")
	p.click("Keep it")
	p.see("400 × 250 mm")
	p.click("Scrap")
	p.fill("Length, m (empty: all", "0.5")
	p.fill("What happened", "edge crushed")
	p.click("Scrap 0.50 m")
	p.see("expired: edge crushed")
	p.click("Mark a flaw or splice")
	p.fill("From, m", "3")
	p.fill("To, m", "3.1")
	p.fill("Description", "fuzz ball")
	p.click("Write the map")
	p.see("flaw at 3.00 m to 3.10 m, fuzz ball")
}

func TestABatchComesInIsTestedAndAcceptedByASecondPerson(t *testing.T) {
	t.Parallel()
	h := openHouse(t)
	p := openPage(t, h)
	p.visit("/freezer")
	p.signIn("Tilda Brandl", pin)
	p.see("1 out, 8 frozen")
	p.press("a")
	p.see("Delivery")
	p.set("Material", "Sable twill 200")
	p.see("Before it is cut it is tested for resin share")
	p.fill("Lot, as on the label", "ST-0777")
	p.fill("Warmest on arrival", "-20.5")
	p.fill("Length, m", "33")
	path := filepath.Join(t.TempDir(), "certificate.pdf")
	require.NoError(t, os.WriteFile(path, []byte("MZ not a PDF at all"), 0o600))
	p.upload(0, path)
	p.see("is not what its name says")
	require.NoError(t, os.WriteFile(path, []byte("%PDF-1.7\nA certificate"), 0o600))
	p.upload(0, path)
	p.see("kept: certificate.pdf")
	p.click("Receive 1 roll")
	p.see("waits for acceptance")
	p.see("Certificate: certificate.pdf")
	batch := p.path()
	for i, v := range []string{"41", "200", "9"} {
		if i == 0 {
			v = "36"
		}
		p.do(
			chromedp.Evaluate[chromedp.Void](
				fmt.Sprintf(
					`[...document.querySelectorAll("input")]
				.filter((i) => [...i.labels].some((l) => l.textContent.startsWith("Found")))[%d].focus()`,
					i,
				),
			),
			chromedp.KeyEvent(v+"\t"),
		)
		p.click("Write down " + []string{"resin share", "areal mass of the fibre", "flow"}[i])
		p.until("the verdict", fmt.Sprintf(`document.body.innerText.split("✓ met").length > %d`, i+1))
	}
	p.see("A quality person decides")
	p.become("Jonas Quist", pin)
	p.visit(batch)
	p.see("Must not be cut: batch ST-0777 is not accepted yet")
	p.fill("Your PIN again", "000000")
	p.click("Sign: accept the batch")
	p.see("this is not your PIN: nothing was signed")
	p.fill("Your PIN again", pin)
	p.click("Sign: accept the batch")
	p.see("Accepted by Jonas Quist")
	assert.Empty(t, h.roll(t, "ST-0777").Refusal)
	p.click("Put it into quarantine")
	p.fill("Reason", "pinholes")
	p.fill("Your PIN again", pin)
	p.click("Sign: put it into quarantine")
	p.see("Must not be cut: batch ST-0777 is in quarantine: pinholes")
	assert.Contains(t, h.roll(t, "ST-0777").Refusal, "pinholes")
}

func TestAStockListIsLookedAtBeforeItComesIn(t *testing.T) {
	t.Parallel()
	h := openHouse(t)
	p := openPage(t, h)
	p.visit("/freezer/list")
	p.signIn("Tilda Brandl", pin)
	p.see("Choosing a file changes nothing")
	path := filepath.Join(t.TempDir(), "stock.csv")
	write := func(text string) {
		require.NoError(t, os.WriteFile(path, []byte(text), 0o600))
		p.upload(0, path)
	}
	write(
		"material,lot,length,freezer,out time\nSable UD 150,SU-3001,60,Freezer 1,12\nSable UD 150,SU-3001,55,Freezer " +
			"9,0\nnothing we know,X-1,1,,\n",
	)
	p.see("no freezer is called \"Freezer 9\" here")
	p.see(`no material is called "nothing we know" here`)
	p.see("2 rows are wrong")
	assert.Equal(t, 9, h.onHand(t))
	write(
		"material,lot,length,freezer,out time\nSable UD 150,SU-3001,60,Freezer 1,12\nSable UD " +
			"150,SU-3001,55,Freezer 2,0\n",
	)
	p.see("new batch SU-3001 of Sable UD 150, waits for acceptance; a roll of 60.00 m, 12 h of its out-life spent")
	p.axe("a stock list")
	assert.Equal(t, 9, h.onHand(t))
	p.click("Bring 2 rolls in")
	p.see("2 rolls are in.")
	assert.Equal(t, 11, h.onHand(t))
}

func (h *house) onHand(t *testing.T) int {
	t.Helper()
	stock, err := h.shop.Rolls(context.Background(), stock.RollQuery{})
	require.NoError(t, err)
	return stock.Total
}

func TestAnAlarmStandsOnEveryPageUntilAPersonHasSeenIt(t *testing.T) {
	t.Parallel()
	h := openHouse(t)
	p := openPage(t, h)
	p.visit("/parts")
	p.signIn("Ines Falk", pin)
	p.see("Freezer 1 was too warm since")
	p.click("look and acknowledge")
	p.see("Findings and action")
	p.fill("Findings and action", "door was ajar")
	p.click("Acknowledge")
	p.see("Ines Falk")
	p.notSee("look and acknowledge")
	// It was more than a door: what lay inside has aged.
	before := h.roll(t, "SU-2207").OutTime.Spent
	p.click("Report a failure")
	from, to := h.shop.Now().Add(-3*time.Hour), h.shop.Now().Add(-time.Hour)
	for label, at := range map[string]time.Time{"Too warm from": from, "Until; empty": to} {
		p.set(label, at.Format("2006-01-02T15:04"))
	}
	p.fill("What happened", "compressor tripped")
	p.click("Report the failure")
	p.see("compressor tripped")
	assert.InDelta(t, before+2*3600, h.roll(t, "SU-2207").OutTime.Spent, 120)
	p.visit("/freezer/" + h.roll(t, "SU-2207").Code)
	p.see("in a freezer that was too warm")
}

func TestATabletChangesHandsByBadgeAndPIN(t *testing.T) {
	t.Parallel()
	h := openHouse(t)
	ctx := context.Background()
	badge, err := h.shop.IssueBadge(ctx, h.as(t, "Ada Wren"), h.as(t, "Tilda Brandl").Person.ID, pin)
	require.NoError(t, err)
	p := openPage(t, h)
	p.visit("/layup")
	// On the sign-in page a badge needs no field.
	p.see("Who are you?")
	p.press(strings.ToLower(badge.Badge) + "\r")
	p.until("her name", `document.querySelector("form h1")?.innerText === "Tilda Brandl"`)
	p.fill("PIN", pin)
	p.press("\r")
	p.until("the route", `document.querySelector("nav")`)
	p.become("Ines Falk", pin)
	p.see("On the benches")
	// In the middle of somebody else's work it hands the tablet over.
	started := time.Now()
	p.scan(badge.Badge)
	p.until(
		"her name",
		`document.querySelector("form h1")?.innerText === "Tilda Brandl"
			&& document.activeElement?.type === "password"`,
	)
	p.press(pin + "\r")
	p.until("her page", `document.querySelector("nav")?.innerText.includes("Tilda Brandl")`)
	t.Logf("from the scan of the badge to the page of the next person: %v", time.Since(started).Round(time.Millisecond))
	p.scan("W-00000000")
	p.see("wrong check character")
	// A badge that was issued anew opens nothing; a broken one says so.
	_, err = h.shop.IssueBadge(ctx, h.as(t, "Ada Wren"), h.as(t, "Tilda Brandl").Person.ID, pin)
	require.NoError(t, err)
	p.scan(badge.Badge)
	p.see("this badge opens nothing here")
}

func TestAScreenThatNobodyTouchesLocksItself(t *testing.T) {
	t.Parallel()
	h := openHouse(t)
	p := openPage(t, h)
	p.onEveryLoad(`const now = Date.now; window.later = 0; Date.now = () => now.call(Date) + window.later;`)
	p.visit("/layup")
	p.signIn("Ines Falk", pin)
	p.see("On the benches")
	p.do(chromedp.Evaluate[chromedp.Void](`window.later = 21 * 60e3`))
	p.see("Who are you?")
	p.until("her name, ready for the PIN", `document.querySelector("form h1")?.innerText === "Ines Falk"`)
	// It is locked on the server, not only covered up.
	status, err := evaluateAwait[float64](p, `fetch("/api/rolls").then((r) => r.status)`)
	require.NoError(t, err)
	assert.Equal(t, 401.0, status)
}

func TestAnEmptyShopIsBegunInTheBrowser(t *testing.T) {
	t.Parallel()
	s := shop.New(&book.Book{DB: storetest.Open(t, storetest.Empty), Now: storetest.Clock()})
	server, err := api.New(s, api.Options{})
	require.NoError(t, err)
	t.Cleanup(server.Close)
	web := httptest.NewServer(server.Handler)
	t.Cleanup(web.Close)
	code, err := s.NewSetupCode(context.Background())
	require.NoError(t, err)
	p := openPageAt(t, web.URL, s.Now)
	p.visit("/")
	p.see("This shop is empty")
	p.axe("the first administrator")
	p.fill("Your name", "Edda Holm")
	p.fill("PIN, 6 to 12 digits", pin)
	p.fill("Password, at least 12", password)
	p.fill("Code from the terminal", "aaaa-bbbb-cccc-dddd")
	p.click("Enter as administrator")
	p.see("this code is wrong, used or older than a day")
	p.fill("Code from the terminal", code)
	p.click("Enter as administrator")
	p.see("Nothing waits for you")
	p.press("1")
	p.see("0 out, 0 frozen")
	p.see("No roll here yet")
	// And from there on a shop can be filled by its pages alone.
	p.visit("/shop")
	p.see("1 work here")
	p.click("Add a person")
	p.fill("Name", "Karl Brook")
	p.fill("Their PIN, 6 to 12 digits", "654123")
	p.fill("Your PIN again", pin)
	p.click("Add the person")
	p.see("2 work here")
	p.visit("/freezer/climate")
	p.click("A new freezer")
	p.fill("Name", "Chest freezer")
	p.click("Keep the freezer")
	p.see("Chest freezer")
	p.visit("/shop/log")
	p.see("freezer saved")
	p.click("Check the chain")
	p.see("entries is intact")
}
