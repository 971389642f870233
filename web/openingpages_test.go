package web

import (
	"fmt"
	"net/http"
	"net/http/httptest"
	"net/url"
	"strings"
	"testing"

	"github.com/labstack/echo/v5"
)

// unopened takes a machine in whose model nobody has opened, begins its run, and returns the job's address.
func unopened(t *testing.T, e *echo.Echo) string {
	t.Helper()
	form := url.Values{"token": {"m"}, "text": {`model Sundrel "Teasel 14" ST14 notebook`}}
	if w := request(e, "POST", "/models/lines", form, sameOrigin); w.Code != http.StatusSeeOther {
		t.Fatalf("a model by a line: %d\n%.400s", w.Code, w.Body.String())
	}
	in := fieldsOf(t, page(e, "/machines/new?model=sundrel-teasel-14"), "/machines")
	in.Set("/customer", "Ling Foot")
	in.Set("/condition/looked", "yes")
	in.Set("/goals/memory_gb", "16")
	w := sent(t, e, "/machines", in, nil, "photo")
	job := w.Header().Get("Location")
	if w.Code != http.StatusSeeOther || !strings.HasPrefix(job, "/jobs/") {
		t.Fatalf("taken in: %d %s\n%.400s", w.Code, job, w.Body.String())
	}
	if w := request(e, "POST", job+"/run", url.Values{"token": {"begin"}, "/bench": {"2"}}, sameOrigin); w.Code != http.StatusSeeOther {
		t.Fatalf("begun: %d", w.Code)
	}
	return job
}

// TestFirstOpeningPages: without any script a first opening is a line at a time; what a line means is told
// before it is kept, what it cannot be is told with the line still there, and the last step is taken back.
func TestFirstOpeningPages(t *testing.T) {
	e, _ := application(t)
	job := unopened(t, e)
	n := 0
	line := func(text string, more ...string) *httptest.ResponseRecorder {
		n++
		form := url.Values{"client": {fmt.Sprint("c", n)}, "text": {text}}
		for i := 0; i+1 < len(more); i += 2 {
			form.Set(more[i], more[i+1])
		}
		return request(e, "POST", job+"/run/line", form, sameOrigin)
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
		{"unscrew cover 3xPH0x5", []string{"ms", "61000", "taps", `[{"X":10,"Y":10,"Group":0},{"X":20,"Y":10,"Group":0},{"X":30,"Y":10,"Group":0}]`}, 303, ""},
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
	record := request(e, "GET", "/models/sundrel-teasel-14/export", nil, nil).Body.String()
	plain := strings.NewReplacer(" ", "", "\n", "").Replace(record)
	for want, there := range map[string]bool{`"bit":"PH0"`: true, `"x_mm":30`: true, `"verb":"lift"`: false, "9999": false, "wobble": false} {
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
		return sent(t, e, job+"/run/photos", url.Values{"client": {client}, "text": {"under the lid"}}, files, "photo")
	}
	if w := photo("p0", nil); w.Code != http.StatusUnprocessableEntity || !strings.Contains(w.Body.String(), "no picture is chosen") {
		t.Errorf("no picture: %d", w.Code)
	}
	if w := photo("p1", []byte("a text")); w.Code != http.StatusUnprocessableEntity {
		t.Errorf("a text for a picture: %d", w.Code)
	}
	for range 2 {
		if w := photo("p2", pngOf(t, 40, 30)); w.Code != http.StatusSeeOther {
			t.Errorf("a picture: %d\n%.600s", w.Code, w.Body.String())
		}
	}
	if got := strings.Count(page(e, job), "under the lid"); got == 0 {
		t.Error("the picture is not on the job")
	}

	// The way back: the steps that were recorded, turned round.
	if w := request(e, "POST", job+"/run/back", url.Values{"token": {"back"}}, sameOrigin); w.Code != http.StatusSeeOther {
		t.Fatalf("turned: %d", w.Code)
	}
	if body := page(e, job+"/run"); !strings.Contains(body, `data-step="up:`) || strings.Contains(body, "data-first") {
		t.Error("the way back is not there")
	}
	if w := line("lift board"); w.Code != http.StatusUnprocessableEntity || !strings.Contains(w.Body.String(), "recorded already") {
		t.Errorf("a step after the turn: %d", w.Code)
	}
}

// TestSettlePages: what is suspected is settled as a place that is there or as nothing; a picture that is
// none, a place that is not told and somebody's change meanwhile store nothing.
func TestSettlePages(t *testing.T) {
	e, _ := application(t)
	at := "/models/quillon-block-2/suspected/third-slot"
	form := fieldsOf(t, page(e, at), at)
	post := func(files map[string][]byte, more ...string) *httptest.ResponseRecorder {
		next := url.Values{}
		for k, v := range form {
			next[k] = v
		}
		next.Set("token", fmt.Sprint("s", more))
		for i := 0; i+1 < len(more); i += 2 {
			next.Set(more[i], more[i+1])
		}
		return sent(t, e, at, next, files, "photo")
	}
	for _, c := range []struct {
		name   string
		files  map[string][]byte
		more   []string
		status int
	}{
		{"no place", nil, []string{"/as", ""}, 422},
		{"a place that is not there", nil, []string{"/as", "m2z"}, 422},
		{"no day", nil, []string{"/as", "nothing", "/on", "someday"}, 422},
		{"a text for a picture", map[string][]byte{"a.png": []byte("text")}, []string{"/as", "nothing"}, 422},
		{"nothing, with a picture", map[string][]byte{"a.png": pngOf(t, 40, 30)},
			[]string{"/as", "nothing", "/on", "2026-05-14"}, 303},
		{"from the page as it was before that", nil, []string{"/as", "nothing", "/on", "2026-05-13"}, 409},
	} {
		if w := post(c.files, c.more...); w.Code != c.status {
			t.Errorf("%s: %d, not %d\n%s", c.name, w.Code, c.status, w.Body.String())
		}
	}
	if body := page(e, at); !strings.Contains(body, "nothing: there is none") {
		t.Error("what it was settled as is not told")
	}
}
