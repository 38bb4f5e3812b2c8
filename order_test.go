package juxta_test

import (
	"go/ast"
	"go/parser"
	"go/token"
	"io/fs"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// unordered finds the returns of a file whose answer hangs on what the language
// leaves open: a result that names a variable beside one whose call may change
// it. `return out, db.Scan(&out).Error` may read out before or after the scan
// (The Go Programming Language Specification, "Order of evaluation").
func unordered(files *token.FileSet, file *ast.File) []token.Position {
	var found []token.Position
	ast.Inspect(file, func(n ast.Node) bool {
		ret, is := n.(*ast.ReturnStmt)
		if !is {
			return true
		}
		for i, result := range ret.Results {
			for variable := range changedBy(result) {
				for j, other := range ret.Results {
					if i != j && names(other, variable) {
						found = append(found, files.Position(ret.Pos()))
					}
				}
			}
		}
		return true
	})
	return found
}

// changedBy is the set of variables that a call within an expression may
// change: those whose address it is given, and those that a function literal
// in it assigns.
func changedBy(e ast.Expr) map[string]bool {
	changed := map[string]bool{}
	ast.Inspect(e, func(n ast.Node) bool {
		switch n := n.(type) {
		case *ast.CallExpr:
			for _, argument := range n.Args {
				ast.Inspect(argument, func(n ast.Node) bool {
					if address, is := n.(*ast.UnaryExpr); is && address.Op == token.AND {
						changed[root(address.X)] = true
					}
					return true
				})
			}
		case *ast.AssignStmt:
			if n.Tok != token.DEFINE {
				for _, left := range n.Lhs {
					changed[root(left)] = true
				}
			}
		}
		return true
	})
	delete(changed, "")
	delete(changed, "_")
	return changed
}

func root(e ast.Expr) string {
	switch e := e.(type) {
	case *ast.Ident:
		return e.Name
	case *ast.SelectorExpr:
		return root(e.X)
	case *ast.IndexExpr:
		return root(e.X)
	case *ast.StarExpr:
		return root(e.X)
	}
	return ""
}

// names says whether an expression reads the variable itself, outside of
// function literals.
func names(e ast.Expr, variable string) bool {
	found := false
	ast.Inspect(e, func(n ast.Node) bool {
		switch n := n.(type) {
		case *ast.FuncLit:
			return false
		case *ast.SelectorExpr:
			found = found || root(n.X) == variable
			return root(n.X) == ""
		case *ast.KeyValueExpr:
			found = found || names(n.Value, variable)
			return false
		case *ast.Ident:
			found = found || n.Name == variable
		}
		return true
	})
	return found
}

func TestNoAnswerHangsOnTheOrderOfEvaluation(t *testing.T) {
	files := token.NewFileSet()
	read := 0
	require.NoError(t, filepath.WalkDir(".", func(path string, entry fs.DirEntry, err error) error {
		if err != nil {
			return err
		}
		if entry.IsDir() && (entry.Name() == "web" || strings.HasPrefix(entry.Name(), ".") && path != ".") {
			return filepath.SkipDir
		}
		if filepath.Ext(path) != ".go" {
			return nil
		}
		file, err := parser.ParseFile(files, path, nil, parser.SkipObjectResolution)
		require.NoError(t, err)
		read++
		for _, at := range unordered(files, file) {
			t.Errorf("%s: a result is named beside a call that may change it; assign first, then return", at)
		}
		return nil
	}))
	assert.Greater(t, read, 200)
}

// TestTheOrderOfEvaluationIsSeen shows that the check above can fail.
func TestTheOrderOfEvaluationIsSeen(t *testing.T) {
	for body, wrong := range map[string]bool{
		"return out, db.Raw(``).Scan(&out).Error":                    true,
		"return n.Stop, db.Take(&n, 1).Error":                        true,
		"return out, db.Write(func() error { out = 1; return nil })": true,
		"return r, true, db.Take(&r, *id).Error":                     true,
		"return page{Rows: out}, db.Scan(&out).Error":                true,
		"err := db.Scan(&out).Error; return out, err":                false,
		"return other, db.Scan(&out).Error":                          false,
		"return page{out: 1}, db.Scan(&out).Error":                   false,
		"return out, db.Find(out).Error":                             false,
	} {
		files := token.NewFileSet()
		file, err := parser.ParseFile(
			files,
			"x.go",
			"package p\nfunc f() (any, error) { "+body+" }",
			parser.SkipObjectResolution,
		)
		require.NoError(t, err, body)
		assert.Equal(t, wrong, len(unordered(files, file)) > 0, body)
	}
}
