package money_test

import (
	"encoding/csv"
	"encoding/json"
	"fmt"
	"net/http"
	"net/http/httptest"
	"net/url"
	"regexp"
	"strings"
	"testing"

	"github.com/labstack/echo/v5"

	"yembo/web/webtest"
)

// posted is a form that is sent, and what has to come of it.
type posted struct {
	name, path string
	fields     []string // names and values in turn
	status     int
	says       string // on the page, or where it leads
}

// send sends forms in their order; each has a token of its own.
func send(t *testing.T, e *echo.Echo, cases []posted) {
	t.Helper()
	for _, c := range cases {
		form := url.Values{"token": {fmt.Sprint("send ", c.name)}}
		for k := 0; k+1 < len(c.fields); k += 2 {
			form.Add(c.fields[k], c.fields[k+1])
		}
		w := webtest.Request(e, "POST", c.path, form, webtest.SameOrigin)
		says := w.Body.String()
		if w.Code == http.StatusSeeOther {
			says = w.Header().Get("Location")
		}
		if w.Code != c.status || !strings.Contains(says, c.says) {
			t.Errorf("%s: %d, not %d with %q\n%.1500s", c.name, w.Code, c.status, c.says, says)
		}
		if c.status != http.StatusUnprocessableEntity {
			continue
		}
		for k := 1; k < len(c.fields); k += 2 { // what was typed is still there
			if typed := c.fields[k]; len(typed) > 6 && !strings.Contains(w.Body.String(), typed) {
				t.Errorf("%s: %q is gone from the page", c.name, typed)
			}
		}
	}
}

// given makes a quote of machine 8, accepts it, and returns what its first alternative comes to.
func given(t *testing.T, e *echo.Echo) string {
	t.Helper()
	webtest.Quoted(t, e)
	form := webtest.FieldsOf(t, webtest.Page(e, "/quotes/1"), "/quotes/1/answer")
	answer := []string{"do", "answer", "revision", form.Get("revision"), "/letter", "A", "/how", "phone", "/who", "M. Lorton"}
	short := append(append([]string{}, answer[:8]...), "/who", "")
	for _, x := range regexp.MustCompile(`name="(/consents/[^"]+)"`).FindAllStringSubmatch(webtest.Page(e, "/quotes/1"), -1) {
		answer = append(answer, x[1], "yes")
	}
	send(t, e, []posted{
		{"nobody said it", "/quotes/1/answer", short, 422, "who said it"},
		{"another version", "/quotes/1/answer", append(append([]string{}, answer...), "revision", "99"), 303, "/quotes/1"},
	})
	total := regexp.MustCompile(`<td[^>]*>Total</td><td class="[^"]*">([^<]+)</td>`).
		FindStringSubmatch(webtest.Page(e, "/jobs/8/bill"))
	if total == nil {
		t.Fatal("nothing is to be charged")
	}
	return strings.TrimPrefix(total[1], "€")
}

// TestMoneyPages: from an accepted quote to a cancelled invoice. What cannot be is told at its field with
// what was typed; what is owed is one figure on the bill, the invoice, the list and the table.
func TestMoneyPages(t *testing.T) {
	e, _ := webtest.Application(t)
	total := given(t, e)
	send(t, e, []posted{
		{"an extra without an amount", "/jobs/8/invoice", []string{"/extra/0/text", "a longer cable"}, 422, "how much"},
		{
			"an extra that nobody agreed to",
			"/jobs/8/invoice",
			[]string{"/extra/0/text", "a longer cable", "/extra/0/cents", "4.00"},
			422,
			"agreed",
		},
		{"an amount that is none", "/jobs/8/pay", []string{"/cents", "a little", "/how", "cash"}, 422, "a little"},
		{
			"more paid back than was paid",
			"/jobs/8/pay",
			[]string{"/cents", "1", "/how", "cash", "/back", "yes"},
			422,
			"at most the €0.00",
		},
		{"otherwise than can be", "/jobs/8/pay", []string{"/cents", "1", "/how", "shells"}, 422, "card"},
		{"a deposit", "/jobs/8/pay", []string{"/cents", "10", "/how", "card", "/note", "at the counter"}, 303, "/jobs/8/bill"},
		{"struck without a reason", "/jobs/8/pay/strike", []string{"payment", "1"}, 422, "why it does not count"},
		{"no such payment", "/jobs/8/pay/strike", []string{"payment", "99", "/strike/99", "x"}, 404, "Not found"},
		{"struck", "/jobs/8/pay/strike", []string{"payment", "1", "/strike/1", "it was another customer's"}, 303, "/jobs/8/bill"},
		{"struck twice", "/jobs/8/pay/strike", []string{"payment", "1", "/strike/1", "again"}, 422, "struck already"},
		{"a deposit that stays", "/jobs/8/pay", []string{"/cents", "20", "/how", "transfer"}, 303, "/jobs/8/bill"},
	})
	if body := webtest.Page(e, "/jobs/8/bill"); !strings.Contains(body, "another customer") || !strings.Contains(body, total) {
		t.Error("the bill does not say what was struck, or what is to be charged")
	}
	send(t, e, []posted{
		{
			"charged, with what was agreed beside",
			"/jobs/8/invoice",
			[]string{"/extra/0/text", "a longer cable", "/extra/0/cents", "4.00",
				"/extra/0/agreed", "M. Lorton", "/extra/1/text", "the old pack taken", "/extra/1/cents", "3.50", "/extra/1/agreed",
				"M. Lorton",
				"/extra/1/less", "yes"},
			303,
			"/invoices/1",
		},
		{"charged twice", "/jobs/8/invoice", nil, 422, ""},
		{"more than is owed", "/jobs/8/pay", []string{"/cents", "99999", "/how", "cash", "/invoice", "1"}, 422, "still to be paid"},
	})
	invoice := webtest.Page(e, "/invoices/1")
	owed := regexp.MustCompile(`€[0-9,.]+ to be paid`).FindString(webtest.Page(e, "/invoices"))
	if owed == "" || !strings.Contains(invoice, strings.TrimSuffix(owed, " to be paid")) ||
		!strings.Contains(webtest.Page(e, "/jobs/8/bill"), owed) {
		t.Errorf("the list has %q, and the invoice or the bill another sum", owed)
	}
	for _, want := range []string{"a longer cable", "the old pack taken", "-3.50", "20.00"} {
		if !strings.Contains(strings.ReplaceAll(invoice, "−", "-"), want) {
			t.Errorf("the invoice does not say %q", want)
		}
	}
	if strings.Contains(invoice, "at the counter") {
		t.Error("a payment that was struck is on the paper")
	}
	rest := strings.TrimSuffix(strings.TrimPrefix(owed, "€"), " to be paid")
	send(t, e, []posted{
		{"the rest", "/jobs/8/pay", []string{"/cents", rest, "/how", "card", "/invoice", "1"}, 303, "/jobs/8/bill"},
		{"cancelled for nothing", "/invoices/1/cancel", nil, 422, "why"},
		{"cancelled", "/invoices/1/cancel", []string{"/why", "the wrong customer"}, 303, "/invoices/2"},
		{"cancelled twice", "/invoices/1/cancel", []string{"/why", "again"}, 422, "cancelled"},
		{"none is there", "/invoices/77/cancel", []string{"/why", "x"}, 404, "Not found"},
	})
	if body := webtest.Page(e, "/invoices/1"); !strings.Contains(body, "to be paid back") || !strings.Contains(body, "I-0002") {
		t.Error("what was paid on a cancelled invoice is not to be paid back")
	}
	if strings.Contains(webtest.Page(e, "/invoices?where=open"), "I-0001") {
		t.Error("a cancelled invoice is among the open ones")
	}
	sumOfDocuments(t, e)
}

// sumOfDocuments holds that invoice and counter-invoice come to nothing, in their documents and in the
// table, where every amount is a number.
func sumOfDocuments(t *testing.T, e *echo.Echo) {
	t.Helper()
	sum := int64(0)
	for n := 1; n <= 2; n++ {
		var doc struct {
			Sum struct {
				Total int64 `json:"total_cents"`
			} `json:"sum"`
		}
		w := webtest.Request(e, "GET", fmt.Sprintf("/invoices/%d/document", n), nil, nil)
		if err := json.Unmarshal(w.Body.Bytes(), &doc); err != nil || doc.Sum.Total == 0 {
			t.Fatalf("document %d: %v, %d\n%.300s", n, err, doc.Sum.Total, w.Body.String())
		}
		sum += doc.Sum.Total
	}
	if sum != 0 {
		t.Errorf("the two come to %d", sum)
	}
	rows, err := csv.NewReader(strings.NewReader(webtest.Request(e, "GET", "/invoices/table.csv", nil, nil).Body.String())).ReadAll()
	if err != nil || len(rows) < 4 {
		t.Fatalf("%d rows, %v", len(rows), err)
	}
	number := regexp.MustCompile(`^-?[0-9]+\.[0-9]{2}$`)
	negative := 0
	for _, row := range rows[1:] {
		for i, cell := range row {
			if strings.HasPrefix(cell, "'") {
				t.Errorf("%s %q is a text", rows[0][i], cell)
			}
			if number.MatchString(cell) && strings.HasPrefix(cell, "-") {
				negative++
			}
		}
	}
	if negative == 0 {
		t.Error("no amount of the counter-invoice is a number below nothing")
	}
}

// TestPutBackPages: what was corrected is put back, what was removed is brought back, each once and by the
// page that says so; what stands against it is told and nothing is changed.
func TestPutBackPages(t *testing.T) {
	e, _ := webtest.Application(t)
	get := func(path string) *httptest.ResponseRecorder { return webtest.Request(e, "GET", path, nil, nil) }
	form := webtest.FieldsOf(t, webtest.Page(e, "/machines/8/correct"), "/machines/8/correct")
	was := form.Get("/serial")
	fields := func(more ...string) []string {
		out := append([]string{}, more...)
		for name, list := range form {
			if name != "token" && name != "csrf" && name != more[0] {
				for _, v := range list {
					out = append(out, name, v)
				}
			}
		}
		return out
	}
	send(t, e, []posted{
		{"nobody's machine", "/machines/8/correct", fields("/customer", ""), 422, "customer"},
		{
			"a serial that was typed wrongly",
			"/machines/8/correct",
			fields("/serial", "SERIAL-NEW-1"),
			303,
			"/machines/8/history?kept=yes",
		},
	})
	history := webtest.Page(e, "/machines/8/history")
	entry := regexp.MustCompile(`action="/machines/8/putback".*?name="entry" value="([0-9]+)"`).FindStringSubmatch(history)
	if entry == nil || !strings.Contains(webtest.Page(e, "/machines/8/correct"), "SERIAL-NEW-1") {
		t.Fatal("the correction is not there, or cannot be put back")
	}
	send(t, e, []posted{
		{"put back", "/machines/8/putback", []string{"entry", entry[1]}, 303, "/machines/8/history"},
		{"of another machine", "/machines/1/putback", []string{"entry", entry[1]}, 404, "Not found"},
		{"of no machine", "/machines/999/putback", []string{"entry", entry[1]}, 404, "Not found"},
		{"no entry", "/machines/8/putback", []string{"entry", "many"}, 404, "Not found"},
	})
	if got := webtest.FieldsOf(t, webtest.Page(e, "/machines/8/correct"), "/machines/8/correct").Get("/serial"); got != was {
		t.Errorf("the serial is %q, not %q", got, was)
	}
	if w := get("/remove/part/bx-n4-1000"); w.Code != http.StatusOK || !strings.Contains(w.Body.String(), "Remove") {
		t.Errorf("asked to remove: %d", w.Code)
	}
	send(t, e, []posted{
		{"a customer with machines", "/remove/customer/1", nil, 409, "belongs to them"},
		{"a model with machines", "/remove/model/quillon-aster-14", nil, 409, "first"},
		{"a kind that there is not", "/remove/shelf/3", nil, 404, "Not found"},
		{"nothing of that name", "/remove/model/nobody-1", nil, 404, "Not found"},
		{"never removed", "/removed/model/quillon-aster-14/back", nil, 404, ""},
	})
	for _, path := range []string{"/customers/1", "/models/quillon-aster-14"} {
		if w := get(path); w.Code != http.StatusOK {
			t.Errorf("a refused removal took %s away: %d", path, w.Code)
		}
	}
	send(t, e, []posted{
		{"a job that was a mistake", "/remove/job/3", nil, 303, "/removed?done=job+3"},
		{"removed twice", "/remove/job/3", []string{"again", "yes"}, 404, "Not found"},
	})
	if w := get("/jobs/3"); w.Code != http.StatusNotFound || !strings.Contains(webtest.Page(e, "/removed?done=job+3"), "YB-0003") {
		t.Errorf("removed, it answers with %d, or is not on the list", w.Code)
	}
	send(t, e, []posted{{"brought back", "/removed/job/3/back", nil, 303, "/jobs/3"}})
	if w := get("/jobs/3"); w.Code != http.StatusOK || strings.Contains(webtest.Page(e, "/removed"), "YB-0003") {
		t.Errorf("brought back, it answers with %d, or is still on the list", w.Code)
	}
}
