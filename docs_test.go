package yembo

import (
	"io/fs"
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"testing"
)

// What docs name of the code: a test or benchmark by its package, a file or folder, a target of make, a
// command of yembo.
var (
	docTest   = regexp.MustCompile(`\b([a-z]+)\.((?:Test|Benchmark|Fuzz|Example)[A-Za-z0-9]*)`)
	docPath   = regexp.MustCompile(`\x60((?:cmd|core|docs|exchange|scripts|shop|standin|store|web)/[A-Za-z0-9_./-]*)\x60`)
	docTarget = regexp.MustCompile(`\x60make ([a-z]+)`)
	docRule   = regexp.MustCompile(`\(docs/rules\.md, ([A-Z][^,):]*)`)
	codeTest  = regexp.MustCompile(`(?m)^func ((?:Test|Benchmark|Fuzz|Example)[A-Za-z0-9]*)\(`)
	target    = regexp.MustCompile(`(?m)^([a-z]+):`)
)

// packageOf is what docs call the package of a file: its folder, main for the command.
func packageOf(path string) string {
	switch dir := filepath.ToSlash(filepath.Dir(path)); dir {
	case ".":
		return "yembo"
	case "cmd/yembo":
		return "main"
	default:
		return filepath.Base(dir)
	}
}

// TestDocsNameWhatIsThere: every test, file and target that the docs name exists, so that a page which names
// what was moved or renamed is found by the one who moved it.
func TestDocsNameWhatIsThere(t *testing.T) {
	rules, err := os.ReadFile("docs/rules.md")
	if err != nil {
		t.Fatal(err)
	}
	tests := map[string]bool{}
	var pages []string
	err = filepath.WalkDir(".", func(path string, d fs.DirEntry, err error) error {
		if err != nil {
			return err
		}
		if d.IsDir() && (d.Name() == "node_modules" || d.Name() == ".git") {
			return filepath.SkipDir
		}
		if strings.HasSuffix(path, ".md") {
			pages = append(pages, path)
		}
		if !strings.HasSuffix(path, ".go") {
			return nil
		}
		content, err := os.ReadFile(path)
		for _, m := range docRule.FindAllStringSubmatch(string(content), -1) {
			if !strings.Contains(string(rules), "\n## "+m[1]+"\n") {
				t.Errorf("%s takes a rule from %q, which docs/rules.md does not have", path, m[1])
			}
		}
		for _, m := range codeTest.FindAllStringSubmatch(string(content), -1) {
			tests[packageOf(path)+"."+m[1]] = true
		}
		return err
	})
	if err != nil {
		t.Fatal(err)
	}
	makefile, err := os.ReadFile("Makefile")
	if err != nil {
		t.Fatal(err)
	}
	targets := map[string]bool{}
	for _, m := range target.FindAllStringSubmatch(string(makefile), -1) {
		targets[m[1]] = true
	}
	named := 0
	for _, page := range pages {
		content, err := os.ReadFile(page)
		if err != nil {
			t.Fatal(err)
		}
		text := string(content)
		for _, m := range docTest.FindAllStringSubmatch(text, -1) {
			if named++; !tests[m[1]+"."+m[2]] {
				t.Errorf("%s names the test %s.%s, which is not there", page, m[1], m[2])
			}
		}
		for _, m := range docPath.FindAllStringSubmatch(text, -1) {
			if _, err := os.Stat(m[1]); err != nil {
				t.Errorf("%s names %s, which is not there", page, m[1])
			}
			named++
		}
		for _, m := range docTarget.FindAllStringSubmatch(text, -1) {
			if named++; !targets[m[1]] {
				t.Errorf("%s names make %s, which is not there", page, m[1])
			}
		}
	}
	if named < 200 {
		t.Errorf("only %d names were looked at", named)
	}
}
