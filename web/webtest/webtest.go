// Package webtest asks the whole application on the demo's data for pages, as the tests of every area do.
package webtest

import (
	"bytes"
	"context"
	"io"
	"log/slog"
	"net/http"
	"net/http/httptest"
	"net/url"
	"regexp"
	"strings"
	"testing"
	"time"

	"yembo/shop/base"

	"github.com/labstack/echo/v5"

	"yembo/shop"
	"yembo/store"
	"yembo/store/storetest"
	"yembo/web"
)

// TestNow is when the tests take place.
var TestNow = time.Date(2026, 5, 14, 11, 20, 0, 0, time.UTC)

func Application(t *testing.T) (*echo.Echo, *bytes.Buffer) {
	t.Helper()
	e, log, _ := Started(t)
	return e, log
}

// Started is the application on the demo's data, with its log and its shop.
func Started(t testing.TB) (*echo.Echo, *bytes.Buffer, *shop.Shop) {
	t.Helper()
	clock := func() time.Time { return TestNow }
	sh := shop.New(storetest.Open(t, "demo", func(st *store.Store) error {
		return shop.New(st, clock).SeedDemo(t.Context())
	}), clock)
	log := &bytes.Buffer{}
	e, err := web.New(web.Config{Shop: sh, Workshop: "W", Actor: base.Actor{Name: "T"},
		Log: slog.New(slog.NewTextHandler(log, nil))})
	if err != nil {
		t.Fatal(err)
	}
	return e, log, sh
}

// fromHere is a request of this machine itself, which no limit of requests holds up.
func fromHere(method, target string, body io.Reader) *http.Request {
	r := httptest.NewRequest(method, target, body)
	r.RemoteAddr = "127.0.0.1:50000"
	return r
}

// Directly asks for a page, and follows nothing.
func Directly(e http.Handler, path string) *httptest.ResponseRecorder {
	w := httptest.NewRecorder()
	e.ServeHTTP(w, fromHere("GET", "http://localhost"+path, nil))
	return w
}

// Request asks for a page, follows a machine's tag to its number, and gives the page as it is read.
func Request(e http.Handler, method, path string, form url.Values,
	change func(*http.Request)) *httptest.ResponseRecorder {
	return asRead(Raw(e, method, path, form, change))
}

// Raw is Request with the page as it was sent.
func Raw(e http.Handler, method, path string, form url.Values,
	change func(*http.Request)) *httptest.ResponseRecorder {
	var body io.Reader
	if form != nil {
		body = strings.NewReader(form.Encode())
	}
	r := fromHere(method, "http://localhost"+path, body)
	if form != nil {
		r.Header.Set("Content-Type", "application/x-www-form-urlencoded")
	}
	if change != nil {
		change(r)
	}
	if strings.HasSuffix(r.URL.Path, "/events") { // a stream goes on until whoever reads it goes
		ctx, cancel := context.WithTimeout(r.Context(), 200*time.Millisecond)
		defer cancel()
		r = r.WithContext(ctx)
	}
	w := httptest.NewRecorder()
	e.ServeHTTP(w, r)
	if to := w.Header().Get("Location"); w.Code == http.StatusFound && method == "GET" && to != path {
		return Raw(e, method, to, form, change) // from a machine's tag to its number
	}
	return w
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

// DoneAside sends a form for something long and returns the page of what came of it.
func DoneAside(e http.Handler, path string, form url.Values) *httptest.ResponseRecorder {
	w := Request(e, "POST", path, form, SameOrigin)
	for range 100 {
		at := w.Header().Get("Location")
		if w = Request(e, "GET", at, nil, nil); w.Header().Get("Refresh") == "" {
			break
		}
		time.Sleep(50 * time.Millisecond)
		w.Header().Set("Location", at)
	}
	return w
}

func SameOrigin(r *http.Request) { r.Header.Set("Sec-Fetch-Site", "same-origin") }

func EmptyShop(t *testing.T) *shop.Shop {
	t.Helper()
	st, err := store.Open(t.TempDir())
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { st.Close() })
	return shop.New(st, time.Now)
}
