package web_test

import (
	"html"
	"net/http"
	"net/url"
	"regexp"
	"strings"
	"testing"

	"yembo/core/hw"
	"yembo/web/webtest"
)

var (
	anyTag    = regexp.MustCompile(`(?s)<(?:script|style|textarea|pre|code)\b.*?</(?:script|style|textarea|pre|code)>|<[^>]*>`)
	hrefs     = regexp.MustCompile(`(?:href|action)="(/[^"#]*)`)
	spoken    = regexp.MustCompile(`(?:title|aria-label|alt)="([^"]*)"`)
	programme = regexp.MustCompile(
		`\b[a-z0-9]+_[a-z0-9_]+\b|(?:^|[\s(])/(?:memory|slots|bays|batteries|steps|fasteners|services|suspected|shapes|fitted|goals|practice|condition)\b[/a-z0-9_-]*|chassis:|\bpCIe\b|\bwifi[4-7]e?\b|\bneeds:[a-z]|\b(?:nvme|sata|wwan|cnvi2?|mbr|gpt)\b|<nil>|\bmap\[|%!`,
	)
)

// TestWords reads every page made from the demo data, and no id, code, pointer or field name
// of the program stands on one.
func TestWords(t *testing.T) {
	e, _ := webtest.Application(t)
	// A work card and a fact that somebody changed are read too.
	for _, at := range []string{webtest.Take(t, e, webtest.IntakeForm()), "/machines/wath-08"} {
		_, rest, _ := strings.Cut(webtest.Page(e, at), `name="option" value="`)
		option, _, _ := strings.Cut(rest, `"`)
		if w := webtest.Request(e, "POST", at+"/choice", url.Values{"option": {option}, "token": {at}},
			webtest.SameOrigin); w.Code != http.StatusSeeOther {
			t.Fatalf("choosing for %s: %d", at, w.Code)
		}
	}
	if w := webtest.Request(e, "POST", "/models/quillon-aster-14/lines",
		url.Values{"text": {"dimm1 max48 @seller"}, "version": {"1"}, "token": {"l"}}, webtest.SameOrigin); w.Code >= 400 {
		t.Fatalf("a line: %d", w.Code)
	}
	pages, said := crawled(e, 1500), map[string]string{}
	for path, body := range pages {
		text := anyTag.ReplaceAllString(body, " ")
		for _, m := range spoken.FindAllStringSubmatch(body, -1) {
			text += " \n" + m[1]
		}
		text = html.UnescapeString(text)
		for _, at := range programme.FindAllStringIndex(text, -1) {
			word := strings.TrimSpace(text[at[0]:at[1]])
			if said[word] == "" {
				said[word] = path + ": …" + strings.Join(strings.Fields(text[max(0, at[0]-50):min(len(text),
					at[1]+30)]), " ")
			}
		}
		for _, c := range hw.Codes {
			if i := strings.Index(text, string(c.Code)); i >= 0 && strings.Contains(string(c.Code), ".") {
				said[string(c.Code)] = path + ": …" +
					strings.Join(strings.Fields(text[max(0, i-50):min(len(text), i+50)]), " ")
			}
		}
	}
	if len(pages) < 100 {
		t.Errorf("only %d pages were read", len(pages))
	}
	for word, where := range said {
		t.Errorf("%s on %s", word, where)
	}
}

// crawled are the pages that links lead to from the first, so many at most.
func crawled(e http.Handler, most int) map[string]string {
	out, seen, todo := map[string]string{}, map[string]bool{}, []string{"/"}
	for len(todo) > 0 && len(out) < most {
		path := todo[0]
		todo = todo[1:]
		if seen[path] || strings.HasPrefix(path, "/static/") || strings.HasPrefix(path, "/shorthand") {
			continue // the page of the shorthand shows what is typed
		}
		seen[path] = true
		w := webtest.Request(e, "GET", path, nil, nil)
		if w.Code != http.StatusOK || !strings.HasPrefix(w.Header().Get("Content-Type"), "text/html") {
			continue
		}
		out[path] = w.Body.String()
		for _, m := range hrefs.FindAllStringSubmatch(out[path], -1) {
			next := html.UnescapeString(m[1])
			if base, query, _ := strings.Cut(next, "?"); query == "" || strings.Count(query, "&") == 0 &&
				!strings.HasPrefix(base, "/machines/") {
				todo = append(todo, next)
			}
		}
	}
	return out
}
