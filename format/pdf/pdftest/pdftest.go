// Package pdftest reads PDF files in tests with a reader that is not ours:
// pdf.js, which also shows them in a browser.
package pdftest

import (
	"bytes"
	"encoding/json"
	"fmt"
	"image"
	"image/draw"
	"image/png"
	"os/exec"
	"path/filepath"
	"runtime"
	"strings"
	"testing"
)

const opened = `
const { getDocument } = await import(process.argv[1] + "/pdfjs-dist/legacy/build/pdf.mjs");
const data = [];
for await (const part of process.stdin) data.push(part);
const fonts = process.argv[1] + "/pdfjs-dist/standard_fonts/";
const bytes = new Uint8Array(Buffer.concat(data));
const doc = await getDocument({ data: bytes, verbosity: 0, standardFontDataUrl: fonts }).promise;
`

const reads = opened + `
let text = "";
for (let n = 1; n <= doc.numPages; n++) {
  const page = await doc.getPage(n);
  text += (await page.getTextContent()).items.map((i) => i.str).join(" ") + " ";
}
console.log(JSON.stringify({ pages: doc.numPages, text }));
`

const draws = opened + `
for (let n = 1; n <= Math.min(doc.numPages, Number(process.argv[2])); n++) {
  const page = await doc.getPage(n);
  const viewport = page.getViewport({ scale: Number(process.argv[3]) });
  const { canvas, context } = doc.canvasFactory.create(Math.round(viewport.width), Math.round(viewport.height));
  await page.render({ canvasContext: context, canvas, viewport, background: "white" }).promise;
  process.stdout.write(canvas.toBuffer("image/png"));
}
`

// Read gives the number of pages of a PDF and its text, its white space folded.
// Node.js and the web packages must be there, as ./test sees to.
func Read(t testing.TB, file []byte) (pages int, text string) {
	t.Helper()
	var read struct {
		Pages int
		Text  string
	}
	if err := json.Unmarshal(run(t, file, reads), &read); err != nil {
		t.Fatal(err)
	}
	return read.Pages, strings.Join(strings.Fields(read.Text), " ")
}

// Page is a page of a PDF as it is printed.
type Page struct {
	*image.Gray
	PerMM float64 // pixels
}

// Draw gives the first pages, most of them, as they are printed, with perMM
// pixels to the mm.
func Draw(t testing.TB, file []byte, most int, perMM float64) (pages []Page) {
	t.Helper()
	drawn := bytes.NewReader(run(t, file, draws, fmt.Sprint(most), fmt.Sprint(perMM*25.4/72)))
	for drawn.Len() > 0 {
		img, err := png.Decode(drawn)
		if err != nil {
			t.Fatal(err)
		}
		p := Page{image.NewGray(img.Bounds()), perMM}
		draw.Draw(p, p.Rect, img, image.Point{}, draw.Src)
		pages = append(pages, p)
	}
	return pages
}

// Ink says whether something is printed at a place, in mm from the top left.
func (p Page) Ink(x, y float64) bool { return p.dark(int(x*p.PerMM), int(y*p.PerMM)) }

func (p Page) dark(x, y int) bool {
	return p.GrayAt(x, y).Y < 160
}

// Printed is the part of the page that carries ink, in mm from the top left.
func (p Page) Printed() (left, top, right, bottom float64) {
	box := image.Rectangle{}
	for y := range p.Bounds().Dy() {
		for x := range p.Bounds().Dx() {
			if p.dark(x, y) {
				box = box.Union(image.Rect(x, y, x+1, y+1))
			}
		}
	}
	return float64(
			box.Min.X,
		) / p.PerMM, float64(
			box.Min.Y,
		) / p.PerMM, float64(
			box.Max.X,
		) / p.PerMM, float64(
			box.Max.Y,
		) / p.PerMM
}

// Level are the lengths in mm of the level lines on the page that are longer
// than least, one for each line, from the top.
func (p Page) Level(least float64) (lengths []float64) {
	before := false
	for y := range p.Bounds().Dy() {
		longest, run := 0, 0
		for x := range p.Bounds().Dx() {
			if run++; !p.dark(x, y) {
				run = 0
			}
			longest = max(longest, run)
		}
		long := float64(longest) / p.PerMM
		switch {
		case long > least && before:
			lengths[len(lengths)-1] = max(lengths[len(lengths)-1], long)
		case long > least:
			lengths = append(lengths, long)
		}
		before = long > least
	}
	return lengths
}

func run(t testing.TB, file []byte, script string, args ...string) []byte {
	t.Helper()
	_, here, _, _ := runtime.Caller(0)
	modules := filepath.Join(filepath.Dir(here), "../../../web/node_modules")
	cmd := exec.Command("node", append([]string{"--input-type=module", "-e", script, modules}, args...)...)
	cmd.Stdin = bytes.NewReader(file)
	var says bytes.Buffer
	cmd.Stderr = &says
	out, err := cmd.Output()
	if err != nil {
		t.Fatalf("the PDF cannot be read: %v\n%s", err, says.String())
	}
	return out
}
