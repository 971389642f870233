package yembo

import (
	"go/ast"
	"go/parser"
	"go/token"
	"io/fs"
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"testing"
)

// retired are turns that docs/words.md gave up, each with what is said instead.
var retired = map[*regexp.Regexp]string{
	regexp.MustCompile(`(?i)\b(some|no)body\b`):                               "someone; not known, not recorded, not checked",
	regexp.MustCompile(`(?i)\bnot told\b`):                                    "not known, not set",
	regexp.MustCompile(`(?i)\bnot stored\b`):                                  "not saved",
	regexp.MustCompile(`(?i)nothing was stored`):                              "nothing was saved",
	regexp.MustCompile(`(?i)\bby practice\b`):                                 "shop rule",
	regexp.MustCompile(`(?i)\bmaker's figure\b`):                              "maker's limit",
	regexp.MustCompile(`(?i)\bcontroller's figure\b`):                         "controller's limit",
	regexp.MustCompile(`(?i)\ball the same\b`):                                "anyway",
	regexp.MustCompile(`(?i)\bcomes about\b`):                                 "workings",
	regexp.MustCompile(`(?i)\blow-stock line\b`):                              "reorder level",
	regexp.MustCompile(`(?i)\b(is|are) like that\b`):                          "no … match",
	regexp.MustCompile(`(?i)\b(comma between|kept for (it|this job|jobs))\b`): "reserved; separated by commas",
	regexp.MustCompile(`\b(is is|the the|go go|to to|of of)\b`):               "a word once",
}

// saysOf are the texts of a file of Go, as far as they are no paths, words of forms or patterns: those with a blank.
func saysOf(t *testing.T, path string) map[token.Position]string {
	files, out := token.NewFileSet(), map[token.Position]string{}
	file, err := parser.ParseFile(files, path, nil, 0)
	if err != nil {
		t.Fatal(err)
	}
	ast.Inspect(file, func(n ast.Node) bool {
		if lit, ok := n.(*ast.BasicLit); ok && lit.Kind == token.STRING && strings.Contains(lit.Value, " ") {
			out[files.Position(lit.Pos())] = lit.Value
		}
		return true
	})
	return out
}

// TestRetiredWords: what pages, sheets, messages and documents' texts say follows docs/words.md.
func TestRetiredWords(t *testing.T) {
	check := func(at, text string) {
		for turn, instead := range retired {
			if found := turn.FindString(text); found != "" {
				t.Errorf("%s says %q: %s", at, found, instead)
			}
		}
	}
	action := regexp.MustCompile(`(?s)\{\{.*?\}\}`)
	err := filepath.WalkDir(".", func(path string, d fs.DirEntry, err error) error {
		if err != nil {
			return err
		}
		if d.IsDir() && (d.Name() == "node_modules" || d.Name() == ".git") {
			return filepath.SkipDir
		}
		switch path = filepath.ToSlash(path); {
		case d.IsDir(), strings.HasSuffix(path, "_test.go"), strings.HasPrefix(path, "shop/demo/"):
		case strings.HasSuffix(path, ".go"):
			for at, text := range saysOf(t, path) {
				check(at.String(), text)
			}
		case strings.HasPrefix(path, "web/ui/templates/"):
			raw, err := os.ReadFile(path)
			if err != nil {
				return err
			}
			check(path, action.ReplaceAllStringFunc(string(raw), func(a string) string {
				return strings.Join(regexp.MustCompile(`"[^"]*"`).FindAllString(a, -1), "\n")
			}))
		case strings.HasPrefix(path, "web/ui/scripts/"):
			raw, err := os.ReadFile(path)
			if err != nil {
				return err
			}
			check(path, strings.Join(regexp.MustCompile("'[^'\n]* [^'\n]*'|`[^`]* [^`]*`").FindAllString(string(raw), -1), "\n"))
		}
		return nil
	})
	if err != nil {
		t.Fatal(err)
	}
}
