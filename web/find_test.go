package web_test

import (
	"net/http"
	"net/url"
	"strings"
	"testing"

	"yembo/web/webtest"
)

// TestFind: a machine is taken in by its model's code, a sibling's code, its name, or by
// the serial of one that was here; where one alone fits, its form comes at once.
func TestFind(t *testing.T) {
	e, _ := webtest.Application(t)
	for query, want := range map[string]string{
		"QA14-2": "/machines/new?model=quillon-aster-14", "qa14-2": "/machines/new?model=quillon-aster-14",
		"QA14-3": "/machines/new?model=quillon-aster-14", "drover": "! Machines seen before",
		"PD15-22071": "/machines/new?model=pellam-drover-15&machine=2",
		"wath-11":    "/machines/new?model=sundrel-fennel-15&machine=3", "quillon": "! Models found",
		"heron": "! Nothing has “heron”", "": "! Models on record",
	} {
		w := webtest.Request(e, "GET", "/machines/new?q="+url.QueryEscape(query), nil, nil)
		if says, page := strings.CutPrefix(want, "! "); page {
			if w.Code != http.StatusOK || !strings.Contains(w.Body.String(), says) {
				t.Errorf("%q: %d, want %q", query, w.Code, says)
			}
		} else if w.Header().Get("Location") != want {
			t.Errorf("%q leads to %s, want %s", query, w.Header().Get("Location"), want)
		}
	}
	if body := webtest.Page(e, "/machines/new?model=pellam-drover-15&machine=2"); !strings.Contains(body,
		`value="PD15-22071"`) || !strings.Contains(body, `value="Wath River Ferries"`) {
		t.Error("what is known of a machine is not in its form")
	}
}
