package counter_test

import (
	"net/http"
	"net/http/httptest"
	"net/url"
	"regexp"
	"strconv"
	"strings"
	"testing"

	"yembo/web/webtest"
)

// TestBenchPage: the jobs stand in their order with the next action, the danger first, and
// the benches have what runs and what is planned.
func TestBenchPage(t *testing.T) {
	e, _ := webtest.Application(t)
	body := webtest.Page(e, "/")
	last := 0
	for _, id := range []string{"i-brandreth-01", "corrie-01", "wath-05", "corrie-02", "p-lathom-01", "wath-11",
		"tarn-vet-04", "tarn-vet-03", "wath-08", "wath-07"} {
		at := strings.Index(body, `<strong class="mono">`+id+`</strong>`)
		if at < last {
			t.Errorf("%s stands at %d, the one before at %d", id, at, last)
		}
		last = at
	}
	for _, want := range []string{"Stop: move it to the fire box, then call the customer", "6 min over the plan",
		"Open it: 16.4 min for dimm2", "bench 2, 11:20", "bench 1, 11:50", "parts, due Thu 21 May", "tomorrow 12:00",
		`aria-label="corrie-01, 11:08`} {
		if !strings.Contains(body, want) {
			t.Errorf("the bench list does not say %q", want)
		}
	}
}

// TestJobPage: a job waits, is talked about, is put on a bench and closed; what cannot be
// is told and changes nothing.
func TestJobPage(t *testing.T) {
	e, _ := webtest.Application(t)
	n := 0
	post := func(path string, pairs ...string) *httptest.ResponseRecorder {
		n++
		form := url.Values{"token": {strconv.Itoa(n)}}
		for i := 0; i+1 < len(pairs); i += 2 {
			form.Add(pairs[i], pairs[i+1])
		}
		return webtest.Request(e, "POST", path, form, webtest.SameOrigin)
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
		{"/jobs/2/move", []string{"/to", "start", "/bench", "2"}, 422, "machine not inspected"},
		{"/jobs/2/move", []string{"/to", "start", "/bench", "2", "/why", "to see the model"}, 303,
			"<strong>Started anyway:</strong> to see the model"},
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
			body = webtest.Page(e, w.Header().Get("Location"))
		}
		if w.Code != step.code || !strings.Contains(body, step.says) {
			t.Errorf("%s %v: %d, want %d and %q", step.path, step.pairs, w.Code, step.code, step.says)
		}
	}
	for code, want := range map[string]string{"YB-0003": "/jobs/3?code=YB-0003&found=label",
		"yb-3": "/jobs/3?code=yb-3&found=label", "YB-9999": "",
		"wath": "/machines?q=wath", "YB-0": "", "pd15-22071": "/jobs/2?code=pd15-22071&found=serial",
		"wath-07": "/jobs/2?code=wath-07&found=machine",
		"swap":    "/jobs?q=swap"} {
		if w := webtest.Request(e, "GET", "/find?code="+code, nil, nil); w.Header().Get("Location") != want {
			t.Errorf("%s leads to %s, want %s", code, w.Header().Get("Location"), want)
		}
	}
	if w := webtest.Sent(t, e, "/jobs/2/photos", url.Values{"token": {"p"}}, map[string][]byte{"x.jpg": []byte("<svg/>")},
		"photo"); w.Code != http.StatusUnprocessableEntity || !strings.Contains(w.Body.String(), "x.jpg: ") {
		t.Errorf("a file that only claims to be a picture: %d", w.Code)
	}
}

// TestReadingPages: several reports are read as one, contradictions are told, what is
// ticked is taken over and nothing else.
func TestReadingPages(t *testing.T) {
	e, _ := webtest.Application(t)
	at := "/machines/tarn-vet-03/readings"
	w := webtest.Sent(t, e, at, url.Values{"token": {"r"}, "pasted": {`{"MaxCapacityEx":134217728,"MemoryDevices":2}`}},
		map[string][]byte{`C:\temp\dmi.txt`: webtest.Report(t, "dmidecode.txt"), "up.txt": webtest.Report(t, "upower.txt"),
			"drive.json": webtest.Report(t, "smartctl-nvme.json")}, "report")
	if w.Code != http.StatusSeeOther {
		t.Fatalf("%d %s", w.Code, w.Body)
	}
	body := webtest.Page(e, w.Header().Get("Location"))
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
	if w := webtest.Request(e, "POST", at+"/"+number, url.Values{"token": {"a"}, "take": {"memory"}},
		webtest.SameOrigin); w.Code != http.StatusSeeOther {
		t.Fatalf("%d", w.Code)
	}
	plan := webtest.Page(e, "/machines/tarn-vet-03")
	if !strings.Contains(plan, "8 onboard + 16 dimm1 = 24 GB") &&
		!strings.Contains(plan, "8 onboard &#43; 16 dimm1 = 24 GB") {
		t.Error("what was taken over is not planned with")
	}
	if !strings.Contains(webtest.Page(e, at), "taken over: In dimm1 16 GB") ||
		!strings.Contains(webtest.Page(e, "/machines/tarn-vet-03/history"), "reading 1 taken over") {
		t.Error("what was taken over is not known")
	}
	if h := webtest.Page(e, "/machines/tarn-vet-03/history"); !strings.Contains(h, "What was in it before") ||
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
			"pasted: not a supported report"},
		"cut off": {url.Values{}, map[string][]byte{"x.json": webtest.Report(t, "smartctl-nvme.json")[:300]}, 422,
			"x.json: line"},
		"a fault there not": {url.Values{"do": {"simulate"}, "fault": {"haunted"}}, nil, 400, "Not accepted"},
	} {
		c.fields.Set("token", name)
		if w := webtest.Sent(t, e, at, c.fields, c.files, "report"); w.Code != c.code || !strings.Contains(w.Body.String(),
			c.says) {
			t.Errorf("%s: %d, want %d and %q", name, w.Code, c.code, c.says)
		}
	}
	w = webtest.Sent(t, e, at, url.Values{"pasted": {"dear sirs"}, "token": {"two"}},
		map[string][]byte{"up.txt": webtest.Report(t, "upower.txt")}, "report")
	if body := webtest.Page(e, w.Header().Get("Location")); !strings.Contains(body, "left out: pasted: not a supported report") ||
		!strings.Contains(body, "upower") {
		t.Errorf("one report of two that can be read: %d", w.Code)
	}
	for _, path := range []string{at + "/99", at + "/x", "/machines/wath-07/readings/" + number} {
		if w := webtest.Request(e, "GET", path, nil, nil); w.Code != http.StatusNotFound {
			t.Errorf("%s: %d", path, w.Code)
		}
	}
}

// TestListPages: a list is looked at, its columns are found by their names, its sound rows
// are taken, and the others can be saved.
func TestListPages(t *testing.T) {
	e, _ := webtest.Application(t)
	w := webtest.Sent(t, e, "/machines/import",
		url.Values{"pasted": {"Owner;Serial number;Model code\nNew Firm;S-1;PD15\nNew Firm;S-2;PX99\n"}}, nil, "list")
	body := w.Body.String()
	if w.Code != http.StatusOK || !strings.Contains(body, "1 row can be taken, 1 is skipped") ||
		!strings.Contains(body, `no record of the model &#34;PX99&#34;`) {
		t.Fatalf("%d %s", w.Code, body)
	}
	upload := regexp.MustCompile(`name="upload" value="([0-9]+)"`).FindStringSubmatch(body)[1]
	form := url.Values{"upload": {upload}, "column:customer": {"0"}, "column:serial": {"1"}, "column:model": {"2"},
		"token": {"l"}, "do": {"take"}}
	if body := webtest.DoneAside(e, "/machines/import/take", form).Body.String(); !strings.Contains(body,
		"1 machine was taken") {
		t.Error("nothing was taken")
	}
	form.Set("do", "aside")
	if w := webtest.Request(e, "POST", "/machines/import/take", form, webtest.SameOrigin); !strings.Contains(
		w.Body.String(),
		"PX99",
	) ||
		!strings.Contains(w.Header().Get("Content-Disposition"), "kept-aside.csv") {
		t.Errorf("kept aside: %s", w.Body)
	}
	if !strings.Contains(webtest.Page(e, "/machines?q=S-1"), "new-firm-01") ||
		!strings.Contains(webtest.Request(e, "GET", "/machines/export", nil, nil).Body.String(), "new-firm-01,New Firm") {
		t.Error("the machine is not there")
	}
	if w := webtest.Request(e, "GET", "/machines/new-firm-01/export", nil, nil); !strings.Contains(w.Body.String(),
		`"format": "yembo.machine/1"`) {
		t.Errorf("as a document: %s", w.Body)
	}
	// Nothing was told of it: its plan says so, and never that there is none of anything.
	body = webtest.Page(e, "/machines/new-firm-01")
	for _, says := range []string{"Nothing requested yet", "not known", "No open job for this machine"} {
		if !strings.Contains(body, says) {
			t.Errorf("a machine from a list: its plan does not say %q", says)
		}
	}
	asked := webtest.Page(e, "/machines/new-firm-01?wish=1&memory_gb=16&storage_gb=1000&wireless=wifi6")
	for _, never := range []string{">empty<", "Choose A<span", ">0 GB"} {
		if strings.Contains(body, never) || strings.Contains(asked, never) {
			t.Errorf("a machine from a list: its plan says %q", never)
		}
	}
}

// TestDangerousIntake: a damp machine stops the normal course wherever it is looked at,
// until somebody says what was done.
func TestDangerousIntake(t *testing.T) {
	e, _ := webtest.Application(t)
	form := webtest.IntakeForm("/condition/damp", "yes", "/customer", "N. Orrin")
	plan := webtest.Take(t, e, form)
	body := webtest.Page(e, plan)
	if !strings.Contains(body, "Stop the job.") || !strings.Contains(body, "The machine came damp") ||
		strings.Contains(body, "Choose A<span") {
		t.Error("a damp machine is planned")
	}
	if w := webtest.Request(e, "POST", plan+"/choice", url.Values{"option": {"x"}, "token": {"y"}},
		webtest.SameOrigin); w.Code != http.StatusConflict || !strings.Contains(w.Body.String(), "machine safe first") {
		t.Errorf("an option of a damp machine is chosen: %d", w.Code)
	}
	job := webtest.Page(e, "/")
	if !strings.Contains(job, "Stop: no charger, no start; let it dry open, then call") {
		t.Error("the bench list does not stop a damp machine")
	}
	id := regexp.MustCompile(`/jobs/([0-9]+)"><strong class="mono">n-orrin-01`).FindStringSubmatch(job)
	if id == nil {
		t.Fatal("the job is not on the bench list")
	}
	if body := webtest.Page(e, "/jobs/"+id[1]); !strings.Contains(body, "No charger, no start") ||
		!strings.Contains(body, "Local electrical, battery and waste rules") {
		t.Error("the job does not say what comes first")
	}
	if w := webtest.Request(e, "POST", "/jobs/"+id[1]+"/move",
		url.Values{"/to": {"safe"}, "/for": {"dried for two days"}, "token": {"s"}},
		webtest.SameOrigin); w.Code != http.StatusSeeOther {
		t.Fatalf("%d", w.Code)
	}
	if !strings.Contains(webtest.Page(e, plan), "Choose A<span") {
		t.Error("made safe, it is not planned")
	}
}

// TestDraw: a mean that was read off a meter is kept under its profile, and runtimes follow;
// a mean that cannot be, or a measurement of another machine, is not.
func TestDraw(t *testing.T) {
	e, _, sh := webtest.Started(t)
	const at = "/machines/tarn-vet-03/draw"
	for name, form := range map[string]url.Values{
		"nothing measured":           {"/profile": {"office"}},
		"of no measurement":          {"/profile": {"office"}, "trace": {"of-nobody"}},
		"no profile":                 {"/mean": {"8"}, "/seconds": {"90"}, "/profile": {""}},
		"in words":                   {"/mean": {"eight"}, "/seconds": {"90"}, "/profile": {"office"}},
		"below zero":                 {"/mean": {"-8"}, "/seconds": {"90"}, "/profile": {"office"}},
		"a profile of a whole novel": {"/mean": {"8"}, "/seconds": {"90"}, "/profile": {strings.Repeat("x", 5000)}},
	} {
		if w := webtest.Request(e, "POST", at, form, webtest.SameOrigin); w.Code != http.StatusUnprocessableEntity {
			t.Errorf("%s: %d", name, w.Code)
		}
	}
	if w := webtest.Request(e, "POST", at,
		url.Values{"/mean": {"10,0"}, "/seconds": {"90"}, "/profile": {"film, full brightness"}},
		webtest.SameOrigin); w.Code != http.StatusSeeOther {
		t.Fatalf("10 W: %d", w.Code)
	}
	if body := webtest.Page(e, at); !strings.Contains(body, "10 W (film, full brightness)") ||
		!strings.Contains(body, "0.95 × 39.2 Wh when full ÷ 10 W = 3.7 h") {
		t.Error("the draw does not stand on its page with what follows")
	}
	m, err := sh.Machine(t.Context(), "tarn-vet-03")
	if err != nil || m.Machine.Usage.DrawW.Or(0).String() != "10" || m.Machine.Usage.RuntimeH.IsKnown() {
		t.Errorf("kept %+v %v: a runtime measured another way is not comparable any more", m.Machine.Usage, err)
	}
}
