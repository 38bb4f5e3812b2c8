package main

import (
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"os"
	"os/exec"
	"path"
	"slices"
	"strings"
)

// pkg is what go list says of a package.
type pkg struct {
	ImportPath                      string
	Deps, TestImports, XTestImports []string
}

func main() {
	packages, err := listed()
	if err == nil {
		var changed []string
		if changed, err = changes(); err == nil {
			for _, p := range reached(packages, changed) {
				fmt.Println(p)
			}
			return
		}
	}
	fmt.Fprintln(os.Stderr, err)
	os.Exit(1)
}

func listed() (all []pkg, err error) {
	out, err := exec.Command("go", "list", "-json=ImportPath,Deps,TestImports,XTestImports", "./...").Output()
	if err != nil {
		return nil, fmt.Errorf("go list: %w", err)
	}
	for d := json.NewDecoder(strings.NewReader(string(out))); ; {
		var p pkg
		if err := d.Decode(&p); errors.Is(err, io.EOF) {
			return all, nil
		} else if err != nil {
			return nil, err
		}
		all = append(all, p)
	}
}

// changes are the files that differ from HEAD or are new.
func changes() ([]string, error) {
	out, err := exec.Command("git", "status", "--porcelain", "--no-renames", "--untracked-files=all").Output()
	if err != nil {
		return nil, fmt.Errorf("git status: %w", err)
	}
	var files []string
	for _, line := range strings.Split(string(out), "\n") {
		if len(line) > 3 {
			files = append(files, strings.Trim(line[3:], `"`))
		}
	}
	return files, nil
}

// reached are the packages, in their order, that are core's, hold a changed file, or are
// built or tested with one that does.
func reached(packages []pkg, changed []string) (out []string) {
	begin := map[string]bool{}
	for _, file := range changed {
		// The folder itself, or the nearest above it that is a package: such as of SQL.
		for dir := path.Dir(file); dir != "."; dir = path.Dir(dir) {
			at := "juxta/" + dir
			if slices.ContainsFunc(packages, func(p pkg) bool { return p.ImportPath == at }) {
				begin[at] = true
				break
			}
		}
	}
	built := map[string][]string{} // with what a package is built
	for _, p := range packages {
		built[p.ImportPath] = p.Deps
	}
	for _, p := range packages {
		with := append([]string{p.ImportPath}, p.Deps...)
		for _, i := range append(slices.Clone(p.TestImports), p.XTestImports...) {
			with = append(append(with, i), built[i]...)
		}
		hit := strings.HasPrefix(p.ImportPath, "juxta/core")
		for _, w := range with {
			hit = hit || begin[w]
		}
		if hit {
			out = append(out, p.ImportPath)
		}
	}
	return out
}
