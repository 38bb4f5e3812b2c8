package main

import (
	"bufio"
	"bytes"
	"encoding/json"
	"fmt"
	"io"
	"net"
	"net/http"
	"net/http/cookiejar"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"sync"
	"syscall"
	"testing"
	"time"

	"github.com/spf13/pflag"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"juxta/shop/builds"
	"juxta/shop/people"
)

var binary string

func TestMain(m *testing.M) {
	dir, err := os.MkdirTemp("", "juxta-bin-")
	if err != nil {
		panic(err)
	}
	if err := os.Chmod(dir, 0o755); err != nil { // the database's own user passes through
		panic(err)
	}
	binary = filepath.Join(dir, "juxta")
	if out, err := exec.Command("go", "build", "-o", binary, ".").CombinedOutput(); err != nil {
		fmt.Fprintln(os.Stderr, string(out))
		os.Exit(1)
	}
	code := m.Run()
	os.RemoveAll(dir)
	os.Exit(code)
}

func TestCalcSpeaksJSONAndExitsTwoOnBadInput(t *testing.T) {
	list, err := exec.Command(binary, "calc").Output()
	require.NoError(t, err)
	for _, name := range []string{"laminate", "outtime", "nest", "cure"} {
		assert.Contains(t, string(list), name)
		example, err := exec.Command(binary, "calc", name, "--example").Output()
		require.NoError(t, err)
		cmd := exec.Command(binary, "calc", name)
		cmd.Stdin = bytes.NewReader(example)
		out, err := cmd.Output()
		require.NoError(t, err, name)
		assert.True(t, json.Valid(out))
		schema, err := exec.Command(binary, "calc", name, "--schema").Output()
		require.NoError(t, err)
		assert.True(t, json.Valid(schema))
	}
	bad := exec.Command(binary, "calc", "laminate")
	bad.Stdin = strings.NewReader(`{"materials":{},"plies":[{"material":"x","angleDeg":0}]}`)
	var says bytes.Buffer
	bad.Stderr = &says
	err = bad.Run()
	var exit *exec.ExitError
	require.ErrorAs(t, err, &exit)
	assert.Equal(t, 2, exit.ExitCode())
	assert.Equal(t, "plies[0].material: \"x\" is not among the materials\n", says.String())
}

// running is a started juxta: its process and how to sign in.
type running struct {
	cmd *exec.Cmd
	url string
	pin string
	// code is what an empty shop asks for.
	code string
	said string // on its standard output until it was ready
}

// stateDir is a folder that the database's own user can reach.
func stateDir(t *testing.T) string {
	t.Helper()
	dir, err := os.MkdirTemp("", "juxta-state-")
	require.NoError(t, err)
	require.NoError(t, os.Chmod(dir, 0o755))
	t.Cleanup(func() { _ = os.RemoveAll(dir) })
	return dir
}

// loaded is the state folder of a demo that was loaded and shut down in order.
var loaded = sync.OnceValues(func() (string, error) {
	dir := filepath.Join(filepath.Dir(binary), "loaded") // it goes with the binary
	if err := os.Mkdir(dir, 0o755); err != nil {
		return dir, err
	}
	port, err := somePort()
	if err != nil {
		return dir, err
	}
	cmd := exec.Command(binary, "start", "--state", dir, "--port", strconv.Itoa(port))
	cmd.Env = slicesWithout(os.Environ(), "JUXTA_DATABASE_URL")
	cmd.Stderr = os.Stderr
	out, err := cmd.StdoutPipe()
	if err != nil {
		return dir, err
	}
	if err := cmd.Start(); err != nil {
		return dir, err
	}
	for lines := bufio.NewScanner(out); lines.Scan() && !strings.Contains(lines.Text(), "Ctrl-C"); {
	}
	if err := cmd.Process.Signal(os.Interrupt); err != nil {
		return dir, err
	}
	_, _ = io.Copy(io.Discard, out)
	return dir, cmd.Wait()
})

// demoState is a state folder with the demo in it.
func demoState(t *testing.T) string {
	t.Helper()
	of, err := loaded()
	require.NoError(t, err)
	dir := stateDir(t)
	out, err := exec.Command("cp", "-a", of+"/.", dir).CombinedOutput()
	require.NoError(t, err, string(out))
	return dir
}

func freePort(t *testing.T) int {
	t.Helper()
	port, err := somePort()
	require.NoError(t, err)
	return port
}

func somePort() (int, error) {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		return 0, err
	}
	defer l.Close()
	return l.Addr().(*net.TCPAddr).Port, nil
}

func launch(t *testing.T, state string, more ...string) running {
	t.Helper()
	port := freePort(t)
	cmd := exec.Command(binary, append([]string{"start", "--state", state, "--port", strconv.Itoa(port)}, more...)...)
	cmd.Env = slicesWithout(os.Environ(), "JUXTA_DATABASE_URL")
	out, err := cmd.StdoutPipe()
	require.NoError(t, err)
	cmd.Stderr = os.Stderr
	require.NoError(t, cmd.Start())
	t.Cleanup(func() { _ = cmd.Process.Signal(os.Interrupt); _, _ = cmd.Process.Wait() })
	r := running{cmd: cmd}
	for lines := bufio.NewScanner(out); lines.Scan(); {
		r.said += lines.Text() + "\n"
		if m := regexp.MustCompile(`http://\S+`).FindString(lines.Text()); m != "" {
			r.url = m
		}
		if m := regexp.MustCompile(`PIN (\d+)`).FindStringSubmatch(lines.Text()); m != nil {
			r.pin = m[1]
		}
		if m := regexp.MustCompile(`for a day: (\S+)`).FindStringSubmatch(lines.Text()); m != nil {
			r.code = m[1]
		}
		if strings.Contains(lines.Text(), "Ctrl-C") {
			go func() { _, _ = io.Copy(io.Discard, out) }()
			return r
		}
	}
	t.Fatal("juxta did not start")
	return r
}

func slicesWithout(env []string, name string) []string {
	var out []string
	for _, e := range env {
		if !strings.HasPrefix(e, name+"=") {
			out = append(out, e)
		}
	}
	return out
}

// client is signed in as Ines Falk.
func (r running) client(t *testing.T) *http.Client {
	t.Helper()
	jar, err := cookiejar.New(nil)
	require.NoError(t, err)
	c := &http.Client{Jar: jar, Timeout: 20 * time.Second}
	res, err := c.Get(r.url + "/api/people")
	require.NoError(t, err)
	defer res.Body.Close()
	var people []people.PersonView
	require.NoError(t, json.NewDecoder(res.Body).Decode(&people))
	for _, p := range people {
		if p.Name == "Ines Falk" {
			in, err := c.Post(
				r.url+"/api/session",
				"application/json",
				strings.NewReader(fmt.Sprintf(`{"personId":%d,"secret":%q}`, p.ID, r.pin)),
			)
			require.NoError(t, err)
			in.Body.Close()
			require.Equal(t, http.StatusOK, in.StatusCode)
		}
	}
	return c
}

func (r running) layup(t *testing.T, c *http.Client) builds.LayupView {
	t.Helper()
	var begun builds.BuildPage
	r.read(t, c, "/api/builds?room=layup", &begun)
	k := slices.IndexFunc(begun.Builds, func(b builds.BuildLine) bool { return b.Number == "SP-11" })
	require.GreaterOrEqual(t, k, 0)
	var v builds.LayupView
	r.read(t, c, "/api/layup/"+begun.Builds[k].Code, &v)
	return v
}

// read asks as a page does: again, while the database does not answer.
func (r running) read(t *testing.T, c *http.Client, path string, into any) {
	t.Helper()
	require.Eventually(t, func() bool {
		res, err := c.Get(r.url + path)
		if err != nil {
			return false
		}
		defer res.Body.Close()
		return res.StatusCode == http.StatusOK && json.NewDecoder(res.Body).Decode(into) == nil
	}, 30*time.Second, 20*time.Millisecond)
}

// sign signs the next ply and says whether that was acknowledged.
func (r running) sign(t *testing.T, c *http.Client) int {
	t.Helper()
	v := r.layup(t, c)
	raw, err := json.Marshal(builds.SignPly{Ply: v.Next.Ply, CutPly: v.NextCut, FilmsOff: 1})
	require.NoError(t, err)
	// Sent again under its key, as a page does, while the database does not answer.
	require.Eventually(t, func() bool {
		req, err := http.NewRequest("POST", r.url+"/api/layup/"+v.Build.Code+"/sign", bytes.NewReader(raw))
		require.NoError(t, err)
		req.Header.Set("Content-Type", "application/json")
		req.Header.Set("Idempotency-Key", fmt.Sprintf("sign-%d-of-test", v.Next.Ply))
		res, err := c.Do(req)
		if err != nil {
			return false
		}
		res.Body.Close()
		require.Contains(t, []int{http.StatusOK, http.StatusServiceUnavailable}, res.StatusCode)
		return res.StatusCode == http.StatusOK
	}, 30*time.Second, 20*time.Millisecond)
	return v.Next.Ply
}

// killAll is kill -9 of juxta and of its whole database server.
func (r running) killAll(t *testing.T, state string) {
	t.Helper()
	require.NoError(t, r.cmd.Process.Kill())
	_, _ = r.cmd.Process.Wait()
	data, err := filepath.EvalSymlinks(filepath.Join(state, "data"))
	require.NoError(t, err)
	raw, err := os.ReadFile(filepath.Join(data, "postmaster.pid"))
	require.NoError(t, err)
	pid, err := strconv.Atoi(strings.SplitN(string(raw), "\n", 2)[0])
	require.NoError(t, err)
	require.NoError(t, syscall.Kill(-pid, syscall.SIGKILL)) // its group: it leads one
}

func TestKillingEverythingLosesNoAcknowledgedSignature(t *testing.T) {
	state := demoState(t)
	r := launch(t, state)
	var signed []int
	for round := range 3 {
		signed = append(signed, r.sign(t, r.client(t)))
		if round == 1 { // once only juxta dies and the database lives on
			require.NoError(t, r.cmd.Process.Kill())
			_, _ = r.cmd.Process.Wait()
		} else {
			r.killAll(t, state)
		}
		r = launch(t, state)
	}
	v := r.layup(t, r.client(t))
	var laid []int
	for _, l := range v.Laid {
		laid = append(laid, l.Ply)
	}
	assert.Subset(t, laid, signed)
	assert.Equal(t, []int{7, 8, 9}, signed)

	// Started twice, on a taken port, for an empty shop that is not empty: one
	// sentence each, and the one that runs is not disturbed.
	for says, args := range map[string][]string{
		"already runs from the folder": {"--port", strconv.Itoa(freePort(t)), "--state", state},
		"is taken or not allowed":      {"--port", r.url[strings.LastIndex(r.url, ":")+1:], "--state", stateDir(t)},
		"a number from 1 to 65535":     {"--port", "99999"},
	} {
		out, err := exec.Command(binary, append([]string{"start"}, args...)...).CombinedOutput()
		assert.Error(t, err)
		assert.Contains(t, string(out), says)
		assert.Equal(t, 1, strings.Count(strings.TrimSpace(string(out)), "\n")+1, "one sentence: %s", out)
	}
	res, err := http.Get(r.url + "/readyz")
	require.NoError(t, err)
	res.Body.Close()
	assert.Equal(t, http.StatusOK, res.StatusCode)

	for name, mode := range map[string]os.FileMode{
		"password": 0o600, "password-owner": 0o600, "password-app": 0o600, "signin": 0o600,
	} {
		info, err := os.Stat(filepath.Join(state, name))
		require.NoError(t, err)
		assert.Equal(t, mode, info.Mode().Perm(), name)
	}
	require.NoError(t, r.cmd.Process.Signal(os.Interrupt))
	done, err := r.cmd.Process.Wait()
	require.NoError(t, err)
	assert.True(t, done.Success(), "Ctrl-C is an orderly end")
	_, err = os.Stat(filepath.Join(state, "data", "postmaster.pid"))
	assert.ErrorIs(t, err, os.ErrNotExist, "and the database server has stopped as well")
}

// A database server that dies alone is started again, the pages go on, and what
// was said meanwhile was the truth. The end of the log is written down.
func TestADatabaseThatDiesIsStartedAgain(t *testing.T) {
	state := demoState(t)
	r := launch(t, state)
	c := r.client(t)
	status := func(path string) int {
		res, err := c.Get(r.url + path)
		if err != nil {
			return 0
		}
		res.Body.Close()
		return res.StatusCode
	}
	for range 2 {
		data, err := filepath.EvalSymlinks(filepath.Join(state, "data"))
		require.NoError(t, err)
		raw, err := os.ReadFile(filepath.Join(data, "postmaster.pid"))
		require.NoError(t, err)
		pid, err := strconv.Atoi(strings.SplitN(string(raw), "\n", 2)[0])
		require.NoError(t, err)
		require.NoError(t, syscall.Kill(-pid, syscall.SIGKILL))
		require.Eventually(t, func() bool {
			got := status("/api/kits/B-0")
			assert.NotEqual(t, http.StatusUnauthorized, got, "a fault of the database signs nobody out")
			return status("/readyz") == http.StatusOK && got != http.StatusServiceUnavailable
		}, 60*time.Second, 20*time.Millisecond)
		r.sign(t, c)
	}
	require.NoError(t, r.cmd.Process.Signal(os.Interrupt))
	_, _ = r.cmd.Process.Wait()
	files, err := os.ReadDir(filepath.Join(state, "heads"))
	require.NoError(t, err)
	require.NotEmpty(t, files)
	name := filepath.Join(state, "heads", files[len(files)-1].Name())
	raw, err := os.ReadFile(name)
	require.NoError(t, err)
	lines := strings.Fields(strings.TrimSpace(string(raw)))
	require.GreaterOrEqual(t, len(lines), 3)
	// As if somebody had rewritten the log since.
	require.NoError(
		t,
		os.WriteFile(name, []byte(strings.Replace(string(raw), lines[1], strings.Repeat("0", 64), 1)), 0o600),
	)
	out := launch(t, state)
	assert.Contains(t, out.said, "ATTENTION: the log was rewritten: entry "+lines[0])
}

// The help is a text of its own: it names every option as it is.
func TestTheHelpOfStartNamesItsOptions(t *testing.T) {
	cmd := startCommand()
	said := ""
	cmd.Flags().VisitAll(func(f *pflag.Flag) {
		said += "--" + f.Name + "\n"
		kind, usage := pflag.UnquoteUsage(f)
		line := regexp.MustCompile(`--` + f.Name + ` +` + kind + ` *` + regexp.QuoteMeta(usage) + `.*\n`).
			FindString(startHelp)
		require.NotEmpty(t, line, f.Name)
		if f.DefValue != "" && f.DefValue != "false" {
			assert.Regexp(t, `\(default "?`+regexp.QuoteMeta(f.DefValue)+`"?\)`, line)
		}
	})
	assert.Len(t, regexp.MustCompile(`--[a-z]`).FindAllString(startHelp, -1), strings.Count(said, "\n")+1, "and --help")
}

func TestASecondAddressAsksForTLS(t *testing.T) {
	cmd := exec.Command(binary, "serve", "--listen", "0.0.0.0:0")
	cmd.Env = append(os.Environ(), "JUXTA_DATABASE_URL=postgres://nobody@127.0.0.1:1/none")
	out, err := cmd.CombinedOutput()
	assert.Error(t, err)
	assert.Contains(t, string(out), "put TLS before the server and give --secure")
}

func TestAnEmptyShopAsksForItsFirstAdministrator(t *testing.T) {
	state := stateDir(t)
	r := launch(t, state, "--empty")
	require.NotEmpty(t, r.code, "the code stands on the terminal")
	first := func(code string) int {
		res, err := http.Post(
			r.url+"/api/first",
			"application/json",
			strings.NewReader(
				fmt.Sprintf(`{"code":%q,"name":"First Hand","pin":"135798","password":"a long password"}`, code),
			),
		)
		require.NoError(t, err)
		res.Body.Close()
		return res.StatusCode
	}
	assert.Equal(t, http.StatusForbidden, first("aaaa-bbbb-cccc-dddd"))
	assert.Equal(t, http.StatusOK, first(r.code))
	assert.Equal(t, http.StatusConflict, first(r.code), "it works once")
	res, err := http.Get(r.url + "/api/people")
	require.NoError(t, err)
	defer res.Body.Close()
	var people []people.PersonView
	require.NoError(t, json.NewDecoder(res.Body).Decode(&people))
	require.Len(t, people, 1)
	assert.Equal(t, "administrator", people[0].Role)
	require.NoError(t, r.cmd.Process.Signal(os.Interrupt))
	_, _ = r.cmd.Process.Wait()
	out, err := exec.Command(binary, "start", "--state", state, "--empty", "--port", strconv.Itoa(freePort(t))).
		CombinedOutput()
	assert.Error(t, err)
	assert.Contains(t, string(out), "add --fresh to discard it")
	again := launch(t, state, "--fresh", "--empty")
	assert.NotEqual(t, r.code, again.code, "a new shop has a new code")
}
