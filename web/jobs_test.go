package web

import (
	"bytes"
	"mime/multipart"
	"net/http"
	"net/http/httptest"
	"net/url"
	"os"
	"path/filepath"
	"regexp"
	"strconv"
	"strings"
	"testing"

	"github.com/labstack/echo/v5"
)

// sent posts a form with files, as a browser would.
func sent(t *testing.T, e *echo.Echo, path string, fields url.Values, files map[string][]byte,
	field string) *httptest.ResponseRecorder {
	t.Helper()
	var body bytes.Buffer
	w := multipart.NewWriter(&body)
	for name, list := range fields {
		for _, value := range list {
			if err := w.WriteField(name, value); err != nil {
				t.Fatal(err)
			}
		}
	}
	for name, data := range files {
		part, err := w.CreateFormFile(field, name)
		if err != nil {
			t.Fatal(err)
		}
		if _, err := part.Write(data); err != nil {
			t.Fatal(err)
		}
	}
	if err := w.Close(); err != nil {
		t.Fatal(err)
	}
	r := httptest.NewRequest("POST", "http://localhost"+path, &body)
	r.Header.Set("Content-Type", w.FormDataContentType())
	sameOrigin(r)
	out := httptest.NewRecorder()
	e.ServeHTTP(out, r)
	return asRead(out)
}

func report(t *testing.T, name string) []byte {
	t.Helper()
	raw, err := os.ReadFile(filepath.Join("../core/reading/testdata/in", name))
	if err != nil {
		t.Fatal(err)
	}
	return raw
}

// TestBenchPage: the jobs stand in their order with the next action, the danger first, and
// the benches have what runs and what is planned.
func TestBenchPage(t *testing.T) {
	e, _ := application(t)
	body := page(e, "/")
	last := 0
	for _, id := range []string{"i-brandreth-01", "corrie-01", "wath-05", "corrie-02", "p-lathom-01", "wath-11",
		"tarn-vet-04", "tarn-vet-03", "wath-08", "wath-07"} {
		at := strings.Index(body, `<strong class="mono">`+id+`</strong>`)
		if at < last {
			t.Errorf("%s stands at %d, the one before at %d", id, at, last)
		}
		last = at
	}
	for _, want := range []string{"Stop: move it to the fire box, then call", "6 min over the plan",
		"Open it: 16.4 min for dimm2", "bench 2, 11:25", "bench 1, 11:30", "parts, due Thu 21 May", "tomorrow 12:00",
		`aria-label="corrie-01, 11:08`} {
		if !strings.Contains(body, want) {
			t.Errorf("the bench list does not say %q", want)
		}
	}
}

// TestJobPage: a job waits, is talked about, is put on a bench and closed; what cannot be
// is told and changes nothing.
func TestJobPage(t *testing.T) {
	e, _ := application(t)
	n := 0
	post := func(path string, pairs ...string) *httptest.ResponseRecorder {
		n++
		form := url.Values{"token": {strconv.Itoa(n)}}
		for i := 0; i+1 < len(pairs); i += 2 {
			form.Add(pairs[i], pairs[i+1])
		}
		return request(e, "POST", path, form, sameOrigin)
	}
	for _, step := range []struct {
		path  string
		pairs []string
		code  int
		says  string
	}{
		{"/jobs/2/move", []string{"/to", "customer"}, 422, "what it waits for is missing"},
		{"/jobs/2/move", []string{"/to", "customer", "/for", "which colour the bag has"}, 303,
			"which colour the bag has"},
		{"/jobs/2/contacts", []string{"/how", "phone"}, 422, "what was said or agreed is missing"},
		{"/jobs/2/contacts", []string{"/how", "phone", "/who", "the mate", "/agreed", "blue", "/consents/data", "yes"}, 303,
			"<strong>Agreed:</strong> blue"},
		{"/jobs/2/move", []string{"/to", "start", "/bench", "7"}, 422, "bench 1 to 2"},
		{"/jobs/2/move", []string{"/to", "start", "/bench", "2"}, 422, "nobody has looked the machine over"},
		{"/jobs/2/move", []string{"/to", "start", "/bench", "2", "/why", "to see the model"}, 303,
			"<strong>Begun all the same:</strong> to see the model"},
		{"/jobs/2/talk", []string{"/talk", "shout"}, 422, "column 1: begin with how it was held"},
		{"/jobs/2/talk", []string{"/talk", "phone the mate: fine; consents: seal"}, 303, "the mate. fine"},
		{"/jobs/2/move", []string{"/to", "pause"}, 303, "Choose an option"},
		{"/jobs/2/signature", []string{"/signature", "scribble"}, 422, "no signature is drawn"},
		{"/jobs/2/signature", []string{"/signature", "M10 10 L30 30 M40 10 L60 60", "/signer", "J. Farrow"}, 303,
			`<path d="M10 10 L30 30 M40 10 L60 60"/>`},
		{"/jobs/2/move", []string{"/to", "close"}, 303, "Closed 14 May 26"},
		{"/jobs/2/move", []string{"/to", "start", "/bench", "1"}, 422, "the job is closed"},
		{"/jobs/2/move", []string{"/to", "reopen"}, 303, "opened again"},
		{"/jobs/9/move", []string{"/to", "start", "/bench", "1"}, 422,
			"nothing goes on before the machine is made safe"},
		{"/jobs/9/move", []string{"/to", "safe", "/for", "pack out, in the box", "/out", "yes"}, 303,
			"made safe: pack out, in the box; the pack is out"},
	} {
		w := post(step.path, step.pairs...)
		body := w.Body.String()
		if w.Code == http.StatusSeeOther {
			body = page(e, w.Header().Get("Location"))
		}
		if w.Code != step.code || !strings.Contains(body, step.says) {
			t.Errorf("%s %v: %d, want %d and %q", step.path, step.pairs, w.Code, step.code, step.says)
		}
	}
	for code, want := range map[string]string{"YB-0003": "/jobs/3?code=YB-0003&found=label", "yb-3": "/jobs/3?code=yb-3&found=label", "YB-9999": "",
		"wath": "/machines?q=wath", "YB-0": "", "pd15-22071": "/jobs/2?code=pd15-22071&found=serial", "wath-07": "/jobs/2?code=wath-07&found=machine",
		"swap": "/jobs?q=swap"} {
		if w := request(e, "GET", "/find?code="+code, nil, nil); w.Header().Get("Location") != want {
			t.Errorf("%s leads to %s, want %s", code, w.Header().Get("Location"), want)
		}
	}
	if w := sent(t, e, "/jobs/2/photos", url.Values{"token": {"p"}}, map[string][]byte{"x.jpg": []byte("<svg/>")},
		"photo"); w.Code != http.StatusUnprocessableEntity || !strings.Contains(w.Body.String(), "x.jpg: ") {
		t.Errorf("a file that only claims to be a picture: %d", w.Code)
	}
}

// TestReadingPages: several reports are read as one, contradictions are told, what is
// ticked is taken over and nothing else.
func TestReadingPages(t *testing.T) {
	e, _ := application(t)
	at := "/machines/tarn-vet-03/readings"
	w := sent(t, e, at, url.Values{"token": {"r"}, "pasted": {`{"MaxCapacityEx":134217728,"MemoryDevices":2}`}},
		map[string][]byte{`C:\temp\dmi.txt`: report(t, "dmidecode.txt"), "up.txt": report(t, "upower.txt"),
			"drive.json": report(t, "smartctl-nvme.json")}, "report")
	if w.Code != http.StatusSeeOther {
		t.Fatalf("%d %s", w.Code, w.Body)
	}
	body := page(e, w.Header().Get("Location"))
	for _, want := range []string{"The reports contradict each other", "/memory/max_gb", "16 GB DDR4-3200, 2 ranks",
		"104 % worn", "a reading never overrides", "39.2 Wh when full, 412 cycles"} {
		if !strings.Contains(body, want) {
			t.Errorf("the reading does not say %q", want)
		}
	}
	if a := strings.Count(body, `name="take"`); a < 2 {
		t.Errorf("%d lines can be taken over", a)
	}
	number := strings.TrimPrefix(w.Header().Get("Location"), at+"/")
	if w := request(e, "POST", at+"/"+number, url.Values{"token": {"a"}, "take": {"memory"}},
		sameOrigin); w.Code != http.StatusSeeOther {
		t.Fatalf("%d", w.Code)
	}
	plan := page(e, "/machines/tarn-vet-03")
	if !strings.Contains(plan, "8 onboard + 16 dimm1 = 24 GB") &&
		!strings.Contains(plan, "8 onboard &#43; 16 dimm1 = 24 GB") {
		t.Error("what was taken over is not planned with")
	}
	if !strings.Contains(page(e, at), "taken over: In dimm1 16 GB") ||
		!strings.Contains(page(e, "/machines/tarn-vet-03/history"), "reading 1 taken over") {
		t.Error("what was taken over is not told")
	}
	if h := page(e, "/machines/tarn-vet-03/history"); !strings.Contains(h, "What was in it before") ||
		!strings.Contains(h, "dimm1: 8 GB DDR4; m2a: 512 GB NVMe") {
		t.Error("the history does not say what was in it before")
	}
	for name, c := range map[string]struct {
		fields url.Values
		files  map[string][]byte
		code   int
		says   string
	}{
		"nothing": {url.Values{}, nil, 422, "there is no report"},
		"no report": {url.Values{"pasted": {"dear sirs"}}, nil, 422,
			"pasted: it is no report that is known here"},
		"cut off": {url.Values{}, map[string][]byte{"x.json": report(t, "smartctl-nvme.json")[:300]}, 422,
			"x.json: line"},
		"a fault there not": {url.Values{"do": {"simulate"}, "fault": {"haunted"}}, nil, 400, "Not accepted"},
	} {
		c.fields.Set("token", name)
		if w := sent(t, e, at, c.fields, c.files, "report"); w.Code != c.code || !strings.Contains(w.Body.String(),
			c.says) {
			t.Errorf("%s: %d, want %d and %q", name, w.Code, c.code, c.says)
		}
	}
	w = sent(t, e, at, url.Values{"pasted": {"dear sirs"}, "token": {"two"}},
		map[string][]byte{"up.txt": report(t, "upower.txt")}, "report")
	if body := page(e, w.Header().Get("Location")); !strings.Contains(body, "left out: pasted: it is no report") ||
		!strings.Contains(body, "upower") {
		t.Errorf("one report of two that can be read: %d", w.Code)
	}
	for _, path := range []string{at + "/99", at + "/x", "/machines/wath-07/readings/" + number} {
		if w := request(e, "GET", path, nil, nil); w.Code != http.StatusNotFound {
			t.Errorf("%s: %d", path, w.Code)
		}
	}
}

// TestListPages: a list is looked at, its columns are found by their names, its sound rows
// are taken, and the others can be saved.
func TestListPages(t *testing.T) {
	e, _ := application(t)
	w := sent(t, e, "/machines/import",
		url.Values{"pasted": {"Owner;Serial number;Model code\nNew Firm;S-1;PD15\nNew Firm;S-2;PX99\n"}}, nil, "list")
	body := w.Body.String()
	if w.Code != http.StatusOK || !strings.Contains(body, "1 row can be taken, 1 is kept aside") ||
		!strings.Contains(body, `no record of the model &#34;PX99&#34;`) {
		t.Fatalf("%d %s", w.Code, body)
	}
	upload := regexp.MustCompile(`name="upload" value="([0-9]+)"`).FindStringSubmatch(body)[1]
	form := url.Values{"upload": {upload}, "column:customer": {"0"}, "column:serial": {"1"}, "column:model": {"2"},
		"token": {"l"}, "do": {"take"}}
	if body := doneAside(e, "/machines/import/take", form).Body.String(); !strings.Contains(body,
		"1 machine was taken") {
		t.Error("nothing was taken")
	}
	form.Set("do", "aside")
	if w := request(e, "POST", "/machines/import/take", form, sameOrigin); !strings.Contains(w.Body.String(), "PX99") ||
		!strings.Contains(w.Header().Get("Content-Disposition"), "kept-aside.csv") {
		t.Errorf("kept aside: %s", w.Body)
	}
	if !strings.Contains(page(e, "/machines?q=S-1"), "new-firm-01") ||
		!strings.Contains(request(e, "GET", "/machines/export", nil, nil).Body.String(), "new-firm-01,New Firm") {
		t.Error("the machine is not there")
	}
	if w := request(e, "GET", "/machines/new-firm-01/export", nil, nil); !strings.Contains(w.Body.String(),
		`"format": "yembo.machine/1"`) {
		t.Errorf("as a document: %s", w.Body)
	}
	// Nothing was told of it: its plan says so, and never that there is none of anything.
	body = page(e, "/machines/new-firm-01")
	for _, says := range []string{"Nothing is wished yet", "not told", "has no job"} {
		if !strings.Contains(body, says) {
			t.Errorf("a machine from a list: its plan does not say %q", says)
		}
	}
	asked := page(e, "/machines/new-firm-01?wish=1&memory_gb=16&storage_gb=1000&wireless=wifi6")
	for _, never := range []string{">empty<", "Choose this", ">0 GB"} {
		if strings.Contains(body, never) || strings.Contains(asked, never) {
			t.Errorf("a machine from a list: its plan says %q", never)
		}
	}
}

// TestCustomerPages: a name that is another's is refused at its field, merging and
// forgetting ask before they do what cannot be undone.
func TestCustomerPages(t *testing.T) {
	e, _ := application(t)
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
		w := request(e, "POST", "/customers/1", step.form, sameOrigin)
		body := strings.ReplaceAll(w.Body.String(), "&#39;", "'")
		if w.Code == http.StatusSeeOther {
			body = page(e, w.Header().Get("Location"))
		}
		if w.Code != step.code || !strings.Contains(body, step.says) {
			t.Errorf("%v: %d, want %d and %q", step.form, w.Code, step.code, step.says)
		}
	}
	// The machines stay, and neither their tags nor their addresses say whose they were.
	if body := page(e, "/machines"); !strings.Contains(body, ">machine-1<") || strings.Contains(strings.ToLower(body),
		"tarn") {
		t.Error("the machine went with its customer, or the name stayed")
	}
}

// TestFind: a machine is taken in by its model's code, a sibling's code, its name, or by
// the serial of one that was here; where one alone fits, its form comes at once.
func TestFind(t *testing.T) {
	e, _ := application(t)
	for query, want := range map[string]string{
		"QA14-2": "/machines/new?model=quillon-aster-14", "qa14-2": "/machines/new?model=quillon-aster-14",
		"QA14-3": "/machines/new?model=quillon-aster-14", "drover": "! Was here before",
		"PD15-22071": "/machines/new?model=pellam-drover-15&machine=2",
		"wath-11":    "/machines/new?model=sundrel-fennel-15&machine=3", "quillon": "! Models found",
		"heron": "! Nothing has “heron”", "": "! Models on record",
	} {
		w := request(e, "GET", "/machines/new?q="+url.QueryEscape(query), nil, nil)
		if says, page := strings.CutPrefix(want, "! "); page {
			if w.Code != http.StatusOK || !strings.Contains(w.Body.String(), says) {
				t.Errorf("%q: %d, want %q", query, w.Code, says)
			}
		} else if w.Header().Get("Location") != want {
			t.Errorf("%q leads to %s, want %s", query, w.Header().Get("Location"), want)
		}
	}
	if body := page(e, "/machines/new?model=pellam-drover-15&machine=2"); !strings.Contains(body,
		`value="PD15-22071"`) || !strings.Contains(body, `value="Wath River Ferries"`) {
		t.Error("what is known of a machine is not in its form")
	}
}

// TestDangerousIntake: a damp machine stops the normal course wherever it is looked at,
// until somebody says what was done.
func TestDangerousIntake(t *testing.T) {
	e, _ := application(t)
	form := intakeForm("/condition/damp", "yes", "/customer", "N. Orrin")
	plan := take(t, e, form)
	body := page(e, plan)
	if !strings.Contains(body, "Stop the job.") || !strings.Contains(body, "The machine came damp") ||
		strings.Contains(body, "Choose this") {
		t.Error("a damp machine is planned")
	}
	if w := request(e, "POST", plan+"/choice", url.Values{"option": {"x"}, "token": {"y"}},
		sameOrigin); w.Code != http.StatusConflict || !strings.Contains(w.Body.String(), "made safe first") {
		t.Errorf("an option of a damp machine is chosen: %d", w.Code)
	}
	job := page(e, "/")
	if !strings.Contains(job, "Stop: no charger, no start; let it dry open, then call") {
		t.Error("the bench list does not stop a damp machine")
	}
	id := regexp.MustCompile(`/jobs/([0-9]+)"><strong class="mono">n-orrin-01`).FindStringSubmatch(job)
	if id == nil {
		t.Fatal("the job is not on the bench list")
	}
	if body := page(e, "/jobs/"+id[1]); !strings.Contains(body, "No charger, no start") ||
		!strings.Contains(body, "Local electrical, battery and waste rules") {
		t.Error("the job does not say what comes first")
	}
	if w := request(e, "POST", "/jobs/"+id[1]+"/move",
		url.Values{"/to": {"safe"}, "/for": {"dried for two days"}, "token": {"s"}},
		sameOrigin); w.Code != http.StatusSeeOther {
		t.Fatalf("%d", w.Code)
	}
	if !strings.Contains(page(e, plan), "Choose this") {
		t.Error("made safe, it is not planned")
	}
}
