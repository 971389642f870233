package guide_test

import (
	"html"
	"io/fs"
	"net/http"
	"os"
	"path/filepath"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"testing"

	"yembo/core/hw"
	"yembo/web/guide"
	"yembo/web/webtest"
)

var strong = regexp.MustCompile(`(?s)<strong>(.+?)</strong>`)

// TestWordsExist: every button, label and heading that the guide names is one of the pages'.
func TestWordsExist(t *testing.T) {
	var pages strings.Builder
	err := filepath.WalkDir("../..", func(path string, d fs.DirEntry, err error) error {
		if err != nil {
			return err
		}
		switch {
		case d.IsDir() && (d.Name() == "node_modules" || d.Name() == ".git" || d.Name() == "docs"):
			return filepath.SkipDir
		case strings.HasSuffix(path, "_test.go") || strings.Contains(path, "/static/"):
		case strings.HasSuffix(path, ".go") || strings.HasSuffix(path, ".html") || strings.HasSuffix(path, ".js"):
			raw, err := os.ReadFile(path)
			if err != nil {
				return err
			}
			pages.Write(raw)
		}
		return nil
	})
	if err != nil {
		t.Fatal(err)
	}
	// What stands in a template may be broken over lines, and have an action in it.
	text := strings.Join(strings.Fields(pages.String()), " ")
	named := 0
	chapters := guide.Chapters()
	for _, x := range chapters {
		if x.Name == "glossary" {
			continue // it names what the rules are about
		}
		for _, m := range strong.FindAllStringSubmatch(string(x.HTML), -1) {
			word := html.UnescapeString(strings.Join(strings.Fields(m[1]), " "))
			if named++; !strings.Contains(text, word) {
				t.Errorf("%s names %q, which no page has", x.Name, word)
			}
		}
	}
	if named < 50 {
		t.Errorf("only %d words are named", named)
	}
}

var (
	anchor = regexp.MustCompile(`<h2 id="([^"]+)"`)
	toTerm = regexp.MustCompile(`(?:"term" dict "to" "|/guide/glossary#)([a-z0-9-]+)"|` +
		`\{"[a-z]+", "[^"]+\?",\s+"[^"]+", "([a-z0-9-]+)"`) // of a template, or of a sum of the reckoner
	picture = regexp.MustCompile(`src="(/guide/pictures/[^"]+)"`)
	risk    = regexp.MustCompile(`<tr>\s*<td>([^<]+)</td>\s*<td>(\d+)</td>`)
)

// TestGlossary: each word that a page explains has its entry, each entry is led to from a page, the points of risk are those
// that are reckoned with, and each chapter has a picture that is there.
func TestGlossary(t *testing.T) {
	e, _ := webtest.Application(t)
	entries := map[string]bool{}
	for _, x := range guide.Chapters() {
		shown := picture.FindAllStringSubmatch(string(x.HTML), -1)
		if len(shown) == 0 {
			t.Errorf("%s has no picture", x.Name)
		}
		for _, m := range shown {
			if w := webtest.Directly(e, m[1]); w.Code != http.StatusOK || w.Header().Get("Content-Type") != "image/png" {
				t.Errorf("%s shows %s, which is not there", x.Name, m[1])
			}
		}
		if x.Name != "glossary" {
			continue
		}
		for _, m := range anchor.FindAllStringSubmatch(string(x.HTML), -1) {
			entries[m[1]] = false
		}
		rows := risk.FindAllStringSubmatch(string(x.HTML), -1)
		for _, r := range hw.Risks() {
			if !slices.ContainsFunc(rows, func(m []string) bool {
				return html.UnescapeString(m[1]) == r.Says && m[2] == strconv.Itoa(r.Points)
			}) {
				t.Errorf("the glossary does not give %q %d points", r.Says, r.Points)
			}
		}
		if len(rows) != len(hw.Risks()) {
			t.Errorf("%d risks are told, there are %d", len(rows), len(hw.Risks()))
		}
	}
	for _, pages := range []string{"../ui/templates/*/*.html", "../plans/*.go"} {
		files, err := filepath.Glob(pages)
		if err != nil {
			t.Fatal(err)
		}
		for _, file := range files {
			raw, err := os.ReadFile(file)
			if err != nil {
				t.Fatal(err)
			}
			for _, m := range toTerm.FindAllStringSubmatch(string(raw), -1) {
				to := m[1] + m[2]
				if _, there := entries[to]; !there {
					t.Errorf("%s leads to %q, which the glossary does not have", file, to)
				}
				entries[to] = true
			}
		}
	}
	for entry, led := range entries {
		if !led {
			t.Errorf("no page leads to %q", entry)
		}
	}
}

// TestGuide: a page leads to its chapter, a chapter is shown, and what it says is found.
func TestGuide(t *testing.T) {
	e, _ := webtest.Application(t)
	for from, want := range map[string]string{"/jobs/3/run": "bench", "/jobs/3": "counter", "/machines/wath-07": "plan",
		"/machines/new": "counter", "/machines/wath-07/readings": "proof", "/parts/count": "shelf", "/jobs/3/bill": "money",
		"/": "counter", "/nowhere": "first-day", "/models/x/steps": "record", "/reckoner": "glossary", "/settings": "copies",
		"/people/3": "people"} {
		at := webtest.Directly(e, "/guide?from="+from).Header().Get("Location")
		if at != "/guide/"+want || webtest.Directly(e, at).Code != http.StatusOK {
			t.Errorf("%s leads to %q", from, at)
		}
	}
	if page := webtest.Page(e, "/guide/bench"); !strings.Contains(page, "<strong>Not as shown</strong>") {
		t.Error("the chapter of the bench is not shown")
	}
	if page := webtest.Page(e, "/guide?q=SWOLLEN+fire"); strings.Count(page, `href="/guide/when-something-is-wrong"`) != 2 {
		t.Error("what is said of a fire is not found")
	}
	if page := webtest.Page(e, "/guide?q=%3Cscript%3E"); !strings.Contains(page, "&lt;script&gt;") {
		t.Error("what was searched for is not escaped")
	}
}
