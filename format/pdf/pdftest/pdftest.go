package pdftest

import (
	"bufio"
	"bytes"
	"encoding/json"
	"image"
	"image/draw"
	"image/png"
	"io"
	"os"
	"os/exec"
	"path/filepath"
	"runtime"
	"strings"
	"sync"
	"testing"
)

// reader answers one line of JSON for each: a file in base64, and to what scale its first
// pages are drawn, if they are. It is begun once a process: pdf.js takes half a second to load.
const reader = `
import { createInterface } from "node:readline";
const { getDocument } = await import(process.argv[1] + "/pdfjs-dist/legacy/build/pdf.mjs");
const standardFontDataUrl = process.argv[1] + "/pdfjs-dist/standard_fonts/";
for await (const line of createInterface({ input: process.stdin })) {
  const { file, most, scale } = JSON.parse(line);
  const answer = { pages: 0, text: "", drawn: [], fault: "" };
  try {
    const doc = await getDocument({
      data: new Uint8Array(Buffer.from(file, "base64")), verbosity: 0, standardFontDataUrl,
    }).promise;
    answer.pages = doc.numPages;
    for (let n = 1; n <= (scale ? Math.min(doc.numPages, most) : doc.numPages); n++) {
      const page = await doc.getPage(n);
      if (!scale) {
        answer.text += (await page.getTextContent()).items.map((i) => i.str).join(" ") + " ";
        continue;
      }
      const viewport = page.getViewport({ scale });
      const { canvas, context } = doc.canvasFactory.create(Math.round(viewport.width), Math.round(viewport.height));
      await page.render({ canvasContext: context, canvas, viewport, background: "white" }).promise;
      answer.drawn.push(canvas.toBuffer("image/png").toString("base64"));
    }
    await doc.loadingTask.destroy();
  } catch (fault) {
    answer.fault = String(fault.stack ?? fault);
  }
  console.log(JSON.stringify(answer));
}
`

type question struct {
	File  []byte  `json:"file"`
	Most  int     `json:"most"`
	Scale float64 `json:"scale"`
}

type answer struct {
	Pages int
	Text  string
	Drawn [][]byte
	Fault string
}

// node is the reader's process, which ends with that of the tests: its input does.
var node struct {
	sync.Mutex
	ask    io.Writer
	answer *bufio.Reader
}

func ask(t testing.TB, q question) (a answer) {
	t.Helper()
	node.Lock()
	defer node.Unlock()
	if node.ask == nil {
		_, here, _, _ := runtime.Caller(0)
		modules := filepath.Join(filepath.Dir(here), "../../../web/node_modules")
		cmd := exec.Command("node", "--input-type=module", "-e", reader, modules)
		cmd.Stderr = os.Stderr
		in, err := cmd.StdinPipe()
		if err != nil {
			t.Fatal(err)
		}
		out, err := cmd.StdoutPipe()
		if err != nil {
			t.Fatal(err)
		}
		if err := cmd.Start(); err != nil {
			t.Fatal(err)
		}
		node.ask, node.answer = in, bufio.NewReader(out)
	}
	line, err := json.Marshal(q)
	if err != nil {
		t.Fatal(err)
	}
	if _, err := node.ask.Write(append(line, '\n')); err != nil {
		t.Fatalf("the reader of PDFs is gone: %v", err)
	}
	raw, err := node.answer.ReadBytes('\n')
	if err != nil {
		t.Fatalf("the reader of PDFs is gone: %v", err)
	}
	if err := json.Unmarshal(raw, &a); err != nil {
		t.Fatal(err)
	}
	if a.Fault != "" {
		t.Fatalf("the PDF cannot be read: %s", a.Fault)
	}
	return a
}

// Read gives the number of pages of a PDF and its text, its white space folded.
// Node.js and the web packages must be there, as ./test sees to.
func Read(t testing.TB, file []byte) (pages int, text string) {
	t.Helper()
	read := ask(t, question{File: file})
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
	for _, drawn := range ask(t, question{file, most, perMM * 25.4 / 72}).Drawn {
		img, err := png.Decode(bytes.NewReader(drawn))
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
