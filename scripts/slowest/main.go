package main

import (
	"bufio"
	"encoding/json"
	"fmt"
	"io"
	"os"
	"slices"
	"strings"
)

// event is a line of go test -json; see go doc test2json.
type event struct {
	Action, Package, Test, Output, ImportPath string
	Elapsed                                   float64
}

type took struct {
	name    string
	seconds float64
}

func main() {
	if !report(os.Stdin, os.Stdout) {
		os.Exit(1)
	}
}

// report says whether all passed.
func report(from io.Reader, to io.Writer) bool {
	var packages, tests []took
	said := map[string][]string{} // by test, until it is known whether it passes
	good := true
	lines := bufio.NewScanner(from)
	lines.Buffer(nil, 16<<20)
	for lines.Scan() {
		var e event
		if json.Unmarshal(lines.Bytes(), &e) != nil {
			fmt.Fprintln(to, lines.Text()) // not of a test: what the build says
			continue
		}
		name := e.Package + " " + e.Test
		switch {
		case e.Action == "output" && e.Test != "":
			said[name] = append(said[name], e.Output)
		case e.Action == "output" && (strings.HasPrefix(e.Output, "ok") || strings.HasPrefix(e.Output, "FAIL\t")),
			e.Action == "build-output":
			fmt.Fprint(to, e.Output)
		case e.Action == "output":
			said[e.Package] = append(said[e.Package], e.Output)
		case e.Action == "fail", e.Action == "build-fail":
			good = false
			key := name
			if e.Test == "" {
				key = e.Package
			}
			fmt.Fprint(to, strings.Join(said[key], ""))
		}
		if e.Action != "pass" && e.Action != "fail" {
			continue
		}
		delete(said, name)
		if e.Test == "" {
			packages = append(packages, took{e.Package, e.Elapsed})
		} else if !strings.Contains(e.Test, "/") {
			tests = append(tests, took{name, e.Elapsed})
		}
	}
	slowest(to, "packages", packages)
	slowest(to, "tests", tests)
	return good && lines.Err() == nil
}

func slowest(to io.Writer, what string, all []took) {
	slices.SortFunc(all, func(a, b took) int { return int(1000 * (b.seconds - a.seconds)) })
	fmt.Fprintf(to, "== the slowest %s\n", what)
	for _, t := range all[:min(10, len(all))] {
		fmt.Fprintf(to, "%8.1f s  %s\n", t.seconds, t.name)
	}
}
