package counter_test

import (
	"fmt"
	"log/slog"
	"net/http"
	"net/url"
	"regexp"
	"strings"
	"testing"

	"yembo/shop/base"

	"yembo/web"
	"yembo/web/kit"
	"yembo/web/webtest"
)

// TestCustomerPages: a name that is another's is refused at its field, merging and
// forgetting ask before they do what cannot be undone.
func TestCustomerPages(t *testing.T) {
	e, _ := webtest.Application(t)
	for _, step := range []struct {
		form url.Values
		code int
		says string
	}{
		{url.Values{"/customer": {"Wath River Ferries"}}, 422, "another customer has this name"},
		{url.Values{"/customer": {""}}, 422, "the customer's name is missing"},
		{url.Values{"/customer": {"Tarn Vets"}, "/contact": {"desk"}}, 303, "Tarn Vets"},
		{url.Values{"do": {"merge"}}, 422, "name the customer that stays"},
		{url.Values{"do": {"merge"}, "/into": {"Nobody"}}, 422, "name the customer that stays"},
		{url.Values{"do": {"merge"}, "/into": {"Tarn Vets"}}, 422, "cannot be merged with itself"},
		{url.Values{"do": {"forget"}}, 422, "tick that it is wanted"},
		{url.Values{"do": {"forget"}, "/sure": {"yes"}}, 303, "(removed on request) 1"},
	} {
		w := webtest.Request(e, "POST", "/customers/1", step.form, webtest.SameOrigin)
		body := strings.ReplaceAll(w.Body.String(), "&#39;", "'")
		if w.Code == http.StatusSeeOther {
			body = webtest.Page(e, w.Header().Get("Location"))
		}
		if w.Code != step.code || !strings.Contains(body, step.says) {
			t.Errorf("%v: %d, want %d and %q", step.form, w.Code, step.code, step.says)
		}
	}
	// The machines stay, and neither their tags nor their addresses say whose they were.
	if body := webtest.Page(e, "/machines"); !strings.Contains(body, ">machine-1<") || strings.Contains(strings.ToLower(body),
		"tarn") {
		t.Error("the machine went with its customer, or the name stayed")
	}
}

// TestCorrectNothing: the form of every demo machine and job, sent as it came, changes nothing.
func TestCorrectNothing(t *testing.T) {
	e, _ := webtest.Application(t)
	for i := range 14 {
		for _, page := range []string{"/machines/%d/correct", "/jobs/%d/correct"} {
			path := fmt.Sprintf(page, i+1)
			w := webtest.Request(e, "GET", path, nil, nil)
			if code, body := webtest.SendForm(e, path, webtest.FieldsOf(t, w.Body.String(), path)); code != http.StatusSeeOther {
				t.Errorf("%s as it came: %d %.200s", path, code, body)
			}
		}
		if body := webtest.Request(e, "GET", fmt.Sprintf("/machines/%d/history", i+1), nil, nil).Body.String(); strings.Contains(
			body,
			"corrected: ",
		) {
			_, what, _ := strings.Cut(body, "corrected: ")
			t.Errorf("machine %d: corrected: %.40s", i+1, what)
		}
	}
}

// TestSettings: a setting that cannot be is told at its field and nothing is changed; one
// that can changes the plans.
func TestSettings(t *testing.T) {
	e, _ := webtest.Application(t)
	form := url.Values{"/hours": {"mon 9-18"}, "/currency": {"GBP"}, "/labour": {"60"}, "/tax": {"20"}, "/paper": {"letter"},
		"/loosen": {"printed"}, "/practice/memory_limit": {"proven"}, "/practice/pairing": {"any"},
		"/practice/migration": {"clone"}, "/practice/allow_bay": {"yes"}, "/practice/allow_order": {"yes"},
		"/largest/SO-DIMM/DDR4": {"32"}, "/largest/SO-DIMM/DDR5": {"64"}}
	bad := url.Values{}
	for k, v := range form {
		bad[k] = v
	}
	bad.Set("/currency", "pounds")
	bad.Set("/tax", "200")
	bad.Set("/largest/SO-DIMM/DDR4", "-1")
	if w := webtest.Request(e, "POST", "/settings", bad, webtest.SameOrigin); w.Code != http.StatusUnprocessableEntity ||
		strings.Count(w.Body.String(), `class="fault"`) != 3 {
		t.Errorf("%d with %d faults", w.Code, strings.Count(w.Body.String(), `class="fault"`))
	}
	if w := webtest.Request(e, "POST", "/settings", form, webtest.SameOrigin); w.Code != http.StatusSeeOther {
		t.Fatalf("%d", w.Code)
	}
	body := webtest.Page(e, "/machines/tarn-vet-03")
	for _, want := range []string{"£", "limit 40 GB", "with tax", "at £60.00 an hour", "unscrew bottom cover 3.25"} {
		if !strings.Contains(body, want) {
			t.Errorf("the plan does not say %q", want)
		}
	}
	if !strings.Contains(webtest.Page(e, "/models/quillon-aster-14/sheet"), "recordsheet letter") {
		t.Error("the sheet is not on the shop's paper")
	}
}

// TestTags: a machine's address is a number, also where an old one is asked for; its tag is
// changed without it, and each word of a tag that cannot be is told at its field.
func TestTags(t *testing.T) {
	e, _ := webtest.Application(t)
	for _, path := range []string{"/machines/wath-07", "/machines/wath-07/history?x=1", "/machines/wath-07/readings"} {
		w := webtest.Directly(e, path)
		if want := strings.Replace(path, "wath-07", "2", 1); w.Code != http.StatusFound ||
			w.Header().Get("Location") != want {
			t.Errorf("%s leads to %d %s", path, w.Code, w.Header().Get("Location"))
		}
	}
	for _, path := range []string{"/machines", "/machines/2", "/machines/2/readings", "/jobs/2", "/customers/2",
		"/machines/new?q=wath"} {
		if tagged := regexp.MustCompile(`href="/machines/[^"]*wath[^"]*"`).FindString(webtest.Page(e, path)); tagged != "" {
			t.Errorf("%s has an address with a name: %s", path, tagged)
		}
	}
	for tag, says := range map[string]string{"tarn-vet-03": "another machine has it", "147": "a tag with a letter",
		"Wath 7": "lower-case letters", "": "lower-case letters"} {
		form := url.Values{"/tag": {tag}, "was": {"wath-07"}, "token": {"t" + tag}}
		if w := webtest.Request(e, "POST", "/machines/2/tag", form, webtest.SameOrigin); w.Code != http.StatusUnprocessableEntity ||
			!strings.Contains(w.Body.String(), says) {
			t.Errorf("the tag %q: %d, want %q", tag, w.Code, says)
		}
	}
	change := url.Values{"/tag": {"ticket-desk"}, "was": {"wath-07"}, "token": {"c"}}
	if w := webtest.Request(e, "POST", "/machines/2/tag", change, webtest.SameOrigin); w.Code != http.StatusSeeOther {
		t.Fatalf("%d %s", w.Code, w.Body)
	}
	if body := webtest.Page(e, "/machines/2/history"); !strings.Contains(body, "the tag is ticket-desk, it was wath-07") ||
		!strings.Contains(webtest.Page(e, "/machines?q=ticket"), "ticket-desk") {
		t.Error("the new tag is not known or not found")
	}
	if w := webtest.Directly(e, "/machines/wath-07"); w.Code != http.StatusNotFound {
		t.Errorf("the old tag still leads to %d", w.Code)
	}
	change.Set("token", "again")
	if w := webtest.Request(e, "POST", "/machines/2/tag", change, webtest.SameOrigin); w.Code != http.StatusConflict {
		t.Errorf("a second who saw the old tag: %d", w.Code)
	}
}

// TestWelcome: an empty shop asks what it is called and who works there before anything else; whoever
// is chosen at a screen is whom the history names.
func TestWelcome(t *testing.T) {
	e, err := web.New(
		kit.Config{
			Shop:     webtest.EmptyShop(t),
			Workshop: kit.NoName,
			Log:      slog.New(slog.DiscardHandler),
			Actor:    base.Actor{Name: "Technician"},
		},
	)
	if err != nil {
		t.Fatal(err)
	}
	if w := webtest.Request(e, "GET", "/", nil, nil); w.Code != http.StatusSeeOther || w.Header().Get("Location") != "/welcome" {
		t.Fatalf("an empty shop answers %d %s", w.Code, w.Header().Get("Location"))
	}
	form := webtest.FieldsOf(t, webtest.Page(e, "/welcome"), "/welcome")
	if code, body := webtest.SendForm(e, "/welcome", form); code != http.StatusUnprocessableEntity ||
		strings.Count(body, `class="fault"`) != 2 {
		t.Errorf("with neither name: %d, %d faults", code, strings.Count(body, `class="fault"`))
	}
	form.Set("/workshop", "Gaunt & Daughter")
	form.Set("/technicians", "A. Gaunt,  B.  Gaunt, A. Gaunt")
	form.Set("/address", "Slip Lane 3\r\nHarrow Fell")
	w := webtest.Request(e, "POST", "/welcome", form, webtest.SameOrigin)
	if w.Code != http.StatusSeeOther || !strings.Contains(w.Header().Get("Set-Cookie"), "A.+Gaunt") {
		t.Fatalf("%d %s", w.Code, w.Header().Get("Set-Cookie"))
	}
	if body := webtest.Page(e, "/"); !strings.Contains(body, "Gaunt &amp; Daughter") || strings.Count(body, "B. Gaunt") == 0 {
		t.Error("the bench does not name the shop and who else works there")
	}
	if w := webtest.Request(e, "POST", "/who", url.Values{"name": {"nobody"}, "back": {"/"}},
		webtest.SameOrigin); w.Code != http.StatusNotFound {
		t.Errorf("someone who does not work there: %d", w.Code)
	}
	as := func(r *http.Request) {
		webtest.SameOrigin(r)
		r.AddCookie(&http.Cookie{Name: kit.WhoCookie, Value: "B.+Gaunt"})
	}
	model := url.Values{"token": {"1"}, "/maker": {"Quillon"}, "/model": {"Aster 20"}, "/kind": {"notebook"}}
	if w := webtest.Request(e, "POST", "/models", model, as); w.Code != http.StatusSeeOther {
		t.Fatalf("%d %.300s", w.Code, w.Body)
	}
	if body := webtest.Page(e, "/models/quillon-aster-20"); !strings.Contains(body, "B. Gaunt: recorded") {
		t.Error("the history does not name who works at the screen")
	}

	later, _ := web.New(kit.Config{Shop: webtest.EmptyShop(t), Workshop: kit.NoName, Log: slog.New(slog.DiscardHandler)})
	if w := webtest.Request(later, "POST", "/welcome", url.Values{"do": {"later"}},
		webtest.SameOrigin); w.Code != http.StatusSeeOther {
		t.Errorf("later: %d", w.Code)
	}
	if w := webtest.Request(later, "GET", "/", nil, nil); w.Code != http.StatusOK {
		t.Errorf("it asks again: %d", w.Code)
	}
}
