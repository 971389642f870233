package web

import (
	"net/http"
	"net/url"
	"strings"
	"testing"

	"yembo/core/hw"
	"yembo/web/form"
)

// TestFaultsFindTheirRow: rows left empty are passed over, and a fault on the
// document's first row stands at the row that was typed.
func TestFaultsFindTheirRow(t *testing.T) {
	f := form.New(url.Values{"/memory/sockets/0/form": {""}, "/memory/sockets/2/form": {"SO-DIMM"},
		"/memory/sockets/2/channel": {"Z"}})
	if rows := f.RowsOf("/memory/sockets", "form", "channel"); len(rows) != 1 || rows[0] != 2 {
		t.Fatalf("rows: %v", rows)
	}
	var faults hw.Faults
	faults.Add("/memory/sockets/0/channel", hw.FaultReference, `"Z"`, "channel")
	faults.Add("/year", hw.FaultRange, "1", "from 1980")
	if !f.Take(faults) || len(f.Errors("/memory/sockets/2/channel")) != 1 || len(f.Stray()) != 1 ||
		!strings.HasPrefix(f.Stray()[0], "year: ") {
		t.Errorf("faults: %v, stray %v", f.Faults, f.Stray())
	}
	if f.Take(http.ErrNoCookie) {
		t.Error("another error is taken for faults")
	}
}

// TestModelForm goes through the form the way a browser sends it: what cannot be is
// said at its field with all that was typed still there, and nothing is stored.
func TestModelForm(t *testing.T) {
	e, _ := application(t)
	good := func() url.Values {
		return url.Values{"token": {"t"}, "/maker": {"Sundrel"}, "/model": {"Cairn 13"}, "/kind": {"notebook"},
			"/memory/type": {"DDR4"}, "/memory/channels": {"2"},
			"/memory/sockets/1/form": {"SO-DIMM"}, "/memory/sockets/1/channel": {"b"},
			"/memory/soldered/0/capacity_gb": {"8"}, "/memory/soldered/0/channel": {"A"},
			"/memory/limits/maker_gb": {"24"}, "how:/memory/limits/maker_gb": {"maker_document"},
			"on:/memory/limits/maker_gb": {"2026-03-02"}, "note:/memory/limits/maker_gb": {"sheet, p. 4"}}
	}
	for field, c := range map[string]struct{ value, say string }{
		"/maker":                         {"", "the maker is missing"},
		"/memory/channels":               {"two", "a whole number is expected"},
		"/memory/type":                   {"DDR9", "is not known here"},
		"/memory/sockets/1/channel":      {"C", "the machine has 2, A to B"},
		"/memory/soldered/0/capacity_gb": {"-8", "-8 is out of range"},
		"/memory/limits/maker_gb":        {"4", "8 GB are soldered already"},
		"/memory/sockets/1/id":           {"onboard", "is used twice"},
		"/memory/no_sockets":             {"yes", "1 rows of sockets are filled in"},
		"/outline/width_mm":              {"310", "needs both width and depth"},
	} {
		form := good()
		form.Set(field, c.value)
		w := request(e, "POST", "/models", form, sameOrigin)
		body := strings.ReplaceAll(w.Body.String(), "&#34;", `"`)
		if w.Code != http.StatusUnprocessableEntity || !strings.Contains(body, c.say) {
			t.Errorf("%s = %q: %d, not said: %s", field, c.value, w.Code, c.say)
		}
		if !strings.Contains(body, `value="sheet, p. 4"`) {
			t.Errorf("%s = %q: what was typed is gone", field, c.value)
		}
	}
	if w := request(e, "GET", "/models/sundrel-cairn-13", nil, nil); w.Code != http.StatusNotFound {
		t.Error("something of it is stored")
	}
	for range 2 { // a double click
		if w := request(e, "POST", "/models", good(), sameOrigin); w.Code != http.StatusSeeOther ||
			w.Header().Get("Location") != "/models/sundrel-cairn-13" {
			t.Fatalf("%d %s", w.Code, w.Header().Get("Location"))
		}
	}
	body := request(e, "GET", "/models/sundrel-cairn-13", nil, nil).Body.String()
	for _, want := range []string{"24 GB", "maker&#39;s document", "2 Mar 26", "channel B", "not yet known", "8 GB",
		"7 facts, 0 disputed"} {
		if !strings.Contains(body, want) {
			t.Errorf("the record does not show %q", want)
		}
	}
	// Saving the form as it stands adds no finding and changes no source.
	edit := request(e, "GET", "/models/sundrel-cairn-13/edit", nil, nil).Body.String()
	form := formValues(edit)
	if form.Get("/memory/sockets/0/channel") != "B" || form.Get("how:/memory/limits/maker_gb") != "maker_document" {
		t.Errorf("the form does not start from the record: %v", form)
	}
	if w := request(e, "POST", "/models/sundrel-cairn-13", form, sameOrigin); w.Code != http.StatusSeeOther {
		t.Fatalf("saving it unchanged: %d", w.Code)
	}
	if after := request(e, "GET", "/models/sundrel-cairn-13", nil, nil).Body.String(); !strings.Contains(after,
		"7 facts, 0 disputed") {
		t.Error("saving it unchanged added findings")
	}
	// The version that was read is old after a change.
	changed := formValues(edit)
	changed.Set("/year", "2021")
	request(e, "POST", "/models/sundrel-cairn-13", withToken(changed, "changed"), sameOrigin)
	if w := request(e, "POST", "/models/sundrel-cairn-13", withToken(form, "other"),
		sameOrigin); w.Code != http.StatusConflict || !strings.Contains(w.Body.String(),
		"the record was changed while you had it open") {
		t.Errorf("the second to save: %d", w.Code)
	}
}

func withToken(form url.Values, token string) url.Values {
	form.Set("token", token)
	return form
}

// TestImportPage: a document is looked at, shown, and taken by the second form alone.
func TestImportPage(t *testing.T) {
	e, _ := application(t)
	w := request(e, "GET", "/models/quillon-block-2/export", nil, nil)
	doc := w.Body.String()
	if w.Code != 200 || !strings.Contains(w.Header().Get("Content-Disposition"), "quillon-block-2.chassis.json") {
		t.Fatalf("%d %v", w.Code, w.Header())
	}
	other := strings.Replace(doc, `"id": "quillon-block-2"`, `"id": "quillon-block-9"`, 1)
	w = request(e, "POST", "/models/import", url.Values{"text": {other}}, sameOrigin)
	if w.Code != 200 || !strings.Contains(w.Body.String(), "A new record with") {
		t.Fatalf("%d %s", w.Code, w.Body)
	}
	if w := request(e, "GET", "/models/quillon-block-9", nil, nil); w.Code != http.StatusNotFound {
		t.Error("looking at a document stored it")
	}
	take := url.Values{"text": {other}, "version": {"0"}, "token": {"t"}}
	if w := request(e, "POST", "/models/import/take", take, sameOrigin); w.Code != http.StatusSeeOther ||
		w.Header().Get("Location") != "/models/quillon-block-9" {
		t.Errorf("taking it: %d", w.Code)
	}
	w = request(e, "POST", "/models/import", url.Values{"text": {strings.Replace(doc, `"DDR5"`, `"DDR9"`, 1)}},
		sameOrigin)
	if w.Code != http.StatusUnprocessableEntity || !strings.Contains(w.Body.String(), "/memory/type") ||
		!strings.Contains(w.Body.String(), "quillon-block-2") {
		t.Errorf("a fault: %d", w.Code)
	}
}

// TestItemForms enters a slot, a step and a screw group, changes one, takes one out;
// what cannot be is said at its field, and saving a form unchanged adds nothing.
func TestItemForms(t *testing.T) {
	e, _ := application(t)
	const model = "/models/pellam-drover-15"
	send := func(path string, form url.Values) (int, string) {
		version := formValues(page(e, model+"/parts/slots/new")).Get("version")
		form.Set("version", version)
		form.Set("token", path+version+form.Encode())
		w := request(e, "POST", model+"/parts/"+path, form, sameOrigin)
		return w.Code, strings.ReplaceAll(w.Body.String(), "&#34;", `"`)
	}
	slot := func() url.Values {
		return url.Values{"/id": {"m2b"}, "/purpose": {"storage"}, "/key": {"M"}, "/pcie_gen": {"3"}, "/lanes": {"2"},
			"/protocols": {"nvme, sata"}, "/lengths/80": {"fitted"}, "/lengths/42": {"needs:bracket-pd15"},
			"/refuses": {"none"}, "/max_top_mm": {"1,5"}, "/reach": {"battery-plug"}, "how:": {"label"},
			"on:": {"2026-05-01"}, "note:": {"printed beside it"}}
	}
	for field, c := range map[string]struct{ value, say string }{
		"/protocols":  {"nvme, usbx", `"usbx" is not known here`},
		"/lengths/80": {"glued", "it can be fitted, movable, none or needs:ACCESSORY"},
		"/lanes":      {"many", "a whole number is expected"},
		"/pcie_gen":   {"9", "9 is out of range"},
		"/id":         {"m2a", "is used twice"},
		"/excludes":   {"nowhere", "no such slot, bay or battery:ID"},
		"/purpose":    {"", "purpose is missing"},
		"/at/x_mm":    {"10", "needs both left and top"},
	} {
		form := slot()
		form.Set(field, c.value)
		if code, body := send("slots/new", form); code != http.StatusUnprocessableEntity ||
			!strings.Contains(body, c.say) || !strings.Contains(body, `value="printed beside it"`) {
			t.Errorf("%s = %q: %d, not said: %s", field, c.value, code, c.say)
		}
	}
	if code, body := send("slots/new", slot()); code != http.StatusSeeOther {
		t.Fatalf("%d %s", code, body)
	}
	form := formValues(request(e, "GET", model+"/parts/slots/m2b", nil, nil).Body.String())
	if form.Get("/protocols") != "NVMe, SATA" || form.Get("/refuses") != "none" || form.Get("/max_top_mm") != "1.5" ||
		form.Has("/excludes") && form.Get("/excludes") != "" {
		t.Errorf("the form starts from %v", form)
	}
	before := strings.Count(request(e, "GET", model+"/findings", nil, nil).Body.String(), "<summary>Set aside")
	form.Del("do")
	if code, _ := send("slots/m2b", form); code != http.StatusSeeOther {
		t.Fatalf("saving it unchanged: %d", code)
	}
	if after := strings.Count(request(e, "GET", model+"/findings", nil, nil).Body.String(),
		"<summary>Set aside"); after != before {
		t.Errorf("saving it unchanged made %d findings out of %d", after, before)
	}
	// One changed fact gets one finding; with the box ticked each of them gets one.
	findings := func() int { return strings.Count(page(e, model+"/findings"), "<summary>Set aside") }
	for _, c := range []struct {
		cooling, how, confirm string
		more                  int
	}{{"pad", "reading", "", 1}, {"pad", "bench", "", 0}, {"none", "bench", "yes", 10}} {
		now := findings()
		form.Set("/cooling", c.cooling)
		form.Set("how:", c.how)
		form.Set("confirm", c.confirm)
		if code, _ := send("slots/m2b", form); code != http.StatusSeeOther || findings() != now+c.more {
			t.Errorf("%+v: %d, %d findings more", c, code, findings()-now)
		}
	}
	if code, body := send("steps/new",
		url.Values{"/id": {"fan-screws"}, "/verb": {"unscrew"}, "/needs": {"battery-plug"},
			"/fasteners": {"cover-screw 3"}, "/minutes": {"1.5"}}); code != http.StatusSeeOther {
		t.Errorf("a step: %d %s", code, body)
	}
	if code, body := send("steps/new", url.Values{"/id": {"x"}, "/verb": {"unscrew"}, "/needs": {"none"},
		"/fasteners": {"cover-screw many"}}); code != 422 || !strings.Contains(body, "such as cover-long 7") {
		t.Errorf("screws without a number: %d", code)
	}
	if code, body := send("steps/cover",
		url.Values{"/id": {"cover"}, "/verb": {"unclip"}, "/needs": {"fan-screws"}}); code != 422 ||
		!strings.Contains(body, "in a circle") {
		t.Errorf("a circle: %d", code)
	}
	// A place that holds something in a customer's machine cannot be taken out.
	if code, body := send("slots/m2a", url.Values{"do": {"remove"}}); code != 422 ||
		!strings.Contains(body, "machine wath-07") {
		t.Errorf("a place in use: %d", code)
	}
	if code, _ := send("slots/m2b", url.Values{"do": {"remove"}}); code != http.StatusSeeOther {
		t.Errorf("taking it out: %d", code)
	}
	page := request(e, "GET", model+"/findings", nil, nil).Body.String()
	if strings.Contains(request(e, "GET", model, nil, nil).Body.String(), "parts/slots/m2b") ||
		!strings.Contains(page, "taken out of the record") {
		t.Error("it is still in the record, or its findings are gone")
	}
}
