package counter_test

import (
	"net/http"
	"strings"
	"testing"

	"yembo/web/webtest"
)

// TestComesLater: a machine is taken in that comes later, by a day, a time or without either; a day that is past is a fault at
// its field; its job offers to say that it has come, and no bench before.
func TestComesLater(t *testing.T) {
	e, _, s := webtest.Started(t)
	if page := webtest.Page(e, "/machines/new?model=quillon-aster-14"); !strings.Contains(page, `name="/comes"`) ||
		!strings.Contains(page, `name="/away"`) {
		t.Error("intake does not ask when the machine comes")
	}
	for _, x := range []struct {
		change []string
		due    string
		says   string // of the fault, "" for none
	}{
		{[]string{"/comes", "fri 10:00"}, "2026-05-15 10:00", ""}, {[]string{"/comes", "22 May"}, "2026-05-22", ""},
		{[]string{"/away", "yes"}, "", ""}, {[]string{"/comes", "2026-05-13"}, "", "that is past"},
		{[]string{"/comes", "some day"}, "", "not a time"},
	} {
		w := webtest.Request(e, "POST", "/machines", webtest.IntakeForm(x.change...), webtest.SameOrigin)
		if x.says != "" {
			if w.Code != http.StatusUnprocessableEntity || !strings.Contains(w.Body.String(), x.says) ||
				!strings.Contains(w.Body.String(), `value="`+x.change[1]+`"`) {
				t.Errorf("%v: %d, without %q", x.change, w.Code, x.says)
			}
			continue
		}
		at := w.Header().Get("Location")
		if w.Code != http.StatusSeeOther {
			t.Fatalf("%v: %d", x.change, w.Code)
		}
		rows, err := s.BenchList(t.Context())
		if err != nil {
			t.Fatal(err)
		}
		newest := rows[0]
		for _, r := range rows {
			if r.JobID > newest.JobID {
				newest = r
			}
		}
		if away := newest.Record.State.Away; away == nil || string(away.Due) != x.due {
			t.Errorf("%v: it is away as %+v", x.change, away)
		}
		page := webtest.Page(e, at)
		if !strings.Contains(page, "The machine is here") || strings.Contains(page, "Put on bench") {
			t.Errorf("%v: its job does not wait for it", x.change)
		}
	}
}
