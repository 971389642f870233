package record_test

import (
	"net/http"
	"net/url"
	"strings"
	"testing"

	"yembo/web/webtest"
)

// TestCompareModels: three models for one question, each with its grade as a sum, what the wish costs, and which of them;
// the shop's own weights change it, and a model that is not there is told.
func TestCompareModels(t *testing.T) {
	e, _ := webtest.Application(t)
	for text, id := range map[string]string{"model Quillon \"Plover 13\"\nram 1x sodimm a ddr4 2ch": "plover",
		"model Quillon \"Plover 14\"\nram 32 sold a ddr4-3200 2ch\nnone sockets\nlimit maker32": "soldered"} {
		lines := url.Values{"token": {id}, "text": {text}, "source": {"bench"}}
		if w := webtest.Request(e, "POST", "/models/lines", lines, webtest.SameOrigin); w.Code != http.StatusSeeOther {
			t.Fatalf("%d %.300s", w.Code, w.Body)
		}
	}
	const three = "/models/compare?m=Marrowby+Osier+14&m=sundrel-fennel-15&m=Marrowby+Reedmace+13"
	for path, want := range map[string][]string{
		three: {"Marrowby Osier 14</p>", "Marrowby Osier 14 83 of 100; Sundrel Fennel 15 57 of 100; Marrowby Reedmace 13 68 of 100.",
			"8 × 3", "maker's limit 24 GB", "lanes is disputed"},
		three + "&memory_gb=32&storage_gb=1000": {"Sundrel Fennel 15</p>", "€186.34", "which does not get to 32 GB memory"},
		"/models/compare?m=Marrowby+Osier+14":   {"Marrowby Osier 14: 83 of 100"},
		// What nobody told is not known, in the grade and in the answer; what is soldered may be enough.
		"/models/compare?m=quillon-plover-13&memory_gb=32": {"Not known whether Quillon Plover 13 gets to 32 GB memory",
			"Not known.", "0</strong> to 100 of 100", "place dotted"},
		"/models/compare?m=Quillon+Plover+14&m=Marrowby+Osier+14&memory_gb=16": {"Quillon Plover 14</p>",
			"with 16 GB memory as it comes",
			"Enough as it comes."},
		"/models/compare?m=Marrowby+Osier+14&m=Nobody": {"There is no record of Nobody"},
		"/models/compare":                {"Choose one to three models"},
		"/models/compare?memory_gb=lots": {"lots"},
	} {
		body := strings.ReplaceAll(webtest.Page(e, path), "&#39;", "'")
		for _, w := range want {
			if !strings.Contains(body, w) {
				t.Errorf("%s does not say %q", path, w)
			}
		}
	}
	save := func(weight string) int {
		form := webtest.FieldsOf(t, webtest.Page(e, "/settings"), "/settings")
		form.Set("/grade/memory", weight)
		form.Set("token", weight)
		code, _ := webtest.SendForm(e, "/settings", form)
		return code
	}
	if code := save("99"); code != http.StatusUnprocessableEntity {
		t.Errorf("a weight of 99: %d", code)
	}
	if code := save("0"); code != http.StatusSeeOther ||
		!strings.Contains(webtest.Page(e, "/models/compare?m="+url.QueryEscape("Marrowby Reedmace 13")), "97 of 100") {
		t.Errorf("memory counts nothing in this shop: %d", code)
	}
}
