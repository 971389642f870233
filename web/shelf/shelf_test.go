package shelf_test

import (
	"fmt"
	"net/http"
	"net/url"
	"strings"
	"testing"

	"yembo/web/webtest"
)

// TestShelfPages: parts come in by line and form, what cannot be is told at its place with what was typed,
// and what the address asks for is shown.
func TestShelfPages(t *testing.T) {
	e, _ := webtest.Application(t)
	n := 0
	post := func(path string, pairs ...string) (int, string, string) {
		n++
		form := url.Values{"token": {fmt.Sprint("t", n)}}
		for i := 0; i < len(pairs); i += 2 {
			form.Add(pairs[i], pairs[i+1])
		}
		w := webtest.Request(e, "POST", path, form, webtest.SameOrigin)
		return w.Code, w.Body.String(), w.Header().Get("Location")
	}
	for _, c := range []struct {
		name, path string
		form       []string
		status     int
		says       string
	}{
		{"a new part", "/parts/line", []string{"text", "Corvane 64GB DDR5-5600 SO-DIMM 199.00", "pieces", "2"}, 303,
			""},
		{"pieces of one that is there", "/parts/line", []string{"text", "64GB DDR5-5600 SO-DIMM", "pieces", "1"}, 303,
			""},
		{"what it means", "/parts/line", []string{"do", "look", "text", "64GB DDR5-5600 SO-DIMM"}, 200,
			"is <strong>Corvane 64 GB DDR5-5600 SO-DIMM</strong>, 3 free"},
		{"a job", "/parts/line", []string{"text", "YB-0004"}, 303, ""},
		{"another currency", "/parts/line", []string{"text", "Corvane 128GB DDR5-5600 SO-DIMM 9.00 USD"}, 422,
			"USD is another currency"},
		{"too little", "/parts/line", []string{"text", "some 4.00 thing"}, 422, "A new part"},
		{"absurd pieces", "/parts/line", []string{"text", "64GB DDR5-5600 SO-DIMM", "pieces", "99999999"}, 422,
			"from 1 to 10000"},
		{"by form", "/parts", []string{"kind", "battery", "/name", "Wexcell QB-900", "/price_cents", "99,50",
			"/battery/part_number", "QB-900",
			"/battery/design_wh", "90", "/pieces", "1", "/low", "2"}, 303, ""},
		{"a form with faults", "/parts", []string{"kind", "drive", "/name", "Bexmoor X", "/price_cents", "1.234",
			"/drive/capacity_gb", "many"}, 422,
			"can be meant in two ways"},
		{"no kind", "/parts", []string{"/name", "x"}, 422, "say what kind"},
		{"a consumable", "/parts", []string{"kind", "consumable", "/name", "thermal paste", "/uncounted", "yes"}, 303,
			""},
		{"more than there are", "/parts/cv-d4-8",
			[]string{"do", "book", "/kind", "scrapped", "/n", "99", "/why", "bent"}, 422, "99 wanted, 6 on the shelf"},
		{"kept for others", "/parts/cv-d4-32", []string{"do", "book", "/kind", "scrapped", "/n", "1", "/why", "bent"},
			422, "kept 1 for YB-0003"},
		{"no reason", "/parts/cv-d4-8", []string{"do", "book", "/kind", "scrapped", "/n", "1"}, 422, "why"},
		{"no such job", "/parts/cv-d4-8", []string{"do", "book", "/kind", "fitted", "/n", "1", "/job", "YB-9999"}, 422,
			"job on record"},
		{"retired while chosen", "/parts/cv-d4-32", []string{"do", "retire", "version", "1"}, 422, "has it chosen"},
		{"a stale count", "/parts/count", []string{"/count/cv-d4-8", "5", "seen:/count/cv-d4-8", "9", "/reason", "x"},
			422, "count this one again"},
		{"no reason to differ", "/parts/count", []string{"/count/cv-d4-8", "5", "seen:/count/cv-d4-8", "6"}, 422,
			"why the shelf differs"},
		{"nothing counted", "/parts/count", nil, 422, "nothing was counted"},
		{"counted", "/parts/count", []string{"/count/cv-d4-8", "5", "seen:/count/cv-d4-8", "6", "/reason",
			"one was bent"}, 303, ""},
		{"no supplier", "/orders", []string{"line", "cv-d4-8", "/n/cv-d4-8", "1"}, 422, "choose whom to order from"},
		{"no day", "/orders", []string{"supplier", "1", "group", "1", "line", "cv-d4-8", "/n/cv-d4-8", "1", "/expected",
			"someday"}, 422, "not a time"},
		{"ordered", "/orders", []string{"supplier", "1", "line", "cv-d5-16", "/n/cv-d5-16", "2", "/price/cv-d5-16",
			"48,90"}, 303, ""},
		{"ordered by someone else meanwhile", "/orders",
			[]string{"supplier", "1", "line", "cv-d5-16", "/n/cv-d5-16", "2"}, 422, "look again"},
		{"with another part at a price that is none", "/orders", []string{"supplier", "1", "group", "1", "more", "cv-d5-16",
			"/moreprice", "dear"}, 422, "dear"},
		{"scanned", "/orders/3", []string{"do", "scan", "scan", "16GB DDR5-4800 SO-DIMM"}, 303, ""},
		{"nothing of this order", "/orders/3", []string{"do", "scan", "scan", "QB-760"}, 422,
			"nothing that this order still waits for"},
		{"more than ordered", "/orders/3", []string{"version", "2", "/n/3", "9"}, 422, "which are still to come"},
		{"the rest never comes", "/orders/3", []string{"version", "2", "/gone/3", "1"}, 303, ""},
		{"a supplier", "/suppliers", []string{"/name", "Dunmoor Parts", "/closes", "2pm"}, 422, "a time such as 14:00"},
		{"to find", "/machines/wath-07/find", []string{"kind", "battery", "wanted", "PB-90", "gives", "90 Wh", "doubt",
			"the seller is not sure"}, 303, ""},
		{"brought", "/machines/wath-07/brings", []string{"/brings", "8GB DDR4-3200 SO-DIMM"}, 303, ""},
		{"brought, not understood", "/machines/wath-07/brings", []string{"/brings", "a thing"}, 422, "a thing"},
		{"no such part", "/parts/nothing", []string{"do", "retire", "version", "1"}, 404, "Not found"},
	} {
		status, body, to := post(c.path, c.form...)
		if status != c.status || c.says != "" && !strings.Contains(body, c.says) {
			t.Errorf("%s: %d %s, not %d with %q\n%.2000s", c.name, status, to, c.status, c.says, body)
		}
		if status == http.StatusUnprocessableEntity && strings.HasSuffix(c.path, "/line") &&
			!strings.Contains(body, c.form[1]) {
			t.Errorf("%s: what was typed is gone", c.name)
		}
	}
	for path, says := range map[string]string{
		"/parts?q=64+GB":         "Corvane 64 GB DDR5-5600",
		"/parts?show=low":        "Wexcell QB-900",
		"/parts?show=unfit":      "Corvane 16 GB DDR4-2666 DIMM",
		"/parts?show=brought":    "brought-",
		"/parts?sort=price&q=gb": "Sorted",
		"/parts?q=YB-0004":       "Corvane 16 GB DDR5-4800",
		"/parts?show=retired":    "No parts match",
		"/parts":                 "the seller is not sure",
		"/parts/movements":       "one was bent",
		"/parts/movements.csv":   "one was bent",
		"/parts/export":          `"format": "yembo.parts/1"`,
		"/parts/export.csv":      "Wexcell QB-900",
		"/orders":                "ordered 14 May 26",
		"/orders/3/table.csv":    "48.90",
		"/machines/wath-07":      "for this machine only",
		"/machines/wath-05":      "The customer's own part",
		"/find?code=QB-900":      "",
		"/orders/99":             "Not found",
		"/orders/new":            "a customer pays",
	} {
		w := webtest.Request(e, "GET", path, nil, nil)
		if w.Code >= 500 || !strings.Contains(w.Body.String(), says) {
			t.Errorf("%s: %d, it does not say %q", path, w.Code, says)
		}
	}
	if strings.Contains(webtest.Page(e, "/machines/wath-05"), "for this machine only") {
		t.Error("what one customer brings is in another's plan")
	}
}

// TestTwoEditParts: the second to save a part is shown what the first changed.
func TestTwoEditParts(t *testing.T) {
	e, _ := webtest.Application(t)
	opened := webtest.FormValues(webtest.Page(e, "/parts/cv-d4-8"))
	opened.Set("do", "save")
	mine, theirs := url.Values{}, url.Values{}
	for name, v := range opened {
		mine[name], theirs[name] = append([]string{}, v...), append([]string{}, v...)
	}
	theirs.Set("/price_cents", "21.90")
	theirs.Set("token", "theirs")
	mine.Set("/note", "good ones")
	mine.Set("token", "mine")
	if w := webtest.Request(e, "POST", "/parts/cv-d4-8", theirs, webtest.SameOrigin); w.Code != http.StatusSeeOther {
		t.Fatalf("%d %.600s", w.Code, w.Body)
	}
	w := webtest.Request(e, "POST", "/parts/cv-d4-8", mine, webtest.SameOrigin)
	if w.Code != http.StatusConflict || !strings.Contains(w.Body.String(), "21.90") {
		t.Errorf("%d: the price that the other changed is not shown", w.Code)
	}
}
