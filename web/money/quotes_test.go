package money_test

import (
	"net/http"
	"net/url"
	"strings"
	"testing"

	"yembo/web/webtest"
)

// TestLinkPage: a link's page is for nobody's index and no cache, has nothing of the shop's own, and is not
// asked for faster than somebody reads; another key leads nowhere.
func TestLinkPage(t *testing.T) {
	e, log := webtest.Application(t)
	link := webtest.Quoted(t, e)
	w := webtest.Request(e, "GET", link, nil, nil)
	body := w.Body.String()
	if w.Code != http.StatusOK || w.Header().Get("X-Robots-Tag") != "noindex, nofollow" ||
		w.Header().Get("Cache-Control") != "no-store" ||
		w.Header().Get("Referrer-Policy") != "no-referrer" ||
		!strings.Contains(body, `content="noindex, nofollow"`) {
		t.Errorf("%d %v", w.Code, w.Header())
	}
	for _, own := range []string{"R. Okell", "YB-0008", `"/settings`, `"/machines`, `"/jobs`, "T. Ansty"} {
		if strings.Contains(body, own) {
			t.Errorf("the page has %q on it", own)
		}
	}
	if again := webtest.Request(e, "GET", "/quotes/1", nil, nil).Body.String(); strings.Contains(again, link) {
		t.Error("the link is told a second time")
	}
	if w := webtest.Request(e, "POST", link, url.Values{"/letter": {"A"}, "token": {"l"}},
		webtest.SameOrigin); w.Code != http.StatusUnprocessableEntity ||
		!strings.Contains(w.Body.String(), "who said it") {
		t.Errorf("nobody's answer: %d", w.Code)
	}
	tried, refused := 0, 0
	for range 30 * 2 {
		switch w := webtest.Request(e, "GET", "/q/AAAAAAAAAAAAAAAAAAAAAAAAAA", nil, nil); w.Code {
		case http.StatusNotFound:
			tried++
		case http.StatusTooManyRequests:
			refused++
		default:
			t.Fatalf("a key at random: %d", w.Code)
		}
	}
	if tried > 30 || refused == 0 {
		t.Errorf("%d keys could be tried, %d were refused", tried, refused)
	}
	if w := webtest.Request(e, "GET", link, nil, nil); w.Code != http.StatusOK {
		t.Errorf("wrong guesses lock the true link out: %d", w.Code)
	}
	if strings.Contains(log.String(), strings.TrimPrefix(link, "/q/")) || strings.Contains(log.String(), "AAAAAAAA") {
		t.Error("the key of a link stands in the log")
	}
}

// TestQuoteForms: what cannot be is told at its field, with what was typed; what was shown is worded
// otherwise as the next version alone.
func TestQuoteForms(t *testing.T) {
	e, _ := webtest.Application(t)
	webtest.Quoted(t, e)
	form := webtest.FieldsOf(t, webtest.Page(e, "/quotes/1/edit"), "/quotes/1")
	bad := url.Values{}
	for k, v := range form {
		bad[k] = v
	}
	bad.Set("/discount", "99999")
	bad.Set("/told", "kept as typed")
	if w := webtest.Request(e, "POST", "/quotes/1", bad, webtest.SameOrigin); w.Code != http.StatusUnprocessableEntity ||
		!strings.Contains(w.Body.String(), "a discount above the sum") ||
		!strings.Contains(w.Body.String(), "kept as typed") {
		t.Errorf("a discount above the sum: %d", w.Code)
	}
	form.Set("/told", "In other words.")
	if w := webtest.Request(e, "POST", "/quotes/1", form, webtest.SameOrigin); w.Header().Get("Location") != "/quotes/2" {
		t.Fatalf("%d %s", w.Code, w.Header().Get("Location"))
	}
	if old, next := webtest.Page(e, "/quotes/1"), webtest.Page(e, "/quotes/2"); strings.Contains(old, "In other words.") ||
		!strings.Contains(next, "In other words.") ||
		!strings.Contains(next, "Q-0001-2") ||
		!strings.Contains(old, "there is a newer version of it") {
		t.Error("the version that was shown is worded otherwise, or the next is not")
	}
	for code, want := range map[string]string{"q-1-2": "/quotes/2?", "Q-0001-1": "/quotes/1?", "q-1": "/quotes/2?", "I-1": ""} {
		if w := webtest.Request(e, "GET", "/find?code="+code, nil, nil); !strings.HasPrefix(w.Header().Get("Location"), want) {
			t.Errorf("%s leads to %s", code, w.Header().Get("Location"))
		}
	}
	for path, code := range map[string]int{"/quotes/99": 404, "/quotes/x": 404, "/invoices/1": 404,
		"/quotes/2/document": 200, "/invoices/table.csv": 200, "/jobs/99/bill": 404} {
		if w := webtest.Request(e, "GET", path, nil, nil); w.Code != code {
			t.Errorf("%s: %d", path, w.Code)
		}
	}
	if w := webtest.Request(e, "POST", "/machines/8/quote", url.Values{"token": {"n"}},
		webtest.SameOrigin); w.Code != http.StatusUnprocessableEntity ||
		!strings.Contains(w.Body.String(), "tick one, two or three") {
		t.Errorf("a quote of nothing: %d", w.Code)
	}
	settings := webtest.FieldsOf(t, webtest.Page(e, "/settings"), "/settings")
	settings.Set("/tax", "19,5")
	settings.Set("/pricing/fixed/4/cents", "3")
	if w := webtest.Request(e, "POST", "/settings", settings, webtest.SameOrigin); w.Code != http.StatusUnprocessableEntity ||
		!strings.Contains(w.Body.String(), "what it is for") {
		t.Errorf("a fixed line without words: %d", w.Code)
	}
	settings.Set("/pricing/fixed/4/text", "Parking")
	if w := webtest.Request(e, "POST", "/settings", settings, webtest.SameOrigin); w.Code != http.StatusSeeOther ||
		!strings.Contains(webtest.Page(e, "/settings"), `value="19.5"`) {
		t.Errorf("a tax of 19,5: %d", w.Code)
	}
}
