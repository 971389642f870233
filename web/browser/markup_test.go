package browser

import (
	"fmt"
	"io"
	"net/http"
	"net/http/cookiejar"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strings"
	"testing"
)

// begun are addresses from which every other page of the application is reached.
var begun = []string{"/", "/models/new", "/machines/new?q=quillon", "/reckoner", "/settings", "/removed", "/welcome",
	"/orders/new",
	"/suppliers", "/parts/count", "/parts/import", "/jobs/14/run", "/jobs/6/proof", "/jobs/6/report", "/find", "/find?code=nothing",
	"/invoices", "/machines/import", "/models/import"}

var hrefs = regexp.MustCompile(`(?:href|action)="(/[^"#]*)`)

// What the checker does not look at: the list of a field, and drawings.
var (
	listed     = regexp.MustCompile(`<input[^>]* list="([^"]+)"`)
	hiddenMark = regexp.MustCompile(`<(?:g|path|rect|circle|text|use|line)\b[^>]* hidden[ >=]`)
)

// TestMarkup follows the links of the demo's pages, one page of each kind, and has a checker read them:
// what is nested where it cannot be, an attribute that says nothing, an id that is there twice.
func TestMarkup(t *testing.T) {
	base := application(t, true)
	jar, err := cookiejar.New(nil)
	if err != nil {
		t.Fatal(err)
	}
	client := &http.Client{Jar: jar}
	dir := t.TempDir()
	kindOf := regexp.MustCompile(`/[^/?]*[0-9][^/?]*|\?.*`)
	seen, files := map[string]bool{}, map[string]string{}
	for todo := begun; len(todo) > 0; todo = todo[1:] {
		path := strings.ReplaceAll(todo[0], "&amp;", "&")
		kind := kindOf.ReplaceAllString(path, "/N")
		if seen[path] || seen[kind] && !strings.Contains(path, "?code") {
			continue
		}
		seen[path], seen[kind] = true, true
		res, err := client.Get(base + path)
		if err != nil {
			t.Fatal(err)
		}
		page, err := io.ReadAll(res.Body)
		res.Body.Close()
		if err != nil {
			t.Fatal(err)
		}
		if !strings.HasPrefix(res.Header.Get("Content-Type"), "text/html") || res.Header.Get("Content-Disposition") != "" {
			continue
		}
		for _, m := range listed.FindAllStringSubmatch(string(page), -1) {
			if !regexp.MustCompile(`<datalist\s+id="` + m[1] + `"`).Match(page) {
				t.Errorf("%s: a field has the list %q, which is not on the page", path, m[1])
			}
		}
		if m := hiddenMark.FindString(string(page)); m != "" {
			t.Errorf("%s: what is drawn knows no attribute hidden: %s", path, m)
		}
		file := filepath.Join(dir, fmt.Sprintf("%03d.html", len(files)))
		files[file] = path
		if err := os.WriteFile(file, page, 0o600); err != nil {
			t.Fatal(err)
		}
		for _, m := range hrefs.FindAllStringSubmatch(string(page), -1) {
			todo = append(todo, m[1])
		}
	}
	if len(files) < 60 {
		t.Errorf("only %d pages were read", len(files))
	}
	t.Logf("%d pages", len(files))
	out, err := exec.Command("../../node_modules/.bin/html-validate", "--config", "testdata/htmlvalidate.json",
		"--formatter", "text",
		dir).CombinedOutput()
	if err != nil {
		said := string(out)
		for file, path := range files {
			said = strings.ReplaceAll(said, file, path)
		}
		t.Errorf("%v\n%.60000s", err, said)
	}
}
