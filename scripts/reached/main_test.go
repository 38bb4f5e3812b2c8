package main

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestChangesReachWhatIsBuiltAndTestedWithThem(t *testing.T) {
	all := []pkg{
		{ImportPath: "juxta/core/a"},
		{ImportPath: "juxta/store"},
		{ImportPath: "juxta/shop", Deps: []string{"juxta/core/a", "juxta/store"}},
		{ImportPath: "juxta/api", Deps: []string{"juxta/shop", "juxta/store"}},
		{ImportPath: "juxta/format", XTestImports: []string{"juxta/shop"}},
		{ImportPath: "juxta/calc"},
	}
	assert.Equal(t, []string{"juxta/core/a"}, reached(all, nil))
	assert.Equal(t, []string{"juxta/core/a"}, reached(all, []string{"README.md", "web/src/x.ts"}))
	assert.Equal(t,
		[]string{"juxta/core/a", "juxta/store", "juxta/shop", "juxta/api", "juxta/format"},
		reached(all, []string{"store/migrations/00018_x.sql"}), "also by way of a test")
	assert.Equal(t, []string{"juxta/core/a", "juxta/api"}, reached(all, []string{"api/x_test.go"}))
}
