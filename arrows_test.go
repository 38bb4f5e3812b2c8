// Package juxta_test guards the house: arrows between its floors point one way.
package juxta_test

import (
	"encoding/json"
	"errors"
	"io"
	"os/exec"
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
	"wire":   {"core"},
	"calc":   {"core", "wire"},
	"format": {"core", "format"},
	"device": {"core", "device"},
	"store":  {"store"},
	"shop":   {"calc", "core", "shop", "store", "wire"},
	"work":   {"core", "device", "shop", "store", "wire"},
	"api":    {"core", "format", "shop", "web", "wire"},
	"demo":   {"core", "device", "format", "shop", "store", "wire"},
	"cmd":    {"api", "calc", "demo", "device", "shop", "store", "work"},
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
	packages := 0
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
			if to := floor(i); to != "" {
				assert.Contains(t, may[floor(p.ImportPath)], to, "%s imports %s: that arrow is turned round", p.ImportPath, i)
			} else if floor(p.ImportPath) == "core" && strings.Contains(strings.SplitN(i, "/", 2)[0], ".") {
				allowed := slices.ContainsFunc(coreOnly, func(prefix string) bool { return strings.HasPrefix(i, prefix) })
				assert.True(t, allowed, "%s imports %s: the core is numbers, geometry and expressions only", p.ImportPath, i)
			}
			// The master's document is itself what is kept and exchanged.
			document := p.ImportPath == "juxta/core/master" && i == "encoding/json"
			if floor(p.ImportPath) == "core" && !document {
				assert.NotContains(t, []string{"net/http", "database/sql", "encoding/json", "os", "math/rand"}, i, p.ImportPath)
			}
		}
	}
	assert.Greater(t, packages, 20)
}
