package e2e

import (
	"bytes"
	"context"
	"log/slog"
	"net/http/httptest"
	"os"
	"path/filepath"
	"strings"
	"sync/atomic"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"juxta/api"
	"juxta/demo"
	"juxta/demo/demotest"
	"juxta/device/sim"
	"juxta/format/dxf"
	"juxta/format/pdf/pdftest"
	"juxta/shop"
	"juxta/shop/book"
	"juxta/shop/builds"
	"juxta/store"
	"juxta/store/storetest"
	"juxta/work"
)

func TestMain(m *testing.M) {
	slog.SetLogLoggerLevel(slog.LevelWarn)
	api.Unhurried() // as the command is
	code := demotest.Run(m)
	closeBrowser()
	os.Exit(code)
}

const pin, password = demotest.PIN, demotest.Password

// house is a running shop with the demo in it and a clock that can be put
// forward.
type house struct {
	shop  *shop.Shop
	url   string
	ahead atomic.Int64
}

func (h *house) putForward(d time.Duration) { h.ahead.Add(int64(d)) }

func openHouse(t testing.TB) *house {
	t.Helper()
	if _, err := os.Stat("../web/dist/index.html"); err != nil {
		t.Fatal("the web pages are not built: run ./test, which builds them")
	}
	return openHouseOf(t, storetest.Open(t, demotest.Shop))
}

// openWorks is a house with the demo's builds of the other parts, and their codes by part
// and serial.
func openWorks(t testing.TB) (*house, map[string]string) {
	t.Helper()
	h := openHouseOf(t, storetest.Open(t, demotest.Works))
	page, err := h.shop.Builds(context.Background(), builds.BuildQuery{Limit: 100})
	require.NoError(t, err)
	of := map[string]string{}
	for _, b := range page.Builds {
		of[b.Number+" "+b.Serial] = b.Code
	}
	return h, of
}

func openHouseOf(t testing.TB, db *store.DB) *house {
	t.Helper()
	ctx := context.Background()
	oven, err := sim.Serve("127.0.0.1:0", 600, 5)
	require.NoError(t, err)
	// A busy machine leaves no gap in a record.
	require.NoError(t, oven.WaitForReader(2*time.Minute, 1500))
	t.Cleanup(func() { _ = oven.Close() })
	queue, err := work.NewInserter(db)
	require.NoError(t, err)
	h := &house{}
	now := storetest.Clock() // its own, from the moment at which the demo ends
	h.shop = shop.New(
		&book.Book{
			DB:       db,
			Queue:    queue,
			Oven:     oven.Address,
			OvenName: "Oven 1, simulated",
			Altitude: demo.Altitude,
			Search:   time.Second,
			Now:      func() time.Time { return now().Add(time.Duration(h.ahead.Load())) },
		},
	)
	worker, err := work.Start(ctx, db, h.shop)
	require.NoError(t, err)
	t.Cleanup(worker.Stop)
	server, err := api.New(h.shop, api.Options{})
	require.NoError(t, err)
	t.Cleanup(server.Close)
	web := httptest.NewServer(server.Handler)
	t.Cleanup(web.Close)
	h.url = web.URL
	return h
}

// One build from a frozen roll to a signed-off part, through all nine stages,
// by keys, pointer and typed scans.
func TestATechnicianWalksAllNineStages(t *testing.T) {
	t.Parallel()
	h := openHouse(t)
	ctx := context.Background()
	p := openPage(t, h)
	p.visit("/")
	p.see("Who are you?")
	p.signIn("Ines Falk", pin)

	// 1. Freezer: a roll by scan and key, another by pointer.
	ud := h.roll(t, "SU-2291").Code
	p.see("For the next shift")
	p.press("1")
	p.see("1 out, 8 frozen")
	p.scan(strings.ToLower(ud))
	p.see("In your hands 1 roll")
	p.press("t")
	p.see("2 out, 7 frozen")
	p.see("sealed: keep shut until")
	// Too cold to be opened; warm enough some hours later.
	p.visit("/freezer/" + ud)
	p.see("Its coldest place should be at")
	p.press("o")
	p.click("Bag opened")
	p.see("water would condense on it")
	h.putForward(5 * time.Hour)
	p.fill("Room, °C", "21")
	p.fill("Humidity, %", "45")
	p.click("Bag opened")
	p.see("Bag sealed: put back")
	p.scan("R-0000Z")
	p.see("wrong check character")

	p.become("Marek Orde", password)
	// 2. Parts: an import with a fault is refused by row, the mended one goes in.
	p.press("2")
	p.see("A part from its files")
	dir := t.TempDir()
	table, err := demo.Files.ReadFile("files/hinge-panel-plies.csv")
	require.NoError(t, err)
	drawing, err := demo.Files.ReadFile("files/hinge-panel.dxf")
	require.NoError(t, err)
	write := func(name string, raw []byte) string {
		path := filepath.Join(dir, name)
		require.NoError(t, os.WriteFile(path, raw, 0o600))
		return path
	}
	parts, err := h.shop.Parts(ctx)
	require.NoError(t, err)
	p.fill("Drawing number", "SP-20")
	p.fill("Name (for a new part)", "Vent panel")
	p.upload(
		0,
		write(
			"bad.csv",
			bytes.Replace(table, []byte("Sable UD 150,90,full,up"), []byte("Sable UD 150,north,full,up"), 1),
		),
	)
	p.upload(1, write("panel.dxf", drawing))
	p.click("Import as a draft")
	p.see(`ply table, row 4: angle: "north" is not a number`)
	after, err := h.shop.Parts(ctx)
	require.NoError(t, err)
	assert.Equal(t, parts, after, "nothing is stored from a file with a fault")
	p.upload(0, write("good.csv", table))
	p.click("Import as a draft")
	p.see("Vent panel")
	p.see("symmetric, balanced")
	part := p.path()
	// Who wrote the draft signs neither; a second person checks and releases.
	p.see("You wrote it: a second person has to check and sign.")
	p.notSee("Check revision A")
	p.become("Jonas Quist", pin)
	p.visit(part)
	p.see("Check revision A")
	p.fill("Your PIN again", "000000")
	p.click("Check revision A")
	p.see("this is not your PIN: nothing was signed")
	p.fill("Your PIN again", pin)
	p.click("Check revision A")
	p.see("Checked by Jonas Quist")
	p.see("You checked it: somebody else has to release it.")
	p.notSee("Release revision A")
	// Whoever has to sign finds what waits.
	p.become("Hanne Vold", password)
	p.visit("/parts")
	p.see("Waits for your signature")
	p.visit(part)
	p.see("Release revision A")
	p.fill("Your PIN again", pin)
	p.click("Release revision A")
	p.see("Released by Hanne Vold")
	p.become("Marek Orde", password)
	p.visit(part)
	p.see("Start a build to A")
	p.press("s")
	p.see("Cure planned to start")
	p.fill("Serial", "0001")
	p.click("Start the build")
	p.see("waits at cut")
	p.become("Ines Falk", pin)

	// 3. Cut: the first-to-expire roll that fits is proposed; we choose ours.
	p.press("3")
	p.see("From which roll? First to expire that fits")
	p.cutAll(h, "Sable UD 150", ud)
	p.press("3")
	p.until("twill to be all that is left", `document.querySelector("main [aria-pressed]") === null`)
	p.cutAll(h, "Sable twill 200", "")

	// 4. Kits: every label scanned; a stranger's label and a second scan are named.
	p.press("4")
	p.see("To count")
	p.see("SP-20 · 0001")
	p.press("\r")
	p.see("Scan each label")
	build := filepath.Base(p.path())
	kit, err := h.shop.Kit(ctx, build, "")
	require.NoError(t, err)
	p.scan(otherCut(t, h, build))
	p.see("not of this kit")
	for i, ply := range kit.Plies {
		p.scan(ply.Cut[0].Code)
		p.see("✓ " + ply.Cut[0].Code)
		if i == 1 {
			// What is on its way still is not sent twice: scanned until it is asked again.
			for said, end := false, time.Now().Add(patience); !said; {
				require.True(t, time.Now().Before(end), "a label that is scanned twice is told so")
				p.scan(ply.Cut[0].Code)
				said, err = evaluateAwait[bool](p, `new Promise((done) => {
					let looks = 0;
					const look = setInterval(() => {
						const there = document.body.innerText.includes("is already counted");
						if (there || ++looks > 50) { clearInterval(look); done(there); }
					}, 40);
				})`)
				require.NoError(t, err)
			}
			p.see("3 missing")
		}
	}
	p.see("Sign: 10 plies, none missing")
	p.press("k")
	p.see("Counted by Ines Falk")

	// 5. Layup.
	p.press("\r")
	p.see("Lay ply")
	p.layUp(h, kit)

	// 6. Bag: a leak that is too large, then one that meets the limit.
	p.click("To the bag")
	p.see("Bag stack")
	p.press("k")
	p.see("Closed by Ines Falk")
	p.leakCheck("88", "80")
	p.see("limit not met")
	p.leakCheck("90", "89")
	p.see("limit met")

	// 7. Cure.
	p.click("To the oven")
	p.see("Start run with 1 part")
	p.see("As simulated in a usual oven")
	p.see("Gelled after")
	p.press("s")
	p.see("segment 1 of 3")
	p.see("every limit met")
	run, err := h.shop.Run(ctx, filepath.Base(p.path()))
	require.NoError(t, err)
	require.NotNil(t, run.Verdict)
	assert.Greater(t, len(run.Samples), 100)
	assert.True(t, run.Verdict.Met, "%+v", run.Verdict.Checks)
	assert.Greater(t, run.Verdict.Cure, 0.9)

	// 8. Release: the technician measures, quality signs.
	p.click("to inspection")
	p.see("Only a quality person can inspect and sign off.")
	p.become("Jonas Quist", pin)
	p.visit("/release/" + build)
	p.see("Mass on the scale")
	p.fill("Mass on the scale", "0.5")
	p.fill("Thickness 1", "1.0")
	p.see("not met")
	p.fill("Mass on the scale", "0.345")
	p.fill("Thickness 2", "0.985")
	p.notSee("not met")
	p.fill("Your PIN again", pin)
	p.click("Sign: good")
	p.see("signed by Jonas Quist")

	// 9. Thread, both ways, and the record on paper.
	p.scan(build)
	p.see("From the log, in order")
	p.see("part signed good")
	for _, ply := range []string{"ply taken back", "film found"} {
		p.see(ply)
	}
	_, text := pdftest.Read(t, []byte(p.fetched("/api/thread/builds/"+build+"/record.pdf")))
	for _, says := range []string{
		"SP-20", build, "Ines Falk", "Jonas Quist", ud, "taken back", "NOT met", "degree of cure by the lagging sensor",
		"Disposition: good",
	} {
		assert.Contains(t, text, says)
	}
	p.visit("/thread/" + ud)
	p.see("Every part it went into")
	p.see("signed good")

	n, err := h.shop.VerifyLog(ctx)
	require.NoError(t, err)
	assert.Greater(t, n, int64(100))
}

func (p *page) path() string {
	p.t.Helper()
	var path string
	p.until("the page of one thing", `location.pathname.split("/").length > 2`)
	path, err := evaluate[string](p, `location.pathname`)
	require.NoError(p.t, err)
	return path
}

// cutAll nests what waits of a material on a roll (the proposed one if none is
// named) and records the cut. The cut file must hold every ply.
func (p *page) cutAll(h *house, material, roll string) {
	p.t.Helper()
	p.see(material)
	if roll != "" {
		p.click(material)
		p.click(roll)
	}
	p.set("Search time, s", "1")
	p.see("1 s to search")
	p.click("Nest ")
	p.see("Yield")
	nest := filepath.Base(p.path())
	p.see("All ")
	v, err := h.shop.Nest(context.Background(), nest)
	require.NoError(p.t, err)
	assert.Equal(p.t, "done", v.State)
	if out, err := h.shop.Roll(context.Background(), v.Roll); err == nil && !out.Open {
		p.press("k")
		p.see("is sealed: open it, above the dew point, before it is cut")
		p.scan(v.Roll)
		p.see("As recorded")
		p.press("o")
		p.fill("Room, °C", "21")
		p.fill("Humidity, %", "45")
		p.click("Bag opened")
		p.see("Bag sealed: put back")
		p.visit("/cut/" + nest)
		p.see("All ")
	}
	p.press("k")
	p.see("carry the clock of")
	file := p.fetched("/api/nests/" + nest + "/cut.dxf")
	assert.Equal(p.t, v.Pieces, strings.Count(file, "LWPOLYLINE"))
	_, faults := dxf.Read([]byte(file), 0)
	for _, f := range faults { // our reader wants one outline a layer; nothing else may be wrong
		assert.Contains(p.t, f, "already has an outline")
	}
	drawing := p.fetched("/api/nests/" + nest + "/cut.svg")
	assert.Equal(p.t, v.Pieces, strings.Count(drawing, `class="cut"`))
	assert.Contains(p.t, drawing, "SP-20")
}

// layUp lays the whole kit: keys, one wrong scan, one missing film, one ply
// taken back, and every debulk.
func (p *page) layUp(h *house, kit builds.KitView) {
	p.t.Helper()
	label := func(ply int) string { return kit.Plies[ply-1].Cut[0].Code }
	sign := func(ply int) {
		p.t.Helper()
		p.until("ply to lay", `document.body.innerText.includes("Lay ply")`)
		p.see("Expecting ply " + itoa(ply))
		// Until what was signed before is over, a key signs nothing.
		p.until("ply to sign", `[...document.querySelectorAll("button")].some((b) => !b.disabled &&
			!b.hasAttribute("data-disabled") && b.innerText.includes("Sign ply `+itoa(ply)+`"))`)
		p.press("\r")
		p.see("Writing in")
		p.press("\r")
		p.see(label(ply) + " ")
		p.notSee("Expecting ply " + itoa(ply) + " ")
	}
	debulk := func(after int) {
		p.t.Helper()
		p.see("Debulk after ply " + itoa(after) + " ")
		p.press("d")
		p.see("Vacuum read at the end")
		h.putForward(16 * time.Minute)
		p.visit(p.path()) // the page reads the shop's clock when it opens
		p.fill("Vacuum read at the end", "90")
		p.click("Debulk done")
	}
	// A wrong ply is refused by name.
	p.scan(label(3))
	p.see("is ply 3: ply 1 comes next")
	// What was refused leaves nothing that Enter signs.
	p.press("\r")
	p.see("The last scan was refused: scan the right label, or press Esc.")
	p.notSee("Writing in")
	p.press("\x1b")
	p.notSee("is ply 3")
	sign(1)
	debulk(1)
	sign(2)
	// A film that is not off is tallied, and stops the debulk until it is found.
	p.see("Expecting ply 3")
	p.press("f")
	p.see("0 of 1 films off")
	sign(3)
	p.see("ply 3: a film is unaccounted for")
	sign(4)
	// The last ply comes off again with a reason, and goes on again.
	p.click("Take back")
	p.fill("Take back ply 4", "wrinkle at the edge")
	p.click("Write it down")
	p.see("ply 4 taken back")
	sign(4)
	sign(5)
	p.see("Debulk after ply 5 ")
	p.press("d")
	p.see("a film is unaccounted for. Find it before the debulk")
	p.click("Film of ply 3 found")
	p.notSee("ply 3: a film is unaccounted")
	debulk(5)
	for ply := 6; ply <= 9; ply++ {
		sign(ply)
	}
	debulk(9)
	sign(10)
	debulk(10)
	p.see("every debulk made")
}

func (p *page) leakCheck(start, end string) {
	p.t.Helper()
	p.fill("Vacuum at start", start)
	p.fill("Vacuum at end", end)
	p.click("Record the leak check")
}

// otherCut is a label of another kit.
func otherCut(t *testing.T, h *house, not string) string {
	t.Helper()
	builds, err := h.shop.Builds(context.Background(), builds.BuildQuery{Room: "", Limit: 200})
	require.NoError(t, err)
	for _, b := range builds.Builds {
		if b.Code != not && b.Cut > 0 {
			kit, err := h.shop.Kit(context.Background(), b.Code, "")
			require.NoError(t, err)
			return kit.Plies[0].Cut[0].Code
		}
	}
	t.Fatal("the demo has no other kit")
	return ""
}
