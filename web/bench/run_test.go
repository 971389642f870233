package bench_test

import (
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"net/http/httptest"
	"net/url"
	"strings"
	"testing"

	"github.com/labstack/echo/v5"

	"yembo/web/bench"
	"yembo/web/webtest"
)

// synced posts what a bench page sends.
func synced(e *echo.Echo, path, body string, change func(*http.Request)) (int, bench.RunState) {
	r := httptest.NewRequest("POST", "http://localhost"+path, strings.NewReader(body))
	r.Header.Set("Content-Type", "application/json")
	change(r)
	w := httptest.NewRecorder()
	e.ServeHTTP(w, r)
	var st bench.RunState
	raw, _ := io.ReadAll(w.Body)
	_ = json.Unmarshal(raw, &st)
	return w.Code, st
}

// TestRunPage: a run works without any script, one form a step; what is refused comes back with its
// reason; the page of 32 steps weighs 250 KB at most, and its events are the page's own.
func TestRunPage(t *testing.T) {
	e, _ := webtest.Application(t)
	send := func(path string, form url.Values) *httptest.ResponseRecorder {
		return webtest.Request(e, "POST", path, form, webtest.SameOrigin)
	}
	if w := send("/jobs/14/run", url.Values{"token": {"a"}, "/bench": {"2"}, "/why": {"tried"}}); w.Code != http.StatusSeeOther {
		t.Fatalf("begin: %d", w.Code)
	}
	if w := webtest.Request(e, "GET", "/jobs/14/run", nil, nil); w.Body.Len() > 250<<10 ||
		strings.Count(w.Body.String(), ` data-step="`) != 32 {
		t.Errorf("the page has %d steps in %d bytes", strings.Count(w.Body.String(), ` data-step="`), w.Body.Len())
	}
	event := func(n int, kind, step string, more ...string) *httptest.ResponseRecorder {
		form := url.Values{"client": {fmt.Sprint("e", n)}, "kind": {kind}, "step": {step}}
		for i := 0; i < len(more); i += 2 {
			form.Set(more[i], more[i+1])
		}
		return send("/jobs/14/run/event", form)
	}
	for i, c := range []struct {
		kind, step string
		more       []string
		want       int
		says       string
	}{
		{"tick", "down:power-off", nil, 303, ""},
		{"tick", "up:cover-screws", nil, 422, "Look at the pack first"},
		{"tick", "down:moon", nil, 422, "not in the run any more"},
		{"note", "", []string{"text", ""}, 422, "the note is empty"},
		{"note", "", []string{"text", "<b>loud</b> fan"}, 303, ""},
		{"otherwise", "down:cover-screws", []string{"what", "count", "group", "cover-a", "n", "many"}, 422, "many"},
		{"fact", "", []string{"path", "/slots/m2b/max_bottom_mm", "value", "1,5"}, 303, ""},
		{"fact", "", []string{"path", "/slots/m2b/max_bottom_mm", "value", "wide"}, 422, "wide"},
		{"fact", "", []string{"path", "/secret", "value", "1"}, 422, "say what was found"},
		{"undo", "down:power-off", nil, 303, ""},
	} {
		w := event(i, c.kind, c.step, c.more...)
		if w.Code != c.want || !strings.Contains(w.Body.String(), c.says) {
			t.Errorf("%s %s %v: %d, not %d %q", c.kind, c.step, c.more, w.Code, c.want, c.says)
		}
	}
	page := webtest.Request(e, "GET", "/jobs/14/run", nil, nil).Body.String()
	if !strings.Contains(page, "&lt;b&gt;loud&lt;/b&gt; fan") || strings.Contains(page, `data-ask="/slots/m2b/max_bottom_mm"`) {
		t.Error("the note or the fact that was found is not as it should be on the page")
	}

	tick := `{"events":[{"client":"s1","ago":90000,"by":"Nobody","fields":{"kind":"tick","step":"down:power-off"}},
{"client":"s2","fields":{"kind":"tick","step":"up:power-off"}}]}`
	if code, _ := synced(e, "/jobs/14/run/sync", tick, func(r *http.Request) {
		r.Header.Set("Sec-Fetch-Site",
			"cross-site")
	}); code != http.StatusForbidden {
		t.Errorf("from another site it is answered with %d", code)
	}
	code, st := synced(e, "/jobs/14/run/sync", tick, webtest.SameOrigin)
	if code != 200 || st.Done["down:power-off"].By != "R. Okell" || len(st.Refused["s2"]) == 0 || len(st.Refused["s1"]) > 0 {
		t.Errorf("%d %+v", code, st)
	}
	for _, bad := range []string{`{`, `{"events":[{"fields":3}]}`, ``} {
		if code, _ := synced(e, "/jobs/14/run/sync", bad, webtest.SameOrigin); code != http.StatusBadRequest {
			t.Errorf("%q is answered with %d", bad, code)
		}
	}
	if code, _ := synced(e, "/jobs/99/run/sync", tick, webtest.SameOrigin); code != http.StatusNotFound {
		t.Errorf("a job that is not there: %d", code)
	}
	if w := webtest.Request(e, "GET", "/jobs/14/run/news?after=0", nil, nil); w.Code != 200 ||
		!strings.Contains(w.Body.String(), `"shape"`) {
		t.Errorf("news: %d", w.Code)
	}
}

// BenchmarkTick is a tick and its undoing, each through the whole server.
func BenchmarkTick(b *testing.B) {
	e, _, _ := webtest.Started(b)
	post := func(path string, form url.Values) int {
		return webtest.Raw(e, "POST", path, form, webtest.SameOrigin).Code
	}
	if code := post("/jobs/14/run", url.Values{"token": {"a"}, "/bench": {"2"}, "/why": {"tried"}}); code != http.StatusSeeOther {
		b.Fatal(code)
	}
	kinds := []string{"tick", "undo"}
	n := 0
	for b.Loop() {
		n++
		body := fmt.Sprintf(`{"events":[{"client":"b%d","fields":{"kind":%q,"step":"down:power-off"}}]}`, n, kinds[n%2])
		if code, _ := synced(e, "/jobs/14/run/sync", body, webtest.SameOrigin); code != http.StatusOK {
			b.Fatal(code)
		}
	}
}
