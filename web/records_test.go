package web

import (
	"net/http"
	"net/url"
	"strings"
	"testing"
)

// TestRecordForms sends what people get wrong to the forms of a model record: each is
// answered at its place, keeps what was typed, and stores nothing.
func TestRecordForms(t *testing.T) {
	e, _, sh := started(t)
	const at = "/models/quillon-aster-14"
	version := func() int {
		r, err := sh.Model(t.Context(), "quillon-aster-14")
		if err != nil {
			t.Fatal(err)
		}
		return r.Version
	}
	finding := func(change ...string) url.Values {
		return with(url.Values{"version": {"1"}, "path": {"/slots/m2a/lanes"}, "value": {"2"}, "source": {"reading"},
			"on": {"2026-05-02"}}, change...)
	}
	place := func(change ...string) url.Values {
		return with(url.Values{"version": {"1"}, "/slots/m2a/at/x_mm": {"15"}, "/slots/m2a/at/y_mm": {"12"},
			"/slots/m2a/at/w_mm": {"22"}, "/slots/m2a/at/h_mm": {"80"}, "/slots/m2a/at/turn_deg": {"0"}}, change...)
	}
	for _, c := range []struct {
		name, path string
		form       url.Values
		want       int
		says       string
	}{
		{"no value", at + "/findings/add", finding("value", ""), 422, "what was found"},
		{"a value of another kind", at + "/findings/add", finding("value", "four"), 422, "&#34;four&#34;"},
		{"no source", at + "/findings/add", finding("source", ""), 422, "how it is known"},
		{"a source that is none", at + "/findings/add", finding("source", "hearsay"), 422, "hearsay"},
		{"a date that is none", at + "/findings/add", finding("on", "2026-02-31"), 422, `value="2026-02-31"`},
		{"lanes that no slot has", at + "/findings/add", finding("value", "-4"), 422, `value="-4"`},
		{"a fact that is not there", at + "/findings/add", finding("path", "/slots/m2q/lanes"), 404, ""},
		{"an older record", at + "/findings/add", finding("version", "0"), 409, "Someone else changed the record"},
		{"a length without its fixing", at + "/findings/add", finding("path", "/slots/m2a/lengths", "value", "80"), 422,
			"how it is held"},
		{"a yes that is none", at + "/findings/add",
			finding("path", "/steps/battery-plug/isolates_power", "value", "maybe"), 404, ""},
		{"set aside without a reason", at + "/findings",
			url.Values{"version": {"1"}, "finding": {"0"}, "reason": {" "}}, 422, "reason"},
		{"set aside what is not there", at + "/findings",
			url.Values{"version": {"1"}, "finding": {"900"}, "reason": {"misread"}}, 422, ""},
		{"set aside of an older record", at + "/findings",
			url.Values{"version": {"0"}, "finding": {"0"}, "reason": {"misread"}}, 409, "Someone else"},
		{"a copy of the same name", at + "/copy",
			url.Values{"/id": {"quillon-aster-14"}, "/maker": {"Quillon"}, "/model": {"Aster 14"}}, 422,
			"another model has it"},
		{"a copy without a name", at + "/copy", url.Values{"/id": {""}, "/maker": {"Quillon"}, "/model": {""}}, 422,
			""},
		{"restore nothing", at + "/restore", url.Values{"version": {"1"}, "change": {"-1"}}, 404, ""},
		{"a place beside the metre", at + "/arrange", place("/slots/m2a/at/x_mm", "4000"), 422, "-500 to 1000 mm"},
		{"a place without width", at + "/arrange", place("/slots/m2a/at/w_mm", ""), 422, "the number"},
		{"a place in words", at + "/arrange", place("/slots/m2a/at/y_mm", "left"), 422, `value="left"`},
		{"a place turned a little", at + "/arrange", place("/slots/m2a/at/turn_deg", "45"), 422, `class="fault"`},
		{"a place of an older record", at + "/arrange", place("version", "0"), 404, ""},
		{"what overlaps is only told", at + "/arrange",
			place("do", "look", "/slots/m2a/at/x_mm", "200", "/slots/m2a/at/y_mm", "150"), 200, ""},
	} {
		w := request(e, "POST", c.path, c.form, sameOrigin)
		if w.Code != c.want || !strings.Contains(w.Body.String(), c.says) {
			t.Errorf("%s: %d without %q", c.name, w.Code, c.says)
		}
	}
	if version() != 1 {
		t.Fatalf("something of it was stored: version %d", version())
	}
	// The same forms, right: each is one change.
	for i, c := range []struct {
		path string
		form url.Values
		says string // on the page of findings then
	}{
		{at + "/findings/add", finding(), "m2a, lanes"},
		{at + "/findings/add", finding("version", "2", "path", "/memory/limits/maker_gb", "value", "24,0", "source",
			"label"), "24"},
		{at + "/arrange", place("version", "3", "/slots/m2a/at/x_mm", "16"), ""},
		{at + "/findings", url.Values{"version": {"4"}, "finding": {"30"}, "reason": {"a slip of the pen"}},
			"a slip of the pen"},
	} {
		w := request(e, "POST", c.path, c.form, sameOrigin)
		if w.Code != http.StatusSeeOther || version() != i+2 || !strings.Contains(page(e, at+"/findings"), c.says) {
			t.Errorf("%s %v: %d, version %d", c.path, c.form, w.Code, version())
		}
	}
}

// with changes fields of a form: names and values by turns.
func with(form url.Values, change ...string) url.Values {
	for i := 0; i+1 < len(change); i += 2 {
		form.Set(change[i], change[i+1])
	}
	return form
}

// TestDraw: a mean that was read off a meter is kept under its profile, and runtimes follow;
// a mean that cannot be, or a measurement of another machine, is not.
func TestDraw(t *testing.T) {
	e, _, sh := started(t)
	const at = "/machines/tarn-vet-03/draw"
	for name, form := range map[string]url.Values{
		"nothing measured":           {"/profile": {"office"}},
		"of no measurement":          {"/profile": {"office"}, "trace": {"of-nobody"}},
		"no profile":                 {"/mean": {"8"}, "/seconds": {"90"}, "/profile": {""}},
		"in words":                   {"/mean": {"eight"}, "/seconds": {"90"}, "/profile": {"office"}},
		"below zero":                 {"/mean": {"-8"}, "/seconds": {"90"}, "/profile": {"office"}},
		"a profile of a whole novel": {"/mean": {"8"}, "/seconds": {"90"}, "/profile": {strings.Repeat("x", 5000)}},
	} {
		if w := request(e, "POST", at, form, sameOrigin); w.Code != http.StatusUnprocessableEntity {
			t.Errorf("%s: %d", name, w.Code)
		}
	}
	if w := request(e, "POST", at,
		url.Values{"/mean": {"10,0"}, "/seconds": {"90"}, "/profile": {"film, full brightness"}},
		sameOrigin); w.Code != http.StatusSeeOther {
		t.Fatalf("10 W: %d", w.Code)
	}
	if body := page(e, at); !strings.Contains(body, "10 W (film, full brightness)") ||
		!strings.Contains(body, "0.95 × 39.2 Wh when full ÷ 10 W = 3.7 h") {
		t.Error("the draw does not stand on its page with what follows")
	}
	m, err := sh.Machine(t.Context(), "tarn-vet-03")
	if err != nil || m.Machine.Usage.DrawW.Or(0).String() != "10" || m.Machine.Usage.RuntimeH.IsKnown() {
		t.Errorf("kept %+v %v: a runtime measured another way is not comparable any more", m.Machine.Usage, err)
	}
}

// TestMatPages: all screws or a job's, on either paper, on one sheet or at true size.
func TestMatPages(t *testing.T) {
	e, _ := application(t)
	const at = "/models/marrowby-osier-14/mat"
	for query, want := range map[string][]string{
		"":                         {"Sheet 1 of 1", "50 mm"},
		"?paper=letter":            {"Outline ", "Sheet 1 of 1"},
		"?scale=1":                 {"1 : 1, lay cross on cross. Row 1, column 1. Sheet 1 of ", "Row 2, column 1"},
		"?t=m2a":                   {"screws for m2a"},
		"?t=nothing":               {"all 31 screws"},
		"?paper=papyrus&scale=one": {"Sheet 1 of 1"},
	} {
		body := page(e, at+query)
		for _, says := range want {
			if !strings.Contains(body, says) {
				t.Errorf("%q does not say %q", query, says)
			}
		}
	}
	if strings.Contains(page(e, at+"?t=m2a"), "board-screw") {
		t.Error("the mat of one place has the screws of the board")
	}
	w := request(e, "GET", "/models/marrowby-osier-14/mat.svg", nil, nil)
	if w.Code != http.StatusOK || !strings.HasPrefix(w.Body.String(), "<?xml") || !strings.Contains(w.Body.String(), `mm"`) || strings.Contains(w.Body.String(), "<script") {
		t.Errorf("the file: %d %.80s", w.Code, w.Body.String())
	}
}
