package week_test

import (
	"encoding/json"
	"net/http"
	"net/url"
	"regexp"
	"strings"
	"testing"

	"yembo/web/webtest"
)

// jobsOf finds the jobs that may be moved, by the addresses of the drawing.
var jobsOf = regexp.MustCompile(`data-job="(\d+)"[^>]*data-seen="(\d+)"`)

// TestWeekPage: what cannot be is told at its field with what was typed; a form that another has overtaken changes nothing; what
// is no job, no time and no week is no fault of the server's; a try keeps nothing.
func TestWeekPage(t *testing.T) {
	e, _ := webtest.Application(t)
	found := jobsOf.FindStringSubmatch(strings.ReplaceAll(webtest.Page(e, "/week"), "\n", " "))
	if found == nil {
		t.Fatal("no job of the demo can be moved")
	}
	job := found[1]
	send := func(path string, change ...string) (int, string) {
		form := url.Values{"job": {job}, "seen": {"0"}, "/bench": {"1"}, "/start": {"fri 10:00"},
			"at": {"2026-05-14"}, "day": {"2026-05-14"}}
		return webtest.SendForm(e, path, webtest.With(form, change...))
	}
	for _, c := range []struct {
		change []string
		status int
		says   string
	}{
		{[]string{"/start", "some time"}, http.StatusUnprocessableEntity, "not a time; use"},
		{[]string{"/start", "sun 10:00"}, http.StatusUnprocessableEntity, `value="sun 10:00"`},
		{[]string{"/start", "yesterday"}, http.StatusUnprocessableEntity, "not a time; use"},
		{[]string{"/bench", "7"}, http.StatusUnprocessableEntity, "bench 1 to 2"},
		{[]string{"seen", "12"}, http.StatusConflict, "Nothing was changed"},
		{[]string{"job", "x"}, http.StatusBadRequest, ""},
		{[]string{"job", "4711"}, http.StatusUnprocessableEntity, ""},
		{[]string{"seen", "x"}, http.StatusBadRequest, ""},
	} {
		if status, body := send("/week/move", c.change...); status != c.status || !strings.Contains(body, c.says) {
			t.Errorf("%v: %d, without %q", c.change, status, c.says)
		}
	}
	if page := webtest.Page(e, "/week?job="+job); strings.Contains(page, "Kept there") {
		t.Error("what was refused is kept")
	}
	for query, status := range map[string]int{
		"job=" + job + "&bench=2&start=2026-05-15T10:00:00Z": http.StatusOK,
		"job=" + job + "&bench=2&start=tomorrow":             http.StatusBadRequest,
		"job=x&bench=2&start=2026-05-15T10:00:00Z":           http.StatusBadRequest,
	} {
		w := webtest.Request(e, http.MethodGet, "/week/try?"+query, nil, webtest.SameOrigin)
		if w.Code != status {
			t.Errorf("trying %s: %d", query, w.Code)
		}
		var told struct {
			Says   string
			Stands bool
		}
		if status == http.StatusOK && (json.Unmarshal(w.Body.Bytes(), &told) != nil || !told.Stands ||
			told.Says != "on bench 2, Fri 15 May 10:00, wath-05 late by 4 h 32 min") {
			t.Errorf("trying says %s", w.Body.String())
		}
	}
	for _, path := range []string{"/week?at=x", "/week?at=9999-01-01", "/week?job=x&day=y", "/week?at=2026-05-16"} {
		if page := webtest.Page(e, path); !strings.Contains(page, "Week of ") {
			t.Errorf("%s shows no week", path)
		}
	}
	if w := webtest.Request(e, http.MethodGet, "/feed/0123.ics", nil, webtest.SameOrigin); w.Code != http.StatusNotFound {
		t.Errorf("an address that is none: %d", w.Code)
	}
	if status, body := webtest.SendForm(e, "/jobs/"+job+"/when", url.Values{"/promise": {"soon"}}); status != 422 ||
		!strings.Contains(body, "not a time") {
		t.Errorf("a promise that is no time: %d", status)
	}
}
