package e2e

import (
	"context"
	"encoding/json"
	"fmt"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"juxta/core/master"
	"juxta/core/unit"
	"juxta/shop/builds"
	"juxta/shop/parts"
	"juxta/shop/stock"
)

// heldBack keeps what the page would write from the server, and keeps it for the
// test: nothing is stored, so that the same form can be filled again.
const heldBack = `(() => {
	const real = window.fetch;
	window.sent = [];
	window.fetch = async (input, init) => {
		const r = new Request(input, init);
		if (!window.holdsBack || r.method !== "POST") return real(r);
		// A question is none of the records.
		if (/\/(compare|simulate|ask|drawing)$/.test(new URL(r.url).pathname)) return real(r);
		window.sent.push(await r.text());
		return new Response(JSON.stringify({ detail: "held back by the test" }),
			{ status: 409, headers: { "Content-Type": "application/problem+json" } });
	};
})()`

// form is a form of a page: how it is opened, what stands in it besides numbers, and
// what sends it.
type form struct {
	name, who, path string
	opens           func(p *page)
	ends            func(p *page) // what is filled in after the numbers; nil: nothing
	sends           string        // empty: it is only looked at
	least           int           // fields whose unit is a person's own
}

const numberFields = `[...document.querySelectorAll("main input[inputmode=decimal]")].filter((f) => !f.readOnly)`

// typesAll types a text into every number field, in their order.
func (p *page) typesAll(texts []string) {
	p.t.Helper()
	for k, text := range texts {
		p.do(
			chromedp.Evaluate[chromedp.Void](
				fmt.Sprintf(`(() => { const f = %s[%d]; f.focus(); f.select(); })()`, numberFields, k),
			),
		)
		p.types(text)
		p.press("\t")
	}
}

// invented is a value that a field takes: near the one that stands there, so that rules
// about several fields still hold, or one that such a field may have.
func invented(label, text string, k int) float64 {
	var v float64
	if _, err := fmt.Sscan(strings.ReplaceAll(text, "−", "-"), &v); err == nil {
		if own, _ := own(label); own != label {
			return v * 1.01
		}
		return v
	}
	switch {
	case strings.Contains(label, "kPa"):
		return 80 + float64(k)/8
	case strings.HasSuffix(label, "°C"):
		return 20 + float64(k)
	case strings.Contains(label, "mm"):
		return 120 + float64(k)
	}
	return 1 + float64(k)/4
}

// Whatever form is filled in, in inches, °F, psi, inHg and lb it shows what it shows in the
// metric system, and sends the same when it is filled in.
func TestEveryFormSendsTheSameInBothSystems(t *testing.T) {
	t.Parallel()
	h := openHouse(t)
	p := openPage(t, h)
	p.onEveryLoad(heldBack)
	for _, name := range []string{"Ines Falk", "Jonas Quist", "Marek Orde", "Ada Wren"} {
		h.reads(t, name, unit.System{})
	}
	out, sealed := h.roll(t, "ST-0455"), h.roll(t, "SU-2291")
	draft, bagged := h.build(t, "0003").Part, h.build(t, "0002").Code
	h.laid(t, bagged)
	debulked, falk := h.readied(t, func(*master.Item) {}), h.as(t, "Ines Falk")
	v, err := h.shop.Layup(context.Background(), debulked, "")
	require.NoError(t, err)
	_, err = h.shop.Sign(context.Background(), falk, debulked, builds.SignPly{
		Ply: 1, CutPly: v.NextCut, How: "chosen", FilmsOff: v.Plies[0].Films,
	})
	require.NoError(t, err)
	_, err = h.shop.TakeOut(context.Background(), falk, stock.MoveRolls{Rolls: []string{sealed.Code}})
	require.NoError(t, err)
	_, err = h.shop.StartDebulk(context.Background(), falk, debulked, "")
	require.NoError(t, err)
	h.putForward(16 * time.Minute)
	roll := func(r stock.RollView) string { return "/freezer/" + r.Code }
	says := func(label, text string) func(p *page) { return func(p *page) { p.fill(label, text) } }
	press := func(words string, then ...func(p *page)) func(p *page) {
		return func(p *page) {
			p.click(words)
			for _, do := range then {
				do(p)
			}
		}
	}
	forms := []form{
		{
			"a cut by hand",
			"Ines Falk",
			roll(out),
			press("Cut by hand", says("What for", "a coupon")),
			nil,
			"Taken off",
			1,
		},
		{"an off-cut", "Ines Falk", roll(out), press("Keep an off-cut"), nil, "Keep it", 3},
		{"a flaw", "Ines Falk", roll(out), press("Mark a flaw or splice"), nil, "Write the map", 2},
		{"a bag opened", "Ines Falk", roll(sealed), press("Open the bag"), nil, "Bag opened", 2},
		{"a delivery", "Ines Falk", "/freezer/receive", says("Lot, as on the label", "X-1"), nil, "Receive 1 roll", 2},
		{"a leak check", "Ines Falk", "/bag/" + bagged, nil, nil, "Record the leak check", 2},
		{"a debulk", "Ines Falk", "/layup/" + debulked, nil, nil, "Debulk done", 1},
		{"scrap", "Jonas Quist", roll(out), press("Scrap"), nil, "Scrap ", 1},
		{"a line of a ledger", "Jonas Quist", roll(out), press("Wrong? Received", says("What was "+
			"wrong", "a 7 for a 1")), nil, "orrect it", 1},
		{"a receipt", "Jonas Quist", "/freezer/batches/" + out.BatchCode, press("Correct the "+
			"receipt", says("What was wrong", "°F")),
			nil, "Correct it", 1},
		{"a measured part", "Jonas Quist", "/release/" + h.build(t, "0001").Code, says("Reason", "as an example"),
			says("Your PIN again", pin), "Refer", 2},
		{"a re-test", "Jonas Quist", "/freezer/batches/" + out.BatchCode, press("Re-tested", says("Number of the "+
			"test report", "T-7")), says("Your PIN", pin), "Sign the re-test", 0},
		{"the shop's rules", "Jonas Quist", "/parts/rules", says("Reason for the change", "as an example"), nil,
			"Keep the rules", 0},
		{
			"a freezer",
			"Ada Wren",
			"/freezer/climate",
			press("A new freezer", says("Name", "F9")),
			nil,
			"Keep the freezer",
			1,
		},
		{"a tool", "Marek Orde", "/parts/tools", press("Enter a tool", says("Name", "T-99")), nil, "Keep the tool", 2},
		{"a material", "Marek Orde", "/freezer/materials", press("Edit"), nil, "Keep ", 5},
		{
			"a resin",
			"Marek Orde",
			"/freezer/materials",
			press("A new resin", says("Name", "R9")),
			nil,
			"Keep the resin",
			3,
		},
		{"a process", "Marek Orde", "/parts/" + draft + "?view=process", nil, nil, "Keep the process", 12},
	}
	recipe := fmt.Sprint("/cure/recipes/", h.recipe(t, "Ring").ID)
	forms = append(forms,
		form{"a recipe", "Marek Orde", recipe, press("All figures"), nil, "", 4},
		form{"equipment", "Marek Orde", "/cure/equipment", nil, nil, "", 4},
	)
	secret := map[string]string{"Marek Orde": password, "Ada Wren": password, "Jonas Quist": pin, "Ines Falk": pin}
	who, seen := "Ines Falk", 0
	p.visit("/freezer")
	p.signIn(who, pin)
	for len(forms) > 0 {
		theirs := forms[:1]
		for len(theirs) < len(forms) && forms[len(theirs)].who == forms[0].who {
			theirs = forms[:len(theirs)+1]
		}
		forms = forms[len(theirs):]
		if theirs[0].who != who {
			who = theirs[0].who
			p.do(chromedp.Evaluate[chromedp.Void](`window.holdsBack = false`))
			p.become(who, secret[who])
		}
		// Each form of this person in one system, then each in the other: the page is loaded once for both.
		metric := p.fillsIn(h, theirs, unit.System{}, nil)
		for k, inInches := range p.fillsIn(h, theirs, inches, metric) {
			was := metric[k]
			seen += inOwnUnits(t, theirs[k].name, was.labels, was.shown, inInches.labels, inInches.shown)
			assert.Empty(t, inInches.headed, "columns of %s that stay metric", theirs[k].name)
			if theirs[k].sends != "" {
				same(t, theirs[k].name, was.sent, inInches.sent)
			}
		}
		h.reads(t, who, unit.System{})
	}
	assert.Greater(t, seen, 100, "fields that showed the same value in both systems")
}

// filled is a form as it stood, the values typed into it, and what it sent.
type filled struct {
	labels, shown []string
	headed        []string // columns whose heading is metric
	values        []float64
	sent          string
}

// fillsIn fills in forms of the person who is signed in, in one system of units, with what
// they were filled in with before, if they were.
func (p *page) fillsIn(h *house, forms []form, system unit.System, before []filled) []filled {
	p.t.Helper()
	h.reads(p.t, forms[0].who, system)
	p.do(chromedp.Evaluate[chromedp.Void](`localStorage.clear()`))
	p.visit(forms[0].path)
	p.until("who is signed in", `document.querySelector("nav")`)
	out := make([]filled, len(forms))
	for k, f := range forms {
		// What was typed and held back is kept on the device: it is not what the shop has.
		p.do(chromedp.Evaluate[chromedp.Void](`localStorage.clear(); window.sent = []; window.holdsBack = false`))
		if k > 0 {
			p.goTo("/cure")
			p.until("another page", `!document.querySelector("main input[inputmode=decimal]")`)
			p.do(chromedp.Evaluate[chromedp.Void](`localStorage.clear()`))
			p.goTo(f.path)
		}
		p.until(f.name, `document.querySelector("main h1, main h2, main form, main button")`)
		if f.opens != nil {
			f.opens(p)
		}
		p.until(f.name+" stands", `document.querySelector("main input[inputmode=decimal]")`)
		now, err := evaluate[[3][]string](p, `[`+numberFields+`.map((f) => f.labels?.[0]?.textContent ?? f.ariaLabel),
			`+numberFields+`.map((f) => f.value), [...document.querySelectorAll("main th")].map((h) => h.textContent)
				.filter((h) => /, (mm|m|°C|K|K\/min|kPa|kg|m²)$/.test(h))]`)
		require.NoError(p.t, err)
		out[k] = filled{labels: now[0], shown: now[1], headed: now[2]}
		texts := p.inventedFor(f, &out[k], before, k)
		if f.sends == "" {
			continue // it is only looked at: what it keeps is kept by tests of its own
		}
		p.do(chromedp.Evaluate[chromedp.Void](`window.holdsBack = true`))
		p.typesAll(texts)
		if f.ends != nil {
			f.ends(p)
		}
		p.click(f.sends)
		p.until(f.name+" is sent", `window.sent.length > 0`)
		out[k].sent, err = evaluate[string](p, `window.sent[0]`)
		require.NoError(p.t, err)
	}
	return out
}

// inventedFor is what is typed into the fields of a form: values of the test's own, or those
// of before in the units of now.
func (p *page) inventedFor(f form, now *filled, before []filled, k int) []string {
	p.t.Helper()
	texts, owns := make([]string, len(now.labels)), 0
	if before != nil {
		require.Len(p.t, now.labels, len(before[k].labels), "%s: %v", f.name, now.labels)
	}
	for n, label := range now.labels {
		if before == nil {
			now.values = append(now.values, invented(label, now.shown[n], n))
			texts[n] = strconv.FormatFloat(now.values[n], 'g', 9, 64)
			continue
		}
		v := before[k].values[n]
		if called, to := own(before[k].labels[n]); called != before[k].labels[n] {
			owns++
			v = to(v)
			assert.NotEqual(p.t, before[k].labels[n], label, "%s: the field is in another unit", f.name)
		}
		texts[n] = strconv.FormatFloat(v, 'g', 9, 64)
	}
	if before != nil && f.sends != "" {
		assert.GreaterOrEqual(p.t, owns, f.least, "%s: %v", f.name, now.labels)
	}
	return texts
}

// inOwnUnits says which fields do not show in inches what they show in the metric system,
// and how many showed something.
func inOwnUnits(t *testing.T, form string, metric, was, labels, shown []string) (seen int) {
	t.Helper()
	for n, label := range metric {
		called, to := own(label)
		head := func(label string) string { return strings.SplitN(label, " (", 2)[0] }
		assert.Equal(t, head(called), head(labels[n]), "%s: a field", form)
		var v, got float64
		if _, err := fmt.Sscan(strings.ReplaceAll(was[n], "−", "-"), &v); err != nil {
			continue
		}
		seen++
		_, err := fmt.Sscan(strings.ReplaceAll(shown[n], "−", "-"), &got)
		require.NoError(t, err, "%s: %s shows %q", form, called, shown[n])
		assert.InEpsilon(t, 1+to(v), 1+got, 1e-4, "%s: %s is shown as %s", form, called, shown[n])
	}
	return seen
}

// asksFor keeps the line of the section that the page last asked a drawing for.
const asksFor = `(() => {
	const real = window.fetch;
	window.fetch = async (input, init) => {
		const r = new Request(input, init);
		if (r.url.endsWith("/drawing")) window.line = JSON.stringify(JSON.parse(await r.clone().text()).line ?? []);
		return real(r);
	};
})()`

// What is typed into a master in inches is the record that it is in mm: places of the
// stack, joints, outlines by dimensions and by corners, load cases, and the line of the
// section. What a family is computed from stays in mm, as its expressions are.
func TestAMasterTypedInInchesIsTheSameRecord(t *testing.T) {
	t.Parallel()
	h := openHouse(t)
	ctx := context.Background()
	p := openPage(t, h)
	p.onEveryLoad(asksFor)
	p.visit("/parts")
	p.signIn("Marek Orde", password)
	first := h.named(t, "SP-11").Document
	first.Outlines = append(first.Outlines,
		master.Outline{Name: "patch", Kind: "rectangle", Dims: map[string]float64{"length": 0.2, "width": 0.1}},
		master.Outline{Name: "ear", Kind: "points", Points: []master.Corner{{}, {X: 0.1}, {X: 0.1, Y: 0.1}, {Y: 0.1}}},
	)
	first.Parameters = []master.Parameter{{Name: "L", Unit: "mm", Value: 200}}
	first.Variants = []master.Variant{{Name: "long", Values: map[string]float64{"L": 300}}}
	first.Stages[0].Items[0].Join, first.Stages[0].Items[0].JoinWidth = "overlap", 0.015
	path := "/parts/" + h.named(t, "SP-11").Part.Code
	var records, lines [2]string
	for k, system := range []unit.System{{}, inches} {
		now := h.named(t, "SP-11")
		_, err := h.shop.ChangeDraft(ctx, h.as(t, "Marek Orde"), now.Part.Code,
			parts.DraftChange{Version: now.Version, Document: &first})
		require.NoError(t, err)
		h.reads(t, "Marek Orde", system)
		type typed struct{ x, y, overlap, stagger, length, corners, rise, line string }
		in, of := typed{
			"63.5",
			"-6.35",
			"12.7",
			"38.1",
			"254",
			"0; 0\n127; 0\n0; 63.5",
			"-55",
			"-25.4; 0; 254; 127",
		}, "mm"
		if k == 1 {
			in, of = typed{"2.5", "-0.25", "0.5", "1.5", "10", "0; 0\n5; 0\n0; 2.5", "-99", "-1; 0; 10; 5"}, "in"
		}
		p.visit(path)
		p.fill("Line of the section: x y to x y, "+of, in.line)
		p.until("the section along it", `window.line && JSON.parse(window.line).length === 4`)
		lines[k], err = evaluate[string](p, `window.line`)
		require.NoError(t, err)
		p.cell(first.Stages[0].Items[0].Key, "x")
		p.press(in.x + "\r")
		p.cell(first.Stages[0].Items[0].Key, "y")
		p.press(in.y + "\r")
		p.cell(first.Stages[0].Items[0].Key, "angleDeg")
		p.fill("Overlap, "+of, in.overlap)
		p.fill("Seams stagger, "+of, in.stagger)
		p.click("Outlines")
		p.click("patch")
		p.fill("Length along x, "+of, in.length)
		p.click("ear")
		p.fill("Points, one a line", in.corners)
		p.click("Laminate")
		for n, label := range []string{"Nx, N/mm", "Ny, N/mm", "Nxy, N/mm", "Mx, N", "My, N", "Mxy, N"} {
			p.fill(label, fmt.Sprint(10+n))
		}
		p.fill("ΔT, "+map[string]string{"mm": "K", "in": "°F"}[of], in.rise)
		p.fill("Name of the case", "cold")
		p.click("Save in the master")
		p.click("Family")
		p.fill("L =", "210")
		p.fill("long", "310")
		require.Eventually(t, func() bool {
			d := h.named(t, "SP-11").Document
			return len(d.Variants) == 1 && d.Variants[0].Values["L"] > 301 && len(d.Loads) == 1
		}, patience, 20*time.Millisecond)
		d := h.named(t, "SP-11").Document
		raw, err := json.Marshal(d)
		require.NoError(t, err)
		records[k] = string(raw)
		item, ear, load := d.Stages[0].Items[0], d.Outlines[len(d.Outlines)-1].Points, d.Loads[0]
		assert.InDeltaSlice(
			t,
			[]float64{0.0635, -0.00635, 0.0127, 0.0381, 0.127, 0.0635, -55, 10e3, 15, 210},
			[]float64{
				item.X, item.Y, item.JoinWidth, item.Stagger, ear[1].X, ear[2].Y, load.DeltaT, load.N[0], load.M[2],
				d.Parameters[0].Value,
			},
			1e-9,
		)
	}
	same(t, "the master", records[0], records[1])
	same(t, "the line", lines[0], lines[1])
}

// same says that two bodies hold the same, numbers but for how they were typed.
func same(t *testing.T, what, a, b string) {
	t.Helper()
	var x, y any
	require.NoError(t, json.Unmarshal([]byte(a), &x), a)
	require.NoError(t, json.Unmarshal([]byte(b), &y), b)
	var walk func(at string, x, y any)
	walk = func(at string, x, y any) {
		switch v := x.(type) {
		case map[string]any:
			w, _ := y.(map[string]any)
			if assert.Len(t, w, len(v), at) {
				for k := range v {
					walk(at+"/"+k, v[k], w[k])
				}
			}
		case []any:
			w, _ := y.([]any)
			if assert.Len(t, w, len(v), at) {
				for k := range v {
					walk(fmt.Sprintf("%s/%d", at, k), v[k], w[k])
				}
			}
		case float64:
			w, ok := y.(float64)
			assert.True(t, ok, at)
			assert.InDelta(t, v, w, 1e-6*max(1e-3, v, -v), at)
		default:
			assert.Equal(t, x, y, at)
		}
	}
	walk(what, x, y)
}
