package second

import (
	"bytes"
	"encoding/json"
	"os/exec"
	"path/filepath"
	"runtime"
	"testing"

	"github.com/stretchr/testify/require"
)

// Modules is where the packages lie; the test fails where they are not installed.
func Modules(t testing.TB) string {
	t.Helper()
	_, here, _, _ := runtime.Caller(0)
	dir, err := filepath.Abs(filepath.Join(filepath.Dir(here), "../../web/node_modules"))
	require.NoError(t, err)
	require.DirExists(t, dir, "run npm ci in web first, as ./test does")
	return dir
}

// Output runs a script and reads the JSON that it writes into out. The script has require of the
// packages, fs, path, and its arguments as args.
func Output(t testing.TB, out any, script string, args ...string) {
	t.Helper()
	const before = `import fs from "node:fs"; import path from "node:path"; import { createRequire } from "node:module";
import { pathToFileURL } from "node:url";
const require = createRequire(process.argv[1] + "/x.js"); const args = process.argv.slice(2);
const load = (file) => import(pathToFileURL(path.join(process.argv[1], file)).href);
console.warn = console.log; const say = (v) => fs.writeSync(3, JSON.stringify(v)); console.log = () => {};
`
	cmd := exec.Command("node", append([]string{"--input-type=module", "-e", before + script, Modules(t)}, args...)...)
	var wrong, said bytes.Buffer
	cmd.Stderr = &wrong
	answer, err := pipe(cmd, &said)
	require.NoError(t, err)
	require.NoError(t, cmd.Run(), wrong.String())
	answer()
	require.NoError(t, json.Unmarshal(said.Bytes(), out), said.String())
}
