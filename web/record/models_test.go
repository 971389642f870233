package record_test

import (
	"html"
	"net/http"
	"net/url"
	"regexp"
	"strings"
	"testing"
	"yembo/shop/base"

	"yembo/core/hw"
	"yembo/web/form"
	"yembo/web/webtest"
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
	e, _ := webtest.Application(t)
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
		"/memory/channels":               {"two", "expected a whole number"},
		"/memory/type":                   {"DDR9", "is not an option"},
		"/memory/sockets/1/channel":      {"C", "the machine has 2, A to B"},
		"/memory/soldered/0/capacity_gb": {"-8", "-8 is out of range"},
		"/memory/limits/maker_gb":        {"4", "8 GB are soldered already"},
		"/memory/sockets/1/id":           {"onboard", "is already used"},
		"/memory/no_sockets":             {"yes", "1 rows of sockets are filled in"},
		"/outline/width_mm":              {"310", "needs both width and depth"},
	} {
		form := good()
		form.Set(field, c.value)
		w := webtest.Request(e, "POST", "/models", form, webtest.SameOrigin)
		body := strings.ReplaceAll(w.Body.String(), "&#34;", `"`)
		if w.Code != http.StatusUnprocessableEntity || !strings.Contains(body, c.say) {
			t.Errorf("%s = %q: %d, not said: %s", field, c.value, w.Code, c.say)
		}
		if !strings.Contains(body, `value="sheet, p. 4"`) {
			t.Errorf("%s = %q: what was typed is gone", field, c.value)
		}
	}
	if w := webtest.Request(e, "GET", "/models/sundrel-cairn-13", nil, nil); w.Code != http.StatusNotFound {
		t.Error("something of it is stored")
	}
	for range 2 { // a double click
		if w := webtest.Request(e, "POST", "/models", good(), webtest.SameOrigin); w.Code != http.StatusSeeOther ||
			w.Header().Get("Location") != "/models/sundrel-cairn-13" {
			t.Fatalf("%d %s", w.Code, w.Header().Get("Location"))
		}
	}
	body := webtest.Request(e, "GET", "/models/sundrel-cairn-13", nil, nil).Body.String()
	for _, want := range []string{"24 GB", "maker&#39;s document", "2 Mar 26", "channel B", "not yet known", "8 GB",
		"7 facts, 0 disputed"} {
		if !strings.Contains(body, want) {
			t.Errorf("the record does not show %q", want)
		}
	}
	// Saving the form as it stands adds no finding and changes no source.
	edit := webtest.Request(e, "GET", "/models/sundrel-cairn-13/edit", nil, nil).Body.String()
	form := webtest.FormValues(edit)
	if form.Get("/memory/sockets/0/channel") != "B" || form.Get("how:/memory/limits/maker_gb") != "maker_document" {
		t.Errorf("the form does not start from the record: %v", form)
	}
	if w := webtest.Request(e, "POST", "/models/sundrel-cairn-13", form, webtest.SameOrigin); w.Code != http.StatusSeeOther {
		t.Fatalf("saving it unchanged: %d", w.Code)
	}
	if after := webtest.Request(e, "GET", "/models/sundrel-cairn-13", nil, nil).Body.String(); !strings.Contains(after,
		"7 facts, 0 disputed") {
		t.Error("saving it unchanged added findings")
	}
	// The version that was read is old after a change.
	changed := webtest.FormValues(edit)
	changed.Set("/year", "2021")
	webtest.Request(e, "POST", "/models/sundrel-cairn-13", webtest.WithToken(changed, "changed"), webtest.SameOrigin)
	if w := webtest.Request(e, "POST", "/models/sundrel-cairn-13", webtest.WithToken(form, "other"),
		webtest.SameOrigin); w.Code != http.StatusConflict || !strings.Contains(w.Body.String(),
		"changed the record while you had it open") {
		t.Errorf("the second to save: %d", w.Code)
	}
}

// TestImportPage: a document is looked at, shown, and taken by the second form alone.
func TestImportPage(t *testing.T) {
	e, _ := webtest.Application(t)
	w := webtest.Request(e, "GET", "/models/quillon-block-2/export", nil, nil)
	doc := w.Body.String()
	if w.Code != 200 || !strings.Contains(w.Header().Get("Content-Disposition"), "quillon-block-2.chassis.json") {
		t.Fatalf("%d %v", w.Code, w.Header())
	}
	other := strings.Replace(doc, `"id": "quillon-block-2"`, `"id": "quillon-block-9"`, 1)
	w = webtest.Request(e, "POST", "/models/import", url.Values{"text": {other}}, webtest.SameOrigin)
	if w.Code != 200 || !strings.Contains(w.Body.String(), "A new record with") {
		t.Fatalf("%d %s", w.Code, w.Body)
	}
	if w := webtest.Request(e, "GET", "/models/quillon-block-9", nil, nil); w.Code != http.StatusNotFound {
		t.Error("looking at a document stored it")
	}
	take := url.Values{"text": {other}, "version": {"0"}, "token": {"t"}}
	if w := webtest.Request(e, "POST", "/models/import/take", take, webtest.SameOrigin); w.Code != http.StatusSeeOther ||
		w.Header().Get("Location") != "/models/quillon-block-9" {
		t.Errorf("taking it: %d", w.Code)
	}
	w = webtest.Request(e, "POST", "/models/import", url.Values{"text": {strings.Replace(doc, `"DDR5"`, `"DDR9"`, 1)}},
		webtest.SameOrigin)
	if w.Code != http.StatusUnprocessableEntity || !strings.Contains(w.Body.String(), "/memory/type") ||
		!strings.Contains(w.Body.String(), "quillon-block-2") {
		t.Errorf("a fault: %d", w.Code)
	}
}

// TestItemForms enters a slot, a step and a screw group, changes one, takes one out;
// what cannot be is said at its field, and saving a form unchanged adds nothing.
func TestItemForms(t *testing.T) {
	e, _ := webtest.Application(t)
	const model = "/models/pellam-drover-15"
	send := func(path string, form url.Values) (int, string) {
		version := webtest.FormValues(webtest.Page(e, model+"/parts/slots/new")).Get("version")
		form.Set("version", version)
		form.Set("token", path+version+form.Encode())
		w := webtest.Request(e, "POST", model+"/parts/"+path, form, webtest.SameOrigin)
		return w.Code, strings.ReplaceAll(w.Body.String(), "&#34;", `"`)
	}
	slot := func() url.Values {
		return url.Values{"/id": {"m2b"}, "/purpose": {"storage"}, "/key": {"M"}, "/pcie_gen": {"3"}, "/lanes": {"2"},
			"/protocols": {"nvme, sata"}, "/lengths/80": {"fitted"}, "/lengths/42": {"needs:bracket-pd15"},
			"/refuses": {"none"}, "/max_top_mm": {"1,5"}, "/reach": {"battery-plug"}, "how:": {"label"},
			"on:": {"2026-05-01"}, "note:": {"printed beside it"}}
	}
	for field, c := range map[string]struct{ value, say string }{
		"/protocols":  {"nvme, usbx", `"usbx" is not an option`},
		"/lengths/80": {"glued", "use fitted, movable, none or needs:ACCESSORY"},
		"/lanes":      {"many", "expected a whole number"},
		"/pcie_gen":   {"9", "9 is out of range"},
		"/id":         {"m2a", "is already used"},
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
	form := webtest.FormValues(webtest.Request(e, "GET", model+"/parts/slots/m2b", nil, nil).Body.String())
	if form.Get("/protocols") != "NVMe, SATA" || form.Get("/refuses") != "none" || form.Get("/max_top_mm") != "1.5" ||
		form.Has("/excludes") && form.Get("/excludes") != "" {
		t.Errorf("the form starts from %v", form)
	}
	before := strings.Count(webtest.Request(e, "GET", model+"/findings", nil, nil).Body.String(), "<summary>Set aside")
	form.Del("do")
	if code, _ := send("slots/m2b", form); code != http.StatusSeeOther {
		t.Fatalf("saving it unchanged: %d", code)
	}
	if after := strings.Count(webtest.Request(e, "GET", model+"/findings", nil, nil).Body.String(),
		"<summary>Set aside"); after != before {
		t.Errorf("saving it unchanged made %d findings out of %d", after, before)
	}
	// One changed fact gets one finding; with the box ticked each of them gets one.
	findings := func() int { return strings.Count(webtest.Page(e, model+"/findings"), "<summary>Set aside") }
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
	page := webtest.Request(e, "GET", model+"/findings", nil, nil).Body.String()
	if strings.Contains(webtest.Request(e, "GET", model, nil, nil).Body.String(), "parts/slots/m2b") ||
		!strings.Contains(page, "taken out of the record") {
		t.Error("it is still in the record, or its findings are gone")
	}
}

// TestLists: what is searched for is found, and an empty find says so.
func TestLists(t *testing.T) {
	e, _ := webtest.Application(t)
	for path, c := range map[string]struct{ say, not string }{
		"/machines?q=ferries":           {"wath-07", "tarn-vet-03"},
		"/machines?q=QA14-0093":         {"tarn-vet-03", "wath-07"},
		"/machines?q=zzz":               {"No machines match", "wath-07"},
		"/models?q=qa":                  {"Quillon Aster 14", "Drover"},
		"/models?q=PB-45":               {"Pellam Drover 15", "Aster"},
		"/models?length=30":             {"3 of 9", "Drover"},
		"/models?reaches=lots":          {"expected a number such as 8 or 14.6", ""},
		"/models?q=nothing+of+the+sort": {"No model is known to have that", "Drover"},
		"/parts":                        {"not available", "NaN"},
		"/machines?where=danger":        {"stopped: battery swollen", "wath-07"},
		"/machines?where=customer":      {"waits for the customer since", "stopped:"},
		"/machines?page=7":              {"No machines match", "wath-07"},
		"/models?sort=newest":           {`<rect class="small-`, ""},
		"/customers?where=open":         {"Wath River Ferries", "No customers match"},
		"/customers?where=none":         {"No customers match", "Wath River Ferries"},
		"/jobs":                         {"YB-0001", "No job"},
		"/jobs?where=closed":            {"No jobs match", "go on since"},
		"/jobs?q=ferries+browser":       {"YB-0002", "YB-0001"},
		"/jobs?q=%25":                   {"No jobs match", "YB-0001"},
	} {
		body := webtest.Page(e, path)
		if !strings.Contains(body, c.say) || (c.not != "" && strings.Contains(body, c.not)) {
			t.Errorf("%s does not say %q, or says %q", path, c.say, c.not)
		}
	}
}

// TestAssumedFactsAreOneLine: facts that are only assumed are one line that names them; pressed that all of
// them were seen, they are seen, and their points are gone from the plan.
func TestAssumedFactsAreOneLine(t *testing.T) {
	e, _, sh := webtest.Started(t)
	ctx := t.Context()
	m, err := sh.Machine(ctx, "tarn-vet-03")
	if err != nil {
		t.Fatal(err)
	}
	r, err := sh.Model(ctx, m.Chassis.ID)
	if err != nil {
		t.Fatal(err)
	}
	next := 0
	for _, g := range r.Chassis.Findings { // what was seen of the memory becomes a guess
		if g.SetAside != nil || !strings.HasPrefix(g.Path, "/memory/") || g.Source == hw.Assumed {
			continue
		}
		f := hw.Finding{Path: g.Path, Value: g.Value, Source: hw.Assumed}
		r, err = sh.Model(ctx, r.Chassis.ID)
		if err == nil {
			err = sh.AddFinding(ctx, base.Actor{Name: "T"}, "", r.Chassis.ID, r.Version, f)
		}
		if err != nil {
			t.Fatal(err)
		}
		r, _ = sh.Model(ctx, r.Chassis.ID)
		for k := range r.Chassis.Findings {
			if x := &r.Chassis.Findings[k]; x.Path == g.Path && x.SetAside == nil && x.Source != hw.Assumed {
				if err := sh.SetAside(ctx, base.Actor{Name: "T"}, "", r.Chassis.ID, r.Version, k, "only guessed"); err != nil {
					t.Fatal(err)
				}
				r, _ = sh.Model(ctx, r.Chassis.ID)
			}
		}
		next++
	}
	if next < 2 {
		t.Fatalf("only %d facts of the memory have a source", next)
	}
	body := webtest.Page(e, "/machines/"+m.Key)
	lines := strings.Count(body, "known from a seller or assumed")
	if lines == 0 || strings.Contains(body, "a fact known from a seller or assumed") ||
		!strings.Contains(body, "facts are known from a seller or assumed: ") {
		t.Fatalf("the facts are not named in one line: %d times", lines)
	}
	form := webtest.FieldsOf(t, body, "/models/"+m.Chassis.ID+"/findings/seen")
	if w := webtest.Request(e, "POST", "/models/"+m.Chassis.ID+"/findings/seen", form,
		webtest.SameOrigin); w.Code != http.StatusSeeOther ||
		!strings.HasPrefix(w.Header().Get("Location"), "/machines/"+m.Key) {
		t.Fatalf("%d %s", w.Code, w.Header().Get("Location"))
	}
	if after := strings.Count(webtest.Page(e, "/machines/"+m.Key), "known from a seller or assumed"); after >= lines {
		t.Errorf("looked at, and %d lines of %d are left", after, lines)
	}
}

// TestUnknownLeadsToItsField: each part that is ruled out for want of a fact leads to the field of that fact,
// and the field is there.
func TestUnknownLeadsToItsField(t *testing.T) {
	e, _, sh := webtest.Started(t)
	link := regexp.MustCompile(`<a href="([^"#]+)#([^"]+)">Enter it</a>`)
	rows, err := sh.BenchList(t.Context())
	if err != nil {
		t.Fatal(err)
	}
	seen := map[string]bool{}
	for i := range rows {
		w := webtest.Request(e, "GET", "/machines/"+rows[i].Record.Key+"?wish=1&memory_gb=64&storage_gb=4000&wireless=wifi7", nil, nil)
		for _, m := range link.FindAllStringSubmatch(w.Body.String(), -1) {
			if seen[m[0]] {
				continue
			}
			seen[m[0]] = true
			there := webtest.Page(e, html.UnescapeString(m[1]))
			if !strings.Contains(there, `id="`+m[2]+`"`) && !strings.Contains(there, `name="`+m[2]) {
				t.Errorf("%s: %s has no field %s", rows[i].Record.Machine.ID, m[1], m[2])
			}
		}
	}
	if len(seen) < 3 {
		t.Errorf("only %d links to fields: too few to show anything", len(seen))
	}
}

// TestRecordForms sends what people get wrong to the forms of a model record: each is
// answered at its place, keeps what was typed, and stores nothing.
func TestRecordForms(t *testing.T) {
	e, _, sh := webtest.Started(t)
	const at = "/models/quillon-aster-14"
	version := func() int {
		r, err := sh.Model(t.Context(), "quillon-aster-14")
		if err != nil {
			t.Fatal(err)
		}
		return r.Version
	}
	finding := func(change ...string) url.Values {
		return webtest.With(url.Values{"version": {"1"}, "path": {"/slots/m2a/lanes"}, "value": {"2"}, "source": {"reading"},
			"on": {"2026-05-02"}}, change...)
	}
	place := func(change ...string) url.Values {
		return webtest.With(url.Values{"version": {"1"}, "/slots/m2a/at/x_mm": {"15"}, "/slots/m2a/at/y_mm": {"12"},
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
		w := webtest.Request(e, "POST", c.path, c.form, webtest.SameOrigin)
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
		w := webtest.Request(e, "POST", c.path, c.form, webtest.SameOrigin)
		if w.Code != http.StatusSeeOther || version() != i+2 || !strings.Contains(webtest.Page(e, at+"/findings"), c.says) {
			t.Errorf("%s %v: %d, version %d", c.path, c.form, w.Code, version())
		}
	}
}
