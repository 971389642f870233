// Package yembo holds the tests of the project as a whole.
package yembo

import (
	"bytes"
	"go/ast"
	"go/parser"
	"go/printer"
	"go/token"
	"io/fs"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"unicode/utf8"
)

// layers are the folders from the top down: a package imports what lies below its
// own layer, never what lies above.
var layers = []string{"cmd", "web", "shop", "standin", "store", "exchange", "docs", "core"}

// areas are the rooms of the pages: none imports another, and what two need is in kit.
var areas = []string{"web/record", "web/plans", "web/counter", "web/shelf", "web/money", "web/bench", "web/guide", "web/people",
	"web/week"}

// rooms are those of the use cases, from the top down: a room imports those below it. Where one needs
// something of a room above it, it says so by an interface, and shop puts the two together.
var rooms = []string{"shop/care", "shop/work", "shop/billing", "shop/jobs", "shop/stock", "shop/records", "shop/people",
	"shop/base"}

func layerOf(path string) int {
	for i, l := range layers {
		if path == l || strings.HasPrefix(path, l+"/") {
			return i
		}
	}
	return -1
}

// TestLayers fails when an import goes upward, or when the core imports anything
// but the standard library and itself.
func TestLayers(t *testing.T) {
	files := 0
	err := filepath.WalkDir(".", func(path string, d fs.DirEntry, err error) error {
		if err != nil {
			return err
		}
		if d.IsDir() && (d.Name() == "node_modules" || d.Name() == ".git") {
			return filepath.SkipDir
		}
		if !strings.HasSuffix(path, ".go") || filepath.Dir(path) == "." {
			return nil
		}
		files++
		parsed, err := parser.ParseFile(token.NewFileSet(), path, nil, parser.ImportsOnly)
		if err != nil {
			return err
		}
		from := filepath.ToSlash(filepath.Dir(path))
		for _, imp := range parsed.Imports {
			checkImport(t, path, from, strings.Trim(imp.Path.Value, `"`))
		}
		return nil
	})
	if err != nil {
		t.Fatal(err)
	}
	if files < 20 {
		t.Errorf("only %d files were looked at", files)
	}
}

func checkImport(t *testing.T, file, from, to string) {
	t.Helper()
	own, within := strings.CutPrefix(to, "yembo/")
	inCore := layerOf(from) == layerOf("core")
	if !within {
		if inCore && strings.Contains(strings.Split(to, "/")[0], ".") {
			t.Errorf("%s imports %s, which the core does without", file, to)
		}
		return
	}
	switch a, b := layerOf(from), layerOf(own); {
	case a < 0 || b < 0:
		t.Errorf("%s imports %s: not a layer", file, to)
	case b < a:
		t.Errorf("%s imports %s: upward", file, to)
	case slices.Contains(areas, own) && from != own && from != "web":
		t.Errorf("%s imports %s: an area knows no other", file, to)
	case own == "store" && (from == "web/kit" || slices.Contains(areas, from)) && !strings.HasSuffix(file, "_test.go"):
		t.Errorf("%s imports %s: pages see what use cases hand out, never a row", file, to)
	case from == "web/kit" && own != "web/form" && own != "web/ui" && own != "web/draw" && b == layerOf("web"):
		t.Errorf("%s imports %s: the kit stands below the areas", file, to)
	case from == "web/draw" && b != layerOf("core") && !strings.HasSuffix(file, "_test.go"):
		t.Errorf("%s imports %s: drawings know the core alone", file, to)
	case slices.Contains(rooms, from) && slices.Index(rooms, own) >= 0 && slices.Index(rooms, own) <= slices.Index(rooms,
		from) && own != from:
		t.Errorf("%s imports %s: a room above its own", file, to)
	case slices.Contains(rooms, from) && own == "shop":
		t.Errorf("%s imports %s: shop puts the rooms together", file, to)
	case inCore && b != a:
		t.Errorf("%s imports %s: the core stands alone", file, to)
	}
}

// How long files and lines are, so that a page of code can be read. What a raw string of a test holds, a
// document or a script, has lines of its own.
const (
	longestFile = 500
	longestLine = 130
	widestPage  = 160 // of a template
)

// TestFilesCanBeRead keeps files and lines short.
func TestFilesCanBeRead(t *testing.T) {
	err := filepath.WalkDir(".", func(path string, d fs.DirEntry, err error) error {
		if err != nil {
			return err
		}
		if d.IsDir() && (d.Name() == "node_modules" || d.Name() == ".git") {
			return filepath.SkipDir
		}
		most := longestLine
		switch filepath.Ext(path) {
		case ".html":
			most = widestPage
		case ".go":
		default:
			return nil
		}
		content, err := os.ReadFile(path)
		if err != nil {
			return err
		}
		lines := strings.Split(string(content), "\n")
		if len(lines) > longestFile+1 {
			t.Errorf("%s has %d lines", path, len(lines))
		}
		quoted := false
		for i, line := range lines {
			raw := quoted || strings.Contains(line, "`")
			quoted = quoted != (strings.Count(line, "`")%2 == 1)
			if utf8.RuneCountInString(line) > most && !(raw && strings.HasSuffix(path, "_test.go")) {
				t.Errorf("%s:%d has %d columns", path, i+1, utf8.RuneCountInString(line))
			}
		}
		return nil
	})
	if err != nil {
		t.Fatal(err)
	}
}

// TestMoneyIsWhole: an amount of money is never a floating number, in any struct of the project.
func TestMoneyIsWhole(t *testing.T) {
	amounts := 0
	err := filepath.WalkDir(".", func(path string, d fs.DirEntry, err error) error {
		if err != nil {
			return err
		}
		if d.IsDir() && (d.Name() == "node_modules" || d.Name() == ".git") {
			return filepath.SkipDir
		}
		if !strings.HasSuffix(path, ".go") {
			return nil
		}
		parsed, err := parser.ParseFile(token.NewFileSet(), path, nil, 0)
		if err != nil {
			return err
		}
		ast.Inspect(parsed, func(n ast.Node) bool {
			field, ok := n.(*ast.Field)
			if !ok {
				return true
			}
			for _, name := range field.Names {
				low := strings.ToLower(name.Name)
				if !strings.HasSuffix(low, "cents") && !strings.Contains(low, "labourrate") {
					continue
				}
				amounts++
				var said bytes.Buffer
				if err := printer.Fprint(&said, token.NewFileSet(), field.Type); err != nil {
					t.Error(err)
				}
				if typ := said.String(); !strings.Contains(typ, "int64") && !strings.Contains(typ, "Cents") {
					t.Errorf("%s: %s is a %s", path, name.Name, typ)
				}
			}
			return true
		})
		return nil
	})
	if err != nil || amounts < 20 {
		t.Errorf("%d amounts, %v", amounts, err)
	}
}
