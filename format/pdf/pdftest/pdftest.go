// Package pdftest reads PDF files in tests with a reader that is not ours:
// pdf.js, which also shows them in a browser.
package pdftest

import (
	"bytes"
	"encoding/json"
	"os/exec"
	"path/filepath"
	"runtime"
	"strings"
	"testing"
)

const script = `
const { getDocument } = await import(process.argv[1] + "/pdfjs-dist/legacy/build/pdf.mjs");
const data = [];
for await (const part of process.stdin) data.push(part);
const doc = await getDocument({ data: new Uint8Array(Buffer.concat(data)), verbosity: 0 }).promise;
let text = "";
for (let n = 1; n <= doc.numPages; n++) {
  const page = await doc.getPage(n);
  text += (await page.getTextContent()).items.map((i) => i.str).join(" ") + " ";
}
console.log(JSON.stringify({ pages: doc.numPages, text }));
`

// Read gives the number of pages of a PDF and its text, its white space folded.
// Node.js and the web packages must be there, as ./test sees to.
func Read(t testing.TB, file []byte) (pages int, text string) {
	t.Helper()
	_, here, _, _ := runtime.Caller(0)
	modules := filepath.Join(filepath.Dir(here), "../../../web/node_modules")
	cmd := exec.Command("node", "--input-type=module", "-e", script, modules)
	cmd.Stdin = bytes.NewReader(file)
	var says bytes.Buffer
	cmd.Stderr = &says
	out, err := cmd.Output()
	if err != nil {
		t.Fatalf("the PDF cannot be read: %v\n%s", err, says.String())
	}
	var read struct {
		Pages int
		Text  string
	}
	if err := json.Unmarshal(out, &read); err != nil {
		t.Fatal(err)
	}
	return read.Pages, strings.Join(strings.Fields(read.Text), " ")
}
