package ui

import (
	"io/fs"
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"testing"
)

// mostOwnStyles is how many lines of styles of our own there may be: drawings, sheets for the printer, and what
// is met in many places. The rest of a page is utilities over the theme.
const mostOwnStyles = 600

var (
	action    = regexp.MustCompile(`(?s)\{\{.*?\}\}`)
	classList = regexp.MustCompile(`(?s)(?:\bclass="|"(?:row)?class" ")([^"]*)"`)
	styled    = regexp.MustCompile(`\.((?:\\.|[A-Za-z_\x80-\x{10ffff}-])(?:\\.|[\w\x80-\x{10ffff}-])*)`)
	comment   = regexp.MustCompile(`(?s)/\*.*?\*/`)
	word      = regexp.MustCompile(`[A-Za-z][\w-]*`)
)

// TestStyles: each class of a page is styled, each class that we style is on a page, and there are no more
// styles of our own than are wanted.
func TestStyles(t *testing.T) {
	built, err := Static.ReadFile("static/app.css")
	if err != nil {
		t.Fatal(err)
	}
	known := classesOf(string(built))
	words := map[string]bool{} // of everything that can put a class on a page
	used := 0
	for _, dir := range []string{"templates", "scripts", "..", "../../core", "../../shop"} {
		walk(t, dir, func(path string, content string) {
			for _, w := range word.FindAllString(content, -1) {
				words[w] = true
			}
			if filepath.Ext(path) != ".html" {
				return
			}
			for _, list := range classList.FindAllStringSubmatch(action.ReplaceAllString(content, "\x00"), -1) {
				for _, class := range strings.Fields(list[1]) {
					if strings.Contains(class, "\x00") { // a part of it is worked out
						continue
					}
					used++
					if !known[class] {
						t.Errorf("%s: the class %s is not styled", path, class)
					}
				}
			}
		})
	}
	if used < 1000 {
		t.Errorf("only %d classes were looked at", used)
	}
	lines := 0
	walk(t, "styles", func(path string, content string) {
		lines += strings.Count(content, "\n")
		for class := range classesOf(comment.ReplaceAllString(content, "")) {
			if !words[class] && !made(words, class) {
				t.Errorf("%s: no page has the class %s", path, class)
			}
		}
	})
	if lines > mostOwnStyles {
		t.Errorf("%d lines of own styles, at most %d", lines, mostOwnStyles)
	}
}

// made reports whether a class is put together from its stem and what is worked out, such as is-pack and cols3.
func made(words map[string]bool, class string) bool {
	stem, end, cut := strings.Cut(class, "-")
	if cut {
		return words[stem+"-"] && words[end]
	}
	return words[strings.TrimRight(class, "0123456789")]
}

// classesOf are the classes that a style sheet names.
func classesOf(sheet string) map[string]bool {
	out := map[string]bool{}
	for _, m := range styled.FindAllStringSubmatch(sheet, -1) {
		out[strings.ReplaceAll(m[1], `\`, "")] = true
	}
	return out
}

// walk reads the sources below a folder.
func walk(t *testing.T, dir string, look func(path, content string)) {
	t.Helper()
	err := filepath.WalkDir(dir, func(path string, d fs.DirEntry, err error) error {
		if err != nil {
			return err
		}
		switch filepath.Ext(path) {
		case ".html", ".js", ".go", ".css":
		default:
			return nil
		}
		if strings.HasSuffix(path, "_test.go") || strings.Contains(path, "static") {
			return nil
		}
		content, err := os.ReadFile(path)
		if err == nil {
			look(path, string(content))
		}
		return err
	})
	if err != nil {
		t.Fatal(err)
	}
}
