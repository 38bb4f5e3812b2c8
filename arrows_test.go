// Package juxta_test guards the house: arrows between its floors point one way.
package juxta_test

import (
	"encoding/json"
	"errors"
	"go/ast"
	"go/parser"
	"go/token"
	"io"
	"io/fs"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// may lists what each floor may import of ours. Whoever is not in the list may
// import nothing of ours.
var may = map[string][]string{
	"core":   {"core"},
	"calc":   {"core"},
	"format": {"core", "format"},
	"device": {"core", "device", "format"},
	"store":  {"store"},
	"shop":   {"calc", "core", "shop", "store"},
	"work":   {"core", "device", "format", "shop", "store"},
	"paper":  {"core", "format", "shop"},
	"api":    {"calc", "core", "format", "paper", "shop", "web"},
	"demo":   {"calc", "core", "demo", "device", "format", "shop", "store"},
	"cmd":    {"api", "calc", "core", "demo", "device", "shop", "store", "work"},
}

// rooms of the shop, each with those that it may know; what is not in the list is
// the door, which knows them all.
var rooms = map[string][]string{
	"book":    {},
	"people":  {"book"},
	"climate": {"book", "people"},
	"recipes": {"book", "people", "climate"},
	"stock":   {"book", "people", "climate", "recipes"},
	"parts":   {"book", "people", "climate", "recipes", "stock"},
	"builds":  {"book", "people", "climate", "recipes", "stock", "parts"},
	"cutting": {"book", "people", "climate", "recipes", "stock", "parts", "builds"},
	"curing":  {"book", "people", "climate", "recipes", "stock", "parts", "builds"},
	"finish":  {"book", "people", "climate", "recipes", "stock", "parts", "builds"},
	"inspect": {"book", "people", "climate", "recipes", "stock", "parts", "builds", "cutting", "curing", "finish"},
	// What tests make parts of.
	"shoptest": {"parts"},
}

// coreOnly are the outside packages that the core may use: numbers, geometry,
// and the expressions of families.
var coreOnly = []string{"gonum.org/v1/gonum/", "github.com/peterstace/simplefeatures/", "github.com/expr-lang/expr"}

func TestArrowsPointOneWay(t *testing.T) {
	out, err := exec.Command("go", "list", "-json=ImportPath,Imports", "./...").Output()
	require.NoError(t, err)
	floor := func(path string) string {
		rest, ours := strings.CutPrefix(path, "juxta/")
		if !ours {
			return ""
		}
		return strings.SplitN(rest, "/", 2)[0]
	}
	packages, entered := 0, 0
	for decoder := json.NewDecoder(strings.NewReader(string(out))); ; packages++ {
		var p struct {
			ImportPath string
			Imports    []string
		}
		if err := decoder.Decode(&p); errors.Is(err, io.EOF) {
			break
		} else {
			require.NoError(t, err)
		}
		for _, i := range p.Imports {
			if room, is := strings.CutPrefix(p.ImportPath, "juxta/shop/"); is && floor(i) == "shop" {
				entered++
				assert.Contains(
					t,
					rooms[room],
					strings.TrimPrefix(i, "juxta/shop/"),
					"%s imports %s: that arrow is turned round",
					p.ImportPath,
					i,
				)
			}
			if to := floor(i); to != "" {
				assert.Contains(
					t,
					may[floor(p.ImportPath)],
					to,
					"%s imports %s: that arrow is turned round",
					p.ImportPath,
					i,
				)
			} else if floor(p.ImportPath) == "core" && strings.Contains(strings.SplitN(i, "/", 2)[0], ".") {
				allowed := slices.ContainsFunc(coreOnly, func(prefix string) bool {
					return strings.HasPrefix(i,
						prefix)
				})
				assert.True(t, allowed, "%s imports %s: the core is numbers, geometry and expressions only",
					p.ImportPath, i)
			}
			// Values of the core are themselves what is kept and exchanged: JSON is a form of theirs.
			if floor(p.ImportPath) == "core" {
				assert.NotContains(t, []string{"net/http", "database/sql", "os", "math/rand"}, i, p.ImportPath)
			}
		}
	}
	assert.Greater(t, packages, 20)
	assert.Greater(t, entered, len(rooms))
}

// clocks are what asks the time, or waits for it.
var clocks = []string{"Now", "Since", "Until", "After", "AfterFunc", "Sleep", "Tick", "NewTicker", "NewTimer"}

// TestTheCoreHasNoClock keeps the core a function of what it is given: who asks
// it says what time it is.
func TestTheCoreHasNoClock(t *testing.T) {
	asks := func(source any, name string) (found []string) {
		files := token.NewFileSet()
		file, err := parser.ParseFile(files, name, source, 0)
		require.NoError(t, err)
		ast.Inspect(file, func(n ast.Node) bool {
			if s, is := n.(*ast.SelectorExpr); is && slices.Contains(clocks, s.Sel.Name) {
				if x, is := s.X.(*ast.Ident); is && x.Name == "time" {
					found = append(found, files.Position(s.Pos()).String())
				}
			}
			return true
		})
		return found
	}
	require.Len(t, asks("package x; import \"time\"; func f() time.Time { return time.Now() }", "x.go"), 1)
	seen := 0
	require.NoError(t, filepath.WalkDir("core", func(path string, d fs.DirEntry, err error) error {
		if err == nil && strings.HasSuffix(path, ".go") && !strings.HasSuffix(path, "_test.go") {
			seen++
			assert.Empty(t, asks(nil, path), "the core asks no clock")
		}
		return err
	}))
	assert.Greater(t, seen, 20)
}
