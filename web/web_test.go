package web_test

import (
	"compress/gzip"
	"io"
	"net/http"
	"net/url"
	"os"
	"regexp"
	"strings"
	"testing"

	"github.com/labstack/echo/v5"

	"yembo/core/plan"
	"yembo/web"
	"yembo/web/kit"
	"yembo/web/webtest"
)

// TestHeaders: every page carries the web.Policy, and nothing in any template is inline.
func TestHeaders(t *testing.T) {
	e, _ := webtest.Application(t)
	for _, path := range []string{"/machines", "/models/quillon-aster-14", "/machines/wath-07", "/nope",
		"/customers/1/known",
		"/customers/1/known.json", "/machines/wath-07/export", "/models/quillon-aster-14/export"} {
		w := webtest.Request(e, "GET", path, nil, nil)
		if got := w.Header().Get("Content-Security-Policy"); got != web.Policy || strings.Contains(got, "unsafe") {
			t.Errorf("%s: web.Policy %q", path, got)
		}
		for name, want := range map[string]string{"X-Content-Type-Options": "nosniff", "Referrer-Policy": "same-origin",
			"X-Frame-Options": "DENY", "Cache-Control": "no-store"} {
			if got := w.Header().Get(name); got != want {
				t.Errorf("%s: %s is %q", path, name, got)
			}
		}
		if bad := regexp.MustCompile(`(?i)<style|\sstyle=|<script>|\son[a-z]+=|javascript:`).FindString(w.Body.String()); bad != "" {
			t.Errorf("%s has %q in line", path, bad)
		}
	}
}

func TestGuards(t *testing.T) {
	e, log := webtest.Application(t)
	if w := webtest.Request(e, "GET", "/machines", nil,
		func(r *http.Request) { r.Host = "evil.example" }); w.Code != http.StatusMisdirectedRequest {
		t.Errorf("another host: %d", w.Code)
	}
	for name, change := range map[string]func(*http.Request){
		"no token":   nil,
		"cross-site": func(r *http.Request) { r.Header.Set("Sec-Fetch-Site", "cross-site") },
		"wrong token": func(r *http.Request) {
			r.AddCookie(&http.Cookie{Name: "yembo_csrf", Value: "one"})
			r.Header.Set("X-CSRF-Token", "two")
		},
	} {
		w := webtest.Request(e, "POST", "/jobs/3/contacts", url.Values{"/how": {"phone"}, "/said": {"Hello."}}, change)
		if w.Code != http.StatusForbidden && w.Code != http.StatusBadRequest {
			t.Errorf("%s: %d", name, w.Code)
		}
	}
	// Over plain http from another machine there is no Sec-Fetch-Site; the token counts.
	w := webtest.Request(e, "POST", "/jobs/3/contacts", url.Values{"csrf": {"tok"}, "/how": {"phone"}, "/said": {"Hello."}},
		func(r *http.Request) { r.AddCookie(&http.Cookie{Name: "yembo_csrf", Value: "tok"}) })
	if w.Code != http.StatusSeeOther {
		t.Errorf("the right token: %d", w.Code)
	}
	w = webtest.Request(e, "POST", "/jobs/3/contacts?csrf=tok", url.Values{"/how": {"phone"}, "/said": {"Hello."}},
		func(r *http.Request) { r.AddCookie(&http.Cookie{Name: "yembo_csrf", Value: "tok"}) })
	if w.Code != http.StatusForbidden && w.Code != http.StatusBadRequest {
		t.Errorf("a token in the address: %d", w.Code)
	}
	big := url.Values{"/complaint": {strings.Repeat("x", kit.MaxBody+1)}}
	if w := webtest.Request(e, "POST", "/machines", big, webtest.SameOrigin); w.Code != http.StatusRequestEntityTooLarge {
		t.Errorf("a form of more than a megabyte: %d", w.Code)
	}
	for _, back := range []string{"//evil.example", "https://evil.example", `/\evil.example`} {
		w := webtest.Request(e, "POST", "/theme", url.Values{"theme": {"dark"}, "back": {back}}, webtest.SameOrigin)
		if got := w.Header().Get("Location"); got != "/" {
			t.Errorf("back to %s leads to %s", back, got)
		}
	}
	if strings.Contains(log.String(), "tok") {
		t.Error("a token stands in the log")
	}
}

// TestPanic: a panic becomes a page with an id that stands in the log too.
func TestPanic(t *testing.T) {
	e, log := webtest.Application(t)
	e.GET("/panic", func(*echo.Context) error { panic("a fault of ours") })
	w := webtest.Request(e, "GET", "/panic", nil, nil)
	id := w.Header().Get(echo.HeaderXRequestID)
	if w.Code != 500 || id == "" || !strings.Contains(w.Body.String(), id) || strings.Contains(w.Body.String(),
		"a fault of ours") {
		t.Errorf("%d %s", w.Code, w.Body)
	}
	if !strings.Contains(log.String(), "a fault of ours") || !strings.Contains(log.String(), id) {
		t.Errorf("log: %s", log)
	}
}

// TestTooMuchToPlan: a plan past a limit says which, and is no fault of ours.
func TestTooMuchToPlan(t *testing.T) {
	e, log := webtest.Application(t)
	e.GET("/large", func(*echo.Context) error { return plan.TooLarge("70 places; a plan looks at 60 at most") })
	w := webtest.Request(e, "GET", "/large", nil, nil)
	if w.Code != http.StatusUnprocessableEntity || !strings.Contains(w.Body.String(), "a plan looks at 60 at most") {
		t.Errorf("%d %s", w.Code, w.Body)
	}
	if strings.Contains(log.String(), "failed") {
		t.Errorf("log: %s", log)
	}
}

// TestEscaping: what people type is shown, never run.
func TestEscaping(t *testing.T) {
	e, _ := webtest.Application(t)
	nasty := `<script>alert(1)</script>"'><img src=x onerror=alert(2)>`
	form := url.Values{"/chassis": {"quillon-aster-14"}, "/customer": {nasty}, "/complaint": {nasty},
		"/serial": {nasty}, "/goals/memory_gb": {"16"}, "token": {"t"}}
	w := webtest.Request(e, "POST", "/machines", form, webtest.SameOrigin)
	if w.Code != http.StatusSeeOther {
		t.Fatalf("%d %s", w.Code, w.Body)
	}
	job := w.Header().Get("Location")
	talk := url.Values{"/how": {"phone"}, "/who": {nasty}, "/said": {nasty}, "/agreed": {nasty}, "token": {"u"}}
	if w := webtest.Request(e, "POST", job+"/contacts", talk, webtest.SameOrigin); w.Code != http.StatusSeeOther {
		t.Fatalf("%d %s", w.Code, w.Body)
	}
	for _, path := range []string{job, job + "/label", job + "/sheet", webtest.PlanOf(t, e, job),
		webtest.PlanOf(t, e, job) + "/history", "/", "/customers", "/machines", "/machines?q=" + url.QueryEscape(nasty),
		"/machines/new?q=" + url.QueryEscape(nasty)} {
		if body := webtest.Request(e, "GET", path, nil, nil).Body.String(); strings.Contains(body, "<script>alert") ||
			strings.Contains(body, "<img src=x") {
			t.Errorf("%s shows it as it was typed", path)
		}
	}
}

// TestWeight: the first load of a page stays below 200 KB over the wire, fonts
// included, and everything it loads comes from here and may be kept.
func TestWeight(t *testing.T) {
	e, _ := webtest.Application(t)
	zip := func(r *http.Request) { r.Header.Set("Accept-Encoding", "gzip") }
	for _, path := range []string{"/machines/wath-07", "/models/quillon-aster-14", "/models/new"} {
		w := webtest.Request(e, "GET", path, nil, zip)
		total := w.Body.Len()
		reader, err := gzip.NewReader(w.Body)
		if err != nil {
			t.Fatalf("%s is not compressed: %v", path, err)
		}
		page, err := io.ReadAll(reader)
		if err != nil {
			t.Fatal(err)
		}
		load := map[string]bool{}
		for _, m := range regexp.MustCompile(`(?:src|href)="(/static/[^"]+)"`).FindAllStringSubmatch(string(page), -1) {
			load[m[1]] = true
		}
		for url := range load {
			if strings.HasSuffix(url, ".css") {
				for _, m := range regexp.MustCompile(`url\((/static/[^)]+)\)`).FindAllStringSubmatch(webtest.Request(e, "GET",
					url, nil, nil).Body.String(), -1) {
					load[m[1]] = true
				}
			}
		}
		for url := range load {
			got := webtest.Request(e, "GET", url, nil, zip)
			if got.Code != 200 || !strings.Contains(got.Header().Get("Cache-Control"), "immutable") {
				t.Errorf("%s: %d %s", url, got.Code, got.Header().Get("Cache-Control"))
			}
			total += got.Body.Len()
		}
		if total > 200_000 || len(load) < 6 {
			t.Errorf("%s loads %d bytes in %d files", path, total, len(load))
		}
		t.Logf("%s: %d bytes over the wire", path, total)
	}
}

// TestColours: every pair of colours in use, in both themes, passes WCAG 2.2 AA.
func TestColours(t *testing.T) {
	css, err := os.ReadFile("ui/styles/app.css")
	if err != nil {
		t.Fatal(err)
	}
	pairs := regexp.MustCompile(`--color-(\w+): light-dark\(#([0-9A-Fa-f]{6}), #([0-9A-Fa-f]{6})\)`).FindAllStringSubmatch(string(css), -1)
	if len(pairs) < 12 {
		t.Fatalf("only %d colours have both themes", len(pairs))
	}
	for theme, at := range map[string]int{"light": 2, "dark": 3} {
		colour := map[string]float64{}
		for _, m := range pairs {
			colour[m[1]] = luminance(t, m[at])
		}
		for _, p := range []struct {
			on, ink string
			least   float64
		}{
			{"paper", "ink", 4.5}, {"paper", "pencil", 4.5}, {"paper", "action", 4.5}, {"paper", "good", 4.5},
			{"paper", "hazard", 4.5},
			{"mat", "ink", 4.5}, {"face", "ink", 4.5}, {"wash", "ink", 4.5}, {"wash", "action", 4.5},
			{"solid", "paper", 4.5},
			{"paper", "edge", 3}, {"wash", "hazard", 3}, {"mat", "action", 3}, {"face", "action", 3},
		} {
			a, b := colour[p.on], colour[p.ink]
			if a < b {
				a, b = b, a
			}
			if ratio := (a + 0.05) / (b + 0.05); ratio < p.least {
				t.Errorf("%s theme: %s on %s is %.2f : 1, at least %.1f", theme, p.ink, p.on, ratio, p.least)
			}
		}
	}
}
