package bench_test

import (
	"fmt"
	"net/http"
	"net/http/httptest"
	"net/url"
	"strings"
	"testing"

	"github.com/labstack/echo/v5"

	"yembo/web/webtest"
)

// unopened takes a machine in whose model nobody has opened, begins its run, and returns the job's address.
func unopened(t *testing.T, e *echo.Echo) string {
	t.Helper()
	form := url.Values{"token": {"m"}, "text": {`model Sundrel "Teasel 14" ST14 notebook`}}
	if w := webtest.Request(e, "POST", "/models/lines", form, webtest.SameOrigin); w.Code != http.StatusSeeOther {
		t.Fatalf("a model by a line: %d\n%.400s", w.Code, w.Body.String())
	}
	in := webtest.FieldsOf(t, webtest.Page(e, "/machines/new?model=sundrel-teasel-14"), "/machines")
	in.Set("/customer", "Ling Foot")
	in.Set("/condition/looked", "yes")
	in.Set("/goals/memory_gb", "16")
	w := webtest.Sent(t, e, "/machines", in, nil, "photo")
	job := w.Header().Get("Location")
	if w.Code != http.StatusSeeOther || !strings.HasPrefix(job, "/jobs/") {
		t.Fatalf("taken in: %d %s\n%.400s", w.Code, job, w.Body.String())
	}
	if w := webtest.Request(e, "POST", job+"/run", url.Values{"token": {"begin"}, "/bench": {"2"}},
		webtest.SameOrigin); w.Code != http.StatusSeeOther {
		t.Fatalf("begun: %d", w.Code)
	}
	return job
}

// TestFirstOpeningPages: without any script a first opening is a line at a time; what a line means is told
// before it is kept, what it cannot be is told with the line still there, and the last step is taken back.
func TestFirstOpeningPages(t *testing.T) {
	e, _ := webtest.Application(t)
	job := unopened(t, e)
	n := 0
	line := func(text string, more ...string) *httptest.ResponseRecorder {
		n++
		form := url.Values{"client": {fmt.Sprint("c", n)}, "text": {text}}
		for i := 0; i+1 < len(more); i += 2 {
			form.Set(more[i], more[i+1])
		}
		return webtest.Request(e, "POST", job+"/run/line", form, webtest.SameOrigin)
	}
	for _, c := range []struct {
		text   string
		more   []string
		status int
		says   string
	}{
		{"unscrew cover 3xPH0x5", []string{"do", "look"}, 200, "PH0"},
		{"", []string{"do", "undo"}, 422, "no step is recorded yet"},
		{"power-down", nil, 303, ""},
		{"unscrew cover 3xPH0x5", []string{"ms", "61000", "taps",
			`[{"X":10,"Y":10,"Group":0},{"X":20,"Y":10,"Group":0},{"X":30,"Y":10,"Group":0}]`}, 303, ""},
		{"unscrew lid 3xPH0x5", []string{"taps", `[{"X":"left"`}, 303, ""}, // taps that cannot be read are no screws
		{"wobble cover", nil, 422, "wobble"},
		{"m2a 9999* nvme", nil, 422, "9999"},
		{"", []string{"do", "open", "line", "lift lid"}, 303, ""},
		{"", []string{"do", "undo"}, 303, ""},
	} {
		if w := line(c.text, c.more...); w.Code != c.status || !strings.Contains(w.Body.String(), c.says) {
			t.Errorf("%q %v: %d, not %d with %q\n%.600s", c.text, c.more, w.Code, c.status, c.says, w.Body.String())
		}
	}
	record := webtest.Request(e, "GET", "/models/sundrel-teasel-14/export", nil, nil).Body.String()
	plain := strings.NewReplacer(" ", "", "\n", "").Replace(record)
	for want, there := range map[string]bool{`"bit":"PH0"`: true, `"x_mm":30`: true, `"verb":"lift"`: false, "9999": false,
		"wobble": false} {
		if strings.Contains(plain, want) != there {
			t.Errorf("the record has %s: %v, not %v", want, !there, there)
		}
	}

	// A picture at the bench: none, one that is none, and one that came twice.
	photo := func(client string, data []byte) *httptest.ResponseRecorder {
		files := map[string][]byte{}
		if data != nil {
			files["a.png"] = data
		}
		return webtest.Sent(t, e, job+"/run/photos", url.Values{"client": {client}, "text": {"under the lid"}}, files, "photo")
	}
	if w := photo("p0", nil); w.Code != http.StatusUnprocessableEntity ||
		!strings.Contains(w.Body.String(), "no picture is chosen") {
		t.Errorf("no picture: %d", w.Code)
	}
	if w := photo("p1", []byte("a text")); w.Code != http.StatusUnprocessableEntity {
		t.Errorf("a text for a picture: %d", w.Code)
	}
	for range 2 {
		if w := photo("p2", webtest.PNGOf(t, 40, 30)); w.Code != http.StatusSeeOther {
			t.Errorf("a picture: %d\n%.600s", w.Code, w.Body.String())
		}
	}
	if got := strings.Count(webtest.Page(e, job), "under the lid"); got == 0 {
		t.Error("the picture is not on the job")
	}

	// The way back: the steps that were recorded, turned round.
	if w := webtest.Request(e, "POST", job+"/run/back", url.Values{"token": {"back"}},
		webtest.SameOrigin); w.Code != http.StatusSeeOther {
		t.Fatalf("turned: %d", w.Code)
	}
	if body := webtest.Page(e, job+"/run"); !strings.Contains(body, `data-step="up:`) || strings.Contains(body, "data-first") {
		t.Error("the way back is not there")
	}
	if w := line("lift board"); w.Code != http.StatusUnprocessableEntity || !strings.Contains(w.Body.String(), "recorded already") {
		t.Errorf("a step after the turn: %d", w.Code)
	}
}
