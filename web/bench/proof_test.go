package bench_test

import (
	"encoding/json"
	"net/http/httptest"
	"net/url"
	"regexp"
	"strings"
	"testing"

	"yembo/core/proof"
	"yembo/web/webtest"
)

// TestProofPage: what is noted on a proof without any script; what cannot be comes back at its field
// with what was typed; the report is one file that needs nothing else, and a document.
func TestProofPage(t *testing.T) {
	e, _ := webtest.Application(t)
	n := 0
	send := func(more ...string) *httptest.ResponseRecorder {
		n++
		form := url.Values{"token": {strings.Repeat("t", n)}}
		for i := 0; i < len(more); i += 2 {
			form.Add(more[i], more[i+1])
		}
		return webtest.Request(e, "POST", "/jobs/6/proof", form, webtest.SameOrigin)
	}
	for _, c := range []struct {
		sent []string
		want int
		says string
	}{
		{[]string{"do", "moon"}, 400, ""},
		{[]string{"do", "measure", "/name", "Read", "/after", "4870 many"}, 422, `value="4870 many"`},
		{[]string{"do", "measure", "/name", "Read", "/after", "1 2 3", "/from", "moon"}, 422, "hand, meter, report"},
		{[]string{"do", "measure", "/name", "<b>Read</b>", "/unit", "MB/s", "/before", "2290 2310 2340", "/after",
			"4870 4910 4930", "/from", "report"}, 303, ""},
		{[]string{"do", "test", "/tool", "a tester", "/passes", "2", "/total_gb", "16", "/errors", "some"}, 422, "some"},
		{[]string{"do", "test", "/tool", "a tester", "/passes", "2", "/total_gb", "16", "/errors", "0"}, 303, ""},
		{[]string{"do", "look", "line", "dimm9 capacity_gb", "same", "yes"}, 422, "dimm9"},
		{[]string{"do", "simulate", "fault", "unseated"}, 303, ""},
		{[]string{"do", "sign"}, 422, "tell why it is signed although"},
		{[]string{"do", "hand", "/to", "J. Farrow"}, 422, "the proof is signed first"},
		{[]string{"do", "hand", "/to", "J. Farrow", "/ask", "some day"}, 422, "not understood"},
		{[]string{"do", "sign", "/why", "it waits", "/agreed", "J. Farrow"}, 303, ""},
		{[]string{"do", "note", "/text", "late"}, 422, "signed"},
		{[]string{"do", "hand", "/to", "J. <i>Farrow</i>", "/ask", "28 may"}, 303, ""},
	} {
		w := send(c.sent...)
		if w.Code != c.want || !strings.Contains(w.Body.String(), c.says) {
			t.Errorf("%v: %d, not %d %q", c.sent, w.Code, c.want, c.says)
			t.Log(regexp.MustCompile(`class="fault">[^<]*`).FindAllString(w.Body.String(), -1))
		}
	}
	report := webtest.Page(e, "/jobs/6/report")
	for _, want := range []string{"&lt;b&gt;Read&lt;/b&gt;", "J. &lt;i&gt;Farrow&lt;/i&gt;", "Still open", "it waits",
		"is not yet all in order"} {
		if !strings.Contains(report, want) {
			t.Errorf("the report does not say %q", want)
		}
	}
	file := webtest.Request(e, "GET", "/jobs/6/report/file", nil, nil)
	if out := regexp.MustCompile(`(?i)(?:src|href)=|url\(|@import|<script`).FindAllString(file.Body.String(), -1); len(out) > 0 {
		t.Errorf("the file asks for %v", out)
	}
	if !strings.Contains(file.Header().Get("Content-Disposition"), "attachment") {
		t.Errorf("the file is sent as %q", file.Header().Get("Content-Disposition"))
	}
	// Of a machine of which nothing was told, nothing is called as planned.
	at := webtest.Take(
		t,
		e,
		url.Values{"/chassis": {"pellam-drover-15"}, "/customer": {"A. Nobody"}, "/goals/memory_gb": {"16"}, "token": {"nobody"}},
	)
	bare := webtest.Request(
		e,
		"GET",
		regexp.MustCompile(`/jobs/\d+`).FindString(webtest.Page(e, at))+"/proof",
		nil,
		nil,
	).Body.String()
	if !strings.Contains(bare, "Nothing to compare yet") || strings.Contains(bare, "Everything that was planned") {
		t.Error("what is not known is as planned")
	}
	var r proof.Report
	if err := json.Unmarshal(webtest.Request(e, "GET", "/jobs/6/report/document", nil, nil).Body.Bytes(),
		&r); err != nil || r.Format != proof.FormatReport ||
		len(r.Open) == 0 || r.Handed == nil || r.Handed.To != "J. <i>Farrow</i>" {
		t.Errorf("%+v %v", r, err)
	}
}
