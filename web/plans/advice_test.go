package plans_test

import (
	"html"
	"net/http"
	"net/url"
	"regexp"
	"strings"
	"testing"

	"yembo/web/webtest"
)

// TestAdviceOfData: a failing drive is said first of all on plan, job, bench list, card and before the work, and its
// replacement is put into the wish by one press, beside what is wished for already.
func TestAdviceOfData(t *testing.T) {
	e, _ := webtest.Application(t)
	at := webtest.Take(t, e, webtest.IntakeForm("/fitted/drives/0/is", "part", "/fitted/drives/0/interface", "nvme",
		"/fitted/drives/0/capacity_gb", "512", "/fitted/drives/0/failing", "true", "/fitted/drives/0/boot", "true"))
	const first = "The drive in m2a is failing: image it before anything else"
	body := webtest.Page(e, at)

	note, verdict := strings.Index(body, first), strings.Index(body, "Worth doing")
	if note < 0 || note > verdict {
		t.Error("the plan does not say it before its verdict")
	}
	link := regexp.MustCompile(`href="([^"]*)" data-at="replace"`).FindStringSubmatch(body)
	if link == nil {
		t.Fatal("no replacement is proposed")
	}
	asked := webtest.Page(e, at+html.UnescapeString(link[1]))
	if !strings.Contains(asked, "24 GB memory, 512 GB storage") || !strings.Contains(asked, "Save as the request") ||
		strings.Contains(asked, `data-at="replace"`) {
		t.Errorf("the wish is not what it was and the drive: %s", link[1])
	}
	job := regexp.MustCompile(`href="(/jobs/[0-9]+)"`).FindStringSubmatch(body)[1]
	_, rest, _ := strings.Cut(body, `name="option" value="`)
	option, _, _ := strings.Cut(rest, `"`)
	if w := webtest.Request(e, "POST", at+"/choice", url.Values{"option": {option}, "token": {"c"}},
		webtest.SameOrigin); w.Code != http.StatusSeeOther {
		t.Fatalf("choosing: %d", w.Code)
	}
	for _, page := range []string{job, "/", at + "/card", job + "/run"} {
		if !strings.Contains(webtest.Page(e, page), first) {
			t.Errorf("%s does not say it", page)
		}
	}
}

// TestWayAskedInPlace: a socket that is tied to no step is asked for on the plan; told, the way is the record's own.
func TestWayAskedInPlace(t *testing.T) {
	e, _ := webtest.Application(t)
	lines := url.Values{"token": {"m"}, "text": {"model Quillon \"Plover 13\"\nram 2x sodimm a b ddr4 2ch\npower-down\n" +
		"unclip base cover\nunplug battery iso\nbat:p 40Wh 11.4V 3s"}, "source": {"bench"}}
	if w := webtest.Request(e, "POST", "/models/lines", lines, webtest.SameOrigin); w.Code != http.StatusSeeOther {
		t.Fatalf("%d %.200s", w.Code, w.Body)
	}
	at := webtest.Take(t, e, url.Values{"/chassis": {"quillon-plover-13"}, "/customer": {"R. Sill"}, "/goals/memory_gb": {"16"},
		"/fitted/memory/0/is": {"part"}, "/fitted/memory/0/capacity_gb": {"8"}, "/fitted/memory/0/type": {"DDR4"},
		"/fitted/memory/1/is": {"empty"}})
	body := webtest.Page(e, at)
	if !strings.Contains(body, "Which step bares dimm2?") || !strings.Contains(body, `value="battery-plug" selected`) ||
		!strings.Contains(body, "which step gives access to dimm2 is not recorded") {
		t.Fatal("the plan does not ask for the way")
	}
	form := webtest.FieldsOf(t, body, "/models/quillon-plover-13/reach")
	form.Set("how", "bench")
	code, _ := webtest.SendForm(e, "/models/quillon-plover-13/reach", form)
	if after := webtest.Page(e, at); code != http.StatusSeeOther || strings.Contains(after, "Which step bares "+form.Get("place")) {
		t.Errorf("%d: it is asked again", code)
	}
	form.Set("step", "nowhere")
	form.Set("token", "again")
	if code, _ := webtest.SendForm(e, "/models/quillon-plover-13/reach", form); code == http.StatusSeeOther {
		t.Error("a step that is not there bares it")
	}
}

// TestBudgetWithTax: whether a budget has the tax in it is told once, in the settings; the plan compares what is left.
func TestBudgetWithTax(t *testing.T) {
	e, _ := webtest.Application(t)
	const page = "/machines/tarn-vet-03?wish=1&memory_gb=24&budget=60"
	if body := webtest.Page(e, page); !strings.Contains(body, "budget €60.00 without tax") || !strings.Contains(body, "€54.18") {
		t.Error("54.18 is within 60.00 without tax")
	}
	form := webtest.FieldsOf(t, webtest.Page(e, "/settings"), "/settings")
	form.Set("/pricing/budget_tax", "yes")
	if code, body := webtest.SendForm(e, "/settings", form); code != http.StatusSeeOther {
		t.Fatalf("%d %s", code, body)
	}
	body := webtest.Page(e, page)
	if !strings.Contains(body, "budget €60.00 with tax") || !strings.Contains(body, "above the budget, without tax") {
		t.Error("54.18 with 20 per cent of tax is above 60.00")
	}
}

// TestGuessedAccessPoint: where the customer's access point is not known and the shop's stands in for it, the plan names
// the guess among the facts worth fetching, until it is told.
func TestGuessedAccessPoint(t *testing.T) {
	e, _ := webtest.Application(t)
	form := webtest.FieldsOf(t, webtest.Page(e, "/settings"), "/settings")
	form.Set("/practice/access_point", "wifi5")
	form.Set("token", "s")
	if code, body := webtest.SendForm(e, "/settings", form); code != http.StatusSeeOther {
		t.Fatalf("%d %s", code, body)
	}
	const at, guess = "/machines/tarn-vet-03?wish=1&wireless=wifi6", "stands in for it: a guess"
	body := webtest.Page(e, at)
	if !strings.Contains(body, guess) || strings.Contains(body, "-1 more") {
		t.Error("the guess is not named, or counted among the others")
	}
	if strings.Contains(webtest.Page(e, at+"&ap=wifi6"), guess) {
		t.Error("a guess is named where the access point is known")
	}
}
