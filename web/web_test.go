package web

import (
	"bytes"
	"compress/gzip"
	"io"
	"log/slog"
	"net/http"
	"net/http/httptest"
	"net/url"
	"os"
	"regexp"
	"strings"
	"testing"
	"time"

	"github.com/labstack/echo/v5"

	"yembo/core/plan"
	"yembo/shop"
	"yembo/store"
	"yembo/store/storetest"
	"yembo/web/kit"
)

// testNow is when the tests take place.
var testNow = time.Date(2026, 5, 14, 11, 20, 0, 0, time.UTC)

func application(t *testing.T) (*echo.Echo, *bytes.Buffer) {
	t.Helper()
	e, log, _ := started(t)
	return e, log
}

// started is the application on the demo's data, with its log and its shop.
func started(t testing.TB) (*echo.Echo, *bytes.Buffer, *shop.Shop) {
	t.Helper()
	clock := func() time.Time { return testNow }
	sh := shop.New(storetest.Open(t, "demo", func(st *store.Store) error {
		return shop.New(st, clock).SeedDemo(t.Context())
	}), clock)
	log := &bytes.Buffer{}
	e, err := New(kit.Config{Shop: sh, Workshop: "W", Actor: shop.Actor{Name: "T"},
		Log: slog.New(slog.NewTextHandler(log, nil))})
	if err != nil {
		t.Fatal(err)
	}
	return e, log, sh
}

// directly asks for a page, and follows nothing.
func directly(e http.Handler, path string) *httptest.ResponseRecorder {
	w := httptest.NewRecorder()
	e.ServeHTTP(w, httptest.NewRequest("GET", "http://localhost"+path, nil))
	return w
}

func request(e http.Handler, method, path string, form url.Values,
	change func(*http.Request)) *httptest.ResponseRecorder {
	var body io.Reader
	if form != nil {
		body = strings.NewReader(form.Encode())
	}
	r := httptest.NewRequest(method, "http://localhost"+path, body)
	if form != nil {
		r.Header.Set("Content-Type", "application/x-www-form-urlencoded")
	}
	if change != nil {
		change(r)
	}
	w := httptest.NewRecorder()
	e.ServeHTTP(w, r)
	if to := w.Header().Get("Location"); w.Code == http.StatusFound && method == "GET" && to != path {
		return request(e, method, to, form, change) // from a machine's tag to its number
	}
	return asRead(w)
}

// breaks is where a template goes on in another line, which no reader sees.
var breaks, between = regexp.MustCompile(`[ ]*\n\s*`), regexp.MustCompile(`>[ ]*\n\s*<`)

// asRead writes a page's lines together, so that a test looks for what is read and not for how
// the template is set; what was typed into text areas stays.
func asRead(w *httptest.ResponseRecorder) *httptest.ResponseRecorder {
	if w.Header().Get("Content-Encoding") != "" || !strings.HasPrefix(w.Header().Get("Content-Type"), "text/html") {
		return w
	}
	parts := strings.Split(w.Body.String(), "</textarea>")
	for i, part := range parts {
		page, typed, _ := strings.Cut(part, "<textarea")
		page = breaks.ReplaceAllString(between.ReplaceAllString(page, "><"), " ")
		if parts[i] = page; len(typed) > 0 {
			parts[i] += "<textarea" + typed
		}
	}
	w.Body = bytes.NewBufferString(strings.Join(parts, "</textarea>"))
	return w
}

// doneAside sends a form for something long and returns the page of what came of it.
func doneAside(e http.Handler, path string, form url.Values) *httptest.ResponseRecorder {
	w := request(e, "POST", path, form, sameOrigin)
	for range 100 {
		at := w.Header().Get("Location")
		if w = request(e, "GET", at, nil, nil); w.Header().Get("Refresh") == "" {
			break
		}
		time.Sleep(50 * time.Millisecond)
		w.Header().Set("Location", at)
	}
	return w
}

func sameOrigin(r *http.Request) { r.Header.Set("Sec-Fetch-Site", "same-origin") }

// TestHeaders: every page carries the policy, and nothing in any template is inline.
func TestHeaders(t *testing.T) {
	e, _ := application(t)
	for _, path := range []string{"/machines", "/models/quillon-aster-14", "/machines/wath-07", "/nope",
		"/customers/1/known",
		"/customers/1/known.json", "/machines/wath-07/export", "/models/quillon-aster-14/export"} {
		w := request(e, "GET", path, nil, nil)
		if got := w.Header().Get("Content-Security-Policy"); got != policy || strings.Contains(got, "unsafe") {
			t.Errorf("%s: policy %q", path, got)
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
	e, log := application(t)
	if w := request(e, "GET", "/machines", nil,
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
		w := request(e, "POST", "/jobs/3/contacts", url.Values{"/how": {"phone"}, "/said": {"Hello."}}, change)
		if w.Code != http.StatusForbidden && w.Code != http.StatusBadRequest {
			t.Errorf("%s: %d", name, w.Code)
		}
	}
	// Over plain http from another machine there is no Sec-Fetch-Site; the token counts.
	w := request(e, "POST", "/jobs/3/contacts", url.Values{"csrf": {"tok"}, "/how": {"phone"}, "/said": {"Hello."}},
		func(r *http.Request) { r.AddCookie(&http.Cookie{Name: "yembo_csrf", Value: "tok"}) })
	if w.Code != http.StatusSeeOther {
		t.Errorf("the right token: %d", w.Code)
	}
	w = request(e, "POST", "/jobs/3/contacts?csrf=tok", url.Values{"/how": {"phone"}, "/said": {"Hello."}},
		func(r *http.Request) { r.AddCookie(&http.Cookie{Name: "yembo_csrf", Value: "tok"}) })
	if w.Code != http.StatusForbidden && w.Code != http.StatusBadRequest {
		t.Errorf("a token in the address: %d", w.Code)
	}
	big := url.Values{"/complaint": {strings.Repeat("x", kit.MaxBody+1)}}
	if w := request(e, "POST", "/machines", big, sameOrigin); w.Code != http.StatusRequestEntityTooLarge {
		t.Errorf("a form of more than a megabyte: %d", w.Code)
	}
	for _, back := range []string{"//evil.example", "https://evil.example", `/\evil.example`} {
		w := request(e, "POST", "/theme", url.Values{"theme": {"dark"}, "back": {back}}, sameOrigin)
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
	e, log := application(t)
	e.GET("/panic", func(*echo.Context) error { panic("a fault of ours") })
	w := request(e, "GET", "/panic", nil, nil)
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
	e, log := application(t)
	e.GET("/large", func(*echo.Context) error { return plan.TooLarge("70 places; a plan looks at 60 at most") })
	w := request(e, "GET", "/large", nil, nil)
	if w.Code != http.StatusUnprocessableEntity || !strings.Contains(w.Body.String(), "a plan looks at 60 at most") {
		t.Errorf("%d %s", w.Code, w.Body)
	}
	if strings.Contains(log.String(), "failed") {
		t.Errorf("log: %s", log)
	}
}

// TestEscaping: what people type is shown, never run.
func TestEscaping(t *testing.T) {
	e, _ := application(t)
	nasty := `<script>alert(1)</script>"'><img src=x onerror=alert(2)>`
	form := url.Values{"/chassis": {"quillon-aster-14"}, "/customer": {nasty}, "/complaint": {nasty},
		"/serial": {nasty}, "/goals/memory_gb": {"16"}, "token": {"t"}}
	w := request(e, "POST", "/machines", form, sameOrigin)
	if w.Code != http.StatusSeeOther {
		t.Fatalf("%d %s", w.Code, w.Body)
	}
	job := w.Header().Get("Location")
	talk := url.Values{"/how": {"phone"}, "/who": {nasty}, "/said": {nasty}, "/agreed": {nasty}, "token": {"u"}}
	if w := request(e, "POST", job+"/contacts", talk, sameOrigin); w.Code != http.StatusSeeOther {
		t.Fatalf("%d %s", w.Code, w.Body)
	}
	for _, path := range []string{job, job + "/label", job + "/sheet", planOf(t, e, job),
		planOf(t, e, job) + "/history", "/", "/customers", "/machines", "/machines?q=" + url.QueryEscape(nasty),
		"/machines/new?q=" + url.QueryEscape(nasty)} {
		if body := request(e, "GET", path, nil, nil).Body.String(); strings.Contains(body, "<script>alert") ||
			strings.Contains(body, "<img src=x") {
			t.Errorf("%s shows it as it was typed", path)
		}
	}
}

// TestWeight: the first load of a page stays below 200 KB over the wire, fonts
// included, and everything it loads comes from here and may be kept.
func TestWeight(t *testing.T) {
	e, _ := application(t)
	zip := func(r *http.Request) { r.Header.Set("Accept-Encoding", "gzip") }
	for _, path := range []string{"/machines/wath-07", "/models/quillon-aster-14", "/models/new"} {
		w := request(e, "GET", path, nil, zip)
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
				for _, m := range regexp.MustCompile(`url\((/static/[^)]+)\)`).FindAllStringSubmatch(request(e, "GET",
					url, nil, nil).Body.String(), -1) {
					load[m[1]] = true
				}
			}
		}
		for url := range load {
			got := request(e, "GET", url, nil, zip)
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
	light, dark, found := strings.Cut(string(css), "@utility bench-theme")
	if !found {
		t.Fatal("the dark theme is not where it was")
	}
	for theme, part := range map[string]string{"light": light, "dark": dark} {
		colour := map[string]float64{}
		for _, m := range regexp.MustCompile(`--color-(\w+): #([0-9A-Fa-f]{6})`).FindAllStringSubmatch(part, -1) {
			if _, seen := colour[m[1]]; !seen {
				colour[m[1]] = luminance(t, m[2])
			}
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
